"""Finds the unit operations: every module here and in the families, and of other packages by the entry point ``wattaxis.unitops``."""

from __future__ import annotations

import importlib
import pkgutil
from functools import lru_cache
from importlib.metadata import entry_points

from wattaxis.unitops.base import UnitOperation
from wattaxis.unitops.declaration import declaration_problems

_REGISTERED: dict[str, UnitOperation] = {}


#: Packages of others that could not be loaded, with what they said.
_LEFT_OUT: dict[str, str] = {}


def register(operation: type[UnitOperation]) -> type[UnitOperation]:
    """Make a unit operation known. Raises ValueError when its type name is taken by another class, and for a declaration that contradicts itself."""
    problems = declaration_problems(operation)
    if problems:
        raise ValueError(f"{operation.__qualname__} cannot be a unit operation: {'; '.join(problems)}.")
    known = _REGISTERED.get(operation.type)
    if known is not None and type(known).__qualname__ != operation.__qualname__:
        raise ValueError(f'There is already a unit operation of type "{operation.type}".')
    _REGISTERED[operation.type] = operation()
    return operation


#: Decorator form of :func:`register`.
unit_operation = register


@lru_cache(maxsize=1)
def _discover() -> None:
    import wattaxis.unitops as package

    for module in pkgutil.walk_packages(package.__path__, "wattaxis.unitops."):
        importlib.import_module(module.name)
    for entry in entry_points(group="wattaxis.unitops"):
        try:
            entry.load()
        except Exception as error:  # whatever somebody else's package does, the rest goes on
            _LEFT_OUT[entry.name] = f"{type(error).__name__}: {error}"


def unit_types() -> dict[str, UnitOperation]:
    """All unit operations by type name."""
    _discover()
    return _REGISTERED


def left_out() -> str:
    """The packages of unit operations that could not be loaded, as a sentence; blank where all were."""
    _discover()
    told = "; ".join(f"{name} ({why})" for name, why in _LEFT_OUT.items())
    return f"Packages that could not be loaded: {told}." if told else ""
