"""The UNIQUAC equation."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from wattaxis.properties import layout
from wattaxis.properties.catalogue import DISSOLVED, HENRY, ModelInfo, directed, over_temperature
from wattaxis.properties.registry import LocalModel, property_model
from wattaxis.substances import Component


@property_model
class Uniquac(LocalModel):
    """``ln tau_ij = a_ij + b_ij/T + e_ij ln T + f_ij T``; sizes r and surfaces q from the groups of the molecule."""

    code = layout.UNIQUAC
    info = ModelInfo(
        "uniquac",
        "UNIQUAC",
        "Abrams, Prausnitz 1975",
        "As NRTL, with sizes of the molecules from their groups; good where they differ much.",
        "Above 5 bar choose a real vapour. Needs r and q of every component. Pairs must be known.",
        (*directed("a"), *directed("b", "K"), *directed("e"), *directed("f", "1/K"), *HENRY),
        ("G_E/RT = combinatorial part − q1 x1 ln(θ1 + θ2 τ21) − q2 x2 ln(θ2 + θ1 τ12), θ: fractions of surface", over_temperature("ln τ"), DISSOLVED),
        order=21,
    )

    def pack(self, par: np.ndarray, components: Sequence[Component]) -> None:
        """r and q. Raises ValueError for a component without them."""
        for i, c in enumerate(components):
            if c.uniquac_r is None or c.uniquac_q is None:
                raise ValueError(f"UNIQUAC needs the size r and the surface q of {c.name}, which are not known. Choose another model.")
            par[layout.SIZE, i] = par[layout.SIZE_POWER, i] = c.uniquac_r
            par[layout.SURFACE, i] = c.uniquac_q

    def gas_alone(self, par: np.ndarray, gas: int, solvent: int) -> float:
        """The combinatorial part."""
        size = par[layout.SIZE, gas] / par[layout.SIZE, solvent]
        ratio = size * par[layout.SURFACE, solvent] / par[layout.SURFACE, gas]
        return float(math.log(size) + 1.0 - size - 5.0 * par[layout.SURFACE, gas] * (math.log(ratio) + 1.0 - ratio))

    def place_gas(self, block: np.ndarray, par: np.ndarray, gas: int, solvent: int, value: np.ndarray) -> None:
        """The residual part at infinite dilution is -q ln tau(solvent, gas) where the other tau is one."""
        super().place_gas(block, par, gas, solvent, np.zeros(4))
        block[:4, solvent, gas] = -value / par[layout.SURFACE, gas]
