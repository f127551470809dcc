"""Heat exchanger and three-phase separator: against closed formulas, laws that hold for every stream, and what they refuse."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from plants import plant, q

from wattaxis import Component, HeatCapacity, PropertyModel, edit, solve
from wattaxis.unitops import StreamState, unit_types
from wattaxis.unitops.base import Givens

GAS = PropertyModel("ideal", [Component("gas", 0.03, 150.0, 40e5, 0.04, HeatCapacity((40.0, 0.0, 0.0, 0.0, 0.0), 10.0, 5000.0))])
AROMATICS = PropertyModel("peng-robinson", ["benzene", "toluene"])


def exchange(model, hot, cold, **spec):
    """``hot``, ``cold``: (flow mol/s, fractions, T, P)."""
    unit = unit_types()["heat-exchanger"]
    inlets = {port: [StreamState(f, model.flash(z, T=t, P=p))] for port, (f, z, t, p) in (("hot_in", hot), ("cold_in", cold))}
    typed = unit.Spec.model_validate({key: q(value) for key, value in spec.items()})
    assumed = {key: quantity for key, (quantity, _) in unit.assumptions(typed).items()}
    result = unit.solve(Givens(typed, unit.field_map(), assumed), inlets, model, frozenset())
    return result, {v.key: v.value for v in result.values}


@pytest.mark.parametrize(("ratio", "units"), [(0.5, 2.0), (0.25, 0.7), (0.999, 3.0), (1.0, 1.5)])
def test_effectiveness_of_a_counter_current_exchanger(ratio, units):
    """Kays, London 1984: e = (1 - exp(-N (1 - r))) / (1 - r exp(-N (1 - r))), and N/(1 + N) for equal capacities."""
    capacity = 10.0 * 40.0  # of the cold side, W/K
    _, values = exchange(GAS, (10.0 / ratio, [1.0], 500.0, 1e5), (10.0, [1.0], 300.0, 1e5), ua=f"{units * capacity} W/K")
    decay = np.exp(-units * (1.0 - ratio))
    effectiveness = units / (1.0 + units) if ratio == 1.0 else (1.0 - decay) / (1.0 - ratio * decay)
    assert values["duty"] == pytest.approx(effectiveness * capacity * 200.0, rel=1e-8)
    assert values["cold_outlet_temperature"] == pytest.approx(300.0 + 200.0 * effectiveness, abs=1e-6)


def test_each_way_of_giving_the_duty_is_the_same_exchanger():
    hot, cold = (20.0, [0.5, 0.5], 430.0, 2e5), (25.0, [0.7, 0.3], 320.0, 3e5)
    _, first = exchange(AROMATICS, hot, cold, duty="300 kW")
    for key in ("hot_outlet_temperature", "cold_outlet_temperature", "hot_outlet_vapour_fraction", "minimum_approach", "ua"):
        unit = {"ua": "W/K", "hot_outlet_vapour_fraction": ""}.get(key, "K")
        if key == "hot_outlet_vapour_fraction" and not 0.0 < first[key] < 1.0:
            continue
        _, other = exchange(AROMATICS, hot, cold, **{key: f"{first[key]!r} {unit}".strip()})
        assert other["duty"] == pytest.approx(300e3, rel=1e-6), key
        assert other["ua"] == pytest.approx(first["ua"], rel=1e-5), key


def test_a_pinch_inside_is_seen():
    """A mixture condenses against a liquid that boils: the closest place lies where boiling starts, not at an end."""
    hot, cold = (100 / 3.6, [0.5, 0.5], 420.0, 1.5e5), (80 / 3.6, [0.6, 0.4], 320.0, 2e5)
    result, values = exchange(AROMATICS, hot, cold, minimum_approach="10 K")
    (curve,) = result.profiles
    hot_side = np.array(curve.column("hot_temperature").values)
    gaps = hot_side - np.array(curve.column("cold_temperature").values)
    assert gaps == pytest.approx(np.array(curve.column("approach").values))
    assert gaps.min() == pytest.approx(10.0, abs=1e-6)
    assert 0 < int(gaps.argmin()) < len(gaps) - 1
    assert values["ua"] > values["duty"] / (gaps[0] + gaps[-1]) * 2.0
    assert (np.diff(hot_side) <= 1e-9).all()


def test_a_condenser_to_saturated_liquid_and_an_evaporator():
    hot, cold = (10.0, [1.0, 0.0], 380.0, 1e5), (200.0, [0.0, 1.0], 290.0, 2e5)
    result, values = exchange(AROMATICS, hot, cold, hot_outlet_vapour_fraction="0")
    assert values["hot_outlet_vapour_fraction"] == 0.0
    boiling = AROMATICS.flash([1.0, 0.0], P=1e5, VF=0.0)
    assert result.outlets["hot_out"].state.temperature == pytest.approx(boiling.temperature, rel=1e-9)
    (curve,) = result.profiles
    flat = np.abs(np.array(curve.column("hot_temperature").values) - boiling.temperature) < 1e-6
    assert np.ptp(np.array(curve.along.values)[flat]) > 0.8 * values["duty"]
    assert curve.at("hot_vapour_fraction", 0.5 * values["duty"]) == pytest.approx(0.5, abs=0.15)


@settings(max_examples=25, deadline=None)
@given(st.floats(330.0, 450.0), st.floats(260.0, 320.0), st.floats(1.0, 60.0), st.floats(1.0, 60.0), st.floats(0.05, 0.95), st.floats(3.0, 30.0))
def test_heat_passes_downhill_and_nothing_is_lost(hot, cold, one, two, x, approach):
    result, values = exchange(
        AROMATICS, (one, [x, 1 - x], hot, 2e5), (two, [1 - x, x], cold, 4e5), minimum_approach=f"{min(approach, hot - cold - 1)} K"
    )
    before = one * AROMATICS.flash([x, 1 - x], T=hot, P=2e5).enthalpy + two * AROMATICS.flash([1 - x, x], T=cold, P=4e5).enthalpy
    after = sum(s.enthalpy_flow for s in result.outlets.values())
    assert after == pytest.approx(before, rel=1e-9)
    assert values["duty"] >= 0.0
    assert values["minimum_approach"] >= min(approach, hot - cold - 1) - 1e-5
    entropy = sum(s.flow * s.state.entropy for s in result.outlets.values())
    entered = one * AROMATICS.flash([x, 1 - x], T=hot, P=2e5).entropy + two * AROMATICS.flash([1 - x, x], T=cold, P=4e5).entropy
    assert entropy >= entered - 1e-7 * abs(entered)


def feed(t, p, flow, **parts):
    composition = {"basis": "mole_fraction", "values": {name.replace("_", " "): {"value": v} for name, v in parts.items()}}
    return "feed", {"temperature": q(t), "pressure": q(p), "flow": q(flow), "composition": composition}


def two_feeds(**spec):
    return plant(
        [("benzene", "71-43-2"), ("toluene", "108-88-3")],
        {
            "H": feed("420 K", "1.5 bar", "100 kmol/h", benzene=0.5, toluene=0.5),
            "C": feed("320 K", "2 bar", "80 kmol/h", benzene=0.6, toluene=0.4),
            "E": ("heat-exchanger", {key: q(value) for key, value in spec.items()}),
            "P1": ("product", {}),
            "P2": ("product", {}),
        },
        ["S1: H.outlet -> E.hot_in", "S2: C.outlet -> E.cold_in", "S3: E.hot_out -> P1.inlet", "S4: E.cold_out -> P2.inlet"],
    )


def test_crossing_temperatures_are_a_fault_with_their_place_and_a_repair():
    document = two_feeds(duty="700 kW")
    result = solve(document)
    (fault,) = [f for f in result.findings if f.severity == "fault"]
    assert "cross" in fault.text
    assert "% of the duty" in fault.text or "inlet" in fault.text
    for change in fault.repair:
        document = edit(document, **change)
    repaired = solve(document)
    assert repaired.complete
    values = {v.key: v.value for v in repaired.units["E"].values}
    assert values["minimum_approach"] == pytest.approx(10.0, abs=1e-5)
    assert repaired.units["E"].profile().title == "Heat curve"


@pytest.mark.parametrize(
    ("spec", "words"),
    [
        ({"duty": "-5 kW"}, "wrong way"),
        ({"minimum_approach": "200 K"}, "cannot be kept"),
        ({"minimum_approach": "0 K"}, "infinite area"),
        ({"duty": "100 MW"}, "more heat"),
        ({"duty": "10 kW", "hot_pressure_change": "-3 bar"}, "loses more"),
    ],
)
def test_what_cannot_be_is_said(spec, words):
    result = solve(two_feeds(**spec))
    assert any(words in f.text for f in result.findings if f.severity == "fault"), result.findings


def test_feed_effluent_exchange_closes_its_loop():
    """Cold feed against its own heated effluent: the outlet of the heater is the hot side."""
    document = plant(
        [("benzene", "71-43-2"), ("toluene", "108-88-3")],
        {
            "F": feed("300 K", "3 bar", "100 kmol/h", benzene=0.5, toluene=0.5),
            "X": ("heat-exchanger", {"minimum_approach": q("15 K")}),
            "E": ("heater", {"outlet_temperature": q("500 K")}),
            "P": ("product", {}),
        },
        ["S1: F.outlet -> X.cold_in", "S2: X.cold_out -> E.inlet", "S3: E.outlet -> X.hot_in", "S4: X.hot_out -> P.inlet"],
    )
    result = solve(document)
    assert result.complete
    heater = {v.key: v.value for v in result.units["E"].values}
    exchanger = {v.key: v.value for v in result.units["X"].values}
    whole = solve(
        edit(
            edit(document, "remove_unit", tag="X"),
            "connect",
            stream={"tag": "S9", "source": {"unit": "F", "port": "outlet"}, "target": {"unit": "E", "port": "inlet"}},
        )
    )
    assert heater["duty"] + exchanger["duty"] == pytest.approx({v.key: v.value for v in whole.units["E"].values}["duty"], rel=1e-7)
    assert abs(result.balance.energy_gap) < 1e-8


def test_two_liquids_part_by_density_and_the_vapour_rises():
    document = plant(
        [("butanone", "78-93-3"), ("water", "7732-18-5"), ("nitrogen", "7727-37-9")],
        {
            "F": feed("300 K", "1.2 bar", "100 kmol/h", butanone=0.4, water=0.6),
            "V": ("three-phase-separator", {"temperature": q("310 K")}),
            "A": ("product", {}),
            "B": ("product", {}),
        },
        ["S1: F.outlet -> V.inlet", "S2: V.light -> A.inlet", "S3: V.heavy -> B.inlet"],
        "nrtl",
    )
    result = solve(document)
    light, heavy = result.streams["S2"], result.streams["S3"]
    assert light.density < heavy.density
    assert light.mole_fractions["butanone"] > 0.5 > heavy.mole_fractions["butanone"]
    assert light.mole_flow + heavy.mole_flow == pytest.approx(100 / 3.6)
    gamma = PropertyModel("nrtl", ["butanone", "water"])
    activities = [
        gamma.activity_coefficients(310.0, 1.2e5, [s.mole_fractions[k] for k in ("butanone", "water")])
        * [s.mole_fractions[k] for k in ("butanone", "water")]
        for s in (light, heavy)
    ]
    assert activities[0] == pytest.approx(activities[1], rel=1e-8)
    hot = solve(edit(document, "set_values", unit="V", values={"temperature": q("360 K")}))
    assert any("outlet is not connected" in f.text for f in hot.findings)
