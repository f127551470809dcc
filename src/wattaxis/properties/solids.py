"""Conventional solids beside a fluid: the fluid's property model flashes what can flow, crystals keep to themselves."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from copy import copy
from typing import TYPE_CHECKING

import numpy as np

from wattaxis.properties.errors import FlashError
from wattaxis.properties.layout import ROWS, R
from wattaxis.properties.model import PropertyModel
from wattaxis.properties.searches import SEARCHED
from wattaxis.properties.state import Phase, State, Vector
from wattaxis.substances import Component
from wattaxis.substances.solids import Solid

if TYPE_CHECKING:
    from collections.abc import Mapping

_CLOSE = 1e-12  # relative, of the temperature
_COLDEST, _HOTTEST = 10.0, 2e4  # K


class SolidsModel(PropertyModel):
    """A property model with conventional solids among its components.

    Solids neither melt, dissolve nor boil, and take no part in the equilibrium of the fluid; they share its temperature. Their enthalpy and entropy
    come from their heat capacity and do not depend on pressure; their density is constant. Fractions of a state count all components; its vapour
    fraction is that of the fluid alone.

    ``fluid`` is the model of everything else, ``components`` the order of all of them. Raises ValueError when the two do not fit.

    >>> from wattaxis import PropertyModel, solid
    >>> fluid = PropertyModel("peng-robinson", ["nitrogen"])
    >>> model = SolidsModel(fluid, [*fluid.components, solid("sand")])
    >>> state = model.flash([0.5, 0.5], T=400.0, P=1e5)
    >>> state.phase, state.solid_fraction
    ('vapour and solid', 0.5)
    """

    def __init__(self, fluid: PropertyModel, components: Iterable[Component]) -> None:
        self.components = tuple(components)
        self._fluid = fluid
        self._solids = tuple(c for c in self.components if isinstance(c, Solid))
        moving = [c for c in self.components if not isinstance(c, Solid)]
        if [c.id for c in moving] != [c.id for c in fluid.components]:
            raise ValueError("The components that are no solids must be those of the fluid's model, in the same order.")
        self._index = {c.id: i for i, c in enumerate(self.components)}
        if len(self._index) < len(self.components):
            raise ValueError("Two components have the same id.")
        self.kind, self.family, self._code = fluid.kind, fluid.family, fluid._code
        self.vapour, self.translated = fluid.vapour, fluid.translated
        self.molar_masses = np.array([c.molar_mass for c in self.components])
        self._is_solid = np.array([isinstance(c, Solid) for c in self.components])
        self._moving, self._still = np.flatnonzero(~self._is_solid), np.flatnonzero(self._is_solid)
        self._take_over()

    def _take_over(self) -> None:
        """Parameters of the fluid by the places that its components have here; solids have none."""
        self.pairs = self._fluid.pairs
        self.par = np.zeros((ROWS, len(self.components)))
        self.par[:, self._moving] = self._fluid.par
        place = [int(i) for i in self._moving]
        self.pair_values = {(place[i], place[j]): values for (i, j), values in self._fluid.pair_values.items()}
        self.gases = {place[i] for i in self._fluid.gases}

    @property
    def fluid(self) -> PropertyModel:
        """The model of the components that are no solids."""
        return self._fluid

    def shift(self, T: float, fractions: Vector, own: Vector | None = None) -> tuple[float, float, float]:
        """That of the fluid in a composition of all; solids have none."""
        mine = np.zeros(len(self._moving))
        found = self._fluid.shift(T, fractions[self._moving], mine)
        if own is not None:
            own[:] = 0.0
            own[self._moving] = mine
        return found

    def solid_share(self, fractions: Vector) -> float:
        """Mole share of the solids in a composition."""
        return float(fractions[self._still].sum())

    def solids_of(self, fractions: Vector) -> Vector:
        """The part of a composition that is conventional solids, shape (components,)."""
        return np.where(self._is_solid, fractions, 0.0)

    def part_of(self, keys: Sequence[str]) -> PropertyModel:
        """The same model for some of the components; without solids among them the fluid's. Raises KeyError and ValueError."""
        wanted = [self.components[self.index(key)] for key in keys]
        fluid = self._fluid.part_of([c.id for c in wanted if not isinstance(c, Solid)])
        return SolidsModel(fluid, wanted) if any(isinstance(c, Solid) for c in wanted) else fluid

    def with_pairs(self, changed: Mapping[tuple[str, str], Mapping[str, float]]) -> PropertyModel:
        """With some parameters of some pairs of the fluid replaced. Raises KeyError and ValueError."""
        other = copy(self)
        other._fluid = self._fluid.with_pairs(changed)
        other._take_over()
        return other

    def flash(
        self,
        z: Sequence[float] | Vector,
        *,
        T: float | None = None,
        P: float | None = None,
        VF: float | None = None,
        H: float | None = None,
        S: float | None = None,
        V: float | None = None,
        U: float | None = None,
        guess: float = 320.0,
    ) -> State:
        """As :meth:`PropertyModel.flash`; H and S count the solids, VF the fluid alone. A mixture of solids only has no vapour fraction to give."""
        amounts = np.asarray(z, dtype=np.float64)
        if amounts.shape != self.molar_masses.shape:
            raise ValueError(f"The composition must have {len(self.components)} entries, one per component.")
        total = float(amounts.sum())
        if not (np.isfinite(total) and total > 0.0 and amounts.min() >= 0.0):
            raise ValueError("Amounts must be zero or positive and finite, and at least one must be positive.")
        z, solid = amounts / total, self.solid_share(amounts / total)
        if solid == 0.0:
            return self._beside(z, self._fluid.flash(z[self._moving], T=T, P=P, VF=VF, H=H, S=S, V=V, U=U, guess=guess))
        known = {name: value for name, value in {"T": T, "P": P, "VF": VF, "H": H, "S": S, "V": V, "U": U}.items() if value is not None}
        if set(known) in SEARCHED:
            return self._searched(z, known)
        energy = H if H is not None else S
        if energy is None or P is None or {T, VF} != {None}:
            if solid >= 1.0 and VF is not None:
                raise FlashError("no such state", "There are only solids here, which neither boil nor condense: no vapour fraction can be given.")
            if solid >= 1.0 and T is not None and P is not None:
                return self._still_state(z, T, P)
            return self._beside(z, self._fluid.flash(z[self._moving], T=T, P=P, VF=VF, H=H, S=S, guess=guess))
        return self._by_energy(z, 1.0 - solid, P, energy, H is None, guess)

    def _still_state(self, z: Vector, T: float, P: float) -> State:
        nothing = np.zeros(len(z))
        return State(self, T, P, 0.0, z, nothing, nothing)

    def _beside(self, z: Vector, fluid: State) -> State:
        """The state of the whole at the temperature and pressure of its fluid."""
        x, y, w = (self._spread(self._moving, row) for row in (fluid.liquid_fractions, fluid.vapour_fractions, fluid.second_liquid_fractions))
        beta, gamma = fluid.light_fraction, fluid.second_fraction
        state = State(self, fluid.temperature, fluid.pressure, beta, z, x, y, fluid.two_liquids, gamma, w, fluid.left_out)
        state.root, state.saturated = fluid.root, fluid.saturated
        return state

    def _by_energy(self, z: Vector, share: float, P: float, energy: float, entropy: bool, guess: float) -> State:
        """The temperature at which solids and fluid together have the energy, then the fluid with what the solids leave of it."""
        still = z[self._still]

        def stored(t: float) -> float:
            return float(still @ [c.crystal_entropy(t) if entropy else c.enthalpy(t) for c in self._solids])

        if share <= 0.0:
            return self._still_state(z, rising_root(lambda t: stored(t) - energy, guess), P)
        moving = z[self._moving] / share

        def surplus(t: float) -> float:
            fluid = self._fluid.flash(moving, T=t, P=P)
            return share * (fluid.entropy if entropy else fluid.enthalpy) + stored(t) - energy

        t = rising_root(surplus, guess)
        # Where the fluid boils at one temperature the energy settles how far it has.
        rest = (energy - stored(t)) / share
        fluid = self._fluid.flash(moving, P=P, guess=t, S=rest) if entropy else self._fluid.flash(moving, P=P, guess=t, H=rest)
        return self._beside(z, fluid)

    def roots_of(self, state: State) -> tuple[int, int]:
        """The volume roots of the heavier and of the lighter fluid phase."""
        return self._fluid.roots_of(self._of_fluid(state))

    def _of_fluid(self, state: State) -> State:
        """The fluid of a state as a state of the fluid's model."""
        z = state.fractions[self._moving]
        total = float(z.sum())
        x, y, w = (row[self._moving] for row in (state.liquid_fractions, state.vapour_fractions, state.second_liquid_fractions))
        beta, gamma = state.light_fraction, state.second_fraction
        fluid = State(self._fluid, state.temperature, state.pressure, beta, z / total if total > 0.0 else x, x, y, state.two_liquids, gamma, w)
        fluid.root = state.root
        return fluid

    def phases_of(self, state: State) -> tuple[Phase, ...]:
        """The phases of the fluid, then the solids together as one."""
        fluid = self._fluid.phases_of(self._of_fluid(state)) if state.solid_fraction < 1.0 else ()
        spread = [
            Phase(p.kind, self._spread(self._moving, p.fractions), p.enthalpy, p.entropy, p.heat_capacity, p.molar_volume, p.compressibility,
                  self._spread(self._moving, p.fugacity_coefficients), p.molar_mass)
            for p in fluid
        ]  # fmt: skip
        return (*spread, *([self._solid_phase(state)] if state.solid_fraction > 0.0 else []))

    def _solid_phase(self, state: State) -> Phase:
        t, still = state.temperature, state.fractions[self._still] / state.solid_fraction
        h, s, cp, v, mass = still @ np.array(
            [[c.enthalpy(t), c.crystal_entropy(t), c.crystal_heat_capacity.at(t), c.molar_mass / c.density, c.molar_mass] for c in self._solids]
        )
        fractions = self._spread(self._still, still)
        factor = state.pressure * v / (R * t)
        return Phase("solid", fractions, float(h), float(s), float(cp), float(v), float(factor), np.zeros(len(fractions)), float(mass))

    def phase(self, kind: str, T: float, P: float, fractions: Sequence[float] | Vector, *, root: int | None = None) -> Phase:
        """A single phase of the fluid, stable or not, from its fractions by all components."""
        found = self._fluid.phase(kind, T, P, np.asarray(fractions, dtype=np.float64)[self._moving], root=root)
        return Phase(
            kind, np.asarray(fractions, dtype=np.float64), found.enthalpy, found.entropy, found.heat_capacity, found.molar_volume,
            found.compressibility, self._spread(self._moving, found.fugacity_coefficients), found.molar_mass,
        )  # fmt: skip

    def activity_coefficients(self, T: float, P: float, fractions: Sequence[float] | Vector) -> Vector:
        """Of the fluid's components; zero for solids."""
        x = np.asarray(fractions, dtype=np.float64)[self._moving]
        return self._spread(self._moving, self._fluid.activity_coefficients(T, P, x / x.sum()))

    def ranges_left(self, state: State) -> list[str]:
        """Also the heat capacities of the solids."""
        notes = self._fluid.ranges_left(self._of_fluid(state)) if state.solid_fraction < 1.0 else []
        for c, fraction in zip(self._solids, state.fractions[self._still], strict=True):
            cp = c.crystal_heat_capacity
            if fraction > 1e-6 and not cp.low - 0.5 <= state.temperature <= cp.high + 0.5:
                notes.append(f"the heat capacity of solid {c.name} is known from {cp.low:.0f} to {cp.high:.0f} K and kept constant beyond")
            if fraction > 1e-6 and c.melting_point is not None and state.temperature > c.melting_point:
                notes.append(f"{c.name} melts at {c.melting_point:.0f} K, and as a conventional solid it does not")
        return notes


def rising_root(function: Callable[[float], float], guess: float) -> float:
    """Where a rising function of the temperature (K) is zero: bracketed outwards from the guess, then closed in by Brent's method.

    Raises FlashError where it is zero nowhere between 10 and 20 000 K.
    """
    from scipy.optimize import brentq  # loaded when first used: few plants have solids

    low = high = float(np.clip(guess, 50.0, 3000.0))
    below = above = function(low)
    step = 5.0
    while not below <= 0.0 <= above and low > _COLDEST and high < _HOTTEST:
        if above < 0.0:
            low, below, high = high, above, min(high + step, _HOTTEST)
            above = function(high)
        else:
            high, above, low = low, below, max(low - step, 0.5 * low, _COLDEST)
            below = function(low)
        step *= 2.0
    if not below <= 0.0 <= above:
        raise FlashError("no such state", "No temperature gives solids and fluid together that energy.")
    if below == 0.0 or above == 0.0:
        return low if below == 0.0 else high
    return float(brentq(function, low, high, xtol=_CLOSE * low, rtol=_CLOSE))
