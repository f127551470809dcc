"""Measured data from files, and fits of pair parameters to them. Nothing is changed here; the page makes the edits."""

from __future__ import annotations

from typing import Any

from api import chemistry_schemas, schemas
from api.access import asker, member, reading
from django.http import HttpRequest
from ninja import File, Form, Router, Status
from ninja.files import UploadedFile
from projects.documents import documents
from projects.models import Variant
from projects.service import latest
from runs.reading import readers
from runs.service import service as solving

from wattaxis.exchange import DataTable, TableError, paste_data
from wattaxis.exchange.thermoml import LARGEST
from wattaxis.flowsheet.data import Measured
from wattaxis.flowsheet.data_checks import data_doubts
from wattaxis.flowsheet.diagram_questions import QuestionError
from wattaxis.flowsheet.fitting import fit_question_from_json
from wattaxis.flowsheet.generated import generated_question_from_json

router = Router()


@router.post("variants/{id:variant_id}/data-file", response={200: chemistry_schemas.DataFileOut, 422: schemas.Message})
def read_data_file(request: HttpRequest, variant_id: int, file: File[UploadedFile], meant: Form[chemistry_schemas.DataMeant]) -> Any:
    """What a CSV, XLSX or ThermoML file holds; a table is read as a set of the kind and components that are meant."""
    variant, _ = member(request, variant_id, "editor")
    if file.size is None or file.size > LARGEST:
        return Status(422, {"message": f"The file is larger than {LARGEST // 1_000_000} MB."})
    asked = {"data_kind": meant.kind, "components": meant.components, "name": meant.name, "document": latest(variant).document}
    found = readers.read(file.read(), kind="data", **asked)
    return Status(422, {"message": found["text"]}) if "text" in found else found


@router.post("variants/{id:variant_id}/data-check", response={200: chemistry_schemas.DataCheckOut, 422: schemas.Message})
def check_data(request: HttpRequest, variant_id: int, body: chemistry_schemas.DataCheckIn) -> Any:
    """What looks like a slip in the new points of a data set; a pasted table with a heading is put into it first."""
    variant, _ = member(request, variant_id, "editor")
    try:
        table = paste_data(body.data, body.cells, body.first) if body.cells else DataTable(body.data)
        unread = [{"row": row, "column": column, "text": text} for (row, column), text in table.unread.items()]
        return {"data": table.data, "left_out": table.left_out[:20], "unread": unread, "doubts": _doubts(variant, table.data, body.name)}
    except (TableError, ValueError) as error:
        return Status(422, {"message": str(error)})


def _doubts(variant: Variant, data: Measured, name: str = "") -> list[str]:
    chemistry = documents.plant(latest(variant)).chemistry
    return list(data_doubts(chemistry, data, next((part for part in chemistry.data if part.name == name), None)))


@router.post("variants/{id:variant_id}/influence", response={200: chemistry_schemas.InfluencesOut, 422: schemas.Message}, auth=reading)
def post_influence(request: HttpRequest, variant_id: int, body: chemistry_schemas.Asked) -> Any:
    """How far the doubtful pairs matter: each is moved, and the plant calculated again."""
    variant, _ = member(request, variant_id)
    answer = solving.ask(variant.id, asker(request), body.token, influence="pairs", document=latest(variant).document)
    return answer if "influences" in answer else Status(422, {"message": answer["text"]})


@router.post("variants/{id:variant_id}/generated-data", response={200: chemistry_schemas.GeneratedOut, 422: schemas.Message})
def post_generated(request: HttpRequest, variant_id: int, body: chemistry_schemas.GeneratedIn) -> Any:
    """Boiling points that a property model gives, as a data set that is branded as not measured."""
    variant, _ = member(request, variant_id, "editor")
    try:
        generated_question_from_json(body.generated)
    except QuestionError as error:
        return Status(422, {"message": str(error)})
    answer = solving.ask(variant.id, asker(request), body.token, chemistry=latest(variant).document["chemistry"], generated=body.generated)
    return {"data": answer["generated"]} if "generated" in answer else Status(422, {"message": answer["text"]})


@router.post("variants/{id:variant_id}/fit", response={200: chemistry_schemas.FitOut, 422: schemas.Message})
def post_fit(request: HttpRequest, variant_id: int, body: chemistry_schemas.FitIn) -> Any:
    """Fit pair parameters to data sets of the chemistry."""
    variant, _ = member(request, variant_id, "editor")
    try:
        fit_question_from_json(body.fit)
    except QuestionError as error:
        return Status(422, {"message": str(error)})
    answer = solving.ask(variant.id, asker(request), body.token, chemistry=latest(variant).document["chemistry"], fit=body.fit)
    return answer["fit"] if "fit" in answer else Status(422, {"message": answer["text"]})
