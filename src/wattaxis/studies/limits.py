"""Limits on results in SI, and those that no plant can keep."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import combinations

from wattaxis.flowsheet import Limit
from wattaxis.flowsheet.formula import parse_formula
from wattaxis.quantities import KINDS, QuantityError, from_si
from wattaxis.solving.aims import in_si
from wattaxis.studies.cases import StudyError
from wattaxis.studies.stand import StudyColumn

#: What of a limit may be left where it counts as kept, relative.
MISSED = 1e-6


@dataclass(frozen=True)
class End:
    """A limit in SI: the number of its output, its ends (infinite where there is none), and whether it is set aside."""

    output: int
    low: float
    high: float
    aside: bool

    def keeps(self, value: float | None) -> bool:
        """Whether a value keeps to it, but for what rounding may leave."""
        finite = [abs(end) for end in (self.low, self.high) if math.isfinite(end)]
        span = MISSED * max(finite) or MISSED
        return value is not None and self.low - span <= value <= self.high + span


def ends_of(limits: Sequence[Limit], columns: Sequence[StudyColumn], first: int) -> list[End]:
    """The limits in SI; their outputs stand in ``columns`` from the number ``first`` on. Raises StudyError for what nothing can keep."""
    ends = [_end(limit, first + k, columns[first + k]) for k, limit in enumerate(limits)]
    _refuse_pairs(limits, ends, columns)
    return ends


def told(column: StudyColumn, value: float) -> str:
    """A value in the first unit of its kind."""
    if column.kind is None:
        return f"{value:.5g} {column.si}".rstrip()
    kind = KINDS[column.kind]
    return f"{from_si(value, kind.units[0], difference=kind.difference):.5g} {kind.units[0]}".rstrip()


def wanted(column: StudyColumn, end: End) -> str:
    """What a limit wants, in words."""
    if end.low == end.high:
        return f"{told(column, end.low)} wanted"
    parts = [f"at least {told(column, end.low)}"] if math.isfinite(end.low) else []
    parts += [f"at most {told(column, end.high)}"] if math.isfinite(end.high) else []
    return " and ".join(parts) + " wanted"


def _end(limit: Limit, output: int, column: StudyColumn) -> End:
    if limit.low is None and limit.high is None:
        raise StudyError(f"The limit {limit.name} has no end: give the least or the most that it may be.")
    try:
        low, high = (None if q is None else in_si(q, column.kind) for q in (limit.low, limit.high))
    except QuantityError as error:
        raise StudyError(f"The limit {limit.name}: {error}") from error
    if low is not None and high is not None and low > high:
        raise StudyError(f"The limit {limit.name} asks for at least {told(column, low)} and at most {told(column, high)}, which nothing can be.")
    return End(output, -math.inf if low is None else low, math.inf if high is None else high, limit.aside)


def _refuse_pairs(limits: Sequence[Limit], ends: Sequence[End], columns: Sequence[StudyColumn]) -> None:
    """Two limits on the same formula of which no value keeps both."""
    for (one, a), (other, b) in combinations(zip(limits, ends, strict=True), 2):
        if a.aside or b.aside or parse_formula(one.formula) != parse_formula(other.formula):
            continue
        if max(a.low, b.low) > min(a.high, b.high):
            texts = [wanted(columns[end.output], end) for end in (a, b)]
            raise StudyError(f"The limits {one.name} ({texts[0]}) and {other.name} ({texts[1]}) contradict each other. Set one of them aside.")
