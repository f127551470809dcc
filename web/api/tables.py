"""Tables that people bring: a feed's composition from a CSV or XLSX file or from pasted text."""

from __future__ import annotations

from typing import Any

from api import schemas
from api.access import member
from django.http import HttpRequest
from ninja import File, Router
from ninja.errors import HttpError
from ninja.files import UploadedFile
from projects.service import latest
from runs.reading import readers

from wattaxis.exchange.tables import LARGEST

router = Router()


@router.post("variants/{id:variant_id}/feed-table", response=schemas.FeedTableOut)
def read_feed_table(request: HttpRequest, variant_id: int, file: File[UploadedFile]) -> dict[str, Any]:
    """What a table says of a feed; nothing is changed, the page makes the edit."""
    variant, _ = member(request, variant_id, "editor")
    if file.size is None or file.size > LARGEST:
        raise HttpError(422, f"The file is larger than {LARGEST // 1_000_000} MB.")
    found = readers.read(file.read(), kind="feed", document=latest(variant).document)
    if "text" in found:
        raise HttpError(422, found["text"])
    return found
