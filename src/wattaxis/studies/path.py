"""Where loops and aims begin in the cases of a block: where those calculated before lead, as a polynomial of what is varied."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from wattaxis.solving.memory import Memory

Array = NDArray[np.float64]
#: Cases that the polynomial is laid through at most: the last ones.
CASES = 40


class Path:
    """The cases of a block so far. A start may make a case faster, never another one."""

    def __init__(self, scale: Array) -> None:
        self._scale = np.where(scale > 0.0, scale, 1.0)
        self._at: list[Array] = []
        self._found: list[dict[str, Array]] = []

    def begin(self, values: Sequence[float], memory: Memory) -> None:
        """Let the loops and the aims that a memory knows begin where the cases before lead for other values."""
        here = np.asarray(values) / self._scale
        for key, last in self._found[-1].items() if self._found else ():
            known = [(at, found[key]) for at, found in zip(self._at, self._found, strict=True) if key in found and found[key].shape == last.shape]
            led = _led([at for at, _ in known], [found for _, found in known], here)
            # What would turn a sign round, such as a flow below nothing, is no start.
            good = led is not None and np.isfinite(led).all() and (np.sign(led) == np.sign(last)).all()
            start = led if led is not None and good else last
            if key in memory.loops:
                memory.loops[key] = replace(memory.loops[key], unknowns=start)
            else:
                memory.aims[key] = replace(memory.aims[key], found=start)

    def learn(self, values: Sequence[float], memory: Memory) -> None:
        """How the loops of a case were closed and its aims met."""
        self._at.append(np.asarray(values) / self._scale)
        loops = {key: closure.unknowns for key, closure in memory.loops.items()}
        self._found.append({**{key: met.found for key, met in memory.aims.items()}, **loops})
        del self._at[:-CASES], self._found[:-CASES]


def _led(at: Sequence[Array], unknowns: Sequence[Array], here: Array) -> Array | None:
    """Of so many places the polynomial that they determine with some to spare, of the second degree or the first, at another place."""
    count, inputs = len(at), here.size
    for degree in (2, 1):
        rows = np.array([_terms(place - here, degree) for place in at])
        if count > rows.shape[1] + inputs:
            found, _, rank, _ = np.linalg.lstsq(rows, np.array(unknowns), rcond=1e-10)
            if rank == min(rows.shape):
                return np.asarray(found[0])
    return None


def _terms(away: Array, degree: int) -> Array:
    second = [away[i] * away[j] for i in range(away.size) for j in range(i + 1)] if degree == 2 else []
    return np.array([1.0, *away, *second])
