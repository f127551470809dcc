"""Passwords, wherever they are typed: by the page and by Django's admin alike slowed down after failures, and every refusal on record."""

from __future__ import annotations

from typing import Any

from accounts import second_factor
from accounts.audit import record
from accounts.throttle import PasswordAttempts
from django.contrib.auth.backends import ModelBackend
from django.core.exceptions import PermissionDenied
from django.http import HttpRequest

attempts = PasswordAttempts()
#: Set on a request whose password was right, by whoever signs in with a second factor.
CODE_NEEDED = "code_needed"


class SlowedDown(ModelBackend):
    """Django's own, after a look at the failures so far."""

    def authenticate(self, request: HttpRequest | None, username: str | None = None, password: str | None = None, code: str = "", **more: Any) -> Any:
        """The person, or None; the request is marked where a code is wanted, or was wrong.

        Raises PermissionDenied while attempts are not looked at.
        """
        if request is None:
            return super().authenticate(request, username, password, **more)
        name = username or ""
        if attempts.wait(request, name) > 0.0:
            raise PermissionDenied
        found: Any = super().authenticate(request, username, password, **more)
        factor = second_factor.active(found) if found is not None else None
        if factor is not None and not code:
            setattr(request, CODE_NEEDED, True)
            return None
        if found is None or (factor is not None and not second_factor.passes(factor, code)):
            setattr(request, CODE_NEEDED, factor is not None)
            found = None
            attempts.failed(request, name)
            record(request, "sign-in refused", name)
        else:
            attempts.succeeded(request, name)
        return found
