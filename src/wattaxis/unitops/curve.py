"""Curves of pumps, compressors and expanders: head and efficiency over the volume flow at the suction, as a maker's sheet gives them."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Annotated

import numpy as np
from pydantic import BaseModel, ConfigDict, Field, model_validator

from wattaxis.properties.diagrams.chart import Axis, Diagram, Mark, line
from wattaxis.properties.state import Vector
from wattaxis.quantities import Quantity, QuantityError, to_si
from wattaxis.unitops.base import GRAVITY, Finding, StreamState, UnitFault

if TYPE_CHECKING:
    from wattaxis.unitops.base import Givens

MOST_POINTS = 60
Cell = Annotated[float, Field(allow_inf_nan=False)] | None


class MachineCurve(BaseModel):
    """Points of a curve as typed: rows of (volume flow, head, efficiency) in the units of the columns; an efficiency may be blank in all rows."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    flow_unit: str = Field(default="m3/h", max_length=20)
    head_unit: str = Field(default="m", max_length=20)
    efficiency_unit: str = Field(default="%", max_length=20)
    rows: tuple[tuple[Cell, Cell, Cell], ...] = Field(default=(), max_length=MOST_POINTS)

    @model_validator(mode="after")
    def _readable(self) -> MachineCurve:
        try:
            self.si()
        except QuantityError as error:
            raise ValueError(str(error)) from error
        return self

    @property
    def has_efficiency(self) -> bool:
        """Whether it says what the efficiency is."""
        return any(row[2] is not None for row in self.rows)

    def si(self) -> tuple[Vector, Vector, Vector | None]:
        """Flows (m3/s, rising), heads (J/kg) and efficiencies (or None) of the complete rows. Raises QuantityError."""
        whole = [row for row in self.rows if row[0] is not None and row[1] is not None and (row[2] is not None or not self.has_efficiency)]
        flows = np.array([to_si(Quantity(value=row[0] or 0.0, unit=self.flow_unit), "volume_flow") for row in whole])
        heads = np.array([to_si(Quantity(value=row[1] or 0.0, unit=self.head_unit), "head") for row in whole])
        if self._in_metres():
            heads = heads * GRAVITY  # an energy by mass
        order = np.argsort(flows, kind="stable")
        if not self.has_efficiency:
            return flows[order], heads[order], None
        shares = np.array([to_si(Quantity(value=row[2] or 0.0, unit=self.efficiency_unit), "fraction") for row in whole])
        return flows[order], heads[order], shares[order]

    def _in_metres(self) -> bool:
        from wattaxis.quantities.quantity import dimension_si

        return dimension_si(Quantity(value=1.0, unit=self.head_unit), "head") == "m"


@dataclass(frozen=True)
class CurvePoint:
    """Where a machine works on its curve: volume flow m3/s, head J/kg, efficiency (None where the curve has none), what is to be said."""

    flow: float
    head: float
    efficiency: float | None
    findings: tuple[Finding, ...]
    diagrams: tuple[Diagram, ...]


def working_point(givens: Givens, inlet: StreamState) -> CurvePoint | None:
    """The point of the curve at the suction volume flow, None without a curve. Raises UnitFault.

    Between the points a monotone cubic (Fritsch, Carlson 1980), beyond them straight on. At another speed flows go with it and heads with its
    square (the affinity laws of turbomachines).
    """
    curve: MachineCurve | None = givens.raw("curve")
    if curve is None:
        return None
    flows, heads, shares = curve.si()
    if len(flows) < 2 or np.any(np.diff(flows) <= 0.0):
        raise UnitFault("The curve needs two complete points or more, each at another volume flow.", "Complete the table of the curve.", "curve")
    speed = givens.si("speed")
    speed = 1.0 if speed is None else speed
    if speed <= 0.0:
        raise UnitFault("At a speed of zero the machine stands still.", "Give a speed above zero.", "speed")
    if not inlet.state.molar_volume > 0.0:
        raise UnitFault("The property model has no volume for this state, so it has no place on the curve.", "Give a pressure instead.", "curve")
    flow = inlet.flow * inlet.state.molar_volume
    if not flow > 0.0:
        raise UnitFault("There is no flow through the machine, so it has no place on its curve.", "Give a flow at the feed, or a pressure.", "curve")
    at = flow / speed
    head = speed**2 * _between(flows, heads, at)
    share = None if shares is None else float(np.clip(_between(flows, shares, at), 0.0, 1.0))
    if head <= 0.0:
        text = f"At {flow * 3600:.4g} m3/h, beyond the end of the curve at {speed * flows[-1] * 3600:.4g} m3/h, no head is left."
        raise UnitFault(text, "Let less flow through it, raise its speed, or take a larger machine.", "curve")
    findings = []
    if not flows[0] * (1 - 1e-9) <= at <= flows[-1] * (1 + 1e-9):
        side, end = ("below the lowest", flows[0]) if at < flows[0] else ("beyond the highest", flows[-1])
        text = (
            f"The volume flow of {flow * 3600:.4g} m3/h lies {side} point of the curve, {speed * end * 3600:.4g} m3/h: its end is drawn on straight."
        )
        remedy = "A machine may surge there: recycle some of the flow." if at < flows[0] else "Bring more points of the curve, or a larger machine."
        findings.append(Finding("caution", "", text, remedy, "curve"))
    return CurvePoint(flow, head, share, tuple(findings), _pictures(flows * speed, heads * speed**2, shares, flow, head))


def _between(x: Vector, y: Vector, at: float) -> float:
    from scipy.interpolate import PchipInterpolator

    if len(x) == 2:
        return float(y[0] + (at - x[0]) * (y[1] - y[0]) / (x[1] - x[0]))
    curve = PchipInterpolator(x, y)
    edge = float(np.clip(at, x[0], x[-1]))
    return float(curve(edge) + (at - edge) * curve.derivative()(edge))


def _pictures(flows: Vector, heads: Vector, shares: Vector | None, flow: float, head: float) -> tuple[Diagram, ...]:
    over = Axis("volume flow at the suction", "volume_flow")
    grid = np.linspace(min(flows[0], flow), max(flows[-1], flow), 60)
    drawn = line("head", [grid, [_between(flows, heads, q) for q in grid]])
    mark = Mark("works here", (flow, head))
    found = [Diagram("Head over flow", (over, Axis("head", "head")), (drawn, line("points", [flows, heads], "points")), (mark,))]
    if shares is not None:
        drawn = line("efficiency", [grid, [np.clip(_between(flows, shares, q), 0.0, 1.0) for q in grid]])
        found.append(Diagram("Efficiency over flow", (over, Axis("efficiency", "fraction")), (drawn, line("points", [flows, shares], "points"))))
    return tuple(found)
