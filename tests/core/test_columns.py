"""Columns on the sheet: what is asked for, how many specifications count, products that follow, heat by streams, and what cannot be, explained."""

import numpy as np
import pytest
from columns import rows, solved
from plants import plant, q

from wattaxis import Memory, check, edit, solve
from wattaxis.columns import ColumnError, ColumnFeed, SideDraw, StagedColumn, Want
from wattaxis.properties import PropertyModel
from wattaxis.testing import check_unit
from wattaxis.unitops import unit_types

PAIR = [("benzene", "71-43-2"), ("toluene", "108-88-3")]
TRIO = [*PAIR, ("p-xylene", "106-42-3")]
BUILT = {"stages": q("20"), "condenser": "total", "reboiler": "kettle", "top_pressure": q("1 bar")}


def purity(product, component, value, counts="mole fraction"):
    return {"product": product, "component": component, "counts": counts, "value": q(value)}


def column(spec, parts=PAIR, outlets=("distillate", "bottoms"), model="ideal", feed="360 K", lines=(), **units):
    share = {name: q(str(1.0 / len(parts))) for name, _ in parts}
    given = {"temperature": q(feed), "pressure": q("1.2 bar"), "flow": q("100 mol/s"), "composition": {"basis": "mole_fraction", "values": share}}
    made = {"F": ("feed", given), "T": ("staged-column", {**BUILT, "feeds": rows({"stream": "1", "stage": q("10")}), **spec})}
    made |= {f"Z{k}": ("product", {}) for k, _ in enumerate(outlets)}
    streams = ["1: F.outlet -> T.inlet", *(f"{k + 2}: T.{port} -> Z{k}.inlet" for k, port in enumerate(outlets)), *lines]
    return plant(parts, {**made, **units}, streams, model)


BOTH = {"purities": rows(purity("distillate", "benzene", "98 %"), purity("bottoms", "toluene", "97 %"))}


def test_both_purities_are_met_and_typed_over_what_follows_from_them():
    result, values = solved(column(BOTH))
    assert result.streams["2"].mole_fractions["benzene"] == pytest.approx(0.98, abs=1e-9)
    assert result.streams["3"].mole_fractions["toluene"] == pytest.approx(0.97, abs=1e-9)
    one = {"reflux_ratio": q(f"{values['reflux_ratio']!r}"), "distillate_flow": q(f"{values['distillate_flow']!r} mol/s")}
    again, _ = solved(column(one))
    assert again.streams["2"].mole_fractions["benzene"] == pytest.approx(0.98, abs=1e-7)
    warm, _ = solved(column({**one, "efficiency": q("70 %")}))
    assert warm.streams["2"].mole_fractions["benzene"] < 0.97


def test_profiles_are_read_by_stage():
    document = column(BOTH).model_copy(update={"pins": ()})
    document = edit(document, "set_pin", name="Half-way", formula="T.temperature[stage 10]")
    result, _ = solved(document)
    profile = result.units["T"].profiles[0]
    assert [pin.value for pin in result.pins] == [pytest.approx(profile.at("temperature", 10))]
    assert profile.at("liquid_fraction", 1, "benzene") == pytest.approx(0.98, abs=1e-9)
    assert profile.at("equilibrium_ratio", 5, "benzene") > 1.0 > profile.at("equilibrium_ratio", 5, "toluene")
    assert {(p.port, p.place) for p in profile.ports} == {("inlet", 10.0), ("distillate", 1.0), ("bottoms", 20.0)}


@pytest.mark.parametrize(
    ("spec", "asks"),
    [
        ({}, "T needs 2 values for its specifications"),
        ({"reflux_ratio": q("2")}, "T needs one value more for its specifications"),
        ({"purities": rows(purity("distillate", "benzene", "98 %"))}, "T needs one value for its specifications"),
        ({"condenser": "vapour and liquid product", **BOTH}, "T needs one value for its specifications"),
        ({"condenser": "none", "reboiler": "kettle"}, "T needs one value for its specifications"),
        ({"purities": rows({"product": "distillate", "component": "benzene"}, {})}, "T needs the value in row 1"),
        ({"condenser": None}, "condenser"),
    ],
)
def test_what_is_missing_is_asked_for(spec, asks):
    found = check(column(spec, outlets=("bottoms",)))
    assert asks in " ".join(a.text for a in found.asks)


@pytest.mark.parametrize(
    ("spec", "says"),
    [
        ({**BOTH, "reflux_ratio": q("2")}, "T has 3 specifications, and this column takes 2"),
        ({"reflux_ratio": q("2"), "boil_up_ratio": q("2"), "distillate_flow": q("50 mol/s")}, "too many values for its specifications"),
        ({"stages": q("20.5"), **BOTH}, "20.5 stages cannot be calculated"),
        ({"stages": q("500"), **BOTH}, "500 stages cannot be calculated"),
        ({"feeds": rows({"stream": "1", "stage": q("30")}), **BOTH}, "1 comes in on stage 30, and the column has stages 1 to 20"),
        ({"feeds": rows({"stream": "9", "stage": q("3")}), **BOTH}, 'No stream "9" is fed to the column; there is 1'),
        ({"pressure_drop": q("-0.1 bar"), **BOTH}, "higher at the top than at the bottom"),
        ({"efficiency": q("0 %"), **BOTH}, "A stage efficiency lies above 0"),
        ({"distillate_flow": q("50 mol/s"), "bottoms_flow": q("50 mol/s")}, "the last one follows from the others"),
        ({"distillate_flow": q("120 mol/s"), "reflux_ratio": q("2")}, "are specified, and 100 mol/s are fed"),
        ({"reflux_ratio": q("0"), "distillate_flow": q("50 mol/s")}, "a phase would be gone"),
        ({"distillate_flow": q("60 mol/s"), "purities": rows(purity("distillate", "benzene", "95 %"))}, "it comes to 0.833333 at most"),
        ({"purities": rows(purity("distillate", "benzene", "98 %"), purity("distillate", "benzene", "97 %"))}, "is specified twice"),
    ],
)  # fmt: skip
def test_what_cannot_be_is_told_in_words(spec, says):
    result = solve(column(spec))
    assert not result.complete
    assert says in " ".join(f.text for f in result.findings)


def test_the_most_that_stages_and_reflux_give_is_told():
    """With six stages 99 % at either end is out of reach; the last state that was found is a state of that column."""
    result = solve(column({**BUILT, "stages": q("6"), "feeds": rows({"stream": "1", "stage": q("3")}),
                           "reflux_ratio": q("3"), "purities": rows(purity("distillate", "benzene", "99.9 %"))}))  # fmt: skip
    (fault,) = [f for f in result.findings if f.severity == "fault"]
    assert "was not reached with a reflux ratio of 3: the last state that was found has" in fault.text
    assert 0.5 < float(fault.text.rsplit("has ", 1)[1].split(".  ")[0].split(" ")[0].rstrip(".")) < 0.999


def test_an_azeotrope_in_the_way_is_named():
    model = PropertyModel("nrtl", ["ethanol", "water"])
    feed = model.flash([0.1, 0.9], P=101325.0, VF=0.0)
    built = StagedColumn(model, [ColumnFeed(20, np.array([10.0, 90.0]), 100.0 * feed.enthalpy)], stages=30, pressure=101325.0)
    with pytest.raises(ColumnError, match="There is an azeotrope of ethanol and water at 351") as caught:
        built.solve([Want("fraction", 0.95, "distillate", ("ethanol",)), Want("reflux ratio", 3.0)])
    assert caught.value.nearest < 0.88


def test_less_vapour_than_is_fed_is_told():
    result = solve(column({"reflux_ratio": q("0.3"), "distillate_flow": q("50 mol/s")}, feed="390 K"))
    assert "lets 65 mol/s of vapour reach the condenser, and 100 mol/s are fed as vapour" in " ".join(f.text for f in result.findings)


@pytest.mark.parametrize(
    ("spec", "outlets"),
    [
        ({"condenser": "vapour product", "reflux_ratio": q("2"), "vapour_flow": q("50 mol/s")}, ("vapour", "bottoms")),
        ({"condenser": "vapour and liquid product", "reflux_ratio": q("2"), "vapour_flow": q("20 mol/s"), "distillate_flow": q("30 mol/s")},
         ("vapour", "distillate", "bottoms")),
        ({"condenser": "none", "feeds": rows({"stream": "1", "stage": q("1")}), "boil_up_ratio": q("1.5")}, ("vapour", "bottoms")),
        ({"reboiler": "none", "feeds": rows({"stream": "1", "stage": q("20")}), "reflux_ratio": q("1")}, ("distillate", "bottoms")),
    ],
)  # fmt: skip
def test_products_follow_from_condenser_and_reboiler(spec, outlets):
    hot = "400 K" if spec.get("reboiler") == "none" else "360 K"
    result, _ = solved(column({**BUILT, **spec}, outlets=outlets, feed=hot))
    top = result.streams["2"]
    assert top.vapour_fraction == pytest.approx(0.0 if outlets[0] == "distillate" else 1.0, abs=1e-6)
    assert top.mole_fractions["benzene"] > 0.6


def test_a_side_draw_has_a_port_of_its_own():
    spec = {"stages": q("40"), "feeds": rows({"stream": "1", "stage": q("20")}), "reflux_ratio": q("6"), "distillate_flow": q("32 mol/s")}
    draws = rows({"stage": q("12"), "phase": "liquid", "flow": q("34 mol/s")})
    result, _ = solved(column({**spec, "draws": draws}, TRIO, ("distillate", "bottoms", "draw_1")))
    assert result.streams["4"].mole_flow == pytest.approx(34.0)
    assert result.streams["4"].mole_fractions["toluene"] > 0.85


def test_heat_streams_carry_both_duties():
    spec = {"reflux_ratio": q("2"), "distillate_flow": q("50 mol/s")}
    plain, values = solved(column(spec))
    lines = ["Q1: T.condenser_heat -> K.heat_in", "Q2: H.heat_out -> T.reboiler_heat"]
    units = {"K": ("heat-sink", {}), "H": ("heat-supply", {})}
    drawn, same = solved(column(spec, lines=lines, **units))
    assert same == pytest.approx(values, rel=1e-9)
    assert drawn.energies["Q1"].power == pytest.approx(-values["condenser_duty"])
    assert drawn.energies["Q2"].power == pytest.approx(values["reboiler_duty"])
    units["H"] = ("heat-supply", {"power": q(f"{values['reboiler_duty']!r} W")})
    given, by_heat = solved(column({"distillate_flow": q("50 mol/s")}, lines=lines, **units))
    assert by_heat["reflux_ratio"] == pytest.approx(2.0, rel=1e-7)
    assert plain.streams["2"].temperature == pytest.approx(given.streams["2"].temperature, rel=1e-9)


def test_what_is_remembered_changes_nothing():
    memory = Memory()
    for ratio in ("1.5", "2", "2.5"):
        document = column({"reflux_ratio": q(ratio), "distillate_flow": q("50 mol/s")})
        near, alone = solve(document, memory=memory), solve(document)
        assert near.streams["2"].mole_flows == pytest.approx(alone.streams["2"].mole_flows, rel=1e-9)


def test_absent_components_are_left_out_and_come_back_as_nothing():
    document = column({"reflux_ratio": q("2"), "distillate_flow": q("50 mol/s")}, [*PAIR, ("water", "7732-18-5")])
    share = {"benzene": q("0.5"), "toluene": q("0.5")}
    document = edit(document, "set_values", unit="F", values={"composition": {"basis": "mole_fraction", "values": share}})
    result, _ = solved(document)
    assert result.streams["3"].mole_flows["water"] == 0.0


def test_a_liquid_that_parts_on_stages_is_told():
    parts = [("1-butanol", "71-36-3"), ("water", "7732-18-5")]
    given = {"stages": q("8"), "feeds": rows({"stream": "1", "stage": q("4")}), "reflux_ratio": q("3"), "distillate_flow": q("50 mol/s")}
    result, _ = solved(column(given, parts, model="nrtl", feed="345 K"))
    assert any("There are two liquids on stages 1 to 6" in f.text for f in result.findings)
    shares = result.units["T"].profiles[0].column("light_share").values
    assert min(shares) < 0.9


@pytest.mark.parametrize(
    "spec",
    [
        {"condenser": "total", "reflux_ratio": "2", "subcooling": "10 K"},
        {"condenser": "vapour and liquid product", "reflux_ratio": "2", "vapour_flow": "10 mol/s"},
        {"condenser": "vapour product", "reflux_ratio": "2", "draws": rows({"stage": q("9"), "phase": "liquid", "flow": q("5 mol/s")})},
    ],
)
def test_columns_hold_the_contract(spec):
    given = {"stages": "12", "reboiler": "kettle", "top_pressure": "3 bar", "boil_up_ratio": "3", **spec}
    feeds = {"inlet": {"temperature": "300 K", "pressure": "4 bar"}}
    check_unit(unit_types()["staged-column"], given, components=(("n-butane", "106-97-8"), ("n-pentane", "109-66-0")), feeds=feeds)


KEYS = {"purities": rows(purity("distillate", "benzene", "97 %", "recovery"), purity("bottoms", "toluene", "96 %", "recovery"))}


def test_a_short_cut_becomes_the_column_stage_by_stage_in_one_edit():
    document = column({**KEYS, "calculation": "short-cut", "stages": None, "reflux_ratio": q("2"), "feeds": None})
    result, values = solved(document)
    assert result.streams["2"].mole_flows["benzene"] == pytest.approx(48.5, rel=1e-9)
    assert values["minimum_reflux"] < 2.0 < values["stages_needed"]
    curve = result.units["T"].profiles[0]
    assert curve.at("stages_needed", 2.0) == pytest.approx(values["stages_needed"], rel=1e-2)
    (note,) = [f for f in result.findings if f.repair]
    whole = edit(document, "batch", edits=list(note.repair), label="stage by stage")
    exact, found = solved(whole)
    assert found["recovery[benzene]"] == pytest.approx(0.97, rel=1e-9)
    assert found["reflux_ratio"] == pytest.approx(2.0, rel=0.25)
    assert exact.streams["3"].mole_flows["toluene"] == pytest.approx(48.0, rel=1e-9)
    other, by_stages = solved(column({**KEYS, "calculation": "short-cut", "stages": q(f"{values['stages_needed']!r}"), "feeds": None}))
    assert by_stages["reflux_ratio"] == pytest.approx(2.0, rel=1e-6)
    assert other.streams["2"].mole_flows == pytest.approx(result.streams["2"].mole_flows, rel=1e-9)


@pytest.mark.parametrize(
    ("spec", "says"),
    [
        ({"reflux_ratio": q("0.5"), "stages": None}, "is no more than the least one"),
        ({"stages": q("4")}, "are no more than the"),
        ({"purities": rows(purity("bottoms", "benzene", "97 %", "recovery"), purity("distillate", "toluene", "96 %", "recovery"))},
         "The light key is not more volatile"),
        ({"purities": rows(purity("distillate", "benzene", "97 %"), purity("bottoms", "toluene", "96 %"))}, "needs two recoveries"),
        ({"condenser": "vapour and liquid product"}, "a condenser with one product"),
    ],
)  # fmt: skip
def test_what_a_short_cut_cannot_be_is_told(spec, says):
    result = solve(column({**KEYS, "calculation": "short-cut", "feeds": None, **spec}))
    assert says in " ".join(f.text for f in result.findings)


def test_a_feed_too_far_down_is_told():
    given = {"reflux_ratio": q("2"), "distillate_flow": q("40 mol/s")}
    texts = {
        at: [f.text for f in solve(column({**given, "feeds": rows({"stream": "1", "stage": q(at)})}, TRIO)).findings] for at in ("6", "10", "17")
    }
    assert not any("part nothing" in t for t in texts["6"])
    assert any("Above the feed the share of benzene in benzene and toluene goes back, from stage 10 to 8" in t for t in texts["10"])
    assert any("a feed higher up would do better" in t for t in texts["17"])


@pytest.mark.parametrize("parts", [PAIR, TRIO])
def test_stages_are_steps_between_equilibrium_and_operation(parts):
    """At every stage the stairs reach the equilibrium curve; of two components that is the boiling diagram, of three the stages' own."""
    result, _ = solved(column({"reflux_ratio": q("2"), "distillate_flow": q("40 mol/s"), "feeds": rows({"stream": "1", "stage": q("6")})}, parts))
    stages, stepping = result.units["T"].profiles
    along, stair, curve = (np.array(c.values, dtype=float) for c in (stepping.along, stepping.column("steps"), stepping.column("equilibrium")))
    light = [np.array(stages.column("liquid_fraction", name).values) for name in ("benzene", "toluene")]
    for x in (light[0] / (light[0] + light[1]))[1:]:
        here = np.flatnonzero(np.abs(along - x) < 1e-12)
        assert np.nanmax(stair[here]) == pytest.approx(curve[here[0]], abs=2e-3)
    inside = ~np.isnan(stair)
    assert (stair[inside] >= along[inside] - 1e-9).all()
    assert (stair[inside] <= curve[inside] + 2e-3).all()


def test_a_column_in_a_recycle_closes_and_its_specifications_are_freed_by_aims():
    share = {"benzene": q("0.5"), "toluene": q("0.5")}
    feed = {"temperature": q("360 K"), "pressure": q("1.2 bar"), "flow": q("100 mol/s"), "composition": {"basis": "mole_fraction", "values": share}}
    spec = {**BUILT, "feeds": rows({"stream": "2", "stage": q("10")}), **BOTH}
    ends = {"Z1": ("product", {}), "Z2": ("product", {})}
    units = {"F": ("feed", feed), "M": ("mixer", {}), "T": ("staged-column", spec), "N": ("splitter", {"share_1": q("0.3")}), **ends}
    lines = ["1: F.outlet -> M.inlet", "2: M.outlet -> T.inlet", "3: T.distillate -> Z1.inlet", "4: T.bottoms -> N.inlet", "5: N.outlet_1 -> M.inlet"]
    document = plant(PAIR, units, [*lines, "6: N.outlet_2 -> Z2.inlet"], "ideal")
    result, values = solved(document)
    out = result.streams["3"].mole_flows["benzene"] + result.streams["6"].mole_flows["benzene"]
    assert out == pytest.approx(50.0, rel=1e-7)
    wanted = 0.9 * values["reboiler_duty"]
    aim = {"name": "Heat", "formula": "T.reboiler_duty", "target": q(f"{wanted!r} W"), "free": {"unit": "T", "field": "purities[1].value"}}
    aimed = solve(edit(document, "set_aim", name="Heat", aim=aim))
    assert [a.state for a in aimed.aims] == ["met"]
    assert aimed.streams["3"].mole_fractions["benzene"] < 0.98


def test_a_feed_may_be_parted_and_stages_heated():
    """A two-phase feed whose vapour enters above is another column than all of it on one stage; a side cooler takes what it is told."""
    spec = {"reflux_ratio": q("2"), "distillate_flow": q("50 mol/s")}
    cooled = rows({"stage": q("15"), "power": q("-300 kW")})
    warm = column({**spec, "heats": cooled}, feed="374 K")
    whole, _ = solved(warm)
    assert 0.05 < whole.streams["1"].vapour_fraction < 0.95
    assert whole.units["T"].profiles[0].at("heat", 15) == pytest.approx(-3e5)
    assert whole.balance.energy_in > 0.0
    table = rows({"stream": "1", "stage": q("10"), "enters": "vapour above"})
    parted, _ = solved(edit(warm, "set_values", unit="T", values={"feeds": table}))
    assert parted.streams["2"].mole_fractions["benzene"] != pytest.approx(whole.streams["2"].mole_fractions["benzene"], rel=1e-6)
    flows = [r.units["T"].profiles[0].at("vapour_flow", 10) for r in (whole, parted)]
    assert flows[0] - flows[1] == pytest.approx(100.0 * whole.streams["1"].vapour_fraction, abs=6.0)
    refused = solve(column({**spec, "heats": rows({"stage": q("20"), "power": q("1 kW")})}))
    assert "The heat of stage 20 is that of the reboiler" in " ".join(f.text for f in refused.findings)


@pytest.mark.parametrize(
    ("pressure", "wants", "says"),
    [
        (1e5, [Want("reflux ratio", 1.0), Want("flow", 30.0, "distillate"), Want("flow", 60.0, "side")], "60 mol/s of liquid are to be drawn"),
        (1e5, [Want("reflux ratio", 1.0), Want("flow", 30.0, "distillate"), Want("flow", 90.0, "side")], "and 100 mol/s are fed"),
        (80e5, [Want("reflux ratio", 1.0), Want("flow", 30.0, "distillate"), Want("flow", 10.0, "side")], "no state of liquid beside vapour"),
        (1e5, [Want("reflux ratio", 1.0), Want("flow", 30.0, "distillate")], "takes 3 specifications, 1 of them for side draws, pump-arounds"),
        (1e5, [Want("reflux ratio", 1.0), Want("temperature", 350.0, stage=30), Want("flow", 10.0, "side")], "the column has stages 1 to 20"),
        (1e5, [Want("reflux ratio", 1.0), Want("recovery", 0.9, "top", ("benzene",)), Want("flow", 10.0, "side")], 'has no product "top"'),
        (1e5, [Want("reflux ratio", 1.0), Want("recovery", 0.9, "side", ("ethanol",)), Want("flow", 10.0, "side")], "ethanol"),
    ],
)  # fmt: skip
def test_columns_without_a_document_refuse_in_words_too(pressure, wants, says):
    model = PropertyModel("peng-robinson", ["benzene", "toluene", "p-xylene"])
    flows = np.array([30.0, 40.0, 30.0])
    heat = flows.sum() * model.flash(flows, T=360.0, P=2e5).enthalpy
    built = StagedColumn(model, [ColumnFeed(10, flows, heat)], stages=20, pressure=pressure, draws=[SideDraw("side", 5)])
    with pytest.raises(ColumnError, match=says):
        built.solve(wants)


def test_a_draw_beside_the_column_is_refused():
    model = PropertyModel("ideal", ["benzene", "toluene"])
    for draw in (SideDraw("side", 25), SideDraw("side", 20), SideDraw("side", 1, "vapour")):
        with pytest.raises(ColumnError, match="stage"):
            StagedColumn(model, [ColumnFeed(10, np.array([50.0, 50.0]), 0.0)], stages=20, pressure=1e5, draws=[draw])


def test_the_estimate_of_a_column_is_all_that_is_fed():
    """What a loop goes on with where a column has no state yet closes its balance."""
    model = PropertyModel("peng-robinson", ["propane", "n-butane", "n-pentane"])
    flows = np.array([30.0, 40.0, 30.0])
    feed = ColumnFeed(10, flows, flows.sum() * model.flash(flows, P=8e5, VF=0.3).enthalpy)
    built = StagedColumn(model, [feed], stages=20, pressure=8e5, draws=[SideDraw("side", 5)])
    wants = [Want("reflux ratio", 3.0), Want("flow", 30.0, "distillate"), Want("flow", 20.0, "side")]
    found = built.estimate(wants)
    assert sum(found.values()) == pytest.approx(flows, rel=1e-12)
    assert min(part.min() for part in found.values()) >= 0.0
    assert found["distillate"].sum() == pytest.approx(30.0, rel=0.2)
    assert built.solve(wants).products["side"].flows.sum() == pytest.approx(20.0)
