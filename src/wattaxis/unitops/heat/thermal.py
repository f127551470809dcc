"""What heater and cooler share: bringing one stream to a state given by temperature, duty or vapour fraction."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING, Any

from wattaxis.properties import FlashError
from wattaxis.properties.state import Vector
from wattaxis.quantities import Quantity
from wattaxis.unitops.base import Choice, Field, Finding, Givens, Port, ResultValue, StreamState, UnitFault, UnitResult, UnitSpec, outlet_pressure
from wattaxis.unitops.energy.connections import HEAT_IN, HEAT_PORTS, heat_crossing, heat_given
from wattaxis.unitops.pressures import PressureSide

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel, State

NO_PRESSURE_LOSS = Quantity(value=0.0, unit="bar")


class ThermalSpec(UnitSpec):
    """One of outlet temperature, temperature change, vapour fraction, superheat, subcooling and duty.

    One of outlet pressure, saturation temperature and pressure change.
    """

    outlet_temperature: Quantity | None = None
    temperature_change: Quantity | None = None
    duty: Quantity | None = None
    outlet_vapour_fraction: Quantity | None = None
    superheat: Quantity | None = None
    subcooling: Quantity | None = None
    outlet_pressure: Quantity | None = None
    saturation_temperature: Quantity | None = None
    pressure_change: Quantity | None = None


#: What a saturation temperature is for, by what happens at it.
SATURATION = {
    "evaporates": "for the pressure at which it evaporates to the end there",
    "condenses": "for the pressure at which all of it is condensed there",
}


def thermal_fields(duty_title: str, evaporates: bool) -> tuple[Field, ...]:
    """The fields of a heater, which ``evaporates``, or cooler, which condenses."""
    return (
        Field("outlet_temperature", "Outlet temperature", "temperature"),
        Field("temperature_change", "Temperature change", "temperature_difference", "outlet minus inlet; negative when it gets colder"),
        Field("duty", duty_title, "power"),
        Field("outlet_vapour_fraction", "Outlet vapour fraction", "fraction"),
        Field("superheat", "Superheat", "temperature_difference", "above the dew point"),
        Field("subcooling", "Subcooling", "temperature_difference", "below the bubble point"),
        Field("outlet_pressure", "Outlet pressure", "pressure"),
        Field("saturation_temperature", "Saturation temperature", "temperature", SATURATION["evaporates" if evaporates else "condenses"]),
        Field("pressure_change", "Pressure change", "pressure_difference", "outlet minus inlet; a loss is negative"),
    )


#: The pressure of what condenses, and of what evaporates.
CONDENSING = PressureSide("outlet_pressure", "pressure_change", saturation="saturation_temperature", saturated_at=0.0)
EVAPORATING = replace(CONDENSING, saturated_at=1.0)
PRESSURE_CHOICE = Choice(
    "Pressure",
    ("outlet_pressure", "saturation_temperature", "pressure_change"),
    1,
    ("pressure_change", NO_PRESSURE_LOSS, "no pressure loss was given"),
)
_OUTLET = ("outlet_temperature", "temperature_change", "duty", "outlet_vapour_fraction", "superheat", "subcooling")
THERMAL_CHOICES = (Choice("Outlet", _OUTLET, port=HEAT_IN), PRESSURE_CHOICE)
#: Of units that take their heat from a utility and not from a stream.
UTILITY_SIDE_CHOICES = (Choice("Outlet", _OUTLET), PRESSURE_CHOICE)
THERMAL_PORTS = (Port("inlet", "Inlet", "in", place=(0.0, 0.5)), Port("outlet", "Outlet", "out", place=(1.0, 0.5)), *HEAT_PORTS)


def solve_thermal(givens: Givens, inlet: StreamState, model: PropertyModel, sign: float, duty_title: str) -> UnitResult:
    """Outlet of a heater (``sign`` +1) or cooler (-1); the given and reported duty counts in that direction."""
    pressure = _pressure(givens, inlet.state, model, 1.0 if sign > 0 else 0.0)
    state = _outlet_state(givens, inlet, model, pressure, sign)
    outlet = StreamState(inlet.flow, state)
    heat = inlet.flow * (state.enthalpy - inlet.state.enthalpy)
    findings = []
    if sign * heat < -1e-6 * max(1.0, abs(inlet.enthalpy_flow)):
        does, other = ("cools", "cooler") if sign > 0 else ("heats", "heater")
        text = f"This {'heater' if sign > 0 else 'cooler'} {does} its stream by {abs(heat) / 1e3:.4g} kW."
        findings.append(Finding("caution", "", text, f"Check the outlet value, or use a {other}."))
    if pressure > inlet.state.pressure * (1 + 1e-9):
        change = givens.raw("pressure_change")
        repair: tuple[dict[str, Any], ...] = ()
        if change is not None:
            negative = {"pressure_change": {"value": -change.value, "unit": change.unit}}
            repair = ({"kind": "set_values", "unit": "", "values": negative},)
        rise = (pressure - inlet.state.pressure) / 1e5
        field = "pressure_change" if change is not None else "outlet_pressure"
        text = f"The pressure rises by {rise:.4g} bar from inlet to outlet, and there is no pump here."
        findings.append(Finding("caution", "", text, "A loss is typed as a negative change.", field, repair, "Make it a loss" if repair else ""))
    values = (
        ResultValue("duty", duty_title, "power", sign * heat),
        ResultValue("outlet_temperature", "Outlet temperature", "temperature", state.temperature),
        ResultValue("temperature_change", "Temperature change", "temperature_difference", state.temperature - inlet.state.temperature),
        ResultValue("outlet_vapour_fraction", "Outlet vapour fraction", "fraction", state.vapour_fraction),
        ResultValue("outlet_pressure", "Outlet pressure", "pressure", pressure),
        ResultValue("pressure_change", "Pressure change", "pressure_difference", pressure - inlet.state.pressure),
    )
    low, high = sorted((inlet.state.temperature, state.temperature))
    findings += heat_crossing(givens, low, high)
    outside, given = heat_given(givens, heat, low, high)
    return UnitResult({"outlet": outlet}, outside, values, tuple(findings), energies=given)


def _pressure(givens: Givens, inlet: State, model: PropertyModel, border: float) -> float:
    """Outlet pressure (Pa). Raises UnitFault."""
    boiling = givens.si("saturation_temperature")
    if boiling is None:
        return outlet_pressure(givens, inlet.pressure)
    return saturated_pressure(inlet, model, boiling, border, "saturation_temperature")


def saturated_pressure(inlet: State, model: PropertyModel, boiling: float, border: float, field: str) -> float:
    """Pa at which what enters boils (``border`` 0) or condenses (1) at a temperature (K). Raises UnitFault at ``field``."""
    try:
        return model.flash(inlet.fractions, T=boiling, VF=border).pressure
    except FlashError as error:
        raise UnitFault(str(error), "Give an outlet pressure instead.", field) from error


def beyond_saturation(model: PropertyModel, z: Vector, pressure: float, key: str, apart: float, field: str) -> State:
    """The state ``apart`` (K) above the dew point (``key`` superheat) or below the bubble point (subcooling). Raises UnitFault at ``field``."""
    border, way = (1.0, 1.0) if key == "superheat" else (0.0, -1.0)
    try:
        edge = model.flash(z, VF=border, P=pressure)
        if apart == 0.0:
            return edge
        if apart < 0.0 or edge.temperature + way * apart <= 0.0:
            raise UnitFault(f"A {key} of {apart:g} K is not possible.", "Give a value above zero.", field)
        return model.flash(z, T=edge.temperature + way * apart, P=pressure)
    except FlashError as error:
        raise UnitFault(str(error), "Give an outlet temperature instead.", field) from error


def _outlet_state(givens: Givens, inlet: StreamState, model: PropertyModel, pressure: float, sign: float) -> State:
    z = inlet.state.fractions
    duty, change, heat = givens.si("duty"), givens.si("temperature_change"), givens.power(HEAT_IN)
    if heat is not None:
        return state_after_heat(model, z, inlet, pressure, heat)
    fraction, temperature = givens.si("outlet_vapour_fraction"), givens.si("outlet_temperature")
    if change is not None:
        temperature = inlet.state.temperature + change
        if temperature <= 0.0:
            raise UnitFault(
                f"The temperature change would lead to {temperature:.4g} K, below absolute zero.", "Give a smaller change.", "temperature_change"
            )
    try:
        for key in ("superheat", "subcooling"):
            if (apart := givens.si(key)) is not None:
                return beyond_saturation(model, z, pressure, key, apart, key)
        if temperature is not None:
            return model.flash(z, T=temperature, P=pressure)
        if fraction is not None:
            return model.flash(z, VF=fraction, P=pressure)
    except FlashError as error:
        raise UnitFault(str(error), "Give an outlet temperature instead.", "outlet_vapour_fraction") from error
    assert duty is not None  # the asks made sure
    return state_after_heat(model, z, inlet, pressure, sign * duty)


def state_after_heat(model: PropertyModel, z: Vector, inlet: StreamState, pressure: float, heat: float) -> State:
    """The state of ``z`` at ``pressure`` after taking up ``heat`` (W). Raises UnitFault when no temperature can hold it."""
    if inlet.flow <= 0.0:
        if heat != 0.0:
            raise UnitFault("There is no flow to take up the duty.", "Give a flow at the feed, or a duty of zero.", "duty")
        return model.flash(z, P=pressure, H=inlet.state.enthalpy, guess=inlet.state.temperature)
    try:
        return model.flash(z, P=pressure, H=inlet.state.enthalpy + heat / inlet.flow, guess=inlet.state.temperature)
    except FlashError as error:
        word = "removes more heat than the stream can give off" if heat < 0 else "is more than the stream can take up below 6000 K"
        raise UnitFault(f"A duty of {abs(heat) / 1e3:.4g} kW {word}.", "Give a smaller duty or an outlet temperature.", "duty") from error
