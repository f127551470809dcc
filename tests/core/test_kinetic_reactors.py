"""Reactors with rates: what holds whatever the reactions, and what is said of those that cannot be calculated."""

import re

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from plants import plant

from wattaxis import EditError, Memory, edit, solve
from wattaxis.flowsheet import Chemistry
from wattaxis.questions import ReactionQuestion, look_at_reaction
from wattaxis.substances import atoms_of, component
from wattaxis.unitops.reaction.tank import Tank

PARTS = [("methane", "74-82-8"), ("water", "7732-18-5"), ("carbon monoxide", "630-08-0"), ("hydrogen", "1333-74-0"), ("carbon dioxide", "124-38-9"),
         ("ethane", "74-84-0"), ("ethylene", "74-85-1")]  # fmt: skip
NUMBERS = [
    {"methane": -1, "water": -1, "carbon monoxide": 1, "hydrogen": 3},
    {"carbon monoxide": -1, "water": -1, "carbon dioxide": 1, "hydrogen": 1},
    {"ethane": -1, "ethylene": 1, "hydrogen": 1},
    {"methane": -2, "ethylene": 1, "hydrogen": 2},
]


def made(number, value=1.0, energy=60.0, backward="thermodynamics", **more):
    numbers = NUMBERS[number]
    orders = {name: float(-n) for name, n in numbers.items() if n < 0}
    rate = {"orders": orders, "basis": "mole fraction", "value": value, "unit": "mol/(m3 s)", "energy": f"{energy} kJ/mol", "reference": "900 K"}
    return {"name": f"R{number}", "numbers": numbers, "forward": rate, "backward": backward, **more}


def reactor(kind, reactions, spec, parts=PARTS, shares=None, state=None, name="Main"):
    values = {c: {"value": share} for c, share in (shares or {"methane": 0.3, "water": 0.4, "ethane": 0.2, "hydrogen": 0.1}).items()}
    whole = {"temperature": "900 K", "pressure": "3 bar", "flow": "20 mol/s", **(state or {})}
    units = {
        "F": ("feed", {**whole, "composition": {"basis": "mole_fraction", "values": values}}),
        "U": (kind, {"reactions": "Main", **spec}),
        "Z": ("product", {}),
    }
    lines = ["S-1: F.outlet -> U.inlet", "S-2: U.outlet -> Z.inlet"]
    return plant(parts, units, lines, "ideal", reactions=[{"name": name, "reactions": reactions}])


def faults(document):
    result = solve(document)
    return " ".join(f.text for f in result.findings if f.severity == "fault" and f.place == "U")


@settings(max_examples=25, deadline=None)
@given(
    st.lists(st.sampled_from(range(4)), min_size=1, max_size=3, unique=True),
    st.floats(-2.0, 3.0),
    st.floats(0.0, 150.0),
    st.sampled_from([
        ("plug-flow-reactor", {"volume": "4 m3"}), ("plug-flow-reactor", {"volume": "4 m3", "heat": "isothermal"}),
        ("plug-flow-reactor", {"volume": "4 m3", "heat": "heat spread evenly", "duty": "200 kW"}),
        ("stirred-tank", {"volume": "4 m3", "outlet_temperature": "880 K"}), ("stirred-tank", {"volume": "4 m3", "duty": "-50 kW"}),
    ]),
)  # fmt: skip
def test_elements_and_energy_are_kept_and_nothing_is_negative(which, decades, energy, reactor_of):
    kind, spec = reactor_of
    # Where the temperature is not held, what takes heat has to come to an end: one way it would cool to nothing.
    backward = None if spec.get("heat") == "isothermal" or "outlet_temperature" in spec else "thermodynamics"
    result = solve(reactor(kind, [made(k, 10.0**decades, energy, backward) for k in which], spec))
    assert result.complete, [f.text for f in result.findings]
    before, after = (np.array(list(result.streams[s].mole_flows.values())) for s in ("S-1", "S-2"))
    atoms = [atoms_of(component(cas).formula) for _, cas in PARTS]
    for element in ("C", "H", "O"):
        counts = np.array([a.get(element, 0) for a in atoms])
        assert before @ counts == pytest.approx(after @ counts, rel=1e-12)
    assert after.min() >= 0.0
    duty = next(v.value for v in result.units["U"].values if v.key == "duty")
    given_in = {"heat spread evenly": 2e5}.get(spec.get("heat", ""), -5e4 if spec.get("duty") == "-50 kW" else None)
    if given_in is not None:
        assert duty == pytest.approx(given_in, rel=1e-6)


def test_a_cascade_of_tanks_tends_to_the_tube():
    one_way = [made(2, 30.0, backward=None)]
    tube = solve(reactor("plug-flow-reactor", one_way, {"volume": "1 m3", "heat": "isothermal"})).streams["S-2"].mole_flows["ethane"]
    lacks = []
    for number in (1, 4, 16):
        units = {"F": ("feed", reactor("stirred-tank", one_way, {}).unit("F").spec.model_dump(exclude_none=True)), "Z": ("product", {})}
        lines = []
        for k in range(number):
            units[f"U{k}"] = ("stirred-tank", {"reactions": "Main", "volume": f"{1 / number} m3", "outlet_temperature": "900 K"})
            lines.append(f"S{k}: {f'U{k - 1}' if k else 'F'}.outlet -> U{k}.inlet")
        lines.append(f"S-2: U{number - 1}.outlet -> Z.inlet")
        document = plant(PARTS, units, lines, "ideal", reactions=[{"name": "Main", "reactions": one_way}])
        lacks.append(solve(document).streams["S-2"].mole_flows["ethane"] - tube)
    assert lacks[0] > lacks[1] > lacks[2] > 0.0
    assert lacks[2] < 0.12 * lacks[0]


@pytest.mark.parametrize("spec", [{"outlet_temperature": "900 K"}, {"duty": "-30 kW"}, {"coolant_temperature": "850 K", "conductance": "0.2 kW/K"}])
def test_tanks_in_series_are_as_so_many_units(spec):
    """One unit of three tanks against three units; heat that is given is shared evenly."""
    rates = [made(0), made(2, 3.0)]
    together = solve(reactor("stirred-tank", rates, {"volume": "0.4 m3", "tanks": "3", **spec}))
    each = {**spec, "duty": "-10 kW"} if "duty" in spec else spec
    units = {"F": ("feed", reactor("stirred-tank", rates, {}).unit("F").spec.model_dump(exclude_none=True)), "Z": ("product", {})}
    units |= {f"U{k}": ("stirred-tank", {"reactions": "Main", "volume": "0.4 m3", **each}) for k in range(3)}
    lines = ["S0: F.outlet -> U0.inlet", "S1: U0.outlet -> U1.inlet", "S3: U1.outlet -> U2.inlet", "S-2: U2.outlet -> Z.inlet"]
    apart = solve(plant(PARTS, units, lines, "ideal", reactions=[{"name": "Main", "reactions": rates}]))
    assert together.complete
    one, other = together.streams["S-2"], apart.streams["S-2"]
    assert one.temperature == pytest.approx(other.temperature, rel=1e-9)
    for name, flow in other.mole_flows.items():
        assert one.mole_flows[name] == pytest.approx(flow, rel=1e-8, abs=1e-12)
    told = {v.key: v.value for v in together.units["U"].values}
    assert told["duty"] == pytest.approx(sum(apart.units[f"U{k}"]["duty"] for k in range(3)), rel=1e-8)
    assert told["volume_in_all"] == pytest.approx(1.2, rel=1e-9)
    (profile,) = together.units["U"].profiles
    assert profile.at("temperature", 2.0) == pytest.approx(apart.streams["S3"].temperature, rel=1e-9)


@pytest.mark.parametrize(
    ("tanks", "more", "text"),
    [("2.5", {}, "1 to 100 tanks, and not 2.5"), ("0", {}, "not 0"), ("3", {"volume": None, "conversion": "40 %"}, "that of one tank")],
)
def test_so_many_tanks_there_are_not(tanks, more, text):
    spec = {"volume": "1 m3", "outlet_temperature": "900 K", "tanks": tanks, **more}
    result = solve(reactor("stirred-tank", [made(0)], {key: value for key, value in spec.items() if value is not None}))
    (fault,) = [f for f in result.findings if f.severity == "fault"]
    assert text in fault.text


def test_a_reaction_changes_the_reactors_that_use_its_set_and_no_others():
    document = reactor("stirred-tank", [made(0)], {"volume": "2 m3", "outlet_temperature": "900 K"})
    document = edit(document, "set_reactions", name="Other", reactions={"name": "Other", "reactions": [made(1)]})
    memory = Memory()
    before = solve(document, memory=memory)
    hits = memory.hits
    again = solve(edit(document, "set_reaction", of="Other", name="R1", reaction=made(1, 5.0)), memory=memory)
    assert memory.hits == hits + len(document.units)
    assert again.streams == before.streams
    faster = solve(edit(document, "set_reaction", of="Main", name="R0", reaction=made(0, 5.0)), memory=memory)
    assert faster.streams["S-2"].mole_flows["methane"] < before.streams["S-2"].mole_flows["methane"]


def test_another_name_goes_through_the_reactors():
    document = reactor("stirred-tank", [made(0)], {"volume": "2 m3", "outlet_temperature": "900 K"})
    renamed = edit(document, "set_reactions", name="Main", reactions={"name": "Reforming", "reactions": [made(0)]})
    assert renamed.unit("U").spec.reactions == "Reforming"
    assert solve(renamed).streams == solve(document).streams


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"name": "Else"}, 'There is no reaction set "Main"'),
        ({"reactions": []}, "is empty"),
        ({"reactions": [made(0, forward=None)]}, "R0 has no rate"),
        ({"reactions": [{**made(0), "numbers": {"methane": -1, "hydrogen": 3}}]}, "does not balance: 1 C too few, 2 H too many"),
        ({"reactions": [made(0, forward={**made(0)["forward"], "basis": "activity"})]}, "counts in activities, which are those of a liquid"),
        ({"reactions": [made(0), made(1, phase="liquid")]}, "is in the liquid, others of Main in the vapour"),
        ({"parts": [p for p in PARTS if p[0] != "carbon monoxide"]}, "carbon monoxide, which the plant does not have any more"),
        ({"spec": {"volume": "2 m3", "base": "hydrogen"}, "reactions": [made(2, backward=None)]}, "hydrogen, the base component, is used up by none"),
        ({"state": {"temperature": "300 K"}}, "take place in the vapour, and what comes in is liquid and vapour"),
        ({"spec": {"conversion": "99.99 %"}}, "and no further, however large the reactor"),
        ({"spec": {"volume": "2 m3", "heat": "heat spread evenly", "duty": "-9 MW"}}, "leads to no temperature"),
    ],
)
def test_what_cannot_be_calculated_says_why(change, says):
    parts = {"kind": "plug-flow-reactor", "reactions": [made(0)], "spec": {"volume": "2 m3"}, **change}
    assert says in faults(reactor(**parts))


def test_a_constant_of_another_dimension_is_refused_with_both_stated():
    document = reactor("stirred-tank", [made(0)], {"volume": "2 m3", "outlet_temperature": "900 K"})
    wrong = made(0)
    wrong["forward"] = {**wrong["forward"], "unit": "1/s"}
    with pytest.raises((EditError, ValueError), match=r"units like mol/\(m3 s\), and this has those of 1/s"):
        edit(document, "set_reaction", of="Main", name="R0", reaction=wrong)


def test_rates_by_mass_of_catalyst_ask_for_it():
    by_mass = made(0)
    by_mass["forward"] = {**by_mass["forward"], "per": "catalyst mass", "unit": "mol/(kg s)"}
    assert "how much of it a volume of the reactor holds" in faults(reactor("plug-flow-reactor", [by_mass], {"volume": "2 m3"}))


CHEMISTRY = Chemistry.model_validate({"components": [{"id": name, "cas": cas} for name, cas in PARTS], "model": "ideal"})


def test_a_reaction_is_looked_at_while_it_is_written():
    look = look_at_reaction(CHEMISTRY, ReactionQuestion(text="CH4 + H2O = CO + 2 H2"))
    assert (look.gap, look.balanced_text) == ("The products have 2 H less than the reactants.", "methane + water = carbon monoxide + 3 hydrogen")
    look = look_at_reaction(CHEMISTRY, ReactionQuestion(text=look.balanced_text, forward={"orders": {"methane": 1}, "value": 3.0, "unit": "1/min"}))
    assert look.gap == ""
    assert look.heat_at_reference == pytest.approx(205.9e3, rel=5e-3)
    assert look.forward.constant_si == pytest.approx(0.05)
    assert look.forward.half_lives[0] == pytest.approx(0.5 / 0.05 / 0.5 / 2.0, rel=1e-6)  # half of it is methane, two moles go at once
    wrong = look_at_reaction(CHEMISTRY, ReactionQuestion(text="CH4 = CO", forward={"orders": {"methane": 2}, "value": 3.0, "unit": "1/min"}))
    assert "does not fit a rate law of order 2" in wrong.forward.problem
    assert look_at_reaction(CHEMISTRY, ReactionQuestion(text="CH4 = gold")).problem.startswith('"gold" is no component of this plant')


def written(expression, per="volume", **constants):
    """A law as an expression; constants as "value unit"."""
    typed = [dict(zip(("value", "unit"), (float(text.partition(" ")[0]), text.partition(" ")[2]), strict=True)) for text in constants.values()]
    return {"expression": expression, "per": per, "constants": [{"name": name, **c} for name, c in zip(constants, typed, strict=True)]}


@pytest.mark.parametrize(
    ("law", "says"),
    [
        (written("k * c[ethane]", k="1 mol/(m3 s)"), "comes out in mol^2/(m^6 s), and a rate per volume is in mol/(m3 s)"),
        (written("k * c[ethane]"), "speaks of k, whose value is not given"),
        (written("k * (c[ethane] + p[ethane])", k="1 1/s"), "Something in mol/m^3 and something in kg/(m s^2) cannot be added"),
        (written("k * exp(T)", k="1 mol/(m3 s)"), "exp takes a plain number, not one in K"),
        (written("k * c[ethane]^n", k="1 1/s", n="1 "), "raised to a number that is written out"),
        (written("k * c[ethane", k="1 1/s"), "is not understood; a partial pressure is written like p[water]"),
        (written("k * __import__(1)", k="1 1/s"), "is not understood"),
        (written("k * open(1)", k="1 1/s"), "There is no function open"),
        (written("2 furlong * c[ethane]"), "furlong"),
        (written("k * c[ethane] * exp(-T / 25 degC)", k="1 1/s"), "degC does not count from nothing"),
        (written("k * c[ethane] / K * p[ethane]", k="1 1/s", K="1 barg"), "barg does not count from nothing"),
        (written("k * c[ethane]^(1 / 0)", k="1 1/s"), "The exponent has no value: float division by zero"),
        (written("T * c[ethane]", T="1 1/s"), "T is the temperature of the mixture"),
        ({**written("k * c[ethane]", k="1 1/s"), "adsorption": []}, "Extra inputs are not permitted"),
        ({"orders": {"ethane": 1}, "value": 1, "unit": "1/s", "adsorption": [{"orders": {"ethane": 1}, "value": 1, "unit": "1/bar"}]},
         "does not fit a term of order 1 in concentration: its constant has units like m3/mol, and this has m s^2/kg"),
    ],
)  # fmt: skip
def test_laws_that_do_not_fit_are_refused_with_what_would(law, says):
    document = reactor("stirred-tank", [made(2)], {"volume": "1 m3", "outlet_temperature": "900 K"})
    with pytest.raises(EditError, match=re.escape(says)):
        edit(document, "set_reaction", of="Main", name="R2", reaction={**made(2), "forward": law})


def test_an_expression_is_the_law_that_it_says():
    """The same law as powers and as an expression, with the way back by thermodynamics; and one with temperature and a square root."""
    numbers = NUMBERS[2]
    powers = {"orders": {"ethane": 1}, "basis": "concentration", "value": 2.0, "unit": "1/s", "energy": "80 kJ/mol", "reference": "900 K"}
    text = {**written("k * c[ethane]"), "constants": [{"name": "k", "value": 2.0, "unit": "1/s", "energy": "80 kJ/mol", "reference": "900 K"}]}
    for backward in (None, "thermodynamics"):
        for kind, spec in (("plug-flow-reactor", {"volume": "1 m3"}), ("stirred-tank", {"volume": "1 m3", "duty": "0 kW"})):
            sides = [{"name": "R1", "numbers": numbers, "forward": law, "backward": backward} for law in (powers, text)]
            one, other = (solve(reactor(kind, [side], spec)).streams["S-2"] for side in sides)
            assert one.mole_flows == pytest.approx(other.mole_flows, rel=1e-9)
    root = written("k * sqrt(c[ethane] * c[methane]) * max(T / 900 K, 0.5)^-1.5 * exp(-E / T)", k="3 1/s", E="1 K")
    flat = {"orders": {"ethane": 0.5, "methane": 0.5}, "value": 3.0, "unit": "1/s", "energy": "8.31446261815324 J/mol"}
    spec = {"volume": "1 m3", "outlet_temperature": "900 K"}
    sides = [{"name": "R1", "numbers": numbers, "forward": law} for law in (root, flat)]
    one, other = (solve(reactor("stirred-tank", [side], spec)).streams["S-2"] for side in sides)
    assert one.mole_flows == pytest.approx(other.mole_flows, rel=1e-9)


def test_an_expression_without_a_value_is_told_with_its_place():
    law = written("k * ln(c[ethylene] / C0)", k="1 mol/(m3 s)", C0="1 mol/m3")
    told = faults(reactor("plug-flow-reactor", [{"name": "R1", "numbers": NUMBERS[2], "forward": law}], {"volume": "1 m3"}))
    assert "The rate of R1 cannot be calculated at 900 K, as its expression is written" in told


def test_what_is_to_be_seen_of_terms_and_expressions_while_they_are_written():
    chemistry = Chemistry(components=[{"id": name, "cas": cas} for name, cas in PARTS])
    text = "ethane = ethylene + hydrogen"
    open_law = look_at_reaction(chemistry, ReactionQuestion(text=text, forward={"expression": "k * c[ethane] / (1 + Kx * c[hydrogen])"}))
    assert open_law.forward.symbols == ("k", "Kx")
    law = written("k * c[ethane] / (1 + Kx * c[hydrogen])", k="0.5 1/s", Kx="2 L/mol")
    closed = look_at_reaction(chemistry, ReactionQuestion(text=text, forward=law)).forward
    assert closed.problem == ""
    assert closed.half_lives[0] == pytest.approx(1.0, rel=1e-9)  # from ethane alone: 0.5 / (0.5/s)
    strange = look_at_reaction(chemistry, ReactionQuestion(text=text, forward=written("k * c[gold]", k="1 1/s"))).forward
    assert strange.problem == "The plant has no component gold."
    terms = {"orders": {"ethane": 1}, "basis": "partial pressure", "value": 1.0, "unit": "mol/(m3 s bar)",
             "adsorption": [{"orders": {"hydrogen": 0.5}, "value": 0.3, "unit": "bar^-0.5"}, {"orders": {"ethylene": 1}}]}  # fmt: skip
    seen = look_at_reaction(chemistry, ReactionQuestion(text=text, forward=terms)).forward
    assert seen.law == "r = k p[ethane] / (1 + K1 p[hydrogen]^0.5 + K2 p[ethylene])"
    assert seen.term_units == ("1/bar^0.5", "1/bar")


def test_temperatures_at_which_a_tank_could_not_be_calculated_are_told(monkeypatch):
    whole = Tank.at
    monkeypatch.setattr(Tank, "at", lambda self, T, start=None: None if 700.0 < T < 750.0 else whole(self, T, start))
    result = solve(reactor("stirred-tank", [made(2)], {"volume": "1 m3", "duty": "0 kW"}))
    assert result.complete
    assert any("of 121 temperatures between 70" in f.text and "no steady state was found" in f.text for f in result.findings)
