"""What flows along the outside of tubes: a stream of the sheet whose temperature follows from the heat that it gives."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

import numpy as np

from wattaxis.properties import FlashError
from wattaxis.properties.state import Vector
from wattaxis.unitops.base import StreamState, UnitFault

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel, State

#: States of the stream from which its temperature over its heat is put together, in one phase and in two; how far beyond what is known, and in which
#: steps of both (K).
_IN_ONE, _IN_TWO, _BEYOND, _STEP = 33, 24, 250.0, 50.0


class Curve:
    """Temperature over enthalpy of a stream at its pressure, by cubics with the exact slopes in one phase and by monotone ones in two.

    ``low``, ``high``: the temperatures (K) between which states are looked for. Raises UnitFault where the stream has none there.
    """

    def __init__(self, model: PropertyModel, state: State, low: float, high: float) -> None:
        from scipy.interpolate import CubicHermiteSpline, PchipInterpolator  # late: it is not needed for a page

        self.model, self.state, self.guess = model, state, 0.5 * (low + high)
        parts = [part for part in self._parts(low, high) if len(part) > 1]
        if not parts:
            raise UnitFault("The stream on the outside has no states about its temperature.", "Check its components and pressure.")
        pieces: list[Vector] = []
        for part in parts:
            h, t = np.array([s.enthalpy for s in part]), np.array([s.temperature for s in part])
            single = all(len(s.phases) == 1 for s in part[1:-1])
            slopes = np.array([1.0 / s.phases[0].heat_capacity for s in part]) if single else None
            curve = PchipInterpolator(h, t) if slopes is None else CubicHermiteSpline(h, t, self._own_slopes(part, slopes))
            pieces.append(np.column_stack((curve.x[:-1], curve.x[1:], curve.c.T)))
        #: As the kernels take them: J/mol from and to, then the coefficients of K over J/mol, highest power first.
        self.pieces = np.ascontiguousarray(np.vstack(pieces))
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
        try:
            return self.model.flash(self.state.fractions, P=self.state.pressure, guess=self.guess, **known)
        except FlashError:
            return None


#: What a curve was made of, beside its model: composition, pressure and the temperatures between which it lies.
Key = tuple[bytes, float, float, float]


class Coolant:
    """A stream at its pressure that passes something of a temperature ``other`` (K).

    ``known``: the curve of another calculation with what it was made of, which is taken again where it is the same. Raises UnitFault where the stream
    has no states about there.
    """

    def __init__(self, model: PropertyModel, inlet: StreamState, other: float, known: tuple[Key, Curve] | None = None) -> None:
        self.model, self.inlet = model, inlet
        own, state = inlet.state.temperature, inlet.state
        # In whole steps, so that it stays the same where the temperatures move a little.
        low = max(_STEP * math.floor((min(own, other) - _BEYOND) / _STEP), _STEP * math.ceil(0.4 * min(own, other) / _STEP))
        high = _STEP * math.ceil((max(own, other) + _BEYOND) / _STEP)
        # To twelve digits: what rounding leaves of a loop makes no other curve.
        key = np.round(state.fractions, 12).tobytes(), float(f"{state.pressure:.12g}"), low, high
        again = known is not None and known[0] == key and known[1].model is model
        self.known = known if known is not None and again else (key, Curve(model, state, low, high))
        self.curve = self.known[1]
        self.pieces, self.lowest, self.highest = self.curve.pieces, self.curve.lowest, self.curve.highest

    def temperature(self, gained: float) -> float:
        """K after so much heat (W) from the inlet on; straight on where no states are known."""
        h = self.inlet.state.enthalpy + gained / self.inlet.flow
        start, end, a, b, c, d = self.pieces[max(int(np.searchsorted(self.pieces[:, 0], h, side="right")) - 1, 0)]
        x = min(max(h, start), end) - start
        t = float(((a * x + b) * x + c) * x + d)
        return t if start <= h <= end else t + float((3.0 * a * x + 2.0 * b) * x + c) * (h - start - x)

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
