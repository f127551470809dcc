"""How far a doubtful interaction parameter or an assumed value matters: the plant is calculated again with each of them moved."""

from __future__ import annotations

from dataclasses import asdict, dataclass
from typing import Any, TypeVar

from wattaxis.flowsheet import Document, pair_table
from wattaxis.flowsheet.edits import edit
from wattaxis.progress import reached
from wattaxis.properties.registry import model_infos
from wattaxis.quantities import KINDS, Quantity, from_si, to_si
from wattaxis.solving.doubts import DOUBTFUL
from wattaxis.solving.memory import Memory
from wattaxis.solving.results import SolveResult
from wattaxis.solving.sequential import solve

#: By how much a parameter is moved: about the scatter between estimates of different authors.
STEPS = {"kij": 0.02, "b": 50.0, "a": 0.1, "ha": 0.5}
MOST = 40
#: By how much an assumed value is moved, in the SI unit of its kind; other kinds by a tenth of themselves.
ASSUMED_STEPS = {
    "temperature": 5.0, "temperature_difference": 2.0, "pressure_difference": -1e4, "fraction": -0.05, "share": -0.05, "height": 5.0,
    "heat_transfer_coefficient": 5.0, "number": 1.0,
}  # fmt: skip


@dataclass(frozen=True)
class Watched:
    """A result before and after the pair was moved, SI, with its kind of quantity (None where no kind fits)."""

    name: str
    kind: str | None
    before: float
    after: float

    @property
    def share(self) -> float:
        """Change relative to the value before; temperatures count by 100 K, since their zero is far away."""
        size = 100.0 if self.kind == "temperature" else abs(self.before)
        return abs(self.after - self.before) / size if size else float(self.after != self.before)


@dataclass(frozen=True)
class Influence:
    """What moving one pair does: the pair, its quality, what was added to which parameter, and the results that are watched, most changed first."""

    first: str
    second: str
    quality: str
    moved: dict[str, float]
    results: tuple[Watched, ...]
    problem: str = ""

    def to_data(self) -> dict[str, Any]:
        """Plain data for JSON."""
        return asdict(self) | {"share": max((w.share for w in self.results), default=0.0)}


@dataclass(frozen=True)
class AssumptionInfluence:
    """What moving one assumed value of a unit does: to what it was moved, and the results that are watched, most changed first."""

    place: str
    field: str
    moved: Quantity
    results: tuple[Watched, ...]
    problem: str = ""

    def to_data(self) -> dict[str, Any]:
        """Plain data for JSON."""
        moved = {"value": self.moved.value, "unit": self.moved.unit}
        return asdict(self) | {"moved": moved, "share": max((w.share for w in self.results), default=0.0)}


def pair_influence(document: Document) -> list[Influence]:
    """Move every pair of the chosen model that is estimated or assumed zero, and solve again; the pairs that matter most come first.

    Watched are the pins, or without any the flow and temperature of every product. Raises ValueError when the plant is not complete, or the model has
    no pairs.

    >>> pair_influence(Document())
    Traceback (most recent call last):
        ...
    ValueError: The plant is not complete: there is nothing to compare with yet.
    """
    info = model_infos()[document.chemistry.model]
    base = _Base(document)
    if not info.parameters:
        raise ValueError(f"{info.title} has no pair parameters.")
    found = []
    rows = [r for r in pair_table(document.chemistry) if r["quality"] in DOUBTFUL][:MOST]
    for k, row in enumerate(rows, 1):
        reached(k / (len(rows) + 1))
        moved = {"ha": STEPS["ha"]} if "ha" in row["values"] else _steps([p.name for p in info.parameters])
        values = {**row["values"], **{name: row["values"].get(name, 0.0) + step for name, step in moved.items()}}
        if "alpha" in {p.name for p in info.parameters} and "ha" not in values and not values.get("alpha"):
            values["alpha"] = 0.3
        changed = edit(document, "set_pair", first=row["first"], second=row["second"], values=values, quality="estimated")
        found.append(Influence(row["first"], row["second"], row["quality"], moved, *base.compared(changed)))
    return _most_first(found)


def assumption_influence(document: Document) -> list[AssumptionInfluence]:
    """Give every assumed quantity of a unit a little otherwise, and solve again; those that matter most come first. Watched as for pairs.

    Raises ValueError when the plant is not complete.

    >>> assumption_influence(Document())
    Traceback (most recent call last):
        ...
    ValueError: The plant is not complete: there is nothing to compare with yet.
    """
    base = _Base(document)
    quantities = [(a, a.value) for a in base.result.assumptions if document.unit(a.place) is not None and not isinstance(a.value, str)]
    assumed = quantities[:MOST]
    found = []
    for k, (assumption, value) in enumerate(assumed, 1):
        reached(k / (len(assumed) + 1))
        unit = document.unit(assumption.place)
        assert unit is not None
        kind = unit.operation.field_map()[assumption.field].kind
        moved = _moved(value, assumption.unit, kind)
        changed = edit(document, "set_values", unit=assumption.place, values={assumption.field: moved.model_dump()})
        found.append(AssumptionInfluence(assumption.place, assumption.field, moved, *base.compared(changed)))
    return _most_first(found)


def _moved(assumed: float, unit: str, kind: str) -> Quantity:
    """An assumed value moved a little, inside what may be typed; a step that would leave it goes the other way."""
    value = to_si(Quantity(value=assumed, unit=unit), kind)
    step = ASSUMED_STEPS.get(kind, 0.1 * value or 0.1)
    inside = KINDS[kind].low <= value + step <= KINDS[kind].high
    new = from_si(value + step if inside else value - step, unit, difference=KINDS[kind].difference)
    return Quantity(value=float(f"{new:.12g}"), unit=unit)


class _Base:
    """The plant as it is, against which it is compared with something moved. Raises ValueError when it is not complete."""

    def __init__(self, document: Document) -> None:
        self.memory = Memory()
        self.result = solve(document, memory=self.memory)
        if not self.result.complete or not document.units:
            raise ValueError("The plant is not complete: there is nothing to compare with yet.")
        self.watched = _watched(document, self.result)

    def compared(self, changed: Document) -> tuple[tuple[Watched, ...], str]:
        """What is watched before and after, most changed first, and the problem that there is with the change."""
        after = solve(changed, memory=self.memory)
        if not after.complete:
            return (), "With this change the plant can no longer be solved."
        now = _watched(changed, after)
        found = [Watched(name, kind, value, now[name][1]) for name, (kind, value) in self.watched.items() if name in now]
        return tuple(sorted(found, key=lambda w: -w.share)), ""


_Any = TypeVar("_Any", Influence, AssumptionInfluence)


def _most_first(found: list[_Any]) -> list[_Any]:
    return sorted(found, key=lambda i: (not i.problem, -max((w.share for w in i.results), default=0.0)))


def _steps(names: list[str]) -> dict[str, float]:
    if "kij" in names:
        return {"kij": STEPS["kij"]}
    letter = "b" if "b12" in names else "a"
    return {letter + "12": STEPS[letter], letter + "21": STEPS[letter]}


def _watched(document: Document, result: SolveResult) -> dict[str, tuple[str | None, float]]:
    pins: dict[str, tuple[str | None, float]] = {pin.name: (pin.kind, pin.value) for pin in result.pins if pin.value is not None}
    if pins:
        return pins
    ends = [s.tag for s in document.streams if (unit := document.unit(s.target.unit)) is not None and unit.type == "product"]
    for tag in ends:
        stream = result.streams[tag]
        pins[f"{tag} mass flow"] = ("mass_flow", stream.mass_flow)
        pins[f"{tag} temperature"] = ("temperature", stream.temperature)
    return pins
