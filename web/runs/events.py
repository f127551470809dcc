"""Events of a variant on their way to the pages that show it. A line is made once however many pages read it, and a result travels as what is
new in it since the one that a page heard before."""

from __future__ import annotations

import asyncio
import json
import threading
from collections import OrderedDict
from functools import cached_property
from typing import Any

from django.conf import settings
from runs.patches import patch


class Event:
    """Something to tell to pages."""

    def __init__(self, data: dict[str, Any]) -> None:
        self.data = data

    @cached_property
    def line(self) -> bytes:
        """The whole of it, as it travels."""
        return _line(self.data)

    @property
    def has_result(self) -> bool:
        """Whether it carries results, of a calculation that ended or was stopped."""
        return self.data.get("result") is not None


def _line(data: dict[str, Any]) -> bytes:
    return f"data: {json.dumps(data)}\n\n".encode()


#: For the streams themselves: somebody's rights have changed.
RECHECK = Event({"kind": "recheck"})


class Differences:
    """Results as differences from one that a page has already; each is made once. Used by the event loop alone."""

    def __init__(self) -> None:
        self._kept: OrderedDict[tuple[int, int], tuple[Event, Event, bytes]] = OrderedDict()

    def line(self, known: Event | None, event: Event) -> bytes:
        """The line of an event for a page that heard ``known`` last."""
        if known is None or known is event or not event.has_result:
            return event.line
        key = (id(known), id(event))
        if key not in self._kept:
            steps = {"since": known.data["revision"], "patch": patch(known.data["result"], event.data["result"])}
            line = _line({**{name: value for name, value in event.data.items() if name != "result"}, **steps})
            self._kept[key] = (known, event, min(line, event.line, key=len))
            while len(self._kept) > 6:
                self._kept.popitem(last=False)
        return self._kept[key][2]


class Hearing:
    """What one page has heard so far."""

    def __init__(self, differences: Differences) -> None:
        self._differences = differences
        self._result: Event | None = None

    def line(self, event: Event) -> bytes:
        """The next event for this page."""
        line = self._differences.line(self._result, event)
        if event.has_result:
            self._result = event
        return line


class Broadcaster:
    """Hands events of a variant to every open page of it."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._subscribers: dict[int, set[tuple[asyncio.AbstractEventLoop, asyncio.Queue[Event]]]] = {}
        self.differences = Differences()

    def full(self) -> bool:
        """Whether as many pages listen as may."""
        with self._lock:
            return sum(len(entries) for entries in self._subscribers.values()) >= settings.MOST_PAGES

    def shown(self) -> set[int]:
        """The variants that some page shows."""
        with self._lock:
            return set(self._subscribers)

    def subscribe(self, variant: int) -> asyncio.Queue[Event]:
        """A queue that receives the variant's events; call from the event loop."""
        entry: tuple[asyncio.AbstractEventLoop, asyncio.Queue[Event]] = (asyncio.get_running_loop(), asyncio.Queue(maxsize=200))
        with self._lock:
            self._subscribers.setdefault(variant, set()).add(entry)
        return entry[1]

    def unsubscribe(self, variant: int, events: asyncio.Queue[Event]) -> None:
        """Forget a page that has gone."""
        with self._lock:
            left = {e for e in self._subscribers.pop(variant, set()) if e[1] is not events}
            if left:
                self._subscribers[variant] = left

    def publish(self, variant: int, event: Event) -> None:
        """From any thread. A page that does not keep up loses events and catches up by the next result."""
        with self._lock:
            entries = list(self._subscribers.get(variant, ()))
        self._hand_out(entries, event)

    def recheck(self) -> None:
        """From any thread: every stream looks again whether whoever listens still may."""
        with self._lock:
            entries = [entry for of_one in self._subscribers.values() for entry in of_one]
        self._hand_out(entries, RECHECK)

    @staticmethod
    def _hand_out(entries: list[tuple[asyncio.AbstractEventLoop, asyncio.Queue[Event]]], event: Event) -> None:
        for loop, events in entries:
            if not loop.is_closed():
                loop.call_soon_threadsafe(_offer, events, event)


def _offer(events: asyncio.Queue[Event], event: Event) -> None:
    if event is RECHECK and events.full():
        events.get_nowait()
    if not events.full():
        events.put_nowait(event)
