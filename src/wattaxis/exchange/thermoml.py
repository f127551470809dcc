"""Vapour-liquid data and vapour pressures from ThermoML, the open XML format of IUPAC (Frenkel and others 2006)."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any
from xml.etree.ElementTree import Element

from pydantic import ValidationError

from wattaxis.exchange.tables import TableError
from wattaxis.flowsheet.chemistry import DocumentComponent
from wattaxis.flowsheet.data import MOST_POINTS, Measured, MeasuredColumn
from wattaxis.properties.fitting import PURE

LARGEST = 8_000_000


def data_from_thermoml(content: bytes, components: Sequence[DocumentComponent]) -> tuple[list[Measured], list[str]]:
    """Every mixture of known components with temperature, pressure and liquid composition, and every vapour pressure of one of them, as data sets,
    and a sentence for each one left out.

    Temperatures come in K, pressures in kPa, mole fractions in the order in which the plant has its components. Raises TableError for a file that is
    no ThermoML or has nothing that can be used.
    """
    from defusedxml.ElementTree import fromstring

    if len(content) > LARGEST:
        raise TableError(f"The file is larger than {LARGEST // 1_000_000} MB.")
    try:
        root = fromstring(content, forbid_dtd=True)
    except Exception as error:  # whatever a damaged or hostile file makes the parser raise
        raise TableError("This file is not valid XML.") from error
    _plain_names(root)
    if root.tag != "DataReport":
        raise TableError('This is not a ThermoML file: its outermost element must be "DataReport".')
    known = _compounds(root, components)
    found: list[Measured] = []
    left_out: list[str] = []
    for number, mixture in enumerate(root.findall("PureOrMixtureData"), 1):
        try:
            found.append(_mixture(mixture, known, [c.id for c in components], number))
        except (ValueError, ValidationError) as error:
            text = error.errors()[0]["msg"] if isinstance(error, ValidationError) else str(error)
            left_out.append(f"Data set {number}: {text}")
    if not found:
        raise TableError(" ".join(["No data set of this file can be used.", *left_out[:4]]))
    return found, left_out


def _plain_names(root: Element) -> None:
    """Drop the namespace from every tag."""
    for element in root.iter():
        element.tag = element.tag.rpartition("}")[2]


def _compounds(root: Element, components: Sequence[DocumentComponent]) -> dict[str, str]:
    """Number of a compound in the file -> id in the plant, by CAS number."""
    by_cas = {c.cas: c.id for c in components if c.cas}
    found = {}
    for compound in root.findall("Compound"):
        number, cas = _text(compound, "RegNum/nOrgNum"), _text(compound, "sCASRegistryNum") or _text(compound, "RegNum/nCASRNum")
        plain = cas.replace("-", "")
        match = next((name for known, name in by_cas.items() if known.replace("-", "") == plain), None)
        if number and match:
            found[number] = match
    return found


def _text(element: Element, path: str) -> str:
    return (element.findtext(path) or "").strip()


def _mixture(mixture: Element, known: Mapping[str, str], order: Sequence[str], number: int) -> Measured:
    parts = [_text(c, "RegNum/nOrgNum") for c in mixture.findall("Component")]
    unknown = [p for p in parts if p not in known]
    if unknown or not parts:
        raise ValueError("it is of a substance that is not among the components.")
    ids = sorted((known[p] for p in parts), key=order.index)
    constant, meaning = _meanings(mixture, known)
    rows: list[dict[str, float]] = []
    for values in mixture.findall("NumValues"):
        row = dict(constant)
        for kind, tag in (("Variable", "Var"), ("Property", "Prop")):
            for value in values.findall(f"{kind}Value"):
                what = meaning.get(f"{kind}{_text(value, f'n{tag}Number')}")
                if what is not None:
                    row[what] = float(_text(value, f"n{tag}Value"))
        rows.append(_by_position(row, ids))
    keys = [key for key in _keys(len(ids)) if any(key in row for row in rows)]
    needed = {"T", "P", "x1"} if len(ids) > 1 else {"T", "P"}
    if not needed <= set(keys):
        raise ValueError(f"it has not temperature, pressure {'and liquid composition ' if len(ids) > 1 else ''}together.")
    if len(rows) > MOST_POINTS:
        raise ValueError(f"it has more than {MOST_POINTS} points.")
    columns = tuple(MeasuredColumn(key=key, unit={"T": "K", "P": "kPa"}.get(key, "")) for key in keys)
    cells = tuple(tuple(row.get(key) for key in keys) for row in rows)
    name = f"ThermoML {number}: {' / '.join(ids)}"[:60]
    kind = "vapour-liquid" if len(ids) > 1 else PURE
    return Measured(name=name, kind=kind, components=tuple(ids), columns=columns, rows=cells, source="ThermoML file")


def _keys(components: int) -> list[str]:
    return ["T", "P", *(f"{letter}{k + 1}" for letter in "xy" for k in range(components - 1))]


def _meanings(mixture: Element, known: Mapping[str, str]) -> tuple[dict[str, float], dict[str, str]]:
    """Values that hold for all points, and what each numbered variable and property is: "T", "P", or a phase letter with a component's id."""
    constant: dict[str, float] = {}
    meaning: dict[str, str] = {}
    for constraint in mixture.findall("Constraint"):
        what = _quantity(constraint, "Constraint", known)
        if what is not None:
            constant[what] = float(_text(constraint, "nConstraintValue"))
    for variable in mixture.findall("Variable"):
        what = _quantity(variable, "Variable", known)
        if what is not None:
            meaning["Variable" + _text(variable, "nVarNumber")] = what
    for measured in mixture.findall("Property"):
        words = " ".join(e.text or "" for e in measured.iter("ePropName")).lower()
        phase = " ".join(e.text or "" for e in measured.iter("ePropPhase")).lower()
        part = known.get(_text(measured, "Property-MethodID/RegNum/nOrgNum"))
        number = "Property" + _text(measured, "nPropNumber")
        if "boiling temperature" in words or words.startswith("temperature"):
            meaning[number] = "T"
        elif "pressure" in words:
            meaning[number] = "P"
        elif "mole fraction" in words and part is not None:
            meaning[number] = f"{'y' if 'gas' in phase else 'x'} {part}"
    return constant, meaning


def _quantity(element: Element, word: str, known: Mapping[str, str]) -> str | None:
    kinds: dict[str, Any] = {e.tag: (e.text or "").lower() for e in element.findall(f"{word}ID/{word}Type/*")}
    if "eTemperature" in kinds:
        return "T"
    if "ePressure" in kinds:
        return "P"
    part = known.get(_text(element, f"{word}ID/RegNum/nOrgNum"))
    if "mole fraction" in kinds.get("eComponentComposition", "") and part is not None:
        phase = " ".join(e.text or "" for e in element.iter(f"e{'Var' if word == 'Variable' else word}Phase")).lower()
        return f"{'y' if 'gas' in phase else 'x'} {part}"
    return None


def _by_position(row: Mapping[str, float], ids: Sequence[str]) -> dict[str, float]:
    """Fractions under the columns of a data set; the one that is left out of a phase is found from the others."""
    found = {key: value for key, value in row.items() if key in ("T", "P")}
    for letter in "xy":
        given = {name: row[f"{letter} {name}"] for name in ids if f"{letter} {name}" in row}
        missing = [name for name in ids if name not in given]
        if len(missing) == 1:
            given[missing[0]] = 1.0 - sum(given.values())
        if len(given) == len(ids):
            found |= {f"{letter}{k + 1}": round(given[name], 12) for k, name in enumerate(ids[:-1])}
    return found
