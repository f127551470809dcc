"""Fits: parameters that made the data come back, confidence says how well, and what data cannot tell is told."""

import numpy as np
import pytest

from wattaxis import DataSet, Free, PropertyModel, edit, fit_pairs, solve
from wattaxis.exchange import TableError, data_from_table, data_from_thermoml
from wattaxis.flowsheet import Chemistry, Document, DocumentComponent
from wattaxis.flowsheet.data import Measured, data_set
from wattaxis.flowsheet.diagram_questions import QuestionError
from wattaxis.flowsheet.fitting import fit_question_from_json, run_fit
from wattaxis.flowsheet.generated import generate, generated_question_from_json

PAIR = ("ethanol", "water")
TRUTH = {
    "nrtl": {"b12": -55.2, "b21": 670.4, "alpha": 0.3},
    "wilson": {"b12": -95.7, "b21": -482.2},
    "uniquac": {"b12": -62.0, "b21": -104.0},
    "margules": {"a12": 1.6, "a21": 0.8},
    "van-laar": {"a12": 1.7, "a21": 0.93},
    "peng-robinson": {"kij": -0.09},
}


def model_of(kind, values=None):
    return PropertyModel(kind, PAIR, {PAIR: values} if values else None, bank_pairs=False)


def vapour_liquid(model, temperatures=(340.0,), noise=0.0, points=11, seed=4):
    rng = np.random.default_rng(seed)
    rows = []
    for t in temperatures:
        for x in np.linspace(0.04, 0.96, points):
            state = model.flash([x, 1.0 - x], T=t, VF=0.0)
            scatter = rng.normal(size=4) * noise
            y = state.vapour_fractions[0]
            rows.append((t + 0.1 * scatter[0], state.pressure + 200.0 * scatter[1], x + 0.002 * scatter[2], y + 0.005 * scatter[3]))
    t, p, x, y = zip(*rows, strict=True)
    return DataSet("vapour-liquid", PAIR, {"T": t, "P": p, "x1": x, "y1": np.clip(y, 0.0, 1.0)})


def frees(kind, start=0.0):
    return [Free(PAIR, name, 0.5 if kind == "van-laar" else start) for name in TRUTH[kind] if name != "alpha"]


@pytest.mark.parametrize("objective", ["least squares", "maximum likelihood"])
@pytest.mark.parametrize("kind", TRUTH)
def test_exact_data_give_back_the_parameters_that_made_them(kind, objective):
    fixed = {"alpha": 0.3} if kind == "nrtl" else None
    fit = fit_pairs(model_of(kind, fixed), [vapour_liquid(model_of(kind, TRUTH[kind]))], frees(kind), objective=objective)
    assert fit.values == pytest.approx([v for name, v in TRUTH[kind].items() if name != "alpha"], rel=2e-4)
    assert fit.sum_of_squares < 1e-4
    assert fit.quality == "measured fit"
    assert fit.pair_values(PAIR)[fit.free[0].name] == pytest.approx(float(fit.values[0]))
    turned = fit.pair_values(PAIR[::-1])
    assert turned.get("b21", turned.get("a21", turned.get("kij"))) == pytest.approx(float(fit.values[0]))


def test_the_intervals_hold_the_truth_about_as_often_as_they_say():
    truth = model_of("margules", TRUTH["margules"])
    inside = []
    for seed in range(20):
        fit = fit_pairs(model_of("margules"), [vapour_liquid(truth, noise=1.0, seed=seed)], frees("margules"), objective="maximum likelihood")
        inside += list(np.abs(fit.values - [1.6, 0.8]) < fit.half_widths)
    assert 0.8 <= np.mean(inside) <= 1.0  # 40 intervals of 95 %


def test_other_kinds_of_data_and_several_sets_at_once():
    truth = model_of("nrtl", {"a12": -0.6, "a21": 2.6, "b12": 200.0, "b21": -400.0, "alpha": 0.3})
    t = np.linspace(300.0, 370.0, 6)
    gamma = np.array([[truth.activity_coefficients(v, 1e5, row)[i] for i, row in ((0, [0, 1]), (1, [1, 0]))] for v in t])
    dilute = DataSet("infinite dilution", PAIR, {"T": t, "g1": gamma[:, 0], "g2": gamma[:, 1]})
    x = np.linspace(0.1, 0.9, 9)
    pure = [truth.phase("liquid", 320.0, 1e5, row).enthalpy for row in np.eye(2)]
    h = [truth.phase("liquid", 320.0, 1e5, [v, 1 - v]).enthalpy - v * pure[0] - (1 - v) * pure[1] for v in x]
    heat = DataSet("excess enthalpy", PAIR, {"T": np.full(9, 320.0), "x1": x, "h": h})
    free = [Free(PAIR, name) for name in ("a12", "a21", "b12", "b21")]
    fit = fit_pairs(model_of("nrtl", {"alpha": 0.3}), [vapour_liquid(truth), dilute, heat], free)
    assert fit.values == pytest.approx([-0.6, 2.6, 200.0, -400.0], rel=1e-3)
    assert {d.column for d in fit.deviations} == {"P", "y1", "g1", "g2", "h"}
    assert max(d.largest for d in fit.deviations if d.column == "g1") < 1e-3


def test_two_liquids_are_fitted_and_then_part_where_they_were_measured():
    pair = ("butanone", "water")
    truth = PropertyModel("nrtl", pair)
    t = [300.0, 320.0, 340.0]
    ties = [truth.flash([0.3, 0.7], T=v, P=1e9) for v in t]
    data = DataSet(
        "liquid-liquid", pair, {"T": t, "x1": [s.liquid_fractions[0] for s in ties], "w1": [s.vapour_fractions[0] for s in ties]}
    )  # fmt: skip
    start = PropertyModel("nrtl", pair, {pair: {"alpha": truth.pair_values[0, 1]["alpha"]}}, bank_pairs=False)
    fit = fit_pairs(start, [data], [Free(pair, "b12", 500.0), Free(pair, "b21", 500.0)])
    found = fit.model.flash([0.3, 0.7], T=320.0, P=1e9)
    assert found.two_liquids
    assert sorted([found.liquid_fractions[0], found.vapour_fractions[0]]) == pytest.approx(
        sorted([ties[1].liquid_fractions[0], ties[1].vapour_fractions[0]]), abs=1e-3
    )


def test_three_components_in_one_set():
    names = ("acetone", "chloroform", "methanol")
    pairs = {("acetone", "chloroform"): {"a12": -0.8, "a21": -0.6}, ("chloroform", "methanol"): {"a12": 0.9, "a21": 1.7}}
    truth = PropertyModel("margules", names, pairs)
    rng = np.random.default_rng(8)
    x = rng.dirichlet(np.ones(3), 14)
    states = [truth.flash(row, T=320.0, VF=0.0) for row in x]
    columns = {"T": np.full(14, 320.0), "P": [s.pressure for s in states], "x1": x[:, 0], "x2": x[:, 1]}
    fit = fit_pairs(PropertyModel("margules", names), [DataSet("vapour-liquid", names, columns)], [Free(p, n) for p in pairs for n in ("a12", "a21")])
    assert fit.values == pytest.approx([-0.8, -0.6, 0.9, 1.7], abs=1e-5)


def test_a_point_set_aside_and_a_blank_cell_do_not_count():
    truth = model_of("margules", TRUTH["margules"])
    good = vapour_liquid(truth)
    columns = {key: np.append(values, values[3]) for key, values in good.columns.items()}
    columns["P"][-1] *= 1.4
    columns["y1"][2] = np.nan
    for aside, off in (({}, True), ({11: "a leak"}, False)):
        fit = fit_pairs(model_of("margules"), [DataSet("vapour-liquid", PAIR, columns, set_aside=aside)], frees("margules"))
        assert (abs(fit.values[0] - 1.6) > 0.01) == off


def test_what_the_data_cannot_tell_is_told():
    truth = model_of("nrtl", TRUTH["nrtl"])
    both = fit_pairs(model_of("nrtl", {"alpha": 0.3}), [vapour_liquid(truth)], [Free(PAIR, n) for n in ("a12", "b12", "a21", "b21")])
    assert any("distinguished" in note or "do not determine" in note for note in both.notes)  # one temperature only
    bound = fit_pairs(
        model_of("margules"), [vapour_liquid(model_of("margules", TRUTH["margules"]))], [Free(PAIR, "a12", 0.0, 0.0, 0.5), Free(PAIR, "a21")]
    )
    assert any("ended at its bound 0.5" in note for note in bound.notes)
    split = fit_pairs(model_of("margules"), [vapour_liquid(model_of("margules", {"a12": 2.6, "a21": 2.6}))], frees("margules"))
    assert any("two liquids" in note for note in split.notes)
    made = DataSet("vapour-liquid", PAIR, vapour_liquid(truth).columns, measured=False)
    estimate = fit_pairs(model_of("wilson"), [made], frees("wilson"))
    assert estimate.quality == "estimated"
    assert any("not a fit to measurements" in note for note in estimate.notes)


def test_consistency_of_good_and_of_contradictory_data():
    good = vapour_liquid(model_of("margules", TRUTH["margules"]))
    assert sum("passed" in n and "not passed" not in n for n in fit_pairs(model_of("margules"), [good], frees("margules")).notes) == 2
    columns = {key: values.copy() for key, values in good.columns.items()}
    columns["y1"] = np.clip(columns["y1"] + 0.06, 0.0, 1.0)
    bad = fit_pairs(model_of("margules"), [DataSet("vapour-liquid", PAIR, columns, {"y1": 10.0})], frees("margules"))
    assert sum("not passed" in n for n in bad.notes) == 2


@pytest.mark.parametrize(
    ("columns", "words"),
    [
        ({"T": [300.0], "P": [1e5]}, "column x1"),
        ({"T": [300.0], "P": [1e5], "x1": [1.2]}, "point 1: 1.2"),
        ({"T": [-3.0], "P": [1e5], "x1": [0.2]}, "no temperature"),
        ({"T": [300.0], "P": [1e5, 2e5], "x1": [0.2]}, "unequal"),
        ({"T": [300.0], "P": [1e5], "x1": [0.2], "q": [1.0]}, "x1, y1"),
    ],
)
def test_data_that_cannot_be_are_refused_with_their_place(columns, words):
    with pytest.raises(ValueError, match=words):
        DataSet("vapour-liquid", PAIR, columns)


@pytest.mark.parametrize(
    ("free", "words"),
    [
        ([], "at least one"),
        ([Free(PAIR, "kij")], "no pair parameter kij"),
        ([Free(PAIR, n) for n in ("a12", "a21", "b12", "b21")], "do not determine"),
        ([Free(PAIR, "a12", 0.0, 1.0, -1.0)], "lower bound"),
    ],
)
def test_a_fit_that_cannot_be_made_is_refused(free, words):
    data = DataSet("vapour-liquid", PAIR, {"T": [340.0], "P": [8e4], "x1": [0.3], "y1": [0.55]})
    with pytest.raises(ValueError, match=words):
        fit_pairs(model_of("nrtl", {"alpha": 0.3}), [data], free)


# In the document ----------------------------------------------------------------------------------------------------------


def plant_with_data():
    document = Document()
    for name, cas in (("ethanol", "64-17-5"), ("water", "7732-18-5"), ("hydrogen", "1333-74-0")):
        document = edit(document, "add_component", component={"id": name, "cas": cas})
    document = edit(document, "set_model", model="nrtl")
    si = vapour_liquid(model_of("nrtl", TRUTH["nrtl"]))
    rows = [[t - 273.15, p / 133.322368421, 100 * x, y] for t, p, x, y in zip(*(si.columns[k] for k in ("T", "P", "x1", "y1")), strict=True)]
    columns = [{"key": "T", "unit": "degC", "deviation": 0.2}, {"key": "P", "unit": "mmHg"}, {"key": "x1", "unit": "%"}, {"key": "y1"}]
    data = {"name": "Run 1", "kind": "vapour-liquid", "components": PAIR, "columns": columns, "rows": rows}
    return edit(document, "set_data", name="Run 1", data=data)


def test_a_fit_of_data_in_foreign_units_is_kept_applied_and_taken_back():
    document = plant_with_data()
    si = data_set(document.chemistry.data[0])
    assert si.columns["T"] == pytest.approx(np.full(11, 340.0))
    assert si.deviation("T", 0) == pytest.approx(0.2)
    question = {"model": "nrtl", "data": ["Run 1"], "free": [{"first": "ethanol", "second": "water", "name": n} for n in ("b12", "b21")]}
    answer = run_fit(document.chemistry, fit_question_from_json(question))
    assert answer["values"] == pytest.approx([-55.2, 670.4], abs=8.0)  # the bank's non-randomness, kept fixed, is not quite 0.3
    assert 0.29 < answer["pairs"][0]["values"]["alpha"] < 0.31
    assert answer["sum_of_squares"] < 0.1
    assert {d["title"].split(",")[0] for d in answer["diagrams"]} == {"Calculated over measured", "Residuals"}
    record = {key: answer[key] for key in ("values", "half_widths", "sum_of_squares", "quality", "deviations")}
    fit = {"name": "Fit 1", **question, **record, "author": "engineer", "date": "2026-11-23"}
    kept = edit(
        document,
        "batch",
        edits=[{"kind": "set_fit", "name": "Fit 1", "fit": fit}, {"kind": "set_pair", **answer["pairs"][0], "quality": answer["quality"]}],
    )
    assert kept.chemistry.fits[0].objective == "least squares"
    assert kept.chemistry.pairs[0].quality == "measured fit"
    assert edit(kept, "set_data", name="Run 1").chemistry.data == ()
    assert solve(kept).model == "nrtl"


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"data": ["Run 9"]}, "no data set"),
        ({"free": [{"first": "ethanol", "second": "gold", "name": "b12"}]}, "gold is not among"),
        ({"model": "astrology"}, "astrology"),
        ({"free": []}, "free"),
    ],
)
def test_questions_for_a_fit_that_cannot_be_answered(change, words):
    question = {"model": "nrtl", "data": ["Run 1"], "free": [{"first": "ethanol", "second": "water", "name": "b12"}], **change}
    with pytest.raises(QuestionError, match=words):
        run_fit(plant_with_data().chemistry, fit_question_from_json(question))


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"columns": [{"key": "T", "unit": "bar"}, {"key": "P", "unit": "bar"}, {"key": "x1"}]}, "bar"),
        ({"rows": [[1.0, 2.0]]}, "row 1 has 2 cells for 3"),
        ({"kind": "poetry"}, "poetry"),
        ({"components": ["ethanol", "ethanol"]}, "two different"),
    ],
)
def test_a_data_set_that_cannot_be_is_refused_by_the_document(change, words):
    columns = [{"key": "T", "unit": "K"}, {"key": "P", "unit": "bar"}, {"key": "x1"}]
    data = {"name": "A", "kind": "vapour-liquid", "components": PAIR, "columns": columns, "rows": [[300.0, 1.0, 0.5]], **change}
    with pytest.raises(ValueError, match=words):
        Measured.model_validate(data)


# From files ---------------------------------------------------------------------------------------------------------------

THERMOML = """<?xml version="1.0"?><DataReport xmlns="http://www.iupac.org/namespaces/ThermoML">
<Compound><RegNum><nOrgNum>1</nOrgNum></RegNum><sCASRegistryNum>64-17-5</sCASRegistryNum></Compound>
<Compound><RegNum><nOrgNum>2</nOrgNum></RegNum><sCASRegistryNum>7732-18-5</sCASRegistryNum></Compound>
<PureOrMixtureData><Component><RegNum><nOrgNum>2</nOrgNum></RegNum></Component><Component><RegNum><nOrgNum>1</nOrgNum></RegNum></Component>
<Property><nPropNumber>1</nPropNumber><Property-MethodID><PropertyGroup><VaporPressure><ePropName>Vapor or sublimation pressure, kPa</ePropName>
</VaporPressure></PropertyGroup></Property-MethodID><PropPhaseID><ePropPhase>Liquid</ePropPhase></PropPhaseID></Property>
<Property><nPropNumber>2</nPropNumber><Property-MethodID><PropertyGroup><CompositionAtPhaseEquilibrium><ePropName>Mole fraction</ePropName>
</CompositionAtPhaseEquilibrium></PropertyGroup><RegNum><nOrgNum>1</nOrgNum></RegNum></Property-MethodID>
<PropPhaseID><ePropPhase>Gas</ePropPhase></PropPhaseID></Property>
<Constraint><ConstraintID><ConstraintType><eTemperature>Temperature, K</eTemperature></ConstraintType></ConstraintID>
<nConstraintValue>323.15</nConstraintValue></Constraint>
<Variable><nVarNumber>1</nVarNumber><VariableID><VariableType><eComponentComposition>Mole fraction</eComponentComposition></VariableType>
<RegNum><nOrgNum>2</nOrgNum></RegNum></VariableID><VarPhaseID><eVarPhase>Liquid</eVarPhase></VarPhaseID></Variable>
<NumValues><VariableValue><nVarNumber>1</nVarNumber><nVarValue>0.7</nVarValue></VariableValue>
<PropertyValue><nPropNumber>1</nPropNumber><nPropValue>24.1</nPropValue></PropertyValue>
<PropertyValue><nPropNumber>2</nPropNumber><nPropValue>0.58</nPropValue></PropertyValue></NumValues>
</PureOrMixtureData></DataReport>"""
PARTS = [DocumentComponent(id="ethanol", cas="64-17-5"), DocumentComponent(id="water", cas="7732-18-5")]


def test_thermoml_is_read_in_the_order_of_the_plant():
    (data,), left_out = data_from_thermoml(THERMOML.encode(), PARTS)
    assert left_out == []
    assert [c.key for c in data.columns] == ["T", "P", "x1", "y1"]
    assert data.rows == ((323.15, 24.1, pytest.approx(0.3), 0.58),)  # ethanol stands first in the plant


@pytest.mark.parametrize(
    ("content", "words"),
    [
        (b"<html/>", "DataReport"),
        (b"<DataReport>", "not valid XML"),
        (b'<!DOCTYPE a [<!ENTITY b "c">]><DataReport>&b;</DataReport>', "not valid XML"),
        (THERMOML.replace("64-17-5", "64-17-6").encode(), "not among the components"),
        (THERMOML.replace("323.15</nConstraintValue>", "hot</nConstraintValue>").encode(), "No data set"),
    ],
)
def test_files_that_are_no_usable_thermoml_are_refused(content, words):
    with pytest.raises(TableError, match=words):
        data_from_thermoml(content, PARTS)


def test_a_table_names_its_columns_and_units_and_loses_nothing_silently():
    rows = [["Temperature [°C]", "P (mmHg)", "x1", "colour", "y1 %"], ["60", "230,5", "0.1", "red", "35"], ["61", "", "nil", "", "40"]]
    table = data_from_table(rows, "vapour-liquid", PAIR, "Run")
    assert [(c.key, c.unit) for c in table.data.columns] == [("T", "degC"), ("P", "mmHg"), ("x1", ""), ("y1", "%")]
    assert table.data.rows == ((60.0, 230.5, 0.1, 35.0), (61.0, None, None, 40.0))
    assert table.left_out[0].startswith('Column 4: "colour"')
    assert table.left_out[1] == 'Line 3, x1: "nil" is not a number.'
    with pytest.raises(TableError, match="column P"):
        data_from_table([["T", "x1"], ["300", "0.2"]], "vapour-liquid", PAIR, "Run")
    assert Chemistry(data=(table.data,)).data[0].name == "Run"


@pytest.mark.parametrize("objective", ["least squares", "maximum likelihood"])
def test_a_point_of_weight_four_counts_like_four_of_it(objective):
    rng = np.random.default_rng(4)
    truth = PropertyModel("margules", PAIR, {PAIR: {"a12": 1.2, "a21": 0.8}})
    x = np.array([0.1, 0.25, 0.4, 0.6, 0.75, 0.9])
    t = np.full(6, 330.0)
    p = np.array([truth.flash([a, 1 - a], T=330.0, VF=0.0).pressure for a in x]) * (1 + 0.01 * rng.normal(size=6))
    free = [Free(PAIR, "a12"), Free(PAIR, "a21")]
    again = np.append(np.arange(6), [2, 2, 2])
    four = DataSet("vapour-liquid", PAIR, {"T": t[again], "P": p[again], "x1": x[again]})
    heavy = DataSet("vapour-liquid", PAIR, {"T": t, "P": p, "x1": x}, weights={2: 4.0})
    plain = DataSet("vapour-liquid", PAIR, {"T": t, "P": p, "x1": x})
    fits = [fit_pairs(PropertyModel("margules", PAIR), [d], free, objective=objective).values for d in (four, heavy, plain)]
    assert fits[1] == pytest.approx(fits[0], rel=1e-5)
    assert fits[2] != pytest.approx(fits[0], rel=1e-4)
    with pytest.raises(ValueError, match="a weight is a positive number"):
        DataSet("vapour-liquid", PAIR, {"T": t, "P": p, "x1": x}, weights={1: 0.0})


def generated(**change):
    asked = {"name": "Made", "model": "unifac-dortmund", "first": "water", "second": "ethanol", "pressure": {"value": 1.0, "unit": "atm"}}
    chemistry = Chemistry(components=(DocumentComponent(id="ethanol", cas="64-17-5"), DocumentComponent(id="water", cas="7732-18-5")), model="nrtl")
    return chemistry, generate(chemistry, generated_question_from_json({**asked, **change}))


def test_data_of_a_model_are_branded_for_good_and_so_is_a_fit_to_them():
    chemistry, made = generated()
    assert (made.measured, made.generated_by) == (False, "unifac-dortmund")
    model = PropertyModel("unifac-dortmund", ["water", "ethanol"])
    for t, p, x, y in made.rows[::4]:
        state = model.flash([x, 1 - x], P=101325.0, VF=0.0)
        assert (t, p, y) == (pytest.approx(state.temperature, rel=1e-6), pytest.approx(101325.0), pytest.approx(state.vapour_fractions[0], rel=1e-6))
    with pytest.raises(ValueError, match="were not measured"):
        Measured.model_validate({**made.model_dump(), "measured": True})
    question = {"model": "nrtl", "data": ["Made"], "free": [{"first": "water", "second": "ethanol", "name": n} for n in ("b12", "b21")]}
    found = run_fit(chemistry.model_copy(update={"data": (made,)}), fit_question_from_json(question))
    assert found["quality"] == "estimated"
    assert max(d["mean"] for d in found["deviations"] if d["column"] == "y1") < 0.02


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"pressure": None}, "give the temperature or the pressure"),
        ({"pressure": {"value": 3.0, "unit": "kg"}}, "kg"),
        ({"first": "gold"}, "two different components"),
        ({"model": "peng-robinson", "temperature": {"value": 900.0, "unit": "K"}, "pressure": None}, "no state"),
        ({"points": 2}, "greater than or equal to 3"),
    ],
)
def test_data_that_no_model_can_give_are_refused_in_words(change, words):
    with pytest.raises(QuestionError, match=words):
        generated(**change)


def test_bubble_temperatures_are_an_objective_of_their_own():
    """Isobaric data of a known model: temperatures within hundredths, parameters back; deviations are told in K."""
    pair = ("ethanol", "water")
    truth = PropertyModel("nrtl", pair, {pair: {"a12": 0.0, "a21": 0.0, "b12": -29.0, "b21": 624.0, "alpha": 0.3}})
    rows = [(x, truth.flash([x, 1.0 - x], P=101325.0, VF=0.0)) for x in (0.05, 0.2, 0.4, 0.6, 0.8, 0.95)]
    columns = {"P": [101325.0] * 6, "x1": [x for x, _ in rows], "T": [s.temperature for _, s in rows], "y1": [s.vapour_fractions[0] for _, s in rows]}
    start = PropertyModel("nrtl", pair, {pair: {"a12": 0.0, "a21": 0.0, "b12": 0.0, "b21": 0.0, "alpha": 0.3}})
    free = [Free(pair, "b12"), Free(pair, "b21", start=300.0)]
    fit = fit_pairs(start, [DataSet("vapour-liquid", pair, columns)], free, objective="least squares of temperature")
    assert fit.values == pytest.approx([-29.0, 624.0], rel=1e-4)
    assert [d.column for d in fit.deviations] == ["T", "y1"]
    assert fit.deviations[0].largest < 1e-4
    assert fit.deviations[1].each.shape == (6,)
    assert fit.deviations[1].mean_relative < 1e-5


def test_standard_errors_are_those_of_the_linear_case():
    """Margules with one parameter is linear in ln gamma: the error of the slope by the textbook's formula."""
    pair = ("ethanol", "water")
    noise = np.array([0.02, -0.01, 0.015, -0.03, 0.005])
    x = np.array([0.1, 0.3, 0.5, 0.7, 0.9])
    t = np.full(5, 330.0)
    h = 2000.0 * x * (1.0 - x) + 50.0 * noise
    model = PropertyModel("margules", pair, {pair: {"a12": 0.0, "a21": 0.0, "b12": 0.0, "b21": 0.0}})
    data = DataSet("excess enthalpy", pair, {"T": t, "x1": x, "h": h})
    fit = fit_pairs(model, [data], [Free(pair, "b12"), Free(pair, "b21")])
    columns = 8.314462618 * np.column_stack([x * (1.0 - x) ** 2, x**2 * (1.0 - x)])
    values, left, *_ = np.linalg.lstsq(columns, h, rcond=None)
    expected = np.sqrt(np.diag(np.linalg.inv(columns.T @ columns)) * float(left[0]) / 3.0)
    order = [0, 1] if abs(fit.values[0] - values[0]) < abs(fit.values[0] - values[1]) else [1, 0]
    assert fit.values == pytest.approx(values[order], rel=1e-5)
    assert fit.standard_errors == pytest.approx(expected[order], rel=1e-3)
