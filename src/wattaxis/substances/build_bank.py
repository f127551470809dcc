"""Writes the component bank (``bank.json.gz``) from the open tables of ``chemicals`` and ``thermo``.

A development tool: run ``python -m wattaxis.substances.build_bank``. The running program only reads the
file. Every value carries its source; a value that cannot be had is absent, never zero.
"""

from __future__ import annotations

import gzip
import json
import math
import re
from importlib.metadata import version
from pathlib import Path
from typing import Any

import numpy as np

BANK_FILE = Path(__file__).with_name("bank.json.gz")
R = 8.31446261815324
T_REF = 298.15
#: Third-law entropies of the elements at 298.15 K and 1 bar, J/(mol of atoms K); CODATA key values
#: (Cox, Wagman, Medvedev 1989), silicon and bromine included.
ELEMENT_ENTROPY = {
    "H": 65.34, "O": 102.576, "N": 95.8045, "C": 5.74, "S": 32.054, "Cl": 111.5405, "F": 101.3955,
    "Br": 76.105, "I": 58.07, "Si": 18.81, "He": 126.153, "Ne": 146.328, "Ar": 154.846, "Kr": 164.085, "Xe": 169.685,
}  # fmt: skip
#: Elements and inorganic gases that no hydrocarbon table lists, added by CAS number.
EXTRA_GASES = ("1333-74-0", "7727-37-9", "7782-44-7", "7440-37-1", "7440-59-7", "7664-41-7", "7732-18-5")


def main() -> None:
    import chemicals
    import thermo
    from chemicals import identifiers
    from chemicals.heat_capacity import Cp_data_Poling, TRC_gas_data

    libraries = f"chemicals {version('chemicals')}"
    candidates = sorted(set(Cp_data_Poling.index) | set(TRC_gas_data.index) | set(EXTRA_GASES), key=_cas_key)
    substances = []
    for cas in candidates:
        entry = _substance(chemicals, identifiers, cas)
        if entry is not None:
            substances.append(entry)
    known = {s["cas"] for s in substances}
    pairs = _peng_robinson_pairs(thermo, known)
    bank = {"version": 1, "libraries": libraries, "substances": substances, "pairs": {"peng_robinson": pairs}}
    text = json.dumps(bank, separators=(",", ":"), sort_keys=True)
    with gzip.GzipFile(filename="", fileobj=BANK_FILE.open("wb"), mode="wb", mtime=0) as stream:
        stream.write(text.encode())
    print(f"{len(substances)} substances, {len(pairs)} pairs, {BANK_FILE.stat().st_size / 1024:.0f} kB")


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
    needed = ("Tc", "Pc", "omega", "Hf", "S0")
    if heat_capacity is None or any(constants[name] is None for name in needed):
        return None
    if constants["Tc"][0] <= 0 or constants["Pc"][0] <= 0 or not -0.5 < constants["omega"][0] < 2:  # type: ignore[index]
        return None
    return {
        "cas": cas,
        "name": _name(meta),
        "formula": meta.formula,
        "smiles": meta.smiles,
        "synonyms": _synonyms(meta),
        "MW": [float(meta.MW) / 1000, "IUPAC atomic weights"],
        **{key: value for key, value in constants.items() if value is not None},
        "Cp": heat_capacity,
        "Psat": _vapour_pressure(cas, constants),
    }


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
    grid = np.linspace(low, high, 50)
    values = sum(c * grid**k for k, c in enumerate(coefficients))
    if np.min(values) < 1.5 * R:
        return None
    return {"c": [float(f"{c:.12g}") for c in coefficients], "Tmin": low, "Tmax": high, "source": source}


def _vapour_pressure(cas: str, constants: dict[str, Any]) -> dict[str, Any]:
    """ln(Psat/Pa) = c0 + c1/T + c2 ln T + c3 T^c4 (form 1), Wagner 2.5-5 (2), Lee-Kesler (3), Antoine (4)."""
    from chemicals.vapor_pressure import Psat_data_AntoinePoling, Psat_data_Perrys2_8, Psat_data_VDI_PPDS_3

    if cas in Psat_data_Perrys2_8.index:
        row = Psat_data_Perrys2_8.loc[cas]
        return {
            "form": 1,
            "c": [float(row[f"C{k}"]) for k in range(1, 6)],
            "Tmin": float(row["Tmin"]),
            "Tmax": float(row["Tmax"]),
            "source": "Green, Perry 2007, table 2-8",
        }
    if cas in Psat_data_VDI_PPDS_3.index:
        row = Psat_data_VDI_PPDS_3.loc[cas]
        return {
            "form": 2,
            "c": [float(row[k]) for k in "ABCD"] + [0.0],
            "Tmin": float(row["Tm"]),
            "Tmax": float(row["Tc"]),
            "critical": [float(row["Tc"]), float(row["Pc"])],
            "source": "Gesellschaft VDI 2010, Waermeatlas D3",
        }
    if cas in Psat_data_AntoinePoling.index:
        row = Psat_data_AntoinePoling.loc[cas]
        natural = [float(row["A"]) * math.log(10), float(row["B"]) * math.log(10), float(row["C"]), 0.0, 0.0]
        source = "Poling, Prausnitz, O'Connell 2001, table A.E"
        return {"form": 4, "c": natural, "Tmin": float(row["Tmin"]), "Tmax": float(row["Tmax"]), "source": source}
    tc = constants["Tc"][0]
    return {"form": 3, "c": [0.0] * 5, "Tmin": 0.5 * tc, "Tmax": tc, "source": "estimated, Lee, Kesler 1975"}


def _peng_robinson_pairs(thermo: Any, known: set[str]) -> list[list[Any]]:
    """[CAS, CAS, kij] from the library's table for the Peng-Robinson equation."""
    bank = thermo.interaction_parameters.IPDB
    table = next(name for name in bank.tables if name.endswith(" PR"))
    rows = []
    for key, values in sorted(bank.tables[table].items()):
        first, second = key.split()
        if first in known and second in known:
            rows.append([first, second, float(values["kij"])])
    return rows


if __name__ == "__main__":
    main()
