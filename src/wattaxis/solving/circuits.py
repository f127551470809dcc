"""Closed circuits: matter that goes round and neither enters nor leaves, as in refrigeration, heat pumps, hot oil and steam power.

A circuit is a ring of sides of units, so that an exchanger may join it to a process or to another circuit. Its balances leave open what goes round
and how much: a circuit charge gives both.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from graphlib import CycleError, TopologicalSorter
from typing import TYPE_CHECKING

import numpy as np

from wattaxis.flowsheet import Document, Unit
from wattaxis.properties import FlashError
from wattaxis.quantities import Quantity, to_si
from wattaxis.unitops import Ask, Finding, StreamState
from wattaxis.unitops.base import Carried
from wattaxis.unitops.flow.circuit_charge import CircuitCharge, CircuitChargeSpec, circulation

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel

#: J/mol that a circulation is thought to carry where only a heat is given: where the search begins.
HEAT_GUESS = 2e4
#: Times by which a circulation changes from one pass to the next at most.
BOLDEST = 10.0

#: A unit and one of its sides.
Node = tuple[str, str]


@dataclass(frozen=True)
class Circuit:
    """A ring of sides of units with the streams in it, those that come in and go out, and its charges."""

    nodes: frozenset[Node]
    streams: Mapping[str, tuple[Node, Node]]
    entering: tuple[str, ...]
    leaving: tuple[str, ...]
    charges: tuple[str, ...]

    @property
    def units(self) -> set[str]:
        """Tags of its units."""
        return {tag for tag, _ in self.nodes}


def circuits(document: Document) -> list[Circuit]:
    """The rings of matter that hold a charge, and those into which nothing comes; ordered by their units."""
    units, kinds = {u.tag: u for u in document.units}, document.stream_kinds()
    ends: dict[str, tuple[Node, Node]] = {}
    for s in document.streams:
        if kinds[s.tag] == "material":
            source, target = ((end.unit, units[end.unit].operation.pressure_side(end.port).key) for end in (s.source, s.target))
            ends[s.tag] = source, target
    if not _goes_round(ends.values()):
        return []
    import networkx as nx  # late: a plant that only goes forward does without; from a list, since it loads pandas for anything else

    found = []
    for ring in nx.strongly_connected_components(nx.DiGraph(list(ends.values()))):
        inside = {tag: ends[tag] for tag in sorted(ends) if set(ends[tag]) <= ring}
        entering = tuple(sorted(tag for tag, (source, target) in ends.items() if target in ring and source not in ring))
        charges = tuple(sorted(tag for tag, _ in ring if units[tag].type == CircuitCharge.type))
        if inside and (charges or not entering):
            leaving = tuple(sorted(tag for tag, (source, target) in ends.items() if source in ring and target not in ring))
            found.append(Circuit(frozenset(ring), inside, entering, leaving, charges))
    return sorted(found, key=lambda c: min(c.nodes))


def _goes_round(ends: Iterable[tuple[Node, Node]]) -> bool:
    """Whether streams with such ends lead back to where they came from."""
    sorter: TopologicalSorter[Node] = TopologicalSorter()
    for source, target in ends:
        sorter.add(target, source)
    try:
        sorter.prepare()
    except CycleError:
        return True
    return False


def check_circuits(document: Document) -> tuple[list[Ask], list[Finding]]:
    """What circuits and charges of a document still need, and what cannot hold."""
    asks: list[Ask] = []
    findings: list[Finding] = []
    rings = circuits(document)
    charged = {tag for ring in rings for tag in ring.charges}
    units = {u.tag: u for u in document.units}
    for tag, unit in units.items():
        if unit.type == CircuitCharge.type and tag not in charged:
            asks.append(Ask(tag, f"{tag} stands in no circuit: connect its outlet back to its inlet.", ("port:inlet",)))
    for ring in rings:
        if not ring.charges:
            line = next(iter(ring.streams))
            text = f"Nothing enters the loop of {_some(sorted(ring.units))}: put a circuit charge into {line} if it is closed, or connect a feed."
            asks.append(Ask(min(ring.units), text, ()))
            continue
        place = ring.charges[0]
        if len(ring.charges) > 1:
            text = f"{' and '.join(ring.charges)} charge the same circuit: its composition and circulation are given twice."
            findings.append(Finding("fault", place, text, "Keep one of them."))
        for streams, does in ((ring.entering, "bring matter into"), (ring.leaving, "take matter out of")):
            if streams:
                text = f"{_some(streams)} {does} the circuit of {place}, so it is not closed, and its circulation follows from its feeds."
                findings.append(Finding("fault", place, text, "Remove the charge, or disconnect the streams."))
        free = {node for node in ring.nodes if _held(units[node[0]], node[1]) is None}
        if _goes_round(pair for pair in ring.streams.values() if set(pair) <= free):
            text = f"Nothing sets the pressure of the circuit of {place}: all its units only change it."
            asks.append(Ask(place, text, ("pressure",)))
    return asks, findings


def _held(unit: Unit, side: str) -> Quantity | None:
    """The pressure that a side of a unit has of its own."""
    found = (getattr(unit.spec, key, None) for key in (side + "outlet_pressure", "pressure"))
    return next((q for q in found if q is not None), None)


def _some(tags: Sequence[str]) -> str:
    return ", ".join(tags[:4]) + (" and more" if len(tags) > 4 else "")


class Charged:
    """A circuit with the model and the charge of its ring: where its loop begins, and which circulation carries the heat that is given."""

    def __init__(self, document: Document, circuit: Circuit, model: PropertyModel) -> None:
        self.circuit, self.model, self.tag = circuit, model, circuit.charges[0]
        units = {u.tag: u for u in document.units}
        spec = units[self.tag].spec
        assert isinstance(spec, CircuitChargeSpec)
        assert spec.composition is not None  # the asks made sure
        fractions = spec.composition.fractions(model.components)
        # What is wrong with it is said by the charge itself, which is calculated with the others.
        self.fractions = np.full(len(model.components), 1.0 / len(model.components)) if fractions is None else fractions
        self.taken_in, self.given_off = (None if q is None else to_si(q, "power") for q in (spec.heat_taken_in, spec.heat_given_off))
        self.exchanging = {tag for tag in circuit.units if units[tag].operation.family == "heat"}
        # Where only a heat is given, the loop begins with what might carry it.
        guess = max(self.taken_in or 0.0, self.given_off or 0.0) / HEAT_GUESS
        self.flow = guess if spec.flow is None else circulation(spec.flow, self.fractions, model)
        held = {node: _held(units[node[0]], node[1]) for node in circuit.nodes}
        self.held = {node: to_si(q, "pressure") for node, q in held.items() if q is not None}

    def start(self, stream: str, boiling: bool) -> tuple[np.ndarray, float, float]:
        """Flows, pressure and enthalpy of a stream to begin with: saturated vapour, the liquid that begins boiling, or at 25 degC."""
        pressure = self._pressure_of(stream)
        for known in ({"VF": 0.0 if boiling else 1.0}, {"T": 298.15}):
            try:
                return self.flow * self.fractions, pressure, self.model.flash(self.fractions, P=pressure, **known).enthalpy
            except FlashError:
                continue
        return self.flow * self.fractions, pressure, 0.0  # the first pass says that there is no such state

    def _pressure_of(self, stream: str) -> float:
        """Pa: the pressure that is set nearest upstream of a stream."""
        level, seen = {self.circuit.streams[stream][0]}, set[Node]()
        while level:
            here = [self.held[node] for node in level if node in self.held]
            if here:
                return min(here)
            seen |= level
            level = {source for source, target in self.circuit.streams.values() if target in level} - seen
        return 1e5

    @property
    def wanted(self) -> float | None:
        """W that are to be taken in or given off; None where the circulation itself is given."""
        return self.taken_in if self.taken_in is not None else self.given_off

    def exchanged(self, heats: Iterable[float]) -> float:
        """W taken in or given off, as it is given, of the heats (W, into the circuit) of its units."""
        sign = 1.0 if self.taken_in is not None else -1.0
        return sum(max(sign * heat, 0.0) for heat in heats)

    def factor(self, found: float) -> float:
        """Times by which the circulation has to grow so that the heat that was ``found`` becomes the one that is given."""
        wanted = self.wanted
        return 1.0 if wanted is None or not found > 0.0 else float(np.clip(wanted / found, 1.0 / BOLDEST, BOLDEST))

    def heat(self, unit: Unit, inlets: Iterable[tuple[str, Carried]], outlets: Mapping[str, StreamState]) -> float:
        """W that a unit brings into the circuit, from its inlets and outlets by port."""

        def inside(port: str) -> bool:
            return (unit.tag, unit.operation.pressure_side(port).key) in self.circuit.nodes

        came = sum(s.enthalpy_flow for port, s in inlets if inside(port) and isinstance(s, StreamState))
        return sum(s.enthalpy_flow for port, s in outlets.items() if inside(port)) - came
