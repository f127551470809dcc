"""The same column with fewer stages: a sharp front, which may lie anywhere among many, has few places there; that state begins the next one."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

import numpy as np

from wattaxis.columns.equations import Array, Unknowns
from wattaxis.columns.layout import Layout

#: Stages of the shortest column, and by which the number grows from one to the next.
_SHORTEST, _LONGER = 6, 2


def shorter(layout: Layout) -> Iterator[Layout]:
    """Columns of ever more stages up to half of those that there are; none of a column with links or reactions, which hang on their stages."""
    if not may_have_others(layout):
        return
    numbers = list[int]()
    number = layout.stages // _LONGER
    while number >= _SHORTEST:
        numbers.append(number)
        number //= _LONGER
    for number in reversed(numbers):
        yield with_stages(layout, number)


def may_have_others(layout: Layout) -> bool:
    """Whether all that is on its stages may move with their number: not links, reactions and losses."""
    return not layout.links and layout.reacting is None and layout.leaks is None


def with_stages(layout: Layout, number: int) -> Layout:
    """With so many stages, fewer or more: what is on one goes to the one at the same height."""
    N = layout.stages
    place = np.rint(np.arange(N) * (number - 1) / (N - 1)).astype(int)
    at = np.linspace(0.0, N - 1.0, number)
    inside = np.rint(at).astype(int)
    inside[1:-1] = np.clip(inside[1:-1], 1, max(N - 2, 1))  # the ends may be stages of their own

    def gathered(values: Array) -> Array:
        found = np.zeros((number, *values.shape[1:]))
        np.add.at(found, place, values)
        return found

    return replace(
        layout,
        P=np.interp(at, np.arange(N), layout.P),
        feed=gathered(layout.feed),
        feed_heat=gathered(layout.feed_heat),
        duties=gathered(layout.duties),
        efficiencies=layout.efficiencies[inside],
        free=tuple(replace(free, stage=int(place[free.stage])) for free in layout.free),
        products=tuple(replace(product, stage=int(place[product.stage])) for product in layout.products),
        sections=(replace(layout.sections[0], last=number - 1),),
    )


def stretched(at: Unknowns, stages: int) -> Unknowns:
    """A state over more stages, flows by their logarithms."""
    heights, own = np.linspace(0.0, len(at.T) - 1.0, stages), np.arange(len(at.T))

    def flows(of: Array) -> Array:
        return np.asarray(np.exp(np.column_stack([np.interp(heights, own, np.log(np.maximum(part, 1e-300))) for part in of.T])))

    return Unknowns(flows(at.liquid), flows(at.vapour), np.interp(heights, own, at.T), at.free)
