"""The ideal model: Raoult's law."""

from wattaxis.properties import layout
from wattaxis.properties.catalogue import ModelInfo
from wattaxis.properties.registry import ModelKind, property_model


@property_model
class Ideal(ModelKind):
    """Ideal gas over an ideal liquid."""

    code = layout.IDEAL
    info = ModelInfo(
        "ideal",
        "Ideal (Raoult's law)",
        "ideal gas over an ideal liquid, vapour pressures of the bank",
        "Similar substances at low pressure; first estimates.",
        "No azeotropes, no two liquids, no pressure effects; gases above their critical temperature are extrapolated.",
        order=90,
    )
