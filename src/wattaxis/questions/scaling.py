"""The whole plant brought to a yearly production in one step: flows in fixed proportion, and what depends on size named."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping
from dataclasses import asdict, dataclass
from typing import TYPE_CHECKING, Any, Protocol

from wattaxis.flowsheet import Document, StudyInput, Varied
from wattaxis.flowsheet.givens import given_at
from wattaxis.flowsheet.model import resolve
from wattaxis.quantities import Quantity, to_si
from wattaxis.unitops.base import Field
from wattaxis.unitops.composition import Composition
from wattaxis.unitops.table import GivenTable

if TYPE_CHECKING:
    from wattaxis.flowsheet import Aim, Study, Unit
    from wattaxis.solving.results import StreamResult

DAY = 86400.0
#: Kinds of quantity that go in proportion with the flows at the same states, and those that settle a size in another way.
IN_PROPORTION = ("flow", "mole_flow", "mass_flow", "volume_flow", "power", "conductance", "volume", "mass", "flow_coefficient", "count")
OF_SIZE = ("length", "height")


class Calculated(Protocol):
    """What scaling takes of a result."""

    @property
    def streams(self) -> Mapping[str, StreamResult]: ...


@dataclass(frozen=True)
class Scaled:
    """A given that changes: where, what, the texts before and after."""

    place: str
    title: str
    before: str
    after: str


@dataclass(frozen=True)
class Scaling:
    """The factor, the edits that bring the plant there, what they change, and the givens of size that stay as they are and want a look."""

    factor: float
    edits: tuple[dict[str, Any], ...]
    changes: tuple[Scaled, ...]
    marked: tuple[str, ...]

    def to_data(self) -> dict[str, Any]:
        """Plain data for JSON."""
        return asdict(self)


def scale_to_production(document: Document, result: Calculated, stream: str, amount: Quantity, days: float, component: str | None = None) -> Scaling:
    """Bring a stream, or a component in it, to ``amount`` (a mass) a year of ``days`` operating days (at most 366).

    All flows, powers, conductances, volumes, numbers of equal pieces and targets of that kind are given in the same proportion, so that every state
    stays as it is. Raises ValueError where the stream is not calculated, carries none of it, or the numbers make no sense.
    """
    if not 0.0 < days <= 366.0:
        raise ValueError(f"A year has up to 366 operating days, not {days:g}.")
    wanted = to_si(amount, "mass") / (days * DAY)
    if wanted <= 0.0:
        raise ValueError("A yearly production must be above zero.")
    known = result.streams.get(stream)
    if known is None:
        raise ValueError(f"{stream} is not calculated, so there is nothing to scale from.")
    now = known.mass_flow if component is None else _component_flow(document, known, component)
    if not now > 0.0:
        raise ValueError(f"{stream} carries no {component or 'flow'} now, so no factor leads to more of it.")
    factor = wanted / now
    edits: list[dict[str, Any]] = []
    changes: list[Scaled] = []
    marked: list[str] = []
    for unit in document.units:
        values = dict(_values(unit, factor, changes))
        if values:
            edits.append({"kind": "set_values", "unit": unit.tag, "values": values})
        marked += _sizes(unit)
    edits += [edit for aim in document.aims for edit in _aim(document, aim, factor, changes)]
    edits += [edit for study in document.studies for edit in _study(document, study, factor)]
    return Scaling(factor, tuple(edits), tuple(changes), tuple(marked))


def _component_flow(document: Document, stream: StreamResult, component: str) -> float:
    item = next((c for c in document.chemistry.components if c.id == component), None)
    if item is None:
        raise ValueError(f"There is no component {component} in this plant.")
    return stream.mole_flows[component] * resolve(item).molar_mass


def _values(unit: Unit, factor: float, changes: list[Scaled]) -> Iterator[tuple[str, Any]]:
    """The givens of a unit that change, as plain data, each told in ``changes``."""
    for key, field in unit.operation.field_map().items():
        given = getattr(unit.spec, key)
        if isinstance(given, Quantity) and field.kind in IN_PROPORTION and given.value != 0.0:
            new = _times(given, factor)
            changes.append(Scaled(unit.tag, field.title, str(given), str(new)))
            yield key, new.model_dump(mode="json")
        elif isinstance(given, Composition) and given.is_flow:
            scaled = {name: _times(value, factor) for name, value in given.values.items()}
            changes += [Scaled(unit.tag, f"Flow of {name}", str(value), str(scaled[name])) for name, value in given.values.items()]
            yield key, given.model_copy(update={"values": scaled}).model_dump(mode="json")
        elif isinstance(given, GivenTable) and not field.known:
            yield from _cells(unit, field, given, factor, changes)


def _cells(unit: Unit, field: Field, table: GivenTable, factor: float, changes: list[Scaled]) -> Iterator[tuple[str, Any]]:
    columns = [column for column in field.columns if column.kind in IN_PROPORTION]
    for number, row in enumerate(table.rows, 1):
        for column in columns:
            cell = row.cells.get(column.key)
            if isinstance(cell, Quantity) and cell.value != 0.0:
                new = _times(cell, factor)
                changes.append(Scaled(unit.tag, f"{field.title}, row {number}: {column.title.lower()}", str(cell), str(new)))
                yield f"{field.key}[{row.id}].{column.key}", new.model_dump(mode="json")


def _sizes(unit: Unit) -> list[str]:
    fields = unit.operation.field_map()
    found = [f for key, f in fields.items() if f.kind in OF_SIZE and getattr(unit.spec, key) is not None]
    texts = [f"{unit.tag}: {field.title.lower()} {getattr(unit.spec, field.key)} stays, and is not scaled with the flow" for field in found]
    return texts + [
        f"{unit.tag}: its {f.title.lower()} is that of one machine of one size"
        for f in fields.values()
        if f.known and f.kind == "table" and getattr(unit.spec, f.key)
    ]


def _aim(document: Document, aim: Aim, factor: float, changes: list[Scaled]) -> Iterator[dict[str, Any]]:
    unit = document.unit(aim.free.unit)
    given = given_at(unit, aim.free.field) if unit else None
    freed = given.kind if given else ""
    new: dict[str, Quantity] = {}
    if _of_flow(aim.target):
        new["target"] = _times(aim.target, factor)
        changes.append(Scaled("Aims", aim.name, str(aim.target), str(new["target"])))
    if freed in IN_PROPORTION:
        new |= {name: _times(bound, factor) for name, bound in (("low", aim.low), ("high", aim.high)) if bound is not None}
    if new:
        yield {"kind": "set_aim", "name": aim.name, "aim": aim.model_copy(update=new).model_dump(mode="json", exclude_none=True)}


def _study(document: Document, study: Study, factor: float) -> Iterator[dict[str, Any]]:
    """The bounds between which a study varies what is scaled, and limits of flows."""
    inputs: list[Varied] = []
    for item in study.inputs:
        if not isinstance(item, StudyInput) or _kind_of(document, item) not in IN_PROPORTION:
            inputs.append(item)
            continue
        bounds = {name: None if bound is None else _times(bound, factor) for name, bound in (("low", item.low), ("high", item.high))}
        inputs.append(item.model_copy(update={**bounds, "values": tuple(_times(value, factor) for value in item.values)}))
    limits = []
    for limit in study.limits:
        ends = {name: _times(end, factor) for name, end in (("low", limit.low), ("high", limit.high)) if end is not None and _of_flow(end)}
        limits.append(limit.model_copy(update=ends))
    if (changed := study.model_copy(update={"inputs": tuple(inputs), "limits": tuple(limits)})) != study:
        yield {"kind": "set_study", "name": study.name, "study": changed.model_dump(mode="json", exclude_none=True)}


def _kind_of(document: Document, item: StudyInput) -> str:
    unit = document.unit(item.unit)
    given = given_at(unit, item.field) if unit else None
    return given.kind if given else ""


def _of_flow(quantity: Quantity) -> bool:
    for kind in ("mole_flow", "mass_flow", "volume_flow", "power"):
        try:
            to_si(quantity, kind)
        except ValueError:
            continue
        return bool(quantity.unit)
    return False


def _times(quantity: Quantity, factor: float) -> Quantity:
    """Ten digits are kept, which is more than anybody types."""
    value = quantity.value * factor
    return Quantity(value=float(f"{value:.10g}") if math.isfinite(value) else value, unit=quantity.unit)
