"""Diagrams of property models: boiling, mixing, envelopes, azeotropes, triangles, pure components."""

from importlib import import_module
from typing import TYPE_CHECKING, Any

from wattaxis.properties.diagrams.chart import Axis, Curve, Diagram, Mark

if TYPE_CHECKING:
    from wattaxis.properties.diagrams.binary import boiling_diagram, mixing_diagram, vapour_over_liquid
    from wattaxis.properties.diagrams.envelope import Envelope, phase_envelope
    from wattaxis.properties.diagrams.pure import property_table, pure_diagram, solid_diagram
    from wattaxis.properties.diagrams.singular import AzeotropeSearch, SingularPoint, azeotropes
    from wattaxis.properties.diagrams.swing import azeotropes_over
    from wattaxis.properties.diagrams.ternary import liquid_liquid_diagram, residue_curve, residue_curve_map

#: What needs the property models is loaded when first used; asking a question does not.
_HOMES = {
    "singular": ("AzeotropeSearch", "SingularPoint", "azeotropes"),
    "binary": ("boiling_diagram", "mixing_diagram", "vapour_over_liquid"),
    "envelope": ("Envelope", "phase_envelope"),
    "pure": ("property_table", "pure_diagram", "solid_diagram"),
    "swing": ("azeotropes_over",),
    "ternary": ("liquid_liquid_diagram", "residue_curve", "residue_curve_map"),
}
_WHERE = {name: home for home, names in _HOMES.items() for name in names}

__all__ = [
    "Axis",
    "AzeotropeSearch",
    "Curve",
    "Diagram",
    "Envelope",
    "Mark",
    "SingularPoint",
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
    "solid_diagram",
    "vapour_over_liquid",
]  # fmt: skip


def __getattr__(name: str) -> Any:
    if name in _WHERE:
        return getattr(import_module(f"{__name__}.{_WHERE[name]}"), name)
    raise AttributeError(f"module {__name__!r} has no attribute {name!r}")
