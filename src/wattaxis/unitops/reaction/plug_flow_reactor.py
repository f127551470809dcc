"""Plug-flow reactor: rates along a tube or many, isothermal, adiabatic, heated evenly, or beside a coolant of one temperature."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

import numpy as np

from wattaxis.properties import FlashError
from wattaxis.properties.state import Phase, Vector
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
from wattaxis.unitops.energy.connections import HEAT_IN, HEAT_PORTS, heat_crossing, heat_given
from wattaxis.unitops.heat.thermal import NO_PRESSURE_LOSS
from wattaxis.unitops.pressures import OUTLET_OR_CHANGE
from wattaxis.unitops.profile import Profile, ProfileMark, ProfilePort, column
from wattaxis.unitops.reaction.kinetic import BASE, CATALYST, REACTIONS, Reacting, same_phase
from wattaxis.unitops.registry import unit_operation

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel

ADIABATIC, ISOTHERMAL, EVENLY, COOLANT = "adiabatic", "isothermal", "heat spread evenly", "coolant at one temperature"
#: Relative tolerance of the integration, and of extents against the feed.
TOLERANCE, LEAST = 1e-9, 1e-13
#: s of residence beyond which a conversion is not looked for, and rows of the profile.
LONGEST, ROWS = 1e7, 41
#: Times a length or volume is corrected for a pressure drop that belongs to all of it.
MOST_PASSES = 60


class PlugFlowReactorSpec(UnitSpec):
    """Reactions, how large or how far, how heat passes, pressure."""

    reactions: str | None = None
    volume: Quantity | None = None
    length: Quantity | None = None
    conversion: Quantity | None = None
    diameter: Quantity | None = None
    tubes: Quantity | None = None
    base: str | None = None
    heat: str | None = None
    duty: Quantity | None = None
    coolant_temperature: Quantity | None = None
    heat_transfer_coefficient: Quantity | None = None
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
    drafts = True
    theory = (
        "Every cross-section is well mixed and nothing mixes along the tube: dF/dV is the sum of the rates times their stoichiometric numbers, dH/dV "
        "the heat that comes in (Levenspiel 1999, chapter 5). All of it is in the phase of the reactions. The pressure falls evenly along the "
        "volume. Rates backward by thermodynamics come from the fugacities and the formation data."
    )
    Spec = PlugFlowReactorSpec
    ports = (Port("inlet", "Inlet", "in", place=(0.0, 0.5)), Port("outlet", "Outlet", "out", place=(1.0, 0.5)), *HEAT_PORTS)
    fields = (
        REACTIONS,
        Field("volume", "Volume", "volume", "of all tubes"),
        Field("length", "Length", "length", "of the tubes"),
        Field("conversion", "Conversion", "fraction", "of the base component at the outlet"),
        Field("diameter", "Inner diameter", "length", "of a tube"),
        Field("tubes", "Tubes", "number", "side by side", beside="diameter"),
        BASE,
        Field("heat", "Heat", "option", options=(ADIABATIC, ISOTHERMAL, EVENLY, COOLANT)),
        Field("duty", "Heat added", "power", "spread evenly over the volume"),
        Field("coolant_temperature", "Coolant temperature", "temperature"),
        Field("heat_transfer_coefficient", "Heat transfer coefficient", "heat_transfer_coefficient", "of the tube wall, on its inner area"),
        CATALYST,
        Field("outlet_pressure", "Outlet pressure", "pressure"),
        Field("pressure_change", "Pressure change", "pressure_difference", "outlet minus inlet; a loss is negative"),
    )
    pressures = (OUTLET_OR_CHANGE,)
    choices = (
        Choice("Reactions", ("reactions",)),
        Choice("Size", ("volume", "length", "conversion")),
        Choice("Heat", ("heat",), 1, ("heat", ADIABATIC, "no exchange of heat was given")),
        Choice("Pressure", ("outlet_pressure", "pressure_change"), 1, ("pressure_change", NO_PRESSURE_LOSS, "no pressure loss was given")),
    )

    def choices_of(self, spec: UnitSpec) -> tuple[Choice, ...]:
        """A length and a wall need a diameter; a coolant its temperature and a coefficient; heat spread evenly its amount."""
        heat = getattr(spec, "heat", None)
        more = []
        if getattr(spec, "length", None) is not None or heat == COOLANT:
            more.append(Choice("Diameter", ("diameter",)))
        if getattr(spec, "diameter", None) is not None:
            more.append(Choice("Tubes", ("tubes",), 1, ("tubes", Quantity(value=1.0, unit=""), "no number of tubes was given")))
        if heat == COOLANT:
            more += [Choice("Coolant", ("coolant_temperature",)), Choice("Heat transfer", ("heat_transfer_coefficient",))]
        if heat == EVENLY:
            more.append(Choice("Heat added", ("duty",), port=HEAT_IN))
        return (*self.choices, *more)

    def settles(self, port: str) -> bool:
        """How much heat comes in, in every way of exchange."""
        return port == HEAT_IN

    def solve(self, givens: Givens, inlets: Mapping[str, Sequence[StreamState]], model: PropertyModel, outlets: frozenset[str]) -> UnitResult:
        """Integrate, then find the state at the outlet by its energy."""
        inlet = inlets["inlet"][0]
        if inlet.flow <= 0.0:
            return UnitResult({"outlet": inlet}, findings=(Finding("caution", "", "Nothing comes in, so nothing reacts.", "Check the feed."),))
        reacting = Reacting(givens, inlet, model)
        same_phase(reacting, inlet)
        tube = _Tube(reacting, givens, outlet_pressure(givens, inlet.state.pressure))
        solved = tube.run()
        flows, heat = solved.flows[-1], float(solved.heat[-1])
        try:
            state = model.flash(reacting.spread(flows), P=tube.leaving, H=(inlet.enthalpy_flow + heat) / flows.sum(), guess=solved.T[-1])
        except FlashError as error:
            raise UnitFault(f"What leaves has no state: {error}", "Take out heat, or let less react.") from error
        outlet = StreamState(float(flows.sum()), state)
        heat = outlet.enthalpy_flow - inlet.enthalpy_flow
        # Where heat comes by a stream, the tube takes what it brings and nothing else.
        outside, given = heat_given(givens, heat, float(solved.T.min()), float(solved.T.max()))
        mass = reacting.mass_made(solved.extents[-1])
        if givens.draft:
            return UnitResult({"outlet": outlet}, outside, energies=given, mass_made=mass)
        findings = [
            *reacting.doubts(),
            *_findings(reacting, tube, solved, outlet),
            *heat_crossing(givens, float(solved.T.min()), float(solved.T.max())),
        ]
        values = (*_values(reacting, tube, solved, outlet, heat), *reacting.values(flows))
        return UnitResult({"outlet": outlet}, outside, values, tuple(findings), profiles=(tube.profile(solved),), energies=given, mass_made=mass)


@dataclass(frozen=True)
class _Along:
    """What the integration found at places along the volume: (rows,) each, extents and flows (rows, ...)."""

    volume: Vector
    extents: Vector
    flows: Vector
    heat: Vector
    T: Vector
    P: Vector
    phases: tuple[Phase, ...]


class _Tube:
    """The balances of a tube over its volume. The unknowns are the extents (mol/s) and the heat that came in (W)."""

    def __init__(self, reacting: Reacting, givens: Givens, leaving: float) -> None:
        self.reacting, self.leaving = reacting, leaving
        self.state = reacting.inlet.state
        self.entering, self.enthalpy = self.state.pressure, reacting.inlet.enthalpy_flow
        self.draft = givens.draft
        self.way = givens.option("heat") or ADIABATIC
        self.bore, tubes = givens.si("diameter"), givens.si("tubes")
        self.tubes = 1.0 if tubes is None else tubes
        self.coolant = givens.si("coolant_temperature")
        self.coolant_at = self.coolant or 0.0
        #: W/(m3 K), of the inner wall by the volume inside; the choices ask for diameter and coefficient.
        self.wall = 4.0 / self.bore * (givens.si("heat_transfer_coefficient") or 0.0) if self.bore else 0.0
        self.duty = givens.power(HEAT_IN) if HEAT_IN in givens.energy else givens.si("duty") if self.way == EVENLY else None
        if HEAT_IN in givens.energy and self.way != EVENLY:
            text = f"A stream brings heat, and the reactor is {self.way}."
            raise UnitFault(text, f'Choose "{EVENLY}", or disconnect the stream.', "heat")
        if self.bore is not None and not self.bore > 0.0:
            raise UnitFault("The tubes have no width.", "Give an inner diameter above 0.", "diameter")
        if not self.tubes > 0.0:
            raise UnitFault("There are no tubes.", "Give at least one.", "tubes")
        length = givens.si("length")
        self.total = givens.si("volume") if length is None else length * self.section
        self.wanted = givens.si("conversion")
        self._guess = self.state.temperature
        self._inlet_volume = reacting.phase(self.state.temperature, self.entering, reacting.feed).molar_volume * float(reacting.feed.sum())

    @property
    def section(self) -> float:
        """m2 of all tubes."""
        return math.pi / 4.0 * (self.bore or 0.0) ** 2 * self.tubes

    def pressure(self, volume: float, total: float) -> float:
        """Pa, falling evenly."""
        return self.entering + (self.leaving - self.entering) * (min(volume / total, 1.0) if total > 0.0 else 1.0)

    def local(self, volume: float, y: Vector, total: float) -> tuple[float, float, Vector, Phase]:
        """Temperature, pressure, flows and phase at a place."""
        flows, P = self.reacting.flows(y[:-1]), self.pressure(volume, total)
        if self.way == ISOTHERMAL:
            return self.state.temperature, P, flows, self.reacting.phase(self.state.temperature, P, flows)
        T, phase = self.reacting.temperature(self.enthalpy + y[-1], P, flows, self._guess)
        self._guess = T
        return T, P, flows, phase

    def slope(self, volume: float, y: Vector, total: float) -> Vector:
        """d/dV of the unknowns."""
        T, P, _, phase = self.local(volume, y, total)
        heat = 0.0
        if self.way == EVENLY:
            heat = (self.duty or 0.0) / total
        elif self.way == COOLANT:
            heat = self.wall * (self.coolant_at - T)
        return np.append(self.reacting.rates(phase, T, P), heat)

    def integrate(self, end: float, total: float, until: float | None = None) -> Any:
        """Over the volume up to ``end``, or until the base component is converted so far."""
        from scipy.integrate import solve_ivp  # late: it is not needed for a page

        reacting = self.reacting
        self._guess = self.state.temperature
        start = np.zeros(len(reacting.numbers) + 1)
        flow = float(reacting.feed.sum())
        # 8.314 J/(mol K) times a temperature: what a mole carries of heat at least.
        least = np.append(np.full(len(reacting.numbers), LEAST * flow), LEAST * flow * 8.314 * self.state.temperature)
        events = None
        if until is not None:

            def events(volume: float, y: Vector, total: float) -> float:
                return reacting.conversion(reacting.flows(y[:-1])) - until

            events.terminal = True  # type: ignore[attr-defined]
        found = solve_ivp(
            self.slope, (0.0, end), start, "LSODA", dense_output=not self.draft, events=events, args=(total,), rtol=TOLERANCE, atol=least
        )
        if found.status < 0:
            text = f"The integration along the tube ended at {found.t[-1]:.4g} m3: {found.message}"
            raise UnitFault(text, "Look at rates and constants: something there changes without limit.")
        return found

    def run(self) -> _Along:
        """The whole tube, as its size or its conversion says."""
        if self.wanted is None:
            assert self.total is not None  # the choices ask for one of the three
            total = self.total
            if total == 0.0:
                return self._at(np.zeros(1), np.zeros((1, len(self.reacting.numbers) + 1)), 0.0)
            found = self.integrate(total, total)
        else:
            found = self._until(self.wanted)
            self.total = total = float(found.t[-1])
        if self.draft:
            return self._at(found.t[-1:], found.y[:, -1:].T, total)
        places = np.union1d(np.linspace(0.0, total, ROWS), [total])
        rows = found.sol(places).T
        rows[0], rows[-1] = found.y[:, 0], found.y[:, -1]
        return self._at(places, rows, total)

    def _until(self, wanted: float) -> Any:
        """The integration up to a conversion. A pressure drop belongs to all of the volume, which is not known before."""
        reacting = self.reacting
        if reacting.feed[reacting.base] <= 0.0:
            raise UnitFault(f"There is no {reacting.ids[reacting.base]} in the feed.", "Choose another base component.", "base")
        if not 0.0 < wanted < 1.0:
            raise UnitFault("A tube comes to a conversion above 0 and below 1.", "Give such a conversion, or a size.", "conversion")
        if self.way == EVENLY:
            text = "Heat that is spread evenly over a volume that is not known cannot be added up."
            raise UnitFault(text, "Give a volume or a length, and let an aim find it.", "heat")
        end = LONGEST * self._inlet_volume
        # By the secant through (volume assumed, volume found): the pressure within depends on how large the whole is.
        assumed, before = end, None
        for _ in range(MOST_PASSES):
            found = self.integrate(end, assumed, wanted)
            if not found.t_events[0].size:
                most = reacting.conversion(reacting.flows(found.y[:-1, -1]))
                text = f"The conversion of {reacting.ids[reacting.base]} comes to {100 * most:.4g} % and no further, however large the reactor."
                raise UnitFault(text, "Give a lower conversion, or another temperature or pressure.", "conversion")
            gained = float(found.t[-1])
            if self.leaving == self.entering or abs(gained - assumed) <= 1e-10 * gained:
                return found
            steep = 0.0 if before is None or before[0] == assumed else (gained - before[1]) / (assumed - before[0])
            before = assumed, gained
            assumed = (gained - steep * assumed) / (1.0 - steep) if abs(steep) < 0.9 else gained
        raise UnitFault("No size was found at which the pressure drop and the conversion agree.", "Give a volume or a length.", "pressure_change")

    def _at(self, places: Vector, rows: Vector, total: float) -> _Along:
        there = [self.local(float(place), row, total) for place, row in zip(places, rows, strict=True)]
        flows = np.array([flow for _, _, flow, _ in there])
        enthalpy = np.array([phase.enthalpy * float(flow.sum()) for _, _, flow, phase in there])
        T, P = np.array([t for t, _, _, _ in there]), np.array([p for _, p, _, _ in there])
        return _Along(places, rows[:, :-1], flows, enthalpy - self.enthalpy, T, P, tuple(phase for _, _, _, phase in there))

    def residence(self, solved: _Along) -> float:
        """s that the fluid spends inside: the integral of dV over its volume flow."""
        flow = [phase.molar_volume * float(flows.sum()) for phase, flows in zip(solved.phases, solved.flows, strict=True)]
        return float(np.trapezoid(1.0 / np.array(flow), solved.volume)) if min(flow) > 0.0 else 0.0

    def profile(self, solved: _Along) -> Profile:
        """Temperature, pressure, composition, rates, conversion and the approach to equilibrium along the tube."""
        reacting, names = self.reacting, [r.name for r in self.reacting.kinetics.set.reactions]
        phases = solved.phases
        state = list(zip(phases, solved.T, solved.P, strict=True))
        rates = np.array([reacting.rates(phase, float(T), float(P)) for phase, T, P in state])
        cooled = self.way == COOLANT
        columns = [
            column("temperature", "Inside" if cooled else "Temperature", "temperature", solved.T, group="Temperature" if cooled else ""),
            column("pressure", "Pressure", "pressure", solved.P),
            column("conversion", f"Conversion of {reacting.ids[reacting.base]}", "fraction", [reacting.conversion(f) for f in solved.flows]),
            *(column("mole_fraction", "Mole fraction", "fraction", [p.fractions[i] for p in phases], name) for i, name in enumerate(reacting.ids)),
            *(column("rate", "Rate", "reaction_rate", rates[:, j], name) for j, name in enumerate(names)),
        ]
        if cooled:
            columns.insert(1, column("coolant", "Coolant", "temperature", np.full(len(phases), self.coolant_at), group="Temperature"))
        kinetics = reacting.kinetics
        lack = np.array([kinetics.quotients(phase, float(P)) - kinetics.equilibrium_constants(float(T)) for phase, T, P in state])
        share = np.exp(np.minimum(lack, 0.0))
        for j, reaction in enumerate(kinetics.set.reactions):
            if reaction.backward is not None:
                columns.append(column("equilibrium", "Share of equilibrium, Q/K", "fraction", share[:, j], reaction.name))
        long = self.section > 0.0
        places = solved.volume / self.section if long else solved.volume
        over = column("length", "Length", "length", places) if long else column("volume", "Volume", "volume", places)
        hot = int(np.argmax(solved.T))
        marks = (ProfileMark("Hot spot", "temperature", float(places[hot]), float(solved.T[hot])),) if 0 < hot < len(places) - 1 else ()
        ends = (ProfilePort("inlet", 0.0), ProfilePort("outlet", float(places[-1])))
        return Profile("tube", "Along the reactor", over, tuple(columns), marks, ends)


def _values(reacting: Reacting, tube: _Tube, solved: _Along, outlet: StreamState, heat: float) -> list[ResultValue]:
    total = float(solved.volume[-1])
    hot, time = int(np.argmax(solved.T)), tube.residence(solved)
    found = [
        ResultValue("duty", "Heat added", "power", heat),
        ResultValue("outlet_temperature", "Outlet temperature", "temperature", outlet.state.temperature),
        ResultValue("outlet_pressure", "Outlet pressure", "pressure", outlet.state.pressure),
        ResultValue("volume", "Volume", "volume", total),
        ResultValue("residence_time", "Residence time", "time", time),
        ResultValue("space_time", "Space time at the inlet", "time", total / tube._inlet_volume if tube._inlet_volume else 0.0),
        ResultValue("hottest", "Highest temperature", "temperature", float(solved.T[hot])),
        ResultValue("coldest", "Lowest temperature", "temperature", float(solved.T.min())),
    ]
    if tube.section > 0.0:
        found += [
            ResultValue("length", "Length", "length", total / tube.section),
            ResultValue("hot_spot", "Place of the highest temperature", "length", float(solved.volume[hot]) / tube.section),
            ResultValue("wall_area", "Inner wall area of all tubes", "area", 4.0 * total / (tube.bore or 1.0)),
        ]
    if tube.way == COOLANT and tube.coolant is not None:
        found.append(
            ResultValue("approach", "Nearest approach to the coolant", "temperature_difference", float(np.abs(solved.T - tube.coolant).min()))
        )
    found += [
        ResultValue("extent", "Extent", "mole_flow", float(solved.extents[-1, j]), reaction.name)
        for j, reaction in enumerate(reacting.kinetics.set.reactions)
    ]
    return found


def _findings(reacting: Reacting, tube: _Tube, solved: _Along, outlet: StreamState) -> list[Finding]:
    found = []
    kinds = {phase.kind for phase in outlet.state.phases}
    if len(kinds) > 1:
        text = f"What leaves is {outlet.state.phase}, and the tube was calculated as if all of it were {reacting.kinetics.phase}."
        found.append(Finding("caution", "", text, "Keep the reactor hotter or colder, so that it stays in one phase."))
    if outlet.flow > 0.0 and abs(outlet.state.temperature - solved.T[-1]) > 0.01 and len(kinds) == 1:
        text = f"All in one {reacting.kinetics.phase} it leaves at {solved.T[-1]:.5g} K; in its stable phase at {outlet.state.temperature:.5g} K."
        found.append(Finding("caution", "", text, "Look at the phases: the reactions may belong to the other one."))
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
