"""Equations as people write them, balance of elements, and heat and equilibrium that agree with each other."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from wattaxis import component
from wattaxis.reactions import EquationError, balanced, element_gaps, equation_text, read_equation, thermochemistry

NAMES = ["2-butanol", "butanone", "hydrogen", "water", "nitrogen", "ammonia", "methane", "CO2", "CO", "oxygen", "ethanol"]
PARTS = [component(name) for name in (*NAMES, "dimethyl ether")]


@pytest.mark.parametrize(
    ("text", "numbers"),
    [
        ("2-butanol = butanone + hydrogen", {"2-butanol": -1, "butanone": 1, "hydrogen": 1}),
        ("2 2-butanol -> 2 butanone + 2 H2", {"2-butanol": -2, "butanone": 2, "hydrogen": 2}),
        ("2 butanone + 2-Butanone = hydrogen", {"butanone": -3, "hydrogen": 1}),
        ("N2+3H2<=>2NH3", {"nitrogen": -1, "hydrogen": -3, "ammonia": 2}),
        ("1/2 N2 + 1.5 hydrogen ⇌ NH3", {"nitrogen": -0.5, "hydrogen": -1.5, "ammonia": 1}),
        ("CH4 + 2 O2 => CO2 + 2 H2O", {"methane": -1, "oxygen": -2, "carbon dioxide": 1, "water": 2}),
        ("CO + H2O + CO2 = 2*CO2 + H2", {"carbon monoxide": -1, "water": -1, "carbon dioxide": 1, "hydrogen": 1}),
        ("64-17-5 + 0.5 7782-44-7 = H2O + butanone", {"ethanol": -1, "oxygen": -0.5, "water": 1, "butanone": 1}),
    ],
)
def test_equations_are_understood(text, numbers):
    assert read_equation(text, PARTS).numbers == numbers


@pytest.mark.parametrize(("text", "both"), [("=", True), ("<=>", True), ("⇌", True), ("<->", True), ("->", False), ("=>", False), ("→", False)])
def test_the_sign_says_which_way(text, both):
    assert read_equation(f"N2 + 3 H2 {text} 2 NH3", PARTS).reversible is both


def test_a_catalyst_is_told():
    found = read_equation("CO + H2O + NH3 = CO2 + H2 + NH3", PARTS)
    assert (found.catalysts, "ammonia" in found.numbers) == (("ammonia",), False)


@pytest.mark.parametrize(
    ("text", "says", "place"),
    [
        ("water", 'one sign such as "="', 5),
        ("water = hydrogen = oxygen", 'one sign such as "="', 17),
        ("water + = hydrogen", "missing here", 8),
        ("= hydrogen", "missing here", 0),
        ("water = sulfur", "sulfur is no component", 8),
        ("water = 2 unobtainium", '"unobtainium" is no component', 10),
        ("C2H6O = water", "formula of ethanol and dimethyl ether", 0),
        ("2 butanol = hydrogen", "1-butanol is no component", 2),
        ("0 water = hydrogen", "more than 0", 0),
        ("1/0 water = hydrogen", "more than 0", 0),
        ("water = water", "both sides are the same", 6),
        ("x" * 500, "at most 400", 400),
    ],
)
def test_what_is_not_understood_is_told_with_its_place(text, says, place):
    with pytest.raises(EquationError) as refused:
        read_equation(text, PARTS)
    assert says in str(refused.value)
    assert refused.value.place == place


@given(st.text(max_size=60))
def test_any_text_is_an_equation_or_refused(text):
    try:
        found = read_equation(text, PARTS)
    except EquationError as error:
        assert 0 <= error.place <= len(text)
    else:
        assert found.numbers


numbers_of_any = st.dictionaries(st.sampled_from([p.id for p in PARTS]), st.integers(-9, 9).filter(bool), min_size=2)


@given(numbers_of_any.filter(lambda numbers: min(numbers.values()) < 0 < max(numbers.values())))
def test_an_equation_is_read_as_it_was_written(numbers):
    assert read_equation(equation_text(numbers), PARTS).numbers == numbers


def of(*names):
    return [component(name) for name in names]


@pytest.mark.parametrize(
    ("used", "formed", "numbers"),
    [
        (of("ammonia", "oxygen"), of("nitric oxide", "water"), (-4, -5, 4, 6)),
        (of("methane", "water"), of("CO", "hydrogen"), (-1, -1, 1, 3)),
        (of("ethylbenzene"), of("styrene", "hydrogen"), (-1, 1, 1)),
        (of("propane", "ammonia", "oxygen"), of("acrylonitrile", "water"), (-1, -1, -2, 1, 4)),
    ],
)
def test_numbers_are_found_from_the_elements(used, formed, numbers):
    found = balanced(used, formed)
    assert tuple(found.values()) == numbers
    assert element_gaps(found, used + formed).balanced


@pytest.mark.parametrize(
    ("used", "formed", "says"),
    [
        (of("methane"), of("water"), "missing or too much"),
        (of("methane", "oxygen"), of("CO", "CO2", "water"), "several reactions"),
        (of("water", "hydrogen"), of("oxygen"), "on the other side"),
    ],
)
def test_what_cannot_be_balanced_says_why(used, formed, says):
    with pytest.raises(ValueError, match=says):
        balanced(used, formed)


REACTIONS = [
    {"carbon monoxide": -1.0, "water": -1.0, "carbon dioxide": 1.0, "hydrogen": 1.0},
    {"nitrogen": -0.5, "hydrogen": -1.5, "ammonia": 1.0},
    {"2-butanol": -1.0, "butanone": 1.0, "hydrogen": 1.0},
]


@pytest.mark.parametrize("numbers", REACTIONS)
@pytest.mark.parametrize("T", [200.0, 298.15, 450.0, 900.0, 1700.0])
def test_the_constant_follows_the_heat(numbers, T):
    """Van 't Hoff: d ln K / dT = heat / (R T2), beyond the ranges of the data too."""
    step = 1e-3
    low, middle, high = thermochemistry(numbers, PARTS, [T - step, T, T + step]).log_constant
    heat = thermochemistry(numbers, PARTS, [T]).heat[0]
    assert (high - low) / (2 * step) * 8.31446261815324 * T**2 == pytest.approx(heat, rel=1e-5)
    assert thermochemistry({k: -2 * v for k, v in numbers.items()}, PARTS, [T]).log_constant[0] == pytest.approx(-2 * middle, rel=1e-12)


@pytest.mark.parametrize("T", [300.0, 400.0, 480.0])
def test_the_constant_of_liquids_follows_their_heat(T):
    numbers, parts = {"ethanol": -2.0, "diethyl ether": 1.0, "water": 1.0}, of("ethanol", "diethyl ether", "water")
    if T > 466.0:
        with pytest.raises(ValueError, match="diethyl ether is no liquid"):
            thermochemistry(numbers, parts, [T], "liquid")
        return
    step = 0.01
    low, high = thermochemistry(numbers, parts, [T - step, T + step], "liquid").log_constant
    heat = thermochemistry(numbers, parts, [T], "liquid").heat[0]
    assert (high - low) / (2 * step) * 8.31446261815324 * T**2 == pytest.approx(heat, rel=1e-3, abs=5.0)


def test_data_beyond_their_range_are_named():
    found = thermochemistry(REACTIONS[1], PARTS, np.array([400.0, 5000.0]))
    assert {name for name, what in found.outside if what == "heat capacity"} == {"nitrogen", "hydrogen", "ammonia"}
    assert thermochemistry(REACTIONS[1], PARTS, [400.0]).outside == ()
    with pytest.raises(ValueError, match="above 0 K"):
        thermochemistry(REACTIONS[1], PARTS, [0.0])
    with pytest.raises(ValueError, match="not among the components"):
        thermochemistry({"sulfur": 1.0}, PARTS, [300.0])
