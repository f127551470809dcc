"""Equilibrium and Gibbs reactors on a sheet: heat, solids, what is restricted, and what is said of those that cannot be calculated."""

import math

import pytest
from plants import plant, q

from wattaxis import edit, solve
from wattaxis.solving.accumulation import trapped

PARTS = [(name, cas) for name, cas in (
    ("methane", "74-82-8"), ("water", "7732-18-5"), ("carbon monoxide", "630-08-0"), ("carbon dioxide", "124-38-9"), ("hydrogen", "1333-74-0"),
    ("oxygen", "7782-44-7"), ("nitrogen", "7727-37-9"))]  # fmt: skip
REFORMING = {"name": "Reforming", "numbers": {"methane": -1, "water": -1, "carbon monoxide": 1, "hydrogen": 3}}
SHIFT = {"name": "Shift", "numbers": {"carbon monoxide": -1, "water": -1, "carbon dioxide": 1, "hydrogen": 1}}
SETS = [{"name": "Main", "reactions": [REFORMING, SHIFT]}, {"name": "None", "reactions": []},
        {"name": "Wrong", "reactions": [{"name": "R1", "numbers": {"methane": -1, "hydrogen": 2}}]}]  # fmt: skip
STEAM = {"methane": 1.0, "water": 3.0}


def reactor(kind, flows, spec, parts=PARTS, solids=(), temperature="700 degC", pressure="20 bar", model="ideal"):
    values = {name: q(f"{flow} mol/s") for name, flow in flows.items()}
    feed = {"temperature": q(temperature), "pressure": q(pressure), "composition": {"basis": "mole_flow", "values": values}}
    chosen = {"reactions": "Main"} if kind == "equilibrium-reactor" else {}
    units = {"F": ("feed", feed), "R": (kind, {**chosen, **spec}), "Z": ("product", {})}
    return plant(parts, units, ["1: F.outlet -> R.inlet", "2: R.outlet -> Z.inlet"], model, solids, SETS)


def solved(document):
    result = solve(document)
    assert result.complete, [f.text for f in result.findings] + [a.text for a in result.asks]
    return result, {v.name: v.value for v in result.units["R"].values}


def table(*cells):
    return {"rows": [{"id": str(number), "cells": row} for number, row in enumerate(cells, 1)]}


@pytest.mark.parametrize("heat", [{"outlet_temperature": q("850 degC")}, {"duty": q("0 kW")}, {"duty": q("150 kW")}])
def test_both_kinds_and_a_reversible_rate_that_has_all_the_time_agree(heat):
    """With two reactions the elements leave nothing else open; a tank of a million cubic metres comes to the same."""
    by_elements, by_reactions = (solved(reactor(kind, STEAM, heat)) for kind in ("gibbs-reactor", "equilibrium-reactor"))
    one, two = by_elements[0].streams["2"], by_reactions[0].streams["2"]
    assert one.mole_flows == pytest.approx(two.mole_flows, rel=1e-8, abs=1e-9)
    assert one.temperature == pytest.approx(two.temperature, rel=1e-9)
    assert abs(by_elements[0].balance.energy_gap) < 1e-9
    law = {"basis": "partial pressure", "value": 1e-3, "unit": "mol/(m3 s bar^2)"}
    reversible = [
        {**r, "forward": {**law, "orders": {name: 1.0 for name, n in r["numbers"].items() if n < 0}}, "backward": "thermodynamics"}
        for r in (REFORMING, SHIFT)
    ]
    tank = edit(reactor("equilibrium-reactor", STEAM, heat), "set_reactions", name="Main", reactions={"name": "Main", "reactions": reversible})
    units = tuple(u if u.tag != "R" else u.model_copy(update={"type": "stirred-tank"}) for u in tank.units)
    assert units[1].type == "stirred-tank"
    spec = {"reactions": "Main", "volume": q("1e6 m3"), **heat}
    rated = plant(PARTS, {"F": ("feed", tank.unit("F").spec.model_dump()), "R": ("stirred-tank", spec), "Z": ("product", {})},
                  ["1: F.outlet -> R.inlet", "2: R.outlet -> Z.inlet"], "ideal", (), [{"name": "Main", "reactions": reversible}])  # fmt: skip
    slow = solve(rated).streams["2"]
    assert slow.mole_flows == pytest.approx(one.mole_flows, rel=3e-4, abs=3e-5)


def test_a_flame_burns_as_hot_as_is_known():
    """Methane with twice the air that it needs, 298 K, 1 atm: 1480 K (Glassman, Yetter and Glumac 2014, equivalence ratio 0.5)."""
    air = {"methane": 1.0, "oxygen": 4.0, "nitrogen": 15.04}
    _, told = solved(reactor("gibbs-reactor", air, {"duty": q("0 kW")}, temperature="298.15 K", pressure="1.01325 bar"))
    assert told["outlet_temperature"] == pytest.approx(1480.0, abs=8.0)


LIME = (("limestone", "471-34-1"), ("lime", "1305-78-8"))
GAS = [("carbon dioxide", "124-38-9"), ("nitrogen", "7727-37-9")]


@pytest.mark.parametrize("share", [0.25, 0.8])
def test_a_kiln_with_too_little_heat_stays_at_the_temperature_of_calcination(share):
    """Without a gas beside it limestone goes at one temperature; the heat says how much of it. All of it then leaves together."""
    flows = {"limestone": 1.0}
    kiln = reactor("gibbs-reactor", flows, {"outlet_temperature": q("900 degC")}, GAS, LIME, "850 degC", "1 bar")
    hot, told = solved(kiln)
    assert hot.streams["2"].mole_flows["lime"] == pytest.approx(1.0)
    warm = solved(edit(kiln, "set_values", unit="R", values={"outlet_temperature": q("880 degC")}))[1]
    low = warm["duty"]
    part = low + share * (told["duty"] - low)
    result, found = solved(edit(kiln, "set_values", unit="R", values={"outlet_temperature": None, "duty": q(f"{part} W")}))
    made = result.streams["2"].mole_flows["lime"]
    assert 880.0 < found["outlet_temperature"] - 273.15 < 900.0
    assert made == pytest.approx(share, abs=0.03)
    assert abs(result.balance.energy_gap) < 1e-9
    assert found["duty"] == pytest.approx(part, rel=1e-9)


def test_what_is_inert_or_not_at_equilibrium_is_kept():
    heat = {"outlet_temperature": q("850 degC")}
    _, inert = solved(reactor("gibbs-reactor", STEAM, {**heat, "inert": table({"component": "methane"})}))
    assert "conversion_of[methane]" not in inert
    spec = {**heat, "approaches": table({"reaction": "Reforming", "extent": q("0.5 mol/s")}, {"reaction": "Shift", "approach": q("-20 K")})}
    result, told = solved(reactor("equilibrium-reactor", STEAM, spec))
    assert told["extent[Reforming]"] == pytest.approx(0.5)
    n = result.streams["2"].mole_flows
    assert n["methane"] == pytest.approx(0.5, rel=1e-12)
    cooler = solved(reactor("equilibrium-reactor", STEAM, {"outlet_temperature": q("830 degC")}))[1]
    quotient = n["carbon dioxide"] * n["hydrogen"] / (n["carbon monoxide"] * n["water"])
    assert math.log(quotient) == pytest.approx(cooler["log_constant[Shift]"], abs=1e-9)
    nearly = solved(reactor("gibbs-reactor", STEAM, {**heat, "approach": q("-20 K")}))[1]
    fully = solved(reactor("gibbs-reactor", STEAM, heat))[1]
    assert nearly["conversion_of[methane]"] < fully["conversion_of[methane]"]


@pytest.mark.parametrize(
    ("kind", "spec", "says"),
    [
        ("equilibrium-reactor", {"reactions": "None"}, "None is empty"),
        ("equilibrium-reactor", {"reactions": "Wrong"}, "Reaction R1 does not balance: 1 C too few"),
        ("equilibrium-reactor", {"reactions": "Other"}, 'There is no reaction set "Other"'),
        ("equilibrium-reactor", {"approaches": table({"reaction": "Cracking"})}, 'Main has no reaction "Cracking"'),
        ("equilibrium-reactor", {"approaches": table({"reaction": "Shift", "extent": q("9 mol/s")})}, "not enough water and carbon monoxide"),
        (
            "equilibrium-reactor",
            {"approaches": table({"reaction": "Shift", "extent": q("0 mol/s"), "approach": q("5 K")})},
            "has an approach to equilibrium and an extent",
        ),
        ("equilibrium-reactor", {"approaches": table({"reaction": "Shift"}, {"reaction": "Shift"})}, "Two rows speak of Shift"),
        ("gibbs-reactor", {"inert": table({"component": "butane"})}, "butane is said to be inert"),
        ("gibbs-reactor", {"outlet_temperature": None, "duty": q("-90 MW")}, "The heat leads to no temperature"),
        ("gibbs-reactor", {"inert": table({"component": "methane"}), "phases": "liquid alone"}, "as if all of the fluid were liquid"),
        ("gibbs-reactor", {"inert": table({"component": "water"}), "phases": "vapour alone"}, "Nothing reacts"),
    ],
)
def test_what_cannot_be_is_told(kind, spec, says):
    result = solve(reactor(kind, STEAM, {"outlet_temperature": q("850 degC"), **spec}))
    assert any(says in f.text for f in result.findings), [f.text for f in result.findings]
    assert not any("defect" in f.remedy for f in result.findings)


def test_a_component_whose_formula_is_not_known_passes_and_is_told():
    document = reactor("gibbs-reactor", STEAM, {"outlet_temperature": q("850 degC")})
    own = {"molar_mass": 0.1, "critical_temperature": 600.0, "critical_pressure": 30e5, "acentric_factor": 0.4, "heat_capacity": [150.0, 0, 0, 0, 0]}
    oil = edit(document, "add_component", component={"id": "oil", "own": own})
    fed = edit(oil, "set_values", unit="F", values={"composition[oil]": q("0.1 mol/s")})
    result = solve(fed)
    assert result.streams["2"].mole_flows["oil"] == pytest.approx(0.1, rel=1e-12)
    assert any("formula of oil is not known" in f.text for f in result.findings)


def test_a_gibbs_reactor_is_a_way_out_of_a_loop_but_for_what_is_inert():
    document = reactor("gibbs-reactor", STEAM, {"inert": table({"component": "nitrogen"})})
    assert trapped(document, ["R"], {"1": ["methane", "nitrogen"]}) == {}
    made = ("gibbs-reactor", {"inert": table({"component": "nitrogen"}), "outlet_temperature": q("850 degC")})
    units = {"M": ("mixer", {}), "R": made}
    loop = plant(PARTS, {"F": ("feed", {}), **units}, ["1: F.outlet -> M.inlet", "2: M.outlet -> R.inlet", "3: R.outlet -> M.inlet"])
    assert trapped(loop, ["M", "R"], {"1": ["methane", "nitrogen"]}) == {"nitrogen": "1"}
