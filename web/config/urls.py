"""Routes: the API, the admin, and the front end for everything else."""

from api.routes import http
from api.streams import events
from django.conf import settings
from django.contrib import admin
from django.http import HttpRequest, HttpResponse
from django.urls import path, re_path
from django.views.decorators.csrf import ensure_csrf_cookie

MISSING = "<!doctype html><title>Wattaxis</title><p>The front end is not built yet: run <code>make demo</code>."


@ensure_csrf_cookie
def page(request: HttpRequest) -> HttpResponse:
    """The single page; its routes are resolved in the browser."""
    index = settings.FRONTEND / "index.html"
    return HttpResponse(index.read_bytes() if index.is_file() else MISSING)


def health(request: HttpRequest) -> HttpResponse:
    """Alive, database reachable."""
    from django.db import connection

    with connection.cursor() as cursor:
        cursor.execute("SELECT 1")
    return HttpResponse("ok", content_type="text/plain")


handler500 = "config.storage.server_error"
urlpatterns = [
    path("api/variants/<id:variant_id>/events", events),
    path("api/", http.urls),
    path("admin/", admin.site.urls),
    path("healthz", health),
    re_path(r"^(?!api/|static/|assets/|admin/).*$", page),
]
