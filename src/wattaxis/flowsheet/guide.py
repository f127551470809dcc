"""Which property model suits a chemistry: a short decision path, answered from the chemistry itself wherever it can be."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Any

from wattaxis.flowsheet.document import Document
from wattaxis.flowsheet.model import fluids, pair_table, resolve
from wattaxis.properties.registry import model_infos
from wattaxis.properties.vapour import ASSOCIATING, IDEAL_GAS
from wattaxis.quantities import Quantity, QuantityError, to_si
from wattaxis.substances import Component, atoms_of
from wattaxis.substances.association import associates, hexamerisation
from wattaxis.substances.classes import (
    AMMONIA,
    WATER,
    forms_ions,
    is_alkane,
    is_gas,
    is_halogenated,
    is_hydrocarbon,
    is_polar,
    mixes_with_water,
)

#: Above this pressure (Pa) an ideal vapour is no longer believed.
HIGH_PRESSURE = 8e5
ACTIVITY = ("nrtl", "uniquac", "wilson")
#: Reduced temperatures of a component between which liquids and their activity coefficients lose their meaning.
NEAR_CRITICAL = (0.9, 1.1)
#: Polar solvents in which alkanes do not dissolve altogether, with the fewest carbon atoms from which that is so.
_ALKANES_PART = {
    "67-56-1": 5, "75-05-8": 5, "68-12-2": 6, "67-68-5": 5, "872-50-4": 6, "75-52-5": 4, "126-33-0": 4, "107-21-1": 4, "111-46-6": 4, "112-27-6": 4,
    "57-55-6": 5, "98-01-1": 6, "64-18-6": 5, "62-53-3": 5, "108-95-2": 6, "141-43-5": 5, "64-19-7": 9, "108-24-7": 6, "108-32-7": 4,
}  # fmt: skip


@dataclass
class Proposal:
    """A model with the reasons for it and what to mind; ``rank`` counts from 1, the best; ``vapour`` goes with an activity model."""

    key: str
    title: str
    rank: int = 0
    vapour: str = IDEAL_GAS
    reasons: list[str] = field(default_factory=list)
    cautions: list[str] = field(default_factory=list)


@dataclass(frozen=True)
class Answer:
    """A question of the path and what the chemistry says to it."""

    question: str
    found: str


@dataclass(frozen=True)
class Guide:
    """What was found about the chemistry, question by question, and the models in order."""

    answers: list[Answer]
    proposals: list[Proposal]


@dataclass(frozen=True)
class _Facts:
    """What the path asks."""

    parts: list[Component]
    polar: list[Component]
    gases: list[Component]
    ions: list[Component]
    acids: list[Component]
    near: list[str]
    pairs_that_part: list[tuple[str, str]]
    pressure: float

    @property
    def water(self) -> bool:
        return any(c.cas == WATER for c in self.parts)

    @property
    def high(self) -> bool:
        return self.pressure > HIGH_PRESSURE


def guide(document: Document) -> Guide:
    """Answer the path from components and typed temperatures and pressures, and propose models. Without components both lists are empty.

    >>> from wattaxis import Document, edit
    >>> plant = edit(Document(), "add_component", component={"id": "propane", "cas": "74-98-6"})
    >>> guide(plant).proposals[0].key
    'peng-robinson'
    """
    parts = _known(document)
    if not parts:
        return Guide([], [])
    facts = _facts(document, parts)
    ranked = _ranked(document, facts)
    warnings = _warnings(facts)
    for rank, proposal in enumerate(ranked, 1):
        proposal.rank = rank
        proposal.cautions += [text for text in warnings if text not in proposal.cautions]
    return Guide(_answers(facts), ranked)


def _known(document: Document) -> list[Component]:
    found = []
    for item in fluids(document.chemistry).components:
        try:
            found.append(resolve(item))
        except KeyError:
            continue
    return found


def _facts(document: Document, parts: list[Component]) -> _Facts:
    low, high = NEAR_CRITICAL
    typed = list(_typed(document, "temperature"))
    liquids = [c for c in parts if not is_gas(c)]
    near = [c.id for c in liquids if any(low < t / c.critical_temperature < high for t in typed)]
    return _Facts(
        parts,
        [c for c in parts if is_polar(c)],
        [c for c in parts if is_gas(c)],
        forms_ions(parts),
        [c for c in parts if associates(c)],
        near,
        list(_parting(parts)),
        max(_typed(document, "pressure"), default=0.0),
    )


def _parting(parts: list[Component]) -> Iterator[tuple[str, str]]:
    """Pairs that are to be expected to form two liquids."""
    for j, second in enumerate(parts):
        for first in parts[:j]:
            if is_gas(first) or is_gas(second):
                continue
            if any(_part(one, other) for one, other in ((first, second), (second, first))):
                yield first.id, second.id


def _part(one: Component, other: Component) -> bool:
    if one.cas == WATER:
        organic = is_polar(other) or _carbons(other) > 0
        return organic and not mixes_with_water(other) and other.critical_temperature > 380.0
    return is_alkane(other) and _carbons(other) >= _ALKANES_PART.get(one.cas, 99)


def _carbons(c: Component) -> int:
    return (atoms_of(c.formula) or {}).get("C", 0)


def _typed(document: Document, kind: str) -> Iterator[float]:
    """Everything of a kind of quantity that is typed on the sheet, SI."""
    for unit in document.units:
        for item in unit.operation.fields:
            value: Any = getattr(unit.spec, item.key)
            if item.kind == kind and isinstance(value, Quantity):
                try:
                    yield to_si(value, kind)
                except QuantityError:
                    continue


def _answers(facts: _Facts) -> list[Answer]:
    found = [
        Answer("Polar components?", ", ".join(c.id for c in facts.polar) or "none"),
        Answer("Gases that dissolve in liquids?", ", ".join(c.id for c in facts.gases) or "none"),
        Answer("Ions in water?", ", ".join(c.id for c in facts.ions) or "none"),
        Answer("Association in the vapour?", ", ".join(c.id for c in facts.acids) or "none"),
        Answer("Near a critical temperature?", ", ".join(facts.near) or "no temperature that is typed is"),
        Answer("Highest pressure typed?", f"{facts.pressure / 1e5:.3g} bar" if facts.pressure else "no pressure is typed yet"),
        Answer("Two liquids?", _two_liquids(facts)),
    ]
    return [Answer("Water only?", "yes"), *found] if all(c.cas == WATER for c in facts.parts) else found


def _two_liquids(facts: _Facts) -> str:
    if not facts.pairs_that_part:
        return "not to be expected"
    return "to be expected: " + "; ".join(f"{a} with {b}" for a, b in facts.pairs_that_part[:4]) + (" and more" if facts.pairs_that_part[4:] else "")


def _warnings(facts: _Facts) -> list[str]:
    """What is to be minded with every model that can be proposed."""
    found = []
    if facts.ions:
        names = ", ".join(c.id for c in facts.ions)
        found.append(f"{names}: ions form in water, and no property model here describes ions yet; vapour pressures over the solution will be wrong")
    if any(hexamerisation(c) is not None for c in facts.parts):
        found.append(
            "hydrogen fluoride forms hexamers in the vapour: only an activity model over a vapour that associates describes it, up to a few bar"
        )
    return found


def _ranked(document: Document, facts: _Facts) -> list[Proposal]:
    if salts := [c.id for c in document.chemistry.components if c.own_dissolved is not None]:
        why = f"{', '.join(salts)}: only ever dissolved, which equations of state do not know"
        return [_proposal("ideal", why), _proposal("nrtl", f"{why}; other pairs may have values")]
    cubics = _cubics(facts)
    if all(c.cas == WATER for c in facts.parts):
        return [_proposal("steam", "water alone: the reference equation holds for liquid, steam and beyond"), *cubics[:2]]
    beside = [c for c in facts.polar if c.cas != WATER]
    if not facts.polar or all(is_halogenated(c) for c in facts.polar):
        return cubics
    others = [c for c in facts.parts if c.cas != WATER]
    if not beside and all(is_hydrocarbon(c) or not is_polar(c) for c in others):
        wet = "water beside hydrocarbons and gases: a cubic equation gives the water content of the gas and a water phase nearly free of the rest"
        cubics[0].reasons.insert(0, wet)
        cubics[0].cautions.append("hydrocarbons dissolved in the water come out far too low, and the water content of the gas some 10 to 15 % low")
        liquids = [c for c in others if not is_gas(c)]
        mostly_gas = facts.high or not liquids or len(facts.gases) > len(liquids)
        polar = _polar_models(document, facts)
        return [*cubics[:2], polar[0]] if mostly_gas else [polar[0], *cubics[:1], *polar[1:2]]
    gaseous = [c for c in facts.parts if is_gas(c) or c.cas == AMMONIA]
    if len(gaseous) == len(facts.parts) or (facts.near and facts.high and not facts.pairs_that_part and len(gaseous) + 1 >= len(facts.parts)):
        return cubics
    return _polar_models(document, facts)


def _proposal(key: str, *reasons: str) -> Proposal:
    return Proposal(key, model_infos()[key].title, reasons=[r for r in reasons if r])


def _cubics(facts: _Facts) -> list[Proposal]:
    why = "nothing here is polar" if not facts.polar else ""
    supercritical = "it handles gases above their critical temperature" if facts.gases else ""
    first = _proposal("peng-robinson", why, supercritical, "pairs of many hydrocarbons and gases are in the bank")
    second = _proposal("soave-redlich-kwong", why, supercritical)
    third = _proposal("ideal", "for a first estimate of similar substances at low pressure")
    if facts.high or facts.gases or facts.polar:
        third.cautions.append("not at this pressure, not for polar components, and not for gases above their critical temperature")
    for proposal in (first, second):
        if facts.polar:
            proposal.cautions.append("polar components, alcohols, ketones and water above all, are poor in it without fitted pairs")
        if facts.near:
            proposal.cautions.append(f"{', '.join(facts.near)}: within a tenth of the critical temperature densities and heats are some 10 % off")
    return [first, second, third]


def _polar_models(document: Document, facts: _Facts) -> list[Proposal]:
    proposals = list(_activity_models(document, facts))
    if all(c.groups.get("dortmund") for c in facts.parts):
        estimate = _proposal("unifac-dortmund", "needs no pairs: all parameters are estimated from groups")
        estimate.cautions.append("an estimate, not a measurement")
        proposals.append(estimate)
    for proposal in proposals:
        _with_vapour(proposal, facts)
    cubic = _cubics(facts)[0]
    if not facts.high and not facts.near:
        return [*proposals[:2], cubic]
    if all(c.groups.get("predictive") for c in facts.parts):
        predicted = _proposal("predictive-soave-redlich-kwong", "gases and polar components under pressure without a measured pair")
        predicted.cautions.append("an estimate, not a measurement")
        return [predicted, proposals[0], cubic]
    return [cubic, *proposals][:3]


def _activity_models(document: Document, facts: _Facts) -> Iterator[Proposal]:
    """The two that know most pairs."""
    known = {}
    total = max(1, len(facts.parts) * (len(facts.parts) - 1) // 2)
    for key in ACTIVITY:
        rows = pair_table(document.chemistry.model_copy(update={"model": key}))
        known[key] = sum(row["quality"] != "assumed zero" for row in rows)
    sized = all(c.uniquac_r is not None and c.uniquac_q is not None for c in facts.parts)
    parting = bool(facts.pairs_that_part)
    fitting = [k for k in ACTIVITY if not (parting and k == "wilson") and (sized or k != "uniquac")]
    for key in sorted(fitting, key=lambda k: (-known[k], ACTIVITY.index(k)))[:2]:
        part = "it describes two liquid phases" if parting else ""
        proposal = _proposal(key, "polar components in a liquid", part, f"{known[key]} of {total} pairs have values")
        if known[key] < total:
            missing = total - known[key]
            which, they = (f"{missing} pairs are", "they are") if missing > 1 else ("1 pair is", "it is")
            proposal.cautions.append(f"{which} assumed zero until {they} estimated, fitted or typed in")
        if parting:
            proposal.cautions.append("two liquids: parameters fitted to vapour and liquid misplace the split; look at the diagram first")
        yield proposal


def _with_vapour(proposal: Proposal, facts: _Facts) -> None:
    """The vapour that goes with an activity model, and what is to be minded of gases and critical temperatures."""
    if facts.gases:
        names = ", ".join(c.id for c in facts.gases)
        proposal.cautions.append(f"gases ({names}) dissolve by Henry's law: measured in water, elsewhere an estimate within a factor of about two")
    if facts.near:
        proposal.cautions.append(f"{', '.join(facts.near)}: within a tenth of the critical temperature an activity model has no liquid to refer to")
    if facts.acids and not facts.high:
        proposal.vapour = ASSOCIATING
        proposal.reasons.append(f"with a vapour that associates: {', '.join(c.id for c in facts.acids)} associate, also at one atmosphere")
    elif facts.acids:
        proposal.cautions.append(f"{', '.join(c.id for c in facts.acids)}: the vapour associates, which no vapour here describes under pressure")
    if facts.high:
        proposal.vapour = "soave-redlich-kwong"
        proposal.reasons.append(f"with a cubic equation for its vapour, since {facts.pressure / 1e5:.3g} bar is too much for an ideal one")
