"""What was given to every unit and what came of it, with the basis of each; assumptions and findings beside it: the sheets of a workbook."""

from __future__ import annotations

import io
from collections.abc import Iterator
from typing import Any

from wattaxis.exchange.stream_table import harmless, stream_rows
from wattaxis.flowsheet import Document, Unit
from wattaxis.quantities import Quantity
from wattaxis.quantities.quantity import linear
from wattaxis.solving import SolveResult
from wattaxis.unitops.base import Field
from wattaxis.unitops.table import GivenTable

UNIT_HEAD = ["Unit", "Type", "What", "Value", "Unit of it", "How"]


def unit_rows(document: Document, result: SolveResult) -> list[list[Any]]:
    """Header row, then per unit one row a value: as typed where it was given, else in the units of the plant's set; its basis last."""
    rows: list[list[Any]] = [UNIT_HEAD]
    for unit in document.units:
        rows += [[unit.tag, unit.operation.title, *row] for row in _unit(document, unit, result)]
    return rows


def _unit(document: Document, unit: Unit, result: SolveResult) -> Iterator[list[Any]]:
    state = result.units.get(unit.tag)
    given = set()
    for field in unit.operation.fields:
        typed = getattr(unit.spec, field.key)
        for title, value, name in _cells(field, typed) if isinstance(typed, GivenTable) else _typed(field.title, typed):
            given.add(field.key)
            yield [title, value, name, "given"]
    for assumption in result.assumptions:
        if assumption.place == unit.tag:
            given.add(assumption.field)
            yield [assumption.title, assumption.value, assumption.unit, f"assumed: {assumption.reason}"]
    for found in state.values if state is not None else ():
        if found.key not in given:
            title = found.title + (f", {found.component}" if found.component else "")
            yield [title, _shown(document, found.kind, found.value), document.display_unit(found.kind), "calculated"]
    if state is None or state.mark != "current":
        yield ["state", "not calculated", "", ""]
    elif state.basis:
        yield ["basis", state.basis, "", ""]


def _shown(document: Document, kind: str, value: float) -> float:
    """An SI value in the unit of the plant's set."""
    factor, offset = linear(document.display_unit(kind), difference=kind.endswith("_difference"))
    return (value - offset) / factor


def profile_rows(document: Document, result: SolveResult) -> list[list[Any]]:
    """Every profile as a table of its own, one below the other, in the units of the plant's set."""
    rows: list[list[Any]] = []
    for tag, state in result.units.items():
        for profile in state.profiles:
            columns = (profile.along, *profile.columns)
            units = [document.display_unit(c.kind) for c in columns]
            rows += [[tag, profile.title], [""] + [c.full_title for c in columns], ["", *units]]
            shown = ([None if v is None else _shown(document, c.kind, v) for v in c.values] for c in columns)
            rows += [["", *values] for values in zip(*shown, strict=True)]
            rows.append([])
    return rows


def _typed(title: str, typed: Any) -> Iterator[tuple[str, Any, str]]:
    """A given as it was typed; of one with several values, each of them."""
    if isinstance(typed, Quantity):
        yield title, typed.value, typed.unit
    elif isinstance(typed, str):
        yield title, typed, ""
    elif typed is not None and isinstance(getattr(typed, "values", None), dict):
        for name, quantity in typed.values.items():
            yield f"{title}, {name}", quantity.value, quantity.unit


def _cells(field: Field, table: GivenTable) -> Iterator[tuple[str, Any, str]]:
    """Every cell of a table as it was typed."""
    for number, row in enumerate(table.rows, 1):
        for column in field.columns:
            if column.key in row.cells:
                yield from _typed(f"{field.title}, row {number}: {column.title.lower()}", row.cells[column.key])


def reaction_rows(document: Document) -> list[list[Any]]:
    """Header row, then the reactions of every set with their rate laws as typed."""
    sets = document.chemistry.reactions
    return [["Set", "Reaction", "Source"], *([of.name, reaction.text, of.source] for of in sets for reaction in of.reactions)]


def workbook(document: Document, result: SolveResult) -> bytes:
    """An XLSX workbook (ISO/IEC 29500): streams, units, assumptions, findings; reactions, and the profiles of units, where there are some."""
    from openpyxl import Workbook
    from openpyxl.styles import Font

    assumed: list[list[Any]] = [
        ["Where", "What", "Value", "Unit", "Why"],
        *([a.place, a.title, a.value, a.unit, a.reason] for a in result.assumptions),
    ]
    told: list[list[Any]] = [["Severity", "Where", "What", "What to do"], *([f.severity, f.place, f.text, f.remedy] for f in result.findings)]
    told += [["ask", ask.place, ask.text, ""] for ask in result.asks]
    book = Workbook()
    book.remove(book.active)
    sheets = {"Streams": stream_rows(document, result), "Units": unit_rows(document, result), "Assumptions": assumed, "Findings": told}
    if document.chemistry.reactions:
        sheets["Reactions"] = reaction_rows(document)
    if profiles := profile_rows(document, result):
        sheets["Profiles"] = profiles
    for title, rows in sheets.items():
        sheet = book.create_sheet(title)
        for row in rows:
            sheet.append([harmless(value) for value in row])
        for cell in sheet[1]:
            cell.font = Font(bold=True)
        sheet.freeze_panes = "C2" if title == "Streams" else "A2"
        for column, width in zip("ABCD", (30, 18, 30, 24), strict=True):
            sheet.column_dimensions[column].width = width
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()
