"""The HTTP interface. Thin: it permits, stores, calls the core and hands out its answers."""

from __future__ import annotations

from typing import Annotated, Any

from accounts.audit import record
from accounts.backends import CODE_NEEDED, attempts
from accounts.throttle import RequestLimit
from api import people_schemas, schemas
from api.access import anyone, guest, person, reading
from api.calculated import router as calculated
from api.catalogue import catalogue
from api.comparing import router as comparing
from api.components import router as components
from api.converters import IdConverter
from api.data import router as data
from api.diagrams import router as diagrams
from api.help import PAGES, page_html
from api.kits import router as kits
from api.parser import Body
from api.people import router as people
from api.quantities import router as quantities
from api.reactions import router as reactions
from api.second_factor import router as second_factor
from api.sharing import router as sharing
from api.studies import router as studies
from api.tables import router as tables
from api.variants import Base, author_name, changed_body, title, variant_body
from api.variants import router as variants
from django.contrib.auth import authenticate, login, logout
from django.db.models import F, Func, IntegerField, OuterRef, Q, Subquery, Value
from django.http import HttpRequest, HttpResponse
from django.urls import register_converter
from django.views.decorators.csrf import ensure_csrf_cookie
from ninja import File, NinjaAPI, Query, Status
from ninja.decorators import decorate_view
from ninja.errors import AuthenticationError, HttpError, Throttled
from ninja.errors import ValidationError as BadRequest
from ninja.files import UploadedFile
from ninja.security import django_auth
from projects import service as editing
from projects.models import Membership, Revision, Variant
from runs.reading import readers

from wattaxis.flowsheet import Document, DocumentError, EditError, json_schema
from wattaxis.flowsheet.document import LARGEST, to_data

#: Projects of one page of the list.
PAGE = 50
#: What names are searched for.
Words = Annotated[str, Query(max_length=120)]

register_converter(IdConverter, "id")
http = NinjaAPI(title="Wattaxis", version="1", auth=django_auth, docs_url=None, openapi_url=None, parser=Body(), throttle=[RequestLimit()])
for router in (
    people, second_factor, variants, sharing, tables, components, diagrams, data, calculated, comparing, kits, quantities, reactions, studies,
):  # fmt: skip
    http.add_router("", router)


@http.exception_handler(EditError)
def _edit_error(request: HttpRequest, error: EditError) -> HttpResponse:
    return http.create_response(request, {"message": str(error)}, status=422)


@http.exception_handler(DocumentError)
def _document_error(request: HttpRequest, error: DocumentError) -> HttpResponse:
    return http.create_response(request, {"message": str(error)}, status=422)


@http.exception_handler(HttpError)
def _http_error(request: HttpRequest, error: HttpError) -> HttpResponse:
    error = error.__cause__ if isinstance(error.__cause__, HttpError) else error  # what the parser said of a body
    return http.create_response(request, {"message": str(error)}, status=error.status_code)


@http.exception_handler(AuthenticationError)
def _signed_out(request: HttpRequest, error: AuthenticationError) -> HttpResponse:
    return http.create_response(request, {"message": "You are signed out. Sign in again; what you typed is still here."}, status=401)


@http.exception_handler(Throttled)
def _too_fast(request: HttpRequest, error: Throttled) -> HttpResponse:
    text = f"These are more requests than a person makes. Try again in {error.wait or 60:.0f} s; nothing is lost."
    return http.create_response(request, {"message": text}, status=429)


@http.exception_handler(BadRequest)
def _bad_request(request: HttpRequest, error: BadRequest) -> HttpResponse:
    first = error.errors[0]
    place = ".".join(str(p) for p in first.get("loc", ())[2:])
    return http.create_response(request, {"message": f"{place}: {first.get('msg', 'not understood')}".lstrip(": ")}, status=422)


@http.exception_handler(editing.Quarrel)
def _quarrel(request: HttpRequest, error: editing.Quarrel) -> HttpResponse:
    body = {
        "message": str(error),
        "theirs": error.newer.label,
        "yours": error.yours,
        "author": author_name(error.newer.author),
        "changed": changed_body(error.newer.variant, error.base, request),
    }
    return http.create_response(request, body, status=409)


# People -------------------------------------------------------------------------------------------------------------------


@http.get("session", auth=None, response=people_schemas.SessionOut)
@decorate_view(ensure_csrf_cookie)
def get_session(request: HttpRequest) -> dict[str, Any]:
    """Who is signed in."""
    user = request.user
    link = None if user.is_authenticated else guest(request)
    person = {"username": user.get_username(), "staff": user.is_staff} if user.is_authenticated else None
    return {"person": person, "shared": link.variant_id if link else None}


@http.post("session", auth=anyone, response={200: people_schemas.SessionOut, 401: people_schemas.SignInRefused, 429: schemas.Message})
def sign_in(request: HttpRequest, body: people_schemas.SignIn) -> Any:
    """Sign in; repeated failures are slowed down."""
    wait = attempts.wait(request, body.username)
    if wait > 0:
        return Status(429, {"message": f"Too many failed attempts. Try again in {wait:.0f} s, or set a new password by mail."})
    user = authenticate(request, username=body.username, password=body.password, code=body.code)
    if user is None and getattr(request, CODE_NEEDED, False):
        says = "The code is incorrect, or was used before." if body.code else "Type the code that your device shows now, or a recovery code."
        return Status(401, {"message": says, "code": True})
    if user is None:
        return Status(401, {"message": "User name or password is incorrect."})
    login(request, user)
    record(request, "signed in")
    return {"person": {"username": user.get_username(), "staff": user.is_staff}}


@http.delete("session", response=people_schemas.SessionOut)
def sign_out(request: HttpRequest) -> dict[str, Any]:
    """Sign out."""
    record(request, "signed out")
    logout(request)
    return {"person": None}


# Projects -----------------------------------------------------------------------------------------------------------------


@http.get("projects", response=list[schemas.ProjectOut])
def list_projects(request: HttpRequest, archived: bool = False, q: Words = "", after: Base = 0) -> list[dict[str, Any]]:
    """Fifty of the person's projects with their variants, by name, from the place ``after`` on; archived ones on request.

    With ``q`` those whose name, or a variant's, holds the text.
    """
    memberships = Membership.objects.filter(user=person(request), project__archived=archived, project__deleted=None)
    if q:
        named = Variant.objects.filter(name__icontains=q, deleted=None).values("project")
        memberships = memberships.filter(Q(project__name__icontains=q) | Q(project__in=named))
    found = list(memberships.select_related("project").order_by("project__name", "project_id")[after : after + PAGE])
    variants = _variants([m.project_id for m in found])
    return [{"id": m.project_id, "name": m.project.name, "role": m.role, "variants": variants.get(m.project_id, [])} for m in found]


def _variants(projects: list[int]) -> dict[int, list[dict[str, Any]]]:
    """The living variants of projects, by project, in one query however many there are."""
    newest = Revision.objects.filter(variant=OuterRef("id")).order_by("-number")
    size: Any = Func(F("document"), Value("$.units"), function="json_array_length", output_field=IntegerField())
    rows = Variant.objects.filter(project__in=projects, deleted=None).annotate(
        revision=Subquery(newest.values("number")[:1]),
        changed=Subquery(newest.values("created")[:1]),
        units=Subquery(newest.annotate(size=size).values("size")[:1]),
    )
    found: dict[int, list[dict[str, Any]]] = {}
    for row in rows.order_by("id").values("id", "project_id", "name", "archived", "revision", "changed", "units"):
        variant: dict[str, Any] = dict(row)
        found.setdefault(variant.pop("project_id"), []).append(variant)
    return found


@http.post("projects", response={201: schemas.VariantOut, 422: schemas.Message}, exclude_unset=True)
def create_project(request: HttpRequest, body: schemas.NameIn) -> Any:
    """A new project with an empty sheet."""
    name = title(body.name, "project")
    variant = editing.create_project(name, person(request), to_data(Document(title=name)))
    return Status(201, variant_body(variant, "owner", request))


@http.post("projects/upload", response={201: schemas.VariantOut, 422: schemas.Message}, exclude_unset=True)
def upload_project(request: HttpRequest, file: File[UploadedFile]) -> Any:
    """A new project from a flowsheet document."""
    if file.size is None or file.size > LARGEST:
        raise HttpError(422, f"The file is larger than {LARGEST // 1_000_000} MB.")
    found = readers.read(file.read(), kind="document")
    if "text" in found:
        raise HttpError(422, found["text"])
    name = " ".join(found["title"].split())[:120] or "Uploaded plant"
    variant = editing.create_project(name, person(request), found["document"])
    return Status(201, variant_body(variant, "owner", request))


# Knowledge ----------------------------------------------------------------------------------------------------------------


@http.get("catalogue", response=schemas.CatalogueOut, auth=reading)
def get_catalogue(request: HttpRequest) -> dict[str, Any]:
    """Unit types, kinds of quantity, unit sets, property models."""
    return catalogue()


@http.get("help/{slug}", response={200: schemas.HelpOut, 404: schemas.Message}, auth=reading)
def get_help(request: HttpRequest, slug: str) -> Any:
    """A page of the documentation."""
    if slug not in PAGES:
        return Status(404, {"message": "There is no such page in the documentation."})
    return {"slug": slug, "html": page_html(slug), "pages": [{"slug": s, "title": t} for s, t in PAGES.items()]}


@http.get("document-schema", response=dict[str, Any], auth=reading)
def get_document_schema(request: HttpRequest) -> dict[str, Any]:
    """The JSON Schema of the flowsheet document."""
    return json_schema()
