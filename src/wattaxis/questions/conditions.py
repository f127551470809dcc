"""Units of a calculated plant under other conditions: each is calculated alone, with what comes in hotter, at another pressure, or more of it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass
from typing import TYPE_CHECKING, Any, Protocol

from pydantic import BaseModel, ConfigDict, Field

from wattaxis.flowsheet.document import Document, load_data
from wattaxis.flowsheet.givens import with_given
from wattaxis.quantities import Quantity, QuantityError, to_si
from wattaxis.solving.memory import Memory
from wattaxis.solving.sequential import once

if TYPE_CHECKING:
    from wattaxis.flowsheet import Unit
    from wattaxis.flowsheet.document import End
    from wattaxis.solving.results import AimResult, EnergyResult, StreamResult
    from wattaxis.unitops.base import ResultValue
    from wattaxis.unitops.profile import Profile

#: Units and conditions at most.
MOST_UNITS, MOST_CONDITIONS = 8, 6
#: The inlet that conditions are about; all others stay as they are.
INLET = "inlet"


class Condition(BaseModel):
    """What is otherwise at the inlet: temperature and pressure, and the share of the flow; blank: as it is."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    temperature: Quantity | None = None
    pressure: Quantity | None = None
    flow: Quantity | None = None


class ConditionsQuestion(BaseModel):
    """Which units, by their tags, and under which conditions each of them."""

    model_config = ConfigDict(extra="forbid")

    units: list[str] = Field(min_length=1, max_length=MOST_UNITS)
    conditions: list[Condition] = Field(min_length=1, max_length=MOST_CONDITIONS)


class Calculated(Protocol):
    """What is taken of a result."""

    @property
    def streams(self) -> Mapping[str, StreamResult]: ...
    @property
    def energies(self) -> Mapping[str, EnergyResult]: ...
    @property
    def aims(self) -> Sequence[AimResult]: ...


@dataclass(frozen=True)
class Case:
    """A unit under one of the conditions (counted from 0): what it calculates, or the problem that it has."""

    unit: str
    condition: int
    values: tuple[ResultValue, ...]
    profiles: tuple[Profile, ...]
    problem: str = ""

    def to_data(self) -> dict[str, Any]:
        """Plain data for JSON."""
        return asdict(self)


@dataclass(frozen=True)
class Apart:
    """A plant of nothing but some units, each once for each condition; ``places``: tag there, tag in the whole plant, number of the condition."""

    document: Document
    places: tuple[tuple[str, str, int], ...]


def under_conditions(document: Document, result: Calculated, question: ConditionsQuestion) -> list[Case]:
    """Calculate units alone under other conditions, with what the plant brings them otherwise; aims keep the values that they found.

    Raises ValueError where a unit is not there, has no one inlet, or is not calculated, and for conditions that no stream has.
    """
    return calculate_apart(set_apart(document, result, question))


def set_apart(document: Document, result: Calculated, question: ConditionsQuestion) -> Apart:
    """The units with feeds and supplies for all that comes in. Raises as :func:`under_conditions`."""
    units: list[dict[str, Any]] = []
    streams: list[dict[str, Any]] = []
    places: list[tuple[str, str, int]] = []
    for tag in dict.fromkeys(question.units):
        unit = document.unit(tag)
        if unit is None:
            raise ValueError(f"There is no unit {tag}.")
        if sum(s.target.unit == tag and s.target.port == INLET for s in document.streams) != 1:
            raise ValueError(f"{tag} has no one inlet, so there is nothing to vary.")
        kept = with_found(unit, document, result).model_dump(mode="json", exclude_none=True)
        for number, condition in enumerate(question.conditions):
            name = f"U{len(places) + 1}"
            places.append((name, tag, number))
            units.append({**kept, "tag": name})
            for added, stream, _ in around(document, result, unit, name, condition):
                units.append(added)
                streams.append(stream)
    try:
        return Apart(small_plant(document, units, streams), tuple(places))
    except ValueError as error:
        raise ValueError(f"These conditions cannot be: {error}") from error


def small_plant(document: Document, units: list[dict[str, Any]], streams: list[dict[str, Any]]) -> Document:
    """A plant of other units and streams with the chemistry of a document. Raises ValueError."""
    whole = document.model_dump(mode="json", exclude_none=True)
    return load_data({key: whole[key] for key in ("format", "version", "chemistry")} | {"units": units, "streams": streams})


def calculate_apart(apart: Apart) -> list[Case]:
    """What the units calculate; what would do where one cannot is not looked for."""
    result, _, _ = once(apart.document, Memory(), None, "search")
    cases = []
    for name, tag, number in apart.places:
        state = result.units[name]
        # What is wrong may be wrong with what comes in.
        before = [s.source.unit for s in apart.document.streams if s.target.unit == name]
        texts = [f.text for f in result.findings if f.severity == "fault" and f.place in (name, *before)]
        texts += [ask.text for ask in result.asks if ask.place == name]
        problem = "" if state.values else " ".join(texts) or "It cannot be calculated."
        for feed in before:
            problem = problem.replace(feed, "what comes in")
        cases.append(Case(tag, number, state.values, state.profiles, problem.replace(name, tag)))
    return cases


def with_found(unit: Unit, document: Document, result: Calculated) -> Unit:
    """The unit with the values that aims found for it."""
    found = {aim.name: aim for aim in result.aims}
    for aim in document.aims:
        known = found.get(aim.name)
        if aim.active and aim.free.unit == unit.tag and known is not None and known.freed is not None:
            unit = with_given(unit, aim.free.field, Quantity(value=known.freed, unit=known.freed_si))
    return unit


def around(document: Document, result: Calculated, unit: Unit, name: str, condition: Condition) -> list[tuple[dict[str, Any], dict[str, Any], str]]:
    """What stands at the ports of a unit, the stream to it, and the stream of the whole plant that it stands for."""
    found: list[tuple[dict[str, Any], dict[str, Any], str]] = []
    for stream in document.streams:
        tag = f"{name}-{len(found) + 1}"
        if stream.target.unit == unit.tag:
            end = {"unit": name, "port": stream.target.port}
            if stream.tag in result.energies:
                power = {"power": {"value": result.energies[stream.tag].power, "unit": "W"}}
                source = ("heat-supply", "heat_out", {} if _follows(document, stream.source) else power)
            else:
                source = ("feed", "outlet", _feed(result, stream.tag, condition if stream.target.port == INLET else Condition()))
            kind, port, spec = source
            found.append(
                ({"tag": tag, "type": kind, "spec": spec}, {"tag": f"{tag}-S", "source": {"unit": tag, "port": port}, "target": end}, stream.tag)
            )
        elif stream.source.unit == unit.tag and stream.tag in result.streams:
            ends = {"source": {"unit": name, "port": stream.source.port}, "target": {"unit": tag, "port": "inlet"}}
            found.append(({"tag": tag, "type": "product", "spec": {}}, {"tag": f"{tag}-S", **ends}, stream.tag))
    return found


def _follows(document: Document, end: End) -> bool:
    """Whether what supplies heat there gives as much as the unit needs."""
    unit = document.unit(end.unit)
    return unit is not None and end.port in unit.operation.follows(unit.spec)


def _feed(result: Calculated, tag: str, condition: Condition) -> dict[str, Any]:
    """A feed like a stream, or otherwise as the condition says."""
    known = result.streams.get(tag)
    if known is None:
        raise ValueError(f"{tag} is not calculated, so nothing is known of what comes in.")
    try:
        times = 1.0 if condition.flow is None else to_si(condition.flow, "fraction")
        pressure = known.pressure if condition.pressure is None else to_si(condition.pressure, "pressure")
        temperature = None if condition.temperature is None else to_si(condition.temperature, "temperature")
    except QuantityError as error:
        raise ValueError(f"These conditions cannot be: {error}") from error
    if temperature is None and condition.pressure is not None:
        temperature = known.temperature
    # As it is it may boil, and then its temperature alone does not say how much of it is vapour.
    state = {"enthalpy": (known.molar_enthalpy, "J/mol")} if temperature is None else {"temperature": (temperature, "K")}
    given = {key: {"value": value, "unit": unit} for key, (value, unit) in {**state, "pressure": (pressure, "Pa")}.items()}
    flows = {name: {"value": times * flow, "unit": "mol/s"} for name, flow in known.mole_flows.items()}
    return {**given, "composition": {"basis": "mole_flow", "values": flows}}
