"""The way of the compositions of a column's stages through the triangle of three components."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

#: Share of three components in a phase below which the rest is worth a word, and below which they have no place in their triangle.
_ALL, _NONE = 0.999, 1e-9
#: What is followed: columns of profiles with what they are called.
_FOLLOWED = (("liquid_fraction", "liquid on the stages"), ("vapour_fraction", "vapour on the stages"))


def stage_paths(unit: str, profiles: Sequence[Mapping[str, Any]], components: Sequence[str]) -> list[dict[str, Any]]:
    """Paths for a question about residue curves, of the ``profiles`` (plain data) of the column ``unit``, by the shares of three components in them.

    Raises ValueError where the stages do not hold all three.

    >>> column = {"key": "liquid_fraction", "values": [0.5, 0.2]}
    >>> three = [{**column, "component": name} for name in ("a", "b")] + [{**column, "component": "c", "values": [0.0, 0.6]}]
    >>> along = {"values": [1.0, 2.0]}
    >>> stage_paths("T-1", [{"key": "stages", "along": along, "columns": three}], ["a", "b", "c"])[0]["places"]
    [[0.5, 0.5, 0.0], [0.2, 0.2, 0.6]]
    """
    profile = next((p for p in profiles if p["key"] == "stages"), None)
    if profile is None:
        raise ValueError(f"{unit} has no stages that are calculated.")
    columns = {(c["key"], c["component"]): c["values"] for c in profile["columns"] if c.get("component")}
    found = []
    for key, name in _FOLLOWED:
        parts = [columns.get((key, component)) for component in components]
        if any(part is None for part in parts):
            continue
        places, rest = [], False
        for row in zip(*parts, strict=True):
            total = sum(row)
            rest = rest or total < _ALL
            if total > _NONE:
                places.append([value / total for value in row])
        found.append({"name": f"{name} of {unit}" + (", of these three" if rest else ""), "places": places})
    if not found:
        raise ValueError(f"The stages of {unit} do not hold {', '.join(components)}.")
    return found
