"""Friction in pipes: the factor for all kinds of flow, and the gradient of a liquid and a gas together."""

from __future__ import annotations

from importlib import import_module
from typing import Any

_KERNELS = "wattaxis.properties.kernels.flow"


def friction_factor(reynolds: float, relative_roughness: float) -> float:
    """Darcy's friction factor: 64/Re in laminar flow (to Re 2000), the equation of Colebrook (1939) in turbulent flow (from 4000), between both in
    proportion.

    >>> round(friction_factor(1000.0, 0.0), 4), round(friction_factor(1e5, 1e-4), 4)
    (0.064, 0.0185)
    """
    flow: Any = import_module(_KERNELS)  # late: the kernels load with the first calculation

    return float(flow.friction_factor(reynolds, relative_roughness))


def friction_gradient(mass_flux: float, density: float, viscosity: float, diameter: float, roughness: float) -> float:
    """Loss of pressure by friction (Pa/m) of one phase with a mass flux (kg/(m2 s)) in a pipe (m).

    >>> round(friction_gradient(1000.0, 1000.0, 1e-3, 0.1, 4.5e-5))
    101
    """
    flow: Any = import_module(_KERNELS)

    return float(flow.friction_gradient(mass_flux, density, viscosity, diameter, roughness))


def two_phase_gradient(liquid_only: float, gas_only: float, quality: float) -> float:
    """Loss by friction (Pa/m) of liquid and gas together at a mass fraction of gas, from those of all as liquid and all as gas
    (Mueller-Steinhagen, Heck 1986).

    >>> two_phase_gradient(100.0, 2000.0, 0.0), two_phase_gradient(100.0, 2000.0, 1.0)
    (100.0, 2000.0)
    """
    rising = liquid_only + 2.0 * (gas_only - liquid_only) * quality
    return float(rising * (1.0 - quality) ** (1.0 / 3.0) + gas_only * quality**3)
