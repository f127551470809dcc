"""Headers on every answer, and plain words when the CSRF check fails."""

from collections.abc import Awaitable, Callable
from inspect import iscoroutinefunction

from django.http import HttpRequest, HttpResponse, HttpResponseBase, JsonResponse
from django.utils.decorators import sync_and_async_middleware

POLICY = (
    "default-src 'self'; script-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; font-src 'self'; "
    "connect-src 'self'; object-src 'none'; base-uri 'none'; frame-ancestors 'none'; form-action 'self'"
)


@sync_and_async_middleware
def ContentSecurityPolicy(get_response: Callable[[HttpRequest], HttpResponseBase | Awaitable[HttpResponseBase]]) -> Callable:  # noqa: N802
    """Everything is served by ourselves; inline styles are needed for positions on the sheet."""
    if iscoroutinefunction(get_response):

        async def answer(request: HttpRequest) -> HttpResponseBase:
            response = await get_response(request)
            response.headers.setdefault("Content-Security-Policy", POLICY)
            return response

    else:

        def answer(request: HttpRequest) -> HttpResponseBase:
            response = get_response(request)
            response.headers.setdefault("Content-Security-Policy", POLICY)
            return response

    return answer


def csrf_failure(request: HttpRequest, reason: str = "") -> HttpResponse:
    """A stale page rather than an attack, nearly always."""
    return JsonResponse({"message": "This page is out of date. Reload it and try again; nothing is lost."}, status=403)
