"""The ASGI entry point: Django, with the solver processes started and stopped alongside."""

import asyncio
import contextlib
import os
import threading
from collections.abc import Awaitable, Callable
from importlib import import_module
from typing import Any

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "config.settings")

from django.conf import settings
from django.core.asgi import get_asgi_application

_django = get_asgi_application()

from runs.reading import readers  # noqa: E402  (needs the settings)
from runs.service import service  # noqa: E402
from runs.studies import runs as studies  # noqa: E402
from runs.together import Together  # noqa: E402
from runs.watch import Watch  # noqa: E402


async def application(scope: Any, receive: Callable[[], Awaitable[Any]], send: Callable[[Any], Awaitable[None]]) -> None:
    """Start the solvers with the server and end them with it; hand everything else to Django."""
    if scope["type"] != "lifespan":
        # An open event stream is cancelled when the server stops; that is no error.
        with contextlib.suppress(asyncio.CancelledError):
            await _django(scope, receive, send)
        return
    watch, together = Watch(), Together()
    while True:
        message = await receive()
        if message["type"] == "lifespan.startup":
            import_module(settings.ROOT_URLCONF)  # before the solvers come up, which would take its cores
            service.start()
            watch.start()
            if settings.BROKER:
                together.start()
            threading.Thread(target=studies.resume, daemon=True).start()
            await send({"type": "lifespan.startup.complete"})
        elif message["type"] == "lifespan.shutdown":
            watch.stop()
            together.stop()
            await asyncio.to_thread(studies.close)
            service.stop()
            readers.stop()
            await send({"type": "lifespan.shutdown.complete"})
            return
