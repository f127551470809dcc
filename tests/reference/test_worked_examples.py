"""Worked examples of textbooks, calculated with the constants that they print.

SVA: Smith, Van Ness, Abbott, *Introduction to Chemical Engineering Thermodynamics*, 7th edition. S: Sandler, *Chemical, Biochemical, and
Engineering Thermodynamics*, 4th edition.
"""

import math

import numpy as np
import pytest

from wattaxis import Component, HeatCapacity, PropertyModel, VapourPressure

KPA = 1e3
GAS = HeatCapacity((40.0, 0.0, 0.0, 0.0, 0.0))


def antoine(name, a, b, c, celsius=False):
    """ln(P/kPa) = a - b/(T + c) with T in K or degC; nothing else of the component enters."""
    shift = c - 273.15 if celsius else c
    return Component(name, 0.05, 560.0, 48e5, 0.3, GAS, vapour_pressure=VapourPressure(4, (a + math.log(KPA), b, shift, 0.0, 0.0), 250.0, 450.0))


@pytest.fixture(scope="module")
def nitriles():
    """SVA examples 10.1 and 10.5: acetone, acetonitrile, nitromethane by Raoult's law."""
    acetonitrile, nitromethane = antoine("acetonitrile", 14.2724, 2945.47, 224.0, True), antoine("nitromethane", 14.2043, 2972.64, 209.0, True)
    return PropertyModel("ideal", [acetonitrile, nitromethane])


def test_raoults_law_bubble_and_dew_pressure(nitriles):
    """SVA 10.1 (a): 75 degC; bubble point at x1 = 0.6: 66.72 kPa, y1 = 0.7483; dew point at y1 = 0.6: 59.74 kPa, x1 = 0.4308."""
    bubble, dew = (nitriles.flash([0.6, 0.4], T=348.15, VF=v) for v in (0.0, 1.0))
    assert bubble.pressure / KPA == pytest.approx(66.72, abs=0.02)
    assert bubble.vapour_fractions[0] == pytest.approx(0.7483, abs=2e-4)
    assert dew.pressure / KPA == pytest.approx(59.74, abs=0.02)
    assert dew.liquid_fractions[0] == pytest.approx(0.4308, abs=2e-4)


def test_raoults_law_bubble_and_dew_temperature(nitriles):
    """SVA 10.1 (b): 70 kPa; 76.42 degC with y1 = 0.7472, and 79.58 degC with x1 = 0.4351."""
    bubble, dew = (nitriles.flash([0.6, 0.4], P=70 * KPA, VF=v) for v in (0.0, 1.0))
    assert bubble.temperature - 273.15 == pytest.approx(76.42, abs=0.01)
    assert bubble.vapour_fractions[0] == pytest.approx(0.7472, abs=2e-4)
    assert dew.temperature - 273.15 == pytest.approx(79.58, abs=0.01)
    assert dew.liquid_fractions[0] == pytest.approx(0.4351, abs=2e-4)


def test_a_flash_by_raoults_law():
    """SVA 10.5: 80 degC and 110 kPa with vapour pressures of 195.75, 97.84 and 50.32 kPa: 0.7364 of it is vapour."""
    flat = [antoine(n, math.log(p), 1e-9, 100.0) for n, p in (("acetone", 195.75), ("acetonitrile", 97.84), ("nitromethane", 50.32))]
    state = PropertyModel("ideal", flat).flash([0.45, 0.35, 0.20], T=353.15, P=110 * KPA)
    assert state.vapour_fraction == pytest.approx(0.7364, abs=2e-4)
    assert state.vapour_fractions == pytest.approx([0.5087, 0.3389, 0.1524], abs=2e-4)
    assert state.liquid_fractions == pytest.approx([0.2859, 0.3810, 0.3331], abs=2e-4)


@pytest.fixture(scope="module")
def acetate():
    """SVA 10.3: methanol and methyl acetate, ln gamma1 = A x2^2, ln gamma2 = A x1^2, A = 2.771 - 0.00523 T."""
    pair = ("methanol", "methyl acetate")
    parts = [antoine(pair[0], 16.59158, 3643.31, -33.424), antoine(pair[1], 14.25326, 2665.54, -53.424)]
    return PropertyModel("margules", parts, {pair: {"a12": 2.771, "a21": 2.771, "f12": -0.00523, "f21": -0.00523}})


@pytest.mark.parametrize(
    ("given", "fraction", "wanted"),
    [
        ({"T": 318.15, "VF": 0.0}, 0.25, {"P": 73.50, "y": 0.282}),
        ({"T": 318.15, "VF": 1.0}, 0.60, {"P": 62.89, "x": 0.8169}),
        ({"P": 101.33 * KPA, "VF": 0.0}, 0.85, {"T": 331.20, "y": 0.670}),
        ({"P": 101.33 * KPA, "VF": 1.0}, 0.40, {"T": 326.70, "x": 0.4602}),
    ],
)
def test_margules_bubble_and_dew_points(acetate, given, fraction, wanted):
    state = acetate.flash([fraction, 1.0 - fraction], **given)
    found = {"P": state.pressure / KPA, "T": state.temperature, "x": state.liquid_fractions[0], "y": state.vapour_fractions[0]}
    close = {"P": 0.02, "T": 0.02, "x": 5e-4, "y": 5e-4}
    for key, value in wanted.items():
        assert found[key] == pytest.approx(value, abs=close[key])


def test_margules_azeotrope(acetate):
    """SVA 10.3 (e): 318.15 K, x1 = y1 = 0.325, 73.76 kPa."""
    state = acetate.flash([0.325, 0.675], T=318.15, VF=0.0)
    assert state.pressure / KPA == pytest.approx(73.76, abs=0.02)
    assert state.vapour_fractions[0] == pytest.approx(0.325, abs=5e-4)


def test_van_laar_from_an_azeotrope():
    """S 9.5: benzene and cyclohexane at 77.6 degC part at x1 = 0.525 with gamma 1.020 and 1.034: alpha = 0.125, beta = 0.0919."""
    pair = ("benzene", "cyclohexane")
    model = PropertyModel("van-laar", pair, {pair: {"a12": 0.125, "a21": 0.0919}})
    assert model.activity_coefficients(350.75, 1e5, [0.525, 0.475]) == pytest.approx([1.020, 1.034], abs=1.5e-3)
    assert model.activity_coefficients(350.75, 1e5, [1e-9, 1.0]) == pytest.approx([math.exp(0.125), 1.0], abs=1e-6)


@pytest.mark.parametrize(("kind", "vapour", "liquid"), [("soave-redlich-kwong", 2520.0, 127.8), ("peng-robinson", 2486.0, 112.6)])
def test_saturated_butane_by_cubic_equations(kind, vapour, liquid):
    """SVA 3.9: n-butane at 350 K and 9.4573 bar, cm3/mol."""
    butane = Component("n-butane", 0.05812, 425.1, 37.96e5, 0.200, GAS)
    model = PropertyModel(kind, [butane])
    for phase, volume in (("vapour", vapour), ("liquid", liquid)):
        assert model.phase(phase, 350.0, 9.4573e5, [1.0]).molar_volume * 1e6 == pytest.approx(volume, abs=0.6 if phase == "vapour" else 0.15)


def test_a_regular_pair_obeys_its_own_limits():
    """With one constant A of both directions G_E/RT = A x1 x2 at every composition, and an azeotrope at equal vapour pressures lies in the middle."""
    pair = ("a", "b")
    model = PropertyModel("margules", [antoine(n, 14.0, 3000.0, -50.0) for n in pair], {pair: {"a12": 0.8, "a21": 0.8}})
    for x in np.linspace(0.05, 0.95, 7):
        gammas = model.activity_coefficients(330.0, 1e5, [x, 1 - x])
        assert x * math.log(gammas[0]) + (1 - x) * math.log(gammas[1]) == pytest.approx(0.8 * x * (1 - x), rel=1e-12)
    assert model.flash([0.5, 0.5], T=330.0, VF=0.0).vapour_fractions[0] == pytest.approx(0.5, abs=1e-9)
