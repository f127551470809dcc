"""Studies over the wire."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from ninja import Schema
from pydantic import Field

from wattaxis.quantities import Quantity
from wattaxis.studies import Case, Effect, Optimum, Spread, StudyColumn


class StudyAsked(Schema):
    """A study of the newest revision, by its name."""

    name: str = Field(max_length=60)


class StateIn(Schema):
    """What a study is to be."""

    state: Literal["running", "paused", "stopped"]


class CaseIn(Schema):
    """A case by its number, from 0."""

    case: int = Field(ge=0, le=10_000)


class StudyResultOut(Schema):
    """Inputs and outputs as columns, the cases, and what was found from them; SI."""

    name: str
    inputs: list[StudyColumn]
    outputs: list[StudyColumn]
    cases: list[Case]
    optimum: Optimum | None = None
    spread: list[Spread | None] = []
    remarks: list[str] = []


class StudyAnswerHead(Schema):
    """When and of what an answer was asked, and how far it has come; ``current``: whether the plant and the question are what they were.

    ``planned``: cases in all, where that is known before; ``cases``: those that are calculated; ``text``: why it failed.
    """

    id: int
    name: str
    revision: int
    current: bool
    state: Literal["running", "paused", "stopped", "failed", "done"]
    text: str
    planned: int | None
    cases: int
    failed: int
    seconds: float
    author: str
    created: datetime


class StudyAnswerOut(StudyAnswerHead):
    """The same with its cases."""

    result: StudyResultOut


class EffectsAsked(Schema):
    """A formula over results, and the units whose values are moved; none: all."""

    formula: str = Field(max_length=300)
    units: list[Annotated[str, Field(max_length=24)]] = Field(default=[], max_length=2000)
    token: Annotated[str, Field(max_length=40)] = ""


class LocalEffectsOut(Schema):
    """A result and what moves it, the largest effect first; SI."""

    formula: str
    kind: str | None
    si: str
    value: float
    effects: list[Effect]


class FormulasIn(Schema):
    """Formulas over results."""

    formulas: list[Annotated[str, Field(max_length=300)]] = Field(max_length=70)


class FormulaOut(Schema):
    """A formula, what it comes to in SI, and the kind of that where one fits; or why it has no value."""

    formula: str
    value: float | None = None
    kind: str | None = None
    si: str = ""
    problem: str = ""


class ParameterOut(Schema):
    """A number of the chemistry that a study may vary: where it stands, what it is of, title, kind of quantity and what it is now."""

    of: Literal["pair", "component", "rate"]
    first: str
    second: str
    name: str
    model: str
    heading: str
    title: str
    kind: str
    typed: Quantity


class GivenOut(Schema):
    """A value that is typed: its unit and path, title, kind of quantity and what is typed."""

    unit: str
    field: str
    title: str
    kind: str
    typed: Quantity
