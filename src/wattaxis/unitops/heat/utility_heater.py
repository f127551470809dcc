"""Utility heater: one stream brought to a wanted state by a utility of known temperatures."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

from wattaxis.unitops.base import Givens, Port, StreamState, UnitOperation, UnitResult
from wattaxis.unitops.heat.thermal import EVAPORATING
from wattaxis.unitops.heat.utilities import HEATING, UTILITY_CHOICES, UtilitySpec, solve_with_utility, utility_fields
from wattaxis.unitops.registry import unit_operation

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel


@unit_operation
class UtilityHeater(UnitOperation):
    """Heat added, counted positive; the flow of the utility follows."""

    type = "utility-heater"
    title = "Utility heater"
    symbol = "heater"
    letter = "E"
    also = ("reboiler", "evaporator", "vaporiser")
    pressures = (EVAPORATING,)
    family = "heat"
    drafts = True
    theory = (
        "The duty is the rise of enthalpy of the stream; the utility takes part in counter-current with its own temperatures, "
        "condensing at one temperature or linear in the duty, and its flow is the duty over the heat that a kilogram carries."
    )
    Spec = UtilitySpec
    ports = (Port("inlet", "Inlet", "in", place=(0.0, 0.5)), Port("outlet", "Outlet", "out", place=(1.0, 0.5)))
    fields = utility_fields("Heat added", HEATING, evaporates=True)
    choices = UTILITY_CHOICES

    def solve(self, givens: Givens, inlets: Mapping[str, Sequence[StreamState]], model: PropertyModel, outlets: frozenset[str]) -> UnitResult:
        """Outlet state, duty, flow of the utility."""
        return solve_with_utility(givens, inlets, model, HEATING)
