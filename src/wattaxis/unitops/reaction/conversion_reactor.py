"""Conversion reactor: one reaction, as far as a given conversion of a base component."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

import numpy as np

from wattaxis.properties import FlashError
from wattaxis.quantities import Quantity
from wattaxis.unitops.base import (
    Ask,
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
    outlet_pressure,
)
from wattaxis.unitops.energy.connections import HEAT_IN, HEAT_PORTS, heat_crossing, heat_given
from wattaxis.unitops.heat.thermal import NO_PRESSURE_LOSS
from wattaxis.unitops.per_component import PerComponent
from wattaxis.unitops.pressures import OUTLET_OR_CHANGE
from wattaxis.unitops.registry import unit_operation

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel
    from wattaxis.reactions import ReactionSet


class ConversionReactorSpec(UnitSpec):
    """Stoichiometry (reactants negative), conversion of the base component, outlet temperature or duty, pressure."""

    stoichiometry: PerComponent | None = None
    base: str | None = None
    conversion: Quantity | None = None
    outlet_temperature: Quantity | None = None
    duty: Quantity | None = None
    outlet_pressure: Quantity | None = None
    pressure_change: Quantity | None = None


@unit_operation
class ConversionReactor(UnitOperation):
    """Fixed conversion; the heat of reaction follows from the enthalpies of formation."""

    type = "conversion-reactor"
    title = "Conversion reactor"
    symbol = "reactor"
    letter = "R"
    also = ("reactor", "converter")
    family = "reaction"
    theory = (
        "The conversion of the base component gives the extent of the reaction; where none is chosen it is the reactant that runs out first. "
        "Enthalpies count from the elements, so the heat of reaction needs no entry."
    )
    Spec = ConversionReactorSpec
    ports = (Port("inlet", "Inlet", "in", place=(0.0, 0.5)), Port("outlet", "Outlet", "out", place=(1.0, 0.5)), *HEAT_PORTS)
    fields = (
        Field("stoichiometry", "Stoichiometric number", "number", "negative for what is used up, positive for what is formed", each=True, known=True),
        Field("base", "Base component", "component", "whose conversion is given; blank: the reactant that runs out first"),
        Field("conversion", "Conversion", "fraction", "of the base component"),
        Field("outlet_temperature", "Outlet temperature", "temperature"),
        Field("duty", "Heat added", "power", "0: adiabatic"),
        Field("outlet_pressure", "Outlet pressure", "pressure"),
        Field("pressure_change", "Pressure change", "pressure_difference", "outlet minus inlet; a loss is negative"),
    )
    pressures = (OUTLET_OR_CHANGE,)
    choices = (
        Choice("Conversion", ("conversion",)),
        Choice("Heat", ("outlet_temperature", "duty"), port=HEAT_IN),
        Choice("Pressure", ("outlet_pressure", "pressure_change"), 1, ("pressure_change", NO_PRESSURE_LOSS, "no pressure loss was given")),
    )

    def asks(self, tag: str, spec: UnitSpec, component_ids: Sequence[str], connected: frozenset[str]) -> list[Ask]:
        """The choices, and a reaction."""
        found = super().asks(tag, spec, component_ids, connected)
        numbers = getattr(spec, "stoichiometry", None)
        if numbers is None or not any(q.value < 0 for q in numbers.values.values()):
            found.append(Ask(tag, f"{tag} needs the stoichiometric numbers of its reaction, negative for what is used up.", ("stoichiometry",)))
        return found

    def formed(self, spec: UnitSpec, reactions: Mapping[str, ReactionSet]) -> frozenset[str]:
        """Components with a positive stoichiometric number."""
        return _of_sign(spec, 1.0)

    def used_up(self, spec: UnitSpec, reactions: Mapping[str, ReactionSet]) -> frozenset[str]:
        """Components with a negative stoichiometric number."""
        return _of_sign(spec, -1.0)

    def solve(self, givens: Givens, inlets: Mapping[str, Sequence[StreamState]], model: PropertyModel, outlets: frozenset[str]) -> UnitResult:
        """Extent, then a flash at temperature or with the heat."""
        inlet = inlets["inlet"][0]
        ids = [c.id for c in model.components]
        numbers = givens.raw("stoichiometry").si(ids, "number", 0.0)
        made = _mass_made(numbers, model)
        used = [i for i in range(len(ids)) if numbers[i] < 0.0]
        if not used:
            raise UnitFault("The reactants are no longer among the components.", "Type the reaction again.", "stoichiometry")
        base, extent = _extent(givens, ids, numbers, inlet)
        flows = np.maximum(inlet.flows + extent * numbers, 0.0)
        total = float(flows.sum())
        pressure, duty, temperature = outlet_pressure(givens, inlet.state.pressure), givens.si("duty"), givens.si("outlet_temperature")
        if HEAT_IN in givens.energy:
            duty = givens.power(HEAT_IN)
        fractions = flows / total if total > 0.0 else inlet.state.fractions
        try:
            if temperature is not None:
                state = model.flash(fractions, T=temperature, P=pressure)
            else:
                enthalpy = (inlet.enthalpy_flow + (duty or 0.0)) / total if total > 0.0 else inlet.state.enthalpy
                state = model.flash(fractions, P=pressure, H=enthalpy, guess=inlet.state.temperature)
        except FlashError as error:
            text = f"The heat of the reaction leads to no temperature below 6000 K or above 15 K: {error}"
            raise UnitFault(text, "Give an outlet temperature, or a smaller conversion.", "conversion") from error
        outlet = StreamState(total, state)
        heat = outlet.enthalpy_flow - inlet.enthalpy_flow
        standard = sum(float(number) * c.formation_enthalpy for number, c in zip(numbers, model.components, strict=True))
        findings = []
        if extent == 0.0 and inlet.flow > 0.0:
            text = f"Nothing reacts: there is no {ids[base]} or no conversion."
            findings.append(Finding("caution", "", text, "Check feed and conversion.", "conversion"))
        if abs(extent * made) > 1e-8 * inlet.mass_flow:
            text = (
                f"The molar masses of the reaction differ by {1e3 * made:.2g} g/mol as far as they are known, and the mass balance is off by as much."
            )
            findings.append(Finding("note", "", text, "Give the own components molar masses with more digits.", "stoichiometry"))
        values = (
            ResultValue("duty", "Heat added", "power", heat),
            ResultValue("outlet_temperature", "Outlet temperature", "temperature", state.temperature),
            ResultValue("outlet_pressure", "Outlet pressure", "pressure", pressure),
            ResultValue("extent", "Extent of reaction", "mole_flow", extent),
            *_conversions(givens, base, ids, numbers, inlet, extent),
            ResultValue("heat_of_reaction", "Heat of reaction, gas, 298.15 K", "molar_enthalpy", standard),
        )
        # A reactor gives and takes its heat at the temperature it comes to.
        findings += heat_crossing(givens, state.temperature, state.temperature)
        outside, given = heat_given(givens, heat, state.temperature, state.temperature)
        return UnitResult({"outlet": outlet}, outside, values, tuple(findings), energies=given, mass_made=extent * made)


def _extent(givens: Givens, ids: Sequence[str], numbers: np.ndarray, inlet: StreamState) -> tuple[int, float]:
    """Place of the base component and extent (mol/s). Raises UnitFault where another reactant does not last."""
    last = {i: float(inlet.flows[i] / -numbers[i]) for i in range(len(ids)) if numbers[i] < 0.0}
    first = min(last, key=lambda i: last[i])
    chosen, conversion = givens.raw("base"), givens.si("conversion") or 0.0
    if chosen is None:
        return first, last[first] * conversion
    base = ids.index(chosen) if chosen in ids else -1
    if base not in last:
        text = f"{chosen}, the base component, is not used up by the reaction."
        raise UnitFault(text, f"Choose one of {', '.join(ids[i] for i in last)}, or none.", "base")
    extent = last[base] * conversion
    if extent > last[first] * (1.0 + 1e-12):
        most = last[first] / last[base]
        text = f"At this conversion of {chosen} there is not enough {ids[first]}: it suffices for {100.0 * most:.5g} %."
        raise UnitFault(text, f"Give a lower conversion, more {ids[first]}, or leave the base component open.", "conversion")
    return base, extent


def _conversions(givens: Givens, base: int, ids: Sequence[str], numbers: np.ndarray, inlet: StreamState, extent: float) -> list[ResultValue]:
    """How much of every other reactant is used up, and of the base component where it was not chosen."""
    found = []
    for i in range(len(ids)):
        if numbers[i] < 0.0 and inlet.flows[i] > 0.0 and (i != base or givens.raw("base") is None):
            found.append(ResultValue(f"conversion_{ids[i]}", f"Conversion of {ids[i]}", "fraction", float(-numbers[i] * extent / inlet.flows[i])))
    return found


def _mass_made(numbers: np.ndarray, model: PropertyModel) -> float:
    """kg/mol of reaction: a reaction makes no mass beyond what rounding leaves. Raises UnitFault with what is missing."""
    masses = numbers * model.molar_masses
    gap, size = float(masses.sum()), float(np.abs(masses).sum())
    if abs(gap) > 2e-4 * size:
        word = "more" if gap > 0 else "less"
        text = f"The products of the reaction weigh {abs(gap) * 1000:.4g} g/mol {word} than the reactants: the stoichiometric numbers do not balance."
        raise UnitFault(text, "Correct the stoichiometric numbers.", "stoichiometry")
    return gap


def _of_sign(spec: UnitSpec, sign: float) -> frozenset[str]:
    numbers = getattr(spec, "stoichiometry", None)
    return frozenset(c for c, number in numbers.values.items() if sign * number.value > 0.0) if numbers is not None else frozenset()
