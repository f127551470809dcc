"""Studies: a plant asked the other way round."""

from wattaxis.studies.cases import Cases, StudyError, cases_of, plant_of_case
from wattaxis.studies.effects import Effect, LocalEffects, local_effects
from wattaxis.studies.record import question_keys
from wattaxis.studies.sensitivity import BLOCK, Case, Sensitivity, StudyColumn, StudyResult

__all__ = [
    "BLOCK",
    "Case",
    "Cases",
    "Effect",
    "LocalEffects",
    "Sensitivity",
    "StudyColumn",
    "StudyError",
    "StudyResult",
    "cases_of",
    "local_effects",
    "plant_of_case",
    "question_keys",
]
