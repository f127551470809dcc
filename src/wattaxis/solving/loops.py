"""Recycle loops: tear streams as unknowns, substitution, then Anderson's mixing, then Newton where that is too slow.

Unknowns of a tear stream are its component flows, pressure and molar enthalpy; of a heat or shaft stream its power.
Anderson (1965) in the form of Walker, Ni (2011): differences of
past passes, those of the last time the loop was closed among them, stand for the slopes of the loop. Flows never fall below a tenth of what the loop
returned. Where that is slow, a difference is taken in every unknown, which makes the next step one of Newton's; from then on the slopes are a matrix,
bettered by every pass (Broyden 1965) and kept for the next time the loop is closed. A search for what meets aims, or for the best, takes that matrix
at once: it closes the loop many times.
"""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Any

import numpy as np

from wattaxis.properties import FlashError
from wattaxis.properties.layout import R
from wattaxis.solving.accumulation import no_way_out, purge_finding, trapped
from wattaxis.solving.bracket import bracketed, single_unknown
from wattaxis.solving.calculator import Calculator, failed
from wattaxis.solving.memory import Closure, Memory, Purpose
from wattaxis.solving.plan import Group
from wattaxis.unitops import Finding, StreamState, UnitResult
from wattaxis.unitops.base import Carried, EnergyState

#: Passes through a loop, relative change at which it counts as closed, and what is still accepted when rounding stops it.
MOST, CLOSED, ACCEPTED = 200, 2e-11, 2e-9
#: Differences of passes of this closure that are mixed at most; of all that are remembered; the least size of one that is worth it.
WINDOW, REMEMBERED, WORTH = 10, 30, 1e-8
#: Passes before Newton is tried, at most and at least, and the most unknowns that it is tried with.
PATIENCE, SOONEST, NEWTON_SIZE = 25, 10, 90
#: By how much an unknown is moved for a difference, and the change at which a loop is near enough to its closing for that.
DIFFERENCE, NEAR = 1e-5, 0.1
#: A recycle of so many times the feed of its loop is an accumulation.
RUNAWAY = 1e5
#: J/mol by which a closed circuit is warmed, and share by which more is sent round, to see whether it minds; how little counts as not at all.
WARMER, MORE, NEUTRAL = 20.0, 0.01, 1e-3
#: Change above which a loop of one unknown is closed by bracketing.
FAR = 1e-6
#: Times its feed that a component goes round before it is said that nothing removes it; passes that show where one gathers.
FILLED, FILLING = 30.0, 4


@dataclass
class Loop:
    """How a loop was closed: passes, largest relative change of each, the component that changed most in the last one."""

    units: tuple[str, ...]
    tears: tuple[str, ...]
    history: list[float] = field(default_factory=list)
    slowest: str = ""
    method: str = ""
    findings: list[Finding] = field(default_factory=list)
    streams: dict[str, Carried] = field(default_factory=dict)
    #: What the units gave in the last passes.
    drafts: Memory | None = None

    @property
    def closed(self) -> bool:
        """Whether the tear streams return as they went out."""
        return not self.findings


class _Pass:
    """The map from tear streams to what the loop returns for them."""

    def __init__(self, calculator: Calculator, group: Group, outside: Mapping[str, Carried], hints: dict[str, Any]) -> None:
        self.calculator, self.group, self.outside = calculator, group, dict(outside)
        # Results on the way are worth nothing behind the loop; what units leave for their next calculation is.
        self.memory = Memory(4 * len(group.units) + 20)
        self.memory.hints = hints
        self.n = len(calculator.model.components)
        self.ids = [c.id for c in calculator.model.components]
        self.failure: UnitResult | None = None
        self.feeds = [s for s in self.outside.values() if isinstance(s, StreamState)]
        self.feed = np.sum([s.flows for s in self.feeds], axis=0) if self.feeds else np.zeros(self.n)
        self.inner = calculator.inside(group.units)
        self.left = np.zeros(self.n)
        #: What the units of the loop gave in the last pass.
        self.results: dict[str, UnitResult] = {}
        #: The streams of matter inside the loop in the last pass.
        self.inside_now: dict[str, StreamState] = {}
        #: The last vector of unknowns and its streams.
        self.unpacked: tuple[np.ndarray, dict[str, Carried]] | None = None
        self.charged = calculator.charged_in(group.units)
        #: The closed circuit of each torn stream that lies in one.
        self.circuit_of = {name: c for c in self.charged for name in group.tears if name in c.circuit.streams}
        #: W that each circuit took in or gave off in the last pass.
        self.exchanged: dict[str, float] = {}
        # A power stands where the others have their enthalpy, per mol/s of what enters or goes round, so that it is of the same size.
        self.per_mole = max(float(self.feed.sum()), *(c.flow for c in self.charged), 1e-12)

    def key(self) -> bytes:
        """Hash of what the answer depends on: the givens of the units and what enters."""
        digest = hashlib.sha256(b"".join(self.calculator.given_of(tag) for tag in self.group.units))
        for name, stream in self.outside.items():
            if isinstance(stream, StreamState):
                digest.update(f"{name}|{stream.state.pressure!r}|{stream.state.enthalpy!r}".encode() + stream.flows.tobytes())
            else:
                digest.update(f"{name}|{stream!r}".encode())
        return digest.digest()

    @cached_property
    def free_pressure(self) -> bool:
        """Whether the pressure of the loop hangs on itself: on some way round, side by side, no unit has a pressure given.

        Any pressure below that of the feeds would then close it, and which one is found may not depend on what was calculated before.
        """
        import networkx as nx

        rest = nx.DiGraph(
            way for tag in self.group.units for way in self.calculator.pressure_ways(tag) if all(self.calculator.kinds[s] == "material" for s in way)
        )
        return not nx.is_directed_acyclic_graph(rest)

    @property
    def material_tear(self) -> str:
        """The torn stream of matter in which what piles up goes round."""
        return next(name for name in self.group.tears if self.calculator.kinds[name] == "material" and name not in self.circuit_of)

    def trapped(self) -> dict[str, str]:
        """Components that the loop lets in and never out, as its connections and givens say."""
        if all(self.calculator.kinds[name] != "material" or name in self.circuit_of for name in self.group.tears):
            return {}
        brought = {
            tag: [c for c, flow in zip(self.ids, s.flows, strict=True) if flow > 1e-9 * s.flow]
            for tag, s in self.outside.items()
            if isinstance(s, StreamState) and s.flow > 0.0
        }
        return trapped(self.calculator.document, self.group.units, brought)

    def unpack(self, x: np.ndarray) -> dict[str, Carried]:
        """Tear streams from the vector of unknowns. Raises FlashError."""
        if self.unpacked is not None and np.array_equal(self.unpacked[0], x):
            return self.unpacked[1]
        found: dict[str, Carried] = {}
        for name, part in self.rows(x):
            kind = self.calculator.kinds[name]
            if kind != "material":
                found[name] = EnergyState(kind, float(part[-1]) * self.per_mole)
                continue
            flows, pressure, enthalpy = part[: self.n], float(part[-2]), float(part[-1])
            total = float(flows.sum())
            fractions = flows / total if total > 0.0 else self.feed / max(self.feed.sum(), 1e-300)
            found[name] = StreamState(total, self.calculator.model_of_stream(name).flash(fractions, P=pressure, H=enthalpy))
        self.unpacked = x.copy(), found
        return found

    def exists(self, x: np.ndarray) -> bool:
        """Whether the tear streams of a vector of unknowns are states."""
        try:
            self.unpack(x)
        except (FlashError, ValueError):
            return False
        return True

    def pack(self, streams: Mapping[str, Carried]) -> np.ndarray:
        """The vector of unknowns of the tear streams."""

        def row(stream: Carried) -> np.ndarray:
            if isinstance(stream, EnergyState):
                return np.concatenate([np.zeros(self.n), [1.0, stream.power / self.per_mole]])
            return np.concatenate([stream.flows, [stream.state.pressure, stream.state.enthalpy]])

        return np.concatenate([row(streams[name]) for name in self.group.tears])

    def scale(self, x: np.ndarray) -> np.ndarray:
        """What counts as one in each unknown: the feed of the loop, the pressure, ten R T."""
        fed = max(float(self.feed.sum()), 1e-12)
        flows = [max(float(row[: self.n].sum()), 1e-12) if name in self.circuit_of else fed for name, row in self.rows(x)]
        return np.concatenate([[*np.full(self.n, flow), row[-2], 10.0 * R * 300.0] for flow, (_, row) in zip(flows, self.rows(x), strict=True)])

    def rows(self, x: np.ndarray) -> list[tuple[str, np.ndarray]]:
        """The unknowns of each torn stream."""
        return list(zip(self.group.tears, x.reshape(-1, self.n + 2), strict=True))

    def __call__(self, x: np.ndarray, near: Mapping[str, UnitResult] | None = None) -> np.ndarray | None:
        """One pass; None when a unit has no outlets, which is then kept as ``failure``, as one with a fault is that gives some all the same.

        ``near``: what the units gave in a pass near by, from which some tell how they differ.
        """
        self.failure = None
        try:
            streams: dict[str, Carried] = {**self.outside, **self.unpack(x)}
        except (FlashError, ValueError) as error:
            self.failure = UnitResult({}, findings=(Finding("fault", self.group.units[0], f"A recycled stream has no state: {error}"),))
            return None
        returned = dict(streams)
        self.left = np.zeros(self.n)
        heats: dict[str, list[float]] = {c.tag: [] for c in self.charged}
        for tag in self.group.units:
            if near is not None and tag in near:
                solved = self.calculator.near(tag, streams, near[tag], self.memory)
            else:
                solved = self.results[tag] = self.calculator.unit(tag, streams, self.memory, "draft")
            if failed(solved):
                self.failure = solved
                if not solved.outlets:
                    return None
                # A quarrel of temperatures on the way may settle itself as the loop fills; only at the end it counts.
            for c in self.charged:
                if tag in c.exchanging:
                    heats[c.tag].append(c.heat(self.calculator.units[tag], self.calculator.entering(tag, streams), solved.outlets))
            known, loose = self.calculator.named(tag, solved)
            for name, outlet in known.items():
                returned[name] = outlet
                if name not in self.group.tears:
                    streams[name] = outlet
                if name not in self.inner and isinstance(outlet, StreamState):
                    self.left += outlet.flows
            for lost in loose:
                self.left += lost.flows
        self.inside_now = {name: s for name, s in returned.items() if name in self.inner and isinstance(s, StreamState)}
        self.exchanged = {c.tag: c.exchanged(heats[c.tag]) for c in self.charged}
        for name, c in self.circuit_of.items():
            back = returned[name]
            assert isinstance(back, StreamState)
            returned[name] = replace(back, flow=back.flow * c.factor(self.exchanged[c.tag]))
        return self.pack(returned)

    def richest(self, components: Sequence[str]) -> str:
        """The stream of the loop that holds most of what is trapped beside the rest: where a purge loses least."""
        places = [self.ids.index(c) for c in components]
        held = {name: float(s.state.fractions[places].sum()) for name, s in sorted(self.inside_now.items()) if s.flow > 1e-6 * float(self.feed.sum())}
        return max(held, key=lambda name: held[name]) if held else self.material_tear


def close_loop(
    calculator: Calculator,
    group: Group,
    outside: Mapping[str, Carried],
    memory: Memory,
    hint: Closure | None,
    goes_on: Callable[[], bool],
    purpose: Purpose = "answer",
) -> tuple[Loop, Closure | None]:
    """Find the tear streams of a loop. ``outside`` holds the streams that enter it; ``memory`` the hints of its units, ``hint`` may be how it was
    closed before; in a "search" it will be closed again and again.

    Returns the loop with its tear streams, or with findings that say why it does not close; and the hint for the next time. Stops early, with no
    finding, when ``goes_on`` returns False.
    """
    loop = Loop(group.units, group.tears)
    passes = _Pass(calculator, group, outside, memory.hints)
    stuck = passes.trapped()
    if stuck:
        x: np.ndarray | None = _start(passes)
        for _ in range(FILLING):  # a few passes show where it gathers
            x = passes(x) if x is not None else None
        loop.findings.append(no_way_out(calculator.document, group.units[0], stuck, passes.richest(list(stuck))))
        return loop, None
    key = passes.key()
    if hint is not None and hint.unknowns.size != len(group.tears) * (passes.n + 2):
        hint = None
    x = hint.unknowns if hint is not None else _start(passes)
    if hint is not None and passes.free_pressure and hint.key != key:
        x = _pressures_anew(passes, x)
    slopes = _Slopes(hint.slopes, hint.matrix) if hint is not None else _Slopes()
    often = purpose == "search" and hint is not None and x.size <= NEWTON_SIZE
    # Differences take a pass for every unknown: the more there are, the longer mixing is given.
    patience = min(max(x.size // 2, SOONEST), PATIENCE)
    best: tuple[float, np.ndarray] | None = None
    repeated, first, patient = 0, None, False
    seen: list[tuple[np.ndarray, np.ndarray]] = []
    returned = x
    while len(loop.history) < MOST and goes_on():
        g = passes(x)
        if g is None:
            repeated += 1
            if repeated > 8 and best is not None and not patient:
                # No way on in the direction that the slopes told: from the best point by small substitutions.
                x, repeated, patient, slopes = best[1] + 0.2 * (returned - best[1]), 0, True, _Slopes()
                continue
            if repeated > 8:
                passes.failure = first or passes.failure
                break
            # What fails where the loop itself went counts; the points on the way back from there are nobody's, and at the start little flows yet.
            first = passes.failure if repeated == 1 and best is not None else first
            # Half-way back to the last point that worked; at the start, a recycle of the size of the feed.
            x = 0.5 * (x + best[1]) if best is not None else _start(passes, share=0.3 * repeated)
            slopes = _Slopes()
            continue
        scale = passes.scale(g)
        residual = (g - x) / scale
        error = float(np.abs(residual).max())
        loop.history.append(error)
        loop.slowest = _name(passes, residual)
        if best is not None and error > 2.0 * best[0]:
            slopes.forget()
        if best is None or error < best[0]:
            best, repeated, returned = (error, x), 0, g
        if often and slopes.matrix is None and error < NEAR:
            slopes.take(_differences(passes, x, g, scale), DIFFERENCE * scale)
            often = False
        if error < CLOSED:
            break
        culprit = _accumulation(passes, g, len(loop.history))
        if culprit is not None:
            loop.findings.append(culprit)
            return loop, None
        slopes.learn(x, g, scale)
        seen.append((x, g))
        place = single_unknown(seen, scale) if len(loop.history) == PATIENCE // 2 and error > FAR else None
        closed = None if place is None else bracketed(passes, seen, place, float(scale[place]))
        if closed is not None:
            x, slopes, loop.method = closed, _Slopes(), "bracketing"
            continue
        if len(loop.history) % patience == 0 and x.size <= NEWTON_SIZE and error > 1e-9:
            slopes = _Slopes()
            slopes.take(_differences(passes, x, g, scale), DIFFERENCE * scale)
            loop.method = "Newton"
        if slopes.matrix is None and len(slopes.pairs) < 2:
            x = g
            loop.method = loop.method or "substitution"
        else:
            by = "Broyden" if slopes.matrix is not None else "Anderson"
            loop.method = by if loop.method in ("", "substitution", "Anderson", "Broyden") else loop.method
            x = _bounded(passes, g, slopes.step(x, g, scale))
    loop, found = _finished(loop, passes, best)
    return loop, None if found is None else Closure(found, slopes.worth_keeping(passes.scale(found)), key, slopes.matrix)


def _pressures_anew(passes: _Pass, x: np.ndarray) -> np.ndarray:
    """The unknowns with pressures that come down from the feeds', where they hang on themselves, while flows and enthalpies stay as they were."""
    rows = x.copy().reshape(-1, passes.n + 2)
    rows[:, passes.n] = _start(passes).reshape(rows.shape)[:, passes.n]
    for _ in range(len(rows) + 2):
        g = passes(rows.ravel())
        back = rows[:, passes.n] if g is None else g.reshape(rows.shape)[:, passes.n]
        if np.allclose(back, rows[:, passes.n], rtol=1e-12, atol=0.0):
            break
        rows[:, passes.n] = back
    return rows.ravel()


class _Slopes:
    """What passes told of the slopes of a loop: pairs of how the residual and what came back changed from one pass to the next, or the whole matrix.

    ``matrix`` is d returned / d sent out, None until a difference was taken in every unknown.
    """

    def __init__(self, inherited: Sequence[tuple[np.ndarray, np.ndarray]] = (), matrix: np.ndarray | None = None) -> None:
        self.pairs = list(inherited)
        self.inherited = len(self.pairs)
        self.matrix = matrix
        self.last: tuple[np.ndarray, np.ndarray] | None = None

    def take(self, differences: Sequence[tuple[np.ndarray, np.ndarray]], moved: np.ndarray) -> None:
        """Take in differences in the unknowns, each ``moved`` by so much; some may be missing."""
        if len(differences) == len(moved):
            self.matrix = np.array([returned for _, returned in differences]).T / moved
        else:
            self.pairs, self.inherited = list(differences), 0

    def learn(self, x: np.ndarray, g: np.ndarray, scale: np.ndarray) -> None:
        """Take in a pass from x to g."""
        if self.last is not None:
            moved = g - self.last[1]
            self.pairs.append((moved - (x - self.last[0]), moved))
            step = (x - self.last[0]) / scale
            if self.matrix is not None and float(np.abs(step).max()) > WORTH:
                told = (moved - self.matrix @ (x - self.last[0])) / scale
                self.matrix = self.matrix + np.outer(told * scale, step / scale) / float(step @ step)
            lost = max(len(self.pairs) - max(REMEMBERED, x.size), 0)
            self.pairs, self.inherited = self.pairs[lost:], max(self.inherited - lost, 0)
        self.last = (x, g)

    def forget(self) -> None:
        """Leave out what earlier closures told: the loop is another now."""
        self.matrix = None
        self.pairs, self.inherited = self.pairs[self.inherited :], 0

    def step(self, x: np.ndarray, g: np.ndarray, scale: np.ndarray) -> np.ndarray:
        """Where the loop would close, by Newton's step with the matrix, by Anderson's mixing without."""
        if self.matrix is not None:
            try:
                move = np.linalg.solve(np.eye(x.size) - self.matrix * scale / scale[:, None], (g - x) / scale)
            except np.linalg.LinAlgError:
                self.matrix = None
            else:
                # What does not flow at all is not made to by rounding.
                return np.asarray(np.where((x == 0.0) & (g == 0.0), 0.0, x + scale * move))
        return self.mixed(x, g, scale) if self.pairs else g

    def mixed(self, x: np.ndarray, g: np.ndarray, scale: np.ndarray) -> np.ndarray:
        """Anderson's mixing: what comes back where the combined residual is least."""
        pairs = self.pairs[: self.inherited] + self.pairs[self.inherited :][-WINDOW:]
        changes = np.array([change / scale for change, _ in pairs]).T
        moves = np.array([move for _, move in pairs]).T
        size = np.maximum(np.linalg.norm(changes, axis=0), 1e-300)
        weights, *_ = np.linalg.lstsq(changes / size, (g - x) / scale, rcond=1e-10)
        return np.asarray(g - moves @ (weights / size))

    def worth_keeping(self, scale: np.ndarray) -> tuple[tuple[np.ndarray, np.ndarray], ...]:
        """The pairs that rounding has not touched."""
        return tuple(pair for pair in self.pairs if np.abs(pair[0] / scale).max() > WORTH)


def _unset(passes: _Pass, x: np.ndarray) -> Finding | None:
    """A closed circuit that hands on whatever enthalpy it is begun with, or whose heat no circulation changes: any would close it, or none."""
    g, heats = passes(x), passes.exchanged
    for circuit in passes.charged if g is not None else ():
        torn = [k for k, name in enumerate(passes.group.tears) if passes.circuit_of.get(name) is circuit]
        before = heats.get(circuit.tag, 0.0)
        warmer, more = (x.copy().reshape(-1, passes.n + 2) for _ in range(2))
        warmer[torn, -1] += WARMER
        more[torn, : passes.n] *= 1.0 + MORE
        back = passes(warmer.ravel())
        if back is None or not torn:
            continue
        rise = (back - g).reshape(-1, passes.n + 2)[torn, -1]
        if np.abs(rise / WARMER - 1.0).max() < NEUTRAL:
            text = f"No unit sets the temperature of the circuit of {circuit.tag}: every unit only adds or takes away a heat that is given."
            return Finding("fault", circuit.tag, text, "Give one of them an outlet temperature, superheat or subcooling in place of its duty.")
        wanted = circuit.wanted
        if wanted is None or passes(more.ravel()) is None:
            continue
        after = passes.exchanged[circuit.tag]
        if abs(after - before) < NEUTRAL * MORE * before:
            side = "taken in" if circuit.taken_in is not None else "given off"
            text = f"The heat {side} by the circuit of {circuit.tag} is {before / 1e3:.5g} kW, whatever goes round, and not {wanted / 1e3:.5g} kW."
            remedy = "Give the circulation, or let the units that set this heat follow: an outlet state of the circuit in place of a duty."
            return Finding("fault", circuit.tag, text, remedy)
    return None


def _finished(loop: Loop, passes: _Pass, best: tuple[float, np.ndarray] | None) -> tuple[Loop, np.ndarray | None]:
    unset = _unset(passes, best[1]) if best is not None and passes.charged else None
    if unset is not None:
        loop.findings.append(unset)
        return loop, None
    if best is not None and best[0] < ACCEPTED:
        loop.streams, loop.drafts = passes.unpack(best[1]), passes.memory
        return loop, best[1]
    names = ", ".join(loop.tears)
    if passes.failure is not None:
        loop.findings += [f for f in passes.failure.findings if f.severity == "fault"]
        return loop, None
    if len(loop.history) >= MOST:
        text = f"The loop through {names} does not close: after {MOST} passes {loop.slowest} still changes by {loop.history[-1]:.2g} of the feed."
        remedy = "Check what its units do to this component, or give more of them a fixed state."
        loop.findings.append(Finding("fault", loop.units[0], text, remedy))
    return loop, None


def _start(passes: _Pass, share: float = 0.0) -> np.ndarray:
    """Tear streams of no (or some) flow with the state of all feeds mixed."""
    rows = [_filled(passes, name, share) if name in passes.circuit_of else _mixed(passes, name, share) for name in passes.group.tears]
    return np.concatenate(rows)


def _filled(passes: _Pass, name: str, share: float) -> np.ndarray:
    """A tear stream in a closed circuit: its charge as vapour, or at another try as liquid."""
    flows, pressure, enthalpy = passes.circuit_of[name].start(name, boiling=share > 0.0)
    return np.concatenate([flows, [pressure, enthalpy]])


def _mixed(passes: _Pass, name: str, share: float) -> np.ndarray:
    """A tear stream as all feeds of the loop together, without heat, at the highest pressure that enters: so that it holds no mixer down."""
    if passes.calculator.kinds[name] != "material":
        return np.concatenate([np.zeros(passes.n), [1.0, 0.0]])
    pressure = max((s.state.pressure for s in passes.feeds), default=1e5)
    total = float(passes.feed.sum())
    if total <= 0.0:
        return np.concatenate([np.zeros(passes.n), [pressure, passes.feeds[0].state.enthalpy if passes.feeds else 0.0]])
    model, fractions = passes.calculator.model_of_stream(name), passes.feed / total
    enthalpy = sum(s.enthalpy_flow for s in passes.feeds) / total
    try:
        model.flash(fractions, P=pressure, H=enthalpy)
    except FlashError:
        # Heats of mixing, or another property model, can take it out of reach: the mean temperature of the feeds is a state in any.
        warm = sum(s.flow * s.state.temperature for s in passes.feeds) / total
        enthalpy = model.flash(fractions, T=warm, P=pressure).enthalpy
    return np.concatenate([share * passes.feed, [pressure, enthalpy]])


def _bounded(passes: _Pass, g: np.ndarray, wanted: np.ndarray) -> np.ndarray:
    """Bounds on a step: flows above a tenth of what came back and below a runaway (where rounding would hide what enters and pass for closed);
    pressures within a factor of two, enthalpies within twenty R T of what came back.
    """
    rows, asked = g.reshape(-1, passes.n + 2), wanted.reshape(-1, passes.n + 2).copy()
    most = np.maximum(rows[:, : passes.n], 2.0 * RUNAWAY * passes.per_mole)
    asked[:, : passes.n] = np.clip(asked[:, : passes.n], 0.1 * rows[:, : passes.n], most)
    # A pressure that hangs on itself comes down from that of the feeds as far as it must, and no further.
    asked[:, -2] = rows[:, -2] if passes.free_pressure else np.clip(asked[:, -2], 0.5 * rows[:, -2], 2.0 * rows[:, -2])
    asked[:, -1] = np.clip(asked[:, -1], rows[:, -1] - 20 * R * 300, rows[:, -1] + 20 * R * 300)
    for _ in range(8):
        # A step may ask for a state that does not exist: half-way back to what came back, which does.
        if passes.exists(asked.ravel()):
            return np.asarray(asked.ravel())
        asked = 0.5 * (asked + rows)
    return g


def _differences(passes: _Pass, x: np.ndarray, g: np.ndarray, scale: np.ndarray) -> list[tuple[np.ndarray, np.ndarray]]:
    """Slopes in every unknown: how the residual and what comes back change when it is moved a little. Those that fail are left out."""
    found, near = [], dict(passes.results)
    for j in range(x.size):
        moved = x.copy()
        moved[j] += DIFFERENCE * scale[j]
        shifted = passes(moved, near)
        if shifted is not None:
            found.append((shifted - g - (moved - x), shifted - g))
    passes.failure = None  # of a difference, not of the loop
    return found


def _name(passes: _Pass, residual: np.ndarray) -> str:
    worst = int(np.abs(residual).argmax()) % (passes.n + 2)
    return passes.ids[worst] if worst < passes.n else "the pressure" if worst == passes.n else "the enthalpy"


def _accumulation(passes: _Pass, g: np.ndarray, count: int) -> Finding | None:
    """A component that enters the loop and does not leave it, or a recycle that has run away."""
    flows = np.sum([row[: passes.n] for name, row in passes.rows(g) if name not in passes.circuit_of] or [np.zeros(passes.n)], axis=0)
    total = float(passes.feed.sum())
    # A stream needs a pass for every torn one on its way before it can have left at all, and a plant that fills may let out nothing at first.
    if count < 4 + 2 * len(passes.group.tears) or total <= 0.0:
        return None
    held = [i for i in range(passes.n) if passes.feed[i] > 1e-9 * total and passes.left[i] < 1e-9 * passes.feed[i]]
    stuck = [i for i in held if flows[i] > FILLED * passes.feed[i]]
    if not stuck and flows.sum() > RUNAWAY * total:
        stuck = [int((flows / np.maximum(passes.feed, 1e-12 * total)).argmax())]
    if not stuck:
        return None
    names = " and ".join(passes.ids[i] for i in stuck)
    where = ", ".join(passes.group.tears)
    text = f"Nothing removes {names} from the loop through {where}: it enters at {passes.feed[stuck[0]]:.4g} mol/s and accumulates."
    return purge_finding(passes.calculator.document, passes.group.units[0], text, passes.richest([passes.ids[i] for i in stuck]))
