"""Searches for the best over plants: limits, prices, whole numbers, trade-offs, and what is said where there is no best."""

import json

import pytest
from plants import example, q

from wattaxis import edit, solve
from wattaxis.cli import main
from wattaxis.flowsheet import Study, dump
from wattaxis.quantities import Quantity
from wattaxis.questions.scaling import scale_to_production
from wattaxis.studies import Asked, StudyError, StudyResult, ask, plant_of_case

COLD = {"unit": "E-103", "field": "outlet_temperature", "low": q("5 degC"), "high": q("40 degC")}
PRESSED = {"unit": "VL-101", "field": "outlet_pressure", "low": q("2 bar"), "high": q("8 bar")}
DUTY = {"name": "Duty", "formula": "E-103.duty"}
LOST = {"name": "Lost", "formula": "S-08.component_flow[butanone]"}
GAS = {"name": "Gas", "formula": "S-08.mass_flow"}


def study(inputs=(COLD,), objectives=(DUTY,), limits=(), **also):
    given = {"name": "Best", "asks": "optimum", "inputs": inputs, "objectives": objectives, "limits": limits, **also}
    return Study.model_validate(given)


def best(result):
    return result.cases[result.optimum.best]


def test_a_limit_that_binds_has_a_price_and_one_set_aside_has_none():
    plant, most = example("sandlark_bay"), {**LOST, "high": q("5 kmol/h")}
    bound = ask(plant, study(limits=[most]))
    assert best(bound).outputs[1] == pytest.approx(5 / 3.6, rel=1e-7)
    assert [(b.of, b.name, b.side) for b in bound.optimum.binding] == [("limit", "Lost", "high")]
    assert bound.optimum.binding[0].price < 0.0  # more may be lost: less is to be cooled
    lost = [case.outputs[1] for case in bound.cases]
    assert [k in bound.optimum.missed for k in range(len(lost))] == [value > bound.optimum.limits[0].high * (1 + 1e-6) for value in lost]
    free = ask(plant, study(limits=[{**most, "aside": True}]))
    assert best(free).inputs == (pytest.approx(313.15),)
    assert [(b.of, b.side) for b in free.optimum.binding] == [("input", "high")]
    assert [(limit.aside, limit.kept) for limit in free.optimum.limits] == [(True, False)]


def test_the_largest_is_the_least_turned_round():
    warm = ask(example("sandlark_bay"), study(objectives=[{**DUTY, "sense": "most"}]))
    assert best(warm).inputs == (pytest.approx(278.15),)
    assert warm.optimum.binding[0].price < 0.0  # a higher lower bound would cost duty


def test_a_limit_that_is_exact_is_kept_exactly():
    exact = {**LOST, "low": q("4.5 kmol/h"), "high": q("4.5 kmol/h")}
    result = ask(example("sandlark_bay"), study([COLD, PRESSED], limits=[exact]))
    assert best(result).outputs[1] == pytest.approx(4.5 / 3.6, rel=1e-6)
    assert "equal" in [b.side for b in result.optimum.binding]


def test_the_best_case_is_the_plant_calculated_with_its_values():
    plant = example("sandlark_bay")
    asked = study([COLD, PRESSED], limits=[{**LOST, "high": q("5 kmol/h")}])
    found = best(ask(plant, asked))
    alone = solve(plant_of_case(plant, asked, found.inputs))
    assert alone.streams["S-08"].mole_flows["butanone"] == pytest.approx(found.outputs[1], rel=1e-9)


def test_the_same_question_has_the_same_bits_and_survives_json():
    asked = study(limits=[{**LOST, "high": q("5 kmol/h")}], starts=3)
    one, other = (ask(example("sandlark_bay"), asked) for _ in range(2))
    assert one == other
    assert StudyResult.from_data(one.to_data()) == one
    assert Asked(example("sandlark_bay"), asked).parts == 1


def test_around_the_best_the_objective_is_shown_for_each_value():
    result = ask(example("sandlark_bay"), study([COLD, PRESSED], limits=[{**LOST, "high": q("5 kmol/h")}]))
    found = best(result)
    for k, numbers in enumerate(result.optimum.around):
        assert len(numbers) >= 2
        assert all(result.cases[n].inputs[1 - k] == found.inputs[1 - k] for n in numbers)


def test_whole_numbers_are_whole_and_the_best_of_all():
    """Every number of stages is calculated alone beside the search."""
    plant = example("butane_splitter")
    stages = {"unit": "T-601", "field": "feeds[1].stage", "low": q("20"), "high": q("44")}
    heat = {"name": "Heat", "formula": "T-601.reboiler_duty"}
    result = ask(plant, study([stages], [heat]))
    every = ask(plant, Study.model_validate({"name": "All", "inputs": [{**stages, "points": 25}], "outputs": [heat]}))
    least = min(every.cases, key=lambda case: case.outputs[0])
    assert best(result).inputs == least.inputs
    assert "hole numbers" in result.optimum.method


def test_two_objectives_trade_off():
    result = ask(example("sandlark_bay"), study(objectives=[DUTY, GAS], tradeoffs=5))
    front = [result.cases[n].outputs for n in result.optimum.front]
    assert len(front) == 5
    duties, gases = zip(*front, strict=True)
    assert list(duties) == sorted(duties)
    assert list(gases) == sorted(gases, reverse=True)
    assert best(result).outputs == front[0]


def test_limits_that_no_point_keeps_are_named():
    hot, cold = {**LOST, "name": "Little lost", "high": q("1 kmol/h")}, {**DUTY, "name": "Little cooling", "high": q("1250 kW")}
    result = ask(example("sandlark_bay"), study(limits=[hot, cold]))
    assert result.optimum.best is None
    (remark,) = result.remarks
    assert remark.startswith("No point between the bounds keeps to all limits.")
    assert "Little lost is" in remark
    assert "Little cooling is" in remark


def test_a_limit_kept_nowhere_near_the_start_is_reached():
    little = {**LOST, "high": q("1.4 kmol/h")}  # kept only close to the lower bound of the temperature
    result = ask(example("sandlark_bay"), study(limits=[little]))
    assert best(result).outputs[1] == pytest.approx(1.4 / 3.6, rel=1e-6)


@pytest.mark.parametrize(
    ("asked", "text"),
    [
        ({"objectives": []}, "There is no objective"),
        ({"inputs": []}, "Nothing is varied"),
        ({"inputs": [{**COLD, "low": None}]}, "its lower bound is blank"),
        ({"inputs": [{**COLD, "high": q("5 degC")}]}, "to the same"),
        ({"inputs": [COLD, COLD]}, "varied twice"),
        ({"inputs": [{**COLD, "unit": "E-999"}]}, "not on the sheet"),
        ({"objectives": [{"name": "X", "formula": "E-999.duty"}]}, "nothing on the sheet is tagged E-999"),
        ({"objectives": [{"name": "Feed", "formula": "S-06.mass_flow"}]}, "Feed does not depend on what is varied"),
        ({"limits": [LOST]}, "has no end"),
        ({"limits": [{**LOST, "high": q("5 bar")}]}, "The limit Lost"),
        ({"limits": [{**LOST, "low": q("6 kmol/h"), "high": q("5 kmol/h")}]}, "which nothing can be"),
        ({"limits": [{**LOST, "low": q("6 kmol/h")}, {**LOST, "name": "L2", "high": q("5 kmol/h")}]}, "Lost .* and L2 .* contradict each other"),
    ],
)
def test_what_cannot_be_asked_is_one_sentence(asked, text):
    with pytest.raises(StudyError, match=text):
        ask(example("sandlark_bay"), study(**asked))


def test_what_an_aim_sets_is_not_varied():
    freed = {"unit": "F-201", "field": "flow", "low": q("50 kmol/h"), "high": q("90 kmol/h")}
    with pytest.raises(StudyError, match="is found by the aim"):
        ask(example("sandlark_bay_recycle"), study([freed], [{"name": "Heat", "formula": "R-201.duty"}]))


def test_limits_and_objectives_follow_a_new_tag_and_a_larger_plant():
    asked = study(limits=[{**LOST, "high": q("5 kmol/h")}]).model_dump(mode="json", exclude_none=True)
    plant = edit(example("sandlark_bay"), "set_study", name="Best", study=asked)
    renamed = edit(plant, "rename", tag="S-08", new="S-80").studies[0]
    assert renamed.limits[0].formula == "S-80.component_flow[butanone]"
    edits = scale_to_production(plant, solve(plant), "S-06", Quantity(value=9e5, unit="t"), 300.0).edits
    (scaled,) = [e for e in edits if e["kind"] == "set_study"]
    assert scaled["study"]["limits"][0]["high"]["value"] > 5.0


def test_the_command_line_tells_the_best_and_why_there_is_none(tmp_path, capsys):
    path = tmp_path / "plant.json"
    for most, code, told in (("5 kmol/h", 0, ""), ("1 kmol/h", 1, "No point between the bounds")):
        asked = study(limits=[{**LOST, "high": q(most)}]).model_dump(mode="json", exclude_none=True)
        path.write_text(dump(edit(example("sandlark_bay"), "set_study", name="Best", study=asked)))
        assert main(["study", str(path), "Best"]) == code
        out, err = capsys.readouterr()
        assert [line.rsplit(",", 1)[1] for line in out.splitlines() if line.endswith(("start", "best"))] == ["start", "best"][: 2 - code]
        assert err.startswith(told)
    assert main(["study", str(path), "Best", "--json"]) == 1
    assert StudyResult.from_data(json.loads(capsys.readouterr().out)).optimum.best is None
