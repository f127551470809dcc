"""Compression in stages, laid out as real units: as many stages as a discharge temperature allows, equal ratios, coolers and drums between them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Any

from pydantic import BaseModel, ConfigDict

from wattaxis.flowsheet import Document, property_model
from wattaxis.flowsheet.pieces import free_tag
from wattaxis.properties.errors import FlashError
from wattaxis.quantities import Quantity, from_si, to_si
from wattaxis.solving.memory import Memory
from wattaxis.solving.sequential import solve
from wattaxis.unitops.pressure.machines import Efficiency, outlet_state

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel, State

MOST_STAGES = 12
#: A mole fraction of liquid after a cooler from which on a drum is put behind it.
WET = 1e-6
_STEP, _DOWN = 140.0, 110.0


class CompressionQuestion(BaseModel):
    """What is to be laid out in a stream: the pressure to reach, the discharge temperature not to be passed, the temperature that the coolers reach,
    the pressure loss of each cooler, isentropic efficiency, and whether the last stage is cooled too.

    >>> from wattaxis import Quantity
    >>> hot, warm, high = Quantity(value=140, unit="degC"), Quantity(value=35, unit="degC"), Quantity(value=20, unit="bar")
    >>> str(CompressionQuestion(stream="S-01", pressure=high, limit=hot, cooled_to=warm).loss)
    '0.2 bar'
    """

    model_config = ConfigDict(extra="forbid", frozen=True)

    stream: str
    pressure: Quantity
    limit: Quantity
    cooled_to: Quantity
    loss: Quantity = Quantity(value=0.2, unit="bar")
    efficiency: Quantity = Quantity(value=75.0, unit="%")
    aftercooler: bool = True


@dataclass(frozen=True)
class Stage:
    """One stage: outlet pressure (Pa), discharge temperature (K), power (W), mole fraction of liquid after its cooler."""

    pressure: float
    temperature: float
    power: float
    liquid: float


@dataclass(frozen=True)
class CompressionLayout:
    """The stages, the ratio of each, and the edit that lays them out."""

    ratio: float
    stages: tuple[Stage, ...]
    edit: dict[str, Any]
    notes: tuple[str, ...] = field(default=())


def lay_out_compression(document: Document, question: CompressionQuestion, memory: Memory | None = None) -> CompressionLayout:
    """Lay out a compression in a stream of a plant that is calculated up to there. Raises ValueError.

    >>> from wattaxis import Document
    >>> from wattaxis import Quantity
    >>> hot, warm, high = Quantity(value=140, unit="degC"), Quantity(value=35, unit="degC"), Quantity(value=20, unit="bar")
    >>> lay_out_compression(Document(), CompressionQuestion(stream="S-01", pressure=high, limit=hot, cooled_to=warm))
    Traceback (most recent call last):
        ...
    ValueError: There is no stream S-01.
    """
    line = document.stream(question.stream)
    if line is None:
        raise ValueError(f"There is no stream {question.stream}.")
    result = solve(document, memory=memory)
    known = result.streams.get(question.stream)
    if known is None:
        raise ValueError(f"{question.stream} is not calculated yet: its temperature, pressure and composition are needed.")
    model = property_model(document.chemistry)
    z = [known.mole_fractions[c.id] for c in model.components]
    start = model.flash(z, T=known.temperature, P=known.pressure)
    target = to_si(question.pressure, "pressure")
    if target <= known.pressure * 1.0001:
        raise ValueError(f"{question.stream} has {known.pressure / 1e5:.4g} bar already; give a higher pressure.")
    stages, ratio = _fewest(model, start, known.mole_flow, question, target)
    notes = []
    if 1.0 - start.vapour_fraction > WET:
        notes.append(f"{100 * (1 - start.vapour_fraction):.3g} % of {question.stream} is liquid: a drum is put before the first stage.")
    return CompressionLayout(ratio, tuple(stages), _edit(document, question, stages, ratio, 1.0 - start.vapour_fraction > WET), tuple(notes))


def _fewest(model: PropertyModel, start: State, flow: float, question: CompressionQuestion, target: float) -> tuple[list[Stage], float]:
    limit = to_si(question.limit, "temperature")
    hottest = 0.0
    for count in range(1, MOST_STAGES + 1):
        try:
            stages, ratio = _equal(model, start, flow, question, target, count)
        except FlashError:
            continue
        hottest = max(stage.temperature for stage in stages)
        if hottest <= limit:
            return stages, ratio
    raise ValueError(
        f"Even {MOST_STAGES} stages reach {hottest - 273.15:.1f} degC; raise the limit of {limit - 273.15:.1f} degC or cool to a lower temperature."
    )


def _equal(model: PropertyModel, start: State, flow: float, question: CompressionQuestion, target: float, count: int) -> tuple[list[Stage], float]:
    """``count`` stages of one ratio that end at ``target`` behind the last cooler. Raises FlashError and ValueError."""
    loss = to_si(question.loss, "pressure_difference")
    coolers = count if question.aftercooler else count - 1
    ratio = (target / start.pressure) ** (1.0 / count)
    for _ in range(60):
        level = start.pressure
        for k in range(count):
            level = level * ratio - (loss if k < coolers else 0.0)
        if level <= 0.0:
            raise ValueError("The coolers lose more pressure than the stages give; lower the loss.")
        step = (target / level) ** (1.0 / count)
        ratio *= step
        if abs(step - 1.0) < 1e-13:
            break
    efficiency = Efficiency(to_si(question.efficiency, "fraction"), False)
    state, found = start.part("vapour") if start.vapour_fraction < 1.0 else start, []
    flow *= start.vapour_share
    for k in range(count):
        outlet, _rise = outlet_state(model, state, state.pressure * ratio, efficiency, False)
        power = flow * (outlet.enthalpy - state.enthalpy)
        cooled = outlet
        if k < coolers:
            cold = min(to_si(question.cooled_to, "temperature"), outlet.temperature)
            cooled = model.flash(state.fractions, T=cold, P=outlet.pressure - loss)
        found.append(Stage(outlet.pressure, outlet.temperature, power, 1.0 - cooled.vapour_fraction))
        flow *= cooled.vapour_share
        state = cooled.part("vapour") if 0.0 < cooled.vapour_fraction < 1.0 else cooled
    return found, ratio


def _edit(document: Document, question: CompressionQuestion, stages: Sequence[Stage], ratio: float, wet: bool) -> dict[str, Any]:
    """One batch: the stream opened, the units put in one after the other, and closed again."""
    line = document.stream(question.stream)
    assert line is not None
    source = document.unit(line.source.unit)
    assert source is not None
    taken = {u.tag for u in document.units} | {s.tag for s in document.streams}
    edits: list[dict[str, Any]] = [{"kind": "disconnect", "tag": question.stream}]
    x, y = source.x, source.y + 2.0 * _DOWN
    end = {"unit": line.source.unit, "port": line.source.port}
    first = True

    def name(letter: str) -> str:
        taken.add(tag := free_tag(taken, letter))
        return tag

    def join(source: dict[str, str], target: dict[str, str]) -> None:
        nonlocal first
        tag = question.stream if first else name("S")
        first = False
        edits.append({"kind": "connect", "stream": {"tag": tag, "source": source, "target": target}})

    def put(letter: str, kind: str, spec: dict[str, Any], outlet: str) -> None:
        nonlocal x, end
        x += _STEP
        tag = name(letter)
        edits.append({"kind": "add_unit", "unit": {"tag": tag, "type": kind, "spec": spec, "x": x, "y": y}})
        join(end, {"unit": tag, "port": "inlet"})
        end = {"unit": tag, "port": outlet}

    def drum() -> None:
        put("V", "drum", {"duty": {"value": 0.0, "unit": "kW"}}, "vapour")
        drain = name("Z")
        edits.append({"kind": "add_unit", "unit": {"tag": drain, "type": "product", "spec": {}, "x": x + 20.0, "y": y + 1.6 * _DOWN}})
        join({"unit": end["unit"], "port": "liquid"}, {"unit": drain, "port": "inlet"})

    if wet:
        drum()
    shown = question.pressure.unit
    for k, stage in enumerate(stages):
        last = k == len(stages) - 1
        rise = {"pressure_ratio": {"value": ratio, "unit": ""}}
        if last and not question.aftercooler:
            rise = {"outlet_pressure": {"value": from_si(stage.pressure, shown), "unit": shown}}
        machine = {"efficiency": question.efficiency.model_dump(mode="json"), "temperature_limit": question.limit.model_dump(mode="json")}
        put("K", "compressor", {**rise, **machine}, "outlet")
        if last and not question.aftercooler:
            continue
        loss = {"value": -question.loss.value, "unit": question.loss.unit}
        put("E", "cooler", {"outlet_temperature": question.cooled_to.model_dump(mode="json"), "pressure_change": loss}, "outlet")
        if stage.liquid > WET:
            drum()
    join(end, {"unit": line.target.unit, "port": line.target.port})
    return {"kind": "batch", "edits": edits, "label": f"laid out a compression in {len(stages)} stages in {question.stream}"}
