"""Unit operations: one file each, found by the registry."""

from wattaxis.unitops.base import (
    Ask,
    Choice,
    Field,
    Finding,
    Port,
    ResultValue,
    StreamState,
    UnitOperation,
    UnitResult,
    UnitSpec,
)
from wattaxis.unitops.composition import Composition
from wattaxis.unitops.registry import register, unit_operation, unit_types

__all__ = [
    "Ask",
    "Choice",
    "Composition",
    "Field",
    "Finding",
    "Port",
    "ResultValue",
    "StreamState",
    "UnitOperation",
    "UnitResult",
    "UnitSpec",
    "register",
    "unit_operation",
    "unit_types",
]
