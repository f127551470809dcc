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
from collections.abc import Iterator
from importlib.metadata import version
from pathlib import Path
from typing import Any

import numpy as np

from wattaxis.substances.estimates import JOBACK, component_from_groups
from wattaxis.substances.formation import ELEMENT_ENTROPY, T_REF

BANK_FILE = Path(__file__).with_name("bank.json.gz")
R = 8.31446261815324
#: Elements and inorganic gases that no hydrocarbon table lists, added by CAS number.
EXTRA_GASES = ("1333-74-0", "7727-37-9", "7782-44-7", "7440-37-1", "7440-59-7", "7664-41-7", "7732-18-5")


def main() -> None:
    import chemicals
    import thermo
    from chemicals import identifiers
    from chemicals.heat_capacity import Cp_data_Poling, TRC_gas_data

    libraries = f"chemicals {version('chemicals')}"
    candidates = sorted(set(Cp_data_Poling.index) | set(TRC_gas_data.index) | _with_critical_point() | set(EXTRA_GASES), key=_cas_key)
    substances = []
    for cas in candidates:
        entry = _substance(chemicals, identifiers, cas)
        if entry is not None:
            substances.append(entry)
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


def _cas_key(cas: str) -> tuple[int, ...]:
    return tuple(int(part) for part in cas.split("-"))


def _first(getter: Any, methods: Any, cas: str) -> list[Any] | None:
    """The library's preferred value with the name of its table: [value, source]."""
    found = methods(cas)
    if not found:
        return None
    value = getter(cas, method=found[0])
    return None if value is None or not math.isfinite(value) else [float(value), _source_name(found[0])]


#: What the library's short table names stand for.
SOURCES = {
    "HEOS": "reference equation of state (CoolProp fluid tables)",
    "ATCT_G": "Active Thermochemical Tables (Ruscic 2019)",
    "CRC": "CRC Handbook of Chemistry and Physics, 95th edition",
    "CRC_ORG": "CRC Handbook of Chemistry and Physics, 95th edition",
    "CRC_INORG": "CRC Handbook of Chemistry and Physics, 95th edition",
    "IUPAC": "IUPAC critical-properties reviews (Ambrose, Tsonopoulos and others)",
    "MATTHEWS": "Matthews 1972",
    "PINAMARTINES": "Martinez and others 2005, critical-data collection",
    "WILSON_JASPERSON": "estimated, Wilson, Jasperson 1996",
    "JOBACK": "estimated, Joback, Reid 1987",
    "ACENTRIC_DEFINITION": "from the vapour pressure at Tr = 0.7",
    "PSRK": "Horstmann and others 2005",
    "PD": "Passut, Danner 1973",
    "YAWS": "Yaws 2008",
    "TRC": "TRC gas tables (Kabo and others 1994)",
    "WEBBOOK": "NIST Chemistry WebBook",
    "API_TDB_G": "Albahri 2014",
    "OPEN_NTBKM": "open melting-point data (Bradley 2014)",
    "COMMON_CHEMISTRY": "CAS Common Chemistry",
    "WIKIDATA": "Wikidata",
}


def _source_name(key: str) -> str:
    return SOURCES[str(key)]


def _substance(chemicals: Any, identifiers: Any, cas: str) -> dict[str, Any] | None:
    try:
        meta = identifiers.search_chemical(cas)
    except Exception:  # the library raises bare ValueError subclasses for unknown numbers
        return None
    if meta is None or "+" in meta.formula or "-" in meta.formula:
        return None
    constants = {
        "Tc": _first(chemicals.Tc, chemicals.Tc_methods, cas),
        "Pc": _first(chemicals.Pc, chemicals.Pc_methods, cas),
        "omega": _first(chemicals.omega, chemicals.omega_methods, cas),
        "Tb": _first(chemicals.Tb, chemicals.Tb_methods, cas),
        "Tm": _first(chemicals.Tm, chemicals.Tm_methods, cas),
        "Hf": _first(chemicals.Hfg, chemicals.Hfg_methods, cas),
        "S0": _entropy(chemicals, cas, meta.formula),
    }
    heat_capacity = _ideal_gas_heat_capacity(cas)
    if heat_capacity is None or constants["Hf"] is None or constants["S0"] is None:
        heat_capacity = _fill(constants, heat_capacity, meta.smiles)
    needed = ("Tc", "Pc", "omega", "Hf", "S0")
    if heat_capacity is None or any(constants[name] is None for name in needed):
        return None
    if constants["Tc"][0] <= 0 or constants["Pc"][0] <= 0 or not -0.5 < constants["omega"][0] < 2:  # type: ignore[index]
        return None
    for method in chemicals.omega_methods(cas) if _contradictory(constants) else ():
        value = chemicals.omega(cas, method=method)
        if value is not None and not _contradictory({**constants, "omega": [float(value), ""]}):
            constants["omega"] = [float(value), _source_name(method)]
            break
    if _contradictory(constants):
        return None
    return {
        "cas": cas,
        "groups": _groups(meta.InChI_key, cas),
        "name": _name(meta),
        "formula": meta.formula,
        "smiles": meta.smiles,
        "synonyms": _synonyms(meta),
        "MW": [float(meta.MW) / 1000, "IUPAC atomic weights"],
        **{key: value for key, value in constants.items() if value is not None},
        "Cp": heat_capacity,
        "Psat": _vapour_pressure(cas, constants),
    }


def _contradictory(constants: dict[str, Any]) -> bool:
    """Whether the vapour pressure that critical constants and acentric factor give (Lee, Kesler 1975) is off by more than a factor of two at the
    boiling point: then one of them belongs to another substance, or to one that decomposes."""
    if constants["Tb"] is None:
        return False
    if not 0.3 < constants["Tb"][0] / constants["Tc"][0] < 0.99:
        return True
    return abs(_lee_kesler(constants["Tb"][0], constants) - math.log(101325.0)) > math.log(2.0)


def _fill(constants: dict[str, Any], heat_capacity: dict[str, Any] | None, smiles: str) -> dict[str, Any] | None:
    """Enthalpy of formation, entropy and heat capacity of the gas by the groups of the molecule, where they are missing; the heat capacity."""
    from thermo.group_contribution.joback import Joback

    try:
        molecule = Joback(smiles)
        if molecule.status != "OK":
            return heat_capacity
        made = component_from_groups("x", {int(k): int(n) for k, n in molecule.counts.items()}).component
    except Exception:  # whatever the library raises for molecules that it cannot take apart
        return heat_capacity
    if constants["Hf"] is None:
        constants["Hf"] = [round(made.formation_enthalpy, 1), JOBACK]
    if constants["S0"] is None:
        constants["S0"] = [round(made.entropy, 3), JOBACK]
    cp = made.heat_capacity
    return heat_capacity or _checked_cp(list(cp.coefficients), cp.low, cp.high, JOBACK)


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


def _entropy(chemicals: Any, cas: str, formula: str) -> list[Any] | None:
    direct = _first(chemicals.S0g, chemicals.S0g_methods, cas)
    if direct is not None:
        return direct
    hf = _first(chemicals.Hfg, chemicals.Hfg_methods, cas)
    gf = _gibbs_energy(cas)
    atoms = chemicals.elements.simple_formula_parser(formula)
    if hf is None or gf is None or any(element not in ELEMENT_ENTROPY for element in atoms):
        return None
    elements = sum(count * ELEMENT_ENTROPY[element] for element, count in atoms.items())
    return [(hf[0] - gf[0]) / T_REF + elements, f"from Hf and Gf ({gf[1]}) and CODATA element entropies"]


def _gibbs_energy(cas: str) -> list[Any] | None:
    from chemicals.heat_capacity import CRC_standard_data

    if cas not in CRC_standard_data.index or not math.isfinite(CRC_standard_data.at[cas, "Gfg"]):
        return None
    return [float(CRC_standard_data.at[cas, "Gfg"]), "CRC"]


def _ideal_gas_heat_capacity(cas: str) -> dict[str, Any] | None:
    """Cp/(J/(mol K)) = c0 + c1 T + ... + c4 T^4, with its range and source."""
    from chemicals.heat_capacity import Cp_data_Poling, TRC_gas_data, TRCCp

    if cas in Cp_data_Poling.index:
        row = Cp_data_Poling.loc[cas]
        raw = [float(row[f"a{k}"]) for k in range(5)]
        if all(math.isfinite(c) for c in raw):
            coefficients = [R * c for c in raw]
            return _checked_cp(coefficients, float(row["Tmin"]), float(row["Tmax"]), "Poling, Prausnitz, O'Connell 2001, table A.C")
    if cas in TRC_gas_data.index:
        row = TRC_gas_data.loc[cas]
        low, high = max(float(row["Tmin"]), 150.0), min(float(row["Tmax"]), 1500.0)
        temperature = np.linspace(low, high, 200)
        values = np.array([TRCCp(t, *[float(row[f"a{k}"]) for k in range(8)]) for t in temperature])
        scaled = np.polynomial.Polynomial.fit(temperature, values, 4).convert()
        return _checked_cp([float(c) for c in scaled.coef], low, high, "fitted to TRC gas tables (Kabo and others 1994)")
    return None


def _checked_cp(coefficients: list[float], low: float, high: float, source: str) -> dict[str, Any] | None:
    if not (math.isfinite(low) and math.isfinite(high)):  # of atoms, whose heat capacity is 5/2 R at any temperature
        low, high = 1.0, 6000.0
    grid = np.linspace(low, high, 50)
    values = sum(c * grid**k for k, c in enumerate(coefficients))
    if np.min(values) < 1.5 * R:
        return None
    return {"c": [float(f"{c:.12g}") for c in coefficients], "Tmin": low, "Tmax": high, "source": source}


def _vapour_pressure(cas: str, constants: dict[str, Any]) -> dict[str, Any]:
    """The first table's curve that does not contradict the boiling point by a factor of two, else the estimate.

    ln(Psat/Pa) = c0 + c1/T + c2 ln T + c3 T^c4 (form 1), Wagner 2.5-5 (2), Lee-Kesler (3), Antoine (4), Wagner 3-6 (5).
    """
    for curve in _tabulated(cas, constants):
        known = constants["Tb"] is not None and curve["Tmin"] <= constants["Tb"][0] <= curve["Tmax"]
        if not known or abs(_log_pressure(curve, constants["Tb"][0]) - math.log(101325.0)) < math.log(2.0):
            return curve
    tc = constants["Tc"][0]
    return _form(3, [0.0] * 5, 0.5 * tc, tc, "estimated, Lee, Kesler 1975")


def _tabulated(cas: str, constants: dict[str, Any]) -> Iterator[dict[str, Any]]:
    """Curves of the open tables, the best table first."""
    from chemicals import vapor_pressure as tables

    if cas in tables.Psat_data_Perrys2_8.index:
        row = tables.Psat_data_Perrys2_8.loc[cas]
        yield _form(1, [row[f"C{k}"] for k in range(1, 6)], row["Tmin"], row["Tmax"], "Green, Perry 2007, table 2-8")
    for form, name, source in WAGNER_TABLES:
        table = getattr(tables, name)
        if cas in table.index:
            row = table.loc[cas]
            low = row["Tm"] if "Tm" in row else row["Tmin"]
            low = low if math.isfinite(low) else 0.5 * row["Tc"]  # the melting point, where one is known
            yield _form(form, [*(row[k] for k in "ABCD"), 0.0], low, row["Tc"], source) | {"critical": [float(row["Tc"]), float(row["Pc"])]}
    if cas in tables.Psat_data_AntoinePoling.index:
        row = tables.Psat_data_AntoinePoling.loc[cas]
        natural = [row["A"] * math.log(10), row["B"] * math.log(10), row["C"], 0.0, 0.0]
        yield _form(4, natural, row["Tmin"], row["Tmax"], "Poling, Prausnitz, O'Connell 2001, table A.E")
    if cas in tables.Psat_data_Landolt_Antoine.index:
        row = tables.Psat_data_Landolt_Antoine.loc[cas]
        if _believed([float(row[k]) for k in ("A", "B", "C", "Tmin", "Tmax")], constants):
            natural = [row["A"], row["B"], row["C"], 0.0, 0.0]
            yield _form(4, natural, row["Tmin"], row["Tmax"], "Landolt-Boernstein, new series IV/20, Antoine constants")


def _log_pressure(curve: dict[str, Any], t: float) -> float:
    """ln(Psat/Pa) of a curve of forms 1, 2, 4 and 5."""
    a, b, c, d, e = curve["c"]
    if curve["form"] == 1:
        return float(a + b / t + c * math.log(t) + d * t**e)
    if curve["form"] == 4:
        return float(a - b / (t + c))
    tc, pc = curve["critical"]
    tau = 1.0 - t / tc
    n, m = (2.5, 5.0) if curve["form"] == 2 else (3.0, 6.0)
    return float(math.log(pc) + tc / t * (a * tau + b * tau**1.5 + c * tau**n + d * tau**m))


#: Tables of Wagner's equation: the form, the library's name, the source.
WAGNER_TABLES = (
    (2, "Psat_data_VDI_PPDS_3", "Gesellschaft VDI 2010, Waermeatlas D3"),
    (2, "Psat_data_WagnerPoling", "Poling, Prausnitz, O'Connell 2001, table A.F"),
    (5, "Psat_data_WagnerMcGarry", "McGarry 1983"),
)


def _form(form: int, constants: list[Any], low: float, high: float, source: str) -> dict[str, Any]:
    return {"form": form, "c": [float(f"{c:.12g}") for c in constants], "Tmin": float(low), "Tmax": float(high), "source": source}


def _believed(antoine: list[float], constants: dict[str, Any]) -> bool:
    """Whether Antoine constants [A, B, C, low, high] of the large collection belong to the substance: some are of another, or have slipped a digit.

    They span 15 K below the critical point and well above the pole, meet the boiling point within 10 % of pressure where they come near it, lie
    within a factor of three of Lee and Kesler's estimate (1.5 without a boiling point), and their slope within a half of its.
    """
    a, b, c, low, high = antoine
    tc = constants["Tc"][0]
    if not (high - low >= 15.0 and low + c > 20.0 and high <= 1.001 * tc and b > 0.0):
        return False
    middle = 0.5 * (low + high)
    off = a - b / (middle + c) - _lee_kesler(middle, constants)
    slope = b / (middle + c) ** 2 / (_lee_kesler(middle + 0.5, constants) - _lee_kesler(middle - 0.5, constants))
    boiling = constants["Tb"]
    if boiling is not None and low - 30.0 <= boiling[0] <= high + 30.0:
        inside = min(max(boiling[0], low), high)
        reached = a - b / (inside + c) + b / (inside + c) ** 2 * inside**2 * (1.0 / inside - 1.0 / boiling[0])
        known = abs(reached - math.log(101325.0)) < 0.1
    else:
        known = abs(off) < math.log(1.5)
    return known and abs(off) < math.log(3.0) and 0.5 < slope < 2.0


def _lee_kesler(t: float, constants: dict[str, Any]) -> float:
    """ln(Psat/Pa) of Lee and Kesler 1975."""
    x = t / constants["Tc"][0]
    first = 5.92714 - 6.09648 / x - 1.28862 * math.log(x) + 0.169347 * x**6
    second = 15.2518 - 15.6875 / x - 13.4721 * math.log(x) + 0.43577 * x**6
    return float(math.log(constants["Pc"][0]) + first + constants["omega"][0] * second)


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
