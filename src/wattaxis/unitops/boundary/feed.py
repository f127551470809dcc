"""Feed: a stream that comes from outside the sheet."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

import numpy as np

from wattaxis.properties import FlashError
from wattaxis.quantities import Quantity
from wattaxis.quantities.quantity import dimension_si
from wattaxis.unitops.base import Ask, Choice, Field, Finding, Givens, Port, ResultValue, StreamState, UnitFault, UnitOperation, UnitResult, UnitSpec
from wattaxis.unitops.boundary.humidity import WATER, moistened, saturated_share, water_of
from wattaxis.unitops.composition import Composition, composition_problems, mole_amounts
from wattaxis.unitops.pressures import PressureSide
from wattaxis.unitops.registry import unit_operation

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel, State


class FeedSpec(UnitSpec):
    """Two of temperature, pressure, vapour fraction, superheat, subcooling, enthalpy, entropy; a total flow with fractions, or a flow per component.

    With a moisture, relative humidity or dew point of the water the composition counts as dry.
    """

    temperature: Quantity | None = None
    pressure: Quantity | None = None
    vapour_fraction: Quantity | None = None
    superheat: Quantity | None = None
    subcooling: Quantity | None = None
    enthalpy: Quantity | None = None
    entropy: Quantity | None = None
    flow: Quantity | None = None
    volume_flow: Quantity | None = None
    composition: Composition | None = None
    moisture: Quantity | None = None
    relative_humidity: Quantity | None = None
    dew_point: Quantity | None = None


#: Ways to say how much water comes beside a dry composition, and how much of it flows.
WETNESS = ("moisture", "relative_humidity", "dew_point")
TOTALS = ("flow", "volume_flow")


@unit_operation
class Feed(UnitOperation):
    """Boundary where material enters."""

    type = "feed"
    title = "Feed"
    symbol = "boundary-in"
    letter = "F"
    also = ("source", "inlet", "supply")
    family = "boundary"
    theory = (
        "The state follows from two of temperature, pressure, vapour fraction, enthalpy and entropy by a flash. A flow in kg/h is turned into moles "
        "with the molar mass of the composition; normal cubic metres count at 0 degC and 101325 Pa, standard cubic feet at 60 degF and 14.696 psi; "
        "liquid volume fractions by the densities of the pure liquids at 15 degC. A relative humidity counts the water of the gas against "
        "that of the gas saturated at its temperature and pressure; the dew point is where its water begins to condense."
    )
    Spec = FeedSpec
    ports = (Port("outlet", "Outlet", "out", place=(1.0, 0.5)),)
    fields = (
        Field("temperature", "Temperature", "temperature"),
        Field("pressure", "Pressure", "pressure"),
        Field("vapour_fraction", "Vapour fraction", "fraction", "mole fraction vapour: 0 is the bubble point, 1 the dew point"),
        Field("superheat", "Superheat", "temperature_difference", "above the dew point"),
        Field("subcooling", "Subcooling", "temperature_difference", "below the bubble point"),
        Field("enthalpy", "Enthalpy", "enthalpy", "by mole or mass, from the elements at 25 °C as everywhere here"),
        Field("entropy", "Entropy", "entropy", "by mole or mass, as everywhere here"),
        Field("flow", "Total flow", "flow", "mole, mass or normal volume"),
        Field("volume_flow", "Total volume flow", "volume_flow", "as it flows, at its temperature and pressure"),
        Field("composition", "Composition", "composition"),
        Field("moisture", "Moisture", "fraction", "water in all of it, by mole or mass as the composition, which then counts as dry", needs=WATER),
        Field("relative_humidity", "Relative humidity", "fraction", "of a gas, whose composition then counts as dry", needs=WATER),
        Field("dew_point", "Water dew point", "temperature", "at its pressure; the composition then counts as dry", needs=WATER),
    )
    pressures = (PressureSide("pressure"),)
    choices = (Choice("State", ("temperature", "pressure", "vapour_fraction", "superheat", "subcooling", "enthalpy", "entropy"), 2),)

    def asks(self, tag: str, spec: UnitSpec, component_ids: Sequence[str], connected: frozenset[str]) -> list[Ask]:
        """State, then composition, then the total flow unless the composition brings it."""
        assert isinstance(spec, FeedSpec)
        found = super().asks(tag, spec, component_ids, connected)
        composition = spec.composition
        if composition is None or not any(c in composition.values for c in component_ids):
            found.append(Ask(tag, f"{tag} needs a composition: a fraction or a flow per component.", ("composition",)))
        if spec.flow is None and spec.volume_flow is None and not (composition and composition.is_flow):
            found.append(Ask(tag, f"{tag} needs a total flow, or one flow per component.", (*TOTALS, "composition")))
        return found

    def excess(self, tag: str, spec: UnitSpec, connected: frozenset[str] = frozenset()) -> list[Finding]:
        """A total flow beside flows per component is one value too many, and so are two totals or two measures of the water."""
        assert isinstance(spec, FeedSpec)
        found = super().excess(tag, spec, connected)
        totals, wet = ([key for key in keys if getattr(spec, key) is not None] for keys in (TOTALS, WETNESS))
        if totals and spec.composition is not None and spec.composition.is_flow:
            repair = ({"kind": "set_values", "unit": tag, "values": dict.fromkeys(totals)},)
            text = f"{tag} has a total flow and one flow per component: the total follows from the others."
            found.append(Finding("fault", tag, text, "Clear the total flow.", totals[0], repair, "Clear total flow"))
        titles = self.field_map()
        for keys in (totals, wet):
            if len(keys) > 1:
                names = " and ".join(titles[key].title.lower() for key in keys)
                repair = ({"kind": "set_values", "unit": tag, "values": dict.fromkeys(keys[1:])},)
                text = f"{tag} has {names}: each follows from the other."
                found.append(Finding("fault", tag, text, "Keep one of them.", keys[-1], repair, f"Keep {titles[keys[0]].title.lower()}"))
        return found

    def problems(self, tag: str, spec: UnitSpec) -> list[Finding]:
        """Also the typed composition."""
        assert isinstance(spec, FeedSpec)
        return super().problems(tag, spec) + composition_problems(tag, spec.composition)

    def solve(self, givens: Givens, inlets: Mapping[str, Sequence[StreamState]], model: PropertyModel, outlets: frozenset[str]) -> UnitResult:
        """Composition in moles, then the flash, then the flow."""
        composition: Composition = givens.raw("composition")
        ids = tuple(c.id for c in model.components)
        amounts = _wet(givens, mole_amounts(composition, model), model)
        fractions = amounts / amounts.sum()
        state = _state(givens, fractions, model)
        flow = _total_flow(givens, composition, amounts, state)
        findings = []
        left = [c for c in composition.values if c not in ids]
        if left:
            text = f"Values for {', '.join(left)} are kept but not used: not among the components."
            findings.append(Finding("caution", "", text, "Add the component again, or clear its value.", "composition"))
        blank = [c.name for c, amount in zip(model.components, amounts, strict=True) if c.id not in composition.values and amount == 0.0]
        if blank:
            findings.append(Finding("note", "", f"No value was given for {', '.join(blank)}: taken as zero.", "", "composition"))
        doubtful = composition.doubtful(model.components)
        if doubtful:
            text = f"The liquid volumes of {', '.join(doubtful)} rest on densities that are estimated at 15 degC."
            findings.append(Finding("note", "", text, "Give moles or masses where it matters.", "composition"))
        values = (
            ResultValue("temperature", "Temperature", "temperature", state.temperature),
            ResultValue("pressure", "Pressure", "pressure", state.pressure),
            ResultValue("vapour_fraction", "Vapour fraction", "fraction", state.vapour_fraction),
            ResultValue("enthalpy", "Enthalpy", "enthalpy", state.enthalpy),
            ResultValue("entropy", "Entropy", "entropy", state.entropy),
        )
        return UnitResult({"outlet": StreamState(flow, state)}, values=values, findings=tuple(findings))


def _state(givens: Givens, fractions: np.ndarray, model: PropertyModel) -> State:
    """The state of a feed. Raises UnitFault."""
    known = {"T": givens.si("temperature"), "P": givens.si("pressure"), "VF": givens.si("vapour_fraction")}
    for key, name in (("enthalpy", "H"), ("entropy", "S")):
        value = givens.si(key)
        by_mass = value is not None and dimension_si(givens.raw(key), key).startswith("J/kg")
        known[name] = value * float(fractions @ model.molar_masses) if by_mass and value is not None else value
    given = {k: v for k, v in known.items() if v is not None}
    try:
        for key, border, way in (("superheat", 1.0, 1.0), ("subcooling", 0.0, -1.0)):
            apart = givens.si(key)
            if apart is None:
                continue
            if "P" in given:
                edge = model.flash(fractions, VF=border, P=given["P"])
                return edge if apart == 0.0 else model.flash(fractions, T=edge.temperature + way * apart, P=given["P"])
            if "T" not in given:
                raise UnitFault(f"A {key} needs a temperature or a pressure beside it.", "Give one of them.", key)
            edge = model.flash(fractions, VF=border, T=given["T"] - way * apart)
            return edge if apart == 0.0 else model.flash(fractions, T=given["T"], P=edge.pressure)
        return model.flash(fractions, **given)
    except (FlashError, ValueError) as error:
        remedy = "Give temperature and pressure instead." if len({"T", "P"} & given.keys()) < 2 else "Change temperature or pressure a little."
        raise UnitFault(str(error), remedy, "vapour_fraction" if known["VF"] is not None else None) from error


def _wet(givens: Givens, dry: np.ndarray, model: PropertyModel) -> np.ndarray:
    """Amounts in moles with the water of a moisture, humidity or dew point added. Raises UnitFault."""
    key = next((key for key in WETNESS if givens.si(key) is not None), None)
    if key is None:
        return dry
    water, given = water_of(model), givens.si(key) or 0.0
    if dry[water] > 0.0:
        raise UnitFault("Water has a value in the composition, which counts as dry.", "Clear one of the two.", key)
    if key == "moisture":
        if given >= 1.0:
            raise UnitFault("All of it would be water.", "Give a moisture below 1, or water in the composition.", key)
        mass = givens.raw("composition").basis.startswith("mass")
        ratio = float(dry @ model.molar_masses) / model.molar_masses[water] if mass else float(dry.sum())
        wet = dry.copy()
        wet[water] = ratio * given / (1.0 - given)
        return wet
    pressure, temperature = givens.si("pressure"), givens.si("temperature")
    at = given if key == "dew_point" else temperature
    if pressure is None or at is None:
        needed = "pressure" if key == "dew_point" else "temperature and pressure"
        raise UnitFault(f"A {key.replace('_', ' ')} of the water needs {needed}.", "Give them, or give a moisture.", key)
    share = saturated_share(model, dry, at, pressure) * (given if key == "relative_humidity" else 1.0)
    return moistened(dry, water, share) * (float(dry.sum()) / (1.0 - share))


def _total_flow(givens: Givens, composition: Composition, amounts: np.ndarray, state: State) -> float:
    if composition.is_flow:
        return float(amounts.sum())
    volume, flow = givens.si("volume_flow"), givens.si("flow")
    if volume is not None:
        if not state.molar_volume > 0.0:
            raise UnitFault("The property model has no volume for this state.", "Give a mole or mass flow.", "volume_flow")
        return volume / state.molar_volume
    assert flow is not None  # the asks made sure
    return flow / state.molar_mass if dimension_si(givens.raw("flow"), "flow") == "kg/s" else flow
