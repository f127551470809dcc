"""What the parts of a column bring with them: condenser, draws, pump-arounds, side strippers, reboiler."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from wattaxis.columns.layout import (
    BOTTOMS,
    CONDENSER,
    DECANTED,
    DECANTING,
    DISTILLATE,
    MIXED,
    NONE,
    OVERHEAD,
    REBOILER,
    REFLUX_LINK,
    TOTAL,
    Array,
    ColumnError,
    Free,
    Link,
    Product,
    PumpAround,
    Section,
    SideDraw,
    SideStripper,
)
from wattaxis.properties.state import Vector


class Parts:
    """What the parts of a column bring with them: products, links, free values, sections."""

    def __init__(
        self,
        stages: int,
        condenser: str,
        draws: Sequence[SideDraw],
        pump_arounds: Sequence[PumpAround],
        strippers: Sequence[SideStripper],
        reboiler: bool,
    ) -> None:
        self.stages, self.condenser = stages, condenser
        self.free, self.products, self.links = list[Free](), list[Product](), list[Link]()
        self.sections = [Section("", 0, stages - 1, reboiler)]
        self._condense()
        for draw in draws:
            self._draw(draw)
        for pump in pump_arounds:
            self._pump(pump)
        for stripper in strippers:
            self._strip(stripper)
        self.products.append(Product(BOTTOMS, stages - 1, "liquid", None))
        if reboiler:
            self.free.append(Free("duty", stages - 1, REBOILER))
        names = [free.name for free in self.free if free.kind != "duty"]
        if len(set(names)) < len(names):
            raise ColumnError("Two draws, pump-arounds or side strippers have the same name.", "Give each one of its own.")

    @property
    def every(self) -> int:
        """Number of stages, those of side strippers among them."""
        return self.sections[-1].last + 1

    def _condense(self) -> None:
        if self.condenser != NONE:
            self.free.append(Free("duty", 0, CONDENSER))
        if self.condenser in (TOTAL, MIXED):
            self.products.append(Product(DISTILLATE, 0, "liquid", len(self.free)))
            self.free.append(Free("liquid", 0, DISTILLATE))
        if self.condenser == DECANTING:
            self.products.append(Product(DISTILLATE, 0, "liquid", None))
            self.links.append(Link(REFLUX_LINK, 0, 1, DECANTED, None))
        elif self.condenser != TOTAL:
            self.products.append(Product(OVERHEAD, 0, "vapour", None))

    def _draw(self, draw: SideDraw) -> None:
        on_stage(draw.stage, self.stages, f"The draw {draw.name}")
        if draw.stage == 1 and self.condenser == DECANTING:
            raise ColumnError(f"The draw {draw.name} is on stage 1, where the condensate is decanted.", "Take it from another stage.")
        inside = draw.stage > 1 if draw.phase == "vapour" else draw.stage < self.stages
        if not inside:
            raise ColumnError(f"The {draw.phase} of stage {draw.stage} is a product of its own already.", "Take it from another stage.")
        self.products.append(Product(draw.name, draw.stage - 1, draw.phase, len(self.free)))
        self.free.append(Free(draw.phase, draw.stage - 1, draw.name))

    def _pump(self, pump: PumpAround) -> None:
        self._between_stages(pump.source, pump.target, pump.name, "is given back")
        self.links.append(Link(pump.name, pump.source - 1, pump.target - 1, "liquid", len(self.free)))
        self.free += [Free("liquid", pump.source - 1, pump.name), Free("duty", pump.target - 1, pump.name)]

    def _strip(self, stripper: SideStripper) -> None:
        if stripper.stages < 1:
            raise ColumnError(f"The side stripper {stripper.name} has {stripper.stages} stages.", "Give it one or more.")
        self._between_stages(stripper.source, stripper.target, stripper.name, "gives its vapour back")
        first = self.sections[-1].last + 1
        last = first + stripper.stages - 1
        self.sections.append(Section(stripper.name, first, last, stripper.reboiler))
        self.links.append(Link(f"draw to {stripper.name}", stripper.source - 1, first, "liquid", len(self.free)))
        self.links.append(Link(f"vapour of {stripper.name}", first, stripper.target - 1, "vapour", None))
        self.free.append(Free("liquid", stripper.source - 1, f"draw to {stripper.name}"))
        if stripper.reboiler:
            self.free.append(Free("duty", last, stripper.name))
        self.products.append(Product(stripper.name, last, "liquid", None))

    def efficiencies(self, given: float | Sequence[float] | Array, components: int) -> Array:
        """By stage and component; condenser, reboilers and lowest stages are in equilibrium."""
        values = np.asarray(given, dtype=float)
        if values.ndim == 2 and values.shape != (self.stages, components):
            text = f"Efficiencies of {values.shape[1]} components on {values.shape[0]} stages are given."
            raise ColumnError(text, f"Give those of {components} components on {self.stages} stages.")
        columns = values.T if values.ndim == 2 else [values] * components
        found = np.column_stack([self.by_stage(column, "efficiencies", np.inf) for column in columns])
        if (found <= 0.0).any():
            raise ColumnError("A stage efficiency of 0 or less parts nothing.", "Give more than 0.")
        found[[0] * (self.condenser != NONE) + [section.last for section in self.sections]] = 1.0
        found[found == np.inf] = 1.0
        return found

    def by_stage(self, given: float | Sequence[float] | Vector, what: str, beside: float | None = None) -> Vector:
        """Values of all stages from one for all, those of the first and the last, or one each.

        Side strippers have ``beside``, or the value of where they give their vapour back. Raises ColumnError for other numbers of values.
        """
        values = np.atleast_1d(np.asarray(given, dtype=float))
        if len(values) == self.every:
            return values
        if len(values) not in (1, 2, self.stages):
            raise ColumnError(f"{len(values)} {what} are given for {self.stages} stages.", "Give one, two (first and last), or one for each stage.")
        own = values if len(values) == self.stages else np.linspace(values[0], values[-1], self.stages)
        back = {link.source: link.target for link in self.links if link.phase == "vapour"}
        beside_it = [np.full(s.last - s.first + 1, own[back[s.first]] if beside is None else beside) for s in self.sections[1:]]
        return np.concatenate([own, *beside_it])

    def refuse_dry(self, feed: Array) -> None:
        """Raises ColumnError for a side stripper in which nothing rises, of what is fed (stages, components)."""
        for section in self.sections[1:]:
            if not section.reboiler and feed[section.last].sum() == 0.0:
                text = f"In {section.name} nothing rises: it has neither a reboiler nor a feed on its last stage, {section.last + 1}."
                raise ColumnError(text, "Give it a reboiler, or feed it steam.")

    def _between_stages(self, source: int, target: int, name: str, goes: str) -> None:
        name = name[:1].upper() + name[1:]
        on_stage(source, self.stages, name)
        on_stage(target, self.stages, name)
        if source == self.stages or (source == 1 and self.condenser != NONE):
            raise ColumnError(f"{name} takes its liquid from stage {source}, whose liquid is a product.", "Take it from a stage between the ends.")
        if target == 1 and self.condenser in (TOTAL, DECANTING):
            raise ColumnError(f"{name} {goes} on stage 1, the condenser.", "Give it back below the condenser.")


def on_stage(stage: int, stages: int, what: str) -> None:
    """Raises ColumnError for a stage that is none of the column."""
    if not 1 <= stage <= stages:
        raise ColumnError(f"{what} is on stage {stage}, and the column has stages 1 to {stages}.", "Choose a stage of the column.")
