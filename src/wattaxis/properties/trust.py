"""Where a property model contradicts what is measured of a pure component, and where a liquid would freeze: said of streams."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache
from typing import TYPE_CHECKING

import numpy as np

from wattaxis.properties.errors import FlashError
from wattaxis.properties.layout import R
from wattaxis.substances.curves import component_curve

if TYPE_CHECKING:
    from wattaxis.properties.model import PropertyModel
    from wattaxis.properties.state import State
    from wattaxis.substances import Component

#: Deviations from the measured curve that are said: of the bank's curves, and of the vapour pressure.
LIMITS = {"density": 0.05, "heat of vaporisation": 0.10, "heat capacity": 0.10, "vapour pressure": 0.05}
#: Mole fraction in a liquid from which a component counts; reduced temperatures between which liquids are compared.
MUCH, COLDEST, HOTTEST = 0.2, 0.3, 0.9
#: J/(mol K), entropy of fusion of most organic substances (Walden 1908), and the least share that is said to freeze.
FUSION, FREEZES = 56.5, 0.05
#: Mole fraction in a liquid from which a pair mixes; J/mol from which a heat of mixing is noted.
MIXES, NOTED = 0.05, 150.0
_WATER = "7732-18-5"


@dataclass(frozen=True)
class Contradiction:
    """A property of a pure component by the model and as measured, SI, at a temperature (K)."""

    component: str
    what: str
    temperature: float
    model: float
    measured: float

    @property
    def off(self) -> float:
        """Relative deviation of the model."""
        return self.model / self.measured - 1.0


def contradictions(state: State) -> Iterator[Contradiction]:
    """What the property model says of the pure liquids of a state against their measured curves, where they differ by more than :data:`LIMITS`."""
    model = state.model.fluid
    liquids = [p.fractions for p in state.phases if "liquid" in p.kind]
    for i, c in enumerate(model.components):
        share = max((float(x[state.model.index(c.id)]) for x in liquids), default=0.0)
        if share >= MUCH and i not in model.gases:
            yield from (found for found in _of_component(model, i, _rounded(state.temperature)) if abs(found.off) > LIMITS[found.what])


def _rounded(t: float) -> float:
    """A temperature to ten kelvin, so that the streams of a plant share what is calculated."""
    return 10.0 * round(t / 10.0)


@lru_cache(maxsize=2048)
def _of_component(model: PropertyModel, i: int, T: float) -> tuple[Contradiction, ...]:
    c: Component = model.components[i]
    if not COLDEST < T / c.critical_temperature < HOTTEST:
        return ()
    pure = model.part_of([c.id])
    try:
        boiling = pure.flash([1.0], T=T, VF=0.0)
    except FlashError:
        return ()
    liquid = pure.phase("liquid", T, boiling.pressure, [1.0])
    heat = pure.phase("vapour", T, boiling.pressure, [1.0]).enthalpy - liquid.enthalpy
    pairs = [("density", liquid.density or math.nan, "liquid density"), ("heat of vaporisation", heat, "heat of vaporisation"),
             ("heat capacity", liquid.heat_capacity, "liquid heat capacity")]  # fmt: skip
    found = []
    for name, value, curve_name in pairs:
        curve = component_curve(c, curve_name)
        if not curve.estimated and curve.inside(T):
            found.append(Contradiction(c.id, name, T, value, curve.at(T)))
    ps = c.vapour_pressure
    if ps is not None and not ps.estimated and ps.low <= T <= ps.high and boiling.pressure > 1e3:
        found.append(Contradiction(c.id, "vapour pressure", T, boiling.pressure, math.exp(ps.log_pressure(T))))
    return tuple(found)


@dataclass(frozen=True)
class MixingHeat:
    """The heat of mixing of a pair in equal parts by the model and by groups that were fitted to measured ones, J/mol, at a temperature (K)."""

    first: str
    second: str
    temperature: float
    model: float
    groups: float


def wrong_heats_of_mixing(state: State) -> Iterator[MixingHeat]:
    """Pairs in the liquids of a state whose heat of mixing has the sign that measurements contradict, as far as groups know them."""
    model = state.model.fluid
    liquids = [p.fractions for p in state.phases if "liquid" in p.kind]
    held = [max((float(x[state.model.index(c.id)]) for x in liquids), default=0.0) for c in model.components]
    much = [i for i, share in enumerate(held) if share >= MIXES and i not in model.gases]
    for n, i in enumerate(much):
        for j in much[:n]:
            found = mixing_heat(model, j, i, _rounded(state.temperature))
            if found is not None:
                yield found


@lru_cache(maxsize=2048)
def mixing_heat(model: PropertyModel, i: int, j: int, T: float) -> MixingHeat | None:
    """The heat of mixing of two components by position at T (K), where it has another sign than that of groups fitted to measured ones."""
    from wattaxis.properties.model import PropertyModel as Model

    pair: list[Component] = [model.components[i], model.components[j]]
    inside = all(c.groups.get("dortmund") and COLDEST < T / c.critical_temperature < HOTTEST for c in pair)
    if not model.family.info.parameters or not inside:
        return None
    groups = Model("unifac-dortmund", pair)
    try:
        if groups.ranges_left(groups.flash([0.5, 0.5], T=T, P=1e7)):
            return None  # groups whose interaction nobody knows
    except FlashError:
        return None
    own = model.part_of([c.id for c in pair]).excess(T, 1e6, [0.5, 0.5]).enthalpy
    measured = groups.excess(T, 1e6, [0.5, 0.5]).enthalpy
    # A pair that nothing is known of mixes without heat, and that is told of the pair.
    wrong = own * measured < 0.0 and abs(own) > 1.0 and abs(measured) > NOTED and abs(own - measured) > 2.0 * NOTED
    return MixingHeat(pair[0].id, pair[1].id, T, own, measured) if wrong else None


def freezing(state: State) -> list[tuple[str, float]]:
    """Components (id, melting point in K) of which a liquid holds more than an ideal solution could at this temperature."""
    found = []
    for i, c in enumerate(state.model.components):
        melts = c.melting_point
        if melts is None or state.temperature >= melts - 0.5 or c.critical_temperature < state.temperature:
            continue
        share = max((float(np.asarray(p.fractions)[i]) for p in state.phases if "liquid" in p.kind), default=0.0)
        soluble = math.exp(-FUSION / R * (melts / state.temperature - 1.0))
        if share > max(soluble, FREEZES):
            found.append((c.id, melts))
    return found


def better(model: PropertyModel, component: Component) -> str:
    """Which model would do better for a component, in words."""
    if component.cas == _WATER and len(model.components) == 1:
        return "Use the steam tables for water alone."
    if model.equation_of_state and model.family.info.key != "steam":
        return "Use an activity model, whose liquids follow the measured curves, with a real vapour; or shift the volumes for densities."
    return "Use an activity model with a real vapour where the pressure is high, or a cubic equation near the critical point."
