"""The vapour over the liquid of an activity model where it is not ideal, and what then belongs to the liquid.

The liquid's fugacity is ``x_i gamma_i Psat_i phi_i(Psat_i) exp(V_i (P - Psat_i)/(R T))`` with a constant V_i, so that a pure component boils at its
vapour pressure exactly. The vapour is a cubic equation of state (its largest root), or the virial equation ``Z = 1 + B P/(R T)`` with second
coefficients by Tsonopoulos (1974), equations 5 to 7 and 22 to 25, with terms for polar substances where a component has them; or an ideal mixture
of clusters, :mod:`wattaxis.properties.kernels.clusters`.
"""

from __future__ import annotations

import math

from wattaxis.properties.kernels import inner, linked
from wattaxis.properties.kernels.activity import PSAT_ROW, REAL
from wattaxis.properties.kernels.clusters import cluster_properties, log_phi_clusters, prepare_clusters, saturated_clusters
from wattaxis.properties.kernels.cubic import compressibility_roots, cubic_properties, log_phi_cubic, prepare_cubic, root_of_attraction
from wattaxis.properties.layout import (
    CLUSTERS,
    COVOLUME,
    CUBIC,
    D1,
    D2,
    LIQUID_VOLUME,
    OMEGA,
    PC,
    POLAR_6,
    POLAR_8,
    REFERENCE,
    TC,
    VAPOUR,
    VAPOUR_FORM,
    VIRIAL,
    R,
)

#: A dense gas of less than so many covolumes is no vapour beside a liquid.
LEAST_VOLUME = 3.0


@inner
def second_virial(t, tc, pc, omega, polar6, polar8):
    """B (m3/mol) with two temperature derivatives; ``polar6`` and ``polar8`` are a and b of the terms for polar substances."""
    scale = R * tc / pc
    x = tc / t
    x2 = x * x
    x3 = x2 * x
    x6 = x3 * x3
    x8 = x6 * x2
    f = 0.1445 - 0.330 * x - 0.1385 * x2 - 0.0121 * x3 - 0.000607 * x8 + omega * (0.0637 + 0.331 * x2 - 0.423 * x3 - 0.008 * x8)
    # Derivatives by T of x**k are -k x**k / T and k (k + 1) x**k / T**2.
    f1 = 0.330 * x + 0.277 * x2 + 0.0363 * x3 + 0.004856 * x8 + omega * (-0.662 * x2 + 1.269 * x3 + 0.064 * x8)
    f2 = -0.660 * x - 0.831 * x2 - 0.1452 * x3 - 0.043704 * x8 + omega * (1.986 * x2 - 5.076 * x3 - 0.576 * x8)
    f += polar6 * x6 - polar8 * x8
    f1 += 8.0 * polar8 * x8 - 6.0 * polar6 * x6
    f2 += 42.0 * polar6 * x6 - 72.0 * polar8 * x8
    return scale * f, scale * f1 / t, scale * f2 / (t * t)


@inner
def _prepare_virial(t, par, ctx):
    """B_ij with two T derivatives; cross constants by Tsonopoulos (1974) with critical volumes from Zc = 0.291 - 0.08 omega."""
    n = par.shape[1]
    for i in range(n):
        zc_i = 0.291 - 0.08 * par[OMEGA, i]
        vc_i = zc_i * R * par[TC, i] / par[PC, i]
        for j in range(i + 1):
            zc_j = 0.291 - 0.08 * par[OMEGA, j]
            vc_j = zc_j * R * par[TC, j] / par[PC, j]
            tc = math.sqrt(par[TC, i] * par[TC, j])
            vc = (0.5 * (vc_i ** (1.0 / 3.0) + vc_j ** (1.0 / 3.0))) ** 3
            pc = 0.5 * (zc_i + zc_j) * R * tc / vc
            # Terms for polar substances count between two of them, as their mean.
            both = (par[POLAR_6, i] != 0.0 or par[POLAR_8, i] != 0.0) and (par[POLAR_6, j] != 0.0 or par[POLAR_8, j] != 0.0)
            a6 = 0.5 * (par[POLAR_6, i] + par[POLAR_6, j]) if both else 0.0
            a8 = 0.5 * (par[POLAR_8, i] + par[POLAR_8, j]) if both else 0.0
            b, b1, b2 = second_virial(t, tc, pc, 0.5 * (par[OMEGA, i] + par[OMEGA, j]), a6, a8)
            ctx[0, i, j] = ctx[0, j, i] = b
            ctx[1, i, j] = ctx[1, j, i] = b1
            ctx[2, i, j] = ctx[2, j, i] = b2


@inner
def _saturated(t, par, i, log_p, log_p1, log_p2):
    """ln phi of the pure vapour of a cubic equation along P(T), with two total T derivatives."""
    root, root1, root2 = root_of_attraction(t, par, i)
    a, a1, a2 = root * root, 2.0 * root * root1, 2.0 * (root1 * root1 + root * root2)
    b, d1, d2 = par[COVOLUME, i], par[D1, i], par[D2, i]
    p = math.exp(log_p)
    rt = R * t
    _small, z = compressibility_roots(a * p / (rt * rt), b * p / rt, d1 + d2, d1 * d2)
    v = z * rt / p
    span = 1.0 / (b * (d1 - d2))
    logarithm = span * math.log((v + d1 * b) / (v + d2 * b))
    bottom = (v + d1 * b) * (v + d2 * b)
    ln_phi = z - 1.0 - math.log(z * (1.0 - b / v)) - a * logarithm / rt
    h = p * v - rt + (t * a1 - a) * logarithm
    p_t = R / (v - b) - a1 / bottom
    p_v = -rt / (v - b) ** 2 + a * (2.0 * v + (d1 + d2) * b) / (bottom * bottom)
    cp = t * a2 * logarithm - t * p_t * p_t / p_v - R
    by_t = -h / (rt * t)
    by_tt = 2.0 * h / (rt * t * t) - cp / (rt * t)
    by_p = (z - 1.0) / p
    v_p = 1.0 / p_v
    v_t = -p_t / p_v
    by_pp = v_p / rt + 1.0 / (p * p)
    by_tp = v_t / rt - v / (rt * t)
    p1 = p * log_p1
    p2 = p * (log_p2 + log_p1 * log_p1)
    return ln_phi, by_t + by_p * p1, by_tt + 2.0 * by_tp * p1 + by_pp * p1 * p1 + by_p * p2


@linked("void(f8, f8[:, ::1], f8[:, :, ::1], f8[:, :, ::1])")
def prepare_vapour(t, par, no_pairs, ctx):
    """What the real vapour needs at a temperature, and the pure vapours' corrections added to ln Psat in the workspace."""
    form = par[VAPOUR_FORM, 0]
    virial = form == VIRIAL
    real = ctx[REAL : REAL + 3]
    if virial:
        _prepare_virial(t, par, real)
    elif form == CLUSTERS:
        prepare_clusters(t, par, real)
    else:
        prepare_cubic(t, par, no_pairs, real, True)
    for i in range(par.shape[1]):
        if par[REFERENCE, i] == 0.0:
            continue  # a dissolved gas: its Henry constant is a fugacity already
        value, first, second = ctx[0, PSAT_ROW, i], ctx[1, PSAT_ROW, i], ctx[2, PSAT_ROW, i]
        b = -par[LIQUID_VOLUME, i]
        b1 = b2 = 0.0
        if virial:
            b, b1, b2 = b + real[0, i, i], real[1, i, i], real[2, i, i]
        else:
            if form == CLUSTERS:
                more, more1, more2 = saturated_clusters(t, par, i, value, first, second)
            else:
                more, more1, more2 = _saturated(t, par, i, value, first, second)
            ctx[0, PSAT_ROW, i] += more
            ctx[1, PSAT_ROW, i] += more1
            ctx[2, PSAT_ROW, i] += more2
        q = math.exp(value) / (R * t)
        q1 = q * (first - 1.0 / t)
        q2 = q * ((first - 1.0 / t) ** 2 + second + 1.0 / (t * t))
        ctx[0, PSAT_ROW, i] += b * q
        ctx[1, PSAT_ROW, i] += b1 * q + b * q1
        ctx[2, PSAT_ROW, i] += b2 * q + 2.0 * b1 * q1 + b * q2


@linked("Tuple((f8, b1))(f8, f8, f8[::1], f8[:, ::1], f8[:, :, ::1], f8[::1])")
def log_phi_vapour(t, p, x, par, ctx, out):
    """ln phi_i of the vapour into ``out``; returns (Z, whether it is a vapour at all and not a fluid as dense as a liquid)."""
    n = x.shape[0]
    real = ctx[REAL : REAL + 3]
    if par[VAPOUR_FORM, 0] == CLUSTERS:
        return log_phi_clusters(t, p, x, par, real, out), True
    if par[VAPOUR_FORM, 0] != VIRIAL:
        z = log_phi_cubic(CUBIC, VAPOUR, t, p, x, par, real, out)
        b = 0.0
        for i in range(n):
            b += x[i] * par[COVOLUME, i]
        return z, z * R * t / p > LEAST_VOLUME * b
    mixed = 0.0
    for i in range(n):
        out[i] = 0.0
        for j in range(n):
            out[i] += x[j] * real[0, i, j]
        mixed += x[i] * out[i]
    reduced = p / (R * t)
    for i in range(n):
        out[i] = (2.0 * out[i] - mixed) * reduced
    # Beyond this pressure the equation, solved for it in the density, has no vapour any more.
    return 1.0 + mixed * reduced, abs(mixed) * reduced < 0.25


@linked("void(f8, f8, f8[::1], f8[:, ::1], f8[:, :, ::1], b1, f8[::1], f8[::1], f8[::1], f8[:, ::1], f8[::1])")
def vapour_properties(t, p, x, par, ctx, second, lnphi, dt, dp, dn, props):
    """See :func:`wattaxis.properties.kernels.phase.phase_properties`."""
    real = ctx[REAL : REAL + 3]
    if par[VAPOUR_FORM, 0] == CLUSTERS:
        cluster_properties(t, p, x, par, real, second, lnphi, dt, dp, dn, props)
        return
    if par[VAPOUR_FORM, 0] != VIRIAL:
        cubic_properties(CUBIC, VAPOUR, t, p, x, par, real, second, lnphi, dt, dp, dn, props)
        return
    n = x.shape[0]
    z, _real = log_phi_vapour(t, p, x, par, ctx, lnphi)
    reduced = p / (R * t)
    b = (z - 1.0) / reduced
    b1 = b2 = 0.0
    for i in range(n):
        dt[i] = 0.0
        for j in range(n):
            dt[i] += x[j] * real[1, i, j]
            b2 += x[i] * x[j] * real[2, i, j]
        b1 += x[i] * dt[i]
    if second:
        for i in range(n):
            for j in range(n):
                sums = (lnphi[i] + lnphi[j]) / reduced + 2.0 * b  # 2 sum_k x_k (B_ik + B_jk)
                dn[i, j] = reduced * (2.0 * real[0, i, j] + 2.0 * b - sums)
    for i in range(n):
        dt[i] = (2.0 * dt[i] - b1) * reduced - lnphi[i] / t
        dp[i] = lnphi[i] / p
    props[0] = z
    props[1] = z * R * t / p
    props[2] = p * (b - t * b1)
    props[3] = -p * b1
    props[4] = -t * p * b2
