"""Measured equilibria from a table: a heading that names quantity and unit of each column, then numbers."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any

from pydantic import ValidationError

from wattaxis.exchange.tables import Cell, TableError
from wattaxis.flowsheet.data import MOST_POINTS, Measured, MeasuredColumn
from wattaxis.properties.fitting import DATA_KINDS, column_keys
from wattaxis.quantities import KINDS, QuantityError, parse

_WORDS = {
    "temperature": "T", "pressure": "P", "excess enthalpy": "h", "he": "h", "time": "t", "space time": "t", "conversion": "X", "catalyst": "w",
}  # fmt: skip


@dataclass
class DataTable:
    """A data set, and every cell or column that could not be taken, each with its place and reason.

    ``unread`` are the cells of the data set, by row and column, that were given as something else than a number.
    """

    data: Measured
    left_out: list[str] = field(default_factory=list)
    unread: dict[tuple[int, int], str] = field(default_factory=dict)


@dataclass
class _Headed:
    """The columns that a heading names, a unit of None where it says none; the numbers below it, and what else stands among them."""

    columns: list[tuple[str, str | None]]
    rows: list[list[float | None]]
    unread: dict[tuple[int, int], str]
    left_out: list[str]


def data_from_table(rows: Sequence[Sequence[Cell]], kind: str, components: Sequence[str], name: str) -> DataTable:
    """Read a data set of a kind. A heading is a key and a unit ("T, degC", "P (kPa)", "x1"), SI where it says none. Raises TableError.

    >>> rows = [["T, degC", "P/kPa", "x1"], ["60", "46.3", "0.2"], ["60", "oops", "0.4"]]
    >>> table = data_from_table(rows, "vapour-liquid", ["ethanol", "water"], "Run 1")
    >>> table.data.rows[0], table.left_out
    ((60.0, 46.3, 0.2), ['Line 3, P: "oops" is not a number.'])
    """
    if kind not in DATA_KINDS:
        raise TableError(f'There is no kind of data "{kind}"; there are {", ".join(DATA_KINDS)}.')
    headed = _headed(rows, kind, len(components))
    columns = tuple(MeasuredColumn(key=key, unit=_si_unit(kind, len(components), key) if unit is None else unit) for key, unit in headed.columns)
    kept = [tuple(row) for row in headed.rows if any(v is not None for v in row)]
    return DataTable(_measured(name=name, kind=kind, components=tuple(components), columns=columns, rows=tuple(kept)), headed.left_out)


def paste_data(data: Measured, rows: Sequence[Sequence[Cell]], first: int = 0) -> DataTable:
    """A table with a heading put into a data set from its row ``first`` on: the heading says which columns, and in which units. Raises TableError.

    Columns that the heading does not name keep what they hold, and their unit where it says none. A unit changes only where no other point has a
    value in the old one.

    >>> columns = (MeasuredColumn(key="T", unit="degC"), MeasuredColumn(key="P", unit="bar"), MeasuredColumn(key="x1"))
    >>> empty = Measured(name="Run 1", kind="vapour-liquid", components=("ethanol", "water"), columns=columns)
    >>> table = paste_data(empty, [["P/kPa", "T/K"], ["46.3", "333.15"]])
    >>> [column.unit for column in table.data.columns], table.data.rows
    (['K', 'kPa', ''], ((333.15, 46.3, None),))
    """
    headed = _headed(rows, data.kind, len(data.components))
    if not headed.columns:
        raise TableError(" ".join(headed.left_out))
    columns, places = list(data.columns), []
    others = [row for k, row in enumerate(data.rows) if not first <= k < first + len(headed.rows)]
    for key, unit in headed.columns:
        at = next((k for k, c in enumerate(columns) if c.key == key), len(columns))
        if at == len(columns):
            columns.append(MeasuredColumn(key=key, unit=_si_unit(data.kind, len(data.components), key)))
        if unit is not None and unit != columns[at].unit:
            if at < len(data.columns) and any(row[at] is not None for row in others):
                raise TableError(
                    f"{key} is pasted in {unit}, and other points have it in {columns[at].unit}: paste into another set, or in that unit."
                )
            columns[at] = columns[at].model_copy(update={"unit": unit})
        places.append(at)
    table = [[*row, *[None] * (len(columns) - len(row))] for row in data.rows]
    table += [[None] * len(columns) for _ in range(first + len(headed.rows) - len(table))]
    for k, row in enumerate(headed.rows, first):
        for at, value in zip(places, row, strict=True):
            table[k][at] = value
    pasted = _measured(**{**dict(data), "columns": tuple(columns), "rows": tuple(map(tuple, table))})
    return DataTable(pasted, headed.left_out, {(first + line, places[n]): text for (line, n), text in headed.unread.items()})


def _measured(**fields: Any) -> Measured:
    try:
        return Measured.model_validate(fields)
    except ValidationError as error:
        raise TableError(error.errors()[0]["msg"].removeprefix("Value error, ") + ".") from error


def _headed(rows: Sequence[Sequence[Cell]], kind: str, components: int) -> _Headed:
    """Take a table apart by its heading. Raises TableError for too many rows."""
    known = column_keys(kind, components)
    if len(rows) - 1 > MOST_POINTS:
        raise TableError(f"A data set has at most {MOST_POINTS} points.")
    found = _Headed([], [[] for _ in rows[1:]], {}, [])
    for k, cell in enumerate(rows[0]):
        key, unit = _heading(str(cell or ""), {c: known[c].kind for c in known})
        if key is None:
            found.left_out.append(f'Column {k + 1}: "{str(cell)[:40]}" is none of {", ".join(known)}, or its unit is unknown.')
        elif key in dict(found.columns):
            found.left_out.append(f"Column {k + 1}: {key} appears twice; the first is used.")
        else:
            _take(found, rows[1:], k)
            found.columns.append((key, unit))
    for (line, n), text in sorted(found.unread.items()):
        found.left_out.append(f'Line {line + 2}, {found.columns[n][0]}: "{text[:30]}" is not a number.')
    return found


def _take(found: _Headed, rows: Sequence[Sequence[Cell]], k: int) -> None:
    for line, row in enumerate(rows):
        cell = row[k] if k < len(row) else None
        value = _number(cell)
        if value is None and cell not in (None, ""):
            found.unread[line, len(found.columns)] = str(cell)[:60]
        found.rows[line].append(value)


def _si_unit(kind: str, components: int, key: str) -> str:
    of = column_keys(kind, components)[key].kind
    return "" if of in ("fraction", "number") else KINDS[of].si[0]


def _heading(text: str, kinds: dict[str, str]) -> tuple[str | None, str | None]:
    """Key and unit of a heading, None where it says none; no key where it is not understood."""
    match = re.match(r"\s*([A-Za-z]+\s?[A-Za-z]*\d*)\s*(.*)$", text)
    if match is None:
        return None, None
    word = match.group(1).strip()
    key = _WORDS.get(word.lower()) or _key(word.replace(" ", ""), kinds)
    if key is None and " " in word:  # "T degC"
        head, _, rest = text.strip().partition(" ")
        key, match_rest = _key(head, kinds), rest
    else:
        match_rest = match.group(2)
    if key is None or key not in kinds:
        return None, None
    unit = match_rest.strip(" ,;/()[]").replace("°", "deg").replace("³", "3")
    if not unit:
        return key, None
    try:
        parse(f"1 {unit}" if kinds[key] != "fraction" else f"0.5 {unit}", kinds[key])
    except QuantityError:
        return None, None
    return key, unit


def _key(word: str, kinds: dict[str, str]) -> str | None:
    """The key as it is written or, where no two keys differ by it alone ("T" and "t"), in the other case."""
    alike = [key for key in kinds if key.lower() == word.lower()]
    return word if word in kinds else alike[0] if len(alike) == 1 else None


def _number(cell: Cell) -> float | None:
    if cell is None or isinstance(cell, float):
        return cell
    text = cell.strip()
    text = text.replace(",", ".") if text.count(",") == 1 and "." not in text else text
    try:
        return float(text)
    except ValueError:
        return None
