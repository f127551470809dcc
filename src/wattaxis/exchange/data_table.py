"""Measured equilibria from a table: a heading that names quantity and unit of each column, then numbers."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, field

from pydantic import ValidationError

from wattaxis.exchange.tables import Cell, TableError
from wattaxis.flowsheet.data import MOST_POINTS, Measured, MeasuredColumn
from wattaxis.properties.fitting import DATA_KINDS, column_keys
from wattaxis.quantities import KINDS, QuantityError, parse

_WORDS = {"temperature": "T", "pressure": "P", "excess enthalpy": "h", "he": "h"}


@dataclass
class DataTable:
    """A data set, and every cell or column that could not be taken, each with its place and reason."""

    data: Measured
    left_out: list[str] = field(default_factory=list)


def data_from_table(rows: Sequence[Sequence[Cell]], kind: str, components: Sequence[str], name: str) -> DataTable:
    """Read a data set of a kind. A heading is a key and a unit ("T, degC", "P (kPa)", "x1"). Raises TableError.

    >>> rows = [["T, degC", "P/kPa", "x1"], ["60", "46.3", "0.2"], ["60", "oops", "0.4"]]
    >>> table = data_from_table(rows, "vapour-liquid", ["ethanol", "water"], "Run 1")
    >>> table.data.rows[0], table.left_out
    ((60.0, 46.3, 0.2), ['Line 3, P: "oops" is not a number.'])
    """
    if kind not in DATA_KINDS:
        raise TableError(f'There is no kind of data "{kind}"; there are {", ".join(DATA_KINDS)}.')
    known = column_keys(kind, len(components))
    left_out: list[str] = []
    places: list[int] = []
    columns: list[MeasuredColumn] = []
    for k, cell in enumerate(rows[0]):
        key, unit = _heading(str(cell or ""), {c: known[c].kind for c in known})
        if key is None:
            left_out.append(f'Column {k + 1}: "{str(cell)[:40]}" is none of {", ".join(known)}, or its unit is unknown.')
        elif key in (c.key for c in columns):
            left_out.append(f"Column {k + 1}: {key} appears twice; the first is used.")
        else:
            places.append(k)
            columns.append(MeasuredColumn(key=key, unit=unit))
    if len(rows) - 1 > MOST_POINTS:
        raise TableError(f"A data set has at most {MOST_POINTS} points.")
    numbers = [tuple(_number(row, k, line, columns[n].key, left_out) for n, k in enumerate(places)) for line, row in enumerate(rows[1:], 2)]
    kept = tuple(row for row in numbers if any(v is not None for v in row))
    try:
        return DataTable(Measured(name=name, kind=kind, components=tuple(components), columns=tuple(columns), rows=kept), left_out)
    except ValidationError as error:
        raise TableError(error.errors()[0]["msg"].removeprefix("Value error, ") + ".") from error


def _heading(text: str, kinds: dict[str, str]) -> tuple[str | None, str]:
    """Key and unit of a heading; no key where it is not understood."""
    match = re.match(r"\s*([A-Za-z]+\s?[A-Za-z]*\d*)\s*(.*)$", text)
    if match is None:
        return None, ""
    word = match.group(1).strip()
    lower = {key.lower(): key for key in kinds}
    key = _WORDS.get(word.lower()) or lower.get(word.lower().replace(" ", ""))
    if key is None and " " in word:  # "T degC"
        head, _, rest = text.strip().partition(" ")
        key, match_rest = lower.get(head.lower()), rest
    else:
        match_rest = match.group(2)
    if key is None or key not in kinds:
        return None, ""
    unit = match_rest.strip(" ,;/()[]").replace("°", "deg").replace("³", "3")
    if not unit:
        return key, "" if kinds[key] in ("fraction", "number") else KINDS[kinds[key]].si[0]
    try:
        parse(f"1 {unit}" if kinds[key] != "fraction" else f"0.5 {unit}", kinds[key])
    except QuantityError:
        return None, ""
    return key, unit


def _number(row: Sequence[Cell], k: int, line: int, key: str, left_out: list[str]) -> float | None:
    cell = row[k] if k < len(row) else None
    if cell is None or cell == "":
        return None
    if isinstance(cell, float):
        return cell
    text = cell.strip()
    text = text.replace(",", ".") if text.count(",") == 1 and "." not in text else text
    try:
        return float(text)
    except ValueError:
        left_out.append(f'Line {line}, {key}: "{cell[:30]}" is not a number.')
        return None
