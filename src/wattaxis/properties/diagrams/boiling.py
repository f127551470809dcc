"""Bubble points at one pressure, quick along a path of neighbouring compositions, also where the liquid is two liquids."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from wattaxis.properties import layout
from wattaxis.properties.kernels.boil import ROWS, boil
from wattaxis.properties.model import PropertyModel
from wattaxis.properties.state import State, Vector

#: A pressure at which the liquids of an activity model, which do not depend on it, have no vapour beside them.
_LIQUIDS_ONLY = 1e9


@dataclass(frozen=True)
class Boiling:
    """A bubble point: temperature (K), vapour y, and the two liquids where the overall liquid parts (shape (2, components))."""

    temperature: float
    vapour: Vector
    liquids: Vector | None = None


class Boiler:
    """Bubble points of a model at a pressure (Pa), those of two liquids to a relative ``accuracy`` in T.

    >>> boiler = Boiler(PropertyModel("ideal", ["benzene", "toluene"]), 101325.0)
    >>> round(boiler.at(np.array([0.5, 0.5])).temperature, 1)
    365.3
    """

    def __init__(self, model: PropertyModel, pressure: float, accuracy: float = 1e-12) -> None:
        n = len(model.components)
        self.model = model
        self.pressure = pressure
        self.accuracy = accuracy
        self.guess: float | None = None
        self.parted_at: float | None = None
        self._vectors = np.empty((ROWS, n))
        self._dn = np.empty((2, n, n))

    def at(self, x: Vector) -> Boiling:
        """The bubble point of a liquid of overall composition ``x``. Raises FlashError where there is none."""
        if self.guess is None:
            self.guess = self._whole(x).temperature
        y = np.empty_like(x)
        status, t = self._boil(x, self.guess, y)
        if status != layout.OK:
            found = self._whole(x)
        elif self.model.family.code >= layout.ACTIVITY:
            split = self._split(x, t)
            found = Boiling(t, y) if split is None else self._parted(x, self.parted_at or t, split)
        else:
            # Just below its bubble point a liquid that is one phase is found so.
            below = self.model.flash(x, T=t * (1.0 - 1e-7), P=self.pressure)
            found = Boiling(t, y) if below.phase == "liquid" else self._whole(x)
        self.guess = found.temperature
        return found

    def _boil(self, x: Vector, guess: float, y: Vector) -> tuple[int, float]:
        model = self.model
        status, t = boil(model.family.code, self.pressure, guess, x, model.par, model.pairs, y, self._vectors, *self._dn)
        return int(status), float(t)

    def slope(self, x: Vector, boiling: Boiling) -> Vector:
        """d ln K_i / d x_j along the bubble surface of one liquid, shape (components, components), right after :meth:`at` found it there."""
        y = boiling.vapour
        mixing = np.eye(len(x)) + self._dn[1] * y
        own = self._dn[0] - self._dn[1] * (y / np.maximum(x, 1e-300))
        by_composition, by_temperature = np.linalg.solve(mixing, own), np.linalg.solve(mixing, self._vectors[1] - self._vectors[4])
        k = y / np.maximum(x, 1e-300)
        warming = -(k + y @ by_composition) / (y @ by_temperature)
        return np.asarray(by_composition + np.outer(by_temperature, warming))

    def _whole(self, x: Vector) -> Boiling:
        state = self.model.flash(x, P=self.pressure, VF=0.0)
        both = np.array([state.liquid_fractions, state.second_liquid_fractions]) if state.second_fraction > 0.0 else None
        return Boiling(state.temperature, state.vapour_fractions.copy(), both)

    def _split(self, x: Vector, t: float) -> State | None:
        state = self.model.flash(x, T=t, P=_LIQUIDS_ONLY)
        return state if state.two_liquids else None

    def _parted(self, x: Vector, t: float, split: State) -> Boiling:
        """Where one of two liquids in equilibrium boils: secant on the difference to the temperature of that equilibrium."""
        before: tuple[float, float] | None = None
        y = np.empty_like(x)
        for _ in range(25):
            liquid = split.liquid_fractions
            status, boils = self._boil(liquid, t, y)
            if status != layout.OK:
                break
            gap = boils - t
            slope = -1.0 if before is None or before[0] == t else (gap - before[1]) / (t - before[0])
            step = float(np.clip(-gap / slope, -0.1 * t, 0.1 * t)) if slope != 0.0 else gap
            if abs(step) < self.accuracy * t:
                self.parted_at = t
                return Boiling(t, y, np.array([liquid, split.vapour_fractions]))
            before = t, gap
            t += step
            parted = self._split(x, t)
            if parted is None:
                break
            split = parted
        return self._whole(x)
