"""Energies of states, their slopes along equilibrium, and flashes at given enthalpy or entropy."""

from __future__ import annotations

import math

import numpy as np

from wattaxis.properties.kernels import inner, kernel, linked
from wattaxis.properties.kernels.activity import context
from wattaxis.properties.kernels.cubic import CP_RES, H_RES, S_RES, V, Z
from wattaxis.properties.kernels.linear import cholesky, cholesky_solve
from wattaxis.properties.kernels.phase import contradiction, phase_properties, prepare
from wattaxis.properties.kernels.pure import ideal_gas
from wattaxis.properties.kernels.single import estimate, saturation_of_one
from wattaxis.properties.kernels.split import CRITICAL_VOLUME_RATIO, WORK_ROWS, isothermal, volume_ratio
from wattaxis.properties.kernels.steam import steam_ideal
from wattaxis.properties.kernels.three import merge
from wattaxis.properties.layout import ACTIVITY, IDEAL, LIQUID, NOT_CONVERGED, OK, OK_TWO_LIQUIDS, P_REF, PC, STABLE, STEAM, VAPOUR, R

T_LOW, T_HIGH = 15.0, 6000.0
#: Share of the critical pressure up to which the vapour pressure of the steam tables' component is near enough, and of a temperature by which.
NEAR_CRITICAL, SURE = 0.85, 0.005


@kernel("UniTuple(int64, 2)(int64, float64, float64[::1], float64[::1])")
def phase_roots(kind, beta, x, y):
    """Which volume roots the two phases take: the stable one, unless both compositions are the same."""
    if kind == IDEAL:
        return LIQUID, VAPOUR
    if 0.0 < beta < 1.0:
        apart = 0.0
        for i in range(x.shape[0]):
            apart = max(apart, abs(y[i] - x[i]))
        if apart < 1e-9:
            return LIQUID, VAPOUR
    return STABLE, STABLE


@kernel(
    "void(int64, int64, float64, float64, float64[::1], float64[:, ::1], float64[:, :, ::1], boolean,"
    "float64[:, ::1], float64[:, ::1], float64[::1], float64[::1])"
)
def phase_energies(kind, root, t, p, x, par, ctx, second, vectors, dn, props, out):
    """H (J/mol), S (J/(mol K)), Cp (J/(mol K)), V (m3/mol) and Z of a phase into ``out``; ln phi, dT, dP in ``vectors``."""
    phase_properties(kind, root, t, p, x, par, ctx, second, vectors[0], vectors[1], vectors[2], dn, props)
    out[3] = props[V]
    out[4] = props[0] if props[0] != 0.0 else p * props[V] / (R * t)
    if kind == STEAM:
        h_ideal, s_ideal, cp_ideal = steam_ideal(t, p, par)
        out[0], out[1], out[2] = props[H_RES] + h_ideal, props[S_RES] + s_ideal, props[CP_RES] + cp_ideal
        return
    h = props[H_RES]
    s = props[S_RES] - R * math.log(p / P_REF)
    cp = props[CP_RES]
    for i in range(x.shape[0]):
        h_i, s_i, cp_i = ideal_gas(t, par, i)
        h += x[i] * h_i
        cp += x[i] * cp_i
        if x[i] > 0.0:
            s += x[i] * (s_i - R * math.log(x[i]))
    out[0] = h
    out[1] = s
    out[2] = cp


@kernel(
    "void(int64, int64, float64[::1], float64[::1], float64[:, ::1], float64[:, ::1], float64[:, :, ::1],"
    "float64[:, :, ::1], float64[:, :, ::1], float64[:, ::1], float64[:, ::1])"
)
def phase_energies_many(kind, root, t, p, x, par, pairs, vectors, dn, partial, out):
    """:func:`phase_energies` over the rows of ``x`` with one workspace, composition derivatives, and partial enthalpies (J/mol)."""
    n = x.shape[1]
    ctx = context(kind, n, pairs)
    props = np.empty(5)
    for row in range(x.shape[0]):
        prepare(kind, t[row], par, pairs, ctx, True)
        phase_energies(kind, root, t[row], p[row], x[row], par, ctx, True, vectors[row], dn[row], props, out[row])
        for i in range(n):
            slope = vectors[row, 1, i]
            if props[Z] == 0.0:  # a liquid whose heat is measured
                slope += contradiction(t[row], par, ctx, i)
            partial[row, i] = out[row, 0] if n == 1 else ideal_gas(t[row], par, i)[0] - R * t[row] ** 2 * slope


@inner
def _three_energies(kind, t, p, beta, gamma, x, y, w, par, ctx, work, hess):
    """As :func:`state_energies` for three phases; the slope leaves out that the amounts move, so it is a lower bound."""
    n = x.shape[0]
    props = np.empty(5)
    out = np.empty(5)
    h = s = slope = 0.0
    for k in range(3):
        amount = 1.0 - beta - gamma if k == 0 else beta if k == 1 else gamma
        if amount <= 0.0:
            continue
        phase = x if k == 0 else y if k == 1 else w
        phase_energies(kind, STABLE, t, p, phase, par, ctx, False, work[0:3], hess[n : 2 * n], props, out)
        h += amount * out[0]
        s += amount * out[1]
        slope += amount * out[2]
    return h, s, slope


@linked("UniTuple(f8, 3)(i8, f8, f8, f8, f8, f8[::1], f8[::1], f8[::1], f8[:, ::1], f8[:, :, ::1], f8[:, ::1], f8[:, ::1])")
def state_energies(kind, t, p, beta, gamma, x, y, w, par, ctx, work, hess):
    """H, S and dH/dT at constant pressure along equilibrium of the whole state, per mole of feed."""
    if gamma > 0.0:
        return _three_energies(kind, t, p, beta, gamma, x, y, w, par, ctx, work, hess)
    n = x.shape[0]
    root_x, root_y = phase_roots(kind, beta, x, y)
    props = np.empty(5)
    liquid = np.empty(5)
    vapour = np.empty(5)
    both = 0.0 < beta < 1.0
    measured = False
    if beta < 1.0:
        phase_energies(kind, root_x, t, p, x, par, ctx, both, work[0:3], hess[n : 2 * n], props, liquid)
        measured = props[Z] == 0.0
        if not both:
            return liquid[0], liquid[1], liquid[2]
    phase_energies(kind, root_y, t, p, y, par, ctx, both, work[3:6], hess[2 * n : 3 * n], props, vapour)
    measured = measured and props[Z] != 0.0
    if not both:
        return vapour[0], vapour[1], vapour[2]
    h = beta * vapour[0] + (1.0 - beta) * liquid[0]
    s = beta * vapour[1] + (1.0 - beta) * liquid[1]
    slope = beta * vapour[2] + (1.0 - beta) * liquid[2]
    # The amounts move with T so that fugacities stay equal: Hessian of G times dv/dT = -d(gap)/dT.
    matrix = hess[:n]
    gap = work[6]
    shift = work[7]
    norm = 1.0 / (beta * (1.0 - beta))
    for i in range(n):
        z_i = beta * y[i] + (1.0 - beta) * x[i]
        work[8, i] = math.sqrt(x[i] * y[i] / z_i)
    for i in range(n):
        for j in range(n):
            change = (1.0 - beta) * hess[2 * n + i, j] + beta * hess[n + i, j] - 1.0
            matrix[i, j] = norm * work[8, i] * work[8, j] * change
        matrix[i, i] += norm
        gap[i] = work[8, i] * (work[4, i] - work[1, i])
        shift[i] = gap[i]
    if cholesky(matrix, n):
        cholesky_solve(matrix, shift, n)
        for i in range(n):
            # The enthalpy that moves with the amounts is that of the liquid's measured heats, where it has them.
            heat = gap[i]
            if measured:
                heat -= work[8, i] * contradiction(t, par, ctx, i)
            slope += R * t * t * heat * shift[i]
    return h, s, slope


@linked("Tuple((i8, f8, f8))(i8, b1, f8, f8, f8, f8[::1], f8[:, ::1], f8[:, :, ::1], f8[:, :, ::1], f8[:, ::1], f8[:, ::1])")
def _one_component(kind, entropy, p, target, guess, z, par, pairs, ctx, work, hess):
    """The same for one component of an equation of state: between its saturated phases, or Newton along one root. Returns (status, T, beta)."""
    props = np.empty(5)
    out = np.empty(5)
    which = 1 if entropy else 0
    low, high, root = T_LOW, T_HIGH, STABLE
    t = min(max(guess, 1.01 * T_LOW), 0.99 * T_HIGH)
    boiling, start, status = 0.0, 0.0, OK
    if kind == STEAM and p < NEAR_CRITICAL * par[PC, 0]:
        # Its equation is dear: one look at both phases where it should about boil tells most states from boiling ones.
        boiling = math.exp(estimate(kind, True, p, par, work[0]))
        phase_energies(kind, VAPOUR, boiling, p, z, par, ctx, False, work[3:6], hess[:1], props, out)
        light, along_light = out[which], out[2]
        phase_energies(kind, LIQUID, boiling, p, z, par, ctx, False, work[0:3], hess[:1], props, out)
        dense, along = out[which], out[2]
        if entropy:
            along, along_light = along / boiling, along_light / boiling
        if target < dense - SURE * boiling * along:
            high, root = boiling, LIQUID
            t = max(boiling - (dense - target) / along, 0.6 * boiling)
        elif target > light + SURE * boiling * along_light:
            low, root = boiling, VAPOUR
            t = min(boiling + (target - light) / along_light, 3.0 * boiling)
        else:
            start = math.log(boiling) - (work[0, 0] - work[3, 0]) / (boiling * (work[1, 0] - work[4, 0]))
    if root == STABLE:
        status, boiling = saturation_of_one(kind, True, p, start, z, par, pairs, ctx, work, hess[:1], props)
    if root == STABLE and status == OK:
        prepare(kind, boiling, par, pairs, ctx, True)
        phase_energies(kind, LIQUID, boiling, p, z, par, ctx, False, work[0:3], hess[:1], props, out)
        dense, along = out[which], out[2]
        phase_energies(kind, VAPOUR, boiling, p, z, par, ctx, False, work[0:3], hess[:1], props, out)
        light = out[which]
        if dense <= target <= light:
            return OK, boiling, (target - dense) / (light - dense) if light > dense else 0.0
        if entropy:
            along, out[2] = along / boiling, out[2] / boiling
        if target < dense:
            high, root = boiling, LIQUID
            t = max(boiling - (dense - target) / along, 0.6 * boiling)
        else:
            low, root = boiling, VAPOUR
            t = min(boiling + (target - light) / out[2], 3.0 * boiling)
    for _ in range(200):
        prepare(kind, t, par, pairs, ctx, True)
        phase_energies(kind, root, t, p, z, par, ctx, False, work[0:3], hess[:1], props, out)
        if not math.isfinite(out[which]):
            return NOT_CONVERGED, t, 0.0
        value = out[which] - target
        if value == 0.0:
            break
        slope = out[2] / t if entropy else out[2]
        if value < 0.0:
            low = t
        else:
            high = t
        new = t - value / slope if slope > 0.0 else -1.0
        new = min(max(new, 0.65 * t), 1.35 * t)
        if not low < new < high:
            new = 0.5 * (low + high)
        close = abs(new - t) < 1e-10 * t or high - low < 4e-14 * t
        t = new
        if close:
            break  # Newton's error is the square of its step
    if abs(value) > 1e-8 * max(abs(target), R if entropy else R * t):
        return NOT_CONVERGED, t, 0.0
    if root == STABLE:
        return OK, t, 1.0 if volume_ratio(kind, t, p, z, par, ctx, work[0]) > CRITICAL_VOLUME_RATIO else 0.0
    return OK, t, 1.0 if root == VAPOUR else 0.0


@kernel(
    "Tuple((int64, float64, float64, float64))(int64, boolean, float64, float64, float64, float64[::1], float64[:, ::1],"
    "float64[:, :, ::1], float64[::1], float64[::1], float64[::1])"
)
def flash_energy(kind, entropy, p, target, guess, z, par, pairs, x, y, w):
    """Flash at P (Pa) and molar enthalpy (J/mol), or entropy (J/(mol K)) if ``entropy``.

    Newton on temperature with the two-phase slope, kept inside a shrinking bracket; where the property jumps (pure component, azeotrope, three phases
    of two components) the states on both sides are merged. Returns (status, T, fraction of y, fraction of w).
    """
    n = z.shape[0]
    ctx = context(kind, n, pairs)
    work = np.zeros((WORK_ROWS, n))
    hess = np.empty((3 * n, n))
    if n == 1 and IDEAL < kind < ACTIVITY:
        x[0] = y[0] = w[0] = 1.0
        status, t, beta = _one_component(kind, entropy, p, target, guess, z, par, pairs, ctx, work, hess)
        return status, t, beta, 0.0
    low, high = T_LOW, T_HIGH
    have_low = False
    have_high = False
    status_low = status_high = OK
    beta_low = gamma_low = gamma_high = 0.0
    beta_high = 1.0
    value_low = 0.0
    value_high = 0.0
    phases_low = np.empty((3, n))
    phases_high = np.empty((3, n))
    t = min(max(guess, 1.01 * T_LOW), 0.99 * T_HIGH)
    width = high - low
    status, beta, gamma = NOT_CONVERGED, 0.0, 0.0
    for iteration in range(200):
        prepare(kind, t, par, pairs, ctx, True)
        status, beta, gamma = isothermal(kind, t, p, z, par, ctx, x, y, w, work, hess)
        h, s, slope = state_energies(kind, t, p, beta, gamma, x, y, w, par, ctx, work, hess)
        if not math.isfinite(h):
            return NOT_CONVERGED, t, beta, gamma
        value = (s if entropy else h) - target
        if entropy:
            slope /= t
        scale = abs(slope) * t if slope != 0.0 else 1.0
        if abs(value) <= 1e-13 * max(scale, abs(target)):
            return status, t, beta, gamma
        if value < 0.0:
            low = t
            have_low = True
            status_low, beta_low, gamma_low, value_low = status, beta, gamma, value
            phases_low[0] = x
            phases_low[1] = y
            phases_low[2] = w
        else:
            high = t
            have_high = True
            status_high, beta_high, gamma_high, value_high = status, beta, gamma, value
            phases_high[0] = x
            phases_high[1] = y
            phases_high[2] = w
        if high - low < 4e-13 * t:
            break
        if gamma > 0.0 and have_low and have_high:
            # Along three phases the slope of a phase alone says little: the chord through both sides is better.
            slope = (value_high - value_low) / (high - low)
        new = t - value / slope if slope > 0.0 else -1.0
        limit = 0.35 * t
        new = min(max(new, t - limit), t + limit)
        stuck = iteration % 4 == 3 and have_low and have_high and high - low > 0.5 * width
        if iteration % 4 == 3:
            width = high - low
        if not low < new < high or stuck:
            if have_low and have_high:
                new = 0.5 * (low + high)
            elif have_low:
                new = min(1.5 * t, 0.5 * (t + high))
            else:
                new = max(0.66 * t, 0.5 * (t + low))
        if abs(new - t) < 1e-15 * t:
            return status, t, beta, gamma
        t = new
    if not (have_low and have_high) or high - low > 1e-6 * t:
        return NOT_CONVERGED, t, beta, gamma
    if NOT_CONVERGED in (status_low, status_high):
        return NOT_CONVERGED, t, beta, gamma
    theta = -value_low / (value_high - value_low)
    two_liquids = status_low == OK_TWO_LIQUIDS and status_high == OK_TWO_LIQUIDS
    if two_liquids:
        beta = (1.0 - theta) * beta_low + theta * beta_high
        gamma = 0.0
        for i in range(n):
            y[i] = (1.0 - theta) * phases_low[1, i] + theta * phases_high[1, i]
            x[i] = (1.0 - theta) * phases_low[0, i] + theta * phases_high[0, i]
        status = OK_TWO_LIQUIDS
    else:
        status, beta, gamma = merge(theta, status_low, beta_low, gamma_low, phases_low, status_high, beta_high, gamma_high, phases_high, x, y, w)
    for i in range(n):
        if not x[i] > 0.0:
            x[i] = 1e-300
    prepare(kind, t, par, pairs, ctx, True)
    h, s, slope = state_energies(kind, t, p, beta, gamma, x, y, w, par, ctx, work, hess)
    missed = (s if entropy else h) - target
    if abs(missed) > 1e-8 * max(abs(target), R * t if not entropy else R):
        return NOT_CONVERGED, t, beta, gamma
    return status, t, beta, gamma
