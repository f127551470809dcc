"""Energies of states, their slopes along equilibrium, and flashes at given enthalpy or entropy."""

from __future__ import annotations

import math

import numpy as np

from wattaxis.properties.kernels import inner, kernel
from wattaxis.properties.kernels.layout import IDEAL, LIQUID, NOT_CONVERGED, OK, OK_TWO_LIQUIDS, P_REF, STABLE, VAPOUR, R
from wattaxis.properties.kernels.linear import cholesky, cholesky_solve
from wattaxis.properties.kernels.phase import CP_RES, H_RES, S_RES, V, phase_properties, prepare
from wattaxis.properties.kernels.pure import ideal_gas
from wattaxis.properties.kernels.split import WORK_ROWS, isothermal

T_LOW, T_HIGH = 15.0, 6000.0


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
    out[3] = props[V]
    out[4] = props[0]


@inner
def state_energies(kind, t, p, beta, x, y, par, ctx, work, hess):
    """H, S and dH/dT at constant pressure along equilibrium of the whole state, per mole of feed."""
    n = x.shape[0]
    root_x, root_y = phase_roots(kind, beta, x, y)
    props = np.empty(5)
    liquid = np.empty(5)
    vapour = np.empty(5)
    both = 0.0 < beta < 1.0
    if beta < 1.0:
        phase_energies(kind, root_x, t, p, x, par, ctx, both, work[0:3], hess[n : 2 * n], props, liquid)
        if not both:
            return liquid[0], liquid[1], liquid[2]
    phase_energies(kind, root_y, t, p, y, par, ctx, both, work[3:6], hess[2 * n : 3 * n], props, vapour)
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
            slope += R * t * t * gap[i] * shift[i]
    return h, s, slope


@kernel(
    "Tuple((int64, float64, float64))(int64, boolean, float64, float64, float64, float64[::1], float64[:, ::1],"
    "float64[:, ::1], float64[::1], float64[::1])"
)
def flash_energy(kind, entropy, p, target, guess, z, par, kij, x, y):
    """Flash at P (Pa) and molar enthalpy (J/mol), or entropy (J/(mol K)) if ``entropy``.

    Newton on temperature with the two-phase slope, kept inside a shrinking bracket; where the property jumps (pure
    component, azeotrope) the amounts are interpolated between both sides. Returns (status, T, vapour fraction).
    """
    n = z.shape[0]
    ctx = np.empty((3, n, n))
    work = np.zeros((WORK_ROWS, n))
    hess = np.empty((3 * n, n))
    low, high = T_LOW, T_HIGH
    have_low = False
    have_high = False
    beta_low = 0.0
    beta_high = 1.0
    value_low = 0.0
    value_high = 0.0
    x_low = z.copy()
    y_low = z.copy()
    x_high = z.copy()
    y_high = z.copy()
    t = min(max(guess, 1.01 * T_LOW), 0.99 * T_HIGH)
    width = high - low
    for iteration in range(200):
        prepare(kind, t, par, kij, ctx, True)
        status, beta = isothermal(kind, t, p, z, par, ctx, x, y, work, hess)
        h, s, slope = state_energies(kind, t, p, beta, x, y, par, ctx, work, hess)
        if not math.isfinite(h):
            return NOT_CONVERGED, t, beta
        value = (s if entropy else h) - target
        if entropy:
            slope /= t
        scale = abs(slope) * t if slope != 0.0 else 1.0
        if abs(value) <= 1e-13 * max(scale, abs(target)):
            return status, t, beta
        if value < 0.0:
            low = t
            have_low = True
            beta_low, value_low = beta, value
            x_low[:] = x
            y_low[:] = y
        else:
            high = t
            have_high = True
            beta_high, value_high = beta, value
            x_high[:] = x
            y_high[:] = y
        if high - low < 4e-13 * t:
            break
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
            return status, t, beta
        t = new
    if not (have_low and have_high) or high - low > 1e-6 * t:
        return NOT_CONVERGED, t, beta
    two_liquids = status == OK_TWO_LIQUIDS
    theta = -value_low / (value_high - value_low)
    vapour = (1.0 - theta) * beta_low + theta * beta_high
    for i in range(n):
        amount = (1.0 - theta) * beta_low * y_low[i] + theta * beta_high * y_high[i]
        y[i] = amount / vapour if vapour > 0.0 else z[i]
        x[i] = (z[i] - amount) / (1.0 - vapour) if vapour < 1.0 else z[i]
        if not x[i] > 0.0:
            x[i] = 1e-300
    prepare(kind, t, par, kij, ctx, True)
    h, s, slope = state_energies(kind, t, p, vapour, x, y, par, ctx, work, hess)
    missed = (s if entropy else h) - target
    # Between two different pairs of phases (a third one is missed) there is nothing to interpolate.
    if abs(missed) > 1e-8 * max(abs(target), R * t if not entropy else R):
        return NOT_CONVERGED, t, vapour
    return OK_TWO_LIQUIDS if two_liquids else OK, t, vapour
