"""Drive: shaft power from outside the plant, such as from a motor."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

from wattaxis.unitops.base import Givens, Port, StreamState, UnitOperation, UnitResult, UnitSpec
from wattaxis.unitops.energy import POWER, SHAFT_OUT, BoundarySpec, solve_supply
from wattaxis.unitops.registry import unit_operation

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel


@unit_operation
class Drive(UnitOperation):
    """A given power, or as much as the machine at the other end needs."""

    type = "drive"
    title = "Drive"
    symbol = "energy-in"
    letter = "MD"
    family = "energy"
    theory = "The boundary of the plant for shaft power: what it supplies counts as entering."
    Spec = BoundarySpec
    ports = (Port(SHAFT_OUT, "Shaft", "out", place=(1.0, 0.5), kind="shaft"),)
    fields = (POWER,)

    def follows(self, spec: UnitSpec) -> frozenset[str]:
        """Without a given power."""
        return frozenset() if getattr(spec, "power", None) is not None else frozenset({SHAFT_OUT})

    def solve(self, givens: Givens, inlets: Mapping[str, Sequence[StreamState]], model: PropertyModel, outlets: frozenset[str]) -> UnitResult:
        """The given, or what is needed."""
        return solve_supply(givens, "shaft", SHAFT_OUT)
