"""A stream that flows along the outside of tubes in a shell without baffles: its film."""

from __future__ import annotations

from typing import TYPE_CHECKING

from wattaxis.equipment.tube_heat import film_coefficient, film_doubt, shell_passage
from wattaxis.unitops.base import Finding, StreamState, UnitFault

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel

#: Share of itself by which the film may be another one at the outlet before it is told.
_APART = 0.1


class Shell:
    """The film (W/(m2 K), of the outer area) of a stream as it comes in, along ``tubes`` of an outer diameter (m) in a shell (inner diameter, m).

    Raises UnitFault where the tubes do not fit, for two phases, and for fluids whose viscosity or conductivity is not known.
    """

    def __init__(self, model: PropertyModel, inlet: StreamState, shell: float, outer: float, tubes: float) -> None:
        self.model = model
        try:
            self.section, self.hydraulic = shell_passage(shell, outer, tubes)
        except ValueError as error:
            raise UnitFault(str(error), "Give a wider shell, or fewer tubes.", "shell_diameter") from error
        self.film, self.doubt = self._film(inlet)

    def _film(self, stream: StreamState) -> tuple[float, str]:
        from wattaxis.properties.transport import transport  # late: it loads the kernels

        state = stream.state
        if len(state.phases) != 1:
            text = f"What flows outside the tubes is {state.phase}, and its film is calculated for one phase only."
            raise UnitFault(text, "Give the coefficient outside.", "shell_diameter")
        phase = state.phases[0]
        known = transport(phase.kind, state.temperature, state.pressure, phase.fractions, self.model.curves)
        flux = stream.flow * phase.molar_mass / self.section
        film = film_coefficient(flux, known.viscosity, phase.heat_capacity / phase.molar_mass, known.conductivity, self.hydraulic)
        if not film > 0.0:
            text = "The viscosity or the conductivity of what flows outside is not known, so its film does not follow."
            raise UnitFault(text, "Give the coefficient outside, or curves of one's own under Chemistry.", "shell_diameter")
        return film, film_doubt(flux, known.viscosity, self.hydraulic)

    def findings(self, outlet: StreamState) -> list[Finding]:
        """What is to be said of the film, when the stream leaves like this."""
        found = []
        remedy = "Take the heat transfer as an estimate, or give the coefficient outside."
        if self.doubt:
            found.append(Finding("caution", "", f"The film outside the tubes is calculated for {self.doubt}.", remedy, "shell_diameter"))
        try:
            later = self._film(outlet)[0]
        except UnitFault:
            text = f"What flows outside leaves as {outlet.state.phase}; its film is taken to be that of what comes in, {self.film:.4g} W/(m2 K)."
            return [*found, Finding("caution", "", text, remedy, "shell_diameter")]
        if abs(later / self.film - 1.0) > _APART:
            text = f"The film outside is that of the stream as it comes in, {self.film:.4g} W/(m2 K); as it leaves it would be {later:.4g}."
            found.append(Finding("note", "", text, remedy, "shell_diameter"))
        return found
