"""Which streams rest on interaction parameters that nobody measured, or part by some that were not fitted to two liquids."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping
from typing import Any

from wattaxis.flowsheet import Document, pair_table
from wattaxis.flowsheet.model import model_keys
from wattaxis.properties.registry import model_infos
from wattaxis.solving.checking import connected
from wattaxis.unitops import Finding, StreamState

#: Qualities of pairs that are no measurement.
DOUBTFUL = ("assumed zero", "estimated")
#: Mole fraction below which a component does not count as there.
TRACE = 1e-6


def doubts(document: Document, streams: Mapping[str, StreamState]) -> dict[str, tuple[tuple[str, ...], tuple[str, ...]]]:
    """By stream the doubtful pairs that its own equilibrium needs, and those that only streams upstream need: "first / second, quality".

    A stream needs a pair where both components are in it or in another outlet of its unit, in a liquid, or in any phase of an equation of state. What
    leaves a unit rests on everything that what enters it rests on, also around a recycle.
    """
    chemistry = document.chemistry
    default = chemistry.model
    pairs = {key: _doubtful(document, key) for key in model_keys(document)}
    model = {u.tag: u.model or default for u in document.units}
    own: dict[str, set[str]] = defaultdict(set)
    for stream in document.streams:
        state = streams.get(stream.tag)
        if state is not None:
            own[stream.source.unit] |= _needed(state, pairs[model[stream.source.unit]])
    inlets, _ = connected(document)
    everything = {u.tag: set(own[u.tag]) for u in document.units}
    changed = True
    while changed:
        changed = False
        for tag, found in everything.items():
            more = set().union(*(everything[source] for _, _, source in inlets[tag])) - found
            found |= more
            changed = changed or bool(more)
    sources = {s.tag: s.source.unit for s in document.streams if s.tag in streams}
    return {tag: (tuple(sorted(own[source])), tuple(sorted(everything[source] - own[source]))) for tag, source in sources.items()}


def _doubtful(document: Document, key: str) -> dict[frozenset[str], str]:
    rows = pair_table(document.chemistry.model_copy(update={"model": key}))
    return {frozenset((r["first"], r["second"])): f"{r['first']} / {r['second']}, {r['quality']}" for r in rows if r["quality"] in DOUBTFUL}


def _needed(stream: StreamState, pairs: Mapping[frozenset[str], str]) -> set[str]:
    state = stream.state
    if not state.model.equation_of_state and state.vapour_fraction >= 1.0:
        return set()
    there = {c.id for c, fraction in zip(state.model.components, state.fractions, strict=True) if fraction > TRACE}
    return {name for pair, name in pairs.items() if pair <= there}


def splits(document: Document, streams: Mapping[str, StreamState]) -> list[Finding]:
    """Liquids that part by a pair that nobody fitted to two liquids: one note a pair, with the streams."""
    source_of = {s.tag: s.source.unit for s in document.streams}
    model_of = {u.tag: u.model or document.chemistry.model for u in document.units}
    tables: dict[str, dict[frozenset[str], dict[str, Any]]] = {}
    told: dict[tuple[str, str], list[str]] = {}
    for tag, stream in streams.items():
        parts = stream.state.liquid_parts() if stream.flow > 0.0 and stream.state.solid_fraction < 1.0 else []
        if len(parts) < 2:
            continue
        key = model_of[source_of[tag]]
        if key not in tables:
            rows = pair_table(document.chemistry.model_copy(update={"model": key}))
            tables[key] = {frozenset((row["first"], row["second"])): row for row in rows}
        apart = parts[0][1].fractions - parts[1][1].fractions
        ids = [c.id for c in stream.state.model.components]
        row = tables[key].get(frozenset((ids[int(apart.argmax())], ids[int(apart.argmin())])))
        if row is not None and row["quality"] in ("measured fit", "estimated") and "liquid-liquid" not in row["source"]:
            told.setdefault((key, f"{row['first']} / {row['second']}"), []).append(tag)
    findings = []
    for (key, pair), tags in sorted(told.items()):
        some = ", ".join(tags[:4]) + (" and more" if len(tags) > 4 else "")
        text = f"{some}: two liquids form here by the pair {pair} of {model_infos()[key].title}, which does not say that it was fitted to two."
        remedy = "Take both compositions as estimates; fit the pair to mutual solubilities where they matter."
        findings.append(Finding("note", "Chemistry", text, remedy))
    return findings
