"""Conversion reactor: reactions as far as a given conversion of their base components, side by side or one after the other."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from wattaxis.properties.state import Vector
from wattaxis.quantities import Quantity, to_si
from wattaxis.reactions import KineticsError, Reaction, ReactionSet
from wattaxis.reactions.kinetics import check_reaction
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
from wattaxis.unitops.reaction.kinetic import REACTIONS
from wattaxis.unitops.reaction.leaving import PORTS, STATE_CHOICES, STATE_FIELDS, Leaving, LeavingSpec, conversions, rounded_masses
from wattaxis.unitops.registry import unit_operation
from wattaxis.unitops.table import Column, GivenTable

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel

BESIDE, AFTER = "side by side", "one after the other"
REACTION = Column("reaction", "Reaction", "reaction")
COMPONENT = Column("component", "Base component", "component", "whose conversion is given; blank: the reactant that runs out first")
CONVERSION = Column("conversion", "Conversion", "fraction", "of the base component", unit="%")
#: Relative excess of what is used up over what there is that is rounding.
_ROUNDING = 1e-12


class ConversionReactorSpec(LeavingSpec):
    """Reactions, how far each goes, and in which order; outlet temperature or duty, pressure."""

    reactions: str | None = None
    conversions: GivenTable | None = None
    order: str | None = None


@unit_operation
class ConversionReactor(UnitOperation):
    """Fixed conversions; the heat of reaction follows from the enthalpies of formation."""

    type = "conversion-reactor"
    title = "Conversion reactor"
    symbol = "reactor"
    letter = "R"
    also = ("reactor", "converter", "stoichiometric")
    family = "reaction"
    theory = (
        "The conversion of its base component gives the extent of each reaction; where none is chosen it is the reactant that runs out first. Side "
        "by side all conversions are of what comes in; one after the other each is of what the reactions above it leave. Enthalpies count from the "
        "elements, so the heat of reaction needs no entry."
    )
    Spec = ConversionReactorSpec
    ports = PORTS
    fields = (
        REACTIONS,
        Field("conversions", "Conversions", "table", "how far each reaction goes", columns=(REACTION, COMPONENT, CONVERSION), most=60),
        Field("order", "Order of several reactions", "option", "what a conversion is of", options=(BESIDE, AFTER)),
        *STATE_FIELDS,
    )
    pressures = (OUTLET_OR_CHANGE,)
    choices = (Choice("Reactions", ("reactions",)), Choice("Conversions", ("conversions",)), *STATE_CHOICES)

    def choices_of(self, spec: UnitSpec) -> tuple[Choice, ...]:
        """Of several reactions it matters whether one finds what another has left."""
        table = getattr(spec, "conversions", None)
        several = isinstance(table, GivenTable) and len(table.rows) > 1
        return (*self.choices, Choice("Order", ("order",), 1, ("order", BESIDE, "no order was chosen"))) if several else self.choices

    def asks(self, tag: str, spec: UnitSpec, component_ids: Sequence[str], connected: frozenset[str]) -> list[Ask]:
        """The choices, and a reaction and a conversion in every row."""
        found = super().asks(tag, spec, component_ids, connected)
        table = getattr(spec, "conversions", None)
        for number, row in enumerate(table.rows if isinstance(table, GivenTable) else (), 1):
            for column in (REACTION, CONVERSION):
                if column.key not in row.cells:
                    text = f"{tag} needs the {column.title.lower()} in row {number} of its conversions."
                    found.append(Ask(tag, text, (f"conversions[{row.id}].{column.key}",)))
        return found

    def formed(self, spec: UnitSpec, reactions: Mapping[str, ReactionSet]) -> frozenset[str]:
        """What the reactions of its rows form."""
        return _of_sign(spec, reactions, 1.0)

    def used_up(self, spec: UnitSpec, reactions: Mapping[str, ReactionSet]) -> frozenset[str]:
        """What the reactions of its rows use up."""
        return _of_sign(spec, reactions, -1.0)

    def solve(self, givens: Givens, inlets: Mapping[str, Sequence[StreamState]], model: PropertyModel, outlets: frozenset[str]) -> UnitResult:
        """Extents, then a flash at temperature or with the heat."""
        inlet = inlets["inlet"][0]
        ids = [c.id for c in model.components]
        rows = _rows(givens, model, ids)
        extents = _extents(rows, inlet.flows, ids, givens.option("order") == AFTER)
        numbers = np.array([row.numbers for row in rows])
        flows: Vector = np.maximum(inlet.flows + extents @ numbers, 0.0)
        leaving = Leaving(givens, inlet, model, outlet_pressure(givens, inlet.state.pressure), lambda T: flows, fixed=True)
        mass, findings = rounded_masses(model.molar_masses, inlet.flows, flows)
        findings += _idle(rows, extents, inlet, ids)
        standard = numbers @ np.array([c.formation_enthalpy for c in model.components])
        values = [
            *(ResultValue("extent", "Extent", "mole_flow", float(x), row.reaction.name) for row, x in _named(rows, extents)),
            *conversions(ids, inlet.flows, flows),
            *(
                ResultValue("heat_of_reaction", "Heat of reaction, gas, 298.15 K", "molar_enthalpy", float(h), row.reaction.name)
                for row, h in {row.reaction.name: (row, h) for row, h in zip(rows, standard, strict=True)}.values()
            ),
        ]
        return leaving.result(values, findings, mass)


@dataclass(frozen=True)
class _Row:
    """A reaction with its stoichiometric numbers (components,), the place of its base component (None: what runs out first) and the conversion."""

    id: str
    reaction: Reaction
    numbers: Vector
    base: int | None
    conversion: float

    def extent(self, flows: Vector) -> tuple[int, float]:
        """Place of what the conversion is of, and mol/s of reaction from so much."""
        used = [i for i in range(len(self.numbers)) if self.numbers[i] < 0.0]
        base = min(used, key=lambda i: flows[i] / -self.numbers[i]) if self.base is None else self.base
        return base, self.conversion * float(flows[base] / -self.numbers[base])


def _rows(givens: Givens, model: PropertyModel, ids: Sequence[str]) -> list[_Row]:
    of = givens.reaction_set("reactions")
    known = {reaction.name: reaction for reaction in of.reactions}
    found = []
    for row in givens.raw("conversions").rows:
        name, chosen, conversion = (row.cells.get(column.key) for column in (REACTION, COMPONENT, CONVERSION))
        path = f"conversions[{row.id}]"
        if name not in known:
            choose = f"Choose one of {', '.join(known)}." if known else "Write the reaction under Chemistry."
            raise UnitFault(f'{of.name} has no reaction "{name}".', choose, f"{path}.reaction")
        reaction = known[str(name)]
        try:
            check_reaction(reaction, model)
        except KineticsError as error:
            raise UnitFault(str(error), "Mend it under Chemistry, Reactions.", "reactions") from error
        numbers = np.array([reaction.numbers.get(item, 0.0) for item in ids])
        if chosen and not reaction.numbers.get(str(chosen), 0.0) < 0.0:
            used = ", ".join(item for item, number in reaction.numbers.items() if number < 0.0)
            text = f"{chosen}, the base component, is not used up by {name}."
            raise UnitFault(text, f"Choose one of {used}, or none.", f"{path}.component")
        base = ids.index(str(chosen)) if chosen else None
        assert isinstance(conversion, Quantity)  # asked for otherwise
        found.append(_Row(row.id, reaction, numbers, base, to_si(conversion, CONVERSION.kind)))
    return found


def _extents(rows: Sequence[_Row], feed: Vector, ids: Sequence[str], one_by_one: bool) -> Vector:
    """mol/s of every row. Raises UnitFault, with what runs out first, where a reactant does not last."""
    left, extents = feed.copy(), []
    for row in rows:
        _, extent = row.extent(np.maximum(left, 0.0) if one_by_one else feed)
        left = left + extent * row.numbers
        if one_by_one:
            _last(left, feed, [row], [extent], ids)
        extents.append(extent)
    _last(left, feed, rows, extents, ids)
    return np.array(extents)


def _last(left: Vector, feed: Vector, rows: Sequence[_Row], extents: Sequence[float], ids: Sequence[str]) -> None:
    """Whether everything lasts. Raises UnitFault with how far the scarcest goes."""
    short = [i for i in range(len(ids)) if left[i] < -_ROUNDING * max(feed.sum(), 1e-300)]
    if not short:
        return
    used = {i: -sum(min(float(x * row.numbers[i]), 0.0) for row, x in zip(rows, extents, strict=True)) for i in short}
    scarcest = min(short, key=lambda i: (left[i] + used[i]) / used[i])
    lasts = max((left[scarcest] + used[scarcest]) / used[scarcest], 0.0)
    who = " and ".join(dict.fromkeys(row.reaction.name for row, x in zip(rows, extents, strict=True) if x * row.numbers[scarcest] < 0.0))
    first = next(row for row, x in zip(rows, extents, strict=True) if x * row.numbers[scarcest] < 0.0)
    text = f"There is not enough {ids[scarcest]} for {who} at these conversions: it suffices for {100.0 * lasts:.5g} % of them."
    remedy = f"Give lower conversions, more {ids[scarcest]}, or leave the base component blank: then the conversion is of what runs out first."
    raise UnitFault(text, remedy, f"conversions[{first.id}].conversion")


def _idle(rows: Sequence[_Row], extents: Vector, inlet: StreamState, ids: Sequence[str]) -> list[Finding]:
    """What is to be said of reactions that do not take place."""
    found = []
    for row, extent in zip(rows, extents, strict=True):
        if extent == 0.0 and inlet.flow > 0.0:
            base, _ = row.extent(inlet.flows)
            why = f"there is no {ids[base]}" if row.conversion else "its conversion is 0"
            text = f"Nothing of {row.reaction.name} takes place: {why}."
            found.append(Finding("caution", "", text, "Check feed and conversion.", f"conversions[{row.id}].conversion"))
    return found


def _named(rows: Sequence[_Row], extents: Vector) -> list[tuple[_Row, float]]:
    """One of each reaction, with what all its rows come to."""
    sums: dict[str, float] = {}
    for row, x in zip(rows, extents, strict=True):
        sums[row.reaction.name] = sums.get(row.reaction.name, 0.0) + float(x)
    by_name = {row.reaction.name: row for row in rows}
    return [(by_name[name], x) for name, x in sums.items()]


def _of_sign(spec: UnitSpec, reactions: Mapping[str, ReactionSet], sign: float) -> frozenset[str]:
    """Components that the reactions of the rows form (1.0) or use up (-1.0): they go forward, whatever is reversible in the set."""
    table, of = getattr(spec, "conversions", None), reactions.get(getattr(spec, "reactions", None) or "")
    taken = {row.cells.get(REACTION.key) for row in table.rows} if isinstance(table, GivenTable) else set()
    made = [reaction for reaction in of.reactions if reaction.name in taken] if of is not None else []
    return frozenset(name for reaction in made for name, number in reaction.numbers.items() if sign * number > 0.0)
