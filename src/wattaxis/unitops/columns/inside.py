"""A first size of what is inside a column: the diameter that its loads need, how near it is to flooding, what its trays cost in pressure."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from wattaxis.columns import ColumnState
from wattaxis.columns.layout import NONE
from wattaxis.equipment.column_inside import (
    HOLE,
    HOLES,
    LIGHT,
    MEASURED,
    PACKINGS,
    SPACINGS,
    WEIR,
    flow_parameter,
    hole_velocity,
    packed_diameter,
    packed_loss,
    packing_flooding,
    tray_diameter,
    tray_flooding,
    tray_loss,
    weep_velocity,
)
from wattaxis.properties.state import Vector
from wattaxis.unitops.base import Finding, Givens, ResultValue, UnitFault
from wattaxis.unitops.columns.built import Built
from wattaxis.unitops.profile import ProfileColumn, column

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel

TRAYS = "sieve trays"
INSIDES = (TRAYS, *PACKINGS)
#: Share of flooding above which a column is near it; m3/(h m) of weir in one pass as a rule.
_NEAR, _WEIR = 0.9, 70.0


@dataclass(frozen=True)
class Loads:
    """What flows through the stages that are sized: places (from 0), m3/s and kg/m3 of both phases, N/m, Pa s, flow parameters."""

    on: tuple[int, ...]
    vapour: Vector
    liquid: Vector
    vapour_density: Vector
    liquid_density: Vector
    tension: Vector
    viscosity: Vector
    parameter: Vector

    @classmethod
    def of(cls, build: Built, state: ColumnState) -> Loads:
        """Of the stages of the column itself between condenser and kettle. Raises UnitFault where a liquid has no volume."""
        first, last = int(build.condenser != NONE), build.stages - int(build.reboiler)
        on = range(first, max(last, first))
        rows = [_stage(build.model, state, j) for j in on]
        if not rows:
            raise UnitFault("No stage lies between condenser and reboiler, and there is nothing to be sized.", "Leave the inside blank.", "inside")
        return cls(tuple(on), *np.array(rows).T)


def _stage(model: PropertyModel, state: ColumnState, j: int) -> tuple[float, ...]:
    T, P, x, y = float(state.T[j]), float(state.P[j]), state.x[j], state.y[j]
    liquid, vapour = model.phase("liquid", T, P, x), model.phase("vapour", T, P, y)
    if not liquid.molar_volume > 0.0:
        raise UnitFault(
            f"The property model gives the liquid of stage {j + 1} no volume.", "Leave the inside blank, or choose another model.", "inside"
        )
    from wattaxis.properties.transport import transport  # late: it loads the kernels

    moved = transport("liquid", T, P, x, model.curves)
    densities = vapour.molar_mass / vapour.molar_volume, liquid.molar_mass / liquid.molar_volume
    masses = state.liquid[j] * liquid.molar_mass, state.vapour[j] * vapour.molar_mass
    parameter = flow_parameter(*masses, densities[1], densities[0])
    flows = masses[1] / densities[0], masses[0] / densities[1]
    return *flows, *densities, moved.surface_tension or 0.0, moved.viscosity, parameter


@dataclass(frozen=True)
class Sized:
    """Values, findings and columns of the profile."""

    values: tuple[ResultValue, ...] = ()
    findings: tuple[Finding, ...] = ()
    columns: tuple[ProfileColumn, ...] = ()


def sized(build: Built, givens: Givens, state: ColumnState) -> Sized:
    """The column with what is inside; nothing where nothing is chosen. Raises UnitFault."""
    inside = givens.option("inside")
    if inside is None:
        return Sized()
    loads, trays = Loads.of(build, state), inside == TRAYS
    flooding = _flooding(loads, givens.si("tray_spacing") or 0.0 if trays else None, inside)
    share, given = givens.si("flooding"), givens.si("diameter")
    if share is not None and not 0.0 < share <= 1.0:
        raise UnitFault("A column is laid out for a load above 0 and up to that at which it floods.", "Give such a share.", "flooding")
    size = tray_diameter if trays else packed_diameter
    needed = [size(float(v), float(u), share or 0.8) for v, u in zip(loads.vapour, flooding, strict=True)]
    diameter = max(needed) if given is None else given
    if not diameter > 0.0:
        raise UnitFault("A column has a diameter above 0.", "Give such a one, or none.", "diameter")
    full = np.array([(size(float(v), float(u), 1.0) / diameter) ** 2 for v, u in zip(loads.vapour, flooding, strict=True)])
    values = [ResultValue("diameter", "Diameter", "length", diameter), ResultValue("flooding", "Load at most", "fraction", float(full.max()))]
    found = [
        column("diameter_needed", "Diameter needed", "length", _spread(build, loads, needed)),
        column("flooding", "Share of flooding", "fraction", _spread(build, loads, full)),
        column("vapour_volume", "Vapour", "volume_flow", _spread(build, loads, loads.vapour), group="Volume flow"),
        column("liquid_volume", "Liquid", "volume_flow", _spread(build, loads, loads.liquid), group="Volume flow"),
    ]
    findings = _doubts(loads, full, trays, givens.si("tray_spacing") or 0.0)
    cost = _trays(build, loads, diameter) if trays else _packing(build, loads, diameter, inside, givens.si("stage_height") or 0.0)
    return Sized((*values, *cost.values), (*findings, *cost.findings), (*found, *cost.columns))


def _trays(build: Built, loads: Loads, diameter: float) -> Sized:
    """What trays lose in pressure, the loads of their weirs, and whether they weep."""
    flows = zip(loads.vapour, loads.liquid, loads.liquid_density, loads.vapour_density, strict=True)
    loss = [tray_loss(float(v), float(q), diameter, float(a), float(b)) for v, q, a, b in flows]
    weep = [hole_velocity(float(v), diameter) / weep_velocity(float(r)) for v, r in zip(loads.vapour, loads.vapour_density, strict=True)]
    columns = (
        column("tray_loss", "Pressure drop of the tray", "pressure_difference", _spread(build, loads, loss)),
        column("weir_load", "Weir load", "weir_load", _spread(build, loads, loads.liquid / (WEIR * diameter))),
        column("weeping", "Hole velocity over weeping velocity", "number", _spread(build, loads, weep)),
    )
    values = (ResultValue("tray_loss", "Pressure drop of the trays", "pressure_difference", sum(loss)),)
    findings = (*_weirs(loads, diameter), *_weeping(loads, np.array(weep)), *_told_drop(build, "The trays cost", sum(loss)))
    return Sized(values, findings, columns)


def _packing(build: Built, loads: Loads, diameter: float, inside: str, height: float) -> Sized:
    """What a packing of this ``height`` (m) per stage loses in pressure, and how high it is. Raises UnitFault."""
    if not height > 0.0:
        raise UnitFault("A packing has a height for each stage.", "Give one above 0, or none.", "stage_height")
    flows = zip(loads.vapour, loads.liquid, loads.viscosity, loads.vapour_density, strict=True)
    loss = [height * packed_loss(float(v), float(q), diameter, PACKINGS[inside], float(mu), float(rho)) for v, q, mu, rho in flows]
    columns = (column("packing_loss", "Pressure drop of the packing", "pressure_difference", _spread(build, loads, loss)),)
    values = (
        ResultValue("packing_height", "Height of the packing", "length", height * len(loads.on)),
        ResultValue("packing_loss", "Pressure drop of the packing", "pressure_difference", sum(loss)),
    )
    findings = _told_drop(build, "The packing costs", sum(loss))
    if (densest := float(loads.vapour_density.max())) > LIGHT:
        text = (
            f"Pressure drops of packings were measured near atmospheric pressure, with vapours up to about {LIGHT:g} kg/m3; here are {densest:.3g}."
        )
        findings.append(Finding("note", "", text, "Take the pressure drop as an estimate.", "inside"))
    return Sized(values, tuple(findings), columns)


def _flooding(loads: Loads, spacing: float | None, inside: str) -> list[float]:
    """m/s at which each stage floods."""
    densities = loads.liquid_density, loads.vapour_density
    if spacing is None:
        rows = zip(loads.parameter, loads.viscosity, *densities, strict=True)
        return [packing_flooding(float(f), PACKINGS[inside], float(mu), float(a), float(b)) for f, mu, a, b in rows]
    if not spacing > 0.0:
        raise UnitFault("Trays lie some way apart.", "Give a spacing above 0.", "tray_spacing")
    return [
        tray_flooding(float(f), spacing, float(s), float(a), float(b)) for f, s, a, b in zip(loads.parameter, loads.tension, *densities, strict=True)
    ]


def _spread(build: Built, loads: Loads, values: list[float] | Vector) -> list[float | None]:
    """By stage, None where nothing is sized."""
    found: list[float | None] = [None] * build.stages
    for j, value in zip(loads.on, values, strict=True):
        found[j] = float(value)
    return found


def _doubts(loads: Loads, full: Vector, trays: bool, spacing: float) -> list[Finding]:
    worst = int(np.argmax(full))
    found = []
    if full[worst] > _NEAR:
        does = "floods" if full[worst] > 1.0 else "is near flooding"
        text = f"Stage {loads.on[worst] + 1} {does}: its vapour comes to {100.0 * full[worst]:.4g} % of what the inside carries."
        found.append(Finding("caution", "", text, "Give a larger diameter, more spacing, or less reflux.", "diameter"))
    if ((loads.parameter < MEASURED[0]) | (loads.parameter > MEASURED[1])).any():
        low, high = float(loads.parameter.min()), float(loads.parameter.max())
        text = f"The flow parameter lies between {low:.3g} and {high:.3g}; flooding was measured from {MEASURED[0]:g} to {MEASURED[1]:g}."
        found.append(Finding("caution", "", text, "Take the diameter as an estimate.", "inside"))
    if trays and not SPACINGS[0] <= spacing <= SPACINGS[1]:
        text = f"A tray spacing of {spacing:.3g} m lies outside what flooding was measured for, {SPACINGS[0]:g} to {SPACINGS[1]:g} m."
        found.append(Finding("caution", "", text, "Take the diameter as an estimate.", "tray_spacing"))
    return found


def _weirs(loads: Loads, diameter: float) -> list[Finding]:
    load = 3600.0 * loads.liquid / (WEIR * diameter)
    worst = int(np.argmax(load))
    if load[worst] <= _WEIR:
        return []
    text = f"Over the weir of stage {loads.on[worst] + 1} go {load[worst]:.3g} m3/h and metre; one pass takes about {_WEIR:g} as a rule."
    return [Finding("note", "", text, "Take trays of two passes, or a packing.", "inside")]


def _weeping(loads: Loads, over: Vector) -> list[Finding]:
    """Whether the vapour holds the liquid on its trays."""
    weeps = np.flatnonzero(over < 1.0)
    if not weeps.size:
        return []
    worst = int(np.argmin(over))
    least = weep_velocity(float(loads.vapour_density[worst]))
    text = f"{len(weeps)} stages weep" if len(weeps) > 1 else "One stage weeps"
    text = f"{text}, stage {loads.on[worst] + 1} most: its vapour goes through the holes at {over[worst] * least:.3g} m/s, and below {least:.3g} m/s "
    text = f"{text}liquid falls through ({HOLE:g} mm holes, {100.0 * HOLES:g} % of the bubbling area)."
    return [Finding("caution", "", text, "Give a smaller diameter, size this section on its own, or give it fewer holes.", "diameter")]


def _told_drop(build: Built, what: str, loss: float) -> list[Finding]:
    """Whether the inside costs about what the column was calculated with; else with that drop as an edit."""
    drop = float(build.P[-1] - build.P[0])
    if abs(loss - drop) <= max(0.5 * loss, 0.02 * float(build.P[0])):
        return []
    text = f"{what} {loss / 1e5:.3g} bar, and the column was calculated with a pressure drop of {drop / 1e5:.3g} bar."
    value = float(f"{loss / 1e2:.3g}")
    edit = {"kind": "set_values", "unit": "", "values": {"pressure_drop": {"value": value, "unit": "mbar"}}}
    by_stage = bool(build.rows("pressures"))
    return [
        Finding(
            "note", "", text, "Give this drop.", "pressure_drop", () if by_stage else (edit,), "" if by_stage else f"Give a drop of {value:g} mbar"
        )
    ]
