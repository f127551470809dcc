"""Calculating a document: units in the order of the streams, each once, remembered results reused."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import TYPE_CHECKING

from wattaxis.flowsheet import Document, Unit, property_model
from wattaxis.properties import MODELS, State
from wattaxis.solving.checking import check, connected, graph
from wattaxis.solving.memory import Memory, content_key
from wattaxis.solving.results import Balance, SolveResult, UnitState, stream_result
from wattaxis.unitops import Finding, StreamState, UnitResult
from wattaxis.unitops.base import Givens, UnitFault

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel

#: Balances of every unit must close to this, relative to what passes through it.
CLOSURE = 1e-8
#: Called after each unit with its state and the streams it made; returning False stops the calculation.
Progress = Callable[[UnitState, SolveResult], bool]


def solve(document: Document, *, memory: Memory | None = None, progress: Progress | None = None) -> SolveResult:
    """Calculate everything that can be calculated. Never raises for what a document holds: faults come back as findings.

    ``memory`` keeps unit results between calls; ``progress`` is told of each unit and may stop the work by returning False.
    """
    result = check(document)
    model = _model(document, result)
    if model is None:
        return result
    memory = memory or Memory()
    inlets, outlets = connected(document)
    units = {u.tag: u for u in document.units}
    streams: dict[str, StreamState] = {}
    by_source = {(s.source.unit, s.source.port): s.tag for s in document.streams}
    energy: dict[str, float] = {}
    loose: list[tuple[str, StreamState]] = []
    for tag in _sequence(document):
        unit = units[tag]
        if result.units[tag].mark != "ready" or not all(name in streams for _, name, _ in inlets[tag]):
            continue
        entering: dict[str, list[StreamState]] = {}
        for port, name, _ in inlets[tag]:
            entering.setdefault(port, []).append(streams[name])
        solved = _solve_unit(unit, document, entering, outlets.get(tag, frozenset()), model, memory, result)
        if solved is not None:
            energy[tag] = solved.energy_in
            for port, outlet in solved.outlets.items():
                if (tag, port) not in by_source:
                    loose.append((tag, outlet))
                    continue
                name = by_source[tag, port]
                streams[name] = outlet
                result.streams[name] = stream_result(name, outlet)
        if progress is not None and not progress(result.units[tag], result):
            return result
    result.streams = {s.tag: result.streams[s.tag] for s in document.streams if s.tag in result.streams}
    result.complete = bool(units) and all(u.mark == "current" for u in result.units.values())
    result.balance = _sheet_balance(document, streams, loose, energy) if result.complete else Balance()
    return result


def _model(document: Document, result: SolveResult) -> PropertyModel | None:
    if not document.chemistry.components or any(f.place == "Chemistry" for f in result.findings):
        return None
    try:
        return property_model(document.chemistry)
    except (KeyError, ValueError) as error:
        result.findings.append(Finding("fault", "Chemistry", str(error.args[0]), "Mend it under Chemistry."))
        return None


def _sequence(document: Document) -> list[str]:
    """Units upstream first; units of loops are left out."""
    import networkx as nx

    plan = graph(document)
    condensed = nx.condensation(plan)
    order: list[str] = []
    for node in nx.lexicographical_topological_sort(condensed, key=lambda n: min(condensed.nodes[n]["members"])):
        members = condensed.nodes[node]["members"]
        if len(members) == 1:
            order += sorted(members)
    return order


def _solve_unit(
    unit: Unit,
    document: Document,
    entering: dict[str, list[StreamState]],
    outlets: frozenset[str],
    model: PropertyModel,
    memory: Memory,
    result: SolveResult,
) -> UnitResult | None:
    operation = unit.operation
    key = content_key(unit, document.chemistry, entering, outlets)
    solved = memory.get(key)
    if solved is None:
        assumed = {name: quantity for name, (quantity, _) in operation.assumptions(unit.spec).items()}
        try:
            solved = operation.solve(Givens(unit.spec, operation.field_map(), assumed), entering, model, outlets)
        except UnitFault as fault:
            finding = _placed(fault.finding(unit.tag), unit.tag)
            solved = UnitResult({}, findings=(finding,))
        except (ArithmeticError, ValueError) as error:
            finding = Finding("fault", unit.tag, f"{unit.tag} could not be calculated: {error}", "Check its givens and inlets.")
            solved = UnitResult({}, findings=(finding,))
        else:
            solved = replace(solved, findings=_all_findings(unit, solved, entering, model), basis=_basis(unit, model))
        memory.put(key, solved)
    result.findings += solved.findings
    if any(f.severity == "fault" for f in solved.findings):
        result.units[unit.tag] = UnitState(unit.tag, "fault")
        return None
    result.units[unit.tag] = UnitState(unit.tag, "current", solved.values, solved.basis)
    return solved


def _all_findings(unit: Unit, solved: UnitResult, entering: dict[str, list[StreamState]], model: PropertyModel) -> tuple[Finding, ...]:
    found = [_placed(f, unit.tag) for f in solved.findings]
    for outlet in solved.outlets.values():
        left = model.ranges_left(outlet.state.temperature, outlet.state.fractions)
        if left:
            text = f"At {outlet.state.temperature:.5g} K {left[0]}" + (f", and {len(left) - 1} more such" if len(left) > 1 else "") + "."
            found.append(Finding("caution", unit.tag, text, "Take the energies there as estimates."))
            break
    if any(model.misses_a_phase(state) for state in _seen(solved)):
        text = "A second liquid would form beside the vapour and the first liquid; three phases are not calculated yet."
        found.append(Finding("caution", unit.tag, text, "Take the compositions there as estimates, or change the temperature."))
    mass_in = sum(s.mass_flow for streams in entering.values() for s in streams)
    if entering and solved.outlets:
        mass_out = sum(s.mass_flow for s in solved.outlets.values())
        heat_in = sum(s.enthalpy_flow for streams in entering.values() for s in streams)
        heat_out = sum(s.enthalpy_flow for s in solved.outlets.values())
        size = sum(abs(s.enthalpy_flow) for streams in entering.values() for s in streams) + abs(solved.energy_in)
        if abs(mass_out - mass_in) > CLOSURE * mass_in or abs(heat_in + solved.energy_in - heat_out) > CLOSURE * size:
            text = (
                f"The balances of {unit.tag} do not close: mass {mass_out - mass_in:.3g} kg/s, energy {heat_in + solved.energy_in - heat_out:.3g} W."
            )
            found.append(Finding("fault", unit.tag, text, "This is a defect of the calculation; please report the document."))
    return tuple(found)


def _seen(solved: UnitResult) -> list[State]:
    """The states that a unit brings about: its two-phase outlets, or what it parted into single-phase ones."""
    both = [s.state for s in solved.outlets.values()]
    flowing = [s for s in solved.outlets.values() if s.flow > 0.0]
    if len(flowing) == 2 and {s.state.phase for s in flowing} == {"liquid", "vapour"}:
        liquid, vapour = sorted(flowing, key=lambda s: s.state.phase)
        share = vapour.flow / (vapour.flow + liquid.flow)
        state = vapour.state
        whole = share * vapour.state.fractions + (1.0 - share) * liquid.state.fractions
        both.append(State(state.model, state.temperature, state.pressure, share, whole, liquid.state.fractions, vapour.state.fractions))
    return both


def _placed(finding: Finding, tag: str) -> Finding:
    repair = tuple({**edit, "unit": tag} if edit.get("unit") == "" else edit for edit in finding.repair)
    return replace(finding, place=tag, repair=repair)


def _basis(unit: Unit, model: PropertyModel) -> str:
    info = MODELS[model.kind]
    return f"{unit.operation.theory} Properties by {info.title} ({info.source})."


def _sheet_balance(document: Document, streams: dict[str, StreamState], loose: list[tuple[str, StreamState]], energy: dict[str, float]) -> Balance:
    """Over the boundary of the sheet: from units without inlets; to units without outlets, and by outlets that lead nowhere (``loose``)."""
    units = {u.tag: u.operation.ports for u in document.units}
    sources = {tag for tag, ports in units.items() if not any(p.direction == "in" for p in ports)}
    sinks = {tag for tag, ports in units.items() if not any(p.direction == "out" for p in ports)}
    entering = [streams[s.tag] for s in document.streams if s.source.unit in sources] + [o for tag, o in loose if tag in sources]
    leaving = [streams[s.tag] for s in document.streams if s.target.unit in sinks] + [o for _, o in loose]
    mass_in, mass_out = sum(s.mass_flow for s in entering), sum(s.mass_flow for s in leaving)
    energy_in = sum(s.enthalpy_flow for s in entering) + sum(energy.values())
    energy_out = sum(s.enthalpy_flow for s in leaving)
    size = sum(abs(s.enthalpy_flow) for s in entering) + sum(abs(e) for e in energy.values())
    return Balance(
        mass_in, mass_out, energy_in, energy_out, (mass_in - mass_out) / mass_in if mass_in else 0.0, (energy_in - energy_out) / size if size else 0.0
    )
