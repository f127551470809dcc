"""Measured phase equilibria and reactions: what a data set is, and what its columns mean."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Column:
    """A column of a data set: its title, its kind of quantity and the standard deviation that is assumed where none is given (SI).

    ``shares``: that deviation is a share of the largest value of the column. A deviation of 0: no fit compares the column.
    """

    title: str
    kind: str
    deviation: float
    shares: bool = False


@dataclass(frozen=True)
class DataKind:
    """A kind of measurement. In ``columns`` a key that ends in "#" stands once for every component but the last, one in "*" for every one."""

    title: str
    columns: Mapping[str, Column]
    needed: tuple[str, ...]
    #: Whether it is about one component on its own.
    alone: bool = False
    #: Whether rates of reactions are fitted to it.
    reacting: bool = False
    #: Columns that a new set does without.
    rare: tuple[str, ...] = ()


_T = Column("temperature", "temperature", 0.1)
_P = Column("pressure", "pressure", 200.0)
_X = Column("liquid, mole fraction", "fraction", 0.002)
_Y = Column("vapour, mole fraction", "fraction", 0.005)


def _reacting(title: str, time: str, start: str, end: str) -> DataKind:
    columns = {
        "T": Column("temperature", "temperature", 0.0),
        "P": Column("pressure", "pressure", 0.0),
        "t": Column(time, "time", 0.0),
        "w": Column("catalyst by volume", "density", 0.0),
        "y*": Column(f"{start}, mole fraction", "fraction", 0.0),
        "f*": Column(start, "molar_concentration", 0.0),
        "c*": Column(end, "molar_concentration", 0.01, True),
        "X": Column("conversion of the first component", "fraction", 0.01),
    }
    return DataKind(title, columns, ("T", "t"), reacting=True, rare=("P", "w", "y*", "X"))


#: Where rates are measured.
BATCH, TANK, TUBE = "batch", "stirred tank", "tube"
#: The kind of data of one component.
PURE = "vapour pressure"
#: The kinds of data that parameters of pairs, and the vapour pressure of a component, are fitted to.
DATA_KINDS = {
    "vapour-liquid": DataKind("Vapour and liquid (T, P, x, perhaps y)", {"T": _T, "P": _P, "x#": _X, "y#": _Y}, ("T", "P", "x#")),
    "liquid-liquid": DataKind(
        "Two liquids (T, x, x)",
        {"T": _T, "x#": Column("first liquid, mole fraction", "fraction", 0.005), "w#": Column("second liquid, mole fraction", "fraction", 0.005)},
        ("T", "x#", "w#"),
    ),
    "infinite dilution": DataKind(
        "Activity coefficients at infinite dilution (two components)",
        {"T": _T, "g1": Column("first in second", "number", 0.05), "g2": Column("second in first", "number", 0.05)},
        ("T",),
    ),
    "excess enthalpy": DataKind(
        "Excess enthalpy (T, x, h)", {"T": _T, "x#": _X, "h": Column("excess enthalpy", "molar_enthalpy", 10.0)}, ("T", "x#", "h")
    ),
    PURE: DataKind("Vapour pressure of one component (T, P)", {"T": _T, "P": _P}, ("T", "P"), alone=True),
    BATCH: _reacting("Reaction in a batch (T, time, concentrations or conversion)", "time", "at the start", "measured"),
    TANK: _reacting("Reaction in a stirred tank (T, space time, concentrations or conversion)", "space time", "in the feed", "leaving"),
    TUBE: _reacting("Reaction in a tube (T, space time, concentrations or conversion)", "space time", "in the feed", "leaving"),
}


@dataclass(frozen=True)
class DataSet:
    """Measurements of one kind for some components, SI units.

    ``columns`` maps a key to values of shape (points,), nan where a cell is blank: "T" K, "P" Pa, "x1", "x2", ... mole fractions of the liquid,
    "y1", ... of the vapour, "w1", ... of a second liquid (the last component is what is left), "g1", "g2" activity coefficients at infinite dilution
    (their errors are relative), "h" J/mol. Of reactions: "t" s of time, or of space time by the volume flow that enters; "f1", ... mol/m3 at the
    start or in the feed (or "y1", ... there), "c1", ... mol/m3 measured, "X" the conversion of the first component, "w" kg of catalyst by m3.
    ``deviations`` are standard deviations by key, where they differ from those of the kind; ``set_aside`` gives a reason for every point (by its
    position) that a fit leaves out; ``weights`` say by position what a point counts beside the others, one where nothing is said: its variances are
    those of the columns over its weight. What was generated from a predictive model is not ``measured``.

    Raises ValueError for unknown or missing columns, unequal lengths and values that cannot be.

    >>> columns = {"T": [351.0, 355.0], "P": [1e5, 1e5], "x1": [0.4, 0.2], "y1": [0.61, 0.53]}
    >>> DataSet("vapour-liquid", ("ethanol", "water"), columns).size
    2
    """

    kind: str
    components: tuple[str, ...]
    columns: Mapping[str, Array]
    deviations: Mapping[str, float] = field(default_factory=dict)
    set_aside: Mapping[int, str] = field(default_factory=dict)
    name: str = ""
    source: str = ""
    measured: bool = True
    weights: Mapping[int, float] = field(default_factory=dict)

    def __post_init__(self) -> None:
        if self.kind not in DATA_KINDS:
            raise ValueError(f'There is no kind of data "{self.kind}"; there are {", ".join(DATA_KINDS)}.')
        kind = DATA_KINDS[self.kind]
        if kind.alone and len(self.components) != 1:
            raise ValueError(f"Data of the kind {self.kind} are of one component.")
        fewest = 1 if kind.alone or kind.reacting else 2
        if len(self.components) < fewest or len(set(self.components)) < len(self.components):
            raise ValueError("A data set is of two different components or more.")
        known = column_keys(self.kind, len(self.components))
        columns = {key: np.asarray(values, dtype=float) for key, values in self.columns.items()}
        object.__setattr__(self, "columns", columns)
        unknown = [key for key in columns if key not in known]
        if unknown:
            raise ValueError(f'There is no column "{unknown[0]}" in data of the kind {self.kind}; there are {", ".join(known)}.')
        for key in column_keys(self.kind, len(self.components), needed=True):
            if key not in columns:
                raise ValueError(f"Data of the kind {self.kind} need a column {key} ({known[key].title}).")
        if len({len(values) for values in columns.values()}) > 1:
            raise ValueError("The columns of a data set are of unequal length.")
        for point, weight in self.weights.items():
            if not (np.isfinite(weight) and weight > 0.0):
                raise ValueError(f"Point {point + 1}: a weight is a positive number, not {weight:g}; set the point aside to leave it out.")
        for key, values in columns.items():
            problem = _impossible(known[key], values)
            if problem is not None:
                raise ValueError(f"Column {key}, point {problem + 1}: {values[problem]:g} is no {known[key].title}.")

    @property
    def size(self) -> int:
        """How many points there are, set aside or not."""
        return len(next(iter(self.columns.values())))

    def fractions(self, letter: str) -> Array:
        """Mole fractions of all components, shape (points, components); nan where they were not measured."""
        n = len(self.components)
        given = np.column_stack([self.columns.get(f"{letter}{k + 1}", np.full(self.size, np.nan)) for k in range(n - 1)])
        return np.column_stack([given, 1.0 - given.sum(axis=1)])

    def deviation(self, key: str, point: int) -> float:
        """The standard deviation of a column at a point."""
        column = column_keys(self.kind, len(self.components))[key]
        usual = column.deviation
        if column.shares and key not in self.deviations:
            known = self.columns[key][np.isfinite(self.columns[key])]
            usual *= float(known.max()) if known.size and known.max() > 0.0 else 1.0
        return float(self.deviations.get(key, usual) / np.sqrt(self.weights.get(point, 1.0)))

    def used(self) -> NDArray[np.int64]:
        """Positions of the points that a fit takes: not set aside, and with every needed value."""
        keys = column_keys(self.kind, len(self.components), needed=True)
        complete = np.isfinite(np.column_stack([self.columns[key] for key in keys])).all(axis=1)
        return np.array([k for k in np.flatnonzero(complete) if int(k) not in self.set_aside], dtype=np.int64)


def column_keys(kind: str, components: int, *, needed: bool = False) -> dict[str, Column]:
    """The columns of a kind of data for a number of components, all or only those that are needed.

    >>> list(column_keys("vapour-liquid", 3))
    ['T', 'P', 'x1', 'x2', 'y1', 'y2']
    """
    found: dict[str, Column] = {}
    for key, column in DATA_KINDS[kind].columns.items():
        if needed and key not in DATA_KINDS[kind].needed:
            continue
        many = {"#": components - 1, "*": components}.get(key[-1])
        names = [key] if many is None else [f"{key[:-1]}{k + 1}" for k in range(many)]
        found |= dict.fromkeys(names, column)
    return found


def _impossible(column: Column, values: Sequence[float] | Array) -> int | None:
    """Position of the first value that cannot be, None when all can."""
    for k, value in enumerate(values):
        if np.isnan(value):
            continue
        bad = not np.isfinite(value) or (column.kind in ("temperature", "pressure", "number") and value <= 0.0)
        bad |= column.kind in ("molar_concentration", "time", "density") and value < 0.0
        if bad or (column.kind == "fraction" and not 0.0 <= value <= 1.0):
            return k
    return None
