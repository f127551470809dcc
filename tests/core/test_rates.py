"""Rate laws whose constants cannot be mistyped: units follow from the law, and the rate is the same whatever units are typed."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from wattaxis import Quantity, QuantityError, to_si
from wattaxis.quantities.quantity import dimension
from wattaxis.reactions import Arrhenius, PowerLaw
from wattaxis.reactions.rates import BASIS_UNITS, RATE_UNITS

ORDERS = st.sampled_from([-1.0, -0.5, 0.0, 0.5, 1.0, 1.5, 2.0, 3.0])


@pytest.mark.parametrize(
    ("law", "value", "unit", "si"),
    [
        (PowerLaw({"a": 1.0}), 1.0, "1/min", 1.0 / 60.0),
        (PowerLaw({"a": 2.0}), 1.0, "L/(mol s)", 1e-3),
        (PowerLaw({"a": 2.0}), 1.0, "L/mol/s", 1e-3),
        (PowerLaw({"a": 1.0, "b": 1.0}), 1.0, "m3/(kmol h)", 1e-3 / 3600.0),
        (PowerLaw({"a": 2.0}), 1.0, "cm3/(mol min)", 1e-6 / 60.0),
        (PowerLaw({"a": 0.0}), 1.0, "kmol/(m3 h)", 1000.0 / 3600.0),
        (PowerLaw({"a": 0.5}), 1.0, "kmol^0.5/(m^1.5 s)", math.sqrt(1000.0)),
        (PowerLaw({"a": 1.0}, "partial pressure", "catalyst mass"), 1.0, "kmol/(kg h bar)", 1000.0 / 3600.0 / 1e5),
        (PowerLaw({"a": 1.0, "b": -0.5}, "fugacity", "catalyst mass"), 1.0, "mol/(g s kPa^0.5)", 1000.0 / math.sqrt(1000.0)),
        (PowerLaw({"a": 2.0}, "mole fraction"), 1.0, "kmol/(m3 h)", 1000.0 / 3600.0),
    ],
)
def test_constants_are_understood_in_any_units_that_fit(law, value, unit, si):
    assert law.constant_si(value, unit) == pytest.approx(si, rel=1e-12)


@pytest.mark.parametrize(
    ("law", "unit"),
    [
        (PowerLaw({"a": 2.0}), "1/s"),
        (PowerLaw({"a": 1.0}), "m3/(mol s)"),
        (PowerLaw({"a": 1.0}, "partial pressure"), "1/s"),
        (PowerLaw({"a": 1.0}, "concentration", "catalyst mass"), "1/s"),
        (PowerLaw({"a": 0.0}), "1/s"),
        (PowerLaw({"a": 1.0}), "K"),
    ],
)
def test_a_unit_of_another_law_is_refused_with_the_one_that_fits(law, unit):
    with pytest.raises(QuantityError, match="does not fit") as refused:
        law.constant_si(1.0, unit)
    assert law.constant_unit in str(refused.value)


@given(
    st.dictionaries(st.sampled_from("abc"), ORDERS).filter(lambda orders: -2.0 <= sum(orders.values()) <= 3.0),
    st.sampled_from(list(BASIS_UNITS)),
    st.sampled_from(list(RATE_UNITS)),
)
def test_the_unit_that_is_shown_can_be_typed(orders, basis, per):
    law = PowerLaw(orders, basis, per)
    assert law.constant_si(2.5, law.constant_unit) == pytest.approx(2.5, rel=1e-12)


@given(ORDERS, st.floats(0.1, 10.0), st.floats(1.0, 5000.0))
def test_the_rate_is_the_same_in_litres_and_hours(order, constant, amount):
    """A law in mol/L and h, worked by hand, against the same one in SI."""
    law = PowerLaw({"a": order})
    exponent = 1.0 - order
    unit = f"mol^{exponent:g} L^{-exponent:g}/h"
    by_hand = constant * (amount / 1000.0) ** order * 1000.0 / 3600.0
    assert law.rate(law.constant_si(constant, unit), {"a": amount}) == pytest.approx(by_hand, rel=1e-12)


def test_orders_that_no_reaction_has_are_refused():
    with pytest.raises(ValueError, match="-2 to 3, not 4"):
        PowerLaw({"a": 2.0, "b": 2.0})


def test_an_order_of_zero_is_in_the_law_and_matters_nothing():
    law = PowerLaw({"a": 1.0, "b": 0.0})
    assert "b" in law.orders
    assert law.rate(2.0, {"a": 3.0, "b": 0.0}) == law.rate(2.0, {"a": 3.0, "b": 7.0}) == 6.0
    assert law.rate(2.0, {"a": 0.0, "b": 1.0}) == 0.0
    assert PowerLaw({"a": -1.0}).rate(2.0, {"a": 0.0}) == math.inf


@given(st.floats(1e-6, 1e12), st.floats(-50e3, 300e3), st.floats(250.0, 900.0), st.floats(-2.0, 2.0))
def test_a_reference_temperature_changes_how_a_constant_is_written_and_not_what_it_is(factor, energy, reference, power):
    """The constant at the reference, moved to an infinite one by hand, is the same at every temperature."""
    law = Arrhenius(factor, energy, reference, power)
    log_plain = math.log(factor) + energy / 8.31446261815324 / reference - power * math.log(reference)
    T = np.array([280.0, 500.0, 1000.0])
    by_hand = log_plain + power * np.log(T) - energy / 8.31446261815324 / T
    assert law.log_at(T) == pytest.approx(by_hand, rel=1e-9, abs=1e-9)
    assert law.at(reference) == pytest.approx(factor, rel=1e-9)
    slope = (law.log_at(T * (1 + 1e-6)) - law.log_at(T * (1 - 1e-6))) / (2e-6 * T)
    assert slope * 8.31446261815324 * T**2 == pytest.approx(energy + power * 8.31446261815324 * T, rel=1e-5, abs=5.0)


@pytest.mark.parametrize(("values", "says"), [((0.0,), "more than 0"), ((math.nan,), "more than 0"), ((1.0, 0.0, -3.0), "above 0 K")])
def test_constants_that_are_none_are_refused(values, says):
    with pytest.raises(ValueError, match=says):
        Arrhenius(*values)


def test_doubtful_energies_are_told():
    assert "slower when hotter" in Arrhenius(1.0, -10e3).doubts[0]
    assert "check its unit" in Arrhenius(1.0, 900e3).doubts[0]
    assert Arrhenius(1.0, 100e3).doubts == ()


@pytest.mark.parametrize(
    "unit",
    ["zz", "1/", "**", "((1/s", "1/s)", "s**s", "0/s", "1/0/s", "nan/s", "s^-1e400", "9**9**9**9", "m**9**9**9", "m**(9**9**9)", "10**10**10/s",
     "2/s", "(1/s)^(1/s)", "1e308*1e308/s", "__import__('os')", "\x00", "kg;s", "m^99999999"],
)  # fmt: skip
def test_units_made_to_hurt_are_refused_at_once(unit):
    """Some of these once ended in another error, or in a number of a hundred million digits."""
    with pytest.raises(QuantityError):
        PowerLaw({"a": 1.0}).constant_si(1.0, unit)
    with pytest.raises((QuantityError, ValueError)):
        to_si(Quantity(value=1.0, unit=unit), "time")


@pytest.mark.parametrize(("unit", "same"), [("kmol^(1/2)", "kmol^0.5"), ("m^1.5", "m^(3/2)"), ("1*1/s", "s^-1"), ("m2", "m**2"), ("(m2)^2", "m^4")])
def test_exponents_may_be_written_in_many_ways(unit, same):
    assert dimension(unit) == dimension(same)
