"""The newest result of each variant that somebody looked at lately, in memory within bounds."""

from __future__ import annotations

import threading
from collections import OrderedDict
from dataclasses import dataclass
from typing import Any

from runs.events import Event

#: Characters of JSON, as the solvers wrote them, that are kept over all variants.
ROOM = 6_000_000


@dataclass(frozen=True)
class _Kept:
    event: Event
    #: The profiles of the units, which pages ask for unit by unit.
    profiles: dict[str, Any]
    size: int


class Results:
    """Answers by variant; those that were used least lately go first."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._kept: OrderedDict[int, _Kept] = OrderedDict()

    def get(self, variant: int) -> Event | None:
        """The newest answer of a variant, as pages are told of it."""
        with self._lock:
            found = self._kept.get(variant)
            if found is None:
                return None
            self._kept.move_to_end(variant)
            return found.event

    def profiles(self, variant: int, unit: str) -> tuple[int, list[dict[str, Any]]]:
        """The tables of results of a unit in the newest answer, and its revision; 0 where there is none yet."""
        with self._lock:
            found = self._kept.get(variant)
            return (found.event.data["revision"], found.profiles.get(unit, [])) if found else (0, [])

    def whole(self, variant: int) -> tuple[dict[str, Any], dict[str, Any], int] | None:
        """The newest answer of a variant with all its profiles and its size, as :meth:`put` takes it."""
        with self._lock:
            found = self._kept.get(variant)
            return None if found is None else (found.event.data, found.profiles, found.size)

    def put(self, answer: dict[str, Any], profiles: dict[str, Any], size: int) -> tuple[Event, list[int]]:
        """Keep an answer, unless a newer one is there. What pages are told, and the variants whose answers went to make room."""
        variant, event = answer["variant"], Event(answer)
        with self._lock:
            known = self._kept.get(variant)
            if known is not None and known.event.data["revision"] > answer["revision"]:
                return event, []
            self._kept[variant] = _Kept(event, profiles, size)
            self._kept.move_to_end(variant)
            gone = []
            while len(self._kept) > 1 and sum(kept.size for kept in self._kept.values()) > ROOM:
                gone.append(self._kept.popitem(last=False)[0])
            return event, gone

    def forget(self, variant: int) -> None:
        """Drop the answer of a variant."""
        with self._lock:
            self._kept.pop(variant, None)
