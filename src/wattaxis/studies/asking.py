"""A study of a document in parts that can be calculated anywhere, in any order, and kept as JSON."""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from typing import Any

from wattaxis.flowsheet import Document, Study
from wattaxis.flowsheet.document import load_data
from wattaxis.studies.cases import StudyError
from wattaxis.studies.optimum import Optimisation
from wattaxis.studies.result import StudyResult
from wattaxis.studies.sensitivity import Sensitivity
from wattaxis.studies.spread import spreads


class Asked:
    """A study, whatever it asks. Raises StudyError for one that cannot be asked.

    >>> from importlib.resources import files
    >>> from wattaxis import load
    >>> plant = load(files("wattaxis.examples").joinpath("sandlark_bay.json").read_text())
    >>> cold = {"unit": "E-103", "field": "outlet_temperature", "values": [{"value": T, "unit": "degC"} for T in (20, 30, 40)]}
    >>> study = Study.model_validate({"name": "Cold", "inputs": [cold], "outputs": [{"name": "Duty", "formula": "E-103.duty"}]})
    >>> asked = Asked(plant, study)
    >>> [round(case.outputs[0] / 1e3) for case in joined(study, [asked.part(number) for number in range(asked.parts)]).cases]
    [1329, 1267, 1193]
    """

    def __init__(self, document: Document, study: Study) -> None:
        self._of = Optimisation(document, study) if study.asks == "optimum" else Sensitivity(document, study)

    @property
    def parts(self) -> int:
        """How many parts there are. A search for the best is one: each step follows from all those before."""
        return self._of.blocks if isinstance(self._of, Sensitivity) else 1

    @property
    def cases(self) -> int | None:
        """How many cases there are, None where that is not known before."""
        return len(self._of.cases.values) if isinstance(self._of, Sensitivity) else None

    def check(self) -> None:
        """Calculate the plant as it stands. Raises StudyError where what is looked at has no value there."""
        if isinstance(self._of, Sensitivity):
            _ = self._of.outputs

    def part(self, number: int) -> StudyResult:
        """A part (from 0): the same bits whenever and wherever it is calculated. Raises StudyError."""
        return self._of.part(number) if isinstance(self._of, Sensitivity) else self._of.run()


def joined(study: Study, parts: Sequence[StudyResult]) -> StudyResult:
    """The result of a study from some of its parts, or all of them, in their order."""
    first = parts[0]
    if study.asks == "optimum":
        return first
    cases = [case for part in parts for case in part.cases]
    spread, remarks = spreads(study, cases) if study.asks == "uncertainty" and cases else ((), ())
    return StudyResult(first.name, first.inputs, first.outputs, cases, spread=spread, remarks=remarks)


def ask(document: Document, study: Study) -> StudyResult:
    """The answer to a study, all of it at once. Raises StudyError for one that cannot be asked.

    >>> from importlib.resources import files
    >>> from wattaxis import load
    >>> plant = load(files("wattaxis.examples").joinpath("sandlark_bay.json").read_text())
    >>> cold = {"unit": "E-103", "field": "outlet_temperature", "low": {"value": 20, "unit": "degC"}, "high": {"value": 40, "unit": "degC"}}
    >>> how = {"asks": "uncertainty", "inputs": [cold], "samples": 40, "outputs": [{"name": "Duty", "formula": "E-103.duty"}]}
    >>> spread = ask(plant, Study.model_validate({"name": "Cold", **how})).spread[0]
    >>> [round(q / 1e3) for q in spread.quantiles], [round(r, 2) for r in spread.ranks]
    ([1201, 1232, 1268, 1298, 1324], [-1.0])
    """
    asked = Asked(document, study)
    return joined(study, [asked.part(number) for number in range(asked.parts)])


#: The study that this process calculated last, by the document and the name: the parts of one come one after the other.
_last: tuple[str, Asked] | None = None


def asked_of(data: dict[str, Any], name: str) -> Asked:
    """The study ``name`` of a document as JSON data, ready; the one of the last call where it is the same. Raises StudyError."""
    global _last
    key = hashlib.sha256(repr((data, name)).encode()).hexdigest()
    if _last is None or _last[0] != key:
        _last = None  # what it held is large
        document = load_data(data)
        study = next((study for study in document.studies if study.name == name), None)
        if study is None:
            raise StudyError(f'There is no study "{name}".')
        _last = key, Asked(document, study)
    return _last[1]
