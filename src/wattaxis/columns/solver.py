"""Newton's method on all stages at once, slowed where it does not come near, and led from what is easy to what is wanted where it has to be."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from wattaxis.columns.equations import Equations, Looked, Unknowns
from wattaxis.columns.fewer import shorter, stretched
from wattaxis.columns.layout import DECANTING, DISTILLATE, ENDS, MIXED, NONE, OVERHEAD, TOTAL, ColumnError, Layout, NoColumnState
from wattaxis.columns.limits import hopeless, refuse, unreached
from wattaxis.columns.start import AS_FED, CAREFUL, FAST, Way, begin, easy_heats
from wattaxis.columns.wants import BOIL_UP, DUTY, FLOW, FRACTION, RECOVERY, REFLUX, Binder, Bound, Want
from wattaxis.properties import FlashError
from wattaxis.properties.parted import may_part, parting

#: What is left of every equation at most; Newton steps at most.
CLOSED, STEPS = 1e-10, 60
#: Looks at the equations in all after which a search is given up, and where each costs more: by two liquids, or rates.
LOOKS, FEWER_LOOKS = 2000, 700
#: Rounds without an improvement by that factor after which a search is given up, and how many times worse than its best it may become.
_PATIENCE, _BETTER, _WORSE = 14, 0.9, 1e8
#: What stages hold at first on a way through time, over their flows; below which that is nothing, and above which it is stuck.
_HELD, _FREE, _STUCK = 1.0, 1e-5, 1e4
#: How nearly the equations are met on it; moments at most; from where on Newton's method ends it.
_TUBE, _MOMENTS, _NEAR = 0.05, 120, 1e-4
#: How much more may be left where flows are many times the feeds, over how many times that is.
_ROUNDING = 1e-3
#: Moles of a phase on a stage, per mole of all feeds, that count as none.
_GONE = 1e-7
#: Share by which the molar volumes of liquid and vapour differ at least.
_ALIKE = 1e-3
#: Share of the way to what is wanted that a step on it may be at least.
_SHORTEST = 1.0 / 512.0
#: What is taken of an easy ratio in a step towards what is wanted, and how little a step may change it; what such a ratio is at most; by how much
#: more than at first what is wanted may be missed on the way.
_LESS, _LEAST_STEP, _MUCH, _AWAY = 0.7, 0.01, 200.0, 1.5
#: What counts as missing to one at least on the way from a purity.
_PURE = 1e-12
#: Share of its rates at which next to nothing reacts, and by which that grows at least on a way to all of it.
_HARDLY, _SLOWEST = 1e-4, 1.01


@dataclass
class Log:
    """How the state was found, in words, how often the equations were looked at, and how often they may be."""

    most: int
    lines: list[str] = field(default_factory=list)
    looks: int = 0

    @property
    def spent(self) -> bool:
        """Whether no more looks are left."""
        return self.looks >= self.most


def search(
    layout: Layout, wants: Sequence[Want], start: Unknowns | None = None, brief: bool = False, most: int | None = None
) -> tuple[Unknowns, Log, Layout]:
    """The state of a column that is as it is wanted, with how it was found and the layout that it is of.

    ``brief`` leaves out the long ways; after ``most`` looks at the equations, or as many as are usual, none is gone further. Where the liquid of a
    stage turns out to part in two, all stages are looked at so. Raises ColumnError.
    """
    log = Log(most or (FEWER_LOOKS if layout.reacting is not None or may_part(layout.model) else LOOKS))
    bound = [Binder(layout).bound(want) for want in wants]
    refuse(layout, bound)
    if layout.parting or layout.light == "liquid" or not may_part(layout.model):
        return _search(layout, wants, start, brief, log), log, layout
    parted = replace(layout, parting=True)
    if start is not None and _any_parts(layout, start):
        return _search(parted, wants, start, brief, log), log, parted
    found, starts = _short_ways(layout, wants, start, log)
    if found is None and not brief and any(_any_parts(layout, at) for at in starts):
        return _search(parted, wants, None, brief, log), log, parted
    found = found or _long_ways(layout, wants, starts, brief, log)
    if _any_parts(layout, found):
        log.lines.append("then with two liquids where the liquid parts")
        return _search(parted, wants, found, brief, log), log, parted
    return found, log, layout


def _any_parts(layout: Layout, at: Unknowns) -> bool:
    """Whether the liquid of any stage would part in two."""
    return bool(parting(layout.model, at.T, layout.P, at.liquid / at.liquid.sum(axis=1)[:, None]).any())


def _search(layout: Layout, wants: Sequence[Want], start: Unknowns | None, brief: bool, log: Log) -> Unknowns:
    found, starts = _short_ways(layout, wants, start, log)
    return found or _long_ways(layout, wants, starts, brief, log)


def _short_ways(layout: Layout, wants: Sequence[Want], start: Unknowns | None, log: Log) -> tuple[Unknowns | None, list[Unknowns]]:
    """By Newton's method from a state that may be near or from estimates, which are given too. Raises ColumnError where those cannot be made."""
    equations = Equations(layout, [Binder(layout).bound(want) for want in wants])
    if start is not None and (near := _newton(equations, start, log)) is not None:
        log.lines.append("from the state before")
        return near, []
    starts = list[Unknowns]()
    for way, words in [(FAST, "the short-cut estimate"), *_others(layout)]:
        try:
            starts.append(begin(layout, wants, way))
        except FlashError as error:
            raise ColumnError(f"The feed has no state at the pressure of the column: {error}", "Look at pressures and feed.") from error
        found = _newton(equations, starts[-1], log)
        if found is not None:
            log.lines.append(f"by Newton's method from {words}")
            return found, starts
    return None, starts


def _long_ways(layout: Layout, wants: Sequence[Want], starts: Sequence[Unknowns], brief: bool, log: Log) -> Unknowns:
    """From what is easy to what is wanted. Raises ColumnError, at once where the search is to be ``brief``."""
    if brief:
        raise NoColumnState("No state of the column was found by the short ways.", "Look for it by the long ones.")
    binder = Binder(layout)
    return _led(layout, binder, [binder.bound(want) for want in wants], starts, log)


def _others(layout: Layout) -> list[tuple[Way, str]]:
    """Other ways to begin, with what they are in words."""
    cold = [(AS_FED, "the temperature of the feed")] if layout.condenser == NONE and layout.reboiler else []
    return [*cold, (CAREFUL, "a short-cut estimate in small steps")] if layout.boils else []


def _newton(equations: Equations, start: Unknowns, log: Log) -> Unknowns | None:
    """From a start to the state, None where it is not reached."""
    found = equations.look(start)
    log.looks += 1
    best, since = found.sum, 0
    for _ in range(STEPS):
        if log.spent:
            return None
        if found.worst <= CLOSED * max(1.0, _ROUNDING * float(found.at.liquid.sum(axis=1).max())):
            # Where a phase is gone, or both are one, equilibrium says nothing any more: that is no state of a column.
            there = _least_flow(found.at) > _GONE and _apart(equations, found) > _ALIKE
            return _polished(equations, found, log) if there and (found.decanted is None or found.decanted.parts) else None
        step = equations.step(found)
        if step is None:
            return None
        by = _inside(equations.layout, found.at, step)
        tried = equations.look(found.at.moved(step, by))
        log.looks += 1
        for _ in range(4):
            if tried.sum <= 3.0 * found.sum:
                break
            by *= 0.3
            tried = equations.look(found.at.moved(step, by))
            log.looks += 1
        if not tried.sum <= _WORSE * best:
            return None
        found = tried
        if found.sum < _BETTER * best:
            best, since = found.sum, 0
        else:
            since += 1
            if since > _PATIENCE:
                return None
    return None


def _through_time(equations: Equations, start: Unknowns, log: Log) -> Unknowns | None:
    """As a column goes from a start to its state: stages hold something, ever less as long as the equations stay nearly met, and more where not.

    Fronts of composition move up and down the stages on the way, which Newton's method alone would jump over.
    """
    found = equations.look(start)
    log.looks += 1
    held = _HELD
    for _ in range(_MOMENTS):
        if log.spent:
            return None
        if found.worst <= _NEAR and held == 0.0:
            return _newton(equations, found.at, log)
        step = equations.step(found, held)
        if step is None:
            return None
        tried = equations.look(found.at.moved(step, _inside(equations.layout, found.at, step)))
        log.looks += 1
        if tried.sum <= max(_BETTER * found.sum, _TUBE):
            found, held = tried, 0.0 if held < _FREE else 0.5 * held
        else:
            held = max(4.0 * held, 100.0 * _FREE)
            if held > _STUCK:
                return None
    return None


def _least_flow(at: Unknowns) -> float:
    """The smallest flow of liquid or vapour on a stage, per mole of all feeds."""
    return min(float(at.liquid.sum(axis=1).min()), float(at.vapour.sum(axis=1).min()))


def _apart(equations: Equations, found: Looked) -> float:
    """The least share by which the phases of a stage differ in molar volume, or two liquids in composition: where they are one, all else is met."""
    if equations.layout.light == "liquid":
        x, y = (flows / flows.sum(axis=1)[:, None] for flows in (found.at.liquid, found.at.vapour))
        return float(np.abs(x - y).max(axis=1).min())
    liquid, vapour = (phase.molar_volume for phase in found.phases)
    return float(np.abs(liquid / vapour - 1.0).min())


def _inside(layout: Layout, at: Unknowns, step: Unknowns) -> float:
    """Part of a step after which shares of draws lie between nothing and all."""
    part = 1.0
    for k, free in enumerate(layout.free):
        change = step.free[k]
        if free.kind == "duty" or change == 0.0:
            continue
        room = at.free[k] if change < 0.0 else 1.0 - at.free[k]
        part = min(part, 0.9 * room / abs(change))
    return max(part, 1e-6)


def _polished(equations: Equations, found: Looked, log: Log) -> Unknowns:
    """One more step, where it is better: every way leads to the same digits."""
    step = equations.step(found)
    if step is None:
        return found.at
    last = equations.look(found.at.moved(step, 1.0))
    log.looks += 1
    return last.at if last.worst <= found.worst else found.at


def _easy(layout: Layout, at: Unknowns, wanted: Sequence[Want]) -> list[Want]:
    """Wants that are met from nearly everywhere: a reflux or boil-up ratio and the flows of products, as they are at a place.

    What is drawn, pumped around and stripped at the side is as it is wanted, where that is easy.
    """
    binder, wants = Binder(layout), list[Want]()
    top = DISTILLATE if layout.condenser == TOTAL else OVERHEAD
    refluxed = layout.condenser not in (NONE, DECANTING)
    if refluxed:
        wants.append(Want(REFLUX, 0.0))
    if layout.condenser == MIXED:
        wants.append(Want(FLOW, 0.0, DISTILLATE))
    if layout.reboiler:
        wants.append(Want(FLOW, 0.0, top) if refluxed else Want(BOIL_UP, 0.0))
    measured = []
    for want in wants:
        bound = binder.bound(want)
        measured.append(want.at(binder.unbound(bound, bound.now(at))))
    for free in layout.free:
        if free.name in (DISTILLATE, *ENDS):
            continue
        kinds = [Want(FLOW, 0.0, free.name)] if free.kind != "duty" else [Want(DUTY, 0.0, place=free.name), Want(BOIL_UP, 0.0, place=free.name)]
        kinds += [Want(FLOW, 0.0, s.name) for s in layout.sections[1:] if free.kind != "duty" and free.name == f"draw to {s.name}"]
        said = [want for want in wanted if want.at(0.0) in kinds]
        bound = binder.bound(kinds[0])
        measured.append(said[0] if said else kinds[0].at(binder.unbound(bound, bound.now(at))))
    return measured


def _easiest(layout: Layout, easy: Sequence[Bound], first: Unknowns, log: Log) -> Unknowns | None:
    """The state with easy targets: at once, or from heat balances that are easy too to those of the model."""
    real = Equations(layout, easy)
    at = _newton(real, first, log) or _through_time(real, first, log)
    if at is not None:
        return at
    if layout.reacting is not None and (at := _reacting_more(layout, easy, first, log)) is not None:
        return at
    if (at := _stage_by_stage(layout, [b.want for b in easy], log)) is not None:
        return at
    heats = easy_heats(layout, first)
    at = _through_time(Equations(layout, easy, 0.0, heats), first, log)
    done, step = 0.0, 0.5
    while at is not None and done < 1.0:
        share = min(done + step, 1.0)
        there = _newton(Equations(layout, easy, share, heats), at, log)
        if there is not None:
            at, done, step = there, share, 2.0 * step
        elif (step := 0.4 * step) < _SHORTEST:
            return None
    return at


def _stage_by_stage(layout: Layout, wants: Sequence[Want], log: Log) -> Unknowns | None:
    """From a column of few stages to that of all, each from the state of the one before."""
    few = list(shorter(layout))
    at: Unknowns | None = None
    for short in (*few, layout) if few else ():
        try:
            start = begin(short, wants) if at is None else stretched(at, short.stages)
        except FlashError:
            continue
        equations = Equations(short, [Binder(short).bound(want) for want in wants])
        found = _newton(equations, start, log) or _through_time(equations, start, log)
        if short is layout:
            return found
        at = found or at
    return None


def _reacting_more(layout: Layout, easy: Sequence[Bound], first: Unknowns, log: Log) -> Unknowns | None:
    """From a column in which nothing reacts to one in which all does; a way grows by the decade as long as it leads on."""
    none = Equations(layout, easy, reacted=0.0)
    at, done, step = _newton(none, first, log) or _through_time(none, first, log), _HARDLY, 10.0
    while at is not None and done < 1.0:
        share = min(done * step, 1.0)
        there = _newton(Equations(layout, easy, reacted=share), at, log)
        if there is not None:
            at, done, step = there, share, min(step**1.5, 10.0)
        elif (step := step**0.5) < _SLOWEST:
            return None
    return at


def _led(layout: Layout, binder: Binder, bound: Sequence[Bound], starts: Sequence[Unknowns], log: Log) -> Unknowns:
    """First what is easy, then step by step what is wanted."""
    at, easy = None, list[Bound]()
    for start in starts:
        if at is None:
            easy = [binder.bound(want) for want in _easy(layout, start, [b.want for b in bound])]
            at = _easiest(layout, easy, start, log)
    if at is None:
        risen = float(easy_heats(layout, starts[0]).sum()) if layout.boils else 0.0
        raise hopeless(layout, bound, risen, starts[0])
    log.lines.append("with a reflux ratio and product rates of the short-cut estimate first")
    direct = _newton(Equations(layout, bound), at, log) or _through_time(Equations(layout, bound), at, log)
    if direct is not None:
        return direct
    if len(bound) == len(easy) == 1 and (walked := _walked(layout, binder, bound[0], easy[0], at, log)) is not None:
        log.lines.append("then by more or less of that")
        return walked
    there, done = _path(layout, binder, bound, at, log)
    if done == 1.0:
        log.lines.append("then step by step to what is wanted")
        return there
    return _one_by_one(layout, binder, bound, easy, at, log)


def _path(layout: Layout, binder: Binder, bound: Sequence[Bound], at: Unknowns, log: Log) -> tuple[Unknowns, float]:
    """From a state towards one that is as it is wanted: the last that was found, and which share of the way that is."""
    done, step = 0.0, 0.25
    begun = [b.now(at) for b in bound]
    if not np.isfinite(begun).all():
        return at, 0.0  # nothing leads on from what a product has not
    while done < 1.0 and not log.spent:
        share = min(done + step, 1.0)
        wanted = [binder.bound(b.want.at(binder.unbound(b, _between(b.want, old, b.value, share)))) for b, old in zip(bound, begun, strict=True)]
        there = _newton(Equations(layout, wanted), at, log)
        if there is not None:
            at, done, step = there, share, 1.5 * step
        elif (step := 0.5 * step) < _SHORTEST:
            break
    return at, done


def _walked(layout: Layout, binder: Binder, wanted: Bound, easy: Bound, at: Unknowns, log: Log) -> Unknowns | None:
    """The one thing that is wanted by more or less of the one that is easy, up to where it is passed: far from it, it hardly moves with any step."""
    for factor in (_LESS, 1.0 / _LESS):
        now, before, step = at, wanted.now(at) - wanted.value, factor
        value = easy.now(at)
        while not log.spent and abs(step - 1.0) > _LEAST_STEP and value * step < _MUCH:
            equations = Equations(layout, [binder.bound(easy.want.at(binder.unbound(easy, value * step)))])
            there = _newton(equations, now, log) or _through_time(equations, now, log)
            if there is None:
                step **= 0.5
                continue
            now, value, gap = there, value * step, wanted.now(there) - wanted.value
            if gap * before <= 0.0:
                equations = Equations(layout, [wanted])
                return _newton(equations, there, log) or _through_time(equations, there, log)
            if abs(gap) > _AWAY * abs(before):
                break  # the other way
            step = factor
    return None


def _one_by_one(layout: Layout, binder: Binder, bound: Sequence[Bound], easy: Sequence[Bound], at: Unknowns, log: Log) -> Unknowns:
    """What is wanted in the place of what is easy, rates and ratios first. Raises ColumnError with how far the one that fails can go."""
    order = sorted(range(len(bound)), key=lambda k: bound[k].want.kind in (FRACTION, RECOVERY))
    left, settled = list(easy), list[Bound]()
    for k in order:
        # Of the easy ones the one is given up that is most like it, so that the others do not say the same.
        alike = [e for e in left if e.want.at(0.0) == bound[k].want.at(0.0)]
        alike = alike or [
            e for e in left if (e.want.kind, e.want.product, e.want.place) == (bound[k].want.kind, bound[k].want.product, bound[k].want.place)
        ]
        flows = [e for e in left if e.want.kind == FLOW] if bound[k].want.kind == FLOW else []
        left.remove((alike or flows or left)[0])
        there, done = _path(layout, binder, [*settled, bound[k], *left], at, log)
        if done < 1.0:
            raise unreached(layout, binder, bound[k], settled, [b for b in bound if b not in (*settled, bound[k])], there)
        settled.append(bound[k])
        at = there
    log.lines.append("then one after the other what is wanted")
    return at


def _between(want: Want, old: float, new: float, share: float) -> float:
    """A value on the way: purities by the logarithm of what is missing to one."""
    if want.kind in (FRACTION, RECOVERY):
        old = min(max(old, _PURE), 1.0 - _PURE)
        a, b = np.log(old / (1.0 - old)), np.log(new / (1.0 - new))
        return float(1.0 / (1.0 + np.exp(-(a + share * (b - a)))))
    if old > 0.0 and new > 0.0 and want.kind in (REFLUX, BOIL_UP, FLOW):
        return float(old ** (1.0 - share) * new**share)
    return old + share * (new - old)
