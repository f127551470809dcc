"""Balances over any part of a plant: what crosses its border as mass, energy, components and elements."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Collection, Mapping
from dataclasses import asdict, dataclass
from typing import TYPE_CHECKING, Any, Literal, Protocol

from wattaxis.flowsheet import Document
from wattaxis.flowsheet.model import resolve
from wattaxis.substances import atoms_of
from wattaxis.unitops.base import StreamKind

if TYPE_CHECKING:
    from wattaxis.solving.results import EnergyResult, StreamResult, UnitState

#: What is out of balance by less, relative to what passes, counts as closed.
CLOSED = 1e-8


class Calculated(Protocol):
    """What a balance takes of a result."""

    @property
    def streams(self) -> Mapping[str, StreamResult]: ...
    @property
    def energies(self) -> Mapping[str, EnergyResult]: ...
    @property
    def units(self) -> Mapping[str, UnitState]: ...


@dataclass(frozen=True)
class Crossing:
    """A stream over the border: kg/s, W."""

    tag: str
    direction: Literal["in", "out"]
    kind: StreamKind
    mass_flow: float
    enthalpy_flow: float


@dataclass(frozen=True)
class Supply:
    """Heat and work that a unit takes from outside the sheet, W."""

    tag: str
    power: float


@dataclass(frozen=True)
class Line:
    """What enters and leaves of one thing, and how much more leaves, relative to the larger of the two."""

    name: str
    enters: float
    leaves: float
    gap: float


@dataclass(frozen=True)
class EnvelopeBalance:
    """The balances of some units together.

    ``mass`` kg/s, ``energy`` W (heat and work from outside the sheet among what enters), ``elements`` and ``components`` mol/s. Components may be
    made and used by reactions; mass, energy and elements may not. ``worst`` names the largest imbalance of those, ``notes`` what is not counted.
    """

    units: tuple[str, ...]
    crossings: tuple[Crossing, ...]
    outside: tuple[Supply, ...]
    mass: Line
    energy: Line
    components: tuple[Line, ...]
    elements: tuple[Line, ...]
    worst: str
    notes: tuple[str, ...]

    def to_data(self) -> dict[str, Any]:
        """Plain data for JSON."""
        return asdict(self)


def envelope_balance(document: Document, result: Calculated, units: Collection[str] | None = None) -> EnvelopeBalance:
    """Balance of some units, or of the whole plant. Feeds, products and supplies stand outside, so that what they carry crosses the border.

    Raises ValueError where nothing is left to balance, a tag is unknown, or a stream over the border is not calculated.

    >>> from importlib.resources import files
    >>> from wattaxis import load, solve
    >>> plant = load(files("wattaxis.examples").joinpath("sandlark_bay.json").read_text())
    >>> balance = envelope_balance(plant, solve(plant), ["V-101", "E-103"])
    >>> [c.tag for c in balance.crossings], abs(balance.mass.gap) < 1e-12
    (['S-06', 'S-08', 'S-09'], True)
    """
    inside = _inside(document, units)
    notes = [f"The outlet {port} of {tag} leads nowhere, and what leaves there is not counted." for tag, port in _loose(document, inside)]
    crossings = _crossings(document, result, inside)
    outside = [Supply(tag, result.units[tag].energy_in) for tag in inside if tag in result.units and result.units[tag].energy_in]
    flows = {c.tag: result.streams[c.tag].mole_flows for c in crossings if c.kind == "material"}
    ways = {c.tag: c.direction for c in crossings}
    components = {c.id: _counted(ways, {tag: flow[c.id] for tag, flow in flows.items()}) for c in document.chemistry.components}
    elements, unknown = _elements(document, components)
    if unknown:
        notes.append(f"No formula is known for {', '.join(unknown)}: the elements in it are not counted.")
    mass = _line("mass", *_counted(ways, {c.tag: c.mass_flow for c in crossings}))
    enters, leaves = _counted(ways, {c.tag: c.enthalpy_flow for c in crossings})
    energy = _line("energy", enters + sum(s.power for s in outside), leaves)
    checked = [mass, energy, *elements]
    worst = max(checked, key=lambda line: abs(line.gap))
    told = "All of it closes" if abs(worst.gap) < CLOSED else f"{worst.name.capitalize()} is out by {worst.gap:.2g} of what passes"
    lines = tuple(_line(name, *both) for name, both in components.items())
    return EnvelopeBalance(tuple(inside), tuple(crossings), tuple(outside), mass, energy, lines, tuple(elements), told, tuple(notes))


def _inside(document: Document, units: Collection[str] | None) -> list[str]:
    ends = {}
    for unit in document.units:
        directions = {p.direction for p in unit.ports}
        ends[unit.tag] = len(directions) < 2
    wanted = list(ends) if units is None else list(units)
    unknown = [tag for tag in wanted if tag not in ends]
    if unknown:
        raise ValueError(f"There is no unit {unknown[0]} on the sheet.")
    inside = [tag for tag in wanted if not ends[tag]]
    if not inside:
        raise ValueError("Choose units that something passes through: what enters a feed or leaves a product is not known.")
    copying = [tag for tag in inside if not next(u for u in document.units if u.tag == tag).operation.balanced]
    if copying:
        raise ValueError(f"{copying[0]} multiplies its stream on purpose; leave it out of the balance.")
    return inside


def _loose(document: Document, inside: Collection[str]) -> list[tuple[str, str]]:
    used = {(s.source.unit, s.source.port) for s in document.streams}
    return [
        (unit.tag, port.title.lower())
        for unit in document.units
        for port in unit.ports
        if unit.tag in inside and port.direction == "out" and port.needed and (unit.tag, port.key) not in used
    ]


def _crossings(document: Document, result: Calculated, inside: Collection[str]) -> list[Crossing]:
    found = []
    kinds = document.stream_kinds()
    for stream in document.streams:
        leaves, enters = stream.source.unit in inside, stream.target.unit in inside
        if leaves == enters:
            continue
        direction: Literal["in", "out"] = "in" if enters else "out"
        if kinds[stream.tag] == "material" and stream.tag in result.streams:
            known = result.streams[stream.tag]
            found.append(Crossing(stream.tag, direction, "material", known.mass_flow, known.enthalpy_flow))
        elif stream.tag in result.energies:
            found.append(Crossing(stream.tag, direction, kinds[stream.tag], 0.0, result.energies[stream.tag].power))
        else:
            raise ValueError(f"{stream.tag} is not calculated, so there is no balance over it yet.")
    return found


def _counted(ways: Mapping[str, str], amounts: Mapping[str, float]) -> tuple[float, float]:
    enters = sum(amount for tag, amount in amounts.items() if ways[tag] == "in")
    return enters, sum(amount for tag, amount in amounts.items() if ways[tag] == "out")


def _line(name: str, enters: float, leaves: float) -> Line:
    size = max(abs(enters), abs(leaves))
    return Line(name, enters, leaves, (leaves - enters) / size if size else 0.0)


def _elements(document: Document, components: Mapping[str, tuple[float, float]]) -> tuple[list[Line], list[str]]:
    """The elements by number in the formulas, and the components whose formula is not known."""
    enters: dict[str, float] = defaultdict(float)
    leaves: dict[str, float] = defaultdict(float)
    unknown = []
    for item in document.chemistry.components:
        atoms = atoms_of(resolve(item).formula)
        if atoms is None:
            unknown.append(item.id)
            continue
        for symbol, count in atoms.items():
            into, out = components[item.id]
            enters[symbol] += count * into
            leaves[symbol] += count * out
    return [_line(symbol, enters[symbol], leaves[symbol]) for symbol in sorted(enters)], unknown
