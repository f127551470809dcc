"""Pumps, compressors, expanders, component splitters and conversion reactors against closed forms, each other and conservation laws."""

import math

import pytest
from plants import C4, conversions, converts, feed, plant, q

from wattaxis import EditError, PropertyModel, component, edit, solve
from wattaxis.flowsheet import apply, edit_from_json
from wattaxis.flowsheet.pieces import take_piece

AIR = [("nitrogen", "7727-37-9"), ("oxygen", "7782-44-7")]
BUTANONE = [("2-butanol", "78-92-2"), ("butanone", "78-93-3"), ("hydrogen", "1333-74-0"), ("water", "7732-18-5")]
GAS = {"temperature": q("300 K"), "pressure": q("1 bar"), "flow": q("10 mol/s")}


def air(kind, model="ideal", **spec):
    values = {"nitrogen": {"value": 0.79}, "oxygen": {"value": 0.21}}
    units = {"F": ("feed", {**GAS, "composition": {"basis": "mole_fraction", "values": values}}), "K": (kind, spec), "Z": ("product", {})}
    return plant(AIR, units, ["1: F.outlet -> K.inlet", "2: K.outlet -> Z.inlet"], model)


def values(result, tag):
    return {v.key: v.value for v in result.units[tag].values}


def test_an_ideal_gas_is_compressed_along_its_isentrope():
    """s(T2, P2) = s(T1, P1) with the heat capacity over temperature, solved here by hand; the real rise is the ideal one over the efficiency."""
    from scipy.integrate import quad
    from scipy.optimize import brentq

    def cp(t):
        return sum(
            x * sum(c * t**k for k, c in enumerate(component(cas).heat_capacity.coefficients)) for x, (_, cas) in zip((0.79, 0.21), AIR, strict=True)
        )

    hot = brentq(lambda t2: quad(lambda t: cp(t) / t, 300.0, t2)[0] - 8.31446261815324 * math.log(6.0), 300.0, 900.0)
    ideal = quad(cp, 300.0, hot)[0]
    result = solve(air("compressor", pressure_ratio=q("6"), efficiency=q("0.8")))
    found = values(result, "K")
    assert found["isentropic_power"] == pytest.approx(10 * ideal, rel=1e-8)
    assert found["power"] == pytest.approx(10 * ideal / 0.8, rel=1e-8)
    assert quad(cp, 300.0, found["outlet_temperature"])[0] == pytest.approx(ideal / 0.8, rel=1e-8)
    assert abs(result.balance.energy_gap) < 1e-10


@pytest.mark.parametrize("model", ["ideal", "peng-robinson"])
@pytest.mark.parametrize(("kind", "spec"), [("compressor", {"outlet_pressure": q("7 bar")}), ("expander", {"outlet_pressure": q("0.3 bar")})])
def test_power_and_pressure_say_the_same(model, kind, spec):
    first = values(solve(air(kind, model, efficiency=q("70 %"), **spec)), "K")
    power = {"value": first["power"], "unit": "W"}
    again = values(solve(air(kind, model, efficiency=q("70 %"), power=power)), "K")
    assert again["outlet_pressure"] == pytest.approx(spec["outlet_pressure"]["value"] * 1e5, rel=1e-9)
    assert first["power"] > 0


def test_up_and_down_again_without_loss_gives_the_feed_back():
    compressed = air("compressor", "peng-robinson", pressure_ratio=q("5"), efficiency=q("1"))
    document = edit(compressed, "disconnect", tag="2")
    spec = {"outlet_pressure": q("1 bar"), "efficiency": q("1")}
    document = edit(document, "add_unit", unit={"tag": "X", "type": "expander", "spec": spec})
    for tag, source, target in (("3", "K", "X"), ("4", "X", "Z")):
        ends = {"source": {"unit": source, "port": "outlet"}, "target": {"unit": target, "port": "inlet"}}
        document = edit(document, "connect", stream={"tag": tag, **ends})
    result = solve(document)
    assert result.streams["4"].temperature == pytest.approx(300.0, rel=1e-9)
    assert values(result, "K")["power"] == pytest.approx(values(result, "X")["power"], rel=1e-9)


def test_a_pump_takes_volume_times_pressure():
    units = {"F": feed(temperature="280 K"), "P": ("pump", {"pressure_change": q("20 bar"), "efficiency": q("50 %")}), "Z": ("product", {})}
    result = solve(plant(C4, units, ["1: F.outlet -> P.inlet", "2: P.outlet -> Z.inlet"]))
    volume = PropertyModel("peng-robinson", [c for c, _ in C4], translated=True).flash([0.3, 0.4, 0.3], T=280.0, P=10e5).molar_volume
    assert values(result, "P")["power"] == pytest.approx(100e3 / 3600 * volume * 20e5 / 0.5, rel=1e-9)
    assert result.streams["2"].pressure == pytest.approx(30e5)
    assert result.complete
    boiling = PropertyModel("peng-robinson", [c for c, _ in C4], translated=True).flash([0.3, 0.4, 0.3], T=280.0, VF=0.0)
    mass = result.streams["1"].mass_flow / result.streams["1"].mole_flow
    assert values(result, "P")["npsh"] == pytest.approx((10e5 - boiling.pressure) * volume / mass / 9.80665, rel=1e-9)


@pytest.mark.parametrize(
    ("kind", "spec", "says"),
    [
        ("pump", {"outlet_pressure": q("2 bar")}, "vapour"),
        ("pump", {"outlet_pressure": q("0.5 bar")}, "a pump raises it"),
        ("compressor", {"outlet_pressure": q("0.5 bar")}, "a compressor raises it"),
        ("expander", {"outlet_pressure": q("2 bar")}, "an expander lowers it"),
        ("compressor", {"pressure_ratio": q("0")}, "not possible"),
        ("compressor", {"outlet_pressure": q("2 bar"), "efficiency": q("0")}, "efficiency of zero"),
        ("compressor", {"outlet_pressure": q("9 bar"), "temperature_limit": q("100 degC")}, "above the limit of 100.0"),
        ("compressor", {"power": q("-5 kW")}, "No outlet pressure"),
    ],
)
def test_what_a_machine_cannot_do_is_told(kind, spec, says):
    assert any(says in f.text for f in solve(air(kind, **spec)).findings)


def test_liquid_in_the_suction_is_told_with_its_amount():
    units = {"F": feed(temperature="330 K"), "K": ("compressor", {"outlet_pressure": q("20 bar")}), "Z": ("product", {})}
    result = solve(plant(C4, units, ["1: F.outlet -> K.inlet", "2: K.outlet -> Z.inlet"]))
    (finding,) = [f for f in result.findings if "liquid" in f.text and f.place == "K"]
    assert "knock-out drum" in finding.remedy
    assert any(a.field == "efficiency" and a.value == 75 for a in result.assumptions)


SETS = converts({"2-butanol": -1.0, "butanone": 1.0, "hydrogen": 1.0})


def butanol(units, streams, flows=None):
    flows = flows or {"2-butanol": q("100 kmol/h"), "water": q("2 kmol/h")}
    spec = {"temperature": q("400 degC"), "pressure": q("2 bar"), "composition": {"basis": "mole_flow", "values": flows}}
    return plant(BUTANONE, {"F": ("feed", spec), **units}, ["1: F.outlet -> R.inlet", *streams], reactions=SETS)


def reactor(*rows, **spec):
    return {"R": conversions(*rows, **spec), "Z": ("product", {})}


def test_a_reaction_makes_what_its_numbers_say_and_takes_its_heat():
    result = solve(butanol(reactor(("R1", "85 %"), outlet_temperature=q("400 degC")), ["2: R.outlet -> Z.inlet"]))
    flows = {c: 3.6 * n for c, n in result.streams["2"].mole_flows.items()}
    assert flows == pytest.approx({"2-butanol": 15.0, "butanone": 85.0, "hydrogen": 85.0, "water": 2.0}, rel=1e-9)
    found = values(result, "R")
    formation = component("78-93-3").formation_enthalpy + component("1333-74-0").formation_enthalpy - component("78-92-2").formation_enthalpy
    assert found["heat_of_reaction"] == pytest.approx(formation)
    assert 40e3 < formation < 70e3  # endothermic by some 54 kJ/mol
    assert found["duty"] == pytest.approx(85e3 / 3600 * formation, rel=0.15)  # at 400 degC the heat capacities add a little
    assert abs(result.balance.mass_gap) < 1e-4  # formation data and molar masses of the bank close the reaction to that


def test_an_adiabatic_reactor_cools_down_and_its_energy_closes():
    result = solve(butanol(reactor(("R1", "30 %"), duty=q("0 kW")), ["2: R.outlet -> Z.inlet"]))
    assert result.streams["2"].temperature < 620
    assert abs(result.balance.energy_gap) < 1e-9


PARTS = [(name, cas) for name, cas in (
    ("nitrogen", "7727-37-9"), ("hydrogen", "1333-74-0"), ("ammonia", "7664-41-7"), ("methane", "74-82-8"), ("water", "7732-18-5"),
    ("carbon monoxide", "630-08-0"), ("carbon dioxide", "124-38-9"))]  # fmt: skip
SYNTHESIS = {"name": "Synthesis", "numbers": {"nitrogen": -1, "hydrogen": -3, "ammonia": 2}}
REFORMING = {"name": "Reforming", "numbers": {"methane": -1, "water": -1, "carbon monoxide": 1, "hydrogen": 3}}
SHIFT = {"name": "Shift", "numbers": {"carbon monoxide": -1, "water": -1, "carbon dioxide": 1, "hydrogen": 1}}
ALL = [{"name": "Main", "reactions": [SYNTHESIS, REFORMING, SHIFT, {"name": "Half", "numbers": {"nitrogen": -1, "ammonia": 2}}]}]


def gases(flows, *rows, **spec):
    feed = {"temperature": q("400 degC"), "pressure": q("50 bar"), "composition": {"basis": "mole_flow", "values": {
        name: q(f"{flow} mol/s") for name, flow in flows.items()}}}  # fmt: skip
    units = {"F": ("feed", feed), "R": conversions(*rows, **{"outlet_temperature": q("600 degC"), **spec}), "Z": ("product", {})}
    return plant(PARTS, units, ["1: F.outlet -> R.inlet", "2: R.outlet -> Z.inlet"], reactions=ALL)


def leaving(document):
    result = solve(document)
    assert result.complete, [f.text for f in result.findings]
    return {name: flow for name, flow in result.streams["2"].mole_flows.items() if flow > 1e-14}


def test_the_base_component_may_be_chosen_and_the_others_say_how_far_they_go():
    """Ammonia from nitrogen with an excess of it: hydrogen runs out first."""
    document = gases({"nitrogen": 2.0, "hydrogen": 3.0}, ("Synthesis", "40 %", "nitrogen"))
    assert leaving(document) == pytest.approx({"nitrogen": 1.2, "hydrogen": 0.6, "ammonia": 1.6}, rel=1e-12)
    told = {v.name: v.value for v in solve(document).units["R"].values}
    assert (told["conversion_of[hydrogen]"], told["extent[Synthesis]"]) == pytest.approx((0.8, 0.8), rel=1e-12)
    first = solve(edit(document, "set_values", unit="R", values={"conversions[1].component": None}))
    told = {v.name: v.value for v in first.units["R"].values}
    assert (told["conversion_of[hydrogen]"], told["conversion_of[nitrogen]"]) == pytest.approx((0.4, 0.2), rel=1e-12)


def test_side_by_side_conversions_are_of_the_feed_and_one_after_the_other_of_what_is_left():
    """Reforming, then shift of what it made: by the feed alone there would be no carbon monoxide to convert."""
    rows = (("Reforming", "60 %", "methane"), ("Shift", "50 %", "carbon monoxide"))
    flows = {"methane": 1.0, "water": 3.0, "carbon monoxide": 0.2}
    beside = leaving(gases(flows, *rows))
    after = leaving(gases(flows, *rows, order="one after the other"))
    names = ("methane", "water", "carbon monoxide", "carbon dioxide", "hydrogen")
    assert [beside[name] for name in names] == pytest.approx([0.4, 2.3, 0.7, 0.1, 1.9], rel=1e-12)
    assert [after[name] for name in names] == pytest.approx([0.4, 2.0, 0.4, 0.4, 2.2], rel=1e-12)
    (order,) = [a for a in solve(gases(flows, *rows)).assumptions if a.field == "order"]
    assert order.value == "side by side"


@pytest.mark.parametrize(
    ("rows", "spec", "says"),
    [
        ([("Synthesis", "60 %", "nitrogen")], {}, "not enough hydrogen for Synthesis at these conversions: it suffices for 83.333 %"),
        ([("Reforming", "90 %", "methane"), ("Shift", "80 %", "carbon monoxide")], {}, "not enough water for Reforming and Shift"),
        ([("Synthesis", "60 %", "ammonia")], {}, "ammonia, the base component, is not used up by Synthesis"),
        ([("Half", "10 %")], {}, "Reaction Half does not balance"),
        ([("Methanation", "10 %")], {}, 'Main has no reaction "Methanation"'),
        ([("Synthesis", "0 %")], {}, "Nothing of Synthesis takes place: its conversion is 0"),
        ([("Synthesis", "10 %")], {"reactions": "Other"}, 'no reaction set "Other"'),
    ],
)
def test_reactions_that_cannot_be_are_told(rows, spec, says):
    flows = {"nitrogen": 1.0, "hydrogen": 1.5, "methane": 1.0, "water": 1.2, "carbon monoxide": 1.0}
    document = gases(flows, *rows)
    document = edit(document, "set_values", unit="R", values=spec) if spec else document
    assert any(says in f.text for f in solve(document).findings), [f.text for f in solve(document).findings]


def test_a_unit_without_what_it_needs_asks_for_it():
    bare = butanol({"R": ("conversion-reactor", {"duty": q("0 kW")}), "Z": ("product", {})}, ["2: R.outlet -> Z.inlet"])
    assert [ask.fields for ask in solve(bare).asks] == [("reactions",), ("conversions",)]
    half = edit(bare, "set_row", unit="R", field="conversions", cells={"reaction": "R1"})
    assert [ask.fields for ask in solve(half).asks] == [("reactions",), ("conversions[1].conversion",)]
    splitter = {"R": ("component-splitter", {"overhead_vapour_fraction": q("0"), "bottoms_vapour_fraction": q("0")}), "Z": ("product", {})}
    assert solve(butanol(splitter, ["2: R.overhead -> Z.inlet"])).asks[0].fields == ("shares",)


def test_a_reaction_of_another_name_is_followed_by_the_rows_that_name_it_and_back():
    document = gases({"nitrogen": 1.0, "hydrogen": 3.0}, ("Synthesis", "20 %"))
    renamed, back, _ = apply(
        document,
        edit_from_json({"kind": "set_reaction", "of": "Main", "name": "Synthesis", "reaction": {**SYNTHESIS, "name": "Ammonia"}}),
    )
    assert renamed.unit("R").spec.conversions.rows[0].cells["reaction"] == "Ammonia"
    assert solve(renamed).streams["2"] == solve(document).streams["2"]
    assert apply(renamed, back)[0] == document
    lost = edit(document, "set_values", unit="R", values={"conversions[1].reaction": "Ammonia"})
    with pytest.raises(EditError, match='names a reaction "Ammonia" of Main already'):
        edit(lost, "set_reaction", of="Main", name="Synthesis", reaction={**SYNTHESIS, "name": "Ammonia"})


def test_a_reactor_that_is_placed_elsewhere_brings_its_reactions():
    piece = take_piece(gases({"nitrogen": 1.0, "hydrogen": 3.0}, ("Shift", "20 %", "water")), ["R"])
    assert [of.name for of in piece.reactions] == ["Main"]
    other = plant([("steam", "7732-18-5")], {}, [], reactions=converts({"steam": -2.0, "hydrogen": 2.0}))
    placed = edit(other, "place_piece", piece=piece.model_dump(mode="json", exclude_none=True), x=0, y=0)
    unit = placed.units[0]
    assert unit.spec.reactions == "Main 2"  # another set has the name
    assert unit.spec.conversions.rows[0].cells["component"] == "steam"
    assert placed.chemistry.reactions[1].reactions[2].numbers["steam"] == -1.0
    again = edit(placed, "place_piece", piece=piece.model_dump(mode="json", exclude_none=True), x=0, y=0)
    assert [of.name for of in again.chemistry.reactions] == ["Main", "Main 2"]


def test_components_of_an_expression_come_along_by_the_names_that_they_have_there():
    law = {"expression": "k * p[hydrogen] / (1 + K * p[ water ])", "constants": [
        {"name": "k", "value": 1.0, "unit": "mol/(m3 s bar)"}, {"name": "K", "value": 1.0, "unit": "1/bar"}]}  # fmt: skip
    sets = [{"name": "Main", "reactions": [{**SYNTHESIS, "forward": law}]}]
    tube = ("plug-flow-reactor", {"reactions": "Main", "volume": q("1 m3")})
    whole = plant(PARTS, {"R": tube}, [], reactions=sets)
    piece = take_piece(whole, ["R"])
    assert [c.id for c in piece.components] == ["nitrogen", "hydrogen", "ammonia", "water"]
    placed = edit(plant([("steam", "7732-18-5")], {}, []), "place_piece", piece=piece.model_dump(mode="json", exclude_none=True), x=0, y=0)
    assert placed.chemistry.reactions[0].reactions[0].forward.expression == "k * p[hydrogen] / (1 + K * p[steam])"


def test_a_component_splitter_shares_out_and_reports_its_heat():
    shares = {"values": {"butanone": q("99 %"), "2-butanol": q("1 %")}}
    spec = {"shares": shares, "overhead_vapour_fraction": q("0"), "bottoms_vapour_fraction": q("0")}
    units = {"R": ("component-splitter", spec), "Z": ("product", {}), "Y": ("product", {})}
    flows = {"2-butanol": q("15 kmol/h"), "butanone": q("85 kmol/h")}
    result = solve(butanol(units, ["2: R.overhead -> Z.inlet", "3: R.bottoms -> Y.inlet"], flows))
    top = {c: 3.6 * n for c, n in result.streams["2"].mole_flows.items()}
    assert (top["butanone"], top["2-butanol"]) == pytest.approx((84.15, 0.15), rel=1e-12)
    assert result.streams["3"].vapour_fraction == 0.0
    gap = result.streams["2"].enthalpy_flow + result.streams["3"].enthalpy_flow - result.streams["1"].enthalpy_flow
    assert values(result, "R")["duty"] == pytest.approx(gap, rel=1e-9)
