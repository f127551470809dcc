"""Plants made at random: a line of units with recycles, nested and crossing, every one of which has a way out."""

from __future__ import annotations

import random
from typing import Any

from plants import C4, feed, plant, q

from wattaxis import Document, SolveResult, edit


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


def with_aims(document: Document, result: SolveResult, heaters: int = 1) -> Document:
    """The maze with aims: its last product flow two per cent higher by the feed, some heaters' duties five per cent by their temperatures."""
    tags = [u.tag for u in document.units if u.type == "heater"]
    last = document.streams[-1].tag
    aims = [("flow", f"{last}.mole_flow", 1.02 * result.streams[last].mole_flow, "mol/s", "F", "flow")]
    for k in range(heaters):
        tag = tags[(k + 1) * len(tags) // (heaters + 1)]
        duty = next(v.value for v in result.units[tag].values if v.key == "duty")
        aims.append((f"duty {k}", f"{tag}.duty", 1.05 * duty, "W", tag, "outlet_temperature"))
    for name, formula, value, unit, tag, field in aims:
        aim = {"name": name, "formula": formula, "target": {"value": value, "unit": unit}, "free": {"unit": tag, "field": field}}
        document = edit(document, "set_aim", name=name, aim=aim)
    return document
