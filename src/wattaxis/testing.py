"""What every unit operation must hold, as one function: a unit written outside the package proves itself with it.

>>> from wattaxis.testing import check_unit
>>> from wattaxis.unitops import unit_types
>>> check_unit(unit_types()["valve"], {"outlet_pressure": {"value": 2, "unit": "bar"}})
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from typing import TYPE_CHECKING, Any

import numpy as np

from wattaxis.flowsheet import Document, dump, load, reaction_sets
from wattaxis.flowsheet.model import property_model
from wattaxis.solving import Memory, SolveResult, solve
from wattaxis.unitops import UnitOperation
from wattaxis.unitops.declaration import declaration_problems

if TYPE_CHECKING:
    from wattaxis.solving.calculator import Calculator

#: Relative to what passes through; by how much a feed differs from one near by.
CLOSURE, NEAR = 1e-8, 1e-4
_PARTS = (("propane", "74-98-6"), ("n-butane", "106-97-8"), ("n-pentane", "109-66-0"))


class Unsound(AssertionError):
    """What a unit operation does not hold, in words."""


def check_unit(
    operation: UnitOperation,
    spec: Mapping[str, Any],
    *,
    components: Sequence[tuple[str, str]] = _PARTS,
    feeds: Mapping[str, Mapping[str, Any]] | None = None,
    model: str = "peng-robinson",
    reactions: Sequence[Mapping[str, Any]] = (),
) -> None:
    """Run a unit with givens that make it whole between a feed at each inlet and a product at each outlet. Raises Unsound.

    Its declaration; that it is calculated; the balance of every component (of mass, where it reacts); the same bits again and through JSON; a
    draft with the same outlets, and what it tells of inlets near by is calculated then; the same answer whatever it was calculated for before; that
    it takes no flow at all without ending the calculation; that blank givens are asked for. ``components`` are ids with CAS numbers, ``feeds`` the
    givens of the feeds by inlet, at 320 K and 10 bar where nothing is said of one, ``reactions`` the reaction sets of the plant.
    """
    problems = declaration_problems(type(operation))
    if problems:
        raise Unsound("; ".join(problems))
    document = _between(operation, spec, components, feeds or {}, {"model": model, "reactions": list(reactions)})
    result = solve(document)
    told = [f.text for f in result.findings if f.severity == "fault"] + [a.text for a in result.asks]
    if told or not result.complete:
        raise Unsound(f"with these givens it is not calculated: {' '.join(told)}")
    checks: tuple[Callable[[UnitOperation, Document, SolveResult], Iterator[str]], ...] = (
        _balances,
        _repeats,
        _drafts,
        _slopes,
        _hints,
        _stands_still,
        _asks,
    )
    for check in checks:
        for text in check(operation, document, result):
            raise Unsound(text)


def _between(operation: UnitOperation, spec: Mapping[str, Any], components: Any, feeds: Mapping[str, Any], more: dict[str, Any]) -> Document:
    units: list[dict[str, Any]] = [{"tag": "U", "type": operation.type, "spec": dict(spec)}]
    streams: list[dict[str, Any]] = []
    even = {"values": {name: {"value": 1.0 / len(components), "unit": ""} for name, _ in components}, "normalise": True}
    standard = {"temperature": "320 K", "pressure": "10 bar", "flow": "100 mol/s", "composition": even}
    ports = operation.ports_of(operation.Spec.model_validate(dict(spec)))
    for number, port in enumerate((p for p in ports if p.kind == "material"), 1):
        end, other = f"U.{port.key}", f"{'F' if port.direction == 'in' else 'Z'}-{number}"
        if port.direction == "in":
            units.append({"tag": other, "type": "feed", "spec": {**standard, **feeds.get(port.key, {})}})
            streams.append({"tag": f"S-{number}", "source": f"{other}.outlet", "target": end})
        else:
            units.append({"tag": other, "type": "product", "spec": {}})
            streams.append({"tag": f"S-{number}", "source": end, "target": f"{other}.inlet"})
    chemistry = {**more, "components": [{"id": name, "cas": cas} for name, cas in components]}
    return Document.model_validate({"chemistry": chemistry, "units": units, "streams": streams})


def _balances(operation: UnitOperation, document: Document, result: SolveResult) -> Iterator[str]:
    spec = document.units[0].spec
    masses = property_model(document.chemistry).molar_masses
    change: np.ndarray = np.zeros(len(masses))
    size = 0.0
    for stream in document.streams:
        flows = np.array(list(result.streams[stream.tag].mole_flows.values()))
        change += flows if stream.target.unit != "U" else -flows
        size += float(flows.sum()) if stream.target.unit == "U" else 0.0
    sets = reaction_sets(document.chemistry)
    reacts = operation.formed(spec, sets) | operation.used_up(spec, sets)
    for key, made in zip(result.streams[document.streams[0].tag].mole_flows, change, strict=True):
        if operation.balanced and key not in reacts and not operation.free_to_react(spec, key) and abs(made) > CLOSURE * size:
            yield f"{made:.3g} mol/s of {key} appear from nothing, though it neither forms nor uses it up"
    if operation.balanced and abs(float(change @ masses)) > 1e-6 * size * float(masses.max()):
        yield f"{float(change @ masses):.3g} kg/s appear from nothing"


def _repeats(operation: UnitOperation, document: Document, result: SolveResult) -> Iterator[str]:
    again = solve(load(dump(document)))
    if again.streams != result.streams or again.units["U"].values != result.units["U"].values:
        yield "the same document, written and read again, has another answer"


def _drafts(operation: UnitOperation, document: Document, result: SolveResult) -> Iterator[str]:
    from wattaxis.solving.calculator import failed

    calculator, streams = _fed(document)
    whole, draft = (calculator.unit("U", streams, Memory(), purpose) for purpose in ("answer", "draft"))
    if failed(draft) or whole.outlets.keys() != draft.outlets.keys():
        yield "a draft, which loops ask for, lacks outlets"
        return
    for key, outlet in whole.outlets.items():
        other = draft.outlets[key]
        apart = abs(outlet.enthalpy_flow - other.enthalpy_flow) / max(abs(outlet.enthalpy_flow), 1.0)
        if not np.allclose(outlet.flows, other.flows, rtol=1e-10, atol=0.0) or apart > 1e-10:
            yield f"a draft, which loops ask for, has another outlet at {key}"


def _fed(document: Document) -> tuple[Calculator, dict[str, Any]]:
    """What calculates the units of a document, and the streams of its feeds."""
    from wattaxis.flowsheet import models_of
    from wattaxis.solving.calculator import Calculator

    calculator, streams = Calculator(document, models_of(document)), dict[str, Any]()
    for unit in (u for u in document.units if u.type == "feed"):
        streams |= calculator.named(unit.tag, calculator.unit(unit.tag, streams, Memory()))[0]
    return calculator, streams


def _slopes(operation: UnitOperation, document: Document, result: SolveResult) -> Iterator[str]:
    calculator, streams = _fed(document)
    draft = calculator.unit("U", streams, Memory(), "draft")
    for tag in streams if draft.nearby is not None else ():
        other = _fed(_with_flow(document, f"{streams[tag].flow * (1.0 + NEAR)!r} mol/s", f"F{tag[1:]}"))[1]
        solved, told = calculator.unit("U", other, Memory(), "draft"), calculator.near("U", other, draft, Memory())
        for key, outlet in draft.outlets.items():
            changes = [np.append(s.outlets[key].flows - outlet.flows, s.outlets[key].enthalpy_flow - outlet.enthalpy_flow) for s in (solved, told)]
            size = np.append(np.full(len(outlet.flows), np.abs(changes[0][:-1]).max()), max(abs(changes[0][-1]), 1.0))
            if not (np.abs(changes[1] - changes[0]) <= 20.0 * NEAR * size + 1e-9).all():
                yield f"what it tells of {key} for another {tag} near by is not what is calculated then"


def _hints(operation: UnitOperation, document: Document, result: SolveResult) -> Iterator[str]:
    memory = Memory()
    solve(_with_flow(document, "130 mol/s"), memory=memory)
    if not memory.hints:
        return
    again = solve(document, memory=memory)
    for tag, stream in result.streams.items():
        other = again.streams.get(tag)
        if other is None or not np.allclose(list(other.mole_flows.values()), list(stream.mole_flows.values()), rtol=CLOSURE, atol=1e-12):
            yield f"with the hint of another calculation {tag} is another"


def _with_flow(document: Document, flow: str, tag: str = "") -> Document:
    """With another flow of all feeds, or of one."""
    units = []
    for unit in document.units:
        data = unit.model_dump(mode="json", exclude_none=True)
        units.append({**data, "spec": {**data["spec"], "flow": flow}} if unit.type == "feed" and tag in ("", unit.tag) else data)
    return Document.model_validate({**document.model_dump(mode="json", exclude_none=True), "units": units})


def _stands_still(operation: UnitOperation, document: Document, result: SolveResult) -> Iterator[str]:
    quiet = solve(_with_flow(document, "0 mol/s"))
    defects = [f.text for f in quiet.findings if "defect of the calculation" in f.remedy]
    if defects:
        yield f"without a flow: {defects[0]}"


def _asks(operation: UnitOperation, document: Document, result: SolveResult) -> Iterator[str]:
    blank = document.units[0].model_copy(update={"spec": operation.Spec()})
    try:
        bare = solve(document.model_copy(update={"units": (blank, *document.units[1:])}))
    except Exception as error:
        yield f"with blank givens it ends with {type(error).__name__}: {error}"
        return
    state = bare.units["U"]
    if state.mark == "fault" and any("defect of the calculation" in f.remedy for f in bare.findings):
        yield "blank givens are a defect and not an ask"
