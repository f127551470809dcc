"""What is asked of a plant beside its givens: pins, aims and studies, as parts of its document."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import AfterValidator, Discriminator, Field, field_validator
from pydantic import Tag as Variety

from wattaxis.flowsheet.chemistry import Part, one_a_name
from wattaxis.flowsheet.formula import LONGEST, FormulaError, parse_formula
from wattaxis.quantities import Quantity

Tag = Annotated[str, Field(min_length=1, max_length=24, pattern=r"^[A-Za-z0-9][A-Za-z0-9 ._/-]*$")]


class Pin(Part):
    """A value kept in sight: a formula over results under a name."""

    name: str = Field(min_length=1, max_length=60)
    formula: str = Field(min_length=1, max_length=LONGEST)

    @field_validator("formula")
    @classmethod
    def _readable(cls, text: str) -> str:
        try:
            parse_formula(text)
        except FormulaError as error:
            raise ValueError(str(error)) from error
        return text


class Freed(Part):
    """A given that an aim may change: a unit and the path of one of its values. What was typed there is where the search starts."""

    unit: Tag
    field: str = Field(max_length=120)


class Aim(Pin):
    """A target for a calculated value, met by changing one given: a formula over results, its target as typed, what is freed and within which bounds.

    An aim that is not ``active`` is paused: the given keeps what was typed.
    """

    target: Quantity
    free: Freed
    low: Quantity | None = None
    high: Quantity | None = None
    active: bool = True


#: How the cases of a study are chosen: all combinations, each input alone, samples that fill the space between the bounds, or pairs of samples that
#: share values of one input each, which tell the indices of Sobol.
Design = Literal["grid", "one at a time", "samples", "Sobol"]


class _Varied(Part):
    """Values that a study takes: ``points`` from ``low`` to ``high``, or ``values`` in their place.

    In a search for the best, it is looked for between the bounds. What is uncertain is distributed: evenly or as a triangle over the typed value
    between the bounds, or normally with 95 % of the values between them; by the logarithm where the spacing is logarithmic.
    """

    low: Quantity | None = None
    high: Quantity | None = None
    points: int = Field(default=11, ge=2, le=1001)
    spacing: Literal["even", "logarithmic"] = "even"
    values: tuple[Quantity, ...] = Field(default=(), max_length=1001)
    spread: Literal["even", "triangular", "normal"] = "even"


class StudyInput(_Varied, Freed):
    """A given that a study varies."""


class StudyParameter(_Varied):
    """A number of the chemistry that a study varies.

    Of a "pair" ``name`` is a parameter of the property model ``model`` and ``first`` and ``second`` are components; of a "component", ``first``, it
    is one of its constants. Of a "rate" ``first`` is a set and ``second`` a reaction: "k" is a constant of its law, "k.energy" the activation energy
    of one, "order[water]" an order, each with "backward." before it where it is of the law backward. Numbers without a kind of quantity are plain,
    in the unit that their model or law has.
    """

    of: Literal["pair", "component", "rate"]
    first: str = Field(max_length=80)
    second: str = Field(default="", max_length=80)
    name: str = Field(min_length=1, max_length=120)
    model: str = Field(default="", max_length=40)


class StudyFit(Part):
    """All numbers that a kept fit found, normally distributed about what it found, as wide and as correlated as its data leave them."""

    fit: str = Field(min_length=1, max_length=60)


def _variety(item: Any) -> str:
    """What an item of a study varies, so that what is wrong with it is told of that alone."""
    has = item.__contains__ if isinstance(item, dict) else lambda name: hasattr(item, name)
    return "fit" if has("fit") else "parameter" if has("of") else "given"


Varied = Annotated[
    Annotated[StudyInput, Variety("given")] | Annotated[StudyParameter, Variety("parameter")] | Annotated[StudyFit, Variety("fit")],
    Discriminator(_variety),
]


class Objective(Pin):
    """What is to be as small or as large as it can be: a formula over results."""

    sense: Literal["least", "most"] = "least"


class Limit(Pin):
    """What a result must keep to: at least ``low``, at most ``high``, or exactly where both are the same. ``aside``: it is not heeded for now."""

    low: Quantity | None = None
    high: Quantity | None = None
    aside: bool = False


class Study(Part):
    """A question to the plant: how results move with values (``cases``), where an objective is best (``optimum``), or how far results are uncertain.

    What is varied, how the cases are chosen, and formulas over results that are looked at. ``samples``: how many of them are taken. A search for the
    best has one objective, or two for the trade-off between them at so many ``tradeoffs``, keeps to ``limits`` and begins at so many ``starts``.
    """

    name: str = Field(min_length=1, max_length=60)
    asks: Literal["cases", "optimum", "uncertainty"] = "cases"
    design: Design = "grid"
    inputs: tuple[Varied, ...] = Field(default=(), max_length=10)
    samples: int = Field(default=100, ge=2, le=10_000)
    outputs: Annotated[tuple[Pin, ...], AfterValidator(one_a_name)] = Field(default=(), max_length=40)
    objectives: Annotated[tuple[Objective, ...], AfterValidator(one_a_name)] = Field(default=(), max_length=2)
    limits: Annotated[tuple[Limit, ...], AfterValidator(one_a_name)] = Field(default=(), max_length=20)
    starts: int = Field(default=1, ge=1, le=20)
    tradeoffs: int = Field(default=11, ge=3, le=51)
