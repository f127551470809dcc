"""Filter: solids held back as a moist cake, the rest runs through."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

from wattaxis.quantities import Quantity, to_si
from wattaxis.unitops.base import Choice, Field, Finding, Givens, Port, ResultValue, StreamState, UnitFault, UnitOperation, UnitResult, UnitSpec
from wattaxis.unitops.heat.thermal import NO_PRESSURE_LOSS, state_after_heat
from wattaxis.unitops.pressures import CHANGE
from wattaxis.unitops.registry import unit_operation
from wattaxis.unitops.solids.laden import MOISTURE, liquid_with, mass_of, moisture_left, moisture_value, parts_of

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel


class FilterSpec(UnitSpec):
    """Moisture of the cake, the share of the solids that is held back, pressure change."""

    moisture: Quantity | None = None
    held_back: Quantity | None = None
    pressure_change: Quantity | None = None


@unit_operation
class Filter(UnitOperation):
    """Filtrate and cake."""

    type = "filter"
    title = "Filter"
    symbol = "filter"
    letter = "S"
    also = ("strainer", "separator")
    family = "solids"
    theory = (
        "The given share of the solids stays behind as a cake that holds liquid up to the given mass share; everything else is filtrate. "
        "Both leave at the temperature that the whole has behind the pressure change."
    )
    Spec = FilterSpec
    ports = (
        Port("inlet", "Inlet", "in", place=(0.0, 0.5)),
        Port("filtrate", "Filtrate", "out", place=(1.0, 0.5)),
        Port("cake", "Cake", "out", place=(0.5, 1.0)),
    )
    fields = (
        MOISTURE,
        Field("held_back", "Solids held back", "fraction", "share of the solids that stays in the cake"),
        Field("pressure_change", "Pressure change", "pressure_difference", "outlet minus inlet; a loss is negative"),
    )
    pressures = (CHANGE,)
    choices = (
        Choice("Cake", ("moisture",)),
        Choice("Solids", ("held_back",), 1, ("held_back", Quantity(value=100.0, unit="%"), "no share of the solids was given")),
        Choice("Pressure", ("pressure_change",), 1, ("pressure_change", NO_PRESSURE_LOSS, "no pressure loss was given")),
    )

    def barred(self, spec: UnitSpec, component: str, solid: bool) -> frozenset[str]:
        """Solids that are all held back stay in the cake; a dry cake holds nothing else."""
        held, moisture = (getattr(spec, key) for key in ("held_back", "moisture"))
        if solid:
            return frozenset({"filtrate"} if held is None or to_si(held, "fraction") >= 1.0 else {"cake"} if held.value == 0.0 else ())
        return frozenset({"cake"} if moisture is not None and moisture.value == 0.0 else ())

    def solve(self, givens: Givens, inlets: Mapping[str, Sequence[StreamState]], model: PropertyModel, outlets: frozenset[str]) -> UnitResult:
        """Let down, then part."""
        inlet = inlets["inlet"][0]
        pressure = inlet.state.pressure + (givens.si("pressure_change") or 0.0)
        if pressure <= 0.0:
            raise UnitFault("The pressure loss exceeds the inlet pressure.", "Give a smaller drop.", "pressure_change")
        wanted = givens.si("moisture") or 0.0
        if wanted >= 1.0:
            raise UnitFault("A cake without solids is not possible.", "Give a moisture below 1.", "moisture")
        state = state_after_heat(model, inlet.state.fractions, inlet, pressure, 0.0)
        vapour, liquid, solids = parts_of(StreamState(inlet.flow, state))
        held = solids * (givens.si("held_back") or 0.0)
        share, findings = moisture_left(wanted, liquid, held, state)
        cake = liquid_with(state, liquid * share, held)
        through = liquid * (1.0 - share)
        filtrate = liquid_with(state, through, solids - held)
        if vapour.sum() > 0.0:
            flows = vapour + through + solids - held
            filtrate = StreamState(float(flows.sum()), model.flash(flows, T=state.temperature, P=pressure))
            text = f"{100 * state.vapour_fraction:.3g} % of the fluid is vapour: it passes the filter with the filtrate."
            findings.append(Finding("caution", "", text, "Cool the inlet or raise its pressure."))
        values = (
            ResultValue("cake_flow", "Cake", "mass_flow", cake.mass_flow),
            ResultValue("solids_lost", "Solids in the filtrate", "mass_flow", mass_of(solids - held, state)),
            moisture_value(cake),
        )
        return UnitResult({"filtrate": filtrate, "cake": cake}, 0.0, values, tuple(findings))
