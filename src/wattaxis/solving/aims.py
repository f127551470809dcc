"""Aims: targets for calculated values, met by changing one given each, all of them together.

Newton with differences of whole calculations and Broyden's (1965) updates, within bounds, each step halved until it helps. Units that a change
does not reach come from the memory, loops start from where they were. A single aim that this does not reach is looked for over its whole range:
where its residual changes sign, by Brent's (1973) method.
"""

from __future__ import annotations

from collections.abc import Collection, Iterable, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Protocol

import numpy as np

from wattaxis.flowsheet import Aim, Document
from wattaxis.flowsheet.givens import given_at, typed_givens, with_given
from wattaxis.quantities import KINDS, Quantity, QuantityError, from_si, to_si
from wattaxis.quantities.quantity import dimension_si, linear
from wattaxis.solving.memory import Memory, Met, Purpose
from wattaxis.solving.pins import evaluate_pin
from wattaxis.solving.results import AimResult, SolveResult
from wattaxis.unitops import Finding

#: Residual, relative to the target (at least a hundredth of the first gap), at which an aim is met; steps of the search; halvings of a step.
MET, MOST, HALVINGS = 1e-8, 30, 6
#: What may be left of an aim in the answer itself, which is found from nothing.
ANSWERED = 1e-6
#: Share of its scale by which a given is moved to see its effect.
STEP = 1e-4
#: Longest step at first, in scales of the givens.
LONGEST = 5.0
#: Points at which a single aim is tried near by, and as many on either side further out, up to so many scales away.
POINTS, FURTHEST = 12, 1e4


class Calculate(Protocol):
    """One calculation of a whole document: its result, and whether it was not stopped; ``on_the_way`` no faults count but those in the way."""

    def __call__(self, document: Document, purpose: Purpose, on_the_way: bool = False) -> tuple[SolveResult, bool]: ...


@dataclass(frozen=True)
class FreeGiven:
    """A given as a number: where it is, its SI unit, what was typed, its bounds and how far a large step goes."""

    unit: str
    field: str
    title: str
    kind: str
    si: str
    typed: str
    value: float
    low: float
    high: float

    def told(self, value: float) -> str:
        """A value in the unit that was typed."""
        return f"{from_si(value, self.typed, difference=KINDS[self.kind].difference):.5g} {self.typed}".rstrip()

    @property
    def scale(self) -> float:
        if self.kind == "temperature":
            return 10.0
        if self.kind in ("share", "fraction"):
            return 0.1
        standard = {"power": 1e4, "pressure_difference": 1e4, "pressure": 1e4, "conductance": 100.0}
        return 0.2 * abs(self.value) or standard.get(self.kind, 1.0)


def given_of(document: Document, unit_tag: str, path: str, low: Quantity | None = None, high: Quantity | None = None) -> FreeGiven | str:
    """A given of the document, or the sentence that says why it cannot be freed."""
    unit = document.unit(unit_tag)
    if unit is None:
        return f"{unit_tag}, whose value it frees, is not on the sheet."
    given = given_at(unit, path)
    if given is None or given.typed is None:
        return f"{given.title if given else path} of {unit_tag} is blank: type a value to start from."
    if given.bound:
        return f"{given.title} of {unit_tag} cannot be freed: {given.bound}."
    kind, typed = given.kind, given.typed
    try:
        value = to_si(typed, kind)
        ends = [end if bound is None else to_si(bound, kind) for bound, end in ((low, KINDS[kind].low), (high, KINDS[kind].high))]
    except QuantityError as error:
        return str(error)
    if KINDS[kind].low_open and low is None:
        ends[0] = 1e-6 * value
    if not ends[0] < ends[1]:
        return f"The lower bound of {given.title.lower()} of {unit_tag} must lie below the upper one."
    return FreeGiven(unit_tag, path, given.title, kind, dimension_si(typed, kind), typed.unit, value, ends[0], ends[1])


def free_givens(document: Document, tags: Iterable[str], taken: Collection[tuple[str, str]]) -> list[FreeGiven]:
    """What is typed for some units and can be moved, in their order; not what is known rather than chosen, nor what is ``taken`` (unit, path)."""
    found = []
    for tag in tags:
        unit = document.unit(tag)
        for typed in typed_givens(unit) if unit else ():
            given = given_of(document, tag, typed.path)
            if isinstance(given, FreeGiven) and not typed.known and (tag, typed.path) not in taken:
                found.append(given)
    return found


def with_givens(document: Document, givens: Sequence[FreeGiven], values: Sequence[float] | np.ndarray) -> Document:
    """The document with other values (SI) of some givens."""
    changed = {unit.tag: unit for unit in document.units}
    for given, value in zip(givens, values, strict=True):
        changed[given.unit] = with_given(changed[given.unit], given.field, Quantity(value=float(value), unit=given.si))
    return document.model_copy(update={"units": tuple(changed[unit.tag] for unit in document.units)})


def in_si(quantity: Quantity, kind: str | None) -> float:
    """A quantity in SI as one of a kind, or of none that has a name. Raises QuantityError."""
    if kind is not None:
        return to_si(quantity, kind)
    factor, offset = linear(quantity.unit)
    return quantity.value * factor + offset


class _Search:
    """Values of the freed givens at which the aims are met."""

    def __init__(self, document: Document, aims: list[Aim], givens: list[FreeGiven], calculate: Calculate) -> None:
        self.document, self.aims, self.givens, self.calculate = document, aims, givens, calculate
        self.low, self.high = np.array([g.low for g in givens]), np.array([g.high for g in givens])
        self.scale = np.array([g.scale for g in givens])
        self.size: np.ndarray | None = None
        self.history: list[float] = []
        self.stopped = False
        self.best: tuple[float, np.ndarray, np.ndarray] | None = None
        self.slope: np.ndarray | None = None
        self.problem = ""
        self.tried: tuple[float, float] | None = None

    def residual(self, values: np.ndarray) -> np.ndarray | None:
        """What is left to the targets, relative; None where the plant is not calculated with these values."""
        if self.stopped:
            return None
        changed = with_givens(self.document, self.givens, values)
        result, whole = self.calculate(changed, "search", on_the_way=True)
        self.stopped = not whole
        found = [evaluate_pin(aim, changed, result) for aim in self.aims]
        self.problem = next((pin.problem for pin in found if pin.value is None), "")
        if self.stopped or self.problem:
            return None
        gaps = np.array([pin.value - in_si(aim.target, pin.kind) for pin, aim in zip(found, self.aims, strict=True) if pin.value is not None])
        if self.size is None:
            targets = np.array([abs(in_si(aim.target, pin.kind)) for pin, aim in zip(found, self.aims, strict=True)])
            self.size = np.maximum(np.maximum(targets, 0.01 * np.abs(gaps)), 1e-300)
        left = gaps / self.size
        error = float(np.abs(left).max())
        self.history.append(error)
        if self.best is None or error < self.best[0]:
            self.best = (error, values.copy(), left)
        return np.asarray(left)

    def slopes(self, values: np.ndarray, left: np.ndarray) -> np.ndarray:
        """d residual / d given by differences, shape (aims, givens); a column of nan where no neighbour can be calculated."""
        matrix = np.full((len(left), len(values)), np.nan)
        for k in range(len(values)):
            for direction in (1.0, -1.0):
                moved = values.copy()
                moved[k] += direction * STEP * self.scale[k]
                if not self.low[k] <= moved[k] <= self.high[k]:
                    continue
                there = self.residual(moved)
                if there is not None:
                    matrix[:, k] = (there - left) / (moved[k] - values[k])
                    break
        return matrix

    def run(self, start: np.ndarray, slope: np.ndarray | None = None, size: np.ndarray | None = None) -> None:
        """Search from ``start``; what was found is in ``best``. ``slope`` and ``size`` may be those of an earlier search that ended there."""
        self.size = size
        values = np.clip(start, self.low, self.high)
        left = self.residual(values)
        if left is None:
            return
        if self.met and slope is not None:
            self.slope = slope
            return
        self._newton(values, left, slope)
        if not self.met and len(self.aims) == 1 and not self.stopped:
            self._scan()

    @property
    def met(self) -> bool:
        """Whether the best values meet all aims."""
        return self.best is not None and self.best[0] <= MET

    def _newton(self, values: np.ndarray, left: np.ndarray, known: np.ndarray | None) -> None:
        """Newton's steps from slopes that are ``known`` of an earlier search, else from differences; both are bettered by every step."""
        fresh = known is None or not np.isfinite(known).all()
        slope = known if known is not None and not fresh else self.slopes(values, left)
        if fresh:
            left, slope = self._sized(values, left, slope)
        self.slope = slope
        longest = LONGEST
        for _ in range(MOST):
            if self.stopped or np.abs(left).max() <= MET or not np.isfinite(slope).all():
                return
            whole = self._step(values, left, slope)
            size = float(np.abs(whole / self.scale).max())
            share = min(1.0, longest / size) if size > 0.0 else 1.0
            taken = self._taken(values, left, share * whole, share)
            # A target far away is walked to in steps that grow while they help.
            longest = LONGEST if taken is None else 3.0 * longest
            if taken is None:
                if fresh:
                    return
                slope, fresh = self.slopes(values, left), True
                self.slope = slope
                continue
            new, there = taken
            move = new - values
            scaled = move / self.scale**2
            slope = slope + np.outer(there - left - slope @ move, scaled) / float(move @ scaled)
            values, left, fresh, self.slope = new, there, False, slope

    def _sized(self, values: np.ndarray, left: np.ndarray, slope: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """A target of zero says nothing of its size: what the freed givens move it by, taken as a whole, does. What is left and its slopes anew."""
        assert self.size is not None
        assert self.best is not None
        effect = np.nanmax(np.abs(slope) * np.maximum(np.abs(values), self.scale), axis=1, initial=0.0) * self.size
        zero = np.array([aim.target.value == 0.0 for aim in self.aims])
        factor = np.where(zero & np.isfinite(effect) & (effect > self.size), self.size / np.maximum(effect, 1e-300), 1.0)
        self.size = self.size / factor
        best = self.best[2] * factor
        self.best = (float(np.abs(best).max()), self.best[1], best)
        return left * factor, slope * factor[:, None]

    def _step(self, values: np.ndarray, left: np.ndarray, slope: np.ndarray) -> np.ndarray:
        """Newton's step in scaled givens; those that it would push through a bound stay there, and the others make up for it."""
        free = np.ones(len(values), dtype=bool)
        step = np.zeros(len(values))
        for _ in range(len(values)):
            step[:] = 0.0
            step[free] = np.linalg.lstsq(slope[:, free] * self.scale[free], -left, rcond=1e-12)[0] * self.scale[free]
            stuck = free & (((values >= self.high) & (step > 0.0)) | ((values <= self.low) & (step < 0.0)))
            if not stuck.any():
                break
            free &= ~stuck
        return step

    def _taken(self, values: np.ndarray, left: np.ndarray, step: np.ndarray, share: float) -> tuple[np.ndarray, np.ndarray] | None:
        """The first of ever shorter steps after which less is left: by a tenth of what this ``share`` of Newton's whole step can reach."""
        for halving in range(HALVINGS):
            new = np.clip(values + step * 0.5**halving, self.low, self.high)
            if (new == values).all():
                return None
            there = self.residual(new)
            if there is not None and np.abs(there).max() < (1.0 - 0.1 * share * 0.5**halving) * np.abs(left).max():
                return new, there
        return None

    def _scan(self) -> None:
        """A single aim over its whole range."""
        from scipy.optimize import brentq

        assert self.best is not None
        middle, scale = float(self.best[1][0]), float(self.scale[0])
        reach = max(abs(middle), 20.0 * scale)
        low, high = max(float(self.low[0]), middle - reach), min(float(self.high[0]), middle + 4.0 * reach)
        # Close by evenly, further out in growing steps up to the bounds, or as far as any such value goes.
        steps = scale * np.geomspace(4.0, FURTHEST, POINTS)
        outward = np.concatenate([middle - steps, middle + steps, [e for e in (self.low[0], self.high[0]) if abs(e) <= FURTHEST * scale]])
        grid = np.unique(np.clip(np.concatenate([np.linspace(low, high, POINTS), [middle], outward]), self.low[0], self.high[0]))
        self.tried = float(grid[0]), float(grid[-1])
        found = [(x, left[0]) for x in grid if (left := self.residual(np.array([x]))) is not None]
        for (a, fa), (b, fb) in pairwise(found):
            if fa * fb >= 0.0 or self.stopped:
                continue

            def inside(x: float) -> float:
                left = self.residual(np.array([x]))
                if left is None:
                    raise ArithmeticError
                return float(left[0]) if abs(left[0]) > MET else 0.0

            try:
                brentq(inside, a, b, xtol=1e-12 * self.scale[0] + 1e-300, maxiter=60)
            except (ArithmeticError, RuntimeError):
                continue
            if self.met:
                self.slope = self.slopes(self.best[1], self.best[2])
                return


def meet_aims(document: Document, calculate: Calculate, memory: Memory, purpose: Purpose = "answer") -> tuple[SolveResult, Document]:
    """Calculate a document so that its active aims are met: the result, which says what became of each, and the document with the values found.

    ``purpose`` is that of the last calculation, with those values.
    """
    told: dict[str, AimResult] = {}
    findings: list[Finding] = []
    pursued: list[tuple[Aim, FreeGiven]] = []
    for aim in document.aims:
        state = AimResult(aim.name, aim.formula, aim.free.unit, aim.free.field, "open")
        if not aim.active:
            told[aim.name] = replace(state, state="paused")
            continue
        given = given_of(document, aim.free.unit, aim.free.field, aim.low, aim.high)
        if not isinstance(given, str) and any((g.unit, g.field) == (given.unit, given.field) for _, g in pursued):
            given = f"{given.title} of {given.unit} is freed by another aim already; one value cannot meet two targets."
        if isinstance(given, str):
            told[aim.name] = replace(state, text=given)
            text = f"The aim {aim.name} cannot be pursued: {given}"
            findings.append(Finding("fault", aim.free.unit, text, "Free another value, or pause the aim."))
            continue
        pursued.append((aim, given))
    changed = document
    if pursued:
        search = _Search(document, [a for a, _ in pursued], [g for _, g in pursued], calculate)
        _find(search, memory)
        if search.best is not None:
            changed = with_givens(document, search.givens, search.best[1])
        result, _ = calculate(changed, purpose)  # for the most part from the memory
        for outcome, finding in _outcomes(search, changed, result):
            told[outcome.name] = outcome
            findings += [finding] if finding else []
    else:
        result, _ = calculate(document, purpose)
    for aim in document.aims:
        pin = evaluate_pin(aim, changed, result)
        if told[aim.name].value is None and pin.value is not None:
            told[aim.name] = _valued(told[aim.name], aim, pin.value, pin.kind)
    result.aims = [told[aim.name] for aim in document.aims]
    result.findings += findings
    return result, changed


def _valued(told: AimResult, aim: Aim, value: float, kind: str | None) -> AimResult:
    try:
        return replace(told, value=value, kind=kind, target=in_si(aim.target, kind))
    except QuantityError:
        return replace(told, value=value, kind=kind)


def _find(search: _Search, memory: Memory) -> None:
    """Run a search from where an equal one ended before; else from what was typed, with the slopes that are known of other starts."""
    alike = "|".join(f"{a.formula}:{g.unit}.{g.field}" for a, g in zip(search.aims, search.givens, strict=True))
    typed = np.array([g.value for g in search.givens])
    equal = f"{alike}={typed.tolist()!r}"
    before, other = memory.aims.get(equal), memory.aims.get(alike)
    try:
        if before is not None:
            search.run(before.found, before.slope, before.size)
        elif other is not None:
            search.run(typed, other.slope, other.size)
        if search.best is None and not search.stopped:
            search.run(typed)
    except QuantityError as error:
        search.problem = str(error)
    if search.best is not None and search.met:
        memory.aims[equal] = memory.aims[alike] = Met(search.best[1], search.slope, search.size)


def _outcomes(search: _Search, document: Document, result: SolveResult) -> list[tuple[AimResult, Finding | None]]:
    """What became of every aim of a search, with what is to be said of those that are not met."""
    found: list[tuple[AimResult, Finding | None]] = []
    for k, (aim, given) in enumerate(zip(search.aims, search.givens, strict=True)):
        told = AimResult(aim.name, aim.formula, given.unit, given.field, "open", freed_kind=given.kind, freed_si=given.si)
        if search.best is None:
            told = replace(told, text=f"It has no value to begin with. {search.problem}".strip())
            finding = Finding("fault", given.unit, f"The aim {aim.name} cannot be pursued. {search.problem}", "Correct its formula or target.")
            # Where the plant itself is not calculated, its own findings say why.
            found.append((told, finding if search.problem and result.complete and not search.stopped else None))
            continue
        _, values, left = search.best
        pin, met = evaluate_pin(aim, document, result), bool(abs(left[k]) <= MET)
        if met and search.size is not None and pin.value is not None:
            # A unit of several states may have been in another one on the way.
            met = bool(abs(pin.value - in_si(aim.target, pin.kind)) <= ANSWERED * search.size[k])
        slope = None
        if search.slope is not None and search.size is not None and np.isfinite(search.slope[k, k]):
            slope = float(search.slope[k, k] * search.size[k])
        text = "" if met else _why(aim, given, float(values[k]), slope, search)
        told = replace(
            told, state="met" if met else "missed", value=pin.value, target=in_si(aim.target, pin.kind), kind=pin.kind, slope=slope, text=text
        )
        told = replace(told, freed=float(values[k]), history=search.history)
        remedy = "Give another target, free another value, or widen its bounds."
        missed = Finding("fault", given.unit, f"The aim {aim.name} is missed. {text}", remedy, given.field)
        found.append((told, None if met or search.stopped else missed))
    return found


def _why(aim: Aim, given: FreeGiven, value: float, slope: float | None, search: _Search) -> str:
    name = f"{given.title.lower()} of {given.unit}"
    if slope is not None and slope == 0.0:
        return f"Changing {name} has no effect on {aim.formula}."
    near = 1e-9 * given.scale
    if value >= given.high - near or value <= given.low + near:
        side = "upper" if value >= given.high - near else "lower"
        return f"The value here is the best that can be reached: {name} stands at its {side} bound of {given.told(value)}."
    if search.tried is None:
        return f"The value here is the best that was found together with the other aims, by {name}."
    low, high = search.tried
    return f"The value here is the best that was found by {name}, tried from {given.told(low)} to {given.told(high)}."
