"""Stirred tank: everything inside is as what leaves; all its steady states are found, and the document keeps which one counts."""

from __future__ import annotations

import math
import warnings
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise
from typing import TYPE_CHECKING

import numpy as np

from wattaxis.properties import FlashError
from wattaxis.properties.state import State, Vector
from wattaxis.quantities import Quantity
from wattaxis.reactions import ChemicalEquilibrium, EquilibriumError
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
from wattaxis.unitops.profile import Profile, ProfileMark, column
from wattaxis.unitops.reaction.kinetic import BASE, CATALYST, COLDEST, HOTTEST, REACTIONS, Reacting
from wattaxis.unitops.reaction.leaving import PORTS, PRESSURE, PRESSURE_FIELDS
from wattaxis.unitops.reaction.stability import growth
from wattaxis.unitops.registry import unit_operation

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel

STATES = ("coldest", "middle", "hottest")
#: Temperatures at which the heat is looked at for steady states, and how far beyond what the reactions can do (share, K).
LOOKS, BEYOND, MARGIN = 121, 0.08, 15.0
#: How closely it is found how far a reaction can go before its heat leads to no temperature.
HALVINGS = 12
#: What counts as a closed balance of a reaction, relative to the feed; and as a temperature.
CLOSED, SAME = 1e-10, 1e-11
#: What is left of a balance where a tank that was followed through time counts as come to rest.
AT_REST = 1e-7
#: Decades of volume over which a conversion is looked for, about the volume of one second of feed.
DECADES = (-9.0, 9.0)


#: Times the rates are calculated at most where a tank is followed through time.
FOLLOWED = 4000


class _Enough(Exception):
    """A tank was followed long enough."""


class StirredTankSpec(UnitSpec):
    """Reactions, how large or how far, temperature or heat, pressure."""

    reactions: str | None = None
    volume: Quantity | None = None
    residence_time: Quantity | None = None
    conversion: Quantity | None = None
    base: str | None = None
    outlet_temperature: Quantity | None = None
    duty: Quantity | None = None
    coolant_temperature: Quantity | None = None
    conductance: Quantity | None = None
    steady_state: str | None = None
    catalyst_density: Quantity | None = None
    outlet_pressure: Quantity | None = None
    pressure_change: Quantity | None = None


@unit_operation
class StirredTank(UnitOperation):
    """Balances of every reaction at the outlet's state, and of energy at every temperature that can be."""

    type = "stirred-tank"
    title = "Stirred-tank reactor"
    symbol = "reactor"
    letter = "R"
    also = ("continuous stirred tank", "mixed reactor", "kinetic reactor", "vessel")
    family = "reaction"
    theory = (
        "The contents are as what leaves, so each reaction runs at the rate there: extent = volume times rate (Levenspiel 1999, chapter 5). The "
        "volume is that of the phase in which the reactions take place. Without a given temperature the heat made by the reactions and the heat "
        "removed by feed and exchange are compared at every temperature that can be; each crossing is a steady state, stable only where the "
        "heat removed grows faster with temperature (van Heerden 1953). Where it does the temperature may still swing wider and wider: the "
        "eigenvalues of the balances in time tell (Uppal, Ray, Poore 1974)."
    )
    Spec = StirredTankSpec
    ports = PORTS
    fields = (
        REACTIONS,
        Field("volume", "Volume", "volume", "of the phase in which the reactions take place"),
        Field("residence_time", "Residence time", "time", "volume over the volume flow of that phase at the outlet"),
        Field("conversion", "Conversion", "fraction", "of the base component"),
        BASE,
        Field("outlet_temperature", "Outlet temperature", "temperature"),
        Field("duty", "Heat added", "power", "0: adiabatic"),
        Field("coolant_temperature", "Coolant temperature", "temperature"),
        Field("conductance", "Coolant: coefficient times area", "conductance", beside="coolant_temperature"),
        Field("steady_state", "Steady state", "option", "where there are several", options=STATES),
        CATALYST,
        *PRESSURE_FIELDS,
    )
    pressures = (OUTLET_OR_CHANGE,)
    choices = (
        Choice("Reactions", ("reactions",)),
        Choice("Size", ("volume", "residence_time", "conversion")),
        Choice("Heat", ("outlet_temperature", "duty", "coolant_temperature"), port=HEAT_IN),
        Choice("Steady state", ("steady_state",), 1, ("steady_state", STATES[0], "a tank that starts cold comes to the coldest")),
        PRESSURE,
    )

    def choices_of(self, spec: UnitSpec) -> tuple[Choice, ...]:
        """A coolant needs how well heat passes to it."""
        cooled = getattr(spec, "coolant_temperature", None) is not None
        return (*self.choices, Choice("Heat transfer", ("conductance",))) if cooled else self.choices

    def solve(self, givens: Givens, inlets: Mapping[str, Sequence[StreamState]], model: PropertyModel, outlets: frozenset[str]) -> UnitResult:
        """All steady states, then the one that was chosen."""
        inlet = inlets["inlet"][0]
        if inlet.flow <= 0.0:
            return UnitResult({"outlet": inlet}, findings=(Finding("caution", "", "Nothing comes in, so nothing reacts.", "Check the feed."),))
        reacting = Reacting(givens, inlet, model)
        tank = _Tank(reacting, givens, outlet_pressure(givens, inlet.state.pressure))
        points, found = tank.steady_states()
        chosen = _chosen(found, givens.option("steady_state") or STATES[0])
        at = found[chosen]
        flows = reacting.flows(at.extents)
        total = float(flows.sum())
        try:
            if tank.temperature is not None:
                state = model.flash(reacting.spread(flows), T=tank.temperature, P=tank.P)
            else:
                heat = (inlet.enthalpy_flow + tank.heat(at.T)) / total
                state = model.flash(reacting.spread(flows), P=tank.P, H=heat, guess=at.T)
        except FlashError as error:
            raise UnitFault(f"What leaves has no state: {error}", "Take out heat, or let less react.") from error
        outlet = StreamState(total, state)
        duty = outlet.enthalpy_flow - inlet.enthalpy_flow
        findings = [
            *reacting.doubts(),
            *heat_crossing(givens, state.temperature, state.temperature),
            *_findings(reacting, tank, found, chosen, state),
        ]
        outside, given = heat_given(givens, duty, state.temperature, state.temperature)
        values = (*_values(reacting, at, outlet, duty), *reacting.values(flows))
        profiles = (_profile(tank, points, found),) if len(points) > 1 else ()
        made = reacting.mass_made(at.extents)
        return UnitResult({"outlet": outlet}, outside, values, tuple(findings), profiles=profiles, energies=given, mass_made=made)


@dataclass(frozen=True)
class _Point:
    """The tank at a temperature, isothermal: extents (mol/s), volume of the reacting phase (m3) and its flow (m3/s), heat made and removed (W)."""

    T: float
    extents: Vector
    volume: float
    phase_flow: float
    made: float
    removed: float

    @property
    def excess(self) -> float:
        """What is removed beyond what is made: 0 at a steady state."""
        return self.removed - self.made


class _Tank:
    """The isothermal tank at any temperature, and the temperatures at which its heat balances."""

    def __init__(self, reacting: Reacting, givens: Givens, pressure: float) -> None:
        self.reacting, self.P = reacting, pressure
        self.inlet = reacting.inlet
        self.volume, self.time, self.wanted = (givens.si(key) for key in ("volume", "residence_time", "conversion"))
        self.temperature = givens.si("outlet_temperature")
        self.duty = givens.power(HEAT_IN) if HEAT_IN in givens.energy else givens.si("duty")
        self.coolant, self.conductance = givens.si("coolant_temperature"), givens.si("conductance") or 0.0
        self.size = float(reacting.feed.sum())
        #: K at which no balance of the reactions was found, of those that were looked at.
        self.missed: list[float] = []
        if self.wanted is not None:
            if reacting.feed[reacting.base] <= 0.0:
                raise UnitFault(f"There is no {reacting.ids[reacting.base]} in the feed.", "Choose another base component.", "base")
            if not 0.0 < self.wanted < 1.0:
                raise UnitFault("A stirred tank comes to a conversion above 0 and below 1.", "Give such a conversion, or a size.", "conversion")

    def heat(self, T: float) -> float:
        """W that come in from outside at a temperature of the contents."""
        return self.conductance * (self.coolant - T) if self.coolant is not None else self.duty or 0.0

    def state(self, extents: Vector, T: float) -> State:
        """What leaves at a temperature."""
        return self.reacting.model.flash(self.reacting.flows(extents), T=T, P=self.P)

    def swing(self, at: _Point) -> float | None:
        """s of the period in which the temperature swings wider and wider about a steady state; None where it does not, or two phases leave."""
        if self.temperature is not None or not (at.volume > 0.0 and at.phase_flow > 0.0) or len(self.state(at.extents, at.T).phases) != 1:
            return None

        def enthalpy(extents: Vector, T: float) -> float:
            return float(self.reacting.flows(extents).sum()) * self.state(extents, T).enthalpy

        slope = -self.conductance if self.coolant is not None else 0.0
        time = at.volume / at.phase_flow
        fastest = growth(lambda extents, T: at.volume * self._rates(extents, T)[0], enthalpy, at.extents, at.T, self.size, time, slope)
        return 2.0 * math.pi / abs(fastest.imag) if fastest.real > 0.0 and fastest.imag != 0.0 else None

    def _rates(self, extents: Vector, T: float) -> tuple[Vector, float]:
        """mol/(m3 s) of each reaction in the phase that reacts, and its flow (m3/s); zeros where there is none of it."""
        total = float(self.reacting.flows(extents).sum())
        if not 0.0 < total < np.inf:  # on its way the search may come anywhere
            return np.zeros_like(extents), 0.0
        state = self.state(extents, T)
        phase = self.reacting.reacting_phase(state)
        if phase is None:
            return np.zeros_like(extents), 0.0
        share = next((a for a, p in zip(state.amounts, state.phases, strict=True) if p.kind == phase.kind), 1.0)
        flow = share * float(self.reacting.flows(extents).sum()) * phase.molar_volume
        return self.reacting.rates(phase, T, self.P), flow

    def at(self, T: float, start: Vector | None = None) -> _Point | None:
        """The tank held at T; None where it does not come to the conversion that is wanted."""
        if self.wanted is None:
            balanced = self._balanced(T, None, start)
            if balanced is None:
                return None
            extents = balanced
            volume, flow = self._size(extents, T)
        else:
            found = self._converted(T, self.wanted)
            if found is None:
                return None
            extents, volume = found
            flow = self._rates(extents, T)[1]
        feed, out = self.state(np.zeros_like(extents), T), self.state(extents, T)
        made = self.size * feed.enthalpy - float(self.reacting.flows(extents).sum()) * out.enthalpy
        removed = self.size * feed.enthalpy - self.inlet.enthalpy_flow - self.heat(T)
        return _Point(T, extents, volume, flow, made, removed)

    def _size(self, extents: Vector, T: float) -> tuple[float, float]:
        flow = self._rates(extents, T)[1]
        return (self.volume if self.volume is not None else (self.time or 0.0) * flow), flow

    def _lack(self, extents: Vector, T: float, volume: float | None) -> Vector:
        """Extents less what the volume makes, relative to the feed."""
        rates, flow = self._rates(extents, T)
        size = volume if volume is not None else self.volume if self.volume is not None else (self.time or 0.0) * flow
        return np.asarray((extents - size * rates) / self.size)

    def _balanced(self, T: float, volume: float | None, start: Vector | None) -> Vector | None:
        """Extents at which every reaction balances: from a guess or nothing, else by following the tank from its start.

        None where it comes to no steady state that could be calculated.
        """
        from scipy.integrate import solve_ivp

        def lack(scaled: Vector) -> Vector:
            return self._lack(scaled * self.size, T, volume)

        near = self._search(lack, np.zeros(len(self.reacting.numbers)) if start is None else start / self.size)
        if near is None and (fast := self._at_equilibrium(T)) is not None:
            near = self._search(lack, fast / self.size)
        if near is not None:
            return near
        left = [FOLLOWED]

        def change(_: float, y: Vector) -> Vector:
            left[0] -= 1
            if left[0] < 0:
                raise _Enough
            return -lack(y)

        # In residence times; a thousand of them are a steady state, unless it never settles.
        try:
            with warnings.catch_warnings():
                warnings.simplefilter("ignore")  # of a run that ends early; whether it came to rest is looked at below
                run = solve_ivp(change, (0.0, 1e3), np.zeros(len(self.reacting.numbers)), "LSODA", rtol=1e-9, atol=1e-12)
        except _Enough:
            return None
        rested = np.asarray(run.y[:, -1])
        found = self._search(lack, rested)
        if found is not None:
            return found
        return rested * self.size if np.abs(lack(rested)).max() <= AT_REST else None

    @cached_property
    def _equilibrium(self) -> ChemicalEquilibrium | None:
        kinetics = self.reacting.kinetics
        if any(reaction.backward != "thermodynamics" for reaction in kinetics.set.reactions):
            return None
        return ChemicalEquilibrium(self.reacting.model, kinetics.set.reactions, phases=kinetics.phase)

    def _at_equilibrium(self, T: float) -> Vector | None:
        """Extents at equilibrium, where all reactions go back by thermodynamics: a tank is near there whose reactions are fast."""
        reacting = self.reacting
        if self._equilibrium is None:
            return None
        try:
            flows = self._equilibrium.at(reacting.feed, T, self.P)
        except EquilibriumError:
            return None
        return np.asarray(np.linalg.lstsq(reacting.numbers.T, flows - reacting.feed, rcond=None)[0])

    def _search(self, lack: Callable[[Vector], Vector], guess: Vector) -> Vector | None:
        """Extents at which nothing lacks, near a guess."""
        from scipy.optimize import root

        found = root(lack, guess, method="hybr", options={"xtol": 1e-13})
        inside = (self.reacting.feed + found.x * self.size @ self.reacting.numbers).min() >= -CLOSED * self.size
        if not inside:
            return None
        rest = lack(found.x)
        if np.abs(rest).max() > CLOSED:
            # Of reactions that are fast both ways rounding leaves a large rest: what counts is how far the extents still are from none.
            upper = np.zeros((len(rest), len(rest)))
            upper[np.triu_indices(len(rest))] = found.r
            try:
                apart = np.linalg.solve(found.fjac.T @ upper, rest)
            except np.linalg.LinAlgError:
                return None
            if not np.abs(apart).max() <= 0.1 * CLOSED:
                return None
        return np.asarray(found.x * self.size)

    def _converted(self, T: float, wanted: float) -> tuple[Vector, float] | None:
        """Extents and volume at a conversion of the base component."""
        from scipy.optimize import brentq

        reacting = self.reacting
        if len(reacting.numbers) == 1:
            extents = np.array([wanted * reacting.feed[reacting.base] / -reacting.numbers[0, reacting.base]])
            if (reacting.feed + extents @ reacting.numbers).min() < 0.0:
                return None
            rate = float(self._rates(extents, T)[0][0])
            return (extents, float(extents[0]) / rate) if rate > 0.0 else None

        def beyond(decades: float) -> float:
            extents = self._balanced(T, 10.0**decades, None)
            return np.nan if extents is None else reacting.conversion(reacting.flows(extents)) - wanted

        if not beyond(DECADES[1]) > 0.0 > beyond(DECADES[0]):
            return None
        volume = 10.0 ** float(brentq(beyond, *DECADES, xtol=1e-13, rtol=1e-13))
        found = self._balanced(T, volume, None)
        return None if found is None else (found, volume)

    def steady_states(self) -> tuple[list[_Point], list[_Point]]:
        """The tank over temperature, and its steady states, coldest first. Raises UnitFault where there is none."""
        if self.temperature is not None:
            point = self.at(self.temperature)
            if point is None:
                raise self._unreached(self.temperature)
            return [point], [point]
        from scipy.optimize import brentq

        low, high = self._span()
        points: list[_Point] = []
        for T in np.linspace(low, high, LOOKS):
            point = self.at(float(T), points[-1].extents if points else None)
            if point is not None:
                points.append(point)
            else:
                self.missed.append(float(T))
        if not points:
            raise self._unreached(low)
        found: list[_Point] = []
        for before, after in pairwise(points):
            if before.excess * after.excess <= 0.0 and before.excess != after.excess:
                T = brentq(lambda t, near=before: self._excess(t, near), before.T, after.T, xtol=SAME * after.T, rtol=1e-15 * 4)
                near = self.at(float(T), before.extents)
                if near is not None and not (found and near.T - found[-1].T <= 2.0 * SAME * near.T):
                    found.append(near)
        if not found and self.wanted is not None:
            name = self.reacting.ids[self.reacting.base]
            text = f"With this heat the tank does not come to a conversion of {100 * self.wanted:.4g} % of {name}, however large it is."
            raise UnitFault(text, "Give a lower conversion, or another heat or feed temperature.", "conversion")
        if not found:
            text = f"The heat balances at no temperature between {low:.4g} and {high:.4g} K."
            raise UnitFault(text, "Check the heat that is added or taken out, and the rates.", "duty")
        return points, found

    def _excess(self, T: float, near: _Point) -> float:
        point = self.at(T, near.extents)
        return near.excess if point is None else point.excess

    def _unreached(self, T: float) -> UnitFault:
        if self.wanted is None:
            text = f"At {T:.5g} K the tank comes to no steady state."
            return UnitFault(text, "Look at rates and constants: something there changes without limit.", "reactions")
        name = self.reacting.ids[self.reacting.base]
        text = f"The conversion of {name} is not reached at {T:.5g} K, however large the tank."
        return UnitFault(text, "Give a lower conversion, or another temperature or pressure.", "conversion")

    def _span(self) -> tuple[float, float]:
        """K between which its temperature lies: with nothing reacting, with the reactions as far as they can go, and that of the coolant."""
        reacting, enthalpy = self.reacting, self.inlet.enthalpy_flow + (self.duty or 0.0)
        found = [self.inlet.state.temperature] + ([] if self.coolant is None else [self.coolant])
        count = len(reacting.numbers)
        orders = [[j] for j in range(count)] + [list(range(count)), list(range(count))[::-1]]
        ends = [np.zeros(count), *(self._one_after_the_other(order) for order in orders)]
        found += [self._furthest(extents, enthalpy) for extents in ends]
        low, high = min(found), max(found)
        reach = BEYOND * (high - low) + MARGIN
        return max(low - reach, 2 * COLDEST), min(high + reach, HOTTEST - 1.0)

    def _one_after_the_other(self, order: Sequence[int]) -> Vector:
        """Extents where each of these reactions goes as far as what the others left lets it."""
        extents, left = np.zeros(len(self.reacting.numbers)), self.reacting.feed.copy()
        for j in order:
            row = self.reacting.numbers[j]
            extents[j] = float((left[row < 0.0] / -row[row < 0.0]).min())
            left = np.maximum(left + extents[j] * row, 0.0)
        return extents

    def _furthest(self, extents: Vector, enthalpy: float) -> float:
        """The temperature (K) at so much reaction without exchange, or at as much of it as has one."""
        good, bad, T = 0.0, 2.0, self.inlet.state.temperature
        share = 1.0
        for _ in range(HALVINGS):
            flows = self.reacting.flows(share * extents)
            try:
                T = self.reacting.model.flash(flows, P=self.P, H=enthalpy / float(flows.sum()), guess=T).temperature
                good = share
            except (FlashError, ValueError):
                bad = share
            if good == 1.0:
                break
            share = 0.5 * (good + bad)
        return T


def _chosen(found: Sequence[_Point], which: str) -> int:
    """The place of the steady state that counts; of two the middle one is the hotter."""
    return {"coldest": 0, "hottest": len(found) - 1}.get(which, len(found) // 2)


def _kept(tank: _Tank, points: Sequence[_Point]) -> list[str]:
    """Whether the contents stay at each steady state: crossings change direction by turns, at the coldest the heat removed grows faster, unless it
    touches; where it does they may still swing."""
    slopes = [k % 2 == 0 if len(points) % 2 else False for k in range(len(points))]
    return ["not stable" if not slope else "stable" if tank.swing(p) is None else "swings" for slope, p in zip(slopes, points, strict=True)]


def _profile(tank: _Tank, points: Sequence[_Point], found: Sequence[_Point]) -> Profile:
    name = tank.reacting.ids[tank.reacting.base]
    conversions = [tank.reacting.conversion(tank.reacting.flows(p.extents)) for p in points]
    columns = (
        column("made", "Made by the reactions", "power", [p.made for p in points], group="Heat"),
        column("removed", "Taken by feed and exchange", "power", [p.removed for p in points], group="Heat"),
        column("conversion", f"Conversion of {name}", "fraction", conversions),
    )
    words = ["Steady state"] if len(found) == 1 else [word.capitalize() for word in _kept(tank, found)]
    marks = tuple(ProfileMark(word, "made", p.T, p.made) for word, p in zip(words, found, strict=True))
    along = column("temperature", "Temperature", "temperature", [p.T for p in points])
    return Profile("heat", "Heat over the temperature of the tank", along, columns, marks)


def _values(reacting: Reacting, at: _Point, outlet: StreamState, duty: float) -> list[ResultValue]:
    time = at.volume / at.phase_flow if at.phase_flow > 0.0 else 0.0
    return [
        ResultValue("duty", "Heat added", "power", duty),
        ResultValue("outlet_temperature", "Outlet temperature", "temperature", outlet.state.temperature),
        ResultValue("outlet_pressure", "Outlet pressure", "pressure", outlet.state.pressure),
        ResultValue("volume", f"Volume of {reacting.kinetics.phase}", "volume", at.volume),
        ResultValue("residence_time", f"Residence time of the {reacting.kinetics.phase}", "time", time),
        *(
            ResultValue("extent", "Extent", "mole_flow", float(at.extents[j]), reaction.name)
            for j, reaction in enumerate(reacting.kinetics.set.reactions)
        ),
    ]


def _findings(reacting: Reacting, tank: _Tank, found: Sequence[_Point], chosen: int, state: State) -> list[Finding]:
    told = []
    if len(found) > 1:
        names = ", ".join(f"{p.T:.5g} K ({word})" for word, p in zip(_kept(tank, found), found, strict=True))
        text = f"The tank has {len(found)} steady states: {names}. Shown is that at {found[chosen].T:.5g} K."
        remedy = "Choose another under Steady state; which one it comes to depends on how it is started."
        told.append(Finding("caution", "", text, remedy, "steady_state"))
    period = tank.swing(found[chosen])
    if period is not None:
        swings = f"its temperature swings, about once in {period / 60.0:.3g} min, wider and wider."
        text = f"The tank does not stay at {found[chosen].T:.5g} K by itself: {swings}"
        told.append(
            Finding("caution", "", text, "Control the temperature, cool over more area with a warmer coolant, or give another size.", "conductance")
        )
    if tank.missed and tank.wanted is None:
        text = f"At {len(tank.missed)} of {LOOKS} temperatures between {min(tank.missed):.5g} and {max(tank.missed):.5g} K no steady state was found."
        told.append(Finding("caution", "", text, "There may be others than those told; look at the rates there.", "reactions"))
    if found[chosen].phase_flow <= 0.0:
        text = f"There is no {reacting.kinetics.phase} at {state.temperature:.5g} K and {state.pressure / 1e5:.4g} bar, so nothing reacts."
        told.append(Finding("caution", "", text, "Change temperature or pressure, or let the reactions take place in the other phase.", "reactions"))
    elif not np.any(np.abs(found[chosen].extents) > 1e-9 * tank.size):
        text = f"Next to nothing reacts at {state.temperature:.5g} K in {found[chosen].volume:.4g} m3."
        told.append(Finding("caution", "", text, "Check constants, temperature and volume."))
    return told
