"""Tubes with streams outside, and what they lose in pressure, against closed forms and integrations that are written out here."""

import math

import numpy as np
import pytest
from plants import plant, q
from scipy.integrate import quad, solve_bvp

from wattaxis import PropertyModel, solve
from wattaxis.equipment.pipe_flow import friction_factor
from wattaxis.properties.transport import transport

R = 8.31446261815324
ISOMERS = [("n-butane", "106-97-8"), ("isobutane", "75-28-5")]
#: So slow that nothing happens, and faster.
SLOW, FAST = 1e-12, 0.05


def tubes(rate, outside=None, kind="adiabatic", energy=None, model="ideal", **spec):
    """n-Butane to isobutane in tubes, with water outside where ``outside`` (flow, temperature, pressure) is given."""
    law = {"orders": {"n-butane": 1}, "value": rate, "unit": "1/s", **({"energy": energy, "reference": "450 K"} if energy else {})}
    sets = [{"name": "Main", "reactions": [{"name": "R1", "numbers": {"n-butane": -1, "isobutane": 1}, "forward": law}]}]
    feed = {"temperature": "450 K", "pressure": "5 bar", "flow": "20 mol/s", "composition": {"values": {"n-butane": {"value": 1}}}}
    reactor = {"reactions": "Main", "length": "6 m", "diameter": "30 mm", "tubes": "50", "heat": kind, **spec}
    made = ("plug-flow-reactor", {k: v for k, v in reactor.items() if v is not None})
    units = {"F": ("feed", feed), "R": made, "Z": ("product", {})}
    lines = ["S-1: F.outlet -> R.inlet", "S-2: R.outlet -> Z.inlet"]
    parts = list(ISOMERS)
    if outside is not None:
        flow, temperature, pressure = outside
        parts.append(("water", "7732-18-5"))
        given = {"temperature": temperature, "pressure": pressure, "flow": flow, "composition": {"values": {"water": {"value": 1}}}}
        units |= {"W": ("feed", given), "Y": ("product", {})}
        lines += ["S-3: W.outlet -> R.outside_in", "S-4: R.outside_out -> Y.inlet"]
    return plant(parts, units, lines, model, reactions=sets)


def solved(document):
    result = solve(document)
    assert result.complete, [f.text for f in result.findings] + [a.text for a in result.asks]
    assert abs(result.balance.energy_gap) < 1e-9
    return result, {v.name: v.value for v in result.units["R"].values}


@pytest.mark.parametrize(
    ("kind", "flow", "U"),
    [("co-current stream", 60.0, 120.0), ("counter-current stream", 60.0, 120.0), ("counter-current stream", 30.0, 800.0)],
    ids=["co-current", "counter-current", "counter-current, many transfer units"],
)
def test_tubes_in_which_nothing_reacts_are_an_exchanger(kind, flow, U):
    """The area is the integral of dQ / (U (T - t)) over the heat, both temperatures by flashes (Incropera, DeWitt 2007, chapter 11)."""
    result, found = solved(tubes(SLOW, (f"{flow} mol/s", "330 K", "10 bar"), kind, heat_transfer_coefficient=f"{U} W/(m2 K)"))
    model = PropertyModel("ideal", ["n-butane", "isobutane", "water"])
    gas, water = result.streams["S-1"], result.streams["S-3"]
    heat, back = -found["duty"], kind.startswith("counter-current")

    def resistance(given):
        hot = model.flash([1.0, 0.0, 0.0], P=gas.pressure, H=gas.molar_enthalpy - given / 20.0).temperature
        gained = heat - given if back else given
        cold = model.flash([0.0, 0.0, 1.0], P=water.pressure, H=water.molar_enthalpy + gained / flow).temperature
        return 1.0 / (U * (hot - cold))

    area = quad(resistance, 0.0, heat, epsrel=1e-9)[0]
    assert area == pytest.approx(found["wall_area"], rel=2e-6)
    assert result.streams["S-4"].enthalpy_flow - water.enthalpy_flow == pytest.approx(heat, rel=1e-9)


def test_a_hot_spot_beside_a_counter_current_stream_by_collocation():
    """Heat made along the tube and taken by water the other way: the same boundary value problem by collocation (Kierzenka, Shampine 2001)."""
    U, spec = 60.0, {"heat_transfer_coefficient": "60 W/(m2 K)"}
    result, found = solved(tubes(FAST, ("30 mol/s", "440 K", "20 bar"), "counter-current stream", energy="90 kJ/mol", **spec))
    model = PropertyModel("ideal", ["n-butane", "isobutane", "water"])
    section = 50 * math.pi / 4 * 0.03**2

    def gas(x):
        return [model.phase("vapour", float(t), 5e5, [1.0 - a, a, 0.0]) for a, t in zip(x[0], x[1], strict=True)]

    def slopes(z, y):
        phases = gas(y)
        pure = [[model.phase("vapour", float(t), 5e5, row).enthalpy for row in ([1.0, 0.0, 0.0], [0.0, 1.0, 0.0])] for t in y[1]]
        rate = np.array(
            [FAST * math.exp(-90e3 / R * (1 / t - 1 / 450.0)) * (1.0 - a) / p.molar_volume for a, t, p in zip(y[0], y[1], phases, strict=True)]
        )
        through = 4.0 / 0.03 * U * (y[2] - y[1])
        made = np.array([h[0] - h[1] for h in pure]) * rate
        cold = np.array([model.phase("liquid", float(t), 20e5, [0.0, 0.0, 1.0]).heat_capacity for t in y[2]])
        cp = np.array([p.heat_capacity for p in phases])
        return np.array([rate / 20.0, (made + through) / (20.0 * cp), through / (30.0 * cold)]) * section

    z = np.linspace(0.0, 6.0, 41)
    guess = np.array([np.linspace(0.0, 0.3, 41), np.full(41, 450.0), np.full(41, 442.0)])
    other = solve_bvp(slopes, lambda a, b: np.array([a[0], a[1] - 450.0, b[2] - 440.0]), z, guess, tol=1e-7, max_nodes=4000)
    assert other.success
    assert found["conversion_of[n-butane]"] == pytest.approx(other.sol(6.0)[0], rel=1e-5)
    assert result.streams["S-4"].temperature == pytest.approx(other.sol(0.0)[2], abs=1e-3)
    assert found["hottest"] == pytest.approx(other.sol(np.linspace(0, 6, 2001))[1].max(), abs=0.02)


def test_water_that_boils_outside_makes_steam_and_keeps_its_temperature():
    result, found = solved(tubes(SLOW, ("3 mol/s", "393.36 K", "2 bar"), "co-current stream", heat_transfer_coefficient="100 W/(m2 K)"))
    water, steam = result.streams["S-3"], result.streams["S-4"]
    boiling = PropertyModel("ideal", ["water"]).flash([1.0], P=2e5, VF=0.5)
    assert 0.2 < steam.vapour_fraction < 1.0
    assert steam.temperature == pytest.approx(boiling.temperature, abs=1e-6)
    assert steam.enthalpy_flow - water.enthalpy_flow == pytest.approx(-found["duty"], rel=1e-9)


def flowing(count=50, T=450.0, P=5e5):
    """Mass flux (kg/(m2 s)), viscosity and R T / M of n-butane in the tubes."""
    model = PropertyModel("ideal", ["n-butane", "isobutane"])
    mass = model.molar_masses[0]
    flux = 20.0 * mass / (count * math.pi / 4 * 0.03**2)
    return flux, transport("vapour", T, P, np.array([1.0, 0.0]), model.curves).viscosity, R * T / mass


def test_an_ideal_gas_in_a_bed_by_ergun():
    """P dP/dz is constant at one temperature, so P2^2 = P1^2 - 2 L (150 ... + 1.75 ...) R T / M (Ergun 1952; Fogler 2016, chapter 5)."""
    spec = {"pressure_loss": "packed bed", "particle_diameter": "4 mm", "voidage": "45 %", "length": "3 m", "tubes": "200"}
    result, _ = solved(tubes(SLOW, kind="isothermal", **spec))
    G, mu, RT = flowing(200)
    loss = G / 4e-3 * 0.55 / 0.45**3 * (150 * 0.55 * mu / 4e-3 + 1.75 * G)
    assert result.streams["S-2"].pressure == pytest.approx(math.sqrt(25e10 - 2 * 3.0 * loss * RT), rel=1e-7)


def test_an_ideal_gas_in_tubes_by_friction():
    """P2^2 = P1^2 - f G^2 R T L / (M D) at one temperature, without the gain in speed (Perry 2008, equation 6-112)."""
    result, found = solved(tubes(SLOW, kind="isothermal", pressure_loss="friction in the tubes", roughness="0.1 mm", length="12 m"))
    G, mu, RT = flowing()
    f = friction_factor(G * 0.03 / mu, 0.1 / 30)
    assert result.streams["S-2"].pressure == pytest.approx(math.sqrt(25e10 - f * G**2 * RT * 12.0 / 0.03), rel=1e-7)
    assert found["outlet_pressure"] == result.streams["S-2"].pressure


def test_mole_change_and_ergun_together():
    """Conversion and pressure of ethane cracked in a bed at one temperature, integrated over the mass that flows (Fogler 2016, chapter 5)."""
    from scipy.integrate import solve_ivp

    parts = [("ethane", "74-84-0"), ("ethylene", "74-85-1"), ("hydrogen", "1333-74-0")]
    law = {"orders": {"ethane": 1}, "value": 1.5, "unit": "1/s"}
    sets = [{"name": "Main", "reactions": [{"name": "R1", "numbers": {"ethane": -1, "ethylene": 1, "hydrogen": 1}, "forward": law}]}]
    feed = {"temperature": "1000 K", "pressure": "4 bar", "flow": "5 mol/s", "composition": {"values": {"ethane": {"value": 1}}}}
    spec = {"reactions": "Main", "length": "4 m", "diameter": "50 mm", "tubes": "30", "heat": "isothermal", "pressure_loss": "packed bed",
            "particle_diameter": "5 mm", "voidage": "40 %"}  # fmt: skip
    made = ("plug-flow-reactor", spec)
    units = {"F": ("feed", feed), "R": made, "Z": ("product", {})}
    _, found = solved(plant(parts, units, ["S-1: F.outlet -> R.inlet", "S-2: R.outlet -> Z.inlet"], "ideal", reactions=sets))
    model = PropertyModel("ideal", [name for name, _ in parts])
    section = 30 * math.pi / 4 * 0.05**2
    G = 5.0 * model.molar_masses[0] / section

    def slopes(z, y):
        X, P = y
        x = np.array([1.0 - X, X, X]) / (1.0 + X)
        mu = transport("vapour", 1000.0, P, x, model.curves).viscosity
        rho = P * float(x @ model.molar_masses) / (R * 1000.0)
        rate = 1.5 * x[0] * P / (R * 1000.0)
        ergun = G / (rho * 5e-3) * 0.6 / 0.4**3 * (150 * 0.6 * mu / 5e-3 + 1.75 * G)
        return [rate * section / 5.0, -ergun]

    other = solve_ivp(slopes, (0.0, 4.0), [0.0, 4e5], rtol=1e-10, atol=1e-12).y[:, -1]
    assert found["conversion_of[ethane]"] == pytest.approx(other[0], rel=1e-6)
    assert found["outlet_pressure"] == pytest.approx(other[1], rel=1e-6)


def test_a_tube_ends_where_its_temperature_is_wanted_and_typed_temperatures_are_kept():
    hot, found = solved(tubes(FAST, energy="90 kJ/mol", length=None, outlet_temperature="455 K"))
    assert hot.streams["S-2"].temperature == pytest.approx(455.0, abs=1e-6)
    again, _ = solved(tubes(FAST, energy="90 kJ/mol", length=f"{found['length']!r} m"))
    assert again.streams["S-2"].temperature == pytest.approx(455.0, abs=1e-6)
    rows = [
        {"id": str(k), "cells": {"place": q(at), "temperature": q(T)}}
        for k, (at, T) in enumerate((("0 %", "450 K"), ("50 %", "450 K"), ("100 %", "450 K")), 1)
    ]
    _, one = solved(tubes(FAST, kind="typed temperatures", energy="90 kJ/mol", temperatures={"rows": rows}))
    _, other = solved(tubes(FAST, kind="isothermal", energy="90 kJ/mol"))
    assert one["conversion_of[n-butane]"] == pytest.approx(other["conversion_of[n-butane]"], rel=1e-9)
    assert one["duty"] == pytest.approx(other["duty"], rel=1e-8)
    rows[2]["cells"]["temperature"] = q("480 K")
    warm, more = solved(tubes(FAST, kind="typed temperatures", energy="90 kJ/mol", temperatures={"rows": rows}))
    assert warm.streams["S-2"].temperature == pytest.approx(480.0, abs=1e-6)
    assert more["conversion_of[n-butane]"] > one["conversion_of[n-butane]"]


@pytest.mark.parametrize(
    ("spec", "says"),
    [
        ({"pressure_loss": "packed bed", "particle_diameter": "0.1 mm"}, "The pressure is used up"),
        ({"pressure_loss": "packed bed", "particle_diameter": "1 mm", "voidage": "100 %"}, "a voidage between 0 and 1"),
        ({"pressure_loss": "packed bed", "particle_diameter": "20 mm", "pressure_change": "-1 bar"}, "follows from its flow, and is typed too"),
        ({"length": None, "outlet_temperature": "900 K"}, "The temperature comes to"),
        ({"length": None, "conversion": "99.9 %", "pressure_loss": "packed bed", "particle_diameter": "2 mm"}, "The pressure is used up"),
        ({"length": None, "outlet_temperature": "460 K", "heat": "isothermal"}, "An isothermal tube comes to no other temperature"),
        (
            {"heat": "typed temperatures", "temperatures": {"rows": [{"id": "1", "cells": {"place": q("0 %"), "temperature": q("450 K")}}]}},
            "two rows or more",
        ),
    ],
)
def test_what_a_tube_cannot_do_is_told(spec, says):
    result = solve(tubes(FAST, **{"kind": spec.pop("heat", "adiabatic"), **spec}))
    assert any(says in f.text for f in result.findings), [f.text for f in result.findings]
    assert not any("defect" in f.remedy for f in result.findings)


def test_boiling_water_outside_raises_steam_by_what_the_tubes_give_off():
    """Wagner, Kretzschmar 2008 (IAPWS-IF97): at 5 bar water boils at 151.83 degC, steam has 2748.1 kJ/kg; feed water of 105 degC has 440.5 kJ/kg."""
    spec = {"heat_transfer_coefficient": "60 W/(m2 K)", "steam_pressure": "5 bar", "feed_water_temperature": "105 degC"}
    _, found = solved(tubes(FAST, None, "boiling water", energy="90 kJ/mol", **spec))
    assert found["boiling_temperature"] == pytest.approx(424.98, abs=0.01)
    assert found["steam"] == pytest.approx(-found["duty"] / (2748.1e3 - 440.5e3), rel=2e-4)
    plain = {"heat_transfer_coefficient": "60 W/(m2 K)", "coolant_temperature": f"{found['boiling_temperature']!r} K"}
    other = solved(tubes(FAST, None, "coolant at one temperature", energy="90 kJ/mol", **plain))[1]
    assert found["duty"] == pytest.approx(other["duty"], rel=1e-12)
    colder, _ = solved(tubes(FAST, None, "boiling water", energy="90 kJ/mol", **{**spec, "steam_pressure": "25 bar"}))
    assert any("take up heat from the boiling water" in f.text for f in colder.findings)


def test_tubes_without_anything_outside_are_adiabatic_and_say_so():
    spec = {"heat_transfer_coefficient": "60 W/(m2 K)"}
    dry, found = solved(tubes(FAST, ("0 mol/s", "440 K", "20 bar"), "counter-current stream", **spec))
    assert any("Nothing flows on the outside" in f.text for f in dry.findings)
    assert found["duty"] == pytest.approx(0.0, abs=1e-3)
    assert found["hottest"] == pytest.approx(solved(tubes(FAST, None, "adiabatic"))[1]["hottest"], rel=1e-12)


@pytest.mark.parametrize(("bed", "count"), [(True, 400), (False, 50)])
def test_films_inside_by_leva_and_gnielinski(bed, count):
    """A gas warmed by condensing steam, its film followed along the tube (Incropera, DeWitt 2007, chapter 8; Leva 1949), integrated here."""
    from scipy.integrate import solve_ivp

    particles = {"pressure_loss": "packed bed", "particle_diameter": "6 mm", "voidage": "45 %"} if bed else {}
    wall = {
        "outside_coefficient": "6000 W/(m2 K)",
        "wall_thickness": "2.5 mm",
        "wall_conductivity": "16 W/m/K",
        "fouling_resistance": "0.0002 m2*K/W",
    }
    result, found = solved(tubes(SLOW, None, "coolant at one temperature", coolant_temperature="520 K", tubes=f"{count}", **particles, **wall))
    model = PropertyModel("ideal", ["n-butane", "isobutane"])
    flux, x = 20.0 * model.molar_masses[0] / (count * math.pi / 4 * 0.03**2), np.array([1.0, 0.0])
    rest = 2e-4 + 0.03 * math.log(35 / 30) / (2 * 16.0) + 30 / 35 / 6000.0

    def slope(z, y):
        gas, known = model.phase("vapour", y[0], 5e5, x), transport("vapour", y[0], 5e5, x, model.curves)
        if bed:
            nusselt = 0.813 * (flux * 6e-3 / known.viscosity) ** 0.9 * math.exp(-6 * 6 / 30)
        else:
            re, pr = flux * 0.03 / known.viscosity, gas.heat_capacity / gas.molar_mass * known.viscosity / known.conductivity
            f = (0.79 * math.log(re) - 1.64) ** -2
            nusselt = f / 8 * (re - 1000) * pr / (1 + 12.7 * math.sqrt(f / 8) * (pr ** (2 / 3) - 1))
        overall = 1 / (0.03 / (nusselt * known.conductivity) + rest)
        return [count * math.pi * 0.03 * overall * (520.0 - y[0]) / (20.0 * gas.heat_capacity)]

    warm = float(solve_ivp(slope, (0.0, 6.0), [450.0], rtol=1e-10).y[0, -1])
    assert result.streams["S-2"].temperature == pytest.approx(warm, abs=2e-3)
    profile = next(iter(result.units["R"].profiles)).column("heat_transfer_coefficient")
    assert min(profile.values) < found["heat_transfer_coefficient"] < max(profile.values)
    assert not any("film inside the tubes" in f.text for f in result.findings)


def test_reactions_of_very_different_pace_against_a_stiff_integration():
    """A fast reversible and a slow reaction, 2e5 apart, beside a coolant: the same balances by Radau IIA (Hairer, Wanner 1996) to 1e-10."""
    from scipy.integrate import solve_ivp

    parts = [*ISOMERS, ("propane", "74-98-6"), ("methane", "74-82-8"), ("ethylene", "74-85-1"), ("ethane", "74-84-0")]
    law = {"value": 2e4, "unit": "1/s", "energy": "60 kJ/mol", "reference": "450 K"}
    slow = {"value": 0.1, "unit": "1/s", "energy": "90 kJ/mol", "reference": "450 K"}
    made = [
        {"name": "Fast", "numbers": {"n-butane": -1, "isobutane": 1}, "forward": {**law, "orders": {"n-butane": 1}},
         "backward": {**law, "value": 1e4, "energy": "68 kJ/mol", "orders": {"isobutane": 1}}},
        {"name": "Slow", "numbers": {"isobutane": -1, "ethylene": 1, "ethane": 1}, "forward": {**slow, "orders": {"isobutane": 1}}},
    ]  # fmt: skip
    feed = {"temperature": "450 K", "pressure": "5 bar", "flow": "20 mol/s", "composition": {"values": {"n-butane": {"value": 1}}}}
    spec = {"reactions": "Main", "volume": "2 m3", "diameter": "30 mm", "tubes": "400", "heat": "coolant at one temperature",
            "coolant_temperature": "460 K", "heat_transfer_coefficient": "20 W/(m2 K)"}  # fmt: skip
    tube = ("plug-flow-reactor", spec)
    units = {"F": ("feed", feed), "R": tube, "Z": ("product", {})}
    sets = [{"name": "Main", "reactions": made}]
    result, found = solved(plant(parts, units, ["S-1: F.outlet -> R.inlet", "S-2: R.outlet -> Z.inlet"], "ideal", reactions=sets))
    model = PropertyModel("ideal", [name for name, _ in parts])
    nu = np.array([[-1, 1, 0, 0, 0, 0], [0, -1, 0, 0, 1, 1]], dtype=float)
    start = np.array([20.0, 0, 0, 0, 0, 0])

    def slopes(_, y):
        flows = start + y[:2] @ nu
        x, T = flows / flows.sum(), y[2]
        gas = model.phase("vapour", T, 5e5, x)
        c = x * 5e5 / (R * T)
        fast, back, slowly = (k * math.exp(-e / R * (1 / T - 1 / 450.0)) for k, e in ((2e4, 60e3), (1e4, 68e3), (0.1, 90e3)))
        rates = np.array([fast * c[0] - back * c[1], slowly * c[1]])
        pure = np.array([model.phase("vapour", T, 5e5, row).enthalpy for row in np.eye(6)])
        heat = 4 / 0.03 * 20.0 * (460.0 - T)
        return [*rates, (heat - rates @ (nu @ pure)) / (flows.sum() * gas.heat_capacity)]

    other = solve_ivp(slopes, (0.0, 2.0), [0.0, 0.0, 450.0], "Radau", rtol=1e-9, atol=1e-9).y[:, -1]
    assert found["extent[Fast]"] == pytest.approx(other[0], rel=1e-6)
    assert found["extent[Slow]"] == pytest.approx(other[1], rel=1e-6)
    assert result.streams["S-2"].temperature == pytest.approx(other[2], rel=1e-7)


SHELL = {"shell_diameter": "400 mm", "wall_thickness": "2.5 mm", "wall_conductivity": "16 W/m/K", "fouling_resistance": "0.0002 m2*K/W"}


@pytest.mark.parametrize("kind", ["co-current stream", "counter-current stream"])
def test_the_film_of_a_stream_along_the_tubes_by_gnielinski_with_the_hydraulic_diameter(kind):
    """Incropera, DeWitt 2007, 8.6: a passage that is no circle, by four times its section over the wetted perimeter, of shell and tubes."""
    result, found = solved(tubes(SLOW, ("600 mol/s", "400 K", "20 bar"), kind, **SHELL))
    model = PropertyModel("ideal", ["n-butane", "isobutane", "water"])
    x = np.array([0.0, 0.0, 1.0])
    water, known = model.phase("liquid", 400.0, 20e5, x), transport("liquid", 400.0, 20e5, x, model.curves)
    section = math.pi / 4 * (0.4**2 - 50 * 0.035**2)
    hydraulic = 4 * section / (math.pi * (0.4 + 50 * 0.035))
    re = 600.0 * water.molar_mass / section * hydraulic / known.viscosity
    pr = water.heat_capacity / water.molar_mass * known.viscosity / known.conductivity
    f = (0.79 * math.log(re) - 1.64) ** -2
    nusselt = f / 8 * (re - 1000) * pr / (1 + 12.7 * math.sqrt(f / 8) * (pr ** (2 / 3) - 1))
    assert re > 4000.0
    assert found["outside_coefficient"] == pytest.approx(nusselt * known.conductivity / hydraulic, rel=1e-9)
    typed = {**SHELL, "shell_diameter": None, "outside_coefficient": f"{found['outside_coefficient']!r} W/(m2 K)"}
    same, _ = solved(tubes(SLOW, ("600 mol/s", "400 K", "20 bar"), kind, **typed))
    assert result.streams["S-2"].temperature == pytest.approx(same.streams["S-2"].temperature, rel=1e-10)
    assert not any("film outside" in f.text for f in result.findings)


@pytest.mark.parametrize(
    ("outside", "more", "severity", "says"),
    [
        (("600 mol/s", "400 K", "20 bar"), {"shell_diameter": "230 mm"}, "fault", "50 tubes of 35 mm do not fit into a shell of 230 mm"),
        (("600 mol/s", "400 K", "2 bar"), {}, "none", ""),
        (("60 mol/s", "400 K", "20 bar"), {}, "caution", "in between laminar and turbulent flow"),
        (("30 mol/s", "300 K", "20 bar"), {"tubes": "400", "shell_diameter": "900 mm"}, "note", "as it leaves it would be"),
    ],
)
def test_what_is_told_of_a_shell(outside, more, severity, says):
    result = solve(tubes(SLOW, outside, "co-current stream", **{**SHELL, **more}))
    told = [f for f in result.findings if f.place == "R" and f.field == "shell_diameter"]
    assert [f.severity for f in told if says and says in f.text] == ([severity] if says else [])
    assert says or not told


def test_wall_and_fouling_without_films_are_not_used_and_say_so():
    document = tubes(SLOW, ("600 mol/s", "400 K", "20 bar"), "co-current stream", heat_transfer_coefficient="60 W/(m2 K)", wall_thickness="2 mm")
    told = [f.text for f in solve(document).findings if f.field == "wall_thickness"]
    assert told == ["Wall thickness of R is not used: it applies only where its coefficient outside, or inner diameter of the shell, is given."]
