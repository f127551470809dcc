"""The Wilson equation."""

import numpy as np

from wattaxis.properties import layout
from wattaxis.properties.catalogue import DISSOLVED, HENRY, ModelInfo, directed, over_temperature
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
        "It can never split a liquid in two: not for water with anything that does not mix with it. Above 5 bar choose a real vapour.",
        (*directed("a"), *directed("b", "K"), *directed("e"), *directed("f", "1/K"), *HENRY),
        ("G_E/RT = −x1 ln(x1 + Λ12 x2) − x2 ln(x2 + Λ21 x1)", over_temperature("ln Λ"), DISSOLVED),
        order=22,
    )

    def place_gas(self, block: np.ndarray, par: np.ndarray, gas: int, solvent: int, value: np.ndarray) -> None:
        """ln gamma at infinite dilution is -ln Lambda(gas, solvent) where the other Lambda is one."""
        super().place_gas(block, par, gas, solvent, np.zeros(4))
        block[:4, gas, solvent] = -value
