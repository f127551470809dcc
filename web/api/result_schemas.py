"""Results over the wire: what a calculation says, in the shapes of the core; the profiles of a unit apart, since only its own page shows them."""

from __future__ import annotations

from typing import Literal

from ninja import Schema
from pydantic import ConfigDict, Field

from wattaxis.questions import ColumnQuestion, ConditionsQuestion
from wattaxis.solving.results import AimResult, Assumption, Balance, EnergyResult, LoopResult, Mark, PinResult, StreamResult, UnitState
from wattaxis.unitops import Ask, Finding, Profile, ResultValue


class UnitStateOut(Schema):
    """State mark, calculated values and basis note of a unit, and the keys of its profiles."""

    tag: str
    mark: Mark
    values: list[ResultValue] = []
    basis: str = ""
    profiles: list[str] = []
    energy_in: float = 0.0


class ResultOut(Schema):
    """What a calculation says; SI units."""

    complete: bool
    streams: dict[str, StreamResult]
    units: dict[str, UnitStateOut]
    asks: list[Ask]
    findings: list[Finding]
    assumptions: list[Assumption]
    balance: Balance
    model: str
    pins: list[PinResult] = []
    loops: list[LoopResult] = []
    aims: list[AimResult] = []
    energies: dict[str, EnergyResult] = {}


class WholeResult(ResultOut):
    """The same with the profiles in it, for what is made of a result on the server."""

    units: dict[str, UnitState]  # type: ignore[assignment]


class ProfilesOut(Schema):
    """The tables of results of a unit and the revision they belong to; SI."""

    revision: int
    profiles: list[Profile]


class AnswerOut(Schema):
    """The newest answer of the solver and the revision it belongs to."""

    kind: Literal["result", "stopped", "failed"]
    revision: int
    seconds: float = 0
    text: str = ""
    result: ResultOut | None = None


class ConditionsIn(ConditionsQuestion):
    """The question with the token by which the page knows it."""

    model_config = ConfigDict(extra="ignore")

    token: str = Field(default="", max_length=40)


class CaseOut(Schema):
    """A unit under one of the conditions, counted from 0: what it calculates, SI, or the problem that it has."""

    unit: str
    condition: int
    values: list[ResultValue]
    profiles: list[Profile]
    problem: str


class CasesOut(Schema):
    """What was asked for, unit by unit."""

    cases: list[CaseOut]


class ColumnIn(ColumnQuestion):
    """The question with the token by which the page knows it."""

    model_config = ConfigDict(extra="ignore")

    token: str = Field(default="", max_length=40)


class ColumnSpecificationOut(Schema):
    """One thing that specifies a column or could: in words, wanted and found in SI, whether it is met, and the edits that take it in or out."""

    text: str
    kind: str
    active: bool
    wanted: float | None
    now: float | None
    met: bool | None
    field: str
    take_in: dict[str, object] | None
    take_out: dict[str, object]


class ColumnSpecificationsOut(Schema):
    """All of them, and how many a column takes."""

    taken: int
    all: list[ColumnSpecificationOut]


class ColumnStudyOut(Schema):
    """What a column takes with a feed elsewhere, or with other numbers of stages: in words, as a profile, and the edit that makes it the best."""

    unit: str
    stream: str
    now: int
    best: int | None
    fewest: int | None
    text: str
    edit: dict[str, object] | None
    profile: Profile | None
