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
    ("put", "/members", {"username": "rita", "role": "reader"}, "owner"),
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


def test_inviting_by_name_does_not_tell_who_exists(as_, path, people):
    """Nobody is looked up: a name that somebody has and one that nobody has get the same answers, and only the person sees the invitation."""
    olga, nemo = as_("olga").client, as_("nemo").client
    for name in ("nemo", "nobody"):
        assert olga.put(path + "/members", {"username": name, "role": "reader"}, **JSON).json() == {"message": f"{name} is not in this project."}
    told = [olga.post(path + "/invitations", {"guest": name, "role": "reader"}, **JSON) for name in ("nobody", "nemo")]
    assert [reply.status_code for reply in told] == [200, 200]
    assert [i["guest"] for i in told[1].json()] == ["nemo", "nobody"]
    assert as_("rita").client.get("/api/invitations").json() == []
    mine = nemo.get("/api/invitations").json()
    assert [(i["project"], i["role"], i["author"]) for i in mine] == [("Test plant", "reader", "olga")]
    assert nemo.post(f"/api/invitations/{mine[0]['token']}", {}, **JSON).status_code == 200
    assert (as_("nemo").get().json()["role"], nemo.get("/api/invitations").json()) == ("reader", [])
    assert [i["guest"] for i in olga.get(path + "/invitations").json()] == ["nobody"]
    assert olga.post(path + "/invitations", {"guest": "two words", "role": "reader"}, **JSON).status_code == 422


def test_an_invitation_can_be_declined(as_, path, people):
    people["nemo"].email = "Nemo@sandlark-bay.invalid"
    people["nemo"].save()
    as_("olga").client.post(path + "/invitations", {"guest": "nemo@Sandlark-Bay.invalid", "role": "editor"}, **JSON)
    nemo = as_("nemo").client
    (mine,) = nemo.get("/api/invitations").json()
    assert nemo.delete(f"/api/invitations/{mine['token']}").status_code == 200
    assert nemo.get("/api/invitations").json() == []
    assert nemo.post(f"/api/invitations/{mine['token']}", {}, **JSON).status_code == 404


def test_projects_come_page_by_page_and_can_be_searched(as_, people):
    from projects.service import add_variant, create_project

    for k in range(70):
        last = create_project(f"Plant {k:02d}", people["nemo"], {"format": "wattaxis-flowsheet", "version": 13, "units": []})
    add_variant(last.project, "Hot side", {"format": "wattaxis-flowsheet", "version": 13, "units": []}, people["nemo"])
    nemo = as_("nemo").client
    pages = [[p["name"] for p in nemo.get(f"/api/projects?after={after}").json()] for after in (0, 50, 100)]
    assert [len(page) for page in pages] == [50, 20, 0]
    assert pages[0] + pages[1] == [f"Plant {k:02d}" for k in range(70)]
    for words, found in (("ant 3", 10), ("hot", 1), ("egon", 0)):
        assert len(nemo.get("/api/projects", {"q": words}).json()) == found


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
    assert [message.subject for message in mail.outbox] == ["Your Wattaxis account", "A new Wattaxis password"]
    person, token = re.search(r"/reset/([^/]+)/(\S+)", mail.outbox[1].body).groups()
    body = {"person": person, "token": token, "password": "third-long-word"}
    assert client.post("/api/password/reset", body, **JSON).status_code == 200
    assert client.post("/api/password/reset", body, **JSON).status_code == 422  # once only
    assert client.post("/api/session", {"username": "olga", "password": "third-long-word"}, **JSON).status_code == 200


def test_the_audit_log_names_sign_ins_and_changes_of_rights(as_, path, client):
    from accounts.models import AuditEntry

    client.post("/api/session", {"username": "olga", "password": "wrong"}, **JSON)
    as_("olga").client.put(path + "/members", {"username": "egon", "role": "reader"}, **JSON)
    told = [(str(e.who or "-"), e.what) for e in AuditEntry.objects.order_by("when")]
    assert told == [("-", "sign-in refused"), ("olga", "made reader")]
    assert "egon" in AuditEntry.objects.latest("when").about
