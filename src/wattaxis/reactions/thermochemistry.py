"""Heat, entropy, Gibbs energy and equilibrium constant of a reaction over temperature, from the formation data of its components."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from wattaxis.substances import Component, HeatCapacity

#: J/(mol K); the temperature (K) and pressure (Pa) that the formation data belong to.
R, T_REF, P_REF = 8.31446261815324, 298.15, 1e5
#: Relative step of the one slope that is differenced, that of ln vapour pressure over temperature.
_STEP = 1e-4


@dataclass(frozen=True)
class Thermochemistry:
    """Values of a reaction at temperatures (n,): ``heat`` and ``gibbs`` (n,) J/mol, ``entropy`` (n,) J/(mol K), ``log_constant`` (n,) = ln K.

    ``outside``: (component, what) for data that is used beyond its range at one of the temperatures at least.

    >>> from wattaxis import component
    >>> found = thermochemistry({"hydrogen": -1, "oxygen": -0.5, "water": 1}, [component(n) for n in ("hydrogen", "oxygen", "water")], [298.15])
    >>> round(float(found.heat[0]) / 1e3, 1)
    -241.8
    """

    temperatures: np.ndarray
    heat: np.ndarray
    entropy: np.ndarray
    gibbs: np.ndarray
    log_constant: np.ndarray
    outside: tuple[tuple[str, str], ...]


def thermochemistry(
    numbers: Mapping[str, float], components: Sequence[Component], temperatures: Sequence[float], phase: Literal["gas", "liquid"] = "gas"
) -> Thermochemistry:
    """Heat and equilibrium of a reaction between pure components in their standard states: the ideal gas at 1 bar, or the pure liquid.

    ``numbers`` by component id, negative for what is used up; ``temperatures`` K. The liquid follows from the gas by the vapour pressure
    over an ideal vapour, ``G = G(gas) + R T ln(Psat / 1 bar)``, and its enthalpy by the slope of the same (Clausius, Clapeyron), so that heat
    and constant agree (van 't Hoff). Raises ValueError for a component that the list lacks, for a temperature that is none, and for a liquid
    above its critical temperature.
    """
    known = {item.id: item for item in components}
    missing = [name for name, number in numbers.items() if number and name not in known]
    if missing:
        raise ValueError(f"{', '.join(missing)}: not among the components.")
    T = np.asarray(temperatures, dtype=float)
    if T.size and not (np.isfinite(T).all() and T.min() > 0.0):
        raise ValueError("Temperatures are above 0 K.")
    heat, entropy, outside = np.zeros_like(T), np.zeros_like(T), []
    for name, number in numbers.items():
        if not number:
            continue
        h, s = _gas(known[name], T)
        outside += _beyond(name, "heat capacity", known[name].heat_capacity.low, known[name].heat_capacity.high, T)
        if phase == "liquid":
            drop_h, drop_s = _condensed(known[name], T)
            h, s = h - drop_h, s - drop_s
            curve = known[name].vapour_pressure
            assert curve is not None  # Component fills it in
            outside += _beyond(name, "vapour pressure", curve.low, curve.high, T)
        heat += number * h
        entropy += number * s
    gibbs = heat - T * entropy
    return Thermochemistry(T, heat, entropy, gibbs, -gibbs / (R * T), tuple(outside))


def _gas(item: Component, T: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Enthalpy from the elements (J/mol) and entropy (J/(mol K)) of the ideal gas at 1 bar."""
    capacity = item.heat_capacity
    h = item.formation_enthalpy + _heat(capacity, T) - _heat(capacity, np.asarray(T_REF))
    s = item.entropy + _heat_over_temperature(capacity, T) - _heat_over_temperature(capacity, np.asarray(T_REF))
    return h, s


def _heat(capacity: HeatCapacity, T: np.ndarray) -> np.ndarray:
    """Integral of the heat capacity over T from 0 K, up to a constant; beyond the range the value at its end is kept."""
    inside = np.clip(T, capacity.low, capacity.high)
    powers = sum((c / (k + 1) * inside ** (k + 1) for k, c in enumerate(capacity.coefficients)), np.zeros_like(inside))
    return np.asarray(powers + _value(capacity, inside) * (T - inside))


def _heat_over_temperature(capacity: HeatCapacity, T: np.ndarray) -> np.ndarray:
    """Integral of the heat capacity over ln T, up to a constant."""
    inside = np.clip(T, capacity.low, capacity.high)
    first, *others = capacity.coefficients
    powers = sum((c / k * inside**k for k, c in enumerate(others, 1)), first * np.log(inside))
    return np.asarray(powers + _value(capacity, inside) * np.log(T / inside))


def _value(capacity: HeatCapacity, T: np.ndarray) -> np.ndarray:
    return np.asarray(sum((c * T**k for k, c in enumerate(capacity.coefficients)), np.zeros_like(T)))


def _condensed(item: Component, T: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """What the enthalpy and the entropy fall by from the ideal gas at 1 bar to the liquid."""
    if T.size and T.max() >= item.critical_temperature:
        raise ValueError(f"{item.id} is no liquid above its critical temperature, {item.critical_temperature:.2f} K.")
    curve = item.vapour_pressure
    assert curve is not None

    def log_pressure(t: float) -> float:
        return curve.log_pressure(t, item.critical_temperature, item.critical_pressure, item.acentric_factor)

    level = np.array([log_pressure(t) for t in T.ravel()]).reshape(T.shape) - np.log(P_REF)
    slope = np.array([(log_pressure(t * (1 + _STEP)) - log_pressure(t * (1 - _STEP))) / (2 * _STEP * t) for t in T.ravel()]).reshape(T.shape)
    return R * T**2 * slope, R * (level + T * slope)


def _beyond(name: str, what: str, low: float, high: float, T: np.ndarray) -> list[tuple[str, str]]:
    return [(name, what)] if T.size and (T.min() < low or T.max() > high) else []
