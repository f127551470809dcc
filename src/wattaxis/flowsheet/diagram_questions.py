"""Questions about a chemistry that are answered by a diagram."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Annotated, Any, Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field, TypeAdapter, ValidationError, model_validator

from wattaxis.flowsheet.chemistry import Chemistry, Finite, Id, ModelName
from wattaxis.flowsheet.model import fluids, property_model, resolve
from wattaxis.properties import FlashError, diagrams
from wattaxis.properties.diagrams import Curve, Diagram, Mark
from wattaxis.quantities import Quantity, QuantityError, to_si
from wattaxis.substances import Solid

Fractions = Annotated[dict[Id, Annotated[float, Field(ge=0.0, le=1e9, allow_inf_nan=False)]], Field(min_length=1, max_length=200)]


class QuestionError(ValueError):
    """A question that has no answer; ``str()`` says why."""


class _Question(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)

    #: Another property model than the one of the chemistry, with what is known of its pairs.
    model: ModelName | None = None

    def parts(self) -> set[str] | None:
        """Ids of the components that matter; None for all."""
        return None


class _Pair(_Question):
    first: Id
    second: Id

    def parts(self) -> set[str] | None:
        return {self.first, self.second}


class _AtLevel(_Pair):
    pressure: Quantity | None = None
    temperature: Quantity | None = None

    @model_validator(mode="after")
    def _one(self) -> _AtLevel:
        if (self.pressure is None) == (self.temperature is None):
            raise ValueError("give the pressure or the temperature, one of them")
        return self

    def level(self) -> dict[str, float]:
        """P in Pa or T in K."""
        return {"P": to_si(self.pressure, "pressure")} if self.pressure is not None else {"T": to_si(_given(self.temperature), "temperature")}


class Boiling(_AtLevel):
    """Bubble and dew curve of two components."""

    kind: Literal["boiling"] = "boiling"


class VapourOverLiquid(_AtLevel):
    """y over x of two components."""

    kind: Literal["vapour_over_liquid"] = "vapour_over_liquid"


class Mixing(_Pair):
    """A property of the liquid of two components over its composition."""

    kind: Literal["mixing"] = "mixing"
    quantity: str = Field(max_length=40)
    temperature: Quantity


class Pure(_Question):
    """A property of one component over temperature."""

    kind: Literal["pure"] = "pure"
    component: Id
    quantity: str = Field(max_length=40)

    def parts(self) -> set[str] | None:
        return {self.component}


class _Mixture(_Question):
    fractions: Fractions

    def parts(self) -> set[str] | None:
        return {key for key, value in self.fractions.items() if value > 0.0}


class Table(_Mixture):
    """A property of a mixture over temperature, one curve a pressure."""

    kind: Literal["table"] = "table"
    quantity: str = Field(max_length=40)
    coldest: Quantity
    hottest: Quantity
    pressures: tuple[Quantity, ...] = Field(min_length=1, max_length=12)
    points: int = Field(default=41, ge=2, le=400)


class EnvelopeOf(_Mixture):
    """The phase envelope of a mixture, with its own temperature (K) and pressure (Pa) where it has some."""

    kind: Literal["envelope"] = "envelope"
    own: tuple[Finite, Finite] | None = None


class Azeotropes(_Question):
    """Every azeotrope at a pressure, of some components or of all."""

    kind: Literal["azeotropes"] = "azeotropes"
    pressure: Quantity
    components: tuple[Id, ...] | None = Field(default=None, min_length=1, max_length=30)

    def parts(self) -> set[str] | None:
        return None if self.components is None else set(self.components)


class AzeotropesOver(Azeotropes):
    """Every azeotrope from a pressure to a higher one."""

    kind: Literal["azeotropes_over"] = "azeotropes_over"  # type: ignore[assignment]
    highest: Quantity


class _Three(_Question):
    components: tuple[Id, Id, Id]
    #: What the fractions of the triangle count, those of ``through`` too.
    basis: Literal["mole", "mass"] = "mole"

    def parts(self) -> set[str] | None:
        return set(self.components)


class TwoLiquids(_Three):
    """The two-liquid region of three components."""

    kind: Literal["two_liquids"] = "two_liquids"
    temperature: Quantity


class Path(BaseModel):
    """Places in a triangle one after the other, by mole fractions, such as the liquids on the stages of a column."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    name: str = Field(max_length=80)
    places: tuple[tuple[Finite, Finite, Finite], ...] = Field(min_length=1, max_length=400)


class ResidueCurves(_Three):
    """The residue-curve map of three components; ``through`` adds curves through mole fractions, ``paths`` are drawn over it."""

    kind: Literal["residue_curves"] = "residue_curves"
    pressure: Quantity
    curves: int = Field(default=16, ge=0, le=60)
    through: tuple[tuple[Finite, Finite, Finite], ...] = Field(default=(), max_length=30)
    paths: tuple[Path, ...] = Field(default=(), max_length=4)

    @model_validator(mode="after")
    def _inside(self) -> ResidueCurves:
        if any(min(place) < 0.0 or sum(place) <= 0.0 for places in (self.through, *(path.places for path in self.paths)) for place in places):
            raise ValueError("a composition has no negative fractions, and one at least above zero")
        return self


Question = Annotated[
    Boiling | VapourOverLiquid | Mixing | Pure | Table | EnvelopeOf | Azeotropes | AzeotropesOver | TwoLiquids | ResidueCurves,
    Field(discriminator="kind"),
]
_ADAPTER: TypeAdapter[Any] = TypeAdapter(Question)


def question_from_json(data: Any) -> Any:
    """Check plain data as a question. Raises QuestionError."""
    try:
        return _ADAPTER.validate_python(data)
    except ValidationError as error:
        first = error.errors()[0]
        place = ".".join(str(part) for part in first["loc"][1:])
        text = first["msg"].removeprefix("Value error, ")
        raise QuestionError(f"{place}: {text}." if place else f"{text[:1].upper()}{text[1:]}.") from error


def draw(chemistry: Chemistry, question: Any) -> Diagram:
    """The diagram that answers a question about a chemistry. Raises QuestionError in words for people.

    >>> chemistry = Chemistry.model_validate({"components": [{"id": "water", "cas": "7732-18-5"}]})
    >>> draw(chemistry, question_from_json({"kind": "pure", "component": "water", "quantity": "vapour pressure"})).axes[1].kind
    'pressure'
    """
    try:
        alone = _solid_alone(chemistry, question)
        if alone is not None:
            return diagrams.solid_diagram(alone, question.quantity)
        return _DRAWN[question.kind](property_model(_concerned(chemistry, question)), question)
    except (FlashError, QuantityError, ValueError, KeyError) as error:
        raise QuestionError(str(error.args[0]) if error.args else str(error)) from error


def _concerned(chemistry: Chemistry, question: Any) -> Chemistry:
    """The chemistry of the components and the model in question: what a model lacks of the others does not matter."""
    parts = question.parts()
    unknown = (parts or set()) - {c.id for c in chemistry.components}
    if unknown:
        raise KeyError(f"{sorted(unknown)[0]} is not among the components.")
    kept = chemistry.model_copy(update={"model": question.model or chemistry.model})
    if parts is not None:
        kept = kept.model_copy(update={"components": tuple(c for c in chemistry.components if c.id in parts)})
    if parts is None or question.kind == "envelope":
        return fluids(kept)
    solids = [c.id for c in kept.components if c.is_solid]
    if solids and question.kind != "table":
        raise ValueError(f"{', '.join(solids)}: a conventional solid takes no part in the equilibrium of the fluid.")
    return kept


def _solid_alone(chemistry: Chemistry, question: Any) -> Solid | None:
    """The solid that a question about one component is about."""
    item = next((c for c in chemistry.components if c.is_solid and question.kind == "pure" and c.id == question.component), None)
    made = None if item is None else resolve(item)
    return made if isinstance(made, Solid) else None


def _given(quantity: Quantity | None) -> Quantity:
    assert quantity is not None  # the question was checked
    return quantity


def _boiling(model: Any, q: Boiling) -> Diagram:
    return diagrams.boiling_diagram(model, q.first, q.second, **q.level())


def _vapour_over_liquid(model: Any, q: VapourOverLiquid) -> Diagram:
    return diagrams.vapour_over_liquid(model, q.first, q.second, **q.level())


def _mixing(model: Any, q: Mixing) -> Diagram:
    return diagrams.mixing_diagram(model, q.first, q.second, q.quantity, T=to_si(q.temperature, "temperature"))


def _pure(model: Any, q: Pure) -> Diagram:
    return diagrams.pure_diagram(model, q.component, q.quantity)


def _feed(model: Any, fractions: dict[str, float]) -> np.ndarray:
    z = np.zeros(len(model.components))
    for key, value in fractions.items():
        if value > 0.0:
            z[model.index(key)] = value
    if z.sum() <= 0.0:
        raise ValueError("The mixture has no amount of any component.")
    return np.asarray(z / z.sum())


def _table(model: Any, q: Table) -> Diagram:
    low, high = to_si(q.coldest, "temperature"), to_si(q.hottest, "temperature")
    temperatures = np.linspace(low, high, q.points)
    pressures = [to_si(p, "pressure") for p in q.pressures]
    return diagrams.property_table(model, _feed(model, q.fractions), q.quantity, list(temperatures), pressures)


def _envelope(model: Any, q: EnvelopeOf) -> Diagram:
    known = {c.id for c in model.components}
    fractions = {key: value for key, value in q.fractions.items() if key in known or value <= 0.0}
    return diagrams.phase_envelope(model, _feed(model, fractions)).diagram(f"Phase envelope, {model.family.info.title}", q.own)


def _azeotropes(model: Any, q: Azeotropes) -> Diagram:
    p = to_si(q.pressure, "pressure")
    found = diagrams.azeotropes(model, p)
    axes = tuple(diagrams.Axis(c.name) for c in model.components)
    marks = tuple(Mark(s.kind, tuple(map(float, s.fractions)), s.stability, s.temperature) for s in found.points)
    return Diagram(f"Azeotropes at {p / 1e5:g} bar, {model.family.info.title}", axes, (), marks, found.notes)


def _azeotropes_over(model: Any, q: AzeotropesOver) -> Diagram:
    # Every step is a whole search, which takes long with many components.
    points = 11 if len(model.components) <= 3 else 7
    return diagrams.azeotropes_over(model, to_si(q.pressure, "pressure"), to_si(q.highest, "pressure"), points)


def _two_liquids(model: Any, q: TwoLiquids) -> Diagram:
    return _in_basis(model, q, diagrams.liquid_liquid_diagram(model, to_si(q.temperature, "temperature"), q.components))


def _residue_curves(model: Any, q: ResidueCurves) -> Diagram:
    through = np.array(q.through, dtype=float).reshape(-1, 3)
    if q.basis == "mass":
        through = _shares(through / _masses(model, q))
    drawn = diagrams.residue_curve_map(model, to_si(q.pressure, "pressure"), q.components, curves=q.curves, through=[tuple(row) for row in through])
    over = tuple(Curve(path.name, _shares(np.array(path.places, dtype=float)), "path") for path in q.paths)
    return _in_basis(model, q, replace(drawn, curves=(*drawn.curves, *over)))


def _masses(model: Any, q: _Three) -> np.ndarray:
    return np.array([model.molar_masses[model.index(name)] for name in q.components])


def _shares(amounts: np.ndarray) -> np.ndarray:
    """Rows that sum to one; rows of nan, which lift the pen, stay."""
    return np.asarray(amounts / amounts.sum(axis=1, keepdims=True))


def _in_basis(model: Any, q: _Three, drawn: Diagram) -> Diagram:
    """A triangle as it was asked for; a drawing in mole fractions turned to mass fractions."""
    if q.basis == "mole":
        return drawn
    masses = _masses(model, q)
    curves = tuple(replace(c, points=_shares(c.points * masses)) for c in drawn.curves)
    places = [_shares(np.array([m.place]) * masses)[0] if len(m.place) == 3 else m.place for m in drawn.marks]
    marks = tuple(replace(m, place=tuple(map(float, place))) for m, place in zip(drawn.marks, places, strict=True))
    return replace(drawn, title=f"{drawn.title}, by mass", curves=curves, marks=marks)


_DRAWN: dict[str, Callable[[Any, Any], Diagram]] = {
    "boiling": _boiling,
    "vapour_over_liquid": _vapour_over_liquid,
    "mixing": _mixing,
    "pure": _pure,
    "table": _table,
    "envelope": _envelope,
    "azeotropes": _azeotropes,
    "azeotropes_over": _azeotropes_over,
    "two_liquids": _two_liquids,
    "residue_curves": _residue_curves,
}
