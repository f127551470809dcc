"""From the chemistry of a document to a property model."""

from __future__ import annotations

from functools import lru_cache
from typing import TYPE_CHECKING, Any

from wattaxis.flowsheet.document import Chemistry, DocumentComponent
from wattaxis.substances import Component, HeatCapacity, bank_pair, component, library_note

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel


def resolve(item: DocumentComponent) -> Component:
    """The component behind an entry of the document. Raises KeyError when the bank does not have it."""
    if item.own is None:
        known = component(item.cas)
        return Component(**{**{f: getattr(known, f) for f in known.__dataclass_fields__}, "id": item.id})
    own = item.own
    return Component(
        id=item.id,
        molar_mass=own.molar_mass,
        critical_temperature=own.critical_temperature,
        critical_pressure=own.critical_pressure,
        acentric_factor=own.acentric_factor,
        heat_capacity=HeatCapacity(own.heat_capacity, 1.0, 6000.0, "typed in"),
        formation_enthalpy=own.formation_enthalpy,
        entropy=own.entropy,
        cas=item.cas,
        formula=own.formula,
    )


@lru_cache(maxsize=64)
def property_model(chemistry: Chemistry) -> PropertyModel:
    """The property model of a chemistry. Raises ValueError when it has no components, KeyError for an unknown substance."""
    from wattaxis.properties import PropertyModel

    ids = {c.id for c in chemistry.components}
    pairs = {(p.first, p.second): p.kij for p in chemistry.pairs if p.first in ids and p.second in ids}
    kind = chemistry.model
    return PropertyModel(kind, [resolve(c) for c in chemistry.components], pairs if kind != "ideal" else None)


def pair_table(chemistry: Chemistry) -> list[dict[str, Any]]:
    """Every pair of the chosen model with value, source and quality: "measured fit", "typed in", "assumed zero" or "not used"."""
    typed = {frozenset((p.first, p.second)): p for p in chemistry.pairs}
    items = chemistry.components
    rows = []
    for i, first in enumerate(items):
        for second in items[:i]:
            own = typed.get(frozenset((first.id, second.id)))
            value: float | None = 0.0
            source, quality = "no value known", "assumed zero"
            if chemistry.model == "ideal":
                value, source, quality = None, "an ideal model has no pairs", "not used"
            elif own is not None:
                value, source, quality = own.kij, own.source, "typed in"
            elif chemistry.model == "peng-robinson" and (known := bank_pair("peng_robinson", first.cas, second.cas)) is not None:
                value, source, quality = (
                    known,
                    f"interaction-parameter table shipped with the thermo library ({library_note()})",
                    "measured fit",
                )
            rows.append({"first": second.id, "second": first.id, "kij": value, "source": source, "quality": quality})
    return rows
