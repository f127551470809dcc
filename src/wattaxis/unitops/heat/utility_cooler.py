"""Utility cooler: one stream brought to a wanted state by a utility of known temperatures."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

from wattaxis.unitops.base import Givens, Port, StreamState, UnitOperation, UnitResult
from wattaxis.unitops.heat.thermal import CONDENSING
from wattaxis.unitops.heat.utilities import COOLING, UTILITY_CHOICES, UtilitySpec, solve_with_utility, utility_fields
from wattaxis.unitops.registry import unit_operation

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel


@unit_operation
class UtilityCooler(UnitOperation):
    """Heat removed, counted positive; the flow of the utility follows."""

    type = "utility-cooler"
    title = "Utility cooler"
    symbol = "cooler"
    letter = "E"
    also = ("condenser", "chiller")
    pressures = (CONDENSING,)
    family = "heat"
    drafts = True
    theory = (
        "The duty is the rise of enthalpy of the stream; the utility takes part in counter-current with its own temperatures, "
        "condensing at one temperature or linear in the duty, and its flow is the duty over the heat that a kilogram carries."
    )
    Spec = UtilitySpec
    ports = (Port("inlet", "Inlet", "in", place=(0.0, 0.5)), Port("outlet", "Outlet", "out", place=(1.0, 0.5)))
    fields = utility_fields("Heat removed", COOLING, evaporates=False)
    choices = UTILITY_CHOICES

    def solve(self, givens: Givens, inlets: Mapping[str, Sequence[StreamState]], model: PropertyModel, outlets: frozenset[str]) -> UnitResult:
        """Outlet state, duty, flow of the utility."""
        return solve_with_utility(givens, inlets, model, COOLING)
