"""The document: reading, refusing, editing with inverses."""

import json

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from plants import demo, q

from wattaxis import Document, DocumentError, EditError, dump, edit, json_schema, load, solve
from wattaxis.flowsheet import VERSION, apply, edit_from_json
from wattaxis.flowsheet.document import load_data, to_data
from wattaxis.flowsheet.quarrels import quarrel


def test_round_trip_is_identical():
    document = demo()
    assert load(dump(document)) == document
    assert dump(load(dump(document))) == dump(document)


def broken(**changes):
    data = json.loads(dump(demo()))
    data.update(changes)
    return json.dumps(data)


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("", "not valid JSON"),
        ("[1, 2", "not valid JSON"),
        ("[]", "not a Wattaxis flowsheet"),
        ('{"format": "something"}', "not a Wattaxis flowsheet"),
        ("[" * 100_000, "nested too deeply"),
        (b"\xff\xfe\x00", "UTF-8"),
        ("x" * 9_000_000, "larger than 8 MB"),
        (broken(version=VERSION + 1), "newer than this program"),
        (broken(version="one"), "version"),
        (broken(colour="red"), "colour"),
        (broken(units=[{"tag": "E-1", "type": "warp", "spec": {}}]), "no unit operation"),
        (broken(units=[{"tag": "E-1", "type": "cooler", "spec": {"fin": 3}}], streams=[]), "E-1"),
        (broken(units=[{"tag": "E-1", "type": "cooler", "spec": {"duty": {"value": 3, "unit": "bar"}}}], streams=[]), "unit of pressure"),
        (broken(streams=[{"tag": "S", "source": {"unit": "?", "port": "a"}, "target": {"unit": "V-101", "port": "inlet"}}]), "S"),
        (broken(streams=[{"tag": "S", "source": {"unit": "Q-9", "port": "a"}, "target": {"unit": "V-101", "port": "inlet"}}]), "not on the sheet"),
        (broken(streams=[{"tag": "S", "source": {"unit": "V-101", "port": "left"}, "target": {"unit": "Z-101", "port": "inlet"}}]), "has no outlet"),
        (dump(demo()).replace("12.0", "1e999"), "finite"),
    ],
)
def test_documents_that_cannot_be_read_say_where_and_what(text, says):
    with pytest.raises(DocumentError, match=says):
        load(text)


def test_the_schema_describes_the_document():
    schema = json_schema()
    assert {"Unit", "Stream", "Chemistry", "Quantity", "Composition"} <= set(schema["$defs"])
    assert {u["properties"]["type"]["const"] for u in schema["$defs"]["Unit"]["oneOf"]} >= {"feed", "cooler", "drum", "valve", "mixer", "splitter"}


TAGS = ["F-101", "E-103", "V-101", "VL-101", "V-102", "S-06", "S-09", "Z-101", "X-1", "X-2"]
temperature_values = st.one_of(st.none(), st.floats(10, 300).map(lambda v: {"value": v, "unit": "degC"}))
EDITS = st.one_of(
    st.builds(lambda t: {"kind": "set_title", "title": t}, st.text(max_size=20)),
    st.builds(lambda t, n: {"kind": "rename", "tag": t, "new": n}, st.sampled_from(TAGS), st.sampled_from(TAGS)),
    st.builds(lambda t: {"kind": "remove_unit", "tag": t}, st.sampled_from(TAGS)),
    st.builds(lambda t: {"kind": "disconnect", "tag": t}, st.sampled_from(TAGS)),
    st.builds(lambda t, x, y: {"kind": "move", "places": {t: [x, y]}}, st.sampled_from(TAGS), st.floats(0, 900), st.floats(0, 500)),
    st.builds(lambda v: {"kind": "set_values", "unit": "E-103", "values": {"outlet_temperature": v}}, temperature_values),
    st.builds(lambda v: {"kind": "set_values", "unit": "F-101", "values": {"temperature": v, "flow": None}}, temperature_values),
    st.builds(lambda c: {"kind": "remove_component", "id": c}, st.sampled_from(["water", "hydrogen", "butanone"])),
    st.builds(
        lambda c: {"kind": "add_component", "component": {"id": c[0], "cas": c[1]}}, st.sampled_from([("methane", "74-82-8"), ("water", "7732-18-5")])
    ),
    st.builds(lambda m: {"kind": "set_model", "model": m}, st.sampled_from(["ideal", "soave-redlich-kwong"])),
    st.builds(
        lambda k: {"kind": "set_pair", "first": "water", "second": "butanone", "values": k and {"kij": k}},
        st.one_of(st.none(), st.floats(-0.5, 0.5)),
    ),
    st.builds(
        lambda n, f: {"kind": "set_pin", "name": n, "formula": f},
        st.sampled_from(["one", "two"]),
        st.sampled_from([None, "S-06.mass_flow", "E-103.duty / S-09.pressure", "X-1.outlet_pressure"]),
    ),
    st.just({"kind": "add_unit", "unit": {"tag": "X-1", "type": "valve", "spec": {}}}),
    st.just({"kind": "connect", "stream": {"tag": "X-2", "source": {"unit": "V-102", "port": "vapour"}, "target": {"unit": "X-1", "port": "inlet"}}}),
)


@settings(max_examples=150, deadline=None)
@given(st.lists(EDITS, max_size=12))
def test_edits_and_their_inverses_give_the_identical_document(edits):
    start = document = demo()
    back = []
    for data in edits:
        try:
            document, inverse, label = apply(document, edit_from_json(data))
        except EditError as error:
            assert len(str(error)) > 10
            continue
        assert label
        assert load(dump(document)) == document
        back.append(edit_from_json(json.loads(json.dumps(inverse.model_dump(mode="json")))))
    for inverse in reversed(back):
        document, _, _ = apply(document, inverse)
    assert document == start


def test_adding_or_removing_a_component_never_changes_a_typed_flow():
    document = demo()
    typed = document.unit("F-101").spec
    for change in (
        {"kind": "add_component", "component": {"id": "methane", "cas": "74-82-8"}, "position": 0},
        {"kind": "remove_component", "id": "water"},
    ):
        document = apply(document, edit_from_json(change))[0]
        assert document.unit("F-101").spec == typed
    assert any("kept but not used" in f.text for f in solve(document).findings)


def test_a_batch_is_all_or_nothing():
    document = demo()
    parts = [{"kind": "set_title", "title": "New"}, {"kind": "remove_unit", "tag": "no such"}]
    with pytest.raises(EditError, match="no unit no such"):
        edit(document, "batch", edits=parts)
    assert document.title != "New"


@pytest.mark.parametrize(
    ("first", "second", "fight"),
    [
        ({"kind": "set_values", "unit": "E", "values": {"duty": None}}, {"kind": "set_values", "unit": "E", "values": {"duty": q("1 kW")}}, True),
        ({"kind": "set_values", "unit": "E", "values": {"duty": None}}, {"kind": "set_values", "unit": "V", "values": {"duty": None}}, False),
        ({"kind": "set_values", "unit": "E", "values": {"duty": None}}, {"kind": "remove_unit", "tag": "E"}, True),
        ({"kind": "set_values", "unit": "E", "values": {"duty": None}}, {"kind": "move", "places": {"E": [1, 1]}}, False),
        ({"kind": "rename", "tag": "E", "new": "F"}, {"kind": "add_unit", "unit": {"tag": "F", "type": "valve", "spec": {}}}, True),
    ],
)
def test_edits_quarrel_only_over_the_same_place(first, second, fight):
    assert bool(quarrel(edit_from_json(first), edit_from_json(second))) is fight


def test_an_empty_document_asks_for_nothing():
    assert not solve(Document()).asks


def test_a_plant_has_so_many_components_at_most_and_says_why():
    components = [{"id": f"c{k}", "cas": "7732-18-5"} for k in range(121)]
    with pytest.raises(DocumentError, match="at most 120 components, since"):
        load_data({**to_data(Document()), "chemistry": {"components": components}})
