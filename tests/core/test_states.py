"""What a state tells of itself: phases, parts, tables; and what a property model refuses."""

import numpy as np
import pytest

from wattaxis import FlashError, PropertyModel, component

LIGHT = ["methane", "n-butane", "n-decane"]


@pytest.fixture(scope="module")
def state():
    return PropertyModel("peng-robinson", LIGHT).flash([0.5, 0.3, 0.2], T=320.0, P=40e5)


def test_phases_come_liquid_first_and_add_up(state):
    liquid, vapour = state.phases
    assert (liquid.kind, vapour.kind) == ("liquid", "vapour")
    beta = state.vapour_fraction
    for name in ("enthalpy", "entropy", "molar_volume"):
        assert getattr(state, name) == pytest.approx((1 - beta) * getattr(liquid, name) + beta * getattr(vapour, name), rel=1e-12)
    assert liquid.density > 5 * vapour.density
    assert state.molar_mass == pytest.approx((1 - beta) * liquid.molar_mass + beta * vapour.molar_mass, rel=1e-9)


@pytest.mark.parametrize("kind", ["liquid", "vapour"])
def test_a_part_is_that_phase_alone(state, kind):
    part = state.part(kind)
    phase = getattr(state, kind)
    assert part.phase == kind
    assert part.enthalpy == phase.enthalpy
    assert part.fractions is phase.fractions or np.array_equal(part.fractions, phase.fractions)
    assert part.vapour_fraction == (1.0 if kind == "vapour" else 0.0)


def test_the_part_that_is_not_there_has_the_incipient_composition():
    model = PropertyModel("peng-robinson", LIGHT)
    bubble = model.flash([0.1, 0.3, 0.6], T=320.0, VF=0.0)
    assert bubble.part("vapour").fractions[0] > 0.9
    single = model.flash([0.1, 0.3, 0.6], T=320.0, P=200e5)
    assert np.array_equal(single.part("vapour").fractions, single.fractions)


def test_two_liquids_hold_no_vapour():
    model = PropertyModel("peng-robinson", ["water", "n-decane"])
    state = model.flash([0.5, 0.5], T=300.0, P=20e5)
    assert state.two_liquids
    assert state.vapour_fraction == 0.0
    assert state.phase == "liquid and second liquid"
    assert state.vapour is None
    assert state.part("liquid") is state
    assert max(p.fractions[0] for p in state.phases) > 0.99  # nearly pure water beside nearly pure decane
    assert max(p.fractions[1] for p in state.phases) > 0.95
    back = model.flash([0.5, 0.5], P=20e5, H=state.enthalpy)
    assert back.temperature == pytest.approx(300.0, rel=1e-8)
    assert back.two_liquids


def test_states_show_themselves(state):
    assert "320" in repr(state)
    table = state._repr_html_()
    assert "methane" in table
    assert table.count("<tr>") == 4


def test_saturated_pure_states_take_the_phase_that_was_asked_for():
    for kind in ("ideal", "peng-robinson", "soave-redlich-kwong"):
        model = PropertyModel(kind, ["n-butane"])
        wet, dry = (model.flash([1.0], P=3e5, VF=v) for v in (0.0, 1.0))
        assert wet.temperature == pytest.approx(dry.temperature, rel=1e-12)
        assert dry.enthalpy - wet.enthalpy > 15e3
        half = model.flash([1.0], P=3e5, H=0.5 * (wet.enthalpy + dry.enthalpy))
        assert half.vapour_fraction == pytest.approx(0.5, abs=1e-6)
        assert half.temperature == pytest.approx(wet.temperature, rel=1e-8)
        entropy = 0.25 * wet.entropy + 0.75 * dry.entropy
        assert model.flash([1.0], P=3e5, S=entropy).vapour_fraction == pytest.approx(0.75, abs=1e-6)


def test_many_states_at_once_equal_single_ones():
    model = PropertyModel("soave-redlich-kwong", LIGHT)
    rng = np.random.default_rng(2)
    z, t, p = rng.dirichlet(np.ones(3), 60), rng.uniform(250, 500, 60), 10 ** rng.uniform(4, 7, 60)
    status, fraction, x, y = model.flash_many(z, t, p)
    for k in range(60):
        one = model.flash(z[k], T=t[k], P=p[k])
        assert status[k] in (0, 3)
        assert fraction[k] == pytest.approx(one.light_fraction, abs=1e-10)
        assert x[k] == pytest.approx(one.liquid_fractions, abs=1e-9)
        assert y[k] == pytest.approx(one.vapour_fractions, abs=1e-9)


@pytest.mark.parametrize(
    ("kind", "parts", "pairs", "says"),
    [
        ("van-laar-ish", ["methane"], None, "no property model"),
        ("ideal", [], None, "at least one component"),
        ("ideal", ["methane", "methane"], None, "same id"),
        ("peng-robinson", ["methane", "ethane"], {("methane", "ethane"): 1.5}, "-2 to 0.999"),
        ("peng-robinson", ["methane", "ethane"], {("methane", "methane"): 0.1}, "a pair joins two components"),
    ],
)
def test_models_that_cannot_be_made_say_why(kind, parts, pairs, says):
    with pytest.raises(ValueError, match=says):
        PropertyModel(kind, parts, pairs)


def test_unknown_names_are_key_errors_in_words():
    with pytest.raises(KeyError, match="Nearest"):
        PropertyModel("ideal", ["ethanoll"])
    with pytest.raises(KeyError, match="not one of the components"):
        PropertyModel("peng-robinson", ["methane", "ethane"], {("methane", "propane"): 0.1})


def test_components_are_found_by_synonym_in_pairs_and_index():
    model = PropertyModel("peng-robinson", ["n-butane", "MEK"], {("butane", "78-93-3"): 0.05})
    assert model.pairs[0, 0, 1] == model.pairs[0, 1, 0] == 0.05
    assert model.index("methyl ethyl ketone") == 1


def test_bank_pairs_can_be_left_out():
    assert PropertyModel("peng-robinson", ["methane", "carbon dioxide"]).pairs[0, 0, 1] != 0.0
    assert PropertyModel("peng-robinson", ["methane", "carbon dioxide"], bank_pairs=False).pairs[0, 0, 1] == 0.0


def test_no_state_above_the_critical_point():
    c = component("propane")
    model = PropertyModel("peng-robinson", ["propane"])
    with pytest.raises(FlashError) as caught:
        model.flash([1.0], T=1.05 * c.critical_temperature, VF=0.5)
    assert caught.value.reason == "no such state"


def test_ranges_that_are_left_are_told_per_component():
    model = PropertyModel("ideal", ["water", "butanone"])
    notes = model.ranges_left(model.flash([0.5, 0.5], T=1700.0, P=1e5))
    assert [n for n in notes if "heat capacity" in n] == ["the heat capacity of butanone is known from 200 to 1500 K and kept constant beyond"]
    assert sum("heat capacity" in n for n in model.ranges_left(model.flash([0.5, 0.5], T=3100.0, P=1e5))) == 2
    assert not any("vapour pressure" in n for n in notes)  # a vapour alone needs none
    wet = model.ranges_left(model.flash([0.5, 0.5], T=260.0, P=1e5))
    assert any("vapour pressure of water" in n for n in wet)
    assert model.ranges_left(model.flash([0.5, 0.5], T=350.0, P=1e5)) == []
