"""Writes the conventional solids (``solids.json.gz``) from the open tables of ``chemicals``.

A development tool: run ``python -m wattaxis.substances.build_solids``. A substance enters with molar mass, density, enthalpy of formation, entropy
and heat capacity of the crystal, each with its source; one that lacks any of them is left out, since nothing can be estimated for a crystal here.
"""

from __future__ import annotations

import gzip
import json
import math
import re
from importlib.metadata import version
from types import SimpleNamespace
from typing import Any

import numpy as np

from wattaxis.substances.build_bank import _cas_key, _name, _synonyms
from wattaxis.substances.build_constants import first
from wattaxis.substances.solids import SOLIDS_FILE

CALORIE = 4.184
#: A tabulated heat capacity that four powers of T and 1/T2 do not follow to this share (a transition lies in between) ends before it.
FOLLOWED = 0.03
CRC = "CRC Handbook of Chemistry and Physics, 95th edition"
#: Solids that the library knows values of, but no names.
NOT_LISTED = {"7782-42-5": SimpleNamespace(formula="C", MW=12.011, common_name="graphite", iupac_name="carbon", synonyms=["coke", "plumbago"])}
#: What they are called where they are handled.
ALSO = {
    "14808-60-7": ["sand", "silica sand", "quartz"], "471-34-1": ["limestone", "chalk"], "1305-78-8": ["quicklime", "lime"],
    "7647-14-5": ["rock salt"],
}  # fmt: skip
NOT_ITSELF = {"gypsum", "plaster of paris"}
JANAF = "fitted to the JANAF tables (Chase 1998)"
PERRY = "Green, Perry 2007, table 2-151"


def main() -> None:
    import chemicals
    from chemicals import heat_capacity, volume

    volume._load_rho_data()
    heat_capacity._load_Cp_data()
    volumes = volume.rho_data_CRC_inorg_s_const
    found = []
    for cas in sorted((str(c) for c in volumes.index if re.fullmatch(r"\d+-\d\d-\d", str(c))), key=_cas_key):
        entry = _solid(chemicals, heat_capacity, cas, volumes.loc[cas])
        if entry is not None:
            found.append(entry)
    text = json.dumps({"version": 1, "libraries": f"chemicals {version('chemicals')}", "solids": found}, separators=(",", ":"), sort_keys=True)
    with gzip.GzipFile(filename="", fileobj=SOLIDS_FILE.open("wb"), mode="wb", mtime=0) as stream:
        stream.write(text.encode())
    print(f"{len(found)} solids, {SOLIDS_FILE.stat().st_size / 1024:.0f} kB")


def _solid(chemicals: Any, tables: Any, cas: str, row: Any) -> dict[str, Any] | None:
    try:
        meta = NOT_LISTED.get(cas) or chemicals.identifiers.search_chemical(cas)
    except Exception:  # the library raises bare ValueError subclasses for unknown numbers
        return None
    volume = float(row["Vm"])
    if meta is None or re.search(r"[+-]", meta.formula) or not volume > 0.0:
        return None
    if "carbide" in str(row["Chemical"]) and "H" in meta.formula:  # the library's formula belongs to another substance
        return None
    hf, s0 = first(chemicals.Hfs, chemicals.Hfs_methods, cas), first(chemicals.S0s, chemicals.S0s_methods, cas)
    cp = _heat_capacity(tables, cas)
    if hf is None or s0 is None or cp is None:
        return None
    entry = {
        "cas": cas,
        "name": str(row["Chemical"])[:1].lower() + str(row["Chemical"])[1:],
        "formula": meta.formula,
        "synonyms": _also_called(meta, cas, str(row["Chemical"])),
        "MW": [float(meta.MW) / 1000, "IUPAC atomic weights"],
        "rho": [float(f"{meta.MW / 1000 / volume:.5g}"), CRC],
        "Hf": hf,
        "S0": s0,
        "Cp": cp,
    }
    melting = first(chemicals.Tm, chemicals.Tm_methods, cas)
    return entry | ({"Tm": melting} if melting else {})


def _also_called(meta: Any, cas: str, name: str) -> list[str]:
    """Other names, without numbers and codes of registers, and without those of its hydrates."""
    names = dict.fromkeys([_name(meta), *ALSO.get(cas, []), *_synonyms(meta)])
    return [n for n in names if n.lower() != name.lower() and not re.search(r"\d.*\d.*\d", n) and n not in NOT_ITSELF]


def _heat_capacity(tables: Any, cas: str) -> dict[str, Any] | None:
    """Cp/(J/(mol K)) = c0 + c1 T + c2 T2 + c3 T3 + c4/T2 with its range and source; the value at 298.15 K alone where nothing else is known."""
    if cas in tables.Cp_dict_JANAF_solid:
        fitted = _fitted(*(np.array(column, float) for column in tables.Cp_dict_JANAF_solid[cas]))
        if fitted is not None:
            return fitted
    crystal = tables.Cp_dict_PerryI.get(cas, {}).get("c")
    if crystal is not None and crystal["Tmax"] and crystal["Tmax"] > 350.0:
        c = [CALORIE * float(crystal[key] or 0.0) for key in ("Const", "Lin", "Quad", "Quadinv")]
        return {"c": [c[0], c[1], c[2], 0.0, c[3]], "Tmin": float(crystal["Tmin"]), "Tmax": float(crystal["Tmax"]), "source": PERRY}
    if cas in tables.CRC_standard_data.index:
        value = float(tables.CRC_standard_data.at[cas, "Cps"])
        if math.isfinite(value) and value > 0.0:
            return {"c": [value, 0.0, 0.0, 0.0, 0.0], "Tmin": 273.15, "Tmax": 323.15, "source": f"{CRC}, at 298.15 K"}
    return None


def _fitted(t: np.ndarray, cp: np.ndarray) -> dict[str, Any] | None:
    """Least squares over the longest run of a table from 200 K up that the form follows; None where that is too short."""
    keep = (t >= 200.0) & (t <= 2000.0)
    t, cp = t[keep], cp[keep]
    while len(t) >= 5 and t[-1] > 400.0:
        terms = np.stack([np.ones_like(t), t, t**2, t**3, t**-2.0], axis=1)
        scale = np.abs(terms).max(axis=0)
        # Relative, and nearly exact where the enthalpy of formation and the entropy stand.
        weight = np.where(np.abs(t - 298.15) < 2.0, 30.0, 1.0) / cp
        c = np.linalg.lstsq(terms / scale * weight[:, None], cp * weight, rcond=None)[0] / scale
        if np.max(np.abs(terms @ c / cp - 1.0)) < FOLLOWED:
            return {"c": [float(f"{value:.10g}") for value in c], "Tmin": float(t[0]), "Tmax": float(t[-1]), "source": JANAF}
        t, cp = t[:-1], cp[:-1]
    return None


if __name__ == "__main__":
    main()
