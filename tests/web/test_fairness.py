"""Questions hold up no results, and everybody has so many of them under way; nobody stops those of others."""

import queue
import threading
import time
from types import SimpleNamespace

import pytest
from patience import PATIENCE
from plants import q
from runs.service import Asker, SolverService

GUESTS, EDITOR = Asker("link 1", 2), Asker("person 1", 4)


@pytest.fixture
def idle(monkeypatch, settings):
    """A service whose processes take everything and answer nothing by themselves."""
    settings.SOLVERS, settings.ANSWERERS, settings.QUESTIONS = 2, 1, 5
    service = SolverService()
    service._solvers = [SimpleNamespace(inbox=queue.Queue()) for _ in range(3)]
    monkeypatch.setattr(service, "start", lambda: None)
    return service


def put(service, who, token):
    """A question in a thread of its own; returns once it is under way."""
    before = len(service._askers)
    answers = []
    thread = threading.Thread(target=lambda: answers.append(service.ask(1, who, token, question={})), daemon=True)
    thread.start()
    while len(service._askers) == before and thread.is_alive():
        pass
    return thread, answers


def test_guests_have_a_small_share_and_everybody_a_bounded_one(idle):
    for k in range(2):
        put(idle, GUESTS, f"g{k}")
    assert "2 questions of yours" in idle.ask(1, GUESTS, question={})["text"]
    thread, answers = put(idle, EDITOR, "e0")
    for k in range(1, 3):
        put(idle, EDITOR, f"e{k}")
    assert "Many people" in idle.ask(1, EDITOR, question={})["text"]
    # All of them went to the process of questions, none to those of results.
    assert [solver.inbox.qsize() for solver in idle._solvers] == [0, 0, 5]
    job = next(job for (_, token, _), (job, _) in idle._tokens.items() if token == "e0")
    idle.finished({"kind": "answer", "job": job, "diagram": {}}, 0)
    thread.join(5)
    assert answers == [{"kind": "answer", "job": job, "diagram": {}}]
    assert put(idle, EDITOR, "e3")[0].is_alive()


def test_nobody_stops_a_question_of_somebody_else(idle):
    put(idle, EDITOR, "e")
    assert not idle.stop_question(1, GUESTS, "e")
    assert idle.stop_question(1, EDITOR, "e")


def test_a_question_that_waits_is_told_how_many_are_before_it(idle, monkeypatch):
    told = []
    monkeypatch.setattr(idle.events, "publish", lambda variant, event: told.append((event.data["token"], event.data["share"]["ahead"])))
    first, _ = put(idle, EDITOR, "a")
    put(idle, GUESTS, "b")
    put(idle, EDITOR, "c")
    end = time.monotonic() + PATIENCE
    while set(told) != {("b", 1), ("c", 2)} and time.monotonic() < end:
        time.sleep(0.01)
    assert set(told) == {("b", 1), ("c", 2)}
    idle.finished({"kind": "answer", "job": 1}, 0)
    first.join(5)
    assert ("c", 1) in told


@pytest.mark.django_db(transaction=True)
def test_results_come_while_questions_pile_up(as_, variant, solvers):
    """Maps of residue curves keep the process of questions busy; an edit is answered meanwhile."""
    olga = as_("olga")
    olga.result(1)
    chemistry = olga.get().json()["document"]["chemistry"]
    question = {"kind": "residue_curves", "components": ["2-butanol", "butanone", "water"], "pressure": q("1 bar"), "curves": 18, "model": "unifac"}
    answers = []
    asking = [
        threading.Thread(target=lambda: answers.append(solvers.ask(variant.id, EDITOR, chemistry=chemistry, question=question))) for _ in range(6)
    ]
    for thread in asking:
        thread.start()
    olga.edit(1, "set_values", unit="E-103", values={"outlet_temperature": q("50 degC")})
    assert olga.result(2)["kind"] == "result"
    assert len(answers) < 6  # the result did not wait for them
    for thread in asking:
        thread.join()
    assert sum("questions of yours" in answer.get("text", "") for answer in answers) == 2
    assert sum("diagram" in answer for answer in answers) == 4
