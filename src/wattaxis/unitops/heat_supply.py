"""Heat supply: heat from outside the plant, such as from a utility."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

from wattaxis.unitops.base import Givens, Port, StreamState, UnitOperation, UnitResult, UnitSpec
from wattaxis.unitops.energy import HEAT_OUT, LEVEL, POWER, HeatBoundarySpec, solve_supply
from wattaxis.unitops.registry import unit_operation

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel


@unit_operation
class HeatSupply(UnitOperation):
    """A given heat, or as much as the unit at the other end needs."""

    type = "heat-supply"
    title = "Heat supply"
    symbol = "energy-in"
    letter = "QS"
    family = "energy"
    theory = "The boundary of the plant for heat: what it supplies counts as entering."
    Spec = HeatBoundarySpec
    ports = (Port(HEAT_OUT, "Heat", "out", place=(1.0, 0.5), kind="heat"),)
    fields = (POWER, LEVEL)

    def follows(self, spec: UnitSpec) -> frozenset[str]:
        """Without a given power."""
        return frozenset() if getattr(spec, "power", None) is not None else frozenset({HEAT_OUT})

    def solve(self, givens: Givens, inlets: Mapping[str, Sequence[StreamState]], model: PropertyModel, outlets: frozenset[str]) -> UnitResult:
        """The given, or what is needed."""
        return solve_supply(givens, "heat", HEAT_OUT)
