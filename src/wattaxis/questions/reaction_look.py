"""What is to be seen of a reaction while it is written: its balance, its heat and equilibrium, and what its rate law and constant mean."""

from __future__ import annotations

from dataclasses import asdict, dataclass, field
from typing import TYPE_CHECKING, Annotated, Any, Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Discriminator, Field, Tag, ValidationError

from wattaxis.flowsheet.model import property_model, resolve
from wattaxis.flowsheet.reactions import ConstantTable, Finite, TypedExpression, TypedRate
from wattaxis.properties import FlashError
from wattaxis.quantities import QuantityError
from wattaxis.reactions import (
    Arrhenius,
    EquationError,
    Kinetics,
    KineticsError,
    PowerLaw,
    RateLaw,
    Reaction,
    ReactionSet,
    balanced,
    element_gaps,
    equation_text,
    read_equation,
    thermochemistry,
)
from wattaxis.reactions.expression import symbols_in
from wattaxis.reactions.rates import Adsorption, Basis, Per, adsorption_unit
from wattaxis.reactions.reaction import Law, ReactionPhase
from wattaxis.reactions.thermochemistry import T_REF, R

if TYPE_CHECKING:
    from wattaxis.flowsheet import Chemistry
    from wattaxis.properties import PropertyModel
    from wattaxis.substances import Component

#: Temperatures of the table and the plots, and Pa at which times are told.
POINTS, AT_PRESSURE = 15, 1e5


class AskedTerm(BaseModel):
    """A term of a denominator that is being written."""

    model_config = ConfigDict(extra="forbid")

    orders: dict[Annotated[str, Field(max_length=80)], Finite] = Field(default={}, max_length=6)
    value: Finite | None = None
    unit: str = Field(default="", max_length=40)
    energy: Any = None
    reference: Any = None
    table: Any = None

    @property
    def open(self) -> bool:
        """Whether nothing of its constant is typed yet."""
        return self.value is None and self.table is None


class AskedRate(AskedTerm):
    """A rate law that is being written: as :class:`TypedRate`, with all of its constant open."""

    orders: dict[Annotated[str, Field(max_length=80)], Finite] = Field(default={}, max_length=30)
    basis: Basis = "concentration"
    per: Per = "volume"
    power: Finite = 0.0
    adsorption: list[AskedTerm] = Field(default=[], max_length=12)
    adsorption_power: Finite = 1.0


class AskedConstant(AskedTerm):
    """A constant of an expression that is being written."""

    name: str = Field(default="", max_length=20)


class AskedExpression(BaseModel):
    """A rate law that is being written as an expression."""

    model_config = ConfigDict(extra="forbid")

    expression: str = Field(max_length=2000)
    constants: list[AskedConstant] = Field(default=[], max_length=30)
    per: Per = "volume"


def _asked_kind(law: Any) -> str:
    if isinstance(law, str):
        return "thermodynamics"
    return "expression" if isinstance(law, AskedExpression) or (isinstance(law, dict) and "expression" in law) else "powers"


_Asked = Annotated[AskedRate, Tag("powers")] | Annotated[AskedExpression, Tag("expression")]
AskedLaw = Annotated[_Asked, Discriminator(_asked_kind)]


class ReactionQuestion(BaseModel):
    """A reaction as it is being written, and between which temperatures (K) it is looked at."""

    model_config = ConfigDict(extra="forbid")

    text: str = Field(max_length=2000)
    phase: ReactionPhase = "vapour"
    forward: AskedLaw | None = None
    backward: Annotated[_Asked | Annotated[Literal["thermodynamics"], Tag("thermodynamics")], Discriminator(_asked_kind)] | None = None
    #: K; over the tables of its constants where there are some.
    low: float = Field(default=300.0, gt=0, le=5999)
    high: float = Field(default=1000.0, gt=0, le=6000)


@dataclass(frozen=True)
class LawLook:
    """A rate law and its constant: the law in letters, units that fit, the constant in SI units, E/R (K), constants (typed unit) by temperature.

    ``half_lives`` s by temperature: in which half of the scarcest reactant would be used up at the rate at the beginning, from the reactants alone in
    the proportions of the equation at 1 bar. ``problem``: why there is none of it.
    """

    law: str
    unit: str
    units: tuple[str, ...]
    constant_si: float | None = None
    energy_over_r: float | None = None
    constants: tuple[float | None, ...] = ()
    half_lives: tuple[float | None, ...] = ()
    doubts: tuple[str, ...] = ()
    problem: str = ""
    #: Of an expression: the names of its constants.
    symbols: tuple[str, ...] = ()
    #: Units of the constants of the denominator's terms, in their order.
    term_units: tuple[str, ...] = ()


@dataclass(frozen=True)
class ReactionLook:
    """Numbers and text of an equation, what does not balance and what would, heat (J/mol), Gibbs energy (J/mol) and ln K by temperature (K).

    Of what is only ever dissolved there are no Gibbs energies and constants.
    """

    problem: str = ""
    place: int = 0
    numbers: dict[str, float] = field(default_factory=dict)
    text: str = ""
    reversible: bool = True
    gap: str = ""
    balanced_text: str = ""
    heat_at_reference: float | None = None
    temperatures: tuple[float, ...] = ()
    heat: tuple[float, ...] = ()
    gibbs: tuple[float, ...] = ()
    log_constant: tuple[float, ...] = ()
    doubts: tuple[str, ...] = ()
    forward: LawLook | None = None
    backward: LawLook | None = None

    def to_data(self) -> dict[str, Any]:
        """Plain data."""
        return asdict(self)


def look_at_reaction(chemistry: Chemistry, asked: ReactionQuestion) -> ReactionLook:
    """What is to be said of a reaction over the components of a chemistry.

    >>> from wattaxis.flowsheet import Chemistry
    >>> parts = [{"id": "butane", "cas": "106-97-8"}, {"id": "1-butene", "cas": "106-98-9"}, {"id": "hydrogen", "cas": "1333-74-0"}]
    >>> look_at_reaction(Chemistry(components=parts), ReactionQuestion(text="butane = 1-butene + 2 hydrogen")).balanced_text
    'butane = 1-butene + hydrogen'
    """
    components = [resolve(item) for item in chemistry.components]
    try:
        equation = read_equation(asked.text, components)
    except EquationError as error:
        return ReactionLook(str(error), error.place)
    taken = [c for c in components if equation.numbers.get(c.id)]
    gaps = element_gaps(equation.numbers, taken)
    gap = ", ".join(f"{abs(n):g} {element} {'more' if n > 0 else 'less'}" for element, n in gaps.atoms.items())
    look: dict[str, Any] = {
        "numbers": equation.numbers,
        "text": equation_text(equation.numbers, reversible=equation.reversible),
        "reversible": equation.reversible,
        "gap": f"The products have {gap} than the reactants." if gap else "",
        "balanced_text": _balanced(equation.numbers, taken, equation.reversible) if gap else "",
    }
    doubts = [] if gaps.balanced else ["The equation does not balance, so these are not those of a reaction."]
    look |= _energies(equation.numbers, taken, asked, doubts)
    if gaps.unknown:
        look["doubts"] = (*look["doubts"], f"The formula of {', '.join(gaps.unknown)} is not known, so the elements are not checked.")
    temperatures = look["temperatures"]
    ground = _Ground(chemistry, equation.numbers, asked.phase, temperatures)
    return ReactionLook(
        **look,
        forward=ground.law(asked.forward) if asked.forward else None,
        backward=None if asked.backward is None or isinstance(asked.backward, str) else ground.law(asked.backward),
    )


def _balanced(numbers: dict[str, float], taken: list[Component], reversible: bool) -> str:
    by_id = {c.id: c for c in taken}
    used, formed = ([by_id[name] for name, n in numbers.items() if sign * n > 0.0] for sign in (-1.0, 1.0))
    try:
        found = balanced(used, formed)
    except ValueError:
        return ""
    return equation_text({name: float(n) for name, n in found.items()}, reversible=reversible)


def _shown_between(asked: ReactionQuestion) -> tuple[float, float]:
    """K between which the reaction is shown: as asked, or over the tables of its constants where there are some."""
    tables = []
    for law in (asked.forward, asked.backward):
        constants: list[AskedTerm] = [law, *law.adsorption] if isinstance(law, AskedRate) else list(getattr(law, "constants", ()))
        for constant in constants:
            try:
                tables.append(ConstantTable.model_validate(constant.table).core(1.0).temperatures)
            except ValueError:  # none, or not whole yet
                continue
    low, high = sorted((asked.low, asked.high))
    return min((table[0] for table in tables), default=low), max((table[-1] for table in tables), default=high)


def _energies(numbers: dict[str, float], taken: list[Component], asked: ReactionQuestion, doubts: list[str]) -> dict[str, Any]:
    low, high = _shown_between(asked)
    if asked.phase == "liquid":
        fluid = [c.critical_temperature for c in taken if not np.isnan(c.critical_temperature)]
        top = 0.98 * min(fluid, default=high)
        if high > top:
            high = top
            low = min(low, 0.5 * top)
            doubts = [*doubts, f"Above {top:.0f} K one of them is no liquid any more, so the table ends there."]
    temperatures = tuple(float(T) for T in np.linspace(low, max(high, low + 1.0), POINTS))
    try:
        at = thermochemistry(numbers, taken, [T_REF, *temperatures], "liquid" if asked.phase == "liquid" else "gas")
    except ValueError as error:
        return {"temperatures": temperatures, "doubts": (*doubts, str(error))}
    for name, what in at.outside:
        doubts = [*doubts, f"The {what} of {name} is used beyond its range."]
    heat, gibbs, constant = (tuple(float(v) for v in values[1:]) for values in (at.heat, at.gibbs, at.log_constant))
    if salts := [c.id for c in taken if c.only_dissolved and numbers.get(c.id)]:
        doubts = [*doubts, f"The formation data of {' and '.join(salts)} are those of a solution: they tell the heat, and no equilibrium constant."]
        gibbs = constant = ()
    found = {"temperatures": temperatures, "heat": heat, "gibbs": gibbs, "log_constant": constant}
    return {**found, "heat_at_reference": float(at.heat[0]), "doubts": tuple(doubts)}


def _made(kind: type[TypedRate] | type[TypedExpression], asked: BaseModel) -> Any:
    """The law in SI units, or what is wrong with it."""
    data = asked.model_dump()
    for constant in data.get("constants", ()):
        constant.pop("orders")
    try:
        return kind.model_validate(data).core()
    except ValidationError as error:
        first = error.errors()[0]["msg"].removeprefix("Value error, ")
        return first[0].upper() + first[1:]
    except (QuantityError, ValueError) as error:
        return str(error)


class _Ground:
    """What laws are looked at over: the components in the proportions of the equation at 1 bar and some temperatures."""

    def __init__(self, chemistry: Chemistry, numbers: dict[str, float], phase: ReactionPhase, temperatures: tuple[float, ...]) -> None:
        self.chemistry, self.numbers, self.phase, self.temperatures = chemistry, numbers, phase, temperatures

    def law(self, asked: AskedRate | AskedExpression) -> LawLook:
        return self._expression(asked) if isinstance(asked, AskedExpression) else self._powers(asked)

    def _powers(self, asked: AskedRate) -> LawLook:
        try:
            law = PowerLaw(dict(asked.orders), asked.basis, asked.per)
        except ValueError as error:
            return LawLook("", "", (), problem=str(error))
        terms = tuple(Adsorption(dict(term.orders), Arrhenius(1.0)) for term in asked.adsorption)
        written = RateLaw(law, Arrhenius(1.0), terms, asked.adsorption_power).text
        look: dict[str, Any] = {"law": f"r = {written}", "unit": law.constant_unit, "units": law.units()}
        look["term_units"] = tuple(adsorption_unit(asked.basis, term.order, "bar", "L") for term in terms)
        if asked.open or not asked.unit or any(term.open or not term.orders for term in asked.adsorption):
            return LawLook(**look)
        made = _made(TypedRate, asked)
        if isinstance(made, str):
            return LawLook(**look, problem=made)
        typed = law.constant_si(1.0, asked.unit)
        first, last = made.known_between
        look["constants"] = tuple(made.constant.at(T) / typed if first <= T <= last else None for T in self.temperatures)
        look["doubts"] = made.doubts
        if isinstance(made.constant, Arrhenius):
            look |= {"constant_si": made.constant.factor, "energy_over_r": made.constant.energy / R}
        return LawLook(**look, half_lives=self._half_lives(made))

    def _expression(self, asked: AskedExpression) -> LawLook:
        try:
            symbols = symbols_in(asked.expression)
        except ValueError as error:
            return LawLook("", "", (), problem=str(error))
        look: dict[str, Any] = {"law": f"r = {asked.expression.strip()}", "unit": "", "units": (), "symbols": symbols}
        given = {constant.name: constant for constant in asked.constants}
        if any(name not in given or given[name].open for name in symbols):
            return LawLook(**look)
        made = _made(TypedExpression, asked.model_copy(update={"constants": [given[name] for name in symbols]}))
        if isinstance(made, str):
            return LawLook(**look, problem=made)
        missing = [name for name in made.components if name not in {item.id for item in self.chemistry.components}]
        if missing:
            return LawLook(**look, problem=f"The plant has no component {', '.join(missing)}.")
        return LawLook(**look, half_lives=self._half_lives(made))

    def _half_lives(self, law: Law) -> tuple[float | None, ...]:
        if law.per != "volume":
            return ()
        used = {name: -n for name, n in self.numbers.items() if n < 0.0}
        try:
            model = property_model(self.chemistry).fluid
            made = Reaction("R", self.numbers, self.phase, law)
            kinetics = Kinetics(ReactionSet("S", (made,)), model)
            x = np.array([used.get(c.id, 0.0) for c in model.components])
            first, last = law.known_between
            return tuple(self._half_life(kinetics, model, x / x.sum(), T) if first <= T <= last else None for T in self.temperatures)
        except (KineticsError, FlashError, ValueError, KeyError):
            return ()

    def _half_life(self, kinetics: Kinetics, model: PropertyModel, x: np.ndarray, T: float) -> float | None:
        phase = model.phase(self.phase, T, AT_PRESSURE, x)
        rate = float(kinetics.rates(phase, T, AT_PRESSURE)[0])
        return 0.5 / (phase.molar_volume * rate * -float(kinetics.numbers[0].sum(where=kinetics.numbers[0] < 0.0))) if rate > 0.0 else None
