"""Worked examples of textbooks, calculated with the constants that they print.

SVA: Smith, Van Ness, Abbott, *Introduction to Chemical Engineering Thermodynamics*, 7th edition. S: Sandler, *Chemical, Biochemical, and
Engineering Thermodynamics*, 4th edition. G: Gmehling, Kleiber, Kolbe, Rarey, *Chemical Thermodynamics for Process Simulation*, 2019.
P: Poling, Prausnitz, O'Connell, *The Properties of Gases and Liquids*, 5th edition.
"""

import math
from dataclasses import replace

import numpy as np
import pytest

from wattaxis import Component, HeatCapacity, PropertyModel, VapourPressure, component

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


#: cal/(mol K), as the books have it.
CALORIES = 8.31446261815324 / 4.184


def gammas(model, t, x):
    return model.activity_coefficients(t, 1e5, x)


def test_wilson_of_two():
    """SVA: 2-propanol and water, 437.98 and 1238.00 cal/mol, 76.92 and 18.07 cm3/mol; 353.15 K, x1 = 0.25: 2.1244 and 1.1904; azeotrope at 0.7173."""
    pair, volumes = ("2-propanol", "water"), math.log(18.07 / 76.92)
    parts = [antoine(pair[0], 16.6796, 3640.20, 219.61, True), antoine(pair[1], 16.3872, 3885.70, 230.17, True)]
    values = {"a12": volumes, "b12": -437.98 / CALORIES, "a21": -volumes, "b21": -1238.00 / CALORIES}
    model = PropertyModel("wilson", parts, {pair: values})
    assert gammas(model, 353.15, [0.25, 0.75]) == pytest.approx([2.1244, 1.1904], abs=5e-4)
    assert model.flash([0.7173, 0.2827], T=353.15, VF=0.0).vapour_fractions[0] == pytest.approx(0.7173, abs=2e-4)


def test_wilson_of_three():
    """G 5.9: acetone, chloroform, methanol at 331.42 K, coefficients of T in cal/mol over the gas constant; 1.223, 1.101, 1.205."""
    names, volumes = ("acetone", "chloroform", "methanol"), (74.04, 80.67, 40.73)
    a = [[0, 375.2835, 31.1208], [-1722.58, 0, -1140.79], [747.217, 3596.17, 0]]
    b = [[0, -3.78434, -0.67704], [6.405502, 0, 2.59359], [-0.256645, -6.2234, 0]]
    c = [[0, 7.91073e-3, 8.68371e-4], [-7.47788e-3, 0, 3.1e-5], [-1.24796e-3, 3e-5, 0]]
    pairs = {}
    for i, j in ((0, 1), (0, 2), (1, 2)):
        both = {}
        for way, (k, m) in (("12", (i, j)), ("21", (j, i))):
            both |= {f"a{way}": math.log(volumes[m] / volumes[k]) - b[k][m], f"b{way}": -a[k][m], f"f{way}": -c[k][m]}
        pairs[names[i], names[j]] = both
    model = PropertyModel("wilson", names, pairs)
    assert gammas(model, 331.42, [0.229, 0.175, 0.596]) == pytest.approx([1.223, 1.101, 1.205], abs=6e-4)


def test_nrtl():
    """G 5.1 b: ethanol and water at 70 degC, -121.2691 and 1337.8574 cal/mol, alpha 0.2974, x1 = 0.252: 1.936 and 1.154."""
    pair = ("ethanol", "water")
    values = {"b12": -121.2691 / CALORIES, "b21": 1337.8574 / CALORIES, "alpha": 0.2974}
    assert gammas(PropertyModel("nrtl", pair, {pair: values}), 343.15, [0.252, 0.748]) == pytest.approx([1.936, 1.154], abs=6e-4)


def with_sizes(names, sizes, surfaces):
    parts = (component(name) for name in names)
    return [replace(c, uniquac_r=r, uniquac_q=q) for c, r, q in zip(parts, sizes, surfaces, strict=True)]


def test_uniquac_of_two_liquids():
    """G 5.19: water, ethanol, benzene at 25 degC; in one liquid 1.570, 0.2948, 18.11, in the other 8.856, 0.860, 1.425."""
    names = ("water", "ethanol", "benzene")
    tau = [[0, -526.02, -309.64], [318.06, 0, 91.532], [-1325.1, -302.57, 0]]
    pairs = {(names[i], names[j]): {"b12": tau[i][j], "b21": tau[j][i]} for i, j in ((0, 1), (0, 2), (1, 2))}
    model = PropertyModel("uniquac", with_sizes(names, (0.92, 2.1055, 3.1878), (1.4, 1.972, 2.4)), pairs)
    assert gammas(model, 298.15, [0.7273, 0.0909, 0.1818]) == pytest.approx([1.570, 0.2948, 18.11], rel=4e-4)
    assert gammas(model, 298.15, [1 / 6, 1 / 6, 2 / 3]) == pytest.approx([8.856, 0.860, 1.425], rel=6e-4)


def test_uniquac_of_a_hydrocarbon_phase():
    """P, problem 8.32: acetonitrile, benzene, n-heptane at 45 degC; 7.15, 1.25, 1.06."""
    names = ("acetonitrile", "benzene", "n-heptane")
    tau = [[0, -60.28, -23.71], [-89.57, 0, 135.9], [-545.8, -245.4, 0]]
    pairs = {(names[i], names[j]): {"b12": tau[i][j], "b21": tau[j][i]} for i, j in ((0, 1), (0, 2), (1, 2))}
    model = PropertyModel("uniquac", with_sizes(names, (1.87, 3.19, 5.17), (1.72, 2.4, 4.4)), pairs)
    assert gammas(model, 318.15, [0.1311, 0.0330, 0.8359]) == pytest.approx([7.15, 1.25, 1.06], abs=6e-3)


def test_unifac():
    """G 5.22 a: n-hexane and butanone at 60 degC, half and half: 1.428 and 1.365."""
    assert gammas(PropertyModel("unifac", ["n-hexane", "butanone"]), 333.15, [0.5, 0.5]) == pytest.approx([1.428, 1.365], abs=1e-3)


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
