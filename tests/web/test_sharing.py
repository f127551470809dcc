"""Share links, invitations by mail, variants and copies: who gets in by which way, and how the way is closed again."""

import re

import pytest
from django.core import mail
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client
from plants import q

pytestmark = pytest.mark.django_db(transaction=True)
JSON = {"content_type": "application/json"}


def token_of(address):
    return address.rsplit("/", 1)[1]


@pytest.fixture
def link(as_):
    return as_("olga").post("/links").json()


@pytest.mark.parametrize(("name", "wanted"), [("nemo", 404), ("rita", 403), ("egon", 403), ("olga", 200)])
def test_only_owners_share(as_, name, wanted):
    person = as_(name)
    assert person.post("/links").status_code == wanted
    assert person.get("/links").status_code == wanted
    assert person.client.delete(person.path + "/links/1").status_code in (wanted, 404)


def test_whoever_holds_a_link_reads_and_does_nothing_else(as_, link, variant):
    guest, path = Client(), f"/api/variants/{variant.id}"
    assert guest.get(path).status_code == 401
    assert guest.post(f"/api/shared/{token_of(link['address'])}", **JSON).json() == {"variant": variant.id}
    assert guest.get("/api/session").json() == {"person": None, "shared": variant.id}
    body = guest.get(path).json()
    assert (body["role"], body["undo"]) == ("reader", None)
    for reading in (
        path + "/history",
        path + "/profiles?unit=V-101",
        path + "/document.json",
        "/api/catalogue",
        "/api/components/78-93-3",
        "/api/help/guide",
    ):
        assert guest.get(reading).status_code == 200, reading
    for method, tail, data in (
        ("post", "/edits", {"base": 1, "edit": {"kind": "set_title", "title": "Mine"}}),
        ("post", "/undo", None),
        ("post", "/back/1", None),
        ("post", "/branch", {"name": "x"}),
        ("patch", "", {"name": "x"}),
        ("delete", "", None),
        ("post", "/links", None),
        ("post", "/feed-table", None),
    ):
        assert getattr(guest, method)(path + tail, data, **JSON).status_code == 401, tail
    for others in ("/api/projects", "/api/components?q=water", f"/api/projects/{variant.project_id}/members"):
        assert guest.get(others).status_code == 401, others
    other = as_("olga").client.post(f"/api/variants/{variant.id}/branch", {"name": "Other"}, **JSON).json()["id"]
    assert guest.get(f"/api/variants/{other}").status_code == 404


def test_a_withdrawn_link_and_a_forged_one_open_nothing(as_, link, variant):
    guest, olga = Client(), as_("olga")
    guest.post(f"/api/shared/{token_of(link['address'])}", **JSON)
    assert olga.client.delete(f"{olga.path}/links/{link['id']}").status_code == 200
    assert guest.get(f"/api/variants/{variant.id}").status_code == 401
    again = Client().post(f"/api/shared/{token_of(link['address'])}", **JSON)
    assert (again.status_code, "no longer" in again.json()["message"]) == (404, True)
    assert Client().post("/api/shared/MQ:abc:def", **JSON).status_code == 404
    assert olga.get("/links").json() == []


def test_guessing_links_is_slowed_down(people, variant):
    tries = [Client().post(f"/api/shared/guess{k}", **JSON).status_code for k in range(7)]
    assert tries == [404] * 5 + [429] * 2


def invited(as_, path, address="petra@sandlark-bay.invalid", role="editor"):
    reply = as_("olga").client.post(path + "/invitations", {"guest": address, "role": role}, **JSON)
    return reply, token_of(re.search(r"http://\S+", mail.outbox[-1].body).group()) if reply.status_code == 200 else None


def test_an_invitation_makes_an_account_and_works_once(as_, variant, client):
    path = f"/api/projects/{variant.project_id}"
    reply, token = invited(as_, path)
    assert [i["guest"] for i in reply.json()] == ["petra@sandlark-bay.invalid"]
    assert client.get(f"/api/invitations/{token}").json()["role"] == "editor"
    for name, password, says in (("olga", "long-enough-word", "is taken"), ("a b", "long-enough-word", "letters"), ("petra", "short", "too short")):
        refused = client.post(f"/api/invitations/{token}", {"username": name, "password": password}, **JSON)
        assert (refused.status_code, says in refused.json()["message"]) == (422, True)
    assert client.post(f"/api/invitations/{token}", {"username": "petra", "password": "long-enough-word"}, **JSON).status_code == 200
    assert [p["role"] for p in client.get("/api/projects").json()] == ["editor"]
    assert Client().get(f"/api/invitations/{token}").status_code == 404
    assert as_("olga").client.get(path + "/invitations").json() == []


def test_an_invitation_taken_back_changed_or_forged_lets_nobody_in(as_, variant):
    path = f"/api/projects/{variant.project_id}"
    _, first = invited(as_, path, role="owner")
    reply, second = invited(as_, path, role="reader")
    assert len(reply.json()) == 1
    assert Client().get(f"/api/invitations/{first}").status_code == 404  # the role of the newest invitation holds
    assert Client().get(f"/api/invitations/{second}").status_code == 200
    as_("olga").client.delete(f"{path}/invitations/{reply.json()[0]['id']}")
    assert Client().get(f"/api/invitations/{second}").status_code == 404
    assert invited(as_, path, "nobody@")[0].status_code == 422


def test_an_invitation_joins_with_the_account_that_is_signed_in(as_, variant):
    _, token = invited(as_, f"/api/projects/{variant.project_id}", role="reader")
    nemo = as_("nemo")
    assert nemo.client.post(f"/api/invitations/{token}", {}, **JSON).status_code == 200
    assert nemo.get().json()["role"] == "reader"


@pytest.mark.parametrize(("method", "tail"), [("get", "/invitations"), ("post", "/invitations"), ("delete", "/invitations/1")])
def test_only_owners_invite(as_, variant, method, tail):
    for name, wanted in (("nemo", 404), ("rita", 403), ("egon", 403)):
        reply = getattr(as_(name).client, method)(f"/api/projects/{variant.project_id}{tail}", {"guest": "a@b.invalid", "role": "reader"}, **JSON)
        assert reply.status_code == wanted


def test_variants_are_renamed_archived_deleted_and_brought_back(as_, variant):
    olga, egon = as_("olga"), as_("egon")
    names = lambda: [(v["name"], v["archived"]) for v in olga.client.get("/api/projects").json()[0]["variants"]]  # noqa: E731
    assert egon.client.delete(egon.path).status_code == 422  # the last one stays
    other = egon.client.post(egon.path + "/branch", {"name": "Hot"}, **JSON).json()["id"]
    for method, body in (("patch", {"name": "x"}), ("delete", None)):
        assert getattr(as_("rita").client, method)(egon.path, body, **JSON).status_code == 403
        assert getattr(as_("nemo").client, method)(egon.path, body, **JSON).status_code == 404
    assert egon.client.patch(f"/api/variants/{other}", {"name": "Hotter", "archived": True}, **JSON).status_code == 200
    assert names() == [("Base", False), ("Hotter", True)]
    assert egon.client.delete(f"/api/variants/{other}").status_code == 200
    assert names() == [("Base", False)]
    assert egon.client.get(f"/api/variants/{other}").status_code == 404
    assert egon.client.post(f"/api/variants/{other}/restore", **JSON).status_code == 200
    assert names() == [("Base", False), ("Hotter", True)]


def test_a_reader_may_copy_a_project_and_owns_the_copy(as_, variant):
    olga, rita = as_("olga"), as_("rita")
    olga.edit(1, "set_values", unit="E-103", values={"outlet_temperature": q("45 degC")})
    path = f"/api/projects/{variant.project_id}/copy"
    assert as_("nemo").client.post(path, {"name": "Mine"}, **JSON).status_code == 404
    assert rita.client.post(path, {"name": "Mine"}, **JSON).status_code == 201
    mine = next(p for p in rita.client.get("/api/projects").json() if p["name"] == "Mine")
    assert mine["role"] == "owner"
    copy = rita.client.get(f"/api/variants/{mine['variants'][0]['id']}").json()
    assert (copy["document"], copy["revision"]) == (olga.get().json()["document"], 1)
    assert [p["name"] for p in olga.client.get("/api/projects").json()] == ["Test plant"]


def test_a_feed_table_is_read_and_a_bad_one_refused(as_):
    def send(name, content):
        person = as_(name)
        return person.client.post(person.path + "/feed-table", {"file": SimpleUploadedFile("feed.csv", content)})

    good = send("egon", b"component,kmol/h\nMEK,12\nargon,1\n")
    assert good.json()["composition"]["values"] == {"butanone": {"value": 12.0, "unit": "kmol/h"}}
    assert len(good.json()["left_out"]) == 1
    assert (send("egon", b"PK\x03\x04").status_code, send("egon", b"x" * 5_000_000).status_code) == (422, 422)
    assert (send("rita", b"water,1").status_code, send("nemo", b"water,1").status_code) == (403, 404)
