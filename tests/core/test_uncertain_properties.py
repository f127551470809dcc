"""Property parameters that are varied: each number of the chemistry moves what it should, and intervals of fits carry over."""

import math
from importlib.resources import files

import numpy as np
import pytest
from plants import example, plant, q

from wattaxis import PropertyModel, edit, solve
from wattaxis.flowsheet import Study, property_model
from wattaxis.flowsheet.fitting import fit_question_from_json, run_fit
from wattaxis.studies import StudyError, ask, cases_of, parameters_of, plant_of_case, question_keys
from wattaxis.studies.draws import NORMAL

EXAMPLES = sorted(file.name.removesuffix(".json") for file in files("wattaxis.examples").iterdir() if file.name.endswith(".json"))
PAIR = ("ethanol", "water")
NAMES = ("b12", "b21")
TOP = {"name": "Top", "formula": "S-2.component_flow[ethanol]"}


def drum(model="nrtl"):
    feed = ("feed", {"temperature": q("82 degC"), "pressure": q("1 bar"), "flow": q("100 kmol/h"), "composition": None})
    feed[1]["composition"] = {"basis": "mole_fraction", "values": {"ethanol": q("0.4"), "water": q("0.6")}}
    vessel = ("drum", {"pressure_change": q("0 bar"), "duty": q("0 kW")})
    lines = ["S-1: F-1.outlet -> V-1.inlet", "S-2: V-1.vapour -> P-1.inlet", "S-3: V-1.liquid -> P-2.inlet"]
    units = {"F-1": feed, "V-1": vessel, "P-1": ("product", {}), "P-2": ("product", {})}
    return plant([("ethanol", "64-17-5"), ("water", "7732-18-5")], units, lines, model)


def fitted(document, noise=1.0):
    """A fit to vapour-liquid data with scatter, kept, and its values used."""
    truth = PropertyModel("nrtl", PAIR, {PAIR: {"b12": -55.2, "b21": 670.4, "alpha": 0.3}}, bank_pairs=False)
    rng = np.random.default_rng(5)
    rows = []
    for x in np.linspace(0.05, 0.95, 12):
        state = truth.flash([x, 1.0 - x], T=350.0, VF=0.0)
        scatter = rng.normal(size=3) * noise
        rows.append([350.0 + 0.1 * scatter[0], state.pressure * (1 + 0.003 * scatter[1]), x, state.vapour_fractions[0] + 0.004 * scatter[2]])
    columns = [{"key": key, "unit": unit} for key, unit in (("T", "K"), ("P", "Pa"), ("x1", ""), ("y1", ""))]
    data = {"name": "Run 1", "kind": "vapour-liquid", "components": PAIR, "columns": columns, "rows": rows}
    document = edit(document, "set_data", name="Run 1", data=data)
    question = {"model": "nrtl", "data": ["Run 1"], "free": [{"first": "ethanol", "second": "water", "name": name} for name in NAMES]}
    answer = run_fit(document.chemistry, fit_question_from_json(question))
    record = {key: answer[key] for key in ("values", "half_widths", "correlation", "sum_of_squares", "quality", "deviations")}
    edits = [{"kind": "set_fit", "name": "Fit 1", "fit": {"name": "Fit 1", **question, **record}}]
    edits += [{"kind": "set_pair", "model": "nrtl", **answer["pairs"][0]}]
    return edit(document, "batch", edits=edits), answer


def study(*inputs, **also):
    return Study.model_validate({"name": "U", "asks": "uncertainty", "inputs": inputs, "outputs": [TOP], "samples": 400, **also})


def test_the_interval_of_a_fit_carries_over_to_the_results():
    """Beside the linear propagation of the covariance of the fit (Draper, Smith 1998), and beside values drawn without their correlation."""
    document, answer = fitted(drum())
    asked = study({"fit": "Fit 1"})
    values = cases_of(document, asked).values
    half, correlation = np.array(answer["half_widths"]), np.array(answer["correlation"])
    assert values.mean(axis=0) == pytest.approx(answer["values"], abs=0.02 * half.max())
    assert values.std(axis=0) == pytest.approx(half / NORMAL, rel=0.05)
    assert np.corrcoef(values.T)[0, 1] == pytest.approx(correlation[0, 1], abs=0.02)
    assert abs(correlation[0, 1]) > 0.8

    def top(moved):
        pair = {**answer["pairs"][0], "values": {**answer["pairs"][0]["values"], **dict(zip(NAMES, moved, strict=True))}}
        return solve(edit(document, "set_pair", model="nrtl", **pair)).streams["S-2"].mole_flows["ethanol"]

    base = np.array(answer["values"])
    slopes = np.array([(top(base + step) - top(base - step)) / 2.0 for step in np.eye(2)])
    covariance = np.outer(half, half) / NORMAL**2 * correlation
    (spread,) = ask(document, asked).spread
    assert spread.deviation == pytest.approx(math.sqrt(slopes @ covariance @ slopes), rel=0.1)
    alone = math.sqrt(((slopes * half / NORMAL) ** 2).sum())
    assert not 0.8 < spread.deviation / alone < 1.25


def test_a_case_of_a_pair_opens_as_a_plant_that_answers_alike():
    document, _ = fitted(drum())
    b = {"of": "pair", "model": "nrtl", "first": "water", "second": "ethanol", "name": "b12", "low": q("600"), "high": q("800"), "points": 3}
    asked = study(b, asks="cases", design="grid")
    cases = ask(document, asked).cases
    assert [case.inputs[0] for case in cases] == [600.0, 700.0, 800.0]
    made = plant_of_case(document, asked, cases[2].inputs)
    assert made.chemistry.pairs[0].values["b12"] == 800.0  # of water with ethanol
    assert made.chemistry.pairs[0].values["b21"] == document.chemistry.pairs[0].values["b12"]
    assert solve(made).streams["S-2"].mole_flows["ethanol"] == cases[2].outputs[0]


@pytest.mark.parametrize("name", EXAMPLES)
def test_every_number_of_the_chemistry_that_is_offered_can_be_varied(name):
    """A case at the value that is there is the plant; another value is another chemistry, of which there is a property model."""
    document = example(name)
    for parameter in parameters_of(document):
        place = parameter.place
        where = {"of": place.of, "first": place.first, "second": place.second, "name": place.name, "model": place.model}
        asked = study(where, asks="cases")
        same = plant_of_case(document, asked, [parameter.value])
        other = plant_of_case(document, asked, [1.01 * parameter.value or 0.01])
        assert same.chemistry.reactions == document.chemistry.reactions, place
        assert other.chemistry != same.chemistry, place
        assert other.units == document.units
        assert parameter.quantity.unit == parameter.typed
        property_model(other.chemistry)


def test_of_every_kind_there_are_numbers():
    assert {parameter.place.of for parameter in parameters_of(example("butanone_plant"))} == {"pair", "component", "rate"}


def test_a_rate_constant_of_nothing_is_a_fault_of_its_case():
    document = example("reactors_on_one_feed")
    (of,) = document.chemistry.reactions
    k = {"of": "rate", "first": of.name, "second": of.reactions[0].name, "name": "k", "values": [{"value": 0}, {"value": 1}]}
    none, some = ask(document, study(k, asks="cases", outputs=[{"name": "X", "formula": "R-103.conversion"}])).cases
    assert none.outputs == (None,)
    assert "more than 0" in none.faults[0]
    assert not some.faults


def test_a_rate_constant_moves_the_reactor_as_typing_it_does():
    document = example("reactors_on_one_feed")
    (of,) = document.chemistry.reactions
    law = of.reactions[0].forward
    place = {"of": "rate", "first": of.name, "second": of.reactions[0].name, "name": "k"}
    asked = study({**place, "values": [{"value": 1.1 * law.value}]}, asks="cases", outputs=[{"name": "X", "formula": "R-103.conversion"}])
    typed = of.reactions[0].model_copy(update={"forward": law.model_copy(update={"value": 1.1 * law.value})})
    by_hand = edit(document, "set_reaction", of=of.name, name=of.reactions[0].name, reaction=typed.model_dump(mode="json"))
    made = plant_of_case(document, asked, [1.1 * law.value])
    assert made.chemistry.reactions[0].reactions[0].forward.value == pytest.approx(1.1 * law.value, rel=1e-9)
    assert ask(document, asked).cases[0].outputs[0] == pytest.approx(solve(by_hand).units["R-103"]["conversion"], rel=1e-8)


@pytest.mark.parametrize(
    ("inputs", "also", "words"),
    [
        ([{"fit": "Fit 9"}], {}, 'There is no fit "Fit 9"'),
        ([{"fit": "Fit 1"}], {"asks": "cases"}, "ask how sure results are"),
        ([{"fit": "Fit 1"}], {"design": "Sobol"}, "do not go together"),
        ([{"fit": "Fit 1"}, {"of": "pair", "first": "water", "second": "ethanol", "name": "b21", "low": q("1"), "high": q("2")}], {}, "varied twice"),
        ([{"of": "pair", "first": "water", "second": "gold", "name": "b21"}], {}, "gold is not among the components"),
        ([{"of": "pair", "first": "water", "second": "ethanol", "name": "kij"}], {}, "has no pair parameter kij"),
        ([{"of": "component", "first": "water", "name": "colour"}], {}, "no constant colour"),
        ([{"of": "rate", "first": "Main", "second": "R1", "name": "k"}], {}, 'There is no reaction set "Main"'),
        (
            [{"of": "pair", "first": "water", "second": "ethanol", "name": "b21", "low": q("1"), "high": q("2")}],
            {"asks": "optimum", "objectives": [TOP]},
            "is a property, which nobody can choose",
        ),
    ],
)
def test_what_cannot_be_asked_of_properties_is_told(inputs, also, words):
    document, _ = fitted(drum())
    with pytest.raises(StudyError, match=words):
        ask(document, study(*inputs, **also))


def test_a_fit_that_the_plant_does_not_go_by_is_not_drawn_from():
    document, answer = fitted(drum())
    pair = answer["pairs"][0]
    moved = edit(document, "set_pair", model="nrtl", **{**pair, "values": {**pair["values"], "b12": 0.0}})
    with pytest.raises(StudyError, match="Use the values of the fit"):
        ask(moved, study({"fit": "Fit 1"}))
    kept = document.chemistry.fits[0].model_dump(mode="json")
    alone = edit(document, "set_fit", name="Fit 1", fit={**kept, "correlation": []})
    with pytest.raises(StudyError, match="Fit it once more"):
        ask(alone, study({"fit": "Fit 1"}))
    # What the answer follows from is told apart by the fit as well.
    document = edit(document, "set_study", name="U", study=study({"fit": "Fit 1"}).model_dump(mode="json"))
    wider = edit(document, "set_fit", name="Fit 1", fit={**kept, "half_widths": [2 * w for w in kept["half_widths"]]})
    assert question_keys(wider) != question_keys(document)
