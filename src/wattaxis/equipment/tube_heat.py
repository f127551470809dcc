"""How heat passes between a fluid and the wall of a tube, and through the wall. Numbers in SI."""

from __future__ import annotations

import math
from importlib import import_module
from typing import Any

_KERNELS = "wattaxis.properties.kernels.flow"
#: Share of the plane that equal circles cover at most.
_DENSEST = math.pi / math.sqrt(12.0)


def film_coefficient(
    mass_flux: float, viscosity: float, heat_capacity: float, conductivity: float, bore: float, particle: float | None = None, heats: bool = True
) -> float:
    """W/(m2 K) inside a tube of ``bore`` (m) for a mass flux (kg/(m2 s)) of a fluid with viscosity, heat capacity (J/(kg K)) and conductivity.

    Empty tubes: Gnielinski 1976, Int. Chem. Eng. 16, 359, from Re 4000 on, with the friction factor of Petukhov 1970; 3.66 for h d/k up to 2300, and
    in proportion between. Tubes full of particles (m): Leva 1949, Chem. Eng. 56, 115, one equation where the wall ``heats``, one where it cools.

    >>> round(film_coefficient(20.0, 2e-5, 1000.0, 0.03, 0.025))
    71
    >>> round(film_coefficient(1.0, 2e-5, 1000.0, 0.03, 0.025, 0.003, heats=False))
    81
    """
    flow: Any = import_module(_KERNELS)  # late: the kernels load with the first calculation
    return float(flow.film(particle is not None, mass_flux, viscosity, heat_capacity, conductivity, bore, particle or 0.0, heats))


def film_doubt(mass_flux: float, viscosity: float, bore: float, particle: float | None = None) -> str:
    """What is to be said of :func:`film_coefficient` there; blank within the range of what was measured."""
    if particle is None:
        reynolds = mass_flux * bore / viscosity
        return (
            f"a Reynolds number of {reynolds:.3g}; in between laminar and turbulent flow, 2300 to 4000, it is a guess"
            if 2300.0 < reynolds < 4000.0
            else ""
        )
    reynolds, ratio = mass_flux * particle / viscosity, particle / bore
    if 250.0 <= reynolds <= 3000.0 and ratio <= 0.27:
        return ""
    return f"a Reynolds number of {reynolds:.3g} and particles of {ratio:.2g} of the tube; it was measured from 250 to 3000 and up to 0.27"


def shell_passage(shell: float, outer: float, tubes: float) -> tuple[float, float]:
    """Section (m2) and hydraulic diameter (m) for what flows along ``tubes`` of an outer diameter (m) in a shell (inner diameter, m) without baffles.

    Raises ValueError where the tubes do not fit, by the densest packing of circles.

    >>> section, hydraulic = shell_passage(0.05, 0.03, 1)
    >>> round(1e4 * section, 3), round(hydraulic, 4)
    (12.566, 0.02)
    """
    if (tubes > 1.0 and tubes * outer**2 >= _DENSEST * shell**2) or outer >= shell:
        raise ValueError(f"{tubes:.6g} tubes of {1e3 * outer:.4g} mm do not fit into a shell of {1e3 * shell:.5g} mm.")
    section = 0.25 * math.pi * (shell**2 - tubes * outer**2)
    return section, 4.0 * section / (math.pi * (shell + tubes * outer))


def wall_resistance(bore: float, thickness: float, conductivity: float, outside: float, fouling: float) -> float:
    """m2 K/W, of the inner area, of all but the film inside: wall (Fourier), fouling, and the film outside, ``outside`` W/(m2 K) of the outer area.

    >>> round(wall_resistance(0.025, 0.002, 45.0, 2000.0, 1e-4) * 1e3, 3)
    0.572
    """
    outer = bore + 2.0 * thickness
    return fouling + bore * math.log(outer / bore) / (2.0 * conductivity) + bore / (outer * outside)
