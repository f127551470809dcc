"""Tables of results: what a unit calculates stage by stage, along a length, over a duty or a time."""

from __future__ import annotations

import csv
import io
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from wattaxis.properties.state import Vector
from wattaxis.properties.tables import html_table
from wattaxis.quantities import KINDS

#: Values of a column by row, None where there is none (no vapour, say).
Values = tuple[float | None, ...]


@dataclass(frozen=True)
class ProfileColumn:
    """A column of a profile in SI: what it is, its kind of quantity, and its values by row; ``component`` where it is one component's.

    Columns of one ``group`` and kind are drawn together under its name, and ``title`` tells them apart.
    """

    key: str
    title: str
    kind: str
    values: Values
    component: str = ""
    group: str = ""

    @property
    def full_title(self) -> str:
        """Group, title and component, as they stand alone."""
        title = f"{self.group}, {self.title.lower()}" if self.group else self.title
        return title + (f" of {self.component}" if self.component else "")

    @property
    def heading(self) -> str:
        """Full title and unit, for the head of a table."""
        unit = KINDS[self.kind].si[0]
        return self.full_title + (f", {unit}" if unit else "")


@dataclass(frozen=True)
class ProfileMark:
    """A point of interest: its name, its place along the profile and the value there, drawn with the column ``column``."""

    name: str
    column: str
    place: float
    value: float


@dataclass(frozen=True)
class ProfilePort:
    """Where a port lies along a profile, for the drawing in section; ``lane`` counts what flows side by side, from the top.

    ``stream`` is the one that comes or goes there, where those of a port do so at several places.
    """

    port: str
    place: float
    lane: int = 0
    stream: str = ""


@dataclass(frozen=True)
class Profile:
    """A table of results: ``along`` (ascending; whole numbers where the rows are ``steps`` such as stages) and the columns over it.

    With ``ports`` its rows follow one another through the apparatus, which is drawn in section beside them.

    A formula reads ``T-101.temperature[stage 12]`` or ``L-1.mole_fraction[water, length 20 m]``: the key of a column, and in brackets the key of
    ``along`` with a place.

    >>> profile = Profile("line", "Along it", column("length", "Length", "length", [0, 2]), (column("pressure", "Pressure", "pressure", [2e5, 1e5]),))
    >>> profile.at("pressure", 0.5)
    175000.0
    """

    key: str
    title: str
    along: ProfileColumn
    columns: tuple[ProfileColumn, ...]
    marks: tuple[ProfileMark, ...] = ()
    ports: tuple[ProfilePort, ...] = ()
    steps: bool = False

    def column(self, key: str, component: str = "") -> ProfileColumn:
        """A column by key and component. Raises KeyError that names those there are."""
        for found in self.columns:
            if (found.key, found.component) == (key, component):
                return found
        offered = dict.fromkeys(c.key + (f"[{c.component}]" if c.component else "") for c in self.columns)
        raise KeyError(f"{self.title} has no {key}{f'[{component}]' if component else ''}; it has {', '.join(offered)}.")

    def at(self, key: str, place: float, component: str = "") -> float:
        """The value of a column at a place (SI): of a step, or straight between two rows. Raises KeyError where it has none."""
        found = self.column(key, component)
        places = np.array(self.along.values, dtype=float)
        name = self.along.title.lower()
        if self.steps:
            known = [v for p, v in zip(places, found.values, strict=True) if p == place and v is not None]
            if not known:
                raise KeyError(f"{found.title} has no value at {name} {place:g}; there are {places[0]:g} to {places[-1]:g}.")
            return known[0]
        slack = 1e-9 * (places[-1] - places[0])
        if not places[0] - slack <= place <= places[-1] + slack:
            raise KeyError(f"{name} goes from {places[0]:.6g} to {places[-1]:.6g} {KINDS[self.along.kind].si[0]}; {place:.6g} lies beyond.")
        value = float(np.interp(place, places, [np.nan if v is None else v for v in found.values]))
        if np.isnan(value):
            raise KeyError(f"{found.title} has no value at {name} {place:g}.")
        return value

    def rows(self) -> list[list[str | float | None]]:
        """A heading, then one row a place, SI."""
        every = (self.along, *self.columns)
        return [[c.heading for c in every], *map(list, zip(*(c.values for c in every), strict=True))]

    def to_csv(self) -> str:
        """The numbers as comma-separated text, SI units in the heading."""
        text = io.StringIO()
        csv.writer(text, lineterminator="\n").writerows(self.rows())
        return text.getvalue()

    def _repr_html_(self) -> str:
        head, *rows = self.rows()
        return f"<p>{self.title}</p>" + html_table([str(cell) for cell in head], [["" if v is None else v for v in row] for row in rows])


def column(key: str, title: str, kind: str, values: Sequence[float | None] | Vector, component: str = "", group: str = "") -> ProfileColumn:
    """A column from numbers; nan is none."""
    return ProfileColumn(key, title, kind, tuple(None if v is None or np.isnan(v) else float(v) for v in values), component, group)


def profile_problem(profile: Profile) -> str:
    """What a profile holds that none may hold, blank where it can be taken."""
    places = profile.along.values
    for c in (profile.along, *profile.columns):
        if c.kind not in KINDS:
            return f"{c.key!r} of its profile {profile.key!r} is of the kind {c.kind!r}, which is no kind of quantity"
        if len(c.values) != len(places):
            return f"{c.key!r} of its profile {profile.key!r} has {len(c.values)} values at {len(places)} places"
        if not all(v is None or np.isfinite(v) for v in c.values):
            return f"{c.key!r} of its profile {profile.key!r} is not a number somewhere"
    if not places or any(b is None or a is None or b < a for a, b in pairwise(places)):
        return f"its profile {profile.key!r} has no places in ascending order"
    names = [(c.key, c.component) for c in profile.columns]
    if len(set(names)) < len(names):
        return f"its profile {profile.key!r} has a column twice"
    return ""
