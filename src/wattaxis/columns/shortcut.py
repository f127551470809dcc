"""Short-cut of a column with two products: least stages, least reflux with all distributed components, stages against reflux, feed stage."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import TYPE_CHECKING

import numpy as np

from wattaxis.columns.layout import ColumnError
from wattaxis.properties.state import Vector

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel

#: Share of the way between two volatilities that roots keep from either; share of what is fed that counts as all or nothing of it.
_OFF, _ALL = 1e-12, 1e-12
#: Renewals of volatilities at most, change of the distillate that counts as none, and mole fraction of what a product lacks.
_ROUNDS, _STILL, _TRACE = 30, 1e-10, 1e-9


@dataclass(frozen=True)
class ShortCut:
    """Keys and recoveries of a column, and what they ask of it.

    ``minimum_stages`` at total reflux, reboiler counted; ``distillate`` (components,) in the unit of the feed, by Fenske's distribution;
    ``minimum_reflux`` over the distillate, with ``distributed``: which components leave at both ends where reflux is least.
    """

    alpha: Vector
    feed: Vector
    liquid: float
    light: int
    heavy: int
    distillate: Vector
    minimum_stages: float
    minimum_reflux: float
    roots: tuple[float, ...]
    distributed: tuple[int, ...]

    def stages(self, reflux: float) -> float:
        """Stages, reboiler counted, at a reflux ratio: Gilliland's (1940) chart by Molokanov and others (1972). Infinite at the least reflux."""
        x = (reflux - self.minimum_reflux) / (reflux + 1.0)
        if x <= 0.0:
            return math.inf
        y = 1.0 - math.exp((1.0 + 54.4 * x) / (11.0 + 117.2 * x) * (x - 1.0) / math.sqrt(x))
        return (self.minimum_stages + y) / (1.0 - y)

    def reflux(self, stages: float) -> float:
        """The reflux ratio at which so many stages are needed. Raises ColumnError for no more than the least."""
        if not stages > self.minimum_stages:
            text = f"{stages:.4g} stages are no more than the {self.minimum_stages:.4g} that total reflux needs."
            raise ColumnError(text, "Give more stages, or lower recoveries.", self.minimum_stages)
        from scipy.optimize import brentq  # late: reading a document does not need it

        low, high = self.minimum_reflux, max(2.0 * self.minimum_reflux, 1.0)
        while self.stages(high) > stages:
            high *= 2.0
        return float(brentq(lambda r: 1.0 / self.stages(r) - 1.0 / stages, low, high, xtol=1e-12, rtol=1e-12))

    def feed_stage(self, stages: float) -> float:
        """Stages above the feed, of all, by Kirkbride (1944)."""
        bottoms = self.feed - self.distillate
        x_d, x_b = self.distillate / self.distillate.sum(), bottoms / bottoms.sum()
        ratio = self.feed[self.heavy] / self.feed[self.light] * (x_b[self.light] / x_d[self.heavy]) ** 2 * bottoms.sum() / self.distillate.sum()
        above = float(ratio**0.206)
        return stages * above / (1.0 + above)


def short_cut(
    alpha: Sequence[float] | Vector,
    feed: Sequence[float] | Vector,
    liquid: float,
    light: int,
    heavy: int,
    recoveries: tuple[float, float],
) -> ShortCut:
    """A column for a ``feed`` (components,) of relative volatilities ``alpha``, of which the share ``liquid`` is liquid (or q beyond 0 and 1).

    ``light`` and ``heavy`` are the places of the keys; ``recoveries``: of the light one in the distillate, and of the heavy one in the bottoms.
    Least stages and distribution by Fenske (1932). Least reflux by Underwood (1948): which components are distributed by Shiras, Hanson and Gibson
    (1950), all roots between them, and what of them leaves at the top from as many linear equations. Raises ColumnError for keys that cannot be.

    >>> found = short_cut([2.5, 1.0], [50.0, 50.0], 1.0, 0, 1, (0.95, 0.95))
    >>> round(found.minimum_stages, 3), round(found.minimum_reflux, 3)
    (6.427, 1.1)
    """
    a, f = np.asarray(alpha, dtype=float), np.asarray(feed, dtype=float)
    _refuse(a, f, light, heavy, recoveries)
    a = a / a[heavy]
    kept = np.array([recoveries[0], 1.0 - recoveries[1]])
    odds = kept / (1.0 - kept)
    stages = math.log(odds[0] / odds[1]) / math.log(a[light])
    ratio = odds[1] * np.exp(np.clip(stages * np.log(a), -600.0, 600.0))
    distillate = f * ratio / (1.0 + ratio)
    top, roots, distributed = _least(a, f, liquid, light, heavy, kept)
    return ShortCut(a, f, liquid, light, heavy, distillate, stages, top, roots, distributed)


def volatilities(model: PropertyModel, top: Vector, bottom: Vector, P: tuple[float, float]) -> Vector:
    """Geometric mean over top and bottom of the equilibrium ratios (components,) where the products boil at ``P`` (Pa, both ends).

    Raises FlashError where one of them does not.
    """
    logs = np.zeros(len(top))
    for flows, pressure in zip((top, bottom), P, strict=True):
        # A trace of everything, so that each has a ratio.
        x = (flows / flows.sum() + _TRACE) / (1.0 + _TRACE * len(flows))
        state = model.flash(x, P=pressure, VF=0.0)
        logs += 0.5 * np.log(state.vapour_fractions / state.liquid_fractions)
    return np.asarray(np.exp(logs))


def short_cut_of(
    model: PropertyModel, feed: Vector, liquid: float, light: int, heavy: int, recoveries: tuple[float, float], P: tuple[float, float]
) -> ShortCut:
    """:func:`short_cut` with volatilities of a property model at the pressures ``P`` (Pa) of top and bottom, renewed until the products are still.

    Raises ColumnError, and FlashError where a product has no boiling point.
    """
    sharp = model.flash(feed, P=P[0], VF=0.5)
    alpha = sharp.vapour_fractions / np.maximum(sharp.liquid_fractions, 1e-300)
    found = short_cut(alpha, feed, liquid, light, heavy, recoveries)
    for _ in range(_ROUNDS):
        alpha = volatilities(model, found.distillate, found.feed - found.distillate, P)
        renewed = short_cut(alpha, feed, liquid, light, heavy, recoveries)
        still = np.abs(renewed.distillate - found.distillate).max() <= _STILL * feed.sum()
        found = renewed
        if still:
            break
    return found


def _refuse(a: Vector, f: Vector, light: int, heavy: int, recoveries: tuple[float, float]) -> None:
    if light == heavy or not a[light] > a[heavy]:
        raise ColumnError("The light key is not more volatile than the heavy key.", "Swap them, or choose others.")
    if not (f[light] > 0.0 and f[heavy] > 0.0):
        raise ColumnError("A key is not fed.", "Choose keys that are fed.")
    if not all(0.0 < share < 1.0 for share in recoveries):
        raise ColumnError("A recovery of a key lies above 0 and below 1.", "Give such recoveries.")
    if not recoveries[0] > 1.0 - recoveries[1]:
        raise ColumnError("The light key would leave at the top no more than the heavy one.", "Give higher recoveries.")


def _least(a: Vector, f: Vector, liquid: float, light: int, heavy: int, kept: Vector) -> tuple[float, tuple[float, ...], tuple[int, ...]]:
    """Least reflux ratio, the roots, and the components that are distributed there."""
    from scipy.optimize import brentq  # late: reading a document does not need it

    there = f > 0.0
    share = ((a - 1.0) * kept[0] + (a[light] - a) * kept[1]) / (a[light] - 1.0)
    spread = [i for i in np.argsort(-a, kind="stable") if there[i] and (i in (light, heavy) or _ALL < share[i] < 1.0 - _ALL)]
    d = np.where(a > a[light], f, 0.0)
    d[light], d[heavy] = f[light] * kept[0], f[heavy] * kept[1]
    roots = tuple(
        float(brentq(underwood(a, f, liquid), *_between(a[lower], a[upper]), xtol=1e-14, rtol=1e-14))
        for upper, lower in pairwise(spread)
        if a[upper] > a[lower] * (1.0 + 1e-9)
    )
    free = [i for i in spread if i not in (light, heavy)][: len(roots) - 1]
    d[free] = 0.0
    matrix = np.array([[*(a[i] / (a[i] - root) for i in free), -1.0] for root in roots])
    right = np.array([-float((a * d / (a - root)).sum()) for root in roots])
    *moles, vapour = np.linalg.lstsq(matrix, right, rcond=None)[0]
    d[free] = np.clip(moles, 0.0, f[free])
    return float(vapour / d.sum() - 1.0), roots, tuple(int(i) for i in spread)


def _between(low: float, high: float) -> tuple[float, float]:
    gap = _OFF * (high - low)
    return low + gap, high - gap


def underwood(a: Vector, f: Vector, liquid: float) -> Callable[[float], float]:
    """Underwood's equation of the feed, its poles taken along."""
    z = f / f.sum()
    return lambda root: float((a * z / (a - root)).sum()) - (1.0 - liquid)
