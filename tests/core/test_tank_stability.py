"""Whether a stirred tank stays at its steady state, against the balances followed in time."""

import numpy as np
import pytest
from plants import plant, q
from scipy.integrate import solve_ivp

from wattaxis import PropertyModel, solve

PARTS = [("propylene oxide", "75-56-9"), ("water", "7732-18-5"), ("1,2-propanediol", "57-55-6")]
R, FACTOR, ENERGY = 8.31446261815324, 1.696e13 / 3600.0, 75.36e3
FEED = np.array([30.0, 300.0, 0.0]) / 3.6
P, T_IN = 20e5, 297.0


def glycol(conductance, coolant, volume, which="hottest"):
    """Propylene oxide to glycol in a cooled tank (rate by Furusawa, Nishimura, Miyauchi 1969, as in Fogler 2006, example 8-8)."""
    law = {"orders": {"propylene oxide": 1}, "value": 1.696e13, "unit": "1/h", "energy": "75.36 kJ/mol"}
    numbers = {"propylene oxide": -1, "water": -1, "1,2-propanediol": 1}
    sets = [{"name": "Main", "reactions": [{"name": "R1", "numbers": numbers, "phase": "liquid", "forward": law}]}]
    flows = {"propylene oxide": q("30 kmol/h"), "water": q("300 kmol/h")}
    feed = {"temperature": q(f"{T_IN} K"), "pressure": q("20 bar"), "composition": {"basis": "mole_flow", "values": flows}}
    tank = {
        "reactions": "Main",
        "volume": q(f"{volume} m3"),
        "coolant_temperature": q(f"{coolant} K"),
        "conductance": q(f"{conductance} kW/K"),
        "steady_state": which,
    }
    units = {"F": ("feed", feed), "R": ("stirred-tank", tank), "Z": ("product", {})}
    return solve(plant(PARTS, units, ["1: F.outlet -> R.inlet", "2: R.outlet -> Z.inlet"], "ideal", reactions=sets))


def followed(result, conductance, coolant, volume, hours):
    """Temperatures over time from a little above the steady state: amounts and enthalpy of the contents, whose level a steep outflow keeps."""
    model = PropertyModel("ideal", [name for name, _ in PARTS])
    outlet = result.streams["2"]
    x = np.array([outlet.mole_fractions[name] for name, _ in PARTS])
    start = model.flash(x, T=outlet.temperature + 0.2, P=P)
    moles = volume / start.molar_volume
    feed = model.flash(FEED / FEED.sum(), T=T_IN, P=P)
    temperatures = []

    def state(y):
        total = y[:3].sum()
        return model.flash(y[:3] / total, P=P, H=y[3] * 1e6 / total, guess=outlet.temperature)

    def change(_, y):
        total, there = y[:3].sum(), state(y)
        flow = FEED.sum() * (1.0 + 40.0 * (total * there.molar_volume / volume - 1.0))  # mol/s
        rate = FACTOR * np.exp(-ENERGY / (R * there.temperature)) * max(y[0], 0.0)
        heat = 1e3 * conductance * (coolant - there.temperature)
        amounts = FEED - flow * y[:3] / total + rate * np.array([-1.0, -1.0, 1.0])
        return np.append(amounts, (FEED.sum() * feed.enthalpy + heat - flow * there.enthalpy) / 1e6)

    times = np.linspace(0.0, 3600.0 * hours, 400)
    found = solve_ivp(change, (0.0, times[-1]), np.append(moles * x, moles * start.enthalpy / 1e6), "LSODA", times, rtol=1e-7, atol=1e-7)
    temperatures = np.array([state(y).temperature for y in found.y.T])
    return times, temperatures - outlet.temperature


def swings(times, apart):
    """The period, s, and by how much the highest point grows from one swing to the next."""
    tops = [k for k in range(1, len(apart) - 1) if apart[k - 1] < apart[k] >= apart[k + 1] and apart[k] > 0.0]
    gaps, sizes = np.diff(times[tops]), apart[tops]
    return float(gaps.mean()), float((sizes[1:] / sizes[:-1]).mean())


@pytest.mark.parametrize(("conductance", "coolant", "volume", "hours"), [(12, 290.0, 2.0, 4.0), (5, 290.0, 0.5, 1.6)])
def test_a_tank_that_is_said_to_swing_does_so_as_often_as_it_says(conductance, coolant, volume, hours):
    result = glycol(conductance, coolant, volume)
    (told,) = [f.text for f in result.findings if "its temperature swings" in f.text]
    period, growing = swings(*followed(result, conductance, coolant, volume, hours))
    assert growing > 1.02
    assert period / 60.0 == pytest.approx(float(told.split("once in ")[1].split(" min")[0]), rel=0.1)


@pytest.mark.parametrize(("conductance", "coolant", "volume"), [(8, 310.0, 1.0), (12, 300.0, 2.0)])
def test_a_tank_of_which_nothing_is_said_comes_back(conductance, coolant, volume):
    result = glycol(conductance, coolant, volume)
    assert not [f for f in result.findings if "swings" in f.text or "steady states" in f.text]
    _, apart = followed(result, conductance, coolant, volume, 3.0)
    assert np.abs(apart[-50:]).max() < 0.2 * np.abs(apart).max()
    assert np.abs(apart[-50:]).max() < 0.05


def test_of_several_steady_states_each_is_told_apart():
    text = next(f.text for f in glycol(5, 290.0, 0.5).findings if "3 steady states" in f.text)
    assert [word.strip("()") for word in ("(stable)", "(not stable)", "(swings)") if word in text] == ["stable", "not stable", "swings"]
