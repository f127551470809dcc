"""Units under other conditions: what they calculate alone is what the plant calculates where the conditions are those."""

import pytest
from plants import example, plant, q

from wattaxis import edit, solve
from wattaxis.questions import ConditionsQuestion, under_conditions


def asked(units, *conditions):
    told = [{key: q(value) for key, value in condition.items()} for condition in conditions]
    return ConditionsQuestion.model_validate({"units": units, "conditions": told})


@pytest.mark.parametrize(
    "name",
    ["reactors_on_one_feed", "butanone_plant", "styrene_beds", "ammonia_beds", "tubes_raising_steam", "magnesia_from_brine", "sandlark_bay_recycle"],
)
def test_every_reactor_as_it_is_calculates_what_it_does_in_its_plant(name):
    """All reactors of all examples, inside loops and with aims that free their values, with streams outside and heat streams."""
    plant = example(name)
    result = solve(plant)
    tags = [u.tag for u in plant.units if u.operation.family == "reaction"]
    ready = [tag for tag in tags if sum(s.target.unit == tag and s.target.port == "inlet" for s in plant.streams) == 1][:8]
    assert ready
    for case in under_conditions(plant, result, asked(ready, {})):
        assert case.problem == ""
        known = {v.name: v.value for v in result.units[case.unit].values}
        assert {v.name: v.value for v in case.values} == pytest.approx(known, rel=2e-6, abs=1e-6)
        assert [p.key for p in case.profiles] == [p.key for p in result.units[case.unit].profiles]


def test_other_conditions_are_those_of_a_plant_that_has_them():
    """A hotter feed at another pressure and half of it, in the plant itself."""
    plant = example("reactors_on_one_feed")
    tags = ["R-102", "R-103"]
    cases = under_conditions(plant, solve(plant), asked(tags, {}, {"temperature": "430 degC", "pressure": "2.5 bar", "flow": "50 %"}))
    assert [(c.unit, c.condition) for c in cases] == [(tag, k) for tag in tags for k in (0, 1)]
    feed = plant.unit("F-101").spec
    half = feed.flow.value / 2
    there = edit(
        plant, "set_values", unit="F-101", values={"temperature": q("430 degC"), "pressure": q("2.5 bar"), "flow": q(f"{half} {feed.flow.unit}")}
    )
    changed = solve(there)
    for case in cases[1::2]:
        known = {v.name: v.value for v in changed.units[case.unit].values}
        assert {v.name: v.value for v in case.values} == pytest.approx(known, rel=1e-6, abs=1e-9)


def test_what_cannot_be_is_told_for_its_case_alone():
    plant = example("reactors_on_one_feed")
    cold, warm = under_conditions(plant, solve(plant), asked(["R-103"], {"temperature": "20 degC"}, {"temperature": "410 degC"}))
    assert cold.problem == "The reactions take place in the vapour, and what comes in is liquid."
    assert not cold.values
    assert warm.problem == ""


@pytest.mark.parametrize(
    ("units", "conditions", "says"),
    [
        (["R-999"], [{}], "There is no unit R-999"),
        (["F-101"], [{}], "F-101 has no one inlet"),
        (["R-103"], [{"temperature": "5 bar"}], "These conditions cannot be"),
        (["R-103"], [{"temperature": "1e9 K"}], "These conditions cannot be"),
        (["R-103"], [{"pressure": "-1 bar"}], "These conditions cannot be"),
        (["R-103"], [{"flow": "-5 %"}], "These conditions cannot be"),
    ],
)
def test_conditions_that_no_stream_has_are_refused(units, conditions, says):
    plant = example("reactors_on_one_feed")
    with pytest.raises(ValueError, match=says):
        under_conditions(plant, solve(plant), asked(units, *conditions))


def test_a_plant_that_is_not_calculated_has_nothing_to_say():
    plant = edit(example("reactors_on_one_feed"), "set_values", unit="F-101", values={"temperature": None})
    with pytest.raises(ValueError, match="is not calculated"):
        under_conditions(plant, solve(plant), asked(["R-103"], {}))


@pytest.mark.parametrize(("power", "heat"), [({}, {"outlet_temperature": "450 K"}), ({"power": "20 kW"}, {})])
def test_a_supply_that_follows_goes_on_following_and_one_that_is_given_gives_the_same(power, heat):
    parts = [("n-butane", "106-97-8"), ("isobutane", "75-28-5")]
    feed = {"temperature": "400 K", "pressure": "5 bar", "flow": "10 mol/s", "composition": {"values": {"n-butane": {"value": 1}}}}
    reaction = {"name": "R1", "numbers": {"n-butane": -1, "isobutane": 1}}
    units = {
        "F": ("feed", feed),
        "Q": ("heat-supply", power),
        "R": ("equilibrium-reactor", {"reactions": "Main", **heat}),
        "Z": ("product", {}),
    }
    lines = ["S-1: F.outlet -> R.inlet", "S-2: R.outlet -> Z.inlet", "Q-1: Q.heat_out -> R.heat_in"]
    whole = plant(parts, units, lines, reactions=[{"name": "Main", "reactions": [reaction]}])
    result = solve(whole)
    as_it_is, half = under_conditions(whole, result, asked(["R"], {}, {"flow": "50 %"}))
    duty, halved = (next(v.value for v in case.values if v.key == "duty") for case in (as_it_is, half))
    assert duty == pytest.approx(result.units["R"]["duty"], rel=1e-9)
    assert halved == pytest.approx(duty if power else duty / 2, rel=1e-9)
