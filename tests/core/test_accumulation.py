"""What can leave a loop nowhere is said before a pass is made, with the purge that mends it."""

import pytest
from plants import C4, conversions, converts, example, feed, plant, q

from wattaxis import edit, solve
from wattaxis.flowsheet import apply, edit_from_json
from wattaxis.solving.accumulation import trapped

AIR = [("nitrogen", "7727-37-9"), ("water", "7732-18-5")]


def separated(shares, spec=None):
    """A mixer, a unit that lets everything by, and a component splitter whose overhead goes back."""
    units = {
        "F": feed(), "M": ("mixer", {}), "E": ("heater", {"outlet_temperature": q("330 K")}),
        "T": ("component-splitter", {"shares": {"values": {name: q(text) for name, text in shares.items()}},
              "overhead_temperature": q("320 K"), "bottoms_temperature": q("320 K")}),
        "Z": ("product", {}),
    }  # fmt: skip
    streams = ["1: F.outlet -> M.inlet", "2: M.outlet -> E.inlet", "3: E.outlet -> T.inlet", "4: T.overhead -> M.inlet", "5: T.bottoms -> Z.inlet"]
    return plant(C4, {**units, **(spec or {})}, streams)


def test_a_component_that_is_all_sent_back_is_named_before_any_pass_and_a_purge_mends_it():
    document = separated({"propane": "1", "n-butane": "0.5"})
    result = solve(document)
    (finding,) = [f for f in result.findings if f.severity == "fault"]
    assert "Nothing removes propane from the loop" in finding.text
    assert "it enters at 1" in finding.text
    assert result.loops == [] or not result.loops[0].history
    for part in finding.repair:
        document, _, _ = apply(document, edit_from_json(part))
    mended = solve(document)
    assert mended.complete
    assert abs(mended.balance.mass_gap) < 1e-8


def test_all_of_several_components_are_named_and_what_leaves_slowly_is_not():
    (finding,) = [f for f in solve(separated({"propane": "100 %", "n-pentane": "1"})).findings if f.severity == "fault"]
    assert "Nothing removes propane and n-pentane" in finding.text
    assert solve(separated({"propane": "99.9 %", "n-butane": "0.5"})).complete


def test_a_reaction_is_a_way_out_and_a_source():
    base = separated({"propane": "1"})
    units = {"R": conversions(("R1", "50 %"), outlet_temperature=q("330 K"))}
    with_reactor = plant([(c.id, c.cas) for c in base.chemistry.components], {**{u.tag: (u.type, u.spec.model_dump()) for u in base.units}, **units},
                         ["1: F.outlet -> M.inlet", "2: M.outlet -> R.inlet", "6: R.outlet -> E.inlet", "3: E.outlet -> T.inlet",
                          "4: T.overhead -> M.inlet", "5: T.bottoms -> Z.inlet"],
                         reactions=converts({"propane": -5.0, "n-pentane": 3.0}))  # fmt: skip
    assert trapped(with_reactor, ["M", "R", "E", "T"], {"1": ["propane"]}) == {}
    back = edit(with_reactor, "set_values", unit="T", values={"shares": {"values": {"n-pentane": q("1")}}})
    assert trapped(back, ["M", "R", "E", "T"], {"1": ["propane"]}) == {"n-pentane": "R"}


@pytest.mark.parametrize(
    ("kind", "spec", "outlets", "stuck"),
    [
        ("filter", {"moisture": q("10 %")}, ("cake", "filtrate"), {"sand"}),
        ("filter", {"moisture": q("10 %"), "held_back": q("90 %")}, ("cake", "filtrate"), set()),
        ("cyclone", {"caught": q("1")}, ("underflow", "overflow"), {"sand"}),
        ("cyclone", {"caught": q("0.9"), "fluid_carried": q("0")}, ("overflow", "underflow"), {"nitrogen", "water"}),
        ("dryer", {"moisture": q("0"), "temperature": q("400 K")}, ("exhaust", "product"), {"nitrogen", "water"}),
        ("dryer", {"moisture": q("5 %"), "temperature": q("400 K")}, ("product", "exhaust"), {"sand"}),
        ("drum", {"temperature": q("300 K")}, ("liquid", "vapour"), {"sand"}),
        ("three-phase-separator", {"temperature": q("300 K")}, ("heavy", "light"), {"sand"}),
        ("decanter", {"temperature": q("300 K")}, ("heavy", "light"), {"sand"}),
    ],
)
def test_separators_bar_what_their_givens_keep_in(kind, spec, outlets, stuck):
    """The first outlet goes back, the second leaves."""
    flows = {"nitrogen": q("1 kmol/h"), "water": q("5 kmol/h"), "sand": q("1 kmol/h")}
    given = {"temperature": q("300 K"), "pressure": q("2 bar"), "composition": {"basis": "mole_flow", "values": flows}}
    units = {"F": ("feed", given), "M": ("mixer", {}), "S": (kind, spec), "Z": ("product", {})}
    streams = ["1: F.outlet -> M.inlet", "2: M.outlet -> S.inlet", f"3: S.{outlets[0]} -> M.inlet", f"4: S.{outlets[1]} -> Z.inlet"]
    document = plant(AIR, units, streams, solids=(("sand", "14808-60-7"),))
    # Outlets that must be connected and are not let things out; here only those two are looked at.
    if kind != "three-phase-separator":
        assert set(trapped(document, ["M", "S"], {"1": list(flows)})) == stuck
    else:
        assert document.unit("S").operation.barred(document.unit("S").spec, "sand", True) == {"vapour", "light"}


@pytest.mark.parametrize("name", ["butanone_plant", "ammonia_loop", "salt_drying", "steam_power"])
def test_plants_that_solve_are_not_accused(name):
    document = example(name)
    flowing = {s.tag: [c.id for c in document.chemistry.components] for s in document.streams}
    result = solve(document)
    assert result.complete
    assert not [f for f in result.findings if "Nothing removes" in f.text]
    for loop in result.loops:
        outside = {s.tag: flowing[s.tag] for s in document.streams if s.source.unit not in loop.units and s.target.unit in loop.units}
        present = {tag: [c for c in ids if result.streams[tag].mole_flows[c] > 0.0] for tag, ids in outside.items() if tag in result.streams}
        assert trapped(document, loop.units, present) == {}


def test_an_outlet_that_leads_nowhere_is_led_to_a_product_by_its_repair():
    document = plant(C4, {"F": feed(), "V": ("drum", {"temperature": q("330 K")}), "Z-101": ("product", {})},
                     ["1: F.outlet -> V.inlet", "2: V.vapour -> Z-101.inlet"])  # fmt: skip
    (finding,) = [f for f in solve(document).findings if "is not connected" in f.text]
    assert (finding.place, finding.repair_title) == ("V", "Connect it to a product")
    for part in finding.repair:
        document, _, _ = apply(document, edit_from_json(part))
    assert document.units[-1].tag == "Z-102"
    result = solve(document)
    assert result.complete
    assert not [f for f in result.findings if "is not connected" in f.text]
    assert abs(result.balance.mass_gap) < 1e-9
