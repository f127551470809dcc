"""What a calculation gives back: plain data, SI units, keyed by the document it came from."""

from __future__ import annotations

import dataclasses
import math
from collections.abc import Mapping
from dataclasses import asdict, dataclass, field
from typing import TYPE_CHECKING, Any, Literal

from wattaxis.properties.tables import WithUnits, frame, html_table
from wattaxis.unitops import Ask, Finding, ResultValue, StreamState
from wattaxis.unitops.base import StreamKind
from wattaxis.unitops.profile import Profile

if TYPE_CHECKING:
    from wattaxis.properties.state import Phase, State

#: "open": values missing; "ready": complete, but waiting for something upstream; "current": calculated; "fault".
Mark = Literal["open", "ready", "current", "fault"]
_COLUMNS = (
    ("temperature, K", "temperature"),
    ("pressure, Pa", "pressure"),
    ("vapour fraction, mol/mol", "vapour_fraction"),
    ("mole flow, mol/s", "mole_flow"),
    ("mass flow, kg/s", "mass_flow"),
    ("enthalpy flow, W", "enthalpy_flow"),
    ("volume flow, m3/s", "volume_flow"),
    ("molar enthalpy, J/mol", "molar_enthalpy"),
    ("molar entropy, J/(mol K)", "molar_entropy"),
    ("density, kg/m3", "density"),
    ("solids, kg/kg", "solids_fraction"),
)


@dataclass(frozen=True)
class PhaseResult(WithUnits):
    """One phase of a stream: its mole share, J/(mol K), kg/m3, Pa s, W/(m K), N/m; None where there is no value."""

    kind: str
    share: float
    heat_capacity: float
    compressibility: float | None
    density: float | None
    viscosity: float | None = None
    conductivity: float | None = None
    surface_tension: float | None = None
    notes: tuple[str, ...] = ()


@dataclass(frozen=True)
class StreamResult(WithUnits):
    """One stream. K, Pa, mol/s, kg/s, W, J/mol, J/(mol K), kg/m3; fractions per component id.

    ``vapour_fraction`` counts the fluid alone; ``solids_fraction`` is the mass fraction of conventional solids in the whole. ``money_flow`` (EUR/s)
    sums what its components are worth, None where one that flows has no price. ``doubts`` names the pairs of its equilibrium that nobody measured,
    ``doubts_upstream`` those that only what it comes from rests on.
    """

    tag: str
    temperature: float
    pressure: float
    vapour_fraction: float
    phase: str
    mole_flow: float
    mass_flow: float
    volume_flow: float | None
    enthalpy_flow: float
    molar_enthalpy: float
    molar_entropy: float
    molar_mass: float
    density: float | None
    mole_fractions: dict[str, float]
    mass_fractions: dict[str, float]
    mole_flows: dict[str, float]
    liquid_fractions: dict[str, float] | None
    vapour_fractions: dict[str, float] | None
    solids_fraction: float = 0.0
    money_flow: float | None = None
    phases: tuple[PhaseResult, ...] = ()
    doubts: tuple[str, ...] = ()
    doubts_upstream: tuple[str, ...] = ()


@dataclass(frozen=True)
class EnergyResult:
    """One heat or shaft stream: W along its arrow; between which temperatures (K) the heat is given off, where that is known."""

    tag: str
    kind: StreamKind
    power: float
    low: float | None = None
    high: float | None = None


@dataclass(frozen=True)
class UnitState:
    """State mark, calculated values and basis note of one unit."""

    tag: str
    mark: Mark
    values: tuple[ResultValue, ...] = ()
    basis: str = ""
    profiles: tuple[Profile, ...] = ()
    #: Heat and work from outside the sheet, W.
    energy_in: float = 0.0

    def __getitem__(self, key: str) -> float:
        """A calculated value by its name, SI. Raises KeyError that names those there are.

        >>> UnitState("E-1", "current", (ResultValue("duty", "Duty", "power", 5e3),))["duty"]
        5000.0
        """
        for value in self.values:
            if value.name == key:
                return value.value
        raise KeyError(f"{self.tag} has no result {key!r}; it has {', '.join(v.name for v in self.values) or 'none'}.")

    def profile(self, key: str = "") -> Profile:
        """A table of results by its key, the first without one. Raises KeyError that names those there are."""
        for found in self.profiles:
            if key in ("", found.key):
                return found
        raise KeyError(f"{self.tag} has no profile {key!r}; it has {', '.join(p.key for p in self.profiles) or 'none'}.")


@dataclass(frozen=True)
class Assumption:
    """A value that nobody gave and the program supplied: a number with its unit, or an option."""

    place: str
    field: str
    title: str
    value: float | str
    unit: str
    reason: str


@dataclass(frozen=True)
class PinResult:
    """The value of a pin in SI with its kind of quantity (None where no kind fits) and SI unit, or the problem that it has."""

    name: str
    formula: str
    value: float | None = None
    kind: str | None = None
    unit: str = ""
    problem: str = ""


@dataclass(frozen=True)
class AimResult:
    """What became of an aim, SI: the value that was reached, its target, the value of the given that it frees, and the slope of one by the other.

    ``state``: "met"; "missed" (the value is the best that was found, and ``text`` says what limits it); "paused"; "open" (it cannot be pursued).
    ``history`` holds the largest relative gap of every calculation of the search.
    """

    name: str
    formula: str
    unit: str
    field: str
    state: Literal["met", "missed", "paused", "open"]
    value: float | None = None
    target: float | None = None
    kind: str | None = None
    freed: float | None = None
    freed_kind: str = ""
    freed_si: str = ""
    slope: float | None = None
    text: str = ""
    history: list[float] = dataclasses.field(default_factory=list)


@dataclass(frozen=True)
class LoopResult:
    """How a recycle was closed: its units in order, torn streams, the largest relative change of each pass, what changed most in the last one."""

    units: tuple[str, ...]
    tears: tuple[str, ...]
    closed: bool
    history: list[float]
    slowest: str = ""
    method: str = ""


@dataclass(frozen=True)
class Balance:
    """Closure of the whole sheet: what enters minus what leaves, relative to what enters."""

    mass_in: float = 0.0
    mass_out: float = 0.0
    energy_in: float = 0.0
    energy_out: float = 0.0
    mass_gap: float = 0.0
    energy_gap: float = 0.0


@dataclass
class SolveResult:
    """Everything a calculation says of a document.

    ``complete`` is true when every unit is calculated. ``asks`` lists what is missing, ``findings`` what is worth telling.

    >>> from wattaxis import Document, edit, solve
    >>> plant = edit(Document(), "add_unit", unit={"tag": "F-101", "type": "feed", "spec": {}})
    >>> result = solve(plant)
    >>> result.complete, result.units["F-101"].mark, result.asks[0].place
    (False, 'open', 'Chemistry')
    """

    complete: bool = False
    streams: dict[str, StreamResult] = field(default_factory=dict)
    units: dict[str, UnitState] = field(default_factory=dict)
    asks: list[Ask] = field(default_factory=list)
    findings: list[Finding] = field(default_factory=list)
    assumptions: list[Assumption] = field(default_factory=list)
    balance: Balance = field(default_factory=Balance)
    model: str = ""
    pins: list[PinResult] = field(default_factory=list)
    loops: list[LoopResult] = field(default_factory=list)
    aims: list[AimResult] = field(default_factory=list)
    energies: dict[str, EnergyResult] = field(default_factory=dict)

    def to_data(self) -> dict[str, Any]:
        """Plain data for JSON."""
        return asdict(self)

    def to_frame(self) -> Any:
        """The streams as a pandas frame: one row a stream, SI units in the column names. Raises ImportError where pandas is not installed.

        >>> from wattaxis import Document, solve
        >>> list(solve(Document()).to_frame().columns[:2])
        ['temperature, K', 'pressure, Pa']
        """
        return frame([c for c, _ in _COLUMNS], {s.tag: [getattr(s, a) for _, a in _COLUMNS] for s in self.streams.values()})

    def _repr_html_(self) -> str:
        head = ["stream", *(title for title, _ in _COLUMNS[:6])]
        streams = [[s.tag, *(getattr(s, a) for _, a in _COLUMNS[:6])] for s in self.streams.values()]
        told = [[f.severity, f.place, f"{f.text} {f.remedy}".strip()] for f in self.findings] + [["ask", a.place, a.text] for a in self.asks]
        return html_table(head, streams) + (html_table(["", "where", "what"], told) if told else "")


def stream_result(tag: str, stream: StreamState, prices: Mapping[str, float]) -> StreamResult:
    """The public numbers of a stream; ``prices`` are EUR/kg by component id."""
    state = stream.state
    ids = [c.id for c in state.model.components]
    mass = state.fractions * state.model.molar_masses
    molar_mass = float(mass.sum())
    volume = state.molar_volume if all(p.molar_volume > 0 for p in state.phases) else None
    liquid, vapour = state.liquid, state.vapour

    def named(values: Any) -> dict[str, float]:
        return {c: float(v) for c, v in zip(ids, values, strict=True)}

    masses = dict(zip(ids, map(float, mass * stream.flow), strict=True))
    worth = sum(masses[c] * price for c, price in prices.items()) if prices and all(c in prices or not m for c, m in masses.items()) else None
    return StreamResult(
        tag=tag,
        temperature=state.temperature,
        pressure=state.pressure,
        vapour_fraction=state.vapour_fraction,
        phase=state.phase,
        mole_flow=stream.flow,
        mass_flow=stream.mass_flow,
        volume_flow=None if volume is None else volume * stream.flow,
        enthalpy_flow=stream.enthalpy_flow,
        molar_enthalpy=state.enthalpy,
        molar_entropy=state.entropy,
        molar_mass=molar_mass,
        density=None if volume is None else molar_mass / volume,
        mole_fractions=named(state.fractions),
        mass_fractions=named(mass / molar_mass),
        mole_flows=named(stream.flows),
        liquid_fractions=None if liquid is None else named(liquid.fractions),
        vapour_fractions=None if vapour is None else named(vapour.fractions),
        solids_fraction=float(state.model.solids_of(mass).sum()) / molar_mass,
        money_flow=worth,
    )


def phase_results(state: State) -> tuple[PhaseResult, ...]:
    """The public numbers of the phases of a state; none where contradictory constants of a component let nothing be estimated."""
    found = tuple(_phase(state, share, phase) for share, phase in zip(state.amounts, state.phases, strict=True))
    known = (value for p in found for value in (p.viscosity, p.conductivity, p.surface_tension) if value is not None)
    return found if all(map(math.isfinite, known)) else ()


def _phase(state: State, share: float, phase: Phase) -> PhaseResult:
    if phase.kind == "solid":
        return PhaseResult(phase.kind, share, phase.heat_capacity, None, phase.density)
    moved = state.transport(phase)
    return PhaseResult(
        phase.kind,
        share,
        phase.heat_capacity,
        phase.compressibility or None,
        phase.density,
        moved.viscosity,
        moved.conductivity,
        moved.surface_tension,
        moved.notes,
    )
