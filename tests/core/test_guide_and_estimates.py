"""The guide to a property model, and pairs estimated from groups: what they say, how near they come, how they are marked."""

import numpy as np
import pytest
from plants import demo, feed, plant

from wattaxis import Document, PropertyModel, edit, solve
from wattaxis.flowsheet import pair_table
from wattaxis.flowsheet.estimates import FRACTIONS, estimate_pairs
from wattaxis.flowsheet.guide import Answer, guide


def chemistry(*cas, model="nrtl"):
    document = edit(Document(), "set_model", model=model)
    for number in cas:
        document = edit(document, "add_component", component={"id": number, "cas": number})
    return document


WATER, ETHANOL, BENZENE, PROPANE, HYDROGEN, ACETATE = "7732-18-5", "64-17-5", "71-43-2", "74-98-6", "1333-74-0", "141-78-6"


@pytest.mark.parametrize(
    ("parts", "best", "answer"),
    [
        ((PROPANE, BENZENE), "peng-robinson", ("Polar components?", "none")),
        ((PROPANE, HYDROGEN), "peng-robinson", ("Gases that dissolve in liquids?", HYDROGEN)),
        ((ETHANOL, WATER), "nrtl", ("Two liquids?", "not to be expected")),
        ((BENZENE, WATER, ETHANOL), "nrtl", ("Two liquids?", f"to be expected: {BENZENE} with {WATER}")),
    ],
)
def test_the_guide_answers_from_the_chemistry(parts, best, answer):
    found = guide(chemistry(*parts))
    assert Answer(*answer) in found.answers
    assert found.proposals[0].key == best
    assert [p.rank for p in found.proposals] == [1, 2, 3]
    if "to be expected: " in answer[1]:
        assert "wilson" not in [p.key for p in found.proposals]  # it cannot part a liquid


def test_water_alone_gets_the_steam_tables():
    assert guide(chemistry(WATER)).proposals[0].key == "steam"


def test_pressure_brings_equations_of_state_and_a_real_vapour():
    parts = [("ethanol", ETHANOL), ("propane", PROPANE), ("water", WATER)]
    kind, spec = feed(pressure="35 bar")
    document = plant(parts, {"F": (kind, {**spec, "composition": None})}, [])
    found = guide(document).proposals
    assert [(p.key, p.vapour) for p in found] == [
        ("predictive-soave-redlich-kwong", "ideal"),
        ("nrtl", "soave-redlich-kwong"),
        ("peng-robinson", "ideal"),
    ]
    assert any("35 bar is too much" in c for c in found[1].reasons)
    assert guide(Document()).proposals == []


@pytest.mark.parametrize(("kind", "near"), [("nrtl", 0.02), ("uniquac", 0.02), ("wilson", 0.02), ("margules", 0.05), ("van-laar", 0.08)])
def test_estimates_follow_the_group_model_and_are_marked(kind, near):
    document = chemistry("78-92-2", "78-93-3", model=kind)
    (row,) = estimate_pairs(document.chemistry, alike=True).edits
    after = edit(document, **row)
    (pair,) = pair_table(after.chemistry)
    assert (pair["quality"], "not measured" in pair["source"]) == ("estimated", True)
    ours = PropertyModel(kind, ["2-butanol", "butanone"], {("2-butanol", "butanone"): pair["values"]})
    groups = PropertyModel("unifac-dortmund", ["2-butanol", "butanone"])
    for x in FRACTIONS:
        assert np.log(ours.activity_coefficients(340.0, 1e5, [x, 1 - x])) == pytest.approx(
            np.log(groups.activity_coefficients(340.0, 1e5, [x, 1 - x])), abs=near
        )


def test_an_estimated_kij_brings_the_bubble_point_near_the_group_model():
    document = chemistry(ETHANOL, ACETATE, model="peng-robinson")
    assert estimate_pairs(document.chemistry).edits == []  # one that ships
    (row,) = estimate_pairs(document.chemistry, alike=True).edits
    assert pair_table(document.chemistry)[0]["values"]["kij"] == pytest.approx(row["values"]["kij"], rel=1e-4)
    bubble = {
        name: PropertyModel(kind, ["ethanol", "ethyl acetate"], pairs).flash([0.5, 0.5], T=340.0, VF=0.0).pressure
        for name, kind, pairs in (
            ("groups", "unifac-dortmund", None),
            ("zero", "peng-robinson", {("ethanol", "ethyl acetate"): 0.0}),
            ("fitted", "peng-robinson", {("ethanol", "ethyl acetate"): row["values"]}),
        )
    }
    assert abs(bubble["fitted"] - bubble["groups"]) < 0.3 * abs(bubble["zero"] - bubble["groups"])


def test_pairs_without_groups_are_named_and_known_ones_left_alone():
    document = edit(demo(), "set_model", model="nrtl")
    assert estimate_pairs(document.chemistry).edits == []  # estimates of common liquids ship with the bank; hydrogen dissolves by Henry's law
    told = solve(document)
    assert any("estimated, not measured" in f.text for f in told.findings)
    rarer = edit(document, "add_component", component={"id": "2-octanol", "cas": "123-96-6"})
    rarer = edit(rarer, "add_component", component={"id": "sulfolane", "cas": "126-33-0"})
    found = estimate_pairs(rarer.chemistry)
    new = {frozenset((e["first"], e["second"])) for e in found.edits}
    assert {frozenset(("2-octanol", name)) for name in ("water", "butanone", "2-butanol")} <= new
    assert all("no groups are known for" in text for text in found.left_out)
    result = solve(edit(rarer, "batch", edits=found.edits))
    assert result.complete
    assert "2-octanol" not in str([a for a in result.assumptions if a.field == "pairs"])
    with pytest.raises(ValueError, match="no pair parameters"):
        estimate_pairs(edit(demo(), "set_model", model="ideal").chemistry)
