"""The pure liquids of the ideal and activity models: how far their enthalpy lies below the ideal gas, and their volume.

Vapour pressures settle equilibria; measured heats settle enthalpies. The distance L(T) between the ideal gas and the saturated liquid is
``tau**0.38 (c0 + c1 tau + c2 tau**2 + c3 tau**3) + c4``, tau = 1 - T/Tc, fitted to heat of vaporisation and heat capacity at once
(:mod:`wattaxis.properties.liquid`). The molar density is ``c0 + c1 tau**0.35 + c2 tau**(2/3) + c3 tau + c4 tau**(4/3)``. Both go on with continuous
slopes beyond their ranges: L falls off exponentially towards the critical point and straight below, the volume levels off.
"""

from __future__ import annotations

import math

from wattaxis.properties.kernels import inner
from wattaxis.properties.kernels.pure import log_vapour_pressure
from wattaxis.properties.layout import DENSITY0, DENSITY_HIGH, DENSITY_LOW, HEAT0, HEAT_HIGH, HEAT_LOW, OMEGA, PC, REFERENCE, TC

#: Part of the critical temperature over which the volume levels off beyond its range; Tr beyond which compression is that of this place.
LEVEL, COMPRESSED = 0.02, 0.95


@inner
def liquid_depth(t, par, i):
    """L (J/mol) and dL/dT of a component whose heats are known."""
    low, high = par[HEAT_LOW, i], par[HEAT_HIGH, i]
    inside = min(max(t, low), high)
    tau = 1.0 - inside / par[TC, i]
    power = tau**0.38
    c0, c1, c2, c3 = par[HEAT0, i], par[HEAT0 + 1, i], par[HEAT0 + 2, i], par[HEAT0 + 3, i]
    value = power * (c0 + tau * (c1 + tau * (c2 + tau * c3))) + par[HEAT0 + 4, i]
    slope = -power / tau * (0.38 * c0 + tau * (1.38 * c1 + tau * (2.38 * c2 + tau * 3.38 * c3))) / par[TC, i]
    if t < low:
        return value + slope * (t - low), slope
    if t > high:
        fade = math.exp(slope / value * (t - high))
        return value * fade, slope * fade
    return value, slope


@inner
def saturated_volume(t, par, i):
    """Molar volume (m3/mol) of the saturated liquid."""
    tc = par[TC, i]
    low, high = par[DENSITY_LOW, i], par[DENSITY_HIGH, i]
    inside = min(max(t, low), high)
    tau = 1.0 - inside / tc
    third = tau ** (1.0 / 3.0)
    root = tau**0.35
    c1, c2, c3, c4 = par[DENSITY0 + 1, i], par[DENSITY0 + 2, i], par[DENSITY0 + 3, i], par[DENSITY0 + 4, i]
    density = par[DENSITY0, i] + c1 * root + c2 * third * third + tau * (c3 + c4 * third)
    if t <= high:
        return 1.0 / density
    slope = -(0.35 * c1 * root / tau + 2.0 / 3.0 * c2 / third + c3 + 4.0 / 3.0 * c4 * third) / tc
    length = LEVEL * tc
    return 1.0 / density - slope / (density * density) * length * (1.0 - math.exp((high - t) / length))


@inner
def liquid_volume(t, p, par, i):
    """Molar volume (m3/mol) of the pure liquid at ``p`` (Pa): compressed above its vapour pressure (Thomson, Brobst, Hankinson 1982)."""
    volume = saturated_volume(t, par, i)
    if par[REFERENCE, i] == 0.0:
        return volume  # a dissolved gas has no vapour pressure
    log_p, _slope, _bend = log_vapour_pressure(t, par, i)
    saturated = min(math.exp(min(log_p, 50.0)), par[PC, i])
    if p <= saturated:
        return volume
    omega = par[OMEGA, i]
    tau = 1.0 - min(t / par[TC, i], COMPRESSED)
    third = tau ** (1.0 / 3.0)
    e = math.exp(4.79594 + 0.250047 * omega + 1.14188 * omega * omega)
    b = par[PC, i] * (-1.0 - 9.070217 * third + 62.45326 * third * third - 135.1102 * tau + e * tau * third)
    b = max(b, -0.5 * saturated)
    return volume * (1.0 - (0.0861488 + 0.0344483 * omega) * math.log((b + p) / (b + saturated)))
