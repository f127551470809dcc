"""Calculating a document: groups of units in the order of the streams, loops closed, remembered results reused."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace
from typing import TYPE_CHECKING

from wattaxis.flowsheet import Document, models_of
from wattaxis.quantities import to_si
from wattaxis.solving.aims import meet_aims
from wattaxis.solving.calculator import Calculator, failed
from wattaxis.solving.cautions import against_measurement, against_mixing, associating_vapours, ideal_vapours
from wattaxis.solving.checking import checked
from wattaxis.solving.doubts import doubts, splits
from wattaxis.solving.loops import close_loop
from wattaxis.solving.memory import Memory, Purpose
from wattaxis.solving.pins import evaluate_pins, tags_in
from wattaxis.solving.plan import Group, plan
from wattaxis.solving.results import Balance, EnergyResult, LoopResult, SolveResult, UnitState, phase_results, stream_result
from wattaxis.unitops import Finding, StreamState, UnitResult
from wattaxis.unitops.base import Carried, EnergyState

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel

#: Called after each unit with its state and the streams it made; returning False stops the calculation.
Progress = Callable[[UnitState, SolveResult], bool]


def solve(document: Document, *, memory: Memory | None = None, progress: Progress | None = None) -> SolveResult:
    """Calculate everything that can be calculated. Never raises for what a document holds: faults come back as findings.

    ``memory`` keeps unit results and solutions of loops between calls; ``progress`` is told of each unit, and of each pass through a loop
    with the unit that it starts from, and may stop the work by returning False.

    >>> from importlib.resources import files
    >>> from wattaxis import load
    >>> result = solve(load(files("wattaxis.examples").joinpath("sandlark_bay.json").read_text()))
    >>> result.complete, round(result.streams["S-07"].temperature, 2)
    (True, 308.15)
    """
    result, document, states = answered(document, memory or Memory(), progress)
    result.pins = evaluate_pins(document, result)
    # Not in every pass of a search: transport properties take longer than all the rest of a stream.
    material = {tag: stream for tag, stream in states.items() if isinstance(stream, StreamState) and tag in result.streams}
    doubtful = doubts(document, material) if material else {}
    # What is to be said of the chemistry is said once, of the answer.
    result.findings += [f for told in (ideal_vapours, associating_vapours, against_measurement, against_mixing) for f in told(material)]
    result.findings += splits(document, material)
    for tag, stream in material.items():
        own, upstream = doubtful[tag]
        result.streams[tag] = replace(result.streams[tag], phases=phase_results(stream.state), doubts=own, doubts_upstream=upstream)
    return result


def answered(
    document: Document, memory: Memory, progress: Progress | None = None, purpose: Purpose = "answer", formulas: Sequence[str] = ()
) -> tuple[SolveResult, Document, dict[str, Carried]]:
    """As :func:`solve`, without pins, transport properties and what is to be said of the chemistry; the document as aims made it, and streams.

    In a "search" for the best, units begin at what they were before, as they do for aims, and those that neither ``formulas`` nor aims look at give
    nothing but what they hand on, and their faults.
    """
    states: dict[str, Carried] = {}
    looked_at = tags_in([*formulas, *(aim.formula for aim in document.aims if aim.active)])

    def calculate(document: Document, purpose: Purpose, on_the_way: bool = False) -> tuple[SolveResult, bool]:
        result, whole, found = once(document, memory, progress, purpose, looked_at if purpose == "search" else None, on_the_way)
        states.update(found)
        return result, whole

    if document.aims:
        result, document = meet_aims(document, calculate, memory, purpose)
    else:
        result, _ = calculate(document, purpose)
    return result, document, states


def once(
    document: Document,
    memory: Memory,
    progress: Progress | None,
    purpose: Purpose = "answer",
    looked_at: frozenset[str] | None = None,
    on_the_way: bool = False,
) -> tuple[SolveResult, bool, dict[str, Carried]]:
    """One calculation with the givens as they are: its result, false when it was stopped on the way, and its streams.

    ``looked_at``: the units of which more is asked than what they hand on and their faults; None for all. ``on_the_way``: not even all faults.
    """
    document, result = checked(document)
    models = _models(document, result)
    if not models:
        return result, True, {}
    run = _Run(document, Calculator(document, models), memory, progress, result, purpose, looked_at, on_the_way)
    for group in plan(document):
        if not (run.loop(group) if group.tears else run.unit(group.units[0])):
            return result, False, run.streams
    result.streams = {s.tag: result.streams[s.tag] for s in document.streams if s.tag in result.streams}
    result.complete = bool(document.units) and all(u.mark == "current" for u in result.units.values())
    result.balance = _sheet_balance(document, run.streams, run.loose, result) if result.complete else Balance()
    return result, True, run.streams


@dataclass
class _Run:
    """One calculation under way."""

    document: Document
    calculator: Calculator
    memory: Memory
    progress: Progress | None
    result: SolveResult
    purpose: Purpose
    looked_at: frozenset[str] | None
    on_the_way: bool
    streams: dict[str, Carried] = field(default_factory=dict)
    loose: list[tuple[str, StreamState]] = field(default_factory=list)

    def __post_init__(self) -> None:
        #: EUR/kg by component.
        self.prices = {c.id: to_si(c.price, "price") for c in self.document.chemistry.components if c.price is not None}

    def unit(self, tag: str, drafts: Memory | None = None) -> bool:
        """Calculate a unit where its inlets are known; ``drafts`` of its loop may have it. False when the work is to stop."""
        if self.result.units[tag].mark != "ready" or not self.calculator.ready(tag, self.streams):
            return True
        solved = self._solved(tag, drafts)
        self.result.findings += solved.findings
        if failed(solved):
            self.result.units[tag] = UnitState(tag, "fault")
        else:
            # Where a stream ends, nothing goes on with what another model makes of it.
            energy = solved.energy_in + (solved.model_change if solved.outlets else 0.0)
            self.result.units[tag] = UnitState(tag, "current", solved.values, solved.basis, solved.profiles, energy)
            known, loose = self.calculator.named(tag, solved)
            self.streams |= known
            self.loose += [(tag, outlet) for outlet in loose]
            for name, outlet in known.items():
                if isinstance(outlet, EnergyState):
                    self.result.energies[name] = EnergyResult(name, outlet.kind, outlet.power, outlet.low, outlet.high)
                else:
                    self.result.streams[name] = stream_result(name, outlet, self.prices)
        return self._goes_on(tag)

    def _solved(self, tag: str, drafts: Memory | None) -> UnitResult:
        """The result of a unit; where nothing but what it hands on is asked for, a draft of it, if that tells what faults count."""
        operation = self.calculator.units[tag].operation
        enough = self.on_the_way or operation.drafts_tell_faults or not operation.drafts
        if enough and self.looked_at is not None and tag not in self.looked_at:
            draft = self.calculator.unit(tag, self.streams, drafts or self.memory, "draft")
            if not (failed(draft) or draft.provisional):
                return draft
        return self.calculator.unit(tag, self.streams, self.memory, self.purpose)

    def loop(self, group: Group) -> bool:
        """Close a loop, then calculate its units once more with what was found. False when the work is to stop."""
        entering = {name for tag in group.units for _, name, _ in self.calculator.inlets[tag]} - self.calculator.inside(group.units)
        if any(self.result.units[tag].mark != "ready" for tag in group.units) or not entering <= self.streams.keys():
            return True
        outside = {name: self.streams[name] for name in sorted(entering)}
        key = "|".join(group.tears) + "||" + "|".join(c.id for c in self.calculator.model.components)
        hint = self.memory.loops.get(key)
        loop, solution = close_loop(self.calculator, group, outside, self.memory, hint, lambda: self._goes_on(group.units[0]), self.purpose)
        self.result.loops.append(LoopResult(group.units, group.tears, loop.closed and solution is not None, loop.history, loop.slowest, loop.method))
        if loop.findings:
            self.result.findings += loop.findings
            for tag in {f.place for f in loop.findings} & self.result.units.keys():
                self.result.units[tag] = UnitState(tag, "fault")
            return self._goes_on(group.units[0])
        if solution is None:
            return False
        self.memory.loops[key] = solution
        self.streams |= loop.streams
        torn = dict(loop.streams)
        for tag in group.units:
            if not self.unit(tag, loop.drafts):
                return False
            self.streams |= torn  # the units see the torn streams as they went out, not as they came back
        return True

    def _goes_on(self, tag: str) -> bool:
        return self.progress is None or self.progress(self.result.units[tag], self.result)


def _models(document: Document, result: SolveResult) -> dict[str, PropertyModel]:
    if not document.chemistry.components or any(f.place == "Chemistry" and f.severity == "fault" for f in result.findings):
        return {}
    try:
        return models_of(document)
    except (KeyError, ValueError) as error:
        result.findings.append(Finding("fault", "Chemistry", str(error.args[0]), "Correct it under Chemistry."))
        return {}


def _sheet_balance(document: Document, streams: dict[str, Carried], loose: list[tuple[str, StreamState]], result: SolveResult) -> Balance:
    """Over the boundary of the sheet: from units without inlets; to units without outlets, and by outlets that lead nowhere (``loose``)."""
    units = {u.tag: u.ports for u in document.units}
    sources = {tag for tag, ports in units.items() if not any(p.direction == "in" for p in ports)}
    sinks = {tag for tag, ports in units.items() if not any(p.direction == "out" for p in ports)}
    entering: list[Carried] = [streams[s.tag] for s in document.streams if s.source.unit in sources]
    entering += [o for tag, o in loose if tag in sources]
    leaving: list[Carried] = [streams[s.tag] for s in document.streams if s.target.unit in sinks]
    leaving += [o for _, o in loose]
    # What is copied on purpose comes in beside the original, and the original leaves.
    copying = {u.tag for u in document.units if not u.operation.balanced}
    entering += [streams[s.tag] for s in document.streams if s.source.unit in copying]
    leaving += [streams[s.tag] for s in document.streams if s.target.unit in copying]
    mass_in, mass_out = sum(s.mass_flow for s in entering), sum(s.mass_flow for s in leaving)
    energy = [unit.energy_in for unit in result.units.values()]
    energy_in = sum(s.enthalpy_flow for s in entering) + sum(energy)
    energy_out = sum(s.enthalpy_flow for s in leaving)
    size = sum(abs(s.enthalpy_flow) for s in entering) + sum(abs(e) for e in energy)
    return Balance(
        mass_in, mass_out, energy_in, energy_out, (mass_in - mass_out) / mass_in if mass_in else 0.0, (energy_in - energy_out) / size if size else 0.0
    )
