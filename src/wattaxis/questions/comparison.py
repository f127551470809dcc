"""Variants side by side: what was given differently, and what came of it."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import asdict, dataclass
from typing import Any

from wattaxis.flowsheet import Document
from wattaxis.flowsheet.document import to_data
from wattaxis.flowsheet.takeover import taking_over
from wattaxis.progress import reached
from wattaxis.solving.pins import STREAM_VALUES
from wattaxis.solving.results import SolveResult
from wattaxis.solving.sequential import solve

#: Results that differ by less, relative to the largest, count as equal.
EQUAL = 1e-6
_STREAM_TITLES = {"temperature": "Temperature", "pressure": "Pressure", "vapour_fraction": "Vapour fraction", "mass_flow": "Mass flow"}


@dataclass(frozen=True)
class GivenDifference:
    """One place that was given differently: the texts as typed, one a document; None where there is nothing.

    ``take`` holds, a document each, the edits that take its side over into the first document; none where that cannot be done alone.
    """

    place: str
    title: str
    texts: tuple[str | None, ...]
    take: tuple[tuple[dict[str, Any], ...], ...] = ()


@dataclass(frozen=True)
class ResultDifference:
    """One result, one value (SI) a document with its kind of quantity, None where there is none; whether the values are equal."""

    place: str
    title: str
    kind: str | None
    values: tuple[float | None, ...]
    equal: bool


@dataclass(frozen=True)
class Comparison:
    """What differs between documents: givens, pins, and the streams that more than one of them has."""

    givens: tuple[GivenDifference, ...]
    pins: tuple[ResultDifference, ...]
    streams: tuple[ResultDifference, ...]
    complete: tuple[bool, ...]

    def to_data(self) -> dict[str, Any]:
        """Plain data for JSON."""
        return asdict(self)


def compare(documents: Sequence[Document], calculate: Callable[[Document], SolveResult] = solve) -> Comparison:
    """Calculate documents and lay them side by side. Tags tell which unit and stream is which.

    >>> compare([Document(title="A"), Document(title="B")]).givens
    (GivenDifference(place='Plant', title='title', texts=('A', 'B'), take=((), ({'kind': 'set_title', 'title': 'B'},))),)
    """
    results = []
    for k, document in enumerate(documents):
        reached(k / len(documents))
        results.append(calculate(document))
    return Comparison(_givens(documents), _pins(results), _streams(results), tuple(r.complete for r in results))


def _givens(documents: Sequence[Document]) -> tuple[GivenDifference, ...]:
    rows = [_told(document) for document in documents]
    keys = dict.fromkeys(key for row in rows for key in row)
    texts = {key: tuple(row.get(key) for row in rows) for key in keys}
    # Of a unit that only some have, the unit itself says enough.
    alone = {place for (place, title), values in texts.items() if title == "unit" and None in values}
    differing = ((place, title, values) for (place, title), values in texts.items() if len(set(values)) > 1)
    told = [(place, title, values) for place, title, values in differing if title == "unit" or place not in alone]
    return tuple(GivenDifference(place, title, values, _taken(documents, place, title, values)) for place, title, values in told)


def _taken(documents: Sequence[Document], place: str, title: str, texts: Sequence[str | None]) -> tuple[tuple[dict[str, Any], ...], ...]:
    here = documents[0]
    return tuple(() if text == texts[0] else tuple(taking_over(here, there, place, title)) for there, text in zip(documents, texts, strict=True))


def _told(document: Document) -> dict[tuple[str, str], str]:
    """Everything that was given, as texts by place and title. Where a symbol stands on the sheet is none of it."""
    chemistry = document.chemistry
    found = {("Plant", "title"): document.title, ("Chemistry", "property model"): chemistry.model, ("Chemistry", "vapour"): chemistry.vapour}
    found["Chemistry", "volumes"] = "shifted" if chemistry.translated else "as the equation gives them"
    for item in document.chemistry.components:
        parts = ["own constants" if item.own else item.cas, *(f"{name.replace('_', ' ')} {value}" for name, value in item.overrides.items())]
        parts += [f"own {name}: {len(curve.rows)} points, {curve.source}" for name, curve in item.curves.items()]
        parts += [f"own vapour pressure: {item.vapour_pressure.source}"] if item.vapour_pressure else []
        found["Chemistry", item.id] = ", ".join(parts)
    for pair in document.chemistry.pairs:
        values = ", ".join(f"{name} {value:g}" for name, value in pair.values.items())
        found["Chemistry", f"{pair.first} / {pair.second}, {pair.model}"] = values
    found |= {("Reactions", of.name): " | ".join(reaction.text for reaction in of.reactions) for of in chemistry.reactions}
    for unit, data in zip(document.units, to_data(document)["units"], strict=True):
        titles = {key: field.title for key, field in unit.operation.field_map().items()}
        found[unit.tag, "unit"] = unit.operation.title
        if unit.model is not None:
            found[unit.tag, "property model"] = unit.model
        found |= {(unit.tag, titles.get(key, key)): _text(value) for key, value in data["spec"].items()}
    for stream in document.streams:
        found[stream.tag, "stream"] = f"{stream.source.unit} to {stream.target.unit}"
    for aim in document.aims:
        found["Aims", aim.name] = f"{aim.formula} = {aim.target} by {aim.free.unit}" + ("" if aim.active else ", paused")
    return found


def _text(value: Any) -> str:
    """A given as it was typed; of several values all of them."""
    if not isinstance(value, dict):
        return str(value)
    if "value" in value and set(value) <= {"value", "unit"}:
        return f"{value['value']:.10g} {value.get('unit', '')}".rstrip()
    if isinstance(value.get("rows"), list):
        return "; ".join(_text(row["cells"]) for row in value["rows"])
    if isinstance(value.get("values"), dict):
        return f"{_text(value['values'])}{' as ' + value['basis'].replace('_', ' ') if 'basis' in value else ''}"
    return ", ".join(f"{key} {_text(part)}" for key, part in value.items() if part not in (None, {}, "", False))


def _difference(place: str, title: str, kind: str | None, values: tuple[float | None, ...]) -> ResultDifference:
    known = [v for v in values if v is not None]
    size = max((abs(v) for v in known), default=0.0)
    equal = len(known) == len(values) and max(known) - min(known) <= EQUAL * max(size, 1e-300)
    return ResultDifference(place, title, kind, values, equal)


def _pins(results: Sequence[SolveResult]) -> tuple[ResultDifference, ...]:
    rows = [{pin.name: pin for pin in result.pins} for result in results]
    found = []
    for name in dict.fromkeys(name for row in rows for name in row):
        kind = next((row[name].kind for row in rows if name in row and row[name].kind), None)
        found.append(_difference("Pins", name, kind, tuple(row[name].value if name in row else None for row in rows)))
    return tuple(found)


def _streams(results: Sequence[SolveResult]) -> tuple[ResultDifference, ...]:
    found = []
    for tag in dict.fromkeys(tag for result in results for tag in result.streams):
        streams = [result.streams.get(tag) for result in results]
        if sum(stream is not None for stream in streams) < 2:
            continue
        for key, title in _STREAM_TITLES.items():
            values = tuple(None if stream is None else float(getattr(stream, key)) for stream in streams)
            found.append(_difference(tag, title, STREAM_VALUES[key], values))
    for tag in dict.fromkeys(tag for result in results for tag in result.energies):
        powers = tuple(result.energies[tag].power if tag in result.energies else None for result in results)
        if sum(power is not None for power in powers) > 1:
            found.append(_difference(tag, "Power", "power", powers))
    return tuple(part for part in found if not part.equal)
