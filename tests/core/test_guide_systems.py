"""Sixty systems with the textbook's answer: what the guide proposes first, whether two liquids are to be expected, and what it must warn of.

After the decision trees of Carlson (1996, Chemical Engineering Progress 92, 10, 35) and Poling, Prausnitz, O'Connell (2001, chapter 8).
"""

import pytest

from wattaxis import Document, component, edit, guide

CUBIC = {"peng-robinson", "soave-redlich-kwong"}
ACTIVITY = {"nrtl", "uniquac", "wilson", "unifac-dortmund"}
UNDER_PRESSURE = CUBIC | {"predictive-soave-redlich-kwong"}
STEAM = {"steam"}

#: Names, highest pressure typed (bar), what may come first, two liquids or not (None: not asked), a word that some caution of the first must hold.
SYSTEMS = [
    ("water", 1, STEAM, False, ""),
    ("methane, ethane, propane", 30, CUBIC, False, ""),
    ("propane, n-butane, isobutane", 10, CUBIC, False, ""),
    ("n-hexane, n-heptane, cyclohexane", 1, CUBIC, False, ""),
    ("benzene, toluene", 1, CUBIC | {"ideal"}, False, ""),
    ("ethylbenzene, styrene, hydrogen", 1, CUBIC, False, ""),
    ("hydrogen, methane, carbon monoxide", 50, CUBIC, False, ""),
    ("nitrogen, oxygen, argon", 6, CUBIC, False, ""),
    ("hydrogen, nitrogen, ammonia", 200, CUBIC, False, ""),
    ("methane, carbon dioxide, hydrogen sulfide", 60, CUBIC, False, ""),
    ("methane, ethane, propane, water", 70, UNDER_PRESSURE, None, "water content"),
    ("methane, carbon dioxide, hydrogen sulfide, water", 70, UNDER_PRESSURE, None, "ions" if False else "water content"),
    ("ethylene, ethane", 20, CUBIC, False, ""),
    ("propylene, propane", 18, CUBIC, False, ""),
    ("carbon dioxide, n-decane", 100, CUBIC, False, ""),
    ("carbon dioxide, methanol", 60, UNDER_PRESSURE, False, ""),
    ("hydrogen, carbon monoxide, carbon dioxide, methanol, water", 80, UNDER_PRESSURE, False, ""),
    ("norflurane, difluoromethane", 15, CUBIC, False, ""),
    ("chloromethane, dichloromethane, chloroform", 1, CUBIC | ACTIVITY, False, ""),
    ("ethanol, water", 1, ACTIVITY, False, ""),
    ("methanol, water", 1, ACTIVITY, False, ""),
    ("isopropanol, water", 1, ACTIVITY, False, ""),
    ("1-butanol, water", 1, ACTIVITY - {"wilson"}, True, "two liquids"),
    ("isobutanol, water", 1, ACTIVITY - {"wilson"}, True, "two liquids"),
    ("butanone, water", 1, ACTIVITY - {"wilson"}, True, "two liquids"),
    ("2-butanol, butanone, water", 1, ACTIVITY - {"wilson"}, True, ""),
    ("acetone, water", 1, ACTIVITY, False, ""),
    ("acetonitrile, water", 1, ACTIVITY, False, ""),
    ("tetrahydrofuran, water", 1, ACTIVITY, False, ""),
    ("ethyl acetate, water", 1, ACTIVITY - {"wilson"}, True, "two liquids"),
    ("ethyl acetate, ethanol, water", 1, ACTIVITY - {"wilson"}, True, ""),
    ("butyl acetate, 1-butanol, water", 1, ACTIVITY - {"wilson"}, True, ""),
    ("benzene, ethanol, water", 1, ACTIVITY - {"wilson"}, True, ""),
    ("toluene, water", 1, ACTIVITY - {"wilson"}, True, ""),
    ("n-hexane, water", 1, ACTIVITY - {"wilson"}, True, ""),
    ("methanol, n-hexane", 1, ACTIVITY - {"wilson"}, True, ""),
    ("ethanol, n-heptane", 1, ACTIVITY, False, ""),
    ("acetone, methanol", 1, ACTIVITY, False, ""),
    ("acetone, chloroform", 1, ACTIVITY, False, ""),
    ("methanol, benzene", 1, ACTIVITY, False, ""),
    ("n,n-dimethylformamide, n-heptane", 1, ACTIVITY - {"wilson"}, True, ""),
    ("furfural, cyclohexane", 1, ACTIVITY - {"wilson"}, True, ""),
    ("furfural, water", 1, ACTIVITY - {"wilson"}, True, ""),
    ("phenol, water", 1, ACTIVITY - {"wilson"}, True, ""),
    ("aniline, water", 1, ACTIVITY - {"wilson"}, True, ""),
    ("ethylene glycol, water", 1, ACTIVITY, False, ""),
    ("glycerol, water", 1, ACTIVITY, False, ""),
    ("diethyl ether, water", 1, ACTIVITY - {"wilson"}, True, ""),
    ("diisopropyl ether, isopropanol, water", 1, ACTIVITY - {"wilson"}, True, ""),
    ("acetic acid, water", 1, ACTIVITY, False, "associat"),
    ("formic acid, acetic acid", 1, ACTIVITY, False, "associat"),
    ("propionic acid, water", 1, ACTIVITY, False, "associat"),
    ("ammonia, water", 1, ACTIVITY, False, ""),
    ("ammonia, water", 20, ACTIVITY | UNDER_PRESSURE, False, ""),
    ("hydrochloric acid, water", 1, ACTIVITY, False, "ions"),
    ("ammonia, carbon dioxide, water", 1, ACTIVITY | CUBIC, False, "ions"),
    ("ethanolamine, carbon dioxide, water", 1, ACTIVITY | CUBIC, False, "ions"),
    ("sulfuric acid, water", 1, ACTIVITY, False, "ions"),
    ("hydrofluoric acid, water", 1, ACTIVITY, False, "hexamers"),
    ("nitrogen, acetone, water", 1, ACTIVITY, False, "Henry"),
    ("hydrogen, 2-butanol, butanone", 2, ACTIVITY, False, "Henry"),
    ("oxygen, water", 1, ACTIVITY | CUBIC, False, ""),
    ("ethanol, propane, water", 35, UNDER_PRESSURE, None, ""),
]


def asked(names, bar):
    document = Document()
    for name in names.split(", "):
        document = edit(document, "add_component", component={"id": name, "cas": component(name).cas})
    spec = {"pressure": f"{bar} bar", "temperature": "300 K"}
    return guide(edit(document, "add_unit", unit={"tag": "F", "type": "feed", "spec": spec, "x": 0, "y": 0}))


def verdict(system):
    """Why the guide's answer is not the textbook's; empty where it is."""
    names, bar, first, parts, word = system
    found = asked(names, bar)
    best = found.proposals[0]
    told = next(a.found for a in found.answers if a.question == "Two liquids?")
    everything = " ".join([*best.cautions, *best.reasons, *(a.question + a.found for a in found.answers if a.found != "none")])
    if best.key not in first:
        return f"{names}: {best.key} first"
    if parts is not None and parts is not told.startswith("to be expected"):
        return f"{names}: two liquids {told}"
    return "" if word.lower() in everything.lower() else f"{names}: nothing said of {word}"


def test_nineteen_in_twenty_systems_are_answered_as_in_the_textbook():
    wrong = [text for text in map(verdict, SYSTEMS) if text]
    assert len(SYSTEMS) >= 60
    assert len(wrong) <= 0.05 * len(SYSTEMS), wrong


@pytest.mark.parametrize("names", ["hydrochloric acid, water", "sulfuric acid, water", "ammonia, carbon dioxide, water"])
def test_every_model_for_ions_is_proposed_with_a_warning(names):
    assert all(any("ions" in caution for caution in proposal.cautions) for proposal in asked(names, 1).proposals)


def test_a_typed_temperature_near_the_critical_one_is_told():
    document = edit(Document(), "add_component", component={"id": "isobutane", "cas": "75-28-5"})
    document = edit(document, "add_component", component={"id": "methanol", "cas": "67-56-1"})
    unit = {"tag": "F", "type": "feed", "spec": {"pressure": "20 bar", "temperature": "390 K"}, "x": 0, "y": 0}
    near = guide(edit(document, "add_unit", unit=unit))
    assert any("isobutane" in a.found for a in near.answers if a.question == "Near a critical temperature?")
