"""A staged column without a document: what it is built of, what is wanted of it, and the state that answers."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from wattaxis.columns.layout import BOTTOMS, TOTAL, ColumnFeed, Layout, SideDraw, lay_out
from wattaxis.columns.wants import Binder, Want
from wattaxis.properties.state import Vector

if TYPE_CHECKING:
    from wattaxis.columns.equations import Unknowns
    from wattaxis.properties import PropertyModel

Array = NDArray[np.float64]


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
    ``liquid`` and ``vapour`` are what leaves a stage, what is drawn off included; no vapour leaves a condenser in which all of it condenses.
    ``products`` by name; ``worst`` is what is left of the equations, over all feeds and their heat; ``log`` says how it was found.
    """

    T: Vector
    P: Vector
    liquid: Vector
    vapour: Vector
    x: Array
    y: Array
    K: Array
    duties: Vector
    products: Mapping[str, ColumnProduct]
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
        return float(self.vapour[-1] / self.liquid[-1])


class StagedColumn:
    """Stages in equilibrium one above the other, from the condenser (stage 1, where there is one) to the reboiler.

    ``pressure``: Pa, of all stages, of the first and the last, or of each. ``condenser``: "total", "partial" (what leaves is vapour), "mixed" (vapour
    and liquid) or "none". ``efficiencies``: of Murphree for the vapour, of all or of each stage; condenser, reboiler and the lowest stage are in
    equilibrium. ``duties``: W added by stage. ``subcooling``: K by which the liquid of a total condenser is colder than it boils.

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
        duties: Mapping[int, float] | None = None,
        efficiencies: float | Vector = 1.0,
        subcooling: float = 0.0,
    ) -> None:
        given = np.atleast_1d(np.asarray(pressure, dtype=float))
        P = given if len(given) == stages else np.linspace(given[0], given[-1], max(stages, 1))
        self.layout: Layout = lay_out(
            model,
            stages,
            P,
            feeds,
            condenser=condenser,
            reboiler=reboiler,
            draws=draws,
            duties=duties,
            efficiencies=efficiencies,
            subcooling=subcooling,
        )

    @property
    def wanted(self) -> int:
        """How many things have to be wanted of it."""
        return self.layout.wanted

    def estimate(self, wants: Sequence[Want]) -> dict[str, Vector]:
        """Flows (components,) mol/s of every product by which the search for a state begins; together they are what is fed.

        Raises ColumnError for wants that say nothing of it.
        """
        from wattaxis.columns.start import begin  # late: it loads the kernels

        binder, lay = Binder(self.layout), self.layout
        at = begin(lay, [binder.named(want) for want in wants])
        found, left = dict[str, Vector](), lay.feed.sum(axis=0)
        for product in lay.products[:-1]:
            share = 1.0 if product.share is None else float(at.free[product.share])
            taken = np.minimum(share * (at.liquid if product.phase == "liquid" else at.vapour)[product.stage], left)
            found[product.name], left = lay.whole * taken, left - taken
        return {**found, BOTTOMS: lay.whole * left}

    def solve(self, wants: Sequence[Want], near: ColumnState | None = None, *, brief: bool = False) -> ColumnState:
        """The state in which it is as it is wanted; ``near`` may change how fast it is found, and ``brief`` gives up sooner.

        Raises ColumnError where none was found.
        """
        from wattaxis.columns.equations import Equations  # late: they load the kernels
        from wattaxis.columns.solver import search

        binder = Binder(self.layout)
        wants = [binder.named(want) for want in wants]
        unknowns, log = search(self.layout, wants, None if near is None else near.unknowns, brief)
        looked = Equations(self.layout, [binder.bound(want) for want in wants]).look(unknowns)
        lay, whole = self.layout, self.layout.whole
        L, V = unknowns.liquid.sum(axis=1), unknowns.vapour.sum(axis=1)
        liquid, vapour = looked.phases
        equations = Equations(lay, ())
        enthalpies = {"liquid": equations.liquid_enthalpy(unknowns, liquid), "vapour": vapour.enthalpy}
        products = {}
        for product in lay.products:
            share = 1.0 if product.share is None else float(unknowns.free[product.share])
            flows = whole * share * (unknowns.liquid if product.phase == "liquid" else unknowns.vapour)[product.stage]
            T = float(unknowns.T[product.stage]) - (lay.subcooling if product.stage == 0 and product.phase == "liquid" else 0.0)
            heat = float(flows.sum() * enthalpies[product.phase][product.stage])
            products[product.name] = ColumnProduct(flows, T, float(lay.P[product.stage]), product.phase, product.stage + 1, heat)
        rising = whole * V
        if lay.total:
            rising[0] = 0.0
        x, y = unknowns.liquid / L[:, None], unknowns.vapour / V[:, None]
        duties = whole * equations.duties(unknowns.free)
        return ColumnState(
            unknowns.T, lay.P, whole * L, rising, x, y, looked.K, duties, products, looked.worst, tuple(log.lines), log.looks, unknowns
        )
