"""Molar volume of liquids for models that have none of their own."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from wattaxis.properties.layout import R
from wattaxis.substances import Component
from wattaxis.substances.curves import component_curve


def rackett_volume(T: float, fractions: np.ndarray, components: Sequence[Component]) -> float:
    """Saturated-liquid molar volume (m3/mol) at T (K), Spencer, Danner 1972 with the compressibility of Yamada, Gunn 1973, 0.29056 - 0.08775 omega.

    Mixed by Li's (1971) critical temperature. Zero above the reduced temperature 1, where there is no saturated liquid. A component with a liquid
    density of one's own adds, by its mole fraction, what its own molar volume has more than that of the equation.

    >>> from wattaxis.substances import component
    >>> round(1e6 * rackett_volume(298.15, np.array([1.0]), [component("toluene")]), 0)
    108.0
    """
    z = np.array([0.29056 - 0.08775 * c.acentric_factor for c in components])
    tc = np.array([c.critical_temperature for c in components])
    over = np.array([c.critical_temperature / c.critical_pressure for c in components])
    critical = z * R * over  # critical volumes that the equation implies
    share = fractions * critical / max(float(fractions @ critical), 1e-300)
    reduced = T / float(share @ tc)
    if reduced >= 1.0:
        return 0.0
    mixed_z = float(fractions @ z)
    volume = float(R * (fractions @ over) * mixed_z ** (1.0 + (1.0 - reduced) ** (2.0 / 7.0)))
    return volume + sum(float(x) * _own_excess(T, c) for x, c in zip(fractions, components, strict=True) if c.own_curves)


def _own_excess(T: float, c: Component) -> float:
    """What the pure liquid's own molar volume (m3/mol) has more than the equation's."""
    if c.critical_temperature <= T or all(curve.name != "liquid density" for curve in c.own_curves):
        return 0.0
    bare = replace(c, own_curves=())
    return c.molar_mass / component_curve(c, "liquid density").at(T) - rackett_volume(T, np.ones(1), [bare])
