"""Reactions on the stages of a column: what they make of every component, and how that changes with the liquid and its temperature."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from wattaxis.columns.layout import ColumnError, Layout
from wattaxis.properties.rows import phase_rows
from wattaxis.properties.state import Vector
from wattaxis.reactions import KineticsError

Array = NDArray[np.float64]
#: Mole fraction and K by which rates are differenced: they have no derivatives of their own.
_MOLE, _WARMER = 1e-6, 1e-3


def reacted_on(layout: Layout, T: Vector, x: Array, L: Vector) -> Array:
    """What is made of every component on every stage (stages, components), per mole of all feeds. Raises ColumnError where a rate has no value."""
    reacting = layout.reacting
    return np.zeros_like(x) if reacting is None else rates_on(layout, T, x, L) @ reacting.kinetics.numbers


def rates_on(layout: Layout, T: Vector, x: Array, L: Vector) -> Array:
    """Moles of each reaction on every stage (stages, reactions), per mole of all feeds. Raises ColumnError where a rate has no value."""
    reacting = layout.reacting
    assert reacting is not None
    on = reacting.on
    found = np.zeros((len(x), len(reacting.kinetics.numbers)))
    size = reacting.sizes[on] + L[on] * _per_mole(layout, on, T[on], x[on])
    found[on] = size[:, None] * _rates(layout, on, T[on], x[on])
    return found


def slopes_on(layout: Layout, T: Vector, x: Array, L: Vector) -> tuple[Array, Vector]:
    """Its slopes by the flows of the liquid (stages, components, components) and by temperature (stages, components), by central differences."""
    N, C = x.shape
    of_liquid, of_T = np.zeros((N, C, C)), np.zeros((N, C))
    reacting = layout.reacting
    if reacting is None:
        return of_liquid, of_T
    on = reacting.on
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
    places, fractions, hot = np.tile(on, 2 * C + 2), amounts / totals[:, None], np.concatenate(warm)
    stays = _per_mole(layout, places, hot, fractions)
    size = np.tile(reacting.sizes[on] / L[on], 2 * C + 2) + stays  # per mole of liquid
    rates = _rates(layout, places, hot, fractions) @ reacting.kinetics.numbers
    made, of_stay = ((by[:, None] * rates).reshape(2, C + 1, len(on), C) for by in (size, stays))
    far = amounts.reshape(2, C + 1, len(on), C)
    for i in range(C):
        apart = far[0, i, :, i] - far[1, i, :, i]
        of_liquid[on, :, i] = (made[0, i] - made[1, i]) / apart[:, None] + 0.5 * (of_stay[0, C] + of_stay[1, C])
    of_T[on] = L[on, None] * (made[0, C] - made[1, C]) / (2.0 * _WARMER)
    return of_liquid, of_T


def _per_mole(layout: Layout, on: NDArray[np.intp], T: Vector, x: Array) -> Vector:
    """m3 s/mol of liquid on stages by how long it stays there."""
    reacting = layout.reacting
    assert reacting is not None
    if not reacting.times.any():
        return np.zeros(len(on))
    return reacting.times[on] * phase_rows(layout.model, "liquid", T, layout.P[on], x, by_pressure=False).molar_volume


def _rates(layout: Layout, on: NDArray[np.intp], T: Vector, x: Array) -> Array:
    reacting = layout.reacting
    assert reacting is not None
    try:
        return reacting.kinetics.rate_rows(T, layout.P[on], x)
    except KineticsError as error:
        raise ColumnError(str(error), "Let the rate count in another basis, or choose another property model.") from error
