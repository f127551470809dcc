"""What is specified of a column on the sheet, and what a state has of it, of rows that wait too."""

from __future__ import annotations

import numpy as np

from wattaxis.columns import ColumnError, ColumnState, StagedColumn, Want
from wattaxis.columns.qualities import BOILING, DENSITY, DEW, VAPOUR_PRESSURE
from wattaxis.columns.wants import BOIL_UP, COMPONENT_RATIO, DUTY, FLOW, FRACTION, MASS, RECOVERY, TEMPERATURE
from wattaxis.unitops.base import ResultValue, UnitFault
from wattaxis.unitops.columns.built import Built
from wattaxis.unitops.columns.names import (
    MASS_FRACTION,
    PRODUCTS,
    RATIO,
    REBOILER_HEAT,
    SHARE,
    SINGLE,
    SPECIFYING,
    WAITING,
    cell_si,
    draw_name,
    possible,
    pump_name,
    stripper_name,
)
from wattaxis.unitops.table import GivenRow

#: Kinds of what is measured.
KINDS = {
    COMPONENT_RATIO: "number",
    TEMPERATURE: "temperature",
    BOILING: "temperature",
    DEW: "temperature",
    VAPOUR_PRESSURE: "pressure",
    DENSITY: "density",
}


def wants_of(build: Built) -> list[Want]:
    """What is specified. Raises UnitFault for a row that says nothing of the column."""
    able = (key for key in SINGLE if possible(key, build.condenser, build.reboiler))
    found = [SINGLE[key](value) for key in able if (value := build.givens.si(key)) is not None]
    if REBOILER_HEAT in build.givens.energy:
        found.append(Want(DUTY, build.givens.power(REBOILER_HEAT) or 0.0, place="reboiler"))
    found += [_checked(build, key, row) for key in SPECIFYING for row in build.rows(key) if row.cells.get("use") != WAITING]
    found += [_flow_or_purity(build, "draws", row, draw_name(row)) for row in build.rows("draws")]
    for row in build.rows("pump_arounds"):
        name = pump_name(row)
        found += [Want(FLOW, cell_si(row.cells["flow"], "mole_flow"), name), Want(DUTY, cell_si(row.cells["power"], "power"), place=name)]
    for row in build.rows("strippers"):
        name = stripper_name(row)
        found.append(_flow_or_purity(build, "strippers", row, name))
        if "boil_up" in row.cells:
            found.append(Want(BOIL_UP, cell_si(row.cells["boil_up"], "number"), place=name))
    return found


def measured(build: Built, staged: StagedColumn, state: ColumnState) -> list[ResultValue]:
    """What a state has of every row that specifies something or waits, by the name of its table and its own."""
    found = []
    for key in SPECIFYING:
        for row in build.rows(key):
            try:
                want = _checked(build, key, row)
                value = staged.measured(want, state)
            except (ColumnError, UnitFault):
                continue  # a row that waits may speak of what this column has not
            if np.isfinite(value):
                found.append(ResultValue(row_value(key, row), text_of(want), kind_of(want), value))
    return found


def row_value(table: str, row: GivenRow) -> str:
    """Under which name a formula finds what a row measures."""
    return f"{table}_{row.id}"


def text_of(want: Want) -> str:
    """A want as a title."""
    return want.text[0].upper() + want.text[1:]


def kind_of(want: Want) -> str:
    """The kind of quantity that its value is."""
    return KINDS.get(want.kind, "fraction")


def _checked(build: Built, key: str, row: GivenRow) -> Want:
    """What a row says, of components and stages of the column. Raises UnitFault for others."""
    if key == "temperatures":
        build.row_stage(row, key)
    if key == "purities":
        build.names(row, f"{key}[{row.id}]", str(row.cells["counts"]))
    return row_want(key, row)


def row_want(key: str, row: GivenRow) -> Want:
    """What a row of a table says, of whatever column. Raises KeyError where a cell is blank without which it says nothing."""
    cells = row.cells
    if key == "temperatures":
        return Want(TEMPERATURE, _value(row, "temperature", "temperature"), stage=round(cell_si(cells["stage"], "ordinal")))
    product = PRODUCTS[str(cells["product"])]
    if key == "qualities":
        return _quality(row, product)
    counts, value = str(cells["counts"]), _value(row, "value", "fraction")
    names = tuple(str(cells[name]) for name in (("component", "over") if counts == RATIO else ("component",)) if name in cells)
    if counts in (SHARE, RATIO):
        return Want(RECOVERY if counts == SHARE else COMPONENT_RATIO, value, product, names)
    return Want(FRACTION, value, product, names, MASS if counts == MASS_FRACTION else "mole")


def _quality(row: GivenRow, product: str) -> Want:
    kind = str(row.cells["quality"])
    own = {VAPOUR_PRESSURE: "pressure", DENSITY: "density"}.get(kind, "temperature")
    T, P = (0.0 if own == cell else cell_si(row.cells[cell], cell) for cell in ("temperature", "pressure"))
    return Want(kind, _value(row, own, own), product, T=T, P=P)


def _value(row: GivenRow, key: str, kind: str) -> float:
    """What a row wants; blank where it waits."""
    return cell_si(row.cells[key], kind) if key in row.cells else np.nan


def _flow_or_purity(build: Built, table: str, row: GivenRow, name: str) -> Want:
    """What is wanted of something that is taken from the side."""
    field = f"{table}[{row.id}]"
    if "flow" in row.cells and "purity" in row.cells:
        what = f"{name[0].upper()}{name[1:]} has a flow and a mole fraction, and one of them follows from the other."
        raise UnitFault(what, "Clear one of the two.", f"{field}.purity")
    if "flow" in row.cells:
        return Want(FLOW, cell_si(row.cells["flow"], "mole_flow"), name)
    return Want(FRACTION, cell_si(row.cells["purity"], "fraction"), name, build.names(row, field))
