"""Decanter: two liquids that part by density, without a vapour space."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

from wattaxis.quantities import Quantity
from wattaxis.unitops.base import Choice, Finding, Givens, Port, ResultValue, StreamState, UnitOperation, UnitResult, UnitSpec
from wattaxis.unitops.energy.connections import HEAT_IN, heat_ports
from wattaxis.unitops.registry import unit_operation
from wattaxis.unitops.separation.drum import FlashDrum, flashed
from wattaxis.unitops.separation.three_phase_separator import parted

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel


class DecanterSpec(UnitSpec):
    """Pressure or pressure change; temperature or duty."""

    outlet_pressure: Quantity | None = None
    pressure_change: Quantity | None = None
    temperature: Quantity | None = None
    duty: Quantity | None = None


@unit_operation
class Decanter(UnitOperation):
    """Light over heavy liquid."""

    type = "decanter"
    title = "Decanter"
    symbol = "decanter"
    letter = "V"
    also = ("settler", "separator")
    family = "separation"
    theory = (
        "One equilibrium stage of two liquids at the vessel's pressure and its temperature or duty; they are separated "
        "by density, completely. A vapour that forms leaves with the light liquid and is reported."
    )
    Spec = DecanterSpec
    ports = (
        Port("inlet", "Inlet", "in", many=True, place=(0.0, 0.5)),
        Port("light", "Light liquid", "out", place=(1.0, 0.3)),
        Port("heavy", "Heavy liquid", "out", place=(0.5, 1.0)),
        *heat_ports((0.0, 0.9), (1.0, 0.9)),
    )
    fields = tuple(f for f in FlashDrum.fields if f.key != "vapour_fraction")
    pressures = FlashDrum.pressures
    choices = (FlashDrum.choices[0], Choice("Condition", ("temperature", "duty"), port=HEAT_IN))

    def barred(self, spec: UnitSpec, component: str, solid: bool) -> frozenset[str]:
        """Solids settle with the heavy liquid."""
        return frozenset({"light"} if solid else ())

    def solve(self, givens: Givens, inlets: Mapping[str, Sequence[StreamState]], model: PropertyModel, outlets: frozenset[str]) -> UnitResult:
        """Flash and part the liquids; the light outlet is what the heavy one leaves."""
        flash = flashed(givens, inlets["inlet"], model)
        light, heavy, two = parted(flash.state)
        beta = flash.state.vapour_share
        rest = flash.flow * flash.state.fractions - flash.flow * heavy[0] * heavy[1].fractions
        above = light[1]
        if beta > 0.0:
            above = model.flash(rest.clip(min=0.0), T=flash.state.temperature, P=flash.state.pressure)
        parts = {"light": StreamState(flash.flow * (light[0] + beta), above), "heavy": StreamState(flash.flow * heavy[0], heavy[1])}
        values = (ResultValue("light_share", "Light liquid, share of the feed", "fraction", light[0]),)
        findings = []
        if not two:
            text = "The liquid does not separate here: all of it leaves by the heavy outlet."
            findings.append(Finding("note", "", text, "Try another temperature, or a model that describes two liquids."))
        if beta > 1e-9:
            text = f"{100 * beta:.3g} % of the feed is vapour, which a decanter cannot separate: it leaves with the light liquid."
            findings.append(Finding("caution", "", text, "Cool the feed, raise the pressure, or use a three-phase separator."))
        return flash.result(parts, values, findings)
