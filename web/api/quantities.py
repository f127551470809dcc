"""Reading what people type: a number, arithmetic, a unit."""

from __future__ import annotations

from typing import Any

from api.access import reading
from api.schemas import QuantityOut
from django.http import HttpRequest
from ninja import Field, Router, Schema
from ninja.errors import HttpError

from wattaxis.quantities import KINDS, QuantityError, parse, to_si
from wattaxis.quantities.quantity import dimension_si

router = Router()


class ParseIn(Schema):
    """A text to be read as a quantity."""

    text: str
    kind: str
    default_unit: str | None = None


class CellsIn(Schema):
    """Cells of a pasted block."""

    cells: list[ParseIn] = Field(max_length=5000)


class ParseOut(Schema):
    """How a text was understood: the quantity, its SI value and a reading in the unit asked for."""

    ok: bool
    message: str
    quantity: QuantityOut | None = None
    si: float | None = None
    si_unit: str = ""


@router.post("quantities/parse", response=ParseOut, auth=reading)
def parse_quantity(request: HttpRequest, body: ParseIn) -> dict[str, Any]:
    """How a typed text is understood."""
    return _understood(body)


@router.post("quantities/parse-cells", response=list[ParseOut], auth=reading)
def parse_cells(request: HttpRequest, body: CellsIn) -> list[dict[str, Any]]:
    """How the cells of a pasted block are understood, in their order."""
    return [_understood(cell) for cell in body.cells]


def _understood(body: ParseIn) -> dict[str, Any]:
    if body.kind not in KINDS:
        raise HttpError(422, f"There is no kind of quantity {body.kind[:40]!r}.")
    try:
        quantity = parse(body.text, body.kind, body.default_unit)
    except QuantityError as error:
        return {"ok": False, "message": str(error)}
    return {
        "ok": True,
        "message": "",
        "quantity": quantity.model_dump(),
        "si": to_si(quantity, body.kind),
        "si_unit": dimension_si(quantity, body.kind),
    }
