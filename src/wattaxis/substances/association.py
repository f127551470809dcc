"""Substances whose vapour associates: dimers of carboxylic acids, measured or by Hayden and O'Connell (1975), and hexamers of hydrogen fluoride."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

from wattaxis.substances.component import Component

_R = 8.31446261815324  # J/(mol K), CODATA 2018
_MMHG = 133.322368  # Pa
#: CAS number -> a, b of log10(K mmHg) = a + b/T, as given by Gmehling, Onken (1977, Vapor-liquid equilibrium data collection, introduction).
_MEASURED = {
    "64-18-6": (-10.743, 3083.0),
    "64-19-7": (-10.421, 3166.0),
    "79-09-4": (-10.843, 3316.0),
    "107-92-6": (-10.100, 3040.0),
}
MEASURED = "Gmehling, Onken 1977"
ESTIMATED = "estimated, Hayden, O'Connell 1975 with an association parameter of 4.5"
#: Subgroups of UNIFAC that are a carboxylic acid: COOH, HCOOH.
_ACID = (42, 43)
#: What the association parameter of acids is, Hayden and O'Connell (1975), table.
_ETA = 4.5
HYDROGEN_FLUORIDE = "7664-39-3"
#: a, b of log10(K mmHg**5) = a + b/T of six molecules to a hexamer.
_HEXAMERS = {HYDROGEN_FLUORIDE: (-43.65, 8910.0, "Long, Hildebrand, Morrell 1943, from vapour densities at 273 to 311 K")}


@dataclass(frozen=True)
class Dimerisation:
    """ln(K Pa) = a + b/T of two molecules of a substance to one dimer in the gas.

    >>> from wattaxis.substances import component
    >>> known = dimerisation(component("acetic acid"))
    >>> round(known.at(391.0) * 101325, 2)  # 1/atm
    3.61
    """

    a: float
    b: float
    source: str

    def at(self, T: float) -> float:
        """1/Pa at T (K)."""
        return math.exp(self.a + self.b / T)


@dataclass(frozen=True)
class Hexamerisation:
    """ln(K Pa**5) = a + b/T of six molecules of a substance to one hexamer in the gas."""

    a: float
    b: float
    source: str


def hexamerisation(c: Component) -> Hexamerisation | None:
    """How the vapour of a substance forms hexamers; None for what does not.

    >>> from wattaxis.substances import component
    >>> round(hexamerisation(component("hydrogen fluoride")).b * -8.314 / 1000, 0)  # heat, kJ per mole of hexamers
    -171.0
    """
    if c.cas not in _HEXAMERS:
        return None
    a, b, source = _HEXAMERS[c.cas]
    return Hexamerisation(a * math.log(10.0) - 5.0 * math.log(_MMHG), b * math.log(10.0), source)


@lru_cache(maxsize=1024)
def dimerisation(c: Component) -> Dimerisation | None:
    """How the vapour of a substance dimerises; None for what does not associate in pairs.

    >>> from wattaxis.substances import component
    >>> dimerisation(component("toluene")) is None
    True
    """
    if c.cas in _MEASURED:
        a, b = _MEASURED[c.cas]
        return Dimerisation(a * math.log(10.0) - math.log(_MMHG), b * math.log(10.0), MEASURED)
    groups = c.groups.get("unifac") or {}
    if sum(groups.get(g, 0) for g in _ACID) != 1:
        return None
    low, high = 0.6 * c.critical_temperature, 0.75 * c.critical_temperature
    first, second = (math.log(_constant(c, t)) for t in (low, high))
    b = (first - second) / (1.0 / low - 1.0 / high)
    return Dimerisation(first - b / low, b, ESTIMATED)


def _constant(c: Component, t: float) -> float:
    """K (1/Pa): minus the bound and chemical part of the second virial coefficient over R T, equations 3 to 10 without dipole moment.

    The radius of gyration, which settles the nonpolar acentric factor, is taken from the acentric factor of the molecule's homomorph, omega/2.
    """
    omega = 0.5 * c.acentric_factor
    tc, pc = c.critical_temperature, c.critical_pressure / 101325.0  # K, atm
    energy = tc * (0.748 + 0.91 * omega - 0.4 * _ETA / (2.0 + 20.0 * omega))  # epsilon/k, K
    sigma = (2.44 - omega) * (tc / pc) ** (1.0 / 3.0)  # Angstrom
    b0 = 1.26184 * sigma**3  # cm3/mol
    strength = math.exp(_ETA * (42800.0 / (energy + 22400.0) - 4.27))
    chemical = b0 * strength * (1.0 - math.exp(1500.0 * _ETA / t))
    return float(-chemical * 1e-6 / (_R * t))


def associates(c: Component) -> bool:
    """Whether the vapour of a substance is one of dimers or larger clusters at ordinary pressures."""
    return hexamerisation(c) is not None or dimerisation(c) is not None
