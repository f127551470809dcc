"""Studies over the wire: asked by editors, read by all, out of date when the plant has moved on, kept a while, as a file."""

import threading

import pytest
from plants import demo, q
from runs.service import Asker, service

from wattaxis import edit
from wattaxis.flowsheet.document import to_data

pytestmark = pytest.mark.django_db(transaction=True)
COLD = {"unit": "E-103", "field": "outlet_temperature", "low": q("10 degC"), "high": q("40 degC"), "points": 4}
STUDY = {"name": "Cold", "inputs": [COLD], "outputs": [{"name": "Duty", "formula": "E-103.duty"}]}


def test_a_study_is_asked_kept_and_looks_stale_when_the_plant_moves_on(as_):
    olga, rita = as_("olga"), as_("rita")
    assert olga.edit(1, "set_study", name="Cold", study=STUDY).status_code == 200
    assert olga.get().json()["document"]["studies"][0]["inputs"][0]["low"] == {"value": 10.0, "unit": "degC"}
    asked = olga.post("/study-answers", {"name": "Cold"})
    assert asked.status_code == 200, asked.json()
    answer = asked.json()
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
    number = olga.post("/study-answers", {"name": "Cold"}).json()["id"]
    olga.edit(2, "set_values", unit="F-101", values={"temperature": q("300 K")})
    reply = olga.post(f"/study-answers/{number}/variant", {"case": 1})
    assert (reply.status_code, reply.json()["name"]) == (201, "Base, Cold, case 2")
    opened = olga.client.get(f"/api/variants/{reply.json()['id']}").json()["document"]
    spec = {unit["tag"]: unit["spec"] for unit in opened["units"]}
    assert spec["E-103"]["outlet_temperature"] == {"value": 20.0, "unit": "degC"}
    assert spec["F-101"]["temperature"] == {"value": 180.0, "unit": "degC"}
    assert "no case 5" in olga.post(f"/study-answers/{number}/variant", {"case": 4}).json()["message"]
    assert as_("rita").post(f"/study-answers/{number}/variant", {"case": 0}).status_code == 403


def test_the_table_is_a_file_in_the_units_of_the_plant(as_):
    olga = as_("olga")
    olga.edit(1, "set_study", name="Cold", study=STUDY)
    number = olga.post("/study-answers", {"name": "Cold"}).json()["id"]
    reply = olga.get(f"/study-answers/{number}/csv")
    assert reply.headers["Content-Type"].startswith("text/csv")
    lines = reply.content.decode().splitlines()
    assert lines[0].startswith('Case,"E-103 Outlet temperature, degC","Duty, kW"')
    assert lines[1].startswith("1,10")
    assert olga.get("/study-answers/99999/csv").status_code == 404


def test_what_cannot_be_asked_is_a_sentence_and_only_the_last_answers_are_kept(as_, monkeypatch):
    from api import studies

    monkeypatch.setattr(studies, "KEPT", 2)
    olga = as_("olga")
    assert "There is no study" in olga.post("/study-answers", {"name": "Cold"}).json()["message"]
    olga.edit(1, "set_study", name="Cold", study={**STUDY, "inputs": [{**COLD, "high": q("10 degC")}]})
    assert "to the same" in olga.post("/study-answers", {"name": "Cold"}).json()["message"]
    olga.edit(2, "set_study", name="Cold", study=STUDY)
    numbers = [olga.post("/study-answers", {"name": "Cold"}).json()["id"] for _ in range(3)]
    assert [head["id"] for head in olga.get("/study-answers").json()] == numbers[:0:-1]


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


def test_a_study_that_takes_too_long_is_given_up_and_its_process_goes_on(as_, settings):
    olga = as_("olga")
    many = {
        **STUDY,
        "inputs": [{**COLD, "points": 1001}, {"unit": "F-101", "field": "temperature", "low": q("430 K"), "high": q("440 K"), "points": 9}],
    }
    olga.edit(1, "set_study", name="Cold", study=many)
    settings.ANSWER_SECONDS = 0.5
    assert "was given up" in olga.post("/study-answers", {"name": "Cold", "token": "t"}).json()["message"]
    settings.ANSWER_SECONDS = 600.0
    olga.edit(2, "set_study", name="Cold", study=STUDY)
    assert olga.post("/study-answers", {"name": "Cold"}).status_code == 200


def test_other_questions_do_not_wait_for_a_study(settings):
    settings.ANSWER_SECONDS = 60.0
    many = {
        **STUDY,
        "inputs": [{**COLD, "points": 1001}, {"unit": "F-101", "field": "temperature", "low": q("430 K"), "high": q("440 K"), "points": 9}],
    }
    plant, answers = to_data(edit(demo(), "set_study", name="Cold", study=many)), []

    def ask():
        answers.append(service.ask(7, Asker("person 1", 4), "long", document=plant, study="Cold"))

    asking = threading.Thread(target=ask)
    asking.start()
    try:
        proposals = service.ask(7, Asker("person 2", 4), document=plant, formula="S-08.mass_flow")
        assert proposals["aims"]["proposals"]
        assert asking.is_alive()
    finally:
        service.stop_question(7, Asker("person 1", 4), "long")
        asking.join()
    assert answers[0]["text"] == "Stopped."


def test_whoever_is_removed_while_a_study_runs_gets_no_answer(as_, variant, monkeypatch):
    from projects.models import Membership

    egon = as_("egon")
    egon.edit(1, "set_study", name="Cold", study=STUDY)
    ask = service.ask

    def and_out(*args, **question):
        answer = ask(*args, **question)
        Membership.objects.filter(user__username="egon").delete()
        return answer

    monkeypatch.setattr(service, "ask", and_out)
    assert egon.post("/study-answers", {"name": "Cold"}).status_code == 404
    assert not variant.study_answers.exists()
