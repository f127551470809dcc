"""What a column is built of: stages, pressures, feeds, condenser, reboiler and draws, brought to one mole of feed."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from wattaxis.properties import FlashError
from wattaxis.properties.state import Vector

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel
    from wattaxis.reactions import Kinetics

Array = NDArray[np.float64]
#: Condensers: all condenses, what leaves is vapour, what leaves is vapour and liquid, all condenses and one of two liquids goes back, none.
TOTAL, PARTIAL, MIXED, DECANTING, NONE = "total", "partial", "mixed", "decanting", "none"
#: The name of what goes back from a decanting condenser.
REFLUX_LINK = "reflux"
#: What a link takes: a share of the liquid or vapour of a stage, or the liquid that goes back from where condensate is decanted.
LIQUID, VAPOUR, DECANTED = "liquid", "vapour", "decanted"
#: Where heat is added or taken at the ends, and names of the products there.
ENDS = CONDENSER, REBOILER = "condenser", "reboiler"
DISTILLATE, OVERHEAD, BOTTOMS = "distillate", "overhead vapour", "bottoms"


class ColumnError(Exception):
    """A column that cannot be calculated: ``text`` says why, ``remedy`` what helps, ``nearest`` the last value that was reached, if any."""

    def __init__(self, text: str, remedy: str = "", nearest: float | None = None) -> None:
        super().__init__(text)
        self.text, self.remedy, self.nearest = text, remedy, nearest


class NoColumnState(ColumnError):
    """A column of which no state as it is wanted was found; with other feeds there may be one.

    ``more`` says that more stages or a larger reflux or boil-up ratio may lead to one.
    """

    def __init__(self, text: str, remedy: str = "", nearest: float | None = None, more: bool = False) -> None:
        super().__init__(text, remedy, nearest)
        self.more = more


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
class PumpAround:
    """Liquid that is taken from stage ``source``, cooled or heated, and given back on stage ``target``; its flow and its duty are wanted by name."""

    name: str
    source: int
    target: int


@dataclass(frozen=True)
class SideStripper:
    """Stages of their own, to which liquid of stage ``source`` runs; their vapour goes to stage ``target``, their liquid is the product ``name``.

    Its stages count on from the last one of the column and of the side strippers before it. What runs to it is wanted as the flow of the
    "draw to" it; the boil-up ratio or the duty of its reboiler, where it has one, by ``name`` as place.
    """

    name: str
    stages: int
    source: int
    target: int
    reboiler: bool = True


@dataclass(frozen=True)
class Reacting:
    """Reactions in the liquids: ``sizes`` (stages,) m3 of liquid, or kg of catalyst, per mol/s of all feeds; 0 where none take place.

    ``times`` (stages,) s is how long the liquid stays where its volume follows from what leaves.
    """

    kinetics: Kinetics
    sizes: Vector
    times: Vector

    @property
    def on(self) -> NDArray[np.intp]:
        """The stages (from 0) that react."""
        return np.flatnonzero((self.sizes > 0.0) | (self.times > 0.0))


@dataclass(frozen=True)
class Free:
    """A value that what is wanted settles: a "duty", or the share of "liquid" or "vapour" that is drawn off; ``stage`` counts from 0."""

    kind: str
    stage: int
    name: str = ""


@dataclass(frozen=True)
class Link:
    """What goes from a stage to another by a way of its own: all, or the share that a free value is, of a phase; stages from 0."""

    name: str
    source: int
    target: int
    phase: str
    share: int | None


@dataclass(frozen=True)
class Product:
    """Where a product is taken: stage from 0, phase, and the place of its share among the free values (None: all of it)."""

    name: str
    stage: int
    phase: str
    share: int | None


@dataclass(frozen=True)
class Section:
    """Stages one above the other, from ``first`` to ``last`` (from 0): those of the column, or of the side stripper ``name``."""

    name: str
    first: int
    last: int
    reboiler: bool


@dataclass(frozen=True)
class Layout:
    """A column per mole of all feeds: ``feed`` (stages, components), ``feed_heat`` and ``duties`` (stages,) J/mol, ``P`` (stages,) Pa."""

    model: PropertyModel
    P: Vector
    feed: Array
    feed_heat: Vector
    duties: Vector
    #: (stages, components).
    efficiencies: Array
    condenser: str
    reboiler: bool
    subcooling: float
    free: tuple[Free, ...]
    products: tuple[Product, ...]
    links: tuple[Link, ...]
    #: The column itself first, then its side strippers.
    sections: tuple[Section, ...]
    #: mol/s of all feeds.
    whole: float
    #: What rises: "vapour", or the lighter "liquid" of an extraction column.
    light: str = "vapour"
    reacting: Reacting | None = None
    #: J/(mol K) that each stage gives to its surroundings (stages,), and their temperature (K).
    leaks: Vector | None = None
    surroundings: float = 298.15
    #: Which of the two liquids of a decanting condenser goes back, "light" or "heavy".
    back: str = ""
    #: Whether liquids are looked at as parting in two.
    parting: bool = False
    #: Share of what circulates through the reboiler that is vaporised; 0 where all liquid that leaves is in equilibrium with the vapour.
    vaporised: float = 0.0

    @property
    def stages(self) -> int:
        """Number of stages, condenser, reboiler and side strippers among them."""
        return len(self.P)

    @property
    def main(self) -> int:
        """Number of stages of the column itself."""
        return self.sections[0].last + 1

    @cached_property
    def last_ones(self) -> tuple[int, ...]:
        """The stages (from 0) below which another section begins."""
        return tuple(section.last for section in self.sections[:-1])

    @property
    def total(self) -> bool:
        """Whether all vapour condenses on the first stage."""
        return self.condenser in (TOTAL, DECANTING)

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

    def product(self, name: str) -> Product | Link:
        """A product, or what goes from stage to stage, by name. Raises ColumnError that names the products there are."""
        there: list[Product | Link] = [*self.products, *self.links]
        for found in there:
            if found.name == name:
                return found
        raise ColumnError(f'The column has no product "{name}".', f"Choose one of {', '.join(p.name for p in self.products)}.")
