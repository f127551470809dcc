"""Activity coefficients of liquids with analytic temperature and composition derivatives.

All models give the molar excess Gibbs energy g = G_E / RT as a function of amounts, homogeneous of degree one; ln gamma_i is its first and the matrix
``dn`` its second derivative. Wilson (1964), UNIQUAC (Abrams, Prausnitz 1975) and the groups of UNIFAC (Fredenslund, Jones, Prausnitz 1975) share one
residual term: with amounts N, surfaces q and Boltzmann factors M, ``S_k = sum_j q_j N_j M_jk`` and ``g = Q ln Q - sum_k q_k N_k ln S_k``.
"""

from __future__ import annotations

import math

import numpy as np

from wattaxis.properties.kernels import inner, linked
from wattaxis.properties.kernels.pure import log_vapour_pressure
from wattaxis.properties.layout import (
    ACTIVITY,
    GROUP_COUNTS,
    GROUP_SURFACES,
    MARGULES,
    NRTL,
    PAIR_A,
    PAIR_ALPHA,
    PAIR_B,
    PAIR_E,
    PAIR_F,
    PREDICTIVE,
    SIZE,
    SIZE_POWER,
    SURFACE,
    UNIFAC,
    UNIQUAC,
    VAN_LAAR,
    WILSON,
)

Z_HALF = 5.0  # half of the lattice coordination number
#: Layers of the workspace. 0 to 2: ln Psat (row 0) and the pure-component residual (row 1) with two T derivatives; 3 to 5: the pair terms with two T
#: derivatives; 6 to 8: the Boltzmann factors of NRTL likewise, or in 6 the groups of UNIFAC; 9: vectors; 10: a matrix.
PSAT_ROW, PURE_ROW = 0, 1
PAIR, FACTOR, VECTORS, MATRIX = 3, 6, 9, 10
#: 11 to 13: what a real vapour needs (:mod:`wattaxis.properties.kernels.vapour`), or the second derivatives of a predicted attraction.
REAL = 11
LAYERS, SMALLEST = 14, 15
# Rows of the layer of vectors.
S_0, S_1, S_2, C_0, C_1, C_2, AMOUNT, LOCAL, LOCAL_T, SURF, COUNT = range(11)


@inner
def context_shape(kind, n, block):
    """Shape of the workspace of one temperature; ``block`` is the size of the pair block."""
    if kind < ACTIVITY and kind != PREDICTIVE:
        return 3, n, n
    size = max(n, block, SMALLEST)
    return LAYERS, size, size


@inner
def context(kind, n, pairs):
    """Workspace of one temperature for :func:`wattaxis.properties.kernels.phase.prepare`."""
    return np.empty(context_shape(kind, n, pairs.shape[1]))


@inner
def _residual(size, ctx, derivatives):
    """The shared residual term for the amounts in the workspace: its local ln gamma and T derivative there; returns g, g_T, g_TT."""
    amount, surface = ctx[VECTORS, AMOUNT], ctx[VECTORS, SURF]
    s0, s1, s2 = ctx[VECTORS, S_0], ctx[VECTORS, S_1], ctx[VECTORS, S_2]
    local, local_t = ctx[VECTORS, LOCAL], ctx[VECTORS, LOCAL_T]
    total = 0.0
    for k in range(size):
        s0[k] = s1[k] = s2[k] = 0.0
        total += surface[k] * amount[k]
    for j in range(size):
        weight = surface[j] * amount[j]
        if weight == 0.0:
            continue
        for k in range(size):
            s0[k] += weight * ctx[PAIR, j, k]
        if derivatives:
            for k in range(size):
                s1[k] += weight * ctx[PAIR + 1, j, k]
                s2[k] += weight * ctx[PAIR + 2, j, k]
    log_total = math.log(total)
    g = 0.0
    g_t = 0.0
    g_tt = 0.0
    for k in range(size):
        value = 1.0 + log_total - math.log(s0[k])
        slope = -s1[k] / s0[k]
        for j in range(size):
            weight = surface[j] * amount[j]
            if weight == 0.0:
                continue
            value -= weight * ctx[PAIR, k, j] / s0[j]
            if derivatives:
                slope -= weight * (ctx[PAIR + 1, k, j] - ctx[PAIR, k, j] * s1[j] / s0[j]) / s0[j]
        local[k] = surface[k] * value
        local_t[k] = surface[k] * slope
        g += amount[k] * local[k]
        if derivatives:
            g_t += amount[k] * local_t[k]
            ratio = s1[k] / s0[k]
            g_tt -= surface[k] * amount[k] * (s2[k] / s0[k] - ratio * ratio)
    return g, g_t, g_tt


@inner
def prepare_groups(n, t, pairs, ctx):
    """Group interaction terms psi = exp(-(a + b T + c T2)/T), and the residual of the groups in each pure component."""
    groups = int(pairs[GROUP_SURFACES, 1, 0])
    ctx[VECTORS, COUNT, 0] = groups
    for k in range(groups):
        ctx[VECTORS, SURF, k] = pairs[GROUP_SURFACES, 0, k]
        for i in range(n):
            ctx[FACTOR, k, i] = pairs[GROUP_COUNTS, k, i]
        for m in range(groups):
            a, b, c = pairs[0, k, m], pairs[1, k, m], pairs[2, k, m]
            factor = math.exp(-(a / t + b + c * t))
            first = a / t**2 - c
            ctx[PAIR, k, m] = factor
            ctx[PAIR + 1, k, m] = factor * first
            ctx[PAIR + 2, k, m] = factor * (first * first - 2.0 * a / t**3)
    for i in range(n):
        for k in range(groups):
            ctx[VECTORS, AMOUNT, k] = ctx[FACTOR, k, i]
        g, g_t, g_tt = _residual(groups, ctx, True)
        ctx[0, PURE_ROW, i], ctx[1, PURE_ROW, i], ctx[2, PURE_ROW, i] = g, g_t, g_tt


@linked("void(i8, f8, f8[:, ::1], f8[:, :, ::1], f8[:, :, ::1])")
def prepare_activity(kind, t, par, pairs, ctx):
    """Everything that depends on temperature alone."""
    n = par.shape[1]
    for i in range(n):
        ctx[0, PSAT_ROW, i], ctx[1, PSAT_ROW, i], ctx[2, PSAT_ROW, i] = log_vapour_pressure(t, par, i)
    if kind == UNIFAC:
        prepare_groups(n, t, pairs, ctx)
        return
    log_t = math.log(t)
    for i in range(n):
        for j in range(n):
            b, e, f = pairs[PAIR_B, i, j], pairs[PAIR_E, i, j], pairs[PAIR_F, i, j]
            value = pairs[PAIR_A, i, j] + b / t + e * log_t + f * t
            first = -b / t**2 + e / t + f
            second = 2.0 * b / t**3 - e / t**2
            if kind in (WILSON, UNIQUAC):
                # a_ij describes molecule j around i (Wilson) or ln tau_ij (UNIQUAC); the residual wants M[around, centre].
                factor = math.exp(value)
                row, column = (j, i) if kind == WILSON else (i, j)
                ctx[PAIR, row, column] = factor
                ctx[PAIR + 1, row, column] = factor * first
                ctx[PAIR + 2, row, column] = factor * (first * first + second)
                continue
            ctx[PAIR, i, j], ctx[PAIR + 1, i, j], ctx[PAIR + 2, i, j] = value, first, second
            if kind == NRTL:
                alpha = pairs[PAIR_ALPHA, i, j]
                factor = math.exp(-alpha * value)
                slope = -alpha * first
                ctx[FACTOR, i, j] = factor
                ctx[FACTOR + 1, i, j] = factor * slope
                ctx[FACTOR + 2, i, j] = factor * (slope * slope - alpha * second)
    for i in range(n):
        ctx[VECTORS, SURF, i] = par[SURFACE, i] if kind == UNIQUAC else 1.0


@inner
def _residual_matrix(size, ctx, out):
    """Second derivatives of the residual term in its amounts, after :func:`_residual`."""
    amount, surface, s0 = ctx[VECTORS, AMOUNT], ctx[VECTORS, SURF], ctx[VECTORS, S_0]
    total = 0.0
    for k in range(size):
        total += surface[k] * amount[k]
    for k in range(size):
        for m in range(k + 1):
            value = 1.0 / total - ctx[PAIR, m, k] / s0[k] - ctx[PAIR, k, m] / s0[m]
            for j in range(size):
                weight = surface[j] * amount[j]
                if weight != 0.0:
                    value += weight * ctx[PAIR, k, j] * ctx[PAIR, m, j] / (s0[j] * s0[j])
            out[k, m] = surface[k] * surface[m] * value
            out[m, k] = out[k, m]


@inner
def _combinatorial(x, par, second, out, dn):
    """Adds the size and shape part (Abrams, Prausnitz 1975; powered sizes: Weidlich, Gmehling 1987)."""
    n = x.shape[0]
    r = 0.0
    q = 0.0
    powered = 0.0
    for i in range(n):
        r += x[i] * par[SIZE, i]
        q += x[i] * par[SURFACE, i]
        powered += x[i] * par[SIZE_POWER, i]
    for i in range(n):
        first = par[SIZE_POWER, i] / powered
        ratio = par[SIZE, i] * q / (par[SURFACE, i] * r)
        out[i] += math.log(first) + 1.0 - first - Z_HALF * par[SURFACE, i] * (math.log(ratio) + 1.0 - ratio)
    if second:
        for i in range(n):
            for m in range(n):
                value = 1.0 - (par[SIZE_POWER, i] + par[SIZE_POWER, m]) / powered + par[SIZE_POWER, i] * par[SIZE_POWER, m] / (powered * powered)
                shift = par[SURFACE, m] / q - par[SIZE, m] / r
                turned = par[SIZE, i] * par[SURFACE, m] / r - par[SIZE, i] * q * par[SIZE, m] / (r * r)
                dn[i, m] += value - Z_HALF * (par[SURFACE, i] * shift - turned)


@inner
def _nrtl(x, ctx, derivatives, second, out, dt, dn):
    """NRTL (Renon, Prausnitz 1968); returns g_TT."""
    n = x.shape[0]
    tau, tau1, tau2 = ctx[PAIR], ctx[PAIR + 1], ctx[PAIR + 2]
    g0, g1, g2 = ctx[FACTOR], ctx[FACTOR + 1], ctx[FACTOR + 2]
    vectors = ctx[VECTORS]
    curvature = 0.0
    for j in range(n):
        s = s1 = s2 = c = c1 = c2 = 0.0
        for k in range(n):
            s += x[k] * g0[k, j]
            c += x[k] * tau[k, j] * g0[k, j]
            if derivatives:
                s1 += x[k] * g1[k, j]
                s2 += x[k] * g2[k, j]
                c1 += x[k] * (tau1[k, j] * g0[k, j] + tau[k, j] * g1[k, j])
                c2 += x[k] * (tau2[k, j] * g0[k, j] + 2.0 * tau1[k, j] * g1[k, j] + tau[k, j] * g2[k, j])
        ratio = c / s
        slope = (c1 - ratio * s1) / s
        vectors[S_0, j], vectors[S_1, j] = s, s1
        vectors[C_0, j], vectors[C_1, j] = ratio, slope
        if derivatives:
            curvature += x[j] * (c2 - 2.0 * slope * s1 - ratio * s2) / s
    ratio, slope, s, s1 = vectors[C_0], vectors[C_1], vectors[S_0], vectors[S_1]
    share = ctx[MATRIX]
    for i in range(n):
        value = ratio[i]
        warm = slope[i]
        for j in range(n):
            part = g0[i, j] * (tau[i, j] - ratio[j]) / s[j]
            share[i, j] = part
            value += x[j] * part
            if derivatives:
                warm += x[j] * (g1[i, j] * (tau[i, j] - ratio[j]) + g0[i, j] * (tau1[i, j] - slope[j]) - part * s1[j]) / s[j]
        out[i] = value
        if derivatives:
            dt[i] = warm
    if second:
        for i in range(n):
            for m in range(n):
                value = share[i, m] + share[m, i]
                for j in range(n):
                    value -= x[j] * (g0[i, j] * share[m, j] + share[i, j] * g0[m, j]) / s[j]
                dn[i, m] = value
    return curvature


@inner
def _margules(x, ctx, derivatives, second, out, dt, dn):
    """Three-suffix Margules equations for any number of components (Wohl 1946): G_E/RT = sum A_ji x_i x_i x_j, and for every three components
    half the sum of their six constants times x_i x_j x_k; returns g_TT."""
    n = x.shape[0]
    total = total_t = curvature = 0.0
    for layer in range(3):
        if layer > 0 and not derivatives:
            break
        a = ctx[PAIR + layer]
        cubic = 0.0
        pairs = 0.0  # sum over pairs of (A_ij + A_ji) x_i x_j
        for i in range(n):
            for j in range(i):
                pairs += (a[i, j] + a[j, i]) * x[i] * x[j]
        for i in range(n):
            value = around = squared = 0.0
            for j in range(n):
                if i != j:
                    value += 2.0 * a[j, i] * x[i] * x[j] + a[i, j] * x[j] * x[j]
                    cubic += a[j, i] * x[i] * x[i] * x[j]
                    both = a[i, j] + a[j, i]
                    around += both * x[j]
                    squared += both * x[j] * x[j]
            cubic -= 0.5 * x[i] * x[i] * around
            value += 0.5 * ((1.0 - 2.0 * x[i]) * around - squared + pairs)
            if layer == 0:
                out[i] = value
            elif layer == 1:
                dt[i] = value
        cubic += 0.5 * pairs
        if layer == 0:
            total = cubic
        elif layer == 1:
            total_t = cubic
        else:
            curvature = cubic
    if second:
        a = ctx[PAIR]
        for i in range(n):
            for m in range(n):
                value = 0.0
                if i != m:
                    both = a[m, i] + a[i, m]
                    value = 2.0 * a[m, i] * x[i] + 2.0 * a[i, m] * x[m] + 0.5 * both * (1.0 - 2.0 * x[i] - 2.0 * x[m])
                    for k in range(n):
                        if k != i:
                            value += 0.5 * (a[i, k] + a[k, i]) * x[k]
                        if k != m:
                            value += 0.5 * (a[m, k] + a[k, m]) * x[k]
                else:
                    for j in range(n):
                        if j != i:
                            value += 2.0 * a[j, i] * x[j]
                dn[i, m] = value - 2.0 * (out[i] + out[m]) + 6.0 * total
    for i in range(n):
        out[i] -= 2.0 * total
        if derivatives:
            dt[i] -= 2.0 * total_t
    return curvature


@inner
def _van_laar(x, ctx, derivatives, second, out, dt, dn):
    """Van Laar equation, summed over pairs: G_E/RT = sum A B x_i x_j / (A x_i + B x_j); returns g_TT."""
    n = x.shape[0]
    curvature = 0.0
    for i in range(n):
        out[i] = 0.0
        if derivatives:
            dt[i] = 0.0
        if second:
            for m in range(n):
                dn[i, m] = 0.0
    for i in range(n):
        for j in range(i):
            a, b = ctx[PAIR, i, j], ctx[PAIR, j, i]
            bottom = a * x[i] + b * x[j]
            if a * b <= 0.0 or not abs(bottom) > 1e-300:
                continue  # the equation has no meaning for constants of opposite sign; that is found before
            u, v = a * x[i] / bottom, b * x[j] / bottom
            out[i] += a * v * v
            out[j] += b * u * u
            if second:
                dn[i, i] -= 2.0 * a * a * v * v / bottom
                dn[j, j] -= 2.0 * b * b * u * u / bottom
                cross = 2.0 * a * b * u * v / bottom
                dn[i, j] += cross
                dn[j, i] += cross
            if derivatives:
                a1, b1 = ctx[PAIR + 1, i, j], ctx[PAIR + 1, j, i]
                a2, b2 = ctx[PAIR + 2, i, j], ctx[PAIR + 2, j, i]
                v_t = v * (b1 / b - (a1 * x[i] + b1 * x[j]) / bottom)
                u_t = u * (a1 / a - (a1 * x[i] + b1 * x[j]) / bottom)
                dt[i] += a1 * v * v + 2.0 * a * v * v_t
                dt[j] += b1 * u * u + 2.0 * b * u * u_t
                g_a, g_b = x[i] * v * v, x[j] * u * u
                g_aa, g_bb = -2.0 * x[i] * x[i] * v * v / bottom, -2.0 * x[j] * x[j] * u * u / bottom
                g_ab = 2.0 * x[i] * x[j] * u * v / bottom
                curvature += g_a * a2 + g_b * b2 + g_aa * a1 * a1 + 2.0 * g_ab * a1 * b1 + g_bb * b1 * b1
    return curvature


@inner
def _unifac(x, par, ctx, derivatives, second, out, dt, dn):
    n = x.shape[0]
    groups = int(ctx[VECTORS, COUNT, 0])
    counts, amount = ctx[FACTOR], ctx[VECTORS, AMOUNT]
    for k in range(groups):
        amount[k] = 0.0
        for i in range(n):
            amount[k] += counts[k, i] * x[i]
    _g, _g_t, curvature = _residual(groups, ctx, derivatives)
    for i in range(n):
        value = -ctx[0, PURE_ROW, i]
        slope = -ctx[1, PURE_ROW, i]
        curvature -= x[i] * ctx[2, PURE_ROW, i]
        for k in range(groups):
            value += counts[k, i] * ctx[VECTORS, LOCAL, k]
            slope += counts[k, i] * ctx[VECTORS, LOCAL_T, k]
        out[i] = value
        if derivatives:
            dt[i] = slope
    if second:
        matrix = ctx[MATRIX]
        _residual_matrix(groups, ctx, matrix)
        for i in range(n):
            for m in range(n):
                dn[i, m] = 0.0
                for k in range(groups):
                    if counts[k, i] != 0.0:
                        for j in range(groups):
                            dn[i, m] += counts[k, i] * counts[j, m] * matrix[k, j]
    _combinatorial(x, par, second, out, dn)
    return curvature


@linked("f8(i8, f8[::1], f8[:, ::1], f8[:, :, ::1], b1, b1, f8[::1], f8[::1], f8[:, ::1])")
def log_gamma(kind, x, par, ctx, derivatives, second, out, dt, dn):
    """ln gamma_i of a liquid into ``out``; on request T derivatives into ``dt`` and composition derivatives into ``dn``; returns g_TT."""
    n = x.shape[0]
    if kind == NRTL:
        return _nrtl(x, ctx, derivatives, second, out, dt, dn)
    if kind == MARGULES:
        return _margules(x, ctx, derivatives, second, out, dt, dn)
    if kind == VAN_LAAR:
        return _van_laar(x, ctx, derivatives, second, out, dt, dn)
    amount = ctx[VECTORS, AMOUNT]
    if kind == UNIFAC:
        return _unifac(x, par, ctx, derivatives, second, out, dt, dn)
    for i in range(n):
        amount[i] = x[i]
    _g, _g_t, curvature = _residual(n, ctx, derivatives)
    for i in range(n):
        out[i] = ctx[VECTORS, LOCAL, i]
        if derivatives:
            dt[i] = ctx[VECTORS, LOCAL_T, i]
    if second:
        _residual_matrix(n, ctx, dn)
    if kind == UNIQUAC:
        _combinatorial(x, par, second, out, dn)
    return curvature
