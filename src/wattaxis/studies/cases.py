"""The cases of a study: which values its inputs have in each of them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import product

import numpy as np
from numpy.typing import NDArray

from wattaxis.flowsheet import Document, Pin, Study, StudyFit, StudyInput, StudyParameter, Varied
from wattaxis.flowsheet.document import MOST_PINS
from wattaxis.flowsheet.givens import with_given
from wattaxis.quantities import KINDS, Quantity, QuantityError, from_si, to_si
from wattaxis.solving.aims import FreeGiven, given_of
from wattaxis.studies.parameters import Fitted, FreeParameter, ParameterError, Place, fitted_of, parameter_of, with_values
from wattaxis.substances import turned

#: Cases of one study at most.
MOST = 10_000
#: Inputs of which all combinations are taken at most.
GRIDDED = 4
#: Kinds of which there are whole numbers only.
WHOLE = ("count", "ordinal")


class StudyError(ValueError):
    """A study that cannot be asked; ``str()`` says why and what helps.

    >>> try:
    ...     cases_of(Document(), Study(name="A"))
    ... except StudyError as error:
    ...     print(error)
    Nothing is varied: choose a value that is given.
    """


@dataclass(frozen=True)
class Item:
    """What an item of a study varies: one value, or of a fit all that it found."""

    item: Varied
    givens: tuple[FreeGiven, ...]
    fitted: Fitted | None = None


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
    from wattaxis.studies.draws import drawn

    items = items_of(document, study)
    inputs = tuple(given for item in items for given in item.givens)
    if study.asks == "uncertainty" or study.design in ("samples", "Sobol"):
        return Cases(inputs, drawn(study, items))
    if study.design == "grid" and len(inputs) > GRIDDED:
        raise StudyError(f"All combinations of {len(inputs)} values are too many: vary {GRIDDED} at most, or take samples.")
    points = [_points(item.item, item.givens[0]) for item in items if not isinstance(item.item, StudyFit)]
    if study.design == "grid":
        count = int(np.prod([len(of) for of in points]))
        _refuse_many(count)
        return Cases(inputs, np.array(list(product(*points))))
    _refuse_many(sum(map(len, points)))
    base = np.array([given.value for given in inputs])
    rows = [np.where(np.arange(len(inputs)) == k, value, base) for k, of in enumerate(points) for value in of]
    return Cases(inputs, np.array(rows))


def items_of(document: Document, study: Study) -> list[Item]:
    """What a study varies, item by item. Raises StudyError for what cannot be varied, or is varied twice."""
    if not study.inputs:
        raise StudyError("Nothing is varied: choose a value that is given.")
    items = [_item(document, item) for item in study.inputs]
    _refuse_out_of_place(study, items)
    givens = [given for item in items for given in item.givens]
    places = [_place(given) for given in givens]
    twice = next((given for given in givens if places.count(_place(given)) > 1), None)
    if twice is not None:
        raise StudyError(f"{named_given(twice)} is varied twice. Leave one of the two out.")
    return items


def study_givens(document: Document, study: Study) -> tuple[FreeGiven, ...]:
    """All values that a study varies, in the order of the columns of its answer. Raises StudyError as :func:`items_of`."""
    return tuple(given for item in items_of(document, study) for given in item.givens)


def _item(document: Document, item: Varied) -> Item:
    try:
        if isinstance(item, StudyFit):
            fitted = fitted_of(document, item)
            return Item(item, fitted.parameters, fitted)
        return Item(item, (parameter_of(document, item) if isinstance(item, StudyParameter) else _given(document, item),))
    except ParameterError as error:
        raise StudyError(str(error)) from error


def _place(given: FreeGiven) -> tuple[str, str] | Place:
    """Where a value stands; of a pair whichever of the two is named first."""
    if not isinstance(given, FreeParameter):
        return given.unit, given.field
    place = given.place
    if place.of == "pair" and place.first > place.second:
        return replace(place, first=place.second, second=place.first, name=next(iter(turned({place.name: 0.0}, True))))
    return place


def _refuse_out_of_place(study: Study, items: Sequence[Item]) -> None:
    """Raises StudyError for properties in a search for the best, and for fits where nothing is drawn from their intervals."""
    for item in items:
        if isinstance(item.item, StudyInput):
            continue
        if study.asks == "optimum":
            raise StudyError(f"{named_given(item.givens[0])} is a property, which nobody can choose. Vary what can be built or run otherwise.")
        if item.fitted is not None and study.asks != "uncertainty":
            raise StudyError("What a fit found is drawn from its intervals: ask how sure results are, or vary one number of it between bounds.")
        if item.fitted is not None and study.design == "Sobol" and len(item.givens) > 1:
            text = "The indices of Sobol need inputs that do not go together, and the numbers of a fit do."
            raise StudyError(f"{text} Take samples, or vary one number of it between bounds.")


def plant_of_case(document: Document, study: Study, values: Sequence[float]) -> Document:
    """The plant with the values (SI) that the inputs of a study have in a case, in the units that were typed. Raises StudyError.

    >>> from importlib.resources import files
    >>> from wattaxis import load
    >>> plant = load(files("wattaxis.examples").joinpath("sandlark_bay.json").read_text())
    >>> warm = StudyInput(unit="E-103", field="outlet_temperature")
    >>> str(plant_of_case(plant, Study(name="Cold", inputs=(warm,)), [303.15]).unit("E-103").spec.outlet_temperature)
    '30 degC'
    """
    givens = study_givens(document, study)
    changed = {unit.tag: unit for unit in document.units}
    chemical: list[tuple[FreeGiven, float]] = []
    for given, value in zip(givens, values, strict=True):
        if isinstance(given, FreeParameter):
            chemical.append((given, float(value)))
            continue
        typed = from_si(float(value), given.typed, difference=KINDS[given.kind].difference)
        changed[given.unit] = with_given(changed[given.unit], given.field, Quantity(value=float(f"{typed:.12g}"), unit=given.typed))
    plant = document.model_copy(update={"units": tuple(changed[unit.tag] for unit in document.units)})
    return with_values(plant, [given for given, _ in chemical], [value for _, value in chemical])


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
        raise StudyError(f"{named_given(given)} is found by the aim {aim.name}. Pause the aim, or vary something else.")
    return given


def named_given(given: FreeGiven) -> str:
    """A given at the beginning of a sentence."""
    # Of names such as K1 the first letter is not that of a word.
    title = f"{given.title[:1].lower()}{given.title[1:]}" if given.title[1:2].islower() else given.title
    return f"The {title} of {given.unit}"


def _si(quantity: Quantity, given: FreeGiven) -> float:
    try:
        value = to_si(quantity, given.kind)
    except QuantityError as error:
        raise StudyError(f"{named_given(given)}: {error}") from error
    kind = KINDS[given.kind]
    low, high = (given.low, given.high) if isinstance(given, FreeParameter) else (kind.low, kind.high)
    if not (low <= value <= high) or (kind.low_open and value == low):
        raise StudyError(f"{named_given(given)} cannot be {given.told(value)}. Give values that it may have.")
    return value


def bounds_of(item: StudyInput | StudyParameter, given: FreeGiven) -> tuple[float, float]:
    """The bounds between which an input is varied, in SI. Raises StudyError where there are none, or none that make sense."""
    if item.low is None or item.high is None:
        raise StudyError(f"{named_given(given)} is varied, and {'its lower' if item.low is None else 'its upper'} bound is blank. Give one.")
    low, high = _si(item.low, given), _si(item.high, given)
    if low == high:
        raise StudyError(f"{named_given(given)} is varied from {given.told(low)} to the same. Give two different bounds.")
    if item.spacing == "logarithmic" and not (low > 0.0 and high > 0.0):
        raise StudyError(
            f"{named_given(given)} is varied by its logarithm, from {given.told(low)} to {given.told(high)}. Give bounds above 0, or even steps."
        )
    return low, high


def _points(item: StudyInput | StudyParameter, given: FreeGiven) -> NDArray[np.float64]:
    """Values of an input in SI; of what is whole each number once."""
    if item.values:
        found = np.array([_si(value, given) for value in item.values])
    else:
        low, high = bounds_of(item, given)
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


def looked_at(document: Document, studies: Sequence[Study]) -> Document:
    """The document with all that some studies look at among its pins, before those that it has.

    >>> from wattaxis.flowsheet import Pin
    >>> [pin.name for pin in looked_at(Document(), [Study(name="Cold", outputs=(Pin(name="Duty", formula="E-1.duty"),))]).pins]
    ['Duty']
    """
    pins = {pin.name: pin for study in studies for pin in (*study.objectives, *study.limits, *study.outputs)}
    made = [Pin(name=name, formula=pin.formula) for name, pin in pins.items()]
    kept = [pin for pin in document.pins if pin.name not in pins]
    return document.model_copy(update={"pins": tuple([*made, *kept][:MOST_PINS])})
