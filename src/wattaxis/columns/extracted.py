"""Where the search for the state of an extraction column starts: from the two liquids of all feeds together, in a few damped sweeps."""

from __future__ import annotations

from importlib import import_module
from typing import Any

import numpy as np

from wattaxis.columns.equations import Array, Unknowns
from wattaxis.columns.layout import ColumnError, Layout
from wattaxis.properties import FlashError
from wattaxis.properties.rows import phase_rows
from wattaxis.properties.state import Vector

#: Moles of a component that are at least there; sweeps, and the share of each that is taken.
_TRACE, _SWEEPS, _SHARE = 1e-12, 40, 0.5


def begin_two_liquids(layout: Layout) -> Unknowns:
    """The unknowns to begin with, at the temperatures of what is fed at the ends. Raises ColumnError where that has no state."""
    staged: Any = import_module("wattaxis.properties.kernels.staged")  # late: it loads with the first column
    N, P, model = layout.stages, layout.P, layout.model
    known = [(j, T) for j, (_, T) in enumerate(layout.fed_liquid) if T is not None]
    if not known:
        raise ColumnError("Nothing that is fed has a state at the pressure of the column.", "Look at pressures and feed.")
    T = np.interp(np.arange(N), [j for j, _ in known], [t for _, t in known])
    heavy, light = _parted(layout, float(T.mean()))
    L, V = np.full(N, heavy.sum()), np.full(N, light.sum())
    x, y = np.tile(heavy / heavy.sum(), (N, 1)), np.tile(light / light.sum(), (N, 1))
    liquid = np.empty_like(x)
    for _ in range(_SWEEPS):
        log_K = phase_rows(model, "liquid", T, P, x, by_pressure=False).log_phi - phase_rows(model, "liquid", T, P, y, by_pressure=False).log_phi
        K = np.exp(np.clip(log_K, -40.0, 40.0))
        staged.component_balances(K, L, V, np.ones(N), np.ones(N), layout.feed, liquid)
        sunk = np.maximum(np.nan_to_num(liquid), 0.0) + _TRACE
        risen = K * sunk * (V / L)[:, None] + _TRACE
        L, V = (_SHARE * flows.sum(axis=1) + (1.0 - _SHARE) * total for flows, total in ((sunk, L), (risen, V)))
        x, y = (_SHARE * flows / flows.sum(axis=1)[:, None] + (1.0 - _SHARE) * z for flows, z in ((sunk, x), (risen, y)))
    return Unknowns(x * L[:, None], y * V[:, None], T, np.zeros(len(layout.free)))


def _parted(layout: Layout, T: float) -> tuple[Vector, Vector]:
    """Amounts (components,) of the two liquids of all feeds together, or what is fed at the ends; first the one that is nearer to that at the top."""
    ends: list[Array] = [layout.feed[0] + _TRACE, layout.feed[-1] + _TRACE]
    try:
        state = layout.model.flash(layout.feed.sum(axis=0), T=T, P=float(layout.P[0]))
        parts = [share * p.fractions + _TRACE for share, p in zip(state.amounts, state.phases, strict=True) if p.kind != "vapour"]
    except FlashError:
        parts = []
    if len(parts) == 2:
        near = ends[0] / ends[0].sum()
        ends = sorted(parts, key=lambda flows: float(np.abs(flows / flows.sum() - near).sum()))
    return ends[0], ends[1]
