"""Pump: a liquid brought to a higher pressure."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

from wattaxis.properties import FlashError
from wattaxis.quantities import Quantity
from wattaxis.unitops.base import (
    GRAVITY,
    Assumed,
    Choice,
    Field,
    Finding,
    Givens,
    ResultValue,
    StreamState,
    UnitFault,
    UnitOperation,
    UnitResult,
    UnitSpec,
)
from wattaxis.unitops.energy.connections import SHAFT_IN, work_given
from wattaxis.unitops.pressure.curve import curve_field, working_point
from wattaxis.unitops.pressure.machines import MACHINE_PORTS, SPEED, assumed_efficiency
from wattaxis.unitops.pressures import OUTLET_OR_CHANGE
from wattaxis.unitops.registry import unit_operation
from wattaxis.unitops.table import GivenTable

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel, State

EFFICIENCY = Quantity(value=75.0, unit="%")


class PumpSpec(UnitSpec):
    """Outlet pressure, pressure rise or a curve; efficiency."""

    outlet_pressure: Quantity | None = None
    pressure_change: Quantity | None = None
    curve: GivenTable | None = None
    speed: Quantity | None = None
    efficiency: Quantity | None = None


@unit_operation
class Pump(UnitOperation):
    """Incompressible liquid with an efficiency."""

    type = "pump"
    title = "Pump"
    symbol = "pump"
    letter = "P"
    also = ("feed pump", "circulator")
    family = "pressure"
    theory = (
        "The power is the volume flow of the liquid times its rise of pressure over the efficiency; all of it goes into the stream. "
        "A curve gives the head over the volume flow, a monotone cubic between its points; with the speed the flow rises, the head with its square."
    )
    Spec = PumpSpec
    ports = MACHINE_PORTS
    drafts = drafts_tell_faults = True
    fields = (
        Field("outlet_pressure", "Outlet pressure", "pressure"),
        Field("pressure_change", "Pressure rise", "pressure_difference", "outlet minus inlet"),
        curve_field("head over the volume flow at the suction", "m"),
        SPEED,
        Field("efficiency", "Efficiency", "fraction", "hydraulic and mechanical together"),
    )
    pressures = (OUTLET_OR_CHANGE,)
    choices = (
        Choice("Pressure", ("outlet_pressure", "pressure_change", "curve"), port=SHAFT_IN),
        Choice("Efficiency", ("efficiency",), 1, ("efficiency", EFFICIENCY, "no efficiency was given")),
    )

    def assumptions(self, spec: UnitSpec) -> dict[str, tuple[Assumed, str]]:
        """A curve brings its efficiency."""
        return assumed_efficiency(spec, super().assumptions(spec))

    def solve(self, givens: Givens, inlets: Mapping[str, Sequence[StreamState]], model: PropertyModel, outlets: frozenset[str]) -> UnitResult:
        """PH flash after the work."""
        inlet = inlets["inlet"][0]
        state = inlet.state
        point = working_point(givens, inlet)
        given, change, efficiency = givens.si("outlet_pressure"), givens.si("pressure_change"), givens.si("efficiency")
        if point is not None:
            change = point.head * state.molar_mass / state.molar_volume
            efficiency = point.efficiency if givens.raw("efficiency") is None and point.efficiency is not None else efficiency
        pressure = given if given is not None else state.pressure + (change or 0.0)
        if not efficiency:
            raise UnitFault("An efficiency of zero would need infinite power.", "Give an efficiency above zero.", "efficiency")
        shaft = givens.power(SHAFT_IN)
        if shaft is not None:
            pressure = _pressure_of_power(inlet, shaft, efficiency)
        if pressure < state.pressure * (1 - 1e-9):
            drop = (state.pressure - pressure) / 1e5
            raise UnitFault(f"The pressure falls by {drop:.4g} bar; a pump raises it.", "Use a valve, or give a higher pressure.", "outlet_pressure")
        work = state.molar_volume * (pressure - state.pressure) / efficiency
        try:
            outlet = model.flash(state.fractions, P=pressure, H=state.enthalpy + work, guess=state.temperature)
        except FlashError as error:
            wet = f"{100 * state.vapour_fraction:.3g} % of the suction is vapour"
            text = f"{wet}; pumped as a liquid it would take {work / 1e3:.3g} kJ/mol, and there is no state with that energy."
            raise UnitFault(text, "Cool the suction, or use a compressor.") from error
        findings = [] if point is None else list(point.findings)
        if state.vapour_fraction > 1e-6 and inlet.flow > 0.0:
            text = f"{100 * state.vapour_fraction:.3g} % of the suction is vapour: a pump cannot handle it, and the calculated power does not hold."
            findings.append(Finding("caution", "", text, "Cool the suction, raise its pressure, or remove the vapour in a drum first."))
        values: tuple[ResultValue, ...] = (
            ResultValue("power", "Power", "power", inlet.flow * work),
            ResultValue("outlet_pressure", "Outlet pressure", "pressure", pressure),
            ResultValue("pressure_change", "Pressure rise", "pressure_difference", pressure - state.pressure),
            ResultValue("outlet_temperature", "Outlet temperature", "temperature", outlet.temperature),
            ResultValue("suction_volume", "Volume flow at the inlet", "volume_flow", inlet.flow * state.molar_volume),
            ResultValue("head", "Head", "head", (pressure - state.pressure) * state.molar_volume / state.molar_mass),
        )
        boiling = None if givens.draft else _boiling(model, state)
        if boiling is not None:
            head = (state.pressure - boiling) * state.molar_volume / (state.molar_mass * GRAVITY)
            values = (*values, ResultValue("npsh", "Net positive suction head available", "height", head))
        outside, handed = work_given(givens, inlet.flow * work)
        profiles = () if point is None else point.profiles
        return UnitResult({"outlet": StreamState(inlet.flow, outlet)}, outside, values, tuple(findings), profiles=profiles, energies=handed)


def _boiling(model: PropertyModel, state: State) -> float | None:
    """Pressure (Pa) at which the suction would begin to boil at its temperature; None where it never does or vapour is there already."""
    if state.vapour_fraction > 0.0 or state.solid_fraction >= 1.0:
        return None
    try:
        return model.flash(state.fractions, T=state.temperature, VF=0.0).pressure
    except FlashError:
        return None


def _pressure_of_power(inlet: StreamState, power: float, efficiency: float) -> float:
    """Outlet pressure (Pa) that a shaft power (W) reaches. Raises UnitFault."""
    volume = inlet.flow * inlet.state.molar_volume
    if volume <= 0.0:
        raise UnitFault("There is no flow to take up the power of the shaft.", "Give a flow at the feed, or disconnect the shaft.")
    return inlet.state.pressure + power * efficiency / volume
