"""Reactions as a document holds them: equations, rate laws with their constants as typed, in named sets."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, model_validator

from wattaxis.quantities import Quantity, QuantityError, to_si
from wattaxis.reactions import Arrhenius, PowerLaw, RateLaw, Reaction, ReactionSet
from wattaxis.reactions.kinetics import orders_of
from wattaxis.reactions.rates import Basis, Per
from wattaxis.reactions.reaction import Backward, ReactionPhase

if TYPE_CHECKING:
    from wattaxis.flowsheet.chemistry import Chemistry

Id = Annotated[str, Field(min_length=1, max_length=80)]
Finite = Annotated[float, Field(allow_inf_nan=False)]
Name = Annotated[str, Field(min_length=1, max_length=60)]
#: Reactions of a set at most: the tube's integrator solves equations of as many unknowns at every step.
MOST_REACTIONS = 60
#: Sets of a plant at most; every open page holds them all.
MOST_SETS = 40
#: Largest stoichiometric number.
LARGEST_NUMBER = 1e4


class _Part(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


class TypedRate(_Part):
    """A rate law as a product of powers, with its constant as typed.

    ``orders`` by component id: 0 is in the law and matters nothing, one left out is not in it. ``value`` and ``unit`` are the constant at
    ``reference`` (a temperature), or the factor before the exponential where there is none; ``energy`` the activation energy, blank for none.
    """

    orders: dict[Id, Finite] = Field(max_length=30)
    basis: Basis = "concentration"
    per: Per = "volume"
    value: Finite = Field(gt=0)
    unit: str = Field(max_length=40)
    energy: Quantity | None = None
    reference: Quantity | None = None
    power: Finite = Field(default=0.0, ge=-20, le=20)

    @model_validator(mode="after")
    def _fits(self) -> TypedRate:
        try:
            self.core()
        except QuantityError as error:
            raise ValueError(str(error)) from error
        return self

    @property
    def text(self) -> str:
        """The law with its constant, as typed."""
        law = orders_of(PowerLaw(dict(self.orders), self.basis, self.per))
        more = [f"E = {self.energy}"] if self.energy is not None else []
        more += [f"at {self.reference}"] if self.reference is not None else []
        more += [f"times T^{self.power:g}"] if self.power else []
        return ", ".join([f"r = {law}, k = {self.value:g} {self.unit}", *more])

    def core(self) -> RateLaw:
        """In SI units. Raises QuantityError where a unit does not fit, ValueError for anything else that no law has."""
        law = PowerLaw(dict(self.orders), self.basis, self.per)
        energy = 0.0 if self.energy is None else to_si(self.energy, "molar_enthalpy")
        reference = None if self.reference is None else to_si(self.reference, "temperature")
        return RateLaw(law, Arrhenius(law.constant_si(self.value, self.unit), energy, reference, self.power))


class TypedReaction(_Part):
    """A reaction: stoichiometric numbers by component id, negative for what is used up; how fast, and whether backward too.

    ``backward``: blank for one way, "thermodynamics" where the rate backward follows from the equilibrium constant, or a law of its own.
    """

    name: Name
    numbers: dict[Id, Annotated[Finite, Field(ge=-LARGEST_NUMBER, le=LARGEST_NUMBER)]] = Field(min_length=1, max_length=30)
    phase: ReactionPhase = "vapour"
    forward: TypedRate | None = None
    backward: TypedRate | Backward | None = None

    @model_validator(mode="after")
    def _whole(self) -> TypedReaction:
        self.core()
        return self

    @property
    def text(self) -> str:
        """Equation and laws, as typed."""
        backward = self.backward.text if isinstance(self.backward, TypedRate) else self.backward or ""
        laws = [self.forward.text if self.forward else "", f"backward: {backward}" if backward else ""]
        return "; ".join([f"{self.name}: {self.core().text} ({self.phase})", *filter(None, laws)])

    def core(self) -> Reaction:
        """As the reactors read it. Raises ValueError."""
        backward = self.backward.core() if isinstance(self.backward, TypedRate) else self.backward
        return Reaction(self.name, dict(self.numbers), self.phase, None if self.forward is None else self.forward.core(), backward)


def _one_a_name(reactions: tuple[TypedReaction, ...]) -> tuple[TypedReaction, ...]:
    if len({reaction.name for reaction in reactions}) < len(reactions):
        raise ValueError("two reactions of a set have the same name")
    return reactions


class TypedReactionSet(_Part):
    """Reactions under a name, for reactors to share; ``source`` says where they come from."""

    name: Name
    reactions: Annotated[tuple[TypedReaction, ...], AfterValidator(_one_a_name)] = Field(default=(), max_length=MOST_REACTIONS)
    source: str = Field(default="", max_length=400)

    def core(self) -> ReactionSet:
        """As the reactors read it."""
        return ReactionSet(self.name, tuple(reaction.core() for reaction in self.reactions))


def reaction_sets(chemistry: Chemistry) -> dict[str, ReactionSet]:
    """The reaction sets of a chemistry by name.

    >>> from wattaxis.flowsheet import Chemistry
    >>> reaction_sets(Chemistry())
    {}
    """
    return {of.name: of.core() for of in chemistry.reactions}
