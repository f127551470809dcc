"""Passwords, members, archiving, deleting with a way back, branching; and who may do it."""

import re

import pytest
from django.core import mail

pytestmark = pytest.mark.django_db(transaction=True)
JSON = {"content_type": "application/json"}


@pytest.fixture
def path(variant):
    return f"/api/projects/{variant.project_id}"


ROUTES = [
    ("patch", "", {"name": "X"}, "owner"),
    ("delete", "", None, "owner"),
    ("post", "/restore", None, "owner"),
    ("get", "/members", None, "reader"),
    ("put", "/members", {"username": "nemo", "role": "reader"}, "owner"),
    ("delete", "/members/egon", None, "owner"),
]


@pytest.mark.parametrize(("method", "tail", "body", "needs"), ROUTES)
def test_each_role_and_route(as_, path, client, method, tail, body, needs):
    rank = {"nemo": -1, "rita": 0, "egon": 1, "olga": 2}
    needed = {"reader": 0, "editor": 1, "owner": 2}[needs]
    if (method, tail) == ("delete", "/members/egon"):
        rank["egon"] = 2  # anybody may take themselves out
    for name in ("nemo", "rita", "egon", "olga"):
        reply = getattr(as_(name).client, method)(path + tail, body, **JSON)
        wanted = 404 if rank[name] < 0 else 403 if rank[name] < needed else 200
        if name == "olga" and (method, tail) == ("delete", "/members/egon"):
            wanted = 404  # egon has gone by himself
        assert reply.status_code == wanted, (name, reply.content)
    assert getattr(client, method)(path + tail, body, **JSON).status_code == 401


def test_branching_needs_an_editor_and_copies_the_document(as_, variant):
    for name, wanted in (("nemo", 404), ("rita", 403), ("egon", 201)):
        reply = as_(name).client.post(f"/api/variants/{variant.id}/branch", {"name": "Hotter"}, **JSON)
        assert reply.status_code == wanted
    olga = as_("olga")
    copy = olga.client.get(f"/api/variants/{reply.json()['id']}").json()
    assert copy["document"] == olga.get().json()["document"]
    assert copy["revision"] == 1


def test_delete_archive_and_the_way_back(as_, path):
    olga = as_("olga")
    names = lambda query="": [p["name"] for p in olga.client.get("/api/projects" + query).json()]  # noqa: E731
    olga.client.delete(path)
    assert names() == []
    assert olga.get().status_code == 404
    olga.client.post(path + "/restore", **JSON)
    assert names() == ["Test plant"]
    olga.client.patch(path, {"name": " Renamed ", "archived": True}, **JSON)
    assert (names(), names("?archived=true")) == ([], ["Renamed"])
    assert olga.get().status_code == 200  # an archived project can be read


def test_a_project_keeps_an_owner(as_, path):
    olga = as_("olga")
    reply = olga.client.put(path + "/members", {"username": "olga", "role": "reader"}, **JSON)
    assert (reply.status_code, "needs an owner" in reply.json()["message"]) == (422, True)
    assert olga.client.delete(path + "/members/olga").status_code == 422
    olga.client.put(path + "/members", {"username": "egon", "role": "owner"}, **JSON)
    assert olga.client.delete(path + "/members/olga").status_code == 200
    assert "nobody named" in as_("egon").client.put(path + "/members", {"username": "zed", "role": "reader"}, **JSON).json()["message"]


def test_change_and_reset_of_a_password(as_, people, client, settings):
    people["olga"].email = "olga@sandlark-bay.invalid"
    people["olga"].save()
    olga = as_("olga").client
    assert olga.post("/api/password", {"old": "wrong", "new": "another-long-word"}, **JSON).status_code == 422
    assert "too short" in olga.post("/api/password", {"old": "long-enough-word", "new": "abc"}, **JSON).json()["message"]
    assert olga.post("/api/password", {"old": "long-enough-word", "new": "another-long-word"}, **JSON).status_code == 200
    assert olga.get("/api/projects").status_code == 200  # the session goes on
    for name in ("olga", "nobody-at-all"):
        assert client.post("/api/password/forgotten", {"username": name}, **JSON).status_code == 200
    assert len(mail.outbox) == 1
    person, token = re.search(r"/reset/([^/]+)/(\S+)", mail.outbox[0].body).groups()
    body = {"person": person, "token": token, "password": "third-long-word"}
    assert client.post("/api/password/reset", body, **JSON).status_code == 200
    assert client.post("/api/password/reset", body, **JSON).status_code == 422  # once only
    assert client.post("/api/session", {"username": "olga", "password": "third-long-word"}, **JSON).status_code == 200


def test_the_audit_log_names_sign_ins_and_changes_of_rights(as_, path, client):
    from accounts.models import AuditEntry

    client.post("/api/session", {"username": "olga", "password": "wrong"}, **JSON)
    as_("olga").client.put(path + "/members", {"username": "nemo", "role": "reader"}, **JSON)
    told = [(str(e.who or "-"), e.what) for e in AuditEntry.objects.order_by("when")]
    assert told == [("-", "sign-in refused"), ("olga", "made reader")]
    assert "nemo" in AuditEntry.objects.latest("when").about
