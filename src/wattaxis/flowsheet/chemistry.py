"""The chemistry of a document: components, property model, own pairs, measured data, fits and reactions."""

from __future__ import annotations

from itertools import pairwise
from typing import Annotated, Any, Literal

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, field_validator, model_validator

from wattaxis.flowsheet.data import KeptFit, Measured
from wattaxis.flowsheet.reactions import MOST_SETS, TypedReactionSet
from wattaxis.properties.registry import model_infos
from wattaxis.properties.vapour import IDEAL_GAS, VAPOURS
from wattaxis.quantities import Quantity, QuantityError, to_si
from wattaxis.substances.curves import CURVES

Id = Annotated[str, Field(min_length=1, max_length=80)]
Finite = Annotated[float, Field(allow_inf_nan=False)]


class Part(BaseModel):
    """Base of all parts: unknown fields are refused, never dropped."""

    model_config = ConfigDict(extra="forbid", frozen=True)


def one_a_name(parts: tuple[Any, ...]) -> tuple[Any, ...]:
    """Refuses two parts of one name."""
    if len({part.name for part in parts}) < len(parts):
        raise ValueError("two of them have the same name")
    return parts


class OwnComponent(Part):
    """A component whose constants were typed in or estimated, SI units. The heat capacity is a polynomial in T (K), J/(mol K).

    ``heat_capacity_range`` (K) is where it is believed. ``sources`` says where a constant comes from ("Tc", "Pc", "omega", "MW", "Tb", "Hf", "S0",
    "Cp").
    """

    molar_mass: Finite = Field(gt=0)
    critical_temperature: Finite = Field(gt=0)
    critical_pressure: Finite = Field(gt=0)
    acentric_factor: Finite = Field(gt=-1, lt=3)
    heat_capacity: tuple[Finite, Finite, Finite, Finite, Finite]
    formation_enthalpy: Finite = 0.0
    entropy: Finite = 0.0
    formula: str = Field(default="", max_length=40)
    boiling_point: Finite | None = Field(default=None, gt=0)
    heat_capacity_range: tuple[Finite, Finite] | None = None
    sources: dict[str, Annotated[str, Field(max_length=120)]] = Field(default={}, max_length=20)


class OwnSolid(Part):
    """A conventional solid whose constants were typed in, SI units: c0 + c1 T + c2 T2 + c3 T3 + c4/T2 is the heat capacity of the crystal, J/(mol K).

    Enthalpy of formation and entropy are those of the crystal at 298.15 K.
    """

    molar_mass: Finite = Field(gt=0)
    density: Finite = Field(gt=0)
    heat_capacity: tuple[Finite, Finite, Finite, Finite, Finite]
    formation_enthalpy: Finite = 0.0
    entropy: Finite = 0.0
    formula: str = Field(default="", max_length=40)
    sources: dict[str, Annotated[str, Field(max_length=120)]] = Field(default={}, max_length=20)


class OwnDissolved(Part):
    """A substance that there is dissolved alone, such as a salt as a whole: it does not boil, and takes part in no equilibrium of phases.

    SI units. ``formation_enthalpy`` and ``entropy`` are those of the solute at 298.15 K, ``heat_capacity`` (J/(mol K), often negative) and
    ``density`` (kg/m3) what it adds to the solution.
    """

    molar_mass: Finite = Field(gt=0)
    formation_enthalpy: Finite = 0.0
    entropy: Finite = 0.0
    heat_capacity: Finite = 0.0
    density: Finite = Field(default=2500.0, gt=0)
    formula: str = Field(default="", max_length=40)
    sources: dict[str, Annotated[str, Field(max_length=120)]] = Field(default={}, max_length=20)


#: Constants of the bank that may be replaced, with their kinds of quantity; the density is that of solids.
CONSTANTS = {
    "molar_mass": "molar_mass",
    "critical_temperature": "temperature",
    "critical_pressure": "pressure",
    "acentric_factor": "number",
    "boiling_point": "temperature",
    "formation_enthalpy": "molar_enthalpy",
    "entropy": "molar_entropy",
    "density": "density",
}
ConstantName = Literal[
    "molar_mass", "critical_temperature", "critical_pressure", "acentric_factor", "boiling_point", "formation_enthalpy", "entropy", "density"
]
#: Constants that a conventional solid has.
OF_SOLIDS = ("molar_mass", "formation_enthalpy", "entropy", "density")


class OwnVapourPressure(Part):
    """A vapour pressure by Antoine's equation, ln(P/Pa) = a - b/(T + c), T in K, believed from ``low`` to ``high`` (K)."""

    a: Finite
    b: Finite = Field(gt=0)
    c: Finite
    low: Finite = Field(gt=0)
    high: Finite = Field(gt=0)
    source: str = Field(default="typed in", max_length=200)

    @model_validator(mode="after")
    def _has_values(self) -> OwnVapourPressure:
        if not self.low < self.high or self.low + self.c <= 0.0:
            raise ValueError("a vapour pressure is valid from a lower to a higher temperature, both above the pole at -c")
        return self


#: The one curve of one's own that enters energies: it is fitted to the form of the bank's.
GAS_HEAT_CAPACITY = "ideal-gas heat capacity"
OWN_CURVES = {GAS_HEAT_CAPACITY: "molar_entropy", **CURVES}


class TypedCurve(Part):
    """Points of a property over temperature, as typed: rows of (temperature, value) in the units beside them."""

    temperature_unit: str = Field(default="K", max_length=20)
    unit: str = Field(max_length=20)
    rows: tuple[tuple[Finite | None, Finite | None], ...] = Field(min_length=1, max_length=60)
    source: str = Field(default="typed in", max_length=200)

    def si(self, kind: str) -> tuple[tuple[float, float], ...]:
        """(K, value in SI) of the complete rows by rising temperature. Raises QuantityError for a unit of another kind."""
        whole = [
            (to_si(Quantity(value=t, unit=self.temperature_unit), "temperature"), to_si(Quantity(value=v, unit=self.unit), kind))
            for t, v in self.rows
            if t is not None and v is not None
        ]
        return tuple(sorted(whole))


class DocumentComponent(Part):
    """A component of the plant: from the bank by CAS number, some constants replaced by ``overrides``; or an own one.

    ``solid``: a conventional solid beside the fluid, from the bank of solids, or an ``own_solid``; ``own_dissolved``: of the fluid, and only ever
    dissolved in it. ``price`` is what it is worth by mass. A
    ``vapour_pressure`` of one's own counts in ideal and activity models; ``curves`` take the place of the bank's over temperature. ``stands_for`` is
    what it stands in for on purpose.
    """

    id: Id
    cas: str = Field(default="", max_length=20)
    own: OwnComponent | None = None
    overrides: dict[ConstantName, Quantity] = {}
    solid: Literal[True] | None = None
    own_solid: OwnSolid | None = None
    own_dissolved: OwnDissolved | None = None
    price: Quantity | None = None
    vapour_pressure: OwnVapourPressure | None = None
    stands_for: str = Field(default="", max_length=120)
    curves: dict[str, TypedCurve] = {}

    @property
    def is_own(self) -> bool:
        """Whether no bank has it."""
        return self.own is not None or self.own_solid is not None or self.own_dissolved is not None

    @property
    def is_solid(self) -> bool:
        """Whether it is a conventional solid."""
        return self.solid is not None or self.own_solid is not None

    @field_validator("price")
    @classmethod
    def _priced(cls, price: Quantity | None) -> Quantity | None:
        try:
            _ = price and to_si(price, "price")
        except QuantityError as error:
            raise ValueError(str(error)) from error
        return price

    @model_validator(mode="after")
    def _one_origin(self) -> DocumentComponent:
        if sum(part is not None for part in (self.own, self.own_solid, self.own_dissolved, self.solid)) > 1:
            raise ValueError(f"{self.id} is either from the bank, an own component, an own solid, or dissolved alone")
        if self.own_dissolved is not None and (self.vapour_pressure is not None or self.overrides):
            raise ValueError(f"{self.id} is only ever dissolved, and has no vapour pressure and no constants of a gas")
        if self.is_solid and (self.vapour_pressure is not None or self.curves):
            raise ValueError(f"{self.id} is a solid and has no vapour pressure and no curves of a fluid")
        for name in self.overrides:
            if (name not in OF_SOLIDS) if self.is_solid else name == "density":
                raise ValueError(f"{self.id} is {'a solid' if self.is_solid else 'no solid'} and has no {name.replace('_', ' ')} of its own")
        return self

    @field_validator("curves")
    @classmethod
    def _drawn(cls, curves: dict[str, TypedCurve]) -> dict[str, TypedCurve]:
        for name, curve in curves.items():
            if name not in OWN_CURVES:
                raise ValueError(f'there is no curve "{name}"; there are {", ".join(OWN_CURVES)}')
            try:
                points = curve.si(OWN_CURVES[name])
            except QuantityError as error:
                raise ValueError(f"{name}: {error}") from error
            if not points or any(a[0] == b[0] for a, b in pairwise(points)) or any(value <= 0.0 for _, value in points):
                raise ValueError(f"{name}: give at least one point, each at another temperature and with a value above zero")
        return curves

    @field_validator("overrides")
    @classmethod
    def _understood(cls, values: dict[ConstantName, Quantity]) -> dict[ConstantName, Quantity]:
        for name, value in values.items():
            try:
                to_si(value, CONSTANTS[name])
            except QuantityError as error:
                raise ValueError(f"{name.replace('_', ' ')}: {error}") from error
        return values


def _known_model(name: str) -> str:
    if name not in model_infos():
        raise ValueError(f"there is no property model {name!r}; there are {', '.join(model_infos())}")
    return name


ModelName = Annotated[str, Field(max_length=40), AfterValidator(_known_model)]


def _known_vapour(name: str) -> str:
    if name not in VAPOURS:
        raise ValueError(f"there is no vapour {name!r}; there are {', '.join(VAPOURS)}")
    return name


VapourName = Annotated[str, Field(max_length=40), AfterValidator(_known_vapour)]
#: Where a pair parameter comes from, as it is marked wherever it matters.
Quality = Literal["typed in", "measured fit", "estimated"]


class Pair(Part):
    """Own interaction parameters of a pair for one property model, by the names that the model gives them."""

    first: Id
    second: Id
    model: ModelName
    values: dict[str, Finite] = Field(min_length=1, max_length=20)
    source: str = Field(default="typed in", max_length=200)
    quality: Quality = "typed in"

    @model_validator(mode="after")
    def _known_values(self) -> Pair:
        known = {p.name: p for p in model_infos()[self.model].parameters}
        for name, value in self.values.items():
            if name not in known:
                raise ValueError(f"{model_infos()[self.model].title} has no pair parameter {name!r}; it has {', '.join(known) or 'none'}")
            if not known[name].low <= value <= known[name].high:
                raise ValueError(f"{name} lies between {known[name].low:g} and {known[name].high:g}, not at {value:g}")
        return self


#: Components of a plant at most.
MOST_COMPONENTS = 120


class Chemistry(Part):
    """Components, property model, own pair parameters, measured data, the fits that were kept, and reactions.

    ``vapour`` counts for activity models, ``translated`` (volumes shifted to the density of each pure liquid) for cubic equations.
    """

    components: tuple[DocumentComponent, ...] = ()
    model: ModelName = "peng-robinson"
    vapour: VapourName = IDEAL_GAS
    translated: bool = True
    pairs: tuple[Pair, ...] = ()
    data: Annotated[tuple[Measured, ...], AfterValidator(one_a_name)] = Field(default=(), max_length=60)
    fits: Annotated[tuple[KeptFit, ...], AfterValidator(one_a_name)] = Field(default=(), max_length=60)
    reactions: Annotated[tuple[TypedReactionSet, ...], AfterValidator(one_a_name)] = Field(default=(), max_length=MOST_SETS)

    @field_validator("components")
    @classmethod
    def _unique(cls, components: tuple[DocumentComponent, ...]) -> tuple[DocumentComponent, ...]:
        ids = [c.id for c in components]
        if len(set(ids)) < len(ids):
            raise ValueError("two components have the same id")
        if len(ids) > MOST_COMPONENTS:
            raise ValueError(f"a plant has at most {MOST_COMPONENTS} components, since what their pairs need grows with the square of their number")
        return components
