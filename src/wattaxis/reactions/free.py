"""Numbers of rate laws that a fit can set free: which they are, and a law with another value in their place."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Literal

from wattaxis.reactions.constants import Arrhenius, RateConstant, Tabulated
from wattaxis.reactions.expression import Constant, Expression
from wattaxis.reactions.rates import Adsorption
from wattaxis.reactions.reaction import Law, RateLaw, Reaction, ReactionSet

#: What of a rate law can be free.
Part = Literal["constant", "energy", "order"]


@dataclass(frozen=True)
class FreeRate:
    """A number of a rate law to be fitted.

    ``constant`` is "k", "K1", ... for the terms of the denominator, or the name of a constant of an expression; ``component`` that of an order.

    >>> FreeRate("R1", "energy").label, FreeRate("R1", "order", component="water").label
    ('E of k of R1', 'order of water in R1')
    """

    reaction: str
    part: Part = "constant"
    constant: str = "k"
    component: str = ""
    backward: bool = False

    @property
    def law(self) -> tuple[str, bool]:
        """Which law it is of: the reaction, and whether the law backward."""
        return self.reaction, self.backward

    @property
    def label(self) -> str:
        """As it is told."""
        of = f"{self.reaction}, backward" if self.backward else self.reaction
        if self.part == "order":
            return f"order of {self.component} in {of}"
        return f"{'E of ' if self.part == 'energy' else ''}{self.constant} of {of}"


def law_of(of: ReactionSet, f: FreeRate) -> Law:
    """The law that is meant. Raises ValueError where there is none."""
    for reaction in of.reactions:
        if reaction.name == f.reaction:
            law = reaction.backward if f.backward else reaction.forward
            if isinstance(law, RateLaw | Expression):
                return law
            raise ValueError(f"Reaction {f.reaction} has no law {'backward' if f.backward else 'forward'} of its own.")
    raise ValueError(f"There is no reaction {f.reaction} in {of.name}.")


def constant_at(of: ReactionSet, f: FreeRate, T: float) -> float:
    """The constant that is meant at T (K), in SI units. Raises ValueError where there is none."""
    constant, factor = constant_of(law_of(of, f), f)
    return factor * constant.at(T)


def of_one_law(first: FreeRate, second: FreeRate) -> bool:
    """Whether one is the constant and the other an order of one law."""
    return {first.part, second.part} == {"constant", "order"} and first.law == second.law


def constant_of(law: Law, f: FreeRate) -> tuple[Arrhenius, float]:
    """The constant that is meant, and SI units in one of its own. Raises ValueError where there is none, and for one that is a table."""
    constant, factor = _any_constant(law, f)
    if isinstance(constant, Tabulated):
        raise ValueError(
            f"{f.constant} of {f.reaction} is a table over temperature: give it a value and an activation energy, and they can be fitted."
        )
    return constant, factor


def _any_constant(law: Law, f: FreeRate) -> tuple[RateConstant, float]:
    if isinstance(law, Expression):
        if f.constant not in law.constants:
            raise ValueError(f"The law of {f.reaction} has no constant {f.constant}; it has {', '.join(law.constants) or 'none'}.")
        named = law.constants[f.constant]
        return named.value, named.factor
    if f.constant == "k":
        return law.constant, 1.0
    number = f.constant[1:]
    if f.constant[:1] == "K" and number.isdigit() and 0 < int(number) <= len(law.adsorption):
        return law.adsorption[int(number) - 1].constant, 1.0
    known = ["k", *(f"K{k + 1}" for k in range(len(law.adsorption)))]
    raise ValueError(f"The law of {f.reaction} has no constant {f.constant}; it has {', '.join(known)}.")


def with_constant(law: Law, f: FreeRate, made: Arrhenius) -> Law:
    """The law with another constant in the place of the one that is meant."""
    if isinstance(law, Expression):
        return Expression(law.text, {**law.constants, f.constant: Constant(made, law.constants[f.constant].unit)}, law.per)
    if f.constant == "k":
        return replace(law, constant=made)
    at = int(f.constant[1:]) - 1
    terms = [Adsorption(term.orders, made) if k == at else term for k, term in enumerate(law.adsorption)]
    return replace(law, adsorption=tuple(terms))


def number_of(of: ReactionSet, f: FreeRate) -> float:
    """The number that is meant: an order, an energy in J/mol, a constant in SI units as the law tells it. Raises ValueError where there is none."""
    law = law_of(of, f)
    if f.part == "order":
        return _orders(law, f)[f.component]
    constant, factor = constant_of(law, f)
    return constant.energy if f.part == "energy" else factor * constant.factor


def with_number(of: ReactionSet, f: FreeRate, value: float) -> ReactionSet:
    """The set with another value in the place of :func:`number_of`. Raises ValueError where there is none."""
    law = law_of(of, f)
    made: Law
    if f.part == "order":
        assert isinstance(law, RateLaw)
        made = replace(law, law=replace(law.law, orders={**_orders(law, f), f.component: value}))
    else:
        constant, factor = constant_of(law, f)
        made = with_constant(law, f, replace(constant, energy=value) if f.part == "energy" else replace(constant, factor=value / factor))
    return with_law(of, f, made)


def with_law(of: ReactionSet, f: FreeRate, law: Law) -> ReactionSet:
    """The set with another law in the place of :func:`law_of`."""

    def changed(reaction: Reaction) -> Reaction:
        return replace(reaction, backward=law) if f.backward else replace(reaction, forward=law)

    return ReactionSet(of.name, tuple(changed(reaction) if reaction.name == f.reaction else reaction for reaction in of.reactions))


def _orders(law: Law, f: FreeRate) -> Mapping[str, float]:
    if isinstance(law, Expression) or f.component not in law.law.orders:
        raise ValueError(f"The law of {f.reaction} has no order of {f.component or 'nothing'}.")
    return law.law.orders
