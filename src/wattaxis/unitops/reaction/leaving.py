"""What leaves a reactor: ports and pressures of all of them, and of those without rates the state, by a temperature or a heat, and the change."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING

import numpy as np

from wattaxis.properties import FlashError
from wattaxis.properties.state import State, Vector
from wattaxis.quantities import Quantity
from wattaxis.unitops.base import Choice, Field, Finding, Givens, Port, ResultValue, StreamState, UnitFault, UnitResult, UnitSpec
from wattaxis.unitops.energy.connections import HEAT_IN, HEAT_PORTS, heat_crossing, heat_given
from wattaxis.unitops.heat.thermal import NO_PRESSURE_LOSS
from wattaxis.unitops.reaction.kinetic import COLDEST, HOTTEST

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel

#: How closely a temperature is found, and the factor by which it is looked for about the inlet's.
_CLOSE, _WIDER = 1e-9, 1.25

PORTS = (Port("inlet", "Inlet", "in", place=(0.0, 0.5)), Port("outlet", "Outlet", "out", place=(1.0, 0.5)), *HEAT_PORTS)
PRESSURE_FIELDS = (
    Field("outlet_pressure", "Outlet pressure", "pressure"),
    Field("pressure_change", "Pressure change", "pressure_difference", "outlet minus inlet; a loss is negative"),
)
PRESSURE = Choice("Pressure", ("outlet_pressure", "pressure_change"), 1, ("pressure_change", NO_PRESSURE_LOSS, "no pressure loss was given"))
STATE_FIELDS = (
    Field("outlet_temperature", "Outlet temperature", "temperature"),
    Field("duty", "Heat added", "power", "0: adiabatic"),
    *PRESSURE_FIELDS,
)
STATE_CHOICES = (Choice("Heat", ("outlet_temperature", "duty"), port=HEAT_IN), PRESSURE)

#: Flows (mol/s, by component) of what leaves at a temperature (K).
Made = Callable[[float], Vector]


class LeavingSpec(UnitSpec):
    """Outlet temperature or heat, and pressure."""

    outlet_temperature: Quantity | None = None
    duty: Quantity | None = None
    outlet_pressure: Quantity | None = None
    pressure_change: Quantity | None = None


class Leaving:
    """The outlet of a reactor: as ``made`` says at the given temperature, or at the one to which the heat leads.

    ``fixed``: what is made is the same at every temperature. Raises UnitFault where there is no such state.
    """

    def __init__(self, givens: Givens, inlet: StreamState, model: PropertyModel, P: float, made: Made, fixed: bool = False) -> None:
        self.givens, self.inlet, self.model, self.P = givens, inlet, model, P
        temperature = givens.si("outlet_temperature")
        try:
            if temperature is not None:
                self.flows, state = self._at(made, temperature)
            elif fixed or inlet.flow <= 0.0:
                self.flows = made(inlet.state.temperature)
                state = self._with(self.flows, inlet.state.temperature)
            else:
                self.flows, state = self._by_heat(made)
        except FlashError as error:
            text = f"The heat of the reactions leads to no temperature between {COLDEST:.0f} and {HOTTEST:.0f} K: {error}"
            raise UnitFault(text, "Give an outlet temperature, or let less react.") from error
        self.outlet = StreamState(float(self.flows.sum()), state)
        self.heat = self.outlet.enthalpy_flow - inlet.enthalpy_flow

    @property
    def _wanted(self) -> float:
        """W that leave."""
        duty = self.givens.power(HEAT_IN) if HEAT_IN in self.givens.energy else self.givens.si("duty")
        return self.inlet.enthalpy_flow + (duty or 0.0)

    def _at(self, made: Made, T: float) -> tuple[Vector, State]:
        flows = made(T)
        total = float(flows.sum())
        return flows, self.model.flash(flows / total if total > 0.0 else self.inlet.state.fractions, T=T, P=self.P)

    def _with(self, flows: Vector, guess: float) -> State:
        """The state in which flows have the heat."""
        total = float(flows.sum())
        if total > 0.0:
            return self.model.flash(flows / total, P=self.P, H=self._wanted / total, guess=guess)
        return self.model.flash(self.inlet.state.fractions, P=self.P, H=self.inlet.state.enthalpy, guess=guess)

    def _by_heat(self, made: Made) -> tuple[Vector, State]:
        """The enthalpy at equilibrium rises with temperature, in steps where a solid forms or goes: what leaves lies between the two ends of one."""
        from scipy.optimize import brentq  # late: it is not needed for a page

        wanted, total = self._wanted, self.inlet.flow

        def surplus(T: float) -> float:
            flows, state = self._at(made, T)
            return (float(flows.sum()) * state.enthalpy - wanted) / (total * 1e3)

        low = high = self.inlet.state.temperature
        at = surplus(low)
        below = above = at
        while below > 0.0 and low > COLDEST:
            high, above = low, below
            low = max(low / _WIDER, COLDEST)
            below = surplus(low)
        while above < 0.0 and high < HOTTEST:
            low, below = high, above
            high = min(high * _WIDER, HOTTEST)
            above = surplus(high)
        if below > 0.0 or above < 0.0:
            text = f"The heat leads to no temperature between {COLDEST:.0f} and {HOTTEST:.0f} K."
            raise UnitFault(text, "Give an outlet temperature, or another heat.", "duty")
        T = low if low == high else float(brentq(surplus, low, high, xtol=1e-12, rtol=0.1 * _CLOSE))
        cold, hot = made(T * (1.0 - _CLOSE)), made(T * (1.0 + _CLOSE))
        sides = surplus(T * (1.0 - _CLOSE)), surplus(T * (1.0 + _CLOSE))
        share = min(max(-sides[0] / (sides[1] - sides[0]), 0.0), 1.0) if sides[1] > sides[0] else 0.5
        flows = (1.0 - share) * cold + share * hot
        return flows, self._with(flows, T)

    def result(self, values: Sequence[ResultValue], findings: Sequence[Finding], mass_made: float) -> UnitResult:
        """With the heat, the state and the heat streams told."""
        state = self.outlet.state
        told = (
            ResultValue("duty", "Heat added", "power", self.heat),
            ResultValue("outlet_temperature", "Outlet temperature", "temperature", state.temperature),
            ResultValue("outlet_pressure", "Outlet pressure", "pressure", self.P),
            *values,
        )
        # A reactor gives and takes its heat at the temperature it comes to.
        crossing = heat_crossing(self.givens, state.temperature, state.temperature)
        outside, given = heat_given(self.givens, self.heat, state.temperature, state.temperature)
        return UnitResult({"outlet": self.outlet}, outside, told, (*findings, *crossing), energies=given, mass_made=mass_made)


def conversions(ids: Sequence[str], before: Vector, after: Vector) -> list[ResultValue]:
    """How much of everything that there is less of was used up, and how much there is more of everything else."""
    change, found = after - before, list[ResultValue]()
    least = 1e-12 * float(before.sum())
    for i, name in enumerate(ids):
        if change[i] < -least and before[i] > 0.0:
            found.append(ResultValue("conversion_of", "Conversion", "fraction", float(-change[i] / before[i]), name))
    for i, name in enumerate(ids):
        if change[i] > least:
            found.append(ResultValue("formed", "Formed", "mole_flow", float(change[i]), name))
    return found


def rounded_masses(masses: Vector, before: Vector, after: Vector) -> tuple[float, list[Finding]]:
    """kg/s that molar masses, rounded as they are known, make of nothing, and what is to be said of it."""
    made = float((after - before) @ masses)
    if abs(made) <= 1e-8 * float(before @ masses):
        return made, []
    text = f"The molar masses of what reacts, as far as they are known, do not add up, and the mass balance is off by {1e3 * made:.2g} g/s."
    return made, [Finding("note", "", text, "Give the own components molar masses with more digits.")]


def nothing_reacts(before: Vector, after: Vector, why: str, remedy: str, field: str | None = None) -> list[Finding]:
    """A finding where what leaves is what came in."""
    if before.sum() <= 0.0 or np.abs(after - before).max() > 1e-9 * before.sum():
        return []
    return [Finding("caution", "", f"Nothing reacts: {why}", remedy, field)]
