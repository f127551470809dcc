"""Random columns that can be: ideal, cubic and activity models, narrow and wide boiling, with and without condenser and reboiler.

Each is solved from nothing with a reflux ratio and a product rate (or what else serves), and once more from nothing for other things that the first
state has, so that they can be reached. ``python benchmarks/random_columns.py 500`` prints how many were found, and how long it took.
"""

from __future__ import annotations

import sys
import time
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from wattaxis import FlashError, PropertyModel
from wattaxis.columns import ColumnError, ColumnFeed, ColumnState, StagedColumn, Want

#: In the order in which they boil: the parts of a column lie within a window of it.
LIGHT = ("ethane", "propene", "propane", "isobutane", "1-butene", "butane", "isopentane", "pentane", "hexane", "cyclohexane", "heptane", "octane")
HEAVY = (
    "pentane",
    "hexane",
    "benzene",
    "heptane",
    "methylcyclohexane",
    "toluene",
    "octane",
    "ethylbenzene",
    "p-xylene",
    "nonane",
    "cumene",
    "decane",
)
POLAR = ("acetone", "methanol", "ethyl acetate", "ethanol", "butanone", "2-propanol", "1-propanol")
AQUEOUS = ("acetone", "methanol", "ethanol", "2-propanol", "1-propanol", "water")
WINDOW = 9
GASES = ("ethane", "propane", "butane", "nitrogen")
OILS = ("decane", "dodecane", "nonane")


@dataclass(frozen=True)
class Case:
    """A column, and what is wanted of it at first."""

    name: str
    column: StagedColumn
    easy: tuple[Want, ...]


def cases(count: int, seed: int = 7) -> Iterator[Case]:
    """Random columns. What no flash of a feed exists for is left out."""
    made, number = 0, 0
    while made < count:
        rng = np.random.default_rng([seed, number])
        number += 1
        try:
            case = absorber(rng) if rng.random() < 0.15 else distillation(rng)
        except FlashError:
            continue
        made += 1
        yield case


def distillation(rng: np.random.Generator) -> Case:
    """A column with a condenser and a reboiler."""
    kind = str(rng.choice(["ideal", "peng-robinson", "soave-redlich-kwong", "nrtl", "ideal"]))
    pool = {"ideal": HEAVY, "nrtl": POLAR if rng.random() < 0.5 else AQUEOUS}.get(kind, LIGHT if rng.random() < 0.6 else HEAVY)
    first = int(rng.integers(max(len(pool) - WINDOW, 0) + 1))
    window = pool[first : first + WINDOW]
    parts = [str(c) for c in rng.choice(window, size=int(rng.integers(2, 4 if kind == "nrtl" else WINDOW)), replace=False)]
    model = PropertyModel(kind, parts)
    z = rng.dirichlet(np.full(len(parts), 1.5)) + 1e-4
    P = 1e5 * float(rng.uniform(8.0, 18.0) if pool is LIGHT else rng.uniform(0.5, 2.0))
    stages = int(rng.integers(6, 71))
    risen = float(rng.choice([0.0, 0.0, 0.3, 0.7, 1.0]))
    feed = model.flash(z, P=P, VF=risen)
    stage = int(np.clip(round(stages * rng.uniform(0.3, 0.7)), 2, stages - 1))
    condenser = "total" if rng.random() < 0.7 else "partial"
    fed = 100.0 * z / z.sum()
    column = StagedColumn(
        model,
        [ColumnFeed(stage, fed, 100.0 * feed.enthalpy)],
        stages=stages,
        pressure=(P, P * (1.0 + 0.1 * rng.random())),
        condenser=condenser,
        efficiencies=float(rng.choice([1.0, 1.0, 0.7])),
    )
    top = "distillate" if condenser == "total" else "overhead vapour"
    taken = float(rng.uniform(10.0, 90.0))
    # Below the feed vapour has to rise too, and what is light takes less heat than what is heavy.
    least = max(0.6, (140.0 * risen + 25.0) / taken - 1.0)
    easy = Want("reflux ratio", float(np.exp(rng.uniform(np.log(least), np.log(max(8.0, 1.5 * least)))))), Want("flow", taken, top)
    return Case(f"{kind} {condenser} {stages} stages {', '.join(parts)}", column, easy)


def absorber(rng: np.random.Generator) -> Case:
    """An absorber, or a stripper with a reboiler."""
    # Something of the gas goes through.
    gases = ["methane", *(str(c) for c in rng.choice(GASES, size=int(rng.integers(1, 4)), replace=False))]
    oil = str(rng.choice(OILS))
    model = PropertyModel(str(rng.choice(["peng-robinson", "soave-redlich-kwong"])), [*gases, oil])
    stages = int(rng.integers(4, 25))
    share = np.append(rng.dirichlet(np.full(len(gases), 1.5)) + np.append(0.5, np.full(len(gases) - 1, 1e-4)), 0.0)
    if rng.random() < 0.5:
        P, ratio = 1e5 * float(rng.uniform(5.0, 30.0)), float(rng.uniform(0.3, 1.5))
        gas, lean = 100.0 * share / share.sum(), 100.0 * ratio * np.append(np.zeros(len(gases)), 1.0)
        flashed = [model.flash(flows, T=float(rng.uniform(285.0, 320.0)), P=P) for flows in (lean, gas)]
        feeds = [ColumnFeed(1, lean, lean.sum() * flashed[0].enthalpy), ColumnFeed(stages, gas, gas.sum() * flashed[1].enthalpy)]
        return Case(
            f"absorber {stages} stages {', '.join(gases)} {oil}",
            StagedColumn(model, feeds, stages=stages, pressure=P, condenser="none", reboiler=False),
            (),
        )
    P = 1e5 * float(rng.uniform(1.5, 6.0))
    flows = 100.0 * (float(rng.uniform(0.2, 0.6)) * share / share.sum() + np.append(np.zeros(len(gases)), 1.0))
    # The oil comes in hot: nearly as hot as it boils alone.
    hot = float(rng.uniform(0.85, 0.95)) * model.flash(np.eye(len(flows))[-1], P=P, VF=0.0).temperature
    fed = model.flash(flows, T=hot, P=P)
    column = StagedColumn(model, [ColumnFeed(1, flows, flows.sum() * fed.enthalpy)], stages=stages, pressure=P, condenser="none")
    return Case(f"stripper {stages} stages {', '.join(gases)} {oil}", column, (Want("boil-up ratio", float(rng.uniform(0.1, 0.8))),))


def other_wants(case: Case, found: ColumnState, rng: np.random.Generator) -> tuple[Want, ...]:
    """As many other things that this state has."""
    ids = [c.id for c in case.column.layout.model.components]
    if not case.easy:
        return ()
    top = next(iter(found.products))
    flows, bottoms = found.products[top].flows, found.products["bottoms"].flows
    fed = flows + bottoms
    share = flows / fed
    order = np.argsort(-share)
    light, heavy = int(order[(len(ids) - 1) // 2]), int(order[(len(ids) - 1) // 2 + 1])
    duty = Want("duty", float(found.duties[-1]), place="reboiler")
    if len(case.easy) == 1:
        return (Want("recovery", float(share[light]), top, (ids[light],)),) if 1e-6 < share[light] < 1 - 1e-6 and rng.random() < 0.7 else (duty,)
    able = [
        (Want("flow", float(flows.sum()), top), duty),
        (Want("reflux ratio", float(found.reflux_ratio or 0.0)), Want("flow", float(bottoms.sum()), "bottoms")),
        (Want("boil-up ratio", found.boil_up_ratio), Want("flow", float(flows.sum()), top)),
    ]
    if 1e-6 < share[light] < 1.0 - 1e-6:
        able += 2 * [(case.easy[0], Want("recovery", float(share[light]), top, (ids[light],)))]
    tops, ends = flows / flows.sum(), bottoms / bottoms.sum()
    if tops[heavy] > 1e-5 and ends[light] > 1e-5 and abs(share[light] - share[heavy]) > 0.02:
        able += 2 * [(Want("fraction", float(tops[heavy]), top, (ids[heavy],)), Want("fraction", float(ends[light]), "bottoms", (ids[light],)))]
        able += [(Want("fraction", float(tops[light]), top, (ids[light],)), case.easy[1])]
    return able[int(rng.integers(len(able)))]


def main(count: int) -> int:
    """Score and times."""
    failed, times, looks, again, cooled = [], [], [], [], []
    for k, case in enumerate(cases(count)):
        found = None
        for attempt in ("first", "other"):
            wants = case.easy if found is None else other_wants(case, found, np.random.default_rng([11, k]))
            began = time.perf_counter()
            try:
                state = case.column.solve(wants)
            except ColumnError as error:
                # The generator's rule for reflux is a rule of thumb: where hot feeds bring more heat than it takes out, there is no such column.
                (cooled if "would have to be cooled" in error.text else failed).append(
                    f"{k} {attempt}: {case.name}: {'; '.join(f'{w.text} {w.value:.6g}' for w in wants)}: {error.text}"
                )
                break
            times.append(time.perf_counter() - began)
            looks.append(state.looks)
            if found is not None:
                again.append(float(np.abs(state.x - found.x).max()))
            found = state
    print("\n".join([*failed, *(f"cannot be, {case}" for case in cooled)]))
    tried = len(times) + len(failed)
    print(
        f"{len(times)} of {tried} found ({100.0 * len(times) / tried:.2f} %); median {1e3 * np.median(times):.1f} ms, {np.median(looks):.0f} looks,"
    )
    print(f"slowest {1e3 * max(times):.0f} ms; the same state again within {max(again):.1e}, {sum(a > 1e-6 for a in again)} differ by more than 1e-6")
    return 0


if __name__ == "__main__":
    sys.exit(main(int(sys.argv[1]) if len(sys.argv) > 1 else 500))
