"""What a column on the sheet hands on for feeds that differ a little from those it was solved for, by its derivatives."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np

from wattaxis.columns import ColumnError, ColumnState, StagedColumn, Want
from wattaxis.properties import FlashError
from wattaxis.properties.state import Vector
from wattaxis.unitops.base import Carried, Givens, StreamState, UnitFault
from wattaxis.unitops.columns.built import Built
from wattaxis.unitops.columns.names import INLET
from wattaxis.unitops.columns.told import heats, ports_of

if TYPE_CHECKING:
    from wattaxis.columns.derivatives import ColumnDerivatives


@dataclass(frozen=True)
class NearbyColumn:
    """A column that was solved, with all of which it was."""

    build: Built
    givens: Givens
    staged: StagedColumn
    wants: Sequence[Want]
    state: ColumnState

    @cached_property
    def _slopes(self) -> ColumnDerivatives:
        return self.staged.derivatives(self.wants, self.state)

    def leaving(self, inlets: Mapping[str, Sequence[StreamState]]) -> dict[str, Carried]:
        """In first order, by port. Raises UnitFault where that tells nothing."""
        try:
            return self._moved(self._change(inlets[INLET]))
        except (ColumnError, FlashError) as error:
            raise UnitFault(str(error)) from error

    def _moved(self, change: Vector) -> dict[str, Carried]:
        slopes, state = self._slopes, self.state
        ports, found = ports_of(self.build), dict[str, Carried]()
        for name, product in state.products.items():
            flows = product.flows + slopes.flows[name] @ change
            total, heat = float(flows.sum()), product.enthalpy_flow + float(slopes.heats[name] @ change)
            found[ports[name]] = StreamState(total, self.build.whole.flash(self.build.spread(flows), P=product.P, H=heat / total, guess=product.T))
        moved = replace(state, T=state.T + slopes.T @ change, duties=state.duties + slopes.duties @ change)
        return {**found, **heats(self.build, self.givens, moved)[0]}

    def _change(self, feeds: Sequence[StreamState]) -> Vector:
        """By how much what comes in differs, and nothing in what is wanted."""
        found = []
        for before, now in zip(self.build.feeds, feeds, strict=True):
            other = now.flows - before.flows
            own = self.build.own(other)
            if self.build.parted or before.flow <= 0.0 or float(np.abs(other).sum()) > float(np.abs(own).sum()):
                raise UnitFault("What comes in is not of the kind that the column was solved for.")
            found += [*own, now.enthalpy_flow - before.enthalpy_flow]
        return np.array([*found, *np.zeros(len(self.wants))])
