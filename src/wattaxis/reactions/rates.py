"""Rate laws as products of powers, and the units of their constants, which follow from the law and are checked."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from fractions import Fraction
from typing import Literal

from wattaxis.quantities import QuantityError
from wattaxis.quantities.quantity import dimension, linear
from wattaxis.reactions.constants import RateConstant

Basis = Literal["concentration", "partial pressure", "fugacity", "mole fraction", "activity"]
Per = Literal["volume", "catalyst mass"]

#: SI units of what is raised to the orders, and of the rate; "" where it has none.
BASIS_UNITS: dict[Basis, str] = {"concentration": "mol/m3", "partial pressure": "Pa", "fugacity": "Pa", "mole fraction": "", "activity": ""}
RATE_UNITS: dict[Per, str] = {"volume": "mol/(m3 s)", "catalyst mass": "mol/(kg s)"}


#: Letters before a component in brackets, by what they stand for.
BASIS_LETTERS: dict[Basis, str] = {"concentration": "c", "partial pressure": "p", "fugacity": "f", "mole fraction": "x", "activity": "a"}


def powers_of(orders: Mapping[str, float], basis: Basis) -> list[str]:
    """A product of powers as people write it, factor by factor.

    >>> powers_of({"a": 1.0, "b": 0.5, "c": 0.0}, "partial pressure")
    ['p[a]', 'p[b]^0.5']
    """
    letter = BASIS_LETTERS[basis]
    return [f"{letter}[{name}]" + (f"^{order:g}" if order != 1.0 else "") for name, order in orders.items() if order]


@dataclass(frozen=True)
class PowerLaw:
    """``rate = k * product of basis**order``. ``orders`` by component id: one that is 0 is in the law and matters nothing, one left out is not in it.

    Raises ValueError where the orders sum to less than -2 or more than 3: no molecules meet like that.

    >>> PowerLaw({"butanone": 1.0, "hydrogen": 0.5}, "partial pressure", "catalyst mass").constant_unit
    'mol/(kg s Pa^1.5)'
    """

    orders: Mapping[str, float]
    basis: Basis = "concentration"
    per: Per = "volume"

    def __post_init__(self) -> None:
        if not -2.0 <= self.order <= 3.0:
            raise ValueError(f"The orders of a rate law sum to -2 to 3, not {self.order:g}: check them.")

    @property
    def order(self) -> float:
        """The sum of the orders."""
        return float(sum(self.orders.values()))

    @property
    def constant_unit(self) -> str:
        """SI unit of the constant, written so that it can be typed.

        >>> [PowerLaw({"a": n}).constant_unit for n in (0.0, 1.0, 2.0)]
        ['mol/(m3 s)', '1/s', 'm3/(mol s)']
        """
        return self._unit()

    def units(self) -> tuple[str, ...]:
        """Units of the constant as people use them, the SI unit first.

        >>> PowerLaw({"a": 2.0}).units()
        ('m3/(mol s)', 'm3/(kmol h)', 'L/(mol s)', 'L/(mol min)')
        """
        places = {"volume": ("m3", "m3", "L", "L"), "catalyst mass": ("kg", "kg", "g", "kg")}[self.per]
        ways = zip(("mol", "kmol", "mol", "mol"), places, ("s", "h", "s", "min"), ("Pa", "bar", "bar", "atm"), ("m3", "m3", "L", "L"), strict=True)
        return tuple(dict.fromkeys(self._unit(*way) for way in ways))

    def _unit(self, amount: str = "mol", place: str = "", time: str = "s", pressure: str = "Pa", volume: str = "m3") -> str:
        exponents = {amount: Fraction(1), place or ("m3" if self.per == "volume" else "kg"): Fraction(-1), time: Fraction(-1)}
        order = Fraction(self.order).limit_denominator(1000)
        parts = {"concentration": {amount: 1, volume: -1}, "partial pressure": {pressure: 1}, "fugacity": {pressure: 1}}.get(self.basis, {})
        for unit, exponent in parts.items():
            exponents[unit] = exponents.get(unit, Fraction(0)) - order * exponent
        return _written(exponents)

    def constant_si(self, value: float, unit: str) -> float:
        """A constant in SI units. Raises QuantityError, with both dimensions, where the unit does not fit the law.

        >>> round(PowerLaw({"a": 2.0}).constant_si(3.6, "L/(mol h)"), 12)
        1e-06
        """
        given, wanted = dimension(unit), dimension(self.constant_unit)
        if given != wanted:
            raise QuantityError(
                f'"{unit}" does not fit a rate law of order {self.order:g} in {self.basis} per {self.per}: '
                f"the constant of such a law has units like {self.constant_unit}, and this has those of {si_of(given)}."
            )
        return float(value * linear(unit)[0] / linear(self.constant_unit)[0])

    def rate(self, constant: float, values: Mapping[str, float]) -> float:
        """mol/(m3 s) or mol/(kg s) at values of the basis by component id (SI). A component that is used up with a negative order gives infinity.

        >>> PowerLaw({"a": 2.0, "b": 0.0}).rate(3.0, {"a": 2.0, "b": 0.0})
        12.0
        """
        rate = constant
        for name, order in self.orders.items():
            value = max(values[name], 0.0)
            if order:
                rate *= value**order if value else (0.0 if order > 0.0 else math.inf)
        return rate


@dataclass(frozen=True)
class Adsorption:
    """A term of the denominator of a rate law: a constant times a product of powers of the basis of the law.

    >>> from wattaxis.reactions import Arrhenius
    >>> Adsorption({"water": 1.0, "hydrogen": -1.0}, Arrhenius(3.0)).order
    0.0
    """

    orders: Mapping[str, float]
    constant: RateConstant

    @property
    def order(self) -> float:
        """The sum of the orders."""
        return float(sum(self.orders.values()))


def adsorption_unit(basis: Basis, order: float, pressure: str = "Pa", volume: str = "m3") -> str:
    """The unit of the constant of a term of such an order; "" for a plain number.

    >>> adsorption_unit("partial pressure", 1.0, "bar"), adsorption_unit("concentration", 2.0), adsorption_unit("mole fraction", 1.0)
    ('1/bar', 'm^6/mol^2', '')
    """
    parts = {"concentration": {volume: 1, "mol": -1}, "partial pressure": {pressure: -1}, "fugacity": {pressure: -1}}.get(basis, {})
    exact = Fraction(order).limit_denominator(1000)
    return _written({unit: exact * exponent for unit, exponent in parts.items() if exact})


def adsorption_si(value: float, unit: str, basis: Basis, order: float) -> float:
    """The constant of a term in SI units. Raises QuantityError, with both dimensions, where the unit does not fit.

    >>> adsorption_si(2.0, "1/bar", "partial pressure", 1.0)
    2e-05
    """
    wanted = adsorption_unit(basis, order)
    given = dimension(unit) if unit else ()
    if given != (dimension(wanted) if wanted else ()):
        expected = f"units like {wanted}" if wanted else "no unit"
        raise QuantityError(f'"{unit}" does not fit a term of order {order:g} in {basis}: its constant has {expected}, and this has {si_of(given)}.')
    return float(value * (linear(unit)[0] if unit else 1.0))


#: SI units of the dimensions that constants have.
_BASE = {"[length]": "m", "[mass]": "kg", "[time]": "s", "[temperature]": "K", "[substance]": "mol"}


def si_of(powers_of: tuple[tuple[str, float], ...]) -> str:
    """The SI unit of a dimension, as people write it."""
    powers = {_BASE.get(name, name): Fraction(power).limit_denominator(1000) for name, power in powers_of}
    return _written(powers) or "a plain number"


def _written(exponents: Mapping[str, Fraction]) -> str:
    above = [_power(unit, exponent) for unit, exponent in exponents.items() if exponent > 0]
    below = [_power(unit, -exponent) for unit, exponent in exponents.items() if exponent < 0]
    under = " ".join(below)
    return f"{' '.join(above) or '1'}/{f'({under})' if len(below) > 1 else under}" if below else " ".join(above)


def _power(unit: str, exponent: Fraction) -> str:
    return unit if exponent == 1 else f"{unit}^{float(exponent):g}" if unit != "m3" else f"m^{float(3 * exponent):g}"
