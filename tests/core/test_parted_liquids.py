"""A liquid that may part in two, seen as one: its derivatives, and that it is what the flash says."""

import numpy as np
import pytest
from plants import plant, q

from wattaxis import solve
from wattaxis.properties import PropertyModel
from wattaxis.properties.parted import may_part, parted_rows, parting

T = np.array([350.0, 360.0, 350.0, 330.0])
#: By activities, and by an equation of state: a model, mole fractions of which the first two rows part, Pa, and Pa at which a flash shows no vapour.
CASES = [
    (
        PropertyModel("unifac", ["water", "1-butanol", "acetone"]),
        np.array([[0.6, 0.35, 0.05], [0.8, 0.15, 0.05], [0.05, 0.9, 0.05], [0.97, 0.02, 0.01]]),
        1e5,
        1e7,
    ),
    (
        PropertyModel("soave-redlich-kwong", ["water", "n-butane", "n-hexane"]),
        np.array([[0.3, 0.3, 0.4], [0.8, 0.15, 0.05], [1e-3, 0.4, 0.599], [1e-3, 0.9, 0.099]]),
        2e6,
        2e6,
    ),
]
each = pytest.mark.parametrize(("model", "Z", "P", "calm"), CASES, ids=["activities", "equation of state"])


def told(model, z, T, P):
    """ln x phi of the whole, its heat, and the lighter liquid, of amounts."""
    total = z.sum(axis=1)
    found = parted_rows(model, T, np.full(len(T), P), z / total[:, None])
    return np.log(z / total[:, None]) + found.whole.log_phi, total * found.whole.enthalpy, total[:, None] * found.light


@each
def test_derivatives_by_amounts_are_those_of_differences(model, Z, P, calm):
    found = parted_rows(model, T, np.full(4, P), Z)
    assert list(found.parts) == [True, True, False, False]
    for j in range(3):
        step = 1e-4 * np.outer(Z[:, j], np.eye(3)[j])
        up, down = told(model, Z + step, T, P), told(model, Z - step, T, P)
        apart = 2e-4 * Z[:, j, None]
        slopes = [(a - b) / (apart if a.ndim > 1 else apart[:, 0]) for a, b in zip(up, down, strict=True)]
        own = np.where(np.arange(3) == j, 1.0 / Z, 0.0) - 1.0 + found.whole.log_phi_by_amounts[:, :, j]
        assert slopes[0] == pytest.approx(own, rel=1e-6, abs=1e-5)
        assert slopes[1] == pytest.approx(found.whole.partial_enthalpies[:, j], rel=1e-6)
        assert slopes[2] == pytest.approx(found.light_by_amounts[:, :, j], rel=1e-6, abs=1e-6)


@each
def test_derivatives_by_temperature_are_those_of_differences(model, Z, P, calm):
    found = parted_rows(model, T, np.full(4, P), Z)
    up, down = told(model, Z, T + 1e-3, P), told(model, Z, T - 1e-3, P)
    slopes = [(a - b) / 2e-3 for a, b in zip(up, down, strict=True)]
    assert slopes[0] == pytest.approx(found.whole.log_phi_by_temperature, abs=1e-7)
    assert slopes[1] == pytest.approx(found.whole.heat_capacity, rel=1e-6)
    assert slopes[2] == pytest.approx(found.light_by_temperature, abs=1e-8)


@each
def test_both_liquids_are_those_of_the_flash_the_lighter_first(model, Z, P, calm):
    found = parted_rows(model, T, np.full(4, P), Z)
    for k in range(2):
        state = model.flash(Z[k], T=float(T[k]), P=calm)
        light = min(zip(state.phases, state.amounts, strict=True), key=lambda p: p[0].density)
        assert found.light[k] == pytest.approx(light[1] * light[0].fractions, abs=1e-8)
        assert found.whole.enthalpy[k] == pytest.approx(sum(n * p.enthalpy for n, p in zip(state.amounts, state.phases, strict=True)), rel=1e-6)
    assert found.light[2:] == pytest.approx(Z[2:])


def test_what_may_part_is_known_of_models():
    for model, Z, P, _ in CASES:
        assert list(parting(model, T, np.full(4, P), Z)) == [True, True, False, False]
        assert may_part(model)
    assert not may_part(PropertyModel("peng-robinson", ["methane", "ethane", "propane", "n-decane"]))
    assert not may_part(PropertyModel("ideal", ["water", "n-hexane"]))


@pytest.mark.parametrize("unit", ["decanter", "three-phase-separator"])
@pytest.mark.parametrize("kind", ["peng-robinson", "soave-redlich-kwong", "unifac"])
def test_water_sinks_below_benzene_whatever_the_volumes_of_the_model(kind, unit):
    parts = [("water", "7732-18-5"), ("benzene", "71-43-2")]
    share = {"basis": "mole_fraction", "values": {"water": q("0.5"), "benzene": q("0.5")}}
    feed = {"temperature": q("310 K"), "pressure": q("2 bar"), "flow": q("10 mol/s"), "composition": share}
    units = {"F": ("feed", feed), "V": (unit, {"temperature": q("310 K")}), "Z1": ("product", {}), "Z2": ("product", {})}
    result = solve(plant(parts, units, ["1: F.outlet -> V.inlet", "2: V.light -> Z1.inlet", "3: V.heavy -> Z2.inlet"], kind))
    assert result.complete
    assert result.streams["3"].mole_fractions["water"] > 0.99
    assert result.streams["2"].mole_fractions["benzene"] > 0.9
