"""Henry constants: of gases in water from the guideline of IAPWS or an open compilation, in other solvents estimated."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from importlib.resources import files

import numpy as np

from wattaxis.substances.bank import bank_pair
from wattaxis.substances.component import Component

WATER = "7732-18-5"
_R = 8.31446261815324  # J/(mol K), CODATA 2018
_TC, _PC = 647.096, 22.064e6
#: ln(psat/Pc) Tc/T of water in powers of 1 - T/Tc (Wagner, Pruss 1993).
_PSAT = {1.0: -7.85951783, 1.5: 1.84408259, 3.0: -11.7866497, 3.5: 22.6807411, 4.0: -15.9618719, 7.5: 1.80122502}
#: CAS number -> A, B, C of ln(H/psat) = A/Tr + B (1 - Tr)**0.355 / Tr + C exp(1 - Tr) Tr**-0.41, lowest and highest temperature (K).
_GASES = {
    "7440-59-7": (-3.52839, 7.12983, 4.47770, 273.21, 553.18),
    "7440-01-9": (-3.18301, 5.31448, 5.43774, 273.20, 543.36),
    "7440-37-1": (-8.40954, 4.29587, 10.52779, 273.19, 568.36),
    "7439-90-9": (-8.97358, 3.61508, 11.29963, 273.19, 525.56),
    "7440-63-3": (-14.21635, 4.00041, 15.60999, 273.22, 574.85),
    "1333-74-0": (-4.73284, 6.08954, 6.06066, 273.15, 636.09),
    "7727-37-9": (-9.67578, 4.72162, 11.70585, 278.12, 636.46),
    "7782-44-7": (-9.44833, 4.43822, 11.42005, 274.15, 616.52),
    "630-08-0": (-10.52862, 5.13259, 12.01421, 278.15, 588.67),
    "124-38-9": (-8.55445, 4.01195, 9.52345, 274.19, 642.66),
    "7783-06-4": (-4.51499, 5.23538, 4.42126, 273.15, 533.09),
    "74-82-8": (-10.44708, 4.66491, 12.12986, 275.46, 633.11),
    "74-84-0": (-19.67563, 4.51222, 20.62567, 275.44, 473.46),
    "2551-62-4": (-16.56118, 2.15289, 20.35440, 283.14, 505.55),
}
COMPILED = "Sander 2015, compilation of Henry's law constants; about 25 degC"
SOURCE = "IAPWS G7-04 (Fernandez-Prini, Alvarez, Harvey 2003), fitted to ha + hb/T + he ln T + hf T"


@dataclass(frozen=True)
class Henry:
    """ln(H/Pa) = a + b/T + e ln T + f T of a gas in a solvent between ``low`` and ``high`` (K), with its source.

    >>> known = henry_in_water("7782-44-7")
    >>> round(known.at(298.15) / 1e9, 2)  # GPa
    4.36
    """

    a: float
    b: float
    e: float
    f: float
    low: float
    high: float
    source: str
    estimated: bool = False

    def at(self, T: float) -> float:
        """The constant (Pa) at T (K), extrapolated outside the range."""
        return float(np.exp(self.a + self.b / T + self.e * np.log(T) + self.f * T))

    @property
    def values(self) -> dict[str, float]:
        """As parameters of a pair."""
        return {"ha": self.a, "hb": self.b, "he": self.e, "hf": self.f}


def fitted(T: np.ndarray, log_henry: np.ndarray, source: str, *, estimated: bool = False, linear: bool = True) -> Henry:
    """The four-term form through values of ln(H/Pa) at temperatures ``T`` (K), both shape (n,); ``linear`` false leaves out the term in T."""
    basis = np.column_stack([np.ones_like(T), 1.0 / T, np.log(T), T][: 4 if linear else 3])
    found = np.append(np.linalg.lstsq(basis, log_henry, rcond=None)[0], 0.0)
    a, b, e, f = (float(v) for v in found[:4])
    return Henry(a, b, e, f, float(T[0]), float(T[-1]), source, estimated)


@lru_cache(maxsize=1)
def _compiled() -> dict[str, tuple[float, float]]:
    """Gases of the compilation by CAS number: a and b."""
    lines = files("wattaxis.substances").joinpath("henry_in_water.txt").read_text().splitlines()
    rows = (line.split() for line in lines if not line.startswith("#"))
    return {cas: (float(a), float(b)) for cas, a, b in rows}


@lru_cache(maxsize=512)
def henry_in_water(cas: str) -> Henry | None:
    """The Henry constant of a gas in water: by the guideline, else by the compilation; None for substances that neither has as a gas.

    >>> henry_in_water("78-93-3") is None
    True
    """
    if cas not in _GASES:
        a, b = _compiled().get(cas, (0.0, 0.0))
        return Henry(a, b, 0.0, 0.0, 273.15, 353.15, COMPILED) if b else None
    a, b, c, low, high = _GASES[cas]
    t = np.linspace(low, min(high, 500.0), 60)
    reduced = t / _TC
    rest = 1.0 - reduced
    saturation = np.log(_PC) + sum(k * rest**power for power, k in _PSAT.items()) / reduced
    return fitted(t, saturation + a / reduced + b * rest**0.355 / reduced + c * np.exp(rest) * reduced**-0.41, SOURCE)


def henry_constant(gas: Component, solvent: Component) -> Henry:
    """The Henry constant of a gas in a solvent: measured in water, else estimated with the equation of Peng and Robinson (1976) at infinite dilution.

    The estimate takes k_ij from the bank where it has one, and the solvent at the pressure of Lee and Kesler (1975) from 0.45 to 0.8 of its critical
    temperature. It is within a factor of two for gases in hydrocarbons and worse in polar solvents, and marked as an estimate.

    >>> from wattaxis.substances.bank import component
    >>> known = henry_constant(component("hydrogen"), component("n-hexane"))
    >>> known.estimated, 2e7 < known.at(298.15) < 2e8
    (True, True)
    """
    known = henry_in_water(gas.cas) if solvent.cas == WATER else None
    return known or _estimated(gas, solvent)


@lru_cache(maxsize=512)
def _estimated(gas: Component, solvent: Component) -> Henry:
    pair = bank_pair("peng-robinson", gas.cas, solvent.cas)
    kij = pair.values["kij"] if pair else 0.0
    t = np.linspace(0.45, 0.8, 8) * solvent.critical_temperature
    values = np.array([_dissolved(float(value), gas, solvent, kij) for value in t])
    return fitted(t, values, "Henry constant estimated, Peng-Robinson at infinite dilution", estimated=True, linear=False)


def _dissolved(t: float, gas: Component, solvent: Component, kij: float) -> float:
    """ln(H/Pa) at one temperature, Peng-Robinson."""
    reduced = t / solvent.critical_temperature
    tail = (15.2518 - 15.6875 / reduced - 13.4721 * np.log(reduced) + 0.43577 * reduced**6) * solvent.acentric_factor
    p = solvent.critical_pressure * np.exp(5.92714 - 6.09648 / reduced - 1.28862 * np.log(reduced) + 0.169347 * reduced**6 + tail)
    root_a, b = zip(*(_cubic(t, c) for c in (gas, solvent)), strict=True)
    big_a, big_b = root_a[1] ** 2 * p / (_R * t) ** 2, b[1] * p / (_R * t)
    roots = np.roots([1.0, big_b - 1.0, big_a - 3.0 * big_b**2 - 2.0 * big_b, big_b**3 + big_b**2 - big_a * big_b])
    z = float(min(root.real for root in roots if abs(root.imag) < 1e-9 and root.real > big_b))
    ratio, root = b[0] / b[1], 2.0**0.5
    attraction = big_a / (2.0 * root * big_b) * (2.0 * root_a[0] * (1.0 - kij) / root_a[1] - ratio)
    phi = ratio * (z - 1.0) - np.log(z - big_b) - attraction * np.log((z + (1.0 + root) * big_b) / (z + (1.0 - root) * big_b))
    return float(phi + np.log(p))


def _cubic(t: float, c: Component) -> tuple[float, float]:
    slope = 0.37464 + 1.54226 * c.acentric_factor - 0.26992 * c.acentric_factor**2
    alpha = 1.0 + slope * (1.0 - (t / c.critical_temperature) ** 0.5)
    root_a = float((0.45723553 / c.critical_pressure) ** 0.5 * _R * c.critical_temperature * alpha)
    return root_a, 0.07779607 * _R * c.critical_temperature / c.critical_pressure
