"""How far doubtful pairs matter: against plain re-solving, in the right order, and what cannot be asked."""

import pytest
from plants import demo

from wattaxis import edit, pair_influence, solve
from wattaxis.flowsheet import pair_table
from wattaxis.progress import Stopped, listening


def test_a_moved_pair_is_the_same_as_one_typed_in():
    document = demo()
    found = pair_influence(document)
    assert len(found) == 6  # the demo knows none of its pairs: one is estimated, five are taken for zero
    shares = [max(w.share for w in i.results) for i in found]
    assert shares == sorted(shares, reverse=True)
    assert shares[0] > shares[-1] >= 0.0
    first = found[0]
    assert first.moved == {"kij": 0.02}
    (row,) = [row for row in pair_table(document.chemistry) if {row["first"], row["second"]} == {first.first, first.second}]
    moved = row["values"].get("kij", 0.0) + 0.02
    typed = solve(edit(document, "set_pair", first=first.first, second=first.second, values={"kij": moved}))
    values = {pin.name: pin.value for pin in typed.pins}
    for watched in first.results:
        assert watched.after == pytest.approx(values[watched.name], rel=1e-9)
        assert watched.before == pytest.approx(next(p.value for p in solve(document).pins if p.name == watched.name), rel=1e-12)


def test_known_pairs_are_not_moved_and_products_are_watched_without_pins():
    document = demo()
    for pin in document.pins:
        document = edit(document, "set_pin", name=pin.name)
    for first, second in (
        ("2-butanol", "butanone"),
        ("2-butanol", "hydrogen"),
        ("2-butanol", "water"),
        ("butanone", "hydrogen"),
        ("hydrogen", "water"),
    ):
        document = edit(document, "set_pair", first=first, second=second, values={"kij": 0.0})
    (only,) = pair_influence(document)
    assert {only.first, only.second} == {"butanone", "water"}
    assert {w.name.split(" ")[1] for w in only.results} == {"mass", "temperature"}
    assert only.to_data()["share"] == max(w.share for w in only.results)


def test_activity_models_move_both_directions_and_the_work_can_be_stopped():
    document = edit(demo(), "set_model", model="nrtl")
    shares = []
    with listening(lambda share: shares.append(share) or True):
        found = pair_influence(document)
    assert shares == sorted(shares)
    assert 0.0 < shares[0] < shares[-1] < 1.0
    with pytest.raises(Stopped), listening(lambda share: share < 0.5):
        pair_influence(document)
    moved = {frozenset((i.first, i.second)): i.moved for i in found}
    assert moved[frozenset(("2-butanol", "butanone"))] == {"b12": 50.0, "b21": 50.0}
    assert moved[frozenset(("2-butanol", "hydrogen"))] == {"ha": 0.5}  # a dissolved gas has its Henry constant moved


@pytest.mark.parametrize(
    ("change", "words"),
    [
        (lambda d: edit(d, "set_model", model="ideal"), "no pair parameters"),
        (lambda d: edit(d, "remove_unit", tag="F-101"), "not complete"),
    ],
)
def test_what_cannot_be_asked_is_said(change, words):
    with pytest.raises(ValueError, match=words):
        pair_influence(change(demo()))
