"""Numbers of the chemistry that a study varies: parameters of pairs, constants of components, numbers of rate laws, and those that fits found."""

from __future__ import annotations

import math
import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from wattaxis.flowsheet import Chemistry, Document, DocumentComponent, Pair, StudyFit, StudyParameter, pair_table
from wattaxis.flowsheet.chemistry import CONSTANTS
from wattaxis.flowsheet.data import VAPOUR_PRESSURE, FreePart, KeptFit
from wattaxis.flowsheet.model import model_keys, resolve
from wattaxis.flowsheet.reactions import TypedExpression, TypedRate, TypedReaction, TypedReactionSet, typed_constant, typed_with
from wattaxis.properties.catalogue import ModelInfo, PairParameter
from wattaxis.properties.registry import model_infos
from wattaxis.quantities import KINDS, Quantity, from_si
from wattaxis.quantities.quantity import dimension_si
from wattaxis.reactions import FreeRate
from wattaxis.reactions.free import number_of, with_number
from wattaxis.solving.aims import FreeGiven, with_givens
from wattaxis.substances import turned

#: How near to what a fit found the plant's own numbers must be, relative: they are kept to so many digits.
_SAME = 1e-5
#: A number of a rate law as it is written.
_OF_RATE = re.compile(r"(backward\.)?(?:order\[(.{1,80})\]|(\w{1,20})(\.energy)?)")


class ParameterError(ValueError):
    """A number of the chemistry that cannot be varied; ``str()`` says why."""


@dataclass(frozen=True)
class Place:
    """Where a number of the chemistry stands. ``of``: "vapour pressure" beside those of :class:`StudyParameter`."""

    of: str
    first: str
    name: str
    second: str = ""
    model: str = ""


@dataclass(frozen=True)
class FreeParameter(FreeGiven):
    """A number of the chemistry as one that can be varied: where it is, and SI units (or those of its model) in one of it.

    ``base``: what a pair has where the document has none of its own.

    >>> place = Place("pair", "ethane", "propane", "kij", "peng-robinson")
    >>> FreeParameter("ethane, propane", "kij", "kij", "number", "", "", 0.01, -2.0, 1.0, place).told(0.02)
    '0.02'
    """

    place: Place = Place("", "", "")
    factor: float = 1.0
    base: Mapping[str, float] = field(default_factory=dict)

    @property
    def quantity(self) -> Quantity:
        """What it is now, in the unit that was typed."""
        value = from_si(self.value, self.typed, difference=KINDS[self.kind].difference)
        return Quantity(value=float(f"{value:.10g}"), unit=self.typed)


@dataclass(frozen=True)
class Fitted:
    """What a kept fit found: its numbers with 95 % half-widths (numbers,), their correlation (numbers, numbers), which are drawn as logarithms."""

    parameters: tuple[FreeParameter, ...]
    half_widths: NDArray[np.float64]
    correlation: NDArray[np.float64]
    logarithmic: tuple[bool, ...]


def with_values(document: Document, givens: Sequence[FreeGiven], values: Sequence[float] | NDArray[np.float64]) -> Document:
    """The document with other values (SI) of what is varied, givens and numbers of the chemistry alike."""
    typed = [(given, float(value)) for given, value in zip(givens, values, strict=True) if not isinstance(given, FreeParameter)]
    chemistry = document.chemistry
    for given, value in zip(givens, values, strict=True):
        if isinstance(given, FreeParameter):
            chemistry = _with(chemistry, given, float(value))
    if chemistry is not document.chemistry:
        document = document.model_copy(update={"chemistry": chemistry})
    return with_givens(document, [given for given, _ in typed], [value for _, value in typed])


def parameter_of(document: Document, item: StudyParameter) -> FreeParameter:
    """The number of the chemistry that an item of a study names. Raises ParameterError where there is none.

    >>> from importlib.resources import files
    >>> from wattaxis import load
    >>> plant = load(files("wattaxis.examples").joinpath("sandlark_bay.json").read_text())
    >>> tc = StudyParameter(of="component", first="butanone", name="critical_temperature")
    >>> parameter_of(plant, tc).told(535.0)
    '261.85 degC'
    """
    chemistry = document.chemistry
    if item.of == "pair":
        return _of_pair(chemistry, item.model or chemistry.model, item.first, item.second, item.name)
    if item.of == "component":
        return _constant_of(_component(chemistry, item.first), item.name)
    return _of_rate(chemistry, item.first, item.second, item.name)


def parameters_of(document: Document) -> list[FreeParameter]:
    """The numbers of the chemistry that can be varied: what pairs and rate laws have, and the constants of components.

    >>> from importlib.resources import files
    >>> from wattaxis import load
    >>> plant = load(files("wattaxis.examples").joinpath("reactors_on_one_feed.json").read_text())
    >>> [parameter.title for parameter in parameters_of(plant) if parameter.place.of == "rate"][:2]
    ['k in kmol/(m3 h bar)', 'Activation energy of k']
    """
    chemistry = document.chemistry
    found = list(_of_pairs(document))
    for component in chemistry.components:
        found += [_of_component(component, name, value) for name, value in _constants(component).items()]
    for of in chemistry.reactions:
        found += [_of_rate(chemistry, of.name, reaction.name, name) for reaction in of.reactions for name in _names(reaction)]
    return found


def fitted_of(document: Document, item: StudyFit) -> Fitted:
    """What a kept fit found and how well. Raises ParameterError where it does not say, and where the plant goes by other numbers."""
    chemistry = document.chemistry
    fit = next((fit for fit in chemistry.fits if fit.name == item.fit), None)
    if fit is None:
        raise ParameterError(f'There is no fit "{item.fit}".')
    parameters = tuple(_of_fit(chemistry, fit, k) for k in range(len(fit.free)))
    for parameter, value in zip(parameters, fit.values, strict=True):
        if abs(parameter.value - value) > _SAME * max(abs(value), 1e-12):
            text = f"The plant goes by {parameter.told(parameter.value)} for {parameter.title} of {parameter.unit}, and {fit.name} found {value:.6g}."
            raise ParameterError(f"{text} Use the values of the fit, or choose another one.")
    unknown = next((p for p, half in zip(parameters, fit.half_widths, strict=True) if not half > 0.0), None)
    if unknown is not None:
        raise ParameterError(f"The data of {fit.name} do not tell how well {unknown.title} of {unknown.unit} is known. Fit with fewer numbers free.")
    if len(parameters) > 1 and not fit.correlation:
        raise ParameterError(f"{fit.name} was kept without how its numbers go together. Fit it once more.")
    return Fitted(
        parameters,
        np.array(fit.half_widths),
        np.array(fit.correlation or ((1.0,),)),
        tuple(parameter.place.of == "rate" and parameter.low == 0.0 for parameter in parameters),
    )


def _of_fit(chemistry: Chemistry, fit: KeptFit, k: int) -> FreeParameter:
    free = fit.free[k]
    if isinstance(free, FreePart):
        if fit.model == VAPOUR_PRESSURE:
            return _of_curve(_component(chemistry, free.first), free.name)
        return _of_pair(chemistry, fit.model, free.first, free.second, free.name)
    number = f"order[{free.component}]" if free.part == "order" else f"{free.constant}{'.energy' if free.part == 'energy' else ''}"
    parameter = _of_rate(chemistry, fit.reactions, free.reaction, f"{'backward.' if free.backward else ''}{number}")
    if free.part == "constant":  # told in SI units by a fit
        return replace(parameter, title=f"{number} in SI units", value=parameter.value * parameter.factor, factor=1.0)
    return parameter


def _component(chemistry: Chemistry, name: str) -> DocumentComponent:
    found = next((c for c in chemistry.components if c.id == name), None)
    if found is None:
        raise ParameterError(f"{name} is not among the components.")
    return found


def _of_pairs(document: Document) -> Iterator[FreeParameter]:
    """The pair parameters of the models of a plant that have a value, and those that would be the only one."""
    for key in model_keys(document):
        info = model_infos()[key]
        for row in pair_table(document.chemistry.model_copy(update={"model": key})) if info.parameters else ():
            for parameter in info.parameters:
                if parameter.name in row["values"] or (parameter is info.parameters[0] and parameter.name == "kij"):
                    yield _of_row(info, parameter, row["first"], row["second"], row["values"])


def _of_pair(chemistry: Chemistry, model: str, first: str, second: str, name: str) -> FreeParameter:
    info = model_infos().get(model)
    parameter = next((p for p in info.parameters if p.name == name), None) if info else None
    if info is None or parameter is None:
        raise ParameterError(f"{info.title if info else model} has no pair parameter {name}.")
    for c in (first, second):
        _component(chemistry, c)
    rows = pair_table(chemistry.model_copy(update={"model": model}))
    row = next((row for row in rows if {row["first"], row["second"]} == {first, second}), None)
    if row is None:
        raise ParameterError(f"{first} and {second} are no pair of {info.title}.")
    return _of_row(info, parameter, first, second, turned(row["values"], row["first"] != first))


def _of_row(info: ModelInfo, parameter: PairParameter, first: str, second: str, values: Mapping[str, float]) -> FreeParameter:
    title = f"{parameter.name} of {info.title}" + (f", {parameter.unit}" if parameter.unit else "")
    return FreeParameter(
        f"{first}, {second}", f"{info.key}.{parameter.name}", title, "number", "", "", float(values.get(parameter.name, parameter.default)),
        parameter.low, parameter.high, Place("pair", first, parameter.name, second, info.key), base=values,
    )  # fmt: skip


def _constants(component: DocumentComponent) -> dict[str, float]:
    """The constants that a component has."""
    if component.own_dissolved is not None:
        return {}
    try:
        known = resolve(component)
    except (KeyError, ValueError):  # said by the check
        return {}
    values = {name: getattr(known, name, None) for name in CONSTANTS}
    return {name: float(value) for name, value in values.items() if value is not None and math.isfinite(value)}  # a solid has no critical point


def _constant_of(component: DocumentComponent, name: str) -> FreeParameter:
    values = _constants(component)
    if name not in values:
        raise ParameterError(f"{component.id} has no constant {name.replace('_', ' ')} that could be varied.")
    return _of_component(component, name, values[name])


def _of_component(component: DocumentComponent, name: str, value: float) -> FreeParameter:
    kind = KINDS[CONSTANTS[name]]
    typed = component.overrides.get(name)  # type: ignore[call-overload]
    unit = kind.units[0] if typed is None else typed.unit
    si = dimension_si(Quantity(value=1.0, unit=unit), CONSTANTS[name])
    place = Place("component", component.id, name)
    return FreeParameter(component.id, name, name.replace("_", " ").capitalize(), CONSTANTS[name], si, unit, value, kind.low, kind.high, place)


def _of_curve(component: DocumentComponent, name: str) -> FreeParameter:
    curve = component.vapour_pressure
    if curve is None:
        raise ParameterError(f"{component.id} goes by the vapour pressure of the bank. Use the values of the fit.")
    value = float(getattr(curve, name.lower()))
    title = f"{name} of the vapour pressure"
    place = Place("vapour pressure", component.id, name)
    return FreeParameter(component.id, f"vapour_pressure.{name}", title, "number", "", "", value, -np.inf, np.inf, place)


def _names(reaction: TypedReaction) -> Iterator[str]:
    """The numbers of the laws of a reaction."""
    for side, lead in ((reaction.forward, ""), (reaction.backward, "backward.")):
        if isinstance(side, TypedRate):
            constants = [("k", side), *((f"K{n}", term) for n, term in enumerate(side.adsorption, 1))]
        elif isinstance(side, TypedExpression):
            constants = [(constant.name, constant) for constant in side.constants]
        else:
            continue
        for name, constant in constants:
            if constant.value is not None:
                yield f"{lead}{name}"
            if constant.energy is not None:
                yield f"{lead}{name}.energy"
        for component in side.orders if isinstance(side, TypedRate) else ():
            yield f"{lead}order[{component}]"


def _typed(chemistry: Chemistry, name: str) -> TypedReactionSet:
    found = next((of for of in chemistry.reactions if of.name == name), None)
    if found is None:
        raise ParameterError(f'There is no reaction set "{name}".')
    return found


def _free_rate(reaction: str, name: str) -> FreeRate:
    read = _OF_RATE.fullmatch(name)
    if read is None:
        raise ParameterError(f"{name} is no number of a rate law.")
    backward, component, constant, energy = read.groups()
    part = "order" if component else "energy" if energy else "constant"
    return FreeRate(reaction, part, constant or "k", component or "", backward is not None)  # type: ignore[arg-type]


def _of_rate(chemistry: Chemistry, of: str, reaction: str, name: str) -> FreeParameter:
    typed = _typed(chemistry, of)
    f = _free_rate(reaction, name)
    try:
        value = number_of(typed.core(), f)
    except ValueError as error:
        raise ParameterError(str(error)) from error
    place = Place("rate", of, name, reaction)
    heading, lead = f"{of}, {reaction}", "Backward, " if f.backward else ""
    if f.part == "order":
        return FreeParameter(heading, name, _begun(f"{lead}order of {f.component}"), "number", "", "", value, -np.inf, np.inf, place)
    law = next(getattr(r, "backward" if f.backward else "forward") for r in typed.reactions if r.name == reaction)
    constant = typed_constant(law, f.constant)
    if f.part == "energy":
        if constant.energy is None:
            raise ParameterError(f"The activation energy of {f.constant} of {reaction} is blank.")
        title = _begun(f"{lead}activation energy of {f.constant}")
        kind = KINDS["molar_enthalpy"]
        si = dimension_si(constant.energy, "molar_enthalpy")
        return FreeParameter(heading, name, title, "molar_enthalpy", si, constant.energy.unit, value, kind.low, kind.high, place)
    assert constant.value is not None
    title = f"{lead}{f.constant}" + (f" in {constant.unit}" if constant.unit else "")
    return FreeParameter(heading, name, title, "number", "", "", constant.value, 0.0, np.inf, place, factor=value / constant.value)


def _begun(title: str) -> str:
    return f"{title[:1].upper()}{title[1:]}"


def _with(chemistry: Chemistry, parameter: FreeParameter, value: float) -> Chemistry:
    put = {"pair": _with_pair, "component": _with_constant, "vapour pressure": _with_curve, "rate": _with_rate}[parameter.place.of]
    return put(chemistry, parameter, value)


def _with_pair(chemistry: Chemistry, parameter: FreeParameter, value: float) -> Chemistry:
    first, second, model = parameter.place.first, parameter.place.second, parameter.place.model
    own = next((p for p in chemistry.pairs if p.model == model and {p.first, p.second} == {first, second}), None)
    values = parameter.base if own is None else turned(own.values, own.first != first)
    made = Pair.model_construct(
        first=first, second=second, model=model, values={**values, parameter.place.name: value}, source="varied", quality="typed in"
    )
    return chemistry.model_copy(update={"pairs": (*(p for p in chemistry.pairs if p is not own), made)})


def _changed(chemistry: Chemistry, component: DocumentComponent) -> Chemistry:
    return chemistry.model_copy(update={"components": tuple(component if c.id == component.id else c for c in chemistry.components)})


def _with_constant(chemistry: Chemistry, parameter: FreeParameter, value: float) -> Chemistry:
    before, name = _component(chemistry, parameter.place.first), parameter.place.name
    for kept in ("own", "own_solid"):
        own = getattr(before, kept)
        if own is not None:
            return _changed(chemistry, before.model_copy(update={kept: own.model_copy(update={name: value})}))
    overrides = before.overrides | {name: Quantity(value=value, unit=parameter.si)}
    return _changed(chemistry, before.model_copy(update={"overrides": overrides}))


def _with_curve(chemistry: Chemistry, parameter: FreeParameter, value: float) -> Chemistry:
    before = _component(chemistry, parameter.place.first)
    assert before.vapour_pressure is not None
    curve = before.vapour_pressure.model_copy(update={parameter.place.name.lower(): value})
    return _changed(chemistry, before.model_copy(update={"vapour_pressure": curve}))


def _with_rate(chemistry: Chemistry, parameter: FreeParameter, value: float) -> Chemistry:
    before = _typed(chemistry, parameter.place.first)
    core = with_number(before.core(), _free_rate(parameter.place.second, parameter.place.name), value * parameter.factor)
    made = tuple(typed_with(was, now) for was, now in zip(before.reactions, core.reactions, strict=True))
    changed = before.model_copy(update={"reactions": made})
    return chemistry.model_copy(update={"reactions": tuple(changed if of is before else of for of in chemistry.reactions)})
