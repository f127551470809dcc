"""Gibbs reactor: whatever the elements allow, until the Gibbs energy is least; solids form where they are among the components."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

from wattaxis.quantities import Quantity
from wattaxis.reactions.equilibrium import ChemicalEquilibrium
from wattaxis.unitops.base import (
    Choice,
    Field,
    Finding,
    Givens,
    StreamState,
    UnitFault,
    UnitOperation,
    UnitResult,
    UnitSpec,
    outlet_pressure,
)
from wattaxis.unitops.pressures import OUTLET_OR_CHANGE
from wattaxis.unitops.reaction.equilibrating import PHASE_CHOICE, PHASE_FIELD, PHASES, guarded, other_phase
from wattaxis.unitops.reaction.leaving import PORTS, STATE_CHOICES, STATE_FIELDS, Leaving, LeavingSpec, conversions, nothing_reacts, rounded_masses
from wattaxis.unitops.registry import unit_operation
from wattaxis.unitops.table import Column, GivenTable

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel

NO_APPROACH = Quantity(value=0.0, unit="K")


class GibbsReactorSpec(LeavingSpec):
    """What stays as it is, phases, how near the equilibrium comes, temperature or heat, pressure."""

    inert: GivenTable | None = None
    phases: str | None = None
    approach: Quantity | None = None


@unit_operation
class GibbsReactor(UnitOperation):
    """Least Gibbs energy over all components that the elements of the feed allow, no reaction typed."""

    type = "gibbs-reactor"
    title = "Gibbs reactor"
    symbol = "reactor"
    letter = "R"
    also = ("equilibrium", "free energy", "combustion", "burner", "gasifier", "reformer")
    family = "reaction"
    theory = (
        "Every component of the plant that is made of the elements of the feed may form, and the amounts are those of least Gibbs energy at the "
        "temperature and pressure of the outlet (Smith and Missen 1982, chapter 6): vapour, liquids and solids as they are stable, with the "
        "fugacities of the property model and the formation data. Components whose formula is not known stay as they are."
    )
    Spec = GibbsReactorSpec
    ports = PORTS
    fields = (
        Field("inert", "Inert components", "table", "they pass through as they are", columns=(Column("component", "Component", "component"),)),
        PHASE_FIELD,
        Field("approach", "Temperature approach", "temperature_difference", "the equilibrium is that of the outlet temperature plus this"),
        *STATE_FIELDS,
    )
    pressures = (OUTLET_OR_CHANGE,)
    choices = (PHASE_CHOICE, Choice("Approach", ("approach",), 1, ("approach", NO_APPROACH, "equilibrium is reached")), *STATE_CHOICES)

    def free_to_react(self, spec: UnitSpec, component: str) -> bool:
        """All that is not inert."""
        return component not in _inert(spec)

    def solve(self, givens: Givens, inlets: Mapping[str, Sequence[StreamState]], model: PropertyModel, outlets: frozenset[str]) -> UnitResult:
        """The least Gibbs energy at the outlet's temperature, or at the one to which the heat leads."""
        inlet, P = inlets["inlet"][0], outlet_pressure(givens, inlets["inlet"][0].state.pressure)
        ids = [c.id for c in model.components]
        inert = _inert(givens.spec)
        if gone := [name for name in inert if name not in ids]:
            raise UnitFault(f"{', '.join(gone)} is said to be inert, and the plant does not have it any more.", "Remove that row.", "inert")
        phases = PHASES[givens.option("phases") or next(iter(PHASES))]
        equilibrium = ChemicalEquilibrium(model, inert=inert, phases=phases)
        approach = givens.si("approach") or 0.0
        leaving = Leaving(givens, inlet, model, P, guarded(lambda T: equilibrium.at(inlet.flows, T, P, approach)))
        mass, findings = rounded_masses(model.molar_masses, inlet.flows, leaving.flows)
        findings += other_phase(phases, leaving.outlet.state)
        why = "what comes in is at equilibrium already, or nothing else among the components is made of its elements."
        findings += nothing_reacts(inlet.flows, leaving.flows, why, "Look at the components under Chemistry and at those that are inert.")
        if equilibrium.unknown:
            names = ", ".join(name for name in equilibrium.unknown if inlet.flows[ids.index(name)] > 0.0)
            text = f"The formula of {names} is not known, so it passes through as it is."
            findings += [Finding("note", "", text, "Give it a formula under Chemistry, or call it inert.")] if names else []
        if salts := ", ".join(name for name in equilibrium.dissolved if inlet.flows[ids.index(name)] > 0.0):
            text = f"{salts} passes through as it is: its formation data are those of a solution, which tell nothing of other phases."
            findings.append(Finding("note", "", text, "Let a crystalliser or conversions turn it into something else."))
        return leaving.result(conversions(ids, inlet.flows, leaving.flows), findings, mass)


def _inert(spec: UnitSpec) -> list[str]:
    """Ids of the components that are said to be inert."""
    table = getattr(spec, "inert", None)
    return [str(row.cells["component"]) for row in table.rows if "component" in row.cells] if isinstance(table, GivenTable) else []
