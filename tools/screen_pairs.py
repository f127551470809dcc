"""Screens every pair of the bank and writes ``doubtful_pairs.txt``: pairs that part falsely into two liquids, in more than one gap, or whose
activity coefficients at infinite dilution lie an order of magnitude from those of the groups. Run after the bank is written."""

from __future__ import annotations

import math
from pathlib import Path

import numpy as np

from wattaxis import PropertyModel, component
from wattaxis.substances.bank import bank_data
from wattaxis.substances.classes import WATER, is_alkane, is_polar, mixes_with_water

FILE = Path(__file__).resolve().parents[1] / "src" / "wattaxis" / "substances" / "doubtful_pairs.txt"
X = np.concatenate([np.geomspace(1e-5, 0.02, 30), np.linspace(0.02, 0.98, 97)[1:-1], 1.0 - np.geomspace(0.02, 1e-5, 30)])
#: Temperatures (K) at which a liquid is looked at; a factor between limiting activity coefficients that is too much.
TEMPERATURES, FACTOR = (278.15, 298.15, 333.15, 363.15), 10.0


def gaps(model: PropertyModel, t: float) -> int:
    """How many stretches of composition are unstable: where x gamma of a component falls with x."""
    log = np.array([np.log(x) + np.log(model.activity_coefficients(t, 1e5, [x, 1.0 - x])[0]) for x in X])
    falling = np.diff(log) < -1e-9
    return int((np.diff(falling.astype(int)) == 1).sum() + falling[0])


def limits(model: PropertyModel, t: float) -> np.ndarray:
    return np.log([model.activity_coefficients(t, 1e5, [1e-6, 1.0 - 1e-6])[0], model.activity_coefficients(t, 1e5, [1.0 - 1e-6, 1e-6])[1]])


def miscible(first, second) -> bool:
    """Whether the two are known to mix, by class: with water, or both polar, or both not."""
    for one, other in ((first, second), (second, first)):
        if one.cas == WATER:
            return mixes_with_water(other)
    return not (is_alkane(first) and is_polar(second)) and not (is_alkane(second) and is_polar(first))


def verdict(kind: str, first_cas: str, second_cas: str) -> str:
    """Why a pair is not to be believed, empty where nothing speaks against it."""
    first, second = component(first_cas), component(second_cas)
    try:
        model = PropertyModel(kind, [first, second])
        groups = PropertyModel("unifac-dortmund", [first, second])
    except ValueError:
        return ""
    if model.gases:
        return ""
    for t in TEMPERATURES:
        found = gaps(model, t) if kind != "wilson" else 0
        if found > 1:
            return f"parts into two liquids in {found} gaps at {t:.0f} K"
        if found == 1 and miscible(first, second) and gaps(groups, t) == 0:
            return f"parts into two liquids at {t:.0f} K, where these mix and the groups show no gap"
        apart = np.abs(limits(model, t) - limits(groups, t)).max()
        if apart > math.log(FACTOR):
            return f"limiting activity coefficients {math.exp(apart):.0f} times from those of the groups at {t:.0f} K"
    return ""


def main() -> None:
    lines = ["# Pairs of the bank that a screening by tools/screen_pairs.py contradicts: model, CAS, CAS, why."]
    for kind in ("nrtl", "uniquac", "wilson"):
        rows = bank_data()["pairs"][kind]["rows"]
        bad = [(row[0], row[1], text) for row in rows if (text := verdict(kind, row[0], row[1]))]
        print(kind, len(rows), "pairs,", len(bad), "doubtful")
        lines += [f"{kind} {first} {second} {text}" for first, second, text in bad]
    FILE.write_text("\n".join(lines) + "\n")


if __name__ == "__main__":
    main()
