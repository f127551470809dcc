"""Extraction columns on the sheet: what goes over, what does not rise, and what cannot be."""

import pytest
from columns import rows, solved
from plants import plant, q

from wattaxis import check, solve
from wattaxis.testing import check_unit
from wattaxis.unitops import unit_types

PARTS = [("water", "7732-18-5"), ("acetone", "67-64-1"), ("butyl acetate", "123-86-4")]


def fed(shares, flow, temperature="25 degC", pressure="3 bar"):
    values = {name: q(str(share)) for name, share in shares.items()}
    return {
        "temperature": q(temperature),
        "pressure": q(pressure),
        "flow": q(flow),
        "composition": {"basis": "mole_fraction", "values": values, "normalise": True},
    }


def extraction(spec, model="unifac", heavy=None, light=None, parts=PARTS, units=(), lines=()):
    heavy = heavy or fed({"water": 0.95, "acetone": 0.05}, "100 mol/s")
    light = light or fed({"butyl acetate": 1.0}, "20 mol/s")
    made = {"A": ("feed", heavy), "B": ("feed", light), "T": ("extraction-column", spec), "Z1": ("product", {}), "Z2": ("product", {}), **dict(units)}
    streams = ["1: A.outlet -> T.heavy_in", "2: B.outlet -> T.light_in", "3: T.light -> Z1.inlet", "4: T.heavy -> Z2.inlet", *lines]
    return plant(parts, made, streams, model)


def told(document):
    return " ".join(f.text for f in solve(document).findings)


def test_more_stages_take_more_over():
    left = []
    for stages in ("1", "3", "6"):
        result, values = solved(extraction({"stages": q(stages)}))
        left.append(result.streams["4"].mole_flows["acetone"])
        assert values["recovery[acetone]"] == pytest.approx(result.streams["3"].mole_flows["acetone"] / 5.0, rel=1e-9)
    assert left[0] > 5.0 * left[1] > 25.0 * left[2]
    profile = result.units["T"].profiles[0]
    ratio = profile.at("light_fraction", 3, "acetone") / profile.at("heavy_fraction", 3, "acetone")
    assert profile.at("distribution", 3, "acetone") == pytest.approx(ratio, rel=1e-9)
    assert {(p.port, p.place) for p in profile.ports} == {("heavy_in", 1.0), ("light_in", 6.0), ("light", 1.0), ("heavy", 6.0)}


def test_one_stage_is_a_decanter():
    result, _ = solved(extraction({"stages": q("1")}))
    made = {"A": ("feed", fed({"water": 0.95, "acetone": 0.05}, "100 mol/s")), "B": ("feed", fed({"butyl acetate": 1.0}, "20 mol/s"))}
    made |= {"M": ("mixer", {}), "D": ("decanter", {"duty": q("0 W")}), "Z1": ("product", {}), "Z2": ("product", {})}
    lines = ["1: A.outlet -> M.inlet", "2: B.outlet -> M.inlet", "5: M.outlet -> D.inlet", "3: D.light -> Z1.inlet", "4: D.heavy -> Z2.inlet"]
    other = solve(plant(PARTS, made, lines, "unifac"))
    for tag in "34":
        assert result.streams[tag].mole_flows == pytest.approx(other.streams[tag].mole_flows, abs=1e-6)
        assert result.streams[tag].temperature == pytest.approx(other.streams[tag].temperature, abs=1e-5)


def test_further_feeds_and_heat_on_stages():
    more = {"C": ("feed", fed({"water": 0.9, "acetone": 0.1}, "20 mol/s"))}
    spec = {"stages": q("6"), "feeds": rows({"stream": "5", "stage": q("3")}), "heats": rows({"stage": q("4"), "power": q("-20 kW")})}
    result, _ = solved(extraction(spec, units=more.items(), lines=["5: C.outlet -> T.inlet"]))
    plain, _ = solved(extraction({"stages": q("6")}))
    assert result.streams["3"].mole_flows["acetone"] > plain.streams["3"].mole_flows["acetone"] + 1.9
    assert result.units["T"].profiles[0].at("heat", 4) == -2e4
    assert "5 has no stage and was taken to come in half-way, on stage 3" in told(
        extraction({"stages": q("6")}, units=more.items(), lines=["5: C.outlet -> T.inlet"])
    )


def test_a_recycle_of_solvent_closes():
    """The extract is split, and half of it is fed again as solvent."""
    share = {"S": ("splitter", {"share_1": q("0.3")}), "M": ("mixer", {}), "B": ("feed", fed({"butyl acetate": 1.0}, "20 mol/s"))}
    made = {"A": ("feed", fed({"water": 0.95, "acetone": 0.05}, "100 mol/s")), **share, "T": ("extraction-column", {"stages": q("4")})}
    made |= {"Z1": ("product", {}), "Z2": ("product", {})}
    lines = ["1: A.outlet -> T.heavy_in", "2: B.outlet -> M.inlet", "3: M.outlet -> T.light_in", "4: T.light -> S.inlet", "5: S.outlet_1 -> M.inlet"]
    result = solve(plant(PARTS, made, [*lines, "6: S.outlet_2 -> Z1.inlet", "7: T.heavy -> Z2.inlet"], "unifac"))
    assert result.complete
    assert result.streams["6"].mole_flows["acetone"] + result.streams["7"].mole_flows["acetone"] == pytest.approx(5.0, rel=1e-7)


@pytest.mark.parametrize(("given", "says"), [
    ({"spec": {"stages": q("2.5")}}, "2.5 stages cannot be calculated"),
    ({"spec": {"stages": q("4"), "heats": rows({"stage": q("9"), "power": q("1 kW")})}}, "Row 1 is on stage 9"),
    ({"spec": {"stages": q("4")}, "light": fed({"water": 1.0}, "20 mol/s")}, "No two liquids were found on the stages"),
    ({"spec": {"stages": q("4")}, "model": "ideal"}, "No two liquids were found on the stages"),
    ({"spec": {"stages": q("4")}, "light": fed({"butyl acetate": 1.0}, "0 mol/s")}, "2, fed at the foot, has no flow"),
    ({"spec": {"stages": q("4"), "pressure": q("0.02 bar")}}, "the liquids boil at"),
])  # fmt: skip
def test_what_cannot_be_is_told_in_words(given, says):
    assert says in told(extraction(**given))


def test_a_solvent_that_sinks_is_told():
    parts = [("water", "7732-18-5"), ("acetone", "67-64-1"), ("chloroform", "67-66-3")]
    heavy = fed({"water": 0.95, "acetone": 0.05}, "100 mol/s")
    text = told(extraction({"stages": q("3")}, heavy=heavy, light=fed({"chloroform": 1.0}, "20 mol/s"), parts=parts))
    assert "they do not go these ways" in text


def test_stages_are_asked_for():
    assert "stages" in " ".join(a.text for a in check(extraction({})).asks)


def test_extraction_columns_hold_the_contract():
    heavy = {"temperature": "300 K", "pressure": "3 bar", "composition": {"basis": "mole_fraction", "values": {"water": q("1")}}}
    light = {"temperature": "310 K", "pressure": "3 bar", "composition": {"basis": "mole_fraction", "values": {"benzene": q("1")}}}
    parts = (("water", "7732-18-5"), ("benzene", "71-43-2"))
    check_unit(unit_types()["extraction-column"], {"stages": "3"}, components=parts, feeds={"heavy_in": heavy, "light_in": light}, model="unifac")
