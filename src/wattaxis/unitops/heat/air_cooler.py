"""Air cooler: one stream cooled by ambient air."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import TYPE_CHECKING

from wattaxis.quantities import Quantity
from wattaxis.unitops.base import Choice, Field, Givens, Port, ResultValue, StreamState, UnitFault, UnitOperation, UnitResult
from wattaxis.unitops.heat.curve import Medium, heat_curve
from wattaxis.unitops.heat.thermal import CONDENSING, UTILITY_SIDE_CHOICES, ThermalSpec, solve_thermal, thermal_fields
from wattaxis.unitops.heat.utilities import AIR_CP, AIR_RISE, AIR_TEMPERATURE, approach_findings
from wattaxis.unitops.registry import unit_operation

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel


class AirCoolerSpec(ThermalSpec):
    """As a cooler; temperature of the air and its rise."""

    air_temperature: Quantity | None = None
    air_rise: Quantity | None = None


@unit_operation
class AirCooler(UnitOperation):
    """Heat removed, counted positive; the flow of air follows."""

    type = "air-cooler"
    title = "Air cooler"
    symbol = "air-cooler"
    letter = "E"
    also = ("fin-fan", "condenser")
    pressures = (CONDENSING,)
    family = "heat"
    drafts = True
    theory = (
        "The duty is the fall of enthalpy of the stream; the air takes it up in cross-current taken as counter-current, "
        "with a heat capacity of 1006 J/(kg K), and its flow follows from its rise."
    )
    Spec = AirCoolerSpec
    ports = (Port("inlet", "Inlet", "in", place=(0.0, 0.5)), Port("outlet", "Outlet", "out", place=(1.0, 0.5)))
    fields = (
        *thermal_fields("Heat removed", evaporates=False),
        Field("air_temperature", "Air temperature", "temperature"),
        Field("air_rise", "Rise of the air", "temperature_difference"),
    )
    choices = (
        *UTILITY_SIDE_CHOICES,
        Choice("Air", ("air_temperature",), 1, ("air_temperature", AIR_TEMPERATURE, "no air temperature was given")),
        Choice("Rise of the air", ("air_rise",), 1, ("air_rise", AIR_RISE, "no rise of the air was given")),
    )

    def solve(self, givens: Givens, inlets: Mapping[str, Sequence[StreamState]], model: PropertyModel, outlets: frozenset[str]) -> UnitResult:
        """Outlet state, duty, flow of air, nearest approach."""
        inlet = inlets["inlet"][0]
        cold, rise = givens.si("air_temperature") or 0.0, givens.si("air_rise") or 0.0
        if rise <= 0.0:
            raise UnitFault("Air that does not get warmer removes no heat.", "Give a rise above zero.", "air_rise")
        found = solve_thermal(givens, inlet, model, -1.0, "Heat removed")
        if givens.draft:
            return found
        medium, curve = Medium("Air", cold, cold + rise), heat_curve(model, inlet, found.outlets["outlet"])
        approach = curve.approach(medium, heats=False)
        values = (
            *found.values,
            ResultValue("air_flow", "Air", "mass_flow", -found.energy_in / (AIR_CP * rise)),
            ResultValue("approach", "Nearest approach", "temperature_difference", approach),
        )
        findings = [*found.findings, *(approach_findings("The air", approach) if found.energy_in < 0.0 else [])]
        told = tuple(replace(f, field=f.field or "air_temperature") for f in findings)
        return replace(found, values=values, findings=told, profiles=curve.profiles(medium))
