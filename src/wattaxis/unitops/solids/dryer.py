"""Dryer: liquid driven out of wet solids, by heat alone or into a gas that flows over them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from wattaxis.properties import FlashError
from wattaxis.quantities import Quantity
from wattaxis.unitops.base import (
    Choice,
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
from wattaxis.unitops.energy.connections import HEAT_IN, heat_crossing, heat_given, heat_ports
from wattaxis.unitops.registry import unit_operation
from wattaxis.unitops.separation.drum import FlashDrum
from wattaxis.unitops.solids.laden import MOISTURE, liquid_with, mass_of, moisture_left, moisture_value, parts_of

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel, State
    from wattaxis.properties.state import Vector


class DryerSpec(UnitSpec):
    """Moisture of the product; temperature or heat; the dust that the gas takes along; pressure or pressure change."""

    moisture: Quantity | None = None
    dust: Quantity | None = None
    temperature: Quantity | None = None
    duty: Quantity | None = None
    outlet_pressure: Quantity | None = None
    pressure_change: Quantity | None = None


@unit_operation
class Dryer(UnitOperation):
    """To a moisture."""

    type = "dryer"
    title = "Dryer"
    symbol = "dryer"
    letter = "D"
    also = ("evaporator",)
    family = "solids"
    theory = (
        "The solids leave with the given moisture, of the composition that the liquid of the wet solids has; the rest of it leaves with the "
        "gas. Product and exhaust have one temperature, from the heat balance or given; that the exhaust can hold the vapour is checked by a flash."
    )
    Spec = DryerSpec
    ports = (
        Port("inlet", "Wet solids", "in", place=(0.0, 0.3)),
        Port("gas", "Drying gas", "in", needed=False, place=(0.0, 0.75)),
        Port("exhaust", "Exhaust", "out", place=(0.5, 0.0)),
        Port("product", "Dry solids", "out", place=(1.0, 0.75)),
        *heat_ports((0.3, 1.0), (0.7, 1.0)),
    )
    fields = (
        MOISTURE,
        Field("temperature", "Temperature", "temperature", "of product and exhaust"),
        Field("dust", "Dust in the exhaust", "fraction", "share of the solids that the gas takes along"),
        Field("duty", "Heat added", "power", "zero where the gas supplies all of it"),
        *(f for f in FlashDrum.fields if f.key in ("outlet_pressure", "pressure_change")),
    )
    pressures = FlashDrum.pressures
    choices = (
        Choice("Product", ("moisture",)),
        Choice("Condition", ("temperature", "duty"), port=HEAT_IN),
        Choice("Dust", ("dust",), 1, ("dust", Quantity(value=0.0, unit="%"), "no dust was given")),
        FlashDrum.choices[0],
    )

    def barred(self, spec: UnitSpec, component: str, solid: bool) -> frozenset[str]:
        """Without dust all solids are product; without moisture nothing else is."""
        dust, moisture = (getattr(spec, key) for key in ("dust", "moisture"))
        if solid:
            return frozenset({"exhaust"} if dust is None or dust.value == 0.0 else ())
        return frozenset({"product"} if moisture is not None and moisture.value == 0.0 else ())

    def solve(self, givens: Givens, inlets: Mapping[str, Sequence[StreamState]], model: PropertyModel, outlets: frozenset[str]) -> UnitResult:
        """Part solids and moisture from the rest, then the temperature of both."""
        wet, gases = inlets["inlet"][0], list(inlets.get("gas", ()))
        entering = [wet, *gases]
        total, z = mix_composition(entering)
        lowest = min(s.state.pressure for s in entering)
        pressure, heat_in = outlet_pressure(givens, lowest), sum(s.enthalpy_flow for s in entering)
        wanted = givens.si("moisture") or 0.0
        if wanted >= 1.0:
            raise UnitFault("A product without solids is not dry.", "Give a moisture below 1.", "moisture")
        _, liquid, solids = parts_of(wet)
        solids = np.sum([solids, *(parts_of(s)[2] for s in gases)], axis=0) * (1.0 - (givens.si("dust") or 0.0))
        share, findings = moisture_left(wanted, liquid, solids, wet.state)
        kept = _Kept(wet.state, liquid * share, solids, pressure)
        rest = (total * z - kept.flows).clip(min=0.0)
        given, by_stream = givens.si("temperature"), givens.power(HEAT_IN)
        duty = givens.si("duty") if by_stream is None else by_stream
        try:
            if given is not None:
                exhaust = model.flash(rest, T=given, P=pressure) if rest.sum() > 0.0 else wet.state
                temperature = given
            else:
                temperature, exhaust = _balanced(model, kept, rest, pressure, heat_in + (duty or 0.0), wet.state.temperature)
        except FlashError as error:
            text = f"No temperature of product and exhaust satisfies the heat balance: {error}"
            raise UnitFault(text, "Give a temperature, or another heat.", "duty") from error
        product = kept.at(temperature)
        parts = {"exhaust": StreamState(float(rest.sum()), exhaust), "product": product}
        heat = sum(s.enthalpy_flow for s in parts.values()) - heat_in
        low, high = sorted((wet.state.temperature, temperature))
        findings += [*heat_crossing(givens, low, high), *_told(exhaust, float(rest.sum()), gases)]
        values = (
            ResultValue("temperature", "Temperature", "temperature", temperature),
            ResultValue("duty", "Heat added", "power", heat),
            ResultValue("evaporated", "Liquid driven out", "mass_flow", mass_of(liquid * (1.0 - share), wet.state)),
            ResultValue("outlet_pressure", "Pressure", "pressure", pressure),
            moisture_value(product),
        )
        outside, energies = heat_given(givens, heat, low, high)
        return UnitResult(parts, outside, values, tuple(findings), energies=energies)


@dataclass(frozen=True)
class _Kept:
    """What leaves with the solids: liquid as in a state, and solids (mol/s)."""

    like: State
    liquid: Vector
    solids: Vector
    pressure: float

    @property
    def flows(self) -> Vector:
        return self.liquid + self.solids

    def at(self, temperature: float) -> StreamState:
        """At a temperature (K); the moisture stays liquid, bound to the solids."""
        found = liquid_with(self.like, self.liquid, self.solids)
        state = type(self.like)(
            self.like.model, temperature, self.pressure, found.state.light_fraction, found.state.fractions, found.state.liquid_fractions,
            found.state.vapour_fractions, found.state.two_liquids, 0.0, found.state.second_liquid_fractions,
        )  # fmt: skip
        state.root = found.state.root
        return StreamState(found.flow, state)


def _balanced(model: PropertyModel, kept: _Kept, rest: Vector, pressure: float, energy: float, guess: float) -> tuple[float, State]:
    """Temperature (K) of product and exhaust that holds the energy (W), and the exhaust. Raises FlashError."""
    from wattaxis.properties.solids import rising_root

    flow = float(rest.sum())

    def surplus(t: float) -> float:
        return (flow * model.flash(rest, T=t, P=pressure).enthalpy if flow > 0.0 else 0.0) + kept.at(t).enthalpy_flow - energy

    t = rising_root(surplus, guess)
    if flow <= 0.0:
        return t, kept.like
    exhaust = model.flash(rest, P=pressure, H=(energy - kept.at(t).enthalpy_flow) / flow, guess=t)
    return exhaust.temperature, exhaust


def _told(exhaust: State, flow: float, gases: Sequence[StreamState]) -> list[Finding]:
    if flow <= 0.0 or exhaust.vapour_fraction >= 1.0 - 1e-9:
        return []
    text = f"{100 * (1.0 - exhaust.vapour_fraction):.3g} % of what should leave as vapour is liquid: the exhaust cannot hold it."
    return [Finding("caution", "", text, f"{'More or drier gas, more' if gases else 'More'} heat, or a higher temperature.", "duty")]
