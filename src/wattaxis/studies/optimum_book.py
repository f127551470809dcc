"""The result of a search for the best: its cases in numbered order, what binds and at which price, and what is to be said of it."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np

from wattaxis.studies.limits import told, wanted
from wattaxis.studies.programme import Array, Found
from wattaxis.studies.result import Binding, LimitState, Optimum, StudyResult
from wattaxis.studies.stand import Case, input_columns

if TYPE_CHECKING:
    from wattaxis.studies.optimum import Optimisation

#: Cases beside the best one for each input, in shares of the reach, and how far that goes, in shares of the input's range; points of a path at most.
BESIDE, REACH, LONGEST = (-1.0, -0.5, 0.5, 1.0), 0.15, 60
#: What of the objective's slope may be left where a search ended, in shares of that where it began.
FLAT = 1e-2
#: Searches end at the same point when their objectives differ by less, relative.
ALIKE = 1e-5

METHOD = "sequential quadratic programming (SLSQP) with differences of whole calculations"
WHOLE_METHOD = "whole numbers by steps that are halved until one up or down is no better"
FRONT_METHOD = "the trade-off by bounds on the second objective"


class Book:
    """The cases of a result, numbered as they are put down."""

    def __init__(self, of: Optimisation) -> None:
        self.of = of
        self.cases: list[Case] = []
        self.numbers: dict[tuple[float, ...], int] = {}

    def closed(self, searches: Sequence[Found], best: Found, front: Sequence[Found]) -> StudyResult:
        """The result of a study from what its searches found."""
        of, calculations = self.of, len(self.of.trials)
        start = self._put(of.trial(searches[0].path[0]))
        path = [self._put(of.trial(x)) for x in _thinned(best.path)]
        kept, number = best.kept, self._answer(best.x)
        ended = [self._answer(found.x) for found in searches if found is not best and found.kept]
        optimum = Optimum(
            senses=tuple(objective.sense for objective in of.study.objectives),
            limits=tuple(self._limits(self.cases[number])),
            start=start,
            best=number if kept else None,
            path=tuple(dict.fromkeys([start, *path, number])),
            around=tuple(self._around(best.x, k) for k in range(len(of.givens))) if kept else (),
            others=tuple(n for n in dict.fromkeys(ended) if n != number),
            front=tuple(self._answer(found.x) for found in front),
            binding=tuple(self._binding(best)) if kept else (),
            method=self._method(front),
            calculations=calculations,
        )
        optimum = replace(optimum, missed=tuple(case.number for case in self.cases if self._misses(case)))
        remarks = self._remarks(searches, best, number) if kept else [self._contradiction(best, self.cases[number])]
        return StudyResult(of.study.name, input_columns(of.givens), of.stand.outputs, self.cases, optimum, remarks=tuple(remarks))

    def _put(self, case: Case) -> int:
        """The number of a case, which is put down once."""
        if case.inputs not in self.numbers:
            self.numbers[case.inputs] = len(self.cases)
            self.cases.append(replace(case, number=len(self.cases)))
        return self.numbers[case.inputs]

    def _answer(self, x: Array) -> int:
        """The case of a point, calculated as the plant itself is, in the place of what the search had for it."""
        values = self.of.values_of(x)
        case = self.of.stand.case(0, values, self.of.stand.memory.branch())
        number = self._put(case)
        self.cases[number] = replace(case, number=number)
        return number

    def _around(self, x: Array, k: int) -> tuple[int, ...]:
        found = []
        for share in BESIDE:
            moved = np.array(x)
            # Of whole numbers the next ones.
            moved[k] += 2.0 * share / self.of.count(k) if self.of.whole[k] else share * REACH
            if 0.0 <= moved[k] <= 1.0:
                found.append(self._put(self.of.trial(moved)))
        return tuple(dict.fromkeys(found))

    def _limits(self, case: Case) -> list[LimitState]:
        return [LimitState(end.output, _finite(end.low), _finite(end.high), end.aside, end.keeps(case.outputs[end.output])) for end in self.of.ends]

    def _misses(self, case: Case) -> bool:
        """Whether a point that has values misses a limit that counts."""
        values = ((end, case.outputs[end.output]) for end in self.of.heeded)
        return any(value is not None and not end.keeps(value) for end, value in values)

    def _binding(self, best: Found) -> list[Binding]:
        of, found = self.of, list[Binding]()
        inputs, free = input_columns(of.givens), np.flatnonzero(~of.whole)
        for bound in best.binding:
            if bound.of == "limit":
                end = of.heeded[bound.index]
                column, price = of.stand.outputs[end.output], bound.price
                value = end.high if bound.side == "high" else end.low
            else:
                k = int(free[bound.index])
                low, high = of.bounds[k]
                value = low if bound.side == "low" else high
                column, price = inputs[k], bound.price / (value * math.log(high / low) if of.inputs[k].spacing == "logarithmic" else high - low)
            found.append(Binding(bound.of, column.name, bound.side, float(value), column.kind, column.si, of.signs[0] * float(price)))
        return found

    def _method(self, front: Sequence[Found]) -> str:
        parts = [] if self.of.whole.all() else [METHOD]
        parts += [WHOLE_METHOD] if self.of.whole.any() else []
        text = "; ".join([*parts, *([FRONT_METHOD] if front else [])])
        return f"{text[:1].upper()}{text[1:]}."

    def _remarks(self, searches: Sequence[Found], best: Found, number: int) -> list[str]:
        of, found = self.of, list[str]()
        if best.slope > FLAT:
            share = f"{100 * best.slope:.2g} %"
            found.append(f"The search ended where {share} of the slope of the objective is left: the best may lie a little beside this point.")
        if not of.valid(self.cases[number]):
            why = next(iter(self.cases[number].faults), "") or next(problem for problem in self.cases[number].problems if problem)
            found.append(f"Calculated as the plant itself is, the best case fails: {why}")
        worse = [s for s in searches if s.kept and abs(s.values[0] - best.values[0]) > ALIKE * abs(best.values[0])]
        lost = [s for s in searches if not s.kept]
        found += [f"{len(worse)} of {len(searches)} searches ended at another optimum, which is worse."] if worse else []
        found += [f"{len(lost)} of {len(searches)} searches found no point within the limits."] if lost else []
        walls = sum(not of.valid(case) for case in of.trials.values())
        found += [f"{walls} of {len(of.trials)} calculations on the way failed; the search turned back from there."] if walls else []
        return found

    def _contradiction(self, best: Found, case: Case) -> str:
        """Which limits cannot be kept together, at the point that misses them least."""
        of, texts = self.of, list[str]()
        near = {bound.index for bound in best.binding if bound.of == "limit"}
        for k, end in enumerate(of.heeded):
            value, column = case.outputs[end.output], of.stand.outputs[end.output]
            if value is not None and (k in near or not end.keeps(value)):
                texts.append(f"{column.name} is {told(column, value)} ({wanted(column, end)})")
        return f"No point between the bounds keeps to all limits. At the one that misses them least, {' and '.join(texts)}."


def _finite(end: float) -> float | None:
    return end if math.isfinite(end) else None


def _thinned(path: Sequence[Array]) -> list[Array]:
    if len(path) <= LONGEST:
        return list(path)
    return [path[round(k)] for k in np.linspace(0, len(path) - 1, LONGEST)]
