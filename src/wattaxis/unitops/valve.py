"""Valve: pressure falls, enthalpy stays."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

from wattaxis.properties import FlashError
from wattaxis.quantities import Quantity
from wattaxis.unitops.base import (
    Choice,
    Field,
    Givens,
    Port,
    ResultValue,
    StreamState,
    UnitFault,
    UnitOperation,
    UnitResult,
    UnitSpec,
    outlet_pressure,
)
from wattaxis.unitops.registry import unit_operation

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel


class ValveSpec(UnitSpec):
    """Outlet pressure or pressure change."""

    outlet_pressure: Quantity | None = None
    pressure_change: Quantity | None = None


@unit_operation
class Valve(UnitOperation):
    """Adiabatic throttling."""

    type = "valve"
    title = "Valve"
    symbol = "valve"
    letter = "VL"
    family = "pressure"
    theory = "Throttling without heat or shaft power: the molar enthalpy of the outlet equals that of the inlet (Joule, Thomson 1852)."
    Spec = ValveSpec
    ports = (Port("inlet", "Inlet", "in", place=(0.0, 0.5)), Port("outlet", "Outlet", "out", place=(1.0, 0.5)))
    fields = (
        Field("outlet_pressure", "Outlet pressure", "pressure"),
        Field("pressure_change", "Pressure change", "pressure_difference", "outlet minus inlet; negative"),
    )
    choices = (Choice("Pressure", ("outlet_pressure", "pressure_change")),)

    def solve(self, givens: Givens, inlets: Mapping[str, Sequence[StreamState]], model: PropertyModel, outlets: frozenset[str]) -> UnitResult:
        """PH flash at the outlet pressure."""
        inlet = inlets["inlet"][0]
        pressure = outlet_pressure(givens, inlet.state.pressure)
        if pressure > inlet.state.pressure * (1 + 1e-9):
            raise UnitFault(
                f"The outlet at {pressure / 1e5:.4g} bar would be above the inlet at {inlet.state.pressure / 1e5:.4g} bar; a valve cannot raise it.",
                "Give a lower outlet pressure; a change is typed as a negative number.",
                "outlet_pressure" if givens.raw("outlet_pressure") else "pressure_change",
            )
        try:
            state = model.flash(inlet.state.fractions, P=pressure, H=inlet.state.enthalpy, guess=inlet.state.temperature)
        except FlashError as error:
            raise UnitFault(str(error), "Give a higher outlet pressure.", "outlet_pressure") from error
        values = (
            ResultValue("outlet_pressure", "Outlet pressure", "pressure", pressure),
            ResultValue("pressure_change", "Pressure change", "pressure_difference", pressure - inlet.state.pressure),
            ResultValue("outlet_temperature", "Outlet temperature", "temperature", state.temperature),
            ResultValue("outlet_vapour_fraction", "Outlet vapour fraction", "fraction", state.vapour_fraction),
        )
        return UnitResult({"outlet": StreamState(inlet.flow, state)}, 0.0, values)
