"""Pipe: pressure and temperature along a length, by friction, height, acceleration and heat loss; gas, liquid or both."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import TYPE_CHECKING

from wattaxis.equipment.pipe_flow import friction_factor, friction_gradient, two_phase_gradient
from wattaxis.equipment.pipe_sizes import STEEL, overall_coefficient, pipe_of, pipe_sizes
from wattaxis.properties import FlashError
from wattaxis.quantities import Quantity
from wattaxis.unitops.base import (
    GRAVITY,
    Ask,
    Assumed,
    Choice,
    Field,
    Finding,
    Givens,
    Port,
    ResultValue,
    StreamState,
    UnitFault,
    UnitOperation,
    UnitResult,
    UnitSpec,
)
from wattaxis.unitops.profile import Profile, ProfilePort, column
from wattaxis.unitops.registry import unit_operation

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel, State

#: Segments of a pipe; rounds until velocity and enthalpy of a point agree; trials for the pressure at the end of a segment, and its tolerance.
_SEGMENTS, _ROUNDS, _TRIES, _CLOSED = 24, 8, 45, 1e-11
#: A segment that takes the pressure below this share of what it has is one that does not pass.
_LOWEST = 0.05
#: A velocity of gas (m/s) beyond which noise and vibration are looked at, and of liquid.
_FAST_GAS, _FAST_LIQUID = 60.0, 5.0
#: The schedule of a nominal size of which none is said.
_USUAL = "40"


#: Nominal sizes that any schedule has, by diameter.
SIZES = tuple(sorted({size for rows in pipe_sizes().values() for size in rows}, key=lambda size: int(size[3:])))


class PipeSpec(UnitSpec):
    """What the pipe is like, and what surrounds it."""

    length: Quantity | None = None
    diameter: Quantity | None = None
    nominal_size: str | None = None
    schedule: str | None = None
    rise: Quantity | None = None
    roughness: Quantity | None = None
    loss_coefficient: Quantity | None = None
    heat_transfer: Quantity | None = None
    insulation_thickness: Quantity | None = None
    insulation_conductivity: Quantity | None = None
    second_thickness: Quantity | None = None
    second_conductivity: Quantity | None = None
    outside_coefficient: Quantity | None = None
    surroundings: Quantity | None = None


@unit_operation
class Pipe(UnitOperation):
    """A straight run with fittings."""

    type = "pipe"
    title = "Pipe"
    symbol = "pipe"
    letter = "L"
    also = ("line", "duct")
    family = "pressure"
    theory = (
        "Momentum and energy over 24 segments, each closed by itself: friction with the factor of Colebrook (1939), of liquid and gas together by "
        "Mueller-Steinhagen, Heck (1986), height and acceleration with the homogeneous density, fittings as loss coefficients spread over it. "
        "Nominal sizes are those of ASME B36.10M and B36.19M. Heat passes wall and insulation as cylinders in series, the film inside left out."
    )
    Spec = PipeSpec
    ports = (Port("inlet", "Inlet", "in", place=(0.0, 0.5)), Port("outlet", "Outlet", "out", place=(1.0, 0.5)))
    fields = (
        Field("length", "Length", "length"),
        Field("diameter", "Inner diameter", "length"),
        Field("nominal_size", "Nominal size", "option", options=SIZES),
        Field("schedule", "Schedule", "option", "wall thickness of the nominal size", options=tuple(pipe_sizes())),
        Field("rise", "Rise", "height", "outlet above inlet; negative where it falls"),
        Field("roughness", "Roughness", "length"),
        Field("loss_coefficient", "Loss coefficient of fittings", "number", "sum of all: elbow 0.3 to 0.9, tee 0.5 to 1.5, open gate valve 0.2"),
        Field("heat_transfer", "Heat transfer coefficient", "heat_transfer_coefficient", "overall, on the inner surface"),
        Field("insulation_thickness", "Thickness of the insulation", "length"),
        Field("insulation_conductivity", "Conductivity of the insulation", "conductivity", "mineral wool 0.04, calcium silicate 0.06 W/(m K)"),
        Field("second_thickness", "Thickness of a second layer", "length"),
        Field("second_conductivity", "Conductivity of the second layer", "conductivity"),
        Field("outside_coefficient", "Coefficient on the outside", "heat_transfer_coefficient", "still air about 10, wind up to 40 W/(m² K)"),
        Field("surroundings", "Temperature of the surroundings", "temperature"),
    )
    choices = (
        Choice("Length", ("length",)),
        Choice("Diameter", ("diameter", "nominal_size")),
        Choice("Rise", ("rise",), 1, ("rise", Quantity(value=0.0, unit="m"), "no rise was given")),
        Choice("Roughness", ("roughness",), 1, ("roughness", Quantity(value=0.045, unit="mm"), "commercial steel was assumed")),
        Choice("Fittings", ("loss_coefficient",), 1, ("loss_coefficient", Quantity(value=0.0), "no fittings were given")),
        Choice("Heat", ("heat_transfer", "insulation_thickness"), 1, ("heat_transfer", Quantity(value=0.0, unit="W/m2/K"), "no heat loss was given")),
        Choice("Surroundings", ("surroundings",), 1, ("surroundings", Quantity(value=20.0, unit="degC"), "nothing was given")),
    )

    def asks(self, tag: str, spec: UnitSpec, component_ids: Sequence[str], connected: frozenset[str]) -> list[Ask]:
        """The choices; a conductivity with each layer; a schedule where the nominal size is not made in the usual one."""
        found = super().asks(tag, spec, component_ids, connected)
        for given, needed in (
            ("nominal_size", "schedule"),
            ("insulation_thickness", "insulation_conductivity"),
            ("second_thickness", "second_conductivity"),
        ):
            if getattr(spec, given) is not None and getattr(spec, needed) is None and needed not in self.assumptions(spec):
                titles = self.field_map()
                found.append(Ask(tag, f"{tag} has a {titles[given].title.lower()} and needs a {titles[needed].title.lower()}.", (needed,)))
        return found

    def assumptions(self, spec: UnitSpec) -> dict[str, tuple[Assumed, str]]:
        """With insulation also what lies outside it, and the usual schedule of a nominal size."""
        found = super().assumptions(spec)
        size = getattr(spec, "nominal_size", None)
        if size in pipe_sizes()[_USUAL] and getattr(spec, "schedule", None) is None:
            found["schedule"] = (_USUAL, "the usual wall was assumed")
        if getattr(spec, "insulation_thickness", None) is not None and getattr(spec, "outside_coefficient", None) is None:
            found["outside_coefficient"] = (Quantity(value=10.0, unit="W/m2/K"), "still air was assumed")
        return found

    def solve(self, givens: Givens, inlets: Mapping[str, Sequence[StreamState]], model: PropertyModel, outlets: frozenset[str]) -> UnitResult:
        """March along the pipe."""
        inlet = inlets["inlet"][0]
        length, (diameter, wall) = givens.si("length") or 0.0, _bore(givens)
        if not length > 0.0 or not diameter > 0.0:
            name = "diameter" if length > 0.0 else "length"
            raise UnitFault(f"A pipe has a {name} above zero.", "Type one.", name)
        march = _March(inlet, model, givens, length, diameter, _coefficient(givens, diameter, wall))
        points = march.run()
        last = points[-1]
        outlet = StreamState(inlet.flow, last.state)
        taken = inlet.flow * (last.state.enthalpy - inlet.state.enthalpy)
        findings = []
        fastest = max(point.velocity for point in points)
        limit = _FAST_LIQUID if inlet.state.vapour_fraction == 0.0 and last.state.vapour_fraction == 0.0 else _FAST_GAS
        if fastest > limit:
            text = f"It flows at {fastest:.3g} m/s, above the {limit:g} m/s that are usual."
            findings.append(Finding("caution", "", text, "Give a larger diameter.", "diameter"))
        if inlet.state.solid_fraction > 0.0:
            text = "Solids are carried along as if they were part of the fluid: settling and wear are neglected."
            findings.append(Finding("caution", "", text, "Take the pressure loss as an estimate."))
        values = (
            ResultValue("outlet_pressure", "Outlet pressure", "pressure", last.state.pressure),
            ResultValue("pressure_change", "Pressure change", "pressure_difference", last.state.pressure - inlet.state.pressure),
            ResultValue("outlet_temperature", "Outlet temperature", "temperature", last.state.temperature),
            ResultValue("heat_lost", "Heat lost", "power", -march.heat),
            ResultValue("diameter", "Inner diameter", "length", diameter),
            ResultValue("heat_transfer", "Heat transfer coefficient", "heat_transfer_coefficient", march.loss / (math.pi * diameter)),
            ResultValue("inlet_velocity", "Inlet velocity", "velocity", points[0].velocity),
            ResultValue("outlet_velocity", "Outlet velocity", "velocity", last.velocity),
            *_parts_of_the_loss(march, points),
        )
        return UnitResult({"outlet": outlet}, taken, values, tuple(findings), profiles=(_profile(points),))


def _parts_of_the_loss(march: _March, points: Sequence[_Point]) -> Iterator[ResultValue]:
    """What the pressure falls by for height, acceleration and friction with fittings; of one phase Reynolds number and friction factor."""
    weight = sum(0.5 * (b.z - a.z) * (a.density + b.density) for a, b in pairwise(points)) * GRAVITY * march.slope
    faster = march.flux**2 * (1.0 / points[-1].density - 1.0 / points[0].density)
    whole = points[0].state.pressure - points[-1].state.pressure
    yield ResultValue("friction_loss", "Loss by friction and fittings", "pressure_difference", whole - weight - faster)
    yield ResultValue("height_loss", "Loss by height", "pressure_difference", weight)
    yield ResultValue("acceleration_loss", "Loss by acceleration", "pressure_difference", faster)
    state = points[0].state
    if len(state.phases) == 1 and state.solid_fraction == 0.0 and march.flux > 0.0:
        reynolds = march.flux * march.diameter / state.transport(state.phases[0]).viscosity
        yield ResultValue("reynolds_number", "Reynolds number at the inlet", "number", reynolds)
        yield ResultValue(
            "friction_factor", "Friction factor (Darcy) at the inlet", "number", friction_factor(reynolds, march.roughness / march.diameter)
        )


@dataclass(frozen=True)
class _Point:
    """A place along the pipe: how far (m), the state there, velocity m/s, friction with fittings and weight in Pa/m, density kg/m3."""

    z: float
    state: State
    velocity: float
    gradient: float
    density: float


class _March:
    """The integration of one pipe."""

    def __init__(self, inlet: StreamState, model: PropertyModel, givens: Givens, length: float, diameter: float, coefficient: float) -> None:
        self.inlet, self.model, self.length, self.diameter = inlet, model, length, diameter
        self.roughness = givens.si("roughness") or 0.0
        self.fittings = (givens.si("loss_coefficient") or 0.0) / length
        self.slope = (givens.si("rise") or 0.0) / length
        if abs(self.slope) > 1.0:
            raise UnitFault("The rise exceeds the length of the pipe.", "Give a longer pipe.", "length")
        self.flux = inlet.mass_flow / (0.25 * math.pi * diameter**2)
        self.loss = coefficient * math.pi * diameter
        self.around = givens.si("surroundings") or 293.15
        self.heat = 0.0

    def run(self) -> list[_Point]:
        """All points from inlet to outlet. Raises UnitFault where the flow does not reach the end."""
        step = self.length / _SEGMENTS
        points = [self._point(0.0, self.inlet.state)]
        for k in range(_SEGMENTS):
            points.append(self._next(points[-1], step, (k + 1) * step))
        return points

    def _point(self, z: float, state: State) -> _Point:
        masses = [share * phase.molar_mass for share, phase in zip(state.amounts, state.phases, strict=True)]
        if any(phase.molar_volume <= 0.0 for phase in state.phases):
            raise UnitFault("The property model gives no volume of a liquid above its critical temperature.", "Choose a cubic equation.")
        density = state.molar_mass / state.molar_volume
        if state.solid_fraction >= 1.0:
            raise UnitFault("Only solids enter the pipe, and there is no fluid to carry them.", "Feed a liquid or a gas with them.")
        # Solids count with the viscosity of what carries them: a liquid, or else the gas.
        moved = [None if phase.kind == "solid" else state.transport(phase).viscosity for phase in state.phases]
        carrier = next(viscosity for viscosity in moved if viscosity is not None)
        flows = [
            (mass, phase.molar_mass / phase.molar_volume, carrier if viscosity is None else viscosity)
            for mass, phase, viscosity in zip(masses, state.phases, moved, strict=True)
        ]
        with_gas = ("vapour", "solid") if state.vapour_fraction >= 1.0 else ("vapour",)
        gas = [flow for flow, phase in zip(flows, state.phases, strict=True) if phase.kind in with_gas]
        liquid = [flow for flow, phase in zip(flows, state.phases, strict=True) if phase.kind not in with_gas]
        quality = sum(flow[0] for flow in gas) / sum(masses)
        friction = [friction_gradient(self.flux, *_mean(part), self.diameter, self.roughness) if part else 0.0 for part in (liquid, gas)]
        loss = two_phase_gradient(friction[0], friction[1], quality) if gas and liquid else sum(friction)
        loss += self.fittings * self.flux**2 / (2.0 * density)
        return _Point(z, state, self.flux / density, loss + density * GRAVITY * self.slope, density)

    def _next(self, here: _Point, step: float, z: float) -> _Point:
        """The end of a segment: the highest pressure at which its mean gradients lead from here to there."""
        from scipy.optimize import brentq

        heat = self._heat(here, step)

        def gap(pressure: float) -> float:
            there = self._at(here, step, z, pressure, heat)
            accelerated = self.flux**2 * (1.0 / there.density - 1.0 / here.density)
            return pressure - (here.state.pressure - 0.5 * step * (here.gradient + there.gradient) - accelerated)

        loss = step * here.gradient
        high = here.state.pressure + max(-2.0 * loss, 1e-6 * here.state.pressure)
        try:
            for k in range(_TRIES):
                low = here.state.pressure - loss + (1.3**k - 1.0) * -max(abs(loss), 1e-5 * here.state.pressure)
                if low < _LOWEST * here.state.pressure:
                    break
                if gap(low) <= 0.0:
                    pressure = float(brentq(gap, low, high, xtol=_CLOSED * here.state.pressure, rtol=1e-14))
                    self.heat += heat
                    return self._at(here, step, z, pressure, heat)
                high = low
        except FlashError as error:
            raise self._too_much(here) from error
        raise self._too_much(here)

    def _heat(self, here: _Point, step: float) -> float:
        """Heat taken in along a segment (W): towards the state at the temperature around it, exact for a constant heat capacity."""
        gap = self.around - here.state.temperature
        if self.loss == 0.0 or self.inlet.flow <= 0.0 or abs(gap) < 1e-9:
            return 0.0
        reached = self.model.flash(self.inlet.state.fractions, T=self.around, P=here.state.pressure)
        most = self.inlet.flow * (reached.enthalpy - here.state.enthalpy)
        return -most * math.expm1(-self.loss * step * gap / most)

    def _at(self, here: _Point, step: float, z: float, pressure: float, heat: float) -> _Point:
        """The point at the end of a segment for a pressure there: enthalpy from heat, height and velocity."""
        mass, flow = self.inlet.state.molar_mass, self.inlet.mass_flow
        velocity, state = here.velocity, here.state
        for _ in range(_ROUNDS):
            energy = (heat / flow if flow > 0.0 else 0.0) - GRAVITY * self.slope * step - 0.5 * (velocity**2 - here.velocity**2)
            enthalpy = here.state.enthalpy + mass * energy
            state = self.model.flash(self.inlet.state.fractions, P=pressure, H=enthalpy, guess=state.temperature)
            faster = self.flux * state.molar_volume / state.molar_mass
            if abs(faster**2 - velocity**2) < 1e-3:  # J/kg
                break
            velocity = faster
        return self._point(z, state)

    def _too_much(self, here: _Point) -> UnitFault:
        text = f"The pipe cannot pass the flow: after {here.z:.4g} m of {self.length:.4g} m, at {here.state.pressure / 1e5:.4g} bar and "
        return UnitFault(
            text + f"{here.velocity:.4g} m/s, no pressure is left.", "Give a larger diameter, a higher inlet pressure or less flow.", "diameter"
        )


def _bore(givens: Givens) -> tuple[float, float]:
    """Inner diameter and wall (m). Raises UnitFault for a size that is not made in the schedule."""
    size = givens.raw("nominal_size")
    if size is None:
        return givens.si("diameter") or 0.0, 0.0
    try:
        return pipe_of(size, str(givens.option("schedule")))
    except ValueError as error:
        raise UnitFault(f"{error}.", "Choose another size or schedule.", "schedule") from error


def _coefficient(givens: Givens, diameter: float, wall: float) -> float:
    """Overall coefficient (W/(m2 K)) on the inner surface, given or through wall and insulation. Raises UnitFault."""
    if givens.si("insulation_thickness") is None:
        return givens.si("heat_transfer") or 0.0
    layers = [(wall, STEEL)]
    for name in ("insulation", "second"):
        thickness, conductivity = givens.si(f"{name}_thickness") or 0.0, givens.si(f"{name}_conductivity") or 0.0
        if thickness > 0.0 and conductivity <= 0.0:
            raise UnitFault("Insulation that conducts nothing would lose nothing.", "Give a conductivity above zero.", f"{name}_conductivity")
        layers.append((thickness, conductivity))
    outside = givens.si("outside_coefficient") or 0.0
    if outside <= 0.0:
        raise UnitFault("Without a coefficient on the outside no heat leaves.", "Give one above zero.", "outside_coefficient")
    return overall_coefficient(diameter, layers, outside)


def _mean(parts: list[tuple[float, float, float]]) -> tuple[float, float]:
    """Density and viscosity of one or two liquids: by volume, and by mass."""
    mass = sum(part[0] for part in parts)
    return mass / sum(m / density for m, density, _ in parts), sum(m * viscosity for m, _, viscosity in parts) / mass


def _profile(points: list[_Point]) -> Profile:
    states = [point.state for point in points]
    columns = (
        column("pressure", "Pressure", "pressure", [state.pressure for state in states]),
        column("temperature", "Temperature", "temperature", [state.temperature for state in states]),
        column("velocity", "Velocity", "velocity", [point.velocity for point in points]),
        column("density", "Density", "density", [point.density for point in points]),
        column("vapour_fraction", "Vapour fraction", "fraction", [state.vapour_fraction for state in states]),
    )
    along = column("length", "Length from the inlet", "length", [point.z for point in points])
    return Profile("along", "Along the pipe", along, columns, ports=(ProfilePort("inlet", 0.0), ProfilePort("outlet", points[-1].z)))
