"""What an aim could free: the givens upstream that move a calculated value, with their slopes."""

from __future__ import annotations

from dataclasses import asdict, dataclass
from typing import Any

import numpy as np

from wattaxis.flowsheet import Document
from wattaxis.flowsheet.formula import Name, Node, parse_formula
from wattaxis.progress import reached
from wattaxis.solving.aims import STEP, free_givens, with_givens
from wattaxis.solving.checking import graph
from wattaxis.solving.memory import Memory
from wattaxis.solving.pins import evaluate_pin, pin_of
from wattaxis.solving.results import SolveResult
from wattaxis.solving.sequential import once

#: Givens that are tried.
CANDIDATES = 16


@dataclass(frozen=True)
class Proposal:
    """A given that could be freed for an aim: its value and the slope of the aimed value by it, SI; steps upstream from the value to its unit."""

    unit: str
    field: str
    title: str
    kind: str
    si: str
    value: float
    slope: float
    distance: int


@dataclass(frozen=True)
class Proposals:
    """What a formula gives now (SI, with its kind and unit), and the givens that could be freed for it: those of strong effect first,
    nearest upstream before others.

    >>> Proposals(350.0, "temperature", "K", ()).to_data()["proposals"]
    ()
    """

    value: float
    kind: str | None
    si: str
    proposals: tuple[Proposal, ...]

    def to_data(self) -> dict[str, Any]:
        """Plain data for JSON."""
        return asdict(self)


def propose_free(document: Document, formula: str, *, memory: Memory | None = None) -> Proposals:
    """Givens that could be freed to aim at a formula over results, nearest upstream first, each with the slope of the formula by it (SI).

    Every single given of units upstream of what the formula names is moved a little and the plant calculated again, at most :data:`CANDIDATES`.
    Raises ValueError when the formula has no value now.

    >>> from importlib.resources import files
    >>> from wattaxis import load
    >>> plant = load(files("wattaxis.examples").joinpath("sandlark_bay.json").read_text())
    >>> [(p.unit, p.field) for p in propose_free(plant, "S-07.temperature").proposals][0]
    ('E-103', 'outlet_temperature')
    """
    kept = memory or Memory()

    def calculate(changed: Document) -> SolveResult:
        return once(changed, kept, None)[0]

    import networkx as nx

    result = calculate(document)
    probe = pin_of(formula)
    before = evaluate_pin(probe, document, result)
    if before.value is None:
        raise ValueError(before.problem or f"{formula} has no value now.")
    upstream = graph(document).reverse(copy=False)
    distance: dict[str, int] = {}
    for tag in _tags(parse_formula(formula)):
        stream = document.stream(tag)
        origin = stream.source.unit if stream else tag
        for unit, steps in nx.single_source_shortest_path_length(upstream, origin).items():
            distance[unit] = min(steps, distance.get(unit, steps))
    # An aim that is changed keeps its own given on offer.
    taken = {(aim.free.unit, aim.free.field) for aim in document.aims if aim.active and aim.formula != formula}
    named = {(name.tag, name.what) for name in _names(parse_formula(formula))}
    candidates = free_givens(document, sorted(distance, key=lambda t: (distance[t], t)), taken | named)
    found = []
    for k, given in enumerate(candidates[:CANDIDATES]):
        reached(k / min(len(candidates), CANDIDATES))
        for direction in (1.0, -1.0):
            step = direction * STEP * given.scale
            if not given.low <= given.value + step <= given.high:
                continue
            changed = with_givens(document, [given], np.array([given.value + step]))
            after = evaluate_pin(probe, changed, calculate(changed))
            if after.value is None:
                continue
            if abs(after.value - before.value) > 1e-9 * max(abs(before.value), 1e-12):
                slope = (after.value - before.value) / step
                found.append(Proposal(given.unit, given.field, given.title, given.kind, given.si, given.value, slope, distance[given.unit]))
            break
    # What hardly matters comes last, however near it is.
    weights = {p: abs(p.slope) * g.scale for p in found for g in candidates if (g.unit, g.field) == (p.unit, p.field)}
    strong = 0.2 * max(weights.values(), default=0.0)
    found.sort(key=lambda p: (weights[p] < strong, p.distance, -weights[p]))
    return Proposals(before.value, before.kind, before.unit, tuple(found))


def _names(node: Node) -> list[Name]:
    if isinstance(node, Name):
        return [node]
    return [name for part in getattr(node, "arguments", ()) for name in _names(part)]


def _tags(node: Node) -> list[str]:
    return list(dict.fromkeys(name.tag for name in _names(node)))
