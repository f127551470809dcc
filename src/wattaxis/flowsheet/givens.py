"""Single typed values of a unit by their path: a field, the value of one component, or a cell of a curve.

``duty``, ``shares[ethanol]``, ``composition[water]``, ``curve[2.head]``: what an aim may free and anything else that changes one value by name.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

from wattaxis.quantities import Quantity, from_si, to_si
from wattaxis.unitops.base import Field
from wattaxis.unitops.composition import BASIS_KINDS, BASIS_TITLES, Composition
from wattaxis.unitops.curve import MachineCurve
from wattaxis.unitops.per_component import PerComponent

if TYPE_CHECKING:
    from wattaxis.flowsheet.document import Unit

_PATH = re.compile(r"(\w+)(?:\[(.+)\])?")
#: Columns of a curve: key, title, kind.
_COLUMNS = (("flow", "Volume flow", "volume_flow"), ("head", "Head", "head"), ("efficiency", "Efficiency", "fraction"))


@dataclass(frozen=True)
class Given:
    """One value that may be typed: its path, title and kind of quantity, and what is typed there, None for blank."""

    path: str
    title: str
    kind: str
    typed: Quantity | None
    #: Why it cannot be changed alone; blank where it can.
    bound: str = ""
    #: Whether it is known rather than chosen, as a number of a reaction or a point of a curve: not what is looked through for something to vary.
    known: bool = False


def given_at(unit: Unit, path: str) -> Given | None:
    """The value at a path, None where the unit has no such value.

    >>> from importlib.resources import files
    >>> from wattaxis import load
    >>> plant = load(files("wattaxis.examples").joinpath("sandlark_bay.json").read_text())
    >>> given_at(plant.unit("F-101"), "composition[water]").title
    'Mole flow of water'
    """
    found = _PATH.fullmatch(path)
    field = unit.operation.field_map().get(found[1]) if found else None
    if found is None or field is None:
        return None
    value = getattr(unit.spec, field.key)
    if found[2] is None:
        return Given(path, field.title, field.kind, value if isinstance(value, Quantity) else None) if field.single else None
    return _part(path, field, value, found[2])


def _part(path: str, field: Field, value: Any, row: str) -> Given | None:
    if field.each:
        typed = value.values.get(row) if isinstance(value, PerComponent) else None
        return Given(path, f"{field.title} ({row})", field.kind, typed, known=field.kind == "number")
    if field.kind == "composition":
        whole = value if isinstance(value, Composition) else Composition()
        bound = "" if whole.is_flow or whole.normalise else "one fraction alone would not leave their sum at 1; let them be normalised first"
        title = BASIS_TITLES[whole.basis].capitalize()
        return Given(path, f"{title} of {row}", BASIS_KINDS[whole.basis], whole.values.get(row), bound)
    if field.kind == "curve":
        place = _cell(row)
        if place is None or not isinstance(value, MachineCurve) or place[0] > len(value.rows):
            return None
        number, column = place
        cell, unit = value.rows[number - 1][column], (value.flow_unit, value.head_unit, value.efficiency_unit)[column]
        _, title, kind = _COLUMNS[column]
        return Given(path, f"{title} at point {number}", kind, None if cell is None else Quantity(value=cell, unit=unit), known=True)
    return None


def _cell(row: str) -> tuple[int, int] | None:
    """Number of a point from 1 on, and place of a column."""
    number, _, key = row.partition(".")
    columns = [k for k, (name, _, _) in enumerate(_COLUMNS) if name == key]
    return (int(number), columns[0]) if columns and number.isdecimal() and int(number) > 0 else None


def typed_givens(unit: Unit) -> Iterator[Given]:
    """Every single value that is typed for a unit, in the order of its fields."""
    for field in unit.operation.fields:
        value = getattr(unit.spec, field.key)
        rows: list[str] = []
        if isinstance(value, PerComponent | Composition):
            rows = list(value.values)
        elif isinstance(value, MachineCurve):
            rows = [f"{number}.{key}" for number in range(1, len(value.rows) + 1) for key, _, _ in _COLUMNS]
        for path in [f"{field.key}[{row}]" for row in rows] if rows else [field.key]:
            given = given_at(unit, path)
            if given is not None and given.typed is not None:
                yield given


def with_given(unit: Unit, path: str, quantity: Quantity) -> Unit:
    """The unit with another value at a path that :func:`given_at` knows."""
    found = _PATH.fullmatch(path)
    assert found is not None
    key, row = found[1], found[2]
    value = getattr(unit.spec, key)
    new: Any = quantity
    if row is not None and isinstance(value, MachineCurve):
        place = _cell(row)
        assert place is not None
        rows = [list(points) for points in value.rows]
        unit_of = (value.flow_unit, value.head_unit, value.efficiency_unit)[place[1]]
        rows[place[0] - 1][place[1]] = from_si(to_si(quantity, _COLUMNS[place[1]][2]), unit_of)
        new = value.model_copy(update={"rows": tuple(tuple(points) for points in rows)})
    elif row is not None:
        new = value.model_copy(update={"values": {**value.values, row: quantity}})
    return unit.model_copy(update={"spec": unit.spec.model_copy(update={key: new})})
