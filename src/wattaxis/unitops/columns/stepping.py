"""The stages of a column as steps between equilibrium and operating lines (McCabe, Thiele 1925): of two components, or of two keys among several."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from wattaxis.columns import ColumnState
from wattaxis.properties.state import Vector
from wattaxis.unitops.profile import Profile, column

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel

#: Points of the equilibrium curve, and of each step beside its ends; difference of recoveries below which two components are no keys.
_CURVE, _EACH, _APART = 41, 3, 0.05
#: Share of the light key by which it goes back from a stage to the next before that is told.
_BACK = 1e-3
Pairs = NDArray[np.float64]


def keys(state: ColumnState) -> tuple[int, int] | None:
    """Places of the components between which the column parts: of all that leave more at one end, those whose recoveries are nearest. None: none."""
    top = sum((p.flows for p in state.products.values() if p.stage == 1), np.zeros(state.x.shape[1]))
    fed = sum((p.flows for p in state.products.values()), np.zeros(state.x.shape[1]))
    order = np.argsort(-top / fed, kind="stable")
    share = (top / fed)[order]
    middle = float(top.sum() / fed.sum())
    above = int((share > middle).sum())
    if not 0 < above < len(order) or share[above - 1] - share[above] < _APART:
        return None
    return int(order[above - 1]), int(order[above])


def steps(model: PropertyModel, state: ColumnState, ids: list[str]) -> tuple[Profile, ...]:
    """Equilibrium and stages over the liquid's share of the light key in both keys; nothing where the steps do not go one way."""
    found = keys(state)
    if found is None:
        return ()
    light, heavy = found
    x, y = (part[: state.main, light] / (part[: state.main, light] + part[: state.main, heavy]) for part in (state.x, state.y))
    first = 1 if state.vapour[0] == 0.0 else 0  # a condenser in which all condenses is no step
    top = x[0] if first else y[0]
    liquid, vapour = x[first:], y[first:]
    if len(liquid) < 2 or (np.diff(liquid) >= 0.0).any() or (np.diff(vapour) >= 0.0).any():
        return ()
    curve = _curve(model, float(np.median(state.P)), float(np.median(state.T)), np.column_stack((liquid, vapour)), light, state.x.shape[1] == 2)
    along, stair = _staircase(liquid, vapour, float(top))
    name = f"{ids[light]} in {ids[light]} and {ids[heavy]}" if state.x.shape[1] > 2 else ids[light]
    columns = (
        column("steps", "By stages", "fraction", stair, group="Vapour"),
        column("equilibrium", "In equilibrium", "fraction", np.interp(along, *curve.T), group="Vapour"),
        column("alike", "As the liquid", "fraction", along, group="Vapour"),
    )
    return (Profile("stepping", "Steps between equilibrium and operation", column("liquid", f"Liquid, {name}", "fraction", along), columns),)


def misplaced(state: ColumnState, ids: list[str], feed: int) -> str:
    """Where the keys come nearer to each other again on the way to their ends, which a feed on another stage would not do to them; blank: nowhere."""
    found = keys(state)
    if found is None:
        return ""
    light, heavy = found
    own = state.x[: state.main]
    x = own[:, light] / (own[:, light] + own[:, heavy])
    back = np.flatnonzero(np.diff(x) > _BACK) + 1  # stages below which the light key has a larger share
    for stages, where, way in ((back[back < feed], "above", "higher up"), (back[back >= feed], "below", "further down")):
        if len(stages) > 0:
            text = f"{where.capitalize()} the feed the share of {ids[light]} in {ids[light]} and {ids[heavy]} goes back, from stage {stages[-1] + 1} "
            return f"{text}to {stages[0]}: these stages part nothing, and a feed {way} would do better."
    return ""


def _curve(model: PropertyModel, P: float, T: float, pairs: Pairs, light: int, binary: bool) -> Pairs:
    """Vapour over liquid (points, 2), ascending: of two components at a pressure (Pa) from near ``T`` (K), of keys through the stages as they are."""
    ends = np.array([[0.0, 0.0], [1.0, 1.0]])
    through = np.vstack((ends[:1], pairs[::-1], ends[1:]))
    if not binary:
        return through
    x = np.linspace(0.0, 1.0, _CURVE)[1:-1]
    z = np.column_stack((x, 1.0 - x) if light == 0 else (1.0 - x, x))
    from wattaxis.columns.start import boiling  # late: it loads the kernels

    risen = boiling(model, P, z, T)
    return through if risen is None else np.vstack((ends[:1], np.column_stack((x, risen[:, light])), ends[1:]))


def _staircase(liquid: Vector, vapour: Vector, top: float) -> tuple[Vector, Vector]:
    """From the bottoms up: at each stage's liquid up to its vapour, then along to the liquid above; nothing beyond the products."""
    rights = np.append(top, liquid[:-1])
    along, stair = [0.0], [np.nan]
    along += list(np.linspace(0.0, liquid[-1], _CURVE // 4)[1:])
    stair += [np.nan] * (len(along) - 2) + [float(liquid[-1])]
    for x, y, right in zip(liquid[::-1], vapour[::-1], rights[::-1], strict=True):
        between = np.linspace(x, right, _EACH + 2)
        along += list(between)
        stair += [float(y)] * len(between)
    beyond = np.linspace(top, 1.0, _CURVE // 4)[1:]
    return np.array([*along, *beyond]), np.array([*stair, *([np.nan] * len(beyond))])
