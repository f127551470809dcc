"""Values typed for single components of a unit, such as the share of each that leaves overhead."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np
from pydantic import BaseModel, ConfigDict

from wattaxis.properties.state import Vector
from wattaxis.quantities import Quantity, to_si


class PerComponent(BaseModel):
    """Typed values by component id; a component left out is blank."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    values: Mapping[str, Quantity] = {}

    @property
    def says_nothing(self) -> bool:
        """Whether nothing is typed."""
        return not self.values

    def si(self, ids: Sequence[str], kind: str, blank: float) -> Vector:
        """The values in SI in the order of ``ids``, ``blank`` where nothing was typed."""
        return np.array([to_si(self.values[c], kind) if c in self.values else blank for c in ids])
