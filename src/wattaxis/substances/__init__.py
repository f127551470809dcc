"""The component bank, its search, and components of one's own."""

from wattaxis.substances.bank import BankPair, GroupTable, bank_pair, component, group_table, turned, with_groups
from wattaxis.substances.component import FITTED_OMEGA, Component, HeatCapacity, OwnCurve, VapourPressure, lee_kesler
from wattaxis.substances.formation import atoms_of, gibbs_energy_of_formation
from wattaxis.substances.henry import Henry, henry_constant, henry_in_water
from wattaxis.substances.search import search
from wattaxis.substances.solids import Solid, SolidHeatCapacity, solid

__all__ = [
    "FITTED_OMEGA",
    "BankPair",
    "Component",
    "GroupTable",
    "HeatCapacity",
    "Henry",
    "OwnCurve",
    "Solid",
    "SolidHeatCapacity",
    "VapourPressure",
    "atoms_of",
    "bank_pair",
    "component",
    "gibbs_energy_of_formation",
    "group_table",
    "henry_constant",
    "henry_in_water",
    "lee_kesler",
    "search",
    "solid",
    "turned",
    "with_groups",
]
