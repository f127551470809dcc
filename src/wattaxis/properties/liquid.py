"""The pure liquids of the ideal and activity models, fitted to the curves of the components: volumes, and enthalpies on measured ground.

Heat of vaporisation and heat capacity of the liquid are two measurements of one curve: with the distance L(T) of the liquid's enthalpy from the
ideal gas, ``heat of vaporisation = L + residual enthalpy of the saturated vapour`` and ``Cp = Cp of the ideal gas - dL/dT``. L is fitted to both at
once by relative deviations, with the vapour that the model has: an ideal one leaves no residual enthalpy, so that there the two are met as nearly
as an ideal vapour allows.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence
from functools import lru_cache

import numpy as np

from wattaxis.properties import layout
from wattaxis.substances import Component
from wattaxis.substances.curves import TemperatureCurve, component_curve

#: Reduced temperatures between which heats are fitted, and from which on they count less: an ideal vapour ends there.
_COLD, _WARM, _HOT, _FADING = 0.30, 0.72, 0.90, 0.25
#: Points of each curve; weight of an estimated curve beside a measured one.
_POINTS, _ESTIMATED = 24, 0.15
#: Where the fits of density and of heats end, of the critical temperature.
_DENSE, _END = 0.98, 0.93

#: What the enthalpy of the pure saturated vapour has more than that of the ideal gas (J/mol) at T (K).
Vapour = Callable[[float], float]


def place_volumes(par: np.ndarray, components: Sequence[Component], gases: Collection[int]) -> None:
    """Enter the volumes of the pure liquids, and which components are no dissolved gases, into the packed parameters."""
    for i, c in enumerate(components):
        low, high, density = _density(c)
        par[layout.DENSITY_LOW, i], par[layout.DENSITY_HIGH, i] = low, high
        par[layout.DENSITY0 : layout.DENSITY0 + 5, i] = density
        par[layout.REFERENCE, i] = 0.0 if i in gases else 1.0


def place_heats(par: np.ndarray, components: Sequence[Component], gases: Collection[int], vapours: Callable[[int], Vapour] | None = None) -> None:
    """Enter the heats of the pure liquids; dissolved gases keep the heat that their Henry constant implies.

    ``vapours`` belongs to a real vapour and gives that of the component at a position.
    """
    for i, c in enumerate(components):
        heat = None
        if i not in gases:
            heat = _ideal_depth(c) if vapours is None else fitted_depth(c, vapours(i))
        if heat is not None:
            par[layout.HEAT_LOW, i], par[layout.HEAT_HIGH, i] = heat[0], heat[1]
            par[layout.HEAT0 : layout.HEAT0 + 5, i] = heat[2:]


def saturated_volume(par: np.ndarray, i: int, T: float) -> float:
    """Molar volume (m3/mol) of a saturated pure liquid by the packed parameters, within their range."""
    inside = min(max(T, par[layout.DENSITY_LOW, i]), par[layout.DENSITY_HIGH, i])
    tau = np.array([1.0 - inside / par[layout.TC, i]])
    return float(1.0 / (_density_terms(tau) @ par[layout.DENSITY0 : layout.DENSITY0 + 5, i])[0])


@lru_cache(maxsize=4096)
def _density(c: Component) -> tuple[float, float, tuple[float, ...]]:
    """Range (K) and the five numbers of the molar density."""
    curve = component_curve(c, "liquid density")
    tc = c.critical_temperature
    low, high = max(min(curve.low, 0.9 * tc), 0.2 * tc), min(curve.high, _DENSE * tc)
    if not low < high - 1e-3 * tc:
        low, high = 0.5 * tc, 0.7 * tc
    t = np.linspace(low, high, 40)
    values = np.array([curve.at(float(x)) for x in t]) / c.molar_mass
    if not (np.isfinite(values).all() and values.min() > 0.0):
        critical = c.critical_pressure / (0.27 * layout.R * tc)
        return low, _DENSE * tc, (critical, 2.0 * critical, 0.0, 0.0, 0.0)
    # The density at the critical point, with little weight, keeps a curve that ends early from going astray on the way there.
    critical = c.critical_pressure / (layout.R * tc * (0.291 - 0.08 * min(c.acentric_factor, 1.0)))
    tau = 1.0 - np.append(t, tc) / tc
    weight = np.append(1.0 / values, 0.02 * len(t) / critical)
    numbers, *_ = np.linalg.lstsq(_density_terms(tau) * weight[:, None], np.append(values, critical) * weight, rcond=None)
    return low, _last_falling(numbers, tc, high), tuple(float(n) for n in numbers)


def _density_terms(tau: np.ndarray) -> np.ndarray:
    """Terms of the molar density, shape (len(tau), 5)."""
    return np.column_stack([np.ones_like(tau), tau**0.35, tau ** (2.0 / 3.0), tau, tau ** (4.0 / 3.0)])


def _last_falling(numbers: np.ndarray, tc: float, at_least: float) -> float:
    """Up to which temperature the fit, carried on, is positive and falls; no further than the end of all fits, no less than its data."""
    t = np.linspace(at_least, _DENSE * tc, 30)
    values = _density_terms(1.0 - t / tc) @ numbers
    good = np.concatenate([[True], (np.diff(values) < 0.0) & (values[1:] > 0.0)])
    return float(t[np.argmin(good) - 1]) if not good.all() else float(t[-1])


def _cp_gas(c: Component, t: np.ndarray) -> np.ndarray:
    return np.array([c.heat_capacity.at(float(one)) for one in np.ravel(t)]).reshape(np.shape(t))


@lru_cache(maxsize=4096)
def _ideal_depth(c: Component) -> tuple[float, ...] | None:
    return fitted_depth(c, None)


def fitted_depth(c: Component, vapour: Vapour | None) -> tuple[float, ...] | None:
    """Range (K) and the five numbers of L; None where the curves of a component allow none, whose heats then follow from its vapour pressure."""
    tc, real = c.critical_temperature, vapour is not None
    heat, cp = component_curve(c, "heat of vaporisation"), component_curve(c, "liquid heat capacity")
    if heat.estimated and cp.estimated and _stated_in_full(c):
        return None
    rows, wanted = [], []
    cold, hot = 1e9, 0.0
    for curve in (heat, cp):
        points = _points(curve, tc)
        if points is None:
            continue
        t, values = points
        lesser = _ESTIMATED if curve.estimated and heat.estimated != cp.estimated else 1.0
        weight = _weight(t / tc) * lesser / values
        tau = 1.0 - t / tc
        if curve is heat:
            residual = np.zeros_like(t) if vapour is None else np.array([vapour(float(x)) for x in t])
            rows.append(_terms(tau, real) * weight[:, None])
            wanted.append((values - residual) * weight)
        else:
            rows.append(_slopes(tau, tc, real) * weight[:, None])
            wanted.append((_cp_gas(c, t) - values) * weight)
        cold, hot = min(cold, float(t[0])), max(hot, float(t[-1]))
    if not rows:
        return None
    numbers, *_ = np.linalg.lstsq(np.vstack(rows), np.concatenate(wanted), rcond=1e-9)
    end = _hottest(numbers, tc, cold, real)
    if end is None:
        return None
    padded = numbers if real else np.append(numbers, 0.0)
    return (cold, end, *(float(n) for n in padded))


def _stated_in_full(c: Component) -> bool:
    """Whether somebody typed in the constants and the vapour pressure of a component of no bank: its heat of vaporisation is that of its slope."""
    assert c.vapour_pressure is not None  # Component fills it in
    return not c.from_bank and not c.vapour_pressure.estimated


def _points(curve: TemperatureCurve, tc: float) -> tuple[np.ndarray, np.ndarray] | None:
    """Temperatures and values of a curve that the fit is to meet; None where it gives none."""
    low, high = max(curve.low, _COLD * tc), min(curve.high, _HOT * tc)
    if high <= low:
        # One temperature only, or a range beyond the fit: its nearest point, where that is one at all.
        low = min(max(0.5 * (curve.low + curve.high), _COLD * tc), _HOT * tc)
        high = low + 1e-3
        if not curve.inside(low):
            return None
    t = np.linspace(low, high, _POINTS)
    values = np.array([curve.at(float(x)) for x in t])
    return (t, values) if np.isfinite(values).all() and values.min() > 0.0 else None


def _weight(reduced: np.ndarray) -> np.ndarray:
    """One up to where an ideal vapour ends, then falling."""
    return np.asarray(np.interp(reduced, [_WARM, _HOT], [1.0, _FADING]))


def _terms(tau: np.ndarray, real: bool) -> np.ndarray:
    terms = [tau ** (0.38 + k) for k in range(4)]
    return np.column_stack([*terms, np.ones_like(tau)] if real else terms)


def _slopes(tau: np.ndarray, tc: float, real: bool) -> np.ndarray:
    terms = [-(0.38 + k) * tau ** (k - 0.62) / tc for k in range(4)]
    return np.column_stack([*terms, np.zeros_like(tau)] if real else terms)


def _hottest(numbers: np.ndarray, tc: float, cold: float, real: bool) -> float | None:
    """Up to where L, carried on, is positive and falls, and no further than :data:`_END`; None where that is not far."""
    t = np.linspace(cold, _END * tc, 60)
    tau = 1.0 - t / tc
    good = (_terms(tau, real) @ numbers > 0.0) & (_slopes(tau, tc, real) @ numbers < 0.0)
    if good.all():
        return float(t[-1])
    first = int(np.argmin(good))
    return float(t[first - 1]) if first > 5 else None
