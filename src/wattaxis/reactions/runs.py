"""Runs of measurements: points that share temperature, pressure, catalyst and what they started from."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from wattaxis.properties.fitting.data import TANK, Array, DataSet
from wattaxis.reactions.course import TOLERANCE, Course, course
from wattaxis.reactions.kinetics import Kinetics
from wattaxis.reactions.thermochemistry import R

if TYPE_CHECKING:
    from wattaxis.properties.model import PropertyModel


@dataclass(frozen=True)
class Run:
    """Points of one data set from the same start: T (K), P (Pa) or None, catalyst (kg/m3) or None, ``start`` mol/m3 of the components of the model.

    ``components`` are those of the data set by their places in the model; ``points`` pairs of (position in the set, position in ``times``, s).

    >>> from wattaxis import PropertyModel
    >>> data = DataSet("tube", ("propane",), {"T": [800.0, 800.0], "t": [1.0, 2.0], "f1": [5.0, np.nan], "c1": [4.0, 3.0]})
    >>> [run] = runs_of(0, data, PropertyModel("ideal", ["propane", "propene"]), [])
    >>> run.start.tolist(), run.times.tolist()
    ([5.0, 0.0], [1.0, 2.0])
    """

    data: int
    kind: str
    T: float
    P: float | None
    catalyst: float | None
    start: Array
    components: tuple[int, ...]
    times: Array
    points: tuple[tuple[int, int], ...]

    def course(self, kinetics: Kinetics, times: Array | None = None, tolerance: float = TOLERANCE) -> Course:
        """What becomes of it by reactions, at its own times or at others. Raises KineticsError."""
        at = self.times if times is None else times
        return course(kinetics, self.kind, self.T, self.start, at, P=self.P, catalyst=self.catalyst, tolerance=tolerance)


def runs_of(number: int, data: DataSet, model: PropertyModel, notes: list[str]) -> list[Run]:
    """The runs of a data set; what is assumed of them is added to ``notes``.

    A point starts from the concentrations (or of a gas the mole fractions) at the start or in the feed in its own row; where these are blank, from
    those of the last row above that has some, or of a batch and a tube from what is measured at time 0. Raises ValueError for a point without a
    start, and where a start is given in part.
    """
    return _Runs(number, data, model, notes).all()


class _Runs:
    def __init__(self, number: int, data: DataSet, model: PropertyModel, notes: list[str]) -> None:
        self.number, self.data, self.model, self.notes = number, data, model, notes
        ids = [c.id for c in model.components]
        if lacking := [c for c in data.components if c not in ids]:
            raise ValueError(f"{lacking[0]} is not among the components.")
        self.components = tuple(ids.index(c) for c in data.components)
        self.ids = ids
        self._used = {int(p) for p in data.used()}
        self.called = data.name or f"data set {number + 1}"

    def all(self) -> list[Run]:
        found: dict[tuple[object, ...], list[tuple[int, float]]] = {}
        start: Array | None = None
        for point in range(self.data.size):
            own = self._start(point)
            start = start if own is None else own
            if point not in self._used:
                continue
            if start is None:
                raise ValueError(
                    f"{self.called}, point {point + 1}: what it started from is not known. Give the concentrations at the start or in the feed in "
                    "its row or in one above" + ("." if self.data.kind == TANK else ", or a point measured at time 0.")
                )
            key = (self._cell("T", point), self._cell("P", point), self._cell("w", point), tuple(start))
            found.setdefault(key, []).append((point, float(self.data.columns["t"][point])))
        self._tell_absent(start)
        return [self._run(key, points) for key, points in found.items()]

    def _cell(self, key: str, point: int) -> float | None:
        column = self.data.columns.get(key)
        return float(column[point]) if column is not None and np.isfinite(column[point]) else None

    def _run(self, key: tuple[object, ...], points: list[tuple[int, float]]) -> Run:
        T, P, catalyst, start = key
        times = np.array(sorted({t for _, t in points}))
        where = tuple((point, int(np.searchsorted(times, t))) for point, t in points)
        mass = None if catalyst is None else float(catalyst)  # type: ignore[arg-type]
        return Run(self.number, self.data.kind, float(T), P, mass, np.array(start), self.components, times, where)  # type: ignore[arg-type]

    def _start(self, point: int) -> Array | None:
        """What the row of a point says of the start, mol/m3 of the components of the model; None where it says nothing."""
        for letter in "fy":
            if self._told(letter, point):
                return self._whole(letter, point)
        at_zero = self.data.kind != TANK and self._cell("t", point) == 0.0
        return self._whole("c", point) if at_zero and self._told("c", point) and point in self._used else None

    def _told(self, letter: str, point: int) -> bool:
        return any(self._cell(f"{letter}{k + 1}", point) is not None for k in range(len(self.components)))

    def _whole(self, letter: str, point: int) -> Array:
        start = np.zeros(len(self.ids))
        for k, place in enumerate(self.components):
            column = self.data.columns.get(f"{letter}{k + 1}")
            value = self._cell(f"{letter}{k + 1}", point)
            if value is None and column is not None and np.isfinite(column).any():
                text = f"{self.called}, point {point + 1}: what there is of {self.data.components[k]} at the start is blank"
                raise ValueError(f"{text}; write 0 where there is none.")
            start[place] = value or 0.0
        if letter == "y":
            start *= self._held(point)
        return start

    def _held(self, point: int) -> float:
        """mol/m3 that an ideal gas holds at the temperature and pressure of a point."""
        T, P = self._cell("T", point), self._cell("P", point)
        if T is None or P is None:
            raise ValueError(f"{self.called}, point {point + 1}: mole fractions in the feed are those of a gas at a pressure; give it in column P.")
        return P / (R * T)

    def _tell_absent(self, start: Array | None) -> None:
        if start is None:
            return
        silent = [name for name, amount in zip(self.ids, start, strict=True) if amount == 0.0 and not self._speaks_of(name)]
        if silent:
            self.notes.append(f"{self.called} says nothing of {', '.join(silent)} at the start; there is taken to be none.")

    def _speaks_of(self, name: str) -> bool:
        if name not in self.data.components:
            return False
        k = self.data.components.index(name) + 1
        return any(np.isfinite(self.data.columns.get(f"{letter}{k}", np.full(1, np.nan))).any() for letter in "fy") or (
            self.data.kind != TANK and bool(np.isfinite(self.data.columns.get(f"c{k}", np.full(1, np.nan))).any())
        )
