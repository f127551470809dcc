"""Values of a unit by their path: a field, the value of one component, or a cell of a table.

``duty``, ``shares[ethanol]``, ``composition[water]``, ``curve[2].head`` (the row's id, the column): one way to a value for edits, aims, influence,
scaling and comparison.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

from wattaxis.quantities import Quantity
from wattaxis.unitops.base import Field
from wattaxis.unitops.composition import BASIS_KINDS, BASIS_TITLES, Composition
from wattaxis.unitops.per_component import PerComponent
from wattaxis.unitops.table import GivenRow, GivenTable

if TYPE_CHECKING:
    from wattaxis.flowsheet.document import Unit

#: Names of components may hold brackets themselves, as benzo[a]pyrene.
_PATH = re.compile(r"(\w+)(?:\[(.{1,80})\](?:\.(\w+))?)?")


@dataclass(frozen=True)
class Path:
    """Where a value stands: the field, and in it the row (or component) and the column; blank where it is the whole."""

    field: str
    row: str = ""
    column: str = ""

    @property
    def parts(self) -> tuple[str, ...]:
        """What there is of it, from the field on."""
        return tuple(part for part in (self.field, self.row, self.column) if part)


def path_of(text: str) -> Path | None:
    """A path as it is written, None where it is none.

    >>> path_of("draws[2].flow")
    Path(field='draws', row='2', column='flow')
    """
    found = _PATH.fullmatch(text)
    return Path(found[1], found[2] or "", found[3] or "") if found else None


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
    where = path_of(path)
    field = unit.operation.field_map().get(where.field) if where else None
    if where is None or field is None:
        return None
    value = getattr(unit.spec, field.key)
    if not where.row:
        return Given(path, field.title, field.kind, value if isinstance(value, Quantity) else None, known=field.known) if field.single else None
    return _cell(path, field, value, where) if where.column else _part(path, field, value, where.row)


def _part(path: str, field: Field, value: Any, component: str) -> Given | None:
    if field.each:
        typed = value.values.get(component) if isinstance(value, PerComponent) else None
        return Given(path, f"{field.title} ({component})", field.kind, typed, known=field.known)
    if field.kind == "composition":
        whole = value if isinstance(value, Composition) else Composition()
        bound = "" if whole.is_flow or whole.normalise else "one fraction alone would not leave their sum at 1; let them be normalised first"
        title = BASIS_TITLES[whole.basis].capitalize()
        return Given(path, f"{title} of {component}", BASIS_KINDS[whole.basis], whole.values.get(component), bound)
    return None


def _cell(path: str, field: Field, value: Any, where: Path) -> Given | None:
    column = next((c for c in field.columns if c.key == where.column), None)
    row = value.row(where.row) if isinstance(value, GivenTable) else None
    if column is None or row is None or not column.quantity:
        return None
    number = 1 + value.rows.index(row)
    cell = row.cells.get(column.key)
    return Given(
        path, f"{field.title}, row {number}: {column.title.lower()}", column.kind, cell if isinstance(cell, Quantity) else None, known=field.known
    )


def typed_givens(unit: Unit) -> Iterator[Given]:
    """Every single value that is typed for a unit, in the order of its fields."""
    for field in unit.operation.fields:
        value = getattr(unit.spec, field.key)
        paths = [field.key]
        if isinstance(value, PerComponent | Composition):
            paths = [f"{field.key}[{component}]" for component in value.values]
        elif isinstance(value, GivenTable):
            paths = [f"{field.key}[{row.id}].{column.key}" for row in value.rows for column in field.columns]
        for path in paths:
            given = given_at(unit, path)
            if given is not None and given.typed is not None:
                yield given


def with_given(unit: Unit, path: str, quantity: Quantity) -> Unit:
    """The unit with another value at a path that :func:`given_at` knows, not checked again."""
    where = path_of(path)
    assert where is not None
    value = getattr(unit.spec, where.field)
    new: Any = quantity
    if isinstance(value, GivenTable):
        rows = (r.model_copy(update={"cells": {**r.cells, where.column: quantity}}) if r.id == where.row else r for r in value.rows)
        new = value.model_copy(update={"rows": tuple(rows)})
    elif where.row:
        new = value.model_copy(update={"values": {**value.values, where.row: quantity}})
    return unit.model_copy(update={"spec": unit.spec.model_copy(update={where.field: new})})


def raw_at(unit: Unit, where: Path) -> Any:
    """What stands at a path, None where it is blank."""
    value = getattr(unit.spec, where.field)
    if value is None or not where.row:
        return value
    if isinstance(value, GivenTable):
        row = value.row(where.row)
        return row if row is None or not where.column else row.cells.get(where.column)
    return value.values.get(where.row)


def with_raw(unit: Unit, values: Mapping[Path, Any]) -> Unit:
    """The unit with other values, typed or plain, at paths; None clears. Raises ValueError for no such place and for what cannot stand there."""
    data = {key: getattr(unit.spec, key) for key in type(unit.spec).model_fields}
    fields = unit.operation.field_map()
    for where, new in values.items():
        field = fields[where.field]
        old = data[where.field]
        if not where.row:
            data[where.field] = new
        elif field.kind == "table":
            data[where.field] = _with_cell(unit, field, old, where, new)
        elif (field.each or field.kind == "composition") and not where.column:
            kept = {**(old.values if isinstance(old, PerComponent | Composition) else (old or {}).get("values", {}))}
            whole = old.model_dump() if isinstance(old, PerComponent | Composition) else dict(old or {})
            data[where.field] = {**whole, "values": {key: value for key, value in {**kept, where.row: new}.items() if value is not None}}
        else:
            raise ValueError(f"{field.title} of {unit.tag} is no table.")
    return unit.model_copy(update={"spec": type(unit.spec).model_validate(data)})


def _with_cell(unit: Unit, field: Field, table: Any, where: Path, new: Any) -> GivenTable:
    row = table.row(where.row) if isinstance(table, GivenTable) else None
    if row is None:
        raise ValueError(f"{field.title} of {unit.tag} has no row {where.row}.")
    if where.column not in {column.key for column in field.columns}:
        raise ValueError(f"{field.title} of {unit.tag} has no column {where.column!r}.")
    cells = {**row.cells, where.column: new}
    made = GivenRow.model_validate({"id": row.id, "cells": {key: cell for key, cell in cells.items() if cell is not None}})
    return GivenTable(rows=tuple(made if r.id == row.id else r for r in table.rows))


def with_names(unit: Unit, kind: str, old: str, new: str) -> Unit:
    """The unit after a "stream" or a "reaction" that columns of its tables name has got another name."""
    changed = {}
    for item in unit.operation.fields:
        named = {column.key for column in item.columns if column.kind == kind}
        table = getattr(unit.spec, item.key)
        if named and isinstance(table, GivenTable):
            rows = (row.model_copy(update={"cells": {k: new if k in named and v == old else v for k, v in row.cells.items()}}) for row in table.rows)
            changed[item.key] = GivenTable(rows=tuple(rows))
    return unit.model_copy(update={"spec": unit.spec.model_copy(update=changed)}) if changed else unit
