"""How far a doubtful interaction parameter matters: the plant is calculated again with each of them moved."""

from __future__ import annotations

from dataclasses import asdict, dataclass
from typing import Any

from wattaxis.flowsheet import Document, pair_table
from wattaxis.flowsheet.edits import edit
from wattaxis.progress import reached
from wattaxis.properties.registry import model_infos
from wattaxis.solving.results import SolveResult
from wattaxis.solving.sequential import solve

DOUBTFUL = ("assumed zero", "estimated")
#: By how much a parameter is moved: about the scatter between estimates of different authors.
STEPS = {"kij": 0.02, "b": 50.0, "a": 0.1, "ha": 0.5}
MOST = 40


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
    base = solve(document)
    if not base.complete or not document.units:
        raise ValueError("The plant is not complete: there is nothing to compare with yet.")
    if not info.parameters:
        raise ValueError(f"{info.title} has no pair parameters.")
    before = _watched(document, base)
    found = []
    rows = [r for r in pair_table(document.chemistry) if r["quality"] in DOUBTFUL][:MOST]
    for k, row in enumerate(rows, 1):
        reached(k / (len(rows) + 1))
        moved = {"ha": STEPS["ha"]} if "ha" in row["values"] else _steps([p.name for p in info.parameters])
        values = {**row["values"], **{name: row["values"].get(name, 0.0) + step for name, step in moved.items()}}
        if "alpha" in {p.name for p in info.parameters} and "ha" not in values and not values.get("alpha"):
            values["alpha"] = 0.3
        changed = edit(document, "set_pair", first=row["first"], second=row["second"], values=values, quality="estimated")
        after = solve(changed)
        problem = "" if after.complete else "With this change the plant is not solved any more."
        now = _watched(changed, after) if after.complete else {}
        watched = [Watched(name, kind, value, now[name][1]) for name, (kind, value) in before.items() if name in now]
        watched.sort(key=lambda w: -w.share)
        found.append(Influence(row["first"], row["second"], row["quality"], moved, tuple(watched), problem))
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
