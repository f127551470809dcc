"""Equations of reactions as people write them: names, formulas or CAS numbers, with or without numbers before them."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from fractions import Fraction

from wattaxis.substances import Component, atoms_of, component
from wattaxis.substances.bank import fold

_ARROW = re.compile(r"<=+>|<-+>|⇌|↔|⇄|=+>|-+>|→|=+")
_NUMBER = re.compile(r"(\d+\s*/\s*\d+|\d*\.\d+|\d+)\s*[*·]?\s*(?=\S)")
LONGEST = 400


class EquationError(ValueError):
    """An equation that is not understood. ``place``: the character (from 0) at which it goes wrong.

    >>> from wattaxis import component
    >>> try:
    ...     read_equation("water + sulfur = hydrogen", [component("water"), component("hydrogen")])
    ... except EquationError as error:
    ...     error.place
    8
    """

    def __init__(self, text: str, place: int) -> None:
        self.place = place
        super().__init__(f"{text} (at character {place + 1})")


@dataclass(frozen=True)
class Equation:
    """Stoichiometric numbers by component id, in the order of the text, negative for what is used up; which way it goes.

    A component on both sides counts by the difference; ``catalysts`` are those of which nothing is left.

    >>> from wattaxis import component
    >>> read_equation("N2 + 3 H2 <=> 2 NH3", [component(name) for name in ("N2", "H2", "NH3")]).reversible
    True
    """

    numbers: dict[str, float]
    reversible: bool
    catalysts: tuple[str, ...] = ()


def read_equation(text: str, components: Sequence[Component]) -> Equation:
    """An equation such as ``C4H10O = C4H8O + H2`` over the components of a plant. Raises EquationError.

    ``=``, ``<=>`` and ``⇌`` go both ways, ``->``, ``=>`` and ``→`` one way. A formula stands for the one component that has its atoms.

    >>> from wattaxis import component
    >>> parts = [component(name) for name in ("2-butanol", "butanone", "hydrogen")]
    >>> read_equation("C4H10O = butanone + 1333-74-0", parts).numbers
    {'2-butanol': -1.0, 'butanone': 1.0, 'hydrogen': 1.0}
    """
    if len(text) > LONGEST:
        raise EquationError(f"An equation has at most {LONGEST} characters", LONGEST)
    arrows = list(_ARROW.finditer(text))
    if len(arrows) != 1:
        place = arrows[1].start() if arrows else len(text.rstrip())
        raise EquationError('An equation has one sign such as "=" or "->" between what is used up and what is formed', place)
    arrow = arrows[0]
    numbers: dict[str, Fraction] = {}
    for sign, start, side in ((-1, 0, text[: arrow.start()]), (1, arrow.end(), text[arrow.end() :])):
        for place, term in _terms(side, start):
            number, found = _term(term, place, components)
            numbers[found.id] = numbers.get(found.id, Fraction(0)) + sign * number
    left = {name: float(number) for name, number in numbers.items() if number}
    if not left:
        raise EquationError("Nothing is used up or formed: both sides are the same", arrow.start())
    way = arrow.group()
    both_ways = "<" in way or not way.endswith((">", "→"))
    return Equation(left, both_ways, tuple(name for name in numbers if not numbers[name]))


def equation_text(numbers: dict[str, float], *, reversible: bool = True) -> str:
    """The equation of stoichiometric numbers, as :func:`read_equation` reads it.

    >>> equation_text({"nitrogen": -1.0, "hydrogen": -3.0, "ammonia": 2.0})
    'nitrogen + 3 hydrogen = 2 ammonia'
    """

    def side(sign: float) -> str:
        return " + ".join(name if sign * n == 1.0 else f"{sign * n:g} {name}" for name, n in numbers.items() if sign * n > 0.0)

    return f"{side(-1.0)} {'=' if reversible else '->'} {side(1.0)}"


def _terms(side: str, start: int) -> Iterator[tuple[int, str]]:
    """The terms of a side with their places; a plus within brackets or right before a bracket's end belongs to a name."""
    depth, begun = 0, 0
    for k, character in enumerate([*side, "+"]):
        depth += (character in "([") - (character in ")]")
        if character == "+" and (depth <= 0 or k == len(side)):
            term = side[begun:k]
            place = start + begun + len(term) - len(term.lstrip())
            if not term.strip():
                raise EquationError("A component is missing here", min(place, start + k))
            yield place, term.strip()
            begun = k + 1


def _term(term: str, place: int, components: Sequence[Component]) -> tuple[Fraction, Component]:
    """A number, 1 where there is none, and a component. The whole may be a name too, such as 2-butanol."""
    found = _named(term, place, components)
    if found is not None:
        return Fraction(1), found
    number = _NUMBER.match(term)
    name = term[number.end() :] if number else term
    inner = place + (number.end() if number else 0)
    found = _named(name, inner, components) if number else None
    if found is None:
        raise EquationError(_unknown(name), inner)
    assert number is not None
    count = Fraction(number.group(1).replace(" ", "")) if "/0" not in number.group(1).replace(" ", "") else Fraction(0)
    if count <= 0:
        raise EquationError("The number before a component is more than 0", place)
    return count, found


def _named(name: str, place: int, components: Sequence[Component]) -> Component | None:
    """The component of a name. Where it begins with a digit its signs count: "2 butanone" is twice butanone, "2-butanone" a name."""
    same = str.casefold if name[:1].isdigit() else fold
    key = same(name)
    for item in components:
        if name in (item.id, item.cas) or (key and key in map(same, (item.id, item.name, *item.synonyms))):
            return item
    atoms = atoms_of(name)
    alike = [item for item in components if atoms and atoms_of(item.formula) == atoms]
    if len(alike) > 1:
        names = " and ".join(item.id for item in alike)
        raise EquationError(f"{name} is the formula of {names}: write the name", place)
    return alike[0] if alike else None


def _unknown(name: str) -> str:
    try:
        known = component(name)
    except KeyError:
        return f'"{name[:60]}" is no component of this plant'
    return f"{known.name} is no component of this plant: add it first"
