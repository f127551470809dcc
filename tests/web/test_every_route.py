"""Every route of the API that belongs to a project or variant, asked by everybody who must not: made from the API's own description."""

import re

import pytest

pytestmark = pytest.mark.django_db(transaction=True)
#: What a reader may do besides reading: ask for diagrams, what pairs matter and what an aim could free, leave, and take a copy of their own.
READERS_MAY = {
    ("post", "/api/variants/{variant_id}/diagram"),
    ("post", "/api/variants/{variant_id}/influence"),
    ("post", "/api/variants/{variant_id}/assumption-influence"),
    ("post", "/api/variants/{variant_id}/stop"),
    ("post", "/api/variants/{variant_id}/aim-proposals"),
    ("post", "/api/variants/{variant_id}/compression"),
    ("post", "/api/variants/{variant_id}/reaction-look"),
    ("post", "/api/variants/{variant_id}/balance"),
    ("post", "/api/variants/{variant_id}/scaling"),
    ("post", "/api/variants/{variant_id}/conditions"),
    ("post", "/api/variants/{variant_id}/column-study"),
    ("post", "/api/variants/{variant_id}/local-effects"),
    ("post", "/api/variants/{variant_id}/formulas"),
    ("post", "/api/variants/{variant_id}/piece"),
    ("post", "/api/projects/{project_id}/copy"),
    ("delete", "/api/projects/{project_id}/members/{username}"),
}
#: Reading that is for owners alone.
OWNERS_READ = {"/api/variants/{variant_id}/links", "/api/projects/{project_id}/invitations"}


def routes():
    from api.routes import http

    for path, methods in http.get_openapi_schema()["paths"].items():
        if "{variant_id}" in path or "{project_id}" in path:
            yield from ((method, path) for method in methods)


def ask(client, variant, method, path):
    address = re.sub("{variant_id}", str(variant.id), path).replace("{project_id}", str(variant.project_id))
    address = re.sub(r"{username}", "olga", re.sub(r"{\w+_id}|{number}", "1", address))
    address += f"?beside={variant.id}" if path.endswith("/compare") else ""
    address += "?unit=V-101" if path.endswith(("/profiles", "/specifications")) else ""
    body = {"name": "x", "base": 1, "edit": {"kind": "set_title", "title": "x"}, "username": "egon", "role": "reader", "guest": "a@b.invalid"}
    body["generated"] = {"name": "x", "model": "ideal", "first": "a", "second": "b", "pressure": {"value": 1, "unit": "bar"}}
    body["fit"] = {"model": "nrtl", "data": ["x"], "free": [{"first": "a", "second": "b", "name": "b12"}]}
    body |= {"tags": ["V-101"], "piece": {"units": []}}
    wanted = {"pressure": (20, "bar"), "limit": (140, "degC"), "cooled_to": (35, "degC")}
    body |= {"stream": "S-07", **{key: {"value": value, "unit": unit} for key, (value, unit) in wanted.items()}}
    body |= {"amount": {"value": 40, "unit": "t"}, "days": 330}
    body |= {"formula": "S-07.temperature", "formulas": ["S-07.temperature"], "tokens": ["x"], "cells": []}
    body["data"] = {"name": "x", "kind": "vapour pressure", "components": ["a"], "columns": [{"key": "T", "unit": "K"}, {"key": "P", "unit": "Pa"}]}
    body |= {"units": ["V-101"], "conditions": [{}]}
    body |= {"unit": "T-101", "case": 0, "state": "paused"}
    body["reaction"] = {"text": "water = water"}
    body["question"] = {"kind": "pure", "component": "water", "quantity": "vapour pressure"}
    return getattr(client, method)(address, body if method != "get" else None, content_type="application/json").status_code


def test_there_are_routes_to_look_at():
    assert len(list(routes())) > 25


def test_nobody_outside_a_project_reaches_any_of_its_routes(as_, variant, client):
    nemo = as_("nemo").client
    for method, path in routes():
        if path.endswith(("/feed-table", "/data-file")):
            continue  # wants a file before it looks at the person; tested on its own
        assert ask(nemo, variant, method, path) == 404, (method, path)
        assert ask(client, variant, method, path) == 401, (method, path)


def test_readers_read_and_change_nothing(as_, variant):
    rita = as_("rita").client
    for method, path in routes():
        if path.endswith(("/feed-table", "/data-file")) or (method, path) in READERS_MAY:
            continue
        # The unit that is asked for is no column.
        wanted = (403,) if method != "get" or path in OWNERS_READ else (422,) if path.endswith("/specifications") else (200, 409)
        wanted = (404,) if "{answer_id}" in path and method == "get" else wanted  # no study was asked
        assert ask(rita, variant, method, path) in wanted, (method, path)
    assert as_("olga").get().json()["revision"] == 1
