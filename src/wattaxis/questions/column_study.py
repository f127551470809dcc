"""A column of a calculated plant with a feed on other stages, or with other numbers of stages: what each would take in heat and reflux."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from copy import deepcopy
from dataclasses import asdict, dataclass
from typing import TYPE_CHECKING, Any

from pydantic import BaseModel, ConfigDict, Field

from wattaxis.flowsheet.document import Document
from wattaxis.quantities import to_si
from wattaxis.questions.conditions import Apart, Calculated, Condition, around, calculate_apart, small_plant, with_found
from wattaxis.unitops.columns.names import moved, places_in
from wattaxis.unitops.profile import Profile, column

if TYPE_CHECKING:
    from wattaxis.flowsheet import Unit
    from wattaxis.unitops.table import GivenRow

COLUMN = "staged-column"
#: Columns that are tried at most; how many times the stages, and how many of them at least.
MOST, FROM, TO, LEAST = 24, 0.4, 2.0, 3
#: Share by which a heat has to be larger than the least one to be worse.
_SAME = 1e-6


class ColumnQuestion(BaseModel):
    """A column by its tag, and the feed of which other stages are tried; blank: other numbers of stages, what is on them at the same height."""

    model_config = ConfigDict(extra="forbid")

    unit: str = Field(max_length=24)
    stream: str = Field(default="", max_length=24)


@dataclass(frozen=True)
class ColumnTry:
    """A column with the feed on stage ``number``, or with so many stages: heat (W) of its reboiler, or taken in its condenser, and reflux ratio."""

    number: int
    heat: float | None
    reflux_ratio: float | None
    problem: str = ""


@dataclass(frozen=True)
class ColumnStudy:
    """All tries; ``now`` is what the column has, ``best`` the stage of the feed with the least heat, ``fewest`` the least number of stages that do.

    ``text`` says so in words, ``edit`` puts the feed there, where it is elsewhere, and ``profile`` holds heat and reflux over what was tried.
    """

    unit: str
    stream: str
    now: int
    tries: tuple[ColumnTry, ...]
    best: int | None
    fewest: int | None
    text: str
    edit: Mapping[str, Any] | None
    profile: Profile | None

    def to_data(self) -> dict[str, Any]:
        """Plain data for JSON."""
        return asdict(self)


def study_column(document: Document, result: Calculated, question: ColumnQuestion) -> ColumnStudy:
    """Calculate a column alone with a feed on other stages, or with other numbers of stages.

    Raises ValueError where there is no such column or feed, or what comes in is not calculated.
    """
    apart = set_columns_apart(document, result, question)
    cases = [(case.condition, {v.key: v.value for v in case.values if not v.component}, case.problem) for case in calculate_apart(apart)]
    return column_study_of(document, question, cases)


def set_columns_apart(document: Document, result: Calculated, question: ColumnQuestion) -> Apart:
    """The columns that are tried, with feeds and supplies for all that comes in. Raises as :func:`study_column`."""
    unit = column_of(document, question.unit)
    stages, fed = _whole(unit.spec.stages, "number of stages"), _stages_of(document, unit)  # type: ignore[attr-defined]
    if question.stream and question.stream not in fed:
        raise ValueError(f"No stream {question.stream} is fed to {unit.tag}.")
    kept = with_found(unit, document, result).model_dump(mode="json", exclude_none=True)
    units, streams, places = list[dict[str, Any]](), list[dict[str, Any]](), list[tuple[str, str, int]]()
    for number in _numbers(unit, stages, fed.get(question.stream, stages), question):
        name = f"U{len(places) + 1}"
        places.append((name, unit.tag, number))
        total, at = (stages, fed | {question.stream: number}) if question.stream else (number, {t: moved(k, stages, number) for t, k in fed.items()})
        rows = list[dict[str, Any]]()
        for added, stream, known in around(document, result, unit, name, Condition()):
            units.append(added)
            streams.append(stream)
            if known in at:
                rows.append(
                    {"id": f"r{len(rows) + 1}", "cells": {"stream": stream["tag"], "stage": {"value": at[known], "unit": ""}} | _enters(unit, known)}
                )
        spec = _scaled(unit, deepcopy(kept["spec"]), stages, total) | {"stages": {"value": total, "unit": ""}, "feeds": {"rows": rows}}
        units.append({**kept, "tag": name, "spec": spec})
    return Apart(small_plant(document, units, streams), tuple(places))


def column_study_of(document: Document, question: ColumnQuestion, cases: Sequence[tuple[int, Mapping[str, float], str]]) -> ColumnStudy:
    """What the tries say, each with its number, its values by key (SI), and its problem."""
    unit = column_of(document, question.unit)
    fed = _stages_of(document, unit)
    now = fed.get(question.stream, _whole(unit.spec.stages, "number of stages"))  # type: ignore[attr-defined]
    tries = []
    for number, values, problem in cases:
        heat = values.get("reboiler_duty", -values["condenser_duty"] if "condenser_duty" in values else None)
        tries.append(ColumnTry(number, heat, values.get("reflux_ratio"), problem))
    heated = [t for t in tries if t.heat is not None]
    best = _best(heated, now) if question.stream else None
    fewest = None if question.stream else min((t.number for t in tries if not t.problem), default=None)
    edit = _edit(unit, question.stream, best) if best is not None and best != now else None
    text = _said(unit.tag, question.stream, now, tries, best, fewest)
    return ColumnStudy(unit.tag, question.stream, now, tuple(tries), best, fewest, text, edit, _profile(question.stream, tries))


def _said(tag: str, stream: str, now: int, tries: Sequence[ColumnTry], best: int | None, fewest: int | None) -> str:
    heat = {t.number: t.heat for t in tries if t.heat is not None}
    if stream and best is not None:
        if best == now:
            return f"{stream} comes in where {tag} takes least heat, on stage {now}."
        now_too = f" instead of {heat[now] / 1e3:.5g} kW on stage {now}" if now in heat else ""
        return f"With {stream} on stage {best} {tag} takes {heat[best] / 1e3:.5g} kW{now_too}."
    if not stream and fewest is not None:
        missed = [t.number for t in tries if t.problem and t.number < fewest]
        least = f"With {missed[-1]} stages its specifications are not met, with {fewest} they are." if missed else ""
        return least or f"{fewest} stages, the fewest that were tried, do."
    problem = next((t.problem for t in tries if t.problem), "")
    return f"Nothing that was tried has a state with heat or reflux. {problem}".strip()


def _profile(stream: str, tries: Sequence[ColumnTry]) -> Profile | None:
    """Heat and reflux over what was tried; None where there is neither."""
    done = [t for t in tries if not t.problem]
    if len(done) < 2:
        return None
    along = column("number", f"Stage of {stream}" if stream else "Stages", "ordinal", [float(t.number) for t in done])
    found = [("reflux_ratio", "Reflux ratio", "number"), ("heat", "Heat", "power")]
    columns = [column(key, title, kind, [getattr(t, key) for t in done]) for key, title, kind in found]
    told = tuple(c for c in columns if any(v is not None for v in c.values))
    return Profile("tries", "Tried", along, told) if told else None


def _best(heated: Sequence[ColumnTry], now: int) -> int | None:
    """The number with the least heat; what there is, where that is as good."""
    if not heated:
        return None
    least = min(t.heat for t in heated if t.heat is not None)
    good = [t.number for t in heated if t.heat is not None and t.heat <= least + _SAME * abs(least)]
    return now if now in good else good[0]


def _edit(unit: Unit, stream: str, stage: int) -> dict[str, Any]:
    """The edit that puts a feed on a stage."""
    quantity = {"value": float(stage), "unit": ""}
    row, table = _row_of(unit, stream), unit.spec.feeds  # type: ignore[attr-defined]
    if row is not None:
        return {"kind": "set_values", "unit": unit.tag, "values": {f"feeds[{row.id}].stage": quantity}}
    row_id = "1" if table is None else table.free_id()
    return {"kind": "set_row", "unit": unit.tag, "field": "feeds", "row": row_id, "cells": {"stream": stream, "stage": quantity}}


def column_of(document: Document, tag: str) -> Unit:
    """The column with a tag. Raises ValueError where there is none."""
    unit = document.unit(tag)
    if unit is None or unit.type != COLUMN:
        raise ValueError(f"There is no column {tag}.")
    return unit


def _whole(given: Any, what: str) -> int:
    if given is None or to_si(given, "ordinal") != round(to_si(given, "ordinal")):
        raise ValueError(f"The {what} is not given as a whole number.")
    return round(to_si(given, "ordinal"))


def _stages_of(document: Document, unit: Unit) -> dict[str, int]:
    """The stage of every feed by its tag; half-way where none is given."""
    stages = _whole(unit.spec.stages, "number of stages")  # type: ignore[attr-defined]
    found = dict[str, int]()
    for tag in (s.tag for s in document.streams if s.target.unit == unit.tag and s.target.port == "inlet"):
        row = _row_of(unit, tag)
        given = None if row is None else row.cells.get("stage")
        found[tag] = (stages + 1) // 2 if given is None else _whole(given, f"stage of {tag}")
    return found


def _row_of(unit: Unit, stream: str) -> GivenRow | None:
    """The row of a feed, None where it has none."""
    table = unit.spec.feeds  # type: ignore[attr-defined]
    return next((row for row in (table.rows if table is not None else ()) if row.cells.get("stream") == stream), None)


def _enters(unit: Unit, stream: str) -> dict[str, Any]:
    row = _row_of(unit, stream)
    return {"enters": row.cells["enters"]} if row is not None and "enters" in row.cells else {}


def _numbers(unit: Unit, stages: int, now: int, question: ColumnQuestion) -> list[int]:
    """What is tried: every stage, or some of them, between condenser and reboiler; or numbers of stages about that which there is."""
    if question.stream:
        first = 1 if getattr(unit.spec, "condenser", None) == "none" else 2
        last = stages if getattr(unit.spec, "reboiler", None) == "none" else stages - 1
        low, high = first, max(last, first)
    else:
        low, high = max(LEAST, round(FROM * stages)), min(200, max(round(TO * stages), LEAST + 1))
    step = -(-(high - low + 1) // MOST)
    return sorted({*range(low, high + 1, step), *([now] if low <= now <= high else [])})


def _scaled(unit: Unit, spec: dict[str, Any], before: int, after: int) -> dict[str, Any]:
    """The givens with all that stands on stages at the same height of another number of them."""
    if before == after:
        return spec
    for key, columns in ((item.key, item.columns) for item in unit.operation.fields if item.columns):
        for row in spec.get(key, {}).get("rows", ()):
            for cell in (row["cells"][place] for place in places_in(columns) if place in row["cells"]):
                cell["value"] = float(moved(round(cell["value"]), before, after))
    return spec
