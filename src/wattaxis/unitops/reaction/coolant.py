"""What flows along the outside of tubes: a stream of the sheet whose temperature follows from the heat that it gives."""

from __future__ import annotations

from bisect import bisect_right
from typing import TYPE_CHECKING

import numpy as np

from wattaxis.properties import FlashError
from wattaxis.properties.state import Vector
from wattaxis.unitops.base import StreamState, UnitFault

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel, State

#: States of the stream from which its temperature over its heat is put together, in one phase and in two; how far beyond what is known (K).
_IN_ONE, _IN_TWO, _BEYOND = 25, 24, 250.0


class Coolant:
    """A stream at its pressure: temperature over enthalpy flow, by cubics with the exact slopes in one phase and by monotone ones in two.

    ``other``: temperature (K) of what it passes. Raises UnitFault where the stream has no states about there.
    """

    def __init__(self, model: PropertyModel, inlet: StreamState, other: float) -> None:
        from scipy.interpolate import CubicHermiteSpline, PchipInterpolator  # late: it is not needed for a page

        self.model, self.inlet = model, inlet
        if inlet.flow <= 0.0:
            raise UnitFault("Nothing flows on the outside of the tubes.", "Give the stream there a flow.")
        own = inlet.state.temperature
        low, high = max(min(own, other) - _BEYOND, 0.4 * min(own, other)), max(own, other) + _BEYOND
        parts = [part for part in self._parts(low, high) if len(part) > 1]
        if not parts:
            raise UnitFault("The stream on the outside has no states about its temperature.", "Check its components and pressure.")
        # Plain lists: a float at a time is asked for, which arrays are slow at.
        self._starts: list[float] = []
        self._cubics: list[list[float]] = []
        for part in parts:
            h, t = np.array([s.enthalpy for s in part]), np.array([s.temperature for s in part])
            single = all(len(s.phases) == 1 for s in part[1:-1])
            slopes = np.array([1.0 / s.phases[0].heat_capacity for s in part]) if single else None
            curve = PchipInterpolator(h, t) if slopes is None else CubicHermiteSpline(h, t, self._own_slopes(part, slopes))
            self._starts += h[:-1].tolist()
            self._cubics += curve.c.T.tolist()
        self.lowest, self.highest = float(parts[0][0].enthalpy), float(parts[-1][-1].enthalpy)

    @staticmethod
    def _own_slopes(part: list[State], slopes: Vector) -> Vector:
        """A state on the edge has two phases: there the slope is that of the one which goes on."""
        inside = part[len(part) // 2].phases[0].kind
        for k in (0, -1):
            own = next((phase for phase in part[k].phases if phase.kind == inside), None)
            if own is not None:
                slopes[k] = 1.0 / own.heat_capacity
        return slopes

    def _parts(self, low: float, high: float) -> list[list[State]]:
        """States in order, cut where it begins and ends boiling."""
        edges = [state for border in (0.0, 1.0) if (state := self._flash(VF=border)) is not None and low < state.temperature < high]
        below, above = edges[0].temperature if edges else high, edges[-1].temperature if edges else low
        if not edges:
            return [self._warming(low, high)]
        parts = [[*self._warming(low, below)[:-1], edges[0]]]
        if len(edges) > 1:
            h = np.linspace(edges[0].enthalpy, edges[1].enthalpy, _IN_TWO)[1:-1]
            boiling = [state for one in h if (state := self._flash(H=float(one))) is not None]
            parts.append([edges[0], *boiling, edges[1]])
        return [*parts, [edges[-1], *self._warming(above, high)[1:]]]

    def _warming(self, low: float, high: float) -> list[State]:
        return [state for T in np.linspace(low, high, _IN_ONE) if (state := self._flash(T=float(T))) is not None]

    def _flash(self, **known: float) -> State | None:
        state = self.inlet.state
        try:
            return self.model.flash(state.fractions, P=state.pressure, guess=state.temperature, **known)
        except FlashError:
            return None

    def temperature(self, gained: float) -> float:
        """K after so much heat (W) from the inlet on; straight on where no states are known."""
        h = self.inlet.state.enthalpy + gained / self.inlet.flow
        inside = min(max(h, self.lowest), self.highest)
        place = max(bisect_right(self._starts, inside) - 1, 0)
        a, b, c, d = self._cubics[place]
        x = inside - self._starts[place]
        t = ((a * x + b) * x + c) * x + d
        return t if h == inside else t + ((3.0 * a * x + 2.0 * b) * x + c) * (h - inside)

    @property
    def capacity(self) -> float:
        """W/K at its inlet; while it boils, of its first phase."""
        return self.inlet.flow * float(self.inlet.state.phases[0].heat_capacity)

    def known(self, gained: float) -> bool:
        """Whether it has states that were looked at after so much heat (W)."""
        return self.lowest <= self.inlet.state.enthalpy + gained / self.inlet.flow <= self.highest

    def heat_to(self, T: float) -> float:
        """W that bring it to a temperature (K) from its inlet, as far as it has states."""
        low, high = self.lowest, self.highest
        for _ in range(60):
            middle = 0.5 * (low + high)
            low, high = (middle, high) if self.temperature((middle - self.inlet.state.enthalpy) * self.inlet.flow) < T else (low, middle)
        return (low - self.inlet.state.enthalpy) * self.inlet.flow

    def leaves(self, gained: float) -> StreamState:
        """The stream after so much heat (W). Raises UnitFault."""
        h = self.inlet.state.enthalpy + gained / self.inlet.flow
        try:
            return StreamState(self.inlet.flow, self.model.flash(self.inlet.state.fractions, P=self.inlet.state.pressure, H=h))
        except FlashError as error:
            raise UnitFault(f"What leaves on the outside of the tubes has no state: {error}", "Let more of it flow.") from error
