"""What a calculation gives back: plain data, SI units, keyed by the document it came from."""

from __future__ import annotations

from dataclasses import asdict, dataclass, field
from typing import Any, Literal

from wattaxis.unitops import Ask, Finding, ResultValue, StreamState

#: "open": values missing; "ready": complete, but waiting for something upstream; "current": calculated; "fault".
Mark = Literal["open", "ready", "current", "fault"]


@dataclass(frozen=True)
class StreamResult:
    """One stream. K, Pa, mol/s, kg/s, W, J/mol, J/(mol K), kg/m3; fractions per component id."""

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


@dataclass(frozen=True)
class UnitState:
    """State mark, calculated values and basis note of one unit."""

    tag: str
    mark: Mark
    values: tuple[ResultValue, ...] = ()
    basis: str = ""


@dataclass(frozen=True)
class Assumption:
    """A value that nobody gave and the program supplied."""

    place: str
    field: str
    title: str
    value: float
    unit: str
    reason: str


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
    """

    complete: bool = False
    streams: dict[str, StreamResult] = field(default_factory=dict)
    units: dict[str, UnitState] = field(default_factory=dict)
    asks: list[Ask] = field(default_factory=list)
    findings: list[Finding] = field(default_factory=list)
    assumptions: list[Assumption] = field(default_factory=list)
    balance: Balance = field(default_factory=Balance)
    model: str = ""

    def to_data(self) -> dict[str, Any]:
        """Plain data for JSON."""
        return asdict(self)

    def _repr_html_(self) -> str:
        rows = "".join(
            f"<tr><td>{s.tag}</td><td>{s.temperature:.6g}</td><td>{s.pressure:.6g}</td><td>{s.vapour_fraction:.6g}</td>"
            f"<td>{s.mole_flow:.6g}</td><td>{s.mass_flow:.6g}</td></tr>"
            for s in self.streams.values()
        )
        head = "<tr><th>stream</th><th>T, K</th><th>P, Pa</th><th>vapour, mol/mol</th><th>mol/s</th><th>kg/s</th></tr>"
        return f"<table>{head}{rows}</table>"


def stream_result(tag: str, stream: StreamState) -> StreamResult:
    """The public numbers of a stream."""
    state = stream.state
    ids = [c.id for c in state.model.components]
    mass = state.fractions * state.model.molar_masses
    molar_mass = float(mass.sum())
    volume = state.molar_volume if all(p.molar_volume > 0 for p in state.phases) else None
    liquid, vapour = state.liquid, state.vapour

    def named(values: Any) -> dict[str, float]:
        return {c: float(v) for c, v in zip(ids, values, strict=True)}

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
    )
