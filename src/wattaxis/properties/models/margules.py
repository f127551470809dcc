"""The three-suffix Margules equations, with Wohl's term for three components."""

from wattaxis.properties import layout
from wattaxis.properties.catalogue import DISSOLVED, HENRY, ModelInfo, directed, over_temperature
from wattaxis.properties.registry import LocalModel, property_model


@property_model
class Margules(LocalModel):
    """``ln gamma_1 = x2**2 (A12 + 2 (A21 - A12) x1)`` with ``A_ij = a_ij + b_ij/T + e_ij ln T + f_ij T``."""

    code = layout.MARGULES
    info = ModelInfo(
        "margules",
        "Margules",
        "Margules 1895, three suffixes; Wohl 1946 for more than two components",
        "Binary mixtures of similar molecules; textbook cases.",
        "Poor for strongly different molecules and for more than two components. Above 5 bar choose a real vapour.",
        (*directed("a"), *directed("b", "K"), *directed("e"), *directed("f", "1/K"), *HENRY),
        ("G_E/RT = x1 x2 (A21 x1 + A12 x2)", over_temperature("A"), DISSOLVED),
        order=40,
    )
