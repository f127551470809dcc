"""Names, ports and tables of columns on the sheet, and how many specifications they take."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from wattaxis.columns import Want
from wattaxis.columns.layout import BOTTOMS, DECANTING, DISTILLATE, MIXED, NONE, OVERHEAD, PARTIAL, TOTAL
from wattaxis.columns.qualities import PROPERTIES
from wattaxis.columns.wants import BOIL_UP, DUTY, FLOW, REFLUX
from wattaxis.quantities import Quantity, to_si
from wattaxis.unitops.base import Givens, UnitFault, UnitSpec
from wattaxis.unitops.table import Column, GivenRow, GivenTable

TOTAL_CONDENSER, PARTIAL_CONDENSER, MIXED_CONDENSER, NO_CONDENSER = "total", "vapour product", "vapour and liquid product", "none"
DECANTER = "total, with decanter"
CONDENSERS = {
    TOTAL_CONDENSER: TOTAL,
    PARTIAL_CONDENSER: PARTIAL,
    MIXED_CONDENSER: MIXED,
    DECANTER: DECANTING,
    NO_CONDENSER: NONE,
}
#: Which of two liquids goes back from a decanter.
LIGHT_BACK, HEAVY_BACK = "lighter liquid", "heavier liquid"
BACK = {LIGHT_BACK: "light", HEAVY_BACK: "heavy"}
BY_STAGES, SHORT_CUT = "stage by stage", "short-cut"
KETTLE, ONCE_THROUGH, CIRCULATING, NO_REBOILER = "kettle", "once through", "circulating", "none"
REBOILERS = (KETTLE, ONCE_THROUGH, CIRCULATING)
MOLE_FRACTION, MASS_FRACTION, SHARE, RATIO = "mole fraction", "mass fraction", "recovery", "ratio"
INLET, VAPOUR, LIQUID, HEAVY, CONDENSER_HEAT, REBOILER_HEAT = "inlet", "vapour", "distillate", "bottoms", "condenser_heat", "reboiler_heat"
#: The products of the document by port.
PRODUCTS = {VAPOUR: OVERHEAD, LIQUID: DISTILLATE, HEAVY: BOTTOMS}
#: What may be specified by a value of its own, with what that is of the column.
SINGLE: dict[str, Callable[[float], Want]] = {
    "reflux_ratio": lambda value: Want(REFLUX, value),
    "boil_up_ratio": lambda value: Want(BOIL_UP, value),
    "distillate_flow": lambda value: Want(FLOW, value, DISTILLATE),
    "vapour_flow": lambda value: Want(FLOW, value, OVERHEAD),
    "bottoms_flow": lambda value: Want(FLOW, value, BOTTOMS),
    "condenser_duty": lambda value: Want(DUTY, value, place="condenser"),
    "reboiler_duty": lambda value: Want(DUTY, value, place="reboiler"),
}
#: How a feed comes in: all of it on its stage, or its vapour to the liquid of the stage above.
WHOLE_FEED, PARTED_FEED = "on the stage", "vapour above"
ENTERS = Column("enters", "Enters", "option", "blank: all of it on the stage", options=(WHOLE_FEED, PARTED_FEED))
FEEDS = (Column("stream", "Stream", "stream"), Column("stage", "Stage", "ordinal", "counted from the top, the condenser among them"), ENTERS)
HEATS = (Column("stage", "Stage", "ordinal"), Column("power", "Heat added", "power", "negative: it is taken"))
DRAWS = (
    Column("stage", "Stage", "ordinal"),
    Column("phase", "Phase", "option", options=("liquid", "vapour")),
    Column("flow", "Flow", "mole_flow", "or a component with its mole fraction"),
    Column("component", "Component", "component"),
    Column("purity", "Mole fraction", "fraction"),
)
PUMP_AROUNDS = (
    Column("from", "From stage", "ordinal"),
    Column("to", "To stage", "ordinal"),
    Column("flow", "Flow", "mole_flow"),
    Column("power", "Heat added", "power", "negative: it is cooled"),
)
STRIPPERS = (
    Column("stages", "Stages", "ordinal", "they count on from the last of the column"),
    Column("from", "Liquid from stage", "ordinal"),
    Column("to", "Vapour to stage", "ordinal"),
    Column("flow", "Product", "mole_flow", "what leaves it below"),
    Column("boil_up", "Boil-up ratio", "number", "blank: no reboiler, steam is fed to its last stage"),
    Column("component", "Component", "component", "of the product, in the place of its flow"),
    Column("purity", "Mole fraction", "fraction"),
)
EFFICIENCIES = (
    Column("from", "From stage", "ordinal"),
    Column("to", "To stage", "ordinal"),
    Column("component", "Component", "component", "blank: of all"),
    Column("efficiency", "Efficiency", "fraction"),
)
PRESSURES = (Column("stage", "Stage", "ordinal"), Column("pressure", "Pressure", "pressure"))
HOLD_UPS = (
    Column("from", "From stage", "ordinal"),
    Column("to", "To stage", "ordinal"),
    Column("liquid", "Liquid on each", "volume", "where rates count by volume"),
    Column("time", "Residence time", "time", "of the liquid, in the place of its volume"),
    Column("catalyst", "Catalyst on each", "mass", "where rates count by mass of catalyst"),
)
#: Whether a row settles the column, or is only measured.
SPECIFIED, WAITING = "specified", "waiting"
USE = Column("use", "Use", "option", "waiting: it is told, and settles nothing", options=(SPECIFIED, WAITING))
PRODUCT = Column("product", "Product", "option", options=tuple(PRODUCTS))
PURITIES = (
    PRODUCT,
    Column("component", "Component", "component", "of a recovery blank: of all that is fed"),
    Column(
        "counts", "Counts as", "option", "recovery: the share of what is fed; ratio: in moles", options=(MOLE_FRACTION, MASS_FRACTION, SHARE, RATIO)
    ),
    Column("value", "Value", "share"),
    Column("over", "Over component", "component", "of a ratio"),
    USE,
)
TEMPERATURES = (Column("stage", "Stage", "ordinal"), Column("temperature", "Temperature", "temperature"), USE)
QUALITIES = (
    PRODUCT,
    Column("quality", "Property", "option", options=tuple(PROPERTIES)),
    Column("temperature", "Temperature", "temperature", "the value of a boiling or dew temperature, else where it is measured"),
    Column("pressure", "Pressure", "pressure", "the value of a vapour pressure, else where it is measured"),
    Column("density", "Density", "density", "of a liquid density"),
    USE,
)
#: Tables in which every cell is needed, with those that need not be.
TABLES: dict[str, tuple[tuple[Column, ...], frozenset[str]]] = {
    "feeds": (FEEDS, frozenset({"enters"})),
    "draws": (DRAWS, frozenset({"flow", "component", "purity"})),
    "pump_arounds": (PUMP_AROUNDS, frozenset()),
    "strippers": (STRIPPERS, frozenset({"boil_up", "flow", "component", "purity"})),
    "purities": (PURITIES, frozenset({"component", "over", "use"})),
    "temperatures": (TEMPERATURES, frozenset({"use"})),
    "qualities": (QUALITIES, frozenset({"density", "use"})),
    "heats": (HEATS, frozenset()),
    "efficiencies": (EFFICIENCIES, frozenset({"component"})),
    "pressures": (PRESSURES, frozenset()),
    "hold_ups": (HOLD_UPS, frozenset({"liquid", "time", "catalyst"})),
}


#: Cells that a row that waits may leave blank.
VALUES = {"purities": frozenset({"value"}), "temperatures": frozenset({"temperature"})}
#: Tables of which each row is a specification.
SPECIFYING = ("purities", "temperatures", "qualities")


def specifying(spec: UnitSpec) -> list[str]:
    """The rows of the tables that specify something, by their paths."""
    return [f"{key}[{row.id}]" for key in SPECIFYING for row in rows_of(getattr(spec, key, None)) if row.cells.get("use") != WAITING]


def rows_of(table: Any) -> Sequence[GivenRow]:
    """The rows of a table that may be blank."""
    return table.rows if isinstance(table, GivenTable) else ()


def draw_name(row: GivenRow) -> str:
    """How a column calls what a row of its draws takes."""
    return f"draw {row.id}"


def pump_name(row: GivenRow) -> str:
    """How a column calls what a row of its pump-arounds moves."""
    return f"pump-around {row.id}"


def stripper_name(row: GivenRow) -> str:
    """How a column calls the side stripper of a row, and its product."""
    return f"side stripper {row.id}"


def cell_si(cell: Any, kind: str) -> float:
    """A cell in SI; the tables were looked through before."""
    assert isinstance(cell, Quantity)
    return to_si(cell, kind)


def ends(spec: UnitSpec) -> tuple[str, bool]:
    """The condenser as columns know it, and whether there is a reboiler; blank ones count as the usual."""
    return CONDENSERS.get(getattr(spec, "condenser", None) or TOTAL_CONDENSER, TOTAL), getattr(spec, "reboiler", None) != NO_REBOILER


def freedom(condenser: str, reboiler: bool) -> int:
    """How many specifications a column takes, its draws left out.

    >>> freedom("total", True), freedom("none", False)
    (2, 0)
    """
    return {TOTAL: 1, PARTIAL: 1, MIXED: 2, DECANTING: 0, NONE: 0}[condenser] + reboiler


def possible(key: str, condenser: str, reboiler: bool) -> bool:
    """Whether a column with such ends has what a field specifies."""
    if key in ("reflux_ratio", "condenser_duty"):
        return condenser != NONE
    if key in ("boil_up_ratio", "reboiler_duty"):
        return reboiler
    return {"distillate_flow": condenser not in (PARTIAL, NONE), "vapour_flow": condenser not in (TOTAL, DECANTING)}.get(key, True)


def bare(value: float) -> dict[str, Any]:
    """A number as edits write it."""
    return {"value": value, "unit": ""}


def moved(stage: int, before: int, after: int) -> int:
    """The stage at the same height of another number; those of side strippers count on from the last."""
    if stage > before:
        return after + stage - before
    return 1 if before == 1 else 1 + round((stage - 1) * (after - 1) / (before - 1))


def places_in(columns: Sequence[Column]) -> list[str]:
    """The columns of a table that name a stage, which moves with the number of stages."""
    return [c.key for c in columns if c.kind == "ordinal" and c.key != "stages"]


def with_stages(givens: Givens, placed: Sequence[tuple[str, int]], number: int) -> tuple[dict[str, Any], ...]:
    """Edits that give a column so many stages, with all that stands on stages at the same height; feeds are ``placed`` by tag and stage."""
    before, found = round(givens.si("stages") or 1.0), {"stages": bare(float(number))}
    for key, (columns, _) in TABLES.items():
        for row in rows_of(givens.raw(key)):
            for place in (place for place in places_in(columns) if place in row.cells):
                found[f"{key}[{row.id}].{place}"] = bare(float(moved(round(cell_si(row.cells[place], "ordinal")), before, number)))
    known = {str(row.cells.get("stream")) for row in rows_of(givens.raw("feeds"))}
    fed = [{"stream": tag, "stage": bare(float(moved(at, before, number)))} for tag, at in placed if tag not in known]
    rows = ({"kind": "set_row", "unit": "", "field": "feeds", "cells": cells} for cells in fed)
    return ({"kind": "set_values", "unit": "", "values": found}, *rows)


def whole_number(value: float, what: str, most: int) -> int:
    """A number of stages. Raises UnitFault for what is none."""
    if not 1.0 <= value <= most or value != round(value):
        raise UnitFault(f"{value:g} {what} cannot be calculated.", f"Give a whole number from 1 to {most}.", what)
    return int(value)


def stage_of(value: float, most: int, what: str, field: str) -> int:
    """A stage of a column with so many. Raises UnitFault for another."""
    if not 1 <= value <= most or value != round(value):
        raise UnitFault(f"{what} on stage {value:g}, and the column has stages 1 to {most}.", "Give one of them.", field)
    return int(value)
