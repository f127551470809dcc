"""What is said where a property model contradicts measured heats, and where a state that is asked for does not exist."""

import re

import pytest
from plants import plant, q

from wattaxis import FlashError, PropertyModel, solve, with_groups
from wattaxis.substances import bank_pair, component


def mixed(model, first, second, share, temperature):
    feed = {"temperature": q(temperature), "pressure": q("5 bar"), "flow": q("10 kmol/h"), "composition": {
        "basis": "mole_fraction", "values": {first[0]: q(f"{share} "), second[0]: q(f"{1 - share} ")}}}  # fmt: skip
    units = {"F": ("feed", feed), "Z": ("product", {})}
    return solve(plant([first, second], units, ["S1: F.outlet -> Z.inlet"], model))


@pytest.mark.parametrize(
    ("first", "second", "temperature", "wrong"),
    [
        (("ethanol", "64-17-5"), ("water", "7732-18-5"), "25 degC", True),
        (("methanol", "67-56-1"), ("water", "7732-18-5"), "25 degC", True),
        (("chloroform", "67-66-3"), ("methanol", "67-56-1"), "25 degC", True),
        (("benzene", "71-43-2"), ("cyclohexane", "110-82-7"), "25 degC", False),
        (("n-hexane", "110-54-3"), ("ethanol", "64-17-5"), "25 degC", False),
    ],
)
def test_a_heat_of_mixing_of_the_wrong_sign_is_told(first, second, temperature, wrong):
    """Measured at 25 degC: ethanol, methanol with water -0.4 and -0.8 kJ/mol, chloroform with methanol below zero in part; the others above."""
    result = mixed("nrtl", first, second, 0.5, temperature)
    told = [f.text for f in result.findings if "not fitted to heats" in f.text]
    assert bool(told) == wrong
    groups = mixed("unifac-dortmund", first, second, 0.5, temperature)
    assert not [f for f in groups.findings if "not fitted to heats" in f.text]


@pytest.mark.parametrize(
    ("parts", "shares", "asked"),
    [
        (["methane"], [1.0], {"T": 300.0, "VF": 0.5}),
        (["ethane", "n-heptane"], [0.9, 0.1], {"T": 500.8, "VF": 0.5}),
        (["ethane", "n-heptane"], [0.5, 0.5], {"P": 150e5, "VF": 0.5}),
        (["water"], [1.0], {"P": 300e5, "VF": 0.0}),
    ],
)
def test_a_state_that_is_not_there_names_the_nearest_that_is(parts, shares, asked):
    model = PropertyModel("peng-robinson", parts)
    with pytest.raises(FlashError) as refused:
        model.flash(shares, **asked)
    assert refused.value.reason == "no such state"
    t, bar = map(float, re.search(r"nearest below is at (\S+) K and (\S+) bar", str(refused.value)).groups())
    name, value = ("T", t) if "T" in asked else ("P", bar * 1e5)
    assert model.flash(shares, **{**asked, name: value * 0.9999}).pressure < 1e9
    with pytest.raises(FlashError):
        model.flash(shares, **{**asked, name: value * 1.001})


def test_groups_of_ones_own_serve_what_the_bank_has_none_for():
    ethanol = with_groups(component("ethanol"), "unifac", {"CH3": 1, "CH2": 1, "OH": 1})
    known, own = (PropertyModel("unifac", [c, component("water")]) for c in (component("ethanol"), ethanol))
    assert own.activity_coefficients(350.0, 1e5, [0.3, 0.7]) == pytest.approx(known.activity_coefficients(350.0, 1e5, [0.3, 0.7]), rel=1e-14)
    methyl = with_groups(ethanol, "unifac", {"CH3": 2})
    assert PropertyModel("unifac", [methyl, component("water")]).activity_coefficients(350.0, 1e5, [0.3, 0.7])[0] > 5.0
    with pytest.raises(ValueError, match="has the groups"):
        with_groups(ethanol, "unifac", {"CH7": 1})
    with pytest.raises(KeyError):
        with_groups(ethanol, "nonsense", {"CH3": 1})


@pytest.mark.parametrize(
    ("model", "first", "second"),
    [
        ("peng-robinson", "methane", "hydrogen sulfide"),
        ("peng-robinson", "methane", "water"),
        ("peng-robinson", "ethanol", "water"),
        ("soave-redlich-kwong", "methane", "hydrogen sulfide"),
        ("nrtl", "1-propanol", "water"),
        ("nrtl", "2-propanol", "water"),
        ("nrtl", "acetic acid", "water"),
        ("nrtl", "ethylene glycol", "water"),
    ],
)
def test_common_pairs_are_known_with_what_they_were_fitted_to(model, first, second):
    one, other = component(first).cas, component(second).cas
    pair, turned = bank_pair(model, one, other), bank_pair(model, other, one)
    assert pair is not None
    assert pair.quality in ("measured fit", "estimated")
    assert pair.source == turned.source
    swapped = {
        name: turned.values[name[:-2] + {"12": "21", "21": "12"}[name[-2:]]] if name[-2:] in ("12", "21") else turned.values[name]
        for name in pair.values
    }
    assert swapped == pair.values
