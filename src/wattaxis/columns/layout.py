"""What a column is built of: stages, pressures, feeds, condenser, reboiler and draws, brought to one mole of feed."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from wattaxis.properties import FlashError
from wattaxis.properties.state import Vector

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel

Array = NDArray[np.float64]
#: Condensers: all condenses, what leaves is vapour, what leaves is vapour and liquid, none.
TOTAL, PARTIAL, MIXED, NONE = "total", "partial", "mixed", "none"
#: Names of the products at the ends.
DISTILLATE, OVERHEAD, BOTTOMS = "distillate", "overhead vapour", "bottoms"


class ColumnError(Exception):
    """A column that cannot be calculated: ``text`` says why, ``remedy`` what helps, ``nearest`` the last value that was reached, if any."""

    def __init__(self, text: str, remedy: str = "", nearest: float | None = None) -> None:
        super().__init__(text)
        self.text, self.remedy, self.nearest = text, remedy, nearest


class NoColumnState(ColumnError):
    """A column of which no state as it is wanted was found; with other feeds there may be one."""


@dataclass(frozen=True)
class ColumnFeed:
    """What comes in on a stage (1 is the highest): ``flows`` (components,) mol/s with their enthalpy flow (W)."""

    stage: int
    flows: Vector
    enthalpy_flow: float


@dataclass(frozen=True)
class SideDraw:
    """A product from a stage between the ends, of its ``phase`` "liquid" or "vapour", by the name under which it is wanted."""

    name: str
    stage: int
    phase: str = "liquid"


@dataclass(frozen=True)
class Free:
    """A value that what is wanted settles: a "duty", or the share of "liquid" or "vapour" that is drawn off; ``stage`` counts from 0."""

    kind: str
    stage: int


@dataclass(frozen=True)
class Product:
    """Where a product is taken: stage from 0, phase, and the place of its share among the free values (None: all of it)."""

    name: str
    stage: int
    phase: str
    share: int | None


@dataclass(frozen=True)
class Layout:
    """A column per mole of all feeds: ``feed`` (stages, components), ``feed_heat`` and ``duties`` (stages,) J/mol, ``P`` (stages,) Pa."""

    model: PropertyModel
    P: Vector
    feed: Array
    feed_heat: Vector
    duties: Vector
    efficiencies: Vector
    condenser: str
    reboiler: bool
    subcooling: float
    free: tuple[Free, ...]
    products: tuple[Product, ...]
    #: mol/s of all feeds.
    whole: float

    @property
    def stages(self) -> int:
        """Number of stages, condenser and reboiler among them."""
        return len(self.P)

    @property
    def total(self) -> bool:
        """Whether all vapour condenses on the first stage."""
        return self.condenser == TOTAL

    @property
    def boils(self) -> bool:
        """Whether there is a condenser or a reboiler, so that flows follow from them and temperatures from boiling points."""
        return self.condenser != NONE or self.reboiler

    @property
    def wanted(self) -> int:
        """How many things may, and have to, be wanted of the column."""
        return len(self.free) - self.total

    @cached_property
    def fed_liquid(self) -> tuple[tuple[float, float | None], ...]:
        """By stage: moles of liquid in what is fed there, and its temperature (K) where there is something with a state."""
        found = list[tuple[float, float | None]]()
        for flows, heat, pressure in zip(self.feed, self.feed_heat, self.P, strict=True):
            total = float(flows.sum())
            if not total > 0.0:
                found.append((0.0, None))
                continue
            try:
                state = self.model.flash(flows, P=float(pressure), H=float(heat) / total)
                found.append((total * (1.0 - state.vapour_share), state.temperature))
            except FlashError:
                found.append((0.5 * total, None))
        return tuple(found)

    def product(self, name: str) -> Product:
        """A product by name. Raises ColumnError that names those there are."""
        for found in self.products:
            if found.name == name:
                return found
        raise ColumnError(f'The column has no product "{name}".', f"Choose one of {', '.join(p.name for p in self.products)}.")


def lay_out(
    model: PropertyModel,
    stages: int,
    pressures: Vector,
    feeds: Sequence[ColumnFeed],
    *,
    condenser: str = TOTAL,
    reboiler: bool = True,
    draws: Sequence[SideDraw] = (),
    duties: Mapping[int, float] | None = None,
    efficiencies: float | Vector = 1.0,
    subcooling: float = 0.0,
) -> Layout:
    """A column as its equations take it. Raises ColumnError for what cannot be built. ``duties``: W by stage from 1; others as of a column."""
    if stages < 1 or (condenser == TOTAL and stages < 2):
        raise ColumnError(f"A column of {stages} stages cannot be built.", "Give two stages or more.")
    whole = sum(float(feed.flows.sum()) for feed in feeds)
    if not whole > 0.0:
        raise ColumnError("Nothing is fed to the column.", "Connect a feed.")
    feed, heat, added = np.zeros((stages, len(model.components))), np.zeros(stages), np.zeros(stages)
    for item in feeds:
        _on_stage(item.stage, stages, "A feed")
        feed[item.stage - 1] += item.flows / whole
        heat[item.stage - 1] += item.enthalpy_flow / whole
    for stage, duty in (duties or {}).items():
        _on_stage(stage, stages, "A duty")
        added[stage - 1] += duty / whole
    free, products = list[Free](), list[Product]()
    if condenser != NONE:
        free.append(Free("duty", 0))
    if condenser in (TOTAL, MIXED):
        products.append(Product(DISTILLATE, 0, "liquid", len(free)))
        free.append(Free("liquid", 0))
    if condenser != TOTAL:
        products.append(Product(OVERHEAD, 0, "vapour", None))
    for draw in draws:
        _on_stage(draw.stage, stages, f"The draw {draw.name}")
        inside = draw.stage > 1 if draw.phase == "vapour" else draw.stage < stages
        if not inside:
            raise ColumnError(f"The {draw.phase} of stage {draw.stage} is a product of its own already.", "Take it from another stage.")
        products.append(Product(draw.name, draw.stage - 1, draw.phase, len(free)))
        free.append(Free(draw.phase, draw.stage - 1))
    products.append(Product(BOTTOMS, stages - 1, "liquid", None))
    if reboiler:
        free.append(Free("duty", stages - 1))
    shares = np.ones(stages) * efficiencies
    ends = [0] * (condenser != NONE) + [stages - 1]
    shares[ends] = 1.0
    return Layout(
        model, np.asarray(pressures, dtype=float), feed, heat, added, shares, condenser, reboiler, subcooling, tuple(free), tuple(products), whole
    )


def _on_stage(stage: int, stages: int, what: str) -> None:
    if not 1 <= stage <= stages:
        raise ColumnError(f"{what} is on stage {stage}, and the column has stages 1 to {stages}.", "Choose a stage of the column.")
