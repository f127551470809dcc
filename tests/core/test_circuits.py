"""Closed circuits: their charge, what closes them, what they say when they cannot close."""

import pytest
from plants import example, plant, q

from wattaxis import Memory, PropertyModel, edit, solve

WATER, PROPANE, BUTANE, METHANE = ("water", "7732-18-5"), ("propane", "74-98-6"), ("n-butane", "106-97-8"), ("methane", "74-82-8")


def of(**fractions):
    return {"basis": "mole_fraction", "values": {name: q(f"{value} ") for name, value in fractions.items()}}


def ring(units, components=(PROPANE,), model="peng-robinson", more=()):
    """Units in a ring from the charge on and back to it."""
    tags = list(units)
    lines = [f"S-{k}: {a}.outlet -> {b}.inlet" for k, (a, b) in enumerate(zip(tags, tags[1:] + tags[:1], strict=True), 1)]
    return plant(list(components), units, [*lines, *more], model)


def fridge(charge, components=(PROPANE,), **changed):
    units = {
        "C": ("circuit-charge", charge),
        "K": ("compressor", {"efficiency": q("75 %")}),
        "E1": ("cooler", {"subcooling": q("3 K"), "saturation_temperature": q("40 degC"), "pressure_change": q("-0.2 bar")}),
        "VL": ("valve", {}),
        "E2": ("heater", {"superheat": q("0 K"), "saturation_temperature": q("-20 degC")}),
    }
    return ring({tag: (kind, changed.get(tag, spec)) for tag, (kind, spec) in units.items()}, components)


def values(result, tag):
    return {v.key: v.value for v in result.units[tag].values}


def faults(document):
    result = solve(document)
    assert not result.complete
    return " ".join([f.text for f in result.findings if f.severity == "fault"] + [a.text for a in result.asks])


def test_a_refrigeration_cycle_from_its_cold_and_two_temperatures_is_that_of_single_flashes():
    result = solve(fridge({"composition": of(propane=1), "heat_taken_in": q("100 kW")}))
    assert result.complete
    model = PropertyModel("peng-robinson", ["propane"], translated=True)
    low, high = model.flash([1.0], T=253.15, VF=1.0), model.flash([1.0], T=313.15, VF=0.0)
    ideal = model.flash([1.0], P=high.pressure + 2e4, S=low.entropy)
    work = (ideal.enthalpy - low.enthalpy) / 0.75
    cold = low.enthalpy - model.flash([1.0], T=310.15, P=high.pressure).enthalpy
    assert result.streams["S-2"].pressure == pytest.approx(high.pressure + 2e4, rel=1e-12)
    assert result.streams["S-4"].pressure == pytest.approx(low.pressure, rel=1e-12)
    assert result.streams["S-1"].mole_flow == pytest.approx(1e5 / cold, rel=1e-9)
    assert values(result, "K")["power"] == pytest.approx(1e5 / cold * work, rel=1e-9)
    assert abs(result.balance.energy_gap) < 1e-10


def test_a_cycle_through_exchangers_of_a_process_is_that_of_heater_and_cooler():
    """Saturation temperatures of the sides that condense and evaporate; water warm and cold on the others."""
    units = {
        "C": ("circuit-charge", {"composition": of(propane=1), "heat_taken_in": q("100 kW")}),
        "K": ("compressor", {"efficiency": q("75 %")}),
        "E1": (
            "heat-exchanger",
            {"hot_outlet_subcooling": q("3 K"), "hot_saturation_temperature": q("40 degC"), "hot_pressure_change": q("-0.2 bar")},
        ),
        "VL": ("valve", {}),
        "E2": ("heat-exchanger", {"cold_outlet_superheat": q("0 K"), "cold_saturation_temperature": q("-20 degC")}),
        **{
            f: ("feed", {"composition": of(methane=1), "flow": q("5 t/h"), "temperature": q(t), "pressure": q("10 bar")})
            for f, t in (("F1", "0 degC"), ("F2", "20 degC"))
        },
        "Z1": ("product", {}),
        "Z2": ("product", {}),
    }
    lines = [
        "S-1: C.outlet -> K.inlet", "S-2: K.outlet -> E1.hot_in", "S-3: E1.hot_out -> VL.inlet", "S-4: VL.outlet -> E2.cold_in",
        "S-5: E2.cold_out -> C.inlet", "S-6: F1.outlet -> E1.cold_in", "S-7: E1.cold_out -> Z1.inlet", "S-8: F2.outlet -> E2.hot_in",
        "S-9: E2.hot_out -> Z2.inlet",
    ]  # fmt: skip
    result, apart = solve(plant([PROPANE, METHANE], units, lines)), solve(fridge({"composition": of(propane=1), "heat_taken_in": q("100 kW")}))
    assert result.complete
    for name in ("S-1", "S-2", "S-3", "S-4"):
        ours, theirs = result.streams[name], apart.streams[name]
        assert (ours.pressure, ours.mole_flow, ours.temperature) == pytest.approx((theirs.pressure, theirs.mole_flow, theirs.temperature), rel=1e-9)
    assert values(result, "E2")["duty"] == pytest.approx(1e5, rel=1e-9)
    assert values(result, "E1")["duty"] == pytest.approx(1e5 + values(result, "K")["power"], rel=1e-9)


@pytest.mark.parametrize("given", ["flow", "heat_given_off"])
def test_every_tear_of_a_circuit_closes_it_alike_and_so_does_a_circuit_that_was_another_before(given):
    """A mixture that glides; economiser of two stages."""
    charge = {"composition": of(propane=0.9, **{"n-butane": 0.1}), given: q("1200 kg/h") if given == "flow" else q("130 kW")}
    units = {
        "C": ("circuit-charge", charge), "K1": ("compressor", {"outlet_pressure": q("6 bar")}), "M": ("mixer", {}),
        "K2": ("compressor", {"outlet_pressure": q("14 bar")}), "E1": ("cooler", {"subcooling": q("2 K")}),
        "V1": ("valve", {"outlet_pressure": q("6 bar")}), "D": ("drum", {"duty": q("0 kW")}),
        "V2": ("valve", {"outlet_pressure": q("2 bar")}), "E2": ("heater", {"superheat": q("3 K")}),
    }  # fmt: skip
    lines = ["C.outlet -> K1.inlet", "K1.outlet -> M.inlet", "M.outlet -> K2.inlet", "K2.outlet -> E1.inlet", "E1.outlet -> V1.inlet"]
    lines += ["V1.outlet -> D.inlet", "D.liquid -> V2.inlet", "V2.outlet -> E2.inlet", "E2.outlet -> C.inlet", "D.vapour -> M.inlet"]
    document = plant([PROPANE, BUTANE], units, [f"S-{k}: {line}" for k, line in enumerate(lines, 1)])
    first = solve(document)
    assert first.complete
    # The composition of the charge is that of the liquid on its branch, and what leaves the drum beside it is in equilibrium with it.
    assert first.streams["S-7"].mole_fractions["n-butane"] == pytest.approx(0.1, rel=1e-9)
    for torn in ("S-1", "S-4", "S-5", "S-8"):
        other = solve(edit(document, "set_tear", tag=torn, torn=True))
        assert other.complete
        assert other.streams["S-3"].mole_flow == pytest.approx(first.streams["S-3"].mole_flow, rel=1e-8)
    memory = Memory()
    solve(edit(document, "set_values", unit="V2", values={"outlet_pressure": q("3 bar")}), memory=memory)
    again = solve(document, memory=memory)
    assert again.streams["S-3"].mole_flow == pytest.approx(first.streams["S-3"].mole_flow, rel=1e-9)


def test_two_circuits_may_hang_on_each_other_and_on_a_process():
    """A cascade: gas chilled by propane at a low pressure, whose condenser boils propane at a higher one."""
    units = {
        "C1": ("circuit-charge", {"composition": of(propane=1), "flow": q("1500 kg/h")}),
        "K1": ("compressor", {"outlet_pressure": q("5 bar")}),
        "X": ("heat-exchanger", {"hot_outlet_vapour_fraction": q("0 ")}),
        "V1": ("valve", {"outlet_pressure": q("1.2 bar")}),
        "Y": ("heat-exchanger", {"cold_outlet_vapour_fraction": q("1 ")}),
        "C2": ("circuit-charge", {"composition": of(propane=1), "flow": q("2500 kg/h")}),
        "K2": ("compressor", {"outlet_pressure": q("14 bar")}),
        "E": ("cooler", {"subcooling": q("2 K")}),
        "V2": ("valve", {"outlet_pressure": q("3.5 bar")}),
        "F": ("feed", {"composition": of(methane=1), "temperature": q("30 degC"), "pressure": q("30 bar"), "flow": q("3 t/h")}),
        "Z": ("product", {}),
    }
    lines = ["C1.outlet -> K1.inlet", "K1.outlet -> X.hot_in", "X.hot_out -> V1.inlet", "V1.outlet -> Y.cold_in", "Y.cold_out -> C1.inlet"]
    lines += ["C2.outlet -> K2.inlet", "K2.outlet -> E.inlet", "E.outlet -> V2.inlet", "V2.outlet -> X.cold_in", "X.cold_out -> C2.inlet"]
    lines += ["F.outlet -> Y.hot_in", "Y.hot_out -> Z.inlet"]
    document = plant([PROPANE, METHANE], units, [f"S-{k}: {line}" for k, line in enumerate(lines, 1)])
    result = solve(document)
    assert result.complete
    given_off = values(result, "E")["duty"]
    taken_in = values(result, "Y")["duty"] + values(result, "K1")["power"] + values(result, "K2")["power"]
    assert given_off == pytest.approx(taken_in, rel=1e-9)
    assert result.streams["S-1"].mass_flow == pytest.approx(1500 / 3600, rel=1e-9)
    assert result.streams["S-10"].mass_flow == pytest.approx(2500 / 3600, rel=1e-9)
    # The circulation of the lower circuit follows from the cold that the process wants, by an aim.
    aimed = edit(document, "set_aim", name="Chilled", aim={"name": "Chilled", "formula": "S-12.temperature", "target": q("-10 degC"),
                                                           "free": {"unit": "C1", "field": "flow"}})  # fmt: skip
    assert solve(aimed).aims[0].state == "met"


def test_pressure_of_a_pumped_circuit_follows_from_its_losses():
    units = {
        "C": ("circuit-charge", {"composition": of(water=1), "heat_given_off": q("2 MW"), "pressure": q("3 bar")}),
        "P": ("pump", {"efficiency": q("70 %")}),
        "E1": ("heater", {"outlet_temperature": q("120 degC"), "pressure_change": q("-1 bar")}),
        "E2": ("cooler", {"outlet_temperature": q("80 degC"), "pressure_change": q("-0.5 bar")}),
    }
    document = ring(units, (WATER,), "steam")
    result = solve(document)
    assert result.complete
    assert result.streams["S-2"].pressure == pytest.approx(4.5e5, rel=1e-12)
    assert values(result, "E2")["duty"] == pytest.approx(2e6, rel=1e-9)
    given = edit(document, "set_values", unit="P", values={"outlet_pressure": q("5 bar")})
    assert "3.5 bar come back to the 3 bar held here" in faults(given)
    changing = edit(document, "set_values", unit="P", values={"pressure_change": q("1.5 bar")})
    assert solve(changing).complete
    assert "Nothing sets the pressure" in faults(edit(changing, "set_values", unit="C", values={"pressure": None}))
    neutral = ring(units | {"E1": ("heater", {"duty": q("100 kW")}), "E2": ("cooler", {"duty": q("100 kW")})}, (WATER,), "steam")
    warm = edit(neutral, "set_values", unit="C", values={"heat_given_off": None, "flow": q("10 t/h")})
    assert "No unit sets the temperature of the circuit of C" in faults(warm)
    fixed = ring(units | {"E1": ("heater", {"duty": q("100 kW")}), "E2": ("cooler", {"outlet_temperature": q("80 degC")})}, (WATER,), "steam")
    assert "whatever goes round" in faults(fixed)


def test_what_is_no_closed_circuit_says_so():
    charge = {"composition": of(propane=1), "flow": q("1 t/h")}
    assert "put a circuit charge into S-1" in faults(
        ring({"K": ("compressor", {"outlet_pressure": q("9 bar")}), "E": ("cooler", {"subcooling": q("1 K")})})
    )
    twice = ring({"C": ("circuit-charge", charge), "D": ("circuit-charge", charge), "K": ("compressor", {"outlet_pressure": q("9 bar")})})
    assert "charge the same circuit" in faults(twice)
    feed = {"composition": of(propane=1), "flow": q("1 t/h"), "temperature": q("20 degC"), "pressure": q("5 bar")}
    units = {
        "C": ("circuit-charge", charge),
        "M": ("mixer", {}),
        "N": ("splitter", {"share_1": q("10 %")}),
        "F": ("feed", feed),
        "Z": ("product", {}),
    }
    lines = [
        "S-1: C.outlet -> M.inlet",
        "S-2: M.outlet -> N.inlet",
        "S-3: N.outlet_2 -> C.inlet",
        "S-4: F.outlet -> M.inlet",
        "S-5: N.outlet_1 -> Z.inlet",
    ]
    said = faults(plant([PROPANE], units, lines))
    assert "S-4 bring matter into the circuit of C" in said
    assert "S-5 take matter out of" in said
    assert "stands in no circuit" in faults(plant([PROPANE], {"C": ("circuit-charge", charge)}, []))
    assert "composition of the circulating fluid" in faults(fridge({"flow": q("1 t/h")}))
    assert "circulation" in faults(fridge({"composition": of(propane=1)}))
    assert "no circulation follows" in faults(fridge({"composition": of(propane=1), "heat_taken_in": q("0 kW")}))
    assert "no circulation follows" in faults(fridge({"composition": of(propane=1), "heat_given_off": q("-3 kW")}))
    assert "sum to 0.7" in faults(fridge({"composition": of(propane=0.7), "flow": q("1 t/h")}))
    assert "All values of the composition of C are zero" in faults(fridge({"composition": of(propane=0), "flow": q("1 t/h")}))
    assert "typed as flows" in faults(fridge({"composition": {"basis": "mole_flow", "values": {"propane": q("1 mol/s")}}, "flow": q("1 t/h")}))


@pytest.mark.parametrize("model", ["peng-robinson", "steam"])
def test_a_steam_power_circuit_by_its_heat(model):
    units = {
        "C": ("circuit-charge", {"composition": of(water=1), "heat_taken_in": q("10 MW")}),
        "P": ("pump", {"outlet_pressure": q("60 bar")}),
        "E1": ("heater", {"outlet_temperature": q("480 degC")}),
        "X": ("expander", {"outlet_pressure": q("0.08 bar"), "efficiency": q("85 %")}),
        "E2": ("cooler", {"subcooling": q("1 K")}),
    }
    result = solve(ring(units, (WATER,), model))
    assert result.complete
    net = values(result, "X")["power"] - values(result, "P")["power"]
    assert values(result, "E1")["duty"] == pytest.approx(1e7, rel=1e-9)
    assert net == pytest.approx(1e7 - values(result, "E2")["duty"], rel=1e-9)
    assert 0.3 < net / 1e7 < 0.36


def test_a_saturation_temperature_settles_the_pressure_of_what_comes_before():
    feed = {"composition": of(propane=0.5, **{"n-butane": 0.5}), "flow": q("1 t/h"), "temperature": q("20 degC"), "pressure": q("15 bar")}
    units = {
        "F": ("feed", feed),
        "VL": ("valve", {}),
        "E": ("heater", {"superheat": q("2 K"), "saturation_temperature": q("0 degC")}),
        "Z": ("product", {}),
    }
    lines = ["S-1: F.outlet -> VL.inlet", "S-2: VL.outlet -> E.inlet", "S-3: E.outlet -> Z.inlet"]
    document = plant([PROPANE, BUTANE], units, lines)
    pressure = PropertyModel("peng-robinson", ["propane", "n-butane"], translated=True).flash([0.5, 0.5], T=273.15, VF=1.0).pressure
    result = solve(document)
    assert result.complete
    assert result.streams["S-2"].pressure == pytest.approx(pressure, rel=1e-12)
    assert result.streams["S-3"].temperature == pytest.approx(275.15, rel=1e-9)
    # With a pressure of its own before it, the change follows in its place; with both given, they quarrel.
    kept = edit(document, "set_values", unit="VL", values={"outlet_pressure": q("6 bar")})
    assert solve(kept).complete
    assert values(solve(kept), "E")["pressure_change"] == pytest.approx(pressure - 6e5, rel=1e-9)
    assert "VL has 6 bar as its outlet pressure" in faults(edit(kept, "set_values", unit="E", values={"pressure_change": q("-0.1 bar")}))


def test_the_examples_hold_closed_circuits():
    for name, charge in (("ammonia_loop", "C-201"), ("steam_power", "C-101")):
        result = solve(example(name))
        assert any(charge in loop.units and loop.closed for loop in result.loops)
