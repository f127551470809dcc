"""Product: a stream that leaves the sheet."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

from wattaxis.quantities import Quantity
from wattaxis.unitops.base import Field, Finding, Givens, Port, StreamState, UnitOperation, UnitResult, UnitSpec
from wattaxis.unitops.pressures import PressureSide
from wattaxis.unitops.registry import unit_operation

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel


class ProductSpec(UnitSpec):
    """A pressure that is wanted here; what is upstream is set to it where nothing else settles it."""

    pressure: Quantity | None = None


@unit_operation
class Product(UnitOperation):
    """Boundary where material leaves."""

    type = "product"
    title = "Product"
    symbol = "boundary-out"
    letter = "Z"
    also = ("sink", "outlet")
    family = "boundary"
    theory = "A product changes nothing: it marks where a stream leaves the balance of the plant."
    Spec = ProductSpec
    ports = (Port("inlet", "Inlet", "in", place=(0.0, 0.5)),)
    pressures = (PressureSide("pressure", throughout=True),)
    fields = (Field("pressure", "Wanted pressure", "pressure", "sets the pressure upstream where nothing else does"),)

    def solve(self, givens: Givens, inlets: Mapping[str, Sequence[StreamState]], model: PropertyModel, outlets: frozenset[str]) -> UnitResult:
        """Nothing leaves a product on the sheet."""
        wanted, arrives = givens.si("pressure"), inlets["inlet"][0].state.pressure
        if wanted is None or abs(arrives - wanted) <= 1e-6 * wanted:
            return UnitResult({})
        text = f"It arrives at {arrives / 1e5:.5g} bar, not at the {wanted / 1e5:.5g} bar specified here."
        return UnitResult(
            {}, findings=(Finding("caution", "", text, "Change the pressure upstream, or put a valve or a pump before it.", "pressure"),)
        )
