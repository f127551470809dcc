"""Studies of a variant: asked of a solver process, kept with the question they answer, handed out as data and as a table."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from api import study_schemas as schemas
from api.access import asker, member, person, reading
from api.calculated import calculated
from api.schemas import Message, VariantShort
from api.variants import begun
from django.conf import settings
from django.http import HttpRequest, HttpResponse
from ninja import Router, Status
from ninja.errors import HttpError
from projects.documents import documents
from projects.models import StudyAnswer, Variant
from projects.service import add_variant, latest, revision_of
from runs.service import service as solving
from runs.studies import prune
from runs.studies import runs as studies

from wattaxis.exchange import study_csv
from wattaxis.flowsheet import Document, Study
from wattaxis.flowsheet.document import to_data
from wattaxis.flowsheet.givens import typed_givens
from wattaxis.questions import formula_values
from wattaxis.studies import StudyResult, parameters_of, plant_of_case, question_keys

router = Router()
State = StudyAnswer.State
#: Answers that are listed.
LISTED = 500


@router.post("variants/{id:variant_id}/study-answers", response={200: schemas.StudyAnswerHead, 422: Message, 429: Message})
def ask_study(request: HttpRequest, variant_id: int, body: schemas.StudyAsked) -> Any:
    """Begin to calculate a study of the newest revision; its parts are kept as they come. One that is under way already is answered with."""
    variant, _ = member(request, variant_id, "editor")
    revision = latest(variant)
    plant = documents.plant(revision)
    keys = question_keys(plant)
    if body.name not in keys:
        return Status(422, {"message": f'There is no study "{body.name}". It may have been removed meanwhile.'})
    running = StudyAnswer.objects.filter(state=State.RUNNING)
    same = running.filter(variant=variant, key=keys[body.name]).first()
    if same is not None:
        return _head(same, keys)
    if running.filter(author=person(request)).count() >= settings.STUDIES_EACH:
        return Status(429, {"message": f"{settings.STUDIES_EACH} studies of yours are calculated now. Wait for one of them, or stop it."})
    answer = StudyAnswer.objects.create(
        variant=variant, name=body.name, key=keys[body.name], revision=revision.number, state=State.RUNNING, author=person(request)
    )
    prune(variant.id, body.name)
    studies.begin(answer)
    return _head(answer, keys)


@router.post("variants/{id:variant_id}/study-answers/{id:answer_id}/state", response={200: schemas.StudyAnswerHead, 422: Message})
def set_state(request: HttpRequest, variant_id: int, answer_id: int, body: schemas.StateIn) -> Any:
    """Pause, stop or go on with a study; what is calculated is kept."""
    variant, _ = member(request, variant_id, "editor")
    answer = _kept(variant, answer_id)
    wanted, before = State(body.state), State(answer.state)
    if before == wanted:
        return _head(answer, question_keys(documents.plant(latest(variant))))
    if before == State.DONE or (before != State.RUNNING and wanted != State.RUNNING):
        return Status(422, {"message": f"The study is {before}, and cannot be {wanted}."})
    answer.state, answer.text = wanted, ""
    answer.save(update_fields=["state", "text"])
    if wanted == State.RUNNING:
        studies.begin(answer)
    else:
        studies.stop(answer.id)
    return _head(answer, question_keys(documents.plant(latest(variant))))


@router.get("variants/{id:variant_id}/study-answers", response=list[schemas.StudyAnswerHead], auth=reading)
def study_answers(request: HttpRequest, variant_id: int) -> list[dict[str, Any]]:
    """The answers that are kept, newest first, without their cases."""
    variant, _ = member(request, variant_id)
    kept = variant.study_answers.defer("answer").select_related("author").order_by("-id")[:LISTED]
    keys = question_keys(documents.plant(latest(variant)))
    return [_head(answer, keys) for answer in kept]


@router.get("variants/{id:variant_id}/study-answers/{id:answer_id}", response=schemas.StudyAnswerOut, auth=reading)
def study_answer(request: HttpRequest, variant_id: int, answer_id: int) -> dict[str, Any]:
    """An answer with its cases."""
    variant, _ = member(request, variant_id)
    return _whole(_kept(variant, answer_id), documents.plant(latest(variant)))


@router.get("variants/{id:variant_id}/study-answers/{id:answer_id}/csv", auth=reading)
def study_answer_csv(request: HttpRequest, variant_id: int, answer_id: int) -> HttpResponse:
    """The table of an answer, in the units of the plant."""
    variant, _ = member(request, variant_id)
    kept = _kept(variant, answer_id)
    result = StudyResult.from_data(_cases(kept))
    text = study_csv(documents.plant(latest(variant)), result)
    return HttpResponse(text, content_type="text/csv; charset=utf-8", headers={"Content-Disposition": 'attachment; filename="study.csv"'})


@router.post("variants/{id:variant_id}/study-answers/{id:answer_id}/variant", response={201: VariantShort, 422: Message})
def case_as_variant(request: HttpRequest, variant_id: int, answer_id: int, body: schemas.CaseIn) -> Any:
    """A variant that is the plant of one case, as it was when the study was asked."""
    variant, _ = member(request, variant_id, "editor")
    study, plant = case_of(variant, answer_id, body.case)
    name = f"{variant.name}, {study.name}, case {body.case + 1}"[:120]
    label = f"case {body.case + 1} of the study {study.name} of {variant.name}, revision {_kept(variant, answer_id).revision}"
    return Status(201, begun(add_variant(variant.project, name, to_data(plant), person(request), label)))


@router.post("variants/{id:variant_id}/local-effects", response={200: schemas.LocalEffectsOut, 422: Message}, auth=reading)
def effects(request: HttpRequest, variant_id: int, body: schemas.EffectsAsked) -> Any:
    """How much a result moves with each typed value, of some units or of all."""
    variant, _ = member(request, variant_id)
    question = {"formula": body.formula, "units": body.units}
    answer = solving.ask(variant.id, asker(request), body.token, document=latest(variant).document, effects=question)
    return answer["effects"] if "effects" in answer else Status(422, {"message": answer["text"]})


@router.post("variants/{id:variant_id}/formulas", response=list[schemas.FormulaOut], auth=reading)
def formulas(request: HttpRequest, variant_id: int, body: schemas.FormulasIn) -> list[dict[str, Any]]:
    """What formulas over results come to in the newest results, with the kind of each, or why they have no value."""
    variant, _ = member(request, variant_id)
    plant, result = calculated(variant)
    return [
        {"formula": text, "value": pin.value, "kind": pin.kind, "si": pin.unit, "problem": pin.problem}
        for text, pin in zip(body.formulas, formula_values(plant, result, body.formulas), strict=True)
    ]


@router.get("variants/{id:variant_id}/givens", response=list[schemas.GivenOut], auth=reading)
def givens(request: HttpRequest, variant_id: int) -> list[dict[str, Any]]:
    """Every single value that is typed and can be varied, unit by unit."""
    variant, _ = member(request, variant_id)
    plant = documents.plant(latest(variant))
    found = [(unit.tag, given) for unit in plant.units for given in typed_givens(unit) if not given.bound]
    return [{"unit": tag, "field": given.path, "title": given.title, "kind": given.kind, "typed": given.typed} for tag, given in found]


@router.get("variants/{id:variant_id}/parameters", response=list[schemas.ParameterOut], auth=reading)
def parameters(request: HttpRequest, variant_id: int) -> list[dict[str, Any]]:
    """Every number of the chemistry that can be varied: of pairs, components and rate laws."""
    variant, _ = member(request, variant_id)
    plant = documents.plant(latest(variant))
    return [{**asdict(one.place), "heading": one.unit, "title": one.title, "kind": one.kind, "typed": one.quantity} for one in parameters_of(plant)]


def case_of(variant: Variant, answer_id: int, number: int) -> tuple[Study, Document]:
    """The study of an answer as it was asked, and the plant of one of its cases. Raises HttpError where there is none."""
    kept = _kept(variant, answer_id)
    asked = revision_of(variant, kept.revision)
    assert asked is not None, "revisions are never deleted"
    plant = documents.plant(asked)
    study = next(study for study in plant.studies if study.name == kept.name)
    found = next((case for case in _cases(kept)["cases"] if case["number"] == number), None)
    if found is None:
        raise HttpError(422, f"The study has no case {number + 1}; it has {kept.cases}.")
    return study, plant_of_case(plant, study, found["inputs"])


def _kept(variant: Variant, answer_id: int) -> StudyAnswer:
    kept = variant.study_answers.select_related("author").filter(id=answer_id).first()
    if kept is None:
        raise HttpError(404, "This answer is no longer kept.")
    return kept


def _head(answer: StudyAnswer, keys: dict[str, str]) -> dict[str, Any]:
    """Without its cases. A study that has another name meanwhile is known by its question."""
    name = answer.name if answer.name in keys else next((name for name, key in keys.items() if key == answer.key), answer.name)
    return {
        "id": answer.id,
        "name": name,
        "revision": answer.revision,
        "current": keys.get(name) == answer.key,
        "state": answer.state,
        "text": answer.text,
        "planned": answer.planned,
        "cases": answer.cases,
        "failed": answer.failed,
        "seconds": answer.seconds,
        "author": answer.author.get_username() if answer.author is not None else "",
        "created": answer.created,
    }


def _whole(answer: StudyAnswer, plant: Document) -> dict[str, Any]:
    return {**_head(answer, question_keys(plant)), "result": _cases(answer)}


def _cases(answer: StudyAnswer) -> dict[str, Any]:
    """The answer as far as it is there: of a study under way the cases of its parts, one after the other."""
    if answer.answer is not None:
        return dict(answer.answer)
    parts = list(answer.parts.order_by("number").values_list("data", flat=True))
    if not parts:
        return {"name": answer.name, "inputs": [], "outputs": [], "cases": []}
    return {**parts[0], "cases": [case for part in parts for case in part["cases"]]}
