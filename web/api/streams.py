"""Server-sent events of a variant: other people's revisions, and results as they arrive, for as long as whoever listens may."""

import asyncio
from collections.abc import AsyncIterator

from accounts.sessions import over
from api.access import guest, member
from asgiref.sync import sync_to_async
from django.conf import settings
from django.contrib.auth import get_user
from django.http import HttpRequest, HttpResponse, StreamingHttpResponse
from django.utils.module_loading import import_string
from ninja.errors import HttpError
from runs.events import RECHECK, Hearing
from runs.service import service

#: Seconds between signs of life, and after how many of them rights are looked at that another server may have changed.
HEARTBEAT, RECHECKED = 15.0, 4
_Session = import_string(f"{settings.SESSION_ENGINE}.SessionStore")


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
    person = request.user.pk if request.user.is_authenticated else None
    response = StreamingHttpResponse(_events(variant_id, request.session.session_key, person), content_type="text/event-stream")
    response.headers["Cache-Control"] = "no-store"
    response.headers["X-Accel-Buffering"] = "no"
    return response


async def _events(variant_id: int, session: str | None, person: int | None) -> AsyncIterator[bytes]:
    page = service.events.subscribe(variant_id, session, person)
    try:
        heard, beats = Hearing(service.events.differences), 0
        newest = service.newest(variant_id)
        yield heard.line(newest) if newest else b": hello\n\n"
        while True:
            try:
                event = await asyncio.wait_for(page.events.get(), HEARTBEAT)
            except TimeoutError:
                beats += 1
                if beats % RECHECKED:
                    yield b": still here\n\n"
                    continue
                event = RECHECK
            if event is not RECHECK:
                yield heard.line(event)
            elif await sync_to_async(_still_may)(variant_id, session):
                yield b": still here\n\n"
            else:
                return
    finally:
        service.events.unsubscribe(variant_id, page)


def _still_may(variant_id: int, session: str | None) -> bool:
    """Whether the session lives, with the same password, and may read the variant: asked of the database anew."""
    anew = HttpRequest()
    anew.session = _Session(session)
    anew.user = get_user(anew)
    if over(anew.session):
        return False
    try:
        member(anew, variant_id)
    except HttpError:
        return False
    return True
