"""Heat sink: heat that leaves the plant, such as to a utility."""

from __future__ import annotations

from wattaxis.unitops.base import Port
from wattaxis.unitops.energy.connections import HEAT_IN, LEVEL, HeatSinkSpec, Sink
from wattaxis.unitops.registry import unit_operation


@unit_operation
class HeatSink(Sink):
    """Takes what comes."""

    type = "heat-sink"
    title = "Heat sink"
    letter = "QZ"
    also = ("sink",)
    theory = "The boundary of the plant for heat: what it takes counts as leaving."
    Spec = HeatSinkSpec
    ports = (Port(HEAT_IN, "Heat", "in", place=(0.0, 0.5), kind="heat"),)
    fields = (LEVEL,)
