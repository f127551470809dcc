"""Questions about the chemistry of a variant, answered by a diagram from a solver process."""

from __future__ import annotations

from typing import Any

from api import chemistry_schemas, schemas
from api.access import asker, member, reading
from django.http import HttpRequest
from ninja import Router, Status
from projects.service import latest
from runs.service import service as solving

from wattaxis.flowsheet.diagram_questions import QuestionError, question_from_json

router = Router()


@router.post("variants/{id:variant_id}/diagram", response={200: chemistry_schemas.DiagramOut, 422: schemas.Message}, auth=reading)
def post_diagram(request: HttpRequest, variant_id: int, body: chemistry_schemas.QuestionIn) -> Any:
    """A diagram; nothing is changed."""
    variant, _ = member(request, variant_id)
    try:
        question_from_json(body.question)
    except QuestionError as error:
        return Status(422, {"message": str(error)})
    answer = solving.ask(variant.id, asker(request), body.token, chemistry=latest(variant).document["chemistry"], question=body.question)
    return answer["diagram"] if "diagram" in answer else Status(422, {"message": answer["text"]})
