"""What an answer to a study belongs to: the plant and the question as they were, whatever else has been edited since."""

from __future__ import annotations

import hashlib

from wattaxis.flowsheet import Document, Study
from wattaxis.solving.memory import chemistry_key


def question_key(document: Document, study: Study) -> str:
    """Hash of what the answer follows from: chemistry with its reactions, units, streams, aims, and the study but for its name.

    Where symbols stand, notes, pins and other studies are none of it.

    >>> a, b = (question_key(Document(title=title), Study(name=title)) for title in "AB")
    >>> a == b
    True
    """
    digest = hashlib.sha256(chemistry_key(document.chemistry) + repr(document.chemistry.reactions).encode())
    digest.update(repr([(unit.tag, unit.type, unit.model, unit.spec) for unit in document.units]).encode())
    digest.update(repr((document.streams, document.aims, study.model_copy(update={"name": ""}))).encode())
    return digest.hexdigest()
