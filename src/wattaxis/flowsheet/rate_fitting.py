"""A fit of rate laws to the data of a document: the question as a page puts it, the answer as plain data."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Any

import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from wattaxis.flowsheet.chemistry import Chemistry
from wattaxis.flowsheet.data import FreeRatePart, Measured, data_set
from wattaxis.flowsheet.diagram_questions import QuestionError
from wattaxis.flowsheet.model import property_model
from wattaxis.flowsheet.reactions import Name, TypedReaction, typed_constant, typed_with
from wattaxis.properties.diagrams.chart import Axis, Curve, Diagram, line
from wattaxis.properties.fitting import DATA_KINDS
from wattaxis.quantities.quantity import from_si, linear

if TYPE_CHECKING:
    from wattaxis.properties.fitting import DataSet, Deviation
    from wattaxis.reactions import FreeRate, RateFit
    from wattaxis.reactions.runs import Run

#: Runs that are drawn with a curve each, and places on it.
MOST_RUNS, POINTS = 12, 61


class RateFitQuestion(BaseModel):
    """Which numbers of the laws of a reaction set to fit to which data sets of the chemistry."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    reactions: Name
    data: tuple[str, ...] = Field(min_length=1, max_length=20)
    free: tuple[FreeRatePart, ...] = Field(min_length=1, max_length=40)


def run_rate_fit(chemistry: Chemistry, question: RateFitQuestion, sets: Sequence[Measured]) -> dict[str, Any]:
    """Fit, and say everything that a page shows of it. Raises QuestionError in words for people."""
    from wattaxis.properties import FlashError
    from wattaxis.reactions import FreeRate, fit_rates

    typed = next((of for of in chemistry.reactions if of.name == question.reactions), None)
    if typed is None:
        raise QuestionError(f'There is no reaction set "{question.reactions}".')
    of = typed.core()
    ids = {*of.components, *(c for s in sets for c in s.components), *(c for r in of.reactions for law in r.laws for c in law.components)}
    kept = tuple(c for c in chemistry.components if c.id in ids)
    if unknown := sorted(ids - {c.id for c in kept}):
        raise QuestionError(f"{unknown[0]} is not among the components.")
    if solids := [c.id for c in kept if c.is_solid]:
        raise QuestionError(f"{solids[0]} is a solid, and rates are fitted to liquids and gases.")
    free = [FreeRate(f.reaction, f.part, f.constant, f.component, f.backward) for f in question.free]
    data = [data_set(s) for s in sets]
    try:
        fit = fit_rates(of, property_model(chemistry.model_copy(update={"components": kept})), data, free)
    except (ValueError, KeyError, FlashError) as error:
        raise QuestionError(str(error.args[0]) if error.args else str(error)) from error
    reactions = [typed_with(before, after) for before, after in zip(typed.reactions, fit.reactions.reactions, strict=True)]
    changed = [now.model_dump(mode="json") for before, now in zip(typed.reactions, reactions, strict=True) if now != before]
    return {
        "values": [float(v) for v in fit.values],
        "half_widths": [float(v) if np.isfinite(v) else 0.0 for v in fit.half_widths],
        "correlation": [[float(v) for v in row] for row in fit.correlation],
        "sum_of_squares": fit.sum_of_squares,
        "akaike": float(fit.akaike) if np.isfinite(fit.akaike) else None,
        "quality": fit.quality,
        "notes": list(fit.notes),
        "temperatures": [min(run.T for run in fit.runs), max(run.T for run in fit.runs)],
        "holds_at": [float(t) if np.isfinite(t) else None for t in fit.reference],
        "shown": [_shown(k, f, fit, reactions) for k, f in enumerate(fit.free)],
        "pairs": [],
        "reactions": changed,
        "deviations": deviations_told(fit.deviations, question.data),
        "diagrams": [
            d.to_data() for d in [*_courses(fit, data, sets), *_arrhenius(fit), *_residuals(fit, data, question.data), *_parity(fit, question.data)]
        ],
    }


def _shown(k: int, f: FreeRate, fit: RateFit, reactions: Sequence[TypedReaction]) -> dict[str, Any]:
    """A fitted number in the unit that its law is typed in."""
    law = next(getattr(r, "backward" if f.backward else "forward") for r in reactions if r.name == f.reaction)
    value, half = float(fit.values[k]), float(fit.half_widths[k])
    factor, unit = 1.0, ""
    if f.part != "order":
        typed = typed_constant(law, f.constant)
        unit = typed.unit if f.part == "constant" else typed.energy.unit if typed.energy is not None else "kJ/mol"
        factor = fit.values[k] / typed.value if f.part == "constant" else linear(unit)[0]
    return {"value": value / factor, "half_width": half / factor if np.isfinite(half) else None, "unit": unit}


def deviations_told(found: Sequence[Deviation], names: Sequence[str]) -> list[dict[str, Any]]:
    """The deviations of a fit as plain data; data sets by their names."""
    rows = []
    for d in found:
        # A temperature has no share, and a difference of ln activity is one already.
        relative = d.mean_relative if d.column != "T" and not d.column.startswith("ln") else np.nan
        row = {"data": names[d.data], "column": d.column, "mean": d.mean, "largest": d.largest}
        rows.append(row | {"relative": float(relative) if np.isfinite(relative) else None})
    return rows


def _what(column: str, components: Sequence[str]) -> tuple[str, str]:
    """Title and kind of quantity of a measured column."""
    if column == "X":
        return f"conversion of {components[0]}", "fraction"
    return f"concentration of {components[int(column[1:]) - 1]}", "molar_concentration"


def _courses(fit: RateFit, data: Sequence[DataSet], typed: Sequence[Measured]) -> list[Diagram]:
    """What was measured over time and the courses through it, one diagram a data set and column."""
    found = []
    for k, d in enumerate(data):
        runs = [run for run in fit.runs if run.data == k]
        for column in dict.fromkeys(x.column for x in fit.deviations if x.data == k):
            title, kind = _what(column, d.components)
            curves: list[Curve] = []
            for run in runs[:MOST_RUNS]:
                name = _named(run, runs, next(c.unit for c in typed[k].columns if c.key == "T"))
                points = [(d.columns["t"][p], d.columns[column][p]) for p, _ in run.points]
                times = np.linspace(0.0, float(run.times[-1]), POINTS)
                after = run.course(fit.kinetics, times)
                first = run.components[0]
                if column == "X":
                    said = 1.0 - after.amounts[:, first] / run.start[first]
                else:
                    said = after.concentrations[:, run.components[int(column[1:]) - 1]]
                curves += [line(name, [times, said]), Curve(name, np.array(points), "points")]
            time = DATA_KINDS[d.kind].columns["t"].title
            found.append(Diagram(f"{title[0].upper()}{title[1:]}, {d.name}", (Axis(time, "time"), Axis(title.split()[0], kind)), tuple(curves)))
    return found


def _named(run: Run, runs: Sequence[Run], unit: str) -> str:
    """A run by its temperature as typed, and by its number where others are at the same."""
    same = [other for other in runs if other.T == run.T]
    name = f"{from_si(run.T, unit or 'K'):.5g} {(unit or 'K').replace('deg', '°')}"
    return name if len(same) == 1 else f"{name}, run {same.index(run) + 1}"


def _arrhenius(fit: RateFit) -> list[Diagram]:
    """Constants whose energy was fitted, over the reciprocal temperature, with those of each temperature's own data."""
    alone = fit.by_temperature()
    found = []
    for k, f in enumerate(fit.free):
        if f.part != "constant" or not alone or not any(g.part == "energy" and g.law == f.law and g.constant == f.constant for g in fit.free):
            continue
        ends = np.linspace(min(run.T for run in fit.runs), max(run.T for run in fit.runs), POINTS)
        through = line("fitted to all", [1.0 / ends, [fit.constant(f, float(T)) for T in ends]])
        points = Curve("each temperature alone", np.array([[1.0 / T, values[k]] for T, values in alone.items()]), "points")
        axes = (Axis("1/T, 1/K", "number"), Axis(f"{f.constant}, {fit.unit(f)}", "number", True))
        found.append(Diagram(f"Over temperature, {f.label}", axes, (through, points)))
    return found


def _residuals(fit: RateFit, data: Sequence[DataSet], names: Sequence[str]) -> list[Diagram]:
    """Calculated less measured over time."""
    found = []
    for column in dict.fromkeys(d.column for d in fit.deviations):
        parts = [d for d in fit.deviations if d.column == column]
        curves = [Curve(names[d.data], np.column_stack([data[d.data].columns["t"][list(d.points)], d.each]), "points") for d in parts]
        last = max(float(curve.points[:, 0].max()) for curve in curves)
        kind = "fraction" if column == "X" else "molar_concentration"
        axes = (Axis("time", "time"), Axis(f"{column} calculated less measured", kind))
        found.append(Diagram(f"Residuals, {column}", axes, (*curves, line("none", [[0.0, last], [0.0, 0.0]], "dashed"))))
    return found


def _parity(fit: RateFit, names: Sequence[str]) -> list[Diagram]:
    """Calculated over measured, one diagram a column."""
    found = []
    for column in dict.fromkeys(d.column for d in fit.deviations):
        kind = "fraction" if column == "X" else "molar_concentration"
        found.append(parity(fit.deviations, names, column, Axis(f"{column} measured", kind), Axis(f"{column} calculated", kind)))
    return found


def parity(deviations: Sequence[Deviation], names: Sequence[str], column: str, measured: Axis, calculated: Axis) -> Diagram:
    """Calculated over measured for a column of all data sets, by their names."""
    parts = [d for d in deviations if d.column == column]
    ends = np.array([min(np.nanmin(d.measured) for d in parts), max(np.nanmax(d.measured) for d in parts)])
    curves = [Curve(names[d.data], np.column_stack([d.measured, d.calculated]), "points") for d in parts]
    return Diagram(f"Calculated over measured, {column}", (measured, calculated), (*curves, line("equal", [ends, ends], "dashed")))
