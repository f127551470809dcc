"""A liquid that may part in two, seen as one: its fugacities, heat and their derivatives, for what is solved in amounts of the whole liquid."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import lru_cache
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from wattaxis.properties.layout import OK_TWO_LIQUIDS
from wattaxis.properties.rows import Array, PhaseRows, phase_rows
from wattaxis.properties.settling import settling_densities

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel
    from wattaxis.properties.state import Vector

#: Pa at which no liquid boils: of models of activity coefficients, whose two liquids do not depend on pressure. Of equations of state: how many times
#: its own pressure, and Pa more.
_PRESSED, _ABOVE, _DENSE = 1e9, 3.0, 1e6
#: K at which components are looked at, and ln of an activity coefficient at infinite dilution from which on two liquids are looked for: two that are
#: alike in size and shape part from 2 on.
_LOOKED_AT, _DISLIKED = (200.0, 250.0, 300.0, 350.0, 400.0, 450.0, 500.0), 1.5
#: Share of its critical temperature below which a component is a liquid at so many Pa, not much lighter than others.
_WELL_BELOW, _SQUEEZED = 0.9, 1e7
#: Corrections of a split, the difference of ln fugacity at which it is exact, and up to which there are two liquids at all; mole fraction by which
#: those differ at least.
_CORRECTED, _EXACT, _MET, _APART = 8, 1e-13, 1e-9, 1e-5
#: Share of a component in either liquid at least, to begin with and at all: what is less is lost in the difference.
_LEAST, _FEWEST = 1e-12, 1e-15
#: Mole fractions that are at least there.
_GONE = 1e-100


@dataclass(frozen=True)
class PartedRows:
    """Liquids in rows: ``whole`` as if each were one phase, ``parts`` (rows,) whether there are two, and the lighter of them.

    ``light`` (rows, components) mol of it per mole of liquid, with its slopes by the amounts of the whole ``light_by_amounts`` (rows, components,
    components) and by temperature ``light_by_temperature`` (rows, components, 1/K); ``light_phase`` and ``heavy_phase`` its and the other's own
    properties. Of a row with one liquid the light one is all of it.
    """

    whole: PhaseRows
    parts: NDArray[np.bool_]
    light: Array
    light_by_amounts: Array
    light_by_temperature: Array
    light_phase: PhaseRows
    heavy_phase: PhaseRows


@lru_cache(maxsize=64)
def may_part(model: PropertyModel) -> bool:
    """Whether liquids of a model may part: it has activity coefficients, or by its equation of state two components would rather be apart.

    >>> from wattaxis import PropertyModel
    >>> may_part(PropertyModel("ideal", ["water", "benzene"])), may_part(PropertyModel("unifac", ["water", "benzene"]))
    (False, True)
    >>> may_part(PropertyModel("peng-robinson", ["propane", "benzene"])), may_part(PropertyModel("peng-robinson", ["water", "benzene"]))
    (False, True)
    """
    if model.equation_of_state:
        return len(model.components) > 1 and any(_apart(model, T) > _DISLIKED for T in _LOOKED_AT)
    return model.vapour_may_change


def _apart(model: PropertyModel, T: float) -> float:
    """The largest ln of an activity coefficient at infinite dilution (K) among the components that are liquids at ``T``."""
    on = np.array([i for i, c in enumerate(model.components) if _WELL_BELOW * c.critical_temperature > T])
    n = len(model.components)
    if len(on) < 2:
        return 0.0
    nearly = np.full((len(on), n), _GONE)
    nearly[np.arange(len(on)), on] = 1.0
    dissolved = phase_rows(model, "liquid", np.full(len(on), T), np.full(len(on), _SQUEEZED), nearly, by_pressure=False).log_phi[:, on]
    return float((dissolved - np.diag(dissolved)).max())


def parting(model: PropertyModel, T: Vector, P: Vector, x: Array) -> NDArray[np.bool_]:
    """Whether each of the liquids ``x`` (rows, components) at ``T`` (rows,) K and ``P`` (rows,) Pa would part in two, shape (rows,)."""
    status = model.flash_many(np.maximum(x, _GONE), T, _pressed(model, P))[0]
    return np.asarray(status == OK_TWO_LIQUIDS)


def _pressed(model: PropertyModel, P: Vector) -> Vector:
    """Pressures (rows,) at which liquids do not boil: of equations of state, whose liquids depend on it, not far above."""
    return _ABOVE * P + _DENSE if model.equation_of_state else np.full(len(P), _PRESSED)


def parted_rows(model: PropertyModel, T: Vector, P: Vector, fractions: Array) -> PartedRows:
    """Liquids at ``T`` (rows,) K, ``P`` (rows,) Pa and ``fractions`` (rows, components), each in one phase or in two that are in equilibrium.

    The derivatives follow from equal fugacities in both liquids. The whole has no entropy here (nan).

    >>> from wattaxis import PropertyModel
    >>> model = PropertyModel("unifac", ["water", "benzene"])
    >>> found = parted_rows(model, np.array([300.0]), np.array([1e5]), np.array([[0.5, 0.5]]))
    >>> bool(found.parts[0]), bool(found.light[0, 1] > 0.49)
    (True, True)
    """
    z = np.maximum(fractions, _GONE)
    one = phase_rows(model, "liquid", T, P, z, by_pressure=False)
    n, C = z.shape
    light, by_amounts, by_T = z.copy(), np.tile(np.eye(C), (n, 1, 1)), np.zeros((n, C))
    status, share, x, y = model.flash_many(z, T, _pressed(model, P))
    on = np.flatnonzero((status == OK_TWO_LIQUIDS) & (np.abs(x - y).max(axis=1) > _APART))
    parts = np.zeros(n, dtype=bool)
    if len(on) == 0:
        return PartedRows(one, parts, light, by_amounts, by_T, one, one)
    # A trace that is missing from one liquid would have no fugacity there.
    amounts = np.clip(share[on, None] * y[on], _LEAST * z[on], (1.0 - _LEAST) * z[on])
    a, first, second, two = _exact(model, T[on], P[on], z[on], amounts)
    if not two.all():
        on, a, first, second = on[two], a[two], _taken(first, two), _taken(second, two)
    if len(on) == 0:
        return PartedRows(one, parts, light, by_amounts, by_T, one, one)
    densities = [
        settling_densities(model, T[on], part / part.sum(axis=1)[:, None], phase.molar_volume) for part, phase in ((a, first), (z[on] - a, second))
    ]
    flip = densities[0] > densities[1]
    a = np.where(flip[:, None], z[on] - a, a)
    first, second = _chosen(flip, second, first), _chosen(flip, first, second)
    G_a, G_b = _slopes(first, a), _slopes(second, z[on] - a)
    both = _inverse(G_a + G_b, z[on])
    by_whole, warmer = both @ G_b, np.einsum("rij,rj->ri", both, second.log_phi_by_temperature - first.log_phi_by_temperature)
    slope = G_a @ by_whole
    levels = np.log(a / a.sum(axis=1)[:, None]) + first.log_phi - np.log(z[on])
    A, B = a.sum(axis=1), (z[on] - a).sum(axis=1)
    eye = np.eye(C)
    partial = np.einsum("ri,rij->rj", first.partial_enthalpies, by_whole) + np.einsum("ri,rij->rj", second.partial_enthalpies, eye - by_whole)
    merged = PhaseRows(
        log_phi=levels,
        log_phi_by_temperature=first.log_phi_by_temperature + np.einsum("rij,rj->ri", G_a, warmer),
        log_phi_by_pressure=one.log_phi_by_pressure[on],
        log_phi_by_amounts=slope - (eye / z[on][:, :, None] - 1.0),
        enthalpy=A * first.enthalpy + B * second.enthalpy,
        heat_capacity=A * first.heat_capacity
        + B * second.heat_capacity
        + ((first.partial_enthalpies - second.partial_enthalpies) * warmer).sum(axis=1),
        enthalpy_by_pressure=np.full(len(on), np.nan),
        partial_enthalpies=partial,
        entropy=np.full(len(on), np.nan),
        molar_volume=A * first.molar_volume + B * second.molar_volume,
    )
    parts[on], light[on], by_amounts[on], by_T[on] = True, a, by_whole, warmer
    return PartedRows(_placed(one, merged, on), parts, light, by_amounts, by_T, _placed(one, first, on), _placed(one, second, on))


def _exact(model: PropertyModel, T: Vector, P: Vector, z: Array, a: Array) -> tuple[Array, PhaseRows, PhaseRows, NDArray[np.bool_]]:
    """The amounts of the first liquid with equal fugacities in both, by Newton's method from where they are nearly so; and whether they are two.

    Two liquids somewhat above their pressure may be one at it: then one of them goes, or they become alike.
    """
    for _ in range(_CORRECTED):
        b = z - a
        x, y = a / a.sum(axis=1)[:, None], b / b.sum(axis=1)[:, None]
        first, second = (phase_rows(model, "liquid", T, P, part, by_pressure=False) for part in (x, y))
        gap = np.log(y) + second.log_phi - np.log(x) - first.log_phi
        if np.abs(gap).max() < _EXACT:
            break
        change = (_inverse(_slopes(first, a) + _slopes(second, b), z) @ gap[:, :, None])[:, :, 0]
        a = np.clip(np.clip(a + change, 0.1 * a, a + 0.9 * b), _FEWEST * z, (1.0 - _FEWEST) * z)
    left = (np.abs(gap) * np.minimum(x, y)).max(axis=1)  # traces in one liquid are lost in the difference
    return a, first, second, (left < _MET) & (np.abs(x - y).max(axis=1) > _APART)


def _slopes(phase: PhaseRows, amounts: Array) -> Array:
    """d ln(x_i phi_i) / d n_j of a phase of so many moles of each component."""
    total = amounts.sum(axis=1)
    x = amounts / total[:, None]
    return np.asarray((np.eye(x.shape[1]) / x[:, :, None] - 1.0 + phase.log_phi_by_amounts) / total[:, None, None])


def _inverse(slopes: Array, z: Array) -> Array:
    """Inverses of slopes by amounts; each row and column counts by the root of what there is, so that traces spoil nothing."""
    root = np.sqrt(z)
    scale = root[:, :, None] * root[:, None, :]
    return np.asarray(scale * np.linalg.inv(slopes * scale))


def _chosen(which: NDArray[np.bool_], there: PhaseRows, else_: PhaseRows) -> PhaseRows:
    """Of every row the one or the other."""
    return replace(
        there, **{name: np.where(which.reshape(-1, *[1] * (value.ndim - 1)), value, getattr(else_, name)) for name, value in vars(there).items()}
    )


def _taken(phase: PhaseRows, which: NDArray[np.bool_]) -> PhaseRows:
    return replace(phase, **{name: value[which] for name, value in vars(phase).items()})


def _placed(into: PhaseRows, rows: PhaseRows, on: NDArray[np.int64]) -> PhaseRows:
    """With some rows in the place of those that are there."""
    found = {}
    for name, value in vars(into).items():
        found[name] = value.copy()
        found[name][on] = getattr(rows, name)
    return replace(into, **found)
