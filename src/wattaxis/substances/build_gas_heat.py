"""Ideal-gas heat capacities for the bank: every open source of a substance is compared with every other, and one that the others contradict is
passed over. A development tool, used by :mod:`wattaxis.substances.build_bank`."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from functools import partial
from typing import Any

import numpy as np

R = 8.31446261815324
#: Names of the library's methods in the order in which they are preferred, with what they are.
METHODS = {
    "POLING_POLY": "Poling, Prausnitz, O'Connell 2001, table A.C",
    "TRCIG": "fitted to TRC gas tables (Kabo and others 1994)",
    "COOLPROP": "fitted to the reference equation of state (CoolProp)",
    "JANAF": "fitted to the JANAF tables (Chase 1998)",
    "WEBBOOK_SHOMATE": "fitted to the NIST Chemistry WebBook",
}
#: The measured value at 298.15 K of the CRC Handbook and the estimate from groups have a vote, but no curve of their own.
WITNESSES = ("CRCSTD", "JOBACK")
PLACES = (298.15, 400.0, 500.0, 700.0, 1000.0)  # K
#: Two sources agree within so much; a source alone may differ by so much from the estimate from groups.
ALIKE, FAR = 0.03, 0.20
#: Sources that reach higher than the chosen one, in the order in which they are preferred; K up to which they are taken, from the highest down.
HIGHER, TOPS = ("TRCIG", "JANAF", "WEBBOOK_SHOMATE"), (3000.0, 2500.0, 2000.0, 1500.0)


@dataclass(frozen=True)
class GasHeat:
    """A heat capacity as the bank keeps it, and what the comparison of its sources found."""

    data: dict[str, Any]
    doubt: str = ""


def gas_heat_capacity(cas: str, molar_mass: float, joback: dict[str, Any] | None, atoms: int) -> GasHeat | None:
    """The heat capacity of the first source that is not outvoted; ``joback`` is the estimate from groups, used where nothing else is there.

    ``molar_mass`` in g/mol. Without either the number of ``atoms`` gives an estimate. None where even that fails.
    """
    from thermo.heat_capacity import HeatCapacityGas

    library = HeatCapacityGas(CASRN=cas, MW=molar_mass)
    known = {name: _values(library, name) for name in (*METHODS, *WITNESSES) if name in library.all_methods}
    found = [name for name in METHODS if known.get(name)]
    made = {name: curve for name in found if (curve := _curve(library, cas, name)) is not None}
    if not made:
        estimate = joback or _by_similarity(atoms, molar_mass)
        return None if estimate is None else GasHeat(estimate)
    ranked = sorted(made, key=lambda name: (-_support(name, known), list(METHODS).index(name)))
    best = ranked[0]
    support = _support(best, known)
    groups = known.get("JOBACK", {})
    alone = all(name in (best, "JOBACK") for name in known)
    if alone and joback is not None and _apart(known[best], groups) > FAR:
        return GasHeat(joback, f"{METHODS[best]} differs by {_apart(known[best], groups):.0%} from the estimate from groups, which is taken")
    if support < 0:
        return GasHeat(made[best], f"its sources differ by up to {max(_apart(known[best], v) for k, v in known.items() if k != best):.0%}")
    passed = [METHODS[name] for name in made if list(METHODS).index(name) < list(METHODS).index(best)]
    return GasHeat(made[best], f"passed over, since others contradict it: {'; '.join(passed)}" if passed else "")


def with_second_part(cas: str, molar_mass: float, entry: dict[str, Any]) -> dict[str, Any]:
    """The entry with a second polynomial from its upper end on, where a source reaches higher and agrees there; ``molar_mass`` in g/mol."""
    from thermo.heat_capacity import HeatCapacityGas

    middle = float(entry["Tmax"])
    if entry["source"].startswith("estimated") or middle >= TOPS[0]:
        return entry
    library = HeatCapacityGas(CASRN=cas, MW=molar_mass)
    here = sum(c * middle**k for k, c in enumerate(entry["c"]))
    for name in HIGHER:
        if name not in library.all_methods:
            continue
        limit, there = float(library.T_limits[name][1]), float(library.calculate(middle, name) or 0.0)
        if there <= 0.0 or abs(math.log(there / here)) > ALIKE:
            continue
        for top in (t for t in TOPS if middle + 200.0 <= t <= limit):
            found = _joined(partial(_value, library, name), middle, top, here)
            if found is not None:
                source = f"{entry['source']}; above {middle:.0f} K {METHODS[name]}"
                return {**entry, "Tmax": top, "source": source, "middle": middle, "above": found}
    return entry


def _value(library: Any, name: str, t: float) -> float:
    return float(library.calculate(t, name))


def _joined(value: Callable[[float], float], low: float, high: float, start: float) -> list[float] | None:
    """A polynomial of fourth degree that begins at ``start`` and runs over into a curve; None where it misses it by more than a hundredth."""
    temperature = np.linspace(low, high, 150)
    values = np.array([value(float(t)) for t in temperature])
    # What the sources differ by where they meet is kept there and lost over the first two fifths.
    gap = start / values[0] - 1.0
    values = values * (1.0 + gap * np.clip(1.0 - (temperature - low) / (0.4 * (high - low)), 0.0, 1.0) ** 2)
    x = (temperature - low) / (high - low)
    powers = x[:, None] ** np.arange(1, 5)
    numbers = np.linalg.lstsq(powers / values[:, None], (values - start) / values, rcond=None)[0]
    if np.abs((start + powers @ numbers) / values - 1.0).max() > 0.01:
        return None
    scaled = np.polynomial.Polynomial([start, *numbers], domain=[low, high], window=[0.0, 1.0])
    return [float(f"{c:.14g}") for c in scaled.convert().coef]


def _by_similarity(atoms: int, molar_mass: float) -> dict[str, Any] | None:
    from chemicals.heat_capacity import Lastovka_Shaw

    estimate: Callable[..., Any] = Lastovka_Shaw
    return fitted(lambda t: float(estimate(t, atoms / molar_mass, MW=molar_mass)), 200.0, 1200.0, "estimated, Lastovka, Shaw 2013")


def _values(library: Any, name: str) -> dict[float, float]:
    """Values (J/(mol K)) at the places inside the range of a source."""
    found = {}
    for t in PLACES:
        try:
            value = library.calculate(t, name) if library.test_method_validity(t, name) else None
        except Exception:  # whatever the library raises for tables that do not reach
            continue
        if value is not None and math.isfinite(value) and value > 2.4 * R:
            found[t] = float(value)
    return found


def _apart(one: dict[float, float], other: dict[float, float]) -> float:
    return max((abs(math.log(one[t] / other[t])) for t in one.keys() & other.keys()), default=0.0)


def _support(name: str, known: dict[str, dict[float, float]]) -> float:
    """Sources that agree less those that do not; the estimate from groups counts a half, and as agreeing within a tenth."""
    total = 0.0
    for other, values in known.items():
        if other == name or not values.keys() & known[name].keys():
            continue
        weight, limit = (0.5, 0.10) if other == "JOBACK" else (1.0, ALIKE)
        total += weight if _apart(known[name], values) <= limit else -weight
    return total


def _curve(library: Any, cas: str, name: str) -> dict[str, Any] | None:
    if name == "POLING_POLY":
        from chemicals.heat_capacity import Cp_data_Poling

        row = Cp_data_Poling.loc[cas]
        return checked([R * float(row[f"a{k}"]) for k in range(5)], float(row["Tmin"]), float(row["Tmax"]), METHODS[name])
    low, high = library.T_limits[name]
    low, high = max(float(low), 150.0), min(float(high), 1500.0)
    return fitted(lambda t: float(library.calculate(t, name)), low, high, METHODS[name])


def fitted(value: Callable[[float], float], low: float, high: float, source: str) -> dict[str, Any] | None:
    """A polynomial of fourth degree through a curve, by relative deviations; a range that starts below 200 K is left there where it fits badly."""
    for bottom in (low, max(low, 200.0), max(low, 250.0)):
        temperature = np.linspace(bottom, high, 150)
        values = np.array([value(float(t)) for t in temperature])
        if high - bottom < 100.0 or not np.isfinite(values).all() or values.min() <= 0.0:
            return None
        scaled = np.polynomial.Polynomial.fit(temperature, values, 4, w=1.0 / values)
        if np.abs(scaled(temperature) / values - 1.0).max() < 0.01:
            break
    return checked([float(c) for c in scaled.convert().coef], bottom, high, source)


def checked(coefficients: list[float], low: float, high: float, source: str) -> dict[str, Any] | None:
    """The entry of the bank, None where the curve falls below any molecule's heat capacity."""
    if not (math.isfinite(low) and math.isfinite(high)):  # of atoms, whose heat capacity is 5/2 R at any temperature
        low, high = 1.0, 6000.0
    grid = np.linspace(low, high, 50)
    values = sum(c * grid**k for k, c in enumerate(coefficients))
    if np.min(values) < 1.5 * R:
        return None
    return {"c": [float(f"{c:.12g}") for c in coefficients], "Tmin": low, "Tmax": high, "source": source}
