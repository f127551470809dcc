"""Component splitter: a separation given by the share of each component, in place of a column that is not designed yet."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

from wattaxis.properties import FlashError
from wattaxis.quantities import Quantity
from wattaxis.unitops.base import Ask, Choice, Field, Givens, Port, ResultValue, StreamState, UnitFault, UnitOperation, UnitResult, UnitSpec
from wattaxis.unitops.per_component import PerComponent
from wattaxis.unitops.pressures import CHANGE
from wattaxis.unitops.registry import unit_operation

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel

SAME = Quantity(value=0.0, unit="bar")


class ComponentSplitterSpec(UnitSpec):
    """The share of each component that leaves overhead; state of both outlets."""

    shares: PerComponent | None = None
    overhead_vapour_fraction: Quantity | None = None
    overhead_temperature: Quantity | None = None
    bottoms_vapour_fraction: Quantity | None = None
    bottoms_temperature: Quantity | None = None
    pressure_change: Quantity | None = None


@unit_operation
class ComponentSplitter(UnitOperation):
    """Given shares; both outlets at one pressure."""

    type = "component-splitter"
    title = "Component splitter"
    symbol = "component-splitter"
    letter = "T"
    also = ("column", "scrubber", "absorber", "separator")
    family = "separation"
    theory = "Each component goes overhead by its given share; the heat needed for the states of both outlets is reported."
    Spec = ComponentSplitterSpec
    ports = (
        Port("inlet", "Inlet", "in", place=(0.0, 0.5)),
        Port("overhead", "Overhead", "out", place=(0.5, 0.0)),
        Port("bottoms", "Bottoms", "out", place=(0.5, 1.0)),
    )
    fields = (
        Field("shares", "Share that leaves overhead", "fraction", "blank: none of it", each=True),
        Field("overhead_temperature", "Overhead temperature", "temperature"),
        Field("overhead_vapour_fraction", "Overhead vapour fraction", "fraction", "0: boiling liquid"),
        Field("bottoms_temperature", "Bottoms temperature", "temperature"),
        Field("bottoms_vapour_fraction", "Bottoms vapour fraction", "fraction", "0: boiling liquid"),
        Field("pressure_change", "Pressure change", "pressure_difference", "outlet minus inlet"),
    )
    pressures = (CHANGE,)
    choices = (
        Choice("Overhead", ("overhead_temperature", "overhead_vapour_fraction")),
        Choice("Bottoms", ("bottoms_temperature", "bottoms_vapour_fraction")),
        Choice("Pressure", ("pressure_change",), 1, ("pressure_change", SAME, "no pressure loss was given")),
    )

    def asks(self, tag: str, spec: UnitSpec, component_ids: Sequence[str], connected: frozenset[str]) -> list[Ask]:
        """The choices, and at least one share."""
        found = super().asks(tag, spec, component_ids, connected)
        shares = getattr(spec, "shares", None)
        if shares is None or not shares.values:
            found.append(Ask(tag, f"{tag} needs the share of at least one component that leaves overhead.", ("shares",)))
        return found

    def barred(self, spec: UnitSpec, component: str, solid: bool) -> frozenset[str]:
        """By its share: none of it overhead, or all of it."""
        shares = getattr(spec, "shares", None)
        if shares is None:
            return frozenset()
        share = float(shares.si([component], "fraction", 0.0)[0])
        return frozenset({"overhead"} if share <= 0.0 else {"bottoms"} if share >= 1.0 else ())

    def solve(self, givens: Givens, inlets: Mapping[str, Sequence[StreamState]], model: PropertyModel, outlets: frozenset[str]) -> UnitResult:
        """Two flashes; the heat is their enthalpy less the inlet's."""
        inlet = inlets["inlet"][0]
        ids = [c.id for c in model.components]
        share = givens.raw("shares").si(ids, "fraction", 0.0)
        pressure = inlet.state.pressure + (givens.si("pressure_change") or 0.0)
        if pressure <= 0.0:
            raise UnitFault("The pressure loss exceeds the inlet pressure.", "Give a smaller drop.", "pressure_change")
        parts = {"overhead": inlet.flows * share, "bottoms": inlet.flows * (1.0 - share)}
        found = {}
        for port, flows in parts.items():
            total = float(flows.sum())
            fractions = flows / total if total > 0.0 else inlet.state.fractions
            fraction, temperature = givens.si(f"{port}_vapour_fraction"), givens.si(f"{port}_temperature")
            try:
                state = model.flash(fractions, P=pressure, T=temperature) if fraction is None else model.flash(fractions, P=pressure, VF=fraction)
            except FlashError as error:
                raise UnitFault(f"The {port}: {error}", "Give a temperature instead.", f"{port}_vapour_fraction") from error
            found[port] = StreamState(total, state)
        heat = sum(s.enthalpy_flow for s in found.values()) - inlet.enthalpy_flow
        values = (
            ResultValue("duty", "Heat added in all", "power", heat),
            ResultValue("overhead_temperature", "Overhead temperature", "temperature", found["overhead"].state.temperature),
            ResultValue("bottoms_temperature", "Bottoms temperature", "temperature", found["bottoms"].state.temperature),
        )
        return UnitResult(found, heat, values)
