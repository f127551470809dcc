"""Who may see and change what."""

from django.http import HttpRequest
from ninja.errors import HttpError
from projects.models import Membership, Project, Variant

RANK = {"reader": 0, "editor": 1, "owner": 2}


def member(request: HttpRequest, variant_id: int, role: str = "reader") -> tuple[Variant, str]:
    """The variant and the person's role in it. 404 when it is none of theirs, 403 when the role does not reach."""
    membership = (
        Membership.objects.filter(user=request.user, project__variants__id=variant_id, project__deleted=None).select_related("project").first()
    )
    if membership is None:
        raise HttpError(404, "There is no such variant among your projects.")
    if RANK[membership.role] < RANK[role]:
        raise HttpError(403, f"You are a {membership.role} of this project; this needs an {role}.")
    return Variant.objects.select_related("project").get(id=variant_id), membership.role


def project_member(request: HttpRequest, project_id: int, role: str = "reader", *, deleted: bool = False) -> tuple[Project, str]:
    """The project and the person's role in it, with the refusals of :func:`member`. ``deleted`` finds deleted ones too."""
    rows = Membership.objects.filter(user=request.user, project_id=project_id).select_related("project")
    membership = (rows if deleted else rows.filter(project__deleted=None)).first()
    if membership is None:
        raise HttpError(404, "There is no such project among yours.")
    if RANK[membership.role] < RANK[role]:
        raise HttpError(403, f"You are a {membership.role} of this project; this needs an {role}.")
    return membership.project, membership.role
