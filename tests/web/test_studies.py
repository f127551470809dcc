"""Studies over the wire: asked by editors, read by all, paused and gone on with, out of date when the plant has moved on, kept a while, as a file."""

import time

import pytest
from patience import PATIENCE
from plants import q
from runs.studies import StudyRuns, runs

pytestmark = pytest.mark.django_db(transaction=True)
COLD = {"unit": "E-103", "field": "outlet_temperature", "low": q("10 degC"), "high": q("40 degC"), "points": 4}
STUDY = {"name": "Cold", "inputs": [COLD], "outputs": [{"name": "Duty", "formula": "E-103.duty"}]}
MANY = {**STUDY, "inputs": [{**COLD, "points": 501}]}


def until(person, number, good):
    """The answer as soon as it is as wanted."""
    end = time.monotonic() + PATIENCE
    while time.monotonic() < end:
        answer = person.get(f"/study-answers/{number}").json()
        if good(answer):
            return answer
        time.sleep(0.05)
    raise AssertionError(answer)


def asked(person, name="Cold"):
    """A study asked, and its answer waited for."""
    reply = person.post("/study-answers", {"name": name})
    assert reply.status_code == 200, reply.json()
    return until(person, reply.json()["id"], lambda answer: answer["state"] != "running")


def test_a_study_is_asked_kept_and_looks_stale_when_the_plant_moves_on(as_):
    olga, rita = as_("olga"), as_("rita")
    assert olga.edit(1, "set_study", name="Cold", study=STUDY).status_code == 200
    assert olga.get().json()["document"]["studies"][0]["inputs"][0]["low"] == {"value": 10.0, "unit": "degC"}
    answer = asked(olga)
    assert (answer["state"], answer["planned"]) == ("done", 4)
    assert (answer["cases"], answer["failed"], answer["current"], answer["author"], answer["revision"]) == (4, 0, True, "olga", 2)
    duties = [case["outputs"][0] for case in answer["result"]["cases"]]
    assert duties == sorted(duties, reverse=True)
    assert rita.post("/study-answers", {"name": "Cold"}).status_code == 403
    (head,) = rita.get("/study-answers").json()
    assert "result" not in head
    assert rita.get(f"/study-answers/{head['id']}").json()["result"] == answer["result"]
    # What does not change the answer leaves it in date, and under another name it is the same study.
    renamed = [{"kind": "set_study", "name": "Cold"}, {"kind": "set_study", "name": "Ice", "study": {**STUDY, "name": "Ice"}}]
    assert olga.edit(2, "batch", edits=renamed, label="x").status_code == 200
    assert [(h["name"], h["current"]) for h in olga.get("/study-answers").json()] == [("Ice", True)]
    assert olga.client.post(f"{olga.path}/undo").status_code == 200
    assert olga.edit(4, "set_note", name="n", note={"name": "n", "text": "x"}).status_code == 200
    assert olga.get("/study-answers").json()[0]["current"]
    assert olga.edit(5, "set_values", unit="F-101", values={"temperature": q("300 K")}).status_code == 200
    assert not olga.get("/study-answers").json()[0]["current"]
    assert not olga.get(f"/study-answers/{head['id']}").json()["current"]


def test_any_case_opens_as_a_variant_of_the_plant_as_it_was_asked(as_):
    olga = as_("olga")
    olga.edit(1, "set_study", name="Cold", study=STUDY)
    number = asked(olga)["id"]
    olga.edit(2, "set_values", unit="F-101", values={"temperature": q("300 K")})
    reply = olga.post(f"/study-answers/{number}/variant", {"case": 1})
    assert (reply.status_code, reply.json()["name"]) == (201, "Base, Cold, case 2")
    opened = olga.client.get(f"/api/variants/{reply.json()['id']}").json()["document"]
    spec = {unit["tag"]: unit["spec"] for unit in opened["units"]}
    assert spec["E-103"]["outlet_temperature"] == {"value": 20.0, "unit": "degC"}
    assert spec["F-101"]["temperature"] == {"value": 180.0, "unit": "degC"}
    assert "no case 5" in olga.post(f"/study-answers/{number}/variant", {"case": 4}).json()["message"]
    assert as_("rita").post(f"/study-answers/{number}/variant", {"case": 0}).status_code == 403


def test_cases_are_laid_beside_the_plant_as_it_stands(as_):
    """Their givens and all that the study looks at; one is the value of the plant."""
    olga = as_("olga")
    olga.edit(1, "set_study", name="Cold", study=STUDY)
    answer = asked(olga)
    columns = "&".join(f"beside={answer['id']}:{case}" for case in (1, 3))
    found = as_("rita").get(f"/compare?{columns}").json()
    assert found["names"] == ["Test plant / Base", "Cold, case 2", "Cold, case 4"]
    assert [d["texts"] for d in found["givens"]] == [["35 degC", "20 degC", "40 degC"]]
    looked = next(d for d in found["pins"] if d["title"] == STUDY["outputs"][0]["name"])
    assert looked["values"][1:] == [answer["result"]["cases"][k]["outputs"][0] for k in (1, 3)]
    assert "no case 10" in str(olga.get(f"/compare?beside={answer['id']}:9").json())
    assert olga.get("/compare?beside=1:x").status_code == 422
    assert as_("nemo").get(f"/compare?{columns}").status_code == 404


def test_the_table_is_a_file_in_the_units_of_the_plant(as_):
    olga = as_("olga")
    olga.edit(1, "set_study", name="Cold", study=STUDY)
    number = asked(olga)["id"]
    reply = olga.get(f"/study-answers/{number}/csv")
    assert reply.headers["Content-Type"].startswith("text/csv")
    lines = reply.content.decode().splitlines()
    assert lines[0].startswith('Case,"E-103 Outlet temperature, degC","Duty, kW"')
    assert lines[1].startswith("1,10")
    assert olga.get("/study-answers/99999/csv").status_code == 404


def test_what_cannot_be_asked_is_a_sentence_and_only_the_last_answers_are_kept(as_, monkeypatch):
    from runs import studies

    monkeypatch.setattr(studies, "KEPT", 2)
    olga = as_("olga")
    assert "There is no study" in olga.post("/study-answers", {"name": "Cold"}).json()["message"]
    olga.edit(1, "set_study", name="Cold", study={**STUDY, "inputs": [{**COLD, "high": q("10 degC")}]})
    failed = asked(olga)
    assert failed["state"] == "failed"
    assert "to the same" in failed["text"]
    olga.edit(2, "set_study", name="Cold", study=STUDY)
    numbers = [asked(olga)["id"] for _ in range(3)]
    assert [head["id"] for head in olga.get("/study-answers").json()] == numbers[:0:-1]


def test_a_study_grows_is_paused_and_goes_on_where_it_was(as_, variant):
    from projects.models import StudyPart

    olga, rita = as_("olga"), as_("rita")
    olga.edit(1, "set_study", name="Cold", study=MANY)
    number = olga.post("/study-answers", {"name": "Cold"}).json()["id"]
    growing = until(rita, number, lambda answer: answer["cases"] >= 50)
    assert growing["planned"] == 501
    assert len(growing["result"]["cases"]) >= 50
    assert olga.post("/study-answers", {"name": "Cold"}).json()["id"] == number  # it is calculated already
    assert rita.post(f"/study-answers/{number}/state", {"state": "paused"}).status_code == 403
    assert olga.post(f"/study-answers/{number}/state", {"state": "paused"}).json()["state"] == "paused"
    runs.halt()
    kept = set(StudyPart.objects.filter(answer_id=number).values_list("number", flat=True))
    assert 2 <= len(kept) < 21
    assert olga.post(f"/study-answers/{number}/state", {"state": "running"}).status_code == 200
    done = until(olga, number, lambda answer: answer["state"] == "done")
    assert [case["number"] for case in done["result"]["cases"]] == list(range(501))
    assert not StudyPart.objects.exists()
    assert "cannot be paused" in olga.post(f"/study-answers/{number}/state", {"state": "paused"}).json()["message"]
    assert olga.get(f"/study-answers/{number}/csv").content.count(b"\n") == 502


def test_a_stopped_study_keeps_what_is_calculated(as_):
    olga = as_("olga")
    olga.edit(1, "set_study", name="Cold", study=MANY)
    number = olga.post("/study-answers", {"name": "Cold"}).json()["id"]
    until(olga, number, lambda answer: answer["cases"] >= 25)
    olga.post(f"/study-answers/{number}/state", {"state": "stopped"})
    runs.halt()
    stopped = olga.get(f"/study-answers/{number}").json()
    assert stopped["state"] == "stopped"
    assert 25 <= len(stopped["result"]["cases"]) < 501
    first = stopped["result"]["cases"][0]["number"]
    assert olga.post(f"/study-answers/{number}/variant", {"case": first}).status_code == 201


def test_nobody_fills_the_machine_with_studies(as_, settings):
    settings.STUDIES_EACH = 1
    olga = as_("olga")
    olga.edit(1, "set_study", name="Cold", study=MANY)
    olga.edit(2, "set_study", name="Ice", study={**MANY, "name": "Ice", "samples": 3})
    assert olga.post("/study-answers", {"name": "Cold"}).status_code == 200
    assert olga.post("/study-answers", {"name": "Ice"}).status_code == 429


def test_two_servers_on_one_database_do_not_stand_in_each_others_way(as_):
    from projects.models import StudyAnswer

    olga, other = as_("olga"), StudyRuns()
    olga.edit(1, "set_study", name="Cold", study={**STUDY, "inputs": [{**COLD, "points": 300}]})
    number = olga.post("/study-answers", {"name": "Cold"}).json()["id"]
    other.begin(StudyAnswer.objects.select_related("variant").get(id=number))
    until(olga, number, lambda answer: answer["state"] != "running")
    other.close()
    runs.halt()
    done = olga.get(f"/study-answers/{number}").json()
    assert (done["state"], done["cases"]) == ("done", 300)
    assert [case["number"] for case in done["result"]["cases"]] == list(range(300))


def test_a_study_of_a_project_that_goes_away_ends(as_, variant):
    olga = as_("olga")
    olga.edit(1, "set_study", name="Cold", study=MANY)
    number = olga.post("/study-answers", {"name": "Cold"}).json()["id"]
    until(olga, number, lambda answer: answer["cases"] >= 25)
    variant.study_answers.all().delete()
    end = time.monotonic() + PATIENCE
    while runs.under_way and time.monotonic() < end:
        time.sleep(0.05)
    assert not runs.under_way


def test_a_search_for_the_best_and_an_uncertainty_are_answered_too(as_):
    olga = as_("olga")
    limit = {"name": "Lost", "formula": "S-08.component_flow[butanone]", "high": q("5 kmol/h")}
    best = {**STUDY, "asks": "optimum", "outputs": [], "objectives": STUDY["outputs"], "limits": [limit]}
    olga.edit(1, "set_study", name="Cold", study=best)
    found = asked(olga)["result"]["optimum"]
    assert found["binding"][0]["name"] == "Lost"
    olga.edit(2, "set_study", name="Cold", study={**STUDY, "asks": "uncertainty", "samples": 30})
    spread = asked(olga)["result"]["spread"][0]
    assert spread["count"] == 30
    assert spread["ranks"] == [pytest.approx(-1.0)]


def test_what_formulas_come_to_is_told_with_its_kind(as_):
    rita = as_("rita")
    rita.result(1)
    told = rita.post("/formulas", {"formulas": ["E-103.duty", "S-08.mass_flow / S-07.mass_flow", "S-99.mass_flow", "2 +"]}).json()
    assert [one["kind"] for one in told] == ["power", "number", None, None]
    assert [bool(one["problem"]) for one in told] == [False, False, True, True]


def test_what_matters_most_is_ranked_for_readers_too(as_):
    found = as_("rita").post("/local-effects", {"formula": "S-08.mass_flow", "units": ["E-103", "F-101"]}).json()
    changes = [abs(effect["change"]) for effect in found["effects"]]
    assert changes == sorted(changes, reverse=True)
    assert {effect["unit"] for effect in found["effects"]} == {"E-103", "F-101"}
    assert "S-99" in as_("rita").post("/local-effects", {"formula": "S-99.mass_flow"}).json()["message"]


def test_what_may_be_varied_is_listed(as_):
    found = {f"{g['unit']}.{g['field']}": g for g in as_("rita").get("/givens").json()}
    assert found["E-103.outlet_temperature"]["kind"] == "temperature"
    assert found["F-101.composition[water]"]["title"].endswith("of water")
    assert "E-103.duty" not in found
    found = {(p["heading"], p["name"]): p for p in as_("rita").get("/parameters").json()}
    assert found["butanone", "critical_temperature"]["typed"]["unit"] == "degC"
    assert found["butanone", "critical_temperature"]["of"] == "component"


def test_a_question_that_says_it_goes_on_is_not_taken_for_hung(as_, settings):
    """What matters most of a whole plant takes longer than a calculation may."""
    question = {"formula": "S-08.mass_flow", "token": "t"}
    as_("olga").post("/local-effects", {**question, "units": ["E-103"]})  # its process has started, which takes longer still
    settings.RUN_SECONDS = 0.5
    found = as_("olga").post("/local-effects", question)
    assert found.status_code == 200, found.json()


def test_whoever_is_removed_while_a_study_runs_gets_no_answer(as_):
    from projects.models import Membership

    egon = as_("egon")
    egon.edit(1, "set_study", name="Cold", study=STUDY)
    number = egon.post("/study-answers", {"name": "Cold"}).json()["id"]
    Membership.objects.filter(user__username="egon").delete()
    assert egon.get(f"/study-answers/{number}").status_code == 404
    assert until(as_("olga"), number, lambda answer: answer["state"] == "done")["author"] == "egon"
