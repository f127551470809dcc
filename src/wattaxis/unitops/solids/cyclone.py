"""Cyclone: solids thrown out of a gas or a liquid."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

from wattaxis.quantities import Quantity, to_si
from wattaxis.unitops.base import Choice, Field, Finding, Givens, Port, ResultValue, StreamState, UnitFault, UnitOperation, UnitResult, UnitSpec
from wattaxis.unitops.heat.thermal import NO_PRESSURE_LOSS, state_after_heat
from wattaxis.unitops.pressures import CHANGE
from wattaxis.unitops.registry import unit_operation
from wattaxis.unitops.solids.laden import mass_of, parts_of

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel


class CycloneSpec(UnitSpec):
    """The share of the solids that is caught, the share of the fluid that leaves with them, pressure change."""

    caught: Quantity | None = None
    fluid_carried: Quantity | None = None
    pressure_change: Quantity | None = None


@unit_operation
class Cyclone(UnitOperation):
    """Overflow and underflow."""

    type = "cyclone"
    title = "Cyclone"
    symbol = "cyclone"
    letter = "S"
    also = ("dust separator", "separator")
    family = "solids"
    theory = (
        "The given share of the solids leaves below with the given share of the fluid, whatever its phase; the rest leaves above. "
        "Both have the temperature of the whole behind the pressure change."
    )
    Spec = CycloneSpec
    ports = (
        Port("inlet", "Inlet", "in", place=(0.0, 0.2)),
        Port("overflow", "Fluid", "out", place=(0.5, 0.0)),
        Port("underflow", "Solids", "out", place=(0.5, 1.0)),
    )
    fields = (
        Field("caught", "Solids caught", "fraction", "share of the solids that leaves below"),
        Field("fluid_carried", "Fluid carried along", "fraction", "share of the fluid that leaves with the solids"),
        Field("pressure_change", "Pressure change", "pressure_difference", "outlet minus inlet; a loss is negative"),
    )
    pressures = (CHANGE,)
    choices = (
        Choice("Solids", ("caught",)),
        Choice("Fluid", ("fluid_carried",), 1, ("fluid_carried", Quantity(value=0.0, unit="%"), "no fluid carried along was given")),
        Choice("Pressure", ("pressure_change",), 1, ("pressure_change", NO_PRESSURE_LOSS, "no pressure loss was given")),
    )

    def barred(self, spec: UnitSpec, component: str, solid: bool) -> frozenset[str]:
        """Solids that are all caught leave below; fluid of which none is carried along leaves above."""
        caught, carried = (getattr(spec, key) for key in ("caught", "fluid_carried"))
        below = caught if solid else carried
        share = 0.0 if below is None else to_si(below, "fraction")
        if solid and caught is None:
            return frozenset()
        return frozenset({"underflow"} if share <= 0.0 else {"overflow"} if share >= 1.0 else ())

    def solve(self, givens: Givens, inlets: Mapping[str, Sequence[StreamState]], model: PropertyModel, outlets: frozenset[str]) -> UnitResult:
        """Let down, then part."""
        inlet = inlets["inlet"][0]
        pressure = inlet.state.pressure + (givens.si("pressure_change") or 0.0)
        if pressure <= 0.0:
            raise UnitFault("The pressure loss exceeds the inlet pressure.", "Give a smaller drop.", "pressure_change")
        state = state_after_heat(model, inlet.state.fractions, inlet, pressure, 0.0)
        _, _, solids = parts_of(StreamState(inlet.flow, state))
        fluid, caught, carried = inlet.flows - solids, givens.si("caught") or 0.0, givens.si("fluid_carried") or 0.0
        below = state.with_solids((carried * fluid).sum(), caught * solids)
        above = state.with_solids(((1.0 - carried) * fluid).sum(), (1.0 - caught) * solids)
        findings = []
        if solids.sum() <= 0.0 and inlet.flow > 0.0:
            findings.append(Finding("caution", "", "No solids enter, so there is nothing to catch.", "Give the feed a solid component."))
        values = (
            ResultValue("solids_caught", "Solids caught", "mass_flow", mass_of(caught * solids, state)),
            ResultValue("solids_lost", "Solids lost", "mass_flow", mass_of((1.0 - caught) * solids, state)),
        )
        parts = {"overflow": StreamState(*above), "underflow": StreamState(*below)}
        return UnitResult(parts, 0.0, values, tuple(findings))
