"""Solids that form from a liquid or dissolve in it, by solubilities or solubility products that are given over temperature."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from wattaxis.properties import FlashError
from wattaxis.properties.state import Vector
from wattaxis.reactions.equilibrium import EquilibriumError, conserved, reachable
from wattaxis.reactions.kinetics import KineticsError, check_reaction
from wattaxis.reactions.minimum import Minimum, NoMinimum, least_gibbs
from wattaxis.reactions.reaction import Reaction
from wattaxis.substances.solids import Solid

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel
    from wattaxis.properties.state import State

#: Times the molalities, and the liquid that is left beside a vapour, are renewed; the change in flows, as a share, that counts as none.
_RENEWALS, _SAME = 200, 1e-13
#: Renewals before the vapour is carried on to where they lead; shares of the whole below which there is no solvent, and nothing of anything.
_PLAIN, _DRY, _TRACE = 3, 1e-12, 1e-14
#: How near the interior search comes, from where on a solid is there; ln of a product over saturation that counts as none, corrections at most.
_NEAR, _THERE, _OVER, _POLISHES = 1e-11, 1e-7, 1e-13, 40
#: Share of the last step that the next one is from which on they have no end short of all or nothing, and how far that is.
_ENDLESS, _ALL = 0.999, 1e15


class Saturation:
    """Solids of a property model in a liquid, each formed from what is dissolved by one reaction, in saturation or absent.

    ``reactions`` have one solid each and no solid twice; ``products`` say by temperature (K) the natural logarithm of the product of the molalities
    (mol/kg of solvent) of what the solid is formed from, over that of what is formed beside it, each to its stoichiometric number; ``solvent`` counts
    in no product. The liquid is ideally diluted: a salt that is not in a product changes nothing but the amounts.

    Raises KineticsError for reactions of another kind.

    >>> from wattaxis import Component, HeatCapacity, PropertyModel, Solid, SolidHeatCapacity, SolidsModel, VapourPressure
    >>> stays = VapourPressure(4, (-60.0, 1.0, 0.0, 0.0, 0.0), 150.0, 1500.0)
    >>> brine = Component("brine", 0.05844, 3000.0, 5e7, 0.2, HeatCapacity((0.0,) * 5), vapour_pressure=stays, formula="NaCl")
    >>> salt = Solid.of("salt", molar_mass=0.05844, density=2160.0, heat_capacity=SolidHeatCapacity((50.0,) + (0.0,) * 4), formula="NaCl")
    >>> fluid = PropertyModel("ideal", ["water", brine])
    >>> model, forms = SolidsModel(fluid, [*fluid.components, salt]), Reaction("R1", {"brine": -1.0, "salt": 1.0}, "liquid")
    >>> made = Saturation(model, [forms], [lambda T: np.log(6.0)], "water")
    >>> [round(float(n), 4) for n in made.at([1.0 / 0.018015, 10.0, 0.0], 300.0, 1e5)[1:]]  # 6 mol/kg stay dissolved
    [6.0001, 3.9999]
    """

    def __init__(self, model: PropertyModel, reactions: Sequence[Reaction], products: Sequence[Callable[[float], float]], solvent: str) -> None:
        self.model, self.products, self.solvent = model, tuple(products), model.index(solvent)
        self.solid = np.array([isinstance(item, Solid) for item in model.components])
        if self.solid[self.solvent]:
            raise KineticsError("", f"{solvent} is a solid, in which nothing dissolves.")
        ids = [item.id for item in model.components]
        rows = []
        for reaction in reactions:
            check_reaction(reaction, model)
            row = np.array([reaction.numbers.get(name, 0.0) for name in ids])
            solids = np.flatnonzero(self.solid & (row != 0.0))
            if len(solids) != 1:
                raise KineticsError(
                    reaction.name, f"Reaction {reaction.name} has {len(solids) or 'no'} solids; one that forms from a solution has one."
                )
            row = row if row[solids[0]] > 0.0 else -row
            if not (self._dissolved(row) < 0.0).any():
                raise KineticsError(reaction.name, f"Reaction {reaction.name} forms its solid from nothing that is dissolved.")
            rows.append(row)
        self.numbers = np.array(rows).reshape(-1, len(ids))
        #: The last minimum by what may be there: the next temperature is near.
        self._last: dict[bytes, Minimum] = {}
        self._takes_part = (self.numbers != 0.0).any(axis=0)
        self.forms = [int(np.flatnonzero(self.solid & (row != 0.0))[0]) for row in rows]
        if len(set(self.forms)) < len(self.forms):
            twice = next(ids[k] for k in self.forms if self.forms.count(k) > 1)
            raise KineticsError("", f"Two reactions form {twice}; it has one solubility.")

    def _dissolved(self, row: Vector) -> Vector:
        """Stoichiometric numbers of what is dissolved."""
        return np.where(self.solid | (np.arange(len(row)) == self.solvent), 0.0, row)

    def at(self, feed: Sequence[float] | Vector, T: float, P: float) -> Vector:
        """What a feed (components,) becomes at T (K) and P (Pa), in its unit, shape (components,). Raises EquilibriumError."""
        start = np.asarray(feed, dtype=float)
        total = float(start.sum())
        if not total > 0.0:
            return start
        flows = start / total
        vapour, gaps = np.zeros_like(flows), list[float]()
        for _ in range(_RENEWALS):
            settled = vapour + self._settled(np.maximum(flows - vapour, 0.0), T)
            gap = self._vapour(settled, T, P) - vapour
            if np.abs(gap).max() <= _SAME:
                return np.asarray(total * np.where(self._takes_part & (settled < _TRACE), 0.0, settled))
            flows, gaps = settled, [*gaps, float(gap[self.solvent])]
            factor = 1.0
            if len(gaps) == _PLAIN:
                # The solvent that evaporates takes crystals out, which leaves less to hold it: the same share of it again and again.
                share = gaps[-1] / gaps[-2] if gaps[-2] != 0.0 else 0.0
                factor, gaps = 1.0 if share <= 0.0 else _ALL if share > _ENDLESS else 1.0 / (1.0 - share), []
            vapour = np.clip(vapour + factor * gap, 0.0, settled)
        raise EquilibriumError(f"At {T:.5g} K liquid, vapour and solids did not settle after {_RENEWALS} rounds.")

    def logarithms(self, state: State) -> Vector:
        """ln of the products of molalities in the liquid of a state, shape (reactions,); -inf where something of them is absent."""
        liquid = state.fractions - state.vapour_share * np.nan_to_num(state.vapour_fractions) - self.model.solids_of(state.fractions)
        solvent = liquid[self.solvent] * self.model.molar_masses[self.solvent]
        found = []
        for row in self.numbers:
            numbers = -self._dissolved(row)
            with np.errstate(divide="ignore", invalid="ignore"):
                levels = np.where(numbers == 0.0, 0.0, numbers * np.log(np.maximum(liquid, 0.0) / solvent))
            found.append(float(levels.sum()) if solvent > 0.0 else math.inf)
        return np.array(found)

    def _vapour(self, flows: Vector, T: float, P: float) -> Vector:
        flows = np.where(flows > _TRACE * flows.sum(), flows, 0.0)
        try:
            state = self.model.flash(flows, T=T, P=P)
        except FlashError as error:
            raise EquilibriumError(f"The solution has no state: {error}") from error
        if state.vapour_share <= 0.0:
            return np.zeros_like(flows)
        return np.asarray(np.minimum(float(flows.sum()) * state.vapour_share * state.vapour_fractions, flows))

    def _settled(self, amounts: Vector, T: float) -> Vector:
        """Liquid and solids in equilibrium with each other."""
        present, running = reachable(self.numbers, amounts > 0.0)
        if not running.any():
            return amounts
        if not amounts[self.solvent] > _DRY:
            return self._dried(amounts, running)
        levels = np.zeros(len(amounts))
        for j, (row, product) in enumerate(zip(self.numbers, self.products, strict=True)):
            levels[self.forms[j]] = product(T) / row[self.forms[j]]
        moving = present & ~self.solid
        still = np.zeros_like(present)
        still[[k for k, runs in zip(self.forms, running, strict=True) if runs]] = True
        taken = moving | still
        rows = conserved(self.numbers[running][:, taken])
        wanted = rows @ amounts[taken]
        of_moving = moving[taken]
        found = amounts.copy()
        near = self._last.get(taken.tobytes())
        for _ in range(_RENEWALS):
            share = found[self.solvent] / found[moving].sum()
            liquid = np.full(len(amounts), -math.log(share * self.model.molar_masses[self.solvent]))
            liquid[self.solvent] = -math.log(share)
            try:
                near = least_gibbs(liquid[None, moving], levels[still], rows[:, of_moving], rows[:, ~of_moving], wanted, near)
            except NoMinimum as error:
                raise EquilibriumError(f"No saturated solution was found at {T:.5g} K: {error}.") from error
            renewed = amounts.copy()
            renewed[moving], renewed[still] = near.amounts[0], near.solids
            moved = float(np.abs(renewed - found).max())
            found = np.maximum(renewed, 0.0)
            if not found[self.solvent] > 0.0:
                raise EquilibriumError(f"At {T:.5g} K the solids would bind all of the {self.model.components[self.solvent].id}.")
            if moved <= _NEAR * float(amounts.sum()):
                self._last[taken.tobytes()] = near
                return self._exact(found, np.flatnonzero(running), T)
        raise EquilibriumError(f"At {T:.5g} K the saturated solution did not settle after {_RENEWALS} rounds.")

    def _exact(self, near: Vector, running: NDArray[np.int64], T: float) -> Vector:
        """From near the saturated solution to rounding: Newton in the products of the solids that are there; who is there changes where need be."""
        found, total = near, float(near.sum())
        there = [int(j) for j in running if near[self.forms[j]] > _THERE * total]
        for j in [int(j) for j in running if j not in there]:  # what is hardly there is dissolved
            found = self._without(found, j)
        for _ in range(4 * len(running) + 4):
            found = self._saturated(found, there, T)
            if gone := [j for j in there if found[self.forms[j]] < 0.0]:
                worst = min(gone, key=lambda j: found[self.forms[j]])
                there.remove(worst)
                found = self._without(found, worst)
                continue
            excess = {int(j): self._excess(found, int(j), T) for j in running if j not in there}
            over = max(excess, key=lambda j: excess[j], default=None)
            if over is None or excess[over] <= _OVER:
                return np.maximum(found, 0.0)
            there.append(over)
        return np.maximum(found, 0.0)

    def _without(self, amounts: Vector, j: int) -> Vector:
        """With none of the solid of a reaction, as far as what its dissolving takes lasts."""
        row = self.numbers[j]
        extent = amounts[self.forms[j]] / row[self.forms[j]]
        taken = (row > 0.0) & ~self.solid
        most = float((amounts[taken] / row[taken]).min()) if taken.any() else np.inf
        return np.asarray(amounts - min(extent, most) * row)

    def _excess(self, amounts: Vector, j: int, T: float) -> float:
        """ln of the product of a reaction over that of saturation; -inf where something of it is absent."""
        numbers, solvent = -self._dissolved(self.numbers[j]), amounts[self.solvent] * self.model.molar_masses[self.solvent]
        taken = numbers != 0.0
        with np.errstate(divide="ignore"):
            level = float(numbers[taken] @ np.log(np.maximum(amounts[taken], 0.0) / solvent))
        return level - self.products[j](T) if math.isfinite(level) else -math.inf

    def _saturated(self, amounts: Vector, there: Sequence[int], T: float) -> Vector:
        """With the products of these reactions those of saturation; a solid may come out below nothing."""
        found, rows = amounts, self.numbers[list(there)]
        numbers = np.array([-self._dissolved(row) for row in rows])
        moving = ~self.solid
        for _ in range(_POLISHES if len(there) else 0):
            gaps = np.array([self._excess(found, j, T) for j in there])
            if not np.isfinite(gaps).all():
                break
            with np.errstate(divide="ignore", invalid="ignore"):
                slopes = np.where(numbers == 0.0, 0.0, numbers / found) @ rows.T
            slopes -= np.outer(numbers.sum(axis=1), rows[:, self.solvent]) / found[self.solvent]
            change = -np.linalg.solve(slopes, gaps) @ rows
            falling = moving & (change < 0.0)
            share = min(1.0, 0.9 * float((found[falling] / -change[falling]).min())) if falling.any() else 1.0
            found = found + share * change
            if share == 1.0 and np.abs(gaps).max() <= _OVER:
                break
        return np.asarray(found)

    def _dried(self, amounts: Vector, running: NDArray[np.bool_]) -> Vector:
        """What is left where all of the solvent is gone: one after the other every solid takes what it is formed from."""
        found = amounts.copy()
        for row in self.numbers[running]:
            used = row < 0.0
            found += row * max(float((found[used] / -row[used]).min()), 0.0)
        return np.maximum(found, 0.0)
