"""Which streams rest on pairs that nobody measured, and how far assumed values matter."""

import pytest
from plants import demo, example, plant, q

from wattaxis import assumption_influence, edit, solve
from wattaxis.exchange import stream_rows
from wattaxis.progress import Stopped, listening

POLAR = [("ethanol", "64-17-5"), ("water", "7732-18-5"), ("n-hexane", "110-54-3")]


def fed(flow, **parts):
    values = {name: q(f"{x} ") for name, x in parts.items()}
    return "feed", {"temperature": q("300 K"), "pressure": q("1 bar"), "flow": q(flow), "composition": {"basis": "mole_fraction", "values": values}}


def mixed(model="nrtl"):
    """A known pair alone, an unknown one alone, and what becomes of both."""
    hexane = {"n-hexane": 0.5, "ethanol": 0.5}
    units = {
        "F": fed("1 mol/s", ethanol=0.5, water=0.5),
        "G": fed("1 mol/s", **hexane),
        "W": fed("1 mol/s", water=1.0),
        "P": ("pump", {"outlet_pressure": q("2 bar")}),
        "E": ("heater", {"outlet_temperature": q("500 K")}),
        "M": ("mixer", {}),
        "Z": ("product", {}),
        "Y": ("product", {}),
    }
    lines = [
        "1: F.outlet -> M.inlet",
        "2: G.outlet -> E.inlet",
        "3: E.outlet -> M.inlet",
        "4: M.outlet -> Z.inlet",
        "5: W.outlet -> P.inlet",
        "6: P.outlet -> Y.inlet",
    ]
    return plant(POLAR, units, lines, model)


def test_an_estimate_travels_downstream_and_only_there():
    document = edit(mixed(), "set_pair", first="ethanol", second="n-hexane", values={"b12": 300.0, "b21": 500.0, "alpha": 0.3}, quality="estimated")
    streams = solve(document).streams
    hexane = "ethanol / n-hexane, estimated"
    assert streams["1"].doubts == ()  # the bank knows the pair
    assert streams["2"].doubts == (hexane,)
    assert (streams["3"].phase, streams["3"].doubts, streams["3"].doubts_upstream) == ("vapour", (), (hexane,))
    assert hexane in streams["4"].doubts + streams["4"].doubts_upstream
    assert (streams["5"].doubts, streams["6"].doubts, streams["6"].doubts_upstream) == ((), (), ())
    known = solve(edit(document, "set_pair", first="ethanol", second="n-hexane", values={"b12": 300.0, "b21": 500.0, "alpha": 0.3})).streams
    assert known["2"].doubts == ()


def test_in_an_equation_of_state_vapours_rest_on_pairs_too():
    streams = solve(mixed("peng-robinson")).streams
    assert streams["3"].phase == "vapour"
    assert any("ethanol / n-hexane" in name for name in streams["3"].doubts)


def test_around_a_recycle_everything_rests_on_everything():
    streams = solve(example("butanone_plant")).streams
    names = {s.tag: set(s.doubts) | set(s.doubts_upstream) for s in streams.values()}
    assert names["S-301"] == {"2-butanol / water, estimated"}
    inside = [names[tag] for tag in ("S-307", "S-309", "S-314", "S-319")]
    assert all(part == inside[0] for part in inside)
    assert len(inside[0]) == 13


def test_the_stream_table_says_it_in_words():
    document = example("butanone_plant")
    rows = {row[0]: row for row in stream_rows(document, solve(document))}
    assert rows["Pairs not measured"][2] == "2-butanol / water, estimated"
    assert "Pairs not measured, upstream" in rows
    assert all("Pairs" not in row[0] for row in stream_rows(mixed("ideal"), solve(mixed("ideal"))))


def test_an_assumed_value_moved_is_the_same_as_one_given():
    document = mixed()
    document = edit(document, "set_pin", name="Power", formula="P.power")
    found = assumption_influence(document)
    first = next(i for i in found if (i.place, i.field) == ("P", "efficiency"))
    assert (first.moved.value, first.moved.unit) == (70.0, "%")
    watched = first.results[0]
    assert (watched.name, watched.after) == ("Power", pytest.approx(watched.before * 75 / 70, rel=1e-9))
    shares = [max((w.share for w in i.results), default=0.0) for i in found]
    assert shares == sorted(shares, reverse=True)
    assert {(i.place, i.field) for i in found} == {(a.place, a.field) for a in solve(document).assumptions if a.place != "Chemistry"}


def test_what_an_assumption_breaks_comes_first_and_the_work_can_be_stopped():
    """A loss of 0.1 bar in the heater leaves the valve less than it is to let out."""
    kind, spec = fed("1 mol/s", water=1.0)
    units = {
        "F": (kind, {**spec, "pressure": q("1.05 bar")}),
        "P": ("pump", {"pressure_change": q("0 bar")}),
        "E": ("heater", {"outlet_temperature": q("310 K")}),
        "V": ("valve", {"outlet_pressure": q("1 bar")}),
        "Z": ("product", {}),
    }
    document = plant(POLAR, units, ["1: F.outlet -> P.inlet", "2: P.outlet -> E.inlet", "3: E.outlet -> V.inlet", "4: V.outlet -> Z.inlet"], "nrtl")
    found = assumption_influence(document)
    assert (found[0].place, found[0].field, found[0].moved.value) == ("E", "pressure_change", -0.1)
    assert "can no longer be solved" in found[0].problem
    assert not any(i.problem for i in found[1:])
    with pytest.raises(Stopped), listening(lambda share: share < 0.3):
        assumption_influence(document)
    with pytest.raises(ValueError, match="not complete"):
        assumption_influence(edit(demo(), "remove_unit", tag="F-101"))


def test_liquids_that_part_by_a_pair_for_vapour_and_liquid_say_so():
    feed = {"temperature": q("30 degC"), "pressure": q("2 bar"), "composition": {"basis": "mole_flow", "values": {
        "butanone": q("1 mol/s"), "water": q("3 mol/s")}}}  # fmt: skip
    parts = [("butanone", "78-93-3"), ("water", "7732-18-5")]
    document = plant(parts, {"F": ("feed", feed), "Z": ("product", {})}, ["S1: F.outlet -> Z.inlet"], "nrtl")
    said = [f.text for f in solve(document).findings if "two liquids form here by the pair" in f.text]
    assert said
    assert "S1" in said[0]
    typed = edit(document, "set_pair", first="butanone", second="water", values={"b12": 339.4, "b21": 910.8, "alpha": 0.35})
    assert not [f for f in solve(typed).findings if "two liquids form here" in f.text]
    groups = plant(parts, {"F": ("feed", feed), "Z": ("product", {})}, ["S1: F.outlet -> Z.inlet"], "unifac-liquid-liquid")
    assert not [f for f in solve(groups).findings if "two liquids form here" in f.text]
