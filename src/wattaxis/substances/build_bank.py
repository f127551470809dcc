"""Writes the component bank (``bank.json.gz``) from the open tables of ``chemicals`` and ``thermo``.

A development tool: run ``python -m wattaxis.substances.build_bank`` where ``rdkit`` is installed beside them (it finds the groups of a molecule for
estimates). The running program only reads the file. Every value carries its source, estimates the name of their method; a value that cannot be had
is absent, never zero.
"""

from __future__ import annotations

import gzip
import json
import math
import re
from importlib.metadata import version
from pathlib import Path
from typing import Any

from wattaxis.substances.build_constants import acentric_factor, all_values, boiling_point, critical, source_name
from wattaxis.substances.build_formation import formation_of
from wattaxis.substances.build_gas_heat import checked, gas_heat_capacity, with_second_part
from wattaxis.substances.build_vapour_pressure import atmospheric_boiling, tabulated, vapour_pressure
from wattaxis.substances.component import FITTED_OMEGA
from wattaxis.substances.estimates import JOBACK, component_from_groups

BANK_FILE = Path(__file__).with_name("bank.json.gz")
#: J/(mol K): entropy of a gas at 298.15 K as a + b ln M + c Cp, fitted to the measured ones of the bank.
ENTROPY = (78.26, 21.24, 1.492)
#: Substances of the trade that no table of organic gases lists, added by CAS number where enough is known or can be estimated.
EXTRA = tuple(Path(__file__).with_name("extra_substances.txt").read_text().split())


def main() -> None:
    import chemicals
    import thermo
    from chemicals import identifiers
    from chemicals.heat_capacity import Cp_data_Poling, TRC_gas_data

    libraries = f"chemicals {version('chemicals')}"
    candidates = sorted(set(Cp_data_Poling.index) | set(TRC_gas_data.index) | _with_critical_point() | set(EXTRA), key=_cas_key)
    substances = []
    for cas in candidates:
        entry = _substance(chemicals, identifiers, cas)
        if entry is not None:
            substances.append(entry)
    _tell_apart(substances)
    known = {s["cas"] for s in substances}
    pairs = _pair_tables(thermo, known)
    bank = {"version": 2, "libraries": libraries, "substances": substances, "pairs": pairs, "groups": _group_tables(thermo)}
    text = json.dumps(bank, separators=(",", ":"), sort_keys=True)
    with gzip.GzipFile(filename="", fileobj=BANK_FILE.open("wb"), mode="wb", mtime=0) as stream:
        stream.write(text.encode())
    print(f"{len(substances)} substances, { {m: len(t['rows']) for m, t in pairs.items()} } pairs, {BANK_FILE.stat().st_size / 1024:.0f} kB")


#: Tables of critical constants that rest on measurements or critical reviews.
CRITICAL_TABLES = ("IUPAC", "Matthews", "CRC", "PSRKR4", "PassutDanner", "PinaMartines")


def _with_critical_point() -> set[str]:
    """CAS numbers of the substances whose critical point is in one of the tables."""
    from chemicals import critical

    critical._load_critical_data()
    return {str(cas) for name in CRITICAL_TABLES for cas in getattr(critical, f"critical_data_{name}").index if re.fullmatch(r"[\d-]+", str(cas))}


def _tell_apart(substances: list[dict[str, Any]]) -> None:
    """Isomers of one name keep it with their CAS number, but for the first: names are what flows are filed under."""
    seen: set[str] = set()
    for entry in substances:
        if entry["name"] in seen:
            entry["synonyms"] = [*entry["synonyms"], entry["name"].lower()]
            entry["name"] = f"{entry['name']} ({entry['cas']})"
        seen.add(entry["name"])


def _cas_key(cas: str) -> tuple[int, ...]:
    return tuple(int(part) for part in cas.split("-"))


def _substance(chemicals: Any, identifiers: Any, cas: str) -> dict[str, Any] | None:
    try:
        meta = identifiers.search_chemical(cas)
    except Exception:  # the library raises bare ValueError subclasses for unknown numbers
        return None
    if meta is None or "+" in meta.formula or "-" in meta.formula:
        return None
    made = _from_groups(meta.smiles)
    joback = None if made is None else checked(list(made.heat_capacity.coefficients), made.heat_capacity.low, made.heat_capacity.high, JOBACK)
    heat_capacity = gas_heat_capacity(cas, float(meta.MW), joback, _atoms(chemicals, meta.formula))
    constants, doubts = _constants(chemicals, cas)
    formation, said = formation_of(chemicals, cas, meta.formula)
    constants |= formation
    doubts += said
    if made is not None:
        constants["Hf"] = constants["Hf"] or [round(made.formation_enthalpy, 1), JOBACK]
        constants["S0"] = constants["S0"] or [round(made.entropy, 3), JOBACK]
    if cas in EXTRA and heat_capacity is not None:
        _stand_in(constants, heat_capacity.data, float(meta.MW), doubts)
    needed = ("Tc", "Pc", "omega", "Hf", "S0")
    if heat_capacity is None or any(constants[name] is None for name in needed) or _contradictory(constants):
        return None
    psat, about_psat = vapour_pressure(cas, constants)
    doubts += [f"heat capacity of the gas: {heat_capacity.doubt}"] if heat_capacity.doubt else []
    doubts += [f"vapour pressure: {about_psat}"] if about_psat else []
    return {
        "cas": cas,
        "groups": _groups(meta.InChI_key, cas),
        "name": _name(meta),
        "formula": meta.formula,
        "smiles": meta.smiles,
        "synonyms": _synonyms(meta),
        "MW": [float(meta.MW) / 1000, "IUPAC atomic weights"],
        **{key: value for key, value in constants.items() if value is not None},
        "Cp": with_second_part(cas, float(meta.MW), heat_capacity.data),
        "Psat": psat,
        **({"doubts": doubts} if doubts else {}),
    }


def _constants(chemicals: Any, cas: str) -> tuple[dict[str, Any], list[str]]:
    """Tc, Pc, Tb, Tm and omega with their sources, and what is to be said of them."""
    tables = {name: all_values(getattr(chemicals, name), getattr(chemicals, f"{name}_methods"), cas) for name in ("Tc", "Pc", "omega", "Tb", "Tm")}
    doubts = []
    found: dict[str, Any] = {"Tc": None, "Pc": None, "omega": None, "Tb": None, "Tm": None}
    for name, share in (("Tc", 0.015), ("Pc", 0.06)):
        chosen = critical(tables[name], share)
        if chosen is not None:
            found[name] = [tables[name][chosen], source_name(chosen)]
            doubts += _passed_over(name, tables[name], chosen)
    if tables["Tm"]:
        first = next(iter(tables["Tm"]))
        found["Tm"] = [tables["Tm"][first], source_name(first)]
    if found["Tc"] is None or found["Pc"] is None:
        return found, doubts
    hints = [t for curve in tabulated(cas, {**found, "omega": [0.3]}) if (t := atmospheric_boiling(curve)) is not None]
    chosen = boiling_point(tables["Tb"], hints)
    if chosen is not None:
        found["Tb"] = [tables["Tb"][chosen], source_name(chosen)]
        doubts += _passed_over("Tb", tables["Tb"], chosen)
    if found["Tb"] and found["Tm"] and found["Tb"][0] < found["Tm"][0] - 0.5:
        doubts.append(f"Tb: {found['Tb'][0]:.1f} K is where the crystals sublime at one atmosphere; the liquid has no boiling point there")
        found["Tb"] = chosen = None
    omega = acentric_factor(tables["omega"], tables["Tb"].get(chosen) if chosen else None, found["Tc"][0], found["Pc"][0])
    if omega is not None:
        value, source, said = omega
        found["omega"] = [value, FITTED_OMEGA if source == FITTED_OMEGA else source_name(source)]
        doubts += [f"omega: {said}"] if said else []
    return found, doubts


def _passed_over(name: str, values: dict[str, float], chosen: str) -> list[str]:
    before = [key for key in list(values)[: list(values).index(chosen)] if key != chosen]
    return [f"{name}: {values[key]:.6g} of {source_name(key)} passed over for {values[chosen]:.6g}" for key in before]


def _contradictory(constants: dict[str, Any]) -> bool:
    """Whether the constants are no fluid's: out of any range, or boiling next to the critical point or far from it."""
    tc, pc, tb = constants["Tc"][0], constants["Pc"][0], constants["Tb"]
    return not 0.0 < tc < 2000.0 or pc <= 0.0 or not -0.5 < constants["omega"][0] < 2.5 or (tb is not None and not 0.3 < tb[0] / tc < 0.99)


def _atoms(chemicals: Any, formula: str) -> int:
    return int(sum(chemicals.elements.simple_formula_parser(formula).values()))


def _stand_in(constants: dict[str, Any], cp: dict[str, Any], mass: float, doubts: list[str]) -> None:
    """What nobody knows of a substance of the trade, so that it can be flashed: no enthalpy of formation, an entropy of like molecules."""
    if constants["Hf"] is None:
        constants["Hf"] = [0.0, "not known, counted as zero"]
        doubts.append("Hf: not known, counted as zero; heats of reaction with it mean nothing")
    if constants["S0"] is None:
        at = sum(c * 298.15**k for k, c in enumerate(cp["c"]))
        constants["S0"] = [round(ENTROPY[0] + ENTROPY[1] * math.log(mass) + ENTROPY[2] * at, 1), "estimated from molar mass and heat capacity"]


def _from_groups(smiles: str) -> Any:
    """The component that the groups of a molecule give, None where the molecule has others."""
    from thermo.group_contribution.joback import Joback

    try:
        molecule = Joback(smiles)
        if molecule.status != "OK":
            return None
        return component_from_groups("x", {int(k): int(n) for k, n in molecule.counts.items()}).component
    except Exception:  # whatever the library raises for molecules that it cannot take apart
        return None


def _name(meta: Any) -> str:
    name = str(meta.common_name or meta.iupac_name).strip()
    return {"2-butanone": "butanone", "methyl ethyl ketone": "butanone", "sec-butanol": "2-butanol"}.get(
        name.lower(), name if name.isupper() and len(name) < 4 else name[:1].lower() + name[1:]
    )


def _synonyms(meta: Any) -> list[str]:
    names = [meta.iupac_name, *meta.synonyms]
    kept = [n for n in dict.fromkeys(n.strip().lower() for n in names) if 1 < len(n) <= 40 and re.fullmatch(r"[a-z0-9 ,'()\[\]-]+", n)]
    abbreviations = [name for name in kept[10:] if len(name) <= 5 and name.isalpha()]
    return kept[:10] + abbreviations[:4]


#: property model -> (last word of the library's table, names of ours, the library's names; 21 is looked up under the pair turned round)
PAIR_TABLES = {
    "peng-robinson": ("PR", ("kij",), ("kij",)),
    "nrtl": ("NRTL", ("b12", "b21", "alpha"), ("bij", "bij", "alphaij")),
    "uniquac": ("UNIQUAC", ("b12", "b21"), ("bij", "bij")),
    "wilson": ("Wilson", ("a12", "b12", "a21", "b21"), ("aij", "bij", "aij", "bij")),
}


def _pair_tables(thermo: Any, known: set[str]) -> dict[str, Any]:
    """Per model the names of its values, a source, and rows [CAS, CAS, values] from the library's tables."""
    tables = thermo.interaction_parameters.IPDB.tables
    found = {}
    for model, (word, names, keys) in PAIR_TABLES.items():
        table = tables[next(name for name in tables if name.endswith(" " + word))]
        rows = []
        for key, values in sorted(table.items()):
            first, second = key.split()
            if first not in known or second not in known or _cas_key(first) > _cas_key(second):
                continue
            turned = table.get(f"{second} {first}", values)
            numbers = [float((turned if name.endswith("21") else values)[k]) for name, k in zip(names, keys, strict=True)]
            rows.append([first, second, *(float(f"{v:.10g}") for v in numbers)])
        source = f"interaction-parameter table shipped with the thermo library {version('thermo')}"
        found[model] = {"names": list(names), "source": source, "rows": rows}
    return found


#: form of UNIFAC -> (end of the name of the library's table of assignments, table of subgroups, table of main-group parameters)
FORMS = {
    "unifac": ("_UNIFAC_assignments", "UFSG", "UFIP"),
    "dortmund": ("_MODIFIED_UNIFAC_assignments", "DOUFSG", "DOUFIP2016"),
    "predictive": ("_PSRK_assignments", "PSRKSG", "PSRKIP"),
}
#: The form for two liquids has no assignments of its own: those of UNIFAC by the names of the groups. Ethers and aldehydes share a name there;
#: the propanols are groups of their own.
LIQUIDS, LIQUID_TABLES = "liquid-liquid", ("LLEUFSG", "LLEUFIP")
LIQUID_GROUPS = {20: 21, 26: 29}
#: Small molecules that are a group each in the tables for gases.
GASES = {
    "7664-41-7": 111, "630-08-0": 112, "1333-74-0": 113, "7783-06-4": 114, "7727-37-9": 115, "7440-37-1": 116, "124-38-9": 117, "74-82-8": 118,
    "7782-44-7": 119, "7782-39-0": 120, "7446-09-5": 121, "10102-43-9": 122, "10024-97-2": 123, "2551-62-4": 124, "7440-59-7": 125, "7440-01-9": 126,
    "7439-90-9": 127, "7440-63-3": 128, "7664-39-3": 129, "7647-01-0": 130, "10035-10-6": 131, "10034-85-2": 132, "463-58-1": 133, "74-85-1": 109,
    "7782-41-4": 142, "7782-50-5": 143, "7726-95-6": 144, "74-90-8": 145, "10102-44-0": 146, "75-73-0": 147, "10028-15-6": 148, "2696-92-6": 149,
}  # fmt: skip
PROPANOLS = {"71-23-8": {15: 1}, "67-63-0": {16: 1}}


def _groups(key: str, cas: str) -> dict[str, dict[int, int]]:
    """Groups of a substance in each form of UNIFAC, by subgroup number; a form that has no split of it is left out."""
    from thermo import unifac

    if not hasattr(_groups, "tables"):
        next(getattr(unifac, name) for name in dir(unifac) if name.startswith("load_group_assignments"))()
        names = [name for name in dir(unifac) if name.endswith("_assignments") and isinstance(getattr(unifac, name), dict)]
        _groups.tables = {  # type: ignore[attr-defined]
            form: getattr(unifac, next(n for n in names if n.endswith(end) and ("MODIFIED" in n) == ("MODIFIED" in end)))
            for form, (end, _, _) in FORMS.items()
        }
    found = {form: table.get(key) for form, table in _groups.tables.items()}  # type: ignore[attr-defined]
    split = {form: {int(g): int(count) for g, count in groups.items()} for form, groups in found.items() if groups}
    if cas in GASES:
        split["predictive"] = {GASES[cas]: 1}
    parts = PROPANOLS.get(cas) or _liquid_groups(split.get("unifac", {}))
    return split | ({LIQUIDS: parts} if parts else {})


def _liquid_groups(parts: dict[int, int]) -> dict[int, int]:
    """Subgroups of the form for two liquids, empty where one has no counterpart there."""
    from thermo import unifac

    known = {group.group: int(number) for number, group in unifac.LLEUFSG.items()}
    found = {}
    for number, count in parts.items():
        name = unifac.UFSG[number].group
        other = LIQUID_GROUPS.get(number, known.get(name))
        if other is None:
            return {}
        found[other] = count
    return found


def _group_tables(thermo: Any) -> dict[str, Any]:
    """Per form: subgroups [number, name, main group, R, Q] and main-group parameters [main, main, a, b, c], with the source."""
    from thermo import unifac

    unifac.load_unifac_ip()
    tables = {}
    for form, (subgroups, parameters) in ({form: names[1:] for form, names in FORMS.items()} | {LIQUIDS: LIQUID_TABLES}).items():
        groups = [[int(k), g.group, int(g.main_group_id), float(g.R), float(g.Q)] for k, g in sorted(getattr(unifac, subgroups).items())]
        rows = []
        for first, others in sorted(getattr(unifac, parameters).items()):
            for second, values in sorted(others.items()):
                a, b, c = values if isinstance(values, tuple) else (values, 0.0, 0.0)
                rows.append([int(first), int(second), float(a), float(b), float(c)])
        source = f"group table shipped with the thermo library {version('thermo')}"
        tables[form] = {"source": source, "subgroups": groups, "parameters": rows}
    return tables


if __name__ == "__main__":
    main()
