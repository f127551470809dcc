"""The balances of a tube, or many, over its volume: extents, heat and pressure, and what flows along the outside."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from functools import partial
from typing import Any

import numpy as np

from wattaxis.equipment.packed_bed import bed_gradient, bed_reynolds
from wattaxis.equipment.pipe_flow import friction_gradient
from wattaxis.properties.state import Phase, Vector
from wattaxis.properties.transport import transport
from wattaxis.unitops.base import Givens, UnitFault
from wattaxis.unitops.energy.connections import HEAT_IN
from wattaxis.unitops.reaction.coolant import Coolant
from wattaxis.unitops.reaction.kinetic import Reacting

ADIABATIC, ISOTHERMAL, EVENLY, COOLANT = "adiabatic", "isothermal", "heat spread evenly", "coolant at one temperature"
TYPED, CO_CURRENT, COUNTER_CURRENT = "typed temperatures", "co-current stream", "counter-current stream"
#: Ways in which heat passes a wall, and those in which a stream of the sheet flows outside it.
THROUGH_WALL, STREAMS = (COOLANT, CO_CURRENT, COUNTER_CURRENT), (CO_CURRENT, COUNTER_CURRENT)
AS_GIVEN, FRICTION, BED = "as typed", "friction in the tubes", "packed bed"
#: Relative tolerance of the integration, and of extents against the feed.
TOLERANCE, LEAST = 1e-9, 1e-13
#: s of residence beyond which a conversion is not looked for, and rows of the profile.
LONGEST, ROWS = 1e7, 41
#: Times a length or volume is corrected for a pressure drop that belongs to all of it; times the heat of a stream outside is looked for.
MOST_PASSES, MOST_TRIES = 60, 24
#: Share of its heat by which a stream outside may miss its inlet.
CLOSED = 1e-9
#: Two sizes are the same to about what the steps of the integration leave open.
SAME = 10.0 * TOLERANCE
#: ln of the growth from where on more makes no difference to the search.
MOST_GROWTH = 600.0
#: Share of the inlet pressure at which it counts as used up.
USED_UP = 0.02


@dataclass(frozen=True)
class Along:
    """What the integration found at places along the volume: (rows,) each, extents and flows (rows, ...); ``outside`` K of a stream there."""

    volume: Vector
    extents: Vector
    flows: Vector
    heat: Vector
    T: Vector
    P: Vector
    phases: tuple[Phase, ...]
    outside: Vector


class Tube:
    """The unknowns are the extents (mol/s), the heat that came in (W), and the pressure (Pa) where it follows from the flow.

    ``leaving``: the pressure at the outlet where it is given. Raises UnitFault for givens that cannot be.
    """

    def __init__(self, reacting: Reacting, givens: Givens, leaving: float, outside: Coolant | None) -> None:
        self.reacting, self.leaving, self.outside = reacting, leaving, outside
        self.state = reacting.inlet.state
        self.entering, self.enthalpy = self.state.pressure, reacting.inlet.enthalpy_flow
        self.draft = givens.draft
        self.way = givens.option("heat") or ADIABATIC
        self.loss = givens.option("pressure_loss") or AS_GIVEN
        self.bore, tubes = givens.si("diameter"), givens.si("tubes")
        self.tubes = 1.0 if tubes is None else tubes
        self.coolant = givens.si("coolant_temperature")
        #: W/(m3 K), of the inner wall by the volume inside; the choices ask for diameter and coefficient.
        self.wall = 4.0 / self.bore * (givens.si("heat_transfer_coefficient") or 0.0) if self.bore else 0.0
        self.duty = givens.power(HEAT_IN) if HEAT_IN in givens.energy else givens.si("duty") if self.way == EVENLY else None
        self.particle, self.voidage, self.roughness = (givens.si(key) or 0.0 for key in ("particle_diameter", "voidage", "roughness"))
        self.temperatures = _typed_temperatures(givens) if self.way == TYPED else None
        self._refuse(givens)
        length = givens.si("length")
        self.total = givens.si("volume") if length is None else length * self.section
        self.goal = self._goal(givens)
        self._all_heat = 0.0
        self.hint: float | None = givens.hint if self.way == COUNTER_CURRENT else None
        self._guess = self.state.temperature
        self.inlet_volume = reacting.phase(self.state.temperature, self.entering, reacting.feed).molar_volume * float(reacting.feed.sum())

    def _refuse(self, givens: Givens) -> None:
        if HEAT_IN in givens.energy and self.way != EVENLY:
            text = f"A stream brings heat, and the reactor is {self.way}."
            raise UnitFault(text, f'Choose "{EVENLY}", or disconnect the stream.', "heat")
        if self.bore is not None and not self.bore > 0.0:
            raise UnitFault("The tubes have no width.", "Give an inner diameter above 0.", "diameter")
        if not self.tubes > 0.0:
            raise UnitFault("There are no tubes.", "Give at least one.", "tubes")
        if self.loss == BED and not (self.particle > 0.0 and 0.0 < self.voidage < 1.0):
            raise UnitFault("A bed has particles of some size and a voidage between 0 and 1.", "Give such values.", "voidage")

    def _goal(self, givens: Givens) -> Callable[[float, Vector, float], float] | None:
        """What comes to nothing where the tube ends, None where its size is given. Raises UnitFault for what cannot be wanted."""
        reacting = self.reacting
        wanted, hot = givens.si("conversion"), givens.si("outlet_temperature")
        self.wanted = f"the conversion of {reacting.ids[reacting.base]}" if wanted is not None else "the temperature"
        if wanted is None and hot is None:
            return None
        if wanted is not None and reacting.feed[reacting.base] <= 0.0:
            raise UnitFault(f"There is no {reacting.ids[reacting.base]} in the feed.", "Choose another base component.", "base")
        if wanted is not None and not 0.0 < wanted < 1.0:
            raise UnitFault("A tube comes to a conversion above 0 and below 1.", "Give such a conversion, or a size.", "conversion")
        if self.way in (EVENLY, TYPED):
            text = "Over a volume that is not known, neither heat nor temperatures can be spread."
            raise UnitFault(text, "Give a volume or a length, and let an aim find it.", "heat")
        if wanted is not None:
            return lambda volume, y, total: reacting.conversion(reacting.flows(self.extents(y))) - wanted
        assert hot is not None
        if self.way == ISOTHERMAL:
            raise UnitFault(
                "An isothermal tube comes to no other temperature than that of its feed.", "Give a size or a conversion.", "outlet_temperature"
            )
        return lambda volume, y, total: self.local(volume, y, total)[0] - hot

    @property
    def section(self) -> float:
        """m2 of all tubes."""
        return math.pi / 4.0 * (self.bore or 0.0) ** 2 * self.tubes

    def extents(self, y: Vector) -> Vector:
        """Those of the unknowns that are extents."""
        return y[: len(self.reacting.numbers)]

    def pressure(self, volume: float, y: Vector, total: float) -> float:
        """Pa: by the flow, or falling evenly."""
        if self.loss != AS_GIVEN:
            return max(float(y[-1]), 0.5 * USED_UP * self.entering)
        return self.entering + (self.leaving - self.entering) * (min(volume / total, 1.0) if total > 0.0 else 1.0)

    def local(self, volume: float, y: Vector, total: float) -> tuple[float, float, Vector, Phase]:
        """Temperature, pressure, flows and phase at a place."""
        flows, P = self.reacting.flows(self.extents(y)), self.pressure(volume, y, total)
        if self.way in (ISOTHERMAL, TYPED):
            T = self.state.temperature if self.temperatures is None else float(self.temperatures(min(volume / total, 1.0) if total > 0.0 else 1.0))
            return T, P, flows, self.reacting.phase(T, P, flows)
        T, phase = self.reacting.temperature(self.enthalpy + self._heat(y), P, flows, self._guess)
        self._guess = T
        return T, P, flows, phase

    def _heat(self, y: Vector) -> float:
        return float(y[len(self.reacting.numbers)])

    def _outside(self, heat: float) -> float:
        """K outside the wall where so much heat (W) came in from the inlet on."""
        if self.outside is None:
            return self.coolant or 0.0
        return self.outside.temperature(-heat if self.way == CO_CURRENT else heat - self._all_heat)

    def slope(self, volume: float, y: Vector, total: float) -> Vector:
        """d/dV of the unknowns."""
        T, P, flows, phase = self.local(volume, y, total)
        heat = 0.0
        if self.way == EVENLY:
            heat = (self.duty or 0.0) / total
        elif self.way in THROUGH_WALL:
            heat = self.wall * (self._outside(self._heat(y)) - T)
        found = [*self.reacting.rates(phase, T, P), heat]
        return np.array(found if self.loss == AS_GIVEN else [*found, -self._gradient(T, P, flows, phase) / self.section])

    def _gradient(self, T: float, P: float, flows: Vector, phase: Phase) -> float:
        """Pa/m."""
        density = phase.density
        if density is None:
            text = f"The property model gives the {phase.kind} no volume at {T:.5g} K, so what it loses in pressure is not known."
            raise UnitFault(text, "Give the pressure change, or choose another property model.", "pressure_loss")
        flux = float(flows.sum()) * phase.molar_mass / self.section
        viscosity = transport(phase.kind, T, P, phase.fractions, self.reacting.model.curves).viscosity
        if self.loss == BED:
            return bed_gradient(flux, density, viscosity, self.particle, self.voidage)
        return friction_gradient(flux, density, viscosity, self.bore or 1.0, self.roughness)

    def bed_reynolds(self, solved: Along) -> tuple[float, float]:
        """Least and largest Reynolds number of the bed, at the ends."""
        found = []
        for k in (0, -1):
            phase = solved.phases[k]
            viscosity = transport(phase.kind, float(solved.T[k]), float(solved.P[k]), phase.fractions, self.reacting.model.curves).viscosity
            flux = float(solved.flows[k].sum()) * phase.molar_mass / self.section
            found.append(bed_reynolds(flux, viscosity, self.particle, self.voidage))
        return min(found), max(found)

    def integrate(self, end: float, total: float) -> Any:
        """Over the volume up to ``end``, or until what is wanted is reached."""
        from scipy.integrate import solve_ivp  # late: it is not needed for a page

        count = len(self.reacting.numbers)
        self._guess = self.state.temperature
        flow = float(self.reacting.feed.sum())
        start = np.zeros(count + 1)
        # 8.314 J/(mol K) times a temperature: what a mole carries of heat at least.
        least = np.append(np.full(count, LEAST * flow), LEAST * flow * 8.314 * self.state.temperature)
        events: list[Any] = [ending(self._strays)] if self.way == COUNTER_CURRENT else []
        if self.loss != AS_GIVEN:
            start, least = np.append(start, self.entering), np.append(least, TOLERANCE * self.entering)
            events.append(ending(lambda volume, y, total: y[-1] - USED_UP * self.entering))
        if self.goal is not None:
            events.append(ending(self.goal))
        found = solve_ivp(
            self.slope, (0.0, end), start, "LSODA", dense_output=not self.draft, events=events or None, args=(total,), rtol=TOLERANCE, atol=least
        )
        if found.status < 0:
            text = f"The integration along the tube ended at {found.t[-1]:.4g} m3: {found.message}"
            raise UnitFault(text, "Look at rates and constants: something there changes without limit.")
        if self.loss != AS_GIVEN and found.t_events[len(events) - 1 - (self.goal is not None)].size:
            text = f"The pressure is used up {found.t[-1] / self.section:.4g} m from the inlet."
            raise UnitFault(text, "Use more or wider tubes, larger particles, or a higher pressure.", "pressure_loss")
        return found

    def run(self) -> Along:
        """The whole tube, as its size or what is wanted says."""
        if self.goal is None and self.total == 0.0:
            start = np.zeros((1, len(self.reacting.numbers) + 1 + (self.loss != AS_GIVEN)))
            if self.loss != AS_GIVEN:
                start[0, -1] = self.entering
            return self._at(np.zeros(1), start, 0.0)
        found = self._counter_current() if self.way == COUNTER_CURRENT else self._whole()
        self.hint = self._all_heat
        self.total = total = float(found.t[-1])
        if self.draft:
            return self._at(found.t[-1:], found.y[:, -1:].T, total)
        places = np.union1d(np.linspace(0.0, total, ROWS), [total])
        rows = found.sol(places).T
        rows[0], rows[-1] = found.y[:, 0], found.y[:, -1]
        return self._at(places, rows, total)

    def _whole(self) -> Any:
        if self.goal is not None:
            return self._until()
        assert self.total is not None  # the choices ask for one of them
        return self.integrate(self.total, self.total)

    def _counter_current(self) -> Any:
        """The heat in all that brings the stream outside from its inlet, at the far end, to where it leaves."""
        from scipy.optimize import brentq

        tried: dict[float, float] = {}
        last: list[Any] = []

        def gap(heat: float) -> float:
            if heat not in tried:
                self._all_heat = heat
                last[:] = [self._whole()]
                missed = self._heat(last[0].y[:, -1]) - heat
                tried[heat] = 0.0 if abs(missed) <= CLOSED * abs(heat) and not self._astray(last[0]) else missed
            return tried[heat]

        found = float(brentq(gap, *self._around(gap), xtol=1e-300, rtol=4.0 * np.finfo(float).eps))
        if found != self._all_heat:
            tried.clear()
        if gap(found) != 0.0:
            text = "The stream outside comes so near the temperature inside, along so much of the tubes, that its way back cannot be followed."
            raise UnitFault(text, "Give a smaller size or heat transfer coefficient, or let more flow outside.", "heat")
        return last[0]

    def _growth(self) -> float:
        """ln of what a wrong heat grows to from the inlet to the outlet, about."""
        assert self.outside is not None
        phase = self.reacting.phase(self.state.temperature, self.entering, self.reacting.feed)
        inside = float(self.reacting.feed.sum()) * phase.heat_capacity
        return min(self.wall * (self.total or 0.0) * (1.0 / self.outside.capacity + 1.0 / inside), MOST_GROWTH)

    def _around(self, gap: Callable[[float], float]) -> tuple[float, float]:
        """Two heats with the one that is looked for between them."""
        assert self.outside is not None
        if self.hint is not None:
            near, growth = self.hint, self._growth()
            for _ in range(3):
                start, missed = near, gap(near)
                if missed == 0.0:
                    return start, start
                near = start + 2.0 * missed * math.exp(-growth)
                if gap(near) * missed <= 0.0:
                    return start, near
        start, end = 0.0, gap(0.0)
        if end == 0.0:
            return start, start
        # All of it that there is between the two inlets, and more where the reactions take or give more.
        reach = -self.outside.heat_to(self.state.temperature)
        reach = reach if reach * end > 0.0 else end
        for _ in range(MOST_TRIES):
            if gap(reach) * end <= 0.0:
                return start, reach
            start, reach = reach, 1.5 * reach
        raise UnitFault("No heat was found that the tubes and the stream outside agree on.", "Let more flow outside, or give a smaller size.", "heat")

    def _strays(self, volume: float, y: Vector, total: float) -> float:
        """Comes to nothing where the stream outside leaves all its known states: the heat that was tried is not the one looked for."""
        assert self.outside is not None
        return 1.0 if self.outside.known(self._heat(y) - self._all_heat) else -1.0

    def _astray(self, found: Any) -> bool:
        return self.way == COUNTER_CURRENT and bool(found.t_events[0].size)

    def _until(self) -> Any:
        """The integration up to what is wanted. A pressure drop that is typed belongs to all of the volume, which is not known before."""
        field = "conversion" if self.wanted != "the temperature" else "outlet_temperature"
        # By the secant through (volume assumed, volume found): the pressure within depends on how large the whole is.
        assumed, before = LONGEST * self.inlet_volume, None
        for _ in range(MOST_PASSES):
            found = far(partial(self.integrate, total=assumed), LONGEST * self.inlet_volume)
            if self._astray(found):
                return found
            if not found.t_events[-1].size:
                raise self._short_of(found, assumed, field)
            gained = float(found.t[-1])
            if self.loss != AS_GIVEN or self.leaving == self.entering or abs(gained - assumed) <= SAME * gained:
                return found
            steep = 0.0 if before is None or before[0] == assumed else (gained - before[1]) / (assumed - before[0])
            before = assumed, gained
            assumed = (gained - steep * assumed) / (1.0 - steep) if abs(steep) < 0.9 else gained
        raise UnitFault(f"No size was found at which the pressure drop and {self.wanted} agree.", "Give a volume or a length.", "pressure_change")

    def _short_of(self, found: Any, total: float, field: str) -> UnitFault:
        reacting, last = self.reacting, found.y[:, -1]
        most = f"{100 * reacting.conversion(reacting.flows(self.extents(last))):.4g} %"
        if field == "outlet_temperature":
            most = f"{self.local(float(found.t[-1]), last, total)[0]:.5g} K"
        text = f"{self.wanted[0].upper()}{self.wanted[1:]} comes to {most} and no further, however large the reactor."
        return UnitFault(text, "Give another value, or another temperature or pressure at the inlet.", field)

    def _at(self, places: Vector, rows: Vector, total: float) -> Along:
        rows = rows.copy()
        for row in rows:
            row[: len(self.reacting.numbers)] = self.reacting.possible(self.extents(row))
        there = [self.local(float(place), row, total) for place, row in zip(places, rows, strict=True)]
        flows = np.array([flow for _, _, flow, _ in there])
        enthalpy = np.array([phase.enthalpy * float(flow.sum()) for _, _, flow, phase in there])
        T, P = np.array([t for t, _, _, _ in there]), np.array([p for _, p, _, _ in there])
        outside = np.array([self._outside(self._heat(row)) for row in rows]) if self.way in THROUGH_WALL else np.zeros(0)
        extents = rows[:, : len(self.reacting.numbers)]
        return Along(places, extents, flows, enthalpy - self.enthalpy, T, P, tuple(phase for _, _, _, phase in there), outside)

    def residence(self, solved: Along) -> float:
        """s that the fluid spends inside: the integral of dV over its volume flow, of a bed what the particles leave of it."""
        flow = [phase.molar_volume * float(flows.sum()) for phase, flows in zip(solved.phases, solved.flows, strict=True)]
        free = self.voidage if self.loss == BED else 1.0
        return free * float(np.trapezoid(1.0 / np.array(flow), solved.volume)) if min(flow) > 0.0 else 0.0


def ending(event: Callable[[float, Vector, float], float]) -> Callable[[float, Vector, float], float]:
    """An event at which the integration ends."""

    def ends(volume: float, y: Vector, total: float) -> float:
        return float(event(volume, y, total))

    ends.terminal = True  # type: ignore[attr-defined]
    return ends


def far(integrate: Callable[[float], Any], end: float) -> Any:
    """An integration as far as anything is looked for; where the integrator goes astray once nothing changes any more, not so far."""
    least = end / LONGEST
    while True:
        try:
            return integrate(end)
        except UnitFault as fault:
            end *= 0.1
            if fault.field is not None or end < least:  # what a value is to blame for has nothing to do with how far it was looked
                raise


def _typed_temperatures(givens: Givens) -> Callable[[float], float]:
    """K over the share of the volume, between the points by a monotone cubic. Raises UnitFault for points that make no curve."""
    from scipy.interpolate import PchipInterpolator

    field = givens.fields["temperatures"]
    table = givens.raw("temperatures")
    share, T = (table.si(column) for column in field.columns)
    if len(share) < 2 or not (np.isfinite(share).all() and np.isfinite(T).all()):
        raise UnitFault("Typed temperatures need two rows or more, each with a place and a temperature.", "Fill them in.", "temperatures")
    if (np.diff(share) <= 0.0).any() or share[0] > 0.0 or share[-1] < 1.0:
        raise UnitFault("The places of the typed temperatures rise from 0, the inlet, to 1, the outlet.", "Correct them.", "temperatures")
    curve = PchipInterpolator(share, T)
    return lambda at: float(curve(at))
