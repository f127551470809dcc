"""What a unit operation declares, looked through when it is registered: a slip is told there and not when a plant uses it."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import TYPE_CHECKING

from wattaxis.quantities import KINDS, Quantity, QuantityError, to_si

if TYPE_CHECKING:
    from wattaxis.unitops.base import Choice, Field, UnitOperation
    from wattaxis.unitops.pressures import PressureSide

_KEY = re.compile(r"[a-z][a-z0-9_]*")
_TYPE = re.compile(r"[a-z][a-z0-9-]{0,39}")
#: What a field may hold beside a quantity, and a column of a table.
_FIELD_KINDS, _COLUMN_KINDS = ("composition", "table", "component", "option", "reactions"), ("option", "component", "stream", "reaction")


def declaration_problems(operation: type[UnitOperation]) -> list[str]:
    """What is wrong with what a unit operation declares, in its own terms; empty where it can be used."""
    missing = [name for name in ("type", "title", "symbol", "letter", "family", "theory", "Spec", "ports") if not getattr(operation, name, None)]
    if missing:
        return [f"it lacks {', '.join(missing)}"]
    found = [] if _TYPE.fullmatch(operation.type) else [f'its type "{operation.type}" is not of small letters, digits and hyphens']
    found += _twice("port", [port.key for port in operation.ports]) + _twice("field", [field.key for field in operation.fields])
    found += [text for port in operation.ports for text in _port(port.key, port.direction, port.kind, port.place)]
    found += [text for field in operation.fields for text in _field(field, operation)]
    stray = set(operation.Spec.model_fields) - {field.key for field in operation.fields}
    found += [f"its Spec holds {key!r}, which no field shows" for key in sorted(stray)]
    found += [f"{key!r} of its Spec has no default, so it cannot be blank" for key, f in operation.Spec.model_fields.items() if f.is_required()]
    found += [text for side in operation.pressures for text in _side(side, operation)]
    return found + [text for choice in operation.choices for text in _choice(choice, operation)]


def _twice(what: str, keys: list[str]) -> list[str]:
    return [f"the {what} {key!r} is there twice" for key in dict.fromkeys(keys) if keys.count(key) > 1]


def _port(key: str, direction: str, kind: str, place: tuple[float, float]) -> Iterator[str]:
    if not _KEY.fullmatch(key):
        yield f"the port {key!r} is not of small letters, digits and underscores"
    if direction not in ("in", "out"):
        yield f'the port {key!r} has the direction {direction!r}, neither "in" nor "out"'
    if kind not in ("material", "heat", "shaft"):
        yield f"the port {key!r} carries {kind!r}, neither material, heat nor shaft"
    if not all(0.0 <= x <= 1.0 for x in place):
        yield f"the port {key!r} lies outside its symbol, at {place}"


def _field(field: Field, operation: type[UnitOperation]) -> Iterator[str]:
    name = f"the field {field.key!r}"
    if field.key not in operation.Spec.model_fields:
        yield f"{name} is not in its Spec"
    if field.kind not in KINDS and (field.each or field.kind not in _FIELD_KINDS):
        yield f"{name} is of the kind {field.kind!r}, which is neither a kind of quantity nor one of {', '.join(_FIELD_KINDS)}"
    if field.kind == "option" and not field.options:
        yield f"{name} has no options to choose from"
    for other in filter(None, (field.beside, field.or_beside)):
        if other not in operation.field_map():
            yield f"{name} belongs to {other!r}, which is no field"
    if field.among and not set(field.among) <= set(getattr(operation.field_map().get(field.beside), "options", ())):
        yield f"{name} has a meaning with {', '.join(field.among)}, which {field.beside or 'no field'} does not offer"
    if field.port and field.port not in {port.key for port in operation.ports}:
        yield f"{name} is about {field.port!r}, which is no port"
    if (field.kind == "table") != bool(field.columns):
        yield f"{name} is a table without columns" if field.kind == "table" else f"{name} has columns and is no table"
    yield from (f"{name}: {text}" for text in _twice("column", [column.key for column in field.columns]))
    for column in field.columns:
        if column.kind not in KINDS and column.kind not in _COLUMN_KINDS:
            known = f"neither a quantity nor one of {', '.join(_COLUMN_KINDS)}"
            yield f"{name}: its column {column.key!r} is of the kind {column.kind!r}, {known}"
        if column.kind == "option" and not column.options:
            yield f"{name}: its column {column.key!r} has no options to choose from"


def _side(side: PressureSide, operation: type[UnitOperation]) -> Iterator[str]:
    yield from (f"its pressures speak of {key!r}, which is no field" for key in side.keys if key not in operation.field_map())
    yield from (f"its pressures speak of {port!r}, which is no port" for port in side.ports if port not in {p.key for p in operation.ports})


def _choice(choice: Choice, operation: type[UnitOperation]) -> Iterator[str]:
    fields = operation.field_map()
    name = f'the choice "{choice.title}"'
    yield from (f"{name} speaks of {key!r}, which is no field" for key in choice.fields if key not in fields)
    if not 1 <= choice.count <= len(choice.fields):
        yield f"{name} asks for {choice.count} of {len(choice.fields)} fields"
    if choice.port and choice.port not in {port.key for port in operation.ports}:
        yield f"{name} can be settled at {choice.port!r}, which is no port"
    if choice.assumed:
        key, quantity, reason = choice.assumed
        if key not in choice.fields or not reason:
            yield f"{name} assumes {key!r}, which is none of its fields or has no reason"
        elif key in fields and isinstance(quantity, Quantity) and fields[key].kind in KINDS:
            try:
                to_si(quantity, fields[key].kind)
            except QuantityError as error:
                yield f"{name} assumes what {key!r} cannot be: {error}"
        elif key in fields and quantity not in fields[key].options:
            yield f"{name} assumes {quantity!r} for {key!r}, which is not offered there"
