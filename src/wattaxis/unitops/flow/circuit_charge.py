"""Circuit charge: what goes round a closed circuit, and how much of it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

import numpy as np

from wattaxis.properties import FlashError
from wattaxis.quantities import Quantity, to_si
from wattaxis.quantities.quantity import dimension_si
from wattaxis.unitops.base import Ask, Choice, Field, Finding, Givens, Port, ResultValue, StreamState, UnitFault, UnitOperation, UnitResult, UnitSpec
from wattaxis.unitops.composition import Composition, composition_problems, mole_amounts
from wattaxis.unitops.pressures import PressureSide
from wattaxis.unitops.registry import unit_operation

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel, State

#: Relative difference above which what returns is not what went out.
RETURNS = 1e-6


class CircuitChargeSpec(UnitSpec):
    """A composition; one of circulation, heat taken in and heat given off; and the pressure that is held here, where no other unit sets one."""

    composition: Composition | None = None
    flow: Quantity | None = None
    heat_taken_in: Quantity | None = None
    heat_given_off: Quantity | None = None
    pressure: Quantity | None = None


@unit_operation
class CircuitCharge(UnitOperation):
    """Sets composition and circulation of a closed circuit; its temperature comes from what goes round."""

    type = "circuit-charge"
    title = "Circuit charge"
    symbol = "charge"
    letter = "C"
    family = "flow"
    drafts = True
    theory = (
        "Nothing enters or leaves a closed circuit, so its balances leave composition and circulation open: they are given here. The returning "
        "stream passes on at its own enthalpy and, where no pressure is held here, its own pressure. With a heat in place of the circulation the "
        "circulation is the one at which all heaters, coolers and exchangers of the circuit together take in, or give off, that heat."
    )
    Spec = CircuitChargeSpec
    ports = (Port("inlet", "Inlet", "in", place=(0.0, 0.64)), Port("outlet", "Outlet", "out", place=(1.0, 0.64)))
    fields = (
        Field("composition", "Composition", "composition"),
        Field("flow", "Circulation", "flow", "mole or mass"),
        Field("heat_taken_in", "Heat taken in", "power", "by all heaters and exchangers of the circuit together"),
        Field("heat_given_off", "Heat given off", "power", "by all coolers and exchangers of the circuit together"),
        Field("pressure", "Pressure held here", "pressure", "by an expansion vessel; blank where other units set the pressures"),
    )
    pressures = (PressureSide("pressure", throughout=True),)
    choices = (Choice("Circulation", ("flow", "heat_taken_in", "heat_given_off"), 1),)

    def asks(self, tag: str, spec: UnitSpec, component_ids: Sequence[str], connected: frozenset[str]) -> list[Ask]:
        """A composition and a circulation."""
        assert isinstance(spec, CircuitChargeSpec)
        found = super().asks(tag, spec, component_ids, connected)
        if spec.composition is None or not any(c in spec.composition.values for c in component_ids):
            found.insert(0, Ask(tag, f"{tag} needs the composition of the circulating fluid.", ("composition",)))
        return found

    def problems(self, tag: str, spec: UnitSpec) -> list[Finding]:
        """Also the typed composition."""
        assert isinstance(spec, CircuitChargeSpec)
        return super().problems(tag, spec) + composition_problems(tag, spec.composition)

    def excess(self, tag: str, spec: UnitSpec, connected: frozenset[str] = frozenset()) -> list[Finding]:
        """Also a flow per component, which belongs to a feed, and a heat of nothing."""
        assert isinstance(spec, CircuitChargeSpec)
        found = super().excess(tag, spec, connected)
        for key in ("heat_taken_in", "heat_given_off"):
            heat: Quantity | None = getattr(spec, key)
            if heat is not None and heat.value <= 0.0:
                text = f"{self.field_map()[key].title} of {tag} is {heat}: no circulation follows from that."
                found.append(Finding("fault", tag, text, "Give a heat above zero, or the circulation.", key))
        if spec.composition is not None and not any(share.value for share in spec.composition.values.values()):
            found.append(Finding("fault", tag, f"All values of the composition of {tag} are zero.", "Give at least one component.", "composition"))
        if spec.composition is not None and spec.composition.is_flow:
            text = (
                f"The composition of {tag} is typed as flows; here it is that of the circulating fluid, and its amount is given as the circulation."
            )
            found.append(Finding("fault", tag, text, "Type fractions.", "composition"))
        return found

    def solve(self, givens: Givens, inlets: Mapping[str, Sequence[StreamState]], model: PropertyModel, outlets: frozenset[str]) -> UnitResult:
        """What comes back, at the composition, circulation and pressure that are given."""
        inlet = inlets["inlet"][0]
        amounts = mole_amounts(givens.raw("composition"), model)
        fractions = amounts / amounts.sum()
        pressure = givens.si("pressure")
        flow = inlet.flow if givens.raw("flow") is None else circulation(givens.raw("flow"), fractions, model)
        if not givens.draft:
            _returned(inlet, flow, fractions, pressure)
        state = _outlet(inlet.state, fractions, inlet.state.pressure if pressure is None else pressure, model)
        values = (
            ResultValue("flow", "Circulation", "mole_flow", flow),
            ResultValue("mass_flow", "Circulation by mass", "mass_flow", flow * state.molar_mass),
            ResultValue("temperature", "Temperature", "temperature", state.temperature),
            ResultValue("volume_flow", "Volume flow", "volume_flow", flow * state.molar_volume),
        )
        return UnitResult({"outlet": StreamState(flow, state)}, values=values)


def circulation(typed: Quantity, fractions: np.ndarray, model: PropertyModel) -> float:
    """mol/s of a mole or mass flow as typed."""
    return to_si(typed, "flow") / (float(fractions @ model.molar_masses) if dimension_si(typed, "flow") == "kg/s" else 1.0)


def _outlet(inlet: State, fractions: np.ndarray, pressure: float, model: PropertyModel) -> State:
    """What comes back at the composition of the charge. Raises UnitFault."""
    if pressure == inlet.pressure and np.array_equal(fractions, inlet.fractions):
        return inlet
    try:
        if np.abs(fractions - inlet.fractions).max() < RETURNS:
            return model.flash(fractions, P=pressure, H=inlet.enthalpy, guess=inlet.temperature)
        # On the way something else may come back; its enthalpy says nothing of the charge.
        return model.flash(fractions, T=inlet.temperature, P=pressure)
    except FlashError as error:
        raise UnitFault(str(error), "Check the composition and pressure of the charge.", "composition") from error


def _returned(inlet: StreamState, flow: float, fractions: np.ndarray, pressure: float | None) -> None:
    """Whether what comes back is what went out. Raises UnitFault."""
    if np.abs(fractions - inlet.state.fractions).max() > RETURNS:
        text = "The stream that returns to the charge has another composition: a unit of the circuit changes it."
        raise UnitFault(text, "Remove the reactor, or use a feed in place of the charge.")
    if abs(inlet.flow - flow) > RETURNS * max(flow, 1e-12):
        text = f"Of a circulation of {flow:.6g} mol/s {inlet.flow:.6g} mol/s come back."
        raise UnitFault(text, "Close the circuit, or use a feed in place of the charge.", "flow")
    if pressure is not None and abs(inlet.state.pressure - pressure) > RETURNS * pressure:
        text = (
            f"The pressure does not close: {inlet.state.pressure / 1e5:.6g} bar come back to the {pressure / 1e5:.6g} bar held here, "
            f"so the changes round the circuit add up to {(inlet.state.pressure - pressure) / 1e5:+.4g} bar."
        )
        remedy = "Leave the pressure of its pump or compressor blank: it follows from the losses. Where they depend on the flow, give a higher one."
        raise UnitFault(text, remedy, "pressure")
