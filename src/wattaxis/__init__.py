"""Wattaxis: steady-state flowsheets of chemical plants.

The public names, all in SI units unless a unit is typed beside the number:

- ``model_infos``, ``PropertyModel``, ``Component``, ``HeatCapacity``, ``VapourPressure``, ``FlashError``: properties and flashes;
  ``phase_rows``, ``PhaseRows``: a phase over many compositions at once, with all derivatives
- ``boiling_diagram``, ``vapour_over_liquid``, ``mixing_diagram``, ``pure_diagram``, ``property_table``, ``phase_envelope``, ``azeotropes``,
  ``liquid_liquid_diagram``, ``residue_curve_map``, ``residue_curve``: diagrams and their numbers
- ``DataSet``, ``Free``, ``fit_pairs``, ``Fit``: pair parameters fitted to measured equilibria; ``fit_vapour_pressure``, ``PureFit``
- ``solid``, ``Solid``, ``SolidHeatCapacity``, ``SolidsModel``: conventional solids beside a fluid
- ``component``, ``search``, ``component_curve``, ``henry_constant``, ``gibbs_energy_of_formation``: the component bank;
  ``component_from_groups``, ``component_from_boiling``, ``cuts_from_distillation``: estimated ones
- ``wattaxis.reactions``: equations of reactions, balance of their elements, heat and equilibrium constant over temperature
- ``wattaxis.columns``: staged columns by what is wanted of them, and their short-cut
- ``Quantity``, ``parse``, ``to_si``, ``from_si``: numbers with units
- ``Document``, ``load``, ``dump``, ``json_schema``: reading and writing flowsheet documents
- ``guide``, ``estimate_pairs``: which property model suits a document, and pairs estimated from groups
- ``edit``: change a document by an editing operation
- ``wattaxis.studies``: given values varied and results looked at, case by case
- ``check``, ``solve``, ``Memory``, ``pair_influence``, ``assumption_influence``, ``propose_free``, ``compare``, ``envelope_balance``: what is
  missing, the results, how far doubtful pairs and assumed values matter, what an aim could free, variants side by side, balances over a part

>>> import wattaxis
>>> model = wattaxis.PropertyModel("peng-robinson", ["propane", "n-butane"])
>>> state = model.flash([0.5, 0.5], T=300.0, P=5e5)
>>> state.phase
'liquid and vapour'
"""

from __future__ import annotations

from importlib import import_module
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from wattaxis.flowsheet import Document, DocumentError, EditError, dump, json_schema, load
    from wattaxis.flowsheet.edits import edit
    from wattaxis.flowsheet.estimates import estimate_pairs
    from wattaxis.flowsheet.guide import guide
    from wattaxis.flowsheet.pieces import Piece, take_piece
    from wattaxis.properties import FlashError, PropertyModel, SolidsModel, State, model_infos
    from wattaxis.properties.diagrams import (
        AzeotropeSearch,
        Diagram,
        Envelope,
        azeotropes,
        azeotropes_over,
        boiling_diagram,
        liquid_liquid_diagram,
        mixing_diagram,
        phase_envelope,
        property_table,
        pure_diagram,
        residue_curve,
        residue_curve_map,
        vapour_over_liquid,
    )
    from wattaxis.properties.fitting import DataSet, Fit, Free, PureFit, fit_pairs, fit_vapour_pressure
    from wattaxis.properties.rows import PhaseRows, phase_rows
    from wattaxis.properties.vapour import with_virial
    from wattaxis.quantities import Quantity, QuantityError, from_si, parse, to_si
    from wattaxis.questions import (
        CompressionQuestion,
        assumption_influence,
        compare,
        envelope_balance,
        lay_out_compression,
        pair_influence,
        propose_free,
    )
    from wattaxis.solving import Memory, SolveResult, check, solve
    from wattaxis.substances import (
        Component,
        HeatCapacity,
        Solid,
        SolidHeatCapacity,
        VapourPressure,
        component,
        gibbs_energy_of_formation,
        henry_constant,
        search,
        solid,
        with_groups,
    )
    from wattaxis.substances.curves import component_curve
    from wattaxis.substances.estimates import Cut, Estimated, component_from_boiling, component_from_groups, cuts_from_distillation

__version__ = "0.1.0"

#: Loaded when first used, so that ``import wattaxis`` is quick.
_HOMES = {
    "wattaxis.flowsheet": ("Document", "DocumentError", "EditError", "dump", "json_schema", "load"),
    "wattaxis.flowsheet.edits": ("edit",),
    "wattaxis.flowsheet.estimates": ("estimate_pairs",),
    "wattaxis.flowsheet.guide": ("guide",),
    "wattaxis.flowsheet.pieces": ("Piece", "take_piece"),
    "wattaxis.properties": ("FlashError", "PropertyModel", "SolidsModel", "State", "model_infos"),
    "wattaxis.properties.diagrams": (
        "AzeotropeSearch",
        "Diagram",
        "Envelope",
        "azeotropes",
        "azeotropes_over",
        "boiling_diagram",
        "liquid_liquid_diagram",
        "mixing_diagram",
        "phase_envelope",
        "property_table",
        "pure_diagram",
        "residue_curve",
        "residue_curve_map",
        "vapour_over_liquid",
    ),
    "wattaxis.properties.fitting": ("DataSet", "Fit", "Free", "PureFit", "fit_pairs", "fit_vapour_pressure"),
    "wattaxis.properties.rows": ("PhaseRows", "phase_rows"),
    "wattaxis.properties.vapour": ("with_virial",),
    "wattaxis.quantities": ("Quantity", "QuantityError", "from_si", "parse", "to_si"),
    "wattaxis.questions": (
        "CompressionQuestion",
        "assumption_influence",
        "compare",
        "envelope_balance",
        "lay_out_compression",
        "pair_influence",
        "propose_free",
    ),
    "wattaxis.solving": ("Memory", "SolveResult", "check", "solve"),
    "wattaxis.substances.estimates": ("Cut", "Estimated", "component_from_boiling", "component_from_groups", "cuts_from_distillation"),
    "wattaxis.substances": (
        "Component",
        "HeatCapacity",
        "Solid",
        "SolidHeatCapacity",
        "VapourPressure",
        "component",
        "gibbs_energy_of_formation",
        "henry_constant",
        "search",
        "solid",
        "with_groups",
    ),
    "wattaxis.substances.curves": ("component_curve",),
}
_WHERE = {name: home for home, names in _HOMES.items() for name in names}

__all__ = [
    "AzeotropeSearch",
    "Component",
    "CompressionQuestion",
    "Cut",
    "DataSet",
    "Diagram",
    "Document",
    "DocumentError",
    "EditError",
    "Envelope",
    "Estimated",
    "Fit",
    "FlashError",
    "Free",
    "HeatCapacity",
    "Memory",
    "PhaseRows",
    "Piece",
    "PropertyModel",
    "PureFit",
    "Quantity",
    "QuantityError",
    "Solid",
    "SolidHeatCapacity",
    "SolidsModel",
    "SolveResult",
    "State",
    "VapourPressure",
    "assumption_influence",
    "azeotropes",
    "azeotropes_over",
    "boiling_diagram",
    "check",
    "compare",
    "component",
    "component_curve",
    "component_from_boiling",
    "component_from_groups",
    "cuts_from_distillation",
    "dump",
    "edit",
    "envelope_balance",
    "estimate_pairs",
    "fit_pairs",
    "fit_vapour_pressure",
    "from_si",
    "gibbs_energy_of_formation",
    "guide",
    "henry_constant",
    "json_schema",
    "lay_out_compression",
    "liquid_liquid_diagram",
    "load",
    "mixing_diagram",
    "model_infos",
    "pair_influence",
    "parse",
    "phase_envelope",
    "phase_rows",
    "property_table",
    "propose_free",
    "pure_diagram",
    "residue_curve",
    "residue_curve_map",
    "search",
    "solid",
    "solve",
    "take_piece",
    "to_si",
    "vapour_over_liquid",
    "with_groups",
    "with_virial",
]


def __getattr__(name: str) -> Any:
    if name in _WHERE:
        return getattr(import_module(_WHERE[name]), name)
    raise AttributeError(f"module {__name__!r} has no attribute {name!r}")


def __dir__() -> list[str]:
    return sorted({*(name for name in globals() if name.startswith("__")), *__all__})
