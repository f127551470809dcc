"""What goes over the wire. Documents and results keep the shapes of the core."""

from __future__ import annotations

from datetime import datetime
from typing import Any, Literal

from ninja import Schema

from wattaxis.solving.results import Assumption, Balance, StreamResult, UnitState
from wattaxis.unitops import Ask, Finding


class Message(Schema):
    """Something to tell, in a sentence."""

    message: str


class QuarrelOut(Schema):
    """Two edits of one place: what came in between, and the newer state."""

    message: str
    label: str
    author: str
    variant: VariantOut


class PersonOut(Schema):
    """Who is signed in."""

    username: str
    staff: bool


class SessionOut(Schema):
    """The signed-in person, if any."""

    person: PersonOut | None


class SignIn(Schema):
    """Name and password."""

    username: str
    password: str


class ProjectIn(Schema):
    """A new project."""

    name: str


class ProjectChange(Schema):
    """What an owner may change of a project; what is left out stays."""

    name: str | None = None
    archived: bool | None = None


class MemberIn(Schema):
    """A person and their role."""

    username: str
    role: Literal["owner", "editor", "reader"]


class MemberOut(Schema):
    """A person of a project."""

    username: str
    role: str


class VariantIn(Schema):
    """The name of a new variant."""

    name: str


class PasswordChange(Schema):
    """The password now and the next one."""

    old: str
    new: str


class PasswordForgotten(Schema):
    """Whose password is forgotten."""

    username: str


class PasswordReset(Schema):
    """From the link in the mail, with the new password."""

    person: str
    token: str
    password: str


class VariantShort(Schema):
    """A variant in the list of projects."""

    id: int
    name: str
    units: int
    revision: int
    changed: datetime


class ProjectOut(Schema):
    """A project with its variants."""

    id: int
    name: str
    role: str
    variants: list[VariantShort]


class QuantityOut(Schema):
    """A number with its unit as typed."""

    value: float
    unit: str = ""


class DocumentComponentOut(Schema):
    """A component of the document."""

    id: str
    cas: str = ""
    own: dict[str, Any] | None = None


class PairOut(Schema):
    """A typed pair parameter."""

    first: str
    second: str
    kij: float
    source: str = ""


class ChemistryOut(Schema):
    """Components, model, typed pairs."""

    components: list[DocumentComponentOut] = []
    model: str
    pairs: list[PairOut] = []


class EndOut(Schema):
    """One end of a stream."""

    unit: str
    port: str


class UnitOut(Schema):
    """A unit on the sheet; ``spec`` holds what was typed."""

    tag: str
    type: str
    spec: dict[str, Any]
    x: float = 0
    y: float = 0


class StreamOut(Schema):
    """A stream between two ports."""

    tag: str
    source: EndOut
    target: EndOut


class DocumentOut(Schema):
    """The flowsheet document."""

    format: str
    version: int
    title: str
    unit_set: str
    chemistry: ChemistryOut
    units: list[UnitOut] = []
    streams: list[StreamOut] = []


class ResultOut(Schema):
    """What a calculation says; SI units."""

    complete: bool
    streams: dict[str, StreamResult]
    units: dict[str, UnitState]
    asks: list[Ask]
    findings: list[Finding]
    assumptions: list[Assumption]
    balance: Balance
    model: str


class AnswerOut(Schema):
    """The newest answer of the solver and the revision it belongs to."""

    kind: Literal["result", "failed"]
    revision: int
    seconds: float = 0
    text: str = ""
    result: ResultOut | None = None


class PairRow(Schema):
    """A pair of the chosen model with value, source and quality."""

    first: str
    second: str
    kij: float | None
    source: str
    quality: str


class VariantOut(Schema):
    """A variant as a page needs it."""

    id: int
    name: str
    project: str
    role: str
    revision: int
    document: DocumentOut
    undo: str | None
    redo: str | None
    pairs: list[PairRow]
    answer: AnswerOut | None


class EditIn(Schema):
    """An editing operation of the core and the revision it starts from."""

    base: int
    edit: dict[str, Any]


class HistoryRow(Schema):
    """One revision in the history."""

    number: int
    label: str
    author: str
    created: datetime


class ParseIn(Schema):
    """A text to be read as a quantity."""

    text: str
    kind: str
    default_unit: str | None = None


class ParseOut(Schema):
    """How a text was understood: the quantity, its SI value and a reading in the unit asked for."""

    ok: bool
    message: str
    quantity: QuantityOut | None = None
    si: float | None = None
    si_unit: str = ""


class KindUnit(Schema):
    """A unit of a kind: SI = value * factor + offset."""

    name: str
    factor: float
    offset: float


class KindOut(Schema):
    """A kind of quantity and its units."""

    title: str
    units: list[KindUnit]


class PortOut(Schema):
    """A port of a unit type."""

    key: str
    title: str
    direction: Literal["in", "out"]
    many: bool
    needed: bool
    place: list[float]


class FieldOut(Schema):
    """A value that may be given."""

    key: str
    title: str
    kind: str
    help: str


class ChoiceOut(Schema):
    """Exactly ``count`` of ``fields`` must be given."""

    title: str
    fields: list[str]
    count: int
    assumed: str | None


class UnitTypeOut(Schema):
    """A type of unit operation, enough to draw its symbol and inspector."""

    type: str
    title: str
    symbol: str
    letter: str
    family: str
    theory: str
    ports: list[PortOut]
    fields: list[FieldOut]
    choices: list[ChoiceOut]


class ModelOut(Schema):
    """A property model in words."""

    key: str
    title: str
    source: str
    use: str
    limits: str
    pairs: bool


class CatalogueOut(Schema):
    """Everything the page needs to know once."""

    unit_types: list[UnitTypeOut]
    kinds: dict[str, KindOut]
    unit_sets: dict[str, dict[str, str]]
    models: list[ModelOut]
    bases: dict[str, str]


class ConstantOut(Schema):
    """A constant of a component with its source; SI value of a kind."""

    key: str
    title: str
    value: float
    kind: str
    source: str


class ComponentOut(Schema):
    """A component of the bank."""

    name: str
    cas: str
    formula: str
    synonyms: list[str]
    constants: list[ConstantOut]


QuarrelOut.model_rebuild()
