"""Heat and shaft streams: the ports for them, who sets what they carry, and what their boundaries and headers share.

A stream into the inlet port of a unit sets the heat or work of that unit; a stream from its outlet port carries what the unit gives. A boundary
or a branch of a header without a given follows: it supplies what the unit at the other end needs, so the stream is calculated from there.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

from wattaxis.quantities import Quantity
from wattaxis.unitops.base import (
    EnergyState,
    Field,
    Finding,
    Givens,
    Port,
    ResultValue,
    StreamKind,
    StreamState,
    UnitFault,
    UnitOperation,
    UnitResult,
    UnitSpec,
)

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel

HEAT_IN, HEAT_OUT, SHAFT_IN, SHAFT_OUT = "heat_in", "heat_out", "shaft_in", "shaft_out"


def heat_ports(enters: tuple[float, float], leaves: tuple[float, float]) -> tuple[Port, Port]:
    """Ports for heat at two places of the symbol."""
    return (
        Port(HEAT_IN, "Heat taken", "in", needed=False, place=enters, kind="heat"),
        Port(HEAT_OUT, "Heat given", "out", needed=False, place=leaves, kind="heat"),
    )


HEAT_PORTS = heat_ports((0.35, 0.0), (0.65, 0.0))
#: Of a vessel, whose head and foot have nozzles of their own.
VESSEL_HEAT_PORTS = heat_ports((0.0, 0.8), (1.0, 0.8))
SHAFT_PORTS = (
    Port(SHAFT_IN, "Shaft driving", "in", needed=False, place=(0.35, 0.0), kind="shaft"),
    Port(SHAFT_OUT, "Shaft driven", "out", needed=False, place=(0.65, 0.0), kind="shaft"),
)


def heat_given(givens: Givens, heat: float, low: float | None = None, high: float | None = None) -> tuple[float, dict[str, EnergyState]]:
    """Of the ``heat`` (W) that a unit takes up between ``low`` and ``high`` (K): what comes from outside, and what its heat streams carry."""
    return _parted(givens, EnergyState("heat", heat, low, high), HEAT_IN, HEAT_OUT)


def work_given(givens: Givens, work: float) -> tuple[float, dict[str, EnergyState]]:
    """Of the ``work`` (W) that goes into a unit by its shaft: what comes from outside, and what its shaft streams carry."""
    return _parted(givens, EnergyState("shaft", work), SHAFT_IN, SHAFT_OUT)


def _parted(givens: Givens, taken: EnergyState, by: str, to: str) -> tuple[float, dict[str, EnergyState]]:
    if by in givens.connected and to in givens.connected:
        raise UnitFault(f"All {taken.kind} of this unit comes by one stream, so it has none to give to another.", "Connect one of the two only.")
    if by in givens.energy:
        return 0.0, {}
    if by in givens.connected:  # from a boundary that follows
        return 0.0, {by: taken}
    if to in givens.connected:
        return 0.0, {to: EnergyState(taken.kind, -taken.power, taken.low, taken.high)}
    return taken.power, {}


def heat_crossing(givens: Givens, low: float, high: float, port: str = HEAT_IN) -> list[Finding]:
    """What is to be said where heat is taken up between ``low`` and ``high`` (K) from streams that were not warm enough for it, or too warm."""
    found = []
    for stream in givens.energy.get(port, ()):
        if stream.low is None or stream.high is None or stream.power == 0.0:
            continue
        apart = min(stream.high - high, stream.low - low) if stream.power > 0.0 else min(high - stream.high, low - stream.low)
        if apart < 0.0:
            text = (
                f"{abs(stream.power) / 1e3:.4g} kW pass between {stream.low:.4g} to {stream.high:.4g} K on one side"
                f" and {low:.4g} to {high:.4g} K on the other: the temperatures cross by {-apart:.3g} K, and no exchanger can do it."
            )
            found.append(Finding("caution", "", text, "Take the heat from a warmer place, or give it to a colder one."))
    return found


class BoundarySpec(UnitSpec):
    """The power, blank where it follows from the unit at the other end."""

    power: Quantity | None = None


class HeatBoundarySpec(BoundarySpec):
    """The power, and the temperature at which the heat is given or taken."""

    temperature: Quantity | None = None


class HeatSinkSpec(UnitSpec):
    """The temperature at which the heat is taken."""

    temperature: Quantity | None = None


def power_field(port: str) -> Field:
    """The power that leaves by the port of a supply."""
    return Field("power", "Power", "power", "blank: what the unit at the other end needs", port=port)


LEVEL = Field("temperature", "Temperature", "temperature", "at which the heat is given or taken; blank: not looked at")


class Supply(UnitOperation):
    """Base of boundaries that supply heat or work: a given power, or as much as the unit at the other end needs."""

    symbol = "energy-in"
    family = "energy"

    def follows(self, spec: UnitSpec) -> frozenset[str]:
        """Without a given power."""
        return frozenset() if getattr(spec, "power", None) is not None else frozenset({self.ports[0].key})

    def solve(self, givens: Givens, inlets: Mapping[str, Sequence[StreamState]], model: PropertyModel, outlets: frozenset[str]) -> UnitResult:
        """The given, or what is needed."""
        port = self.ports[0]
        level, power = givens.si("temperature") if "temperature" in givens.fields else None, givens.si("power")
        findings: list[Finding] = []
        if power is None:
            power = givens.power(port.key) or 0.0
            if level is not None:
                # Seen from the boundary, the other end gives a negative heat.
                seen = {port.key: [EnergyState(e.kind, -e.power, e.low, e.high) for e in givens.energy.get(port.key, ())]}
                findings = heat_crossing(Givens(givens.spec, givens.fields, energy=seen), level, level, port.key)
            return UnitResult({}, 0.0, (ResultValue("power", "Power", "power", power),), tuple(findings))
        carried = EnergyState(port.kind, power, level, level)
        return UnitResult({}, 0.0, (ResultValue("power", "Power", "power", power),), energies={port.key: carried})


class Sink(UnitOperation):
    """Base of boundaries that take what comes."""

    symbol = "energy-out"
    family = "energy"

    def solve(self, givens: Givens, inlets: Mapping[str, Sequence[StreamState]], model: PropertyModel, outlets: frozenset[str]) -> UnitResult:
        """What comes."""
        port = self.ports[0].key
        level = givens.si("temperature") if "temperature" in givens.fields else None
        power = givens.power(port) or 0.0
        findings = [] if level is None else heat_crossing(givens, level, level, port)
        return UnitResult({}, 0.0, (ResultValue("power", "Power", "power", power),), tuple(findings))


#: The first branch takes the remainder.
BRANCHES = (2, 3, 4)


class HeaderSpec(UnitSpec):
    """The power of each branch but the first, blank where it follows from the unit at the other end."""

    power_2: Quantity | None = None
    power_3: Quantity | None = None
    power_4: Quantity | None = None


HEADER_FIELDS = tuple(
    Field(f"power_{k}", f"Power of branch {k}", "power", "blank: what the unit at the other end needs", port=f"outlet_{k}") for k in BRANCHES
)


def header_ports(kind: StreamKind) -> tuple[Port, ...]:
    """Any number of inlets, up to four branches."""
    inlet = Port("inlet", "Inlet", "in", many=True, place=(0.0, 0.5), kind=kind)
    rest = Port("outlet_1", "Branch 1, remainder", "out", place=(1.0, 0.2), kind=kind)
    return (inlet, rest, *(Port(f"outlet_{k}", f"Branch {k}", "out", needed=False, place=(1.0, 0.2 * k), kind=kind) for k in BRANCHES))


class Header(UnitOperation):
    """Base of what brings heat or shafts together and shares them out: the first branch takes the remainder, the others what is given or needed."""

    symbol = "header"
    family = "energy"
    Spec = HeaderSpec
    fields = HEADER_FIELDS

    def follows(self, spec: UnitSpec) -> frozenset[str]:
        """The branches without a given power."""
        return frozenset(f"outlet_{k}" for k in BRANCHES if getattr(spec, f"power_{k}") is None)

    def settles(self, port: str) -> bool:
        """What its branches need."""
        return True

    def solve(self, givens: Givens, inlets: Mapping[str, Sequence[StreamState]], model: PropertyModel, outlets: frozenset[str]) -> UnitResult:
        """What comes in, shared out: as given, as asked for, and the remainder by the first branch.

        From a supply that follows, the header asks for what its branches need beyond what comes in otherwise; then nothing remains.
        """
        kind = self.ports[0].kind
        streams = givens.energy.get("inlet", ())
        total = sum(e.power for e in streams)
        lows, highs = [e.low for e in streams if e.low is not None], [e.high for e in streams if e.high is not None]
        low, high = (min(lows), min(highs)) if len(lows) == len(streams) == len(highs) and streams else (None, None)
        given = {k: givens.si(f"power_{k}") or 0.0 for k in BRANCHES if f"outlet_{k}" in givens.connected and f"outlet_{k}" not in givens.energy}
        asked = {k: power for k in BRANCHES if (power := givens.power(f"outlet_{k}")) is not None}
        rest = total - sum(given.values()) - sum(asked.values())
        needed, findings = 0.0, []
        if "inlet" in outlets:
            needed, rest = -rest, 0.0
            total += needed
            if "outlet_1" in givens.connected:
                text = "The other branches need all the power supplied, so nothing remains for branch 1."
                findings.append(Finding("caution", "", text, "Give the supply a power, or use another branch."))
        if rest < -1e-9 * abs(total) and total > 0.0:
            text = f"The remainder is negative: the other branches take {-rest / 1e3:.4g} kW more than the {total / 1e3:.4g} kW that come in."
            findings.append(Finding("caution", "", text, "Supply more, or let the branches take less."))
        values = (
            ResultValue("power", "Power in all", "power", total),
            ResultValue("power_1", "Power of branch 1, remainder", "power", rest),
            *(ResultValue(f"power_{k}", f"Power of branch {k}", "power", p) for k, p in sorted({**given, **asked}.items())),
        )
        energies = {f"outlet_{k}": EnergyState(kind, p, low, high) for k, p in {1: rest, **given}.items()}
        if "outlet_1" not in givens.connected:
            del energies["outlet_1"]
        if "inlet" in outlets:
            energies["inlet"] = EnergyState(kind, needed, low, high)
        return UnitResult({}, 0.0 if "outlet_1" in givens.connected else -rest, values, tuple(findings), energies=energies)
