"""Heater: one stream brought to a wanted state; where the heat comes from or goes to is not said."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

from wattaxis.unitops.base import Givens, StreamState, UnitOperation, UnitResult
from wattaxis.unitops.heat.curve import with_curve
from wattaxis.unitops.heat.thermal import EVAPORATING, THERMAL_CHOICES, THERMAL_PORTS, ThermalSpec, solve_thermal, thermal_fields
from wattaxis.unitops.registry import unit_operation

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel


@unit_operation
class Heater(UnitOperation):
    """Heat added, counted positive."""

    type = "heater"
    title = "Heater"
    symbol = "heater"
    letter = "E"
    also = ("evaporator", "reboiler", "vaporiser", "furnace", "preheater")
    pressures = (EVAPORATING,)
    family = "heat"
    drafts = drafts_tell_faults = True
    theory = "First law for an open system: the duty is the molar flow times the rise of molar enthalpy between inlet and outlet state."
    Spec = ThermalSpec
    ports = THERMAL_PORTS
    fields = thermal_fields("Heat added", evaporates=True)
    choices = THERMAL_CHOICES

    def solve(self, givens: Givens, inlets: Mapping[str, Sequence[StreamState]], model: PropertyModel, outlets: frozenset[str]) -> UnitResult:
        """Outlet state and duty."""
        inlet = inlets["inlet"][0]
        return with_curve(givens, model, inlet, solve_thermal(givens, inlet, model, 1.0, "Heat added"))
