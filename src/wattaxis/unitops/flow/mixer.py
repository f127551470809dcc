"""Mixer: several streams into one."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

from wattaxis.properties import FlashError
from wattaxis.quantities import Quantity
from wattaxis.unitops.base import (
    Field,
    Finding,
    Givens,
    Port,
    ResultValue,
    StreamState,
    UnitFault,
    UnitOperation,
    UnitResult,
    UnitSpec,
    mix_composition,
)
from wattaxis.unitops.pressures import PressureSide
from wattaxis.unitops.registry import unit_operation

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel


class MixerSpec(UnitSpec):
    """Outlet pressure, left blank for the lowest of the inlets."""

    outlet_pressure: Quantity | None = None


@unit_operation
class Mixer(UnitOperation):
    """Adiabatic mixing."""

    type = "mixer"
    title = "Mixer"
    symbol = "mixer"
    letter = "M"
    also = ("tee", "junction")
    family = "flow"
    theory = "Flows and enthalpies of the inlets add up; the outlet takes the lowest inlet pressure unless another is given."
    Spec = MixerSpec
    ports = (Port("inlet", "Inlet", "in", many=True, place=(0.0, 0.5)), Port("outlet", "Outlet", "out", place=(1.0, 0.5)))
    pressures = (PressureSide("outlet_pressure"),)
    fields = (Field("outlet_pressure", "Outlet pressure", "pressure", "blank: the lowest inlet pressure"),)

    def solve(self, givens: Givens, inlets: Mapping[str, Sequence[StreamState]], model: PropertyModel, outlets: frozenset[str]) -> UnitResult:
        """PH flash of the sum."""
        streams = inlets["inlet"]
        flowing = [s for s in streams if s.flow > 0.0] or list(streams[:1])
        total, z = mix_composition(flowing)
        lowest, highest = min(s.state.pressure for s in flowing), max(s.state.pressure for s in flowing)
        given = givens.si("outlet_pressure")
        pressure = lowest if given is None else given
        enthalpy = sum(s.enthalpy_flow for s in flowing) / total if total > 0.0 else flowing[0].state.enthalpy
        try:
            state = model.flash(z, P=pressure, H=enthalpy, guess=flowing[0].state.temperature)
        except FlashError as error:
            raise UnitFault(str(error), "Check the states of the inlets.") from error
        findings = []
        if pressure > lowest * (1 + 1e-9):
            text = f"The outlet at {pressure / 1e5:.4g} bar lies above an inlet at {lowest / 1e5:.4g} bar."
            findings.append(Finding("caution", "", text, "Add a pump or a compressor to that inlet.", "outlet_pressure"))
        elif highest > 1.05 * lowest:
            text = f"The inlets come at {lowest / 1e5:.4g} to {highest / 1e5:.4g} bar; the higher pressures are reduced here without a valve."
            findings.append(Finding("note", "", text, "Add a valve to the line of higher pressure."))
        values = (
            ResultValue("outlet_temperature", "Outlet temperature", "temperature", state.temperature),
            ResultValue("outlet_pressure", "Outlet pressure", "pressure", pressure),
            ResultValue("outlet_vapour_fraction", "Outlet vapour fraction", "fraction", state.vapour_fraction),
        )
        return UnitResult({"outlet": StreamState(total, state)}, 0.0, values, tuple(findings))
