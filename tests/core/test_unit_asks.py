"""What each unit type asks for, refuses and assumes, before anything is calculated."""

import pytest
from plants import C4, feed, plant, q

from wattaxis import check, edit, solve
from wattaxis.unitops import unit_types

FULL = {
    "feed": feed()[1],
    "product": {},
    "heater": {"outlet_temperature": q("350 K")},
    "cooler": {"outlet_temperature": q("300 K")},
    "drum": {"temperature": q("330 K")},
    "valve": {"outlet_pressure": q("3 bar")},
    "pipe": {"length": q("100 m"), "diameter": q("100 mm")},
    "mixer": {},
    "splitter": {"share_1": q("0.4")},
}


def test_every_unit_type_is_complete_in_itself():
    assert set(unit_types()) >= set(FULL)
    letters = set()
    for operation in unit_types().values():
        assert operation.title
        assert len(operation.theory) > 30
        keys = [f.key for f in operation.fields]
        assert len(set(keys)) == len(keys)
        assert set(keys) == set(operation.Spec.model_fields)
        for choice in operation.choices:
            assert set(choice.fields) <= set(keys)
            # A choice of one field is a value that is needed, or assumed where nobody gives it.
            assert 1 <= choice.count < len(choice.fields) or len(choice.fields) == 1
        assert all(0 <= c <= 1 for port in operation.ports for c in port.place)
        letters.add(operation.letter)
    assert len(letters) >= 6


@pytest.mark.parametrize(
    ("kind", "spec", "asks"),
    [
        ("feed", {}, ["2 values for its state", "composition", "total flow"]),
        (
            "feed",
            {"temperature": q("300 K")},
            ["one value more for its state: pressure, vapour fraction, superheat, subcooling, enthalpy or entropy", "composition", "total flow"],
        ),
        ("feed", {**FULL["feed"], "flow": None}, ["total flow"]),
        ("heater", {}, ["one value for its outlet"]),
        (
            "cooler",
            {"pressure_change": q("-1 bar")},
            ["temperature change, heat removed, outlet vapour fraction, superheat or subcooling"],
        ),
        ("drum", {}, ["one value for its condition: temperature, heat added or vapour fraction"]),
        ("valve", {}, ["outlet pressure, pressure change or flow coefficient"]),
        ("mixer", {}, []),
        ("splitter", {}, ["share of 1 of its branches"]),
    ],
)
def test_asks_say_what_is_missing_and_what_could_serve(kind, spec, asks):
    found = check(plant(C4, {"U": (kind, {k: v for k, v in spec.items() if v is not None})}, []))
    texts = [a.text for a in found.asks if "connected" not in a.text]
    assert len(texts) == len(asks)
    for text, wanted in zip(texts, asks, strict=True):
        assert wanted in text
    assert found.units["U"].mark == ("open" if found.asks else "ready")


@pytest.mark.parametrize("kind", sorted(set(FULL) - {"feed"}))
def test_a_unit_without_inlet_asks_for_the_connection(kind):
    found = check(plant(C4, {"U": (kind, FULL[kind])}, []))
    assert any("nothing connected to its inlet" in a.text for a in found.asks)


@pytest.mark.parametrize(
    ("spec", "field"),
    [
        ({"temperature": q("300 K"), "pressure": q("5 bar"), "vapour_fraction": q("0.5")}, "vapour_fraction"),
        ({"composition": {"basis": "mole_flow", "values": {"propane": q("1 kmol/h")}}, "flow": q("3 kmol/h")}, "flow"),
    ],
)
def test_a_feed_with_too_much_names_the_quarrel(spec, field):
    finding = next(f for f in check(plant(C4, {"F": ("feed", spec)}, [])).findings if f.severity == "fault")
    assert finding.field == field
    assert finding.repair[0]["values"] == {field: None}


@pytest.mark.parametrize(("kind", "assumed"), [("heater", 1), ("cooler", 1), ("drum", 1), ("valve", 2), ("mixer", 0), ("pipe", 5)])
def test_assumptions_are_listed_with_their_reason(kind, assumed):
    found = [a for a in check(plant(C4, {"U": (kind, FULL[kind])}, [])).assumptions if a.place == "U"]
    assert len(found) == assumed
    assert all(any(word in a.reason for word in ("given", "assumed")) for a in found)


@pytest.mark.parametrize(
    ("kind", "spec", "says"),
    [
        ("heater", {"outlet_temperature": q("280 K")}, "cools its stream"),
        ("cooler", {"outlet_temperature": q("400 K")}, "heats its stream"),
        ("cooler", {"outlet_temperature": q("300 K"), "pressure_change": q("0.5 bar")}, "there is no pump here"),
        ("cooler", {"temperature_change": q("-400 K")}, "absolute zero"),
        ("cooler", {"outlet_temperature": q("300 K"), "pressure_change": q("-11 bar")}, "leaves no pressure"),
        ("cooler", {"duty": q("900 MW")}, "more heat than the stream can give off"),
        ("heater", {"duty": q("9 GW")}, "below 6000 K"),
        ("drum", {"temperature": q("250 K")}, "No vapour forms"),
        ("drum", {"temperature": q("500 K")}, "No liquid forms"),
        ("drum", {"temperature": q("330 K"), "outlet_pressure": q("12 bar")}, "above its inlet"),
        ("splitter", {"share_1": q("0.7"), "share_2": q("0.7")}, "sum to 1.4"),
        ("heater", {"outlet_vapour_fraction": q("0.5"), "outlet_pressure": q("300 bar")}, "no state"),
    ],
)
def test_findings_tell_the_physical_cause(kind, spec, says):
    result = solve(plant(C4, {"F": feed(), "U": (kind, spec)}, ["S: F.outlet -> U.inlet"]))
    told = [f for f in result.findings if f.place == "U" and says in f.text]
    assert told, [f.text for f in result.findings]
    assert told[0].remedy


def test_repairs_that_come_with_a_finding_mend_it():
    document = plant(
        C4, {"F": feed(), "U": ("cooler", {"outlet_temperature": q("300 K"), "pressure_change": q("0.5 bar")})}, ["S: F.outlet -> U.inlet"]
    )

    finding = next(f for f in solve(document).findings if "no pump" in f.text)
    mended = solve(edit(document, **finding.repair[0]))
    assert not any("no pump" in f.text for f in mended.findings)
    values = {v.key: v.value for v in mended.units["U"].values}
    assert values["pressure_change"] == pytest.approx(-0.5e5)
