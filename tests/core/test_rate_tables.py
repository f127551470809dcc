"""Constants as they were measured at some temperatures: the same as an activation energy where the points have one, and honest beyond them."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from plants import plant
from pydantic import ValidationError
from scipy.interpolate import PchipInterpolator

from wattaxis import PropertyModel, solve
from wattaxis.flowsheet.reactions import TypedReactionSet
from wattaxis.questions import ReactionQuestion, look_at_reaction
from wattaxis.reactions import Adsorption, Arrhenius, Constant, Expression, FreeRate, Kinetics, PowerLaw, RateLaw, Reaction, ReactionSet, Tabulated
from wattaxis.reactions.free import constant_at

R = 8.31446261815324
ETHANE = {"ethane": -1, "ethylene": 1, "hydrogen": 1}
MODEL = PropertyModel("ideal", ["ethane", "ethene", "hydrogen"])


def measured(factor, energy, at):
    """Points of one activation energy."""
    return Tabulated(tuple(at), tuple(factor * np.exp(-energy / R * (1.0 / np.array(at) - 1.0 / 900.0))))


def reactions_with(first, held, named):
    """A product of powers hindered by adsorption, and an expression, with these constants."""
    hindered = RateLaw(PowerLaw({"ethane": 1.0}, "partial pressure"), first, (Adsorption({"hydrogen": 1.0}, held),), 2.0)
    written = Expression("k * c[ethane] / (1 + K * p[hydrogen])", {"k": Constant(first, "1/min"), "K": Constant(named, "1/bar")})
    numbers = {"ethane": -1.0, "ethene": 1.0, "hydrogen": 1.0}
    return ReactionSet("Main", (Reaction("R1", numbers, forward=hindered, backward="thermodynamics"), Reaction("R2", numbers, forward=written)))


@settings(max_examples=40, deadline=None)
@given(
    st.floats(1e-9, 1e9),
    st.floats(-80e3, 300e3),
    st.lists(st.floats(500.0, 1300.0), min_size=2, max_size=9, unique_by=lambda T: round(T)),
    st.floats(450.0, 1400.0),
)
def test_points_of_one_activation_energy_are_that_energy_everywhere(factor, energy, at, T):
    """All places where the kernel reads a constant; within the table and beyond."""
    plain = reactions_with(*(Arrhenius(f, energy, 900.0) for f in (factor, 1e-5, 2.0)))
    table = reactions_with(*(measured(f, energy, at) for f in (factor, 1e-5, 2.0)))
    phase = MODEL.phase("vapour", T, 3e5, [0.5, 0.2, 0.3])
    one, other = (Kinetics(of, MODEL).rates(phase, T, 3e5) for of in (plain, table))
    # Two points a kelvin apart tell a slope to as many digits less as they are near to each other.
    assert other == pytest.approx(one, rel=1e-6)


@given(st.lists(st.tuples(st.floats(300.0, 900.0), st.floats(-20.0, 20.0)), min_size=2, max_size=8, unique_by=lambda p: round(p[0])))
def test_between_its_points_a_table_is_the_monotone_cubic_of_scipy(points):
    points.sort()
    T, log_k = np.array(points).T
    table = Tabulated(tuple(T), tuple(np.exp(log_k)))
    law = RateLaw(PowerLaw({"ethane": 0.0}), table)
    kinetics = Kinetics(ReactionSet("Main", (Reaction("R1", {"ethane": -1.0, "ethene": 1.0, "hydrogen": 1.0}, forward=law),)), MODEL)
    curve = PchipInterpolator(1.0 / T[::-1], log_k[::-1])
    for at in np.linspace(T[0], T[-1], 7):
        by_kernel = float(kinetics.rates(MODEL.phase("vapour", at, 1e5, [1.0, 0.0, 0.0]), at, 1e5)[0])
        assert np.log(by_kernel) == pytest.approx(float(curve(1.0 / at)), abs=1e-9)
        assert table.log_at_one(at) == pytest.approx(float(curve(1.0 / at)), abs=1e-9)


@pytest.mark.parametrize(
    ("temperatures", "values", "says"),
    [
        ((300.0,), (1.0,), "two temperatures"),
        ((300.0, 300.0), (1.0, 2.0), "300 K twice"),
        ((300.0, 310.0), (0.0, 2.0), "more than 0"),
        ((-3.0, 310.0), (1.0, 2.0), "above 0 K"),
        ((300.0, float("inf")), (1.0, 2.0), "above 0 K"),
    ],
)
def test_points_that_make_no_curve_are_refused(temperatures, values, says):
    with pytest.raises(ValueError, match=says):
        Tabulated(temperatures, values)


def test_a_constant_that_falls_is_doubted_with_its_place():
    assert "falls from 320 to 340 K" in Tabulated((300.0, 340.0, 320.0), (1.0, 2.0, 3.0)).doubts[0]
    assert Tabulated((300.0, 340.0), (1.0, 2.0)).doubts == ()


PARTS = [("ethane", "74-84-0"), ("ethylene", "74-85-1"), ("hydrogen", "1333-74-0")]


def reactor(kind, reaction, spec, ethane=1.0, temperature="900 K"):
    shares = {"ethane": {"value": ethane}, "hydrogen": {"value": 1.0 - ethane}}
    feed = {"temperature": temperature, "pressure": "3 bar", "flow": "20 mol/s", "composition": {"basis": "mole_fraction", "values": shares}}
    units = {"F": ("feed", feed), "U": (kind, {"reactions": "Main", **spec}), "Z": ("product", {})}
    lines = ["S-1: F.outlet -> U.inlet", "S-2: U.outlet -> Z.inlet"]
    return plant(PARTS, units, lines, "ideal", reactions=[{"name": "Main", "reactions": [reaction]}])


TABLE = {"temperature_unit": "degC", "rows": [[600.0, 0.02], [650.0, 0.09], [700.0, 0.35]]}


def typed(**constant):
    return {"name": "R1", "numbers": ETHANE, "forward": {"orders": {"ethane": 1.0}, "unit": "1/s", **constant}}


@pytest.mark.parametrize("kind", ["plug-flow-reactor", "stirred-tank", "batch-reactor"])
def test_reactors_take_tables_and_say_where_they_leave_them(kind):
    spec = {"batch-reactor": {"time": "20 s", "heat": "isothermal"}, "stirred-tank": {"volume": "1 m3", "outlet_temperature": "{T}"}}
    spec = spec.get(kind, {"volume": "1 m3", "heat": "isothermal"})
    told = {}
    for T in ("680 degC", "730 degC"):
        given_there = {key: value.format(T=T) for key, value in spec.items()}
        result = solve(reactor(kind, typed(table=TABLE), given_there, temperature=T))
        assert result.complete, [f.text for f in result.findings]
        told[T] = [f.text for f in result.findings if "tabulated" in f.text]
    assert told["680 degC"] == []
    assert told["730 degC"] == ["R1: Its constants are tabulated from 873.15 to 973.15 K and used at 1003.1 K, where ln k goes straight on over 1/T."]


def test_a_table_and_its_energy_make_the_same_reactor():
    """An adiabatic tube, which cools through the table; the unit of the constant is another one than that of SI."""
    at = np.array([760.0, 850.0, 900.0])
    rows = [[float(T), float(6.0 * np.exp(-120e3 / R * (1.0 / T - 1.0 / 900.0)))] for T in at]
    plain = typed(unit="1/min", value=6.0, energy="120 kJ/mol", reference="900 K")
    table = typed(unit="1/min", table={"temperature_unit": "K", "rows": rows})
    left = [solve(reactor("plug-flow-reactor", law, {"volume": "3 m3"}, ethane=0.3)).streams["S-2"] for law in (plain, table)]
    assert 760.0 < left[0].temperature < 850.0
    assert left[1].temperature == pytest.approx(left[0].temperature, rel=1e-8)
    assert left[1].mole_flows["ethane"] == pytest.approx(left[0].mole_flows["ethane"], rel=1e-6)


@pytest.mark.parametrize(
    ("constant", "says"),
    [
        ({}, "has a value or a table"),
        ({"value": 1.0, "table": TABLE}, "no value, energy or temperature beside it"),
        ({"table": TABLE, "energy": "50 kJ/mol"}, "no value, energy or temperature beside it"),
        ({"table": TABLE, "power": 1.0}, "no power of temperature"),
        ({"table": {**TABLE, "temperature_unit": "bar"}}, "temperature"),
        ({"table": {**TABLE, "rows": [[600.0, 1.0], [600.0, 2.0]]}}, "873.15 K twice"),
        ({"table": TABLE, "unit": "m3/(mol s)"}, "does not fit"),
    ],
)
def test_a_constant_is_typed_one_way(constant, says):
    with pytest.raises(ValidationError, match=says):
        TypedReactionSet.model_validate({"name": "Main", "reactions": [typed(**constant)]})


def test_tables_are_told_and_not_fitted():
    of = TypedReactionSet.model_validate({"name": "Main", "reactions": [typed(table=TABLE)]})
    assert of.reactions[0].text.endswith("r = k c[ethane], k in 1/s from a table, 600 to 700 degC")
    assert TypedReactionSet.model_validate_json(of.model_dump_json()) == of
    with pytest.raises(ValueError, match="k of R1 is a table over temperature"):
        constant_at(of.core(), FreeRate("R1"), 900.0)


def test_what_is_shown_is_the_table():
    """The pictures reach as far as the table, and a constant with a shorter one ends before."""
    chemistry = reactor("stirred-tank", typed(table=TABLE), {}).chemistry
    short = {"temperature_unit": "degC", "rows": [[600.0, 1.0], [650.0, 0.8]]}
    law = {"orders": {"ethane": 1.0}, "unit": "1/min", "table": TABLE}
    for hindrance, end in ([], 700.0), ([{"orders": {"hydrogen": 1.0}, "unit": "m3/mol", "table": short}], 650.0):
        asked = ReactionQuestion(text="ethane = ethylene + hydrogen", forward={**law, "adsorption": hindrance})
        look = look_at_reaction(chemistry, asked)
        assert look.forward is not None
        assert look.forward.problem == ""
        at = np.array(look.temperatures) - 273.15
        assert (at[0], at[-1]) == pytest.approx((600.0, 700.0))
        known = [k is not None for k in look.forward.constants]
        assert known == (at < end + 1e-6).tolist() == [life is not None for life in look.forward.half_lives]
        assert look.forward.constants[7] == pytest.approx(0.09)


def test_a_table_that_is_not_whole_yet_is_waited_for():
    chemistry = reactor("stirred-tank", typed(table=TABLE), {}).chemistry
    for table in ({}, {"temperature_unit": "degC", "rows": []}, {"temperature_unit": "bar", "rows": TABLE["rows"]}, "x"):
        law = {"orders": {"ethane": 1.0}, "unit": "1/s", "table": table}
        look = look_at_reaction(chemistry, ReactionQuestion(text="ethane = ethylene + hydrogen", forward=law, low=300.0, high=900.0))
        assert (look.temperatures[0], look.temperatures[-1]) == (300.0, 900.0)
        assert look.forward is not None
        assert look.forward.problem
