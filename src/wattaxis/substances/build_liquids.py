"""Liquid densities, heat capacities and heats of vaporisation for the bank beyond the tables with one row a substance: other correlations of the
open library as fits, and single measured points with the temperature dependence of an estimate. A development tool, used by
:mod:`wattaxis.substances.build_curves`."""

from __future__ import annotations

import math
from collections.abc import Iterator
from functools import lru_cache
from typing import Any

import numpy as np

from wattaxis.substances.component import Component
from wattaxis.substances.curve_estimates import heat_of_vaporisation, liquid_heat_capacity

R = 8.31446261815324
CRC = "CRC Handbook of Chemistry and Physics, 95th edition"
#: A row of the file without the number of its source: source, form, lowest and highest temperature (K), numbers.
Row = tuple[str, str, float, float, list[float]]
#: Deviation from which two sources of a curve contradict each other.
CONTRADICTS = {"liquid density": 0.03, "heat of vaporisation": 0.08, "liquid heat capacity": 0.06}


def further(curve: str, c: Component) -> Iterator[Row]:
    """More sources of a curve, the better first."""
    yield from _of_the_reference(curve, c)
    yield from {"liquid density": _densities, "heat of vaporisation": _heats, "liquid heat capacity": _heat_capacities}.get(curve, _none)(c)


def _none(c: Component) -> Iterator[Row]:
    yield from ()


REFERENCE = "fitted to the reference equation of state (CoolProp)"


@lru_cache(maxsize=1)
def _fluids() -> dict[str, str]:
    """Names of the fluids with a reference equation by CAS number."""
    from CoolProp import CoolProp

    return {CoolProp.get_fluid_param_string(n, "CAS"): n for n in CoolProp.get_global_param_string("FluidsList").split(",")}


def _of_the_reference(curve: str, c: Component) -> Iterator[Row]:
    """Properties of the saturated liquid by the reference equation of a substance."""
    name = _fluids().get(c.cas)
    if name is None or curve not in CONTRADICTS:
        return
    from CoolProp.CoolProp import PropsSI

    try:
        tc, low = PropsSI("Tcrit", name), PropsSI("Tmin", name)
        t = np.linspace(max(low, 0.35 * tc) + 0.1, {"liquid heat capacity": 0.85}.get(curve, 0.97) * tc, 80)
        if curve == "liquid density":
            y = np.array([PropsSI("D", "T", x, "Q", 0, name) for x in t])
        elif curve == "heat of vaporisation":
            y = np.array([PropsSI("Hmolar", "T", x, "Q", 1, name) - PropsSI("Hmolar", "T", x, "Q", 0, name) for x in t])
        else:
            y = np.array([PropsSI("Cpmolar", "T", x, "Q", 0, name) for x in t])
    except ValueError:  # an equation without a liquid
        return
    if curve == "liquid heat capacity":
        row = _polynomial(lambda x: float(np.interp(x, t, y)), float(t[0]), float(t[-1]), REFERENCE)
        if row is not None:
            yield row
        return
    tau = 1.0 - t / tc
    if curve == "liquid density":
        basis = np.column_stack([np.ones_like(tau), tau**0.35, tau ** (2.0 / 3.0), tau, tau ** (4.0 / 3.0)])
    else:
        basis = np.column_stack([tau ** (1.0 / 3.0), tau ** (2.0 / 3.0), tau, tau**2, tau**6])
    n = np.linalg.lstsq(basis / y[:, None], np.ones_like(y), rcond=None)[0]
    if np.abs(basis @ n / y - 1.0).max() < 0.01:
        numbers = [n[0], tc, *n[1:]] if curve == "liquid density" else [tc, *n]
        yield REFERENCE, "roots of tau" if curve == "liquid density" else "thirds of tau", float(t[0]), float(t[-1]), numbers


def points(curve: str, c: Component) -> list[tuple[float, float]]:
    """Single measured values (K, SI), to test curves by."""
    if curve == "liquid density":
        found = _point_of_density(c)
        return [found] if found else []
    if curve == "heat of vaporisation":
        return _points_of_vaporisation(c)
    cp = _standard(c, "Cpl")
    return [(298.15, cp)] if cp else []


@lru_cache(maxsize=1)
def _constants() -> Any:
    from chemicals import miscdata

    miscdata._load_miscdata()  # type: ignore[no-untyped-call]
    return miscdata


def _standard(c: Component, name: str) -> float | None:
    from chemicals.heat_capacity import CRC_standard_data

    value = float(CRC_standard_data.at[c.cas, name]) if c.cas in CRC_standard_data.index else math.nan
    return value if math.isfinite(value) and value > 0.0 else None


def _point_of_density(c: Component) -> tuple[float, float] | None:
    """The Handbook's density at 20 degC where the substance is a liquid there below its boiling point."""
    table = _constants().CRC_organic_data
    if c.cas not in table.index or not math.isfinite(table.at[c.cas, "rho"]):
        return None
    melts, boils = c.melting_point, c.boiling_point or 0.6 * c.critical_temperature
    if melts is None or melts > 293.0 or boils < 303.0:
        return None
    return 293.15, float(table.at[c.cas, "rho"])


def _densities(c: Component) -> Iterator[Row]:
    from chemicals import volume

    volume._load_rho_data()
    tc, scale = c.critical_temperature, c.molar_mass * c.critical_pressure / (R * c.critical_temperature)
    if c.cas in volume.rho_data_COSTALD.index:
        row = volume.rho_data_COSTALD.loc[c.cas]
        t = np.linspace(0.3, 0.95, 60) * tc
        density = np.array([c.molar_mass / volume.COSTALD(float(x), tc, float(row["Vchar"]), float(row["omega_SRK"])) for x in t])
        tau = 1.0 - t / tc
        basis = np.column_stack([np.ones_like(tau), tau**0.35, tau ** (2.0 / 3.0), tau, tau ** (4.0 / 3.0)])
        n = np.linalg.lstsq(basis / density[:, None], np.ones_like(density), rcond=None)[0]
        low = max(float(t[0]), min(c.melting_point or 0.0, 0.8 * tc))
        yield "Hankinson, Thomson 1979, corresponding states with fitted volumes", "roots of tau", low, 0.95 * tc, [n[0], tc, *n[1:]]
    point = _point_of_density(c)
    if point is not None and point[0] < 0.9 * tc:
        power = 1.0 + (1.0 - point[0] / tc) ** (2.0 / 7.0)
        z = (scale / point[1]) ** (1.0 / power)
        if 0.15 < z < 0.4:
            low = max(0.35 * tc, min(c.melting_point or 0.0, 0.8 * tc))
            yield f"{CRC}, one density at 20 degC, over temperature by Rackett's equation", "rackett", low, 0.95 * tc, [scale, z, tc, 2.0 / 7.0]


#: The library's correlations of the heat capacity along saturation or at constant pressure, the better first.
_ZABRANSKY = ("SPLINE_SAT", "QUASIPOLYNOMIAL_SAT", "SPLINE_C", "QUASIPOLYNOMIAL_C", "SPLINE", "QUASIPOLYNOMIAL")


def _heat_capacities(c: Component) -> Iterator[Row]:
    from thermo.heat_capacity import HeatCapacityLiquid

    library = HeatCapacityLiquid(CASRN=c.cas, MW=1000.0 * c.molar_mass, Tc=c.critical_temperature, omega=c.acentric_factor)
    named = [(f"ZABRANSKY_{end}", "Zabransky, Ruzicka and others 1996, 2001, 2010") for end in _ZABRANSKY]
    for method, source in [*named, ("JANAF", "JANAF tables (Chase 1998)"), ("WEBBOOK_SHOMATE", "NIST Chemistry WebBook")]:
        if method in library.all_methods:
            low, high = (float(v) for v in library.T_limits[method])
            row = _polynomial(lambda t, m=method: library.calculate(t, m), low, min(high, 0.95 * c.critical_temperature), source)
            if row is not None:
                yield row
    cp = _standard(c, "Cpl")
    if cp is not None:
        low, high, _, estimate = liquid_heat_capacity(c)
        factor = cp / estimate(min(max(298.15, low), high))
        low, high = max(min(low, 298.0), 0.3 * c.critical_temperature), 0.8 * c.critical_temperature
        if 0.5 < factor < 2.0 and low < high:
            row = _polynomial(lambda t: factor * estimate(t), low, high, f"{CRC}, one value at 298.15 K, over temperature by Rowlinson, Bondi")
            if row is not None:
                yield row


def _polynomial(value: Any, low: float, high: float, source: str) -> Row | None:
    """A polynomial of the fifth degree, or fewer over a short range, by relative deviations; None where it misses by one per cent."""
    if high - low < 2.0:
        return None
    t = np.linspace(low, high, 80)
    try:
        y = np.array([float(value(float(x))) for x in t])
    except (TypeError, ValueError, ArithmeticError):
        return None
    if not np.isfinite(y).all() or y.min() <= 0.0:
        return None
    fit = np.polynomial.Polynomial.fit(t, y, 5 if high - low > 60.0 else 2, w=1.0 / y)
    if np.abs(fit(t) / y - 1.0).max() > 0.01:
        return None
    return source, "power", low, high, [float(n) for n in fit.convert().coef]


def _points_of_vaporisation(c: Component) -> list[tuple[float, float]]:
    from chemicals import phase_change as tables

    found = {}
    if c.cas in tables.Hvap_data_CRC.index:
        row = tables.Hvap_data_CRC.loc[c.cas]
        found = {298.15: float(row["Hvap298"]), float(row["Tb"]): float(row["HvapTb"])}
    if c.cas in tables.Hvap_data_Gharagheizi.index and not math.isfinite(found.get(298.15, math.nan)):
        found[298.15] = float(tables.Hvap_data_Gharagheizi.at[c.cas, "Hvap298"])
    return sorted((t, h) for t, h in found.items() if math.isfinite(t) and math.isfinite(h) and 0.25 < t / c.critical_temperature < 0.95)


def _heats(c: Component) -> Iterator[Row]:
    tc = c.critical_temperature
    known = _points_of_vaporisation(c)
    if not known:
        return
    power = 0.38
    if len(known) == 2 and known[1][0] - known[0][0] > 25.0:
        (t1, h1), (t2, h2) = known
        power = math.log(h1 / h2) / math.log((tc - t1) / (tc - t2))
    (t, h), estimate = known[-1], heat_of_vaporisation(c)[3]
    if 0.2 < power < 0.6 and 0.6 < h / estimate(t) < 1.7:
        text = "two values" if power != 0.38 else "one value"
        source = f"{CRC}; Gharagheizi and others 2013: {text}, over temperature by Watson's equation"
        yield source, "critical", 0.4 * tc, 0.9 * tc, [tc, h / (1.0 - t / tc) ** power, power, 0.0, 0.0, 0.0]
