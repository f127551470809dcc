"""A column tried with a feed on other stages and with other numbers of stages: each is the column that the edit would make."""

import pytest
from plants import example, plant, q

from wattaxis import edit, solve
from wattaxis.questions import ColumnQuestion, study_column

PAIR = [("benzene", "71-43-2"), ("toluene", "108-88-3")]


def column(stages="16", stage="4", table=True, light=0.5, **spec):
    share = {"benzene": q(str(light)), "toluene": q(str(1.0 - light))}
    feed = {"temperature": q("365 K"), "pressure": q("1.5 bar"), "flow": q("100 mol/s"), "composition": {"basis": "mole_fraction", "values": share}}
    pure = [{"product": "distillate", "component": "benzene"}, {"product": "bottoms", "component": "toluene"}]
    rows = [{"id": str(k), "cells": {**row, "counts": "mole fraction", "value": q("97 %")}} for k, row in enumerate(pure, 1)]
    built = {"stages": q(stages), "condenser": "total", "reboiler": "kettle", "top_pressure": q("1.1 bar"), "purities": {"rows": rows}, **spec}
    if table:
        built["feeds"] = {"rows": [{"id": "7", "cells": {"stream": "1", "stage": q(stage)}}]}
    units = {"F": ("feed", feed), "T": ("staged-column", built), "Z1": ("product", {}), "Z2": ("product", {})}
    return plant(PAIR, units, ["1: F.outlet -> T.inlet", "2: T.distillate -> Z1.inlet", "3: T.bottoms -> Z2.inlet"], "ideal")


def studied(document, stream=""):
    return study_column(document, solve(document), ColumnQuestion(unit="T", stream=stream))


def heat(document):
    return {v.key: v.value for v in solve(document).units["T"].values}["reboiler_duty"]


def test_the_best_stage_of_a_feed_is_found_and_taken_in_one_edit():
    document = column()
    study = studied(document, "1")
    assert study.now == 4
    assert [t.number for t in study.tries] == list(range(2, 16))
    assert study.edit == {"kind": "set_values", "unit": "T", "values": {"feeds[7].stage": {"value": float(study.best), "unit": ""}}}
    better = edit(document, **study.edit)
    tried = {t.number: t for t in study.tries}
    assert heat(better) == pytest.approx(tried[study.best].heat, rel=1e-9)
    assert heat(document) == pytest.approx(tried[4].heat, rel=1e-9)
    assert tried[study.best].heat < 0.95 * tried[4].heat
    assert "With 1 on stage" in study.text
    assert studied(better, "1").edit is None
    assert [c.key for c in study.profile.columns] == ["reflux_ratio", "heat"]


def test_a_feed_without_a_row_gets_one():
    document = column(table=False, light=0.9)
    study = studied(document, "1")
    assert study.now == 8
    assert study.edit["kind"] == "set_row"
    assert heat(edit(document, **study.edit)) < heat(document)


def test_stages_against_reflux_and_the_fewest_that_do():
    study = studied(column(stages="14", stage="7"))
    done = [t for t in study.tries if not t.problem]
    assert [t.reflux_ratio for t in done] == sorted([t.reflux_ratio for t in done], reverse=True)
    assert study.fewest == done[0].number > study.tries[0].number
    assert f"with {study.fewest} they are" in study.text
    assert "was not reached" in study.tries[0].problem
    assert study.now == 14
    assert study.best is study.edit is None


def test_what_is_on_stages_moves_with_their_number():
    draws = {"rows": [{"id": "1", "cells": {"stage": q("10"), "phase": "liquid", "flow": q("2 mol/s")}}]}
    document = column(stages="20", stage="11", draws=draws, heats={"rows": [{"id": "1", "cells": {"stage": q("19"), "power": q("5 kW")}}]})
    document = edit(document, "add_unit", unit={"tag": "Z3", "type": "product", "spec": {}})
    document = edit(document, "connect", stream={"tag": "4", "source": {"unit": "T", "port": "draw_1"}, "target": {"unit": "Z3", "port": "inlet"}})
    study = studied(document)
    assert study.tries[-1].number == 40
    assert not [t.problem for t in study.tries if t.number >= 18 and t.problem]


def test_a_column_within_a_loop_keeps_what_comes_in():
    document = example("ether_from_methanol")
    result = solve(document)
    study = study_column(document, result, ColumnQuestion(unit="T-902", stream="S-911"))
    now = next(t for t in study.tries if t.number == study.now)
    assert now.heat == pytest.approx({v.key: v.value for v in result.units["T-902"].values}["reboiler_duty"], rel=1e-7)


@pytest.mark.parametrize(
    ("unit", "stream", "says"), [("F", "", "There is no column F"), ("T", "9", "No stream 9 is fed to T"), ("X", "", "no column X")]
)
def test_what_cannot_be_tried_is_told(unit, stream, says):
    document = column()
    with pytest.raises(ValueError, match=says):
        study_column(document, solve(document), ColumnQuestion(unit=unit, stream=stream))


def test_stages_that_are_no_whole_number_are_told():
    document = column(stages="16.5")
    with pytest.raises(ValueError, match="whole number"):
        studied(document)
