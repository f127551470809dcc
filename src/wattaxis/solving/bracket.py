"""A loop in which one unknown alone goes round, as the enthalpy of a stream that is cooled by what it becomes: closed between two signs."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from itertools import pairwise

import numpy as np

#: Relative to its scale: what counts as a change of an unknown; how near the two ends come.
MOVES, NEAR = 1e-9, 1e-15
#: Steps outwards in search of the other sign, evaluations between the two.
OUTWARD, MOST = 24, 80

#: A pass: what the loop returns for its unknowns, None where it cannot be calculated.
Step = Callable[[np.ndarray], "np.ndarray | None"]


def single_unknown(seen: Sequence[tuple[np.ndarray, np.ndarray]], scale: np.ndarray) -> int | None:
    """The place of the only unknown that what ``seen`` of passes (in, out) does not leave where it is; None where there are more, or none."""
    left = np.array([np.abs(g - x) / scale for x, g in seen[-6:]])
    moving = np.flatnonzero(left.max(axis=0) > MOVES)
    return int(moving[0]) if len(moving) == 1 else None


def bracketed(step: Step, seen: Sequence[tuple[np.ndarray, np.ndarray]], place: int, scale: float) -> np.ndarray | None:
    """The unknowns with which the loop returns what went in, by Brent's (1973) method; None where no two points have opposite signs."""
    from scipy.optimize import brentq

    base = seen[-1][1].copy()
    known = sorted({float(x[place]): float(g[place] - x[place]) for x, g in seen}.items())

    def rest(value: float) -> float:
        x = base.copy()
        x[place] = value
        g = step(x)
        if g is None:
            raise ArithmeticError("no state there")
        return float(g[place] - value)

    ends = _narrowest(known) or _outward(rest, known, scale)
    if ends is None:
        return None
    try:
        root = brentq(rest, *ends, xtol=NEAR * scale + 1e-300, rtol=1e-15, maxiter=MOST)
    except (ArithmeticError, RuntimeError, ValueError):  # no state on the way, no end, or signs that were those of other flows
        return None
    found = base.copy()
    found[place] = float(root)
    return found


def _narrowest(known: Sequence[tuple[float, float]]) -> tuple[float, float] | None:
    pairs = [(b - a, a, b) for (a, fa), (b, fb) in pairwise(known) if fa * fb <= 0.0]
    return min(pairs)[1:] if pairs else None


def _outward(rest: Callable[[float], float], known: Sequence[tuple[float, float]], scale: float) -> tuple[float, float] | None:
    """From the point with the least left, the way it points, in growing steps; what cannot be calculated ends the way."""
    at, left = min(known, key=lambda point: abs(point[1]))
    stride = max(abs(left), 1e-6 * scale)
    for _ in range(OUTWARD):
        new = at + (stride if left > 0.0 else -stride)
        try:
            there = rest(new)
        except ArithmeticError:
            stride *= 0.3
            continue
        if there * left <= 0.0:
            return min(at, new), max(at, new)
        at, stride = new, 2.0 * stride
    return None
