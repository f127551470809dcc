"""Conventional solids: crystals that stay beside the fluid, neither melting nor dissolving nor boiling, with their own bank."""

from __future__ import annotations

import gzip
import json
import math
from dataclasses import dataclass
from functools import lru_cache
from importlib.resources import files
from pathlib import Path
from typing import Any

from wattaxis.substances.component import Component, HeatCapacity

SOLIDS_FILE = Path(__file__).with_name("solids.json.gz")
T_REF = 298.15


@dataclass(frozen=True)
class SolidHeatCapacity(HeatCapacity):
    """Heat capacity of a crystal, J/(mol K): ``c0 + c1 T + c2 T2 + c3 T3 + c4/T2`` between ``low`` and ``high`` (K), kept constant beyond.

    >>> round(solid("sodium chloride").heat_capacity.at(298.15), 1)
    50.5
    """

    def at(self, T: float) -> float:
        """J/(mol K) at T (K)."""
        t = min(max(T, self.low), self.high)
        c = self.coefficients
        return c[0] + t * (c[1] + t * (c[2] + t * c[3])) + c[4] / t**2

    def heat(self, T: float) -> float:
        """The integral of Cp from 298.15 K to T (K), J/mol."""
        return self._integral(T, self._heat)

    def heat_over_t(self, T: float) -> float:
        """The integral of Cp/T from 298.15 K to T (K), J/(mol K)."""
        return self._integral(T, self._over_t, logarithmic=True)

    def _heat(self, t: float) -> float:
        c = self.coefficients
        return t * (c[0] + t * (c[1] / 2 + t * (c[2] / 3 + t * c[3] / 4))) - c[4] / t

    def _over_t(self, t: float) -> float:
        c = self.coefficients
        return c[0] * math.log(t) + t * (c[1] + t * (c[2] / 2 + t * c[3] / 3)) - c[4] / (2 * t**2)

    def _integral(self, T: float, primitive: Any, logarithmic: bool = False) -> float:
        def up_to(t: float) -> float:
            inside = min(max(t, self.low), self.high)
            beyond = math.log(t / inside) if logarithmic else t - inside
            return float(primitive(inside) + self.at(inside) * beyond)

        return up_to(T) - up_to(T_REF)


@dataclass(frozen=True)
class Solid(Component):
    """A conventional solid: molar mass kg/mol, density kg/m3 (constant), enthalpy of formation J/mol and entropy J/(mol K) of the crystal.

    Both count at 298.15 K. It has no critical point and no vapour pressure: those constants are nan. Raises ValueError for a mass or density that
    is not positive.

    >>> made = Solid.of("sand", molar_mass=0.06008, density=2650.0, heat_capacity=SolidHeatCapacity((44.6, 0.0, 0.0, 0.0, 0.0)))
    >>> made.density, made.critical_temperature
    (2650.0, nan)
    """

    density: float = math.nan

    def __post_init__(self) -> None:
        if not self.molar_mass > 0.0 or not self.density > 0.0:
            raise ValueError(f"{self.id}: molar mass and density of a solid must be positive, not {self.molar_mass!r} and {self.density!r}.")
        if not self.name:
            object.__setattr__(self, "name", self.id)

    @classmethod
    def of(cls, id: str, *, molar_mass: float, density: float, heat_capacity: SolidHeatCapacity, **more: Any) -> Solid:
        """A solid from what is known of one; ``more`` takes formation_enthalpy, entropy, name, cas, formula, synonyms, sources, melting_point."""
        return cls(id, molar_mass, math.nan, math.nan, math.nan, heat_capacity, density=density, **more)

    @property
    def crystal_heat_capacity(self) -> SolidHeatCapacity:
        """Its heat capacity."""
        assert isinstance(self.heat_capacity, SolidHeatCapacity)
        return self.heat_capacity

    def enthalpy(self, T: float) -> float:
        """J/mol at T (K), from the elements at 298.15 K; pressure is left out."""
        return self.formation_enthalpy + self.crystal_heat_capacity.heat(T)

    def crystal_entropy(self, T: float) -> float:
        """J/(mol K) at T (K), third law."""
        return self.entropy + self.crystal_heat_capacity.heat_over_t(T)


def solid(key: str) -> Solid:
    """The conventional solid of a CAS number, or of an exact name or synonym of the bank. Raises KeyError.

    >>> round(solid("limestone").density)
    2710
    """
    known = _by_key()
    folded = key.strip().lower()
    if folded not in known:
        raise KeyError(f'The bank has no solid "{key}".')
    return known[folded]


@lru_cache(maxsize=1)
def _by_key() -> dict[str, Solid]:
    found: dict[str, Solid] = {}
    for keys in (lambda c: c.synonyms, lambda c: (c.name.lower(),), lambda c: (c.cas,)):
        found |= {key: c for c in reversed(bank_solids()) for key in keys(c)}
    return found


@lru_cache(maxsize=1)
def bank_solids() -> tuple[Solid, ...]:
    """Every conventional solid of the bank.

    >>> len(bank_solids()) > 400
    True
    """
    raw = files("wattaxis.substances").joinpath(SOLIDS_FILE.name).read_bytes()
    return tuple(_solid(entry) for entry in json.loads(gzip.decompress(raw))["solids"])


def _solid(entry: dict[str, Any]) -> Solid:
    cp = entry["Cp"]
    c0, c1, c2, c3, c4 = cp["c"]
    named = ("MW", "rho", "Hf", "S0", "Tm")
    return Solid.of(
        entry["name"],
        name=entry["name"],
        cas=entry["cas"],
        formula=entry["formula"],
        molar_mass=entry["MW"][0],
        density=entry["rho"][0],
        formation_enthalpy=entry["Hf"][0],
        entropy=entry["S0"][0],
        melting_point=entry["Tm"][0] if "Tm" in entry else None,
        heat_capacity=SolidHeatCapacity((c0, c1, c2, c3, c4), cp["Tmin"], cp["Tmax"], cp["source"]),
        synonyms=tuple(entry["synonyms"]),
        sources={name: entry[name][1] for name in named if name in entry} | {"Cp": cp["source"]},
    )
