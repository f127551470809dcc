"""Pieces of plant over HTTP: copied, kept as kits, placed, taken away; a compression laid out."""

import json

import pytest
from plants import demo

from wattaxis import edit, solve
from wattaxis.flowsheet.pieces import piece_from_json

pytestmark = pytest.mark.django_db(transaction=True)


def call(person, method, path, body=None):
    return getattr(person.client, method)(person.path + path, body, content_type="application/json")


def test_a_piece_is_copied_kept_and_taken_away(as_):
    egon, rita = as_("egon"), as_("rita")
    asked = {"tags": ["E-103", "V-101"], "name": "Cold end", "free": [{"unit": "E-103", "field": "outlet_temperature"}]}
    piece = call(rita, "post", "/piece", asked).json()["piece"]
    assert [u["tag"] for u in piece["units"]] == ["E-103", "V-101"]
    assert call(rita, "post", "/kits", {"piece": piece}).status_code == 403
    kit = call(egon, "post", "/kits", {"piece": piece}).json()
    again = call(egon, "post", "/kits", {"piece": {**piece, "text": "newer"}}).json()
    assert again["id"] == kit["id"]
    mine = [k for k in call(rita, "get", "/kits").json() if k["id"]]
    assert [(k["piece"]["name"], k["piece"]["text"]) for k in mine] == [("Cold end", "newer")]
    assert call(egon, "delete", f"/kits/{kit['id']}").status_code == 200
    assert call(egon, "delete", f"/kits/{kit['id']}").status_code == 404
    assert not [k for k in call(rita, "get", "/kits").json() if k["id"]]


def test_what_is_no_piece_is_refused_in_words(as_):
    egon = as_("egon")
    refused = call(egon, "post", "/piece", {"tags": ["X-9"]})
    assert (refused.status_code, refused.json()["message"]) == (422, "Choose at least one unit.")
    piece = call(egon, "post", "/piece", {"tags": ["V-101"]}).json()["piece"]
    assert "name" in call(egon, "post", "/kits", {"piece": piece}).json()["message"]
    assert call(egon, "post", "/kits", {"piece": {"name": "x", "units": "many"}}).status_code == 422


def test_a_piece_whose_streams_have_no_port_is_refused_in_words(as_):
    egon = as_("egon")
    piece = call(egon, "post", "/piece", {"tags": ["E-103", "V-101"]}).json()["piece"]
    piece["streams"][0]["source"]["port"] = "nowhere"
    with pytest.raises(ValueError, match="has no outlet 'nowhere'"):
        edit(demo(), "place_piece", piece=piece, x=0.0, y=900.0)


def test_every_kit_that_ships_can_be_placed_and_what_is_whole_in_it_calculates(as_):
    kits = [k["piece"] for k in call(as_("rita"), "get", "/kits").json()]
    assert len(kits) == 8
    for data in kits:
        piece = piece_from_json(data)
        assert piece.text
        assert piece.free
        placed = edit(demo(), "place_piece", piece=data, x=0.0, y=900.0)
        assert len(placed.units) == len(demo().units) + len(piece.units)
        result = solve(placed)
        assert not [f for f in result.findings if f.severity == "fault"], (piece.name, result.findings)
        if not piece.connections:
            assert result.complete, piece.name


def test_a_compression_is_laid_out_by_a_solver(as_):
    egon = as_("egon")
    wanted = {"pressure": (20, "bar"), "limit": (140, "degC"), "cooled_to": (35, "degC")}
    body = {"stream": "S-08", **{key: {"value": value, "unit": unit} for key, (value, unit) in wanted.items()}}
    layout = call(egon, "post", "/compression", body).json()
    assert layout["stages"][-1]["temperature"] < 413.15
    made = edit(demo(), **json.loads(json.dumps(layout["edit"])))
    assert solve(made).complete
    refused = call(egon, "post", "/compression", {**body, "stream": "S-99"})
    assert (refused.status_code, refused.json()["message"]) == (422, "There is no stream S-99.")
