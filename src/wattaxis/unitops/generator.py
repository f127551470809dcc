"""Generator: shaft power that leaves the plant."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

from wattaxis.unitops.base import Givens, Port, StreamState, UnitOperation, UnitResult, UnitSpec
from wattaxis.unitops.energy import SHAFT_IN, solve_sink
from wattaxis.unitops.registry import unit_operation

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel


@unit_operation
class Generator(UnitOperation):
    """Takes what comes."""

    type = "generator"
    title = "Generator"
    symbol = "energy-out"
    letter = "G"
    family = "energy"
    theory = "The boundary of the plant for shaft power: what it takes counts as leaving."
    Spec = UnitSpec
    ports = (Port(SHAFT_IN, "Shaft", "in", place=(0.0, 0.5), kind="shaft"),)
    fields = ()

    def solve(self, givens: Givens, inlets: Mapping[str, Sequence[StreamState]], model: PropertyModel, outlets: frozenset[str]) -> UnitResult:
        """What comes."""
        return solve_sink(givens, SHAFT_IN)
