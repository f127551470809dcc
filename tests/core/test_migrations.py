"""Documents and edits of earlier versions, and formulas that survive renaming."""

import json
from pathlib import Path

import pytest
from plants import demo, points, q

from wattaxis import DocumentError, Quantity, dump, edit, load, solve
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


#: A conversion reactor as it was before version 13, and an aim and pins that speak of it.
OLD_REACTOR = {
    "tag": "R-1", "type": "conversion-reactor", "x": 0.0, "y": 0.0,
    "spec": {
        "stoichiometry": {"values": {"2-butanol": q("-1"), "butanone": q("1"), "hydrogen": q("1")}},
        "base": "2-butanol", "conversion": q("85 %"), "outlet_temperature": q("400 degC"),
    },
}  # fmt: skip


def with_old_reactor(**more):
    pins = [{"name": "a", "formula": "R-1.extent / R-1.conversion_2 + XR-1.extent"}, {"name": "b", "formula": "R-1.heat_of_reaction * R-1.extent"}]
    aim = {"name": "a", "formula": "R-1.duty", "target": q("1 MW"), "free": {"unit": "R-1", "field": "conversion"}}
    data = json.loads((DATA / "document-12.json").read_text())
    return {**data, "units": [OLD_REACTOR], "streams": [], "pins": pins, "aims": [aim], "shown": {}, **more}


def test_a_conversion_reactor_of_version_12_takes_its_reaction_from_a_set():
    document = load_data(with_old_reactor())
    (of,) = document.chemistry.reactions
    assert (of.name, of.reactions[0].numbers) == ("Reaction of R-1", {"2-butanol": -1.0, "butanone": 1.0, "hydrogen": 1.0})
    spec = document.unit("R-1").spec
    assert spec.conversions.rows[0].cells["conversion"].value == 85.0
    assert (spec.conversions.rows[0].cells["component"], spec.outlet_temperature.unit) == ("2-butanol", "degC")
    assert document.aims[0].free.field == "conversions[1].conversion"
    assert [p.formula for p in document.pins] == ["R-1.extent[R1] / R-1.conversion_of[2] + XR-1.extent", "R-1.heat_of_reaction[R1] * R-1.extent[R1]"]
    taken = {"reactions": [{"name": "Reaction of R-1", "reactions": []}]}
    both = load_data(with_old_reactor(chemistry={**with_old_reactor()["chemistry"], **taken}))
    assert both.unit("R-1").spec.reactions == "Reaction of R-1, 2"


def test_edits_of_a_conversion_reactor_of_version_12_can_still_be_taken_back():
    document = load_data(with_old_reactor())
    changed = apply(document, edit_from_json({"kind": "set_values", "unit": "R-1", "values": {"conversion": q("70 %"), "base": None}}))[0]
    assert dict(changed.unit("R-1").spec.conversions.rows[0].cells) == {"reaction": "R1", "conversion": Quantity(value=70.0, unit="%")}
    numbers = {"values": {"2-butanol": q("-2"), "butanone": q("2"), "hydrogen": q("2")}}
    doubled = apply(document, edit_from_json({"kind": "set_values", "unit": "R-1", "values": {"stoichiometry": numbers}}))[0]
    assert doubled.chemistry.reactions[0].reactions[0].numbers["butanone"] == 2.0
    empty = edit(edit(document, "remove_unit", tag="R-1"), "set_reactions", name="Reaction of R-1", reactions=None)
    back, inverse, _ = apply(empty, edit_from_json({"kind": "add_unit", "unit": OLD_REACTOR}))
    assert back.unit("R-1").spec == document.unit("R-1").spec
    assert back.chemistry.reactions == document.chemistry.reactions
    assert apply(back, inverse)[0] == empty
    piece = {"name": "p", "units": [OLD_REACTOR], "streams": [], "connections": []}
    placed = apply(empty, edit_from_json({"kind": "place_piece", "piece": piece, "x": 0, "y": 0}))[0]
    assert placed.chemistry.reactions == document.chemistry.reactions


def test_a_conversion_reactor_whose_reaction_was_not_finished_keeps_what_it_can():
    unfinished = {**OLD_REACTOR, "spec": {"stoichiometry": {"values": {"butanone": q("1")}}, "conversion": q("85 %")}}
    document = load_data(with_old_reactor(units=[unfinished], pins=[], aims=[]))
    spec = document.unit("R-1").spec
    assert (spec.reactions, spec.conversions.rows[0].cells["conversion"].value) == (None, 85.0)
