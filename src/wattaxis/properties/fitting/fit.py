"""Parameters of pairs from measurements: weighted least squares or maximum likelihood, with what the data say of each parameter."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from scipy.optimize import least_squares

from wattaxis.progress import reached
from wattaxis.properties.fitting.confidence import confidence
from wattaxis.properties.fitting.consistency import consistency
from wattaxis.properties.fitting.data import Array, DataSet
from wattaxis.properties.fitting.predict import predictions
from wattaxis.properties.model import PropertyModel
from wattaxis.properties.tables import html_table

OBJECTIVES = ("least squares", "least squares of temperature", "maximum likelihood")
_HUGE = 1e4  # standard deviations, in place of a state that the model does not have
#: Correlation from which on two parameters are hardly told apart.
NOT_TOLD_APART = 0.95


@dataclass(frozen=True)
class Free:
    """A parameter to be fitted: pair, name, where to start and within which bounds.

    >>> Free(("ethanol", "water"), "a12").label
    'a12 of ethanol / water'
    """

    pair: tuple[str, str]
    name: str
    start: float = 0.0
    low: float = -np.inf
    high: float = np.inf

    @property
    def label(self) -> str:
        """As it is told: "a12 of ethanol / water"."""
        return f"{self.name} of {self.pair[0]} / {self.pair[1]}"


@dataclass(frozen=True)
class Deviation:
    """How far the model is from a column of a data set, SI: mean and largest absolute deviation; what was measured and calculated, point by point.

    >>> found = Deviation(0, "P", 10.0, 20.0, (0, 1), np.array([1000.0, 2000.0]), np.array([1000.0, 1980.0]))
    >>> found.each, found.relative
    (array([  0., -20.]), array([ 0.  , -0.01]))
    """

    data: int
    column: str
    mean: float
    largest: float
    points: tuple[int, ...]
    measured: Array
    calculated: Array

    @property
    def each(self) -> Array:
        """Calculated less measured of every point, SI, nan where either is not known."""
        return np.asarray(self.calculated - self.measured)

    @property
    def relative(self) -> Array:
        """As :attr:`each`, over what was measured; nan where that is zero."""
        return np.asarray(self.each / np.where(self.measured == 0.0, np.nan, self.measured))

    @property
    def mean_relative(self) -> float:
        """Mean of the absolute relative deviations; nan where none is known."""
        known = np.abs(self.relative[np.isfinite(self.relative)])
        return float(known.mean()) if known.size else float("nan")


@dataclass(frozen=True)
class Fit:
    """Fitted parameters with their standard errors, 95 % confidence half-widths and correlation
    (parameters, parameters); deviations, what is to be said.

    ``model`` is the property model with the fitted values. ``quality`` is "measured fit", or "estimated" when data were generated from a model.

    >>> pair = ("ethanol", "water")
    >>> data = DataSet("infinite dilution", pair, {"T": [330.0, 350.0], "g1": [6.0, 5.8], "g2": [2.5, 2.4]})
    >>> fit = fit_pairs(PropertyModel("margules", pair), [data], [Free(pair, "a12"), Free(pair, "a21")])
    >>> fit.quality, sorted(fit.pair_values(pair))
    ('measured fit', ['a12', 'a21'])
    """

    free: tuple[Free, ...]
    values: Array
    standard_errors: Array
    half_widths: Array
    correlation: Array
    objective: str
    sum_of_squares: float
    deviations: tuple[Deviation, ...]
    notes: tuple[str, ...]
    quality: str
    model: PropertyModel

    def pair_values(self, pair: tuple[str, str]) -> dict[str, float]:
        """All values of a pair, fitted and fixed."""
        i, j = self.model.index(pair[0]), self.model.index(pair[1])
        values = self.model.pair_values[min(i, j), max(i, j)]
        return dict(values) if i < j else _turned(values)

    def _repr_html_(self) -> str:
        rows = [[f.label, float(v), float(h)] for f, v, h in zip(self.free, self.values, self.half_widths, strict=True)]
        return html_table(["parameter", "value", "95 % +-"], rows)


def _turned(values: Mapping[str, float]) -> dict[str, float]:
    from wattaxis.substances import turned

    return turned(values, True)


def fit_pairs(
    model: PropertyModel,
    data: Sequence[DataSet],
    free: Sequence[Free],
    *,
    objective: str = "least squares",
) -> Fit:
    """Fit parameters of pairs of ``model`` to data sets; every other parameter keeps its value.

    "least squares": deviations of P and y at the measured T and x (vapour-liquid), of ln activity between both liquids (liquid-liquid), of activity
    coefficients (relative) and excess enthalpies, each over its standard deviation. "least squares of temperature": of vapour-liquid points the
    bubble temperature at the measured P and x is compared with the measured T in place of P. "maximum likelihood": T and x of vapour-liquid points
    are in error too and are estimated with the parameters (errors in variables; Anderson, Abrams, Grens 1978). Several starts; scipy's trust-region
    solver. Confidence from the linearised covariance with the variance of the fit (Draper, Smith 1998).

    Raises ValueError for data that do not suit, or fewer values than parameters.

    >>> truth = PropertyModel("margules", ["ethanol", "water"], {("ethanol", "water"): {"a12": 1.6, "a21": 0.9}})
    >>> rows = [(330.0, x, truth.flash([x, 1 - x], T=330.0, VF=0.0).pressure) for x in (0.1, 0.3, 0.6, 0.9)]
    >>> t, x, p = zip(*rows)
    >>> data = DataSet("vapour-liquid", ("ethanol", "water"), {"T": t, "P": p, "x1": x})
    >>> pair = ("ethanol", "water")
    >>> fit = fit_pairs(PropertyModel("margules", pair), [data], [Free(pair, "a12"), Free(pair, "a21")])
    >>> fit.values.round(4)
    array([1.6, 0.9])
    """
    return _Problem(model, data, free, objective).solve()


class _Problem:
    def __init__(self, model: PropertyModel, data: Sequence[DataSet], free: Sequence[Free], objective: str) -> None:
        if objective not in OBJECTIVES:
            raise ValueError(f'There is no objective "{objective}"; there are {", ".join(OBJECTIVES)}.')
        if not free:
            raise ValueError("Choose at least one parameter to fit.")
        self.model, self.data, self.free, self.objective = model, list(data), tuple(free), objective
        known = {p.name: p for p in model.family.info.parameters}
        for f in free:
            if f.name not in known:
                raise ValueError(f"{model.family.info.title} has no pair parameter {f.name}; it has {', '.join(known) or 'none'}.")
        self.points = [d.used() for d in data]
        if not sum(len(p) for p in self.points):
            raise ValueError("The data sets have no complete point that is not set aside.")
        self.low = np.array([max(f.low, known[f.name].low) for f in free])
        self.high = np.array([min(f.high, known[f.name].high) for f in free])
        if not (self.low < self.high).all():
            raise ValueError("A lower bound must lie below its upper bound.")
        self.start = np.clip([f.start for f in free], self.low, self.high)
        # Values of b and f act through b/T and f T: scaled so that a step of one means about the same in all.
        scales = {"b": 300.0, "f": 1.0 / 300.0, "e": 1.0 / 6.0}
        self.scale = np.array([scales.get(f.name[0], 0.05 if f.name == "kij" else 1.0) if f.name != "alpha" else 0.1 for f in free])

    def at(self, values: Array, k: int | None = None) -> PropertyModel:
        """The model with parameter values, whole or for the components of data set ``k``."""
        changed: dict[tuple[str, str], dict[str, float]] = {}
        for f, value in zip(self.free, values, strict=True):
            changed.setdefault(f.pair, {})[f.name] = float(value)
        model = self.model.with_pairs(changed)
        whole = k is None or [model.index(c) for c in self.data[k].components] == list(range(len(model.components)))
        return model if whole else model.part_of(self.data[k or 0].components)

    def solve(self) -> Fit:
        count = len(self.residuals(self.start))
        if count < len(self.free):
            raise ValueError(f"{count} measured values do not determine {len(self.free)} parameters.")
        starts = sorted(self._starts(), key=lambda start: float((self.residuals(start) ** 2).sum()))
        runs = [self._run(start) for start in starts[:2]]
        best = min(runs, key=lambda run: float(run.cost))
        values = np.asarray(best.x) * self.scale
        notes: list[str] = []
        if self.objective == "maximum likelihood":
            best, values = self._likelihood(values)
        errors, half, correlation = self._confidence(best, notes)
        if not best.success:
            notes.append("The search ended before it settled; try other starting values.")
        for f, value, low, high in zip(self.free, values, self.low, self.high, strict=True):
            if min(abs(value - low), abs(value - high)) < 1e-6 * max(1.0, abs(value)):
                notes.append(f"{f.label} ended at its bound {value:g}.")
        model = self.at(values)
        deviations = tuple(d for k in range(len(self.data)) for d in self._deviations(values, k))
        notes += self._splits(model) + [note for k, d in enumerate(self.data) for note in consistency(d, model.part_of(d.components), self.points[k])]
        quality = "measured fit" if all(d.measured for d in self.data) else "estimated"
        if quality == "estimated":
            notes.append("Some of the data were generated from a model: this is an estimate, not a fit to measurements.")
        square = float(2.0 * best.cost)
        return Fit(self.free, values, errors, half, correlation, self.objective, square, deviations, tuple(notes), quality, model)

    def residuals(self, values: Array) -> Array:
        """Deviations over standard deviations, all data sets in a row."""
        reached()
        try:
            parts = [self._weighted(values, k) for k in range(len(self.data))]
        except ValueError:  # values that the model refuses, such as van Laar constants of opposite sign
            parts = [np.full(len(self._weights(k)), _HUGE) for k in range(len(self.data))]
        return np.nan_to_num(np.concatenate(parts), nan=_HUGE, posinf=_HUGE, neginf=-_HUGE)

    @property
    def in_temperature(self) -> bool:
        """Whether bubble temperatures are compared in place of pressures."""
        return self.objective == "least squares of temperature"

    def _calculated(self, values: Array, k: int, data: DataSet) -> dict[str, Array]:
        return predictions(self.at(values, k), data, self.points[k], temperatures=self.in_temperature)

    def _weights(self, k: int) -> list[tuple[str, int]]:
        """(column, position) of every measured value of a set that is compared."""
        data = self.data[k]
        keys = [f"ln a{i + 1}" for i in range(len(data.components))] if data.kind == "liquid-liquid" else _COMPARED[data.kind](data)
        keys = ["T" if key == "P" and self.in_temperature else key for key in keys]
        return [(key, int(p)) for key in keys for p in self.points[k] if key.startswith("ln") or np.isfinite(data.columns[key][p])]

    def _weighted(self, values: Array, k: int, data: DataSet | None = None) -> Array:
        data = data or self.data[k]
        points = self.points[k]
        calculated = self._calculated(values, k, data)
        place = {int(p): n for n, p in enumerate(points)}
        out = []
        for key, p in self._weights(k):
            value = calculated[key][place[p]]
            if key.startswith("ln"):
                out.append(value / 0.05 * np.sqrt(data.weights.get(p, 1.0)))
            else:
                measured = self.data[k].columns[key][p]
                out.append((value - measured) / (data.deviation(key, p) * (measured if key in ("g1", "g2") else 1.0)))
        return np.array(out)

    def _starts(self) -> list[Array]:
        """The start that was given and some around it; parts that started from nothing are tried on both sides."""
        rng = np.random.default_rng(11)
        starts = [self.start]
        for _ in range(8):
            starts.append(self.start + self.scale * rng.normal(0.0, 1.2, len(self.free)))
        return [np.clip(s, self.low, self.high) for s in starts]

    def _run(self, start: Array) -> Any:
        bounds = (self.low / self.scale, self.high / self.scale)
        return least_squares(
            lambda u: self.residuals(u * self.scale), start / self.scale, bounds=bounds, xtol=1e-12, ftol=1e-12, gtol=1e-12, max_nfev=80
        )

    def _likelihood(self, values: Array) -> tuple[Any, Array]:
        """Errors in variables: T and x of every vapour-liquid point join the unknowns, in standard deviations from what was measured."""
        spots = [(k, key, int(p)) for k, d in enumerate(self.data) if d.kind == "vapour-liquid" for key in _moved(d) for p in self.points[k]]
        n = len(self.free)

        def shifted(shift: Array) -> list[DataSet]:
            moved = [{key: column.copy() for key, column in d.columns.items()} for d in self.data]
            for (k, key, p), s in zip(spots, shift, strict=True):
                moved[k][key][p] += s * self.data[k].deviation(key, p)
                if key != "T":
                    moved[k][key][p] = float(np.clip(moved[k][key][p], 1e-9, 1.0 - 1e-9))
            return [_replaced(d, columns) for d, columns in zip(self.data, moved, strict=True)]

        def misfit(u: Array) -> Array:
            sets = shifted(u[n:])
            try:
                parts = [self._weighted(u[:n] * self.scale, k, sets[k]) for k in range(len(sets))]
            except ValueError:
                parts = [np.full(len(self._weights(k)), _HUGE) for k in range(len(sets))]
            return np.concatenate([np.nan_to_num(np.concatenate(parts), nan=_HUGE), u[n:]])

        rows = [(k, key, p) for k in range(len(self.data)) for key, p in self._weights(k)]

        def slopes(u: Array) -> Array:
            """Every point depends on the parameters and on its own T and x only: one difference serves all points at once."""
            base = misfit(u)
            matrix = np.zeros((len(base), len(u)))
            for c in range(n):
                moved = u.copy()
                moved[c] += 1e-6
                matrix[:, c] = (misfit(moved) - base) / 1e-6
            for key in dict.fromkeys(key for _, key, _ in spots):
                moved = u.copy()
                columns = [c for c, spot in enumerate(spots) if spot[1] == key]
                for c in columns:
                    moved[n + c] += 1e-5
                change = (misfit(moved) - base) / 1e-5
                for c in columns:
                    k, _, p = spots[c]
                    for r, (k_row, _, p_row) in enumerate(rows):
                        if (k_row, p_row) == (k, p):
                            matrix[r, n + c] = change[r]
                    matrix[len(rows) + c, n + c] = 1.0
            return matrix

        low = np.concatenate([self.low / self.scale, np.full(len(spots), -50.0)])
        high = np.concatenate([self.high / self.scale, np.full(len(spots), 50.0)])
        begin = np.concatenate([np.clip(values / self.scale, low[:n], high[:n]), np.zeros(len(spots))])
        best = least_squares(misfit, begin, jac=slopes, bounds=(low, high), xtol=1e-10, ftol=1e-12, max_nfev=60)
        return best, np.asarray(best.x[:n]) * self.scale

    def _confidence(self, best: Any, notes: list[str]) -> tuple[Array, Array, Array]:
        """Standard errors, 95 % half-widths and correlation of the parameters."""
        n = len(self.free)
        found = confidence(best.jac, float(best.cost))
        if not found.determined:
            notes.append("The data do not determine all parameters: fix some of them, or add other data.")
        correlation = found.correlation[:n, :n]
        alike = [(i, j) for i in range(n) for j in range(i) if abs(correlation[i, j]) > NOT_TOLD_APART]
        if alike:
            both = ", ".join(f"{self.free[j].name} and {self.free[i].name} ({correlation[i, j]:.3f})" for i, j in alike)
            notes.append(f"Hardly distinguished by these data, with their correlation: {both}. Fix one of each, or add data at other temperatures.")
        return found.standard_errors[:n] * self.scale, found.half_widths[:n] * self.scale, correlation

    def _deviations(self, values: Array, k: int) -> list[Deviation]:
        data, points = self.data[k], self.points[k]
        calculated = self._calculated(values, k, data)
        found = []
        for key, column in calculated.items():
            measured = np.zeros(len(points)) if key.startswith("ln") else data.columns.get(key, np.full(data.size, np.nan))[points]
            gap = np.abs(column - measured)
            known = np.isfinite(gap)
            if known.any():
                found.append(Deviation(k, key, float(gap[known].mean()), float(gap[known].max()), tuple(map(int, points)), measured, column))
        return found

    def _splits(self, model: PropertyModel) -> list[str]:
        """Liquids that the fitted model parts though they were measured over a vapour as one, and no data speak of two."""
        if any(d.kind == "liquid-liquid" for d in self.data) or not model.family.info.parameters:
            return []
        for k, data in enumerate(self.data):
            if data.kind != "vapour-liquid":
                continue
            part = model.part_of(data.components)
            for p, x in zip(self.points[k], data.fractions("x")[self.points[k]], strict=True):
                pressure = 1.5 * float(data.columns["P"][p]) if part.equation_of_state else 1e9
                state = part.flash(np.maximum(x, 1e-12), T=float(data.columns["T"][p]), P=pressure)
                if state.two_liquids:
                    names = " and ".join(data.components)
                    return [
                        f"With these values {names} separate into two liquids at {data.columns['T'][p]:.1f} K, where one was measured or assumed."
                    ]
        return []


def _moved(data: DataSet) -> list[str]:
    return ["T", *(f"x{i + 1}" for i in range(len(data.components) - 1))]


def _replaced(data: DataSet, columns: Mapping[str, Array]) -> DataSet:
    return DataSet(data.kind, data.components, columns, data.deviations, data.set_aside, data.name, data.source, data.measured, data.weights)


def _vapour_keys(data: DataSet) -> list[str]:
    return ["P", *(key for key in data.columns if key.startswith("y"))]


_COMPARED = {
    "vapour-liquid": _vapour_keys,
    "infinite dilution": lambda data: [key for key in ("g1", "g2") if key in data.columns],
    "excess enthalpy": lambda data: ["h"],
}
