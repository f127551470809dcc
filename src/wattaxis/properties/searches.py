"""States by an enthalpy, entropy or volume with something else than a pressure: T and H, T and S, VF and H, VF and S, H and S, T and V, U and V.

Searches along one line over the flashes that the kernels answer: the pressure at H and S, or at T and an energy; the temperature at a vapour
fraction and an energy. Of several states the one of lowest pressure is taken; with a vapour fraction and H the coldest, with S the hottest.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from typing import TYPE_CHECKING

import numpy as np

from wattaxis.properties.errors import FlashError
from wattaxis.properties.layout import R

if TYPE_CHECKING:
    from wattaxis.properties.state import State, Vector

#: Pairs of values that are searched for here.
SEARCHED = ({"T", "H"}, {"T", "S"}, {"VF", "H"}, {"VF", "S"}, {"H", "S"}, {"T", "V"}, {"U", "V"})
#: Pa; K.
_LOWEST, _HIGHEST = 10.0, 2e9
_COLDEST, _HOTTEST, _WARMER = 60.0, 3000.0, 1.02
#: Places at which a line is looked at before the search closes in, and the relative change of an energy that is none.
_PLACES, _CLOSE = 60, 1e-12

#: The flash of a model at a fixed composition: values by name to the state.
Flash = Callable[..., "State"]
#: The state at a place on the line.
At = Callable[[float], "State"]


def search_state(flash: Flash, given: Mapping[str, float], hottest: float) -> State:
    """The state with the two values ``given``, one of :data:`SEARCHED`; ``hottest`` K is the highest critical temperature of its components.

    Raises FlashError.
    """
    if given.keys() == {"U", "V"}:
        return _at_energy_and_volume(flash, given["U"], given["V"])
    energy = "V" if "V" in given else "H" if "H" in given and given.keys() != {"H", "S"} else "S"
    line = _Line(flash, energy, given)
    found = line.over_temperature(hottest) if "VF" in given else line.over_pressure()
    if found is None:
        where = ", ".join(f"{name} = {value:.6g}" for name, value in given.items())
        raise FlashError("no such state", f"The mixture has no state with {where}.")
    return found


def _at_energy_and_volume(flash: Flash, energy: float, volume: float) -> State:
    """The state of an internal energy (J/mol) and a molar volume (m3/mol): at a volume the energy rises with temperature. Raises FlashError."""
    from scipy.optimize import brentq  # loaded when first used

    def surplus(t: float) -> float:
        state = flash(T=t, V=volume)
        return state.internal_energy - energy

    places = np.geomspace(_COLDEST, _HOTTEST, 40)
    below: float | None = None
    for t in map(float, places):
        try:
            here = surplus(t)
        except FlashError:
            continue
        if here >= 0.0 and below is not None:
            return flash(T=float(brentq(surplus, below, t, xtol=1e-11 * t, rtol=1e-13)), V=volume)
        if here >= 0.0:
            break
        below = t
    raise FlashError("no such state", f"The mixture has no state with U = {energy:.6g}, V = {volume:.6g}.")


class _Line:
    """States along a line on which one value is kept and the energy is looked for."""

    def __init__(self, flash: Flash, energy: str, given: Mapping[str, float]) -> None:
        self.flash, self.energy, self.wanted = flash, energy, given[energy]
        self.kept = {name: value for name, value in given.items() if name != energy}

    def over_pressure(self) -> State | None:
        """At T or H: where the pressure gives the energy, or, where it jumps over it by boiling at one pressure, the vapour fraction."""
        edges = [self._edge(fraction) for fraction in (0.0, 1.0)] if "T" in self.kept else []
        inside = [edge for edge in edges if edge is not None and _LOWEST < edge < _HIGHEST]
        places = np.log(np.sort(np.append(np.geomspace(_LOWEST, _HIGHEST, _PLACES), inside)))
        found = self._crossing(lambda x: self.flash(P=math.exp(x), **self.kept), places, self._boiling)
        if found is not None and self._stays(found.pressure):
            raise FlashError("no such state", self._undetermined())
        return found

    def _stays(self, pressure: float) -> bool:
        """Whether a higher pressure leaves the energy as it is."""
        try:
            return abs(self._surplus(self.flash(P=1.3 * pressure, **self.kept))) <= _CLOSE
        except FlashError:
            return False

    def _boiling(self) -> State | None:
        """What boils at one pressure: the vapour fraction that has the energy."""
        if "T" not in self.kept:
            return None
        t = self.kept["T"]
        return self._crossing(lambda v: self.flash(T=t, VF=min(max(v, 0.0), 1.0)), np.linspace(0.0, 1.0, 3))

    def _edge(self, fraction: float) -> float | None:
        """Pressure of the bubble or dew point, beside which an energy may turn round."""
        try:
            return self.flash(VF=fraction, **self.kept).pressure
        except FlashError:
            return None

    def over_temperature(self, hottest: float) -> State | None:
        """At a vapour fraction: where the temperature gives the energy."""
        near = 0.97 * hottest  # where the energies of saturated phases bend
        places = np.append(np.linspace(_COLDEST, near, _PLACES), np.linspace(near, _WARMER * hottest, _PLACES // 2)[1:])
        fraction = self.kept["VF"]
        return self._crossing(lambda t: self.flash(T=t, VF=fraction), places if self.energy == "H" else places[::-1])

    def _crossing(self, at: At, places: Vector, jump: Callable[[], State | None] = lambda: None) -> State | None:
        """The state at the first place where the energy passes the wanted one; where it jumps over it, what ``jump`` finds.

        Places without a state are left out. Raises FlashError where the energy has the wanted value all along a stretch.
        """
        known: list[tuple[float, float]] = []
        for x in map(float, places):
            try:
                here = self._surplus(at(x))
            except FlashError:
                continue
            if known and max(abs(here), abs(known[-1][1])) <= _CLOSE:
                raise FlashError("no such state", self._undetermined())
            if known and known[-1][1] * here <= 0.0 and (found := self._between(at, known[-1][0], x) or jump()) is not None:
                return found
            known.append((x, here))
        return self._at_a_turn(at, known)

    def _between(self, at: At, low: float, high: float) -> State | None:
        """The state with the energy between two places on both sides of it; None where it is jumped over."""
        from scipy.optimize import brentq  # loaded when first used

        try:
            state = at(brentq(lambda v: self._surplus(at(v)), low, high, xtol=1e-14, rtol=1e-14, maxiter=200))
        except FlashError:
            return None
        return state if abs(self._surplus(state)) <= 1e-8 else None

    def _at_a_turn(self, at: At, known: list[tuple[float, float]]) -> State | None:
        """Where the energy comes near the wanted one and turns back between two places, it may pass it twice there."""
        from scipy.optimize import minimize_scalar

        for (a, fa), (_, fb), (c, fc) in zip(known, known[1:], known[2:], strict=False):
            if not (fa * fb > 0.0 and fb * fc > 0.0 and abs(fb) < min(abs(fa), abs(fc))):
                continue
            sign = math.copysign(1.0, fb)
            try:
                turn = minimize_scalar(lambda v, s=sign: s * self._surplus(at(v)), bounds=(a, c), method="bounded", options={"xatol": 1e-9})
            except FlashError:
                continue
            if turn.fun <= 0.0 and (found := self._between(at, a, float(turn.x))) is not None:
                return found
        return None

    def _surplus(self, state: State) -> float:
        """What a state has more of the energy than is wanted, relative to the wanted or to R T (R) where that is more."""
        if self.energy == "V":
            return math.log(state.molar_volume / self.wanted)
        reached, unit = (state.enthalpy, R * state.temperature) if self.energy == "H" else (state.entropy, R)
        return float(reached - self.wanted) / max(unit, abs(self.wanted))

    def _undetermined(self) -> str:
        names = " and ".join([*self.kept, self.energy])
        return f"{names} do not settle the pressure here: by this property model the energy of this phase does not depend on it. Give the pressure."
