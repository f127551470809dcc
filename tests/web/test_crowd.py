"""Eight people at one variant over HTTP, and fifty open pages: nothing is lost. The figures go into the soak report; only there are they bounds."""

import os
import random
import select
import threading
import time
import urllib.error
from statistics import median

import pytest
from plants import demo
from server import Redis, Server, heard, lay_out, open_page, report

from wattaxis import dump

SECONDS = float(os.environ.get("WATTAXIS_CROWD_SECONDS", "4"))
SOAK = "WATTAXIS_REPORT" in os.environ
PEOPLE, RATE, PAGES = 8, 5.0, 50
PLACES = [
    ("E-103", "outlet_temperature", "degC", 30.0),
    ("VL-101", "outlet_pressure", "bar", 1.0),
    ("F-101", "temperature", "degC", 150.0),
    ("F-101", "pressure", "bar", 2.2),
    ("V-101", "duty", "kW", 0.0),
    ("V-102", "duty", "kW", 0.0),
    ("E-103", "pressure_change", "bar", -0.1),
    ("V-101", "pressure_change", "bar", -0.01),
]
ADD = """
from django.contrib.auth import get_user_model
from projects.models import Membership, Project
for k in range(8):
    person = get_user_model().objects.create_user(f"person{k}", password="long-enough-word")
    Membership.objects.create(project=Project.objects.get(name="Sandlark Bay"), user=person, role="editor")
"""


@pytest.fixture
def server(tmp_path, request):
    """A server; of several web processes, as one by a Redis, where so many are asked for."""
    lay_out(tmp_path, ADD)
    processes = getattr(request, "param", 1)
    redis = Redis(tmp_path) if processes > 1 else None
    more = {"WATTAXIS_BROKER": redis.address, "WATTAXIS_PROCESSES": str(processes)} if redis else {}
    running = Server(tmp_path, **more)
    running.start()
    running.sign_in()
    yield running
    running.kill()
    if redis:
        redis.kill()


def variant_path(server):
    return f"/api/variants/{server.call('GET', '/api/projects')[0]['variants'][0]['id']}"


class Editor(threading.Thread):
    """A person who edits one place again and again, at their share of the common rate."""

    def __init__(self, server, number, path):
        super().__init__()
        self.client = server.beside().sign_in(f"person{number}", "long-enough-word")
        self.path, self.place, self.rng = path, PLACES[number], random.Random(number)
        self.base = self.client.call("GET", path)["revision"]
        self.taken, self.value = [], None

    def run(self):
        unit, field, label, start = self.place
        end = time.monotonic() + SECONDS
        while time.monotonic() < end:
            time.sleep(self.rng.expovariate(RATE / PEOPLE))
            value = round(start + self.rng.random() * 0.01, 6)
            edit = {"kind": "set_values", "unit": unit, "values": {field: {"value": value, "unit": label}}}
            began = time.perf_counter()
            self.base = self.client.call("POST", self.path + "/edits", {"base": self.base, "edit": edit})["revision"]
            self.taken.append(time.perf_counter() - began)
            self.value = value


class Listener(threading.Thread):
    """So many open pages, which take what they are sent."""

    def __init__(self, server, path, pages):
        super().__init__(daemon=True)
        self.pages = [open_page(server, path) for _ in range(pages)]
        self.bytes, self.over = 0, False

    def run(self):
        while not self.over:
            for page in select.select(self.pages, [], [], 0.2)[0]:
                self.bytes += len(page.recv(1 << 16))

    def close(self):
        self.over = True
        self.join()
        for page in self.pages:
            page.close()


class Asking(threading.Thread):
    """Somebody who asks for diagrams and opens documents all the time."""

    def __init__(self, server, path):
        super().__init__(daemon=True)
        self.client = server.beside().sign_in("person7", "long-enough-word")
        self.path, self.over, self.asked = path, False, 0

    def run(self):
        document = dump(demo()).encode()
        water = {"kind": "pure", "component": "water", "quantity": "vapour pressure"}
        while not self.over:
            self.client.call("POST", f"{self.path}/diagram", {"question": water, "token": ""})
            self.client.send_file("/api/projects/upload", "plant.json", document)
            self.asked += 1
            time.sleep(0.5)


@pytest.mark.parametrize("server", [1, 3], indirect=True, ids=["one process", "three processes"])
def test_eight_people_edit_at_once_beside_open_pages_questions_and_files_and_nothing_is_lost(server):
    path = variant_path(server)
    people = [Editor(server, k, path) for k in range(PEOPLE)]
    listening, asking = Listener(server, path, PAGES), Asking(server, path)
    before = server.megabytes()
    for thread in (listening, asking, *people):
        thread.start()
    for person in people:
        person.join()
    asking.over = True
    asking.join()
    state = server.call("GET", path)
    specs = {u["tag"]: u["spec"] for u in state["document"]["units"]}
    for person in people:
        unit, field, _, _ = person.place
        if person.value is not None:
            assert specs[unit][field]["value"] == person.value
    taken = sorted(t for person in people for t in person.taken)
    assert state["revision"] == 1 + len(taken)
    assert asking.asked
    listening.close()
    slowest = taken[int(0.95 * len(taken))]
    figures = f"95 % acknowledged within {1000 * slowest:.0f} ms, median {1000 * median(taken):.0f} ms"
    beside = f"{PAGES} open pages, {asking.asked} diagrams and documents"
    processes = f"{server.processes} web process{'es' if server.processes > 1 else ''}"
    report(f"8 people at {processes}, {len(taken)} edits in {SECONDS:g} s beside {beside}: none lost, {figures}")
    report(f"An edit sent {listening.bytes / PAGES / len(taken) / 1000:.1f} kB to each page, results included")
    report(f"The server took {before:.0f} MB before and {server.megabytes():.0f} MB after it")
    assert not SOAK or slowest < 0.15


def test_fifty_open_pages_all_hear_of_an_edit(server):
    path = variant_path(server)
    pages = [open_page(server, path) for _ in range(PAGES)]
    base, taken = server.call("GET", path)["revision"], []
    for k in range(int(max(10, SECONDS * 2))):
        edit = {"kind": "set_title", "title": f"Title {k}"}
        base = server.call("POST", path + "/edits", {"base": base, "edit": edit})["revision"]
        began = time.perf_counter()
        server.call("GET", path + "/history")
        taken.append(time.perf_counter() - began)
    last = f'"revision": {base}'.encode()
    assert all(heard(page, last) for page in pages)
    for page in pages:
        page.close()
    report(f"50 open pages with live results: server {server.megabytes():.0f} MB, median of an API answer {1000 * median(taken):.0f} ms")
    assert not SOAK or (server.megabytes() < 400 and median(taken) < 0.02)


def test_idle_pages_take_little(server):
    path = variant_path(server)
    server.call("GET", path)
    before, many = server.megabytes(), 500 if SOAK else 100
    pages = [open_page(server, path) for _ in range(many)]
    base = server.call("GET", path)["revision"]
    base = server.call("POST", path + "/edits", {"base": base, "edit": {"kind": "set_title", "title": "New"}})["revision"]
    assert all(heard(page, f'"revision": {base}'.encode()) for page in pages)
    after = server.megabytes()
    for page in pages:
        page.close()
    report(f"{many} idle pages: all hear of an edit; the server takes {after:.0f} MB with them, {before:.0f} MB without")
    assert not SOAK or after < 300


def test_two_servers_on_one_database_tell_each_other_of_edits(server):
    path = variant_path(server)
    other = Server(server.environment["WATTAXIS_VAR"])
    other.start()
    try:
        page = open_page(other.sign_in(), path)
        base = other.call("GET", path)["revision"]
        time.sleep(1.5)  # the other server has seen the state before
        edit = {"kind": "set_values", "unit": "E-103", "values": {"outlet_temperature": {"value": 44.0, "unit": "degC"}}}
        base = server.call("POST", path + "/edits", {"base": base, "edit": edit})["revision"]
        assert heard(page, f'"kind": "revision", "revision": {base}'.encode())
        assert heard(page, b'"kind": "result"')
        page.close()
    finally:
        other.kill()


def test_nobody_chooses_the_address_that_failures_are_counted_for(server):
    client, codes = server.beside(), []
    client.call("GET", "/api/session")
    for k in range(12):  # the first pauses are shorter than a slow machine takes to look at a password; by addresses of one's choice there were none
        body = {"username": "engineer", "password": "wrong"}
        try:
            client.call("POST", "/api/session", body, **{"X-Forwarded-For": f"10.0.0.{k}"})
        except urllib.error.HTTPError as refused:
            codes.append(refused.code)
    assert (codes[:5], 429 in codes) == ([401] * 5, True)
