"""The HTTP interface. Thin: it permits, stores, calls the core and hands out its answers."""

from __future__ import annotations

from typing import Any

from accounts.audit import record
from accounts.throttle import SignInThrottle
from api import schemas
from api.access import member
from api.catalogue import catalogue, component_data
from api.people import router as people
from django.contrib.auth import authenticate, login, logout
from django.db.models import Max
from django.http import HttpRequest, HttpResponse
from django.utils.text import slugify
from django.views.decorators.csrf import ensure_csrf_cookie
from ninja import File, NinjaAPI, Status
from ninja.decorators import decorate_view
from ninja.errors import HttpError
from ninja.errors import ValidationError as BadRequest
from ninja.files import UploadedFile
from ninja.security import django_auth
from projects import service as editing
from projects.models import Membership, Revision, Variant
from runs.service import service as solving

from wattaxis.exchange import stream_csv, stream_xlsx
from wattaxis.flowsheet import Chemistry, Document, DocumentError, EditError, dump, json_schema, load, pair_table
from wattaxis.flowsheet.document import LARGEST, load_data
from wattaxis.quantities import KINDS, QuantityError, parse, to_si
from wattaxis.quantities.quantity import dimension_si
from wattaxis.substances import component, search

api = NinjaAPI(title="Wattaxis", version="1", auth=django_auth, docs_url=None, openapi_url=None)
throttle = SignInThrottle()
api.add_router("", people)


@api.exception_handler(EditError)
def _edit_error(request: HttpRequest, error: EditError) -> HttpResponse:
    return api.create_response(request, {"message": str(error)}, status=422)


@api.exception_handler(DocumentError)
def _document_error(request: HttpRequest, error: DocumentError) -> HttpResponse:
    return api.create_response(request, {"message": str(error)}, status=422)


@api.exception_handler(HttpError)
def _http_error(request: HttpRequest, error: HttpError) -> HttpResponse:
    return api.create_response(request, {"message": str(error)}, status=error.status_code)


@api.exception_handler(BadRequest)
def _bad_request(request: HttpRequest, error: BadRequest) -> HttpResponse:
    first = error.errors[0]
    place = ".".join(str(p) for p in first.get("loc", ())[2:])
    return api.create_response(request, {"message": f"{place}: {first.get('msg', 'not understood')}".lstrip(": ")}, status=422)


@api.exception_handler(editing.Quarrel)
def _quarrel(request: HttpRequest, error: editing.Quarrel) -> HttpResponse:
    variant = error.newer.variant
    body = {
        "message": f"{error} The newer state is shown; type your change again if it should stand.",
        "label": error.newer.label,
        "author": _name(error.newer.author),
        "variant": schemas.VariantOut.model_validate(_variant(variant, member(request, variant.id)[1], request)).model_dump(mode="json"),
    }
    return api.create_response(request, body, status=409)


def _name(user: Any) -> str:
    return user.get_username() if user else "someone who left"


# People -------------------------------------------------------------------------------------------------------------------


@api.get("session", auth=None, response=schemas.SessionOut)
@decorate_view(ensure_csrf_cookie)
def get_session(request: HttpRequest) -> dict[str, Any]:
    """Who is signed in."""
    user = request.user
    return {"person": {"username": user.get_username(), "staff": user.is_staff} if user.is_authenticated else None}


@api.post("session", auth=None, response={200: schemas.SessionOut, 401: schemas.Message, 429: schemas.Message})
def sign_in(request: HttpRequest, body: schemas.SignIn) -> Any:
    """Sign in; repeated failures are slowed down."""
    who = f"{request.META.get('REMOTE_ADDR', '')}|{body.username[:150].lower()}"
    wait = throttle.wait(who)
    if wait > 0:
        return Status(429, {"message": f"Too many failed attempts. Try again in {wait:.0f} s."})
    user = authenticate(request, username=body.username, password=body.password)
    if user is None:
        throttle.failed(who)
        record(request, "sign-in refused", body.username)
        return Status(401, {"message": "This name and password do not fit together."})
    throttle.succeeded(who)
    login(request, user)
    record(request, "signed in")
    return {"person": {"username": user.get_username(), "staff": user.is_staff}}


@api.delete("session", response=schemas.SessionOut)
def sign_out(request: HttpRequest) -> dict[str, Any]:
    """Sign out."""
    record(request, "signed out")
    logout(request)
    return {"person": None}


# Projects -----------------------------------------------------------------------------------------------------------------


@api.get("projects", response=list[schemas.ProjectOut])
def list_projects(request: HttpRequest, archived: bool = False) -> list[dict[str, Any]]:
    """The person's projects with their variants; archived ones on request."""
    memberships = (
        Membership.objects.filter(user=request.user, project__archived=archived, project__deleted=None)
        .select_related("project")
        .order_by("project__name")
    )
    return [_project(m) for m in memberships]


def _project(membership: Membership) -> dict[str, Any]:
    variants = []
    for variant in membership.project.variants.annotate(top=Max("revisions__number")).order_by("id"):
        newest = Revision.objects.get(variant=variant, number=variant.top)
        size = len(newest.document.get("units", []))
        variants.append({"id": variant.id, "name": variant.name, "units": size, "revision": variant.top, "changed": newest.created})
    return {"id": membership.project_id, "name": membership.project.name, "role": membership.role, "variants": variants}


@api.post("projects", response={201: schemas.VariantOut, 422: schemas.Message})
def create_project(request: HttpRequest, body: schemas.ProjectIn) -> Any:
    """A new project with an empty sheet."""
    name = body.name.strip()
    if not 1 <= len(name) <= 120:
        raise HttpError(422, "A project needs a name of at most 120 characters.")
    variant = editing.create_project(name, request.user, Document(title=name))
    return Status(201, _variant(variant, "owner", request))


@api.post("projects/upload", response={201: schemas.VariantOut, 422: schemas.Message})
def upload_project(request: HttpRequest, file: File[UploadedFile]) -> Any:
    """A new project from a flowsheet document."""
    if file.size is None or file.size > LARGEST:
        raise HttpError(422, f"The file is larger than {LARGEST // 1_000_000} MB.")
    document = load(file.read())
    variant = editing.create_project(document.title[:120] or "Uploaded plant", request.user, document)
    return Status(201, _variant(variant, "owner", request))


# Variants -----------------------------------------------------------------------------------------------------------------


def _variant(variant: Variant, role: str, request: HttpRequest) -> dict[str, Any]:
    newest = editing.latest(variant)
    solving.request(variant.id, newest.number, newest.document)
    steps = editing.steps(variant, request.user)
    answer = solving.latest(variant.id)
    return {
        "id": variant.id,
        "name": variant.name,
        "project": variant.project.name,
        "role": role,
        "revision": newest.number,
        "document": newest.document,
        "undo": steps.undo.label if steps.undo else None,
        "redo": (steps.redo.undoes.label if steps.redo.undoes else steps.redo.label) if steps.redo else None,
        "pairs": pair_table(Chemistry.model_validate(newest.document["chemistry"])),
        "answer": answer,
    }


@api.get("variants/{int:variant_id}", response=schemas.VariantOut)
def get_variant(request: HttpRequest, variant_id: int) -> dict[str, Any]:
    """Document, results so far, what can be undone."""
    variant, role = member(request, variant_id)
    return _variant(variant, role, request)


@api.post("variants/{int:variant_id}/edits", response={200: schemas.VariantOut, 409: schemas.QuarrelOut, 422: schemas.Message})
def post_edit(request: HttpRequest, variant_id: int, body: schemas.EditIn) -> dict[str, Any]:
    """Apply an editing operation; the calculation starts by itself."""
    variant, role = member(request, variant_id, "editor")
    revision = editing.submit(variant, request.user, body.base, body.edit)
    return _edited(request, variant, role, revision)


@api.post("variants/{int:variant_id}/undo", response={200: schemas.VariantOut, 422: schemas.Message})
def post_undo(request: HttpRequest, variant_id: int) -> dict[str, Any]:
    """Take back the person's last edit."""
    variant, role = member(request, variant_id, "editor")
    return _edited(request, variant, role, editing.undo(variant, request.user))


@api.post("variants/{int:variant_id}/redo", response={200: schemas.VariantOut, 422: schemas.Message})
def post_redo(request: HttpRequest, variant_id: int) -> dict[str, Any]:
    """Bring back the person's last undone edit."""
    variant, role = member(request, variant_id, "editor")
    return _edited(request, variant, role, editing.redo(variant, request.user))


@api.post("variants/{int:variant_id}/back/{int:number}", response={200: schemas.VariantOut, 422: schemas.Message})
def post_back(request: HttpRequest, variant_id: int, number: int) -> dict[str, Any]:
    """Go back to an earlier revision, by a new one."""
    variant, role = member(request, variant_id, "editor")
    return _edited(request, variant, role, editing.go_back(variant, request.user, number))


def _edited(request: HttpRequest, variant: Variant, role: str, revision: Revision) -> dict[str, Any]:
    body = _variant(variant, role, request)
    notice = {"kind": "revision", "revision": revision.number, "label": revision.label, "author": _name(revision.author)}
    solving.events.publish(variant.id, notice)
    return body


@api.get("variants/{int:variant_id}/history", response=list[schemas.HistoryRow])
def get_history(request: HttpRequest, variant_id: int) -> list[dict[str, Any]]:
    """The newest 200 revisions, newest first."""
    variant, _ = member(request, variant_id)
    rows = Revision.objects.filter(variant=variant).defer("document").select_related("author").order_by("-number")[:200]
    return [{"number": r.number, "label": r.label, "author": _name(r.author), "created": r.created} for r in rows]


@api.get("variants/{int:variant_id}/document.json", include_in_schema=False)
def get_document(request: HttpRequest, variant_id: int) -> HttpResponse:
    """The document as a file."""
    variant, _ = member(request, variant_id)
    return _file(dump(load_data(editing.latest(variant).document)).encode(), "application/json", variant, "json")


@api.get("variants/{int:variant_id}/streams.{ending}", include_in_schema=False)
def get_streams(request: HttpRequest, variant_id: int, ending: str) -> HttpResponse:
    """The stream table as a file, calculated for the newest revision."""
    variant, _ = member(request, variant_id)
    document, result = editing.latest(variant), solving.latest(variant.id)
    if ending not in ("csv", "xlsx"):
        raise HttpError(404, "The stream table comes as csv or xlsx.")
    if result is None or result.get("result") is None or result["revision"] != document.number:
        raise HttpError(409, "The results are being calculated; try again in a moment.")
    table = schemas.ResultOut.model_validate(result["result"])
    plant = load_data(document.document)
    if ending == "csv":
        return _file(stream_csv(plant, table).encode("utf-8-sig"), "text/csv; charset=utf-8", variant, "csv")
    sheet = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
    return _file(stream_xlsx(plant, table), sheet, variant, "xlsx")


def _file(content: bytes, content_type: str, variant: Variant, ending: str) -> HttpResponse:
    name = slugify(f"{variant.project.name} {variant.name}") or "plant"
    return HttpResponse(content, content_type=content_type, headers={"Content-Disposition": f'attachment; filename="{name}.{ending}"'})


# Knowledge ----------------------------------------------------------------------------------------------------------------


@api.get("catalogue", response=schemas.CatalogueOut)
def get_catalogue(request: HttpRequest) -> dict[str, Any]:
    """Unit types, kinds of quantity, unit sets, property models."""
    return catalogue()


@api.get("document-schema", response=dict[str, Any])
def get_document_schema(request: HttpRequest) -> dict[str, Any]:
    """The JSON Schema of the flowsheet document."""
    return json_schema()


@api.get("components", response=list[schemas.ComponentOut])
def get_components(request: HttpRequest, q: str = "", limit: int = 12) -> list[dict[str, Any]]:
    """Search the bank by name, synonym, formula or CAS number."""
    return [component_data(c) for c in search(q[:100], max(1, min(limit, 50)))]


@api.get("components/{cas}", response={200: schemas.ComponentOut, 404: schemas.Message})
def get_component(request: HttpRequest, cas: str) -> Any:
    """One component of the bank."""
    try:
        return component_data(component(cas))
    except KeyError as error:
        return Status(404, {"message": str(error.args[0])})


@api.post("quantities/parse", response=schemas.ParseOut)
def parse_quantity(request: HttpRequest, body: schemas.ParseIn) -> dict[str, Any]:
    """How a typed text is understood."""
    if body.kind not in KINDS:
        raise HttpError(422, f"There is no kind of quantity {body.kind[:40]!r}.")
    try:
        quantity = parse(body.text, body.kind, body.default_unit)
    except QuantityError as error:
        return {"ok": False, "message": str(error)}
    return {
        "ok": True,
        "message": "",
        "quantity": quantity.model_dump(),
        "si": to_si(quantity, body.kind),
        "si_unit": dimension_si(quantity, body.kind),
    }
