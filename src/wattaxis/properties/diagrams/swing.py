"""Azeotropes over a range of pressures: how they move, and where they appear or vanish."""

from __future__ import annotations

import math
from collections.abc import Callable
from itertools import pairwise

import numpy as np

from wattaxis.progress import portion
from wattaxis.properties.diagrams.chart import Axis, Curve, Diagram, Mark
from wattaxis.properties.diagrams.singular import SingularPoint, azeotropes
from wattaxis.properties.model import PropertyModel

#: With more components the border is left where the steps have it: every trial is a whole search.
_FEW, _HALVINGS = 3, 8
Found = dict[tuple[str, ...], SingularPoint]


def azeotropes_over(model: PropertyModel, low: float, high: float, points: int = 11) -> Diagram:
    """Mole fractions of every azeotrope between two pressures (Pa), each from a search of its own at ``points`` pressures in equal ratios.

    Where one appears or vanishes between two steps the pressure is halved down to where it does, for up to three components. The marks hold the
    temperatures. Raises ValueError for pressures in the wrong order or where nothing boils.

    >>> swing = azeotropes_over(PropertyModel("uniquac", ["ethanol", "water"]), 5e4, 2e5, 3)
    >>> [c.name for c in swing.curves], len(swing.marks)
    (['ethanol in azeotrope of ethanol and water'], 3)
    """
    if not 0.0 < low < high:
        raise ValueError("The range of pressures goes from a lower to a higher one, both above zero.")
    ids = [c.id for c in model.components]
    notes: list[str] = []

    def search(pressure: float) -> Found:
        found = azeotropes(model, pressure)
        notes.extend(found.notes)
        return {p.components: p for p in found.azeotropes}

    pressures = [float(p) for p in np.geomspace(low, high, points)]
    steps: list[tuple[float, Found]] = []
    last = 0.8 if len(ids) <= _FEW else 1.0  # the rest is for where they come and go
    for k, p in enumerate(pressures):
        with portion(last * k / points, last * (k + 1) / points):
            steps.append((p, search(p)))
    borders: list[Mark] = []
    if len(ids) <= _FEW:
        with portion(last, last):
            steps, borders = _with_borders(steps, search, ids)
    names = list(dict.fromkeys(name for _, found in steps for name in found))
    curves, marks = [], []
    for name in names:
        for component in name[:-1]:
            k = ids.index(component)
            rows = [(p, found[name].fractions[k] if name in found else math.nan) for p, found in steps]
            curves.append(Curve(f"{component} in azeotrope of {', '.join(name[:-1])} and {name[-1]}", np.array(rows)))
        for p, found in steps:
            if name in found and p in pressures:
                point = found[name]
                marks.append(Mark(point.kind, (p, float(point.fractions[ids.index(name[0])])), point.stability, point.temperature))
    if not names:
        notes.append("There is no azeotrope between these pressures.")
    axes = (Axis("pressure", "pressure", log=True), Axis("mole fraction"))
    title = f"Azeotropes from {low / 1e5:g} to {high / 1e5:g} bar, {model.family.info.title}"
    return Diagram(title, axes, tuple(curves), (*borders, *marks), tuple(dict.fromkeys(notes)))


def _with_borders(steps: list[tuple[float, Found]], search: Callable[[float], Found], ids: list[str]) -> tuple[list[tuple[float, Found]], list[Mark]]:
    """The steps with more of them where an azeotrope comes or goes, and a mark at each such place."""
    more, marks = list(steps), []
    for (low, below), (high, above) in pairwise(steps):
        for name in sorted(below.keys() ^ above.keys()):
            there, gone = (low, high) if name in below else (high, low)
            last = below.get(name) or above[name]
            for _ in range(_HALVINGS):
                middle = math.sqrt(there * gone)
                found = search(middle)
                if name in found:
                    there, last = middle, found[name]
                    more.append((middle, found))
                else:
                    gone = middle
            word = "vanishes above" if name in below else "appears above"
            text = f"{word} {math.sqrt(there * gone) / 1e5:.4g} bar"
            marks.append(Mark(last.kind, (there, float(last.fractions[ids.index(name[0])])), text, last.temperature))
    return sorted(more, key=lambda step: step[0]), marks
