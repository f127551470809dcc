"""A reboiler through which liquid of the sump circulates: what returns is vapour and liquid in equilibrium, and the product leaves from the sump.

The lowest stage is sump and reboiler together. With the share f of what circulates vaporised, the sump's liquid is x = f y + (1 - f) r of the vapour
y and of the liquid r that returns with it. The product has the heat of what is mixed in the sump: the liquid from above, what is fed there, and r.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from wattaxis.properties.rows import PhaseRows
from wattaxis.properties.state import Vector

if TYPE_CHECKING:
    from wattaxis.columns.equations import Unknowns
    from wattaxis.columns.layout import Layout

Array = NDArray[np.float64]
#: Mole fraction of what returns at least, far from a state.
_TRACE = 1e-14


def returning(layout: Layout, x: Array, y: Array) -> Array:
    """Liquids in equilibrium with the vapours (stages, components): those of the stages, and what returns to the sump."""
    f = layout.vaporised
    if f == 0.0:
        return x
    found, j = x.copy(), layout.main - 1
    back = np.maximum((x[j] - f * y[j]) / (1.0 - f), _TRACE)
    found[j] = back / back.sum()
    return found


@dataclass(frozen=True)
class Sump:
    """Per mole of all feeds: ``total`` moles with their ``heat`` (J) are mixed in the sump, ``returned`` among them; ``share`` is the product."""

    total: float
    heat: float
    share: float
    returned: float

    @classmethod
    def of(cls, layout: Layout, at: Unknowns, liquid: PhaseRows, entering: tuple[float, float]) -> Sump:
        """``entering``: moles from above and by feeds, and their heat (J)."""
        f, j = layout.vaporised, layout.main - 1
        returned = float(at.vapour[j].sum()) * (1.0 - f) / f
        total = entering[0] + returned
        return cls(total, entering[1] + returned * float(liquid.enthalpy[j]), float(at.liquid[j].sum()) / total, returned)

    @property
    def carried(self) -> float:
        """J that the product takes."""
        return self.share * self.heat

    @property
    def by_entering(self) -> float:
        """Slope of that by moles that enter, their heat left out."""
        return -self.share * self.heat / self.total


def equilibrium_slopes(layout: Layout, at: Unknowns, K: Vector, liquid: PhaseRows, vapour: PhaseRows) -> tuple[Array, Array]:
    """Slopes of V K r by the flows of liquid and of vapour (components, components) of the lowest stage."""
    f, j = layout.vaporised, layout.main - 1
    L, V = float(at.liquid[j].sum()), float(at.vapour[j].sum())
    x, y = at.liquid[j] / L, at.vapour[j] / V
    eye = np.eye(len(x))
    by_liquid = (eye - x[:, None]) / (L * (1.0 - f))
    by_vapour = -f * (eye - y[:, None]) / (V * (1.0 - f))
    r = returning(layout, x[None].repeat(j + 1, 0), y[None].repeat(j + 1, 0))[j]
    of_phi, Kr = liquid.log_phi_by_amounts[j], K * r

    def chain(slope: Array) -> Array:
        return np.asarray(V * (K[:, None] * slope + Kr[:, None] * (of_phi @ slope)))

    return chain(by_liquid), chain(by_vapour) + Kr[:, None] * (1.0 - vapour.log_phi_by_amounts[j])


def heat_slopes(layout: Layout, at: Unknowns, liquid: PhaseRows, sump: Sump) -> tuple[Vector, Vector, float]:
    """Slopes (J) of what the product takes by the flows of liquid and of vapour of the lowest stage, and by its temperature."""
    f, j = layout.vaporised, layout.main - 1
    L, V = float(at.liquid[j].sum()), float(at.vapour[j].sum())
    x, own = at.liquid[j] / L, liquid.partial_enthalpies[j]
    by_liquid = sump.heat / sump.total + sump.share * V / (f * L) * (own - own @ x)
    by_vapour = sump.by_entering * (1.0 - f) / f + sump.share * (own @ x / f - own)
    return by_liquid, by_vapour, sump.share * sump.returned * float(liquid.heat_capacity[j])
