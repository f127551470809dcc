"""What looks like a slip in measured data: values that no mixture has, as a wrong unit or a shifted column gives them."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping

import numpy as np
from numpy.typing import NDArray

from wattaxis.flowsheet.chemistry import Chemistry
from wattaxis.flowsheet.data import Measured, data_set
from wattaxis.flowsheet.model import resolve
from wattaxis.properties.fitting import DATA_KINDS
from wattaxis.substances import Component
from wattaxis.substances.component import lee_kesler

#: Pressures over a liquid beyond these multiples: of the sum of all vapour pressures, which two liquids that do not mix at all have (Raoult), and of
#: the lowest of them, which hardly an azeotrope falls below.
MOST_PRESSURE, LEAST_PRESSURE = 2.5, 0.25
#: The same of one component, whose known vapour pressure may itself be a rough estimate.
MOST_ALONE, LEAST_ALONE = 5.0, 0.2
#: Activity coefficients at infinite dilution: those of hydrocarbons in water reach some 1e8.
ACTIVITY = (1e-4, 1e9)
#: Excess enthalpies of liquids, J/mol, hardly reach a fifth of it.
MOST_EXCESS_ENTHALPY = 2e4
#: kg/m3 of a liquid of organic components or water hardly reach it; times the mass at the start that may be measured, for the errors of both.
MOST_DENSE, MOST_GAINED = 3000.0, 1.2
#: Temperatures, K, at which liquids are measured.
TEMPERATURE = (50.0, 1500.0)


def data_doubts(chemistry: Chemistry, part: Measured, before: Measured | None = None) -> tuple[str, ...]:
    """Sentences on points that look like a slip; of points alone that are new or changed since ``before``.

    Points that are set aside are passed over, and comparisons that a point lacks a value for. Raises ValueError where a component is not in the
    chemistry.
    """
    known = {item.id: item for item in chemistry.components}
    missing = [id for id in part.components if id not in known]
    if missing:
        raise ValueError(f"{missing[0]} is not among the components.")
    try:
        components = [c for c in (resolve(known[id]) for id in part.components) if isinstance(c, Component)]
    except KeyError as error:
        raise ValueError(str(error.args[0])) from error
    fresh = _fresh(part, before)
    if len(components) < len(part.components) or not fresh.any():
        return ()
    columns = data_set(part).columns
    slips = _reacting_slips if DATA_KINDS[part.kind].reacting else _slips
    return tuple(_said(text, wrong & fresh) for text, wrong in slips(components, columns) if (wrong & fresh).any())


def _reacting_slips(components: list[Component], columns: Mapping[str, NDArray[np.float64]]) -> Iterator[tuple[str, NDArray[np.bool_]]]:
    yield f"the temperature lies outside {TEMPERATURE[0]:g} to {TEMPERATURE[1]:g} K", _outside(columns["T"], *TEMPERATURE)
    masses = {}
    for letter, when in (("f", "at the start"), ("c", "measured")):
        blank = np.zeros_like(columns["T"])
        masses[letter] = blank + sum(np.nan_to_num(columns.get(f"{letter}{k + 1}", blank)) * c.molar_mass for k, c in enumerate(components))
        yield f"what is {when} weighs more than {MOST_DENSE:g} kg/m3, as no liquid does", masses[letter] > MOST_DENSE
    yield "more mass is measured than there was at the start", (masses["f"] > 0.0) & (masses["c"] > MOST_GAINED * masses["f"])


def _slips(components: list[Component], columns: Mapping[str, NDArray[np.float64]]) -> Iterator[tuple[str, NDArray[np.bool_]]]:
    temperature = columns["T"]
    yield f"the temperature lies outside {TEMPERATURE[0]:g} to {TEMPERATURE[1]:g} K", _outside(temperature, *TEMPERATURE)
    if "P" in columns:
        each = np.array([[_vapour_pressure(c, t) for c in components] for t in temperature])
        most, fewest = (MOST_PRESSURE, LEAST_PRESSURE) if len(components) > 1 else (MOST_ALONE, LEAST_ALONE)
        high = columns["P"] > most * each.sum(axis=1)
        least = np.where(np.isnan(each), [c.critical_pressure for c in components], each).min(axis=1)
        low = (columns["P"] < fewest * least) & ~np.isnan(temperature)
        yield "the pressure is far above the vapour pressures of all components together at that temperature", high
        yield "the pressure is far below the vapour pressure of every component at that temperature", low
    if "w1" in columns:
        yield (
            "a component is above its critical temperature, so there are no two liquids",
            temperature > min(c.critical_temperature for c in components),
        )
    for key in ("g1", "g2"):
        if key in columns:
            yield f"the activity coefficient {key} is one that no mixture is known to have", _outside(columns[key], *ACTIVITY)
    if "h" in columns:
        yield "the excess enthalpy is larger than that of any liquid mixture", np.abs(columns["h"]) > MOST_EXCESS_ENTHALPY


def _vapour_pressure(c: Component, temperature: float) -> float:
    """Pa; not a number above the critical temperature, where nothing is too much."""
    if not 0.0 < temperature < c.critical_temperature:
        return float("nan")
    curve = c.vapour_pressure or lee_kesler(c.critical_temperature)
    try:
        return math.exp(min(curve.log_pressure(temperature, c.critical_temperature, c.critical_pressure, c.acentric_factor), 100.0))
    except ArithmeticError:  # at the pole of constants of one's own there is nothing to compare with
        return float("nan")


def _outside(values: NDArray[np.float64], low: float, high: float) -> NDArray[np.bool_]:
    return (values < low) | (values > high)


def _fresh(part: Measured, before: Measured | None) -> NDArray[np.bool_]:
    """Which points are to be looked at: (points,)."""
    same = before is not None and (before.components, [(c.key, c.unit) for c in before.columns]) == (
        part.components,
        [(c.key, c.unit) for c in part.columns],
    )
    old = set(before.rows) if before is not None and same else set()
    return np.array([row not in old and k not in part.set_aside for k, row in enumerate(part.rows)], dtype=bool)


def _said(text: str, wrong: NDArray[np.bool_]) -> str:
    points = [int(k) + 1 for k in np.flatnonzero(wrong)]
    some = f"Point {points[0]}" if len(points) == 1 else f"{len(points)} points, from point {points[0]} on"
    return f"{some}: {text}."
