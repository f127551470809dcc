"""How long the command line takes to start: `wattaxis check` of an example against `import numpy` in the same run, least of several."""

from __future__ import annotations

import subprocess
import sys
import time
from importlib.resources import files

#: Runs of each, taken in turn.
RUNS = 7


def main() -> None:
    """Print one table."""
    numpy = [sys.executable, "-c", "import numpy"]
    example = {name: str(files("wattaxis.examples").joinpath(f"{name}.json")) for name in ("sandlark_bay", "butanone_plant")}
    check = [sys.executable, "-m", "wattaxis.cli", "check"]
    commands = {"import numpy": numpy} | {f"wattaxis check {name}": [*check, path] for name, path in example.items()}
    least = dict.fromkeys(commands, float("inf"))
    for _ in range(RUNS):
        for name, command in commands.items():
            started = time.perf_counter()
            subprocess.run(command, stdout=subprocess.DEVNULL, check=False)
            least[name] = min(least[name], time.perf_counter() - started)
    print("| command | s | times import numpy |")
    print("|---|---|---|")
    for name, seconds in least.items():
        print(f"| {name} | {seconds:.2f} | {seconds / least['import numpy']:.1f} |")


if __name__ == "__main__":
    main()
