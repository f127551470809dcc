"""A third phase: tested for after every split, found by substitution with a convex problem for the amounts, and merging of states at a jump."""

from __future__ import annotations

import math

import numpy as np

from wattaxis.properties.kernels import inner, linked
from wattaxis.properties.kernels.linear import solve_in_place
from wattaxis.properties.kernels.phase import log_phi
from wattaxis.properties.kernels.stability import COMMON_STARTS, unstable, wilson_log_k
from wattaxis.properties.layout import OK, OK_THREE, OK_TWO_LIQUIDS, STABLE

NOT_NEEDED, FOUND, FAILED = 0, 1, 2
#: Passes that two phases are given to settle without the third, before it is asked whether it comes back; and how often it may.
PATIENCE, RETURNS = 200, 3


@inner
def _objective(z, c, a0, a1, a2):
    value = a0 + a1 + a2
    for i in range(z.shape[0]):
        bottom = a0 * c[0, i] + a1 * c[1, i] + a2 * c[2, i]
        if not bottom > 0.0:
            return 1e300
        value -= z[i] * math.log(bottom)
    return value


@inner
def _amounts(z, c, a):
    """Phase amounts ``a`` that minimise Michelsen's (1994) Q = sum a_k - sum z_i ln(sum_k a_k c_ki) with none below zero."""
    n = z.shape[0]
    curvature = np.empty((3, 3))
    matrix = np.empty((3, 3))
    step = np.empty(3)
    grad = np.empty(3)
    fixed = np.empty(3, dtype=np.bool_)
    for _ in range(60):
        for k in range(3):
            grad[k] = 1.0
            for m in range(3):
                curvature[k, m] = 0.0
        for i in range(n):
            bottom = a[0] * c[0, i] + a[1] * c[1, i] + a[2] * c[2, i]
            for k in range(3):
                grad[k] -= z[i] * c[k, i] / bottom
                for m in range(3):
                    curvature[k, m] += z[i] * c[k, i] * c[m, i] / (bottom * bottom)
        for k in range(3):
            fixed[k] = a[k] <= 0.0 and grad[k] >= 0.0
        for _attempt in range(3):
            for k in range(3):
                for m in range(3):
                    matrix[k, m] = 0.0 if fixed[k] or fixed[m] else curvature[k, m]
                # As many phases as components (and one more) leave a direction without curvature.
                matrix[k, k] = 1.0 if fixed[k] else matrix[k, k] * (1.0 + 1e-10)
                step[k] = 0.0 if fixed[k] else -grad[k]
            if not solve_in_place(matrix, step, 3):
                return
            again = False
            for k in range(3):
                if not fixed[k] and a[k] <= 0.0 and step[k] < 0.0:
                    fixed[k] = again = True
            if not again:
                break
        fraction = 1.0
        blocking = -1
        for k in range(3):
            if step[k] < 0.0 and a[k] + fraction * step[k] < 0.0:
                fraction = -a[k] / step[k]
                blocking = k
        moved = 0.0
        before = _objective(z, c, a[0], a[1], a[2])
        full = fraction
        for _attempt in range(40):
            b0, b1, b2 = a[0] + fraction * step[0], a[1] + fraction * step[1], a[2] + fraction * step[2]
            if _objective(z, c, max(b0, 0.0), max(b1, 0.0), max(b2, 0.0)) <= before + 1e-15:
                break
            fraction *= 0.5
        for k in range(3):
            a[k] = max(0.0, a[k] + fraction * step[k])
            moved = max(moved, abs(fraction * step[k]))
        if blocking >= 0 and fraction == full:
            a[blocking] = 0.0
        if moved < 1e-14:
            return


@inner
def _wanted(z, c, a, absent, gap):
    """Whether a little of the absent phase would lower Q, beyond what the ``gap`` left between the others can feign."""
    excess = -1.0
    for i in range(z.shape[0]):
        excess += z[i] * c[absent, i] / (a[0] * c[0, i] + a[1] * c[1, i] + a[2] * c[2, i])
    return excess > 1e-12 + 10.0 * gap * gap


@inner
def _distance(u, v):
    gap = 0.0
    for i in range(u.shape[0]):
        gap = max(gap, abs(u[i] - v[i]))
    return gap


@inner
def _condensed(t, p, z, par, x, v, y, w):
    """What would condense from ``y``, without what ``x`` and ``v`` are made of, into ``w``."""
    wilson_log_k(t, p, par, w)
    total = 0.0
    for i in range(z.shape[0]):
        w[i] = y[i] * math.exp(max(min(-w[i], 300.0), -300.0)) * (1.0 - x[i]) * (1.0 - v[i]) + 1e-12 * z[i]
        total += w[i]
    for i in range(z.shape[0]):
        w[i] /= total


@inner
def fourth_forms(kind, t, p, z, par, ctx, x, y, w, work, hess):
    """Whether one more liquid would form beside three phases in equilibrium, ``y`` the lightest; among two components it cannot."""
    n = z.shape[0]
    if n < 3:
        return False
    d = np.empty(n)
    trial = np.empty(n)
    tolerance = 1e-9
    log_phi(kind, STABLE, t, p, x, par, ctx, d)
    log_phi(kind, STABLE, t, p, w, par, ctx, trial)
    for i in range(n):
        d[i] += math.log(x[i])
        tolerance = max(tolerance, 5.0 * abs(d[i] - math.log(w[i]) - trial[i]))
    _condensed(t, p, z, par, x, w, y, trial)
    return unstable(kind, t, p, x, d, par, ctx, trial, work, hess, tolerance, COMMON_STARTS, True) < 0.0


@linked("Tuple((i8, f8, f8))(i8, f8, f8, f8[::1], f8[:, ::1], f8[:, :, ::1], f8, f8[::1], f8[::1], f8[::1], f8[:, ::1], f8[:, ::1], b1)")
def three_phases(kind, t, p, z, par, ctx, beta, x, y, w, work, hess, with_vapour):
    """Look for a third phase beside the pair ``x``, ``y`` (amount ``beta``), one of them a vapour or not.

    Returns (outcome, beta, gamma): NOT_NEEDED when the pair is stable; FOUND with amounts of ``y`` and ``w`` when three coexist or, with no
    amount of ``w``, when another pair is the right one; FAILED when the substitution does not settle.
    """
    n = z.shape[0]
    c = np.ones((3, n))
    lnphi = np.empty((3, n))
    log_phi(kind, STABLE, t, p, x, par, ctx, lnphi[0])
    d = np.empty(n)
    log_phi(kind, STABLE, t, p, y, par, ctx, lnphi[1])
    tolerance = 1e-11
    for i in range(n):
        d[i] = math.log(x[i]) + lnphi[0, i]
        # The pair lies on one tangent plane only as well as it is converged.
        tolerance = max(tolerance, 5.0 * abs(d[i] - math.log(y[i]) - lnphi[1, i]))
    _condensed(t, p, z, par, x, x, y, w)
    first = COMMON_STARTS if with_vapour else COMMON_STARTS - 1
    if unstable(kind, t, p, x, d, par, ctx, w, work, hess, tolerance, first, False) == 0.0:
        return NOT_NEEDED, beta, 0.0
    a = np.empty(3)
    a[0], a[1], a[2] = (1.0 - beta) * 0.98, beta * 0.98, 0.02
    log_phi(kind, STABLE, t, p, w, par, ctx, lnphi[2])
    log_c = np.zeros((3, n))
    last = np.zeros((3, n))
    for k in range(1, 3):
        for i in range(n):
            log_c[k, i] = lnphi[0, i] - lnphi[k, i]
    before = 0.0
    gap = 1.0
    absent = -1
    waited = 0
    returns = 0
    held = np.zeros(n)
    for iteration in range(1500):
        for k in range(3):
            for i in range(n):
                c[k, i] = math.exp(max(min(log_c[k, i], 500.0), -500.0))
        if absent >= 0:
            # The other two settle first: half-settled, they would be told from it by their errors alone.
            held[:] = c[absent]
            c[absent] = 0.0
        _amounts(z, c, a)
        if absent >= 0:
            c[absent] = held
            waited += 1
        else:
            for k in range(3):
                if a[k] == 0.0:
                    absent = k
                    waited = 0
        for k in range(3):
            phase = x if k == 0 else y if k == 1 else w
            total = 0.0
            for i in range(n):
                bottom = a[0] * c[0, i] + a[1] * c[1, i] + a[2] * c[2, i]
                phase[i] = max(z[i] * c[k, i] / bottom, 1e-300)
                total += phase[i]
            for i in range(n):
                phase[i] /= total
            log_phi(kind, STABLE, t, p, phase, par, ctx, lnphi[k])
        error = 0.0
        cross = 0.0
        gap = 0.0
        for k in range(1, 3):
            for i in range(n):
                change = lnphi[0, i] - lnphi[k, i] - log_c[k, i]
                if a[k] > 0.0 and a[0] > 0.0:
                    gap = max(gap, abs(change))
                error += z[i] * change * change
                cross += z[i] * change * last[k, i]
                last[k, i] = change
        alike = min(_distance(x, y), min(_distance(x, w), _distance(y, w))) < 1e-7
        settled = gap < 1e-12 or (absent > 0 and (gap < 1e-7 or waited > PATIENCE))
        if settled or absent == 0 or alike:
            if absent <= 0 or alike or returns == RETURNS or not _wanted(z, c, a, absent, gap):
                break
            a[absent] = 0.01
            absent = -1
            returns += 1
        factor = 1.0
        if iteration % 6 == 5 and before > 0.0:
            eigen = cross / before
            if 0.0 < eigen < 0.98:
                factor = 1.0 / (1.0 - eigen)
        before = error
        for k in range(1, 3):
            for i in range(n):
                log_c[k, i] += factor * last[k, i]
    total = a[0] + a[1] + a[2]
    if _distance(x, y) < 1e-7:
        # Two of the three have become one phase: it and the third are the pair.
        for i in range(n):
            x[i] = w[i]
        return FOUND, (a[0] + a[1]) / total, 0.0
    if _distance(x, w) < 1e-7:
        return FOUND, a[1] / total, 0.0
    if _distance(y, w) < 1e-7:
        return FOUND, (a[1] + a[2]) / total, 0.0
    if absent < 0 and not gap < 1e-7:
        return FAILED, beta, 0.0
    if a[0] == 0.0:
        # The reference has gone: the other two are the pair.
        for i in range(n):
            x[i] = w[i]
        return FOUND, a[1] / total, 0.0
    if a[1] == 0.0:
        for i in range(n):
            y[i] = w[i]
        return FOUND, a[2] / total, 0.0
    return FOUND, a[1] / total, a[2] / total


@inner
def _slots(status, beta, gamma, x, y, w, amount, comp):
    """Liquid, vapour and second liquid of a state in fixed places."""
    n = x.shape[0]
    for i in range(n):
        comp[0, i] = x[i]
        comp[1, i] = y[i]
        comp[2, i] = w[i]
    gamma = max(gamma, 0.0)
    amount[0], amount[1], amount[2] = 1.0 - beta - gamma, beta, gamma
    if status == OK_TWO_LIQUIDS:
        for i in range(n):
            comp[2, i] = y[i]
        amount[1], amount[2] = 0.0, beta
    if amount[0] < 1e-14:
        amount[0] = 0.0


@linked("Tuple((i8, f8, f8))(f8, i8, f8, f8, f8[:, ::1], i8, f8, f8, f8[:, ::1], f8[::1], f8[::1], f8[::1])")
def merge(theta, low_status, low_beta, low_gamma, low, high_status, high_beta, high_gamma, high, x, y, w):
    """The state between two states at one T and P where a property jumps: ``theta`` of the second, the rest of the first.

    Phases that are the same on both sides are joined. Fills ``x``, ``y``, ``w``; returns (status, beta, gamma).
    """
    n = x.shape[0]
    a = np.zeros(3)
    b = np.zeros(3)
    comp_a = np.empty((3, n))
    comp_b = np.empty((3, n))
    _slots(low_status, low_beta, low_gamma, low[0], low[1], low[2], a, comp_a)
    _slots(high_status, high_beta, high_gamma, high[0], high[1], high[2], b, comp_b)
    one_a = a[0] > 0.0 and a[2] == 0.0
    one_b = b[0] > 0.0 and b[2] == 0.0
    if one_a and one_b and _distance(comp_a[0], comp_b[0]) > 1e-3:
        b[2], b[0] = b[0], 0.0
        comp_b[2] = comp_b[0]
    elif one_a and b[0] > 0.0 and b[2] > 0.0 and _distance(comp_a[0], comp_b[2]) < _distance(comp_a[0], comp_b[0]):
        a[2], a[0] = a[0], 0.0
        comp_a[2] = comp_a[0]
    elif one_b and a[0] > 0.0 and a[2] > 0.0 and _distance(comp_b[0], comp_a[2]) < _distance(comp_b[0], comp_a[0]):
        b[2], b[0] = b[0], 0.0
        comp_b[2] = comp_b[0]
    amount = np.empty(3)
    for k in range(3):
        phase = x if k == 0 else y if k == 1 else w
        from_a = (1.0 - theta) * a[k]
        from_b = theta * b[k]
        amount[k] = from_a + from_b
        for i in range(n):
            if amount[k] > 0.0:
                phase[i] = (from_a * comp_a[k, i] + from_b * comp_b[k, i]) / amount[k]
            elif b[k] > 0.0:
                phase[i] = comp_b[k, i]
            elif a[k] > 0.0:
                phase[i] = comp_a[k, i]
    if amount[0] == 0.0 and amount[2] > 0.0:
        for i in range(n):
            x[i] = w[i]
        amount[0], amount[2] = amount[2], 0.0
    if amount[2] > 0.0:
        return OK_THREE, amount[1], amount[2]
    return OK, amount[1], 0.0
