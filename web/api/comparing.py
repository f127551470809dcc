"""Variants and cases of studies side by side: what was given differently, and what came of it."""

from __future__ import annotations

from typing import Annotated, Any

from api import schemas
from api.access import asker, member
from api.studies import case_of
from django.http import HttpRequest
from ninja import Query, Router, Status
from projects.documents import documents
from projects.models import Variant
from projects.service import latest
from runs.service import service as solving

from wattaxis.flowsheet import Document, Study
from wattaxis.flowsheet.document import to_data
from wattaxis.studies import looked_at

router = Router()
#: A variant by its number, or a case of a study of the open one: the number of the answer and that of the case, from 0.
Column = Annotated[str, Query(pattern=r"^[0-9]{1,15}(:[0-9]{1,6})?$")]


@router.get("variants/{id:variant_id}/compare", response={200: schemas.ComparisonOut, 422: schemas.Message})
def compare_variants(
    request: HttpRequest,
    variant_id: int,
    beside: Annotated[list[Column], Query(min_length=1, max_length=5)],
    token: Annotated[str, Query(max_length=40)] = "",
) -> Any:
    """What was given differently in a variant and others or cases of its studies, what came of it, and the edits that take it over."""
    columns = [_column(request, variant_id, text) for text in (str(variant_id), *beside)]
    asked = list(dict.fromkeys(study for _, _, study in columns if study is not None))
    plants = [to_data(looked_at(plant, asked)) for _, plant, _ in columns]
    answer = solving.ask(variant_id, asker(request), token, documents=plants)
    if "comparison" not in answer:
        return Status(422, {"message": answer["text"]})
    return {**answer["comparison"], "names": [name for name, _, _ in columns]}


def _column(request: HttpRequest, variant_id: int, text: str) -> tuple[str, Document, Study | None]:
    """What a column is called, its plant, and the study that it is a case of."""
    number, _, case = text.partition(":")
    if case:
        variant, _ = member(request, variant_id)
        study, plant = case_of(variant, int(number), int(case))
        return f"{study.name}, case {int(case) + 1}", plant, study
    variant, _ = member(request, int(number))
    return _named(variant), documents.plant(latest(variant)), None


def _named(variant: Variant) -> str:
    return f"{variant.project.name} / {variant.name}"
