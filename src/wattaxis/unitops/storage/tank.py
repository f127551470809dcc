"""Tank: a vessel with a volume and a level, through which a liquid passes."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

from wattaxis.quantities import Quantity
from wattaxis.unitops.base import (
    Choice,
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
from wattaxis.unitops.registry import unit_operation

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel

LEVEL = Quantity(value=50.0, unit="%")


class TankSpec(UnitSpec):
    """Volume, or diameter and height, or the residence time; and the level."""

    volume: Quantity | None = None
    residence_time: Quantity | None = None
    diameter: Quantity | None = None
    level: Quantity | None = None


@unit_operation
class Tank(UnitOperation):
    """What enters leaves in the same state; volume and residence time belong together."""

    type = "tank"
    title = "Tank"
    symbol = "tank"
    letter = "TK"
    also = ("vessel", "storage")
    family = "storage"
    theory = "At steady state a tank changes nothing: its liquid holdup is level times volume, its residence time the holdup over the volume flow."
    Spec = TankSpec
    ports = (Port("inlet", "Inlet", "in", many=True, place=(0.0, 0.2)), Port("outlet", "Outlet", "out", place=(1.0, 0.85)))
    fields = (
        Field("volume", "Volume", "volume"),
        Field("residence_time", "Residence time", "time", "liquid holdup over volume flow"),
        Field("diameter", "Diameter", "length", "blank: as high as wide"),
        Field("level", "Level", "fraction", "liquid over the whole volume"),
    )
    choices = (
        Choice("Size", ("volume", "residence_time")),
        Choice("Level", ("level",), 1, ("level", LEVEL, "no level was given")),
    )

    def solve(self, givens: Givens, inlets: Mapping[str, Sequence[StreamState]], model: PropertyModel, outlets: frozenset[str]) -> UnitResult:
        """Mix the inlets, and size the holdup."""
        flowing = [s for s in inlets["inlet"] if s.flow > 0.0] or list(inlets["inlet"][:1])
        total, z = mix_composition(flowing)
        state = flowing[0].state
        if len(flowing) > 1:
            lowest = min(s.state.pressure for s in flowing)
            state = model.flash(z, P=lowest, H=sum(s.enthalpy_flow for s in flowing) / total, guess=state.temperature)
        volume, time, level = givens.si("volume"), givens.si("residence_time"), givens.si("level") or 0.0
        if level <= 0.0:
            raise UnitFault("An empty tank has no holdup.", "Give a level above zero.", "level")
        flow = total * state.molar_volume
        if volume is None:
            volume = float(time or 0.0) * flow / level
        elif flow > 0.0:
            time = level * volume / flow
        diameter = givens.si("diameter") or (4.0 * volume / math.pi) ** (1.0 / 3.0)
        height = volume / (math.pi / 4.0 * diameter**2) if diameter > 0.0 else 0.0
        density = state.molar_mass / state.molar_volume if state.molar_volume > 0.0 else 0.0
        values = [
            ResultValue("volume", "Volume", "volume", volume),
            ResultValue("holdup", "Liquid holdup", "mass", level * volume * density),
            ResultValue("diameter", "Diameter", "length", diameter),
            ResultValue("height", "Height", "length", height),
        ]
        if time is not None:
            values.append(ResultValue("residence_time", "Residence time", "time", time))
        findings = []
        if state.vapour_fraction > 1e-6:
            text = f"{100 * state.vapour_fraction:.3g} % of what enters is vapour; the holdup counts it as if it were liquid."
            findings.append(Finding("caution", "", text, "Add a flash drum upstream."))
        return UnitResult({"outlet": StreamState(total, state)}, 0.0, tuple(values), tuple(findings))
