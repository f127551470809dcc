"""Small plants for tests."""

from __future__ import annotations

from importlib.resources import files
from typing import Any

from wattaxis import Document, load
from wattaxis.flowsheet.document import load_data


def example(name: str) -> Document:
    return load(files("wattaxis.examples").joinpath(f"{name}.json").read_text(encoding="utf-8"))


def demo() -> Document:
    return example("sandlark_bay")


def q(text: str) -> dict[str, Any]:
    number, _, unit = text.partition(" ")
    return {"value": float(number), "unit": unit}


def points(rows: list[list[float | None]], flow: str = "m3/h", head: str = "m", efficiency: str = "%") -> dict[str, Any]:
    """The curve of a machine from rows of volume flow, head and efficiency."""
    units = {"flow": flow, "head": head, "efficiency": efficiency}
    cells = [{key: {"value": cell, "unit": unit} for (key, unit), cell in zip(units.items(), row, strict=True) if cell is not None} for row in rows]
    return {"rows": [{"id": str(number), "cells": row} for number, row in enumerate(cells, 1)]}


def plant(
    components: list[tuple[str, str]],
    units: dict[str, tuple[str, dict[str, Any]]],
    streams: list[str],
    model: str = "peng-robinson",
    solids: tuple[tuple[str, str], ...] = (),
    reactions: list[dict[str, Any]] | None = None,
) -> Document:
    """``components`` and ``solids``: (name, CAS). ``units``: tag -> (type, spec). ``streams``: "S-1: F.outlet -> E.inlet". ``reactions``: sets."""
    drawn = []
    for text in streams:
        tag, _, ends = text.partition(": ")
        source, target = (dict(zip(("unit", "port"), end.strip().rsplit(".", 1), strict=True)) for end in ends.split("->"))
        drawn.append({"tag": tag, "source": source, "target": target})
    known = [{"id": name, "cas": cas} for name, cas in components] + [{"id": name, "cas": cas, "solid": True} for name, cas in solids]
    return load_data(
        {
            "format": "wattaxis-flowsheet",
            "version": 13,
            "chemistry": {"components": known, "model": model, "reactions": reactions or []},
            "units": [{"tag": tag, "type": kind, "spec": spec} for tag, (kind, spec) in units.items()],
            "streams": drawn,
        }
    )


def converts(numbers: dict[str, float], name: str = "Main") -> list[dict[str, Any]]:
    """The reaction sets of a plant with one reaction, R1."""
    return [{"name": name, "reactions": [{"name": "R1", "numbers": numbers}]}]


def conversions(*rows: tuple[str, ...], name: str = "Main", **spec: Any) -> tuple[str, dict[str, Any]]:
    """A conversion reactor; ``rows``: (reaction, conversion) or (reaction, conversion, base component)."""
    cells = [dict(zip(("reaction", "conversion", "component"), (row[0], q(row[1]), *row[2:]), strict=False)) for row in rows]
    table = {"rows": [{"id": str(number), "cells": row} for number, row in enumerate(cells, 1)]}
    return "conversion-reactor", {"reactions": name, "conversions": table, **spec}


C4 = [("propane", "74-98-6"), ("n-butane", "106-97-8"), ("n-pentane", "109-66-0")]


def feed(
    flow: str = "100 kmol/h", temperature: str = "320 K", pressure: str = "10 bar", parts: tuple[float, ...] = (0.3, 0.4, 0.3)
) -> tuple[str, dict[str, Any]]:
    values = {name: {"value": x} for (name, _), x in zip(C4, parts, strict=True)}
    return "feed", {
        "temperature": q(temperature),
        "pressure": q(pressure),
        "flow": q(flow),
        "composition": {"basis": "mole_fraction", "values": values},
    }
