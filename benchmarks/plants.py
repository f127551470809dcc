"""Plants made at random, from nothing, after one edit, and with two aims; the butanone plant: seconds, milliseconds a unit, memory."""

from __future__ import annotations

import resource
import sys
import time
from importlib.resources import files
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parents[1] / "tests" / "support"))
from mazes import maze, with_aims

from wattaxis import Memory, edit, load, solve

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
        ("overhead product 35 to 30 degC, outside the loops", "T-301", "overhead_temperature", 30.0, "degC"),
    ):
        if unit:
            plant = edit(plant, "set_values", unit=unit, values={field: {"value": value, "unit": name}})
        started = time.perf_counter()
        solve(plant, memory=memory)
        print(f"| {what} | {time.perf_counter() - started:.2f} |")


if __name__ == "__main__":
    main()
    butanone()
