"""Solids from solutions: saturation by solubilities and products, hydrates, several salts, dissolution, evaporation, and what cannot be."""

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from plants import plant, q

from wattaxis import dump, edit, guide, load, solve
from wattaxis.flowsheet import Chemistry
from wattaxis.flowsheet.model import property_model
from wattaxis.questions.reaction_look import ReactionQuestion, look_at_reaction
from wattaxis.reactions import Arrhenius, KineticsError, PowerLaw, RateLaw, Reaction
from wattaxis.reactions.kinetics import check_constant

M = {"sodium sulfate in solution": 0.14204, "potassium chloride in solution": 0.07455, "magnesium chloride in solution": 0.09521}
FORMULAS = {"sodium sulfate in solution": "Na2SO4", "potassium chloride in solution": "KCl", "magnesium chloride in solution": "MgCl2"}
#: g/100 g of water (Lide, Handbook of Chemistry and Physics): potassium chloride.
POTASSIUM = {"0 degC": 28.0, "20 degC": 34.2, "40 degC": 40.1, "60 degC": 45.8, "80 degC": 51.3}
WATER = 0.0180153


def salt(name, **more):
    own = {"molar_mass": M[name], "formation_enthalpy": -400e3, "formula": FORMULAS[name], "density": 4000.0, **more}
    return {"id": name, "own_dissolved": own}


def crystal(name, formula, mass, **more):
    own = {"molar_mass": mass, "density": 2000.0, "heat_capacity": [60.0, 0, 0, 0, 0], "formation_enthalpy": -420e3, "formula": formula, **more}
    return {"id": name, "own_solid": own}


def chemistry(*components, reactions, model="ideal"):
    parts = [{"id": "water", "cas": "7732-18-5"}, *components]
    made = [{"name": name, "numbers": numbers, "phase": "liquid"} for name, numbers in reactions.items()]
    return {"components": parts, "model": model, "reactions": [{"name": "Salts", "reactions": made}]}


def document(chem, flows, rows, **state):
    feed = {"temperature": q("80 degC"), "pressure": q("1 bar"), "composition": {"basis": "mass_flow", "values": {k: q(v) for k, v in flows.items()}}}
    cells = [{"id": str(k), "cells": {**row, **{key: q(v) for key, v in row.items() if key != "reaction"}}} for k, row in enumerate(rows, 1)]
    spec = {
        "reactions": "Salts",
        "solvent": "water",
        "solubilities": {"rows": cells},
        **{k: v if k == "curve" else q(v) for k, v in (state or {"outlet_temperature": "20 degC"}).items()},
    }
    base = plant([], {"F": ("feed", feed), "D": ("crystalliser", spec), "Z": ("product", {})}, ["1: F.outlet -> D.inlet", "2: D.outlet -> Z.inlet"])
    return base.model_copy(update={"chemistry": Chemistry.model_validate(chem)})


KCL = chemistry(
    salt("potassium chloride in solution"),
    crystal("potassium chloride", "KCl", M["potassium chloride in solution"]),
    reactions={"Crystals": {"potassium chloride in solution": -1, "potassium chloride": 1}},
)
CURVE = [{"reaction": "Crystals", "temperature": t, "solubility": f"{s} %"} for t, s in POTASSIUM.items()]


def dissolved(stream, name, solvent="water"):
    """kg of a substance by kg of solvent."""
    return stream.mass_fractions[name] / stream.mass_fractions[solvent]


def test_cooling_leaves_a_saturated_solution_and_the_rest_as_crystals():
    result = solve(document(KCL, {"water": "100 kg/h", "potassium chloride in solution": "50 kg/h"}, CURVE))
    assert result.complete
    assert not [f for f in result.findings if f.severity != "note"]
    out = result.streams["2"]
    assert dissolved(out, "potassium chloride in solution") == pytest.approx(0.342, rel=1e-10)
    assert dissolved(out, "potassium chloride") == pytest.approx(0.50 - 0.342, rel=1e-10)
    assert abs(result.balance.mass_gap) < 1e-10
    assert abs(result.balance.energy_gap) < 1e-9
    values = {(v.key, v.component): v.value for v in result.units["D"].values}
    assert values["crystals", "potassium chloride"] == pytest.approx(15.8 / 3600.0, rel=1e-9)
    assert values["saturation", "potassium chloride"] == pytest.approx(1.0, rel=1e-9)
    profile = result.units["D"].profiles[0]
    assert profile.at("solubility_1", 313.15) == pytest.approx(0.401, rel=3e-3)
    assert (profile.marks[0].place, profile.marks[0].value) == (pytest.approx(293.15), pytest.approx(0.342))


def test_with_the_heat_given_the_temperature_follows_and_back():
    flows = {"water": "100 kg/h", "potassium chloride in solution": "50 kg/h"}
    cooled = solve(document(KCL, flows, CURVE))
    duty = cooled.units["D"]["duty"]
    again = solve(document(KCL, flows, CURVE, duty=f"{duty} W"))
    assert again.streams["2"].temperature == pytest.approx(293.15, abs=1e-5)
    # The heat that crystals give off: without them it is colder to remove as much.
    weak = {**flows, "potassium chloride in solution": "30 kg/h"}
    assert solve(document(KCL, weak, CURVE)).units["D"]["duty"] > duty


def test_what_is_not_saturated_dissolves_solids_and_says_so_where_nothing_happens():
    unsaturated = solve(document(KCL, {"water": "100 kg/h", "potassium chloride in solution": "10 kg/h"}, CURVE))
    assert any("the solution is not saturated" in f.text for f in unsaturated.findings)
    assert {(v.key, v.component): v.value for v in unsaturated.units["D"].values}["saturation", "potassium chloride"] == pytest.approx(
        10 / 34.2, rel=1e-9
    )
    slurry = {"water": "100 kg/h", "potassium chloride": "60 kg/h", "potassium chloride in solution": "0 kg/h"}
    out = solve(document(KCL, slurry, CURVE)).streams["2"]
    assert dissolved(out, "potassium chloride in solution") == pytest.approx(0.342, rel=1e-10)
    little = solve(document(KCL, {**slurry, "potassium chloride": "5 kg/h"}, CURVE)).streams["2"]
    assert little.solids_fraction == pytest.approx(0.0, abs=1e-10)
    assert dissolved(little, "potassium chloride in solution") == pytest.approx(0.05, rel=1e-9)


def test_a_hydrate_takes_its_water_along():
    """Sodium sulfate with ten of water at 20 degC: 19.5 g of the salt in 100 g of water (Lide, Handbook of Chemistry and Physics)."""
    mass = M["sodium sulfate in solution"] + 10 * WATER
    chem = chemistry(
        salt("sodium sulfate in solution"),
        crystal("mirabilite", "Na2SO14H20", mass, formation_enthalpy=-4327e3),
        reactions={"Mirabilite": {"sodium sulfate in solution": -1, "water": -10, "mirabilite": 1}},
    )
    rows = [{"reaction": "Mirabilite", "temperature": "20 degC", "solubility": "19.5 %"}]
    result = solve(document(chem, {"water": "100 kg/h", "sodium sulfate in solution": "40 kg/h"}, rows))
    out = result.streams["2"]
    assert result.complete
    assert dissolved(out, "sodium sulfate in solution") == pytest.approx(0.195, rel=1e-9)
    x = (40.0 - 0.195 * 100.0) / (M["sodium sulfate in solution"] - 0.195 * 10 * WATER)  # kmol/h: what leaves takes water with it
    assert out.mass_flow * 3600.0 * out.mass_fractions["mirabilite"] == pytest.approx(x * mass, rel=1e-5)
    # The formula's mass and that of the bank's water differ in the last digits; that is told and not lost.
    assert abs(result.balance.mass_gap) < 1e-6


def two_salts():
    return chemistry(
        salt("potassium chloride in solution"),
        salt("magnesium chloride in solution"),
        crystal("potassium chloride", "KCl", M["potassium chloride in solution"]),
        crystal("double salt", "KMgCl3", M["potassium chloride in solution"] + M["magnesium chloride in solution"], formation_enthalpy=-830e3),
        reactions={
            "Crystals": {"potassium chloride in solution": -1, "potassium chloride": 1},
            "Double": {"potassium chloride in solution": -1, "magnesium chloride in solution": -1, "double salt": 1},
        },
    )


@given(water=st.floats(20.0, 300.0), potassium=st.floats(0.1, 200.0), magnesium=st.floats(0.1, 200.0), product=st.floats(0.5, 60.0))
@settings(max_examples=40, deadline=None)
def test_two_solids_are_each_saturated_or_absent(water, potassium, magnesium, product):
    """Complementarity: a product is reached where its solid is there, and below where it is not."""
    rows = [CURVE[1], {"reaction": "Double", "temperature": "20 degC", "product": f"{product}"}]
    flows = {"water": f"{water} kg/h", "potassium chloride in solution": f"{potassium} kg/h", "magnesium chloride in solution": f"{magnesium} kg/h"}
    out = solve(document(two_salts(), flows, rows)).streams["2"]
    k, mg = (dissolved(out, f"{n} chloride in solution") / M[f"{n} chloride in solution"] for n in ("potassium", "magnesium"))
    for solid, reached, limit in (
        ("potassium chloride", k, 0.342 / M["potassium chloride in solution"]),
        ("double salt", k * mg, product),
    ):
        if out.mass_fractions[solid] > 1e-9:
            assert reached == pytest.approx(limit, rel=1e-7)
        else:
            assert reached <= limit * (1.0 + 1e-7)
    whole = out.mass_flow * 3600.0
    found = whole * (out.mass_fractions["potassium chloride in solution"] + out.mass_fractions["potassium chloride"])
    bound = whole * out.mass_fractions["double salt"]
    share = M["potassium chloride in solution"] / (M["potassium chloride in solution"] + M["magnesium chloride in solution"])
    assert found + share * bound == pytest.approx(potassium, rel=1e-9)


def test_precipitation_by_exchange_leaves_the_product_of_what_stays():
    """Magnesium hydroxide from its chloride by dissolved lime: the product counts the calcium chloride that is formed beside it."""
    chem = chemistry(
        salt("magnesium chloride in solution"),
        {"id": "lime in solution", "own_dissolved": {"molar_mass": 0.07409, "formula": "CaH2O2"}},
        {"id": "calcium chloride in solution", "own_dissolved": {"molar_mass": 0.11098, "formula": "CaCl2"}},
        crystal("magnesium hydroxide", "MgH2O2", 0.05832),
        reactions={
            "Hydroxide": {"magnesium chloride in solution": -1, "lime in solution": -1, "magnesium hydroxide": 1, "calcium chloride in solution": 1}
        },
    )
    rows = [{"reaction": "Hydroxide", "temperature": "20 degC", "product": "1e-4"}]
    flows = {"water": "100 kg/h", "magnesium chloride in solution": "5 kg/h", "lime in solution": "3 kg/h", "calcium chloride in solution": "0 kg/h"}
    out = solve(document(chem, flows, rows)).streams["2"]
    water = out.mass_fractions["water"]
    mg, lime, cacl = (
        out.mass_fractions[f"{n} in solution"] / water / m
        for n, m in (("magnesium chloride", 0.09521), ("lime", 0.07409), ("calcium chloride", 0.11098))
    )
    assert mg * lime / cacl == pytest.approx(1e-4, rel=1e-8)
    assert out.mass_fractions["magnesium hydroxide"] > 0.02
    wrong = solve(document(chem, flows, [{"reaction": "Hydroxide", "temperature": "20 degC", "solubility": "1 %"}]))
    (fault,) = [f for f in wrong.findings if f.severity == "fault"]
    assert "A solubility is that of one substance" in fault.text
    assert fault.remedy == "Give its solubility product."


def test_evaporation_drives_crystals_out():
    flows = {"water": "100 kg/h", "potassium chloride in solution": "30 kg/h"}
    for model in ("ideal", "nrtl"):
        boiled = solve(document({**KCL, "model": model}, flows, CURVE, duty="45 kW"))
        out = boiled.streams["2"]
        assert boiled.complete
        vapour = out.vapour_fraction
        assert 0.2 < vapour < 0.8
        liquid_water = 100.0 - 3600.0 * out.mole_flow * (1.0 - out.mole_fractions["potassium chloride"]) * vapour * WATER
        left = 3600.0 * out.mass_flow * out.mass_fractions["potassium chloride in solution"]
        ends = [math.log(POTASSIUM[f"{t} degC"]) for t in (60, 80)]
        slope = (ends[1] - ends[0]) / (1 / 353.15 - 1 / 333.15)
        saturated = math.exp(ends[1] + slope * (1 / out.temperature - 1 / 353.15)) / 100.0
        assert left / liquid_water == pytest.approx(saturated, rel=1e-5)
        assert {v.key: v.value for v in boiled.units["D"].values}["saturation"] == pytest.approx(1.0, abs=1e-6)
        assert any("is carried on from there" in f.text for f in boiled.findings)
        assert abs(boiled.balance.energy_gap) < 1e-9


def test_at_a_given_temperature_above_that_of_boiling_saturated_all_is_dry():
    """One salt, its vapour and its crystals are together at one temperature alone."""
    flows = {"water": "100 kg/h", "potassium chloride in solution": "30 kg/h"}
    below, above = (solve(document(KCL, flows, CURVE, outlet_temperature=t)) for t in ("376.4 K", "376.6 K"))
    assert below.streams["2"].solids_fraction == 0.0
    assert above.streams["2"].mass_fractions["potassium chloride"] == pytest.approx(30.0 / 130.0, rel=1e-9)
    assert any("There is no liquid water left" in f.text for f in above.findings)


def test_the_same_bits_come_again():
    flows = {"water": "80 kg/h", "potassium chloride in solution": "50 kg/h", "magnesium chloride in solution": "40 kg/h"}
    made = document(two_salts(), flows, [CURVE[1], {"reaction": "Double", "temperature": "20 degC", "product": "3"}], duty="-5 kW")
    first, second = solve(made), solve(load(dump(made)))
    assert first.complete
    assert first.streams["2"].temperature == second.streams["2"].temperature
    assert first.streams["2"].mass_fractions == second.streams["2"].mass_fractions


@pytest.mark.parametrize(
    ("rows", "text"),
    [
        ([{"reaction": "None", "temperature": "20 degC", "solubility": "1 %"}], 'Salts has no reaction "None"'),
        ([{"reaction": "Crystals", "temperature": "20 degC", "solubility": "1 %", "product": "2"}], "has a solubility and a product"),
        ([{"reaction": "Crystals", "temperature": "20 degC", "solubility": "0 %"}], "is not above 0"),
        ([*CURVE, {"reaction": "Crystals", "temperature": "20 degC", "solubility": "30 %"}], "Two rows of Crystals are of 293.15 K and differ"),
    ],
)
def test_solubilities_that_make_no_sense_are_refused(rows, text):
    result = solve(document(KCL, {"water": "100 kg/h", "potassium chloride in solution": "50 kg/h"}, rows))
    (fault,) = [f for f in result.findings if f.severity == "fault"]
    assert text in fault.text


def test_reactions_of_another_kind_and_a_dry_feed_are_told():
    flows = {"water": "100 kg/h", "potassium chloride in solution": "50 kg/h"}
    two = {
        **KCL,
        "reactions": [{"name": "Salts", "reactions": [{"name": "Crystals", "numbers": {"potassium chloride in solution": -1, "water": 1}}]}],
    }
    unbalanced = solve(document(two, flows, CURVE))
    assert any("does not balance" in f.text for f in unbalanced.findings if f.severity == "fault")
    asked = solve(edit(document(KCL, flows, CURVE), "set_values", unit="D", values={"solvent": None}))
    assert any("solvent" in ask.fields for ask in asked.asks)
    dry = solve(document(KCL, {"water": "0 kg/h", "potassium chloride in solution": "50 kg/h"}, CURVE))
    assert any("There is no liquid water left for anything to be dissolved in" in f.text for f in dry.findings)
    assert dry.streams["2"].solids_fraction == pytest.approx(1.0)


def test_what_is_only_ever_dissolved_does_not_boil_and_stands_in_documents():
    model = property_model(Chemistry.model_validate(KCL))
    x = np.array([0.9, 0.1, 0.0])
    steam = model.flash(x, P=1e5, VF=0.5)
    assert steam.vapour_fractions[1] < 1e-25
    cold = model.flash([0.0, 1.0, 0.0], T=298.15, P=1e5)
    assert cold.enthalpy == pytest.approx(-400e3, abs=20.0)
    made = document(KCL, {"water": "100 kg/h", "potassium chloride in solution": "50 kg/h"}, CURVE)
    assert load(dump(made)) == made
    cubic = solve(edit(made, "set_model", model="peng-robinson"))
    assert any("is only ever dissolved, and Peng-Robinson knows no such substance" in f.text for f in cubic.findings)
    with pytest.raises(ValueError, match="only ever dissolved, and has no vapour pressure"):
        Chemistry.model_validate({"components": [{**salt("potassium chloride in solution"), "overrides": {"molar_mass": q("1 g/mol")}}]})


def test_the_guide_proposes_no_equation_of_state_for_what_is_only_ever_dissolved():
    proposals = guide(document(KCL, {"water": "1 kg/h", "potassium chloride in solution": "1 kg/h"}, CURVE)).proposals
    assert [p.key for p in proposals] == ["ideal", "nrtl"]
    assert "only ever dissolved" in proposals[0].reasons[0]


def test_formation_data_of_a_solution_make_no_equilibrium():
    """Neither the Gibbs nor the equilibrium reactor nor a rate backward by thermodynamics takes them for those of a gas."""
    made = document(KCL, {"water": "100 kg/h", "potassium chloride in solution": "50 kg/h"}, CURVE)

    def with_unit(kind, **spec):
        changed = edit(made, "remove_unit", tag="D")
        changed = edit(changed, "add_unit", unit={"tag": "R", "type": kind, "spec": {"outlet_temperature": q("300 K"), **spec}})
        changed = edit(changed, "connect", stream={"tag": "3", "source": {"unit": "F", "port": "outlet"}, "target": {"unit": "R", "port": "inlet"}})
        return solve(changed)

    free = with_unit("gibbs-reactor")
    assert any("potassium chloride in solution passes through as it is: its formation data are those of a solution" in f.text for f in free.findings)
    (fault,) = [f for f in with_unit("equilibrium-reactor", reactions="Salts").findings if f.severity == "fault"]
    assert "so reaction Crystals has no equilibrium constant from them: let a crystalliser form the solid" in fault.text
    model = property_model(Chemistry.model_validate({"components": KCL["components"][:2], "model": "ideal"}))
    law = RateLaw(PowerLaw({"potassium chloride in solution": 1.0}), Arrhenius(1.0))
    mirrored = Reaction("R1", {"potassium chloride in solution": -1.0}, "liquid", law, "thermodynamics")
    with pytest.raises(KineticsError, match="give the rate backward as a law of its own"):
        check_constant(mirrored, model, "give the rate backward as a law of its own")
    seen = look_at_reaction(
        Chemistry.model_validate(KCL), ReactionQuestion(text="potassium chloride in solution = potassium chloride", phase="liquid")
    )
    assert seen.heat
    assert not seen.log_constant
    assert any("they tell the heat, and no equilibrium constant" in text for text in seen.doubts)


def test_a_fitted_curve_is_the_law_that_made_the_points():
    """ln of a solubility by A + B/T + C ln T (Apelblat, Manzurola 1999) comes back from its points, and scattered ones say how far they are off."""

    def law(celsius):
        T = celsius + 273.15
        return math.exp(-9.2 - 120.0 / T + 1.5 * math.log(T))

    def rows(scatter):
        return [
            {"reaction": "Crystals", "temperature": f"{t} degC", "solubility": f"{100 * law(t) * (1.0 + s)!r} %"}
            for t, s in zip((0, 15, 35, 50, 80), scatter, strict=True)
        ]

    def crystallised(points, **more):
        flows = {"water": "100 kg/h", "potassium chloride in solution": "60 kg/h"}
        return solve(document(KCL, flows, points, outlet_temperature="24 degC", **more))

    exact = crystallised(rows([0.0] * 5), curve="fitted")
    assert dissolved(exact.streams["2"], "potassium chloride in solution") == pytest.approx(law(24), rel=1e-9)
    straight = dissolved(crystallised(rows([0.0] * 5)).streams["2"], "potassium chloride in solution")
    assert straight != pytest.approx(law(24), rel=1e-4)  # from point to point the bend is lost
    spread = crystallised(rows([0.0, 0.08, -0.08, 0.08, 0.0]), curve="fitted")
    values = {(v.key, v.component): v.value for v in spread.units["D"].values}
    assert 0.05 < values["deviation", "potassium chloride"] < 0.12
    assert any("misses the one at" in f.text for f in spread.findings)
    assert [m.name for m in spread.units["D"].profiles[0].marks] == [*["given"] * 5, "outlet"]
    twice = crystallised([*rows([0.0] * 5), *rows([0.01] * 5)], curve="fitted")  # measured twice
    assert dissolved(twice.streams["2"], "potassium chloride in solution") == pytest.approx(law(24) * 1.01**0.5, rel=1e-6)


def test_a_fit_of_too_few_points_is_refused():
    flows = {"water": "100 kg/h", "potassium chloride in solution": "50 kg/h"}
    found = solve(document(KCL, flows, CURVE[:2], outlet_temperature="20 degC", curve="fitted"))
    assert "needs 3 temperatures or more, and Crystals has 2" in " ".join(f.text for f in found.findings if f.severity == "fault")
