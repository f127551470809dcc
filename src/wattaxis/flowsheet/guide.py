"""Which property model suits a chemistry: a short decision path, answered from the chemistry itself wherever it can be."""

from __future__ import annotations

import re
from dataclasses import dataclass, field
from typing import Any

from wattaxis.flowsheet.document import Document
from wattaxis.flowsheet.model import fluids, pair_table, resolve
from wattaxis.properties.registry import model_infos
from wattaxis.properties.vapour import IDEAL_GAS
from wattaxis.quantities import Quantity, QuantityError, to_si
from wattaxis.substances import Component

#: Above this pressure (Pa) an ideal vapour is no longer believed.
HIGH_PRESSURE = 8e5
#: Subgroups of UNIFAC that are hydrocarbons: alkanes, alkenes, aromatics and their side chains.
_HYDROCARBON = {*range(1, 14), 70}
WATER = "7732-18-5"
ACTIVITY = ("nrtl", "uniquac", "wilson")


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


def guide(document: Document) -> Guide:
    """Answer the path from components and typed pressures, and propose three models. Without components both lists are empty.

    >>> from wattaxis import Document, edit
    >>> plant = edit(Document(), "add_component", component={"id": "propane", "cas": "74-98-6"})
    >>> guide(plant).proposals[0].key
    'peng-robinson'
    """
    parts = _known(document)
    if not parts:
        return Guide([], [])
    polar = [c for c in parts if _polar(c)]
    gases = [c for c in parts if c.critical_temperature < 298.15]
    pressure = _highest_pressure(document)
    beside_water = [c for c in parts if c.cas != WATER and c not in gases]
    splits = any(c.cas == WATER for c in parts) and any(not _polar(c) or _carbon(c) >= 4 for c in beside_water)
    answers = [
        Answer("Polar components?", ", ".join(c.id for c in polar) or "none"),
        Answer("Gases above their critical temperature?", ", ".join(c.id for c in gases) or "none"),
        Answer("Highest pressure typed?", f"{pressure / 1e5:.3g} bar" if pressure else "no pressure is typed yet"),
        Answer("Two liquids?", "to be expected: water beside something that mixes badly with it" if splits else "not to be expected"),
    ]
    if all(c.cas == WATER for c in parts):
        answers.insert(0, Answer("Water only?", "yes"))
        ranked = [_proposal("steam", "water alone: the reference equation holds for liquid, steam and beyond"), *_cubics(polar, gases, pressure)[:2]]
    else:
        ranked = _cubics(polar, gases, pressure) if not polar else _polar_models(document, parts, gases, pressure, splits)
    for rank, proposal in enumerate(ranked, 1):
        proposal.rank = rank
    return Guide(answers, ranked)


def _known(document: Document) -> list[Component]:
    found = []
    for item in fluids(document.chemistry).components:
        try:
            found.append(resolve(item))
        except KeyError:
            continue
    return found


def _polar(c: Component) -> bool:
    """By its groups; without any, by oxygen or nitrogen bound to something else."""
    groups = c.groups.get("unifac")
    if groups:
        return any(number not in _HYDROCARBON for number in groups)
    return len(c.formula) > 3 and any(atom in c.formula for atom in ("O", "N")) and c.critical_temperature > 300.0


def _carbon(c: Component) -> int:
    match = re.match(r"C(\d*)(?![a-z])", c.formula)
    return 0 if match is None else int(match.group(1) or 1)


def _highest_pressure(document: Document) -> float:
    """Of everything typed on the sheet, Pa; zero when nothing is."""
    found = [0.0]
    for unit in document.units:
        for item in unit.operation.fields:
            value: Any = getattr(unit.spec, item.key)
            if item.kind == "pressure" and isinstance(value, Quantity):
                try:
                    found.append(to_si(value, "pressure"))
                except QuantityError:
                    continue
    return max(found)


def _proposal(key: str, *reasons: str) -> Proposal:
    return Proposal(key, model_infos()[key].title, reasons=[r for r in reasons if r])


def _cubics(polar: list[Component], gases: list[Component], pressure: float) -> list[Proposal]:
    why = "nothing here is polar" if not polar else ""
    supercritical = "gases above their critical temperature are at home in it" if gases else ""
    first = _proposal("peng-robinson", why, supercritical, "pairs of many hydrocarbons and gases are in the bank")
    second = _proposal("soave-redlich-kwong", why, supercritical)
    second.cautions.append("no pairs in the bank: all are assumed zero until typed in")
    third = _proposal("ideal", "for a first estimate of similar substances at low pressure")
    if pressure > HIGH_PRESSURE or gases:
        third.cautions.append("not at this pressure, and not for gases above their critical temperature")
    return [first, second, third]


def _polar_models(document: Document, parts: list[Component], gases: list[Component], pressure: float, splits: bool) -> list[Proposal]:
    known = {}
    total = max(1, len(parts) * (len(parts) - 1) // 2)
    for key in ACTIVITY:
        rows = pair_table(document.chemistry.model_copy(update={"model": key}))
        known[key] = sum(row["quality"] != "assumed zero" for row in rows)
    sized = all(c.uniquac_r is not None and c.uniquac_q is not None for c in parts)
    fitting = [k for k in ACTIVITY if not (splits and k == "wilson") and (sized or k != "uniquac")]
    order = sorted(fitting, key=lambda k: (-known[k], ACTIVITY.index(k)))
    proposals = []
    for key in order[:2]:
        proposal = _proposal(
            key, "polar components in a liquid", "it can part a liquid in two" if splits else "", f"{known[key]} of {total} pairs have values"
        )
        if known[key] < total:
            missing = total - known[key]
            which, they = (f"{missing} pairs are", "they are") if missing > 1 else ("1 pair is", "it is")
            proposal.cautions.append(f"{which} assumed zero until {they} estimated, fitted or typed in")
        proposals.append(proposal)
    if all(c.groups.get("dortmund") for c in parts):
        estimate = _proposal("unifac-dortmund", "needs no pairs: everything is estimated from groups")
        estimate.cautions.append("an estimate, not a measurement")
        proposals.append(estimate)
    cubic = _proposal("peng-robinson", "gases above their critical temperature and pressure are at home in it")
    cubic.cautions.append("alcohols, ketones and water are poor in it without fitted pairs")
    for proposal in proposals:
        if gases:
            names = ", ".join(c.id for c in gases)
            proposal.cautions.append(
                f"gases ({names}) dissolve by Henry's law: measured in water, elsewhere an estimate within a factor of about two"
            )
        if pressure > HIGH_PRESSURE:
            proposal.vapour = "soave-redlich-kwong"
            proposal.reasons.append(f"with a cubic equation for its vapour, since {pressure / 1e5:.3g} bar is too much for an ideal one")
    if pressure <= HIGH_PRESSURE:
        return [*proposals[:2], cubic]
    if all(c.groups.get("predictive") for c in parts):
        predicted = _proposal("predictive-soave-redlich-kwong", "gases and polar components under pressure without a measured pair")
        predicted.cautions.append("an estimate, not a measurement")
        return [predicted, proposals[0], cubic]
    return [cubic, *proposals][:3]
