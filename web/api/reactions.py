"""What is to be seen of a reaction while it is written. Nothing is changed here; the page makes the edits."""

from __future__ import annotations

from typing import Any

from api import schemas
from api.access import asker, member, reading
from api.chemistry_schemas import Token
from django.http import HttpRequest
from ninja import Router, Schema, Status
from projects.service import latest
from runs.service import service as solving

from wattaxis.questions.reaction_look import ReactionQuestion

router = Router()


class ReactionIn(Schema):
    """A reaction as it is being written."""

    reaction: ReactionQuestion
    token: Token = ""


class LawLookOut(Schema):
    """A rate law and what its constant means; temperatures are those of the reaction."""

    law: str
    unit: str
    units: list[str]
    constant_si: float | None
    energy_over_r: float | None
    constants: list[float | None]
    half_lives: list[float | None]
    doubts: list[str]
    problem: str
    symbols: list[str]
    term_units: list[str]


class ReactionLookOut(Schema):
    """Balance, heat and equilibrium over temperature, SI; ``place`` is the character at which the equation goes wrong."""

    problem: str
    place: int
    numbers: dict[str, float]
    text: str
    reversible: bool
    gap: str
    balanced_text: str
    heat_at_reference: float | None
    temperatures: list[float]
    heat: list[float]
    gibbs: list[float]
    log_constant: list[float]
    doubts: list[str]
    forward: LawLookOut | None
    backward: LawLookOut | None


@router.post("variants/{id:variant_id}/reaction-look", response={200: ReactionLookOut, 422: schemas.Message}, auth=reading)
def post_look(request: HttpRequest, variant_id: int, body: ReactionIn) -> Any:
    """What is to be said of a reaction as it stands."""
    variant, _ = member(request, variant_id)
    reaction = body.reaction.model_dump(mode="json")
    answer = solving.ask(variant.id, asker(request), body.token, chemistry=latest(variant).document["chemistry"], reaction=reaction)
    return answer["look"] if "look" in answer else Status(422, {"message": answer["text"]})
