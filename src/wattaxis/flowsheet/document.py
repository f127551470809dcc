"""The flowsheet document: everything the user gave, and nothing that was calculated."""

from __future__ import annotations

import json
from collections.abc import Iterable, Iterator, Mapping
from itertools import islice
from typing import Annotated, Any, Literal

from pydantic import AfterValidator, Field, SerializeAsAny, ValidationError, field_validator, model_validator

from wattaxis.flowsheet.asked import Aim, Pin, Study, Tag
from wattaxis.flowsheet.chemistry import Chemistry, Finite, ModelName, Part, one_a_name
from wattaxis.flowsheet.migrations import VERSION, migrate
from wattaxis.quantities import KINDS, UNIT_SETS
from wattaxis.unitops import Choice, Port, UnitOperation, UnitSpec, unit_types
from wattaxis.unitops.base import StreamKind
from wattaxis.unitops.registry import left_out

FORMAT = "wattaxis-flowsheet"
#: Pins of a document at most.
MOST_PINS = 60
#: Larger documents are refused before they are parsed.
LARGEST = 8_000_000
DEEPEST = 40
_TOO_DEEP = "The document is nested too deeply for a flowsheet."
#: What is said of text that :func:`is_writable` refuses.
UNWRITABLE = "A text holds a character that cannot be written: half of a pair of codes, or NUL. Remove it."


class DocumentError(ValueError):
    """A document that cannot be read. ``problems`` lists (place, message); ``str()`` shows the first ones.

    >>> try:
    ...     load('{"format": "wattaxis-flowsheet", "version": 8, "colour": "red"}')
    ... except DocumentError as error:
    ...     error.problems
    [('colour', 'Extra inputs are not permitted.')]
    """

    def __init__(self, problems: list[tuple[str, str]]) -> None:
        self.problems = problems
        shown = "; ".join(f"{place}: {message}" if place else message for place, message in problems[:5])
        super().__init__(shown)


class Unit(Part):
    """A unit operation on the sheet: tag, type, givens, place of its symbol (sheet units), mirrored or not; a property model of its own.

    ``turned``: by how many degrees its symbol is turned clockwise.
    """

    tag: Tag
    type: str = Field(max_length=40)
    spec: SerializeAsAny[UnitSpec]
    x: Finite = 0.0
    y: Finite = 0.0
    flipped: bool = False
    turned: Literal[0, 90, 180, 270] = 0
    model: ModelName | None = None

    @model_validator(mode="before")
    @classmethod
    def _typed_spec(cls, data: Any) -> Any:
        if not isinstance(data, dict):
            return data
        operation = unit_types().get(str(data.get("type")))
        if operation is None:
            known = ", ".join(sorted(unit_types()))
            raise ValueError(f"there is no unit operation {data.get('type')!r}; there are {known}. {left_out()}".strip())
        spec = data.get("spec", {})
        return {**data, "spec": operation.Spec.model_validate(spec) if isinstance(spec, dict) else spec}

    @property
    def operation(self) -> UnitOperation:
        """The unit operation behind the type."""
        return unit_types()[self.type]

    @property
    def ports(self) -> tuple[Port, ...]:
        """Its ports, as its givens make them."""
        return self.operation.ports_of(self.spec)


class End(Part):
    """One end of a stream: a port of a unit."""

    unit: Tag
    port: str = Field(max_length=40)

    @model_validator(mode="before")
    @classmethod
    def _from_text(cls, data: Any) -> Any:
        """A text such as "H-1.outlet" stands for the unit and its port."""
        if not isinstance(data, str):
            return data
        unit, dot, port = data.rpartition(".")
        if not dot:
            raise ValueError('an end is a unit and its port, such as "H-1.outlet"')
        return {"unit": unit, "port": port}


class Stream(Part):
    """A stream from an outlet port to an inlet port; the ports say whether it carries matter, heat or shaft power.

    ``torn``: where it lies in a loop, the loop is cut here before the program chooses for itself.
    """

    tag: Tag
    source: End
    target: End
    torn: Literal[True] | None = None


class Note(Part):
    """A text on the sheet, at a place in sheet units."""

    name: str = Field(min_length=1, max_length=60)
    text: str = Field(max_length=2000)
    x: Finite = 0.0
    y: Finite = 0.0


class Area(Part):
    """A named region of the plant: a frame on the sheet, in sheet units."""

    name: str = Field(min_length=1, max_length=60)
    x: Finite
    y: Finite
    width: Finite = Field(gt=0)
    height: Finite = Field(gt=0)


class SheetTable(Part):
    """A table of results on the sheet, its upper left corner in sheet units: a row per value, a column per stream."""

    name: str = Field(min_length=1, max_length=60)
    streams: tuple[Tag, ...] = Field(min_length=1, max_length=30)
    rows: tuple[Annotated[str, Field(max_length=100)], ...] = Field(min_length=1, max_length=40)
    x: Finite = 0.0
    y: Finite = 0.0


class OwnUnits(Part):
    """A named set of display units of one's own: a unit for each kind of quantity; a kind that it leaves out has its first one."""

    name: str = Field(min_length=1, max_length=60)
    units: dict[str, Annotated[str, Field(max_length=20)]] = Field(max_length=80)

    @field_validator("name")
    @classmethod
    def _free_name(cls, name: str) -> str:
        if name in UNIT_SETS:
            raise ValueError(f"there is a set {name!r} already, which ships with the program")
        return name

    @field_validator("units")
    @classmethod
    def _understood(cls, units: dict[str, str]) -> dict[str, str]:
        for kind, unit in units.items():
            if kind not in KINDS or unit not in KINDS[kind].units:
                offered = ", ".join(KINDS[kind].units) if kind in KINDS else ""
                raise ValueError(f"{kind} has no unit {unit!r}" + (f"; it has {offered}" if offered else ": there is no such kind of quantity"))
        return units


class Document(Part):
    """A whole flowsheet.

    >>> Document(title="Pilot plant").chemistry.model
    'peng-robinson'
    """

    format: Literal["wattaxis-flowsheet"] = "wattaxis-flowsheet"
    version: Literal[13] = 13
    title: str = Field(default="Untitled plant", max_length=120)
    unit_set: str = "Metric"
    chemistry: Chemistry = Chemistry()
    units: tuple[Unit, ...] = Field(default=(), max_length=2000)
    streams: tuple[Stream, ...] = Field(default=(), max_length=4000)
    pins: Annotated[tuple[Pin, ...], AfterValidator(one_a_name)] = Field(default=(), max_length=MOST_PINS)
    aims: Annotated[tuple[Aim, ...], AfterValidator(one_a_name)] = Field(default=(), max_length=40)
    studies: Annotated[tuple[Study, ...], AfterValidator(one_a_name)] = Field(default=(), max_length=40)
    notes: Annotated[tuple[Note, ...], AfterValidator(one_a_name)] = Field(default=(), max_length=200)
    areas: Annotated[tuple[Area, ...], AfterValidator(one_a_name)] = Field(default=(), max_length=100)
    tables: Annotated[tuple[SheetTable, ...], AfterValidator(one_a_name)] = Field(default=(), max_length=60)
    #: Keys of calculated values that stand beside a unit or stream on the sheet, by tag, or by type ("stream" for all streams).
    shown: dict[str, tuple[Annotated[str, Field(max_length=40)], ...]] = Field(default={}, max_length=2000)
    unit_sets: Annotated[tuple[OwnUnits, ...], AfterValidator(one_a_name)] = Field(default=(), max_length=20)

    @model_validator(mode="after")
    def _known_set(self) -> Document:
        if self.unit_set not in self.units_by_set():
            raise ValueError(f"there is no unit set {self.unit_set!r}; there are {', '.join(self.units_by_set())}")
        return self

    def units_by_set(self) -> dict[str, dict[str, str]]:
        """Display units by kind of quantity, of every set that ships and every own one."""
        return {**UNIT_SETS, **{s.name: s.units for s in self.unit_sets}}

    @model_validator(mode="after")
    def _consistent(self) -> Document:
        tags = [u.tag for u in self.units] + [s.tag for s in self.streams]
        twice = {tag for tag in tags if tags.count(tag) > 1} if len(set(tags)) < len(tags) else set()
        if twice:
            raise ValueError(f"the tag {sorted(twice)[0]} is used twice")
        units = {u.tag: u for u in self.units}
        taken: set[tuple[str, str]] = set()
        for stream in self.streams:
            source, target = (
                _check_end(stream.tag, end, direction, units, taken) for end, direction in ((stream.source, "out"), (stream.target, "in"))
            )
            if source.kind != target.kind:
                leaves, enters = (
                    f"{end.unit} {port.title.lower()} ({port.kind})" for end, port in ((stream.source, source), (stream.target, target))
                )
                raise ValueError(f"stream {stream.tag} cannot lead from {leaves} to {enters}")
        return self

    def display_unit(self, kind: str) -> str:
        """The unit in which the plant shows a kind of quantity."""
        return self.units_by_set()[self.unit_set].get(kind, KINDS[kind].units[0])

    def unit(self, tag: str) -> Unit | None:
        """The unit of a tag, None when there is none."""
        return next((u for u in self.units if u.tag == tag), None)

    def stream(self, tag: str) -> Stream | None:
        """The stream of a tag, None when there is none."""
        return next((s for s in self.streams if s.tag == tag), None)

    def stream_kinds(self) -> dict[str, StreamKind]:
        """What each stream carries, by tag."""
        return stream_kinds(self.units, self.streams)


def stream_kinds(units: Iterable[Unit], streams: Iterable[Stream]) -> dict[str, StreamKind]:
    """What streams between units carry, by tag; matter where their port is none, which is refused where they are connected."""
    ports = {(u.tag, p.key): p.kind for u in units for p in u.ports}
    return {s.tag: ports.get((s.source.unit, s.source.port), "material") for s in streams}


def _check_end(tag: str, end: End, direction: str, units: dict[str, Unit], taken: set[tuple[str, str]]) -> Port:
    unit = units.get(end.unit)
    if unit is None:
        raise ValueError(f"stream {tag} ends at {end.unit}, which is not on the sheet")
    port = next((p for p in unit.ports if p.key == end.port and p.direction == direction), None)
    if port is None:
        ports = ", ".join(p.key for p in unit.ports if p.direction == direction) or "none"
        word = "outlet" if direction == "out" else "inlet"
        raise ValueError(f"stream {tag}: {end.unit} has no {word} {end.port!r}; it has {ports}")
    if not port.many and (end.unit, end.port) in taken:
        raise ValueError(f"stream {tag}: {end.unit} {end.port} has a stream already")
    taken.add((end.unit, end.port))
    return port


def load(text: str | bytes) -> Document:
    """Read a document from JSON. Raises DocumentError that says where and what.

    >>> load('{"format": "wattaxis-flowsheet", "version": 8, "title": "Pilot plant"}').title
    'Pilot plant'
    """
    if len(text) > LARGEST:
        raise DocumentError([("", f"The document is larger than {LARGEST // 1_000_000} MB.")])
    try:
        data = json.loads(text.decode("utf-8-sig") if isinstance(text, bytes) else text)
    except UnicodeDecodeError as error:
        raise DocumentError([("", "This is not a text file in UTF-8.")]) from error
    except json.JSONDecodeError as error:
        raise DocumentError([(f"line {error.lineno}, column {error.colno}", "This is not valid JSON.")]) from error
    except RecursionError as error:
        raise DocumentError([("", _TOO_DEEP)]) from error
    except ValueError as error:  # a whole number of thousands of digits
        raise DocumentError([("", "This holds a number of more digits than can be read.")]) from error
    levels = list(islice(_levels(data), DEEPEST + 2))
    if len(levels) > DEEPEST + 1:
        raise DocumentError([("", _TOO_DEEP)])
    if not all(map(_writable, levels)):
        raise DocumentError([("", UNWRITABLE)])
    return load_data(data)


def load_data(data: Any) -> Document:
    """Check parsed JSON. Raises DocumentError."""
    if not isinstance(data, dict) or data.get("format") != FORMAT:
        raise DocumentError([("format", f'This is not a Wattaxis flowsheet: "format" must be "{FORMAT}".')])
    version = data.get("version")
    if isinstance(version, int) and version > VERSION:
        raise DocumentError([("version", f"This document is of version {version}, newer than this program, which reads up to {VERSION}.")])
    try:
        document = Document.model_validate(migrate(data))
    except ValidationError as error:
        raise DocumentError([(_place(e["loc"], data), _plain(e["msg"])) for e in error.errors()]) from error
    problems = [
        (f"{unit.tag}.{finding.field}" if finding.field else unit.tag, finding.text)
        for unit in document.units
        for finding in unit.operation.problems(unit.tag, unit.spec)
    ]
    if problems:
        raise DocumentError(problems)
    return document


def dump(document: Document) -> str:
    """The document as JSON text, stable in order, blank fields left out.

    >>> load(dump(Document(title="Pilot plant"))) == Document(title="Pilot plant")
    True
    """
    return json.dumps(to_data(document), indent=1, ensure_ascii=False) + "\n"


def to_data(document: Document) -> dict[str, Any]:
    """The document as plain data, blank fields left out."""
    return _without_blanks(document.model_dump(mode="json"))  # type: ignore[no-any-return]


def json_schema() -> dict[str, Any]:
    """The JSON Schema of the document, unit specs of every known type included.

    >>> json_schema()["$id"]
    'wattaxis-flowsheet-13'
    """
    schema = Document.model_json_schema()
    specs = {name: operation.Spec.model_json_schema(ref_template="#/$defs/{model}") for name, operation in sorted(unit_types().items())}
    definitions = schema["$defs"]
    for spec in specs.values():
        definitions.update(spec.pop("$defs", {}))
    unit = definitions["Unit"]
    unit["oneOf"] = [{"properties": {"type": {"const": name}, "spec": spec}} for name, spec in specs.items()]
    schema["$id"] = f"{FORMAT}-{VERSION}"
    return schema


def _without_blanks(data: Any) -> Any:
    if isinstance(data, dict):
        return {key: _without_blanks(value) for key, value in data.items() if value is not None}
    if isinstance(data, list):
        return [_without_blanks(value) for value in data]
    return data


def _levels(data: Any) -> Iterator[list[Any]]:
    """What plain data hold, level by level of their nesting, keys included: a walk in time that grows with the size alone."""
    level = [data]
    while level:
        yield level
        level = [inner for part in level if isinstance(part, dict | list) for inner in ((*part, *part.values()) if isinstance(part, dict) else part)]


def _writable(values: list[Any]) -> bool:
    text = "".join(value for value in values if isinstance(value, str))
    try:
        text.encode()
    except UnicodeEncodeError:
        return False
    return "\0" not in text


def is_writable(data: Any) -> bool:
    """Whether all text in plain data can be written to files and mails: no halves of characters, no NUL."""
    return all(map(_writable, _levels(data)))


def _place(location: tuple[int | str, ...], data: Any) -> str:
    """A path people can read: units show their tag instead of their number."""
    words: list[str] = []
    here = data
    for part in location:
        try:
            here = here[part]
        except (KeyError, IndexError, TypeError):
            here = None
        label = here.get("tag") or here.get("id") if isinstance(here, dict) and isinstance(part, int) else None
        words.append(str(label) if label else str(part))
    return ".".join(words)


def _plain(message: str) -> str:
    return message.removeprefix("Value error, ").rstrip(".") + "."


def own_shapes(data: Mapping[str, Any]) -> dict[str, tuple[tuple[Port, ...], tuple[Choice, ...]]]:
    """Ports and choices of those units of a document, as plain data, whose type has others with other givens; by tag."""
    found = {}
    for unit in data.get("units", ()):
        operation = unit_types().get(unit["type"])
        if operation is None:
            continue
        kind = type(operation)
        if kind.ports_of is not UnitOperation.ports_of or kind.choices_of is not UnitOperation.choices_of:
            spec = operation.Spec.model_validate(unit["spec"])
            found[unit["tag"]] = (operation.ports_of(spec), operation.choices_of(spec))
    return found
