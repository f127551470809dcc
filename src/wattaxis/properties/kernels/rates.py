"""Rates of chemical reactions in one phase, and the state of a phase by its enthalpy: what an integrator of a reactor calls at every step.

Laws come packed, one row for each. ``terms``: place of the reaction, sign, basis, whether it goes backward by thermodynamics, the five numbers of its
constant, power of its denominator. ``adsorbed``: row in ``terms``, constant. ``steps``: operation, two integers, constant. ``written``: place of the
reaction, sign, whether backward by thermodynamics too, first step and the one after the last.

A constant is ``ln A, n, E/R (K), 1/T0 (1/K), T1 (K)``: ``ln k = ln A + n ln(T/T1) - E/R (1/T - 1/T0)``. Where T1 is 0 it is tabulated: the first two
numbers are a row in ``steps`` and the one after the last, and each of these rows holds, from its third place on, a piece of ln k over 1/T.
"""

from __future__ import annotations

import math

import numpy as np

from wattaxis.properties.kernels import inner, kernel, linked
from wattaxis.properties.kernels.energy import phase_energies
from wattaxis.properties.kernels.flow import cubic_at
from wattaxis.properties.kernels.phase import prepare
from wattaxis.properties.kernels.pure import ideal_enthalpy, ideal_gas
from wattaxis.properties.kernels.volume_shift import volume_shift
from wattaxis.properties.layout import ACTIVITY, IDEAL, IDEAL_GAS, P_REF, VAPOUR, VAPOUR_FORM, R

#: Ways in which laws count: mol/m3, Pa, Pa, -, -.
CONCENTRATION, PARTIAL_PRESSURE, FUGACITY, MOLE_FRACTION, ACTIVITIES = 0, 1, 2, 3, 4
#: Steps of a written law, in reverse Polish order: what puts something on the stack first, then what takes one or two from it.
NUMBER, AMOUNT, TEMPERATURE, PRESSURE, CONSTANT = 0, 1, 2, 3, 4
NEGATIVE, ABS, SQRT, LN, EXP, PLUS, MINUS, TIMES, OVER, POWER, MIN, MAX = 5, 6, 7, 8, 9, 10, 11, 12, 13, 14, 15, 16
#: Why a written law has no value.
FOUND, BY_NOTHING, LOG_OF_NOTHING, ROOT_BELOW, TOO_LARGE = 0, 1, 2, 3, 4
#: Mole fractions that count as nothing; the least that stands under a negative exponent; ln of the largest rate.
GONE, LEAST, MOST = 1e-300, 1e-30, 600.0
#: Share of itself by which the temperature moves no more, and what is as good where rounding keeps it moving; how often it is corrected.
_STILL, _NEARLY, _OFTEN = 1e-13, 1e-10, 60


@linked(
    "void(int64, int64, float64, float64, float64[::1], float64[:, ::1], float64[:, :, ::1], float64[:, ::1], float64[:, :, ::1],"
    "float64[:, ::1], float64[:, ::1], float64[::1], float64[::1])"
)
def one_phase(kind, root, t, p, x, par, pairs, shifts, ctx, vectors, dn, props, out):
    """H (J/mol), S, Cp (J/(mol K)), V (m3/mol) and Z of a phase into ``out``, ln phi into ``vectors[0]``; ``shifts`` without rows: none."""
    if kind < ACTIVITY or root != VAPOUR or par[VAPOUR_FORM, 0] != IDEAL_GAS:
        prepare(kind, t, par, pairs, ctx, True)
    phase_energies(kind, root, t, p, x, par, ctx, False, vectors, dn, props, out)
    if shifts.shape[0] == 0:
        return
    own = vectors[1]
    c, slope, bend = volume_shift(t, x, shifts, own)
    out[0] -= p * (c - t * slope)
    out[1] += p * slope
    out[2] += p * t * bend
    out[3] -= c
    out[4] -= p * c / (R * t)
    for i in range(x.shape[0]):
        vectors[0, i] -= p * own[i] / (R * t)


@linked(
    "float64(int64, int64, float64, float64, float64[::1], float64, float64, float64, float64[:, ::1], float64[:, :, ::1], float64[:, ::1],"
    "float64[:, :, ::1], float64[:, ::1], float64[:, ::1], float64[::1], float64[::1])"
)
def phase_at_enthalpy(kind, root, h, p, x, guess, low, high, par, pairs, shifts, ctx, vectors, dn, props, out):
    """The temperature (K) at which a phase has the enthalpy ``h`` (J/mol), with what :func:`one_phase` says there; nan where there is none."""
    t, step = guess, math.inf
    ideal = root == VAPOUR and (kind == IDEAL or (kind >= ACTIVITY and par[VAPOUR_FORM, 0] == IDEAL_GAS))
    for _ in range(_OFTEN):
        if ideal:
            level = slope = 0.0
            for i in range(x.shape[0]):
                h_i, cp_i = ideal_enthalpy(t, par, i)
                level += x[i] * h_i
                slope += x[i] * cp_i
        else:
            one_phase(kind, root, t, p, x, par, pairs, shifts, ctx, vectors, dn, props, out)
            level, slope = out[0], out[2]
        step = (h - level) / slope
        if abs(step) <= _STILL * t:
            break
        t = min(max(t + step, 0.5 * t), 2.0 * t)
        if not low < t < high:
            return math.nan
    if not abs(step) <= _NEARLY * t:
        return math.nan
    if ideal:
        one_phase(kind, root, t, p, x, par, pairs, shifts, ctx, vectors, dn, props, out)
    return t


@inner
def _log_constant(row, at, t, steps):
    if row[at + 4] == 0.0:
        return cubic_at(steps[int(row[at]) : int(row[at + 1]), 2:], 1.0 / t)
    return row[at] + row[at + 1] * math.log(t / row[at + 4]) - row[at + 2] * (1.0 / t - row[at + 3])


@inner
def _log_power(order, x):
    return 0.0 if order == 0.0 else order * math.log(max(x, GONE if order > 0.0 else LEAST))


@inner
def _scale(basis, i, p, v, log_phi, gamma):
    """What a mole fraction is multiplied by to give what a law counts in."""
    if basis == CONCENTRATION:
        return 1.0 / v
    if basis == PARTIAL_PRESSURE:
        return p
    if basis == FUGACITY:
        return p * math.exp(log_phi[i])
    return gamma[i] if basis == ACTIVITIES else 1.0


@inner
def _of_two(operation, a, b):
    """The result of two numbers, and why there is none."""
    if operation == PLUS:
        return a + b, FOUND
    if operation == MINUS:
        return a - b, FOUND
    if operation == TIMES:
        return a * b, FOUND
    if operation == OVER:
        return (a / b, FOUND) if b != 0.0 else (0.0, BY_NOTHING)
    if operation == MIN:
        return min(a, b), FOUND
    if operation == MAX:
        return max(a, b), FOUND
    if a == 0.0 and b < 0.0:
        return 0.0, BY_NOTHING
    if a < 0.0 and b != math.floor(b):
        return 0.0, ROOT_BELOW
    return a**b, FOUND


@inner
def _of_one(operation, a):
    if operation == NEGATIVE:
        return -a, FOUND
    if operation == ABS:
        return abs(a), FOUND
    if operation == SQRT:
        return (math.sqrt(a), FOUND) if a >= 0.0 else (0.0, ROOT_BELOW)
    if operation == LN:
        return (math.log(a), FOUND) if a > 0.0 else (0.0, LOG_OF_NOTHING)
    return math.exp(a), FOUND


@inner
def _written_rate(steps, first, after, t, p, v, x, floor, log_phi, gamma, stack):
    """The value of a written law, and why there is none."""
    top = -1
    for k in range(first, after):
        step = steps[k]
        operation, status = int(step[0]), FOUND
        if operation <= CONSTANT:
            top += 1
        if operation == NUMBER:
            stack[top] = step[3]
        elif operation == AMOUNT:
            i = int(step[2])
            stack[top] = max(x[i], floor) * _scale(int(step[1]), i, p, v, log_phi, gamma)
        elif operation == TEMPERATURE:
            stack[top] = t
        elif operation == PRESSURE:
            stack[top] = p
        elif operation == CONSTANT:
            stack[top] = math.exp(_log_constant(step, 3, t, steps))
        elif operation < PLUS:
            stack[top], status = _of_one(operation, stack[top])
        else:
            top -= 1
            stack[top], status = _of_two(operation, stack[top], stack[top + 1])
        if status != FOUND:
            return 0.0, status
        if not math.isfinite(stack[top]):
            return 0.0, TOO_LARGE
    return stack[0], FOUND


@inner
def _add_terms(t, p, v, x, log_phi, gamma, log_k, numbers, terms, orders, adsorbed, adsorbed_orders, steps, out):
    for k in range(terms.shape[0]):
        term = terms[k]
        place, basis, thermal = int(term[0]), int(term[2]), term[3] != 0.0
        level = _log_constant(term, 4, t, steps)
        for i in range(x.shape[0]):
            own = orders[k, i]
            if own != 0.0:
                level += own * math.log(_scale(basis, i, p, v, log_phi, gamma))
            if thermal:
                number = numbers[place, i]
                own += number
                if number != 0.0:
                    level += number * (log_phi[i] + math.log(p / P_REF))
            level += _log_power(own, x[i])
        if thermal:
            level -= log_k[place]
        hindered = 0.0
        for m in range(adsorbed.shape[0]):
            if int(adsorbed[m, 0]) == k:
                held = _log_constant(adsorbed[m], 1, t, steps)
                for i in range(x.shape[0]):
                    order = adsorbed_orders[m, i]
                    if order != 0.0:
                        held += order * math.log(_scale(basis, i, p, v, log_phi, gamma)) + _log_power(order, x[i])
                hindered += math.exp(min(held, MOST))
        level -= term[9] * math.log1p(hindered)
        out[place] += term[1] * math.exp(min(level, MOST))


@kernel("void(float64, float64[:, ::1], float64[:, ::1], float64[::1])")
def log_constants(t, par, numbers, out):
    """ln K of reactions between ideal gases, in fugacities over 1 bar."""
    out[:] = 0.0
    for i in range(numbers.shape[1]):
        if np.any(numbers[:, i] != 0.0):
            h, s, _cp = ideal_gas(t, par, i)
            for j in range(numbers.shape[0]):
                out[j] += numbers[j, i] * (s - h / t) / R


@linked(
    "UniTuple(int64, 2)(float64, float64, float64, float64[::1], float64[::1], float64[::1], float64[:, ::1], float64[:, ::1], float64[:, ::1],"
    "float64[:, ::1], float64[:, ::1], float64[:, ::1], float64[:, ::1], float64[:, ::1], float64[::1], float64[::1], float64[::1])"
)
def reaction_rates(t, p, v, x, log_phi, gamma, par, numbers, terms, orders, adsorbed, adsorbed_orders, steps, written, stack, log_k, out):
    """Rates (mol/(m3 s) or mol/(kg s)) into ``out``, ln K into ``log_k``, (reactions,). Returns the row of ``written`` without a value, and why."""
    log_constants(t, par, numbers, log_k)
    out[:] = 0.0
    _add_terms(t, p, v, x, log_phi, gamma, log_k, numbers, terms, orders, adsorbed, adsorbed_orders, steps, out)
    for k in range(written.shape[0]):
        law = written[k]
        place, thermal = int(law[0]), law[2] != 0.0
        rate, status = _written_rate(steps, int(law[3]), int(law[4]), t, p, v, x, LEAST if thermal else 0.0, log_phi, gamma, stack)
        if status != FOUND:
            return k, status
        if thermal:
            lack = -log_k[place]
            for i in range(x.shape[0]):
                if numbers[place, i] != 0.0:
                    lack += numbers[place, i] * (math.log(max(x[i], LEAST)) + log_phi[i] + math.log(p / P_REF))
            rate *= 1.0 - math.exp(min(lack, MOST))
        out[place] += law[1] * rate
    return -1, FOUND
