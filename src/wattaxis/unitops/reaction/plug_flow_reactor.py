"""Plug-flow reactor: rates along a tube or many, isothermal, adiabatic, heated evenly, or beside a coolant of one temperature."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING, Any

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
    outlet_pressure,
)
from wattaxis.unitops.energy.connections import HEAT_IN, heat_crossing, heat_given
from wattaxis.unitops.pressures import PressureSide
from wattaxis.unitops.profile import Profile, ProfileMark, ProfilePort, column
from wattaxis.unitops.reaction.boiling import BOILING
from wattaxis.unitops.reaction.boiling import CHOICES as BOILER_CHOICES
from wattaxis.unitops.reaction.boiling import FIELDS as BOILER_FIELDS
from wattaxis.unitops.reaction.coolant import Coolant
from wattaxis.unitops.reaction.kinetic import BASE, CATALYST, REACTIONS, Reacting, same_phase
from wattaxis.unitops.reaction.leaving import PORTS, PRESSURE, PRESSURE_FIELDS
from wattaxis.unitops.reaction.tube import (
    ADIABATIC,
    AS_GIVEN,
    BED,
    CO_CURRENT,
    COOLANT,
    COUNTER_CURRENT,
    EVENLY,
    FRICTION,
    ISOTHERMAL,
    STREAMS,
    THROUGH_WALL,
    TYPED,
    Along,
    Tube,
)
from wattaxis.unitops.registry import unit_operation
from wattaxis.unitops.table import Column, GivenTable

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel

TEMPERATURES = (
    Column("place", "Share of the volume", "fraction", "0 at the inlet, 1 at the outlet"),
    Column("temperature", "Temperature", "temperature"),
)
OUTSIDE = (
    Port("outside_in", "Outside, inlet", "in", place=(0.3, 0.0)),
    Port("outside_out", "Outside, outlet", "out", place=(0.7, 1.0)),
)
WITH_FILMS: dict[str, Any] = {"beside": "outside_coefficient", "or_beside": "shell_diameter"}
WALL = (
    Choice("Wall", ("wall_thickness",), 1, ("wall_thickness", Quantity(value=2.0, unit="mm"), "a usual tube was assumed")),
    Choice("Metal", ("wall_conductivity",), 1, ("wall_conductivity", Quantity(value=45.0, unit="W/m/K"), "carbon steel was assumed")),
    Choice("Fouling", ("fouling_resistance",), 1, ("fouling_resistance", Quantity(value=0.0, unit="m2*K/W"), "clean tubes were assumed")),
)
#: Of spheres poured at random (Ergun 1952), and of drawn steel (Colebrook 1939).
USUAL_VOIDAGE, DRAWN = Quantity(value=40.0, unit="%"), Quantity(value=0.045, unit="mm")


class PlugFlowReactorSpec(UnitSpec):
    """Reactions, how large or how far, how heat passes, pressure."""

    reactions: str | None = None
    volume: Quantity | None = None
    length: Quantity | None = None
    conversion: Quantity | None = None
    outlet_temperature: Quantity | None = None
    diameter: Quantity | None = None
    tubes: Quantity | None = None
    base: str | None = None
    heat: str | None = None
    duty: Quantity | None = None
    coolant_temperature: Quantity | None = None
    steam_pressure: Quantity | None = None
    feed_water_temperature: Quantity | None = None
    heat_transfer_coefficient: Quantity | None = None
    outside_coefficient: Quantity | None = None
    shell_diameter: Quantity | None = None
    wall_thickness: Quantity | None = None
    wall_conductivity: Quantity | None = None
    fouling_resistance: Quantity | None = None
    temperatures: GivenTable | None = None
    pressure_loss: str | None = None
    particle_diameter: Quantity | None = None
    voidage: Quantity | None = None
    roughness: Quantity | None = None
    catalyst_density: Quantity | None = None
    outlet_pressure: Quantity | None = None
    pressure_change: Quantity | None = None


@unit_operation
class PlugFlowReactor(UnitOperation):
    """The balances of every reaction and of energy, integrated over the volume."""

    type = "plug-flow-reactor"
    title = "Plug-flow reactor"
    symbol = "reactor"
    letter = "R"
    also = ("tubular reactor", "tube", "kinetic reactor", "packed bed", "multi-tube reactor")
    family = "reaction"
    drafts = drafts_tell_faults = True
    theory = (
        "Every cross-section is well mixed and nothing mixes along the tube: dF/dV is the sum of the rates times their stoichiometric numbers, dH/dV "
        "the heat that comes in (Levenspiel 1999, chapter 5). All of it is in the phase of the reactions. The pressure falls evenly along the "
        "volume, or by friction in the tubes (Colebrook 1939) or in a bed of particles (Ergun 1952). Rates backward by thermodynamics come from the "
        "fugacities and the formation data. A stream outside the tubes keeps its pressure. Water that boils outside is fed as much as it makes "
        "steam (IAPWS-IF97). With a coefficient outside alone, that of the film inside follows from the flow, by Gnielinski (1976) in empty tubes "
        "and by Leva (1949) in packed ones; in a shell without baffles that outside by Gnielinski with the "
        "hydraulic diameter, for the stream as it comes in."
    )
    Spec = PlugFlowReactorSpec
    ports = PORTS
    fields = (
        REACTIONS,
        Field("volume", "Volume", "volume", "of all tubes"),
        Field("length", "Length", "length", "of the tubes"),
        Field("conversion", "Conversion", "fraction", "of the base component at the outlet"),
        Field("outlet_temperature", "Outlet temperature", "temperature", "at which the tubes end"),
        Field("diameter", "Inner diameter", "length", "of a tube"),
        Field("tubes", "Tubes", "count", "side by side", beside="diameter"),
        BASE,
        Field("heat", "Heat", "option", options=(ADIABATIC, ISOTHERMAL, EVENLY, TYPED, COOLANT, BOILING, CO_CURRENT, COUNTER_CURRENT)),
        Field("duty", "Heat added", "power", "spread evenly over the volume", beside="heat", among=(EVENLY,)),
        Field("coolant_temperature", "Coolant temperature", "temperature", beside="heat", among=(COOLANT,)),
        *BOILER_FIELDS,
        Field(
            "heat_transfer_coefficient",
            "Heat transfer coefficient",
            "heat_transfer_coefficient",
            "of the tube wall, on its inner area",
            beside="heat",
            among=THROUGH_WALL,
        ),
        Field(
            "outside_coefficient",
            "Coefficient outside",
            "heat_transfer_coefficient",
            "of the film outside, on the outer area; that of the film inside follows from the flow",
            beside="heat",
            among=THROUGH_WALL,
        ),
        Field(
            "shell_diameter",
            "Inner diameter of the shell",
            "length",
            "without baffles: the films on both sides follow from the flows",
            beside="heat",
            among=STREAMS,
        ),
        Field("wall_thickness", "Wall thickness", "length", **WITH_FILMS),
        Field("wall_conductivity", "Conductivity of the wall", "conductivity", **WITH_FILMS),
        Field("fouling_resistance", "Fouling", "heat_transfer_resistance", "of both sides, on the inner area", **WITH_FILMS),
        Field("temperatures", "Temperatures", "table", "from the inlet to the outlet", beside="heat", among=(TYPED,), columns=TEMPERATURES, most=50),
        CATALYST,
        Field("pressure_loss", "Pressure loss", "option", options=(AS_GIVEN, FRICTION, BED)),
        Field("particle_diameter", "Particle diameter", "length", "of spheres of the same surface and volume", beside="pressure_loss", among=(BED,)),
        Field("voidage", "Voidage", "fraction", "share of the bed that is empty", beside="pressure_loss", among=(BED,)),
        Field("roughness", "Roughness", "length", "of the inside of the tubes", beside="pressure_loss", among=(FRICTION,)),
        *PRESSURE_FIELDS,
    )
    pressures = (
        PressureSide("outlet_pressure", "pressure_change", ports=("inlet", "outlet")),
        PressureSide(key="outside_"),
    )
    choices = (
        Choice("Reactions", ("reactions",)),
        Choice("Size", ("volume", "length", "conversion", "outlet_temperature")),
        Choice("Heat", ("heat",), 1, ("heat", ADIABATIC, "no exchange of heat was given")),
        Choice("Pressure loss", ("pressure_loss",), 1, ("pressure_loss", AS_GIVEN, "it was not said how it follows")),
        PRESSURE,
    )

    def ports_of(self, spec: UnitSpec) -> tuple[Port, ...]:
        """A stream outside the tubes has ports where there is one."""
        return (*self.ports, *OUTSIDE) if getattr(spec, "heat", None) in STREAMS else self.ports

    def choices_of(self, spec: UnitSpec) -> tuple[Choice, ...]:
        """A length, a wall and a pressure loss by flow need a diameter; what brings heat needs what belongs to it."""
        heat, loss = getattr(spec, "heat", None), getattr(spec, "pressure_loss", None)
        more = []
        if getattr(spec, "length", None) is not None or heat in THROUGH_WALL or loss in (FRICTION, BED):
            more.append(Choice("Diameter", ("diameter",)))
        if getattr(spec, "diameter", None) is not None:
            more.append(Choice("Tubes", ("tubes",), 1, ("tubes", Quantity(value=1.0, unit=""), "no number of tubes was given")))
        if heat == COOLANT:
            more.append(Choice("Coolant", ("coolant_temperature",)))
        if heat == BOILING:
            more += BOILER_CHOICES
        if heat in THROUGH_WALL:
            films = ("outside_coefficient", "shell_diameter") if heat in STREAMS else ("outside_coefficient",)
            more.append(Choice("Heat transfer", ("heat_transfer_coefficient", *films)))
            if any(getattr(spec, key, None) is not None for key in films):
                more += WALL
        if heat == EVENLY:
            more.append(Choice("Heat added", ("duty",), port=HEAT_IN))
        if heat == TYPED:
            more.append(Choice("Temperatures", ("temperatures",)))
        if loss == BED:
            more += [Choice("Particles", ("particle_diameter",)), Choice("Voidage", ("voidage",), 1, ("voidage", USUAL_VOIDAGE, "spheres lie so"))]
        if loss == FRICTION:
            more.append(Choice("Roughness", ("roughness",), 1, ("roughness", DRAWN, "drawn steel tubes were assumed")))
        kept = self.choices if loss in (None, AS_GIVEN) else tuple(choice for choice in self.choices if choice is not PRESSURE)
        return (*kept, *more)

    def excess(self, tag: str, spec: UnitSpec, connected: frozenset[str] = frozenset()) -> list[Finding]:
        """A pressure that is typed beside one that follows from the flow is one too many."""
        found = super().excess(tag, spec, connected)
        typed = [key for key in PRESSURE.fields if getattr(spec, key) is not None]
        if typed and getattr(spec, "pressure_loss", None) in (FRICTION, BED):
            text = f"The pressure of {tag} follows from its flow, and is typed too."
            repair = ({"kind": "set_values", "unit": tag, "values": dict.fromkeys(typed)},)
            found.append(Finding("fault", tag, text, "Clear what is typed, or choose a loss as typed.", typed[0], repair, "Let it follow"))
        return found

    def settles(self, port: str) -> bool:
        """How much heat comes in, in every way of exchange."""
        return port == HEAT_IN

    def solve(self, givens: Givens, inlets: Mapping[str, Sequence[StreamState]], model: PropertyModel, outlets: frozenset[str]) -> UnitResult:
        """Integrate, then find the state at the outlet by its energy."""
        inlet, beside = inlets["inlet"][0], inlets.get("outside_in", [None])[0]
        leaving = {"outlet": inlet} if beside is None else {"outlet": inlet, "outside_out": beside}
        if inlet.flow <= 0.0:
            return UnitResult(leaving, findings=(Finding("caution", "", "Nothing comes in, so nothing reacts.", "Check the feed."),))
        reacting = Reacting(givens, inlet, model)
        same_phase(reacting, inlet)
        known = None if givens.hint is None else givens.hint[1]
        outside = None if beside is None or beside.flow <= 0.0 else Coolant(model, beside, inlet.state.temperature, known)
        tube = Tube(reacting, givens, outlet_pressure(givens, inlet.state.pressure), outside)
        solved = tube.run()
        flows, heat = solved.flows[-1], float(solved.heat[-1])
        try:
            state = model.flash(reacting.spread(flows), P=float(solved.P[-1]), H=(inlet.enthalpy_flow + heat) / flows.sum(), guess=solved.T[-1])
        except FlashError as error:
            raise UnitFault(f"What leaves has no state: {error}", "Take out heat, or let less react.") from error
        outlet = StreamState(float(flows.sum()), state)
        heat = outlet.enthalpy_flow - inlet.enthalpy_flow
        leaving["outlet"] = outlet
        # Where heat comes by a stream, the tube takes what it brings and nothing else.
        taken, given = heat_given(givens, heat, float(solved.T.min()), float(solved.T.max()))
        if outside is not None:
            leaving["outside_out"] = outside.leaves(-heat)
            taken = heat + leaving["outside_out"].enthalpy_flow - outside.inlet.enthalpy_flow
        mass = reacting.mass_made(solved.extents[-1])
        hint = None if outside is None else (tube.hint, outside.known)
        if givens.draft:
            return UnitResult(leaving, taken, energies=given, mass_made=mass, hint=hint)
        findings = [
            *reacting.doubts(float(solved.T.min()), float(solved.T.max())),
            *_findings(reacting, tube, solved, outlet),
            *_dry(beside),
            *(tube.boiler.findings(-heat) if tube.boiler is not None else ()),
            *(tube.shell.findings(leaving["outside_out"]) if tube.shell is not None else ()),
            *heat_crossing(givens, float(solved.T.min()), float(solved.T.max())),
        ]
        values = (*_values(reacting, tube, solved, outlet, heat), *reacting.values(flows))
        return UnitResult(leaving, taken, values, tuple(findings), profiles=(_profile(tube, solved),), energies=given, mass_made=mass, hint=hint)


def _dry(beside: StreamState | None) -> list[Finding]:
    """A finding where there is a stream outside the tubes, and nothing of it."""
    if beside is None or beside.flow > 0.0:
        return []
    text = "Nothing flows on the outside of the tubes: they were calculated without exchange of heat."
    return [Finding("caution", "", text, "Give that stream a flow.")]


def _profile(tube: Tube, solved: Along) -> Profile:
    """Temperature, pressure, composition, rates, conversion and the approach to equilibrium along the tube."""
    reacting, names = tube.reacting, [r.name for r in tube.reacting.kinetics.set.reactions]
    phases = solved.phases
    state = list(zip(phases, solved.T, solved.P, strict=True))
    rates = np.array([reacting.rates(phase, float(T), float(P)) for phase, T, P in state])
    cooled = tube.way in THROUGH_WALL
    columns = [
        column("temperature", "Inside" if cooled else "Temperature", "temperature", solved.T, group="Temperature" if cooled else ""),
        column("pressure", "Pressure", "pressure", solved.P),
        column("conversion", f"Conversion of {reacting.ids[reacting.base]}", "fraction", [reacting.conversion(f) for f in solved.flows]),
        *(column("mole_fraction", "Mole fraction", "fraction", [p.fractions[i] for p in phases], reacting.ids[i]) for i in reacting.there),
        *(column("rate", "Rate", "reaction_rate", rates[:, j], name) for j, name in enumerate(names)),
    ]
    if tube.resistance is not None:
        there = zip(phases, solved.T, solved.P, solved.flows, solved.outside, strict=True)
        wall = [tube.coefficient(float(T), float(P), flows, phase, bool(other > T))[0] for phase, T, P, flows, other in there]
        columns.append(column("heat_transfer_coefficient", "Heat transfer coefficient", "heat_transfer_coefficient", wall))
    if cooled:
        columns.insert(1, column("coolant", "Outside", "temperature", solved.outside, group="Temperature"))
    kinetics = reacting.kinetics
    lack = np.array([kinetics.quotients(phase, float(P)) - kinetics.equilibrium_constants(float(T)) for phase, T, P in state])
    share = np.exp(np.minimum(lack, 0.0))
    for j, reaction in enumerate(kinetics.set.reactions):
        if reaction.backward is not None:
            columns.append(column("equilibrium", "Share of equilibrium, Q/K", "fraction", share[:, j], reaction.name))
    long = tube.section > 0.0
    places = solved.volume / tube.section if long else solved.volume
    over = column("length", "Length", "length", places) if long else column("volume", "Volume", "volume", places)
    hot = int(np.argmax(solved.T))
    marks = (ProfileMark("Hot spot", "temperature", float(places[hot]), float(solved.T[hot])),) if 0 < hot < len(places) - 1 else ()
    first, last = 0.0, float(places[-1])
    ends = [ProfilePort("inlet", first), ProfilePort("outlet", last)]
    if tube.way in STREAMS:
        enters, leaves = (first, last) if tube.way == CO_CURRENT else (last, first)
        ends += [ProfilePort("outside_in", enters, 1), ProfilePort("outside_out", leaves, 1)]
    return Profile("tube", "Along the reactor", over, tuple(columns), marks, tuple(ends))


def _values(reacting: Reacting, tube: Tube, solved: Along, outlet: StreamState, heat: float) -> list[ResultValue]:
    total = float(solved.volume[-1])
    hot, time = int(np.argmax(solved.T)), tube.residence(solved)
    found = [
        ResultValue("duty", "Heat added", "power", heat),
        ResultValue("outlet_temperature", "Outlet temperature", "temperature", outlet.state.temperature),
        ResultValue("outlet_pressure", "Outlet pressure", "pressure", outlet.state.pressure),
        ResultValue("volume", "Volume", "volume", total),
        ResultValue("residence_time", "Residence time", "time", time),
        ResultValue("space_time", "Space time at the inlet", "time", total / tube.inlet_volume if tube.inlet_volume else 0.0),
        ResultValue("hottest", "Highest temperature", "temperature", float(solved.T[hot])),
        ResultValue("coldest", "Lowest temperature", "temperature", float(solved.T.min())),
    ]
    if tube.section > 0.0:
        found += [
            ResultValue("length", "Length", "length", total / tube.section),
            ResultValue("hot_spot", "Place of the highest temperature", "length", float(solved.volume[hot]) / tube.section),
            ResultValue("wall_area", "Inner wall area of all tubes", "area", 4.0 * total / (tube.bore or 1.0)),
        ]
    if tube.way in THROUGH_WALL:
        nearest = float(np.abs(solved.T - solved.outside).min())
        if tube.resistance is not None and abs(heat) > 0.0:
            driven = float(np.trapezoid(solved.outside - solved.T, solved.volume)) * 4.0 / (tube.bore or 1.0)
            found.append(ResultValue("heat_transfer_coefficient", "Heat transfer coefficient, mean", "heat_transfer_coefficient", heat / driven))
        if tube.shell is not None:
            found.append(ResultValue("outside_coefficient", "Coefficient outside", "heat_transfer_coefficient", tube.shell.film))
        if tube.boiler is not None:
            found += tube.boiler.values(-heat)
        found.append(ResultValue("approach", "Nearest approach to what is outside", "temperature_difference", nearest))
    found += [
        ResultValue("extent", "Extent", "mole_flow", float(solved.extents[-1, j]), reaction.name)
        for j, reaction in enumerate(reacting.kinetics.set.reactions)
    ]
    return found


def _findings(reacting: Reacting, tube: Tube, solved: Along, outlet: StreamState) -> list[Finding]:
    found = []
    kinds = {phase.kind for phase in outlet.state.phases}
    if len(kinds) > 1:
        text = f"What leaves is {outlet.state.phase}, and the tube was calculated as if all of it were {reacting.kinetics.phase}."
        found.append(Finding("caution", "", text, "Keep the reactor hotter or colder, so that it stays in one phase."))
    if outlet.flow > 0.0 and abs(outlet.state.temperature - solved.T[-1]) > 0.01 and len(kinds) == 1:
        text = f"All in one {reacting.kinetics.phase} it leaves at {solved.T[-1]:.5g} K; in its stable phase at {outlet.state.temperature:.5g} K."
        found.append(Finding("caution", "", text, "Look at the phases: the reactions may belong to the other one."))
    if tube.loss == BED:
        low, high = tube.bed_reynolds(solved)
        if low < 1.0 or high > 2500.0:
            text = f"The Reynolds number of the bed is {low:.3g} to {high:.3g}; Ergun's equation rests on measurements from 1 to 2500."
            found.append(Finding("note", "", text, "Take its pressure loss as an estimate.", "particle_diameter"))
    if tube.resistance is not None:
        for k in (0, -1):
            place, heats = solved.phases[k], bool(solved.outside[k] > solved.T[k])
            doubt = tube.coefficient(float(solved.T[k]), float(solved.P[k]), solved.flows[k], place, heats)[1]
            if doubt:
                text = f"The film inside the tubes is calculated for {doubt}."
                found.append(Finding("caution", "", text, "Take the heat transfer as an estimate, or give a coefficient.", "outside_coefficient"))
                break
    if tube.tubes != round(tube.tubes):
        text = f"{tube.tubes:.6g} tubes were calculated; {math.ceil(tube.tubes)} can be built."
        found.append(Finding("note", "", text, "Type a whole number once the size is settled.", "tubes"))
    gone = [name for i, name in enumerate(reacting.ids) if reacting.feed[i] > 0.0 and solved.flows[-1, i] < 1e-9 * reacting.feed[i]]
    if gone:
        found.append(Finding("note", "", f"{' and '.join(gone)} runs out inside the reactor.", "Behind that place it does nothing more."))
    if not np.any(np.abs(solved.extents[-1]) > 1e-9 * reacting.feed.sum()):
        text = f"Next to nothing reacts at {solved.T[-1]:.5g} K in {solved.volume[-1]:.4g} m3."
        found.append(Finding("caution", "", text, "Check constants, temperature and volume."))
    return found
