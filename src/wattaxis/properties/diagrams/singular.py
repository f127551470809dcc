"""Azeotropes of any number of components at a pressure, with type and stability, and a test of completeness."""

from __future__ import annotations

from collections.abc import Collection, Iterator
from dataclasses import dataclass
from itertools import combinations

import numpy as np
from scipy.optimize import brentq

from wattaxis.progress import reached
from wattaxis.properties.diagrams.boiling import Boiler, Boiling
from wattaxis.properties.errors import FlashError
from wattaxis.properties.model import PropertyModel
from wattaxis.properties.state import Vector
from wattaxis.properties.tables import html_table

#: Inside this distance of an edge a point belongs to the edge.
_EDGE = 1e-6
_UNSTABLE, _STABLE, _SADDLE = "unstable node", "stable node", "saddle"


@dataclass(frozen=True)
class SingularPoint:
    """A pure component or an azeotrope at the pressure of the search.

    ``fractions`` of the overall liquid (shape (components,)); temperature K; ``components`` are the ids present. ``stability`` is that of the residue
    curves: they leave an "unstable node" (lowest temperature of its surroundings), end in a "stable node" and pass a "saddle".
    """

    fractions: Vector
    temperature: float
    components: tuple[str, ...]
    stability: str
    heterogeneous: bool

    @property
    def pure(self) -> bool:
        """Whether this is a pure component."""
        return len(self.components) == 1

    @property
    def kind(self) -> str:
        """In words, as "heterogeneous azeotrope of ethanol and water"."""
        if self.pure:
            return f"pure {self.components[0]}"
        return f"{'heterogeneous ' if self.heterogeneous else ''}azeotrope of {', '.join(self.components[:-1])} and {self.components[-1]}"


@dataclass(frozen=True)
class AzeotropeSearch:
    """Every singular point that was found, in order of temperature (``pressure`` in Pa); ``complete`` is the verdict of the index rule.

    >>> azeotropes(PropertyModel("ideal", ["benzene", "toluene"]), 101325.0).complete
    True
    """

    pressure: float
    points: tuple[SingularPoint, ...]
    complete: bool
    notes: tuple[str, ...]

    @property
    def azeotropes(self) -> tuple[SingularPoint, ...]:
        """The points that are no pure component."""
        return tuple(p for p in self.points if not p.pure)

    def _repr_html_(self) -> str:
        rows = [[p.kind, p.temperature, p.stability, *map(float, p.fractions)] for p in self.points]
        return html_table(["", "T, K", "stability", *(f"x{k + 1}" for k in range(len(self.points[0].fractions)))], rows)


def azeotropes(model: PropertyModel, P: float) -> AzeotropeSearch:
    """All pure components and azeotropes at ``P`` (Pa).

    Pairs are searched along their whole edge. Larger sets: Newton in the logarithms of mole ratios from the centre and from between the points
    already found; the index rule of Zharov and Serafimov (1975), ``sum_k 2^k I_k = 1 + (-1)^(n-1)``, tests every face for completeness, and more
    starts follow where it does not hold. Types from the eigenvalues of the field ``x - y`` of residue curves (Fidkowski, Malone, Doherty 1993).

    Components without a boiling point at this pressure are left out with a note. Raises ValueError when fewer than one boils.

    >>> found = azeotropes(PropertyModel("uniquac", ["ethanol", "water"]), 101325.0)
    >>> [p.kind for p in found.azeotropes], round(found.points[0].temperature, 1)
    (['azeotrope of ethanol and water'], 351.2)
    """
    return _Search(model, P).run()


@dataclass(frozen=True)
class _Found:
    """A singular point with the eigenvalues of its own face and, by absent component, of the directions that leave it."""

    fractions: Vector
    temperature: float
    present: tuple[int, ...]
    within: tuple[float, ...]
    across: dict[int, float]
    heterogeneous: bool

    def values(self, face: Collection[int]) -> list[float]:
        """The eigenvalues of the field inside a face that holds the point."""
        return [*self.within, *(value for j, value in self.across.items() if j in face)]

    def index(self, face: Collection[int]) -> int:
        """Sign of the determinant of the field inside a face."""
        return int(np.prod(np.sign(self.values(face)), initial=1.0))


class _Search:
    def __init__(self, model: PropertyModel, pressure: float) -> None:
        self.model, self.pressure = model, pressure
        self.boiler = Boiler(model, pressure)
        self.n = len(model.components)
        self.found: list[_Found] = []
        self.boils = tuple(i for i in range(self.n) if self._boils(i))
        self.notes = [f"{c.name} does not boil at this pressure and is left out." for i, c in enumerate(model.components) if i not in self.boils]

    def run(self) -> AzeotropeSearch:
        if not self.boils:
            raise ValueError("None of the components boils at this pressure.")
        for i in self.boils:
            self._keep(np.eye(self.n)[i])
        faces = [face for size in range(2, len(self.boils) + 1) for face in combinations(self.boils, size)]
        for k, face in enumerate(faces):
            reached(k / len(faces))
            if len(face) == 2:
                self._edge(face)
            else:
                self._face(face)
        complete = self._complete(self.boils)
        if not complete:
            self.notes.append("The index rule does not hold for what was found: an azeotrope may be missing, or one lies very close to an edge.")
        points = sorted((self._told(p) for p in self.found), key=lambda p: p.temperature)
        return AzeotropeSearch(self.pressure, tuple(points), complete, tuple(self.notes))

    def _face(self, face: tuple[int, ...]) -> None:
        """Likely starts first; the many others only while the index rule of the face is violated."""
        for start in self._starts(face):
            self._newton(face, start)
        rng = np.random.default_rng(7)
        for _ in range(60):
            if self._complete(face):
                return
            self._newton(face, rng.dirichlet(np.full(len(face), 0.7)))

    def _told(self, point: _Found) -> SingularPoint:
        values = point.values(self.boils)
        stability = _UNSTABLE if min(values, default=1.0) > 0.0 else _STABLE if max(values, default=-1.0) < 0.0 else _SADDLE
        names = tuple(self.model.components[i].id for i in point.present)
        return SingularPoint(point.fractions, point.temperature, names, stability, point.heterogeneous)

    def _full(self, face: tuple[int, ...], part: Vector) -> Vector:
        x = np.zeros(self.n)
        x[list(face)] = part
        return x

    def _gap(self, face: tuple[int, ...], part: Vector) -> Vector:
        """ln K_i - ln K_last over the face."""
        log_k = np.log(self.boiler.at(self._full(face, part)).vapour[list(face)] / part)
        return np.asarray(log_k[:-1] - log_k[-1])

    def _gap_and_slope(self, face: tuple[int, ...], u: Vector) -> tuple[Vector, Vector]:
        """The gap and its derivatives by ``u``, the logarithms of the mole ratios to the last component."""
        part = _shares(u)
        x = self._full(face, part)
        boiling = self.boiler.at(x)
        log_k = np.log(boiling.vapour[list(face)] / part)
        gap = log_k[:-1] - log_k[-1]
        size = len(face)
        if boiling.liquids is None:
            slope = self.boiler.slope(x, boiling)[np.ix_(face, face)]
            by_u = slope @ (np.diag(part) - np.outer(part, part))[:, :-1]
            return gap, by_u[:-1] - by_u[-1]
        matrix = np.empty((size - 1, size - 1))
        for k in range(size - 1):
            moved = u.copy()
            moved[k] += 1e-5
            matrix[:, k] = (self._gap(face, _shares(moved)) - gap) / 1e-5
        return gap, matrix

    def _edge(self, pair: tuple[int, ...]) -> None:
        def difference(u: float) -> float:
            return float(self._gap(pair, _shares(np.array([u])))[0])

        grid = np.concatenate([np.linspace(-12.0, -4.5, 6), np.linspace(-4.0, 4.0, 41), np.linspace(4.5, 12.0, 6)])
        values = []
        for u in grid:
            try:
                values.append(difference(u))
            except FlashError:
                values.append(np.nan)
        for k in range(len(grid) - 1):
            if values[k] * values[k + 1] < 0.0:
                u = brentq(difference, grid[k], grid[k + 1], xtol=1e-12, rtol=1e-13)
                self._keep(self._full(pair, _shares(np.array([u]))))

    def _starts(self, face: tuple[int, ...]) -> Iterator[Vector]:
        size = len(face)
        yield np.full(size, 1.0 / size)
        inside = [p.fractions[list(face)] for p in self.found if len(p.present) > 1 and set(p.present) <= set(face)]
        if self._complete(face):
            return
        for one, other in combinations(inside, 2):
            yield 0.95 * (one + other) / 2 + 0.05 / size
        for point in inside:
            for k in map(int, np.flatnonzero(point < _EDGE)):
                yield 0.8 * np.maximum(point, 0.01 / size) + 0.2 * np.eye(size)[k]
        for k in range(size):
            yield 0.6 * np.eye(size)[k] + 0.4 / size

    def _newton(self, face: tuple[int, ...], start: Vector) -> None:
        reached()
        u = np.log(start[:-1] / start[-1])
        best = np.inf
        try:
            for iteration in range(40):
                gap, matrix = self._gap_and_slope(face, u)
                worst = float(np.abs(gap).max())
                part = _shares(u)
                if worst < 1e-10:
                    self._keep(self._full(face, part))
                    return
                if part.min() < _EDGE or self._known(self._full(face, part), 1e-7) or (iteration > 15 and worst > 0.5 * best):
                    return
                best = min(best, worst)
                step = np.linalg.solve(matrix, -gap)
                u = u + step * min(1.0, 1.2 / float(np.abs(step).max()))
        except (FlashError, np.linalg.LinAlgError):
            return

    def _known(self, x: Vector, distance: float = 1e-5) -> bool:
        return any(np.abs(p.fractions - x).max() < distance for p in self.found)

    def _keep(self, x: Vector) -> None:
        if self._known(x):
            return
        boiling = self.boiler.at(x)
        present = np.flatnonzero(x > 0.0)
        across = self._across(x, present, boiling)
        two = boiling.liquids is not None and bool(np.abs(boiling.liquids[0] - boiling.liquids[1]).max() > 1e-6)
        within = tuple(self._within(x, present))
        self.found.append(_Found(x, boiling.temperature, tuple(int(i) for i in present), within, across, two))

    def _within(self, x: Vector, present: np.ndarray) -> list[float]:
        """Real parts of the eigenvalues of d(x - y)/dx inside the face of the point."""
        size = len(present)
        matrix = np.empty((size - 1, size - 1))
        for k in range(size - 1):
            step = min(1e-5, 0.1 * x[present[k]], 0.1 * x[present[-1]])
            sides = []
            for sign in (1.0, -1.0):
                moved = x.copy()
                moved[present[k]] += sign * step
                moved[present[-1]] -= sign * step
                sides.append((moved - self.boiler.at(moved).vapour)[present[:-1]])
            matrix[:, k] = (sides[0] - sides[1]) / (2.0 * step)
        return [float(value.real) for value in np.linalg.eigvals(matrix)] if size > 1 else []

    def _across(self, x: Vector, present: np.ndarray, boiling: Boiling) -> dict[int, float]:
        """1 - K_j of the absent components, their eigenvalues."""
        t, p = boiling.temperature, self.pressure
        vapour = self.model.phase("vapour", t, p, boiling.vapour).fugacity_coefficients
        if boiling.liquids is None:
            k = self.model.phase("liquid", t, p, x).fugacity_coefficients / vapour
        else:
            # A trace spreads over both liquids by its activity in each; K counts from the whole.
            first, second = (self.model.phase("liquid", t, p, liquid).fugacity_coefficients for liquid in boiling.liquids)
            gap = boiling.liquids[0] - boiling.liquids[1]
            share = float(gap @ (x - boiling.liquids[1]) / (gap @ gap))
            k = 1.0 / (vapour * (share / first + (1.0 - share) / second))
        return {j: float(1.0 - k[j]) for j in self.boils if j not in present}

    def _boils(self, i: int) -> bool:
        try:
            self.boiler.at(np.eye(self.n)[i])
        except FlashError:
            return False
        return True

    def _complete(self, face: tuple[int, ...]) -> bool:
        """The index rule inside a face."""
        total = sum(2 ** len(p.present) * p.index(face) for p in self.found if set(p.present) <= set(face))
        return bool(total == 1 + (-1) ** (len(face) - 1))


def _shares(u: Vector) -> Vector:
    """Fractions from the logarithms of their ratios to the last one."""
    raw = np.exp(np.append(u, 0.0) - max(float(u.max(initial=0.0)), 0.0))
    return np.asarray(raw / raw.sum())
