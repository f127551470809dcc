"""One component of an equation of state: where it boils, and its state at a pressure and an energy."""

from __future__ import annotations

import math

from wattaxis.properties.kernels import inner, linked
from wattaxis.properties.kernels.cubic import Z
from wattaxis.properties.kernels.phase import phase_properties, prepare
from wattaxis.properties.kernels.pure import log_vapour_pressure
from wattaxis.properties.kernels.split import CRITICAL_VOLUME_RATIO, volume_ratio
from wattaxis.properties.kernels.stability import wilson_log_k
from wattaxis.properties.layout import COVOLUME, LIQUID, NO_SUCH_STATE, OK, PC, STEAM, TC, VAPOUR, R

LOG_T_LOW, LOG_P_LOW = math.log(1.5), math.log(1e-80)


@inner
def estimate(kind, find_t, given, par, log_k):
    """ln T or ln P from the vapour pressure of the steam tables' component, or from Wilson's correlation."""
    if not find_t:
        if kind == STEAM:
            value, _slope, _bend = log_vapour_pressure(given, par, 0)
            return value
        wilson_log_k(given, 1.0, par, log_k)
        return log_k[0]
    t = 0.7 * par[TC, 0]
    for _ in range(40):
        if kind == STEAM:
            value, slope, _bend = log_vapour_pressure(t, par, 0)
            gap = value - math.log(given)
        else:
            wilson_log_k(t, given, par, log_k)
            gap = log_k[0]
            slope = (log_k[0] - math.log(par[PC, 0] / given)) / (t - par[TC, 0]) * par[TC, 0] / t if abs(t - par[TC, 0]) > 1e-9 else 7.0 / t
        step = max(-0.2 * t, min(0.2 * t, gap / slope))
        t = min(t - step, 0.999 * par[TC, 0])
        if abs(step) < 1e-6 * t:
            break
    return math.log(t)


@inner
def _by_halves(kind, find_t, given, z, par, pairs, ctx, scratch):
    """The border between liquid-like and vapour-like stable root, for states next to the critical point."""
    low, high = (LOG_T_LOW, math.log(par[TC, 0])) if find_t else (LOG_P_LOW, math.log(par[PC, 0]))
    for _ in range(200):
        middle = 0.5 * (low + high)
        t, p = (math.exp(middle), given) if find_t else (given, math.exp(middle))
        prepare(kind, t, par, pairs, ctx, False)
        vapour = volume_ratio(kind, t, p, z, par, ctx, scratch) > CRITICAL_VOLUME_RATIO
        if vapour == find_t:
            high = middle
        else:
            low = middle
        if high - low < 1e-15 * max(1.0, abs(middle)):
            break
    return math.exp(0.5 * (low + high))


@linked("Tuple((i8, f8))(i8, b1, f8, f8, f8[::1], f8[:, ::1], f8[:, :, ::1], f8[:, :, ::1], f8[:, ::1], f8[:, ::1], f8[::1])")
def saturation_of_one(kind, find_t, given, start, z, par, pairs, ctx, work, dn, props):
    """(status, T or P) where liquid and vapour of one component coexist: Newton on the gap between their fugacities.

    ``start`` is ln T or ln P to begin with, 0 where none is known.
    """
    if given >= (par[PC, 0] if find_t else par[TC, 0]):
        return NO_SUCH_STATE, given
    unknown = estimate(kind, find_t, given, par, work[0]) if start == 0.0 else start
    before = 0.0
    for _ in range(60):
        t, p = (math.exp(unknown), given) if find_t else (given, math.exp(unknown))
        prepare(kind, t, par, pairs, ctx, True)
        phase_properties(kind, LIQUID, t, p, z, par, ctx, False, work[0], work[1], work[2], dn, props)
        dense = props[Z]
        phase_properties(kind, VAPOUR, t, p, z, par, ctx, False, work[3], work[4], work[5], dn, props)
        if not dense < 0.9 * props[Z]:
            # One root only: towards where there are two, until that turns round, as it does next to the critical point.
            liquid = dense * R * t / p / par[COVOLUME, 0] < CRITICAL_VOLUME_RATIO
            step = (0.01 if find_t else -0.15) if liquid else (-0.01 if find_t else 0.15)
            if step * before < 0.0:
                break
            before = step
            unknown += step
            continue
        gap = work[0, 0] - work[3, 0]
        slope = t * (work[1, 0] - work[4, 0]) if find_t else p * (work[2, 0] - work[5, 0])
        step = -gap / slope
        limit = 0.05 if find_t else 5.0
        unknown += max(-limit, min(limit, step))
        # Newton's error is the square of its step, except next to the critical point.
        if abs(step) < 1e-14 * max(1.0, abs(unknown)) or (abs(step) < 1e-9 and dense < 0.5 * props[Z]):
            return OK, math.exp(unknown)
    return OK, _by_halves(kind, find_t, given, z, par, pairs, ctx, work[0])
