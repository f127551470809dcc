"""Properties of products that may be wanted: vapour pressure, boiling and dew temperature, density of the liquid, with slopes by composition."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

import numpy as np

from wattaxis.properties import FlashError
from wattaxis.properties.state import Vector

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel

VAPOUR_PRESSURE, BOILING, DEW, DENSITY = "vapour pressure", "boiling temperature", "dew temperature", "liquid density"
#: What a property is of a model at a composition, a temperature (K) and a pressure (Pa), of which it may need only one.
PROPERTIES: dict[str, Callable[[PropertyModel, Vector, float, float], float]] = {
    VAPOUR_PRESSURE: lambda model, z, T, P: model.flash(z, T=T, VF=0.0).pressure,
    BOILING: lambda model, z, T, P: model.flash(z, P=P, VF=0.0).temperature,
    DEW: lambda model, z, T, P: model.flash(z, P=P, VF=1.0).temperature,
    DENSITY: lambda model, z, T, P: float(z @ model.molar_masses) / model.phase("liquid", T, P, z).molar_volume,
}
#: Those at a temperature, and those at a pressure.
AT_TEMPERATURE, AT_PRESSURE = (VAPOUR_PRESSURE, DENSITY), (BOILING, DEW, DENSITY)
#: Share of an amount, of one mole in all, by which slopes are differenced, and the least amount of which it is.
_STEP, _TRACE = 1e-4, 1e-3


def property_of(model: PropertyModel, kind: str, flows: Vector, T: float, P: float) -> float:
    """The value of a property in SI; no number where the mixture has none."""
    total = float(flows.sum())
    if not total > 0.0:
        return np.nan
    try:
        return PROPERTIES[kind](model, flows / total, T, P)
    except FlashError:
        return np.nan


def slopes_of(model: PropertyModel, kind: str, flows: Vector, T: float, P: float) -> Vector:
    """Its slopes by the flows (components,), by central differences, one-sided where there is nothing to take."""
    total, found = float(flows.sum()), np.zeros(len(flows))
    z = flows / total
    for i in range(len(z)):
        step = _STEP * max(float(z[i]), _TRACE)
        more, less = z.copy(), z.copy()
        more[i], less[i] = z[i] + step, max(z[i] - step, 0.0)
        apart = float(more[i] - less[i])
        found[i] = (property_of(model, kind, more, T, P) - property_of(model, kind, less, T, P)) / (apart * total)
    return found
