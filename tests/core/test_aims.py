"""Aims: targets met by freed givens, alone and together, in loops and out of them; and what is said when they cannot be met."""

import random
from importlib.resources import files

import pytest
from mazes import maze
from plants import C4, demo, feed, plant, points, q

from wattaxis import EditError, Memory, edit, load, solve
from wattaxis.flowsheet.document import load_data, to_data
from wattaxis.questions import propose_free
from wattaxis.unitops import unit_types


def aimed(document, name, formula, target, unit, field, **more):
    aim = {"name": name, "formula": formula, "target": q(target), "free": {"unit": unit, "field": field}, **more}
    return edit(document, "set_aim", name=name, aim=aim)


def looped(share="50 %"):
    """Feed, mixer, splitter; a share goes back: R = F s / (1 - s)."""
    units = {"F": feed(), "M": ("mixer", {}), "S": ("splitter", {"share_1": q(share)}), "Z": ("product", {})}
    return plant(C4, units, ["S1: F.outlet -> M.inlet", "S2: M.outlet -> S.inlet", "S3: S.outlet_1 -> M.inlet", "S4: S.outlet_2 -> Z.inlet"])


def heated():
    units = {
        "F": feed(),
        "E": ("heater", {"duty": q("300 kW"), "pressure_change": q("-0.5 bar")}),
        "V": ("drum", {"duty": q("0 kW")}),
        "A": ("product", {}),
        "B": ("product", {}),
    }
    return plant(C4, units, ["S1: F.outlet -> E.inlet", "S2: E.outlet -> V.inlet", "S3: V.vapour -> A.inlet", "S4: V.liquid -> B.inlet"])


def test_a_recycle_is_set_by_the_share_of_its_splitter():
    result = solve(aimed(looped(), "R", "S3.mole_flow / S1.mole_flow", "3.5 ", "S", "share_1"))
    (aim,) = result.aims
    assert (aim.state, result.complete) == ("met", True)
    assert aim.freed == pytest.approx(3.5 / 4.5, rel=1e-7)
    assert aim.slope == pytest.approx(1.0 / (1.0 - 3.5 / 4.5) ** 2, rel=0.01)
    assert result.streams["S3"].mole_flow == pytest.approx(3.5 * result.streams["S1"].mole_flow, rel=1e-7)
    assert not [f for f in result.findings if f.severity == "fault"]


def test_a_duty_found_for_a_temperature_is_the_duty_that_this_temperature_needs():
    found = solve(aimed(heated(), "T", "S2.temperature", "95 degC", "E", "duty"))
    given = solve(edit(heated(), "set_values", unit="E", values={"duty": None, "outlet_temperature": q("95 degC")}))
    duty = next(v.value for v in given.units["E"].values if v.key == "duty")
    assert found.aims[0].freed == pytest.approx(duty, rel=1e-6)
    assert found.streams["S3"].mole_flow == pytest.approx(given.streams["S3"].mole_flow, rel=1e-6)


def test_several_aims_are_met_together_and_in_any_order():
    one = aimed(heated(), "T", "S2.temperature", "90 degC", "E", "duty")
    both = aimed(one, "split", "S3.mole_flow", "60 kmol/h", "E", "pressure_change")
    result = solve(both)
    assert [a.state for a in result.aims] == ["met", "met"]
    assert result.streams["S2"].temperature == pytest.approx(363.15, abs=1e-5)
    assert result.streams["S3"].mole_flow == pytest.approx(60e3 / 3600, rel=1e-7)
    turned = load_data({**to_data(both), "aims": to_data(both)["aims"][::-1]})
    again = {a.name: a.freed for a in solve(turned).aims}
    assert again == pytest.approx({a.name: a.freed for a in result.aims}, rel=1e-6)


def test_a_memory_changes_nothing_beyond_the_tolerance_and_saves_work():
    memory = Memory()
    document = aimed(heated(), "T", "S2.temperature", "95 degC", "E", "duty")
    first, second, alone = solve(document, memory=memory), solve(document, memory=memory), solve(document)
    assert second.aims[0].freed == pytest.approx(alone.aims[0].freed, rel=1e-7)
    assert len(second.aims[0].history) < len(first.aims[0].history)
    other = solve(aimed(document, "T", "S2.temperature", "100 degC", "E", "duty"), memory=memory)
    fresh = solve(aimed(document, "T", "S2.temperature", "100 degC", "E", "duty"))
    assert other.aims[0].freed == pytest.approx(fresh.aims[0].freed, rel=1e-6)


def test_an_aim_out_of_reach_says_how_near_it_came_and_what_holds_it():
    bounded = aimed(heated(), "T", "S2.temperature", "150 degC", "E", "duty", low=q("0 kW"), high=q("500 kW"))
    result = solve(bounded)
    (aim,) = result.aims
    assert (aim.state, result.complete) == ("missed", True)
    assert aim.freed == pytest.approx(500e3)
    assert "upper bound" in aim.text
    fault = next(f for f in result.findings if f.severity == "fault")
    assert (fault.place, fault.field, "missed" in fault.text) == ("E", "duty", True)
    far = solve(aimed(demo(), "less", "S-08.mole_flow", "55 kmol/h", "E-103", "outlet_temperature")).aims[0]
    assert (far.state, "tried from" in far.text or "bound" in far.text) == ("missed", True)  # its hydrogen alone is more
    nothing = solve(aimed(heated(), "n", "S1.temperature", "60 degC", "E", "duty"))
    assert "no effect" in nothing.aims[0].text


def test_a_target_beyond_a_turning_point_is_found_by_looking_over_the_range():
    """The share of the flash vapour has no slope while all is liquid: a start far from the two-phase region must not end the search."""
    cold = edit(heated(), "set_values", unit="E", values={"duty": q("0 kW")})
    assert solve(cold).streams["S2"].vapour_fraction == 0.0
    result = solve(aimed(cold, "v", "S2.vapour_fraction", "0.4 ", "E", "duty", low=q("0 kW"), high=q("1500 kW")))
    assert result.aims[0].state == "met"
    assert result.streams["S2"].vapour_fraction == pytest.approx(0.4, abs=1e-7)


def test_paused_blank_and_quarrelling_aims_are_told_apart():
    paused = solve(aimed(heated(), "T", "S2.temperature", "95 degC", "E", "duty", active=False))
    plain = solve(heated())
    assert paused.aims[0].state == "paused"
    assert paused.aims[0].value == pytest.approx(plain.streams["S2"].temperature)
    two = aimed(aimed(heated(), "T", "S2.temperature", "95 degC", "E", "duty"), "v", "S2.vapour_fraction", "0.4 ", "E", "duty")
    states = {a.name: a for a in solve(two).aims}
    assert (states["T"].state, states["v"].state) == ("met", "open")
    assert "freed by another aim" in states["v"].text
    blank = solve(aimed(heated(), "T", "S2.temperature", "95 degC", "E", "outlet_temperature"))
    assert "is blank" in blank.aims[0].text
    wrong = solve(aimed(heated(), "T", "S2.temperature", "95 kg", "E", "duty"))
    assert (wrong.aims[0].state, wrong.complete) == ("open", True)
    gone = solve(edit(aimed(heated(), "T", "S2.temperature", "95 degC", "E", "duty"), "remove_unit", tag="E"))
    assert "not on the sheet" in gone.aims[0].text


def test_edits_of_aims_are_taken_back_and_follow_a_rename():
    from wattaxis.flowsheet import apply, edit_from_json

    document = aimed(heated(), "T", "S2.temperature", "95 degC", "E", "duty")
    for change in (
        {"kind": "set_aim", "name": "T", "aim": None},
        {"kind": "rename", "tag": "E", "new": "E-201"},
        {"kind": "rename", "tag": "S2", "new": "S-02"},
        {"kind": "remove_unit", "tag": "E"},
    ):
        changed, inverse, _ = apply(document, edit_from_json(change))
        assert changed != document
        assert apply(changed, inverse)[0] == document
    renamed = edit(edit(document, "rename", tag="E", new="E-201"), "rename", tag="S2", new="S-02")
    assert (renamed.aims[0].formula, renamed.aims[0].free.unit) == ("S-02.temperature", "E-201")
    assert solve(renamed).aims[0].state == "met"
    for bad in ({"unit": "E", "field": "colour"}, {"unit": "X", "field": "duty"}, {"unit": "F", "field": "composition"}):
        with pytest.raises(EditError):
            aimed(heated(), "T", "S2.temperature", "95 degC", bad["unit"], bad["field"])


def test_what_could_be_freed_is_proposed_with_its_slope_strong_effects_first():
    answer = propose_free(heated(), "S3.mole_flow")
    found = answer.proposals
    assert answer.value == pytest.approx(solve(heated()).streams["S3"].mole_flow)
    assert len(found) == len({(p.unit, p.field) for p in found}) > 4
    duty = next(p for p in found if (p.unit, p.field) == ("E", "duty"))
    more = edit(heated(), "set_values", unit="E", values={"duty": q("301 kW")})
    change = solve(more).streams["S3"].mole_flow - solve(heated()).streams["S3"].mole_flow
    assert duty.slope == pytest.approx(change / 1000.0, rel=0.02)
    assert all(p.unit != "A" for p in found)
    changed = propose_free(aimed(heated(), "v", "S3.mole_flow", "60 kmol/h", "E", "duty"), "S3.mole_flow").proposals
    assert ("E", "duty") in {(p.unit, p.field) for p in changed}  # an aim that is changed still offers its own given
    other = propose_free(aimed(heated(), "T", "S2.temperature", "95 degC", "E", "duty"), "S3.mole_flow").proposals
    assert ("E", "duty") not in {(p.unit, p.field) for p in other}
    weak = propose_free(demo(), "S-08.mole_flow").proposals
    assert (weak[0].unit, weak[0].field) == ("E-103", "outlet_temperature")  # the drum is nearer and hardly matters
    with pytest.raises(ValueError, match="nothing on the sheet"):
        propose_free(heated(), "S-99.temperature")
    assert unit_types()["heater"].field_map()["duty"].title == found[[p.field for p in found].index("duty")].title


def test_a_pin_over_a_freed_given_shows_what_was_found():
    document = edit(aimed(demo(), "cold", "S-08.mole_flow / S-06.mole_flow", "0.5 ", "E-103", "outlet_temperature"), "set_pin",
                    name="at", formula="E-103.outlet_temperature")  # fmt: skip
    result = solve(document)
    assert result.aims[0].state == "met"
    assert next(p for p in result.pins if p.name == "at").value == pytest.approx(result.aims[0].freed)


@pytest.mark.parametrize("seed", range(8))
def test_aims_on_plants_made_at_random_give_back_what_the_plant_had(seed):
    """Solve, note a result, spoil the given that made it, and aim: the given comes back."""
    document = maze(8, 3, seed)
    truth = solve(document)
    assert truth.complete
    rng = random.Random(seed)
    tag = rng.choice([u.tag for u in document.units if u.type == "splitter"])
    unit = document.unit(tag)
    share = unit.spec.share_1.value
    back = next(s.tag for s in document.streams if s.source.unit == tag and s.source.port == "outlet_1")
    fresh = document.streams[0].tag
    ratio = truth.streams[back].mole_flow / truth.streams[fresh].mole_flow
    spoiled = edit(document, "set_values", unit=tag, values={"share_1": {"value": 0.5 * share + 0.2}})
    result = solve(aimed(spoiled, "back", f"{back}.mole_flow / {fresh}.mole_flow", f"{ratio!r} ", tag, "share_1", high=q("0.95")))
    assert result.aims[0].state == "met", result.aims[0].text
    assert result.aims[0].freed == pytest.approx(share, rel=1e-5)
    assert abs(result.balance.mass_gap) < 1e-8
    assert abs(result.balance.energy_gap) < 1e-8
    for name, stream in truth.streams.items():
        assert result.streams[name].mole_flow == pytest.approx(stream.mole_flow, rel=1e-4, abs=1e-9)


def test_an_aim_is_stopped_like_any_calculation():
    document, calls = aimed(heated(), "T", "S2.temperature", "95 degC", "E", "duty"), []
    result = solve(document, progress=lambda *_: calls.append(1) or len(calls) < 9)
    assert len(calls) <= 12  # no search goes on after the stop
    assert result.aims[0].state in ("open", "missed")
    assert not [f for f in result.findings if "missed" in f.text]


def test_the_demo_meets_its_aims_and_the_paused_one_when_it_is_pursued():
    text = files("wattaxis.examples").joinpath("sandlark_bay_recycle.json").read_text(encoding="utf-8")
    document = load(text)
    result = solve(document)
    assert [a.state for a in result.aims] == ["met", "met", "paused"]
    made = result.streams["S-208"].mole_flows["butanone"] * 72.106e-3 * 8000 * 3.6 / 1e3
    assert made == pytest.approx(40.0, rel=1e-3)  # kt a year of 8000 h
    heat = document.aims[2]
    pursued = edit(document, "set_aim", name=heat.name, aim={**heat.model_dump(), "active": True})
    again = solve(pursued)
    assert [a.state for a in again.aims] == ["met"] * 3
    assert next(v.value for v in again.units["R-201"].values if v.key == "duty") == pytest.approx(1.1e6, rel=1e-7)


def parted(**aim):
    """Propane and butane parted by shares, overhead at 10 bar."""
    shares = {"values": {"propane": q("0.95"), "n-butane": q("0.10"), "n-pentane": q("0")}}
    spec = {"shares": shares, "overhead_temperature": q("300 K"), "bottoms_temperature": q("350 K")}
    units = {"F": feed(), "T": ("component-splitter", spec), "Z": ("product", {}), "Y": ("product", {})}
    document = plant(C4, units, ["S1: F.outlet -> T.inlet", "S2: T.overhead -> Z.inlet", "S3: T.bottoms -> Y.inlet"])
    return edit(document, "set_aim", name="a", aim={"name": "a", "active": True, **aim}) if aim else document


def test_a_share_of_a_component_and_a_flow_of_a_feed_can_be_freed():
    purity = {"formula": "S2.mole_fraction[n-butane]", "target": q("1 %")}
    result = solve(parted(**purity, free={"unit": "T", "field": "shares[n-butane]"}))
    assert result.aims[0].state == "met"
    assert result.streams["S2"].mole_fractions["n-butane"] == pytest.approx(0.01, rel=1e-7)
    offered = propose_free(parted(), "S2.mole_fraction[n-butane]").proposals
    assert {("T", "shares[n-butane]"), ("T", "shares[propane]")} <= {(p.unit, p.field) for p in offered}
    assert next(p for p in offered if p.field == "shares[n-butane]").title == "Share that leaves overhead (n-butane)"
    fed = solve(parted(formula="S3.component_flow[n-butane]", target=q("20 kmol/h"), free={"unit": "F", "field": "composition[n-butane]"}))
    assert (fed.aims[0].state, "normalised first" in fed.aims[0].text) == ("open", True)
    with pytest.raises(EditError, match="no single value"):
        parted(**purity, free={"unit": "T", "field": "duty[n-butane]"})


def test_a_point_of_a_curve_can_be_freed():
    curve = points([[0, 60, None], [20, 50, None], [40, 30, None]])
    units = {"F": feed(temperature="290 K"), "P": ("pump", {"curve": curve, "efficiency": q("70 %")}), "Z": ("product", {})}
    document = plant(C4, units, ["S1: F.outlet -> P.inlet", "S2: P.outlet -> Z.inlet"])
    rise = next(v.value for v in solve(document).units["P"].values if v.key == "pressure_change")
    target = {"value": 1.05 * rise / 1e5, "unit": "bar"}
    aim = {"name": "a", "formula": "P.pressure_change", "target": target, "free": {"unit": "P", "field": "curve[2].head"}}
    result = solve(edit(document, "set_aim", name="a", aim=aim))
    assert result.aims[0].state == "met"
    assert result.units["P"]["pressure_change"] == pytest.approx(1.05 * rise, rel=1e-7)
