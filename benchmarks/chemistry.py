"""What an engineer waits for while settling the chemistry: seconds at the median of a few runs, beside what is wanted. One table."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable

import numpy as np

from wattaxis import DataSet, Free, PropertyModel, azeotropes, component, fit_pairs, phase_envelope, residue_curve_map, search

PAIR = ("ethanol", "water")
FIVE = ("acetone", "chloroform", "methanol", "ethanol", "benzene")


def sixty_points() -> DataSet:
    """Boiling pressures and vapours of ethanol and water at four temperatures, with a little scatter."""
    truth = PropertyModel("nrtl", PAIR)
    rng = np.random.default_rng(3)
    rows = []
    for t in (320.0, 335.0, 350.0, 365.0):
        for x in np.linspace(0.03, 0.97, 15):
            state = truth.flash([x, 1.0 - x], T=t, VF=0.0)
            rows.append((t, state.pressure * (1 + 0.002 * rng.normal()), x, min(1.0, state.vapour_fractions[0] + 0.003 * rng.normal())))
    t, p, x, y = zip(*rows, strict=True)
    return DataSet("vapour-liquid", PAIR, {"T": t, "P": p, "x1": x, "y1": y})


def timed(work: Callable[[], object], runs: int) -> float:
    """Median seconds of some runs, the first of them left out."""
    work()
    found = []
    for _ in range(runs):
        started = time.perf_counter()
        work()
        found.append(time.perf_counter() - started)
    return statistics.median(found)


def main() -> None:
    """Print one table."""
    data = sixty_points()
    start = PropertyModel("nrtl", PAIR, {PAIR: {"alpha": 0.3}}, bank_pairs=False)
    free = [Free(PAIR, name) for name in ("a12", "a21", "b12", "b21")]
    ternary = PropertyModel("unifac-dortmund", ("acetone", "chloroform", "methanol"))
    gas = PropertyModel("peng-robinson", ("methane", "ethane", "propane", "n-butane", "n-pentane", "nitrogen"))
    rows: list[tuple[str, Callable[[], object], int, float]] = [
        ("search by a misspelt name", lambda: search("metyl etil ketone", 10), 9, 0.05),
        ("one substance with all its constants", lambda: component("2-butanol"), 9, 0.05),
        ("phase envelope of six components", lambda: phase_envelope(gas, [0.7, 0.1, 0.08, 0.05, 0.04, 0.03]), 5, 0.3),
        ("azeotropes of five components", lambda: azeotropes(PropertyModel("unifac-dortmund", FIVE), 101325.0), 3, 2.0),
        ("residue-curve map of three", lambda: residue_curve_map(ternary, 101325.0), 3, 2.0),
        ("fit of four parameters to sixty points", lambda: fit_pairs(start, [data], free), 3, 1.0),
    ]
    print("| what | measured, s | wanted, s |")
    print("|---|---|---|")
    for what, work, runs, wanted in rows:
        print(f"| {what} | {timed(work, runs):.3f} | {wanted:g} |")


if __name__ == "__main__":
    main()
