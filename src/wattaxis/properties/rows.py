"""Properties of one phase over many compositions in one call, with all first derivatives: what staged and distributed units are solved with."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from wattaxis.properties import layout
from wattaxis.properties.kernels import energy
from wattaxis.properties.kernels.volume_shift import volume_shift_rows
from wattaxis.properties.model import PropertyModel
from wattaxis.properties.state import Vector

Array = NDArray[np.float64]
#: Relative step of pressure over which enthalpies are differenced.
_STEP = 1e-4


@dataclass(frozen=True)
class PhaseRows:
    """A phase in every row: ln phi and enthalpy with their derivatives, and what goes with them.

    ``log_phi`` (rows, components), ``log_phi_by_temperature`` (1/K) and ``log_phi_by_pressure`` (1/Pa) of the same shape, ``log_phi_by_amounts``
    (rows, components, components): n d ln phi_i / d n_j at constant T and P, a derivative by amounts, so that fractions need not add up to one.
    ``enthalpy`` (rows,) J/mol, ``heat_capacity`` its slope in T (J/(mol K)), ``enthalpy_by_pressure`` (m3/mol, differenced),
    ``partial_enthalpies`` (rows, components) d(n h)/d n_i. ``entropy`` J/(mol K), ``molar_volume`` m3/mol.

    >>> model = PropertyModel("ideal", ["benzene", "toluene"])
    >>> isinstance(phase_rows(model, "vapour", np.array([400.0]), np.array([1e5]), np.array([[0.5, 0.5]])), PhaseRows)
    True
    """

    log_phi: Array
    log_phi_by_temperature: Array
    log_phi_by_pressure: Array
    log_phi_by_amounts: Array
    enthalpy: Vector
    heat_capacity: Vector
    enthalpy_by_pressure: Vector
    partial_enthalpies: Array
    entropy: Vector
    molar_volume: Vector


def phase_rows(model: PropertyModel, kind: str, T: Vector, P: Vector, fractions: Array, *, by_pressure: bool = True) -> PhaseRows:
    """Properties of a phase, "liquid" or "vapour", at ``T`` (rows,) K, ``P`` (rows,) Pa and ``fractions`` (rows, components), stable or not.

    An equation of state with one volume root gives that for either kind. Without ``by_pressure`` the slope of the enthalpy in P is not looked for (it
    takes two more evaluations) and is nan. Raises ValueError for other kinds and for shapes that do not fit.

    >>> model = PropertyModel("peng-robinson", ["propane", "n-butane"])
    >>> rows = phase_rows(model, "liquid", np.array([300.0, 310.0]), np.array([8e5, 8e5]), np.array([[0.5, 0.5], [0.2, 0.8]]))
    >>> rows.log_phi_by_amounts.shape
    (2, 2, 2)
    """
    if kind not in ("liquid", "vapour"):
        raise ValueError(f'A row is of a "liquid" or of a "vapour", not of "{kind}".')
    x = np.ascontiguousarray(fractions, dtype=np.float64)
    t, p = (np.ascontiguousarray(values, dtype=np.float64) for values in (T, P))
    if x.ndim != 2 or x.shape[1] != len(model.components) or not t.shape == p.shape == x.shape[:1]:
        raise ValueError(f"Rows of {len(model.components)} fractions with one temperature and one pressure each are needed.")
    root = layout.VAPOUR if kind == "vapour" else layout.LIQUID
    vectors, dn, partial, out = _evaluate(model, root, t, p, x)
    rising = np.full(len(t), np.nan)
    if by_pressure:
        above, below = (_evaluate(model, root, t, p * (1.0 + step), x)[3][:, 0] for step in (_STEP, -_STEP))
        rising = (above - below) / (2.0 * _STEP * p)
    return PhaseRows(
        log_phi=vectors[:, 0],
        log_phi_by_temperature=vectors[:, 1],
        log_phi_by_pressure=vectors[:, 2],
        log_phi_by_amounts=dn,
        enthalpy=out[:, 0],
        heat_capacity=out[:, 2],
        enthalpy_by_pressure=rising,
        partial_enthalpies=partial,
        entropy=out[:, 1],
        molar_volume=out[:, 3],
    )


def _evaluate(model: PropertyModel, root: int, t: Vector, p: Vector, x: Array) -> tuple[Array, Array, Array, Array]:
    rows, n = x.shape
    vectors, dn, partial, out = np.empty((rows, 3, n)), np.empty((rows, n, n)), np.empty((rows, n)), np.empty((rows, 5))
    energy.phase_energies_many(model.family.code, root, t, p, x, model.par, model.pairs, vectors, dn, partial, out)
    if model.translated:
        volume_shift_rows(t, p, x, model.shifts, vectors, partial, out)
    return vectors, dn, partial, out
