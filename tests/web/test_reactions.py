"""Reactions over the API: looked at while they are written, kept as edits, refused in words."""

import pytest

pytestmark = pytest.mark.django_db(transaction=True)
ALCOHOL = {"2-butanol": -1.0, "butanone": 1.0, "hydrogen": 1.0}


def edit(person, base, **change):
    return person.client.post(person.path + "/edits", {"base": base, "edit": change}, content_type="application/json")


def look(person, **reaction):
    return person.client.post(person.path + "/reaction-look", {"reaction": reaction}, content_type="application/json")


def rate(unit):
    return {"orders": {"2-butanol": 1}, "value": 3.0, "unit": unit, "energy": {"value": 20, "unit": "kcal/mol"}}


def test_a_reader_sees_what_a_reaction_means(as_, variant):
    found = look(as_("rita"), text="2-butanol = butanone + H2", forward={**rate("1/h"), "basis": "concentration"}).json()
    assert found["numbers"] == ALCOHOL
    assert found["gap"] == ""
    assert found["forward"]["constant_si"] == pytest.approx(3.0 / 3600.0)
    assert found["forward"]["energy_over_r"] == pytest.approx(20e3 * 4.184 / 8.31446261815324)
    assert len(found["temperatures"]) == len(found["log_constant"]) == len(found["forward"]["constants"])
    wrong = look(as_("rita"), text="2-butanol = butanone + gold").json()
    assert (wrong["problem"], wrong["place"]) == ('"gold" is no component of this plant (at character 24)', 23)


def test_a_set_is_kept_renamed_with_its_reactors_and_taken_back(as_, variant):
    olga = as_("olga")
    reaction = {"name": "R1", "numbers": ALCOHOL, "forward": rate("1/h"), "backward": "thermodynamics"}
    assert edit(olga, 1, kind="set_reactions", name="Main", reactions={"name": "Main", "reactions": [reaction]}).status_code == 200
    refused = edit(olga, 2, kind="set_reaction", of="Main", name="R1", reaction={**reaction, "forward": rate("L/(mol s)")})
    assert refused.status_code == 422
    assert "units like 1/s, and this has those of m^3/(mol s)" in refused.json()["message"]
    unit = {"tag": "R-9", "type": "plug-flow-reactor", "spec": {"reactions": "Main"}, "x": 0, "y": 0}
    assert edit(olga, 2, kind="add_unit", unit=unit).status_code == 200
    assert edit(olga, 3, kind="set_reactions", name="Main", reactions={"name": "Bed", "reactions": [reaction]}).status_code == 200
    state = olga.get().json()
    assert next(u for u in state["document"]["units"] if u["tag"] == "R-9")["spec"]["reactions"] == "Bed"
    assert olga.client.post(olga.path + "/undo").status_code == 200
    state = olga.get().json()
    assert [s["name"] for s in state["document"]["chemistry"]["reactions"]] == ["Main"]
    assert next(u for u in state["document"]["units"] if u["tag"] == "R-9")["spec"]["reactions"] == "Main"


def test_a_reader_sees_units_under_other_conditions(as_, variant):
    """V-101 is no reactor: any unit with one inlet will do. What cannot be asked is told, and what cannot be is told of its case."""
    rita, path = as_("rita"), f"/api/variants/{variant.id}/conditions"
    hot, cold = ({"temperature": {"value": value, "unit": "degC"}} for value in (90, -80))

    def asked(units, *conditions):
        return rita.client.post(path, {"units": units, "conditions": list(conditions)}, content_type="application/json")

    assert asked(["V-101"], {}).status_code == 409  # nothing is calculated yet
    known = rita.result(1)["result"]["units"]["V-101"]["values"]
    as_it_is, hotter = asked(["V-101"], {}, hot).json()["cases"]
    assert (as_it_is["condition"], hotter["condition"], as_it_is["problem"]) == (0, 1, "")
    assert {v["key"]: v["value"] for v in as_it_is["values"]} == pytest.approx({v["key"]: v["value"] for v in known}, rel=1e-9)
    assert as_it_is["values"] != hotter["values"]
    assert asked(["V-999"], cold).json()["message"] == "There is no unit V-999."
    assert "pressure" in asked(["V-101"], {"pressure": {"value": -1, "unit": "bar"}}).json()["message"]
    assert asked(["V-101"], *[hot] * 7).status_code == 422
