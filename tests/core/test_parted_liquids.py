"""A liquid that may part in two, seen as one: its derivatives, and that it is what the flash says."""

import numpy as np
import pytest

from wattaxis.properties import PropertyModel
from wattaxis.properties.parted import may_part, parted_rows, parting

MODEL = PropertyModel("unifac", ["water", "1-butanol", "acetone"])
Z = np.array([[0.6, 0.35, 0.05], [0.8, 0.15, 0.05], [0.05, 0.9, 0.05], [0.97, 0.02, 0.01]])
T, P = np.array([350.0, 360.0, 350.0, 330.0]), np.full(4, 1e5)


def told(z, T):
    """ln x phi of the whole, its heat, and the lighter liquid, of amounts."""
    total = z.sum(axis=1)
    found = parted_rows(MODEL, T, P, z / total[:, None])
    return np.log(z / total[:, None]) + found.whole.log_phi, total * found.whole.enthalpy, total[:, None] * found.light


def test_derivatives_by_amounts_are_those_of_differences():
    found = parted_rows(MODEL, T, P, Z)
    assert list(found.parts) == [True, True, False, False]
    for j in range(3):
        step = np.zeros(3)
        step[j] = 1e-6
        up, down = told(Z + step, T), told(Z - step, T)
        slopes = [(a - b) / 2e-6 for a, b in zip(up, down, strict=True)]
        own = np.where(np.arange(3) == j, 1.0 / Z, 0.0) - 1.0 + found.whole.log_phi_by_amounts[:, :, j]
        assert slopes[0] == pytest.approx(own, abs=1e-5)
        assert slopes[1] == pytest.approx(found.whole.partial_enthalpies[:, j], rel=1e-8)
        assert slopes[2] == pytest.approx(found.light_by_amounts[:, :, j], abs=1e-7)


def test_derivatives_by_temperature_are_those_of_differences():
    found = parted_rows(MODEL, T, P, Z)
    up, down = told(Z, T + 1e-3), told(Z, T - 1e-3)
    slopes = [(a - b) / 2e-3 for a, b in zip(up, down, strict=True)]
    assert slopes[0] == pytest.approx(found.whole.log_phi_by_temperature, abs=1e-8)
    assert slopes[1] == pytest.approx(found.whole.heat_capacity, rel=1e-6)
    assert slopes[2] == pytest.approx(found.light_by_temperature, abs=1e-8)


def test_both_liquids_are_those_of_the_flash_the_lighter_first():
    found = parted_rows(MODEL, T, P, Z)
    for k in range(2):
        state = MODEL.flash(Z[k], T=float(T[k]), P=1e7)
        light = min(zip(state.phases, state.amounts, strict=True), key=lambda p: p[0].density)
        assert found.light[k] == pytest.approx(light[1] * light[0].fractions, abs=1e-8)
        assert found.whole.enthalpy[k] == pytest.approx(sum(n * p.enthalpy for n, p in zip(state.amounts, state.phases, strict=True)), rel=1e-6)
    assert found.light[2:] == pytest.approx(Z[2:])


def test_what_parts_is_known_of_models_with_activities():
    assert list(parting(MODEL, T, Z)) == [True, True, False, False]
    assert not may_part(PropertyModel("peng-robinson", ["water", "n-hexane"]))
