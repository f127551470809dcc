"""Components that no bank has: estimates against measured values, curves whose volumes add up, and what is refused."""

import numpy as np
import pytest

from wattaxis import PropertyModel, component, component_from_boiling, component_from_groups, cuts_from_distillation, edit, search, solve
from wattaxis.flowsheet import Document
from wattaxis.flowsheet.model import own_component, resolve
from wattaxis.substances.bank import bank_data
from wattaxis.substances.estimates import acentric_factor, joback_groups, true_boiling_points


def heat_capacity(c, t):
    return sum(a * t**k for k, a in enumerate(c.heat_capacity.coefficients))


@pytest.mark.parametrize(
    ("name", "groups"),
    [
        ("acetone", {1: 2, 24: 1}),
        ("n-hexane", {1: 2, 2: 4}),
        ("toluene", {1: 1, 14: 5, 15: 1}),
        ("ethyl acetate", {1: 2, 2: 1, 28: 1}),
        ("1-butanol", {1: 1, 2: 3, 20: 1}),
        ("butanone", {1: 2, 2: 1, 24: 1}),
        ("chlorobenzene", {14: 5, 15: 1, 17: 1}),
    ],
)
def test_groups_give_constants_near_the_measured_ones(name, groups):
    known = component(name)
    made = component_from_groups(name, groups, known.boiling_point).component
    assert made.molar_mass == pytest.approx(known.molar_mass, rel=1e-4)
    assert made.critical_temperature == pytest.approx(known.critical_temperature, rel=0.02)
    assert made.critical_pressure == pytest.approx(known.critical_pressure, rel=0.08)
    assert made.formation_enthalpy == pytest.approx(known.formation_enthalpy, abs=12e3)
    assert made.entropy == pytest.approx(known.entropy, rel=0.04)
    assert heat_capacity(made, 500.0) == pytest.approx(heat_capacity(known, 500.0), rel=0.05)
    assert set(made.sources.values()) <= {"given", "IUPAC atomic weights", "estimated, Joback, Reid 1987", "estimated, Lee, Kesler 1975"}


def test_the_published_example_of_the_group_method():
    """Poling, Prausnitz, O'Connell 2001, examples 2-1 and 3-1, 2-ethylphenol: from the measured 477.67 K Tc 698.1 K; 44.09 bar, -149.23 kJ/mol."""
    made = component_from_groups("2-ethylphenol", {1: 1, 2: 1, 14: 4, 15: 2, 21: 1}, 477.67).component
    assert made.critical_temperature == pytest.approx(698.1, abs=0.5)
    assert made.critical_pressure / 1e5 == pytest.approx(44.09, abs=0.05)
    assert made.formation_enthalpy / 1e3 == pytest.approx(-149.23, abs=0.02)
    assert made.formula == "C8H10O"


@pytest.mark.parametrize(
    ("name", "density"), [("n-heptane", 688.0), ("n-decane", 734.0), ("benzene", 884.0), ("toluene", 871.0), ("n-hexadecane", 777.0)]
)
def test_boiling_point_and_density_say_enough_of_a_hydrocarbon(name, density):
    known = component(name)
    made = component_from_boiling(name, known.boiling_point, density).component
    assert made.critical_temperature == pytest.approx(known.critical_temperature, rel=0.015)
    assert made.critical_pressure == pytest.approx(known.critical_pressure, rel=0.12)
    assert made.molar_mass == pytest.approx(known.molar_mass, rel=0.05)
    assert heat_capacity(made, 450.0) == pytest.approx(heat_capacity(known, 450.0), rel=0.08)
    boiling = PropertyModel("peng-robinson", [made]).flash([1.0], P=101325.0, VF=0.0).temperature
    assert boiling == pytest.approx(known.boiling_point, abs=2.0)


def test_the_acentric_factor_gives_back_the_boiling_point():
    for name in ("propane", "benzene", "n-octane"):
        known = component(name)
        found = acentric_factor(known.boiling_point / known.critical_temperature, known.critical_pressure / 1e5)
        assert found == pytest.approx(known.acentric_factor, abs=0.01)


def test_cuts_add_up_to_the_whole():
    points = [(0.0, 313.15), (0.1, 338.15), (0.3, 358.15), (0.5, 378.15), (0.7, 401.15), (0.9, 433.15), (1.0, 453.15)]
    cuts = cuts_from_distillation("N", points, 760.0, cuts=8)
    volumes = np.array([c.volume_share for c in cuts])
    assert volumes.sum() == pytest.approx(1.0)
    assert sum(c.mole_share for c in cuts) == pytest.approx(1.0)
    assert volumes @ np.array([c.density for c in cuts]) == pytest.approx(760.0, rel=1e-12)
    boiling = [c.estimated.component.boiling_point for c in cuts]
    assert boiling == sorted(boiling)
    masses = np.array([c.estimated.component.molar_mass for c in cuts])
    moles = volumes * np.array([c.density for c in cuts]) / masses
    assert np.array([c.mole_share for c in cuts]) == pytest.approx(moles / moles.sum())
    astm = [t for _, t in true_boiling_points(points)]
    assert astm[0] < points[0][1]
    assert astm[-1] > points[-2][1]  # the sharper cut starts earlier and ends later


@pytest.mark.parametrize(
    ("call", "words"),
    [
        (lambda: component_from_groups("x", {}), "at least one group"),
        (lambda: component_from_groups("x", {99: 1}), "no group 99"),
        (lambda: component_from_groups("x", {36: 1}), "no full set"),
        (lambda: component_from_boiling("x", 100.0, 700.0), "between 250 and 1000 K"),
        (lambda: component_from_boiling("x", 400.0, 7.0), "between 500 and 1200"),
        (lambda: cuts_from_distillation("x", [(0.0, 300.0)], 700.0), "two points"),
        (lambda: cuts_from_distillation("x", [(0.0, 300.0), (0.5, 290.0)], 700.0), "rises"),
        (lambda: cuts_from_distillation("x", [(0.0, 300.0), (1.0, 390.0)], 700.0, cuts=0), "1 to 40"),
    ],
)
def test_what_no_estimate_can_be_made_of_is_refused(call, words):
    with pytest.raises(ValueError, match=words):
        call()


def test_an_estimated_component_lives_in_a_document_with_its_sources():
    made = component_from_boiling("gas oil", 560.0, 850.0).component
    own = own_component(made).model_dump(mode="json")
    document = edit(Document(), "add_component", component={"id": "gas oil", "own": own, "stands_for": "the oil of the seals"})
    kept = resolve(document.chemistry.components[0])
    assert kept.sources["Tc"] == "estimated, Kesler, Lee 1976"
    assert kept.heat_capacity.low == 255.0
    assert kept.boiling_point == 560.0
    unit = {"temperature": {"value": 300, "unit": "degC"}, "pressure": {"value": 2, "unit": "bar"}, "flow": {"value": 1, "unit": "t/h"}}
    feed = {**unit, "composition": {"basis": "mole_fraction", "values": {"gas oil": {"value": 1}}}}
    plant = edit(document, "add_unit", unit={"tag": "F-1", "type": "feed", "spec": feed})
    plant = edit(plant, "add_unit", unit={"tag": "Z-1", "type": "product", "spec": {}})
    line = {"tag": "S-1", "source": {"unit": "F-1", "port": "outlet"}, "target": {"unit": "Z-1", "port": "inlet"}}
    assert solve(edit(plant, "connect", stream=line)).complete


def test_the_bank_is_large_marks_its_estimates_and_contradicts_itself_nowhere():
    entries = bank_data()["substances"]
    assert len(entries) >= 1500
    for entry in entries:
        assert all(entry[key][1] for key in ("MW", "Tc", "Pc", "omega", "Hf", "S0"))
    assert len({e["cas"] for e in entries}) == len({e["name"] for e in entries}) == len(entries)
    estimated = [e for e in entries if e["Hf"][1].startswith("estimated")]
    assert 0 < len(estimated) < len(entries) / 2
    assert search("butyl acetat")[0].cas == "123-86-4"
    assert search("mehtanol")[0].name == "methanol"
    assert joback_groups()[20].name == "-OH (alcohol)"
