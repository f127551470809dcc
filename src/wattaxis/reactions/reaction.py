"""A reaction with its rate laws, and named sets of reactions that several reactors share."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

from wattaxis.reactions.constants import RateConstant, known_between
from wattaxis.reactions.equation import equation_text
from wattaxis.reactions.expression import Expression
from wattaxis.reactions.rates import Adsorption, Basis, Per, PowerLaw, powers_of

ReactionPhase = Literal["vapour", "liquid"]
Backward = Literal["thermodynamics"]
#: K by which a table may be left by rounding.
_NEAR = 1e-3


@dataclass(frozen=True)
class RateLaw:
    """A law and its constant, over ``(1 + the adsorption terms)**adsorption_power`` where there are some (Langmuir, Hinshelwood, Hougen, Watson).

    >>> from wattaxis.reactions import Arrhenius
    >>> term = Adsorption({"b": 1.0}, Arrhenius(1e-5))
    >>> RateLaw(PowerLaw({"a": 1.0}, "partial pressure"), Arrhenius(2.0), (term,), 2.0).text
    'k p[a] / (1 + K1 p[b])^2'
    """

    law: PowerLaw
    constant: RateConstant
    adsorption: tuple[Adsorption, ...] = ()
    adsorption_power: float = 1.0

    @property
    def text(self) -> str:
        """As people write it."""
        above = " ".join(["k", *powers_of(self.law.orders, self.law.basis)])
        if not self.adsorption:
            return above
        below = [" ".join([f"K{number}", *powers_of(term.orders, self.law.basis)]) for number, term in enumerate(self.adsorption, 1)]
        power = "" if self.adsorption_power == 1.0 else f"^{self.adsorption_power:g}"
        return f"{above} / (1 + {' + '.join(below)}){power}"

    @property
    def per(self) -> Per:
        """What the rate counts by."""
        return self.law.per

    @property
    def components(self) -> tuple[str, ...]:
        """Ids of the components that it speaks of."""
        return tuple(dict.fromkeys([*self.law.orders, *(name for term in self.adsorption for name in term.orders)]))

    @property
    def bases(self) -> tuple[Basis, ...]:
        """What it counts in."""
        return (self.law.basis,)

    @property
    def doubts(self) -> tuple[str, ...]:
        """What stands in the way of using its constant, in words."""
        return self.constant.doubts

    @property
    def known_between(self) -> tuple[float, float]:
        """K between which its constants were measured, as far as they are tables."""
        return known_between((self.constant, *(term.constant for term in self.adsorption)))


#: How fast a reaction goes.
Law = RateLaw | Expression


@dataclass(frozen=True)
class Reaction:
    """Stoichiometric numbers by component id, negative for what is used up, and how fast it goes in one phase.

    ``forward`` is None where only its equilibrium or extent matters. ``backward``: None for a reaction that goes one way, "thermodynamics" where the
    reverse rate follows from the equilibrium constant, or a law of its own. Raises ValueError for a reaction of nothing, and for a law backward
    without one forward.

    >>> from wattaxis.reactions import Arrhenius
    >>> law = RateLaw(PowerLaw({"2-butanol": 1.0}), Arrhenius(1.0))
    >>> Reaction("R1", {"2-butanol": -1.0, "butanone": 1.0, "hydrogen": 1.0}, "vapour", law, "thermodynamics").text
    '2-butanol = butanone + hydrogen'
    """

    name: str
    numbers: Mapping[str, float]
    phase: ReactionPhase = "vapour"
    forward: Law | None = None
    backward: Law | Backward | None = None

    def __post_init__(self) -> None:
        if not any(number < 0.0 for number in self.numbers.values()):
            raise ValueError(f"Reaction {self.name} uses nothing up.")
        if self.forward is None and isinstance(self.backward, RateLaw | Expression):
            raise ValueError(f"Reaction {self.name} has a rate backward and none forward.")

    @property
    def laws(self) -> tuple[Law, ...]:
        """Its laws, forward and backward, as far as it has some of its own."""
        return tuple(law for law in (self.forward, self.backward) if isinstance(law, RateLaw | Expression))

    @property
    def text(self) -> str:
        """Its equation."""
        return equation_text(dict(self.numbers), reversible=self.backward is not None or self.forward is None)


@dataclass(frozen=True)
class ReactionSet:
    """Reactions under a name. Raises ValueError where two of them have the same one.

    >>> ReactionSet("Main", (Reaction("R1", {"a": -1.0, "b": 1.0}),)).components
    ('a', 'b')
    """

    name: str
    reactions: tuple[Reaction, ...]

    def __post_init__(self) -> None:
        names = [reaction.name for reaction in self.reactions]
        if len(set(names)) < len(names):
            raise ValueError(f"Two reactions of {self.name} have the same name.")

    @property
    def components(self) -> tuple[str, ...]:
        """Ids of all components that react or are formed."""
        return tuple(dict.fromkeys(name for reaction in self.reactions for name, number in reaction.numbers.items() if number))

    def of_sign(self, sign: float) -> frozenset[str]:
        """Components that some reaction forms (1.0) or uses up (-1.0); reversible ones do both."""
        return frozenset(
            name
            for reaction in self.reactions
            for name, number in reaction.numbers.items()
            if sign * number > 0.0 or (number and (reaction.backward is not None or reaction.forward is None))
        )

    def beyond_tables(self, low: float, high: float) -> dict[str, str]:
        """By the name of the reaction, what is to be said where constants are used beyond their tables between two temperatures (K).

        >>> from wattaxis.reactions import Tabulated
        >>> law = RateLaw(PowerLaw({"a": 1.0}), Tabulated((300.0, 350.0), (1.0, 2.0)))
        >>> ReactionSet("Main", (Reaction("R1", {"a": -1.0, "b": 1.0}, forward=law),)).beyond_tables(310.0, 400.0)["R1"]
        'Its constants are tabulated from 300 to 350 K and used from 310 to 400 K, where ln k goes straight on over 1/T.'
        """
        found = dict[str, str]()
        for reaction, law in [(r, law) for r in self.reactions for law in r.laws]:
            first, last = law.known_between
            if first > last:
                found[reaction.name] = "The tables of its constants have no temperature in common."
            elif low < first - _NEAR or high > last + _NEAR:
                used = f"used from {low:.5g} to {high:.5g} K" if high > low else f"used at {low:.5g} K"
                table = f"Its constants are tabulated from {first:.5g} to {last:.5g} K"
                found[reaction.name] = f"{table} and {used}, where ln k goes straight on over 1/T."
        return found
