"""Where the search for a column's state starts: products by Fenske's distribution, constant molal overflow, a few sweeps of bubble points."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from importlib import import_module
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from wattaxis.columns.carried import decant
from wattaxis.columns.equations import HEAT, LATENT, Equations, Unknowns
from wattaxis.columns.extracted import begin_two_liquids
from wattaxis.columns.layout import BOTTOMS, DECANTED, DISTILLATE, LIQUID, MIXED, NONE, OVERHEAD, Layout, Link, Section
from wattaxis.columns.reacting import reacted_on
from wattaxis.columns.shortcut import underwood
from wattaxis.columns.wants import BOIL_UP, DUTY, FLOW, FRACTION, MASS, RECOVERY, REFLUX, Want
from wattaxis.properties import FlashError
from wattaxis.properties.parted import may_part, parted_rows
from wattaxis.properties.rows import phase_rows
from wattaxis.properties.state import Vector

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel, State

Array = NDArray[np.float64]
#: Share of the stages that Fenske's distribution counts, and how many at most; how far beyond all volatilities its constant (ln) is looked for, and
#: how many are tried.
_WORTH, _MOST, _ENDS, _TRIED = 0.45, 25.0, 12.0, 721
#: How sharply the feed is divided where two purities say it, over the sharpest.
_SHARPER = np.array([0.1, 0.15, 0.2, 0.3, 0.4, 0.5, 0.6, 0.7, 0.85, 1.0])
#: Moles of a component per mole of feed from which on it counts; of vapour that rises where hardly any does; least flows, of all and of a component.
_THERE, _FEW, _LEAST, _TRACE = 1e-3, 0.03, 0.02, 1e-14
#: Share of what a side stripper gets that leaves it below; moles that are pumped around per mole of feed, and that condense for it at most.
_STRIPPED, _PUMPED, _CONDENSED = 0.7, 0.3, 0.5
#: Share of a component on a stage that is used up in a sweep at most.
_USED = 0.3
#: Reflux ratio where nothing says one, and moles of vapour per mole of feed that rise from the reboiler at least.
_REFLUX, _RISING = 1.5, 0.5
#: Sweeps, and those at the end with the equilibria of the model; K that a sweep moves a temperature at most, and below which it is still.
_SWEEPS, _REAL, _FAR, _STILL = 30, 20, 15.0, 0.3
#: Corrections of boiling points at most, and what is left of them.
_BOILS, _BOILED = 60, 1e-8
#: Share by which the molar volumes of two phases differ at least.
_ALIKE = 0.1


@dataclass(frozen=True)
class Way:
    """How a start is made: temperatures by ``boiling`` points, or as what is fed at the top brings them; ``share`` of a sweep is taken.

    ``low`` is what is taken of a reflux ratio by Gilliland's chart: with less than is needed the stages pinch at the feed, and fronts stay where they
    belong; with more they run up or down the column.
    """

    boiling: bool = True
    share: float = 1.0
    low: float = 0.6


FAST, CAREFUL, AS_FED = Way(), Way(share=0.7, low=1.0), Way(boiling=False)


@dataclass(frozen=True)
class Split:
    """What leaves at the top: flows (components,) per mole of feed, and the reflux ratio to begin with."""

    top: Vector
    reflux: float


def split_of(layout: Layout, wants: Sequence[Want], low: float) -> Split:
    """Products at the ends that are near what is wanted. Raises FlashError where the feed has no state at the pressure of the column."""
    fed = layout.feed.sum(axis=0)
    drawn = _drawn(layout, wants)
    K = _volatilities(layout, fed)
    most = min(_WORTH * layout.stages, _MOST)
    # One purity says where the feed is divided, two say how sharply.
    sharp = sum(_says(layout, want) and want.kind in (FRACTION, RECOVERY) for want in wants) > 1
    divided = [(worth, *_divided(layout, wants, fed, worth * np.log(K), drawn, K)) for worth in (most * _SHARPER if sharp else (most,))]
    worth, top, _ = min(divided, key=lambda found: found[2])
    # A column divides: neither end gets nothing.
    top = np.clip(top, _LEAST * 0.01 * fed / layout.stages, (1.0 - _LEAST * 0.01 / layout.stages) * fed)
    return Split(top, _reflux(layout, wants, top, 1.0 - drawn - float(top.sum()), K, worth, low))


def _divided(layout: Layout, wants: Sequence[Want], fed: Vector, apart: Vector, drawn: float, K: Vector) -> tuple[Vector, float]:
    """The feed divided as Fenske's (1932) equation does, as near to what is wanted as may be: what goes to the top, and how far off that is."""
    ways = np.linspace(-float(apart.max()) - _ENDS, _ENDS - float(apart.min()), _TRIED)
    ratio = np.exp(np.clip(ways[:, None] + apart, -80.0, 80.0))
    tops = (1.0 - drawn) * fed * ratio / (1.0 + ratio)
    gaps = [_gap(layout, want, tops, fed) for want in wants if _says(layout, want)]
    if gaps:
        off = np.sum([gap**2 for gap in gaps], axis=0)
    else:
        vapour = 1.0 - sum(part for part, _ in layout.fed_liquid)
        # Where neither is given: what is lighter than the mean of the lightest and the heaviest that are there.
        light = float(fed[np.log(K) > 0.5 * (np.log(K[fed > _THERE]).max() + np.log(K[fed > _THERE]).min())].sum())
        guess = vapour if not layout.boils else float(np.clip(max(light, vapour), 0.05, 0.95))
        off = (tops.sum(axis=1) - guess) ** 2
    # Where two ways are equally far off, the one that leaves something at either end is meant.
    off = off + 1e-3 * _logit(tops.sum(axis=1)) ** 2
    at = int(np.argmin(off))
    return tops[at], float(off[at])


def _volatilities(layout: Layout, fed: Vector) -> Vector:
    model, P = layout.model, float(np.median(layout.P))
    x = fed / fed.sum()
    state: State | None = None
    for share in (0.5, 0.1, 0.9):
        try:
            state = model.flash(x, P=P, VF=share)
            break
        except FlashError:
            continue
    T = float(np.sum(x * [c.critical_temperature for c in model.components])) * 0.7 if state is None else state.temperature
    there = np.maximum(x, 1e-9)
    liquid, vapour = there / there.sum(), there / there.sum()
    for _ in range(2):
        rows = [
            phase_rows(model, kind, np.array([T]), np.array([P]), part[None], by_pressure=False)
            for kind, part in (("liquid", liquid), ("vapour", vapour))
        ]
        K = np.exp(np.clip(rows[0].log_phi[0] - rows[1].log_phi[0], -30.0, 30.0))
        vapour = K * liquid / (K * liquid).sum()
    return np.asarray(K)


def _drawn(layout: Layout, wants: Sequence[Want]) -> float:
    """What all side draws take, per mole of feed."""
    names = {p.name for p in layout.products} - {DISTILLATE, OVERHEAD, BOTTOMS}
    return min(sum(_flow(layout, wants, name, 0.1) for name in names), 0.9)


def _flow(layout: Layout, wants: Sequence[Want], name: str, otherwise: float) -> float:
    """A flow by name as it is wanted, per mole of feed: of all that a stripper is to get most leaves it below."""
    for w in wants:
        if w.kind == FLOW and not w.components and w.basis != MASS and w.product in (name, f"draw to {name}"):
            return w.value / layout.whole * (1.0 if w.product == name else _STRIPPED)
    return otherwise


def _says(layout: Layout, want: Want) -> bool:
    """Whether a want says how the feed is divided between the ends."""
    if want.product not in (DISTILLATE, OVERHEAD, BOTTOMS) or want.kind not in (FLOW, FRACTION, RECOVERY):
        return False
    return not (layout.condenser == MIXED and want.kind == FLOW and want.product != BOTTOMS)


def _gap(layout: Layout, want: Want, tops: Array, fed: Vector) -> Vector:
    """How far every way to divide the feed is from what is wanted."""
    flows = tops if want.product != BOTTOMS else np.maximum(fed - tops, 0.0)
    weights = layout.model.molar_masses if want.basis == MASS and want.kind != RECOVERY else np.ones(len(fed))
    chosen = np.array([1.0 if not want.components or c.id in want.components else 0.0 for c in layout.model.components])
    amount, whole = flows @ (weights * chosen), flows @ weights
    if want.kind == FLOW:
        return np.asarray(np.log(np.maximum(amount, 1e-12) / max(want.value / layout.whole, 1e-12)))
    share = amount / np.maximum(whole if want.kind == FRACTION else float(fed @ chosen), 1e-300)
    return np.asarray(0.3 * (_logit(share) - _logit(np.array(want.value))))


def _logit(share: Vector) -> Vector:
    inside = np.clip(share, 1e-8, 1.0 - 1e-8)
    return np.asarray(np.log(inside / (1.0 - inside)))


def _boiled(layout: Layout, wants: Sequence[Want]) -> float:
    """The boil-up ratio to begin with."""
    for want in wants:
        if want.kind == BOIL_UP:
            return max(want.value, _LEAST)
        if want.kind == DUTY and want.place == "reboiler":
            return float(np.clip(0.5 * want.value / layout.whole / LATENT, _LEAST, 2.0))
    return 0.5


def _reflux(layout: Layout, wants: Sequence[Want], tops: Vector, bottom: float, K: Vector, worth: float, low: float) -> float:
    risen, top = 1.0 - sum(part for part, _ in layout.fed_liquid), float(tops.sum())
    for want in wants:
        if want.kind == REFLUX:
            return max(want.value, 0.05)
        if want.kind == BOIL_UP:
            return max((want.value * bottom + risen) / top - 1.0, 0.2)
    # Some vapour rises below the feed too.
    usual = max(_REFLUX, (risen + _RISING) / top - 1.0)
    # What goes round, decants or reacts has no such chart.
    plain = not layout.links and layout.reacting is None
    least = _least_reflux(K, layout.feed.sum(axis=0), tops, 1.0 - risen) if plain else None
    if least is None:
        return usual
    # Gilliland's chart by Eduljee (1975).
    beyond = (layout.stages - worth) / (layout.stages + 1.0)
    far = max(1.0 - beyond / 0.75, 0.0) ** (1.0 / 0.5668)
    return float(np.clip(low * (least + far) / (1.0 - min(far, 0.9)), 0.05, 20.0))


def _least_reflux(K: Vector, fed: Vector, tops: Vector, liquid: float) -> float | None:
    """Underwood's (1948) least reflux ratio by the root between the keys, the components between which the feed is divided; None without keys."""
    there = fed > _THERE
    share = np.where(there, tops / np.maximum(fed, 1e-300), np.nan)
    up, down = there & (share > 0.5), there & (share <= 0.5)
    if not up.any() or not down.any():
        return None
    light, heavy = float(K[up].min()), float(K[down].max())
    if not heavy < light:
        return None
    a, d = K[there] / heavy, tops[there] / tops.sum()
    balance, low, high = underwood(a, fed[there], liquid), 1.0, light / heavy
    for _ in range(60):
        root = 0.5 * (low + high)
        if balance(root) > 0.0:
            high = root
        else:
            low = root
    return max(float((a * d / (a - root)).sum()) - 1.0, 0.0)


def easy_heats(layout: Layout, at: Unknowns) -> Vector:
    """What the easy heat balances of :class:`Equations` count with: moles of vapour in the feeds of stages, or temperatures (K)."""
    if not layout.boils:
        return at.T
    return np.asarray(layout.feed.sum(axis=1) - np.array([part for part, _ in layout.fed_liquid]))


def begin(layout: Layout, wants: Sequence[Want], way: Way = FAST) -> Unknowns:
    """The unknowns to begin with. Raises FlashError where the feed has no state at the pressure of the column."""
    if layout.light == "liquid":
        return begin_two_liquids(layout)
    split = split_of(layout, wants, way.low)
    N, parts = layout.main, layout.fed_liquid
    top = float(split.top.sum())
    reflux = 0.0 if layout.condenser == NONE else split.reflux * top
    beside = _Beside.of(layout, wants)
    fed, drawn = layout.feed.sum(axis=1) + beside.fed, beside.drawn
    L, V = beside.L.copy(), beside.V.copy()
    liquid_fed = np.array([part for part, _ in parts]) + beside.liquid
    L[:N] = np.maximum(reflux + np.cumsum(liquid_fed[:N] - drawn[0, :N]), _LEAST)
    V[0] = top
    V[1:N] = np.maximum(L[: N - 1] + top + np.cumsum(drawn.sum(axis=0) - fed)[: N - 1], _LEAST)
    bottoms = max(1.0 - top - _drawn(layout, wants), _LEAST)
    L[N - 1] = bottoms
    if layout.condenser == NONE and layout.reboiler:
        # What is fed cold takes up vapour: as much rises from the reboiler as is wanted, and at the top what leaves.
        V[:N] = np.linspace(top, _boiled(layout, wants) * bottoms, N)
        L[: N - 1] = np.maximum(V[1:N] + bottoms + np.cumsum((drawn.sum(axis=0) - fed)[:N][::-1])[::-1][1:], _LEAST)
    kept, risen = 1.0 - np.minimum(drawn[0] / (L + drawn[0]), 0.9), 1.0 - np.minimum(drawn[1] / V, 0.9)
    L = L + drawn[0]
    free = np.zeros(len(layout.free))
    for k, given in enumerate(layout.free):
        if given.kind != "duty" and given.name in beside.flows:
            free[k] = min(beside.flows[given.name] / (L if given.kind == "liquid" else V)[given.stage], 0.9)
    for last in layout.last_ones:
        kept[last] = risen[last + 1] = 0.0
    of_liquid = 1.0 if layout.total else 0.5 if layout.condenser == MIXED else 0.0
    if of_liquid:
        L[0] = reflux + of_liquid * top
        kept[0] = reflux / L[0]
        V[0] = 1.0 if layout.total else 0.5 * top
        free[[k for k, given in enumerate(layout.free) if given.kind == "liquid" and given.stage == 0]] = 1.0 - kept[0]
    if layout.back:
        kept[0] = 0.0
    T = _temperatures(layout, split.top, parts)
    if layout.boils and not way.boiling and not layout.links:
        T[:-1] = parts[0][1] or T[0]
        V[0] = float(fed[0]) - parts[0][0] + _FEW
        V[1:-1] = _FEW
        V[-1] = min(V[-1], _FEW)
        L[:-1] = V[1:] + 1.0 - V[0]
        L[-1] = 1.0 - V[0]
    links = [(link, 1.0 if link.share is None else float(free[link.share])) for link in layout.links]
    return _with_duties(layout, replace(_swept(layout, L, V, kept, risen, links, T, way), free=free))


@dataclass(frozen=True)
class _Beside:
    """What side draws, pump-arounds and strippers do to the flows of stages, per mole of feed.

    ``drawn`` (2, stages) liquid and vapour, ``fed`` (stages,) what is given back and ``liquid`` (stages,) how much of that, ``flows`` of what is
    drawn by name; ``L`` and ``V`` (stages,) are set on the stages of strippers.
    """

    drawn: Array
    fed: Vector
    liquid: Vector
    L: Vector
    V: Vector
    flows: dict[str, float]

    @classmethod
    def of(cls, layout: Layout, wants: Sequence[Want]) -> _Beside:
        """By what is wanted, or a usual value."""
        N = layout.stages
        found = cls(np.zeros((2, N)), np.zeros(N), np.zeros(N), np.ones(N), np.ones(N), {})
        side = [p for p in layout.products if p.share is not None and p.name != DISTILLATE]
        each = _drawn(layout, wants) / max(len([p for p in layout.products if p.name not in (DISTILLATE, OVERHEAD, BOTTOMS)]), 1)
        for product in side:
            found.take(product.name, product.phase, product.stage, each)
        for link in layout.links:
            section = next((s for s in layout.sections[1:] if link.target == s.first), None)
            if link.phase != LIQUID:
                continue
            if section is None:
                found.pump(link, _flow(layout, wants, link.name, _PUMPED), _duty(layout, wants, link.name))
            else:
                found.strip(link, section, _flow(layout, wants, section.name, 0.1), layout)
        return found

    def take(self, name: str, phase: str, stage: int, flow: float) -> None:
        """A draw."""
        self.drawn[0 if phase == "liquid" else 1, stage] += flow
        self.flows[name] = flow

    def pump(self, link: Link, flow: float, duty: float) -> None:
        """A pump-around: what it cools condenses where it is given back."""
        self.take(link.name, "liquid", link.source, flow)
        self.fed[link.target] += flow
        self.liquid[link.target] += flow + min(max(-duty / LATENT, 0.0), _CONDENSED)

    def strip(self, link: Link, section: Section, product: float, layout: Layout) -> None:
        """A side stripper."""
        flow = product / _STRIPPED
        steam = float(layout.feed[section.first : section.last + 1].sum())
        own = slice(section.first, section.last + 1)
        self.take(link.name, "liquid", link.source, flow)
        self.L[own] = flow
        self.L[section.last] = product
        self.V[own] = flow - product + steam
        self.fed[next(back.target for back in layout.links if back.source == section.first)] += flow - product + steam


def _duty(layout: Layout, wants: Sequence[Want], name: str) -> float:
    """What is wanted of a pump-around's duty, per mole of feed."""
    return sum(w.value / layout.whole for w in wants if w.kind == DUTY and w.place == name)


def _temperatures(layout: Layout, top: Vector, parts: Sequence[tuple[float, float | None]]) -> Vector:
    """Straight from the top to the bottom: boiling points of the products, or what is fed where a column is without condenser and reboiler."""
    known = [(j, T) for j, (_, T) in enumerate(parts) if T is not None]
    ends = []
    bottom = np.maximum(layout.feed.sum(axis=0) - top, 0.0)
    middle = float(np.mean([T for _, T in known])) if known else 350.0
    for flows, P, share in ((top, layout.P[0], 0.0 if layout.total else 1.0), (bottom, layout.P[layout.main - 1], 0.0)):
        try:
            ends.append(layout.model.flash(flows, P=float(P), VF=share).temperature)
        except FlashError:
            ends.append(middle)
    if layout.condenser == NONE and known:
        ends[0] = known[0][1]
    if not layout.reboiler and known:
        ends[1] = known[-1][1]
    found = np.linspace(ends[0], ends[1], layout.main)
    taken = {link.target: found[link.source] for link in layout.links if link.phase == LIQUID}
    return np.concatenate([found, *(np.full(s.last - s.first + 1, taken[s.first]) for s in layout.sections[1:])])


def _swept(layout: Layout, L: Vector, V: Vector, kept: Vector, risen: Vector, links: Sequence[tuple[Link, float]], T: Vector, way: Way) -> Unknowns:
    """Compositions by the balances of every component for known flows, temperatures by bubble points, in turns."""
    staged: Any = import_module("wattaxis.properties.kernels.staged")  # late: it loads with the first column
    N, C = layout.feed.shape
    rising = V.copy()
    if layout.total:
        rising[0] = 0.0
    x = np.tile(layout.feed.sum(axis=0), (N, 1)) + _TRACE
    x /= x.sum(axis=1)[:, None]
    y, liquid = x.copy(), np.zeros((N, C))
    rough, left = layout.model.equation_of_state, _SWEEPS
    while left > 0:
        log_K, by_T = _equilibria(layout, T, x, y, rough)
        K = np.exp(np.clip(log_K, -50.0, 50.0))
        feed = layout.feed if not links else layout.feed.copy()
        for link, share in links:
            feed[link.target] += share * _linked(layout, link, L, rising, x, y, T)
        if layout.reacting is not None:
            # In a sweep no more is used up than a share of what there is.
            feed = feed + np.maximum(reacted_on(layout, T, x, L), -_USED * L[:, None] * x)
        staged.component_balances(K, L, rising, kept, risen, feed, liquid)
        liquid = np.maximum(np.nan_to_num(liquid), 0.0) + _TRACE
        totals = liquid.sum(axis=1)
        x = way.share * liquid / totals[:, None] + (1.0 - way.share) * x
        Kx = K * x
        s = Kx.sum(axis=1)
        y = Kx / s[:, None]
        if layout.boils and way.boiling:
            slope = (Kx * by_T).sum(axis=1) / s
            change = np.clip(-np.log(s) / np.maximum(slope, 1e-3), -_FAR, _FAR)
            T = T + change
            left = 0 if np.abs(change).max() < _STILL and not rough else left - 1
            if rough and (np.abs(change).max() < _STILL or left == 0):
                rough, left = False, _REAL
        else:
            L = np.maximum(L * np.clip(totals / L, 0.7, 1.4), _TRACE)
            more = np.cumsum(feed.sum(axis=1) - (1.0 - kept) * L)[: layout.main - 1]
            V[1 : layout.main] = np.maximum((L * kept)[: layout.main - 1] + V[0] - more, _LEAST)
            rising = V.copy()
            left -= 1
            if rough and left == 0:
                rough, left = False, _REAL
    return Unknowns(x * L[:, None], y * V[:, None], T, np.zeros(0))


def _linked(layout: Layout, link: Link, L: Vector, V: Vector, x: Array, y: Array, T: Vector) -> Vector:
    """All that a link may take, per mole of all feeds; of a condensate as much as goes back, of the liquid that does."""
    j = link.source
    if link.phase != DECANTED:
        return np.asarray(L[j] * x[j] if link.phase == LIQUID else V[j] * y[j])
    decanted = decant(layout, Unknowns(L[:, None] * x, y, T, np.zeros(0)))
    back = decanted.carried().flows
    return np.asarray(
        max(L[1] - float(layout.fed_liquid[1][0]), _LEAST) * back / max(float(back.sum()), _TRACE) if decanted.parts else 0.5 * L[0] * x[0]
    )


def _equilibria(layout: Layout, T: Vector, x: Array, y: Array, rough: bool) -> tuple[Array, Array]:
    """ln K (stages, components) with its slope in T: of an equation of state by Wilson (1969) at first, and where it has but one phase there."""
    model, P = layout.model, layout.P
    wilson = by_T = np.zeros_like(x)
    if model.equation_of_state:
        critical = np.array([[c.critical_temperature, c.critical_pressure, c.acentric_factor] for c in model.components]).T
        rise = 5.373 * (1.0 + critical[2])
        wilson = np.log(critical[1] / P[:, None]) + rise * (1.0 - critical[0] / T[:, None])
        by_T = rise * critical[0] / T[:, None] ** 2
        if rough:
            return wilson, by_T
    liquid = parted_rows(model, T, P, x).whole if layout.parting else phase_rows(model, "liquid", T, P, x, by_pressure=False)
    vapour = phase_rows(model, "vapour", T, P, y, by_pressure=False)
    log_K, slope = liquid.log_phi - vapour.log_phi, liquid.log_phi_by_temperature - vapour.log_phi_by_temperature
    if not model.equation_of_state:
        return log_K, slope
    one = (np.abs(liquid.molar_volume / vapour.molar_volume - 1.0) < _ALIKE)[:, None]
    return np.where(one, wilson, log_K), np.where(one, by_T, slope)


def _with_duties(layout: Layout, at: Unknowns) -> Unknowns:
    """With the duties that the heat balances of their stages leave."""
    found = Equations(layout, ()).look(at)
    free = at.free.copy()
    for k, given in enumerate(layout.free):
        if given.kind == "duty":
            left = found.others[0] if layout.total and given.stage == 0 else found.heats[given.stage]
            free[k] = left * HEAT
    return replace(at, free=free)


def boiling(model: PropertyModel, P: float, x: Array, T: float) -> Array | None:
    """Vapours (rows, components) over boiling liquids ``x`` at ``P`` (Pa), looked for from ``T`` (K); None where one was not found."""
    at, pressure, y = np.full(len(x), T), np.full(len(x), P), x
    for _ in range(_BOILS):
        liquid = parted_rows(model, at, pressure, x).whole if may_part(model) else phase_rows(model, "liquid", at, pressure, x, by_pressure=False)
        vapour = phase_rows(model, "vapour", at, pressure, y, by_pressure=False)
        Kx = np.exp(np.clip(liquid.log_phi - vapour.log_phi, -50.0, 50.0)) * x
        s = Kx.sum(axis=1)
        slope = (Kx * (liquid.log_phi_by_temperature - vapour.log_phi_by_temperature)).sum(axis=1) / s
        before, y = y, Kx / s[:, None]
        at = at + np.clip(-np.log(s) / np.maximum(slope, 1e-3), -_FAR, _FAR)
        if np.abs(np.log(s)).max() < _BOILED and np.abs(y - before).max() < _BOILED:
            apart = np.abs(liquid.molar_volume / vapour.molar_volume - 1.0).min()
            return y if apart > _ALIKE or not model.equation_of_state else None
    return None
