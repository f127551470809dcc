"""Reactions: equations as people write them, balance of elements, heat, Gibbs energy and equilibrium constant over temperature."""

from wattaxis.reactions.balance import Gaps, balanced, element_gaps
from wattaxis.reactions.equation import Equation, EquationError, equation_text, read_equation
from wattaxis.reactions.thermochemistry import Thermochemistry, thermochemistry

__all__ = [
    "Equation",
    "EquationError",
    "Gaps",
    "Thermochemistry",
    "balanced",
    "element_gaps",
    "equation_text",
    "read_equation",
    "thermochemistry",
]
