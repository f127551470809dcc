"""The column of a unit by its short-cut: products by Fenske, reflux or stages by Underwood and Gilliland, feed stage by Kirkbride."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

import numpy as np

from wattaxis.columns import ColumnError, ShortCut, short_cut_of
from wattaxis.columns.layout import PARTIAL, TOTAL
from wattaxis.properties import FlashError
from wattaxis.properties.state import Vector
from wattaxis.unitops.base import Finding, Givens, ResultValue, StreamState, UnitFault, UnitResult
from wattaxis.unitops.columns.names import (
    BY_STAGES,
    CONDENSER_HEAT,
    CONDENSERS,
    HEAVY,
    INLET,
    LIQUID,
    REBOILER_HEAT,
    REBOILERS,
    TOTAL_CONDENSER,
    VAPOUR,
    WAITING,
    cell_si,
    rows_of,
)
from wattaxis.unitops.columns.parts import part_of
from wattaxis.unitops.profile import Profile, ProfileMark, column
from wattaxis.unitops.table import GivenTable

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel, State

#: Times the least reflux between which stages are drawn, and points.
_FROM, _TO, _POINTS = 1.02, 4.0, 60


@dataclass(frozen=True)
class Asked:
    """What a short-cut needs: keys by id with their recoveries, top and bottom pressure (Pa), and reflux ratio or stages, whichever is given."""

    light: str
    heavy: str
    recoveries: tuple[float, float]
    P: tuple[float, float]
    partial: bool
    reflux: float | None
    stages: float | None


@dataclass(frozen=True)
class Short:
    """A short-cut that was calculated: both products, values and the curve of stages over reflux."""

    top: StreamState
    bottoms: StreamState
    values: tuple[ResultValue, ...]
    profiles: tuple[Profile, ...]


def shortened(model: PropertyModel, asked: Asked, fed: Vector, enthalpy: float) -> Short:
    """The column of feeds (components,) mol/s that come in with so much enthalpy (W) altogether. Raises UnitFault."""
    ids = [c.id for c in model.components]
    for name in (asked.light, asked.heavy):
        if name not in ids:
            raise UnitFault(f"A key is {name}, and none of it is fed.", "Choose components that are fed.", "purities")
    try:
        state = model.flash(fed, P=0.5 * sum(asked.P), H=enthalpy / float(fed.sum()))
        found = short_cut_of(
            model, fed, _liquid(model, state, enthalpy / float(fed.sum())), ids.index(asked.light), ids.index(asked.heavy), asked.recoveries, asked.P
        )
        reflux = found.reflux(asked.stages) if asked.reflux is None and asked.stages is not None else asked.reflux or 0.0
    except ColumnError as error:
        raise UnitFault(error.text, error.remedy, "purities") from error
    except FlashError as error:
        raise UnitFault(f"A product or feed has no boiling point: {error}", "Look at pressures and keys.", "top_pressure") from error
    if not reflux > found.minimum_reflux:
        text = f"The reflux ratio of {reflux:.5g} is no more than the least one, {found.minimum_reflux:.5g}: no number of stages is enough."
        raise UnitFault(text, "Give more reflux, or lower recoveries.", "reflux_ratio")
    return _told(model, asked, found, reflux, enthalpy)


def _liquid(model: PropertyModel, state: State, h: float) -> float:
    """The q of the feed: how much of it is liquid, by enthalpies between its bubble and dew point, beyond 0 and 1 for cold and hot ones."""
    try:
        boiling, dew = (model.flash(state.fractions, P=state.pressure, VF=share).enthalpy for share in (0.0, 1.0))
    except FlashError:
        return 1.0 - state.vapour_share
    return (dew - h) / (dew - boiling)


def _told(model: PropertyModel, asked: Asked, found: ShortCut, reflux: float, enthalpy: float) -> Short:
    D, B = float(found.distillate.sum()), float((found.feed - found.distillate).sum())
    top = StreamState(D, model.flash(found.distillate, P=asked.P[0], VF=1.0 if asked.partial else 0.0))
    bottoms = StreamState(B, model.flash(found.feed - found.distillate, P=asked.P[1], VF=0.0))
    if asked.partial:
        falling = model.phase("liquid", top.state.temperature, asked.P[0], top.state.liquid_fractions).enthalpy
        cooling = reflux * D * (falling - top.state.enthalpy)
    else:
        rising = model.flash(found.distillate, P=asked.P[0], VF=1.0)
        cooling = (reflux + 1.0) * D * (top.state.enthalpy - rising.enthalpy)
    heating = top.enthalpy_flow + bottoms.enthalpy_flow - enthalpy - cooling
    # Reboiler counted; the unit counts a total condenser too.
    stages = found.stages(reflux) + (0.0 if asked.partial else 1.0)
    feed = min(max(round(found.feed_stage(stages)) + 1, 1), max(int(stages), 1))
    values = (
        ResultValue("minimum_stages", "Least stages, at total reflux", "number", found.minimum_stages + (0.0 if asked.partial else 1.0)),
        ResultValue("minimum_reflux", "Least reflux ratio", "number", found.minimum_reflux),
        ResultValue("stages_needed", "Stages needed", "number", stages),
        ResultValue("feed_stage", "Stage of the feed", "number", float(feed)),
        ResultValue("reflux_ratio", "Reflux ratio", "number", reflux),
        ResultValue("condenser_duty", "Heat added in the condenser", "power", cooling),
        ResultValue("reboiler_duty", "Heat added in the reboiler", "power", heating),
        ResultValue("top_temperature", "Temperature at the top", "temperature", top.state.temperature),
        ResultValue("bottom_temperature", "Temperature at the bottom", "temperature", bottoms.state.temperature),
        *(
            ResultValue("recovery", "Recovery at the top", "fraction", float(d / f), c.id)
            for c, d, f in zip(model.components, found.distillate, found.feed, strict=True)
        ),
    )
    return Short(top, bottoms, values, _curve(asked, found, reflux, stages))


def _curve(asked: Asked, found: ShortCut, reflux: float, stages: float) -> tuple[Profile, ...]:
    """Stages over reflux ratio."""
    least = max(found.minimum_reflux, 0.05)
    ratios = np.geomspace(_FROM * least, max(_TO * least, 1.2 * reflux), _POINTS)
    more = 0.0 if asked.partial else 1.0
    needed = [found.stages(float(r)) + more for r in ratios]
    marks = (ProfileMark("chosen", "stages_needed", reflux, stages),)
    along = column("reflux_ratio", "Reflux ratio", "number", ratios)
    return (
        Profile(
            "short_cut",
            "Stages against reflux",
            along,
            (column("stages_needed", "Stages needed", "number", [n if np.isfinite(n) else None for n in needed]),),
            marks=marks,
        ),
    )


def keys_of(rows: Sequence[Mapping[str, object]]) -> tuple[str, str, tuple[float, float]] | None:
    """Light key, heavy key and their recoveries from the recoveries at the top and at the bottom; None where they are not one of each."""
    tops = [(str(r["component"]), float(str(r["value"]))) for r in rows if r["product"] != "bottoms" and r["counts"] == "recovery"]
    ends = [(str(r["component"]), float(str(r["value"]))) for r in rows if r["product"] == "bottoms" and r["counts"] == "recovery"]
    if len(rows) != 2 or len(tops) != 1 or len(ends) != 1:
        return None
    return tops[0][0], ends[0][0], (tops[0][1], ends[0][1])


def by_short_cut(givens: Givens, feeds: Sequence[StreamState], model: PropertyModel) -> UnitResult:
    """By the short-cut: what it asks for is there, or a fault says so."""
    condenser = CONDENSERS[givens.option("condenser") or TOTAL_CONDENSER]
    if condenser not in (TOTAL, PARTIAL) or givens.option("reboiler") not in REBOILERS:
        text = "A short-cut is that of a column with a reboiler and a condenser with one product."
        raise UnitFault(text, f'Choose such ones, or "{BY_STAGES}".', "calculation")
    if isinstance(givens.raw("draws"), GivenTable):
        raise UnitFault("A short-cut knows no side draws.", f'Remove them, or choose "{BY_STAGES}".', "draws")
    purities = givens.raw("purities")
    rows = [{**row.cells, "value": cell_si(row.cells["value"], "fraction")} for row in rows_of(purities) if row.cells.get("use") != WAITING]
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
