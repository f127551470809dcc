"""The component bank that ships with the package."""

from __future__ import annotations

import gzip
import json
import math
import re
from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import lru_cache
from importlib.resources import files
from typing import Any

from wattaxis.substances.component import Component, HeatCapacity, VapourPressure


@lru_cache(maxsize=1)
def bank_data() -> dict[str, Any]:
    """Everything in the file, with its substances by CAS number and its pairs by the two of theirs."""
    raw = files("wattaxis.substances").joinpath("bank.json.gz").read_bytes()
    bank: dict[str, Any] = json.loads(gzip.decompress(raw))
    bank["by_cas"] = {entry["cas"]: entry for entry in bank["substances"]}
    bank["pair_index"] = {model: {frozenset(row[:2]): row for row in table["rows"] if _sound(table, row)} for model, table in bank["pairs"].items()}
    return bank


@lru_cache(maxsize=1)
def _by_name() -> dict[str, str]:
    """CAS numbers by folded names, before synonyms; a document names its components by their numbers and does without."""
    names: dict[str, str] = {}
    for entry in bank_data()["substances"]:
        names.setdefault(fold(entry["name"]), entry["cas"])
    for entry in bank_data()["substances"]:
        for name in entry["synonyms"]:
            names.setdefault(fold(name), entry["cas"])
    return names


def _sound(table: Mapping[str, Any], row: list[Any]) -> bool:
    """Whether a row of a table of pairs can be meant: a non-randomness of five or nine, as two rows have it, is a slip of the table."""
    alpha = dict(zip(table["names"], row[2:], strict=True)).get("alpha", 0.3)
    return 0.0 <= float(alpha) <= 1.0


def fold(text: str) -> str:
    """A name without case, spaces and signs."""
    return re.sub(r"[^a-z0-9]+", "", text.lower())


@lru_cache(maxsize=4096)
def component(key: str) -> Component:
    """The component of a CAS number, an exact name or synonym, an abbreviation of the trade, or a formula that only one substance has.

    Raises KeyError with the nearest names, or with those of the same formula, when there is none.

    >>> component("78-93-3").name, component("CO2").name, component("IPA").name
    ('butanone', 'carbon dioxide', 'isopropanol')
    """
    from wattaxis.substances.search import abbreviated, of_formula, search

    bank = bank_data()
    cas = key.strip()
    if cas not in bank["by_cas"]:
        alike = of_formula(key)
        cas = abbreviated(key) or (alike[0] if len(alike) == 1 else "") or _by_name().get(fold(key), "")
        if not cas:
            near = ", ".join(f"{c.name} ({c.cas})" for c in ([component(c) for c in alike[:6]] or search(key, 3)))
            text = (
                f'Several substances have the formula "{key}": {near}.'
                if alike
                else f'The bank has no "{key}".' + (f" Nearest: {near}." if near else "")
            )
            raise KeyError(text)
    return _component(bank["by_cas"][cas])


@dataclass(frozen=True)
class BankPair:
    """Interaction parameters of a pair as the bank has them: values by name, source, and what the screening of all pairs says against them.

    ``quality`` is "measured fit", or "estimated" where they rest on groups; ``tabled`` is false for what was fitted when the bank was made.
    """

    values: dict[str, float]
    source: str
    doubt: str = ""
    quality: str = "measured fit"
    tabled: bool = True


def bank_pair(model: str, first_cas: str, second_cas: str) -> BankPair | None:
    """The bank's interaction parameters of a pair for a property model, directions counted from ``first_cas``; None where it has none.

    >>> bank_pair("peng-robinson", "74-82-8", "106-97-8").values
    {'kij': 0.0185}
    """
    if first_cas == second_cas:
        return None
    row = bank_data()["pair_index"].get(model, {}).get(frozenset((first_cas, second_cas)))
    if row is None:
        return _fitted(model, first_cas, second_cas)
    table = bank_data()["pairs"][model]
    values = dict(zip(table["names"], (float(v) for v in row[2:]), strict=True))
    source = f"{table['source']}, which names neither data nor range"
    return BankPair(turned(values, row[0] != first_cas), source, _doubtful().get((model, row[0], row[1]), ""))


#: What pairs of liquids that were never measured rest on.
ESTIMATED = "estimated: fitted to UNIFAC, Dortmund form, 25 to 95 degC; not measured"


def _fitted(model: str, first_cas: str, second_cas: str) -> BankPair | None:
    """A pair that the tables lack and that was fitted when the bank was made, directions counted from ``first_cas``."""
    for ends in ((first_cas, second_cas), (second_cas, first_cas)):
        row = _more().get(";".join((model, *ends)))
        if row is not None:
            quality, values, source = row.split(";", 2)
            named = {name: float(value) for name, value in (part.split("=") for part in values.split(","))}
            return BankPair(turned(named, ends[0] != first_cas), source.strip() or ESTIMATED, quality=quality, tabled=False)
    return None


@lru_cache(maxsize=1)
def _more() -> dict[str, str]:
    """The rows of the fitted pairs, as they stand, by what they begin with: model and both CAS numbers."""
    lines = files("wattaxis.substances").joinpath("more_pairs.txt").read_text().splitlines()
    parts = (line.split(";", 3) for line in lines if line and not line.startswith("#"))
    return {";".join(row[:3]): row[3] for row in parts}


@lru_cache(maxsize=1)
def _doubtful() -> dict[tuple[str, str, str], str]:
    """Why a pair of a model is doubtful, by the model and both CAS numbers as the table has them."""
    lines = files("wattaxis.substances").joinpath("doubtful_pairs.txt").read_text().splitlines()
    rows = (line.split(" ", 3) for line in lines if line and not line.startswith("#"))
    return {(model, first, second): why for model, first, second, why in rows}


def turned(values: Mapping[str, float], other_way: bool) -> dict[str, float]:
    """Pair parameters seen from the other component when ``other_way`` is true: what ended in 12 ends in 21."""
    ends = {"12": "21", "21": "12"}
    return {name[:-2] + ends[name[-2:]] if other_way and name[-2:] in ends else name: value for name, value in values.items()}


def _second_part(cp: dict[str, Any]) -> tuple[tuple[float, float, float, float, float] | None, float]:
    """Of a heat capacity whose range is covered by two polynomials, the second and where it begins."""
    if "above" not in cp:
        return None, math.inf
    a0, a1, a2, a3, a4 = cp["above"]
    return (a0, a1, a2, a3, a4), cp["middle"]


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
        heat_capacity=HeatCapacity((c0, c1, c2, c3, c4), cp["Tmin"], cp["Tmax"], cp["source"], *_second_part(cp)),
        vapour_pressure=VapourPressure(ps["form"], (p0, p1, p2, p3, p4), ps["Tmin"], ps["Tmax"], ps["source"], tuple(ps.get("critical", (0.0, 0.0)))),
        boiling_point=entry["Tb"][0] if "Tb" in entry else None,
        melting_point=entry["Tm"][0] if "Tm" in entry else None,
        uniquac_r=_group_sum(groups, 3, 0.53),
        uniquac_q=_group_sum(groups, 4, 0.584),
        groups=groups,
        synonyms=tuple(entry["synonyms"]),
        sources=sources,
        doubts=tuple(entry.get("doubts", ())),
        from_bank=True,
    )


_HYDROXYL = 14


def _group_sum(groups: dict[str, dict[int, int]], column: int, hydroxyl: float) -> float | None:
    """UNIQUAC size or surface as the sum over the groups of UNIFAC (Bondi 1968), None without groups.

    The hydroxyl group of UNIFAC is enlarged on purpose; UNIQUAC keeps Bondi's own (Abrams, Prausnitz 1975): ethanol has r 2.1055 and q 1.972.
    """
    table = {row[0]: row for row in bank_data()["groups"]["unifac"]["subgroups"]}
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
    table = bank_data()["groups"][form]
    subgroups = {row[0]: (row[1], row[2], row[3], row[4]) for row in table["subgroups"]}
    return GroupTable(subgroups, {(row[0], row[1]): (row[2], row[3], row[4]) for row in table["parameters"]}, table["source"])


def with_groups(c: Component, form: str, groups: Mapping[str | int, int]) -> Component:
    """A component with groups of one's own for a form of UNIFAC, by their names or numbers: for what has none in the bank, or other ones.

    Raises KeyError for another form and ValueError for groups that it does not have.

    >>> with_groups(component("ethanol"), "unifac", {"CH3": 1, "CH2": 1, "OH": 1}).groups["unifac"]
    {1: 1, 2: 1, 14: 1}
    """
    table = group_table(form)
    numbers = {name: number for number, (name, *_rest) in table.subgroups.items()}
    counts: dict[int, int] = {}
    for key, count in groups.items():
        number = key if isinstance(key, int) else numbers.get(key, -1)
        if number not in table.subgroups or count < 1:
            offered = ", ".join(sorted(numbers))
            raise ValueError(f"{count} of the group {key!r} cannot be taken: counts are 1 or more, and {form} has the groups {offered}.")
        counts[number] = counts.get(number, 0) + count
    source = f"own groups for {form}"
    return replace(c, groups={**c.groups, form: counts}, sources={**c.sources, f"groups {form}": source})
