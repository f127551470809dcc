"""Volume shifts of a mixture: a table with a row for each component, a cubic spline over temperature that ends level and is constant outside."""

from __future__ import annotations

import numpy as np

from wattaxis.properties.kernels import kernel
from wattaxis.properties.layout import R

#: Pieces of each spline, equally wide. A row of the table: lowest temperature (K), width (K), then the coefficients, highest power first.
PIECES = 8


@kernel("UniTuple(float64, 3)(float64, float64[::1], float64[:, ::1], float64[::1])")
def volume_shift(t, x, table, own):
    """c, c', c'' of the mixture (m3/mol, K) at t; the shift of each component in ``own``."""
    c = slope = bend = 0.0
    for i in range(x.shape[0]):
        low, width = table[i, 0], table[i, 1]
        place = (t - low) / width
        number = min(max(int(place), 0), PIECES - 1)
        k = 2 + 4 * number
        inside = 0.0 < place < PIECES
        d = t - low - number * width
        if not inside:
            d = 0.0 if place <= 0.0 else width
        own[i] = ((table[i, k] * d + table[i, k + 1]) * d + table[i, k + 2]) * d + table[i, k + 3]
        c += x[i] * own[i]
        if inside:
            slope += x[i] * ((3.0 * table[i, k] * d + 2.0 * table[i, k + 1]) * d + table[i, k + 2])
            bend += x[i] * (6.0 * table[i, k] * d + 2.0 * table[i, k + 1])
    return c, slope, bend


@kernel("void(float64[::1], float64[::1], float64[:, ::1], float64[:, ::1], float64[:, :, ::1], float64[:, ::1], float64[:, ::1])")
def volume_shift_rows(t, p, x, table, vectors, partial, out):
    """What the shifts c(T) change in rows of a phase: ln phi by -P c/RT, H by -P (c - T c'), S by P c', Cp by P T c'', V by -c."""
    rows, n = x.shape
    own, each, alone = np.empty(n), np.empty(n), np.zeros(n)
    for row in range(rows):
        T, P = t[row], p[row]
        c, slope, bend = volume_shift(T, x[row], table, own)
        for i in range(n):
            alone[i] = 1.0
            rising = volume_shift(T, alone, table, each)[1]
            alone[i] = 0.0
            vectors[row, 0, i] -= P * own[i] / (R * T)
            vectors[row, 1, i] -= P * (rising - own[i] / T) / (R * T)
            vectors[row, 2, i] -= own[i] / (R * T)
            partial[row, i] -= P * (own[i] - T * rising)
        out[row, 0] -= P * (c - T * slope)
        out[row, 1] += P * slope
        out[row, 2] += P * T * bend
        out[row, 3] -= c
