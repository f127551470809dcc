"""Pins: formulas over results, evaluated with their units after a calculation."""

from __future__ import annotations

import math
import re
from collections.abc import Iterable
from typing import TYPE_CHECKING, Any

from pydantic import ValidationError

from wattaxis.flowsheet import Document, Pin
from wattaxis.flowsheet.formula import Call, Name, Node, Number, names_in, parse_formula
from wattaxis.quantities import KINDS, Quantity, QuantityError, parse, shown_as, to_si
from wattaxis.quantities.quantity import dimension_si, pint_registry, pint_unit
from wattaxis.solving.results import PinResult

if TYPE_CHECKING:
    from wattaxis.solving.results import SolveResult, UnitState

#: What a stream offers to formulas: name -> kind of quantity.
STREAM_VALUES = {
    "temperature": "temperature",
    "pressure": "pressure",
    "vapour_fraction": "number",
    "mole_flow": "mole_flow",
    "mass_flow": "mass_flow",
    "volume_flow": "volume_flow",
    "enthalpy_flow": "power",
    "molar_enthalpy": "molar_enthalpy",
    "molar_entropy": "molar_entropy",
    "molar_mass": "molar_mass",
    "density": "density",
    "solids_fraction": "number",
    "money_flow": "money_flow",
}
#: The same for each component, written with the component in brackets: name -> (attribute of the stream result, kind).
COMPONENT_VALUES = {
    "mole_fraction": ("mole_fractions", "number"),
    "mass_fraction": ("mass_fractions", "number"),
    "component_flow": ("mole_flows", "mole_flow"),
}
#: Kinds whose dimension alone tells them.
_PLAIN = (
    "number", "temperature_difference", "pressure_difference", "mole_flow", "mass_flow", "volume_flow", "power", "density", "money_flow", "price",
)  # fmt: skip
#: What stands in brackets behind a column of a profile: perhaps a component, then what it lies along and where.
_PLACE = re.compile(r"(?:(?P<component>.+),)?\s*(?P<axis>[a-z_]+)\s+(?P<at>[^,]+)")
_DIFFERENCE = {"temperature": "temperature_difference", "pressure": "pressure_difference"}


class _Unknown(Exception):
    """A value that does not exist; ``str()`` says why."""


def pin_of(formula: str) -> Pin:
    """A formula that was typed, to be evaluated. Raises ValueError with a sentence for one that cannot be read."""
    try:
        return Pin(name="asked", formula=formula)
    except ValidationError as error:
        raise ValueError(error.errors()[0]["msg"].removeprefix("Value error, ") + ".") from error


def tags_in(formulas: Iterable[str]) -> frozenset[str]:
    """What formulas look at: units and streams by their tags.

    >>> sorted(tags_in(["E-101.duty / S-02.mass_flow", "2 * E-101.duty"]))
    ['E-101', 'S-02']
    """
    return frozenset(name.tag for text in formulas for name in names_in(parse_formula(text)))


def evaluate_pins(document: Document, result: SolveResult) -> list[PinResult]:
    """The value of every pin, or the reason why it has none."""
    return [evaluate_pin(pin, document, result) for pin in document.pins]


def evaluate_pin(pin: Pin, document: Document, result: SolveResult) -> PinResult:
    """The value of one formula, or the reason why it has none."""
    import pint  # late: it takes a tenth of a second, and most plants are solved without pins

    try:
        value, kind = _value(parse_formula(pin.formula), document, result)
        magnitude = float(value.to_base_units().magnitude)
        if not math.isfinite(magnitude):
            raise _Unknown("the result is not a finite number")
    except _Unknown as reason:
        return PinResult(pin.name, pin.formula, problem=f"{reason}.")
    except pint.DimensionalityError as error:
        return PinResult(pin.name, pin.formula, problem=f"The dimensions do not fit: {error.units1 or 'a number'} and {error.units2 or 'a number'}.")
    except (ArithmeticError, ValueError, AttributeError) as error:
        return PinResult(pin.name, pin.formula, problem=f"It cannot be calculated: {error}.")
    unit = format(value.to_base_units().units, "~C")
    return PinResult(pin.name, pin.formula, magnitude, kind or _kind_of(value), unit)


def _kind_of(value: Any) -> str | None:
    """The first kind of the same dimension whose values may have either sign or are flows; None where no kind fits."""
    for name in _PLAIN:
        if value.check(pint_unit(KINDS[name].si[0]).dimensionality):
            return name
    return None


def _value(node: Node, document: Document, result: SolveResult) -> tuple[Any, str | None]:
    """Pint quantity in SI base units and its kind where it is plain."""
    registry = pint_registry()
    if isinstance(node, Number):
        number, of = _typed(node)
        return registry.Quantity(number, pint_unit(of)), None
    if isinstance(node, Name):
        value, kind, unit = _named(node, document, result)
        return registry.Quantity(value, pint_unit(unit)), kind
    return _call(node, document, result)


def _typed(number: Number) -> tuple[float, str]:
    """A typed number in the SI unit of its dimension."""
    for name in ("number", "share", "temperature", "pressure", "flow", "volume_flow", "power", "molar_mass", "price", "money_flow"):
        quantity = Quantity(value=number.value, unit=number.unit)
        try:
            return to_si(quantity, name), dimension_si(quantity, name)
        except QuantityError:
            continue
    raise _Unknown(f"{number.value:g} {number.unit} is not understood")


def _named(name: Name, document: Document, result: SolveResult) -> tuple[float, str | None, str]:
    stream = document.stream(name.tag)
    if stream is not None:
        return _of_stream(name, document, result)
    unit = document.unit(name.tag)
    if unit is None:
        raise _Unknown(f"nothing on the sheet is tagged {name.tag}")
    field = unit.operation.field_map().get(name.what)
    given = getattr(unit.spec, name.what) if field else None
    if field is not None and isinstance(given, Quantity) and not name.bracket:
        si = dimension_si(given, field.kind)
        return to_si(given, field.kind), shown_as(field.kind, si), si
    state = result.units.get(name.tag)
    if state is None or not (state.values or state.profiles):
        raise _Unknown(f"{name.tag} has no {name.what} now; it is not calculated")
    written = name.what + (f"[{name.bracket}]" if name.bracket else "")
    found = next((v for v in state.values if v.name == written), None)
    value, kind = _along(name, state) if found is None else (found.value, found.kind)
    return value, kind, KINDS[kind].si[0]


def _along(name: Name, state: UnitState) -> tuple[float, str]:
    """A value of a profile and its kind: ``temperature[stage 12]``, ``mole_fraction[water, length 20 m]``."""
    having = [p for p in state.profiles if any(c.key == name.what for c in p.columns)]
    if not having:
        offered = [*(v.name for v in state.values), *(f"{c.key}[{p.along.key} ...]" for p in state.profiles for c in p.columns)]
        raise _Unknown(f"{name.tag} has no {name.what} now; it has {', '.join(dict.fromkeys(offered))}")
    place = _PLACE.fullmatch(name.bracket or "")
    profile = next((p for p in having if place and p.along.key == place["axis"]), None)
    if place is None or profile is None:
        along = having[0].along
        unit = KINDS[along.kind].si[0]
        needed = f"{along.key} {along.values[-1]:.4g}{f' {unit}' if unit else ''}"
        raise _Unknown(f"{name.what} needs a place in brackets, such as {name.tag}.{name.what}[{needed}]")
    try:
        at = to_si(parse(place["at"], profile.along.kind), profile.along.kind)
        value = profile.at(name.what, at, (place["component"] or "").strip())
    except QuantityError as error:
        raise _Unknown(f"{place['at']} is not a position along it: {str(error).rstrip('.')}") from error
    except KeyError as error:
        raise _Unknown(str(error.args[0]).rstrip(".")) from error
    return value, profile.column(name.what, (place["component"] or "").strip()).kind


def _of_stream(name: Name, document: Document, result: SolveResult) -> tuple[float, str, str]:
    energy = result.energies.get(name.tag)
    if energy is not None:
        if name.what != "power":
            raise _Unknown(f"{name.tag} carries {energy.kind} and has no {name.what}; it has power")
        return energy.power, "power", "W"
    if name.what == "power" and document.stream_kinds()[name.tag] != "material":
        raise _Unknown(f"{name.tag} is not calculated yet")
    if name.what not in STREAM_VALUES and name.what not in COMPONENT_VALUES:
        raise _Unknown(f"a stream has no {name.what}; it has {', '.join([*STREAM_VALUES, *COMPONENT_VALUES])}")
    found = result.streams.get(name.tag)
    if found is None:
        raise _Unknown(f"{name.tag} is not calculated")
    if name.what in STREAM_VALUES:
        if name.bracket:
            by_component = ", ".join(f"{what}[{name.bracket}]" for what in COMPONENT_VALUES)
            raise _Unknown(f"{name.what} is one of the whole stream and has no [{name.bracket}]; by component there are {by_component}")
        kind = STREAM_VALUES[name.what]
        value = getattr(found, name.what)
        if value is None:
            why = "until every component in it has a price" if name.what == "money_flow" else "with this property model"
            raise _Unknown(f"{name.tag} has no {name.what} {why}")
    else:
        attribute, kind = COMPONENT_VALUES[name.what]
        if name.bracket not in getattr(found, attribute):
            raise _Unknown(f"{name.what} needs one of the components in brackets, such as {name.tag}.{name.what}[{next(iter(found.mole_flows))}]")
        value = getattr(found, attribute)[name.bracket]
    return float(value), kind, KINDS[kind].si[0]


def _call(node: Call, document: Document, result: SolveResult) -> tuple[Any, str | None]:
    registry = pint_registry()
    parts = [_value(part, document, result) for part in node.arguments]
    values = [value for value, _ in parts]
    kind = next((k for _, k in parts if k is not None), None)
    if node.function == "negative":
        return -values[0], None
    if node.function in "+-":
        total = values[0] + values[1] if node.function == "+" else values[0] - values[1]
        return total, _DIFFERENCE.get(kind or "", kind) if node.function == "-" else kind
    if node.function in "*/":
        if node.function == "/" and values[1].magnitude == 0.0:
            raise _Unknown("it divides by zero")
        return values[0] * values[1] if node.function == "*" else values[0] / values[1], None
    if node.function in ("min", "max"):
        chosen = min if node.function == "min" else max
        return chosen(values, key=lambda v: v.to(values[0].units).magnitude), kind
    if node.function == "abs":
        return abs(values[0]), kind
    if node.function == "sqrt":
        if values[0].magnitude < 0.0:
            raise _Unknown("it takes the root of a negative number")
        return values[0] ** 0.5, None
    plain = [v.to("").magnitude for v in (values if node.function != "^" else values[1:])]
    if node.function == "^":
        if abs(plain[0]) > 100:
            raise _Unknown("its exponent is beyond 100")
        raised = values[0] ** plain[0]
        return registry.Quantity(math.nan) if isinstance(raised.magnitude, complex) else raised, None
    if node.function == "ln" and plain[0] <= 0.0:
        raise _Unknown("it takes the logarithm of zero or a negative number")
    return registry.Quantity(math.log(plain[0]) if node.function == "ln" else math.exp(plain[0])), None
