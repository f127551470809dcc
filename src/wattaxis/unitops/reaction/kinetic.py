"""What reactors with rates share: their reactions over a stream, the catalyst, and how far the reactants came."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from wattaxis.properties import layout
from wattaxis.properties.state import Phase, Vector
from wattaxis.reactions import Kinetics, KineticsError
from wattaxis.unitops.base import Field, Finding, Givens, ResultValue, StreamState, UnitFault

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel, State

#: K between which reactors look for their temperature.
COLDEST, HOTTEST = 15.0, 6000.0
#: Times that the rates of a unit are calculated at most; the largest of our examples takes a tenth of it.
MOST_RATES = 200_000
REACTIONS = Field("reactions", "Reactions", "reactions", "a set written under Chemistry")
BASE = Field("base", "Base component", "component", "whose conversion counts; blank: the first that the first reaction uses up")
CATALYST = Field(
    "catalyst_density", "Catalyst per volume of reactor", "density", "mass of catalyst by volume of reactor, where rates count by its mass"
)


class Reacting:
    """The reactions of a unit over one inlet, in the order of the components of its property model.

    Raises UnitFault for reactions that cannot be used, for solids in the feed, and where catalyst is needed and none is given.
    """

    def __init__(self, givens: Givens, inlet: StreamState, model: PropertyModel) -> None:
        of = givens.reaction_set("reactions")
        if inlet.state.solid_fraction > 0.0:
            raise UnitFault("Solids come in, which this reactor does not take.", "Take them out first, by a filter or a cyclone.")
        self.whole, self.model, self.inlet = model, model.fluid, inlet
        try:
            self.kinetics = Kinetics(of, self.model)
        except KineticsError as error:
            raise UnitFault(str(error), "Mend it under Chemistry, Reactions.", "reactions") from error
        self.ids = [component.id for component in self.model.components]
        self._places = np.array([model.index(name) for name in self.ids])
        self.numbers = self.kinetics.numbers
        self.feed: Vector = inlet.flows[self._places]
        #: Places of the components that are fed or may be formed.
        self.there = [i for i in range(len(self.ids)) if self.feed[i] > 0.0 or self.numbers[:, i].any()]
        self.density = 1.0
        if self.kinetics.per == "catalyst mass":
            density = givens.si("catalyst_density")
            if not density:
                text = "The rates count by mass of catalyst, and how much of it a volume of the reactor holds is not given."
                raise UnitFault(text, "Give the catalyst per volume of reactor.", "catalyst_density")
            self.density = density
        self.base = self._base(givens)
        self._calls = 0
        #: The volume root of the phase, as the kernels number it.
        self.root = layout.VAPOUR if self.kinetics.phase == "vapour" else layout.LIQUID

    def _base(self, givens: Givens) -> int:
        chosen = givens.raw("base")
        used = [i for i in range(len(self.ids)) if (self.numbers[:, i] < 0.0).any()]
        if chosen is None:
            return next(i for i in used if self.numbers[0, i] < 0.0)
        if chosen not in [self.ids[i] for i in used]:
            raise UnitFault(f"{chosen}, the base component, is used up by none of the reactions.", "Choose another, or none.", "base")
        return self.ids.index(chosen)

    def flows(self, extents: Vector) -> Vector:
        """mol/s of every component of the fluid after so much of each reaction (mol/s); what rounding makes less than nothing is nothing."""
        return np.asarray(np.maximum(self.feed + extents @ self.numbers, 0.0))

    def possible(self, extents: Vector) -> Vector:
        """Extents (mol/s) that use up no more than there is: what the integrator's tolerance lets go beyond that is taken back."""
        for _ in range(3):
            left = self.feed + extents @ self.numbers
            short = left < 0.0
            if not short.any():
                break
            extents = extents + np.linalg.lstsq(self.numbers[:, short].T, -left[short], rcond=None)[0]
        return extents

    def spread(self, flows: Vector) -> Vector:
        """Flows of the fluid in the order of all components."""
        found = np.zeros(len(self.whole.components))
        found[self._places] = flows
        return found

    def phase(self, T: float, P: float, flows: Vector) -> Phase:
        """The reacting phase, all of it in one."""
        return self.model.phase(self.kinetics.phase, T, P, flows / flows.sum())

    def rates(self, phase: Phase, T: float, P: float) -> Vector:
        """mol of each reaction per m3 of reactor and second. Raises UnitFault where there is none, and after more calls than any reactor needs."""
        self._calls += 1
        if self._calls > MOST_RATES:
            text = f"The rates were calculated {MOST_RATES} times without an end: something in them changes without limit."
            raise UnitFault(text, "Look at constants and orders; give a smaller size to see what happens at the inlet.", "reactions")
        try:
            return self.density * self.kinetics.rates(phase, T, P)
        except KineticsError as error:
            raise UnitFault(str(error), "Let the rate count in another basis, or choose another property model.", "reactions") from error

    def temperature(self, enthalpy: float, P: float, flows: Vector, guess: float) -> tuple[float, Phase]:
        """Temperature (K) and phase at an enthalpy flow (W), all of it in one phase. Raises UnitFault where there is none."""
        total = float(flows.sum())
        found = self.model.phase_by_enthalpy(self.kinetics.phase, enthalpy / total, P, flows / total, guess, COLDEST, HOTTEST)
        if found is not None:
            return found
        text = f"The heat of the reactions leads to no temperature between {COLDEST:.0f} and {HOTTEST:.0f} K."
        raise UnitFault(text, "Take out heat, dilute the feed, or let less react.")

    def reacting_phase(self, state: State) -> Phase | None:
        """The phase of a state in which the reactions take place, None where there is none of it."""
        wanted = self.kinetics.phase
        phases = state.phases
        found = next((phase for phase in phases if phase.kind == wanted), None)
        if found is None and len(phases) == 1:
            # Far above its critical point a fluid is both: what matters is that there is but one volume.
            single = self.model.phase(wanted, state.temperature, state.pressure, state.fractions)
            volumes = single.molar_volume, phases[0].molar_volume
            found = single if abs(volumes[0] - volumes[1]) <= 1e-6 * max(volumes) else None
        return found

    def conversion(self, flows: Vector) -> float:
        """Share of the base component that is used up."""
        return float(1.0 - flows[self.base] / self.feed[self.base]) if self.feed[self.base] > 0.0 else 0.0

    def values(self, flows: Vector) -> list[ResultValue]:
        """Conversion of what is used up, and how much of each product is formed for what the base component loses."""
        change = flows - self.feed
        found = [ResultValue("conversion", f"Conversion of {self.ids[self.base]}", "fraction", self.conversion(flows))]
        for i, name in enumerate(self.ids):
            if change[i] < 0.0 < self.feed[i] and (self.numbers[:, i] < 0.0).any():
                found.append(ResultValue("conversion_of", "Conversion", "fraction", float(-change[i] / self.feed[i]), name))
        lost, fed = float(-change[self.base]), float(self.feed[self.base])
        for i, name in enumerate(self.ids):
            if change[i] > 0.0 and lost > 0.0:
                base = self.ids[self.base]
                found.append(ResultValue("selectivity", f"Formed per mole of {base} used up", "number", float(change[i]) / lost, name))
                found.append(ResultValue("yield", f"Formed per mole of {base} fed", "number", float(change[i]) / fed, name))
        return found

    def mass_made(self, extents: Vector) -> float:
        """kg/s that rounded molar masses make of nothing."""
        return float(extents @ self.kinetics.mass_made)

    def doubts(self, low: float, high: float) -> list[Finding]:
        """What is to be said of the constants, which were used between two temperatures (K)."""
        return doubts_of(self.kinetics, low, high)


def doubts_of(kinetics: Kinetics, low: float, high: float) -> list[Finding]:
    """What is to be said of the constants of reactions, which were used between two temperatures (K)."""
    found = []
    for reaction in kinetics.set.reactions:
        for text in (doubt for law in reaction.laws for doubt in law.doubts):
            found.append(Finding("caution", "", f"{reaction.name}: {text}", "Check it under Chemistry, Reactions.", "reactions"))
    for name, text in kinetics.set.beyond_tables(low, high).items():
        remedy = "Add measured constants to the table under Chemistry, Reactions, or take the result as an estimate."
        found.append(Finding("caution", "", f"{name}: {text}", remedy, "reactions"))
    return found


def same_phase(reacting: Reacting, inlet: StreamState) -> None:
    """Whether all of the inlet is the phase in which the reactions are. Raises UnitFault."""
    wanted, state = reacting.kinetics.phase, reacting.model.flash(reacting.feed, T=inlet.state.temperature, P=inlet.state.pressure)
    if len(inlet.state.phases) == 1 and reacting.reacting_phase(state) is not None:
        return
    other = "heated until it is all vapour" if wanted == "vapour" else "cooled until it is all liquid"
    text = f"The reactions take place in the {wanted}, and what comes in is {inlet.state.phase}."
    raise UnitFault(text, f"The feed has to be {other}; or let the reactions take place in the other phase.", "reactions")
