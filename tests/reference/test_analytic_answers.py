"""Answers that can be derived by hand: ideal mixtures, one-component phase change, throttling, mixing."""

import math

import numpy as np
import pytest

from wattaxis import Component, HeatCapacity, PropertyModel, VapourPressure
from wattaxis.properties.layout import R

#: ln(Psat/Pa) = a - b/T with round numbers, so that everything follows on paper.
A = (25.0, 4000.0)
B = (24.0, 4200.0)


def antoine(name, constants, heat=40.0):
    a, b = constants
    pressure = VapourPressure(4, (a, b, 0.0, 0.0, 0.0), 200.0, 600.0)
    return Component(name, 0.05, 550.0, 40e5, 0.2, HeatCapacity((heat, 0.0, 0.0, 0.0, 0.0)), vapour_pressure=pressure)


@pytest.fixture(scope="module")
def model():
    return PropertyModel("ideal", [antoine("A", A), antoine("B", B, 60.0)])


def psat(constants, temperature):
    return math.exp(constants[0] - constants[1] / temperature)


@pytest.mark.parametrize("x", [0.1, 0.35, 0.5, 0.9])
def test_bubble_pressure_of_raoult(model, x):
    state = model.flash([x, 1 - x], T=350.0, VF=0.0)
    pressure = x * psat(A, 350.0) + (1 - x) * psat(B, 350.0)
    assert state.pressure == pytest.approx(pressure, rel=1e-12)
    assert state.vapour_fractions[0] == pytest.approx(x * psat(A, 350.0) / pressure, rel=1e-12)


@pytest.mark.parametrize("y", [0.1, 0.35, 0.5, 0.9])
def test_dew_pressure_of_raoult(model, y):
    state = model.flash([y, 1 - y], T=350.0, VF=1.0)
    assert state.pressure == pytest.approx(1 / (y / psat(A, 350.0) + (1 - y) / psat(B, 350.0)), rel=1e-12)


def test_binary_split_by_the_lever_rule(model):
    pressure = 0.5 * (psat(A, 350.0) + psat(B, 350.0))
    x = (pressure - psat(B, 350.0)) / (psat(A, 350.0) - psat(B, 350.0))
    y = x * psat(A, 350.0) / pressure
    z = 0.3 * x + 0.7 * y
    state = model.flash([z, 1 - z], T=350.0, P=pressure)
    assert state.vapour_fraction == pytest.approx(0.7, rel=1e-10)
    assert state.liquid_fractions[0] == pytest.approx(x, rel=1e-10)


def test_heat_of_vaporisation_is_that_of_clausius_and_clapeyron(model):
    pure = PropertyModel("ideal", [antoine("A", A)])
    pressure = psat(A, 350.0)
    wet, dry = pure.flash([1.0], P=pressure, VF=0.0), pure.flash([1.0], P=pressure, VF=1.0)
    assert wet.temperature == pytest.approx(350.0, rel=1e-12)
    assert dry.enthalpy - wet.enthalpy == pytest.approx(R * A[1], rel=1e-12)
    assert dry.entropy - wet.entropy == pytest.approx(R * A[1] / 350.0, rel=1e-12)


def test_entropy_of_mixing_and_of_expansion(model):
    one = [model.phase("vapour", 400.0, 1e4, x) for x in ([1.0, 0.0], [0.0, 1.0])]
    mixed = model.phase("vapour", 400.0, 1e4, [0.25, 0.75])
    ideal = -R * (0.25 * math.log(0.25) + 0.75 * math.log(0.75))
    assert mixed.entropy - 0.25 * one[0].entropy - 0.75 * one[1].entropy == pytest.approx(ideal, rel=1e-12)
    thin = model.phase("vapour", 400.0, 1e3, [0.25, 0.75])
    assert thin.entropy - mixed.entropy == pytest.approx(R * math.log(10.0), rel=1e-12)
    assert thin.enthalpy == pytest.approx(mixed.enthalpy, rel=1e-14)


def test_isentropic_expansion_of_an_ideal_gas(model):
    """T2 = T1 (P2/P1)^(R/Cp) with a constant heat capacity."""
    pure = PropertyModel("ideal", [antoine("A", A)])
    start = pure.flash([1.0], T=500.0, P=2e5)
    end = pure.flash([1.0], P=1e5, S=start.entropy)
    assert end.temperature == pytest.approx(500.0 * 0.5 ** (R / 40.0), rel=1e-9)


@pytest.mark.parametrize("kind", ["peng-robinson", "soave-redlich-kwong"])
def test_critical_point_of_a_pure_fluid(kind):
    """Where dP/dv and d2P/dv2 vanish both equations give their own critical pressure and compressibility."""
    compressibility = {"peng-robinson": 0.3074013, "soave-redlich-kwong": 1 / 3}[kind]
    model = PropertyModel(kind, ["propane"])
    c = model.components[0]
    phase = model.phase("vapour", c.critical_temperature, c.critical_pressure, [1.0])
    # The root is triple there, so that its digits are the cube root of the machine's.
    assert phase.compressibility == pytest.approx(compressibility, abs=2e-4)
    assert model.flash([1.0], T=0.99999 * c.critical_temperature, VF=0.5).pressure == pytest.approx(c.critical_pressure, rel=2e-4)


@pytest.mark.parametrize("kind", ["peng-robinson", "soave-redlich-kwong"])
def test_saturation_pressure_at_seven_tenths_gives_the_acentric_factor(kind):
    """Both alpha functions were fitted so that omega = -1 - log10(Psat/Pc) at T/Tc = 0.7."""
    for name in ("propane", "n-pentane", "benzene"):
        model = PropertyModel(kind, [name])
        c = model.components[0]
        pressure = model.flash([1.0], T=0.7 * c.critical_temperature, VF=0.0).pressure
        assert -1 - math.log10(pressure / c.critical_pressure) == pytest.approx(c.acentric_factor, abs=0.01)


def test_second_virial_coefficient_at_low_pressure():
    """Z -> 1 + (b - a/(RT)) P/(RT) for any cubic equation (van der Waals limit)."""
    model = PropertyModel("peng-robinson", ["propane"])
    c = model.components[0]
    t = 400.0
    m = 0.37464 + 1.54226 * c.acentric_factor - 0.26992 * c.acentric_factor**2
    a = 0.45723553 * (R * c.critical_temperature) ** 2 / c.critical_pressure * (1 + m * (1 - math.sqrt(t / c.critical_temperature))) ** 2
    b = 0.07779607 * R * c.critical_temperature / c.critical_pressure
    for pressure in (1e2, 1e3, 1e4):
        z = model.phase("vapour", t, pressure, [1.0]).compressibility
        assert (z - 1) / pressure == pytest.approx((b - a / (R * t)) / (R * t), rel=2e-3)


def test_pressure_dependence_of_enthalpy_is_maxwells():
    """dH/dP at constant T equals v - T dv/dT."""
    model = PropertyModel("soave-redlich-kwong", ["propane", "n-pentane"])
    t, p, x = 450.0, 12e5, [0.4, 0.6]

    def at(temperature, pressure):
        return model.phase("vapour", temperature, pressure, x)

    slope = (at(t, p * 1.0001).enthalpy - at(t, p * 0.9999).enthalpy) / (2e-4 * p)
    bulge = (at(t * 1.0001, p).molar_volume - at(t * 0.9999, p).molar_volume) / (2e-4 * t)
    assert slope == pytest.approx(at(t, p).molar_volume - t * bulge, rel=1e-5)


def test_infinite_dilution_and_pure_limits():
    model = PropertyModel("peng-robinson", ["methane", "n-decane"])
    trace = model.flash([1e-12, 1.0], T=300.0, P=1e5)
    none = model.flash([0.0, 1.0], T=300.0, P=1e5)
    assert trace.enthalpy == pytest.approx(none.enthalpy, rel=1e-9)
    assert trace.vapour_fraction == none.vapour_fraction == 0.0
    gas = model.flash([1.0, 1e-12], T=300.0, P=1e5)
    assert gas.vapour_fraction == 1.0
    assert np.isfinite(gas.entropy)
