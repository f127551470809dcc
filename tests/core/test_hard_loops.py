"""Loops that start cold, feed on what they make, or hang on their own pressure; targets far away; what was typed as text."""

import pytest
from plants import plant, q

from wattaxis import Memory, edit, solve

GASES = {"nitrogen": "7727-37-9", "methane": "74-82-8", "oxygen": "7782-44-7", "argon": "7440-37-1", "carbon dioxide": "124-38-9"}
OTHERS = {
    "propane": "74-98-6", "n-decane": "124-18-5", "hydrogen": "1333-74-0", "methanol": "67-56-1", "acetone": "67-64-1", "water": "7732-18-5",
    "ammonia": "7664-41-7", "butanone": "78-93-3", "2-butanol": "78-92-2",
}  # fmt: skip
CAS = GASES | OTHERS


def fed(parts, temperature, pressure, flow="100 kmol/h"):
    values = {name: {"value": x} for name, x in parts.items()}
    composition = {"basis": "mole_fraction", "values": values}
    return "feed", {"temperature": q(temperature), "pressure": q(pressure), "flow": q(flow), "composition": composition}


def absorber(gas, liquid, model, drums, warm="300 K", cold="300 K"):
    """Gas up and liquid down through adiabatic drums."""
    units = {"G": fed(gas, warm, "10 bar"), "L": fed(liquid, cold, "12 bar"), "ZG": ("product", {}), "ZL": ("product", {})}
    streams = [f"g: G.outlet -> M{drums}.inlet", "l: L.outlet -> M1.inlet"]
    for k in range(1, drums + 1):
        units |= {f"M{k}": ("mixer", {}), f"D{k}": ("drum", {"duty": q("0 kW")})}
        streams.append(f"m{k}: M{k}.outlet -> D{k}.inlet")
        streams.append(f"v{k}: D{k}.vapour -> " + (f"M{k - 1}.inlet" if k > 1 else "ZG.inlet"))
        streams.append(f"x{k}: D{k}.liquid -> " + (f"M{k + 1}.inlet" if k < drums else "ZL.inlet"))
    return plant([(name, CAS[name]) for name in {**gas, **liquid}], units, streams, model)


@pytest.mark.parametrize("drums", [2, 3])
@pytest.mark.parametrize(
    ("gas", "liquid", "model"),
    [
        ({"methane": 0.8, "propane": 0.2}, {"n-decane": 1.0}, "peng-robinson"),
        ({"carbon dioxide": 0.3, "hydrogen": 0.7}, {"methanol": 1.0}, "peng-robinson"),
        ({"nitrogen": 0.95, "acetone": 0.05}, {"water": 1.0}, "nrtl"),
        ({"nitrogen": 0.9, "ammonia": 0.1}, {"water": 1.0}, "peng-robinson"),
        ({"hydrogen": 0.9, "butanone": 0.1}, {"2-butanol": 1.0}, "nrtl"),
    ],
)
def test_absorption_by_flashes_starts_from_states_that_exist(gas, liquid, model, drums):
    for warm, cold in (("300 K", "300 K"), ("400 K", "280 K")):
        result = solve(absorber(gas, liquid, model, drums, warm, cold))
        assert result.complete, [f.text for f in result.findings if f.severity == "fault"]
        assert abs(result.balance.energy_gap) < 1e-8


def liquefier(gas, temperature, high, low, torn=None):
    units = {
        "F": fed({gas: 1.0}, temperature, high, "1 mol/s"),
        "E": ("heat-exchanger", {"minimum_approach": q("5 K")}),
        "V": ("valve", {"outlet_pressure": q(low)}),
        "D": ("drum", {"duty": q("0 kW")}),
        "ZL": ("product", {}),
        "ZG": ("product", {}),
    }
    streams = ["1: F.outlet -> E.hot_in", "2: E.hot_out -> V.inlet", "3: V.outlet -> D.inlet", "4: D.liquid -> ZL.inlet",
               "5: D.vapour -> E.cold_in", "6: E.cold_out -> ZG.inlet"]  # fmt: skip
    made = plant([(gas, GASES[gas])], units, streams, "peng-robinson")
    return edit(made, "set_tear", tag=torn, torn=True) if torn else made


@pytest.mark.parametrize(
    ("gas", "temperature", "high", "low"),
    [
        ("nitrogen", "300 K", "200 bar", "1 bar"),
        ("methane", "300 K", "200 bar", "1 bar"),
        ("nitrogen", "250 K", "150 bar", "2 bar"),
        ("argon", "300 K", "200 bar", "1 bar"),
        ("nitrogen", "300 K", "100 bar", "1 bar"),
    ],
)
def test_a_liquefier_closes_on_the_cold_that_it_makes(gas, temperature, high, low):
    """The energy balance over exchanger, valve and drum gives the yield: y = (h_out - h_in) / (h_out - h_liquid)."""
    result = solve(liquefier(gas, temperature, high, low))
    assert result.complete, [f.text for f in result.findings if f.severity == "fault"]
    streams = result.streams
    wanted = (streams["6"].molar_enthalpy - streams["1"].molar_enthalpy) / (streams["6"].molar_enthalpy - streams["4"].molar_enthalpy)
    assert streams["4"].mole_flow == pytest.approx(wanted, rel=1e-7)
    assert 0.02 < wanted < 0.3


def hanging(pressure):
    """A recycle in which no unit has a pressure given: any pressure below the feed's would close it."""
    units = {
        "F": fed({"nitrogen": 0.5, "methane": 0.5}, "300 K", pressure),
        "M": ("mixer", {}),
        "E": ("cooler", {"outlet_temperature": q("290 K")}),
        "N": ("splitter", {"share_1": q("40 %")}),
        "Z": ("product", {}),
    }
    streams = ["1: F.outlet -> M.inlet", "2: M.outlet -> E.inlet", "3: E.outlet -> N.inlet", "4: N.outlet_1 -> M.inlet", "5: N.outlet_2 -> Z.inlet"]
    return plant([(n, CAS[n]) for n in ("nitrogen", "methane")], units, streams)


def test_a_pressure_that_hangs_on_itself_is_that_of_the_document_and_not_of_its_history():
    memory = Memory()
    high = hanging("10 bar")
    for document in (high, hanging("4 bar"), high):
        warm, fresh = solve(document, memory=memory), solve(document)
        assert warm.complete
        for tag, stream in fresh.streams.items():
            assert warm.streams[tag].pressure == pytest.approx(stream.pressure, rel=1e-12)
            assert warm.streams[tag].mole_flow == pytest.approx(stream.mole_flow, rel=1e-9)
    assert warm.streams["2"].pressure == pytest.approx(10e5)


def heated(target):
    units = {"F": fed({"nitrogen": 1.0}, "300 K", "2 bar"), "E": ("heater", {"duty": q("10 kW")}), "Z": ("product", {})}
    document = plant([("nitrogen", CAS["nitrogen"])], units, ["S-1: F.outlet -> E.inlet", "S-2: E.outlet -> Z.inlet"])
    aim = {"name": "hot", "formula": "S-2.molar_enthalpy - S-1.molar_enthalpy", "target": q(target), "free": {"unit": "E", "field": "duty"}}
    return edit(document, "set_aim", name="hot", aim=aim)


@pytest.mark.parametrize("times", [0.05, 3.0, 20.0, 100.0])
def test_a_linear_target_many_times_away_is_met(times):
    """100 kmol/h and 10 kW make 360 J/mol."""
    result = solve(heated(f"{360.0 * times} J/mol"))
    assert result.aims[0].state == "met"
    assert result.aims[0].freed == pytest.approx(1e4 * times, rel=1e-6)


def test_results_by_key_and_quantities_as_text():
    document = heated("360 J/mol")
    document = edit(document, "set_values", unit="E", values={"duty": "12 kW"})
    document = edit(document, "add_unit", unit={"tag": "V", "type": "valve", "spec": {"outlet_pressure": "1 bar"}, "x": 0, "y": 0})
    document = edit(document, "disconnect", tag="S-2")
    document = edit(document, "connect", stream={"tag": "S-2", "source": "E.outlet", "target": "V.inlet"})
    document = edit(document, "connect", stream={"tag": "S-3", "source": "V.outlet", "target": "Z.inlet"})
    result = solve(document)
    assert result.complete
    assert result.units["E"]["duty"] == pytest.approx(1e4, rel=1e-7)
    with pytest.raises(KeyError, match="it has"):
        result.units["E"]["nothing"]
    with pytest.raises(ValueError, match="such as"):
        edit(document, "set_values", unit="E", values={"duty": "much"})


def test_a_purge_is_offered_where_what_is_trapped_is_richest():
    """Argon comes in with the feed and only the liquid leaves: it gathers in the vapour that goes round."""
    split = {"shares": {"values": {"propane": q("90 %")}}, "overhead_vapour_fraction": q("0"), "bottoms_vapour_fraction": q("1")}
    units = {
        "F": fed({"propane": 0.9, "argon": 0.1}, "300 K", "10 bar"),
        "M": ("mixer", {}),
        "E": ("cooler", {"outlet_temperature": q("260 K")}),
        "X": ("component-splitter", split),
        "Z": ("product", {}),
    }
    streams = ["1: F.outlet -> M.inlet", "2: M.outlet -> E.inlet", "3: E.outlet -> X.inlet", "4: X.overhead -> Z.inlet", "5: X.bottoms -> M.inlet"]
    document = plant([(n, CAS[n]) for n in ("propane", "argon")], units, streams)
    (fault,) = [f for f in solve(document).findings if f.severity == "fault"]
    assert "argon" in fault.text
    assert "splitter in 5" in fault.remedy


def test_an_acid_over_an_ideal_vapour_is_told_with_its_repair():
    units = {"F": fed({"acetic acid": 0.5, "water": 0.5}, "390 K", "1 bar"), "Z": ("product", {})}
    document = plant([("acetic acid", "64-19-7"), ("water", CAS["water"])], units, ["1: F.outlet -> Z.inlet"], "nrtl")
    (told,) = [f for f in solve(document).findings if "associates" in f.text]
    mended = edit(document, "batch", edits=list(told.repair))
    assert mended.chemistry.vapour == "associating"
    assert not [f for f in solve(mended).findings if "associates" in f.text]
