"""Diagrams in a composition triangle: two liquids with tie lines at a temperature, residue curves with azeotropes at a pressure."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from scipy.integrate import LSODA

from wattaxis.progress import portion, reached
from wattaxis.properties.diagrams.boiling import Boiler
from wattaxis.properties.diagrams.chart import Array, Axis, Curve, Diagram, Mark
from wattaxis.properties.diagrams.singular import AzeotropeSearch, SingularPoint, azeotropes
from wattaxis.properties.errors import FlashError
from wattaxis.properties.model import PropertyModel
from wattaxis.properties.state import Vector

_LIQUIDS_ONLY = 1e9  # Pa; the liquids of an activity model do not depend on the pressure
_SQUARE = np.array([[0.0, 0.0], [1.0, 0.0], [0.5, np.sqrt(0.75)]])  # corners of the triangle on paper


def _three_of(model: PropertyModel, components: Sequence[str] | None) -> PropertyModel:
    three = model if components is None else model.part_of(components)
    if len(three.components) != 3:
        raise ValueError(f"A triangle takes three components, not {len(three.components)}.")
    return three


def _axes(model: PropertyModel) -> tuple[Axis, ...]:
    return tuple(Axis(c.name) for c in model.components)


def liquid_liquid_diagram(model: PropertyModel, T: float, components: Sequence[str] | None = None, P: float = 101325.0) -> Diagram:
    """The two-liquid region of three components at ``T`` (K): binodal, tie lines and plait point. A vapour beside the liquids is not looked for.

    Followed tie line by tie line from each edge that parts, with smaller steps towards the plait point; where no edge does, from the inside of a
    region that touches none (an island, with a plait point at either end). ``P`` (Pa) matters to equations of state.
    Raises ValueError unless there are three components.

    >>> model = PropertyModel("unifac", ["water", "acetone", "toluene"])
    >>> [curve.name for curve in liquid_liquid_diagram(model, 298.15).curves[:2]]
    ['two liquids', 'tie line']
    """
    three = _three_of(model, components)
    pressure = _LIQUIDS_ONLY if not three.equation_of_state else P
    curves: list[Curve] = []
    marks: list[Mark] = []
    reached: list[int] = []
    for third in range(3):
        if third in reached:
            continue
        ties = _tie_lines(three, T, pressure, third)
        if not ties:
            continue
        closed = bool(np.abs(ties[-1][0] - ties[-1][1]).max() < 0.03)
        if not closed:
            last = 0.5 * (ties[-1][0] + ties[-1][1])
            reached += [i for i in range(3) if last[i] < 0.005]
        border = np.vstack([np.array([t[0] for t in ties]), *([] if closed else [np.full((1, 3), np.nan)]), np.array([t[1] for t in ties])[::-1]])
        curves.append(Curve("two liquids", border))
        curves += [Curve("tie line", np.array(tie), "dashed") for tie in ties[:: max(1, len(ties) // 12)]]
        if closed:
            marks.append(Mark("plait point", tuple(float(v) for v in 0.5 * (ties[-1][0] + ties[-1][1]))))
    notes: tuple[str, ...] = ()
    if not curves:
        curves, marks, notes = _island(three, T, pressure)
    elif _three_liquids(three, T, pressure):
        notes = ("Somewhere inside three liquids coexist: the tie lines there join the two that fit best.",)
    title = f"Two liquids of {', '.join(c.name for c in three.components)} at {T:g} K, {three.family.info.title}"
    return Diagram(title, _axes(three), tuple(curves), tuple(marks), notes)


#: Compositions of the inside of a triangle, evenly spread.
_INSIDE = [np.array([i, j, 16 - i - j]) / 16.0 for i in range(1, 15) for j in range(1, 16 - i)]


def _island(model: PropertyModel, t: float, p: float) -> tuple[list[Curve], list[Mark], tuple[str, ...]]:
    """A two-liquid region that touches no edge: border, tie lines and both plait points; or that there is none."""
    start = next((tie for z in _INSIDE if (tie := _tie(model, z, t, p)) is not None), None)
    if start is None:
        return [], [], ("No two of these components form two liquids at this temperature.",)
    along = start[1] - start[0]
    aside = np.array([1.0, 1.0, 1.0]) / 3.0 + np.cross(np.ones(3), along)  # across the tie line, in the plane of the triangle
    ways = [_followed(model, t, p, start, sign * aside) for sign in (1.0, -1.0)]
    ties = [*ways[1][::-1], *ways[0][1:]]
    border = np.vstack([np.array([tie[0] for tie in ties]), np.array([tie[1] for tie in ties])[::-1], ties[0][0][None, :]])
    lines = [Curve("tie line", np.array(tie), "dashed") for tie in ties[:: max(1, len(ties) // 12)]]
    marks = [Mark("plait point", tuple(float(v) for v in 0.5 * (way[-1][0] + way[-1][1]))) for way in ways]
    return [Curve("two liquids", border), *lines], marks, ("The two-liquid region lies inside: no two of the components separate without the third.",)


def _three_liquids(model: PropertyModel, t: float, p: float) -> bool:
    """Whether more than two liquids coexist somewhere inside."""
    for z in _INSIDE:
        try:
            if model.flash(z, T=t, P=p).left_out:
                return True
        except FlashError:
            continue
    return False


def _tie(model: PropertyModel, z: Vector, t: float, p: float) -> tuple[Vector, Vector] | None:
    try:
        state = model.flash(z, T=t, P=p)
    except FlashError:
        return None
    return (state.liquid_fractions.copy(), state.vapour_fractions.copy()) if state.two_liquids else None


def _tie_lines(model: PropertyModel, t: float, p: float, third: int) -> list[tuple[Vector, Vector]]:
    """Tie lines from the edge without component ``third`` to the plait point or to another edge."""
    first, second = (i for i in range(3) if i != third)
    for share in np.linspace(0.025, 0.975, 39):
        z = np.zeros(3)
        z[first], z[second] = share, 1.0 - share
        tie = _tie(model, z, t, p)
        if tie is not None:
            return _followed(model, t, p, tie, np.eye(3)[third])
    return []


def _followed(model: PropertyModel, t: float, p: float, tie: tuple[Vector, Vector] | None, towards: Vector) -> list[tuple[Vector, Vector]]:
    """Tie lines from a first one on, ``towards`` a composition (perhaps outside the triangle), to the plait point or to an edge."""
    ties: list[tuple[Vector, Vector]] = []
    step = 0.02
    while tie is not None and step > 1e-4 and len(ties) < 200:
        if ties and np.abs(tie[0] - ties[-1][0]).max() > np.abs(tie[0] - ties[-1][1]).max():
            tie = tie[1], tie[0]
        ties.append(tie)
        middle, along = 0.5 * (tie[0] + tie[1]), tie[1] - tie[0]
        across = towards - middle
        across -= along * float(across @ along) / float(along @ along)
        across /= np.abs(across).max()
        tie = None
        while tie is None and step > 1e-4:
            z = middle + step * across
            if z.min() < 0.0:
                if middle.min() < 1e-6:
                    break
                z = np.maximum(z, 1e-9)
            tie = _tie(model, z / z.sum(), t, p)
            if tie is None:
                step *= 0.5
        if ties[-1][0].min() < 1e-7 and len(ties) > 1:
            break
    return ties


def residue_curve(model: PropertyModel, P: float, through: Sequence[float] | Vector, boiler: Boiler | None = None) -> Array:
    """The residue curve ``dx/ds = x - y`` through a liquid composition, both ways, shape (points, components), from the hottest end to the coldest.

    Raises FlashError where that liquid does not boil at ``P`` (Pa).

    >>> curve = residue_curve(PropertyModel("ideal", ["n-pentane", "n-hexane", "n-heptane"]), 101325.0, [1, 1, 1])
    >>> [round(float(x), 2) for x in curve[-1]]
    [1.0, 0.0, 0.0]
    """
    boiler = boiler or Boiler(model, P, 1e-8)
    start = np.asarray(through, dtype=float) / np.sum(through)
    boiler.at(start)

    def field(_s: float, x: Vector) -> Vector:
        liquid = np.maximum(x, 1e-14)
        liquid = liquid / liquid.sum()
        return np.asarray(liquid - boiler.at(liquid).vapour)

    parts = []
    for sign in (1.0, -1.0):
        run = LSODA(lambda s, x, sign=sign: sign * field(s, x), 0.0, start, 40.0, max_step=1.0, rtol=1e-4, atol=1e-6)
        points = [start]
        try:
            while run.status == "running":
                run.step()
                points.append(np.maximum(run.y, 0.0) / np.maximum(run.y, 0.0).sum())
                if np.abs(points[-1] - points[-2]).max() < 2e-4 * run.step_size:
                    break  # a node is reached
        except FlashError:
            pass  # the curve ends where the mixture does not boil at this pressure
        parts.append(np.array(points))
    return np.vstack([parts[0][::-1], parts[1][1:]])


def residue_curve_map(
    model: PropertyModel, P: float, components: Sequence[str] | None = None, *, curves: int = 18, through: Sequence[Sequence[float]] = ()
) -> Diagram:
    """Residue curves of three components at ``P`` (Pa) with their azeotropes, nodes, saddles and distillation boundaries.

    ``curves`` of them are placed where the triangle is emptiest; ``through`` adds one through each of these compositions. Boundaries are the residue
    curves that leave or reach a saddle across the edges. Raises ValueError unless there are three components.

    >>> model = PropertyModel("unifac", ["acetone", "chloroform", "methanol"])
    >>> diagram = residue_curve_map(model, 101325.0, curves=4)
    >>> sum(curve.name == "boundary" for curve in diagram.curves)
    4
    """
    three = _three_of(model, components)
    boiler = Boiler(three, P, 1e-8)
    with portion(0.0, 0.4):
        search = azeotropes(three, P)
    lines = [_boiling("boundary", points, boiler) for point in search.azeotropes for points in _boundaries(three, P, boiler, point)]
    lines += [_boiling("through a point", residue_curve(three, P, place, boiler), boiler) for place in through]
    steps = np.arange(1, 20) / 20.0
    candidates = np.array([(a, b, 1.0 - a - b) for a in steps for b in steps if a + b < 0.999])
    taken = [curve.points for curve in lines] + [np.array([p.fractions]) for p in search.points]
    for k in range(curves):
        reached(0.4 + 0.6 * k / curves)
        place = _emptiest(candidates, np.vstack(taken))
        try:
            points = residue_curve(three, P, place, boiler)
        except FlashError:
            points = place[None, :]
        taken.append(np.vstack([points, place]))
        if len(points) > 2:
            lines.append(_boiling("residue curve", points, boiler))
    title = f"Residue curves of {', '.join(c.name for c in three.components)} at {P / 1e5:g} bar, {three.family.info.title}"
    drawn = sum(line.name == "residue curve" for line in lines)
    short = (f"{curves - drawn} of {curves} curves are missing: such mixtures do not boil at this pressure.",) if drawn < curves else ()
    return Diagram(title, _axes(three), tuple(lines), _marks(search), (*search.notes, *short))


def _boiling(name: str, points: Array, boiler: Boiler) -> Curve:
    """A curve of boiling liquids with the temperature of each."""

    def temperature(x: Vector) -> float:
        try:
            return boiler.at(np.maximum(x, 1e-14)).temperature
        except FlashError:
            return math.nan

    return Curve(name, points, temperatures=np.array([temperature(x) for x in points]))


def _marks(search: AzeotropeSearch) -> tuple[Mark, ...]:
    return tuple(Mark(p.kind, tuple(map(float, p.fractions)), p.stability, p.temperature) for p in search.points)


def _emptiest(candidates: Array, taken: Array) -> Vector:
    """The candidate farthest from every point taken, as distances look on paper."""
    gaps = candidates[:, None, :] @ _SQUARE - taken[None, :, :] @ _SQUARE
    return np.asarray(candidates[int(np.argmax((gaps**2).sum(axis=2).min(axis=1)))])


def _boundaries(model: PropertyModel, p: float, boiler: Boiler, point: SingularPoint) -> list[Array]:
    """The residue curves that reach or leave a saddle inside the triangle."""
    if point.stability != "saddle":
        return []
    x = point.fractions
    starts = []
    absent = np.flatnonzero(x < 1e-12)
    if len(absent) == 1:
        inward = np.full(3, -0.5)
        inward[absent[0]] = 1.0
        starts.append(x + 2e-3 * inward)
    elif len(absent) == 0:
        matrix = np.empty((2, 2))
        for k in range(2):
            h = np.zeros(3)
            h[k], h[2] = 1e-5, -1e-5
            both = [(x + s * h - boiler.at(x + s * h).vapour)[:2] for s in (1.0, -1.0)]
            matrix[:, k] = (both[0] - both[1]) / 2e-5
        _values, vectors = np.linalg.eig(matrix)
        for k in range(2):
            direction = np.append(vectors[:, k].real, -vectors[:, k].real.sum())
            starts += [x + 2e-3 * direction, x - 2e-3 * direction]
    found = []
    for start in starts:
        points = residue_curve(model, p, start, boiler)
        # Both ways from the start: the half that runs back to the saddle is replaced by the saddle itself.
        here = int(np.argmin(((points - start) ** 2).sum(axis=1)))
        one, two = points[: here + 1], points[here:]
        longer = one[::-1] if np.ptp(one, axis=0).max() > np.ptp(two, axis=0).max() else two
        found.append(np.vstack([x, longer]))
    return found
