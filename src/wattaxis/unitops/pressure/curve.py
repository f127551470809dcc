"""Curves of pumps, compressors and expanders: head and efficiency over the volume flow at the suction, as a maker's sheet gives them."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

import numpy as np

from wattaxis.properties.state import Vector
from wattaxis.quantities import Quantity
from wattaxis.quantities.quantity import dimension_si
from wattaxis.unitops.base import GRAVITY, Field, Finding, StreamState, UnitFault
from wattaxis.unitops.profile import Profile, ProfileMark, column
from wattaxis.unitops.table import Column, GivenTable

if TYPE_CHECKING:
    from wattaxis.unitops.base import Givens

MOST_POINTS = 60
FLOW, HEAD = Column("flow", "Flow", "volume_flow", unit="m3/h"), Column("head", "Head", "head")
SHARE = Column("efficiency", "Efficiency", "fraction", "blank in all rows, or given in all", unit="%")


def curve_field(help: str, head_unit: str) -> Field:
    """The field of a curve: points of volume flow, head and perhaps efficiency, as the maker's sheet has them."""
    return Field("curve", "Curve", "table", help, known=True, columns=(FLOW, replace(HEAD, unit=head_unit), SHARE), most=MOST_POINTS)


def has_efficiency(curve: GivenTable) -> bool:
    """Whether a curve says what the efficiency is."""
    return any(SHARE.key in row.cells for row in curve.rows)


def curve_points(curve: GivenTable) -> tuple[Vector, Vector, Vector | None]:
    """Flows (m3/s, rising), heads (J/kg) and efficiencies (or None) of the complete rows. Raises QuantityError."""
    flows, shares = curve.si(FLOW), curve.si(SHARE)
    # A head in metres is an energy by mass.
    in_metres = [isinstance(q := row.cells.get(HEAD.key), Quantity) and dimension_si(q, HEAD.kind) == "m" for row in curve.rows]
    heads = curve.si(HEAD) * np.where(in_metres, GRAVITY, 1.0)
    whole = np.isfinite(flows) & np.isfinite(heads)
    if has_efficiency(curve):
        whole &= np.isfinite(shares)
    order = np.flatnonzero(whole)[np.argsort(flows[whole], kind="stable")]
    return flows[order], heads[order], shares[order] if has_efficiency(curve) else None


@dataclass(frozen=True)
class CurvePoint:
    """Where a machine works on its curve: volume flow m3/s, head J/kg, efficiency (None where the curve has none), what is to be said."""

    flow: float
    head: float
    efficiency: float | None
    findings: tuple[Finding, ...]
    profiles: tuple[Profile, ...]


def working_point(givens: Givens, inlet: StreamState) -> CurvePoint | None:
    """The point of the curve at the suction volume flow, None without a curve. Raises UnitFault.

    Between the points a monotone cubic (Fritsch, Carlson 1980), beyond them straight on. At another speed flows go with it and heads with its
    square (the affinity laws of turbomachines).
    """
    curve: GivenTable | None = givens.raw("curve")
    if curve is None:
        return None
    flows, heads, shares = curve_points(curve)
    if len(flows) < 2 or np.any(np.diff(flows) <= 0.0):
        raise UnitFault("The curve needs two complete points or more, each at another volume flow.", "Complete the table of the curve.", "curve")
    speed = givens.si("speed")
    speed = 1.0 if speed is None else speed
    if speed <= 0.0:
        raise UnitFault("At a speed of zero the machine does not run.", "Give a speed above zero.", "speed")
    if not inlet.state.molar_volume > 0.0:
        raise UnitFault(
            "The property model has no volume for this state, so its operating point on the curve is unknown.", "Give a pressure instead.", "curve"
        )
    flow = inlet.flow * inlet.state.molar_volume
    if not flow > 0.0:
        raise UnitFault(
            "There is no flow through the machine, so it has no operating point on its curve.", "Give a flow at the feed, or a pressure.", "curve"
        )
    at = flow / speed
    head = speed**2 * _between(flows, heads, at)
    share = None if shares is None else float(np.clip(_between(flows, shares, at), 0.0, 1.0))
    if head <= 0.0:
        text = f"At {flow * 3600:.4g} m3/h, beyond the end of the curve at {speed * flows[-1] * 3600:.4g} m3/h, the machine develops no head."
        raise UnitFault(text, "Reduce the flow, raise the speed, or use a larger machine.", "curve")
    findings = []
    if not flows[0] * (1 - 1e-9) <= at <= flows[-1] * (1 + 1e-9):
        side, end = ("below the lowest", flows[0]) if at < flows[0] else ("beyond the highest", flows[-1])
        where = f"{side} point of the curve, {speed * end * 3600:.4g} m3/h"
        text = f"The volume flow of {flow * 3600:.4g} m3/h lies {where}: the curve is extrapolated as a straight line."
        remedy = "A machine may surge there: recycle some of the flow." if at < flows[0] else "Add more points to the curve, or use a larger machine."
        findings.append(Finding("caution", "", text, remedy, "curve"))
    return CurvePoint(flow, head, share, tuple(findings), (_profile(flows * speed, heads * speed**2, shares, flow, head),))


def _between(x: Vector, y: Vector, at: float) -> float:
    from scipy.interpolate import PchipInterpolator

    if len(x) == 2:
        return float(y[0] + (at - x[0]) * (y[1] - y[0]) / (x[1] - x[0]))
    curve = PchipInterpolator(x, y)
    edge = float(np.clip(at, x[0], x[-1]))
    return float(curve(edge) + (at - edge) * curve.derivative()(edge))


def _profile(flows: Vector, heads: Vector, shares: Vector | None, flow: float, head: float) -> Profile:
    grid = np.union1d(np.linspace(min(flows[0], flow), max(flows[-1], flow), 40), flows)
    drawn = [column("head", "Head", "head", [_between(flows, heads, q) for q in grid])]
    marks = [ProfileMark("given", "head", float(q), float(h)) for q, h in zip(flows, heads, strict=True)]
    if shares is not None:
        drawn.append(column("efficiency", "Efficiency", "fraction", [float(np.clip(_between(flows, shares, q), 0.0, 1.0)) for q in grid]))
        marks += [ProfileMark("given", "efficiency", float(q), float(share)) for q, share in zip(flows, shares, strict=True)]
    along = column("flow", "Volume flow at the suction", "volume_flow", grid)
    return Profile("curve", "Curve of the machine", along, tuple(drawn), (*marks, ProfileMark("works here", "head", flow, head)))
