"""Reactions as a document holds them: equations, rate laws with their constants as typed, in named sets."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, Any, Self

from pydantic import AfterValidator, BaseModel, ConfigDict, Discriminator, Field, Tag, model_validator

from wattaxis.quantities import Quantity, QuantityError, from_si, to_si
from wattaxis.quantities.arithmetic import LONGEST
from wattaxis.quantities.quantity import dimension
from wattaxis.reactions import Adsorption, Arrhenius, Constant, Expression, PowerLaw, RateLaw, Reaction, ReactionSet, Tabulated
from wattaxis.reactions.constants import RateConstant
from wattaxis.reactions.expression import OF_THE_MIXTURE
from wattaxis.reactions.rates import Basis, Per, adsorption_si
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
#: Temperatures of the table of a constant at most.
MOST_POINTS = 60
#: Largest stoichiometric number.
LARGEST_NUMBER = 1e4


class _Part(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


Orders = dict[Id, Finite]


class ConstantTable(_Part):
    """A constant as it was measured: temperatures in ``temperature_unit``, each with the constant in the unit of the constant."""

    temperature_unit: str = Field(max_length=20)
    rows: tuple[tuple[Finite, Finite], ...] = Field(min_length=2, max_length=MOST_POINTS)

    def core(self, factor: float) -> Tabulated:
        """``factor``: SI units in one of the constant's. Raises QuantityError for a unit that is none of a temperature, ValueError for no curve."""
        temperatures = [to_si(Quantity(value=T, unit=self.temperature_unit), "temperature") for T, _ in self.rows]
        return Tabulated(tuple(temperatures), tuple(factor * k for _, k in self.rows))


class _TypedConstant(_Part):
    """A constant over temperature: a ``value`` with an ``energy`` (blank for none), or a ``table``.

    The value is that at ``reference`` (a temperature), or the factor before the exponential where there is none.
    """

    value: Annotated[float, Field(allow_inf_nan=False, gt=0)] | None = None
    unit: str = Field(default="", max_length=40)
    energy: Quantity | None = None
    reference: Quantity | None = None
    table: ConstantTable | None = None

    @model_validator(mode="after")
    def _one_way(self) -> Self:
        if self.value is None and self.table is None:
            raise ValueError("a constant has a value or a table over temperature")
        if self.table is not None and any(part is not None for part in (self.value, self.energy, self.reference)):
            raise ValueError("a constant with a table over temperature has no value, energy or temperature beside it")
        return self

    def _constant(self, factor: float = 1.0, power: float = 0.0) -> RateConstant:
        """``factor``: SI units in one of its own."""
        if self.table is not None:
            return self.table.core(factor)
        energy = 0.0 if self.energy is None else to_si(self.energy, "molar_enthalpy")
        reference = None if self.reference is None else to_si(self.reference, "temperature")
        return Arrhenius(factor * (self.value or 0.0), energy, reference, power)

    def _told(self, name: str) -> list[str]:
        if self.table is not None:
            low, high = (f"{edge:g}" for edge in (min(T for T, _ in self.table.rows), max(T for T, _ in self.table.rows)))
            return [f"{name} in {self.unit or 'no unit'} from a table, {low} to {high} {self.table.temperature_unit}"]
        value = [f"{name} = {self.value:g} {self.unit}".rstrip()]
        more = [f"E = {self.energy}"] if self.energy is not None else []
        return value + more + ([f"at {self.reference}"] if self.reference is not None else [])


class TypedTerm(_TypedConstant):
    """A term of the denominator of a rate law: its constant times a product of powers. ``energy``: with which it rises; negative where it binds."""

    orders: Orders = Field(min_length=1, max_length=6)

    def core(self, basis: Basis) -> Adsorption:
        """In SI units. Raises QuantityError where the unit does not fit."""
        made = Adsorption(dict(self.orders), Arrhenius(1.0))
        return Adsorption(made.orders, self._constant(adsorption_si(1.0, self.unit, basis, made.order)))


class TypedRate(_TypedConstant):
    """A rate law as a product of powers, with its constant as typed.

    ``orders`` by component id: 0 is in the law and matters nothing, one left out is not in it. ``power``: of temperature, beside the exponential.
    With ``adsorption`` it is divided by ``(1 + sum of the terms)**adsorption_power``.
    """

    orders: Orders = Field(max_length=30)
    basis: Basis = "concentration"
    per: Per = "volume"
    unit: str = Field(max_length=40)
    power: Finite = Field(default=0.0, ge=-20, le=20)
    adsorption: tuple[TypedTerm, ...] = Field(default=(), max_length=12)
    adsorption_power: Finite = Field(default=1.0, ge=0, le=6)

    @model_validator(mode="after")
    def _fits(self) -> TypedRate:
        if self.table is not None and self.power:
            raise ValueError("a constant with a table over temperature has no power of temperature beside it")
        try:
            self.core()
        except QuantityError as error:
            raise ValueError(str(error)) from error
        return self

    @property
    def text(self) -> str:
        """The law with its constants, as typed."""
        more = [f"times T^{self.power:g}"] if self.power else []
        terms = [told for k, t in enumerate(self.adsorption, 1) for told in t._told(f"K{k}")]
        return ", ".join([f"r = {self.core().text}", *self._told("k"), *more, *terms])

    def core(self) -> RateLaw:
        """In SI units. Raises QuantityError where a unit does not fit, ValueError for anything else that no law has."""
        law = PowerLaw(dict(self.orders), self.basis, self.per)
        constant = self._constant(law.constant_si(1.0, self.unit), self.power)
        return RateLaw(law, constant, tuple(term.core(self.basis) for term in self.adsorption), self.adsorption_power)


class TypedConstant(_TypedConstant):
    """A constant of an expression, by its name."""

    name: Annotated[str, Field(pattern=r"^[A-Za-z][A-Za-z0-9_]{0,19}$")]

    def core(self) -> Constant:
        """In its unit. Raises QuantityError where that is none."""
        if self.unit:
            dimension(self.unit)
        return Constant(self._constant(), self.unit)


class TypedExpression(_Part):
    """A rate law as it is written in ordinary arithmetic: ``k * p[A] / (1 + K * p[B])``, with its constants as typed."""

    expression: Annotated[str, Field(min_length=1, max_length=LONGEST)]
    constants: tuple[TypedConstant, ...] = Field(default=(), max_length=30)
    per: Per = "volume"

    @model_validator(mode="after")
    def _fits(self) -> TypedExpression:
        names = [constant.name for constant in self.constants]
        if len(set(names)) < len(names):
            raise ValueError("two constants have the same name")
        if taken := [name for name in names if name in OF_THE_MIXTURE]:
            raise ValueError(f"{taken[0]} is the {'temperature' if taken[0] == 'T' else 'pressure'} of the mixture; give the constant another name")
        try:
            self.core()
        except QuantityError as error:
            raise ValueError(str(error)) from error
        return self

    @property
    def text(self) -> str:
        """The law with its constants, as typed."""
        return ", ".join([f"r = {self.expression}", *(told for c in self.constants for told in c._told(c.name))])

    def core(self) -> Expression:
        """As the reactors read it. Raises QuantityError where dimensions do not fit, FormulaError for what cannot be read."""
        return Expression(self.expression, {constant.name: constant.core() for constant in self.constants}, self.per)


def _which(law: Any) -> str:
    """Which kind of law is meant, so that what is wrong with it is told of that kind alone."""
    if isinstance(law, str):
        return "thermodynamics"
    return "expression" if isinstance(law, TypedExpression) or (isinstance(law, dict) and "expression" in law) else "powers"


_Law = Annotated[TypedRate, Tag("powers")] | Annotated[TypedExpression, Tag("expression")]
TypedLaw = Annotated[_Law, Discriminator(_which)]
TypedBackward = Annotated[_Law | Annotated[Backward, Tag("thermodynamics")], Discriminator(_which)]


class TypedReaction(_Part):
    """A reaction: stoichiometric numbers by component id, negative for what is used up; how fast, and whether backward too.

    ``backward``: blank for one way, "thermodynamics" where the rate backward follows from the equilibrium constant, or a law of its own.
    """

    name: Name
    numbers: dict[Id, Annotated[Finite, Field(ge=-LARGEST_NUMBER, le=LARGEST_NUMBER)]] = Field(min_length=1, max_length=30)
    phase: ReactionPhase = "vapour"
    forward: TypedLaw | None = None
    backward: TypedBackward | None = None

    @model_validator(mode="after")
    def _whole(self) -> TypedReaction:
        self.core()
        return self

    @property
    def text(self) -> str:
        """Equation and laws, as typed."""
        backward = self.backward or "" if self.backward is None or isinstance(self.backward, str) else self.backward.text
        laws = [self.forward.text if self.forward else "", f"backward: {backward}" if backward else ""]
        return "; ".join([f"{self.name}: {self.core().text} ({self.phase})", *filter(None, laws)])

    def core(self) -> Reaction:
        """As the reactors read it. Raises ValueError."""
        backward = self.backward if self.backward is None or isinstance(self.backward, str) else self.backward.core()
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


def typed_with(typed: TypedReaction, now: Reaction) -> TypedReaction:
    """A reaction as typed, with the constants and orders of ``now``: in the units in which they were typed, where these still fit."""
    sides: dict[str, Any] = {}
    for side in ("forward", "backward"):
        before, law = getattr(typed, side), getattr(now, side)
        if isinstance(before, TypedRate) and isinstance(law, RateLaw):
            sides[side] = _typed_rate(before, law)
        elif isinstance(before, TypedExpression) and isinstance(law, Expression):
            constants = [c.model_copy(update=_constant_with(c, law.constants[c.name].value, 1.0)) for c in before.constants]
            sides[side] = before.model_copy(update={"constants": tuple(constants)})
    return TypedReaction.model_validate({**dict(typed), **sides})


def typed_constant(law: TypedRate | TypedExpression, name: str) -> TypedRate | TypedTerm | TypedConstant:
    """A constant of a law: "k", "K1" and so on, or by the name that it has in an expression."""
    if isinstance(law, TypedExpression):
        return next(constant for constant in law.constants if constant.name == name)
    return law if name == "k" else law.adsorption[int(name[1:]) - 1]


def _typed_rate(before: TypedRate, law: RateLaw) -> TypedRate:
    was = before.core()
    unit = before.unit if was.law.order == law.law.order else law.law.constant_unit
    terms = [
        term.model_copy(update=_constant_with(term, new.constant, adsorption_si(1.0, term.unit, before.basis, new.order), old.constant))
        for term, new, old in zip(before.adsorption, law.adsorption, was.adsorption, strict=True)
    ]
    same = None if unit != before.unit else was.constant
    constant = _constant_with(before, law.constant, law.law.constant_si(1.0, unit), same)
    orders = {name: float(f"{order:.6g}") if order != was.law.orders[name] else order for name, order in law.law.orders.items()}
    return before.model_copy(update={"orders": orders, "unit": unit, "adsorption": tuple(terms), **constant})


def _constant_with(before: _TypedConstant, now: RateConstant, factor: float, was: RateConstant | None = None) -> dict[str, Any]:
    """Value, energy and reference in the units that were typed; ``factor`` is the SI value of one of them. Nothing where nothing changed."""
    if now == (was or before._constant()) or not isinstance(now, Arrhenius):
        return {}
    hot = "K" if before.reference is None else before.reference.unit
    unit = "kJ/mol" if before.energy is None else before.energy.unit
    energy = None if now.energy == 0.0 and before.energy is None else Quantity(value=float(f"{from_si(now.energy, unit):.10g}"), unit=unit)
    reference = None if now.reference is None else Quantity(value=float(f"{from_si(now.reference, hot):.10g}"), unit=hot)
    return {"value": float(f"{now.factor / factor:.10g}"), "energy": energy, "reference": reference}


def reaction_sets(chemistry: Chemistry) -> dict[str, ReactionSet]:
    """The reaction sets of a chemistry by name.

    >>> from wattaxis.flowsheet import Chemistry
    >>> reaction_sets(Chemistry())
    {}
    """
    return {of.name: of.core() for of in chemistry.reactions}
