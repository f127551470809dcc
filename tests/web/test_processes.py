"""Several web processes on one database, as one by a Redis: what happens in one is seen in the others, and none of them is needed."""

import json
import threading
import time
import urllib.error

import pytest
from patience import PATIENCE
from server import Redis, Server, heard, lay_out, open_page

COLD = {"unit": "E-103", "field": "outlet_temperature", "low": {"value": 10, "unit": "degC"}, "high": {"value": 40, "unit": "degC"}, "points": 300}
STUDY = {"name": "Cold", "inputs": [COLD], "outputs": [{"name": "Duty", "formula": "E-103.duty"}]}
ADD = """
from django.contrib.auth import get_user_model
from projects.models import Membership, Project
person = get_user_model().objects.create_user("rita", password="long-enough-word")
Membership.objects.create(project=Project.objects.get(name="Sandlark Bay"), user=person, role="reader")
"""


@pytest.fixture
def redis(tmp_path):
    running = Redis(tmp_path)
    yield running
    running.kill()


@pytest.fixture
def both(tmp_path, redis):
    """Two servers on one database and one Redis, and the way to the variant."""
    lay_out(tmp_path, ADD)
    servers = [Server(tmp_path, WATTAXIS_BROKER=redis.address) for _ in range(2)]
    for server in servers:
        server.start()
        server.sign_in()
    yield servers
    for server in servers:
        server.kill()


def path_of(server):
    project = next(p for p in server.call("GET", "/api/projects") if p["name"] == "Sandlark Bay")
    return f"/api/variants/{project['variants'][0]['id']}", f"/api/projects/{project['id']}"


def cooled(server, path, value):
    edit = {"kind": "set_values", "unit": "E-103", "values": {"outlet_temperature": {"value": value, "unit": "degC"}}}
    base = server.call("GET", path)["revision"]
    return server.call("POST", path + "/edits", {"base": base, "edit": edit})["revision"]


def until(wanted):
    end = time.monotonic() + PATIENCE
    while time.monotonic() < end:
        if wanted():
            return True
        time.sleep(0.05)
    return False


def result_of(server, path):
    return (server.call("GET", path)["answer"] or {}).get("revision")


def test_pages_of_one_process_see_what_happens_in_another(both):
    one, other = both
    path, project = path_of(one)
    assert until(lambda: result_of(one, path) == 1)  # the variant belongs to this process now
    page, mine = open_page(other, path), open_page(one, path)
    # Edits of either, with what they changed, and results that are calculated once.
    for server, value in ((one, 44.0), (other, 43.0)):
        number = cooled(server, path, value)
        assert heard(page, f'"revision": {number}, "solving": true, "base"'.encode())
        assert heard(page, b'"kind": "result"')
        assert heard(mine, f'"revision": {number}'.encode())
        assert until(lambda number=number: result_of(one, path) == result_of(other, path) == number)
        assert one.call("GET", path)["answer"] == other.call("GET", path)["answer"]
    # A question that one answers tells the pages of the other how far it is.
    one.call("POST", path + "/local-effects", {"formula": "E-103.duty", "units": ["E-103", "V-101"], "token": "mine"})
    assert heard(page, b'"token": "mine"')
    # Rights that are withdrawn in one end the stream in the other.
    rita = other.beside().sign_in("rita", "long-enough-word")
    reading = open_page(rita, path)
    one.call("DELETE", f"{project}/members/rita")
    reading.settimeout(PATIENCE)
    while reading.recv(1 << 16):
        pass
    with pytest.raises(urllib.error.HTTPError):
        rita.call("GET", path)


def test_a_study_is_calculated_by_one_and_paused_from_the_other(both):
    one, other = both
    path, _ = path_of(one)
    base = one.call("GET", path)["revision"]
    one.call("POST", path + "/edits", {"base": base, "edit": {"kind": "set_study", "name": "Cold", "study": STUDY}})
    page = open_page(other, path)
    number = one.call("POST", path + "/study-answers", {"name": "Cold"})["id"]
    assert heard(page, b'"kind": "study"')
    answer = f"{path}/study-answers/{number}"
    assert until(lambda: other.call("GET", answer)["cases"] > 0)
    other.call("POST", answer + "/state", {"state": "paused"})
    assert heard(page, b'"state": "paused"')
    cases = other.call("GET", answer)["cases"]
    assert 0 < cases < 300
    # Whose process is gone goes on in another one.
    one.call("POST", answer + "/state", {"state": "running"})
    assert until(lambda: other.call("GET", answer)["cases"] > cases)
    one.kill()
    assert until(lambda: other.call("GET", answer)["state"] == "done")
    found = other.call("GET", answer)["result"]["cases"]
    assert [case["number"] for case in found] == list(range(300))
    one.start()


def test_results_come_when_the_process_of_a_variant_or_redis_is_gone(both, redis):
    one, other = both
    path, _ = path_of(one)
    assert until(lambda: result_of(one, path) == 1)
    page = open_page(other, path)
    one.kill()
    number = cooled(other, path, 42.0)
    assert until(lambda: result_of(other, path) == number)
    assert heard(page, b'"kind": "result"')
    redis.kill()
    number = cooled(other, path, 41.0)
    assert until(lambda: result_of(other, path) == number)
    one.start()
    number = cooled(one, path, 40.0)
    assert until(lambda: result_of(one, path) == result_of(other, path) == number)
    assert heard(page, f'"revision": {number}'.encode())


def test_a_question_is_stopped_from_another_process(both):
    one, other = both
    path, _ = path_of(one)
    said = []
    question = {"formula": "E-103.duty", "token": "long"}

    def ask():
        try:
            said.append(one.call("POST", path + "/local-effects", question))
        except urllib.error.HTTPError as refused:
            said.append(json.loads(refused.read()))

    asking = threading.Thread(target=ask)
    page = open_page(other, path)
    asking.start()
    assert heard(page, b'"token": "long"')
    other.call("POST", path + "/stop", {"tokens": ["long"]})
    asking.join(PATIENCE)
    assert said == [{"message": "Stopped."}]
