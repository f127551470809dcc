"""Rates from measurements: courses against closed forms, the constants that made the data come back, intervals hold what they say."""

import json

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.integrate import solve_ivp
from scipy.optimize import brentq

from wattaxis import DataSet, PropertyModel
from wattaxis.exchange import data_from_table
from wattaxis.flowsheet import Chemistry
from wattaxis.flowsheet.data import Measured
from wattaxis.flowsheet.data_checks import data_doubts
from wattaxis.flowsheet.diagram_questions import QuestionError
from wattaxis.flowsheet.fitting import fit_question_from_json, run_fit
from wattaxis.reactions import (
    Adsorption,
    Arrhenius,
    Constant,
    Expression,
    FreeRate,
    Kinetics,
    KineticsError,
    PowerLaw,
    RateLaw,
    Reaction,
    ReactionSet,
    course,
    fit_rates,
)

R = 8.31446261815324
BUTENES = ("1-butene", "cis-2-butene", "trans-2-butene")
MODEL = PropertyModel("ideal", BUTENES)
CRACKED = PropertyModel("ideal", ["propane", "propene", "hydrogen"])


def isomers(forward, backward=None, phase="liquid"):
    return ReactionSet("One", (Reaction("R1", {"1-butene": -1.0, "cis-2-butene": 1.0}, phase, forward, backward),))


def power(order=1.0, k=1e-3, E=0.0, reference=None, component="1-butene", basis="concentration", per="volume"):
    return RateLaw(PowerLaw({component: order}, basis, per), Arrhenius(k, E, reference))


def series(k1=2e-4, E1=80e3, k2=1e-4, E2=60e3, order=1.0):
    first = Reaction("R1", {"1-butene": -1.0, "cis-2-butene": 1.0}, "liquid", power(order, k1, E1, 340.0))
    second = Reaction("R2", {"cis-2-butene": -1.0, "trans-2-butene": 1.0}, "liquid", power(1.0, k2, E2, 340.0, "cis-2-butene"))
    return ReactionSet("Series", (first, second))


def cracking(law, backward=None):
    return ReactionSet("Cracking", (Reaction("R1", {"propane": -1.0, "propene": 1.0, "hydrogen": 1.0}, "vapour", law, backward),))


@given(order=st.sampled_from([0.5, 1.0, 1.5, 2.0, 3.0]), c0=st.floats(1.0, 2e4), share=st.floats(0.02, 0.95))
@settings(max_examples=40, deadline=None)
def test_batches_and_tanks_of_any_order_follow_their_closed_forms(order, c0, share):
    k = 1e-3
    left = c0 * (1.0 - share)
    kinetics = Kinetics(isomers(power(order, k)), MODEL)
    t = np.log(c0 / left) / k if order == 1.0 else (left ** (1.0 - order) - c0 ** (1.0 - order)) / (order - 1.0) / k
    for place in ("batch", "tube"):
        assert course(kinetics, place, 340.0, [c0, 0.0, 0.0], [t]).concentrations[0] == pytest.approx([left, c0 - left, 0.0], rel=1e-7, abs=1e-9 * c0)
    space = (c0 - left) / (k * left**order)
    found = course(kinetics, "stirred tank", 340.0, [c0, 0.0, 0.0], [space]).concentrations[0]
    assert found == pytest.approx([left, c0 - left, 0.0], rel=1e-9, abs=1e-9 * c0)


@pytest.mark.parametrize("inert", [0.0, 0.7])
@pytest.mark.parametrize("converted", [0.05, 0.4, 0.95])
def test_a_gas_that_expands_slows_itself_in_tube_and_tank(converted, inert):
    """First order with a change of volume (Levenspiel 1999, Chemical Reaction Engineering, equations 5.20 and 5.24)."""
    k, T, P = 0.5, 800.0, 1.3e5
    whole = P / (R * T)
    start = [(1.0 - inert) * whole, 0.0, 0.0]
    expands = 1.0 - inert
    kinetics = Kinetics(cracking(power(1.0, k, component="propane")), CRACKED)
    tube = ((1.0 + expands) * np.log(1.0 / (1.0 - converted)) - expands * converted) / k
    tank = converted * (1.0 + expands * converted) / (1.0 - converted) / k
    for place, time in (("tube", tube), ("stirred tank", tank)):
        found = course(kinetics, place, T, start, [time], P=P)
        assert 1.0 - found.amounts[0, 0] / start[0] == pytest.approx(converted, rel=1e-8)
        assert found.concentrations[0].sum() <= whole * (1.0 + 1e-12)  # inert gas makes up the rest


def test_a_rigid_batch_of_gas_gains_pressure_and_an_equilibrium_is_that_of_formation_data():
    T, c0 = 800.0, 20.0
    kinetics = Kinetics(cracking(power(1.0, 0.5, component="propane"), "thermodynamics"), CRACKED)
    late = course(kinetics, "batch", T, [c0, 0.0, 0.0], [1e5]).concentrations[0]
    pressures = late * R * T / 1e5
    assert np.log(pressures[1] * pressures[2] / pressures[0]) == pytest.approx(kinetics.equilibrium_constants(T)[0], abs=1e-7)
    # By partial pressure of the rising whole: the same law written both ways.
    by_pressure = Kinetics(cracking(power(1.0, 0.5 / (R * T), component="propane", basis="partial pressure"), "thermodynamics"), CRACKED)
    times = [0.3, 1.0, 4.0]
    one, other = (course(k, "batch", T, [c0, 0.0, 0.0], times).concentrations for k in (kinetics, by_pressure))
    assert one == pytest.approx(other, rel=1e-8)


def test_courses_agree_with_an_implicit_integrator_and_tanks_close():
    law = Expression(
        "k * c[1-butene]^1.5 / (1 + K * c[cis-2-butene])",
        {"k": Constant(Arrhenius(2e-4), "m^1.5/(mol^0.5 s)"), "K": Constant(Arrhenius(5e-3), "m3/mol")},
    )
    of = ReactionSet("Two", (*isomers(law).reactions, series().reactions[1]))
    kinetics, start, times = Kinetics(of, MODEL), np.array([800.0, 30.0, 0.0]), np.array([10.0, 200.0, 3000.0])

    def rates(c):
        return np.array([2e-4 * max(c[0], 0.0) ** 1.5 / (1.0 + 5e-3 * c[1]), 1e-4 * np.exp(-60e3 / R * (1 / 350.0 - 1 / 340.0)) * c[1]])

    whole = solve_ivp(lambda t, c: rates(c) @ kinetics.numbers, (0.0, 3000.0), start, "Radau", times, rtol=1e-10, atol=1e-9)
    assert course(kinetics, "batch", 350.0, start, times).concentrations == pytest.approx(whole.y.T, rel=1e-7, abs=1e-6)
    for c, t in zip(course(kinetics, "stirred tank", 350.0, start, times).concentrations, times, strict=True):
        assert c - start == pytest.approx(t * rates(c) @ kinetics.numbers, rel=1e-9, abs=1e-8)


def test_what_no_gas_holds_and_rates_without_a_value_are_refused():
    kinetics = Kinetics(cracking(power(1.0, 0.5, component="propane")), CRACKED)
    with pytest.raises(KineticsError, match="a gas holds 15.03 mol/m3 at 800 K and 1e"):
        course(kinetics, "tube", 800.0, [20.0, 0.0, 0.0], [1.0], P=1e5)
    with pytest.raises(KineticsError, match="nothing at the start"):
        course(kinetics, "tube", 800.0, [0.0, 0.0, 0.0], [1.0])
    with pytest.raises(ValueError, match="there are batch, stirred tank, tube"):
        course(kinetics, "bucket", 800.0, [1.0, 0.0, 0.0], [1.0])
    written = Kinetics(isomers(Expression("k * ln(c[cis-2-butene] / c[1-butene])", {"k": Constant(Arrhenius(1.0), "mol/(m3 s)")})), MODEL)
    with pytest.raises(KineticsError, match="takes the logarithm of nothing"):
        course(written, "batch", 300.0, [1.0, 0.0, 0.0], [1.0])


def measured(of, kind="batch", temperatures=(320.0, 340.0, 360.0), noise=0.01, seed=3, start=1000.0, others=0.0, columns=(0, 1, 2)):
    rng, kinetics, rows = np.random.default_rng(seed), Kinetics(of, MODEL), []
    for T in temperatures:
        times = np.linspace(0.0, 6000.0 * np.exp(80e3 / R * (1 / T - 1 / 340.0)), 9)
        c = course(kinetics, kind, T, [start, others, others], times).concentrations
        rows += [(T, t, *np.maximum(row + (t > 0) * rng.normal(0.0, noise * start, 3), 0.0)) for t, row in zip(times, c, strict=True)]
    T, t, *c = np.array(rows).T
    if kind == "stirred tank":
        return DataSet(
            kind, BUTENES, {"T": T, "t": t, "f1": np.full(len(T), start), "f2": 0.0 * T, "f3": 0.0 * T, **{f"c{k + 1}": c[k] for k in columns}}
        )
    return DataSet(kind, BUTENES, {"T": T, "t": t, **{f"c{k + 1}": c[k] for k in columns}})


ALL = [FreeRate(r, part) for r in ("R1", "R2") for part in ("constant", "energy")]
TRUTH = (2e-4, 80e3, 1e-4, 60e3)


@pytest.mark.parametrize("kind", ["batch", "stirred tank", "tube"])
@pytest.mark.parametrize("guess", [(1e-6, 30e3, 10.0, 120e3), (5.0, 80e3, 1e-7, 0.0)])
def test_exact_data_give_back_the_constants_wherever_the_search_starts(kind, guess):
    fit = fit_rates(series(*guess), MODEL, [measured(series(), kind, noise=0.0)], ALL)
    assert fit.values == pytest.approx(TRUTH, rel=1e-5)
    assert fit.reference.tolist()[::2] == [340.0, 340.0]
    assert fit.sum_of_squares < 1e-6
    assert fit.quality == "measured fit"


def test_the_intervals_hold_the_truth_about_as_often_as_they_say():
    fits = [fit_rates(series(), MODEL, [measured(series(), seed=seed, others=200.0)], ALL) for seed in range(25)]
    held = [abs(v - t) <= h for fit in fits for v, t, h in zip(fit.values, TRUTH, fit.half_widths, strict=True)]
    assert 0.88 <= np.mean(held) <= 0.995


def test_orders_constants_of_a_denominator_and_those_of_an_expression_are_found():
    start = series(1e-3, 60e3, 1e-3, 60e3, order=1.0)
    free = [*ALL, FreeRate("R1", "order", component="1-butene")]
    runs = [measured(series(order=1.5, k1=6e-6), noise=0.0, start=c) for c in (400.0, 1500.0)]
    fit = fit_rates(start, MODEL, runs, free)
    assert fit.values == pytest.approx([6e-6, 80e3, 1e-4, 60e3, 1.5], rel=1e-4)
    assert "goes with the order of 1-butene in R1" in " ".join(fit.notes)

    term = RateLaw(PowerLaw({"1-butene": 1.0}), Arrhenius(4e-4), (Adsorption({"cis-2-butene": 1.0}, Arrhenius(2e-3)),))
    data = measured(isomers(term), temperatures=(340.0,), noise=0.0)
    guess = RateLaw(term.law, Arrhenius(1e-2), (Adsorption({"cis-2-butene": 1.0}, Arrhenius(0.1)),))
    found = fit_rates(isomers(guess), MODEL, [data], [FreeRate("R1"), FreeRate("R1", constant="K1")])
    assert found.values == pytest.approx([4e-4, 2e-3], rel=1e-5)
    written = Expression(
        "kf * c[1-butene] / (1 + Kb * c[cis-2-butene])", {"kf": Constant(Arrhenius(3.0), "1/h"), "Kb": Constant(Arrhenius(1.0), "L/mol")}
    )
    same = fit_rates(isomers(written), MODEL, [data], [FreeRate("R1", constant="kf"), FreeRate("R1", constant="Kb")])
    assert same.values == pytest.approx(found.values, rel=1e-5)
    assert max(same.sum_of_squares, found.sum_of_squares) < 1e-8
    assert [same.unit(f) for f in same.free] == ["1/s", "m^3/mol"]
    assert same.reactions.reactions[0].forward.constants["kf"].value.factor == pytest.approx(4e-4 * 3600.0, rel=1e-5)


def test_second_order_constants_that_were_published_come_back():
    """Triphenylmethyl chloride with methanol, of which there is plenty: 0.00248 to 0.00263 L/(mol s) (Fogler 2006, Elements of chemical reaction
    engineering, example 5-1: 0.1248 to 0.125 L/(mol min) of order 2); the numbers with substances of the bank."""
    minutes = np.array([0.0, 50.0, 100.0, 150.0, 200.0, 250.0, 300.0])
    c = 1e-3 * np.array([50.0, 38.0, 30.6, 25.6, 22.2, 19.5, 17.4]) * 1e3
    data = DataSet("batch", ("1-butene",), {"T": np.full(7, 298.0), "t": 60.0 * minutes, "c1": c})
    of = isomers(power(1.0, 1e-5))
    first = fit_rates(of, MODEL, [data], [FreeRate("R1"), FreeRate("R1", "order", component="1-butene")])
    assert first.values[1] == pytest.approx(2.04, abs=0.03)
    second = fit_rates(isomers(power(2.0, 1.0)), MODEL, [data], [FreeRate("R1")])
    assert second.values[0] * 1e3 * 60.0 == pytest.approx(0.125, abs=0.0012)
    assert second.akaike < fit_rates(of, MODEL, [data], [FreeRate("R1")]).akaike - 20.0


def test_an_activation_energy_that_was_published_comes_back():
    """Dinitrogen pentoxide by Daniels and Johnston (1921, Journal of the American Chemical Society 43, 53): 24.7 kcal/mol; from courses
    at their constants."""
    published = {273.15: 7.87e-7, 298.15: 3.46e-5, 308.15: 1.35e-4, 318.15: 4.98e-4, 328.15: 1.50e-3, 338.15: 4.87e-3}
    rows = [(T, x / k, 10.0 * np.exp(-x)) for T, k in published.items() for x in (0.0, 0.3, 0.8, 1.5)]
    T, t, c = np.array(rows).T
    data = DataSet("batch", ("1-butene",), {"T": T, "t": t, "c1": c})
    fit = fit_rates(isomers(power(1.0, 1.0, 50e3)), MODEL, [data], [FreeRate("R1"), FreeRate("R1", "energy")])
    assert fit.values[1] / 4184.0 == pytest.approx(24.7, abs=0.25)
    alone = fit.by_temperature()
    assert [values[0] for values in alone.values()] == pytest.approx(list(published.values()), rel=1e-4)


def test_catalyst_counts_and_conversion_is_enough():
    T, P, mass = 700.0, 2e5, 850.0
    law = power(1.0, 3e-8, component="propane", basis="partial pressure", per="catalyst mass")
    whole = P / (R * T)
    times = np.array([1.0, 3.0, 8.0, 20.0])
    found = course(Kinetics(cracking(law, "thermodynamics"), CRACKED), "tube", T, [whole, 0.0, 0.0], times, P=P, catalyst=mass)
    converted = 1.0 - found.amounts[:, 0] / whole
    columns = {"T": np.full(4, T), "P": np.full(4, P), "t": times, "w": np.full(4, mass), "y1": [1.0, np.nan, np.nan, np.nan], "X": converted}
    data = DataSet("tube", ("propane",), columns)
    guess = power(1.0, 1e-3, component="propane", basis="partial pressure", per="catalyst mass")
    fit = fit_rates(cracking(guess, "thermodynamics"), CRACKED, [data], [FreeRate("R1")])
    assert fit.values == pytest.approx([3e-8], rel=1e-6)
    assert fit.notes == ("data set 1 says nothing of propene, hydrogen at the start; there is taken to be none.",)
    dense = fit_rates(
        cracking(guess, "thermodynamics"), PropertyModel("peng-robinson", ["propane", "propene", "hydrogen"]), [_pressed(data)], [FreeRate("R1")]
    )
    assert "its compressibility factor differs from 1 by up to" in " ".join(dense.notes)


def test_a_catalyst_is_asked_for_where_rates_count_by_it_and_changes_nothing_elsewhere():
    by_mass = cracking(power(1.0, 3e-8, component="propane", basis="partial pressure", per="catalyst mass"))
    columns = {"T": [700.0] * 3, "P": [2e5] * 3, "t": [1.0, 3.0, 8.0], "y1": [1.0] * 3, "X": [0.05, 0.14, 0.3]}
    with pytest.raises(ValueError, match="say in column w of Run how much there is by volume"):
        fit_rates(by_mass, CRACKED, [DataSet("tube", ("propane",), columns, name="Run")], [FreeRate("R1")])
    with pytest.raises(KineticsError, match="how much there is by volume is not given"):
        course(Kinetics(by_mass, CRACKED), "tube", 700.0, [10.0, 0.0, 0.0], [1.0])
    by_volume = cracking(power(1.0, 0.05, component="propane"))
    bare, packed = (
        fit_rates(by_volume, CRACKED, [DataSet("tube", ("propane",), {**columns, **more})], [FreeRate("R1")]).values[0]
        for more in ({}, {"w": [900.0] * 3})
    )
    assert bare == packed


def test_what_is_taken_for_granted_of_a_pressure_is_said():
    unpressed = DataSet("batch", ("propane",), {"T": [800.0] * 3, "t": [0.0, 2.0, 4.0], "c1": [10.0, 8.2, 6.7]})
    assert any(
        "without anything inert" in n for n in fit_rates(cracking(power(1.0, 0.1, component="propane")), CRACKED, [unpressed], [FreeRate("R1")]).notes
    )
    liquid = measured(isomers(power(1.0, 2e-4)), temperatures=(340.0,))
    assert not fit_rates(isomers(power()), MODEL, [liquid], [FreeRate("R1")]).notes
    both = fit_rates(isomers(power(), "thermodynamics"), MODEL, [liquid], [FreeRate("R1")])
    assert "No pressure of the liquid is given; 1 bar is taken." in both.notes


def _pressed(data):
    """The same at a hundred times the pressure, near the critical temperature."""
    return DataSet(data.kind, data.components, {**data.columns, "P": data.columns["P"] * 40.0, "T": data.columns["T"] - 320.0})


def test_what_data_cannot_tell_is_said():
    one = measured(series(), temperatures=(340.0,))
    with pytest.raises(ValueError, match="All data are at 340 K: they say nothing of an activation energy"):
        fit_rates(series(), MODEL, [one], ALL)
    needless = RateLaw(PowerLaw({"1-butene": 1.0}), Arrhenius(1e-4), (Adsorption({"cis-2-butene": 1.0}, Arrhenius(1e-3)),))
    fit = fit_rates(isomers(needless), MODEL, [measured(isomers(power(1.0, 2e-4)), seed=2)], [FreeRate("R1"), FreeRate("R1", constant="K1")])
    assert fit.values[0] == pytest.approx(2e-4, rel=0.02)
    if np.isnan(fit.half_widths[1]):
        assert "K1 of R1 tends to nothing" in " ".join(fit.notes)
    else:
        assert fit.values[1] - fit.half_widths[1] <= 0.0
    fast = fit_rates(
        isomers(power(1.0, 1.0), power(1.0, 1.0, component="cis-2-butene")), MODEL, [_settled()], [FreeRate("R1"), FreeRate("R1", backward=True)]
    )
    assert "do not determine" in " ".join(fast.notes) or "Hardly distinguished" in " ".join(fast.notes) or "without limit" in " ".join(fast.notes)


def _settled():
    """Points that have long come to rest, where forward and backward are known by their ratio alone."""
    times = np.array([0.0, 5e3, 6e3, 7e3])
    return DataSet("batch", BUTENES[:2], {"T": np.full(4, 340.0), "t": times, "c1": [100.0, 25.1, 24.9, 25.0], "c2": [0.0, 74.9, 75.2, 75.0]})


@pytest.mark.parametrize(
    ("columns", "text"),
    [
        ({"t": [1.0, 2.0], "c1": [3.0, 2.0]}, "point 1: what it started from is not known"),
        (
            {"t": [1.0, 2.0], "f1": [5.0, np.nan], "f2": [np.nan, 1.0], "c1": [3.0, 2.0]},
            "what there is of cis-2-butene at the start is blank; write 0",
        ),
        ({"t": [1.0, 2.0], "y1": [1.0, 1.0], "c1": [3.0, 2.0]}, "are those of a gas at a pressure"),
        ({"t": [1.0, 2.0], "f1": [0.0, 0.0], "f2": [1.0, 1.0], "X": [0.1, 0.2]}, "A conversion of 1-butene is measured, and there is none"),
        ({"t": [0.0, 0.0], "c1": [3.0, 2.0]}, "0 measured values do not determine 1 numbers"),
    ],
)
def test_data_without_a_start_or_of_nothing_are_refused(columns, text):
    with pytest.raises(ValueError, match=text):
        fit_rates(isomers(power()), MODEL, [DataSet("batch", BUTENES[:2], {"T": [300.0, 300.0], **columns})], [FreeRate("R1")])


def test_points_set_aside_do_not_count_and_weights_do():
    clean = measured(isomers(power(1.0, 2e-4)), temperatures=(340.0,), noise=0.0)
    spoilt = np.array(clean.columns["c1"])
    spoilt[4] *= 3.0
    columns = {**clean.columns, "c1": spoilt}
    aside = DataSet("batch", BUTENES, columns, set_aside={4: "spilt"})
    assert fit_rates(isomers(power()), MODEL, [aside], [FreeRate("R1")]).values == pytest.approx([2e-4], rel=1e-5)
    off = fit_rates(isomers(power()), MODEL, [DataSet("batch", BUTENES, columns)], [FreeRate("R1")]).values[0]
    light = fit_rates(isomers(power()), MODEL, [DataSet("batch", BUTENES, columns, weights={4: 1e-3})], [FreeRate("R1")]).values[0]
    assert abs(light - 2e-4) < 0.05 * abs(off - 2e-4)


def document(rows, forward=None, second=None, phase="liquid"):
    head = [{"key": "T", "unit": "degC"}, {"key": "t", "unit": "min"}, *({"key": f"c{k}", "unit": "mol/L"} for k in (1, 2, 3))]
    rate = forward or {"orders": {"1-butene": 1}, "value": 1, "unit": "1/h", "energy": "15 kcal/mol"}
    other = second or {"expression": "k2 * c[cis-2-butene]", "constants": [{"name": "k2", "value": 1, "unit": "1/min"}]}
    numbers = ({"1-butene": -1, "cis-2-butene": 1}, {"cis-2-butene": -1, "trans-2-butene": 1})
    reactions = [
        {"name": f"R{k + 1}", "numbers": n, "phase": phase, "forward": law} for k, (n, law) in enumerate(zip(numbers, (rate, other), strict=True))
    ]
    return Chemistry.model_validate(
        {
            "components": [{"id": name, "cas": cas} for name, cas in zip(BUTENES, ("106-98-9", "590-18-1", "624-64-6"), strict=True)],
            "model": "ideal",
            "reactions": [{"name": "Series", "reactions": reactions}],
            "data": [{"name": "Runs", "kind": "batch", "components": BUTENES, "columns": head, "rows": rows}],
        }
    )


def typed_rows(data):
    c = [data.columns[f"c{k}"] / 1e3 for k in (1, 2, 3)]
    return [list(map(float, row)) for row in zip(data.columns["T"] - 273.15, data.columns["t"] / 60.0, *c, strict=True)]


def test_a_document_fits_in_the_units_of_its_people():
    chemistry = document(typed_rows(measured(series(), noise=0.0)))
    free = [
        {"reaction": "R1"},
        {"reaction": "R1", "part": "energy"},
        {"reaction": "R2", "constant": "k2"},
        {"reaction": "R2", "constant": "k2", "part": "energy"},
    ]
    answer = run_fit(chemistry, fit_question_from_json({"reactions": "Series", "data": ["Runs"], "free": free}))
    json.dumps(answer, allow_nan=False)
    T = answer["holds_at"][0]
    k = [2e-4 * np.exp(-80e3 / R * (1 / T - 1 / 340.0)), 1e-4 * np.exp(-60e3 / R * (1 / T - 1 / 340.0))]
    shown = [(row["value"], row["unit"]) for row in answer["shown"]]
    assert [value for value, _ in shown] == pytest.approx([k[0] * 3600.0, 80.0 / 4.184, k[1] * 60.0, 60.0], rel=1e-4)
    assert [unit for _, unit in shown] == ["1/h", "kcal/mol", "1/min", "kJ/mol"]
    fitted = answer["reactions"][0]["forward"]
    assert (fitted["unit"], fitted["reference"]) == ("1/h", {"value": T, "unit": "K"})
    assert fitted["value"] == pytest.approx(k[0] * 3600.0, rel=1e-4)
    titles = [d["title"] for d in answer["diagrams"]]
    assert {"Concentration of 1-butene, Runs", "Over temperature, k of R1", "Residuals, c3", "Calculated over measured, c2"} <= set(titles)
    # What is applied is what was fitted: nothing moves when it is fitted once more.
    again = Chemistry.model_validate({**chemistry.model_dump(), "reactions": [{"name": "Series", "reactions": answer["reactions"]}]})
    assert run_fit(again, fit_question_from_json({"reactions": "Series", "data": ["Runs"], "free": free}))["values"] == pytest.approx(
        answer["values"], rel=1e-5
    )


@pytest.mark.parametrize(
    ("asked", "text"),
    [
        ({"reactions": "None"}, 'There is no reaction set "None"'),
        ({"free": [{"reaction": "R9"}]}, "There is no reaction R9 in Series"),
        ({"free": [{"reaction": "R1", "backward": True}]}, "Reaction R1 has no law backward of its own"),
        ({"free": [{"reaction": "R1", "constant": "K1"}]}, "The law of R1 has no constant K1; it has k"),
        ({"free": [{"reaction": "R2", "constant": "k"}]}, "The law of R2 has no constant k; it has k2"),
        ({"free": [{"reaction": "R1", "part": "order", "component": "cis-2-butene"}]}, "The law of R1 has no order of cis-2-butene"),
        ({"data": ["Gone"]}, 'There is no data set "Gone"'),
    ],
)
def test_questions_that_make_no_sense_are_answered_in_words(asked, text):
    chemistry = document(typed_rows(measured(series(), temperatures=(340.0,))))
    question = {"reactions": "Series", "data": ["Runs"], "free": [{"reaction": "R1"}], **asked}
    with pytest.raises(QuestionError, match=text):
        run_fit(chemistry, fit_question_from_json(question))


def test_slips_of_units_and_columns_are_doubted_and_right_data_are_not():
    data = measured(series())
    chemistry = document(typed_rows(data))
    assert data_doubts(chemistry, chemistry.data[0]) == ()
    heavy = chemistry.data[0].model_dump()
    for column in heavy["columns"][2:]:
        column["unit"] = "mol/cm3"
    assert "weighs more than 3000 kg/m3" in data_doubts(chemistry, Measured.model_validate(heavy))[0]
    rows = [["T/K", "t, min", "f1 mol/L", "f2 mol/L", "c1, mol/L", "c2, mol/L"], ["340", "10", "0.5", "0", "0.2", "0.9"]]
    table = data_from_table(rows, "stirred tank", ["1-butene", "cis-2-butene"], "Run")
    assert not table.left_out
    assert "more mass is measured than there was" in data_doubts(chemistry, table.data)[0]


def test_a_tank_has_the_state_that_an_equation_of_one_unknown_gives():
    kinetics = Kinetics(isomers(power(2.0, 1e-5), power(1.0, 2e-3, component="cis-2-butene")), MODEL)
    for space in (1.0, 100.0, 1e4, 1e7):
        found = course(kinetics, "stirred tank", 340.0, [900.0, 50.0, 0.0], [space]).concentrations[0]
        extent = brentq(lambda x, space=space: x - space * (1e-5 * (900.0 - x) ** 2 - 2e-3 * (50.0 + x)), -50.0, 900.0, xtol=1e-12)
        assert found[:2] == pytest.approx([900.0 - extent, 50.0 + extent], rel=1e-9)
