"""Batch reactors against answers in closed form and an integration that is written out here."""

import math

import numpy as np
import pytest
from plants import plant, q
from scipy.integrate import solve_ivp

from wattaxis import PropertyModel, solve

R = 8.31446261815324
#: Liquids of equal elements, so that one becomes the other.
ISOMERS = [("1-butanol", "71-36-3"), ("2-butanol", "78-92-2"), ("isobutanol", "78-83-1")]
STEPS = ({"1-butanol": -1, "2-butanol": 1}, {"2-butanol": -1, "isobutanol": 1})


def law(reactant, k, energy=None, **more):
    return {"orders": {reactant: 1}, "value": k, "unit": "1/h", **({"energy": energy, "reference": "350 K"} if energy else {}), **more}


def batch(laws, numbers=STEPS, parts=ISOMERS, **spec):
    """A batch reactor fed with the first component at 350 K and 2 bar."""
    made = [{"name": f"R{k}", "numbers": n, "phase": "liquid", "forward": law} for k, (n, law) in enumerate(zip(numbers, laws, strict=False), 1)]
    feed = {"temperature": "350 K", "pressure": "2 bar", "flow": "10 kmol/h", "composition": {"values": {parts[0][0]: {"value": 1}}}}
    units = {"F": ("feed", feed), "B": ("batch-reactor", {"reactions": "Main", **spec}), "Z": ("product", {})}
    return plant(parts, units, ["1: F.outlet -> B.inlet", "2: B.outlet -> Z.inlet"], "nrtl", reactions=[{"name": "Main", "reactions": made}])


def programme(*cells):
    return {"rows": [{"id": str(number), "cells": row} for number, row in enumerate(cells, 1)]}


def solved(document):
    result = solve(document)
    assert result.complete, [f.text for f in result.findings] + [a.text for a in result.asks]
    assert abs(result.balance.energy_gap) < 1e-9
    return result, {v.name: v.value for v in result.units["B"].values}


@pytest.mark.parametrize("hours", [0.5, 4.0])
def test_first_order_over_time(hours):
    """X = 1 - exp(-k t) (Levenspiel 1999, chapter 3); to that conversion it takes that time."""
    _, found = solved(batch([law("1-butanol", 0.6)], heat="isothermal", time=f"{hours} h"))
    X = 1.0 - math.exp(-0.6 * hours)
    assert found["conversion_of[1-butanol]"] == pytest.approx(X, rel=1e-8)
    _, back = solved(batch([law("1-butanol", 0.6)], heat="isothermal", conversion=f"{X!r}"))
    assert back["time"] == pytest.approx(3600.0 * hours, rel=1e-7)


def test_the_best_time_of_two_reactions_in_series():
    """Most of the middle one is there at ln(k2 / k1) / (k2 - k1), (k1 / k2)^(k2 / (k2 - k1)) of it (Levenspiel 1999, chapter 8)."""
    k1, k2 = 0.8, 0.3
    best = math.log(k2 / k1) / (k2 - k1)
    made = {}
    for hours in (0.9 * best, best, 1.1 * best):
        result, _ = solved(batch([law("1-butanol", k1), law("2-butanol", k2)], heat="isothermal", time=f"{hours!r} h"))
        made[hours] = result.streams["2"].mole_fractions["2-butanol"]
    # The volume of the charge changes a little from one to the other, which concentrations of first order do not see.
    assert made[best] == pytest.approx((k1 / k2) ** (k2 / (k2 - k1)), rel=1e-8)
    assert made[best] == max(made.values())


def test_a_programme_of_temperatures_is_followed():
    """T rises from 340 to 380 K in two hours and stays: X by the integral of k(T(t)), and the mean heat by the enthalpies."""
    rising = programme(*({"time": q(t), "temperature": q(T)} for t, T in (("0 h", "340 K"), ("2 h", "380 K"))))
    _, found = solved(batch([law("1-butanol", 0.3, "80 kJ/mol")], heat="typed temperatures", temperatures=rising, time="3 h"))

    def k(hours):
        T = 340.0 + 20.0 * min(hours, 2.0)
        return 0.3 * math.exp(-80e3 / R * (1.0 / T - 1.0 / 350.0))

    other = solve_ivp(lambda t, x: [k(t) * (1.0 - x[0])], (0.0, 3.0), [0.0], rtol=1e-11, atol=1e-13, max_step=0.05)
    assert found["conversion_of[1-butanol]"] == pytest.approx(other.y[0, -1], rel=1e-6)
    assert found["outlet_temperature"] == pytest.approx(380.0, abs=1e-6)


def test_an_adiabatic_charge_warms_by_its_heat():
    result, found = solved(batch([law("1-butanol", 1.0, "60 kJ/mol")], time="3 h"))
    assert found["duty"] == pytest.approx(0.0, abs=1e-3)
    model = PropertyModel("nrtl", [name for name, _ in ISOMERS])
    X = found["conversion_of[1-butanol]"]
    start = model.flash([1.0, 0.0, 0.0], T=350.0, P=2e5).enthalpy
    assert model.flash([1.0 - X, X, 0.0], P=2e5, H=start).temperature == pytest.approx(result.streams["2"].temperature, abs=1e-6)


def test_vessels_take_what_flows_in_during_a_cycle():
    _, found = solved(batch([law("1-butanol", 0.6)], heat="isothermal", time="5 h", time_between="3 h", vessels="4", filling="80 %"))
    model = PropertyModel("nrtl", [name for name, _ in ISOMERS])
    flow = 10e3 / 3600.0
    volumes = [model.phase("liquid", 350.0, 2e5, [1.0 - x, x, 0.0]).molar_volume for x in (0.0, 1.0 - math.exp(-3.0))]
    charge = flow * max(volumes) * 8.0 * 3600.0 / 4
    assert found["cycle_time"] == pytest.approx(8.0 * 3600.0)
    assert found["charge_volume"] == pytest.approx(charge, rel=1e-6)
    assert found["vessel_volume"] == pytest.approx(charge / 0.8, rel=1e-6)


@pytest.mark.parametrize(
    ("spec", "says"),
    [
        ({"conversion": "100 %", "time": None}, "above 0 and below 1"),
        ({"vessels": "0"}, "There are no vessels"),
        ({"vessels": "2.5"}, "2.5 vessels were calculated; 3 can be built"),
        ({"filling": "0 %"}, "filled by more than nothing"),
        ({"heat": "typed temperatures", "temperatures": programme({"time": q("1 h")})}, "a time and a temperature each"),
        ({"heat": "typed temperatures", "temperatures": programme({"time": q("0 h"), "temperature": q("450 K")})}, "At the end"),
        ({"time": "0.000001 s"}, "Next to nothing reacts"),
    ],
)
def test_what_a_charge_cannot_be_is_told(spec, says):
    given = {key: value for key, value in {"time": "3 h", "heat": "isothermal", **spec}.items() if value is not None}
    result = solve(batch([law("1-butanol", 0.6)], **given))
    assert any(says in f.text for f in result.findings), [f.text for f in result.findings]
    assert not any("defect" in f.remedy for f in result.findings)
    assert np.isfinite(sum(s.temperature for s in result.streams.values()))
