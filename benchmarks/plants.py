"""Plants made at random, from nothing, after one edit, and with two aims; the butanone plant: seconds, milliseconds a unit, memory."""

from __future__ import annotations

import resource
import sys
import time
from importlib.resources import files
from pathlib import Path
from typing import Any

sys.path.insert(0, str(Path(__file__).resolve().parents[1] / "tests" / "support"))
from mazes import maze, with_aims

from wattaxis import Document, Memory, SolveResult, edit, load, solve
from wattaxis.flowsheet.document import load_data

#: Units wanted, loops.
SIZES = ((50, 5), (150, 15), (300, 30))
#: Recycles that go back far multiply: with more than this thousands of times the feed would go round in the largest plant.
SHARE = 0.3


def main() -> None:
    """Print one table."""
    solve(maze(5, 1, 1))  # kernels are loaded
    print("| units | loops | from nothing, s | a unit, ms | after an edit at the end, s | two aims, s | closed | memory, MB |")
    print("|---|---|---|---|---|---|---|---|")
    for wanted, loops in SIZES:
        document = maze(int(wanted / 1.6), loops, 11, SHARE)
        memory = Memory(4 * len(document.units) + 200)
        started = time.perf_counter()
        result = solve(document, memory=memory)
        seconds = time.perf_counter() - started
        last = next(u.tag for u in reversed(document.units) if u.type == "heater")
        changed = edit(document, "set_values", unit=last, values={"outlet_temperature": {"value": 348.0, "unit": "K"}})
        started = time.perf_counter()
        solve(changed, memory=memory)
        again = time.perf_counter() - started
        wanting = with_aims(document, result)
        started = time.perf_counter()
        met = solve(wanting, memory=memory)
        aims = f"{time.perf_counter() - started:.2f}, {sum(a.state == 'met' for a in met.aims)} met"
        units, megabytes = len(document.units), resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
        closed = sum(loop.closed for loop in result.loops)
        row = f"| {units} | {loops} | {seconds:.2f} | {1000 * seconds / units:.1f} | {again:.2f} | {aims} | {closed} of {len(result.loops)} groups |"
        print(f"{row} {megabytes:.0f} |")


def butanone() -> None:
    """Three aims around two loops: from nothing, and after edits inside and behind the loops."""
    plant = load(files("wattaxis.examples").joinpath("butanone_plant.json").read_text(encoding="utf-8"))
    memory = Memory()
    print("\n| butanone plant | s |\n|---|---|")
    for what, unit, field, value, name in (
        ("from nothing", "", "", 0.0, ""),
        ("tubes 600 to 590", "R-301", "tubes", 590.0, ""),
        ("purge 15 to 14 %", "N-301", "share_1", 14.0, "%"),
        ("feed of the reactor 375 to 380 degC", "E-303", "outlet_temperature", 380.0, "degC"),
        ("reflux of the product column 8 to 7, outside the loops", "T-303", "reflux_ratio", 7.0, ""),
    ):
        if unit:
            plant = edit(plant, "set_values", unit=unit, values={field: {"value": value, "unit": name}})
        started = time.perf_counter()
        result = solve(plant, memory=memory)
        print(f"| {what} | {time.perf_counter() - started:.2f} |")
    tubes, simple = _fresh(without_aim(plant, result)), _fresh(with_conversions(plant, result))
    print(f"| from nothing, without the aim on conversion | {tubes:.2f} |")
    print(f"| the same with a conversion reactor in the place of tubes and oil, {tubes / simple:.1f} times less | {simple:.2f} |")


def _fresh(plant: Document) -> float:
    """Seconds from nothing, the better of two."""
    found = []
    for _ in range(2):
        started = time.perf_counter()
        if not solve(plant).complete:
            raise RuntimeError("The plant that is measured does not solve.")
        found.append(time.perf_counter() - started)
    return min(found)


def without_aim(plant: Document, result: SolveResult) -> Document:
    """The butanone plant with the temperature of its oil given, and not the conversion."""
    data: dict[str, Any] = plant.model_dump(mode="json", exclude_none=True)
    data["aims"] = [aim for aim in data["aims"] if aim["free"]["unit"] != "E-305"]
    heater = next(unit for unit in data["units"] if unit["tag"] == "E-305")
    heater["spec"]["outlet_temperature"] = {"value": result.streams["S-322"].temperature, "unit": "K"}
    return load_data(data)


def with_conversions(plant: Document, result: SolveResult) -> Document:
    """The butanone plant with a reactor of the same conversions and outlet in the place of its tubes and their oil."""
    data: dict[str, Any] = without_aim(plant, result).model_dump(mode="json", exclude_none=True)
    gone = {"C-301", "E-305", "P-303"}
    data["units"] = [unit for unit in data["units"] if unit["tag"] not in gone]
    data["streams"] = [s for s in data["streams"] if not {s["source"]["unit"], s["target"]["unit"]} & gone]
    for key in ("pins", "shown", "tables"):
        data.pop(key, None)
    reactor = next(unit for unit in data["units"] if unit["tag"] == "R-301")
    fed = result.streams["S-309"].mole_flows["2-butanol"]
    extents = {value.component: value.value for value in result.units["R-301"].values if value.key == "extent"}
    # What is left out, the condensation, takes a five-hundredth.
    names = ("Dehydrogenation", "Dehydration")
    rows = [{"id": name, "cells": {"reaction": name, "conversion": {"value": extents[name] / fed, "unit": ""}}} for name in names]
    reactor["type"] = "conversion-reactor"
    reactor["spec"] = {
        "reactions": reactor["spec"]["reactions"],
        "conversions": {"rows": rows},
        "order": "side by side",
        "outlet_temperature": {"value": result.streams["S-310"].temperature, "unit": "K"},
        "pressure_change": {"value": -0.2, "unit": "bar"},
    }
    return load_data(data)


if __name__ == "__main__":
    main()
    butanone()
