from collections.abc import Callable
from typing import Any

from django.apps import AppConfig


class RunsConfig(AppConfig):
    """Calculations in supervised processes, and their events."""

    name = "runs"

    def ready(self) -> None:
        """Streams of events look again at the rights of whoever listens when these may have changed."""
        from django.contrib.auth.models import User
        from django.contrib.sessions.models import Session
        from django.db.models.signals import post_delete, post_save
        from projects.models import Membership, Project, ShareLink, Variant

        for model, concerned in ((Membership, _project), (Project, _itself), (ShareLink, _shared), (User, _person), (Variant, _one)):
            post_save.connect(_when_changed(concerned), sender=model, weak=False)
            post_delete.connect(_when_changed(concerned), sender=model, weak=False)
        post_delete.connect(_when_changed(_session), sender=Session, weak=False)


def _when_changed(concerned: Callable[[Any], Callable[[int, Any], bool]]) -> Callable[..., None]:
    """What takes nothing away, such as something new or the time of a sign-in, concerns no page."""

    def changed(instance: Any, created: bool = False, update_fields: Any = None, **_about: Any) -> None:
        from django.db import transaction
        from runs.service import service

        if not created and (update_fields is None or set(update_fields) != {"last_login"}):
            pages = concerned(instance)
            transaction.on_commit(lambda: service.events.recheck(pages))

    return changed


def _project(membership: Any) -> Callable[[int, Any], bool]:
    return _itself(membership.project)


def _itself(project: Any) -> Callable[[int, Any], bool]:
    variants = set(project.variants.values_list("id", flat=True)) if project.pk else set()
    return lambda variant, page: variant in variants


def _shared(link: Any) -> Callable[[int, Any], bool]:
    return _one(link.variant)


def _one(changed: Any) -> Callable[[int, Any], bool]:
    number = changed.id
    return lambda variant, page: variant == number


def _person(user: Any) -> Callable[[int, Any], bool]:
    number = user.pk
    return lambda variant, page: page.person == number


def _session(session: Any) -> Callable[[int, Any], bool]:
    key = session.session_key
    return lambda variant, page: page.session == key
