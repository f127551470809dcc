"""Tables that are given: rows with an identity, so that two people may edit two rows, and typed columns that the unit describes."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Annotated

import numpy as np
from pydantic import BaseModel, ConfigDict, Field, model_validator

from wattaxis.properties.state import Vector
from wattaxis.quantities import KINDS, Quantity, QuantityError, to_si

#: Rows that any table may have; a unit may allow fewer.
MOST_ROWS = 200
RowId = Annotated[str, Field(pattern=r"^[A-Za-z0-9_-]{1,20}$")]
Cell = Quantity | Annotated[str, Field(max_length=60)]


@dataclass(frozen=True)
class Column:
    """A column of a table that is given.

    ``kind`` names a quantity kind, "option" for one of ``options``, "component" for one of the plant's, "stream" for
    the tag of one, or "reaction" for one of the set that the unit chooses.
    """

    key: str
    title: str
    kind: str
    help: str = ""
    options: tuple[str, ...] = ()
    #: The unit that a bare number has until one is typed; the unit set's where it is blank.
    unit: str = ""

    @property
    def quantity(self) -> bool:
        """Whether its cells are quantities."""
        return self.kind in KINDS


class GivenRow(BaseModel):
    """A row: its identity within the table, and its cells by column; one left out is blank."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    id: RowId
    cells: Mapping[str, Cell] = {}


class GivenTable(BaseModel):
    """A table as typed, its rows in their order."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    rows: tuple[GivenRow, ...] = Field(default=(), max_length=MOST_ROWS)

    @model_validator(mode="after")
    def _one_of_each(self) -> GivenTable:
        ids = [row.id for row in self.rows]
        if len(set(ids)) < len(ids):
            raise ValueError(f"two rows have the id {next(i for i in ids if ids.count(i) > 1)!r}")
        return self

    @property
    def says_nothing(self) -> bool:
        """Whether it has no row."""
        return not self.rows

    def row(self, id: str) -> GivenRow | None:
        """The row of an id."""
        return next((row for row in self.rows if row.id == id), None)

    def free_id(self) -> str:
        """The number after the highest that a row has."""
        return str(1 + max((int(row.id) for row in self.rows if row.id.isdecimal()), default=0))

    def si(self, column: Column) -> Vector:
        """The cells of a column in SI, shape (rows,), nan where blank. Raises QuantityError."""
        cells = (row.cells.get(column.key) for row in self.rows)
        return np.array([to_si(cell, column.kind) if isinstance(cell, Quantity) else np.nan for cell in cells])


def table_problem(table: GivenTable, columns: tuple[Column, ...], most: int) -> tuple[str, str] | None:
    """What is wrong with a table and where ("[2].flow"), None where it can be read."""
    if len(table.rows) > most:
        return f"it has {len(table.rows)} rows, and may have {most}", ""
    known = {column.key: column for column in columns}
    for number, row in enumerate(table.rows, 1):
        for key, cell in row.cells.items():
            wrong = f"there is no column {key!r}; there are {', '.join(known)}" if key not in known else _wrong(cell, known[key])
            if wrong:
                return f"row {number}: {wrong}", f"[{row.id}].{key}"
    return None


def _wrong(cell: Quantity | str, column: Column) -> str:
    title = column.title.lower()
    if column.quantity != isinstance(cell, Quantity):
        return f"{title} takes {'a number with a unit' if column.quantity else 'a name'}, not {cell}"
    if isinstance(cell, Quantity):
        try:
            to_si(cell, column.kind)
        except QuantityError as error:
            return f"{title}: {error}"
    elif column.kind == "option" and cell not in column.options:
        return f'{title}: there is no "{cell}"; there are {", ".join(column.options)}'
    return ""
