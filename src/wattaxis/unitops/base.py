"""What a unit operation is: its ports, its givens with their choices, and a pure function from inlets to outlets."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Any, ClassVar, Literal, Protocol

import numpy as np
from pydantic import BaseModel, ConfigDict, field_validator

from wattaxis.properties.state import Vector
from wattaxis.quantities import KINDS, Quantity, QuantityError, to_si
from wattaxis.reactions import ReactionSet
from wattaxis.unitops.pressures import PressureSide
from wattaxis.unitops.profile import Profile
from wattaxis.unitops.table import MOST_ROWS, Column, GivenTable, table_problem

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel, State

#: m/s2, standard gravity.
GRAVITY = 9.80665
Severity = Literal["note", "caution", "fault"]
#: What a stream carries: matter, heat, or work on a shaft.
StreamKind = Literal["material", "heat", "shaft"]


@dataclass(frozen=True)
class Port:
    """A place where streams connect. ``many`` ports take any number of them; others one at most."""

    key: str
    title: str
    direction: Literal["in", "out"]
    many: bool = False
    needed: bool = True
    #: Where the port sits on the symbol, in fractions of its width and height, for the drawing.
    place: tuple[float, float] = (0.0, 0.5)
    kind: StreamKind = "material"


@dataclass(frozen=True)
class Field:
    """A value that may be given.

    ``kind`` names a quantity kind, "composition", "table" of ``columns``, "component" for one of the plant's, "reactions" for one of its sets, or
    "option" for one of ``options``;
    ``each`` says that it is typed for every component; ``needs`` is the CAS number of a component, ``beside`` the key of another field, without
    which it has no meaning; ``port`` is the branch that it is about. ``known`` is what was measured, or is a machine's own, and not chosen: it is
    not looked through for something to vary, and stays where a plant is scaled.
    """

    key: str
    title: str
    kind: str
    help: str = ""
    each: bool = False
    options: tuple[str, ...] = ()
    needs: str = ""
    beside: str = ""
    #: Another field with which it has a meaning as well.
    or_beside: str = ""
    #: Options of the field ``beside`` with one of which it has a meaning; empty: with any.
    among: tuple[str, ...] = ()
    port: str = ""
    known: bool = False
    columns: tuple[Column, ...] = ()
    #: Rows that a table may have.
    most: int = MOST_ROWS

    @property
    def single(self) -> bool:
        """Whether it is one quantity with a unit."""
        return self.kind in KINDS and not self.each


#: What the program supplies for a field that nobody gave.
Assumed = Quantity | str


@dataclass(frozen=True)
class Choice:
    """Exactly ``count`` of ``fields`` must be given. With ``assumed`` the program supplies one, a quantity or an option, when none is, and says so.

    A stream at the inlet port ``port`` serves instead of a given.
    """

    title: str
    fields: tuple[str, ...]
    count: int = 1
    assumed: tuple[str, Assumed, str] | None = None
    port: str = ""


class UnitSpec(BaseModel):
    """The givens of one unit, as typed. Absent is blank; zero is a number; a table or composition without a value is blank too."""

    model_config = ConfigDict(extra="forbid")

    @field_validator("*", mode="after")
    @classmethod
    def _blank(cls, value: Any) -> Any:
        return None if getattr(value, "says_nothing", False) else value


SpecType = type[UnitSpec]


@dataclass(frozen=True)
class Finding:
    """Anything worth telling about a result, in physical words; ``repair`` is a list of edits that can be applied."""

    severity: Severity
    place: str
    text: str
    remedy: str = ""
    field: str | None = None
    repair: tuple[dict[str, Any], ...] = ()
    repair_title: str = ""


@dataclass(frozen=True)
class Ask:
    """A value that a unit still needs; any of ``fields`` could serve."""

    place: str
    text: str
    fields: tuple[str, ...]


@dataclass(frozen=True)
class ResultValue:
    """A calculated value in SI, with the quantity kind that says how to show it; ``component`` where it is one component's."""

    key: str
    title: str
    kind: str
    value: float
    component: str = ""

    @property
    def name(self) -> str:
        """As a formula writes it behind the tag: ``duty``, ``recovery[water]``."""
        return self.key + (f"[{self.component}]" if self.component else "")


@dataclass(frozen=True)
class StreamState:
    """A material stream: molar flow (mol/s, zero allowed) of a mixture in a state."""

    flow: float
    state: State

    @property
    def flows(self) -> Vector:
        """Component flows, mol/s."""
        return self.flow * self.state.fractions

    @property
    def enthalpy_flow(self) -> float:
        """W, from the elements at 298.15 K."""
        return self.flow * self.state.enthalpy if self.flow > 0.0 else 0.0

    @property
    def mass_flow(self) -> float:
        """kg/s."""
        return self.flow * self.state.molar_mass


@dataclass(frozen=True)
class EnergyState:
    """A heat or shaft stream: W along its arrow; and between which temperatures (K) heat is given off, where that is known."""

    kind: StreamKind
    power: float
    low: float | None = None
    high: float | None = None

    @property
    def enthalpy_flow(self) -> float:
        """W."""
        return self.power

    @property
    def mass_flow(self) -> float:
        """None of it is matter."""
        return 0.0


#: What flows in a stream of the sheet.
Carried = StreamState | EnergyState


class Nearby(Protocol):
    """What a unit hands on for inlets near those that it was calculated for, by its derivatives."""

    def leaving(self, inlets: Mapping[str, Sequence[StreamState]]) -> dict[str, Carried]:
        """In first order, by port. Raises UnitFault where that tells nothing."""


@dataclass(frozen=True)
class UnitResult:
    """Outlets by port, heat and work taken in from outside (W, those of ``energies`` and of energy inlets left out), results and findings."""

    outlets: dict[str, StreamState]
    energy_in: float = 0.0
    values: tuple[ResultValue, ...] = ()
    findings: tuple[Finding, ...] = ()
    basis: str = ""
    #: Tables of results: per stage, along a length, over a duty.
    profiles: tuple[Profile, ...] = ()
    #: W that the inlets gained because the unit uses another property model than the units they come from.
    model_change: float = 0.0
    #: Heat and shaft outlets by port.
    energies: dict[str, EnergyState] = field(default_factory=dict)
    #: What the next calculation of the unit may start from; it may make that faster, never another answer.
    hint: Any = None
    #: What it would hand on for other inlets near by, where that is cheaper than another calculation: drafts alone need it.
    nearby: Nearby | None = None
    #: Whether it is what a loop goes on with where there is no result yet.
    provisional: bool = False
    #: kg/s that the molar masses of a reaction, rounded as they are known, make out of nothing; told by a finding where it matters.
    mass_made: float = 0.0

    def leaving(self) -> dict[str, Carried]:
        """Everything that it hands on, by port."""
        return {**self.outlets, **self.energies}


class UnitFault(Exception):
    """Raised inside ``solve`` to end it with a finding; never reaches a user as an exception."""

    def __init__(self, text: str, remedy: str = "", field: str | None = None, repair: tuple[dict[str, Any], ...] = (), title: str = "") -> None:
        super().__init__(text)
        self.text, self.remedy, self.field, self.repair, self.repair_title = text, remedy, field, repair, title

    def finding(self, place: str) -> Finding:
        """As a finding of severity fault at a unit."""
        return Finding("fault", place, self.text, self.remedy, self.field, self.repair, self.repair_title)


@dataclass
class Givens:
    """The givens of a unit in SI, assumed ones included; what comes in by energy ports; and the keys of all connected ports."""

    spec: UnitSpec
    fields: Mapping[str, Field]
    assumed: Mapping[str, Assumed] = field(default_factory=dict)
    energy: Mapping[str, Sequence[EnergyState]] = field(default_factory=dict)
    connected: frozenset[str] = frozenset()
    #: Tags of the streams at each inlet, in the order in which they come.
    tags: Mapping[str, tuple[str, ...]] = field(default_factory=dict)
    #: What the last calculation of a unit like this left as its hint, None where there was none.
    hint: Any = None
    #: The reaction sets of the plant by name.
    reactions: Mapping[str, ReactionSet] = field(default_factory=dict)
    #: On the way through a loop the outlets are enough; a unit that ``drafts`` leaves the rest of its results out.
    draft: bool = False
    #: On the way to an aim all results count, and may be found from those before; the answer is found from nothing.
    search: bool = False

    def power(self, port: str) -> float | None:
        """W that come in by an energy port, None when nothing is connected to it."""
        return sum(e.power for e in self.energy[port]) if port in self.energy else None

    def si(self, key: str) -> float | None:
        """The SI value of a field, None when blank."""
        given = getattr(self.spec, key)
        quantity = self.assumed.get(key) if given is None else given
        return to_si(quantity, self.fields[key].kind) if isinstance(quantity, Quantity) else None

    def option(self, key: str) -> str | None:
        """What is chosen of the options of a field, or assumed; None when blank."""
        given = getattr(self.spec, key)
        chosen = self.assumed.get(key) if given is None else given
        return None if chosen is None else str(chosen)

    def reaction_set(self, key: str) -> ReactionSet:
        """The reactions that a field chooses. Raises UnitFault where the plant has no such set."""
        name = getattr(self.spec, key)
        if name not in self.reactions:
            known = f"Choose one of {', '.join(self.reactions)}." if self.reactions else "Write the reactions under Chemistry."
            raise UnitFault(f'There is no reaction set "{name}".', known, key)
        return self.reactions[name]

    def raw(self, key: str) -> Any:
        """The given as typed."""
        return getattr(self.spec, key)


class UnitOperation:
    """Base of all unit operations. Subclasses set the class attributes and :meth:`solve`; they keep no state.

    ``symbol`` names the ISO 10628-2 graphical symbol; ``letter`` starts its tags; ``theory`` is one paragraph with the source.
    """

    type: ClassVar[str]
    title: ClassVar[str]
    symbol: ClassVar[str]
    letter: ClassVar[str]
    family: ClassVar[str]
    #: Other words by which it is looked for.
    also: ClassVar[tuple[str, ...]] = ()
    theory: ClassVar[str]
    Spec: ClassVar[SpecType]
    ports: ClassVar[tuple[Port, ...]]
    fields: ClassVar[tuple[Field, ...]] = ()
    choices: ClassVar[tuple[Choice, ...]] = ()
    #: How its pressures are given, side by side.
    pressures: ClassVar[tuple[PressureSide, ...]] = ()
    #: False for what multiplies its inlet on purpose and stays outside the balances.
    balanced: ClassVar[bool] = True
    #: What solids among its inlets do to it ("erodes a compressor"), blank where it takes them.
    solids_harm: ClassVar[str] = ""
    #: Whether it does less where only its outlets are asked for, and whether it then still tells every fault that it has.
    drafts: ClassVar[bool] = False
    drafts_tell_faults: ClassVar[bool] = False

    @classmethod
    def field_map(cls) -> dict[str, Field]:
        """Fields by key."""
        return {f.key: f for f in cls.fields}

    def ports_of(self, spec: UnitSpec) -> tuple[Port, ...]:
        """The ports of a unit with such givens: those of its type, unless feeds and draws follow from rows of a table."""
        return self.ports

    def choices_of(self, spec: UnitSpec) -> tuple[Choice, ...]:
        """The choices of a unit with such givens: those of its type, unless how many may be given follows from others."""
        return self.choices

    def solve(self, givens: Givens, inlets: Mapping[str, Sequence[StreamState]], model: PropertyModel, outlets: frozenset[str]) -> UnitResult:
        """Outlets from givens and inlet states; ``outlets`` names the connected outlet ports. Raises UnitFault only."""
        raise NotImplementedError

    def asks(self, tag: str, spec: UnitSpec, component_ids: Sequence[str], connected: frozenset[str]) -> list[Ask]:
        """What is missing before the unit can be calculated, from its choices; ``connected`` holds the keys of its connected ports."""
        found = []
        titles = self.field_map()
        for choice in self.choices_of(spec):
            given = [key for key in choice.fields if getattr(spec, key) is not None]
            missing = choice.count - len(given) - (choice.port in connected)
            if missing > 0 and not (choice.assumed and not given):
                open_fields = tuple(key for key in choice.fields if key not in given)
                serve = _either([titles[key].title.lower() for key in open_fields])
                amount = "one value" if missing == 1 else f"{missing} values"
                more = " more" if given else ""
                found.append(Ask(tag, f"{tag} needs {amount}{more} for its {choice.title.lower()}: {serve}.", open_fields))
        return found

    def follows(self, spec: UnitSpec) -> frozenset[str]:
        """The energy outlets that supply what the unit at the other end needs, so that their streams are calculated there."""
        return frozenset()

    def settles(self, port: str) -> bool:
        """Whether the unit says how much comes in by an energy port, so that a supply there can follow."""
        return any(choice.port == port for choice in self.choices)

    @classmethod
    def names_streams(cls) -> bool:
        """Whether its givens speak of streams by their tags, in a column of a table."""
        return any(column.kind == "stream" for item in cls.fields for column in item.columns)

    def pressure_side(self, port: str) -> PressureSide:
        """How the pressure on the side of a port is given."""
        return next((side for side in self.pressures if not side.ports or port in side.ports), PressureSide())

    def together(self, choice: Choice) -> tuple[tuple[str, str], ...]:
        """Pairs of fields of a choice that may be given together although it takes but one."""
        return tuple(pair for side in self.pressures for pair in side.both if set(pair) <= set(choice.fields))

    def barred(self, spec: UnitSpec, component: str, solid: bool) -> frozenset[str]:
        """Outlets by which a component, perhaps a conventional ``solid``, cannot leave, whatever the state, as the givens say."""
        return frozenset()

    @classmethod
    def reaction_fields(cls) -> tuple[str, ...]:
        """Keys of the fields that choose a reaction set."""
        return tuple(item.key for item in cls.fields if item.kind == "reactions")

    def formed(self, spec: UnitSpec, reactions: Mapping[str, ReactionSet]) -> frozenset[str]:
        """Components that the unit may form: those that its reaction sets do, of the plant's ``reactions`` by name."""
        return frozenset().union(*(of.of_sign(1.0) for of in self._sets(spec, reactions)))

    def used_up(self, spec: UnitSpec, reactions: Mapping[str, ReactionSet]) -> frozenset[str]:
        """Components that the unit may use up."""
        return frozenset().union(*(of.of_sign(-1.0) for of in self._sets(spec, reactions)))

    def free_to_react(self, spec: UnitSpec, component: str) -> bool:
        """Whether the unit may form or use up a component without a reaction that says so."""
        return False

    def _sets(self, spec: UnitSpec, reactions: Mapping[str, ReactionSet]) -> list[ReactionSet]:
        return [reactions[name] for key in self.reaction_fields() if (name := getattr(spec, key)) in reactions]

    def excess(self, tag: str, spec: UnitSpec, connected: frozenset[str] = frozenset()) -> list[Finding]:
        """Givens that quarrel because a choice has more of them than it can take, and those without what they belong to."""
        found = []
        titles = self.field_map()
        for choice in self.choices_of(spec):
            given = [key for key in choice.fields if getattr(spec, key) is not None]
            if given and choice.port in connected and len(given) >= choice.count:
                port = next(p for p in self.ports if p.key == choice.port)
                clear = given[-1]
                repair = ({"kind": "set_values", "unit": tag, "values": dict.fromkeys(given)},)
                text = f"{tag} has its {choice.title.lower()} set twice: by the stream at {port.title.lower()}, and by {titles[clear].title.lower()}."
                found.append(Finding("fault", tag, text, "Clear the value, or disconnect the stream.", clear, repair, "Let the stream set it"))
            elif len(given) > choice.count:
                names = _and([titles[key].title.lower() for key in given])
                clear = given[-1]
                repair = ({"kind": "set_values", "unit": tag, "values": {clear: None}},)
                text = f"{tag} has too many values for its {choice.title.lower()}: {names} are all given; only {choice.count} may be specified."
                found.append(Finding("fault", tag, text, "Clear one of them.", clear, repair, f"Clear {titles[clear].title.lower()}"))
        for item in self.fields:
            if not item.beside or getattr(spec, item.key) is None:
                continue
            other, chosen = titles[item.beside].title.lower(), getattr(spec, item.beside)
            if chosen is None and item.or_beside:
                chosen = getattr(spec, item.or_beside)
                other = f"{other}, or {titles[item.or_beside].title.lower()},"
            if chosen is None and not item.among:
                text = f"{item.title} of {tag} is not used: it applies only where its {other} is given."
                found.append(Finding("note", tag, text, f"Give its {other.rstrip(',')}, or clear it.", item.key))
            elif item.among and chosen not in item.among:
                wanted = _either([f'"{option}"' for option in item.among])
                text = f"{item.title} of {tag} is not used: it applies only where its {other} is {wanted}."
                found.append(Finding("note", tag, text, f"Choose that {other}, or clear it.", item.key))
        return found

    def assumptions(self, spec: UnitSpec) -> dict[str, tuple[Assumed, str]]:
        """Values that nobody gave and the program supplies, each with its reason."""
        found: dict[str, tuple[Assumed, str]] = {}
        for choice in self.choices_of(spec):
            if choice.assumed and all(getattr(spec, key) is None for key in choice.fields):
                key, quantity, reason = choice.assumed
                found[key] = (quantity, reason)
        return found

    def problems(self, tag: str, spec: UnitSpec) -> list[Finding]:
        """Typed quantities of a wrong dimension or beyond belief (a document edited by hand can hold them)."""
        found = []
        for item in self.fields:
            given = getattr(spec, item.key)
            if item.kind == "option" and given is not None and given not in item.options:
                text = f'{item.title} of {tag}: there is no "{given}"; there are {", ".join(item.options)}.'
                found.append(Finding("fault", tag, text, "Choose one of them.", item.key))
            if isinstance(given, GivenTable) and (wrong := table_problem(given, item.columns, item.most)):
                text = f"{item.title} of {tag}: {wrong[0]}."
                found.append(Finding("fault", tag, text, "Type another value.", item.key + wrong[1]))
            several = given.values.values() if item.each and given is not None else (given,)
            for quantity in several:
                if isinstance(quantity, Quantity):
                    try:
                        to_si(quantity, item.kind)
                    except QuantityError as error:
                        found.append(Finding("fault", tag, f"{item.title} of {tag}: {error}", "Type another value.", item.key))
        return found


def outlet_pressure(givens: Givens, inlet: float) -> float:
    """Outlet pressure (Pa) from ``outlet_pressure`` or ``pressure_change``. Raises UnitFault when nothing is left of it."""
    given = givens.si("outlet_pressure")
    if given is not None:
        return given
    change = givens.si("pressure_change") or 0.0
    if inlet + change <= 0.0:
        raise UnitFault(
            f"The pressure change of {change / 1e5:.4g} bar leaves no pressure of the {inlet / 1e5:.4g} bar at the inlet.",
            "Give a smaller drop or an outlet pressure.",
            "pressure_change",
        )
    return inlet + change


def mix_composition(inlets: Sequence[StreamState]) -> tuple[float, Vector]:
    """Total molar flow and mole fractions of several streams together; of no flow at all, those of the first."""
    total = float(sum(s.flow for s in inlets))
    if total <= 0.0:
        return 0.0, inlets[0].state.fractions
    mixed = np.sum([s.flows for s in inlets], axis=0)
    return total, mixed / mixed.sum()


def _either(names: list[str]) -> str:
    return names[0] if len(names) == 1 else ", ".join(names[:-1]) + " or " + names[-1]


def _and(names: list[str]) -> str:
    return ", ".join(names[:-1]) + " and " + names[-1]
