"""Splitter: one stream into several of the same state."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

from wattaxis.quantities import Quantity, to_si
from wattaxis.unitops.base import (
    Ask,
    Field,
    Finding,
    Givens,
    Port,
    ResultValue,
    StreamState,
    UnitFault,
    UnitOperation,
    UnitResult,
    UnitSpec,
)
from wattaxis.unitops.registry import unit_operation

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel

OUTLETS = ("outlet_1", "outlet_2", "outlet_3", "outlet_4")


class SplitterSpec(UnitSpec):
    """The share of each branch; one connected branch is left blank and takes the remainder."""

    share_1: Quantity | None = None
    share_2: Quantity | None = None
    share_3: Quantity | None = None
    share_4: Quantity | None = None


@unit_operation
class Splitter(UnitOperation):
    """Branches of equal composition and state."""

    type = "splitter"
    title = "Splitter"
    symbol = "splitter"
    letter = "N"
    also = ("tee", "divider", "purge")
    family = "flow"
    theory = "Every branch has the state of the inlet; the flow is shared out by the given fractions, one branch taking the remainder."
    Spec = SplitterSpec
    ports = (
        Port("inlet", "Inlet", "in", place=(0.0, 0.5)),
        *(Port(key, f"Branch {k}", "out", needed=k < 3, place=(1.0, 0.2 * k)) for k, key in enumerate(OUTLETS, 1)),
    )
    fields = tuple(Field(f"share_{k}", f"Share of branch {k}", "fraction", "blank: the remainder", port=key) for k, key in enumerate(OUTLETS, 1))

    def asks(self, tag: str, spec: UnitSpec, component_ids: Sequence[str], connected: frozenset[str]) -> list[Ask]:
        """All connected branches but one need a share."""
        blank = tuple(f"share_{k}" for k in _connected(connected) if getattr(spec, f"share_{k}") is None)
        if len(blank) <= 1:
            return []
        return [Ask(tag, f"{tag} needs the share of {len(blank) - 1} of its branches; the last takes the remainder.", blank)]

    def barred(self, spec: UnitSpec, component: str, solid: bool) -> frozenset[str]:
        """A branch of share zero carries nothing, nor does the remainder of all."""
        typed = {key: getattr(spec, f"share_{k}") for k, key in enumerate(OUTLETS, 1)}
        shares = {key: to_si(share, "fraction") for key, share in typed.items() if share is not None}
        left = 1.0 - sum(shares.values())
        return frozenset(key for key in OUTLETS if shares.get(key, left) <= 0.0)

    def excess(self, tag: str, spec: UnitSpec, connected: frozenset[str] = frozenset()) -> list[Finding]:
        """Nothing can quarrel before the sum is known; ``solve`` looks at that."""
        return []

    def solve(self, givens: Givens, inlets: Mapping[str, Sequence[StreamState]], model: PropertyModel, outlets: frozenset[str]) -> UnitResult:
        """Share out the flow."""
        inlet = inlets["inlet"][0]
        branches = _connected(outlets)
        shares = {k: givens.si(f"share_{k}") for k in branches}
        given = sum(s for s in shares.values() if s is not None)
        blank = [k for k in branches if shares[k] is None]
        if given > 1.0 + 1e-9 or (not blank and abs(given - 1.0) > 1e-6):
            remedy = "Clear one share: it takes the remainder."
            raise UnitFault(f"The shares sum to {given:.6g}; together the branches carry exactly 1.", remedy, f"share_{branches[-1]}")
        for k in blank:
            shares[k] = max(0.0, 1.0 - given)
        parts = {f"outlet_{k}": StreamState(inlet.flow * float(shares[k] or 0.0), inlet.state) for k in branches}
        values = tuple(ResultValue(f"share_{k}", f"Share of branch {k}", "fraction", float(shares[k] or 0.0)) for k in branches)
        return UnitResult(parts, 0.0, values)


def _connected(outlets: frozenset[str]) -> list[int]:
    return [k for k, key in enumerate(OUTLETS, 1) if key in outlets] or [1, 2]
