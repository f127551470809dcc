"""The least of a function within bounds and limits: sequential quadratic programming over what only calculations tell.

Everything happens over the unit cube; slopes are differences, one-sided while far away, central in the end. A point that cannot be calculated is a
wall: the line search turns back from it. Method: Kraft (1988), A software package for sequential quadratic programming (SLSQP of SciPy); the way
to a first point within the limits is a bounded least-squares problem (Branch, Coleman, Li 1999). Prices of limits are Lagrange multipliers, by
non-negative least squares (Lawson, Hanson 1974) over what binds.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
#: The objective, then what is limited, at a point of the unit cube; None where nothing can be calculated.
Look = Callable[[Array], Array | None]

#: What of a limit may be left, in shares of its slope over the cube, where the values are exact; how near a limit or bound binds.
KEPT, BINDS = 1e-7, 1e-5
#: Change of the objective, in shares of its steepest slope, at which the search goes over to central differences.
ROUGH = 1e-5
#: Steps of a search at most, and how much worse than all that was seen a point counts that cannot be calculated.
STEPS, WALL = 60, 1e3
#: What a limit that is not kept counts beside the objective.
PENALTY = 1e3


@dataclass(frozen=True)
class Bound:
    """What binds at a point: a limit or a variable (its number), at which side, and by how much the objective rises when that end does, by one."""

    of: str
    index: int
    side: str
    price: float


@dataclass
class Found:
    """The best point of a search, its values, what it was led over, what of the limits is left (``kept``: no more than noise), and how flat it is.

    ``slope`` is what is left of the objective's slope when that of the binding limits is taken off, in shares of that where the search began.
    """

    x: Array
    values: Array
    path: list[Array] = field(default_factory=list)
    left: float = 0.0
    kept: bool = True
    slope: float = 0.0
    binding: list[Bound] = field(default_factory=list)


class Programme:
    """Minimise the first value of ``look`` over the unit cube of ``size`` variables while the others keep between ``low`` and ``high``.

    ``noise`` is what the values may be wrong by, relative. One-sided differences are taken over its square root, central ones over its cubic root:
    there noise and curvature do least harm.
    """

    def __init__(self, look: Look, size: int, low: Array, high: Array, noise: float = 1e-12) -> None:
        self.look, self.size, self.low, self.high, self.noise = look, size, low, high, noise
        #: What of a limit may be left, and the change of the objective at which a search ends, both in shares of their slopes.
        self.kept, self.fine = KEPT, noise
        self._seen: dict[bytes, Array | None] = {}
        self.scale = np.ones(1 + len(low))
        self._worst: Array | None = None

    def at(self, x: Array) -> Array | None:
        """The values at a point; remembered."""
        key = np.ascontiguousarray(x).tobytes()
        if key not in self._seen:
            self._seen[key] = self.look(np.array(x))
        return self._seen[key]

    def left(self, values: Array) -> Array:
        """By how much each limit is missed, in shares of its slope; 0 where it is kept."""
        kept = values[1:]
        return np.asarray(np.maximum(np.maximum(self.low - kept, kept - self.high), 0.0) / self.scale[1:])

    def slopes(self, x: Array, central: bool) -> Array:
        """d values / d variable, shape (values, variables); 0 where no neighbour can be calculated."""
        here = self.at(x)
        assert here is not None
        found, step = np.zeros((len(here), self.size)), self.noise ** (1.0 / 3.0 if central else 0.5)
        for j in range(self.size):
            sides = [self._beside(x, j, sign * step) for sign in ((1.0, -1.0) if x[j] <= 0.5 else (-1.0, 1.0))]
            there = [(moved, values) for moved, values in (side() for side in (sides if central else sides[:1])) if values is not None]
            if not there and not central:
                there = [(moved, values) for moved, values in (sides[1](),) if values is not None]
            if len(there) == 2:
                found[:, j] = (there[0][1] - there[1][1]) / (there[0][0] - there[1][0])
            elif there:
                found[:, j] = (there[0][1] - here) / (there[0][0] - x[j])
        return found

    def _beside(self, x: Array, j: int, by: float) -> Callable[[], tuple[float, Array | None]]:
        def looked() -> tuple[float, Array | None]:
            moved = np.array(x)
            moved[j] += by
            return float(moved[j]), self.at(moved) if 0.0 <= moved[j] <= 1.0 else None

        return looked

    def sized(self, x: Array) -> None:
        """What counts as one in each value: its steepest slope at a point, or a part of itself where it has none."""
        here = self.at(x)
        assert here is not None
        steep = np.abs(self.slopes(x, central=False)).max(axis=1, initial=0.0)
        itself = np.abs(here)
        ends = [np.where(np.isfinite(end), np.abs(end), 0.0) for end in (self.low, self.high)]
        itself[1:] = np.maximum(itself[1:], np.maximum(*ends))
        itself[0] *= 1e3  # begun at the best point there is no slope
        self.scale = np.maximum(np.maximum(steep, 1e-6 * itself), 1e-300)
        unsure = self.noise * np.abs(here) / self.scale
        self.fine = max(self.noise, float(unsure[0]))
        self.kept = max(KEPT, 10.0 * float(unsure[1:].max(initial=0.0)))

    def within_limits(self, start: Array) -> Array:
        """From a point that can be calculated to one that keeps all limits, or to that which misses them least."""
        from scipy.optimize import least_squares

        best = (float("inf"), start)

        def missed(x: Array) -> Array:
            nonlocal best
            values = self.at(np.clip(x, 0.0, 1.0))
            if values is None:
                return np.full(len(self.low), WALL)
            left = self.left(values)
            best = min(best, (float(left @ left), np.clip(x, 0.0, 1.0)), key=lambda pair: pair[0])
            return left

        def slope(x: Array) -> Array:
            inside = np.clip(x, 0.0, 1.0)
            values = self.at(inside)
            if values is None:
                return np.zeros((len(self.low), self.size))
            slopes = self.slopes(inside, central=False)[1:] / self.scale[1:, None]
            return np.asarray(np.where(values[1:] < self.low, -1.0, np.where(values[1:] > self.high, 1.0, 0.0))[:, None] * slopes)

        if missed(start).max(initial=0.0) > self.kept:
            least_squares(missed, np.clip(start, 1e-9, 1.0 - 1e-9), jac=slope, bounds=(0.0, 1.0), max_nfev=STEPS, ftol=1e-12, xtol=1e-10, gtol=1e-12)
        return best[1]

    def best_from(self, start: Array) -> Found:
        """The best point that a search from ``start``, which can be calculated, comes to."""
        self.sized(start)
        path = [start]
        x = self._finished(start, path)
        if self._left(x) > self.kept and self.size:
            # No way within the limits was met on the way down: first to a point that keeps them.
            inside = self.within_limits(start)
            path.append(inside)
            x = self._finished(inside, path) if self._left(inside) <= self.kept else inside
        values = self.at(x)
        assert values is not None
        found = Found(x, values, path, self._left(x), self._left(x) <= self.kept)
        found.slope, found.binding = self._prices(x)
        return found

    def _finished(self, start: Array, path: list[Array]) -> Array:
        x = start
        for central, ends in ((False, ROUGH), (True, self.fine)) if self.size else ():
            x = self._descended(x, central, ends, path)
        return x

    def _left(self, x: Array) -> float:
        values = self.at(x)
        return float("inf") if values is None else float(self.left(values).max(initial=0.0))

    def _descended(self, start: Array, central: bool, ends: float, path: list[Array]) -> Array:
        from scipy.optimize import minimize

        rows = self._rows()
        kinds = [(kind, [row for row in rows if row[0] == kind]) for kind in ("eq", "ineq")]
        steps: list[Array] = []

        def objective(x: Array) -> float:
            values = self._known(x)
            return float(values[0] / self.scale[0]) + (WALL if self.at(x) is None else 0.0)

        def objective_slope(x: Array) -> Array:
            return np.asarray(self._slopes(x, central)[0] / self.scale[0])

        def kept(of: list[tuple[str, int, float, float]]) -> Callable[[Array], Array]:
            def values(x: Array) -> Array:
                seen = self._known(x)
                return np.array([sign * (seen[1 + j] - end) / self.scale[1 + j] for _, j, sign, end in of])

            return values

        def kept_slope(of: list[tuple[str, int, float, float]]) -> Callable[[Array], Array]:
            def values(x: Array) -> Array:
                slopes = self._slopes(x, central)
                return np.array([sign * slopes[1 + j] / self.scale[1 + j] for _, j, sign, _ in of])

            return values

        self._worst = self.at(start)
        limits = [{"type": kind, "fun": kept(of), "jac": kept_slope(of)} for kind, of in kinds if of]
        told = minimize(
            objective,
            start,
            jac=objective_slope,
            bounds=[(0.0, 1.0)] * self.size,
            constraints=limits,
            method="SLSQP",
            callback=lambda x: steps.append(np.clip(x, 0.0, 1.0)),
            options={"ftol": ends, "maxiter": STEPS},
        )
        steps.append(np.clip(told.x, 0.0, 1.0))
        path += [x for x in steps if not np.array_equal(x, path[-1]) and self.at(x) is not None]
        return np.asarray(min((*reversed(steps), start), key=self._merit))

    def _merit(self, x: Array) -> float:
        """What the objective comes to, with a penalty for what of the limits is left."""
        values = self.at(x)
        return float("inf") if values is None else float(values[0] / self.scale[0]) + PENALTY * self._left(x)

    def _known(self, x: Array) -> Array:
        """The values at a point; of a wall those that were known before it."""
        values = self.at(np.clip(x, 0.0, 1.0))
        if values is not None:
            self._worst = values
        assert self._worst is not None
        return self._worst

    def _slopes(self, x: Array, central: bool) -> Array:
        inside = np.clip(x, 0.0, 1.0)
        return self.slopes(inside, central) if self.at(inside) is not None else np.zeros((len(self.low) + 1, self.size))

    def _rows(self) -> list[tuple[str, int, float, float]]:
        """The limits as SLSQP takes them: equal to 0 or at least 0, of which value, with which sign, and its end."""
        rows = list[tuple[str, int, float, float]]()
        for j, (low, high) in enumerate(zip(self.low, self.high, strict=True)):
            if low == high:
                rows.append(("eq", j, 1.0, low))
                continue
            rows += [("ineq", j, 1.0, low)] if np.isfinite(low) else []
            rows += [("ineq", j, -1.0, high)] if np.isfinite(high) else []
        return rows

    def _prices(self, x: Array) -> tuple[float, list[Bound]]:
        """What is left of the objective's slope beside that of what binds, and what binds with its multipliers (in units of the values)."""
        from scipy.optimize import nnls

        values = self.at(x)
        assert values is not None
        slopes = self.slopes(x, central=True) / self.scale[:, None]
        columns, binds = list[Array](), list[tuple[str, int, str, float]]()
        for kind, j, sign, end in self._rows():
            if abs(values[1 + j] - end) > max(BINDS, 10.0 * self.kept) * self.scale[1 + j]:
                continue
            side = "equal" if kind == "eq" else "low" if sign > 0.0 else "high"
            for way in (1.0, -1.0) if kind == "eq" else (sign,):
                columns.append(way * slopes[1 + j])
                binds.append(("limit", j, side, way))
        for j in range(self.size):
            for side, way, distance in (("low", 1.0, x[j]), ("high", -1.0, 1.0 - x[j])):
                if distance <= BINDS:
                    columns.append(way * np.eye(self.size)[j])
                    binds.append(("input", j, side, way))
        steep = float(np.abs(slopes[0]).max(initial=0.0))
        if not columns:
            return steep, []
        weights, _ = nnls(np.array(columns).T, slopes[0])
        left = float(np.abs(slopes[0] - np.array(columns).T @ weights).max())
        merged: dict[tuple[str, int, str], float] = {}
        for (of, j, side, way), weight in zip(binds, weights, strict=True):
            # How the objective rises when the end is raised: against the sign of what is allowed.
            size = self.scale[0] / (self.scale[1 + j] if of == "limit" else 1.0)
            merged[of, j, side] = merged.get((of, j, side), 0.0) + way * weight * size
        return left, [Bound(of, j, side, price) for (of, j, side), price in merged.items()]
