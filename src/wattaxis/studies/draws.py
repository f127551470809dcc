"""Samples of what a study varies: evenly between bounds, or as each value is distributed."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from wattaxis.flowsheet import Study, StudyFit
from wattaxis.solving.aims import FreeGiven
from wattaxis.studies.cases import WHOLE, Item, StudyError, bounds_of, named_given
from wattaxis.studies.parameters import Fitted

#: Pairs of samples for the indices of Sobol at least; standard deviations on either side that hold 95 % of a normal distribution.
FEWEST_PAIRS, NORMAL = 16, 1.959963984540054
#: Samples are the same whenever they are drawn.
_SEED = 20_260_101


def drawn(study: Study, items: Sequence[Item]) -> NDArray[np.float64]:
    """Samples in SI, shape (cases, inputs): of what is uncertain each as it is distributed, else evenly between the bounds. Raises StudyError."""
    inputs = sum(len(item.givens) for item in items)
    unit = _pairs(study, inputs) if study.design == "Sobol" else latin_hypercube(inputs, study.samples)
    found, at = [], 0
    for item in items:
        share = unit[:, at : at + len(item.givens)]
        found.append(_of_fit(item.fitted, share) if item.fitted is not None else _of_item(study, item, share[:, 0])[:, None])
        at += len(item.givens)
    return np.concatenate(found, axis=1)


def latin_hypercube(inputs: int, count: int) -> NDArray[np.float64]:
    """Samples of the unit cube, shape (count, inputs); the same ones whenever they are drawn (McKay, Beckman, Conover 1979)."""
    from scipy.stats import qmc

    return np.asarray(qmc.LatinHypercube(inputs, seed=_SEED).random(count))


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


def _of_item(study: Study, item: Item, share: NDArray[np.float64]) -> NDArray[np.float64]:
    """Values of one given, each exceeded with the probability 1 - ``share``, by its distribution where it is uncertain, else evenly."""
    assert not isinstance(item.item, StudyFit)
    (given,) = item.givens
    low, high = sorted(bounds_of(item.item, given))
    logarithmic = item.item.spacing == "logarithmic"
    ends = (np.log(low), np.log(high)) if logarithmic else (low, high)
    of = item.item.spread if study.asks == "uncertainty" else "even"
    values = ends[0] + (ends[1] - ends[0]) * share if of == "even" else _distributed(of, ends, given, logarithmic, share)
    values = np.exp(values) if logarithmic else values
    return np.round(values) if given.kind in WHOLE else values


def _of_fit(fitted: Fitted, share: NDArray[np.float64]) -> NDArray[np.float64]:
    """Numbers of a fit, normally distributed together: independent ones turned by the root of their correlation."""
    from scipy import stats

    size, turn = np.linalg.eigh(fitted.correlation)
    normal = stats.norm.ppf(share) @ (turn * np.sqrt(np.maximum(size, 0.0))).T
    middle = np.array([parameter.value for parameter in fitted.parameters])
    moved = normal * fitted.half_widths / NORMAL
    # Of what cannot be negative the interval is that of its logarithm.
    values: NDArray[np.float64] = np.where(fitted.logarithmic, middle * np.exp(moved / np.where(fitted.logarithmic, middle, 1.0)), middle + moved)
    return values


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
