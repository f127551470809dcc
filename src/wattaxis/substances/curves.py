"""Properties of pure substances over temperature: from the bank's correlations, else estimated; each with its source and range."""

from __future__ import annotations

import gzip
import json
import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import lru_cache
from importlib.resources import files
from typing import Any

from wattaxis.substances.component import Component, OwnCurve
from wattaxis.substances.curve_estimates import ESTIMATES

#: Name -> kind of quantity. All in SI: kg/m3, J/mol, J/(mol K), Pa s, W/(m K), N/m. Gases at low pressure, liquids along the boiling curve.
CURVES = {
    "liquid density": "density",
    "heat of vaporisation": "molar_enthalpy",
    "liquid heat capacity": "molar_entropy",
    "liquid viscosity": "viscosity",
    "gas viscosity": "viscosity",
    "liquid conductivity": "conductivity",
    "gas conductivity": "conductivity",
    "surface tension": "surface_tension",
}


@dataclass(frozen=True)
class TemperatureCurve:
    """One property over temperature, SI, believed from ``low`` to ``high`` (K). Outside the value at the end of the range is kept.

    >>> from wattaxis.substances import component
    >>> round(component_curve(component("water"), "liquid viscosity").at(293.15) * 1e3, 2)  # mPa s
    1.02
    """

    name: str
    low: float
    high: float
    source: str
    estimated: bool
    formula: Callable[[float], float]

    def at(self, T: float) -> float:
        """The value at T (K); nan where the constants of a component contradict each other so that nothing can be estimated."""
        try:
            return float(self.formula(min(max(T, self.low), self.high)))
        except (ArithmeticError, TypeError, ValueError):  # a root of a negative number is complex, its logarithm an error
            return math.nan

    def inside(self, T: float) -> bool:
        """Whether T (K) lies in the range."""
        return self.low - 0.5 <= T <= self.high + 0.5


@lru_cache(maxsize=1)
def _table() -> dict[str, Any]:
    raw = files("wattaxis.substances").joinpath("curves.json.gz").read_bytes()
    table: dict[str, Any] = json.loads(gzip.decompress(raw))
    return table


def measured_curves(cas: str) -> int:
    """Of how many properties the bank has a correlation for a substance."""
    return len(_table()["curves"].get(cas, ()))


@lru_cache(maxsize=4096)
def component_curve(c: Component, name: str) -> TemperatureCurve:
    """The curve of a component by its name in :data:`CURVES`. Raises KeyError for another name.

    >>> from wattaxis.substances import component
    >>> component_curve(component("butanone"), "surface tension").estimated
    False
    """
    if name not in CURVES:
        raise KeyError(f'There is no "{name}"; there are {", ".join(CURVES)}.')
    own = next((curve for curve in c.own_curves if curve.name == name), None)
    if own is not None:
        return TemperatureCurve(name, own.temperatures[0], own.temperatures[-1], own.source, False, _through(own))
    row = _table()["curves"].get(c.cas, {}).get(name) if c.cas else None
    if row is not None:
        source, form, low, high, *numbers = row
        return TemperatureCurve(name, low, high, _table()["sources"][source], False, lambda t: FORMS[form](t, numbers))
    try:
        low, high, source, formula = ESTIMATES[name](c)
    except (ArithmeticError, TypeError, ValueError):
        low, high, source, formula = 1.0, c.critical_temperature, "its constants contradict each other", lambda _: math.nan
    return TemperatureCurve(name, low, high, f"estimated, {source}", True, formula)


def _through(own: OwnCurve) -> Callable[[float], float]:
    """A monotone cubic (Fritsch, Carlson 1980) through points of one's own; of one point its value."""
    if len(own.values) == 1:
        return lambda _: own.values[0]
    from scipy.interpolate import PchipInterpolator

    curve = PchipInterpolator(own.temperatures, own.values)
    return lambda t: float(curve(t))


def _power(t: float, c: Sequence[float]) -> float:
    return sum(value * t**k for k, value in enumerate(c))


def _exponential(t: float, c: Sequence[float]) -> float:
    return math.exp(c[0] + c[1] / t + c[2] * math.log(t) + (c[3] * t ** c[4] if c[3] else 0.0))


def _ratio(t: float, c: Sequence[float]) -> float:
    return float(c[0] * t ** c[1] / (1.0 + c[2] / t + c[3] / t**2))


def _rackett(t: float, c: Sequence[float]) -> float:
    return float(c[0] / c[1] ** (1.0 + (1.0 - t / c[2]) ** c[3]))


def _roots_of_tau(t: float, c: Sequence[float]) -> float:
    tau = 1.0 - t / c[1]
    return float(c[0] + c[2] * tau**0.35 + c[3] * tau ** (2.0 / 3.0) + c[4] * tau + c[5] * tau ** (4.0 / 3.0))


def _thirds(t: float, c: Sequence[float]) -> float:
    ratio = (c[2] - t) / (t - c[3])
    root = math.copysign(abs(ratio) ** (1.0 / 3.0), ratio)
    return c[4] * math.exp(c[0] * root + c[1] * ratio * root)


def _critical(t: float, c: Sequence[float]) -> float:
    reduced = t / c[0]
    return float(c[1] * (1.0 - reduced) ** (c[2] + c[3] * reduced + c[4] * reduced**2 + c[5] * reduced**3))


def _near_critical(t: float, c: Sequence[float]) -> float:
    tau = 1.0 - t / c[0]
    _, a, b, d, e = c
    return a**2 / tau + b - 2.0 * a * d * tau - a * e * tau**2 - d**2 * tau**3 / 3.0 - d * e * tau**4 / 2.0 - e**2 * tau**5 / 5.0


def _thirds_of_tau(t: float, c: Sequence[float]) -> float:
    tau = 1.0 - t / c[0]
    third = tau ** (1.0 / 3.0)
    return float(c[1] * third + c[2] * third**2 + c[3] * tau + c[4] * tau**2 + c[5] * tau**6)


#: Forms of the correlations by the name that the file gives them; numbers as :mod:`wattaxis.substances.build_curves` writes them.
FORMS: dict[str, Callable[[float, Sequence[float]], float]] = {
    "power": _power,
    "exponential": _exponential,
    "ratio": _ratio,
    "rackett": _rackett,
    "roots of tau": _roots_of_tau,
    "thirds": _thirds,
    "critical": _critical,
    "near critical": _near_critical,
    "thirds of tau": _thirds_of_tau,
}
