"""What several web processes count together, by Redis; each by itself while that does not answer."""

from __future__ import annotations

import json
import logging
import time
from collections.abc import Callable
from typing import Any

from django.core.cache.backends.locmem import LocMemCache
from django.core.cache.backends.redis import RedisCache
from redis import RedisError

#: Seconds for which Redis is left alone where it did not answer.
QUIET = 2.0
log = logging.getLogger("wattaxis.runs")


def _or_alone(name: str) -> Callable[..., Any]:
    """A method of the shared cache, in whose place that of one's own goes on."""

    def method(self: SharedCache, *arguments: Any, **named: Any) -> Any:
        if time.monotonic() >= self.again:
            try:
                return getattr(RedisCache, name)(self, *arguments, **named)
            except RedisError as error:
                log.warning("Redis does not answer: %s", error)
                self.again = time.monotonic() + QUIET
        if name == "incr":
            self.alone.add(arguments[0], 0)  # it may have been begun in Redis
        return getattr(self.alone, name)(*arguments, **named)

    return method


class Plain:
    """Values as JSON: whoever reaches Redis gets nothing run by them."""

    def dumps(self, value: Any) -> int | bytes:
        """Whole numbers stay such, so that Redis counts them."""
        return value if type(value) is int else json.dumps(value).encode()

    def loads(self, data: bytes) -> Any:
        """What :meth:`dumps` gave; of tuples lists."""
        return json.loads(data)


class SharedCache(RedisCache):
    """The cache of all web processes; a limit is never a reason to refuse everybody."""

    def __init__(self, server: str, params: dict[str, Any]) -> None:
        super().__init__(server, params)
        self.alone = LocMemCache("alone", {})
        #: When Redis is asked again.
        self.again = 0.0

    add, get, set, touch, delete, incr, has_key, clear = map(_or_alone, ("add", "get", "set", "touch", "delete", "incr", "has_key", "clear"))
