"""Headers on every answer, a number and a log line for every request, and plain words when the CSRF check fails."""

import logging
import re
import time
import uuid
from collections.abc import Callable
from contextvars import ContextVar
from inspect import iscoroutinefunction
from typing import Any

from django.http import HttpRequest, HttpResponse, HttpResponseBase, JsonResponse
from django.middleware.gzip import GZipMiddleware
from django.utils.decorators import sync_and_async_middleware

POLICY = (
    "default-src 'self'; script-src 'self'; style-src 'self'; img-src 'self' data:; font-src 'self'; "
    "connect-src 'self'; object-src 'none'; base-uri 'none'; frame-ancestors 'none'; form-action 'self'"
)
#: Of what a browser could grant a page, this one needs the clipboard alone.
NOTHING = "camera=(), display-capture=(), geolocation=(), microphone=(), midi=(), payment=(), serial=(), usb=()"
#: The request that the running code works for; every log line carries it.
request_id: ContextVar[str] = ContextVar("request_id", default="-")
log = logging.getLogger("wattaxis.requests")


class RequestId(logging.Filter):
    """Puts the number of the running request on log lines."""

    def filter(self, record: logging.LogRecord) -> bool:
        """Never holds a line back."""
        record.request_id = request_id.get()
        return True


def _begin(request: HttpRequest) -> float:
    given = request.headers.get("X-Request-Id", "")
    request_id.set(given if re.fullmatch(r"[\w-]{1,64}", given) else uuid.uuid4().hex)
    return time.perf_counter()


def _end(request: HttpRequest, response: HttpResponseBase, started: float) -> HttpResponseBase:
    response.headers.setdefault("Content-Security-Policy", POLICY)
    response.headers.setdefault("Permissions-Policy", NOTHING)
    if request.path.startswith("/api/"):
        response.headers.setdefault("Cache-Control", "no-store")
    response.headers["X-Request-Id"] = request_id.get()
    milliseconds = round(1000 * (time.perf_counter() - started), 1)
    what = {"method": request.method, "path": request.path[:200], "status": response.status_code, "milliseconds": milliseconds}
    log.info("request", extra=what)
    return response


class Compressed(GZipMiddleware):
    """Answers go out compressed; streams of events do not, since each event must leave at once."""

    def process_response(self, request: HttpRequest, response: Any) -> Any:
        """Compress a whole answer."""
        return response if response.streaming else super().process_response(request, response)


@sync_and_async_middleware
def Envelope(get_response: Callable[[HttpRequest], Any]) -> Callable[[HttpRequest], Any]:  # noqa: N802
    """Around everything: request number, log line, content security policy."""
    if iscoroutinefunction(get_response):

        async def answer_later(request: HttpRequest) -> HttpResponseBase:
            started = _begin(request)
            return _end(request, await get_response(request), started)

        return answer_later

    def answer(request: HttpRequest) -> HttpResponseBase:
        started = _begin(request)
        return _end(request, get_response(request), started)

    return answer


def csrf_failure(request: HttpRequest, reason: str = "") -> HttpResponse:
    """A stale page rather than an attack, nearly always."""
    return JsonResponse({"message": "This page is out of date. Reload it and try again; nothing is lost."}, status=403)
