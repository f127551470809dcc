"""Heat sink: heat that leaves the plant, such as to a utility."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

from wattaxis.unitops.base import Givens, Port, StreamState, UnitOperation, UnitResult
from wattaxis.unitops.energy import HEAT_IN, LEVEL, HeatSinkSpec, solve_sink
from wattaxis.unitops.registry import unit_operation

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel


@unit_operation
class HeatSink(UnitOperation):
    """Takes what comes."""

    type = "heat-sink"
    title = "Heat sink"
    symbol = "energy-out"
    letter = "QZ"
    family = "energy"
    theory = "The boundary of the plant for heat: what it takes counts as leaving."
    Spec = HeatSinkSpec
    ports = (Port(HEAT_IN, "Heat", "in", place=(0.0, 0.5), kind="heat"),)
    fields = (LEVEL,)

    def solve(self, givens: Givens, inlets: Mapping[str, Sequence[StreamState]], model: PropertyModel, outlets: frozenset[str]) -> UnitResult:
        """What comes."""
        return solve_sink(givens, HEAT_IN)
