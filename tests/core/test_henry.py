"""Gases dissolved by Henry's law in the activity models."""

from dataclasses import replace

import numpy as np
import pytest

from wattaxis import Document, PropertyModel, edit
from wattaxis.flowsheet import pair_table
from wattaxis.substances import component, henry_constant, henry_in_water

# ln(H/GPa) of IAPWS G7-04, table 3, at 300, 400 and 500 K
TABLE = {
    "1333-74-0": (1.9702, 1.8464, 1.0513),
    "7727-37-9": (2.1716, 2.3509, 1.4842),
    "7782-44-7": (1.5024, 1.8832, 1.1630),
    "124-38-9": (-1.7508, -0.5450, -0.6524),
    "74-82-8": (1.4034, 1.7946, 1.0342),
}
MODELS = ("nrtl", "wilson", "uniquac", "margules", "van-laar")


@pytest.mark.parametrize("cas", TABLE)
def test_constants_in_water_are_those_of_the_guideline(cas):
    found = [np.log(henry_in_water(cas).at(t) / 1e9) for t in (300.0, 400.0, 500.0)]
    assert found == pytest.approx(TABLE[cas], abs=0.01)  # the four-term form follows the guideline to one per cent


@pytest.mark.parametrize(
    ("gas", "solvent", "measured"), [("methane", "n-hexane", 20e6), ("hydrogen", "n-hexane", 151e6), ("nitrogen", "ethanol", 280e6)]
)
def test_estimates_are_within_a_factor_of_two_of_measured_solubilities(gas, solvent, measured):
    # Solubility data series values at 298.15 K and 101325 Pa: x = 5.0e-3, 6.7e-4, 3.6e-4.
    known = henry_constant(component(gas), component(solvent))
    assert known.estimated
    assert 0.5 < known.at(298.15) / measured < 2.0


@pytest.mark.parametrize("kind", MODELS)
def test_every_model_gives_each_solvent_its_own_constant(kind):
    gas = replace(component("carbon dioxide"), uniquac_r=1.296, uniquac_q=1.261)
    solvents = [component("ethanol"), component("water")]
    model = PropertyModel(kind, [gas, *solvents])
    for k, solvent in enumerate(solvents):
        x = np.zeros(3)
        x[0], x[k + 1] = 1e-12, 1.0
        for t in (290.0, 350.0):
            phase = model.phase("liquid", t, 1e5, x / x.sum())
            assert phase.fugacity_coefficients[0] * 1e5 == pytest.approx(henry_constant(gas, solvent).at(t), rel=1e-9)


def test_a_gas_over_mixed_solvents_is_flashed_and_its_solution_enthalpy_follows_the_slope_of_its_constant():
    model = PropertyModel("nrtl", ["hydrogen", "2-butanol", "butanone", "water"])
    state = model.flash([0.5, 0.25, 0.2, 0.05], T=290.0, P=2e5)
    dissolved = state.liquid_fractions[0]
    assert 1e-4 < dissolved < 3e-3
    total = (1.0 - state.vapour_fraction) * state.liquid_fractions + state.vapour_fraction * state.vapour_fractions
    assert total == pytest.approx(state.fractions, rel=1e-10)
    binary = PropertyModel("nrtl", ["oxygen", "water"])
    gas, t, step = component("oxygen"), 300.0, 1e-6
    pure, little = (binary.phase("liquid", t, 1e5, x).enthalpy for x in ([0.0, 1.0], [step, 1.0 - step]))
    partial = (little - pure) / step + pure
    known = henry_constant(gas, component("water"))
    slope = -known.b / t**2 + known.e / t + known.f
    ideal = binary.phase("vapour", t, 1e5, [1.0, 0.0]).enthalpy
    assert partial - ideal == pytest.approx(-8.31446261815324 * t**2 * slope, rel=1e-4)


def test_own_constants_win_and_own_activity_parameters_leave_a_gas_alone():
    own = PropertyModel("nrtl", ["nitrogen", "ethanol"], {("nitrogen", "ethanol"): {"ha": 19.0}})
    assert own.phase("liquid", 300.0, 1e5, [1e-12, 1.0]).fugacity_coefficients[0] * 1e5 == pytest.approx(np.exp(19.0), rel=1e-9)
    part = own.part_of(["ethanol", "nitrogen"])
    assert part.phase("liquid", 300.0, 1e5, [1.0, 1e-12]).fugacity_coefficients[1] * 1e5 == pytest.approx(np.exp(19.0), rel=1e-9)
    changed = own.with_pairs({("nitrogen", "ethanol"): {"ha": 20.0}})
    assert changed.phase("liquid", 300.0, 1e5, [1e-12, 1.0]).fugacity_coefficients[0] * 1e5 == pytest.approx(np.exp(20.0), rel=1e-9)
    typed = PropertyModel("nrtl", ["nitrogen", "ethanol"], {("nitrogen", "ethanol"): {"a12": 0.4}})
    assert not typed.gases
    assert PropertyModel("nrtl", ["nitrogen"]).gases == set()


def test_the_pair_matrix_says_where_a_constant_comes_from():
    plant = edit(Document(), "set_model", model="nrtl")
    for name, cas in (("hydrogen", "1333-74-0"), ("water", "7732-18-5"), ("2-butanol", "78-92-2")):
        plant = edit(plant, "add_component", component={"id": name, "cas": cas})
    rows = {frozenset((row["first"], row["second"])): row for row in pair_table(plant.chemistry)}
    in_water, in_alcohol = rows[frozenset(("hydrogen", "water"))], rows[frozenset(("hydrogen", "2-butanol"))]
    assert (in_water["quality"], "IAPWS" in in_water["source"]) == ("measured fit", True)
    assert (in_alcohol["quality"], "Peng-Robinson" in in_alcohol["source"]) == ("estimated", True)
    model = PropertyModel("nrtl", ["hydrogen", "water"])
    assert "known from 273 to 500 K" in " ".join(model.ranges_left(model.flash([0.5, 0.5], T=520.0, P=1e7)))
    assert model.ranges_left(model.flash([0.5, 0.5], T=520.0, P=1e5)) == []  # a vapour alone needs no Henry constant
