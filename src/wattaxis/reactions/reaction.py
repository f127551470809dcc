"""A reaction with its rate laws, and named sets of reactions that several reactors share."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

from wattaxis.reactions.equation import equation_text
from wattaxis.reactions.rates import Arrhenius, PowerLaw

ReactionPhase = Literal["vapour", "liquid"]
Backward = Literal["thermodynamics"]


@dataclass(frozen=True)
class RateLaw:
    """A law and its constant.

    >>> RateLaw(PowerLaw({"a": 1.0}), Arrhenius(2.0)).law.order
    1.0
    """

    law: PowerLaw
    constant: Arrhenius


@dataclass(frozen=True)
class Reaction:
    """Stoichiometric numbers by component id, negative for what is used up, and how fast it goes in one phase.

    ``forward`` is None where only its equilibrium or extent matters. ``backward``: None for a reaction that goes one way, "thermodynamics" where the
    reverse rate follows from the equilibrium constant, or a law of its own. Raises ValueError for a reaction of nothing, and for a law backward
    without one forward.

    >>> law = RateLaw(PowerLaw({"2-butanol": 1.0}), Arrhenius(1.0))
    >>> Reaction("R1", {"2-butanol": -1.0, "butanone": 1.0, "hydrogen": 1.0}, "vapour", law, "thermodynamics").text
    '2-butanol = butanone + hydrogen'
    """

    name: str
    numbers: Mapping[str, float]
    phase: ReactionPhase = "vapour"
    forward: RateLaw | None = None
    backward: RateLaw | Backward | None = None

    def __post_init__(self) -> None:
        if not any(number < 0.0 for number in self.numbers.values()):
            raise ValueError(f"Reaction {self.name} uses nothing up.")
        if self.forward is None and isinstance(self.backward, RateLaw):
            raise ValueError(f"Reaction {self.name} has a rate backward and none forward.")

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
