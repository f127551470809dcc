"""The composition of a feed as typed: fractions or flows per component, and what they mean in moles."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING, Literal

import numpy as np
from pydantic import BaseModel, ConfigDict

from wattaxis.properties.state import Vector
from wattaxis.quantities import Quantity, QuantityError, to_si
from wattaxis.substances import Component, Solid
from wattaxis.substances.curves import component_curve
from wattaxis.unitops.base import Finding, UnitFault

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel

Basis = Literal["mole_fraction", "mass_fraction", "volume_fraction", "mole_flow", "mass_flow"]
BASIS_TITLES: dict[Basis, str] = {
    "mole_fraction": "mole fraction",
    "mass_fraction": "mass fraction",
    "volume_fraction": "liquid volume fraction",
    "mole_flow": "mole flow",
    "mass_flow": "mass flow",
}
BASIS_KINDS: dict[Basis, str] = {
    "mole_fraction": "share",
    "mass_fraction": "share",
    "volume_fraction": "share",
    "mole_flow": "mole_flow",
    "mass_flow": "mass_flow",
}
#: Volumes count for the pure liquids at this temperature (K), each at its own saturation pressure.
VOLUME_TEMPERATURE = 288.15


class Composition(BaseModel):
    """Typed values by component id. ``normalise`` scales fractions to one for the calculation; what was typed stays."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    basis: Basis = "mole_fraction"
    values: Mapping[str, Quantity] = {}
    normalise: bool = False

    @property
    def says_nothing(self) -> bool:
        """Whether nothing is typed, and no basis chosen but the first."""
        return self == Composition()

    @property
    def is_flow(self) -> bool:
        """Whether the values are flows, so that they also give the total."""
        return self.basis in ("mole_flow", "mass_flow")

    def si(self, component_ids: tuple[str, ...]) -> Vector:
        """The values in SI in the order of the components; blank counts as none of it."""
        kind = BASIS_KINDS[self.basis]
        return np.array([to_si(self.values[c], kind) if c in self.values else 0.0 for c in component_ids])

    def mole_amounts(self, components: Sequence[Component]) -> Vector:
        """Amounts proportional to moles (mol/s when they are flows).

        Liquid volumes count at 15 degC. Raises ValueError for a component that is no liquid there.
        """
        values = self.si(tuple(c.id for c in components))
        masses = np.array([c.molar_mass for c in components])
        if self.basis == "volume_fraction":
            densities = np.array([_liquid_density(c) if value > 0.0 else 1.0 for c, value in zip(components, values, strict=True)])
            return np.asarray(values * densities / masses)
        return np.asarray(values / masses) if self.basis.startswith("mass") else values

    def fractions(self, components: Sequence[Component]) -> Vector | None:
        """Mole fractions, whatever the typed values sum to; None where they say nothing."""
        try:
            amounts = self.mole_amounts(components)
        except ValueError:
            return None
        total = float(amounts.sum())
        return amounts / total if total > 0.0 else None

    def doubtful(self, components: Sequence[Component]) -> list[str]:
        """The components whose liquid volumes rest on an estimated density, or on one outside its range."""
        if self.basis != "volume_fraction":
            return []
        curves = {c.name: component_curve(c, "liquid density") for c in components if c.id in self.values and not isinstance(c, Solid)}
        return [name for name, curve in curves.items() if curve.estimated or not curve.inside(VOLUME_TEMPERATURE)]


def composition_problems(tag: str, composition: Composition | None) -> list[Finding]:
    """Typed values of a composition with a wrong dimension."""
    if composition is not None:
        try:
            composition.si(tuple(composition.values))
        except QuantityError as error:
            return [Finding("fault", tag, f"Composition of {tag}: {error}", "Type another value.", "composition")]
    return []


def mole_amounts(composition: Composition, model: PropertyModel) -> Vector:
    """Amounts proportional to moles (mol/s when they are flows) of a typed composition. Raises UnitFault."""
    values = composition.si(tuple(c.id for c in model.components))
    total = float(values.sum())
    title = BASIS_TITLES[composition.basis]
    if total <= 0.0:
        raise UnitFault(f"All values of the composition are zero, so there is no {title}.", "Give at least one component.", "composition")
    if not composition.is_flow and not composition.normalise and abs(total - 1.0) > 1e-6:
        kept = {c: q.model_dump() for c, q in composition.values.items()}
        values_op = {"composition": {"basis": composition.basis, "values": kept, "normalise": True}}
        repair = ({"kind": "set_values", "unit": "", "values": values_op},)
        raise UnitFault(
            f"The {title}s sum to {total:.6g}, not to 1.",
            "Correct a value, or let them be normalised: the typed numbers are kept.",
            "composition",
            repair,
            "Normalise",
        )
    try:
        return composition.mole_amounts(model.components)
    except ValueError as error:
        raise UnitFault(f"{error}.", "Give moles or masses instead.", "composition") from error


def _liquid_density(item: Component) -> float:
    """kg/m3 of the saturated liquid at 15 degC, or of the crystal. Raises ValueError where there is none."""
    if isinstance(item, Solid):
        return item.density
    density = component_curve(item, "liquid density").at(VOLUME_TEMPERATURE) if item.critical_temperature > VOLUME_TEMPERATURE else np.nan
    if not density > 0.0:
        raise ValueError(f"{item.name} has no liquid at 15 degC, so a liquid volume of it is not defined")
    return float(density)
