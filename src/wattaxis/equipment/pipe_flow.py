"""Friction in pipes: the factor for all kinds of flow, and the gradient of a liquid and a gas together."""

from __future__ import annotations

import math


def friction_factor(reynolds: float, relative_roughness: float) -> float:
    """Darcy's friction factor of laminar, transitional and turbulent flow (Churchill 1977, equation 18).

    >>> round(friction_factor(1000.0, 0.0), 4), round(friction_factor(1e5, 1e-4), 4)
    (0.064, 0.0185)
    """
    a = (-2.457 * math.log((7.0 / reynolds) ** 0.9 + 0.27 * relative_roughness)) ** 16
    b = (37530.0 / reynolds) ** 16
    return float(8.0 * ((8.0 / reynolds) ** 12 + (a + b) ** -1.5) ** (1.0 / 12.0))


def friction_gradient(mass_flux: float, density: float, viscosity: float, diameter: float, roughness: float) -> float:
    """Loss of pressure by friction (Pa/m) of one phase with a mass flux (kg/(m2 s)) in a pipe (m).

    >>> round(friction_gradient(1000.0, 1000.0, 1e-3, 0.1, 4.5e-5))
    101
    """
    reynolds = max(mass_flux * diameter / viscosity, 1e-6)
    return friction_factor(reynolds, roughness / diameter) * mass_flux**2 / (2.0 * density * diameter)


def two_phase_gradient(liquid_only: float, gas_only: float, quality: float) -> float:
    """Loss by friction (Pa/m) of liquid and gas together at a mass fraction of gas, from those of all as liquid and all as gas
    (Mueller-Steinhagen, Heck 1986).

    >>> two_phase_gradient(100.0, 2000.0, 0.0), two_phase_gradient(100.0, 2000.0, 1.0)
    (100.0, 2000.0)
    """
    rising = liquid_only + 2.0 * (gas_only - liquid_only) * quality
    return float(rising * (1.0 - quality) ** (1.0 / 3.0) + gas_only * quality**3)
