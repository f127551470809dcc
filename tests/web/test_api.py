"""The HTTP interface: editing, results, undo, merging, refusing."""

import csv
import io
import json
import time

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from plants import demo, q

from wattaxis import dump, load
from wattaxis.flowsheet import VERSION
from wattaxis.flowsheet.document import to_data

SECOND_STREAM = {"tag": "S-99", "source": {"unit": "F-101", "port": "outlet"}, "target": {"unit": "V-102", "port": "inlet"}}
NEWER = dump(demo()).replace(f'"version": {VERSION}', f'"version": {VERSION + 1}').encode()
pytestmark = pytest.mark.django_db(transaction=True)


def test_edit_and_results(as_):
    olga = as_("olga")
    before = olga.result(1)["result"]
    assert before["complete"]
    reply = olga.edit(1, "set_values", unit="E-103", values={"outlet_temperature": q("45 degC")})
    assert reply.status_code == 200
    assert reply.json()["revision"] == 2
    after = olga.result(2)["result"]
    assert after["streams"]["S-07"]["temperature"] == pytest.approx(318.15)
    assert after["streams"]["S-12"]["mole_flow"] < before["streams"]["S-12"]["mole_flow"]


def test_the_profiles_of_a_unit_come_when_they_are_asked_for(as_):
    olga = as_("olga")
    pipe = {"tag": "L-1", "type": "pipe", "spec": {"length": q("20 m"), "diameter": q("150 mm")}}
    assert olga.edit(1, "insert_in_line", stream="S-07", unit=pipe, inlet="inlet", outlet="outlet").status_code == 200
    answer = olga.result(2)
    assert answer["result"]["units"]["L-1"]["profiles"] == ["along"]
    assert "profiles" not in answer
    told = olga.get("/profiles?unit=L-1").json()
    assert told["revision"] == 2
    along = told["profiles"][0]
    assert along["along"]["values"][-1] == pytest.approx(20.0)
    assert {c["key"] for c in along["columns"]} >= {"pressure", "temperature"}
    assert olga.get("/profiles?unit=V-101").json()["profiles"] == []


def test_undo_and_redo_belong_to_the_person_and_last(as_):
    olga, egon = as_("olga"), as_("egon")
    olga.edit(1, "set_values", unit="E-103", values={"outlet_temperature": q("45 degC")})
    egon.edit(2, "set_values", unit="VL-101", values={"outlet_pressure": q("1.4 bar")})
    undone = olga.post("/undo").json()
    units = {u["tag"]: u["spec"] for u in olga.get().json()["document"]["units"]}
    assert units["E-103"]["outlet_temperature"]["value"] == 35
    assert units["VL-101"]["outlet_pressure"]["value"] == 1.4
    assert undone["undo"] is None
    assert "35 degC -> 45 degC" in undone["redo"]
    olga.post("/redo")
    assert {u["tag"]: u["spec"] for u in olga.get().json()["document"]["units"]}["E-103"]["outlet_temperature"]["value"] == 45
    assert olga.post("/redo").status_code == 422
    assert [row["label"].split(":")[0] for row in olga.get("/history").json()][:2] == ["redo", "undo"]
    assert len(egon.get("/history").json()) == 5  # append-only: nothing was taken away


def test_undo_never_takes_back_what_somebody_else_typed_since(as_):
    olga, egon = as_("olga"), as_("egon")
    olga.edit(1, "set_values", unit="E-103", values={"outlet_temperature": q("45 degC")})
    egon.edit(2, "set_values", unit="E-103", values={"outlet_temperature": q("50 degC")})
    refused = olga.post("/undo")
    assert (refused.status_code, "45 degC -> 50 degC by somebody else" in refused.json()["message"]) == (422, True)
    assert egon.post("/undo").status_code == 200
    specs = {u["tag"]: u["spec"] for u in egon.get().json()["document"]["units"]}
    assert specs["E-103"]["outlet_temperature"]["value"] == 45


def test_history_jumps_back_and_forth(as_):
    olga = as_("olga")
    start = olga.get().json()["document"]
    for number, value in enumerate(("45 degC", "50 degC", "55 degC"), 1):
        olga.edit(number, "set_values", unit="E-103", values={"outlet_temperature": q(value)})
    olga.edit(4, "remove_unit", tag="V-101")
    back = olga.post("/back/1").json()
    assert back["patch"][0]["value"]["document"] == olga.get().json()["document"] == start
    assert back["undo"] == "back to revision 1"
    assert "V-101" not in [u["tag"] for u in olga.post("/undo").json()["patch"][0]["value"]["document"]["units"]]
    assert olga.post("/back/99").status_code == 422
    assert as_("rita").post("/back/1").status_code == 403


def test_going_back_again_and_again_stays_small(as_):
    from projects.models import Revision

    olga = as_("olga")
    for k in range(12):
        olga.edit(2 * k + 1, "set_title", title=f"Title {k}")
        assert olga.post("/back/1").json()["revision"] == 2 * k + 3
    sizes = [len(json.dumps(r.inverse)) for r in Revision.objects.filter(label="back to revision 1").order_by("number")]
    assert max(sizes) < 1.1 * min(sizes)


def test_edits_that_do_not_touch_are_merged_and_quarrels_are_shown(as_):
    olga, egon = as_("olga"), as_("egon")
    assert olga.edit(1, "set_values", unit="E-103", values={"outlet_temperature": q("45 degC")}).status_code == 200
    merged = egon.edit(1, "set_values", unit="VL-101", values={"outlet_pressure": q("1.4 bar")})
    assert merged.status_code == 200
    assert merged.json()["revision"] == 3
    fight = egon.edit(1, "set_values", unit="E-103", values={"outlet_temperature": q("50 degC")})
    assert fight.status_code == 409
    body = fight.json()
    assert body["author"] == "olga"
    assert "35 degC -> 45 degC" in body["theirs"]
    assert "45 degC -> 50 degC" in body["yours"]
    assert (body["changed"]["base"], body["changed"]["revision"]) == (1, 3)
    assert [step["path"].split("/")[1:2] for step in body["changed"]["patch"]] == [["document"]] * 2
    assert egon.get().json()["revision"] == 3


@pytest.mark.parametrize(
    ("kind", "values", "says"),
    [
        ("set_values", {"unit": "E-999", "values": {}}, "no unit E-999"),
        ("set_values", {"unit": "E-103", "values": {"colour": q("1 bar")}}, "no value 'colour'"),
        ("set_values", {"unit": "E-103", "values": {"outlet_temperature": q("3 bar")}}, "unit of pressure"),
        ("set_values", {"unit": "E-103", "values": {"outlet_temperature": q("-300 degC")}}, "absolute zero"),
        ("set_values", {"unit": "E-103", "values": {"outlet_temperature": 12}}, "Quantity"),
        ("set_values", {"unit": "F-101", "values": {"composition": {"basis": "mole_flow", "values": {"water": q("-1 kmol/h")}}}}, "negative"),
        ("add_component", {"component": {"id": "x", "cas": "0-00-0"}}, 'no "0-00-0"'),
        ("add_component", {"component": {"id": "w", "cas": "7732-18-5"}}, "already"),
        ("rename", {"tag": "E-103", "new": "V-101"}, "taken"),
        ("rename", {"tag": "E-103", "new": "<b>"}, "match"),
        (
            "connect",
            {"stream": {"tag": "S-99", "source": {"unit": "F-101", "port": "outlet"}, "target": {"unit": "V-102", "port": "inlet"}}},
            "has a stream",
        ),
        ("explode", {}, "tag"),
        ("batch", {"edits": [{"kind": "remove_unit", "tag": "nobody"}]}, "no unit nobody"),
    ],
)
def test_edits_that_cannot_be_made_say_why_and_change_nothing(as_, kind, values, says):
    olga = as_("olga")
    reply = olga.edit(1, kind, **values)
    assert reply.status_code == 422
    assert says in reply.json()["message"]
    assert olga.get().json()["revision"] == 1


def test_downloads_and_upload_give_the_same_plant(as_):
    olga = as_("olga")
    olga.result(1)
    document = olga.get("/document.json").content
    assert load(document) == demo()
    table = list(csv.reader(io.StringIO(olga.get("/streams.csv").content.decode("utf-8-sig"))))
    assert table[0][:3] == ["Stream", "Unit", "S-06"]
    assert olga.get("/streams.xlsx").content[:2] == b"PK"
    uploaded = olga.client.post("/api/projects/upload", {"file": SimpleUploadedFile("plant.json", document)})
    assert uploaded.status_code == 201
    assert load(json.dumps(uploaded.json()["document"])) == demo()


@pytest.mark.parametrize(
    ("content", "says"),
    [
        (b"", "not valid JSON"),
        (b"PK\x03\x04", "JSON"),
        (b"[" * 90_000, "nested"),
        (NEWER, "newer"),
    ],
)
def test_bad_uploads_are_refused_in_words(as_, content, says):
    reply = as_("olga").client.post("/api/projects/upload", {"file": SimpleUploadedFile("plant.json", content)})
    assert reply.status_code == 422
    assert says in reply.json()["message"]


def test_search_parse_and_catalogue(as_):
    client = as_("rita").client
    assert client.get("/api/components?q=mek").json()[0]["cas"] == "78-93-3"
    assert client.get("/api/components/nothing-like-it").status_code == 404
    good = client.post("/api/quantities/parse", {"text": "95 degC", "kind": "temperature"}, content_type="application/json").json()
    assert good["si"] == pytest.approx(368.15)
    bad = client.post("/api/quantities/parse", {"text": "95 bar", "kind": "temperature"}, content_type="application/json").json()
    assert (bad["ok"], "unit of pressure" in bad["message"]) == (False, True)
    assert {t["type"] for t in client.get("/api/catalogue").json()["unit_types"]} >= {"feed", "cooler", "drum"}


def test_pairs_are_asked_for_and_do_not_travel_with_every_edit(as_):
    rita = as_("rita")
    assert "pairs" not in rita.get().json()
    rows = rita.client.get(rita.path + "/pairs").json()
    count = len(demo().chemistry.components)
    assert len(rows) == count * (count - 1) // 2
    assert {"assumed zero"} & {row["quality"] for row in rows}


def test_projects_are_listed_with_as_many_queries_however_many_there_are(as_, people, django_assert_max_num_queries):
    from projects.service import branch, create_project

    for number in range(25):
        branch(create_project(f"Project {number}", people["rita"], to_data(demo())), "Other", people["rita"])
    rita = as_("rita").client
    with django_assert_max_num_queries(6):
        listed = rita.get("/api/projects").json()
    assert len(listed) == 26
    assert [v["name"] for v in listed[0]["variants"]] == ["Base", "Other"]


def test_a_killed_solver_is_replaced_and_the_answer_still_comes(as_, solvers):
    olga = as_("olga")
    olga.result(1)
    for solver in solvers._solvers:
        solver.process.kill()
    olga.edit(1, "set_values", unit="E-103", values={"outlet_temperature": q("50 degC")})
    assert olga.result(2)["result"]["streams"]["S-07"]["temperature"] == pytest.approx(323.15)


def stopped(solvers, person):
    """The solver of a variant, with its process halted; the others stay as they are for the tests to come."""
    import signal

    variant = int(person.path.rsplit("/", 1)[1])
    solver = solvers.live(variant)
    solver.process.send_signal(signal.SIGSTOP)
    return solver, variant


def test_a_solver_that_hangs_is_ended_and_the_page_is_told(as_, solvers, settings):
    olga = as_("olga")
    olga.result(1)
    settings.RUN_SECONDS = 0.5
    solver, variant = stopped(solvers, olga)
    olga.edit(1, "set_values", unit="E-103", values={"outlet_temperature": q("50 degC")})
    solver.inbox.put(("told", ({"kind": "begun", "variant": variant, "revision": 2}, 0)))  # as if it had been halted amid the calculation
    answer = olga.result(2)
    assert answer["kind"] == "failed"
    assert "longer than 0.5 s" in answer["text"]
    settings.RUN_SECONDS = 30
    olga.edit(2, "set_values", unit="E-103", values={"outlet_temperature": q("51 degC")})
    assert olga.result(3)["kind"] == "result"


def test_a_solver_that_leaves_a_request_lying_is_replaced_and_asked_again(as_, solvers, settings):
    olga = as_("olga")
    olga.result(1)
    settings.BEGIN_SECONDS = 1.0
    solver, _ = stopped(solvers, olga)
    halted = solver.process
    olga.edit(1, "set_values", unit="E-103", values={"outlet_temperature": q("50 degC")})
    while solver.process is halted:
        time.sleep(0.01)
    settings.BEGIN_SECONDS = 240.0
    assert olga.result(2)["kind"] == "result"


def test_a_halted_solver_whose_pipe_is_full_holds_nobody_up(as_, solvers, settings):
    """More than a pipe takes is sent to a process that reads nothing."""
    olga = as_("olga")
    olga.result(1)
    settings.BEGIN_SECONDS = 2.0
    solver, _ = stopped(solvers, olga)
    halted = solver.process
    for revision in range(1, 31):
        assert olga.edit(revision, "set_values", unit="E-103", values={"outlet_temperature": q(f"{40 + revision} degC")}).status_code == 200
    begun = time.monotonic()
    while solver.process is halted:
        assert time.monotonic() - begun < 20.0
        time.sleep(0.01)
    settings.BEGIN_SECONDS = 240.0
    assert olga.result(31)["result"]["streams"]["S-07"]["temperature"] == pytest.approx(343.15)


def test_an_aim_is_proposed_made_and_met_over_http(as_, solvers):
    olga = as_("olga")
    asked = olga.client.post(olga.path + "/aim-proposals", {"formula": "S-07.vapour_fraction"}, content_type="application/json").json()
    assert (asked["proposals"][0]["unit"], asked["kind"]) == ("E-103", "number")
    refused = olga.client.post(olga.path + "/aim-proposals", {"formula": "S-99.temperature"}, content_type="application/json")
    assert (refused.status_code, "S-99" in refused.json()["message"]) == (422, True)
    free = {"unit": "E-103", "field": "outlet_temperature"}
    aim = {"name": "dry", "formula": "S-07.vapour_fraction", "target": q("0.6 "), "free": free}
    assert olga.edit(1, "set_aim", name="dry", aim=aim).status_code == 200
    result = olga.result(2)["result"]
    assert result["aims"][0]["state"] == "met"
    assert result["streams"]["S-07"]["vapour_fraction"] == pytest.approx(0.6, rel=1e-6)


def test_two_variants_are_compared_by_those_who_may_read_both(as_, variant, people, solvers):
    from projects.service import branch, create_project

    other = branch(variant, "Colder", people["olga"])
    hidden = create_project("Elsewhere", people["nemo"], to_data(demo()))
    olga = as_("olga")
    address = f"/api/variants/{other.id}/edits"
    change = {"kind": "set_values", "unit": "E-103", "values": {"outlet_temperature": q("20 degC")}}
    assert olga.client.post(address, {"base": 1, "edit": change}, content_type="application/json").status_code == 200
    found = as_("rita").client.get(f"/api/variants/{variant.id}/compare?beside={other.id}").json()
    assert [d["texts"] for d in found["givens"]] == [["35 degC", "20 degC"]]
    # What differs is an edit that takes it over.
    (take,) = found["givens"][0]["take"][1]
    assert olga.edit(1, **take).status_code == 200
    assert olga.client.get(f"/api/variants/{variant.id}/compare?beside={other.id}").json()["givens"] == []
    assert olga.client.get(f"/api/variants/{variant.id}/compare").status_code == 422
    assert {d["title"] for d in found["streams"] if d["place"] == "S-07"} >= {"Temperature", "Vapour fraction"}
    assert olga.client.get(f"/api/variants/{variant.id}/compare?beside={other.id}&beside={hidden.id}").status_code == 404


def test_a_constant_is_replaced_over_http_and_the_results_follow(as_, solvers):
    olga = as_("olga")
    before = olga.result(1)["result"]["streams"]["S-08"]["mole_flow"]
    change = {"id": "butanone", "name": "critical_pressure", "value": q("35 bar")}
    assert olga.edit(1, "set_constant", **change).status_code == 200
    assert olga.get().json()["document"]["chemistry"]["components"][1]["overrides"] == {"critical_pressure": {"value": 35.0, "unit": "bar"}}
    assert abs(olga.result(2)["result"]["streams"]["S-08"]["mole_flow"] - before) > 1e-4
    assert olga.edit(2, "set_constant", **{**change, "value": q("35 kg")}).status_code == 422
    assert olga.post("/undo").status_code == 200
    assert olga.result(3)["result"]["streams"]["S-08"]["mole_flow"] == pytest.approx(before)
