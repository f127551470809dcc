"""What can be said of a document before anything is calculated: asks, quarrels, loose ends, assumptions."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Collection, Iterable
from typing import TYPE_CHECKING

from wattaxis.flowsheet import Chemistry, Document, Unit, pair_table
from wattaxis.flowsheet.model import model_keys, resolve
from wattaxis.flowsheet.pieces import free_tag
from wattaxis.properties.registry import model_infos
from wattaxis.quantities import Quantity
from wattaxis.solving.circuits import check_circuits
from wattaxis.solving.inference import infer_pressures
from wattaxis.solving.results import Assumption, Mark, SolveResult, UnitState
from wattaxis.unitops import Ask, Finding, Port

if TYPE_CHECKING:
    import networkx as nx


def connected(document: Document) -> tuple[dict[str, list[tuple[str, str, str]]], dict[str, frozenset[str]]]:
    """Per unit its inlets as (port, stream, source unit) in document order, and the set of connected outlet ports.

    A stream from an outlet that follows is calculated from its other end, so the two change places.
    """
    inlets: dict[str, list[tuple[str, str, str]]] = defaultdict(list)
    outlets: dict[str, set[str]] = defaultdict(set)
    asked = following(document)
    for stream in document.streams:
        source, target = (stream.target, stream.source) if (stream.source.unit, stream.source.port) in asked else (stream.source, stream.target)
        inlets[target.unit].append((target.port, stream.tag, source.unit))
        outlets[source.unit].add(source.port)
    return inlets, {tag: frozenset(ports) for tag, ports in outlets.items()}


def following(document: Document) -> set[tuple[str, str]]:
    """(unit, port) of the energy outlets that supply what is needed at their other end."""
    return {(u.tag, port) for u in document.units for port in u.operation.follows(u.spec)}


def links(document: Document) -> tuple[tuple[str, str, str], ...]:
    """Every stream by its tag, as (unit, unit, stream) in the direction in which it is calculated."""
    asked = following(document)
    found = []
    for s in sorted(document.streams, key=lambda s: s.tag):
        first, second = s.source.unit, s.target.unit
        found.append((second, first, s.tag) if (first, s.source.port) in asked else (first, second, s.tag))
    return tuple(found)


def graph(document: Document) -> nx.MultiDiGraph:
    """The units as nodes, the streams as edges in the direction in which they are calculated."""
    return network(tuple(sorted(u.tag for u in document.units)), links(document))


def network(units: Iterable[str], edges: Iterable[tuple[str, str, str]]) -> nx.MultiDiGraph:
    """The same from tags and :func:`links`."""
    import networkx as nx  # late: it is not needed for a page or a single flash

    plan = nx.MultiDiGraph()
    plan.add_nodes_from(units)
    plan.add_edges_from(edges)
    return plan


def check(document: Document) -> SolveResult:
    """Asks, findings and assumptions of a document without calculating it; unit marks are "open", "ready" or "fault".

    >>> from wattaxis import Document, edit
    >>> check(edit(Document(), "add_unit", unit={"tag": "V-101", "type": "drum", "spec": {}})).asks[-1].text
    'V-101 has nothing connected to its inlet.'
    """
    return checked(document)[1]


def checked(document: Document) -> tuple[Document, SolveResult]:
    """As :func:`check`; and the document with the pressures that follow from others filled in."""
    inferred = infer_pressures(document)
    document = inferred.document
    result = SolveResult(model=document.chemistry.model)
    result.findings += inferred.findings
    ids = tuple(c.id for c in document.chemistry.components)
    if not ids and document.units:
        result.asks.append(Ask("Chemistry", "The plant needs at least one component.", ("components",)))
    for item in document.chemistry.components:
        try:
            resolve(item)
        except KeyError as error:
            text = f"{item.id} ({item.cas}) is not in the component bank."
            result.findings.append(Finding("fault", "Chemistry", text, str(error.args[0])))
        except ValueError as error:
            result.findings.append(Finding("fault", "Chemistry", str(error), "Type another value under Chemistry."))
    for key in model_keys(document):
        _check_pairs(document.chemistry.model_copy(update={"model": key}), result)
    inlets, outlets = connected(document)
    for unit in document.units:
        ends = outlets.get(unit.tag, frozenset())
        _check_unit(unit, ids, {port for port, _, _ in inlets[unit.tag]}, ends, result)
        # As drawn: a supply that follows what it serves is calculated at the other end of its stream.
        drawn = {s.source.port for s in document.streams if s.source.unit == unit.tag}
        result.findings += [_loose(document, unit, port) for port in unit.ports if _leads_nowhere(port, drawn)]
    _check_supplies(document, result)
    _check_circuits(document, result)
    return document, result


def _leads_nowhere(port: Port, connected: Collection[str]) -> bool:
    return port.direction == "out" and port.needed and port.key not in connected


def _loose(document: Document, unit: Unit, port: Port) -> Finding:
    """An outlet without a stream, with the product that it could lead to."""
    text = f"The {port.title.lower()} of {unit.tag} is not connected."
    remedy = "Connect it to a unit or to a product."
    if port.kind != "material":
        return Finding("note", unit.tag, text, remedy)
    taken = {u.tag for u in document.units} | {s.tag for s in document.streams}
    drain, stream = free_tag(taken, "Z"), free_tag(taken, "S")
    below = 60.0 if port.place[1] >= 1.0 else -60.0 if port.place[1] <= 0.0 else 0.0
    made = {"tag": drain, "type": "product", "spec": {}, "x": unit.x + 160.0, "y": unit.y + below}
    ends = {"source": {"unit": unit.tag, "port": port.key}, "target": {"unit": drain, "port": "inlet"}}
    repair = ({"kind": "add_unit", "unit": made}, {"kind": "connect", "stream": {"tag": stream, **ends}})
    return Finding("note", unit.tag, text, remedy, None, repair, "Connect it to a product")


def _check_supplies(document: Document, result: SolveResult) -> None:
    """Supplies without a power whose other end does not say how much it needs."""
    units = {u.tag: u for u in document.units}
    served: set[tuple[str, str]] = set()
    for stream in document.streams:
        source, target = units[stream.source.unit], units[stream.target.unit]
        if stream.source.port not in source.operation.follows(source.spec):
            continue
        end = (target.tag, stream.target.port)
        if target.operation.settles(stream.target.port) and end not in served:
            served.add(end)
            continue
        key = next(field.key for field in source.operation.fields if field.port == stream.source.port)
        why = f"{target.tag} is given what it needs by another" if end in served else f"{target.tag} does not set it"
        result.asks.append(Ask(source.tag, f"{source.tag} needs a power for {stream.tag}: {why}.", (key,)))
        result.units[source.tag] = UnitState(source.tag, "open")


def _check_circuits(document: Document, result: SolveResult) -> None:
    """Closed circuits without a charge, and charges without a closed circuit."""
    asks, findings = check_circuits(document)
    result.asks += asks
    result.findings += findings
    result.units |= {a.place: UnitState(a.place, "open") for a in asks} | {f.place: UnitState(f.place, "fault") for f in findings}


def _check_pairs(chemistry: Chemistry, result: SolveResult) -> None:
    """Pairs of a property model that are estimated or assumed zero."""
    table, info = pair_table(chemistry), model_infos()[chemistry.model]
    estimated = [f"{row['first']} / {row['second']}" for row in table if row["quality"] == "estimated"]
    if estimated:
        names = ", ".join(estimated[:6]) + (" and more" if len(estimated) > 6 else "")
        pairs, rest = ("pairs {} of {} are", "them") if len(estimated) > 1 else ("pair {} of {} is", "it")
        text = f"The {pairs.format(names, info.title)} estimated, not measured, and so is everything that depends on {rest}."
        result.findings.append(Finding("note", "Chemistry", text, "Type or fit measured values where it matters."))
    for row in table:
        if row["quality"] == "assumed zero":
            names = ", ".join(dict.fromkeys(p.name for p in info.parameters))
            title = f"{names} of {row['first']} and {row['second']}"
            result.assumptions.append(Assumption("Chemistry", "pairs", title, 0.0, "", "no interaction parameter is known for the pair"))


def _check_unit(unit: Unit, ids: tuple[str, ...], inlets: set[str], outlets: frozenset[str], result: SolveResult) -> None:
    operation = unit.operation
    ends = outlets | inlets
    # A stream that is calculated here sets nothing here.
    setting = ends - {p.key for p in unit.ports if p.direction == "in" and p.key in outlets}
    asks = operation.asks(unit.tag, unit.spec, ids, setting)
    for port in unit.ports:
        if port.direction == "in" and port.needed and port.key not in ends:
            text = f"{unit.tag} has nothing connected to its {port.title.lower()}."
            asks.append(Ask(unit.tag, text, (f"port:{port.key}",)))
    findings = operation.problems(unit.tag, unit.spec) + operation.excess(unit.tag, unit.spec, setting)
    result.asks += asks
    result.findings += findings
    mark: Mark = "fault" if any(f.severity == "fault" for f in findings) else "open" if asks else "ready"
    result.units[unit.tag] = UnitState(unit.tag, mark)
    titles = operation.field_map()
    for key, (supplied, reason) in operation.assumptions(unit.spec).items():
        value, symbol = (supplied.value, supplied.unit) if isinstance(supplied, Quantity) else (supplied, "")
        result.assumptions.append(Assumption(unit.tag, key, titles[key].title, value, symbol, reason))
