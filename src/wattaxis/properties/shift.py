"""Volume shifts of cubic equations that depend on temperature: every pure liquid has its own density, and no equilibrium moves.

Peneloux, Rauzy, Freze (1982) take a constant c_i off the volume. With c_i(T) the Gibbs energy of a component changes by ``-P c_i(T)`` in every phase
alike, so that equilibria stay; enthalpy, entropy and heat capacity follow by differentiation: ``-P (c - T c')``, ``+P c'``, ``+P T c''``.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from wattaxis.substances import Component
from wattaxis.substances.curves import component_curve

#: Reduced temperatures between which the liquid's density is met; beyond them the shift stays what it is at the end.
_LOW, _HIGH, _KNOTS = 0.35, 0.85, 9


@dataclass(frozen=True)
class Shift:
    """c(T) of one component in m3/mol: a cubic spline that ends level, constant outside. ``pieces`` are equally wide, highest power first."""

    low: float
    width: float
    pieces: tuple[tuple[float, float, float, float], ...]

    def at(self, T: float) -> tuple[float, float, float]:
        """c, c', c'' at T (K). It stands in every energy flash: plain numbers are ten times as quick here as a spline object."""
        place = (T - self.low) / self.width
        number = min(max(int(place), 0), len(self.pieces) - 1)
        a, b, c, d = self.pieces[number]
        if not 0.0 < place < len(self.pieces):
            x = 0.0 if place <= 0.0 else self.width
            return ((a * x + b) * x + c) * x + d, 0.0, 0.0
        x = T - self.low - number * self.width
        return ((a * x + b) * x + c) * x + d, (3.0 * a * x + 2.0 * b) * x + c, 6.0 * a * x + 2.0 * b


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
    spline = CubicSpline(t, excess, bc_type="clamped")
    return Shift(low, (high - low) / (_KNOTS - 1), tuple((float(a), float(b), float(c), float(d)) for a, b, c, d in spline.c.T))
