"""The component bank that ships with the package, and the search over it."""

from __future__ import annotations

import gzip
import json
import re
from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache
from importlib.resources import files
from typing import Any

from wattaxis.substances.component import Component, HeatCapacity, VapourPressure
from wattaxis.substances.solids import bank_solids, solid


@lru_cache(maxsize=1)
def _bank() -> dict[str, Any]:
    raw = files("wattaxis.substances").joinpath("bank.json.gz").read_bytes()
    bank: dict[str, Any] = json.loads(gzip.decompress(raw))
    bank["by_cas"] = {entry["cas"]: entry for entry in bank["substances"]}
    bank["pair_index"] = {model: {frozenset(row[:2]): row for row in table["rows"]} for model, table in bank["pairs"].items()}
    bank["keys"] = [(entry, _search_keys(entry)) for entry in bank["substances"]]
    solids = [{"cas": c.cas, "name": c.name, "formula": c.formula, "synonyms": c.synonyms, "solid": True} for c in bank_solids()]
    bank["all_keys"] = bank["keys"] + [(entry, _search_keys(entry)) for entry in solids]
    return bank


def _search_keys(entry: dict[str, Any]) -> list[str]:
    names = [entry["name"], *entry["synonyms"]]
    return list(dict.fromkeys(_fold(name) for name in names))


def _fold(text: str) -> str:
    return re.sub(r"[^a-z0-9]+", "", text.lower())


@lru_cache(maxsize=512)
def component(key: str) -> Component:
    """The component of a CAS number, or of an exact name or synonym of the bank.

    Raises KeyError with the nearest names when there is none.

    >>> component("78-93-3").name
    'butanone'
    """
    bank = _bank()
    entry = bank["by_cas"].get(key.strip())
    if entry is None:
        folded = _fold(key)
        exact = [e for e, keys in bank["keys"] if keys[0] == folded] or [e for e, keys in bank["keys"] if folded in keys]
        if not exact:
            near = ", ".join(f"{c.name} ({c.cas})" for c in search(key, 3))
            raise KeyError(f'The bank has no "{key}".' + (f" Nearest: {near}." if near else ""))
        entry = exact[0]
    return _component(entry)


def search(text: str, limit: int = 12) -> list[Component]:
    """Components and conventional solids whose name, synonym, formula or CAS number fits ``text``, best first; tolerant of small misspellings.

    >>> [c.cas for c in search("MEK", 1)]
    ['78-93-3']
    """
    query = text.strip()
    if not query:
        return []
    folded = _fold(query)
    scored: list[_Scored] = []
    for entry, keys in _bank()["all_keys"]:
        score = _score(query, folded, entry, keys)
        if score > 0:
            scored.append((-score, len(entry["name"]), "solid" in entry, entry["cas"]))
    if not scored and 3 < len(folded) <= 40:
        scored = _fuzzy(folded)
    return [solid(cas) if is_solid else component(cas) for _, _, is_solid, cas in sorted(scored)[:limit]]


#: Less the score, length of the name, whether a solid, CAS number: sorted, the best come first, and of equals the fluid.
_Scored = tuple[float, int, bool, str]


def _score(query: str, folded: str, entry: dict[str, Any], keys: list[str]) -> float:
    if entry["cas"] == query:
        return 100.0
    if entry["formula"].lower() == query.lower():
        return 80.0 - 0.1 * len(keys[0])
    if not folded:
        return 0.0
    best = 0.0
    for position, key in enumerate(keys):
        if key == folded:
            best = max(best, 95.0 - min(position, 5))
        elif key.startswith(folded):
            best = max(best, 70.0 - position)
        elif len(folded) > 2 and folded in key:
            best = max(best, 40.0 - position)
    return max(best, 60.0) if entry["cas"].startswith(query) and len(query) > 2 else best


#: Names less alike than this, of 100, are no misspelling; of each substance so many names are looked at.
_ALIKE, _NAMES = 72.0, 4


@lru_cache(maxsize=1)
def _names() -> tuple[list[str], list[dict[str, Any]]]:
    """The first names of everything in the bank, and what each belongs to."""
    rows = [(key, entry) for entry, keys in _bank()["all_keys"] for key in keys[:_NAMES]]
    return [key for key, _ in rows], [entry for _, entry in rows]


def _fuzzy(folded: str) -> list[_Scored]:
    from rapidfuzz import fuzz, process  # loaded when first used: most names are found as they are typed

    keys, entries = _names()
    best: dict[str, _Scored] = {}
    for _, likeness, at in process.extract(folded, keys, scorer=fuzz.ratio, limit=60, score_cutoff=_ALIKE):
        entry = entries[at]
        scored = (-likeness, len(entry["name"]), "solid" in entry, entry["cas"])
        best[entry["cas"]] = min(scored, best.get(entry["cas"], scored))
    return list(best.values())


@dataclass(frozen=True)
class BankPair:
    """Interaction parameters of a pair as the bank has them: values by name, source."""

    values: dict[str, float]
    source: str


def bank_pair(model: str, first_cas: str, second_cas: str) -> BankPair | None:
    """The bank's interaction parameters of a pair for a property model, directions counted from ``first_cas``; None where it has none.

    >>> bank_pair("peng-robinson", "74-82-8", "106-97-8").values
    {'kij': 0.0185}
    """
    row = _bank()["pair_index"].get(model, {}).get(frozenset((first_cas, second_cas)))
    if row is None or first_cas == second_cas:
        return None
    table = _bank()["pairs"][model]
    values = dict(zip(table["names"], (float(v) for v in row[2:]), strict=True))
    return BankPair(turned(values, row[0] != first_cas), str(table["source"]))


def turned(values: Mapping[str, float], other_way: bool) -> dict[str, float]:
    """Pair parameters seen from the other component when ``other_way`` is true: what ended in 12 ends in 21."""
    ends = {"12": "21", "21": "12"}
    return {name[:-2] + ends[name[-2:]] if other_way and name[-2:] in ends else name: value for name, value in values.items()}


def _component(entry: dict[str, Any]) -> Component:
    cp, ps = entry["Cp"], entry["Psat"]
    constants = ("MW", "Tc", "Pc", "omega", "Tb", "Tm", "Hf", "S0")
    sources = {name: entry[name][1] for name in constants if name in entry} | {"Cp": cp["source"], "Psat": ps["source"]}
    c0, c1, c2, c3, c4 = cp["c"]
    p0, p1, p2, p3, p4 = ps["c"]
    groups = {form: {int(g): int(count) for g, count in counts.items()} for form, counts in entry["groups"].items()}
    return Component(
        id=entry["name"],
        name=entry["name"],
        cas=entry["cas"],
        formula=entry["formula"],
        molar_mass=entry["MW"][0],
        critical_temperature=entry["Tc"][0],
        critical_pressure=entry["Pc"][0],
        acentric_factor=entry["omega"][0],
        formation_enthalpy=entry["Hf"][0],
        entropy=entry["S0"][0],
        heat_capacity=HeatCapacity((c0, c1, c2, c3, c4), cp["Tmin"], cp["Tmax"], cp["source"]),
        vapour_pressure=VapourPressure(ps["form"], (p0, p1, p2, p3, p4), ps["Tmin"], ps["Tmax"], ps["source"], tuple(ps.get("critical", (0.0, 0.0)))),
        boiling_point=entry["Tb"][0] if "Tb" in entry else None,
        melting_point=entry["Tm"][0] if "Tm" in entry else None,
        uniquac_r=_group_sum(groups, 3, 0.53),
        uniquac_q=_group_sum(groups, 4, 0.584),
        groups=groups,
        synonyms=tuple(entry["synonyms"]),
        sources=sources,
    )


_HYDROXYL = 14


def _group_sum(groups: dict[str, dict[int, int]], column: int, hydroxyl: float) -> float | None:
    """UNIQUAC size or surface as the sum over the groups of UNIFAC (Bondi 1968), None without groups.

    The hydroxyl group of UNIFAC is enlarged on purpose; UNIQUAC keeps Bondi's own (Abrams, Prausnitz 1975): ethanol has r 2.1055 and q 1.972.
    """
    table = {row[0]: row for row in _bank()["groups"]["unifac"]["subgroups"]}
    counts = groups.get("unifac")
    if counts is None:
        return None
    return float(sum(count * (hydroxyl if number == _HYDROXYL else table[number][column]) for number, count in counts.items()))


@dataclass(frozen=True)
class GroupTable:
    """Parameters of one form of UNIFAC: subgroup number -> (name, main group, R, Q), and (main, main) -> (a, b, c)."""

    subgroups: dict[int, tuple[str, int, float, float]]
    parameters: dict[tuple[int, int], tuple[float, float, float]]
    source: str


@lru_cache(maxsize=4)
def group_table(form: str) -> GroupTable:
    """The group parameters of a form of UNIFAC: "unifac", "dortmund", "liquid-liquid" or "predictive". Raises KeyError for another."""
    table = _bank()["groups"][form]
    subgroups = {row[0]: (row[1], row[2], row[3], row[4]) for row in table["subgroups"]}
    return GroupTable(subgroups, {(row[0], row[1]): (row[2], row[3], row[4]) for row in table["parameters"]}, table["source"])
