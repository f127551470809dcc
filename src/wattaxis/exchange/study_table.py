"""The cases of a study as a table: a row a case, its inputs and outputs in the units in which the plant shows them."""

from __future__ import annotations

import csv
import io
from typing import Any

from wattaxis.exchange.stream_table import harmless
from wattaxis.flowsheet import Document
from wattaxis.quantities import KINDS, from_si
from wattaxis.studies import StudyColumn, StudyResult


def study_rows(document: Document, result: StudyResult) -> list[list[Any]]:
    """Header row, then one row a case: its number from 1, inputs, outputs (None where there is no value), and why something is missing."""
    columns = [*result.inputs, *result.outputs]
    units = [_unit(document, column) for column in columns]
    header = ["Case", *(f"{column.name}, {unit}" if unit else column.name for column, unit in zip(columns, units, strict=True)), "Remark"]
    rows: list[list[Any]] = [header]
    for case in result.cases:
        values = [_shown(value, unit, column) for value, unit, column in zip((*case.inputs, *case.outputs), units, columns, strict=True)]
        remark = next(iter(case.faults), "") or next((problem for problem in case.problems if problem), "") or _role(result, case.number)
        rows.append([case.number + 1, *values, remark])
    return rows


def _role(result: StudyResult, number: int) -> str:
    """What a case is in a search for the best."""
    optimum = result.optimum
    if optimum is None:
        return ""
    return "best" if number == optimum.best else "start" if number == optimum.start else "trade-off" if number in optimum.front else ""


def study_csv(document: Document, result: StudyResult) -> str:
    """The table of a study as CSV (RFC 4180), full precision."""
    text = io.StringIO()
    csv.writer(text).writerows([["" if cell is None else harmless(cell) for cell in row] for row in study_rows(document, result)])
    return text.getvalue()


def _shown(value: float | None, unit: str, column: StudyColumn) -> float | None:
    difference = column.kind is not None and KINDS[column.kind].difference
    return None if value is None else from_si(value, unit, difference=difference)


def _unit(document: Document, column: StudyColumn) -> str:
    return document.display_unit(column.kind) if column.kind is not None else column.si
