"""An extraction column without a document: two liquids against each other, stage by stage."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import TYPE_CHECKING

from wattaxis.columns.column import ColumnState, StagedColumn
from wattaxis.columns.layout import BOTTOMS, NONE, OVERHEAD, ColumnFeed
from wattaxis.properties.state import Vector

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel

#: Names of the products.
LIGHT, HEAVY = "light liquid", "heavy liquid"


class ExtractionColumn:
    """Stages on which two liquids are in equilibrium: what is fed on stage 1 sinks, what is fed on the last one rises.

    ``pressure`` Pa, high enough that nothing boils; ``duties``: W added by stage; each stage has its heat balance. The property model has to know two
    liquids (activity coefficients that part them). The products are "light liquid", from stage 1, and "heavy liquid", from the last one; in the state
    ``liquid`` and ``x`` are those of the sinking one, ``vapour`` and ``y`` those of the rising one. Raises ColumnError for what cannot be built.

    >>> import numpy as np
    >>> from wattaxis import PropertyModel
    >>> model = PropertyModel("unifac", ["water", "acetone", "butyl acetate"])
    >>> heat = [model.flash(z, T=298.15, P=3e5).enthalpy for z in ([0.95, 0.05, 0.0], [0.0, 0.0, 1.0])]
    >>> feeds = [ColumnFeed(1, np.array([95.0, 5.0, 0.0]), 100.0 * heat[0]), ColumnFeed(5, np.array([0.0, 0.0, 20.0]), 20.0 * heat[1])]
    >>> state = ExtractionColumn(model, feeds, stages=5, pressure=3e5).solve()
    >>> float(state.products["light liquid"].flows[1]) > 4.0
    True
    """

    def __init__(
        self, model: PropertyModel, feeds: Sequence[ColumnFeed], *, stages: int, pressure: float | Vector, duties: Mapping[int, float] | None = None
    ) -> None:
        self._column = StagedColumn(model, feeds, stages=stages, pressure=pressure, condenser=NONE, reboiler=False, duties=duties, light="liquid")

    def solve(self, near: ColumnState | None = None, *, brief: bool = False) -> ColumnState:
        """The state; ``near`` may change how fast it is found, and ``brief`` gives up sooner. Raises ColumnError where none was found."""
        found = self._column.solve([], near, brief=brief)
        names = {OVERHEAD: LIGHT, BOTTOMS: HEAVY}
        return replace(found, products={names[name]: replace(product, phase="liquid") for name, product in found.products.items()})
