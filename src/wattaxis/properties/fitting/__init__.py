"""Fitting of pair parameters to measured phase equilibria."""

from importlib import import_module
from typing import TYPE_CHECKING, Any

from wattaxis.properties.fitting.data import DATA_KINDS, DataSet, column_keys

if TYPE_CHECKING:
    from wattaxis.properties.fitting.fit import OBJECTIVES, Deviation, Fit, Free, fit_pairs
    from wattaxis.properties.fitting.predict import predictions

__all__ = ["DATA_KINDS", "OBJECTIVES", "DataSet", "Deviation", "Fit", "Free", "column_keys", "fit_pairs", "predictions"]


def __getattr__(name: str) -> Any:
    """What needs the property models is loaded when first used; reading a data set does not."""
    if name in __all__:
        return getattr(import_module(f"{__name__}.{'predict' if name == 'predictions' else 'fit'}"), name)
    raise AttributeError(f"module {__name__!r} has no attribute {name!r}")
