"""Friction of one phase in pipes and beds, and the viscosity that it needs. Sources stand at what Python calls: :mod:`wattaxis.equipment` and
:mod:`wattaxis.properties.transport`."""

from __future__ import annotations

import math

from wattaxis.properties.kernels import inner, kernel

#: Reynolds numbers up to which flow is laminar, and from which on it is turbulent.
LAMINAR, TURBULENT = 2000.0, 4000.0


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
