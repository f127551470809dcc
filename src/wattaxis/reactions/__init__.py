"""Reactions: equations as people write them, balance of elements, heat and equilibrium constant over temperature, rate laws and their constants."""

from importlib import import_module
from typing import TYPE_CHECKING, Any

from wattaxis.reactions.balance import Gaps, balanced, element_gaps
from wattaxis.reactions.constants import Arrhenius, Tabulated
from wattaxis.reactions.course import Course, course
from wattaxis.reactions.equation import Equation, EquationError, equation_text, read_equation
from wattaxis.reactions.equilibrium import ChemicalEquilibrium, EquilibriumError
from wattaxis.reactions.expression import Constant, Expression
from wattaxis.reactions.free import FreeRate
from wattaxis.reactions.kinetics import Kinetics, KineticsError
from wattaxis.reactions.rates import Adsorption, PowerLaw
from wattaxis.reactions.reaction import RateLaw, Reaction, ReactionSet
from wattaxis.reactions.thermochemistry import Thermochemistry, thermochemistry

if TYPE_CHECKING:
    from wattaxis.reactions.fitting import RateFit, fit_rates

__all__ = [
    "Adsorption",
    "Arrhenius",
    "ChemicalEquilibrium",
    "Constant",
    "Course",
    "Equation",
    "EquationError",
    "EquilibriumError",
    "Expression",
    "FreeRate",
    "Gaps",
    "Kinetics",
    "KineticsError",
    "PowerLaw",
    "RateFit",
    "RateLaw",
    "Reaction",
    "ReactionSet",
    "Tabulated",
    "Thermochemistry",
    "balanced",
    "course",
    "element_gaps",
    "equation_text",
    "fit_rates",
    "read_equation",
    "thermochemistry",
]


def __getattr__(name: str) -> Any:
    """What needs an optimiser is loaded when it is first used; reading a document does not."""
    if name in ("RateFit", "fit_rates"):
        return getattr(import_module("wattaxis.reactions.fitting"), name)
    raise AttributeError(f"module {__name__!r} has no attribute {name!r}")
