"""Whether the contents of a stirred tank stay where they are: the eigenvalues of its balances in time."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from wattaxis.properties.state import Vector

#: Shares by which extents (of the feed) and temperature are moved to find slopes.
_MOVED, _WARMER = 1e-5, 1e-6


def growth(
    made: Callable[[Vector, float], Vector],
    enthalpy: Callable[[Vector, float], float],
    extents: Vector,
    T: float,
    size: float,
    time: float,
    heat_slope: float,
) -> complex:
    """The eigenvalue (1/s) with the largest real part of a tank at a steady state; above 0 it does not stay there, complex it swings.

    ``made`` mol/s of each reaction by all of the volume, ``enthalpy`` W of what leaves, both at extents (mol/s) and temperature (K); ``size`` the
    feed (mol/s), ``time`` the residence time (s), ``heat_slope`` W/K by which the heat from outside changes. The contents are what leaves, times
    the residence time (Uppal, Ray, Poore 1974, Chemical Engineering Science 29, 967).

    >>> decay = lambda x, T: np.array([2.0 * (1.0 - x[0])])  # first order, twice in a residence time
    >>> growth(decay, lambda x, T: 100.0 * T, np.array([2.0 / 3.0]), 300.0, 1.0, 10.0, 0.0)
    (-0.1+0j)
    """
    count = len(extents)
    by_extent, enthalpy_by_extent = np.empty((count, count)), np.empty(count)
    for j in range(count):
        step = np.zeros(count)
        step[j] = _MOVED * size
        up, down = extents + step, extents - step
        by_extent[:, j] = (made(up, T) - made(down, T)) / (2.0 * step[j])
        enthalpy_by_extent[j] = (enthalpy(up, T) - enthalpy(down, T)) / (2.0 * step[j])
    warmer = _WARMER * T
    by_temperature = (made(extents, T + warmer) - made(extents, T - warmer)) / (2.0 * warmer)
    capacity = (enthalpy(extents, T + warmer) - enthalpy(extents, T - warmer)) / (2.0 * warmer)
    matrix = np.empty((count + 1, count + 1))
    matrix[:count, :count] = (by_extent - np.eye(count)) / time
    matrix[:count, count] = by_temperature / time
    matrix[count, :count] = -(enthalpy_by_extent / time + enthalpy_by_extent @ matrix[:count, :count]) / capacity
    matrix[count, count] = ((heat_slope - capacity) / time - enthalpy_by_extent @ matrix[:count, count]) / capacity
    values = np.linalg.eigvals(matrix)
    return complex(np.round(values[np.argmax(values.real)], 15))
