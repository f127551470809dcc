"""Passwords, wherever they are typed: by the page and by Django's admin alike slowed down after failures, and every refusal on record."""

from __future__ import annotations

from typing import Any

from accounts.audit import record
from accounts.throttle import PasswordAttempts
from django.contrib.auth.backends import ModelBackend
from django.core.exceptions import PermissionDenied
from django.http import HttpRequest

attempts = PasswordAttempts()


class SlowedDown(ModelBackend):
    """Django's own, after a look at the failures so far."""

    def authenticate(self, request: HttpRequest | None, username: str | None = None, password: str | None = None, **kwargs: Any) -> Any:
        """The person, or None. Raises PermissionDenied while attempts are not looked at."""
        if request is None:
            return super().authenticate(request, username, password, **kwargs)
        name = username or ""
        if attempts.wait(request, name) > 0.0:
            raise PermissionDenied
        found = super().authenticate(request, username, password, **kwargs)
        if found is None:
            attempts.failed(request, name)
            record(request, "sign-in refused", name)
        else:
            attempts.succeeded(request, name)
        return found
