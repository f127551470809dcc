"""What a study answers: its cases, and what was found from them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict, dataclass, field
from typing import Any

from pydantic import TypeAdapter

from wattaxis.studies.stand import Case, StudyColumn


@dataclass(frozen=True)
class LimitState:
    """A limit of a search for the best: the number of its output, its ends in SI, whether it is set aside, and whether the best point keeps to it."""

    output: int
    low: float | None
    high: float | None
    aside: bool
    kept: bool


@dataclass(frozen=True)
class Binding:
    """What keeps the objective from being better: a limit or the bound of an input by its name, at which side, and where that end is (SI).

    ``price``: by how much the objective changes when that end is raised by one SI unit. ``kind`` and ``si`` are those of the end.
    """

    of: str
    name: str
    side: str
    end: float
    kind: str | None
    si: str
    price: float


@dataclass(frozen=True)
class Optimum:
    """Where an objective is best. All points are cases by their numbers.

    ``senses``: of the first outputs, which are the objectives. ``start`` and ``best`` (None where no point keeps to all limits), the ``path`` of
    the search, ``around``: for each input cases beside the best one, and ``others``: where searches from other starts ended. Of two objectives
    ``front`` is the trade-off between them, and ``best`` the best of the first. ``missed`` are the points that miss a limit which counts.
    """

    senses: tuple[str, ...]
    limits: tuple[LimitState, ...]
    start: int
    best: int | None
    path: tuple[int, ...]
    around: tuple[tuple[int, ...], ...]
    others: tuple[int, ...]
    front: tuple[int, ...]
    binding: tuple[Binding, ...]
    method: str
    calculations: int
    missed: tuple[int, ...] = ()


@dataclass(frozen=True)
class Share:
    """How much of the variance of an output comes from an input: by itself (``first``) and with all that it does together with others (``total``).

    Indices of Sobol (2001), each with half of the interval that holds it with a probability of 95 %.
    """

    first: float
    first_doubt: float
    total: float
    total_doubt: float


@dataclass(frozen=True)
class Spread:
    """How an output is distributed over the cases that have a value; SI.

    ``quantiles`` are those at 2.5, 25, 50, 75 and 97.5 %; ``edges`` and ``counts`` a histogram. For each input ``ranks`` is the rank correlation
    (Spearman 1904), None where one of the two never moves; within ``noise`` it is nothing but chance, in 95 of 100. ``shares`` has the indices of
    Sobol for each input, where the samples tell them.
    """

    count: int
    mean: float
    deviation: float
    quantiles: tuple[float, ...]
    edges: tuple[float, ...]
    counts: tuple[int, ...]
    ranks: tuple[float | None, ...]
    noise: float
    shares: tuple[Share, ...] = ()


@dataclass
class StudyResult:
    """The answers to a study: its inputs and outputs as columns, and the cases in their order.

    A search for the best has its ``optimum``; of uncertain inputs there is the ``spread`` of each output, None where fewer than two cases have one.
    ``remarks`` are sentences.
    """

    name: str
    inputs: tuple[StudyColumn, ...]
    outputs: tuple[StudyColumn, ...]
    cases: list[Case] = field(default_factory=list)
    optimum: Optimum | None = None
    spread: tuple[Spread | None, ...] = ()
    remarks: tuple[str, ...] = ()

    def to_data(self) -> dict[str, Any]:
        """Plain data for JSON."""
        return asdict(self)

    @classmethod
    def from_data(cls, data: Mapping[str, Any]) -> StudyResult:
        """What :meth:`to_data` gave. Raises ValueError for anything else."""
        return TypeAdapter(cls).validate_python(data)
