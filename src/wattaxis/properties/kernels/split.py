"""Split at given temperature and pressure (Michelsen 1982b) and the isothermal flash of up to three phases."""

from __future__ import annotations

import math

import numpy as np

from wattaxis.properties.kernels import inner, kernel, linked
from wattaxis.properties.kernels.activity import context
from wattaxis.properties.kernels.linear import cholesky, cholesky_solve
from wattaxis.properties.kernels.phase import log_phi, phase_properties, prepare
from wattaxis.properties.kernels.stability import unstable
from wattaxis.properties.kernels.three import FAILED, NOT_NEEDED, fourth_forms, three_phases
from wattaxis.properties.layout import (
    ACTIVITY,
    BAD_AMOUNTS,
    COVOLUME,
    GROUP_COUNTS,
    IDEAL,
    LEFT_OUT,
    LIQUID,
    NOT_CONVERGED,
    OK,
    OK_FOUR,
    OK_THREE,
    OK_TWO_LIQUIDS,
    PREDICTIVE,
    STABLE,
    UNIFAC,
    VAPOUR,
    R,
)

WORK_ROWS = 16
#: Molar volume over covolume at the critical point of the cubic equations, the border between liquid-like and
#: vapour-like single phases: it is crossed once along an isobar and is exact for a pure fluid.
CRITICAL_VOLUME_RATIO = 3.92
#: Of two coexisting phases the lighter one is a vapour above this ratio, a second liquid below.
LIQUID_VOLUME_RATIO = 2.2


@inner
def rachford_rice(z, k, beta):
    """Phase fraction of the phase y = k x; outside 0..1 for a negative flash (Whitson, Michelsen 1989). ``beta`` is where to start.

    Newton kept inside the shrinking bracket between the poles; monotone, so it always ends.
    """
    n = z.shape[0]
    k_min = k[0]
    k_max = k[0]
    for i in range(1, n):
        k_min = min(k_min, k[i])
        k_max = max(k_max, k[i])
    low = -1e300 if k_max <= 1.0 else 1.0 / (1.0 - k_max)
    high = 1e300 if k_min >= 1.0 else 1.0 / (1.0 - k_min)
    if low == -1e300 or high == 1e300:
        return -1.0 if k_max <= 1.0 else 2.0
    if not low < beta < high:
        beta = 0.5 * (low + high)
    for _ in range(100):
        value = 0.0
        slope = 0.0
        for i in range(n):
            ratio = (k[i] - 1.0) / (1.0 + beta * (k[i] - 1.0))
            value += z[i] * ratio
            slope -= z[i] * ratio * ratio
        if value > 0.0:
            low = beta
        else:
            high = beta
        step = -value / slope
        new = beta + step
        if not low < new < high:
            new = 0.5 * (low + high)
        if abs(new - beta) < 1e-15 * max(1.0, abs(beta)):
            return new
        beta = new
    return beta


@linked("UniTuple(f8, 2)(i8, f8, f8, f8[::1], f8[:, ::1], f8[:, :, ::1], f8, f8[::1], f8[::1], f8[:, ::1], i8)")
def _substitute(kind, t, p, z, par, ctx, beta, x, y, work, most):
    """Accelerated successive substitution from ln K in ``work[0]``, ``most`` times. Returns (beta, largest ln-fugacity gap).

    With no more than 60 it ends early where Newton does better.
    """
    n = z.shape[0]
    log_k = work[0]
    lnphi_x = work[1]
    lnphi_y = work[2]
    k = work[3]
    step = work[4]
    before = 0.0
    gap = 1.0
    settled = False
    liquid = LIQUID if kind == IDEAL else STABLE
    vapour = VAPOUR if kind == IDEAL else STABLE
    for iteration in range(most):
        for i in range(n):
            k[i] = math.exp(max(min(log_k[i], 600.0), -600.0))
        beta = rachford_rice(z, k, beta)
        if not -0.5 < beta < 1.5:
            return beta, 1.0
        sum_x = 0.0
        sum_y = 0.0
        for i in range(n):
            x[i] = z[i] / (1.0 + beta * (k[i] - 1.0))
            y[i] = k[i] * x[i]
            sum_x += x[i]
            sum_y += y[i]
        for i in range(n):
            x[i] /= sum_x
            y[i] /= sum_y
        if settled:
            return beta, gap
        log_phi(kind, liquid, t, p, x, par, ctx, lnphi_x)
        log_phi(kind, vapour, t, p, y, par, ctx, lnphi_y)
        last = gap
        gap = 0.0
        error = 0.0
        cross = 0.0
        for i in range(n):
            change = lnphi_x[i] - lnphi_y[i] - log_k[i]
            gap = max(gap, abs(change))
            error += z[i] * change * change
            cross += z[i] * change * step[i]
            step[i] = change
        if gap < 1e-12:
            return beta, gap
        if gap < 1e-9 and gap * gap < 1e-14 * last and iteration % 4 != 0:
            # The next substitution lands below the tolerance: make it, without looking at it again.
            settled = True
            gap *= gap / last
        factor = 1.0
        if iteration % 4 == 3 and before > 0.0 and not settled:
            eigen = cross / before
            if 0.0 < eigen < 0.97:
                factor = 1.0 / (1.0 - eigen)
        before = error
        for i in range(n):
            log_k[i] += factor * step[i]
        if most <= 60 and iteration >= 7 and not settled and error > 1e-16 and 0.0 < beta < 1.0:
            break
    return beta, gap


@inner
def _gibbs(v, liquid, x, y, lnphi_x, lnphi_y):
    value = 0.0
    for i in range(v.shape[0]):
        value += v[i] * (math.log(y[i]) + lnphi_y[i]) + liquid[i] * (math.log(x[i]) + lnphi_x[i])
    return value


@linked("UniTuple(f8, 2)(i8, f8, f8, f8[::1], f8[:, ::1], f8[:, :, ::1], f8, f8[::1], f8[::1], f8[:, ::1], f8[:, ::1])")
def _minimise(kind, t, p, z, par, ctx, beta, x, y, work, hess):
    """Newton on the Gibbs energy in the amounts of phase y, with a trust region and a line of falling energy.

    Returns (beta, largest ln-fugacity gap). The variables are scaled by sqrt(x y / z), so that traces count.
    """
    n = z.shape[0]
    v = work[0]
    liquid = work[1]
    lnphi_x = work[2]
    lnphi_y = work[3]
    grad = work[4]
    step = work[5]
    scale = work[6]
    new_v = work[7]
    new_l = work[8]
    new_x = work[9]
    new_y = work[10]
    dt = work[11]
    dp = work[12]
    props = np.empty(5)
    matrix = hess[:n]
    dn_x = hess[n : 2 * n]
    dn_y = hess[2 * n : 3 * n]
    for i in range(n):
        v[i] = beta * y[i]
        # Whichever amount is the smaller is kept to full relative accuracy.
        liquid[i] = (1.0 - beta) * x[i]
        if v[i] < liquid[i]:
            liquid[i] = z[i] - v[i]
        else:
            v[i] = z[i] - liquid[i]
    beta = 0.0
    other = 0.0
    for i in range(n):
        beta += v[i]
        other += liquid[i]
    for i in range(n):
        y[i] = v[i] / beta
        x[i] = liquid[i] / other
    phase_properties(kind, STABLE, t, p, x, par, ctx, True, lnphi_x, dt, dp, dn_x, props)
    phase_properties(kind, STABLE, t, p, y, par, ctx, True, lnphi_y, dt, dp, dn_y, props)
    energy = _gibbs(v, liquid, x, y, lnphi_x, lnphi_y)
    damping = 0.0
    gap = 1.0
    for _ in range(60):
        gap = 0.0
        for i in range(n):
            raw = math.log(y[i] / x[i]) + lnphi_y[i] - lnphi_x[i]
            gap = max(gap, abs(raw))
            scale[i] = math.sqrt(x[i] * y[i] / z[i])
            grad[i] = raw * scale[i]
        if gap < 1e-12:
            return beta, gap
        accepted = False
        norm = 1.0 / (beta * (1.0 - beta))
        for _attempt in range(24):
            for i in range(n):
                for j in range(n):
                    matrix[i, j] = scale[i] * scale[j] * norm * ((1.0 - beta) * dn_y[i, j] + beta * dn_x[i, j] - 1.0)
                matrix[i, i] += norm * (1.0 + damping)
                step[i] = -grad[i]
            if not cholesky(matrix, n):
                damping = max(4.0 * damping, 1e-6)
                continue
            cholesky_solve(matrix, step, n)
            fraction = 1.0
            for i in range(n):
                change = step[i] * scale[i]
                if change < 0.0 and -change * fraction > 0.95 * v[i]:
                    fraction = 0.95 * v[i] / -change
                if change > 0.0 and change * fraction > 0.95 * liquid[i]:
                    fraction = 0.95 * liquid[i] / change
            new_beta = 0.0
            for i in range(n):
                change = fraction * step[i] * scale[i]
                new_v[i] = v[i] + change
                new_l[i] = liquid[i] - change
                new_beta += new_v[i]
            other = 0.0
            for i in range(n):
                other += new_l[i]
            for i in range(n):
                new_y[i] = new_v[i] / new_beta
                new_x[i] = new_l[i] / other
            log_phi(kind, STABLE, t, p, new_x, par, ctx, lnphi_x)
            log_phi(kind, STABLE, t, p, new_y, par, ctx, lnphi_y)
            new_energy = _gibbs(new_v, new_l, new_x, new_y, lnphi_x, lnphi_y)
            if new_energy <= energy + 1e-13 * max(1.0, abs(energy)):
                accepted = True
                energy = new_energy
                beta = new_beta
                for i in range(n):
                    v[i] = new_v[i]
                    liquid[i] = new_l[i]
                    x[i] = new_x[i]
                    y[i] = new_y[i]
                damping *= 0.25
                if damping < 1e-7:
                    damping = 0.0
                break
            damping = max(4.0 * damping, 1e-6)
        if not accepted:
            return beta, gap
        if min(beta, 1.0 - beta) < 1e-14:
            return beta, 1.0
        phase_properties(kind, STABLE, t, p, x, par, ctx, True, lnphi_x, dt, dp, dn_x, props)
        phase_properties(kind, STABLE, t, p, y, par, ctx, True, lnphi_y, dt, dp, dn_y, props)
    return beta, gap


@inner
def volume_ratio(kind, t, p, x, par, ctx, scratch):
    """Molar volume of the stable root over the covolume; infinite-like for the ideal model's vapour."""
    z = log_phi(kind, STABLE, t, p, x, par, ctx, scratch)
    if kind >= ACTIVITY:
        return 1e9 * z  # a liquid without volume, or the ideal gas
    b = 0.0
    for i in range(x.shape[0]):
        b += x[i] * par[COVOLUME, i]
    return z * R * t / p / b


@inner
def _isothermal_ideal(p, z, ctx, x, y, work):
    n = z.shape[0]
    k = work[3]
    bubble = 0.0
    dew = 0.0
    for i in range(n):
        k[i] = math.exp(max(min(ctx[0, 0, i] - math.log(p), 600.0), -600.0))
        bubble += z[i] * k[i]
        dew += z[i] / k[i]
    if bubble <= 1.0:
        return OK, 0.0
    if dew <= 1.0:
        return OK, 1.0
    beta = rachford_rice(z, k, 0.5)
    for i in range(n):
        x[i] = z[i] / (1.0 + beta * (k[i] - 1.0))
        y[i] = k[i] * x[i]
    return OK, beta


@inner
def _share(z, x, y):
    """The amount of ``y`` from the balance of the component in which the phases differ most."""
    best = 0
    for i in range(z.shape[0]):
        if abs(y[i] - x[i]) > abs(y[best] - x[best]):
            best = i
    return (z[best] - x[best]) / (y[best] - x[best])


@inner
def _more_phases(kind, t, p, z, par, ctx, beta, x, y, w, work, hess, start):
    """Third phases beside a converged pair until nothing more forms. Returns (beta, gamma, whether it settled)."""
    n = z.shape[0]
    gamma = 0.0
    for _ in range(3):
        ratio_x = volume_ratio(kind, t, p, x, par, ctx, work[0])
        ratio_y = volume_ratio(kind, t, p, y, par, ctx, work[0])
        both = max(ratio_x, ratio_y) > LIQUID_VOLUME_RATIO
        if ratio_x > ratio_y:
            for i in range(n):
                x[i], y[i] = y[i], x[i]
            beta = 1.0 - beta
        outcome, beta, gamma = three_phases(kind, t, p, z, par, ctx, beta, x, y, w, work, hess, both)
        if outcome == FAILED or not 0.0 < beta < 1.0:
            return beta, 0.0, False
        if outcome == NOT_NEEDED or gamma > 0.0:
            return beta, gamma, True
        for i in range(n):
            start[i] = math.log(y[i] / x[i])
        beta, gap = _minimise(kind, t, p, z, par, ctx, beta, x, y, work, hess)
        if not gap < 1e-7:
            for i in range(n):
                work[0, i] = start[i]
            beta, gap = _substitute(kind, t, p, z, par, ctx, 0.5, x, y, work, 3000)
            if not (gap < 1e-7 and 0.0 < beta < 1.0):
                return beta, 0.0, False
    return beta, 0.0, True


@inner
def _label_three(beta, gamma, ratio_x, ratio_y, ratio_w, x, y, w):
    """Puts the vapour into ``y``; returns the amounts of it and of ``w``."""
    if ratio_x > ratio_y and ratio_x > ratio_w:
        for i in range(x.shape[0]):
            x[i], y[i] = y[i], x[i]
        return 1.0 - beta - gamma, gamma
    if ratio_w > ratio_y:
        for i in range(x.shape[0]):
            w[i], y[i] = y[i], w[i]
        return gamma, beta
    return beta, gamma


@linked("Tuple((i8, f8, f8))(i8, f8, f8, f8[::1], f8[:, ::1], f8[:, :, ::1], f8[::1], f8[::1], f8[::1], f8[:, ::1], f8[:, ::1])")
def isothermal(kind, t, p, z, par, ctx, x, y, w, work, hess):
    """Flash of an all-positive feed; ``ctx`` is prepared. Returns (status, fraction of ``y``, fraction of ``w``); fills the compositions.

    A single phase gives exactly 0 or 1 with both compositions equal to the feed. Two liquids come back with their own status; ``y`` is then the more
    expanded liquid and the fraction is its share. Of three phases ``y`` is the vapour and ``w`` the second liquid; a fourth one is left out by the
    status OK_FOUR. A fraction of ``w`` of LEFT_OUT says that more phases coexist than the pair that was found.
    """
    n = z.shape[0]
    for i in range(n):
        x[i] = z[i]
        y[i] = z[i]
        w[i] = z[i]
    if kind == IDEAL:
        status, beta = _isothermal_ideal(p, z, ctx, x, y, work)
        return status, beta, 0.0
    if n == 1:
        ratio = volume_ratio(kind, t, p, z, par, ctx, work[0])
        return OK, 1.0 if ratio > CRITICAL_VOLUME_RATIO else 0.0, 0.0
    d = work[14]
    lnphi_z = work[15]
    log_phi(kind, STABLE, t, p, z, par, ctx, lnphi_z)
    for i in range(n):
        d[i] = math.log(z[i]) + lnphi_z[i]
    if unstable(kind, t, p, z, d, par, ctx, y, work, hess, 1e-9, 0, False) == 0.0:
        for i in range(n):
            y[i] = z[i]
        ratio = volume_ratio(kind, t, p, z, par, ctx, work[0])
        return OK, 1.0 if ratio > CRITICAL_VOLUME_RATIO else 0.0, 0.0
    log_phi(kind, STABLE, t, p, y, par, ctx, work[1])
    start = np.empty(n)
    for i in range(n):
        start[i] = lnphi_z[i] - work[1, i]
        work[0, i] = start[i]
        d[i] = y[i]
    beta, gap = _substitute(kind, t, p, z, par, ctx, 0.5, x, y, work, 60)
    if not (gap < 1e-11 and 0.0 < beta < 1.0):
        if not 1e-12 < beta < 1.0 - 1e-12:
            # Back to the trial phase itself: a small amount of it is sure to lower the energy.
            beta = 1.0
            for i in range(n):
                y[i] = d[i]
                beta = min(beta, 0.3 * z[i] / d[i])
            for i in range(n):
                x[i] = (z[i] - beta * y[i]) / (1.0 - beta)
        beta, gap = _minimise(kind, t, p, z, par, ctx, beta, x, y, work, hess)
    if not gap < 1e-7:
        # A phase that changes from liquid to vapour on the way leaves a kink in the energy that stops Newton, but not patience.
        for i in range(n):
            work[0, i] = start[i]
        beta, gap = _substitute(kind, t, p, z, par, ctx, 0.5, x, y, work, 3000)
        if not (gap < 1e-7 and 0.0 < beta < 1.0):
            return NOT_CONVERGED, beta, 0.0
    pair_x = x.copy()
    pair_y = y.copy()
    beta, gamma, found = _more_phases(kind, t, p, z, par, ctx, beta, x, y, w, work, hess, start)
    if found and gamma > 0.0:
        ratio_w = volume_ratio(kind, t, p, w, par, ctx, work[0])
        ratio_x = volume_ratio(kind, t, p, x, par, ctx, work[0])
        ratio_y = volume_ratio(kind, t, p, y, par, ctx, work[0])
        if max(ratio_x, ratio_y, ratio_w) > LIQUID_VOLUME_RATIO:
            beta, gamma = _label_three(beta, gamma, ratio_x, ratio_y, ratio_w, x, y, w)
            return OK_FOUR if fourth_forms(kind, t, p, z, par, ctx, x, y, w, work, hess) else OK_THREE, beta, gamma
        found = False
    if not found:
        # Three liquids, or a third phase that could not be closed: the pair stands, and says that something is left out.
        for i in range(n):
            x[i] = pair_x[i]
            y[i] = pair_y[i]
        beta = _share(z, x, y)
        gamma = LEFT_OUT
    ratio_x = volume_ratio(kind, t, p, x, par, ctx, work[0])
    ratio_y = volume_ratio(kind, t, p, y, par, ctx, work[0])
    if ratio_x > ratio_y:
        for i in range(n):
            x[i], y[i] = y[i], x[i]
        beta = 1.0 - beta
    return OK if max(ratio_x, ratio_y) > LIQUID_VOLUME_RATIO else OK_TWO_LIQUIDS, beta, gamma


@kernel("float64[:, :, ::1](int64, float64[:, :, ::1], int64[::1])")
def without_absent(kind, pairs, rows):
    """The pair block of the components ``rows`` only; groups of UNIFAC stay, their counts are picked."""
    present = rows.shape[0]
    if kind in (UNIFAC, PREDICTIVE):
        few = pairs.copy()
        for a in range(present):
            for k in range(pairs.shape[1]):
                few[GROUP_COUNTS, k, a] = pairs[GROUP_COUNTS, k, rows[a]]
        return few
    few = np.empty((pairs.shape[0], present, present))
    for layer in range(pairs.shape[0]):
        for a in range(present):
            for b in range(present):
                few[layer, a, b] = pairs[layer, rows[a], rows[b]]
    return few


@kernel(
    "Tuple((int64, float64, float64, float64[::1], float64[::1], float64[::1], float64[::1]))"
    "(int64, float64, float64, float64[::1], float64[:, ::1], float64[:, :, ::1])"
)
def flash_tp(kind, t, p, amounts, par, pairs):
    """Stability test and split at T (K) and P (Pa) of mole amounts, which are checked and normalised here.

    Returns (status, fraction of y, fraction of w, z, x, y, w); BAD_AMOUNTS when an amount is negative or not finite or all are zero. Components that
    are absent leave the calculation and come back as zeros.
    """
    n = amounts.shape[0]
    z = np.empty(n)
    total = 0.0
    present = 0
    for i in range(n):
        if not 0.0 <= amounts[i] < 1e300:
            return BAD_AMOUNTS, 0.0, 0.0, z, z, z, z
        total += amounts[i]
    if not 0.0 < total < 1e300:
        return BAD_AMOUNTS, 0.0, 0.0, z, z, z, z
    for i in range(n):
        z[i] = amounts[i] / total
        # Counted here: beside enough of others a trace comes to nothing.
        if z[i] > 0.0:
            present += 1
    x = np.zeros(n)
    y = np.zeros(n)
    w = np.zeros(n)
    if present == n:
        ctx = context(kind, n, pairs)
        prepare(kind, t, par, pairs, ctx, False)
        status, beta, gamma = isothermal(kind, t, p, z, par, ctx, x, y, w, np.zeros((WORK_ROWS, n)), np.empty((3 * n, n)))
        return status, beta, gamma, z, x, y, w
    rows = np.flatnonzero(z)
    few_par = np.empty((par.shape[0], present))
    few_z = z[rows]
    for a in range(present):
        few_par[:, a] = par[:, rows[a]]
    few_pairs = without_absent(kind, pairs, rows)
    few_x = np.empty(present)
    few_y = np.empty(present)
    few_w = np.empty(present)
    few_ctx = context(kind, present, few_pairs)
    prepare(kind, t, few_par, few_pairs, few_ctx, False)
    work = np.zeros((WORK_ROWS, present))
    status, beta, gamma = isothermal(kind, t, p, few_z, few_par, few_ctx, few_x, few_y, few_w, work, np.empty((3 * present, present)))
    for a in range(present):
        x[rows[a]] = few_x[a]
        y[rows[a]] = few_y[a]
        w[rows[a]] = few_w[a]
    return status, beta, gamma, z, x, y, w


@kernel(
    "void(int64, float64[::1], float64[::1], float64[:, ::1], float64[:, ::1], float64[:, :, ::1],"
    "int64[::1], float64[::1], float64[:, ::1], float64[:, ::1])"
)
def flash_tp_many(kind, t, p, z, par, pairs, status, beta, x, y):
    """:func:`flash_tp` over the rows of ``z`` with one workspace."""
    n = z.shape[1]
    ctx = context(kind, n, pairs)
    work = np.zeros((WORK_ROWS, n))
    hess = np.empty((3 * n, n))
    w = np.empty(n)
    for row in range(z.shape[0]):
        prepare(kind, t[row], par, pairs, ctx, False)
        status[row], beta[row], _gamma = isothermal(kind, t[row], p[row], z[row], par, ctx, x[row], y[row], w, work, hess)
