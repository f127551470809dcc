"""A server without a network: Django's test client, people and a project."""

import time

import pytest
from patience import PATIENCE
from plants import demo

from wattaxis.flowsheet.document import to_data


@pytest.fixture(autouse=True)
def _patient(settings):
    """A calculation is not ended on a busy machine, unless a test wants just that."""
    settings.RUN_SECONDS = settings.BEGIN_SECONDS = PATIENCE


@pytest.fixture
def people(django_user_model, settings):
    settings.PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]  # the real one is slow on purpose
    return {name: django_user_model.objects.create_user(name, password="long-enough-word") for name in ("olga", "egon", "rita", "nemo")}


@pytest.fixture
def variant(people):
    """A project of olga (owner), egon (editor) and rita (reader); nemo is outside."""
    from projects.models import Membership
    from projects.service import create_project

    created = create_project("Test plant", people["olga"], to_data(demo()))
    for name, role in (("egon", "editor"), ("rita", "reader")):
        Membership.objects.create(project=created.project, user=people[name], role=role)
    return created


class Person:
    """A signed-in client with the few calls that tests make."""

    def __init__(self, client, variant):
        self.client = client
        self.path = f"/api/variants/{variant.id}"

    def get(self, path=""):
        return self.client.get(self.path + path)

    def edit(self, base, kind, **values):
        body = {"base": base, "edit": {"kind": kind, **values}}
        return self.client.post(self.path + "/edits", body, content_type="application/json")

    def post(self, path, body=None):
        return self.client.post(self.path + path, body, content_type="application/json")

    def result(self, revision, seconds=PATIENCE):
        """Wait for the results of a revision."""
        end = time.monotonic() + seconds
        while time.monotonic() < end:
            answer = self.get().json()["answer"]
            if answer and answer["revision"] >= revision:
                return answer
            time.sleep(0.1)
        raise AssertionError(f"no result of revision {revision} after {seconds} s")


@pytest.fixture
def as_(people, variant, client):
    from django.test import Client

    def sign_in(name):
        own = Client()
        own.force_login(people[name])
        return Person(own, variant)

    return sign_in


@pytest.fixture(autouse=True)
def solvers():
    """Solver processes are shared by the tests; what they keep of a variant is not, since ids repeat."""
    from django.core.cache import cache
    from runs.service import service
    from runs.studies import runs

    cache.clear()
    for variant_id in range(1, 50):
        service.forget(variant_id)
    yield service
    runs.halt()


@pytest.fixture(scope="session", autouse=True)
def end_solvers():
    yield
    from runs.service import service
    from runs.studies import runs

    service.stop()
    runs.close()
