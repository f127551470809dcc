"""What a property model says where something was measured."""

from __future__ import annotations

import numpy as np

from wattaxis.properties.errors import FlashError
from wattaxis.properties.fitting.data import Array, DataSet
from wattaxis.properties.model import PropertyModel

#: Activity models know no liquid's pressure dependence: this one only carries units.
_LOW = 1e3


def predictions(model: PropertyModel, data: DataSet, points: np.ndarray, *, temperatures: bool = False) -> dict[str, Array]:
    """Calculated values at ``points`` by column: P and y at the measured T and x, or with ``temperatures`` T and y at the measured P and x; the
    difference of ln activity of both liquids ("ln a1", ...); activity coefficients; excess enthalpy. Values are nan where the model has no such
    state. ``model`` has the set's components in its order."""
    return _boiling(model, data, points) if temperatures and data.kind == "vapour-liquid" else _PREDICTED[data.kind](model, data, points)


def bubble_pressure(model: PropertyModel, t: float, x: Array) -> tuple[float, Array]:
    """Pressure (Pa) and vapour over a liquid taken as one phase; nan where there is none."""
    if not model.ideal_vapour:
        try:
            state = model.flash(x, T=t, VF=0.0)
        except FlashError:
            return np.nan, np.full(len(x), np.nan)
        return state.pressure, state.vapour_fractions.copy()
    partial = x * model.phase("liquid", t, _LOW, x).fugacity_coefficients * _LOW
    return float(partial.sum()), np.asarray(partial / partial.sum())


def _vapour_liquid(model: PropertyModel, data: DataSet, points: np.ndarray) -> dict[str, Array]:
    liquid = data.fractions("x")
    rows = [bubble_pressure(model, float(data.columns["T"][k]), liquid[k]) for k in points]
    found = {"P": np.array([p for p, _ in rows])}
    return found | {f"y{i + 1}": np.array([y[i] for _, y in rows]) for i in range(len(data.components) - 1)}


def bubble_temperature(model: PropertyModel, p: float, x: Array, near: float) -> tuple[float, Array]:
    """Temperature (K) ``near`` another and vapour over a liquid taken as one phase at a pressure (Pa); nan where there is none."""
    t, nothing = near, (np.nan, np.full(len(x), np.nan))
    for _ in range(40):
        # ln P is nearly straight over 1/T.
        (low, _y), (found, y) = bubble_pressure(model, 0.999 * t, x), bubble_pressure(model, t, x)
        if not (np.isfinite(low) and np.isfinite(found) and found > low > 0.0):
            return nothing
        slope = np.log(found / low) / (1.0 / (0.999 * t) - 1.0 / t)
        new = 1.0 / (1.0 / t + np.clip(np.log(found / p) / slope, -0.1 / t, 0.1 / t))
        if abs(new - t) < 1e-9 * t:
            return new, y
        t = float(new)
    return nothing


def _boiling(model: PropertyModel, data: DataSet, points: np.ndarray) -> dict[str, Array]:
    liquid = data.fractions("x")
    rows = [bubble_temperature(model, float(data.columns["P"][k]), liquid[k], float(data.columns["T"][k])) for k in points]
    found = {"T": np.array([t for t, _ in rows])}
    return found | {f"y{i + 1}": np.array([y[i] for _, y in rows]) for i in range(len(data.components) - 1)}


def _liquid_liquid(model: PropertyModel, data: DataSet, points: np.ndarray) -> dict[str, Array]:
    first, second = data.fractions("x"), data.fractions("w")
    rows = []
    for k in points:
        t = float(data.columns["T"][k])
        activity = [np.log(np.maximum(x, 1e-12) * model.phase("liquid", t, 1e5, x).fugacity_coefficients) for x in (first[k], second[k])]
        rows.append(activity[0] - activity[1])
    return {f"ln a{i + 1}": np.array([row[i] for row in rows]) for i in range(len(data.components))}


def _infinite_dilution(model: PropertyModel, data: DataSet, points: np.ndarray) -> dict[str, Array]:
    found = {}
    for i, key in ((0, "g1"), (1, "g2")):
        if key in data.columns:
            solvent = np.eye(2)[1 - i]
            found[key] = np.array([model.activity_coefficients(float(data.columns["T"][k]), 1e5, solvent)[i] for k in points])
    return found


def _excess_enthalpy(model: PropertyModel, data: DataSet, points: np.ndarray) -> dict[str, Array]:
    liquid = data.fractions("x")
    values = []
    for k in points:
        t, x = float(data.columns["T"][k]), liquid[k]
        pure = sum(part * model.phase("liquid", t, 1e5, row).enthalpy for part, row in zip(x, np.eye(len(x)), strict=True))
        values.append(model.phase("liquid", t, 1e5, x).enthalpy - pure)
    return {"h": np.array(values)}


_PREDICTED = {
    "vapour-liquid": _vapour_liquid,
    "liquid-liquid": _liquid_liquid,
    "infinite dilution": _infinite_dilution,
    "excess enthalpy": _excess_enthalpy,
}
