"""What is different between two pieces of plain data, as a JSON Patch (RFC 6902), so that only what changed travels."""

from __future__ import annotations

from typing import Any

#: How deep differences are told apart: the value of a unit, the state of a stream. What lies deeper travels with what holds it.
DEPTH = 4
Patch = list[dict[str, Any]]


def patch(before: Any, after: Any) -> Patch:
    """The operations that make ``after`` of ``before``; in time linear in their size.

    Equal is what Python calls so: in typed data a number never stands where there was true or false.
    """
    found: Patch = []
    _compare(found, "", before, after, DEPTH)
    return found


def _compare(found: Patch, path: str, before: Any, after: Any, depth: int) -> None:
    if before is after or (before == after and type(before) is type(after)):
        return
    if depth and isinstance(before, dict) and isinstance(after, dict):
        _compare_dicts(found, path, before, after, depth)
    elif depth and isinstance(before, list) and isinstance(after, list):
        _compare_lists(found, path, before, after, depth)
    else:
        found.append({"op": "replace", "path": path, "value": after})


def _compare_dicts(found: Patch, path: str, before: dict[str, Any], after: dict[str, Any], depth: int) -> None:
    found += [{"op": "remove", "path": _below(path, key)} for key in before if key not in after]
    for key, value in after.items():
        if key in before:
            _compare(found, _below(path, key), before[key], value, depth - 1)
        else:
            found.append({"op": "add", "path": _below(path, key), "value": value})


def _compare_lists(found: Patch, path: str, before: list[Any], after: list[Any], depth: int) -> None:
    """Rows that have gone go first, from the end; then those that are new come in at their places; what is left stands beside its like."""
    rows, wanted = [_name(row) for row in before], [_name(row) for row in after]
    new = set(wanted)
    if None in rows or None in new or len(new) < len(wanted) or len(set(rows)) < len(rows):
        _compare_by_place(found, path, before, after, depth)
        return
    left = [row for row, name in zip(before, rows, strict=True) if name in new]
    known = {_name(row) for row in left}
    if [_name(row) for row in left] != [name for name in wanted if name in known]:
        found.append({"op": "replace", "path": path, "value": after})  # in another order
        return
    found += [{"op": "remove", "path": _below(path, k)} for k in range(len(rows) - 1, -1, -1) if rows[k] not in new]
    found += [{"op": "add", "path": _below(path, k), "value": after[k]} for k, name in enumerate(wanted) if name not in known]
    same = [k for k, name in enumerate(wanted) if name in known]
    for k, row in zip(same, left, strict=True):
        _compare(found, _below(path, k), row, after[k], depth - 1)


def _compare_by_place(found: Patch, path: str, before: list[Any], after: list[Any], depth: int) -> None:
    """Rows without names: those at the beginning and at the end that are alike stay."""
    shorter = min(len(before), len(after))
    first = next((k for k in range(shorter) if before[k] != after[k]), shorter)
    last = next((k for k in range(shorter - first) if before[-1 - k] != after[-1 - k]), shorter - first)
    gone, come = before[first : len(before) - last], after[first : len(after) - last]
    both = min(len(gone), len(come))
    for k in range(both):
        _compare(found, _below(path, first + k), gone[k], come[k], depth - 1)
    found += [{"op": "remove", "path": _below(path, first + k)} for k in range(len(gone) - 1, both - 1, -1)]
    found += [{"op": "add", "path": _below(path, first + k), "value": come[k]} for k in range(both, len(come))]


def _name(row: Any) -> str | None:
    """What a row of a document is known by."""
    name = (row.get("tag") or row.get("id")) if isinstance(row, dict) else None
    return name if isinstance(name, str) else None


def _below(path: str, key: str | int) -> str:
    return f"{path}/{str(key).replace('~', '~0').replace('/', '~1')}"
