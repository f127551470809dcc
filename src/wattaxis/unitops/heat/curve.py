"""The heat curve of one stream: its states over the heat that it takes up or gives off, alone or beside a medium in counter-current."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

import numpy as np

from wattaxis.properties import FlashError
from wattaxis.unitops.base import Givens, StreamState, UnitResult
from wattaxis.unitops.profile import Profile, ProfileMark, ProfilePort, column

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel, State

_POINTS = 25
#: How closely, and in how many passes at most, the share of the duty is found at which a stream is saturated at its own pressure there.
_CLOSE, _PASSES = 1e-12, 40


@dataclass(frozen=True)
class Medium:
    """What flows in counter-current to the stream: it enters at ``supply`` and leaves at ``back`` (K), linear in the duty."""

    title: str
    supply: float
    back: float

    def at(self, share: float) -> float:
        """Its temperature (K) where the stream has taken up ``share`` of the duty."""
        return self.back + share * (self.supply - self.back)


@dataclass(frozen=True)
class HeatCurve:
    """States of a stream at shares of its duty from inlet to outlet; the pressure falls evenly with the duty."""

    shares: tuple[float, ...]
    states: tuple[State, ...]
    duty: float

    def profiles(self, medium: Medium | None = None) -> tuple[Profile, ...]:
        """The curve as a table of results over the heat (W, counted positive) from the inlet on; none without heat."""
        heat = abs(self.duty)
        if heat == 0.0:
            return ()
        along = column("duty", "Heat from the inlet", "power", [share * heat for share in self.shares])
        temperatures = [s.temperature for s in self.states]
        columns = [
            column("temperature", "Stream", "temperature", temperatures, group="Temperature"),
            column("vapour_fraction", "Vapour fraction", "fraction", [s.vapour_fraction for s in self.states]),
            column("pressure", "Pressure", "pressure", [s.pressure for s in self.states]),
        ]
        marks: tuple[ProfileMark, ...] = ()
        if medium is not None:
            others = [medium.at(share) for share in self.shares]
            apart = [abs(other - t) for other, t in zip(others, temperatures, strict=True)]
            columns.insert(1, column("medium_temperature", medium.title, "temperature", others, group="Temperature"))
            columns.insert(2, column("approach", "Approach", "temperature_difference", apart))
            closest = int(np.argmin(apart))
            marks = (ProfileMark("closest", "temperature", self.shares[closest] * heat, temperatures[closest]),)
        ports = (ProfilePort("inlet", 0.0), ProfilePort("outlet", heat))
        return (Profile("heat_curve", "Heat curve", along, tuple(columns), marks, ports),)

    def approach(self, medium: Medium, heats: bool) -> float:
        """Least difference (K) between the stream and a medium that ``heats`` or cools it; negative where they cross."""
        sign = 1.0 if heats else -1.0
        return float(min(sign * (medium.at(share) - s.temperature) for share, s in zip(self.shares, self.states, strict=True)))


def heat_curve(model: PropertyModel, inlet: StreamState, outlet: StreamState) -> HeatCurve:
    """From inlet to outlet by equal shares of the duty, and where the stream begins or ends boiling or condensing.

    Bubble points of liquids with dissolved gases are left out: there are several, and finding one is dear. A state that is not found is left out too.
    """
    a, b = inlet.state, outlet.state
    duty = inlet.flow * (b.enthalpy - a.enthalpy)
    shares = sorted({*np.linspace(0.0, 1.0, _POINTS).tolist(), *_turns(model, a, b)})
    found: list[tuple[float, State]] = []
    near = a.temperature
    for share in shares:
        if share in (0.0, 1.0):
            found.append((share, b if share else a))
            continue
        h, p = _between(a.enthalpy, b.enthalpy, share), _between(a.pressure, b.pressure, share)
        try:
            state = model.flash(a.fractions, P=p, H=h, guess=near)
        except FlashError:
            continue
        near = state.temperature
        found.append((share, state))
    return HeatCurve(tuple(share for share, _ in found), tuple(state for _, state in found), duty)


def with_curve(givens: Givens, model: PropertyModel, inlet: StreamState, found: UnitResult) -> UnitResult:
    """A result with the heat curve of its stream, but for drafts."""
    return found if givens.draft else replace(found, profiles=heat_curve(model, inlet, found.outlets["outlet"]).profiles())


def _turns(model: PropertyModel, a: State, b: State) -> list[float]:
    """Shares of the duty at which the stream is saturated liquid or vapour, where that lies between inlet and outlet."""
    low, high = sorted((a.vapour_fraction, b.vapour_fraction))
    borders = [border for border in (0.0, 1.0) if low <= border <= high and low < high and not (border == 0.0 and model.fluid.gases)]
    return [share for border in borders if (share := _turn(model, a, b, border)) is not None]


def _turn(model: PropertyModel, a: State, b: State, border: float) -> float | None:
    """The enthalpy of the saturated stream hardly depends on the pressure, so a few passes settle the share."""
    share = 0.5
    for _ in range(_PASSES):
        try:
            edge = model.flash(a.fractions, P=_between(a.pressure, b.pressure, share), VF=border)
        except FlashError:
            return None
        before, share = share, (edge.enthalpy - a.enthalpy) / (b.enthalpy - a.enthalpy)
        if not 0.0 < share < 1.0:
            return None
        if a.pressure == b.pressure or abs(share - before) <= _CLOSE:
            break
    return share


def _between(first: float, last: float, share: float) -> float:
    return (1.0 - share) * first + share * last
