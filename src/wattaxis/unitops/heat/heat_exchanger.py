"""Heat exchanger: heat from a hot to a cold stream in counter-current, with the heat curve between them."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import TYPE_CHECKING

import numpy as np

from wattaxis.properties import FlashError
from wattaxis.properties.state import Vector
from wattaxis.quantities import Quantity
from wattaxis.unitops.base import Choice, Field, Finding, Givens, Port, ResultValue, StreamState, UnitFault, UnitOperation, UnitResult, UnitSpec
from wattaxis.unitops.heat.thermal import NO_PRESSURE_LOSS, SATURATION, beyond_saturation, saturated_pressure
from wattaxis.unitops.pressures import PressureSide
from wattaxis.unitops.profile import Profile, ProfileMark, ProfilePort, column
from wattaxis.unitops.registry import unit_operation

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel, State

_SEGMENTS, _ROUGH = 40, 8
#: Below this approach (K) the area runs away.
_CLOSE = 1e-3
_NO_LOSS = "no pressure loss was given"


class HeatExchangerSpec(UnitSpec):
    """One value that settles the duty; pressure or pressure change of each side."""

    hot_outlet_temperature: Quantity | None = None
    cold_outlet_temperature: Quantity | None = None
    hot_outlet_vapour_fraction: Quantity | None = None
    cold_outlet_vapour_fraction: Quantity | None = None
    duty: Quantity | None = None
    minimum_approach: Quantity | None = None
    ua: Quantity | None = None
    hot_outlet_subcooling: Quantity | None = None
    cold_outlet_superheat: Quantity | None = None
    hot_outlet_pressure: Quantity | None = None
    hot_saturation_temperature: Quantity | None = None
    hot_pressure_change: Quantity | None = None
    cold_outlet_pressure: Quantity | None = None
    cold_saturation_temperature: Quantity | None = None
    cold_pressure_change: Quantity | None = None


@dataclass
class _Side:
    """One stream through the exchanger; heat counts into it, the pressure falls evenly with the duty."""

    name: str
    inlet: StreamState
    pressure: float
    model: PropertyModel
    reached: State | None = None
    #: States that were needed already, by heat and share.
    known: dict[tuple[float, float], State] = field(default_factory=dict)
    #: Enthalpies of bubble and dew points, by vapour fraction and pressure.
    edges: dict[tuple[float, float], float] = field(default_factory=dict)
    #: Where the last one was, K: the next is not far.
    near: float = 0.0

    def after(self, heat: float, share: float = 1.0) -> State:
        """The state after taking up ``heat`` (W), ``share`` of the way through."""
        if (heat, share) in self.known:
            return self.known[heat, share]
        h, p = self.enthalpy_after(heat), self.pressure_at(share)
        try:
            state = self.model.flash(self.inlet.state.fractions, P=p, H=h, guess=self.near or self.inlet.state.temperature)
        except FlashError as error:
            word = "would give off more heat than it can" if heat < 0.0 else "would take up more heat than it can below 6000 K"
            raise UnitFault(f"With a duty of {abs(heat) / 1e3:.4g} kW the {self.name} stream {word}.", "Give a smaller duty.", "duty") from error
        self.known[heat, share], self.near = state, state.temperature
        return state

    def pressure_at(self, share: float) -> float:
        """Pa, ``share`` of the way through."""
        return self.inlet.state.pressure + share * (self.pressure - self.inlet.state.pressure)

    def enthalpy_after(self, heat: float) -> float:
        """J/mol after taking up ``heat`` (W)."""
        return self.inlet.state.enthalpy + heat / self.inlet.flow

    def saturated(self, vapour: float, share: float) -> float:
        """J/mol at the bubble (0) or dew point (1) at the pressure ``share`` of the way through. Raises FlashError."""
        p = self.pressure_at(share)
        if (vapour, p) not in self.edges:
            self.edges[vapour, p] = self.model.flash(self.inlet.state.fractions, P=p, VF=vapour).enthalpy
        return self.edges[vapour, p]

    def heat_to(self, *, temperature: float | None = None, vapour_fraction: float | None = None) -> float:
        """Heat (W, into the stream) that brings it to a temperature or vapour fraction at its outlet; that state is kept for the outlet."""
        z = self.inlet.state.fractions
        try:
            state = self.model.flash(z, P=self.pressure, T=temperature, VF=vapour_fraction)
        except FlashError as error:
            field = f"{self.name}_outlet_" + ("temperature" if temperature is not None else "vapour_fraction")
            raise UnitFault(str(error), "Give another outlet value.", field) from error
        return self.heat_into(state)

    def heat_into(self, state: State) -> float:
        """Heat (W, into the stream) that brings it to a state, which is kept for the outlet."""
        self.reached = state
        return self.inlet.flow * (state.enthalpy - self.inlet.state.enthalpy)

    def leaves(self, heat: float) -> State:
        """The outlet: the state that was asked for, to the last digit, or the one after ``heat``."""
        came = self.inlet.state.enthalpy + heat / self.inlet.flow
        reached = self.reached
        return reached if reached is not None and abs(reached.enthalpy - came) <= 1e-12 * abs(came) else self.after(heat)


@dataclass
class _Curve:
    """Temperatures of both sides over the heat given up by the hot stream from its inlet on."""

    heat: Vector
    hot: Vector
    cold: Vector
    #: Vapour fractions of both.
    hot_vapour: Vector
    cold_vapour: Vector

    @property
    def gaps(self) -> Vector:
        return self.hot - self.cold

    def ua(self) -> float:
        """Sum of the segments' duties over their logarithmic mean differences; infinite where the streams touch."""
        gaps = self.gaps
        if gaps.min() <= 0.0:
            return float("inf")
        one, two = gaps[:-1], gaps[1:]
        ratio = one / two
        near = np.abs(ratio - 1.0) < 1e-6
        mean = np.where(near, 0.5 * (one + two), (one - two) / np.log(np.where(near, 2.0, ratio)))
        return float((np.diff(self.heat) / mean).sum())


@unit_operation
class HeatExchanger(UnitOperation):
    """Two streams in counter-current; what is inside is a heat balance, not yet an apparatus."""

    type = "heat-exchanger"
    title = "Heat exchanger"
    symbol = "exchanger"
    letter = "E"
    also = ("interchanger", "economiser", "recuperator", "condenser", "reboiler")
    family = "heat"
    theory = (
        "First law for both streams in counter-current: the heat that one gives up the other takes. The heat curve has 40 segments, and one more at "
        "every bubble and dew point; UA is the sum of their duties over their logarithmic mean temperature differences (Nagle 1933)."
    )
    Spec = HeatExchangerSpec
    ports = (
        Port("hot_in", "Hot side in", "in", place=(0.0, 0.5)),
        Port("hot_out", "Hot side out", "out", place=(1.0, 0.5)),
        Port("cold_in", "Cold side in", "in", place=(0.5, 0.0)),
        Port("cold_out", "Cold side out", "out", place=(0.5, 1.0)),
    )
    fields = (
        Field("hot_outlet_temperature", "Hot outlet temperature", "temperature"),
        Field("cold_outlet_temperature", "Cold outlet temperature", "temperature"),
        Field("hot_outlet_vapour_fraction", "Hot outlet vapour fraction", "fraction", "0 for a condenser to saturated liquid"),
        Field("cold_outlet_vapour_fraction", "Cold outlet vapour fraction", "fraction", "1 for an evaporator to saturated vapour"),
        Field("hot_outlet_subcooling", "Hot outlet subcooling", "temperature_difference", "below the bubble point"),
        Field("cold_outlet_superheat", "Cold outlet superheat", "temperature_difference", "above the dew point"),
        Field("duty", "Duty", "power", "from the hot to the cold side"),
        Field("minimum_approach", "Minimum approach", "temperature_difference", "smallest difference anywhere along the heat curve"),
        Field("ua", "UA", "conductance", "overall coefficient times area"),
        Field("hot_outlet_pressure", "Hot outlet pressure", "pressure"),
        Field("hot_saturation_temperature", "Hot saturation temperature", "temperature", SATURATION["condenses"]),
        Field("hot_pressure_change", "Hot pressure change", "pressure_difference", "outlet minus inlet; a loss is negative"),
        Field("cold_outlet_pressure", "Cold outlet pressure", "pressure"),
        Field("cold_saturation_temperature", "Cold saturation temperature", "temperature", SATURATION["evaporates"]),
        Field("cold_pressure_change", "Cold pressure change", "pressure_difference", "outlet minus inlet; a loss is negative"),
    )
    drafts = True
    pressures = tuple(
        PressureSide(
            f"{side}_outlet_pressure",
            f"{side}_pressure_change",
            saturation=f"{side}_saturation_temperature",
            saturated_at=border,
            key=side,
            ports=(f"{side}_in", f"{side}_out"),
        )
        for side, border in (("hot", 0.0), ("cold", 1.0))
    )
    choices = (
        Choice(
            "Duty",
            (
                "hot_outlet_temperature", "cold_outlet_temperature", "hot_outlet_vapour_fraction", "cold_outlet_vapour_fraction",
                "hot_outlet_subcooling", "cold_outlet_superheat", "duty", "minimum_approach", "ua",
            ),
        ),
        *(
            Choice(
                f"{side.title()} side pressure",
                (f"{side}_outlet_pressure", f"{side}_saturation_temperature", f"{side}_pressure_change"),
                1,
                (f"{side}_pressure_change", NO_PRESSURE_LOSS, _NO_LOSS),
            )
            for side in ("hot", "cold")
        ),
    )  # fmt: skip

    def solve(self, givens: Givens, inlets: Mapping[str, Sequence[StreamState]], model: PropertyModel, outlets: frozenset[str]) -> UnitResult:
        """Both outlets, the heat curve, UA and approach."""
        hot, cold = (
            _Side(name, inlets[f"{name}_in"][0], self._pressure(givens, name, inlets[f"{name}_in"][0], model), model) for name in ("hot", "cold")
        )
        if min(hot.inlet.flow, cold.inlet.flow) <= 0.0:
            return _without_heat(hot, cold, Finding("note", "", "One side has no flow: no heat is exchanged.", "Give both feeds a flow."))
        if hot.inlet.state.temperature <= cold.inlet.state.temperature:
            both = f"The hot stream comes at {hot.inlet.state.temperature:.2f} K, the cold one at {cold.inlet.state.temperature:.2f} K"
            fault = Finding("fault", "", f"{both}: no heat can be exchanged.", "Swap the two inlets, or check their temperatures.")
            return _without_heat(hot, cold, fault)
        try:
            duty = _duty(givens, hot, cold)
            curve = None if givens.draft else _curve(hot, cold, duty)
        except UnitFault as fault:
            # With outlets all the same: in a loop that fills, the next pass may settle it.
            return _without_heat(hot, cold, fault.finding(""))
        ends = {"hot": hot.leaves(-duty), "cold": cold.leaves(duty)}
        parts = {f"{name}_out": StreamState(side.inlet.flow, ends[name]) for name, side in (("hot", hot), ("cold", cold))}
        if curve is None:
            return UnitResult(parts)
        ua, closest = curve.ua(), int(np.argmin(curve.gaps))
        values = (
            ResultValue("duty", "Duty", "power", duty),
            *([ResultValue("ua", "UA", "conductance", ua)] if ua < float("inf") else []),
            ResultValue("minimum_approach", "Minimum approach", "temperature_difference", float(curve.gaps[closest])),
            ResultValue("mean_difference", "Mean temperature difference", "temperature_difference", duty / ua if ua > 0.0 else float(curve.gaps[0])),
            *_outlet_values(ends, hot, cold),
        )
        return UnitResult(parts, 0.0, values, _findings(givens, duty, curve), profiles=(_profile(curve, closest),) if duty >= 0.0 else ())

    def _pressure(self, givens: Givens, side: str, inlet: StreamState, model: PropertyModel) -> float:
        """Outlet pressure (Pa) of a side. Raises UnitFault."""
        given, boiling = givens.si(f"{side}_outlet_pressure"), givens.si(f"{side}_saturation_temperature")
        if boiling is not None:
            return saturated_pressure(inlet.state, model, boiling, self.pressure_side(f"{side}_in").saturated_at, f"{side}_saturation_temperature")
        pressure = inlet.state.pressure + (givens.si(f"{side}_pressure_change") or 0.0) if given is None else given
        if pressure <= 0.0:
            text = f"The {side} side loses more than the {inlet.state.pressure / 1e5:.4g} bar at its inlet."
            raise UnitFault(text, "Give a smaller drop or an outlet pressure.", f"{side}_pressure_change")
        return pressure


def _duty(givens: Givens, hot: _Side, cold: _Side) -> float:
    """The heat (W) that the given value asks for."""
    for side, sign, beyond in ((hot, -1.0, "subcooling"), (cold, 1.0, "superheat")):
        if (apart := givens.si(f"{side.name}_outlet_{beyond}")) is not None:
            state = beyond_saturation(side.model, side.inlet.state.fractions, side.pressure, beyond, apart, f"{side.name}_outlet_{beyond}")
            return sign * side.heat_into(state)
        temperature, fraction = givens.si(f"{side.name}_outlet_temperature"), givens.si(f"{side.name}_outlet_vapour_fraction")
        if temperature is not None:
            return sign * side.heat_to(temperature=temperature)
        if fraction is not None:
            return sign * side.heat_to(vapour_fraction=fraction)
    duty, approach, ua = givens.si("duty"), givens.si("minimum_approach"), givens.si("ua")
    if duty is not None:
        return duty
    # What either side could pass with the other's inlet temperature at its outlet; beyond that lies no solution.
    most = min(-hot.heat_to(temperature=cold.inlet.state.temperature), cold.heat_to(temperature=hot.inlet.state.temperature))
    if most <= 0.0:
        raise UnitFault("No heat is exchanged: the pressure change alone brings a side to the temperature of the other.", "Check the pressures.")
    if approach is not None:
        return _with_approach(hot, cold, most, approach)
    assert ua is not None  # the asks made sure
    if ua <= 0.0:
        return 0.0

    def missing(duty: float, segments: int = _SEGMENTS) -> float:
        curve = _curve(hot, cold, duty, segments)
        found = curve.ua()
        return (duty / found if found > 0.0 else float(curve.gaps[0])) - duty / ua

    found = _root(missing, most) if missing(most) < 0.0 else most
    # So near that rounding would decide: no area brings them closer.
    return found if _curve(hot, cold, found).gaps.min() >= _CLOSE else _with_approach(hot, cold, most, _CLOSE)


def _with_approach(hot: _Side, cold: _Side, most: float, approach: float) -> float:
    def spare(duty: float, segments: int = _SEGMENTS) -> float:
        return float(_curve(hot, cold, duty, segments).gaps.min()) - approach

    inlets_apart = hot.inlet.state.temperature - cold.inlet.state.temperature
    if approach <= 0.0:
        raise UnitFault("An approach of zero would need an infinite area.", "Give an approach above zero, 5 to 20 K usually.", "minimum_approach")
    if spare(0.0) <= 0.0:
        text = f"The inlets are only {inlets_apart:.4g} K apart; an approach of {approach:.4g} K cannot be kept."
        raise UnitFault(text, "Give a smaller approach.", "minimum_approach")
    return most if spare(most) >= 0.0 else _root(spare, most)


def _root(left: Callable[..., float], most: float) -> float:
    """The duty between 0, where ``left(duty, segments)`` is positive, and ``most``, where it is not, at which nothing is left.

    A rough curve brings it near, so that the fine one is needed around there only; to the last digits, since loops are closed through it.
    """
    from scipy.optimize import brentq

    near = float(brentq(lambda duty: left(duty, _ROUGH), 0.0, most, xtol=1e-5 * most)) if left(most, _ROUGH) < 0.0 else most
    short = left(near) < 0.0
    step, low, high = 1e-4 * most, near, near
    while (low > 0.0) if short else (high < most):
        low, high = (max(0.0, low - step), high) if short else (low, min(most, high + step))
        if (left(low if short else high) < 0.0) != short:
            break
        step *= 8.0
    return float(brentq(left, low, high, xtol=1e-13 * most, rtol=1e-13))


def _curve(hot: _Side, cold: _Side, duty: float, segments: int = _SEGMENTS) -> _Curve:
    """The heat curve for a duty, with the places where a phase appears or vanishes."""
    shares = np.linspace(0.0, 1.0, segments + 1)
    every = max(1, segments // 8)
    turns = [_turns(side, sign * duty, shares[::every], counter=side is cold) for side, sign in ((hot, -1.0), (cold, 1.0))]
    shares = np.union1d(shares, np.concatenate(turns))
    warm = [hot.after(-duty * s, s) for s in shares]
    cool = [cold.after(duty * (1.0 - s), 1.0 - s) for s in shares]
    temperatures = (np.array([state.temperature for state in side]) for side in (warm, cool))
    return _Curve(duty * shares, *temperatures, *(np.array([state.vapour_fraction for state in side]) for side in (warm, cool)))


def _turns(side: _Side, heat: float, shares: Vector, counter: bool) -> Vector:
    """Shares of the duty, counted from the hot inlet, at which a stream starts or ends boiling or condensing."""
    if heat == 0.0:
        return np.empty(0)

    def along(share: float) -> float:
        return 1.0 - share if counter else share

    def phases(share: float) -> int:
        vapour = side.after(heat * along(share), along(share)).vapour_fraction
        return 0 if vapour <= 0.0 else 2 if vapour >= 1.0 else 1

    kinds = [phases(float(s)) for s in shares]
    found = []
    for k in range(len(shares) - 1):
        first, last = sorted((kinds[k], kinds[k + 1]))
        for border in range(first, last):
            low, high = float(shares[k]), float(shares[k + 1])
            found.append(_border(side, heat, low, high, border, along, phases))
    return np.array(found)


def _border(side: _Side, heat: float, low: float, high: float, border: int, along: Callable[[float], float], phases: Callable[[float], int]) -> float:
    """The share at which a side is saturated: where its enthalpy is that of the bubble or dew point at its pressure there."""

    def gap(share: float) -> float:
        return side.enthalpy_after(heat * along(share)) - side.saturated(float(border), along(share))

    # With dissolved gases there are several bubble points, and finding one is dear; near a critical point there may be none.
    if border > 0 or not side.model.fluid.gases:
        from scipy.optimize import brentq

        try:
            return float(brentq(gap, low, high, xtol=1e-13))
        except (ValueError, FlashError):
            pass

    def amount(share: float) -> float:
        vapour = side.after(heat * along(share), along(share)).vapour_fraction
        return vapour if border == 0 else 1.0 - vapour

    return _vanishing(amount, low, high) if amount(low) <= 0.0 else _vanishing(amount, high, low)


def _vanishing(amount: Callable[[float], float], gone: float, there: float) -> float:
    """The place between ``gone`` and ``there`` at which a phase vanishes, from its ``amount`` where it is there.

    A parabola through the last amounts leads on to none; the next is taken a tenth of the way back from there. Where it leads astray, halves.
    """
    seen: list[tuple[float, float]] = []
    place = last = 0.5 * (gone + there)
    for _ in range(60):
        found = amount(place)
        if found <= 0.0:
            gone = place
        else:
            there = place
            seen = [*seen[-2:], (place, found)] if found < 1.0 else []
        end = _at_none(seen) if len({value for _, value in seen}) == len(seen) > 1 else gone
        inside = min(gone, there) < end < max(gone, there)
        end = end if inside else 0.5 * (gone + there)
        if abs(end - last) <= 1e-13:
            return end
        place, last = (end + 0.1 * (there - end) if inside else end), end
    return there


def _at_none(seen: list[tuple[float, float]]) -> float:
    """Places as a polynomial of amounts, at an amount of none (Lagrange)."""
    places, amounts = zip(*seen, strict=True)
    total = 0.0
    for i, place in enumerate(places):
        share = place
        for j, other in enumerate(amounts):
            if j != i:
                share *= other / (other - amounts[i])
        total += share
    return total


def _crossing(givens: Givens, curve: _Curve) -> Finding:
    """The place where the temperatures cross; the outlets stand all the same."""
    worst = int(np.argmin(curve.gaps))
    share = curve.heat[worst] / curve.heat[-1] if curve.heat[-1] else 0.0
    where = "at the hot inlet" if worst == 0 else "at the cold inlet" if worst == len(curve.heat) - 1 else f"after {100 * share:.0f} % of the duty"
    text = f"The temperatures cross {where}: the hot stream has {curve.hot[worst]:.2f} K there, the cold one {curve.cold[worst]:.2f} K."
    given = [key for key in HeatExchanger.choices[0].fields if givens.raw(key) is not None]
    changes = {**dict.fromkeys(given), "minimum_approach": {"value": 10.0, "unit": "K"}}
    repair = ({"kind": "set_values", "unit": "", "values": changes},)
    return Finding("fault", "", text, "Ask for less heat.", given[0] if given else None, repair, "Keep an approach of 10 K instead")


def _findings(givens: Givens, duty: float, curve: _Curve) -> tuple[Finding, ...]:
    if duty < 0.0:
        text = f"The heat would flow the wrong way: {abs(duty) / 1e3:.4g} kW from the cold to the hot stream."
        return (Finding("fault", "", text, "Check the outlet value; it lies beyond the inlet."),)
    if curve.gaps.min() < 0.0:
        return (_crossing(givens, curve),)
    if curve.gaps.min() < 2.0:
        text = f"The streams come within {curve.gaps.min():.2g} K of each other: the area becomes very large."
        return (Finding("caution", "", text, "5 to 20 K are usual.", "minimum_approach"),)
    return ()


def _outlet_values(ends: Mapping[str, State], hot: _Side, cold: _Side) -> list[ResultValue]:
    found = []
    for side in (hot, cold):
        name, title, end = side.name, side.name.capitalize(), ends[side.name]
        found += [
            ResultValue(f"{name}_outlet_temperature", f"{title} outlet temperature", "temperature", end.temperature),
            ResultValue(f"{name}_outlet_vapour_fraction", f"{title} outlet vapour fraction", "fraction", end.vapour_fraction),
            ResultValue(f"{name}_outlet_pressure", f"{title} outlet pressure", "pressure", end.pressure),
            ResultValue(f"{name}_pressure_change", f"{title} pressure change", "pressure_difference", end.pressure - side.inlet.state.pressure),
        ]
    return found


def _without_heat(hot: _Side, cold: _Side, finding: Finding) -> UnitResult:
    """Where a side stands still, or comes in colder than the other, nothing is exchanged; both leave as they came, at their outlet pressures."""
    ends = {}
    for side in (hot, cold):
        came = side.inlet.state
        ends[side.name] = side.model.flash(came.fractions, P=side.pressure, H=came.enthalpy, guess=came.temperature)
    parts = {f"{s.name}_out": StreamState(s.inlet.flow, ends[s.name]) for s in (hot, cold)}
    return UnitResult(parts, 0.0, (ResultValue("duty", "Duty", "power", 0.0), *_outlet_values(ends, hot, cold)), (finding,))


def _profile(curve: _Curve, closest: int) -> Profile:
    along = column("duty", "Heat from the hot inlet", "power", curve.heat)
    columns = (
        column("hot_temperature", "Hot side", "temperature", curve.hot, group="Temperature"),
        column("cold_temperature", "Cold side", "temperature", curve.cold, group="Temperature"),
        column("approach", "Approach", "temperature_difference", curve.gaps),
        column("hot_vapour_fraction", "Hot side", "fraction", curve.hot_vapour, group="Vapour fraction"),
        column("cold_vapour_fraction", "Cold side", "fraction", curve.cold_vapour, group="Vapour fraction"),
    )
    here, hot, cold = (float(values[closest]) for values in (curve.heat, curve.hot, curve.cold))
    marks = (ProfileMark("closest, hot side", "hot_temperature", here, hot), ProfileMark("closest, cold side", "cold_temperature", here, cold))
    most = float(curve.heat[-1])
    ports = (ProfilePort("hot_in", 0.0), ProfilePort("hot_out", most), ProfilePort("cold_out", 0.0, 1), ProfilePort("cold_in", most, 1))
    return Profile("heat_curve", "Heat curve", along, columns, marks, ports)
