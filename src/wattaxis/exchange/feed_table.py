"""A feed's composition from a table: a column of components and a column of numbers, with the unit in the heading or beside each number."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

from wattaxis.exchange.tables import Cell, TableError
from wattaxis.flowsheet import Document
from wattaxis.quantities import Quantity, QuantityError, parse
from wattaxis.quantities.quantity import dimension_si
from wattaxis.substances import component
from wattaxis.unitops.composition import Basis, Composition

_FLOWS: dict[str, Basis] = {"mol/s": "mole_flow", "kg/s": "mass_flow"}
_MASS_WORDS = ("mass", "weight", "wt", "kg/kg", "g/g")


@dataclass
class FeedTable:
    """What a table gives: the composition, and the lines that were left out, each with its reason."""

    composition: Composition
    left_out: list[str] = field(default_factory=list)


def feed_from_table(rows: Sequence[Sequence[Cell]], document: Document) -> FeedTable:
    """Read a composition. Nothing is dropped silently: every line without a known component or number is named. Raises TableError.

    >>> from wattaxis import Document, edit
    >>> plant = edit(Document(), "add_component", component={"id": "water", "cas": "7732-18-5"})
    >>> feed_from_table([["component", "kmol/h"], ["7732-18-5", "12.5"]], plant).composition.values["water"]
    Quantity(value=12.5, unit='kmol/h')
    """
    names = _names(document)
    heading = _heading(rows[0], names)
    unit, words = _heading_unit(heading)
    values: dict[str, Quantity] = {}
    left_out: list[str] = []
    bases: set[Basis] = set()
    for number, row in enumerate(rows if heading is None else rows[1:], 1 if heading is None else 2):
        cells = [cell for cell in row if cell not in (None, "")]
        if not cells:
            continue
        found = next((names[_fold(c)] for c in cells if isinstance(c, str) and _fold(c) in names), None)
        typed = cells[-1]
        if found is None:
            left_out.append(f"Line {number}: {str(cells[0])[:60]} is not one of the components.")
        elif found in values:
            left_out.append(f"Line {number}: {found} appears twice; the first line is used.")
        else:
            try:
                values[found], basis = _amount(typed, unit, words)
                bases.add(basis)
            except QuantityError as error:
                left_out.append(f"Line {number}, {found}: {error}")
    if not values:
        raise TableError("No line has both a component of the plant and a number. {} ".format(" ".join(left_out[:3])).rstrip())
    if len(bases) > 1:
        raise TableError("The lines mix " + " and ".join(sorted(b.replace("_", " ") + "s" for b in bases)) + "; give one kind of amount.")
    return FeedTable(Composition(basis=bases.pop(), values=values), left_out)


def _amount(typed: Cell, unit: str, words: str) -> tuple[Quantity, Basis]:
    text = f"{typed:.17g}" if isinstance(typed, float) else str(typed)
    if text.count(",") == 1 and "." not in text:
        text = text.replace(",", ".")
    try:
        quantity = parse(text, "flow", unit or None)
        return quantity, _FLOWS[dimension_si(quantity, "flow")]
    except QuantityError:
        quantity = parse(text, "share", unit or None)
        return quantity, "mass_fraction" if any(word in words for word in _MASS_WORDS) else "mole_fraction"


def _heading(row: Sequence[Cell], names: dict[str, str]) -> str | None:
    """The heading of the amounts, None when the first row is a line like the others."""
    cells = [cell for cell in row if cell not in (None, "")]
    if any(isinstance(c, float) for c in cells) or any(isinstance(c, str) and _fold(c) in names for c in cells):
        return None
    return str(cells[-1]) if cells else None


def _heading_unit(heading: str | None) -> tuple[str, str]:
    """The unit in a heading such as "flow, kmol/h" or "flow (kmol/h)", and the heading in small letters."""
    if heading is None:
        return "", ""
    for part in (heading, *heading.replace("(", ",").replace("[", ",").replace(")", "").replace("]", "").split(",")):
        unit = part.strip()
        for kind in ("flow", "share"):
            try:
                parse(f"1 {unit}", kind)
            except QuantityError:
                continue
            return unit, heading.lower()
    return "", heading.lower()


def _names(document: Document) -> dict[str, str]:
    """Every folded name, synonym and CAS number of the plant's components with the component's id; ids win."""
    names: dict[str, str] = {}
    for item in document.chemistry.components:
        try:
            known = component(item.cas) if item.cas else None
        except KeyError:
            known = None
        if known is not None:
            names |= {_fold(word): item.id for word in (known.cas, known.name, *known.synonyms)}
    return names | {_fold(c.id): c.id for c in document.chemistry.components}


def _fold(text: str) -> str:
    return "".join(c for c in text.lower() if c.isalnum())
