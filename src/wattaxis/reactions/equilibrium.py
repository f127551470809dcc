"""Chemical equilibrium of real mixtures: vapour, liquids and pure solids at a temperature and pressure, whatever may react or by chosen reactions."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, Literal

import numpy as np
from numpy.typing import NDArray

from wattaxis.properties import FlashError
from wattaxis.properties.state import Vector
from wattaxis.reactions.kinetics import check_constant, check_reaction
from wattaxis.reactions.minimum import Minimum, NoMinimum, least_gibbs
from wattaxis.reactions.reaction import Reaction
from wattaxis.reactions.thermochemistry import P_REF, R, StandardStates
from wattaxis.substances import atoms_of
from wattaxis.substances.solids import Solid

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel

Phases = Literal["stable", "vapour", "liquid"]
#: Times the fugacity coefficients are renewed, and what their logarithms may still change by, weighted with the amounts.
_RENEWALS, _SAME = 200, 1e-12
#: Share of the whole below which what is conserved is absent.
_NOTHING = 1e-14


class EquilibriumError(ArithmeticError):
    """No equilibrium was found, in physical words.

    >>> issubclass(EquilibriumError, ArithmeticError)
    True
    """


class ChemicalEquilibrium:
    """What mixtures of the components of a property model become when they react until nothing is gained any more.

    Without ``reactions`` everything reacts that its elements allow, except the ``inert`` components, those whose formula is not known (``unknown``)
    and those that are only ever ``dissolved``; with them only these, forward or backward. ``phases``: those that are stable, or one alone. Solids of
    the model are pure crystals, each present or not. Raises KineticsError for reactions that cannot be used, ValueError for an inert component that
    is none.

    >>> from wattaxis import PropertyModel
    >>> ids = ["carbon monoxide", "water", "carbon dioxide", "hydrogen"]
    >>> shift = ChemicalEquilibrium(PropertyModel("ideal", ids))
    >>> [round(float(n), 3) for n in shift.at([1.0, 1.0, 0.0, 0.0], 1000.0, 1e5)]
    [0.456, 0.456, 0.544, 0.544]
    """

    def __init__(
        self, model: PropertyModel, reactions: Sequence[Reaction] | None = None, *, inert: Collection[str] = (), phases: Phases = "stable"
    ) -> None:
        self.model, self.phases = model, phases
        self.ids = [item.id for item in model.components]
        if strange := [name for name in inert if name not in self.ids]:
            raise ValueError(f"{', '.join(strange)}: not among the components.")
        for reaction in reactions or ():
            check_reaction(reaction, model)
            check_constant(reaction, model, "let a crystalliser form the solid, or give a conversion")
        self.reactions = None if reactions is None else tuple(reactions)
        self.numbers = np.array([[r.numbers.get(name, 0.0) for name in self.ids] for r in reactions or ()]).reshape(-1, len(self.ids))
        #: Those that are only ever dissolved have no place in it: their formation data are those of a solution.
        self.dissolved = tuple(item.id for item in model.components if item.only_dissolved)
        left_out = {*inert, *self.dissolved}
        atoms = [None if item.id in left_out else atoms_of(item.formula) for item in model.components]
        self.unknown = tuple(name for name, known in zip(self.ids, atoms, strict=True) if known is None and name not in left_out)
        elements = sorted({element for known in atoms for element in known or {}})
        self._atoms = np.array([[(known or {}).get(element, 0.0) for known in atoms] for element in elements]).reshape(-1, len(self.ids))
        self._alone = np.array([known is None for known in atoms])
        self._solid = np.array([isinstance(item, Solid) for item in model.components])
        self._states = StandardStates(model.components)

    def log_constants(self, T: float) -> Vector:
        """ln K of every reaction at T (K), in fugacities over 1 bar, shape (reactions,)."""
        return self._states.log_constants(self.numbers, T)

    def at(self, feed: Sequence[float] | Vector, T: float, P: float, approach: float | Sequence[float] | Vector = 0.0) -> Vector:
        """What a feed (components,) becomes at T (K) and P (Pa), in its unit, shape (components,).

        ``approach`` (K): the equilibrium is that at T plus so much, one for all or (reactions,). Raises EquilibriumError, and ValueError for
        reactions that follow from one another and have approaches that quarrel.
        """
        start = np.asarray(feed, dtype=float)
        total = float(start.sum())
        if not total > 0.0:
            return start
        share = start / total
        taking = self._part_of(share)
        if taking.rows.shape[0] >= int(taking.present.sum()):  # as many quantities are conserved as there are components: nothing can react
            return start
        levels = self._levels(T, np.asarray(approach, dtype=float))
        return np.asarray(total * self._settled(share, taking, levels, T, P))

    def _levels(self, T: float, approach: Vector) -> Vector:
        """mu/RT of all components in their standard states, so that the reactions have the constants of their approach."""
        if approach.ndim == 0:
            at = T + float(approach)
            h, s = self._states.levels(np.asarray(at))
            return np.asarray(h / at - s) / R
        h, s = self._states.levels(np.asarray(T))
        wanted = np.array([self._states.log_constants(row[None, :], T + float(dt))[0] for row, dt in zip(self.numbers, approach, strict=True)])
        gap = wanted - self.log_constants(T)
        shift = np.linalg.lstsq(self.numbers, -gap, rcond=None)[0]
        if np.abs(self.numbers @ shift + gap).max(initial=0.0) > 1e-9 * max(1.0, np.abs(gap).max(initial=0.0)):
            raise ValueError("One of the reactions follows from the others, so its approach to equilibrium follows from theirs.")
        return np.asarray((h / T - s) / R + shift)

    def _part_of(self, share: Vector) -> _Part:
        """What may be there of a feed, and what is conserved."""
        return self._by_elements(share) if self.reactions is None else self._by_reactions(share)

    def _by_elements(self, share: Vector) -> _Part:
        there = self._atoms @ share > _NOTHING
        lacking = (self._atoms[~there] != 0.0).any(axis=0)
        present = np.where(self._alone, share > 0.0, ~lacking)
        own = np.eye(len(share))[self._alone & present]
        return _Part(present, _independent(np.vstack([self._atoms[there], own])[:, present]))

    def _by_reactions(self, share: Vector) -> _Part:
        """Only what can be made of the feed: reactions of something that never appears do not take place."""
        present, running = reachable(self.numbers, share > 0.0)
        numbers = self.numbers[running][:, present]
        if not numbers.size:
            return _Part(present, np.eye(int(present.sum())))
        return _Part(present, conserved(numbers))

    def _settled(self, share: Vector, taking: _Part, levels: Vector, T: float, P: float) -> Vector:
        """Renew the fugacity coefficients until they are those of what they lead to."""
        fluid, still = taking.present & ~self._solid, taking.present & self._solid
        of_fluid, of_still = ~self._solid[taking.present], self._solid[taking.present]
        conserved = taking.rows @ share[taking.present]
        base, places = levels[fluid] + np.log(P / P_REF), np.flatnonzero(fluid)
        coefficients = np.zeros((1 if fluid.any() else 0, len(places)))
        near: Minimum | None = None
        pace, before = 1.0, np.inf
        for _ in range(_RENEWALS):
            try:
                near = least_gibbs(base + coefficients, levels[still], taking.rows[:, of_fluid], taking.rows[:, of_still], conserved, near)
            except NoMinimum as error:
                raise EquilibriumError(f"No equilibrium was found at {T:.5g} K: {error}.") from error
            found = np.zeros(len(share))
            found[places], found[still] = near.amounts.sum(axis=0), near.solids
            found = np.maximum(found, 0.0)
            moving = float(found[places].sum())
            if moving <= 1e-13 or not places.size:
                return found
            renewed = np.array([np.log(row[places]) for row in self._coefficients(found, T, P)])
            if renewed.shape != coefficients.shape:
                coefficients, pace, before = renewed, 1.0, np.inf
                continue
            change = renewed - coefficients
            weight = near.amounts / moving
            size = float(np.abs(weight * change).max())
            if size <= _SAME:
                return found
            pace = max(0.2, 0.6 * pace) if size > 0.9 * before else min(1.0, 1.2 * pace)
            coefficients, before = coefficients + pace * change, size
        raise EquilibriumError(f"At {T:.5g} K and {P / 1e5:.5g} bar the composition at equilibrium was not settled after {_RENEWALS} rounds.")

    def _coefficients(self, found: Vector, T: float, P: float) -> list[Vector]:
        """Fugacity coefficients of all components in each fluid phase of amounts."""
        amounts = np.where(self._solid, 0.0, found)
        share = amounts / amounts.sum()
        if self.phases != "stable":
            coefficients = np.ones(len(self.ids))
            coefficients[~self._solid] = self.model.fluid.phase(self.phases, T, P, share[~self._solid]).fugacity_coefficients
            return [coefficients]
        try:
            return [phase.fugacity_coefficients for phase in self.model.flash(share, T=T, P=P).phases if phase.kind != "solid"]
        except FlashError as error:
            raise EquilibriumError(f"What would be at equilibrium has no state: {error}") from error


@dataclass(frozen=True)
class _Part:
    """Which components may be there, and independent rows (conserved, present) of what they conserve."""

    present: NDArray[np.bool_]
    rows: Vector


def reachable(numbers: Vector, present: NDArray[np.bool_]) -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
    """Components (components,) that there are or may be formed, and the reactions (reactions,) of which one side or the other is all there."""
    running = np.zeros(len(numbers), dtype=bool)
    for _ in range(len(numbers) + 1):
        for j, row in enumerate(numbers):
            if not running[j] and (present[row < 0.0].all() or present[row > 0.0].all()):
                running[j] = True
                present = present | (row != 0.0)
    return present, running


def conserved(numbers: Vector) -> Vector:
    """Independent rows (conserved, components) of what reactions (reactions, components) leave as it is."""
    _, sizes, right = np.linalg.svd(numbers)
    return np.asarray(right[int((sizes > 1e-10 * sizes[0]).sum()) :])


def _independent(rows: Vector) -> Vector:
    """Rows at right angles that span the same."""
    if not rows.size:
        return rows
    _, sizes, right = np.linalg.svd(rows, full_matrices=False)
    return np.asarray(right[: int((sizes > 1e-10 * sizes[0]).sum())])
