"""What a bed of particles costs in pressure. Numbers in SI."""

from __future__ import annotations


def bed_gradient(mass_flux: float, density: float, viscosity: float, particle: float, voidage: float) -> float:
    """Pressure loss (Pa/m) of a bed of ``particle`` diameter (m) and ``voidage`` for a superficial mass flux (kg/(m2 s)).

    Ergun 1952, Chem. Eng. Prog. 48, 89: spheres, or particles by their diameter of equal surface and volume.

    >>> round(bed_gradient(1.0, 1.2, 1.8e-5, 3e-3, 0.4), 1)
    5963.5
    """
    solid = (1.0 - voidage) / voidage**3
    return mass_flux / (density * particle) * solid * (150.0 * (1.0 - voidage) * viscosity / particle + 1.75 * mass_flux)


def bed_reynolds(mass_flux: float, viscosity: float, particle: float, voidage: float) -> float:
    """Reynolds number of a bed as Ergun's equation counts it; measured from 1 to 2500.

    >>> round(bed_reynolds(1.0, 1.8e-5, 3e-3, 0.4), 1)
    277.8
    """
    return mass_flux * particle / (viscosity * (1.0 - voidage))
