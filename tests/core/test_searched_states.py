"""States by an enthalpy or entropy beside a temperature, a vapour fraction or each other."""

from itertools import product

import numpy as np
import pytest
from plants import plant, q

from wattaxis import FlashError, PropertyModel, SolidsModel, model_infos, solid, solve

MODELS = {
    "cubic": lambda: PropertyModel("peng-robinson", ["propane", "n-butane", "n-hexane"]),
    "pure": lambda: PropertyModel("soave-redlich-kwong", ["propane"]),
    "polar": lambda: PropertyModel("nrtl", ["ethanol", "water", "butanone"], vapour="soave-redlich-kwong"),
    "water": lambda: PropertyModel("steam", ["water"]),
    "dusty": lambda: dusty(),
}


def dusty():
    fluid = PropertyModel("peng-robinson", ["propane", "n-pentane"])
    return SolidsModel(fluid, [*fluid.components, solid("sand")])


def states(model, count, rng):
    """Random states, about half of them boiling."""
    n = len(model.components)
    for k in range(count):
        z, t = rng.dirichlet(np.ones(n)), rng.uniform(285.0, 350.0)
        if k % 2:
            yield z, model.flash(z, T=t, P=10 ** rng.uniform(4.5, 6.5))
        else:
            try:
                yield z, model.flash(z, T=t, VF=rng.uniform(0.1, 0.9))
            except FlashError:
                continue


@pytest.mark.parametrize("name", MODELS)
@pytest.mark.parametrize("names", ["TS", "HS", "TH", "VH", "VS"])
def test_a_state_comes_back_from_its_energies(name, names):
    """Each has the two values that were asked for; with T and S, and H and S, there is but one such state."""
    model, found = MODELS[name](), 0
    for z, state in states(model, 12, np.random.default_rng(3)):
        if "V" in names and not 0.0 < state.vapour_fraction < 1.0:
            continue
        values = {"T": state.temperature, "H": state.enthalpy, "S": state.entropy, "VF": state.vapour_fraction}
        given = {"VF" if k == "V" else k: values["VF" if k == "V" else k] for k in names}
        try:
            back = model.flash(z, **given)
        except FlashError as error:
            # A liquid of an activity model hardly feels the pressure, and solids alone do not.
            assert "do not settle the pressure" in str(error), (given, state)
            continue
        found += 1
        reached = {"T": back.temperature, "H": back.enthalpy, "S": back.entropy, "VF": back.vapour_fraction}
        for key, value in given.items():
            assert reached[key] == pytest.approx(value, rel=1e-7, abs=1e-7), (given, state, back)
        if names in ("TS", "HS"):
            assert back.temperature == pytest.approx(state.temperature, rel=1e-6)
            assert back.pressure == pytest.approx(state.pressure, rel=1e-4)
    assert found >= 4


def test_an_ideal_gas_says_that_its_enthalpy_tells_nothing_of_the_pressure():
    model = PropertyModel("ideal", ["benzene", "toluene"])
    state = model.flash([0.5, 0.5], T=400.0, P=1e5)
    with pytest.raises(FlashError, match="Give the pressure"):
        model.flash([0.5, 0.5], T=400.0, H=state.enthalpy)
    with pytest.raises(FlashError, match="no state with"):
        model.flash([0.5, 0.5], VF=0.5, H=state.enthalpy + 1e6)
    with pytest.raises(ValueError, match="Give two of T, P, VF, H and S"):
        model.flash([0.5, 0.5], T=300.0, P=1e5, H=state.enthalpy)


def test_steam_by_enthalpy_and_entropy_is_that_of_a_second_library():
    """The chart of enthalpy over entropy, read at random places; enthalpies and entropies against those of the boiling liquid at 1 bar."""
    from CoolProp.CoolProp import PropsSI

    model = PropertyModel("steam", ["water"])
    zero = model.flash([1.0], P=1e5, VF=0.0)
    base = PropsSI("Hmolar", "P", 1e5, "Q", 0, "Water"), PropsSI("Smolar", "P", 1e5, "Q", 0, "Water")
    rng = np.random.default_rng(8)
    for _ in range(25):
        t, p = rng.uniform(300.0, 900.0), 10 ** rng.uniform(4.0, 7.3)
        h, s = (PropsSI(name, "T", t, "P", p, "Water") for name in ("Hmolar", "Smolar"))
        state = model.flash([1.0], H=zero.enthalpy + h - base[0], S=zero.entropy + s - base[1])
        assert state.temperature == pytest.approx(t, rel=2e-6)
        assert state.pressure == pytest.approx(p, rel=1e-4 if state.vapour_fraction == 1.0 else 2e-2)


@pytest.mark.parametrize("by", ["mole", "mass"])
def test_a_feed_by_enthalpy_and_entropy(by):
    model = PropertyModel("peng-robinson", ["propane", "n-butane"], translated=True)
    state = model.flash([0.4, 0.6], T=330.0, P=8e5)
    size, unit = (1.0, "mol") if by == "mole" else (state.molar_mass, "kg")
    spec = {
        "enthalpy": q(f"{state.enthalpy / size!r} J/{unit}"),
        "entropy": q(f"{state.entropy / size!r} J/{unit}/K"),
        "flow": q("1 mol/s"),
        "composition": {"basis": "mole_fraction", "values": {"propane": q("0.4 "), "n-butane": q("0.6 ")}},
    }
    fed = plant([("propane", "74-98-6"), ("n-butane", "106-97-8")], {"F": ("feed", spec), "Z": ("product", {})}, ["1: F.outlet -> Z.inlet"])
    stream = solve(fed).streams["1"]
    assert stream.temperature == pytest.approx(330.0, rel=1e-7)
    assert stream.pressure == pytest.approx(8e5, rel=1e-5)


@pytest.mark.parametrize("key", sorted(model_infos()))
def test_a_saturated_component_keeps_its_energy_through_a_flash(key: str) -> None:
    """At the very enthalpy or entropy of a bubble or dew point, and a rounding to either side, that is what comes back."""
    for name in ("water",) if key == "steam" else ("propane", "water", "acetic acid"):
        fluid, checked = PropertyModel(key, [name]), 0
        for pressure, border in product((1e5, 2.44e5, 6e5, 4.1e6), (0.0, 1.0)):
            try:
                edge = fluid.flash([1.0], P=pressure, VF=border)
            except FlashError:
                continue
            for off in (0.0, 1e-12, -1e-12, 1e-9, -1e-9, 1e-7, -1e-7):
                for known, letter in (("enthalpy", "H"), ("entropy", "S")):
                    wanted = getattr(edge, known) * (1.0 + off)
                    back = fluid.flash([1.0], P=pressure, **{letter: wanted})
                    assert getattr(back, known) == pytest.approx(wanted, rel=1e-9)
                    checked += 1
        assert checked > 20
