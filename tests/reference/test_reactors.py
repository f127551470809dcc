"""Reactors against answers in closed form and against an integration of the balances that is written out here."""

import math

import numpy as np
import pytest
from plants import plant
from scipy.integrate import solve_ivp
from scipy.optimize import brentq

from wattaxis import PropertyModel, solve
from wattaxis.substances import component

R = 8.31446261815324
#: Isomers: no change of moles or mass, so that the volume flow stays what it is.
ISOMERS = [("n-butane", "106-97-8"), ("isobutane", "75-28-5")]
CRACKING = [("ethane", "74-84-0"), ("ethylene", "74-85-1"), ("hydrogen", "1333-74-0")]
ALCOHOL = [("2-butanol", "78-92-2"), ("butanone", "78-93-3"), ("hydrogen", "1333-74-0")]
SERIES = [("1-butene", "106-98-9"), ("cis-2-butene", "590-18-1"), ("trans-2-butene", "624-64-6")]


def reaction(numbers, orders, value, unit, name="R1", backward=None, energy=None, **more):
    law = {"orders": orders, "value": value, "unit": unit, **({"energy": energy} if energy else {}), **more}
    phase = law.pop("phase", "vapour")
    return {"name": name, "numbers": numbers, "phase": phase, "forward": law, "backward": backward}


def reactor(kind, parts, reactions, feed, model="ideal", **spec):
    """A reactor between a feed and a product; ``feed`` in mole fractions with temperature, pressure and flow."""
    shares = {name: {"value": feed.get(name, 0.0)} for name, _ in parts}
    given = {key: feed[key] for key in ("temperature", "pressure", "flow")}
    units = {
        "F": ("feed", {**given, "composition": {"basis": "mole_fraction", "values": shares}}),
        "U": (kind, {"reactions": "Main", **{key: value for key, value in spec.items() if value is not None}}),
        "Z": ("product", {}),
    }
    sets = [{"name": "Main", "reactions": reactions}]
    return plant(parts, units, ["S-1: F.outlet -> U.inlet", "S-2: U.outlet -> Z.inlet"], model, reactions=sets)


def values(document):
    result = solve(document)
    assert result.complete, [f.text for f in result.findings] + [a.text for a in result.asks]
    return {v.name: v.value for v in result.units["U"].values}, result


ISOMER = {"n-butane": -1.0, "isobutane": 1.0}
HOT = {"temperature": "500 K", "pressure": "1 bar", "flow": "2 mol/s"}


@pytest.mark.parametrize("volume", [0.01, 0.1, 0.6])
def test_first_order_in_a_tube_and_in_a_tank(volume):
    """X = 1 - exp(-k tau) in the tube, k tau / (1 + k tau) in the tank (Levenspiel 1999, tables 5.1 and 5.2)."""
    k, tau = 0.8, volume / (2.0 * R * 500.0 / 1e5)
    made = [reaction(ISOMER, {"n-butane": 1}, 48.0, "1/min")]
    feed = {**HOT, "n-butane": 1.0}
    tube, _ = values(reactor("plug-flow-reactor", ISOMERS, made, feed, volume=f"{volume} m3", heat="isothermal"))
    tank, _ = values(reactor("stirred-tank", ISOMERS, made, feed, volume=f"{volume} m3", outlet_temperature="500 K"))
    assert tube["conversion_of[n-butane]"] == pytest.approx(1.0 - math.exp(-k * tau), rel=1e-8)
    assert tank["conversion_of[n-butane]"] == pytest.approx(k * tau / (1.0 + k * tau), rel=1e-9)
    assert tube["residence_time"] == pytest.approx(tau, rel=1e-9)


@pytest.mark.parametrize("wanted", [0.2, 0.7, 0.95])
def test_volume_for_a_conversion_of_second_order(wanted):
    """k c0 tau = X / (1 - X) in the tube, X / (1 - X)2 in the tank (Levenspiel 1999, equations 5.20 and 5.13)."""
    c0 = 1e5 / (R * 500.0)
    made = [reaction(ISOMER, {"n-butane": 2}, 3.0, "L/(mol s)")]
    feed = {**HOT, "n-butane": 1.0}
    flow = 2.0 / c0
    tube, _ = values(reactor("plug-flow-reactor", ISOMERS, made, feed, conversion=f"{100 * wanted} %", heat="isothermal"))
    tank, _ = values(reactor("stirred-tank", ISOMERS, made, feed, conversion=f"{100 * wanted} %", outlet_temperature="500 K"))
    assert tube["volume"] == pytest.approx(flow / (3e-3 * c0) * wanted / (1.0 - wanted), rel=1e-7)
    assert tank["volume"] == pytest.approx(flow / (3e-3 * c0) * wanted / (1.0 - wanted) ** 2, rel=1e-9)


def test_zero_order_runs_out_at_a_place():
    """X = k V / F until nothing is left; an order of 0 that is typed counts like a blank one in value."""
    made = [reaction(ISOMER, {"n-butane": 0}, 4.0, "mol/(m3 s)")]
    found, _ = values(reactor("plug-flow-reactor", ISOMERS, made, {**HOT, "n-butane": 1.0}, volume="0.25 m3", heat="isothermal"))
    assert found["conversion_of[n-butane]"] == pytest.approx(0.5, rel=1e-9)


def test_moles_that_grow_in_a_tube():
    """k tau = (1 + e) ln(1/(1 - X)) - e X with e = 1 from pure ethane (Levenspiel 1999, equation 5.21)."""
    made = [reaction({"ethane": -1.0, "ethylene": 1.0, "hydrogen": 1.0}, {"ethane": 1}, 0.5, "1/s")]
    feed = {"temperature": "1000 K", "pressure": "2 bar", "flow": "5 mol/s", "ethane": 1.0}
    found, _ = values(reactor("plug-flow-reactor", CRACKING, made, feed, volume="0.9 m3", heat="isothermal"))
    tau = 0.9 / (5.0 * R * 1000.0 / 2e5)
    wanted = brentq(lambda x: 2.0 * math.log(1.0 / (1.0 - x)) - x - 0.5 * tau, 1e-9, 1.0 - 1e-9, xtol=1e-14)
    assert found["conversion_of[ethane]"] == pytest.approx(wanted, rel=1e-8)


def test_a_pressure_that_falls_evenly():
    """First order in partial pressure with P = P0 + (P1 - P0) V/Vt and no change of moles: ln(1/(1 - X)) = k Vt (P0 + P1) / 2 / F."""
    made = [reaction(ISOMER, {"n-butane": 1}, 2.0, "mol/(m3 s bar)", basis="partial pressure")]
    feed = {"temperature": "500 K", "pressure": "3 bar", "flow": "2 mol/s", "n-butane": 1.0}
    size = {"volume": "0.5 m3", "heat": "isothermal", "pressure_change": "-1 bar"}
    found, _ = values(reactor("plug-flow-reactor", ISOMERS, made, feed, **size))
    assert found["conversion_of[n-butane]"] == pytest.approx(1.0 - math.exp(-2.0 * 0.5 * 2.5 / 2.0), rel=1e-8)
    by_conversion = {**size, "volume": None, "conversion": f"{found['conversion_of[n-butane]']!r}"}
    again, _ = values(reactor("plug-flow-reactor", ISOMERS, made, feed, **by_conversion))
    assert again["volume"] == pytest.approx(0.5, rel=1e-7)


def test_series_of_reactions_has_its_best_residence_time():
    """c_B / c_A0 = k1 / (k2 - k1) (exp(-k1 t) - exp(-k2 t)); most at ln(k2 / k1) / (k2 - k1) (Levenspiel 1999, equations 3.49 and 3.51)."""
    k1, k2 = 1.2, 0.4
    made = [
        reaction({"1-butene": -1.0, "cis-2-butene": 1.0}, {"1-butene": 1}, k1, "1/s"),
        reaction({"cis-2-butene": -1.0, "trans-2-butene": 1.0}, {"cis-2-butene": 1}, k2, "1/s", "R2"),
    ]
    best = math.log(k2 / k1) / (k2 - k1)
    feed = {**HOT, "1-butene": 1.0}
    volume = best * 2.0 * R * 500.0 / 1e5
    shares = []
    for factor in (0.98, 1.0, 1.02):
        _, result = values(reactor("plug-flow-reactor", SERIES, made, feed, volume=f"{factor * volume!r} m3", heat="isothermal"))
        shares.append(result.streams["S-2"].mole_fractions["cis-2-butene"])
    assert shares[1] == max(shares)
    assert shares[1] == pytest.approx((k1 / k2) ** (k2 / (k2 - k1)), rel=1e-8)


def test_parallel_reactions_share_by_their_rates():
    """Two first-order ways: products in the proportion k1 to k2, whatever the time (Levenspiel 1999, equation 3.37)."""
    made = [
        reaction({"1-butene": -1.0, "cis-2-butene": 1.0}, {"1-butene": 1}, 0.9, "1/s"),
        reaction({"1-butene": -1.0, "trans-2-butene": 1.0}, {"1-butene": 1}, 0.3, "1/s", "R2"),
    ]
    for kind, more in (("plug-flow-reactor", {"heat": "isothermal"}), ("stirred-tank", {"outlet_temperature": "500 K"})):
        found, _ = values(reactor(kind, SERIES, made, {**HOT, "1-butene": 1.0}, volume="0.07 m3", **more))
        assert found["selectivity[cis-2-butene]"] == pytest.approx(0.75, rel=1e-9)


def dehydrogenation(**more):
    return reaction({"2-butanol": -1.0, "butanone": 1.0, "hydrogen": 1.0}, {"2-butanol": 1}, 2.0, "kmol/(m3 h bar)", energy="60 kJ/mol",
                    reference="400 degC", basis="partial pressure", backward="thermodynamics", **more)  # fmt: skip


VAPOUR = {"temperature": "673.15 K", "pressure": "2 bar", "flow": "10 mol/s", "2-butanol": 1.0}


def gas_energies(T, parts=ALCOHOL):
    model = PropertyModel("ideal", [component(cas) for _, cas in parts])
    states = [model.phase("vapour", T, 1e5, row) for row in np.eye(len(parts))]
    return np.array([s.enthalpy for s in states]), np.array([s.entropy for s in states]), np.array([s.heat_capacity for s in states])


def written_out(volume, heat):
    """dX/dV and dT/dV of the ideal gas as textbooks write them, to 1e-11; ``heat(T)`` W/m3."""

    def slope(_, y):
        x, T = y
        h, s, cp = gas_energies(T)
        flows = 10.0 * np.array([1.0 - x, x, x])
        p = 2e5 * flows / flows.sum()
        constant = math.exp(-((h[1] + h[2] - h[0]) - T * (s[1] + s[2] - s[0])) / (R * T))
        k = 2000.0 / 3600.0 / 1e5 * math.exp(-60e3 / R * (1.0 / T - 1.0 / 673.15))
        rate = k * (p[0] - p[1] * p[2] / 1e5 / constant)
        return [rate / 10.0, (heat(T) - rate * (h[1] + h[2] - h[0])) / float(flows @ cp)]

    return solve_ivp(slope, (0.0, volume), [0.0, 673.15], "Radau", rtol=1e-11, atol=1e-13).y[:, -1]


def test_an_adiabatic_tube_with_a_reversible_reaction():
    x, T = written_out(3.0, lambda T: 0.0)
    found, _ = values(reactor("plug-flow-reactor", ALCOHOL, [dehydrogenation()], VAPOUR, volume="3 m3"))
    assert found["conversion_of[2-butanol]"] == pytest.approx(x, rel=1e-7)
    assert found["outlet_temperature"] == pytest.approx(T, rel=1e-8)


def test_tubes_beside_a_coolant():
    x, T = written_out(3.0, lambda T: 4.0 / 0.04 * 60.0 * (700.0 - T))
    length = 3.0 / (math.pi / 4.0 * 0.04**2 * 500.0)
    size = {"length": f"{length!r} m", "diameter": "40 mm", "tubes": "500", "coolant_temperature": "700 K", "heat_transfer_coefficient": "60 W/m2/K"}
    found, _ = values(reactor("plug-flow-reactor", ALCOHOL, [dehydrogenation()], VAPOUR, heat="coolant at one temperature", **size))
    assert found["conversion_of[2-butanol]"] == pytest.approx(x, rel=1e-7)
    assert found["outlet_temperature"] == pytest.approx(T, rel=1e-8)
    assert found["volume"] == pytest.approx(3.0, rel=1e-12)


def test_heat_spread_evenly():
    x, T = written_out(3.0, lambda T: 1e5)
    found, _ = values(reactor("plug-flow-reactor", ALCOHOL, [dehydrogenation()], VAPOUR, volume="3 m3", heat="heat spread evenly", duty="300 kW"))
    assert found["conversion_of[2-butanol]"] == pytest.approx(x, rel=1e-7)
    assert found["outlet_temperature"] == pytest.approx(T, rel=1e-8)
    assert found["duty"] == pytest.approx(3e5, rel=1e-9)


@pytest.mark.parametrize(("kind", "more"), [("plug-flow-reactor", {}), ("stirred-tank", {"duty": "0 kW"})])
@pytest.mark.parametrize("model", ["ideal", "peng-robinson"])
def test_a_large_adiabatic_reactor_comes_to_equilibrium(kind, more, model):
    """Where Q = K in fugacities and the heat closes, found here by itself."""
    _, result = values(reactor(kind, ALCOHOL, [dehydrogenation()], VAPOUR, model, volume="1e9 m3", **more))
    outlet = result.streams["S-2"]
    x = np.array(list(outlet.mole_fractions.values()))
    T = outlet.temperature
    phi = PropertyModel(model, [component(cas) for _, cas in ALCOHOL], translated=model != "ideal").phase("vapour", T, 2e5, x).fugacity_coefficients
    h, s, _ = gas_energies(T)
    constant = math.exp(-((h[1] + h[2] - h[0]) - T * (s[1] + s[2] - s[0])) / (R * T))
    f = x * phi * 2.0
    assert f[1] * f[2] / f[0] == pytest.approx(constant, rel=1e-5)


def test_rates_by_mass_of_catalyst():
    by_volume = [reaction(ISOMER, {"n-butane": 1}, 1.5, "mol/(m3 s bar)", basis="partial pressure")]
    by_mass = [reaction(ISOMER, {"n-butane": 1}, 1.5 / 800.0, "mol/(kg s bar)", basis="partial pressure", per="catalyst mass")]
    size = {"volume": "0.3 m3", "heat": "isothermal"}
    one, _ = values(reactor("plug-flow-reactor", ISOMERS, by_volume, {**HOT, "n-butane": 1.0}, **size))
    other, _ = values(reactor("plug-flow-reactor", ISOMERS, by_mass, {**HOT, "n-butane": 1.0}, **size, catalyst_density="800 kg/m3"))
    assert one["conversion_of[n-butane]"] == pytest.approx(other["conversion_of[n-butane]"], rel=1e-9)


ETHYLENE = [("ethylene", "74-85-1"), ("hydrogen", "1333-74-0"), ("ethane", "74-84-0"), ("nitrogen", "7727-37-9")]


def hydrogenation():
    return reaction({"ethylene": -1.0, "hydrogen": -1.0, "ethane": 1.0}, {"ethylene": 1}, 1.0, "1/s", energy="80 kJ/mol", reference="600 K")


def test_three_steady_states_of_an_adiabatic_tank():
    """One way, first order, ideal gas: X = k tau' / (1 + k tau') with tau' by the volume flow there, and all enthalpies; by a search here."""
    feed = {"temperature": "400 K", "pressure": "1 bar", "flow": "10 mol/s", "ethylene": 0.15, "hydrogen": 0.2, "ethane": 0.0, "nitrogen": 0.65}
    volume = 1.0
    h_in = float(gas_energies(400.0, ETHYLENE)[0] @ [1.5, 2.0, 0.0, 6.5])

    def lack(T):
        k = math.exp(-80e3 / R * (1.0 / T - 1.0 / 600.0))

        def balance(x):
            total = 10.0 - 1.5 * x
            return 1.5 * x - k * volume * 1.5 * (1.0 - x) / total * 1e5 / (R * T)

        x = brentq(balance, 0.0, 1.0, xtol=1e-15)
        flows = np.array([1.5 * (1 - x), 2.0 - 1.5 * x, 1.5 * x, 6.5])
        return float(gas_energies(T, ETHYLENE)[0] @ flows) - h_in

    grid = np.linspace(395.0, 1200.0, 4000)
    lacks = [lack(T) for T in grid]
    wanted = [brentq(lack, a, b, xtol=1e-11) for a, b, u, v in zip(grid, grid[1:], lacks, lacks[1:], strict=False) if u * v < 0.0]
    assert len(wanted) == 3
    for which, T in zip(("coldest", "middle", "hottest"), wanted, strict=True):
        document = reactor("stirred-tank", ETHYLENE, [hydrogenation()], feed, volume=f"{volume} m3", duty="0 kW", steady_state=which)
        found, result = values(document)
        assert found["outlet_temperature"] == pytest.approx(T, rel=1e-8)
        told = next(f.text for f in result.findings if "3 steady states" in f.text)
        assert told.count("(stable)") == 2
        assert told.count("(not stable)") == 1


KINDS = ["terms", "expression"]


def hindered(kind, k, K_a, K_b, power, backward=None):
    """k p(A) / (1 + Ka p(A) + Kb p(B))^power over isomers, pressures in bar; as terms of a denominator or as an expression."""
    if kind == "expression":
        law = {"expression": "k * p[n-butane] / (1 + Ka * p[n-butane] + Kb * p[isobutane])^" + f"{power:g}", "constants": [
            {"name": "k", "value": k, "unit": "mol/(m3 s bar)"}, {"name": "Ka", "value": K_a, "unit": "1/bar"},
            {"name": "Kb", "value": K_b, "unit": "1/bar"}]}  # fmt: skip
    else:
        terms = [{"orders": {"n-butane": 1}, "value": K_a, "unit": "1/bar"}, {"orders": {"isobutane": 1}, "value": K_b, "unit": "1/bar"}]
        law = {"orders": {"n-butane": 1}, "basis": "partial pressure", "value": k, "unit": "mol/(m3 s bar)", "adsorption": terms,
               "adsorption_power": power}  # fmt: skip
    return {"name": "R1", "numbers": ISOMER, "forward": law, "backward": backward}


@pytest.mark.parametrize("kind", KINDS)
def test_a_rate_hindered_by_adsorption_in_tube_and_tank(kind):
    """V k P / F = (1 + Kb P)(-ln(1 - X)) + (Ka - Kb) P X in the tube (Langmuir, Hinshelwood; Froment, Bischoff, De Wilde 2011, chapter 2)."""
    k, K_a, K_b, P = 6.0, 0.8, 2.5, 3.0
    feed = {**HOT, "pressure": f"{P} bar", "n-butane": 1.0}
    found, _ = values(reactor("plug-flow-reactor", ISOMERS, [hindered(kind, k, K_a, K_b, 1.0)], feed, volume="0.7 m3", heat="isothermal"))
    X = found["conversion_of[n-butane]"]
    assert 0.7 * k * P / 2.0 == pytest.approx((1.0 + K_b * P) * -math.log(1.0 - X) + (K_a - K_b) * P * X, rel=1e-8)
    found, _ = values(reactor("stirred-tank", ISOMERS, [hindered(kind, k, K_a, K_b, 2.0)], feed, volume="0.7 m3", outlet_temperature="500 K"))
    X = found["conversion_of[n-butane]"]
    rate = k * P * (1.0 - X) / (1.0 + K_a * P * (1.0 - X) + K_b * P * X) ** 2
    assert pytest.approx(0.7 * rate, rel=1e-9) == 2.0 * X


@pytest.mark.parametrize("kind", KINDS)
def test_a_hindered_rate_with_its_way_back_by_thermodynamics_ends_at_the_same_equilibrium(kind):
    feed = {**HOT, "n-butane": 0.7, "isobutane": 0.3}
    free = reactor(
        "plug-flow-reactor", ISOMERS, [hindered("terms", 6.0, 0.0001, 0.0001, 1.0, "thermodynamics")], feed, volume="1e4 m3", heat="isothermal"
    )
    slow = reactor("plug-flow-reactor", ISOMERS, [hindered(kind, 6.0, 3.0, 2.0, 2.0, "thermodynamics")], feed, volume="1e4 m3", heat="isothermal")
    one, other = (values(document)[1].streams["S-2"].mole_flows for document in (free, slow))
    assert one == pytest.approx(other, rel=1e-7)


def test_reforming_after_xu_and_froment_goes_where_its_equilibrium_lies():
    """The rates of Xu and Froment (1989, AIChE J. 35, 88), with p(water)/p(hydrogen) in the denominator: both ways of writing them agree, and a
    bed that is long enough leaves what least Gibbs energy says."""
    parts = [
        ("methane", "74-82-8"),
        ("water", "7732-18-5"),
        ("carbon monoxide", "630-08-0"),
        ("hydrogen", "1333-74-0"),
        ("carbon dioxide", "124-38-9"),
    ]
    T0 = {"reference": "648 K"}
    adsorbed = [("carbon monoxide", 40.91, -70.65), ("methane", 0.1791, -38.28), ("hydrogen", 0.0296, -82.90)]
    terms = [{"orders": {name: 1}, "value": K, "unit": "1/bar", "energy": f"{E} kJ/mol", **T0} for name, K, E in adsorbed]
    terms.append({"orders": {"water": 1, "hydrogen": -1}, "value": 0.4152, "unit": "", "energy": "88.68 kJ/mol", "reference": "823 K"})
    shift_law = {"orders": {"carbon monoxide": 1, "water": 1, "hydrogen": -1}, "basis": "partial pressure", "per": "catalyst mass",
                 "value": 7.558, "unit": "kmol/(kg h bar)", "energy": "67.13 kJ/mol", **T0}  # fmt: skip
    shift = {"carbon monoxide": -1, "water": -1, "carbon dioxide": 1, "hydrogen": 1}
    made = {"name": "Shift", "numbers": shift, "forward": {**shift_law, "adsorption": terms, "adsorption_power": 2}, "backward": "thermodynamics"}
    below = "(1 + Kco * p[carbon monoxide] + Kch4 * p[methane] + Kh2 * p[hydrogen] + Kh2o * p[water] / p[hydrogen])^2"
    named = zip(("Kco", "Kch4", "Kh2", "Kh2o", "k"), [*terms, shift_law], strict=True)
    constants = [{"name": name, **{key: term[key] for key in ("value", "unit", "energy", "reference")}} for name, term in named]
    written = {"expression": f"k * p[carbon monoxide] * p[water] / p[hydrogen] / {below}", "constants": constants, "per": "catalyst mass"}
    feed = {"temperature": "700 K", "pressure": "10 bar", "flow": "10 mol/s", "methane": 0.1, "water": 0.5, "carbon monoxide": 0.2, "hydrogen": 0.2}
    spec = {"catalyst_density": "1000 kg/m3", "heat": "isothermal"}
    short = [
        values(reactor("plug-flow-reactor", parts, [reaction], feed, volume="1 L", **spec))[1].streams["S-2"].mole_flows
        for reaction in (made, {**made, "forward": written})
    ]
    assert 0.01 < short[0]["carbon dioxide"] < 1.5
    assert short[0] == pytest.approx(short[1], rel=1e-7)
    long = values(reactor("plug-flow-reactor", parts, [made], feed, volume="1 m3", **spec))[1].streams["S-2"].mole_flows
    balance = reactor("equilibrium-reactor", parts, [{"name": "Shift", "numbers": shift}], feed, outlet_temperature="700 K")
    assert long == pytest.approx(values(balance)[1].streams["S-2"].mole_flows, rel=1e-6)
