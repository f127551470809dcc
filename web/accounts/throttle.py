"""Slows down repeated failed attempts, and requests that come faster than any person works."""

import time

from django.conf import settings
from django.core.cache import cache
from django.http import HttpRequest
from ninja.throttling import BaseThrottle

FREE_ATTEMPTS = 5
LONGEST = 300.0
KEPT = 3600
WINDOW = 60


class SignInThrottle:
    """After five failures every further one doubles the wait, up to five minutes."""

    def wait(self, who: str) -> float:
        """Seconds until the next attempt is looked at."""
        until: float = cache.get(self._key(who), (0, 0.0))[1]
        return max(0.0, until - time.time())

    def failed(self, who: str) -> None:
        """Count a failure."""
        count, _ = cache.get(self._key(who), (0, 0.0))
        count += 1
        pause = min(LONGEST, 2.0 ** (count - FREE_ATTEMPTS)) if count >= FREE_ATTEMPTS else 0.0
        cache.set(self._key(who), (count, time.time() + pause), KEPT)

    def succeeded(self, who: str) -> None:
        """Forget the failures."""
        cache.delete(self._key(who))

    @staticmethod
    def _key(who: str) -> str:
        return "sign-in:" + who.encode().hex()[:200]


class RequestLimit(BaseThrottle):
    """At most so many requests a minute of one person, and of one address without a sign-in."""

    def allow_request(self, request: HttpRequest) -> bool:
        """Count the request in the running minute."""
        if request.user.is_authenticated:
            who, most = f"person:{request.user.pk}", settings.REQUESTS_A_MINUTE
        else:
            who, most = f"address:{request.META.get('REMOTE_ADDR', '')}", settings.REQUESTS_A_MINUTE // 4
        key = f"requests:{who}:{int(time.time() // WINDOW)}"
        cache.add(key, 0, 2 * WINDOW)
        return cache.incr(key) <= most

    def wait(self) -> float:
        """Seconds until the next minute begins."""
        return WINDOW - time.time() % WINDOW
