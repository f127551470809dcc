"""Who gets in, who does not, and what happens to nonsense."""

import os
from pathlib import Path

import pytest
from plants import q

pytestmark = pytest.mark.django_db(transaction=True)
READ = ["", "/history", "/document.json", "/streams.csv", "/streams.xlsx", "/events"]


@pytest.mark.parametrize("path", READ)
def test_reading_needs_a_membership(as_, client, path):
    assert as_("nemo").get(path).status_code == 404
    anonymous = client.get(as_("olga").path + path)
    assert anonymous.status_code in (401, 403)


@pytest.mark.parametrize("path", READ[:3])
def test_readers_read(as_, path):
    assert as_("rita").get(path).status_code == 200


@pytest.mark.parametrize(("name", "status"), [("rita", 403), ("nemo", 404), ("egon", 200)])
def test_writing_needs_an_editor(as_, name, status):
    person = as_(name)
    assert person.edit(1, "set_title", title="Mine").status_code == status
    if status != 200:
        assert person.post("/undo").status_code == status
        assert person.post("/redo").status_code == status


def test_projects_of_others_are_not_listed(as_):
    assert as_("nemo").client.get("/api/projects").json() == []
    assert [p["role"] for p in as_("egon").client.get("/api/projects").json()] == ["editor"]


def test_sign_in_is_slowed_down_after_failures(client, people):
    def attempt(password):
        return client.post("/api/session", {"username": "olga", "password": password}, content_type="application/json")

    assert [attempt("wrong").status_code for _ in range(5)] == [401] * 5
    refused = attempt("long-enough-word")
    assert refused.status_code == 429
    assert "Try again in" in refused.json()["message"]


def test_sign_in_and_out(client, people):
    assert client.get("/api/session").json() == {"person": None, "shared": None}
    assert client.get("/api/projects").status_code == 401
    good = client.post("/api/session", {"username": "rita", "password": "long-enough-word"}, content_type="application/json")
    assert good.json()["person"]["username"] == "rita"
    assert client.get("/api/projects").status_code == 200
    client.delete("/api/session")
    assert client.get("/api/projects").status_code == 401


def test_changes_need_the_csrf_token(people, variant):
    from django.test import Client

    strict = Client(enforce_csrf_checks=True)
    strict.force_login(people["olga"])
    reply = strict.post(f"/api/variants/{variant.id}/undo", content_type="application/json")
    assert reply.status_code == 403


def test_headers_of_every_page(client):
    reply = client.get("/")
    assert "default-src 'self'" in reply["Content-Security-Policy"]
    assert "unsafe" not in reply["Content-Security-Policy"]
    assert reply["X-Frame-Options"] == "DENY"
    assert reply["X-Content-Type-Options"] == "nosniff"
    assert client.get("/healthz").content == b"ok"


def test_deploy_check_is_clean_under_production_settings():
    import subprocess
    import sys

    web = Path(__file__).resolve().parents[2] / "web"
    command = [sys.executable, "manage.py", "check", "--deploy", "--fail-level", "WARNING"]
    environment = {**os.environ, "WATTAXIS_PRODUCTION": "1", "WATTAXIS_HOSTS": "plant.example"}
    done = subprocess.run(command, cwd=web, env=environment, capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr


def test_what_was_typed_wrong_reaches_nobody_else(as_):
    olga = as_("olga")
    olga.edit(1, "set_values", unit="E-103", values={"outlet_temperature": q("-400 degC")})
    assert as_("egon").get().json()["revision"] == 1


def wrong(client, path, **more):
    return client.post(path, {"username": "olga", "password": "wrong", **more}, content_type="application/json").status_code


def test_a_person_who_is_tried_from_many_addresses_is_slowed_down_too(people):
    from django.test import Client

    codes = [wrong(Client(REMOTE_ADDR=f"10.0.0.{k}"), "/api/session") for k in range(25)]
    assert codes[:20] == [401] * 20
    assert codes[-1] == 429
    # The way back: a link by mail.
    from django.contrib.auth.tokens import default_token_generator
    from django.utils.encoding import force_bytes
    from django.utils.http import urlsafe_base64_encode

    olga = people["olga"]
    body = {"person": urlsafe_base64_encode(force_bytes(olga.pk)), "token": default_token_generator.make_token(olga), "password": "a-new-long-word"}
    assert Client().post("/api/password/reset", body, content_type="application/json").status_code == 200
    fresh = {"username": "olga", "password": "a-new-long-word"}
    assert Client(REMOTE_ADDR="10.0.1.1").post("/api/session", fresh, content_type="application/json").status_code == 200


def test_an_address_that_tries_many_people_is_slowed_down(people):
    from django.test import Client

    client = Client(REMOTE_ADDR="10.9.9.9")
    codes = [wrong(client, "/api/session", username=f"nobody-{k}") for k in range(55)]
    assert codes[:50] == [401] * 50
    assert codes[-1] == 429


def test_the_admin_is_slowed_down_and_audited_like_the_page(people):
    from accounts.models import AuditEntry
    from django.test import Client

    client = Client(REMOTE_ADDR="10.8.8.8")
    for _ in range(8):
        client.post("/admin/login/", {"username": "olga", "password": "wrong"})
    assert AuditEntry.objects.filter(what="sign-in refused", about="olga").count() == 5
    assert wrong(client, "/api/session") == 429


def test_wrong_old_passwords_are_counted(as_, people):
    olga = as_("olga").client
    body = {"old": "wrong", "new": "another-long-word"}
    codes = [olga.post("/api/password", body, content_type="application/json").status_code for _ in range(7)]
    assert codes[:5] == [422] * 5
    assert codes[-1] == 429


def test_routes_without_a_sign_in_check_where_a_request_comes_from(people):
    from django.test import Client

    strict = Client(enforce_csrf_checks=True)
    body = {"username": "olga", "password": "long-enough-word"}
    assert strict.post("/api/session", body, content_type="application/json").status_code == 403
    assert strict.post("/api/password/forgotten", {"username": "olga"}, content_type="application/json").status_code == 403
    token = strict.get("/api/session").cookies["csrftoken"].value
    assert strict.post("/api/session", body, content_type="application/json", headers={"X-CSRFToken": token}).status_code == 200
