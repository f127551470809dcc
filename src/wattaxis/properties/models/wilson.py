"""The Wilson equation."""

from wattaxis.properties import layout
from wattaxis.properties.catalogue import ModelInfo, directed
from wattaxis.properties.registry import LocalModel, property_model


@property_model
class Wilson(LocalModel):
    """``ln Lambda_ij = a_ij + b_ij/T + e_ij ln T + f_ij T``."""

    code = layout.WILSON
    info = ModelInfo(
        "wilson",
        "Wilson",
        "Wilson 1964",
        "Alcohols and other polar substances with hydrocarbons that mix fully, at low pressure.",
        "It can never split a liquid in two: not for water with anything that does not mix with it. Ideal vapour.",
        (*directed("a"), *directed("b", "K"), *directed("e"), *directed("f", "1/K")),
        order=22,
    )
