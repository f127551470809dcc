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


def counted(what: str, seconds: int) -> int:
    """How often something has happened in the running span of so many seconds, this time included."""
    key = f"{what}:{int(time.time() // seconds)}"
    cache.add(key, 0, 2 * seconds)
    return int(cache.incr(key))


class SignInThrottle:
    """After so many failures every further one doubles the wait, up to five minutes."""

    def __init__(self, free: int = FREE_ATTEMPTS) -> None:
        self.free = free

    def wait(self, who: str) -> float:
        """Seconds until the next attempt is looked at."""
        until: float = cache.get(self._key(who), (0, 0.0))[1]
        return max(0.0, until - time.time())

    def failed(self, who: str) -> None:
        """Count a failure."""
        count, _ = cache.get(self._key(who), (0, 0.0))
        count += 1
        pause = min(LONGEST, 2.0 ** (count - self.free)) if count >= self.free else 0.0
        cache.set(self._key(who), (count, time.time() + pause), KEPT)

    def succeeded(self, who: str) -> None:
        """Forget the failures."""
        cache.delete(self._key(who))

    @staticmethod
    def _key(who: str) -> str:
        return "sign-in:" + who.encode().hex()[:200]


class PasswordAttempts:
    """Failed passwords are counted for a person at an address, for a person wherever from, and for an address whoever is tried.

    The way back for somebody who is slowed down by others is the link by mail: a password that is set anew forgets what was counted of the person.
    """

    def __init__(self) -> None:
        self._counted = (SignInThrottle(), SignInThrottle(4 * FREE_ATTEMPTS), SignInThrottle(10 * FREE_ATTEMPTS))

    @staticmethod
    def _keys(request: HttpRequest, username: str) -> tuple[str, str, str]:
        name, address = username[:150].lower(), str(request.META.get("REMOTE_ADDR", ""))
        return f"{address}|{name}", f"person|{name}", f"address|{address}"

    def wait(self, request: HttpRequest, username: str) -> float:
        """Seconds until the next attempt is looked at."""
        return max(throttle.wait(key) for throttle, key in zip(self._counted, self._keys(request, username), strict=True))

    def failed(self, request: HttpRequest, username: str) -> None:
        """Count a failure."""
        for throttle, key in zip(self._counted, self._keys(request, username), strict=True):
            throttle.failed(key)

    def succeeded(self, request: HttpRequest, username: str) -> None:
        """Forget the failures of the person; those of the address stay."""
        for throttle, key in list(zip(self._counted, self._keys(request, username), strict=True))[:2]:
            throttle.succeeded(key)


class Allowance:
    """So many of something an hour for a person, whatever becomes of them."""

    def __init__(self, what: str, most: int) -> None:
        self.what, self.most = what, most

    def take(self, who: object) -> bool:
        """One more; false when there are none left this hour."""
        return counted(f"{self.what}:{who}", KEPT) <= self.most


class RequestLimit(BaseThrottle):
    """At most so many requests a minute of one person, and of one address without a sign-in."""

    def allow_request(self, request: HttpRequest) -> bool:
        """Count the request in the running minute."""
        if request.user.is_authenticated:
            who, most = f"person:{request.user.pk}", settings.REQUESTS_A_MINUTE
        else:
            who, most = f"address:{request.META.get('REMOTE_ADDR', '')}", settings.REQUESTS_A_MINUTE // 4
        return counted(f"requests:{who}", WINDOW) <= most

    def wait(self) -> float:
        """Seconds until the next minute begins."""
        return WINDOW - time.time() % WINDOW
