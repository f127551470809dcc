"""The component bank, its search, and components of one's own."""

from wattaxis.substances.bank import bank_pair, component, library_note, search
from wattaxis.substances.component import Component, HeatCapacity, VapourPressure, lee_kesler

__all__ = ["Component", "HeatCapacity", "VapourPressure", "bank_pair", "component", "lee_kesler", "library_note", "search"]
