"""Components over HTTP: lists resolved, estimates made, refusals in words."""

import pytest

pytestmark = pytest.mark.django_db(transaction=True)


def post(person, path, body):
    return person.client.post("/api/components/" + path, body, content_type="application/json")


def test_a_pasted_list_is_resolved_and_the_rest_is_reported(as_, variant):
    reply = post(as_("rita"), "find", {"names": ["acetone", " 71-43-2 ", "MEK", "MEK", "", "metanol", "unobtainium"]}).json()
    assert [(f["asked"], f["cas"]) for f in reply["found"]] == [("acetone", "67-64-1"), ("71-43-2", "71-43-2"), ("MEK", "78-93-3")]
    assert [m["asked"] for m in reply["missing"]] == ["metanol", "unobtainium"]
    assert reply["missing"][0]["near"][0]["name"] == "methanol"


def test_estimates_become_components_of_a_plant(as_, variant):
    egon = as_("egon")
    boiling = {"way": "boiling", "id": "gas oil", "boiling_point": {"value": 290, "unit": "degC"}, "density": {"value": 850, "unit": "kg/m3"}}
    (made,) = post(egon, "estimate", boiling).json()["components"]
    assert made["own"]["sources"]["Tc"].startswith("estimated")
    assert any("must not react" in note for note in made["notes"])
    assert egon.edit(1, "add_component", component={"id": made["id"], "own": made["own"]}).status_code == 200
    groups = {"way": "groups", "id": "x", "groups": {"1": 2, "24": 1}}
    assert post(egon, "estimate", groups).json()["components"][0]["own"]["formula"] == "C3H6O"
    curve = [{"share": s, "temperature": {"value": t, "unit": "degC"}} for s, t in ((0, 40), (50, 105), (100, 180))]
    cut = {"way": "distillation", "id": "N", "density": {"value": 760, "unit": "kg/m3"}, "curve": curve, "cuts": 4}
    cuts = post(egon, "estimate", cut).json()["components"]
    assert len(cuts) == 4
    assert sum(c["mole_share"] for c in cuts) == pytest.approx(1.0)


@pytest.mark.parametrize(
    ("body", "words"),
    [
        ({"way": "boiling", "id": "x"}, "density"),
        ({"way": "boiling", "id": "x", "density": {"value": 800, "unit": "kg/m3"}}, "boiling point"),
        ({"way": "boiling", "id": "x", "density": {"value": 800, "unit": "bar"}, "boiling_point": {"value": 400, "unit": "K"}}, "bar"),
        ({"way": "groups", "id": "x", "groups": {}}, "at least one group"),
        ({"way": "stars", "id": "x"}, "groups"),
    ],
)
def test_what_cannot_be_estimated_is_refused_in_words(as_, variant, body, words):
    reply = post(as_("rita"), "estimate", body)
    assert reply.status_code == 422
    assert words in reply.json()["message"]


def test_nobody_unknown_asks(client):
    assert client.post("/api/components/find", {"names": ["x"]}, content_type="application/json").status_code in (401, 403)


def test_a_component_tells_its_curves_with_source_and_range(as_):
    curves = {c["name"]: c for c in as_("rita").client.get("/api/components/78-93-3").json()["curves"]}
    assert len(curves) == 10
    assert (curves["liquid viscosity"]["estimated"], curves["liquid viscosity"]["source"]) == (False, "Green, Perry 2007, table 2-313")
    assert curves["surface tension"]["low"] < 298.15 < curves["surface tension"]["high"]
