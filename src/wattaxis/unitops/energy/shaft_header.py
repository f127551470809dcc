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
    theory = "What comes in is shared out by given powers or by need, the first branch taking the remainder; nothing is lost in bearings or gears."
    ports = header_ports("shaft")
