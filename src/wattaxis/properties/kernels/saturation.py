"""States at a given vapour fraction: bubble, dew and everything between, at given temperature or pressure."""

from __future__ import annotations

import math

import numpy as np

from wattaxis.properties.kernels import inner, kernel, linked
from wattaxis.properties.kernels.activity import context
from wattaxis.properties.kernels.cubic import Z
from wattaxis.properties.kernels.linear import solve_in_place
from wattaxis.properties.kernels.phase import log_phi, phase_properties, prepare
from wattaxis.properties.kernels.pure import log_vapour_pressure
from wattaxis.properties.kernels.single import saturation_of_one
from wattaxis.properties.kernels.split import CRITICAL_VOLUME_RATIO, LIQUID_VOLUME_RATIO, WORK_ROWS, isothermal, volume_ratio
from wattaxis.properties.kernels.stability import unstable, wilson_log_k
from wattaxis.properties.kernels.three import merge
from wattaxis.properties.layout import (
    ACTIVITY,
    IDEAL,
    LIQUID,
    NO_SUCH_STATE,
    NOT_CONVERGED,
    OK,
    OK_FOUR,
    OK_THREE,
    OK_TWO_LIQUIDS,
    STABLE,
    VAPOUR,
)

LOG_T_LOW, LOG_T_HIGH = math.log(1.5), math.log(5000.0)
LOG_P_LOW, LOG_P_HIGH = math.log(1e-12), math.log(1e10)
#: What a state is that was found.
SOLVED = (OK, OK_THREE, OK_FOUR)


@inner
def _fraction_gap(kind, t, p, vf, z, par, log_k):
    """Sum of y - x at vapour fraction ``vf`` with ideal or Wilson K values; falls with P, rises with T."""
    if kind == IDEAL or kind >= ACTIVITY:
        for i in range(z.shape[0]):
            value, _first, _second = log_vapour_pressure(t, par, i)
            log_k[i] = value - math.log(p)
    else:
        wilson_log_k(t, p, par, log_k)
    total = 0.0
    for i in range(z.shape[0]):
        k = math.exp(max(min(log_k[i], 300.0), -300.0))
        total += z[i] * (k - 1.0) / (1.0 + vf * (k - 1.0))
    return total


@inner
def _ideal_estimate(kind, find_t, given, vf, z, par, log_k):
    """ln T or ln P at which ideal K values give ``vf``, by bisection (the gap is monotone)."""
    low, high = (LOG_T_LOW, LOG_T_HIGH) if find_t else (LOG_P_LOW, LOG_P_HIGH)
    for _ in range(100):
        middle = 0.5 * (low + high)
        trial = math.exp(middle)
        if find_t:
            too_hot = _fraction_gap(kind, trial, given, vf, z, par, log_k) > 0.0
        else:
            too_hot = _fraction_gap(kind, given, trial, vf, z, par, log_k) < 0.0
        if too_hot:
            high = middle
        else:
            low = middle
        if high - low < 1e-15 * abs(middle):
            break
    return 0.5 * (low + high)


@linked("Tuple((i8, f8))(i8, b1, f8, f8, f8, f8[::1], f8[:, ::1], f8[:, :, ::1], f8[:, :, ::1], f8[::1], f8[::1], f8[::1], f8[:, ::1], f8[:, ::1])")
def _newton(kind, find_t, given, unknown, vf, z, par, pairs, ctx, log_k, x, y, work, hess):
    """Newton in (ln K, ln T or ln P) with analytic derivatives (Michelsen 1980) from the estimates handed in."""
    n = z.shape[0]
    size = n + 1
    matrix = np.empty((size, size))
    rhs = np.empty(size)
    props = np.empty(5)
    last = 1e300
    for iteration in range(60):
        t, p = (math.exp(unknown), given) if find_t else (given, math.exp(unknown))
        prepare(kind, t, par, pairs, ctx, True)
        sum_x = 0.0
        sum_y = 0.0
        for i in range(n):
            k = math.exp(max(min(log_k[i], 500.0), -500.0))
            x[i] = z[i] / (1.0 + vf * (k - 1.0))
            y[i] = k * x[i]
            sum_x += x[i]
            sum_y += y[i]
        for i in range(n):
            x[i] /= sum_x
            y[i] /= sum_y
        dn_x = hess[:n]
        dn_y = hess[n : 2 * n]
        phase_properties(kind, LIQUID, t, p, x, par, ctx, True, work[0], work[1], work[2], dn_x, props)
        dense = props[Z]
        phase_properties(kind, VAPOUR, t, p, y, par, ctx, True, work[3], work[4], work[5], dn_y, props)
        # At an azeotrope the compositions are alike as well, but not the phases.
        merged = props[Z] - dense < 0.02
        error = 0.0
        trivial = 0.0
        for i in range(n):
            gap = log_k[i] + work[3, i] - work[0, i]
            error = max(error, abs(gap))
            trivial = max(trivial, abs(log_k[i]))
            rhs[i] = -gap
        rhs[n] = sum_x - sum_y
        error = max(error, abs(rhs[n]))
        if not error < 1e200 or (trivial < 1e-6 and merged):
            return NOT_CONVERGED, unknown
        # Next to a critical point rounding ends the way before.
        if error < 2e-12 or (error < 1e-9 and error >= last):
            return OK, unknown
        last = error
        if iteration < 4 and error > 0.5:
            # Substitution first: far from the answer Newton likes the trivial solution.
            slope = 0.0
            gap_sum = 0.0
            for i in range(n):
                log_k[i] = work[0, i] - work[3, i]
                k = math.exp(max(min(log_k[i], 500.0), -500.0))
                inner = 1.0 + vf * (k - 1.0)
                change = (t * (work[1, i] - work[4, i])) if find_t else (p * (work[2, i] - work[5, i]))
                gap_sum += z[i] * (k - 1.0) / inner
                slope += z[i] * k * change / (inner * inner)
            if slope != 0.0:
                limit = 0.1 if find_t else 1.0
                unknown -= max(-limit, min(limit, gap_sum / slope))
            continue
        for j in range(n):
            product = x[j] * sum_x * y[j] * sum_y / z[j]
            dx = -vf * product
            dy = (1.0 - vf) * product
            for i in range(n):
                matrix[i, j] = dn_y[i, j] * dy / sum_y - dn_x[i, j] * dx / sum_x
            matrix[j, j] += 1.0
            matrix[n, j] = dy - dx
            if find_t:
                matrix[j, n] = t * (work[4, j] - work[1, j])
            else:
                matrix[j, n] = p * (work[5, j] - work[2, j])
        matrix[n, n] = 0.0
        if not solve_in_place(matrix, rhs, size):
            return NOT_CONVERGED, unknown
        limit = 0.08 if find_t else 0.7
        fraction = min(1.0, limit / max(abs(rhs[n]), 1e-300))
        for i in range(n):
            fraction = min(fraction, 1.5 / max(abs(rhs[i]), 1e-300))
        for i in range(n):
            log_k[i] += fraction * rhs[i]
        unknown += fraction * rhs[n]
    return NOT_CONVERGED, unknown


@inner
def _flash(kind, t, p, z, par, ctx, phases, work, hess):
    """An isothermal flash: (status, fraction of y, fraction of w, vapour fraction); two liquids hold no vapour."""
    status, beta, gamma = isothermal(kind, t, p, z, par, ctx, phases[0], phases[1], phases[2], work, hess)
    return status, beta, gamma, 0.0 if status == OK_TWO_LIQUIDS else beta


@inner
def _only_named(kind, t, p, z, par, ctx, beta_under, under, beta_over, over, work):
    """Whether the vapour fraction jumps only because a phase that hardly changes goes by another name from here on."""
    if beta_under in (0.0, 1.0) and beta_over in (0.0, 1.0):
        ratio = volume_ratio(kind, t, p, z, par, ctx, work[0])
        return IDEAL < kind < ACTIVITY and abs(ratio / CRITICAL_VOLUME_RATIO - 1.0) < 0.05
    apart = abs(beta_under - beta_over)
    for i in range(z.shape[0]):
        apart = max(apart, max(abs(under[0, i] - over[0, i]), abs(under[1, i] - over[1, i])))
    return apart < 1e-5


@inner
def _place(find_t, given, here, span):
    """T and P at a place of the scan: ln T upwards, or ln P downwards from the upper end, so that vapour grows along either."""
    return (math.exp(here), given) if find_t else (given, math.exp(span - here))


@inner
def _halved(kind, find_t, given, vf, below, above, span, z, par, pairs, ctx, under, over, x, y, w, work, hess):
    """The place between two where the vapour fraction passes ``vf``, by halving; at a jump both sides are merged.

    Returns (status, ln T or ln P, fraction of w).
    """
    for _ in range(60):
        middle = 0.5 * (below + above)
        t, p = _place(find_t, given, middle, span)
        prepare(kind, t, par, pairs, ctx, True)
        _status, _beta, _gamma, vapour = _flash(kind, t, p, z, par, ctx, over, work, hess)
        if vapour >= 1.0 if vf == 1.0 else vapour > vf:
            above = middle
        else:
            below = middle
        if above - below < 1e-14 * max(1.0, abs(middle)):
            break
    t, p = _place(find_t, given, below, span)
    prepare(kind, t, par, pairs, ctx, True)
    status_under, beta_under, gamma_under, vapour_under = _flash(kind, t, p, z, par, ctx, under, work, hess)
    t, p = _place(find_t, given, above, span)
    prepare(kind, t, par, pairs, ctx, True)
    status_over, beta_over, gamma_over, vapour_over = _flash(kind, t, p, z, par, ctx, over, work, hess)
    if NOT_CONVERGED in (status_under, status_over):
        return NOT_CONVERGED, given, 0.0
    if vapour_over - vapour_under < 1e-6:
        # Continuous: the side that has both phases.
        side = under if vf == 1.0 else over
        beta = beta_under if vf == 1.0 else beta_over
        gamma = gamma_under if vf == 1.0 else gamma_over
        x[:], y[:], w[:] = side[0], side[1], side[2]
        if abs(beta - vf) > 1e-6 or beta == 0.0 or beta == 1.0:
            return NO_SUCH_STATE, given, 0.0
        status = OK_FOUR if OK_FOUR in (status_under, status_over) else OK_THREE
        return status if gamma > 0.0 else OK, math.log(t) if find_t else math.log(p), gamma
    if _only_named(kind, t, p, z, par, ctx, beta_under, under, beta_over, over, work):
        return NO_SUCH_STATE, given, 0.0
    theta = (vf - vapour_under) / (vapour_over - vapour_under)
    status, _beta, gamma = merge(theta, status_under, beta_under, gamma_under, under, status_over, beta_over, gamma_over, over, x, y, w)
    return status, math.log(t) if find_t else math.log(p), gamma


@inner
def _coexist(kind, t, p, x, y, w, gamma, par, ctx, work):
    """Whether the phases of a state are different ones with equal fugacities."""
    n = x.shape[0]
    same = 0.0
    for i in range(n):
        same = max(same, abs(x[i] - y[i]))
    # Phases of one composition, as at an azeotrope, are told apart by their roots; those of activity models always are.
    alike = same < 1e-4
    own = alike or kind == IDEAL or kind >= ACTIVITY
    dense = log_phi(kind, LIQUID if own else STABLE, t, p, x, par, ctx, work[0])
    light = log_phi(kind, VAPOUR if own else STABLE, t, p, y, par, ctx, work[1])
    if alike and not light - dense > 0.05:
        return False
    gap = 0.0
    for i in range(n):
        gap = max(gap, abs(math.log(y[i] / x[i]) + work[1, i] - work[0, i]))
    if gamma > 0.0:
        log_phi(kind, LIQUID if kind >= ACTIVITY else STABLE, t, p, w, par, ctx, work[2])
        same = apart = 0.0
        for i in range(n):
            same = max(same, abs(w[i] - x[i]))
            apart = max(apart, abs(w[i] - y[i]))
            gap = max(gap, abs(math.log(w[i] / x[i]) + work[2, i] - work[0, i]))
        if min(same, apart) < 1e-7:
            return False
    return gap < 1e-6


@linked("Tuple((i8, f8, f8))(i8, b1, f8, f8, f8[::1], f8[:, ::1], f8[:, :, ::1], f8[:, :, ::1], f8[::1], f8[::1], f8[::1], f8[:, ::1], f8[:, ::1])")
def _by_flashes(kind, find_t, given, vf, z, par, pairs, ctx, x, y, w, work, hess):
    """Safe way: scan isothermal flashes for the crossing of ``vf``, then halve the interval.

    Where steps of about five per cent of T or thirteen of P show none, as next to a critical point where both phases lie close together, the stretch
    in which there are two, or in which vapour takes over from liquid, is scanned again in small steps. Returns (status, ln T or ln P, part of w).
    """
    low, high = (math.log(30.0), math.log(2500.0)) if find_t else (math.log(1e-3), math.log(1e9))
    n = z.shape[0]
    span = low + high
    under = np.empty((3, n))
    over = np.empty((3, n))
    first, last, steps = 0.0, 0.0, 90 if find_t else 200
    for fine in range(2):
        if fine == 1:
            if last == 0.0:
                break
            low, high, steps = first, last, 240
        width = (high - low) / steps
        previous = 0.0
        for k in range(steps + 1):
            here = low + width * k
            t, p = _place(find_t, given, here, span)
            prepare(kind, t, par, pairs, ctx, True)
            status, _beta, _gamma, vapour = _flash(kind, t, p, z, par, ctx, over, work, hess)
            if status == NOT_CONVERGED:
                continue
            if fine == 0 and (0.0 < vapour < 1.0 or (k > 0 and vapour != previous)):
                if last == 0.0:
                    first = here - width
                last = here + width
            if (k > 0 and previous <= vf and vapour > vf and vf < 1.0) or (k > 0 and previous < 1.0 and vapour >= 1.0 and vf == 1.0):
                found, place, gamma = _halved(kind, find_t, given, vf, here - width, here, span, z, par, pairs, ctx, under, over, x, y, w, work, hess)
                if found in SOLVED:
                    # At an upper border a phase may only change its name: the scan goes on to where two do coexist.
                    t, p = (math.exp(place), given) if find_t else (given, math.exp(place))
                    prepare(kind, t, par, pairs, ctx, True)
                    if not _coexist(kind, t, p, x, y, w, gamma, par, ctx, work):
                        found = NO_SUCH_STATE
                if found != NO_SUCH_STATE:
                    return found, place, gamma
            previous = vapour
    return NO_SUCH_STATE, given, 0.0


@inner
def _confirm(kind, t, p, x, y, par, ctx, work, hess):
    """Accept a Newton answer only as vapour over liquid, both on stable roots, with nothing below their common tangent plane."""
    liquid = log_phi(kind, LIQUID, t, p, x, par, ctx, work[15])
    if kind < ACTIVITY:  # of activity models Newton took the liquid for x and the vapour for y, which at an azeotrope are equally stable
        stable = log_phi(kind, STABLE, t, p, x, par, ctx, work[15])
        if abs(liquid - stable) > 1e-9:
            return NOT_CONVERGED
        vapour = log_phi(kind, VAPOUR, t, p, y, par, ctx, work[0])
        stable = log_phi(kind, STABLE, t, p, y, par, ctx, work[0])
        if abs(vapour - stable) > 1e-9 or vapour <= liquid:
            return NOT_CONVERGED
        if volume_ratio(kind, t, p, y, par, ctx, work[0]) < LIQUID_VOLUME_RATIO:
            return NOT_CONVERGED
    n = x.shape[0]
    for i in range(n):
        work[14, i] = math.log(x[i]) + work[15, i]
    trial = np.empty(n)
    return OK if unstable(kind, t, p, x, work[14], par, ctx, trial, work, hess, 1e-9, 0, False) == 0.0 else NOT_CONVERGED


@inner
def _polished(kind, find_t, given, unknown, vf, z, par, pairs, ctx, log_k, x, y, work, hess):
    """A state found by halving, brought to equal fugacities by Newton; as it was where that leads elsewhere."""
    n = z.shape[0]
    near_x = x.copy()
    near_y = y.copy()
    for i in range(n):
        log_k[i] = math.log(y[i] / x[i])
    status, found = _newton(kind, find_t, given, unknown, vf, z, par, pairs, ctx, log_k, x, y, work, hess)
    if status == OK and abs(found - unknown) < 1e-6:
        return found
    x[:] = near_x
    y[:] = near_y
    return unknown


@kernel(
    "Tuple((int64, float64, float64))(int64, boolean, float64, float64, float64[::1], float64[:, ::1], float64[:, :, ::1],"
    "float64[::1], float64[::1], float64[::1])"
)
def flash_fraction(kind, find_t, given, vf, z, par, pairs, x, y, w):
    """T (K) at given P if ``find_t``, else P (Pa) at given T, where the vapour fraction is ``vf`` (0 bubble, 1 dew).

    Returns (status, value, fraction of w) and the compositions of the phases, the incipient one included.
    """
    n = z.shape[0]
    ctx = context(kind, n, pairs)
    work = np.zeros((WORK_ROWS, n))
    hess = np.empty((3 * n, n))
    log_k = np.empty(n)
    for i in range(n):
        x[i] = z[i]
        y[i] = z[i]
        w[i] = z[i]
    if n == 1 and IDEAL < kind < ACTIVITY:
        status, found = saturation_of_one(kind, find_t, given, 0.0, z, par, pairs, ctx, work, hess[:1], np.empty(5))
        return status, found, 0.0
    unknown = _ideal_estimate(kind, find_t, given, vf, z, par, log_k)
    if kind == IDEAL or n == 1:
        border = LOG_T_HIGH if find_t else LOG_P_HIGH
        if unknown > border - 1e-6 or unknown < (LOG_T_LOW if find_t else LOG_P_LOW) + 1e-6:
            return NO_SUCH_STATE, given, 0.0
        for i in range(n):
            k = math.exp(log_k[i])
            x[i] = z[i] / (1.0 + vf * (k - 1.0))
            y[i] = k * x[i]
        return OK, math.exp(unknown), 0.0
    gamma = 0.0
    status, unknown = _newton(kind, find_t, given, unknown, vf, z, par, pairs, ctx, log_k, x, y, work, hess)
    if status == OK:
        t, p = (math.exp(unknown), given) if find_t else (given, math.exp(unknown))
        prepare(kind, t, par, pairs, ctx, True)
        status = _confirm(kind, t, p, x, y, par, ctx, work, hess)
    if status != OK:
        status, unknown, gamma = _by_flashes(kind, find_t, given, vf, z, par, pairs, ctx, x, y, w, work, hess)
        if status in SOLVED and gamma <= 0.0:
            unknown = _polished(kind, find_t, given, unknown, vf, z, par, pairs, ctx, log_k, x, y, work, hess)
    return status, math.exp(unknown) if status in SOLVED else given, gamma
