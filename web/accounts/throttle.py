"""Slows down repeated failed sign-ins of one name from one address."""

import time

from django.core.cache import cache

FREE_ATTEMPTS = 5
LONGEST = 300.0
KEPT = 3600


class SignInThrottle:
    """After five failures every further one doubles the wait, up to five minutes."""

    def wait(self, who: str) -> float:
        """Seconds until the next attempt is looked at."""
        _, until = cache.get(self._key(who), (0, 0.0))
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
