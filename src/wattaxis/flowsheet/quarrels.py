"""Which parts of a document an edit changes, and whether two edits quarrel over one."""

from __future__ import annotations

from typing import Any


def touches(edit: Any) -> set[str]:
    """Names of the parts of a document that an edit changes; two edits quarrel when they share one.

    A part is written as a path ("unit/E-101/duty"); a whole unit ("unit/E-101") shares all its paths.
    """
    simple = {"set_title": "title", "set_unit_set": "units", "set_model": "model"}
    if edit.kind in simple:
        return {simple[edit.kind]}
    if edit.kind == "replace_all":
        return {"everything"}
    if edit.kind == "batch":
        return set().union(*(touches(part) for part in edit.edits)) if edit.edits else set()
    if edit.kind == "set_values":
        return {f"unit/{edit.unit}/{key}" for key in edit.values}
    if edit.kind == "move":
        return {f"unit/{tag}/place" for tag in edit.places}
    if edit.kind in ("add_component", "remove_component"):
        return {f"component/{edit.component.id if edit.kind == 'add_component' else edit.id}"}
    if edit.kind == "set_constant":
        return {f"component/{edit.id}/{edit.name}"}
    if edit.kind in ("flip", "set_unit_model"):
        return {f"unit/{tag}/{edit.kind}" for tag in (edit.tags if edit.kind == "flip" else (edit.tag,))}
    if edit.kind == "place_piece":
        return {f"unit/{unit.tag}" for unit in edit.piece.units}
    if edit.kind == "insert_in_line":
        return {f"stream/{edit.stream}", f"unit/{edit.unit.tag}"}
    if edit.kind == "swap_outlets":
        return {f"stream/{edit.first}", f"stream/{edit.second}"}
    if edit.kind == "renumber":
        return {f"unit/{tag}" for tag in edit.tags}
    if edit.kind == "set_shown":
        return {f"shown/{edit.of}"}
    if edit.kind == "set_tear":
        return {f"stream/{edit.tag}/torn"}
    if edit.kind in ("set_units", "set_pin", "set_aim", "set_data", "set_fit", "set_note", "set_area"):
        return {f"{edit.kind[4:]}/{edit.name}"}
    if edit.kind == "set_pair":
        return {"pair/" + "+".join(sorted((edit.first, edit.second)))}
    if edit.kind == "connect":
        stream = edit.stream
        ends = {f"unit/{e.unit}/port/{e.port}" for e in (stream.source, stream.target)}
        return {f"stream/{stream.tag}"} | ends
    if edit.kind == "disconnect":
        return {f"stream/{edit.tag}"}
    tag = edit.unit.tag if edit.kind == "add_unit" else edit.tag
    return {f"unit/{tag}", f"stream/{tag}"} | ({f"unit/{edit.new}", f"stream/{edit.new}"} if edit.kind == "rename" else set())


def quarrel(first: Any, second: Any) -> set[str]:
    """The parts over which two edits quarrel; empty when both can stand. One that replaces everything quarrels with all others."""
    if "replace_all" in (first.kind, second.kind):
        return {"everything"}
    mine, theirs = touches(first), touches(second)
    return {a for a in mine for b in theirs if a == b or a.startswith(b + "/") or b.startswith(a + "/")}
