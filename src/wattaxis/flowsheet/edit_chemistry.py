"""What the editing operations on the chemistry do: each gives the changed document, the inverse edit and a label for the history."""

from __future__ import annotations

from typing import Any

from pydantic import ValidationError

from wattaxis.flowsheet.chemistry import DocumentComponent, Pair
from wattaxis.flowsheet.document import Document, Unit, _plain
from wattaxis.flowsheet.edit_common import changed_chemistry, exchanged, insert
from wattaxis.flowsheet.edit_kinds import (
    AddComponent,
    EditError,
    RemoveComponent,
    SetConstant,
    SetCurve,
    SetData,
    SetFit,
    SetModel,
    SetPair,
    SetPrice,
    SetReaction,
    SetReactions,
    SetStandsFor,
    SetVapourPressure,
)
from wattaxis.flowsheet.givens import with_names
from wattaxis.flowsheet.model import resolve
from wattaxis.flowsheet.reactions import TypedReactionSet
from wattaxis.properties.registry import model_infos


def add_component(document: Document, edit: AddComponent) -> tuple[Document, Any, str]:
    """Adds a component of the bank or of one's own."""
    items = document.chemistry.components
    if any(c.id == edit.component.id for c in items):
        raise EditError(f"{edit.component.id} is among the components already.")
    if edit.component.cas and any((c.cas, c.is_solid) == (edit.component.cas, edit.component.is_solid) for c in items):
        raise EditError(f"{edit.component.cas} is among the components already.")
    try:
        resolve(edit.component)
    except KeyError as error:
        raise EditError(str(error.args[0])) from error
    changed = changed_chemistry(document, components=insert(items, edit.component, edit.position))
    return changed, RemoveComponent(id=edit.component.id), f"added component {edit.component.id}"


def remove_component(document: Document, edit: RemoveComponent) -> tuple[Document, Any, str]:
    """Takes a component out."""
    items = document.chemistry.components
    position = next((k for k, c in enumerate(items) if c.id == edit.id), None)
    if position is None:
        raise EditError(f"{edit.id} is not among the components.")
    changed = changed_chemistry(document, components=(*items[:position], *items[position + 1 :]))
    return changed, AddComponent(component=items[position], position=position), f"removed component {edit.id}"


def set_constant(document: Document, edit: SetConstant) -> tuple[Document, Any, str]:
    """An own value for a constant of the bank."""
    items = document.chemistry.components
    item = next((c for c in items if c.id == edit.id), None)
    if item is None:
        raise EditError(f"{edit.id} is not among the components.")
    if item.is_own:
        raise EditError(f"{edit.id} is an own component: change its constants there.")
    before = item.overrides.get(edit.name)
    overrides = {name: value for name, value in {**item.overrides, edit.name: edit.value}.items() if value is not None}
    try:
        new = DocumentComponent.model_validate({**_parts(item), "overrides": overrides})
        resolve(new)
    except ValidationError as error:
        raise EditError(_plain(error.errors()[0]["msg"])) from error
    except ValueError as error:
        raise EditError(str(error)) from error
    changed = changed_chemistry(document, components=tuple(new if c is item else c for c in items))
    label = f"{edit.name.replace('_', ' ')} of {edit.id} -> {edit.value if edit.value is not None else 'that of the bank'}"
    return changed, SetConstant(id=edit.id, name=edit.name, value=before), label


def _with(document: Document, id: str, **parts: Any) -> tuple[Document, DocumentComponent]:
    """The document with parts of a component replaced, and the component as it was."""
    items = document.chemistry.components
    item = next((c for c in items if c.id == id), None)
    if item is None:
        raise EditError(f"{id} is not among the components.")
    new = DocumentComponent.model_validate({**_parts(item), **parts})
    return changed_chemistry(document, components=tuple(new if c is item else c for c in items)), item


def set_vapour_pressure(document: Document, edit: SetVapourPressure) -> tuple[Document, Any, str]:
    """A vapour pressure of one's own."""
    changed, item = _with(document, edit.id, vapour_pressure=edit.vapour_pressure)
    label = f"vapour pressure of {edit.id} -> {edit.vapour_pressure.source if edit.vapour_pressure else 'that of the bank'}"
    return changed, SetVapourPressure(id=edit.id, vapour_pressure=item.vapour_pressure), label


def set_price(document: Document, edit: SetPrice) -> tuple[Document, Any, str]:
    """What a component is worth."""
    changed, item = _with(document, edit.id, price=edit.price)
    return changed, SetPrice(id=edit.id, price=item.price), f"price of {edit.id} -> {edit.price if edit.price is not None else 'none'}"


def set_curve(document: Document, edit: SetCurve) -> tuple[Document, Any, str]:
    """A curve over temperature of one's own."""
    item = next((c for c in document.chemistry.components if c.id == edit.id), None)
    curves = {name: curve for name, curve in {**(item.curves if item else {}), edit.name: edit.curve}.items() if curve is not None}
    try:
        changed, before = _with(document, edit.id, curves=curves)
    except ValidationError as error:
        raise EditError(_plain(error.errors()[0]["msg"])) from error
    label = f"{edit.name} of {edit.id} -> {f'{len(edit.curve.rows)} points of its own' if edit.curve else 'that of the bank'}"
    return changed, SetCurve(id=edit.id, name=edit.name, curve=before.curves.get(edit.name)), label


def set_stands_for(document: Document, edit: SetStandsFor) -> tuple[Document, Any, str]:
    """What a component stands in for."""
    changed, item = _with(document, edit.id, stands_for=edit.text)
    return changed, SetStandsFor(id=edit.id, text=item.stands_for), f"{edit.id} stands for {edit.text or 'itself'}"


def _parts(item: DocumentComponent) -> dict[str, Any]:
    return {name: getattr(item, name) for name in DocumentComponent.model_fields}


def set_model(document: Document, edit: SetModel) -> tuple[Document, Any, str]:
    """Another property model, vapour or treatment of volumes."""
    given = {name: value for name in ("model", "vapour", "translated") if (value := getattr(edit, name)) is not None}
    if not given:
        raise EditError("Name a model, a vapour, or whether volumes are shifted.")
    old = {name: getattr(document.chemistry, name) for name in given}
    words = {"model": "property model", "vapour": "vapour", "translated": "shifted volumes"}
    label = "; ".join(f"{words[name]} {old[name]} -> {given[name]}" for name in given)
    return changed_chemistry(document, **given), SetModel(**old), label


def set_pair(document: Document, edit: SetPair) -> tuple[Document, Any, str]:
    """Own interaction parameters of a pair."""
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
    changed = changed_chemistry(document, pairs=kept if new is None else insert(kept, new, at))
    back = SetPair(first=edit.first, second=edit.second, model=model)
    if old is not None:
        back = SetPair(first=old.first, second=old.second, model=model, values=old.values, source=old.source, quality=old.quality)
    text = "cleared" if new is None else ", ".join(f"{name} {value:g}" for name, value in new.values.items())
    return changed, back, f"pair {edit.first} / {edit.second} -> {text}"


def set_data(document: Document, edit: SetData) -> tuple[Document, Any, str]:
    """A set of measured data."""
    items, at, label = exchanged(document.chemistry.data, edit.name, edit.data, edit.position, "data set")
    back = SetData(name=edit.data.name if edit.data else edit.name, data=None if at is None else document.chemistry.data[at], position=at)
    return changed_chemistry(document, data=items), back, label


def set_fit(document: Document, edit: SetFit) -> tuple[Document, Any, str]:
    """A fit that is kept."""
    items, at, label = exchanged(document.chemistry.fits, edit.name, edit.fit, edit.position, "fit")
    back = SetFit(name=edit.fit.name if edit.fit else edit.name, fit=None if at is None else document.chemistry.fits[at], position=at)
    return changed_chemistry(document, fits=items), back, label


def set_reactions(document: Document, edit: SetReactions) -> tuple[Document, Any, str]:
    """A set of reactions; units that name it follow when it is given another name."""
    before = document.chemistry.reactions
    new = edit.reactions
    if new is not None and new.name != edit.name and any(of.name == new.name for of in before):
        raise EditError(f'There is a reaction set "{new.name}" already.')
    items, at, label = exchanged(before, edit.name, new, edit.position, "reaction set")
    changed = changed_chemistry(document, reactions=items)
    if new is not None and at is not None and new.name != edit.name:
        if named := [unit.tag for unit in document.units if _renamed_set(unit, new.name, "") is not unit]:
            raise EditError(f'{", ".join(named)} names a reaction set "{new.name}" already; choose another name.')
        changed = changed.model_copy(update={"units": tuple(_renamed_set(unit, edit.name, new.name) for unit in changed.units)})
    back = SetReactions(name=new.name if new else edit.name, reactions=None if at is None else before[at], position=at)
    return changed, back, label


def _renamed_set(unit: Unit, old: str, new: str) -> Unit:
    keys = [key for key in unit.operation.reaction_fields() if getattr(unit.spec, key) == old]
    return unit.model_copy(update={"spec": unit.spec.model_copy(update=dict.fromkeys(keys, new))}) if keys else unit


def _renamed_reaction(unit: Unit, of: str, old: str, new: str) -> Unit:
    """A unit whose tables name a reaction of a set, after that was renamed."""
    if of not in {getattr(unit.spec, key) for key in unit.operation.reaction_fields()}:
        return unit
    return with_names(unit, "reaction", old, new)


def set_reaction(document: Document, edit: SetReaction) -> tuple[Document, Any, str]:
    """One reaction of a set."""
    of = next((found for found in document.chemistry.reactions if found.name == edit.of), None)
    if of is None:
        raise EditError(f'There is no reaction set "{edit.of}".')
    if edit.reaction is not None and edit.reaction.name != edit.name and any(r.name == edit.reaction.name for r in of.reactions):
        raise EditError(f'{edit.of} has a reaction "{edit.reaction.name}" already.')
    reactions, at, label = exchanged(of.reactions, edit.name, edit.reaction, edit.position, "reaction")
    new = TypedReactionSet.model_validate({**{name: getattr(of, name) for name in TypedReactionSet.model_fields}, "reactions": reactions})
    items = tuple(new if found is of else found for found in document.chemistry.reactions)
    name = edit.reaction.name if edit.reaction else edit.name
    if at is not None and name != edit.name:
        if named := [unit.tag for unit in document.units if _renamed_reaction(unit, edit.of, name, "") != unit]:
            raise EditError(f'{", ".join(named)} names a reaction "{name}" of {edit.of} already; choose another name.')
        document = document.model_copy(update={"units": tuple(_renamed_reaction(unit, edit.of, edit.name, name) for unit in document.units)})
    back = SetReaction(of=edit.of, name=name, reaction=None if at is None else of.reactions[at], position=at)
    return changed_chemistry(document, reactions=items), back, f"{label} of {edit.of}"
