"""Critical constants, boiling points and acentric factors for the bank, each the one that most others bear out. A development tool, used by
:mod:`wattaxis.substances.build_bank`.

An acentric factor describes a vapour pressure. One with which the equation of Peng and Robinson (1976) misses the boiling point is another
substance's, or belongs to other critical constants: it gives way to one that meets the point.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from typing import Any

from scipy.optimize import brentq

from wattaxis.substances.component import FITTED_OMEGA

R = 8.31446261815324
ATMOSPHERE = 101325.0  # Pa
#: Methods of the library that are estimates, by the end of their names.
ESTIMATED = ("JOBACK", "WILSON_JASPERSON")
REFERENCE = "HEOS"
#: K within which the equation of state meets a boiling point; the same of a vapour-pressure curve.
MEETS, CURVE_MEETS = 0.5, 1.0
#: K by which an acentric factor misses the boiling point before a user is told.
SAID = 2.0
#: A cubic equation's acentric factor that lies within these is a substance's.
OMEGA_RANGE = (-0.4, 1.9)


#: What the library's short table names stand for.
SOURCES = {
    "HEOS": "reference equation of state (CoolProp fluid tables)",
    "ATCT_G": "Active Thermochemical Tables (Ruscic 2019)",
    "CRC": "CRC Handbook of Chemistry and Physics, 95th edition",
    "CRC_ORG": "CRC Handbook of Chemistry and Physics, 95th edition",
    "CRC_INORG": "CRC Handbook of Chemistry and Physics, 95th edition",
    "IUPAC": "IUPAC critical-properties reviews (Ambrose, Tsonopoulos and others)",
    "MATTHEWS": "Matthews 1972",
    "PINAMARTINES": "Martinez and others 2005, critical-data collection",
    "WILSON_JASPERSON": "estimated, Wilson, Jasperson 1996",
    "JOBACK": "estimated, Joback, Reid 1987",
    "ACENTRIC_DEFINITION": "from the vapour pressure at Tr = 0.7",
    "PSRK": "Horstmann and others 2005",
    "PD": "Passut, Danner 1973",
    "YAWS": "Yaws 2008",
    "TRC": "TRC gas tables (Kabo and others 1994)",
    "WEBBOOK": "NIST Chemistry WebBook",
    "API_TDB_G": "Albahri 2014",
    "OPEN_NTBKM": "open melting-point data (Bradley 2014)",
    "COMMON_CHEMISTRY": "CAS Common Chemistry",
    "WIKIDATA": "Wikidata",
    "JANAF": "JANAF tables (Chase 1998)",
    "JANAF_GAS": "JANAF tables (Chase 1998)",
}


def source_name(key: str) -> str:
    """What a table of the library is called in full."""
    return SOURCES[str(key)]


def consensus(values: Mapping[str, float], close: Callable[[float, float], bool]) -> str:
    """The first key whose value more of the others bear out than contradict, else the one with most support."""

    def support(key: str) -> int:
        return sum(1 if close(values[key], other) else -1 for name, other in values.items() if name != key)

    scores = {key: support(key) for key in values}
    return next((key for key in values if scores[key] > 0), max(values, key=lambda key: scores[key]))


def within(share: float) -> Callable[[float, float], bool]:
    """Whether two values differ by no more than a share of themselves."""
    return lambda a, b: abs(a - b) <= share * max(abs(a), abs(b))


def all_values(getter: Any, methods: Any, cas: str) -> dict[str, float]:
    """Every finite value that the library has, by the name of its table, the preferred first."""
    found = {}
    for name in methods(cas):
        value = getter(cas, method=name)
        if value is not None and math.isfinite(value):
            found[str(name)] = float(value)
    return found


def first(getter: Any, methods: Any, cas: str) -> list[Any] | None:
    """The library's preferred value with the name of its table: [value, source]."""
    values = all_values(getter, methods, cas)
    return None if not values else [next(iter(values.values())), source_name(next(iter(values)))]


def critical(values: dict[str, float], share: float) -> str | None:
    """The table of a critical constant to take: measured ones among themselves, estimates only where nothing is measured."""
    measured = {name: value for name, value in values.items() if name not in ESTIMATED and value > 0.0}
    if REFERENCE in measured:
        return REFERENCE
    pool = measured or {name: value for name, value in values.items() if value > 0.0}
    return consensus(pool, within(share)) if pool else None


def boiling_point(values: dict[str, float], hints: list[float]) -> str | None:
    """The table of a boiling point to take. ``hints`` are temperatures (K) at which vapour pressures reach one atmosphere."""
    measured = {name: value for name, value in values.items() if name not in ESTIMATED and value > 0.0}
    pool = measured or values
    if not pool:
        return None
    if REFERENCE in pool:
        return REFERENCE

    def cost(key: str) -> float:
        others = [value for name, value in pool.items() if name != key] + hints
        return sum(min(abs(pool[key] - other), 5.0) for other in others)

    best = min(cost(key) for key in pool)
    return next(key for key in pool if cost(key) <= best + 1.0)


def acentric_factor(values: dict[str, float], tb: float | None, tc: float, pc: float) -> tuple[float, str, str] | None:
    """(omega, table or :data:`FITTED_OMEGA`, what is to be said of it). None where none is known and none can be found."""
    if tb is None or not 0.3 * tc < tb < 0.98 * tc:
        return None if not values else (next(iter(values.values())), next(iter(values)), "")
    first = next(iter(values), None)
    if first == REFERENCE:
        return values[first], first, ""
    for name, value in values.items():
        off = _misses(value, tb, tc, pc)
        if off is not None and abs(off) <= MEETS:
            return value, name, ""
    low, high = OMEGA_RANGE
    if _pressure(low, tb, tc, pc) < ATMOSPHERE or _pressure(high, tb, tc, pc) > ATMOSPHERE:
        return None if first is None else (values[first], first, "the critical constants contradict the boiling point")
    found = float(brentq(lambda w: math.log(_pressure(w, tb, tc, pc) / ATMOSPHERE), low, high, xtol=1e-6))
    tabulated = 0.0 if first is None else values[first]
    off = None if first is None else _misses(tabulated, tb, tc, pc)
    said = "" if off is None or abs(off) < SAID else f"the tables' {tabulated:.4g} misses the boiling point by {off:+.1f} K"
    return round(found, 5), FITTED_OMEGA, said


def _misses(omega: float, tb: float, tc: float, pc: float) -> float | None:
    """K by which the equation of state boils too hot at one atmosphere."""
    if not OMEGA_RANGE[0] < omega < OMEGA_RANGE[1]:
        return None
    step = 1e-3 * tb
    here, there = (math.log(_pressure(omega, t, tc, pc)) for t in (tb, tb + step))
    return (math.log(ATMOSPHERE) - here) / (there - here) * step


def _pressure(omega: float, t: float, tc: float, pc: float) -> float:
    """Vapour pressure (Pa) of Peng and Robinson (1976): substitution on the fugacities of both roots."""
    slope = 0.37464 + 1.54226 * omega - 0.26992 * omega**2
    a = 0.457235528921382 * (R * tc) ** 2 / pc * (1.0 + slope * (1.0 - math.sqrt(t / tc))) ** 2
    b = 0.0777960739038885 * R * tc / pc
    log_p = math.log(pc) + 5.373 * (1.0 + omega) * (1.0 - tc / t)
    for _ in range(200):
        change = _fugacity_gap(a * math.exp(log_p) / (R * t) ** 2, b * math.exp(log_p) / (R * t))
        log_p += change
        if abs(change) < 1e-11:
            break
    return math.exp(log_p)


def _fugacity_gap(a: float, b: float) -> float:
    """ln phi of the liquid less that of the vapour; with one root only a step towards pressures that have two."""
    import numpy as np

    root = math.sqrt(2.0)
    roots = np.roots([1.0, b - 1.0, a - 3.0 * b * b - 2.0 * b, b**3 + b * b - a * b])
    real = sorted(float(z.real) for z in roots if abs(z.imag) < 1e-9 and z.real > b)
    if len(real) < 2:
        return -0.1 if real[0] < 3.5 * b else 0.1

    def log_phi(z: float) -> float:
        return z - 1.0 - math.log(z - b) - a / (2.0 * root * b) * math.log((z + (1.0 + root) * b) / (z + (1.0 - root) * b))

    return log_phi(real[0]) - log_phi(real[-1])
