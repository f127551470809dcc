"""Diagrams of two components: boiling at a pressure or a temperature, y over x, mixing and excess properties."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from wattaxis.properties import layout
from wattaxis.properties.diagrams.chart import Array, Axis, Curve, Diagram, Mark, line
from wattaxis.properties.diagrams.singular import azeotropes
from wattaxis.properties.errors import FlashError
from wattaxis.properties.model import PropertyModel
from wattaxis.properties.state import State

#: Fractions of the first component at which boiling and dew points are calculated, closer together near the ends.
GRID = 0.5 - 0.5 * np.cos(np.linspace(0.0, np.pi, 81))
_COLDEST = 180.0  # K, lower end of what is drawn of two liquids


def two_of(model: PropertyModel, first: str, second: str) -> PropertyModel:
    """The model of two of its components. Raises KeyError for an unknown one and ValueError for the same one twice."""
    return model.part_of((first, second))


def boiling_diagram(model: PropertyModel, first: str, second: str, *, P: float | None = None, T: float | None = None) -> Diagram:
    """T-x-y at ``P`` (Pa) or P-x-y at ``T`` (K): bubble and dew curve, where two liquids are their compositions too, and azeotropes as marks.

    Raises ValueError unless exactly one of P and T is given.

    >>> model = PropertyModel("margules", ["benzene", "toluene"])
    >>> boiling_diagram(model, "benzene", "toluene", P=101325.0).curve("bubble").points[0].round(2)
    array([  0.  , 383.83])
    """
    if (P is None) == (T is None):
        raise ValueError("Give the pressure or the temperature of the diagram, one of them.")
    pair = two_of(model, first, second)
    bubble, dew = _saturated(pair, P, T, 0.0), _saturated(pair, P, T, 1.0)
    curves = [line("bubble", [GRID, bubble]), line("dew", [GRID, dew])]
    notes = []
    if not (np.isfinite(bubble).all() and np.isfinite(dew).all()):
        notes.append("Where a curve is missing, liquid and vapour do not coexist: a component is above its critical point there.")
    liquids = _liquids(pair, P, T, bubble)
    if liquids is not None:
        curves.append(liquids)
    marks = _azeotropes(pair, P, T)
    level = Axis("temperature", "temperature") if T is None else Axis("pressure", "pressure")
    where = f"{P / 1e5:g} bar" if P is not None else f"{T:g} K"
    name = pair.components[0].name
    title = f"{name} and {pair.components[1].name} at {where}, {pair.family.info.title}"
    return Diagram(title, (Axis(f"mole fraction of {name}"), level), tuple(curves), marks, tuple(notes))


def _saturated(pair: PropertyModel, p: float | None, t: float | None, vf: float) -> Array:
    """Bubble (``vf`` 0) or dew (1) temperatures or pressures over the grid, nan where there are none."""

    def level(x: float) -> float:
        try:
            state = pair.flash([x, 1.0 - x], P=p, T=t, VF=vf)
        except FlashError:
            return np.nan
        return state.temperature if t is None else state.pressure

    return np.array([level(float(x)) for x in GRID])


def _liquids(pair: PropertyModel, p: float | None, t: float | None, bubble: Array) -> Curve | None:
    """Compositions of two liquids below the boiling temperature (at ``p``), or above the boiling pressure (at ``t``)."""
    if not np.isfinite(bubble).any():
        return None
    if p is not None:
        top = float(np.nanmin(bubble)) - 1e-3
        levels = np.linspace(top, max(_COLDEST, top - 80.0), 41)
    else:
        levels = np.geomspace(float(np.nanmax(bubble)) * 1.0001, float(np.nanmax(bubble)) * 3.0, 3)
    found: list[tuple[float, float, float]] = []
    middle: float | None = None
    for level in levels:
        state = _parted(pair, p or float(level), t or float(level), middle)
        if state is None:
            if found:
                break
            continue
        low, high = sorted((float(state.liquid_fractions[0]), float(state.vapour_fractions[0])))
        found.append((low, high, float(level)))
        middle = 0.5 * (low + high)
    if not found:
        return None
    lower, upper, places = (np.array(column) for column in zip(*found, strict=True))
    gap = np.array([np.nan])
    return line("two liquids", [np.concatenate([lower, gap, upper]), np.concatenate([places, gap, places])])


def _parted(pair: PropertyModel, p: float, t: float, middle: float | None) -> State | None:
    tried = np.linspace(0.025, 0.975, 39) if middle is None else [middle]
    for x in tried:
        try:
            state = pair.flash([x, 1.0 - x], T=t, P=p)
        except FlashError:
            continue
        if state.two_liquids:
            return state
    return None


def _azeotropes(pair: PropertyModel, p: float | None, t: float | None) -> tuple[Mark, ...]:
    if p is not None:
        found = azeotropes(pair, p).azeotropes
        return tuple(Mark(a.kind, (float(a.fractions[0]), a.temperature), a.stability) for a in found)
    assert t is not None
    x = GRID[1:-1]
    gaps = []
    for value in x:
        try:
            state = pair.flash([value, 1.0 - value], T=t, VF=0.0)
            gaps.append(float(state.vapour_fractions[0] - value))
        except FlashError:
            gaps.append(np.nan)
    marks = []
    for k in range(len(x) - 1):
        if gaps[k] * gaps[k + 1] < 0.0:
            place = float(x[k] - gaps[k] * (x[k + 1] - x[k]) / (gaps[k + 1] - gaps[k]))
            marks.append(Mark("azeotrope", (place, pair.flash([place, 1.0 - place], T=t, VF=0.0).pressure)))
    return tuple(marks)


def vapour_over_liquid(model: PropertyModel, first: str, second: str, *, P: float | None = None, T: float | None = None) -> Diagram:
    """The x-y diagram at ``P`` (Pa) or ``T`` (K), with the diagonal.

    >>> model = PropertyModel("ideal", ["benzene", "toluene"])
    >>> [curve.name for curve in vapour_over_liquid(model, "benzene", "toluene", P=101325.0).curves]
    ['vapour', 'diagonal']
    """
    if (P is None) == (T is None):
        raise ValueError("Give the pressure or the temperature of the diagram, one of them.")
    pair = two_of(model, first, second)
    vapour = []
    for x in GRID:
        try:
            vapour.append(float(pair.flash([x, 1.0 - x], P=P, T=T, VF=0.0).vapour_fractions[0]))
        except FlashError:
            vapour.append(np.nan)
    name = pair.components[0].name
    curves = (line("vapour", [GRID, np.array(vapour)]), line("diagonal", [[0.0, 1.0], [0.0, 1.0]], "dashed"))
    where = f"{P / 1e5:g} bar" if P is not None else f"{T:g} K"
    title = f"{name} and {pair.components[1].name} at {where}, {pair.family.info.title}"
    return Diagram(title, (Axis(f"{name} in the liquid"), Axis(f"{name} in the vapour")), curves)


def mixing_diagram(model: PropertyModel, first: str, second: str, quantity: str, *, T: float, P: float = 101325.0) -> Diagram:
    """Over the composition of the liquid at ``T`` (K) and ``P`` (Pa): "gibbs energy of mixing", "excess gibbs energy", "excess enthalpy" (J/mol)
    or "activity coefficients" (-). Raises ValueError for another quantity.

    >>> model = PropertyModel("margules", ["benzene", "toluene"], {("benzene", "toluene"): {"a12": 0.5, "a21": 0.5}})
    >>> diagram = mixing_diagram(model, "benzene", "toluene", "excess gibbs energy", T=300.0)
    >>> round(float(diagram.curves[0].points[40, 1]) / (8.314462618 * 300.0), 6)
    0.125
    """
    pair = two_of(model, first, second)
    names = [c.name for c in pair.components]
    composition = Axis(f"mole fraction of {names[0]}")
    title = f"{quantity[:1].upper()}{quantity[1:]} of {names[0]} and {names[1]} at {T:g} K, {pair.family.info.title}"
    if quantity == "activity coefficients":
        gamma = np.array([pair.activity_coefficients(T, P, [x, 1.0 - x]) for x in GRID])
        curves = tuple(line(name, [GRID, gamma[:, k]]) for k, name in enumerate(names))
        return Diagram(title, (composition, Axis("activity coefficient", "number", log=True)), curves)
    if quantity not in _MIXING:
        raise ValueError(f'There is no "{quantity}"; there are {", ".join([*_MIXING, "activity coefficients"])}.')
    values = np.array([_MIXING[quantity](pair, T, P, np.array([x, 1.0 - x])) for x in GRID])
    return Diagram(title, (composition, Axis(quantity, "molar_enthalpy")), (line(quantity, [GRID, values]),))


def _excess_gibbs(pair: PropertyModel, t: float, p: float, x: Array) -> float:
    gamma = pair.activity_coefficients(t, p, x)
    return float(layout.R * t * sum(part * np.log(g) for part, g in zip(x, gamma, strict=True) if part > 0.0))


def _mixing_gibbs(pair: PropertyModel, t: float, p: float, x: Array) -> float:
    return _excess_gibbs(pair, t, p, x) + float(layout.R * t * sum(part * np.log(part) for part in x if part > 0.0))


def _excess_enthalpy(pair: PropertyModel, t: float, p: float, x: Array) -> float:
    pure = sum(part * pair.phase("liquid", t, p, np.eye(2)[k]).enthalpy for k, part in enumerate(x))
    return float(pair.phase("liquid", t, p, x).enthalpy - pure)


_MIXING: dict[str, Callable[[PropertyModel, float, float, Array], float]] = {
    "gibbs energy of mixing": _mixing_gibbs,
    "excess gibbs energy": _excess_gibbs,
    "excess enthalpy": _excess_enthalpy,
}
