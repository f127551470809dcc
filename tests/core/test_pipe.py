"""Pipes: friction against an independent library, and the unit against closed forms of liquid, gas and standing columns."""

import math

import pytest
from fluids import isothermal_gas
from fluids.friction import Colebrook
from fluids.piping import nearest_pipe
from fluids.two_phase import Muller_Steinhagen_Heck
from hypothesis import given, settings
from hypothesis import strategies as st
from plants import plant, q

from wattaxis import PropertyModel, edit, solve
from wattaxis.equipment.pipe_flow import friction_factor, friction_gradient, two_phase_gradient
from wattaxis.equipment.pipe_sizes import pipe_of

WATER, AIR = [("water", "7732-18-5")], [("nitrogen", "7727-37-9")]
GRAVITY = 9.80665


@settings(max_examples=100, deadline=None)
@given(re=st.floats(1.0, 8.0).map(lambda e: 10.0**e), rough=st.floats(0.0, 0.05))
def test_the_friction_factor_is_colebrooks(re, rough):
    """Laminar up to 2000, Colebrook's equation from 4000 on, between both in between."""
    if re <= 2000.0:
        assert friction_factor(re, rough) == pytest.approx(64.0 / re, rel=1e-12)
    elif re >= 4000.0:
        assert friction_factor(re, rough) == pytest.approx(Colebrook(re, rough), rel=1e-9)
    else:
        ends = sorted((64.0 / re, Colebrook(re, rough)))
        assert ends[0] <= friction_factor(re, rough) <= ends[1]


@settings(max_examples=60, deadline=None)
@given(x=st.floats(0.001, 0.999), flux=st.floats(50.0, 2000.0))
def test_two_phases_lose_what_the_library_says(x, flux):
    d, rough = 0.05, 4.5e-5
    alone = [friction_gradient(flux, rho, mu, d, rough) for rho, mu in ((850.0, 3e-4), (12.0, 1.2e-5))]
    # The library takes its own friction factors; only the way both are joined is compared.
    liquid, gas = alone
    theirs = Muller_Steinhagen_Heck(flux * math.pi / 4 * d**2, x, 850.0, 12.0, 3e-4, 1.2e-5, d, rough, 1.0)
    assert two_phase_gradient(liquid, gas, x) == pytest.approx(theirs, rel=0.03)


def line(components, flow, temperature, pressure, **spec):
    composition = {"basis": "mole_fraction", "values": {name: {"value": 1.0} for name, _ in components}}
    feed = ("feed", {"temperature": q(temperature), "pressure": q(pressure), "flow": q(flow), "composition": composition})
    given = {"length": q("200 m"), "diameter": q("100 mm"), **spec}
    units = {"F": feed, "L": ("pipe", {k: v for k, v in given.items() if v is not None}), "Z": ("product", {})}
    return plant(components, units, ["S1: F.outlet -> L.inlet", "S2: L.outlet -> Z.inlet"])


def test_a_liquid_loses_what_darcy_and_its_height_say():
    result = solve(line(WATER, "30 t/h", "25 degC", "6 bar", rise=q("12 m"), loss_coefficient=q("5")))
    before, after = result.streams["S1"], result.streams["S2"]
    liquid = before.phases[0]
    velocity = before.mass_flow / before.density / (math.pi / 4 * 0.01)
    factor = Colebrook(before.density * velocity * 0.1 / liquid.viscosity, 4.5e-4)
    loss = (factor * 200.0 / 0.1 + 5.0) * before.density * velocity**2 / 2.0 + before.density * GRAVITY * 12.0
    assert before.pressure - after.pressure == pytest.approx(loss, rel=1e-3)
    assert abs(result.balance.energy_gap) < 1e-10


def test_a_gas_at_constant_temperature_follows_its_closed_form():
    document = line(AIR, "6 t/h", "20 degC", "8 bar", heat_transfer=q("100000 W/m2/K"), surroundings=q("20 degC"))
    result = solve(document)
    before, after = result.streams["S1"], result.streams["S2"]
    assert after.temperature == pytest.approx(293.15, abs=0.05)
    reynolds = before.mass_flow / (math.pi / 4 * 0.01) * 0.1 / before.phases[0].viscosity
    flow = isothermal_gas(before.density, Colebrook(reynolds, 4.5e-4), P1=before.pressure, P2=after.pressure, L=200.0, D=0.1)
    assert before.mass_flow == pytest.approx(flow, rel=0.01)  # the closed form takes an ideal gas


def test_a_standing_column_of_gas_follows_the_barometer_and_keeps_its_energy():
    document = line(AIR, "1 kg/h", "300 K", "1 bar", diameter=q("1 m"), length=q("1000 m"), rise=q("1000 m"))
    result = solve(document)
    after = result.streams["S2"]
    cp = result.streams["S1"].phases[0].heat_capacity / 0.0280134
    assert after.temperature == pytest.approx(300.0 - GRAVITY * 1000.0 / cp, abs=0.05)  # dry adiabatic
    assert after.pressure == pytest.approx(1e5 * (after.temperature / 300.0) ** (cp * 0.0280134 / 8.314462618), rel=1e-3)


def test_a_boiling_liquid_flashes_along_the_pipe_and_heat_is_lost_to_the_cold():
    model = PropertyModel("peng-robinson", ["water"])
    boiling = model.flash([1.0], P=5e5, VF=0.0).temperature
    result = solve(line(WATER, "12 t/h", f"{boiling - 0.5} K", "5 bar", diameter=q("80 mm")))
    after = result.streams["S2"]
    assert 0.0 < after.vapour_fraction < 0.2
    assert after.pressure < 4.9e5
    warm = line(WATER, "5 t/h", "80 degC", "5 bar", heat_transfer=q("10 W/m2/K"))
    hot = solve(warm)
    lost = next(v.value for v in hot.units["L"].values if v.key == "heat_lost")
    area, mean = math.pi * 0.1 * 200.0, 0.5 * (353.15 + hot.streams["S2"].temperature) - 293.15
    assert lost == pytest.approx(10.0 * area * mean, rel=0.01)
    along = hot.units["L"].profile("along")
    assert along.at("temperature", 0.0) == pytest.approx(353.15)
    assert along.at("temperature", 200.0) == pytest.approx(hot.streams["S2"].temperature)
    assert along.at("pressure", 200.0) < along.at("pressure", 100.0) < 5e5


def test_a_pipe_that_is_too_narrow_says_where_the_pressure_ends():
    result = solve(line(AIR, "6 t/h", "20 degC", "2 bar", diameter=q("60 mm")))
    fault = next(f for f in result.findings if f.severity == "fault")
    assert (fault.place, fault.field, "cannot pass the flow" in fault.text) == ("L", "diameter", True)
    steep = solve(edit(line(WATER, "1 t/h", "25 degC", "9 bar"), "set_values", unit="L", values={"rise": q("300 m")}))
    assert "exceeds the length" in next(f for f in steep.findings if f.severity == "fault").text
    fast = solve(line(WATER, "300 t/h", "25 degC", "90 bar"))
    assert any("m/s, above the" in f.text for f in fast.findings)


@pytest.mark.parametrize(("size", "schedule", "inches"), [("DN 50", "40", 2), ("DN 300", "STD", 12), ("DN 15", "10S", 0.5), ("DN 600", "80", 24)])
def test_nominal_sizes_are_those_of_the_library(size, schedule, inches):
    _, inner, _, wall = nearest_pipe(NPS=inches, schedule=schedule)
    assert pipe_of(size, schedule) == (pytest.approx(inner, rel=1e-9), pytest.approx(wall, rel=1e-9))


def test_a_nominal_size_is_the_diameter_with_the_usual_wall_unless_another_is_chosen():
    blank = {"diameter": None}
    assumed = solve(line(WATER, "30 t/h", "25 degC", "6 bar", **blank, nominal_size="DN 100"))
    (schedule,) = [a for a in assumed.assumptions if a.field == "schedule"]
    assert (schedule.value, schedule.unit, assumed.complete) == ("40", "", True)
    asked = solve(line(WATER, "30 t/h", "25 degC", "6 bar", **blank, nominal_size="DN 650"))  # not made in that schedule
    assert [a.fields for a in asked.asks] == [("schedule",)]
    nominal = solve(line(WATER, "30 t/h", "25 degC", "6 bar", **blank, nominal_size="DN 100", schedule="40"))
    typed = solve(line(WATER, "30 t/h", "25 degC", "6 bar", diameter=q("102.26 mm")))
    assert nominal.streams["S2"].pressure == assumed.streams["S2"].pressure
    assert nominal.streams["S2"].pressure == pytest.approx(typed.streams["S2"].pressure, rel=1e-12)
    odd = solve(line(WATER, "30 t/h", "25 degC", "6 bar", **blank, nominal_size="DN 100", schedule="20"))
    (fault,) = [f for f in odd.findings if f.severity == "fault"]
    assert "DN 100 is not made in schedule 20; it is in" in fault.text


def test_insulation_passes_what_cylinders_in_series_pass():
    """Two layers on a steel pipe: the loss by hand at the mean temperature, small enough that the water hardly cools."""
    layers = {
        "insulation_thickness": q("40 mm"),
        "insulation_conductivity": q("0.045 W/m/K"),
        "second_thickness": q("20 mm"),
        "second_conductivity": q("0.06 W/m/K"),
        "outside_coefficient": q("12 W/m2/K"),
        "surroundings": q("10 degC"),
    }
    result = solve(line(WATER, "60 t/h", "90 degC", "6 bar", diameter=None, nominal_size="DN 150", schedule="40", **layers))
    values = {v.key: v.value for v in result.units["L"].values}
    radii = [0.5 * 0.15408, 0.5 * 0.16828, 0.5 * 0.16828 + 0.04, 0.5 * 0.16828 + 0.06]
    series = sum(math.log(b / a) / k for a, b, k in zip(radii, radii[1:], (45.0, 0.045, 0.06), strict=False)) + 1.0 / (12.0 * radii[-1])
    mean = 0.5 * (result.streams["S1"].temperature + result.streams["S2"].temperature) - 283.15
    assert values["heat_lost"] == pytest.approx(2 * math.pi * 200.0 * mean / series, rel=1e-4)
    thicker = solve(line(WATER, "60 t/h", "90 degC", "6 bar", **{**layers, "insulation_thickness": q("80 mm")}))
    assert {v.key: v.value for v in thicker.units["L"].values}["heat_lost"] < values["heat_lost"]
    still = {key: layers[key] for key in ("insulation_thickness", "insulation_conductivity")}
    assert any(a.field == "outside_coefficient" for a in solve(line(WATER, "60 t/h", "90 degC", "6 bar", **still)).assumptions)
