"""Valve: pressure falls, enthalpy stays; the flow coefficient goes with it."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

from wattaxis.equipment.control_valve import gas_kv, liquid_kv
from wattaxis.properties import FlashError, layout
from wattaxis.quantities import Quantity
from wattaxis.unitops.base import (
    Choice,
    Field,
    Finding,
    Givens,
    Port,
    ResultValue,
    StreamState,
    UnitFault,
    UnitOperation,
    UnitResult,
    UnitSpec,
    outlet_pressure,
)
from wattaxis.unitops.pressures import OUTLET_OR_CHANGE
from wattaxis.unitops.registry import unit_operation

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel, State
    from wattaxis.properties.state import Vector

_GLOBE = "a globe valve was assumed"


class ValveSpec(UnitSpec):
    """Outlet pressure, pressure change or flow coefficient; how the valve recovers pressure and when it chokes."""

    outlet_pressure: Quantity | None = None
    pressure_change: Quantity | None = None
    flow_coefficient: Quantity | None = None
    recovery: Quantity | None = None
    critical_ratio: Quantity | None = None


@unit_operation
class Valve(UnitOperation):
    """Adiabatic throttling."""

    type = "valve"
    title = "Valve"
    symbol = "valve"
    letter = "VL"
    also = ("throttle", "let-down", "control valve")
    family = "pressure"
    theory = (
        "Throttling without heat or shaft power: the molar enthalpy of the outlet equals that of the inlet (Joule, Thomson 1852). Flow coefficient "
        "by IEC 60534-2-1 (2011), turbulent, without fittings; of a vapour with a liquid the sum of both."
    )
    Spec = ValveSpec
    ports = (Port("inlet", "Inlet", "in", place=(0.0, 0.5)), Port("outlet", "Outlet", "out", place=(1.0, 0.5)))
    fields = (
        Field("outlet_pressure", "Outlet pressure", "pressure"),
        Field("pressure_change", "Pressure change", "pressure_difference", "outlet minus inlet; negative"),
        Field("flow_coefficient", "Flow coefficient", "flow_coefficient", "Kv: m3/h of water at 1 bar; Cv: US gal/min at 1 psi"),
        Field("recovery", "Recovery factor FL", "fraction", "of liquids: 0.9 globe, 0.6 ball or butterfly"),
        Field("critical_ratio", "Critical ratio xT", "fraction", "of gases: 0.7 globe, 0.3 ball or butterfly"),
    )
    pressures = (OUTLET_OR_CHANGE,)
    choices = (
        Choice("Pressure", ("outlet_pressure", "pressure_change", "flow_coefficient")),
        Choice("Liquids", ("recovery",), 1, ("recovery", Quantity(value=0.9), _GLOBE)),
        Choice("Gases", ("critical_ratio",), 1, ("critical_ratio", Quantity(value=0.7), _GLOBE)),
    )

    def solve(self, givens: Givens, inlets: Mapping[str, Sequence[StreamState]], model: PropertyModel, outlets: frozenset[str]) -> UnitResult:
        """PH flash at the outlet pressure."""
        inlet = inlets["inlet"][0]
        passing = _Passing(inlet, model, givens.si("recovery") or 0.9, givens.si("critical_ratio") or 0.7)
        kv = givens.si("flow_coefficient")
        pressure = outlet_pressure(givens, inlet.state.pressure) if kv is None else passing.pressure(kv)
        if pressure > inlet.state.pressure * (1 + 1e-9):
            raise UnitFault(
                f"The outlet at {pressure / 1e5:.4g} bar would be above the inlet at {inlet.state.pressure / 1e5:.4g} bar; a valve cannot raise it.",
                "Give a lower outlet pressure; a change is typed as a negative number.",
                "outlet_pressure" if givens.raw("outlet_pressure") else "pressure_change",
            )
        try:
            state = model.flash(inlet.state.fractions, P=pressure, H=inlet.state.enthalpy, guess=inlet.state.temperature)
        except FlashError as error:
            raise UnitFault(str(error), "Give a higher outlet pressure.", "outlet_pressure") from error
        values = [
            ResultValue("outlet_pressure", "Outlet pressure", "pressure", pressure),
            ResultValue("pressure_change", "Pressure change", "pressure_difference", pressure - inlet.state.pressure),
            ResultValue("outlet_temperature", "Outlet temperature", "temperature", state.temperature),
            ResultValue("outlet_vapour_fraction", "Outlet vapour fraction", "fraction", state.vapour_fraction),
        ]
        needed, choked = passing.kv(pressure)
        sized = math.isfinite(needed) and needed > 0.0
        choking = passing.choking() if choked and sized else 0.0
        if sized:
            # Below its choking pressure a coefficient says nothing of the outlet: it is no value to be typed back.
            key, title = ("least_flow_coefficient", "Flow coefficient, choked") if pressure < choking else ("flow_coefficient", "Flow coefficient")
            values.append(ResultValue(key, title, "flow_coefficient", needed))
        findings = []
        if choked and sized:
            text = (
                f"The flow through the valve is choked: below {choking / 1e5:.5g} bar a lower outlet pressure draws no more through it. "
                "Noise, and of liquids flashing or cavitation are to be expected."
            )
            findings.append(Finding("note", "", text, "Reduce the pressure in two valves, or in one with a higher FL or xT."))
        if kv is not None and 0.0 < inlet.state.vapour_fraction < 1.0:
            text = "Vapour and liquid pass the valve together: the standard does not cover that; both flow coefficients are added."
            findings.append(Finding("caution", "", text, "Take the pressure loss as an estimate."))
        return UnitResult({"outlet": StreamState(inlet.flow, state)}, 0.0, tuple(values), tuple(findings))


class _Passing:
    """What one flow asks of the valve at any outlet pressure."""

    def __init__(self, inlet: StreamState, model: PropertyModel, recovery: float, critical_ratio: float) -> None:
        self.inlet, self.recovery, self.critical_ratio = inlet, recovery, critical_ratio
        self.phases = []
        for share, phase in zip(inlet.state.amounts, inlet.state.phases, strict=True):
            if phase.molar_volume > 0.0:
                # Solids pass as a liquid that does not boil.
                boiling = 0.0 if phase.kind in ("vapour", "solid") else _vapour_pressure(model, inlet.state, phase.fractions)
                critical = math.inf if phase.kind == "solid" else float(phase.fractions @ model.par[layout.PC])
                self.phases.append((inlet.flow * share, phase, boiling, critical))

    def kv(self, p2: float) -> tuple[float, bool]:
        """Flow coefficient needed for an outlet pressure (Pa), and whether a phase is choked."""
        total, any_choked = 0.0, False
        for flow, phase, boiling, critical in self.phases:
            p1, density = self.inlet.state.pressure, phase.molar_mass / phase.molar_volume
            if phase.kind == "vapour":
                gamma = phase.heat_capacity / max(phase.heat_capacity - layout.R, 0.5 * layout.R)
                kv, choked = gas_kv(flow * phase.molar_mass, density, min(gamma, 1.67), p1, p2, self.critical_ratio)
            else:
                kv, choked = liquid_kv(flow * phase.molar_volume, density, boiling, critical, p1, p2, self.recovery)
            total, any_choked = total + kv, any_choked or choked
        return total, any_choked

    def pressure(self, kv: float) -> float:
        """The outlet pressure (Pa) at which a flow coefficient passes the flow. Raises UnitFault where it cannot."""
        p1 = self.inlet.state.pressure
        if self.inlet.flow <= 0.0 or not self.phases:
            return p1
        least = self.kv(1e-6 * p1)[0]
        if abs(kv - least) <= 1e-9 * least:
            return self.choking()
        if kv < least:
            text = f"A flow coefficient of {kv:.4g} Kv does not pass the flow at any outlet pressure: choked, it needs {least:.4g} Kv."
            raise UnitFault(text, "Give a larger valve, or less flow.", "flow_coefficient")
        from scipy.optimize import brentq

        return float(brentq(lambda p2: math.log(self.kv(p2)[0] / kv), 1e-6 * p1, p1 * (1.0 - 1e-12), xtol=1e-10 * p1, rtol=1e-14))

    def choking(self) -> float:
        """The highest outlet pressure (Pa) at which no lower one would draw more through the valve."""
        low, high = 1e-6 * self.inlet.state.pressure, self.inlet.state.pressure
        least = self.kv(low)[0]
        while high - low > 1e-12 * high:
            middle = 0.5 * (low + high)
            low, high = (middle, high) if self.kv(middle)[0] <= least * (1.0 + 1e-12) else (low, middle)
        return low


def _vapour_pressure(model: PropertyModel, state: State, fractions: Vector) -> float:
    try:
        return float(model.flash(fractions, T=state.temperature, VF=0.0).pressure)
    except FlashError:
        return 0.0
