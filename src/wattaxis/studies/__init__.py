"""Studies: a plant asked the other way round."""

from wattaxis.studies.asking import Asked, ask, joined
from wattaxis.studies.cases import Cases, StudyError, cases_of, looked_at, plant_of_case
from wattaxis.studies.effects import Effect, LocalEffects, local_effects
from wattaxis.studies.optimum import Optimisation
from wattaxis.studies.parameters import FreeParameter, parameters_of
from wattaxis.studies.record import question_keys
from wattaxis.studies.result import Binding, LimitState, Optimum, Share, Spread, StudyResult
from wattaxis.studies.sensitivity import BLOCK, Sensitivity
from wattaxis.studies.stand import Case, StudyColumn

__all__ = [
    "BLOCK",
    "Asked",
    "Binding",
    "Case",
    "Cases",
    "Effect",
    "FreeParameter",
    "LimitState",
    "LocalEffects",
    "Optimisation",
    "Optimum",
    "Sensitivity",
    "Share",
    "Spread",
    "StudyColumn",
    "StudyError",
    "StudyResult",
    "ask",
    "cases_of",
    "joined",
    "local_effects",
    "looked_at",
    "parameters_of",
    "plant_of_case",
    "question_keys",
]
