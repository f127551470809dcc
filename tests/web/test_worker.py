"""The solver process on its own, and the events that reach the pages."""

import asyncio
import itertools
import json
import os
import signal
import subprocess
import sys
import time
from pathlib import Path

import pytest
from asgiref.sync import async_to_sync
from mazes import maze
from patience import PATIENCE
from plants import demo, q

from wattaxis import edit
from wattaxis.flowsheet.document import to_data

WORKER = Path(__file__).resolve().parents[2] / "web" / "runs" / "worker.py"


@pytest.fixture
def worker():
    process = subprocess.Popen([sys.executable, str(WORKER), "1500", "0", str(os.getpid())], stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True)
    assert json.loads(process.stdout.readline())["kind"] == "ready"
    yield process
    process.kill()
    process.wait()


def request(variant, revision, document):
    return json.dumps({"variant": variant, "revision": revision, "document": to_data(document)}) + "\n"


def test_the_worker_answers_and_a_newer_request_supersedes(worker):
    document = demo()
    hotter = edit(document, "set_values", unit="E-103", values={"outlet_temperature": q("60 degC")})
    worker.stdin.write(request(1, 1, document) + request(2, 5, document) + request(1, 2, document) + request(1, 3, hotter))
    worker.stdin.flush()
    lines = (json.loads(line) for line in worker.stdout)
    answers = list(itertools.islice((a for a in lines if a["kind"] not in ("begun", "partial")), 2))
    assert {(a["variant"], a["revision"]) for a in answers} == {(1, 3), (2, 5)}
    first = next(a for a in answers if a["variant"] == 1)
    assert first["result"]["streams"]["S-07"]["temperature"] == pytest.approx(333.15)
    worker.stdin.write(request(1, 4, hotter))
    worker.stdin.flush()
    begun, again = itertools.islice((a for a in lines if a["kind"] != "partial"), 2)
    assert begun == {"kind": "begun", "variant": 1, "revision": 4}
    assert again["result"] == first["result"]


#: A server that starts a solver process and is killed.
SERVER = """
import os, subprocess, sys, time
worker = subprocess.Popen([sys.executable, sys.argv[1], "1500", "0", str(os.getpid())], stdin=subprocess.PIPE, stdout=subprocess.PIPE)
worker.stdout.readline()
print(worker.pid, flush=True)
time.sleep(3600)
"""


def alive(pid):
    try:
        return Path(f"/proc/{pid}/stat").read_text().rsplit(")", 1)[1].split()[0] not in "ZX"
    except FileNotFoundError:
        return False


@pytest.mark.skipif(sys.platform != "linux", reason="the kernel of Linux ends it")
def test_a_worker_ends_with_its_server_whatever_it_is_at():
    server = subprocess.Popen([sys.executable, "-c", SERVER, str(WORKER)], stdout=subprocess.PIPE, text=True)
    pid = int(server.stdout.readline())
    os.kill(pid, signal.SIGSTOP)  # it cannot notice by itself that its input has closed
    assert alive(pid)
    server.kill()
    server.wait()
    end = time.monotonic() + PATIENCE
    while alive(pid) and time.monotonic() < end:
        time.sleep(0.05)
    assert not alive(pid)


def test_the_worker_answers_questions_between_calculations(worker):
    document = demo()
    chemistry = to_data(document)["chemistry"]
    ask = {"variant": 1, "chemistry": chemistry}
    good = {**ask, "job": 7, "question": {"kind": "pure", "component": "butanone", "quantity": "vapour pressure"}}
    bad = {**ask, "job": 8, "question": {"kind": "pure", "component": "gold", "quantity": "vapour pressure"}}
    worker.stdin.write(json.dumps(good) + "\n" + request(1, 1, document) + json.dumps(bad) + "\n" + request(1, 2, document))
    worker.stdin.flush()
    lines = (json.loads(line) for line in worker.stdout)
    answers = list(itertools.islice((a for a in lines if a["kind"] not in ("begun", "partial")), 3))
    by_job = {a.get("job"): a for a in answers}
    assert by_job[7]["diagram"]["axes"][1]["kind"] == "pressure"
    assert "gold is not among the components" in by_job[8]["text"]
    assert by_job[None]["revision"] == 2  # a question between two revisions does not keep the older one alive


def test_a_long_question_tells_how_far_it_is_and_ends_when_nobody_wants_it(worker):
    chemistry = {**to_data(demo())["chemistry"], "model": "peng-robinson"}
    names = [c["id"] for c in chemistry["components"] if c["id"] not in ("hydrogen", "nitrogen")][:4]
    swing = {"kind": "azeotropes_over", "pressure": q("0.5 bar"), "highest": q("10 bar"), "components": names}
    ask = {"variant": 1, "chemistry": chemistry, "question": swing}
    short = {**ask, "question": {"kind": "pure", "component": "butanone", "quantity": "vapour pressure"}}
    worker.stdin.write("".join(json.dumps({**one, "job": job, "token": f"t{job}"}) + "\n" for job, one in ((1, ask), (2, ask), (3, short))))
    worker.stdin.flush()
    lines = (json.loads(line) for line in worker.stdout)
    told = [next(line for line in lines if line["kind"] == "partial") for _ in range(3)]
    assert {line["token"] for line in told} == {"t1"}
    shares = [line["share"] for line in told]
    assert shares == sorted(shares)
    assert 0.0 <= shares[0] < shares[-1] < 1.0
    # One under way and one that waits behind it; what nobody stopped is answered.
    worker.stdin.write("".join(json.dumps({"variant": 1, "stop": job}) + "\n" for job in (1, 2)))
    worker.stdin.flush()
    answers = {a["job"]: a for a in itertools.islice((a for a in lines if a["kind"] == "answer"), 3)}
    assert [answers[1]["text"], answers[2]["text"]] == ["Stopped.", "Stopped."]
    assert "diagram" in answers[3]
    worker.stdin.write(json.dumps({**short, "job": 4}) + "\n")  # a number that was stopped before is no reason to stop another
    worker.stdin.flush()
    assert "diagram" in next(a for a in lines if a["kind"] == "answer")


def test_the_worker_ends_with_its_server(worker):
    worker.stdin.close()
    assert worker.wait(timeout=PATIENCE) == 0


def test_events_reach_every_page_of_a_variant_and_no_other():
    from runs.events import Broadcaster, Event

    async def run():
        broadcaster = Broadcaster()
        mine, also, other = (broadcaster.subscribe(v) for v in (1, 1, 2))
        await asyncio.to_thread(broadcaster.publish, 1, Event({"kind": "solving"}))
        broadcaster.unsubscribe(1, also)
        await asyncio.to_thread(broadcaster.publish, 1, Event({"kind": "result"}))
        await asyncio.sleep(0.05)
        return mine.events.qsize(), also.events.qsize(), other.events.qsize()

    assert async_to_sync(run)() == (2, 1, 0)


def test_a_page_that_does_not_keep_up_loses_events_but_holds_nobody_up():
    from runs.events import Broadcaster, Event

    async def run():
        broadcaster = Broadcaster()
        slow = broadcaster.subscribe(1)
        for number in range(1000):
            broadcaster.publish(1, Event({"number": number}))
        await asyncio.sleep(0.05)
        return slow.events.qsize()

    assert async_to_sync(run)() == 200


@pytest.mark.django_db(transaction=True)
def test_the_stream_of_a_variant_starts_with_the_newest_answer(people, variant):
    from django.test import AsyncClient
    from runs.events import Event
    from runs.service import service

    answer = {"kind": "result", "variant": variant.id, "revision": 7, "seconds": 0.1, "result": None}
    service.finished(dict(answer), 0)

    async def run():
        client = AsyncClient()
        await client.aforce_login(people["rita"])
        reply = await client.get(f"/api/variants/{variant.id}/events")
        assert reply["Content-Type"] == "text/event-stream"
        chunks = reply.streaming_content
        first = await anext(chunks)
        service.events.publish(variant.id, Event({"kind": "revision", "revision": 8}))
        second = await asyncio.wait_for(anext(chunks), 5)
        await chunks.aclose()
        return [json.loads(c.decode().removeprefix("data: ")) for c in (first, second)]

    first, second = async_to_sync(run)()
    assert first == answer
    assert second == {"kind": "revision", "revision": 8}


def test_a_calculation_is_stopped_and_what_it_has_is_told(worker):
    """A maze of recycles takes long enough; the halt of another revision stops nothing."""
    document = maze(60, 12, 11, 0.3)
    worker.stdin.write(request(1, 1, document))
    worker.stdin.write(json.dumps({"variant": 1, "halt": 1}) + "\n")
    worker.stdin.flush()
    lines = (json.loads(line) for line in worker.stdout)
    stopped = next(a for a in lines if a["kind"] not in ("begun", "partial"))
    assert (stopped["kind"], stopped["revision"]) == ("stopped", 1)
    assert not stopped["result"]["complete"]
    marks = [u["mark"] for u in stopped["result"]["units"].values()]
    assert "ready" in marks
    assert set(marks) <= {"ready", "current"}
    worker.stdin.write(json.dumps({"variant": 1, "halt": 1}) + "\n" + request(1, 2, demo()))
    worker.stdin.flush()
    whole = next(a for a in lines if a["kind"] not in ("begun", "partial"))
    assert (whole["kind"], whole["revision"], whole["result"]["complete"]) == ("result", 2, True)
