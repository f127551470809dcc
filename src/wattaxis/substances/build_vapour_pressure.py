"""Vapour-pressure curves for the bank from the open tables; one that misses a well-borne-out boiling point gives way. A development tool, used by
:mod:`wattaxis.substances.build_bank`."""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import Any

import numpy as np

from wattaxis.substances.build_constants import ATMOSPHERE, CURVE_MEETS
from wattaxis.substances.component import VapourPressure, lee_kesler


def vapour_pressure(cas: str, constants: dict[str, Any]) -> tuple[dict[str, Any], str]:
    """The first table's curve that meets the boiling point, else the estimate through it; and what is to be said of tables passed over.

    ln(Psat/Pa) = c0 + c1/T + c2 ln T + c3 T^c4 (form 1), Wagner 2.5-5 (2), Lee-Kesler (3), Antoine (4), Wagner 3-6 (5).
    """
    passed: list[str] = []
    for curve in tabulated(cas, constants):
        off = _misses(curve, constants)
        if off is None or abs(off) < CURVE_MEETS:
            return curve, f"passed over, since they miss the boiling point: {'; '.join(passed)}" if passed else ""
        passed.append(f"{curve['source']} by {off:+.1f} K")
    said = f"estimated, since the tables miss the boiling point: {'; '.join(passed)}" if passed else ""
    return _estimate(constants), said


def atmospheric_boiling(curve: dict[str, Any]) -> float | None:
    """K at which a curve reaches one atmosphere, None where that is not in its range."""
    low, high = curve["Tmin"], curve["Tmax"]
    if curve["form"] in (2, 5):
        high = min(high, curve["critical"][0] * (1.0 - 1e-9))
    if not _log_pressure(curve, low) < math.log(ATMOSPHERE) < _log_pressure(curve, high):
        return None
    for _ in range(60):
        middle = 0.5 * (low + high)
        low, high = (middle, high) if _log_pressure(curve, middle) < math.log(ATMOSPHERE) else (low, middle)
    return float(0.5 * (low + high))


def _misses(curve: dict[str, Any], constants: dict[str, Any]) -> float | None:
    """K by which a curve boils too hot at one atmosphere, less what its extrapolation in 1/T may miss by; None where nothing can be said."""
    if constants["Tb"] is None:
        return None
    tb, high = float(constants["Tb"][0]), min(curve["Tmax"], 0.999 * constants["Tc"][0])
    inside = min(max(tb, curve["Tmin"]), high)
    if abs(tb - inside) > 80.0:
        return None
    here, there = _log_pressure(curve, 0.9995 * inside), _log_pressure(curve, 1.0005 * inside)
    slope = (there - here) / (1.0 / (0.9995 * inside) - 1.0 / (1.0005 * inside))  # minus d ln P / d(1/T)
    if slope <= 0.0:
        return math.inf
    off = (math.log(ATMOSPHERE) - _log_pressure(curve, inside) - slope * (1.0 / inside - 1.0 / tb)) / slope * tb * tb
    return math.copysign(max(abs(off) - 0.03 * abs(tb - inside), 0.0), off)


def _estimate(constants: dict[str, Any]) -> dict[str, Any]:
    """Lee and Kesler (1975), with an acentric factor of its own that meets the boiling point, as Wagner's equation."""
    tc, pc = constants["Tc"][0], constants["Pc"][0]
    tb = constants["Tb"]
    if tb is None or not 0.3 < tb[0] / tc < 0.97:
        return _form(3, [0.0] * 5, 0.5 * tc, tc, "estimated, Lee, Kesler 1975")
    plain, steep = (_lee_kesler(tb[0], {**constants, "omega": [w]}) for w in (0.0, 1.0))
    own = {**constants, "omega": [(math.log(ATMOSPHERE) - plain) / (steep - plain)]}
    t = np.linspace(0.45, 0.999, 120) * tc
    tau = 1.0 - t / tc
    wanted = np.array([_lee_kesler(float(x), own) for x in t]) - math.log(pc)
    basis = np.column_stack([tau, tau**1.5, tau**2.5, tau**5]) * (tc / t)[:, None]
    numbers, *_ = np.linalg.lstsq(basis, wanted, rcond=None)
    curve = _form(2, [*(float(n) for n in numbers), 0.0], 0.45 * tc, tc, "estimated, Lee, Kesler 1975, through the boiling point")
    return curve | {"critical": [tc, pc]}


def tabulated(cas: str, constants: dict[str, Any]) -> Iterator[dict[str, Any]]:
    """Curves of the open tables, the best table first."""
    from chemicals import vapor_pressure as tables

    if cas in tables.Psat_data_Perrys2_8.index:
        row = tables.Psat_data_Perrys2_8.loc[cas]
        yield _form(1, [row[f"C{k}"] for k in range(1, 6)], row["Tmin"], row["Tmax"], "Green, Perry 2007, table 2-8")
    for form, name, source in WAGNER_TABLES:
        table = getattr(tables, name)
        if cas in table.index:
            row = table.loc[cas]
            low = row["Tm"] if "Tm" in row else row["Tmin"]
            low = low if math.isfinite(low) else 0.5 * row["Tc"]  # the melting point, where one is known
            yield _form(form, [*(row[k] for k in "ABCD"), 0.0], low, row["Tc"], source) | {"critical": [float(row["Tc"]), float(row["Pc"])]}
    if cas in tables.Psat_data_AntoinePoling.index:
        row = tables.Psat_data_AntoinePoling.loc[cas]
        natural = [row["A"] * math.log(10), row["B"] * math.log(10), row["C"], 0.0, 0.0]
        yield _form(4, natural, row["Tmin"], row["Tmax"], "Poling, Prausnitz, O'Connell 2001, table A.E")
    if cas in tables.Psat_data_Landolt_Antoine.index:
        row = tables.Psat_data_Landolt_Antoine.loc[cas]
        if _believed([float(row[k]) for k in ("A", "B", "C", "Tmin", "Tmax")], constants):
            natural = [row["A"], row["B"], row["C"], 0.0, 0.0]
            yield _form(4, natural, row["Tmin"], row["Tmax"], "Landolt-Boernstein, new series IV/20, Antoine constants")


def _log_pressure(curve: dict[str, Any], t: float) -> float:
    """ln(Psat/Pa) of a curve of forms 1, 2, 4 and 5."""
    return VapourPressure(curve["form"], tuple(curve["c"]), 0.0, 0.0, critical=tuple(curve.get("critical", (0.0, 0.0)))).log_pressure(t)


#: Tables of Wagner's equation: the form, the library's name, the source.
WAGNER_TABLES = (
    (2, "Psat_data_VDI_PPDS_3", "Gesellschaft VDI 2010, Waermeatlas D3"),
    (2, "Psat_data_WagnerPoling", "Poling, Prausnitz, O'Connell 2001, table A.F"),
    (5, "Psat_data_WagnerMcGarry", "McGarry 1983"),
)


def _form(form: int, constants: list[Any], low: float, high: float, source: str) -> dict[str, Any]:
    return {"form": form, "c": [float(f"{c:.12g}") for c in constants], "Tmin": float(low), "Tmax": float(high), "source": source}


def _believed(antoine: list[float], constants: dict[str, Any]) -> bool:
    """Whether Antoine constants [A, B, C, low, high] of the large collection belong to the substance: some are of another, or have slipped a digit.

    They span 15 K below the critical point and well above the pole, meet the boiling point within 10 % of pressure where they come near it, lie
    within a factor of three of Lee and Kesler's estimate (1.5 without a boiling point), and their slope within a half of its.
    """
    a, b, c, low, high = antoine
    tc = constants["Tc"][0]
    if not (high - low >= 15.0 and low + c > 20.0 and high <= 1.001 * tc and b > 0.0):
        return False
    middle = 0.5 * (low + high)
    off = a - b / (middle + c) - _lee_kesler(middle, constants)
    slope = b / (middle + c) ** 2 / (_lee_kesler(middle + 0.5, constants) - _lee_kesler(middle - 0.5, constants))
    boiling = constants["Tb"]
    if boiling is not None and low - 30.0 <= boiling[0] <= high + 30.0:
        inside = min(max(boiling[0], low), high)
        reached = a - b / (inside + c) + b / (inside + c) ** 2 * inside**2 * (1.0 / inside - 1.0 / boiling[0])
        known = abs(reached - math.log(101325.0)) < 0.1
    else:
        known = abs(off) < math.log(1.5)
    return known and abs(off) < math.log(3.0) and 0.5 < slope < 2.0


def _lee_kesler(t: float, constants: dict[str, Any]) -> float:
    """ln(Psat/Pa) of Lee and Kesler 1975."""
    return lee_kesler(1.0).log_pressure(t, constants["Tc"][0], constants["Pc"][0], constants["omega"][0])
