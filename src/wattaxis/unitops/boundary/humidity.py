"""Moist gases: how much water a gas holds at saturation."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from wattaxis.properties import FlashError
from wattaxis.properties.state import Vector
from wattaxis.unitops.base import UnitFault

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel

WATER = "7732-18-5"


def water_of(model: PropertyModel) -> int:
    """The place of water among the components. Raises UnitFault."""
    for k, item in enumerate(model.components):
        if item.cas == WATER:
            return k
    raise UnitFault("Moisture means water, and water is not among the components.", "Add water under Chemistry.")


def saturated_share(model: PropertyModel, dry: Vector, temperature: float, pressure: float) -> float:
    """Mole fraction of water in a gas of ``dry`` composition (its water left out) in equilibrium with liquid water. Raises UnitFault.

    Found by flashes of the gas with water in excess; the second has so little liquid that the gas keeps its composition.
    """
    water = water_of(model)
    share = 0.5
    for excess in (1.0, 1.02, 1.0005):
        wet = moistened(dry, water, min(share * excess, 0.9999))
        try:
            state = model.flash(wet, T=temperature, P=pressure)
        except FlashError as error:
            raise UnitFault(str(error), "Give a moisture instead.") from error
        if state.vapour_fraction >= 1.0 and share * excess < 0.99:
            state = model.flash(moistened(dry, water, 0.9999), T=temperature, P=pressure)
        if state.vapour_fraction <= 0.0 or state.vapour_fraction >= 1.0:
            what = "does not condense" if state.vapour_fraction >= 1.0 else "leaves no gas"
            text = f"At {temperature:.5g} K and {pressure / 1e5:.4g} bar water {what}, so a humidity is not defined there."
            raise UnitFault(text, "Give a moisture instead, or another temperature or pressure.")
        share = float(state.vapour_fractions[water])
    return share


def moistened(dry: Vector, water: int, share: float) -> Vector:
    """Mole fractions of a dry gas with a mole fraction of water added."""
    found = np.array(dry)
    found[water] = 0.0
    found *= (1.0 - share) / found.sum()
    found[water] = share
    return found
