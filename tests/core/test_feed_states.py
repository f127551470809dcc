"""States, amounts and moisture of feeds in the ways in which they come in a data sheet."""

import pytest
from plants import plant, q

from wattaxis import PropertyModel, solve
from wattaxis.substances import component
from wattaxis.substances.curves import component_curve

AIR = [("nitrogen", "7727-37-9"), ("oxygen", "7782-44-7"), ("argon", "7440-37-1"), ("water", "7732-18-5")]
DRY = {"nitrogen": 0.7812, "oxygen": 0.2095, "argon": 0.0093}


def fed(components, basis, values, model="peng-robinson", **given):
    spec = {
        "composition": {"basis": basis, "values": {k: {"value": v, "unit": "mol/s" if basis.endswith("flow") else ""} for k, v in values.items()}},
        **{k: q(v) for k, v in given.items()},
    }
    return solve(plant(components, {"F-1": ("feed", spec), "Z-1": ("product", {})}, ["S-1: F-1.outlet -> Z-1.inlet"], model))


def air(model="predictive-soave-redlich-kwong", **given):
    return fed(AIR, "mole_fraction", DRY, model, **{"temperature": "300 K", "pressure": "1.01325 bar", "flow": "100 mol/s", **given})


@pytest.mark.parametrize(("temperature", "humidity"), [(285.0, 0.3), (300.0, 0.5), (300.0, 0.999), (320.0, 0.8)])
def test_humid_air_holds_the_water_that_the_steam_tables_say(temperature, humidity):
    """Saturation pressure of IAPWS 95, raised by the air at 1 atm by 0.45 per cent (Hyland, Wexler 1983); this model is within 1.5 per cent."""
    stream = air(temperature=f"{temperature} K", relative_humidity=f"{humidity}").streams["S-1"]
    expected = humidity * 1.0045 * PropertyModel("steam", ["water"]).flash([1.0], T=temperature, VF=1.0).pressure / 101325.0
    assert stream.mole_fractions["water"] == pytest.approx(expected, rel=0.015)
    assert stream.vapour_fraction == 1.0
    ratio = stream.mole_fractions["nitrogen"] / stream.mole_fractions["oxygen"]
    assert ratio == pytest.approx(DRY["nitrogen"] / DRY["oxygen"], rel=1e-12)
    assert stream.mole_flow == pytest.approx(100.0)


def test_humidity_dew_point_and_moisture_say_the_same():
    humid_air = air(relative_humidity="60 %").streams["S-1"]
    share = humid_air.mole_fractions["water"]
    assert air(moisture=f"{share!r}").streams["S-1"].mole_fractions["water"] == pytest.approx(share, rel=1e-12)
    # The dew point of the stream itself, from a flash of it.
    model = PropertyModel("predictive-soave-redlich-kwong", [cas for _, cas in AIR])
    dew = model.flash(list(humid_air.mole_fractions.values()), P=101325.0, VF=1.0).temperature
    assert air(dew_point=f"{dew!r} K").streams["S-1"].mole_fractions["water"] == pytest.approx(share, rel=1e-4)
    saturated = air(relative_humidity="100 %").streams["S-1"].mole_fractions["water"]
    assert share == pytest.approx(0.6 * saturated, rel=1e-12)


def test_moisture_counts_by_mass_where_the_composition_does():
    salty = [("n-hexane", "110-54-3"), ("water", "7732-18-5")]
    stream = fed(salty, "mass_fraction", {"n-hexane": 1.0}, temperature="300 K", pressure="2 bar", flow="10 kg/s", moisture="2 %").streams["S-1"]
    assert stream.mass_fractions["water"] == pytest.approx(0.02, rel=1e-12)
    flows = fed(AIR, "mole_flow", {k: 100 * v for k, v in DRY.items()}, temperature="300 K", pressure="1 bar", moisture="3 %").streams["S-1"]
    assert flows.mole_flows["nitrogen"] == pytest.approx(78.12)
    assert flows.mole_flows["water"] == pytest.approx(100.0 * 0.03 / 0.97)


@pytest.mark.parametrize(
    ("given", "words"),
    [
        ({"relative_humidity": "50 %", "temperature": "500 K"}, "does not condense"),
        ({"moisture": "100 %"}, "All of it would be water"),
        ({"relative_humidity": "50 %", "dew_point": "280 K"}, "relative humidity and water dew point"),
        ({"volume_flow": "3 m3/s"}, "total flow and total volume flow"),
    ],
)
def test_contradictions_are_said(given, words):
    assert any(words in f.text for f in air(**given).findings if f.severity == "fault")


def test_water_typed_twice_or_missing_is_said():
    twice = fed(AIR, "mole_fraction", {"nitrogen": 0.9, "water": 0.1}, temperature="300 K", pressure="1 bar", flow="1 mol/s", moisture="1 %")
    assert any("counts as dry" in f.text for f in twice.findings)
    without = fed(AIR[:3], "mole_fraction", DRY, temperature="300 K", pressure="1 bar", flow="1 mol/s", moisture="1 %")
    assert any("water is not among the components" in f.text for f in without.findings)


def test_superheat_and_subcooling_with_either_temperature_or_pressure():
    components = [("propane", "74-98-6"), ("n-butane", "106-97-8")]
    values = {"propane": 0.4, "n-butane": 0.6}
    by_pressure = fed(components, "mole_fraction", values, pressure="8 bar", superheat="7 K", flow="1 mol/s").streams["S-1"]
    by_temperature = fed(components, "mole_fraction", values, temperature=f"{by_pressure.temperature!r} K", superheat="7 K", flow="1 mol/s").streams[
        "S-1"
    ]
    assert by_temperature.pressure == pytest.approx(8e5, rel=1e-9)
    dew = fed(components, "mole_fraction", values, pressure="8 bar", vapour_fraction="1", flow="1 mol/s").streams["S-1"]
    assert by_pressure.temperature == pytest.approx(dew.temperature + 7.0, rel=1e-12)
    cold = fed(components, "mole_fraction", values, pressure="8 bar", subcooling="5 K", flow="1 mol/s").streams["S-1"]
    bubble = fed(components, "mole_fraction", values, pressure="8 bar", vapour_fraction="0", flow="1 mol/s").streams["S-1"]
    assert cold.temperature == pytest.approx(bubble.temperature - 5.0, rel=1e-12)
    alone = fed(components, "mole_fraction", values, vapour_fraction="1", superheat="5 K", flow="1 mol/s")
    assert any("needs a temperature or a pressure" in f.text for f in alone.findings)


def test_volumes_count_for_pure_liquids_and_for_the_stream_as_it_flows():
    components = [("ethanol", "64-17-5"), ("water", "7732-18-5")]
    given = {"temperature": "298.15 K", "pressure": "1 bar"}
    stream = fed(components, "volume_fraction", {"ethanol": 0.4, "water": 0.6}, "nrtl", flow="1 kg/s", **given).streams["S-1"]
    masses = [x * component_curve(component(name), "liquid density").at(288.15) for name, x in (("ethanol", 0.4), ("water", 0.6))]
    assert stream.mass_fractions["ethanol"] == pytest.approx(masses[0] / sum(masses), rel=1e-12)
    by_volume = fed(
        components, "volume_fraction", {"ethanol": 0.4, "water": 0.6}, "nrtl", volume_flow=f"{stream.volume_flow!r} m3/s", **given
    ).streams["S-1"]
    assert by_volume.mole_flow == pytest.approx(stream.mole_flow, rel=1e-12)
    gas = fed(AIR, "volume_fraction", DRY, temperature="300 K", pressure="1 bar", flow="1 mol/s")
    assert any("no liquid at 15 degC" in f.text for f in gas.findings)
