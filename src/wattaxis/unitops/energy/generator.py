"""Generator: shaft power that leaves the plant."""

from __future__ import annotations

from wattaxis.unitops.base import Port, UnitSpec
from wattaxis.unitops.energy.connections import SHAFT_IN, Sink
from wattaxis.unitops.registry import unit_operation


@unit_operation
class Generator(Sink):
    """Takes what comes."""

    type = "generator"
    title = "Generator"
    letter = "G"
    also = ("alternator",)
    theory = "The boundary of the plant for shaft power: what it takes counts as leaving."
    Spec = UnitSpec
    ports = (Port(SHAFT_IN, "Shaft", "in", place=(0.0, 0.5), kind="shaft"),)
    fields = ()
