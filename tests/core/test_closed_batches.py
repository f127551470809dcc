"""Gases that react in a closed vessel: the volume stays, the internal energy changes by the heat alone, and the pressure follows."""

import math

import numpy as np
import pytest
from plants import plant
from scipy.integrate import simpson, solve_ivp

from wattaxis import solve
from wattaxis.flowsheet.model import property_model

R = 8.31446261815324
PARTS = [("propane", "74-98-6"), ("propene", "115-07-1"), ("hydrogen", "1333-74-0"), ("nitrogen", "7727-37-9")]
SPLITS = {"propane": -1, "propene": 1, "hydrogen": 1}
K, ENERGY, AT, START = 5e-3, 120e3, 800.0, 2e5
COOLED = {"heat": "coolant at one temperature", "coolant_temperature": "820 K", "conductance": "400 W/K"}
RAMP = {"rows": [
    {"id": str(k), "cells": {"time": {"value": t, "unit": "s"}, "temperature": {"value": T, "unit": "K"}}}
    for k, (t, T) in enumerate([(0.0, 800.0), (120.0, 860.0)])
]}  # fmt: skip


def closed(spec, orders=1, kind="ideal", share=0.5, phase="vapour", at=AT):
    values = {"propane": {"value": share}, **({"nitrogen": {"value": 1.0 - share}} if share < 1.0 else {})}
    feed = {"temperature": f"{at} K", "pressure": f"{START} Pa", "flow": "2 mol/s", "composition": {"basis": "mole_fraction", "values": values}}
    unit = "1/s" if orders == 1 else "m3/mol/s"
    law = {"orders": {"propane": orders}, "value": K, "unit": unit, "energy": f"{ENERGY} J/mol", "reference": f"{AT} K"}
    reaction = {"name": "R1", "numbers": SPLITS, "phase": phase, "forward": law}
    units = {"F": ("feed", feed), "U": ("batch-reactor", {"reactions": "Main", "kept": "volume", "vessels": "2", **spec}), "Z": ("product", {})}
    return plant(PARTS, units, ["1: F.outlet -> U.inlet", "2: U.outlet -> Z.inlet"], kind, reactions=[{"name": "Main", "reactions": [reaction]}])


def solved(document):
    result = solve(document)
    assert result.complete, [f.text for f in result.findings if f.severity == "fault"]
    assert abs(result.balance.energy_gap) < 1e-9
    profile = result.units["U"].profiles[0]
    over = {c.key if not c.component else f"{c.key}[{c.component}]": np.array(c.values) for c in profile.columns}
    return result, {v.name: v.value for v in result.units["U"].values}, np.array(profile.along.values), over


def test_pressure_rises_with_the_moles_and_concentrations_keep_their_volume():
    """Second order in a constant volume: X/(1 - X) = k C0 t, P/P0 = 1 + y X (Levenspiel 1999, chapter 3)."""
    _, values, times, over = solved(closed({"time": "300 s", "heat": "isothermal"}, orders=2))
    known = K * (0.5 * START / (R * AT)) * times
    assert over["conversion"] == pytest.approx(known / (1.0 + known), rel=1e-8, abs=1e-10)
    assert over["pressure"] == pytest.approx(START * (1.0 + 0.5 * over["conversion"]), rel=1e-10)
    assert values["most_pressure"] == pytest.approx(over["pressure"][-1])
    _, kept, _, _ = solved(closed({"time": "300 s", "heat": "isothermal", "kept": "pressure"}, orders=2))
    assert kept["conversion"] < values["conversion"]  # what expands is thinner


def test_an_adiabatic_vessel_is_a_plain_integration_of_its_internal_energy():
    _, values, _, over = solved(closed({"time": "60 s"}))
    model = property_model(closed({}).chemistry).fluid
    ids = [c.id for c in model.components]
    feed = 2.0 * np.array([{"propane": 0.5, "nitrogen": 0.5}.get(name, 0.0) for name in ids])
    numbers = np.array([float(SPLITS.get(name, 0)) for name in ids])

    def energy(T, n):
        return (model.phase("vapour", T, START, n / n.sum()).enthalpy - R * T) * n.sum()  # an ideal gas

    def slope(_, y):
        T, n = y[0], feed + y[1] * numbers
        rate = K * math.exp(-ENERGY / R * (1.0 / T - 1.0 / AT)) * n[ids.index("propane")]
        capacity = (energy(T + 0.01, n) - energy(T - 0.01, n)) / 0.02
        return [-rate * (energy(T, n + 1e-3 * numbers) - energy(T, n - 1e-3 * numbers)) / 2e-3 / capacity, rate]

    found = solve_ivp(slope, (0.0, 60.0), [AT, 0.0], "Radau", rtol=1e-9, atol=1e-10).y[:, -1]
    assert values["outlet_temperature"] == pytest.approx(found[0], abs=1e-4)
    assert values["conversion"] == pytest.approx(found[1] / 1.0, abs=1e-6)
    assert over["pressure"][-1] == pytest.approx(START * found[0] / AT * (1.0 + 0.5 * found[1]), rel=1e-7)


@pytest.mark.parametrize("kind", ["ideal", "peng-robinson"])
@pytest.mark.parametrize(
    "heat", [{"heat": "isothermal"}, COOLED, {"heat": "heat spread evenly", "duty": "20 kW"}, {"heat": "typed temperatures", "temperatures": RAMP}]
)
def test_heat_over_time_is_the_rise_of_internal_energy(heat, kind):
    result, values, times, over = solved(closed({"time": "2 min", **heat}, kind=kind))
    assert simpson(over["heating"], times) == pytest.approx(values["duty"] * values["cycle_time"] / 2.0, rel=1e-5)
    model, end = property_model(closed({}, kind=kind).chemistry).fluid, result.streams["2"]
    flows = np.array([end.mole_flows[c.id] for c in model.components])
    volume = values["charge_volume"] / (values["cycle_time"] / 2.0)
    state = model.flash(flows, T=over["temperature"][-1], P=over["pressure"][-1])
    assert flows.sum() * state.molar_volume == pytest.approx(volume, rel=1e-9)  # it fills its vessel at the end too


@pytest.mark.parametrize("kind", ["ideal", "peng-robinson"])
def test_the_time_for_a_conversion_gives_that_conversion(kind):
    _, wanted, _, _ = solved(closed({"conversion": "60 %", **COOLED, "time_between": "5 min"}, kind=kind))
    _, again, _, _ = solved(closed({"time": f"{wanted['time']!r} s", **COOLED, "time_between": "5 min"}, kind=kind))
    assert again["conversion"] == pytest.approx(0.6, abs=1e-8)


def test_liquids_keep_no_volume():
    found = solve(closed({"time": "1 min"}, phase="liquid", share=1.0, at=220.0))
    assert "only a gas keeps the volume" in " ".join(f.text for f in found.findings if f.severity == "fault")
