"""The component bank, its search, and components of one's own."""

from wattaxis.substances.bank import BankPair, GroupTable, bank_pair, component, group_table, search, turned
from wattaxis.substances.component import Component, HeatCapacity, VapourPressure, lee_kesler

__all__ = [
    "BankPair",
    "Component",
    "GroupTable",
    "HeatCapacity",
    "VapourPressure",
    "bank_pair",
    "component",
    "group_table",
    "lee_kesler",
    "search",
    "turned",
]
