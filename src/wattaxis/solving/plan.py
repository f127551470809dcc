"""The plan of a calculation: units upstream first, recycle loops as groups with their tear streams."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass
from functools import lru_cache
from itertools import islice
from typing import Any

from wattaxis.flowsheet import Document
from wattaxis.solving.checking import links, network

#: Cycles of a loop that are looked at when its tear streams are chosen; more only make the choice longer, not wrong.
MOST_CYCLES = 2000


@dataclass(frozen=True)
class Group:
    """Units that are calculated together: a single one, or those of a loop in order, with the streams torn."""

    units: tuple[str, ...]
    tears: tuple[str, ...] = ()


def plan(document: Document) -> tuple[Group, ...]:
    """Groups upstream first. The plan depends on the connections, the tags and the tears asked for, never on the order in the document."""
    return _planned(tuple(sorted(u.tag for u in document.units)), links(document), frozenset(s.tag for s in document.streams if s.torn))


@lru_cache(maxsize=32)
def _planned(units: tuple[str, ...], edges: tuple[tuple[str, str, str], ...], asked: frozenset[str]) -> tuple[Group, ...]:
    import networkx as nx

    whole = network(units, edges)
    condensed = nx.condensation(whole)
    groups = []
    for node in nx.lexicographical_topological_sort(condensed, key=lambda n: min(condensed.nodes[n]["members"])):
        members = sorted(condensed.nodes[node]["members"])
        part = whole.subgraph(members).copy()
        groups.append(_loop(part, asked) if part.number_of_edges() else Group(tuple(members)))
    return tuple(groups)


def _loop(part: Any, asked: Collection[str]) -> Group:
    """Tear streams that break every cycle: those ``asked`` for, then each the one that breaks most of those left; then the order of the units."""
    import networkx as nx

    open_part = nx.MultiDiGraph(part)
    tears: list[str] = []
    for source, target, stream in sorted(part.edges(keys=True), key=lambda edge: edge[2]):
        # One that lies in no cycle any more stays whole.
        if stream in asked and nx.has_path(open_part, target, source):
            tears.append(stream)
            open_part.remove_edge(source, target, key=stream)
    while not nx.is_directed_acyclic_graph(open_part):
        counts: dict[tuple[str, str], int] = {}
        for cycle in islice(nx.simple_cycles(nx.DiGraph(open_part)), MOST_CYCLES):
            for pair in zip(cycle, cycle[1:] + cycle[:1], strict=True):
                counts[pair] = counts.get(pair, 0) + 1
        # Of equals the one with the fewest parallel streams, then by tag.
        source, target = min(counts, key=lambda e: (-counts[e], open_part.number_of_edges(*e), min(open_part[e[0]][e[1]])))
        for stream in sorted(open_part[source][target]):
            tears.append(stream)
            open_part.remove_edge(source, target, key=stream)
    return Group(tuple(nx.lexicographical_topological_sort(nx.DiGraph(open_part))), tuple(sorted(tears)))
