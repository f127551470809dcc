"""Who may see and change what: members by their role, holders of a share link as readers of one variant."""

from __future__ import annotations

from typing import Any

from django.conf import settings
from django.contrib.auth.models import User
from django.core import signing
from django.db.models import QuerySet
from django.http import HttpRequest
from ninja.errors import HttpError
from ninja.security import django_auth
from ninja.utils import check_csrf
from projects.models import Membership, Project, ShareLink, Variant
from runs.service import Asker

RANK = {"reader": 0, "editor": 1, "owner": 2}
SHARED = "shared-link"
_SALT = "wattaxis.share"


def guest(request: HttpRequest) -> ShareLink | None:
    """The share link that this browser came by, while it holds. It gives the right to read, on routes that say so."""
    number = request.session.get(SHARED)
    if number is None:
        return None
    return _living().filter(id=number).first()


#: For routes that a share link opens as well as a sign-in.
reading: list[Any] = [django_auth, guest]


def anyone(request: HttpRequest) -> bool:
    """For routes that need no sign-in but change something: they look at origin and token of the request like all others."""
    if check_csrf(request) is not None:
        raise HttpError(403, "This page is out of date. Reload it and try again; nothing is lost.")
    return True


def person(request: HttpRequest) -> User:
    """The person who is signed in, on routes that nobody else reaches."""
    user = request.user
    assert isinstance(user, User)
    return user


def asker(request: HttpRequest) -> Asker:
    """Whoever asks a question: a person, or all together who came by a share link."""
    if request.user.is_authenticated:
        return Asker(f"person {request.user.pk}", settings.QUESTIONS_EACH)
    return Asker(f"link {request.session.get(SHARED)}", settings.QUESTIONS_OF_GUESTS)


def share_token(link: ShareLink) -> str:
    """The signed text in the address of a share link; nothing secret is stored."""
    return signing.dumps(link.id, salt=_SALT)


def shared_variant(token: str) -> ShareLink | None:
    """The living link of a token, None for anything else."""
    try:
        number = signing.loads(token, salt=_SALT)
    except signing.BadSignature:
        return None
    return _living().filter(id=number).first()


def _living() -> QuerySet[ShareLink]:
    return ShareLink.objects.filter(withdrawn=None, variant__deleted=None, variant__project__deleted=None)


def member(request: HttpRequest, variant_id: int, role: str = "reader", *, deleted: bool = False) -> tuple[Variant, str]:
    """The variant and the person's role in it. 404 when it is none of theirs, 403 when the role does not reach."""
    variants = Variant.objects.filter(id=variant_id, project__deleted=None).select_related("project")
    variant = (variants if deleted else variants.filter(deleted=None)).first()
    held = None
    if variant is not None and request.user.is_authenticated:
        held = Membership.objects.filter(user=request.user, project_id=variant.project_id).values_list("role", flat=True).first()
    if variant is not None and held is None:
        link = guest(request)
        held = "reader" if link is not None and link.variant_id == variant_id else None
    if variant is None or held is None:
        raise HttpError(404, "There is no such variant among your projects.")
    if RANK[held] < RANK[role]:
        raise HttpError(403, f"You are a {held} of this project; this needs an {role}.")
    return variant, held


def project_member(request: HttpRequest, project_id: int, role: str = "reader", *, deleted: bool = False) -> tuple[Project, str]:
    """The project and the person's role in it, with the refusals of :func:`member`. ``deleted`` finds deleted ones too."""
    rows = Membership.objects.filter(user=person(request), project_id=project_id).select_related("project")
    membership = (rows if deleted else rows.filter(project__deleted=None)).first()
    if membership is None:
        raise HttpError(404, "There is no such project among yours.")
    if RANK[membership.role] < RANK[role]:
        raise HttpError(403, f"You are a {membership.role} of this project; this needs an {role}.")
    return membership.project, membership.role
