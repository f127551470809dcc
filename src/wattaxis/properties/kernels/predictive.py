"""The attraction of a cubic equation of state from the groups of the molecules.

Holderbaum, Gmehling 1991, equations 9 to 11: ``a = b (sum x_i a_i/b_i + (g_E + R T sum x_i ln(b/b_i)) / A_1)``, A_1 = -0.64663, with the excess
Gibbs energy g_E of UNIFAC. In amounts, with B = sum n_i b_i: ``D = n**2 a = B E``, ``E = sum n_i a_i/b_i + R T/A_1 (g + sum n_i ln(B/(n b_i)))``.
"""

from __future__ import annotations

import math

from wattaxis.properties.kernels import inner
from wattaxis.properties.kernels.activity import MATRIX, PSAT_ROW, VECTORS, log_gamma
from wattaxis.properties.layout import COVOLUME, UNIFAC, R

A_1 = -0.64663
#: Layer of the workspace with half the second derivatives of D.
SECOND = 12
#: Rows of the layer of vectors beyond those of the activity models: ln gamma_i, its T derivative, and R T/A_1 in front.
GAMMA, GAMMA_T, RATE = 12, 13, 14


@inner
def _covolume(x, par):
    b = 0.0
    for i in range(x.shape[0]):
        b += x[i] * par[COVOLUME, i]
    return b


@inner
def group_attraction(x, par, ctx, out):
    """Half of dD/dn_i at one mole in all into ``out``; ``ctx[0, PSAT_ROW]`` holds a_i/b_i."""
    n = x.shape[0]
    gamma = ctx[VECTORS, GAMMA]
    log_gamma(UNIFAC, x, par, ctx, False, False, gamma, gamma, ctx[MATRIX])
    factor = ctx[VECTORS, RATE, 0]
    b = _covolume(x, par)
    e = 0.0
    for i in range(n):
        share = b / par[COVOLUME, i]
        out[i] = ctx[0, PSAT_ROW, i] + factor * (gamma[i] + math.log(share) + 1.0 / share - 1.0)
        e += x[i] * out[i]
    for i in range(n):
        out[i] = 0.5 * (par[COVOLUME, i] * e + b * out[i])


@inner
def group_attraction_derivatives(t, x, par, ctx, second, d_i, d_it):
    """D with two T derivatives; dD/dn_i and its T derivative into ``d_i``, ``d_it``; on request half of d2D/dn_i dn_j into ``ctx[SECOND]``."""
    n = x.shape[0]
    gamma, gamma_t = ctx[VECTORS, GAMMA], ctx[VECTORS, GAMMA_T]
    half = ctx[SECOND]
    curvature = log_gamma(UNIFAC, x, par, ctx, True, second, gamma, gamma_t, half)
    rate = R / A_1
    b = _covolume(x, par)
    e = e_t = slope = 0.0
    e_tt = rate * t * curvature
    for i in range(n):
        share = b / par[COVOLUME, i]
        excess = gamma[i] + math.log(share) + 1.0 / share - 1.0
        d_i[i] = ctx[0, PSAT_ROW, i] + rate * t * excess
        d_it[i] = ctx[1, PSAT_ROW, i] + rate * (excess + t * gamma_t[i])
        e += x[i] * d_i[i]
        e_t += x[i] * d_it[i]
        slope += x[i] * gamma_t[i]
        e_tt += x[i] * ctx[2, PSAT_ROW, i]
    e_tt += 2.0 * rate * slope
    if second:
        for i in range(n):
            for j in range(n):
                b_i, b_j = par[COVOLUME, i], par[COVOLUME, j]
                e_ij = rate * t * (half[i, j] + b_j / b + b_i / b - 1.0 - b_i * b_j / (b * b))
                half[i, j] = 0.5 * (b_i * d_i[j] + b_j * d_i[i] + b * e_ij)
    for i in range(n):
        d_i[i] = par[COVOLUME, i] * e + b * d_i[i]
        d_it[i] = par[COVOLUME, i] * e_t + b * d_it[i]
    return b * e, b * e_t, b * e_tt
