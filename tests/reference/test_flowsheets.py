"""Small flowsheets whose answers follow on paper, for a gas of constant heat capacity (40 J/(mol K)) unless said otherwise.

Derivations stand beside each test; the formulas are those of any text on mass and energy balances (Felder, Rousseau 2005) and on cycles
(Smith, Van Ness, Abbott 2005).
"""

import math

import pytest
from CoolProp.CoolProp import PropsSI
from plants import conversions, converts, plant, q

from wattaxis import edit, solve
from wattaxis.flowsheet.document import load_data, to_data
from wattaxis.properties.layout import R

CP = 40.0
OWN = {
    "molar_mass": 0.03, "critical_temperature": 150.0, "critical_pressure": 40e5, "acentric_factor": 0.04, "heat_capacity": [CP, 0, 0, 0, 0],
}  # fmt: skip


def gas_plant(units, streams, names=("A",), **constants):
    """A plant of gases that differ in nothing but what ``constants`` says."""
    document = to_data(plant([], units, streams, "ideal", reactions=converts({"A": -1.0, "B": 1.0})))
    document["chemistry"]["components"] = [{"id": n, "own": {**OWN, **constants.get(n, {})}} for n in names]
    return solve(load_data(document))


def feed(flow="10 mol/s", temperature="300 K", pressure="1 bar", **parts):
    values = {name: {"value": v} for name, v in (parts or {"A": 1.0}).items()}
    composition = {"basis": "mole_fraction", "values": values}
    return "feed", {"temperature": q(temperature), "pressure": q(pressure), "flow": q(flow), "composition": composition}


def value(result, tag, key):
    return next(v.value for v in result.units[tag].values if v.key == key)


@pytest.mark.parametrize(("ratio", "efficiency"), [(3.0, 1.0), (4.0, 0.75), (2.0, 0.6)])
def test_two_stages_with_an_intercooler(ratio, efficiency):
    """W = 2 n Cp T1 (r^(R/Cp) - 1) / eta when the gas is cooled back between the stages (Smith, Van Ness, Abbott, chapter 7)."""
    machine = {"pressure_ratio": q(f"{ratio}"), "efficiency": q(f"{efficiency}")}
    units = {
        "F": feed(),
        "K1": ("compressor", machine),
        "E": ("cooler", {"outlet_temperature": q("300 K")}),
        "K2": ("compressor", machine),
        "Z": ("product", {}),
    }
    result = gas_plant(units, ["1: F.outlet -> K1.inlet", "2: K1.outlet -> E.inlet", "3: E.outlet -> K2.inlet", "4: K2.outlet -> Z.inlet"])
    each = 10.0 * CP * 300.0 * (ratio ** (R / CP) - 1.0) / efficiency
    assert value(result, "K1", "power") == pytest.approx(each, rel=1e-9)
    assert value(result, "K1", "power") + value(result, "K2", "power") == pytest.approx(2.0 * each, rel=1e-9)
    assert value(result, "E", "duty") == pytest.approx(each, rel=1e-9)  # what one stage adds is taken away


@pytest.mark.parametrize("ratio", [3.0, 8.0, 15.0])
def test_a_gas_turbine_cycle_without_losses(ratio):
    """Brayton: efficiency = 1 - r^(-R/Cp), whatever the temperatures."""
    units = {
        "F": feed(),
        "K": ("compressor", {"pressure_ratio": q(f"{ratio}"), "efficiency": q("1")}),
        "E": ("heater", {"outlet_temperature": q("1200 K")}),
        "X": ("expander", {"outlet_pressure": q("1 bar"), "efficiency": q("1")}),
        "Z": ("product", {}),
    }
    result = gas_plant(units, ["1: F.outlet -> K.inlet", "2: K.outlet -> E.inlet", "3: E.outlet -> X.inlet", "4: X.outlet -> Z.inlet"])
    net = value(result, "X", "power") - value(result, "K", "power")
    assert net / value(result, "E", "duty") == pytest.approx(1.0 - ratio ** (-R / CP), rel=1e-9)


@pytest.mark.parametrize(("conversion", "purge", "inert"), [(0.3, 0.1, 0.02), (0.1, 0.02, 0.005), (0.6, 0.5, 0.1)])
def test_a_reactor_with_recycle_purge_and_inert(conversion, purge, inert):
    """A -> B, B taken out, the rest goes back but for the purge p (Felder, Rousseau, 4.7).

    Into the reactor go F (1-i) / (1 - (1-X)(1-p)) of A and F i / p of the inert.
    """
    units = {
        "F": feed(A=1.0 - inert, I=inert),
        "M": ("mixer", {}),
        "R": conversions(("R1", f"{conversion}"), outlet_temperature=q("500 K")),
        "C": (
            "component-splitter",
            {
                "shares": {"values": {"A": {"value": 0}, "B": {"value": 1}, "I": {"value": 0}}},
                "overhead_temperature": q("400 K"),
                "bottoms_temperature": q("400 K"),
            },
        ),
        "S": ("splitter", {"share_1": q(f"{purge}")}),
        "B": ("product", {}),
        "P": ("product", {}),
    }
    streams = ["1: F.outlet -> M.inlet", "2: M.outlet -> R.inlet", "3: R.outlet -> C.inlet", "4: C.overhead -> B.inlet", "5: C.bottoms -> S.inlet"]
    result = gas_plant(units, [*streams, "6: S.outlet_1 -> P.inlet", "7: S.outlet_2 -> M.inlet"], ("A", "B", "I"))
    assert result.complete, (result.asks, [f for f in result.findings if f.severity == "fault"])
    inside = 10.0 * (1.0 - inert) / (1.0 - (1.0 - conversion) * (1.0 - purge))
    assert result.streams["2"].mole_flows["A"] == pytest.approx(inside, rel=1e-8)
    assert result.streams["2"].mole_flows["I"] == pytest.approx(10.0 * inert / purge, rel=1e-8)
    assert result.streams["4"].mole_flows["B"] == pytest.approx(conversion * inside, rel=1e-8)
    assert result.streams["6"].mole_flows["A"] == pytest.approx(purge * (1.0 - conversion) * inside, rel=1e-8)


@pytest.mark.parametrize("heat", [-50e3, 0.0, 80e3])
def test_an_adiabatic_reactor_warms_by_its_heat_of_reaction(heat):
    """With equal heat capacities T2 = T1 - X dH / Cp, dH from the enthalpies of formation (Felder, Rousseau, 9.5)."""
    units = {"F": feed(temperature="700 K"), "R": conversions(("R1", "0.25"), duty=q("0 kW")), "Z": ("product", {})}
    result = gas_plant(units, ["1: F.outlet -> R.inlet", "2: R.outlet -> Z.inlet"], ("A", "B"), B={"formation_enthalpy": heat})
    assert result.streams["2"].temperature == pytest.approx(700.0 - 0.25 * heat / CP, rel=1e-9)


def test_mixing_of_hot_and_cold_and_back_to_the_start():
    """Temperatures mix by flow; what is heated and cooled by the same amount comes back."""
    units = {
        "H": feed("3 mol/s", "600 K"),
        "C": feed("7 mol/s", "300 K"),
        "M": ("mixer", {}),
        "E": ("heater", {"duty": q("12 kW")}),
        "G": ("cooler", {"duty": q("12 kW")}),
        "Z": ("product", {}),
    }
    result = gas_plant(
        units, ["1: H.outlet -> M.inlet", "2: C.outlet -> M.inlet", "3: M.outlet -> E.inlet", "4: E.outlet -> G.inlet", "5: G.outlet -> Z.inlet"]
    )
    assert result.streams["3"].temperature == pytest.approx(0.3 * 600.0 + 0.7 * 300.0, rel=1e-9)
    assert result.streams["4"].temperature == pytest.approx(390.0 + 12e3 / (10.0 * CP), rel=1e-9)
    assert result.streams["5"].temperature == pytest.approx(390.0, rel=1e-9)


@pytest.mark.parametrize(("first", "second"), [(400.0, 250.0), (100.0, 1000.0)])
def test_two_exchangers_in_counter_current_are_one_with_the_sum_of_their_areas(first, second):
    """The cold stream meets the colder exchanger first: the pair is a loop, and equals one exchanger (Kays, London 1984)."""
    hot, cold = feed("10 mol/s", "600 K"), feed("14 mol/s", "300 K")
    one = gas_plant(
        {"H": hot, "C": cold, "X": ("heat-exchanger", {"ua": q(f"{first + second} W/K")}), "Y": ("product", {}), "Z": ("product", {})},
        ["1: H.outlet -> X.hot_in", "2: C.outlet -> X.cold_in", "3: X.hot_out -> Y.inlet", "4: X.cold_out -> Z.inlet"],
    )
    exchangers = {"X1": ("heat-exchanger", {"ua": q(f"{first} W/K")}), "X2": ("heat-exchanger", {"ua": q(f"{second} W/K")})}
    streams = ["1: H.outlet -> X1.hot_in", "2: X1.hot_out -> X2.hot_in", "3: C.outlet -> X2.cold_in", "4: X2.cold_out -> X1.cold_in"]
    two = gas_plant(
        {"H": hot, "C": cold, **exchangers, "Y": ("product", {}), "Z": ("product", {})},
        [*streams, "5: X2.hot_out -> Y.inlet", "6: X1.cold_out -> Z.inlet"],
    )
    assert two.streams["6"].temperature == pytest.approx(one.streams["4"].temperature, abs=1e-5)
    assert two.streams["5"].temperature == pytest.approx(one.streams["3"].temperature, abs=1e-5)
    ratio, units = 10.0 / 14.0, (first + second) / (10.0 * CP)
    decay = math.exp(-units * (1.0 - ratio))
    duty = (1.0 - decay) / (1.0 - ratio * decay) * 10.0 * CP * 300.0
    assert value(one, "X", "duty") == pytest.approx(duty, rel=1e-8)


def test_a_feed_effluent_exchanger_saves_what_it_passes():
    """A reactor feed heated from T0 to T1 against its own effluent with effectiveness e: the heater supplies n Cp (T1 - T0)(1 - e)."""
    units = {
        "F": feed(),
        "X": ("heat-exchanger", {"ua": q("1200 W/K")}),
        "E": ("heater", {"outlet_temperature": q("700 K")}),
        "Z": ("product", {}),
    }
    result = gas_plant(units, ["1: F.outlet -> X.cold_in", "2: X.cold_out -> E.inlet", "3: E.outlet -> X.hot_in", "4: X.hot_out -> Z.inlet"])
    number = 1200.0 / (10.0 * CP)
    effectiveness = number / (1.0 + number)
    assert value(result, "E", "duty") == pytest.approx(10.0 * CP * 400.0 * (1.0 - effectiveness), rel=1e-6)
    assert result.streams["4"].temperature == pytest.approx(700.0 - 400.0 * effectiveness, abs=1e-5)


def test_throttling_an_ideal_gas_changes_no_temperature_and_dividing_it_no_state():
    units = {
        "F": feed(pressure="20 bar"),
        "V": ("valve", {"outlet_pressure": q("2 bar")}),
        "S": ("splitter", {"share_1": q("0.3")}),
        "Y": ("product", {}),
        "Z": ("product", {}),
    }
    result = gas_plant(units, ["1: F.outlet -> V.inlet", "2: V.outlet -> S.inlet", "3: S.outlet_1 -> Y.inlet", "4: S.outlet_2 -> Z.inlet"])
    assert result.streams["2"].temperature == pytest.approx(300.0, rel=1e-12)
    assert result.streams["2"].molar_entropy - result.streams["1"].molar_entropy == pytest.approx(R * math.log(10.0), rel=1e-9)
    assert (result.streams["3"].mole_flow, result.streams["4"].mole_flow) == pytest.approx((3.0, 7.0))
    assert result.streams["3"].molar_enthalpy == pytest.approx(result.streams["4"].molar_enthalpy, rel=1e-14)


def _cycle_of_the_reference(low, high, warm, efficiency):
    """Coefficient of performance of the same cycle by the reference equation of propane (CoolProp)."""
    liquid = PropsSI("H", "T", warm, "Q", 0, "Propane")
    vapour, entropy = (PropsSI(name, "P", low, "Q", 1, "Propane") for name in "HS")
    return efficiency * (vapour - liquid) / (PropsSI("H", "P", high, "S", entropy, "Propane") - vapour)


def test_a_refrigeration_cycle_obeys_its_balances_and_the_second_law():
    """Propane between -20 and 40 degC: throttle, evaporator, compressor, condenser; the coefficient of performance stays below Carnot's."""
    propane = {"basis": "mole_fraction", "values": {"propane": {"value": 1}}}
    document = plant(
        [("propane", "74-98-6")],
        {
            "F": ("feed", {"temperature": q("313.15 K"), "vapour_fraction": q("0"), "flow": q("1 kg/s"), "composition": propane}),
            "V": ("valve", {"outlet_pressure": q("2.44 bar")}),
            "E": ("heater", {"outlet_vapour_fraction": q("1")}),
            "K": ("compressor", {"outlet_pressure": q("13.7 bar"), "efficiency": q("0.75")}),
            "C": ("cooler", {"outlet_vapour_fraction": q("0")}),
            "Z": ("product", {}),
        },
        ["1: F.outlet -> V.inlet", "2: V.outlet -> E.inlet", "3: E.outlet -> K.inlet", "4: K.outlet -> C.inlet", "5: C.outlet -> Z.inlet"],
    )
    result = solve(document)
    assert result.complete
    cold, hot = result.streams["3"].temperature, result.streams["5"].temperature
    assert (cold - 273.15, hot - 273.15) == (pytest.approx(-20.0, abs=0.7), pytest.approx(40.0, abs=0.7))
    taken, work, given = value(result, "E", "duty"), value(result, "K", "power"), value(result, "C", "duty")
    assert taken / work == pytest.approx(_cycle_of_the_reference(2.44e5, 13.7e5, 313.15, 0.75), rel=0.015)
    assert taken / work < cold / (hot - cold)
    gap = result.streams["5"].enthalpy_flow - result.streams["1"].enthalpy_flow
    assert taken + work - given == pytest.approx(gap, abs=1e-6 * given)
    better = solve(edit(document, "set_values", unit="K", values={"efficiency": q("1")}))
    assert value(better, "K", "power") == pytest.approx(0.75 * work, rel=1e-9)
