"""Sensitivity and uncertainty: a plant calculated for every case, in blocks that do not depend on each other."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from wattaxis.flowsheet import Document, Study
from wattaxis.progress import reached
from wattaxis.solving.memory import Memory
from wattaxis.studies.cases import StudyError, cases_of
from wattaxis.studies.path import Path
from wattaxis.studies.result import StudyResult
from wattaxis.studies.stand import Case, Stand, StudyColumn, input_columns

#: Cases of a block at least and at most, and blocks that there are in between: within one each begins where those before lead; every block begins
#: from the plant as it stands. So its answers are the same bits whoever calculates it, and whatever was calculated before.
BLOCK, LARGE_BLOCK, BLOCKS = 25, 100, 8
#: By how much a result may differ that is found along a path, relative to the largest of its block: aims are met to 1e-8, loops close to 1e-11.
ALIKE = 1e-6


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
    def block_size(self) -> int:
        """Cases of a block: the longer a path, the better it leads; the shorter, the more processes can share."""
        return min(max(len(self.cases.values) // BLOCKS, BLOCK), LARGE_BLOCK)

    @property
    def blocks(self) -> int:
        """How many blocks there are."""
        return -(-len(self.cases.values) // self.block_size)

    @property
    def outputs(self) -> tuple[StudyColumn, ...]:
        """The outputs with their kinds, as the plant has them where it stands. Raises StudyError for a formula whose value the plant has not."""
        return self._stand().outputs

    @property
    def inputs(self) -> tuple[StudyColumn, ...]:
        """The inputs as columns."""
        return input_columns(self.cases.inputs)

    def block(self, number: int) -> list[Case]:
        """The cases of a block (from 0): the same bits whenever it is calculated.

        Each begins at the one before, and leaves out what nothing looks at. Where the last one, calculated once more as the plant itself is, comes
        out otherwise (a unit of several states may have kept to one of them), all are calculated so; so are those with no value or with a fault.
        """
        stand = self._stand()
        memory, first = stand.memory.branch(), number * self.block_size
        path = Path(np.ptp(self.cases.values, axis=0))
        found = [self._case(k, memory, path) for k in range(first, min(first + self.block_size, len(self.cases.values)))]
        whole = stand.case(found[-1].number, found[-1].inputs, stand.memory.branch())
        if _alike(whole, found):
            return found
        memory = stand.memory.branch()
        return [self._whole(case.number, memory) for case in found]

    def _case(self, number: int, memory: Memory, path: Path) -> Case:
        reached(number / len(self.cases.values))
        stand, values = self._stand(), self.cases.values[number]
        path.begin(values, memory)
        case = stand.case(number, values, memory, "search")
        if case.faults or None in case.outputs:
            return self._whole(number, memory)
        path.learn(values, memory)
        return case

    def _whole(self, number: int, memory: Memory) -> Case:
        """A case calculated as the plant itself is; whoever watches hears that it goes on."""
        reached(number / len(self.cases.values))
        return self._stand().case(number, self.cases.values[number], memory)

    def part(self, number: int) -> StudyResult:
        """A block with the columns of its cases."""
        return StudyResult(self.study.name, self.inputs, self.outputs, self.block(number))

    def _stand(self) -> Stand:
        if self._stood is None:
            self._stood = Stand(self.document, self.cases.inputs, self.study.outputs)
        return self._stood


def _alike(whole: Case, block: Sequence[Case]) -> bool:
    """Whether the last case of a block came out as it does when it is calculated as the plant is."""
    for k, value in enumerate(whole.outputs):
        last = block[-1].outputs[k]
        if value is None or last is None:
            if value is not last:
                return False
            continue
        size = max(abs(case.outputs[k] or 0.0) for case in block)
        if abs(value - last) > ALIKE * size:
            return False
    return bool(whole.faults) == bool(block[-1].faults)
