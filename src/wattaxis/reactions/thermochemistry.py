"""Heat, entropy, Gibbs energy and equilibrium constant of a reaction over temperature, from the formation data of its components."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from wattaxis.substances import Component
from wattaxis.substances.solids import Solid

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
    """Heat and equilibrium of a reaction between pure components in standard states: the ideal gas at 1 bar, or the pure liquid; crystals of solids.

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
    reacting = [known[name] for name, number in numbers.items() if number]
    outside = [found for item in reacting for found in _beyond(item, "heat capacity", item.heat_capacity.low, item.heat_capacity.high, T)]
    h, s = StandardStates(reacting).levels(T)
    if phase == "liquid":
        for k, item in enumerate(reacting):
            if isinstance(item, Solid):
                continue
            drop_h, drop_s = _condensed(item, T)
            h[..., k] -= drop_h
            s[..., k] -= drop_s
            curve = item.vapour_pressure
            assert curve is not None  # Component fills it in
            outside += _beyond(item, "vapour pressure", curve.low, curve.high, T)
    nu = np.array([number for number in numbers.values() if number])
    heat, entropy = h @ nu, s @ nu
    gibbs = heat - T * entropy
    return Thermochemistry(T, heat, entropy, gibbs, -gibbs / (R * T), tuple(outside))


class StandardStates:
    """Enthalpy from the elements and entropy of components in their standard states: the ideal gas at 1 bar, or the crystal of a solid.

    >>> from wattaxis import component
    >>> h, s = StandardStates([component("hydrogen")]).levels(np.array(298.15))
    >>> round(float(h[0]), 6), round(float(s[0]), 1)
    (0.0, 130.7)
    """

    def __init__(self, components: Sequence[Component]) -> None:
        self._components = tuple(components)
        capacities = [item.heat_capacity for item in components]
        powers = np.zeros((max((len(c.coefficients) for c in capacities), default=1), len(capacities)))
        for k, item in enumerate(components):
            if not isinstance(item, Solid):
                powers[: len(item.heat_capacity.coefficients), k] = item.heat_capacity.coefficients
        self._powers = powers
        self._low, self._high = np.array([c.low for c in capacities]), np.array([c.high for c in capacities])
        parts = [None if isinstance(item, Solid) else item.heat_capacity for item in components]
        self._above = np.array([c.above if c is not None and c.above is not None else (0.0,) * 5 for c in parts]).reshape(-1, 5).T
        self._middle = np.array([math.inf if c is None else c.middle for c in parts])
        self._solids = [(k, item.crystal_heat_capacity) for k, item in enumerate(components) if isinstance(item, Solid)]
        at_reference = self._integrals(np.asarray(T_REF))
        self._h = np.array([item.formation_enthalpy for item in components]) - at_reference[0]
        self._s = np.array([item.entropy for item in components]) - at_reference[1]

    def levels(self, T: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """J/mol and J/(mol K) at T (any shape) K, of that shape with the components last. Beyond its range a heat capacity stays as at its end."""
        h, s = self._integrals(T)
        return h + self._h, s + self._s

    def log_constants(self, numbers: np.ndarray, T: float) -> np.ndarray:
        """ln K, in fugacities over 1 bar, of reactions with stoichiometric numbers (reactions, components) at T (K), shape (reactions,)."""
        h, s = self.levels(np.asarray(T))
        return np.asarray(numbers @ (s - h / T)) / R

    def _integrals(self, T: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """Of the heat capacity over T and over ln T, each up to a constant."""
        inside = np.clip(T[..., None], self._low, self._high)
        below = np.minimum(inside, self._middle)
        h, s, end = self._sums(self._powers, below)
        beyond = inside > self._middle
        if beyond.any():
            middle, at = np.where(beyond, self._middle, 1.0), np.where(beyond, inside, 1.0)
            (h1, s1, end1), (h0, s0, _) = self._sums(self._above, at), self._sums(self._above, middle)
            h, s, end = np.where(beyond, h + h1 - h0, h), np.where(beyond, s + s1 - s0, s), np.where(beyond, end1, end)
        h += end * (T[..., None] - inside)
        s += end * np.log(T[..., None] / inside)
        for k, capacity in self._solids:
            h[..., k] = np.vectorize(capacity.heat, otypes=[float])(T)
            s[..., k] = np.vectorize(capacity.heat_over_t, otypes=[float])(T)
        return h, s

    @staticmethod
    def _sums(powers: np.ndarray, T: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        """Integrals of polynomials (terms, components) over T and over ln T from nothing on, and their values."""
        orders = np.arange(1, len(powers) + 1)[:, None]
        steps = T[..., None, :] ** orders
        over_t = powers[1:] / orders[:-1] * steps[..., :-1, :]
        h = (powers / orders * steps).sum(axis=-2)
        return h, powers[0] * np.log(T) + over_t.sum(axis=-2), (powers * steps).sum(axis=-2) / T


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


def _beyond(item: Component, what: str, low: float, high: float, T: np.ndarray) -> list[tuple[str, str]]:
    return [(item.id, what)] if T.size and (T.min() < low or T.max() > high) else []
