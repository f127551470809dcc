"""What would do where a purity is not reached: how many stages more, how much more reflux or boil-up; found by trying, within a budget."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from wattaxis.columns.equations import Unknowns
from wattaxis.columns.fewer import may_have_others, stretched, with_stages
from wattaxis.columns.layout import ColumnError, Layout
from wattaxis.columns.solver import search
from wattaxis.columns.wants import BOIL_UP, REFLUX, STAGE_FLOW, TEMPERATURE, Want
from wattaxis.properties import FlashError

#: How many times the stages, and the ratio, that are tried; stages at most.
_STAGES, _RATIOS, _MOST = (1.25, 1.5, 2.0, 3.0, 4.0), (1.25, 1.5, 2.0, 3.0, 5.0, 10.0), 200
#: Looks at the equations for one try; how nearly a ratio is found.
_LOOKS, _NEAR = 250, 0.02


@dataclass(frozen=True)
class Advice:
    """What was tried from ``now`` stages on: the fewest ``stages`` that reached what is wanted, and the least ``ratio``; None where none did.

    ``tried_stages`` and ``tried_ratio`` are the most that were tried, None where nothing was.
    """

    now: int
    stages: int | None
    ratio: float | None
    ratio_of: str
    tried_stages: int | None
    tried_ratio: float | None

    @property
    def text(self) -> str:
        """In words; blank where nothing was tried."""
        ways = []
        if self.stages is not None:
            more = self.stages - self.now
            ways.append(f"at least {more} more stage{'s' if more > 1 else ''} ({self.stages} in all, feeds at the same height)")
        if self.ratio is not None:
            ways.append(f"a {self.ratio_of} above {self.ratio:.3g}")
        if ways:
            return f"Give {' or '.join(ways)}, or a target that is nearer."
        tried = [f"{self.tried_stages} stages"] if self.tried_stages is not None else []
        tried += [f"a {self.ratio_of} of {self.tried_ratio:.3g}"] if self.tried_ratio is not None else []
        return f"Not with {' nor with '.join(tried)} either; give a target that is nearer." if tried else ""


def advise(layout: Layout, wants: Sequence[Want]) -> Advice:
    """Try more stages, and more of a reflux or boil-up ratio among what is wanted."""
    stages = tried = ratio = most = None
    on_stages = any(want.kind in (TEMPERATURE, STAGE_FLOW) for want in wants)
    if may_have_others(layout) and not on_stages and layout.stages < _MOST:
        counts = sorted({min(round(layout.stages * times) + 1, _MOST) for times in _STAGES})
        tried = counts[-1]
        stages = _fewest(layout, wants, counts)
    place = next((k for k, want in enumerate(wants) if want.kind in (REFLUX, BOIL_UP) and not want.place), None)
    if place is not None:
        most = wants[place].value * _RATIOS[-1]
        ratio = _least(layout, wants, place)
    return Advice(layout.stages, stages, ratio, wants[place].kind if place is not None else "", tried, most)


def _fewest(layout: Layout, wants: Sequence[Want], counts: Sequence[int]) -> int | None:
    low, state = layout.stages, None
    for high in counts:
        if (state := _reached(with_stages(layout, high), wants)) is not None:
            break
        low = high
    if state is None:
        return None
    while high - low > 1:
        middle = (low + high) // 2
        found = _reached(with_stages(layout, middle), wants, stretched(state, middle))
        low, high, state = (low, middle, found) if found is not None else (middle, high, state)
    return high


def _least(layout: Layout, wants: Sequence[Want], place: int) -> float | None:
    def reached(value: float, near: Unknowns | None) -> Unknowns | None:
        return _reached(layout, [want.at(value) if k == place else want for k, want in enumerate(wants)], near)

    now = low = wants[place].value
    for times in _RATIOS:
        high = now * times
        if (state := reached(high, None)) is not None:
            break
        low = high
    else:
        return None
    while high - low > _NEAR * high:
        middle = 0.5 * (low + high)
        found = reached(middle, state)
        low, high, state = (low, middle, found) if found is not None else (middle, high, state)
    return high


def _reached(layout: Layout, wants: Sequence[Want], near: Unknowns | None = None) -> Unknowns | None:
    try:
        return search(layout, wants, near, most=_LOOKS)[0]
    except (ColumnError, FlashError):
        return None
