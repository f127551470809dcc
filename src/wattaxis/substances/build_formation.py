"""Enthalpies of formation and entropies of the ideal gas for the bank, tested against the tabulated Gibbs energies. A development tool, used by
:mod:`wattaxis.substances.build_bank`."""

from __future__ import annotations

import math
from typing import Any

from wattaxis.substances.build_constants import all_values, consensus, source_name
from wattaxis.substances.formation import ELEMENT_ENTROPY, T_REF

#: J/mol within which two enthalpies, and the Gibbs energy of enthalpy and entropy beside the tabulated one, are the same.
ALIKE, CLOSES = 4e3, 4e3
ESTIMATED = ("JOBACK",)


def formation_of(chemicals: Any, cas: str, formula: str) -> tuple[dict[str, Any], list[str]]:
    """Hf and S0 with their sources (None where nothing is measured), and what is to be said of them."""
    enthalpies, entropies = (
        {name: value for name, value in all_values(getter, methods, cas).items() if name not in ESTIMATED}
        for getter, methods in ((chemicals.Hfg, chemicals.Hfg_methods), (chemicals.S0g, chemicals.S0g_methods))
    )
    gibbs, elements = _gibbs_energy(cas), _element_entropy(chemicals, formula)
    doubts = []
    enthalpy = consensus(enthalpies, lambda a, b: abs(a - b) < ALIKE + 0.01 * abs(a)) if enthalpies else None
    if enthalpy is not None and enthalpy != next(iter(enthalpies)):
        first = next(iter(enthalpies))
        doubts.append(f"Hf: {enthalpies[first] / 1e3:.1f} kJ/mol of {source_name(first)} passed over for {enthalpies[enthalpy] / 1e3:.1f}")
    found: dict[str, Any] = {"Hf": None, "S0": None}
    if enthalpy is not None:
        found["Hf"] = [enthalpies[enthalpy], source_name(enthalpy)]
    wanted = None
    if enthalpy is not None and gibbs is not None and elements is not None:
        wanted = (enthalpies[enthalpy] - gibbs) / T_REF + elements
    if entropies:
        first = next(iter(entropies))
        best = (
            first
            if wanted is None
            else min(entropies, key=lambda name: (abs(entropies[name] - wanted) * T_REF > CLOSES, list(entropies).index(name)))
        )
        found["S0"] = [entropies[best], source_name(best)]
        if best != first:
            doubts.append(f"S0: {entropies[first]:.1f} J/(mol K) of {source_name(first)} passed over for {entropies[best]:.1f}")
        if wanted is not None and abs(entropies[best] - wanted) * T_REF > CLOSES:
            doubts.append(f"S0 and Hf miss the Gibbs energy of the CRC Handbook by {(wanted - entropies[best]) * T_REF / 1e3:+.1f} kJ/mol")
    elif wanted is not None and wanted > 100.0:
        found["S0"] = [wanted, "from Hf and Gf (CRC) and CODATA element entropies"]
    return found, doubts


def _gibbs_energy(cas: str) -> float | None:
    from chemicals.heat_capacity import CRC_standard_data

    if cas not in CRC_standard_data.index or not math.isfinite(CRC_standard_data.at[cas, "Gfg"]):
        return None
    return float(CRC_standard_data.at[cas, "Gfg"])


def _element_entropy(chemicals: Any, formula: str) -> float | None:
    atoms = chemicals.elements.simple_formula_parser(formula)
    if any(element not in ELEMENT_ENTROPY for element in atoms):
        return None
    return float(sum(count * ELEMENT_ENTROPY[element] for element, count in atoms.items()))
