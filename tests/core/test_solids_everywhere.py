"""Every unit type with solids alone, in a liquid, in a gas, and among two liquids and a vapour: it closes its balances or says why not."""

import pytest
from plants import conversions, converts, plant, q

from wattaxis import edit, solve
from wattaxis.unitops import unit_types

PARTS = [("water", "7732-18-5"), ("nitrogen", "7727-37-9"), ("butanone", "78-93-3"), ("tetrahydrofuran", "109-99-9")]
SPECS = {
    "heater": {"outlet_temperature": q("360 K")},
    "cooler": {"outlet_temperature": q("290 K")},
    "valve": {"outlet_pressure": q("1 bar")},
    "pump": {"outlet_pressure": q("5 bar")},
    "compressor": {"outlet_pressure": q("3 bar")},
    "expander": {"outlet_pressure": q("1.2 bar")},
    "drum": {"temperature": q("350 K")},
    "three-phase-separator": {"temperature": q("320 K")},
    "decanter": {"temperature": q("320 K")},
    "component-splitter": {
        "shares": {"values": {"water": q("0.5"), "sand": q("0.3")}},
        "overhead_temperature": q("350 K"),
        "bottoms_temperature": q("350 K"),
    },
    "tank": {"volume": q("2 m3")},
    "pipe": {"length": q("50 m"), "diameter": q("0.2 m")},
    "splitter": {"share_1": q("0.4")},
    "filter": {"moisture": q("10 %")},
    "cyclone": {"caught": q("90 %")},
    "dryer": {"moisture": q("1 %"), "temperature": q("370 K")},
    "mixer": {},
    "stream-copy": {},
    "utility-heater": {"outlet_temperature": q("350 K"), "utility": "low-pressure steam"},
    "utility-cooler": {"outlet_temperature": q("305 K"), "utility": "cooling water"},
    "air-cooler": {"outlet_temperature": q("312 K")},
    "conversion-reactor": conversions(("R1", "50 %"), duty=q("0 kW"))[1],
    "equilibrium-reactor": {"reactions": "Main", "duty": q("0 kW")},
    "gibbs-reactor": {"outlet_temperature": q("350 K")},
    "plug-flow-reactor": {"reactions": "Main", "volume": q("1 m3")},
    "batch-reactor": {"reactions": "Main", "time": q("1 h")},
    "stirred-tank": {"reactions": "Main", "volume": q("1 m3"), "duty": q("0 kW")},
    "staged-column": {
        "stages": q("6"),
        "condenser": "total",
        "reboiler": "kettle",
        "top_pressure": q("2 bar"),
        "reflux_ratio": q("1"),
        "boil_up_ratio": q("1"),
    },
    "extraction-column": {"stages": q("3")},
    "crystalliser": {
        "reactions": "Main",
        "solvent": "water",
        "solubilities": {"rows": [{"id": "1", "cells": {"reaction": "R1", "temperature": q("300 K"), "product": q("1")}}]},
        "duty": q("0 kW"),
    },
}
REACTIONS = converts({"butanone": -1.0, "tetrahydrofuran": 1.0})
#: Those with rates, which have no place for solids.
RATES = ("plug-flow-reactor", "stirred-tank", "batch-reactor")
FEEDS = {
    "solid": {"sand": q("1 kg/s")},
    "slurry": {"sand": q("1 kg/s"), "water": q("3 kg/s")},
    "dusty": {"sand": q("0.1 kg/s"), "nitrogen": q("3 kg/s")},
    "all": {"sand": q("1 kg/s"), "nitrogen": q("1 kg/s"), "water": q("2 kg/s"), "butanone": q("2 kg/s")},
}
TYPES = [name for name, op in unit_types().items() if name not in ("feed", "product", "circuit-charge") and op.family != "energy"]


def beside(name, flows, model):
    """The unit between a feed and products; an exchanger warms water with it."""
    feed = {"temperature": q("330 K"), "pressure": q("2 bar"), "composition": {"basis": "mass_flow", "values": flows}}
    units = {"F": ("feed", feed), "U": (name, SPECS.get(name, {}))}
    streams = ["1: F.outlet -> U.inlet"]
    if name == "heat-exchanger":
        cold = {**feed, "temperature": q("290 K"), "composition": {"basis": "mass_flow", "values": {"water": q("2 kg/s")}}}
        units |= {"G": ("feed", cold), "U": (name, {"duty": q("20 kW")})}
        streams = ["1: F.outlet -> U.hot_in", "2: G.outlet -> U.cold_in"]
    if name == "extraction-column":
        units |= {"G": ("feed", feed)}
        streams = ["1: F.outlet -> U.heavy_in", "2: G.outlet -> U.light_in"]
    outlets = [p.key for p in unit_types()[name].ports if p.direction == "out" and p.kind == "material" and p.needed]
    for k, port in enumerate(outlets, 3):
        units[f"Z{k}"] = ("product", {})
        streams.append(f"{k}: U.{port} -> Z{k}.inlet")
    return plant(PARTS, units, streams, model, (("sand", "14808-60-7"),), REACTIONS)


@pytest.mark.parametrize("name", TYPES)
@pytest.mark.parametrize("flows", FEEDS.values(), ids=FEEDS)
@pytest.mark.filterwarnings("error::RuntimeWarning")
def test_a_unit_takes_solids_or_says_why_not(name, flows):
    for model in ("peng-robinson", "nrtl"):
        result = solve(beside(name, flows, model))
        faults = [f.text for f in result.findings if f.severity == "fault"]
        if name == "pipe" and set(flows) == {"sand"}:
            assert any("no fluid to carry them" in text for text in faults)
            continue
        if name == "crystalliser":  # what it does with salts stands in tests of its own
            assert faults == ["Reaction R1 has no solids; one that forms from a solution has one."]
            continue
        if name in ("staged-column", "extraction-column"):
            assert faults == ["Solids come in, and no stage takes them."]
            continue
        if name in RATES:
            assert faults == ["Solids come in, which this reactor does not take."]
            continue
        assert faults == []
        assert result.complete
        if unit_types()[name].balanced:
            assert abs(result.balance.mass_gap) < 1e-9
            assert abs(result.balance.energy_gap) < 1e-9
        sand = sum(s.mass_flow * s.mass_fractions["sand"] for tag, s in result.streams.items() if tag not in "12")
        if name != "stream-copy":
            assert sand == pytest.approx(flows["sand"]["value"], rel=1e-9)
        for stream in result.streams.values():
            assert stream.solids_fraction == pytest.approx(stream.mass_fractions["sand"], abs=1e-12)
            assert sum(p.share for p in stream.phases) == pytest.approx(1.0, abs=1e-9)


@pytest.mark.parametrize("flows", FEEDS.values(), ids=FEEDS)
def test_solids_go_round_a_closed_circuit(flows):
    shares = {"basis": "mass_fraction", "values": {c: q(str(f["value"])) for c, f in flows.items()}, "normalise": True}
    units = {"C": ("circuit-charge", {"composition": shares, "flow": q("1 kg/s"), "pressure": q("2 bar")})}
    units |= {"E": ("heater", {"outlet_temperature": q("350 K")}), "G": ("cooler", {"outlet_temperature": q("330 K")})}
    lines = ["1: C.outlet -> E.inlet", "2: E.outlet -> G.inlet", "3: G.outlet -> C.inlet"]
    result = solve(plant(PARTS, units, lines, "nrtl", (("sand", "14808-60-7"),)))
    assert result.complete
    total = sum(f["value"] for f in flows.values())
    assert result.streams["2"].solids_fraction == pytest.approx(flows["sand"]["value"] / total, rel=1e-9)
    assert result.units["E"]["duty"] == pytest.approx(result.units["G"]["duty"], rel=1e-9)


def test_solids_alone_are_told_what_they_cannot_do():
    boiling = edit(
        beside("heater", FEEDS["solid"], "nrtl"), "set_values", unit="U", values={"outlet_temperature": None, "outlet_vapour_fraction": q("0.5")}
    )
    (fault,) = [f for f in solve(boiling).findings if f.severity == "fault"]
    assert "neither boil nor condense" in fault.text
    fed = edit(beside("heater", FEEDS["solid"], "nrtl"), "set_values", unit="F", values={"temperature": None, "vapour_fraction": q("0")})
    assert any("neither boil nor condense" in f.text for f in solve(fed).findings)
    given = {"temperature": q("300 K"), "pressure": q("1 bar"), "composition": {"basis": "mass_flow", "values": {"sand": q("1 kg/s")}}}
    alone = plant([], {"F": ("feed", given)}, [], solids=(("sand", "14808-60-7"),))
    assert any("only solids among the components" in f.text for f in solve(alone).findings)
