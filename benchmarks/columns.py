"""Columns: milliseconds from nothing and from near, beside a plain bubble-point iteration of the same stages; and how many random ones are found."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable

import numpy as np
import random_columns
from scipy.linalg import solve_banded

from wattaxis import PropertyModel, phase_rows
from wattaxis.columns import ColumnFeed, StagedColumn, Want

TEN = ("methane", "ethane", "propane", "n-butane", "isobutane", "n-pentane", "n-hexane", "n-heptane", "n-octane", "n-decane")
MORE = ("benzene", "toluene", "ethylbenzene", "p-xylene", "cyclohexane", "methylcyclohexane", "isopentane", "n-undecane", "n-dodecane", "propylene")
SIZES = ((50, TEN[2:]), (50, TEN), (100, (*TEN, *MORE)))
P = 12e5


def timed(work: Callable[[], object], runs: int = 5) -> float:
    """Median milliseconds of some runs, the first of them left out."""
    work()
    found = []
    for _ in range(runs):
        began = time.perf_counter()
        work()
        found.append(1e3 * (time.perf_counter() - began))
    return statistics.median(found)


def swept(model: PropertyModel, feed: np.ndarray, stages: int, reflux: float, distillate: float) -> None:
    """Constant overflow and bubble points in turns, component by component in banded matrices (Wang, Henke 1966), until they are still."""
    L = np.where(np.arange(stages) < stages // 2 - 1, reflux * distillate, reflux * distillate + 1.0)
    V = np.full(stages, (1.0 + reflux) * distillate)
    L[-1], V[0] = 1.0 - distillate, 0.0
    T, x = np.linspace(320.0, 450.0, stages), np.tile(feed / feed.sum(), (stages, 1))
    y = x.copy()
    for _ in range(200):
        rows = [phase_rows(model, kind, T, np.full(stages, P), part, by_pressure=False) for kind, part in (("liquid", x), ("vapour", y))]
        K = np.exp(rows[0].log_phi - rows[1].log_phi)
        for i in range(x.shape[1]):
            bands = np.zeros((3, stages))
            bands[1] = L + V * K[:, i]
            bands[1, 0] += distillate
            bands[0, 1:], bands[2, :-1] = -(V * K[:, i])[1:], -L[:-1]
            x[:, i] = solve_banded((1, 1), bands, np.where(np.arange(stages) == stages // 2 - 1, feed[i] / feed.sum(), 0.0))
        x = np.maximum(x, 1e-30)
        x /= x.sum(axis=1)[:, None]
        y = K * x
        gap = np.log(y.sum(axis=1))
        y /= y.sum(axis=1)[:, None]
        step = np.clip(gap / 0.03, -5.0, 5.0)
        T = T - step
        if np.abs(step).max() < 1e-3:
            break


def main() -> None:
    """Two tables."""
    print("| column | unknowns | from nothing, ms | after a change of 1 %, ms | with a reflux ratio and a rate, ms | bubble points in turns, ms |")
    print("|---|---|---|---|---|---|")
    for stages, parts in SIZES:
        model = PropertyModel("peng-robinson", list(parts))
        fed = np.full(len(parts), 100.0 / len(parts))
        feed = ColumnFeed(stages // 2, fed, 100.0 * model.flash(fed, P=P, VF=0.3).enthalpy)
        light = "methane" in parts
        column = StagedColumn(model, [feed], stages=stages, pressure=P, condenser="partial" if light else "total")
        top = "overhead vapour" if light else "distillate"
        ends = [Want("fraction", 0.005, "bottoms", ("n-butane",)), Want("fraction", 0.005, top, ("n-pentane",))]
        state = column.solve(ends)
        near = [ends[0].at(0.00505), ends[1]]
        easy = [Want("reflux ratio", state.reflux_ratio or 1.0), Want("flow", 0.95 * float(state.products[top].flows.sum()), top)]
        share = float(state.products[top].flows.sum()) / 100.0
        ratio, plain = state.reflux_ratio or 1.0, model
        columns = (
            timed(lambda c=column, w=ends: c.solve(w)),
            timed(lambda c=column, w=near, s=state: c.solve(w, s)),
            timed(lambda c=column, w=easy: c.solve(w)),
            timed(lambda m=plain, f=fed, n=stages, r=ratio, d=share: swept(m, f, n, r, d), 1),
        )
        print(f"| {stages} stages, {len(parts)} components | {stages * (2 * len(parts) + 1)} | " + " | ".join(f"{t:.1f}" for t in columns) + " |")
    print("\nRandom columns, from nothing:")
    random_columns.main(250)


if __name__ == "__main__":
    main()
