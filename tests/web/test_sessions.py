"""How long a sign-in lasts, and the second factor: codes count once, recovery codes stand in, wrong ones are slowed down."""

import time

import pyotp
import pytest
from django.test import Client

pytestmark = pytest.mark.django_db(transaction=True)
JSON = {"content_type": "application/json"}
PASSWORD = "long-enough-word"


NOW = time.time


def later(monkeypatch, seconds):
    monkeypatch.setattr("accounts.sessions.time.time", lambda: NOW() + seconds)


@pytest.mark.parametrize(("wait", "status"), [(50, 200), (70, 401)])
def test_a_sign_in_ends_when_nobody_has_been_there(as_, settings, monkeypatch, wait, status):
    settings.IDLE_SECONDS, settings.SESSION_SECONDS = 60, 3600
    olga = as_("olga")
    later(monkeypatch, wait)
    assert olga.get().status_code == status
    later(monkeypatch, 2 * wait)  # the request before was a sign of life
    assert olga.get().status_code == status


def test_a_sign_in_ends_after_its_time_however_busy_somebody_is(as_, settings, monkeypatch):
    settings.IDLE_SECONDS, settings.SESSION_SECONDS = 60, 230
    olga = as_("olga")
    codes = []
    for step in range(6):
        later(monkeypatch, 50 * step)
        codes.append(olga.get().status_code)
    assert codes == [200] * 5 + [401]
    assert "Sign in again" in olga.get().json()["message"]


def test_a_stream_ends_with_its_sign_in(as_, variant, settings, monkeypatch):
    from api.streams import _still_may

    olga = as_("olga")
    key = olga.client.session.session_key
    settings.IDLE_SECONDS, settings.SESSION_SECONDS = 60, 3600
    assert _still_may(variant.id, key)
    later(monkeypatch, 100)
    assert not _still_may(variant.id, key)


def sign_in(code=""):
    return Client().post("/api/session", {"username": "olga", "password": PASSWORD, "code": code}, **JSON)


@pytest.fixture
def device(as_, monkeypatch):
    """A person's device, its clock, and their recovery codes."""
    client = as_("olga").client
    assert client.post("/api/second-factor", {"password": "wrong"}, **JSON).status_code == 422
    begun = client.post("/api/second-factor", {"password": PASSWORD}, **JSON).json()
    assert begun["address"].startswith("otpauth://totp/Wattaxis:olga?secret=")
    assert begun["picture"].startswith("data:image/svg+xml")
    assert sign_in().status_code == 200  # nothing has changed yet
    now = [1_800_000_000.0]
    monkeypatch.setattr("accounts.second_factor.span", lambda: int(now[0]) // 30)
    totp = pyotp.TOTP(begun["secret"])
    assert client.post("/api/second-factor/confirm", {"code": totp.at(now[0] - 90)}, **JSON).status_code == 422
    codes = client.post("/api/second-factor/confirm", {"code": totp.at(now[0])}, **JSON).json()["codes"]
    assert (len(set(codes)), client.get("/api/second-factor").json()) == (8, {"active": True, "left": 8})
    return totp, now, codes


def test_a_code_is_wanted_and_counts_once(device):
    totp, now, _ = device
    asked = sign_in()
    assert (asked.status_code, asked.json()["code"]) == (401, True)
    assert sign_in(totp.at(now[0])).status_code == 401  # confirmed with it
    now[0] += 30
    assert sign_in(f" {totp.at(now[0])[:3]} {totp.at(now[0])[3:]} ").status_code == 200
    assert sign_in(totp.at(now[0])).status_code == 401
    assert sign_in(totp.at(now[0] + 30)).status_code == 200  # a clock that is fast
    assert sign_in(totp.at(now[0])).status_code == 401  # older than one that was used
    now[0] += 300
    assert sign_in(totp.at(now[0] - 60)).status_code == 401


def test_recovery_codes_stand_in_once_and_removing_wants_the_password(device, as_):
    _, _, codes = device
    assert [sign_in(code).status_code for code in (codes[0], codes[0], codes[1].upper(), "")] == [200, 401, 200, 401]
    client = as_("olga").client
    assert client.get("/api/second-factor").json() == {"active": True, "left": 6}
    assert client.post("/api/second-factor", {"password": PASSWORD}, **JSON).status_code == 422
    assert client.post("/api/second-factor/remove", {"password": "wrong"}, **JSON).status_code == 422
    assert client.post("/api/second-factor/remove", {"password": PASSWORD}, **JSON).status_code == 200
    assert sign_in().status_code == 200


def test_guessing_codes_is_slowed_down_and_the_admin_lets_nobody_in_without(device, people):
    from accounts.models import AuditEntry

    codes = [sign_in(f"{k:06d}").status_code for k in range(7)]
    refused = codes.count(401)
    assert 3 <= refused <= 5  # setting it up took a wrong code already
    assert codes == [401] * refused + [429] * (7 - refused)
    assert AuditEntry.objects.filter(what="sign-in refused", about="olga").count() == refused
    people["egon"].is_staff = True
    people["egon"].save()
    people["olga"].is_staff = True
    people["olga"].save()
    admin = Client(REMOTE_ADDR="10.7.7.7")
    assert admin.post("/admin/login/", {"username": "olga", "password": PASSWORD}).status_code == 200  # the form again
    assert admin.post("/admin/login/", {"username": "egon", "password": PASSWORD}).status_code == 302
