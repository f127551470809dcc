"""The plant of a study as it stands, and what formulas over its results give when values of it are others."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from wattaxis.flowsheet import Document, Pin
from wattaxis.quantities import shown_as
from wattaxis.solving.aims import FreeGiven
from wattaxis.solving.memory import Memory, Purpose
from wattaxis.solving.pins import evaluate_pin
from wattaxis.solving.sequential import answered
from wattaxis.studies.cases import StudyError
from wattaxis.studies.parameters import with_values

#: Faults of a case that are kept.
_FAULTS = 5


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


def input_columns(givens: Sequence[FreeGiven]) -> tuple[StudyColumn, ...]:
    """What is varied, as columns."""
    return tuple(
        StudyColumn(f"{given.unit} {given.title}", f"{given.unit}.{given.field}", shown_as(given.kind, given.si), given.si) for given in givens
    )


class Stand:
    """A plant as it stands, the values of it that are varied, and formulas over its results.

    Raises StudyError for a formula whose value the plant has not, though it is calculated.
    """

    def __init__(self, document: Document, givens: Sequence[FreeGiven], pins: Sequence[Pin]) -> None:
        self.document, self.givens, self.pins = document, tuple(givens), tuple(pins)
        #: What is known when the plant was calculated as it stands.
        self.memory = Memory()
        result, changed, _ = answered(document, self.memory)
        if result.loops:
            answered(document, self.memory, purpose="search")  # their slopes, which all cases begin with
        found = [evaluate_pin(pin, changed, result) for pin in pins]
        missing = next((pin for pin in found if pin.value is None and (result.complete or "is not on the sheet" in pin.problem)), None)
        if missing is not None:
            raise StudyError(f"{missing.name} has no value: {missing.problem}")
        #: The formulas with their kinds, as the plant has them where it stands; and their values there, None where there is none.
        self.outputs = tuple(StudyColumn(pin.name, pin.formula, pin.kind, pin.unit) for pin in found)
        self.values = tuple(pin.value for pin in found)
        self.faults = tuple(f"{f.place}: {f.text}" for f in result.findings if f.severity == "fault")

    def case(self, number: int, values: Sequence[float], memory: Memory, purpose: Purpose = "answer") -> Case:
        """The plant calculated with other values (SI) of what is varied, from what ``memory`` knows."""
        told = tuple(float(v) for v in values)
        try:
            changed = with_values(self.document, self.givens, values)
        except ValueError as error:  # of a rate law that is none with such a number
            return Case(number, told, (None,) * len(self.pins), (str(error),) * len(self.pins), (f"Chemistry: {error}",))
        result, document, _ = answered(changed, memory, purpose=purpose, formulas=[pin.formula for pin in self.pins])
        found = [evaluate_pin(pin, document, result) for pin in self.pins]
        faults = tuple(f"{f.place}: {f.text}" for f in result.findings if f.severity == "fault")[:_FAULTS]
        return Case(number, told, tuple(pin.value for pin in found), tuple(pin.problem for pin in found), faults)
