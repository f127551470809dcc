"""From the chemistry of a document to a property model."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from functools import lru_cache
from typing import TYPE_CHECKING, Any

import numpy as np

from wattaxis.flowsheet.chemistry import (
    CONSTANTS,
    GAS_HEAT_CAPACITY,
    OWN_CURVES,
    Chemistry,
    DocumentComponent,
    OwnComponent,
    OwnDissolved,
    OwnSolid,
    Pair,
    TypedCurve,
)
from wattaxis.flowsheet.document import Document
from wattaxis.properties import layout
from wattaxis.properties.pairs import known_pairs
from wattaxis.properties.registry import model_kinds
from wattaxis.properties.vapour import IDEAL_GAS
from wattaxis.quantities import to_si
from wattaxis.substances import Component, HeatCapacity, OwnCurve, Solid, SolidHeatCapacity, VapourPressure, component, solid, turned

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel


#: What the sources of a component are filed under.
_SOURCES = {
    "molar_mass": "MW",
    "critical_temperature": "Tc",
    "critical_pressure": "Pc",
    "acentric_factor": "omega",
    "boiling_point": "Tb",
    "formation_enthalpy": "Hf",
    "entropy": "S0",
    "density": "rho",
}


def resolve(item: DocumentComponent) -> Component:
    """The component behind an entry of the document. Raises KeyError when the bank does not have it, ValueError for constants beyond belief."""
    if item.own_solid is not None:
        return _own_solid(item, item.own_solid)
    if item.own_dissolved is not None and not item.curves:
        return _own_dissolved(item, item.own_dissolved)
    if item.curves:
        return _with_curves(resolve(item.model_copy(update={"curves": {}})), item.curves)
    own = item.vapour_pressure
    if own is not None:
        known = resolve(item.model_copy(update={"vapour_pressure": None}))
        curve = VapourPressure(4, (own.a, own.b, own.c, 0.0, 0.0), own.low, own.high, own.source)
        return replace(known, vapour_pressure=curve, sources={**known.sources, "Psat": own.source})
    if item.own is None:
        changed: dict[str, Any] = {name: to_si(value, CONSTANTS[name]) for name, value in item.overrides.items()}
        known = solid(item.cas) if item.solid else component(item.cas)
        return replace(known, **changed, id=item.id, sources={**known.sources, **{_SOURCES[name]: "typed in" for name in changed}})
    typed = item.own
    return Component(
        id=item.id,
        molar_mass=typed.molar_mass,
        critical_temperature=typed.critical_temperature,
        critical_pressure=typed.critical_pressure,
        acentric_factor=typed.acentric_factor,
        heat_capacity=HeatCapacity(typed.heat_capacity, *(typed.heat_capacity_range or (1.0, 6000.0)), typed.sources.get("Cp", "typed in")),
        formation_enthalpy=typed.formation_enthalpy,
        entropy=typed.entropy,
        cas=item.cas,
        formula=typed.formula,
        boiling_point=typed.boiling_point,
        sources=dict(typed.sources),
    )


def _with_curves(known: Component, typed: Mapping[str, TypedCurve]) -> Component:
    """A component with curves of one's own; that of the gas's heat capacity is a polynomial of the fourth degree at most through its points."""
    own = []
    for name, curve in typed.items():
        t, values = zip(*curve.si(OWN_CURVES[name]), strict=True)
        if name == GAS_HEAT_CAPACITY:
            fitted = np.polynomial.Polynomial.fit(t, values, min(4, len(t) - 1)).convert() if len(t) > 1 else np.polynomial.Polynomial(values)
            c = np.zeros(5)
            c[: len(fitted.coef)] = fitted.coef
            cp = HeatCapacity((float(c[0]), float(c[1]), float(c[2]), float(c[3]), float(c[4])), t[0], max(t[-1], t[0] + 1.0), curve.source)
            known = replace(known, heat_capacity=cp, sources={**known.sources, "Cp": curve.source})
        else:
            own.append(OwnCurve(name, t, values, curve.source))
    return replace(known, own_curves=tuple(own))


def _own_solid(item: DocumentComponent, own: OwnSolid) -> Solid:
    cp = SolidHeatCapacity(own.heat_capacity, 1.0, 6000.0, own.sources.get("Cp", "typed in"))
    return Solid.of(
        item.id,
        molar_mass=own.molar_mass,
        density=own.density,
        heat_capacity=cp,
        formation_enthalpy=own.formation_enthalpy,
        entropy=own.entropy,
        cas=item.cas,
        formula=own.formula,
        sources=dict(own.sources),
    )


#: ln(Pa) and K of the vapour pressure of what is only ever dissolved: nothing, and nothing to evaporate it with. Critical constants stand for a
#: liquid as far from boiling.
_STAYS, _CRITICAL = VapourPressure(4, (-60.0, 1.0, 0.0, 0.0, 0.0), 150.0, 1500.0, "only ever dissolved"), (3000.0, 5e7, 0.2)


def _own_dissolved(item: DocumentComponent, own: OwnDissolved) -> Component:
    heat = HeatCapacity((own.heat_capacity, 0.0, 0.0, 0.0, 0.0), 150.0, 1500.0, own.sources.get("Cp", "typed in"))
    density = OwnCurve("liquid density", (150.0, 1500.0), (own.density, own.density), own.sources.get("rho", "typed in"))
    temperature, pressure, omega = _CRITICAL
    return Component(
        item.id, own.molar_mass, temperature, pressure, omega, heat, own.formation_enthalpy, own.entropy, _STAYS, cas=item.cas, formula=own.formula,
        own_curves=(density,), sources=dict(own.sources), only_dissolved=True,
    )  # fmt: skip


def own_component(made: Component) -> OwnComponent:
    """A component of no bank as the document keeps it."""
    cp = made.heat_capacity
    return OwnComponent(
        molar_mass=made.molar_mass,
        critical_temperature=made.critical_temperature,
        critical_pressure=made.critical_pressure,
        acentric_factor=made.acentric_factor,
        heat_capacity=cp.coefficients,
        heat_capacity_range=(cp.low, cp.high),
        formation_enthalpy=made.formation_enthalpy,
        entropy=made.entropy,
        formula=made.formula,
        boiling_point=made.boiling_point,
        sources=made.sources,
    )


def property_model(chemistry: Chemistry) -> PropertyModel:
    """The property model of a chemistry, with its solids beside the fluid. Raises ValueError without a fluid, KeyError for an unknown substance."""
    return _property_model(
        chemistry.model_dump_json(exclude={"data": True, "fits": True, "reactions": True, "components": {"__all__": {"price", "stands_for"}}})
    )


def fluids(chemistry: Chemistry) -> Chemistry:
    """The chemistry without its conventional solids: what property models and their pairs are about."""
    return chemistry.model_copy(update={"components": tuple(c for c in chemistry.components if not c.is_solid)})


@lru_cache(maxsize=64)
def _property_model(text: str) -> PropertyModel:
    from wattaxis.properties import PropertyModel, SolidsModel

    whole = Chemistry.model_validate_json(text)
    chemistry = fluids(whole)
    if whole.components and not chemistry.components:
        raise ValueError("There are only solids among the components: add at least one fluid, such as water or air.")
    ids = {c.id for c in chemistry.components}
    own = {(p.first, p.second): p.values for p in chemistry.pairs if p.model == chemistry.model and p.first in ids and p.second in ids}
    code = model_kinds()[chemistry.model].code
    vapour = chemistry.vapour if code >= layout.ACTIVITY else IDEAL_GAS
    translated = chemistry.translated and code in (layout.CUBIC, layout.PREDICTIVE)
    if code in (layout.CUBIC, layout.PREDICTIVE) and (salts := [c.id for c in chemistry.components if c.own_dissolved is not None]):
        title = model_kinds()[chemistry.model].info.title
        raise ValueError(f"{', '.join(salts)} is only ever dissolved, and {title} knows no such substance: choose an ideal or an activity model.")
    model = PropertyModel(chemistry.model, [resolve(c) for c in chemistry.components], own, vapour=vapour, translated=translated)
    if len(chemistry.components) == len(whole.components):
        return model
    return SolidsModel(model, [resolve(c) for c in whole.components])


def models_of(document: Document) -> dict[str, PropertyModel]:
    """Every property model that the units of a document use, by its key, the plant's first. Raises ValueError and KeyError as above.

    >>> from wattaxis import Document, edit
    >>> plant = edit(Document(), "add_component", component={"id": "water", "cas": "7732-18-5"})
    >>> list(models_of(plant))
    ['peng-robinson']
    """
    return {key: property_model(document.chemistry.model_copy(update={"model": key})) for key in model_keys(document)}


def model_keys(document: Document) -> list[str]:
    """Keys of the property models that the units of a document use, the plant's first."""
    return list(dict.fromkeys([document.chemistry.model, *(unit.model for unit in document.units if unit.model is not None)]))


def pair_table(chemistry: Chemistry) -> list[dict[str, Any]]:
    """Every pair of the chosen model with its values, source and quality.

    The quality is "typed in", "measured fit", "estimated", "assumed zero" (nothing is known) or "not used" (the model has no pairs).
    """
    family = model_kinds()[chemistry.model]
    typed = {frozenset((p.first, p.second)): p for p in chemistry.pairs if p.model == chemistry.model}
    items = fluids(chemistry).components
    place = {c.id: i for i, c in enumerate(items)}
    own = {_between(place, p): turned(p.values, place[p.first] > place[p.second]) for p in typed.values() if p.first in place and p.second in place}
    try:
        known = known_pairs(family, [resolve(c) for c in items], own)
    except (KeyError, ValueError):  # said by the check
        known = {}
    rows = []
    for j, second in enumerate(items):
        for i, first in enumerate(items[:j]):
            row: dict[str, Any] = {"first": first.id, "second": second.id, "values": {}, "source": "no value known", "quality": "assumed zero"}
            entry, mine = known.get((i, j)), typed.get(frozenset((first.id, second.id)))
            if not family.info.parameters:
                row |= {"source": f"{family.info.title} has no pair parameters", "quality": "not used"}
            elif mine is not None:
                row |= {"values": turned(mine.values, mine.first != first.id), "source": mine.source, "quality": mine.quality}
            elif entry is not None:
                row |= {"values": dict(entry.values), "source": entry.source, "quality": entry.quality}
            rows.append(row)
    return rows


def _between(place: dict[str, int], pair: Pair) -> tuple[int, int]:
    first, second = sorted((place[pair.first], place[pair.second]))
    return first, second
