"""A liquid that may part in two, seen as one: its fugacities, heat and their derivatives, for what is solved in amounts of the whole liquid."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from wattaxis.properties.layout import OK_TWO_LIQUIDS
from wattaxis.properties.rows import Array, PhaseRows, phase_rows

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel
    from wattaxis.properties.state import Vector

#: Pa at which no liquid boils: of models of activity coefficients, whose two liquids do not depend on pressure.
_PRESSED = 1e9
#: Corrections of a split, and the difference of ln fugacity at which it is exact; mole fraction by which two liquids differ at least.
_CORRECTED, _EXACT, _APART = 6, 1e-13, 1e-5
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


def may_part(model: PropertyModel) -> bool:
    """Whether liquids of a model can be seen as parting: it has activity coefficients.

    >>> from wattaxis import PropertyModel
    >>> may_part(PropertyModel("ideal", ["water", "benzene"])), may_part(PropertyModel("unifac", ["water", "benzene"]))
    (False, True)
    """
    return model.vapour_may_change


def parting(model: PropertyModel, T: Vector, x: Array) -> NDArray[np.bool_]:
    """Whether each of the liquids ``x`` (rows, components) at ``T`` (rows,) K would part in two, shape (rows,)."""
    status = model.flash_many(np.maximum(x, _GONE), T, np.full(len(T), _PRESSED))[0]
    return np.asarray(status == OK_TWO_LIQUIDS)


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
    status, share, x, y = model.flash_many(z, T, np.full(n, _PRESSED))
    on = np.flatnonzero((status == OK_TWO_LIQUIDS) & (np.abs(x - y).max(axis=1) > _APART))
    parts = np.zeros(n, dtype=bool)
    if len(on) == 0:
        return PartedRows(one, parts, light, by_amounts, by_T, one, one)
    # A trace that is missing from one liquid would have no fugacity there.
    amounts = np.clip(share[on, None] * y[on], _LEAST * z[on], (1.0 - _LEAST) * z[on])
    a, first, second = _exact(model, T[on], P[on], z[on], amounts)
    flip = _density(model, first, a) > _density(model, second, z[on] - a)
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


def _exact(model: PropertyModel, T: Vector, P: Vector, z: Array, a: Array) -> tuple[Array, PhaseRows, PhaseRows]:
    """The amounts of the first liquid with equal fugacities in both, by Newton's method from where they are nearly so."""
    for _ in range(_CORRECTED):
        b = z - a
        first, second = (phase_rows(model, "liquid", T, P, part / part.sum(axis=1)[:, None], by_pressure=False) for part in (a, b))
        gap = np.log(b / b.sum(axis=1)[:, None]) + second.log_phi - np.log(a / a.sum(axis=1)[:, None]) - first.log_phi
        if np.abs(gap).max() < _EXACT:
            break
        change = (_inverse(_slopes(first, a) + _slopes(second, b), z) @ gap[:, :, None])[:, :, 0]
        a = np.clip(np.clip(a + change, 0.1 * a, a + 0.9 * b), _FEWEST * z, (1.0 - _FEWEST) * z)
    return a, first, second


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


def _density(model: PropertyModel, phase: PhaseRows, amounts: Array) -> Vector:
    """kg/m3; by molar masses alone where the model gives no volume."""
    mass = (amounts @ model.molar_masses) / amounts.sum(axis=1)
    return np.asarray(mass / np.where(phase.molar_volume > 0.0, phase.molar_volume, 1.0))


def _chosen(which: NDArray[np.bool_], there: PhaseRows, else_: PhaseRows) -> PhaseRows:
    """Of every row the one or the other."""
    return replace(
        there, **{name: np.where(which.reshape(-1, *[1] * (value.ndim - 1)), value, getattr(else_, name)) for name, value in vars(there).items()}
    )


def _placed(into: PhaseRows, rows: PhaseRows, on: NDArray[np.int64]) -> PhaseRows:
    """With some rows in the place of those that are there."""
    found = {}
    for name, value in vars(into).items():
        found[name] = value.copy()
        found[name][on] = getattr(rows, name)
    return replace(into, **found)
