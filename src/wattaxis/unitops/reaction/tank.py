"""A stirred tank held at a temperature, and the temperatures at which its heat balances."""

from __future__ import annotations

import math
import warnings
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cached_property
from importlib import import_module
from itertools import pairwise
from typing import Any

import numpy as np

from wattaxis.properties import FlashError
from wattaxis.properties.state import State, Vector
from wattaxis.reactions import ChemicalEquilibrium, EquilibriumError
from wattaxis.reactions.course import held_at
from wattaxis.unitops.base import Givens, UnitFault
from wattaxis.unitops.energy.connections import HEAT_IN
from wattaxis.unitops.reaction.kinetic import COLDEST, HOTTEST, Reacting
from wattaxis.unitops.reaction.stability import growth

#: Temperatures at which the heat is looked at for steady states, and how far beyond what the reactions can do (share, K).
LOOKS, BEYOND, MARGIN = 121, 0.08, 15.0
#: How closely it is found how far a reaction can go before its heat leads to no temperature.
HALVINGS = 12
#: What counts as a closed balance of a reaction, relative to the feed; and as a temperature.
CLOSED, SAME = 1e-10, 1e-11
#: What is left of a balance where a tank that was followed through time counts as come to rest.
AT_REST = 1e-7
#: Times the volume of a residence time is corrected at most, and the share of it that may be left.
SECANTS, SETTLED = 12, 1e-12
#: Residence times of the first step from where a tank nearly is: one of Newton's.
NEAR = 1e6
#: Decades of volume over which a conversion is looked for, about the volume of one second of feed.
DECADES = (-9.0, 9.0)


#: Times the rates are calculated at most where a tank is followed through time.
FOLLOWED = 4000


class _Enough(Exception):
    """A tank was followed long enough."""


@dataclass(frozen=True)
class SteadyPoint:
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


class Tank:
    """The isothermal tank at any temperature, and the temperatures at which its heat balances; ``of`` so many that share the heat that is given."""

    def __init__(self, reacting: Reacting, givens: Givens, pressure: float, of: int = 1) -> None:
        self.reacting, self.P = reacting, pressure
        self.inlet = reacting.inlet
        self.volume, self.time, self.wanted = (givens.si(key) for key in ("volume", "residence_time", "conversion"))
        self.temperature = givens.si("outlet_temperature")
        duty = givens.power(HEAT_IN) if HEAT_IN in givens.energy else givens.si("duty")
        self.duty = None if duty is None else duty / of
        self.coolant, self.conductance = givens.si("coolant_temperature"), givens.si("conductance") or 0.0
        self.size = float(reacting.feed.sum())
        #: K at which no balance of the reactions was found, of those that were looked at.
        self.missed: list[float] = []
        self._swings: dict[float, float | None] = {}
        #: What leaves, as it was asked for last.
        self._last: tuple[tuple[bytes, float], State] | None = None
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
        key = extents.tobytes(), T
        if self._last is None or self._last[0] != key:
            self._last = key, self.reacting.model.flash(self.reacting.flows(extents), T=T, P=self.P)
        return self._last[1]

    def swing(self, at: SteadyPoint) -> float | None:
        """As :meth:`_swing`, found once for each steady state."""
        if at.T not in self._swings:
            self._swings[at.T] = self._swing(at)
        return self._swings[at.T]

    def _swing(self, at: SteadyPoint) -> float | None:
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

    def at(self, T: float, start: Vector | None = None) -> SteadyPoint | None:
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
        return SteadyPoint(T, extents, volume, flow, made, removed)

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

        whole = self._in_one_phase(T, self.volume if volume is None else volume, start)
        if whole is not None:
            return whole
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

    def _in_one_phase(self, T: float, volume: float | None, start: Vector | None) -> Vector | None:
        """Extents where all that leaves is the one phase that reacts, by a kernel; None where it is not, or where that leads nowhere.

        Without a volume there is a residence time, and the volume is searched for that the flow at the outlet has.
        """
        count = len(self.reacting.numbers)
        y = np.zeros(count + 1)
        if start is not None:
            y[:count] = start

        def flow_of(size: float, near: bool) -> float | None:
            if self._stirred(T, size, y, NEAR if near else 0.0):
                return None
            state = self.state(y[:count], T)
            phase = self.reacting.reacting_phase(state)
            return None if phase is None or len(state.phases) > 1 else float(self.reacting.flows(y[:count]).sum()) * phase.molar_volume

        if volume is not None:
            return None if flow_of(volume, start is not None) is None else y[:count].copy()
        before: tuple[float, float] | None = None
        guess = self.reacting.reacting_phase(self.state(y[:count], T))
        size = 0.0 if guess is None or self.time is None else self.time * float(self.reacting.flows(y[:count]).sum()) * guess.molar_volume
        for _ in range(SECANTS if size > 0.0 else 0):
            flow = flow_of(size, before is not None or start is not None)
            if flow is None:
                return None
            gap = (self.time or 0.0) * flow - size
            if abs(gap) <= SETTLED * size:
                return y[:count].copy()
            step = gap if before is None or gap == before[1] else -gap * (size - before[0]) / (gap - before[1])
            before, size = (size, gap), max(size + step, 0.1 * size)
        return None

    def _stirred(self, T: float, volume: float, y: Vector, first: float) -> int:
        """The tank held at a temperature with a volume (m3), from ``y`` on, as if all of it were the phase that reacts; not 0 where there is none.

        ``first``: how long the first step is, in residence times.
        """
        tube: Any = import_module("wattaxis.properties.kernels.tube")  # late: they load with the first calculation
        stirred: Any = import_module("wattaxis.properties.kernels.stirred")
        reacting, kinetics = self.reacting, self.reacting.kinetics
        numbers = {"DENSITY": reacting.density, "FIRST": first}
        chosen = {"VOLUMES": kinetics.counts_volume, "FILLS": tube.BY_MODEL}
        return int(stirred.stirred(volume, *held_at(tube, kinetics, reacting.feed, T, self.P, numbers, chosen), y, np.zeros(6)))

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

    def steady_states(self) -> tuple[list[SteadyPoint], list[SteadyPoint]]:
        """The tank over temperature, and its steady states, coldest first. Raises UnitFault where there is none."""
        if self.temperature is not None:
            point = self.at(self.temperature)
            if point is None:
                raise self._unreached(self.temperature)
            return [point], [point]
        from scipy.optimize import brentq

        low, high = self._span()
        points: list[SteadyPoint] = []
        for T in np.linspace(low, high, LOOKS):
            point = self.at(float(T), points[-1].extents if points else None)
            if point is not None:
                points.append(point)
            else:
                self.missed.append(float(T))
        if not points:
            raise self._unreached(low)
        found: list[SteadyPoint] = []
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

    def _excess(self, T: float, near: SteadyPoint) -> float:
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
