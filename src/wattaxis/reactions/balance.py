"""Elements on both sides of a reaction, and numbers that make them equal."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from fractions import Fraction
from math import gcd, lcm

from wattaxis.substances import Component, atoms_of


@dataclass(frozen=True)
class Gaps:
    """Atoms formed less atoms used up, by element, where they differ; and the components whose formula is not known.

    >>> Gaps({"H": 2.0}, ()).balanced
    False
    """

    atoms: dict[str, float]
    unknown: tuple[str, ...]

    @property
    def balanced(self) -> bool:
        """Whether every element is as much on one side as on the other, as far as formulas are known."""
        return not self.atoms


def element_gaps(numbers: Mapping[str, float], components: Sequence[Component]) -> Gaps:
    """What a reaction would make or destroy; ``numbers`` by component id, negative for what is used up.

    >>> from wattaxis import component
    >>> element_gaps({"methane": -1, "water": -1, "hydrogen": 2}, [component(name) for name in ("methane", "water", "hydrogen")]).atoms
    {'C': -1.0, 'H': -2.0, 'O': -1.0}
    """
    found: dict[str, float] = {}
    unknown = []
    for item in components:
        number = numbers.get(item.id, 0.0)
        atoms = atoms_of(item.formula)
        if number and atoms is None:
            unknown.append(item.id)
        for element, count in (atoms or {}).items():
            found[element] = found.get(element, 0.0) + number * count
    largest = max((abs(number) for number in numbers.values()), default=1.0)
    return Gaps({element: gap for element, gap in found.items() if abs(gap) > 1e-9 * largest}, tuple(unknown))


def balanced(used: Sequence[Component], formed: Sequence[Component]) -> dict[str, int]:
    """The smallest whole numbers with which these are used up and formed, by component id, negative for what is used up.

    Raises ValueError where there are none, or many: then it is more than one reaction.

    >>> from wattaxis import component
    >>> butane, oxygen, *made = [component(name) for name in ("n-butane", "oxygen", "CO2", "water")]
    >>> balanced([butane, oxygen], made)
    {'butane': -2, 'oxygen': -13, 'carbon dioxide': 8, 'water': 10}
    """
    parts = [*used, *formed]
    atoms = [atoms_of(item.formula) for item in parts]
    unknown = [item.id for item, known in zip(parts, atoms, strict=True) if known is None]
    if unknown:
        raise ValueError(f"The formula of {', '.join(unknown)} is not known, so the numbers cannot be found from the elements.")
    elements = sorted({element for known in atoms for element in known or {}})
    rows = [[Fraction((known or {}).get(element, 0)) for known in atoms] for element in elements]
    free = _null_space(rows, len(parts))
    if not free:
        raise ValueError("No numbers make the elements equal on both sides: a component is missing or too much.")
    if len(free) > 1:
        raise ValueError("More than one set of numbers makes the elements equal: these are several reactions. Write them one by one.")
    whole = _whole(free[0])
    if whole[0] > 0:
        whole = [-number for number in whole]
    wanted = [-1] * len(used) + [1] * len(formed)
    wrong = [item.id for item, number, sign in zip(parts, whole, wanted, strict=True) if number * sign <= 0]
    if wrong:
        raise ValueError(f"The elements are equal only with {', '.join(wrong)} left out or on the other side.")
    return {item.id: number for item, number in zip(parts, whole, strict=True)}


def _whole(numbers: Sequence[Fraction]) -> list[int]:
    common = lcm(*(number.denominator for number in numbers))
    whole = [int(number * common) for number in numbers]
    shared = gcd(*whole)
    return [number // shared for number in whole]


def _null_space(rows: list[list[Fraction]], width: int) -> list[list[Fraction]]:
    """Vectors that the rows send to zero, exactly: Gauss and Jordan over fractions."""
    matrix, pivots = [list(row) for row in rows], list[int]()
    for column in range(width):
        at = next((k for k in range(len(pivots), len(matrix)) if matrix[k][column]), None)
        if at is None:
            continue
        here = len(pivots)
        matrix[here], matrix[at] = matrix[at], matrix[here]
        matrix[here] = [value / matrix[here][column] for value in matrix[here]]
        for k, row in enumerate(matrix):
            if k != here and row[column]:
                matrix[k] = [value - row[column] * lead for value, lead in zip(row, matrix[here], strict=True)]
        pivots.append(column)
    found = []
    for column in sorted(set(range(width)) - set(pivots)):
        vector = [Fraction(0)] * width
        vector[column] = Fraction(1)
        for k, pivot in enumerate(pivots):
            vector[pivot] = -matrix[k][column]
        found.append(vector)
    return found
