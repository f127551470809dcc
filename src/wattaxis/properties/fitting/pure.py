"""The vapour pressure of one component from measurements: Antoine's equation by weighted least squares."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import least_squares

from wattaxis.progress import reached
from wattaxis.properties.fitting.confidence import confidence
from wattaxis.properties.fitting.data import PURE, Array, DataSet
from wattaxis.properties.fitting.fit import Deviation
from wattaxis.substances import VapourPressure

#: Constants of Antoine's equation, ln(P/Pa) = A - B/(T + C) with T in K.
CONSTANTS = ("A", "B", "C")
_SCALES = np.array([1.0, 300.0, 10.0])


@dataclass(frozen=True)
class PureFit:
    """A fitted vapour pressure: A, B (K), C (K) with standard errors, 95 % half-widths and correlation (3, 3), deviations, and what is to be said.

    ``vapour_pressure`` is believed over the range of the data. ``quality`` is "measured fit", or "estimated" when data were generated.

    >>> data = DataSet("vapour pressure", ("x",), {"T": [300.0, 320.0, 340.0, 360.0], "P": [3.5e3, 10.5e3, 27.2e3, 62.2e3]})
    >>> fit = fit_vapour_pressure([data])
    >>> isinstance(fit, PureFit), fit.vapour_pressure.high
    (True, 360.0)
    """

    component: str
    values: Array
    standard_errors: Array
    half_widths: Array
    correlation: Array
    sum_of_squares: float
    deviations: tuple[Deviation, ...]
    notes: tuple[str, ...]
    quality: str
    vapour_pressure: VapourPressure


def fit_vapour_pressure(data: Sequence[DataSet], fixed: Mapping[str, float] | None = None) -> PureFit:
    """Fit Antoine's equation to sets of temperature and pressure of one component; ``fixed`` holds constants that keep a value.

    Weighted by the standard deviation of the pressure, to which that of the temperature adds by the slope of the curve (effective variance).
    Raises ValueError for sets of another kind or of several components, and for fewer points than constants.

    >>> t = np.linspace(300.0, 370.0, 8)
    >>> data = DataSet("vapour pressure", ("x",), {"T": t, "P": np.exp(22.0 - 3500.0 / (t - 40.0))})
    >>> fit_vapour_pressure([data]).values.round(3).tolist()
    [22.0, 3500.0, -40.0]
    """
    kept = dict(fixed or {})
    unknown = [name for name in kept if name not in CONSTANTS]
    if unknown:
        raise ValueError(f"Antoine's equation has no constant {unknown[0]}; it has {', '.join(CONSTANTS)}.")
    components = {d.components for d in data}
    if any(d.kind != PURE for d in data) or len(components) != 1:
        raise ValueError("A vapour pressure is fitted to sets of temperature and pressure of one component.")
    free = [k for k, name in enumerate(CONSTANTS) if name not in kept]
    points = [d.used() for d in data]
    t, p = (np.concatenate([d.columns[key][rows] for d, rows in zip(data, points, strict=True)]) for key in ("T", "P"))
    deviation = {key: np.array([d.deviation(key, int(p)) for d, rows in zip(data, points, strict=True) for p in rows]) for key in ("T", "P")}
    if len(t) < max(len(free), 1) or not free:
        raise ValueError(f"{len(t)} points do not determine {len(free)} constants." if free else "Free at least one constant.")
    start = _start(t, p)
    for k, name in enumerate(CONSTANTS):
        start[k] = kept.get(name, start[k])

    def whole(u: Array) -> Array:
        values = start.copy()
        values[free] = u * _SCALES[free]
        return values

    def residuals(u: Array) -> Array:
        reached()
        calculated, slope = _antoine(whole(u), t)
        weight = np.hypot(deviation["P"], slope * deviation["T"])
        return np.asarray(np.nan_to_num((calculated - p) / weight, nan=1e4, posinf=1e4, neginf=-1e4))

    best = least_squares(residuals, start[free] / _SCALES[free], xtol=1e-14, ftol=1e-14, gtol=1e-14, x_scale="jac", max_nfev=400)
    values = whole(best.x)
    notes: list[str] = []
    errors, half, correlation = _confidence(best, free, notes)
    reduced = 2.0 * float(best.cost) / max(len(t) - len(free), 1)
    if not best.success or not np.isfinite(values).all():
        notes.append("The search ended before it settled; fix C, or add data over a wider range.")
    if reduced > 9.0:
        notes.append(
            f"The equation misses the data by {np.sqrt(reduced):.2g} standard deviations on average: look for outliers, or take a narrower range."
        )
    if t.max() - t.min() < 15.0 and len(free) == 3:
        notes.append("The temperatures lie within 15 K: C is hardly determined by them; fix it, or add others.")
    measured = all(d.measured for d in data)
    if not measured:
        notes.append("Some of the data were generated from a model: this is an estimate, not a fit to measurements.")
    notes.append("Cubic equations take their vapour pressure from critical constants and acentric factor; this one serves ideal and activity models.")
    a, b, c = (float(v) for v in values)
    curve = VapourPressure(4, (a, b, c, 0.0, 0.0), float(t.min()), float(t.max()), "fitted")
    deviations = tuple(_deviation(k, d, rows, values) for k, (d, rows) in enumerate(zip(data, points, strict=True)) if len(rows))
    quality = "measured fit" if measured else "estimated"
    return PureFit(data[0].components[0], values, errors, half, correlation, 2.0 * float(best.cost), deviations, tuple(notes), quality, curve)


def _antoine(values: Array, t: Array) -> tuple[Array, Array]:
    """P (Pa) and dP/dT at T (K)."""
    a, b, c = values
    with np.errstate(over="ignore", divide="ignore", invalid="ignore"):
        p = np.exp(a - b / (t + c))
        return p, p * b / (t + c) ** 2


def _start(t: Array, p: Array) -> Array:
    """Antoine's constants by linear least squares of T ln P = A T + (A C - B) - C ln P, or by two constants where that has no sense."""
    log_p = np.log(p)
    if len(t) >= 3:
        (a, product, minus_c), *_ = np.linalg.lstsq(np.column_stack([t, np.ones_like(t), log_p]), t * log_p, rcond=None)
        c = -minus_c
        b = a * c - product
        if b > 0.0 and (t + c).min() > 10.0:
            return np.array([a, b, c])
    c = -0.1 * float(t.mean())
    slope = np.polyfit(1.0 / (t + c), log_p, 1) if len(t) > 1 else np.array([-4000.0, float(log_p[0]) + 4000.0 / (t[0] + c)])
    return np.array([slope[1], -slope[0], c])


def _confidence(best: Any, free: list[int], notes: list[str]) -> tuple[Array, Array, Array]:
    found = confidence(best.jac, float(best.cost))
    if not found.determined:
        notes.append("The data do not determine all constants: fix C, or add data over a wider range.")
    errors, half, correlation = np.zeros(3), np.zeros(3), np.eye(3)
    errors[free], half[free] = found.standard_errors * _SCALES[free], found.half_widths * _SCALES[free]
    correlation[np.ix_(free, free)] = found.correlation
    return errors, half, correlation


def _deviation(k: int, data: DataSet, rows: NDArray[np.int64], values: Array) -> Deviation:
    measured = data.columns["P"][rows]
    calculated, _ = _antoine(values, data.columns["T"][rows])
    gap = np.abs(calculated - measured)
    return Deviation(k, "P", float(gap.mean()), float(gap.max()), tuple(map(int, rows)), measured, calculated)
