"""Variants: reading, editing, undo and history, files; branching, renaming, archiving, deleting with a way back; copies of projects."""

from __future__ import annotations

import unicodedata
from typing import Annotated, Any

from accounts.audit import record
from api import schemas
from api.access import asker, member, person, project_member, reading
from api.calculated import calculated
from api.catalogue import shapes
from django.http import HttpRequest, HttpResponse
from django.utils import timezone
from django.utils.text import slugify
from ninja import Query, Router, Status
from ninja.errors import HttpError
from projects import service as editing
from projects.documents import documents
from projects.models import Revision, Variant
from runs.events import Event
from runs.patches import patch
from runs.service import service as solving

from wattaxis.exchange import stream_csv, workbook
from wattaxis.flowsheet import dump, pair_table
from wattaxis.flowsheet.guide import guide
from wattaxis.quantities import Quantity, QuantityError
from wattaxis.questions import envelope_balance, scale_to_production

router = Router()
#: The revision that a page knows.
Base = Annotated[int, Query(ge=0, le=2**31 - 1)]
#: What a page knows its question by.
Token = Annotated[str, Query(max_length=40)]


#: Control characters, halves of characters, ends of lines and paragraphs, as Unicode classes them.
_NOT_IN_NAMES = ("Cc", "Cs", "Zl", "Zp")


def title(text: str, what: str) -> str:
    """A name as it is kept. Refuses one that is empty, too long or not of one line that can be written."""
    if not 1 <= len(text.strip()) <= 120:
        raise HttpError(422, f"A {what} needs a name of at most 120 characters.")
    if any(unicodedata.category(character) in _NOT_IN_NAMES for character in text.strip()):
        raise HttpError(422, f"The name of a {what} is one line, without control characters.")
    return text.strip()


def author_name(user: Any) -> str:
    """Who made a revision."""
    return user.get_username() if user else "someone who left"


def variant_body(variant: Variant, role: str, request: HttpRequest) -> dict[str, Any]:
    """Everything that a page needs of a variant; asks for its results when nobody has."""
    newest = editing.latest(variant)
    solving.request(variant.id, newest.number, newest.document)
    return {
        "id": variant.id,
        "name": variant.name,
        "project": variant.project.name,
        "role": role,
        "revision": newest.number,
        **_next_steps(variant, request),
        **state(newest),
        "answer": solving.latest(variant.id),
    }


def state(revision: Revision) -> dict[str, Any]:
    """What a page shows of a revision."""
    return {"document": revision.document, "shapes": shapes(revision.document)}


def changed_body(variant: Variant, base: int, request: HttpRequest) -> dict[str, Any]:
    """What is new since the revision ``base``, which a page knows; all of it where that is none. Asks for results when nobody has."""
    newest = editing.latest(variant)
    solving.request(variant.id, newest.number, newest.document)
    known = editing.revision_of(variant, base)
    found = patch(state(known) if known else None, state(newest))
    return {"base": known.number if known else 0, "revision": newest.number, "patch": found, **_next_steps(variant, request)}


def _next_steps(variant: Variant, request: HttpRequest) -> dict[str, str | None]:
    steps = editing.steps(variant, person(request)) if request.user.is_authenticated else editing.Steps(None, None)
    redo = steps.redo and (steps.redo.undoes or steps.redo)
    return {"undo": steps.undo.label if steps.undo else None, "redo": redo.label if redo else None}


@router.get("variants/{id:variant_id}", response=schemas.VariantOut, exclude_unset=True, auth=reading)
def get_variant(request: HttpRequest, variant_id: int) -> dict[str, Any]:
    """Document, results so far, what can be undone."""
    variant, role = member(request, variant_id)
    return variant_body(variant, role, request)


@router.get("variants/{id:variant_id}/changes", response=schemas.ChangedOut, auth=reading)
def get_changes(request: HttpRequest, variant_id: int, base: Base = 0) -> dict[str, Any]:
    """What has changed since a revision."""
    variant, _ = member(request, variant_id)
    return changed_body(variant, base, request)


@router.get("variants/{id:variant_id}/pairs", response=list[schemas.PairRow], auth=reading)
def get_pairs(request: HttpRequest, variant_id: int) -> list[dict[str, Any]]:
    """Every pair of components with what is known of it, for the page that shows them: their number grows with the square of the components."""
    variant, _ = member(request, variant_id)
    return pair_table(documents.plant(editing.latest(variant)).chemistry)


@router.post("variants/{id:variant_id}/edits", response={200: schemas.ChangedOut, 409: schemas.QuarrelOut, 422: schemas.Message})
def post_edit(request: HttpRequest, variant_id: int, body: schemas.EditIn) -> dict[str, Any]:
    """Apply an editing operation; the calculation starts by itself."""
    variant, _ = member(request, variant_id, "editor")
    return _edited(request, editing.submit(variant, person(request), body.base, body.edit), body.base)


@router.post("variants/{id:variant_id}/undo", response={200: schemas.ChangedOut, 422: schemas.Message})
def post_undo(request: HttpRequest, variant_id: int, base: Base = 0) -> dict[str, Any]:
    """Take back the person's last edit."""
    variant, _ = member(request, variant_id, "editor")
    return _edited(request, editing.undo(variant, person(request)), base)


@router.post("variants/{id:variant_id}/redo", response={200: schemas.ChangedOut, 422: schemas.Message})
def post_redo(request: HttpRequest, variant_id: int, base: Base = 0) -> dict[str, Any]:
    """Bring back the person's last undone edit."""
    variant, _ = member(request, variant_id, "editor")
    return _edited(request, editing.redo(variant, person(request)), base)


@router.post("variants/{id:variant_id}/back/{id:number}", response={200: schemas.ChangedOut, 422: schemas.Message})
def post_back(request: HttpRequest, variant_id: int, number: int, base: Base = 0) -> dict[str, Any]:
    """Go back to an earlier revision, by a new one."""
    variant, _ = member(request, variant_id, "editor")
    return _edited(request, editing.go_back(variant, person(request), number), base)


def _edited(request: HttpRequest, revision: Revision, base: int) -> dict[str, Any]:
    """The answer to an edit. The other pages are told what it changed, so that none of them has to ask."""
    variant, number = revision.variant, revision.number
    before = editing.revision_of(variant, number - 1)
    assert before is not None, "an edit changes something"
    news = {"base": before.number, "patch": patch(state(before), state(revision))}
    started = solving.begin(variant.id, number, revision.document)
    solving.events.publish(variant.id, Event({"kind": "revision", "revision": number, "solving": started, **news}))
    if base != before.number:
        return changed_body(variant, base, request)
    return {"revision": number, **news, **_next_steps(variant, request)}


@router.get("variants/{id:variant_id}/guide", response=schemas.GuideOut, auth=reading)
def get_guide(request: HttpRequest, variant_id: int) -> Any:
    """Which property model suits this chemistry, and why."""
    variant, _ = member(request, variant_id)
    return guide(documents.plant(editing.latest(variant)))


@router.post("variants/{id:variant_id}/estimate", response={200: schemas.EstimatedOut, 422: schemas.Message})
def post_estimate(request: HttpRequest, variant_id: int, alike: bool = False, base: Base = 0, token: Token = "") -> dict[str, Any]:
    """Estimate the pairs that are assumed zero, or with ``alike`` all pairs, as one edit."""
    variant, _ = member(request, variant_id, "editor")
    newest = editing.latest(variant)
    found = solving.ask(variant.id, asker(request), token, chemistry=newest.document["chemistry"], estimate=alike)
    if "edits" not in found:
        raise HttpError(422, found["text"])
    if not found["edits"]:
        raise HttpError(422, " ".join(["No pair can be estimated.", *found["left_out"][:6]]))
    batch = {"kind": "batch", "edits": found["edits"], "label": f"estimated {len(found['edits'])} pairs"}
    revision = editing.submit(variant, person(request), newest.number, batch)
    return {"changed": _edited(request, revision, base), "left_out": found["left_out"]}


@router.get("variants/{id:variant_id}/history", response=list[schemas.HistoryRow], auth=reading)
def get_history(request: HttpRequest, variant_id: int) -> list[dict[str, Any]]:
    """The newest 200 revisions, newest first."""
    variant, _ = member(request, variant_id)
    rows = (
        Revision.objects.filter(variant=variant).only("number", "label", "created", "author__username").select_related("author").order_by("-number")
    )
    return [{"number": r.number, "label": r.label, "author": author_name(r.author), "created": r.created} for r in rows[:200]]


@router.get("variants/{id:variant_id}/document.json", include_in_schema=False, auth=reading)
def get_document(request: HttpRequest, variant_id: int) -> HttpResponse:
    """The document as a file."""
    variant, _ = member(request, variant_id)
    return _file(dump(documents.plant(editing.latest(variant))).encode(), "application/json", variant, "json")


@router.get("variants/{id:variant_id}/streams.{ending}", include_in_schema=False, auth=reading)
def get_streams(request: HttpRequest, variant_id: int, ending: str) -> HttpResponse:
    """The stream table as CSV, or a workbook of streams, units, assumptions and findings; calculated for the newest revision."""
    variant, _ = member(request, variant_id)
    if ending not in ("csv", "xlsx"):
        raise HttpError(404, "The tables come as csv or xlsx.")
    plant, table = calculated(variant)
    if ending == "csv":
        return _file(stream_csv(plant, table).encode("utf-8-sig"), "text/csv; charset=utf-8", variant, "csv")
    sheet = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
    return _file(workbook(plant, table), sheet, variant, "xlsx")


@router.post("variants/{id:variant_id}/balance", response={200: schemas.EnvelopeOut, 422: schemas.Message}, auth=reading)
def balance(request: HttpRequest, variant_id: int, body: schemas.EnvelopeIn) -> Any:
    """Mass, energy, components and elements over the border of some units, or of the whole plant."""
    variant, _ = member(request, variant_id)
    plant, result = calculated(variant)
    try:
        return envelope_balance(plant, result, body.units or None).to_data()
    except ValueError as error:
        return Status(422, {"message": str(error)})


@router.post("variants/{id:variant_id}/scaling", response={200: schemas.ScalingOut, 422: schemas.Message}, auth=reading)
def scaling(request: HttpRequest, variant_id: int, body: schemas.ScalingIn) -> Any:
    """The edits that bring the plant to a yearly production; nothing is changed here."""
    variant, _ = member(request, variant_id)
    plant, result = calculated(variant)
    try:
        amount = Quantity.model_validate(body.amount.model_dump())
        return scale_to_production(plant, result, body.stream, amount, body.days, body.component or None).to_data()
    except (ValueError, QuantityError) as error:
        return Status(422, {"message": str(error)})


def _file(content: bytes, content_type: str, variant: Variant, ending: str) -> HttpResponse:
    name = slugify(f"{variant.project.name} {variant.name}") or "plant"
    return HttpResponse(content, content_type=content_type, headers={"Content-Disposition": f'attachment; filename="{name}.{ending}"'})


# Managing them --------------------------------------------------------------------------------------------------------


def begun(variant: Variant) -> dict[str, Any]:
    """A variant that was begun just now, as it stands in the list."""
    first = editing.latest(variant)
    size = len(first.document.get("units", []))
    return {"id": variant.id, "name": variant.name, "units": size, "revision": 1, "changed": first.created, "archived": False}


@router.post("variants/{id:variant_id}/branch", response={201: schemas.VariantShort})
def branch_variant(request: HttpRequest, variant_id: int, body: schemas.NameIn) -> Any:
    """A new variant that starts from the newest revision of another."""
    variant, _ = member(request, variant_id, "editor")
    return Status(201, begun(editing.branch(variant, title(body.name, "variant"), person(request))))


@router.patch("variants/{id:variant_id}", response=schemas.Message)
def change_variant(request: HttpRequest, variant_id: int, body: schemas.NameAndPlace) -> dict[str, str]:
    """Rename, archive or take out of the archive."""
    variant, _ = member(request, variant_id, "editor")
    if body.name is not None:
        variant.name = title(body.name, "variant")
    if body.archived is not None:
        variant.archived = body.archived
    variant.save()
    return {"message": f"{variant.name} is {'archived' if variant.archived else 'kept'}."}


@router.delete("variants/{id:variant_id}", response=schemas.Message)
def delete_variant(request: HttpRequest, variant_id: int) -> dict[str, str]:
    """Delete; :func:`restore_variant` brings it back. The last variant stays: delete the project instead."""
    variant, _ = member(request, variant_id, "editor")
    if Variant.objects.filter(project=variant.project, deleted=None).count() == 1:
        raise HttpError(422, "A project keeps one variant at least; delete the project instead.")
    variant.deleted = timezone.now()
    variant.save()
    record(request, "deleted variant", f"{variant} ({variant.id})")
    return {"message": f"{variant.name} is deleted."}


@router.post("variants/{id:variant_id}/restore", response=schemas.Message)
def restore_variant(request: HttpRequest, variant_id: int) -> dict[str, str]:
    """Undo a deletion."""
    variant, _ = member(request, variant_id, "editor", deleted=True)
    variant.deleted = None
    variant.save()
    record(request, "restored variant", f"{variant} ({variant.id})")
    return {"message": f"{variant.name} is back."}


@router.post("projects/{id:project_id}/copy", response={201: schemas.Message})
def copy_of_project(request: HttpRequest, project_id: int, body: schemas.NameIn) -> Any:
    """A copy of one's own; whoever may read a project may copy it."""
    project, _ = project_member(request, project_id)
    copy = editing.copy_project(project, title(body.name, "project"), person(request))
    return Status(201, {"message": f"{copy.name} is yours."})
