"""A state of matter: what a flash found, with its phases and energies on demand."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

if TYPE_CHECKING:
    from wattaxis.properties.model import PropertyModel

Vector = NDArray[np.float64]


@dataclass(frozen=True)
class Phase:
    """One phase of a state, per mole of that phase; fractions in the model's component order.

    enthalpy J/mol (from the elements at 298.15 K); entropy J/(mol K); heat_capacity J/(mol K); molar_volume m3/mol (0 where the model has
    none: ideal liquid); fugacity_coefficients -.
    """

    kind: str
    fractions: Vector
    enthalpy: float
    entropy: float
    heat_capacity: float
    molar_volume: float
    compressibility: float
    fugacity_coefficients: Vector
    molar_mass: float

    @property
    def density(self) -> float | None:
        """kg/m3; None where the model gives no volume."""
        return self.molar_mass / self.molar_volume if self.molar_volume > 0 else None


class State:
    """A mixture at equilibrium, per mole of mixture.

    Attributes: ``temperature`` K, ``pressure`` Pa, ``vapour_fraction`` (mole), ``fractions`` z, ``liquid_fractions`` x and
    ``vapour_fractions`` y (also of the incipient phase at a bubble or dew point), each of shape (components,). With ``two_liquids`` the
    mixture is two liquids without vapour: y is then the more expanded liquid (larger volume over covolume) and
    ``light_fraction`` its mole share.
    """

    __slots__ = (
        "__dict__",
        "fractions",
        "light_fraction",
        "liquid_fractions",
        "model",
        "pressure",
        "root",
        "temperature",
        "two_liquids",
        "vapour_fraction",
        "vapour_fractions",
    )

    def __init__(self, model: PropertyModel, t: float, p: float, beta: float, z: Vector, x: Vector, y: Vector, two_liquids: bool = False) -> None:
        self.model = model
        #: The volume root of a saturated phase on its own; None lets the stable root be taken.
        self.root: int | None = None
        self.temperature = t
        self.pressure = p
        self.light_fraction = beta
        self.two_liquids = two_liquids
        self.vapour_fraction = 0.0 if two_liquids else beta
        self.fractions = z
        self.liquid_fractions = x
        self.vapour_fractions = y

    def __repr__(self) -> str:
        return f"State(T={self.temperature:.6g} K, P={self.pressure:.6g} Pa, vapour fraction={self.vapour_fraction:.6g}, H={self.enthalpy:.6g} J/mol)"

    @cached_property
    def phases(self) -> tuple[Phase, ...]:
        """The phases present, liquid first."""
        return self.model.phases_of(self)

    def part(self, kind: str) -> State:
        """The "vapour" or the "liquid" of this state as a state of its own (saturated, at the same T and P).

        Of two liquids both belong to the liquid. A phase that is not there comes back with its incipient composition, or the feed's.
        """
        if kind == "liquid" and self.two_liquids:
            return self
        vapour = kind == "vapour"
        fractions = self.vapour_fractions if vapour and not self.two_liquids else self.liquid_fractions
        if self.light_fraction in (0.0, 1.0) and vapour == (self.light_fraction == 1.0):
            fractions = self.fractions
        single = State(self.model, self.temperature, self.pressure, 1.0 if vapour else 0.0, fractions, fractions, fractions)
        roots = self.model.roots_of(self)
        single.root = roots[1] if vapour else roots[0]
        return single

    @property
    def liquid(self) -> Phase | None:
        """The liquid phase, None when there is none."""
        return next((p for p in self.phases if p.kind == "liquid"), None)

    @property
    def vapour(self) -> Phase | None:
        """The vapour phase, None when there is none."""
        return next((p for p in self.phases if p.kind == "vapour"), None)

    @property
    def phase(self) -> str:
        """ "liquid", "vapour", "liquid and vapour" or "liquid and second liquid"."""
        return " and ".join(p.kind for p in self.phases)

    def _mix(self, name: str) -> float:
        weight = [self.light_fraction if p.kind != "liquid" else 1.0 - self.light_fraction for p in self.phases]
        return float(sum(w * getattr(p, name) for w, p in zip(weight, self.phases, strict=True)))

    @cached_property
    def enthalpy(self) -> float:
        """J/mol of mixture, from the elements at 298.15 K."""
        return self._mix("enthalpy")

    @cached_property
    def entropy(self) -> float:
        """J/(mol K) of mixture, third law."""
        return self._mix("entropy")

    @cached_property
    def molar_volume(self) -> float:
        """m3/mol of mixture (liquid counts as nothing with the ideal model)."""
        return self._mix("molar_volume")

    @property
    def molar_mass(self) -> float:
        """kg/mol of mixture."""
        return float(self.fractions @ self.model.molar_masses)

    def _repr_html_(self) -> str:
        rows = "".join(
            f"<tr><td>{c.name}</td>" + "".join(f"<td>{p.fractions[i]:.6g}</td>" for p in self.phases) + "</tr>"
            for i, c in enumerate(self.model.components)
        )
        head = "".join(f"<th>{p.kind}, mol/mol</th>" for p in self.phases)
        return (
            f"<p>{self.temperature:.6g} K, {self.pressure:.6g} Pa, vapour fraction {self.vapour_fraction:.6g}</p>"
            f"<table><tr><th></th>{head}</tr>{rows}</table>"
        )
