"""What the equilibrium and the Gibbs reactor share: which phases there may be, and faults in physical words."""

from __future__ import annotations

from collections.abc import Callable

from wattaxis.properties.state import State, Vector
from wattaxis.reactions.equilibrium import EquilibriumError, Phases
from wattaxis.unitops.base import Choice, Field, Finding, UnitFault

#: What may be chosen -> what the equilibrium is told.
PHASES: dict[str, Phases] = {"all stable": "stable", "vapour alone": "vapour", "liquid alone": "liquid"}
_STABLE = next(iter(PHASES))
PHASE_FIELD = Field("phases", "Phases", "option", "in which the fluid may be; solids lie beside it", options=tuple(PHASES))
PHASE_CHOICE = Choice("Phases", ("phases",), 1, ("phases", _STABLE, "no phase was chosen"))


def guarded(found: Callable[[float], Vector]) -> Callable[[float], Vector]:
    """The same with faults in place of errors."""

    def made(T: float) -> Vector:
        try:
            return found(T)
        except EquilibriumError as error:
            raise UnitFault(str(error), "Give an outlet temperature, or let fewer components react.") from error
        except ValueError as error:
            raise UnitFault(str(error), "Leave the approach of one of them blank.") from error

    return made


def other_phase(phases: Phases, state: State) -> list[Finding]:
    """What is to be said where the fluid was held in one phase and leaves in another."""
    kinds = {phase.kind for phase in state.phases if phase.kind != "solid"}
    if phases == "stable" or not kinds or kinds <= {phases, "second liquid" if phases == "liquid" else phases}:
        return []
    text = f"What leaves is {state.phase}, and its equilibrium was calculated as if all of the fluid were {phases}."
    return [Finding("caution", "", text, f'Choose "{_STABLE}", or another temperature or pressure.', "phases")]
