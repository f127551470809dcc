"""What enters a recycle loop and cannot leave it: seen in its connections and givens before a pass, or in its flows after some."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from typing import Any

from wattaxis.flowsheet import Document, Unit, reaction_sets
from wattaxis.flowsheet.pieces import free_tag, inserting
from wattaxis.quantities import Quantity
from wattaxis.reactions import ReactionSet
from wattaxis.unitops import Finding


def trapped(document: Document, units: Collection[str], entering: Mapping[str, Collection[str]]) -> dict[str, str]:
    """Components that can leave the loop of ``units`` nowhere, each with where it comes in.

    ``entering`` maps each stream from outside to the ids of the components that it brings. A component may leave a unit by every outlet that its
    givens do not bar to it, and ends where a reaction uses it up.

    >>> from importlib.resources import files
    >>> from wattaxis import load
    >>> loop = load(files("wattaxis.examples").joinpath("sandlark_bay_recycle.json").read_text())
    >>> trapped(loop, [u.tag for u in loop.units if u.type != "product"], {})
    {}
    """
    found: dict[str, str] = {}
    by_tag = {u.tag: u for u in document.units if u.tag in units}
    reactions = reaction_sets(document.chemistry)
    solids = {c.id for c in document.chemistry.components if c.is_solid}
    targets = {(s.source.unit, s.source.port): s.target.unit for s in document.streams}
    comes: dict[str, list[tuple[str, str]]] = {}
    for stream in document.streams:
        for component in entering.get(stream.tag, ()):
            comes.setdefault(component, []).append((stream.target.unit, stream.tag))
    for tag, unit in by_tag.items():
        for component in unit.operation.formed(unit.spec, reactions):
            comes.setdefault(component, []).append((tag, tag))
    for component, places in comes.items():
        free = _with_exit(by_tag, targets, component, component in solids, reactions)
        stuck = next((where for tag, where in places if tag not in free), None)
        if stuck is not None:
            found[component] = stuck
    return found


def _with_exit(
    units: Mapping[str, Unit], targets: Mapping[tuple[str, str], str], component: str, solid: bool, reactions: Mapping[str, ReactionSet]
) -> set[str]:
    """The units from which a component finds a way out of them all."""
    after: dict[str, set[str]] = {}
    free = set()
    for tag, unit in units.items():
        barred = unit.operation.barred(unit.spec, component, solid)
        ports = [p.key for p in unit.ports if p.direction == "out" and p.kind == "material" and p.key not in barred]
        after[tag] = {targets[tag, port] for port in ports if (tag, port) in targets}
        # Of ports without a stream only those that must have one let something out; branches that nobody drew do not exist.
        loose = any(p.needed and (tag, p.key) not in targets for p in unit.ports if p.key in ports)
        reacts = component in unit.operation.used_up(unit.spec, reactions) or unit.operation.free_to_react(unit.spec, component)
        if reacts or loose:
            free.add(tag)
    while True:
        more = {tag for tag, ends in after.items() if tag not in free and any(end not in units or end in free for end in ends)}
        if not more:
            return free
        free |= more


def no_way_out(document: Document, place: str, stuck: Mapping[str, str], tear: str) -> Finding:
    """The finding that names what is trapped, with a purge in the stream ``tear`` as its repair."""
    names = " and ".join(stuck)
    where = " and ".join(dict.fromkeys(stuck.values()))
    it = "they enter" if len(stuck) > 1 else "it enters"
    text = f"Nothing removes {names} from the loop through {tear}: {it} at {where} and no unit lets {'them' if len(stuck) > 1 else 'it'} out."
    return purge_finding(document, place, text, tear)


def purge_finding(document: Document, place: str, text: str, tear: str) -> Finding:
    """A fault of a loop that a purge in the stream ``tear`` would mend."""
    remedy = f"Add a purge: a splitter in {tear} with one outlet to a product."
    return Finding("fault", place, text, remedy, None, _purge(document, tear), "Add a purge of 5 %")


def _purge(document: Document, tear: str) -> tuple[dict[str, Any], ...]:
    """Edits that put a splitter into a stream, with a small share to a product of its own."""
    taken = {u.tag for u in document.units} | {s.tag for s in document.streams}
    line = document.stream(tear)
    ends = [] if line is None else [document.unit(line.source.unit), document.unit(line.target.unit)]
    x, y = (sum(getattr(u, axis) for u in ends if u is not None) / max(1, len(ends)) for axis in ("x", "y"))
    share = Quantity(value=5.0, unit="%")
    data = {"tag": free_tag(taken, "N"), "type": "splitter", "spec": {"share_1": share}, "x": x, "y": y + 90.0}
    splitter = Unit.model_validate(data)
    parts = inserting(document, tear, splitter, "inlet", "outlet_2")
    drain = free_tag(taken, "Z")
    taken |= {part["stream"]["tag"] for part in parts if part["kind"] == "connect"}
    parts.append({"kind": "add_unit", "unit": {"tag": drain, "type": "product", "spec": {}, "x": x + 120.0, "y": y + 180.0}})
    ends_at = {"source": {"unit": splitter.tag, "port": "outlet_1"}, "target": {"unit": drain, "port": "inlet"}}
    parts.append({"kind": "connect", "stream": {"tag": free_tag(taken, "S"), **ends_at}})
    return tuple(parts)
