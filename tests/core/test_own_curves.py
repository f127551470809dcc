"""Properties over temperature of one's own in the place of the bank's: kept as typed, used wherever they count, taken back."""

import numpy as np
import pytest
from plants import demo, plant, q

from wattaxis import EditError, PropertyModel, compare, dump, edit, load, pure_diagram, solve
from wattaxis.flowsheet import apply, edit_from_json
from wattaxis.flowsheet.model import property_model, resolve
from wattaxis.substances import component
from wattaxis.substances.curves import component_curve

HOT = {"temperature_unit": "degC", "unit": "g/L", "rows": [[60.0, 700.0], [20.0, 760.0], [40.0, 735.0]], "source": "our laboratory"}


def chemistry(model="nrtl", name="liquid density", curve=HOT):
    document = plant([("ethanol", "64-17-5"), ("water", "7732-18-5")], {}, [], model)
    return edit(document, "set_curve", id="ethanol", name=name, curve=curve)


def test_a_curve_goes_through_its_points_and_says_where_it_comes_from():
    own = resolve(chemistry().chemistry.components[0])
    curve = component_curve(own, "liquid density")
    assert (curve.low, curve.high, curve.source, curve.estimated) == (pytest.approx(293.15), pytest.approx(333.15), "our laboratory", False)
    assert [curve.at(t) for t in (293.15, 313.15, 333.15)] == pytest.approx([760.0, 735.0, 700.0])
    assert curve.at(250.0) == pytest.approx(760.0)
    assert 700.0 < curve.at(325.0) < 735.0
    assert component_curve(own, "surface tension").source == component_curve(component("ethanol"), "surface tension").source


def test_volumes_of_activity_models_follow_an_own_density():
    model = property_model(chemistry().chemistry)
    pure = model.flash([1.0, 0.0], T=313.15, P=1e5)
    assert pure.liquid.density == pytest.approx(735.0, rel=1e-3)
    bank = PropertyModel("nrtl", ["ethanol", "water"])
    for x in (0.2, 0.7):
        mine, theirs = (m.flash([x, 1 - x], T=313.15, P=1e5).molar_volume for m in (model, bank))
        apart = pure.molar_volume - bank.flash([1.0, 0.0], T=313.15, P=1e5).molar_volume
        assert mine - theirs == pytest.approx(x * apart, rel=1e-9)


def test_shifted_volumes_meet_an_own_density():
    t = 0.7 * component("ethanol").critical_temperature
    rows = [[t - 5.0, 655.0], [t, 650.0], [t + 5.0, 645.0]]
    document = chemistry("peng-robinson", curve={"unit": "kg/m3", "rows": rows})
    document = edit(document, "set_model", translated=True)
    assert property_model(document.chemistry).flash([1.0, 0.0], T=t, VF=0.0).liquid.density == pytest.approx(650.0, rel=2e-3)


def test_a_heat_capacity_of_the_gas_enters_every_energy():
    rows = [[300.0, 80.0], [400.0, 90.0], [500.0, 100.0], [700.0, 120.0]]
    document = chemistry("ideal", "ideal-gas heat capacity", {"unit": "J/mol/K", "rows": rows})
    model = property_model(document.chemistry)
    hot, cold = (model.phase("vapour", t, 1e3, [1.0, 0.0]) for t in (600.0, 400.0))
    assert hot.enthalpy - cold.enthalpy == pytest.approx(200.0 * 100.0, rel=1e-9)  # 50 + T/10 between
    assert hot.heat_capacity == pytest.approx(110.0, rel=1e-9)
    notes = model.ranges_left(model.flash([1.0, 0.0], T=800.0, P=1e3))
    assert any("known from 300 to 700 K" in note for note in notes)
    one = property_model(chemistry("ideal", "ideal-gas heat capacity", {"unit": "J/mol/K", "rows": [[300.0, 75.0]]}).chemistry)
    assert one.phase("vapour", 500.0, 1e3, [1.0, 0.0]).heat_capacity == pytest.approx(75.0)


def test_streams_and_diagrams_take_the_own_curve():
    viscous = {"unit": "mPa*s", "rows": [[280.0, 9.0], [360.0, 5.0]], "source": "rheometer"}
    feed = {
        "temperature": q("320 K"),
        "pressure": q("2 bar"),
        "flow": q("1 kg/s"),
        "composition": {"basis": "mole_fraction", "values": {"ethanol": q("1 ")}},
    }
    document = plant([("ethanol", "64-17-5")], {"F": ("feed", feed), "Z": ("product", {})}, ["1: F.outlet -> Z.inlet"], "ideal")
    before = solve(document).streams["1"].phases[0].viscosity
    document = edit(document, "set_curve", id="ethanol", name="liquid viscosity", curve=viscous)
    after = solve(document).streams["1"].phases[0].viscosity
    assert after == pytest.approx(7e-3, rel=0.01)
    assert before < 1e-3
    drawn = pure_diagram(property_model(document.chemistry), "ethanol", "liquid viscosity")
    assert "rheometer" in drawn.title + " ".join(drawn.notes)
    assert np.nanmax(drawn.curves[0].points[:, 1]) == pytest.approx(9e-3, rel=1e-6)


def test_a_curve_is_kept_as_typed_compared_taken_over_and_taken_back():
    base = plant([("ethanol", "64-17-5"), ("water", "7732-18-5")], {}, [], "nrtl")
    changed, inverse, label = apply(base, edit_from_json({"kind": "set_curve", "id": "ethanol", "name": "liquid density", "curve": HOT}))
    assert label == "liquid density of ethanol -> 3 points of its own"
    assert apply(changed, inverse)[0] == base
    assert load(dump(changed)) == changed
    (difference,) = compare([base, changed]).givens
    assert "own liquid density: 3 points, our laboratory" in difference.texts[1]
    assert edit(base, "batch", edits=list(difference.take[1]), label="taken over") == changed


@pytest.mark.parametrize(
    ("name", "curve", "words"),
    [
        ("liquid density", {**HOT, "unit": "kg"}, "liquid density"),
        ("liquid density", {**HOT, "rows": [[20.0, 0.0]]}, "above zero"),
        ("liquid density", {**HOT, "rows": [[20.0, 700.0], [20.0, 710.0]]}, "another temperature"),
        ("liquid density", {**HOT, "rows": [[20.0, None]]}, "at least one point"),
        ("colour", HOT, "there is no curve"),
    ],
)
def test_curves_that_cannot_be_are_refused_in_words(name, curve, words):
    with pytest.raises(EditError, match=words):
        edit(chemistry(), "set_curve", id="ethanol", name=name, curve=curve)
    with pytest.raises(EditError, match="not among"):
        edit(demo(), "set_curve", id="gold", name="liquid density", curve=HOT)
