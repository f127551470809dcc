"""Water and steam: the IAPWS formulation 1995 (Wagner, Pruss 2002; IAPWS R6-95), one equation for the Helmholtz energy of liquid, vapour and beyond.

``phi(delta, tau) = f/(R T)`` with delta = rho/rho_c and tau = T_c/T, the ideal part by equation 5 and the residual part by equation 6 of the
release; saturated densities to start from by the supplementary release SR1-86.
"""

from __future__ import annotations

import math

import numpy as np

from wattaxis.properties.kernels import inner, linked
from wattaxis.properties.layout import HF, LIQUID, P_REF, S0, T_REF, VAPOUR

#: Of the formulation: gas constant, J/(mol K) at 0.018015268 kg/mol; critical temperature, K; critical density, mol/m3.
R_WATER, T_C, RHO_C = 461.51805 * 0.018015268, 647.096, 322.0 / 0.018015268
#: K; colder than any supercooled water the residual part is kept, since the equation has no meaning there (and no one asks but searches).
T_LOWEST = 230.0

_N = np.array(
    [
        0.012533547935523,
        7.8957634722828,
        -8.7803203303561,
        0.31802509345418,
        -0.26145533859358,
        -0.0078199751687981,
        0.0088089493102134,
        -0.66856572307965,
        0.20433810950965,
        -6.6212605039687e-05,
        -0.19232721156002,
        -0.25709043003438,
        0.16074868486251,
        -0.040092828925807,
        3.9343422603254e-07,
        -7.5941377088144e-06,
        0.00056250979351888,
        -1.5608652257135e-05,
        1.1537996422951e-09,
        3.6582165144204e-07,
        -1.3251180074668e-12,
        -6.2639586912454e-10,
        -0.10793600908932,
        0.017611491008752,
        0.22132295167546,
        -0.40247669763528,
        0.58083399985759,
        0.0049969146990806,
        -0.031358700712549,
        -0.74315929710341,
        0.4780732991548,
        0.020527940895948,
        -0.13636435110343,
        0.014180634400617,
        0.0083326504880713,
        -0.029052336009585,
        0.038615085574206,
        -0.020393486513704,
        -0.0016554050063734,
        0.0019955571979541,
        0.00015870308324157,
        -1.638856834253e-05,
        0.043613615723811,
        0.034994005463765,
        -0.076788197844621,
        0.022446277332006,
        -6.2689710414685e-05,
        -5.5711118565645e-10,
        -0.19905718354408,
        0.31777497330738,
        -0.11841182425981,
    ]
)
_D = np.array(
    [
        1,
        1,
        1,
        2,
        2,
        3,
        4,
        1,
        1,
        1,
        2,
        2,
        3,
        4,
        4,
        5,
        7,
        9,
        10,
        11,
        13,
        15,
        1,
        2,
        2,
        2,
        3,
        4,
        4,
        4,
        5,
        6,
        6,
        7,
        9,
        9,
        9,
        9,
        9,
        10,
        10,
        12,
        3,
        4,
        4,
        5,
        14,
        3,
        6,
        6,
        6,
    ]
)
_T = np.array(
    [
        -0.5,
        0.875,
        1.0,
        0.5,
        0.75,
        0.375,
        1.0,
        4.0,
        6.0,
        12.0,
        1.0,
        5.0,
        4.0,
        2.0,
        13.0,
        9.0,
        3.0,
        4.0,
        11.0,
        4.0,
        13.0,
        1.0,
        7.0,
        1.0,
        9.0,
        10.0,
        10.0,
        3.0,
        7.0,
        10.0,
        10.0,
        6.0,
        10.0,
        10.0,
        1.0,
        2.0,
        3.0,
        4.0,
        8.0,
        6.0,
        9.0,
        8.0,
        16.0,
        22.0,
        23.0,
        23.0,
        10.0,
        50.0,
        44.0,
        46.0,
        50.0,
    ]
)
_C = np.array(
    [
        0,
        0,
        0,
        0,
        0,
        0,
        0,
        1,
        1,
        1,
        1,
        1,
        1,
        1,
        1,
        1,
        1,
        1,
        1,
        1,
        1,
        1,
        2,
        2,
        2,
        2,
        2,
        2,
        2,
        2,
        2,
        2,
        2,
        2,
        2,
        2,
        2,
        2,
        2,
        2,
        2,
        2,
        3,
        3,
        3,
        3,
        4,
        6,
        6,
        6,
        6,
    ]
)
#: Terms 52 to 54: n, t, beta, gamma; d = 3, alpha = 20, epsilon = 1.
_BELLS = np.array([[-31.306260323435, 0.0, 150.0, 1.21], [31.546140237781, 1.0, 150.0, 1.21], [-2521.3154341695, 4.0, 250.0, 1.25]])
#: Terms 55 and 56: n, b, C, D; a = 3.5, B = 0.2, A = 0.32, beta = 0.3.
_CUSPS = np.array([[-0.14874640856724, 0.85, 28.0, 700.0], [0.31806110878444, 0.95, 32.0, 800.0]])
_IDEAL = np.array([[0.012436, 1.28728967], [0.97315, 3.53734222], [1.2795, 7.74073708], [0.96956, 9.24437796], [0.24873, 27.5075105]])


#: From which negative exponent on a term that makes the critical point is below rounding.
FAINT = 60.0


@inner
def _cusp(delta, tau, n, b, c, d):
    """One of the terms that make the critical point: value, d/d delta, twice, d/d tau, twice, mixed."""
    a_exp, b_cap, a_cap, beta = 3.5, 0.2, 0.32, 0.3
    gap = delta - 1.0
    square = gap * gap
    if square < 1e-24:
        square = 1e-24
        gap = 1e-12
    power = square ** (0.5 / beta - 1.0)
    theta = (1.0 - tau) + a_cap * power * square
    inside = theta * theta + b_cap * square**a_exp
    inside_d = gap * (a_cap * theta * 2.0 / beta * power + 2.0 * b_cap * a_exp * square ** (a_exp - 1.0))
    inside_dd = inside_d / gap + square * (
        4.0 * b_cap * a_exp * (a_exp - 1.0) * square ** (a_exp - 2.0)
        + 2.0 * (a_cap / beta * power) ** 2
        + a_cap * theta * 4.0 / beta * (0.5 / beta - 1.0) * square ** (0.5 / beta - 2.0)
    )
    base = inside**b
    lower = b * inside ** (b - 1.0)
    lowest = b * (b - 1.0) * inside ** (b - 2.0)
    base_d = lower * inside_d
    base_dd = lower * inside_dd + lowest * inside_d * inside_d
    base_t = -2.0 * theta * lower
    base_tt = 2.0 * lower + 4.0 * theta * theta * lowest
    base_dt = -a_cap * lower * 2.0 / beta * gap * power - 2.0 * theta * lowest * inside_d
    bell = math.exp(-c * square - d * (tau - 1.0) ** 2)
    bell_d = -2.0 * c * gap * bell
    bell_dd = (2.0 * c * square - 1.0) * 2.0 * c * bell
    bell_t = -2.0 * d * (tau - 1.0) * bell
    bell_tt = (2.0 * d * (tau - 1.0) ** 2 - 1.0) * 2.0 * d * bell
    bell_dt = 4.0 * c * d * gap * (tau - 1.0) * bell
    return (
        n * base * delta * bell,
        n * (base * (bell + delta * bell_d) + base_d * delta * bell),
        n * (base * (2.0 * bell_d + delta * bell_dd) + 2.0 * base_d * (bell + delta * bell_d) + base_dd * delta * bell),
        n * delta * (base_t * bell + base * bell_t),
        n * delta * (base_tt * bell + 2.0 * base_t * bell_t + base * bell_tt),
        n * (base * (bell_t + delta * bell_dt) + delta * base_d * bell_t + base_t * (bell + delta * bell_d) + base_dt * delta * bell),
    )


@inner
def _at_temperature(tau):
    """What of the terms depends on temperature alone: taken once for all densities that are tried."""
    terms = np.empty(_N.shape[0] + _BELLS.shape[0])
    log_tau = math.log(tau)
    for k in range(_N.shape[0]):
        terms[k] = _N[k] * math.exp(_T[k] * log_tau)
    for k in range(_BELLS.shape[0]):
        n, t, beta, gamma = _BELLS[k]
        terms[_N.shape[0] + k] = n * math.exp(t * log_tau - beta * (tau - gamma) ** 2)
    return terms


@linked("UniTuple(f8, 6)(f8, f8, f8[::1])")
def residual(delta, tau, terms):
    """phi_r with d/d delta, d2/d delta2, d/d tau, d2/d tau2 and d2/(d delta d tau); ``terms`` belong to the temperature."""
    f = f_d = f_dd = f_t = f_tt = f_dt = 0.0
    # The powers of the density and their exponentials are few, and dear: taken once each.
    square = delta * delta
    fourth = square * square
    e1, e2, e3, e4, e6 = math.exp(-delta), math.exp(-square), math.exp(-square * delta), math.exp(-fourth), math.exp(-fourth * square)
    powers = np.empty(16)
    powers[0] = 1.0
    for k in range(1, 16):
        powers[k] = powers[k - 1] * delta
    for k in range(_N.shape[0]):
        d, t, c = _D[k], _T[k], _C[k]
        term = terms[k] * powers[int(d)]
        along = 1.0 * d
        bend = d * (d - 1.0)
        if c > 0:
            power, fade = delta, e1
            if c == 2:
                power, fade = square, e2
            elif c == 3:
                power, fade = square * delta, e3
            elif c == 4:
                power, fade = fourth, e4
            elif c == 6:
                power, fade = fourth * square, e6
            term *= fade
            along = d - c * power
            bend = along * (along - 1.0) - c * c * power
        f += term
        f_d += term * along
        f_dd += term * bend
        f_t += term * t
        f_tt += term * t * (t - 1.0)
        f_dt += term * along * t
    f_d /= delta
    f_dd /= delta * delta
    f_t /= tau
    f_tt /= tau * tau
    f_dt /= delta * tau
    gap = delta - 1.0
    for k in range(_BELLS.shape[0]):
        _n, t, beta, gamma = _BELLS[k]
        shift = tau - gamma
        if 20.0 * gap * gap + beta * shift * shift > FAINT:
            continue
        term = terms[_N.shape[0] + k] * powers[3] * math.exp(-20.0 * gap * gap)
        along = 3.0 / delta - 40.0 * gap
        warm = t / tau - 2.0 * beta * shift
        f += term
        f_d += term * along
        f_dd += term * (along * along - 3.0 / (delta * delta) - 40.0)
        f_t += term * warm
        f_tt += term * (warm * warm - t / (tau * tau) - 2.0 * beta)
        f_dt += term * along * warm
    for k in range(_CUSPS.shape[0]):
        n, b, c, d = _CUSPS[k]
        if c * gap * gap + d * (tau - 1.0) ** 2 > FAINT:
            continue
        v, v_d, v_dd, v_t, v_tt, v_dt = _cusp(delta, tau, n, b, c, d)
        f += v
        f_d += v_d
        f_dd += v_dd
        f_t += v_t
        f_tt += v_tt
        f_dt += v_dt
    return f, f_d, f_dd, f_t, f_tt, f_dt


@inner
def _liquid_density(t):
    """Of the saturated liquid over the critical one (SR1-86, equation 2)."""
    x = (1.0 - t / T_C) ** (1.0 / 3.0)
    return 1.0 + 1.99274064 * x + 1.09965342 * x**2 - 0.510839303 * x**5 - 1.75493479 * x**16 - 45.5170352 * x**43 - 6.74694450e5 * x**110


@inner
def _vapour_density(t):
    """Of the saturated vapour over the critical one (SR1-86, equation 3)."""
    x = (1.0 - t / T_C) ** (1.0 / 6.0)
    exponent = -2.03150240 * x**2 - 2.68302940 * x**4 - 5.38626492 * x**8 - 17.2991605 * x**18 - 44.7586581 * x**37 - 63.9201063 * x**71
    return math.exp(exponent)


@inner
def _newton(delta, tau, terms, wanted):
    """delta where delta (1 + delta phi_delta) = ``wanted`` = P/(rho_c R T), along the branch of ``delta``; negative when it ends before."""
    for _ in range(60):
        _f, f_d, f_dd, _t, _tt, _dt = residual(delta, tau, terms)
        value = delta * (1.0 + delta * f_d) - wanted
        slope = 1.0 + 2.0 * delta * f_d + delta * delta * f_dd
        if not slope > 0.0:
            return -1.0
        step = value / slope
        step = max(-0.5 * delta, min(0.5 * delta, step))
        delta -= step
        if abs(step) < 1e-8 * delta:
            break  # the error left is the square of it
    return delta


@inner
def _bracketed(low, high, tau, terms, wanted):
    """The same between two densities, for supercritical states and next to the critical point: Newton, or half the way where that leads out."""
    delta = min(max(wanted, low), 0.5 * (low + high))
    for _ in range(100):
        _f, f_d, f_dd, _t, _tt, _dt = residual(delta, tau, terms)
        value = delta * (1.0 + delta * f_d) - wanted
        if value < 0.0:
            low = delta
        else:
            high = delta
        slope = 1.0 + 2.0 * delta * f_d + delta * delta * f_dd
        new = delta - value / slope if slope > 0.0 else low
        if not low < new < high:
            new = 0.5 * (low + high)
        step = abs(new - delta)
        delta = new
        if step < 1e-12 * delta:
            break
    return delta


@inner
def _energy(delta, tau, terms, wanted):
    """ln phi at a density: phi_r + Z - 1 - ln Z."""
    f, f_d, _dd, _t, _tt, _dt = residual(delta, tau, terms)
    z = 1.0 + delta * f_d
    return f + z - 1.0 - math.log(wanted / delta)


@linked("f8(i8, f8, f8, f8[::1])")
def density(root, t, p, terms):
    """delta of the liquid, the vapour, or the one of lower Gibbs energy; where a branch has ended, the other.

    Half-way from a saturated density to the critical one every branch has ended (a mean-field spinodal lies at 0.58 of the way): what Newton finds
    beyond is a loop of the equation, not a fluid.
    """
    tau = T_C / t
    wanted = p / (RHO_C * R_WATER * t)
    if t >= T_C:
        delta = _newton(wanted, tau, terms, wanted) if wanted < 0.15 else -1.0
        return delta if delta > 0.0 else _bracketed(1e-12, 5.0, tau, terms, wanted)
    liquid = vapour = -1.0
    edge = _liquid_density(t)
    _f, f_d, _dd, _t, _tt, _dt = residual(edge, tau, terms)
    compressed = wanted > edge * (1.0 + edge * f_d)
    if root != VAPOUR or compressed:
        liquid = _newton(edge, tau, terms, wanted)
        if liquid < 1.0 + 0.5 * (edge - 1.0):
            liquid = _bracketed(1.0, 5.0, tau, terms, wanted) if compressed else -1.0
    if root != LIQUID or liquid < 0.0:
        thin = _vapour_density(t)
        vapour = _newton(min(wanted, thin), tau, terms, wanted)
        if vapour > 1.0 - 0.5 * (1.0 - thin):
            vapour = -1.0
    if root == LIQUID and liquid > 0.0:
        return liquid
    if root == VAPOUR and vapour > 0.0:
        return vapour
    if liquid < 0.0 and vapour < 0.0:
        return _bracketed(1e-12, 1.0, tau, terms, wanted)
    if liquid < 0.0 or vapour < 0.0:
        return max(liquid, vapour)
    return liquid if _energy(liquid, tau, terms, wanted) < _energy(vapour, tau, terms, wanted) else vapour


@linked("f8(i8, f8, f8, f8[::1])")
def log_phi_steam(root, t, p, out):
    """ln phi into ``out``; returns Z."""
    t = max(t, T_LOWEST)
    wanted = p / (RHO_C * R_WATER * t)
    terms = _at_temperature(T_C / t)
    delta = density(root, t, p, terms)
    out[0] = _energy(delta, T_C / t, terms, wanted)
    return wanted / delta


@linked("void(i8, f8, f8, b1, f8[::1], f8[::1], f8[::1], f8[:, ::1], f8[::1])")
def steam_properties(root, t, p, second, lnphi, dt, dp, dn, props):
    """See :func:`wattaxis.properties.kernels.phase.phase_properties`."""
    t = max(t, T_LOWEST)
    tau = T_C / t
    terms = _at_temperature(tau)
    delta = density(root, t, p, terms)
    f, f_d, f_dd, f_t, f_tt, f_dt = residual(delta, tau, terms)
    z = p / (RHO_C * R_WATER * t) / delta
    lnphi[0] = f + z - 1.0 - math.log(z)
    h = tau * f_t + z - 1.0
    turn = 1.0 + delta * f_d - delta * tau * f_dt
    dt[0] = -h / t
    dp[0] = (z - 1.0) / p
    if second:
        dn[0, 0] = 0.0
    props[0] = z
    props[1] = 1.0 / (delta * RHO_C)
    props[2] = h * R_WATER * t
    props[3] = R_WATER * (tau * f_t - f + math.log(z))
    props[4] = R_WATER * (turn * turn / (1.0 + 2.0 * delta * f_d + delta * delta * f_dd) - tau * tau * f_tt - 1.0)


@inner
def _ideal_terms(t):
    """h/(R T), s/R at the critical density, and cp/R of the ideal gas, from the formulation's own origin."""
    tau = T_C / t
    lead = -8.3204464837497 + 6.6832105275932 * tau + 3.00632 * math.log(tau)
    slope = 6.6832105275932 + 3.00632 / tau
    bend = -3.00632 / (tau * tau)
    for k in range(_IDEAL.shape[0]):
        n, theta = _IDEAL[k]
        fade = math.exp(-theta * tau)
        lead += n * math.log(1.0 - fade)
        slope += n * theta * fade / (1.0 - fade)
        bend -= n * theta * theta * fade / (1.0 - fade) ** 2
    return 1.0 + tau * slope, tau * slope - lead, 1.0 - tau * tau * bend


@linked("UniTuple(f8, 3)(f8, f8, f8[:, ::1])")
def steam_ideal(t, p, par):
    """H (J/mol, from the elements), S (J/(mol K), third law) at ``p`` and Cp of the ideal gas, without the polynomial of the other models."""
    h, s, cp = _ideal_terms(t)
    h0, s0, _cp0 = _ideal_terms(T_REF)
    enthalpy = par[HF, 0] + R_WATER * (t * h - T_REF * h0)
    entropy = par[S0, 0] + R_WATER * (s - s0 - math.log(p / P_REF) + math.log(t / T_REF))
    return enthalpy, entropy, R_WATER * cp
