"""Edits that another server made in the same database, told to the pages of this one."""

from __future__ import annotations

import logging
import threading

from django.db import DatabaseError, connection
from django.db.models import Max
from projects.models import Revision, Variant
from projects.service import latest
from runs.events import Event
from runs.service import service

log = logging.getLogger("wattaxis.runs")
#: Seconds between two looks at the database.
EVERY = 0.5


class Watch(threading.Thread):
    """Looks whether anybody has written to the database, and only then what is new of the variants that pages show."""

    def __init__(self) -> None:
        super().__init__(name="watch", daemon=True)
        self._ended = threading.Event()
        self._version = -1
        self._told: dict[int, int] = {}

    def run(self) -> None:
        """Until the server stops. A database that does not answer is asked again."""
        while not self._ended.wait(EVERY):
            try:
                self.look()
            except (DatabaseError, Variant.DoesNotExist):
                log.warning("the database does not answer", exc_info=True)
                connection.close()
                self._version = -1
        connection.close()

    def stop(self) -> None:
        """End it."""
        self._ended.set()
        self.join(timeout=3)

    def look(self) -> None:
        """Tell of revisions that were not told before. A page that has one already does nothing. What nobody calculates any more begins anew."""
        for one in Variant.objects.filter(id__in=service.lost()):
            revision = latest(one)
            service.begin(one.id, revision.number, revision.document)
        shown = service.events.shown()
        with connection.cursor() as cursor:
            cursor.execute("PRAGMA data_version")
            version = cursor.fetchone()[0]
        if version == self._version and shown <= self._told.keys():
            return
        self._version = version
        now = dict(Revision.objects.filter(variant__in=shown).values("variant").annotate(newest=Max("number")).values_list("variant", "newest"))
        for variant, number in now.items():
            if number > self._told.get(variant, number):
                self._tell(variant)
        self._told = now

    def _tell(self, variant: int) -> None:
        revision = latest(Variant.objects.get(id=variant))
        started = service.begin(variant, revision.number, revision.document)
        service.events.here(variant, Event({"kind": "revision", "revision": revision.number, "solving": started}))
