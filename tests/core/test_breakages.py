"""A loop broken on purpose, in a dozen ways: each is found where it is, in physical words, and mended from its finding."""

import pytest
from plants import C4, feed, plant, q

from wattaxis import check, edit, solve

UNITS = {
    "F": feed(temperature="350 K", pressure="8 bar"),
    "M": ("mixer", {}),
    "X": ("heat-exchanger", {"minimum_approach": q("15 K")}),
    "E": ("heater", {"outlet_temperature": q("400 K")}),
    "C": ("cooler", {"outlet_temperature": q("320 K"), "pressure_change": q("-0.2 bar")}),
    "V": ("drum", {"duty": q("0 kW")}),
    "N": ("splitter", {"share_1": q("40 %")}),
    "P": ("pump", {"outlet_pressure": q("9 bar"), "efficiency": q("60 %")}),
    "G": ("product", {}),
    "L": ("product", {}),
}
LINES = [
    "1: F.outlet -> M.inlet",
    "2: M.outlet -> X.cold_in",
    "3: X.cold_out -> E.inlet",
    "4: E.outlet -> X.hot_in",
    "5: X.hot_out -> C.inlet",
    "6: C.outlet -> V.inlet",
    "7: V.vapour -> G.inlet",
    "8: V.liquid -> N.inlet",
    "9: N.outlet_1 -> P.inlet",
    "10: P.outlet -> M.inlet",
    "11: N.outlet_2 -> L.inlet",
]


def whole():
    return plant(C4, UNITS, LINES)


def give(tag, **values):
    return {"kind": "set_values", "unit": tag, "values": values}


def test_the_loop_is_whole_to_begin_with():
    result = solve(whole())
    assert result.complete
    assert abs(result.balance.mass_gap) < 1e-8
    assert len(result.loops) == 1


#: What breaks it; where it is found; words of the finding; what mends it where the finding holds no repair of its own.
BREAKS = [
    (give("C", duty=q("10 kW")), "C", "only 1 may be specified", None),
    (give("E", pressure_change=q("0.3 bar")), "E", "there is no pump here", None),
    (give("X", minimum_approach=None, hot_outlet_temperature=q("300 K")), "X", "temperatures cross", None),
    (give("X", minimum_approach=q("200 K")), "X", "apart", give("X", minimum_approach=q("10 K"))),
    (give("N", share_1=q("70 %"), share_2=q("70 %")), "N", "sum to 1.4", give("N", share_2=None)),
    (give("P", outlet_pressure=q("2 bar")), "P", "pressure", give("P", outlet_pressure=q("9 bar"))),
    (
        give("V", duty=None, vapour_fraction=q("0.5"), outlet_pressure=q("400 bar")),
        "V",
        "no state",
        give("V", vapour_fraction=None, outlet_pressure=None, duty=q("0 kW")),
    ),
    (give("E", outlet_temperature=None, duty=q("900 MW")), "E", "6000 K", give("E", duty=None, outlet_temperature=q("400 K"))),
    (give("C", pressure_change=q("-30 bar")), "C", "leaves no pressure", give("C", pressure_change=q("-0.2 bar"))),
    (give("F", vapour_fraction=q("0.5")), "F", "state", None),
    (give("P", efficiency=q("0 %")), "P", "efficiency", give("P", efficiency=q("60 %"))),
]  # fmt: skip


@pytest.mark.parametrize(("broken", "place", "says", "mending"), BREAKS, ids=[f"{b[1]}: {b[2]}" for b in BREAKS])
def test_what_is_broken_is_found_and_mended(broken, place, says, mending):
    document = edit(whole(), **broken)
    result = solve(document)
    found = [f for f in result.findings if f.place == place and says in f.text and f.severity in ("fault", "caution")]
    assert found, [(f.place, f.text) for f in result.findings]
    assert found[0].remedy
    for repair in found[0].repair or (mending,):
        document = edit(document, **repair)
    mended = solve(document)
    assert mended.complete, [f.text for f in mended.findings]
    assert not [f for f in mended.findings if f.severity == "fault"]


@pytest.mark.parametrize(
    ("broken", "place", "says"),
    [
        (give("E", outlet_temperature=None), "E", "one value for its outlet"),
        ({"kind": "disconnect", "tag": "9"}, "P", "nothing connected to its inlet"),
        (give("F", composition=None), "F", "composition"),
        (give("N", share_1=None), "N", "share of 1 of its branches"),
    ],
)
def test_what_is_missing_is_asked_for_and_the_rest_goes_on_as_far_as_it_can(broken, place, says):
    document = edit(whole(), **broken)
    asks = [a for a in check(document).asks if a.place == place and says in a.text]
    assert asks
    assert asks[0].fields
    result = solve(document)
    assert not result.complete
    assert not [f for f in result.findings if f.severity == "fault"]
    assert result.units["F"].mark == ("open" if place == "F" else "current")


def test_each_break_undone_gives_the_same_plant_and_the_same_digits():
    from wattaxis.flowsheet import apply, edit_from_json

    before = solve(whole()).to_data()
    for broken, *_ in BREAKS:
        changed, inverse, _ = apply(whole(), edit_from_json(broken))
        back = apply(changed, inverse)[0]
        assert back == whole()
    assert solve(back).to_data() == before
