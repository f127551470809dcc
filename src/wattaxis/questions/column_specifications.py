"""What specifies a column and what could: each with what is wanted and what it is now, whether it is met, and the edits that take it in or out."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass
from math import isnan
from typing import TYPE_CHECKING, Any

from wattaxis.quantities import KINDS, to_si
from wattaxis.questions.column_study import column_of
from wattaxis.unitops.columns.names import REBOILER_HEAT, SHORT_CUT, SINGLE, SPECIFIED, SPECIFYING, VALUES, WAITING, ends, freedom, possible, rows_of
from wattaxis.unitops.columns.specified import kind_of, row_value, row_want, text_of

if TYPE_CHECKING:
    from wattaxis.flowsheet import Document, Unit
    from wattaxis.unitops.base import ResultValue
    from wattaxis.unitops.table import GivenRow

#: Share by which what is wanted may be missed and still counts as met.
_MET = 1e-6


@dataclass(frozen=True)
class ColumnSpecification:
    """One thing that specifies a column (``active``) or could: ``wanted`` and ``now`` in SI of a ``kind``, None where there is none.

    ``field`` is its field, blank where it is a row of a table. ``take_in`` and ``take_out`` are edits; a field is taken in with a value typed.
    """

    text: str
    kind: str
    active: bool
    wanted: float | None
    now: float | None
    met: bool | None
    field: str
    take_in: Mapping[str, Any] | None
    take_out: Mapping[str, Any]


@dataclass(frozen=True)
class ColumnSpecifications:
    """All of them, and how many a column takes beside what tables of draws and the like bring with them."""

    taken: int
    all: tuple[ColumnSpecification, ...]

    def to_data(self) -> dict[str, Any]:
        """Plain data for JSON."""
        return asdict(self)


def column_specifications(document: Document, tag: str, values: Sequence[ResultValue] = ()) -> ColumnSpecifications:
    """What specifies the column ``tag`` and what could, with what its calculated ``values`` say; nothing of a short-cut, which has keys.

    Raises ValueError where there is no such column.
    """
    unit = column_of(document, tag)
    if getattr(unit.spec, "calculation", None) == SHORT_CUT:
        return ColumnSpecifications(0, ())
    now = {value.name: value.value for value in values}
    condenser, reboiler = ends(unit.spec)
    heated = reboiler and any(s.target.unit == tag and s.target.port == REBOILER_HEAT for s in document.streams)
    found = [_single(unit, key, now) for key in SINGLE if possible(key, condenser, reboiler) and not (heated and key == "reboiler_duty")]
    for key in SPECIFYING:
        found += [_of_row(unit, key, row, now) for row in rows_of(getattr(unit.spec, key))]
    return ColumnSpecifications(freedom(condenser, reboiler) - heated, tuple(found))


def _single(unit: Unit, key: str, now: Mapping[str, float]) -> ColumnSpecification:
    field, given = unit.operation.field_map()[key], getattr(unit.spec, key)
    wanted = None if given is None else to_si(given, field.kind)
    out = {"kind": "set_values", "unit": unit.tag, "values": {key: None}}
    return ColumnSpecification(
        field.title, field.kind, given is not None, wanted, now.get(key), _met(given is not None, wanted, now.get(key)), key, None, out
    )


def _of_row(unit: Unit, table: str, row: GivenRow, now: Mapping[str, float]) -> ColumnSpecification:
    active, at = row.cells.get("use") != WAITING, now.get(row_value(table, row))
    text, kind, wanted = f"{unit.operation.field_map()[table].title}, row {row.id}", "fraction", None
    try:
        want = row_want(table, row)
        text, kind, wanted = text_of(want), kind_of(want), None if isnan(want.value) else want.value
    except KeyError:
        pass  # a row that is not yet whole
    values: dict[str, Any] = {f"{table}[{row.id}].use": SPECIFIED}
    for cell in VALUES.get(table, ()):
        if cell not in row.cells and at is not None:
            values[f"{table}[{row.id}].{cell}"] = {"value": at, "unit": KINDS[kind].si[0]}
    take_in = {"kind": "set_values", "unit": unit.tag, "values": values}
    take_out = {"kind": "set_values", "unit": unit.tag, "values": {f"{table}[{row.id}].use": WAITING}}
    return ColumnSpecification(text, kind, active, wanted, at, _met(active, wanted, at), "", take_in, take_out)


def _met(active: bool, wanted: float | None, now: float | None) -> bool | None:
    """Whether a value is what is wanted; None where one of them is not known, or nothing is wanted."""
    if not active or wanted is None or now is None:
        return None
    return abs(now - wanted) <= _MET * max(abs(wanted), abs(now))
