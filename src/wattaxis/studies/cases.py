"""The cases of a study: which values its inputs have in each of them."""

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
#: Inputs of which all combinations are taken at most.
GRIDDED = 4
#: Kinds of which there are whole numbers only.
WHOLE = ("count", "ordinal")
#: Pairs of samples for the indices of Sobol at least; standard deviations on either side that hold 95 % of a normal distribution.
FEWEST_PAIRS, NORMAL = 16, 1.959963984540054
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
    inputs = study_givens(document, study)
    if study.asks == "uncertainty" or study.design == "Sobol":
        return Cases(inputs, _drawn(study, inputs))
    if study.design == "grid" and len(inputs) > GRIDDED:
        raise StudyError(f"All combinations of {len(inputs)} values are too many: vary {GRIDDED} at most, or take samples.")
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


def study_givens(document: Document, study: Study) -> tuple[FreeGiven, ...]:
    """What a study varies. Raises StudyError for what cannot be varied, or is varied twice."""
    if not study.inputs:
        raise StudyError("Nothing is varied: choose a value that is given.")
    inputs = tuple(_given(document, item) for item in study.inputs)
    places = [(given.unit, given.field) for given in inputs]
    twice = next((given for given in inputs if places.count((given.unit, given.field)) > 1), None)
    if twice is not None:
        raise StudyError(f"{named_given(twice)} is varied twice. Leave one of the two out.")
    return inputs


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
        raise StudyError(f"{named_given(given)} is found by the aim {aim.name}. Pause the aim, or vary something else.")
    return given


def named_given(given: FreeGiven) -> str:
    """A given at the beginning of a sentence."""
    return f"The {given.title[:1].lower()}{given.title[1:]} of {given.unit}"


def _si(quantity: Quantity, given: FreeGiven) -> float:
    try:
        value = to_si(quantity, given.kind)
    except QuantityError as error:
        raise StudyError(f"{named_given(given)}: {error}") from error
    kind = KINDS[given.kind]
    if not (kind.low <= value <= kind.high) or (kind.low_open and value == kind.low):
        raise StudyError(f"{named_given(given)} cannot be {given.told(value)}. Give values that it may have.")
    return value


def bounds_of(item: StudyInput, given: FreeGiven) -> tuple[float, float]:
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


def _points(item: StudyInput, given: FreeGiven) -> NDArray[np.float64]:
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


def _samples(study: Study, inputs: tuple[FreeGiven, ...]) -> NDArray[np.float64]:
    """Samples of a Latin hypercube between the bounds, by the logarithm where an input is spaced so."""
    return _spread(study, inputs, latin_hypercube(len(inputs), study.samples))


def latin_hypercube(inputs: int, count: int) -> NDArray[np.float64]:
    """Samples of the unit cube, shape (count, inputs); the same ones whenever they are drawn (McKay, Beckman, Conover 1979)."""
    from scipy.stats import qmc

    return np.asarray(qmc.LatinHypercube(inputs, seed=_SEED).random(count))


def _drawn(study: Study, inputs: tuple[FreeGiven, ...]) -> NDArray[np.float64]:
    """Samples of what is uncertain, each as it is distributed."""
    unit = _pairs(study, len(inputs)) if study.design == "Sobol" else latin_hypercube(len(inputs), study.samples)
    return _spread(study, inputs, unit)


def pairs_of(study: Study, inputs: int) -> int:
    """How many pairs of samples a study of Sobol's indices has: a power of two, two cases each and one more for each input."""
    return 1 << int(np.log2(max(study.samples // (inputs + 2), 1)))


def _pairs(study: Study, inputs: int) -> NDArray[np.float64]:
    """Pairs of samples (Saltelli et al. 2010): all first ones, all second ones, then for each input the first ones with that of the second ones."""
    from scipy.stats import qmc

    count = pairs_of(study, inputs)
    if count < FEWEST_PAIRS:
        raise StudyError(f"The indices of Sobol need {FEWEST_PAIRS * (inputs + 2)} samples at least for {inputs} inputs. Take more.")
    both = np.asarray(qmc.Sobol(2 * inputs, seed=_SEED).random(count))
    first, second = both[:, :inputs], both[:, inputs:]
    mixed = [np.where(np.arange(inputs) == k, second, first) for k in range(inputs)]
    return np.concatenate([first, second, *mixed])


def _spread(study: Study, inputs: tuple[FreeGiven, ...], unit: NDArray[np.float64]) -> NDArray[np.float64]:
    """Points of the unit cube as values of the inputs in SI, each by its distribution where it is uncertain, else evenly."""
    found: NDArray[np.float64] = np.empty_like(unit)
    for k, (item, given) in enumerate(zip(study.inputs, inputs, strict=True)):
        low, high = sorted(bounds_of(item, given))
        logarithmic = item.spacing == "logarithmic"
        ends = (np.log(low), np.log(high)) if logarithmic else (low, high)
        of = item.spread if study.asks == "uncertainty" else "even"
        values = ends[0] + (ends[1] - ends[0]) * unit[:, k] if of == "even" else _distributed(of, ends, given, logarithmic, unit[:, k])
        values = np.exp(values) if logarithmic else values
        found[:, k] = np.round(values) if given.kind in WHOLE else values
    return found


def _distributed(of: str, ends: tuple[float, float], given: FreeGiven, logarithmic: bool, share: NDArray[np.float64]) -> NDArray[np.float64]:
    """Values that are exceeded with the probability 1 - ``share``. Raises StudyError for a triangle whose peak lies outside."""
    from scipy import stats

    low, high = ends
    inside = [np.log(v) if logarithmic and v > 0.0 else -np.inf if logarithmic else v for v in (given.low, given.high, given.value)]
    if of == "triangular":
        if not low <= inside[2] <= high:
            raise StudyError(f"{named_given(given)} is {given.told(given.value)}, outside its bounds: a triangle needs its peak between them.")
        return np.asarray(stats.triang.ppf(share, (inside[2] - low) / (high - low), low, high - low))
    mean, deviation = 0.5 * (low + high), (high - low) / (2.0 * NORMAL)
    # What a value cannot be is not drawn either.
    return np.asarray(stats.truncnorm.ppf(share, (inside[0] - mean) / deviation, (inside[1] - mean) / deviation, mean, deviation))
