"""Activity coefficients against the thermo library: the same parameters, other code; and published values with their sources."""

import numpy as np
import pytest
from thermo import unifac
from thermo.nrtl import NRTL
from thermo.uniquac import UNIQUAC
from thermo.wilson import Wilson

from wattaxis import PropertyModel, component

RNG = np.random.default_rng(5)
STATES = [(RNG.uniform(280, 420), RNG.dirichlet(np.ones(3))) for _ in range(25)]
PARTS = ["ethanol", "water", "butanone"]
A = RNG.uniform(-0.5, 0.8, (3, 3)) * (1 - np.eye(3))
B = RNG.uniform(-150, 250, (3, 3)) * (1 - np.eye(3))
PAIRS = {
    (PARTS[i], PARTS[j]): {"a12": A[i, j], "a21": A[j, i], "b12": B[i, j], "b21": B[j, i]}
    for i in range(3)
    for j in range(i)
}  # fmt: skip


def gammas(model, t, x):
    return model.activity_coefficients(t, 1e5, x)


@pytest.mark.parametrize(("t", "x"), STATES)
def test_nrtl(t, x):
    model = PropertyModel("nrtl", PARTS, {pair: {**values, "alpha": 0.3} for pair, values in PAIRS.items()})
    theirs = NRTL(T=t, xs=x.tolist(), tau_as=A.tolist(), tau_bs=B.tolist(), alpha_cs=(0.3 * (1 - np.eye(3))).tolist())
    assert gammas(model, t, x) == pytest.approx(theirs.gammas(), rel=1e-10)


@pytest.mark.parametrize(("t", "x"), STATES)
def test_wilson(t, x):
    theirs = Wilson(T=t, xs=x.tolist(), lambda_as=A.tolist(), lambda_bs=B.tolist())
    assert gammas(PropertyModel("wilson", PARTS, PAIRS), t, x) == pytest.approx(theirs.gammas(), rel=1e-10)


@pytest.mark.parametrize(("t", "x"), STATES)
def test_uniquac(t, x):
    parts = [component(name) for name in PARTS]
    sizes = {"rs": [c.uniquac_r for c in parts], "qs": [c.uniquac_q for c in parts]}
    theirs = UNIQUAC(T=t, xs=x.tolist(), tau_as=A.tolist(), tau_bs=B.tolist(), **sizes)
    assert gammas(PropertyModel("uniquac", PARTS, PAIRS), t, x) == pytest.approx(theirs.gammas(), rel=1e-10)


@pytest.mark.parametrize(("kind", "version"), [("unifac", 0), ("unifac-dortmund", 1)])
def test_unifac(kind, version):
    form = kind.split("-")[-1]
    for t, x in STATES:
        theirs = unifac.UNIFAC.from_subgroups(T=t, xs=x.tolist(), version=version, chemgroups=[component(name).groups[form] for name in PARTS])
        assert gammas(PropertyModel(kind, PARTS), t, x) == pytest.approx(theirs.gammas(), rel=1e-9)


def test_unifac_worked_example():
    """Fredenslund, Gmehling, Rasmussen 1977, chapter 2: acetone (0.047) and n-pentane at 307 K, ln gamma 1.60 of acetone; activity coefficient
    near 5 as Poling, Prausnitz, O'Connell 2001, example 8-12 (4.99, experiment 4.41) with the parameters of their time."""
    gamma = gammas(PropertyModel("unifac", ["acetone", "pentane"]), 307.0, [0.047, 0.953])
    assert gamma[0] == pytest.approx(4.99, rel=0.01)
    assert gamma[1] == pytest.approx(1.005, abs=0.003)


@pytest.mark.parametrize(("a12", "a21"), [(0.5, 1.2), (1.7, 1.7), (-0.4, -0.9)])
def test_margules_and_van_laar_by_their_textbook_forms(a12, a21):
    pair = {("benzene", "toluene"): {"a12": a12, "a21": a21}}
    for x1 in np.linspace(0.05, 0.95, 10):
        x2 = 1 - x1
        margules = gammas(PropertyModel("margules", ["benzene", "toluene"], pair), 350.0, [x1, x2])
        assert np.log(margules) == pytest.approx([x2**2 * (a12 + 2 * (a21 - a12) * x1), x1**2 * (a21 + 2 * (a12 - a21) * x2)], abs=1e-12)
        laar = gammas(PropertyModel("van-laar", ["benzene", "toluene"], pair), 350.0, [x1, x2])
        bottom = a12 * x1 + a21 * x2
        assert np.log(laar) == pytest.approx([a12 * (a21 * x2 / bottom) ** 2, a21 * (a12 * x1 / bottom) ** 2], abs=1e-12)


def test_van_laar_constants_of_opposite_sign_are_refused():
    with pytest.raises(ValueError, match="same sign"):
        PropertyModel("van-laar", ["benzene", "toluene"], {("benzene", "toluene"): {"a12": 0.5, "a21": -0.5}})


@pytest.mark.parametrize("kind", ["unifac", "unifac-dortmund", "uniquac"])
def test_a_component_without_groups_is_named(kind):
    with pytest.raises(ValueError, match=r"hydrogen.*Choose another model"):
        PropertyModel(kind, ["butanone", "hydrogen"])


def azeotrope(model, pressure):
    """(T, x1) of the homogeneous binary azeotrope: where bubble-point vapour and liquid agree."""
    from scipy.optimize import brentq

    def gap(x):
        state = model.flash([x, 1 - x], P=pressure, VF=0.0)
        return state.vapour_fractions[0] - x

    x = brentq(gap, 0.02, 0.98, xtol=1e-10)
    return model.flash([x, 1 - x], P=pressure, VF=0.0).temperature, x


@pytest.mark.parametrize(
    ("kind", "first", "second", "kelvin", "x1"),
    [
        # Gmehling, Menke, Krafczyk, Fischer 2004, Azeotropic Data, and CRC Handbook, 95th edition, 6-210: 101.3 kPa
        ("nrtl", "ethanol", "water", 351.3, 0.90),
        ("wilson", "ethanol", "water", 351.3, 0.90),
        ("uniquac", "ethanol", "water", 351.3, 0.90),
        ("unifac-dortmund", "ethanol", "water", 351.3, 0.90),
        ("wilson", "1-propanol", "water", 360.8, 0.43),
        ("uniquac", "isopropanol", "water", 353.4, 0.68),
        ("uniquac", "ethanol", "ethyl acetate", 345.0, 0.46),
        ("uniquac", "methanol", "benzene", 331.2, 0.61),
        ("nrtl", "ethanol", "benzene", 341.1, 0.45),
        ("unifac-dortmund", "ethanol", "benzene", 341.1, 0.45),
        ("unifac-dortmund", "acetone", "methanol", 328.6, 0.79),
        ("unifac-dortmund", "methanol", "benzene", 331.2, 0.61),
        ("unifac-dortmund", "ethanol", "ethyl acetate", 345.0, 0.46),
        ("unifac-dortmund", "acetone", "chloroform", 337.6, 0.34),
        ("unifac-dortmund", "benzene", "cyclohexane", 350.6, 0.54),
        ("unifac-dortmund", "ethanol", "butanone", 347.2, 0.49),
    ],
)
def test_binary_azeotropes_of_the_literature(kind, first, second, kelvin, x1):
    temperature, x = azeotrope(PropertyModel(kind, [first, second]), 101325.0)
    assert temperature == pytest.approx(kelvin, abs=1.0)
    assert x == pytest.approx(x1, abs=0.04)


@pytest.mark.parametrize(
    ("kind", "first", "kelvin", "y1"),
    [
        # heterogeneous azeotropes with water at 101.3 kPa, same sources
        ("nrtl", "butanone", 346.6, 0.65),
        ("uniquac", "butanone", 346.6, 0.65),
        ("uniquac", "1-butanol", 365.9, 0.25),
        ("unifac-dortmund", "1-butanol", 365.9, 0.25),
        ("unifac-dortmund", "benzene", 342.4, 0.70),
        ("unifac-dortmund", "ethyl acetate", 343.5, 0.69),
    ],
)
def test_heterogeneous_azeotropes_with_water(kind, first, kelvin, y1):
    """Two liquids under their common vapour: its composition and temperature do not depend on the amounts."""
    state = PropertyModel(kind, [first, "water"]).flash([0.4, 0.6], P=101325.0, VF=0.3)
    assert state.phase == "liquid and vapour and second liquid"
    assert state.temperature == pytest.approx(kelvin, abs=1.2)
    assert state.vapour.fractions[0] == pytest.approx(y1, abs=0.03)
