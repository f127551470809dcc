"""Sets of display units of one's own, kept in the document."""

import pytest
from plants import demo

from wattaxis import DocumentError, edit, load, solve
from wattaxis.exchange.stream_table import stream_rows
from wattaxis.flowsheet import apply, edit_from_json
from wattaxis.flowsheet.document import dump, load_data, to_data
from wattaxis.flowsheet.edit_kinds import EditError

BAR = {"temperature": "degF", "pressure": "barg", "mass_flow": "t/h"}


def kept():
    return edit(demo(), "set_units", name="Site", units={"name": "Site", "units": BAR})


def test_a_set_of_ones_own_shows_the_stream_table():
    document = edit(kept(), "set_unit_set", name="Site")
    assert load(dump(document)) == document
    rows = {row[0]: row for row in stream_rows(document, solve(document))}
    plain = {row[0]: row for row in stream_rows(demo(), solve(demo()))}
    assert (rows["Pressure"][1], rows["Temperature"][1], rows["Mass flow"][1], rows["Mole flow"][1]) == ("barg", "degF", "t/h", "kmol/h")
    assert rows["Pressure"][2] == pytest.approx(plain["Pressure"][2] - 1.01325)
    assert rows["Mass flow"][2] == pytest.approx(plain["Mass flow"][2] / 1000.0)


def test_what_is_no_set_is_refused_in_words():
    for units, words in (({"pressure": "furlong"}, "no unit 'furlong'"), ({"beauty": "m"}, "no such kind")):
        with pytest.raises(EditError, match=words):
            edit(demo(), "set_units", name="Odd", units={"name": "Odd", "units": units})
    with pytest.raises(EditError, match="ships with the program"):
        edit(demo(), "set_units", name="SI", units={"name": "SI", "units": {}})
    with pytest.raises(EditError, match="There is no unit set 'Other'"):
        edit(kept(), "set_unit_set", name="Other")
    with pytest.raises(EditError, match="choose another set before"):
        edit(edit(kept(), "set_unit_set", name="Site"), "set_units", name="Site")
    with pytest.raises(DocumentError, match="no unit set 'Site'"):
        load_data({**to_data(demo()), "unit_set": "Site"})


def test_keeping_changing_and_removing_a_set_is_taken_back():
    changed, inverse, _ = apply(demo(), edit_from_json({"kind": "set_units", "name": "Site", "units": {"name": "Site", "units": BAR}}))
    assert apply(changed, inverse)[0] == demo()
    removed, back, _ = apply(changed, edit_from_json({"kind": "set_units", "name": "Site"}))
    assert removed == demo()
    assert apply(removed, back)[0] == changed
