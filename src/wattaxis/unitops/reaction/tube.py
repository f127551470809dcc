"""The balances of a tube, or many, over its volume: extents, heat and pressure, and what flows along the outside."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from importlib import import_module
from typing import Any

import numpy as np

from wattaxis.equipment.packed_bed import bed_reynolds
from wattaxis.equipment.tube_heat import film_coefficient, film_doubt, wall_resistance
from wattaxis.properties.state import Phase, Vector
from wattaxis.unitops.base import Givens, UnitFault
from wattaxis.unitops.energy.connections import HEAT_IN
from wattaxis.unitops.reaction.boiling import BOILING, Boiler
from wattaxis.unitops.reaction.coolant import Coolant
from wattaxis.unitops.reaction.kinetic import COLDEST, HOTTEST, Reacting
from wattaxis.unitops.reaction.shell import Shell

ADIABATIC, ISOTHERMAL, EVENLY, COOLANT = "adiabatic", "isothermal", "heat spread evenly", "coolant at one temperature"
TYPED, CO_CURRENT, COUNTER_CURRENT = "typed temperatures", "co-current stream", "counter-current stream"
#: Ways in which heat passes a wall, and those in which a stream of the sheet flows outside it.
THROUGH_WALL, STREAMS = (COOLANT, BOILING, CO_CURRENT, COUNTER_CURRENT), (CO_CURRENT, COUNTER_CURRENT)
AS_GIVEN, FRICTION, BED = "as typed", "friction in the tubes", "packed bed"
#: In the order in which the kernels number them.
WAYS, LOSSES = (ADIABATIC, ISOTHERMAL, EVENLY, TYPED, COOLANT, CO_CURRENT, COUNTER_CURRENT), (AS_GIVEN, FRICTION, BED)
#: Relative tolerance of the integration, and of extents against the feed.
TOLERANCE, LEAST = 1e-9, 1e-13
#: s of residence beyond which a conversion is not looked for, and rows of the profile.
LONGEST, ROWS = 1e7, 41
#: Times a length or volume is corrected for a pressure drop that belongs to all of it; times the heat of a stream outside is looked for.
MOST_PASSES, MOST_TRIES = 60, 24
#: Share of its heat by which a stream outside may miss its inlet: where the search ends, and where it may where nothing better is found.
CLOSED, SETTLED = 1e-8, 1e-6
#: Relative tolerance where a stream outside flows the other way: what is left of each step adds up to what it misses its inlet by.
STRICT = 1e-11
#: Two sizes are the same to about what the steps of the integration leave open.
SAME = 10.0 * TOLERANCE
#: Steps from the heat of the last time.
MOST_NEAR = 6
#: Share of the inlet pressure at which it counts as used up.
USED_UP = 0.02


#: A table of pieces where there is none.
_NO_PIECES = np.zeros((1, 6))


@dataclass(frozen=True)
class Integrated:
    """The unknowns ``y`` at a ``volume`` (m3) where the integration ended, and in ``rows`` on the way; whether it ended because what is wanted was
    ``reached``, or because the stream outside had gone ``astray``."""

    volume: float
    y: Vector
    rows: Vector
    astray: bool
    reached: bool


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
        if self.way in STREAMS and outside is None:
            self.way = ADIABATIC
        self.loss = givens.option("pressure_loss") or AS_GIVEN
        self.bore, tubes = givens.si("diameter"), givens.si("tubes")
        self.tubes = 1.0 if tubes is None else tubes
        self.boiler = Boiler(givens) if self.way == BOILING else None
        self.coolant = givens.si("coolant_temperature") if self.boiler is None else self.boiler.temperature
        #: W/(m3 K), of the inner wall by the volume inside; the choices ask for diameter and coefficient.
        self.wall = 4.0 / self.bore * (givens.si("heat_transfer_coefficient") or 0.0) if self.bore else 0.0
        #: The shell in which a stream flows along the tubes, where that says how its heat passes.
        self.shell = self._shell(givens)
        outside_film = self.shell.film if self.shell else givens.si("outside_coefficient") if self.way in THROUGH_WALL else None
        #: m2 K/W of the inner area of all but the film inside, where that follows from the flow; None where the whole is given.
        self.resistance = None if outside_film is None else self._resistance(givens, outside_film)
        self.duty = givens.power(HEAT_IN) if HEAT_IN in givens.energy else givens.si("duty") if self.way == EVENLY else None
        self.particle, self.voidage, self.roughness = (givens.si(key) or 0.0 for key in ("particle_diameter", "voidage", "roughness"))
        #: K over the share of the volume, as the kernels take it.
        self.typed: Vector = _NO_PIECES
        self.temperatures: Callable[[float], float] | None = None
        if self.way == TYPED:
            self.typed, self.temperatures = _typed_temperatures(givens)
        self._refuse(givens)
        film = self.resistance is not None
        self.tables = self._curves("viscosity", self.loss != AS_GIVEN or film), self._curves("conductivity", film)
        length = givens.si("length")
        self.total = givens.si("volume") if length is None else length * self.section
        self.goal = self._goal(givens)
        self._all_heat = 0.0
        #: The heat that a stream against the flow gave in all the last time, and how what it missed changed with it.
        self.hint: tuple[float, float] | None = None if givens.hint is None or self.way != COUNTER_CURRENT else givens.hint[0]
        self._guess = self.state.temperature
        self.inlet_volume = reacting.phase(self.state.temperature, self.entering, reacting.feed).molar_volume * float(reacting.feed.sum())

    def _shell(self, givens: Givens) -> Shell | None:
        wide = givens.si("shell_diameter") if self.way in STREAMS else None
        if wide is None or self.outside is None:
            return None
        outer = (self.bore or 0.0) + 2.0 * (givens.si("wall_thickness") or 0.0)
        return Shell(self.outside.model, self.outside.inlet, wide, outer, self.tubes)

    def _resistance(self, givens: Givens, outside: float) -> float:
        thickness, conductivity, fouling = (givens.si(key) or 0.0 for key in ("wall_thickness", "wall_conductivity", "fouling_resistance"))
        if not (outside > 0.0 and conductivity > 0.0):
            raise UnitFault(
                "Neither a film nor a wall that lets no heat through can be between two streams.", "Give values above 0.", "outside_coefficient"
            )
        return wall_resistance(self.bore or 1.0, thickness, conductivity, outside, fouling)

    def coefficient(self, T: float, P: float, flows: Vector, phase: Phase, heats: bool) -> tuple[float, str]:
        """W/(m2 K) of the inner area at a place, where it follows from the flow, and what is to be said of the film inside."""
        from wattaxis.properties.transport import transport  # late: it loads the kernels

        assert self.bore is not None
        assert self.resistance is not None
        known = transport(phase.kind, T, P, phase.fractions, self.reacting.model.curves)
        flux = float(flows.sum()) * phase.molar_mass / self.section
        particle = self.particle if self.loss == BED else None
        inside = film_coefficient(flux, known.viscosity, phase.heat_capacity / phase.molar_mass, known.conductivity, self.bore, particle, heats)
        return 1.0 / (1.0 / inside + self.resistance), film_doubt(flux, known.viscosity, self.bore, particle)

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

    def _goal(self, givens: Givens) -> float | None:
        """The conversion or temperature (K) at which the tube ends, None where its size is given. Raises UnitFault for what cannot be wanted."""
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
            return wanted
        assert hot is not None
        if self.way == ISOTHERMAL:
            raise UnitFault(
                "An isothermal tube comes to no other temperature than that of its feed.", "Give a size or a conversion.", "outlet_temperature"
            )
        return hot

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
            T = self.state.temperature if self.temperatures is None else self.temperatures(min(volume / total, 1.0) if total > 0.0 else 1.0)
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

    def bed_reynolds(self, solved: Along) -> tuple[float, float]:
        """Least and largest Reynolds number of the bed, at the ends."""
        from wattaxis.properties.transport import transport  # late: it loads the kernels

        found = []
        for k in (0, -1):
            phase = solved.phases[k]
            viscosity = transport(phase.kind, float(solved.T[k]), float(solved.P[k]), phase.fractions, self.reacting.model.curves).viscosity
            flux = float(solved.flows[k].sum()) * phase.molar_mass / self.section
            found.append(bed_reynolds(flux, viscosity, self.particle, self.voidage))
        return min(found), max(found)

    def integrate(self, end: float, total: float, places: Vector | None = None) -> Integrated:
        """Over the volume up to ``end`` (m3), or until what is wanted is reached; ``total`` is what pressure and heat are spread over.

        With ``places`` (m3) the unknowns there are told too. Raises UnitFault where it does not come that far.
        """
        kernels: Any = import_module("wattaxis.properties.kernels.tube")  # late: they load with the first calculation
        reacting, count = self.reacting, len(self.reacting.numbers)
        self._guess = self.state.temperature
        given = self._given(kernels)
        y = np.zeros(count + 1) if self.loss == AS_GIVEN else np.append(np.zeros(count + 1), self.entering)
        places = np.zeros(0) if places is None else places
        rows, told = np.empty((len(places), len(y))), np.empty(6)
        goal = kernels.END if self.goal is None else kernels.CONVERTED if self.wanted != "the temperature" else kernels.HOT
        kinetics, film = reacting.kinetics, self.resistance is not None
        kinds = (
            reacting.model.code,
            reacting.root,
            WAYS.index(COOLANT if self.way == BOILING else self.way),
            LOSSES.index(self.loss),
            goal,
            reacting.base,
        )
        flags = (kinetics.counts_activity, kinetics.counts_volume, film, kernels.BY_MODEL)
        par, pairs, shifts, ctx, *_ = reacting.model.one_phase_work()
        beside = _NO_PIECES if self.outside is None else self.outside.pieces
        status = kernels.integrate_tube(
            end, total, places, rows, np.array([*kinds, *flags], dtype=np.int64), given, reacting.feed, *kinetics.laws, par, pairs, shifts, ctx,
            self.typed, beside, *self.tables, y, told,
        )  # fmt: skip
        found = Integrated(float(told[3]), y, rows, int(told[4]) == kernels.ASTRAY, goal != kernels.END and int(told[4]) == goal)
        if status:
            raise self._ended(found, status == kernels.NO_STEP, total)
        if int(told[4]) == kernels.USED_UP:
            raise self._without_pressure(found)
        return found

    def _given(self, kernels: Any) -> Vector:
        """The numbers of the tube as the kernels number them."""
        given = np.zeros(kernels.GIVEN)
        inlet = {"T_IN": self.state.temperature, "P_IN": self.entering, "H_IN": self.enthalpy, "P_OUT": self.leaving}
        size = {
            "DENSITY": self.reacting.density,
            "SECTION": self.section,
            "BORE": self.bore or 0.0,
            "PARTICLE": self.particle,
            "VOIDAGE": self.voidage,
            "ROUGHNESS": self.roughness,
        }
        heat = {
            "WALL": self.wall,
            "T_COOLANT": self.coolant or 0.0,
            "DUTY": self.duty or 0.0,
            "ALL_HEAT": self._all_heat,
            "RESISTANCE": self.resistance or 0.0,
        }
        search = {
            "WANTED": 0.0 if self.goal is None else self.goal,
            "REL": STRICT if self.way == COUNTER_CURRENT else TOLERANCE, "ABS": LEAST, "LEAST_P": USED_UP * self.entering,
            "COLDEST": COLDEST, "HOTTEST": HOTTEST,
        }  # fmt: skip
        outside: dict[str, float] = {}
        if self.outside is not None:
            stream = self.outside.inlet
            outside = {"OUT_FLOW": stream.flow, "OUT_H": stream.state.enthalpy, "OUT_LOW": self.outside.lowest, "OUT_HIGH": self.outside.highest}
        for name, value in {**inlet, **size, **heat, **search, **outside}.items():
            given[getattr(kernels, name)] = value
        return given

    def _curves(self, what: str, wanted: bool) -> Vector:
        """A property of the components over temperature, where it is wanted. Raises UnitFault where one has none."""
        if not wanted:
            return _NO_PIECES
        table = self.reacting.model.curves.table(f"{'gas' if self.reacting.kinetics.phase == 'vapour' else 'liquid'} {what}")
        lacking = [name for name, row in zip(self.reacting.ids, table, strict=True) if not np.isfinite(row).all()]
        if lacking:
            text = f"The {what} of {', '.join(lacking)} is not known, so what follows from it is not."
            raise UnitFault(text, "Give pressure change and heat transfer coefficient, or a curve under Chemistry.", "pressure_loss")
        return table

    def _ended(self, found: Integrated, stuck: bool, total: float) -> UnitFault:
        """Why an integration has no end, in words."""
        place = f"{found.volume:.4g} m3 from the inlet"
        try:
            T, P, _, phase = self.local(found.volume, found.y, total)
            self.reacting.rates(phase, T, P)
        except UnitFault as fault:
            return fault
        if self.loss != AS_GIVEN and self.pressure(found.volume, found.y, total) < 2.0 * USED_UP * self.entering:
            return self._without_pressure(found)
        if self.loss != AS_GIVEN and phase.density is None:
            text = f"The property model gives the {phase.kind} no volume at {T:.5g} K, so what it loses in pressure is not known."
            return UnitFault(text, "Give the pressure change, or choose another property model.", "pressure_loss")
        if not stuck:
            text = f"The heat leads to no temperature between {COLDEST:.0f} and {HOTTEST:.0f} K, {place}."
            return UnitFault(text, "Let less heat come in or go out, dilute the feed, or let less react.")
        text = f"The integration along the tube ended {place}: something there changes without limit."
        return UnitFault(text, "Look at rates and constants.")

    def _without_pressure(self, found: Integrated) -> UnitFault:
        text = f"The pressure is used up {found.volume / self.section:.4g} m from the inlet."
        return UnitFault(text, "Use more or wider tubes, larger particles, or a higher pressure.", "pressure_loss")

    def run(self) -> Along:
        """The whole tube, as its size or what is wanted says."""
        if self.goal is None and self.total == 0.0:
            start = np.zeros((1, len(self.reacting.numbers) + 1 + (self.loss != AS_GIVEN)))
            if self.loss != AS_GIVEN:
                start[0, -1] = self.entering
            return self._at(np.zeros(1), start, 0.0)
        found = self._counter_current() if self.way == COUNTER_CURRENT else self._whole()
        self.total = total = found.volume
        if self.draft:
            return self._at(np.array([total]), found.y[None], total)
        # Once more, now that the end is known, with the places on the way.
        self.goal = None
        places = np.linspace(0.0, total, ROWS)
        return self._at(places, self.integrate(total, total, places).rows, total)

    def _whole(self) -> Integrated:
        if self.goal is not None:
            return self._until()
        assert self.total is not None  # the choices ask for one of them
        return self.integrate(self.total, self.total)

    def _counter_current(self) -> Integrated:
        """The heat in all that brings the stream outside from its inlet, at the far end, to where it leaves."""
        from scipy.optimize import brentq

        tried: dict[float, float] = {}
        last: list[Integrated] = []

        def gap(heat: float) -> float:
            if heat not in tried:
                self._all_heat = heat
                last[:] = [self._whole()]
                missed = self._heat(last[0].y) - heat
                tried[heat] = 0.0 if abs(missed) <= CLOSED * abs(heat) and not last[0].astray else missed
            return tried[heat]

        found = self._near(gap)
        if found is None:
            found = float(brentq(gap, *self._around(gap), xtol=1e-300, rtol=1e-13))
            (_, one, at), (_, other, there) = sorted((abs(missed), heat, missed) for heat, missed in tried.items())[:2]
            self.hint = (found, (there - at) / (other - one)) if there != at else None
        if found != self._all_heat:
            tried.clear()
        if abs(gap(found)) > SETTLED * abs(found) or last[0].astray:
            text = "The stream outside comes so near the temperature inside, along so much of the tubes, that its way back cannot be followed."
            raise UnitFault(text, "Give a smaller size or heat transfer coefficient, or let more flow outside.", "heat")
        return last[0]

    def _near(self, gap: Callable[[float], float]) -> float | None:
        """By the secant from the heat and the slope of the last time, None where that does not lead there."""
        if self.hint is None:
            return None
        heat, slope = self.hint
        missed = gap(heat)
        for _ in range(MOST_NEAR):
            if missed == 0.0:
                return heat
            moved = heat - missed / slope
            left = gap(moved)
            if not abs(left) < abs(missed):
                return None
            slope, heat, missed = (left - missed) / (moved - heat), moved, left
            self.hint = heat, slope
        return None

    def _around(self, gap: Callable[[float], float]) -> tuple[float, float]:
        """Two heats with the one that is looked for between them."""
        assert self.outside is not None
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

    def _until(self) -> Integrated:
        """The integration up to what is wanted. A pressure drop that is typed belongs to all of the volume, which is not known before."""
        field = "conversion" if self.wanted != "the temperature" else "outlet_temperature"
        # By the secant through (volume assumed, volume found): the pressure within depends on how large the whole is.
        assumed, before = LONGEST * self.inlet_volume, None
        for _ in range(MOST_PASSES):
            found = self.integrate(LONGEST * self.inlet_volume, assumed)
            if found.astray:
                return found
            if not found.reached:
                raise self._short_of(found, assumed, field)
            gained = found.volume
            if self.loss != AS_GIVEN or self.leaving == self.entering or abs(gained - assumed) <= SAME * gained:
                return found
            steep = 0.0 if before is None or before[0] == assumed else (gained - before[1]) / (assumed - before[0])
            before = assumed, gained
            assumed = (gained - steep * assumed) / (1.0 - steep) if abs(steep) < 0.9 else gained
        raise UnitFault(f"No size was found at which the pressure drop and {self.wanted} agree.", "Give a volume or a length.", "pressure_change")

    def _short_of(self, found: Integrated, total: float, field: str) -> UnitFault:
        reacting, last = self.reacting, found.y
        most = f"{100 * reacting.conversion(reacting.flows(self.extents(last))):.4g} %"
        if field == "outlet_temperature":
            most = f"{self.local(found.volume, last, total)[0]:.5g} K"
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


def _typed_temperatures(givens: Givens) -> tuple[Vector, Callable[[float], float]]:
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
    return np.ascontiguousarray(np.column_stack((share[:-1], share[1:], curve.c.T))), lambda at: float(curve(at))
