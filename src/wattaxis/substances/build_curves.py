"""Writes the temperature curves of the bank (``curves.json.gz``) from the open tables of ``chemicals``.

A development tool: ``python -m wattaxis.substances.build_curves``. The first table that has a substance wins; a curve that is not finite and positive
over its range, or whose range is empty, is left out.
"""

from __future__ import annotations

import gzip
import json
import math
from collections.abc import Callable, Iterator
from importlib.metadata import version
from pathlib import Path
from typing import Any

import numpy as np

from wattaxis.substances.bank import _bank, component
from wattaxis.substances.component import Component
from wattaxis.substances.curve_estimates import ESTIMATES
from wattaxis.substances.curves import FORMS

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
    import importlib

    curves: dict[str, dict[str, list[Any]]] = {}
    sources: list[str] = []
    for curve, source, module, table, reader in _tables():
        frame = getattr(importlib.import_module(f"chemicals.{module}"), table)
        if source not in sources:
            sources.append(source)
        for cas in (entry["cas"] for entry in _bank()["substances"]):
            if cas not in frame.index or curve in curves.get(cas, {}):
                continue
            c = component(cas)
            form, low, high, numbers = reader(frame.loc[cas], c)
            bottom, top = _range(curve, low, high, c)
            if form in ("critical", "rackett", "roots of tau", "near critical"):
                critical = {"critical": numbers[0], "rackett": numbers[2], "roots of tau": numbers[1], "near critical": numbers[0]}[form]
                top = min(top, 0.9999 * critical)
            if bottom < top and _sound(form, numbers, bottom, top) and _believable(curve, form, numbers, bottom, top, c):
                curves.setdefault(cas, {})[curve] = [sources.index(source), form, bottom, top, *(float(f"{n:.10g}") for n in numbers)]
    data = {"libraries": f"chemicals {version('chemicals')}", "sources": sources, "curves": curves}
    text = json.dumps(data, separators=(",", ":"), sort_keys=True)
    with gzip.GzipFile(filename="", fileobj=FILE.open("wb"), mode="wb", mtime=0) as stream:
        stream.write(text.encode())
    print(f"{len(curves)} substances, {sum(map(len, curves.values()))} curves, {FILE.stat().st_size / 1024:.0f} kB")


def _sound(form: str, numbers: list[float], low: float, high: float) -> bool:
    try:
        values = [FORMS[form](float(t), numbers) for t in np.linspace(low, high, 25)]
    except (ArithmeticError, ValueError):
        return False
    return all(isinstance(v, float) and math.isfinite(v) and v > 0.0 for v in values)


def _believable(curve: str, form: str, numbers: list[float], low: float, high: float, c: Component) -> bool:
    """Within a factor of ten of the estimate in the middle of both ranges; what is not was typed in another unit or for another substance."""
    bottom, top, _, estimate = ESTIMATES[curve](c)
    middle = 0.5 * (max(low, bottom) + min(high, top))
    if not max(low, bottom) < middle < min(high, top):
        return True
    ratio = FORMS[form](middle, numbers) / estimate(middle)
    if not 0.1 < ratio < 10.0:
        print(f"left out: {curve} of {c.name}, {ratio:.3g} times its estimate")
    return 0.1 < ratio < 10.0


if __name__ == "__main__":
    main()
