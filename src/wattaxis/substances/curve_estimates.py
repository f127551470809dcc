"""Estimates of pure-component properties from critical constants, where the bank has no correlation."""

from __future__ import annotations

import math
from collections.abc import Callable

from wattaxis.substances.component import Component
from wattaxis.substances.formation import atoms_of

_R = 8.31446261815324  # J/(mol K), CODATA 2018
#: Lowest and highest temperature (K), source, and the property (SI) over temperature (K).
Estimate = tuple[float, float, str, Callable[[float], float]]


def boiling_point(c: Component) -> float:
    """Normal boiling point (K), estimated from the critical constants where it is not known (Edmister 1958)."""
    if c.boiling_point is not None:
        return c.boiling_point
    over = (c.acentric_factor + 1.0) / (3.0 / 7.0 * math.log10(c.critical_pressure / 101325.0))
    return c.critical_temperature * over / (1.0 + over)


def _liquid(c: Component, low: float = 0.4, high: float = 0.95) -> tuple[float, float]:
    tc = c.critical_temperature
    return max(low * tc, min(c.melting_point or 0.0, 0.8 * tc)), high * tc


#: Relative volumes of atoms (Girolami 1994); five times their sum is a molecule's molar volume in cm3/mol at room temperature, which for the
#: 1300 liquids of the bank is 8 % too much.
_ATOMS = {
    "H": 1.0, **dict.fromkeys(("Li", "Be", "B", "C", "N", "O", "F"), 2.0), **dict.fromkeys(("Na", "Mg", "Al", "Si", "P", "S", "Cl"), 4.0),
    **dict.fromkeys(("K", "Ca", "Ti", "Cr", "Mn", "Fe", "Ni", "Cu", "Zn", "Ge", "As", "Se", "Br"), 5.0),
    **dict.fromkeys(("Zr", "Mo", "Ag", "Cd", "Sn", "Sb", "Te", "I", "Xe", "W", "Hg", "Pb", "Bi", "U"), 7.5),
}  # fmt: skip


def liquid_density(c: Component) -> Estimate:
    """kg/m3, Rackett's equation with the compressibility of Yamada, Gunn 1973; towards large acentric factors, where it goes astray, with the
    compressibility that gives the volume of the molecule's atoms at 293 K (Girolami 1994)."""
    tc = c.critical_temperature
    z = 0.29056 - 0.08775 * c.acentric_factor
    scale = c.molar_mass * c.critical_pressure / (_R * tc)
    low, high = _liquid(c, high=0.99)
    share = min(max((c.acentric_factor - 0.3) / 0.3, 0.0), 1.0)
    atoms = atoms_of(c.formula)
    if share > 0.0 and atoms is not None and all(a in _ATOMS for a in atoms):
        by_atoms = 1.08 * c.molar_mass / (5e-6 * sum(n * _ATOMS[a] for a, n in atoms.items()))
        warm = 1.0 + (1.0 - min(293.15 / tc, 0.8)) ** (2.0 / 7.0)
        z = max(z, 0.05) ** (1.0 - share) * (scale / by_atoms) ** (share / warm)
    return low, high, "Rackett, Yamada, Gunn 1973; Girolami 1994", lambda t: scale / z ** (1.0 + (1.0 - t / tc) ** (2.0 / 7.0))


def heat_of_vaporisation(c: Component) -> Estimate:
    """J/mol: the slope of a measured vapour pressure by Clapeyron's equation with the volumes of Haggenmacher 1946, over temperature by Watson 1943;
    without one Pitzer's corresponding states as given by Poling, Prausnitz, O'Connell 2001, eq. 7-9.4."""
    tc = c.critical_temperature
    from_slope = _clapeyron(c)
    if from_slope is not None:
        at, heat = from_slope
        scale = heat / (1.0 - at / tc) ** 0.38
        return 0.4 * tc, 0.99 * tc, "Clapeyron, Haggenmacher 1946, Watson 1943", lambda t: float(scale * (1.0 - t / tc) ** 0.38)
    scale, omega = _R * tc, c.acentric_factor

    def value(t: float) -> float:
        tau = 1.0 - t / tc
        return float(scale * (7.08 * tau**0.354 + 10.95 * omega * tau**0.456))

    return 0.5 * tc, 0.99 * tc, "Pitzer, Poling and others 2001", value


def _clapeyron(c: Component) -> tuple[float, float] | None:
    """A temperature (K) near the boiling point and the heat of vaporisation (J/mol) there by the slope of a measured vapour pressure."""
    ps = c.vapour_pressure
    assert ps is not None  # Component fills it in
    low, high = max(ps.low, 0.4 * c.critical_temperature), min(ps.high, 0.85 * c.critical_temperature)
    if ps.estimated or high - low < 5.0:
        return None
    t = min(max(boiling_point(c), low + 1.0), high - 1.0)
    here, step = ps.log_pressure(t), 0.5
    slope = (ps.log_pressure(t + step) - ps.log_pressure(t - step)) / (2.0 * step)
    inside = 1.0 - math.exp(here) / c.critical_pressure / (t / c.critical_temperature) ** 3
    return None if inside <= 0.0 or slope <= 0.0 else (t, _R * t * t * slope * math.sqrt(inside))


def liquid_heat_capacity(c: Component) -> Estimate:
    """J/(mol K), Rowlinson 1969, Bondi 1968 as given by Poling, Prausnitz, O'Connell 2001, eq. 6-6.2."""
    omega, gas = c.acentric_factor, c.heat_capacity

    def value(t: float) -> float:
        reduced = t / c.critical_temperature
        tau = 1.0 - reduced
        tail = 4.2775 + 6.3 * tau ** (1.0 / 3.0) / reduced + 0.4355 / tau
        return float(gas.at(t) + _R * (1.586 + 0.49 / tau + omega * tail))

    low, high = _liquid(c, high=0.93)
    return low, high, "Rowlinson, Bondi, Poling and others 2001", value


def gas_viscosity(c: Component) -> Estimate:
    """Pa s at low pressure, Stiel, Thodos 1961."""
    tc = c.critical_temperature
    scale = tc ** (1.0 / 6.0) / ((1000.0 * c.molar_mass) ** 0.5 * (c.critical_pressure / 101325.0) ** (2.0 / 3.0))

    def value(t: float) -> float:
        reduced = t / tc
        part = 34.0e-5 * reduced**0.94 if reduced <= 1.5 else 17.78e-5 * (4.58 * reduced - 1.67) ** 0.625
        return float(1e-3 * part / scale)

    return 0.4 * tc, 10.0 * tc, "Stiel, Thodos 1961", value


def liquid_viscosity(c: Component) -> Estimate:
    """Pa s, Letsou, Stiel 1973 above 0.76 of the critical temperature; below it ln viscosity straight over 1/T, less steep than there by 1.15 Tc,
    which takes the median deviation from the 360 correlations of the bank away."""
    tc, omega = c.critical_temperature, c.acentric_factor
    scale = 2173.424 * tc ** (1.0 / 6.0) / ((1000.0 * c.molar_mass) ** 0.5 * c.critical_pressure ** (2.0 / 3.0))

    def letsou(reduced: float) -> float:
        simple = 1.5174 - 2.135 * reduced + 0.75 * reduced**2
        return float(1e-5 * (simple + omega * (4.2552 - 7.674 * reduced + 3.4 * reduced**2)) / scale)

    bottom, top = letsou(0.76), letsou(0.9)
    slope = math.log(bottom / top) / (1.0 / 0.76 - 1.0 / 0.9) - 1.15

    def value(t: float) -> float:
        reduced = t / tc
        return letsou(reduced) if reduced >= 0.76 else bottom * math.exp(slope * (1.0 / reduced - 1.0 / 0.76))

    low, high = _liquid(c)
    return low, high, "Letsou, Stiel 1973, below 0.76 of the critical temperature straight in 1/T", value


def gas_conductivity(c: Component) -> Estimate:
    """W/(m K) at low pressure, the modified Eucken equation."""
    low, high, _, viscosity = gas_viscosity(c)
    gas = c.heat_capacity

    def value(t: float) -> float:
        return viscosity(t) / c.molar_mass * (1.32 * (gas.at(t) - _R) + 1.77 * _R)

    return low, high, "modified Eucken equation, Stiel, Thodos 1961", value


def liquid_conductivity(c: Component) -> Estimate:
    """W/(m K), Sato and Riedel as given by Poling, Prausnitz, O'Connell 2001."""
    boiling = boiling_point(c) / c.critical_temperature
    scale = 1.1053 / (1000.0 * c.molar_mass) ** 0.5 / (3.0 + 20.0 * (1.0 - boiling) ** (2.0 / 3.0))
    low, high = _liquid(c, high=0.9)
    return low, high, "Sato, Riedel, Poling and others 2001", lambda t: scale * (3.0 + 20.0 * (1.0 - t / c.critical_temperature) ** (2.0 / 3.0))


def surface_tension(c: Component) -> Estimate:
    """N/m, Brock, Bird 1955."""
    boiling, bar = boiling_point(c) / c.critical_temperature, c.critical_pressure / 1e5
    q = 0.1196 * (1.0 + boiling * math.log(bar / 1.01325) / (1.0 - boiling)) - 0.279
    scale = 1e-3 * bar ** (2.0 / 3.0) * c.critical_temperature ** (1.0 / 3.0) * q
    low, high = _liquid(c)
    return low, high, "Brock, Bird 1955", lambda t: scale * (1.0 - t / c.critical_temperature) ** (11.0 / 9.0)


ESTIMATES: dict[str, Callable[[Component], Estimate]] = {
    "liquid density": liquid_density,
    "heat of vaporisation": heat_of_vaporisation,
    "liquid heat capacity": liquid_heat_capacity,
    "liquid viscosity": liquid_viscosity,
    "gas viscosity": gas_viscosity,
    "liquid conductivity": liquid_conductivity,
    "gas conductivity": gas_conductivity,
    "surface tension": surface_tension,
}
