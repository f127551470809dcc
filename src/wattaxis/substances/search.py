"""Finding a substance by what people type: name, synonym, abbreviation, formula in any order, CAS number; misspelt too."""

from __future__ import annotations

import re
from collections import defaultdict
from dataclasses import dataclass
from functools import lru_cache
from importlib.resources import files
from typing import Any

from wattaxis.substances.bank import bank_data, fold
from wattaxis.substances.component import Component
from wattaxis.substances.curves import measured_curves
from wattaxis.substances.formation import ELEMENTS, atoms_of
from wattaxis.substances.solids import bank_solids, solid

#: Names less alike than this, of 100, are no misspelling; of each substance so many names are looked at.
_ALIKE, _NAMES = 72.0, 4
#: What a kind of hit is worth; within one kind the better known substance comes first.
_CAS, _ABBREVIATION, _EXACT, _FORMULA, _PREFIX, _WORD, _SPELT, _INSIDE = 100.0, 97.0, 90.0, 88.0, 60.0, 50.0, 40.0, 20.0


def search(text: str, limit: int = 12) -> list[Component]:
    """Components and conventional solids that fit ``text``, best first; tolerant of small misspellings.

    >>> [c.name for c in search("MEK", 1)], [c.name for c in search("SO2", 1)], [c.name for c in search("etanol", 1)]
    (['butanone'], ['sulfur dioxide'], ['ethanol'])
    """
    query = text.strip()
    if not query:
        return []
    scores: dict[tuple[str, bool], float] = {}
    formula = query.upper() if query.islower() and re.search(r"\d", query) and _atoms(query.upper()) else query
    asked = _Asked(query, fold(query), abbreviated(query), _atoms(formula))
    for (entry, keys), known in zip(_entries(), _fame(), strict=True):
        score = _score(asked, entry, keys)
        if score > 0.0:
            scores[entry["cas"], "solid" in entry] = score + known
    if max(scores.values(), default=0.0) < _WORD and 3 < len(fold(query)) <= 40:
        for place, score in _misspelt(fold(query)).items():
            scores[place] = max(score, scores.get(place, 0.0))
    ranked = sorted(scores, key=lambda place: (-scores[place], place[1], place[0]))
    return [found(cas, is_solid) for cas, is_solid in ranked[:limit]]


def found(cas: str, is_solid: bool) -> Component:
    """The component, or the conventional solid, of a CAS number."""
    from wattaxis.substances.bank import component

    return solid(cas) if is_solid else component(cas)


def abbreviated(text: str) -> str | None:
    """The CAS number of an abbreviation of the trade or a refrigerant number, as written with or without hyphens; None for anything else."""
    exact, folded = _abbreviations()
    key = text.strip()
    if key in exact:
        return exact[key]
    return folded.get(fold(re.sub(r"^(?:r|h?c?fc|hfo)-?(?=\d)", "r", key, flags=re.IGNORECASE)))


def of_formula(text: str) -> list[str]:
    """CAS numbers of the fluids with the atoms of a formula, the best known first; capitals count, the order of the atoms does not.

    >>> of_formula("CO2"), of_formula("OCO")
    (['124-38-9'], ['124-38-9'])
    """
    key = _atoms(text)
    if key is None and text.islower() and re.search(r"\d", text):
        key = _atoms(text.upper())  # "h2so4"; symbols of two letters cannot be told so
    return [] if key is None else list(_by_atoms().get(key, ()))


@lru_cache(maxsize=1)
def _abbreviations() -> tuple[dict[str, str], dict[str, str]]:
    lines = files("wattaxis.substances").joinpath("abbreviations.txt").read_text().splitlines()
    known = {e["cas"] for e, _ in _entries()}
    exact = dict(line.split() for line in lines if line and not line.startswith("#"))
    exact = {word: cas for word, cas in exact.items() if cas in known}
    return exact, {fold(word): cas for word, cas in reversed(exact.items())}


@lru_cache(maxsize=1)
def _entries() -> list[tuple[dict[str, Any], list[str]]]:
    """Fluids and solids with their folded names."""
    solids: list[dict[str, Any]] = [
        {"cas": c.cas, "name": c.name, "formula": c.formula, "synonyms": list(c.synonyms), "solid": True} for c in bank_solids()
    ]
    return [(e, list(dict.fromkeys(fold(name) for name in [e["name"], *e["synonyms"]]))) for e in [*bank_data()["substances"], *solids]]


@lru_cache(maxsize=1)
def _fame() -> list[float]:
    """Below ten: how well known each is, by the measured curves of the bank and the length of its name."""
    return [9.0 * measured_curves(e["cas"]) / 8.0 + 0.9 / (1.0 + 0.1 * len(e["name"])) for e, _ in _entries()]


@lru_cache(maxsize=1)
def _by_atoms() -> dict[frozenset[tuple[str, int]], tuple[str, ...]]:
    rows = defaultdict(list)
    for (entry, _), fame in zip(_entries(), _fame(), strict=True):
        if "solid" not in entry and (key := _atoms(entry["formula"])) is not None:
            rows[key].append((-fame, entry["cas"]))
    return {key: tuple(cas for _, cas in sorted(places)) for key, places in rows.items()}


@lru_cache(maxsize=8192)
def _atoms(text: str) -> frozenset[tuple[str, int]] | None:
    """The atoms of a formula with groups in brackets multiplied out; None for what is none."""
    plain = text.strip().translate(str.maketrans("₀₁₂₃₄₅₆₇₈₉", "0123456789"))
    while (group := re.search(r"\(([A-Za-z0-9]+)\)(\d*)", plain)) is not None:
        plain = plain[: group.start()] + group[1] * int(group[2] or 1) + plain[group.end() :] if int(group[2] or 1) <= 50 else ""
        if len(plain) > 400:
            return None
    atoms = atoms_of(plain)
    return frozenset(atoms.items()) if atoms and all(symbol in ELEMENTS for symbol in atoms) else None


@dataclass(frozen=True)
class _Asked:
    """What was typed: as it is, without signs, the CAS number it abbreviates, the atoms it counts."""

    text: str
    folded: str
    cas: str | None
    atoms: frozenset[tuple[str, int]] | None


def _score(asked: _Asked, entry: dict[str, Any], keys: list[str]) -> float:
    query, folded = asked.text, asked.folded
    if entry["cas"] == query:
        return _CAS
    if asked.cas == entry["cas"]:
        return _ABBREVIATION
    if asked.atoms is not None and asked.atoms == _atoms(entry["formula"]):
        return _FORMULA
    if not folded:
        return 0.0
    best = 0.0
    for position, key in enumerate(keys):
        if key == folded:
            best = max(best, _EXACT + (5.0 if position == 0 else 0.0))
        elif key.startswith(folded):
            best = max(best, _PREFIX + (5.0 if position == 0 else 0.0) - 0.2 * min(len(key) - len(folded), 20))
        elif len(folded) > 2 and folded in key:
            best = max(best, _INSIDE - 0.2 * min(len(key) - len(folded), 20))
    return max(best, _WORD) if entry["cas"].startswith(query) and len(query) > 2 else best


def _misspelt(folded: str) -> dict[tuple[str, bool], float]:
    """Substances with a name that is nearly the query, by place; worth more the nearer it is."""
    from rapidfuzz import fuzz, process  # loaded when first used: most names are found as they are typed

    keys, places, fame = _names()
    best: dict[tuple[str, bool], float] = {}
    for _, likeness, at in process.extract(folded, keys, scorer=fuzz.ratio, limit=60, score_cutoff=_ALIKE):
        value = _SPELT + 0.8 * (likeness - 90.0) + fame[at]
        best[places[at]] = max(value, best.get(places[at], 0.0))
    return best


@lru_cache(maxsize=1)
def _names() -> tuple[list[str], list[tuple[str, bool]], list[float]]:
    """The first names of everything in the bank, what each belongs to, and how well known that is."""
    rows = [
        (key, (entry["cas"], "solid" in entry), fame)
        for (entry, keys), fame in zip(_entries(), _fame(), strict=True)
        for key in keys[:_NAMES]
        if len(key) > 2
    ]
    return [key for key, _, _ in rows], [place for _, place, _ in rows], [fame for _, _, fame in rows]
