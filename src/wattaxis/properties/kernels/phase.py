"""Fugacity coefficients and departure functions of one phase, for every model kind.

Equations of state: :mod:`wattaxis.properties.kernels.cubic` and :mod:`wattaxis.properties.kernels.steam`. The ideal model is Raoult's law: ideal gas
over an ideal liquid without pressure dependence of the liquid fugacity. The activity models put ``gamma_i`` on top of it
(:mod:`wattaxis.properties.kernels.activity`) and may have a real vapour (:mod:`wattaxis.properties.kernels.vapour`).
"""

from __future__ import annotations

import math

import numpy as np

from wattaxis.properties.kernels import inner, linked
from wattaxis.properties.kernels.activity import PSAT_ROW, VECTORS, log_gamma, prepare_activity, prepare_groups
from wattaxis.properties.kernels.cubic import CP_RES, H_RES, S_RES, V, Z, cubic_properties, log_phi_cubic, prepare_cubic, root_of_attraction
from wattaxis.properties.kernels.liquid import liquid_depth, liquid_volume
from wattaxis.properties.kernels.predictive import A_1, RATE
from wattaxis.properties.kernels.pure import log_vapour_pressure
from wattaxis.properties.kernels.steam import log_phi_steam, steam_properties
from wattaxis.properties.kernels.vapour import log_phi_vapour, prepare_vapour, vapour_properties
from wattaxis.properties.layout import (
    ACTIVITY,
    COVOLUME,
    CUBIC,
    HEAT_HIGH,
    IDEAL,
    IDEAL_GAS,
    LIQUID,
    LIQUID_VOLUME,
    PREDICTIVE,
    STABLE,
    STEAM,
    VAPOUR,
    VAPOUR_FORM,
    R,
)


@linked("void(i8, f8, f8[:, ::1], f8[:, :, ::1], f8[:, :, ::1], b1)")
def prepare(kind, t, par, pairs, ctx, derivatives):
    """Fill the workspace ``ctx`` with everything that depends on temperature alone; ``derivatives`` may leave out what only they need."""
    n = par.shape[1]
    if kind >= ACTIVITY:
        prepare_activity(kind, t, par, pairs, ctx)
        if par[VAPOUR_FORM, 0] != IDEAL_GAS:
            prepare_vapour(t, par, np.zeros((3, n, n)), ctx)
    elif kind == CUBIC:
        prepare_cubic(t, par, pairs, ctx, derivatives)
    elif kind == PREDICTIVE:
        prepare_groups(n, t, pairs, ctx)
        ctx[VECTORS, RATE, 0] = R * t / A_1
        for i in range(n):
            r, r1, r2 = root_of_attraction(t, par, i)
            b = par[COVOLUME, i]
            ctx[0, PSAT_ROW, i], ctx[1, PSAT_ROW, i], ctx[2, PSAT_ROW, i] = r * r / b, 2.0 * r * r1 / b, 2.0 * (r1 * r1 + r * r2) / b
    elif kind == IDEAL:
        for i in range(n):
            ctx[0, 0, i], ctx[1, 0, i], ctx[2, 0, i] = log_vapour_pressure(t, par, i)


@inner
def _log_phi_activity(kind, root, t, p, x, par, ctx, out):
    """The liquid of an activity model, or its vapour where that is asked for or has the lower Gibbs energy. Returns Z, zero for the liquid."""
    n = x.shape[0]
    ideal = par[VAPOUR_FORM, 0] == IDEAL_GAS
    if root == VAPOUR:
        if not ideal:
            z, _vapour = log_phi_vapour(t, p, x, par, ctx, out)
            return z
        for i in range(n):
            out[i] = 0.0
        return 1.0
    z = 1.0
    level = 0.0
    exists = True
    if root == STABLE and not ideal:
        z, exists = log_phi_vapour(t, p, x, par, ctx, out)
        for i in range(n):
            level += x[i] * out[i]
    log_p = math.log(p)
    pressing = p / (R * t)
    log_gamma(kind, x, par, ctx, False, False, out, out, ctx[0])
    energy = 0.0
    for i in range(n):
        out[i] += ctx[0, 0, i] + par[LIQUID_VOLUME, i] * pressing - log_p
        energy += x[i] * out[i]
    if root == LIQUID or energy <= level or not exists:
        return 0.0
    if ideal:
        for i in range(n):
            out[i] = 0.0
    else:
        z, exists = log_phi_vapour(t, p, x, par, ctx, out)
    return z


@linked("f8(i8, i8, f8, f8, f8[::1], f8[:, ::1], f8[:, :, ::1], f8[::1])")
def log_phi(kind, root, t, p, x, par, ctx, out):
    """ln phi_i of a phase of composition ``x`` (sums to one) into ``out``; returns Z. The fast path, no derivatives."""
    if kind in (CUBIC, PREDICTIVE):
        return log_phi_cubic(kind, root, t, p, x, par, ctx, out)
    if kind >= ACTIVITY:
        return _log_phi_activity(kind, root, t, p, x, par, ctx, out)
    if kind == STEAM:
        return log_phi_steam(root, t, p, out)
    n = x.shape[0]
    if root == VAPOUR:
        for i in range(n):
            out[i] = 0.0
        return 1.0
    log_p = math.log(p)
    for i in range(n):
        out[i] = ctx[0, 0, i] - log_p
    return 0.0


@inner
def _depth(t, par, ctx, i):
    """How far the enthalpy of a pure liquid lies below the ideal gas (J/mol), and its slope: measured, or from the slope of the fugacity."""
    if par[HEAT_HIGH, i] > 0.0:
        return liquid_depth(t, par, i)
    rt = R * t
    return rt * t * ctx[1, PSAT_ROW, i], rt * (2.0 * ctx[1, PSAT_ROW, i] + t * ctx[2, PSAT_ROW, i])


@inner
def contradiction(t, par, ctx, i):
    """What the measured heat has more than the slope of the fugacity says, as d ln phi/dT (1/K); belongs to partial enthalpies of a liquid."""
    depth, _slope = _depth(t, par, ctx, i)
    return depth / (R * t * t) - ctx[1, PSAT_ROW, i]


@inner
def _liquid_properties(kind, t, p, x, par, ctx, second, lnphi, dt, dp, dn, props):
    """A liquid with ``phi_i P = gamma_i f_i(T, P)``; gamma_i = 1 in the ideal model. Returns the residual Gibbs energy over R T.

    ``dt`` is the slope of ln phi, which equilibria need. The enthalpy comes from measured heats (:mod:`wattaxis.properties.kernels.liquid`) with
    the excess enthalpy on top; the entropy is what makes the Gibbs energy that of the fugacities.
    """
    n = x.shape[0]
    curvature = 0.0
    for i in range(n):
        lnphi[i] = 0.0
        dt[i] = 0.0
        if second:
            for j in range(n):
                dn[i, j] = 0.0
    if kind >= ACTIVITY:
        curvature = log_gamma(kind, x, par, ctx, True, second, lnphi, dt, dn)
    excess = 0.0
    h = 0.0
    cp = 0.0
    g = 0.0
    volume = 0.0
    log_p = math.log(p)
    rt = R * t
    for i in range(n):
        pressing = par[LIQUID_VOLUME, i] * p / rt
        excess -= x[i] * dt[i]
        depth, slope = _depth(t, par, ctx, i)
        h += x[i] * (par[LIQUID_VOLUME, i] * p - depth)
        cp -= x[i] * slope
        volume += x[i] * liquid_volume(t, p, par, i)
        lnphi[i] += ctx[0, PSAT_ROW, i] + pressing - log_p
        dt[i] += ctx[1, PSAT_ROW, i] - pressing / t
        dp[i] = par[LIQUID_VOLUME, i] / rt - 1.0 / p
        g += x[i] * lnphi[i]
    h += excess * rt * t
    props[Z] = 0.0
    props[V] = volume
    props[H_RES] = h
    props[S_RES] = h / t - R * g
    props[CP_RES] = cp + R * (2.0 * t * excess - t * t * curvature)
    return g


@inner
def _ideal_gas_properties(t, p, n, second, lnphi, dt, dp, dn, props):
    for i in range(n):
        lnphi[i] = dt[i] = dp[i] = 0.0
        if second:
            for j in range(n):
                dn[i, j] = 0.0
    props[Z] = 1.0
    props[V] = R * t / p
    props[H_RES] = props[S_RES] = props[CP_RES] = 0.0


@linked("void(i8, i8, f8, f8, f8[::1], f8[:, ::1], f8[:, :, ::1], b1, f8[::1], f8[::1], f8[::1], f8[:, ::1], f8[::1])")
def phase_properties(kind, root, t, p, x, par, ctx, second, lnphi, dt, dp, dn, props):
    """ln phi with its T and P derivatives, departures of one mole, and on request (``second``) composition derivatives.

    ``ctx`` must be prepared with derivatives. ``dn[i, j]`` is n d ln phi_i / d n_j at constant T, P. ``props`` receives
    Z (0 for the liquid of an ideal or activity model), molar volume (m3/mol), H residual (J/mol), S residual (J/(mol K)) and Cp residual
    (J/(mol K)), all against the ideal gas at the same T and P.
    """
    if kind in (CUBIC, PREDICTIVE):
        cubic_properties(kind, root, t, p, x, par, ctx, second, lnphi, dt, dp, dn, props)
        return
    if kind == STEAM:
        steam_properties(root, t, p, second, lnphi, dt, dp, dn, props)
        return
    n = x.shape[0]
    real = kind >= ACTIVITY and par[VAPOUR_FORM, 0] != IDEAL_GAS
    if root == STABLE:
        level = 0.0
        exists = True
        if real:
            _z, exists = log_phi_vapour(t, p, x, par, ctx, lnphi)
            for i in range(n):
                level += x[i] * lnphi[i]
        g = _liquid_properties(kind, t, p, x, par, ctx, second, lnphi, dt, dp, dn, props)
        if g <= level or not exists:
            return
    elif root == LIQUID:
        _liquid_properties(kind, t, p, x, par, ctx, second, lnphi, dt, dp, dn, props)
        return
    if real:
        vapour_properties(t, p, x, par, ctx, second, lnphi, dt, dp, dn, props)
    else:
        _ideal_gas_properties(t, p, n, second, lnphi, dt, dp, dn, props)
