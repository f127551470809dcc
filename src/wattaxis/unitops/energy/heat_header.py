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
        "What comes in is shared out by given powers or by need, the first branch taking the remainder; it is as warm as the coldest that comes in."
    )
    ports = header_ports("heat")
