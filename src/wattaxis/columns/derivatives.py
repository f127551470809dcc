"""How the products of a column change with what is fed to it and with what is wanted of it, from the slopes of its equations at its state."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from wattaxis.columns.equations import HEAT, Equations, Looked, Unknowns
from wattaxis.columns.layout import BOTTOMS, DISTILLATE, LIQUID, ColumnError, Layout
from wattaxis.columns.wants import DUTY, FLOW, RECOVERY, STAGE_FLOW, Bound
from wattaxis.properties.state import Vector

Array = NDArray[np.float64]


@dataclass(frozen=True)
class ColumnDerivatives:
    """Slopes of what a column gives, all in SI; their last axis counts what is changed.

    That is of each feed, in their order, the flow of every component (mol/s) and then its enthalpy flow (W) with the flows as they are; behind all
    feeds the value of each want. ``flows`` (components, changes) and ``heats`` (changes,) are those of the products by name, ``T`` (stages, changes)
    and ``duties`` (stages, changes) those of the stages.
    """

    flows: Mapping[str, Array]
    heats: Mapping[str, Vector]
    T: Array
    duties: Array


def derivatives(layout: Layout, wants: Sequence[Bound], at: Unknowns, fed: Sequence[int]) -> ColumnDerivatives:
    """By what is fed on the stages ``fed`` (from 0) and by the wants, at a state. Raises ColumnError where the equations tell none."""
    equations = Equations(layout, wants, exact=True)
    found = equations.look(at)
    moved = equations.moves(found, _by_feeds(equations, found, fed, len(wants)), _others(layout, wants, at, fed))
    if moved is None:
        raise ColumnError("The state of the column does not tell how it changes.", "Look at what is wanted of it.")
    C, (stages, free), whole = at.liquid.shape[1], moved, layout.whole
    feeds = len(fed) * (C + 1)
    # All is per mole of feed: slopes by feeds, which are so too, stay what they are.
    scale = np.concatenate([np.ones(feeds), np.full(len(wants), whole)])
    dL, dV, dT = stages[:, :C] * scale, stages[:, C : 2 * C] * scale, stages[:, 2 * C] * scale
    duties = np.zeros((layout.stages, len(scale)))
    for k, given in enumerate(layout.free):
        if given.kind == "duty":
            duties[given.stage] += free[k] * scale
    flows, heats = dict[str, Array](), dict[str, Vector]()
    for product in layout.products:
        liquid, j = product.phase == LIQUID, product.stage
        own, change = (at.liquid[j], dL[j]) if liquid else (at.vapour[j], dV[j])
        phase = found.phases[0 if liquid else 1]
        enthalpy = float((equations.liquid_enthalpy(at, phase) if liquid else phase.enthalpy)[j])
        heat = phase.partial_enthalpies[j] @ change + own.sum() * phase.heat_capacity[j] * dT[j]
        if liquid and j == 0:
            by_flows, warmer = equations.lacking(found)
            heat = heat - by_flows @ change - warmer * dT[j]
        if layout.back and product.name == DISTILLATE and found.decanted is not None:
            back = found.decanted.carried()
            change = change - back.by_flows @ change - back.warmer[:, None] * dT[j]
            heat = heat - back.heat_by_flows @ dL[j] - back.heat_warmer * dT[j]
        share, of_share = (1.0, 0.0 * scale) if product.share is None else (float(at.free[product.share]), free[product.share] * scale)
        flows[product.name] = share * change + np.multiply.outer(own, of_share)
        heats[product.name] = share * heat + float(own.sum()) * enthalpy * of_share
    # What leaves below may be mixed in a sump: it takes what the balance leaves.
    entering = np.concatenate([np.tile(np.eye(1, C + 1, C)[0], len(fed)), np.zeros(len(wants))])
    lost = 0.0 if layout.leaks is None else layout.leaks @ dT
    heats[BOTTOMS] = entering + duties.sum(axis=0) - lost - sum(heat for name, heat in heats.items() if name != BOTTOMS)
    return ColumnDerivatives(flows, heats, dT / whole, duties)


def _by_feeds(equations: Equations, found: Looked, fed: Sequence[int], wants: int) -> Array:
    """By how much the equations of the stages have to change for one more of what is fed."""
    lay, at = equations.layout, found.at
    N, C = at.liquid.shape
    change = np.zeros((N, 2 * C + 1, len(fed) * (C + 1) + wants))
    for k, j in enumerate(fed):
        first = k * (C + 1)
        change[j, :C, first : first + C] = np.eye(C)
        if lay.total and j == 0:
            continue  # the heat of a total condenser stands with what is wanted
        change[j, 2 * C, first + C] = 1.0 / HEAT
        if lay.vaporised > 0.0 and j == lay.main - 1:
            sump = equations.sump(at, found.phases[0])
            change[j, 2 * C, first : first + C] = -sump.by_entering / HEAT
            change[j, 2 * C, first + C] = (1.0 - sump.share) / HEAT
    return change


def _others(layout: Layout, wants: Sequence[Bound], at: Unknowns, fed: Sequence[int]) -> Array:
    """The same of the heat of a total condenser and of what is wanted."""
    C, first = at.liquid.shape[1], int(layout.total)
    change = np.zeros((len(layout.free), len(fed) * (C + 1) + len(wants)))
    if layout.total:
        for k, j in enumerate(fed):
            change[0, k * (C + 1) + C] = 1.0 / HEAT if j == 0 else 0.0
    for k, want in enumerate(wants):
        over, under = want.over(at)[0], want.under(at)[0]
        size = want.size(over, under)
        each = layout.whole if want.want.kind in (FLOW, DUTY, STAGE_FLOW) else 1.0
        change[first + k, len(fed) * (C + 1) + k] = under / (size * each)
        if want.want.kind == RECOVERY and want.fed is not None:
            change[first + k, : len(fed) * (C + 1)] = np.tile(np.append(want.value * want.fed / size, 0.0), len(fed))
    return change
