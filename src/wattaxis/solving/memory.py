"""Earlier unit results, found again by the content they came from."""

from __future__ import annotations

import hashlib
from collections import OrderedDict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Literal

import numpy as np

from wattaxis.flowsheet import Chemistry, Unit
from wattaxis.unitops import StreamState, UnitResult
from wattaxis.unitops.base import EnergyState


@dataclass(frozen=True)
class Closure:
    """How a loop was closed: its unknowns, and how its residual and what came back changed together from pass to pass.

    ``matrix`` is d returned / d sent out, where a difference was taken in every unknown.
    """

    unknowns: np.ndarray
    slopes: tuple[tuple[np.ndarray, np.ndarray], ...]
    #: Hash of what the loop was closed for: the givens of its units and what enters it.
    key: bytes = b""
    matrix: np.ndarray | None = None


@dataclass(frozen=True)
class Met:
    """How aims were met: the values of the freed givens, the slopes there, and what counts as one in each aim."""

    found: np.ndarray
    slope: np.ndarray | None
    size: np.ndarray | None


class Memory:
    """Keeps the last ``size`` unit results. A result is a pure function of its key, so a hit never changes an answer.

    >>> from wattaxis import Document, solve
    >>> memory = Memory()
    >>> solve(Document(), memory=memory).complete, memory.hits
    (False, 0)
    """

    def __init__(self, size: int = 5000) -> None:
        self.size = size
        self.hits = 0
        #: How loops were closed, by their tear streams: where the next search starts.
        self.loops: dict[str, Closure] = {}
        #: How aims were met, by the aims and what they free, likewise; with what was typed for those, and without.
        self.aims: dict[str, Met] = {}
        #: What units left for their next calculation, by their structure.
        self.hints: dict[str, Any] = {}
        self._results: OrderedDict[bytes, UnitResult] = OrderedDict()

    def branch(self) -> Memory:
        """Another one that begins with all that this one knows; what either learns from then on is its own."""
        found = Memory(self.size)
        found.loops, found.aims, found.hints, found._results = self.loops.copy(), self.aims.copy(), self.hints.copy(), self._results.copy()
        return found

    def get(self, key: bytes) -> UnitResult | None:
        """The result remembered under ``key``, if any."""
        found = self._results.get(key)
        if found is not None:
            self.hits += 1
            self._results.move_to_end(key)
        return found

    def put(self, key: bytes, result: UnitResult) -> None:
        """Remember a result."""
        self._results[key] = result
        if len(self._results) > self.size:
            self._results.popitem(last=False)


def chemistry_key(chemistry: Chemistry) -> bytes:
    """Hash of what the results of every unit depend on: the chemistry, but for what was measured, what things are worth and what they stand for.

    Reactions are left out too: they count for the units that name them.
    """
    components = tuple(c.model_copy(update={"price": None, "stands_for": ""}) for c in chemistry.components)
    chemistry = chemistry.model_copy(update={"data": (), "fits": (), "reactions": (), "components": components})
    return hashlib.sha256(repr(chemistry).encode()).digest()


#: What a unit is calculated for: the answer, a search for what meets aims, or a pass through a loop.
Purpose = Literal["answer", "search", "draft"]


def given_key(unit: Unit, chemistry: bytes, shared: str = "") -> bytes:
    """Hash of what a unit's result depends on beside its inlets: its type and givens, the chemistry by its key, and what it ``shared``."""
    return hashlib.sha256(chemistry + f"{unit.tag}|{unit.type}|{unit.model}|{unit.spec!r}|{shared}".encode()).digest()


def content_key(
    given: bytes,
    inlets: Mapping[str, Sequence[StreamState]],
    energy: Mapping[str, Sequence[EnergyState]],
    outlets: frozenset[str],
    purpose: Purpose,
) -> bytes:
    """Hash of what a unit's result depends on: givens, inlet states, the energy that comes in, which outlets are connected, its purpose."""
    digest = hashlib.sha256(given)
    digest.update(f"{sorted(outlets)}|{purpose}".encode())
    for port in sorted(energy):
        digest.update(f"{port}{energy[port]!r}".encode())
    for port in sorted(inlets):
        digest.update(port.encode())
        for stream in inlets[port]:
            state = stream.state
            digest.update(
                f"{state.model.kind}|{stream.flow!r}|{state.temperature!r}|{state.pressure!r}|{state.light_fraction!r}|{state.second_fraction!r}|{state.root!r}".encode()
            )
            digest.update(state.fractions.tobytes() + state.liquid_fractions.tobytes() + state.vapour_fractions.tobytes())
            digest.update(state.second_liquid_fractions.tobytes())
    return digest.digest()
