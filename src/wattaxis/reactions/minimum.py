"""Least Gibbs energy of mixtures and pure solids whose conserved quantities are given: a convex problem, solved from the inside, then to rounding.

The fugacity coefficients are held; who has those of a real mixture renews them from outside. Interior-point method after Wright (1997), with the
Hessian of mixtures as in the method of element potentials (Smith and Missen 1982, chapter 6; Reynolds 1986): one linear system of as many
unknowns as there are conserved quantities and mixtures.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from wattaxis.properties.state import Vector

#: Steps at most; how far towards the edge a step goes; by what the barrier falls with a step; where it may end, with luck first, and where it ends.
_STEPS, _INSIDE, _FALL, _EARLY, _END = 100, 0.99, 0.05, (1e-4, 1e-10), 1e-14
#: What a closed balance leaves of the total, what one that is near enough does, and the share below which a mixture or a solid is absent.
_CLOSED, _NEAR, _ABSENT = 1e-13, 1e-9, 1e-10
_POLISHES = 25


@dataclass(frozen=True)
class Minimum:
    """Amounts of the species in each mixture (mixtures, species) and of the solids (solids,), in the unit of what was conserved.

    ``potentials`` (conserved,): what the last of each conserved quantity adds to G/RT. ``exact``: whether the traces are those of the potentials.
    """

    amounts: Vector
    solids: Vector
    potentials: Vector
    exact: bool


class NoMinimum(ArithmeticError):
    """The conserved quantities cannot be made of the species, or the search ended before the minimum.

    >>> issubclass(NoMinimum, ArithmeticError)
    True
    """


def least_gibbs(levels: Vector, solid_levels: Vector, rows: Vector, solid_rows: Vector, conserved: Vector, near: Minimum | None = None) -> Minimum:
    """The amounts of least Gibbs energy.

    ``levels`` (mixtures, species): mu/RT of each species pure in each mixture, fugacity coefficients included, so that mu/RT = level + ln x;
    ``solid_levels`` (solids,); ``rows`` (conserved, species) and ``solid_rows`` (conserved, solids): what a mole of each has of the conserved
    quantities, rows independent; ``conserved`` (conserved,): how much there is. ``near``: the minimum of levels that differed a little, which may
    save time. Raises NoMinimum.

    >>> found = least_gibbs(np.array([[0.0, np.log(0.25)]]), np.zeros(0), np.array([[1.0, 1.0]]), np.zeros((1, 0)), np.array([1.0]))
    >>> [round(float(n), 12) for n in found.amounts[0]]  # A = B with K = 4
    [0.2, 0.8]
    """
    total = float(np.abs(conserved).sum())
    if total <= 0.0:
        raise NoMinimum("there is nothing to share out")
    problem = _Problem(levels, solid_levels, rows, solid_rows, conserved / total)
    polished = None
    if near is not None and near.amounts.shape == levels.shape:
        polished = problem.polished(np.concatenate([near.amounts.ravel(), near.solids]) / total, near.potentials - problem.shift)
    for end in _EARLY if polished is None else ():
        polished = problem.polished(*problem.from_inside(end))
        if polished is not None:
            break
    n, potentials = problem.from_inside(_END) if polished is None else polished
    mixtures, species = levels.shape
    cut = mixtures * species
    return Minimum(total * n[:cut].reshape(mixtures, species), total * n[cut:], potentials + problem.shift, polished is not None)


class _Problem:
    """All amounts in one row: the species of each mixture, then the solids."""

    def __init__(self, levels: Vector, solid_levels: Vector, rows: Vector, solid_rows: Vector, conserved: Vector) -> None:
        self.mixtures, self.species = levels.shape
        self.cut = levels.size
        self.A = np.hstack([*[rows] * self.mixtures, solid_rows])
        self.b = conserved
        c = np.concatenate([levels.ravel(), solid_levels])
        # Potentials count from those that come nearest to all levels: that makes the numbers small and changes nothing.
        self.shift: Vector = np.linalg.lstsq(self.A.T, c, rcond=None)[0]
        self.c = c - self.shift @ self.A
        self.of = np.repeat(np.arange(self.mixtures), self.species)
        self.fluid, self.still = np.ascontiguousarray(self.A[:, : self.cut]), self.A[:, self.cut :]

    def sums(self, n: Vector) -> Vector:
        """What is in each mixture."""
        return np.asarray(n[: self.cut].reshape(self.mixtures, self.species).sum(axis=1))

    def slopes(self, n: Vector) -> Vector:
        """mu/RT."""
        found: Vector = self.c.copy()
        found[: self.cut] += np.log(n[: self.cut] / self.sums(n)[self.of])
        return found

    def from_inside(self, end: float) -> tuple[Vector, Vector]:
        """Amounts and potentials, followed along the barrier's path until its height is ``end``."""
        n = np.full(len(self.c), 1.0 / len(self.c))
        z = np.ones(len(self.c))
        potentials = np.zeros(len(self.b))
        for _ in range(_STEPS):
            barrier = float(n @ z) / len(n)
            gap = self.b - self.A @ n
            slopes = self.slopes(n)
            lack = slopes - potentials @ self.A - z
            if barrier < end and max(np.abs(gap).max(), np.abs(lack).max()) < max(_NEAR, 10.0 * end):
                return n, potentials
            wanted = max(_FALL * barrier, 0.1 * end)
            dn, potentials_there = self._step(n, z, wanted - slopes * n, gap)
            dz = wanted / n - z - z / n * dn
            along, beside = _length(n, dn), _length(z, dz)
            n, z = n + along * dn, z + beside * dz
            potentials = potentials + beside * (potentials_there - potentials)
        if np.abs(self.b - self.A @ n).max() > 1e-8:
            raise NoMinimum("what is conserved cannot be made of the species")
        if float(n @ z) / len(n) > max(end, 1e-9):
            raise NoMinimum("the search ended before the minimum")
        return n, potentials

    def _step(self, n: Vector, z: Vector, drive: Vector, gap: Vector) -> tuple[Vector, Vector]:
        """Newton's step of the amounts, and the potentials there; ``drive``: how far below the barrier mu/RT lies, times the amounts."""
        cut, m, sums = self.cut, len(self.b), self.sums(n)
        D = n[:cut] / (1.0 + z[:cut])
        g = drive / n
        weighted = self.fluid * D
        each = D.reshape(self.mixtures, self.species)
        #: Mixtures and solids stand in rows of their own: what they may still change by can be large beyond all numbers.
        size, solids = m + self.mixtures, self.still
        matrix, right = np.zeros((size + solids.shape[1],) * 2), np.empty(size + solids.shape[1])
        matrix[:m, :m] = weighted @ self.fluid.T
        matrix[:m, m:size] = weighted.reshape(m, self.mixtures, self.species).sum(axis=2)
        matrix[m:size, :m] = matrix[:m, m:size].T
        matrix[m:size, m:size] = np.diag(each.sum(axis=1) - sums)
        matrix[:m, size:], matrix[size:, :m] = solids, solids.T
        matrix[size:, size:] = np.diag(-z[cut:] / n[cut:])
        right[:m] = gap - weighted @ g[:cut]
        right[m:size] = -(each * g[:cut].reshape(each.shape)).sum(axis=1)
        right[size:] = -g[cut:]
        found = _solved(matrix, right)
        dn = np.concatenate([D * (found[:m] @ self.fluid + g[:cut] + found[m:size][self.of]), found[size:]])
        return dn, found[:m]

    def polished(self, n: Vector, potentials: Vector) -> tuple[Vector, Vector] | None:
        """The same without a barrier, each species at the potentials exactly; None where that leads nowhere, as on the edge of what is possible."""
        cut, m = self.cut, len(self.b)
        there = np.flatnonzero(self.sums(n) > _ABSENT)
        solids = cut + np.flatnonzero(n[cut:] > _ABSENT)
        spread = np.zeros((len(self.c), len(there)))
        for k, p in enumerate(there):
            spread[p * self.species : (p + 1) * self.species, k] = 1.0
        level, still, size = np.log(self.sums(n)[there]), n[solids], len(there)
        mixed = spread.any(axis=1)
        best, before = None, np.inf
        for _ in range(_POLISHES):
            power = potentials @ self.A - self.c + spread @ level
            if power.size and not (np.isfinite(power).all() and power.max() < 50.0):
                return None
            now = np.where(mixed, np.exp(power), 0.0)
            now[solids] = still
            gap = self.b - self.A @ now
            over, lack = np.exp(level) - spread.T @ now, self.c[solids] - potentials @ self.A[:, solids]
            worst = max(float(np.abs(part).max(initial=0.0)) for part in (gap, over, lack))
            if worst < _CLOSED or (worst >= before and worst < 1e-11):
                best = now, potentials
                break
            before = worst
            fluid = self.A * np.where(mixed, now, 0.0)
            matrix = np.zeros((m + size + len(solids),) * 2)
            matrix[:m, :m] = fluid @ self.A.T
            matrix[:m, m : m + size] = fluid @ spread
            matrix[m : m + size, :m] = matrix[:m, m : m + size].T
            matrix[m : m + size, m : m + size] = np.diag(-over)
            matrix[:m, m + size :] = self.A[:, solids]
            matrix[m + size :, :m] = self.A[:, solids].T
            try:
                step = np.linalg.solve(matrix, np.concatenate([gap, over, lack]))
            except np.linalg.LinAlgError:
                return None
            potentials, level, still = potentials + step[:m], level + step[m : m + size], still + step[m + size :]
        if best is None or (still < 0.0).any() or not self._lasts(best[1]):
            return None
        return best

    def _lasts(self, potentials: Vector) -> bool:
        """Whether nothing that is absent would form at the potentials."""
        surplus = potentials @ self.A - self.c
        each = surplus[: self.cut].reshape(self.mixtures, self.species)
        return bool(np.exp(np.minimum(each, 50.0)).sum(axis=1).max(initial=0.0) <= 1.0 + 1e-9 and surplus[self.cut :].max(initial=-1.0) <= 1e-9)


def _length(values: Vector, step: Vector) -> float:
    """How much of a step keeps all values positive."""
    falling = step < 0.0
    return min(1.0, float(_INSIDE * (-values[falling] / step[falling]).min())) if falling.any() else 1.0


def _solved(matrix: Vector, right: Vector) -> Vector:
    try:
        return np.asarray(np.linalg.solve(matrix, right))
    except np.linalg.LinAlgError:
        return np.asarray(np.linalg.lstsq(matrix, right, rcond=None)[0])
