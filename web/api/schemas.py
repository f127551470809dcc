"""What goes over the wire. Documents and results keep the shapes of the core."""

from __future__ import annotations

from datetime import datetime
from typing import Any, Literal

from api.chemistry_schemas import DataKindOut
from api.result_schemas import AnswerOut
from ninja import Field, Schema
from pydantic import SkipValidation

from wattaxis.flowsheet.asked import Study
from wattaxis.flowsheet.data import KeptFit, Measured
from wattaxis.flowsheet.document import Area, Note, OwnUnits, SheetTable
from wattaxis.flowsheet.edit_kinds import Edit
from wattaxis.flowsheet.guide import Answer
from wattaxis.flowsheet.reactions import TypedReactionSet
from wattaxis.properties.catalogue import PairParameter
from wattaxis.questions.envelope import Crossing, Line, Supply
from wattaxis.questions.scaling import Scaled


class Message(Schema):
    """Something to tell, in a sentence."""

    message: str


class QuarrelOut(Schema):
    """Two edits of one place: what came in between, and the newer state."""

    message: str
    theirs: str
    yours: str
    author: str
    changed: ChangedOut


class NameIn(Schema):
    """The name of something new."""

    name: str


class NameAndPlace(Schema):
    """What may be changed of a project or a variant; what is left out stays."""

    name: str | None = None
    archived: bool | None = None


class VariantShort(Schema):
    """A variant in the list of projects."""

    id: int
    name: str
    units: int
    revision: int
    changed: datetime
    archived: bool


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
    overrides: dict[str, QuantityOut] = {}
    solid: bool | None = None
    own_solid: dict[str, Any] | None = None
    own_dissolved: dict[str, Any] | None = None
    price: QuantityOut | None = None
    vapour_pressure: dict[str, Any] | None = None
    stands_for: str = ""
    curves: dict[str, Any] = {}


class PairOut(Schema):
    """A typed pair parameter."""

    first: str
    second: str
    model: str
    values: dict[str, float]
    source: str = ""
    quality: str = "typed in"


class ChemistryOut(Schema):
    """Components, model, typed pairs, measured data, fits that were kept, reactions."""

    components: list[DocumentComponentOut] = []
    model: str
    vapour: str = "ideal"
    translated: bool = False
    pairs: list[PairOut] = []
    data: list[Measured] = []
    fits: list[KeptFit] = []
    reactions: list[TypedReactionSet] = []


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
    flipped: bool = False
    turned: int = 0
    model: str | None = None


class StreamOut(Schema):
    """A stream between two ports."""

    tag: str
    source: EndOut
    target: EndOut
    torn: bool | None = None


class PinOut(Schema):
    """A value kept in sight."""

    name: str
    formula: str


class FreedOut(Schema):
    """A given that an aim changes."""

    unit: str
    field: str


class AimOut(PinOut):
    """A target for a formula, as typed, with what it frees and the bounds."""

    target: QuantityOut
    free: FreedOut
    low: QuantityOut | None = None
    high: QuantityOut | None = None
    active: bool = True


class GivenDifferenceOut(Schema):
    """A place that was given differently, texts as typed."""

    place: str
    title: str
    texts: list[str | None]
    #: Edits that take each side over into the first variant; none where that cannot be done alone.
    take: list[list[dict[str, Any]]]


class ResultDifferenceOut(Schema):
    """A result of each variant, SI values of a kind."""

    place: str
    title: str
    kind: str | None
    values: list[float | None]
    equal: bool


class ComparisonOut(Schema):
    """Variants, and cases of studies, side by side under their names."""

    names: list[str]
    givens: list[GivenDifferenceOut]
    pins: list[ResultDifferenceOut]
    streams: list[ResultDifferenceOut]
    complete: list[bool]


class AimedAt(Schema):
    """The formula that is to be aimed at."""

    formula: str = Field(max_length=300)
    token: str = Field(default="", max_length=40)


class AimProposal(Schema):
    """A given that could be freed: its value (SI) and the slope of the formula by it; steps upstream."""

    unit: str
    field: str
    title: str
    kind: str
    si: str
    value: float
    slope: float
    distance: int


class AimProposalsOut(Schema):
    """What could be freed, and what the formula gives now (SI), with its kind and unit."""

    value: float
    kind: str | None
    si: str
    proposals: list[AimProposal]


class FeedTableOut(Schema):
    """A composition read from a table, and the lines that were left out."""

    composition: dict[str, Any]
    left_out: list[str]


class DocumentOut(Schema):
    """The flowsheet document."""

    format: str
    version: int
    title: str
    unit_set: str
    unit_sets: list[OwnUnits] = []
    chemistry: ChemistryOut
    units: list[UnitOut] = []
    streams: list[StreamOut] = []
    pins: list[PinOut] = []
    aims: list[AimOut] = []
    studies: list[Study] = []
    notes: list[Note] = []
    areas: list[Area] = []
    tables: list[SheetTable] = []
    shown: dict[str, list[str]] = {}


class EnvelopeIn(Schema):
    """The units inside a balance; none: the whole plant."""

    units: list[str] = Field(default=[], max_length=2000)


class EnvelopeOut(Schema):
    """Balances over the border of some units; kg/s, W, mol/s."""

    units: list[str]
    crossings: list[Crossing]
    outside: list[Supply]
    mass: Line
    energy: Line
    components: list[Line]
    elements: list[Line]
    worst: str
    notes: list[str]


class ScalingIn(Schema):
    """A yearly production: a stream, or a component in it; an amount of mass in so many operating days."""

    stream: str = Field(max_length=24)
    component: str = Field(default="", max_length=80)
    amount: QuantityOut
    days: float = Field(allow_inf_nan=False)


class ScalingOut(Schema):
    """What brings the plant to a yearly production."""

    factor: float
    edits: list[dict[str, Any]]
    changes: list[Scaled]
    marked: list[str]


class ProposalOut(Schema):
    """A model with the reasons for it and what to mind."""

    key: str
    title: str
    rank: int
    vapour: str
    reasons: list[str]
    cautions: list[str]


class GuideOut(Schema):
    """What was found about the chemistry, and the models in order."""

    answers: list[Answer]
    proposals: list[ProposalOut]


class EstimatedOut(Schema):
    """What estimating pairs changed, and the pairs that could not be estimated."""

    changed: ChangedOut
    left_out: list[str]


class HelpOut(Schema):
    """A page of the documentation as HTML, with the list of all pages."""

    slug: str
    html: str
    pages: list[HelpPage]


class HelpPage(Schema):
    """A page in the list."""

    slug: str
    title: str


class PairRow(Schema):
    """A pair of the chosen model with value, source and quality."""

    first: str
    second: str
    values: dict[str, float]
    source: str
    quality: str


class PortOut(Schema):
    """A port of a unit type."""

    key: str
    title: str
    direction: Literal["in", "out"]
    many: bool
    needed: bool
    place: list[float]
    kind: Literal["material", "heat", "shaft"]


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
    #: Of units whose ports or choices follow from their givens; the others have those of their type.
    shapes: dict[str, ShapeOut]
    answer: AnswerOut | None


class PatchStep(Schema):
    """One operation of a JSON Patch (RFC 6902)."""

    op: Literal["add", "remove", "replace"]
    path: str
    #: Of documents and shapes, which are described where they travel whole.
    value: Any = None


class ChangedOut(Schema):
    """What has changed of a variant since the revision ``base``: the steps that make ``document`` and ``shapes`` of then those of ``revision``."""

    base: int
    revision: int
    patch: list[PatchStep]
    undo: str | None
    redo: str | None


class EditIn(Schema):
    """An editing operation of the core and the revision it starts from."""

    base: int
    #: Described in full; read by the core, which says where and what it understood.
    edit: SkipValidation[Edit]


class HistoryRow(Schema):
    """One revision in the history."""

    number: int
    label: str
    author: str
    created: datetime


class ShapeOut(Schema):
    """Ports and choices of a unit with the givens that it has."""

    ports: list[PortOut]
    choices: list[ChoiceOut]


class KindUnit(Schema):
    """A unit of a kind: SI = value * factor + offset."""

    name: str
    factor: float
    offset: float


class KindOut(Schema):
    """A kind of quantity and its units."""

    title: str
    units: list[KindUnit]


class ColumnOut(Schema):
    """A column of a table that is given."""

    key: str
    title: str
    kind: str
    help: str = ""
    options: list[str] = []
    unit: str = ""


class FieldOut(Schema):
    """A value that may be given."""

    key: str
    title: str
    kind: str
    help: str
    each: bool
    options: list[str] = []
    needs: str = ""
    beside: str = ""
    or_beside: str = ""
    among: list[str] = []
    port: str = ""
    columns: list[ColumnOut] = []
    most: int = 0


class ChoiceOut(Schema):
    """Exactly ``count`` of ``fields`` must be given."""

    title: str
    fields: list[str]
    count: int
    assumed: str | None
    #: Of these one may be given beside the outlet pressure, which settles the inlet's.
    both: list[list[str]]


class UnitTypeOut(Schema):
    """A type of unit operation, enough to draw its symbol and inspector."""

    type: str
    title: str
    symbol: str
    letter: str
    family: str
    also: list[str]
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
    parameters: list[PairParameter]
    equation: list[str]
    #: What may be chosen beside it: "vapour" of an activity model, "translated" of a cubic equation, "" for neither.
    beside: str


class CatalogueOut(Schema):
    """Everything the page needs to know once."""

    unit_types: list[UnitTypeOut]
    kinds: dict[str, KindOut]
    unit_sets: dict[str, dict[str, str]]
    models: list[ModelOut]
    vapours: dict[str, str]
    stream_values: dict[str, str]
    bases: dict[str, str]
    data_kinds: list[DataKindOut]
    joback_groups: dict[int, str]


QuarrelOut.model_rebuild()
