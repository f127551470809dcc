"""One unit after the other: gathering its inlets, calculating it or remembering it, checking its balances."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping
from dataclasses import replace
from typing import TYPE_CHECKING

from wattaxis.flowsheet import Document, Unit
from wattaxis.properties import model_infos
from wattaxis.solving.checking import connected
from wattaxis.solving.memory import Memory, content_key
from wattaxis.unitops import Finding, StreamState, UnitResult
from wattaxis.unitops.base import Givens, UnitFault

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel

#: Balances of every unit must close to this, relative to what passes through it.
CLOSURE = 1e-8


class Calculator:
    """Calculates units of one document with one property model."""

    def __init__(self, document: Document, model: PropertyModel) -> None:
        self.document = document
        self.model = model
        self.units = {u.tag: u for u in document.units}
        self.inlets, self.outlets = connected(document)
        self.by_source = {(s.source.unit, s.source.port): s.tag for s in document.streams}

    def ready(self, tag: str, streams: Mapping[str, StreamState]) -> bool:
        """Whether every inlet stream of a unit is known."""
        return all(name in streams for _, name, _ in self.inlets[tag])

    def unit(self, tag: str, streams: Mapping[str, StreamState], memory: Memory) -> UnitResult:
        """The result of a unit, its findings included; one that failed has a finding of severity fault and no outlets."""
        entering: dict[str, list[StreamState]] = {}
        for port, name, _ in self.inlets[tag]:
            entering.setdefault(port, []).append(streams[name])
        unit, outlets = self.units[tag], self.outlets.get(tag, frozenset())
        key = content_key(unit, self.document.chemistry, entering, outlets)
        solved = memory.get(key)
        if solved is None:
            solved = self._calculate(unit, entering, outlets)
            memory.put(key, solved)
        return solved

    def inside(self, tags: Collection[str]) -> set[str]:
        """The streams that both leave and enter one of the units ``tags``."""
        return {s.tag for s in self.document.streams if s.source.unit in tags and s.target.unit in tags}

    def named(self, tag: str, solved: UnitResult) -> tuple[dict[str, StreamState], list[StreamState]]:
        """The outlets of a unit by stream tag, and those that lead nowhere."""
        known = {self.by_source[tag, port]: outlet for port, outlet in solved.outlets.items() if (tag, port) in self.by_source}
        return known, [outlet for port, outlet in solved.outlets.items() if (tag, port) not in self.by_source]

    def _calculate(self, unit: Unit, entering: dict[str, list[StreamState]], outlets: frozenset[str]) -> UnitResult:
        operation = unit.operation
        assumed = {name: quantity for name, (quantity, _) in operation.assumptions(unit.spec).items()}
        try:
            solved = operation.solve(Givens(unit.spec, operation.field_map(), assumed), entering, self.model, outlets)
        except UnitFault as fault:
            return UnitResult({}, findings=(_placed(fault.finding(unit.tag), unit.tag),))
        except (ArithmeticError, ValueError) as error:
            finding = Finding("fault", unit.tag, f"{unit.tag} could not be calculated: {error}", "Check its givens and inlets.")
            return UnitResult({}, findings=(finding,))
        return replace(solved, findings=tuple(self._findings(unit, solved, entering)), basis=self._basis(unit))

    def _findings(self, unit: Unit, solved: UnitResult, entering: dict[str, list[StreamState]]) -> Iterable[Finding]:
        yield from (_placed(f, unit.tag) for f in solved.findings)
        for outlet in solved.outlets.values():
            left = self.model.ranges_left(outlet.state.temperature, outlet.state.fractions)
            if left:
                text = f"At {outlet.state.temperature:.5g} K {left[0]}" + (f", and {len(left) - 1} more such" if len(left) > 1 else "") + "."
                yield Finding("caution", unit.tag, text, "Take the energies there as estimates.")
                break
        if any(stream.state.left_out for stream in solved.outlets.values()):
            text = "More phases coexist here than a liquid, a second liquid and a vapour; the two that fit best are given."
            yield Finding("caution", unit.tag, text, "Take the compositions there as estimates, or change the temperature.")
        if entering and solved.outlets:
            yield from self._balance(unit, solved, [s for streams in entering.values() for s in streams])

    def _balance(self, unit: Unit, solved: UnitResult, entering: list[StreamState]) -> Iterable[Finding]:
        mass_in, heat_in = sum(s.mass_flow for s in entering), sum(s.enthalpy_flow for s in entering) + solved.energy_in
        mass_out, heat_out = sum(s.mass_flow for s in solved.outlets.values()), sum(s.enthalpy_flow for s in solved.outlets.values())
        size = sum(abs(s.enthalpy_flow) for s in entering) + abs(solved.energy_in)
        if abs(mass_out - mass_in) > CLOSURE * mass_in or abs(heat_in - heat_out) > CLOSURE * size:
            text = f"The balances of {unit.tag} do not close: mass {mass_out - mass_in:.3g} kg/s, energy {heat_in - heat_out:.3g} W."
            yield Finding("fault", unit.tag, text, "This is a defect of the calculation; please report the document.")

    def _basis(self, unit: Unit) -> str:
        info = model_infos()[self.model.kind]
        return f"{unit.operation.theory} Properties by {info.title} ({info.source})."


def _placed(finding: Finding, tag: str) -> Finding:
    repair = tuple({**edit, "unit": tag} if edit.get("unit") == "" else edit for edit in finding.repair)
    return replace(finding, place=tag, repair=repair)


def failed(solved: UnitResult) -> bool:
    """Whether a unit could not be calculated."""
    return any(f.severity == "fault" for f in solved.findings)
