"""Diagrams over HTTP: asked by everybody who may read, answered by a solver process, refused in words."""

import time
from concurrent.futures import ThreadPoolExecutor

import pytest

pytestmark = pytest.mark.django_db(transaction=True)
BOILING = {"kind": "boiling", "first": "butanone", "second": "water", "pressure": {"value": 1, "unit": "atm"}}


def ask(person, question):
    return person.client.post(person.path + "/diagram", {"question": question}, content_type="application/json")


@pytest.fixture
def solving():
    from runs.service import service

    yield service
    service.stop()


def test_a_reader_gets_a_diagram_of_the_chemistry_and_of_another_model(as_, variant, solving):
    rita = as_("rita")
    for model in (None, "nrtl"):
        reply = ask(rita, {**BOILING, "model": model})
        assert reply.status_code == 200
        diagram = reply.json()
        assert [a["kind"] for a in diagram["axes"]] == ["fraction", "temperature"]
        assert {c["name"] for c in diagram["curves"]} >= {"bubble", "dew"}
        assert any("azeotrope" in m["name"] for m in diagram["marks"])
    assert rita.get().json()["revision"] == 1


@pytest.mark.parametrize(
    ("question", "words"),
    [
        ({**BOILING, "temperature": {"value": 1, "unit": "K"}}, "one of them"),
        ({**BOILING, "first": "gold"}, "gold is not among"),
        ({**BOILING, "pressure": {"value": 1, "unit": "lightyear"}}, "lightyear"),
        ({"kind": "poem"}, "poem"),
    ],
)
def test_what_cannot_be_drawn_is_refused_in_words(as_, variant, solving, question, words):
    reply = ask(as_("rita"), question)
    assert reply.status_code == 422
    assert words in reply.json()["message"]


def test_how_far_the_doubtful_pairs_matter(as_, variant, solving):
    rita = as_("rita")
    reply = rita.post("/influence", {"token": ""})
    assert reply.status_code == 200
    rows = reply.json()["influences"]
    assert len(rows) == 6
    assert rows[0]["share"] >= rows[-1]["share"]
    assert {"name", "kind", "before", "after"} <= set(rows[0]["results"][0])
    as_("egon").edit(1, "set_model", model="ideal")
    assert "no pair parameters" in rita.post("/influence", {"token": ""}).json()["message"]


def test_a_question_is_stopped_by_its_token(as_, variant, solving):
    rita, long = as_("rita"), {"kind": "azeotropes_over", "pressure": {"value": 0.5, "unit": "bar"}, "highest": {"value": 10, "unit": "bar"}}
    names = ["butanone", "water", "2-butanol"]
    with ThreadPoolExecutor(1) as pool:
        body = {"question": {**long, "components": names, "model": "peng-robinson"}, "token": "abc"}
        answer = pool.submit(rita.client.post, rita.path + "/diagram", body, content_type="application/json")
        stopped = [
            rita.post("/stop", {"tokens": ["abc", "unknown"]}).json()["message"] for _ in iter(lambda: answer.done() or time.sleep(0.05), True)
        ]
        reply = answer.result()
    assert "1 stopped." in stopped
    assert (reply.status_code, reply.json()["message"]) == (422, "Stopped.")
    assert rita.post("/stop", {"tokens": ["abc"]}).json()["message"] == "0 stopped."
    assert rita.post("/stop", {"tokens": ["x" * 41]}).status_code == 422


def test_a_question_whose_solver_dies_is_asked_again_and_then_given_up(as_, variant, solving, monkeypatch):
    rita = as_("rita")
    assert ask(rita, BOILING).status_code == 200
    for solver in solving._solvers:
        solver.process.kill()
    assert ask(rita, BOILING).status_code == 200
    monkeypatch.setattr(type(solving._solvers[0]), "_send", lambda solver, request: solver.process.kill())
    reply = ask(rita, BOILING)
    assert reply.status_code == 422
    assert "died" in reply.json()["message"]
