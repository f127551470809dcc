"""Fitting of pair parameters to measured phase equilibria, and of vapour pressures."""

from importlib import import_module
from typing import TYPE_CHECKING, Any

from wattaxis.properties.fitting.data import DATA_KINDS, PURE, DataSet, column_keys

if TYPE_CHECKING:
    from wattaxis.properties.fitting.fit import OBJECTIVES, Deviation, Fit, Free, fit_pairs
    from wattaxis.properties.fitting.predict import predictions
    from wattaxis.properties.fitting.pure import PureFit, fit_vapour_pressure

_HOMES = {"predictions": "predict", "PureFit": "pure", "fit_vapour_pressure": "pure"}
__all__ = [
    "DATA_KINDS", "OBJECTIVES", "PURE", "DataSet", "Deviation", "Fit", "Free", "PureFit", "column_keys", "fit_pairs", "fit_vapour_pressure",
    "predictions",
]  # fmt: skip


def __getattr__(name: str) -> Any:
    """What needs the property models is loaded when first used; reading a data set does not."""
    if name in __all__:
        return getattr(import_module(f"{__name__}.{_HOMES.get(name, 'fit')}"), name)
    raise AttributeError(f"module {__name__!r} has no attribute {name!r}")
