"""Friction in pipes: the factor for all kinds of flow, and the gradient of a liquid and a gas together."""

from __future__ import annotations

import math

#: Reynolds numbers up to which flow is laminar, and from which on it is turbulent.
LAMINAR, TURBULENT = 2000.0, 4000.0


def friction_factor(reynolds: float, relative_roughness: float) -> float:
    """Darcy's friction factor: 64/Re in laminar flow, the equation of Colebrook (1939) in turbulent flow, between both in proportion.

    >>> round(friction_factor(1000.0, 0.0), 4), round(friction_factor(1e5, 1e-4), 4)
    (0.064, 0.0185)
    """
    share = min(max((reynolds - LAMINAR) / (TURBULENT - LAMINAR), 0.0), 1.0)
    laminar = 64.0 / reynolds if share < 1.0 else 0.0
    return (1.0 - share) * laminar + (share * _colebrook(reynolds, relative_roughness) if share > 0.0 else 0.0)


def _colebrook(reynolds: float, relative_roughness: float) -> float:
    """1/sqrt(f) = -2 log10(e/3.7 + 2.51/(Re sqrt(f))), by Newton from the formula of Haaland (1983)."""
    a, b = relative_roughness / 3.7, 2.51 / reynolds
    x = -1.8 * math.log10(a**1.11 + 6.9 / reynolds)
    for _ in range(8):
        inside = a + b * x
        step = (x + 2.0 * math.log10(inside)) / (1.0 + 2.0 * b / (inside * math.log(10.0)))
        x -= step
        if abs(step) < 1e-13 * x:
            break
    return 1.0 / (x * x)


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
