"""Conventional solids: their bank, their energy, the fluid beside them, and the units that part them."""

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from plants import conversions, converts, plant, q

from wattaxis import EditError, FlashError, PropertyModel, Solid, SolidHeatCapacity, SolidsModel, component, edit, search, solid, solve
from wattaxis.flowsheet.diagram_questions import QuestionError, draw, question_from_json
from wattaxis.flowsheet.model import pair_table, property_model
from wattaxis.substances.solids import bank_solids

FLUIDS = [("water", "7732-18-5"), ("nitrogen", "7727-37-9"), ("oxygen", "7782-44-7")]
SOLIDS = (("sand", "14808-60-7"), ("salt", "7647-14-5"))


def model():
    fluid = PropertyModel("peng-robinson", ["nitrogen", "water"])
    return SolidsModel(fluid, [fluid.components[0], solid("sand"), fluid.components[1], solid("sodium chloride")])


def test_every_solid_of_the_bank_has_its_constants_with_their_sources():
    assert len(bank_solids()) > 450
    for c in bank_solids():
        assert min(c.density / 500.0, c.crystal_heat_capacity.at(298.15) / 3.0) > 1.0, c.name
        assert {"MW", "rho", "Hf", "S0", "Cp"} <= c.sources.keys()
        assert all(c.sources.values())
        # The integrals belong to the heat capacity, inside its range and beyond.
        for t in (251.3, 497.7, 2503.1):
            slope = (c.enthalpy(t + 0.01) - c.enthalpy(t - 0.01)) / 0.02
            assert slope == pytest.approx(c.crystal_heat_capacity.at(t), rel=1e-5)
            over = (c.crystal_entropy(t + 0.01) - c.crystal_entropy(t - 0.01)) / 0.02
            assert over == pytest.approx(c.crystal_heat_capacity.at(t) / t, rel=1e-5)


def test_values_of_the_bank_against_literature():
    # CRC Handbook, 95th edition, standard thermodynamic properties: J/(mol K) at 298.15 K.
    for name, cp in (("sodium chloride", 50.5), ("graphite", 8.5), ("quartz", 44.4), ("copper", 24.4), ("calcium oxide", 42.0)):
        assert solid(name).crystal_heat_capacity.at(298.15) == pytest.approx(cp, rel=0.02), name
    lime = solid("limestone")
    burnt = solid("calcium oxide").formation_enthalpy + component("carbon dioxide").formation_enthalpy - lime.formation_enthalpy
    assert burnt == pytest.approx(178.3e3, rel=0.01)  # CaCO3 -> CaO + CO2, from the same handbook
    assert [type(c).__name__ for c in search("sodium chloride", 1)] == ["Solid"]
    assert search("sulfur", 1)[0].cas == search("7704-34-9", 1)[0].cas


@settings(max_examples=60, deadline=None)
@given(
    z=st.lists(st.floats(0.01, 1.0), min_size=4, max_size=4),
    t=st.floats(280.0, 700.0),
    p=st.floats(5e4, 2e6),
)
def test_energies_lead_back_to_the_temperature_and_the_fluid_is_as_without_solids(z, t, p):
    m = model()
    state = m.flash(z, T=t, P=p)
    alone = m.fluid.flash([z[0], z[2]], T=t, P=p)
    assert state.vapour_fraction == pytest.approx(alone.vapour_fraction, rel=1e-12)
    assert sum(state.amounts) == pytest.approx(1.0, abs=1e-12)
    mixed = sum(a * phase.fractions for a, phase in zip(state.amounts, state.phases, strict=True))
    assert np.allclose(mixed, state.fractions, atol=1e-10)
    for energy in ("H", "S"):
        back = m.flash(z, P=p, **{energy: state.enthalpy if energy == "H" else state.entropy})
        assert back.temperature == pytest.approx(t, abs=1e-6)
        assert back.enthalpy == pytest.approx(state.enthalpy, rel=1e-10)


def test_a_boiling_fluid_takes_the_heat_that_the_solids_leave():
    m = model()
    half = m.flash([0.0, 0.5, 0.5, 0.0], P=1e5, VF=0.5)
    back = m.flash([0.0, 0.5, 0.5, 0.0], P=1e5, H=half.enthalpy)
    assert back.vapour_fraction == pytest.approx(0.5, abs=1e-8)
    assert half.part("vapour").solid_fraction == 0.0
    assert half.part("liquid").solid_fraction == pytest.approx(0.5 / 0.75)
    dry = m.flash([0.0, 1.0, 0.0, 0.0], P=1e5, H=solid("sand").enthalpy(700.0))
    assert (dry.phase, dry.temperature) == ("solid", pytest.approx(700.0))
    with pytest.raises(FlashError, match="neither boil"):
        m.flash([0.0, 1.0, 0.0, 0.0], P=1e5, VF=0.0)
    with pytest.raises(FlashError, match="No temperature"):
        m.flash([0.1, 1.0, 0.0, 0.0], P=1e5, H=-1e7)


def test_what_does_not_fit_is_refused_in_words():
    with pytest.raises(ValueError, match="SolidsModel"):
        PropertyModel("ideal", [component("water"), solid("sand")])
    with pytest.raises(ValueError, match="must be positive"):
        Solid.of("x", molar_mass=0.1, density=0.0, heat_capacity=SolidHeatCapacity((50.0, 0.0, 0.0, 0.0, 0.0)))
    with pytest.raises(KeyError, match="no solid"):
        solid("unobtainable")
    only = plant([], {}, [], solids=SOLIDS)
    with pytest.raises(ValueError, match="only solids"):
        property_model(only.chemistry)
    with pytest.raises(EditError, match="no critical temperature"):
        edit(only, "set_constant", id="sand", name="critical_temperature", value=q("500 K"))
    lighter = edit(only, "set_constant", id="sand", name="density", value=q("2 kg/m3"))
    assert lighter.chemistry.components[0].overrides["density"].value == 2.0


def test_pairs_and_diagrams_are_about_the_fluid():
    document = plant(FLUIDS, {}, [], "nrtl", SOLIDS)
    assert {name for row in pair_table(document.chemistry) for name in (row["first"], row["second"])} == {"water", "nitrogen", "oxygen"}
    drawn = draw(document.chemistry, question_from_json({"kind": "pure", "component": "sand", "quantity": "solid heat capacity"}))
    assert len(drawn.curves[0].points) > 100
    for asked in (
        {"kind": "pure", "component": "sand", "quantity": "vapour pressure"},
        {"kind": "boiling", "first": "sand", "second": "water", "pressure": q("1 bar")},
    ):
        with pytest.raises(QuestionError, match="conventional solid"):
            draw(document.chemistry, question_from_json(asked))
    fractions = {"nitrogen": 0.4, "oxygen": 0.2, "sand": 0.4}
    shape = draw(document.chemistry, question_from_json({"kind": "envelope", "model": "peng-robinson", "fractions": fractions}))
    assert shape.curves


def slurry(**flows):
    values = {name: q(text) for name, text in flows.items()}
    return "feed", {"temperature": q("293.15 K"), "pressure": q("1.5 bar"), "composition": {"basis": "mass_flow", "values": values}}


def wash(dryer, filter_spec=None):
    units = {
        "F": slurry(water="1000 kg/h", sand="300 kg/h", salt="50 kg/h"),
        "S": ("filter", filter_spec or {"moisture": q("20 %"), "held_back": q("99 %")}),
        "D": ("dryer", dryer),
        "A": ("feed", {"temperature": q("453.15 K"), "pressure": q("1.5 bar"), "flow": q("3000 kg/h"),
              "composition": {"basis": "mole_fraction", "values": {"nitrogen": q("0.79"), "oxygen": q("0.21")}}}),
        "C": ("cyclone", {"caught": q("90 %")}),
        **{tag: ("product", {}) for tag in ("W", "X", "Y", "Z")},
    }  # fmt: skip
    streams = ["1: F.outlet -> S.inlet", "2: S.filtrate -> W.inlet", "3: S.cake -> D.inlet", "4: A.outlet -> D.gas", "5: D.exhaust -> C.inlet"]
    streams += ["6: D.product -> Y.inlet", "7: C.overflow -> X.inlet", "8: C.underflow -> Z.inlet"]
    return solve(plant(FLUIDS, units, streams, "nrtl", SOLIDS))


def test_filter_and_dryer_reach_their_moistures_and_every_balance_closes():
    result = wash({"moisture": q("1 %"), "duty": q("0 kW")})
    assert result.complete
    assert not [f for f in result.findings if f.severity == "fault"]
    assert max(abs(result.balance.mass_gap), abs(result.balance.energy_gap)) < 1e-9
    cake, dry, out = (result.streams[tag] for tag in "365")
    assert cake.mass_fractions["water"] == pytest.approx(0.2, rel=1e-12)
    assert cake.mass_flow * 3600 * cake.mass_fractions["sand"] == pytest.approx(297.0, rel=1e-12)
    assert dry.mass_fractions["water"] == pytest.approx(0.01, rel=1e-12)
    assert dry.solids_fraction == pytest.approx(0.99, rel=1e-12)
    # 83.125 kg/h of water driven out of 433.125 kg/h of cake: the heat for it is what 3000 kg/h of air give off from 180 degC on.
    evaporated = 433.125 * 0.2 - 350.0 * 0.01 / 1.0 * (433.125 * 0.8 / 0.99) / 350.0
    assert out.mass_flow * 3600 * out.mass_fractions["water"] == pytest.approx(evaporated, rel=1e-9)
    given_off = 3000.0 * 1.02 * (453.15 - out.temperature)
    taken_up = evaporated * (4.19 * (out.temperature - 293.15) + 2257.0) + 346.5 * 0.76 * (out.temperature - 293.15)
    assert given_off == pytest.approx(taken_up, rel=0.03)
    assert dry.temperature == pytest.approx(out.temperature, abs=1e-9)


def test_a_dryer_with_a_temperature_says_its_heat_and_when_the_gas_cannot_hold_the_vapour():
    hot = wash({"moisture": q("1 %"), "temperature": q("400 K")})
    value = {v.key: v.value for v in hot.units["D"].values}
    assert value["duty"] > 0.0
    assert value["moisture"] == pytest.approx(0.01, rel=1e-12)
    again = wash({"moisture": q("1 %"), "duty": {"value": value["duty"], "unit": "W"}})
    assert again.streams["5"].temperature == pytest.approx(400.0, abs=1e-7)
    cold = wash({"moisture": q("1 %"), "temperature": q("290 K")})
    assert any("cannot hold it" in f.text for f in cold.findings)
    wet = wash({"moisture": q("60 %"), "duty": q("0 kW")})
    assert any("all of it stays" in f.text for f in wet.findings)
    assert wet.streams["6"].mass_fractions["water"] == pytest.approx(0.2, rel=1e-12)
    assert any(a.place == "D" and "heat added" in a.text for a in wash({"moisture": q("1 %")}).asks)


def test_a_cyclone_parts_solids_and_as_much_fluid_as_it_is_told():
    units = {"F": slurry(nitrogen="900 kg/h", sand="100 kg/h"), "C": ("cyclone", {"caught": q("90 %"), "fluid_carried": q("2 %")})}
    units |= {"K": ("compressor", {"outlet_pressure": q("2 bar")}), "Y": ("product", {}), "Z": ("product", {})}
    streams = ["1: F.outlet -> C.inlet", "2: C.overflow -> K.inlet", "3: C.underflow -> Z.inlet", "4: K.outlet -> Y.inlet"]
    result = solve(plant(FLUIDS, units, streams, "nrtl", SOLIDS))
    over, under = result.streams["2"], result.streams["3"]
    assert over.mass_flow * 3600 == pytest.approx(0.98 * 900 + 10, rel=1e-12)
    assert under.solids_fraction == pytest.approx(90 / 108, rel=1e-12)
    assert any(f.place == "K" and "is solid, which erodes" in f.text for f in result.findings)
    assert result.streams["4"].temperature > 310.0


def test_limestone_burnt_takes_the_heat_of_its_formation_enthalpies():
    solids = (("limestone", "471-34-1"), ("lime", "1305-78-8"))
    burnt = conversions(("R1", "100 %"), outlet_temperature=q("293.15 K"))
    units = {"F": slurry(limestone="100.087 kg/h"), "R": burnt, "V": ("drum", {"duty": q("0 kW")}), "X": ("product", {}), "Y": ("product", {})}
    streams = ["1: F.outlet -> R.inlet", "2: R.outlet -> V.inlet", "3: V.vapour -> X.inlet", "4: V.liquid -> Y.inlet"]
    sets = converts({"limestone": -1.0, "lime": 1.0, "carbon dioxide": 1.0})
    result = solve(plant([("carbon dioxide", "124-38-9")], units, streams, solids=solids, reactions=sets))
    duty = next(v.value for v in result.units["R"].values if v.key == "duty")
    assert duty / (1000.0 / 3600.0) == pytest.approx(178.3e3, rel=0.01)
    assert result.streams["3"].mass_fractions["carbon dioxide"] == 1.0
    assert result.streams["4"].phase == "solid"
    assert result.streams["4"].mass_fractions["lime"] == 1.0
    assert result.streams["4"].density == pytest.approx(solid("lime").density)


def test_a_recycle_that_carries_solids_closes():
    units = {
        "F": slurry(water="1000 kg/h", sand="100 kg/h"), "M": ("mixer", {}), "C": ("cyclone", {"caught": q("80 %"), "fluid_carried": q("30 %")}),
        "B": ("component-splitter", {
            "shares": {"values": {"water": q("0.5"), "sand": q("0.5")}}, "overhead_temperature": q("293.15 K"),
            "bottoms_temperature": q("293.15 K")}),
        "P": ("pump", {"outlet_pressure": q("1.5 bar")}), "X": ("product", {}), "Y": ("product", {}),
    }  # fmt: skip
    streams = ["1: F.outlet -> M.inlet", "2: M.outlet -> C.inlet", "3: C.overflow -> B.inlet", "4: C.underflow -> X.inlet"]
    streams += ["5: B.overhead -> P.inlet", "6: B.bottoms -> Y.inlet", "7: P.outlet -> M.inlet"]
    result = solve(plant([FLUIDS[0]], units, streams, "ideal", SOLIDS[:1]))
    assert result.complete
    assert result.loops[0].closed
    # Of x kg/h into the cyclone 0.5 (1 - caught) x comes back: x = 100 + 0.1 x.
    assert result.streams["2"].mass_flow * 3600 * result.streams["2"].mass_fractions["sand"] == pytest.approx(100.0 / 0.9, rel=1e-6)
    assert math.isclose(result.balance.mass_in, result.balance.mass_out, rel_tol=1e-8)
