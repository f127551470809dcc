"""Elements of a substance by its formula, and its Gibbs energy of formation from enthalpy and entropy."""

from __future__ import annotations

import re

from wattaxis.substances.component import Component

T_REF = 298.15  # K
#: Third-law entropies of the elements at 298.15 K and 1 bar, J/(mol of atoms K); CODATA key values (Cox, Wagman, Medvedev 1989).
ELEMENT_ENTROPY = {
    "H": 65.34, "O": 102.576, "N": 95.8045, "C": 5.74, "S": 32.054, "Cl": 111.5405, "F": 101.3955,
    "Br": 76.105, "I": 58.07, "Si": 18.81, "He": 126.153, "Ne": 146.328, "Ar": 154.846, "Kr": 164.085, "Xe": 169.685,
    "Ag": 42.55, "Al": 28.30, "B": 5.90, "Be": 9.50, "Ca": 41.59, "Cd": 51.80, "Cs": 85.23, "Cu": 33.15, "Ge": 31.09, "Hg": 75.90,
    "K": 64.68, "Li": 29.12, "Mg": 32.67, "Na": 51.30, "P": 41.09, "Pb": 64.80, "Rb": 76.78, "Sn": 51.18, "Ti": 30.72, "Zn": 41.63,
}  # fmt: skip


#: Symbols of the elements.
ELEMENTS = frozenset(re.findall("[A-Z][a-z]?", """
    HHeLiBeBCNOFNeNaMgAlSiPSClArKCaScTiVCrMnFeCoNiCuZnGaGeAsSeBrKrRbSrYZrNbMoTcRuRhPdAgCdInSnSbTeIXeCsBaLaCePrNdPmSmEuGdTbDyHoErTmYbLuHfTaWReOsIr
    PtAuHgTlPbBiPoAtRnFrRaAcThPaUNpPuDT"""))  # fmt: skip


def atoms_of(formula: str) -> dict[str, int] | None:
    """Atoms by element of a plain formula, None where it cannot be read.

    >>> atoms_of("C4H8O")
    {'C': 4, 'H': 8, 'O': 1}
    """
    if not formula or not re.fullmatch(r"(?:[A-Z][a-z]?\d*)+", formula):
        return None
    found: dict[str, int] = {}
    for symbol, count in re.findall(r"([A-Z][a-z]?)(\d*)", formula):
        found[symbol] = found.get(symbol, 0) + int(count or 1)
    return found


def gibbs_energy_of_formation(component: Component) -> float | None:
    """J/mol from the elements at 298.15 K and 1 bar: ``Hf - T (S0 - sum of the entropies of the elements)``; of a solid that of its crystal.

    None where its formula or an element is not known.

    >>> from wattaxis import component
    >>> round(gibbs_energy_of_formation(component("water")) / 1e3, 1)
    -228.6
    """
    atoms = atoms_of(component.formula)
    if atoms is None or any(symbol not in ELEMENT_ENTROPY for symbol in atoms):
        return None
    elements = sum(count * ELEMENT_ENTROPY[symbol] for symbol, count in atoms.items())
    return component.formation_enthalpy - T_REF * (component.entropy - elements)
