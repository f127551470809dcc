"""Transport properties and surface tension of mixtures, from curves of the pure components and stated mixing rules.

Gases: viscosity by Wilke (1950), conductivity by Wassiljewa with the factors of Mason and Saxena (1958), both at low pressure. Liquids: ln viscosity
by mole fractions (Grunberg, Nissan 1949, without interaction), conductivity by ``k**-2`` and mass fractions (Vredeveld 1973), surface tension by
Winterfeld, Scriven and Davis (1978).
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from wattaxis.properties.kernels import flow
from wattaxis.properties.tables import WithUnits
from wattaxis.substances import Component
from wattaxis.substances.curves import TemperatureCurve, component_curve

_mixed_gas: Any = flow.mixed_gas
#: Columns of tables.
COLUMNS = 400
#: Above it (Pa) the low-pressure rules of gases are said to be estimates.
HIGH_PRESSURE = 1.0e6


@dataclass(frozen=True)
class Transport(WithUnits):
    """Viscosity Pa s; thermal conductivity W/(m K); of liquids the surface tension N/m, None for gases. ``notes`` says what to mind.

    >>> from wattaxis import PropertyModel
    >>> state = PropertyModel("peng-robinson", ["nitrogen"]).flash([1.0], T=300.0, P=1e5)
    >>> round(state.transport(state.vapour).viscosity * 1e6, 1)
    17.8
    """

    viscosity: float
    conductivity: float
    surface_tension: float | None
    notes: tuple[str, ...] = ()


class Curves:
    """The curves of a list of components, each looked up once."""

    def __init__(self, components: Sequence[Component]) -> None:
        self.components = tuple(components)
        self.masses = np.array([c.molar_mass for c in components])
        self._known: dict[str, tuple[TemperatureCurve, ...]] = {}
        self._tables: dict[str, np.ndarray] = {}

    def values(self, name: str, T: float, x: np.ndarray, present: np.ndarray, notes: list[str]) -> np.ndarray:
        """The property of the components at positions ``present`` at T (K); what to mind of those above one per cent goes to ``notes``."""
        if name not in self._known:
            self._known[name] = tuple(component_curve(c, name) for c in self.components)
        curves = [self._known[name][i] for i in present]
        much = [(self.components[i].name, curve) for i, curve, share in zip(present, curves, x, strict=True) if share > 0.01]
        outside = [component for component, curve in much if not curve.inside(T)]
        if outside:
            notes.append(f"{name} of {', '.join(outside)} outside its range, kept at its end")
        estimated = [component for component, curve in much if curve.estimated]
        if estimated:
            notes.append(f"{name} of {', '.join(estimated)} estimated")
        return np.array([curve.at(T) for curve in curves])

    def table(self, name: str) -> np.ndarray:
        """ln of the property of every component over ln T as the kernels read it, shape (components, 2 + columns): ln T, its step, the values."""
        if name not in self._tables:
            self._tables[name] = np.array([_row(component_curve(c, name)) for c in self.components])
        return self._tables[name]


def _row(curve: TemperatureCurve) -> list[float]:
    """A row of a table: between the ends of its range a curve is smooth."""
    places = np.linspace(math.log(curve.low), math.log(max(curve.high, 1.001 * curve.low)), COLUMNS)
    return [places[0], places[1] - places[0], *np.log([curve.at(T) for T in np.exp(places)])]


def transport(kind: str, T: float, P: float, fractions: np.ndarray, curves: Curves) -> Transport:
    """Properties of one phase, ``kind`` "vapour" or a liquid, of mole ``fractions`` (components,) at T (K) and P (Pa)."""
    present = np.flatnonzero(fractions > 1e-9)
    x = fractions[present] / fractions[present].sum()
    return _gas(T, P, x, present, curves) if kind == "vapour" else _liquid(T, x, present, curves)


def _gas(T: float, P: float, x: np.ndarray, present: np.ndarray, curves: Curves) -> Transport:
    notes: list[str] = []
    viscosity, conductivity = (curves.values(name, T, x, present, notes) for name in ("gas viscosity", "gas conductivity"))
    masses = curves.masses[present]
    if P > HIGH_PRESSURE:
        notes.append("values of the gas at low pressure")
    mixed = [float(_mixed_gas(x, viscosity, masses, values)) for values in (viscosity, conductivity)]
    return Transport(mixed[0], mixed[1], None, tuple(notes))


def _liquid(T: float, x: np.ndarray, present: np.ndarray, curves: Curves) -> Transport:
    notes: list[str] = []
    names = ("liquid viscosity", "liquid conductivity", "surface tension", "liquid density")
    viscosity, conductivity, tension, density = (curves.values(name, T, x, present, notes) for name in names)
    masses = curves.masses[present]
    w = x * masses / float(x @ masses)
    volume = x * masses / density
    root = np.sqrt(tension[:, None] * tension[None, :])
    mixed = float(volume @ root @ volume) / float(volume.sum()) ** 2
    return Transport(float(np.exp(x @ np.log(viscosity))), float((w / conductivity**2).sum() ** -0.5), mixed, tuple(notes))
