"""What the editing operations share."""

from __future__ import annotations

from typing import Any

from wattaxis.flowsheet.chemistry import Chemistry
from wattaxis.flowsheet.document import Document
from wattaxis.flowsheet.edit_kinds import EditError


def updated(document: Document, **changes: Any) -> Document:
    """The document with parts replaced, checked again."""
    return Document.model_validate({**{name: getattr(document, name) for name in Document.model_fields}, **changes})


def changed_chemistry(document: Document, **changes: Any) -> Document:
    """The document with parts of its chemistry replaced."""
    chemistry = Chemistry.model_validate({**{name: getattr(document.chemistry, name) for name in Chemistry.model_fields}, **changes})
    return document.model_copy(update={"chemistry": chemistry})


def insert(items: tuple[Any, ...], item: Any, position: int | None) -> tuple[Any, ...]:
    """The items with one more at a position, or at the end."""
    at = len(items) if position is None else max(0, min(position, len(items)))
    return (*items[:at], item, *items[at:])


def exchanged(items: tuple[Any, ...], name: str, new: Any, position: int | None, what: str) -> tuple[tuple[Any, ...], int | None, str]:
    """The items with the one of a name replaced, added or taken out; where it was before; the label."""
    at = next((k for k, item in enumerate(items) if item.name == name), None)
    if new is None and at is None:
        raise EditError(f'There is no {what} "{name}".')
    kept = tuple(item for item in items if item.name != name)
    if new is None:
        return kept, at, f"removed {what} {name}"
    return insert(kept, new, at if at is not None else position), at, f"{what} {new.name}"
