"""Expander: a gas let down along an isentrope with an efficiency, giving power."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

from wattaxis.properties import FlashError
from wattaxis.unitops.base import Assumed, Choice, Givens, StreamState, UnitFault, UnitOperation, UnitResult, UnitSpec
from wattaxis.unitops.energy.connections import SHAFT_IN
from wattaxis.unitops.pressure.curve import working_point
from wattaxis.unitops.pressure.machines import (
    EFFICIENCY_CHOICE,
    MACHINE_PORTS,
    MACHINE_PRESSURE,
    MachineSpec,
    asked_pressure,
    assumed_efficiency,
    efficiency_of,
    machine_fields,
    machine_result,
    outlet_state,
    pressure_of_head,
    pressure_of_power,
)
from wattaxis.unitops.registry import unit_operation

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel


@unit_operation
class Expander(UnitOperation):
    """Isentropic with an efficiency."""

    type = "expander"
    title = "Expander"
    symbol = "expander"
    letter = "X"
    also = ("turbine", "turboexpander")
    family = "pressure"
    solids_harm = "erodes an expander"
    theory = (
        "The enthalpy falls by the isentropic fall times the efficiency; the difference leaves as shaft power. "
        "A polytropic efficiency counts for every small step of the path alike. A curve gives the isentropic head over the volume flow at the "
        "suction, a monotone cubic between its points; with the speed the flow rises, the head with its square."
    )
    Spec = MachineSpec
    ports = MACHINE_PORTS
    fields = machine_fields("Power given", "outlet over inlet, below one")
    pressures = (MACHINE_PRESSURE,)
    choices = (
        Choice("Outlet", ("outlet_pressure", "pressure_change", "pressure_ratio", "power", "curve"), port=SHAFT_IN),
        EFFICIENCY_CHOICE,
    )

    def assumptions(self, spec: UnitSpec) -> dict[str, tuple[Assumed, str]]:
        """A curve brings its efficiency."""
        return assumed_efficiency(spec, super().assumptions(spec))

    def solve(self, givens: Givens, inlets: Mapping[str, Sequence[StreamState]], model: PropertyModel, outlets: frozenset[str]) -> UnitResult:
        """PS flash for the isentrope, PH flash for the outlet."""
        inlet = inlets["inlet"][0]
        point = working_point(givens, inlet)
        efficiency = efficiency_of(givens, point)
        pressure = asked_pressure(givens, inlet.state) if point is None else pressure_of_head(model, inlet, -point.head)
        if pressure is None:
            power, by_shaft = givens.si("power") or 0.0, givens.power(SHAFT_IN)
            pressure = pressure_of_power(model, inlet, efficiency, -power if by_shaft is None else by_shaft, True)
        if pressure > inlet.state.pressure * (1 + 1e-9):
            rise = (pressure - inlet.state.pressure) / 1e5
            raise UnitFault(f"The pressure rises by {rise:.4g} bar; an expander lowers it.", "Use a compressor.", "outlet_pressure")
        try:
            outlet, fall = outlet_state(model, inlet.state, pressure, efficiency, True)
        except FlashError as error:
            raise UnitFault(str(error), "Let the pressure down less.", "outlet_pressure") from error
        return machine_result(givens, inlet, outlet, fall, -1.0, "Power given", point)
