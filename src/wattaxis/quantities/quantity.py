"""The quantity as typed, its reading and its conversion. Conversion factors come from Pint over our own list of units."""

from __future__ import annotations

import ast
import math
import operator
import re
from functools import lru_cache
from importlib.resources import files
from typing import Any

from pydantic import BaseModel, ConfigDict, Field, model_validator

from wattaxis.quantities.kinds import KINDS, Kind

_NUMBER = re.compile(r"\s*([+-]?(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d{1,4})?)\s*(.*?)\s*$", re.DOTALL)
LONGEST_UNIT = 40
_UNIT_TEXT = re.compile(r"[A-Za-z°%0-9*/^ .·²³()-]{0,40}")
#: An exponent: a digit with decimals, or a fraction of digits.
_POWER = r"\*\*\s*(?:\(\s*[-+]?\d\s*/\s*\d\s*\)|\(\s*[-+]?\d(?:\.\d+)?\s*\)|[-+]?\d(?:\.\d+)?)(?![A-Za-z0-9.])"
#: What people write for units that the list has under another name.
_ALIASES = {
    "bar(g)": "barg", "bar(a)": "bar", "bar g": "barg", "bar a": "bar", "psi(g)": "psig", "psi(a)": "psi", "C": "degC", "F": "degF",
    "°C": "degC", "°F": "degF",
    "kg/cm2": "at", "kg/cm²": "at", "kgf/cm2": "at", "kgf/cm²": "at", "kg/cm2a": "at", "kg/cm2(a)": "at", "ata": "at",
    "kg/cm2g": "atg", "kg/cm2(g)": "atg", "kgf/cm2g": "atg", "kg/cm2 g": "atg", "mmWC": "mmH2O", "mmWG": "mmH2O", "inWC": "inH2O", "inWG": "inH2O",
    "gpm": "gal/min", "GPM": "gal/min", "USgpm": "gal/min", "usgpm": "gal/min", "cfm": "ft3/min", "CFM": "ft3/min", "ACFM": "ft3/min",
    "acfm": "ft3/min", "SCFM": "scf/min", "scfm": "scf/min", "SCFH": "scf/h", "scfh": "scf/h", "SCFD": "scf/d", "scfd": "scf/d",
    "MSCFD": "Mscf/d", "MMSCFD": "MMscf/d", "MMscfd": "MMscf/d", "bpd": "bbl/d", "BPD": "bbl/d", "bpsd": "bbl/d", "BPSD": "bbl/d",
    "Nm3/hr": "Nm3/h", "RT": "TR", "tons of refrigeration": "TR", "short ton": "ston", "long ton": "lton", "metric ton": "t", "tonne": "t",
}  # fmt: skip
#: A sum, product or quotient of numbers before the unit, as in "2*15 bar" or, from a spreadsheet, "=1/3".
_SUM = re.compile(r"\s*=?\s*([\d.\s()+*/-]*(?:[eE][+-]?\d{1,4}[\d.\s()+*/-]*)*)(.*?)\s*$", re.DOTALL)
_TON = re.compile(r"\btons?\b", re.IGNORECASE)


class QuantityError(ValueError):
    """A text that is no quantity of the wanted kind. ``str()`` is a sentence that can be shown as it is.

    >>> try:
    ...     parse("95 kg", "temperature")
    ... except QuantityError as error:
    ...     str(error).split(";")[0]
    '"kg" is a unit of mass'
    """


class Quantity(BaseModel):
    """A number with its unit, exactly as it was typed.

    >>> str(Quantity(value=95, unit="degC"))
    '95 degC'
    """

    model_config = ConfigDict(extra="forbid", frozen=True)

    value: float = Field(allow_inf_nan=False)
    unit: str = Field(default="", max_length=LONGEST_UNIT)

    @model_validator(mode="before")
    @classmethod
    def _from_text(cls, data: Any) -> Any:
        """A text such as "3 m" stands for its number and unit; which kind of quantity it must be is settled where it is used."""
        if not isinstance(data, str):
            return data
        match = _NUMBER.match(_calculated(data)) if len(data) <= 100 else None
        if match is None or len(match[2]) > LONGEST_UNIT:
            raise ValueError(f'"{data[:60]}" is not a number with a unit, such as "3 m"')
        return {"value": float(match[1]), "unit": _ALIASES.get(match[2], match[2])}

    def __str__(self) -> str:
        return f"{self.value:.10g} {self.unit}".rstrip()


@lru_cache(maxsize=1)
def pint_registry() -> Any:
    """The Pint registry of the units that Wattaxis knows; what Pint makes of them has SI base units."""
    import pint

    lines = files("wattaxis.quantities").joinpath("units.txt").read_text(encoding="utf-8").splitlines()
    registry: Any = pint.UnitRegistry(None, cache_folder=None, on_redefinition="raise")
    registry.load_definitions(lines)
    return registry


def _possible(text: str) -> bool:
    """Whether all numbers in an expression are exponents of one digit before the point, none of them raised again, or a 1 to divide by units.

    Pint would calculate anything else, such as 9**9**9, for as long as it takes.
    """
    if re.search(_POWER + r"\s*\*\*", text):
        return False
    left = re.sub(_POWER, " ", text)
    return "**" not in left and not re.search(r"(?<![A-Za-z0-9])(?!1(?![0-9.]))[0-9.]", left)


def _normal_form(unit: str) -> str:
    """Turn what people write (m3, kg/(m2 h), J/mol/K, ²) into the registry's expression."""
    text = unit.strip()
    text = _ALIASES.get(text, text)
    text = text.replace("²", "2").replace("³", "3").replace("·", "*").replace("^", "**").replace("%", "percent")
    if not _possible(text):
        raise QuantityError(f'"{unit}" has a number or an exponent that no unit has.')
    for exact in ("Nm3", "Sm3"):
        text = re.sub(rf"\b{exact}\b", exact.replace("3", "@"), text)
    text = re.sub(r"\b(m|cm|mm|ft|in)([23])\b", r"\1**\2", text)
    return text.replace("@", "3")


def pint_unit(unit: str) -> Any:
    """A unit as it is written here ("m3/s", "J/(mol K)") as a unit of the registry.

    >>> str(pint_unit("m3/s"))
    'meter ** 3 / second'
    """
    return pint_registry().parse_units(_normal_form(unit))


@lru_cache(maxsize=256)
def _scale(name: str) -> float:
    """How many SI units one of the named unit is, offsets left out."""
    definition = pint_registry()._units[name]
    factor = float(definition.converter.scale)
    if not definition.is_base and definition.reference:
        for part, power in definition.reference.items():
            factor *= _scale(pint_registry().get_name(part)) ** float(power)
    return factor


@lru_cache(maxsize=1024)
def _linear(unit: str, difference: bool) -> tuple[float, float, tuple[tuple[str, float], ...]]:
    """(factor, offset, dimension) with SI = value * factor + offset."""
    if _TON.search(unit) and unit not in _ALIASES:
        raise QuantityError(
            f'"{unit}" may be a tonne of 1000 kg (t), a short ton of 907.2 kg (ston), a long ton of 1016 kg (lton) or a ton of refrigeration (TR): '
            "write which."
        )
    if not _UNIT_TEXT.fullmatch(unit):
        raise QuantityError(f'"{unit[:40]}" is not a unit.')
    registry = pint_registry()
    text = _normal_form(unit)
    try:
        parsed = registry.parse_units(text) if text else registry.Unit("")
        dimension = tuple(sorted((key, float(power)) for key, power in parsed.dimensionality.items()))
        names = list(parsed._units)
        if len(names) == 1 and parsed._units[names[0]] == 1:
            offset = 0.0 if difference else float(getattr(registry._units[names[0]].converter, "offset", 0.0))
            return _scale(names[0]), offset, dimension
        factor = 1.0
        for name, power in parsed._units.items():
            factor *= _scale(str(name)) ** power
        return factor, 0.0, dimension
    except QuantityError:
        raise
    except Exception as error:  # Pint raises many kinds; all of them mean that the text is no unit of ours
        raise QuantityError(f'"{unit}" is not a unit known here.') from error


@lru_cache(maxsize=256)
def _dimension(si_unit: str) -> tuple[tuple[str, float], ...]:
    return _linear(si_unit, False)[2]


def to_si(quantity: Quantity, kind: str) -> float:
    """The value in the kind's SI unit. For ``flow`` a mass flow comes back in kg/s, any other in mol/s.

    Raises QuantityError when the unit has another dimension or the value lies outside the kind's range.

    >>> to_si(Quantity(value=2.1, unit="barg"), "pressure")
    311325.0
    """
    meaning = KINDS[kind]
    factor, offset, dimension = _linear(quantity.unit, meaning.difference)
    if not any(dimension == _dimension(si) for si in meaning.si):
        raise QuantityError(_wrong_dimension(quantity.unit, dimension, meaning))
    value = quantity.value * factor + offset
    too_low = value <= meaning.low if meaning.low_open else value < meaning.low
    if not math.isfinite(value) or too_low or value > meaning.high:
        raise QuantityError(_out_of_range(quantity, value, meaning))
    return value


def dimension_si(quantity: Quantity, kind: str) -> str:
    """Which of the kind's SI units the quantity's dimension matches, e.g. "kg/s" for a mass flow."""
    dimension = _linear(quantity.unit, KINDS[kind].difference)[2]
    return next(si for si in KINDS[kind].si if _dimension(si) == dimension)


def from_si(value: float, unit: str, *, difference: bool = False) -> float:
    """Express an SI value in ``unit``.

    >>> from_si(368.15, "degC")
    95.0
    """
    factor, offset, _ = _linear(unit, difference)
    return (value - offset) / factor


def linear(unit: str, *, difference: bool = False) -> tuple[float, float]:
    """(factor, offset) of a unit: SI = value * factor + offset."""
    factor, offset, _ = _linear(unit, difference)
    return factor, offset


def dimension(unit: str) -> tuple[tuple[str, float], ...]:
    """The dimension of a unit as powers of "[length]", "[mass]", "[time]", "[temperature]", "[substance]". Raises QuantityError for what is no unit.

    >>> dimension("L/(mol s)")
    (('[length]', 3.0), ('[substance]', -1.0), ('[time]', -1.0))
    """
    return _dimension(unit)


def parse(text: str, kind: str, default_unit: str | None = None) -> Quantity:
    """Read ``text`` as a quantity of ``kind``; a bare number takes ``default_unit``.

    Raises QuantityError with what was understood and what would be accepted.

    >>> parse("2.1 barg", "pressure")
    Quantity(value=2.1, unit='barg')
    """
    meaning = KINDS[kind]
    accepted = ", ".join(unit or "no unit" for unit in meaning.units[:6])
    if len(text) > 100:
        raise QuantityError(f"That is too long for a number with a unit. Type for instance: {_example(meaning)}.")
    match = _NUMBER.match(_calculated(text))
    if match is None:
        raise QuantityError(f'"{text.strip()}" does not start with a number. A {meaning.title} looks like {_example(meaning)}.')
    number, unit = match.groups()
    if unit[:1] == "," or unit[:1] == "." or (unit[:1].isdigit()):
        raise QuantityError(f'"{text.strip()}" is ambiguous: write the number without separators and with a decimal point.')
    if len(unit) > LONGEST_UNIT:
        raise QuantityError(f'"{unit[:LONGEST_UNIT]}..." is not a unit. A {meaning.title} is accepted in {accepted}.')
    value = float(number)
    if not math.isfinite(value):
        raise QuantityError(f'"{number}" is too large or too small to be calculated with.')
    if unit == "" and default_unit is not None:
        unit = default_unit
    if unit == "" and "" not in meaning.si:
        raise QuantityError(f'"{text.strip()}" has no unit. A {meaning.title} is accepted in {accepted}.')
    quantity = Quantity(value=value, unit=_ALIASES.get(unit, unit))
    to_si(quantity, kind)
    return quantity


def _calculated(text: str) -> str:
    """A text that starts with arithmetic, with its result in that place; any other as it is. Raises QuantityError for arithmetic without a result."""
    found = _SUM.match(text)
    if found is None or not re.search(r"[\d)]\s*[*/+-]\s*[\d(]", found[1]):
        return text.lstrip().removeprefix("=")
    expression, unit = found.groups()
    try:
        value = _value(ast.parse(expression.strip(), mode="eval").body)
    except (SyntaxError, ArithmeticError, ValueError) as error:
        raise QuantityError(f'"{expression.strip()}" cannot be calculated: numbers with + - * / and brackets are read.') from error
    return f"{value!r} {unit}"


def _value(node: ast.expr) -> float:
    """The value of a tree of numbers. Raises ValueError for anything else."""
    if isinstance(node, ast.Constant) and isinstance(node.value, int | float):
        return float(node.value)
    if isinstance(node, ast.UnaryOp) and isinstance(node.op, ast.UAdd | ast.USub):
        return _value(node.operand) * (-1.0 if isinstance(node.op, ast.USub) else 1.0)
    operators = {ast.Add: operator.add, ast.Sub: operator.sub, ast.Mult: operator.mul, ast.Div: operator.truediv}
    if isinstance(node, ast.BinOp) and type(node.op) in operators:
        return float(operators[type(node.op)](_value(node.left), _value(node.right)))
    raise ValueError("not arithmetic")


def _example(kind: Kind) -> str:
    return f"12 {kind.units[0]}".rstrip() if kind.key not in ("fraction", "share") else "0.25 or 25 %"


def _wrong_dimension(unit: str, dimension: tuple[tuple[str, float], ...], wanted: Kind) -> str:
    understood = next((k.title for k in KINDS.values() if any(_dimension(si) == dimension for si in k.si)), "another quantity")
    accepted = ", ".join(u or "no unit" for u in wanted.units[:6])
    given = f'"{unit}" is a unit of {understood}' if unit else "A number without a unit is no " + wanted.title
    hint = ""
    if understood == "volume flow" and wanted.key == "flow":
        hint = " A gas volume counts at normal conditions: Nm3/h or MMscf/d."
    return f"{given}; here a {wanted.title} is needed, in {accepted}.{hint}"


def _out_of_range(quantity: Quantity, value: float, kind: Kind) -> str:
    unit = kind.si[0]
    if kind.key == "temperature" and value <= 0:
        return f"{quantity} is {value:.6g} K, at or below absolute zero."
    if kind.key == "pressure" and value <= 0:
        return f"{quantity} is {value:.6g} Pa absolute; a pressure must be above vacuum."
    if kind.key in ("fraction", "share") and not 0 <= value <= kind.high:
        return f"{quantity} is {value:.6g}; a {kind.title} lies between 0 and {kind.high:g}."
    if value < kind.low:
        return f"{quantity} is negative; a {kind.title} starts at 0." if kind.low == 0 else f"{quantity} is below {kind.low:g} {unit}."
    return f"{quantity} is {value:.3g} {unit}, above the {kind.high:g} {unit} that is plausible for a {kind.title}."


def register_kind(kind: Kind) -> Kind:
    """Make a kind of quantity known, so that fields of units may be of it. Raises ValueError for one that is there, and for units that do not fit.

    >>> from wattaxis.quantities import Kind
    >>> register_kind(Kind("permeance", "permeance", ("mol/m2/s/Pa",), ("GPU", "mol/m2/s/Pa"), 0.0, 1.0)).units[0]
    'GPU'
    """
    known = KINDS.get(kind.key)
    if known is not None and known != kind:
        raise ValueError(f'There is already a kind of quantity "{kind.key}".')
    dimensions = {_dimension(si) for si in kind.si}
    strange = [unit for unit in kind.units if _linear(unit, kind.difference)[2] not in dimensions]
    if strange or not kind.units or not kind.low < kind.high:
        raise ValueError(f'The kind "{kind.key}" cannot be: {f"{strange[0]} is no unit of it" if strange else "it has no units or no range"}.')
    KINDS[kind.key] = kind
    return kind
