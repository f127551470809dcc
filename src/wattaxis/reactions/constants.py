"""Constants of rate laws over temperature: by an activation energy, or as they were measured at some temperatures."""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterable
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np

from wattaxis.reactions.thermochemistry import R


@dataclass(frozen=True)
class Arrhenius:
    """``k = factor * (T / T1)**power * exp(-energy / R * (1/T - 1/T0))``: ``factor`` in the SI unit of its law, ``energy`` J/mol.

    ``reference`` T0 (K): the temperature at which ``factor`` is the constant; none: infinite. T1 is T0, or 1 K where there is none.

    >>> round(Arrhenius(2.0, 50e3, reference=350.0).at(350.0), 12)
    2.0
    """

    factor: float
    energy: float = 0.0
    reference: float | None = None
    power: float = 0.0
    #: What stands in the way of using it, such as a negative energy, in words.
    doubts: tuple[str, ...] = field(init=False)

    def __post_init__(self) -> None:
        if not (math.isfinite(self.factor) and math.isfinite(self.energy) and self.factor > 0.0):
            raise ValueError("A rate constant is more than 0.")
        if self.reference is not None and not self.reference > 0.0:
            raise ValueError("A reference temperature is above 0 K.")
        doubts = []
        if self.energy < 0.0:
            doubts.append("The activation energy is negative: the reaction is slower when hotter.")
        if self.energy > 500e3:
            doubts.append(f"An activation energy of {self.energy / 1e3:.0f} kJ/mol is larger than that of breaking most bonds: check its unit.")
        object.__setattr__(self, "doubts", tuple(doubts))

    def at(self, T: float) -> float:
        """The constant at T (K)."""
        return math.exp(self.log_at_one(T))

    def log_at_one(self, T: float) -> float:
        """ln of the constant at T (K)."""
        inverse, ratio = (0.0, T) if self.reference is None else (1.0 / self.reference, T / self.reference)
        return math.log(self.factor) + self.power * math.log(ratio) - self.energy / R * (1.0 / T - inverse)

    def log_at(self, T: np.ndarray) -> np.ndarray:
        """ln of the constant at T (n,) K.

        >>> [round(float(x), 3) for x in Arrhenius(1.0, 8314.462618, power=1.0).log_at(np.array([1000.0, 2000.0]))]
        [5.908, 7.101]
        """
        return np.array([self.log_at_one(float(t)) for t in np.ravel(T)]).reshape(np.shape(T))


@dataclass(frozen=True)
class Tabulated:
    """A constant as it was measured: ``values`` in the SI unit of its law at ``temperatures`` (K), two or more.

    Between the points ln k goes over 1/T by monotone cubics (Fritsch, Butland 1984): points of one activation energy lie on its straight line. Beyond
    them it goes straight on, and reactors say so. Raises ValueError for points that make no curve.

    >>> measured = Tabulated((300.0, 320.0, 350.0), (1.0, 4.0, 20.0))
    >>> [round(measured.at(T), 3) for T in (300.0, 310.0, 350.0)]
    [1.0, 2.078, 20.0]
    """

    temperatures: tuple[float, ...]
    values: tuple[float, ...]

    def __post_init__(self) -> None:
        points = sorted(zip(self.temperatures, self.values, strict=True))
        if len(points) < 2:
            raise ValueError("A table of a constant has two temperatures or more.")
        if not all(T > 0.0 and math.isfinite(T) and k > 0.0 and math.isfinite(k) for T, k in points):
            raise ValueError("A table of a constant has temperatures above 0 K and constants of more than 0.")
        for (T, _), (next_T, _) in itertools.pairwise(points):
            if not next_T - T > 1e-6 * T:
                raise ValueError(f"The table of a constant has {T:.6g} K twice.")
        object.__setattr__(self, "temperatures", tuple(T for T, _ in points))
        object.__setattr__(self, "values", tuple(k for _, k in points))

    @property
    def doubts(self) -> tuple[str, ...]:
        """What stands in the way of using it, such as a constant that falls, in words."""
        points = list(zip(self.temperatures, self.values, strict=True))
        falls = next(((a, b) for (a, k), (b, after) in itertools.pairwise(points) if after < k), None)
        return () if falls is None else (f"The constant falls from {falls[0]:.5g} to {falls[1]:.5g} K: the reaction is slower when hotter.",)

    @cached_property
    def pieces(self) -> np.ndarray:
        """Cubics of ln k over 1/T, (pieces, 6): start, end (1/K), coefficients of 1/T less the start, highest power first."""
        from scipy.interpolate import PchipInterpolator  # late: reading a document does not need it

        inverse = 1.0 / np.array(self.temperatures[::-1])
        curve = PchipInterpolator(inverse, np.log(self.values[::-1]))
        return np.column_stack((inverse[:-1], inverse[1:], curve.c.T))

    def at(self, T: float) -> float:
        """The constant at T (K)."""
        return math.exp(self.log_at_one(T))

    def log_at_one(self, T: float) -> float:
        """ln of the constant at T (K)."""
        x = 1.0 / T
        start, end, a, b, c, d = self.pieces[max(int(np.searchsorted(self.pieces[:, 0], x, side="right")) - 1, 0)]
        inside = min(max(x, start), end) - start
        beyond = x - start - inside
        return float(((a * inside + b) * inside + c) * inside + d + ((3.0 * a * inside + 2.0 * b) * inside + c) * beyond)


#: How a constant depends on temperature.
RateConstant = Arrhenius | Tabulated


def known_between(constants: Iterable[RateConstant]) -> tuple[float, float]:
    """K between which none of the constants is used beyond its table; 0 and infinity where none of them is a table.

    >>> known_between([Tabulated((300.0, 350.0), (1.0, 2.0)), Tabulated((320.0, 400.0), (1.0, 2.0)), Arrhenius(1.0)])
    (320.0, 350.0)
    """
    tables = [constant.temperatures for constant in constants if isinstance(constant, Tabulated)]
    return max((table[0] for table in tables), default=0.0), min((table[-1] for table in tables), default=math.inf)
