"""Volumes, heats and dimers of the liquids and vapours of activity models: one route for all temperatures, consistent with itself."""

import numpy as np
import pytest
from CoolProp.CoolProp import PropsSI

from wattaxis import Component, FlashError, HeatCapacity, PropertyModel, VapourPressure, component
from wattaxis.properties.layout import R
from wattaxis.properties.trust import contradictions, freezing
from wattaxis.substances.association import _constant, dimerisation, hexamerisation
from wattaxis.substances.curves import component_curve

VAPOURS = ["ideal", "virial", "peng-robinson", "associating"]


@pytest.mark.parametrize("vapour", VAPOURS)
def test_the_energies_of_a_liquid_are_of_one_route_at_all_temperatures(vapour):
    """Cp is the slope of H, through the ends of the fit and the critical points; G of the phases in equilibrium is equal."""
    model = PropertyModel("nrtl", ["acetic acid", "ethanol", "water"], vapour=vapour)
    x = np.array([0.3, 0.3, 0.4])
    for t in np.linspace(250.0, 620.0, 75):
        h = [model.phase("liquid", t + step, 2e5, x).enthalpy for step in (-0.01, 0.01)]
        assert model.phase("liquid", t, 2e5, x).heat_capacity == pytest.approx((h[1] - h[0]) / 0.02, rel=2e-4)
    state = model.flash(x, P=101325.0, VF=0.4)
    for i in range(3):
        fugacities = [p.fractions[i] * p.fugacity_coefficients[i] for p in state.phases]
        assert fugacities[0] == pytest.approx(fugacities[1], rel=1e-9)
    assert model.flash(x, P=101325.0, H=state.enthalpy).vapour_fraction == pytest.approx(0.4, abs=1e-9)
    assert model.flash(x, P=101325.0, S=state.entropy).temperature == pytest.approx(state.temperature, rel=1e-9)
    pure = PropertyModel("nrtl", ["ethanol"], vapour=vapour).flash([1.0], P=101325.0, VF=0.5)
    assert pure.vapour.enthalpy - pure.liquid.enthalpy == pytest.approx(pure.temperature * (pure.vapour.entropy - pure.liquid.entropy), rel=1e-9)


def test_volumes_run_smoothly_through_the_critical_point_and_shrink_under_pressure():
    model = PropertyModel("ideal", ["n-hexane"])
    t = np.linspace(400.0, 560.0, 400)
    v = np.array([model.phase("liquid", x, 40e5, [1.0]).molar_volume for x in t])
    assert (np.diff(v) >= 0.0).all()
    assert np.abs(np.diff(v, 2)).max() < 0.02 * v[0]
    for t, p in ((300.0, 500e5), (400.0, 200e5)):
        low, high = (model.phase("liquid", t, pressure, [1.0]).density for pressure in (1e5, p))
        wanted = PropsSI("D", "T", t, "P", p, "n-Hexane") / PropsSI("D", "T", t, "Q", 0, "n-Hexane")
        assert high / low == pytest.approx(wanted, abs=0.015)


def test_acetic_acid_and_water_have_no_azeotrope_over_a_vapour_of_dimers():
    """Over an ideal vapour UNIFAC shows one near 99 degC; measured is none (Gmehling, Onken 1977)."""
    mixed = PropertyModel("unifac", ["acetic acid", "water"], vapour="associating")
    last = 0.0
    for x in np.linspace(0.02, 0.98, 25):
        state = mixed.flash([x, 1.0 - x], P=101325.0, VF=0.0)
        assert state.vapour.fractions[0] < x
        assert state.temperature > last
        last = state.temperature
    with pytest.raises(ValueError, match="vapour of its own"):
        PropertyModel("peng-robinson", ["acetic acid"], vapour="associating")
    pure = PropertyModel("nrtl", ["acetic acid"], vapour="associating").flash([1.0], P=101325.0, VF=0.5)
    assert pure.vapour.density == pytest.approx(3.11, rel=0.06)  # CRC Handbook; an ideal gas would have 1.88
    assert pure.vapour.enthalpy - pure.liquid.enthalpy == pytest.approx(23.7e3, rel=0.04)  # CRC Handbook


def test_dimers_by_correlation_lie_beside_the_measured_ones():
    for name in ("propionic acid", "butyric acid"):
        acid = component(name)
        assert _constant(acid, 400.0) == pytest.approx(dimerisation(acid).at(400.0), rel=0.25)
    assert dimerisation(component("ethanol")) is None


def test_the_residual_enthalpy_of_dimers_is_the_heat_of_dimerisation_times_their_amount():
    acid = component("acetic acid")
    model = PropertyModel("nrtl", [acid], vapour="associating")
    t, p = 391.0, 101325.0
    k = dimerisation(acid).at(t)
    monomer = (-1.0 + (1.0 + 4.0 * k * p) ** 0.5) / (2.0 * k)
    dimers = (p - monomer) / (2.0 * p - monomer)  # per apparent mole
    gas = PropertyModel("ideal", [acid]).phase("vapour", t, p, [1.0])
    heat = -R * dimerisation(acid).b
    assert model.phase("vapour", t, p, [1.0]).enthalpy - gas.enthalpy == pytest.approx(dimers * heat, rel=1e-9)


def test_hexamers_of_hydrogen_fluoride_meet_what_was_measured_of_its_vapour():
    """Closed form of the mixture of monomers and hexamers; boiling point and heat of vaporisation as measured."""
    fluoride = component("hydrogen fluoride")
    model = PropertyModel("nrtl", [fluoride], vapour="associating")
    t, p = 300.0, 0.7e5
    k = np.exp(hexamerisation(fluoride).a + hexamerisation(fluoride).b / t)
    monomer = float(np.roots([k, 0.0, 0.0, 0.0, 0.0, 1.0, -p]).real.max())
    hexamers = (p - monomer) / (monomer + 6.0 * (p - monomer))  # per apparent mole
    vapour, gas = (m.phase("vapour", t, p, [1.0]) for m in (model, PropertyModel("ideal", [fluoride])))
    assert vapour.enthalpy - gas.enthalpy == pytest.approx(-R * hexamerisation(fluoride).b * hexamers, rel=1e-9)
    assert vapour.fugacity_coefficients[0] == pytest.approx(monomer / p, rel=1e-12)
    boiling = model.flash([1.0], P=101325.0, VF=0.5)
    assert boiling.temperature == pytest.approx(292.7, abs=0.3)
    measured = component_curve(fluoride, "heat of vaporisation").at(292.7)
    assert boiling.vapour.enthalpy - boiling.liquid.enthalpy == pytest.approx(measured, rel=0.06)
    ideal = PropertyModel("nrtl", [fluoride]).flash([1.0], P=101325.0, VF=0.5)
    assert boiling.vapour.density > 3.0 * ideal.vapour.density
    thin = PropertyModel("nrtl", ["hydrogen fluoride", "nitrogen"], vapour="associating").phase("vapour", 300.0, 1e5, [1e-3, 0.999])
    assert thin.fugacity_coefficients == pytest.approx([1.0, 1.0], abs=1e-6)


def test_a_vapour_pressure_and_heat_capacity_stated_in_full_are_kept():
    """The heat of vaporisation of a component of no bank follows from its typed vapour pressure: nothing else was given."""
    antoine = VapourPressure(4, (22.0, 3600.0, 0.0, 0.0, 0.0), 250.0, 480.0)
    own = Component("X", 0.05, 500.0, 40e5, 0.3, HeatCapacity((80.0, 0.0, 0.0, 0.0, 0.0)), vapour_pressure=antoine)
    state = PropertyModel("ideal", [own]).flash([1.0], T=330.0, VF=0.5)
    assert state.vapour.enthalpy - state.liquid.enthalpy == pytest.approx(R * 3600.0, rel=1e-12)


def test_what_contradicts_measurement_is_told_with_numbers():
    steam = PropertyModel("peng-robinson", ["water"]).flash([1.0], T=450.0, P=20e5)
    told = {found.what: found.off for found in contradictions(steam)}
    assert told["density"] < -0.1
    assert not list(contradictions(PropertyModel("nrtl", ["water"], vapour="virial").flash([1.0], T=350.0, P=2e5)))
    assert [c for c, _ in freezing(PropertyModel("ideal", ["benzene"]).flash([1.0], T=270.0, P=1e5))] == ["benzene"]
    assert freezing(PropertyModel("ideal", ["benzene", "toluene"]).flash([0.1, 0.9], T=270.0, P=1e5)) == []


@pytest.mark.parametrize("kind", ["peng-robinson", "steam"])
def test_states_by_volume(kind):
    parts, z = (["water"], [1.0]) if kind == "steam" else (["propane", "n-butane"], [0.5, 0.5])
    model = PropertyModel(kind, parts)
    for t, p in ((300.0, 2e5), (400.0, 30e5), (380.0, 1e5)):
        state = model.flash(z, T=t, P=p)
        assert model.flash(z, T=t, V=state.molar_volume).pressure == pytest.approx(p, rel=1e-6)
        back = model.flash(z, U=state.internal_energy, V=state.molar_volume)
        assert back.temperature == pytest.approx(t, rel=1e-6)
    wet = model.flash(z, T=330.0, VF=0.3)
    assert model.flash(z, U=wet.internal_energy, V=wet.molar_volume).vapour_fraction == pytest.approx(0.3, abs=1e-6)
    with pytest.raises(ValueError, match="molar volume"):
        model.flash(z, T=300.0, V=-1.0)


def test_phases_that_are_about_to_form_have_their_own_root():
    state = PropertyModel("peng-robinson", ["propane"]).flash([1.0], T=300.0, VF=0.0)
    assert state.vapour.density < 30.0 < 400.0 < state.liquid.density
    assert state.part("vapour").phases[0].density == pytest.approx(state.vapour.density)
    cold = PropertyModel("peng-robinson", ["propane"]).flash([1.0], T=300.0, P=20e5)
    assert cold.vapour is None


def test_a_predicted_equation_keeps_heat_capacities_of_liquids_above_the_gas():
    for name in ("1,2-propanediol", "ethanolamine", "ethanol", "water", "acetic acid"):
        model = PropertyModel("predictive-soave-redlich-kwong", [name])
        for t in np.linspace(0.45, 0.8, 8) * component(name).critical_temperature:
            liquid, gas = model.phase("liquid", t, 1e6, [1.0]), model.phase("vapour", t, 1.0, [1.0])
            assert liquid.heat_capacity > gas.heat_capacity
        state = model.flash([1.0], T=310.0, P=1e6)
        assert model.flash([1.0], P=1e6, H=state.enthalpy).temperature == pytest.approx(310.0, rel=1e-9)


def test_no_state_at_an_impossible_volume_fraction():
    with pytest.raises(FlashError):
        PropertyModel("peng-robinson", ["ethane"]).flash([1.0], T=320.0, VF=0.5)
