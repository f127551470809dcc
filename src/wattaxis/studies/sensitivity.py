"""Sensitivity studies: a plant calculated for every case, in blocks that do not depend on each other."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass, field
from typing import Any

from wattaxis.flowsheet import Document, Study
from wattaxis.progress import reached
from wattaxis.solving.aims import with_givens
from wattaxis.solving.memory import Memory
from wattaxis.solving.pins import evaluate_pin
from wattaxis.solving.sequential import answered
from wattaxis.studies.cases import StudyError, cases_of, kind_of

#: Cases of a block: within it each begins where the one before ended; every block begins from the plant as it stands. So its answers are the same
#: bits whoever calculates it, and whatever was calculated before.
BLOCK = 25
#: Faults of a case that are kept.
_FAULTS = 5
#: What of a case is a tuple, and a list in JSON.
_LISTS = ("inputs", "outputs", "problems", "faults")


@dataclass(frozen=True)
class Case:
    """One case: its number (from 0), the values of the inputs and of the outputs in SI, None where there is none, and why.

    ``problems`` are those of the outputs, blank where there is a value; ``faults`` what kept the plant from being calculated.
    """

    number: int
    inputs: tuple[float, ...]
    outputs: tuple[float | None, ...]
    problems: tuple[str, ...]
    faults: tuple[str, ...]


@dataclass(frozen=True)
class StudyColumn:
    """What stands in a column of the table of a study: its name, what it is, its kind of quantity where one fits, and the SI unit of its values."""

    name: str
    of: str
    kind: str | None
    si: str


@dataclass
class StudyResult:
    """The answers to a study: its inputs and outputs as columns, and the cases in their order."""

    name: str
    inputs: tuple[StudyColumn, ...]
    outputs: tuple[StudyColumn, ...]
    cases: list[Case] = field(default_factory=list)

    def to_data(self) -> dict[str, Any]:
        """Plain data for JSON."""
        return asdict(self)

    @classmethod
    def from_data(cls, data: Mapping[str, Any]) -> StudyResult:
        """What :meth:`to_data` gave."""
        inputs, outputs = (tuple(StudyColumn(**column) for column in data[key]) for key in ("inputs", "outputs"))
        return cls(data["name"], inputs, outputs, [Case(**{**case, **{k: tuple(case[k]) for k in _LISTS}}) for case in data["cases"]])


class Sensitivity:
    """A sensitivity study of a document, ready to be calculated block by block. Raises StudyError for one that cannot be asked.

    >>> from importlib.resources import files
    >>> from wattaxis import load
    >>> plant = load(files("wattaxis.examples").joinpath("sandlark_bay.json").read_text())
    >>> cold = {"unit": "E-103", "field": "outlet_temperature", "values": [{"value": T, "unit": "degC"} for T in (20, 30, 40)]}
    >>> asked = Study.model_validate({"name": "Cold", "inputs": [cold], "outputs": [{"name": "Duty", "formula": "E-103.duty"}]})
    >>> [round(case.outputs[0] / 1e3) for case in Sensitivity(plant, asked).run().cases]
    [1329, 1267, 1193]
    """

    def __init__(self, document: Document, study: Study) -> None:
        if not study.outputs:
            raise StudyError("Nothing is looked at: choose a result.")
        self.document, self.study, self.cases = document, study, cases_of(document, study)
        self._base: Memory | None = None
        self._columns: tuple[StudyColumn, ...] | None = None

    @property
    def blocks(self) -> int:
        """How many blocks there are."""
        return -(-len(self.cases.values) // BLOCK)

    @property
    def outputs(self) -> tuple[StudyColumn, ...]:
        """The outputs with their kinds, as the plant has them where it stands. Raises StudyError for a formula whose value the plant has not."""
        self._stand()
        assert self._columns is not None
        return self._columns

    @property
    def inputs(self) -> tuple[StudyColumn, ...]:
        """The inputs as columns."""
        return tuple(
            StudyColumn(f"{given.unit} {given.title}", f"{given.unit}.{given.field}", kind_of(given), given.si) for given in self.cases.inputs
        )

    def block(self, number: int) -> list[Case]:
        """The cases of a block (from 0): the same bits whenever it is calculated."""
        memory = self._stand().branch()
        first = number * BLOCK
        return [self._case(first + k, values, memory) for k, values in enumerate(self.cases.values[first : first + BLOCK])]

    def run(self, finished: Mapping[int, Sequence[Case]] | None = None) -> StudyResult:
        """All blocks one after the other; those that are ``finished``, by number, are taken as they are."""
        result = StudyResult(self.study.name, self.inputs, self.outputs)
        for number in range(self.blocks):
            result.cases += (finished or {}).get(number) or self.block(number)
        return result

    def _stand(self) -> Memory:
        """What is known when the plant was calculated as it stands."""
        if self._base is None:
            base = Memory()
            result, document, _ = answered(self.document, base)
            found = [evaluate_pin(pin, document, result) for pin in self.study.outputs]
            missing = next((pin for pin in found if pin.value is None and (result.complete or "is not on the sheet" in pin.problem)), None)
            if missing is not None:
                raise StudyError(f"{missing.name} has no value: {missing.problem}")
            self._columns = tuple(StudyColumn(pin.name, pin.formula, pin.kind, pin.unit) for pin in found)
            self._base = base
        return self._base

    def _case(self, number: int, values: Any, memory: Memory) -> Case:
        reached(number / len(self.cases.values))
        result, document, _ = answered(with_givens(self.document, self.cases.inputs, values), memory)
        found = [evaluate_pin(pin, document, result) for pin in self.study.outputs]
        faults = tuple(f"{f.place}: {f.text}" for f in result.findings if f.severity == "fault")[:_FAULTS]
        return Case(number, tuple(float(v) for v in values), tuple(pin.value for pin in found), tuple(pin.problem for pin in found), faults)
