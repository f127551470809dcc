"""Each editing operation: what it changes, what it is called in the history, how it is taken back."""

import json

import pytest
from plants import demo, q

from wattaxis.flowsheet import Document, EditError, apply, edit_from_json
from wattaxis.flowsheet.document import to_data
from wattaxis.flowsheet.quarrels import touches

VALVE = {"tag": "VL-9", "type": "valve", "spec": {"outlet_pressure": q("2 bar")}}
CASES = [
    ({"kind": "set_title", "title": "B"}, lambda d: d.title == "B", "title -> B"),
    ({"kind": "set_unit_set", "name": "SI"}, lambda d: d.unit_set == "SI", "units -> SI"),
    ({"kind": "set_model", "model": "ideal"}, lambda d: d.chemistry.model == "ideal", "peng-robinson -> ideal"),
    (
        {"kind": "add_component", "component": {"id": "1-butene", "cas": "106-98-9"}, "position": 1},
        lambda d: [c.id for c in d.chemistry.components][1] == "1-butene",
        "added component 1-butene",
    ),
    ({"kind": "remove_component", "id": "hydrogen"}, lambda d: len(d.chemistry.components) == 3, "removed component hydrogen"),
    (
        {"kind": "set_pair", "first": "water", "second": "butanone", "values": {"kij": 0.1}},
        lambda d: d.chemistry.pairs != (),
        "water / butanone -> kij 0.1",
    ),
    (
        {"kind": "set_pin", "name": "Share", "formula": "S-08.mass_flow / S-06.mass_flow"},
        lambda d: "Share" in [p.name for p in d.pins],
        "pin Share = S-08",
    ),
    ({"kind": "add_unit", "unit": VALVE}, lambda d: d.unit("VL-9") is not None, "added valve VL-9"),
    ({"kind": "remove_unit", "tag": "V-101"}, lambda d: d.unit("V-101") is None and len(d.streams) == 4, "removed V-101"),
    ({"kind": "disconnect", "tag": "S-09"}, lambda d: d.stream("S-09") is None, "removed stream S-09"),
    (
        {"kind": "set_values", "unit": "E-103", "values": {"duty": q("5 kW"), "outlet_temperature": None}},
        lambda d: d.unit("E-103").spec.outlet_temperature is None and d.unit("E-103").spec.duty.value == 5,
        "E-103 heat removed blank -> 5 kW; E-103 outlet temperature 35 degC -> blank",
    ),
    ({"kind": "rename", "tag": "V-101", "new": "V-7"}, lambda d: d.stream("S-08").source.unit == "V-7", "renamed V-101 -> V-7"),
    ({"kind": "rename", "tag": "S-08", "new": "offgas"}, lambda d: d.stream("offgas") is not None, "renamed S-08 -> offgas"),
    ({"kind": "move", "places": {"V-101": [1.0, 2.0]}}, lambda d: (d.unit("V-101").x, d.unit("V-101").y) == (1.0, 2.0), "moved V-101"),
    ({"kind": "replace_all", "document": to_data(Document(title="Other"))}, lambda d: d.title == "Other" and not d.units, "replaced the whole"),
    ({"kind": "set_model", "vapour": "virial", "translated": True}, lambda d: d.chemistry.vapour == "virial", "vapour ideal -> virial"),
    ({"kind": "set_unit_model", "tag": "V-101", "model": "nrtl"}, lambda d: d.unit("V-101").model == "nrtl", "V-101 uses nrtl"),
    ({"kind": "flip", "tags": ["V-101", "E-103"]}, lambda d: d.unit("V-101").flipped, "mirrored V-101"),
    (
        {"kind": "set_note", "name": "n", "note": {"name": "n", "text": "cold here", "x": 5}},
        lambda d: [n.text for n in d.notes] == ["cold here"],
        "note n",
    ),
    (
        {"kind": "set_area", "name": "200", "area": {"name": "200", "x": 0, "y": 0, "width": 300, "height": 200}},
        lambda d: [a.width for a in d.areas] == [300],
        "area 200",
    ),
    ({"kind": "set_shown", "of": "stream", "keys": ["temperature"]}, lambda d: d.shown == {"stream": ("temperature",)}, "values beside stream"),
    (
        {"kind": "insert_in_line", "stream": "S-07", "unit": {**VALVE, "tag": "X-9"}, "inlet": "inlet", "outlet": "outlet"},
        lambda d: d.stream("S-07").target.unit == "X-9" and len(d.streams) == len(demo().streams) + 1,
        "put X-9 into S-07",
    ),
    (
        {"kind": "take_out", "tag": "E-103"},
        lambda d: d.unit("E-103") is None and d.stream("S-06").target.unit == "V-101",
        "took E-103 out of its line",
    ),
    ({"kind": "renumber", "tags": ["V-101", "V-102"], "first": 301}, lambda d: d.unit("V-302") is not None, "numbered 2 units from 301 on"),
    (
        {"kind": "batch", "edits": [{"kind": "set_title", "title": "C"}, {"kind": "remove_unit", "tag": "Z-101"}]},
        lambda d: d.title == "C" and d.unit("Z-101") is None,
        "title -> C; removed Z-101",
    ),
]


@pytest.mark.parametrize(("data", "holds", "label"), CASES, ids=[c[0]["kind"] for c in CASES])
def test_an_edit_and_its_way_back(data, holds, label):
    before = demo()
    after, inverse, text = apply(before, edit_from_json(data))
    assert holds(after)
    assert label in text
    assert not holds(before)
    again = edit_from_json(json.loads(inverse.model_dump_json()))
    back, forth, _ = apply(after, again)
    assert back == before
    assert apply(back, forth)[0] == after
    assert touches(edit_from_json(data))


@pytest.mark.parametrize(
    ("data", "says"),
    [
        ({"kind": "set_unit_set", "name": "Furlongs"}, "no unit set"),
        ({"kind": "remove_component", "id": "argon"}, "not among the components"),
        ({"kind": "disconnect", "tag": "S-99"}, "no stream S-99"),
        ({"kind": "rename", "tag": "Q", "new": "R"}, "Nothing on the sheet"),
        ({"kind": "move", "places": {"V-101": [1e9, 0]}}, "off the sheet"),
        ({"kind": "set_pair", "first": "water", "second": "water"}, "two different components"),
        ({"kind": "set_pair", "first": "water", "second": "hydrogen", "values": {"tau": 1}}, "no pair parameter 'tau'; it has kij"),
        ({"kind": "set_pair", "first": "water", "second": "butanone", "values": {"kij": 7}}, "between -2 and 0.999"),
        ({"kind": "set_pair", "first": "water", "second": "butanone", "model": "ideal", "values": {"kij": 0}}, "no pair parameters"),
        ({"kind": "set_pin", "name": "X", "formula": "S-01.mass_flow +"}, "missing .at character 17."),
        ({"kind": "set_pin", "name": "X"}, "no pin 'X'"),
        ({"kind": "add_unit", "unit": {**VALVE, "tag": "V-101"}}, "used twice"),
        ({"kind": "add_unit", "unit": {**VALVE, "spec": {"outlet_pressure": q("2 kg/h")}}}, "unit of"),
        ({"kind": "move", "places": {"V-101": [float("nan"), 0]}}, "off the sheet"),
        ({"kind": "set_values", "unit": "E-103", "values": {"duty": {"value": float("inf"), "unit": "W"}}}, "finite"),
        ({"kind": "replace_all", "document": {"format": "x"}}, "not a Wattaxis flowsheet"),
        ({"kind": "take_out", "tag": "V-101"}, "only a unit with one of each"),
        ({"kind": "swap_outlets", "first": "S-06", "second": "S-07"}, "only outlets of one unit"),
        ({"kind": "reverse", "tag": "S-99"}, "no stream S-99"),
        ({"kind": "set_model"}, "Name a model"),
        ({"kind": "set_model", "vapour": "fog"}, "no vapour 'fog'; there are ideal"),
        ({"kind": "unknown"}, "tag"),
        (None, "valid"),
    ],
)
def test_edits_that_cannot_be_made(data, says):
    document = demo()
    with pytest.raises(EditError, match=says):
        apply(document, edit_from_json(data))
