"""Several web processes on one database as one: what one of them knows and does is told to the others by Redis. One alone needs nothing of it."""

from __future__ import annotations

import json
import logging
import time
import uuid
import zlib
from collections.abc import Callable, Iterator
from typing import Any, TypeVar

import redis
from django.conf import settings

log = logging.getLogger("wattaxis.runs")
#: Seconds after which a process that gives no sign of life counts as gone, and for which results are kept.
GONE, KEPT = 5, 3600
#: Seconds that a word to Redis may take, and for which it is left alone where it took longer or failed.
_PATIENCE, QUIET = 2.0, 2.0
_CHANNEL = "wattaxis:told"
T = TypeVar("T")


class Alone:
    """One web process: whatever happens, happens here."""

    #: By what this process is known to others.
    here = uuid.uuid4().hex

    def home(self, what: str) -> str:
        """The process that something belongs to: the first who asks, for as long as it lives."""
        return self.here

    def claim(self, what: str) -> None:
        """Make something belong to this process."""

    def alive(self, process: str) -> bool:
        """Whether a process gives signs of life."""
        return process == self.here

    def tell(self, **message: Any) -> None:
        """Tell all others something. Who is not there does not hear it."""

    def keep(self, name: str, value: Any) -> None:
        """Keep something, as JSON, for all."""

    def kept(self, name: str) -> Any:
        """What is kept, None where nothing is."""
        return None

    def drop(self, name: str) -> None:
        """Keep it no longer."""

    def heard(self) -> Iterator[dict[str, Any]]:
        """What others tell, as it comes, with signs of life in between; ends after a moment of silence."""
        return iter(())


class Broker(Alone):
    """By Redis. Where it does not answer every process goes on as if it were alone."""

    def __init__(self, url: str) -> None:
        self._redis = redis.Redis.from_url(url, socket_timeout=_PATIENCE, socket_connect_timeout=_PATIENCE)
        self._listening: redis.client.PubSub | None = None
        #: When Redis is asked again, after it did not answer: who waits for it at every word is as good as gone.
        self._again = 0.0

    def home(self, what: str) -> str:
        return self._safely(lambda: self._home(f"wattaxis:home:{what}"), self.here)

    def _home(self, key: str) -> str:
        self._live()
        self._redis.set(key, self.here, nx=True)
        found = self._text(key)
        if found is None or not self.alive(found):
            self._redis.set(key, self.here)  # two who do so at once both calculate once, and the last one keeps it
            return self.here
        return found

    def claim(self, what: str) -> None:
        self._safely(lambda: self._redis.set(f"wattaxis:home:{what}", self.here), None)

    def _text(self, key: str) -> str | None:
        found = self._redis.get(key)
        return found.decode() if isinstance(found, bytes) else None

    def _live(self) -> None:
        self._redis.set(f"wattaxis:lives:{self.here}", "1", ex=GONE)

    def alive(self, process: str) -> bool:
        return process == self.here or self._safely(lambda: bool(self._redis.exists(f"wattaxis:lives:{process}")), False)

    def tell(self, **message: Any) -> None:
        self._safely(lambda: self._redis.publish(_CHANNEL, json.dumps({"by": self.here, **message})), 0)

    def keep(self, name: str, value: Any) -> None:
        self._safely(lambda: self._redis.set(f"wattaxis:kept:{name}", zlib.compress(json.dumps(value).encode(), 1), ex=KEPT), None)

    def kept(self, name: str) -> Any:
        found = self._safely(lambda: self._redis.get(f"wattaxis:kept:{name}"), None)
        return json.loads(zlib.decompress(found)) if isinstance(found, bytes) else None

    def drop(self, name: str) -> None:
        self._safely(lambda: self._redis.delete(f"wattaxis:kept:{name}"), 0)

    def heard(self) -> Iterator[dict[str, Any]]:
        try:
            self._live()
            if self._listening is None:
                self._listening = self._redis.pubsub(ignore_subscribe_messages=True)  # type: ignore[no-untyped-call]
                self._listening.subscribe(_CHANNEL)
            while (message := self._listening.get_message(timeout=0.5)) is not None:
                told = json.loads(message["data"])
                if told.pop("by") != self.here:
                    yield told
                self._live()
        except redis.RedisError as error:
            log.warning("Redis does not answer: %s", error)
            self._listening = None
            time.sleep(0.5)

    def _safely(self, ask: Callable[[], T], otherwise: T) -> T:
        if time.monotonic() < self._again:
            return otherwise
        try:
            return ask()
        except redis.RedisError as error:
            log.warning("Redis does not answer: %s", error)
            self._again = time.monotonic() + QUIET
            return otherwise


broker = Broker(settings.BROKER) if settings.BROKER else Alone()
