"""Batch reactor: one charge after another, as the mean of a continuous sheet; how long, how many vessels, and how large."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
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
    ResultValue,
    StreamState,
    UnitFault,
    UnitOperation,
    UnitResult,
    UnitSpec,
    outlet_pressure,
)
from wattaxis.unitops.energy.connections import HEAT_IN, heat_crossing, heat_given
from wattaxis.unitops.pressures import OUTLET_OR_CHANGE
from wattaxis.unitops.profile import Profile, column
from wattaxis.unitops.reaction.kinetic import BASE, CATALYST, REACTIONS, Reacting, same_phase
from wattaxis.unitops.reaction.leaving import PORTS, PRESSURE, PRESSURE_FIELDS
from wattaxis.unitops.reaction.tube import ADIABATIC, ISOTHERMAL, LEAST, LONGEST, ROWS, TOLERANCE, TYPED, ending, far
from wattaxis.unitops.registry import unit_operation
from wattaxis.unitops.table import Column, GivenTable

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel

PROGRAMME = (Column("time", "Time", "time", "from the start of the reaction"), Column("temperature", "Temperature", "temperature"))
NO_TIME, ONE, FULL = Quantity(value=0.0, unit="h"), Quantity(value=1.0, unit=""), Quantity(value=75.0, unit="%")


class BatchReactorSpec(UnitSpec):
    """Reactions, how long or how far, temperatures, the times between charges, vessels, pressure."""

    reactions: str | None = None
    time: Quantity | None = None
    conversion: Quantity | None = None
    base: str | None = None
    heat: str | None = None
    temperatures: GivenTable | None = None
    time_between: Quantity | None = None
    vessels: Quantity | None = None
    filling: Quantity | None = None
    catalyst_density: Quantity | None = None
    outlet_pressure: Quantity | None = None
    pressure_change: Quantity | None = None


@unit_operation
class BatchReactor(UnitOperation):
    """The balances of a charge over time; all flows are means over the cycle."""

    type = "batch-reactor"
    title = "Batch reactor"
    symbol = "reactor"
    letter = "R"
    also = ("charge", "autoclave", "discontinuous", "kettle", "cycle time")
    family = "reaction"
    theory = (
        "A charge is well mixed and keeps its pressure, so its volume follows from what is in it: dN/dt is its volume times the sum of the rates "
        "(Levenspiel 1999, chapter 3). What comes in and leaves is the mean over the cycle, which is the time of the reaction and the time between "
        "two charges; the volume of the vessels is what flows in during a cycle, over their number and how full they are."
    )
    Spec = BatchReactorSpec
    ports = PORTS
    fields = (
        REACTIONS,
        Field("time", "Time of the reaction", "time"),
        Field("conversion", "Conversion", "fraction", "of the base component at the end"),
        BASE,
        Field("heat", "Heat", "option", options=(ADIABATIC, ISOTHERMAL, TYPED)),
        Field("temperatures", "Temperatures", "table", "kept beyond the last", beside="heat", among=(TYPED,), columns=PROGRAMME, most=50),
        Field("time_between", "Time between charges", "time", "to empty, clean, fill and heat"),
        Field("vessels", "Vessels", "count", "side by side"),
        Field("filling", "Filling", "fraction", "share of a vessel that the charge takes at most"),
        CATALYST,
        *PRESSURE_FIELDS,
    )
    pressures = (OUTLET_OR_CHANGE,)
    choices = (
        Choice("Reactions", ("reactions",)),
        Choice("End", ("time", "conversion")),
        Choice("Heat", ("heat",), 1, ("heat", ADIABATIC, "no exchange of heat was given")),
        Choice("Time between charges", ("time_between",), 1, ("time_between", NO_TIME, "none was given")),
        Choice("Vessels", ("vessels",), 1, ("vessels", ONE, "no number was given")),
        Choice("Filling", ("filling",), 1, ("filling", FULL, "room for vapour and stirring")),
        PRESSURE,
    )

    def choices_of(self, spec: UnitSpec) -> tuple[Choice, ...]:
        """A programme needs its temperatures."""
        return (*self.choices, Choice("Temperatures", ("temperatures",))) if getattr(spec, "heat", None) == TYPED else self.choices

    def solve(self, givens: Givens, inlets: Mapping[str, Sequence[StreamState]], model: PropertyModel, outlets: frozenset[str]) -> UnitResult:
        """Integrate over time, then find the state of what leaves by its energy."""
        inlet = inlets["inlet"][0]
        if inlet.flow <= 0.0:
            return UnitResult({"outlet": inlet}, findings=(Finding("caution", "", "Nothing comes in, so nothing reacts.", "Check the feed."),))
        if HEAT_IN in givens.energy:
            raise UnitFault("A stream brings heat, and a charge takes what its temperatures need.", "Disconnect the stream.", "heat")
        if not (givens.si("vessels") or 0.0) > 0.0:
            raise UnitFault("There are no vessels.", "Give at least one.", "vessels")
        if not 0.0 < (givens.si("filling") or 0.0) <= 1.0:
            raise UnitFault("A vessel is filled by more than nothing and by 100 % at most.", "Give such a filling.", "filling")
        reacting = Reacting(givens, inlet, model)
        same_phase(reacting, inlet)
        charge = _Charge(reacting, givens, outlet_pressure(givens, inlet.state.pressure))
        course = charge.run()
        flows, heat = course.flows[-1], float(course.heat[-1])
        try:
            state = model.flash(reacting.spread(flows), P=charge.P, H=(inlet.enthalpy_flow + heat) / flows.sum(), guess=course.T[-1])
        except FlashError as error:
            raise UnitFault(f"What leaves has no state: {error}", "Choose other temperatures, or let less react.") from error
        outlet = StreamState(float(flows.sum()), state)
        heat = outlet.enthalpy_flow - inlet.enthalpy_flow
        low, high = float(course.T.min()), float(course.T.max())
        outside, given = heat_given(givens, heat, low, high)
        findings = [*reacting.doubts(low, high), *_findings(reacting, givens, course, outlet), *heat_crossing(givens, low, high)]
        values = (*_values(charge, givens, course, outlet, heat), *reacting.values(flows))
        made = reacting.mass_made(course.extents[-1])
        return UnitResult({"outlet": outlet}, outside, values, tuple(findings), profiles=(_profile(charge, course),), energies=given, mass_made=made)


@dataclass(frozen=True)
class _Course:
    """A charge at times (rows,) s: all amounts are those of one second of the mean feed, mol and m3; heat J of it."""

    times: Vector
    extents: Vector
    flows: Vector
    heat: Vector
    T: Vector
    volume: Vector
    phases: tuple[Phase, ...]


class _Charge:
    """What comes in during a second, over the time of the reaction. The unknowns are the extents."""

    def __init__(self, reacting: Reacting, givens: Givens, pressure: float) -> None:
        self.reacting, self.P = reacting, pressure
        self.state, self.enthalpy = reacting.inlet.state, reacting.inlet.enthalpy_flow
        self.way = givens.option("heat") or ADIABATIC
        self.time, self.wanted = givens.si("time"), givens.si("conversion")
        self.temperatures = _programme(givens) if self.way == TYPED else None
        self._guess = self.state.temperature
        if self.wanted is not None and reacting.feed[reacting.base] <= 0.0:
            raise UnitFault(f"There is no {reacting.ids[reacting.base]} in the feed.", "Choose another base component.", "base")
        if self.wanted is not None and not 0.0 < self.wanted < 1.0:
            raise UnitFault("A charge comes to a conversion above 0 and below 1.", "Give such a conversion, or a time.", "conversion")

    def local(self, time: float, extents: Vector) -> tuple[float, Vector, Phase]:
        """Temperature, amounts and phase at a time."""
        flows = self.reacting.flows(extents)
        if self.way == ADIABATIC:
            self._guess, phase = self.reacting.temperature(self.enthalpy, self.P, flows, self._guess)
            return self._guess, flows, phase
        T = self.state.temperature if self.temperatures is None else self.temperatures(time)
        return T, flows, self.reacting.phase(T, self.P, flows)

    def slope(self, time: float, extents: Vector) -> Vector:
        """d/dt of the extents."""
        T, flows, phase = self.local(time, extents)
        return self.reacting.rates(phase, T, self.P) * float(flows.sum()) * phase.molar_volume

    def integrate(self, end: float) -> Any:
        """Up to a time, or until what is wanted is reached."""
        from scipy.integrate import solve_ivp  # late: it is not needed for a page

        reacting, wanted = self.reacting, self.wanted
        self._guess = self.state.temperature
        start = np.zeros(len(reacting.numbers))
        events = None if wanted is None else [ending(lambda time, y, total: reacting.conversion(reacting.flows(y)) - wanted)]
        found = solve_ivp(
            lambda time, y, total: self.slope(time, y), (0.0, end), start, "LSODA", dense_output=True, events=events, args=(end,),
            rtol=TOLERANCE, atol=LEAST * float(reacting.feed.sum()),
        )  # fmt: skip
        if found.status < 0:
            text = f"The integration over time ended at {found.t[-1]:.4g} s: {found.message}"
            raise UnitFault(text, "Look at rates and constants: something there changes without limit.")
        return found

    def run(self) -> _Course:
        """The whole course of the reaction."""
        if self.time == 0.0:
            return self._at(np.zeros(1), np.zeros((1, len(self.reacting.numbers))))
        if self.wanted is None:
            assert self.time is not None  # the choices ask for one of the two
            found = self.integrate(self.time)
        else:
            found = far(self.integrate, LONGEST)
            if not found.t_events[0].size:
                name, most = self.reacting.ids[self.reacting.base], self.reacting.conversion(self.reacting.flows(found.y[:, -1]))
                text = f"The conversion of {name} comes to {100 * most:.4g} % and no further, however long the reaction."
                raise UnitFault(text, "Give a lower conversion, or other temperatures.", "conversion")
        times = np.linspace(0.0, float(found.t[-1]), ROWS)
        rows = found.sol(times).T
        rows[0], rows[-1] = found.y[:, 0], found.y[:, -1]
        return self._at(times, rows)

    def _at(self, times: Vector, rows: Vector) -> _Course:
        extents = np.array([self.reacting.possible(row) for row in rows])
        there = [self.local(float(time), row) for time, row in zip(times, extents, strict=True)]
        flows = np.array([flow for _, flow, _ in there])
        phases = tuple(phase for _, _, phase in there)
        total = flows.sum(axis=1)
        enthalpy = np.array([phase.enthalpy for phase in phases]) * total
        volume = np.array([phase.molar_volume for phase in phases]) * total
        return _Course(times, extents, flows, enthalpy - self.enthalpy, np.array([T for T, _, _ in there]), volume, phases)


def _programme(givens: Givens) -> Callable[[float], float]:
    """K over time, straight between the points and kept beyond them. Raises UnitFault for points that make no programme."""
    table, field = givens.raw("temperatures"), givens.fields["temperatures"]
    times, T = (table.si(column) for column in field.columns)
    if not len(times) or not (np.isfinite(times).all() and np.isfinite(T).all()) or (np.diff(times) <= 0.0).any():
        text = "A programme of temperatures has rows with a time and a temperature each, and the times rise."
        raise UnitFault(text, "Fill them in, in their order.", "temperatures")
    return lambda time: float(np.interp(time, times, T))


def _profile(charge: _Charge, course: _Course) -> Profile:
    reacting = charge.reacting
    rates = np.array([reacting.rates(phase, float(T), charge.P) for phase, T in zip(course.phases, course.T, strict=True)])
    columns = [
        column("temperature", "Temperature", "temperature", course.T),
        column("conversion", f"Conversion of {reacting.ids[reacting.base]}", "fraction", [reacting.conversion(f) for f in course.flows]),
        *(column("mole_fraction", "Mole fraction", "fraction", [p.fractions[i] for p in course.phases], reacting.ids[i]) for i in reacting.there),
        *(column("rate", "Rate", "reaction_rate", rates[:, j], r.name) for j, r in enumerate(reacting.kinetics.set.reactions)),
    ]
    return Profile("course", "Over the time of the reaction", column("time", "Time", "time", course.times), tuple(columns))


def _values(charge: _Charge, givens: Givens, course: _Course, outlet: StreamState, heat: float) -> list[ResultValue]:
    time = float(course.times[-1])
    cycle = time + (givens.si("time_between") or 0.0)
    vessels, filling = givens.si("vessels") or 1.0, givens.si("filling") or 1.0
    # What flows in during a cycle is charged once; where it is largest it still has to have room.
    charged = float(course.volume.max()) * cycle / vessels
    return [
        ResultValue("duty", "Mean heat added", "power", heat),
        ResultValue("outlet_temperature", "Temperature at the end", "temperature", outlet.state.temperature),
        ResultValue("outlet_pressure", "Outlet pressure", "pressure", charge.P),
        ResultValue("time", "Time of the reaction", "time", time),
        ResultValue("cycle_time", "Time of a cycle", "time", cycle),
        ResultValue("charge_volume", "Largest volume of a charge", "volume", charged),
        ResultValue("vessel_volume", "Volume of a vessel", "volume", charged / filling),
        ResultValue("hottest", "Highest temperature", "temperature", float(course.T.max())),
        ResultValue("coldest", "Lowest temperature", "temperature", float(course.T.min())),
        *(
            ResultValue("extent", "Mean extent", "mole_flow", float(course.extents[-1, j]), reaction.name)
            for j, reaction in enumerate(charge.reacting.kinetics.set.reactions)
        ),
    ]


def _findings(reacting: Reacting, givens: Givens, course: _Course, outlet: StreamState) -> list[Finding]:
    found = []
    vessels = givens.si("vessels") or 1.0
    if vessels != round(vessels):
        text = f"{vessels:.6g} vessels were calculated; {math.ceil(vessels)} can be built."
        found.append(Finding("note", "", text, "Type a whole number once the size is settled.", "vessels"))
    if reacting.kinetics.phase == "vapour":
        text = "The charge is a gas and was calculated at one pressure; in a closed vessel its volume stays and its pressure changes."
        found.append(Finding("caution", "", text, "Take the result as that of a gas held at its pressure."))
    kinds = {phase.kind for phase in outlet.state.phases}
    if len(kinds) > 1:
        text = f"At the end the charge is {outlet.state.phase}, and it was calculated as if all of it were {reacting.kinetics.phase}."
        found.append(Finding("caution", "", text, "Choose other temperatures or a higher pressure, so that it stays in one phase."))
    if not np.any(np.abs(course.extents[-1]) > 1e-9 * reacting.feed.sum()):
        text = f"Next to nothing reacts at {course.T[-1]:.5g} K in {course.times[-1]:.4g} s."
        found.append(Finding("caution", "", text, "Check constants, temperatures and time."))
    return found
