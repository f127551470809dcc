"""Questions about the chemistry of a variant, answered by a diagram from a solver process."""

from __future__ import annotations

from typing import Any

from api import chemistry_schemas, schemas
from api.access import asker, member, reading
from django.http import HttpRequest
from ninja import Router, Status
from projects.service import latest
from runs.service import service as solving

from wattaxis.flowsheet.diagram_questions import question_from_json
from wattaxis.questions import stage_paths

router = Router()


@router.post("variants/{id:variant_id}/diagram", response={200: chemistry_schemas.DiagramOut, 422: schemas.Message}, auth=reading)
def post_diagram(request: HttpRequest, variant_id: int, body: chemistry_schemas.QuestionIn) -> Any:
    """A diagram, over residue curves with the stages of a column; nothing is changed."""
    variant, _ = member(request, variant_id)
    question = body.question
    try:
        question_from_json(question)
        if body.column:
            paths = stage_paths(body.column, solving.profiles(variant.id, body.column)[1], question.get("components") or ())
            question = question | {"paths": paths}
            question_from_json(question)
    except ValueError as error:
        return Status(422, {"message": str(error)})
    answer = solving.ask(variant.id, asker(request), body.token, chemistry=latest(variant).document["chemistry"], question=question)
    return answer["diagram"] if "diagram" in answer else Status(422, {"message": answer["text"]})
