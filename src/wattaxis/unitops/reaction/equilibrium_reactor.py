"""Equilibrium reactor: chosen reactions to equilibrium, near it, or to a given extent."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

import numpy as np

from wattaxis.properties.state import Vector
from wattaxis.quantities import Quantity, to_si
from wattaxis.reactions import KineticsError, ReactionSet
from wattaxis.reactions.equilibrium import ChemicalEquilibrium
from wattaxis.reactions.kinetics import check_reaction
from wattaxis.unitops.base import (
    Choice,
    Field,
    Givens,
    ResultValue,
    StreamState,
    UnitFault,
    UnitOperation,
    UnitResult,
    outlet_pressure,
)
from wattaxis.unitops.pressures import OUTLET_OR_CHANGE
from wattaxis.unitops.reaction.equilibrating import PHASE_CHOICE, PHASE_FIELD, PHASES, guarded, other_phase
from wattaxis.unitops.reaction.kinetic import REACTIONS
from wattaxis.unitops.reaction.leaving import PORTS, STATE_CHOICES, STATE_FIELDS, Leaving, LeavingSpec, conversions, nothing_reacts, rounded_masses
from wattaxis.unitops.registry import unit_operation
from wattaxis.unitops.table import Column, GivenRow, GivenTable

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel

APPROACH = Column("approach", "Approach", "temperature_difference", "the equilibrium is that of the outlet temperature plus this")
EXTENT = Column("extent", "Extent", "mole_flow", "how much of it takes place, whatever the equilibrium")


class EquilibriumReactorSpec(LeavingSpec):
    """Reactions, those that are not at equilibrium, phases, temperature or heat, pressure."""

    reactions: str | None = None
    approaches: GivenTable | None = None
    phases: str | None = None


@unit_operation
class EquilibriumReactor(UnitOperation):
    """The reactions of a set at equilibrium together, forward or backward; nothing else reacts."""

    type = "equilibrium-reactor"
    title = "Equilibrium reactor"
    symbol = "reactor"
    letter = "R"
    also = ("reversible", "shift converter", "esterification", "equilibrium constant")
    family = "reaction"
    theory = (
        "The reactions that were chosen, and no others, come to equilibrium together at temperature and pressure of the outlet: least Gibbs energy "
        "over their extents (Smith and Missen 1982), which is Q = K for each. K follows from the formation data, Q from the fugacities of the "
        "property model in the phases that there are. With an approach K is that of the outlet temperature plus so much."
    )
    Spec = EquilibriumReactorSpec
    ports = PORTS
    fields = (
        REACTIONS,
        Field(
            "approaches", "Reactions not at equilibrium", "table", "blank: all come to equilibrium",
            columns=(Column("reaction", "Reaction", "reaction"), APPROACH, EXTENT),
        ),
        PHASE_FIELD,
        *STATE_FIELDS,
    )  # fmt: skip
    pressures = (OUTLET_OR_CHANGE,)
    choices = (Choice("Reactions", ("reactions",)), PHASE_CHOICE, *STATE_CHOICES)

    def solve(self, givens: Givens, inlets: Mapping[str, Sequence[StreamState]], model: PropertyModel, outlets: frozenset[str]) -> UnitResult:
        """What is given first, then the equilibrium of the others from there."""
        inlet, P = inlets["inlet"][0], outlet_pressure(givens, inlets["inlet"][0].state.pressure)
        ids = [c.id for c in model.components]
        of = givens.reaction_set("reactions")
        if not of.reactions:
            raise UnitFault(f"The reaction set {of.name} is empty.", "Write its reactions under Chemistry.", "reactions")
        phases = PHASES[givens.option("phases") or next(iter(PHASES))]
        try:
            told = _told(givens, of)
            free = [r for r in of.reactions if r.name not in told.extents]
            for reaction in (r for r in of.reactions if r.name in told.extents):
                check_reaction(reaction, model)
            equilibrium = ChemicalEquilibrium(model, free, phases=phases)
        except KineticsError as error:
            raise UnitFault(str(error), "Mend it under Chemistry, Reactions.", "reactions") from error
        start = _after(of, told.extents, inlet, ids)
        approach: float | Vector = np.array([told.approaches.get(r.name, 0.0) for r in free]) if any(told.approaches.values()) else 0.0
        leaving = Leaving(givens, inlet, model, P, guarded(lambda T: equilibrium.at(start, T, P, approach)))
        mass, findings = rounded_masses(model.molar_masses, inlet.flows, leaving.flows)
        findings += other_phase(phases, leaving.outlet.state)
        why = "what comes in is at the equilibrium of these reactions already, or holds nothing that they use up."
        findings += nothing_reacts(inlet.flows, leaving.flows, why, "Look at the feed, and at the reactions under Chemistry.", "reactions")
        values = [
            *_of_reactions(of, told.extents, equilibrium, leaving.outlet.state.temperature, leaving.flows - start),
            *conversions(ids, inlet.flows, leaving.flows),
        ]
        return leaving.result(values, findings, mass)


class _Told:
    """Approaches (K) and extents (mol/s) by the name of the reaction."""

    def __init__(self) -> None:
        self.approaches: dict[str, float] = {}
        self.extents: dict[str, float] = {}


def _told(givens: Givens, of: ReactionSet) -> _Told:
    table, found = givens.raw("approaches"), _Told()
    known = [reaction.name for reaction in of.reactions]
    for row in table.rows if isinstance(table, GivenTable) else ():
        name, approach, extent = _cells(row)
        if name is None:
            continue
        if name not in known:
            raise UnitFault(f'{of.name} has no reaction "{name}".', f"Choose one of {', '.join(known)}, or remove that row.", "approaches")
        if name in found.approaches or name in found.extents:
            raise UnitFault(f"Two rows speak of {name}.", "Remove one of them.", "approaches")
        if approach is not None and extent is not None:
            raise UnitFault(f"{name} has an approach to equilibrium and an extent; one settles it.", "Clear one of them.", "approaches")
        if extent is not None:
            found.extents[name] = extent
        else:
            found.approaches[name] = approach or 0.0
    return found


def _cells(row: GivenRow) -> tuple[str | None, float | None, float | None]:
    name, approach, extent = (row.cells.get(key) for key in ("reaction", APPROACH.key, EXTENT.key))
    return (
        str(name) if name else None,
        to_si(approach, APPROACH.kind) if isinstance(approach, Quantity) else None,
        to_si(extent, EXTENT.kind) if isinstance(extent, Quantity) else None,
    )


def _after(of: ReactionSet, extents: Mapping[str, float], inlet: StreamState, ids: Sequence[str]) -> Vector:
    """Flows (mol/s) after the given extents. Raises UnitFault where something does not last."""
    flows = inlet.flows.copy()
    for reaction in of.reactions:
        flows += extents.get(reaction.name, 0.0) * np.array([reaction.numbers.get(name, 0.0) for name in ids])
    short = [name for name, flow in zip(ids, flows, strict=True) if flow < -1e-12 * inlet.flow]
    if short:
        names = " and ".join(extents)
        raise UnitFault(f"There is not enough {' and '.join(short)} for the extent of {names}.", "Give a smaller extent.", "approaches")
    return np.asarray(np.maximum(flows, 0.0))


def _of_reactions(of: ReactionSet, given: Mapping[str, float], equilibrium: ChemicalEquilibrium, T: float, change: Vector) -> list[ResultValue]:
    """Extents, where they are settled, from the ``change`` (mol/s) by those at equilibrium; and their constants at the outlet's T (K)."""
    found = []
    free, numbers = equilibrium.reactions or (), equilibrium.numbers
    if not free or np.linalg.matrix_rank(numbers) == len(free):
        settled = np.linalg.lstsq(numbers.T, change, rcond=None)[0]
        extents = {**given, **{r.name: float(x) for r, x in zip(free, settled, strict=True)}}
        found += [ResultValue("extent", "Extent", "mole_flow", extents[r.name], r.name) for r in of.reactions]
    constants = equilibrium.log_constants(T)
    return found + [ResultValue("log_constant", "ln K at the outlet", "number", float(k), r.name) for r, k in zip(free, constants, strict=True)]
