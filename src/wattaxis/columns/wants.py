"""What is wanted of a column: ratios, rates, purities, recoveries, temperatures, duties; each settles one of its free values."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

import numpy as np

from wattaxis.columns.layout import DISTILLATE, NONE, OVERHEAD, REFLUX_LINK, ColumnError, Link, Product
from wattaxis.columns.qualities import AT_PRESSURE, AT_TEMPERATURE, BOILING, DEW, PROPERTIES, property_of, slopes_of
from wattaxis.properties.state import Vector

if TYPE_CHECKING:
    from wattaxis.columns.equations import Array, Unknowns
    from wattaxis.columns.layout import Layout

#: Mole or mass, as fractions and flows count.
MOLE, MASS = "mole", "mass"
REFLUX, BOIL_UP, FLOW, FRACTION, RECOVERY = "reflux ratio", "boil-up ratio", "flow", "fraction", "recovery"
DUTY, TEMPERATURE, STAGE_FLOW = "duty", "temperature", "stage flow"
COMPONENT_RATIO, DRAW_RATIO = "component ratio", "draw ratio"
#: J/mol and K by which what is left of duties and temperatures becomes a small number.
_DUTY, _WARM = 2e4, 100.0


@dataclass(frozen=True)
class Want:
    """One thing that a column shall reach: its ``kind``, its ``value`` (SI; shares from 0 to 1, flows mol/s or kg/s), and of what.

    ``product`` by name and ``components`` by id for flows, fractions and recoveries (no components: all of the product); ``stage`` from 1 for
    temperatures and flows of a stage, ``phase`` of the latter; ``place`` "condenser", "reboiler" or a pump-around or side stripper by name for duties
    (W, positive where heat is added), a side stripper by name for its boil-up ratio. A component ratio is that of the first of two components to the
    second in a product, a draw ratio what is drawn over what goes on from that stage. Properties of a product ("vapour pressure",
    "boiling temperature", "dew temperature", "liquid density") are those at ``T`` (K), ``P`` (Pa), or both.

    >>> Want("fraction", 0.99, product="distillate", components=("benzene",)).text
    'fraction of benzene in the distillate'
    """

    kind: str
    value: float
    product: str = ""
    components: tuple[str, ...] = ()
    basis: str = MOLE
    stage: int = 0
    phase: str = "liquid"
    place: str = ""
    T: float = 0.0
    P: float = 0.0

    @property
    def text(self) -> str:
        """In words."""
        of = f" of {' and '.join(self.components)}" if self.components else ""
        if self.kind in (FLOW, FRACTION, RECOVERY):
            mass = " by mass" if self.basis == MASS and self.kind != RECOVERY else ""
            return f"{self.kind}{of}{mass} in the {self.product}"
        if self.kind == COMPONENT_RATIO:
            return f"{' to '.join(self.components) or self.kind}{' by mass' if self.basis == MASS else ''} in the {self.product}"
        if self.kind == DRAW_RATIO:
            return f"draw ratio of the {self.product}"
        if self.kind in PROPERTIES:
            at = [f"{self.T:.5g} K"] * (self.kind in AT_TEMPERATURE) + [f"{self.P / 1e5:.5g} bar"] * (self.kind in AT_PRESSURE)
            return f"{self.kind} of the {self.product} at {' and '.join(at)}"
        if self.kind == DUTY:
            return f"duty of the {self.place}"
        if self.kind == BOIL_UP and self.place:
            return f"{self.kind} of the {self.place}"
        if self.kind == TEMPERATURE:
            return f"temperature of stage {self.stage}"
        return f"{self.phase} flow of stage {self.stage}" if self.kind == STAGE_FLOW else self.kind

    def at(self, value: float) -> Want:
        """The same with another value."""
        return replace(self, value=value)


@dataclass(frozen=True)
class Slopes:
    """Derivatives by all unknowns."""

    liquid: Array
    vapour: Array
    T: Vector
    free: Vector

    def plus(self, other: Slopes, times: float) -> Slopes:
        """With so much of another."""
        return Slopes(
            self.liquid + times * other.liquid, self.vapour + times * other.vapour, self.T + times * other.T, self.free + times * other.free
        )


Measure = Callable[["Unknowns"], tuple[float, Slopes]]


@dataclass(frozen=True)
class Bound:
    """A want bound to a column: ``over`` less its value times ``under`` is nothing; ``size`` makes that a small number.

    ``fed`` (components,): what ``under`` has of a mole of each component fed, where it is not of the state.
    """

    want: Want
    value: float
    over: Measure
    under: Measure
    size: Callable[[float, float], float]
    fed: Vector | None = None

    def now(self, at: Unknowns) -> float:
        """What it is, in the unit of its value within the column."""
        over, under = self.over(at)[0], self.under(at)[0]
        return over / under if under != 0.0 else np.inf

    def left(self, at: Unknowns) -> float:
        """How far it is off."""
        over, under = self.over(at)[0], self.under(at)[0]
        return (over - self.value * under) / self.size(over, under)

    def slopes(self, at: Unknowns) -> Slopes:
        """Derivatives of what is left; its size counts as constant."""
        (over, of_over), (under, of_under) = self.over(at), self.under(at)
        size = self.size(over, under)
        whole = of_over.plus(of_under, -self.value)
        return Slopes(whole.liquid / size, whole.vapour / size, whole.T / size, whole.free / size)


class Binder:
    """Binds wants to a column. Raises ColumnError for those that say nothing of it."""

    def __init__(self, layout: Layout) -> None:
        self.layout = layout
        self.ids = [component.id for component in layout.model.components]

    def named(self, want: Want) -> Want:
        """A want with the ids of its components in the place of other names of theirs."""
        try:
            return replace(want, components=tuple(self.ids[self.layout.model.index(name)] for name in want.components))
        except KeyError as error:
            raise ColumnError(f"The {want.text} is wanted: {error.args[0]}", "Choose one of them.") from None

    def bound(self, want: Want) -> Bound:
        """A want as the equations take it, its components by their ids."""
        lay, value = self.layout, want.value
        if want.kind == REFLUX:
            return self._reflux(want)
        if want.kind == BOIL_UP:
            last = self._section(want)
            return Bound(want, value, self._flow("vapour", last, self._all), self._flow("liquid", last, self._all), _by_sum(value))
        if want.kind == FLOW:
            return Bound(want, value / lay.whole, self._product(want), self._one, lambda over, under: 1.0)
        if want.kind == FRACTION:
            if not 0.0 < value < 1.0:
                raise ColumnError(f"The {want.text} is to be {value:.6g}, and a fraction that can be met lies between 0 and 1.", "Give such a one.")
            every = self._product(replace(want, components=()))
            spread = value * (1.0 - value)
            return Bound(want, value, self._product(want), every, lambda over, under: max(abs(under), 1e-12) * spread)
        if want.kind == RECOVERY:
            return self._recovery(want)
        if want.kind == DUTY:
            place = next((k for k, free in enumerate(lay.free) if free.kind == "duty" and free.name == want.place), None)
            if place is None:
                raise ColumnError(f"The column has no {want.place}, whose duty is wanted.", "Want something else.")
            return Bound(want, value / lay.whole, self._free(place), self._one, lambda over, under: _DUTY)
        if want.kind == COMPONENT_RATIO:
            return self._ratio(want)
        if want.kind == DRAW_RATIO:
            return self._drawn(want)
        if want.kind in PROPERTIES:
            return self._property_of(want)
        if want.kind == TEMPERATURE:
            self._on_stage(want)
            return Bound(want, value, self._temperature(want.stage - 1), self._one, lambda over, under: _WARM)
        if want.kind == STAGE_FLOW:
            self._on_stage(want)
            over = self._flow(want.phase, want.stage - 1, self._weights(want))
            return Bound(want, value / lay.whole, over, self._one, lambda over, under: 1.0)
        raise ColumnError(f'A column has no "{want.kind}".', "Want one of what it has.")

    def unbound(self, bound: Bound, value: float) -> float:
        """A value within the column in the unit of its want."""
        return value * self.layout.whole if bound.want.kind in (FLOW, DUTY, STAGE_FLOW) else value

    @property
    def _all(self) -> Vector:
        return np.ones(len(self.ids))

    def _on_stage(self, want: Want) -> None:
        if not 1 <= want.stage <= self.layout.stages:
            raise ColumnError(f"The {want.text} is wanted, and the column has stages 1 to {self.layout.stages}.", "Choose a stage of the column.")

    def _weights(self, want: Want) -> Vector:
        """What a mole of each component counts."""
        weights = np.zeros(len(self.ids))
        for name in want.components or self.ids:
            weights[self.ids.index(name)] = 1.0
        return weights * self.layout.model.molar_masses if want.basis == MASS and want.kind != RECOVERY else weights

    def _zero(self) -> Slopes:
        stages, n = self.layout.stages, len(self.ids)
        return Slopes(np.zeros((stages, n)), np.zeros((stages, n)), np.zeros(stages), np.zeros(len(self.layout.free)))

    def _one(self, _at: Unknowns) -> tuple[float, Slopes]:
        return 1.0, self._zero()

    def _free(self, place: int) -> Measure:
        def measure(at: Unknowns) -> tuple[float, Slopes]:
            slopes = self._zero()
            slopes.free[place] = 1.0
            return float(at.free[place]), slopes

        return measure

    def _temperature(self, stage: int) -> Measure:
        def measure(at: Unknowns) -> tuple[float, Slopes]:
            slopes = self._zero()
            slopes.T[stage] = 1.0
            return float(at.T[stage]), slopes

        return measure

    def _flow(self, phase: str, stage: int, weights: Vector, share: int | None = None, rest: bool = False) -> Measure:
        """A flow of a stage: all of it, the ``share`` of it that a free value is, or the ``rest``."""

        def measure(at: Unknowns) -> tuple[float, Slopes]:
            slopes = self._zero()
            flows, of = (at.liquid, slopes.liquid) if phase == "liquid" else (at.vapour, slopes.vapour)
            amount = float(weights @ flows[stage])
            taken = 1.0 if share is None else 1.0 - float(at.free[share]) if rest else float(at.free[share])
            of[stage] = taken * weights
            if share is not None:
                slopes.free[share] = -amount if rest else amount
            return taken * amount, slopes

        return measure

    def _product(self, want: Want) -> Measure:
        product = self.layout.product(want.product)
        if self.layout.back and product.name in (DISTILLATE, REFLUX_LINK):
            return self._decanted(self._weights(want), product.name == DISTILLATE)
        return self._flow(product.phase, _stage_of(product), self._weights(want), product.share)

    def _section(self, want: Want) -> int:
        """The last stage (from 0) of the column, or of the side stripper that is meant."""
        for section in self.layout.sections:
            if section.name == want.place:
                return section.last
        raise ColumnError(f'The column has no side stripper "{want.place}", whose boil-up ratio is wanted.', "Choose one that it has.")

    def _ratio(self, want: Want) -> Bound:
        if len(want.components) != 2 or want.components[0] == want.components[1] or not want.value > 0.0:
            raise ColumnError("A component ratio is that of two different components, and above 0.", "Give such a one.")
        over, under = (self._product(replace(want, components=(name,))) for name in want.components)
        return Bound(want, want.value, over, under, lambda a, b: max(abs(a), abs(want.value * b), 1e-12))

    def _property_of(self, want: Want) -> Bound:
        needed = [want.T] * (want.kind in AT_TEMPERATURE) + [want.P] * (want.kind in AT_PRESSURE)
        if not (want.value > 0.0 and all(value > 0.0 for value in needed)):
            raise ColumnError(f"The {want.text} is to be {want.value:.6g}.", "Give values above 0.")
        parts = [self._product(replace(want, components=(name,), basis=MOLE)) for name in self.ids]

        def measure(at: Unknowns) -> tuple[float, Slopes]:
            measured = [part(at) for part in parts]
            flows = np.array([flow for flow, _ in measured])
            value, slopes = property_of(self.layout.model, want.kind, flows, want.T, want.P), self._zero()
            for (_, of_flow), by in zip(measured, slopes_of(self.layout.model, want.kind, flows, want.T, want.P), strict=True):
                slopes = slopes.plus(of_flow, float(by))
            return value, slopes

        size = _WARM if want.kind in (BOILING, DEW) else want.value
        return Bound(want, want.value, measure, self._one, lambda over, under: size)

    def _drawn(self, want: Want) -> Bound:
        taken = self.layout.product(want.product)
        if taken.share is None or not want.value > 0.0:
            raise ColumnError(f"A {want.text} of {want.value:.6g} is wanted.", "Give one above 0, of something that is drawn.")
        rest = self._flow(taken.phase, _stage_of(taken), self._all, taken.share, rest=True)
        return Bound(want, want.value, self._product(want), rest, _by_sum(want.value))

    def _decanted(self, weights: Vector, leaves: bool) -> Measure:
        """A flow of what goes back, or ``leaves``, of a condensate that is decanted."""
        from wattaxis.columns.carried import decant  # late: it loads the kernels

        def measure(at: Unknowns) -> tuple[float, Slopes]:
            slopes, carried = self._zero(), decant(self.layout, at).carried()
            flows, by_flows, warmer = carried.flows, carried.by_flows, carried.warmer
            if leaves:
                flows, by_flows, warmer = at.liquid[0] - flows, np.eye(len(flows)) - by_flows, -warmer
            slopes.liquid[0] = weights @ by_flows
            slopes.T[0] = float(weights @ warmer)
            return float(weights @ flows), slopes

        return measure

    def _recovery(self, want: Want) -> Bound:
        weights = self._weights(want)
        fed = float(weights @ self.layout.feed.sum(axis=0))
        if not fed > 0.0:
            raise ColumnError(f"The {want.text} is wanted, and none of it is fed.", "Choose components that are fed.")
        if not 0.0 < want.value < 1.0:
            raise ColumnError(f"The {want.text} is to be {want.value:.6g}, and a recovery lies between 0 and 1.", "Give such a one.")
        spread = fed * want.value * (1.0 - want.value)
        return Bound(want, want.value, self._product(want), lambda _at: (fed, self._zero()), lambda over, under: spread, weights)

    def _reflux(self, want: Want) -> Bound:
        lay = self.layout
        if lay.condenser == NONE:
            raise ColumnError("A reflux ratio is wanted of a column without a condenser.", "Want something else, or give it a condenser.")
        if lay.back:
            return Bound(want, want.value, self._decanted(self._all, False), self._decanted(self._all, True), _by_sum(want.value))
        at = next((product.share for product in lay.products if product.name == DISTILLATE), None)
        back = self._flow("liquid", 0, self._all, at, rest=at is not None)
        parts = [self._product(Want(FLOW, 0.0, p.name)) for p in lay.products if p.name in (DISTILLATE, OVERHEAD)]
        return Bound(want, want.value, back, _sum_of(parts), _by_sum(want.value))


def _stage_of(what: Product | Link) -> int:
    return what.stage if isinstance(what, Product) else what.source


def _sum_of(parts: Sequence[Measure]) -> Measure:
    def measure(at: Unknowns) -> tuple[float, Slopes]:
        amount, slopes = parts[0](at)
        for part in parts[1:]:
            more, of_more = part(at)
            amount, slopes = amount + more, slopes.plus(of_more, 1.0)
        return amount, slopes

    return measure


def _by_sum(value: float) -> Callable[[float, float], float]:
    return lambda over, under: max((1.0 + value) * abs(under), 1e-12)
