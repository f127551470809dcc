"""Formulas: what is read, what is refused and where, and what pins make of them."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from plants import demo

from wattaxis import edit, solve
from wattaxis.flowsheet.formula import FormulaError, parse_formula
from wattaxis.solving.pins import evaluate_pins

RESULT = solve(demo())


def pin(formula):
    *_, found = evaluate_pins(edit(demo(), "set_pin", name="p", formula=formula), RESULT)
    return found


@pytest.mark.parametrize(
    ("formula", "value", "kind"),
    [
        ("S-07.temperature", 308.15, "temperature"),
        ("S-06.temperature - S-07.temperature", 145.0, "temperature_difference"),
        ("S-07.temperature - 35 degC", 0.0, "temperature_difference"),
        ("max(S-06.temperature, S-07.temperature)", 453.15, "temperature"),
        ("2 + 3 * 4 ^ 2 / (1 - 5)", -10.0, "number"),
        ("-2 ^ 2", -4.0, "number"),
        ("2 ^ -1", 0.5, "number"),
        ("ln(exp(1.5)) + abs(-2) + sqrt(9)", 6.5, "number"),
        ("min(3, 25 %)", 0.25, "number"),
        ("S-07.mass_flow / S-06.mass_flow", 1.0, "number"),
        ("E-103.outlet_temperature", 308.15, "temperature"),
        ("S-07.component_flow[water] / S-07.mole_flow - S-07.mole_fraction[water]", 0.0, "number"),
        ("sqrt(S-07.pressure * S-07.pressure) - 1 bar", RESULT.streams["S-07"].pressure - 1e5, "pressure_difference"),
    ],
)
def test_the_value_of_a_formula(formula, value, kind):
    found = pin(formula)
    assert found.problem == ""
    assert found.value == pytest.approx(value, abs=1e-9)
    assert found.kind == kind


@pytest.mark.parametrize(
    ("formula", "says"),
    [
        ("S-07.temperature + S-07.pressure", "dimensions do not fit"),
        ("S-07.temperature + 3", "dimensions do not fit"),
        ("ln(S-07.pressure)", "dimensions do not fit"),
        ("Q-1.duty", "nothing on the sheet is tagged Q-1"),
        ("S-07.colour", "a stream has no colour; it has temperature"),
        ("S-07.mole_fraction", "one of the components in brackets"),
        ("E-103.speed", "E-103 has no speed now; it has"),
        ("1 / (S-07.mass_flow - S-06.mass_flow)", "divides by zero"),
        ("sqrt(0 - 1)", "root of a negative"),
        ("ln(0)", "logarithm of zero"),
        ("10 ^ 99 ^ 2", "beyond 100"),
        ("exp(9999)", "cannot be calculated"),
        ("3 furlongs", "is not understood"),
        ("S-07.mole_flow[water]", "is one of the whole stream and has no [water]; by component there are mole_fraction[water]"),
        ("E-103.outlet_temperature[water]", "has no outlet_temperature now"),
    ],
)
def test_a_formula_without_a_value_says_why(formula, says):
    found = pin(formula)
    assert found.value is None
    assert says in found.problem


@pytest.mark.parametrize(
    ("text", "says", "position"),
    [
        ("", "missing", 0),
        ("1 +", "missing", 3),
        ("(1", "closing bracket", 2),
        ("1 2", "not expected", 2),
        ("S-01", "not understood|not expected", None),
        ("foo(1)", "There is no function foo", 0),
        ("min(1)", "takes 2 to 9 values", None),
        ("__import__('os').system('x')", "not understood", 0),
        ("S-01.__class__", "not understood|not expected", None),
        ("(" * 40 + "1" + ")" * 40, "nested too deeply", None),
        ("-" * 60 + "1", "nested too deeply", None),
        ("1" * 400, "at most 300", 300),
    ],
)
def test_what_is_no_formula_is_refused_with_the_place(text, says, position):
    with pytest.raises(FormulaError, match=says) as refusal:
        parse_formula(text)
    assert position is None or refusal.value.position == position


@settings(max_examples=300, deadline=None)
@given(st.text(alphabet="0123456789.+-*/^(), eESK[]minaxl_\"'\\", max_size=40))
def test_no_text_does_anything_but_parse_or_refuse(text):
    try:
        parse_formula(text)
    except FormulaError as error:
        assert 0 <= error.position <= len(text)
