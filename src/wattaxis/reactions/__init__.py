"""Reactions: equations as people write them, balance of elements, heat and equilibrium constant over temperature, rate laws and their constants."""

from wattaxis.reactions.balance import Gaps, balanced, element_gaps
from wattaxis.reactions.equation import Equation, EquationError, equation_text, read_equation
from wattaxis.reactions.equilibrium import ChemicalEquilibrium, EquilibriumError
from wattaxis.reactions.expression import Constant, Expression
from wattaxis.reactions.kinetics import Kinetics, KineticsError
from wattaxis.reactions.rates import Adsorption, Arrhenius, PowerLaw
from wattaxis.reactions.reaction import RateLaw, Reaction, ReactionSet
from wattaxis.reactions.thermochemistry import Thermochemistry, thermochemistry

__all__ = [
    "Adsorption",
    "Arrhenius",
    "ChemicalEquilibrium",
    "Constant",
    "Equation",
    "EquationError",
    "EquilibriumError",
    "Expression",
    "Gaps",
    "Kinetics",
    "KineticsError",
    "PowerLaw",
    "RateLaw",
    "Reaction",
    "ReactionSet",
    "Thermochemistry",
    "balanced",
    "element_gaps",
    "equation_text",
    "read_equation",
    "thermochemistry",
]
