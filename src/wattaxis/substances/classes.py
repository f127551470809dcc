"""What kind of substance something is, for the choice of a property model: polar, a gas, an acid, a former of ions, miscible with water."""

from __future__ import annotations

import re

from wattaxis.substances.association import HYDROGEN_FLUORIDE, associates
from wattaxis.substances.component import Component
from wattaxis.substances.formation import atoms_of

WATER, AMMONIA = "7732-18-5", "7664-41-7"
#: Critical temperature (K) below which a substance counts as a gas that dissolves in liquids.
GAS_BELOW = 330.0
#: Subgroups of UNIFAC that are hydrocarbons: alkanes, alkenes, aromatics and their side chains.
_HYDROCARBON = {*range(1, 14), 70}
#: Condensable gases that dissolve in water without being organic.
HYDROGEN_SULFIDE, SULFUR_DIOXIDE, CARBON_DIOXIDE, HYDROGEN_CHLORIDE = "7783-06-4", "7446-09-5", "124-38-9", "7647-01-0"
ACID_GASES = {HYDROGEN_SULFIDE, SULFUR_DIOXIDE, CARBON_DIOXIDE}
#: Split into ions altogether in water; bases that acids and acid gases turn into salts.
STRONG = {HYDROGEN_CHLORIDE, "10035-10-6", "10034-85-2", "7664-93-9", "7697-37-2", "7601-90-3", "7664-38-2", "7446-11-9", "1310-73-2", "1310-58-3"}
_POLAR_GASES = {AMMONIA, SULFUR_DIOXIDE, HYDROGEN_CHLORIDE, HYDROGEN_FLUORIDE, "10035-10-6", "10034-85-2", "74-90-8", "7446-11-9", "10102-44-0"}
#: Not miscible with water, or miscible, against what a count of carbon atoms says.
_PARTS = {"79-20-9", "123-38-6", "75-52-5", "75-15-0", "62-53-3", "98-01-1", "108-95-2", "75-56-9", "96-49-1", "108-32-7"}
_MIXES = {"75-65-0", "109-99-9", "123-91-1", "110-86-1", "68-12-2", "67-68-5", "126-33-0", "872-50-4", "64-19-7", "79-09-4", "107-92-6", "79-31-2",
          "109-73-9", "110-91-8", "110-89-4", "105-60-2", "98-00-0", "96-48-0", "127-19-5", "67-64-1", "75-05-8", "107-10-8", "109-89-7",
          "121-44-8", "75-21-8", "75-07-0"}  # fmt: skip


def is_gas(c: Component) -> bool:
    """Whether it is a gas at ordinary temperatures that liquids dissolve; carbon dioxide and ethane are, though they can be condensed."""
    return c.critical_temperature < GAS_BELOW


def is_polar(c: Component) -> bool:
    """By its groups; without any, by oxygen or nitrogen bound to hydrogen or carbon, or as one of the small polar gases."""
    if c.cas in _POLAR_GASES or c.cas == WATER:
        return True
    if c.cas in ACID_GASES or is_gas(c):
        return False
    groups = c.groups.get("unifac")
    if groups:
        return any(number not in _HYDROCARBON for number in groups)
    return any(atom in ("O", "N") for atom in atoms_of(c.formula) or ()) and c.critical_temperature > 300.0


def is_halogenated(c: Component) -> bool:
    """A hydrocarbon with halogens and nothing else, such as a refrigerant."""
    atoms = atoms_of(c.formula) or {}
    return "C" in atoms and atoms.keys() <= {"C", "H", "F", "Cl", "Br", "I"} and bool(atoms.keys() & {"F", "Cl", "Br", "I"})


def is_hydrocarbon(c: Component) -> bool:
    """Carbon and hydrogen alone."""
    return (atoms_of(c.formula) or {}).keys() == {"C", "H"}


def is_alkane(c: Component) -> bool:
    """A saturated hydrocarbon without aromatic or unsaturated groups, open or in rings."""
    atoms = atoms_of(c.formula) or {}
    return is_hydrocarbon(c) and atoms["H"] >= 2 * atoms["C"] - 2 and not any(g in (c.groups.get("unifac") or {}) for g in range(5, 14))


def is_amine(c: Component) -> bool:
    """An amine without other nitrogen groups; a base in water."""
    return bool((c.groups.get("unifac") or {}).keys() & set(range(28, 36))) or c.cas in {"141-43-5", "111-42-2", "105-59-9", "110-97-4", "929-06-6",
                                                                                      "124-68-5", "110-85-0", "102-71-6"}  # fmt: skip


def mixes_with_water(c: Component) -> bool:
    """Whether it is miscible with water at room temperature, by its class and the number of its carbon atoms."""
    if c.cas in _MIXES or c.cas in STRONG or c.cas in (WATER, AMMONIA, HYDROGEN_FLUORIDE, "302-01-2", "7722-84-1"):
        return True
    if c.cas in _PARTS or not is_polar(c) or is_halogenated(c):
        return False
    atoms = atoms_of(c.formula) or {}
    carbons, polar = atoms.get("C", 0), atoms.get("O", 0) + atoms.get("N", 0)
    hydroxyl = (c.groups.get("unifac") or {}).get(14, 0)
    esters = sum((c.groups.get("unifac") or {}).get(g, 0) for g in (21, 22, 23, 41))
    if esters or atoms.keys() & {"F", "Cl", "Br", "I", "S"}:
        return carbons <= 3 * hydroxyl and hydroxyl > 0
    return carbons <= max(3.0, 2.5 * polar if polar > 1 else 3.0)


def forms_ions(parts: list[Component]) -> list[Component]:
    """Those that are ions in the water that is among the components; none without water."""
    if all(c.cas != WATER for c in parts):
        return []
    strong = [c for c in parts if c.cas in STRONG or re.match(r"(Na|K|Li|Ca|Mg)", c.formula)]
    bases = [c for c in parts if c.cas == AMMONIA or is_amine(c)]
    acids = [c for c in parts if c.cas in ACID_GASES or associates(c)]
    return strong + ([*bases, *acids] if bases and acids else [])
