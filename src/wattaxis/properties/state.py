"""A state of matter: what a flash found, with its phases and energies on demand."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from wattaxis.properties.layout import LIQUID, VAPOUR
from wattaxis.properties.tables import WithUnits, frame, html_table

if TYPE_CHECKING:
    from wattaxis.properties.model import PropertyModel
    from wattaxis.properties.transport import Transport

Vector = NDArray[np.float64]


@dataclass(frozen=True)
class Phase(WithUnits):
    """One phase of a state, per mole of that phase; fractions in the model's component order.

    enthalpy J/mol (from the elements at 298.15 K); entropy J/(mol K); heat_capacity J/(mol K); molar_volume m3/mol (of liquids of the ideal and
    activity models by Rackett's equation, 0 above its range); fugacity_coefficients -.
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


@dataclass(frozen=True)
class Excess:
    """Excess Gibbs energy and enthalpy (J/mol), entropy (J/(mol K)) and volume (m3/mol) of a liquid mixture."""

    gibbs: float
    enthalpy: float
    entropy: float
    volume: float


class State(WithUnits):
    """A mixture at equilibrium, per mole of mixture.

    Attributes: ``temperature`` K, ``pressure`` Pa, ``vapour_fraction`` (mole), ``fractions`` z, ``liquid_fractions`` x and
    ``vapour_fractions`` y (also of the incipient phase at a bubble or dew point), each of shape (components,). With ``two_liquids`` the
    mixture is two liquids without vapour: y is then the more expanded liquid (larger volume over covolume) and
    ``light_fraction`` its mole share. Of three phases ``second_liquid_fractions`` w is the second liquid and ``second_fraction`` its share.
    ``solid_fraction`` is the mole share of conventional solids in the whole; the shares of the other phases are those of the fluid alone.

    >>> from wattaxis import PropertyModel
    >>> state = PropertyModel("nrtl", ["butanone", "water"]).flash([0.5, 0.5], P=101325.0, VF=0.5)
    >>> state.phase, round(state.temperature, 1)
    ('liquid and vapour and second liquid', 346.4)
    """

    __slots__ = (
        "__dict__",
        "fractions",
        "left_out",
        "light_fraction",
        "liquid_fractions",
        "model",
        "pressure",
        "root",
        "saturated",
        "second_fraction",
        "second_liquid_fractions",
        "solid_fraction",
        "temperature",
        "two_liquids",
        "vapour_fraction",
        "vapour_fractions",
    )

    def __init__(
        self,
        model: PropertyModel,
        t: float,
        p: float,
        beta: float,
        z: Vector,
        x: Vector,
        y: Vector,
        two_liquids: bool = False,
        gamma: float = 0.0,
        w: Vector | None = None,
        left_out: bool = False,
    ) -> None:
        self.model = model
        #: The volume root of a saturated phase on its own; None lets the stable root be taken.
        self.root: int | None = None
        #: Whether it was asked for as a bubble or dew point, so that the other phase is about to form.
        self.saturated = False
        self.temperature = t
        self.pressure = p
        self.light_fraction = beta
        self.second_fraction = max(gamma, 0.0)
        #: Whether more phases coexist than were found; the state is then the best pair, or three of four.
        self.left_out = left_out or gamma < 0.0
        self.second_liquid_fractions = x if w is None else w
        self.two_liquids = two_liquids
        self.fractions = z
        self.solid_fraction = model.solid_share(z)
        self.vapour_fraction = 0.0 if two_liquids or self.solid_fraction >= 1.0 else beta
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

        Of two liquids both belong to the liquid, and so do solids. A phase that is not there comes back with its incipient composition, or the
        feed's.
        """
        if self.solid_fraction >= 1.0 or (kind == "liquid" and self.two_liquids):
            return self
        if kind == "liquid" and self.second_fraction > 0.0:
            share = self.second_fraction / (1.0 - self.light_fraction)
            both = (1.0 - share) * self.liquid_fractions + share * self.second_liquid_fractions
            both = self._with_solids(both, 1.0 - self.light_fraction)
            return State(self.model, self.temperature, self.pressure, share, both, self.liquid_fractions, self.second_liquid_fractions, True)
        vapour = kind == "vapour"
        fractions = self.vapour_fractions if vapour and not self.two_liquids else self.liquid_fractions
        if self.solid_fraction == 0.0 and self.light_fraction in (0.0, 1.0) and vapour == (self.light_fraction == 1.0):
            fractions = self.fractions
        whole = fractions if vapour else self._with_solids(fractions, 1.0 - self.light_fraction)
        single = State(self.model, self.temperature, self.pressure, 1.0 if vapour else 0.0, whole, fractions, fractions)
        if 0.0 < self.light_fraction < 1.0:
            roots = self.model.roots_of(self)
            single.root = roots[1] if vapour else roots[0]
        else:
            # A phase that is not there, or only just: its own root, not that of the phase it would come from.
            single.root = VAPOUR if vapour else LIQUID
        return single

    def with_solids(self, fluid: float, solids: Vector) -> tuple[float, State]:
        """So much of the fluid (mol/s, in its phases) with these ``solids`` (mol/s, shape (components,)): total flow and state."""
        total = float(fluid + solids.sum())
        if total <= 0.0:
            return 0.0, self
        whole = self.fractions - self.model.solids_of(self.fractions)
        z = (fluid * whole / whole.sum() + solids) / total if fluid > 0.0 else solids / total
        made = State(self.model, self.temperature, self.pressure, self.light_fraction, z, self.liquid_fractions, self.vapour_fractions,
                     self.two_liquids, self.second_fraction, self.second_liquid_fractions, self.left_out)  # fmt: skip
        made.root, made.saturated = self.root, self.saturated
        return total, made

    def _with_solids(self, fluid: Vector, share: float) -> Vector:
        """Composition of a part of the fluid, ``share`` of it all, together with the solids."""
        if self.solid_fraction == 0.0:
            return fluid
        mixed = (1.0 - self.solid_fraction) * share * fluid + self.model.solids_of(self.fractions)
        return np.asarray(mixed / mixed.sum())

    def liquid_parts(self) -> list[tuple[float, State]]:
        """Each liquid present as (mole share of the fluid, state of its own at the same T and P), without solids."""
        vapour = 0.0 if self.two_liquids else self.light_fraction
        second = self.light_fraction if self.two_liquids else self.second_fraction
        shares = [(1.0 - vapour - second, self.liquid_fractions)]
        shares += [(second, self.vapour_fractions if self.two_liquids else self.second_liquid_fractions)] if second > 0.0 else []
        found = []
        for share, x in shares:
            if share > 0.0:
                single = State(self.model, self.temperature, self.pressure, 0.0, x, x, x)
                single.root = LIQUID
                found.append((share, single))
        return found

    @property
    def liquid(self) -> Phase | None:
        """The liquid phase, at a dew point the one that begins to form; None when there is none."""
        return self._present_or_incipient("liquid")

    @property
    def vapour(self) -> Phase | None:
        """The vapour phase, at a bubble point the one that begins to form; None when there is none.

        >>> from wattaxis import PropertyModel
        >>> state = PropertyModel("peng-robinson", ["propane", "n-butane"]).flash([0.5, 0.5], T=300.0, VF=0.0)
        >>> state.vapour.fractions.round(3)
        array([0.763, 0.237])
        """
        return self._present_or_incipient("vapour")

    def _present_or_incipient(self, kind: str) -> Phase | None:
        present = next((p for p in self.phases if p.kind == kind), None)
        if present is not None or self.root is None or not self.saturated:
            return present
        fractions = self.vapour_fractions if kind == "vapour" else self.liquid_fractions
        return self.model.phase(kind, self.temperature, self.pressure, fractions)

    @property
    def phase(self) -> str:
        """The phases by name, such as "liquid and vapour" or "liquid and second liquid"; solids come last."""
        return " and ".join(p.kind for p in self.phases)

    @property
    def second_liquid(self) -> Phase | None:
        """The second liquid, None when there is none."""
        return next((p for p in self.phases if p.kind == "second liquid"), None)

    @cached_property
    def amounts(self) -> tuple[float, ...]:
        """Mole fraction of each of ``phases`` in the whole."""
        second = self.light_fraction if self.two_liquids else self.second_fraction
        vapour, fluid = self.vapour_fraction, 1.0 - self.solid_fraction
        share = {"liquid": (1.0 - vapour - second) * fluid, "vapour": vapour * fluid, "second liquid": second * fluid, "solid": self.solid_fraction}
        return tuple(share[p.kind] for p in self.phases)

    @property
    def vapour_share(self) -> float:
        """Mole fraction of the whole, solids counted, that is vapour."""
        return self.vapour_fraction * (1.0 - self.solid_fraction)

    def _mix(self, name: str) -> float:
        return float(sum(amount * getattr(p, name) for amount, p in zip(self.amounts, self.phases, strict=True)))

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
        """m3/mol of mixture (liquids by Rackett's equation where the model has no volume of its own)."""
        return self._mix("molar_volume")

    @property
    def internal_energy(self) -> float:
        """J/mol of mixture: enthalpy less pressure times volume."""
        return self.enthalpy - self.pressure * self.molar_volume

    @property
    def heat_capacity(self) -> float:
        """J/(mol K) at constant pressure of the phases as they are, by their amounts: what boils or condenses meanwhile is not counted."""
        return self._mix("heat_capacity")

    @cached_property
    def speed_of_sound(self) -> float | None:
        """m/s from the change of density with pressure at constant entropy, phases at equilibrium; None where the model's liquid has none.

        >>> from wattaxis import PropertyModel
        >>> round(PropertyModel("steam", ["water"]).flash([1.0], T=298.15, P=1e5).speed_of_sound)
        1497
        """
        step = 1e-4 * self.pressure
        ends = [self.model.flash(self.fractions, P=self.pressure + d, S=self.entropy, guess=self.temperature) for d in (-step, step)]
        low, high = (end.molar_mass / end.molar_volume for end in ends)
        return (2.0 * step / (high - low)) ** 0.5 if high > low else None

    @property
    def molar_mass(self) -> float:
        """kg/mol of mixture."""
        return float(self.fractions @ self.model.molar_masses)

    def transport(self, phase: Phase) -> Transport:
        """Viscosity, thermal conductivity and surface tension of one of ``phases`` of the fluid. Raises ValueError for the solids.

        >>> from wattaxis import PropertyModel
        >>> state = PropertyModel("nrtl", ["butanone", "water"]).flash([0.9, 0.1], T=300.0, P=1e5)
        >>> str(state.transport(state.liquid).quantity("viscosity", "mPa*s"))[:3]
        '0.4'
        """
        from wattaxis.properties.transport import transport

        if phase.kind == "solid":
            raise ValueError("Conventional solids have no transport properties.")
        return transport(phase.kind, self.temperature, self.pressure, phase.fractions, self.model.curves)

    def to_frame(self) -> Any:
        """The phases as a pandas frame: mole fractions by component, one column a phase. Raises ImportError where pandas is not installed.

        >>> from wattaxis import PropertyModel
        >>> PropertyModel("ideal", ["benzene", "toluene"]).flash([0.5, 0.5], T=365.0, P=1e5).to_frame().shape
        (2, 2)
        """
        rows = {c.id: [float(p.fractions[i]) for p in self.phases] for i, c in enumerate(self.model.components)}
        return frame([p.kind for p in self.phases], rows)

    def _repr_html_(self) -> str:
        rows = [[c.name, *(float(p.fractions[i]) for p in self.phases)] for i, c in enumerate(self.model.components)]
        text = f"<p>{self.temperature:.6g} K, {self.pressure:.6g} Pa, vapour fraction {self.vapour_fraction:.6g}</p>"
        return text + html_table(["", *(f"{p.kind}, mol/mol" for p in self.phases)], rows)
