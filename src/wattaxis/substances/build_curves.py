"""Writes the temperature curves of the bank (``curves.json.gz``) from the open tables of ``chemicals``.

A development tool: ``python -m wattaxis.substances.build_curves``. The first source that has a substance and that the others
do not contradict wins; a curve that is not finite and positive over its range, or whose range is empty, is left out.
"""

from __future__ import annotations

import gzip
import importlib
import json
import math
from collections.abc import Callable, Iterator
from importlib.metadata import version
from pathlib import Path
from typing import Any

import numpy as np

from wattaxis.substances.bank import bank_data, component
from wattaxis.substances.build_liquids import CONTRADICTS, Row, further, points
from wattaxis.substances.component import Component
from wattaxis.substances.curve_estimates import ESTIMATES
from wattaxis.substances.curves import CURVES, FORMS

FILE = Path(__file__).with_name("curves.json.gz")
PERRY, VDI = "Green, Perry 2007, table ", "Gesellschaft VDI 2010, Waermeatlas D3, table "
#: How a row of a table becomes (form, lowest and highest temperature or None, numbers).
Reader = Callable[[Any, Component], tuple[str, float | None, float | None, list[float]]]


def _columns(row: Any, letters: str, scale: float = 1.0) -> list[float]:
    return [scale * float(row[name]) for name in letters.split()]


def _perry(form: str, letters: str, scale: Callable[[Component], float] | None = None) -> Reader:
    """A table with its range in the row; the first number takes a factor, of polynomials all of them."""

    def read(row: Any, c: Component) -> tuple[str, float | None, float | None, list[float]]:
        numbers = _columns(row, letters)
        factor = scale(c) if scale else 1.0
        numbers = [n * factor for n in numbers] if form == "power" else [numbers[0] * factor, *numbers[1:]]
        return form, float(row["Tmin"]), float(row["Tmax"]), numbers

    return read


def _vaporisation(row: Any, c: Component) -> tuple[str, float | None, float | None, list[float]]:
    numbers = [float(row["Tc"]), *_columns(row, "C1 C2 C3 C4"), 0.0]
    return "critical", float(row["Tmin"]), float(row["Tmax"]), numbers


def _vaporisation_by_tau(row: Any, c: Component) -> tuple[str, float | None, float | None, list[float]]:
    scale = 8.31446261815324 * float(row["Tc"])
    return "thirds of tau", None, None, [float(row["Tc"]), *(scale * n for n in _columns(row, "A B C D E"))]


def _heat_114(row: Any, c: Component) -> tuple[str, float | None, float | None, list[float]]:
    # J/(kmol K): A enters as a square and in products, so all scale by the root of a thousand where B scales by a thousand.
    root = 1e-3**0.5
    a, d, e = (root * float(row[name]) for name in "ACD")
    return "near critical", float(row["Tmin"]), float(row["Tmax"]), [c.critical_temperature, a, 1e-3 * float(row["B"]), d, e]


def _open(form: str, letters: str, first: str = "") -> Reader:
    """A table without ranges: those of a liquid, or 200 to 1000 K for gases."""

    def read(row: Any, c: Component) -> tuple[str, float | None, float | None, list[float]]:
        numbers = ([float(row[name]) for name in first.split()]) + _columns(row, letters)
        return form, None, None, numbers

    return read


def _tables() -> Iterator[tuple[str, str, str, Any, Reader]]:
    """(curve, source, module of the library, table, reader), the preferred ones first."""
    yield "liquid density", PERRY + "2-32", "volume", "rho_data_Perry_8E_105_l", _perry("rackett", "C1 C2 C3 C4", lambda c: c.molar_mass)
    yield "liquid density", VDI + "2", "volume", "rho_data_VDI_PPDS_2", _open("roots of tau", "A B C D", "rhoc Tc")
    yield "heat of vaporisation", PERRY + "2-150", "phase_change", "phase_change_data_Perrys2_150", _vaporisation
    yield "heat of vaporisation", VDI + "4", "phase_change", "phase_change_data_VDI_PPDS_4", _vaporisation_by_tau
    yield "liquid heat capacity", PERRY + "2-153", "heat_capacity", "Cp_data_Perry_Table_153_100", _perry("power", "A B C D E", lambda c: 1e-3)
    yield "liquid heat capacity", PERRY + "2-153", "heat_capacity", "Cp_data_Perry_Table_153_114", _heat_114
    yield "liquid viscosity", PERRY + "2-313", "viscosity", "mu_data_Perrys_8E_2_313", _perry("exponential", "C1 C2 C3 C4 C5")
    yield "liquid viscosity", VDI + "7", "viscosity", "mu_data_VDI_PPDS_7", _open("thirds", "A B C D E")
    yield "gas viscosity", PERRY + "2-312", "viscosity", "mu_data_Perrys_8E_2_312", _perry("ratio", "C1 C2 C3 C4")
    yield "gas viscosity", VDI + "8", "viscosity", "mu_data_VDI_PPDS_8", _open("power", "A B C D E")
    yield "liquid conductivity", PERRY + "2-315", "thermal_conductivity", "k_data_Perrys_8E_2_315", _perry("power", "C1 C2 C3 C4 C5")
    yield "liquid conductivity", VDI + "9", "thermal_conductivity", "k_data_VDI_PPDS_9", _open("power", "A B C D E")
    yield "gas conductivity", PERRY + "2-314", "thermal_conductivity", "k_data_Perrys_8E_2_314", _perry("ratio", "C1 C2 C3 C4")
    yield "gas conductivity", VDI + "10", "thermal_conductivity", "k_data_VDI_PPDS_10", _open("power", "A B C D E")
    yield "surface tension", VDI + "11", "interface", "sigma_data_VDI_PPDS_11", _open("critical", "A B C D E", "Tc")


def _range(curve: str, low: float | None, high: float | None, c: Component) -> tuple[float, float]:
    if low is not None and high is not None:
        return low, high
    if curve.startswith("gas"):
        return 200.0, 1000.0
    return max(c.melting_point or 0.0, 0.4 * c.critical_temperature), 0.95 * c.critical_temperature


def main() -> None:
    """Collect the curves of every substance of the bank and write the file."""
    curves: dict[str, dict[str, list[Any]]] = {}
    sources: list[str] = []
    for entry in bank_data()["substances"]:
        c = component(entry["cas"])
        for curve in CURVES:
            found = _chosen(curve, c)
            if found is None:
                continue
            (source, form, low, high, numbers), doubt = found
            if source not in sources:
                sources.append(source)
            curves.setdefault(c.cas, {})[curve] = [sources.index(source), form, low, high, *(float(f"{n:.10g}") for n in numbers)]
            if doubt:
                print(f"{curve} of {c.name}: {doubt}")
    data = {"libraries": f"chemicals {version('chemicals')}", "sources": sources, "curves": curves}
    text = json.dumps(data, separators=(",", ":"), sort_keys=True)
    with gzip.GzipFile(filename="", fileobj=FILE.open("wb"), mode="wb", mtime=0) as stream:
        stream.write(text.encode())
    print(f"{len(curves)} substances, {sum(map(len, curves.values()))} curves, {FILE.stat().st_size / 1024:.0f} kB")


def _chosen(curve: str, c: Component) -> tuple[Row, str] | None:
    """The first sound source that the others do not outvote, and what is to be said of those passed over."""
    rows = [row for row in _rows(curve, c) if _sound(*row[1:]) and _believable(curve, row, c)]
    limit = CONTRADICTS.get(curve)
    if not rows or limit is None:
        return (rows[0], "") if rows else None
    measured = points(curve, c)

    def support(row: Row) -> int:
        votes = [_apart(row, other) for other in rows if other is not row]
        votes += [abs(math.log(FORMS[row[1]](t, row[4]) / value)) for t, value in measured if row[2] - 1.0 <= t <= row[3] + 1.0]
        return sum(1 if vote <= limit else -1 for vote in votes if vote is not None)

    supports = [support(row) for row in rows]
    best = next((k for k, votes in enumerate(supports) if votes >= 0), supports.index(max(supports)))
    return rows[best], f"passed over, since others contradict it: {'; '.join(row[0] for row in rows[:best])}" if best else ""


def _apart(one: Row, other: Row) -> float | None:
    """Largest relative deviation of two curves over the range of both; None where they share none."""
    low, high = max(one[2], other[2]), min(one[3], other[3])
    if low >= high:
        return None
    middle = np.linspace(low + 0.1 * (high - low), high - 0.1 * (high - low), 7)
    return max(abs(math.log(FORMS[one[1]](float(t), one[4]) / FORMS[other[1]](float(t), other[4]))) for t in middle)


def _rows(curve: str, c: Component) -> Iterator[Row]:
    """Every source of a curve of a substance, the preferred ones first."""
    for name, source, module, table, reader in _tables():
        if name != curve:
            continue
        frame = getattr(importlib.import_module(f"chemicals.{module}"), table)
        if c.cas in frame.index:
            form, low, high, numbers = reader(frame.loc[c.cas], c)
            bottom, top = _range(curve, low, high, c)
            if form in _CRITICAL:
                top = min(top, 0.9999 * numbers[_CRITICAL[form]])
            if bottom < top:
                yield source, form, bottom, top, numbers
    yield from further(curve, c)


#: Forms that end at a critical temperature, and its place among their numbers.
_CRITICAL = {"critical": 0, "rackett": 2, "roots of tau": 1, "near critical": 0, "thirds of tau": 0}


def _sound(form: str, low: float, high: float, numbers: list[float]) -> bool:
    try:
        values = [FORMS[form](float(t), numbers) for t in np.linspace(low, high, 25)]
    except (ArithmeticError, ValueError):
        return False
    return all(isinstance(v, float) and math.isfinite(v) and v > 0.0 for v in values)


def _believable(curve: str, row: Row, c: Component) -> bool:
    """Within a factor of ten of the estimate in the middle of both ranges; what is not was typed in another unit or for another substance."""
    _, form, low, high, numbers = row
    bottom, top, _, estimate = ESTIMATES[curve](c)
    middle = 0.5 * (max(low, bottom) + min(high, top))
    if not max(low, bottom) < middle < min(high, top):
        return True
    ratio = FORMS[form](middle, numbers) / estimate(middle)
    if curve == "liquid heat capacity":
        gas = c.heat_capacity.at(middle)
        if not 0.9 < FORMS[form](middle, numbers) / gas < 3.5 and c.critical_temperature > 50.0:
            print(f"left out: {curve} of {c.name}, {FORMS[form](middle, numbers) / gas:.3g} times that of its gas")
            return False
    if not 0.1 < ratio < 10.0:
        print(f"left out: {curve} of {c.name}, {ratio:.3g} times its estimate")
    return 0.1 < ratio < 10.0


if __name__ == "__main__":
    main()
