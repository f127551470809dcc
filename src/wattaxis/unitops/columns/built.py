"""The column of a unit as its givens say, of the components that are fed."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

import numpy as np

from wattaxis.columns import ColumnFeed, SideDraw, StagedColumn, Want
from wattaxis.columns.layout import NONE, TOTAL
from wattaxis.columns.wants import DUTY, FLOW, FRACTION, MASS, RECOVERY, TEMPERATURE
from wattaxis.properties.state import Vector
from wattaxis.unitops.base import Finding, Givens, StreamState, UnitFault
from wattaxis.unitops.columns.names import (
    CONDENSERS,
    INLET,
    KETTLE,
    MASS_FRACTION,
    PARTED_FEED,
    PRODUCTS,
    REBOILER_HEAT,
    SHARE,
    SINGLE,
    TOTAL_CONDENSER,
    cell_si,
    draw_name,
    possible,
    rows_of,
    whole_number,
)
from wattaxis.unitops.columns.parts import part_of
from wattaxis.unitops.table import GivenRow

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel

#: Share by which a feed's pressure may lie below that of its stage.
_SLACK = 1e-6


class Built:
    """The column of a unit, of the components that are fed."""

    def __init__(self, givens: Givens, feeds: Sequence[StreamState], model: PropertyModel) -> None:
        self.givens, self.feeds, self.whole = givens, feeds, model
        self.condenser, self.reboiler = CONDENSERS[givens.option("condenser") or TOTAL_CONDENSER], givens.option("reboiler") == KETTLE
        self.stages = whole_number(givens.si("stages") or 0.0, "stages", 200)
        fed = np.sum([stream.flows for stream in feeds], axis=0)
        self.ids = [c.id for c, flow in zip(model.components, fed, strict=True) if flow > 0.0]
        self.model = part_of(model.fluid, tuple(self.ids))
        self._places = np.array([model.index(name) for name in self.ids])
        top, drop = givens.si("top_pressure") or 0.0, givens.si("pressure_drop") or 0.0
        if drop < 0.0:
            raise UnitFault(
                "The pressure would be higher at the top than at the bottom, and no vapour rises.", "Give a drop of 0 or more.", "pressure_drop"
            )
        self.P = np.linspace(top, top + drop, self.stages) if self.stages > 1 else np.array([top])
        self.placed: list[tuple[str, int]] = []
        self.findings: list[Finding] = []
        self._place_feeds()

    def _place_feeds(self) -> None:
        tags = self.givens.tags.get(INLET, ())
        given: dict[str, int] = {}
        self.parted: set[str] = set()
        for row in self.rows("feeds"):
            tag = str(row.cells["stream"])
            if tag not in tags:
                came = ", ".join(tags) or "none"
                raise UnitFault(
                    f'No stream "{tag}" is fed to the column; there is {came}.', "Choose one of them, or remove the row.", f"feeds[{row.id}].stream"
                )
            if tag in given:
                raise UnitFault(f"{tag} has two stages.", "Remove one of the rows; parts of a stream come by a splitter.", f"feeds[{row.id}].stage")
            given[tag] = self.on_stage(cell_si(row.cells["stage"], "count"), f"{tag} comes in", f"feeds[{row.id}].stage")
            if row.cells.get("enters") == PARTED_FEED:
                self.parted.add(tag)
        for tag, stream in zip(tags, self.feeds, strict=True):
            at = given.get(tag, (self.stages + 1) // 2)
            if tag not in given and stream.flow > 0.0:
                text = f"{tag} has no stage and was taken to come in half-way, on stage {at}."
                self.findings.append(Finding("caution", "", text, "Give the stage on which it comes in.", "feeds"))
            self.placed.append((tag, at))
            if stream.flow > 0.0 and stream.state.pressure < self.P[at - 1] * (1.0 - _SLACK):
                text = (
                    f"{tag} has {stream.state.pressure / 1e5:.4g} bar, and stage {at} {self.P[at - 1] / 1e5:.4g} bar: it does not flow in by itself."
                )
                self.findings.append(Finding("caution", "", text, "Pump it, or lower the pressure of the column.", "top_pressure"))

    def on_stage(self, value: float, what: str, field: str) -> int:
        """A stage of the column. Raises UnitFault for another."""
        if not 1 <= value <= self.stages or value != round(value):
            raise UnitFault(f"{what} on stage {value:g}, and the column has stages 1 to {self.stages}.", "Give one of them.", field)
        return int(value)

    def column(self) -> StagedColumn:
        """As it is built. Raises ColumnError."""
        feeds = [feed for (tag, at), stream in zip(self.placed, self.feeds, strict=True) for feed in self._entering(tag, at, stream)]
        draws = [SideDraw(draw_name(row), self._stage_of(row, "draws"), str(row.cells["phase"])) for row in self.rows("draws")]
        efficiency = self.givens.si("efficiency")
        if efficiency is None or not 0.0 < efficiency <= 1.5:
            raise UnitFault("A stage efficiency lies above 0 and is 100 % as a rule.", "Give such a one.", "efficiency")
        return StagedColumn(
            self.model,
            feeds,
            stages=self.stages,
            pressure=self.P,
            condenser=self.condenser,
            reboiler=self.reboiler,
            draws=draws,
            efficiencies=efficiency,
            duties=self.heated(),
            subcooling=(self.givens.si("subcooling") or 0.0) if self.condenser == TOTAL else 0.0,
        )

    def _entering(self, tag: str, at: int, stream: StreamState) -> list[ColumnFeed]:
        """A feed on its stage, or its vapour on the one above."""
        if stream.flow <= 0.0:
            return []
        share = stream.state.vapour_share
        if tag not in self.parted or at == 1 or not 0.0 < share < 1.0:
            return [ColumnFeed(at, stream.flows[self._places], stream.enthalpy_flow)]
        risen = StreamState(share * stream.flow, stream.state.part("vapour"))
        fallen = StreamState((1.0 - share) * stream.flow, stream.state.part("liquid"))
        return [ColumnFeed(k, part.flows[self._places], part.enthalpy_flow) for k, part in ((at - 1, risen), (at, fallen))]

    def heated(self) -> dict[int, float]:
        """W added by stage. Raises UnitFault where condenser or reboiler settle it."""
        found: dict[int, float] = {}
        for row in self.rows("heats"):
            at = self._stage_of(row, "heats")
            if (at == 1 and self.condenser != NONE) or (at == self.stages and self.reboiler):
                text = f"The heat of stage {at} is that of the {'condenser' if at == 1 else 'reboiler'}, which follows or is specified."
                raise UnitFault(text, "Remove the row.", f"heats[{row.id}].stage")
            found[at] = found.get(at, 0.0) + cell_si(row.cells["power"], "power")
        return found

    def rows(self, key: str) -> Sequence[GivenRow]:
        """The rows of a table."""
        return rows_of(self.givens.raw(key))

    def _stage_of(self, row: GivenRow, key: str) -> int:
        return self.on_stage(cell_si(row.cells["stage"], "count"), f"Row {row.id} is", f"{key}[{row.id}].stage")

    def wants(self) -> list[Want]:
        """What is specified."""
        able = (key for key in SINGLE if possible(key, self.condenser, self.reboiler))
        found = [SINGLE[key](value) for key in able if (value := self.givens.si(key)) is not None]
        if REBOILER_HEAT in self.givens.energy:
            found.append(Want(DUTY, self.givens.power(REBOILER_HEAT) or 0.0, place="reboiler"))
        for row in self.rows("purities"):
            counts, port, name = (str(row.cells[key]) for key in ("counts", "product", "component"))
            value, field = cell_si(row.cells["value"], "fraction"), f"purities[{row.id}]"
            if name not in self.ids:
                raise UnitFault(f"A specification speaks of {name}, and none of it is fed.", "Choose a component that is fed.", f"{field}.component")
            kind = RECOVERY if counts == SHARE else FRACTION
            found.append(Want(kind, value, PRODUCTS[port], (name,), MASS if counts == MASS_FRACTION else "mole"))
        for row in self.rows("temperatures"):
            found.append(Want(TEMPERATURE, cell_si(row.cells["temperature"], "temperature"), stage=self._stage_of(row, "temperatures")))
        found += [Want(FLOW, cell_si(row.cells["flow"], "mole_flow"), draw_name(row)) for row in self.rows("draws")]
        return found

    def spread(self, flows: Vector) -> Vector:
        """Flows in the order of all components."""
        found = np.zeros(len(self.whole.components))
        found[self._places] = flows
        return found
