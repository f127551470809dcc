"""How much a column carries: flooding of trays and packings, the load of weirs, what both lose in pressure. Numbers in SI."""

from __future__ import annotations

import math

#: Shares of the cross section that one downcomer takes and that vapour bubbles through, and of holes in the latter; weir over diameter with that.
DOWNCOMER, ACTIVE, HOLES, WEIR = 0.12, 0.76, 0.10, 0.764
#: Weir height (m), and the coefficient of a hole that is as deep as it is wide.
WEIR_HEIGHT, ORIFICE = 0.050, 0.84
#: Diameter of holes (mm), and the constant of Eduljee's chart, within 0.5 for 50 to 110 mm of liquid on the tray.
HOLE, WEEP = 5.0, 30.6
#: Flow parameters between which Fair's chart was drawn, and tray spacings (m).
MEASURED, SPACINGS = (0.01, 2.0), (0.15, 0.92)
#: Packing factors (1/m), wet, of dumped packings: Sinnott 2005, table 11.2.
PACKINGS = {
    "Pall rings, metal, 25 mm": 160.0,
    "Pall rings, metal, 50 mm": 66.0,
    "Pall rings, plastic, 25 mm": 170.0,
    "Pall rings, plastic, 50 mm": 82.0,
    "Raschig rings, ceramic, 25 mm": 525.0,
    "Raschig rings, ceramic, 50 mm": 210.0,
    "saddles, ceramic, 25 mm": 300.0,
    "saddles, ceramic, 50 mm": 130.0,
}
_FOOT, _POUND_PER_CUBIC_FOOT, _G = 0.3048, 16.018463, 9.80665
#: Pounds per square foot and hour in a kg/(m2 s); Pa/m in an inch of water per foot; kg/m3 of a vapour up to which losses of packings were measured.
_POUNDS, _INCHES, LIGHT = 737.33812, 817.22083, 10.0


def flow_parameter(liquid: float, vapour: float, liquid_density: float, vapour_density: float) -> float:
    """Ratio of the flow energies of liquid and vapour, from mass flows (kg/s) and densities (kg/m3).

    >>> round(flow_parameter(10.0, 5.0, 800.0, 2.0), 3)
    0.1
    """
    return liquid / vapour * math.sqrt(vapour_density / liquid_density)


def tray_flooding(parameter: float, spacing: float, tension: float, liquid_density: float, vapour_density: float) -> float:
    """Velocity of the vapour (m/s), over the cross section less one downcomer, at which trays at a ``spacing`` (m) flood by entrainment.

    Fair's chart (1961) as Lygeros, Magoulas 1986 (Hydrocarbon Processing 65, no. 12, 43) write it; ``tension`` N/m.

    >>> round(tray_flooding(0.1, 0.6096, 0.02, 800.0, 2.0), 2)  # a capacity of 0.094 m/s
    1.88
    """
    capacity: float = 0.0105 + 8.127e-4 * (1e3 * spacing) ** 0.755 * math.exp(-1.463 * parameter**0.842)
    return capacity * math.pow(tension / 0.02, 0.2) * math.sqrt((liquid_density - vapour_density) / vapour_density)


def packing_flooding(parameter: float, factor: float, viscosity: float, liquid_density: float, vapour_density: float) -> float:
    """Velocity of the vapour (m/s) in the empty column at which a dumped packing floods, of a packing ``factor`` (1/m); ``viscosity`` Pa s.

    Eckert's chart as Kessler, Wankat 1988 (Wankat, Separation Process Engineering) write it.

    >>> round(packing_flooding(0.1, 66.0, 5e-4, 800.0, 2.0), 2)
    2.69
    """
    log = math.log10(parameter)
    ordinate = 10.0 ** (-1.6678 - 1.085 * log - 0.29655 * log**2)
    gas, liquid = vapour_density / _POUND_PER_CUBIC_FOOT, liquid_density / _POUND_PER_CUBIC_FOOT
    flux = math.sqrt(ordinate * gas * liquid * 32.174 / (factor * _FOOT * (1000.0 / liquid_density) * (1e3 * viscosity) ** 0.2))
    return flux / gas * _FOOT


def weep_velocity(vapour_density: float) -> float:
    """Velocity of the vapour (m/s) in holes below which they let liquid through (Eduljee 1959, by Sinnott 2005, equation 11.84).

    >>> round(weep_velocity(0.72), 1)
    14.4
    """
    return (WEEP - 0.90 * (25.4 - HOLE)) / math.sqrt(vapour_density)


def hole_velocity(vapour: float, diameter: float) -> float:
    """Velocity (m/s) in the holes of a tray of ``vapour`` (m3/s)."""
    return vapour / (HOLES * ACTIVE * math.pi / 4.0 * diameter**2)


def tray_diameter(vapour: float, flooding: float, share: float) -> float:
    """Diameter (m) at which ``vapour`` (m3/s) comes to a ``share`` of its ``flooding`` velocity (m/s) over the cross section less one downcomer."""
    return math.sqrt(4.0 * vapour / (math.pi * share * flooding * (1.0 - DOWNCOMER)))


def packed_diameter(vapour: float, flooding: float, share: float) -> float:
    """Diameter (m) at which ``vapour`` (m3/s) comes to a ``share`` of its ``flooding`` velocity (m/s) over the whole cross section."""
    return math.sqrt(4.0 * vapour / (math.pi * share * flooding))


def tray_loss(vapour: float, liquid: float, diameter: float, liquid_density: float, vapour_density: float) -> float:
    """Loss of pressure (Pa) of a sieve tray: holes, weir, crest over it, bubbles; ``vapour`` and ``liquid`` in m3/s (Sinnott 2005, section 11.13.14).

    >>> round(tray_loss(2.0, 0.004, 1.6, 800.0, 2.0))
    887
    """
    hole = hole_velocity(vapour, diameter)
    dry = 0.051 * (hole / ORIFICE) ** 2 * vapour_density / liquid_density
    crest: float = 0.750 * (liquid / (WEIR * diameter)) ** (2.0 / 3.0)
    return _G * liquid_density * (dry + WEIR_HEIGHT + crest + 12.5 / liquid_density)


def stage_height(packing: str) -> float:
    """Height (m) of a dumped packing that does what a stage does, as a rule: 18 times its size (Kister 1992, Distillation Design, chapter 9).

    >>> stage_height("Pall rings, metal, 50 mm")
    0.9
    """
    return round(18.0 * float(packing.split(", ")[-1].removesuffix(" mm")) / 1e3, 6)


def packed_loss(vapour: float, liquid: float, diameter: float, factor: float, viscosity: float, vapour_density: float) -> float:
    """Loss of pressure (Pa/m) of a dumped packing of ``factor`` (1/m); ``vapour`` and ``liquid`` in m3/s, ``viscosity`` of the liquid Pa s.

    Robbins 1991 (Chem. Eng. Progress 87, no. 5, 87), made for packing factors of dry beds and pressures near that of the atmosphere; without liquid
    it is the dry loss.

    >>> round(packed_loss(1.5, 0.003, 1.2, 66.0, 5e-4, 2.0))
    157
    """
    area = math.pi / 4.0 * diameter**2
    flux = _POUNDS / area
    root = math.sqrt(factor * _FOOT / 20.0)
    wet = liquid * 62.4 * _POUND_PER_CUBIC_FOOT * flux * root * (1e3 * viscosity) ** 0.1
    blown = vapour * vapour_density * flux * math.sqrt(0.075 * _POUND_PER_CUBIC_FOOT / vapour_density) * root
    dry: float = 7.4e-8 * blown**2 * 10.0 ** (2.7e-5 * wet)
    lost: float = _INCHES * (dry + 0.4 * (wet / 2e4) ** 0.1 * dry**4)
    return lost
