"""How long a sign-in lasts: for so long after the last request, and for so long in all."""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import Any

from django.conf import settings
from django.contrib.auth import SESSION_KEY
from django.contrib.auth.signals import user_logged_in
from django.contrib.sessions.backends.base import SessionBase
from django.dispatch import receiver
from django.http import HttpRequest
from django.utils.deprecation import MiddlewareMixin

BEGUN, SEEN = "begun", "seen"


@receiver(user_logged_in)
def _begin(request: HttpRequest, **_about: Any) -> None:
    request.session[BEGUN] = request.session[SEEN] = time.time()


def over(session: SessionBase) -> bool:
    """Whether a sign-in has lasted its time."""
    if SESSION_KEY not in session:
        return False
    now = time.time()
    return bool(now - session.get(BEGUN, 0.0) > settings.SESSION_SECONDS or now - session.get(SEEN, 0.0) > settings.IDLE_SECONDS)


class SessionLimits(MiddlewareMixin):
    """Ends what has lasted its time, and notes now and then that somebody is there."""

    get_response: Callable[[HttpRequest], Any]

    def process_request(self, request: HttpRequest) -> None:
        """Before anybody looks who is signed in."""
        session = request.session
        if SESSION_KEY not in session:
            return
        if over(session):
            session.flush()
        elif time.time() - session.get(SEEN, 0.0) > settings.IDLE_SECONDS / 20:
            session[SEEN] = time.time()
