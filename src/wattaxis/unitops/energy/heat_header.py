"""Heat header: heat of several streams together, shared out."""

from __future__ import annotations

from wattaxis.unitops.energy.connections import Header, header_ports
from wattaxis.unitops.registry import unit_operation


@unit_operation
class HeatHeader(Header):
    """The first branch takes the remainder; the others take what is given, or what the unit at their end needs."""

    type = "heat-header"
    title = "Heat header"
    letter = "QH"
    theory = (
        "The power supplied is distributed by given powers or by demand, the first branch taking the remainder; "
        "its temperature is that of the coldest supply."
    )
    ports = header_ports("heat")
