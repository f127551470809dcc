"""Questions that take some calculations, asked of a solver process, such as what an aim could free; their end before time, and that of results."""

from __future__ import annotations

from collections.abc import Callable
from typing import Annotated, Any

from api import chemistry_schemas, piece_schemas, result_schemas, schemas
from api.access import asker, member, reading
from django.http import HttpRequest
from ninja import Query, Router, Status
from ninja.errors import HttpError
from projects.documents import documents
from projects.models import Variant
from projects.service import latest
from runs.service import service as solving

from wattaxis.flowsheet import Document
from wattaxis.questions import Apart, column_specifications, column_study_of, set_apart, set_columns_apart
from wattaxis.unitops import ResultValue

router = Router()


def calculated(variant: Variant) -> tuple[Document, Any]:
    """The newest document of a variant with its results, which read like those of the solver. Raises HttpError while they are calculated."""
    document = latest(variant)
    solving.request(variant.id, document.number, document.document)
    result = solving.latest(variant.id)
    if result is not None and result["kind"] == "stopped" and result["revision"] == document.number:
        raise HttpError(409, "The calculation was stopped; let it go on first.")
    if result is None or result.get("result") is None or result["revision"] != document.number:
        raise HttpError(409, "The results are being calculated; try again in a moment.")
    units = {tag: {**unit, "profiles": solving.profiles(variant.id, tag)[1]} for tag, unit in result["result"]["units"].items()}
    return documents.plant(document), result_schemas.WholeResult.model_validate({**result["result"], "units": units})


@router.post("variants/{id:variant_id}/aim-proposals", response={200: schemas.AimProposalsOut, 422: schemas.Message}, auth=reading)
def aim_proposals(request: HttpRequest, variant_id: int, body: schemas.AimedAt) -> Any:
    """Givens with an effect on a formula over results, nearest upstream first."""
    variant, _ = member(request, variant_id)
    answer = solving.ask(variant.id, asker(request), body.token, document=latest(variant).document, formula=body.formula)
    return answer["aims"] if "aims" in answer else Status(422, {"message": answer["text"]})


@router.post(
    "variants/{id:variant_id}/assumption-influence", response={200: chemistry_schemas.AssumptionInfluencesOut, 422: schemas.Message}, auth=reading
)
def assumption_influences(request: HttpRequest, variant_id: int, body: chemistry_schemas.Asked) -> Any:
    """How far the assumed values matter: each is moved, and the plant calculated again."""
    variant, _ = member(request, variant_id)
    answer = solving.ask(variant.id, asker(request), body.token, influence="assumptions", document=latest(variant).document)
    return answer if "influences" in answer else Status(422, {"message": answer["text"]})


@router.post("variants/{id:variant_id}/compression", response={200: piece_schemas.CompressionOut, 422: schemas.Message}, auth=reading)
def compression(request: HttpRequest, variant_id: int, body: piece_schemas.CompressionIn) -> Any:
    """Compression in stages laid out in a stream: the stages, and the edit that makes them."""
    variant, _ = member(request, variant_id)
    answer = solving.ask(variant.id, asker(request), document=latest(variant).document, compression=body.model_dump(mode="json"))
    return answer["layout"] if "layout" in answer else Status(422, {"message": answer["text"]})


@router.get("variants/{id:variant_id}/profiles", response=result_schemas.ProfilesOut, auth=reading)
def unit_profiles(request: HttpRequest, variant_id: int, unit: Annotated[str, Query(max_length=24)]) -> dict[str, Any]:
    """The tables of results of a unit, of the newest revision that is calculated."""
    variant, _ = member(request, variant_id)
    revision, profiles = solving.profiles(variant.id, unit)
    return {"revision": revision, "profiles": profiles}


@router.post("variants/{id:variant_id}/stop", response=schemas.Message, auth=reading)
def stop_questions(request: HttpRequest, variant_id: int, body: chemistry_schemas.Unwanted) -> dict[str, str]:
    """End questions under way; whoever asked them gets "Stopped." for an answer."""
    variant, _ = member(request, variant_id)
    ended = sum(solving.stop_question(variant.id, asker(request), token) for token in body.tokens)
    return {"message": f"{ended} stopped."}


@router.post("variants/{id:variant_id}/halt", response=schemas.Message)
def halt(request: HttpRequest, variant_id: int) -> dict[str, str]:
    """End the calculation of the results; what is calculated till then is kept."""
    variant, _ = member(request, variant_id, "editor")
    return {"message": "It ends." if solving.halt(variant.id) else "Nothing is being calculated."}


@router.post("variants/{id:variant_id}/calculate", response=schemas.Message)
def calculate(request: HttpRequest, variant_id: int) -> dict[str, str]:
    """Calculate the newest revision again, where that was stopped or failed."""
    variant, _ = member(request, variant_id, "editor")
    newest, known = latest(variant), solving.latest(variant.id)
    if known is None or known["kind"] == "result":
        return {"message": "It is in date, or being calculated."}
    solving.forget(variant.id)
    solving.request(variant.id, newest.number, newest.document)
    return {"message": "It begins."}


def _asked_apart(request: HttpRequest, variant: Variant, body: Any, set_up: Callable[..., Apart]) -> tuple[Document, dict[str, Any]]:
    """The plant, and the cases of units that are calculated alone, or the text that says why there are none."""
    plant, result = calculated(variant)
    try:
        apart = set_up(plant, result, body)
    except ValueError as error:
        return plant, {"text": str(error)}
    question = {"apart": apart.document.model_dump(mode="json", exclude_none=True), "places": apart.places}
    return plant, solving.ask(variant.id, asker(request), body.token, **question)


@router.post("variants/{id:variant_id}/conditions", response={200: result_schemas.CasesOut, 422: schemas.Message}, auth=reading)
def conditions(request: HttpRequest, variant_id: int, body: result_schemas.ConditionsIn) -> Any:
    """Units under other conditions at their inlets, each calculated alone."""
    _, answer = _asked_apart(request, member(request, variant_id)[0], body, set_apart)
    return answer if "cases" in answer else Status(422, {"message": answer["text"]})


@router.get("variants/{id:variant_id}/specifications", response={200: result_schemas.ColumnSpecificationsOut, 422: schemas.Message}, auth=reading)
def specifications(request: HttpRequest, variant_id: int, unit: Annotated[str, Query(max_length=24)]) -> Any:
    """What specifies a column and what could, with what the newest revision has of it as soon as that is calculated."""
    variant, _ = member(request, variant_id)
    document, result = latest(variant), solving.latest(variant.id)
    there = result is not None and result.get("result") is not None and result["revision"] == document.number
    own = result["result"]["units"].get(unit, {}) if there and result is not None else {}
    values = [ResultValue(**value) for value in own.get("values", ())]
    try:
        return column_specifications(documents.plant(document), unit, values).to_data()
    except ValueError as error:
        return Status(422, {"message": str(error)})


@router.post("variants/{id:variant_id}/column-study", response={200: result_schemas.ColumnStudyOut, 422: schemas.Message}, auth=reading)
def column_study(request: HttpRequest, variant_id: int, body: result_schemas.ColumnIn) -> Any:
    """A column with a feed on other stages, or with other numbers of stages, each calculated alone."""
    plant, answer = _asked_apart(request, member(request, variant_id)[0], body, set_columns_apart)
    if "cases" not in answer:
        return Status(422, {"message": answer["text"]})
    tries = [(c["condition"], {v["key"]: v["value"] for v in c["values"] if not v["component"]}, c["problem"]) for c in answer["cases"]]
    return column_study_of(plant, body, tries).to_data()
