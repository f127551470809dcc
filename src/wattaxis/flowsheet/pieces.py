"""Pieces of plant: a selection of units with the streams between them, to be placed again here or elsewhere; and edits along a line.

A kit is a piece that is kept under a name. Where streams crossed the border of the selection the piece has open connections.
"""

from __future__ import annotations

import re
from collections.abc import Collection, Mapping, Sequence
from typing import Any

from pydantic import Field, ValidationError

from wattaxis.flowsheet.asked import Tag
from wattaxis.flowsheet.chemistry import DocumentComponent, Part
from wattaxis.flowsheet.document import Document, DocumentError, End, Stream, Unit, _plain, stream_kinds, to_data
from wattaxis.flowsheet.reactions import MOST_SETS, TypedReactionSet

#: How the tags of streams start, by what they carry.
STREAM_LETTERS = {"material": "S", "heat": "Q", "shaft": "W"}


class Connection(Part):
    """A place of a piece where a stream used to cross its border: what came or went there, and the port."""

    title: str = Field(max_length=80)
    unit: Tag
    port: str = Field(max_length=40)


class FreeValue(Part):
    """A given of a piece that is meant to be changed wherever it is placed."""

    unit: Tag
    field: str = Field(max_length=40)
    title: str = Field(default="", max_length=80)


class Piece(Part):
    """Units with their places from the upper left corner on, the streams between them, and the reaction sets and components that they speak of.

    >>> Piece.model_validate({"name": "Mixing", "units": [{"tag": "M-101", "type": "mixer", "spec": {}}]}).units[0].tag
    'M-101'
    """

    name: str = Field(default="", max_length=60)
    text: str = Field(default="", max_length=600)
    components: tuple[DocumentComponent, ...] = Field(default=(), max_length=200)
    reactions: tuple[TypedReactionSet, ...] = Field(default=(), max_length=MOST_SETS)
    units: tuple[Unit, ...] = Field(min_length=1, max_length=400)
    streams: tuple[Stream, ...] = Field(default=(), max_length=800)
    connections: tuple[Connection, ...] = Field(default=(), max_length=200)
    free: tuple[FreeValue, ...] = Field(default=(), max_length=60)


def take_piece(document: Document, tags: Collection[str], name: str = "", text: str = "", free: Sequence[tuple[str, str]] = ()) -> Piece:
    """The units ``tags`` as a piece; ``free`` names (unit, field) of givens that are meant to be changed. Raises ValueError.

    >>> from importlib.resources import files
    >>> from wattaxis import load
    >>> plant = load(files("wattaxis.examples").joinpath("sandlark_bay.json").read_text())
    >>> piece = take_piece(plant, ["E-103", "V-101"])
    >>> [u.tag for u in piece.units], [c.title for c in piece.connections if c.unit == "E-103"]
    (['E-103', 'V-101'], ['S-06 from F-101'])
    """
    units = [u for u in document.units if u.tag in tags]
    if not units:
        raise ValueError("Choose at least one unit.")
    left, top = min(u.x for u in units), min(u.y for u in units)
    inside = [s for s in document.streams if s.source.unit in tags and s.target.unit in tags]
    open_ends = []
    for s in document.streams:
        if s.target.unit in tags and s.source.unit not in tags:
            open_ends.append(Connection(title=f"{s.tag} from {s.source.unit}", unit=s.target.unit, port=s.target.port))
        if s.source.unit in tags and s.target.unit not in tags:
            open_ends.append(Connection(title=f"{s.tag} to {s.target.unit}", unit=s.source.unit, port=s.source.port))
    named = {getattr(u.spec, key) for u in units for key in u.operation.reaction_fields()}
    reactions = tuple(of for of in document.chemistry.reactions if of.name in named)
    specs = [unit["spec"] for unit in to_data(document)["units"] if unit["tag"] in tags]
    laws = [law for of in reactions for reaction in of.core().reactions for law in reaction.laws]
    spoken_of = _spoken_of([*specs, *(of.model_dump(mode="json") for of in reactions), *(law.components for law in laws)])
    return Piece(
        name=name,
        text=text,
        components=tuple(c for c in document.chemistry.components if c.id in spoken_of),
        reactions=reactions,
        units=tuple(u.model_copy(update={"x": u.x - left, "y": u.y - top}) for u in units),
        streams=tuple(inside),
        connections=tuple(open_ends),
        free=tuple(FreeValue(unit=unit, field=field, title=_title(document, unit, field)) for unit, field in free),
    )


def piece_from_json(data: Any) -> Piece:
    """Check plain data as a piece. Raises DocumentError."""
    try:
        return Piece.model_validate(data)
    except ValidationError as error:
        raise DocumentError([(".".join(str(p) for p in e["loc"]), _plain(e["msg"])) for e in error.errors()]) from error


def placing(document: Document, piece: Piece, x: float, y: float) -> tuple[list[dict[str, Any]], dict[str, str]]:
    """Edits that place a piece with its upper left corner at (x, y), what is missing of its chemistry first, and the new tag of every old one.

    Components are matched by CAS number, own ones by name; reaction sets by name and content, and one that differs gets another name.
    """
    known = {c.cas: c.id for c in document.chemistry.components if c.cas} | {c.id: c.id for c in document.chemistry.components}
    edits: list[dict[str, Any]] = []
    names: dict[str, str] = {}
    for item in piece.components:
        names[item.id] = known.get(item.cas, known.get(item.id, item.id)) if item.cas else known.get(item.id, item.id)
        if names[item.id] not in known.values():
            edits.append({"kind": "add_component", "component": item.model_dump(mode="json", exclude_none=True)})
    sets, more = _reaction_sets(document, piece, names)
    edits += more
    taken = {u.tag for u in document.units} | {s.tag for s in document.streams}
    tags: dict[str, str] = {}
    for unit in piece.units:
        tags[unit.tag] = unit.tag if unit.tag not in taken else free_tag(taken, unit.operation.letter)
        taken.add(tags[unit.tag])
        data = unit.model_dump(mode="json", exclude_none=True)
        chosen = {key: sets.get(data["spec"][key], data["spec"][key]) for key in unit.operation.reaction_fields() if key in data["spec"]}
        data |= {"tag": tags[unit.tag], "x": unit.x + x, "y": unit.y + y, "spec": {**_translated(data["spec"], names), **chosen}}
        edits.append({"kind": "add_unit", "unit": data})
    kinds = stream_kinds(piece.units, piece.streams)
    for stream in piece.streams:
        tags[stream.tag] = stream.tag if stream.tag not in taken else free_tag(taken, STREAM_LETTERS[kinds[stream.tag]])
        taken.add(tags[stream.tag])
        ends = {name: {"unit": tags[end.unit], "port": end.port} for name, end in (("source", stream.source), ("target", stream.target))}
        edits.append({"kind": "connect", "stream": {"tag": tags[stream.tag], **ends}})
    return edits, tags


def inserting(document: Document, stream: str, unit: Unit, inlet: str, outlet: str) -> list[dict[str, Any]]:
    """Edits that open a stream, put a unit in, and close it again; the stream keeps its tag before the unit. Raises ValueError."""
    line = _line(document, stream)
    after = free_tag({u.tag for u in document.units} | {s.tag for s in document.streams} | {unit.tag}, "S")
    return [
        {"kind": "disconnect", "tag": stream},
        {"kind": "add_unit", "unit": unit.model_dump(mode="json", exclude_none=True)},
        _connect(stream, line.source, End(unit=unit.tag, port=inlet)),
        _connect(after, End(unit=unit.tag, port=outlet), line.target),
    ]


def taking_out(document: Document, tag: str) -> list[dict[str, Any]]:
    """Edits that take a unit of one inlet and one outlet stream out of its line and heal it. Raises ValueError."""
    kinds = document.stream_kinds()
    entering = [s for s in document.streams if s.target.unit == tag and kinds[s.tag] == "material"]
    leaving = [s for s in document.streams if s.source.unit == tag and kinds[s.tag] == "material"]
    if len(entering) != 1 or len(leaving) != 1:
        raise ValueError(f"{tag} has {len(entering)} streams in and {len(leaving)} out; only a unit with one of each can be removed from its line.")
    if entering[0].source.unit == tag:
        raise ValueError(f"The only stream of {tag} leads back to it.")
    return [{"kind": "remove_unit", "tag": tag}, _connect(entering[0].tag, entering[0].source, leaving[0].target)]


def swapping(document: Document, first: str, second: str) -> list[dict[str, Any]]:
    """Edits that let two streams from one unit change their outlets. Raises ValueError."""
    one, two = _line(document, first), _line(document, second)
    if one.source.unit != two.source.unit:
        raise ValueError(f"{first} leaves {one.source.unit} and {second} leaves {two.source.unit}; only outlets of one unit can be swapped.")
    return [
        {"kind": "disconnect", "tag": first},
        {"kind": "disconnect", "tag": second},
        _connect(first, two.source, one.target),
        _connect(second, one.source, two.target),
    ]


def reversing(document: Document, tag: str) -> list[dict[str, Any]]:
    """Edits that turn a stream round, from a free outlet of the unit it led to into a free inlet of the one it came from. Raises ValueError."""
    line = _line(document, tag)
    kind = document.stream_kinds()[tag]
    source = _free_port(document, line.target.unit, "out", kind, tag)
    target = _free_port(document, line.source.unit, "in", kind, tag)
    return [{"kind": "disconnect", "tag": tag}, _connect(tag, source, target)]


def renumbering(document: Document, tags: Collection[str], first: int) -> list[dict[str, Any]]:
    """Edits that number units anew from ``first`` on, letter by letter, from left to right. Raises ValueError where a number is taken elsewhere."""
    units = sorted((u for u in document.units if u.tag in tags), key=lambda u: (u.x, u.y, u.tag))
    others = {u.tag for u in document.units if u.tag not in tags} | {s.tag for s in document.streams}
    counts: dict[str, int] = {}
    wanted = {}
    for unit in units:
        letter = unit.operation.letter
        while (new := f"{letter}-{first + counts.get(letter, 0)}") in others:
            counts[letter] = counts.get(letter, 0) + 1
        counts[letter] = counts.get(letter, 0) + 1
        wanted[unit.tag] = new
    moved = {old: new for old, new in wanted.items() if old != new}
    # By way of names that nothing has, so that two units can change theirs.
    taken = {u.tag for u in document.units} | others | set(moved.values())
    aside: dict[str, str] = {}
    for old in moved:
        aside[old] = free_tag(taken | set(aside.values()), "X")
    return [{"kind": "rename", "tag": old, "new": aside[old]} for old in moved] + [
        {"kind": "rename", "tag": aside[old], "new": new} for old, new in moved.items()
    ]


def free_tag(taken: Collection[str], letter: str) -> str:
    """The next free tag of a letter: E-101, E-102, ...; S-01 for streams, Q-01 for heat, W-01 for shafts.

    >>> free_tag({"E-101", "E-102"}, "E"), free_tag(set(), "S")
    ('E-103', 'S-01')
    """
    streams = letter in STREAM_LETTERS.values()
    number = 1 if streams else 101
    while (tag := f"{letter}-{number:02d}" if streams else f"{letter}-{number}") in taken:
        number += 1
    return tag


def _line(document: Document, tag: str) -> Stream:
    stream = document.stream(tag)
    if stream is None:
        raise ValueError(f"There is no stream {tag}.")
    return stream


def _connect(tag: str, source: End, target: End) -> dict[str, Any]:
    return {"kind": "connect", "stream": {"tag": tag, "source": source.model_dump(), "target": target.model_dump()}}


def _free_port(document: Document, unit: str, direction: str, kind: str, but: str) -> End:
    found = document.unit(unit)
    assert found is not None  # streams end at units
    others = [s for s in document.streams if s.tag != but]
    used = {(s.source if direction == "out" else s.target) for s in others}
    for port in found.ports:
        end = End(unit=unit, port=port.key)
        if port.direction == direction and port.kind == kind and (port.many or end not in used):
            return end
    word = "outlet" if direction == "out" else "inlet"
    raise ValueError(f"{unit} has no free {word} for the reversed stream.")


def _title(document: Document, unit: str, field: str) -> str:
    found = document.unit(unit)
    fields = {} if found is None else found.operation.field_map()
    if field not in fields:
        raise ValueError(f"{unit} has no value {field!r}.")
    return fields[field].title


def _reaction_sets(document: Document, piece: Piece, names: Mapping[str, str]) -> tuple[dict[str, str], list[dict[str, Any]]]:
    """What the sets of a piece are called here, and edits that add those that are not there yet."""
    there = {of.name: of for of in document.chemistry.reactions}
    called: dict[str, str] = {}
    edits: list[dict[str, Any]] = []
    for of in piece.reactions:
        data = {**of.model_dump(mode="json", exclude_none=True), "source": of.source}
        data["reactions"] = [_translated(reaction, names) for reaction in data["reactions"]]
        wanted = TypedReactionSet.model_validate(data)
        name, number = of.name, 2
        while name in there and there[name].reactions != wanted.reactions:
            name, number = f"{of.name[:56]} {number}", number + 1
        called[of.name] = name
        if name not in there:
            there[name] = wanted
            edits.append({"kind": "set_reactions", "name": name, "reactions": {**data, "name": name}})
    return called, edits


def _spoken_of(parts: Sequence[Any]) -> set[str]:
    """Every key and text of some plain data; components are among them by their ids."""
    found: set[str] = set()

    def walk(value: Any) -> None:
        if isinstance(value, dict):
            found.update(value)
            for part in value.values():
                walk(part)
        elif isinstance(value, list | tuple):
            for part in value:
                walk(part)
        elif isinstance(value, str):
            found.add(value)

    walk(list(parts))
    return found


def _of_expression(text: str, names: Mapping[str, str]) -> str:
    """A rate law with the components in its brackets replaced."""
    return re.sub(r"\[\s*([^\[\]]+?)\s*\]", lambda found: f"[{names.get(found[1], found[1])}]", text)


def _translated(value: Any, names: Mapping[str, str]) -> Any:
    """A spec with component ids replaced, where they are keys or whole texts."""
    if isinstance(value, dict):
        return {names.get(key, key): _of_expression(part, names) if key == "expression" else _translated(part, names) for key, part in value.items()}
    if isinstance(value, list | tuple):
        return [_translated(part, names) for part in value]
    return names.get(value, value) if isinstance(value, str) and not re.fullmatch(r"[\d.]+", value) else value
