"""Constants and orders of rate laws from measurements in a batch, a stirred tank or a tube, by weighted least squares."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from scipy.optimize import least_squares

from wattaxis.progress import reached
from wattaxis.properties.errors import FlashError
from wattaxis.properties.fitting.confidence import confidence
from wattaxis.properties.fitting.data import DATA_KINDS, TANK, Array, DataSet
from wattaxis.properties.fitting.fit import NOT_TOLD_APART, Deviation
from wattaxis.properties.model import PropertyModel
from wattaxis.properties.tables import html_table
from wattaxis.quantities.quantity import dimension
from wattaxis.reactions.constants import Arrhenius
from wattaxis.reactions.course import TOLERANCE, USUAL_PRESSURE, Course
from wattaxis.reactions.expression import Expression
from wattaxis.reactions.free import FreeRate, constant_at, constant_of, law_of, number_of, of_one_law, with_constant, with_law, with_number
from wattaxis.reactions.kinetics import Kinetics
from wattaxis.reactions.rates import adsorption_unit, si_of
from wattaxis.reactions.reaction import RateLaw, ReactionSet
from wattaxis.reactions.runs import Run, runs_of
from wattaxis.reactions.thermochemistry import R

#: Standard deviations, in place of a course that the rates do not have.
_HUGE = 1e4
#: Powers of ten by which each free constant is moved, and how often all of them, to find where to start.
_DECADES, _SWEEPS = range(-4, 5), 2
#: Powers of ten beyond its start at which a constant is as good as nothing or without limit; how near to it, in relation to itself.
_BEYOND, _AT_END = 10.0, 1e-3
#: Times the sum of squares from where the numbers of the set are followed too.
_NOT_MUCH_WORSE = 10.0
#: Relative tolerance of integrations while a start is looked for, and the change of a number of the law by which slopes are differenced.
_ROUGH, _MOVED = 1e-6, (1e-4, 1e-6)
#: J/mol, and the order, of either sign, that no energy and no order of a reaction or an adsorption is beyond.
_MOST_ENERGY, _MOST_ORDER = 6e5, 3.0
#: J/mol in which energies are searched, from where one starts that is not known, and K within which no energy shows.
_ENERGY, _USUAL_ENERGY, _APART = 1e4, 6e4, 3.0
#: Deviation of ln of a constant from which on only its magnitude is known.
_VAGUE = 1.0
#: Compressibility factors that differ from one by more are told of a gas.
_NOT_IDEAL = 0.03


@dataclass(frozen=True)
class RateFit:
    """Fitted numbers of rate laws with their standard errors, 95 % half-widths (nan of what ended at a bound) and correlation (free, free);
    deviations, what is to be said.

    A constant holds at the ``reference`` temperature (K), nan where the law says itself at which. ``reactions`` are the set with the fitted numbers;
    ``akaike`` is the corrected information criterion (Hurvich, Tsai 1989), by which laws for the same data are compared: the lower the better.

    >>> from wattaxis.reactions import PowerLaw, Reaction
    >>> law = RateLaw(PowerLaw({"propane": 1.0}), Arrhenius(1.0))
    >>> made = ReactionSet("Cracking", (Reaction("R1", {"propane": -1.0, "propene": 1.0, "hydrogen": 1.0}, "vapour", law),))
    >>> data = DataSet("tube", ("propane",), {"T": [800.0] * 3, "t": [1.0, 2.0, 4.0], "f1": [10.0] * 3, "c1": [8.3, 6.9, 4.9]})
    >>> isinstance(fit_rates(made, PropertyModel("ideal", ["propane", "propene", "hydrogen"]), [data], [FreeRate("R1")]), RateFit)
    True
    """

    free: tuple[FreeRate, ...]
    values: Array
    standard_errors: Array
    half_widths: Array
    correlation: Array
    reference: Array
    sum_of_squares: float
    akaike: float
    deviations: tuple[Deviation, ...]
    notes: tuple[str, ...]
    quality: str
    reactions: ReactionSet
    kinetics: Kinetics
    runs: tuple[Run, ...]
    data: tuple[DataSet, ...]

    def constant(self, f: FreeRate, T: float) -> float:
        """A constant of the fitted set at T (K), in SI units."""
        return constant_at(self.reactions, f, T)

    def unit(self, f: FreeRate) -> str:
        """The SI unit of a fitted number."""
        if f.part != "constant":
            return "J/mol" if f.part == "energy" else ""
        law = law_of(self.reactions, f)
        if isinstance(law, Expression):
            unit = law.constants[f.constant].unit
            return si_of(dimension(unit)) if unit else ""
        return law.law.constant_unit if f.constant == "k" else adsorption_unit(law.law.basis, law.adsorption[int(f.constant[1:]) - 1].order)

    def by_temperature(self) -> dict[float, list[float]]:
        """The free constants (SI units, nan for all else) fitted to the data of each temperature alone; energies and orders as fitted to all.

        Temperatures whose data do not determine them are left out.
        """
        constants = [f for f in self.free if f.part == "constant"]
        found: dict[float, list[float]] = {}
        for T in sorted({run.T for run in self.runs}):
            aside = [{int(p): "another temperature" for p in np.flatnonzero(d.columns["T"] != T)} for d in self.data]
            data = [replace(d, set_aside={**d.set_aside, **more}) for d, more in zip(self.data, aside, strict=True)]
            try:
                alone = _Problem(self.reactions, self.kinetics.model, data, constants).alone()
            except ValueError:
                continue
            found[T] = [constant_at(alone, f, T) if f.part == "constant" else math.nan for f in self.free]
        return found

    def _repr_html_(self) -> str:
        rows = [[f.label, float(v), float(h)] for f, v, h in zip(self.free, self.values, self.half_widths, strict=True)]
        return html_table(["of the rate laws", "value", "95 % +-"], rows)


def fit_rates(of: ReactionSet, model: PropertyModel, data: Sequence[DataSet], free: Sequence[FreeRate]) -> RateFit:
    """Fit numbers of the rate laws of a set to measured concentrations and conversions; all else of the set stays as it is.

    Every run is integrated at its temperature (see :func:`wattaxis.reactions.course`), each deviation over its standard deviation. Free constants are
    searched as ln k, where the energy is free too at the temperature of the law or, where it has none, in the middle of the data. The search starts
    from the constants of the set and from these times powers of ten; scipy's trust-region solver. Confidence as of :func:`fit_pairs`.

    Raises ValueError for data that do not suit, for fewer values than numbers to fit, and KineticsError for a set that cannot be used.

    >>> from wattaxis.reactions import PowerLaw, Reaction
    >>> law = RateLaw(PowerLaw({"propane": 1.0}), Arrhenius(1.0))
    >>> made = ReactionSet("Cracking", (Reaction("R1", {"propane": -1.0, "propene": 1.0, "hydrogen": 1.0}, "vapour", law),))
    >>> c = [10.0, 8.187, 6.703, 5.488]
    >>> data = DataSet("batch", ("propane",), {"T": [800.0] * 4, "t": [0.0, 2.0, 4.0, 6.0], "c1": c})
    >>> fit = fit_rates(made, PropertyModel("ideal", ["propane", "propene", "hydrogen"]), [data], [FreeRate("R1")])
    >>> fit.values.round(4).tolist()
    [0.1]
    """
    return _Problem(of, model, data, free).solve()


@dataclass(frozen=True)
class _Measured:
    """A measured value: of which run, point and time, of which column, the component that it is of (-1: the conversion), its standard deviation."""

    run: int
    point: int
    at: int
    column: str
    component: int
    value: float
    deviation: float


class _Problem:
    def __init__(self, of: ReactionSet, model: PropertyModel, data: Sequence[DataSet], free: Sequence[FreeRate]) -> None:
        if not free:
            raise ValueError("Choose at least one number of a rate law to fit.")
        if others := [d.kind for d in data if not DATA_KINDS[d.kind].reacting]:
            raise ValueError(f"Rates are fitted to data of reactions, and one set is of the kind {others[0]}.")
        self.set, self.model, self.data, self.free = of, model, list(data), tuple(free)
        self.notes: list[str] = []
        kinetics = Kinetics(of, model)  # refuses a set that cannot be used, before anything is looked for in it
        self.runs = [run for k, d in enumerate(self.data) for run in runs_of(k, d, model, self.notes)]
        self._check_runs(kinetics)
        self.measured = list(self._all_measured())
        if len(self.measured) < len(free):
            raise ValueError(f"{len(self.measured)} measured values do not determine {len(free)} numbers.")
        self.values, self.spread = (np.array([getattr(m, what) for m in self.measured]) for what in ("value", "deviation"))
        temperatures = np.array([self.runs[m.run].T for m in self.measured])
        self.coldest, self.hottest = float(temperatures.min()), float(temperatures.max())
        self.mean = float(round(1.0 / np.mean(1.0 / temperatures)))
        self.energies = {(f.reaction, f.constant, f.backward) for f in free if f.part == "energy"}
        if self.energies and self.hottest - self.coldest < _APART:
            raise ValueError(f"All data are at {self.mean:.0f} K: they say nothing of an activation energy; fix it, or add other temperatures.")
        self.start = np.array([self._from(f) for f in free])
        self.places = [k for k, f in enumerate(free) if f.part == "constant"]
        self.low = np.array([{"energy": -_MOST_ENERGY / _ENERGY, "order": -_MOST_ORDER, "constant": -math.inf}[f.part] for f in free])
        self.high = -self.low
        self.start = np.clip(self.start, self.low, self.high)
        paced = self._paced()
        low, high = np.minimum(self.start, paced), np.maximum(self.start, paced)
        self.low[self.places] = low[self.places] - _BEYOND * math.log(10.0)
        self.high[self.places] = high[self.places] + _BEYOND * math.log(10.0)
        self.paced = paced

    def _check_runs(self, kinetics: Kinetics) -> None:
        """Whether the runs say all that the laws count in; what is taken for granted is noted."""
        if kinetics.per == "catalyst mass" and (bare := [run for run in self.runs if run.catalyst is None]):
            name = self.data[bare[0].data].name or "a data set"
            raise ValueError(f"The rates count by mass of catalyst: say in column w of {name} how much there is by volume.")
        unpressed = any(run.P is None for run in self.runs)
        bases = {basis for reaction in self.set.reactions for law in reaction.laws for basis in law.bases}
        thermal = any(reaction.backward == "thermodynamics" for reaction in self.set.reactions)
        if unpressed and kinetics.phase == "vapour":
            self.notes.append("Where no pressure is given the gas is taken to be what the concentrations say, without anything inert.")
        elif unpressed and (thermal or bases & {"partial pressure", "fugacity"}):
            self.notes.append(f"No pressure of the liquid is given; {USUAL_PRESSURE / 1e5:g} bar is taken.")

    def _all_measured(self) -> Iterator[_Measured]:
        for number, run in enumerate(self.runs):
            data = self.data[run.data]
            columns = [(f"c{k + 1}", place) for k, place in enumerate(run.components)] + [("X", -1)]
            converted = data.columns.get("X", np.full(data.size, np.nan))[[point for point, _ in run.points]]
            if np.isfinite(converted).any() and not run.start[run.components[0]] > 0.0:
                raise ValueError(f"A conversion of {data.components[0]} is measured, and there is none of it at the start.")
            for point, at in run.points:
                if run.kind != TANK and run.times[at] == 0.0:
                    continue
                for key, component in columns:
                    value = data.columns.get(key, np.full(data.size, np.nan))[point]
                    if np.isfinite(value):
                        yield _Measured(number, point, at, key, component, float(value), data.deviation(key, point))

    def _from(self, f: FreeRate) -> float:
        if f.part == "order":
            return number_of(self.set, f)
        constant, factor = constant_of(law_of(self.set, f), f)
        if f.part == "energy":
            return (constant.energy or _USUAL_ENERGY) / _ENERGY
        return math.log(factor) + (constant.log_at_one(self._pivot(constant)) if self._moves(f) else math.log(constant.factor))

    def _pivot(self, constant: Arrhenius) -> float:
        """K at which a constant is told whose energy is free: its own temperature, or the middle of the data."""
        return constant.reference or self.mean

    def _moves(self, f: FreeRate) -> bool:
        """Whether its energy is free too."""
        return (f.reaction, f.constant, f.backward) in self.energies

    def at(self, searched: Array) -> ReactionSet:
        """The set with numbers in place of the free ones."""
        made = self.set
        # Energies first: a constant is told at the temperature that theirs is turned about.
        for f, value in sorted(zip(self.free, searched, strict=True), key=lambda pair: pair[0].part != "energy"):
            made = self._with(made, f, float(value))
        return made

    def _with(self, made: ReactionSet, f: FreeRate, value: float) -> ReactionSet:
        if f.part == "order":
            return with_number(made, f, value)
        law = law_of(made, f)
        constant, factor = constant_of(law, f)
        if f.part == "energy":
            pivot = self._pivot(constant)
            return with_law(made, f, with_constant(law, f, Arrhenius(constant.at(pivot), value * _ENERGY, pivot, constant.power)))
        return with_number(made, f, factor * math.exp(min(max(value - math.log(factor), -600.0), 600.0)))

    def residuals(self, searched: Array, tolerance: float = TOLERANCE) -> Array:
        """Deviations over standard deviations, all measured values in a row."""
        try:
            kinetics = Kinetics(self.at(searched), self.model)
            courses = []
            for run in self.runs:
                reached()
                courses.append(run.course(kinetics, tolerance=tolerance))
            calculated = self.calculated(courses)
        except ValueError:  # orders that no law has, and rates that lead nowhere
            return np.full(len(self.measured), _HUGE)
        apart = (calculated - self.values) / self.spread
        return np.asarray(np.nan_to_num(apart, nan=_HUGE, posinf=_HUGE, neginf=-_HUGE))

    def calculated(self, courses: Sequence[Course]) -> Array:
        """What the model says of every measured value."""
        found = np.empty(len(self.measured))
        for k, m in enumerate(self.measured):
            run = self.runs[m.run]
            if m.component >= 0:
                found[k] = courses[m.run].concentrations[m.at, m.component]
            else:
                first = run.components[0]
                found[k] = 1.0 - courses[m.run].amounts[m.at, first] / run.start[first]
        return found

    def solve(self) -> RateFit:
        rough = min((self._run(start, _ROUGH) for start in self._starts()), key=lambda run: float(run.cost))
        best = self._run(rough.x, TOLERANCE)
        notes = [*self.notes]
        at_end = self._at_bounds(best.x)
        notes += [f"{self.free[k].label} {self._leads(k, best.x[k])}." for k in at_end]
        errors, half, correlation = self._uncertain(best, at_end, notes)
        if not best.success:
            notes.append("The search ended before it settled; give other starting values, or free fewer numbers.")
        reactions = self.at(best.x)
        kinetics = Kinetics(reactions, self.model)
        values, per = self._told(best.x)
        count, freed, square = len(self.measured), len(self.free), 2.0 * float(best.cost)
        room = count - freed - 2
        akaike = count * math.log(max(square, 1e-300) / count) + 2.0 * (freed + 1) * (count / room if room > 0 else math.nan)
        quality = "measured fit" if all(d.measured for d in self.data) else "estimated"
        if quality == "estimated":
            notes.append("Some of the data were generated from a model: this is an estimate, not a fit to measurements.")
        notes += [*self._not_ideal(), *(f"{name}: {text}" for name, text in reactions.beyond_tables(self.coldest, self.hottest).items())]
        reference = np.array([self._holds_at(f) for f in self.free])
        deviations = tuple(self._deviations(self.calculated([run.course(kinetics) for run in self.runs])))
        return RateFit(
            self.free, values, errors * per, half * per, correlation, reference, square, akaike, deviations, tuple(notes), quality, reactions,
            kinetics, tuple(self.runs), tuple(self.data),
        )  # fmt: skip

    def alone(self) -> ReactionSet:
        """The set with the numbers that fit best, searched from where it stands. Raises ValueError where the data do not determine them."""
        best = self._run(self.start, _ROUGH)
        if not confidence(best.jac, float(best.cost)).determined:
            raise ValueError("The data do not determine them.")
        return self.at(best.x)

    def _uncertain(self, best: Any, at_end: list[int], notes: list[str]) -> tuple[Array, Array, Array]:
        """Standard errors, half-widths and correlation as searched; what ended at a bound is fixed there."""
        moving = [k for k in range(len(self.free)) if k not in at_end]
        errors, half, correlation = np.full(len(self.free), math.nan), np.full(len(self.free), math.nan), np.eye(len(self.free))
        if moving:
            found = confidence(np.asarray(best.jac)[:, moving], float(best.cost))
            if not found.determined:
                notes.append("The data do not determine all free numbers: fix some of them, or add other data.")
            errors[moving], half[moving] = found.standard_errors, found.half_widths
            correlation[np.ix_(moving, moving)] = found.correlation
        notes += self._alike(correlation) + self._vague(half)
        return errors, half, correlation

    def _holds_at(self, f: FreeRate) -> float:
        if f.part != "constant":
            return math.nan
        constant, _ = constant_of(law_of(self.set, f), f)
        return self._pivot(constant) if self._moves(f) else constant.reference or math.nan

    def _starts(self) -> list[Array]:
        """Where to start: from constants by which every reaction goes about as fast as the runs last, one after the other moved to its best decade;
        and from the set's own where these do not fit much worse. Energies and orders stay as they stand until the constants fit best."""
        if not self.places:
            return [self.start]
        swept = self.paced
        for place in _SWEEPS * self.places:
            swept = min((self._moved(swept, place, decade) for decade in _DECADES), key=self._square)
        starts = [swept] + [self.start] * (self._square(self.start) < _NOT_MUCH_WORSE * self._square(swept))
        return [self._constants_first(start) for start in starts]

    def _paced(self) -> Array:
        """The start with the constants of products of powers at about one reaction in the time of a run; an expression may hold them anywhere."""
        start = self.start.copy()
        kinetics = Kinetics(self.at(start), self.model)
        names = [reaction.name for reaction in self.set.reactions]
        paces = [self._pace(kinetics, run) for run in self.runs]
        for place in self.places:
            f = self.free[place]
            pace = float(np.median([of[names.index(f.reaction)] for of in paces]))
            if f.constant == "k" and pace > 0.0 and isinstance(law_of(self.set, f), RateLaw):
                start[place] -= math.log(pace)
        return start

    def _pace(self, kinetics: Kinetics, run: Run) -> Array:
        """How often each reaction turns over all there is in the time of a run: of its start, or with all components alike."""
        alike = np.full(len(run.start), run.start.sum() / len(run.start))
        paces = np.maximum(kinetics.paces(run.T, run.start), kinetics.paces(run.T, alike))
        catalyst = run.catalyst if kinetics.per == "catalyst mass" and run.catalyst is not None else 1.0
        return np.asarray(paces * catalyst * max(float(run.times.max()), 1e-300))

    def _constants_first(self, start: Array) -> Array:
        places = self.places
        if len(places) == len(self.free):
            return start
        whole = start.copy()

        def residuals(constants: Array) -> Array:
            whole[places] = constants
            return self.residuals(whole, _ROUGH)

        bounds = (self.low[places], self.high[places])
        found = least_squares(residuals, start[places], bounds=bounds, diff_step=_MOVED[0], x_scale="jac", xtol=1e-3, ftol=1e-3, max_nfev=30)
        whole[places] = found.x
        return whole

    def _moved(self, start: Array, place: int, decade: int) -> Array:
        moved = start.copy()
        moved[place] += decade * math.log(10.0)
        return np.asarray(np.clip(moved, self.low, self.high))

    def _square(self, searched: Array) -> float:
        return float((self.residuals(searched, _ROUGH) ** 2).sum())

    def _run(self, start: Array, tolerance: float) -> Any:
        rough = tolerance == _ROUGH
        settled = {"xtol": 1e-5, "ftol": 1e-5} if rough else {"xtol": 1e-10, "ftol": 1e-12}
        return least_squares(
            lambda u: self.residuals(u, tolerance),
            start,
            bounds=(self.low, self.high),
            diff_step=_MOVED[0 if rough else 1],
            x_scale="jac",
            gtol=1e-15,
            max_nfev=60,
            **settled,
        )

    def _told(self, searched: Array) -> tuple[Array, Array]:
        """Values in SI units, and how much they change with what was searched."""
        values, per = np.array(searched, dtype=float), np.ones(len(searched))
        for k, f in enumerate(self.free):
            if f.part == "constant":
                values[k] = per[k] = math.exp(searched[k])
            elif f.part == "energy":
                values[k], per[k] = searched[k] * _ENERGY, _ENERGY
        return values, per

    def _alike(self, correlation: Array) -> list[str]:
        n = len(self.free)
        pairs = [(self.free[j], self.free[i], correlation[i, j]) for i in range(n) for j in range(i) if abs(correlation[i, j]) > NOT_TOLD_APART]
        notes = [
            f"{(first if first.part == 'constant' else second).label} is that of concentrations or pressures of 1 in SI units, far from the data: it "
            f"goes with the {(second if second.part == 'order' else first).label}, and its interval is wide for that alone."
            for first, second, _ in pairs
            if of_one_law(first, second)
        ]
        both = "; ".join(f"{first.label} and {second.label} ({size:.3f})" for first, second, size in pairs if not of_one_law(first, second))
        lead = "Hardly distinguished by these data, with their correlation"
        return notes + ([f"{lead}: {both}. Fix one of each, or add data at other compositions."] if both else [])

    def _at_bounds(self, searched: Array) -> list[int]:
        ends = np.minimum(np.abs(searched - self.low), np.abs(searched - self.high))
        return [k for k, (end, u) in enumerate(zip(ends, searched, strict=True)) if end < _AT_END * max(1.0, abs(u))]

    def _leads(self, k: int, searched: float) -> str:
        if self.free[k].part != "constant":
            return "goes beyond all that is known of such; the law does not suit these data"
        if searched - self.low[k] > self.high[k] - searched:
            return "grows without limit: what it stands for is at equilibrium in these data"
        return "tends to nothing: the data do not need it, and its part of the law can be left out"

    def _vague(self, half_widths: Array) -> list[str]:
        vague = [(f, w) for f, w in zip(self.free, half_widths, strict=True) if f.part == "constant" and w > _VAGUE]
        return [f"{f.label} is known to a factor of {math.exp(min(w, 600.0)):.2g} only; its interval is that of its logarithm." for f, w in vague]

    def _not_ideal(self) -> list[str]:
        """Gases that the property model finds not ideal, where they were taken to be."""
        if self.set.reactions[0].phase != "vapour":
            return []
        worst = 0.0
        for run in self.runs:
            held = run.start / run.start.sum()
            pressure = run.P or float(run.start.sum()) * R * run.T
            try:
                factor = self.model.phase("vapour", run.T, pressure, held).compressibility
            except FlashError:
                return ["The gas is taken as ideal; whether it is, the property model cannot tell."]
            worst = max(worst, abs(factor - 1.0))
        text = f"The gas is taken as ideal; by the property model its compressibility factor differs from 1 by up to {worst:.2g}."
        return [text] if worst > _NOT_IDEAL else []

    def _deviations(self, calculated: Array) -> Iterator[Deviation]:
        for k in range(len(self.data)):
            for column in dict.fromkeys(m.column for m in self.measured if self.runs[m.run].data == k):
                rows = [n for n, m in enumerate(self.measured) if m.column == column and self.runs[m.run].data == k]
                points = [self.measured[n].point for n in rows]
                order = np.argsort(points, kind="stable")
                measured, said = self.values[rows][order], calculated[rows][order]
                gap = np.abs(said - measured)
                yield Deviation(k, column, float(gap.mean()), float(gap.max()), tuple(points[n] for n in order), measured, said)
