"""A fit to the data of a document: the question as a page puts it, the answer as plain data."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any, Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field, ValidationError

from wattaxis.flowsheet.chemistry import Chemistry, ModelName
from wattaxis.flowsheet.data import VAPOUR_PRESSURE, FreePart, Measured, Objective, data_set
from wattaxis.flowsheet.diagram_questions import QuestionError
from wattaxis.flowsheet.model import property_model
from wattaxis.flowsheet.rate_fitting import RateFitQuestion, deviations_told, parity, run_rate_fit
from wattaxis.properties.diagrams.chart import Axis, Curve, Diagram, line

if TYPE_CHECKING:
    from wattaxis.properties.fitting import DataSet, Fit, PureFit


class FitQuestion(BaseModel):
    """Which parameters of which model to fit to which data sets of the chemistry."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    model: ModelName | Literal["vapour-pressure"]
    data: tuple[str, ...] = Field(min_length=1, max_length=20)
    free: tuple[FreePart, ...] = Field(min_length=1, max_length=40)
    #: Constants of a vapour pressure that keep their start.
    fixed: tuple[FreePart, ...] = Field(default=(), max_length=3)
    objective: Objective = "least squares"


def fit_question_from_json(data: Any) -> FitQuestion | RateFitQuestion:
    """Check plain data: with ``reactions`` the fit is of rate laws. Raises QuestionError."""
    try:
        return (RateFitQuestion if isinstance(data, dict) and "reactions" in data else FitQuestion).model_validate(data)
    except ValidationError as error:
        first = error.errors()[0]
        raise QuestionError(f"{'.'.join(str(part) for part in first['loc'])}: {first['msg'].removeprefix('Value error, ')}.") from error


def run_fit(chemistry: Chemistry, question: FitQuestion | RateFitQuestion) -> dict[str, Any]:
    """Fit, and say everything that a page shows of it. Raises QuestionError in words for people.

    The model starts from what the chemistry knows of its pairs; the non-randomness of NRTL starts at 0.3 where nothing is known and it is not freed.
    """
    from wattaxis.properties.fitting import Free, fit_pairs

    sets = [_named(chemistry, name) for name in question.data]
    if isinstance(question, RateFitQuestion):
        return run_rate_fit(chemistry, question, sets)
    if question.model == VAPOUR_PRESSURE:
        return _run_pure(sets, question)
    ids = {c for s in sets for c in s.components} | {c for f in question.free for c in (f.first, f.second)}
    kept = tuple(c for c in chemistry.components if c.id in ids)
    unknown = ids - {c.id for c in kept}
    if unknown:
        raise QuestionError(f"{sorted(unknown)[0]} is not among the components.")
    try:
        model = property_model(chemistry.model_copy(update={"components": kept, "model": question.model}))
        if question.model == "nrtl":
            zero = {(f.first, f.second): {"alpha": 0.3} for f in question.free if not _alpha(model, f)}
            model = model.with_pairs(zero)
        free = [Free((f.first, f.second), f.name, f.start, _or(f.low, -np.inf), _or(f.high, np.inf)) for f in question.free]
        data = [data_set(s) for s in sets]
        fit = fit_pairs(model, data, free, objective=question.objective)
    except (ValueError, KeyError) as error:
        raise QuestionError(str(error.args[0]) if error.args else str(error)) from error
    return _told(fit, data, question)


def _run_pure(sets: list[Measured], question: FitQuestion) -> dict[str, Any]:
    """A vapour pressure; constants that are not freed but given a start keep it."""
    from wattaxis.properties.fitting import fit_vapour_pressure

    data = [data_set(s) for s in sets]
    wanted = {f.name for f in question.free}
    try:
        fit = fit_vapour_pressure(data, {f.name: f.start for f in question.fixed})
    except ValueError as error:
        raise QuestionError(str(error)) from error
    curve = fit.vapour_pressure
    order = [k for k, name in enumerate(("A", "B", "C")) if name in wanted]
    found = {
        "component": fit.component,
        "a": float(fit.values[0]),
        "b": float(fit.values[1]),
        "c": float(fit.values[2]),
        "low": curve.low,
        "high": curve.high,
    }
    return {
        "values": [float(fit.values[k]) for k in order],
        "half_widths": [float(v) if np.isfinite(v) else 0.0 for v in fit.half_widths[order]],
        "correlation": [[float(v) for v in row] for row in fit.correlation[np.ix_(order, order)]],
        "sum_of_squares": fit.sum_of_squares,
        "quality": fit.quality,
        "notes": list(fit.notes),
        "temperatures": _temperatures(data),
        "pairs": [],
        "vapour_pressure": found,
        "deviations": deviations_told(fit.deviations, question.data),
        "diagrams": [d.to_data() for d in _pure_diagrams(fit, data, question)],
    }


def _pure_diagrams(fit: PureFit, data: list[DataSet], question: FitQuestion) -> list[Diagram]:
    """Vapour pressure over temperature with the points; and what the points are off, as a share."""
    curve = fit.vapour_pressure
    t = np.linspace(curve.low, curve.high, 81)
    a, b, c = fit.values
    axes = (Axis("temperature", "temperature"), Axis("vapour pressure", "pressure", True))
    points, gaps = [], []
    for d in fit.deviations:
        at = data[d.data].columns["T"][list(d.points)]
        points.append(Curve(question.data[d.data], np.column_stack([at, d.measured]), "points"))
        gaps.append(Curve(question.data[d.data], np.column_stack([at, d.calculated / d.measured - 1.0]), "points"))
    fitted = line("fitted", [t, np.exp(a - b / (t + c))])
    none = line("none", [[curve.low, curve.high], [0.0, 0.0]], "dashed")
    off = Diagram("Residuals, P", (axes[0], Axis("P calculated over measured, less one", "number")), (*gaps, none))
    return [Diagram(f"Vapour pressure of {fit.component}", axes, (fitted, *points)), off]


def _named(chemistry: Chemistry, name: str) -> Measured:
    for part in chemistry.data:
        if part.name == name:
            return part
    raise QuestionError(f'There is no data set "{name}".')


def _alpha(model: Any, free: FreePart) -> bool:
    i, j = model.index(free.first), model.index(free.second)
    return bool(model.pair_values.get((min(i, j), max(i, j)), {}).get("alpha"))


def _or(value: float | None, default: float) -> float:
    return default if value is None else value


def _told(fit: Fit, data: list[DataSet], question: FitQuestion) -> dict[str, Any]:
    pairs = dict.fromkeys((f.first, f.second) for f in question.free)
    return {
        "values": [float(v) for v in fit.values],
        "half_widths": [float(v) if np.isfinite(v) else 0.0 for v in fit.half_widths],
        "correlation": [[float(v) for v in row] for row in fit.correlation],
        "sum_of_squares": fit.sum_of_squares,
        "quality": fit.quality,
        "notes": list(fit.notes),
        "temperatures": _temperatures(data),
        "pairs": [{"first": a, "second": b, "values": {k: float(f"{v:.10g}") for k, v in fit.pair_values((a, b)).items()}} for a, b in pairs],
        "deviations": deviations_told(fit.deviations, question.data),
        "diagrams": [d.to_data() for d in [*_residuals(fit, data, question), *_parity(fit, question)]],
    }


def _temperatures(data: list[DataSet]) -> list[float]:
    """The coldest and the hottest point that the fit took, K: where its values are believed."""
    taken = np.concatenate([d.columns["T"][d.used()] for d in data])
    return [float(taken.min()), float(taken.max())]


def _columns(fit: Fit) -> list[str]:
    return list(dict.fromkeys(d.column for d in fit.deviations))


def _axis(column: str, word: str) -> Axis:
    kinds = {"P": ("pressure", "pressure"), "T": ("temperature", "temperature"), "h": ("excess enthalpy", "molar_enthalpy")}
    title, kind = kinds.get(column, (column, "number"))
    return Axis(f"{title} {word}", kind)


def _parity(fit: Fit, question: FitQuestion) -> list[Diagram]:
    """Calculated over measured; a difference of logarithms has nothing to be drawn over."""
    columns = [column for column in _columns(fit) if not column.startswith("ln")]
    return [parity(fit.deviations, question.data, column, *(_axis(column, word) for word in ("measured", "calculated"))) for column in columns]


def _residuals(fit: Fit, data: list[DataSet], question: FitQuestion) -> list[Diagram]:
    """Calculated less measured over the composition of the liquid."""
    found = []
    for column in _columns(fit):
        curves = []
        for d in fit.deviations:
            x = data[d.data].columns.get("x1")
            if d.column == column and x is not None:
                curves.append(Curve(question.data[d.data], np.column_stack([x[list(d.points)], d.calculated - d.measured]), "points"))
        if curves:
            kind = {"P": "pressure_difference", "T": "temperature_difference", "h": "molar_enthalpy"}.get(column, "number")
            axes = (Axis("x1, mole fraction"), Axis(f"{column} calculated less measured", kind))
            found.append(Diagram(f"Residuals, {column}", axes, (*curves, line("none", [[0.0, 1.0], [0.0, 0.0]], "dashed"))))
    return found
