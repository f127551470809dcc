"""What leaves a stirred tank at one temperature: extents by which as much is formed as flows out."""

from __future__ import annotations

import math

import numpy as np

from wattaxis.properties.kernels import kernel
from wattaxis.properties.kernels.linear import solve_in_place
from wattaxis.properties.kernels.tube import FIRST, NO_STEP, T_IN, slopes_of_slopes, tube_slope

#: Steps at most; how much of what there is of a component one step may use up; share of the feed that a balance may miss.
MOST_STEPS, _TAKEN, _CLOSED = 400, 0.9, 1e-13
#: The first step at least, in residence times.
_FIRST = 0.1


@kernel(
    "int64(float64, int64[::1], float64[::1], float64[::1], float64[:, ::1], float64[:, ::1],"
    "float64[:, ::1], float64[:, ::1], float64[:, ::1], float64[:, ::1], float64[:, ::1], float64[::1], float64[:, ::1], float64[:, :, ::1],"
    "float64[:, ::1], float64[:, :, ::1], float64[:, ::1], float64[:, ::1], float64[:, ::1], float64[:, ::1], float64[::1], float64[::1])"
)
def stirred(
    volume, kinds, given, feed, numbers, terms, orders, adsorbed, adsorbed_orders, steps, written, stack, par, pairs, shifts, ctx, typed, outside,
    table, conducting, y, told,
):  # fmt: skip
    """Extents (mol/s) in ``y`` with ``y = volume * rates(y)``, from what stands there: steps in time that lengthen as the balance closes, each by
    one correction of Newton's (Kelley, Keyes 1998, SIAM Journal on Numerical Analysis 35, 508). Returns why there are none; ``told`` as of a tube.
    """
    n, m, r = feed.shape[0], y.shape[0], numbers.shape[0]
    parts, guess = np.empty((8 + n, n)), np.empty(1 + n + r)
    guess[0] = told[3] = given[T_IN]
    bound = (
        kinds, given, feed, numbers, terms, orders, adsorbed, adsorbed_orders, steps, written, stack, par, pairs, shifts, ctx, typed, outside, table,
        conducting, parts, guess, told,
    )  # fmt: skip
    jac, along, slope, step, size, room = np.empty((m, m)), np.empty(m), np.empty(m), np.empty(m), np.empty(m), np.empty((2, m))
    flow = 0.0
    for i in range(n):
        flow += feed[i]
    for j in range(m):
        size[j] = flow
    pseudo, before = max(given[FIRST], _FIRST), math.inf
    for _ in range(MOST_STEPS):
        status = tube_slope(0.0, volume, y, bound, slope)
        if status == 0:
            status = slopes_of_slopes(0.0, volume, y, slope, size, bound, jac, along, room)
        if status != 0:
            return status
        missed = 0.0
        for j in range(m):
            step[j] = volume * slope[j] - y[j]
            missed = max(missed, abs(step[j]))
        if missed <= _CLOSED * flow:
            return 0
        if math.isfinite(before):
            pseudo *= min(max(before / missed, 0.2), 1e3)
        before = missed
        for j in range(m):
            for k in range(m):
                jac[j, k] = -volume * jac[j, k]
            jac[j, j] += 1.0 + 1.0 / pseudo
        if not solve_in_place(jac, step, m):
            return NO_STEP
        share = 1.0
        for i in range(n):
            left = feed[i]
            moved = 0.0
            for j in range(r):
                left += y[j] * numbers[j, i]
                moved += step[j] * numbers[j, i]
            if left + moved < (1.0 - _TAKEN) * left:
                share = min(share, _TAKEN * left / -moved)
        still = 0.0
        for j in range(m):
            y[j] += share * step[j]
            still = max(still, abs(step[j]))
        if share == 1.0 and pseudo > 1e6 and still <= _CLOSED * flow:
            return 0
    return NO_STEP
