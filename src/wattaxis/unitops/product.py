"""Product: a stream that leaves the sheet."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

from wattaxis.unitops.base import Givens, Port, StreamState, UnitOperation, UnitResult, UnitSpec
from wattaxis.unitops.registry import unit_operation

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel


@unit_operation
class Product(UnitOperation):
    """Boundary where material leaves."""

    type = "product"
    title = "Product"
    symbol = "boundary-out"
    letter = "Z"
    family = "boundary"
    theory = "A product changes nothing: it marks where a stream leaves the balance of the plant."
    Spec = UnitSpec
    ports = (Port("inlet", "Inlet", "in", place=(0.0, 0.5)),)

    def solve(self, givens: Givens, inlets: Mapping[str, Sequence[StreamState]], model: PropertyModel, outlets: frozenset[str]) -> UnitResult:
        """Nothing leaves a product on the sheet."""
        return UnitResult({})
