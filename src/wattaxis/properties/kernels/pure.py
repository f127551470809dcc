"""Pure-component functions of temperature: ideal-gas enthalpy, entropy, heat capacity and vapour pressure."""

from __future__ import annotations

import math

from wattaxis.properties.kernels import inner, linked
from wattaxis.properties.layout import (
    CP0,
    CP_ABOVE0,
    CP_HIGH,
    CP_LOW,
    CP_MIDDLE,
    HF,
    OMEGA,
    PC,
    PS0,
    PS_FORM,
    PS_HIGH,
    PS_LOW,
    PS_PC,
    PS_TC,
    S0,
    T_REF,
    TC,
)


@inner
def _cp_polynomial(temperature, par, row, i):
    value = 0.0
    for k in range(4, -1, -1):
        value = value * temperature + par[row + k, i]
    return value


@inner
def _h_polynomial(temperature, par, row, i):
    value = 0.0
    for k in range(4, -1, -1):
        value = value * temperature + par[row + k, i] / (k + 1)
    return value * temperature


@inner
def _s_polynomial(temperature, par, row, i):
    value = 0.0
    for k in range(4, 0, -1):
        value = value * temperature + par[row + k, i] / k
    return value * temperature + par[row, i] * math.log(temperature)


@inner
def ideal_enthalpy(temperature, par, i):
    """H (J/mol) and Cp (J/(mol K)) as of :func:`ideal_gas`, for where no entropy is asked for."""
    inside = min(max(temperature, par[CP_LOW, i]), par[CP_HIGH, i])
    middle = par[CP_MIDDLE, i]
    below = min(inside, middle)
    h = par[HF, i] + _h_polynomial(below, par, CP0, i) - _h_polynomial(T_REF, par, CP0, i)
    if inside > middle:
        cp = _cp_polynomial(inside, par, CP_ABOVE0, i)
        h += _h_polynomial(inside, par, CP_ABOVE0, i) - _h_polynomial(middle, par, CP_ABOVE0, i)
    else:
        cp = _cp_polynomial(inside, par, CP0, i)
    return h + cp * (temperature - inside), cp


@inner
def ideal_gas(temperature, par, i):
    """H (J/mol, from the elements at 298.15 K), S (J/(mol K), third law, 1 bar) and Cp of an ideal gas.

    Two polynomials, the second from CP_MIDDLE on. Beyond their range Cp keeps its value at the end of the range; the caller
    reports that as a finding.
    """
    h, cp = ideal_enthalpy(temperature, par, i)
    inside = min(max(temperature, par[CP_LOW, i]), par[CP_HIGH, i])
    middle = par[CP_MIDDLE, i]
    below = min(inside, middle)
    s = par[S0, i] + _s_polynomial(below, par, CP0, i) - _s_polynomial(T_REF, par, CP0, i)
    if inside > middle:
        s += _s_polynomial(inside, par, CP_ABOVE0, i) - _s_polynomial(middle, par, CP_ABOVE0, i)
    if temperature != inside:
        s += cp * math.log(temperature / inside)
    return h, s, cp


@inner
def _psat_inside(t, par, i):
    """ln(Psat/Pa) with first and second temperature derivative, inside the range of the correlation."""
    form = int(par[PS_FORM, i])
    a, b, c, d, e = par[PS0, i], par[PS0 + 1, i], par[PS0 + 2, i], par[PS0 + 3, i], par[PS0 + 4, i]
    if form == 1:
        power = d * t**e
        return (
            a + b / t + c * math.log(t) + power,
            -b / t**2 + c / t + e * power / t,
            2 * b / t**3 - c / t**2 + e * (e - 1) * power / t**2,
        )
    if form in (2, 5):  # Wagner's equation with the powers 2.5 and 5, or 3 and 6
        tc = par[PS_TC, i]
        tau = max(1.0 - t / tc, 1e-12)
        n, m = (2.5, 5.0) if form == 2 else (3.0, 6.0)
        f = a * tau + b * tau**1.5 + c * tau**n + d * tau**m
        f1 = a + 1.5 * b * tau**0.5 + n * c * tau ** (n - 1.0) + m * d * tau ** (m - 1.0)
        f2 = 0.75 * b * tau**-0.5 + n * (n - 1.0) * c * tau ** (n - 2.0) + m * (m - 1.0) * d * tau ** (m - 2.0)
        x = tc / t
        return (
            math.log(par[PS_PC, i]) + x * f,
            -x * f / t - f1 / t,
            2 * x * f / t**2 + 2 * f1 / t**2 + f2 / (t * tc),
        )
    if form == 4:
        return a - b / (t + c), b / (t + c) ** 2, -2 * b / (t + c) ** 3
    tc = par[TC, i]
    omega = par[OMEGA, i]
    x = t / tc
    # Lee and Kesler (1975), equations 17 and 18
    c0 = 5.92714 + omega * 15.2518
    c1 = -6.09648 - omega * 15.6875
    c2 = -1.28862 - omega * 13.4721
    c3 = 0.169347 + omega * 0.43577
    return (
        math.log(par[PC, i]) + c0 + c1 / x + c2 * math.log(x) + c3 * x**6,
        (-c1 / x**2 + c2 / x + 6 * c3 * x**5) / tc,
        (2 * c1 / x**3 - c2 / x**2 + 30 * c3 * x**4) / tc**2,
    )


@linked("UniTuple(f8, 3)(f8, f8[:, ::1], i8)")
def log_vapour_pressure(t, par, i):
    """ln(Psat/Pa), d/dT (1/K), d2/dT2 (1/K2).

    Outside the correlation's range ln Psat goes on as a straight line in 1/T with the slope at the end of the
    range (Clausius-Clapeyron, constant heat of vaporisation); the caller reports that as a finding.
    """
    inside = min(max(t, par[PS_LOW, i]), par[PS_HIGH, i])
    value, first, second = _psat_inside(inside, par, i)
    if t == inside:
        return value, first, second
    slope = -first * inside * inside  # d lnP / d(1/T)
    return value + slope * (1.0 / t - 1.0 / inside), -slope / t**2, 2 * slope / t**3
