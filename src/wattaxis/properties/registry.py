"""What a property model is, and the registry that finds them: every module of ``properties/models``, and packages that name theirs by the entry point
``wattaxis.properties``."""

from __future__ import annotations

import pkgutil
from collections.abc import Mapping, Sequence
from functools import lru_cache
from importlib import import_module
from importlib.metadata import entry_points
from typing import ClassVar, TypeVar

import numpy as np

from wattaxis.properties import layout
from wattaxis.properties.catalogue import ModelInfo
from wattaxis.substances import Component

#: Own or known parameters by the positions of the two components.
PairValues = Mapping[tuple[int, int], Mapping[str, float]]


class ModelKind:
    """A kind of property model: its description, the kernel that serves it, and how its parameters are packed for that kernel."""

    info: ClassVar[ModelInfo]
    #: The kernel: ``layout.IDEAL``, ``layout.CUBIC`` or one of the activity models.
    code: ClassVar[int]

    def pack(self, par: np.ndarray, components: Sequence[Component]) -> None:
        """Fill the rows of ``par[row, component]`` that the kernel reads beyond the common constants. Raises ValueError for a missing constant."""

    def pair_block(self, components: Sequence[Component], pairs: PairValues) -> np.ndarray:
        """The pair block ``[layer, i, j]`` of the kernel from the values of every pair that has some."""
        return np.zeros((1, len(components), len(components)))

    def warnings(self, components: Sequence[Component], T: float, fractions: np.ndarray) -> list[str]:
        """What is to be said of this model at a temperature (K) for the components present."""
        return []


class LocalModel(ModelKind):
    """Base of the activity models whose pairs are directed values ``a + b/T + e ln T + f T``."""

    def pair_block(self, components: Sequence[Component], pairs: PairValues) -> np.ndarray:
        """Layers a, b, e, f and alpha."""
        n = len(components)
        block = np.zeros((5, n, n))
        for (i, j), values in pairs.items():
            for layer, letter in enumerate("abef"):
                block[layer, i, j] = values.get(letter + "12", 0.0)
                block[layer, j, i] = values.get(letter + "21", 0.0)
            block[layout.PAIR_ALPHA, i, j] = block[layout.PAIR_ALPHA, j, i] = values.get("alpha", 0.0)
        return block

    def gas_alone(self, par: np.ndarray, gas: int, solvent: int) -> float:
        """ln gamma of a dissolved gas at infinite dilution that is left when its pair block is zero."""
        return 0.0

    def place_gas(self, block: np.ndarray, par: np.ndarray, gas: int, solvent: int, value: np.ndarray) -> None:
        """Enter a pair block that gives a dissolved gas ``ln gamma = value`` at infinite dilution; ``value`` holds a, b, e, f, shape (4,)."""
        block[:, gas, solvent] = block[:, solvent, gas] = 0.0
        block[:4, gas, solvent] = block[:4, solvent, gas] = value

    def warnings(self, components: Sequence[Component], T: float, fractions: np.ndarray) -> list[str]:
        """A component above its critical temperature has no liquid whose vapour pressure could be known."""
        above = [c.name for c, x in zip(components, fractions, strict=True) if x > 1e-6 and c.critical_temperature < T]
        text = "is above its critical temperature: its liquid fugacity is an extrapolation; a cubic equation suits it better"
        return [f"{name} {text}" for name in above]


Kind = TypeVar("Kind", bound=type[ModelKind])
_KINDS: dict[str, ModelKind] = {}


def property_model(kind: Kind) -> Kind:
    """Class decorator that registers a property model under the key of its description."""
    _KINDS[kind.info.key] = kind()
    return kind


@lru_cache(maxsize=1)
def _load() -> None:
    package = import_module("wattaxis.properties.models")
    for module in sorted(m.name for m in pkgutil.iter_modules(package.__path__)):
        import_module(f"{package.__name__}.{module}")
    for entry in entry_points(group="wattaxis.properties"):
        entry.load()


def model_kinds() -> dict[str, ModelKind]:
    """Every property model by its key, in the order in which they are offered."""
    _load()
    return dict(sorted(_KINDS.items(), key=lambda item: (item[1].info.order, item[0])))


def model_infos() -> dict[str, ModelInfo]:
    """What is said of every property model, by its key.

    >>> [key for key in model_infos()][:3]
    ['peng-robinson', 'soave-redlich-kwong', 'predictive-soave-redlich-kwong']
    """
    return {key: kind.info for key, kind in model_kinds().items()}
