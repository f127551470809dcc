"""The composition of a feed as typed: fractions or flows per component, and what they mean in moles."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Literal

import numpy as np
from pydantic import BaseModel, ConfigDict

from wattaxis.properties.state import Vector
from wattaxis.quantities import Quantity, to_si

Basis = Literal["mole_fraction", "mass_fraction", "mole_flow", "mass_flow"]
BASIS_TITLES: dict[Basis, str] = {
    "mole_fraction": "mole fraction",
    "mass_fraction": "mass fraction",
    "mole_flow": "mole flow",
    "mass_flow": "mass flow",
}
BASIS_KINDS: dict[Basis, str] = {"mole_fraction": "share", "mass_fraction": "share", "mole_flow": "mole_flow", "mass_flow": "mass_flow"}


class Composition(BaseModel):
    """Typed values by component id. ``normalise`` scales fractions to one for the calculation; what was typed stays."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    basis: Basis = "mole_fraction"
    values: Mapping[str, Quantity] = {}
    normalise: bool = False

    @property
    def is_flow(self) -> bool:
        """Whether the values are flows, so that they also give the total."""
        return self.basis in ("mole_flow", "mass_flow")

    def si(self, component_ids: tuple[str, ...]) -> Vector:
        """The values in SI in the order of the components; blank counts as none of it."""
        kind = BASIS_KINDS[self.basis]
        return np.array([to_si(self.values[c], kind) if c in self.values else 0.0 for c in component_ids])

    def mole_amounts(self, component_ids: tuple[str, ...], molar_masses: Vector) -> Vector:
        """Amounts proportional to moles (mol/s when they are flows)."""
        values = self.si(component_ids)
        return values / molar_masses if self.basis.startswith("mass") else values
