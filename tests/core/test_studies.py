"""Sensitivity studies: which cases there are, answers beside plants calculated one by one, blocks that depend on nothing, what cannot be asked."""

import csv
import io

import numpy as np
import pytest
from plants import example, q

from wattaxis import edit, load, solve
from wattaxis.cli import main
from wattaxis.exchange import study_rows
from wattaxis.flowsheet import EditError, Study, dump
from wattaxis.flowsheet.edits import apply, edit_from_json
from wattaxis.quantities import KINDS, Quantity, from_si, shown_as, to_si
from wattaxis.quantities.quantity import dimension_si
from wattaxis.questions.scaling import scale_to_production
from wattaxis.solving.aims import FreeGiven
from wattaxis.studies import BLOCK, Sensitivity, StudyError, ask, cases_of, joined, local_effects

COLD = {"unit": "E-103", "field": "outlet_temperature", "low": q("10 degC"), "high": q("40 degC"), "points": 4}
PRESSED = {"unit": "VL-101", "field": "outlet_pressure", "low": q("2 bar"), "high": q("8 bar"), "points": 3, "spacing": "logarithmic"}
DUTY = {"name": "Duty", "formula": "E-103.duty"}
LOST = {"name": "Butanone in the gas", "formula": "S-07.component_flow[butanone]"}


def asked(*inputs, outputs=(DUTY,), **given):
    return Study.model_validate({"name": "A", "inputs": inputs, "outputs": outputs, **given})


def test_a_grid_holds_all_combinations_in_the_units_that_were_typed():
    cases = cases_of(example("sandlark_bay"), asked(COLD, PRESSED))
    assert cases.values.shape == (12, 2)
    assert cases.values[:4, 0] == pytest.approx([283.15, 283.15, 283.15, 293.15])
    assert cases.values[:3, 1] == pytest.approx([2e5, 4e5, 8e5])


def test_one_at_a_time_leaves_the_others_as_they_stand():
    plant = example("sandlark_bay")
    cases = cases_of(plant, asked(COLD, PRESSED, design="one at a time"))
    stands = [given.value for given in cases.inputs]
    assert len(cases.values) == 7
    assert (cases.values[:4, 1] == stands[1]).all()
    assert (cases.values[4:, 0] == stands[0]).all()


def test_samples_fill_the_space_and_are_the_same_ones_again():
    study = asked(COLD, PRESSED, design="samples", samples=40)
    first, again = (cases_of(example("sandlark_bay"), study).values for _ in range(2))
    assert (first == again).all()
    share = (first[:, 0] - 283.15) / 30.0
    assert sorted((share * 40).astype(int)) == list(range(40))  # one in each of forty slices
    assert np.median(first[:, 1]) == pytest.approx(4e5, rel=0.05)


def test_what_is_whole_has_each_number_once():
    stages = {"unit": "T-601", "field": "stages", "low": q("60"), "high": q("66"), "points": 20}
    assert list(cases_of(example("butane_splitter"), asked(stages)).values[:, 0]) == [60, 61, 62, 63, 64, 65, 66]


def test_answers_are_those_of_plants_calculated_one_by_one():
    plant = example("sandlark_bay")
    result = ask(plant, asked(COLD, PRESSED, outputs=(DUTY, LOST)))
    assert [column.kind for column in result.outputs] == ["power", "mole_flow"]
    for case in result.cases[::5]:
        changed = edit(plant, "set_values", unit="E-103", values={"outlet_temperature": {"value": case.inputs[0], "unit": "K"}})
        changed = edit(changed, "set_values", unit="VL-101", values={"outlet_pressure": {"value": case.inputs[1], "unit": "Pa"}})
        alone = solve(changed)
        assert case.outputs[0] == pytest.approx(next(v.value for v in alone.units["E-103"].values if v.name == "duty"), rel=1e-10)
        assert case.outputs[1] == pytest.approx(alone.streams["S-07"].mole_flows["butanone"], rel=1e-10)


def test_blocks_have_the_same_bits_in_whatever_order_they_come():
    """Of a plant with a loop and aims, whose every answer begins where another ended."""
    plant = example("sandlark_bay_recycle")
    warm = {"unit": "E-201", "field": "outlet_temperature", "low": q("380 degC"), "high": q("420 degC"), "points": 2 * BLOCK - 10}
    study = asked(warm, outputs=({"name": "Heat", "formula": "R-201.duty"}, {"name": "Fresh", "formula": "F-201.flow"}))
    whole = ask(plant, study)
    backwards = Sensitivity(plant, study)
    second, first = backwards.block(1), backwards.block(0)
    assert [*first, *second] == whole.cases
    assert joined(study, [backwards.part(0), backwards.part(1)]) == whole
    assert all(not case.faults for case in whole.cases)
    slopes = np.diff([case.outputs[0] for case in whole.cases])
    assert (slopes > 0).all() or (slopes < 0).all()


def test_cases_that_fail_stand_apart_with_their_faults():
    beyond = {"unit": "VL-101", "field": "outlet_pressure", "values": [q("3 bar"), q("300 bar"), q("4 bar")]}
    good, bad, after = ask(example("sandlark_bay"), asked(beyond)).cases
    assert good.outputs[0] is not None
    assert after.outputs[0] is not None
    assert bad.faults
    assert bad.faults[0].startswith("VL-101: ")


@pytest.mark.parametrize(("change", "says"), [
    ({"inputs": ()}, "Nothing is varied"),
    ({"outputs": ()}, "Nothing is looked at"),
    ({"inputs": ({**COLD, "unit": "E-999"},)}, "E-999 is not on the sheet"),
    ({"inputs": ({**COLD, "field": "duty"},)}, "is blank: type a value"),
    ({"inputs": (COLD, COLD)}, "is varied twice"),
    ({"inputs": ({**COLD, "high": q("10 degC")},)}, "from 10 degC to the same"),
    ({"inputs": ({**COLD, "high": None},)}, "its upper bound is blank"),
    ({"inputs": ({**COLD, "low": q("1 bar")},)}, "bar"),
    ({"inputs": ({**COLD, "low": q("-300 degC")},)}, "-300"),
    ({"inputs": ({**PRESSED, "unit": "VL-101", "low": q("-1 bar")},)}, "must be above vacuum"),
    ({"inputs": ({**COLD, "points": 1001}, {**PRESSED, "points": 11})}, "11011 cases"),
    ({"outputs": ({"name": "X", "formula": "S-99.temperature"},)}, "S-99"),
    ({"outputs": ({"name": "X", "formula": "S-07.temperature + S-07.pressure"},)}, "dimensions"),
])  # fmt: skip
def test_what_cannot_be_asked_is_told(change, says):
    study = Study.model_validate({"name": "A", "inputs": (COLD,), "outputs": (DUTY,), **change})
    with pytest.raises(StudyError) as told:
        _ = Sensitivity(example("sandlark_bay"), study).outputs
    assert says in str(told.value)


def test_what_an_aim_finds_is_not_varied():
    plant = example("sandlark_bay_recycle")
    aim = next(a for a in plant.aims if a.active)
    taken = {"unit": aim.free.unit, "field": aim.free.field, "low": q("1 kmol/h"), "high": q("200 kmol/h")}
    with pytest.raises(StudyError, match="is found by the aim"):
        cases_of(plant, asked(taken))


def test_studies_are_edited_undone_renamed_and_scaled_with_their_plant():
    plant = example("sandlark_bay")
    fed = {"unit": "F-101", "field": "composition[water]", "low": q("1 kmol/h"), "high": q("2 kmol/h")}
    study = asked(COLD, fed, outputs=(DUTY,)).model_dump(mode="json")
    made = edit(plant, "set_study", name="A", study=study)
    assert load(dump(made)) == made
    renamed, back, _ = apply(made, edit_from_json({"kind": "rename", "tag": "E-103", "new": "E-1"}))
    assert renamed.studies[0].inputs[0].unit == "E-1"
    assert renamed.studies[0].outputs[0].formula == "E-1.duty"
    assert apply(renamed, back)[0] == made
    gone, back, _ = apply(made, edit_from_json({"kind": "set_study", "name": "A"}))
    assert not gone.studies
    assert apply(gone, back)[0] == made
    result = solve(made)
    scaling = scale_to_production(made, result, "S-07", Quantity(value=2.0 * result.streams["S-07"].mass_flow * 86400.0, unit="kg"), 1.0)
    for change in scaling.edits:
        made = apply(made, edit_from_json(dict(change)))[0]
    assert [str(item.low) for item in made.studies[0].inputs] == ["10 degC", "2 kmol/h"]
    with pytest.raises(EditError, match="not 'B'"):
        edit(plant, "set_study", name="B", study=study)


@pytest.mark.parametrize(("low", "kind", "header"), [
    ("100 kmol/h", "mole_flow", "F-601 Total flow, kmol/h"), ("6000 kg/h", "mass_flow", "F-601 Total flow, kg/h"),
])  # fmt: skip
def test_flows_are_shown_as_what_they_are(low, kind, header):
    """A flow may be one of moles or of mass, whichever was typed."""
    plant = edit(example("butane_splitter"), "set_values", unit="F-601", values={"flow": low})
    varied = {"unit": "F-601", "field": "flow", "values": [q(low)]}
    result = ask(plant, asked(varied, outputs=({"name": "Flow", "formula": "S-601.mass_flow"},)))
    assert result.inputs[0].kind == kind
    head, row = study_rows(plant, result)
    assert head[1] == header
    assert row[1] == pytest.approx(float(low.split()[0]))
    effect = next(e for e in local_effects(plant, "S-601.mass_flow", ["F-601"]).effects if e.field == "flow")
    assert effect.kind == kind
    assert effect.change == pytest.approx(0.01 * result.cases[0].outputs[0])


def test_every_kind_of_given_has_one_unit_to_be_shown_in():
    """Over all kinds and all units that may be typed: back and forth, the value is the same."""
    for key, kind in KINDS.items():
        for unit in kind.units:
            given = FreeGiven("U", "f", "F", key, dimension_si(Quantity(value=1.0, unit=unit), key), unit, 1.0, 0.0, 2.0)
            told = shown_as(given.kind, given.si)
            if told is not None:
                shown = KINDS[told].units[0]
                si = to_si(Quantity(value=0.5, unit=unit), key)
                assert to_si(Quantity(value=from_si(si, shown, difference=kind.difference), unit=shown), told) == pytest.approx(si, rel=1e-12)
            else:
                assert given.si in kind.si


def test_the_command_line_prints_the_cases(tmp_path, capsys):
    plant = edit(example("sandlark_bay"), "set_study", name="A", study=asked(COLD).model_dump(mode="json"))
    path = tmp_path / "plant.json"
    path.write_text(dump(plant))
    assert main(["study", str(path), "A"]) == 0
    rows = list(csv.reader(io.StringIO(capsys.readouterr().out)))
    assert rows[0] == ["Case", "E-103 Outlet temperature, degC", "Duty, kW", "Remark"]
    assert [float(row[1]) for row in rows[1:]] == pytest.approx([10.0, 20.0, 30.0, 40.0])
    assert main(["study", str(path), "B"]) == 2
    assert "there is A" in capsys.readouterr().err


def test_local_effects_are_those_of_the_plant_calculated_again_largest_first():
    plant = example("sandlark_bay_recycle")
    found = local_effects(plant, "S-206.mole_flow", ["E-201", "E-202", "V-201", "N-201"])
    sizes = [abs(effect.change) for effect in found.effects if effect.change is not None]
    assert sizes == sorted(sizes, reverse=True)
    assert sizes[0] > 0.0
    freed = {(aim.free.unit, aim.free.field) for aim in plant.aims if aim.active}
    assert not freed & {(effect.unit, effect.field) for effect in found.effects}
    warmer = next(effect for effect in found.effects if effect.kind == "temperature")
    changed = edit(plant, "set_values", unit=warmer.unit, values={warmer.field: {"value": warmer.value + warmer.step, "unit": "K"}})
    assert warmer.change == pytest.approx(solve(changed).streams["S-206"].mole_flow - found.value, rel=1e-5)


def test_effects_on_a_column_count_whole_stages():
    found = local_effects(example("butane_splitter"), "T-601.reboiler_duty", ["T-601"])
    stages = next(effect for effect in found.effects if effect.field == "stages")
    assert stages.step == 1.0
    assert stages.change < 0.0  # one more saves heat
    assert found.kind == "power"


@pytest.mark.parametrize(("formula", "units", "says"), [
    ("S-99.temperature", (), "S-99"),
    ("S-07.temperature +", (), "is missing (at character 19)"),
    ("S-07.temperature", ("Z-101",), "No value is typed there"),
])  # fmt: skip
def test_effects_that_cannot_be_asked_are_told(formula, units, says):
    with pytest.raises(StudyError) as told:
        local_effects(example("sandlark_bay"), formula, units)
    assert says.lower() in str(told.value).lower()
