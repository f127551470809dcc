"""Local effects: how much a result moves when each typed value moves a little, what matters most first."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import asdict, dataclass
from typing import Any

import numpy as np

from wattaxis.flowsheet import Document, Pin
from wattaxis.progress import reached
from wattaxis.quantities import shown_as
from wattaxis.solving.aims import FreeGiven, free_givens, with_givens
from wattaxis.solving.memory import Memory
from wattaxis.solving.pins import evaluate_pin, pin_of
from wattaxis.solving.sequential import answered
from wattaxis.studies.cases import WHOLE, StudyError

#: Values that are tried at most.
MOST = 300
#: By how much values are moved: of themselves, K, of what is a fraction.
_SHARE, _WARMER, _POINT = 0.01, 1.0, 0.01


@dataclass(frozen=True)
class Effect:
    """A typed value: its unit and path, title, kind (None where none fits) and SI unit, what it is, by how much it is raised, and the result with it.

    ``change`` is None where the plant is not calculated with it, and ``problem`` says why.
    """

    unit: str
    field: str
    title: str
    kind: str | None
    si: str
    value: float
    step: float
    change: float | None
    problem: str = ""


@dataclass(frozen=True)
class LocalEffects:
    """A result with its kind and SI unit, what it is now, and the effects on it, the largest first."""

    formula: str
    kind: str | None
    si: str
    value: float
    effects: tuple[Effect, ...]

    def to_data(self) -> dict[str, Any]:
        """Plain data for JSON."""
        return asdict(self)


def local_effects(document: Document, formula: str, units: Collection[str] = ()) -> LocalEffects:
    """Raise every single value that is typed for some ``units``, or for all, and calculate the plant again; recycles close and aims are met again.

    Numbers of pieces are raised by one, temperatures by 1 K, fractions by 0.01, all else by one per cent; what cannot be raised is lowered. Values
    that aims find, and what is known rather than chosen, are left out. Raises StudyError where there is nothing to ask.

    >>> from importlib.resources import files
    >>> from wattaxis import load
    >>> plant = load(files("wattaxis.examples").joinpath("sandlark_bay.json").read_text())
    >>> found = local_effects(plant, "S-08.mass_flow", ["E-103"])
    >>> [(effect.field, effect.change > 0.0) for effect in found.effects]
    [('outlet_temperature', True), ('pressure_change', False)]
    """
    try:
        pin = pin_of(formula)
    except ValueError as error:
        raise StudyError(str(error)) from error
    base = Memory()
    result, changed, _ = answered(document, base)
    now = evaluate_pin(pin, changed, result)
    if now.value is None:
        raise StudyError(now.problem)
    found_by_aims = {(aim.free.unit, aim.free.field) for aim in document.aims if aim.active}
    givens = free_givens(document, [unit.tag for unit in document.units if not units or unit.tag in units], found_by_aims)
    if not givens:
        raise StudyError("No value is typed there that could be moved.")
    if len(givens) > MOST:
        raise StudyError(f"These are {len(givens)} values, and {MOST} are tried at most. Choose an area.")
    found = []
    for k, given in enumerate(givens):
        reached(k / len(givens))
        found.append(_effect(document, pin, given, now.value, base))
    found.sort(key=lambda effect: -abs(effect.change or 0.0))
    return LocalEffects(formula, now.kind, now.unit, now.value, tuple(found))


def _step(given: FreeGiven) -> float:
    if given.kind in WHOLE:
        return 1.0
    if given.kind == "temperature":
        return _WARMER
    if given.kind in ("fraction", "share") and abs(given.value) <= 1.0:
        return _POINT
    return _SHARE * abs(given.value) or 0.1 * given.scale


def _effect(document: Document, pin: Pin, given: FreeGiven, before: float, base: Memory) -> Effect:
    step, problem = _step(given), ""
    told = (given.unit, given.field, given.title, shown_as(given.kind, given.si), given.si, given.value, step)
    for sign in (1.0, -1.0):
        if not given.low <= given.value + sign * step <= given.high:
            continue
        # Each from the plant as it stands, so that none depends on those before it.
        result, changed, _ = answered(with_givens(document, [given], np.array([given.value + sign * step])), base.branch())
        there = evaluate_pin(pin, changed, result)
        if there.value is not None:
            return Effect(*told, sign * (there.value - before))
        problem = problem or next((f.text for f in result.findings if f.severity == "fault"), there.problem)
    return Effect(*told, None, problem or "It can be moved neither up nor down.")
