"""Editing operations: pure functions from document to document, each with its inverse."""

from __future__ import annotations

from collections.abc import Callable
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, TypeAdapter, ValidationError

from wattaxis.flowsheet.data import KeptFit, Measured
from wattaxis.flowsheet.document import (
    Aim,
    Chemistry,
    ConstantName,
    Document,
    DocumentComponent,
    DocumentError,
    End,
    Finite,
    Id,
    ModelName,
    Pair,
    Pin,
    Quality,
    Stream,
    Tag,
    Unit,
    _plain,
    load_data,
    to_data,
)
from wattaxis.flowsheet.formula import renamed
from wattaxis.flowsheet.migrations import migrate_edit
from wattaxis.flowsheet.model import resolve
from wattaxis.properties.registry import model_infos
from wattaxis.quantities import UNIT_SETS, Quantity, QuantityError, to_si


class EditError(ValueError):
    """An edit that cannot be made; ``str()`` says why and what would be accepted.

    >>> try:
    ...     edit(Document(), "remove_unit", tag="E-101")
    ... except EditError as error:
    ...     print(error)
    There is no unit E-101 on the sheet.
    """


class _Edit(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


class SetTitle(_Edit):
    """Name the plant."""

    kind: Literal["set_title"] = "set_title"
    title: str = Field(max_length=120)


class SetUnitSet(_Edit):
    """Choose the units in which results are shown."""

    kind: Literal["set_unit_set"] = "set_unit_set"
    name: str = Field(max_length=60)


class AddComponent(_Edit):
    """Add a component, at ``position`` or at the end."""

    kind: Literal["add_component"] = "add_component"
    component: DocumentComponent
    position: int | None = None


class RemoveComponent(_Edit):
    """Take a component out; flows typed for it stay in the document."""

    kind: Literal["remove_component"] = "remove_component"
    id: Id


class SetConstant(_Edit):
    """Put a value of one's own in the place of a constant of the bank; without ``value`` the bank's counts again."""

    kind: Literal["set_constant"] = "set_constant"
    id: Id
    name: ConstantName
    value: Quantity | None = None


class SetModel(_Edit):
    """Choose the property model."""

    kind: Literal["set_model"] = "set_model"
    model: ModelName


class SetPair(_Edit):
    """Give own interaction parameters of a pair for a model, the chosen one where none is named; without ``values`` they go away."""

    kind: Literal["set_pair"] = "set_pair"
    first: Id
    second: Id
    model: ModelName | None = None
    values: dict[str, Finite] | None = None
    source: str = Field(default="typed in", max_length=200)
    quality: Quality = "typed in"


class SetPin(_Edit):
    """Keep a formula over results in sight under a name; without ``formula`` the pin goes away."""

    kind: Literal["set_pin"] = "set_pin"
    name: str = Field(min_length=1, max_length=60)
    formula: str | None = None
    position: int | None = None


class SetAim(_Edit):
    """Put an aim in the place of the one of its name, or add it; without ``aim`` it goes away."""

    kind: Literal["set_aim"] = "set_aim"
    name: str = Field(min_length=1, max_length=60)
    aim: Aim | None = None
    position: int | None = None


class SetData(_Edit):
    """Put a set of measured data in the place of the one of its name, or add it; without ``data`` the set goes away."""

    kind: Literal["set_data"] = "set_data"
    name: str = Field(min_length=1, max_length=60)
    data: Measured | None = None
    position: int | None = None


class SetFit(_Edit):
    """Keep a fit under its name; without ``fit`` it goes away."""

    kind: Literal["set_fit"] = "set_fit"
    name: str = Field(min_length=1, max_length=60)
    fit: KeptFit | None = None
    position: int | None = None


class AddUnit(_Edit):
    """Put a unit on the sheet."""

    kind: Literal["add_unit"] = "add_unit"
    unit: Unit
    position: int | None = None


class RemoveUnit(_Edit):
    """Take a unit off the sheet together with its streams."""

    kind: Literal["remove_unit"] = "remove_unit"
    tag: Tag


class Connect(_Edit):
    """Draw a stream from an outlet to an inlet."""

    kind: Literal["connect"] = "connect"
    stream: Stream
    position: int | None = None


class Disconnect(_Edit):
    """Take a stream away."""

    kind: Literal["disconnect"] = "disconnect"
    tag: Tag


class SetValues(_Edit):
    """Give or clear (None) values of a unit, several at once where a choice changes."""

    kind: Literal["set_values"] = "set_values"
    unit: Tag
    values: dict[str, Any]


class Rename(_Edit):
    """Give a unit or a stream another tag, everywhere."""

    kind: Literal["rename"] = "rename"
    tag: Tag
    new: Tag


class Move(_Edit):
    """Move symbols on the sheet: tag to (x, y)."""

    kind: Literal["move"] = "move"
    places: dict[Tag, tuple[float, float]]


class ReplaceAll(_Edit):
    """Put another document in the place of this one: going back to an earlier state in one step of constant size."""

    kind: Literal["replace_all"] = "replace_all"
    document: dict[str, Any]


class Batch(_Edit):
    """Several edits as one, all or none."""

    kind: Literal["batch"] = "batch"
    edits: tuple[Edit, ...] = Field(max_length=500)
    label: str = Field(default="", max_length=120)


Edit = Annotated[
    SetTitle
    | SetUnitSet
    | AddComponent
    | RemoveComponent
    | SetConstant
    | SetModel
    | SetPair
    | SetPin
    | SetAim
    | SetData
    | SetFit
    | AddUnit
    | RemoveUnit
    | Connect
    | Disconnect
    | SetValues
    | Rename
    | Move
    | ReplaceAll
    | Batch,
    Field(discriminator="kind"),
]
Batch.model_rebuild()
_ADAPTER: TypeAdapter[Any] = TypeAdapter(Edit)


def edit_from_json(data: Any) -> Any:
    """Check plain data as an edit. Raises EditError."""
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
        if edit.kind not in ("move", "set_title", "set_values", "set_pair", "set_model"):
            Document.model_validate(changed)  # tags unique, streams end at ports that exist
        return changed, inverse, label
    except ValidationError as error:
        raise EditError(_plain(error.errors()[0]["msg"])) from error


def _updated(document: Document, **changes: Any) -> Document:
    return Document.model_validate({**{name: getattr(document, name) for name in Document.model_fields}, **changes})


def _chemistry(document: Document, **changes: Any) -> Document:
    chemistry = Chemistry.model_validate({**{name: getattr(document.chemistry, name) for name in Chemistry.model_fields}, **changes})
    return document.model_copy(update={"chemistry": chemistry})


def _insert(items: tuple[Any, ...], item: Any, position: int | None) -> tuple[Any, ...]:
    at = len(items) if position is None else max(0, min(position, len(items)))
    return (*items[:at], item, *items[at:])


def _unit(document: Document, tag: str) -> Unit:
    unit = document.unit(tag)
    if unit is None:
        raise EditError(f"There is no unit {tag} on the sheet.")
    return unit


def _replace_unit(document: Document, tag: str, unit: Unit) -> Document:
    return document.model_copy(update={"units": tuple(unit if u.tag == tag else u for u in document.units)})


def _set_title(document: Document, edit: SetTitle) -> tuple[Document, Any, str]:
    return document.model_copy(update={"title": edit.title}), SetTitle(title=document.title), f"title -> {edit.title}"


def _set_unit_set(document: Document, edit: SetUnitSet) -> tuple[Document, Any, str]:
    if edit.name not in UNIT_SETS:
        raise EditError(f"There is no unit set {edit.name!r}; there are {', '.join(UNIT_SETS)}.")
    return document.model_copy(update={"unit_set": edit.name}), SetUnitSet(name=document.unit_set), f"units -> {edit.name}"


def _add_component(document: Document, edit: AddComponent) -> tuple[Document, Any, str]:
    items = document.chemistry.components
    if any(c.id == edit.component.id for c in items):
        raise EditError(f"{edit.component.id} is among the components already.")
    if edit.component.cas and any(c.cas == edit.component.cas for c in items):
        raise EditError(f"{edit.component.cas} is among the components already.")
    try:
        resolve(edit.component)
    except KeyError as error:
        raise EditError(str(error.args[0])) from error
    changed = _chemistry(document, components=_insert(items, edit.component, edit.position))
    return changed, RemoveComponent(id=edit.component.id), f"added component {edit.component.id}"


def _remove_component(document: Document, edit: RemoveComponent) -> tuple[Document, Any, str]:
    items = document.chemistry.components
    position = next((k for k, c in enumerate(items) if c.id == edit.id), None)
    if position is None:
        raise EditError(f"{edit.id} is not among the components.")
    changed = _chemistry(document, components=(*items[:position], *items[position + 1 :]))
    return changed, AddComponent(component=items[position], position=position), f"removed component {edit.id}"


def _set_constant(document: Document, edit: SetConstant) -> tuple[Document, Any, str]:
    items = document.chemistry.components
    item = next((c for c in items if c.id == edit.id), None)
    if item is None:
        raise EditError(f"{edit.id} is not among the components.")
    if item.own is not None:
        raise EditError(f"{edit.id} is an own component: change its constants there.")
    before = item.overrides.get(edit.name)
    overrides = {name: value for name, value in {**item.overrides, edit.name: edit.value}.items() if value is not None}
    try:
        new = DocumentComponent(id=item.id, cas=item.cas, overrides=overrides)
        resolve(new)
    except ValidationError as error:
        raise EditError(_plain(error.errors()[0]["msg"])) from error
    except ValueError as error:
        raise EditError(str(error)) from error
    changed = _chemistry(document, components=tuple(new if c is item else c for c in items))
    label = f"{edit.name.replace('_', ' ')} of {edit.id} -> {edit.value if edit.value is not None else 'that of the bank'}"
    return changed, SetConstant(id=edit.id, name=edit.name, value=before), label


def _set_model(document: Document, edit: SetModel) -> tuple[Document, Any, str]:
    old = document.chemistry.model
    return _chemistry(document, model=edit.model), SetModel(model=old), f"property model {old} -> {edit.model}"


def _set_pair(document: Document, edit: SetPair) -> tuple[Document, Any, str]:
    if edit.first == edit.second:
        raise EditError("A pair joins two different components of the plant.")
    model = edit.model or document.chemistry.model
    if not model_infos()[model].parameters:
        raise EditError(f"{model_infos()[model].title} has no pair parameters.")
    key = (frozenset((edit.first, edit.second)), model)
    places = {(frozenset((p.first, p.second)), p.model): k for k, p in enumerate(document.chemistry.pairs)}
    at = places.get(key)
    old = None if at is None else document.chemistry.pairs[at]
    kept = tuple(p for k, p in enumerate(document.chemistry.pairs) if k != at)
    new = None
    if edit.values is not None:
        given = {"values": edit.values, "source": edit.source, "quality": edit.quality}
        new = Pair.model_validate({"first": edit.first, "second": edit.second, "model": model, **given})
    changed = _chemistry(document, pairs=kept if new is None else _insert(kept, new, at))
    back = SetPair(first=edit.first, second=edit.second, model=model)
    if old is not None:
        back = SetPair(first=old.first, second=old.second, model=model, values=old.values, source=old.source, quality=old.quality)
    text = "cleared" if new is None else ", ".join(f"{name} {value:g}" for name, value in new.values.items())
    return changed, back, f"pair {edit.first} / {edit.second} -> {text}"


def _set_aim(document: Document, edit: SetAim) -> tuple[Document, Any, str]:
    at = next((k for k, a in enumerate(document.aims) if a.name == edit.name), None)
    if edit.aim is None and at is None:
        raise EditError(f"There is no aim {edit.name!r}.")
    if edit.aim is not None:
        _check_aim(document, edit.name, edit.aim)
    kept = tuple(a for a in document.aims if a.name != edit.name)
    aims = kept if edit.aim is None else _insert(kept, edit.aim, at if at is not None else edit.position)
    back = SetAim(name=edit.name, aim=None if at is None else document.aims[at], position=at)
    if edit.aim is None:
        label = f"removed aim {edit.name}"
    else:
        label = f"aim {edit.name} = {edit.aim.target} by {edit.aim.free.unit} {edit.aim.free.field}" + ("" if edit.aim.active else ", paused")
    return _updated(document, aims=aims), back, label


def _check_aim(document: Document, name: str, aim: Aim) -> None:
    if aim.name != name:
        raise EditError(f"The aim is named {aim.name!r}, not {name!r}.")
    unit = _unit(document, aim.free.unit)
    field = unit.operation.field_map().get(aim.free.field)
    if field is None or field.kind == "composition" or field.each:
        raise EditError(f"{aim.free.unit} has no single value {aim.free.field!r} that could be freed.")
    for bound in (aim.low, aim.high):
        try:
            _ = to_si(bound, field.kind) if bound is not None else None
        except QuantityError as error:
            raise EditError(str(error)) from error


def _set_pin(document: Document, edit: SetPin) -> tuple[Document, Any, str]:
    at = next((k for k, p in enumerate(document.pins) if p.name == edit.name), None)
    kept = tuple(p for p in document.pins if p.name != edit.name)
    if edit.formula is None and at is None:
        raise EditError(f"There is no pin {edit.name!r}.")
    pins = kept if edit.formula is None else _insert(kept, Pin(name=edit.name, formula=edit.formula), at if at is not None else edit.position)
    back = SetPin(name=edit.name, formula=None if at is None else document.pins[at].formula, position=at)
    label = f"unpinned {edit.name}" if edit.formula is None else f"pin {edit.name} = {edit.formula}"
    return _updated(document, pins=pins), back, label


def _set_data(document: Document, edit: SetData) -> tuple[Document, Any, str]:
    items, at, label = _exchanged(document.chemistry.data, edit.name, edit.data, edit.position, "data set")
    back = SetData(name=edit.data.name if edit.data else edit.name, data=None if at is None else document.chemistry.data[at], position=at)
    return _chemistry(document, data=items), back, label


def _set_fit(document: Document, edit: SetFit) -> tuple[Document, Any, str]:
    items, at, label = _exchanged(document.chemistry.fits, edit.name, edit.fit, edit.position, "fit")
    back = SetFit(name=edit.fit.name if edit.fit else edit.name, fit=None if at is None else document.chemistry.fits[at], position=at)
    return _chemistry(document, fits=items), back, label


def _exchanged(items: tuple[Any, ...], name: str, new: Any, position: int | None, what: str) -> tuple[tuple[Any, ...], int | None, str]:
    """The items with the one of a name replaced, added or taken out; where it was before; the label."""
    at = next((k for k, item in enumerate(items) if item.name == name), None)
    if new is None and at is None:
        raise EditError(f'There is no {what} "{name}".')
    kept = tuple(item for item in items if item.name != name)
    if new is None:
        return kept, at, f"removed {what} {name}"
    return _insert(kept, new, at if at is not None else position), at, f"{what} {new.name}"


def _add_unit(document: Document, edit: AddUnit) -> tuple[Document, Any, str]:
    _check_spec(edit.unit)
    changed = _updated(document, units=_insert(document.units, edit.unit, edit.position))
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
    changed = _updated(document, streams=_insert(document.streams, stream, edit.position))
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
    unknown = [key for key in edit.values if key not in fields]
    if unknown:
        raise EditError(f"{unit.tag} has no value {unknown[0]!r}; it has {', '.join(fields)}.")
    old = {key: getattr(unit.spec, key) for key in edit.values}
    spec_data = {**{k: getattr(unit.spec, k) for k in type(unit.spec).model_fields}, **edit.values}
    new = Unit(tag=unit.tag, type=unit.type, spec=type(unit.spec).model_validate(spec_data), x=unit.x, y=unit.y)
    _check_spec(new)
    back = {key: None if value is None else value.model_dump(mode="json") for key, value in old.items()}
    label = "; ".join(f"{unit.tag} {fields[k].title.lower()} {_text(old[k])} -> {_text(getattr(new.spec, k))}" for k in edit.values)
    return _replace_unit(document, unit.tag, new), SetValues(unit=unit.tag, values=back), label


def _check_spec(unit: Unit) -> None:
    problems = unit.operation.problems(unit.tag, unit.spec)
    if problems:
        raise EditError(problems[0].text)


def _text(value: Any) -> str:
    return "blank" if value is None else str(value) if hasattr(value, "unit") else "values"


def _rename(document: Document, edit: Rename) -> tuple[Document, Any, str]:
    if document.unit(edit.tag) is None and document.stream(edit.tag) is None:
        raise EditError(f"Nothing on the sheet is tagged {edit.tag}.")
    if edit.new != edit.tag and (document.unit(edit.new) or document.stream(edit.new)):
        raise EditError(f"The tag {edit.new} is taken already.")

    def end(e: End) -> End:
        return End(unit=edit.new, port=e.port) if e.unit == edit.tag else e

    units = tuple(u.model_copy(update={"tag": edit.new}) if u.tag == edit.tag else u for u in document.units)
    streams = tuple(Stream(tag=edit.new if s.tag == edit.tag else s.tag, source=end(s.source), target=end(s.target)) for s in document.streams)
    pins = tuple(Pin(name=p.name, formula=renamed(p.formula, edit.tag, edit.new)) for p in document.pins)
    aims = tuple(_renamed_aim(a, edit.tag, edit.new) for a in document.aims)
    back: Any = Rename(tag=edit.new, new=edit.tag)
    # Pins and aims that spoke of the new tag before, when nothing had it, must not follow it back.
    strayed: list[Any] = [SetPin(name=p.name, formula=p.formula) for p in document.pins if renamed(p.formula, edit.new, edit.tag) != p.formula]
    strayed += [SetAim(name=a.name, aim=a) for a in document.aims if _renamed_aim(a, edit.new, edit.tag) != a]
    if strayed:
        back = Batch(edits=(back, *strayed), label=f"renamed {edit.new} -> {edit.tag}")
    return _updated(document, units=units, streams=streams, pins=pins, aims=aims), back, f"renamed {edit.tag} -> {edit.new}"


def _renamed_aim(aim: Aim, old: str, new: str) -> Aim:
    free = aim.free.model_copy(update={"unit": new}) if aim.free.unit == old else aim.free
    return aim.model_copy(update={"formula": renamed(aim.formula, old, new), "free": free})


def _move(document: Document, edit: Move) -> tuple[Document, Any, str]:
    back = {tag: (_unit(document, tag).x, _unit(document, tag).y) for tag in edit.places}
    if not all(abs(v) < 1e6 for place in edit.places.values() for v in place):
        raise EditError("The place is off the sheet.")
    units = tuple(
        u.model_copy(update={"x": edit.places[u.tag][0], "y": edit.places[u.tag][1]}) if u.tag in edit.places else u for u in document.units
    )
    return document.model_copy(update={"units": units}), Move(places=back), f"moved {', '.join(list(edit.places)[:4])}"


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
    "add_component": _add_component,
    "remove_component": _remove_component,
    "set_constant": _set_constant,
    "set_model": _set_model,
    "set_pair": _set_pair,
    "set_pin": _set_pin,
    "set_aim": _set_aim,
    "set_data": _set_data,
    "set_fit": _set_fit,
    "add_unit": _add_unit,
    "remove_unit": _remove_unit,
    "connect": _connect,
    "disconnect": _disconnect,
    "set_values": _set_values,
    "rename": _rename,
    "move": _move,
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
