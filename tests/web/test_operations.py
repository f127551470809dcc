"""Limits on requests, the log, help pages, and results that arrive before the calculation is over."""

import io
import json
import logging

import pytest
from api.help import PAGES
from config.middleware import RequestId
from django.conf import settings as django_settings
from pythonjsonlogger.json import JsonFormatter
from runs import worker

from wattaxis import solve

pytestmark = pytest.mark.django_db(transaction=True)


def test_too_many_requests_are_refused_with_the_wait_and_only_for_that_person(as_, settings):
    settings.REQUESTS_A_MINUTE = 5
    olga, egon = as_("olga"), as_("egon")
    statuses = [olga.get("/history").status_code for _ in range(6)]
    assert statuses[:5] in ([200] * 5, [200] * 4 + [429])  # a new minute may begin in between
    refused = [olga.get("/history") for _ in range(6)][-1]
    assert (refused.status_code, "Try again in" in refused.json()["message"]) == (429, True)
    assert egon.get("/history").status_code == 200


def test_every_request_has_a_number_that_the_log_carries(client, caplog):
    with caplog.at_level(logging.INFO, logger="wattaxis.requests"):
        own = client.get("/healthz")
        given = client.get("/healthz", headers={"X-Request-Id": "proxy-17"})
        bad = client.get("/healthz", headers={"X-Request-Id": "x\ny" * 50})
    assert len(own["X-Request-Id"]) == 32
    assert given["X-Request-Id"] == "proxy-17"
    assert "x" not in bad["X-Request-Id"]
    record = caplog.records[1]
    RequestId().filter(record)
    line = json.loads(JsonFormatter("%(levelname)s %(name)s %(message)s %(request_id)s").format(record))
    assert (line["method"], line["path"], line["status"]) == ("GET", "/healthz", 200)
    assert line["milliseconds"] >= 0


@pytest.mark.parametrize("slug", PAGES)
def test_help_pages_are_made_from_the_documentation(as_, slug):
    page = as_("rita").client.get(f"/api/help/{slug}").json()
    first = (django_settings.ROOT / "docs" / f"{slug}.md").read_text().splitlines()[0].removeprefix("# ")
    assert f">{first}</h1>" in page["html"]
    assert "<script" not in page["html"]
    assert {p["slug"] for p in page["pages"]} == set(PAGES)


def test_the_guide_has_the_places_that_pages_open_it_at(as_):
    html = as_("rita").client.get("/api/help/guide").json()["html"]
    assert 'id="chemistry"' in html
    assert 'id="sheet"' in html
    assert as_("rita").client.get("/api/help/settings").status_code == 404


def test_units_are_told_as_they_are_done(monkeypatch, variant):
    """With no pause between messages every unit comes with the streams that it made, before the whole result."""
    from projects.service import latest

    from wattaxis.flowsheet.document import load_data

    said = io.StringIO()
    monkeypatch.setattr(worker, "EVERY", 0.0)
    monkeypatch.setattr(worker, "ANSWERS", said)
    told = worker.Told(variant.id, 1)
    result = solve(load_data(latest(variant).document), progress=lambda *unit: told.unit(*unit) or True)
    parts = [json.loads(line) for line in said.getvalue().splitlines()]
    assert [p["kind"] for p in parts] == ["partial"] * len(result.units)
    assert {tag for p in parts for tag in p["units"]} == set(result.units)
    assert sorted(tag for p in parts for tag in p["streams"]) == sorted(result.streams)
    assert parts[0]["revision"] == 1
