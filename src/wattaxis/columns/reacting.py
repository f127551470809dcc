"""Reactions on the stages of a column: what they make of every component, and how that changes with the liquid and its temperature."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from wattaxis.columns.layout import ColumnError, Layout
from wattaxis.properties.state import Vector
from wattaxis.reactions import KineticsError

Array = NDArray[np.float64]
#: Mole fraction and K by which rates are differenced: they have no derivatives of their own.
_MOLE, _WARMER = 1e-6, 1e-3


def reacted_on(layout: Layout, T: Vector, x: Array) -> Array:
    """What is made of every component on every stage (stages, components), per mole of all feeds. Raises ColumnError where a rate has no value."""
    reacting = layout.reacting
    return np.zeros_like(x) if reacting is None else rates_on(layout, T, x) @ reacting.kinetics.numbers


def rates_on(layout: Layout, T: Vector, x: Array) -> Array:
    """Moles of each reaction on every stage (stages, reactions), per mole of all feeds. Raises ColumnError where a rate has no value."""
    reacting = layout.reacting
    assert reacting is not None
    on = np.flatnonzero(reacting.sizes > 0.0)
    found = np.zeros((len(x), len(reacting.kinetics.numbers)))
    found[on] = reacting.sizes[on, None] * _rates(layout, T[on], layout.P[on], x[on])
    return found


def slopes_on(layout: Layout, T: Vector, x: Array, L: Vector) -> tuple[Array, Vector]:
    """Its slopes by the flows of the liquid (stages, components, components) and by temperature (stages, components), by central differences."""
    N, C = x.shape
    of_liquid, of_T = np.zeros((N, C, C)), np.zeros((N, C))
    reacting = layout.reacting
    if reacting is None:
        return of_liquid, of_T
    on = np.flatnonzero(reacting.sizes > 0.0)
    steps = np.maximum(_MOLE, 1e-4 * x[on])
    rows, warm = [], []
    for sign in (1.0, -1.0):
        for i in range(C):
            moved = x[on].copy()
            # Below nothing there is no rate: there the difference is one-sided.
            moved[:, i] = np.maximum(moved[:, i] + sign * steps[:, i], 0.0)
            rows.append(moved)
            warm.append(T[on])
        rows.append(x[on])
        warm.append(T[on] + sign * _WARMER)
    amounts = np.concatenate(rows)
    totals = amounts.sum(axis=1)
    made = _rates(layout, np.concatenate(warm), np.tile(layout.P[on], 2 * C + 2), amounts / totals[:, None]) @ reacting.kinetics.numbers
    made = made.reshape(2, C + 1, len(on), C)
    far = amounts.reshape(2, C + 1, len(on), C)
    for i in range(C):
        apart = far[0, i, :, i] - far[1, i, :, i]
        of_liquid[on, :, i] = (reacting.sizes[on] / L[on] / apart)[:, None] * (made[0, i] - made[1, i])
    of_T[on] = reacting.sizes[on, None] * (made[0, C] - made[1, C]) / (2.0 * _WARMER)
    return of_liquid, of_T


def _rates(layout: Layout, T: Vector, P: Vector, x: Array) -> Array:
    reacting = layout.reacting
    assert reacting is not None
    try:
        return reacting.kinetics.rate_rows(T, P, x)
    except KineticsError as error:
        raise ColumnError(str(error), "Let the rate count in another basis, or choose another property model.") from error
