"""The van Laar equations."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from wattaxis.properties import layout
from wattaxis.properties.catalogue import DISSOLVED, HENRY, ModelInfo, directed, over_temperature
from wattaxis.properties.registry import LocalModel, PairValues, property_model
from wattaxis.substances import Component


@property_model
class VanLaar(LocalModel):
    """``ln gamma_1 = A12 (A21 x2 / (A12 x1 + A21 x2))**2`` with ``A_ij = a_ij + b_ij/T + e_ij ln T + f_ij T``."""

    code = layout.VAN_LAAR
    info = ModelInfo(
        "van-laar",
        "Van Laar",
        "van Laar 1910, summed over pairs",
        "Binary mixtures with deviations of one sign; textbook cases.",
        "Both constants of a pair must have the same sign. Above 5 bar choose a real vapour.",
        (*directed("a"), *directed("b", "K"), *directed("e"), *directed("f", "1/K"), *HENRY),
        ("G_E/RT = A12 A21 x1 x2/(A12 x1 + A21 x2)", over_temperature("A"), DISSOLVED),
        order=41,
    )

    def pair_block(self, components: Sequence[Component], pairs: PairValues) -> np.ndarray:
        """As of the other models, after a check of the signs at 298.15 K. Raises ValueError."""
        block = super().pair_block(components, pairs)
        value = block[0] + block[1] / layout.T_REF + block[2] * np.log(layout.T_REF) + block[3] * layout.T_REF
        for i, j in zip(*np.nonzero(value * value.T < 0.0), strict=True):
            raise ValueError(f"Van Laar constants of {components[i].id} and {components[j].id} must have the same sign, or use Margules.")
        return block
