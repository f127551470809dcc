"""What compressor and expander share: a change of pressure along an isentrope with an efficiency."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import TYPE_CHECKING

from wattaxis.properties import FlashError
from wattaxis.quantities import Quantity
from wattaxis.unitops.base import Assumed, Choice, Field, Finding, Givens, Port, ResultValue, StreamState, UnitFault, UnitResult, UnitSpec
from wattaxis.unitops.energy.connections import SHAFT_PORTS, work_given
from wattaxis.unitops.pressure.curve import CurvePoint, curve_field, has_efficiency
from wattaxis.unitops.pressures import PressureSide
from wattaxis.unitops.table import GivenTable

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel, State

#: Of the coarser polytropic path.
STEPS = 12


class MachineSpec(UnitSpec):
    """One of outlet pressure, pressure change, pressure ratio, power and a curve; an efficiency, or the outlet temperature from which it follows."""

    outlet_pressure: Quantity | None = None
    pressure_change: Quantity | None = None
    pressure_ratio: Quantity | None = None
    power: Quantity | None = None
    curve: GivenTable | None = None
    speed: Quantity | None = None
    efficiency: Quantity | None = None
    polytropic_efficiency: Quantity | None = None
    outlet_temperature: Quantity | None = None


#: How fast a machine runs beside its curve.
SPEED = Field("speed", "Speed", "share", "of that of the curve", beside="curve")


def machine_fields(power_title: str, ratio_help: str) -> tuple[Field, ...]:
    """The fields of a compressor or expander."""
    return (
        Field("outlet_pressure", "Outlet pressure", "pressure"),
        Field("pressure_change", "Pressure change", "pressure_difference", "outlet minus inlet"),
        Field("pressure_ratio", "Pressure ratio", "number", ratio_help),
        Field("power", power_title, "power"),
        curve_field("isentropic head over the volume flow at the suction", "kJ/kg"),
        SPEED,
        Field("efficiency", "Isentropic efficiency", "fraction"),
        Field("polytropic_efficiency", "Polytropic efficiency", "fraction", "of every small step alike"),
        Field("outlet_temperature", "Outlet temperature", "temperature", "the efficiency follows from it"),
    )


MACHINE_PRESSURE = PressureSide("outlet_pressure", "pressure_change", "pressure_ratio")
#: The efficiencies, assumed where nothing is said of them.
EFFICIENCY_CHOICE = Choice(
    "Efficiency",
    ("efficiency", "polytropic_efficiency", "outlet_temperature"),
    1,
    ("efficiency", Quantity(value=75.0, unit="%"), "no efficiency was given"),
)


@dataclass(frozen=True)
class Efficiency:
    """An efficiency above zero, of the whole step or of every small one; or the outlet temperature (K) that it leads to."""

    value: float
    polytropic: bool
    temperature: float | None = None


def assumed_efficiency(spec: UnitSpec, found: dict[str, tuple[Assumed, str]]) -> dict[str, tuple[Assumed, str]]:
    """What a machine assumes: no efficiency where its curve says it, and the speed of the curve."""
    curve: GivenTable | None = getattr(spec, "curve", None)
    if curve is None:
        return found
    kept = {key: value for key, value in found.items() if not (key == "efficiency" and has_efficiency(curve))}
    speed: dict[str, tuple[Assumed, str]] = {}
    if getattr(spec, "speed", None) is None:
        speed["speed"] = (Quantity(value=100.0, unit="%"), "it runs at the speed of its curve")
    return kept | speed


def efficiency_of(givens: Givens, point: CurvePoint | None = None) -> Efficiency:
    """The efficiency: that which is given counts before that of the curve. Raises UnitFault for none at all."""
    temperature = givens.si("outlet_temperature")
    if temperature is not None:
        return Efficiency(1.0, False, temperature)
    polytropic = givens.si("polytropic_efficiency")
    if point is not None and point.efficiency is not None and polytropic is None and givens.raw("efficiency") is None:
        if not point.efficiency:
            raise UnitFault("The curve has an efficiency of zero at this flow.", "Correct the curve, or give an efficiency.", "curve")
        return Efficiency(point.efficiency, False)
    key = "efficiency" if polytropic is None else "polytropic_efficiency"
    value = givens.si("efficiency") if polytropic is None else polytropic
    if not value:
        raise UnitFault("An efficiency of zero leaves nothing to calculate.", "Give an efficiency above zero.", key)
    return Efficiency(value, polytropic is not None)


def asked_pressure(givens: Givens, inlet: State) -> float | None:
    """The outlet pressure from pressure, change or ratio; None when the power is given. Raises UnitFault."""
    pressure, change, ratio = givens.si("outlet_pressure"), givens.si("pressure_change"), givens.si("pressure_ratio")
    if ratio is not None and ratio <= 0.0:
        raise UnitFault(f"A pressure ratio of {ratio:g} is not possible.", "Give a ratio above zero.", "pressure_ratio")
    found = pressure if pressure is not None else inlet.pressure + change if change is not None else inlet.pressure * ratio if ratio else None
    if found is not None and found <= 0.0:
        raise UnitFault(f"Nothing is left of the {inlet.pressure / 1e5:.4g} bar at the inlet.", "Give a smaller drop.", "pressure_change")
    return found


def pressure_of_head(model: PropertyModel, inlet: StreamState, head: float) -> float:
    """The outlet pressure (Pa) that an isentropic head (J/kg, falls below zero) leads to. Raises UnitFault."""
    state = inlet.state
    try:
        return model.flash(state.fractions, H=state.enthalpy + head * state.molar_mass, S=state.entropy, guess=state.temperature).pressure
    except FlashError as error:
        raise UnitFault(f"A head of {abs(head) / 1e3:.4g} kJ/kg leads to no state: {error}", "Check the curve and its units.", "curve") from error


def outlet_state(model: PropertyModel, inlet: State, pressure: float, efficiency: Efficiency, expands: bool) -> tuple[State, float]:
    """The outlet and the isentropic rise of enthalpy (J/mol). Raises FlashError.

    A polytropic path is taken in steps of equal pressure ratio, each isentropic with the efficiency, and extrapolated to ever smaller ones
    (the error falls with the step, so twice the finer answer less the coarser one).
    """
    ideal = model.flash(inlet.fractions, P=pressure, S=inlet.entropy, guess=inlet.temperature)
    rise = ideal.enthalpy - inlet.enthalpy
    if efficiency.temperature is not None:
        return model.flash(inlet.fractions, T=efficiency.temperature, P=pressure), rise
    if not efficiency.polytropic:
        real = rise * efficiency.value if expands else rise / efficiency.value
    else:
        coarse, fine = (_small_steps(model, inlet, pressure, efficiency.value, expands, steps) for steps in (STEPS, 2 * STEPS))
        real = 2.0 * fine - coarse - inlet.enthalpy
    return model.flash(inlet.fractions, P=pressure, H=inlet.enthalpy + real, guess=ideal.temperature), rise


def _small_steps(model: PropertyModel, inlet: State, pressure: float, efficiency: float, expands: bool, steps: int) -> float:
    """Outlet enthalpy (J/mol) of a chain of small isentropic steps with an efficiency each."""
    state = inlet
    ratio = (pressure / inlet.pressure) ** (1.0 / steps)
    for _ in range(steps):
        level = state.pressure * ratio
        ideal = model.flash(state.fractions, P=level, S=state.entropy, guess=state.temperature)
        rise = ideal.enthalpy - state.enthalpy
        real = rise * efficiency if expands else rise / efficiency
        state = model.flash(state.fractions, P=level, H=state.enthalpy + real, guess=ideal.temperature)
    return state.enthalpy


def pressure_of_power(model: PropertyModel, inlet: StreamState, efficiency: Efficiency, power: float, expands: bool) -> float:
    """The outlet pressure at which the shaft power (W, counted into the stream) is met. Raises UnitFault."""
    from scipy.optimize import brentq

    if efficiency.temperature is not None:
        text = "Power and outlet temperature hardly depend on the outlet pressure, so it does not follow from them."
        raise UnitFault(text, "Give a pressure instead of one of them.", "outlet_temperature")
    if inlet.flow <= 0.0:
        raise UnitFault("There is no flow to take up the power.", "Give a flow at the feed, or a pressure instead of a power.", "power")
    low, high = (math.log(1e-4), 0.0) if expands else (0.0, math.log(1e3))

    def missing(log_ratio: float) -> float:
        outlet, _ = outlet_state(model, inlet.state, inlet.state.pressure * math.exp(log_ratio), efficiency, expands)
        return inlet.flow * (outlet.enthalpy - inlet.state.enthalpy) - power

    try:
        log_ratio = float(brentq(missing, low, high, xtol=1e-13, rtol=1e-14))
    except (ValueError, FlashError) as error:
        least = "a ten-thousandth" if expands else "one"
        text = f"No outlet pressure between {least} and a thousand times the inlet's meets {abs(power) / 1e3:.4g} kW."
        raise UnitFault(text, "Give another power, or a pressure.", "power") from error
    return inlet.state.pressure * math.exp(log_ratio)


MACHINE_PORTS = (Port("inlet", "Inlet", "in", place=(0.0, 0.5)), Port("outlet", "Outlet", "out", place=(1.0, 0.5)), *SHAFT_PORTS)


def machine_result(
    givens: Givens, inlet: StreamState, outlet: State, rise: float, sign: float, power_title: str, point: CurvePoint | None = None
) -> UnitResult:
    """Outlet, power and the values that both machines report; the power counts in the direction of ``sign``."""
    power = inlet.flow * (outlet.enthalpy - inlet.state.enthalpy)
    volume = inlet.state.molar_volume * inlet.flow
    real = outlet.enthalpy - inlet.state.enthalpy
    found = (rise / real if sign > 0.0 else real / rise) if real and rise else 1.0
    values: tuple[ResultValue, ...] = (
        ResultValue("power", power_title, "power", sign * power),
        ResultValue("outlet_pressure", "Outlet pressure", "pressure", outlet.pressure),
        ResultValue("pressure_change", "Pressure change", "pressure_difference", outlet.pressure - inlet.state.pressure),
        ResultValue("pressure_ratio", "Pressure ratio", "number", outlet.pressure / inlet.state.pressure),
        ResultValue("outlet_temperature", "Outlet temperature", "temperature", outlet.temperature),
        ResultValue("isentropic_power", "Isentropic power", "power", sign * inlet.flow * rise),
        ResultValue("suction_volume", "Volume flow at the inlet", "volume_flow", volume),
        ResultValue("efficiency", "Isentropic efficiency", "fraction", found),
        ResultValue("head", "Isentropic head", "head", sign * rise / inlet.state.molar_mass),
    )
    values += _polytropic(inlet.state, outlet, sign)
    outside, given = work_given(givens, power)
    findings: tuple[Finding, ...] = ()
    if efficiency_given(givens) and not 0.0 < found <= 1.0:
        text = f"The outlet at {outlet.temperature:.5g} K would need an isentropic efficiency of {100 * found:.4g} %, which no machine has."
        findings = (Finding("caution", "", text, f"At 100 % it leaves at {_ideal_temperature(inlet, outlet):.5g} K.", "outlet_temperature"),)
    findings += () if point is None else point.findings
    profiles = () if point is None else point.profiles
    return UnitResult({"outlet": StreamState(inlet.flow, outlet)}, outside, values, findings, profiles=profiles, energies=given)


def _polytropic(inlet: State, outlet: State, sign: float) -> tuple[ResultValue, ...]:
    """Exponent n of P V**n between both ends, and the work along that path: n/(n - 1) (P2 V2 - P1 V1); nothing where the pressure does not change."""
    ratio = outlet.pressure / inlet.pressure
    if abs(math.log(ratio)) < 1e-6 or not outlet.molar_volume > 0.0 or abs(math.log(inlet.molar_volume / outlet.molar_volume)) < 1e-9:
        return ()
    n = math.log(ratio) / math.log(inlet.molar_volume / outlet.molar_volume)
    ends = outlet.pressure * outlet.molar_volume - inlet.pressure * inlet.molar_volume
    # At an exponent of one the work is that of an isotherm.
    work = n / (n - 1.0) * ends if abs(n - 1.0) > 1e-9 else inlet.pressure * inlet.molar_volume * math.log(ratio)
    return (
        ResultValue("polytropic_exponent", "Polytropic exponent", "number", n),
        ResultValue("polytropic_head", "Polytropic head", "head", sign * work / inlet.molar_mass),
    )


def efficiency_given(givens: Givens) -> bool:
    """Whether the outlet temperature is given, from which the efficiency follows."""
    return givens.si("outlet_temperature") is not None


def _ideal_temperature(inlet: StreamState, outlet: State) -> float:
    state = inlet.state
    return state.model.flash(state.fractions, P=outlet.pressure, S=state.entropy, guess=state.temperature).temperature
