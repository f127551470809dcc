"""Drive: shaft power from outside the plant, such as from a motor."""

from __future__ import annotations

from wattaxis.unitops.base import Port
from wattaxis.unitops.energy.connections import SHAFT_OUT, BoundarySpec, Supply, power_field
from wattaxis.unitops.registry import unit_operation


@unit_operation
class Drive(Supply):
    """A given power, or as much as the machine at the other end needs."""

    type = "drive"
    title = "Drive"
    letter = "MD"
    also = ("motor",)
    theory = "The boundary of the plant for shaft power: what it supplies counts as entering."
    Spec = BoundarySpec
    ports = (Port(SHAFT_OUT, "Shaft", "out", place=(1.0, 0.5), kind="shaft"),)
    fields = (power_field(SHAFT_OUT),)
