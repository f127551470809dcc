"""What other web processes on the same database tell: events for pages, results, wishes for what happens here."""

from __future__ import annotations

import logging
import threading
import time
from collections.abc import Callable
from typing import Any

from django.db import DatabaseError, connection
from projects.models import Revision, Variant
from projects.service import revision_of
from runs.broker import GONE, broker
from runs.events import Concern, Event
from runs.service import service
from runs.studies import runs as studies

log = logging.getLogger("wattaxis.runs")


class Together(threading.Thread):
    """Hears what is told and acts on it, one thing after the other."""

    def __init__(self) -> None:
        super().__init__(name="together", daemon=True)
        self._ended = threading.Event()

    def run(self) -> None:
        """Until the server stops."""
        looked = time.monotonic()
        while not self._ended.wait(0.02):
            if time.monotonic() - looked > GONE:
                looked = time.monotonic()
                self._resume()
            for message in broker.heard():
                try:
                    self.act(**message)
                except (DatabaseError, Variant.DoesNotExist):
                    log.warning("the database does not answer", exc_info=True)
                    connection.close()
                if self._ended.is_set():
                    break
        connection.close()

    def stop(self) -> None:
        """End it, where it began."""
        self._ended.set()
        if self.is_alive():
            self.join(timeout=3)

    def _resume(self) -> None:
        """Go on with studies of processes that are gone."""
        try:
            studies.resume()
        except DatabaseError:
            log.warning("the database does not answer", exc_info=True)

    def act(self, what: str, **about: Any) -> None:
        """On one thing that was told."""
        acts: dict[str, Callable[..., object]] = {
            "event": self._event,
            "recheck": self._recheck,
            "calculate": self._calculate,
            "result": service.result_elsewhere,
            "halt": service.halt_here,
            "forget": service.forget_here,
            "question": service.stop_question_here,
            "study": studies.stop_here,
        }
        acts[what](**about)

    def _event(self, variant: int, data: dict[str, Any]) -> None:
        service.events.here(variant, Event(data))

    def _recheck(self, variants: list[int], person: int | None, session: str | None) -> None:
        service.events.recheck_here(Concern(frozenset(variants), person, session))

    def _calculate(self, home: str, variant: int, revision: int) -> None:
        if home != broker.here:
            return
        found: Revision | None = revision_of(Variant.objects.get(id=variant), revision)
        if found is not None:
            service.calculate_for_others(variant, revision, found.document)
