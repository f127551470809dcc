"""What an answer to a study belongs to: the plant and the question as they were, whatever else has been edited since."""

from __future__ import annotations

import hashlib

from wattaxis.flowsheet import Document, StudyFit
from wattaxis.solving.memory import chemistry_key


def question_keys(document: Document) -> dict[str, str]:
    """By the name of each study a hash of what its answer follows from: chemistry with reactions and prices, units, streams, aims, the study itself.

    Names of studies, where symbols stand, notes, pins and other studies are none of it.

    >>> from wattaxis.flowsheet import Study
    >>> a, b = (question_keys(Document(title=title, studies=(Study(name=title),)))[title] for title in "AB")
    >>> a == b
    True
    """
    prices = [component.price for component in document.chemistry.components]  # results count them, and the key of the chemistry does not
    plant = hashlib.sha256(chemistry_key(document.chemistry) + repr((document.chemistry.reactions, prices)).encode())
    plant.update(repr([(unit.tag, unit.type, unit.model, unit.spec) for unit in document.units]).encode())
    plant.update(repr((document.streams, document.aims)).encode())
    found = {}
    for study in document.studies:
        own = plant.copy()
        fits = {item.fit for item in study.inputs if isinstance(item, StudyFit)}
        own.update(repr([fit for fit in document.chemistry.fits if fit.name in fits]).encode() if fits else b"")
        own.update(repr(study.model_copy(update={"name": ""})).encode())
        found[study.name] = own.hexdigest()
    return found
