"""UNIFAC and its Dortmund form: activity coefficients from the groups of the molecules, without any pair parameter."""

from __future__ import annotations

from collections.abc import Sequence
from typing import ClassVar

import numpy as np

from wattaxis.properties import layout
from wattaxis.properties.catalogue import ModelInfo
from wattaxis.properties.registry import LocalModel, PairValues, property_model
from wattaxis.substances import Component, group_table


class GroupModel(LocalModel):
    """Base: ``psi_mn = exp(-(a_mn + b_mn T + c_mn T**2)/T)`` between main groups; sizes enter the first combinatorial term to the ``power``."""

    code = layout.UNIFAC
    form: ClassVar[str]
    power: ClassVar[float]

    def pack(self, par: np.ndarray, components: Sequence[Component]) -> None:
        """r and q of every component from its groups. Raises ValueError for a component without groups."""
        table = group_table(self.form).subgroups
        for i, c in enumerate(components):
            counts = self._groups(c)
            par[layout.SIZE, i] = sum(count * table[g][2] for g, count in counts.items())
            par[layout.SURFACE, i] = sum(count * table[g][3] for g, count in counts.items())
            par[layout.SIZE_POWER, i] = par[layout.SIZE, i] ** self.power

    def _groups(self, c: Component) -> dict[int, int]:
        counts = c.groups.get(self.form)
        if not counts:
            raise ValueError(f"{self.info.title} needs the groups of {c.name}, and none are known. Choose another model for it.")
        return counts

    def pair_block(self, components: Sequence[Component], pairs: PairValues) -> np.ndarray:
        """Layers a, b, c between the groups that occur, their counts, and their surfaces."""
        table = group_table(self.form)
        groups = sorted({g for c in components for g in self._groups(c)})
        size = max(len(groups), len(components), 2)
        block = np.zeros((5, size, size))
        for k, first in enumerate(groups):
            for m, second in enumerate(groups):
                mains = table.subgroups[first][1], table.subgroups[second][1]
                block[0:3, k, m] = table.parameters.get(mains, (0.0, 0.0, 0.0))
            for i, c in enumerate(components):
                block[layout.GROUP_COUNTS, k, i] = self._groups(c).get(first, 0)
            block[layout.GROUP_SURFACES, 0, k] = table.subgroups[first][3]
        block[layout.GROUP_SURFACES, 1, 0] = len(groups)
        return block

    def unknown(self, components: Sequence[Component]) -> list[tuple[str, str]]:
        """Pairs of main groups without parameters, by the names of a subgroup of each; they count as zero."""
        table = group_table(self.form)
        names = {table.subgroups[g][1]: table.subgroups[g][0] for c in components for g in self._groups(c)}
        mains = sorted(names)
        return [(names[m], names[n]) for k, m in enumerate(mains) for n in mains[:k] if (m, n) not in table.parameters]

    def warnings(self, components: Sequence[Component], T: float, fractions: np.ndarray) -> list[str]:
        """Those of every activity model, and group pairs that nobody has measured."""
        return super().warnings(components, T, fractions) + self.unmeasured(components, fractions)

    def unmeasured(self, components: Sequence[Component], fractions: np.ndarray) -> list[str]:
        """Sentences on group pairs without parameters among the components present."""
        present = [c for c, x in zip(components, fractions, strict=True) if x > 1e-6]
        return [f"the groups {a} and {b} have no parameters and count as not interacting" for a, b in self.unknown(present)]


@property_model
class Unifac(GroupModel):
    """Original UNIFAC with the published vapour-liquid parameters."""

    form, power = "unifac", 1.0
    info = ModelInfo(
        "unifac",
        "UNIFAC",
        "Fredenslund, Jones, Prausnitz 1975; parameters as published up to Hansen and others 1991 and later",
        "A first estimate where no pair has been measured; 275 to 425 K, a few bar.",
        "An estimate, not a measurement, and marked so. Above 5 bar choose a real vapour. Poor for two liquids and for traces of water.",
        order=30,
    )


@property_model
class UnifacDortmund(GroupModel):
    """Modified UNIFAC, Dortmund form."""

    form, power = "dortmund", 0.75
    info = ModelInfo(
        "unifac-dortmund",
        "UNIFAC, Dortmund form",
        "Weidlich, Gmehling 1987; parameters as published up to 2016",
        "As UNIFAC, better over temperature, for heats of mixing and at infinite dilution.",
        "An estimate, not a measurement, and marked so. Above 5 bar choose a real vapour.",
        order=31,
    )


@property_model
class UnifacLiquids(GroupModel):
    """UNIFAC with parameters from liquid-liquid equilibria."""

    form, power = "liquid-liquid", 1.0
    info = ModelInfo(
        "unifac-liquid-liquid",
        "UNIFAC for two liquids",
        "Magnussen, Rasmussen, Fredenslund 1981",
        "A first estimate of how liquids part: extraction and decanters, 283 to 313 K.",
        "An estimate, not a measurement, and marked so. Not for vapour over a liquid.",
        order=32,
    )
