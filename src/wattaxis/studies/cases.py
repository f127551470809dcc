"""The cases of a sensitivity study: which values its inputs have in each of them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import product

import numpy as np
from numpy.typing import NDArray

from wattaxis.flowsheet import Document, Study, StudyInput
from wattaxis.flowsheet.givens import with_given
from wattaxis.quantities import KINDS, Quantity, QuantityError, from_si, to_si
from wattaxis.solving.aims import FreeGiven, given_of

#: Cases of one study at most.
MOST = 10_000
#: Kinds of which there are whole numbers only.
WHOLE = ("count", "ordinal")
#: Samples are the same whenever they are drawn.
_SEED = 20_260_101


class StudyError(ValueError):
    """A study that cannot be asked; ``str()`` says why and what helps.

    >>> try:
    ...     cases_of(Document(), Study(name="A"))
    ... except StudyError as error:
    ...     print(error)
    Nothing is varied: choose a value that is given.
    """


@dataclass(frozen=True)
class Cases:
    """What is varied, and its values in SI, shape (cases, inputs)."""

    inputs: tuple[FreeGiven, ...]
    values: NDArray[np.float64]


def cases_of(document: Document, study: Study) -> Cases:
    """The cases of a study in their order: of a grid the last input changes fastest. Raises StudyError.

    >>> from importlib.resources import files
    >>> from wattaxis import load
    >>> plant = load(files("wattaxis.examples").joinpath("sandlark_bay.json").read_text())
    >>> warm = StudyInput(unit="E-103", field="outlet_temperature", low={"value": 20, "unit": "degC"}, high={"value": 40, "unit": "degC"}, points=3)
    >>> cases_of(plant, Study(name="Cold", inputs=(warm,))).values[:, 0]
    array([293.15, 303.15, 313.15])
    """
    if not study.inputs:
        raise StudyError("Nothing is varied: choose a value that is given.")
    inputs = tuple(_given(document, item) for item in study.inputs)
    places = [(given.unit, given.field) for given in inputs]
    twice = next((given for given in inputs if places.count((given.unit, given.field)) > 1), None)
    if twice is not None:
        raise StudyError(f"{_named(twice)} is varied twice. Leave one of the two out.")
    if study.design == "samples":
        return Cases(inputs, _samples(study, inputs))
    points = [_points(item, given) for item, given in zip(study.inputs, inputs, strict=True)]
    if study.design == "grid":
        count = int(np.prod([len(of) for of in points]))
        _refuse_many(count)
        return Cases(inputs, np.array(list(product(*points))))
    _refuse_many(sum(map(len, points)))
    base = np.array([given.value for given in inputs])
    rows = [np.where(np.arange(len(inputs)) == k, value, base) for k, of in enumerate(points) for value in of]
    return Cases(inputs, np.array(rows))


def kind_of(given: FreeGiven) -> str | None:
    """The kind of quantity by which its SI values are shown: a flow is one by moles or by mass. None where no kind has that SI unit alone."""
    if len(KINDS[given.kind].si) == 1:
        return given.kind
    return next((name for name, kind in KINDS.items() if kind.si == (given.si,)), None)


def plant_of_case(document: Document, study: Study, values: Sequence[float]) -> Document:
    """The plant with the values (SI) that the inputs of a study have in a case, in the units that were typed. Raises StudyError.

    >>> from importlib.resources import files
    >>> from wattaxis import load
    >>> plant = load(files("wattaxis.examples").joinpath("sandlark_bay.json").read_text())
    >>> warm = StudyInput(unit="E-103", field="outlet_temperature")
    >>> str(plant_of_case(plant, Study(name="Cold", inputs=(warm,)), [303.15]).unit("E-103").spec.outlet_temperature)
    '30 degC'
    """
    changed = {unit.tag: unit for unit in document.units}
    for item, value in zip(study.inputs, values, strict=True):
        given = _given(document, item)
        typed = from_si(float(value), given.typed, difference=KINDS[given.kind].difference)
        changed[given.unit] = with_given(changed[given.unit], given.field, Quantity(value=float(f"{typed:.12g}"), unit=given.typed))
    return document.model_copy(update={"units": tuple(changed[unit.tag] for unit in document.units)})


def _refuse_many(count: int) -> None:
    if count > MOST:
        raise StudyError(f"These are {count} cases, and a study has {MOST} at most. Take fewer points.")


def _given(document: Document, item: StudyInput) -> FreeGiven:
    """What an input varies. Raises StudyError where there is nothing that could be."""
    given = given_of(document, item.unit, item.field)
    if isinstance(given, str):
        raise StudyError(given.replace(", whose value it frees, is", " is"))
    aim = next((a for a in document.aims if a.active and (a.free.unit, a.free.field) == (item.unit, item.field)), None)
    if aim is not None:
        raise StudyError(f"{_named(given)} is found by the aim {aim.name}. Pause the aim, or vary something else.")
    return given


def _named(given: FreeGiven) -> str:
    return f"The {given.title[:1].lower()}{given.title[1:]} of {given.unit}"


def _si(quantity: Quantity, given: FreeGiven) -> float:
    try:
        value = to_si(quantity, given.kind)
    except QuantityError as error:
        raise StudyError(f"{_named(given)}: {error}") from error
    kind = KINDS[given.kind]
    if not (kind.low <= value <= kind.high) or (kind.low_open and value == kind.low):
        raise StudyError(f"{_named(given)} cannot be {given.told(value)}. Give values that it may have.")
    return value


def _bounds(item: StudyInput, given: FreeGiven) -> tuple[float, float]:
    if item.low is None or item.high is None:
        raise StudyError(f"{_named(given)} is varied, and {'its lower' if item.low is None else 'its upper'} bound is blank. Give one.")
    low, high = _si(item.low, given), _si(item.high, given)
    if low == high:
        raise StudyError(f"{_named(given)} is varied from {given.told(low)} to the same. Give two different bounds.")
    if item.spacing == "logarithmic" and not (low > 0.0 and high > 0.0):
        raise StudyError(
            f"{_named(given)} is varied by its logarithm, from {given.told(low)} to {given.told(high)}. Give bounds above 0, or even steps."
        )
    return low, high


def _points(item: StudyInput, given: FreeGiven) -> NDArray[np.float64]:
    """Values of an input in SI; of what is whole each number once."""
    if item.values:
        found = np.array([_si(value, given) for value in item.values])
    else:
        low, high = _bounds(item, given)
        found = np.geomspace(low, high, item.points) if item.spacing == "logarithmic" else _even(low, high, item.points, given)
    if given.kind in WHOLE:
        rounded = np.round(found)
        found = rounded[np.sort(np.unique(rounded, return_index=True)[1])]
    return found


def _even(low: float, high: float, points: int, given: FreeGiven) -> NDArray[np.float64]:
    """Even steps, of numbers as one would type them: 30 degC and not 30.000000000000001."""
    low, high = (from_si(value, given.typed, difference=KINDS[given.kind].difference) for value in (low, high))
    typed = [float(f"{value:.12g}") for value in np.linspace(low, high, points)]
    return np.array([to_si(Quantity(value=value, unit=given.typed), given.kind) for value in typed])


def _samples(study: Study, inputs: tuple[FreeGiven, ...]) -> NDArray[np.float64]:
    """Samples of a Latin hypercube between the bounds, by the logarithm where an input is spaced so."""
    from scipy.stats import qmc

    unit = qmc.LatinHypercube(len(inputs), seed=_SEED).random(study.samples)
    found: NDArray[np.float64] = np.empty_like(unit)
    for k, (item, given) in enumerate(zip(study.inputs, inputs, strict=True)):
        low, high = _bounds(item, given)
        spread = low * (high / low) ** unit[:, k] if item.spacing == "logarithmic" else low + (high - low) * unit[:, k]
        found[:, k] = np.round(spread) if given.kind in WHOLE else spread
    return found
