"""Which parts of a document an edit changes, and whether two edits quarrel over one."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from wattaxis.flowsheet.givens import path_of


def _values(edit: Any) -> set[str]:
    paths = ((key, path_of(key)) for key in edit.values)
    return {"/".join(("unit", edit.unit, *(path.parts if path else (key,)))) for key, path in paths}


def _row(edit: Any) -> set[str]:
    # A new row without a number gets one of its own: two people may add one each.
    return {f"unit/{edit.unit}/{edit.field}/{edit.row or f'new {id(edit)}'}"}


def _connected(edit: Any) -> set[str]:
    stream = edit.stream
    return {f"stream/{stream.tag}", *(f"unit/{end.unit}/port/{end.port}" for end in (stream.source, stream.target))}


def _renamed(edit: Any) -> set[str]:
    return {f"{what}/{tag}" for what in ("unit", "stream") for tag in (edit.tag, edit.new)}


def _named(edit: Any) -> set[str]:
    return {f"{edit.kind[4:]}/{edit.name}"}


def _set_of_reactions(edit: Any) -> set[str]:
    other = edit.reactions.name if edit.reactions is not None else edit.name
    # Another name goes through all units that use it.
    return {f"reactions/{edit.name}", *({f"reactions/{other}", "unit"} if other != edit.name else ())}


def _reaction(edit: Any) -> set[str]:
    other = edit.reaction.name if edit.reaction is not None else edit.name
    # Another name changes the units whose tables name the reaction.
    return {*(f"reactions/{edit.of}/{name}" for name in (edit.name, other)), *(["unit"] if other != edit.name else [])}


def _of_units(*tags: str, part: str = "") -> set[str]:
    return {f"unit/{tag}{part}" for tag in tags}


#: What each kind of edit changes. A part is written as a path ("unit/E-101/duty"); a whole unit ("unit/E-101") shares all its paths.
_PARTS: dict[str, Callable[[Any], set[str]]] = {
    "set_title": lambda e: {"title"},
    "set_unit_set": lambda e: {"units"},
    "set_model": lambda e: {"model"},
    "replace_all": lambda e: {"everything"},
    "batch": lambda e: {part for one in e.edits for part in touches(one)},
    "add_component": lambda e: {f"component/{e.component.id}"},
    "remove_component": lambda e: {f"component/{e.id}"},
    "set_constant": lambda e: {f"component/{e.id}/{e.name}"},
    "set_curve": lambda e: {f"component/{e.id}/curve {e.name}"},
    "set_price": lambda e: {f"component/{e.id}/price"},
    "set_stands_for": lambda e: {f"component/{e.id}/stands for"},
    "set_vapour_pressure": lambda e: {f"component/{e.id}/vapour pressure"},
    "set_pair": lambda e: {"pair/" + "+".join(sorted((e.first, e.second)))},
    "set_reactions": _set_of_reactions,
    "set_reaction": _reaction,
    "set_values": _values,
    "set_row": _row,
    "set_unit_model": lambda e: _of_units(e.tag, part="/model"),
    "add_unit": lambda e: {f"unit/{e.unit.tag}", f"stream/{e.unit.tag}"},
    "remove_unit": lambda e: {f"unit/{e.tag}", f"stream/{e.tag}"},
    "connect": _connected,
    "disconnect": lambda e: {f"stream/{e.tag}"},
    "rename": _renamed,
    "move": lambda e: _of_units(*e.places, part="/place"),
    "flip": lambda e: _of_units(*e.tags, part="/mirrored"),
    "turn": lambda e: _of_units(*e.tags, part="/turned"),
    "set_shown": lambda e: {f"shown/{e.of}"},
    "set_tear": lambda e: {f"stream/{e.tag}/torn"},
    **dict.fromkeys(("set_units", "set_pin", "set_aim", "set_study", "set_data", "set_fit", "set_note", "set_area", "set_table"), _named),
    "place_piece": lambda e: _of_units(*(unit.tag for unit in e.piece.units)),
    "insert_in_line": lambda e: {f"stream/{e.stream}", f"unit/{e.unit.tag}"},
    "take_out": lambda e: {f"unit/{e.tag}", f"stream/{e.tag}"},
    "swap_outlets": lambda e: {f"stream/{e.first}", f"stream/{e.second}"},
    "reverse": lambda e: {f"stream/{e.tag}"},
    "renumber": lambda e: _of_units(*e.tags),
}


def touches(edit: Any) -> set[str]:
    """Names of the parts of a document that an edit changes; two edits quarrel when they share one."""
    return _PARTS[edit.kind](edit)


def quarrel(first: Any, second: Any) -> set[str]:
    """The parts over which two edits quarrel; empty when both can stand. One that replaces everything quarrels with all others."""
    if "replace_all" in (first.kind, second.kind):
        return {"everything"}
    mine, theirs = touches(first), touches(second)
    return {a for a in mine for b in theirs if a == b or a.startswith(b + "/") or b.startswith(a + "/")}
