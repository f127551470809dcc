"""Flash drum: one equilibrium stage that parts vapour and liquid."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

from wattaxis.properties import FlashError
from wattaxis.quantities import Quantity
from wattaxis.unitops.base import (
    Choice,
    EnergyState,
    Field,
    Finding,
    Givens,
    Port,
    ResultValue,
    StreamState,
    UnitFault,
    UnitOperation,
    UnitResult,
    UnitSpec,
    mix_composition,
    outlet_pressure,
)
from wattaxis.unitops.energy.connections import HEAT_IN, VESSEL_HEAT_PORTS, heat_crossing, heat_given
from wattaxis.unitops.heat.thermal import NO_PRESSURE_LOSS, state_after_heat
from wattaxis.unitops.pressures import OUTLET_OR_CHANGE
from wattaxis.unitops.registry import unit_operation

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel, State


class DrumSpec(UnitSpec):
    """Pressure or pressure change; one of temperature, duty and vapour fraction."""

    outlet_pressure: Quantity | None = None
    pressure_change: Quantity | None = None
    temperature: Quantity | None = None
    duty: Quantity | None = None
    vapour_fraction: Quantity | None = None


@unit_operation
class FlashDrum(UnitOperation):
    """Vapour over liquid at equilibrium."""

    type = "drum"
    title = "Flash drum"
    symbol = "drum"
    letter = "V"
    also = ("vessel", "separator", "knock-out drum", "scrubber", "evaporator")
    family = "separation"
    theory = (
        "One equilibrium stage: the feed is flashed at the drum's pressure and its temperature, duty or vapour fraction (Rachford, Rice 1952). "
        "Solids settle with the liquid."
    )
    Spec = DrumSpec
    ports = (
        Port("inlet", "Inlet", "in", many=True, place=(0.0, 0.5)),
        Port("vapour", "Vapour", "out", place=(0.5, 0.0)),
        Port("liquid", "Liquid", "out", place=(0.5, 1.0)),
        *VESSEL_HEAT_PORTS,
    )
    fields = (
        Field("outlet_pressure", "Pressure", "pressure"),
        Field("pressure_change", "Pressure change", "pressure_difference", "drum minus inlet; a loss is negative"),
        Field("temperature", "Temperature", "temperature"),
        Field("duty", "Heat added", "power", "zero for an adiabatic drum"),
        Field("vapour_fraction", "Vapour fraction", "fraction"),
    )
    pressures = (OUTLET_OR_CHANGE,)
    choices = (
        Choice("Pressure", ("outlet_pressure", "pressure_change"), 1, ("pressure_change", NO_PRESSURE_LOSS, "no pressure loss was given")),
        Choice("Condition", ("temperature", "duty", "vapour_fraction"), port=HEAT_IN),
    )

    def barred(self, spec: UnitSpec, component: str, solid: bool) -> frozenset[str]:
        """Solids settle with the liquid."""
        return frozenset({"vapour"} if solid else ())

    def solve(self, givens: Givens, inlets: Mapping[str, Sequence[StreamState]], model: PropertyModel, outlets: frozenset[str]) -> UnitResult:
        """Flash and part the phases."""
        flash = flashed(givens, inlets["inlet"], model)
        share = flash.state.vapour_share
        parts = {
            "vapour": StreamState(flash.flow * share, flash.state.part("vapour")),
            "liquid": StreamState(flash.flow * (1.0 - share), flash.state.part("liquid")),
        }
        return flash.result(parts, (), _findings(flash.state.phase, flash.state.vapour_fraction))


@dataclass(frozen=True)
class Flashed:
    """The feeds of a vessel together, flashed: total flow (mol/s), state, heat from outside (W) and by streams, and what every vessel tells."""

    flow: float
    state: State
    heat: float
    values: tuple[ResultValue, ...]
    findings: tuple[Finding, ...]
    energies: dict[str, EnergyState]

    def result(self, parts: dict[str, StreamState], values: Sequence[ResultValue], findings: Sequence[Finding]) -> UnitResult:
        """The result of a vessel with such outlets, and what else it tells."""
        return UnitResult(parts, self.heat, (*self.values, *values), (*self.findings, *findings), energies=self.energies)


def flashed(givens: Givens, inlets: Sequence[StreamState], model: PropertyModel) -> Flashed:
    """Mix the inlets and flash them as a :class:`DrumSpec` asks. Raises UnitFault."""
    flowing = [s for s in inlets if s.flow > 0.0] or list(inlets[:1])
    total, z = mix_composition(flowing)
    lowest = min(s.state.pressure for s in flowing)
    pressure = outlet_pressure(givens, lowest)
    enthalpy_in = sum(s.enthalpy_flow for s in flowing)
    merged = flowing[0]
    if len(flowing) > 1:
        merged = StreamState(total, model.flash(z, P=lowest, H=enthalpy_in / total, guess=flowing[0].state.temperature))
    heat_by_stream = givens.power(HEAT_IN)
    temperature, duty = givens.si("temperature"), givens.si("duty") if heat_by_stream is None else heat_by_stream
    fraction = givens.si("vapour_fraction") if "vapour_fraction" in givens.fields else None
    try:
        if temperature is not None:
            state = model.flash(z, T=temperature, P=pressure)
        elif fraction is not None:
            state = model.flash(z, P=pressure, VF=fraction)
        else:
            state = state_after_heat(model, z, merged, pressure, float(duty or 0.0))
    except FlashError as error:
        field = "temperature" if temperature is not None else "vapour_fraction"
        raise UnitFault(str(error), "Give another temperature or pressure.", field) from error
    heat = total * state.enthalpy - enthalpy_in
    values = (
        ResultValue("temperature", "Temperature", "temperature", state.temperature),
        ResultValue("outlet_pressure", "Pressure", "pressure", pressure),
        ResultValue("pressure_change", "Pressure change", "pressure_difference", pressure - lowest),
        ResultValue("vapour_fraction", "Vapour fraction", "fraction", state.vapour_fraction),
        ResultValue("duty", "Heat added", "power", heat),
    )
    low, high = sorted((merged.state.temperature, state.temperature))
    findings = heat_crossing(givens, low, high)
    if pressure > lowest * (1 + 1e-9):
        text = f"The vessel at {pressure / 1e5:.4g} bar lies above its inlet at {lowest / 1e5:.4g} bar."
        findings.append(Finding("caution", "", text, "Give a lower pressure, or a pump upstream.", "outlet_pressure"))
    outside, given = heat_given(givens, heat, low, high)
    return Flashed(total, state, outside, values, tuple(findings), given)


def _findings(phase: str, beta: float) -> tuple[Finding, ...]:
    if phase.startswith("liquid and second liquid"):
        text = "Two liquids leave together by the liquid outlet: they do not mix at this temperature."
        return (Finding("caution", "", text, "A three-phase separator separates them."),)
    if beta == 0.0:
        return (Finding("note", "", "No vapour forms: everything leaves as liquid.", "Raise the temperature or lower the pressure."),)
    if beta == 1.0:
        return (Finding("note", "", "No liquid forms: everything leaves as vapour.", "Lower the temperature or raise the pressure."),)
    return ()
