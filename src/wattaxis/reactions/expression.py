"""Rate laws as free expressions: ordinary arithmetic over concentrations and the like, temperature, and constants, with its dimension checked.

``k * p[2-butanol] / (1 + Kw * p[water])^2``: ``c[..]`` concentration, ``p[..]`` partial pressure, ``f[..]`` fugacity, ``x[..]`` mole fraction,
``a[..]`` activity of a component, ``T`` and ``P`` of the mixture; every other name is a constant with a unit of its own.
"""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

from wattaxis.quantities import QuantityError
from wattaxis.quantities.arithmetic import FUNCTION, NUMBER, SIGN, SPACE, Call, Grammar, Number, leaves, parsed
from wattaxis.quantities.quantity import dimension, linear
from wattaxis.reactions.constants import RateConstant, known_between
from wattaxis.reactions.rates import BASIS_LETTERS, BASIS_UNITS, RATE_UNITS, Basis, Per, si_of

#: What a letter before a component in brackets stands for.
LETTERS: dict[str, Basis] = {letter: basis for basis, letter in BASIS_LETTERS.items()}
#: Names of the mixture, with their SI units.
OF_THE_MIXTURE = {"T": "K", "P": "Pa"}
OF_THE_MIXTURE_STEPS = {"T": "temperature", "P": "pressure"}
_NAME = r"(?P<name>(?P<letter>[cpfxa])\[(?P<component>[^\[\]]{1,80})\]|(?P<symbol>[A-Za-z][A-Za-z0-9_]{0,19})(?![A-Za-z0-9_\[]|\s*\())"

Dimension = dict[str, float]
#: What is done, two integers that it is done with, and a number or a constant.
Step = tuple[str, int, int, "float | Constant | None"]


@dataclass(frozen=True)
class Amount:
    """How much there is of a component, in one of the ways of :data:`LETTERS`."""

    letter: str
    component: str


@dataclass(frozen=True)
class Symbol:
    """T, P, or the name of a constant."""

    name: str


def _named(match: re.Match[str]) -> Amount | Symbol:
    letter = match.group("letter")
    return Amount(letter, match.group("component").strip()) if letter else Symbol(match.group("symbol"))


_GRAMMAR = Grammar(
    re.compile("|".join((SPACE, NUMBER, FUNCTION, _NAME, SIGN))), _named, "a partial pressure is written like p[water], a concentration like c[water]"
)


@dataclass(frozen=True)
class Constant:
    """A constant of an expression: how it depends on temperature, in its ``unit``.

    >>> from wattaxis.reactions import Arrhenius
    >>> Constant(Arrhenius(2.0), "1/bar").si(300.0)
    2e-05
    """

    value: RateConstant
    unit: str = ""

    def si(self, T: float) -> float:
        """In SI units at T (K)."""
        return self.factor * self.value.at(T)

    @property
    def factor(self) -> float:
        """SI units in one of its own."""
        return float(linear(self.unit)[0]) if self.unit else 1.0


@dataclass(frozen=True)
class Expression:
    """A rate as an expression, per volume of the phase or per mass of catalyst.

    Raises FormulaError for what cannot be read, and QuantityError where dimensions do not fit or a constant is missing.

    >>> from wattaxis.reactions import Arrhenius
    >>> law = Expression("k * p[A] / (1 + K * p[B])", {"k": Constant(Arrhenius(2.0), "mol/(m3 s bar)"), "K": Constant(Arrhenius(1.0), "1/bar")})
    >>> law.components, law.bases
    (('A', 'B'), ('partial pressure',))
    """

    text: str
    constants: Mapping[str, Constant] = field(default_factory=dict)
    per: Per = "volume"

    def __post_init__(self) -> None:
        missing = [name for name in self.symbols if name not in self.constants]
        if missing:
            raise QuantityError(f"The law speaks of {', '.join(missing)}, whose value is not given.")
        found, wanted = self._dimension(self._tree), dict(dimension(RATE_UNITS[self.per]))
        if not _same(found, wanted):
            told = f"The law comes out in {_told(found)}, and a rate per {self.per} is in {RATE_UNITS[self.per]}"
            raise QuantityError(f"{told}: check the units of its constants.")

    @cached_property
    def _tree(self) -> Any:
        return parsed(self.text, _GRAMMAR)

    @property
    def components(self) -> tuple[str, ...]:
        """Ids of the components that it speaks of."""
        return tuple(dict.fromkeys(part.component for part in leaves(self._tree) if isinstance(part, Amount)))

    @property
    def bases(self) -> tuple[Basis, ...]:
        """What it counts in."""
        return tuple(dict.fromkeys(LETTERS[part.letter] for part in leaves(self._tree) if isinstance(part, Amount)))

    @property
    def doubts(self) -> tuple[str, ...]:
        """What stands in the way of using its constants: nothing, since what they are is not known."""
        return ()

    @property
    def known_between(self) -> tuple[float, float]:
        """K between which its constants were measured, as far as they are tables."""
        return known_between(constant.value for name, constant in self.constants.items() if name in self.symbols)

    @property
    def symbols(self) -> tuple[str, ...]:
        """Names of its constants."""
        return symbols_in(self.text)

    def steps(self, ids: list[str]) -> list[Step]:
        """The law in reverse Polish order, over components in the order of ``ids``: what is done, with what, and a number or constant (SI).

        >>> from wattaxis.reactions import Arrhenius
        >>> constants = {"k": Constant(Arrhenius(1.0), "mol/m3/s"), "T0": Constant(Arrhenius(300.0), "K")}
        >>> [step[0] for step in Expression("k * exp(-T / T0)", constants).steps([])]
        ['constant', 'temperature', 'negative', 'constant', '/', 'exp', '*']
        """
        return list(_steps(self._tree, ids, self.constants))

    def _dimension(self, node: Any) -> Dimension:
        if isinstance(node, Number):
            return _of_unit(node.unit)
        if isinstance(node, Amount):
            return _of_unit(BASIS_UNITS[LETTERS[node.letter]])
        if isinstance(node, Symbol):
            return _of_unit(OF_THE_MIXTURE[node.name] if node.name in OF_THE_MIXTURE else self.constants[node.name].unit)
        return self._of_call(node)

    def _of_call(self, node: Call) -> Dimension:
        parts = [self._dimension(part) for part in node.arguments]
        if node.function in ("*", "/"):
            return _times(parts[0], parts[1], 1.0 if node.function == "*" else -1.0)
        if node.function == "^":
            if parts[1]:
                raise QuantityError(f"An exponent is a plain number, not one in {_told(parts[1])}.")
            if not parts[0]:
                return {}
            return _times({}, parts[0], _constant(node.arguments[1]))
        if node.function == "sqrt":
            return _times({}, parts[0], 0.5)
        if node.function in ("ln", "exp"):
            if parts[0]:
                raise QuantityError(f"{node.function} takes a plain number, not one in {_told(parts[0])}.")
            return {}
        for other in parts[1:]:
            if not _same(parts[0], other):
                what = {"+": "added", "-": "subtracted"}.get(node.function, "compared")
                one, two = (f"something in {_told(part)}" if part else "a plain number" for part in (parts[0], other))
                raise QuantityError(f"{one[0].upper()}{one[1:]} and {two} cannot be {what}: check the units of the constants.")
        return parts[0]


def symbols_in(text: str) -> tuple[str, ...]:
    """Names of the constants that an expression speaks of, in their order. Raises FormulaError.

    >>> symbols_in("k1 * c[A] / (1 + K_A * c[A]) * exp(-T / T0)")
    ('k1', 'K_A', 'T0')
    """
    found = (part.name for part in leaves(parsed(text, _GRAMMAR)) if isinstance(part, Symbol))
    return tuple(dict.fromkeys(name for name in found if name not in OF_THE_MIXTURE))


def _of_unit(unit: str) -> Dimension:
    """Raises QuantityError for what is no unit, and for one whose zero is not nothing."""
    if unit and linear(unit)[1] != 0.0:
        raise QuantityError(f"{unit} does not count from nothing, so it cannot be multiplied: write it in K or in an absolute pressure.")
    return dict(dimension(unit)) if unit else {}


def _times(one: Dimension, other: Dimension, power: float) -> Dimension:
    found = {name: one.get(name, 0.0) + power * other.get(name, 0.0) for name in {**one, **other}}
    return {name: exponent for name, exponent in found.items() if abs(exponent) > 1e-9}


def _same(one: Dimension, other: Dimension) -> bool:
    return not _times(one, other, -1.0)


def _told(of: Dimension) -> str:
    return si_of(tuple(sorted(of.items())))


def _constant(node: Any) -> float:
    """The value of an exponent on something with a dimension."""
    if any(not isinstance(part, Number) for part in leaves(node)):
        raise QuantityError("What has a dimension is raised to a number that is written out.")
    try:
        return _value(node)
    except (ArithmeticError, ValueError) as error:
        raise QuantityError(f"The exponent has no value: {error}.") from error


_OPERATIONS: dict[str, Callable[..., float]] = {
    "+": lambda a, b: a + b,
    "-": lambda a, b: a - b,
    "*": lambda a, b: a * b,
    "/": lambda a, b: a / b,
    "^": math.pow,
    "negative": lambda a: -a,
    "abs": abs,
    "sqrt": math.sqrt,
    "ln": math.log,
    "exp": math.exp,
    "min": min,
    "max": max,
}


def _value(node: Any) -> float:
    """Of a tree of plain numbers. Raises ArithmeticError and ValueError where there is none."""
    if isinstance(node, Number):
        return float(node.value * (linear(node.unit)[0] if node.unit else 1.0))
    return float(_OPERATIONS[node.function](*(_value(part) for part in node.arguments)))


def _steps(node: Any, ids: list[str], constants: Mapping[str, Constant]) -> Iterator[Step]:
    if isinstance(node, Number):
        yield "number", 0, 0, _value(node)
    elif isinstance(node, Amount):
        yield "amount", list(BASIS_LETTERS).index(LETTERS[node.letter]), ids.index(node.component), None
    elif isinstance(node, Symbol):
        mixture = OF_THE_MIXTURE_STEPS.get(node.name)
        yield ("constant", 0, 0, constants[node.name]) if mixture is None else (mixture, 0, 0, None)
    else:
        for place, part in enumerate(node.arguments):
            yield from _steps(part, ids, constants)
            if place or len(node.arguments) == 1:
                yield node.function, 0, 0, None
