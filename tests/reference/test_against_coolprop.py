"""A third library, CoolProp: its cubic equations with the same constants, its reference equations of pure fluids, cycles calculated with them."""

from itertools import pairwise

import numpy as np
import pytest
from CoolProp import AbstractState
from CoolProp import CoolProp as cp  # noqa: N813
from plants import plant, q

from wattaxis import PropertyModel, component, solve

BACKENDS = {"peng-robinson": "PR", "soave-redlich-kwong": "SRK"}
NAMES = {"methane": "Methane", "ethane": "Ethane", "propane": "Propane", "n-butane": "n-Butane", "n-hexane": "n-Hexane"}
#: How each fluid's vapour pressure by our Peng-Robinson may differ from the reference equation.
FLUIDS = {
    "ammonia": ("Ammonia", 0.02),
    "propane": ("Propane", 0.02),
    "carbon dioxide": ("CarbonDioxide", 0.02),
    "nitrogen": ("Nitrogen", 0.03),
    "n-hexane": ("n-Hexane", 0.03),
}


def theirs(kind, names):
    """Their equation with their constants, and ours with the same."""
    state = AbstractState(BACKENDS[kind], "&".join(NAMES[n] for n in names))
    made = []
    for k, name in enumerate(names):
        c = component(name)
        changed = {
            "critical_temperature": state.get_fluid_constant(k, cp.iT_critical),
            "critical_pressure": state.get_fluid_constant(k, cp.iP_critical),
            "acentric_factor": state.get_fluid_constant(k, cp.iacentric_factor),
        }
        made.append(type(c)(**{**{f: getattr(c, f) for f in c.__dataclass_fields__}, **changed}))
    return state, PropertyModel(kind, made, bank_pairs=False)


@pytest.mark.parametrize("kind", BACKENDS)
def test_single_phases_of_mixtures_are_those_of_their_cubic_equation(kind):
    """Density and fugacity coefficients on random states of one phase; they too mix with k_ij = 0 unless told otherwise."""
    names = ["methane", "ethane", "propane", "n-butane", "n-hexane"]
    state, model = theirs(kind, names)
    rng = np.random.default_rng(12)
    compared = 0
    for _ in range(60):
        z, t, p = rng.dirichlet(np.ones(5)), rng.uniform(250.0, 550.0), 10 ** rng.uniform(4.0, 7.2)
        mine = model.flash(z, T=t, P=p)
        if mine.phase not in ("liquid", "vapour"):
            continue
        state.set_mole_fractions(list(z))
        state.specify_phase(cp.iphase_gas if mine.phase == "vapour" else cp.iphase_liquid)
        state.update(cp.PT_INPUTS, p, t)
        assert mine.molar_volume == pytest.approx(1.0 / state.rhomolar(), rel=2e-6), (z, t, p)
        phi = [state.fugacity_coefficient(i) for i in range(5)]
        assert mine.phases[0].fugacity_coefficients == pytest.approx(phi, rel=2e-5), (z, t, p)
        compared += 1
    assert compared >= 30


@pytest.mark.parametrize("kind", BACKENDS)
@pytest.mark.parametrize("name", ["propane", "n-hexane"])
def test_boiling_of_pure_fluids_is_that_of_their_cubic_equation(kind, name):
    state, model = theirs(kind, [name])
    for t in np.linspace(0.6, 0.97, 7) * cp.PropsSI("Tcrit", NAMES[name]):
        state.unspecify_phase()
        state.update(cp.QT_INPUTS, 0.0, t)
        assert model.flash([1.0], T=t, VF=0.0).pressure == pytest.approx(state.p(), rel=1e-5)


@pytest.mark.parametrize("name", FLUIDS)
def test_reference_equations_lie_where_a_cubic_equation_should_be(name):
    """Vapour pressures within a few per cent, densities of gases within one, heats of vaporisation within six (ten near the critical point)."""
    fluid, close = FLUIDS[name]
    model = PropertyModel("peng-robinson", [name])
    for share in (0.65, 0.75, 0.85, 0.95):
        t = share * cp.PropsSI("Tcrit", fluid)
        wet, dry = model.flash([1.0], T=t, VF=0.0), model.flash([1.0], T=t, VF=1.0)
        assert wet.pressure == pytest.approx(cp.PropsSI("P", "T", t, "Q", 0, fluid), rel=close)
        heat = cp.PropsSI("Hmolar", "T", t, "Q", 1, fluid) - cp.PropsSI("Hmolar", "T", t, "Q", 0, fluid)
        assert dry.enthalpy - wet.enthalpy == pytest.approx(heat, rel=0.06 if share < 0.9 else 0.1)
    t, p = 1.3 * cp.PropsSI("Tcrit", fluid), 0.3 * cp.PropsSI("pcrit", fluid)
    assert 1.0 / model.flash([1.0], T=t, P=p).molar_volume == pytest.approx(cp.PropsSI("Dmolar", "T", t, "P", p, fluid), rel=0.01)


def test_steam_tables_are_those_of_their_equation_of_water():
    model = PropertyModel("steam", ["water"])
    base = model.flash([1.0], P=1e5, VF=0.0).enthalpy - cp.PropsSI("Hmolar", "P", 1e5, "Q", 0, "Water")
    rng = np.random.default_rng(5)
    for _ in range(60):
        t, p = rng.uniform(275.0, 1000.0), 10 ** rng.uniform(3.0, 7.7)
        state = model.flash([1.0], T=t, P=p)
        assert 1.0 / state.molar_volume == pytest.approx(cp.PropsSI("Dmolar", "T", t, "P", p, "Water"), rel=1e-7)
        assert state.enthalpy - base == pytest.approx(cp.PropsSI("Hmolar", "T", t, "P", p, "Water"), abs=0.5)


def only(name):
    return {"basis": "mole_fraction", "values": {name: {"value": 1.0}}}


def values(result, tag):
    return {v.key: v.value for v in result.units[tag].values}


@pytest.mark.parametrize(
    ("name", "cas", "fluid", "cold", "hot"), [("ammonia", "7664-41-7", "Ammonia", 253.15, 308.15), ("propane", "74-98-6", "Propane", 253.15, 313.15)]
)
def test_a_refrigeration_cycle_against_the_reference_equation(name, cas, fluid, cold, hot):
    """Evaporator, compressor at 75 %, condenser, throttle; cold per kilogram, work and coefficient of performance."""
    low, high = (cp.PropsSI("P", "T", t, "Q", 0, fluid) for t in (cold, hot))
    units = {
        "F": ("feed", {"temperature": q(f"{hot} K"), "vapour_fraction": q("0"), "flow": q("1 kg/s"), "composition": only(name)}),
        "V": ("valve", {"outlet_pressure": q(f"{low} Pa")}),
        "E": ("heater", {"outlet_vapour_fraction": q("1")}),
        "K": ("compressor", {"outlet_pressure": q(f"{high} Pa"), "efficiency": q("75 %")}),
        "C": ("cooler", {"outlet_vapour_fraction": q("0")}),
        "Z": ("product", {}),
    }
    lines = ["1: F.outlet -> V.inlet", "2: V.outlet -> E.inlet", "3: E.outlet -> K.inlet", "4: K.outlet -> C.inlet", "5: C.outlet -> Z.inlet"]
    result = solve(plant([(name, cas)], units, lines))
    liquid, dry = cp.PropsSI("H", "T", hot, "Q", 0, fluid), cp.PropsSI("H", "T", cold, "Q", 1, fluid)
    ideal = cp.PropsSI("H", "P", high, "S", cp.PropsSI("S", "T", cold, "Q", 1, fluid), fluid)
    taken, work = dry - liquid, (ideal - dry) / 0.75
    assert values(result, "E")["duty"] == pytest.approx(taken, rel=0.03)
    assert values(result, "K")["power"] == pytest.approx(work, rel=0.03)
    assert values(result, "E")["duty"] / values(result, "K")["power"] == pytest.approx(taken / work, rel=0.03)
    quality = cp.PropsSI("Q", "P", low, "H", liquid, fluid)
    assert result.streams["2"].vapour_fraction == pytest.approx(quality, rel=0.03)


def test_a_steam_cycle_with_reheat_against_the_reference_equation():
    """Turbine in two parts with heating between them, 150 bar to 30 bar to 0.1 bar, 540 degC twice, 88 %."""
    units = {
        "F": ("feed", {"temperature": q("813.15 K"), "pressure": q("150 bar"), "flow": q("1 kg/s"), "composition": only("water")}),
        "T1": ("expander", {"outlet_pressure": q("30 bar"), "efficiency": q("88 %")}),
        "R": ("heater", {"outlet_temperature": q("813.15 K")}),
        "T2": ("expander", {"outlet_pressure": q("0.1 bar"), "efficiency": q("88 %")}),
        "C": ("cooler", {"outlet_vapour_fraction": q("0")}),
        "P": ("pump", {"outlet_pressure": q("150 bar"), "efficiency": q("75 %")}),
        "Z": ("product", {}),
    }
    order = ["F", "T1", "R", "T2", "C", "P", "Z"]
    lines = [f"{k + 1}: {a}.outlet -> {b}.inlet" for k, (a, b) in enumerate(pairwise(order))]
    result = solve(plant([("water", "7732-18-5")], units, lines, "steam"))

    def let_down(h, s, p):
        return 0.88 * (h - cp.PropsSI("H", "P", p, "S", s, "Water"))

    live = [cp.PropsSI(k, "T", 813.15, "P", 150e5, "Water") for k in "HS"]
    first = let_down(*live, 30e5)
    again = [cp.PropsSI(k, "T", 813.15, "P", 30e5, "Water") for k in "HS"]
    second = let_down(*again, 0.1e5)
    condensate = cp.PropsSI("H", "P", 0.1e5, "Q", 0, "Water")
    assert values(result, "T1")["power"] == pytest.approx(first, rel=1e-5)
    assert values(result, "R")["duty"] == pytest.approx(again[0] - (live[0] - first), rel=1e-5)
    assert values(result, "T2")["power"] == pytest.approx(second, rel=1e-5)
    assert values(result, "C")["duty"] == pytest.approx(again[0] - second - condensate, rel=1e-5)
    rise = (150e5 - 0.1e5) / cp.PropsSI("D", "P", 0.1e5, "Q", 0, "Water") / 0.75
    assert values(result, "P")["power"] == pytest.approx(rise, rel=5e-3)
