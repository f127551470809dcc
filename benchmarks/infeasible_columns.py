"""Columns that cannot be: whether each is explained, and rightly.

``python benchmarks/infeasible_columns.py`` prints the explanations that miss what is in the way, the score, and how long the answers took. What is
in the way is known by how each case is made: an azeotrope, too few stages, more drawn than flows, contradictions, no second liquid, no boiling.
"""

from __future__ import annotations

import re
import time
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from wattaxis import PropertyModel
from wattaxis.columns import ColumnError, ColumnFeed, ColumnState, ExtractionColumn, PumpAround, SideDraw, SideStripper, StagedColumn, Want

ATMOSPHERE = 101325.0
#: Pairs with an azeotrope: model, parts, the component that is wanted too pure, its share in the feed.
AZEOTROPES = (
    ("nrtl", ("ethanol", "water"), 0, 0.1),
    ("nrtl", ("2-propanol", "water"), 0, 0.2),
    ("nrtl", ("1-propanol", "water"), 0, 0.2),
    ("nrtl", ("acetone", "methanol"), 0, 0.4),
    ("nrtl", ("ethyl acetate", "ethanol"), 0, 0.3),
    ("unifac", ("ethanol", "benzene"), 1, 0.3),
    ("unifac", ("methanol", "ethyl acetate"), 1, 0.2),
    ("unifac", ("ethanol", "cyclohexane"), 1, 0.3),
    ("unifac", ("2-propanol", "toluene"), 1, 0.3),
    ("unifac", ("methanol", "benzene"), 1, 0.2),
)
#: Pairs that are easy to part, and few stages for what is wanted.
CLOSE = (
    ("ideal", ("benzene", "toluene"), 6, 0.999),
    ("ideal", ("toluene", "p-xylene"), 7, 0.9995),
    ("ideal", ("hexane", "heptane"), 5, 0.995),
    ("peng-robinson", ("isobutane", "butane"), 20, 0.99),
    ("peng-robinson", ("propene", "propane"), 40, 0.99),
    ("peng-robinson", ("pentane", "hexane"), 6, 0.9999),
    ("soave-redlich-kwong", ("isopentane", "pentane"), 15, 0.98),
    ("nrtl", ("methanol", "ethanol"), 8, 0.995),
    ("unifac", ("methanol", "water"), 5, 0.9999),
    ("ideal", ("heptane", "octane"), 6, 0.9999),
)


@dataclass(frozen=True)
class Impossible:
    """A column, what is wanted of it, and what the explanation has to say."""

    name: str
    column: StagedColumn | ExtractionColumn
    wants: tuple[Want, ...]
    says: str


def fed(model: PropertyModel, stage: int, flows: list[float], P: float = ATMOSPHERE, **given: float) -> ColumnFeed:
    """A feed in a state."""
    amounts = np.asarray(flows, dtype=float)
    return ColumnFeed(stage, amounts, amounts.sum() * model.flash(amounts, P=P, **given).enthalpy)


def cases() -> Iterator[Impossible]:
    """All of them."""
    yield from beyond_azeotropes()
    yield from too_few_stages()
    yield from contradictions()
    yield from dry_ones()
    yield from without_phases()


def beyond_azeotropes() -> Iterator[Impossible]:
    """99.5 % of what the azeotrope keeps at less, with many stages."""
    for family, parts, light, share in AZEOTROPES:
        model = PropertyModel(family, list(parts))
        flows = [100.0 * share, 100.0 - 100.0 * share] if light == 0 else [100.0 - 100.0 * share, 100.0 * share]
        column = StagedColumn(model, [fed(model, 15, flows, VF=0.0)], stages=30, pressure=ATMOSPHERE)
        wants = (Want("fraction", 0.995, "distillate", (parts[light],)), Want("reflux ratio", 3.0))
        yield Impossible(f"beyond the azeotrope of {' and '.join(parts)}", column, wants, "azeotrope")


def too_few_stages() -> Iterator[Impossible]:
    """Purities out of reach: what is said is how far it goes."""
    for family, parts, stages, purity in CLOSE:
        model, P = PropertyModel(family, list(parts)), 7e5 if family != "ideal" and "ane" in parts[0] + parts[1] else ATMOSPHERE
        column = StagedColumn(model, [fed(model, stages // 2 + 1, [50, 50], P=P, VF=0.0)], stages=stages, pressure=P)
        wants = (Want("fraction", purity, "distillate", (parts[0],)), Want("reflux ratio", 2.0))
        yield Impossible(f"{purity} {parts[0]} with {stages} stages", column, wants, "was not reached with a reflux ratio of 2: the last state")


def contradictions() -> Iterator[Impossible]:
    """What no column meets."""
    model = PropertyModel("ideal", ["benzene", "toluene", "p-xylene"])
    feeds = [fed(model, 10, [30, 40, 30], VF=0.3)]
    plain = StagedColumn(model, feeds, stages=20, pressure=ATMOSPHERE)
    side = StagedColumn(model, feeds, stages=20, pressure=ATMOSPHERE, draws=[SideDraw("side", 5)])
    reflux = Want("reflux ratio", 2.0)
    for name, column, wants, says in (
        ("three specifications", plain, (reflux, Want("flow", 30.0, "distillate"), Want("boil-up ratio", 1.0)), "takes 2 specifications"),
        ("one specification", plain, (reflux,), "takes 2 specifications"),
        ("one twice", plain, (reflux, reflux), "specified twice"),
        ("both products", plain, (Want("flow", 30.0, "distillate"), Want("flow", 60.0, "bottoms")), "the last one follows from the others"),
        ("more than is fed", plain, (reflux, Want("flow", 130.0, "distillate")), "and 100 mol/s are fed"),
        ("more of a component than is fed", plain, (reflux, Want("flow", 40.0, "distillate", ("benzene",))), "30 of it are fed"),
        ("purer than its rate allows", plain, (Want("fraction", 0.9, "distillate", ("benzene",)), Want("flow", 50.0, "distillate")), "0.6 at most"),
        ("a fraction of 1", plain, (reflux, Want("fraction", 1.0, "distillate", ("benzene",))), "lies between 0 and 1"),
        ("a recovery of 1.2", plain, (reflux, Want("recovery", 1.2, "distillate", ("benzene",))), "lies between 0 and 1"),
        ("no reflux", plain, (Want("reflux ratio", 0.0), Want("flow", 30.0, "distillate")), "a phase would be gone"),
        ("no boil-up", plain, (Want("boil-up ratio", 0.0), Want("flow", 30.0, "distillate")), "a phase would be gone"),
        ("a component that is not there", plain, (reflux, Want("fraction", 0.9, "distillate", ("ethanol",))), "ethanol"),
        ("a product that is not there", plain, (reflux, Want("flow", 10.0, "side")), "no product"),
        ("draws beyond the feed", side, (reflux, Want("flow", 60.0, "distillate"), Want("flow", 60.0, "side")), "and 100 mol/s are fed"),
        ("a stage that is not there", plain, (reflux, Want("temperature", 370.0, stage=21)), "stages 1 to 20"),
        ("a duty of nothing there", plain, (reflux, Want("duty", 1e5, place="cooler")), "no cooler"),
    ):
        yield Impossible(name, column, wants, says)
    one = StagedColumn(model, [fed(model, 10, [50, 0, 0], VF=0.3)], stages=20, pressure=ATMOSPHERE)
    yield Impossible("one component", one, (reflux, Want("flow", 20.0, "distillate")), "One component alone")


def dry_ones() -> Iterator[Impossible]:
    """Sections in which nothing would be left to flow."""
    model = PropertyModel("ideal", ["benzene", "toluene", "p-xylene"])
    boiling, vapour = [fed(model, 10, [30, 40, 30], VF=0.0)], [fed(model, 10, [30, 40, 30], VF=1.0)]

    def column(feeds: list[ColumnFeed], **given: object) -> StagedColumn:
        return StagedColumn(model, feeds, stages=20, pressure=ATMOSPHERE, **given)  # type: ignore[arg-type]

    thin, top = Want("reflux ratio", 0.3), Want("flow", 30.0, "distillate")
    for flow in (15.0, 30.0, 45.0):
        wants = (thin, top, Want("flow", flow, "side"))
        yield Impossible(f"{flow} drawn of 9 that come down", column(boiling, draws=[SideDraw("side", 5)]), wants, "are to be drawn from stage 5")
    for ratio in (0.2, 0.5, 0.8):
        yield Impossible(
            f"vapour fed, reflux ratio {ratio}", column(vapour), (Want("reflux ratio", ratio), Want("flow", 40.0, "distillate")), "are fed as vapour"
        )
    around = column(boiling, pump_arounds=[PumpAround("round", 8, 4)])
    cooled = (Want("duty", 2e6, place="reboiler"), top, Want("flow", 30.0, "round"), Want("duty", -3e6, place="round"))
    yield Impossible("all vapour cooled away", around, cooled, "ardly any|runs dry")
    stripped = column(boiling, strippers=[SideStripper("side", 4, 6, 5)])
    wants = (Want("reflux ratio", 1.0), top, Want("flow", 45.0, "side"), Want("boil-up ratio", 1.0, place="side"))
    yield Impossible("a stripper that takes more than comes down", stripped, wants, "ardly any|runs dry")
    yield Impossible("heat taken from the bottom", column(boiling), (Want("duty", -1e6, place="reboiler"), top), "ardly any|runs dry|No state")
    yield Impossible("hardly any heat", column(boiling), (Want("duty", 1e3, place="reboiler"), top), "ardly any|runs dry|was not reached")
    yield Impossible(
        "colder than anything boils", column(boiling), (Want("reflux ratio", 2.0), Want("temperature", 300.0, stage=1)), "was not reached"
    )
    yield Impossible(
        "hotter than anything boils", column(boiling), (Want("reflux ratio", 2.0), Want("temperature", 450.0, stage=20)), "was not reached"
    )


def without_phases() -> Iterator[Impossible]:
    """Above the critical pressure, and where a second liquid is asked for that is not there."""
    for family, parts, P in (
        ("peng-robinson", ("propane", "butane"), 60e5),
        ("peng-robinson", ("ethane", "propane"), 80e5),
        ("soave-redlich-kwong", ("pentane", "hexane"), 60e5),
        ("peng-robinson", ("benzene", "toluene"), 90e5),
    ):
        model = PropertyModel(family, list(parts))
        feed = fed(model, 8, [50, 50], P=P, T=400.0)
        yield Impossible(f"{' and '.join(parts)} at {P / 1e5:.0f} bar", StagedColumn(model, [feed], stages=16, pressure=P),
                         (Want("reflux ratio", 2.0), Want("flow", 50.0, "distillate")), "no state of liquid beside vapour|critical")  # fmt: skip
    for parts in (("water", "ethanol"), ("water", "methanol"), ("benzene", "toluene"), ("acetone", "water")):
        model = PropertyModel("nrtl", list(parts))
        column = StagedColumn(model, [fed(model, 4, [50, 50], VF=0.0)], stages=10, pressure=ATMOSPHERE, condenser="decanting")
        yield Impossible(f"{' and '.join(parts)} decanted", column, (Want("boil-up ratio", 1.0),), "it is one liquid")
    for parts in (("water", "ethanol"), ("water", "acetone"), ("benzene", "toluene"), ("methanol", "ethanol")):
        model = PropertyModel("unifac", list(parts))
        feeds = [fed(model, 1, [80, 0], P=3e5, T=298.15), fed(model, 5, [0, 60], P=3e5, T=298.15)]
        yield Impossible(f"{parts[1]} against {parts[0]}", ExtractionColumn(model, feeds, stages=5, pressure=3e5), (), "No two liquids were found")


def answer(case: Impossible) -> ColumnState:
    """What comes out of a case. Raises ColumnError, as it should."""
    return case.column.solve() if isinstance(case.column, ExtractionColumn) else case.column.solve(case.wants)


def main() -> None:
    """Every case, and the score."""
    right, times, count = 0, list[float](), 0
    for case in cases():
        count += 1
        started = time.perf_counter()
        try:
            state = answer(case)
            told = f"a state was found: {state.log}"
        except ColumnError as error:
            told = f"{error.text} {error.remedy}"
        times.append(time.perf_counter() - started)
        if re.search(case.says, told) and not told.startswith("a state"):
            right += 1
        else:
            print(f"{case.name}: {told}")
    print(f"{right} of {count} explained; median {1000.0 * float(np.median(times)):.0f} ms, slowest {max(times):.1f} s")


if __name__ == "__main__":
    main()
