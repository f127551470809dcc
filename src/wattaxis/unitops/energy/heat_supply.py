"""Heat supply: heat from outside the plant, such as from a utility."""

from __future__ import annotations

from wattaxis.unitops.base import Port
from wattaxis.unitops.energy.connections import HEAT_OUT, LEVEL, HeatBoundarySpec, Supply, power_field
from wattaxis.unitops.registry import unit_operation


@unit_operation
class HeatSupply(Supply):
    """A given heat, or as much as the unit at the other end needs."""

    type = "heat-supply"
    title = "Heat supply"
    letter = "QS"
    also = ("source",)
    theory = "The boundary of the plant for heat: what it supplies counts as entering."
    Spec = HeatBoundarySpec
    ports = (Port(HEAT_OUT, "Heat", "out", place=(1.0, 0.5), kind="heat"),)
    fields = (power_field(HEAT_OUT), LEVEL)
