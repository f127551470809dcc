"""Heat curves of heaters and coolers: every place on them is a state that a smaller heater leads to."""

import numpy as np
import pytest
from plants import C4, feed, plant, q

from wattaxis import solve
from wattaxis.flowsheet import Pin, property_model
from wattaxis.solving.pins import evaluate_pin

LINES = ["S-1: F-1.outlet -> E-1.inlet", "S-2: E-1.outlet -> Z-1.inlet"]


def heated(type_="heater", inlet=None, **given):
    return plant(C4, {"F-1": inlet or feed(), "E-1": (type_, given), "Z-1": ("product", {})}, LINES)


def test_every_place_is_where_a_smaller_heater_leads_to():
    document = heated(outlet_temperature=q("400 K"))
    curve = solve(document).units["E-1"].profile()
    heat, temperature = np.array(curve.along.values), np.array(curve.column("temperature").values)
    assert (heat[0], temperature[0], temperature[-1]) == (0.0, 320.0, 400.0)
    for k in (3, 11, 20):
        smaller = solve(heated(duty=q(f"{heat[k]} W"))).streams["S-2"]
        assert smaller.temperature == pytest.approx(temperature[k], rel=1e-9)
        assert smaller.vapour_fraction == pytest.approx(curve.column("vapour_fraction").values[k], abs=1e-9)


@pytest.mark.parametrize("loss", ["0 bar", "-2 bar"])
def test_the_curve_has_its_corners_at_bubble_and_dew_point(loss):
    curve = solve(heated(outlet_temperature=q("420 K"), pressure_change=q(loss))).units["E-1"].profile()
    fractions = np.array(curve.column("vapour_fraction").values)
    boiling, dry = np.flatnonzero(fractions <= 1e-9)[-1], np.flatnonzero(fractions >= 1.0 - 1e-9)[0]
    pressures = np.array(curve.column("pressure").values)
    temperatures = np.array(curve.column("temperature").values)
    model = heated().chemistry
    for k, border in ((boiling, 0.0), (dry, 1.0)):
        edge = property_model(model).flash([0.3, 0.4, 0.3], P=pressures[k], VF=border)
        assert temperatures[k] == pytest.approx(edge.temperature, abs=1e-4)


@pytest.mark.parametrize(
    ("type_", "given"),
    [
        ("utility-heater", {"outlet_temperature": q("400 K"), "utility": "low-pressure steam"}),
        ("utility-cooler", {"outlet_temperature": q("312 K"), "utility": "cooling water"}),
        ("air-cooler", {"outlet_temperature": q("315 K"), "air_temperature": q("25 degC"), "air_rise": q("8 K")}),
    ],
)
def test_a_medium_runs_against_the_stream_and_its_nearest_approach_is_on_the_curve(type_, given):
    state = solve(heated(type_, feed(temperature="350 K"), **given)).units["E-1"]
    curve = state.profile()
    apart = np.abs(np.array(curve.column("medium_temperature").values) - np.array(curve.column("temperature").values))
    assert state["approach"] == pytest.approx(apart.min(), rel=1e-12)
    assert np.array(curve.column("approach").values) == pytest.approx(apart)
    assert curve.along.values[-1] == pytest.approx(abs(state["duty"]))


def test_a_formula_reads_it_and_without_heat_there_is_none():
    document = heated(outlet_temperature=q("400 K"))
    result = solve(document)
    half = evaluate_pin(Pin(name="x", formula="E-1.temperature[duty 100 kW]"), document, result)
    assert 320.0 < half.value < 400.0
    for idle in (heated(duty=q("0 kW")), heated(inlet=feed(flow="0 kmol/h"), outlet_temperature=q("400 K"))):
        assert solve(idle).units["E-1"].profiles == ()
