"""Wattaxis: steady-state flowsheets of chemical plants.

The public names, all in SI units unless a unit is typed beside the number:

- ``PropertyModel``, ``Component``, ``HeatCapacity``, ``VapourPressure``, ``FlashError``: properties and flashes
- ``component``, ``search``: the component bank
- ``Quantity``, ``parse``, ``to_si``, ``from_si``: numbers with units
- ``Document``, ``load``, ``dump``, ``json_schema``: reading and writing flowsheet documents
- ``edit``: change a document by an editing operation
- ``check``, ``solve``, ``Memory``: what is missing, and the results

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
    from wattaxis.properties import FlashError, PropertyModel, State
    from wattaxis.quantities import Quantity, QuantityError, from_si, parse, to_si
    from wattaxis.solving import Memory, SolveResult, check, solve
    from wattaxis.substances import Component, HeatCapacity, VapourPressure, component, search

__version__ = "0.1.0"

#: Loaded when first used, so that ``import wattaxis`` is quick.
_HOMES = {
    "wattaxis.flowsheet": ("Document", "DocumentError", "EditError", "dump", "json_schema", "load"),
    "wattaxis.flowsheet.edits": ("edit",),
    "wattaxis.properties": ("FlashError", "PropertyModel", "State"),
    "wattaxis.quantities": ("Quantity", "QuantityError", "from_si", "parse", "to_si"),
    "wattaxis.solving": ("Memory", "SolveResult", "check", "solve"),
    "wattaxis.substances": ("Component", "HeatCapacity", "VapourPressure", "component", "search"),
}
_WHERE = {name: home for home, names in _HOMES.items() for name in names}

__all__ = [
    "Component",
    "Document",
    "DocumentError",
    "EditError",
    "FlashError",
    "HeatCapacity",
    "Memory",
    "PropertyModel",
    "Quantity",
    "QuantityError",
    "SolveResult",
    "State",
    "VapourPressure",
    "check",
    "component",
    "dump",
    "edit",
    "from_si",
    "json_schema",
    "load",
    "parse",
    "search",
    "solve",
    "to_si",
]


def __getattr__(name: str) -> Any:
    if name in _WHERE:
        return getattr(import_module(_WHERE[name]), name)
    raise AttributeError(f"module {__name__!r} has no attribute {name!r}")
