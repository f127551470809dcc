"""Documents of revisions, read once: a revision never changes, so neither does what was read of it."""

from __future__ import annotations

import json
import threading
from collections import OrderedDict
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from django.db.models import TextField
from django.db.models.functions import Cast
from projects.models import Revision

from wattaxis.flowsheet import Document, migrate
from wattaxis.flowsheet.document import load_data

#: Characters of JSON whose documents are kept in memory, over all variants.
ROOM = 4_000_000


@dataclass
class _Kept:
    data: dict[str, Any]
    size: int
    plant: Document | None = None


class Documents:
    """The documents that were used last, as plain data in today's format and as the core reads them. What is handed out is shared: read it only."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._kept: OrderedDict[tuple[int, datetime], _Kept] = OrderedDict()

    def data(self, revision: Revision) -> dict[str, Any]:
        """The document of a revision as plain data."""
        return self._found(revision).data

    def plant(self, revision: Revision) -> Document:
        """The document of a revision. Raises DocumentError where it cannot be read."""
        found = self._found(revision)
        if found.plant is None:
            found.plant = load_data(found.data)
        return found.plant

    def keep(self, revision: Revision, plant: Document) -> None:
        """Remember what a revision was just made from."""
        self._put(revision, _Kept(revision.document, len(json.dumps(revision.document)), plant))

    def _found(self, revision: Revision) -> _Kept:
        key = _key(revision)
        with self._lock:
            found = self._kept.get(key)
            if found is not None:
                self._kept.move_to_end(key)
                return found
        text = Revision.objects.filter(id=revision.id).annotate(text=Cast("document", TextField())).values_list("text", flat=True).get()
        found = _Kept(migrate(json.loads(text)), len(text))
        self._put(revision, found)
        return found

    def _put(self, revision: Revision, entry: _Kept) -> None:
        with self._lock:
            self._kept[_key(revision)] = entry
            while sum(kept.size for kept in self._kept.values()) > ROOM:
                self._kept.popitem(last=False)


def _key(revision: Revision) -> tuple[int, datetime]:
    """The time beside the number: a transaction that is taken back gives its numbers away again."""
    return revision.id, revision.created


documents = Documents()
