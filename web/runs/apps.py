from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, Any

from django.apps import AppConfig

if TYPE_CHECKING:
    from runs.events import Concern


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


def _when_changed(concerned: Callable[[Any], Concern]) -> Callable[..., None]:
    """What takes nothing away, such as something new or the time of a sign-in, concerns no page."""

    def changed(instance: Any, created: bool = False, update_fields: Any = None, **_about: Any) -> None:
        from django.db import transaction
        from runs.service import service

        if not created and (update_fields is None or set(update_fields) != {"last_login"}):
            concern = concerned(instance)
            transaction.on_commit(lambda: service.events.recheck(concern))

    return changed


def _concern(**about: Any) -> Concern:
    from runs.events import Concern

    return Concern(**about)


def _project(membership: Any) -> Concern:
    return _itself(membership.project)


def _itself(project: Any) -> Concern:
    return _concern(variants=frozenset(project.variants.values_list("id", flat=True)) if project.pk else frozenset())


def _shared(link: Any) -> Concern:
    return _one(link.variant)


def _one(changed: Any) -> Concern:
    return _concern(variants=frozenset([changed.id]))


def _person(user: Any) -> Concern:
    return _concern(person=user.pk)


def _session(session: Any) -> Concern:
    return _concern(session=session.session_key)
