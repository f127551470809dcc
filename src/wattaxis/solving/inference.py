"""Pressures that follow backwards: where outlet and change of a unit are both given, or a product wants a pressure, the inlet is settled upstream."""

from __future__ import annotations

from dataclasses import dataclass, field

from wattaxis.flowsheet import Document, Unit
from wattaxis.quantities import Quantity, to_si
from wattaxis.unitops import Finding

#: Two pressures closer than this, relative, are the same.
SAME = 1e-9
#: Families of units that hand a pressure on as it comes.
_HANDING_ON = ("flow", "storage")


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
        self.units = {u.tag: u for u in document.units}
        kinds = document.stream_kinds()
        self.inlets: dict[str, list[str]] = {}
        self.sources: dict[str, str] = {}
        for stream in document.streams:
            if kinds[stream.tag] == "material":
                self.inlets.setdefault(stream.target.unit, []).append(stream.tag)
                self.sources[stream.tag] = stream.source.unit
        self.findings: list[Finding] = []
        self.changed = False

    def demand(self, unit: Unit) -> None:
        """What a unit asks of the pressure at its inlet, if it does."""
        inlets = self.inlets.get(unit.tag, [])
        if len(inlets) != 1:
            return
        if unit.type == "product":
            wanted = _si(unit, "pressure")
            if wanted is not None:
                self._settle(unit, inlets[0], wanted, f"the pressure of {unit.tag}")
            return
        outlet, change, ratio = _si(unit, "outlet_pressure"), _si(unit, "pressure_change"), _si(unit, "pressure_ratio")
        if outlet is None or (change is None) == (ratio is None):
            return
        other = "pressure_change" if ratio is None else "pressure_ratio"
        wanted = outlet - change if change is not None else outlet / ratio if ratio else 0.0
        why = f"outlet pressure and {other.replace('_', ' ')} of {unit.tag}"
        if wanted > 0.0 and self._settle(unit, inlets[0], wanted, why):
            self._set(unit, other, None)

    def _settle(self, asking: Unit, stream: str, pressure: float, why: str) -> bool:
        """Go upstream from a stream to where its pressure can be set. False where it cannot."""
        first, passed = stream, set()
        while True:
            unit = self.units[self.sources[stream]]
            if unit.tag in passed:
                return self._refuse(asking, first, pressure, why, f"the loop through {unit.tag} has no place to set it")
            passed.add(unit.tag)
            key = "pressure" if unit.type == "feed" else "outlet_pressure"
            fields = unit.operation.field_map()
            given = _si(unit, key) if key in fields else None
            if given is not None:
                if abs(given - pressure) <= SAME * pressure:
                    return True
                return self._refuse(asking, first, pressure, why, f"{unit.tag} has {given / 1e5:.6g} bar as its {fields[key].title.lower()}")
            if unit.type == "feed" or (key in fields and not self._follows(unit)):
                if not _room(unit, key):
                    return self._refuse(asking, first, pressure, why, f"what is given of {unit.tag} settles its pressure in another way")
                self._set(unit, key, Quantity(value=pressure, unit="Pa"))
                text = f"{unit.tag} has {pressure / 1e5:.6g} bar as its {fields[key].title.lower()}: that follows from {why}."
                self.findings.append(Finding("note", unit.tag, text, "", key))
                return True
            inlets = self.inlets.get(unit.tag, [])
            if len(inlets) != 1 or not self._follows(unit):
                return self._refuse(asking, first, pressure, why, f"what comes before {unit.tag} does not follow from it")
            stream = inlets[0]
            ratio = _si(unit, "pressure_ratio")
            pressure = pressure / ratio if ratio else pressure - (_si(unit, "pressure_change") or 0.0)
            if pressure <= 0.0:
                return self._refuse(asking, first, pressure, why, f"nothing would be left before {unit.tag}")

    def _follows(self, unit: Unit) -> bool:
        """Whether the inlet pressure follows from the outlet's: a change that is given or assumed, or none at all."""
        fields = unit.operation.field_map()
        if "pressure_change" not in fields:
            return unit.operation.family in _HANDING_ON and "outlet_pressure" not in fields
        assumed = unit.operation.assumptions(unit.spec)
        return any(_si(unit, key) is not None for key in ("pressure_change", "pressure_ratio")) or "pressure_change" in assumed

    def _set(self, unit: Unit, key: str, value: Quantity | None) -> None:
        known = self.units[unit.tag]
        self.units[unit.tag] = known.model_copy(update={"spec": known.spec.model_copy(update={key: value})})
        self.changed = True

    def _refuse(self, asking: Unit, stream: str, pressure: float, why: str, because: str) -> bool:
        asks = "ask" if " and " in why else "asks"
        text = f"{why[0].upper()}{why[1:]} {asks} for {pressure / 1e5:.6g} bar upstream of {stream}, but {because}."
        if asking.type == "product":
            self.findings.append(Finding("caution", asking.tag, text, "Put a valve or a pump between, or change one of them."))
        else:
            self.findings.append(Finding("fault", asking.tag, text, "Clear one of the two, or the pressure that they quarrel with."))
        return False


def _si(unit: Unit, key: str) -> float | None:
    given = getattr(unit.spec, key, None)
    return to_si(given, unit.operation.field_map()[key].kind) if isinstance(given, Quantity) else None


def _room(unit: Unit, key: str) -> bool:
    """Whether the choice that a field belongs to takes one more value."""
    for choice in unit.operation.choices:
        if key in choice.fields:
            return sum(getattr(unit.spec, name) is not None for name in choice.fields) < choice.count
    return True
