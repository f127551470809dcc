"""Shaft coupling: power of several shafts together, shared out."""

from __future__ import annotations

from wattaxis.unitops.energy.connections import Header, header_ports
from wattaxis.unitops.registry import unit_operation


@unit_operation
class ShaftHeader(Header):
    """The first branch takes the remainder; the others take what is given, or what the unit at their end needs."""

    type = "shaft-header"
    title = "Shaft coupling"
    letter = "SH"
    theory = (
        "The power supplied is distributed by given powers or by demand, the first branch taking the remainder; "
        "losses in bearings and gears are neglected."
    )
    ports = header_ports("shaft")
