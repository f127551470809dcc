"""Compressor: a gas brought to a higher pressure along an isentrope with an efficiency."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import TYPE_CHECKING, Any

from wattaxis.properties import FlashError
from wattaxis.quantities import Quantity
from wattaxis.unitops.base import Assumed, Choice, Field, Finding, Givens, StreamState, UnitFault, UnitOperation, UnitResult, UnitSpec
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


#: Edits that part the liquid off before the machine, and lead it to a product of its own.
KNOCK_OUT: tuple[dict[str, Any], ...] = (
    {
        "kind": "insert_in_line",
        "stream": "<inlet",
        "unit": {"tag": "+V", "type": "drum", "spec": {"duty": {"value": 0.0, "unit": "kW"}}, "x": -120.0, "y": -20.0},
        "inlet": "inlet",
        "outlet": "vapour",
    },
    {"kind": "add_unit", "unit": {"tag": "+Z", "type": "product", "spec": {}, "x": -20.0, "y": 120.0}},
    {"kind": "connect", "stream": {"tag": "+S", "source": {"unit": "+V", "port": "liquid"}, "target": {"unit": "+Z", "port": "inlet"}}},
)


class CompressorSpec(MachineSpec):
    """As of both machines; and a discharge temperature not to be passed."""

    temperature_limit: Quantity | None = None


@unit_operation
class Compressor(UnitOperation):
    """Isentropic with an efficiency."""

    type = "compressor"
    title = "Compressor"
    symbol = "compressor"
    letter = "K"
    also = ("blower", "fan", "booster")
    family = "pressure"
    solids_harm = "erodes a compressor"
    theory = (
        "The enthalpy rises by the isentropic rise over the efficiency; all of the shaft power goes into the stream. "
        "A polytropic efficiency counts for every small step of the path alike. A curve gives the isentropic head over the volume flow at the "
        "suction, a monotone cubic between its points; with the speed the flow rises, the head with its square."
    )
    Spec = CompressorSpec
    ports = MACHINE_PORTS
    fields = (
        *machine_fields("Power", "outlet over inlet"),
        Field("temperature_limit", "Discharge limit", "temperature", "a caution when the outlet gets hotter"),
    )
    pressures = (MACHINE_PRESSURE,)
    choices = (
        Choice("Discharge", ("outlet_pressure", "pressure_change", "pressure_ratio", "power", "curve"), port=SHAFT_IN),
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
        pressure = asked_pressure(givens, inlet.state) if point is None else pressure_of_head(model, inlet, point.head)
        if pressure is None:
            power, by_shaft = givens.si("power") or 0.0, givens.power(SHAFT_IN)
            pressure = pressure_of_power(model, inlet, efficiency, power if by_shaft is None else by_shaft, False)
        if pressure < inlet.state.pressure * (1 - 1e-9):
            drop = (inlet.state.pressure - pressure) / 1e5
            raise UnitFault(f"The pressure falls by {drop:.4g} bar; a compressor raises it.", "Use an expander or a valve.", "outlet_pressure")
        try:
            outlet, rise = outlet_state(model, inlet.state, pressure, efficiency, False)
        except FlashError as error:
            raise UnitFault(str(error), "Compress less, or in stages with cooling between them.", "outlet_pressure") from error
        found = machine_result(givens, inlet, outlet, rise, 1.0, "Power", point)
        return replace(found, findings=(*found.findings, *_findings(givens, inlet, outlet.temperature)))


def _findings(givens: Givens, inlet: StreamState, temperature: float) -> list[Finding]:
    found = []
    wet = (1.0 - inlet.state.vapour_fraction) * (1.0 - inlet.state.solid_fraction)
    if wet > 1e-6 and inlet.flow > 0.0:
        text = f"{100 * wet:.3g} % of the suction is liquid ({inlet.flow * wet:.4g} mol/s), which damages a compressor."
        found.append(Finding("caution", "", text, "Add a knock-out drum before it.", None, KNOCK_OUT, "Add a knock-out drum"))
    limit = givens.si("temperature_limit")
    if limit is not None and temperature > limit:
        text = f"The discharge reaches {temperature - 273.15:.1f} degC, above the limit of {limit - 273.15:.1f} degC."
        found.append(Finding("caution", "", text, "Compress in stages with cooling between them.", "temperature_limit"))
    return found
