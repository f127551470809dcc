"""What was given differently in two documents, as edits that take it over from one into the other."""

from __future__ import annotations

from typing import Any

from wattaxis.flowsheet.chemistry import DocumentComponent, Part
from wattaxis.flowsheet.document import Document, Stream, Unit
from wattaxis.flowsheet.edit_kinds import Batch, EditError
from wattaxis.flowsheet.edits import apply, edit_from_json

Edits = list[dict[str, Any]]


def taking_over(here: Document, there: Document, place: str, title: str) -> Edits:
    """Edits that give ``here`` what ``there`` was given at a place of :func:`wattaxis.solving.compare`; none where it cannot be done alone."""
    edits = _wanted(here, there, place, title)
    if not edits:
        return []
    try:
        apply(here, Batch(edits=tuple(edit_from_json(edit) for edit in edits)))
    except EditError:
        return []  # it rests on another difference, which has to be taken over first
    return edits


def _wanted(here: Document, there: Document, place: str, title: str) -> Edits:
    if place == "Plant":
        return [{"kind": "set_title", "title": there.title}]
    if place == "Chemistry":
        return _chemistry(here, there, title)
    if place == "Reactions":
        of = next((of for of in there.chemistry.reactions if of.name == title), None)
        return [{"kind": "set_reactions", "name": title, "reactions": None if of is None else _plain(of)}]
    if place == "Aims":
        aim = next((a for a in there.aims if a.name == title), None)
        return [{"kind": "set_aim", "name": title, "aim": None if aim is None else _plain(aim)}]
    if title == "stream":
        return _stream(here.stream(place), there.stream(place))
    return _unit(here.unit(place), there.unit(place), title)


def _chemistry(here: Document, there: Document, title: str) -> Edits:
    theirs = there.chemistry
    models: dict[str, dict[str, Any]] = {
        "property model": {"model": theirs.model},
        "vapour": {"vapour": theirs.vapour},
        "volumes": {"translated": theirs.translated},
    }
    if title in models:
        return [{"kind": "set_model", **models[title]}]
    for pair in (*theirs.pairs, *here.chemistry.pairs):
        if title == f"{pair.first} / {pair.second}, {pair.model}":
            values = {"values": pair.values, "source": pair.source, "quality": pair.quality} if pair in theirs.pairs else {}
            return [{"kind": "set_pair", "first": pair.first, "second": pair.second, "model": pair.model, **values}]
    mine, other = (next((c for c in document.chemistry.components if c.id == title), None) for document in (here, there))
    return _component(mine, other)


def _component(mine: DocumentComponent | None, other: DocumentComponent | None) -> Edits:
    if mine is None or other is None:
        added: Edits = [] if other is None else [{"kind": "add_component", "component": _plain(other)}]
        return added if mine is None else [{"kind": "remove_component", "id": mine.id}]
    if any(getattr(mine, part) != getattr(other, part) for part in ("cas", "own", "own_solid", "own_dissolved")):
        return []
    names = [name for name in {**mine.overrides, **other.overrides} if mine.overrides.get(name) != other.overrides.get(name)]
    values = {name: other.overrides.get(name) for name in names}
    edits: Edits = [{"kind": "set_constant", "id": mine.id, "name": n, "value": None if v is None else _plain(v)} for n, v in values.items()]
    for name in {**mine.curves, **other.curves}:
        if mine.curves.get(name) != (curve := other.curves.get(name)):
            edits.append({"kind": "set_curve", "id": mine.id, "name": name, "curve": None if curve is None else _plain(curve)})
    if mine.vapour_pressure != (pressure := other.vapour_pressure):
        edits.append({"kind": "set_vapour_pressure", "id": mine.id, "vapour_pressure": None if pressure is None else _plain(pressure)})
    return edits


def _stream(mine: Stream | None, other: Stream | None) -> Edits:
    gone: Edits = [] if mine is None else [{"kind": "disconnect", "tag": mine.tag}]
    return gone if other is None else [*gone, {"kind": "connect", "stream": _plain(other)}]


def _unit(mine: Unit | None, other: Unit | None, title: str) -> Edits:
    if other is None:
        return [] if mine is None else [{"kind": "remove_unit", "tag": mine.tag}]
    if mine is None:
        return [{"kind": "add_unit", "unit": _plain(other)}]
    if title == "unit":
        return []
    if title == "property model":
        return [{"kind": "set_unit_model", "tag": other.tag, "model": other.model}]
    keys = [key for key, field in other.operation.field_map().items() if field.title == title and mine.type == other.type]
    given = other.model_dump(mode="json", exclude_none=True)["spec"]
    return [{"kind": "set_values", "unit": other.tag, "values": {key: given.get(key)}} for key in keys]


def _plain(part: Part | Any) -> dict[str, Any]:
    return part.model_dump(mode="json", exclude_none=True)
