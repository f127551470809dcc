"""The border between one and two phases of a mixture of fixed composition over temperature and pressure."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from wattaxis.properties import layout
from wattaxis.properties.diagrams.chart import Axis, Curve, Diagram, Mark
from wattaxis.properties.errors import FlashError
from wattaxis.properties.kernels import phase
from wattaxis.properties.model import PropertyModel
from wattaxis.properties.state import Vector

_LOWEST = 2e4  # Pa, where the envelope starts and ends
_HIGHEST = 2e8  # Pa, an envelope that goes on has no upper end
_NEAR = 0.03  # of ln K: nearer to the critical point no point is calculated


@dataclass(frozen=True)
class Envelope:
    """``dew`` and ``bubble`` of shape (points, 2): T (K), P (Pa); critical point, highest temperature and highest pressure as (T, P) or None.

    >>> phase_envelope(PropertyModel("peng-robinson", ["propane"]), [1.0]).critical
    (369.89, 4251200.0)
    """

    dew: np.ndarray
    bubble: np.ndarray
    critical: tuple[float, float] | None
    cricondentherm: tuple[float, float] | None
    cricondenbar: tuple[float, float] | None
    notes: tuple[str, ...] = ()

    def diagram(self, title: str = "Phase envelope", own: tuple[float, float] | None = None) -> Diagram:
        """Pressure over temperature; ``own`` (T, P) is the point of the stream itself."""
        named = (("critical point", self.critical), ("cricondentherm", self.cricondentherm), ("cricondenbar", self.cricondenbar), ("the stream", own))
        marks = tuple(Mark(name, place) for name, place in named if place is not None)
        curves = (Curve("dew", self.dew), Curve("bubble", self.bubble))
        return Diagram(title, (Axis("temperature", "temperature"), Axis("pressure", "pressure")), curves, marks, self.notes)


def phase_envelope(model: PropertyModel, z: list[float] | Vector) -> Envelope:
    """The envelope of a mixture ``z`` (mole amounts) by continuation in ln K, ln T, ln P with the most sensitive variable specified
    (Michelsen 1980), through the critical point; for models without one, the boiling and the dew line.

    Three phases are not looked for. Raises FlashError where the mixture has no dew point at 0.2 bar to begin at.

    >>> found = phase_envelope(PropertyModel("peng-robinson", ["ethane", "n-heptane"]), [0.9, 0.1])
    >>> [round(value) for value in found.critical]
    [364, 8005391]
    """
    feed = np.asarray(z, dtype=float)
    feed = feed / feed.sum()
    present = np.flatnonzero(feed)
    if len(present) < len(feed):
        model = model.part_of([model.components[i].id for i in present])
        feed = feed[present]
    if not model.equation_of_state or len(feed) == 1:
        return _saturation_lines(model, feed)
    return _Tracer(model, feed).run()


def _saturation_lines(model: PropertyModel, z: Vector) -> Envelope:
    """Bubble and dew temperatures from 0.2 bar up to where there are no more, for models without a critical point and for one component."""
    lines = []
    for vf in (1.0, 0.0):
        points = []
        for p in np.geomspace(_LOWEST, 1e7, 60):
            try:
                points.append((model.flash(z, P=float(p), VF=vf).temperature, float(p)))
            except FlashError:
                break
        lines.append(np.array(points).reshape(-1, 2))
    single = len(z) == 1
    critical = None
    if single:
        c = model.components[0]
        critical = (c.critical_temperature, c.critical_pressure)
        lines = [np.vstack([points[points[:, 1] < critical[1]], critical]) for points in lines]
    note = "This model has no critical point: an equation of state draws the whole envelope."
    return Envelope(lines[0], lines[1], critical, None, None, () if single else (note,))


class _Tracer:
    """One pass along the border: from the dew point at the lowest pressure round the critical point and down the bubble side."""

    def __init__(self, model: PropertyModel, z: Vector) -> None:
        self.model, self.z, self.n = model, z, len(z)
        self.ctx = model.workspace()
        self.dn = np.empty((2, self.n, self.n))
        self.vectors = np.empty((6, self.n))
        self.props = np.empty(5)

    def run(self) -> Envelope:
        start = self.model.flash(self.z, P=_LOWEST, VF=1.0)
        k = start.vapour_fractions / start.liquid_fractions
        point = np.concatenate([np.log(k), [np.log(start.temperature), np.log(_LOWEST)]])
        points, tangents = self._trace(point)
        reference = int(np.argmax(np.abs(points[0][: self.n])))
        side = [p[reference] for p in points]
        crossing = next((i for i in range(len(points) - 1) if side[i] * side[i + 1] < 0.0), None)
        curve = np.exp(np.array(points)[:, self.n :])
        critical = None
        if crossing is None:
            dew, bubble = curve, np.empty((0, 2))
        else:
            critical = self._critical(points, tangents, crossing, reference)
            dew = np.vstack([curve[: crossing + 1], critical])
            bubble = np.vstack([critical, curve[crossing + 1 :]])
        hottest = self._highest(points, tangents, self.n)
        highest = self._highest(points, tangents, self.n + 1)
        notes = () if curve[-1, 1] < _HIGHEST else ("The envelope does not close: its pressure goes on rising.",)
        return Envelope(dew, bubble, critical, hottest, highest, notes)

    def _trace(self, point: Vector) -> tuple[list[Vector], list[Vector]]:
        """Points along the border and its tangents, all pointing onward."""
        point, tangent = self._solve(point, self.n + 1)
        points, tangents = [point], [tangent * np.sign(tangent[-1])]
        step = 0.1
        while len(points) < 600:
            here, along = points[-1], tangents[-1]
            spec = int(np.argmax(np.abs(along)))
            ahead = here + step * along / abs(along[spec])
            if (spec < self.n and here[spec] * along[spec] < 0.0 and abs(ahead[spec]) < _NEAR) or (here[spec] * ahead[spec] < 0.0 and spec < self.n):
                # Over the critical point in one stride: too near to it the two phases cannot be told apart.
                target = -np.copysign(max(_NEAR, abs(ahead[spec])), here[spec])
                ahead = here + along * (target - here[spec]) / along[spec]
            try:
                point, tangent = self._solve(ahead, spec)
                unfit = np.abs(point[: self.n]).max() < 1e-4 or np.abs(point - here)[self.n :].max() > 0.3
            except FlashError:
                unfit = True
            if unfit:
                step *= 0.5
                if step < 1e-5:
                    break
                continue
            points.append(point)
            tangents.append(tangent if tangent @ along > 0.0 else -tangent)
            step = min(step * (1.4 if self.iterations <= 3 else 1.0 if self.iterations <= 5 else 0.6), 0.25)
            if (point[-1] < np.log(_LOWEST) and len(points) > 5) or point[-1] > np.log(_HIGHEST):
                break
        return points, tangents

    def _solve(self, point: Vector, spec: int) -> tuple[Vector, Vector]:
        """Newton with variable ``spec`` held; the tangent of the curve (largest entry 1) with the point."""
        n = self.n
        point = point.copy()
        for self.iterations in range(12):
            gap, matrix = self._equations(point, spec)
            if np.abs(gap).max() < 1e-10:
                right = np.zeros(n + 2)
                right[-1] = 1.0
                tangent = np.linalg.solve(matrix, right)
                return point, tangent / np.abs(tangent).max()
            try:
                step = np.linalg.solve(matrix, -gap)
            except np.linalg.LinAlgError:
                break
            if not np.isfinite(step).all() or np.abs(step).max() > 10.0:
                break
            point += step * min(1.0, 0.3 / float(np.abs(step[n:]).max() + 1e-300))
        raise FlashError("not converged", "The phase envelope could not be followed.")

    def _equations(self, point: Vector, spec: int) -> tuple[Vector, Vector]:
        n, model, root = self.n, self.model, layout.STABLE
        k, t, p = np.exp(point[:n]), float(np.exp(point[n])), float(np.exp(point[n + 1]))
        raw = self.z / k
        total = raw.sum()
        x = raw / total
        phase.prepare(model.family.code, t, model.par, model.pairs, self.ctx, True)
        v = self.vectors
        phase.phase_properties(model.family.code, root, t, p, self.z, model.par, self.ctx, False, v[0], v[1], v[2], self.dn[0], self.props)
        phase.phase_properties(model.family.code, root, t, p, x, model.par, self.ctx, True, v[3], v[4], v[5], self.dn[1], self.props)
        gap = np.empty(n + 2)
        gap[:n] = point[:n] + v[0] - v[3]
        gap[n] = total - 1.0
        gap[n + 1] = 0.0
        matrix = np.zeros((n + 2, n + 2))
        matrix[:n, :n] = np.eye(n) + self.dn[1] * x
        matrix[:n, n] = t * (v[1] - v[4])
        matrix[:n, n + 1] = p * (v[2] - v[5])
        matrix[n, :n] = -raw
        matrix[n + 1, spec] = 1.0
        return gap, matrix

    def _critical(self, points: list[Vector], tangents: list[Vector], at: int, reference: int) -> tuple[float, float]:
        low, high = 0.0, 1.0
        for _ in range(60):
            middle = 0.5 * (low + high)
            if _between(points, tangents, at, middle)[reference] * points[at][reference] > 0.0:
                low = middle
            else:
                high = middle
        found = _between(points, tangents, at, 0.5 * (low + high))
        return float(np.exp(found[self.n])), float(np.exp(found[self.n + 1]))

    def _highest(self, points: list[Vector], tangents: list[Vector], row: int) -> tuple[float, float] | None:
        values = np.array([p[row] for p in points])
        k = int(np.argmax(values))
        if k in (0, len(values) - 1):
            return None
        fine = [_between(points, tangents, at, s) for at in (k - 1, k) for s in np.linspace(0.0, 1.0, 201)]
        best = max(fine, key=lambda point: float(point[row]))
        return float(np.exp(best[self.n])), float(np.exp(best[self.n + 1]))


def _between(points: list[Vector], tangents: list[Vector], at: int, s: float) -> Vector:
    """Cubic between two points of the curve with the tangents of both (Hermite), ``s`` from 0 to 1."""
    one, two = points[at], points[at + 1]
    chord = two - one
    spec = int(np.argmax(np.abs(chord)))
    first = tangents[at] * (chord[spec] / tangents[at][spec])
    second = tangents[at + 1] * (chord[spec] / tangents[at + 1][spec])
    return np.asarray((2 * s**3 - 3 * s**2 + 1) * one + (s**3 - 2 * s**2 + s) * first + (3 * s**2 - 2 * s**3) * two + (s**3 - s**2) * second)
