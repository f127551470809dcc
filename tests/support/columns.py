"""What is checked of every staged column: balances, and that its stages are flashes; columns on the sheet are the unit T."""

import numpy as np
import pytest

from wattaxis import solve
from wattaxis.columns import ColumnFeed

P = 101325.0


def fed(model, stage, flows, P=P, **given):
    """A feed of ``flows`` (mol/s) in a state."""
    flows = np.asarray(flows, dtype=float)
    return ColumnFeed(stage, flows, flows.sum() * model.flash(flows, P=P, **given).enthalpy)


def assert_closes(state, feeds, rel=1e-9, lost=0.0):
    """What is fed leaves, and the heat with it; ``lost`` W go elsewhere."""
    total = sum(feed.flows for feed in feeds)
    assert sum(p.flows for p in state.products.values()) == pytest.approx(total, rel=rel, abs=rel * total.sum())
    heat_in = sum(feed.enthalpy_flow for feed in feeds) + state.duties.sum() - lost
    scale = max(abs(state.duties).max(), 1.0)
    assert sum(p.enthalpy_flow for p in state.products.values()) == pytest.approx(heat_in, abs=rel * scale + 1e-12 * abs(heat_in))
    assert state.worst < 1e-9


def assert_stages_are_flashes(model, state, first=0):
    """Liquid and vapour of every stage together flash into themselves, the stability test included."""
    for j in range(first, len(state.T)):
        both = state.liquid[j] * state.x[j] + state.vapour[j] * state.y[j]
        found = model.flash(both, T=float(state.T[j]), P=float(state.P[j]))
        assert found.vapour_fraction == pytest.approx(state.vapour[j] / both.sum(), abs=2e-6)
        assert found.liquid_fractions == pytest.approx(state.x[j], abs=1e-6)
        assert found.vapour_fractions == pytest.approx(state.y[j], abs=1e-6)


def rows(*cells):
    """A table of rows numbered from 1."""
    return {"rows": [{"id": str(k), "cells": row} for k, row in enumerate(cells, 1)]}


def solved(document):
    """The result of a plant that calculates and closes, with the values of its column."""
    result = solve(document)
    assert result.complete, [f.text for f in result.findings if f.severity == "fault"] + [a.text for a in result.asks]
    assert abs(result.balance.mass_gap) < 1e-9
    assert abs(result.balance.energy_gap) < 1e-9
    return result, {v.name: v.value for v in result.units["T"].values}
