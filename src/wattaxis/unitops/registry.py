"""Finds the unit operations: every module of this package, and of other packages by the entry point ``wattaxis.unitops``."""

from __future__ import annotations

import importlib
import pkgutil
from functools import lru_cache
from importlib.metadata import entry_points

from wattaxis.unitops.base import UnitOperation

_REGISTERED: dict[str, UnitOperation] = {}


def register(operation: type[UnitOperation]) -> type[UnitOperation]:
    """Make a unit operation known. Raises ValueError when its type name is taken by another class."""
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

    for module in pkgutil.iter_modules(package.__path__):
        importlib.import_module(f"wattaxis.unitops.{module.name}")
    for entry in entry_points(group="wattaxis.unitops"):
        entry.load()


def unit_types() -> dict[str, UnitOperation]:
    """All unit operations by type name."""
    _discover()
    return _REGISTERED
