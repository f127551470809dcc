"""Phase stability by the tangent-plane distance (Michelsen 1982a)."""

from __future__ import annotations

import math

import numpy as np

from wattaxis.properties.kernels import inner, linked
from wattaxis.properties.kernels.activity import PSAT_ROW
from wattaxis.properties.kernels.cubic import compressibility_roots
from wattaxis.properties.kernels.linear import cholesky, cholesky_solve
from wattaxis.properties.kernels.phase import log_phi, phase_properties
from wattaxis.properties.kernels.vapour import log_phi_vapour
from wattaxis.properties.layout import (
    ACTIVITY,
    COVOLUME,
    D1,
    D2,
    IDEAL_GAS,
    LIQUID,
    OMEGA,
    PC,
    PREDICTIVE,
    ROOT_A,
    STABLE,
    STEAM,
    TC,
    VAPOUR,
    VAPOUR_FORM,
    R,
)

#: Starts of the cubic models; activity models, predicted attractions and fourth phases take every component nearly pure instead of the last three.
STARTS, COMMON_STARTS = 8, 5
#: Tangent-plane distance of a nearly pure phase from which on it is not followed: an activity of a fifth.
HOPELESS = 1.6
#: How much of a component a phase has that is tried next to its vapour pressure; and where it has but one root alone, up to which ln K (Wilson).
RICH, LESS_RICH, NEXT = 0.999, 0.9, 0.6
#: Starts that look for a vapour.
VAPOUR_LIKE = (0, 2, 4)


@inner
def wilson_log_k(t, p, par, out):
    """ln K of Wilson's correlation, the usual start: ln(Pc/P) + 5.373 (1 + omega)(1 - Tc/T)."""
    for i in range(par.shape[1]):
        out[i] = math.log(par[PC, i] / p) + 5.373 * (1.0 + par[OMEGA, i]) * (1.0 - par[TC, i] / t)


@inner
def _start(every, which, z, d, log_k, par, w):
    """Write the trial phase number ``which`` (unnormalised mole numbers) into ``w``; ``every`` component nearly pure, or three of them."""
    n = z.shape[0]
    if which >= COMMON_STARTS:
        chosen = which - COMMON_STARTS if every else 0
        for i in range(1, 0 if every else n):
            if which == 5 and par[TC, i] > par[TC, chosen]:
                chosen = i
            if which == 6 and par[TC, i] < par[TC, chosen]:
                chosen = i
            if which == 7 and par[ROOT_A, i] / par[COVOLUME, i] > par[ROOT_A, chosen] / par[COVOLUME, chosen]:
                chosen = i
        for i in range(n):
            w[i] = 0.999 if i == chosen else 0.001 * z[i]
        return
    for i in range(n):
        if which == 0:
            w[i] = z[i] * math.exp(min(log_k[i], 300.0))
        elif which == 1:
            w[i] = z[i] * math.exp(min(-log_k[i], 300.0))
        elif which == 2:
            w[i] = z[i] * math.exp(log_k[i] / 3.0)
        elif which == 3:
            w[i] = z[i] * math.exp(-log_k[i] / 3.0)
        else:
            w[i] = math.exp(min(d[i], 300.0))
    total = 0.0
    for i in range(n):
        total += w[i]
    for i in range(n):
        w[i] /= total


@inner
def _distance(w, lnphi, d):
    value = 1.0
    for i in range(w.shape[0]):
        value += w[i] * (math.log(max(w[i], 1e-300)) + lnphi[i] - d[i] - 1.0)
    return value


@inner
def _newton(kind, root, t, p, z, d, par, ctx, w, work, hess, tolerance):
    """Minimise the tangent-plane distance with a trust-region Newton method in alpha = 2 sqrt(W)."""
    n = z.shape[0]
    x = work[0]
    lnphi = work[1]
    grad = work[2]
    step = work[3]
    trial = work[4]
    dt = work[5]
    dp = work[6]
    props = np.empty(5)
    dn = hess[n : 2 * n]
    matrix = hess[:n]
    damping = 0.0
    total = 0.0
    for i in range(n):
        total += w[i]
    for i in range(n):
        x[i] = w[i] / total
    phase_properties(kind, root, t, p, x, par, ctx, True, lnphi, dt, dp, dn, props)
    value = _distance(w, lnphi, d)
    for _ in range(60):
        size = 0.0
        apart = 0.0
        for i in range(n):
            gap = math.log(max(w[i], 1e-300)) + lnphi[i] - d[i]
            grad[i] = math.sqrt(w[i]) * gap
            size += grad[i] * grad[i]
            apart += w[i] * (math.log(max(w[i], 1e-300) / z[i])) ** 2
        if value < -100.0 * tolerance and apart > 1e-8:
            return value
        if apart < 1e-10:
            return 0.0
        if size < 1e-22:
            return value
        accepted = False
        for _attempt in range(12):
            for i in range(n):
                for j in range(n):
                    matrix[i, j] = math.sqrt(w[i] * w[j]) * dn[i, j] / total
                matrix[i, i] += 1.0 + damping + 0.5 * grad[i] / math.sqrt(max(w[i], 1e-300))
                step[i] = -grad[i]
            if not cholesky(matrix, n):
                damping = max(2.0 * damping, 0.5)
                continue
            cholesky_solve(matrix, step, n)
            new_total = 0.0
            for i in range(n):
                alpha = 2.0 * math.sqrt(w[i]) + step[i]
                alpha = max(alpha, 0.2 * math.sqrt(w[i]))
                trial[i] = 0.25 * alpha * alpha
                new_total += trial[i]
            for i in range(n):
                x[i] = trial[i] / new_total
            log_phi(kind, root, t, p, x, par, ctx, lnphi)
            new = _distance(trial, lnphi, d)
            if new <= value + 1e-14:
                accepted = True
                for i in range(n):
                    w[i] = trial[i]
                value = new
                total = new_total
                damping *= 0.2
                if damping < 1e-3:
                    damping = 0.0
                break
            damping = max(3.0 * damping, 0.3)
        if not accepted:
            return value
        phase_properties(kind, root, t, p, x, par, ctx, True, lnphi, dt, dp, dn, props)
    return value


@linked("f8(i8, i8, f8, f8, f8[::1], f8[::1], f8[:, ::1], f8[:, :, ::1], f8[::1], f8[:, ::1], f8[:, ::1], f8)")
def _trial(kind, root, t, p, z, d, par, ctx, w, work, hess, tolerance):
    """Follow one trial phase from ``w`` down the tangent-plane distance.

    Returns the reduced distance at the end (negative: the feed is unstable, ``w`` holds the trial phase; zero: the
    trial fell back on the feed). Substitution with dominant-eigenvalue acceleration, then Newton in 2 sqrt(W).
    """
    n = z.shape[0]
    x = work[0]
    lnphi = work[1]
    log_w = work[2]
    step = work[3]
    log_z = work[9]
    before = 0.0
    for i in range(n):
        log_w[i] = math.log(max(w[i], 1e-300))
    for iteration in range(40):
        total = 0.0
        for i in range(n):
            total += w[i]
        for i in range(n):
            x[i] = w[i] / total
        log_phi(kind, root, t, p, x, par, ctx, lnphi)
        error = 0.0
        cross = 0.0
        distance = 1.0
        apart = 0.0
        slope = 0.0
        for i in range(n):
            new = d[i] - lnphi[i]
            change = new - log_w[i]
            distance -= w[i] * (1.0 + change)
            slope -= (w[i] - z[i]) * change
            weight = w[i] / total
            error += weight * change * change
            cross += weight * change * step[i]
            step[i] = change
            gap = new - log_z[i]
            apart += weight * gap * gap
        if distance < -100.0 * tolerance and iteration > 1 and apart > 1e-8:
            return distance
        if apart < 1e-7 and iteration > 2:
            return 0.0
        # Michelsen (1982a): in the bowl around the feed the distance is half of its slope along W - z. Far from the feed that is chance.
        if apart < 0.3 and distance < 1e-3 and slope > 0.0 and abs(2.0 * distance / slope - 1.0) < 0.2 and iteration > 1:
            return 0.0
        # Near a stationary point the distance is settled to the order of the squared error.
        if error < 1e-20 or (distance > 1e-3 and error < 1e-3 * distance and iteration > 1):
            return distance
        factor = 1.0
        if iteration % 5 == 4 and before > 0.0:
            eigen = cross / before
            if 0.0 < eigen < 0.98:
                factor = 1.0 / (1.0 - eigen)
            elif eigen >= 0.98:
                factor = 20.0
        before = error
        for i in range(n):
            log_w[i] += factor * step[i]
            w[i] = math.exp(min(log_w[i], 300.0))
        if iteration > 15 and error > 1e-12:
            break
    return _newton(kind, root, t, p, z, d, par, ctx, w, work, hess, tolerance)


@inner
def _real_vapour_forms(t, p, d, par, ctx, w, total, trial, lnphi, tolerance):
    """The same by substitution from the composition of the ideal vapour; what ends in a fluid as dense as a liquid is none."""
    n = d.shape[0]
    for i in range(n):
        trial[i] = math.exp(min(d[i], 300.0)) / total
    exists = False
    for _ in range(60):
        _z, exists = log_phi_vapour(t, p, trial, par, ctx, lnphi)
        total = 0.0
        for i in range(n):
            total += math.exp(min(d[i] - lnphi[i], 300.0))
        change = 0.0
        for i in range(n):
            new = math.exp(min(d[i] - lnphi[i], 300.0)) / total
            change = max(change, abs(new - trial[i]))
            trial[i] = new
        if change < 1e-12:
            break
    if not exists or not total > 1.0 + tolerance:
        return False
    for i in range(n):
        w[i] = trial[i]
    return True


@inner
def _vapour_forms(t, p, d, par, ctx, w, work, tolerance):
    """Whether a vapour forms; ``w`` is its composition then, and is left alone otherwise where the vapour is ideal."""
    total = 0.0
    for i in range(d.shape[0]):
        total += math.exp(min(d[i], 300.0))
    if par[VAPOUR_FORM, 0] != IDEAL_GAS:
        return _real_vapour_forms(t, p, d, par, ctx, w, total, work[0], work[1], tolerance)
    if total <= 1.0 + tolerance:
        return False
    for i in range(d.shape[0]):
        w[i] = math.exp(min(d[i], 300.0)) / total
    return True


@inner
def _has_both_roots(kind, t, p, i, par, ctx):
    """Whether a component alone could be liquid as well as vapour, one of them metastable: next to its vapour pressure."""
    if t >= par[TC, i]:
        return False
    b = par[COVOLUME, i]
    a = ctx[0, PSAT_ROW, i] * b if kind == PREDICTIVE else ctx[0, i, i]
    d1, d2 = par[D1, i], par[D2, i]
    rt = R * t
    small, large = compressibility_roots(a * p / (rt * rt), b * p / rt, d1 + d2, d1 * d2)
    return small < large


@inner
def _rich(kind, chosen, share, t, p, z, d, par, ctx, w, work, hess, tolerance):
    """Whether a phase of so much of a component forms, followed as a liquid and as a vapour."""
    for root in (LIQUID, VAPOUR):
        for i in range(z.shape[0]):
            w[i] = (share if i == chosen else 0.0) + (1.0 - share) * z[i]
        # Where the component's activity in the feed is small, nothing rich in it can form.
        log_phi(kind, root, t, p, w, par, ctx, work[1])
        if _distance(w, work[1], d) <= HOPELESS and _trial(kind, root, t, p, z, d, par, ctx, w, work, hess, tolerance) < -tolerance:
            return True
    return False


@inner
def _next_to_saturation(kind, t, p, z, d, par, ctx, w, work, hess, tolerance):
    """Nearly pure phases of the components that are next to their vapour pressure, followed as a liquid and as a vapour.

    The stable root of the start would hide a liquid rich in a light component below its vapour pressure, and its vapour above. A tenth of the
    rest in it lets a liquid exist where the pure component has none any more.
    """
    for chosen in range(z.shape[0]):
        share = 1.0
        if _has_both_roots(kind, t, p, chosen, par, ctx):
            share = RICH
        elif t < par[TC, chosen] and abs(work[8, chosen]) < NEXT:
            share = LESS_RICH
        if share < 1.0 and _rich(kind, chosen, share, t, p, z, d, par, ctx, w, work, hess, tolerance):
            return True
    return False


@inner
def _normalise(w):
    total = 0.0
    for i in range(w.shape[0]):
        total += w[i]
    for i in range(w.shape[0]):
        w[i] /= total


@linked("f8(i8, f8, f8, f8[::1], f8[::1], f8[:, ::1], f8[:, :, ::1], f8[::1], f8[:, ::1], f8[:, ::1], f8, i8, b1)")
def unstable(kind, t, p, z, d, par, ctx, w, work, hess, tolerance, first, every):
    """Look for a phase that would form from ``z``; negative when found (``w``, normalised), else zero. Distances above ``-tolerance`` are rounding.

    ``d`` is ln z_i + ln phi_i(z). The starts: both Wilson sides, their cube roots, ideal gas, and nearly pure least volatile, most volatile and most
    cohesive component, or ``every`` one. ``first`` leaves out the starts before it, since beside a liquid and a vapour only another liquid can be
    missing; the trial phase handed in with ``w`` is taken before them then.
    """
    n = z.shape[0]
    log_k = work[8]
    # The vapour of an activity model is looked for by itself (of an ideal one the stationary point is known).
    # Its liquids are followed as liquids, or the vapour would hide them.
    root = STABLE if kind < ACTIVITY else LIQUID
    for i in range(n):
        work[9, i] = math.log(z[i])
    if kind >= ACTIVITY and first < COMMON_STARTS and _vapour_forms(t, p, d, par, ctx, w, work, tolerance):
        return -1.0
    wilson_log_k(t, p, par, log_k)
    every = every or kind >= ACTIVITY or kind == PREDICTIVE
    for which in range(first - 1 if first > 0 else 0, COMMON_STARTS + n if every else STARTS):
        if kind >= ACTIVITY and which >= first and which in VAPOUR_LIKE:
            continue
        if which >= first:
            _start(every, which, z, d, log_k, par, w)
        followed = root
        if kind < ACTIVITY and first <= which < COMMON_STARTS:
            # Where compositions are nearly alike (narrow boiling) the stable root at the start is that of the feed; the trial must keep its own.
            followed = VAPOUR if which in VAPOUR_LIKE else LIQUID
        if _trial(kind, followed, t, p, z, d, par, ctx, w, work, hess, tolerance) < -tolerance:
            _normalise(w)
            return -1.0
    if kind < ACTIVITY and kind != STEAM and _next_to_saturation(kind, t, p, z, d, par, ctx, w, work, hess, tolerance):
        _normalise(w)
        return -1.0
    return 0.0
