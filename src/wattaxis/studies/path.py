"""Where loops and aims begin in the cases of a block: where those calculated before lead, as a polynomial of what is varied."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace
from itertools import combinations_with_replacement

import numpy as np
from numpy.typing import NDArray

from wattaxis.solving.memory import Memory

Array = NDArray[np.float64]
#: Degrees of the polynomials that are tried.
DEGREES = (1, 2, 3, 4)


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
            # What would turn a sign round, such as that of a flow, is no start.
            start = last if led is None else np.where(np.sign(led) == np.sign(last), led, last)
            if key in memory.loops:
                memory.loops[key] = replace(memory.loops[key], unknowns=start)
            else:
                memory.aims[key] = replace(memory.aims[key], found=start)

    def learn(self, values: Sequence[float], memory: Memory) -> None:
        """How the loops of a case were closed and its aims met."""
        self._at.append(np.asarray(values) / self._scale)
        loops = {key: closure.unknowns for key, closure in memory.loops.items()}
        self._found.append({**{key: met.found for key, met in memory.aims.items()}, **loops})


def _led(at: Sequence[Array], found: Sequence[Array], here: Array) -> Array | None:
    """What was found at some places, led on to another: by the polynomial through the nearest ones that tells the nearest of them best from the rest.

    None where there are too few for any.
    """
    order = np.argsort([float(np.abs(place - here).sum()) for place in at], kind="stable")
    places, known = np.array(at)[order] - here, np.array(found)[order]
    size = np.maximum(np.abs(known).max(axis=0), 1e-300)
    best: tuple[float, int] | None = None
    for degree in DEGREES:
        told = _through(places[1:], known[1:], places[0], degree)
        error = np.inf if told is None else float((np.abs(told - known[0]) / size).max())
        if best is None or error < best[0]:
            best = error, degree
    return None if best is None or not np.isfinite(best[0]) else _through(places, known, np.zeros(here.size), best[1])


def _through(places: Array, known: Array, here: Array, degree: int) -> Array | None:
    """The polynomial of a degree through as many places as determine it, one more for each input, at another one; None where they do not."""
    count = math.comb(here.size + degree, degree) + here.size
    if len(places) < count:
        return None
    terms = [term for order in range(degree + 1) for term in combinations_with_replacement(range(here.size), order)]
    away = places[:count] - here
    rows = np.array([away[:, list(term)].prod(axis=1) for term in terms]).T
    size = np.maximum(np.abs(rows).max(axis=0), 1e-300)
    solved, _, rank, _ = np.linalg.lstsq(rows / size, known[:count], rcond=1e-12)
    return np.asarray(solved[0] / size[0]) if rank == len(terms) else None
