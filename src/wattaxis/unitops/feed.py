"""Feed: a stream that comes from outside the sheet."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

import numpy as np

from wattaxis.properties import FlashError
from wattaxis.quantities import Quantity, QuantityError
from wattaxis.quantities.quantity import dimension_si
from wattaxis.unitops.base import Ask, Choice, Field, Finding, Givens, Port, StreamState, UnitFault, UnitOperation, UnitResult, UnitSpec
from wattaxis.unitops.composition import BASIS_TITLES, Composition
from wattaxis.unitops.registry import unit_operation

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel


class FeedSpec(UnitSpec):
    """Two of temperature, pressure and vapour fraction; a total flow with fractions, or one flow per component."""

    temperature: Quantity | None = None
    pressure: Quantity | None = None
    vapour_fraction: Quantity | None = None
    flow: Quantity | None = None
    composition: Composition | None = None


@unit_operation
class Feed(UnitOperation):
    """Boundary where material enters."""

    type = "feed"
    title = "Feed"
    symbol = "boundary-in"
    letter = "F"
    family = "boundary"
    theory = (
        "The state follows from two of temperature, pressure and vapour fraction by a flash. A flow in kg/h is turned into moles with the "
        "molar mass of the composition; normal cubic metres count at 0 degC and 101325 Pa, standard cubic feet at 60 degF and 14.696 psi."
    )
    Spec = FeedSpec
    ports = (Port("outlet", "Outlet", "out", place=(1.0, 0.5)),)
    fields = (
        Field("temperature", "Temperature", "temperature"),
        Field("pressure", "Pressure", "pressure"),
        Field("vapour_fraction", "Vapour fraction", "fraction", "mole fraction vapour: 0 is the bubble point, 1 the dew point"),
        Field("flow", "Total flow", "flow", "mole, mass or normal volume"),
        Field("composition", "Composition", "composition"),
    )
    choices = (Choice("State", ("temperature", "pressure", "vapour_fraction"), 2),)

    def asks(self, tag: str, spec: UnitSpec, component_ids: Sequence[str], connected: frozenset[str]) -> list[Ask]:
        """State, then composition, then the total flow unless the composition brings it."""
        assert isinstance(spec, FeedSpec)
        found = super().asks(tag, spec, component_ids, connected)
        composition = spec.composition
        if composition is None or not any(c in composition.values for c in component_ids):
            found.append(Ask(tag, f"{tag} needs a composition: a fraction or a flow per component.", ("composition",)))
        if spec.flow is None and not (composition and composition.is_flow):
            found.append(Ask(tag, f"{tag} needs a total flow, or one flow per component.", ("flow", "composition")))
        return found

    def excess(self, tag: str, spec: UnitSpec, connected: frozenset[str] = frozenset()) -> list[Finding]:
        """A total flow beside flows per component is one value too many."""
        assert isinstance(spec, FeedSpec)
        found = super().excess(tag, spec, connected)
        if spec.flow is not None and spec.composition is not None and spec.composition.is_flow:
            repair = ({"kind": "set_values", "unit": tag, "values": {"flow": None}},)
            text = f"{tag} has a total flow and one flow per component: the total follows from the others."
            found.append(Finding("fault", tag, text, "Clear the total flow.", "flow", repair, "Clear total flow"))
        return found

    def problems(self, tag: str, spec: UnitSpec) -> list[Finding]:
        """Also the typed composition."""
        assert isinstance(spec, FeedSpec)
        found = super().problems(tag, spec)
        if spec.composition is not None:
            try:
                spec.composition.si(tuple(spec.composition.values))
            except QuantityError as error:
                found.append(Finding("fault", tag, f"Composition of {tag}: {error}", "Type another value.", "composition"))
        return found

    def solve(self, givens: Givens, inlets: Mapping[str, Sequence[StreamState]], model: PropertyModel, outlets: frozenset[str]) -> UnitResult:
        """Composition and flow in moles, then the flash."""
        composition: Composition = givens.raw("composition")
        ids = tuple(c.id for c in model.components)
        amounts = _amounts(composition, ids, model)
        fractions = amounts / amounts.sum()
        flow = _total_flow(givens, composition, amounts, float(fractions @ model.molar_masses))
        known = {"T": givens.si("temperature"), "P": givens.si("pressure"), "VF": givens.si("vapour_fraction")}
        try:
            state = model.flash(fractions, **{k: v for k, v in known.items() if v is not None})
        except FlashError as error:
            remedy = "Give temperature and pressure instead." if known["VF"] is not None else "Change temperature or pressure a little."
            raise UnitFault(str(error), remedy, "vapour_fraction" if known["VF"] is not None else None) from error
        findings = []
        left = [c for c in composition.values if c not in ids]
        if left:
            text = f"Values for {', '.join(left)} are kept but not used: not among the components."
            findings.append(Finding("caution", "", text, "Add the component again, or clear its value.", "composition"))
        blank = [c.name for c in model.components if c.id not in composition.values]
        if blank:
            findings.append(Finding("note", "", f"Nothing was typed for {', '.join(blank)}: taken as none of it.", "", "composition"))
        return UnitResult({"outlet": StreamState(flow, state)}, findings=tuple(findings))


def _amounts(composition: Composition, ids: tuple[str, ...], model: PropertyModel) -> np.ndarray:
    values = composition.si(ids)
    total = float(values.sum())
    title = BASIS_TITLES[composition.basis]
    if total <= 0.0:
        raise UnitFault(f"All values of the composition are zero, so there is no {title}.", "Give at least one component.", "composition")
    if not composition.is_flow and not composition.normalise and abs(total - 1.0) > 1e-6:
        kept = {c: q.model_dump() for c, q in composition.values.items()}
        values_op = {"composition": {"basis": composition.basis, "values": kept, "normalise": True}}
        repair = ({"kind": "set_values", "unit": "", "values": values_op},)
        raise UnitFault(
            f"The {title}s sum to {total:.6g}, not to 1.",
            "Mend a value, or let them be normalised: the typed numbers are kept.",
            "composition",
            repair,
            "Normalise",
        )
    return composition.mole_amounts(ids, model.molar_masses)


def _total_flow(givens: Givens, composition: Composition, amounts: np.ndarray, molar_mass: float) -> float:
    if composition.is_flow:
        return float(amounts.sum())
    flow = givens.si("flow")
    assert flow is not None  # the asks made sure
    return flow / molar_mass if dimension_si(givens.raw("flow"), "flow") == "kg/s" else flow
