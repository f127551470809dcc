"""The NRTL equation."""

import numpy as np

from wattaxis.properties import layout
from wattaxis.properties.catalogue import DISSOLVED, HENRY, ModelInfo, directed, over_temperature
from wattaxis.properties.catalogue import PairParameter as P
from wattaxis.properties.registry import LocalModel, property_model


@property_model
class Nrtl(LocalModel):
    """``tau_ij = a_ij + b_ij/T + e_ij ln T + f_ij T``, ``G_ij = exp(-alpha tau_ij)``."""

    code = layout.NRTL
    info = ModelInfo(
        "nrtl",
        "NRTL",
        "Renon, Prausnitz 1968",
        "Polar liquids at low pressure, also where they split into two: alcohols, ketones, esters, water.",
        "Above 5 bar choose a real vapour; none of them associates. Gases dissolve by Henry's law. Pairs must be known.",
        (
            *directed("a"),
            *directed("b", "K"),
            P("alpha", "", 0.0, 1.0, 0.0, "non-randomness, 0.2 to 0.47 usually"),
            *directed("e"),
            *directed("f", "1/K"),
            *HENRY,
        ),
        (
            "G_E/RT = x1 x2 (τ21 G21/(x1 + x2 G21) + τ12 G12/(x2 + x1 G12))",
            f"{over_temperature('τ')}; G = exp(−alpha τ)",
            DISSOLVED,
        ),
        order=20,
    )

    def place_gas(self, block: np.ndarray, par: np.ndarray, gas: int, solvent: int, value: np.ndarray) -> None:
        """Without non-randomness ln gamma at infinite dilution is the sum of both tau."""
        super().place_gas(block, par, gas, solvent, value / 2.0)
