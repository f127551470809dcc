"""Isothermal flashes with stability test against thermo, in one run: the same states, the same constants, ratios of time.

Each library goes through all states in its own loop, so that neither finds the other's data in the processor's caches. Ours is measured
through the Python call that a script would make and through the call for many states at once.
"""

from __future__ import annotations

import sys
import time
import warnings
from pathlib import Path

import numpy as np

sys.path.insert(0, str(Path(__file__).resolve().parents[1] / "tests" / "core"))
from test_flash_against_thermo import NAMES, thermo_flash

from wattaxis import PropertyModel

STATES, REPEATS = 400, 7


def main() -> None:
    """Print one table."""
    warnings.filterwarnings("ignore")
    model = PropertyModel("peng-robinson", NAMES)
    rng = np.random.default_rng(7)
    z = rng.dirichlet(np.ones(8), STATES)
    t, p = rng.uniform(180, 600, STATES), 10 ** rng.uniform(4, 7.2, STATES)
    lists = z.tolist()
    for k in range(STATES):
        model.flash(z[k], T=t[k], P=p[k])
    ours = np.array([min(seconds(lambda k=k: model.flash(z[k], T=t[k], P=p[k])) for _ in range(REPEATS)) for k in range(STATES)])
    model.flash_many(z, t, p)
    many = min(seconds(lambda: model.flash_many(z, t, p)) for _ in range(REPEATS)) / STATES
    print("PT flash, 8 hydrocarbons, Peng-Robinson; ours always tests stability, for a second liquid too")
    print(f"  wattaxis, one call      median {1e6 * np.median(ours):8.1f} us")
    print(f"  wattaxis, many states   mean   {1e6 * many:8.1f} us")
    for liquids, words in ((2, "stability tested always"), (1, "tested where substitution fails")):
        flasher = thermo_flash(model, "peng-robinson", liquids)
        flasher.PT_SS_TOL = 1e-13  # the library's own default, not the tighter one of the tests
        theirs = np.array([seconds(lambda k=k, f=flasher: f.flash(T=t[k], P=p[k], zs=lists[k])) for k in range(STATES)])
        ratio = theirs / ours
        told = f"ratio: median {np.median(ratio):.0f}, least {ratio.min():.0f}, of the means with many states {theirs.mean() / many:.0f}"
        print(f"  thermo, {words:32} median {1e6 * np.median(theirs):8.1f} us   {told}")
    for name, energy in (("PH", "H"), ("PS", "S")):
        values = [getattr(model.flash(z[k], T=t[k], P=p[k]), "enthalpy" if energy == "H" else "entropy") for k in range(STATES)]
        times = [seconds(lambda k=k, given={energy: values[k]}: model.flash(z[k], P=p[k], **given)) for k in range(STATES)]
        print(f"  wattaxis, {name} flash      median {1e6 * np.median(times):8.1f} us")


def seconds(call: object) -> float:
    """Wall time of one call."""
    started = time.perf_counter()
    call()  # type: ignore[operator]
    return time.perf_counter() - started


if __name__ == "__main__":
    main()
