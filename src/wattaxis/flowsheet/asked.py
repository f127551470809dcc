"""What is asked of a plant beside its givens: pins, aims and studies, as parts of its document."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import AfterValidator, Field, field_validator

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


#: How the cases of a study are chosen: all combinations, each input alone, or samples that fill the space between the bounds.
Design = Literal["grid", "one at a time", "samples"]


class StudyInput(Freed):
    """A given that a study varies: ``points`` from ``low`` to ``high``, or ``values`` in their place."""

    low: Quantity | None = None
    high: Quantity | None = None
    points: int = Field(default=11, ge=2, le=1001)
    spacing: Literal["even", "logarithmic"] = "even"
    values: tuple[Quantity, ...] = Field(default=(), max_length=1001)


class Study(Part):
    """A sensitivity study: what is varied and how, and the formulas over results that are looked at. ``samples``: how many of them are taken."""

    name: str = Field(min_length=1, max_length=60)
    design: Design = "grid"
    inputs: tuple[StudyInput, ...] = Field(default=(), max_length=4)
    samples: int = Field(default=100, ge=2, le=10_000)
    outputs: Annotated[tuple[Pin, ...], AfterValidator(one_a_name)] = Field(default=(), max_length=40)
