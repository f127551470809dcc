"""What is asked of a column over HTTP: what specifies it, other stages, its stages among residue curves."""

import pytest
from plants import example, q

from wattaxis.flowsheet.document import to_data

pytestmark = pytest.mark.django_db(transaction=True)


@pytest.fixture
def variant(people):
    """A project of olga with a column of three components; rita reads."""
    from projects.models import Membership
    from projects.service import create_project

    created = create_project("Ether", people["olga"], to_data(example("ether_from_methanol")))
    Membership.objects.create(project=created.project, user=people["rita"], role="reader")
    return created


def test_what_specifies_a_column_is_told_with_what_it_is_now(as_):
    olga, rita = as_("olga"), as_("rita")
    olga.result(1)
    told = rita.get("/specifications?unit=T-902").json()
    active = [one for one in told["all"] if one["active"]]
    assert len(active) == told["taken"] == 2
    assert all(one["met"] for one in active)
    waiting = next(one for one in told["all"] if one["field"] == "reboiler_duty")
    assert waiting["now"] > 0.0
    assert olga.edit(1, **active[0]["take_out"]).status_code == 200
    assert sum(one["active"] for one in rita.get("/specifications?unit=T-902").json()["all"]) == 1
    reply = rita.get("/specifications?unit=R-901")
    assert (reply.status_code, reply.json()["message"]) == (422, "There is no column R-901.")


def test_a_feed_on_other_stages_is_tried_for_a_reader(as_):
    as_("olga").result(1)
    rita = as_("rita")
    reply = rita.client.post(rita.path + "/column-study", {"unit": "T-902", "stream": "S-911"}, content_type="application/json")
    told = reply.json()
    assert (reply.status_code, told["stream"]) == (200, "S-911")
    assert told["best"] is not None
    assert {c["key"] for c in told["profile"]["columns"]} == {"reflux_ratio", "heat"}


def test_the_stages_of_a_column_lie_among_residue_curves(as_):
    olga = as_("olga")
    three = ["methanol", "dimethyl ether", "water"]
    question = {"kind": "residue_curves", "components": three, "pressure": q("10 bar"), "curves": 2}

    def ask(column, **changed):
        body = {"question": question | changed, "column": column}
        return olga.client.post(olga.path + "/diagram", body, content_type="application/json")

    assert "no stages that are calculated" in ask("T-902").json()["message"]
    olga.result(1)
    diagram = ask("T-902").json()
    paths = {curve["name"]: curve["points"] for curve in diagram["curves"] if curve["role"] == "path"}
    assert set(paths) == {"liquid on the stages of T-902", "vapour on the stages of T-902"}
    stages = next(p for p in olga.get("/profiles?unit=T-902").json()["profiles"] if p["key"] == "stages")
    water = next(c["values"] for c in stages["columns"] if (c["key"], c["component"]) == ("liquid_fraction", "water"))
    assert [place[2] for place in paths["liquid on the stages of T-902"]] == pytest.approx(water, abs=1e-9)
    by_mass = {c["name"]: c["points"] for c in ask("T-902", basis="mass").json()["curves"] if c["role"] == "path"}
    place = by_mass["liquid on the stages of T-902"][-1]
    assert sum(place) == pytest.approx(1.0)
    assert ask("T-902", components=["methanol", "gold", "water"]).status_code == 422
    other = {"question": {"kind": "azeotropes", "pressure": q("10 bar"), "components": None}, "column": "T-902"}
    assert olga.client.post(olga.path + "/diagram", other, content_type="application/json").status_code == 422
