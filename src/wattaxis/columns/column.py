"""A staged column without a document: what it is built of, what is wanted of it, and the state that answers."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from wattaxis.columns.layout import (
    BOTTOMS,
    DECANTED,
    DECANTING,
    DISTILLATE,
    NONE,
    REFLUX_LINK,
    TOTAL,
    ColumnError,
    ColumnFeed,
    Layout,
    Link,
    Product,
    PumpAround,
    Reacting,
    SideDraw,
    SideStripper,
)
from wattaxis.columns.parts import Parts, on_stage
from wattaxis.columns.wants import Binder, Want
from wattaxis.properties.state import Vector

if TYPE_CHECKING:
    from wattaxis.columns.advice import Advice
    from wattaxis.columns.derivatives import ColumnDerivatives
    from wattaxis.columns.equations import Unknowns
    from wattaxis.properties import PropertyModel
    from wattaxis.reactions import Kinetics

Array = NDArray[np.float64]
#: A value that any want may have.
_ANY = 0.5


@dataclass(frozen=True)
class ColumnProduct:
    """What leaves: ``flows`` (components,) mol/s, ``T`` K, ``P`` Pa, ``phase``, its stage (from 1) and its enthalpy flow (W)."""

    flows: Vector
    T: float
    P: float
    phase: str
    stage: int
    enthalpy_flow: float


@dataclass(frozen=True)
class ColumnState:
    """A column that is as it is wanted, stage by stage from the top, in SI.

    ``T`` K, ``P`` Pa, ``liquid`` and ``vapour`` mol/s, each (stages,); ``x``, ``y`` and ``K`` (stages, components); ``duties`` (stages,) W added.
    ``light_shares`` (stages,) is the mole share of the lighter liquid in all liquid of a stage, 1 where there is one liquid alone; ``x`` is of both.
    ``losses`` (stages,) W go to the surroundings, ``extents`` (stages, reactions) mol/s are what reacts.
    ``liquid`` and ``vapour`` are what leaves a stage, what is drawn off included; no vapour leaves a condenser in which all of it condenses.
    ``products`` by name, and what goes from stage to stage by pump-arounds and side strippers as ``links``; the stages of side strippers come after
    the ``main`` ones of the column itself. ``worst`` is what is left of the equations, over all feeds and their heat; ``log`` says how it was found.
    """

    T: Vector
    P: Vector
    liquid: Vector
    vapour: Vector
    x: Array
    y: Array
    K: Array
    light_shares: Vector
    duties: Vector
    losses: Vector
    extents: Array
    products: Mapping[str, ColumnProduct]
    links: Mapping[str, ColumnProduct]
    main: int
    worst: float
    log: tuple[str, ...]
    looks: int
    unknowns: Unknowns

    @property
    def reflux_ratio(self) -> float | None:
        """Liquid that goes back from the condenser over what leaves there; None where nothing leaves."""
        out = sum(float(p.flows.sum()) for p in self.products.values() if p.stage == 1)
        drawn = sum(float(p.flows.sum()) for p in self.products.values() if p.stage == 1 and p.phase == "liquid")
        return (float(self.liquid[0]) - drawn) / out if out > 0.0 else None

    @property
    def boil_up_ratio(self) -> float:
        """Vapour from the lowest stage over the liquid that leaves there."""
        return float(self.vapour[self.main - 1] / self.liquid[self.main - 1])


@dataclass(frozen=True)
class Reactions:
    """Reactions in the liquids of stages: ``sizes`` m3 of liquid on each stage, or kg of catalyst where rates count by that; 0: none there.

    ``times``: s that the liquid of each stage stays, which give the volume on it with what leaves it.
    """

    kinetics: Kinetics
    sizes: Sequence[float] | Vector = (0.0,)
    times: Sequence[float] | Vector = (0.0,)


class StagedColumn:
    """Stages in equilibrium one above the other, from the condenser (stage 1, where there is one) to the reboiler.

    ``pressure``: Pa, of all stages, of the first and the last, or of each. ``condenser``: "total", "partial" (what leaves is vapour), "mixed" (vapour
    and liquid), "decanting" (all condenses, parts in two, and ``back``, the "light" or the "heavy" one, goes back while the other leaves) or "none".
    ``draws``, ``pump_arounds`` and ``strippers``: what is taken from the side and where it goes; the flow of each is wanted, the duty of each
    pump-around, and one thing more of each side stripper with a reboiler. ``duties``: W added by stage. ``efficiencies``: of Murphree for the vapour,
    of all, of the first and the last, of each stage, or of each stage and component; condenser, reboiler and the lowest stage are in equilibrium.
    ``subcooling``: K by which the liquid of a total condenser is colder than it boils. ``light``: "liquid" where a second liquid rises in the place
    of a vapour. ``vaporised``: share that becomes vapour of what circulates from the sump through the reboiler; 0: a kettle, or once through.
    ``leaks``: W/K that stages lose to ``surroundings`` (K), all alike or each; not that of a condenser, whose duty holds it.

    Raises ColumnError for what cannot be built.

    >>> from wattaxis import PropertyModel
    >>> model = PropertyModel("ideal", ["benzene", "toluene"])
    >>> boiling = model.flash([0.5, 0.5], P=101325.0, VF=0.0)
    >>> column = StagedColumn(model, [ColumnFeed(8, np.array([50.0, 50.0]), 100.0 * boiling.enthalpy)], stages=16, pressure=101325.0)
    >>> column.wanted
    2
    >>> state = column.solve([Want("fraction", 0.98, "distillate", ("benzene",)), Want("fraction", 0.98, "bottoms", ("toluene",))])
    >>> round(state.reflux_ratio, 2)
    2.05
    """

    def __init__(
        self,
        model: PropertyModel,
        feeds: Sequence[ColumnFeed],
        *,
        stages: int,
        pressure: float | Sequence[float] | Vector,
        condenser: str = TOTAL,
        reboiler: bool = True,
        draws: Sequence[SideDraw] = (),
        pump_arounds: Sequence[PumpAround] = (),
        strippers: Sequence[SideStripper] = (),
        duties: Mapping[int, float] | None = None,
        efficiencies: float | Sequence[float] | Array = 1.0,
        subcooling: float = 0.0,
        light: str = "vapour",
        reactions: Reactions | None = None,
        leaks: float | Sequence[float] | Vector = 0.0,
        surroundings: float = 298.15,
        back: str = "light",
        vaporised: float = 0.0,
    ) -> None:
        if stages < 1 or (condenser in (TOTAL, DECANTING) and stages < 2):
            raise ColumnError(f"A column of {stages} stages cannot be built.", "Give two stages or more.")
        whole = sum(float(feed.flows.sum()) for feed in feeds)
        if not whole > 0.0:
            raise ColumnError("Nothing is fed to the column.", "Connect a feed.")
        parts = Parts(stages, condenser, draws, pump_arounds, strippers, reboiler)
        feed, heat, added = np.zeros((parts.every, len(model.components))), np.zeros(parts.every), np.zeros(parts.every)
        for item in feeds:
            on_stage(item.stage, parts.every, "A feed")
            feed[item.stage - 1] += item.flows / whole
            heat[item.stage - 1] += item.enthalpy_flow / whole
        for stage, duty in (duties or {}).items():
            on_stage(stage, parts.every, "A duty")
            added[stage - 1] += duty / whole
        parts.refuse_dry(feed)
        self._fed = tuple(item.stage - 1 for item in feeds)
        free, made = tuple(parts.free), (tuple(parts.products), tuple(parts.links), tuple(parts.sections))
        P, shares = parts.by_stage(pressure, "pressures"), parts.efficiencies(efficiencies, len(model.components))
        lost, reacting = _lost(parts.by_stage(leaks, "heat losses", 0.0), condenser) / whole, None
        if reactions is not None:
            held = parts.by_stage(reactions.sizes, "hold-ups", 0.0) / whole, parts.by_stage(reactions.times, "residence times", 0.0)
            reacting = Reacting(reactions.kinetics, *held)
            if held[1].any() and reactions.kinetics.per == "catalyst mass":
                raise ColumnError("The rates count by mass of catalyst, and the liquid has residence times.", "Give the catalyst on each stage.")
            if reactions.kinetics.phase != "liquid":
                raise ColumnError("The reactions of a column take place in its liquids.", "Let them be in the liquid.")
        basis = (feed, heat, added, shares, condenser, reboiler, subcooling, free, *made, whole, light)
        self.layout = Layout(model, P, *basis, reacting, lost if lost.any() else None, surroundings)
        if vaporised:
            self._circulate(vaporised)
        if condenser == DECANTING:
            from wattaxis.properties.parted import may_part  # late: it loads the kernels

            if not may_part(model):
                raise ColumnError("The property model knows no second liquid of these components, so nothing is decanted.", "Choose another model.")
            if back not in ("light", "heavy"):
                raise ColumnError(f'Of a decanting condenser the "{back}" liquid is to go back.', 'It is the "light" or the "heavy" one.')
            self.layout = replace(self.layout, back=back, parting=True)

    def _circulate(self, vaporised: float) -> None:
        if not self.layout.reboiler or self.layout.main < 2:
            raise ColumnError("Liquid is to circulate through a reboiler, and the column has none.", "Give it a reboiler, and a stage above it.")
        if not 0.0 < vaporised < 1.0:
            text = f"{100.0 * vaporised:.6g} % of what circulates are to be vaporised."
            raise ColumnError(text, "Give a share above 0 and below 1: 10 to 30 % are usual.")
        self.layout = replace(self.layout, vaporised=vaporised)

    @property
    def wanted(self) -> int:
        """How many things have to be wanted of it."""
        return self.layout.wanted

    def estimate(self, wants: Sequence[Want]) -> dict[str, Vector]:
        """Flows (components,) mol/s of every product by which the search for a state begins; together they are what is fed.

        Raises ColumnError for wants that say nothing of it.
        """
        from wattaxis.columns.carried import decant  # late: they load the kernels
        from wattaxis.columns.start import begin

        binder, lay = Binder(self.layout), self.layout
        at = begin(lay, [binder.named(want) for want in wants])
        found, left = dict[str, Vector](), lay.feed.sum(axis=0)
        for product in lay.products[:-1]:
            share = 1.0 if product.share is None else float(at.free[product.share])
            taken = share * (at.liquid if product.phase == "liquid" else at.vapour)[product.stage]
            if lay.back and product.name == DISTILLATE:
                taken = taken - decant(lay, at).carried().flows
            taken = np.minimum(taken, left)
            found[product.name], left = lay.whole * taken, left - taken
        return {**found, BOTTOMS: lay.whole * left}

    def measured(self, want: Want, state: ColumnState) -> float:
        """What a state of this column has of a want, whatever its value, in SI. Raises ColumnError for one that says nothing of it."""
        binder = Binder(self.layout)
        bound = binder.bound(binder.named(want).at(_ANY))
        return binder.unbound(bound, bound.now(state.unknowns))

    def derivatives(self, wants: Sequence[Want], state: ColumnState) -> ColumnDerivatives:
        """How products, temperatures and duties change with every feed and every want, at the ``state`` in which it is as it is wanted.

        Raises ColumnError where the state does not tell it.

        >>> from wattaxis import PropertyModel
        >>> model = PropertyModel("ideal", ["benzene", "toluene"])
        >>> heat = 100.0 * model.flash([0.5, 0.5], P=101325.0, VF=0.0).enthalpy
        >>> column = StagedColumn(model, [ColumnFeed(8, np.array([50.0, 50.0]), heat)], stages=16, pressure=101325.0)
        >>> wants = [Want("reflux ratio", 2.0), Want("flow", 50.0, "distillate")]
        >>> slopes = column.derivatives(wants, column.solve(wants))
        >>> by_reflux = slopes.flows["distillate"][:, 3]  # behind two components and the heat of the feed
        >>> by_reflux.round(2) + 0.0
        array([ 1.22, -1.22])
        """
        from wattaxis.columns.derivatives import derivatives  # late: it loads the kernels

        lay = replace(self.layout, parting=self.layout.parting or bool((state.light_shares < 1.0).any()))
        binder = Binder(lay)
        return derivatives(lay, [binder.bound(binder.named(want)) for want in wants], state.unknowns, self._fed)

    def advise(self, wants: Sequence[Want]) -> Advice:
        """What would lead to a state as it is wanted, where there is none: more stages, or a larger ratio."""
        from wattaxis.columns.advice import advise  # late: it loads the kernels

        binder = Binder(self.layout)
        return advise(self.layout, [binder.named(want) for want in wants])

    def solve(self, wants: Sequence[Want], near: ColumnState | None = None, *, brief: bool = False, most: int | None = None) -> ColumnState:
        """The state in which it is as it is wanted; ``near`` may change how fast it is found.

        ``brief`` leaves out the long ways, ``most`` is how often the equations are looked at before the search is given up. Raises ColumnError where
        none was found.
        """
        from wattaxis.columns.equations import Equations  # late: they load the kernels
        from wattaxis.columns.solver import search

        binder = Binder(self.layout)
        wants = [binder.named(want) for want in wants]
        unknowns, log, lay = search(self.layout, wants, None if near is None else near.unknowns, brief, most)
        looked = Equations(lay, [binder.bound(want) for want in wants]).look(unknowns)
        whole = lay.whole
        L, V = unknowns.liquid.sum(axis=1), unknowns.vapour.sum(axis=1)
        liquid, vapour = looked.phases
        equations = Equations(lay, ())
        enthalpies = {"liquid": equations.liquid_heats(unknowns, liquid) / L, "vapour": vapour.enthalpy}

        def taken(of: Product | Link, stage: int) -> ColumnProduct:
            share = 1.0 if of.share is None else float(unknowns.free[of.share])
            flows = whole * share * (unknowns.liquid if of.phase == "liquid" else unknowns.vapour)[stage]
            T = float(unknowns.T[stage]) - (lay.subcooling if stage == 0 and of.phase == "liquid" else 0.0)
            return ColumnProduct(flows, T, float(lay.P[stage]), of.phase, stage + 1, float(flows.sum() * enthalpies[of.phase][stage]))

        products = {product.name: taken(product, product.stage) for product in lay.products}
        links = {link.name: taken(link, link.source) for link in lay.links if link.phase != DECANTED}
        if looked.decanted is not None:
            back = looked.decanted.carried()
            left, heat = unknowns.liquid[0] - back.flows, float(L[0] * enthalpies["liquid"][0]) - back.heat
            T, first = float(unknowns.T[0]) - lay.subcooling, float(lay.P[0])
            products[DISTILLATE] = ColumnProduct(whole * left, T, first, "liquid", 1, whole * heat)
            links[REFLUX_LINK] = ColumnProduct(whole * back.flows, T, first, "liquid", 1, whole * back.heat)
        rising = whole * V
        if lay.total:
            rising[0] = 0.0
        x, y = unknowns.liquid / L[:, None], unknowns.vapour / V[:, None]
        duties = whole * equations.duties(unknowns.free)
        flows = (whole * L, rising, x, y, looked.K, _light_shares(lay, unknowns.T, x))
        found = (unknowns.T, lay.P, *flows, duties, *_elsewhere(lay, unknowns.T, x, L))
        return ColumnState(*found, products, links, lay.main, looked.worst, tuple(log.lines), log.looks, unknowns)


def _lost(given: Vector, condenser: str) -> Vector:
    """Without what the duty of a condenser holds."""
    found = given.copy()
    if condenser != NONE:
        found[0] = 0.0
    return found


def _light_shares(layout: Layout, T: Vector, x: Array) -> Vector:
    """Mole share of the lighter liquid in that of every stage, 1 where there is but one."""
    if not layout.parting:
        return np.ones(layout.stages)
    from wattaxis.properties.parted import parted_rows  # late: it loads the kernels

    parted = parted_rows(layout.model, T, layout.P, x)
    return np.where(parted.parts, parted.light.sum(axis=1), 1.0)


def _elsewhere(layout: Layout, T: Vector, x: Array, L: Vector) -> tuple[Vector, Array]:
    """W that stages lose to their surroundings, and mol/s of each reaction that take place on them."""
    lost = np.zeros(layout.stages) if layout.leaks is None else layout.whole * layout.leaks * (T - layout.surroundings)
    if layout.reacting is None:
        return lost, np.zeros((layout.stages, 0))
    from wattaxis.columns.reacting import rates_on  # late: it loads the kernels

    return lost, layout.whole * rates_on(layout, T, x, L)
