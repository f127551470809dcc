"""Events of a variant on their way to the pages that show it. A line is made once however many pages read it, and a result travels as what is
new in it since the one that a page heard before."""

from __future__ import annotations

import asyncio
import json
import threading
from collections import OrderedDict
from dataclasses import dataclass
from functools import cached_property
from typing import Any

from django.conf import settings
from runs.broker import broker
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


@dataclass(frozen=True, eq=False)
class Page:
    """A page that listens: where its events go, and by which sign-in it may."""

    loop: asyncio.AbstractEventLoop
    events: asyncio.Queue[Event]
    session: str | None = None
    person: int | None = None

    def offer(self, event: Event) -> None:
        """From any thread."""
        if not self.loop.is_closed():
            self.loop.call_soon_threadsafe(_offer, self.events, event)


def _offer(events: asyncio.Queue[Event], event: Event) -> None:
    if event is RECHECK and events.full():
        events.get_nowait()
    if not events.full():
        events.put_nowait(event)


@dataclass(frozen=True)
class Concern:
    """Whom a change of rights concerns: pages of some variants, of a person, of a sign-in."""

    variants: frozenset[int] = frozenset()
    person: int | None = None
    session: str | None = None

    def of(self, variant: int, page: Page) -> bool:
        """Whether it concerns a page."""
        mine = self.person is not None and page.person == self.person
        return variant in self.variants or mine or (self.session is not None and page.session == self.session)


class Broadcaster:
    """Hands events of a variant to every open page of it, of this process and of others."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._pages: dict[int, set[Page]] = {}
        self.differences = Differences()

    def full(self) -> bool:
        """Whether as many pages listen as may."""
        with self._lock:
            return sum(len(pages) for pages in self._pages.values()) >= settings.MOST_PAGES

    def shown(self) -> set[int]:
        """The variants that some page shows."""
        with self._lock:
            return set(self._pages)

    def subscribe(self, variant: int, session: str | None = None, person: int | None = None) -> Page:
        """A page that receives the variant's events; call from the event loop."""
        page = Page(asyncio.get_running_loop(), asyncio.Queue(maxsize=200), session, person)
        with self._lock:
            self._pages.setdefault(variant, set()).add(page)
        return page

    def unsubscribe(self, variant: int, page: Page) -> None:
        """Forget a page that has gone."""
        with self._lock:
            left = self._pages.pop(variant, set()) - {page}
            if left:
                self._pages[variant] = left

    def publish(self, variant: int, event: Event) -> None:
        """From any thread. A page that does not keep up loses events and catches up by the next result."""
        self.here(variant, event)
        broker.tell(what="event", variant=variant, data=event.data)

    def here(self, variant: int, event: Event) -> None:
        """To the pages of this process alone."""
        with self._lock:
            pages = list(self._pages.get(variant, ()))
        for page in pages:
            page.offer(event)

    def recheck(self, concern: Concern) -> None:
        """From any thread: the pages that are concerned look again whether they still may."""
        self.recheck_here(concern)
        broker.tell(what="recheck", variants=sorted(concern.variants), person=concern.person, session=concern.session)

    def recheck_here(self, concern: Concern) -> None:
        """Those of this process alone."""
        with self._lock:
            pages = [page for variant, of_one in self._pages.items() for page in of_one if concern.of(variant, page)]
        for page in pages:
            page.offer(RECHECK)
