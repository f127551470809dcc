"""Writes ``pipe_sizes.json`` from the tables of ``fluids``: outer diameter and wall (mm) of steel pipes by schedule and nominal size.

A development tool: run ``python -m wattaxis.equipment.build_pipe_sizes`` where ``fluids`` is installed. ASME B36.10M and, with an S, B36.19M.
"""

from __future__ import annotations

import json
from pathlib import Path

SCHEDULES = ("5", "10", "20", "30", "40", "60", "80", "100", "120", "140", "160", "STD", "XS", "XXS", "5S", "10S", "40S", "80S")
#: DN by NPS (inches).
NOMINAL = {
    0.5: 15, 0.75: 20, 1: 25, 1.25: 32, 1.5: 40, 2: 50, 2.5: 65, 3: 80, 4: 100, 5: 125, 6: 150, 8: 200, 10: 250, 12: 300, 14: 350, 16: 400,
    18: 450, 20: 500, 22: 550, 24: 600, 26: 650, 28: 700, 30: 750, 32: 800, 34: 850, 36: 900, 42: 1050, 48: 1200,
}  # fmt: skip


def main() -> None:
    from fluids.piping import schedule_lookup

    sizes = {}
    for schedule in SCHEDULES:
        inches, _, outer, wall = schedule_lookup[schedule]
        rows = {f"DN {NOMINAL[n]}": [o, w] for n, o, w in zip(inches, outer, wall, strict=True) if n in NOMINAL}
        sizes[schedule] = rows
    Path(__file__).with_name("pipe_sizes.json").write_text(json.dumps(sizes, indent=1) + "\n", encoding="utf-8")


if __name__ == "__main__":
    main()
