"""What a bed of particles costs in pressure. Numbers in SI."""

from __future__ import annotations

from importlib import import_module
from typing import Any

_KERNELS = "wattaxis.properties.kernels.flow"


def bed_gradient(mass_flux: float, density: float, viscosity: float, particle: float, voidage: float) -> float:
    """Pressure loss (Pa/m) of a bed of ``particle`` diameter (m) and ``voidage`` for a superficial mass flux (kg/(m2 s)).

    Ergun 1952, Chem. Eng. Prog. 48, 89: spheres, or particles by their diameter of equal surface and volume.

    >>> round(bed_gradient(1.0, 1.2, 1.8e-5, 3e-3, 0.4), 1)
    5963.5
    """
    flow: Any = import_module(_KERNELS)  # late: the kernels load with the first calculation

    return float(flow.bed_gradient(mass_flux, density, viscosity, particle, voidage))


def bed_reynolds(mass_flux: float, viscosity: float, particle: float, voidage: float) -> float:
    """Reynolds number of a bed as Ergun's equation counts it; measured from 1 to 2500.

    >>> round(bed_reynolds(1.0, 1.8e-5, 3e-3, 0.4), 1)
    277.8
    """
    return mass_flux * particle / (viscosity * (1.0 - voidage))
