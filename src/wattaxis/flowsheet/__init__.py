"""The document (what the user gave), its graph, and the editing operations with their inverses."""

from wattaxis.flowsheet.document import (
    FORMAT,
    Aim,
    Chemistry,
    Document,
    DocumentComponent,
    DocumentError,
    End,
    OwnComponent,
    Pair,
    Pin,
    Stream,
    Unit,
    dump,
    json_schema,
    load,
)
from wattaxis.flowsheet.edits import Edit, EditError, apply, edit_from_json
from wattaxis.flowsheet.migrations import VERSION, migrate
from wattaxis.flowsheet.model import pair_table, property_model

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
    "OwnComponent",
    "Pair",
    "Pin",
    "Stream",
    "Unit",
    "apply",
    "dump",
    "edit_from_json",
    "json_schema",
    "load",
    "migrate",
    "pair_table",
    "property_model",
]
