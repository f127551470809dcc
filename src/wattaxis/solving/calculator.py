"""One unit after the other: gathering its inlets, calculating it or remembering it, checking its balances."""

from __future__ import annotations

import math
from collections.abc import Collection, Iterable, Iterator, Mapping
from dataclasses import replace
from typing import TYPE_CHECKING, Any

from wattaxis.flowsheet import Document, Unit, reaction_sets
from wattaxis.flowsheet.pieces import free_tag
from wattaxis.properties.trust import freezing
from wattaxis.properties.vapour import VAPOURS
from wattaxis.solving.checking import connected, following
from wattaxis.solving.circuits import Charged, circuits
from wattaxis.solving.memory import Memory, Purpose, chemistry_key, content_key, given_key
from wattaxis.unitops import Finding, StreamState, UnitResult
from wattaxis.unitops.base import Carried, EnergyState, Givens, UnitFault
from wattaxis.unitops.flow.circuit_charge import CircuitCharge
from wattaxis.unitops.profile import profile_problem

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel, State

#: Balances of every unit must close to this, relative to what passes through it.
CLOSURE = 1e-8


class Calculator:
    """Calculates units of one document, each with the property model it uses; ``models`` by key, the plant's first."""

    def __init__(self, document: Document, models: Mapping[str, PropertyModel]) -> None:
        self.document = document
        self.models = models
        self.model = next(iter(models.values()))
        self.units = {u.tag: u for u in document.units}
        self.inlets, self.outlets = connected(document)
        # A stream from a supply that follows is handed on by the unit that it leads to.
        asked = following(document)
        self.by_source = {
            (end.unit, end.port): s.tag for s in document.streams for end in (s.target if (s.source.unit, s.source.port) in asked else s.source,)
        }
        self.kinds = document.stream_kinds()
        #: The chemistry and what is given of each unit, as parts of the keys of results.
        self.chemistry = chemistry_key(document.chemistry)
        self.reactions = reaction_sets(document.chemistry)
        self.given: dict[str, bytes] = {}
        #: Tags of the streams at each inlet of each unit.
        self.tags: dict[str, dict[str, tuple[str, ...]]] = {}
        for tag in self.units:
            found = self.tags.setdefault(tag, {})
            for port, name, _ in self.inlets.get(tag, ()):
                found[port] = (*found.get(port, ()), name)
        self.components = ",".join(c.id for c in self.model.components)

    def entering(self, tag: str, streams: Mapping[str, Carried]) -> list[tuple[str, Carried]]:
        """What comes into a unit, by port."""
        return [(port, streams[name]) for port, name, _ in self.inlets[tag]]

    def charged_in(self, tags: Collection[str]) -> list[Charged]:
        """The charged circuits of which the units ``tags`` form a part."""
        if not any(self.units[tag].type == CircuitCharge.type for tag in tags):
            return []  # most loops: their streams need not be looked through
        found = [c for c in circuits(self.document) if c.charges and c.units & set(tags)]
        return [Charged(self.document, c, self.model_of(self.units[c.charges[0]])) for c in found]

    def ready(self, tag: str, streams: Mapping[str, Carried]) -> bool:
        """Whether every inlet stream of a unit is known."""
        return all(name in streams for _, name, _ in self.inlets[tag])

    def unit(self, tag: str, streams: Mapping[str, Carried], memory: Memory, purpose: Purpose = "answer") -> UnitResult:
        """The result of a unit, its findings included; one that failed has a finding of severity fault and no outlets.

        In a "draft" a unit may leave out all but its outlets, and in a "search" for what meets aims it may begin at what it was before.
        """
        entering, energy = self._inlets(tag, streams)
        unit, outlets = self.units[tag], self.outlets.get(tag, frozenset())
        if purpose == "search" and not unit.operation.drafts:
            purpose = "answer"
        key = content_key(self.given_of(tag), entering, energy, outlets, purpose)
        solved = memory.get(key)
        if solved is None:
            structure = self._structure(unit, outlets | entering.keys() | energy.keys())
            solved = self._calculate(unit, entering, energy, outlets, purpose, memory.hints.get(structure))
            memory.put(key, solved)
            if solved.hint is not None:
                memory.hints[structure] = solved.hint
        return solved

    def near(self, tag: str, streams: Mapping[str, Carried], before: UnitResult, memory: Memory) -> UnitResult:
        """What a unit hands on for inlets near those of a draft of it, ``before``: by its derivatives where it has such, else calculated."""
        if before.nearby is not None:
            entering, energy = self._inlets(tag, streams)
            unit = self.units[tag]
            try:
                leaving = before.nearby.leaving(_handed_over(tag, entering, self.model_of(unit))[0]) if not energy else {}
            except (UnitFault, ValueError):
                leaving = {}
            if leaving:
                return UnitResult(
                    {port: s for port, s in leaving.items() if isinstance(s, StreamState)},
                    energies={port: s for port, s in leaving.items() if isinstance(s, EnergyState)},
                )
        return self.unit(tag, streams, memory, "draft")

    def _inlets(self, tag: str, streams: Mapping[str, Carried]) -> tuple[dict[str, list[StreamState]], dict[str, list[EnergyState]]]:
        """What comes into a unit as matter and as energy, by port."""
        entering: dict[str, list[StreamState]] = {}
        energy: dict[str, list[EnergyState]] = {}
        for port, stream in self.entering(tag, streams):
            if isinstance(stream, EnergyState):
                energy.setdefault(port, []).append(stream)
            else:
                entering.setdefault(port, []).append(stream)
        return entering, energy

    def given_of(self, tag: str) -> bytes:
        """Hash of what a unit's result depends on beside its inlets."""
        if tag not in self.given:
            unit = self.units[tag]
            names = repr(self.tags[tag]) if unit.operation.names_streams() else ""
            sets = [self.reactions.get(getattr(unit.spec, key)) for key in unit.operation.reaction_fields()]
            self.given[tag] = given_key(unit, self.chemistry, f"{names}{sets or ''}")
        return self.given[tag]

    def _structure(self, unit: Unit, connected: frozenset[str]) -> str:
        """What a hint fits: the same unit with the same components, model and connections, whatever its values."""
        return f"{unit.tag}|{unit.type}|{self.model_of(unit).kind}|{self.components}|{','.join(sorted(connected))}"

    def model_of(self, unit: Unit) -> PropertyModel:
        """The property model that a unit uses."""
        return self.model if unit.model is None else self.models[unit.model]

    def model_of_stream(self, name: str) -> PropertyModel:
        """The property model in which a stream leaves its source."""
        return next(self.model_of(self.units[s.source.unit]) for s in self.document.streams if s.tag == name)

    def pressure_ways(self, tag: str) -> Iterator[tuple[str, str]]:
        """Streams that enter and leave a unit on one side of it, where the pressure that leaves is not given and so may hang on what enters."""
        unit = self.units[tag]
        for port, entering, _ in self.inlets[tag]:
            side = unit.operation.pressure_side(port)
            if any(getattr(unit.spec, key) is not None for key in side.setting):
                continue
            for stream in self.document.streams:
                if stream.source.unit == tag and unit.operation.pressure_side(stream.source.port) == side:
                    yield entering, stream.tag

    def inside(self, tags: Collection[str]) -> set[str]:
        """The streams that both leave and enter one of the units ``tags``."""
        return {s.tag for s in self.document.streams if s.source.unit in tags and s.target.unit in tags}

    def named(self, tag: str, solved: UnitResult) -> tuple[dict[str, Carried], list[StreamState]]:
        """The outlets of a unit by stream tag, and those that lead nowhere."""
        known = {self.by_source[tag, port]: outlet for port, outlet in solved.leaving().items() if (tag, port) in self.by_source}
        return known, [outlet for port, outlet in solved.outlets.items() if (tag, port) not in self.by_source]

    def _calculate(
        self,
        unit: Unit,
        entering: dict[str, list[StreamState]],
        energy: dict[str, list[EnergyState]],
        outlets: frozenset[str],
        purpose: Purpose,
        hint: Any,
    ) -> UnitResult:
        draft = purpose == "draft"
        operation, model = unit.operation, self.model_of(unit)
        assumed = {name: quantity for name, (quantity, _) in operation.assumptions(unit.spec).items()}
        try:
            entering, change, notes = _handed_over(unit.tag, entering, model)
            ends = outlets | energy.keys() | entering.keys()
            way = (draft and operation.drafts, purpose == "search")
            givens = Givens(unit.spec, operation.field_map(), assumed, energy, ends, self.tags[unit.tag], hint, self.reactions, *way)
            solved = operation.solve(givens, entering, model, outlets)
        except UnitFault as fault:
            return UnitResult({}, findings=(self._placed(fault.finding(unit.tag), unit),))
        except (ArithmeticError, ValueError) as error:
            finding = Finding("fault", unit.tag, f"{unit.tag} could not be calculated: {error}", "Check its givens and inlets.")
            return UnitResult({}, findings=(finding,))
        except Exception as error:  # a unit may be anybody's; whatever it does, the rest of the plant goes on
            return UnitResult({}, findings=(_defect(unit, f"it ends with {type(error).__name__}: {error}"),))
        if wrong := misfit(unit, solved, outlets):
            return UnitResult({}, findings=(_defect(unit, wrong),))
        if draft:
            return solved  # its own findings tell whether it failed; what else is to be said is said of the closed loop
        through: list[Carried] = [s for streams in entering.values() for s in streams]
        # At the supply it leaves, though it is calculated at the other end.
        signs = {p.key: 1.0 if p.direction == "in" else -1.0 for p in unit.ports}
        through += [EnergyState(s.kind, signs[port] * s.power) for port, streams in energy.items() for s in streams]
        findings = (*notes, *self._findings(unit, solved, through))
        return replace(solved, findings=findings, basis=self._basis(unit), model_change=change)

    def _findings(self, unit: Unit, solved: UnitResult, entering: list[Carried]) -> Iterable[Finding]:
        yield from (self._placed(f, unit) for f in solved.findings)
        for outlet in solved.outlets.values():
            left = self.model_of(unit).ranges_left(outlet.state)
            if left:
                text = f"At {outlet.state.temperature:.5g} K {left[0]}" + (f", and {len(left) - 1} more such" if len(left) > 1 else "") + "."
                yield Finding("caution", unit.tag, text, "Take the energies there as estimates.")
                break
        carried = [s for s in entering if isinstance(s, StreamState) and s.flow > 0.0 and s.state.solid_fraction > 0.0]
        if carried and unit.operation.solids_harm:
            mass = sum(s.flow * float(s.state.model.solids_of(s.state.fractions) @ s.state.model.molar_masses) for s in carried)
            share = 100 * mass / sum(s.mass_flow for s in carried)
            text = f"{share:.3g} % of the mass that enters {unit.tag} is solid, which {unit.operation.solids_harm}."
            yield Finding("caution", unit.tag, text, "Add a cyclone or a filter upstream.")
        frozen = {c: melts for outlet in solved.outlets.values() if outlet.flow > 0.0 for c, melts in freezing(outlet.state)}
        if frozen:
            names = ", ".join(f"{c} (melts at {melts:.1f} K)" for c, melts in frozen.items())
            coldest = min(outlet.state.temperature for outlet in solved.outlets.values())
            text = (
                f"At {coldest:.5g} K solid would form from the liquid that leaves {unit.tag}: {names}. The property model does not describe crystals."
            )
            yield Finding("caution", unit.tag, text, "Keep it warmer, or treat the component as a conventional solid.")
        if any(stream.state.left_out for stream in solved.outlets.values()):
            text = "More phases coexist here than a liquid, a second liquid and a vapour; those that fit best are given."
            yield Finding("caution", unit.tag, text, "Take the compositions there as estimates, or change the temperature.")
        if entering and solved.leaving() and unit.operation.balanced:
            yield from self._balance(unit, solved, entering)

    def _balance(self, unit: Unit, solved: UnitResult, entering: list[Carried]) -> Iterable[Finding]:
        leaving = solved.leaving()
        # What is asked of a supply that follows comes in, though it is calculated here.
        asked = [leaving.pop(p.key).enthalpy_flow for p in unit.ports if p.direction == "in" and p.key in leaving]
        mass_in, heat_in = sum(s.mass_flow for s in entering), sum(s.enthalpy_flow for s in entering) + solved.energy_in + sum(asked)
        mass_out, heat_out = sum(s.mass_flow for s in leaving.values()), sum(s.enthalpy_flow for s in leaving.values())
        size = sum(abs(s.enthalpy_flow) for s in entering) + abs(solved.energy_in) + sum(map(abs, asked))
        if not (abs(mass_out - mass_in - solved.mass_made) <= CLOSURE * mass_in and abs(heat_in - heat_out) <= CLOSURE * size):
            text = f"The balances of {unit.tag} do not close: mass {mass_out - mass_in:.3g} kg/s, energy {heat_in - heat_out:.3g} W."
            yield Finding("fault", unit.tag, text, "This is a defect of the calculation; please report the document.")

    def _placed(self, finding: Finding, unit: Unit) -> Finding:
        """A finding at its unit, with the open names of its repair filled in.

        "" is the unit, "<inlet" the stream at an inlet, "+V" a free tag of a letter; new units stand relative to this one.
        """
        taken = {u.tag for u in self.document.units} | {s.tag for s in self.document.streams}
        for _ in [edit for edit in finding.repair if edit["kind"] == "insert_in_line"]:
            taken.add(free_tag(taken, "S"))  # the edit takes it for the stream behind the new unit
        names = {"": unit.tag, **{f"<{port}": stream for port, stream, _ in self.inlets[unit.tag]}}

        def name(text: str) -> str:
            if text.startswith("+") and text not in names:
                names[text] = free_tag(taken, text[1:2])
                taken.add(names[text])
            return names.get(text, text)

        def filled(part: Any, key: str = "") -> Any:
            if isinstance(part, dict) and "value" not in part:  # a quantity has a unit of its own
                new = {k: filled(value, k) for k, value in part.items()}
                return new | {"x": unit.x + new["x"], "y": unit.y + new["y"]} if {"type", "x", "y"} <= new.keys() else new
            return name(part) if isinstance(part, str) and key in ("unit", "tag", "stream") else part

        return replace(finding, place=unit.tag, repair=tuple(filled(edit) for edit in finding.repair))

    def _basis(self, unit: Unit) -> str:
        model = self.model_of(unit)
        info = model.family.info
        more = ", volumes shifted to the density of each pure liquid" if model.translated else ""
        if not model.equation_of_state and not model.ideal_vapour:
            more = f", vapour: {VAPOURS[model.vapour]}"
        return f"{unit.operation.theory} Properties by {info.title} ({info.source}){more}."


def misfit(unit: Unit, solved: UnitResult, outlets: frozenset[str]) -> str:
    """What a result holds that none may hold: outlets that are no ports, numbers that are none; or an outlet it lacks. Blank where it may be used."""
    ports = {(p.key, p.kind) for p in unit.ports}
    leaving = solved.leaving()
    strange = [key for key, stream in leaving.items() if (key, stream.kind if isinstance(stream, EnergyState) else "material") not in ports]
    if strange:
        return f"it returns {strange[0]!r}, which is not one of its ports of that kind"
    if missing := sorted(outlets - leaving.keys()):
        return f"it hands nothing on by {missing[0]}"
    for key, stream in leaving.items():
        numbers = (stream.power,) if isinstance(stream, EnergyState) else (stream.flow, stream.state.temperature, stream.state.pressure)
        if not all(map(math.isfinite, numbers)):
            return f"what leaves it by {key} is not a number"
        if isinstance(stream, StreamState) and not stream.flows.min() >= -1e-9 * stream.flow:
            return f"less than nothing of a component leaves it by {key}"
    if odd := next(filter(None, map(profile_problem, solved.profiles)), ""):
        return odd
    wrong = next((v.name for v in solved.values if not math.isfinite(v.value)), "" if math.isfinite(solved.energy_in) else "energy_in")
    return f"its {wrong} is not a number" if wrong else ""


def _defect(unit: Unit, text: str) -> Finding:
    remedy = "This is a defect of the calculation of this type of unit, not of the plant; please report it with the document."
    return Finding("fault", unit.tag, f"{unit.tag} ({unit.operation.title}) could not be calculated: {text}.", remedy)


def _handed_over(
    tag: str, entering: Mapping[str, list[StreamState]], model: PropertyModel
) -> tuple[dict[str, list[StreamState]], float, tuple[Finding, ...]]:
    """The inlets in the property model of the unit, W that their enthalpy flow rises by it, and what is to be said of that."""
    change = 0.0
    others: list[str] = []

    def taken(stream: StreamState) -> StreamState:
        nonlocal change
        # By its kind, not as an object: a remembered state may hold an equal model that was made before.
        if stream.state.model.kind == model.kind:
            return stream
        made = StreamState(stream.flow, in_model(stream.state, model))
        change += made.enthalpy_flow - stream.enthalpy_flow
        others.append(stream.state.model.family.info.title)
        return made

    found = {port: [taken(s) for s in streams] for port, streams in entering.items()}
    if not others:
        return found, 0.0, ()
    names = " and ".join(dict.fromkeys(others))
    text = (
        f"{tag} uses {model.family.info.title}; what comes from {names} is passed on with its temperature, pressure and composition."
        f" Its enthalpy flow is {change / 1e3:+.4g} kW here, which is left out of the balance of {tag} and reported in that of the plant."
    )
    return found, change, (Finding("note", tag, text, "Use one property model on both sides where the difference matters."),)


def in_model(state: State, model: PropertyModel) -> State:
    """A state at the same temperature, pressure and composition in another property model; a boiling pure component keeps its vapour fraction.

    Raises FlashError.
    """
    if (state.fractions > 0.0).sum() - (model.solids_of(state.fractions) > 0.0).sum() == 1 and 0.0 < state.vapour_fraction < 1.0:
        return model.flash(state.fractions, P=state.pressure, VF=state.vapour_fraction)
    return model.flash(state.fractions, T=state.temperature, P=state.pressure)


def failed(solved: UnitResult) -> bool:
    """Whether a unit could not be calculated."""
    return any(f.severity == "fault" for f in solved.findings)
