"""Pieces of plant: copied out of a variant, and kept as kits of a team beside those that ship."""

from __future__ import annotations

import json
from functools import lru_cache
from importlib.resources import files
from typing import Any

from api import piece_schemas as schemas
from api.access import member, person, reading
from api.schemas import Message
from django.http import HttpRequest
from ninja import Router, Status
from projects.documents import documents
from projects.models import Kit
from projects.service import latest

from wattaxis import DocumentError, take_piece
from wattaxis.flowsheet.pieces import piece_from_json

router = Router()
#: Kits that a project may keep.
MOST = 200


@lru_cache(maxsize=1)
def _ours() -> list[dict[str, Any]]:
    folder = files("wattaxis.examples").joinpath("kits")
    texts = sorted((item.name, item.read_text(encoding="utf-8")) for item in folder.iterdir() if item.name.endswith(".json"))
    return [piece_from_json(json.loads(text)).model_dump(mode="json") for _, text in texts]


@router.post("variants/{id:variant_id}/piece", response={200: schemas.PieceOut, 422: Message}, auth=reading)
def copy_piece(request: HttpRequest, variant_id: int, body: schemas.PieceIn) -> Any:
    """A selection of units as a piece that can be placed again, here or in another plant."""
    variant, _ = member(request, variant_id)
    try:
        piece = take_piece(documents.plant(latest(variant)), body.tags, body.name, body.text, [(f.unit, f.field) for f in body.free])
    except ValueError as error:
        return Status(422, {"message": str(error)})
    return {"piece": piece.model_dump(mode="json")}


@router.get("variants/{id:variant_id}/kits", response=list[schemas.KitOut])
def list_kits(request: HttpRequest, variant_id: int) -> Any:
    """The kits that ship, then those of the project."""
    variant, _ = member(request, variant_id)
    own = [{"id": kit.pk, "piece": kit.piece} for kit in Kit.objects.filter(project=variant.project).order_by("name")]
    return [*({"id": None, "piece": piece} for piece in _ours()), *own]


@router.post("variants/{id:variant_id}/kits", response={200: schemas.KitOut, 422: Message})
def keep_kit(request: HttpRequest, variant_id: int, body: schemas.KitIn) -> Any:
    """Keep a piece as a kit of the project; one of the same name is replaced."""
    variant, _ = member(request, variant_id, "editor")
    try:
        piece = piece_from_json(body.piece)
    except DocumentError as error:
        return Status(422, {"message": str(error)})
    if not piece.name:
        return Status(422, {"message": "Give the kit a name."})
    if Kit.objects.filter(project=variant.project).exclude(name=piece.name).count() >= MOST:
        return Status(422, {"message": f"A project keeps up to {MOST} kits; remove one first."})
    data = piece.model_dump(mode="json")
    kit, _ = Kit.objects.update_or_create(project=variant.project, name=piece.name, defaults={"piece": data, "author": person(request)})
    return {"id": kit.pk, "piece": data}


@router.delete("variants/{id:variant_id}/kits/{id:kit_id}", response={200: Message, 404: Message})
def remove_kit(request: HttpRequest, variant_id: int, kit_id: int) -> Any:
    """Take a kit of the project away; what was placed from it stays."""
    variant, _ = member(request, variant_id, "editor")
    gone, _ = Kit.objects.filter(project=variant.project, pk=kit_id).delete()
    return {"message": "The kit is removed."} if gone else Status(404, {"message": "There is no such kit."})
