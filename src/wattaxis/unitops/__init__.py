"""Unit operations: one file each, found by the registry."""

from wattaxis.unitops.base import (
    Ask,
    Choice,
    Field,
    Finding,
    Port,
    ResultValue,
    StreamState,
    UnitFault,
    UnitOperation,
    UnitResult,
    UnitSpec,
)
from wattaxis.unitops.composition import Composition
from wattaxis.unitops.per_component import PerComponent
from wattaxis.unitops.pressures import PressureSide
from wattaxis.unitops.profile import Profile, ProfileColumn, ProfileMark, ProfilePort, column
from wattaxis.unitops.registry import register, unit_operation, unit_types
from wattaxis.unitops.table import Column, GivenTable

__all__ = [
    "Ask",
    "Choice",
    "Column",
    "Composition",
    "Field",
    "Finding",
    "GivenTable",
    "PerComponent",
    "Port",
    "PressureSide",
    "Profile",
    "ProfileColumn",
    "ProfileMark",
    "ProfilePort",
    "ResultValue",
    "StreamState",
    "UnitFault",
    "UnitOperation",
    "UnitResult",
    "UnitSpec",
    "column",
    "register",
    "unit_operation",
    "unit_types",
]
