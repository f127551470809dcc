"""Plants made at random: a line of units with recycles, nested and crossing, every one of which has a way out."""

from __future__ import annotations

import random
from typing import Any

from plants import C4, feed, plant, q

from wattaxis import Document


def maze(size: int, loops: int, seed: int, most: float = 0.7) -> Document:
    """A line of ``size`` stages; ``loops`` splitters send part of the flow, ``most`` at most, back to an earlier mixer."""
    rng = random.Random(seed)
    units: dict[str, tuple[str, dict[str, Any]]] = {"F": feed(temperature="350 K", pressure="20 bar")}
    streams: list[str] = []
    backs = {}
    for number in range(loops):
        end = rng.randrange(2, size)
        backs.setdefault(end, []).append((rng.randrange(0, end), number))
    targets: dict[int, list[int]] = {}
    for starts in backs.values():
        for start, number in starts:
            targets.setdefault(start, []).append(number)
    last, count = "F.outlet", 0

    def line(target: str, source: str = "") -> None:
        nonlocal count
        count += 1
        streams.append(f"S{count}: {source or last} -> {target}")

    for stage in range(size):
        if stage in targets:
            units[f"M{stage}"] = ("mixer", {"outlet_pressure": q("20 bar")})
            line(f"M{stage}.inlet")
            last = f"M{stage}.outlet"
        kind = rng.choice(["heater", "cooler", "valve", "drum"])
        tag = f"U{stage}"
        if kind == "drum":
            units[tag] = ("drum", {"duty": q("0 kW")})
            units[f"Z{stage}"] = ("product", {})
            line(f"{tag}.inlet")
            line(f"Z{stage}.inlet", f"{tag}.vapour")
            last = f"{tag}.liquid"
        else:
            temperature = {"outlet_temperature": q(f"{rng.uniform(300, 345):.1f} K")}
            units[tag] = (kind, {"pressure_change": q("-0.01 bar")} if kind == "valve" else temperature | {"pressure_change": q("-0.01 bar")})
            line(f"{tag}.inlet")
            last = f"{tag}.outlet"
        for start, number in backs.get(stage, []):
            units[f"P{number}"] = ("splitter", {"share_1": q(f"{rng.uniform(0.1, most):.3f}")})
            line(f"P{number}.inlet")
            line(f"M{start}.inlet", f"P{number}.outlet_1")
            last = f"P{number}.outlet_2"
    units["Z"] = ("product", {})
    line("Z.inlet")
    return plant(C4, units, streams)
