"""What a column cannot do: told before it is looked for, and where the way to it ends."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

import numpy as np

from wattaxis.columns.carried import decant
from wattaxis.columns.layout import DISTILLATE, ENDS, NONE, OVERHEAD, REBOILER, ColumnError, Layout, NoColumnState
from wattaxis.columns.wants import BOIL_UP, COMPONENT_RATIO, FLOW, FRACTION, MASS, RECOVERY, REFLUX, STAGE_FLOW, Binder, Bound
from wattaxis.properties import FlashError

if TYPE_CHECKING:
    from wattaxis.columns.equations import Unknowns

#: Components up to which azeotropes are looked for; moles of vapour or liquid on a stage, per mole of feed, that are next to nothing.
_FEW, _DRY = 4, 0.02
#: How near a state comes to an azeotrope that holds it back.
_AT = 1e-3
#: Share by which sums may exceed what is fed.
_SLACK = 1e-9


def refuse(layout: Layout, bound: Sequence[Bound]) -> None:
    """Raises ColumnError for wants that no column meets, whatever its stages: too many or few, one twice, more than is fed."""
    wants = [b.want for b in bound]
    given = len(wants)
    sides = sum(free.name not in (DISTILLATE, *ENDS) for free in layout.free)
    if given != layout.wanted:
        more = f", {sides} of them for side draws, pump-arounds and side strippers" if sides else ""
        text = f"The column takes {layout.wanted} specifications{more}, and {given} are given."
        raise ColumnError(text, "Give as many as it takes.")
    if layout.reacting is None and int((layout.feed.sum(axis=0) > 0.0).sum()) < 2:
        raise ColumnError("One component alone is fed, and there is nothing to part it from.", "Use a drum, a heater or a valve.")
    for k, want in enumerate(wants):
        if any(want.at(0.0) == other.at(0.0) for other in wants[:k]):
            raise ColumnError(f"The {want.text} is specified twice.", "Clear one of the two.")
        if want.kind in (REFLUX, BOIL_UP, FLOW, STAGE_FLOW) and not want.value > 0.0:
            text = f"The {want.text} is to be {want.value:.6g}: a phase would be gone, and no stage parts anything."
            raise ColumnError(text, "Give more than 0.")
    _refuse_flows(layout, bound)


def _refuse_flows(layout: Layout, bound: Sequence[Bound]) -> None:
    mass = layout.model.molar_masses
    fed = layout.feed.sum(axis=0)
    ids = [c.id for c in layout.model.components]
    names = {product.name for product in layout.products}
    whole = [b.want for b in bound if b.want.kind == FLOW and not b.want.components and b.want.basis != MASS and b.want.product in names]
    if len(whole) == len(layout.products):
        text = "The flows of all products are specified, and the last one follows from the others."
        raise ColumnError(text, "Specify something else in the place of one of them.")
    taken = sum(want.value for want in whole) / layout.whole
    if layout.reacting is not None:
        return  # reactions may make more of it
    if taken > 1.0 - _SLACK:
        said = " and ".join(f"{want.value:.5g} mol/s in the {want.product}" for want in whole)
        raise ColumnError(f"{said} are specified, and {layout.whole:.5g} mol/s are fed.", "Take less, so that something is left for the rest.")
    for want in (b.want for b in bound if b.want.kind == FRACTION):
        rate = next((other.value / layout.whole for other in whole if other.product == want.product), None)
        chosen = np.array([name in want.components for name in ids])
        if rate is None or want.basis == MASS:
            continue
        most = float(fed[chosen].sum()) / rate
        if want.value > most * (1.0 + _SLACK):
            text = f"The {want.text} is to be {want.value:.6g}: of what is fed it comes to {most:.6g} at most in so large a product."
            raise ColumnError(text, "Take less of the product, or want less of it.", most)
    for want in (b.want for b in bound if b.want.kind == FLOW and b.want.components):
        chosen = np.array([name in want.components for name in ids])
        most = float((fed * chosen * (mass if want.basis == MASS else 1.0)).sum()) * layout.whole
        if want.product in names and want.value > most * (1.0 + _SLACK):
            raise ColumnError(f"The {want.text} is to be {want.value:.6g}, and {most:.6g} of it are fed.", "Want less.", most)


def unreached(layout: Layout, binder: Binder, failed: Bound, settled: Sequence[Bound], others: Sequence[Bound], at: Unknowns) -> NoColumnState:
    """How far the way to a want led, and what may be in the way: a phase that vanishes, an azeotrope. ``others`` are wanted too, and came not yet."""
    want, now = failed.want, binder.unbound(failed, failed.now(at))
    beside = " and ".join(f"a {b.want.text} of {b.want.value:.6g}" for b in settled)
    with_what = f" with {beside}" if beside else ""
    if not np.isfinite(now):
        text = f"The {want.text} is wanted, and that product has none in the last state that was found: no liquid boils there."
        return NoColumnState(text, "Give another temperature or pressure, at which a liquid boils.")
    text = f"The {want.text} of {want.value:.6g} was not reached{with_what}: the last state that was found has {now:.6g}."
    pure = want.components if want.kind in (FRACTION, RECOVERY) else ()
    between = (0.0, 1.0)
    if want.kind == FRACTION and want.basis != MASS:
        # What goes over the top tends towards an azeotrope of the lowest boiling point, from whichever side.
        between = (0.0 if want.product in (DISTILLATE, OVERHEAD) else now, want.value)
    across, remedy = _azeotropes(layout, pure, between), "Stay on this side of it, or part it another way: another pressure, a solvent, two columns."
    if across and between != (0.0, 1.0):
        return NoColumnState(f"{text} {across}", remedy, now)
    more = any(b.want.kind in (FRACTION, RECOVERY, COMPONENT_RATIO) for b in (failed, *settled, *others))
    if dry := _dry(layout, at):
        return NoColumnState(f"{text} {dry}", "Give more reflux or boil-up, or a target that is nearer.", now, more)
    if azeotrope := across or _azeotropes(layout, pure, (0.0, 1.0)):
        return NoColumnState(f"{text} {azeotrope}", remedy, now)
    return NoColumnState(text, "Give more stages or more reflux, or a target that is nearer.", now, more)


def hopeless(layout: Layout, bound: Sequence[Bound], risen: float, start: Unknowns) -> NoColumnState:
    """Why not even easy targets lead to a state, where ``risen`` moles of vapour are fed per mole of all feeds and the search began at ``start``."""
    if layout.light == "liquid":
        text = "No two liquids were found on the stages: as a rule one dissolves all of the other, or nothing parts them."
        return NoColumnState(text, "Give more solvent or another temperature, and look whether the property model knows two liquids.")
    values = {(b.want.kind, b.want.product): b.want.value for b in bound if not b.want.components}
    ratio = values.get((REFLUX, ""))
    top = sum(value for (kind, product), value in values.items() if kind == FLOW and product in (DISTILLATE, OVERHEAD)) / layout.whole
    if ratio is not None and 0.0 < (1.0 + ratio) * top < risen + _DRY:
        text = f"A reflux ratio of {ratio:.4g} lets {(1.0 + ratio) * top * layout.whole:.4g} mol/s of vapour reach the condenser, and "
        text += f"{risen * layout.whole:.4g} mol/s are fed as vapour: below the feed none would rise."
        return NoColumnState(text, "Give more reflux or a larger product at the top, or cool the feed.")
    if not _boils(layout):
        bar = float(np.median(layout.P)) / 1e5
        text = f"At {bar:.4g} bar the feed has no state of liquid beside vapour: the column would work above its critical point."
        return NoColumnState(text, "Give a lower pressure.")
    if ratio is not None and (heat := spared(layout, start)) > 0.0:
        text = f"The feeds bring {heat * layout.whole / 1e3:.4g} kW more than a reflux ratio of {ratio:.4g} and such products take out: the reboiler "
        return NoColumnState(f"{text}would have to be cooled.", "Give more reflux or a larger product at the top, or cool the feed.")
    for product in layout.products:
        drawn = values.get((FLOW, product.name), 0.0)
        above = layout.feed[: product.stage + 1].sum() == 0.0
        if (
            ratio is not None
            and product.name not in (DISTILLATE, OVERHEAD)
            and product.phase == "liquid"
            and above
            and drawn > ratio * top * layout.whole
        ):
            text = f"{drawn:.4g} mol/s of liquid are to be drawn from stage {product.stage + 1}, and a reflux ratio of {ratio:.4g} sends "
            text += f"{ratio * top * layout.whole:.4g} mol/s down to it."
            return NoColumnState(text, "Draw less, give more reflux, or draw vapour.")
    if layout.back and not decant(layout, start).parts:
        text = "No state of the column was found in which the condensate parts in two: by the estimate with which the search began it is one liquid."
        return NoColumnState(text, "Let it be a total condenser, subcool it, let the other liquid go back, or feed more of what parts.")
    if dry := _dry(layout, start):
        text = f"No state of the column was found. In the estimate with which the search began: {dry[0].lower()}{dry[1:]}"
        return NoColumnState(text, "Draw less, give more reflux or boil-up, or cool less.")
    text = "No state of the column was found: as a rule a section has hardly any vapour or liquid then."
    return NoColumnState(text, "Look at feeds, pressures and stages; begin with a reflux ratio and the flow of a product.")


def spared(layout: Layout, start: Unknowns) -> float:
    """J/mol by which the reboiler of a column with a condenser would have to be cooled, by the balance over all of it; 0 where it is heated."""
    from wattaxis.columns.equations import HEAT, Equations  # late: they load the kernels

    place = next((k for k, free in enumerate(layout.free) if free.name == REBOILER), None)
    if place is None or layout.condenser == NONE:
        return 0.0
    found = Equations(layout, ()).look(start)
    left = float(found.heats[1 if layout.total else 0 :].sum()) + (float(found.others[0]) if layout.total else 0.0)
    return max(-(float(start.free[place]) + HEAT * left), 0.0)


def _boils(layout: Layout) -> bool:
    """Whether the feeds together have a liquid beside a vapour at the pressure of the column."""
    for share in (0.5, 0.1, 0.9):
        try:
            layout.model.flash(layout.feed.sum(axis=0), P=float(np.median(layout.P)), VF=share)
        except FlashError:
            continue
        return True
    return False


def _dry(layout: Layout, at: Unknowns) -> str:
    """Where next to nothing flows."""
    L, V = at.liquid.sum(axis=1), at.vapour.sum(axis=1)
    inner = slice(1 if layout.total else 0, None)
    up, down = int(np.argmin(V[inner])) + (1 if layout.total else 0), int(np.argmin(L))
    if V[up] < _DRY:
        return f"Hardly any vapour rises from stage {up + 1}: it condenses on the way."
    return f"Stage {down + 1} runs dry: hardly any liquid leaves it." if L[down] < _DRY else ""


def _azeotropes(layout: Layout, components: Sequence[str], between: tuple[float, float]) -> str:
    """The azeotrope of components that a purity speaks of, with a share of them between two."""
    there = [c.id for c, flow in zip(layout.model.components, layout.feed.sum(axis=0), strict=True) if flow > 0.0]
    if not components or len(there) > _FEW:
        return ""
    from wattaxis.properties.diagrams import azeotropes  # late: it loads what only diagrams need

    found = azeotropes(layout.model.part_of(there), float(np.median(layout.P)))
    for point in found.azeotropes:
        share = sum(float(x) for name, x in zip(there, point.fractions, strict=True) if name in components)
        if 0.0 < share < 1.0 and min(between) - _AT < share < max(between) + _AT:
            of = " and ".join(components)
            article = "a" if point.kind.startswith("h") else "an"
            return f"There is {article} {point.kind} at {point.temperature:.5g} K, with a mole fraction of {of} of {share:.4f}."
    return ""
