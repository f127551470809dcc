"""Pieces of plant: taken, placed again here and in plants of other components, and undone; lines opened, turned and numbered."""

import pytest
from plants import C4, demo, feed, plant, q

from wattaxis import Document, edit, solve
from wattaxis.flowsheet import EditError, apply, edit_from_json
from wattaxis.flowsheet.document import DocumentError
from wattaxis.flowsheet.pieces import piece_from_json, take_piece

UNITS = {
    "F": feed(),
    "E": ("heater", {"outlet_temperature": q("330 K")}),
    "V": ("drum", {"duty": q("0 kW")}),
}
LINES = ["S1: F.outlet -> E.inlet", "S2: E.outlet -> V.inlet"]


def two():
    return plant(C4, UNITS, LINES)


def test_a_copy_beside_the_original_calculates_the_same():
    piece = take_piece(two(), ["F", "E", "V"], "a flash")
    assert (piece.name, [c.id for c in piece.components], piece.connections) == ("a flash", ["propane", "n-butane", "n-pentane"], ())
    both = edit(two(), "place_piece", piece=piece.model_dump(mode="json"), x=0.0, y=400.0)
    assert [u.tag for u in both.units] == ["F", "E", "V", "F-101", "E-101", "V-101"]
    result = solve(both)
    assert result.complete
    copied = next(s.tag for s in both.streams if s.source.unit == "E-101")
    assert result.streams[copied].enthalpy_flow == pytest.approx(result.streams["S2"].enthalpy_flow, rel=1e-12)


def test_in_another_plant_components_are_matched_by_number_and_missing_ones_come_along():
    other = plant([("C4", "106-97-8"), ("water", "7732-18-5")], {}, [])
    piece = take_piece(two(), ["F", "E"])
    changed, inverse, _ = apply(other, edit_from_json({"kind": "place_piece", "piece": piece.model_dump(mode="json"), "x": 0, "y": 0}))
    assert [c.id for c in changed.chemistry.components] == ["C4", "water", "propane", "n-pentane"]
    assert set(changed.unit("F").spec.composition.values) == {"C4", "propane", "n-pentane"}
    assert apply(changed, inverse)[0] == other
    assert [c.title for c in piece.connections] == ["S2 to V"]


def test_free_values_are_named_and_wrong_pieces_refused():
    piece = take_piece(two(), ["E"], free=[("E", "outlet_temperature")])
    assert [(f.unit, f.title) for f in piece.free] == [("E", "Outlet temperature")]
    for tags, free, says in (([], [], "at least one"), (["E"], [("E", "colour")], "no value 'colour'")):
        with pytest.raises(ValueError, match=says):
            take_piece(two(), tags, free=free)
    with pytest.raises(DocumentError, match="units"):
        piece_from_json({"units": []})
    data = take_piece(two(), ["F"]).model_dump(mode="json")
    data["components"][0]["cas"] = "1-1-1"
    with pytest.raises(EditError, match="The bank has no"):
        edit(Document(), "place_piece", piece=data, x=0, y=0)


def test_a_unit_put_into_a_line_and_taken_out_leaves_the_answers_as_they_were():
    valve = {"tag": "X", "type": "valve", "spec": {"pressure_change": q("0 bar")}}
    inside = edit(demo(), "insert_in_line", stream="S-07", unit=valve, inlet="inlet", outlet="outlet")
    healed = edit(inside, "take_out", tag="X")
    assert {s.tag: (s.source, s.target) for s in healed.streams} == {s.tag: (s.source, s.target) for s in demo().streams}
    before, now = solve(demo()), solve(inside)
    assert now.complete
    assert now.streams["S-07"].enthalpy_flow == pytest.approx(before.streams["S-07"].enthalpy_flow, rel=1e-12)


def test_outlets_are_swapped_and_streams_turned_round():
    drum = edit(two(), "add_unit", unit={"tag": "P", "type": "product", "spec": {}})
    drum = edit(drum, "add_unit", unit={"tag": "Q", "type": "product", "spec": {}})
    for tag, port, end in (("S3", "vapour", "P"), ("S4", "liquid", "Q")):
        drum = edit(drum, "connect", stream={"tag": tag, "source": {"unit": "V", "port": port}, "target": {"unit": end, "port": "inlet"}})
    swapped = edit(drum, "swap_outlets", first="S3", second="S4")
    assert solve(swapped).streams["S3"].phase == "liquid"
    assert edit(swapped, "swap_outlets", first="S3", second="S4").streams[-2:] == drum.streams[-2:]
    with pytest.raises(EditError, match="no free outlet"):
        edit(drum, "reverse", tag="S3")
    loose = plant(C4, {"A": UNITS["E"], "B": UNITS["E"]}, ["S1: A.outlet -> B.inlet"])
    turned = edit(loose, "reverse", tag="S1")
    assert (turned.stream("S1").source.unit, turned.stream("S1").target.unit) == ("B", "A")
    assert edit(turned, "reverse", tag="S1") == loose


def test_numbers_follow_the_places_and_exchange_cleanly():
    document = plant(C4, {"E-102": UNITS["E"], "E-101": UNITS["E"], "V-7": UNITS["V"]}, ["S1: E-102.outlet -> E-101.inlet"])
    places = {"E-102": (0.0, 0.0), "E-101": (100.0, 0.0), "V-7": (200.0, 0.0)}
    moved = edit(document, "move", places=places)
    changed, inverse, _ = apply(moved, edit_from_json({"kind": "renumber", "tags": list(places), "first": 101}))
    assert [u.tag for u in changed.units] == ["E-101", "E-102", "V-101"]
    assert (changed.stream("S1").source.unit, changed.stream("S1").target.unit) == ("E-101", "E-102")
    assert apply(changed, inverse)[0] == moved
    part = edit(moved, "renumber", tags=["E-102"], first=101)
    assert part.unit("E-102") is not None  # 101 is taken by a unit that keeps its number
