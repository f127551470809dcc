"""What goes from a stage to another by a way of its own, with its derivatives; and what goes back of a condensate that is decanted."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from wattaxis.columns.layout import Layout
from wattaxis.properties.parted import PartedRows, parted_rows
from wattaxis.properties.rows import PhaseRows
from wattaxis.properties.state import Vector

if TYPE_CHECKING:
    from wattaxis.columns.equations import Unknowns

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Carried:
    """``flows`` (components,) and ``heat`` (J) per mole of all feeds, with slopes by the flows of the phase they are of and by its temperature.

    ``share`` is what of that phase they are, where that is a number.
    """

    flows: Vector
    heat: float
    by_flows: Array
    warmer: Vector
    heat_by_flows: Vector
    heat_warmer: float
    share: float = 1.0


@dataclass(frozen=True)
class Decanted:
    """The condensate of the first stage, decanted: fractions ``z``, ``amount`` moles, ``rows`` of one mole; whether the ``light`` one goes back."""

    z: Vector
    amount: float
    rows: PartedRows
    light: bool

    @property
    def parts(self) -> bool:
        """Whether there are two liquids."""
        return bool(self.rows.parts[0])

    def told(self, liquid: PhaseRows) -> PhaseRows:
        """The liquids of all stages, with the heat of the first one as it is when decanted."""
        own = {}
        for name in ("enthalpy", "heat_capacity", "partial_enthalpies"):
            own[name] = getattr(liquid, name).copy()
            own[name][0] = getattr(self.rows.whole, name)[0]
        return replace(liquid, **own)

    def carried(self, real: float = 1.0) -> Carried:
        """What goes back, with ``real`` of its heat."""
        rows, n = self.rows, self.amount
        flows, by_flows, warmer, phase = rows.light[0], rows.light_by_amounts[0], rows.light_by_temperature[0], rows.light_phase
        if not self.light:
            flows, by_flows, warmer, phase = self.z - flows, np.eye(len(self.z)) - by_flows, -warmer, rows.heavy_phase
        partial = phase.partial_enthalpies[0]
        heat, more = flows.sum() * phase.enthalpy[0], flows.sum() * phase.heat_capacity[0] + partial @ warmer
        return Carried(n * flows, real * n * float(heat), by_flows, n * warmer, real * (partial @ by_flows), real * n * float(more))


def decant(layout: Layout, at: Unknowns) -> Decanted:
    """The condensate at the temperature at which it is decanted."""
    flows = at.liquid[0]
    total = float(flows.sum())
    z = flows / total
    T = at.T[:1] - layout.subcooling
    return Decanted(z, total, parted_rows(layout.model, T, layout.P[:1], z[None]), layout.back == "light")
