"""Diagrams: against the flashes they must agree with, laws that hold for every mixture, and what they say where there is nothing to draw."""

import csv
import io
import math

import numpy as np
import pytest
from scipy.optimize import brentq

from wattaxis import (
    PropertyModel,
    azeotropes,
    azeotropes_over,
    boiling_diagram,
    component,
    liquid_liquid_diagram,
    mixing_diagram,
    phase_envelope,
    property_table,
    pure_diagram,
    residue_curve,
    residue_curve_map,
    vapour_over_liquid,
)
from wattaxis.flowsheet import Chemistry
from wattaxis.flowsheet.diagram_questions import QuestionError, draw, question_from_json
from wattaxis.properties.diagrams.boiling import Boiler

ATM = 101325.0


@pytest.mark.parametrize(("kind", "names"), [("unifac", ("water", "butanone")), ("nrtl", ("butanone", "water")), ("uniquac", ("ethanol", "water"))])
def test_bubble_points_of_a_path_are_those_of_the_flash(kind, names):
    model = PropertyModel(kind, names)
    boiler = Boiler(model, ATM)
    for x in np.linspace(0.001, 0.999, 41):
        z = np.array([x, 1.0 - x])
        found, flash = boiler.at(z), model.flash(z, P=ATM, VF=0.0)
        assert found.temperature == pytest.approx(flash.temperature, rel=1e-8)
        assert found.vapour == pytest.approx(flash.vapour_fractions, abs=1e-7)


def test_over_two_liquids_the_boiling_temperature_is_one():
    """A binary of three phases has no freedom left at a pressure; close to the end of the line the flash once took a state that is not stable."""
    model = PropertyModel("unifac", ["water", "butanone"])
    found = [model.flash([x, 1.0 - x], P=ATM, VF=0.0).temperature for x in np.linspace(0.54, 0.926, 60)]
    assert max(found) - min(found) < 1e-6


def test_slopes_of_the_bubble_surface():
    rng = np.random.default_rng(2)
    for kind, p in (("unifac", ATM), ("peng-robinson", 8e5)):
        model = PropertyModel(kind, ["acetone", "chloroform", "methanol", "ethanol"])
        boiler = Boiler(model, p)
        for x in rng.dirichlet(np.ones(4), 5):
            slope = boiler.slope(x, boiler.at(x))
            for j in range(3):
                step = np.zeros(4)
                step[j], step[3] = 1e-5, -1e-5
                up, down = (np.log(boiler.at(x + s * step).vapour / (x + s * step)) for s in (1.0, -1.0))
                assert (up - down) / 2e-5 == pytest.approx(slope[:, j] - slope[:, 3], rel=2e-5, abs=2e-5)


@pytest.mark.parametrize(
    ("kind", "names"),
    [
        ("unifac", ("acetone", "chloroform", "methanol")),
        ("unifac", ("acetone", "chloroform", "methanol", "ethanol", "benzene")),
        ("unifac", ("acetone", "chloroform", "methanol", "water", "benzene")),
        ("uniquac", ("ethanol", "water", "benzene")),
        ("peng-robinson", ("propane", "n-butane", "n-pentane")),
    ],
)
def test_azeotropes_have_the_vapour_of_their_liquid_and_obey_the_index_rule(kind, names):
    model = PropertyModel(kind, names)
    found = azeotropes(model, ATM)
    assert found.complete
    assert not found.notes
    assert [p.temperature for p in found.points] == sorted(p.temperature for p in found.points)
    for point in found.azeotropes:
        state = model.flash(point.fractions, P=ATM, VF=0.0)
        assert state.temperature == pytest.approx(point.temperature, rel=1e-7)
        assert state.vapour_fractions == pytest.approx(point.fractions, abs=1e-6)
        assert (state.second_fraction > 0.0) == point.heterogeneous
    coldest, hottest = found.points[0], found.points[-1]
    assert (coldest.stability, hottest.stability) == ("unstable node", "stable node")


def test_a_gas_above_its_critical_pressure_is_left_out_of_the_search():
    found = azeotropes(PropertyModel("peng-robinson", ["hydrogen", "n-heptane", "n-hexane"]), 20e5)
    assert [p.components for p in found.points] == [("hexane",), ("heptane",)]
    assert "hydrogen" in found.notes[0]


@pytest.mark.parametrize(
    ("names", "z"),
    [
        (("ethane", "n-heptane"), (0.9, 0.1)),
        (("methane", "ethane", "propane", "n-butane", "n-pentane", "n-hexane", "nitrogen"), (0.8, 0.08, 0.05, 0.03, 0.01, 0.01, 0.02)),
        (("propane", "carbon dioxide", "n-hexane"), (0.5, 0.4, 0.1)),
        (("carbon dioxide", "n-hexadecane"), (0.9, 0.1)),
    ],
)
def test_the_envelope_is_the_border_of_two_phases(names, z):
    model = PropertyModel("peng-robinson", names)
    found = phase_envelope(model, z)
    for t, p in found.dew[2:-3:5]:
        inside, outside = model.flash(z, T=t * (1 - 1e-5), P=p), model.flash(z, T=t * (1 + 1e-5), P=p)
        assert {inside.phase == "liquid and vapour", outside.phase == "liquid and vapour"} == {True, False}
    for t, p in found.bubble[3:-3:9]:
        inside, outside = model.flash(z, T=t, P=p * (1 - 1e-5)), model.flash(z, T=t, P=p * (1 + 1e-5))
        assert len(inside.phases) > len(outside.phases)
    assert found.cricondentherm[0] >= max(found.dew[:, 0].max(), found.bubble[:, 0].max()) - 1e-9
    t, p = found.critical
    alike = model.flash(z, T=t * 0.999, P=p * 0.999)
    if len(alike.phases) == 2:
        one, two = alike.phases
        assert abs(one.compressibility - two.compressibility) < 0.25  # the phases become one


def test_the_critical_point_fulfils_its_condition():
    """There the Hessian of the Gibbs energy of the mixture is singular along the direction in which the phases part (Gibbs 1876)."""
    z = np.array([0.6, 0.4])
    model = PropertyModel("peng-robinson", ["ethane", "n-pentane"])
    t, p = phase_envelope(model, z).critical

    def curvature(t, p):
        def gap(d):
            x = z + np.array([d, -d])
            phi = model.phase("vapour", t, p, x).fugacity_coefficients
            return np.log(x[0] * phi[0]) - np.log(x[1] * phi[1])

        return (gap(1e-4) - gap(-1e-4)) / 2e-4

    scale = 1.0 / z[0] + 1.0 / z[1]
    assert abs(curvature(t, p)) < 2e-3 * scale
    assert curvature(t * 1.02, p) > 0.05 * scale


def test_tie_lines_join_liquids_of_equal_activity_and_end_at_a_plait_point():
    model = PropertyModel("unifac", ["water", "acetone", "toluene"])
    diagram = liquid_liquid_diagram(model, 298.15)
    ties = [c.points for c in diagram.curves if c.name == "tie line"]
    assert len(ties) >= 8
    for one, two in ties:
        activities = [x * model.activity_coefficients(298.15, 1e5, x) for x in (one, two)]
        assert activities[0] == pytest.approx(activities[1], rel=1e-7)
    mark = diagram.marks[0]
    assert mark.name == "plait point"
    assert sum(mark.place) == pytest.approx(1.0)
    beyond = np.add(mark.place, (0.0, 0.02, -0.02))
    assert model.flash(beyond, T=298.15, P=1e9).phase == "liquid"


def test_points_of_residue_curves_carry_their_boiling_temperatures():
    model = PropertyModel("unifac", ["acetone", "chloroform", "methanol"])
    diagram = residue_curve_map(model, ATM, curves=3)
    assert diagram.rows()[0][-1] == "temperature, K"
    for curve in diagram.curves:
        for k in (0, len(curve.points) // 2):
            flash = model.flash(np.maximum(curve.points[k], 1e-14), P=ATM, VF=0.0)
            assert curve.temperatures[k] == pytest.approx(flash.temperature, rel=1e-7)
        assert diagram.to_data()["curves"][0]["temperatures"][0] == diagram.curves[0].temperatures[0]


def test_a_residue_curve_runs_up_in_temperature_between_two_singular_points():
    model = PropertyModel("unifac", ["acetone", "chloroform", "methanol"])
    curve = residue_curve(model, ATM, [0.2, 0.3, 0.5])
    boiler = Boiler(model, ATM)
    levels = np.array([boiler.at(x / x.sum()).temperature for x in np.maximum(curve, 1e-12)])
    assert (np.diff(levels) <= 1e-6).all()  # from the hottest end to the coldest
    points = [p.fractions for p in azeotropes(model, ATM).points]
    assert min(np.abs(curve[0] - p).max() for p in points) < 5e-3
    assert min(np.abs(curve[-1] - p).max() for p in points) < 5e-3


def test_boundaries_keep_the_residue_curves_apart():
    model = PropertyModel("unifac", ["acetone", "chloroform", "methanol"])
    diagram = residue_curve_map(model, ATM, curves=10, through=[(0.3, 0.3, 0.4)])
    assert sum(c.name == "residue curve" for c in diagram.curves) == 10
    assert sum(c.name == "through a point" for c in diagram.curves) == 1
    assert {m.text for m in diagram.marks} == {"unstable node", "saddle", "stable node"}
    ends = [tuple(c.points[-1].round(2)) for c in diagram.curves if c.name == "boundary"]
    assert len(set(ends)) == 4


def test_mixing_at_the_ends_is_nothing_and_entropy_helps():
    model = PropertyModel("nrtl", ["ethanol", "water"])
    for quantity in ("gibbs energy of mixing", "excess gibbs energy", "excess enthalpy"):
        points = mixing_diagram(model, "ethanol", "water", quantity, T=298.15).curves[0].points
        assert points[[0, -1], 1] == pytest.approx(0.0, abs=1e-6)
    gamma = mixing_diagram(model, "ethanol", "water", "activity coefficients", T=298.15)
    assert [round(float(c.points[end, 1]), 9) for c, end in zip(gamma.curves, (-1, 0), strict=True)] == [1.0, 1.0]


def test_a_gas_in_a_heavy_solvent_has_a_bubble_curve_that_ends():
    diagram = boiling_diagram(PropertyModel("peng-robinson", ["methane", "n-butane"]), "methane", "n-butane", T=300.0)
    bubble = diagram.curve("bubble").points
    assert np.isnan(bubble[-1, 1])
    assert diagram.notes
    assert vapour_over_liquid(PropertyModel("ideal", ["benzene", "toluene"]), "benzene", "toluene", T=350.0).curves[0].points[40, 1] > 0.5


def test_pure_curves_and_tables_say_where_they_come_from():
    model = PropertyModel("ideal", ["water", "ethanol"])
    psat = pure_diagram(model, "water", "vapour pressure")
    assert "Perry" in psat.title
    known = psat.curve("known").points
    at_boiling = np.interp(373.15, known[:, 0], np.log(known[:, 1]))
    assert np.exp(at_boiling) == pytest.approx(ATM, rel=5e-3)
    heat = pure_diagram(PropertyModel("peng-robinson", ["water"]), "water", "heat of vaporisation").curve("known").points
    assert np.interp(373.15, heat[:, 0], heat[:, 1]) == pytest.approx(40650.0, rel=0.05)
    table = property_table(model, [0.5, 0.5], "enthalpy", [300.0, 350.0, 400.0], [1e5, 2e5])
    assert [c.name for c in table.curves] == ["1 bar", "2 bar"]
    rows = list(csv.reader(io.StringIO(table.to_csv())))
    assert rows[0][1:] == ["temperature, K", "molar enthalpy, J/mol"]
    assert len(rows) == 7


@pytest.mark.parametrize(
    ("call", "words"),
    [
        (lambda m: boiling_diagram(m, "water", "ethanol"), "one of them"),
        (lambda m: mixing_diagram(m, "water", "ethanol", "colour", T=300.0), "excess enthalpy"),
        (lambda m: pure_diagram(m, "water", "colour"), "vapour pressure"),
        (lambda m: property_table(m, [1, 1], "colour", [300.0], [1e5]), "enthalpy"),
        (lambda m: residue_curve_map(m, ATM), "three components"),
        (lambda m: liquid_liquid_diagram(m, 300.0), "three components"),
    ],
)
def test_what_cannot_be_drawn_is_said_with_what_can(call, words):
    with pytest.raises(ValueError, match=words):
        call(PropertyModel("ideal", ["water", "ethanol"]))


CHEMISTRY = Chemistry.model_validate(
    {
        "components": [{"id": i, "cas": c} for i, c in (("water", "7732-18-5"), ("MEK", "78-93-3"), ("SBA", "78-92-2"), ("H2", "1333-74-0"))],
        "model": "unifac",
    }
)


@pytest.mark.parametrize(
    "question",
    [
        {"kind": "boiling", "first": "MEK", "second": "water", "pressure": {"value": 1, "unit": "atm"}},
        {"kind": "vapour_over_liquid", "first": "MEK", "second": "water", "temperature": {"value": 60, "unit": "degC"}, "model": "nrtl"},
        {"kind": "mixing", "first": "MEK", "second": "water", "quantity": "excess enthalpy", "temperature": {"value": 60, "unit": "degC"}},
        {"kind": "pure", "component": "MEK", "quantity": "liquid density"},
        {"kind": "azeotropes", "pressure": {"value": 1, "unit": "bar"}, "components": ["water", "MEK", "SBA"]},
        {"kind": "two_liquids", "components": ["water", "MEK", "SBA"], "temperature": {"value": 25, "unit": "degC"}},
        {"kind": "residue_curves", "components": ["water", "MEK", "SBA"], "pressure": {"value": 1, "unit": "bar"}, "curves": 3},
        {"kind": "envelope", "fractions": {"MEK": 0.5, "H2": 0.5, "water": 0.0}, "own": [300.0, 2e5], "model": "peng-robinson"},
        {
            "kind": "table", "fractions": {"MEK": 1.0}, "quantity": "vapour_fraction", "coldest": {"value": 0, "unit": "degC"},
            "hottest": {"value": 150, "unit": "degC"}, "pressures": [{"value": 1, "unit": "bar"}],
        },
    ],
)  # fmt: skip
def test_questions_about_a_chemistry_are_answered_though_another_component_does_not_suit_the_model(question):
    data = draw(CHEMISTRY, question_from_json(question)).to_data()
    assert data["curves"] or data["marks"]
    for curve in data["curves"]:
        assert all(p is None or len(p) == len(data["axes"]) for p in curve["points"])


@pytest.mark.parametrize(
    ("question", "words"),
    [
        ({"kind": "circle"}, "circle"),
        ({"kind": "boiling", "first": "MEK", "second": "water"}, "one of them"),
        ({"kind": "pure", "component": "brine", "quantity": "vapour pressure"}, "brine is not among"),
        ({"kind": "pure", "component": "H2", "quantity": "vapour pressure"}, "groups of hydrogen"),
        ({"kind": "azeotropes", "pressure": {"value": 1, "unit": "degC"}, "components": ["water"]}, "degC"),
        (
            {"kind": "residue_curves", "components": ["water", "MEK", "SBA"], "pressure": {"value": 1, "unit": "bar"}, "through": [[-1, 1, 1]]},
            "negative",
        ),
    ],
)
def test_questions_without_an_answer_say_why(question, words):
    with pytest.raises(QuestionError, match=words):
        draw(CHEMISTRY, question_from_json(question))


def test_azeotropes_over_pressure_appear_where_the_closed_form_says():
    """Margules with one constant A: the azeotrope exists while |ln(P1/P2)| < A, and appears pure in the component that boils lower."""
    constant = 0.3
    names = ["acetone", "methanol"]
    model = PropertyModel("margules", names, {("acetone", "methanol"): {"a12": constant, "a21": constant}})
    pure = [PropertyModel("margules", [name]) for name in names]

    def ratio(temperature):
        one, two = (m.flash([1.0], T=temperature, VF=0.0).pressure for m in pure)
        return math.log(one / two) - constant

    border = pure[0].flash([1.0], T=brentq(ratio, 270.0, 400.0), VF=0.0).pressure
    swing = azeotropes_over(model, 0.2 * border, 5.0 * border)
    (mark,) = [m for m in swing.marks if "above" in m.text]
    assert mark.text.startswith("appears above")
    assert mark.place[0] == pytest.approx(border, rel=0.01)
    assert mark.place[1] > 0.98
    (curve,) = swing.curves
    for pressure, share in curve.points[::3]:
        found = azeotropes(model, pressure).azeotropes
        assert (share == pytest.approx(found[0].fractions[0])) if found else math.isnan(share)
    with pytest.raises(ValueError, match="lower to a higher"):
        azeotropes_over(model, 2e5, 1e5)


def test_a_triangle_by_mass_holds_the_same_points():
    ids = ["butanone", "water", "2-butanol"]
    chemistry = Chemistry.model_validate({"components": [{"id": c, "cas": component(c).cas} for c in ids], "model": "unifac"})
    masses = np.array([component(c).molar_mass for c in ids])
    ask = {"kind": "residue_curves", "components": ids, "pressure": {"value": 1.0, "unit": "atm"}, "curves": 4}
    through = np.array([0.3, 0.3, 0.4])
    by_mass = through * masses / (through @ masses)
    mole = draw(chemistry, question_from_json({**ask, "through": [list(through)]}))
    mass = draw(chemistry, question_from_json({**ask, "through": [list(by_mass)], "basis": "mass"}))
    assert mass.title.endswith("by mass")
    for one, other in zip(mole.curves, mass.curves, strict=True):
        amounts = one.points * masses
        assert np.allclose(other.points, amounts / amounts.sum(axis=1, keepdims=True), atol=1e-9, equal_nan=True)
    for one, other in zip(mole.marks, mass.marks, strict=True):
        assert other.place == pytest.approx(np.array(one.place) * masses / (np.array(one.place) @ masses))
        assert other.temperature == pytest.approx(one.temperature)


def test_two_liquids_that_part_inside_only_are_found_with_both_plait_points():
    """Two regular solutions that just mix, beside one with a strong attraction (Meijering 1950).

    Between equal amounts of those two and the first component the mixture is a regular solution of its own, with A = a - b/4.
    """
    a, b = 1.9, -3.0
    names = ["benzene", "toluene", "acetone"]
    pairs = {(names[0], names[1]): {"a12": a, "a21": a}, (names[0], names[2]): {"a12": a, "a21": a}, (names[1], names[2]): {"a12": b, "a21": b}}
    model = PropertyModel("margules", names, pairs)
    drawn = liquid_liquid_diagram(model, 300.0)
    assert [m.name for m in drawn.marks] == ["plait point", "plait point"]
    assert any("without the third" in note for note in drawn.notes)
    lean = brentq(lambda x: np.log(x / (1.0 - x)) + (a - b / 4.0) * (1.0 - 2.0 * x), 1e-3, 0.4)
    border = drawn.curves[0].points
    # Where the border crosses the line of equal amounts it has the compositions of that regular solution.
    side = border[:, 1] - border[:, 2]
    crossings = [k for k in range(len(side) - 1) if side[k] * side[k + 1] <= 0.0 and abs(side[k] - side[k + 1]) < 0.1]
    found = sorted(float(np.interp(0.0, *zip(*sorted((side[i], border[i, 0]) for i in (k, k + 1)), strict=True))) for k in crossings)
    assert found[0] == pytest.approx(lean, abs=3e-3)
    assert found[-1] == pytest.approx(1.0 - lean, abs=3e-3)
    for mark in drawn.marks:
        assert min(mark.place) > 0.01
    mixing = liquid_liquid_diagram(PropertyModel("ideal", names), 300.0)
    assert not mixing.curves
    assert mixing.notes == ("No two of these components form two liquids at this temperature.",)
