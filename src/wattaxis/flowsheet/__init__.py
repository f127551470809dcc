"""The document (what the user gave), its graph, and the editing operations with their inverses."""

from wattaxis.flowsheet.asked import Aim, Limit, Objective, Pin, Study, StudyFit, StudyInput, StudyParameter, Varied
from wattaxis.flowsheet.chemistry import Chemistry, DocumentComponent, OwnComponent, Pair
from wattaxis.flowsheet.document import FORMAT, Document, DocumentError, End, Stream, Unit, dump, json_schema, load
from wattaxis.flowsheet.edit_kinds import Edit, EditError
from wattaxis.flowsheet.edits import apply, edit_from_json
from wattaxis.flowsheet.migrations import VERSION, migrate
from wattaxis.flowsheet.model import models_of, pair_table, property_model
from wattaxis.flowsheet.reactions import reaction_sets

__all__ = [
    "FORMAT",
    "VERSION",
    "Aim",
    "Chemistry",
    "Document",
    "DocumentComponent",
    "DocumentError",
    "Edit",
    "EditError",
    "End",
    "Limit",
    "Objective",
    "OwnComponent",
    "Pair",
    "Pin",
    "Stream",
    "Study",
    "StudyFit",
    "StudyInput",
    "StudyParameter",
    "Unit",
    "Varied",
    "apply",
    "dump",
    "edit_from_json",
    "json_schema",
    "load",
    "migrate",
    "models_of",
    "pair_table",
    "property_model",
    "reaction_sets",
]
