"""Stream copy: the same stream to several alternatives, outside the balance of the plant."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

from wattaxis.unitops.base import Givens, Port, StreamState, UnitOperation, UnitResult, UnitSpec
from wattaxis.unitops.registry import unit_operation

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel

OUTLETS = tuple(f"copy_{k}" for k in range(1, 9))


class StreamCopySpec(UnitSpec):
    """Nothing to give."""


@unit_operation
class StreamCopy(UnitOperation):
    """Every outlet is the whole inlet again."""

    type = "stream-copy"
    title = "Stream copy"
    symbol = "copy"
    letter = "C"
    family = "flow"
    theory = (
        "Every outlet carries the whole inlet: alternatives beside each other on one feed. "
        "Nothing is split, so the balance of the plant leaves it out."
    )
    Spec = StreamCopySpec
    balanced = False
    ports = (
        Port("inlet", "Inlet", "in", place=(0.0, 0.5)),
        *(Port(key, f"Copy {k}", "out", needed=False, place=(1.0, k / (len(OUTLETS) + 1))) for k, key in enumerate(OUTLETS, 1)),
    )

    def solve(self, givens: Givens, inlets: Mapping[str, Sequence[StreamState]], model: PropertyModel, outlets: frozenset[str]) -> UnitResult:
        """The inlet, as often as it is asked for."""
        inlet = inlets["inlet"][0]
        return UnitResult({key: inlet for key in OUTLETS if key in outlets})
