"""The best of an objective over a plant: values between bounds, limits on results, whole numbers, and the trade-off of two objectives."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from wattaxis.flowsheet import Document, Study, StudyInput
from wattaxis.progress import reached
from wattaxis.studies.cases import WHOLE, StudyError, bounds_of, study_givens
from wattaxis.studies.draws import latin_hypercube
from wattaxis.studies.limits import ends_of
from wattaxis.studies.optimum_book import Book
from wattaxis.studies.programme import Array, Found, Programme
from wattaxis.studies.result import StudyResult
from wattaxis.studies.stand import Case, Stand

#: So many other points are looked at where the first is not calculated, or the objective does not move.
LOOKS = 3
#: How exact the results of a plant are, relative: with aims, which are met so exactly, and without, where loops close.
AIMED, CLOSED = 1e-8, 1e-11


class Optimisation:
    """The search for the best that a study asks for. Raises StudyError for one that cannot be asked.

    >>> from importlib.resources import files
    >>> from wattaxis import load
    >>> plant = load(files("wattaxis.examples").joinpath("sandlark_bay.json").read_text())
    >>> bounds = {"low": {"value": 5, "unit": "degC"}, "high": {"value": 40, "unit": "degC"}}
    >>> asked = Study.model_validate({
    ...     "name": "Least cooling", "asks": "optimum", "inputs": [{"unit": "E-103", "field": "outlet_temperature", **bounds}],
    ...     "objectives": [{"name": "Duty", "formula": "E-103.duty"}],
    ...     "limits": [{"name": "Lost", "formula": "S-08.component_flow[butanone]", "high": {"value": 5, "unit": "kmol/h"}}],
    ... })
    >>> found = Optimisation(plant, asked).run()
    >>> round(found.cases[found.optimum.best].outputs[1] * 3.6, 6), [b.name for b in found.optimum.binding]
    (5.0, ['Lost'])
    """

    def __init__(self, document: Document, study: Study) -> None:
        if not study.objectives:
            raise StudyError("There is no objective: say what is to be as small or as large as it can be.")
        self.document, self.study = document, study
        self.givens = study_givens(document, study)
        #: What is searched for; properties are refused.
        self.inputs = [item for item in study.inputs if isinstance(item, StudyInput)]
        self.bounds = np.array([sorted(bounds_of(item, given)) for item, given in zip(self.inputs, self.givens, strict=True)])
        self.stand = Stand(document, self.givens, (*study.objectives, *study.limits, *study.outputs))
        first = len(study.objectives)
        missing = next((c.name for c, value in zip(self.stand.outputs[:first], self.stand.values, strict=False) if value is None), None)
        if missing is not None:
            raise StudyError(f"{missing} has no value as the plant stands. {next(iter(self.stand.faults), '')}".strip())
        self.ends = ends_of(study.limits, self.stand.outputs, first)
        self.heeded = [end for end in self.ends if not end.aside]
        #: 1 for an objective that is to be small, -1 for one that is to be large.
        self.signs = [1.0 if objective.sense == "least" else -1.0 for objective in study.objectives]
        self.whole = np.array([given.kind in WHOLE for given in self.givens])
        #: Every calculation of the search, by the values of the inputs.
        self.trials: dict[tuple[float, ...], Case] = {}
        self.noise = AIMED if any(aim.active for aim in document.aims) else CLOSED
        self._memory = self.stand.memory.branch()
        self._allowed = {fault.split(":")[0] for fault in self.stand.faults}

    def run(self) -> StudyResult:
        """Search, and calculate the best case once more as the plant itself is calculated. Raises StudyError where there is nothing to search."""
        searches = [self._search(0, start) for start in self._starts()]
        best = min(searches, key=lambda found: (not found.kept, found.values[0] if found.kept else found.left))
        self._refuse_flat()
        front = self._front(best) if len(self.signs) == 2 and best.kept else []
        return Book(self).closed(searches, best, front)

    def values_of(self, x: Array) -> tuple[float, ...]:
        """SI values of the inputs at a point of the unit cube; bounds exactly, whole numbers whole."""
        found = []
        for item, (low, high), share, whole in zip(self.inputs, self.bounds, x, self.whole, strict=True):
            value = low * (high / low) ** share if item.spacing == "logarithmic" else low + (high - low) * share
            found.append(float(round(value) if whole else low if share <= 0.0 else high if share >= 1.0 else value))
        return tuple(found)

    def count(self, k: int) -> int:
        """How many steps of one there are between the bounds of a whole number."""
        return max(round(float(self.bounds[k][1] - self.bounds[k][0])), 1)

    def trial(self, x: Array) -> Case:
        """The case at a point of the unit cube, calculated once."""
        values = self.values_of(x)
        if values not in self.trials:
            reached(None)
            self.trials[values] = self.stand.case(len(self.trials), values, self._memory, "search")
        return self.trials[values]

    def valid(self, case: Case) -> bool:
        """Whether objectives and limits that are heeded have values, with no fault that the plant had not where it stands."""
        needed = [*range(len(self.signs)), *(end.output for end in self.heeded)]
        return all(case.outputs[k] is not None for k in needed) and {fault.split(":")[0] for fault in case.faults} <= self._allowed

    def _cube(self, values: Sequence[float]) -> Array:
        """The point of the unit cube at which the inputs have SI values, the nearest one where they lie outside their bounds."""
        found = np.empty(len(self.givens))
        for k, (item, value, (low, high)) in enumerate(zip(self.inputs, values, self.bounds, strict=True)):
            logarithmic = item.spacing == "logarithmic"
            found[k] = math.log(max(value, low) / low) / math.log(high / low) if logarithmic else (value - low) / (high - low)
        return np.clip(found, 0.0, 1.0)

    def _starts(self) -> list[Array]:
        """Where the searches begin: at what is typed, then at samples of a Latin hypercube that can be calculated."""
        typed, drawn = self._cube([given.value for given in self.givens]), latin_hypercube(len(self.givens), max(self.study.starts - 1, LOOKS))
        found = [x for x in (typed, *drawn[: self.study.starts - 1]) if self.valid(self.trial(x))]
        found = found or [x for x in drawn if self.valid(self.trial(x))][:1]
        if not found:
            case = self.trial(typed)
            why = next(iter(case.faults), "") or next((problem for problem in case.problems if problem), "")
            raise StudyError(f"The plant is calculated nowhere where it was tried between the bounds. {why}".strip())
        return found

    def _search(self, objective: int, start: Array, most: float = math.inf) -> Found:
        """The least of an objective (in its own sense) from a start, with the other one at most at ``most``.

        Over whole numbers a pattern search (Hooke, Jeeves 1961), each time with the best of all else.
        """
        best = self._best_beside(objective, start, most)
        places = np.flatnonzero(self.whole)
        steps = {k: max(self.count(k) // 4, 1) for k in places.tolist()}
        while places.size:
            found = self._moved(objective, best, steps, most)
            if found is not None:
                best = found
            elif all(step == 1 for step in steps.values()):
                break
            else:
                steps = {k: max(step // 2, 1) for k, step in steps.items()}
        return best

    def _moved(self, objective: int, best: Found, steps: dict[int, int], most: float) -> Found | None:
        """A better point with one of the whole numbers moved by its step, None where there is none."""
        for k, step in steps.items():
            for sign in (1.0, -1.0):
                moved = np.array(best.x)
                moved[k] += sign * step / self.count(k)
                if not -1e-9 <= moved[k] <= 1.0 + 1e-9 or not self.valid(self.trial(moved)):
                    continue
                found = self._best_beside(objective, moved, most)
                if _better(found, best):
                    found.path = [*best.path, found.x]
                    return found
        return None

    def _best_beside(self, objective: int, at: Array, most: float) -> Found:
        """The best over what is not whole, with whole numbers as they are ``at`` a point."""
        bounded = math.isfinite(most)

        def filled(free: Array) -> Array:
            x = np.array(at)
            x[~self.whole] = free
            return x

        def look(free: Array) -> Array | None:
            case = self.trial(filled(free))
            if not self.valid(case):
                return None
            wanted = [objective, *(end.output for end in self.heeded), *([1 - objective] if bounded else [])]
            values = np.array([case.outputs[k] for k in wanted], float)
            values[0] *= self.signs[objective]
            if bounded:
                values[-1] *= self.signs[1 - objective]
            return values

        low = [end.low for end in self.heeded] + [-math.inf] * bounded
        high = [end.high for end in self.heeded] + [most] * bounded
        programme = Programme(look, int((~self.whole).sum()), np.array(low, float), np.array(high, float), self.noise)
        found = programme.best_from(np.asarray(at[~self.whole]))
        found.x, found.path = filled(found.x), [filled(x) for x in found.path]
        return found

    def _front(self, first: Found) -> list[Found]:
        """From the best of the first objective to that of the second, which is bounded ever more tightly."""
        second = self._search(1, first.x)
        ends = [self.signs[1] * float(self.trial(found.x).outputs[1] or 0.0) for found in (first, second)]
        points = [first]
        for most in np.linspace(ends[0], ends[1], self.study.tradeoffs)[1:-1]:
            found = self._search(0, points[-1].x, float(most))
            if found.kept:
                points.append(found)
        return [*points, second] if second.kept else points

    def _refuse_flat(self) -> None:
        """Raises StudyError where no input moves the first objective."""
        for x in latin_hypercube(len(self.givens), LOOKS) if len(self._objectives()) == 1 else ():
            self.trial(x)
        values = self._objectives()
        if max(values) - min(values) <= 1e-9 * max(map(abs, values)):
            name = self.study.objectives[0].name
            raise StudyError(f"{name} does not depend on what is varied. Vary something that moves it, or take another objective.")

    def _objectives(self) -> set[float]:
        return {value for case in self.trials.values() if (value := case.outputs[0]) is not None and self.valid(case)}


def _better(found: Found, than: Found) -> bool:
    if not (found.kept and than.kept):
        return found.kept or (not than.kept and found.left < than.left)
    return bool(found.values[0] < than.values[0] - 1e-9 * abs(than.values[0]))
