"""Pressures that follow backwards: where a unit settles its own beside a change, a product wants one, or a closed circuit has to come back to one.

Of a saturation temperature the pressure follows from what comes: the composition of all feeds and charges upstream, where it is the same and nothing
parts or changes it on the way.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np

from wattaxis.flowsheet import Document, Unit, models_of
from wattaxis.properties import FlashError
from wattaxis.quantities import Quantity, to_si
from wattaxis.unitops import Finding

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel
    from wattaxis.unitops.pressures import PressureSide

#: Two pressures closer than this, relative, are the same.
SAME = 1e-9
#: Families of units that hand a pressure on as it comes.
_HANDING_ON = ("flow", "storage")
#: Families of units that leave a composition as it comes.
_LEAVING_ALONE = ("flow", "storage", "heat", "pressure")


@dataclass
class Inferred:
    """A document with the pressures that follow filled in, and what is to be said of them."""

    document: Document
    findings: list[Finding] = field(default_factory=list)


def infer_pressures(document: Document) -> Inferred:
    """Fill in what follows backwards from pressures that are given downstream. The document as typed is not changed."""
    work = _Work(document)
    for unit in document.units:
        work.demand(unit)
    if not work.changed:
        return Inferred(document, work.findings)
    units = tuple(work.units[u.tag] for u in document.units)
    return Inferred(document.model_copy(update={"units": units}), work.findings)


class _Work:
    def __init__(self, document: Document) -> None:
        self.document = document
        self.units = {u.tag: u for u in document.units}
        kinds = document.stream_kinds()
        #: Streams by the unit and port that they enter; the unit and port that each leaves.
        self.inlets: dict[str, dict[str, list[str]]] = {}
        self.sources: dict[str, tuple[str, str]] = {}
        for stream in document.streams:
            if kinds[stream.tag] == "material":
                self.inlets.setdefault(stream.target.unit, {}).setdefault(stream.target.port, []).append(stream.tag)
                self.sources[stream.tag] = (stream.source.unit, stream.source.port)
        self.findings: list[Finding] = []
        self.changed = False

    def demand(self, unit: Unit) -> None:
        """What a unit asks of the pressures at its inlets, if it does."""
        for port in unit.ports:
            inlets = self._into(unit, port.key) if port.direction == "in" else []
            if len(inlets) != 1:
                continue
            side = unit.operation.pressure_side(port.key)
            outlet, change, ratio = (_si(unit, key) for key in (side.outlet, side.change, side.ratio))
            if side.throughout:
                # A product wants what it says; a charge what it sends out, or the circuit would not close.
                if outlet is not None:
                    self._settle(unit, inlets[0], outlet, f"the pressure of {unit.tag}")
                continue
            self._saturated(unit, side, inlets[0])
            if outlet is None or (change is None) == (ratio is None):
                continue
            other = side.change if ratio is None else side.ratio
            wanted = outlet - change if change is not None else outlet / ratio if ratio else 0.0
            titles = unit.operation.field_map()
            why = f"{titles[side.outlet].title.lower()} and {titles[other].title.lower()} of {unit.tag}"
            if wanted > 0.0 and self._settle(unit, inlets[0], wanted, why):
                self._set(unit, other, None)

    def _saturated(self, unit: Unit, side: PressureSide, inlet: str) -> None:
        """What a saturation temperature asks of the pressure before that side of its unit."""
        boiling = _si(unit, side.saturation)
        if boiling is None or self.models is None:
            return
        change, fractions = _si(unit, side.change), self._composition(inlet)
        if fractions is None:
            if change is not None:
                self._set(unit, side.change, None)
                text = (
                    f"The pressure before {unit.tag} does not follow from its saturation temperature: the streams entering it differ in composition."
                )
                self.findings.append(Finding("fault", unit.tag, text, "Give its outlet pressure, or clear its pressure change.", side.change))
            return
        model = self.models[unit.model or self.document.chemistry.model]
        try:
            pressure = model.flash(fractions, T=boiling, VF=side.saturated_at).pressure
        except FlashError:
            return  # the unit says so where it is calculated
        why = f"the saturation temperature{'' if change is None else ' and pressure change'} of {unit.tag}"
        if pressure > (change or 0.0) and self._settle(unit, inlet, pressure - (change or 0.0), why, may=change is None) and change is not None:
            self._set(unit, side.change, None)

    @cached_property
    def models(self) -> dict[str, PropertyModel] | None:
        """The property models, None where the chemistry has not come so far."""
        try:
            return models_of(self.document) if self.document.chemistry.components else None
        except (KeyError, ValueError):
            return None

    def _composition(self, stream: str) -> np.ndarray | None:
        """Mole fractions of a stream, where all that comes to it has the same and passes only units that leave it so."""
        if self.models is None:
            return None
        model = next(iter(self.models.values()))
        found: np.ndarray | None = None
        open_streams, seen = [stream], {stream}
        while open_streams:
            tag, port = self.sources[open_streams.pop()]
            unit = self.units[tag]
            typed = getattr(unit.spec, "composition", None)
            if typed is not None:
                fractions: np.ndarray | None = typed.fractions(model.components)
                if fractions is None or (found is not None and not np.allclose(found, fractions, rtol=1e-12, atol=0.0)):
                    return None
                found = fractions
                continue
            if unit.operation.family not in _LEAVING_ALONE and len(model.components) > 1:
                return None
            before = [tag for tag in self._into(unit, port) if tag not in seen]
            seen.update(before)
            open_streams += before
        return found

    def _into(self, unit: Unit, port: str) -> list[str]:
        """The streams that go through a unit with the one at ``port``: those of its side, or all where it has but one."""
        by_port = self.inlets.get(unit.tag, {})
        side = unit.operation.pressure_side(port)
        return [tag for key, tags in by_port.items() if unit.operation.pressure_side(key) == side for tag in tags]

    def _settle(self, asking: Unit, stream: str, pressure: float, why: str, may: bool = False) -> bool:
        """Go upstream from a stream to where its pressure can be set. False where it cannot, without a word where it only ``may`` be set."""
        first, passed = stream, set[tuple[str, str]]()
        while True:
            tag, port = self.sources[stream]
            unit, side = self.units[tag], self.units[tag].operation.pressure_side(port)
            if (tag, side.key) in passed:
                return may or self._refuse(asking, first, pressure, why, f"the loop through {unit.tag} has no unit that sets it")
            passed.add((tag, side.key))
            fields = unit.operation.field_map()
            key = side.outlet
            given = _si(unit, key)
            if given is not None:
                if abs(given - pressure) <= SAME * pressure:
                    return True
                return may or self._refuse(asking, first, pressure, why, f"{unit.tag} has {given / 1e5:.6g} bar as its {fields[key].title.lower()}")
            if key and not self._follows(unit, side):
                if not _room(unit, key):
                    return may or self._refuse(asking, first, pressure, why, f"the pressure of {unit.tag} is already specified in another way")
                self._set(unit, key, Quantity(value=pressure, unit="Pa"))
                text = f"{unit.tag} has {pressure / 1e5:.6g} bar as its {fields[key].title.lower()}: that follows from {why}."
                self.findings.append(Finding("note", unit.tag, text, "", key))
                return True
            inlets = self._into(unit, port)
            if len(inlets) != 1 or not self._follows(unit, side):
                return may or self._refuse(asking, first, pressure, why, f"what comes before {unit.tag} does not follow from it")
            stream = inlets[0]
            ratio = _si(unit, side.ratio)
            pressure = pressure / ratio if ratio else pressure - (_si(unit, side.change) or 0.0)
            if pressure <= 0.0:
                return may or self._refuse(asking, first, pressure, why, f"nothing would be left before {unit.tag}")

    def _follows(self, unit: Unit, side: PressureSide) -> bool:
        """Whether the inlet pressure of a side follows from the outlet's: a change that is given or assumed, or none at all."""
        if not side.change:
            return side.throughout or (unit.operation.family in _HANDING_ON and not side.outlet)
        assumed = unit.operation.assumptions(unit.spec)
        return any(_si(unit, key) is not None for key in (side.change, side.ratio)) or side.change in assumed

    def _set(self, unit: Unit, key: str, value: Quantity | None) -> None:
        known = self.units[unit.tag]
        self.units[unit.tag] = known.model_copy(update={"spec": known.spec.model_copy(update={key: value})})
        self.changed = True

    def _refuse(self, asking: Unit, stream: str, pressure: float, why: str, because: str) -> bool:
        asks = "require" if " and " in why else "requires"
        text = f"{why[0].upper()}{why[1:]} {asks} {pressure / 1e5:.6g} bar upstream of {stream}, but {because}."
        if asking.type == "circuit-charge":
            return False  # losses that depend on the flow: what comes back is compared once it goes round
        if asking.type == "product":
            self.findings.append(Finding("caution", asking.tag, text, "Add a valve or a pump between, or change one of them."))
        else:
            self.findings.append(Finding("fault", asking.tag, text, "Clear one of the two, or the pressure that contradicts them."))
        return False


def _si(unit: Unit, key: str) -> float | None:
    given = getattr(unit.spec, key, None) if key else None
    return to_si(given, unit.operation.field_map()[key].kind) if isinstance(given, Quantity) else None


def _room(unit: Unit, key: str) -> bool:
    """Whether the choice that a field belongs to takes one more value."""
    for choice in unit.operation.choices_of(unit.spec):
        if key in choice.fields:
            return sum(getattr(unit.spec, name) is not None for name in choice.fields) < choice.count
    return True
