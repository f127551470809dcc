"""A plant brought to a yearly production."""

import pytest
from plants import demo, example, q

from wattaxis import edit, solve
from wattaxis.quantities import Quantity
from wattaxis.questions import scale_to_production


@pytest.mark.parametrize("name", ["sandlark_bay", "butanone_plant", "hydrogen_compression", "steam_power"])
def test_a_scaled_plant_has_the_same_states_at_the_wanted_flow(name):
    document = example(name)
    before = solve(document)
    tag = list(before.streams)[-1]
    days = 333.0
    now = before.streams[tag].mass_flow * days * 86400.0
    scaling = scale_to_production(document, before, tag, Quantity(value=1.7 * now, unit="kg"), days)
    assert scaling.factor == pytest.approx(1.7)
    changed = edit(document, "batch", edits=list(scaling.edits))
    after = solve(changed)
    assert after.complete
    assert after.streams[tag].mass_flow * days * 86400.0 == pytest.approx(1.7 * now, rel=1e-6)
    for key, stream in before.streams.items():
        assert after.streams[key].temperature == pytest.approx(stream.temperature, rel=1e-6)
        assert after.streams[key].pressure == pytest.approx(stream.pressure, rel=1e-9)
        assert after.streams[key].mass_flow == pytest.approx(1.7 * stream.mass_flow, rel=1e-5, abs=1e-9)
    assert {c.place for c in scaling.changes} >= {u.tag for u in document.units if u.type == "feed"}


def test_a_component_is_counted_and_sizes_are_named():
    document = demo()
    document = edit(
        document,
        "insert_in_line",
        stream="S-09",
        unit={"tag": "L-900", "type": "pipe", "spec": {"length": q("20 m"), "diameter": q("80 mm")}},
        inlet="inlet",
        outlet="outlet",
    )
    result = solve(document)
    assert result.complete
    scaling = scale_to_production(document, result, "S-12", Quantity(value=40000.0, unit="t"), 330.0, "butanone")
    after = solve(edit(document, "batch", edits=list(scaling.edits)))
    flow = after.streams["S-12"]
    yearly = flow.mass_flow * flow.mass_fractions["butanone"] * 330 * 86400 / 1e3
    assert yearly == pytest.approx(40000.0, rel=0.02)  # the pipe that stays lets it down a little further
    assert [text.split(" stays")[0] for text in scaling.marked] == ["L-900: length 20 m", "L-900: inner diameter 80 mm"]


@pytest.mark.parametrize(
    ("stream", "amount", "days", "component", "words"),
    [
        ("S-99", "1 t", 330, None, "not calculated"),
        ("S-12", "1 t", 400, None, "366"),
        ("S-12", "0 t", 330, None, "must be above zero"),
        ("S-12", "1 m3", 330, None, "mass"),
        ("S-12", "1 t", 330, "gold", "no component gold"),
    ],
)
def test_numbers_without_sense_are_refused_in_words(stream, amount, days, component, words):
    with pytest.raises(ValueError, match=words):
        scale_to_production(demo(), solve(demo()), stream, Quantity(**q(amount)), days, component)
