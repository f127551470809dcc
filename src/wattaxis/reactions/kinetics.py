"""Rates of all reactions of a set at once, in a phase of a property model."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from wattaxis.properties.state import Phase, Vector
from wattaxis.reactions.balance import element_gaps
from wattaxis.reactions.constants import RateConstant, Tabulated
from wattaxis.reactions.expression import Constant, Expression, Step
from wattaxis.reactions.rates import BASIS_LETTERS
from wattaxis.reactions.reaction import Law, RateLaw, Reaction, ReactionPhase, ReactionSet
from wattaxis.reactions.thermochemistry import P_REF, R

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel

Array = NDArray[np.float64]
#: Mole fractions that count as nothing.
_GONE = 1e-300
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
            if reaction.backward == "thermodynamics":
                check_constant(reaction, model, "give the rate backward as a law of its own")
        self.numbers = np.array([[reaction.numbers.get(name, 0.0) for name in ids] for reaction in of.reactions])
        self.mass_made: Vector = self.numbers @ model.molar_masses
        self.phase: ReactionPhase = of.reactions[0].phase
        self.per = _forward(of.reactions[0]).per
        for reaction in of.reactions:
            if reaction.phase != self.phase:
                raise KineticsError(reaction.name, f"Reaction {reaction.name} is in the {reaction.phase}, others of {of.name} in the {self.phase}.")
            if any(law.per != self.per for law in reaction.laws):
                raise KineticsError(reaction.name, f"The rates of {of.name} count per volume and per mass of catalyst; let all count one way.")
        #: The laws as the kernels take them.
        self.laws = (self.numbers, *_packed(of.reactions, self.numbers, ids))
        self.counts_activity = any("activity" in law.bases for reaction in of.reactions for law in reaction.laws)
        self.counts_volume = any("concentration" in law.bases for reaction in of.reactions for law in reaction.laws)
        self._written = [reaction.name for reaction in of.reactions for law in reaction.laws if isinstance(law, Expression)]
        # Late: the kernels load with the first use of a law.
        from wattaxis.properties.kernels import rates

        self._kernels: Any = rates

    def equilibrium_constants(self, T: float) -> Vector:
        """ln K of every reaction at T (K), in fugacities over 1 bar: from the formation data, shape (reactions,)."""
        found = np.empty(len(self.numbers))
        self._kernels.log_constants(T, self.model.par, self.numbers, found)
        return found

    def quotients(self, phase: Phase, P: float) -> Vector:
        """ln of the reaction quotients in fugacities over 1 bar, shape (reactions,); at equilibrium ln K."""
        level = np.log(np.maximum(phase.fractions, _GONE) * phase.fugacity_coefficients * P / P_REF)
        return np.asarray(self.numbers @ level)

    def rates(self, phase: Phase, T: float, P: float) -> Vector:
        """mol of reaction per m3 of the phase (or kg of catalyst) and second at T (K), P (Pa), shape (reactions,)."""
        if self.counts_volume and not phase.molar_volume > 0.0:
            raise KineticsError("", f"The property model gives the {self.phase} no volume at {T:.5g} K, so there are no concentrations.")
        gamma = self.model.activity_coefficients(T, P, phase.fractions) if self.counts_activity else phase.fractions
        log_phi = np.log(phase.fugacity_coefficients)
        log_k, found = np.empty(len(self.numbers)), np.empty(len(self.numbers))
        law, why = self._kernels.reaction_rates(T, P, phase.molar_volume, phase.fractions, log_phi, gamma, self.model.par, *self.laws, log_k, found)
        if why:
            raise self.no_rate(law, why, T)
        return found

    def rate_rows(self, T: Vector, P: Vector, fractions: Array) -> Array:
        """As :meth:`rates`, of many phases at once: ``T`` and ``P`` (rows,), ``fractions`` (rows, components); shape (rows, reactions)."""
        from wattaxis.properties.rows import phase_rows  # late: it loads the kernels

        rows = phase_rows(self.model, self.phase, T, P, fractions, by_pressure=False)
        if self.counts_volume and not (rows.molar_volume > 0.0).all():
            raise KineticsError("", f"The property model gives the {self.phase} no volume at {T.max():.5g} K, so there are no concentrations.")
        found, log_k = np.empty((len(T), len(self.numbers))), np.empty(len(self.numbers))
        for k, (t, p, x) in enumerate(zip(T, P, np.ascontiguousarray(fractions), strict=True)):
            gamma = self.model.activity_coefficients(t, p, x) if self.counts_activity else x
            state = (t, p, rows.molar_volume[k], x, rows.log_phi[k], gamma)
            law, why = self._kernels.reaction_rates(*state, self.model.par, *self.laws, log_k, found[k])
            if why:
                raise self.no_rate(law, why, float(t))
        return found

    def paces(self, T: float, concentrations: Vector) -> Vector:
        """The magnitude of each rate at concentrations (components,) mol/m3 and T (K), as of an ideal mixture, shape (reactions,): 1/s of the whole.

        Raises KineticsError.
        """
        total = float(concentrations.sum())
        even = np.zeros(len(concentrations))
        log_k, found = np.empty(len(self.numbers)), np.empty(len(self.numbers))
        state = (T, total * R * T, 1.0 / total, concentrations / total, even, even + 1.0)
        law, why = self._kernels.reaction_rates(*state, self.model.par, *self.laws, log_k, found)
        if why:
            raise self.no_rate(law, why, T)
        return np.abs(found) / total

    def no_rate(self, law: int, why: int, T: float) -> KineticsError:
        """What is to be said where a written law has no value at T (K), by its row and the code of the kernel."""
        text = f"The rate of {self._written[law]} cannot be calculated at {T:.5g} K, as its expression is written: {_WHY[why]}."
        return KineticsError(self._written[law], text)


#: Why a written law has no value, by the codes of the kernel.
_WHY = (
    "",
    "it divides by nothing",
    "it takes the logarithm of nothing or less",
    "it takes a root of less than nothing",
    "it grows beyond all numbers",
)


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


def _packed(reactions: tuple[Reaction, ...], numbers: Vector, ids: list[str]) -> tuple[Vector, ...]:
    """All laws as the kernel takes them, and room for its stack."""
    terms, orders, adsorbed, adsorbed_orders = list[list[float]](), list[list[float]](), list[list[float]](), list[list[float]]()
    steps, written = list[list[float]](), list[list[float]]()
    for j, reaction in enumerate(reactions):
        for sign, law, thermal in _parts(reaction):
            if isinstance(law, Expression):
                made = [_step(step, steps) for step in law.steps(ids)]
                written.append([j, sign, thermal, len(steps), len(steps) + len(made)])
                steps += made
                continue
            for term in law.adsorption:
                adsorbed.append([len(terms), *_constant(term.constant, steps)])
                adsorbed_orders.append([term.orders.get(name, 0.0) for name in ids])
            basis = list(BASIS_LETTERS).index(law.law.basis)
            terms.append([j, sign, basis, thermal, *_constant(law.constant, steps), law.adsorption_power])
            orders.append([law.law.orders.get(name, 0.0) for name in ids])
    widths = (10, len(ids), 6, len(ids), 8, 5)
    arrays = (terms, orders, adsorbed, adsorbed_orders, steps, written)
    packed = [np.array(rows, dtype=float).reshape(-1, width) for rows, width in zip(arrays, widths, strict=True)]
    return (*packed, np.zeros(len(steps) + 1))


def _constant(of: RateConstant, steps: list[list[float]], factor: float = 1.0) -> list[float]:
    """ln A, n, E/R (K), 1/T0 (1/K) and T1 (K); of a table where its pieces are, which are laid down among the steps."""
    if isinstance(of, Tabulated):
        steps.extend([0.0, 0.0, *piece[:5], piece[5] + math.log(factor)] for piece in of.pieces.tolist())
        return [len(steps) - len(of.pieces), len(steps), 0.0, 0.0, 0.0]
    inverse, ratio = (0.0, 1.0) if of.reference is None else (1.0 / of.reference, of.reference)
    return [math.log(of.factor) + math.log(factor), of.power, of.energy / R, inverse, ratio]


#: Codes of the kernel's operations by how they are written.
_CODES = {
    name: code
    for code, name in enumerate(
        ("number", "amount", "temperature", "pressure", "constant", "negative", "abs", "sqrt", "ln", "exp", "+", "-", "*", "/", "^", "min", "max")
    )
}


def _step(step: Step, steps: list[list[float]]) -> list[float]:
    name, first, second, value = step
    constant = _constant(value.value, steps, value.factor) if isinstance(value, Constant) else [value or 0.0, 0.0, 0.0, 0.0, 0.0]
    return [_CODES[name], first, second, *constant]


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


def check_constant(reaction: Reaction, model: PropertyModel, instead: str) -> None:
    """Whether the equilibrium constant of a reaction follows from formation data. Raises KineticsError, with what to do instead."""
    salts = [item.id for item in model.components if item.only_dissolved and reaction.numbers.get(item.id)]
    if salts:
        text = (
            f"The formation data of {' and '.join(salts)} are those of a solution, so reaction {reaction.name} has no equilibrium constant from them"
        )
        raise KineticsError(reaction.name, f"{text}: {instead}.")


def _check_laws(reaction: Reaction) -> None:
    _forward(reaction)
    if reaction.phase == "vapour" and any("activity" in law.bases for law in reaction.laws):
        raise KineticsError(
            reaction.name, f"Reaction {reaction.name} counts in activities, which are those of a liquid; take fugacities in the vapour."
        )
