"""Cells and rows as edits of their own; every kind of edit beside every other: what does not quarrel can be made in either order."""

import json
from itertools import product
from typing import get_args

import pytest
from plants import demo, points, q

from wattaxis import EditError, edit, load
from wattaxis.flowsheet import apply, edit_from_json
from wattaxis.flowsheet.document import to_data
from wattaxis.flowsheet.edit_kinds import Edit
from wattaxis.flowsheet.quarrels import quarrel, touches

CURVE = points([[0, 60, None], [20, 50, None], [40, 30, None]])
FIT = {"name": "f", "model": "margules", "data": ["d"], "free": [], "values": [], "half_widths": [], "sum_of_squares": 0.0, "quality": "measured fit"}
DATA = {
    "name": "d",
    "kind": "vapour pressure",
    "components": ["water"],
    "columns": [{"key": "T", "unit": "K"}, {"key": "P", "unit": "kPa"}],
    "rows": [[300.0, 3.5]],
}
STUDY = {"name": "s", "inputs": [{"unit": "E-103", "field": "outlet_temperature"}], "outputs": [{"name": "Duty", "formula": "E-103.duty"}]}
AIM = {"name": "a", "formula": "S-07.temperature", "target": q("310 K"), "free": {"unit": "E-103", "field": "outlet_temperature"}}
VALVE = {"tag": "VL-9", "type": "valve", "spec": {"outlet_pressure": q("2 bar")}}
SPLITTING = {"name": "R1", "numbers": {"2-butanol": -1.0, "butanone": 1.0, "hydrogen": 1.0}}
BOILING = {"a": 20.0, "b": 3000.0, "c": -40.0, "low": 280.0, "high": 400.0}
TENSION = {"unit": "N/m", "rows": [[300.0, 0.02], [350.0, 0.01]]}


def bench():
    """The demo with a pump beside it that has a curve, an aim, a stream that can be turned round, and a reactor with its reactions."""
    document = edit(demo(), "add_unit", unit={"tag": "P-9", "type": "pump", "spec": {"curve": CURVE}})
    document = edit(document, "add_unit", unit={"tag": "VL-8", "type": "valve", "spec": {}})
    document = edit(document, "set_reactions", name="Main", reactions={"name": "Main", "reactions": [SPLITTING]})
    document = edit(document, "add_unit", unit={"tag": "R-9", "type": "plug-flow-reactor", "spec": {"reactions": "Main"}})
    document = edit(document, "connect", stream={"tag": "S-90", "source": "VL-8.outlet", "target": "P-9.inlet"})
    return edit(document, "set_aim", name="a", aim=AIM)


#: One edit of every kind, and some of a second kind of place.
EDITS = [
    {"kind": "set_title", "title": "B"},
    {"kind": "set_unit_set", "name": "SI"},
    {"kind": "set_units", "name": "mine", "units": {"name": "mine", "units": {"pressure": "mbar"}}},
    {"kind": "set_model", "model": "ideal"},
    {"kind": "set_unit_model", "tag": "V-101", "model": "nrtl"},
    {"kind": "add_component", "component": {"id": "1-butene", "cas": "106-98-9"}},
    {"kind": "remove_component", "id": "hydrogen"},
    {"kind": "set_constant", "id": "water", "name": "critical_temperature", "value": q("650 K")},
    {"kind": "set_curve", "id": "water", "name": "surface tension", "curve": TENSION},
    {"kind": "set_price", "id": "water", "price": q("1 EUR/t")},
    {"kind": "set_stands_for", "id": "water", "text": "brine"},
    {"kind": "set_vapour_pressure", "id": "water", "vapour_pressure": BOILING},
    {"kind": "set_pair", "first": "water", "second": "butanone", "values": {"kij": 0.1}},
    {"kind": "set_pin", "name": "share", "formula": "S-08.mass_flow"},
    {"kind": "set_aim", "name": "a", "aim": {**AIM, "target": q("311 K")}},
    {"kind": "set_study", "name": "s", "study": STUDY},
    {"kind": "set_data", "name": "d", "data": DATA},
    {"kind": "set_fit", "name": "f", "fit": FIT},
    {"kind": "set_reactions", "name": "Main", "reactions": {"name": "Splitting", "reactions": [SPLITTING]}},
    {"kind": "set_reactions", "name": "Spare", "reactions": {"name": "Spare", "source": "a book"}},
    {"kind": "set_reaction", "of": "Main", "name": "R1", "reaction": {**SPLITTING, "name": "R1", "phase": "liquid"}},
    {"kind": "set_reaction", "of": "Main", "name": "R2", "reaction": {**SPLITTING, "name": "R2"}},
    {"kind": "set_values", "unit": "R-9", "values": {"reactions": "Spare"}},
    {"kind": "add_unit", "unit": VALVE},
    {"kind": "remove_unit", "tag": "V-102"},
    {"kind": "connect", "stream": {"tag": "S-99", "source": "P-9.outlet", "target": "V-101.inlet"}},
    {"kind": "disconnect", "tag": "S-09"},
    {"kind": "set_values", "unit": "E-103", "values": {"pressure_change": q("-0.1 bar")}},
    {"kind": "set_values", "unit": "F-101", "values": {"composition[water]": q("7 kmol/h")}},
    {"kind": "set_values", "unit": "F-101", "values": {"composition[butanone]": q("8 kmol/h")}},
    {"kind": "set_values", "unit": "P-9", "values": {"curve[2].head": q("55 m")}},
    {"kind": "set_values", "unit": "P-9", "values": {"curve[2].flow": q("22 m3/h")}},
    {"kind": "set_values", "unit": "P-9", "values": {"curve": points([[0, 1, None], [1, 1, None]])}},
    {"kind": "set_row", "unit": "P-9", "field": "curve", "row": "3", "cells": None},
    {"kind": "set_row", "unit": "P-9", "field": "curve", "row": "8", "cells": {"flow": q("60 m3/h"), "head": q("10 m")}},
    {"kind": "rename", "tag": "V-101", "new": "V-7"},
    {"kind": "move", "places": {"V-101": [1.0, 2.0]}},
    {"kind": "flip", "tags": ["V-101"]},
    {"kind": "turn", "tags": ["V-101"]},
    {"kind": "set_note", "name": "n", "note": {"name": "n", "text": "cold here"}},
    {"kind": "set_area", "name": "200", "area": {"name": "200", "x": 0, "y": 0, "width": 300, "height": 200}},
    {"kind": "set_table", "name": "t", "table": {"name": "t", "streams": ["S-07"], "rows": ["temperature"]}},
    {"kind": "set_shown", "of": "stream", "keys": ["temperature"]},
    {"kind": "set_tear", "tag": "S-07"},
    {"kind": "place_piece", "piece": {"units": [{"tag": "M-9", "type": "mixer", "spec": {}}]}, "x": 0.0, "y": 0.0},
    {"kind": "insert_in_line", "stream": "S-08", "unit": {**VALVE, "tag": "X-9"}, "inlet": "inlet", "outlet": "outlet"},
    {"kind": "take_out", "tag": "VL-101"},
    {"kind": "swap_outlets", "first": "S-08", "second": "S-09"},
    {"kind": "reverse", "tag": "S-90"},
    {"kind": "renumber", "tags": ["Z-101", "Z-102"], "first": 301},
    {"kind": "replace_all", "document": to_data(edit(demo(), "set_title", title="C"))},
    {"kind": "batch", "edits": [{"kind": "set_title", "title": "D"}, {"kind": "move", "places": {"E-103": [5.0, 5.0]}}]},
]


def made(document, *edits):
    """The document after edits, its lists without their order; None where one of them cannot be made."""
    try:
        for one in edits:
            document = apply(document, one)[0]
    except EditError:
        return None
    return unordered(to_data(document))


def unordered(part):
    if isinstance(part, dict):
        return sorted((key, unordered(value)) for key, value in part.items())
    return sorted(map(repr, map(unordered, part))) if isinstance(part, list) else part


def test_every_kind_of_edit_is_among_them():
    kinds = {member.model_fields["kind"].default for member in get_args(get_args(Edit)[0])}
    assert kinds == {one["kind"] for one in EDITS}


@pytest.mark.parametrize("data", EDITS, ids=[one["kind"] for one in EDITS])
def test_every_edit_says_what_it_touches_and_has_a_way_back(data):
    document, one = bench(), edit_from_json(data)
    assert touches(one)
    changed, inverse, label = apply(document, one)
    assert label
    assert apply(changed, edit_from_json(json.loads(inverse.model_dump_json())))[0] == document


def test_edits_that_do_not_quarrel_can_be_made_in_either_order():
    document, edits = bench(), [edit_from_json(data) for data in EDITS]
    free = 0
    for first, second in product(edits, edits):
        fight = quarrel(first, second)
        assert bool(fight) == bool(quarrel(second, first))
        if first is second or fight:
            continue
        free += 1
        one, other = made(document, first, second), made(document, second, first)
        assert one is None or other is None or one == other, (first, second)
    assert free > 1000


def test_cells_leave_each_other_alone_and_rows_keep_their_identity():
    document = bench()
    for cells in ({"composition[water]": q("1 kmol/h")}, {"composition[2-butanol]": q("2 kmol/h")}, {"composition[water]": None}):
        document = edit(document, "set_values", unit="F-101", values=cells)
    typed = document.unit("F-101").spec.composition.values
    assert "water" not in typed
    assert str(typed["2-butanol"]) == "2 kmol/h"
    # The names of some components hold brackets.
    ringed = edit(document, "set_values", unit="F-101", values={"composition[benzo[a]pyrene]": q("3 kmol/h")})
    assert str(ringed.unit("F-101").spec.composition.values["benzo[a]pyrene"]) == "3 kmol/h"
    document = edit(document, "set_row", unit="P-9", field="curve", row="1", cells=None)
    document = edit(document, "set_values", unit="P-9", values={"curve[2].efficiency": q("70 %")})
    document = edit(document, "set_row", unit="P-9", field="curve", cells={"flow": q("50 m3/h")}, position=0)
    rows = document.unit("P-9").spec.curve.rows
    assert [row.id for row in rows] == ["4", "2", "3"]
    assert str(rows[1].cells["efficiency"]) == "70 %"
    for _ in range(3):
        document = edit(document, "set_row", unit="P-9", field="curve", row=document.unit("P-9").spec.curve.rows[0].id, cells=None)
    assert document.unit("P-9").spec.curve is None
    assert load(json.dumps(to_data(document))) == document


@pytest.mark.parametrize(
    ("kind", "given", "says"),
    [
        ("set_values", {"unit": "P-9", "values": {"curve[9].head": q("1 m")}}, "no row 9"),
        ("set_values", {"unit": "P-9", "values": {"curve[2].depth": q("1 m")}}, "no column 'depth'"),
        ("set_values", {"unit": "P-9", "values": {"curve[2].head": q("1 bar")}}, "row 2: head: "),
        ("set_values", {"unit": "P-9", "values": {"curve[2].head": "high"}}, "number"),
        ("set_values", {"unit": "P-9", "values": {"efficiency[2]": q("1 %")}}, "is no table"),
        ("set_values", {"unit": "P-9", "values": {"curve[2": q("1 m")}}, "no value"),
        ("set_values", {"unit": "F-101", "values": {"composition[water].flow": q("1 kmol/h")}}, "is no table"),
        ("set_row", {"unit": "P-9", "field": "curve", "row": "9"}, "no row 9"),
        ("set_row", {"unit": "P-9", "field": "curve", "row": "a b", "cells": {}}, "row"),
        ("set_row", {"unit": "P-9", "field": "efficiency", "cells": {}}, "no table"),
        ("set_row", {"unit": "P-9", "field": "curve", "cells": {"flow": q("-1 m3/h")}}, "negative"),
        ("set_values", {"unit": "P-9", "values": {"curve": points([[k, 1, None] for k in range(61)])}}, "may have 60"),
        ("set_values", {"unit": "P-9", "values": {"curve": {"rows": [CURVE["rows"][0]] * 2}}}, "two rows have the id '1'"),
    ],
)
def test_cells_and_rows_that_cannot_be(kind, given, says):
    with pytest.raises(EditError, match=says.replace("[", r"\[")):
        edit(bench(), kind, **given)
