"""What is said when the database cannot be written or read: on a page that asks, and before the server starts."""

import os
import sys
import tempfile
from pathlib import Path

from config.middleware import request_id
from django.conf import settings
from django.db import DatabaseError, connection, transaction
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.utils.html import escape

#: By words of SQLite's own messages: the status of the answer and the sentence.
TROUBLES = (
    ("is full", 507, "The disk of the server is full, so nothing can be saved. What you typed is still here: make room on the disk, then try again."),
    ("readonly", 503, "The database of the server can be read but not written. What you typed is still here: make it writable, then try again."),
    ("locked", 503, "The database is busy. What you typed is still here; try again in a moment."),
    ("unable to open", 503, "The database of the server cannot be opened: its file or folder is missing, or may not be read."),
    ("malformed", 503, "The database of the server is damaged: restore a backup (docs/production.md)."),
    ("not a database", 503, "The database of the server is damaged: restore a backup (docs/production.md)."),
    ("no such table", 503, "The database of the server is not set up, or older than the program: run the set-up again."),
    ("disk I/O error", 503, "The disk of the server does not answer as it should, so nothing can be read or saved."),
)


def trouble(error: BaseException | None) -> tuple[int, str]:
    """Status and sentence for an error that nobody foresaw."""
    if isinstance(error, DatabaseError):
        for words, status, sentence in TROUBLES:
            if words in str(error):
                return status, sentence
    return 500, f"An error in the program. It is on record under the number {request_id.get()}; what you typed is still here."


def server_error(request: HttpRequest) -> HttpResponse:
    """The answer to a request that failed."""
    status, sentence = trouble(sys.exc_info()[1])
    if request.path.startswith("/api/"):
        return JsonResponse({"message": sentence}, status=status)
    return HttpResponse(f"<!doctype html><title>Wattaxis</title><p>{escape(sentence)}", status=status)


def problem_at_start() -> str:
    """Why the server could not do its work, or an empty text: its folder and database are written to, and nothing stays of it."""
    try:
        with tempfile.TemporaryFile(dir=settings.VAR) as probe:
            probe.write(b"\0" * 65536)
            probe.flush()
            os.fsync(probe.fileno())
    except OSError as error:
        return f"The folder {settings.VAR} cannot be written ({error.strerror}). Make room or give the right to write, or set WATTAXIS_VAR."
    if not Path(str(settings.DATABASES["default"]["NAME"])).exists():
        return "There is no database yet: run `make demo`, or `manage.py migrate`."
    try:
        with connection.cursor() as cursor:
            cursor.execute("SELECT 1 FROM projects_revision LIMIT 1")
        with transaction.atomic(), connection.cursor() as cursor:
            cursor.execute("CREATE TABLE start_probe (x)")
            transaction.set_rollback(True)
    except DatabaseError as error:
        return trouble(error)[1]
    finally:
        connection.close()
    return ""
