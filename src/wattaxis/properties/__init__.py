"""Property models, states and flashes.

The compiled kernels load with the first use of :class:`PropertyModel`, not with this package.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from wattaxis.properties.catalogue import ModelInfo, PairParameter
from wattaxis.properties.errors import FlashError
from wattaxis.properties.registry import ModelKind, model_infos, model_kinds
from wattaxis.properties.state import Phase, State

if TYPE_CHECKING:
    from wattaxis.properties.model import PropertyModel
    from wattaxis.properties.solids import SolidsModel

__all__ = ["FlashError", "ModelInfo", "ModelKind", "PairParameter", "Phase", "PropertyModel", "SolidsModel", "State", "model_infos", "model_kinds"]


def __getattr__(name: str) -> Any:
    if name == "PropertyModel":
        from wattaxis.properties.model import PropertyModel

        return PropertyModel
    if name == "SolidsModel":
        from wattaxis.properties.solids import SolidsModel

        return SolidsModel
    raise AttributeError(f"module {__name__!r} has no attribute {name!r}")
