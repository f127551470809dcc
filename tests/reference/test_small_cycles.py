"""Small flowsheets whose answers come from elsewhere: steam by the IAPWS equation of a second library, ideal gases by hand."""

import math
from itertools import pairwise

import pytest
from chemicals import iapws
from hypothesis import given, settings
from hypothesis import strategies as st
from plants import plant, q

from wattaxis import edit, solve

WATER = [("water", "7732-18-5")]
M = 0.018015268
R = 8.31446261815324


def only(name):
    return {"basis": "mole_fraction", "values": {name: {"value": 1.0}}}


def water(temperature, pressure, flow="10 t/h"):
    return "feed", {"temperature": q(temperature), "pressure": q(pressure), "flow": q(flow), "composition": only("water")}


def steam(units, lines):
    return solve(plant(WATER, units, lines, "steam"))


def values(result, tag):
    return {v.key: v.value for v in result.units[tag].values}


class Iapws:
    """Enthalpy (J/kg) and entropy (J/(kg K)) of the IAPWS equation, as the second library writes it."""

    R = 461.51805

    def __init__(self, t, rho):
        tau, delta = 647.096 / t, rho / 322.0
        ideal = iapws.iapws95_dA0_dtau(tau, delta)
        real = iapws.iapws95_dAr_dtau(tau, delta)
        dense = iapws.iapws95_dAr_ddelta(tau, delta)
        a = iapws.iapws95_A0(tau, delta) + iapws.iapws95_Ar(tau, delta)
        self.h = self.R * t * (1.0 + tau * (ideal + real) + delta * dense)
        self.s = self.R * (tau * (ideal + real) - a)


def at(t, p):
    return Iapws(t, iapws.iapws95_rho(t, p))


def saturated(t):
    """Pressure, liquid and vapour of the boiling line."""
    p, low, high = iapws.iapws95_saturation(t)
    return p, Iapws(t, low), Iapws(t, high)


def boiling(p):
    """K at a pressure, by halving."""
    low, high = 280.0, 646.0
    for _ in range(60):
        middle = 0.5 * (low + high)
        low, high = (middle, high) if saturated(middle)[0] < p else (low, middle)
    return 0.5 * (low + high)


def test_a_rankine_cycle_has_the_work_and_heat_of_the_equation_of_water():
    """Boiler at 60 bar and 480 degC, condenser at 0.08 bar, turbine 85 %, pump 75 % (volume times pressure)."""
    units = {
        "F": ("feed", {"pressure": q("0.08 bar"), "vapour_fraction": q("0"), "flow": q("10 t/h"), "composition": only("water")}),
        "P": ("pump", {"outlet_pressure": q("60 bar"), "efficiency": q("75 %")}),
        "B": ("heater", {"outlet_temperature": q("480 degC")}),
        "T": ("expander", {"outlet_pressure": q("0.08 bar"), "efficiency": q("85 %")}),
        "C": ("cooler", {"outlet_vapour_fraction": q("0")}),
        "Z": ("product", {}),
    }
    lines = ["1: F.outlet -> P.inlet", "2: P.outlet -> B.inlet", "3: B.outlet -> T.inlet", "4: T.outlet -> C.inlet", "5: C.outlet -> Z.inlet"]
    result = steam(units, lines)
    flow = 10e3 / 3600
    cold = boiling(0.08e5)
    p, liquid, vapour = saturated(cold)
    live = at(753.15, 60e5)
    dry = (live.s - liquid.s) / (vapour.s - liquid.s)
    work = 0.85 * (live.h - (liquid.h + dry * (vapour.h - liquid.h)))
    assert values(result, "T")["power"] == pytest.approx(flow * work, rel=2e-6)
    wet = (live.h - work - liquid.h) / (vapour.h - liquid.h)
    assert result.streams["4"].vapour_fraction == pytest.approx(wet, rel=1e-5)
    assert values(result, "C")["duty"] == pytest.approx(flow * (live.h - work - liquid.h), rel=2e-6)
    pump = (60e5 - p) / iapws.iapws95_saturation(cold)[1] / 0.75
    assert values(result, "P")["power"] == pytest.approx(flow * pump, rel=2e-3)
    assert values(result, "B")["duty"] == pytest.approx(flow * (live.h - liquid.h) - values(result, "P")["power"], rel=2e-6)
    efficiency = (values(result, "T")["power"] - values(result, "P")["power"]) / values(result, "B")["duty"]
    assert 0.32 < efficiency < 0.36
    assert result.streams["5"].molar_enthalpy == pytest.approx(result.streams["1"].molar_enthalpy, rel=1e-9)


def test_throttled_steam_keeps_its_enthalpy_and_gets_superheated():
    units = {"F": ("feed", {"pressure": q("20 bar"), "vapour_fraction": q("1"), "flow": q("1 t/h"), "composition": only("water")})}
    units |= {"V": ("valve", {"outlet_pressure": q("3 bar")}), "Z": ("product", {})}
    result = steam(units, ["1: F.outlet -> V.inlet", "2: V.outlet -> Z.inlet"])
    wanted = saturated(boiling(20e5))[2].h
    low, high = 406.7, 600.0
    for _ in range(60):
        middle = 0.5 * (low + high)
        low, high = (middle, high) if at(middle, 3e5).h < wanted else (low, middle)
    assert result.streams["2"].temperature == pytest.approx(0.5 * (low + high), abs=1e-3)


def test_a_desuperheater_needs_the_water_that_the_balance_says():
    units = {
        "S": water("400 degC", "10 bar"),
        "W": water("100 degC", "12 bar", "1 t/h"),
        "M": ("mixer", {"outlet_pressure": q("10 bar")}),
        "Z": ("product", {}),
    }
    document = plant(WATER, units, ["hot: S.outlet -> M.inlet", "cold: W.outlet -> M.inlet", "mixed: M.outlet -> Z.inlet"], "steam")
    aim = {"name": "T", "formula": "mixed.temperature", "target": q("220 degC"), "free": {"unit": "W", "field": "flow"}}
    result = solve(edit(document, "set_aim", name="T", aim=aim))
    hot, mixed, cold = at(673.15, 10e5).h, at(493.15, 10e5).h, at(373.15, 12e5).h
    wanted = 10e3 / 3600 * (hot - mixed) / (mixed - cold)
    assert result.streams["cold"].mass_flow == pytest.approx(wanted, rel=3e-6)


def test_flash_steam_is_what_the_enthalpies_leave():
    units = {
        "F": water("180 degC", "12 bar"),
        "V": ("drum", {"outlet_pressure": q("2 bar"), "duty": q("0 kW")}),
        "G": ("product", {}),
        "L": ("product", {}),
    }
    result = steam(units, ["1: F.outlet -> V.inlet", "2: V.vapour -> G.inlet", "3: V.liquid -> L.inlet"])
    _, liquid, vapour = saturated(boiling(2e5))
    share = (at(453.15, 12e5).h - liquid.h) / (vapour.h - liquid.h)
    assert result.streams["2"].mass_flow == pytest.approx(10e3 / 3600 * share, rel=3e-6)


@settings(max_examples=25, deadline=None)
@given(hot=st.floats(420.0, 900.0), cold=st.floats(285.0, 360.0), share=st.floats(0.05, 0.95))
def test_mixed_water_has_the_mean_enthalpy(hot, cold, share):
    total = 2.0
    units = {
        "A": water(f"{hot!r} K", "3 bar", f"{share * total!r} kg/s"),
        "B": water(f"{cold!r} K", "3 bar", f"{(1 - share) * total!r} kg/s"),
        "M": ("mixer", {}),
        "Z": ("product", {}),
    }
    result = steam(units, ["1: A.outlet -> M.inlet", "2: B.outlet -> M.inlet", "3: M.outlet -> Z.inlet"])
    mean = share * at(hot, 3e5).h + (1 - share) * at(cold, 3e5).h
    first = at(cold, 3e5).h - result.streams["2"].molar_enthalpy / M
    assert result.streams["3"].molar_enthalpy / M + first == pytest.approx(mean, abs=5.0)
    assert result.streams["3"].mass_flow == pytest.approx(total, rel=1e-12)


NITROGEN = [("nitrogen", "7727-37-9")]


def nitrogen(**units):
    fixed = {"temperature": q("300 K"), "pressure": q("1 bar"), "flow": q("1 mol/s"), "composition": only("nitrogen")}
    found = {"F": ("feed", fixed), **units, "Z": ("product", {})}
    tags = list(found)
    lines = [f"{k}: {a}.outlet -> {b}.inlet" for k, (a, b) in enumerate(pairwise(tags), 1)]
    return solve(plant(NITROGEN, found, lines, "ideal"))


def test_stages_with_cooling_between_them_save_work():
    """Ideal gas: k isentropic stages of equal ratio with cooling to the start take k times the work of one of them."""
    one = nitrogen(K=("compressor", {"pressure_ratio": q("9"), "efficiency": q("1")}))
    two = nitrogen(
        K=("compressor", {"pressure_ratio": q("3"), "efficiency": q("1")}),
        E=("cooler", {"outlet_temperature": q("300 K")}),
        L=("compressor", {"pressure_ratio": q("3"), "efficiency": q("1")}),
    )
    first, second = values(two, "K")["power"], values(two, "L")["power"]
    assert second == pytest.approx(first, rel=1e-9)
    assert first + second < values(one, "K")["power"]
    assert first + second > R * 300.0 * math.log(9.0)  # isothermal, the least there is


def test_a_brayton_cycle_of_an_ideal_gas_gives_the_difference_of_its_machines():
    result = nitrogen(
        K=("compressor", {"pressure_ratio": q("8"), "efficiency": q("85 %")}),
        E=("heater", {"outlet_temperature": q("1200 K")}),
        X=("expander", {"outlet_pressure": q("1 bar"), "efficiency": q("88 %")}),
        C=("cooler", {"outlet_temperature": q("300 K")}),
    )
    work = values(result, "X")["power"] - values(result, "K")["power"]
    heat = values(result, "E")["duty"] - values(result, "C")["duty"]
    assert work == pytest.approx(heat, rel=1e-10)  # once round, the first law
    assert abs(result.balance.energy_gap) < 1e-12
    assert 0.2 < work / values(result, "E")["duty"] < 0.35
