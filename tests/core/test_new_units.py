"""Utilities, air coolers, decanters, tanks, copies, saturation and polytropic machines; compression laid out; units with models of their own."""

import math

import pytest
from plants import C4, demo, feed, plant, q

from wattaxis import CompressionQuestion, PropertyModel, check, edit, lay_out_compression, solve
from wattaxis.unitops.heat.utilities import COOLING, HEATING, heat_of

HYDROGEN = [("hydrogen", "1333-74-0"), ("butanone", "78-93-3"), ("2-butanol", "78-92-2")]
TWO = [("butanone", "78-93-3"), ("water", "7732-18-5"), ("nitrogen", "7727-37-9")]


def after(kind, spec, parts=C4, given=None, model="peng-robinson", outlet="outlet"):
    units = {"F": given or feed(), "U": (kind, spec), "Z": ("product", {})}
    return solve(plant(parts, units, ["1: F.outlet -> U.inlet", f"2: U.{outlet} -> Z.inlet"], model))


def values(result, tag="U"):
    return {v.key: v.value for v in result.units[tag].values}


def fed(parts, shares, temperature="300 K", pressure="2 bar"):
    fractions = {name: {"value": x} for (name, _), x in zip(parts, shares, strict=True)}
    spec = {"temperature": q(temperature), "pressure": q(pressure), "flow": q("100 kmol/h")}
    return "feed", {**spec, "composition": {"basis": "mole_fraction", "values": fractions}}


@pytest.mark.parametrize("key", ["superheat", "subcooling"])
def test_saturation_and_so_many_kelvin_beyond(key):
    edge = after("heater", {"outlet_vapour_fraction": q("1" if key == "superheat" else "0")}).streams["2"]
    for apart in (0.0, 7.0):
        stream = after("heater", {key: q(f"{apart} K")}).streams["2"]
        assert stream.temperature == pytest.approx(edge.temperature + (apart if key == "superheat" else -apart), abs=1e-9)
        assert stream.vapour_fraction == edge.vapour_fraction
    assert any("not possible" in f.text for f in after("heater", {key: q("-3 K")}).findings)


def test_a_utility_carries_the_duty():
    result = after("utility-heater", {"outlet_temperature": q("350 K"), "utility": "low-pressure steam"})
    found = values(result)
    assert found["utility_flow"] * heat_of(HEATING["low-pressure steam"]) == pytest.approx(found["duty"], rel=1e-12)
    assert found["approach"] == pytest.approx(425.0 - 350.0, abs=1e-6)
    assert heat_of(HEATING["low-pressure steam"]) == pytest.approx(2.108e6, rel=2e-3)  # steam tables at 5 bar
    assert heat_of(COOLING["cooling water"]) == pytest.approx(4180.0 * 10.0, rel=2e-3)
    crossing = after("utility-cooler", {"outlet_temperature": q("290 K"), "utility": "cooling water"})
    assert any("cross" in f.text and f.severity == "fault" for f in crossing.findings)
    near = after("utility-cooler", {"outlet_temperature": q("300 K"), "utility": "cooling water"})
    assert any("very large area" in f.text for f in near.findings)
    assert any("utility" in a.text for a in check(plant(C4, {"U": ("utility-cooler", {"outlet_temperature": q("300 K")})}, [])).asks)
    with pytest.raises(ValueError, match="there is no"):
        plant(C4, {"U": ("utility-cooler", {"utility": "snow"})}, [])


def test_air_takes_up_what_the_stream_gives():
    found = values(after("air-cooler", {"outlet_temperature": q("310 K"), "air_rise": q("10 K")}))
    assert found["air_flow"] * 1006.0 * 10.0 == pytest.approx(found["duty"], rel=1e-12)
    assert found["approach"] == pytest.approx(min(320.0 - 308.15, 310.0 - 298.15), abs=2.0)


def test_a_decanter_parts_two_liquids_and_says_what_it_cannot():
    result = after("decanter", {"temperature": q("300 K")}, TWO, fed(TWO, (0.4, 0.6, 0.0)), "nrtl", "light")
    model = PropertyModel("nrtl", ["butanone", "water"])
    state = model.flash([0.4, 0.6], T=300.0, P=2e5)
    rich = max(state.phases, key=lambda p: p.fractions[0])
    assert result.streams["2"].mole_fractions["butanone"] == pytest.approx(rich.fractions[0], rel=1e-9)
    assert abs(result.balance.mass_gap) < 1e-12
    gassy = after("decanter", {"temperature": q("300 K")}, TWO, fed(TWO, (0.4, 0.55, 0.05)), "nrtl", "light")
    assert any("a decanter cannot separate" in f.text for f in gassy.findings)
    assert abs(gassy.balance.mass_gap) < 1e-10
    whole = after("decanter", {"temperature": q("300 K")}, TWO, fed(TWO, (0.99, 0.01, 0.0)), "nrtl", "light")
    assert any("does not separate" in f.text for f in whole.findings)


def test_a_tank_holds_level_times_volume():
    cold = feed(temperature="280 K")
    found = values(after("tank", {"volume": q("10 m3"), "level": q("60 %")}, given=cold))
    back = values(after("tank", {"residence_time": {"value": found["residence_time"], "unit": "s"}, "level": q("60 %")}, given=cold))
    assert back["volume"] == pytest.approx(10.0, rel=1e-12)
    stream = after("tank", {"volume": q("10 m3")}, given=cold).streams["2"]
    assert found["residence_time"] == pytest.approx(6.0 / stream.volume_flow, rel=1e-9)
    assert found["height"] * math.pi / 4 * found["diameter"] ** 2 == pytest.approx(10.0, rel=1e-12)
    assert any("empty" in f.text for f in after("tank", {"volume": q("1 m3"), "level": q("0")}).findings)


def test_copies_are_whole_and_outside_the_balance():
    units = {"F": feed(), "C": ("stream-copy", {}), "A": ("heater", {"outlet_temperature": q("350 K")}), "Z": ("product", {}), "Y": ("product", {})}
    lines = ["1: F.outlet -> C.inlet", "2: C.copy_1 -> A.inlet", "3: A.outlet -> Z.inlet", "4: C.copy_2 -> Y.inlet"]
    result = solve(plant(C4, units, lines))
    assert result.complete
    assert result.streams["2"].mass_flow == result.streams["4"].mass_flow == result.streams["1"].mass_flow
    assert abs(result.balance.mass_gap) < 1e-12
    assert abs(result.balance.energy_gap) < 1e-12


def test_a_polytropic_path_of_an_ideal_gas_is_the_closed_one():
    """For constant heat capacity T2/T1 = (P2/P1)**(R/(cp eta))."""
    own = {
        "molar_mass": 0.028,
        "critical_temperature": 126.0,
        "critical_pressure": 34e5,
        "acentric_factor": 0.04,
        "heat_capacity": (29.1, 0, 0, 0, 0),
    }
    document = edit(plant([], {}, []), "add_component", component={"id": "gas", "own": own})
    document = edit(document, "set_model", model="ideal")
    fractions = {"basis": "mole_fraction", "values": {"gas": {"value": 1.0}}}
    state = {"temperature": q("300 K"), "pressure": q("1 bar"), "flow": q("1 mol/s"), "composition": fractions}
    for tag, kind, spec in (("F", "feed", state), ("K", "compressor", {"pressure_ratio": q("8"), "polytropic_efficiency": q("80 %")})):
        document = edit(document, "add_unit", unit={"tag": tag, "type": kind, "spec": spec})
    document = edit(document, "connect", stream={"tag": "1", "source": {"unit": "F", "port": "outlet"}, "target": {"unit": "K", "port": "inlet"}})
    found = values(solve(document), "K")
    ratio = 8.0 ** (8.31446261815324 / (29.1 * 0.8))
    assert found["outlet_temperature"] == pytest.approx(300.0 * ratio, rel=2e-4)
    isentropic = (8.0 ** (8.31446261815324 / 29.1) - 1.0) / (ratio - 1.0)
    assert found["efficiency"] == pytest.approx(isentropic, rel=1e-3)


def gas(pressure="1.5 bar"):
    units = {"F": fed(HYDROGEN, (0.94, 0.04, 0.02), "308.15 K", pressure), "Z": ("product", {})}
    return plant(HYDROGEN, units, ["S-01: F.outlet -> Z.inlet"])


def asked(**changes):
    given = {"pressure": "30 bar", "limit": "140 degC", "cooled_to": "35 degC"} | changes
    return CompressionQuestion(stream="S-01", **{name: q(text) if isinstance(text, str) else text for name, text in given.items()})


def test_a_compression_is_laid_out_as_real_units_that_do_what_was_said():
    layout = lay_out_compression(gas(), asked())
    assert len(layout.stages) >= 3
    assert max(stage.temperature for stage in layout.stages) <= 413.15
    document = edit(gas(), **layout.edit)
    result = solve(document)
    assert result.complete
    assert next(s for s in result.streams.values() if s.tag == document.streams[-1].tag).pressure == pytest.approx(30e5, rel=1e-9)
    for stage, unit in zip(layout.stages, (u for u in document.units if u.type == "compressor"), strict=True):
        assert values(result, unit.tag)["outlet_temperature"] == pytest.approx(stage.temperature, rel=1e-7)
        assert values(result, unit.tag)["power"] == pytest.approx(stage.power, rel=1e-6)
    wet = sum(stage.liquid > 1e-6 for stage in layout.stages)
    first = PropertyModel("peng-robinson", ["hydrogen", "butanone", "2-butanol"]).flash([0.94, 0.04, 0.02], T=308.15, P=1.5e5)
    assert sum(u.type == "drum" for u in document.units) == wet + (first.vapour_fraction < 1.0)
    assert not any("above the limit" in f.text for f in result.findings)


def test_one_stage_fewer_would_be_too_hot():
    layout = lay_out_compression(gas(), asked(aftercooler=False))
    cooler = lay_out_compression(gas(), asked(aftercooler=False, limit="250 degC"))
    assert len(cooler.stages) < len(layout.stages)
    assert cooler.stages[-1].pressure == pytest.approx(30e5, rel=1e-9)


@pytest.mark.parametrize(
    ("changes", "says"),
    [({"pressure": "1 bar"}, "already"), ({"limit": "30 degC"}, "Even 12 stages"), ({"loss": "40 bar"}, "lose more pressure")],
)
def test_what_cannot_be_compressed_is_said(changes, says):
    with pytest.raises(ValueError, match=says):
        lay_out_compression(gas(), asked(**changes))
    with pytest.raises(ValueError, match="not calculated yet"):
        lay_out_compression(edit(gas(), "set_values", unit="F", values={"flow": None}), asked())


def test_a_unit_with_a_model_of_its_own_takes_over_temperature_pressure_and_composition():
    plain = demo()
    mixed = edit(plain, "set_unit_model", tag="V-101", model="nrtl")
    result, before = solve(mixed), solve(plain)
    assert result.complete
    note = next(f for f in result.findings if f.place == "V-101" and "passed on with" in f.text)
    assert note.severity == "note"
    assert "NRTL" in result.units["V-101"].basis
    assert result.streams["S-08"].mole_fractions["hydrogen"] != pytest.approx(before.streams["S-08"].mole_fractions["hydrogen"], rel=1e-6)
    assert abs(result.balance.mass_gap) < 1e-10
    assert abs(result.balance.energy_gap) < 1e-8
    assert result.streams["S-07"] == before.streams["S-07"]
    assert any(a.place == "Chemistry" and "alpha" in a.title for a in result.assumptions) or any("NRTL" in f.text for f in result.findings)


def test_vapour_and_volumes_chosen_in_the_chemistry_reach_the_results():
    real = edit(edit(demo(), "set_model", model="nrtl"), "set_model", vapour="soave-redlich-kwong")
    assert "Soave" in solve(real).units["V-101"].basis
    squeezed = edit(edit(demo(), "set_model", model="nrtl"), "set_values", unit="F-101", values={"pressure": q("12 bar")})
    finding = next(f for f in solve(squeezed).findings if "vapour is not ideal" in f.text)
    assert not any("vapour is not ideal" in f.text for f in solve(edit(squeezed, **finding.repair[0])).findings)
    moved = edit(demo(), "set_model", translated=True)
    one, two = solve(demo()).streams["S-09"], solve(moved).streams["S-09"]
    assert two.temperature == pytest.approx(one.temperature, rel=1e-6)
    assert two.density != pytest.approx(one.density, rel=1e-3)
