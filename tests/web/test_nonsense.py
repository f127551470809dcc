"""Nearly right requests to every route, by everybody: no server error, and in the soak no answer that takes long."""

import json
import os
import random
import re
import time

import pytest
from nonsense import Requests
from server import report

pytestmark = pytest.mark.django_db(transaction=True)
REQUESTS = int(os.environ.get("WATTAXIS_NONSENSE", "2000"))
SOAK = "WATTAXIS_REPORT" in os.environ
ROLES = ("outsider", "guest", "reader", "editor", "owner")
#: Passwords are slow on purpose; questions calculate, say how far they have come and can be stopped.
QUESTIONS = "diagram|fit|generated-data|influence|assumption-influence|aim-proposals|compression|compare|estimate|conditions"
QUESTIONS += "|column-study|study-answers|local-effects|formulas"
SLOW = rf"/api/(session|password|second-factor|invitations/.*)|.*/({QUESTIONS})"


class Place:
    """A project with people and a link, brought back to life whenever the requests have spoilt it."""

    def __init__(self, variant, people):
        self.variant, self.people = variant, people
        self.names = []
        self.clients = {}

    def restore(self):
        from api.access import SHARED
        from django.test import Client
        from projects.models import Membership, Project, ShareLink, Variant
        from projects.service import latest

        Project.objects.filter(id=self.variant.project_id).update(deleted=None, archived=False)
        Variant.objects.filter(id=self.variant.id).update(deleted=None)
        Variant.objects.exclude(id=self.variant.id).update(deleted=self.variant.created)
        for name, role in (("olga", "owner"), ("egon", "editor"), ("rita", "reader")):
            Membership.objects.update_or_create(project_id=self.variant.project_id, user=self.people[name], defaults={"role": role})
        link = ShareLink.objects.create(variant=self.variant)
        document = latest(self.variant).document
        parts = document["units"] + document["streams"]
        self.names[:] = ["V-101", "E-103", "S-07"] + [part["tag"] for part in parts] + [c["id"] for c in document["chemistry"]["components"]]
        for role, name in (("owner", "olga"), ("editor", "egon"), ("reader", "rita"), ("outsider", "nemo")):
            self.clients[role] = Client(raise_request_exception=False)
            self.clients[role].force_login(self.people[name])
        self.clients["guest"] = Client(raise_request_exception=False)
        session = self.clients["guest"].session
        session[SHARED] = link.id
        session.save()
        return document

    def ids(self):
        mine = [self.variant.id] * 8 + [self.variant.id + 1]
        return {
            "variant_id": mine,
            "project_id": [self.variant.project_id] * 8 + [self.variant.project_id + 1],
            "number": [1, 2, 3],
            "username": ["egon", "rita", "nemo"],
            "slug": ["guide"],
            "cas": ["78-93-3", "MQ:1vK:x"],
            **{name: [1, 2, 3] for name in ("link_id", "invitation_id", "kit_id")},
        }


def test_thousands_of_nonsense_requests_by_everybody_never_break_the_server(variant, people, settings):
    from api.routes import http

    settings.REQUESTS_A_MINUTE = 10**9
    rng = random.Random(REQUESTS)
    place = Place(variant, people)
    requests = Requests(http.get_openapi_schema(), rng, place.names)
    slow, codes = [(0.0, "")], dict.fromkeys(ROLES, 0)
    for number in range(REQUESTS):
        if number % 50 == 0:
            place.restore()
        role = rng.choice(ROLES)
        method, path, query, body = requests.draw(place.ids())
        if path.endswith("/edits") and isinstance(body, dict) and rng.random() < 0.8:
            body["base"] = 10**6 if rng.random() < 0.05 else rng.randrange(1, 4)
        client, began = place.clients[role], time.perf_counter()
        if method == "get":
            reply = client.get(path, query)
        else:
            address = f"{path}?{'&'.join(f'{k}=1' for k in query)}" if query else path
            reply = getattr(client, method)(address, json.dumps(body), content_type="application/json")
        taken = time.perf_counter() - began
        assert reply.status_code < 500, (number, role, method, path, body, reply.content[:500])
        codes[role] += reply.status_code < 300
        if not re.fullmatch(SLOW, path):
            slow = sorted([*slow, (taken, f"{role} {method} {path} {json.dumps(body)[:200]}")], reverse=True)[:5]
    assert all(codes.values())  # nonsense of which nothing is right would try nothing
    right = ", ".join(f"{role} {count}" for role, count in codes.items())
    report(
        f"{REQUESTS} nonsense requests by outsiders, guests, readers, editors and owners: no server error; slowest {slow[0][0]:.1f} s; done: {right}"
    )
    assert not SOAK or slow[0][0] < 2, slow
