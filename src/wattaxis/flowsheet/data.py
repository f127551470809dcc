"""Measured data and fits as the document keeps them: numbers in the units in which they were brought."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Field, field_validator, model_validator

from wattaxis.properties.registry import model_infos
from wattaxis.quantities import Quantity, QuantityError, to_si
from wattaxis.quantities.quantity import linear

if TYPE_CHECKING:
    from wattaxis.properties.fitting import DataSet

Id = Annotated[str, Field(min_length=1, max_length=80)]
Name = Annotated[str, Field(min_length=1, max_length=60)]
Finite = Annotated[float, Field(allow_inf_nan=False)]
Objective = Literal["least squares", "least squares of temperature", "maximum likelihood"]
MOST_POINTS = 500


class _Part(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


class MeasuredColumn(_Part):
    """A column: which quantity, the unit of its numbers, and their standard deviation in that unit where it is known."""

    key: str = Field(max_length=8)
    unit: str = Field(default="", max_length=20)
    deviation: float | None = Field(default=None, gt=0, allow_inf_nan=False)


class Measured(_Part):
    """A data set; one that was ``generated_by`` a property model is never measured.

    ``rows`` hold one number a column, or None for a blank cell; ``set_aside`` gives reasons by row, ``weights`` what a point counts beside the
    others, where that is not one.
    """

    name: Name
    kind: str = Field(max_length=40)
    components: tuple[Id, ...] = Field(min_length=1, max_length=9)
    columns: tuple[MeasuredColumn, ...] = Field(min_length=1, max_length=40)
    rows: tuple[tuple[Finite | None, ...], ...] = Field(default=(), max_length=MOST_POINTS)
    set_aside: dict[int, Annotated[str, Field(max_length=120)]] = {}
    weights: dict[int, Annotated[float, Field(gt=0, le=1e6, allow_inf_nan=False)]] = {}
    source: str = Field(default="", max_length=200)
    measured: bool = True
    generated_by: str | None = Field(default=None, max_length=40)

    @model_validator(mode="after")
    def _honest(self) -> Measured:
        if self.generated_by is not None and self.measured:
            raise ValueError(f"{self.name}: values calculated by a property model were not measured")
        return self

    @model_validator(mode="after")
    def _readable(self) -> Measured:
        width = len(self.columns)
        for number, row in enumerate(self.rows, 1):
            if len(row) != width:
                raise ValueError(f"{self.name}: row {number} has {len(row)} cells for {width} columns")
        try:
            data_set(self)
        except (ValueError, QuantityError) as error:
            raise ValueError(f"{self.name}: {error}") from error
        return self


def data_set(part: Measured) -> DataSet:
    """The data set in SI units. Raises ValueError for what cannot be, QuantityError for a unit of another kind."""
    from wattaxis.properties.fitting import DATA_KINDS, DataSet, column_keys

    if part.kind not in DATA_KINDS:
        raise ValueError(f'there is no kind of data "{part.kind}"; there are {", ".join(DATA_KINDS)}')
    known = column_keys(part.kind, len(part.components))
    columns: dict[str, NDArray[np.float64]] = {}
    deviations: dict[str, float] = {}
    for k, column in enumerate(part.columns):
        if column.key not in known:
            raise ValueError(f'there is no column "{column.key}"; there are {", ".join(known)}')
        kind = known[column.key].kind
        factor, offset = _in_si(column.unit, kind)
        values = [row[k] for row in part.rows]
        columns[column.key] = np.array([np.nan if v is None else v * factor + offset for v in values], dtype=np.float64)
        if column.deviation is not None:
            deviations[column.key] = column.deviation * factor
    return DataSet(part.kind, part.components, columns, deviations, part.set_aside, part.name, part.source, part.measured, part.weights)


def _in_si(unit: str, kind: str) -> tuple[float, float]:
    """Factor and offset of a unit; raises QuantityError when it does not suit the kind."""
    to_si(Quantity(value=300.0 if kind == "temperature" else 0.5, unit=unit), kind)
    return linear(unit)


#: In the place of a property model: what is fitted is the vapour pressure of a component, its constants A, B and C.
VAPOUR_PRESSURE = "vapour-pressure"
#: The same where numbers of rate laws are fitted.
RATE_LAWS = "rate-laws"


class FreePart(_Part):
    """A parameter that a fit frees; of a vapour pressure both components are the same."""

    first: Id
    second: Id
    name: str = Field(max_length=20)
    start: Finite = 0.0
    low: Finite | None = None
    high: Finite | None = None


class FreeRatePart(_Part):
    """A number of a rate law that a fit frees: a constant ("k", "K1", ... or by its name), its energy, or the order of a component.

    ``holds_at``: the temperature (K) of a constant that a kept fit tells.
    """

    reaction: Name
    part: Literal["constant", "energy", "order"] = "constant"
    constant: str = Field(default="k", max_length=20)
    component: str = Field(default="", max_length=80)
    backward: bool = False
    holds_at: Finite | None = None


class FitDeviation(_Part):
    """Mean and largest deviation of a column, SI; ``relative`` is the mean of what the points are off as a share of what was measured."""

    data: Name
    column: str = Field(max_length=12)
    mean: Finite
    largest: Finite
    relative: Finite | None = None


class KeptFit(_Part):
    """A fit that was kept: what was asked, what came out, who made it when. Of rate laws ``reactions`` names the set; values are in SI units.

    ``half_widths`` are those of intervals that hold a value with a probability of 95 %, 0 where the data do not tell; ``correlation`` is that of the
    values, empty where it was not kept.
    """

    name: Name
    model: str = Field(max_length=40)
    reactions: str = Field(default="", max_length=60)
    data: tuple[Name, ...] = Field(max_length=20)
    free: tuple[FreePart | FreeRatePart, ...] = Field(max_length=40)
    objective: Objective = "least squares"
    values: tuple[Finite, ...] = Field(max_length=40)
    half_widths: tuple[Finite, ...] = Field(max_length=40)
    correlation: tuple[tuple[Finite, ...], ...] = Field(default=(), max_length=40)
    sum_of_squares: Finite
    deviations: tuple[FitDeviation, ...] = Field(default=(), max_length=100)
    quality: Literal["measured fit", "estimated"]
    remark: str = Field(default="", max_length=500)
    author: str = Field(default="", max_length=150)
    date: str = Field(default="", max_length=30)

    @field_validator("model")
    @classmethod
    def _known_model(cls, name: str) -> str:
        if name not in model_infos() and name not in (VAPOUR_PRESSURE, RATE_LAWS):
            raise ValueError(f"there is no property model {name!r}; there are {', '.join(model_infos())}")
        return name

    @model_validator(mode="after")
    def _one_value_each(self) -> KeptFit:
        if not len(self.free) == len(self.values) == len(self.half_widths):
            raise ValueError("a fit has one value and one half-width for each free parameter")
        if self.correlation and {len(self.free)} != {len(self.correlation), *map(len, self.correlation)}:
            raise ValueError("the correlation of a fit has a row and a column for each free parameter")
        return self
