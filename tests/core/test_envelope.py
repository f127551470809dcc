"""Balances over any part of a plant."""

import itertools
import random

import pytest
from plants import demo, example

from wattaxis import edit, envelope_balance, solve
from wattaxis.flowsheet.document import load_data, to_data


@pytest.mark.parametrize("name", ["butanone_plant", "ammonia_loop", "steam_power", "salt_drying"])
def test_every_part_of_a_plant_closes(name):
    """Any units together: mass, energy and elements; reactions change components only."""
    document = example(name)
    result = solve(document)
    rng = random.Random(3)
    inner = [u.tag for u in document.units if len({p.direction for p in u.operation.ports}) == 2]
    for size in (1, 2, 3, 5, len(inner)):
        chosen = rng.sample(inner, min(size, len(inner)))
        balance = envelope_balance(document, result, chosen)
        assert abs(balance.mass.gap) < 1e-8
        assert abs(balance.energy.gap) < 1e-7
        assert all(abs(line.gap) < 1e-8 for line in balance.elements), balance.elements
        assert balance.worst == "All of it closes" or "out by" in balance.worst
        assert not balance.notes


def test_a_reactor_makes_components_of_elements():
    document = example("ammonia_loop")
    result = solve(document)
    (reactor,) = [u.tag for u in document.units if u.type == "conversion-reactor"]
    balance = envelope_balance(document, result, [reactor])
    made = {line.name: line.leaves - line.enters for line in balance.components}
    assert made["ammonia"] > 0.0
    assert made["hydrogen"] == pytest.approx(-1.5 * made["ammonia"], rel=1e-9)
    assert {line.name for line in balance.elements} >= {"H", "N"}
    assert balance.worst == "All of it closes"


def test_the_whole_plant_is_the_sum_of_what_crosses():
    document = demo()
    result = solve(document)
    whole = envelope_balance(document, result)
    assert whole.mass.enters == pytest.approx(result.balance.mass_in, rel=1e-12)
    assert whole.energy.leaves == pytest.approx(result.balance.energy_out, rel=1e-12)
    tags = {c.tag for c in whole.crossings}
    assert all(next(u for u in document.units if u.tag in (s.source.unit, s.target.unit)) for s in document.streams if s.tag in tags)
    # Two halves: what leaves one for the other cancels.
    units = list(whole.units)
    one, two = (envelope_balance(document, result, part) for part in (units[:2], units[2:]))
    shared = {c.tag for c in one.crossings} & {c.tag for c in two.crossings}
    assert shared
    both = [c for c in itertools.chain(one.crossings, two.crossings) if c.tag not in shared]
    assert {c.tag for c in both} == tags


def test_what_cannot_be_balanced_is_said():
    document = demo()
    result = solve(document)
    for units, words in ((["X-9"], "no unit X-9"), (["F-101"], "something passes through")):
        with pytest.raises(ValueError, match=words):
            envelope_balance(document, result, units)
    open_end = edit(document, "disconnect", tag="S-08")
    balance = envelope_balance(open_end, solve(open_end))
    assert any("leads nowhere" in note for note in balance.notes)
    assert "out by" in balance.worst
    own = {"molar_mass": 0.1, "critical_temperature": 500.0, "critical_pressure": 3e6, "acentric_factor": 0.3, "heat_capacity": [100.0, 0, 0, 0, 0]}
    data = to_data(demo())
    data["chemistry"]["components"].append({"id": "stuff", "own": own})
    strange = load_data(data)
    assert any("No formula is known for stuff" in note for note in envelope_balance(strange, solve(strange)).notes)
    cold = edit(demo(), "set_values", unit="F-101", values={"temperature": None})
    with pytest.raises(ValueError, match="not calculated"):
        envelope_balance(cold, solve(cold), ["V-101"])
