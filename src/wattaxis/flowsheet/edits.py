"""Editing operations: pure functions from document to document, each with its inverse."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from pydantic import TypeAdapter, ValidationError

from wattaxis.flowsheet import edit_chemistry
from wattaxis.flowsheet.asked import Aim, Pin, Study, StudyInput
from wattaxis.flowsheet.document import (
    UNWRITABLE,
    Document,
    DocumentError,
    End,
    Stream,
    Unit,
    _plain,
    is_writable,
    load_data,
    to_data,
)
from wattaxis.flowsheet.edit_common import exchanged, insert, updated
from wattaxis.flowsheet.edit_kinds import (
    AddUnit,
    Batch,
    Connect,
    Disconnect,
    Edit,
    EditError,
    Flip,
    InsertInLine,
    Move,
    PlacePiece,
    RemoveUnit,
    Rename,
    Renumber,
    ReplaceAll,
    Reverse,
    SetAim,
    SetArea,
    SetNote,
    SetPin,
    SetRow,
    SetShown,
    SetStudy,
    SetTable,
    SetTear,
    SetTitle,
    SetUnitModel,
    SetUnits,
    SetUnitSet,
    SetValues,
    SwapOutlets,
    TakeOut,
    Turn,
)
from wattaxis.flowsheet.formula import renamed
from wattaxis.flowsheet.givens import Path, given_at, path_of, raw_at, with_names, with_raw
from wattaxis.flowsheet.migrations import migrate_edit, todays_path
from wattaxis.flowsheet.pieces import inserting, placing, renumbering, reversing, swapping, taking_out
from wattaxis.quantities import QuantityError, to_si
from wattaxis.unitops.table import GivenRow, GivenTable

_ADAPTER: TypeAdapter[Any] = TypeAdapter(Edit)


def edit_from_json(data: Any) -> Any:
    """Check plain data as an edit. Raises EditError."""
    if not is_writable(data):
        raise EditError(UNWRITABLE)
    try:
        return _ADAPTER.validate_python(migrate_edit(data))
    except ValidationError as error:
        first = error.errors()[0]
        place = ".".join(str(p) for p in first["loc"] if p not in ("batch", "edits"))
        raise EditError(f"{place}: {_plain(first['msg'])}" if place else _plain(first["msg"])) from error
    except RecursionError as error:
        raise EditError("The edit is nested too deeply.") from error


def apply(document: Document, edit: Any) -> tuple[Document, Any, str]:
    """Apply an edit: (new document, inverse edit, label for the history). Raises EditError and changes nothing then."""
    handler = _HANDLERS[edit.kind]
    try:
        changed, inverse, label = handler(document, edit)
        if edit.kind not in ("move", "set_title", "set_values", "set_row", "set_pair", "set_model"):
            Document.model_validate(changed)  # tags unique, streams end at ports that exist
        return changed, inverse, label
    except ValidationError as error:
        raise EditError(_plain(error.errors()[0]["msg"])) from error
    except EditError:
        raise
    except ValueError as error:
        raise EditError(str(error)) from error


def _unit(document: Document, tag: str) -> Unit:
    unit = document.unit(tag)
    if unit is None:
        raise EditError(f"There is no unit {tag} on the sheet.")
    return unit


def _replace_unit(document: Document, tag: str, unit: Unit) -> Document:
    """The document with another unit of a tag; checked again where its ports are others, since streams end there."""
    units = tuple(unit if u.tag == tag else u for u in document.units)
    return document.model_copy(update={"units": units}) if unit.ports == _unit(document, tag).ports else updated(document, units=units)


def _set_title(document: Document, edit: SetTitle) -> tuple[Document, Any, str]:
    return document.model_copy(update={"title": edit.title}), SetTitle(title=document.title), f"title -> {edit.title}"


def _set_unit_set(document: Document, edit: SetUnitSet) -> tuple[Document, Any, str]:
    if edit.name not in document.units_by_set():
        raise EditError(f"There is no unit set {edit.name!r}; there are {', '.join(document.units_by_set())}.")
    return document.model_copy(update={"unit_set": edit.name}), SetUnitSet(name=document.unit_set), f"units -> {edit.name}"


def _set_units(document: Document, edit: SetUnits) -> tuple[Document, Any, str]:
    if edit.units is None and document.unit_set == edit.name:
        raise EditError(f"The plant is shown in {edit.name}; choose another set before you remove it.")
    if edit.units is not None and edit.units.name != edit.name:
        raise EditError(f"The set is named {edit.units.name!r}, not {edit.name!r}.")
    items, at, label = exchanged(document.unit_sets, edit.name, edit.units, edit.position, "unit set")
    back = SetUnits(name=edit.name, units=None if at is None else document.unit_sets[at], position=at)
    return updated(document, unit_sets=items), back, label


def _set_tear(document: Document, edit: SetTear) -> tuple[Document, Any, str]:
    stream = document.stream(edit.tag)
    if stream is None:
        raise EditError(f"There is no stream {edit.tag}.")
    changed = stream.model_copy(update={"torn": edit.torn or None})
    streams = tuple(changed if s.tag == edit.tag else s for s in document.streams)
    label = f"loops are cut in {edit.tag}" if edit.torn else f"the cut in {edit.tag} is left to the program"
    return updated(document, streams=streams), SetTear(tag=edit.tag, torn=bool(stream.torn)), label


def _set_aim(document: Document, edit: SetAim) -> tuple[Document, Any, str]:
    at = next((k for k, a in enumerate(document.aims) if a.name == edit.name), None)
    if edit.aim is None and at is None:
        raise EditError(f"There is no aim {edit.name!r}.")
    if edit.aim is not None:
        _check_aim(document, edit.name, edit.aim)
    kept = tuple(a for a in document.aims if a.name != edit.name)
    aims = kept if edit.aim is None else insert(kept, edit.aim, at if at is not None else edit.position)
    back = SetAim(name=edit.name, aim=None if at is None else document.aims[at], position=at)
    if edit.aim is None:
        label = f"removed aim {edit.name}"
    else:
        label = f"aim {edit.name} = {edit.aim.target} by {edit.aim.free.unit} {edit.aim.free.field}" + ("" if edit.aim.active else ", paused")
    return updated(document, aims=aims), back, label


def _check_aim(document: Document, name: str, aim: Aim) -> None:
    if aim.name != name:
        raise EditError(f"The aim is named {aim.name!r}, not {name!r}.")
    unit = _unit(document, aim.free.unit)
    given = given_at(unit, aim.free.field)
    if given is None:
        raise EditError(f"{aim.free.unit} has no single value {aim.free.field!r} that could be freed.")
    for bound in (aim.low, aim.high):
        try:
            _ = to_si(bound, given.kind) if bound is not None else None
        except QuantityError as error:
            raise EditError(str(error)) from error


def _set_study(document: Document, edit: SetStudy) -> tuple[Document, Any, str]:
    if edit.study is not None and edit.study.name != edit.name:
        raise EditError(f"The study is named {edit.study.name!r}, not {edit.name!r}.")
    before = next((study for study in document.studies if study.name == edit.name), None)
    studies, at, label = exchanged(document.studies, edit.name, edit.study, edit.position, "study")
    return updated(document, studies=studies), SetStudy(name=edit.name, study=before, position=at), label


def _set_pin(document: Document, edit: SetPin) -> tuple[Document, Any, str]:
    at = next((k for k, p in enumerate(document.pins) if p.name == edit.name), None)
    kept = tuple(p for p in document.pins if p.name != edit.name)
    if edit.formula is None and at is None:
        raise EditError(f"There is no pin {edit.name!r}.")
    pins = kept if edit.formula is None else insert(kept, Pin(name=edit.name, formula=edit.formula), at if at is not None else edit.position)
    back = SetPin(name=edit.name, formula=None if at is None else document.pins[at].formula, position=at)
    label = f"unpinned {edit.name}" if edit.formula is None else f"pin {edit.name} = {edit.formula}"
    return updated(document, pins=pins), back, label


def _add_unit(document: Document, edit: AddUnit) -> tuple[Document, Any, str]:
    _check_spec(edit.unit)
    changed = updated(document, units=insert(document.units, edit.unit, edit.position))
    return changed, RemoveUnit(tag=edit.unit.tag), f"added {edit.unit.operation.title.lower()} {edit.unit.tag}"


def _remove_unit(document: Document, edit: RemoveUnit) -> tuple[Document, Any, str]:
    unit = _unit(document, edit.tag)
    gone = [(k, s) for k, s in enumerate(document.streams) if edit.tag in (s.source.unit, s.target.unit)]
    back: list[Any] = [AddUnit(unit=unit, position=document.units.index(unit))]
    back += [Connect(stream=s, position=k) for k, s in gone]
    changed = document.model_copy(
        update={
            "units": tuple(u for u in document.units if u.tag != edit.tag),
            "streams": tuple(s for s in document.streams if edit.tag not in (s.source.unit, s.target.unit)),
        }
    )
    return changed, Batch(edits=tuple(back), label=f"put {edit.tag} back"), f"removed {edit.tag}"


def _connect(document: Document, edit: Connect) -> tuple[Document, Any, str]:
    stream = edit.stream
    changed = updated(document, streams=insert(document.streams, stream, edit.position))
    return changed, Disconnect(tag=stream.tag), f"connected {stream.source.unit} to {stream.target.unit} by {stream.tag}"


def _disconnect(document: Document, edit: Disconnect) -> tuple[Document, Any, str]:
    stream = document.stream(edit.tag)
    if stream is None:
        raise EditError(f"There is no stream {edit.tag}.")
    position = document.streams.index(stream)
    changed = document.model_copy(update={"streams": tuple(s for s in document.streams if s.tag != edit.tag)})
    return changed, Connect(stream=stream, position=position), f"removed stream {edit.tag}"


def _set_values(document: Document, edit: SetValues) -> tuple[Document, Any, str]:
    unit = _unit(document, edit.unit)
    fields = unit.operation.field_map()
    values = {todays_path(unit.type, text): value for text, value in edit.values.items()}
    paths = {text: path_of(text) for text in values}
    unknown = [text for text, path in paths.items() if path is None or path.field not in fields]
    if unknown:
        raise EditError(f"{unit.tag} has no value {unknown[0]!r}; it has {', '.join(fields)}.")
    where = {text: path for text, path in paths.items() if path is not None}
    new = with_raw(unit, {where[text]: value for text, value in values.items()})
    _check_spec(new)
    back = {text: _plain_value(raw_at(unit, path)) for text, path in reversed(where.items())}
    changes = ((_titled(new, text, path), raw_at(unit, path), raw_at(new, path)) for text, path in where.items())
    label = "; ".join(f"{unit.tag} {title} {_text(old)} -> {_text(given)}" for title, old, given in changes)
    return _replace_unit(document, unit.tag, new), SetValues(unit=unit.tag, values=back), label


def _titled(unit: Unit, text: str, path: Path) -> str:
    given = given_at(unit, text) if path.row else None
    return (given.title if given else unit.operation.field_map()[path.field].title).lower()


def _plain_value(value: Any) -> Any:
    return value.model_dump(mode="json") if hasattr(value, "model_dump") else value


def _set_row(document: Document, edit: SetRow) -> tuple[Document, Any, str]:
    unit = _unit(document, edit.unit)
    field = unit.operation.field_map().get(edit.field)
    if field is None or field.kind != "table":
        raise EditError(f"{unit.tag} has no table {edit.field!r}.")
    table: GivenTable = getattr(unit.spec, field.key) or GivenTable()
    name = edit.row or table.free_id()
    old = table.row(name)
    if old is None and edit.cells is None:
        raise EditError(f"{field.title} of {unit.tag} has no row {name}.")
    at = None if old is None else table.rows.index(old)
    kept = tuple(row for row in table.rows if row.id != name)
    made = None if edit.cells is None else GivenRow(id=name, cells={key: cell for key, cell in edit.cells.items() if cell is not None})
    rows = kept if made is None else insert(kept, made, at if at is not None else edit.position)
    new = with_raw(unit, {Path(field.key): GivenTable(rows=rows)})
    _check_spec(new)
    cells = None if old is None else {key: _plain_value(cell) for key, cell in old.cells.items()}
    what = "removed a row" if made is None else "a new row" if old is None else f"row {1 + rows.index(made)}"
    back = SetRow(unit=unit.tag, field=field.key, row=name, cells=cells, position=at)
    return _replace_unit(document, unit.tag, new), back, f"{unit.tag} {field.title.lower()}: {what}"


def _check_spec(unit: Unit) -> None:
    problems = unit.operation.problems(unit.tag, unit.spec)
    if problems:
        raise EditError(problems[0].text)


def _text(value: Any) -> str:
    return "blank" if value is None else str(value) if hasattr(value, "unit") or isinstance(value, str) else "values"


def _rename(document: Document, edit: Rename) -> tuple[Document, Any, str]:
    if document.unit(edit.tag) is None and document.stream(edit.tag) is None:
        raise EditError(f"Nothing on the sheet is tagged {edit.tag}.")
    if edit.new != edit.tag and (document.unit(edit.new) or document.stream(edit.new)):
        raise EditError(f"The tag {edit.new} is taken already.")

    def end(e: End) -> End:
        return End(unit=edit.new, port=e.port) if e.unit == edit.tag else e

    units = tuple(
        with_names(u.model_copy(update={"tag": edit.new}) if u.tag == edit.tag else u, "stream", edit.tag, edit.new) for u in document.units
    )
    streams = tuple(
        Stream(tag=edit.new if s.tag == edit.tag else s.tag, source=end(s.source), target=end(s.target), torn=s.torn) for s in document.streams
    )
    pins = tuple(Pin(name=p.name, formula=renamed(p.formula, edit.tag, edit.new)) for p in document.pins)
    aims = tuple(_renamed_aim(a, edit.tag, edit.new) for a in document.aims)
    studies = tuple(_renamed_study(s, edit.tag, edit.new) for s in document.studies)
    back: Any = Rename(tag=edit.new, new=edit.tag)
    # Pins, aims and studies that spoke of the new tag before, when nothing had it, must not follow it back.
    strayed: list[Any] = [SetPin(name=p.name, formula=p.formula) for p in document.pins if renamed(p.formula, edit.new, edit.tag) != p.formula]
    strayed += [SetAim(name=a.name, aim=a) for a in document.aims if _renamed_aim(a, edit.new, edit.tag) != a]
    strayed += [SetStudy(name=s.name, study=s) for s in document.studies if _renamed_study(s, edit.new, edit.tag) != s]
    if strayed:
        back = Batch(edits=(back, *strayed), label=f"renamed {edit.new} -> {edit.tag}")
    shown = {edit.new if of == edit.tag else of: keys for of, keys in document.shown.items()}
    named = {edit.tag: edit.new}
    tables = tuple(t.model_copy(update={"streams": tuple(named.get(s, s) for s in t.streams)}) for t in document.tables)
    return (
        updated(document, units=units, streams=streams, pins=pins, aims=aims, studies=studies, shown=shown, tables=tables),
        back,
        f"renamed {edit.tag} -> {edit.new}",
    )


def _renamed_aim(aim: Aim, old: str, new: str) -> Aim:
    free = aim.free.model_copy(update={"unit": new}) if aim.free.unit == old else aim.free
    return aim.model_copy(update={"formula": renamed(aim.formula, old, new), "free": free})


def _renamed_study(study: Study, old: str, new: str) -> Study:
    inputs = tuple(i.model_copy(update={"unit": new}) if isinstance(i, StudyInput) and i.unit == old else i for i in study.inputs)
    formulas = {
        part: tuple(pin.model_copy(update={"formula": renamed(pin.formula, old, new)}) for pin in getattr(study, part))
        for part in ("outputs", "objectives", "limits")
    }
    return study.model_copy(update={"inputs": inputs, **formulas})


def _move(document: Document, edit: Move) -> tuple[Document, Any, str]:
    back = {tag: (_unit(document, tag).x, _unit(document, tag).y) for tag in edit.places}
    if not all(abs(v) < 1e6 for place in edit.places.values() for v in place):
        raise EditError("The position is off the sheet.")
    units = tuple(
        u.model_copy(update={"x": edit.places[u.tag][0], "y": edit.places[u.tag][1]}) if u.tag in edit.places else u for u in document.units
    )
    return document.model_copy(update={"units": units}), Move(places=back), f"moved {', '.join(list(edit.places)[:4])}"


def _flip(document: Document, edit: Flip) -> tuple[Document, Any, str]:
    flipped = {tag: not _unit(document, tag).flipped for tag in edit.tags}
    units = tuple(u.model_copy(update={"flipped": flipped[u.tag]}) if u.tag in flipped else u for u in document.units)
    return document.model_copy(update={"units": units}), edit, f"mirrored {', '.join(edit.tags[:4])}"


def _turn(document: Document, edit: Turn) -> tuple[Document, Any, str]:
    turned = {tag: (_unit(document, tag).turned + 90 * edit.quarters) % 360 for tag in edit.tags}
    units = tuple(u.model_copy(update={"turned": turned[u.tag]}) if u.tag in turned else u for u in document.units)
    back = Turn.model_validate({"tags": edit.tags, "quarters": 4 - edit.quarters})
    return document.model_copy(update={"units": units}), back, f"turned {', '.join(edit.tags[:4])}"


def _set_unit_model(document: Document, edit: SetUnitModel) -> tuple[Document, Any, str]:
    unit = _unit(document, edit.tag)
    label = f"{edit.tag} uses {edit.model or 'the property model of the plant'}"
    return _replace_unit(document, edit.tag, unit.model_copy(update={"model": edit.model})), SetUnitModel(tag=edit.tag, model=unit.model), label


def _set_note(document: Document, edit: SetNote) -> tuple[Document, Any, str]:
    items, at, label = exchanged(document.notes, edit.name, edit.note, edit.position, "note")
    back = SetNote(name=edit.note.name if edit.note else edit.name, note=None if at is None else document.notes[at], position=at)
    return updated(document, notes=items), back, label


def _set_area(document: Document, edit: SetArea) -> tuple[Document, Any, str]:
    items, at, label = exchanged(document.areas, edit.name, edit.area, edit.position, "area")
    back = SetArea(name=edit.area.name if edit.area else edit.name, area=None if at is None else document.areas[at], position=at)
    return updated(document, areas=items), back, label


def _set_table(document: Document, edit: SetTable) -> tuple[Document, Any, str]:
    items, at, label = exchanged(document.tables, edit.name, edit.table, edit.position, "table")
    back = SetTable(name=edit.table.name if edit.table else edit.name, table=None if at is None else document.tables[at], position=at)
    return updated(document, tables=items), back, label


def _set_shown(document: Document, edit: SetShown) -> tuple[Document, Any, str]:
    shown = {name: keys for name, keys in {**document.shown, edit.of: edit.keys}.items() if keys is not None}
    back = SetShown(of=edit.of, keys=document.shown.get(edit.of))
    return updated(document, shown=shown), back, f"values beside {edit.of}: {', '.join(edit.keys or ()) or 'none'}"


def _made_of(document: Document, parts: list[dict[str, Any]], label: str) -> tuple[Document, Any, str]:
    """Several edits as one, under a label of its own."""
    return _batch(document, Batch(edits=tuple(edit_from_json(part) for part in parts), label=label[:120]))


def _place_piece(document: Document, edit: PlacePiece) -> tuple[Document, Any, str]:
    parts, tags = placing(document, edit.piece, edit.x, edit.y)
    units = [tags[u.tag] for u in edit.piece.units]
    return _made_of(document, parts, f"placed {edit.piece.name or ', '.join(units[:4])}")


def _insert_in_line(document: Document, edit: InsertInLine) -> tuple[Document, Any, str]:
    return _made_of(document, inserting(document, edit.stream, edit.unit, edit.inlet, edit.outlet), f"put {edit.unit.tag} into {edit.stream}")


def _take_out(document: Document, edit: TakeOut) -> tuple[Document, Any, str]:
    _unit(document, edit.tag)
    return _made_of(document, taking_out(document, edit.tag), f"took {edit.tag} out of its line")


def _swap_outlets(document: Document, edit: SwapOutlets) -> tuple[Document, Any, str]:
    return _made_of(document, swapping(document, edit.first, edit.second), f"swapped the outlets of {edit.first} and {edit.second}")


def _reverse(document: Document, edit: Reverse) -> tuple[Document, Any, str]:
    return _made_of(document, reversing(document, edit.tag), f"turned {edit.tag} round")


def _renumber(document: Document, edit: Renumber) -> tuple[Document, Any, str]:
    for tag in edit.tags:
        _unit(document, tag)
    return _made_of(document, renumbering(document, edit.tags, edit.first), f"numbered {len(edit.tags)} units from {edit.first} on")


def _replace_all(document: Document, edit: ReplaceAll) -> tuple[Document, Any, str]:
    try:
        changed = load_data(edit.document)
    except DocumentError as error:
        raise EditError(str(error)) from error
    return changed, ReplaceAll(document=to_data(document)), "replaced the whole document"


def _batch(document: Document, edit: Batch) -> tuple[Document, Any, str]:
    inverses: list[Any] = []
    labels = []
    for part in edit.edits:
        document, inverse, label = apply(document, part)
        inverses.append(inverse)
        labels.append(label)
    text = edit.label or "; ".join(labels[:3]) + ("; ..." if len(labels) > 3 else "")
    return document, Batch(edits=tuple(reversed(inverses)), label=f"undo {text}"[:120]), text


_HANDLERS: dict[str, Callable[[Document, Any], tuple[Document, Any, str]]] = {
    "set_title": _set_title,
    "set_unit_set": _set_unit_set,
    "set_units": _set_units,
    "set_tear": _set_tear,
    "add_component": edit_chemistry.add_component,
    "remove_component": edit_chemistry.remove_component,
    "set_constant": edit_chemistry.set_constant,
    "set_curve": edit_chemistry.set_curve,
    "set_price": edit_chemistry.set_price,
    "set_stands_for": edit_chemistry.set_stands_for,
    "set_vapour_pressure": edit_chemistry.set_vapour_pressure,
    "set_model": edit_chemistry.set_model,
    "set_unit_model": _set_unit_model,
    "set_pair": edit_chemistry.set_pair,
    "set_pin": _set_pin,
    "set_aim": _set_aim,
    "set_study": _set_study,
    "set_data": edit_chemistry.set_data,
    "set_fit": edit_chemistry.set_fit,
    "set_reactions": edit_chemistry.set_reactions,
    "set_reaction": edit_chemistry.set_reaction,
    "add_unit": _add_unit,
    "remove_unit": _remove_unit,
    "connect": _connect,
    "disconnect": _disconnect,
    "set_values": _set_values,
    "set_row": _set_row,
    "rename": _rename,
    "move": _move,
    "flip": _flip,
    "turn": _turn,
    "set_note": _set_note,
    "set_area": _set_area,
    "set_table": _set_table,
    "set_shown": _set_shown,
    "place_piece": _place_piece,
    "insert_in_line": _insert_in_line,
    "take_out": _take_out,
    "swap_outlets": _swap_outlets,
    "reverse": _reverse,
    "renumber": _renumber,
    "replace_all": _replace_all,
    "batch": _batch,
}


def edit(document: Document, kind: str, **values: Any) -> Document:
    """A document with one editing operation applied, for scripts. Raises EditError.

    >>> from wattaxis import Document
    >>> edit(Document(), "set_title", title="Pilot plant").title
    'Pilot plant'
    """
    return apply(document, edit_from_json({"kind": kind, **values}))[0]
