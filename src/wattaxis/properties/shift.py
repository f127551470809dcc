"""Volume shifts of cubic equations that depend on temperature: every pure liquid has its own density, and no equilibrium moves.

Peneloux, Rauzy, Freze (1982) take a constant c_i off the volume. With c_i(T) the Gibbs energy of a component changes by ``-P c_i(T)`` in every phase
alike, so that equilibria stay; enthalpy, entropy and heat capacity follow by differentiation: ``-P (c - T c')``, ``+P c'``, ``+P T c''``.
"""

from __future__ import annotations

import numpy as np

from wattaxis.properties.kernels.volume_shift import PIECES
from wattaxis.properties.state import Vector
from wattaxis.substances import Component
from wattaxis.substances.curves import component_curve

#: Reduced temperatures between which the liquid's density is met; beyond them the shift stays what it is at the end.
_LOW, _HIGH = 0.35, 0.85


def shift_of(kind: str, c: Component) -> Vector:
    """What the liquid of a cubic equation has too much in volume, along its own saturation curve: a row of the kernels' table of shifts."""
    from scipy.interpolate import CubicSpline

    from wattaxis.properties.model import PropertyModel

    curve, model, tc = component_curve(c, "liquid density"), PropertyModel(kind, [c]), c.critical_temperature
    low, high = max(_LOW * tc, min(curve.low, 0.7 * tc)), min(_HIGH * tc, max(curve.high, 0.72 * tc))
    t = np.linspace(low, high, PIECES + 1)
    excess = []
    for x in t:
        density = curve.at(float(x))
        own = model.flash([1.0], T=float(x), VF=0.0).molar_volume
        excess.append(own - c.molar_mass / density if density > 0.0 else 0.0)
    spline = CubicSpline(t, excess, bc_type="clamped")
    return np.concatenate(([low, (high - low) / PIECES], spline.c.T.ravel()))
