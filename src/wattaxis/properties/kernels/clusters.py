"""A vapour that associates: an ideal mixture of monomers, dimers and hexamers (chemical theory).

Dimers (Nothnagel, Abrams, Prausnitz 1973) form between any two molecules that dimerise, with K_ij = 2 sqrt(K_ii K_jj); hexamers (Long, Hildebrand,
Morrell 1943) of one substance. With monomer pressures p_i, k_i = sqrt(K_ii), s = sum k_i p_i, hexamer pressures h_i = K6_i p_i**6 and w_i = h_i/p_i
the pressure is ``P = sum p_i + s**2 + sum h_i`` and the pressure of all molecules counted singly ``W = P + s**2 + 5 sum h_i``; then
``p_i = W y_i/(1 + 2 k_i s + 6 w_i)`` and ``phi_i = p_i/(y_i P)``. A substance forms dimers or hexamers, not both.
"""

from __future__ import annotations

import math

from wattaxis.properties.kernels import inner, linked
from wattaxis.properties.layout import DIMER_A, DIMER_B, HEXAMER_A, HEXAMER_B, R


@inner
def prepare_clusters(t, par, real):
    """The roots k_i of the dimerisation constants with two T derivatives."""
    for i in range(par.shape[1]):
        b = par[DIMER_B, i]
        k = math.exp(0.5 * (par[DIMER_A, i] + b / t)) if b != 0.0 else 0.0
        slope = -0.5 * b / (t * t)
        real[0, 0, i] = k
        real[1, 0, i] = k * slope
        real[2, 0, i] = k * (slope * slope + b / (t * t * t))


@inner
def _root_of_hexamers(t, par, i):
    """The fifth root of the hexamerisation constant, 1/Pa; it stays a number where the constant itself has become too large for one."""
    return math.exp(0.2 * (par[HEXAMER_A, i] + par[HEXAMER_B, i] / t)) if par[HEXAMER_B, i] != 0.0 else 0.0


@inner
def _monomers(q, share):
    """u of ``u + share u**6 = q``: from the right, where Newton comes down on a convex function without passing the root."""
    u = min(q, (q / share) ** (1.0 / 6.0))
    for _ in range(60):
        u5 = u**5
        step = (u + share * u * u5 - q) / (1.0 + 6.0 * share * u5)
        u -= step
        if step <= 1e-9 * u:  # the next one would be of its square
            break
    return u


@linked("UniTuple(f8, 3)(f8, f8[:, ::1], i8, f8, f8, f8)")
def saturated_clusters(t, par, i, log_p, log_p1, log_p2):
    """ln phi of a pure associating vapour along P(T), with two total T derivatives.

    Of dimers phi = 2/(1 + sqrt(1 + 4 K P)); of hexamers phi = 1/(1 + u**5) with u + u**6 = K6**(1/5) P.
    """
    b = par[DIMER_B, i]
    if b != 0.0:
        q = math.exp(par[DIMER_A, i] + b / t + log_p)
        r = math.sqrt(1.0 + 4.0 * q)
        whole = r + r * r
        value = math.log(2.0 / (1.0 + r))
        first = -2.0 * q / whole
        second = -2.0 * q * (whole - 2.0 * q * (1.0 + 2.0 * r) / r) / (whole * whole)
    elif par[HEXAMER_B, i] != 0.0:
        b = 0.2 * par[HEXAMER_B, i]
        w = _monomers(_root_of_hexamers(t, par, i) * math.exp(log_p), 1.0) ** 5
        value = -math.log(1.0 + w)
        first = -5.0 * w / (1.0 + 6.0 * w)
        second = -25.0 * w * (1.0 + w) / (1.0 + 6.0 * w) ** 3
    else:
        return 0.0, 0.0, 0.0
    u1 = log_p1 - b / (t * t)
    u2 = log_p2 + 2.0 * b / (t * t * t)
    return value, first * u1, second * u1 * u1 + first * u2


@inner
def _dimer_sum(p, known, x, real):
    """s = sum k_i p_i by Newton kept between 0 and its largest: of ``s = (p + s**2) f(s)``, or of ``s = p f(s)`` where p is W itself (``known``)."""
    n = x.shape[0]
    s = 0.0
    for i in range(n):
        s += x[i] * real[0, 0, i]
    if s == 0.0:
        return 0.0
    bend = 0.0 if known else 1.0
    low, high = 0.0, s * p if known else math.sqrt(p)
    s = min(s * p, 0.5 * high)
    for _ in range(100):
        f = f_s = 0.0
        for i in range(n):
            k = real[0, 0, i]
            part = k / (1.0 + 2.0 * k * s)
            f += x[i] * part
            f_s -= 2.0 * x[i] * part * part
        value = s - (p + bend * s * s) * f
        if value > 0.0:
            high = s
        else:
            low = s
        new = s - value / (1.0 - 2.0 * bend * s * f - (p + bend * s * s) * f_s)
        if not low <= new <= high:
            new = 0.5 * (low + high)
        if abs(new - s) <= 1e-15 * s:
            return new
        s = new
    return s


@inner
def _single(t, p, x, par, real):
    """(W, s): the pressure of all molecules counted singly, and the sum of the dimers."""
    n = x.shape[0]
    hexamers = False
    for i in range(n):
        hexamers = hexamers or (x[i] > 0.0 and par[HEXAMER_B, i] != 0.0)
    if not hexamers:
        s = _dimer_sum(p, False, x, real)
        return p + s * s, s
    # P rises with W ever more slowly, so that Newton from below never passes the root.
    whole = p
    s = 0.0
    for _ in range(100):
        s = _dimer_sum(whole, True, x, real)
        f = f_s = 0.0
        for i in range(n):
            part = real[0, 0, i] / (1.0 + 2.0 * real[0, 0, i] * s)
            f += x[i] * part
            f_s -= 2.0 * x[i] * part * part
        value, slope = whole - s * s - p, 1.0 - 2.0 * s * f / (1.0 - whole * f_s)
        for i in range(n):
            root = _root_of_hexamers(t, par, i)
            if root > 0.0 and x[i] > 0.0:
                u = _monomers(root * whole * x[i], 6.0)
                w = u**5
                value -= 5.0 * w * u / root
                slope -= 30.0 * w * x[i] / (1.0 + 36.0 * w)
        step = value / slope
        whole -= step
        if abs(step) <= 1e-9 * whole:
            break
    return whole, _dimer_sum(whole, True, x, real)


@inner
def _share_of_hexamers(t, whole, x, par, i):
    """(w, the same over the fraction): h_i/p_i, and ``d ln(below_i)/d x_i`` at a fixed W is made of the second without a division by zero."""
    root = _root_of_hexamers(t, par, i)
    if root == 0.0 or x[i] <= 0.0:
        return 0.0, 0.0
    u = _monomers(root * whole * x[i], 6.0)
    return u**5, root * whole * u**4


@linked("f8(f8, f8, f8[::1], f8[:, ::1], f8[:, :, ::1], f8[::1])")
def log_phi_clusters(t, p, x, par, real, out):
    """ln phi_i into ``out``; returns Z."""
    whole, s = _single(t, p, x, par, real)
    for i in range(x.shape[0]):
        w, _over = _share_of_hexamers(t, whole, x, par, i)
        out[i] = math.log(whole / p / (1.0 + 2.0 * real[0, 0, i] * s + 6.0 * w))
    return p / whole


@linked("void(f8, f8, f8[::1], f8[:, ::1], f8[:, :, ::1], b1, f8[::1], f8[::1], f8[::1], f8[:, ::1], f8[::1])")
def cluster_properties(t, p, x, par, real, second, lnphi, dt, dp, dn, props):
    """See :func:`wattaxis.properties.kernels.phase.phase_properties`; all derivatives by the implicit functions W and s."""
    n = x.shape[0]
    whole, s = _single(t, p, x, par, real)
    f = f_s = f_t = warm = 0.0
    held = rise = warming = 0.0  # sums of h_i b_i, of dh_i/dW and dh_i/dT at the other one fixed
    for i in range(n):
        k = real[0, 0, i]
        below = 1.0 + 2.0 * k * s
        f += x[i] * k / below
        f_s -= 2.0 * x[i] * (k / below) ** 2
        f_t += x[i] * real[1, 0, i] / (below * below)
        warm += x[i] * real[1, 0, i] / below
        w, _over = _share_of_hexamers(t, whole, x, par, i)
        if w > 0.0:
            h = w * whole * x[i] / (1.0 + 6.0 * w)
            held += h * par[HEXAMER_B, i]
            rise += 6.0 * w * x[i] / (1.0 + 36.0 * w)
            warming -= h * par[HEXAMER_B, i] / (t * t) / (1.0 + 36.0 * w)
    stiff = 1.0 - whole * f_s
    s_w = f / stiff
    bottom = 1.0 - 2.0 * s * s_w - 5.0 * rise
    w_p = 1.0 / bottom
    w_t = (2.0 * s * whole * f_t / stiff + 5.0 * warming) / bottom
    s_p = s_w * w_p
    s_t = whole * f_t / stiff + s_w * w_t
    bend = 0.0
    g = 0.0
    held_t = 0.0
    for i in range(n):
        k, k1 = real[0, 0, i], real[1, 0, i]
        w, over = _share_of_hexamers(t, whole, x, par, i)
        below = 1.0 + 2.0 * k * s + 6.0 * w
        hexa = par[HEXAMER_B, i] / (t * t)
        crowd = (1.0 + 6.0 * w) / (1.0 + 36.0 * w)  # d ln p_i/d ln(W y_i)
        wt = w * (-hexa + 30.0 * w * hexa / (1.0 + 36.0 * w) + 5.0 * crowd * w_t / whole)
        lnphi[i] = math.log(whole / p / below)
        dt[i] = w_t / whole - (2.0 * (k1 * s + k * s_t) + 6.0 * wt) / below
        dp[i] = w_p / whole - 1.0 / p - (2.0 * k * s_p + 30.0 * w * crowd * w_p / whole) / below
        bend += x[i] * (real[2, 0, i] / below - 2.0 * k1 * (k1 * s + k * s_t) / (below * below))
        g += x[i] * lnphi[i]
        if w > 0.0:
            rising = 6.0 * w * x[i] / (1.0 + 36.0 * w) * w_t - w * whole * x[i] / (1.0 + 6.0 * w) * hexa / (1.0 + 36.0 * w)
            held_t += par[HEXAMER_B, i] * rising
        if second:
            for j in range(n):
                v, _over = _share_of_hexamers(t, whole, x, par, j)
                other = real[0, 0, j] / (1.0 + 2.0 * real[0, 0, j] * s) - f
                moved = (2.0 * s * whole * other / stiff + 5.0 * whole * (6.0 * v / (1.0 + 36.0 * v) - rise)) / bottom
                dimers = 2.0 * k * (whole * other / stiff + s_w * moved)
                hexamers = 30.0 * w * crowd * (moved / whole - 1.0)
                if i == j:
                    hexamers += 30.0 * over / (1.0 + 36.0 * w)
                dn[i, j] = moved / whole - (dimers + hexamers) / below
    props[0] = p / whole
    props[1] = R * t / whole
    props[2] = 2.0 * R * t * t * s * warm - R * held / whole
    props[3] = props[2] / t - R * g
    props[4] = R * (4.0 * t * s * warm + 2.0 * t * t * (s_t * warm + s * bend)) - R * (held_t - held * w_t / whole) / whole
