"""What becomes of a mixture at one temperature as it reacts: in a batch, a stirred tank or a tube, by concentrations alone."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from importlib import import_module
from typing import Any

import numpy as np

from wattaxis.properties.fitting.data import BATCH, TANK, TUBE
from wattaxis.properties.state import Vector
from wattaxis.reactions.kinetics import Kinetics, KineticsError
from wattaxis.reactions.thermochemistry import R

PLACES = (BATCH, TANK, TUBE)
#: Relative tolerance of the integration, and of extents against the feed.
TOLERANCE, LEAST = 1e-9, 1e-13
#: Pa of a liquid where none is given.
USUAL_PRESSURE = 1e5
#: Share by which concentrations may exceed what an ideal gas holds at its pressure.
OVERFULL = 0.02
#: A table of pieces where there is none.
_NO_PIECES = np.zeros((1, 6))


@dataclass(frozen=True)
class Course:
    """Over the times: ``amounts``, mol of each 1 m3 of feed or charge, and ``concentrations``, mol/m3, each of shape (times, components)."""

    amounts: Vector
    concentrations: Vector


def course(
    kinetics: Kinetics,
    place: str,
    T: float,
    start: Sequence[float] | Vector,
    times: Sequence[float] | Vector,
    *,
    P: float | None = None,
    catalyst: float | None = None,
    tolerance: float = TOLERANCE,
) -> Course:
    """A mixture of the concentrations ``start`` (components of the model,) mol/m3 at T (K), after ``times`` (s) of one of :data:`PLACES`.

    Times are those of a batch, or volume over the volume flow that enters. A liquid keeps its volume. A gas is ideal: in a batch its volume stays
    and its pressure changes, in tank and tube the pressure ``P`` (Pa) stays and the volume flow changes; where the concentrations sum to less than
    a gas holds at ``P`` the rest is inert. Rates that count by mass of catalyst are taken times ``catalyst`` (kg/m3). ``tolerance``: the relative one
    of the integration.

    Raises KineticsError for concentrations that no gas has at ``P``, for rates by mass of catalyst without one, and where the rates lead nowhere.

    >>> from wattaxis import PropertyModel
    >>> from wattaxis.reactions import Arrhenius, PowerLaw, RateLaw, Reaction, ReactionSet
    >>> made = Reaction("R1", {"propane": -1.0, "propene": 1.0, "hydrogen": 1.0}, "vapour", RateLaw(PowerLaw({"propane": 1.0}), Arrhenius(0.5)))
    >>> kinetics = Kinetics(ReactionSet("Cracking", (made,)), PropertyModel("ideal", ["propane", "propene", "hydrogen"]))
    >>> course(kinetics, "batch", 800.0, [10.0, 0.0, 0.0], [0.0, 2.0]).concentrations[:, 0].round(4).tolist()  # 10 exp(-0.5 t)
    [10.0, 3.6788]
    """
    return _Course(kinetics, place, T, np.asarray(start, dtype=float), P, catalyst, tolerance).after(np.asarray(times, dtype=float))


class _Course:
    def __init__(self, kinetics: Kinetics, place: str, T: float, start: Vector, P: float | None, catalyst: float | None, tolerance: float) -> None:
        if place not in PLACES:
            raise ValueError(f'Nothing reacts in a "{place}"; there are {", ".join(PLACES)}.')
        self.kinetics, self.place, self.start = kinetics, place, start
        self.gas = kinetics.phase == "vapour"
        held = float(start.sum())
        if not held > 0.0:
            raise KineticsError("", "There is nothing at the start.")
        self.P = (held * R * T if self.gas else USUAL_PRESSURE) if P is None else P
        #: mol/m3 of what is no component, or what a gas holds in all.
        self.full = self.P / (R * T) if self.gas else held
        if held > (1.0 + OVERFULL) * self.full:
            raise KineticsError(
                "", f"The concentrations sum to {held:.4g} mol/m3, and a gas holds {self.full:.4g} mol/m3 at {T:.5g} K and {self.P:.5g} Pa."
            )
        self.unnamed = max(self.full - held, 0.0)
        if kinetics.per == "catalyst mass" and catalyst is None:
            raise KineticsError("", f"The rates of {kinetics.set.name} count by mass of catalyst, and how much there is by volume is not given.")
        self.T, self.tolerance = T, tolerance
        #: Rates by volume have nothing to do with a catalyst.
        self.catalyst = catalyst if kinetics.per == "catalyst mass" and catalyst is not None else 1.0
        self.flows = self.gas and place != BATCH

    def after(self, times: Vector) -> Course:
        kernels: Any = import_module("wattaxis.properties.kernels.tube")  # late: they load with the first calculation
        if self.place == TANK:
            extents = np.array([self._tank(kernels, float(t)) for t in times]).reshape(len(times), -1)
        else:
            extents = self._along(kernels, times)
        amounts = np.maximum(self.start + extents @ self.kinetics.numbers, 0.0)
        filled = (amounts.sum(axis=1) + self.unnamed) / (self.start.sum() + self.unnamed) if self.flows else np.ones(len(times))
        return Course(amounts, amounts / filled[:, None])

    def _along(self, kernels: Any, times: Vector) -> Vector:
        rows = np.zeros((len(times), len(self.kinetics.numbers) + 1))
        order = np.argsort(times, kind="stable")
        sorted_times = times[order]
        end = float(sorted_times[-1]) if len(times) else 0.0
        if end > 0.0:
            told, found = np.empty(6), np.empty_like(rows)
            y = np.zeros(rows.shape[1])
            status = kernels.integrate_tube(end, end, sorted_times, found, *self._bound(kernels), y, told)
            if status:
                raise self._fault(kernels, status, told)
            rows[order] = found
        return rows[:, :-1]

    def _tank(self, kernels: Any, time: float) -> Vector:
        y, told = np.zeros(len(self.kinetics.numbers) + 1), np.zeros(6)
        if time > 0.0:
            stirred: Any = import_module("wattaxis.properties.kernels.stirred")
            status = stirred.stirred(time, *self._bound(kernels), y, told)
            if status:
                raise self._fault(kernels, status, told)
        return y[:-1]

    def _bound(self, kernels: Any) -> tuple[Any, ...]:
        numbers = {"DENSITY": self.catalyst, "REL": self.tolerance, "ABS": LEAST, "UNNAMED": self.unnamed}
        filled = kernels.IDEAL_FLOW if self.flows else kernels.ONE_VOLUME
        return held_at(kernels, self.kinetics, self.start, self.T, self.P, numbers, {"FILLS": filled})

    def _fault(self, kernels: Any, status: int, told: Vector) -> KineticsError:
        if status == kernels.NO_RATE:
            return self.kinetics.no_rate(int(told[1]), int(told[2]), self.T)
        return KineticsError("", f"The reactions of {self.kinetics.set.name} lead nowhere at {self.T:.5g} K: something changes without limit.")


def held_at(
    kernels: Any, kinetics: Kinetics, feed: Vector, T: float, P: float, numbers: Mapping[str, float], chosen: Mapping[str, int]
) -> tuple[Any, ...]:
    """What the kernels of tubes and stirred tanks take of a feed (mol/s, components) that is held at T (K) and P (Pa).

    ``numbers`` and ``chosen``: what else they are to know, by the names of the places that :mod:`wattaxis.properties.kernels.tube` gives them.
    """
    model = kinetics.model
    given, kinds = np.zeros(kernels.GIVEN), np.zeros(kernels.KINDS, dtype=np.int64)
    for name, value in {"T_IN": T, "P_IN": P, "P_OUT": P, **numbers}.items():
        given[getattr(kernels, name)] = value
    always = {
        "KIND": model.code,
        "ROOT": kernels.VAPOUR if kinetics.phase == "vapour" else kernels.LIQUID,
        "WAY": kernels.ISOTHERMAL,
        "LOSS": kernels.AS_GIVEN,
        "GOAL": kernels.END,
        "ACTIVITIES": kinetics.counts_activity,
    }
    for name, which in {**always, **chosen}.items():
        kinds[getattr(kernels, name)] = which
    par, pairs, shifts, ctx, *_ = model.one_phase_work()
    return kinds, given, feed, *kinetics.laws, par, pairs, shifts, ctx, *(4 * [_NO_PIECES])
