"""Crystalliser: solids form from a solution, or dissolve in it, until it is saturated."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

import numpy as np

from wattaxis.properties.state import Vector
from wattaxis.quantities import Quantity, to_si
from wattaxis.reactions import KineticsError, Reaction, ReactionSet
from wattaxis.reactions.solubility import Saturation
from wattaxis.substances import Solid
from wattaxis.unitops.base import (
    Ask,
    Choice,
    Field,
    Finding,
    Givens,
    ResultValue,
    StreamState,
    UnitFault,
    UnitOperation,
    UnitResult,
    UnitSpec,
    outlet_pressure,
)
from wattaxis.unitops.pressures import OUTLET_OR_CHANGE
from wattaxis.unitops.profile import Profile, ProfileMark, column
from wattaxis.unitops.reaction.equilibrating import guarded
from wattaxis.unitops.reaction.kinetic import REACTIONS
from wattaxis.unitops.reaction.leaving import PORTS, STATE_CHOICES, STATE_FIELDS, Leaving, LeavingSpec, conversions, nothing_reacts, rounded_masses
from wattaxis.unitops.registry import unit_operation
from wattaxis.unitops.solids.laden import parts_of
from wattaxis.unitops.table import Column, GivenTable

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel

REACTION = Column("reaction", "Reaction", "reaction", "by which a solid forms from what is dissolved")
TEMPERATURE = Column("temperature", "At", "temperature", "the temperature at which it holds")
SOLUBILITY = Column("solubility", "Solubility", "share", "kg of what dissolves by kg of solvent; or the product", unit="%")
PRODUCT = Column("product", "Product", "number", "of molalities, mol/kg of solvent, to their stoichiometric numbers; or the solubility")
#: How the solubilities between the points are found.
THROUGH, FITTED = "through the points", "fitted"
#: Points that a fit needs, and those from which on the curve may bend; deviation of a solubility from its curve that is worth a caution.
_FEWEST, _BENDING, _OFF = 3, 4, 0.05
#: Rows of the solubility curve.
ROWS = 25
#: Share of the feed below which there is no liquid solvent.
_DRY = 1e-11

CURVE = Choice("Curve of the solubilities", ("curve",), 1, ("curve", THROUGH, "no fit was asked for"))


class CrystalliserSpec(LeavingSpec):
    """Reactions, solvent, solubilities, how they go between the points; outlet temperature or duty, pressure."""

    reactions: str | None = None
    solvent: str | None = None
    solubilities: GivenTable | None = None
    curve: str | None = None


@unit_operation
class Crystalliser(UnitOperation):
    """Crystallisation, precipitation or dissolution to saturation."""

    type = "crystalliser"
    title = "Crystalliser"
    symbol = "reactor"
    letter = "D"
    also = ("precipitator", "dissolver", "crystallisation", "solubility")
    family = "solids"
    theory = (
        "Each reaction of the set forms one solid from what is dissolved, or dissolves it. The solid leaves a saturated solution behind, or is "
        "absent where it is not. Saturation follows from the given solubility or product of molalities, whose logarithm is linear in 1/T between "
        "the given temperatures, or fitted to all of them by least squares as A + B/T, with C ln T from four points on (Apelblat, Manzurola 1999). "
        "The solution is otherwise ideally diluted: other salts do not change a solubility unless they are in its product. "
        "What evaporates at the outlet is taken from the solvent first. Heats are those of the enthalpies of formation."
    )
    Spec = CrystalliserSpec
    ports = PORTS
    fields = (
        REACTIONS,
        Field("solvent", "Solvent", "component", "by whose mass solubilities and molalities count"),
        Field("solubilities", "Solubilities", "table", "of each reaction, at one or more temperatures",
              columns=(REACTION, TEMPERATURE, SOLUBILITY, PRODUCT), most=200),
        Field("curve", "Curve of the solubilities", "option", "through the points, or smooth between measured ones", options=(THROUGH, FITTED)),
        *STATE_FIELDS,
    )  # fmt: skip
    pressures = (OUTLET_OR_CHANGE,)
    choices = (Choice("Reactions", ("reactions",)), Choice("Solvent", ("solvent",)), Choice("Solubilities", ("solubilities",)), CURVE, *STATE_CHOICES)

    def asks(self, tag: str, spec: UnitSpec, component_ids: Sequence[str], connected: frozenset[str]) -> list[Ask]:
        """The choices; in every row a reaction, a temperature, and a solubility or a product."""
        found = super().asks(tag, spec, component_ids, connected)
        table = getattr(spec, "solubilities", None)
        for number, row in enumerate(table.rows if isinstance(table, GivenTable) else (), 1):
            for wanted in ((REACTION,), (TEMPERATURE,), (SOLUBILITY, PRODUCT)):
                if not any(c.key in row.cells for c in wanted):
                    names = " or the ".join(c.title.lower() for c in wanted)
                    paths = tuple(f"solubilities[{row.id}].{c.key}" for c in wanted)
                    found.append(Ask(tag, f"{tag} needs the {names} in row {number} of its solubilities.", paths))
        return found

    def solve(self, givens: Givens, inlets: Mapping[str, Sequence[StreamState]], model: PropertyModel, outlets: frozenset[str]) -> UnitResult:
        """Saturation at the temperature, or at the one to which the heat leads."""
        inlet, of, solvent = inlets["inlet"][0], givens.reaction_set("reactions"), givens.option("solvent") or ""
        curves = _curves(givens, of, model, solvent)
        try:
            saturation = Saturation(model, of.reactions, [curve.log_product for curve in curves], solvent)
        except KineticsError as error:
            raise UnitFault(str(error), "Mend it under Chemistry, Reactions.", "reactions") from error
        P = outlet_pressure(givens, inlet.state.pressure)
        leaving = Leaving(givens, inlet, model, P, guarded(lambda T: saturation.at(inlet.flows, T, P)))
        state = leaving.outlet.state
        mass, findings = rounded_masses(model.molar_masses, inlet.flows, leaving.flows)
        why = "the solution is not saturated, and no solid comes with it."
        findings += nothing_reacts(inlet.flows, leaving.flows, why, "Cool it, evaporate solvent, or look at the solubilities.", "solubilities")
        findings += [finding for curve in curves for finding in [*curve.beyond(state.temperature), *curve.off()]]
        ids, change = [c.id for c in model.components], leaving.flows - inlet.flows
        _, liquid, _ = parts_of(leaving.outlet)
        if inlet.flow > 0.0 and not liquid[model.index(solvent)] > _DRY * inlet.flow:
            text = f"There is no liquid {solvent} left for anything to be dissolved in: everything that can is solid."
            findings.append(Finding("caution", "", text, "Evaporate less, or look at the feed.", "solvent"))
        values = []
        for curve, place, level in zip(curves, saturation.forms, saturation.logarithms(state), strict=True):
            made = float(change[place] * model.molar_masses[place])
            values.append(ResultValue("crystals", "Formed" if made >= 0.0 else "Dissolved", "mass_flow", abs(made), ids[place]))
            degree = math.exp(min(level - curve.log_product(state.temperature), 50.0))
            if curve.fit is not None:
                values.append(ResultValue("deviation", "Largest deviation from the curve", "fraction", curve.deviations.max(), ids[place]))
            values.append(ResultValue("saturation", "Saturation that is left", "share", degree ** (1.0 / curve.order), ids[place]))
        told = leaving.result([*values, *conversions(ids, inlet.flows, leaving.flows)], findings, mass)
        return replace(told, profiles=_profile(curves, state.temperature))


@dataclass(frozen=True)
class _Curve:
    """A reaction with ln of its product of molalities at temperatures (K), ascending; ``mass`` kg/mol of the one solute that its solubility counts.

    ``fit``: A, B and C of A + B/T + C ln T, by which it goes in the place of from point to point.
    """

    reaction: Reaction
    T: Vector
    logarithms: Vector
    order: float
    mass: float | None
    fit: Vector | None = None

    def log_product(self, T: float) -> float:
        """By the fit; or linear in 1/T between the points, beyond them as between the last two."""
        if self.fit is not None:
            return float(self.fit @ (1.0, 1.0 / T, math.log(T)))
        if len(self.T) == 1:
            return float(self.logarithms[0])
        k = min(max(int(np.searchsorted(self.T, T)) - 1, 0), len(self.T) - 2)
        share = (1.0 / T - 1.0 / self.T[k]) / (1.0 / self.T[k + 1] - 1.0 / self.T[k])
        return float(self.logarithms[k] + share * (self.logarithms[k + 1] - self.logarithms[k]))

    @property
    def deviations(self) -> Vector:
        """Shares by which the given solubilities lie off the curve, (points,)."""
        curve = np.array([self.log_product(float(t)) for t in self.T])
        return np.asarray(np.expm1(np.abs(self.logarithms - curve) / self.order))

    def off(self) -> list[Finding]:
        """What is to be said of points that the fit misses."""
        if self.fit is None or self.deviations.max() <= _OFF:
            return []
        k = int(self.deviations.argmax())
        text = f"The fitted solubility of {self.reaction.name} misses the one at {self.T[k]:.5g} K by {100 * self.deviations[k]:.2g} %."
        return [Finding("caution", "", text, f'Look at that point, or choose "{THROUGH}".', "solubilities")]

    def beyond(self, T: float) -> list[Finding]:
        """What is to be said of a temperature outside those that are given."""
        low, high = float(self.T[0]), float(self.T[-1])
        if low - 1.0 <= T <= high + 1.0:
            return []
        given = f"at {low:.5g} K alone" if low == high else f"from {low:.5g} to {high:.5g} K"
        text = f"The solubility of {self.reaction.name} is given {given}, and it is {T:.5g} K at the outlet: it is carried on from there."
        return [Finding("caution", "", text, "Give it at that temperature too.", "solubilities")]


def _curves(givens: Givens, of: ReactionSet, model: PropertyModel, solvent: str) -> list[_Curve]:
    if not of.reactions:
        raise UnitFault(f"The reaction set {of.name} is empty.", "Write its reactions under Chemistry.", "reactions")
    fitted = givens.option("curve") == FITTED
    points: dict[str, list[tuple[float, float]]] = {reaction.name: [] for reaction in of.reactions}
    known = {reaction.name: reaction for reaction in of.reactions}
    for row in givens.raw("solubilities").rows:
        name, hot, share, product = (row.cells.get(c.key) for c in (REACTION, TEMPERATURE, SOLUBILITY, PRODUCT))
        path = f"solubilities[{row.id}]"
        if name not in known:
            raise UnitFault(f'{of.name} has no reaction "{name}".', f"Choose one of {', '.join(known)}.", f"{path}.reaction")
        if share is not None and product is not None:
            raise UnitFault(f"A row of {name} has a solubility and a product; one settles it.", "Clear one of them.", f"{path}.product")
        assert isinstance(hot, Quantity)  # asked for otherwise
        T = to_si(hot, TEMPERATURE.kind)
        given = share if share is not None else product
        assert isinstance(given, Quantity)
        value = to_si(given, SOLUBILITY.kind if share is not None else PRODUCT.kind)
        if not value > 0.0:
            raise UnitFault(f"The solubility of {name} is not above 0.", "What does not dissolve at all has a small one, such as 1 ppm.", path)
        reaction = known[str(name)]
        level = math.log(value) if share is None else _of_solubility(reaction, value, model, solvent, f"{path}.solubility")
        if not fitted and any(other == T and level != there for other, there in points[reaction.name]):
            repair = f'Remove one of them, or choose "{FITTED}".'
            raise UnitFault(f"Two rows of {name} are of {T:.5g} K and differ.", repair, f"{path}.temperature")
        points[reaction.name].append((T, level))
    if lacking := [name for name, found in points.items() if not found]:
        raise UnitFault(f"{', '.join(lacking)} has no solubility.", "Add a row for it, or take it out of the set.", "solubilities")
    return [_curve(reaction, points[reaction.name], model, solvent, fitted) for reaction in of.reactions]


def _curve(reaction: Reaction, points: Sequence[tuple[float, float]], model: PropertyModel, solvent: str, fitted: bool) -> _Curve:
    T, logarithms = np.array(sorted(points if fitted else set(points))).T
    consumed = _solutes(reaction, model, solvent)
    alone = len(consumed) == 1 and not any(n for name, n in _beside(reaction, model, solvent).items() if name not in consumed)
    mass = float(model.molar_masses[model.index(next(iter(consumed)))]) if alone else None
    fit = _fit(reaction, T, logarithms) if fitted else None
    return _Curve(reaction, T, logarithms, max(sum(consumed.values()), 1e-300), mass, fit)


def _fit(reaction: Reaction, T: Vector, logarithms: Vector) -> Vector:
    """A, B and C of ln P = A + B/T + C ln T by least squares; C is 0 below four temperatures."""
    different = len(np.unique(T))
    if different < _FEWEST:
        text = f"A fitted curve needs {_FEWEST} temperatures or more, and {reaction.name} has {different}."
        raise UnitFault(text, f'Add measured solubilities, or choose "{THROUGH}".', "solubilities")
    middle = float(np.mean(T))
    terms = [np.ones(len(T)), 1.0 / T - 1.0 / middle, np.log(T / middle)][: 3 if different >= _BENDING else 2]
    a, b, *c = np.linalg.lstsq(np.column_stack(terms), logarithms, rcond=None)[0]
    bend = c[0] if c else 0.0
    return np.array([a - b / middle - bend * math.log(middle), b, bend])


def _beside(reaction: Reaction, model: PropertyModel, solvent: str) -> dict[str, float]:
    """Numbers of what is dissolved, the solid counted as formed."""
    solids = {c.id for c in model.components if isinstance(c, Solid)}
    sign = next((1.0 if n > 0.0 else -1.0 for name, n in reaction.numbers.items() if name in solids and n), 1.0)
    return {name: sign * n for name, n in reaction.numbers.items() if n and name not in solids and name != solvent}


def _solutes(reaction: Reaction, model: PropertyModel, solvent: str) -> dict[str, float]:
    """How much of what is dissolved a mole of reaction forms the solid from."""
    return {name: -n for name, n in _beside(reaction, model, solvent).items() if n < 0.0}


def _of_solubility(reaction: Reaction, share: float, model: PropertyModel, solvent: str, field: str) -> float:
    """ln of the product of molalities that belongs to a solubility (kg/kg)."""
    dissolved = _beside(reaction, model, solvent)
    if len(dissolved) != 1 or not _solutes(reaction, model, solvent):
        names = " and ".join(dissolved) or "nothing"
        text = f"A solubility is that of one substance, and {reaction.name} has {names} dissolved."
        raise UnitFault(text, "Give its solubility product.", field)
    ((name, number),) = dissolved.items()
    return -number * math.log(share / float(model.molar_masses[model.index(name)]))


def _profile(curves: Sequence[_Curve], outlet: float) -> tuple[Profile, ...]:
    """The solubilities over the temperatures that they are given at, with where the outlet is."""
    drawn = [curve for curve in curves if curve.mass is not None and len(curve.T) > 1]
    if not drawn:
        return ()
    T = np.linspace(min(float(c.T[0]) for c in drawn), max(float(c.T[-1]) for c in drawn), ROWS)

    def share(curve: _Curve, t: float) -> float:
        assert curve.mass is not None
        return curve.mass * math.exp(curve.log_product(t) / curve.order)

    columns = tuple(
        column(f"solubility_{k}", curve.reaction.name, "share", [share(curve, float(t)) for t in T], group="Solubility")
        for k, curve in enumerate(drawn, 1)
    )
    given = [(k, c) for k, c in enumerate(drawn, 1) if c.fit is not None]
    marks = tuple(
        ProfileMark("given", f"solubility_{k}", float(t), c.mass * math.exp(level / c.order))
        for k, c in given
        for t, level in zip(c.T, c.logarithms, strict=True)
        if c.mass is not None
    )
    marks += tuple(ProfileMark("outlet", f"solubility_{k}", outlet, share(c, outlet)) for k, c in enumerate(drawn, 1) if T[0] <= outlet <= T[-1])
    return (Profile("solubility", "Solubility", column("temperature", "Temperature", "temperature", T), columns, marks=marks),)
