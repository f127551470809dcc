"""Shaft coupling: power of several shafts together, shared out."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

from wattaxis.unitops.base import Givens, StreamState, UnitOperation, UnitResult, UnitSpec
from wattaxis.unitops.energy import HEADER_FIELDS, HeaderSpec, header_follows, header_ports, solve_header
from wattaxis.unitops.registry import unit_operation

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel


@unit_operation
class ShaftHeader(UnitOperation):
    """The first branch takes the remainder; the others take what is given, or what the unit at their end needs."""

    type = "shaft-header"
    title = "Shaft coupling"
    symbol = "header"
    letter = "SH"
    family = "energy"
    theory = "What comes in is shared out by given powers or by need, the first branch taking the remainder; nothing is lost in bearings or gears."
    Spec = HeaderSpec
    ports = header_ports("shaft")
    fields = HEADER_FIELDS

    def follows(self, spec: UnitSpec) -> frozenset[str]:
        """Branches without a given power."""
        return header_follows(spec)

    def settles(self, port: str) -> bool:
        """What its branches need."""
        return True

    def solve(self, givens: Givens, inlets: Mapping[str, Sequence[StreamState]], model: PropertyModel, outlets: frozenset[str]) -> UnitResult:
        """Share out."""
        return solve_header(givens, "shaft", outlets)
