"""Edits, undo and redo as append-only revisions. The rules of editing are the core's; this module stores and orders them."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from django.contrib.auth.models import User
from django.db import transaction
from django.db.models import QuerySet
from projects.documents import documents
from projects.models import Membership, Project, Revision, Variant

from wattaxis.flowsheet import EditError, apply, edit_from_json
from wattaxis.flowsheet.document import to_data
from wattaxis.flowsheet.quarrels import quarrel


class Quarrel(Exception):
    """The edit starts from an older revision and touches what was changed since. ``yours`` says what it would do to the newest state."""

    def __init__(self, parts: set[str], base: int, newer: Revision, yours: str) -> None:
        self.parts = parts
        self.base = base
        self.newer = newer
        self.yours = yours
        super().__init__(f"{newer.label or 'Another edit'} came in between and changes the same place.")


@dataclass(frozen=True)
class Steps:
    """What a person can undo and redo next."""

    undo: Revision | None
    redo: Revision | None


def create_project(name: str, owner: User, document: dict[str, Any]) -> Variant:
    """A project with one variant holding the document, as plain data, as revision 1."""
    with transaction.atomic():
        project = Project.objects.create(name=name)
        Membership.objects.create(project=project, user=owner, role=Membership.Role.OWNER)
        return add_variant(project, "Base", document, owner)


def add_variant(project: Project, name: str, document: dict[str, Any], author: User, label: str = "created") -> Variant:
    """A variant of a project with a document of its own as revision 1."""
    with transaction.atomic():
        variant = Variant.objects.create(project=project, name=name)
        Revision.objects.create(variant=variant, number=1, document=document, label=label[:400], author=author)
    return variant


def branch(variant: Variant, name: str, author: User) -> Variant:
    """A new variant of the same project; its first revision is the newest document of the other."""
    source = latest(variant)
    return add_variant(variant.project, name, source.document, author, f"branched from {variant.name}, revision {source.number}")


def copy_project(project: Project, name: str, owner: User) -> Project:
    """A project of the person's own with the newest document of every living variant; people and history stay behind."""
    with transaction.atomic():
        copy = Project.objects.create(name=name)
        Membership.objects.create(project=copy, user=owner, role=Membership.Role.OWNER)
        for variant in project.variants.filter(deleted=None).order_by("id"):
            source = latest(variant)
            twin = add_variant(copy, variant.name, source.document, owner, f"copied from {project.name}, {variant.name}, revision {source.number}")
            twin.archived = variant.archived
            twin.save()
    return copy


def latest(variant: Variant) -> Revision:
    """The newest revision of a variant, its document in today's format (shared: read it only)."""
    revision = _without_documents(variant).order_by("-number").select_related("author").first()
    assert revision is not None, "a variant begins with a revision"
    revision.variant, revision.document = variant, documents.data(revision)
    return revision


def revision_of(variant: Variant, number: int) -> Revision | None:
    """An earlier revision, its document as :func:`latest` gives it."""
    revision = _without_documents(variant).filter(number=number).first()
    if revision is not None:
        revision.document = documents.data(revision)
    return revision


def _without_documents(variant: Variant) -> QuerySet[Revision]:
    return Revision.objects.filter(variant=variant).defer("document", "edit", "inverse")


def submit(variant: Variant, author: User, base: int, data: Any) -> Revision:
    """Apply an edit that starts from revision ``base``.

    Edits made since are merged with it when they touch other places. Raises EditError when it cannot be made and Quarrel when it touches
    what was changed since.
    """
    edit = edit_from_json(data)
    with transaction.atomic():
        newest = latest(variant)
        if base > newest.number:
            raise EditError(f"Revision {base} does not exist; the newest is {newest.number}.")
        between = Revision.objects.filter(variant=variant, number__gt=base).exclude(edit=None).defer("document", "inverse")
        for revision in between:
            parts = quarrel(edit, edit_from_json(revision.edit))
            if parts:
                raise Quarrel(parts, base, revision, _intent(newest, edit))
        return _append(newest, edit, author)


def undo(variant: Variant, author: User) -> Revision:
    """Take back the author's last edit. Raises EditError when there is none or later edits stand in the way."""
    with transaction.atomic():
        target = steps(variant, author).undo
        if target is None:
            raise EditError("There is nothing of yours to undo.")
        _nobody_else_since(target, author)
        return _append(latest(variant), edit_from_json(target.inverse), author, undoes=target, label=f"undo: {target.label}")


def redo(variant: Variant, author: User) -> Revision:
    """Bring back the author's last undone edit. Raises EditError."""
    with transaction.atomic():
        target = steps(variant, author).redo
        if target is None:
            raise EditError("There is nothing of yours to redo.")
        _nobody_else_since(target, author)
        label = f"redo: {target.undoes.label if target.undoes else target.label}"
        return _append(latest(variant), edit_from_json(target.inverse), author, redoes=target, label=label)


def _intent(newest: Revision, edit: Any) -> str:
    try:
        return apply(documents.plant(newest), edit)[2]
    except EditError as error:
        return f"no longer possible: {error}"


def _nobody_else_since(target: Revision, author: User) -> None:
    """Taking an edit back must not silently take back what somebody else has typed at the same place since. Raises EditError."""
    way = edit_from_json(target.inverse)
    others = Revision.objects.filter(variant=target.variant, number__gt=target.number).exclude(author=author).exclude(edit=None)
    standing: dict[int, Revision] = {}
    for revision in others.defer("document").order_by("number"):
        if standing.pop(revision.undoes_id or 0, None) is None:  # what they have taken back themselves stands in nobody's way
            standing[revision.id] = revision
    for revision in standing.values():
        if quarrel(way, edit_from_json(revision.edit)):
            raise EditError(f"{revision.label} by somebody else came after it and changes the same place; change it by hand instead.")


def go_back(variant: Variant, author: User, number: int) -> Revision:
    """Make the document of an earlier revision the newest one, as one edit that can be undone. Raises EditError."""
    with transaction.atomic():
        newest = latest(variant)
        target = revision_of(variant, number) if number < newest.number else None
        if target is None:
            raise EditError(f"There is no earlier revision {number}.")
        way = edit_from_json({"kind": "replace_all", "document": target.document})
        return _append(newest, way, author, label=f"back to revision {number}")


def steps(variant: Variant, author: User) -> Steps:
    """The next undo and redo of a person, from the revisions alone, so that they last across sessions.

    Read from the newest backwards and no further than needed: every undo met on the way skips the edit that it took back, and the other way round.
    """
    if not author.is_authenticated:
        return Steps(None, None)
    large = [f"{path}{name}" for path in ("", "undoes__") for name in ("document", "edit", "inverse")]
    mine = Revision.objects.filter(variant=variant, author=author, number__gt=1).select_related("undoes").defer(*large).order_by("-number")
    undo = redo = None
    skipped = 0
    for revision in mine.iterator(chunk_size=40):
        if revision.undoes_id:
            skipped += 1
        elif skipped:
            skipped -= 1
        else:
            undo = revision
            break
    skipped = 0
    for revision in mine.iterator(chunk_size=40):
        if revision.redoes_id:
            skipped += 1
        elif not revision.undoes_id:
            break  # a new edit ends what could be done again
        elif skipped:
            skipped -= 1
        else:
            redo = revision
            break
    return Steps(undo, redo)


def _append(newest: Revision, edit: Any, author: User, label: str = "", **links: Revision) -> Revision:
    document, inverse, text = apply(documents.plant(newest), edit)
    revision = Revision.objects.create(
        variant=newest.variant,
        number=newest.number + 1,
        document=to_data(document),
        edit=edit.model_dump(mode="json"),
        inverse=inverse.model_dump(mode="json"),
        label=(label or text)[:400],
        author=author,
        **links,
    )
    documents.keep(revision, document)
    return revision
