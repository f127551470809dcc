"""The property models there are, in words: for choosing, for reports, for basis notes."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class ModelInfo:
    """A property model: key, title, source, what it is for and what it cannot do, whether it has pair parameters."""

    key: str
    title: str
    source: str
    use: str
    limits: str
    pairs: bool


MODELS: dict[str, ModelInfo] = {
    m.key: m
    for m in (
        ModelInfo(
            "peng-robinson",
            "Peng-Robinson",
            "Peng, Robinson 1976",
            "Hydrocarbons, gases, light non-polar mixtures at any pressure; hydrogen and other gases above their critical temperature.",
            "Liquid densities are some per cent off; alcohols, water and ketones need fitted pairs.",
            True,
        ),
        ModelInfo(
            "soave-redlich-kwong",
            "Soave-Redlich-Kwong",
            "Soave 1972",
            "As Peng-Robinson; somewhat better for gases, worse for liquid densities.",
            "No pair parameters in the bank: pairs not typed in are assumed zero.",
            True,
        ),
        ModelInfo(
            "ideal",
            "Ideal (Raoult's law)",
            "ideal gas over an ideal liquid, vapour pressures of the bank",
            "Similar substances at low pressure; first estimates.",
            "No azeotropes, no two liquids, no pressure effects; gases above their critical temperature are extrapolated.",
            False,
        ),
    )
}
