"""What an aim could free: asked of a solver process, since every answer takes some calculations."""

from __future__ import annotations

from typing import Any

from api import schemas
from api.access import member, reading
from django.http import HttpRequest
from ninja import Router, Status
from projects.service import latest
from runs.service import service as solving

router = Router()


@router.post("variants/{id:variant_id}/aim-proposals", response={200: schemas.AimProposalsOut, 422: schemas.Message}, auth=reading)
def aim_proposals(request: HttpRequest, variant_id: int, body: schemas.AimedAt) -> Any:
    """Givens with an effect on a formula over results, nearest upstream first."""
    variant, _ = member(request, variant_id)
    answer = solving.ask(variant.id, document=latest(variant).document, formula=body.formula)
    return answer["aims"] if "aims" in answer else Status(422, {"message": answer["text"]})
