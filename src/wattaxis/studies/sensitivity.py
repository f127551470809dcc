"""Sensitivity and uncertainty: a plant calculated for every case, in blocks that do not depend on each other."""

from __future__ import annotations

from wattaxis.flowsheet import Document, Study
from wattaxis.progress import reached
from wattaxis.studies.cases import StudyError, cases_of
from wattaxis.studies.result import StudyResult
from wattaxis.studies.stand import Case, Stand, StudyColumn, input_columns

#: Cases of a block: within it each begins where the one before ended; every block begins from the plant as it stands. So its answers are the same
#: bits whoever calculates it, and whatever was calculated before.
BLOCK = 25


class Sensitivity:
    """A study of how results move or how uncertain they are, ready to be calculated block by block. Raises StudyError for one that cannot be asked.

    >>> from importlib.resources import files
    >>> from wattaxis import load
    >>> plant = load(files("wattaxis.examples").joinpath("sandlark_bay.json").read_text())
    >>> cold = {"unit": "E-103", "field": "outlet_temperature", "values": [{"value": T, "unit": "degC"} for T in (20, 30, 40)]}
    >>> asked = Study.model_validate({"name": "Cold", "inputs": [cold], "outputs": [{"name": "Duty", "formula": "E-103.duty"}]})
    >>> [round(case.outputs[0] / 1e3) for case in Sensitivity(plant, asked).block(0)]
    [1329, 1267, 1193]
    """

    def __init__(self, document: Document, study: Study) -> None:
        if not study.outputs:
            raise StudyError("Nothing is looked at: choose a result.")
        self.document, self.study, self.cases = document, study, cases_of(document, study)
        self._stood: Stand | None = None

    @property
    def blocks(self) -> int:
        """How many blocks there are."""
        return -(-len(self.cases.values) // BLOCK)

    @property
    def outputs(self) -> tuple[StudyColumn, ...]:
        """The outputs with their kinds, as the plant has them where it stands. Raises StudyError for a formula whose value the plant has not."""
        return self._stand().outputs

    @property
    def inputs(self) -> tuple[StudyColumn, ...]:
        """The inputs as columns."""
        return input_columns(self.cases.inputs)

    def block(self, number: int) -> list[Case]:
        """The cases of a block (from 0): the same bits whenever it is calculated."""
        stand = self._stand()
        memory, first, found = stand.memory.branch(), number * BLOCK, []
        for k, values in enumerate(self.cases.values[first : first + BLOCK], first):
            reached(k / len(self.cases.values))
            found.append(stand.case(k, values, memory))
        return found

    def part(self, number: int) -> StudyResult:
        """A block with the columns of its cases."""
        return StudyResult(self.study.name, self.inputs, self.outputs, self.block(number))

    def _stand(self) -> Stand:
        if self._stood is None:
            self._stood = Stand(self.document, self.cases.inputs, self.study.outputs)
        return self._stood
