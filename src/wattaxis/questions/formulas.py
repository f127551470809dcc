"""What formulas over results come to, for whoever types one."""

from __future__ import annotations

from collections.abc import Sequence

from wattaxis.flowsheet import Document
from wattaxis.solving.pins import evaluate_pin, pin_of
from wattaxis.solving.results import PinResult, SolveResult


def formula_values(document: Document, result: SolveResult, formulas: Sequence[str]) -> list[PinResult]:
    """Values (SI) of formulas with the kind of each where one fits, or why they have none; one that cannot be read has its sentence.

    >>> from wattaxis import solve
    >>> [found.problem for found in formula_values(Document(), solve(Document()), ["S-1.mass_flow", "2 kW + 3 K"])]
    ['nothing on the sheet is tagged S-1.', 'The dimensions do not fit: watt and kelvin.']
    """
    found = []
    for text in formulas:
        try:
            found.append(evaluate_pin(pin_of(text), document, result))
        except ValueError as error:
            found.append(PinResult("", text, problem=str(error)))
    return found
