"""Studies: a case beside the plant from nothing, what a study adds to a case, a search for the best, two processes beside one, a large answer."""

from __future__ import annotations

import json
import time
from importlib.resources import files
from typing import Any

import numpy as np

from wattaxis import Document, Memory, edit, load, solve
from wattaxis.flowsheet import Study
from wattaxis.flowsheet.document import to_data
from wattaxis.solving.aims import with_givens
from wattaxis.solving.sequential import answered
from wattaxis.studies import Case, Sensitivity, StudyColumn, StudyResult, ask
from wattaxis.studies.cluster import StudyCluster


def example(name: str) -> Document:
    """An example that ships."""
    return load(files("wattaxis.examples").joinpath(f"{name}.json").read_text(encoding="utf-8"))


def varied(unit: str, field: str, low: float, high: float, of: str, points: int) -> dict[str, Any]:
    """An input between two values."""
    return {"unit": unit, "field": field, "low": {"value": low, "unit": of}, "high": {"value": high, "unit": of}, "points": points}


#: A plant, what is varied inside its loops, what is looked at, whether its aims are left out.
CASES = (
    ("sandlark_bay", varied("E-103", "outlet_temperature", 20, 40, "degC", 26), "E-103.duty", False),
    ("butane_splitter", varied("T-601", "stages", 66, 90, "", 25), "T-601.reboiler_duty", False),
    ("ammonia_loop", varied("E-103", "outlet_temperature", -18, -12, "degC", 26), "K-201.power", False),
    ("butanone_plant", varied("E-304", "outlet_temperature", 52, 56, "degC", 26), "T-302.reboiler_duty", True),
    ("butanone_plant", varied("E-304", "outlet_temperature", 52, 56, "degC", 26), "T-302.reboiler_duty", False),
)


def cases() -> None:
    """Seconds a case, beside the plant from nothing."""
    print("| plant | from nothing, s | a case, ms | ratio |\n|---|---|---|---|")
    for name, given, looked_at, plain in CASES:
        plant = example(name)
        plant = plant.model_copy(update={"aims": ()}) if plain else plant
        started = time.perf_counter()
        solve(plant)
        alone = time.perf_counter() - started
        study = Sensitivity(plant, Study.model_validate({"name": "x", "inputs": [given], "outputs": [{"name": "y", "formula": looked_at}]}))
        _ = study.outputs
        started = time.perf_counter()
        found = study.block(0)
        each = (time.perf_counter() - started) / len(found)
        print(f"| {name}{', without aims' if plain else ''} | {alone:.2f} | {1000 * each:.0f} | {alone / each:.0f} |")


def overhead() -> None:
    """What a study adds to the calculation of a small plant, and what of a large answer takes how long."""
    plant, given = example("sandlark_bay"), CASES[0][1]
    study = Sensitivity(plant, Study.model_validate({"name": "x", "inputs": [given], "outputs": [{"name": "y", "formula": "E-103.duty"}]}))
    _ = study.outputs
    started = time.perf_counter()
    study.block(0)
    inside = time.perf_counter() - started
    memory = Memory()
    answered(plant, memory)
    started = time.perf_counter()
    for value in study.cases.values[:25]:
        answered(with_givens(plant, study.cases.inputs, value), memory)
    bare = time.perf_counter() - started
    print(f"\na case of a study beside the same calculation: {1000 * (inside - bare) / 25:.2f} ms more")
    rows = [Case(k, (float(k), 1.0), (float(np.sin(k)), 2.0), ("", ""), ()) for k in range(10_000)]
    column = StudyColumn("x", "x", None, "")
    started = time.perf_counter()
    text = json.dumps(StudyResult("x", (column, column), (column, column), rows).to_data())
    written = time.perf_counter() - started
    started = time.perf_counter()
    StudyResult.from_data(json.loads(text))
    print(f"10 000 cases: written in {written:.2f} s, {len(text) / 1e6:.1f} MB, read in {time.perf_counter() - started:.2f} s")


def searches() -> None:
    """Searches for the best that ship with the demo."""
    print("\n| search | variables | calculations | s |\n|---|---|---|---|")
    for name in ("ammonia_loop",):
        plant = example(name)
        for study in plant.studies:
            if study.asks == "optimum":
                started = time.perf_counter()
                found = ask(plant, study).optimum
                assert found is not None
                print(f"| {name}: {study.name} | {len(study.inputs)} | {found.calculations} | {time.perf_counter() - started:.1f} |")


def processes() -> None:
    """The same study by one process of a cluster and by two."""
    plant = example("sandlark_bay")
    study = {
        "name": "x",
        "inputs": [varied("E-103", "outlet_temperature", 20, 40, "degC", 1000)],
        "outputs": [{"name": "y", "formula": "E-103.duty"}],
    }
    data, seconds = to_data(edit(plant, "set_study", name="x", study=study)), []
    for workers in (1, 2):
        cluster = StudyCluster(workers=workers)
        cluster.ask(data, "x")  # the processes come up
        started = time.perf_counter()
        cluster.ask(data, "x")
        seconds.append(time.perf_counter() - started)
        cluster.close()
    print(f"\n1000 cases of sandlark_bay: {seconds[0]:.1f} s by one process, {seconds[1]:.1f} s by two, {seconds[0] / seconds[1]:.2f} times as fast")


if __name__ == "__main__":
    cases()
    overhead()
    searches()
    processes()
