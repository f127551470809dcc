"""A full disk, a database that cannot be written or read: a sentence, nothing lost, and a start that says so."""

import os
import subprocess
import sys

import pytest
from django.db import connection
from django.test import Client
from plants import q
from server import ROOT, manage

pytestmark = pytest.mark.django_db(transaction=True)


def pragma(text):
    with connection.cursor() as cursor:
        cursor.execute(f"PRAGMA {text}")
        return (cursor.fetchone() or [None])[0]


def fill_the_free_pages():
    """What earlier tests deleted leaves room in the file: how much is a matter of their order."""
    with connection.cursor() as cursor:
        cursor.execute("CREATE TABLE IF NOT EXISTS ballast (b BLOB)")
        cursor.execute("INSERT INTO ballast VALUES (zeroblob(%s))", [pragma("freelist_count") * pragma("page_size")])


@pytest.fixture
def olga(as_):
    person = as_("olga")
    person.client.raise_request_exception = False
    person.get()
    yield person
    pragma("max_page_count = 1073741823")
    pragma("query_only = 0")
    with connection.cursor() as cursor:
        cursor.execute("DROP TABLE IF EXISTS ballast")


def test_a_full_disk_is_told_and_work_goes_on_when_there_is_room(olga):
    fill_the_free_pages()
    pragma(f"max_page_count = {pragma('page_count')}")
    values = {"outlet_temperature": q("45 degC")}
    for base in range(1, 40):
        reply = olga.edit(base, "set_values", unit="E-103", values=values)
        if reply.status_code != 200:
            break
    assert (reply.status_code, "disk of the server is full" in reply.json()["message"]) == (507, True)
    assert olga.get().json()["revision"] == base  # what was saved can be read
    pragma("max_page_count = 1073741823")
    assert olga.edit(base, "set_values", unit="E-103", values=values).status_code == 200


def test_a_database_that_cannot_be_written_can_be_read_and_says_so(olga):
    pragma("query_only = 1")
    refused = olga.edit(1, "set_title", title="New")
    assert (refused.status_code, "can be read but not written" in refused.json()["message"]) == (503, True)
    assert olga.get().json()["revision"] == 1
    signing_in = Client(raise_request_exception=False).post(
        "/api/session", {"username": "olga", "password": "long-enough-word"}, content_type="application/json"
    )
    assert (signing_in.status_code, "not written" in signing_in.json()["message"]) == (503, True)


def test_an_error_that_nobody_foresaw_has_a_number(olga, monkeypatch):
    monkeypatch.setattr("projects.service.latest", lambda variant: 1 / 0)
    reply = olga.get()
    assert reply.status_code == 500
    assert f"under the number {reply['X-Request-Id']}" in reply.json()["message"]


def starting(folder):
    environment = {**os.environ, "WATTAXIS_VAR": str(folder), "WATTAXIS_PORT": "0"}
    done = subprocess.run([sys.executable, "tools/serve.py"], cwd=ROOT, env=environment, capture_output=True, text=True, check=False, timeout=120)
    return done.returncode, done.stderr


def test_a_server_that_could_not_save_does_not_start(tmp_path):
    code, said = starting(tmp_path)
    assert (code, "no database yet" in said) == (1, True)
    (tmp_path / "wattaxis.sqlite3").write_bytes(b"no database" * 1000)
    code, said = starting(tmp_path)
    assert (code, "damaged" in said, "Traceback" in said) == (1, True, False)
    (tmp_path / "wattaxis.sqlite3").unlink()
    assert manage(tmp_path, "migrate", "projects", "zero", "--verbosity", "0")[0] == 0
    code, said = starting(tmp_path)
    assert (code, "not set up" in said) == (1, True)
    (tmp_path / "file").write_text("")
    code, said = starting(tmp_path / "file")
    assert (code, "cannot be used" in said, "Traceback" in said) == (1, True, False)
