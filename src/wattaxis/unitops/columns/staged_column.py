"""Staged column: distillation, absorption, stripping, with what is wanted of it in the place of what a solver likes."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from typing import TYPE_CHECKING, Any

import numpy as np

from wattaxis.columns import ColumnError, ColumnFeed, ColumnState, SideDraw, StagedColumn, Want
from wattaxis.columns.layout import BOTTOMS, DISTILLATE, MIXED, NONE, OVERHEAD, PARTIAL, TOTAL
from wattaxis.columns.wants import BOIL_UP, DUTY, FLOW, FRACTION, MASS, RECOVERY, REFLUX, TEMPERATURE
from wattaxis.properties import FlashError
from wattaxis.properties.state import Vector
from wattaxis.quantities import Quantity, to_si
from wattaxis.unitops.base import (
    Ask,
    Choice,
    EnergyState,
    Field,
    Finding,
    Givens,
    Port,
    ResultValue,
    StreamState,
    UnitFault,
    UnitOperation,
    UnitResult,
    UnitSpec,
)
from wattaxis.unitops.columns.parts import part_of
from wattaxis.unitops.columns.short_cut import Asked, keys_of, shortened
from wattaxis.unitops.columns.stepping import misplaced, steps
from wattaxis.unitops.profile import Profile, ProfilePort, column
from wattaxis.unitops.registry import unit_operation
from wattaxis.unitops.table import Column, GivenTable

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel

TOTAL_CONDENSER, PARTIAL_CONDENSER, MIXED_CONDENSER, NO_CONDENSER = "total", "vapour product", "vapour and liquid product", "none"
CONDENSERS = {TOTAL_CONDENSER: TOTAL, PARTIAL_CONDENSER: PARTIAL, MIXED_CONDENSER: MIXED, NO_CONDENSER: NONE}
BY_STAGES, SHORT_CUT = "stage by stage", "short-cut"
KETTLE, NO_REBOILER = "kettle", "none"
MOLE_FRACTION, MASS_FRACTION, SHARE = "mole fraction", "mass fraction", "recovery"
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
FEEDS = (Column("stream", "Stream", "stream"), Column("stage", "Stage", "count", "counted from the top, the condenser among them"))
DRAWS = (
    Column("stage", "Stage", "count"),
    Column("phase", "Phase", "option", options=("liquid", "vapour")),
    Column("flow", "Flow", "mole_flow"),
)
PURITIES = (
    Column("product", "Product", "option", options=tuple(PRODUCTS)),
    Column("component", "Component", "component"),
    Column("counts", "Counts as", "option", "recovery: the share of what is fed", options=(MOLE_FRACTION, MASS_FRACTION, SHARE)),
    Column("value", "Value", "fraction"),
)
TEMPERATURES = (Column("stage", "Stage", "count"), Column("temperature", "Temperature", "temperature"))
#: K below which water does not take the heat of a condenser.
COOL = 303.15
#: Share by which a feed's pressure may lie below that of its stage.
_SLACK = 1e-6


class StagedColumnSpec(UnitSpec):
    """How it is calculated, stages, condenser, reboiler, pressures, feeds, draws, and as many specifications as the column has freedom."""

    calculation: str | None = None
    stages: Quantity | None = None
    condenser: str | None = None
    reboiler: str | None = None
    top_pressure: Quantity | None = None
    pressure_drop: Quantity | None = None
    feeds: GivenTable | None = None
    draws: GivenTable | None = None
    reflux_ratio: Quantity | None = None
    boil_up_ratio: Quantity | None = None
    distillate_flow: Quantity | None = None
    vapour_flow: Quantity | None = None
    bottoms_flow: Quantity | None = None
    condenser_duty: Quantity | None = None
    reboiler_duty: Quantity | None = None
    purities: GivenTable | None = None
    temperatures: GivenTable | None = None
    efficiency: Quantity | None = None
    subcooling: Quantity | None = None


COOLED = (TOTAL_CONDENSER, PARTIAL_CONDENSER, MIXED_CONDENSER)


def _beside(options: tuple[str, ...], field: str = "condenser") -> dict[str, Any]:
    """Of a field that has a meaning with these condensers, or reboilers."""
    return {"beside": field, "among": options}


def _rows(table: Any) -> int:
    return len(table.rows) if isinstance(table, GivenTable) else 0


@unit_operation
class StagedColumnUnit(UnitOperation):
    """A column of equilibrium stages, solved as a whole."""

    type = "staged-column"
    title = "Column"
    symbol = "column"
    letter = "T"
    also = ("distillation", "absorber", "stripper", "rectifier", "tower", "fractionator", "scrubber")
    family = "separation"
    theory = (
        "The balances, equilibria and heat balances of all stages are solved at once by Newton's method (Naphtali, Sandholm 1971), with what is "
        "specified among the equations. The start is a short-cut one: Fenske's distribution, constant molal overflow and bubble points. Murphree's "
        "efficiency of the vapour counts on every stage but condenser, reboiler and the lowest. Stages count from the top, with the condenser as the "
        "first and the reboiler as the last where they are there."
    )
    Spec = StagedColumnSpec
    ports = (
        Port(INLET, "Feeds", "in", many=True, place=(0.0, 0.5)),
        Port(VAPOUR, "Overhead vapour", "out", needed=False, place=(0.5, 0.0)),
        Port(LIQUID, "Distillate", "out", place=(1.0, 0.15)),
        Port(HEAVY, "Bottoms", "out", place=(0.5, 1.0)),
        Port(CONDENSER_HEAT, "Heat of the condenser", "out", needed=False, place=(1.0, 0.05), kind="heat"),
        Port(REBOILER_HEAT, "Heat of the reboiler", "in", needed=False, place=(1.0, 0.95), kind="heat"),
    )
    fields = (
        Field("calculation", "Calculated", "option", "a short-cut takes the recoveries of two keys", options=(BY_STAGES, SHORT_CUT)),
        Field("stages", "Stages", "count", "condenser and reboiler among them"),
        Field("condenser", "Condenser", "option", options=tuple(CONDENSERS)),
        Field("reboiler", "Reboiler", "option", options=(KETTLE, NO_REBOILER)),
        Field("top_pressure", "Pressure at the top", "pressure"),
        Field("pressure_drop", "Pressure drop", "pressure_difference", "from the first to the last stage, the same on each"),
        Field("feeds", "Stages of the feeds", "table", "a stream without a row comes in half-way", columns=FEEDS, most=20),
        Field("draws", "Side draws", "table", "each has a port", columns=DRAWS, most=10),
        Field("reflux_ratio", "Reflux ratio", "number", "what goes back over all that leaves at the condenser, in moles", **_beside(COOLED)),
        Field("boil_up_ratio", "Boil-up ratio", "number", "vapour from the reboiler over the bottoms, in moles", **_beside((KETTLE,), "reboiler")),
        Field("distillate_flow", "Distillate", "mole_flow", **_beside((TOTAL_CONDENSER, MIXED_CONDENSER))),
        Field("vapour_flow", "Overhead vapour", "mole_flow", **_beside((PARTIAL_CONDENSER, MIXED_CONDENSER, NO_CONDENSER))),
        Field("bottoms_flow", "Bottoms", "mole_flow"),
        Field("condenser_duty", "Heat added in the condenser", "power", "negative: it is taken", **_beside(COOLED)),
        Field("reboiler_duty", "Heat added in the reboiler", "power", **_beside((KETTLE,), "reboiler")),
        Field("purities", "Purities and recoveries", "table", "each row is one specification", columns=PURITIES, most=6),
        Field("temperatures", "Temperatures of stages", "table", "each row is one specification", columns=TEMPERATURES, most=4),
        Field("efficiency", "Stage efficiency", "fraction", "of Murphree, for the vapour"),
        Field(
            "subcooling",
            "Subcooling of the distillate",
            "temperature_difference",
            "below its boiling point",
            beside="condenser",
            among=(TOTAL_CONDENSER,),
        ),
    )
    choices = (
        Choice("Calculated", ("calculation",), 1, ("calculation", BY_STAGES, "no short-cut was asked for")),
        Choice("Stages", ("stages",)),
        Choice("Condenser", ("condenser",)),
        Choice("Reboiler", ("reboiler",)),
        Choice("Pressure at the top", ("top_pressure",)),
        Choice("Pressure drop", ("pressure_drop",), 1, ("pressure_drop", Quantity(value=0.0, unit="bar"), "no pressure drop was given")),
        Choice("Stage efficiency", ("efficiency",), 1, ("efficiency", Quantity(value=100.0, unit="%"), "stages in equilibrium")),
        Choice("Specifications", tuple(SINGLE), 2, port=REBOILER_HEAT),
    )

    def ports_of(self, spec: UnitSpec) -> tuple[Port, ...]:
        """Of the products and heats that condenser, reboiler and draws bring with them."""
        condenser, reboiler = _ends(spec)
        gone = {VAPOUR} if condenser == TOTAL else {LIQUID} if condenser in (PARTIAL, NONE) else set()
        gone |= ({CONDENSER_HEAT} if condenser == NONE else set()) | (set() if reboiler else {REBOILER_HEAT})
        draws = getattr(spec, "draws", None)
        rows = draws.rows if isinstance(draws, GivenTable) else ()
        sides = tuple(Port(f"draw_{row.id}", f"Draw {k}", "out", place=(1.0, 0.25 + 0.5 * k / (len(rows) + 1))) for k, row in enumerate(rows, 1))
        return (*(port for port in self.ports if port.key not in gone), *sides)

    def choices_of(self, spec: UnitSpec) -> tuple[Choice, ...]:
        """As many specifications as the column has freedom, less those that tables hold."""
        condenser, reboiler = _ends(spec)
        if getattr(spec, "calculation", None) == SHORT_CUT:
            left_out = ("Stages", "Stage efficiency", "Specifications")
            always = tuple(choice for choice in self.choices if choice.title not in left_out)
            return (*always, Choice("Stages or reflux ratio", ("stages", "reflux_ratio")), Choice("Purities and recoveries", ("purities",)))
        able = [key for key in SINGLE if _possible(key, condenser, reboiler)]
        left = freedom(condenser, reboiler) - _rows(getattr(spec, "purities", None)) - _rows(getattr(spec, "temperatures", None))
        fixed = self.choices[:-1]
        return (*fixed, Choice("Specifications", tuple(able), left, port=REBOILER_HEAT if reboiler else "")) if left > 0 else fixed

    def asks(self, tag: str, spec: UnitSpec, component_ids: Sequence[str], connected: frozenset[str]) -> list[Ask]:
        """The choices, and what is blank in the rows of its tables."""
        found = super().asks(tag, spec, component_ids, connected)
        for key, columns in (("feeds", FEEDS), ("draws", DRAWS), ("purities", PURITIES), ("temperatures", TEMPERATURES)):
            table = getattr(spec, key, None)
            for number, row in enumerate(table.rows if isinstance(table, GivenTable) else (), 1):
                for blank in (c for c in columns if c.key not in row.cells):
                    text = f"{tag} needs the {blank.title.lower()} in row {number} of its {self.field_map()[key].title.lower()}."
                    found.append(Ask(tag, text, (f"{key}[{row.id}].{blank.key}",)))
        return found

    def excess(self, tag: str, spec: UnitSpec, connected: frozenset[str] = frozenset()) -> list[Finding]:
        """Quarrels of the choices, and more specifications than the column has freedom."""
        found = super().excess(tag, spec, connected)
        if getattr(spec, "calculation", None) == SHORT_CUT:
            return found
        condenser, reboiler = _ends(spec)
        single = [key for key in SINGLE if getattr(spec, key, None) is not None and _possible(key, condenser, reboiler)]
        rows = _rows(getattr(spec, "purities", None)) + _rows(getattr(spec, "temperatures", None))
        free = freedom(condenser, reboiler)
        if rows > free or (rows == free and single):
            titles = self.field_map()
            text = f"{tag} has {rows + len(single)} specifications, and this column takes {free or 'none'}."
            repair = ({"kind": "set_values", "unit": tag, "values": dict.fromkeys(single)},) if single and rows <= free else ()
            title = f"Clear {' and '.join(titles[key].title.lower() for key in single)}" if repair else ""
            found.append(Finding("fault", tag, text, "Clear what is too much.", "purities" if not single else single[-1], repair, title))
        return found

    def solve(self, givens: Givens, inlets: Mapping[str, Sequence[StreamState]], model: PropertyModel, outlets: frozenset[str]) -> UnitResult:
        """All stages at once."""
        feeds = inlets[INLET]
        if any(stream.state.solid_fraction > 0.0 for stream in feeds):
            raise UnitFault("Solids come in, and no stage takes them.", "Take them out first, by a filter or a cyclone.")
        if not any(stream.flow > 0.0 for stream in feeds):
            raise UnitFault("Nothing is fed to the column.", "Check the feeds.")
        if givens.option("calculation") == SHORT_CUT:
            return _short(givens, feeds, model)
        build = _Build(givens, feeds, model)
        near = givens.hint if isinstance(givens.hint, ColumnState) and givens.hint.x.shape == (build.stages, len(build.ids)) else None
        try:
            staged = build.column()
            state = staged.solve(build.wants(), near)
        except ColumnError as error:
            raise UnitFault(error.text, error.remedy) from error
        return _told(build, givens, state)


def _short(givens: Givens, feeds: Sequence[StreamState], model: PropertyModel) -> UnitResult:
    """By the short-cut: what it asks for is there, or a fault says so."""
    condenser = CONDENSERS[givens.option("condenser") or TOTAL_CONDENSER]
    if condenser not in (TOTAL, PARTIAL) or givens.option("reboiler") != KETTLE:
        text = "A short-cut is that of a column with a reboiler and a condenser with one product."
        raise UnitFault(text, f'Choose such ones, or "{BY_STAGES}".', "calculation")
    if isinstance(givens.raw("draws"), GivenTable):
        raise UnitFault("A short-cut knows no side draws.", f'Remove them, or choose "{BY_STAGES}".', "draws")
    purities = givens.raw("purities")
    rows = [{**row.cells, "value": _si(row.cells["value"], "fraction")} for row in purities.rows]
    keys = keys_of(rows)
    if keys is None:
        text = "A short-cut needs two recoveries: that of the light key at the top, and that of the heavy key in the bottoms."
        raise UnitFault(text, "Give one row for each.", "purities")
    fed = np.sum([stream.flows for stream in feeds], axis=0)
    ids = tuple(c.id for c, flow in zip(model.components, fed, strict=True) if flow > 0.0)
    part, places = part_of(model.fluid, ids), np.array([model.index(name) for name in ids])
    top = givens.si("top_pressure") or 0.0
    asked = Asked(
        *keys, (top, top + (givens.si("pressure_drop") or 0.0)), condenser == PARTIAL, givens.si("reflux_ratio"), _stages_given(givens, condenser)
    )
    found = shortened(part, asked, fed[places], sum(stream.enthalpy_flow for stream in feeds))
    leaving = {VAPOUR if asked.partial else LIQUID: found.top, HEAVY: found.bottoms}
    whole = {port: _whole(stream, model, places) for port, stream in leaving.items()}
    heat = sum(stream.enthalpy_flow for stream in whole.values()) - sum(stream.enthalpy_flow for stream in feeds)
    for port in (CONDENSER_HEAT, REBOILER_HEAT):
        if port in givens.connected or port in givens.energy:
            raise UnitFault("A short-cut is no heat balance that streams could set.", f'Disconnect the heat, or choose "{BY_STAGES}".', "calculation")
    values = (*found.values, *(ResultValue(f"{port}_flow", port.capitalize(), "mole_flow", s.flow) for port, s in whole.items()))
    return UnitResult(whole, heat, values, (_as_start(givens, found.values),), profiles=() if givens.draft else found.profiles)


def _as_start(givens: Givens, values: Sequence[ResultValue]) -> Finding:
    """The same recoveries stage by stage, with the stages of the short-cut, as one edit."""
    of = {value.key: value.value for value in values}
    stages, at = max(math.ceil(of["stages_needed"] - 1e-9), 2), int(of["feed_stage"])
    cells = [{"stream": tag, "stage": {"value": float(at), "unit": ""}} for tag in givens.tags.get(INLET, ())]
    feeds = {"rows": [{"id": str(k), "cells": row} for k, row in enumerate(cells, 1)]}
    values_then = {"calculation": BY_STAGES, "stages": {"value": float(stages), "unit": ""}, "reflux_ratio": None, "feeds": feeds}
    text = f"By the short-cut it has {stages} stages with the feed on stage {at}; stage by stage the reflux ratio follows from them."
    repair = ({"kind": "set_values", "unit": "", "values": values_then},)
    return Finding("note", "", text, "Take it as a start.", "calculation", repair, "Calculate it stage by stage")


def _stages_given(givens: Givens, condenser: str) -> float | None:
    """As the short-cut counts them: the reboiler among them, a total condenser not."""
    given = givens.si("stages")
    return None if given is None else given - (condenser == TOTAL)


def _whole(stream: StreamState, model: PropertyModel, places: Any) -> StreamState:
    """A product with all components of the plant."""
    z = np.zeros(len(model.components))
    z[places] = stream.state.fractions
    return StreamState(stream.flow, model.flash(z, P=stream.state.pressure, VF=stream.state.vapour_fraction))


def _ends(spec: UnitSpec) -> tuple[str, bool]:
    return CONDENSERS.get(getattr(spec, "condenser", None) or TOTAL_CONDENSER, TOTAL), getattr(spec, "reboiler", None) != NO_REBOILER


def freedom(condenser: str, reboiler: bool) -> int:
    """How many specifications a column takes, its draws left out.

    >>> freedom("total", True), freedom("none", False)
    (2, 0)
    """
    return {TOTAL: 1, PARTIAL: 1, MIXED: 2, NONE: 0}[condenser] + reboiler


def _possible(key: str, condenser: str, reboiler: bool) -> bool:
    if key in ("reflux_ratio", "condenser_duty"):
        return condenser != NONE
    if key in ("boil_up_ratio", "reboiler_duty"):
        return reboiler
    return {"distillate_flow": condenser in (TOTAL, MIXED), "vapour_flow": condenser != TOTAL}.get(key, True)


class _Build:
    """The column of a unit, of the components that are fed."""

    def __init__(self, givens: Givens, feeds: Sequence[StreamState], model: PropertyModel) -> None:
        self.givens, self.feeds, self.whole = givens, feeds, model
        self.condenser, self.reboiler = CONDENSERS[givens.option("condenser") or TOTAL_CONDENSER], givens.option("reboiler") == KETTLE
        self.stages = _count(givens.si("stages") or 0.0, "stages", 200)
        fed = np.sum([stream.flows for stream in feeds], axis=0)
        self.ids = [c.id for c, flow in zip(model.components, fed, strict=True) if flow > 0.0]
        self.model = part_of(model.fluid, tuple(self.ids))
        self._places = np.array([model.index(name) for name in self.ids])
        top, drop = givens.si("top_pressure") or 0.0, givens.si("pressure_drop") or 0.0
        if drop < 0.0:
            raise UnitFault(
                "The pressure would be higher at the top than at the bottom, and no vapour rises.", "Give a drop of 0 or more.", "pressure_drop"
            )
        self.P = np.linspace(top, top + drop, self.stages) if self.stages > 1 else np.array([top])
        self.placed: list[tuple[str, int]] = []
        self.findings: list[Finding] = []
        self._place_feeds()

    def _place_feeds(self) -> None:
        table, tags = self.givens.raw("feeds"), self.givens.tags.get(INLET, ())
        given: dict[str, int] = {}
        for row in table.rows if isinstance(table, GivenTable) else ():
            tag = str(row.cells["stream"])
            if tag not in tags:
                came = ", ".join(tags) or "none"
                raise UnitFault(
                    f'No stream "{tag}" is fed to the column; there is {came}.', "Choose one of them, or remove the row.", f"feeds[{row.id}].stream"
                )
            if tag in given:
                raise UnitFault(f"{tag} has two stages.", "Remove one of the rows; parts of a stream come by a splitter.", f"feeds[{row.id}].stage")
            given[tag] = self.on_stage(_si(row.cells["stage"], "count"), f"{tag} comes in", f"feeds[{row.id}].stage")
        for tag, stream in zip(tags, self.feeds, strict=True):
            at = given.get(tag, (self.stages + 1) // 2)
            if tag not in given and stream.flow > 0.0:
                text = f"{tag} has no stage and was taken to come in half-way, on stage {at}."
                self.findings.append(Finding("caution", "", text, "Give the stage on which it comes in.", "feeds"))
            self.placed.append((tag, at))
            if stream.flow > 0.0 and stream.state.pressure < self.P[at - 1] * (1.0 - _SLACK):
                text = (
                    f"{tag} has {stream.state.pressure / 1e5:.4g} bar, and stage {at} {self.P[at - 1] / 1e5:.4g} bar: it does not flow in by itself."
                )
                self.findings.append(Finding("caution", "", text, "Pump it, or lower the pressure of the column.", "top_pressure"))

    def on_stage(self, value: float, what: str, field: str) -> int:
        """A stage of the column. Raises UnitFault for another."""
        if not 1 <= value <= self.stages or value != round(value):
            raise UnitFault(f"{what} on stage {value:g}, and the column has stages 1 to {self.stages}.", "Give one of them.", field)
        return int(value)

    def column(self) -> StagedColumn:
        """As it is built. Raises ColumnError."""
        feeds = [
            ColumnFeed(at, stream.flows[self._places], stream.enthalpy_flow)
            for (_, at), stream in zip(self.placed, self.feeds, strict=True)
            if stream.flow > 0.0
        ]
        draws = [SideDraw(row.id, self._stage_of(row, "draws"), str(row.cells["phase"])) for row in self._rows("draws")]
        efficiency = self.givens.si("efficiency")
        if efficiency is None or not 0.0 < efficiency <= 1.5:
            raise UnitFault("A stage efficiency lies above 0 and is 100 % as a rule.", "Give such a one.", "efficiency")
        return StagedColumn(
            self.model,
            feeds,
            stages=self.stages,
            pressure=self.P,
            condenser=self.condenser,
            reboiler=self.reboiler,
            draws=draws,
            efficiencies=efficiency,
            subcooling=(self.givens.si("subcooling") or 0.0) if self.condenser == TOTAL else 0.0,
        )

    def _rows(self, key: str) -> Sequence[Any]:
        table = self.givens.raw(key)
        return table.rows if isinstance(table, GivenTable) else ()

    def _stage_of(self, row: Any, key: str) -> int:
        return self.on_stage(_si(row.cells["stage"], "count"), f"Row {row.id} is", f"{key}[{row.id}].stage")

    def wants(self) -> list[Want]:
        """What is specified."""
        able = (key for key in SINGLE if _possible(key, self.condenser, self.reboiler))
        found = [SINGLE[key](value) for key in able if (value := self.givens.si(key)) is not None]
        if REBOILER_HEAT in self.givens.energy:
            found.append(Want(DUTY, self.givens.power(REBOILER_HEAT) or 0.0, place="reboiler"))
        for row in self._rows("purities"):
            counts, port, name = (str(row.cells[key]) for key in ("counts", "product", "component"))
            value, field = _si(row.cells["value"], "fraction"), f"purities[{row.id}]"
            if name not in self.ids:
                raise UnitFault(f"A specification speaks of {name}, and none of it is fed.", "Choose a component that is fed.", f"{field}.component")
            kind = RECOVERY if counts == SHARE else FRACTION
            found.append(Want(kind, value, PRODUCTS[port], (name,), MASS if counts == MASS_FRACTION else "mole"))
        for row in self._rows("temperatures"):
            found.append(Want(TEMPERATURE, _si(row.cells["temperature"], "temperature"), stage=self._stage_of(row, "temperatures")))
        found += [Want(FLOW, _si(row.cells["flow"], "mole_flow"), row.id) for row in self._rows("draws")]
        return found

    def spread(self, flows: Vector) -> Vector:
        """Flows in the order of all components."""
        found = np.zeros(len(self.whole.components))
        found[self._places] = flows
        return found


def _si(cell: Any, kind: str) -> float:
    """A cell in SI; the tables were looked through before."""
    assert isinstance(cell, Quantity)
    return to_si(cell, kind)


def _count(value: float, what: str, most: int) -> int:
    if not 1.0 <= value <= most or value != round(value):
        raise UnitFault(f"{value:g} {what} cannot be calculated.", f"Give a whole number from 1 to {most}.", what)
    return int(value)


def _told(build: _Build, givens: Givens, state: ColumnState) -> UnitResult:
    ports = {**{name: port for port, name in PRODUCTS.items()}, **{row.id: f"draw_{row.id}" for row in build._rows("draws")}}
    leaving = {
        ports[name]: _stream(build, product.flows, product.P, product.T, product.enthalpy_flow, product.phase)
        for name, product in state.products.items()
    }
    energies, outside = _heats(build, givens, state)
    values = _values(build, state)
    findings = [*build.findings, *_findings(build, givens, state)]
    profiles = () if givens.draft else (_profile(build, state, ports), *steps(build.model, state, build.ids))
    return UnitResult(leaving, outside, tuple(values), tuple(findings), profiles=profiles, energies=energies, hint=state)


def _stream(build: _Build, flows: Vector, P: float, T: float, heat: float, phase: str) -> StreamState:
    """A product: boiling or dew as it left its stage, or by its enthalpy where the model finds no such state."""
    model, total, z = build.whole, float(flows.sum()), build.spread(flows)
    try:
        if build.givens.si("subcooling") and phase == "liquid":
            return StreamState(total, model.flash(z, P=P, H=heat / total, guess=T))
        found = model.flash(z, P=P, VF=0.0 if phase == "liquid" else 1.0)
        if abs(found.temperature - T) <= 1e-6 * T:
            return StreamState(total, found)
    except FlashError:
        pass
    try:
        return StreamState(total, model.flash(z, P=P, H=heat / total, guess=T))
    except FlashError as error:
        raise UnitFault(f"A product has no state: {error}", "Look at the property model and the pressures.") from error


def _heats(build: _Build, givens: Givens, state: ColumnState) -> tuple[dict[str, EnergyState], float]:
    """What heat streams carry, and what comes from outside (W)."""
    energies, outside = dict[str, EnergyState](), 0.0
    if build.condenser != NONE:
        below = float(state.T[min(1, build.stages - 1)])
        if CONDENSER_HEAT in givens.connected:
            energies[CONDENSER_HEAT] = EnergyState("heat", -float(state.duties[0]), float(state.T[0]), below)
        else:
            outside += float(state.duties[0])
    if build.reboiler and REBOILER_HEAT not in givens.energy:
        above = float(state.T[max(build.stages - 2, 0)])
        if REBOILER_HEAT in givens.connected:
            energies[REBOILER_HEAT] = EnergyState("heat", float(state.duties[-1]), above, float(state.T[-1]))
        else:
            outside += float(state.duties[-1])
    return energies, outside


def _values(build: _Build, state: ColumnState) -> list[ResultValue]:
    products, found = state.products, []
    if build.condenser != NONE:
        found.append(ResultValue("reflux_ratio", "Reflux ratio", "number", state.reflux_ratio or 0.0))
        found.append(ResultValue("condenser_duty", "Heat added in the condenser", "power", float(state.duties[0])))
    if build.reboiler:
        found.append(ResultValue("boil_up_ratio", "Boil-up ratio", "number", state.boil_up_ratio))
        found.append(ResultValue("reboiler_duty", "Heat added in the reboiler", "power", float(state.duties[-1])))
    for key, name, title in (
        ("distillate_flow", DISTILLATE, "Distillate"), ("vapour_flow", OVERHEAD, "Overhead vapour"), ("bottoms_flow", BOTTOMS, "Bottoms")
    ):  # fmt: skip
        if name in products:
            found.append(ResultValue(key, title, "mole_flow", float(products[name].flows.sum())))
    found.append(ResultValue("top_temperature", "Temperature of the first stage", "temperature", float(state.T[0])))
    found.append(ResultValue("bottom_temperature", "Temperature of the last stage", "temperature", float(state.T[-1])))
    top = np.sum([p.flows for name, p in products.items() if name in (DISTILLATE, OVERHEAD)], axis=0)
    fed = np.sum([p.flows for p in products.values()], axis=0)
    found += [ResultValue("recovery", "Recovery at the top", "fraction", float(t / f), name) for name, t, f in zip(build.ids, top, fed, strict=True)]
    return found


def _findings(build: _Build, givens: Givens, state: ColumnState) -> list[Finding]:
    found = []
    if build.condenser != NONE and state.duties[0] > 0.0:
        text = f"The condenser would have to be heated, by {state.duties[0] / 1e3:.4g} kW."
        found.append(Finding("caution", "", text, "Specify more reflux, or leave the condenser out.", "condenser"))
    elif build.condenser != NONE and state.T[0] < COOL:
        text = f"The condenser is at {state.T[0]:.5g} K: water does not take its heat, a refrigerant is needed."
        found.append(Finding("note", "", text, "Raise the pressure, or take the top as vapour.", "top_pressure"))
    if build.reboiler and state.duties[-1] < 0.0:
        text = f"The reboiler would have to be cooled, by {-state.duties[-1] / 1e3:.4g} kW."
        found.append(Finding("caution", "", text, "Specify more boil-up, or leave the reboiler out.", "reboiler"))
    fed = [at for (_, at), stream in zip(build.placed, build.feeds, strict=True) if stream.flow > 0.0]
    if len(fed) == 1 and len(state.products) == 2 and (why := misplaced(state, build.ids, fed[0])):
        found.append(Finding("note", "", why, "Give it another stage.", "feeds"))
    if not givens.draft and (odd := _two_liquids(build, state)):
        found.append(Finding("caution", "", odd, "Take the result as that of one liquid; decant the product that parts.", "stages"))
    return found


def _two_liquids(build: _Build, state: ColumnState) -> str:
    """Where the liquid would part in two, were there no vapour; blank where it does not."""
    parts = []
    for j, (x, T, P) in enumerate(zip(state.x, state.T, state.P, strict=True), 1):
        try:
            found = build.model.flash(x, T=float(T), P=2.0 * float(P))
        except FlashError:
            continue
        if found.two_liquids or len([p for p in found.phases if "liquid" in p.kind]) > 1:
            parts.append(j)
    if not parts:
        return ""
    where = f"stage {parts[0]}" if len(parts) == 1 else f"stages {parts[0]} to {parts[-1]}"
    return f"On {where} the liquid parts in two, which was not calculated."


def _profile(build: _Build, state: ColumnState, ports: Mapping[str, str]) -> Profile:
    rising = [float(v) if v > 0.0 else None for v in state.vapour]
    columns = [
        column("temperature", "Temperature", "temperature", state.T),
        column("liquid_flow", "Liquid", "mole_flow", state.liquid, group="Flow"),
        column("vapour_flow", "Vapour", "mole_flow", rising, group="Flow"),
        *(column("liquid_fraction", "Mole fraction, liquid", "fraction", state.x[:, i], name) for i, name in enumerate(build.ids)),
        *(column("vapour_fraction", "Mole fraction, vapour", "fraction", state.y[:, i], name) for i, name in enumerate(build.ids)),
        *(column("equilibrium_ratio", "Equilibrium ratio", "number", state.K[:, i], name) for i, name in enumerate(build.ids)),
        column("pressure", "Pressure", "pressure", state.P),
        column("heat", "Heat added", "power", state.duties),
    ]
    places = [ProfilePort(INLET, float(at), stream=tag) for tag, at in build.placed]
    places += [ProfilePort(ports[name], float(product.stage)) for name, product in state.products.items()]
    along = column("stage", "Stage", "number", np.arange(1.0, build.stages + 1.0))
    return Profile("stages", "Stage by stage", along, tuple(columns), ports=tuple(places), steps=True)
