"""The bubble point of one liquid at a pressure from a nearby temperature, with everything its derivatives need."""

from __future__ import annotations

import math

import numpy as np

from wattaxis.properties.kernels import kernel
from wattaxis.properties.kernels.activity import context
from wattaxis.properties.kernels.phase import phase_properties, prepare
from wattaxis.properties.layout import LIQUID, NOT_CONVERGED, OK, VAPOUR

#: Rows of ``vectors``: ln phi and its derivatives by T and P of the liquid, then of the vapour.
ROWS = 6


@kernel(
    "Tuple((int64, float64))(int64, float64, float64, float64[::1], float64[:, ::1], float64[:, :, ::1], float64[::1], float64[:, ::1],"
    "float64[:, ::1], float64[:, ::1])"
)
def boil(kind, p, t, x, par, pairs, y, vectors, dn_x, dn_y):
    """T (K) where the liquid ``x`` boils at ``p`` (Pa), from the estimate ``t``; the liquid is taken as one phase.

    Newton in T with the vapour composition updated on the way. Fills y, ``vectors`` (ROWS, n) and the composition derivatives of both ln phi.
    """
    n = x.shape[0]
    ctx = context(kind, n, pairs)
    props = np.empty(5)
    for i in range(n):
        y[i] = x[i]
    for iteration in range(80):
        prepare(kind, t, par, pairs, ctx, True)
        phase_properties(kind, LIQUID, t, p, x, par, ctx, True, vectors[0], vectors[1], vectors[2], dn_x, props)
        liquid = props[0]
        if iteration == 0:
            # No vapour is known yet: an ideal one.
            for i in range(n):
                vectors[3, i] = vectors[4, i] = 0.0
        else:
            phase_properties(kind, VAPOUR, t, p, y, par, ctx, True, vectors[3], vectors[4], vectors[5], dn_y, props)
            if props[0] - liquid < 0.1:
                return NOT_CONVERGED, t
        total = 0.0
        slope = 0.0
        change = 0.0
        for i in range(n):
            new = x[i] * math.exp(vectors[0, i] - vectors[3, i])
            slope += new * (vectors[1, i] - vectors[4, i])
            total += new
            vectors[5, i] = new
        if not 0.0 < total < 1e200 or not slope > 0.0:
            return NOT_CONVERGED, t
        for i in range(n):
            new = vectors[5, i] / total
            change = max(change, abs(new - y[i]))
            y[i] = new
        step = math.log(total) * total / slope
        step = max(-0.08 * t, min(0.08 * t, step))
        if iteration > 0 and abs(step) < 1e-13 * t and change < 1e-13:
            return OK, t
        t -= step
    return NOT_CONVERGED, t
