"""Studies: a plant asked the other way round."""

from wattaxis.studies.cases import Cases, StudyError, cases_of, plant_of_case
from wattaxis.studies.record import question_keys
from wattaxis.studies.sensitivity import BLOCK, Case, Sensitivity, StudyColumn, StudyResult

__all__ = ["BLOCK", "Case", "Cases", "Sensitivity", "StudyColumn", "StudyError", "StudyResult", "cases_of", "plant_of_case", "question_keys"]
