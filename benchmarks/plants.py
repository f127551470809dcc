"""Plants made at random, from nothing and after one edit: seconds, milliseconds a unit, memory. One table."""

from __future__ import annotations

import resource
import sys
import time
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parents[1] / "tests" / "support"))
from mazes import maze

from wattaxis import Memory, edit, solve

#: Units wanted, loops.
SIZES = ((50, 5), (150, 15), (300, 30))
#: Recycles that go back far multiply: with more than this thousands of times the feed would go round in the largest plant.
SHARE = 0.3


def main() -> None:
    """Print one table."""
    solve(maze(5, 1, 1))  # kernels are loaded
    print("| units | loops | from nothing, s | a unit, ms | after an edit at the end, s | closed | memory, MB |")
    print("|---|---|---|---|---|---|---|")
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
        units, megabytes = len(document.units), resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
        closed = sum(loop.closed for loop in result.loops)
        row = f"| {units} | {loops} | {seconds:.2f} | {1000 * seconds / units:.1f} | {again:.2f} | {closed} of {len(result.loops)} groups |"
        print(f"{row} {megabytes:.0f} |")


if __name__ == "__main__":
    main()
