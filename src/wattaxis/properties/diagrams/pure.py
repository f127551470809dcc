"""Curves of one component over temperature, and tables of a mixture's properties over temperature and pressure."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np

from wattaxis.properties.diagrams.chart import SOLID_HEAT_CAPACITY, Array, Axis, Curve, Diagram, line
from wattaxis.properties.errors import FlashError
from wattaxis.properties.model import PropertyModel
from wattaxis.properties.state import State, Vector
from wattaxis.properties.tables import KIND_OF
from wattaxis.substances import Component, Solid
from wattaxis.substances.curves import CURVES, component_curve

#: What can be drawn of a mixture over T and P, with the title of the axis.
MIXTURE_QUANTITIES = {
    "enthalpy": "molar enthalpy",
    "entropy": "molar entropy",
    "molar_volume": "molar volume",
    "vapour_fraction": "vapour fraction",
}


def pure_diagram(model: PropertyModel, key: str, quantity: str) -> Diagram:
    """A property of one component over temperature, as the model has it or as the bank knows it, solid inside its range and dashed outside.

    Of the model: "vapour pressure" (Pa), "heat of vaporisation" (J/mol), "liquid density" (kg/m3) along the boiling curve. Of the bank: "ideal-gas
    heat capacity" (J/(mol K)) and the names of :data:`wattaxis.substances.curves.CURVES`, those of the model as "..., of the bank".

    Raises KeyError for an unknown component and ValueError for another quantity.

    >>> diagram = pure_diagram(PropertyModel("ideal", ["water"]), "water", "vapour pressure")
    >>> [axis.kind for axis in diagram.axes]
    ['temperature', 'pressure']
    """
    single = model.part_of([key])
    c = single.components[0]
    if quantity == "ideal-gas heat capacity":
        cp = c.heat_capacity
        t = np.linspace(min(cp.low, 200.0), max(cp.high, 1000.0), 161)
        curves = _ranged(t, np.array([cp.at(float(one)) for one in t]), cp.low, cp.high)
        return Diagram(_title(c, quantity, cp.source), (_T, Axis(quantity, "molar_entropy")), curves)
    name = quantity.removesuffix(OF_THE_BANK)
    if name in CURVES and (quantity != name or name not in _ALONG_BOILING):
        return _of_the_bank(c, name)
    if quantity not in _ALONG_BOILING:
        raise ValueError(f'There is no "{quantity}"; there are {", ".join(PURE_QUANTITIES)}.')
    kind, log, value = _ALONG_BOILING[quantity]
    ps = c.vapour_pressure
    assert ps is not None  # Component fills it in
    own = single.equation_of_state
    low, high = (0.4 * c.critical_temperature, c.critical_temperature) if own else (ps.low, ps.high)
    grid = np.linspace(0.4 * c.critical_temperature, 0.999 * c.critical_temperature, 121)
    t = np.unique(np.append(grid, min(high, c.critical_temperature)))
    points: list[float] = []
    for temperature in t:
        try:
            points.append(value(single, single.flash([1.0], T=float(temperature), VF=0.0)))
        except FlashError:
            points.append(np.nan)
    source = single.family.info.title if own else ps.source
    return Diagram(_title(c, quantity, source), (_T, Axis(quantity, kind, log)), _ranged(t, np.array(points), low, high))


def solid_diagram(c: Solid, quantity: str) -> Diagram:
    """The heat capacity of a conventional solid over temperature. Raises ValueError for another quantity.

    >>> from wattaxis import solid
    >>> solid_diagram(solid("sand"), "solid heat capacity").axes[1].kind
    'molar_entropy'
    """
    if quantity != SOLID_HEAT_CAPACITY:
        raise ValueError(f"{c.name} is a conventional solid: of its properties only the {SOLID_HEAT_CAPACITY} changes with temperature.")
    cp = c.crystal_heat_capacity
    t = np.linspace(min(max(cp.low, 200.0), 250.0), max(min(cp.high, 2000.0), 600.0), 161)
    curves = _ranged(t, np.array([cp.at(float(v)) for v in t]), cp.low, cp.high)
    return Diagram(_title(c, quantity, cp.source), (_T, Axis(quantity, "molar_entropy")), curves)


def _of_the_bank(c: Component, name: str) -> Diagram:
    curve = component_curve(c, name)
    t = np.linspace(curve.low, min(curve.high, 2000.0), 121)
    values = np.array([curve.at(float(v)) for v in t])
    return Diagram(_title(c, name, curve.source), (_T, Axis(name, CURVES[name], "viscosity" in name)), (line("known", [t, values]),))


_T = Axis("temperature", "temperature")


def _title(c: Component, quantity: str, source: str) -> str:
    return f"{c.name}, {quantity} ({source})"


def _ranged(t: Array, values: Array, low: float, high: float) -> tuple[Curve, ...]:
    """What lies inside the range as a line, what lies outside dashed."""
    inside = np.where((t >= low) & (t <= high), values, np.nan)
    outside = np.where((t <= low) | (t >= high), values, np.nan)
    outer = (line("extrapolated", [t, outside], "dashed"),) if np.isfinite(outside).sum() > 1 else ()
    return (line("known", [t, inside]), *outer)


def _heat_of_vaporisation(model: PropertyModel, state: State) -> float:
    vapour, liquid = (model.phase(kind, state.temperature, state.pressure, [1.0]) for kind in ("vapour", "liquid"))
    return vapour.enthalpy - liquid.enthalpy


def _liquid_density(model: PropertyModel, state: State) -> float:
    density = model.phase("liquid", state.temperature, state.pressure, [1.0]).density
    return np.nan if density is None else density


_ALONG_BOILING: dict[str, tuple[str, bool, Callable[[PropertyModel, State], float]]] = {
    "vapour pressure": ("pressure", True, lambda model, state: state.pressure),
    "heat of vaporisation": ("molar_enthalpy", False, _heat_of_vaporisation),
    "liquid density": ("density", False, _liquid_density),
}


OF_THE_BANK = ", of the bank"
#: Everything that :func:`pure_diagram` draws.
PURE_QUANTITIES = (*_ALONG_BOILING, "ideal-gas heat capacity", *(f"{n}{OF_THE_BANK}" if n in _ALONG_BOILING else n for n in CURVES))


def property_table(model: PropertyModel, z: Sequence[float] | Vector, quantity: str, T: Sequence[float], P: Sequence[float]) -> Diagram:
    """A quantity of the equilibrium state of ``z`` over temperatures (K), one curve a pressure (Pa): "enthalpy" (J/mol), "entropy" (J/(mol K)),
    "molar_volume" (m3/mol) or "vapour_fraction". States that cannot be found are left out. Raises ValueError for another quantity.

    >>> model = PropertyModel("peng-robinson", ["propane"])
    >>> property_table(model, [1.0], "vapour_fraction", [250.0, 350.0], [5e5]).curves[0].points[:, 1]
    array([0., 1.])
    """
    if quantity not in MIXTURE_QUANTITIES:
        raise ValueError(f'There is no "{quantity}"; there are {", ".join(MIXTURE_QUANTITIES)}.')
    feed = np.asarray(z, dtype=float)
    curves = tuple(line(f"{p / 1e5:g} bar", [list(T), [_value(model, feed, quantity, t, p) for t in T]]) for p in P)
    title = f"{MIXTURE_QUANTITIES[quantity]} of the mixture, {model.family.info.title}"
    return Diagram(title[:1].upper() + title[1:], (_T, Axis(MIXTURE_QUANTITIES[quantity], KIND_OF[quantity])), curves)


def _value(model: PropertyModel, z: Vector, quantity: str, t: float, p: float) -> float:
    try:
        return float(getattr(model.flash(z, T=t, P=p), quantity))
    except FlashError:
        return np.nan
