"""What goes in and out about diagrams, measured data and fits."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from ninja import Schema
from pydantic import Field

from wattaxis.flowsheet.data import FitDeviation, Measured
from wattaxis.flowsheet.reactions import TypedReaction
from wattaxis.quantities import Quantity

#: By it the page is told how far a question has come, and may stop it; of its own choice.
Token = Annotated[str, Field(max_length=40)]


class QuestionIn(Schema):
    """A question, told apart by its ``kind``; the core checks it. Residue curves may be drawn with the stages of a ``column``, by its tag."""

    question: dict[str, Any]
    column: str = Field(default="", max_length=24)
    token: Token = ""


class Asked(Schema):
    """A question without more words, by its token."""

    token: Token = ""


class Unwanted(Schema):
    """Questions that need no answer any more, by their tokens."""

    tokens: list[Token] = Field(max_length=8)


class AxisOut(Schema):
    """An axis of a diagram: title, kind of quantity (numbers are SI), whether logarithmic."""

    title: str
    kind: str
    log: bool


class CurveOut(Schema):
    """A line through points; None lifts the pen. ``role``: line, dashed or points; ``temperatures`` in K where no axis shows them."""

    name: str
    role: str
    points: list[list[float] | None]
    temperatures: list[float | None] = []


class MarkOut(Schema):
    """A point of interest; ``temperature`` in K where no axis shows it."""

    name: str
    place: list[float]
    text: str
    temperature: float | None


class DiagramOut(Schema):
    """A diagram over two axes, or in a composition triangle with three."""

    title: str
    axes: list[AxisOut]
    curves: list[CurveOut]
    marks: list[MarkOut]
    notes: list[str]


class DataMeant(Schema):
    """What a table of measured data is meant to be."""

    kind: str
    components: list[Annotated[str, Field(max_length=80)]] = Field(max_length=9)
    name: str


class DataFileOut(Schema):
    """Data sets read from a file, what was left out, and what looks like a slip."""

    data: list[Measured]
    left_out: list[str]
    doubts: list[str]


class DataCheckIn(Schema):
    """A data set before it is kept in the place of that ``name``; ``cells`` with a heading are pasted into it from the point ``first`` on."""

    name: str = Field(max_length=120)
    data: Measured
    cells: list[Annotated[list[Annotated[str, Field(max_length=200)]], Field(max_length=40)]] = Field(default=[], max_length=2001)
    first: int = Field(default=0, ge=0, le=2000)


class UnreadCell(Schema):
    """A cell of a data set that was pasted as something else than a number."""

    row: int
    column: int
    text: str


class DataCheckOut(Schema):
    """The data set, what was left out of what was pasted, and what looks like a slip."""

    data: Measured
    left_out: list[str]
    unread: list[UnreadCell]
    doubts: list[str]


class FitIn(Schema):
    """A fit that is asked for; the core checks it."""

    fit: dict[str, Any]
    token: Token = ""


class FittedPair(Schema):
    """All values of a pair after a fit."""

    first: str
    second: str
    values: dict[str, float]


class FittedVapourPressure(Schema):
    """Antoine's constants of a component, ln(P/Pa) = a - b/(T + c), and the range of the data (K)."""

    component: str
    a: float
    b: float
    c: float
    low: float
    high: float


class FittedNumber(Schema):
    """A number of a rate law in the unit in which it is typed; without a half-width where it ended at its bound."""

    value: float
    half_width: float | None
    unit: str


class FitOut(Schema):
    """What a fit says. Of rate laws: the reactions that it changed, the numbers as they are typed, the temperatures (K) at which constants hold."""

    values: list[float]
    half_widths: list[float]
    correlation: list[list[float]]
    sum_of_squares: float
    quality: Literal["measured fit", "estimated"]
    notes: list[str]
    temperatures: list[float]
    pairs: list[FittedPair]
    vapour_pressure: FittedVapourPressure | None = None
    akaike: float | None = None
    holds_at: list[float | None] = []
    shown: list[FittedNumber] = []
    reactions: list[TypedReaction] = []
    deviations: list[FitDeviation]
    diagrams: list[DiagramOut]


class DataColumn(Schema):
    """A column that data of a kind may have; a # in the key stands for every component but the last, a * for every one.

    ``shares``: the deviation is a share of the largest value.
    """

    key: str
    title: str
    kind: str
    deviation: float
    shares: bool
    needed: bool


class DataKindOut(Schema):
    """A kind of measured data."""

    key: str
    title: str
    #: Whether it is about one component.
    alone: bool
    #: Whether rates of reactions are fitted to it.
    reacting: bool
    #: Columns that a new set does without.
    rare: list[str]
    columns: list[DataColumn]


class ConstantOut(Schema):
    """A constant of a component with its source; SI value of a kind."""

    key: str
    title: str
    value: float
    kind: str
    source: str
    field: str


class TemperatureCurveOut(Schema):
    """A property over temperature: its source and range (K)."""

    name: str
    source: str
    low: float
    high: float
    estimated: bool
    #: Kind of its values; blank where one's own cannot take its place.
    kind: str = ""


class ComponentOut(Schema):
    """A component of the bank."""

    name: str
    cas: str
    formula: str
    #: Whether it is a conventional solid.
    solid: bool
    synonyms: list[str]
    constants: list[ConstantOut]
    curves: list[TemperatureCurveOut] = []
    #: What the comparison of the bank's sources found.
    doubts: list[str] = []


class NamesIn(Schema):
    """A list of names, formulas or CAS numbers."""

    names: list[str] = Field(max_length=200)


class FoundComponent(Schema):
    """What a name stands for in the bank."""

    asked: str
    name: str
    cas: str
    solid: bool


class MissingComponent(Schema):
    """A name that the bank does not have, with what comes nearest."""

    asked: str
    near: list[FoundComponent]


class FoundOut(Schema):
    """A list of names, resolved as far as the bank goes."""

    found: list[FoundComponent]
    missing: list[MissingComponent]


class CurvePoint(Schema):
    """A point of a distillation curve: per cent of the volume distilled, temperature."""

    share: float
    temperature: Quantity


class EstimateIn(Schema):
    """What is known of a component that the bank does not have."""

    way: Literal["groups", "boiling", "distillation"]
    id: str = Field(min_length=1, max_length=60)
    groups: dict[int, int] = Field(default={}, max_length=41)
    boiling_point: Quantity | None = None
    density: Quantity | None = None
    molar_mass: Quantity | None = None
    curve: list[CurvePoint] = Field(default=[], max_length=60)
    astm: bool = False
    cuts: int = 6


class EstimatedComponent(Schema):
    """An estimated component as the document keeps it; of a cut its share of the moles and its density (kg/m3) too."""

    id: str
    own: dict[str, Any]
    notes: list[str]
    mole_share: float | None = None
    density: float | None = None


class EstimatedComponents(Schema):
    """One estimated component, or the cuts of a curve."""

    components: list[EstimatedComponent]


class WatchedOut(Schema):
    """A result before and after a pair was moved; SI value of a kind."""

    name: str
    kind: str | None
    before: float
    after: float


class InfluenceOut(Schema):
    """What moving one doubtful pair does; ``share`` is its largest relative change."""

    first: str
    second: str
    quality: str
    moved: dict[str, float]
    results: list[WatchedOut]
    problem: str
    share: float


class InfluencesOut(Schema):
    """All doubtful pairs, those that matter most first."""

    influences: list[InfluenceOut]


class AssumptionInfluenceOut(Schema):
    """What moving one assumed value does; ``share`` is its largest relative change."""

    place: str
    field: str
    moved: Quantity
    results: list[WatchedOut]
    problem: str
    share: float


class AssumptionInfluencesOut(Schema):
    """All assumed values of units, those that matter most first."""

    influences: list[AssumptionInfluenceOut]


class GeneratedIn(Schema):
    """Which model gives boiling points of which components, at which level; the core checks it."""

    generated: dict[str, Any]
    token: Token = ""


class GeneratedOut(Schema):
    """The data set that came of it."""

    data: Measured
