"""Pressures that follow backwards through a plant, and what quarrels with them."""

import pytest
from plants import C4, feed, plant, q

from wattaxis import check, edit, solve
from wattaxis.flowsheet.document import to_data

FREE = {k: v for k, v in feed()[1].items() if k != "pressure"}
LINE = ["S-1: F.outlet -> P.inlet", "S-2: P.outlet -> E.inlet", "S-3: E.outlet -> T.inlet", "S-4: T.outlet -> Z.inlet"]


def line(pump=None, heater=None, product=None, fed=None):
    units = {
        "F": ("feed", FREE if fed is None else {**FREE, "pressure": q(fed)}),
        "P": ("pump", pump or {}),
        "E": ("heater", {"temperature_change": q("5 K"), **(heater or {})}),
        "T": ("tank", {"volume": q("1 m3")}),
        "Z": ("product", product or {}),
    }
    return plant(C4, units, LINE)


def pressures(result):
    return {tag: stream.pressure / 1e5 for tag, stream in result.streams.items()}


def test_a_product_settles_the_pump_upstream():
    document = line(product={"pressure": q("14 bar")}, heater={"pressure_change": q("-0.5 bar")}, fed="10 bar")
    result = solve(document)
    assert result.complete
    assert pressures(result) == pytest.approx({"S-1": 10.0, "S-2": 14.5, "S-3": 14.0, "S-4": 14.0})
    (note,) = [f for f in result.findings if f.place == "P"]
    assert "follows from the pressure of Z" in note.text
    assert "outlet_pressure" not in to_data(document)["units"][1]["spec"]  # what was typed stays


def test_outlet_and_change_settle_the_feed_through_units_that_hand_on():
    """Heater's outlet and loss settle its inlet; the pump's rise is known, so the feed has what is left."""
    document = line(pump={"pressure_change": q("6 bar")}, heater={"outlet_pressure": q("15 bar"), "pressure_change": q("-1 bar")})
    result = solve(document)
    assert result.complete
    assert not [f for f in result.findings if f.severity == "fault"]
    assert pressures(result) == pytest.approx({"S-1": 10.0, "S-2": 16.0, "S-3": 15.0, "S-4": 15.0})
    assert check(document).asks == []


def test_two_givens_that_agree_stand_and_two_that_quarrel_are_named():
    both = {"outlet_pressure": q("15 bar"), "pressure_change": q("-1 bar")}
    assert solve(line(pump={"pressure_change": q("6 bar")}, heater=both, fed="10 bar")).complete
    quarrel = solve(line(pump={"pressure_change": q("6 bar")}, heater=both, fed="9 bar"))
    assert not quarrel.complete
    texts = [f.text for f in quarrel.findings if f.severity == "fault" and f.place == "E"]
    assert any("10 bar upstream of S-2, but F has 9 bar as its pressure" in text for text in texts), texts
    late = solve(line(pump={"outlet_pressure": q("12 bar")}, product={"pressure": q("14 bar")}, fed="10 bar"))
    assert late.complete
    cautions = [f.text for f in late.findings if f.severity == "caution"]
    assert any("P has 12 bar as its outlet pressure" in text for text in cautions)
    assert any("arrives at 12 bar, not at the 14 bar" in text for text in cautions)


def test_a_compressor_gives_its_inlet_by_the_ratio():
    gas = {**FREE, "temperature": q("420 K")}
    units = {
        "F": ("feed", gas),
        "V": ("valve", {}),
        "K": ("compressor", {"outlet_pressure": q("6 bar"), "pressure_ratio": q("3")}),
        "Z": ("product", {}),
    }
    document = plant(C4, units, ["S-1: F.outlet -> V.inlet", "S-2: V.outlet -> K.inlet", "S-3: K.outlet -> Z.inlet"])
    assert [a.place for a in solve(document).asks] == ["F"]
    result = solve(edit(document, "set_values", unit="F", values={"pressure": q("5 bar")}))
    assert result.complete
    assert pressures(result) == pytest.approx({"S-1": 5.0, "S-2": 2.0, "S-3": 6.0})


def test_where_it_cannot_go_on_it_says_so():
    units = {"F": feed(), "G": feed(), "M": ("mixer", {}), "Z": ("product", {"pressure": q("20 bar")})}
    streams = ["S-1: F.outlet -> M.inlet", "S-2: G.outlet -> M.inlet", "S-3: M.outlet -> Z.inlet"]
    result = solve(plant(C4, units, streams))
    assert result.complete
    assert any(f.severity == "caution" and f.place == "M" for f in result.findings)  # the mixer is set to it, which its inlets do not reach
    through = {
        "F": feed(temperature="290 K"),
        "L": ("pipe", {"length": q("10 m"), "diameter": q("50 mm")}),
        "Z": ("product", {"pressure": q("9 bar")}),
    }
    piped = solve(plant(C4, through, ["S-1: F.outlet -> L.inlet", "S-2: L.outlet -> Z.inlet"]))
    assert any("what comes before L does not follow" in f.text for f in piped.findings)


def exchanged(hot=None, cold=None, feeds=("10 bar", "12 bar"), product=None):
    """Two feeds through the sides of an exchanger; pressures left blank follow."""
    fed = [{k: v for k, v in feed(temperature=t)[1].items() if k != "pressure"} for t in ("400 K", "300 K")]
    specs = [{**spec, "pressure": q(p)} if p else spec for spec, p in zip(fed, feeds, strict=True)]
    sides = {f"{side}_{key}": q(text) for side, given in (("hot", hot or {}), ("cold", cold or {})) for key, text in given.items()}
    units = {"H": ("feed", specs[0]), "C": ("feed", specs[1]), "E": ("heat-exchanger", {"duty": q("100 kW"), **sides}),
             "X": ("product", {"pressure": q(product)} if product else {}), "Y": ("product", {})}  # fmt: skip
    streams = ["1: H.outlet -> E.hot_in", "2: C.outlet -> E.cold_in", "3: E.hot_out -> X.inlet", "4: E.cold_out -> Y.inlet"]
    return solve(plant(C4, units, streams))


def test_pressures_follow_through_each_side_of_an_exchanger_on_its_own():
    result = exchanged(hot={"pressure_change": "-0.5 bar"}, feeds=(None, "12 bar"), product="9 bar")
    assert result.complete
    assert pressures(result) == pytest.approx({"1": 9.5, "2": 12.0, "3": 9.0, "4": 12.0})
    both = exchanged(cold={"outlet_pressure": "11 bar", "pressure_change": "-0.4 bar"}, feeds=("10 bar", None))
    assert both.complete
    assert pressures(both) == pytest.approx({"1": 10.0, "2": 11.4, "3": 10.0, "4": 11.0})
    assert any("cold outlet pressure and cold pressure change of E" in f.text for f in both.findings)
    quarrel = exchanged(hot={"outlet_pressure": "9 bar", "pressure_change": "-0.5 bar"})
    assert any("H has 10 bar as its pressure" in f.text for f in quarrel.findings if f.severity == "fault")
