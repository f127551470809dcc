"""Utilities that heat and cool: what they are, what a kilogram of each carries, and whether it fits the stream."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import TYPE_CHECKING

from wattaxis.quantities import Quantity
from wattaxis.unitops.base import Choice, Field, Finding, Givens, ResultValue, StreamState, UnitFault, UnitResult
from wattaxis.unitops.heat.curve import Medium, heat_curve
from wattaxis.unitops.heat.thermal import UTILITY_SIDE_CHOICES, ThermalSpec, solve_thermal, thermal_fields

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel

#: Closer than this (K) a caution is given.
APPROACH = 5.0
_POINTS = 9


@dataclass(frozen=True)
class Utility:
    """A medium that enters at ``supply`` and returns at ``back`` (K), or condenses where both are equal; ``cp`` J/(kg K), None for water."""

    title: str
    supply: float
    back: float
    cp: float | None = None


#: Usual conditions; prices are a matter of the project.
HEATING = {
    "low-pressure steam": Utility("Steam, 5 bar, saturated", 425.0, 425.0),
    "medium-pressure steam": Utility("Steam, 11 bar, saturated", 457.2, 457.2),
    "high-pressure steam": Utility("Steam, 42 bar, saturated", 526.4, 526.4),
    "hot oil": Utility("Hot oil, 330 to 290 degC", 603.15, 563.15, 2500.0),
}
COOLING = {
    "cooling water": Utility("Cooling water, 25 to 35 degC", 298.15, 308.15),
    "chilled water": Utility("Chilled water, 5 to 12 degC", 278.15, 285.15),
    "cold brine": Utility("Brine, -20 to -15 degC", 253.15, 258.15, 3000.0),
    "boiler feed water": Utility("Steam raised at 5 bar from boiling water", 425.0, 425.0),
}


class UtilitySpec(ThermalSpec):
    """As a heater or cooler; and the name of the utility."""

    utility: str | None = None


def utility_fields(duty_title: str, utilities: Mapping[str, Utility], evaporates: bool) -> tuple[Field, ...]:
    """The fields of a heater or cooler with its utility."""
    utility = Field("utility", "Utility", "option", "source or sink of the heat", options=tuple(utilities))
    return (*thermal_fields(duty_title, evaporates), utility)


UTILITY_CHOICES = (*UTILITY_SIDE_CHOICES, Choice("Utility", ("utility",)))


def solve_with_utility(
    givens: Givens, inlets: Mapping[str, Sequence[StreamState]], model: PropertyModel, utilities: Mapping[str, Utility]
) -> UnitResult:
    """The stream as in a heater or cooler, the flow of the utility and the nearest approach along the heat curve. Raises UnitFault."""
    heats = utilities is HEATING
    sign, word = (1.0, "Heat added") if heats else (-1.0, "Heat removed")
    name = str(givens.option("utility"))
    if name not in utilities:
        raise UnitFault(f'There is no utility "{name}"; there are {", ".join(utilities)}.', "Choose one of them.", "utility")
    utility, inlet = utilities[name], inlets["inlet"][0]
    found = solve_thermal(givens, inlet, model, sign, word)
    if givens.draft:
        return found
    flow = sign * found.energy_in / heat_of(utility)
    medium, curve = Medium(utility.title, utility.supply, utility.back), heat_curve(model, inlet, found.outlets["outlet"])
    approach = curve.approach(medium, heats)
    values = (
        *found.values,
        ResultValue("utility_flow", f"{utility.title}", "mass_flow", flow),
        ResultValue("approach", "Nearest approach", "temperature_difference", approach),
    )
    findings = list(found.findings)
    if sign * found.energy_in > 0.0:
        findings += approach_findings(utility.title, approach)
    return replace(found, values=values, findings=tuple(findings), profiles=curve.profiles(medium))


def approach_findings(title: str, approach: float) -> list[Finding]:
    """What is to be said of an approach (K); negative means that the temperatures cross."""
    if approach <= 0.0:
        text = f"{title} cannot exchange this heat: the temperatures cross by {-approach:.3g} K."
        return [Finding("fault", "", text, "Choose another utility, or another outlet.", "utility")]
    if approach < APPROACH:
        text = f"{title} comes within {approach:.3g} K of the stream, which needs a very large area."
        return [Finding("caution", "", text, "Choose another utility, or another outlet.", "utility")]
    return []


@lru_cache(maxsize=32)
def heat_of(utility: Utility) -> float:
    """J/kg that a utility gives or takes: condensing or boiling water, water by its enthalpy, others by their heat capacity."""
    if utility.cp is not None:
        return utility.cp * abs(utility.supply - utility.back)
    from wattaxis.properties import PropertyModel

    steam = PropertyModel("steam", ["water"])
    if utility.supply == utility.back:
        gas, liquid = (steam.flash([1.0], T=utility.supply, VF=vf) for vf in (1.0, 0.0))
        return float((gas.enthalpy - liquid.enthalpy) / steam.molar_masses[0])
    cold, warm = sorted((utility.supply, utility.back))
    rise = steam.flash([1.0], T=warm, P=4e5).enthalpy - steam.flash([1.0], T=cold, P=4e5).enthalpy
    return float(rise / steam.molar_masses[0])


#: Air over an air cooler, where nobody says more.
AIR_TEMPERATURE = Quantity(value=25.0, unit="degC")
AIR_RISE = Quantity(value=15.0, unit="K")
AIR_CP = 1006.0  # J/(kg K)
