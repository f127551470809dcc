"""Steel pipes by nominal size and schedule, and the heat that passes through wall and insulation."""

from __future__ import annotations

import json
import math
from collections.abc import Sequence
from functools import lru_cache
from importlib.resources import files

#: W/(m K) of carbon steel.
STEEL = 45.0


@lru_cache(maxsize=1)
def pipe_sizes() -> dict[str, dict[str, tuple[float, float]]]:
    """Outer diameter and wall (m) by schedule and nominal size (ASME B36.10M; with an S B36.19M)."""
    known = json.loads(files("wattaxis.equipment").joinpath("pipe_sizes.json").read_text(encoding="utf-8"))
    return {schedule: {size: (outer / 1e3, wall / 1e3) for size, (outer, wall) in rows.items()} for schedule, rows in known.items()}


def pipe_of(size: str, schedule: str) -> tuple[float, float]:
    """Inner diameter and wall (m) of a nominal size. Raises ValueError with the schedules that the size has.

    >>> inner, wall = pipe_of("DN 100", "40")
    >>> round(1e3 * inner, 2), round(1e3 * wall, 2)
    (102.26, 6.02)
    """
    found = pipe_sizes().get(schedule, {}).get(size)
    if found is None:
        offered = ", ".join(name for name, rows in pipe_sizes().items() if size in rows)
        raise ValueError(f"{size} is not made in schedule {schedule}" + (f"; it is in {offered}" if offered else ""))
    outer, wall = found
    return outer - 2.0 * wall, wall


def overall_coefficient(inner: float, layers: Sequence[tuple[float, float]], outside: float) -> float:
    """Overall heat transfer coefficient (W/(m2 K)) on the inner surface of a pipe (m).

    ``layers`` from the inside out: thickness (m), conductivity (W/(m K)); ``outside`` W/(m2 K) on the outermost surface. The film inside is left out,
    which lets a little too much pass. Conduction through cylinders in series (VDI Heat Atlas 2010, E1).

    >>> round(overall_coefficient(0.1, [(0.05, 0.04)], 10.0), 3)
    1.091
    """
    radius = inner / 2.0
    resistance = 0.0
    for thickness, conductivity in layers:
        if thickness > 0.0:
            resistance += math.log((radius + thickness) / radius) / conductivity
            radius += thickness
    return 1.0 / (inner / 2.0 * (resistance + 1.0 / (outside * radius)))
