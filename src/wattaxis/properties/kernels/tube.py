"""The balances of a tube over its volume: extents (mol/s), the heat that came in (W) and, where it follows from the flow, the pressure (Pa).

Two methods for two kinds of equations. The explicit one of Dormand and Prince, order 8 with estimates of order 5 and 3 (Hairer, Norsett, Wanner 1993,
Solving ordinary differential equations I, section II.10), as long as steps are as large as accuracy allows; where they are held back by stability,
the Rosenbrock method RODAS, order 4, stiffly accurate (Hairer, Wanner 1996, volume II, section IV.7).
"""

from __future__ import annotations

import math

import numpy as np
from scipy.integrate import DOP853

from wattaxis.properties.kernels import inner, kernel, linked
from wattaxis.properties.kernels.flow import bed_gradient, conductivity, cubic_at, film, friction_gradient, viscosity
from wattaxis.properties.kernels.linear import solve_in_place
from wattaxis.properties.kernels.rates import FOUND, one_phase, phase_at_enthalpy, reaction_rates
from wattaxis.properties.layout import LIQUID, MW, VAPOUR, R

#: Ways of heat and of pressure, and what an integration ends at.
ADIABATIC, ISOTHERMAL, EVENLY, TYPED, COOLANT, CO_CURRENT, COUNTER_CURRENT = 0, 1, 2, 3, 4, 5, 6
AS_GIVEN, FRICTION, BED = 0, 1, 2
END, CONVERTED, HOT, ASTRAY, USED_UP = 0, 1, 2, 3, 4
#: What the mixture fills: as the property model says; one volume whatever reacts; as an ideal gas does at its pressure.
BY_MODEL, ONE_VOLUME, IDEAL_FLOW = 0, 1, 2
#: Places in ``kinds``: property model, volume root, heat, pressure, what to end at, base component, whether activities
#: and volumes count, whether the film inside follows from the flow, what the mixture fills.
KIND, ROOT, WAY, LOSS, GOAL, BASE, ACTIVITIES, VOLUMES, FILM, FILLS, KINDS = range(11)
#: Places in ``given``: inlet (K, Pa, W) and outlet (Pa), section (m2), bore (m), wall (W/(m3 K)), coolant (K), duty (W), particles (m), voidage,
#: roughness (m), catalyst (kg/m3), heat in all (W), what to end at.
T_IN, P_IN, H_IN, P_OUT, SECTION, BORE, WALL, T_COOLANT, DUTY, PARTICLE, VOIDAGE, ROUGHNESS, DENSITY, ALL_HEAT, WANTED = range(15)
#: The stream outside (mol/s, J/mol, and the range of J/mol in which it is known), tolerances, the least pressure (Pa), temperatures looked for (K),
#: the resistance of all but the film inside (m2 K/W of the inner area), what flows along and is no component (mol/s),
#: the first step of a stirred tank in residence times (0: a small one).
OUT_FLOW, OUT_H, OUT_LOW, OUT_HIGH, REL, ABS, LEAST_P, COLDEST, HOTTEST, RESISTANCE, UNNAMED, FIRST, GIVEN = range(15, 28)
#: Why an integration has no result.
NO_TEMPERATURE, NO_RATE, NO_VOLUME, NO_STEP = 1, 2, 3, 4
#: Steps at most, and the least of them as a share of the whole.
MOST_STEPS, SMALLEST = 20000, 1e-15
#: How a step may change, and where the error leads to.
_SHRINK, _GROW, _SAFE = 0.15, 6.0, 0.9
#: h times the size of an eigenvalue from where on the explicit method is near the edge of its stability; how many such steps make equations stiff.
_EDGE, _STIFF = 5.0, 8
#: The error that RODAS tells is of order 3, and larger than what it makes by far more than this.
_LENIENT = 10.0
#: Share of an unknown by which its slopes are differenced.
_MOVED = 1e-7

#: What all functions here share: kinds, given, feed, seven tables and the stack of the laws, the property model, pieces of temperatures and of the
#: stream outside, viscosities, conductivities; room (8 + components, components), last temperature with room, and what is told.
_TABLE = "float64[:, ::1], "
BOUND = (
    "Tuple((int64[::1], float64[::1], float64[::1], " + 7 * _TABLE + "float64[::1], " + _TABLE + "float64[:, :, ::1], " + _TABLE
    + "float64[:, :, ::1], " + 5 * _TABLE + "float64[::1], float64[::1]))"
)  # fmt: skip

GAMMA = 0.25
A21 = 1.544
A31, A32 = 0.9466785280815826, 0.2557011698983284
A41, A42, A43 = 3.314825187068521, 2.896124015972201, 0.9986419139977817
A51, A52, A53, A54 = 1.221224509226641, 6.019134481288629, 12.53708332932087, -0.6878860361058950
C21 = -5.6688
C31, C32 = -2.430093356833875, -0.2063599157091915
C41, C42, C43 = -0.1073529058151375, -9.594562251023355, -20.47028614809616
C51, C52, C53, C54 = 7.496443313967647, -10.24680431464352, -33.99990352819905, 11.70890893206160
C61, C62, C63, C64, C65 = 8.083246795921522, -7.981132988064893, -31.52159432874371, 16.31930543123136, -6.058818238834054
D1, D2, D3, D4 = 0.25, -0.1043, 0.1035, -0.03620000000000023
AT2, AT3, AT4 = 0.386, 0.21, 0.63
EXPLICIT, WEIGHTS, NODES = (np.ascontiguousarray(part, dtype=np.float64) for part in (DOP853.A, DOP853.B, DOP853.C))
ERROR_3, ERROR_5 = (np.ascontiguousarray(part, dtype=np.float64) for part in (DOP853.E3, DOP853.E5))
STAGES = len(WEIGHTS)


@inner
def _outside(heat, kinds, given, outside):
    """K outside the wall where so much heat came in from the inlet on."""
    if kinds[WAY] == COOLANT:
        return given[T_COOLANT]
    gained = -heat if kinds[WAY] == CO_CURRENT else heat - given[ALL_HEAT]
    return cubic_at(outside, given[OUT_H] + gained / given[OUT_FLOW])


@linked(
    "float64(int64[::1], float64, float64, float64, float64[::1], float64[:, ::1], float64[:, :, ::1], float64[:, ::1], float64[:, :, ::1],"
    "float64[:, ::1], float64[:, ::1], float64[::1], float64[::1])"
)
def _filled(kinds, flow, t, p, x, par, pairs, shifts, ctx, vectors, dn, props, phase):
    """The pressure (Pa) of a mixture whose volume the property model has no say in: so many moles in 1 m3, or an ideal gas; its phase is told."""
    if kinds[ROOT] == VAPOUR:
        for i in range(x.shape[0]):
            vectors[0, i] = 0.0
        p = flow * R * t if kinds[FILLS] == ONE_VOLUME else p
    else:
        one_phase(kinds[KIND], kinds[ROOT], t, p, x, par, pairs, shifts, ctx, vectors, dn, props, phase)
    phase[3] = R * t / p if kinds[FILLS] == IDEAL_FLOW else 1.0 / flow
    return p


@linked(f"int64(float64, float64, float64[::1], {BOUND}, float64[::1])")
def tube_slope(volume, total, y, bound, out):
    """d/dV of the unknowns into ``out``. Returns why there are none; the temperature and details of that are told."""
    (
        kinds, given, feed, numbers, terms, orders, adsorbed, adsorbed_orders, steps, written, stack, par, pairs, shifts, ctx, typed, outside, table,
        conducting, room, guess, told,
    ) = bound  # fmt: skip
    vectors, dn, props, phase = room[5:8], room[8:], np.empty(5), np.empty(5)
    n, r = feed.shape[0], numbers.shape[0]
    x, gamma, spare = room[0], room[1], room[2:5]
    flow = given[UNNAMED]
    for i in range(n):
        left = feed[i]
        for j in range(r):
            left += y[j] * numbers[j, i]
        x[i] = max(left, 0.0)
        flow += x[i]
    if not (flow > 0.0 and math.isfinite(flow)):
        return NO_TEMPERATURE
    for i in range(n):
        x[i] /= flow
    share = min(volume / total, 1.0) if total > 0.0 else 1.0
    way, loss = kinds[WAY], kinds[LOSS]
    p = given[P_IN] + (given[P_OUT] - given[P_IN]) * share if loss == AS_GIVEN else max(y[r + 1], given[LEAST_P])
    if kinds[FILLS] != BY_MODEL:
        t = given[T_IN]
        p = _filled(kinds, flow, t, p, x, par, pairs, shifts, ctx, vectors, dn, props, phase)
    elif way in (ISOTHERMAL, TYPED):
        t = given[T_IN] if way == ISOTHERMAL else cubic_at(typed, share)
        one_phase(kinds[KIND], kinds[ROOT], t, p, x, par, pairs, shifts, ctx, vectors, dn, props, phase)
    else:
        h = (given[H_IN] + y[r]) / flow
        t = phase_at_enthalpy(
            kinds[KIND], kinds[ROOT], h, p, x, guess[0], given[COLDEST], given[HOTTEST], par, pairs, shifts, ctx, vectors, dn, props, phase
        )
        if not t > 0.0:
            return NO_TEMPERATURE
        guess[0] = t
    told[0] = t
    v = phase[3]
    if not v > 0.0 and (kinds[VOLUMES] != 0 or loss != AS_GIVEN or kinds[FILM] != 0):
        return NO_VOLUME
    log_phi = guess[1 : 1 + n]
    for i in range(n):
        log_phi[i] = vectors[0, i]
    if kinds[ACTIVITIES] != 0:
        pure = room[4]
        for i in range(n):
            pure[:] = 0.0
            pure[i] = 1.0
            one_phase(kinds[KIND], LIQUID, t, p, pure, par, pairs, shifts, ctx, vectors, dn, props, phase)
            gamma[i] = math.exp(log_phi[i] - vectors[0, i])
    law, why = reaction_rates(
        t, p, v, x, log_phi, gamma, par, numbers, terms, orders, adsorbed, adsorbed_orders, steps, written, stack, guess[1 + n : 1 + n + r], out[:r]
    )
    if why != FOUND:
        told[1], told[2] = law, why
        return NO_RATE
    for j in range(r):
        out[j] *= given[DENSITY]
    out[r] = 0.0
    if way == EVENLY:
        out[r] = given[DUTY] / total
    flux = density = mu = mass = 0.0
    if loss != AS_GIVEN or kinds[FILM] != 0:
        for i in range(n):
            mass += x[i] * par[MW, i]
        flux, density = flow * mass / given[SECTION], mass / v
        mu = viscosity(kinds[ROOT] == VAPOUR, t, x, par[MW], table, spare)
    if way >= COOLANT:
        driving = _outside(y[r], kinds, given, outside) - t
        out[r] = given[WALL] * driving
        if kinds[FILM] != 0:
            k = conductivity(kinds[ROOT] == VAPOUR, t, x, par[MW], conducting, table, spare)
            inside = film(loss == BED, flux, mu, phase[2] / mass, k, given[BORE], given[PARTICLE], driving > 0.0)
            out[r] = 4.0 / given[BORE] / (1.0 / inside + given[RESISTANCE]) * driving
    if loss != AS_GIVEN:
        if loss == BED:
            out[r + 1] = -bed_gradient(flux, density, mu, given[PARTICLE], given[VOIDAGE]) / given[SECTION]
        else:
            out[r + 1] = -friction_gradient(flux, density, mu, given[BORE], given[ROUGHNESS]) / given[SECTION]
    for k in range(out.shape[0]):
        if not math.isfinite(out[k]):
            return NO_TEMPERATURE
    return 0


@inner
def _remaining(y, kinds, given, feed, numbers, T):
    """What comes to nothing where the integration is to end."""
    r = numbers.shape[0]
    if kinds[GOAL] == CONVERTED:
        left = feed[kinds[BASE]]
        for j in range(r):
            left += y[j] * numbers[j, kinds[BASE]]
        return 1.0 - max(left, 0.0) / feed[kinds[BASE]] - given[WANTED]
    return T - given[WANTED]


@inner
def _least_left(y, j, moved, feed, numbers):
    """mol/s of what there is least of where extent j is moved."""
    least = math.inf
    for i in range(feed.shape[0]):
        if numbers[j, i] != 0.0:
            left = feed[i] + moved * numbers[j, i]
            for k in range(numbers.shape[0]):
                left += y[k] * numbers[k, i]
            least = min(least, left)
    return least


@linked(f"int64(float64, float64, float64[::1], float64[::1], float64[::1], {BOUND}, float64[:, ::1], float64[::1], float64[:, ::1])")
def slopes_of_slopes(volume, total, y, slope, size, bound, jac, along, room):
    """Slopes of the slopes by differences, over the unknowns and over the volume. Extents move to where less is lacking."""
    kinds, given, feed, numbers, guess = bound[0], bound[1], bound[2], bound[3], bound[20]
    trial, moved = room[0], room[1]
    m, r = y.shape[0], numbers.shape[0]
    at = guess[0]
    for j in range(m):
        step = _MOVED * max(abs(y[j]), size[j])
        if j < r and _least_left(y, j, -step, feed, numbers) > _least_left(y, j, step, feed, numbers):
            step = -step
        for k in range(m):
            trial[k] = y[k]
        trial[j] += step
        status = tube_slope(volume, total, trial, bound, moved)
        if status != 0:
            return status
        for k in range(m):
            jac[k, j] = (moved[k] - slope[k]) / step
        guess[0] = at
    for k in range(m):
        along[k] = 0.0
    if kinds[WAY] == TYPED or (kinds[LOSS] == AS_GIVEN and given[P_OUT] != given[P_IN]):
        step = _MOVED * total if volume < 0.5 * total else -_MOVED * total
        status = tube_slope(volume + step, total, y, bound, moved)
        if status != 0:
            return status
        for k in range(m):
            along[k] = (moved[k] - slope[k]) / step
        guess[0] = at
    return 0


@inner
def _solved(e, spare, rhs):
    """``rhs`` becomes the solution of ``e``, which stays as it is; False when singular."""
    for j in range(rhs.shape[0]):
        for k in range(rhs.shape[0]):
            spare[j, k] = e[j, k]
    return solve_in_place(spare, rhs, rhs.shape[0])


@linked(
    f"int64(float64, float64, float64, float64[::1], float64[::1], float64[:, ::1], float64[::1], {BOUND}, float64[:, ::1], float64[:, ::1],"
    "float64[:, ::1], float64[:, ::1], float64[::1], float64[::1])"
)
def _implicit_step(volume, total, h, y, slope, jac, along, bound, room, stages, e, spare, new, error):
    """One step of RODAS into ``new``, with what it is taken to miss in ``error``. Returns why there is none."""
    trial, dy = room[0], room[1]
    m = y.shape[0]
    for j in range(m):
        for k in range(m):
            e[j, k] = -jac[j, k]
        e[j, j] += 1.0 / (h * GAMMA)
    k1, k2, k3, k4, k5, k6 = stages[0], stages[1], stages[2], stages[3], stages[4], stages[5]
    for j in range(m):
        k1[j] = slope[j] + h * D1 * along[j]
    if not _solved(e, spare, k1):
        return NO_STEP
    for j in range(m):
        trial[j] = y[j] + A21 * k1[j]
    status = tube_slope(volume + AT2 * h, total, trial, bound, dy)
    if status != 0:
        return status
    for j in range(m):
        k2[j] = dy[j] + h * D2 * along[j] + C21 * k1[j] / h
    if not _solved(e, spare, k2):
        return NO_STEP
    for j in range(m):
        trial[j] = y[j] + A31 * k1[j] + A32 * k2[j]
    status = tube_slope(volume + AT3 * h, total, trial, bound, dy)
    if status != 0:
        return status
    for j in range(m):
        k3[j] = dy[j] + h * D3 * along[j] + (C31 * k1[j] + C32 * k2[j]) / h
    if not _solved(e, spare, k3):
        return NO_STEP
    for j in range(m):
        trial[j] = y[j] + A41 * k1[j] + A42 * k2[j] + A43 * k3[j]
    status = tube_slope(volume + AT4 * h, total, trial, bound, dy)
    if status != 0:
        return status
    for j in range(m):
        k4[j] = dy[j] + h * D4 * along[j] + (C41 * k1[j] + C42 * k2[j] + C43 * k3[j]) / h
    if not _solved(e, spare, k4):
        return NO_STEP
    for j in range(m):
        trial[j] = y[j] + A51 * k1[j] + A52 * k2[j] + A53 * k3[j] + A54 * k4[j]
    status = tube_slope(volume + h, total, trial, bound, dy)
    if status != 0:
        return status
    for j in range(m):
        k5[j] = dy[j] + (C51 * k1[j] + C52 * k2[j] + C53 * k3[j] + C54 * k4[j]) / h
    if not _solved(e, spare, k5):
        return NO_STEP
    for j in range(m):
        trial[j] += k5[j]
    status = tube_slope(volume + h, total, trial, bound, dy)
    if status != 0:
        return status
    for j in range(m):
        k6[j] = dy[j] + (C61 * k1[j] + C62 * k2[j] + C63 * k3[j] + C64 * k4[j] + C65 * k5[j]) / h
    if not _solved(e, spare, k6):
        return NO_STEP
    for j in range(m):
        new[j] = trial[j] + k6[j]
        error[j] = k6[j]
    return 0


@linked(
    f"Tuple((int64, float64))(float64, float64, float64, float64[::1], float64[::1], {BOUND}, float64[:, ::1], float64[::1], float64[::1],"
    "float64[::1], float64[::1])"
)
def _explicit_step(volume, total, h, y, slope, bound, stages, trial, new, error, worse):
    """One step of order 8 into ``new``, with its estimates of order 5 and 3; why there is none, and h times the size of an eigenvalue."""
    m = y.shape[0]
    for j in range(m):
        stages[0, j] = slope[j]
    for k in range(1, STAGES):
        for j in range(m):
            moved = 0.0
            for b in range(k):
                moved += EXPLICIT[k, b] * stages[b, j]
            trial[j] = y[j] + h * moved
        status = tube_slope(volume + NODES[k] * h, total, trial, bound, stages[k])
        if status != 0:
            return status, 0.0
    apart = between = 0.0
    for j in range(m):
        moved = error[j] = worse[j] = 0.0
        for b in range(STAGES):
            moved += WEIGHTS[b] * stages[b, j]
            error[j] += h * ERROR_5[b] * stages[b, j]
            worse[j] += h * ERROR_3[b] * stages[b, j]
        new[j] = y[j] + h * moved
    status = tube_slope(volume + h, total, new, bound, stages[STAGES])
    if status != 0:
        return status, 0.0
    for j in range(m):
        error[j] += h * ERROR_5[STAGES] * stages[STAGES, j]
        worse[j] += h * ERROR_3[STAGES] * stages[STAGES, j]
        # The last stage and the end are two points at the same place.
        apart += (stages[STAGES, j] - stages[STAGES - 1, j]) ** 2
        between += (new[j] - trial[j]) ** 2
    return 0, h * math.sqrt(apart / between) if between > 0.0 else 0.0


@inner
def _missed(y, new, error, given, least, lenient):
    """The error as a multiple of what is allowed."""
    total = 0.0
    for j in range(y.shape[0]):
        allowed = lenient * (least[j] + given[REL] * max(abs(y[j]), abs(new[j])))
        total += (error[j] / allowed) ** 2
    return math.sqrt(total / y.shape[0]) if math.isfinite(total) else math.inf


@linked(
    f"Tuple((int64, float64, float64))(float64, float64, float64, float64[::1], float64[::1], boolean, float64[:, ::1], float64[::1], {BOUND},"
    "float64[:, ::1], float64[:, ::1], float64[:, ::1], float64[:, ::1], float64[::1], float64[::1], float64[::1], float64[::1])"
)
def _take(volume, total, h, y, slope, stiff, jac, along, bound, room, stages, e, spare, new, error, worse, least):
    """A step by one method or the other: why there is none, the error as a multiple of what is allowed, h times the size of an eigenvalue."""
    given = bound[1]
    if stiff:
        status = _implicit_step(volume, total, h, y, slope, jac, along, bound, room, stages, e, spare, new, error)
        return status, _missed(y, new, error, given, least, _LENIENT) if status == 0 else math.inf, 0.0
    status, edge = _explicit_step(volume, total, h, y, slope, bound, stages, room[0], new, error, worse)
    if status != 0:
        return status, math.inf, 0.0
    fifth, third = _missed(y, new, error, given, least, 1.0), _missed(y, new, worse, given, least, 1.0)
    if not math.isfinite(fifth + third):
        return 0, math.inf, edge
    both = fifth * fifth + 0.01 * third * third
    return 0, fifth * fifth / math.sqrt(both) if both > 0.0 else 0.0, edge


@inner
def _passed(y, T, before, kinds, given, feed, numbers, outside):
    """What an integration has come to that ends it; ``before``: what remained at its start."""
    r = numbers.shape[0]
    if kinds[WAY] == COUNTER_CURRENT:
        h = given[OUT_H] + (y[r] - given[ALL_HEAT]) / given[OUT_FLOW]
        if h < given[OUT_LOW] or h > given[OUT_HIGH]:
            return ASTRAY
    if kinds[LOSS] != AS_GIVEN and y[r + 1] <= given[LEAST_P]:
        return USED_UP
    if kinds[GOAL] != END and _remaining(y, kinds, given, feed, numbers, T) * before <= 0.0:
        return kinds[GOAL]
    return END


@kernel(
    "int64(float64, float64, float64[::1], float64[:, ::1], int64[::1], float64[::1], float64[::1], float64[:, ::1], float64[:, ::1],"
    "float64[:, ::1], float64[:, ::1], float64[:, ::1], float64[:, ::1], float64[:, ::1], float64[::1], float64[:, ::1], float64[:, :, ::1],"
    "float64[:, ::1], float64[:, :, ::1], float64[:, ::1], float64[:, ::1], float64[:, ::1], float64[:, ::1], float64[::1], float64[::1])"
)
def integrate_tube(
    end, total, places, rows, kinds, given, feed, numbers, terms, orders, adsorbed, adsorbed_orders, steps, written, stack, par, pairs, shifts,
    ctx, typed, outside, table, conducting, y, told,
):  # fmt: skip
    """From ``y`` at the inlet, which becomes the unknowns at the end, with those at ``places`` (m3) in ``rows``. Returns why there is none.

    ``told``: temperature (K), law without a value and why, volume (m3) at the end, what it ended at, steps.
    """
    n, m = feed.shape[0], y.shape[0]
    parts, guess = np.empty((8 + n, n)), np.empty(1 + n + numbers.shape[0])
    guess[0] = given[T_IN]
    bound = (
        kinds, given, feed, numbers, terms, orders, adsorbed, adsorbed_orders, steps, written, stack, par, pairs, shifts, ctx, typed, outside, table,
        conducting, parts, guess, told,
    )  # fmt: skip
    jac, e, spare, along, stages = np.empty((m, m)), np.empty((m, m)), np.empty((m, m)), np.empty(m), np.empty((STAGES + 1, m))
    slope, new, error, worse, least, size = np.empty(m), np.empty(m), np.empty(m), np.empty(m), np.empty(m), np.empty(m)
    room = np.empty((2, m))
    flow = 0.0
    for i in range(n):
        flow += feed[i]
    for j in range(m):
        level = flow if j < numbers.shape[0] else flow * 8.314 * given[T_IN] if j == numbers.shape[0] else given[P_IN]
        least[j], size[j] = given[ABS] * level, level
    volume, output, told[3], told[4], told[5] = 0.0, 0, 0.0, END, 0.0
    status = tube_slope(volume, total, y, bound, slope)
    if status != 0:
        return status
    before = _remaining(y, kinds, given, feed, numbers, told[0]) if kinds[GOAL] != END else 0.0
    pace = 0.0
    for j in range(m):
        pace = max(pace, abs(slope[j]) / (least[j] + given[REL] * abs(y[j])))
    h = min(end, 1e3 / pace) if pace > 0.0 else end
    while output < places.shape[0] and places[output] <= 0.0:
        for j in range(m):
            rows[output, j] = y[j]
        output += 1
    stiff, edgy = False, 0
    while volume < end:
        if stiff:
            status = slopes_of_slopes(volume, total, y, slope, size, bound, jac, along, room)
            if status != 0:
                return status
        trouble, at = 0, guess[0]
        while True:
            told[5] += 1.0
            left = (places[output] if output < places.shape[0] else end) - volume
            # Neither past what is to be told nor a hair short of it.
            taken = left if h >= left * (1.0 - 1e-10) else min(h, 0.5 * left)
            status, missed, edge = _take(volume, total, taken, y, slope, stiff, jac, along, bound, room, stages, e, spare, new, error, worse, least)
            power = -0.25 if stiff else -0.125
            if status == 0 and missed <= 1.0:
                break
            guess[0] = at
            trouble = status if status != 0 else trouble
            h = taken * (max(_SHRINK, _SAFE * missed**power) if math.isfinite(missed) else _SHRINK)
            if told[5] > MOST_STEPS or not h > SMALLEST * end:
                told[3] = volume
                return trouble if trouble != 0 else NO_STEP
        grown = taken * min(_GROW, _SAFE * max(missed, 1e-9) ** power)
        h = max(h, grown) if taken < h else grown
        status = tube_slope(volume + taken, total, new, bound, error)
        if status != 0:
            return status
        came = _passed(new, told[0], before, kinds, given, feed, numbers, outside)
        if came == kinds[GOAL] and came != END:
            low, high, side = 0.0, taken, 0
            f_low, f_high = _remaining(y, kinds, given, feed, numbers, at), _remaining(new, kinds, given, feed, numbers, told[0])
            for _ in range(60):
                if f_high == 0.0 or high - low <= 1e-14 * (volume + high):
                    break
                middle = high - f_high * (high - low) / (f_high - f_low)
                middle = min(max(middle, low + 1e-3 * (high - low)), high - 1e-3 * (high - low))
                guess[0] = at
                status, missed, edge = _take(
                    volume, total, middle, y, slope, stiff, jac, along, bound, room, stages, e, spare, new, error, worse, least
                )
                if status == 0:
                    status = tube_slope(volume + middle, total, new, bound, error)
                if status != 0:
                    return status
                taken, f_middle = middle, _remaining(new, kinds, given, feed, numbers, told[0])
                if abs(f_middle) <= 1e-14 * max(abs(given[WANTED]), 1e-3):
                    break
                if f_middle * before > 0.0:
                    low, f_low = middle, f_middle
                    f_high *= 0.5 if side < 0 else 1.0
                    side = -1
                else:
                    high, f_high = middle, f_middle
                    f_low *= 0.5 if side > 0 else 1.0
                    side = 1
        volume += taken
        for j in range(m):
            y[j], slope[j] = new[j], error[j]
        while output < places.shape[0] and volume >= places[output] * (1.0 - 1e-14):
            for j in range(m):
                rows[output, j] = y[j]
            output += 1
        told[3] = volume
        if came != END:
            told[4] = came
            return 0
        edgy = edgy + 1 if edge > _EDGE else 0
        stiff = stiff or edgy >= _STIFF
        if told[5] > MOST_STEPS:
            return NO_STEP
    return 0
