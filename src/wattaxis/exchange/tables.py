"""Tables from outside, CSV or XLSX, read with care: limits on size before anything is unpacked, formulas never evaluated."""

from __future__ import annotations

import csv
import io
import zipfile
from typing import Any

#: Larger files, tables and archives are refused.
LARGEST = 4_000_000
MOST_ROWS, MOST_COLUMNS, LONGEST_CELL = 20_000, 200, 1_000
UNPACKED, MEMBERS = 40_000_000, 400

Cell = str | float | None


class TableError(ValueError):
    """A file that is no table we read. ``str()`` is a sentence that says why and what would be accepted."""


def read_table(content: bytes) -> list[list[Cell]]:
    """Rows of a CSV text or of the first sheet of an XLSX workbook; what is inside decides, not the name. Raises TableError.

    Numbers come as floats where the file says so (XLSX) and as text otherwise. A formula gives the value that the workbook keeps for it.

    >>> read_table(b"component;kmol/h\\nwater;12,5\\n")
    [['component', 'kmol/h'], ['water', '12,5']]
    """
    if not content.strip():
        raise TableError("The file is empty.")
    if len(content) > LARGEST:
        raise TableError(f"The file is larger than {LARGEST // 1_000_000} MB.")
    rows = _workbook(content) if content[:2] == b"PK" else _text(content)
    while rows and not any(cell not in (None, "") for cell in rows[-1]):
        rows.pop()
    if not rows:
        raise TableError("The table has no rows.")
    return rows


def _text(content: bytes) -> list[list[Cell]]:
    if b"\x00" in content:
        raise TableError("This is neither a CSV text nor an XLSX workbook.")
    try:
        text = content.decode("utf-8-sig")
    except UnicodeDecodeError:
        text = content.decode("latin-1")
    first = text.split("\n", 1)[0]
    delimiter = max("\t;,", key=first.count)
    rows: list[list[Cell]] = []
    try:
        for row in csv.reader(io.StringIO(text, newline=""), delimiter=delimiter):
            if len(rows) >= MOST_ROWS or len(row) > MOST_COLUMNS or any(len(cell) > LONGEST_CELL for cell in row):
                raise TableError(f"A table has at most {MOST_ROWS} rows, {MOST_COLUMNS} columns and {LONGEST_CELL} characters a cell.")
            rows.append([cell.strip() for cell in row])
    except csv.Error as error:
        raise TableError(f"This is not a CSV table: {error}.") from error
    return rows


def _workbook(content: bytes) -> list[list[Cell]]:
    """The first sheet. The archive is looked at before it is unpacked; XML goes through defusedxml, which openpyxl uses where it is installed."""
    from openpyxl import load_workbook

    try:
        with zipfile.ZipFile(io.BytesIO(content)) as archive:
            members = archive.infolist()
            if len(members) > MEMBERS or sum(m.file_size for m in members) > UNPACKED:
                raise TableError("The workbook is too large when unpacked.")
        book = load_workbook(io.BytesIO(content), read_only=True, data_only=True, keep_links=False)
        sheet = book.worksheets[0]
        rows = []
        for row in sheet.iter_rows(max_row=MOST_ROWS + 1, max_col=MOST_COLUMNS, values_only=True):
            cells = [_cell(value) for value in row]
            while cells and cells[-1] is None:
                cells.pop()
            rows.append(cells)
    except TableError:
        raise
    except Exception as error:  # whatever a damaged or hostile archive makes the library raise
        raise TableError("This workbook cannot be read; save it again as XLSX or as CSV.") from error
    if len(rows) > MOST_ROWS:
        raise TableError(f"A table has at most {MOST_ROWS} rows.")
    return rows


def _cell(value: Any) -> Cell:
    if value is None or isinstance(value, float):
        return value
    if isinstance(value, bool) or not isinstance(value, int):
        return str(value)[:LONGEST_CELL].strip()
    return float(value)
