"""Data that a property model gives in the place of a measurement, branded as such for good."""

from __future__ import annotations

from typing import Any

import numpy as np
from pydantic import BaseModel, ConfigDict, Field, ValidationError, model_validator

from wattaxis.flowsheet.chemistry import Chemistry, Id, ModelName
from wattaxis.flowsheet.data import Measured, MeasuredColumn, Name
from wattaxis.flowsheet.diagram_questions import QuestionError
from wattaxis.flowsheet.model import property_model
from wattaxis.properties import FlashError
from wattaxis.properties.registry import model_infos
from wattaxis.quantities import Quantity, QuantityError, to_si

#: Liquid fractions at the ends of a generated set: at the pure components there is nothing to learn.
_FIRST, _LAST = 0.02, 0.98


class GeneratedQuestion(BaseModel):
    """Boiling points of two components by a model, at a temperature or a pressure, evenly over the liquid."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    name: Name
    model: ModelName
    first: Id
    second: Id
    temperature: Quantity | None = None
    pressure: Quantity | None = None
    points: int = Field(default=13, ge=3, le=100)

    @model_validator(mode="after")
    def _one_level(self) -> GeneratedQuestion:
        if (self.temperature is None) == (self.pressure is None):
            raise ValueError("give the temperature or the pressure, one of them")
        return self


def generated_question_from_json(data: Any) -> GeneratedQuestion:
    """Check plain data. Raises QuestionError."""
    try:
        return GeneratedQuestion.model_validate(data)
    except ValidationError as error:
        first = error.errors()[0]
        raise QuestionError(
            f"{'.'.join(str(part) for part in first['loc'])}: {first['msg'].removeprefix('Value error, ')}.".removeprefix(": ")
        ) from error


def generate(chemistry: Chemistry, question: GeneratedQuestion) -> Measured:
    """The set, with the model that made it; where two liquids boil together a point is left out. Raises QuestionError in words for people."""
    kept = tuple(c for c in chemistry.components if c.id in (question.first, question.second))
    if len(kept) != 2:
        raise QuestionError("Choose two different components of the chemistry.")
    try:
        model = property_model(chemistry.model_copy(update={"components": kept, "model": question.model}))
        level = (
            {"T": to_si(question.temperature, "temperature")}
            if question.temperature
            else {"P": to_si(question.pressure or Quantity(value=0.0), "pressure")}
        )
        rows = [row for x in np.linspace(_FIRST, _LAST, question.points) if (row := _row(model, float(x), level, question.first)) is not None]
    except (QuantityError, ValueError, KeyError, FlashError) as error:
        raise QuestionError(str(error.args[0]) if error.args else str(error)) from error
    if len(rows) < 2:
        raise QuestionError("Nearly everywhere two liquids boil together: there is nothing to fit to.")
    columns = tuple(MeasuredColumn(key=key, unit=unit) for key, unit in (("T", "K"), ("P", "Pa"), ("x1", ""), ("y1", "")))
    title = model_infos()[question.model].title
    source = f"calculated with {title}, not measured"
    return Measured(
        name=question.name, kind="vapour-liquid", components=(question.first, question.second), columns=columns, rows=tuple(rows), source=source,
        measured=False, generated_by=question.model,
    )  # fmt: skip


def _row(model: Any, x: float, level: dict[str, float], first: str) -> tuple[float, float, float, float] | None:
    at = model.index(first)
    z = np.where(np.arange(2) == at, x, 1.0 - x)
    state = model.flash(z, VF=0.0, **level)
    if state.second_fraction > 0.0:
        return None
    return tuple(float(f"{v:.8g}") for v in (state.temperature, state.pressure, x, state.vapour_fractions[at]))  # type: ignore[return-value]
