"""Equations of a staged column and their derivatives: balances, equilibria and heat of every stage at once (Naphtali, Sandholm 1971)."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from importlib import import_module
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from wattaxis.columns.carried import Carried, Decanted, decant
from wattaxis.columns.circulating import Sump, equilibrium_slopes, heat_slopes, returning
from wattaxis.columns.layout import DECANTED, LIQUID, VAPOUR, Layout, Link
from wattaxis.columns.reacting import reacted_on, slopes_on
from wattaxis.properties.parted import parted_rows
from wattaxis.properties.rows import PhaseRows, phase_rows
from wattaxis.properties.state import Vector

if TYPE_CHECKING:
    from wattaxis.columns.wants import Bound, Slopes

Array = NDArray[np.float64]
#: J/mol by which heat balances are made small numbers.
HEAT = 2e4
#: J/mol of every vapour above every liquid where heat balances are easy; K by which temperatures become small numbers there.
LATENT, WARM = 3e4, 100.0
#: Moles per mole and K over which heat capacities are differenced.
_MOLES, _WARMER = 1e-5, 0.1
#: K that a step moves a temperature at most.
FAR = 25.0


@dataclass(frozen=True)
class Unknowns:
    """``liquid`` and ``vapour`` (stages, components) and shares of draws, per mole of all feeds; ``T`` (stages,) K; ``free``: duties (J/mol), shares.

    Where all vapour condenses on the first stage, ``vapour[0]`` is the composition that would rise from its liquid, and goes nowhere.
    """

    liquid: Array
    vapour: Array
    T: Vector
    free: Vector

    def moved(self, step: Unknowns, by: float) -> Unknowns:
        """So much of a step on; no flow falls below a tenth of itself or rises above ten times, no temperature moves far."""

        def flows(now: Array, change: Array) -> Array:
            return np.asarray(np.clip(now + by * change, 0.1 * now, 10.0 * now + 1e-3))

        return Unknowns(
            flows(self.liquid, step.liquid), flows(self.vapour, step.vapour), self.T + np.clip(by * step.T, -FAR, FAR), self.free + by * step.free
        )


@dataclass(frozen=True)
class Looked:
    """The equations at one place: what is left of them, and both phases with their derivatives."""

    at: Unknowns
    balances: Array
    equilibria: Array
    heats: Vector
    others: Vector
    K: Array
    phases: tuple[PhaseRows, PhaseRows]
    decanted: Decanted | None

    @property
    def worst(self) -> float:
        """The largest of what is left, infinite where it is no number."""
        parts = (self.balances, self.equilibria, self.heats, self.others)
        found = float(np.max([np.abs(part).max() if part.size else 0.0 for part in parts]))  # what is no number stays none
        return found if np.isfinite(found) else np.inf

    @property
    def sum(self) -> float:
        """Root of the sum of squares."""
        parts = (self.balances, self.equilibria, self.heats, self.others)
        with np.errstate(over="ignore"):  # a step may lead far off; then it is shortened
            found = float(np.sqrt(sum(float((part**2).sum()) for part in parts)))
        return found if np.isfinite(found) else np.inf


class Equations:
    """All equations of a column: those of its stages, the heat of a total condenser, and what is wanted of it, one for every free value.

    ``real`` leads from heat balances that are easy, at 0, to those of the model, at 1: where the column boils, every vapour has one enthalpy above
    every liquid, and as much of the feeds is vapour as ``easy`` says (stages,); elsewhere every stage has the temperature (K) that ``easy`` says.
    Reactions go at ``reacted`` times their rates. All slopes are ``exact``, or that of the heat capacity of a subcooled reflux is left out.
    """

    def __init__(
        self, layout: Layout, wants: Sequence[Bound], real: float = 1.0, easy: Vector | None = None, reacted: float = 1.0, exact: bool = False
    ) -> None:
        self.layout, self.wants, self.real, self.reacted, self.exact = layout, tuple(wants), real, reacted, exact
        self.easy = np.zeros(layout.stages) if easy is None else easy
        #: Whether the vapour of a stage leaves it: not that of a condenser in which all of it condenses.
        self.leaves = np.ones(layout.stages)
        self.leaves[0] = 0.0 if layout.total else 1.0

    def shares(self, free: Vector) -> tuple[Vector, Vector]:
        """Shares of liquid and of vapour that are drawn off, (stages,) each."""
        drawn = np.zeros((2, self.layout.stages))
        for value, given in zip(free, self.layout.free, strict=True):
            if given.kind != "duty":
                drawn[0 if given.kind == "liquid" else 1, given.stage] += value
        for last in self.layout.last_ones:  # nothing goes from section to section by itself
            drawn[0, last] = drawn[1, last + 1] = 1.0
        if self.layout.back:
            drawn[0, 0] = 1.0
        return drawn[0], drawn[1]

    def duties(self, free: Vector) -> Vector:
        """J/mol of all feeds added to every stage."""
        found = self.layout.duties.copy()
        for value, given in zip(free, self.layout.free, strict=True):
            if given.kind == "duty":
                found[given.stage] += value
        return found

    def look(self, at: Unknowns) -> Looked:
        """What is left of every equation."""
        lay = self.layout
        L, V = at.liquid.sum(axis=1), at.vapour.sum(axis=1)
        x, y = at.liquid / L[:, None], at.vapour / V[:, None]
        r = returning(lay, x, y)
        liquid = parted_rows(lay.model, at.T, lay.P, r).whole if lay.parting else phase_rows(lay.model, "liquid", at.T, lay.P, r, by_pressure=False)
        phases = liquid, phase_rows(lay.model, lay.light, at.T, lay.P, y, by_pressure=False)
        K = np.exp(np.clip(phases[0].log_phi - phases[1].log_phi, -600.0, 600.0))
        drawn_liquid, drawn_vapour = self.shares(at.free)
        below, above = (1.0 - drawn_liquid)[:, None] * at.liquid, (1.0 - drawn_vapour)[:, None] * at.vapour
        balances = at.liquid + self.leaves[:, None] * at.vapour - lay.feed
        balances[1:] -= below[:-1]
        balances[:-1] -= above[1:]
        if lay.reacting is not None:
            balances -= self.reacted * reacted_on(lay, at.T, x, L)
        equilibria = (at.vapour - V[:, None] * self._rising(K, r, y)) / self._scale(K, L, V)
        decanted = None
        if lay.back:
            decanted = decant(lay, at)
            phases = decanted.told(phases[0]), phases[1]
        if self.real < 1.0 and lay.boils:
            phases = self._eased(phases[0], 0.0), self._eased(phases[1], LATENT)
        found = Looked(at, balances, equilibria, np.zeros(0), np.zeros(0), K, phases, decanted)
        carried_liquid, carried_vapour = self.liquid_heats(at, phases[0]), V * phases[1].enthalpy
        heats = carried_liquid + self.leaves * carried_vapour - self._fed_heat() - self.duties(at.free)
        heats[1:] -= (1.0 - drawn_liquid[:-1]) * carried_liquid[:-1]
        heats[:-1] -= (1.0 - drawn_vapour[1:]) * carried_vapour[1:]
        for link in lay.links:
            carried = self._carried(found, link)
            balances[link.target] -= carried.flows
            heats[link.target] -= carried.heat
        if lay.leaks is not None:
            heats += lay.leaks * (at.T - lay.surroundings)
        heats /= HEAT
        if self.real < 1.0 and not lay.boils:
            heats = self.real * heats + (1.0 - self.real) * (at.T - self.easy) / WARM
        others = [want.left(at) for want in self.wants]
        if lay.total:
            others = [float(heats[0]), *others]
            heats[0] = V[0] - 1.0
        return replace(found, heats=heats, others=np.array(others))

    def _carried(self, found: Looked, link: Link) -> Carried:
        """What a link takes."""
        if found.decanted is not None and link.phase == DECANTED:
            return found.decanted.carried(self.real)
        at, (liquid, vapour), j = found.at, found.phases, link.source
        share = 1.0 if link.share is None else float(at.free[link.share])
        of_liquid = link.phase == LIQUID
        flows, phase = (at.liquid[j], liquid) if of_liquid else (at.vapour[j], vapour)
        heat = float(self.liquid_enthalpy(at, liquid)[j] if of_liquid else vapour.enthalpy[j])
        total = float(flows.sum())
        by_T = share * total * float(phase.heat_capacity[j])
        eye = np.eye(len(flows))
        return Carried(share * flows, share * total * heat, share * eye, 0.0 * flows, share * phase.partial_enthalpies[j], by_T, share)

    def _eased(self, phase: PhaseRows, level: float) -> PhaseRows:
        """A phase whose enthalpy is on the way from one level (J/mol) for all to its own."""
        rest = (1.0 - self.real) * level
        own = self.real * phase.enthalpy + rest, self.real * phase.partial_enthalpies + rest, self.real * phase.heat_capacity
        return replace(phase, enthalpy=own[0], partial_enthalpies=own[1], heat_capacity=own[2])

    def _fed_heat(self) -> Vector:
        if self.real == 1.0 or not self.layout.boils:
            return self.layout.feed_heat
        return self.real * self.layout.feed_heat + (1.0 - self.real) * LATENT * self.easy

    def liquid_heats(self, at: Unknowns, liquid: PhaseRows) -> Vector:
        """J of the liquids that leave, (stages,)."""
        found: Vector = at.liquid.sum(axis=1) * self.liquid_enthalpy(at, liquid)
        if self.layout.vaporised > 0.0:
            found[self.layout.main - 1] = self.sump(at, liquid).carried
        return found

    def sump(self, at: Unknowns, liquid: PhaseRows) -> Sump:
        """What is mixed in the sump of a circulating reboiler."""
        lay, j = self.layout, self.layout.main - 1
        above = (1.0 - self.shares(at.free)[0][j - 1]) * float(at.liquid[j - 1].sum())
        heat = above * float(self.liquid_enthalpy(at, liquid)[j - 1]) + float(self._fed_heat()[j])
        return Sump.of(lay, at, liquid, (above + float(lay.feed[j].sum()), heat))

    def liquid_enthalpy(self, at: Unknowns, liquid: PhaseRows) -> Vector:
        """J/mol of the liquids that leave; that of a condenser may be colder than it boils."""
        colder = 0.0 if self.layout.back else self.layout.subcooling  # what is decanted has its own temperature already
        return liquid.enthalpy if colder == 0.0 else liquid.enthalpy - np.eye(1, len(at.T))[0] * colder * liquid.heat_capacity

    def _rising(self, K: Array, x: Array, y: Array) -> Array:
        """Composition of the vapours by equilibrium, or by Murphree's efficiency from those below."""
        share = self.layout.efficiencies
        found = share * K * x
        found[:-1] += (1.0 - share[:-1]) * y[1:]
        return found

    @staticmethod
    def _scale(K: Array, L: Vector, V: Vector) -> Array:
        return 1.0 + K * (V / L)[:, None]

    def step(self, found: Looked, slowed: float = 0.0) -> Unknowns | None:
        """Newton's step, None where there is none; ``slowed`` holds back every stage by that many of its own flows."""
        C = found.at.liquid.shape[1]
        left = np.concatenate([found.balances, found.equilibria, found.heats[:, None]], axis=1)
        moved = self.moves(found, -left[:, :, None], -found.others[:, None], slowed)
        if moved is None:
            return None
        stages, free = moved[0][:, :, 0], moved[1][:, 0]
        return Unknowns(stages[:, :C], stages[:, C : 2 * C], stages[:, 2 * C], free)

    def moves(self, found: Looked, of_stages: Array, of_others: Array, slowed: float = 0.0) -> tuple[Array, Array] | None:
        """How the unknowns of stages (stages, 2 components + 1, columns) and the free values (those, columns) move when the equations of stages are
        to change by ``of_stages`` and the others by ``of_others``, of the same shapes; None where nothing tells.
        """
        lay, at = self.layout, found.at
        C = at.liquid.shape[1]
        diagonal, upper, passed, brought = self._blocks(found)
        rows, columns = np.arange(C), of_stages.shape[2]
        if slowed > 0.0:
            diagonal[:, rows, rows] += slowed
            diagonal[1 if lay.total else 0 :, 2 * C, 2 * C] += slowed * 0.01
        slopes = [want.slopes(at) for want in self.wants]
        border, square = self._border(found, slopes)
        count = len(square)
        rhs = np.concatenate([of_stages, -border], axis=2)
        staged: Any = import_module("wattaxis.properties.kernels.staged")  # late: it loads with the first column
        if staged.eliminate(diagonal, upper, passed, brought, rhs) >= 0 or not np.isfinite(rhs).all():
            return None
        moved, by_border = rhs[:, :, :columns], rhs[:, :, columns:]
        if not count:
            return moved, np.zeros((0, columns))
        sides = self._sides(found, slopes)
        wanted = np.zeros((count, columns))
        wanted[: len(lay.free)] = of_others
        try:
            free = np.linalg.solve(square + np.einsum("kjn,jnb->kb", sides, by_border), wanted - np.einsum("kjn,jnm->km", sides, moved))
        except np.linalg.LinAlgError:
            return None
        return moved + by_border @ free, free[: len(lay.free)]

    def _blocks(self, found: Looked) -> tuple[Array, Array, Vector, Array]:
        lay, at, (liquid, vapour) = self.layout, found.at, found.phases
        N, C = at.liquid.shape
        L, V = at.liquid.sum(axis=1), at.vapour.sum(axis=1)
        x, y = at.liquid / L[:, None], at.vapour / V[:, None]
        r = returning(lay, x, y)
        drawn_liquid, drawn_vapour = self.shares(at.free)
        scale, rows, one = self._scale(found.K, L, V)[:, :, None], np.arange(C), np.eye(C)
        share = lay.efficiencies
        diagonal, upper = np.zeros((N, 2 * C + 1, 2 * C + 1)), np.zeros((N, 2 * C + 1, C + 1))
        diagonal[:, rows, rows] = 1.0
        diagonal[:, rows, C + rows] = self.leaves[:, None]
        # Of the vapour in equilibrium V K x, by the amounts of either phase and by temperature.
        Kx = found.K * r * share
        by_liquid = (share * found.K * (V / L)[:, None])[:, :, None] * one + (Kx * (V / L)[:, None])[:, :, None] * (liquid.log_phi_by_amounts - 1.0)
        by_vapour = self._rising(found.K, r, y)[:, :, None] - Kx[:, :, None] * vapour.log_phi_by_amounts
        diagonal[:, C : 2 * C, :C] = -by_liquid / scale
        diagonal[:, C : 2 * C, C : 2 * C] = (one - by_vapour) / scale
        slope = liquid.log_phi_by_temperature - vapour.log_phi_by_temperature
        diagonal[:, C : 2 * C, 2 * C] = -V[:, None] * Kx * slope / scale[:, :, 0]
        lost = (1.0 - share[:-1]) * (V[:-1] / V[1:])[:, None]
        upper[:-1, C : 2 * C, :C] = -(lost[:, :, None] * (one - y[1:, :, None])) / scale[:-1]
        # Heat.
        own = liquid.partial_enthalpies / HEAT
        warming = L * liquid.heat_capacity / HEAT
        diagonal[:, 2 * C, :C] = own
        diagonal[:, 2 * C, C : 2 * C] = self.leaves[:, None] * vapour.partial_enthalpies / HEAT
        diagonal[:, 2 * C, 2 * C] = warming + self.leaves * V * vapour.heat_capacity / HEAT
        upper[:-1, rows, rows] = -(1.0 - drawn_vapour[1:])[:, None]
        upper[:-1, 2 * C, :C] = -(1.0 - drawn_vapour[1:])[:, None] * vapour.partial_enthalpies[1:] / HEAT
        upper[:-1, 2 * C, C] = -(1.0 - drawn_vapour[1:]) * (V * vapour.heat_capacity)[1:] / HEAT
        passed, brought = np.zeros(N), np.zeros((N, C + 1))
        passed[1:] = -(1.0 - drawn_liquid[:-1])
        brought[1:, :C] = passed[1:, None] * own[:-1]
        brought[1:, C] = passed[1:] * warming[:-1]
        if lay.vaporised > 0.0:
            self._circulate(found, diagonal, passed, brought)
        if lay.leaks is not None:
            diagonal[:, 2 * C, 2 * C] += lay.leaks / HEAT
        if lay.reacting is not None:
            of_liquid, of_T = slopes_on(lay, at.T, x, L)
            diagonal[:, :C, :C] -= self.reacted * of_liquid
            diagonal[:, :C, 2 * C] -= self.reacted * of_T
        if self.real < 1.0 and not lay.boils:
            diagonal[:, 2 * C] *= self.real
            upper[:, 2 * C] *= self.real
            brought *= self.real
            diagonal[:, 2 * C, 2 * C] += (1.0 - self.real) / WARM
        if lay.total:
            self._cool(found, brought, passed)
            diagonal[0, 2 * C], upper[0, 2 * C] = 0.0, 0.0
            diagonal[0, 2 * C, C : 2 * C] = 1.0
        return diagonal, upper, passed, brought

    def _circulate(self, found: Looked, diagonal: Array, passed: Vector, brought: Array) -> None:
        """The lowest stage as sump and reboiler."""
        lay, at, (liquid, vapour) = self.layout, found.at, found.phases
        j, C = lay.main - 1, at.liquid.shape[1]
        L, V = at.liquid.sum(axis=1), at.vapour.sum(axis=1)
        scale, sump = self._scale(found.K, L, V)[j][:, None], self.sump(at, liquid)
        by_liquid, by_vapour = equilibrium_slopes(lay, at, found.K[j], liquid, vapour)
        diagonal[j, C : 2 * C, :C] = -by_liquid / scale
        diagonal[j, C : 2 * C, C : 2 * C] = (np.eye(C) - by_vapour) / scale
        of_liquid, of_vapour, warmer = heat_slopes(lay, at, liquid, sump)
        diagonal[j, 2 * C, :C] = of_liquid / HEAT
        diagonal[j, 2 * C, C : 2 * C] += of_vapour / HEAT
        diagonal[j, 2 * C, 2 * C] += (warmer - float(L[j] * liquid.heat_capacity[j])) / HEAT
        brought[j] *= 1.0 - sump.share
        brought[j, :C] -= passed[j] * sump.by_entering / HEAT

    def _cool(self, found: Looked, brought: Array, passed: Vector) -> None:
        """What a reflux below its boiling point brings less."""
        if len(passed) > 1:
            by_flows, warmer = self.lacking(found)
            brought[1, :-1] -= passed[1] * by_flows / HEAT
            brought[1, -1] -= passed[1] * warmer / HEAT

    def lacking(self, found: Looked) -> tuple[Vector, float]:
        """Slopes of the heat (J) that the liquid of a condenser lacks where it is colder than it boils, by its flows and by its temperature."""
        lay, at = self.layout, found.at
        C = at.liquid.shape[1]
        if lay.back or lay.subcooling == 0.0:  # what is decanted has its own temperature already
            return np.zeros(C), 0.0
        if not self.exact:
            return np.full(C, lay.subcooling * found.phases[0].heat_capacity[0]), 0.0
        amount = float(at.liquid[0].sum())
        rows = np.tile(at.liquid[0] / amount, (C + 3, 1))
        rows[np.arange(C), np.arange(C)] += _MOLES
        total = rows.sum(axis=1)
        T = at.T[0] + np.concatenate([np.zeros(C + 1), [-_WARMER, _WARMER]])
        P = np.full(C + 3, lay.P[0])
        x = rows / total[:, None]
        liquid = parted_rows(lay.model, T, P, x).whole if lay.parting else phase_rows(lay.model, "liquid", T, P, x, by_pressure=False)
        capacity = self.real * lay.subcooling * total * liquid.heat_capacity
        return (capacity[:C] - capacity[C]) / _MOLES, amount * float(capacity[C + 2] - capacity[C + 1]) / (2.0 * _WARMER)

    def _border(self, found: Looked, slopes: Sequence[Slopes]) -> tuple[Array, Array]:
        """What free values and links do: in the equations of stages (stages, n, those), and in the equations that settle them.

        A link is the flows of its components and its heat (over HEAT), which follow from the stage where it begins.
        """
        lay, at, (liquid, vapour) = self.layout, found.at, found.phases
        N, C = at.liquid.shape
        count = len(lay.free) + (C + 1) * len(lay.links)
        border, square = np.zeros((N, 2 * C + 1, count)), np.zeros((count, count))
        enthalpy = self.liquid_enthalpy(at, liquid)
        for k, free in enumerate(lay.free):
            j = free.stage
            if free.kind == "duty":
                if lay.total and j == 0:
                    square[0, k] = -1.0 / HEAT
                else:
                    border[j, 2 * C, k] = -1.0 / HEAT
            elif free.kind == "liquid":
                border[j + 1, :C, k] = at.liquid[j]
                carried = at.liquid[j].sum() * enthalpy[j] / HEAT
                if lay.vaporised > 0.0 and j + 2 == lay.main:
                    sump = self.sump(at, liquid)
                    carried = (1.0 - sump.share) * carried - float(at.liquid[j].sum()) * sump.by_entering / HEAT
                border[j + 1, 2 * C, k] = carried
            else:
                border[j - 1, :C, k] = at.vapour[j]
                carried = at.vapour[j].sum() * vapour.enthalpy[j] / HEAT
                if lay.total and j == 1:
                    square[0, k] = carried
                else:
                    border[j - 1, 2 * C, k] = carried
        first = 1 if lay.total else 0
        for k, slope in enumerate(slopes):
            square[first + k, : len(lay.free)] += slope.free
        for link, place in self._places(C):
            carried = self._carried(found, link)
            block = slice(place, place + C + 1)
            square[block, block] = np.eye(C + 1)
            border[link.target, :C, place : place + C] = -np.eye(C)
            border[link.target, 2 * C, place + C] = -1.0
            if link.share is not None:
                square[block, link.share] = -np.append(carried.flows, carried.heat / HEAT) / carried.share
        if self.real < 1.0 and not lay.boils:
            border[:, 2 * C] *= self.real
        return border, square

    def _places(self, C: int) -> list[tuple[Link, int]]:
        """The links with the first of their places in the border."""
        return [(link, len(self.layout.free) + k * (C + 1)) for k, link in enumerate(self.layout.links)]

    def _sides(self, found: Looked, slopes: Sequence[Slopes]) -> Array:
        """What the unknowns of the stages do in the equations of free values and links, (those, stages, n)."""
        lay, at, (liquid, vapour) = self.layout, found.at, found.phases
        N, C = at.liquid.shape
        sides = np.zeros((len(lay.free) + (C + 1) * len(lay.links), N, 2 * C + 1))
        L, V = at.liquid.sum(axis=1), at.vapour.sum(axis=1)
        first = 0
        if lay.total:
            first = 1
            drawn = self.shares(at.free)[1][1] if N > 1 else 0.0
            by_flows, warmer = self.lacking(found)
            sides[0, 0, :C] = (liquid.partial_enthalpies[0] - by_flows) / HEAT
            sides[0, 0, 2 * C] = (L[0] * liquid.heat_capacity[0] - warmer) / HEAT
            if N > 1:
                sides[0, 1, C : 2 * C] = -(1.0 - drawn) * vapour.partial_enthalpies[1] / HEAT
                sides[0, 1, 2 * C] = -(1.0 - drawn) * V[1] * vapour.heat_capacity[1] / HEAT
        for k, slope in enumerate(slopes):
            sides[first + k, :, :C], sides[first + k, :, C : 2 * C], sides[first + k, :, 2 * C] = slope.liquid, slope.vapour, slope.T
        for link, place in self._places(C):
            carried, j = self._carried(found, link), link.source
            of = C if link.phase == VAPOUR else 0
            sides[place : place + C, j, of : of + C] = -carried.by_flows
            sides[place : place + C, j, 2 * C] = -carried.warmer
            sides[place + C, j, of : of + C] = -carried.heat_by_flows / HEAT
            sides[place + C, j, 2 * C] = -carried.heat_warmer / HEAT
        return sides
