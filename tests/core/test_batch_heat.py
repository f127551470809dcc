"""Batches that are heated and cooled: by a coolant, by heat that is given or comes by a stream, and how much a vessel takes at most."""

import numpy as np
import pytest
from plants import plant
from scipy.integrate import simpson, solve_ivp

from wattaxis import solve
from wattaxis.flowsheet.model import property_model

PARTS = [("1-butene", "106-98-9"), ("trans-2-butene", "624-64-6"), ("nitrogen", "7727-37-9")]
K, ENERGY, AT = 2e-3, 80e3, 450.0
TURN = {"orders": {"1-butene": 1}, "value": K, "unit": "1/s", "energy": f"{ENERGY} J/mol", "reference": f"{AT} K"}


def batch(spec, numbers=None, energy=None, parts=PARTS):
    values = {"1-butene": {"value": 0.6}, "nitrogen": {"value": 0.4}}
    feed = {"temperature": "450 K", "pressure": "2 bar", "flow": "3 mol/s", "composition": {"basis": "mole_fraction", "values": values}}
    reaction = {"name": "R1", "numbers": numbers or {"1-butene": -1, "trans-2-butene": 1}, "forward": TURN}
    units = {
        "F": ("feed", feed),
        "U": ("batch-reactor", {"reactions": "Main", "time_between": "20 min", "vessels": "2", **spec}),
        "Z": ("product", {}),
    }
    lines = ["S-1: F.outlet -> U.inlet", "S-2: U.outlet -> Z.inlet"]
    if energy:
        units["Q"] = ("heat-supply", {"power": energy})
        lines.append("Q-1: Q.heat_out -> U.heat_in")
    return plant(parts, units, lines, "ideal", reactions=[{"name": "Main", "reactions": [reaction]}])


def solved(document):
    result = solve(document)
    assert result.complete, [f.text for f in result.findings if f.severity == "fault"]
    values = {v.name: v.value for v in result.units["U"].values}
    return result, values


def course(result):
    profile = result.units["U"].profiles[0]
    return np.array(profile.along.values), {c.key: np.array(c.values) for c in profile.columns}


def by_hand(T_coolant, conductance, seconds, between, vessels=2.0, flow=3.0):
    """Temperature and conversion by a plain integration of what a second's feed does, at its own temperature and not by its enthalpy."""
    document = batch({"time": "1 h"})
    model = property_model(document.chemistry).fluid
    ids = [c.id for c in model.components]
    feed = flow * np.array([{"1-butene": 0.6, "nitrogen": 0.4}.get(name, 0.0) for name in ids])
    numbers = np.array([{"1-butene": -1.0, "trans-2-butene": 1.0}.get(name, 0.0) for name in ids])

    def enthalpy(T, n):
        return model.phase("vapour", T, 2e5, n / n.sum()).enthalpy * n.sum()

    def slope(_, y):
        T, n = y[0], feed + y[1] * numbers
        rate = K * np.exp(-ENERGY / 8.31446261815324 * (1.0 / T - 1.0 / AT)) * n[ids.index("1-butene")]
        capacity = (enthalpy(T + 0.01, n) - enthalpy(T - 0.01, n)) / 0.02
        heat = (enthalpy(T, n + 1e-3 * numbers) - enthalpy(T, n - 1e-3 * numbers)) / 2e-3
        return [(conductance * (T_coolant - T) * vessels / (seconds + between) - rate * heat) / capacity, rate]

    found = solve_ivp(slope, (0.0, seconds), [450.0, 0.0], "Radau", rtol=1e-8, atol=1e-8)
    return found.y[0, -1], found.y[1, -1] / feed[ids.index("1-butene")], found.y[0].max()


def test_a_cooled_charge_is_that_of_a_plain_integration():
    result, values = solved(batch({"time": "10 min", "heat": "coolant at one temperature", "coolant_temperature": "430 K", "conductance": "300 W/K"}))
    T, conversion, hottest = by_hand(430.0, 300.0, 600.0, 1200.0)
    assert result.streams["S-2"].temperature == pytest.approx(T, abs=2e-4)
    assert values["conversion"] == pytest.approx(conversion, abs=1e-6)
    assert values["hottest"] == pytest.approx(hottest, abs=0.2)


def test_the_more_conductance_the_nearer_to_the_coolant_and_none_is_adiabatic():
    time = {"time": "10 min"}
    adiabatic = solved(batch(time))[0].streams["S-2"]
    at = {"heat": "coolant at one temperature", "coolant_temperature": "450 K"}
    none = solved(batch({**time, **at, "conductance": "0 W/K"}))[0].streams["S-2"]
    assert none.temperature == pytest.approx(adiabatic.temperature, rel=1e-8)
    much = solved(batch({**time, **at, "conductance": "1e7 W/K"}))[0].streams["S-2"]
    held = solved(batch({**time, "heat": "isothermal"}))[0].streams["S-2"]
    assert much.temperature == pytest.approx(450.0, abs=0.01)
    assert much.mole_flows["1-butene"] == pytest.approx(held.mole_flows["1-butene"], rel=2e-4)


@pytest.mark.parametrize(
    "heat",
    [
        {"heat": "coolant at one temperature", "coolant_temperature": "440 K", "conductance": "200 W/K"},
        {"heat": "coolant at one temperature", "coolant_temperature": "520 K", "conductance": "200 W/K"},
        {"heat": "coolant at one temperature", "coolant_temperature": "440 K", "conductance": "200 W/K", "time_between": "0 s"},
        {"heat": "heat spread evenly", "duty": "-8 kW"},
        {"heat": "heat spread evenly", "duty": "5 kW"},
    ],
)
def test_the_time_for_a_conversion_gives_that_conversion(heat):
    """The heat that a charge gets depends on how long its cycle is, and the other way round."""
    _, wanted = solved(batch({"conversion": "70 %", **heat}))
    result, again = solved(batch({"time": f"{wanted['time']!r} s", **heat}))
    assert again["conversion"] == pytest.approx(0.7, abs=1e-8)
    assert again["outlet_temperature"] == pytest.approx(wanted["outlet_temperature"], rel=1e-9)
    if "duty" in heat:
        assert again["duty"] == pytest.approx({"-8 kW": -8e3, "5 kW": 5e3}[heat["duty"]], rel=1e-8)
    assert result.complete


@pytest.mark.parametrize(
    "heat",
    [
        {"heat": "isothermal"},
        {"heat": "coolant at one temperature", "coolant_temperature": "430 K", "conductance": "300 W/K"},
        {"heat": "heat spread evenly", "duty": "3 kW"},
        {"heat": "typed temperatures", "temperatures": {"rows": [
            {"id": str(k), "cells": {"time": {"value": t, "unit": "min"}, "temperature": {"value": T, "unit": "K"}}}
            for k, (t, T) in enumerate([(0.0, 450.0), (20.0, 470.0)])
        ]}},
    ],
)  # fmt: skip
def test_what_a_vessel_takes_over_time_is_the_mean_heat(heat):
    result, values = solved(batch({"time": "20 min", **heat}))
    times, columns = course(result)
    cycle = 2400.0
    assert simpson(columns["heating"], times) == pytest.approx(values["duty"] * cycle / 2.0, rel=1e-5)
    most = columns["heating"].max(), -columns["heating"].min()
    assert (values["most_heating"], values["most_cooling"]) == pytest.approx(tuple(max(m, 0.0) for m in most))
    assert values["cycle_time"] == pytest.approx(cycle)


def test_a_stream_may_bring_the_heat():
    spec = {"time": "10 min", "heat": "heat spread evenly"}
    result, values = solved(batch(spec, energy="4 kW"))
    assert values["duty"] == pytest.approx(4e3, rel=1e-8)
    typed = solved(batch({**spec, "duty": "4 kW"}))[0]
    assert result.streams["S-2"].temperature == pytest.approx(typed.streams["S-2"].temperature, rel=1e-10)


@pytest.mark.parametrize(
    ("spec", "energy", "says"),
    [
        ({"time": "10 min"}, "4 kW", "A stream brings heat, and the reactor is adiabatic"),
        ({"time": "0 s", "heat": "heat spread evenly", "duty": "4 kW"}, None, "In no time no heat"),
        ({"time": "10 min", "heat": "heat spread evenly", "duty": "-400 kW"}, None, "leads to no temperature"),
    ],
)
def test_what_cannot_be_is_told(spec, energy, says):
    result = solve(batch(spec, energy=energy))
    assert says in " ".join(f.text for f in result.findings if f.severity == "fault")
