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

        for model in (Membership, Project, ShareLink, User, Variant):
            post_save.connect(_rights_changed, sender=model)
            post_delete.connect(_rights_changed, sender=model)
        post_delete.connect(_rights_changed, sender=Session)


def _rights_changed(update_fields: Any = None, **_about: Any) -> None:
    from django.db import transaction
    from runs.service import service

    if update_fields is None or set(update_fields) != {"last_login"}:
        transaction.on_commit(service.events.recheck)
