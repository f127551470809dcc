"""Server-sent events of a variant: other people's revisions, and results as they arrive."""

import asyncio
import json
from collections.abc import AsyncIterator
from typing import Any

from api.access import guest, member
from asgiref.sync import sync_to_async
from django.http import HttpRequest, HttpResponse, StreamingHttpResponse
from ninja.errors import HttpError
from runs.service import service

HEARTBEAT = 15.0


async def events(request: HttpRequest, variant_id: int) -> HttpResponse | StreamingHttpResponse:
    """An endless stream; the newest answer comes first, so that a page that reconnects catches up."""
    request.user = await request.auser()
    if not (request.user.is_authenticated or await sync_to_async(guest)(request)):
        return HttpResponse("Sign in first.", status=401)
    if service.events.full():
        return HttpResponse("Too many pages are open; close some and reload.", status=503)
    try:
        await sync_to_async(member)(request, variant_id)
    except HttpError as error:
        return HttpResponse(str(error), status=error.status_code)
    response = StreamingHttpResponse(_events(variant_id), content_type="text/event-stream")
    response.headers["Cache-Control"] = "no-store"
    response.headers["X-Accel-Buffering"] = "no"
    return response


async def _events(variant_id: int) -> AsyncIterator[bytes]:
    waiting = service.events.subscribe(variant_id)
    try:
        newest = service.latest(variant_id)
        yield _line(newest) if newest else b": hello\n\n"
        while True:
            try:
                yield _line(await asyncio.wait_for(waiting.get(), HEARTBEAT))
            except TimeoutError:
                yield b": still here\n\n"
    finally:
        service.events.unsubscribe(variant_id, waiting)


def _line(event: dict[str, Any]) -> bytes:
    return f"data: {json.dumps(event)}\n\n".encode()
