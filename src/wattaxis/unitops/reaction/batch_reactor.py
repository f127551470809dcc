"""Batch reactor: one charge after another, as the mean of a continuous sheet; how long, how many vessels, and how large."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Any

import numpy as np

from wattaxis.properties import FlashError
from wattaxis.properties.layout import R
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
from wattaxis.unitops.reaction.tube import ADIABATIC, COOLANT, EVENLY, ISOTHERMAL, LEAST, LONGEST, ROWS, TOLERANCE, TYPED, ending, far
from wattaxis.unitops.registry import unit_operation
from wattaxis.unitops.table import Column, GivenTable

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel

PROGRAMME = (Column("time", "Time", "time", "from the start of the reaction"), Column("temperature", "Temperature", "temperature"))
#: s from where on, and factor by which, a time is looked for that agrees with the heat that a charge gets in it; how near it is looked for, and
#: how near it has to be (both of its logarithm).
FIRST, WIDER, AGREES, AGREED = 3600.0, 8.0, 1e-10, 1e-8
#: What stays while a charge reacts.
PRESSURE_STAYS, VOLUME_STAYS = "pressure", "volume"
#: Share of the pressure to which it is found that fills a closed vessel, and how often it is corrected; step, of what changes, for slopes.
_FILLED, _CORRECTIONS, _STEP = 1e-12, 60, 1e-6
NO_TIME, ONE, FULL = Quantity(value=0.0, unit="h"), Quantity(value=1.0, unit=""), Quantity(value=75.0, unit="%")


class BatchReactorSpec(UnitSpec):
    """Reactions, how long or how far, whether pressure or volume stays, heat or temperatures, the times between charges, vessels, pressure."""

    reactions: str | None = None
    time: Quantity | None = None
    conversion: Quantity | None = None
    base: str | None = None
    kept: str | None = None
    heat: str | None = None
    duty: Quantity | None = None
    coolant_temperature: Quantity | None = None
    conductance: Quantity | None = None
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
        "A charge is well mixed, and dN/dt is its volume times the sum of the rates (Levenspiel 1999, chapter 3). It keeps its pressure, so that its "
        "volume follows from what is in it; or a gas keeps its volume in a closed vessel, where its internal energy changes by the heat alone, and "
        "its pressure follows. What leaves a closed vessel expands to the outlet pressure and pushes nothing, so that over a cycle its enthalpy is "
        "that of the feed and the heat. What comes in and leaves is the mean over the cycle, which is the time of the reaction and the time between "
        "two charges; the volume of the vessels is what flows in during a cycle, over their number and how full they are. A coolant keeps its "
        "temperature and takes coefficient times area times the difference from each vessel; the shorter the cycle, the smaller a charge and the "
        "more of it per mole."
    )
    Spec = BatchReactorSpec
    ports = PORTS
    fields = (
        REACTIONS,
        Field("time", "Time of the reaction", "time"),
        Field("conversion", "Conversion", "fraction", "of the base component at the end"),
        BASE,
        Field("kept", "Kept while it reacts", "option", "a gas in a closed vessel keeps its volume", options=(PRESSURE_STAYS, VOLUME_STAYS)),
        Field("heat", "Heat", "option", options=(ADIABATIC, ISOTHERMAL, EVENLY, COOLANT, TYPED)),
        Field("duty", "Mean heat added", "power", "over the cycle, spread evenly over the time of the reaction", beside="heat", among=(EVENLY,)),
        Field("coolant_temperature", "Coolant temperature", "temperature", "or that of what heats", beside="heat", among=(COOLANT,)),
        Field("conductance", "Coolant: coefficient times area", "conductance", "of a vessel", beside="heat", among=(COOLANT,)),
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
        Choice("Kept while it reacts", ("kept",), 1, ("kept", PRESSURE_STAYS, "no closed vessel was chosen")),
        Choice("Heat", ("heat",), 1, ("heat", ADIABATIC, "no exchange of heat was given")),
        Choice("Time between charges", ("time_between",), 1, ("time_between", NO_TIME, "none was given")),
        Choice("Vessels", ("vessels",), 1, ("vessels", ONE, "no number was given")),
        Choice("Filling", ("filling",), 1, ("filling", FULL, "room for vapour and stirring")),
        PRESSURE,
    )

    def choices_of(self, spec: UnitSpec) -> tuple[Choice, ...]:
        """What belongs to the way of heating and cooling."""
        more = {
            TYPED: (Choice("Temperatures", ("temperatures",)),),
            EVENLY: (Choice("Heat added", ("duty",), port=HEAT_IN),),
            COOLANT: (Choice("Coolant", ("coolant_temperature",)), Choice("Heat transfer", ("conductance",))),
        }
        return (*self.choices, *more.get(getattr(spec, "heat", None) or "", ()))

    def solve(self, givens: Givens, inlets: Mapping[str, Sequence[StreamState]], model: PropertyModel, outlets: frozenset[str]) -> UnitResult:
        """Integrate over time, then find the state of what leaves by its energy."""
        inlet = inlets["inlet"][0]
        if inlet.flow <= 0.0:
            return UnitResult({"outlet": inlet}, findings=(Finding("caution", "", "Nothing comes in, so nothing reacts.", "Check the feed."),))
        if HEAT_IN in givens.energy and givens.option("heat") != EVENLY:
            text = f"A stream brings heat, and the reactor is {givens.option('heat') or ADIABATIC}."
            raise UnitFault(text, f'Choose "{EVENLY}", or disconnect the stream.', "heat")
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
        findings = [*reacting.doubts(low, high), *_findings(charge, givens, course, outlet), *heat_crossing(givens, low, high)]
        values = (*_values(charge, givens, course, outlet, heat), *reacting.values(flows))
        made = reacting.mass_made(course.extents[-1])
        return UnitResult({"outlet": outlet}, outside, values, tuple(findings), profiles=(_profile(charge, course),), energies=given, mass_made=made)


@dataclass(frozen=True)
class _Course:
    """A charge at times (rows,) s: all amounts are those of one second of the mean feed, mol and m3; heat J of it, and how fast it comes in W."""

    times: Vector
    extents: Vector
    flows: Vector
    heat: Vector
    T: Vector
    volume: Vector
    P: Vector
    phases: tuple[Phase, ...]
    rates: Vector
    heating: Vector


class _Charge:
    """What comes in during a second, over the time of the reaction. The unknowns are the extents, and the heat where it goes with the temperature."""

    def __init__(self, reacting: Reacting, givens: Givens, pressure: float) -> None:
        self.reacting, self.P = reacting, pressure
        self.state, self.enthalpy = reacting.inlet.state, reacting.inlet.enthalpy_flow
        self.way = givens.option("heat") or ADIABATIC
        self.time, self.wanted = givens.si("time"), givens.si("conversion")
        self.between, self.vessels = givens.si("time_between") or 0.0, givens.si("vessels") or 1.0
        self.duty = (givens.power(HEAT_IN) if HEAT_IN in givens.energy else givens.si("duty")) or 0.0
        self.coolant, self.conductance = givens.si("coolant_temperature") or 0.0, givens.si("conductance") or 0.0
        self.temperatures = _programme(givens) if self.way == TYPED else None
        self._guess, self._pressed = self.state.temperature, pressure
        #: m3 that what comes in during a second keeps in a closed vessel; None where it keeps its pressure.
        self.closed: float | None = None
        self._refuse(givens.option("kept"))
        if givens.option("kept") == VOLUME_STAYS:
            start = reacting.temperature(self.enthalpy, pressure, reacting.feed, self._guess)[1]
            self.closed = float(reacting.feed.sum()) * start.molar_volume

    def _refuse(self, kept: str | None) -> None:
        reacting = self.reacting
        if self.wanted is not None and reacting.feed[reacting.base] <= 0.0:
            raise UnitFault(f"There is no {reacting.ids[reacting.base]} in the feed.", "Choose another base component.", "base")
        if self.wanted is not None and not 0.0 < self.wanted < 1.0:
            raise UnitFault("A charge comes to a conversion above 0 and below 1.", "Give such a conversion, or a time.", "conversion")
        if self.way == EVENLY and self.time == 0.0 and self.duty:
            raise UnitFault("In no time no heat can be added.", "Give a time above 0.", "time")
        if kept == VOLUME_STAYS and reacting.kinetics.phase != "vapour":
            text = "A liquid leaves room for vapour in its vessel, and only a gas keeps the volume."
            raise UnitFault(text, f'Choose "{PRESSURE_STAYS}".', "kept")

    @property
    def exchanging(self) -> bool:
        """Whether the heat is one of the unknowns."""
        return self.way in (EVENLY, COOLANT)

    def cycle(self, time: float) -> float:
        """s from one charge to the next, where the reaction takes so long."""
        return time + self.between

    def heating(self, T: float, lasts: float) -> float:
        """W into what comes in during a second, at T (K), where the reaction ``lasts`` s."""
        if self.way == EVENLY:
            return self.duty / lasts
        return self.conductance * (self.coolant - T) * self.vessels / self.cycle(lasts) if self.way == COOLANT else 0.0

    def local(self, time: float, y: Vector) -> tuple[float, float, Vector, Phase]:
        """Temperature, pressure, amounts and phase at a time."""
        count = len(self.reacting.numbers)
        flows = self.reacting.flows(y[:count])
        if self.way == ADIABATIC or self.exchanging:
            return self._by_energy(self.enthalpy + (float(y[count]) if self.exchanging else 0.0), flows)
        T = self.state.temperature if self.temperatures is None else self.temperatures(time)[0]
        return self._held(T, flows)

    def _by_energy(self, enthalpy: float, flows: Vector) -> tuple[float, float, Vector, Phase]:
        """By the enthalpy (J) that it would have at the pressure of the start: in a closed vessel volume times rise of pressure comes to that."""

        def at(P: float) -> tuple[float, Phase]:
            self._guess, phase = self.reacting.temperature(enthalpy + (self.closed or 0.0) * (P - self.P), P, flows, self._guess)
            return self._guess, phase

        return self._filling(at, flows)

    def _held(self, T: float, flows: Vector) -> tuple[float, float, Vector, Phase]:
        return self._filling(lambda P: (T, self.reacting.phase(T, P, flows)), flows)

    def _filling(self, at: Callable[[float], tuple[float, Phase]], flows: Vector) -> tuple[float, float, Vector, Phase]:
        """At the pressure, where it is the volume that stays: by secants in ln P of the volume over that of the vessel, ideal gases at once."""
        if self.closed is None:
            T, phase = at(self.P)
            return T, self.P, flows, phase
        logP, before = math.log(self._pressed), None
        total = float(flows.sum())
        for _ in range(_CORRECTIONS):
            P = math.exp(logP)
            T, phase = at(P)
            off = math.log(total * phase.molar_volume / self.closed)
            slope = -1.0 if before is None or before[0] == logP else (off - before[1]) / (logP - before[0])
            if abs(off) <= _FILLED:
                self._pressed = P
                return T, P, flows, phase
            before = logP, off
            logP += min(max(-off / min(slope, -0.1), -1.0), 1.0)
        text = f"No pressure was found at which the charge fills its vessel; the last was {P:.5g} Pa at {T:.5g} K."
        raise UnitFault(text, f'Choose "{PRESSURE_STAYS}", or a lower pressure.', "kept")

    def slope(self, time: float, y: Vector, lasts: float) -> Vector:
        """d/dt of the unknowns."""
        T, P, flows, phase = self.local(time, y)
        extents = self.reacting.rates(phase, T, P) * float(flows.sum()) * phase.molar_volume
        return np.append(extents, self.heating(T, lasts)) if self.exchanging else extents

    def integrate(self, end: float, lasts: float) -> Any:
        """Up to a time, or until what is wanted is reached, with the heat of a reaction that ``lasts`` s."""
        from scipy.integrate import solve_ivp  # late: it is not needed for a page

        reacting, wanted, count = self.reacting, self.wanted, len(self.reacting.numbers)
        self._guess, self._pressed = self.state.temperature, self.P
        size = np.full(count + self.exchanging, float(reacting.feed.sum()))
        size[count:] *= R * self.state.temperature
        events = None if wanted is None else [ending(lambda time, y, total: reacting.conversion(reacting.flows(y[:count])) - wanted)]
        found = solve_ivp(
            lambda time, y, total: self.slope(time, y, lasts), (0.0, end), np.zeros(len(size)), "LSODA", dense_output=True, events=events,
            args=(end,), rtol=TOLERANCE, atol=LEAST * size,
        )  # fmt: skip
        if found.status < 0:
            text = f"The integration over time ended at {found.t[-1]:.4g} s: {found.message}"
            raise UnitFault(text, "Look at rates and constants: something there changes without limit.")
        return found

    def run(self) -> _Course:
        """The whole course of the reaction."""
        if self.time == 0.0:
            return self._at(np.zeros(1), np.zeros((1, len(self.reacting.numbers) + self.exchanging)), 0.0)
        if self.wanted is None:
            assert self.time is not None  # the choices ask for one of the two
            found = self.integrate(self.time, self.time)
        else:
            found = self._until(self._agreed() if self.exchanging else math.inf)
            if not found.t_events[0].size:
                raise self._unreached(found)
        lasts = float(found.t[-1])
        times = np.linspace(0.0, lasts, ROWS)
        rows = found.sol(times).T
        rows[0], rows[-1] = found.y[:, 0], found.y[:, -1]
        return self._at(times, rows, lasts)

    def _until(self, lasts: float) -> Any:
        """As far as what is wanted, with the heat of a reaction that ``lasts`` s."""
        return far(lambda end: self.integrate(end, lasts), LONGEST)

    def _unreached(self, found: Any) -> UnitFault:
        reacting = self.reacting
        name, most = reacting.ids[reacting.base], reacting.conversion(reacting.flows(found.y[: len(reacting.numbers), -1]))
        text = f"The conversion of {name} comes to {100 * most:.4g} % and no further, however long the reaction."
        return UnitFault(text, "Give a lower conversion, or other temperatures.", "conversion")

    def _agreed(self) -> float:
        """s that the reaction takes where its heat is that of a reaction of such a time: a short one means small charges and much heat per mole."""
        from scipy.optimize import brentq  # late: it is not needed for a page

        def gap(log_lasts: float) -> float:
            found = self._until(math.exp(log_lasts))
            taken = float(found.t[-1]) if found.t_events[0].size else LONGEST
            return math.log(max(taken, 1.0 / LONGEST)) - log_lasts

        at = math.log(FIRST)
        off = gap(at)
        while off != 0.0:
            # As a rule the time falls as it is taken longer, and lies between the two.
            other = at + math.copysign(max(abs(off), math.log(WIDER)), off)
            if abs(other) > math.log(LONGEST):
                break
            there = gap(other)
            if there * off <= 0.0:
                at = float(brentq(gap, at, other, xtol=AGREES, rtol=AGREES))
                off = gap(at)
                break
            at, off = other, there
        # Where a conversion is just reached with one heat and never with a little less, the two do not meet.
        if abs(off) <= AGREED:
            return math.exp(at)
        found = self._until(math.exp(at))
        if not found.t_events[0].size:
            raise self._unreached(found)
        text = "No time of the reaction agrees with its heat: with the heat of a longer one it lasts longer still."
        raise UnitFault(text, "Give a time, or more conductance or heat.", "conversion")

    def _at(self, times: Vector, rows: Vector, lasts: float) -> _Course:
        count = len(self.reacting.numbers)
        extents = np.array([self.reacting.possible(row[:count]) for row in rows])
        there = [self.local(float(t), np.append(e, row[count:])) for t, e, row in zip(times, extents, rows, strict=True)]
        T, P, flows = np.array([T for T, *_ in there]), np.array([P for _, P, _, _ in there]), np.array([flow for _, _, flow, _ in there])
        phases = tuple(phase for *_, phase in there)
        total = flows.sum(axis=1)
        enthalpy = np.array([phase.enthalpy for phase in phases]) * total
        heat = enthalpy - self.enthalpy - (self.closed or 0.0) * (P - self.P)
        volume = np.array([phase.molar_volume for phase in phases]) * total
        rates = np.array([self.reacting.rates(phase, float(t), float(p)) for phase, t, p in zip(phases, T, P, strict=True)])
        course = _Course(times, extents, flows, heat, T, volume, P, phases, rates, np.zeros(len(times)))
        return replace(course, heating=self._heating(course, lasts))

    def _heating(self, course: _Course, lasts: float) -> Vector:
        """W into what comes in during a second, at each of the times."""
        if self.way == ADIABATIC or lasts == 0.0:
            return np.zeros(len(course.times))
        if self.exchanging:
            return np.array([self.heating(float(T), lasts) for T in course.T])
        # At the end of a programme what led there counts, not what would follow.
        before = course.times * (1.0 - 1e-12)
        steeper = np.zeros(len(course.T)) if self.temperatures is None else np.array([self.temperatures(float(t))[1] for t in before])
        made = course.rates * course.volume[:, None] @ self.reacting.numbers
        if self.closed is not None:
            return np.array([self._storing(*row) for row in zip(course.T, course.flows, steeper, made, strict=True)])
        from wattaxis.properties.rows import phase_rows  # late: it loads the kernels

        # Held at a temperature it takes what the reactions need, and what a change of temperature does.
        fractions = course.flows / course.flows.sum(axis=1)[:, None]
        rows = phase_rows(self.reacting.model, self.reacting.kinetics.phase, course.T, course.P, fractions, by_pressure=False)
        return np.asarray((made * rows.partial_enthalpies).sum(axis=1) + course.flows.sum(axis=1) * rows.heat_capacity * steeper)

    def _storing(self, T: float, flows: Vector, steeper: float, made: Vector) -> float:
        """W by which the internal energy in a closed vessel rises where it gets hotter by K/s and amounts change by mol/s."""
        rate = max(abs(steeper) / T, float(np.abs(made).sum() / flows.sum()))
        if rate == 0.0:
            return 0.0
        step = _STEP / rate

        def energy(by: float) -> float:
            # Linear in the amounts: a component that is absent may come to a little less than nothing at a half step.
            _, P, moved, phase = self._held(T + by * steeper, np.maximum(flows + by * made, 0.0))
            assert self.closed is not None
            return float(moved.sum()) * phase.enthalpy - P * self.closed

        return (energy(step) - energy(-step)) / (2.0 * step) if (flows >= step * np.abs(made)).all() else (energy(step) - energy(0.0)) / step


def _programme(givens: Givens) -> Callable[[float], tuple[float, float]]:
    """K and K/s over time, straight between the points and kept beyond them. Raises UnitFault for points that make no programme."""
    table, field = givens.raw("temperatures"), givens.fields["temperatures"]
    times, T = (table.si(column) for column in field.columns)
    if not len(times) or not (np.isfinite(times).all() and np.isfinite(T).all()) or (np.diff(times) <= 0.0).any():
        text = "A programme of temperatures has rows with a time and a temperature each, and the times rise."
        raise UnitFault(text, "Fill them in, in their order.", "temperatures")
    slopes = np.concatenate(([0.0], np.diff(T) / np.diff(times), [0.0]))
    return lambda time: (float(np.interp(time, times, T)), float(slopes[np.searchsorted(times, time, side="right")]))


def _profile(charge: _Charge, course: _Course) -> Profile:
    reacting = charge.reacting
    vessel = charge.cycle(float(course.times[-1])) / charge.vessels
    columns = [
        column("temperature", "Temperature", "temperature", course.T),
        *([] if charge.closed is None else [column("pressure", "Pressure", "pressure", course.P)]),
        column("conversion", f"Conversion of {reacting.ids[reacting.base]}", "fraction", [reacting.conversion(f) for f in course.flows]),
        *(column("mole_fraction", "Mole fraction", "fraction", [p.fractions[i] for p in course.phases], reacting.ids[i]) for i in reacting.there),
        *(column("rate", "Rate", "reaction_rate", course.rates[:, j], r.name) for j, r in enumerate(reacting.kinetics.set.reactions)),
        column("heating", "Heat added to a vessel", "power", course.heating * vessel),
    ]
    return Profile("course", "Over the time of the reaction", column("time", "Time", "time", course.times), tuple(columns))


def _values(charge: _Charge, givens: Givens, course: _Course, outlet: StreamState, heat: float) -> list[ResultValue]:
    time, filling = float(course.times[-1]), givens.si("filling") or 1.0
    cycle = charge.cycle(time)
    # What flows in during a cycle is charged once; where it is largest it still has to have room.
    charged = float(course.volume.max()) * cycle / charge.vessels
    heating = course.heating * cycle / charge.vessels
    return [
        ResultValue("duty", "Mean heat added", "power", heat),
        ResultValue("outlet_temperature", "Temperature at the end", "temperature", float(course.T[-1])),
        ResultValue("outlet_pressure", "Outlet pressure", "pressure", charge.P),
        ResultValue("time", "Time of the reaction", "time", time),
        ResultValue("cycle_time", "Time of a cycle", "time", cycle),
        ResultValue("charge_volume", "Largest volume of a charge", "volume", charged),
        ResultValue("vessel_volume", "Volume of a vessel", "volume", charged / filling),
        ResultValue("most_heating", "Largest heat added to a vessel", "power", max(float(heating.max()), 0.0)),
        ResultValue("most_cooling", "Largest heat taken from a vessel", "power", max(float(-heating.min()), 0.0)),
        ResultValue("hottest", "Highest temperature", "temperature", float(course.T.max())),
        *([] if charge.closed is None else [ResultValue("most_pressure", "Highest pressure", "pressure", float(course.P.max()))]),
        ResultValue("coldest", "Lowest temperature", "temperature", float(course.T.min())),
        *(
            ResultValue("extent", "Mean extent", "mole_flow", float(course.extents[-1, j]), reaction.name)
            for j, reaction in enumerate(charge.reacting.kinetics.set.reactions)
        ),
    ]


def _findings(charge: _Charge, givens: Givens, course: _Course, outlet: StreamState) -> list[Finding]:
    found, reacting, end = [], charge.reacting, outlet.state
    vessels = givens.si("vessels") or 1.0
    if vessels != round(vessels):
        text = f"{vessels:.6g} vessels were calculated; {math.ceil(vessels)} can be built."
        found.append(Finding("note", "", text, "Type a whole number once the size is settled.", "vessels"))
    if charge.closed is not None:
        hot, high = float(course.T[-1]), float(course.P[-1])
        end = reacting.model.flash(course.flows[-1], T=hot, P=high)
        text = f"At the end {high / 1e5:.4g} bar and {hot:.5g} K are in the vessel; what leaves expands to {charge.P / 1e5:.4g} bar, "
        found.append(Finding("note", "", f"{text}and has {outlet.state.temperature:.5g} K in the mean."))
    elif reacting.kinetics.phase == "vapour":
        text = "The charge is a gas and was calculated at one pressure; in a closed vessel its volume stays and its pressure changes."
        found.append(Finding("note", "", text, f'For a closed vessel choose "{VOLUME_STAYS}".', "kept"))
    kinds = {phase.kind for phase in end.phases}
    if len(kinds) > 1:
        text = f"At the end the charge is {end.phase}, and it was calculated as if all of it were {reacting.kinetics.phase}."
        found.append(Finding("caution", "", text, "Choose other temperatures or a higher pressure, so that it stays in one phase."))
    if not np.any(np.abs(course.extents[-1]) > 1e-9 * reacting.feed.sum()):
        text = f"Next to nothing reacts at {course.T[-1]:.5g} K in {course.times[-1]:.4g} s."
        found.append(Finding("caution", "", text, "Check constants, temperatures and time."))
    return found
