"""What a diagram is: curves and marks over two axes, or in a composition triangle, as plain numbers in SI units."""

from __future__ import annotations

import csv
import io
import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from wattaxis.properties.tables import html_table
from wattaxis.quantities import KINDS

#: What can be drawn of a conventional solid.
SOLID_HEAT_CAPACITY = "solid heat capacity"
Array = NDArray[np.float64]


@dataclass(frozen=True)
class Axis:
    """An axis: title, kind of quantity (a key of the kinds of Wattaxis), and whether a logarithmic scale suits it."""

    title: str
    kind: str = "fraction"
    log: bool = False

    @property
    def unit(self) -> str:
        """The SI unit of the numbers on it."""
        return KINDS[self.kind].si[0]

    @property
    def heading(self) -> str:
        """Title and unit, for the head of a table."""
        return f"{self.title}, {self.unit}" if self.unit else self.title


@dataclass(frozen=True)
class Curve:
    """A named line through points of shape (points, columns); a row of nan lifts the pen. ``points`` (columns 2: x, y; 3: mole fractions)."""

    name: str
    points: Array
    #: "line", "dashed" for what is extrapolated or beside the matter, "points" for single points, "path" for points that follow each other.
    role: str = "line"
    #: Temperatures of the points (K; nan where there is none), where no axis shows them.
    temperatures: Array | None = None

    def numbers(self) -> Array:
        """The points with their temperatures as a last column where they have some; a lifted pen left out."""
        whole = np.isfinite(self.points).all(axis=1)
        shown = self.points if self.temperatures is None else np.column_stack([self.points, self.temperatures])
        return np.asarray(shown[whole])


@dataclass(frozen=True)
class Mark:
    """A point of interest: its name, its place, what is said of it, and its temperature (K) where no axis shows it."""

    name: str
    place: tuple[float, ...]
    text: str = ""
    temperature: float | None = None


@dataclass(frozen=True)
class Diagram:
    """Curves and marks. ``axes`` are two, or the three components of a composition triangle; ``notes`` are what a reader must know.

    >>> diagram = Diagram("A line", (Axis("x"), Axis("temperature", "temperature")), (line("one", [[0.0, 1.0], [300.0, 310.0]]),))
    >>> diagram.to_csv().splitlines()[0]
    'curve,x,"temperature, K"'
    """

    title: str
    axes: tuple[Axis, ...]
    curves: tuple[Curve, ...]
    marks: tuple[Mark, ...] = ()
    notes: tuple[str, ...] = ()

    def rows(self) -> list[list[str | float]]:
        """A heading, then one row a point: curve, numbers; the marks last."""
        hot = any(c.temperatures is not None for c in self.curves)
        head: list[list[str | float]] = [["curve", *(axis.heading for axis in self.axes), *(["temperature, K"] if hot else [])]]
        points: list[list[str | float]] = [[c.name, *map(float, row)] for c in self.curves for row in c.numbers()]
        return head + points + [[mark.name, *mark.place, *([mark.temperature or math.nan] if hot else [])] for mark in self.marks]

    def to_csv(self) -> str:
        """The numbers as comma-separated text, SI units in the heading."""
        text = io.StringIO()
        csv.writer(text, lineterminator="\n").writerows(self.rows())
        return text.getvalue()

    def to_data(self) -> dict[str, Any]:
        """Plain data for JSON, SI; where the pen is lifted a point is None."""
        return {
            "title": self.title,
            "axes": [{"title": a.title, "kind": a.kind, "log": a.log} for a in self.axes],
            "curves": [
                {
                    "name": c.name,
                    "role": c.role,
                    "points": [[float(v) for v in p] if np.isfinite(p).all() else None for p in c.points],
                    "temperatures": [] if c.temperatures is None else [float(v) if math.isfinite(v) else None for v in c.temperatures],
                }
                for c in self.curves
            ],
            "marks": [{"name": m.name, "place": [float(v) for v in m.place], "text": m.text, "temperature": m.temperature} for m in self.marks],
            "notes": list(self.notes),
        }

    def curve(self, name: str) -> Curve:
        """A curve by name. Raises KeyError with the names there are."""
        for found in self.curves:
            if found.name == name:
                return found
        raise KeyError(f'There is no curve "{name}"; there are {", ".join(c.name for c in self.curves)}.')

    def _repr_html_(self) -> str:
        head, *rows = self.rows()
        return f"<p>{self.title}</p>" + html_table([str(cell) for cell in head], rows)


def line(name: str, columns: Sequence[Sequence[float] | Array], role: str = "line") -> Curve:
    """A curve from its columns."""
    return Curve(name, np.column_stack([np.asarray(column, dtype=float) for column in columns]), role)
