"""A study of a document in parts that can be calculated anywhere, in any order, and kept as JSON."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from pydantic import TypeAdapter

from wattaxis.flowsheet import Document, Study
from wattaxis.studies.optimum import Optimisation
from wattaxis.studies.result import StudyResult
from wattaxis.studies.sensitivity import Sensitivity
from wattaxis.studies.stand import Case

_CASES = TypeAdapter(list[Case])


class Asked:
    """A study, whatever it asks. Raises StudyError for one that cannot be asked.

    >>> from importlib.resources import files
    >>> from wattaxis import load
    >>> plant = load(files("wattaxis.examples").joinpath("sandlark_bay.json").read_text())
    >>> cold = {"unit": "E-103", "field": "outlet_temperature", "values": [{"value": T, "unit": "degC"} for T in (20, 30, 40)]}
    >>> asked = Asked(plant, Study.model_validate({"name": "Cold", "inputs": [cold], "outputs": [{"name": "Duty", "formula": "E-103.duty"}]}))
    >>> parts = {number: asked.part(number) for number in range(asked.parts)}
    >>> [round(case.outputs[0] / 1e3) for case in asked.result(parts).cases]
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

    def part(self, number: int) -> Any:
        """A part (from 0) as plain data for JSON: the same bits whenever and wherever it is calculated. Raises StudyError."""
        if isinstance(self._of, Sensitivity):
            return _CASES.dump_python(self._of.block(number), mode="json")
        return self._of.run().to_data()

    def result(self, parts: Mapping[int, Any]) -> StudyResult:
        """The result from the parts that are there, by number."""
        if isinstance(self._of, Sensitivity):
            return self._of.closed(_CASES.validate_python(parts[number]) for number in sorted(parts))
        return StudyResult.from_data(parts[0])


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
    return asked.result({number: asked.part(number) for number in range(asked.parts)})
