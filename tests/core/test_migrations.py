"""Documents and edits of earlier versions, and formulas that survive renaming."""

import json
from pathlib import Path

import pytest
from plants import demo, points, q

from wattaxis import DocumentError, dump, edit, load, solve
from wattaxis.flowsheet import VERSION, apply, edit_from_json
from wattaxis.flowsheet.document import load_data, to_data
from wattaxis.flowsheet.migrations import STEPS, migrate

DATA = Path(__file__).resolve().parents[1] / "data"


@pytest.mark.parametrize("version", range(1, VERSION))
def test_a_document_of_every_earlier_version_is_read_with_all_it_holds(version):
    text = (DATA / f"document-{version}.json").read_text()
    document = load(text)
    assert version in STEPS
    assert to_data(document)["version"] == VERSION
    assert load(dump(document)) == document
    old = json.loads(text)
    assert [[u["tag"], u["type"], u["x"], u["y"]] for u in to_data(document)["units"]] == [
        [u[k] for k in ("tag", "type", "x", "y")] for u in old["units"]
    ]
    assert document.units == demo().units
    assert to_data(document)["streams"] == old["streams"]


def test_a_pair_of_version_1_counts_as_before():
    document = load((DATA / "document-1.json").read_text())
    (pair,) = document.chemistry.pairs
    assert (pair.model, pair.values, pair.source) == ("peng-robinson", {"kij": -0.05}, "typed in")
    now = edit(demo(), "set_pair", first="water", second="butanone", values={"kij": -0.05})
    assert solve(document).streams == solve(now).streams


def test_edits_of_version_1_in_the_history_can_still_be_taken_back():
    old = {"kind": "set_pair", "first": "water", "second": "butanone", "pair": {"first": "water", "second": "butanone", "kij": 0.1}}
    changed, inverse, _ = apply(demo(), edit_from_json({"kind": "batch", "edits": [old]}))
    assert changed.chemistry.pairs[0].values == {"kij": 0.1}
    assert apply(changed, inverse)[0] == demo()
    cleared = apply(changed, edit_from_json({**old, "pair": None}))[0]
    assert cleared.chemistry.pairs == ()


@pytest.mark.parametrize("version", [None, "1", True, [1], 0, -3])
def test_a_version_that_is_none_is_refused_and_never_guessed(version):
    data = {**to_data(demo()), "version": version}
    assert migrate(data) == data
    with pytest.raises(DocumentError, match="version"):
        load_data(data)


def test_pins_follow_a_renamed_tag():
    document = edit(demo(), "set_pin", name="Share", formula="S-08.mass_flow / (S-06.mass_flow + S-06.mass_flow)")
    renamed = edit(document, "rename", tag="S-06", new="cold feed")
    assert renamed.pins[-1].formula == 'S-08.mass_flow / ("cold feed".mass_flow + "cold feed".mass_flow)'
    assert [p.value for p in solve(renamed).pins] == [p.value for p in solve(document).pins]


def test_a_curve_of_version_10_its_paths_and_its_edits_become_a_table():
    curve = {"flow_unit": "m3/h", "head_unit": "m", "efficiency_unit": "%", "rows": [[0, 60, None], [20, 50, 70.0], [None, None, None]]}
    table = points([[0, 60, None], [20, 50, 70.0], [None, None, None]])
    pump = {"tag": "P-1", "type": "pump", "spec": {"curve": curve}, "x": 0.0, "y": 0.0}
    aim = {"name": "a", "formula": "P-1.power", "target": q("1 kW"), "free": {"unit": "P-1", "field": "curve[2.head]"}}
    old = {**json.loads((DATA / "document-10.json").read_text()), "units": [pump], "streams": [], "pins": [], "aims": [aim], "shown": {}}
    document = load_data(old)
    assert to_data(document)["units"][0]["spec"]["curve"] == table
    assert document.aims[0].free.field == "curve[2].head"
    empty = edit(document, "remove_unit", tag="P-1")
    for kind, given in (("add_unit", {"unit": pump}), ("set_values", {"unit": "P-1", "values": {"curve": curve}})):
        changed, inverse, _ = apply(empty if kind == "add_unit" else document, edit_from_json({"kind": kind, **given}))
        assert changed.unit("P-1").spec == document.unit("P-1").spec
        assert apply(changed, inverse)[0].unit("P-1") == (None if kind == "add_unit" else document.unit("P-1"))
    assert edit_from_json({"kind": "set_aim", "name": "a", "aim": aim}).aim == document.aims[0]
