"""Cubic equations of state of one phase: fugacity coefficients and departure functions.

The two-parameter form ``P = R T / (v - b) - a / ((v + d1 b)(v + d2 b))`` with ``d1, d2 = 1 + sqrt 2, 1 - sqrt 2`` (Peng, Robinson 1976) or
``1, 0`` (Soave 1972) or any other numbers, ``b = sum x_i b_i``, and one of two mixing rules for the attraction D = n**2 a: one fluid,
``D = sum sum n_i n_j sqrt(a_i a_j) (1 - k_ij)``, or from the groups of the molecules (:mod:`wattaxis.properties.kernels.predictive`). Derivatives
follow the residual Helmholtz energy F of Michelsen and Mollerup (2007), chapter 3.
"""

from __future__ import annotations

import math

from wattaxis.properties.kernels import inner, linked
from wattaxis.properties.kernels.predictive import SECOND, group_attraction, group_attraction_derivatives
from wattaxis.properties.layout import ALPHA_2, ALPHA_3, COVOLUME, D1, D2, LIQUID, PAIR_A, PAIR_B, PAIR_E, PREDICTIVE, ROOT_A, SLOPE, STABLE, TC, R

#: Columns of the property vector that :func:`wattaxis.properties.kernels.phase.phase_properties` fills.
Z, V, H_RES, S_RES, CP_RES = 0, 1, 2, 3, 4


@inner
def root_of_attraction(t, par, i):
    """sqrt(a_i) with two temperature derivatives: ``sqrt(a_c) (1 + m s + c2 s**2 + c3 s**3)``, s = 1 - sqrt(T/Tc) (Mathias, Copeman 1983).

    c2 and c3 count below the critical temperature only.
    """
    reduced = math.sqrt(t / par[TC, i])
    s = 1.0 - reduced
    s1 = -reduced / (2.0 * t)
    s2 = -s1 / (2.0 * t)
    c2 = par[ALPHA_2, i] if s > 0.0 else 0.0
    c3 = par[ALPHA_3, i] if s > 0.0 else 0.0
    root = par[ROOT_A, i] * (1.0 + s * (par[SLOPE, i] + s * (c2 + s * c3)))
    slope = par[ROOT_A, i] * (par[SLOPE, i] + s * (2.0 * c2 + 3.0 * s * c3))
    bend = par[ROOT_A, i] * (2.0 * c2 + 6.0 * s * c3)
    sign = 1.0 if root >= 0.0 else -1.0
    return sign * root, sign * slope * s1, sign * (bend * s1 * s1 + slope * s2)


@linked("void(f8, f8[:, ::1], f8[:, :, ::1], f8[:, :, ::1], b1)")
def prepare_cubic(t, par, pairs, ctx, derivatives):
    """Fill ``ctx[0]`` with a_ij(T) and, on request, ``ctx[1:3]`` with its first two T derivatives; k_ij = a + b/T + e T."""
    n = par.shape[1]
    # The diagonals hold the roots r_i = sqrt(a_i) until the pairs are done.
    for i in range(n):
        ctx[0, i, i], ctx[1, i, i], ctx[2, i, i] = root_of_attraction(t, par, i)
    for i in range(n):
        r, r1, r2 = ctx[0, i, i], ctx[1, i, i], ctx[2, i, i]
        for j in range(i + 1, n):
            factor = 1.0 - (pairs[PAIR_A, i, j] + pairs[PAIR_B, i, j] / t + pairs[PAIR_E, i, j] * t)
            product = r * ctx[0, j, j]
            ctx[0, i, j] = factor * product
            ctx[0, j, i] = ctx[0, i, j]
            if derivatives:
                warmer = pairs[PAIR_B, i, j] / (t * t) - pairs[PAIR_E, i, j]
                bend = -2.0 * pairs[PAIR_B, i, j] / (t * t * t)
                product1 = r1 * ctx[0, j, j] + r * ctx[1, j, j]
                value = factor * product1 + warmer * product
                ctx[1, i, j] = value
                ctx[1, j, i] = value
                value = factor * (r2 * ctx[0, j, j] + 2.0 * r1 * ctx[1, j, j] + r * ctx[2, j, j]) + 2.0 * warmer * product1 + bend * product
                ctx[2, i, j] = value
                ctx[2, j, i] = value
    for i in range(n):
        r, r1, r2 = ctx[0, i, i], ctx[1, i, i], ctx[2, i, i]
        ctx[0, i, i] = r * r
        ctx[1, i, i] = 2.0 * r * r1
        ctx[2, i, i] = 2.0 * (r1 * r1 + r * r2)


@inner
def compressibility_roots(a, b, u, w):
    """Smallest root above b and largest root of the cubic in Z; ``a``, ``b`` reduced, u = d1 + d2, w = d1 d2."""
    c2 = -(1.0 + b - u * b)
    c1 = a + w * b * b - u * b - u * b * b
    c0 = -(a * b + w * b * b + w * b * b * b)
    shift = -c2 / 3.0
    p = c1 - c2 * c2 / 3.0
    q = 2.0 * c2 * c2 * c2 / 27.0 - c2 * c1 / 3.0 + c0
    discriminant = 0.25 * q * q + p * p * p / 27.0
    if discriminant > 0.0:
        root = math.sqrt(discriminant)
        s = -0.5 * q + root if q < 0.0 else -0.5 * q - root
        s = math.copysign(abs(s) ** (1.0 / 3.0), s)
        largest = shift + s - p / (3.0 * s)
    else:
        m = 2.0 * math.sqrt(max(-p / 3.0, 0.0))
        if m == 0.0:
            largest = shift
        else:
            angle = min(1.0, max(-1.0, 3.0 * q / (p * m)))
            largest = shift + m * math.cos(math.acos(angle) / 3.0)
    for _ in range(4):
        slope = (3.0 * largest + 2.0 * c2) * largest + c1
        if slope == 0.0:
            break
        step = (((largest + c2) * largest + c1) * largest + c0) / slope
        largest -= step
        if abs(step) < 1e-15 * abs(largest):
            break
    # At tiny pressures two roots lie so close beside the third that the discriminant is all rounding: the quadratic left tells.
    if discriminant > 1e-12 * 0.25 * q * q:
        return largest, largest
    # Deflate from below, which keeps the tiny liquid root of low pressures to full relative accuracy.
    product = -c0 / largest
    total = (product - c1) / largest
    inner = total * total - 4.0 * product
    if inner < 0.0:
        return largest, largest
    half = -0.5 * (total + math.copysign(math.sqrt(inner), total))
    if half == 0.0:
        return largest, largest
    smallest = min(half, product / half)
    for _ in range(6):
        slope = (3.0 * smallest + 2.0 * c2) * smallest + c1
        if slope == 0.0:
            break
        step = (((smallest + c2) * smallest + c1) * smallest + c0) / slope
        smallest -= step
        if abs(step) < 1e-15 * abs(smallest):
            break
    if not smallest > b:
        return largest, largest
    return smallest, largest


@inner
def _departure_gibbs(z, a, b, d1, d2):
    """Residual Gibbs energy over R T at one root, for choosing between the two."""
    return z - 1.0 - math.log(z - b) - a / (b * (d1 - d2)) * math.log((z + d1 * b) / (z + d2 * b))


@linked("f8(i8, i8, f8, f8, f8[::1], f8[:, ::1], f8[:, :, ::1], f8[::1])")
def log_phi_cubic(kind, root, t, p, x, par, ctx, out):
    """ln phi_i into ``out``; returns Z."""
    n = x.shape[0]
    d1, d2 = par[D1, 0], par[D2, 0]
    a = 0.0
    b = 0.0
    if kind == PREDICTIVE:
        group_attraction(x, par, ctx, out)
    else:
        for i in range(n):
            out[i] = 0.0
        # Row after row, so that the processor can take several components at once without changing the order of any sum.
        for j in range(n):
            x_j = x[j]
            for i in range(n):
                out[i] += x_j * ctx[0, j, i]
    for i in range(n):
        a += x[i] * out[i]
        b += x[i] * par[COVOLUME, i]
    rt = R * t
    ra = a * p / (rt * rt)
    rb = b * p / rt
    small, large = compressibility_roots(ra, rb, d1 + d2, d1 * d2)
    z = large
    if root == LIQUID or (root == STABLE and small != large and _departure_gibbs(small, ra, rb, d1, d2) < _departure_gibbs(large, ra, rb, d1, d2)):
        z = small
    logarithm = math.log((z + d1 * rb) / (z + d2 * rb)) * ra / (rb * (d1 - d2))
    first = math.log(z - rb)
    per_b = (z - 1.0 + logarithm) / b
    per_a = 2.0 * logarithm / a
    for i in range(n):
        out[i] = par[COVOLUME, i] * per_b - first - per_a * out[i]
    return z


@inner
def _composition(n, x, t, v, par, d_i, dn, g_b, f_b, cap_f_bb, cap_f_d, half, p_v):
    """Fill ``dn`` from F_ij and the pressure derivatives, which arrive in its last row; ``half`` is half the second derivative of D."""
    for i in range(n):
        b_i = par[COVOLUME, i]
        p_i = dn[n - 1, i]
        for j in range(i + 1):
            b_j = par[COVOLUME, j]
            f_ij = -g_b * (b_i + b_j) - f_b / t * (b_i * d_i[j] + b_j * d_i[i]) + cap_f_bb * b_i * b_j + cap_f_d * 2.0 * half[i, j]
            value = f_ij + 1.0 + p_i * dn[n - 1, j] / (R * t * p_v)
            if i < n - 1:
                dn[i, j] = value
                dn[j, i] = value
            else:
                dn[j, i] = value  # the last row still holds the pressure derivatives
    for j in range(n - 1):
        dn[n - 1, j] = dn[j, n - 1]


@linked("void(i8, i8, f8, f8, f8[::1], f8[:, ::1], f8[:, :, ::1], b1, f8[::1], f8[::1], f8[::1], f8[:, ::1], f8[::1])")
def cubic_properties(kind, root, t, p, x, par, ctx, second, lnphi, dt, dp, dn, props):
    """See :func:`wattaxis.properties.kernels.phase.phase_properties`."""
    n = x.shape[0]
    d1, d2 = par[D1, 0], par[D2, 0]
    z = log_phi_cubic(kind, root, t, p, x, par, ctx, lnphi)
    v = z * R * t / p
    d = 0.0
    d_t = 0.0
    d_tt = 0.0
    b = 0.0
    # dt and dp serve as scratch for D_i and D_iT until the end.
    half = ctx[0]
    if kind == PREDICTIVE:
        half = ctx[SECOND]
        d, d_t, d_tt = group_attraction_derivatives(t, x, par, ctx, second, dt, dp)
    else:
        for i in range(n):
            sum0 = 0.0
            sum1 = 0.0
            sum2 = 0.0
            for j in range(n):
                sum0 += x[j] * ctx[0, i, j]
                sum1 += x[j] * ctx[1, i, j]
                sum2 += x[j] * ctx[2, i, j]
            dt[i] = 2.0 * sum0
            dp[i] = 2.0 * sum1
            d += x[i] * sum0
            d_t += x[i] * sum1
            d_tt += x[i] * sum2
    for i in range(n):
        b += x[i] * par[COVOLUME, i]
    g_v = 1.0 / (v - b) - 1.0 / v
    g_b = -1.0 / (v - b)
    g_vv = -1.0 / (v - b) ** 2 + 1.0 / v**2
    g_bv = 1.0 / (v - b) ** 2
    g_bb = -1.0 / (v - b) ** 2
    span = 1.0 / (R * b * (d1 - d2))
    one = v + d1 * b
    two = v + d2 * b
    f = span * math.log(one / two)
    f_v = -1.0 / (R * one * two)
    f_b = -(f + v * f_v) / b
    f_vv = span * (-1.0 / one**2 + 1.0 / two**2)
    f_bv = -(2.0 * f_v + v * f_vv) / b
    f_bb = -(2.0 * f_b + v * f_bv) / b
    dt_ratio = d / t
    f_total = -math.log(1.0 - b / v) - dt_ratio * f
    cap_f_d = -f / t
    cap_f_vv = -g_vv - dt_ratio * f_vv
    cap_f_bv = -g_bv - dt_ratio * f_bv
    cap_f_bb = -g_bb - dt_ratio * f_bb
    f_t = d * f / t**2 + cap_f_d * d_t
    f_tt = -2.0 * d * f / t**3 + 2.0 * f / t**2 * d_t + cap_f_d * d_tt
    f_tv = d * f_v / t**2 - f_v / t * d_t
    p_v = -R * t * cap_f_vv - R * t / v**2
    p_t = -R * t * f_tv + p / t
    props[Z] = z
    props[V] = v
    s_volume = -t * f_t - f_total
    props[S_RES] = R * (s_volume + math.log(z))
    props[H_RES] = R * t * (-t * f_t) + p * v - R * t
    props[CP_RES] = R * (-t * t * f_tt - 2.0 * t * f_t) - t * p_t**2 / p_v - R
    for i in range(n):
        b_i = par[COVOLUME, i]
        # P_i = dP/dn_i; kept in the last row of dn until the pairs are done
        dn[n - 1, i] = -R * t * (-g_v + cap_f_bv * b_i - f_v / t * dt[i]) + R * t / v
    if second:
        _composition(n, x, t, v, par, dt, dn, g_b, f_b, cap_f_bb, cap_f_d, half, p_v)
    for i in range(n):
        b_i = par[COVOLUME, i]
        p_i = -R * t * (-g_v + cap_f_bv * b_i - f_v / t * dt[i]) + R * t / v
        volume = -p_i / p_v
        f_it = (d * f_b / t**2) * b_i + f / t**2 * dt[i] - f_b / t * b_i * d_t + cap_f_d * dp[i]
        dt[i] = f_it + 1.0 / t - volume * p_t / (R * t)
        dp[i] = volume / (R * t) - 1.0 / p
