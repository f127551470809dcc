"""Friction of one phase in pipes and beds, and the viscosity that it needs. Sources stand at what Python calls: :mod:`wattaxis.equipment` and
:mod:`wattaxis.properties.transport`."""

from __future__ import annotations

import math

from wattaxis.properties.kernels import inner, kernel

#: Reynolds numbers up to which flow is laminar, and from which on it is turbulent.
LAMINAR, TURBULENT = 2000.0, 4000.0
#: Where heat begins to pass faster than in laminar flow, and Nusselt's number up to there, far from the inlet and at a wall of one temperature.
LAMINAR_HEAT, LAMINAR_NUSSELT = 2300.0, 3.66


@inner
def _colebrook(reynolds, rough):
    a, b = rough / 3.7, 2.51 / reynolds
    x = -1.8 * math.log10(a**1.11 + 6.9 / reynolds)
    for _ in range(8):
        inside = a + b * x
        step = (x + 2.0 * math.log10(inside)) / (1.0 + 2.0 * b / (inside * math.log(10.0)))
        x -= step
        if abs(step) < 1e-13 * x:
            break
    return 1.0 / (x * x)


@kernel("float64(float64, float64)")
def friction_factor(reynolds, relative_roughness):
    """Darcy's friction factor."""
    share = min(max((reynolds - LAMINAR) / (TURBULENT - LAMINAR), 0.0), 1.0)
    laminar = 64.0 / reynolds if share < 1.0 else 0.0
    return (1.0 - share) * laminar + (share * _colebrook(reynolds, relative_roughness) if share > 0.0 else 0.0)


@kernel("float64(float64, float64, float64, float64, float64)")
def friction_gradient(mass_flux, density, viscosity, diameter, roughness):
    """Pa/m in a pipe."""
    reynolds = max(mass_flux * diameter / viscosity, 1e-6)
    return friction_factor(reynolds, roughness / diameter) * mass_flux**2 / (2.0 * density * diameter)


@kernel("float64(float64, float64, float64, float64, float64)")
def bed_gradient(mass_flux, density, viscosity, particle, voidage):
    """Pa/m in a bed of particles."""
    solid = (1.0 - voidage) / voidage**3
    return mass_flux / (density * particle) * solid * (150.0 * (1.0 - voidage) * viscosity / particle + 1.75 * mass_flux)


@kernel("float64(float64[::1], float64[::1], float64[::1], float64[::1])")
def mixed_gas(x, viscosities, masses, values):
    """``values`` of pure gases weighted as Wilke does their viscosities."""
    found = 0.0
    for i in range(x.shape[0]):
        if x[i] <= 0.0:
            continue
        weight = 0.0
        for j in range(x.shape[0]):
            if x[j] > 0.0:
                ratio = masses[j] / masses[i]
                weight += x[j] * (1.0 + math.sqrt(viscosities[i] / viscosities[j]) * ratio**0.25) ** 2 / math.sqrt(8.0 * (1.0 + 1.0 / ratio))
        found += x[i] * values[i] / weight
    return found


@kernel("float64(float64, float64)")
def tube_nusselt(reynolds, prandtl):
    """h d/k inside an empty tube."""
    share = min(max((reynolds - LAMINAR_HEAT) / (TURBULENT - LAMINAR_HEAT), 0.0), 1.0)
    if share == 0.0:
        return LAMINAR_NUSSELT
    re = max(reynolds, TURBULENT)
    f = (0.790 * math.log(re) - 1.64) ** -2 / 8.0
    turbulent = f * (re - 1000.0) * prandtl / (1.0 + 12.7 * math.sqrt(f) * (prandtl ** (2.0 / 3.0) - 1.0))
    return (1.0 - share) * LAMINAR_NUSSELT + share * turbulent


@kernel("float64(float64, float64, boolean)")
def bed_nusselt(reynolds, ratio, heats):
    """h d/k inside a tube full of particles; ``reynolds`` of a particle, ``ratio`` of its diameter to the tube's."""
    if heats:
        return 0.813 * reynolds**0.9 * math.exp(-6.0 * ratio)
    return 3.50 * reynolds**0.7 * math.exp(-4.6 * ratio)


@kernel("float64(boolean, float64, float64, float64, float64, float64, float64, boolean)")
def film(bed, mass_flux, viscosity, cp, conductivity, bore, particle, heats):
    """W/(m2 K) between the fluid (kg/(m2 s), Pa s, J/(kg K), W/(m K)) and the wall of a tube, full of particles or empty."""
    if bed:
        return bed_nusselt(mass_flux * particle / viscosity, particle / bore, heats) * conductivity / bore
    return tube_nusselt(mass_flux * bore / viscosity, cp * viscosity / conductivity) * conductivity / bore


@inner
def cubic_at(pieces, x):
    """A piecewise cubic at x, straight on beyond its pieces; ``pieces``: start, end, coefficients of x - start, highest power first."""
    low, high = 0, pieces.shape[0] - 1
    while low < high:
        middle = (low + high + 1) // 2
        if pieces[middle, 0] <= x:
            low = middle
        else:
            high = middle - 1
    piece = pieces[low]
    inside = min(max(x, piece[0]), piece[1]) - piece[0]
    value = ((piece[2] * inside + piece[3]) * inside + piece[4]) * inside + piece[5]
    if x < piece[0] or x > piece[1]:
        value += ((3.0 * piece[2] * inside + 2.0 * piece[3]) * inside + piece[4]) * (x - piece[0] - inside)
    return value


@inner
def table_at(table, t, out):
    """Values of each component, the rows of ``table``, at t (K), by the cubic through four columns; the first two numbers of a row are ln T of its
    first column and its step. Beyond its ends they stay what they are there."""
    last = table.shape[1] - 3
    for i in range(table.shape[0]):
        place = min(max((math.log(t) - table[i, 0]) / table[i, 1], 0.0), float(last))
        k = min(max(int(place) - 1, 0), last - 3)
        s = place - k
        a = -(s - 1.0) * (s - 2.0) * (s - 3.0) / 6.0
        b = s * (s - 2.0) * (s - 3.0) / 2.0
        c = -s * (s - 1.0) * (s - 3.0) / 2.0
        d = s * (s - 1.0) * (s - 2.0) / 6.0
        out[i] = a * table[i, 2 + k] + b * table[i, 3 + k] + c * table[i, 4 + k] + d * table[i, 5 + k]


@inner
def conductivity(vapour, t, x, masses, table, others, room):
    """W/(m K) of a mixture from tables of ln of the pure substances' conductivities and, of a vapour, viscosities ``others``."""
    table_at(table, t, room[0])
    total = 0.0
    for i in range(x.shape[0]):
        room[0, i] = math.exp(room[0, i])
        room[1, i] = x[i] if x[i] > 1e-9 else 0.0
        total += room[1, i] if vapour else room[1, i] * masses[i]
    if vapour:
        for i in range(x.shape[0]):
            room[1, i] /= total
        table_at(others, t, room[2])
        for i in range(x.shape[0]):
            room[2, i] = math.exp(room[2, i])
        return mixed_gas(room[1], room[2], masses, room[0])
    level = 0.0
    for i in range(x.shape[0]):
        level += room[1, i] * masses[i] / total / room[0, i] ** 2
    return level**-0.5


@inner
def viscosity(vapour, t, x, masses, table, room):
    """Pa s of a mixture from a table of ln of those of the pure substances; ``room`` (2, components)."""
    table_at(table, t, room[0])
    for i in range(x.shape[0]):
        room[0, i] = math.exp(room[0, i])
        room[1, i] = x[i] if x[i] > 1e-9 else 0.0
    total = room[1].sum()
    for i in range(x.shape[0]):
        room[1, i] /= total
    if vapour:
        return mixed_gas(room[1], room[0], masses, room[0])
    level = 0.0
    for i in range(x.shape[0]):
        level += room[1, i] * math.log(room[0, i])
    return math.exp(level)
