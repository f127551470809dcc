"""Chemical equilibrium against published compositions, answers in closed form, and a minimum found by a general optimiser."""

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.optimize import brentq, minimize

from wattaxis import PropertyModel, component, solid
from wattaxis.properties.solids import SolidsModel
from wattaxis.reactions import Reaction, thermochemistry
from wattaxis.reactions.equilibrium import ChemicalEquilibrium
from wattaxis.reactions.thermochemistry import StandardStates

R = 8.31446261815324
GASES = ["methane", "water", "carbon monoxide", "carbon dioxide", "hydrogen"]


def with_solids(gases, solids, model="ideal"):
    fluid = PropertyModel(model, gases)
    return SolidsModel(fluid, [*fluid.components, *(solid(name) for name in solids)])


def constant(numbers, T):
    return math.exp(thermochemistry(numbers, [component(name) for name in numbers], [T]).log_constant[0])


def test_reforming_of_methane_with_steam():
    """2 CH4 + 3 H2O at 1000 K and 1 bar by the elements (Smith, Van Ness, Abbott 2005, example 13.14): its constants are older than ours."""
    found = ChemicalEquilibrium(PropertyModel("ideal", GASES)).at([2.0, 3.0, 0.0, 0.0, 0.0], 1000.0, 1e5)
    assert found.sum() == pytest.approx(8.656, rel=2e-3)
    assert found / found.sum() == pytest.approx([0.0196, 0.0980, 0.1743, 0.0371, 0.6710], abs=1.5e-3)


@pytest.mark.parametrize("T", [600.0, 900.0, 1400.0])
def test_the_shift_reaction_is_the_root_of_its_quadratic(T):
    ids = ["carbon monoxide", "water", "carbon dioxide", "hydrogen"]
    K = constant({"carbon monoxide": -1, "water": -1, "carbon dioxide": 1, "hydrogen": 1}, T)
    extent = brentq(lambda x: (0.1 + x) * (0.3 + x) - K * (1.0 - x) * (2.0 - x), 0.0, 1.0 - 1e-12, xtol=1e-15)
    found = ChemicalEquilibrium(PropertyModel("ideal", ids)).at([1.0, 2.0, 0.1, 0.3], T, 7e5)
    assert found == pytest.approx([1.0 - extent, 2.0 - extent, 0.1 + extent, 0.3 + extent], rel=1e-10)


@pytest.mark.parametrize(("T", "P", "share"), [(723.15, 50, 9.15), (723.15, 100, 16.36), (773.15, 50, 5.58), (773.15, 100, 10.61)])
def test_ammonia_at_pressure(T, P, share):
    """% of ammonia from 3 H2 + N2 at P atm, as measured by Larson and Dodge (1923), with the fugacities of a cubic equation."""
    model = PropertyModel("peng-robinson", ["nitrogen", "hydrogen", "ammonia"])
    found = ChemicalEquilibrium(model).at([1.0, 3.0, 0.0], T, P * 101325.0)
    assert 100.0 * found[2] / found.sum() == pytest.approx(share, rel=0.06)


@pytest.mark.parametrize(("celsius", "share"), [(850, 93.77), (900, 97.78), (950, 98.68), (1000, 99.41)])
def test_carbon_and_its_oxides(celsius, share):
    """% of CO beside carbon at 1 atm, as measured by Rhead and Wheeler (1911)."""
    model = with_solids(["carbon monoxide", "carbon dioxide"], ["graphite"])
    found = ChemicalEquilibrium(model).at([0.0, 1.0, 5.0], celsius + 273.15, 101325.0)
    assert found[2] > 4.0
    assert 100.0 * found[0] / (found[0] + found[1]) == pytest.approx(share, abs=1.0)


@pytest.mark.parametrize("T", [950.0, 1050.0, 1150.0])
def test_carbon_dioxide_over_limestone(T):
    """p = 10^(7.079 - 8308 / T) atm (Baker 1962). Enough nitrogen takes all of it away; without any gas beside it, it is one solid or the other."""
    pressure = 10.0 ** (7.079 - 8308.0 / T) * 101325.0
    equilibrium = ChemicalEquilibrium(with_solids(["carbon dioxide", "nitrogen"], ["calcium carbonate", "calcium oxide"]))
    some, much = (equilibrium.at([0.0, gas, 1.0, 0.0], T, 1e5) for gas in (0.2, 1e4))
    assert 1e5 * some[0] / (some[0] + some[1]) == pytest.approx(pressure, rel=0.15)
    assert much == pytest.approx([1.0, 1e4, 0.0, 1.0], abs=1e-12)
    alone = equilibrium.at([0.0, 0.0, 1.0, 0.0], T, 1e5)
    assert alone == pytest.approx([0.0, 0.0, 1.0, 0.0], abs=1e-12)
    assert equilibrium.at([0.0, 0.0, 1.0, 0.0], 1250.0, 1e5) == pytest.approx([1.0, 0.0, 0.0, 1.0], abs=1e-12)


def test_carbon_forms_below_the_steam_that_prevents_it():
    """Beside carbon p(CO)^2 / (p(CO2) 1 bar) is the constant of C + CO2 = 2 CO; without it, less."""
    equilibrium = ChemicalEquilibrium(with_solids(GASES, ["graphite"]))
    numbers = {"carbon (graphite)": -1.0, "carbon dioxide": -1.0, "carbon monoxide": 2.0}
    parts = [solid("graphite"), component("carbon dioxide"), component("carbon monoxide")]
    K = math.exp(thermochemistry(numbers, parts, [900.0]).log_constant[0])
    for steam, carbon in ((0.5, True), (3.0, False)):
        n = equilibrium.at([1.0, steam, 0.0, 0.0, 0.0, 0.0], 900.0, 1e5)
        quotient = n[2] ** 2 / (n[3] * n[:5].sum())
        assert (n[5] > 0.1) == carbon
        assert quotient == pytest.approx(K, rel=1e-9) if carbon else quotient < K


def test_an_approach_in_temperature_takes_the_constant_from_there():
    ids = ["carbon monoxide", "water", "carbon dioxide", "hydrogen"]
    numbers = {"carbon monoxide": -1.0, "water": -1.0, "carbon dioxide": 1.0, "hydrogen": 1.0}
    model = PropertyModel("ideal", ids)
    shift = Reaction("Shift", numbers)
    for equilibrium, approach in ((ChemicalEquilibrium(model), 25.0), (ChemicalEquilibrium(model, [shift]), [25.0])):
        n = equilibrium.at([1.0, 1.0, 0.0, 0.0], 700.0, 1e5, approach)
        assert n[2] * n[3] / (n[0] * n[1]) == pytest.approx(constant(numbers, 725.0), rel=1e-10)


@pytest.mark.parametrize("T", [330.0, 346.0, 352.0, 370.0])
def test_an_ester_forms_in_liquid_and_vapour_together(T):
    """In the phases that there are, each reaction quotient of fugacities is K; in a liquid that of activities is K of the pure liquids."""
    ids = ["ethanol", "acetic acid", "ethyl acetate", "water"]
    numbers = {"ethanol": -1.0, "acetic acid": -1.0, "ethyl acetate": 1.0, "water": 1.0}
    model, reaction = PropertyModel("nrtl", ids), Reaction("R1", numbers, "liquid")
    made = ChemicalEquilibrium(model, [reaction]).at([1.0, 1.2, 0.0, 0.1], T, 101325.0)
    state = model.flash(made / made.sum(), T=T, P=101325.0)
    ln_k = thermochemistry(numbers, [component(name) for name in ids], [T]).log_constant[0]
    nu = np.array([numbers[name] for name in ids])
    for phase in state.phases:
        assert nu @ np.log(phase.fractions * phase.fugacity_coefficients * 1.01325) == pytest.approx(ln_k, abs=1e-9)
    liquid = ChemicalEquilibrium(model, [reaction], phases="liquid").at([1.0, 1.2, 0.0, 0.1], T, 101325.0)
    x = liquid / liquid.sum()
    of_liquids = thermochemistry(numbers, [component(name) for name in ids], [T], "liquid").log_constant[0]
    assert nu @ np.log(x * model.activity_coefficients(T, 101325.0, x)) == pytest.approx(of_liquids, abs=0.01)  # but for the pressure of a liquid


def test_what_cannot_form_does_not_and_pure_feeds_stay():
    equilibrium = ChemicalEquilibrium(PropertyModel("ideal", [*GASES, "oxygen", "nitrogen"]))
    assert equilibrium.at([0, 0, 0, 0, 1.0, 0, 2.0], 900.0, 1e5) == pytest.approx([0, 0, 0, 0, 1.0, 0, 2.0], abs=1e-14)
    only_co = ChemicalEquilibrium(PropertyModel("ideal", ["carbon monoxide", "carbon dioxide", "oxygen"]))
    assert only_co.at([1.0, 0.0, 0.0], 900.0, 1e5) == pytest.approx([1.0, 0.0, 0.0], abs=1e-12)
    inert = ChemicalEquilibrium(PropertyModel("ideal", GASES), inert=["methane"]).at([1.0, 1.0, 1.0, 0.0, 0.0], 900.0, 1e5)
    assert inert[0] == pytest.approx(1.0, rel=1e-14)
    with pytest.raises(ValueError, match="butanone: not among the components"):
        ChemicalEquilibrium(PropertyModel("ideal", GASES), inert=["butanone"])


SPECIES = [*GASES, "oxygen", "nitrogen", "ammonia", "ethane", "methanol"]
MODEL = PropertyModel("ideal", SPECIES)
FREE = ChemicalEquilibrium(MODEL)
ATOMS = FREE._atoms


def gibbs(n, T, P):
    h, s = StandardStates(MODEL.components).levels(np.asarray(T))
    n = np.maximum(n, 1e-30)
    return float(n @ ((h - T * s) / (R * T) + np.log(n / n.sum() * P / 1e5)))


@settings(max_examples=40, deadline=None)
@given(st.lists(st.floats(0.02, 3.0), min_size=10, max_size=10), st.floats(500.0, 2500.0), st.floats(4.0, 7.0))
def test_elements_are_kept_and_no_neighbour_has_less_gibbs_energy(feed, T, decade):
    P, feed = 10.0**decade, np.array(feed)
    found = FREE.at(feed, T, P)
    assert ATOMS @ found == pytest.approx(ATOMS @ feed, rel=1e-11)
    assert found.min() >= 0.0
    _, _, right = np.linalg.svd(ATOMS)
    for direction in right[np.linalg.matrix_rank(ATOMS) :]:
        for sign in (1.0, -1.0):
            step = sign * direction
            falling = step < 0.0
            size = 1e-3 * min(1.0, float((found[falling] / -step[falling]).min()))
            assert gibbs(found + size * step, T, P) >= gibbs(found, T, P) - 1e-9
    assert gibbs(found, T, P) <= gibbs(feed, T, P)


@pytest.mark.parametrize("T", [800.0, 1200.0, 1800.0])
def test_a_general_optimiser_finds_nothing_lower(T):
    feed = np.array([1.0, 1.5, 0.0, 0.0, 0.0, 0.5, 1.0, 0.1, 0.0, 0.0])
    found = FREE.at(feed, T, 1e6)
    start = np.maximum(found, 1e-9)
    best = minimize(
        lambda n: gibbs(n, T, 1e6), start + 0.05, method="SLSQP", bounds=[(1e-12, None)] * len(start),
        constraints={"type": "eq", "fun": lambda n: ATOMS @ (n - feed)}, options={"maxiter": 400, "ftol": 1e-13},
    )  # fmt: skip
    assert gibbs(found, T, 1e6) <= best.fun + 1e-7
    assert found == pytest.approx(best.x, abs=2e-4)


def test_the_equilibrium_of_enough_reactions_is_that_of_the_elements():
    ids = [*GASES, "nitrogen", "ammonia"]
    numbers = [
        {"methane": -1, "water": -1, "carbon monoxide": 1, "hydrogen": 3},
        {"carbon monoxide": -1, "water": -1, "carbon dioxide": 1, "hydrogen": 1},
        {"methane": -1, "water": -2, "carbon dioxide": 1, "hydrogen": 4},
        {"nitrogen": -1, "hydrogen": -3, "ammonia": 2},
    ]
    model = PropertyModel("peng-robinson", ids)
    reactions = [Reaction(f"R{k}", n) for k, n in enumerate(numbers)]
    feed = [1.0, 2.0, 0.0, 0.0, 0.0, 0.5, 0.0]
    free, by_reactions = ChemicalEquilibrium(model).at(feed, 950.0, 3e6), ChemicalEquilibrium(model, reactions).at(feed, 950.0, 3e6)
    assert by_reactions == pytest.approx(free, rel=1e-9)
    with pytest.raises(ValueError, match="follows from the others"):
        ChemicalEquilibrium(model, reactions).at(feed, 950.0, 3e6, [0.0, 30.0, 0.0, 0.0])
