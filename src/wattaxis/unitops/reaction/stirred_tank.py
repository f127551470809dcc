"""Stirred tank: everything inside is as what leaves; all its steady states are found, and the document keeps which one counts."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np

from wattaxis.properties import FlashError
from wattaxis.properties.state import State
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
from wattaxis.unitops.profile import Profile, ProfileMark, column
from wattaxis.unitops.reaction.kinetic import BASE, CATALYST, REACTIONS, Reacting
from wattaxis.unitops.reaction.leaving import PORTS, PRESSURE, PRESSURE_FIELDS
from wattaxis.unitops.reaction.tank import LOOKS, SteadyPoint, Tank
from wattaxis.unitops.registry import unit_operation

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel

STATES = ("coldest", "middle", "hottest")
#: Tanks in series at most; a hundred are as good as a tube.
MOST_TANKS = 100


class StirredTankSpec(UnitSpec):
    """Reactions, how large or how far, temperature or heat, pressure."""

    reactions: str | None = None
    tanks: Quantity | None = None
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
        "eigenvalues of the balances in time tell (Uppal, Ray, Poore 1974). Tanks in series are calculated one after the other, all at the outlet "
        "pressure, each at the steady state that is chosen."
    )
    Spec = StirredTankSpec
    ports = PORTS
    fields = (
        REACTIONS,
        Field("tanks", "Tanks in series", "ordinal", "blank: one; all alike: size, coolant and its area are of each, given heat is shared evenly"),
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
        """Tank by tank: all steady states, then the one that was chosen."""
        inlet = inlets["inlet"][0]
        if inlet.flow <= 0.0:
            return UnitResult({"outlet": inlet}, findings=(Finding("caution", "", "Nothing comes in, so nothing reacts.", "Check the feed."),))
        count, P = _tanks(givens), outlet_pressure(givens, inlet.state.pressure)
        stages = [_Stage(givens, inlet, model, P, count)]
        while len(stages) < count:
            stages.append(_Stage(givens, stages[-1].outlet, model, P, count))
        first, outlet = stages[0].reacting, stages[-1].outlet
        duty, T = outlet.enthalpy_flow - inlet.enthalpy_flow, outlet.state.temperature
        temperatures = [stage.at.T for stage in stages]
        findings = [*first.doubts(min(temperatures), max(temperatures)), *heat_crossing(givens, T, T)]
        for number, stage in enumerate(stages, 1):
            findings += [replace(f, text=f"Tank {number}: {f.text}") if count > 1 else f for f in stage.findings()]
        outside, given = heat_given(givens, duty, T, T)
        values = (*_values(stages, outlet, duty), *first.values(stages[-1].flows))
        made = sum(stage.reacting.mass_made(stage.at.extents) for stage in stages)
        profiles = _tank_by_tank(stages) if count > 1 else stages[0].profile()
        return UnitResult({"outlet": outlet}, outside, values, tuple(findings), profiles=profiles, energies=given, mass_made=made)


def _tanks(givens: Givens) -> int:
    """How many tanks there are. Raises UnitFault for a number that is none."""
    given = givens.si("tanks")
    count = 1.0 if given is None else given
    if count != int(count) or not 1 <= count <= MOST_TANKS:
        raise UnitFault(f"There are 1 to {MOST_TANKS} tanks, and not {count:g}.", "Give a whole number.", "tanks")
    if count > 1 and givens.si("conversion") is not None:
        text = "A conversion is that of one tank."
        raise UnitFault(text, "Give the volume or the residence time of each tank, and let an aim find it.", "conversion")
    return int(count)


class _Stage:
    """A tank and what leaves it. Raises UnitFault where there is no such state."""

    def __init__(self, givens: Givens, inlet: StreamState, model: PropertyModel, P: float, count: int) -> None:
        self.reacting = Reacting(givens, inlet, model)
        self.tank = tank = Tank(self.reacting, givens, P, count)
        self.points, self.found = tank.steady_states()
        self.chosen = _chosen(self.found, givens.option("steady_state") or STATES[0])
        self.at = self.found[self.chosen]
        self.flows = self.reacting.flows(self.at.extents)
        total = float(self.flows.sum())
        try:
            if tank.temperature is not None:
                state = model.flash(self.reacting.spread(self.flows), T=tank.temperature, P=P)
            else:
                heat = (inlet.enthalpy_flow + tank.heat(self.at.T)) / total
                state = model.flash(self.reacting.spread(self.flows), P=P, H=heat, guess=self.at.T)
        except FlashError as error:
            raise UnitFault(f"What leaves has no state: {error}", "Take out heat, or let less react.") from error
        self.outlet = StreamState(total, state)

    def findings(self) -> list[Finding]:
        """What is to be said of it."""
        return _findings(self.reacting, self.tank, self.found, self.chosen, self.outlet.state)

    def profile(self) -> tuple[Profile, ...]:
        """Heat made and removed over temperature."""
        return (_profile(self.tank, self.points, self.found),) if len(self.points) > 1 else ()

    @property
    def time(self) -> float:
        """s that the reacting phase stays."""
        return self.at.volume / self.at.phase_flow if self.at.phase_flow > 0.0 else 0.0


def _tank_by_tank(stages: Sequence[_Stage]) -> tuple[Profile, ...]:
    first = stages[0].reacting
    conversions = [first.conversion(stage.flows) for stage in stages]
    columns = [
        column("temperature", "Temperature", "temperature", [stage.outlet.state.temperature for stage in stages]),
        column("conversion", f"Conversion of {first.ids[first.base]}", "fraction", conversions),
    ]
    for i in first.there:
        columns.append(column("flow", "Flow", "mole_flow", [float(stage.flows[i]) for stage in stages], component=first.ids[i], group="Flows"))
    along = column("tank", "Tank", "ordinal", [float(k) for k in range(1, len(stages) + 1)])
    return (Profile("tanks", "Tank by tank", along, tuple(columns), steps=True),)


def _chosen(found: Sequence[SteadyPoint], which: str) -> int:
    """The place of the steady state that counts; of two the middle one is the hotter."""
    return {"coldest": 0, "hottest": len(found) - 1}.get(which, len(found) // 2)


def _kept(tank: Tank, points: Sequence[SteadyPoint]) -> list[str]:
    """Whether the contents stay at each steady state: crossings change direction by turns, at the coldest the heat removed grows faster, unless it
    touches; where it does they may still swing."""
    slopes = [k % 2 == 0 if len(points) % 2 else False for k in range(len(points))]
    return ["not stable" if not slope else "stable" if tank.swing(p) is None else "swings" for slope, p in zip(slopes, points, strict=True)]


def _profile(tank: Tank, points: Sequence[SteadyPoint], found: Sequence[SteadyPoint]) -> Profile:
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


def _values(stages: Sequence[_Stage], outlet: StreamState, duty: float) -> list[ResultValue]:
    kinetics = stages[0].reacting.kinetics
    extents = sum((stage.at.extents for stage in stages), np.zeros(len(kinetics.set.reactions)))
    volume, time = sum(stage.at.volume for stage in stages), sum(stage.time for stage in stages)
    each = ", mean of the tanks" if len(stages) > 1 else ""
    all_of_them = [
        ResultValue("volume_in_all", f"Volume of {kinetics.phase}, all tanks", "volume", volume),
        ResultValue("residence_in_all", f"Residence time of the {kinetics.phase}, all tanks", "time", time),
    ]
    return [
        ResultValue("duty", "Heat added", "power", duty),
        ResultValue("outlet_temperature", "Outlet temperature", "temperature", outlet.state.temperature),
        ResultValue("outlet_pressure", "Outlet pressure", "pressure", outlet.state.pressure),
        ResultValue("volume", f"Volume of {kinetics.phase}{each}", "volume", volume / len(stages)),
        ResultValue("residence_time", f"Residence time of the {kinetics.phase}{each}", "time", time / len(stages)),
        *(all_of_them if len(stages) > 1 else []),
        *(ResultValue("extent", "Extent", "mole_flow", float(x), r.name) for x, r in zip(extents, kinetics.set.reactions, strict=True)),
    ]


def _findings(reacting: Reacting, tank: Tank, found: Sequence[SteadyPoint], chosen: int, state: State) -> list[Finding]:
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
