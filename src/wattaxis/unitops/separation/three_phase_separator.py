"""Three-phase separator: vapour, light and heavy liquid at equilibrium; without a vapour a decanter."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

from wattaxis.properties.settling import settling_density
from wattaxis.unitops.base import Finding, Givens, Port, ResultValue, StreamState, UnitOperation, UnitResult, UnitSpec
from wattaxis.unitops.energy.connections import heat_ports
from wattaxis.unitops.registry import unit_operation
from wattaxis.unitops.separation.drum import DrumSpec, FlashDrum, flashed

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel, State


@unit_operation
class ThreePhaseSeparator(UnitOperation):
    """Vapour over two liquids, the lighter one over the heavier one."""

    type = "three-phase-separator"
    title = "Three-phase separator"
    symbol = "separator"
    letter = "V"
    also = ("separator", "vessel", "settler")
    family = "separation"
    theory = (
        "One equilibrium stage of a vapour and two liquids: the feed is flashed at the vessel's pressure and its temperature, duty or vapour "
        "fraction, and the liquids are separated by density (Michelsen 1994). A single liquid leaves by the heavy outlet."
    )
    Spec = DrumSpec
    ports = (
        Port("inlet", "Inlet", "in", many=True, place=(0.0, 0.5)),
        Port("vapour", "Vapour", "out", place=(0.5, 0.0)),
        Port("light", "Light liquid", "out", place=(1.0, 0.5)),
        Port("heavy", "Heavy liquid", "out", place=(0.5, 1.0)),
        *heat_ports((0.0, 0.9), (1.0, 0.9)),
    )
    fields = FlashDrum.fields
    pressures = FlashDrum.pressures
    choices = FlashDrum.choices

    def barred(self, spec: UnitSpec, component: str, solid: bool) -> frozenset[str]:
        """Solids settle with the heavy liquid."""
        return frozenset({"vapour", "light"} if solid else ())

    def solve(self, givens: Givens, inlets: Mapping[str, Sequence[StreamState]], model: PropertyModel, outlets: frozenset[str]) -> UnitResult:
        """Flash and part the phases by density."""
        flash = flashed(givens, inlets["inlet"], model)
        light, heavy, two = parted(flash.state)
        beta = flash.state.vapour_share
        parts = {
            "vapour": StreamState(flash.flow * beta, flash.state.part("vapour")),
            "light": StreamState(flash.flow * light[0], light[1]),
            "heavy": StreamState(flash.flow * heavy[0], heavy[1]),
        }
        values = (ResultValue("light_share", "Light liquid, share of the feed", "fraction", light[0]),)
        findings = []
        if not two:
            text = "No liquid forms: everything leaves as vapour."
            if heavy[0] > 0.0:
                text = "The liquid does not separate here: all of it leaves by the heavy outlet."
            findings.append(Finding("note", "", text, "Try another temperature, or a model that describes two liquids."))
        if beta > 0.0 and "vapour" not in outlets:
            text = f"{100 * beta:.3g} % of the feed is vapour, and the vapour outlet is not connected."
            findings.append(Finding("caution", "", text, "Connect the vapour outlet, or cool the feed."))
        return flash.result(parts, values, findings)


def parted(state: State) -> tuple[tuple[float, State], tuple[float, State], bool]:
    """The light and the heavy liquid of a state, each with its mole share of the whole, and whether there are two; one alone is the heavy one.

    Solids settle with the heavy one.
    """
    fluid = 1.0 - state.solid_fraction
    if fluid <= 0.0:
        return (0.0, state), (1.0, state), False
    liquids = sorted(((share * fluid, liquid) for share, liquid in state.liquid_parts()), key=lambda part: settling_density(part[1]))
    heavy = liquids[-1] if liquids else (0.0, state.part("liquid"))
    if state.solid_fraction > 0.0:
        heavy = heavy[0] + state.solid_fraction, _laden(state, heavy)
    return (liquids[0] if len(liquids) == 2 else (0.0, heavy[1])), heavy, len(liquids) == 2


def _laden(state: State, heavy: tuple[float, State]) -> State:
    """The heavy liquid with the solids of the state in it."""
    share, liquid = heavy
    x = liquid.liquid_fractions
    mixed = share * x * (1.0 - liquid.solid_fraction) + state.model.solids_of(state.fractions)
    laden = type(state)(state.model, state.temperature, state.pressure, 0.0, mixed / mixed.sum(), x, x)
    laden.root = liquid.root
    return laden
