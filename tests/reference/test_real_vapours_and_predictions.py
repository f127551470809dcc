"""Vapours over activity models, the predictive equation of state, shifted volumes, pairs over temperature."""

import numpy as np
import pytest
from chemicals import virial
from thermo.eos_mix import PSRK
from thermo.unifac import PSRKIP, PSRKSG, UNIFAC

from wattaxis import PropertyModel, component
from wattaxis.properties import layout
from wattaxis.properties.kernels.vapour import second_virial
from wattaxis.substances.curves import component_curve


@pytest.mark.parametrize("name", ["propane", "benzene", "water", "nitrogen", "butanone"])
@pytest.mark.parametrize("t", [300.0, 380.0, 600.0])
def test_second_virial_coefficients_against_a_second_library(name, t):
    c = component(name)
    ours = second_virial(t, c.critical_temperature, c.critical_pressure, c.acentric_factor, 0.0, 0.0)
    theirs = virial.BVirial_Tsonopoulos(t, c.critical_temperature, c.critical_pressure, c.acentric_factor)
    assert ours[0] == pytest.approx(theirs, rel=1e-12)
    slopes = [virial.BVirial_Tsonopoulos(t, c.critical_temperature, c.critical_pressure, c.acentric_factor, order=k) for k in (1, 2)]
    assert ours[1:] == (pytest.approx(slopes[0], rel=1e-10), pytest.approx(slopes[1], rel=1e-10))


@pytest.mark.parametrize("vapour", ["virial", "soave-redlich-kwong", "peng-robinson"])
@pytest.mark.parametrize("t", [320.0, 420.0])
def test_a_pure_component_boils_at_its_vapour_pressure_under_every_vapour(vapour, t):
    pure = PropertyModel("nrtl", ["water"], vapour=vapour)
    wanted = PropertyModel("ideal", ["water"]).flash([1.0], T=t, VF=0.0).pressure
    assert pure.flash([1.0], T=t, VF=0.0).pressure == pytest.approx(wanted, rel=1e-10)
    assert pure.flash([1.0], T=t, P=0.999 * wanted).phase == "vapour"
    assert pure.flash([1.0], T=t, P=1.001 * wanted).phase == "liquid"


def test_the_vapour_is_that_of_the_cubic_equation():
    names = ["ethanol", "benzene"]
    model = PropertyModel("wilson", names, vapour="soave-redlich-kwong")
    cubic = PropertyModel("soave-redlich-kwong", names, bank_pairs=False)
    ours, theirs = (m.phase("vapour", 450.0, 8e5, [0.4, 0.6]) for m in (model, cubic))
    assert ours.fugacity_coefficients == pytest.approx(theirs.fugacity_coefficients, rel=1e-12)
    assert (ours.molar_volume, ours.enthalpy) == (pytest.approx(theirs.molar_volume, rel=1e-12), pytest.approx(theirs.enthalpy, rel=1e-12))


def test_an_ideal_vapour_is_reached_at_low_pressure():
    for vapour in ("virial", "peng-robinson"):
        real = PropertyModel("nrtl", ["ethanol", "water"], vapour=vapour)
        ideal = PropertyModel("nrtl", ["ethanol", "water"])
        at = {v: m.flash([0.3, 0.7], P=500.0, VF=0.5) for v, m in (("real", real), ("ideal", ideal))}
        assert at["real"].temperature == pytest.approx(at["ideal"].temperature, abs=0.01)


def test_high_pressure_ethanol_and_water_boil_where_they_were_measured():
    """Barr-David, Dodge 1959: at 473.15 K a liquid of 0.1 ethanol holds 0.32 in the vapour at about 21.5 bar. An ideal vapour misses the pressure."""
    real = PropertyModel("nrtl", ["ethanol", "water"], vapour="soave-redlich-kwong").flash([0.1, 0.9], T=473.15, VF=0.0)
    ideal = PropertyModel("nrtl", ["ethanol", "water"]).flash([0.1, 0.9], T=473.15, VF=0.0)
    assert real.pressure / 1e5 == pytest.approx(21.5, rel=0.06)
    assert real.vapour_fractions[0] == pytest.approx(0.32, abs=0.04)
    assert real.pressure != pytest.approx(ideal.pressure, rel=1e-3)


def test_a_virial_vapour_says_where_it_ends():
    model = PropertyModel("nrtl", ["ethanol", "water"], vapour="virial")
    assert model.ranges_left(model.flash([0.5, 0.5], T=400.0, P=1e5)) == []
    assert any("virial" in note for note in model.ranges_left(model.flash([0.5, 0.5], T=600.0, P=90e5)))
    for kind, options, says in (
        ("peng-robinson", {"vapour": "virial"}, "of its own"),
        ("nrtl", {"vapour": "fog"}, "no vapour"),
        ("nrtl", {"translated": True}, "shifted"),
    ):
        with pytest.raises(ValueError, match=says):
            PropertyModel(kind, ["water"], **options)


def test_shifted_volumes_have_the_density_and_leave_the_equilibrium_alone():
    names = ["propane", "n-hexane", "benzene"]
    plain, moved = PropertyModel("peng-robinson", names), PropertyModel("peng-robinson", names, translated=True)
    a, b = (m.flash([0.3, 0.4, 0.3], T=380.0, P=8e5) for m in (plain, moved))
    assert b.vapour_fractions == pytest.approx(a.vapour_fractions, rel=1e-12)
    for i, name in enumerate(names):
        c = component(name)
        alone = PropertyModel("peng-robinson", [name], translated=True)
        for t in np.linspace(0.5, 0.85, 6) * c.critical_temperature:
            pure = alone.flash([1.0], T=t, VF=0.0)
            assert pure.phases[0].density == pytest.approx(component_curve(c, "liquid density").at(t), rel=3e-3)
        assert moved.shift(t, np.eye(3)[i]) == pytest.approx(alone.shift(t, np.ones(1)))
    # The enthalpy moves by -c P and Maxwell's relation holds: dH/dP = V - T dV/dT.
    low, high = (moved.phase("liquid", 300.0, p, [0.2, 0.4, 0.4]) for p in (9.99e5, 10.01e5))
    warm, cold = (moved.phase("liquid", t, 1e6, [0.2, 0.4, 0.4]) for t in (300.01, 299.99))
    middle = moved.phase("liquid", 300.0, 1e6, [0.2, 0.4, 0.4]).molar_volume
    slope = (high.enthalpy - low.enthalpy) / 2e3
    assert slope == pytest.approx(middle - 300.0 * (warm.molar_volume - cold.molar_volume) / 0.02, rel=1e-5)
    back = moved.flash([0.3, 0.4, 0.3], P=8e5, H=b.enthalpy)
    assert back.temperature == pytest.approx(380.0, rel=1e-10)


def test_pairs_over_temperature_count_at_each_temperature():
    pair = ("methane", "n-hexane")
    warm = PropertyModel("peng-robinson", pair, {pair: {"kij": 0.1, "kb": -30.0, "ke": 1e-4}})
    for t in (250.0, 400.0):
        fixed = PropertyModel("peng-robinson", pair, {pair: 0.1 - 30.0 / t + 1e-4 * t})
        ours, theirs = (m.flash([0.5, 0.5], T=t, P=30e5) for m in (warm, fixed))
        assert ours.vapour_fraction == pytest.approx(theirs.vapour_fraction, rel=1e-12)
        assert ours.enthalpy != pytest.approx(theirs.enthalpy, rel=1e-6)


@pytest.mark.parametrize("name", ["water", "methanol", "butanone", "n-hexane", "ethanol", "acetone"])
def test_the_predictive_equation_boils_at_the_vapour_pressures(name):
    model = PropertyModel("predictive-soave-redlich-kwong", [name])
    c = component(name)
    for reduced in (0.55, 0.7, 0.9):
        t = reduced * c.critical_temperature
        wanted = PropertyModel("ideal", [name]).flash([1.0], T=t, VF=0.0).pressure
        assert model.flash([1.0], T=t, VF=0.0).pressure == pytest.approx(wanted, rel=0.01)


def test_the_predicted_attraction_is_that_of_a_second_library():
    """The library gives a of the mixture; ours follows from the volume of a phase: a = (R T/(v - b) - P) v (v + b)."""
    names, x, t, p = ["acetone", "methanol", "carbon dioxide"], [0.3, 0.5, 0.2], 330.0, 20e5
    model = PropertyModel("predictive-soave-redlich-kwong", names)
    parts = model.components
    groups = [c.groups["predictive"] for c in parts]
    excess = UNIFAC.from_subgroups(T=t, xs=x, chemgroups=groups, subgroups=PSRKSG, interaction_data=PSRKIP, version=0)
    alphas = [[float(model.par[row, i]) for row in (layout.ALPHA_3, layout.ALPHA_2, layout.SLOPE)] + [1.0] for i in range(3)]
    constants = {"Tcs": [c.critical_temperature for c in parts], "Pcs": [c.critical_pressure for c in parts]}
    other = PSRK(**constants, omegas=[c.acentric_factor for c in parts], zs=x, ge_model=excess, alpha_coeffs=alphas, T=t, P=p)
    for kind in ("liquid", "vapour"):
        v = model.phase(kind, t, p, x).molar_volume
        assert (layout.R * t / (v - other.b) - p) * v * (v + other.b) == pytest.approx(other.a_alpha, rel=2e-4)  # A_1 is rounded there


#: Gas, solvent, K, mole fraction in the liquid, bar: Henry constants of the solvent at that temperature (IAPWS G7-04; IUPAC solubility data).
SOLUBILITIES = [
    ("carbon dioxide", "methanol", 298.15, 0.0060, 1.01 + 0.17, 0.25),
    ("hydrogen", "methanol", 298.15, 1.61e-4, 1.01 + 0.17, 0.35),
    ("nitrogen", "acetone", 298.15, 5.4e-4, 1.01 + 0.31, 0.6),
    ("carbon dioxide", "water", 298.15, 6.1e-4, 1.01 + 0.03, 0.35),
]


@pytest.mark.parametrize(("gas", "solvent", "t", "x", "bar", "near"), SOLUBILITIES)
def test_gases_dissolve_about_as_much_as_was_measured(gas, solvent, t, x, bar, near):
    model = PropertyModel("predictive-soave-redlich-kwong", [gas, solvent])
    assert model.flash([x, 1.0 - x], T=t, VF=0.0).pressure / 1e5 == pytest.approx(bar, rel=near)


def test_ethanol_and_water_azeotrope_of_the_predictive_equation():
    """Measured 0.894 ethanol at 351.3 K and 1.013 bar (Gmehling and others 2004)."""
    model = PropertyModel("predictive-soave-redlich-kwong", ["ethanol", "water"])
    states = {x: model.flash([x, 1 - x], P=101325.0, VF=0.0) for x in np.linspace(0.80, 0.98, 37)}
    gaps = {x: s.vapour_fractions[0] - x for x, s in states.items()}
    at = min(gaps, key=lambda x: abs(gaps[x]))
    assert at == pytest.approx(0.894, abs=0.05)
    assert states[at].temperature == pytest.approx(351.3, abs=1.0)


def test_liquids_part_by_the_table_for_two_liquids():
    """1-butanol and water at 298 K: 0.51 and 0.019 butanol in the two liquids (Sorensen, Arlt 1979)."""
    state = PropertyModel("unifac-liquid-liquid", ["1-butanol", "water"]).flash([0.2, 0.8], T=298.15, P=1e5)
    assert state.two_liquids
    poor, rich = sorted(part.fractions[0] for part in state.phases)
    assert rich == pytest.approx(0.51, abs=0.12)
    assert poor == pytest.approx(0.019, abs=0.01)
