"""The component bank that ships with the package, and the search over it."""

from __future__ import annotations

import gzip
import json
import re
from difflib import SequenceMatcher
from functools import lru_cache
from importlib.resources import files
from typing import Any

from wattaxis.substances.component import Component, HeatCapacity, VapourPressure


@lru_cache(maxsize=1)
def _bank() -> dict[str, Any]:
    raw = files("wattaxis.substances").joinpath("bank.json.gz").read_bytes()
    bank: dict[str, Any] = json.loads(gzip.decompress(raw))
    bank["by_cas"] = {entry["cas"]: entry for entry in bank["substances"]}
    bank["pair_index"] = {model: {frozenset(row[:2]): float(row[2]) for row in rows} for model, rows in bank["pairs"].items()}
    bank["keys"] = [(entry, _search_keys(entry)) for entry in bank["substances"]]
    return bank


def _search_keys(entry: dict[str, Any]) -> list[str]:
    names = [entry["name"], *entry["synonyms"]]
    return list(dict.fromkeys(_fold(name) for name in names))


def _fold(text: str) -> str:
    return re.sub(r"[^a-z0-9]+", "", text.lower())


def library_note() -> str:
    """Name and version of the library that the bank was built from."""
    return str(_bank()["libraries"])


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
    """Components whose name, synonym, formula or CAS number fits ``text``, best first; tolerant of small misspellings.

    >>> [c.cas for c in search("MEK", 1)]
    ['78-93-3']
    """
    query = text.strip()
    if not query:
        return []
    folded = _fold(query)
    scored: list[tuple[float, int, str]] = []
    for entry, keys in _bank()["keys"]:
        score = _score(query, folded, entry, keys)
        if score > 0:
            scored.append((-score, len(entry["name"]), entry["cas"]))
    if not scored and 3 < len(folded) <= 40:
        scored = _fuzzy(folded)
    return [component(cas) for _, _, cas in sorted(scored)[:limit]]


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


def _fuzzy(folded: str) -> list[tuple[float, int, str]]:
    found = []
    for entry, keys in _bank()["keys"]:
        ratio = max(SequenceMatcher(None, folded, key).ratio() for key in keys[:4] if key) if keys else 0.0
        if ratio > 0.72:
            found.append((-ratio, len(entry["name"]), entry["cas"]))
    return found


def bank_pair(model: str, first_cas: str, second_cas: str) -> float | None:
    """The bank's binary interaction parameter of a model ("peng_robinson"), None where it has none."""
    value: float | None = _bank()["pair_index"].get(model, {}).get(frozenset((first_cas, second_cas)))
    return value


def _component(entry: dict[str, Any]) -> Component:
    cp, ps = entry["Cp"], entry["Psat"]
    constants = ("MW", "Tc", "Pc", "omega", "Tb", "Tm", "Hf", "S0")
    sources = {name: entry[name][1] for name in constants if name in entry} | {"Cp": cp["source"], "Psat": ps["source"]}
    c0, c1, c2, c3, c4 = cp["c"]
    p0, p1, p2, p3, p4 = ps["c"]
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
        synonyms=tuple(entry["synonyms"]),
        sources=sources,
    )
