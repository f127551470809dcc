"""The component bank and its search."""

import pytest

from wattaxis import Document, EditError, component, edit, search, solid
from wattaxis.substances import atoms_of, bank_pair, gibbs_energy_of_formation
from wattaxis.substances.bank import bank_data


def test_the_bank_is_large_and_every_value_has_a_source():
    entries = bank_data()["substances"]
    assert len(entries) >= 1000
    for entry in entries:
        for name in ("MW", "Tc", "Pc", "omega", "Hf", "S0"):
            value, source = entry[name]
            assert source, (entry["name"], name)
            assert value == value
        assert entry["Cp"]["source"]
        assert entry["Psat"]["source"]


@pytest.mark.parametrize(
    ("query", "cas"),
    [
        ("butanone", "78-93-3"),
        ("MEK", "78-93-3"),
        ("methyl ethyl ketone", "78-93-3"),
        ("2-butanol", "78-92-2"),
        ("sec-butyl alcohol", "78-92-2"),
        ("78-92-2", "78-92-2"),
        ("H2O", "7732-18-5"),
        ("watr", "7732-18-5"),
        ("hydrogen", "1333-74-0"),
        ("ethylbenzen", "100-41-4"),
    ],
)
def test_search_by_name_synonym_formula_and_cas(query, cas):
    assert cas in [c.cas for c in search(query, 3)]


def test_formula_shows_isomers_side_by_side():
    assert {"78-92-2", "71-36-3", "75-65-0", "60-29-7"} <= {c.cas for c in search("C4H10O", 12)}


def test_unknown_names_say_what_is_near():
    with pytest.raises(KeyError, match="butanone"):
        component("butanonne")


@pytest.mark.parametrize(
    ("name", "critical_temperature", "critical_pressure", "formation_enthalpy", "entropy"),
    [
        # NIST Chemistry WebBook and CODATA key values
        ("methane", 190.56, 45.99e5, -74.6e3, 186.3),
        ("water", 647.10, 220.64e5, -241.83e3, 188.84),
        ("benzene", 562.0, 48.9e5, 82.9e3, 269.2),
        ("hydrogen", 33.15, 12.96e5, 0.0, 130.68),
    ],
)
def test_constants_of_well_known_substances(name, critical_temperature, critical_pressure, formation_enthalpy, entropy):
    c = component(name)
    assert c.critical_temperature == pytest.approx(critical_temperature, rel=2e-3)
    assert c.critical_pressure == pytest.approx(critical_pressure, rel=1e-2)
    assert c.formation_enthalpy == pytest.approx(formation_enthalpy, abs=600)
    assert c.entropy == pytest.approx(entropy, abs=0.6)


def test_pairs_of_the_bank():
    assert bank_pair("peng-robinson", "74-82-8", "124-38-9").values["kij"] == pytest.approx(0.09, abs=0.03)
    assert bank_pair("peng-robinson", "74-82-8", "74-82-8") is None
    ethanol_water, turned = bank_pair("nrtl", "64-17-5", "7732-18-5"), bank_pair("nrtl", "7732-18-5", "64-17-5")
    assert (ethanol_water.values["b12"], ethanol_water.values["alpha"]) == (turned.values["b21"], turned.values["alpha"])


def test_a_constant_of_the_bank_gives_way_to_ones_own_and_comes_back():
    from wattaxis.flowsheet import apply, edit_from_json, load, property_model
    from wattaxis.flowsheet.document import dump

    plant = edit(Document(), "add_component", component={"id": "butanone", "cas": "78-93-3"})
    change = {"kind": "set_constant", "id": "butanone", "name": "critical_pressure", "value": {"value": 40.0, "unit": "bar"}}
    changed, inverse, label = apply(plant, edit_from_json(change))
    assert label == "critical pressure of butanone -> 40 bar"
    assert apply(changed, inverse)[0] == plant
    assert load(dump(changed)) == changed
    own = property_model(changed.chemistry).components[0]
    assert (own.critical_pressure, own.sources["Pc"], own.id) == (4e6, "typed in", "butanone")
    assert own.critical_temperature == component("butanone").critical_temperature
    free = edit(changed, "set_constant", id="butanone", name="critical_pressure")
    assert free == plant
    for bad in ({"value": 40.0, "unit": "kg"}, {"value": -1.0, "unit": "bar"}):
        with pytest.raises(EditError):
            edit(plant, "set_constant", id="butanone", name="critical_pressure", value=bad)
    with pytest.raises(EditError, match="between -1 and 3"):
        edit(plant, "set_constant", id="butanone", name="acentric_factor", value={"value": 7.0})
    with pytest.raises(EditError, match="not among"):
        edit(plant, "set_constant", id="gold", name="entropy", value=None)


@pytest.mark.parametrize(
    ("name", "kilojoules"),
    # CRC Handbook of Chemistry and Physics, 95th edition, standard thermodynamic properties
    [("methane", -50.5), ("carbon dioxide", -394.4), ("ammonia", -16.4), ("benzene", 129.7), ("ethanol", -167.9), ("hydrogen", 0.0)],
)
def test_gibbs_energies_of_formation(name, kilojoules):
    assert gibbs_energy_of_formation(component(name)) / 1e3 == pytest.approx(kilojoules, abs=0.8)


def test_gibbs_energies_of_crystals_and_of_what_is_not_known():
    assert gibbs_energy_of_formation(solid("sodium chloride")) / 1e3 == pytest.approx(-384.1, abs=1.0)
    assert gibbs_energy_of_formation(solid("calcium carbonate")) / 1e3 == pytest.approx(-1128.8, abs=3.0)
    assert atoms_of("?") is None
    assert atoms_of("CH3COOH") == {"C": 2, "H": 4, "O": 2}
