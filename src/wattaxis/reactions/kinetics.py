"""Rates of all reactions of a set at once, in a phase of a property model."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Any

import numpy as np

from wattaxis.properties.state import Phase, Vector
from wattaxis.reactions.balance import element_gaps
from wattaxis.reactions.expression import Expression
from wattaxis.reactions.rates import Basis
from wattaxis.reactions.reaction import Law, RateLaw, Reaction, ReactionPhase, ReactionSet
from wattaxis.reactions.thermochemistry import P_REF, StandardStates

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel

#: Mole fractions that count as nothing; the least that stands under a negative exponent; ln of the largest rate.
_GONE, _LEAST, _MOST = 1e-300, 1e-30, 600.0
#: kg that a reaction may make of nothing by the rounding of molar masses, relative to what it turns over.
_MASS_GAP = 2e-4


class KineticsError(ValueError):
    """A set of reactions that cannot be used as it is; ``reaction`` is the name of the one that is to blame.

    >>> KineticsError("R1", "Reaction R1 has no rate.").reaction
    'R1'
    """

    def __init__(self, reaction: str, text: str) -> None:
        self.reaction = reaction
        super().__init__(text)


class Kinetics:
    """The reactions of a set over the components of a property model.

    ``numbers`` (reactions, components) are the stoichiometric numbers, ``mass_made`` (reactions,) kg per mole of reaction that rounded molar masses
    make of nothing. All reactions take place in ``phase`` and count per volume of it or all per mass of catalyst (``per``).

    Raises KineticsError for reactions without a rate, in two phases or on two bases, of components that the model lacks, and for elements or masses
    that differ on both sides.

    >>> from wattaxis import PropertyModel
    >>> from wattaxis.reactions import Arrhenius, PowerLaw
    >>> law = RateLaw(PowerLaw({"propane": 1.0}), Arrhenius(0.5))
    >>> made = Reaction("R1", {"propane": -1.0, "propene": 1.0, "hydrogen": 1.0}, "vapour", law)
    >>> model = PropertyModel("ideal", ["propane", "propene", "hydrogen"])
    >>> kinetics = Kinetics(ReactionSet("Cracking", (made,)), model)
    >>> rate = kinetics.rates(model.phase("vapour", 800.0, 1e5, [1.0, 0.0, 0.0]), 800.0, 1e5)
    >>> [round(float(r), 4) for r in rate]  # 0.5/s times 1 bar / (R 800 K)
    [7.517]
    """

    def __init__(self, of: ReactionSet, model: PropertyModel) -> None:
        if not of.reactions:
            raise KineticsError("", f"The reaction set {of.name} is empty.")
        self.set, self.model = of, model
        ids = [component.id for component in model.components]
        for reaction in of.reactions:
            check_reaction(reaction, model)
            _check_laws(reaction)
        self.numbers = np.array([[reaction.numbers.get(name, 0.0) for name in ids] for reaction in of.reactions])
        self.mass_made: Vector = self.numbers @ model.molar_masses
        self.phase: ReactionPhase = of.reactions[0].phase
        self.per = _forward(of.reactions[0]).per
        for reaction in of.reactions:
            if reaction.phase != self.phase:
                raise KineticsError(reaction.name, f"Reaction {reaction.name} is in the {reaction.phase}, others of {of.name} in the {self.phase}.")
            if any(law.per != self.per for law in reaction.laws):
                raise KineticsError(reaction.name, f"The rates of {of.name} count per volume and per mass of catalyst; let all count one way.")
        self._states = StandardStates(model.components)
        self._terms = _Terms(of.reactions, self.numbers, ids)
        self._expressions = [
            _Written(j, reaction.name, law.compiled(ids), sign, thermal)
            for j, reaction in enumerate(of.reactions)
            for sign, law, thermal in _parts(reaction)
            if isinstance(law, Expression)
        ]
        bases = [basis for reaction in of.reactions for law in reaction.laws for basis in law.bases]
        self._bases: tuple[Basis, ...] = tuple(dict.fromkeys(bases))

    def equilibrium_constants(self, T: float) -> Vector:
        """ln K of every reaction at T (K), in fugacities over 1 bar: from the formation data, shape (reactions,)."""
        return self._states.log_constants(self.numbers, T)

    def quotients(self, phase: Phase, P: float) -> Vector:
        """ln of the reaction quotients in fugacities over 1 bar, shape (reactions,); at equilibrium ln K."""
        level = np.log(np.maximum(phase.fractions, _GONE) * phase.fugacity_coefficients * P / P_REF)
        return np.asarray(self.numbers @ level)

    def rates(self, phase: Phase, T: float, P: float) -> Vector:
        """mol of reaction per m3 of the phase (or kg of catalyst) and second at T (K), P (Pa), shape (reactions,)."""
        fugacity = phase.fugacity_coefficients * P
        scales = {basis: self._scale(basis, phase, T, P, fugacity) for basis in self._bases}
        thermal = self._terms.thermal.size or any(law.thermal for law in self._expressions)
        constants = self.equilibrium_constants(T) if thermal else None
        logs = {basis: np.log(scale) for basis, scale in scales.items()}
        rates = self._terms.rates(T, phase.fractions, logs, np.log(fugacity / P_REF), constants)
        if self._expressions:
            self._add_expressions(rates, scales, phase, T, P, constants)
        return rates

    def _add_expressions(self, rates: Vector, scales: dict[Basis, Vector], phase: Phase, T: float, P: float, constants: Vector | None) -> None:
        """Rates of laws that are expressions. Backward by thermodynamics they are those forward times Q/K, with a trace of what is not there."""
        lack = None if constants is None else self.quotients(self._with_traces(phase), P) - constants
        for law in self._expressions:
            x = np.maximum(phase.fractions, _LEAST) if law.thermal else phase.fractions
            known: dict[str, Any] = {basis: scale * x for basis, scale in scales.items()}
            try:
                rate = law.rate({**known, "T": T, "P": P})
                if not np.isfinite(rate):
                    raise ArithmeticError("it grows beyond all numbers")
            except (ArithmeticError, ValueError) as error:
                text = f"The rate of {law.name} cannot be calculated at {T:.5g} K, as its expression is written: {error}."
                raise KineticsError(law.name, text) from error
            driven = 1.0 if lack is None or not law.thermal else 1.0 - float(np.exp(np.minimum(lack[law.place], _MOST)))
            rates[law.place] += law.sign * rate * driven

    @staticmethod
    def _with_traces(phase: Phase) -> Phase:
        return replace(phase, fractions=np.maximum(phase.fractions, _LEAST))

    def _scale(self, basis: Basis, phase: Phase, T: float, P: float, fugacity: Vector) -> Vector:
        """What a mole fraction is multiplied by to give the value that a law counts in."""
        if basis == "concentration":
            if not phase.molar_volume > 0.0:
                raise KineticsError("", f"The property model gives the {self.phase} no volume at {T:.5g} K, so there are no concentrations.")
            return np.full_like(fugacity, 1.0 / phase.molar_volume)
        ways: dict[Basis, Callable[[], Vector]] = {
            "partial pressure": lambda: np.full_like(fugacity, P),
            "fugacity": lambda: fugacity,
            "mole fraction": lambda: np.ones_like(fugacity),
            "activity": lambda: self.model.activity_coefficients(T, P, phase.fractions),
        }
        return ways[basis]()


@dataclass(frozen=True)
class _Written:
    """A law that is an expression: the place of its reaction, its sign, and whether Q/K makes it go backward too."""

    place: int
    name: str
    rate: Callable[[dict[str, Any]], float]
    sign: float
    thermal: bool


def _parts(reaction: Reaction) -> list[tuple[float, Law, bool]]:
    """Laws with their signs. An expression holds its way back itself; of a product of powers that is a term of its own."""
    forward, backward = _forward(reaction), reaction.backward
    thermal = backward == "thermodynamics"
    found: list[tuple[float, Law, bool]] = [(1.0, forward, thermal and isinstance(forward, Expression))]
    if thermal and isinstance(forward, RateLaw):
        found.append((-1.0, forward, True))
    if isinstance(backward, RateLaw | Expression):
        found.append((-1.0, backward, False))
    return found


class _Terms:
    """The products of powers of all laws, forward and backward, as arrays over (terms, components)."""

    def __init__(self, reactions: tuple[Reaction, ...], numbers: Vector, ids: list[str]) -> None:
        found = [
            (j, sign, law, thermal) for j, reaction in enumerate(reactions) for sign, law, thermal in _parts(reaction) if isinstance(law, RateLaw)
        ]
        bases = tuple(dict.fromkeys(law.law.basis for _, _, law, _ in found))
        self._constants = [law.constant for _, _, law, _ in found]
        self._own = np.array([[law.law.orders.get(name, 0.0) for name in ids] for _, _, law, _ in found]).reshape(-1, len(ids))
        self._of_basis = {basis: np.array([law.law.basis == basis for _, _, law, _ in found])[:, None] * self._own for basis in bases}
        #: Rows that are backward by thermodynamics: the law forward times Q/K. What is used up cancels where its order is its number.
        self.thermal = np.array([k for k, (_, _, _, thermal) in enumerate(found) if thermal], dtype=int)
        places = np.array([j for j, _, _, _ in found], dtype=int)
        self._numbers = np.zeros_like(self._own)
        self._numbers[self.thermal] = numbers[places[self.thermal]]
        orders = self._own + self._numbers
        self._above, self._below = np.maximum(orders, 0.0), np.minimum(orders, 0.0)
        self._places = places
        self._sum = np.zeros((len(reactions), len(found)))
        self._sum[places, np.arange(len(found))] = [sign for _, sign, _, _ in found]
        self._adsorbed = [(k, _Adsorbed(law, ids)) for k, (_, _, law, _) in enumerate(found) if law.adsorption]

    def rates(self, T: float, x: Vector, scales: dict[Basis, Vector], fugacity: Vector, constants: Vector | None) -> Vector:
        """From mole fractions, ln of what each basis makes of one, ln of fugacity over 1 bar of one, and ln K by reaction."""
        level = np.array([constant.log_at_one(T) for constant in self._constants])
        level += self._above @ np.log(np.maximum(x, _GONE)) + self._below @ np.log(np.maximum(x, _LEAST))
        for basis, rows in self._of_basis.items():
            level += rows @ scales[basis]
        for k, adsorbed in self._adsorbed:
            level[k] -= adsorbed.log_hindrance(T, x, scales[adsorbed.basis])
        if constants is not None:
            level += self._numbers @ fugacity
            level[self.thermal] -= constants[self._places[self.thermal]]
        return np.asarray(self._sum @ np.exp(np.minimum(level, _MOST)))


class _Adsorbed:
    """The denominator of a law: ``(1 + sum of K times products of powers)**power``."""

    def __init__(self, law: RateLaw, ids: list[str]) -> None:
        self.basis, self._power = law.law.basis, law.adsorption_power
        self._constants = [term.constant for term in law.adsorption]
        orders = np.array([[term.orders.get(name, 0.0) for name in ids] for term in law.adsorption])
        self._above, self._below, self._all = np.maximum(orders, 0.0), np.minimum(orders, 0.0), orders

    def log_hindrance(self, T: float, x: Vector, scale: Vector) -> float:
        """ln of the denominator at T (K) and mole fractions; ``scale``: ln of what the basis makes of a mole fraction of one."""
        level = np.array([constant.log_at_one(T) for constant in self._constants]) + self._all @ scale
        level += self._above @ np.log(np.maximum(x, _GONE)) + self._below @ np.log(np.maximum(x, _LEAST))
        return self._power * float(np.log1p(np.exp(np.minimum(level, _MOST)).sum()))


def _forward(reaction: Reaction) -> Law:
    if reaction.forward is None:
        raise KineticsError(reaction.name, f"Reaction {reaction.name} has no rate.")
    return reaction.forward


def check_reaction(reaction: Reaction, model: PropertyModel) -> None:
    """Whether a reaction is one among the components of a model: none is missing, elements and masses are equal on both sides.

    Raises KineticsError.
    """
    ids = [component.id for component in model.components]
    named = [*reaction.numbers, *(name for law in reaction.laws for name in law.components)]
    if missing := [name for name in dict.fromkeys(named) if name not in ids]:
        raise KineticsError(reaction.name, f"Reaction {reaction.name} speaks of {', '.join(missing)}, which the plant does not have any more.")
    gaps = element_gaps(reaction.numbers, model.components)
    if not gaps.balanced:
        text = ", ".join(f"{abs(gap):g} {element} {'too many' if gap > 0 else 'too few'}" for element, gap in gaps.atoms.items())
        raise KineticsError(reaction.name, f"Reaction {reaction.name} does not balance: {text} among the products.")
    masses = np.array([reaction.numbers.get(name, 0.0) for name in ids]) * model.molar_masses
    if abs(masses.sum()) > _MASS_GAP * np.abs(masses).sum():
        text = f"The products of reaction {reaction.name} weigh {1e3 * masses.sum():+.4g} g/mol more than what it uses up."
        raise KineticsError(reaction.name, text)


def _check_laws(reaction: Reaction) -> None:
    _forward(reaction)
    if reaction.phase == "vapour" and any("activity" in law.bases for law in reaction.laws):
        raise KineticsError(
            reaction.name, f"Reaction {reaction.name} counts in activities, which are those of a liquid; take fugacities in the vapour."
        )
