"""Who may see and change what."""

from django.http import HttpRequest
from ninja.errors import HttpError
from projects.models import Membership, Variant

RANK = {"reader": 0, "editor": 1, "owner": 2}


def member(request: HttpRequest, variant_id: int, role: str = "reader") -> tuple[Variant, str]:
    """The variant and the person's role in it. 404 when it is none of theirs, 403 when the role does not reach."""
    membership = (
        Membership.objects.filter(user=request.user, project__variants__id=variant_id, project__archived=False).select_related("project").first()
    )
    if membership is None:
        raise HttpError(404, "There is no such variant among your projects.")
    if RANK[membership.role] < RANK[role]:
        raise HttpError(403, f"You are a {membership.role} of this project; this needs an {role}.")
    return Variant.objects.select_related("project").get(id=variant_id), membership.role
