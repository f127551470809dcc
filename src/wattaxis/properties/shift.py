"""Volume shifts of cubic equations that depend on temperature: every pure liquid has its own density, and no equilibrium moves.

Peneloux, Rauzy, Freze (1982) take a constant c_i off the volume. With c_i(T) the Gibbs energy of a component changes by ``-P c_i(T)`` in every phase
alike, so that equilibria stay; enthalpy, entropy and heat capacity follow by differentiation: ``-P (c - T c')``, ``+P c'``, ``+P T c''``.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from wattaxis.substances import Component
from wattaxis.substances.curves import component_curve

if TYPE_CHECKING:
    from scipy.interpolate import CubicSpline

#: Reduced temperatures between which the liquid's density is met; beyond them the shift stays what it is at the end.
_LOW, _HIGH, _KNOTS = 0.35, 0.85, 9


@dataclass(frozen=True)
class Shift:
    """c(T) of one component in m3/mol: a cubic spline that ends level, constant outside."""

    spline: CubicSpline
    low: float
    high: float

    def at(self, T: float) -> tuple[float, float, float]:
        """c, c', c'' at T (K)."""
        inside = min(max(T, self.low), self.high)
        value = float(self.spline(inside))
        return (value, float(self.spline(T, 1)), float(self.spline(T, 2))) if self.low < T < self.high else (value, 0.0, 0.0)


def shift_of(kind: str, c: Component) -> Shift:
    """What the liquid of a cubic equation has too much in volume, along its own saturation curve."""
    from scipy.interpolate import CubicSpline

    from wattaxis.properties.model import PropertyModel

    curve, model, tc = component_curve(c, "liquid density"), PropertyModel(kind, [c]), c.critical_temperature
    low, high = max(_LOW * tc, min(curve.low, 0.7 * tc)), min(_HIGH * tc, max(curve.high, 0.72 * tc))
    t = np.linspace(low, high, _KNOTS)
    excess = []
    for x in t:
        density = curve.at(float(x))
        own = model.flash([1.0], T=float(x), VF=0.0).molar_volume
        excess.append(own - c.molar_mass / density if density > 0.0 else 0.0)
    return Shift(CubicSpline(t, excess, bc_type="clamped"), low, high)
