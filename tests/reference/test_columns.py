"""Staged columns against answers in closed form, stage-by-stage constructions, flashes of every stage, and an independent solution."""

import numpy as np
import pytest
from columns import P, assert_closes, assert_stages_are_flashes, fed
from scipy.optimize import root

from wattaxis import Component, HeatCapacity, PropertyModel, VapourPressure
from wattaxis.columns import ColumnError, SideDraw, StagedColumn, Want, short_cut, short_cut_of

R = 8.31446261815324


def alike(name, alpha, b=4500.0, a=23.0, cp=0.0):
    """A component of the heat of vaporisation R b, whose vapour pressure is ``alpha`` times that of another; without heat capacity there is
    constant molal overflow."""
    pressure = VapourPressure(4, (a + np.log(alpha), b, 0.0, 0.0, 0.0), 100.0, 1500.0)
    return Component(name, 0.1, 3000.0, 5e6, 0.2, HeatCapacity((cp, 0.0, 0.0, 0.0, 0.0)), vapour_pressure=pressure)


def stepped(x_top, alpha, stages, feed_stage, z, q, reflux, distillate):
    """Liquid compositions by stepping off stages from a distillate (McCabe, Thiele 1925), total condenser and kettle; flows per mole of feed."""
    y, found = x_top, [x_top]  # the condenser is stage 1
    L, V = reflux * distillate, (1.0 + reflux) * distillate
    for stage in range(2, stages + 1):
        x = y / (alpha - (alpha - 1.0) * y)
        below = stage >= feed_stage
        liquid, vapour, net = (L + q, V - (1.0 - q), distillate * x_top - z) if below else (L, V, distillate * x_top)
        y = (liquid * x + net) / vapour
        found.append(x)
    return np.array(found)


@pytest.mark.parametrize(("alpha", "stages", "stage", "z", "q", "reflux", "distillate"), [
    (2.5, 12, 6, 0.5, 1.0, 2.0, 0.5),
    (2.5, 12, 6, 0.5, 0.0, 3.0, 0.5),
    (1.3, 40, 20, 0.4, 0.6, 8.0, 0.4),
    (4.0, 7, 4, 0.3, 1.0, 1.2, 0.25),
])  # fmt: skip
def test_a_binary_of_one_volatility_is_that_of_stepped_stages(alpha, stages, stage, z, q, reflux, distillate):
    model = PropertyModel("ideal", [alike("light", alpha), alike("heavy", 1.0)])
    feeds = [fed(model, stage, [100.0 * z, 100.0 * (1.0 - z)], VF=1.0 - q)]
    column = StagedColumn(model, feeds, stages=stages, pressure=P)
    state = column.solve([Want("reflux ratio", reflux), Want("flow", 100.0 * distillate, "distillate")])

    # From stage to stage what the distillate is off grows: so near the bottom, the distillate is right to many more digits.
    assert stepped(state.x[0, 0], alpha, stages, stage, z, q, reflux, distillate) == pytest.approx(state.x[:, 0], abs=1e-6)
    assert_closes(state, feeds)


def test_with_very_much_reflux_the_ends_are_apart_as_fenske_says():
    """(x/(1-x)) at the top over that at the bottom is alpha to the number of stages (Fenske 1932), the total condenser left out."""
    model = PropertyModel("ideal", [alike("light", 1.5), alike("heavy", 1.0)])
    column = StagedColumn(model, [fed(model, 6, [50.0, 50.0], VF=0.0)], stages=11, pressure=P)
    state = column.solve([Want("reflux ratio", 1e5), Want("flow", 50.0, "distillate")])
    top, bottom = state.x[0], state.x[-1]
    assert np.log(top[0] / top[1] * bottom[1] / bottom[0]) / np.log(1.5) == pytest.approx(10.0, abs=1e-3)


def test_least_reflux_of_underwood_is_where_many_stages_still_come_to_the_purity():
    """R = (x_D / z - alpha (1 - x_D) / (1 - z)) / (alpha - 1) for a boiling feed (Underwood 1948): a little more is enough, a little less is not."""
    alpha, z, x_top = 2.0, 0.4, 0.95
    model = PropertyModel("ideal", [alike("light", alpha), alike("heavy", 1.0)])
    least = (x_top / z - alpha * (1.0 - x_top) / (1.0 - z)) / (alpha - 1.0)
    column = StagedColumn(model, [fed(model, 45, [40.0, 60.0], VF=0.0)], stages=90, pressure=P)
    reached = {}
    for times in (0.98, 1.03):
        state = column.solve([Want("reflux ratio", times * least), Want("fraction", 0.98, "bottoms", ("heavy",))])
        reached[times] = state.x[0, 0]
    assert reached[0.98] < x_top < reached[1.03]


def test_a_thin_absorber_is_that_of_kremser():
    """(1 - A) / (1 - A^(N+1)) of what enters is left (Kremser 1930; Souders, Brown 1932)."""
    stages, T = 6, 300.0
    gas = alike("gas", 1.0, b=0.0, a=np.log(1e9), cp=30.0)
    oil = alike("oil", 1.0, b=0.0, a=np.log(1e-3), cp=30.0)
    trace = alike("trace", 1.0, b=0.0, a=np.log(0.8 * P), cp=30.0)
    model = PropertyModel("ideal", [gas, oil, trace])
    feeds = [fed(model, 1, [0.0, 100.0, 0.0], T=T), fed(model, stages, [100.0, 0.0, 1e-6], T=T)]
    state = StagedColumn(model, feeds, stages=stages, pressure=P, condenser="none", reboiler=False).solve([])
    A = state.liquid[2] / (state.K[2, 2] * state.vapour[2])
    left = state.products["overhead vapour"].flows[2] / 1e-6
    assert left == pytest.approx((1.0 - A) / (1.0 - A ** (stages + 1)), rel=1e-4)
    assert np.abs(state.T - T).max() < 1e-6


HYDROCARBONS = ["propane", "isobutane", "n-butane", "isopentane", "n-pentane", "n-hexane", "n-heptane"]


@pytest.mark.parametrize(("kind", "parts", "flows", "pressure", "stages", "condenser", "wants"), [
    ("peng-robinson", HYDROCARBONS, [5, 10, 25, 15, 20, 15, 10], 7e5, 24, "total",
     [Want("fraction", 0.01, "distillate", ("isopentane",)), Want("fraction", 0.01, "bottoms", ("n-butane",))]),
    ("soave-redlich-kwong", ["ethane", *HYDROCARBONS[:5]], [5, 45, 15, 20, 8, 7], 17e5, 30, "partial",
     [Want("recovery", 0.98, "overhead vapour", ("propane",)), Want("reflux ratio", 2.5)]),
    ("nrtl", ["acetone", "methanol", "water"], [30, 40, 30], P, 28, "total", [Want("reflux ratio", 3.0), Want("flow", 45.0, "distillate")]),
    ("uniquac", ["ethanol", "water"], [20, 80], P, 20, "total",
     [Want("fraction", 0.84, "distillate", ("ethanol",)), Want("recovery", 0.97, "distillate", ("ethanol",))]),
    ("ideal", ["benzene", "toluene", "ethylbenzene"], [40, 35, 25], 1.5e5, 30, "mixed",
     [Want("reflux ratio", 2.0), Want("flow", 25.0, "distillate"), Want("flow", 14.0, "overhead vapour")]),
])  # fmt: skip
def test_every_stage_of_a_real_column_is_a_flash_and_all_balances_close(kind, parts, flows, pressure, stages, condenser, wants):
    model = PropertyModel(kind, parts)
    feeds = [fed(model, stages // 2, flows, P=pressure, VF=0.3)]
    column = StagedColumn(model, feeds, stages=stages, pressure=pressure, condenser=condenser)
    state = column.solve(wants)
    assert_closes(state, feeds)
    assert_stages_are_flashes(model, state, first=1 if condenser == "total" else 0)
    for j in range(1, stages - 1):  # heat of each stage, by the enthalpies of its phases
        if j == stages // 2 - 1:
            continue

        def heat(k, which):
            flow, z = (state.liquid[k], state.x[k]) if which == "liquid" else (state.vapour[k], state.y[k])
            return flow * model.phase(which, float(state.T[k]), float(state.P[k]), z).enthalpy

        drawn = sum(p.enthalpy_flow for p in state.products.values() if p.stage == j and p.phase == "liquid")
        coming = heat(j - 1, "liquid") - drawn + heat(j + 1, "vapour")
        assert heat(j, "liquid") + heat(j, "vapour") == pytest.approx(coming, abs=1e-7 * abs(state.duties).max())


def test_a_ternary_is_that_of_an_independent_solution():
    """Unknowns are temperatures, vapour flows and liquid fractions; SciPy's hybrid method with differences finds them."""
    model = PropertyModel("ideal", ["benzene", "toluene", "p-xylene"])
    N, at, z, reflux, D = 7, 4, np.array([0.3, 0.4, 0.3]), 2.0, 0.35
    feed = fed(model, at, 100.0 * z, VF=0.0)
    state = StagedColumn(model, [feed], stages=N, pressure=P).solve([Want("reflux ratio", reflux), Want("flow", 100.0 * D, "distillate")])

    def unpack(u):
        x = np.exp(u[: 3 * N].reshape(N, 3))
        return x, 350.0 + 50.0 * u[3 * N : 4 * N], np.concatenate(([0.0], u[4 * N :]))

    def gaps(u):
        x, T, V = unpack(u)
        phi = np.array([model.phase("liquid", t, P, row / row.sum()).fugacity_coefficients for t, row in zip(T, x, strict=True)])
        y = phi * x
        h = np.array([model.phase("liquid", t, P, row / row.sum()).enthalpy for t, row in zip(T, x, strict=True)]) / 2e4
        H = np.array([model.phase("vapour", t, P, row / row.sum()).enthalpy for t, row in zip(T, y, strict=True)]) / 2e4
        fed_so_far = np.array([1.0 if j >= at - 1 else 0.0 for j in range(N)])
        L = np.append(V[1:], 0.0) + fed_so_far - D
        L[-1] = 1.0 - D
        found = [x.sum(axis=1) - 1.0, y.sum(axis=1) - 1.0, [V[1] - (1.0 + reflux) * D]]
        for j in range(N):
            out = L[j] * x[j] + (V[j] * y[j] if j else D * x[0])
            into = (L[j - 1] * x[j - 1] if j else 0.0) + (V[j + 1] * y[j + 1] if j + 1 < N else 0.0) + (z if j == at - 1 else 0.0)
            found.append((out - into)[:2])
            if 0 < j < N - 1:
                heat = L[j] * h[j] + V[j] * H[j] - L[j - 1] * h[j - 1] - V[j + 1] * H[j + 1]
                found.append([heat - (feed.enthalpy_flow / 100.0 / 2e4 if j == at - 1 else 0.0)])
        return np.concatenate([np.ravel(part) for part in found])

    start = np.concatenate([np.log(np.tile(z, (N, 1))).ravel(), np.linspace(0.2, 1.1, N), np.full(N - 1, 3.0 * D)])
    found = root(gaps, start, tol=1e-13)
    x, T, V = unpack(found.x)
    assert np.abs(gaps(found.x)).max() < 1e-10
    assert state.x == pytest.approx(x, abs=1e-8)
    assert np.abs(state.T - T).max() < 1e-6
    assert state.vapour[1:] == pytest.approx(100.0 * V[1:], rel=1e-8)


def test_one_column_under_six_pairs_of_specifications_is_one_profile():
    model = PropertyModel("peng-robinson", HYDROCARBONS)
    column = StagedColumn(model, [fed(model, 12, [5, 10, 25, 15, 20, 15, 10], P=7e5, VF=0.2)], stages=24, pressure=(7e5, 7.4e5))
    first = column.solve([Want("reflux ratio", 1.8), Want("flow", 41.0, "distillate")])
    top, bottom = first.products["distillate"].flows, first.products["bottoms"].flows
    ids = [c.id for c in model.components]
    butane, pentane = ids[2], ids[3]
    mass = model.molar_masses
    pairs = [
        (Want("boil-up ratio", first.boil_up_ratio), Want("flow", bottom.sum(), "bottoms")),
        (Want("fraction", top[3] / top.sum(), "distillate", (pentane,)), Want("fraction", bottom[2] / bottom.sum(), "bottoms", (butane,))),
        (Want("recovery", top[2] / (top + bottom)[2], "distillate", (butane,)), Want("reflux ratio", 1.8)),
        (Want("duty", first.duties[-1], place="reboiler"), Want("flow", mass @ top, "distillate", basis="mass")),
        (Want("temperature", first.T[18], stage=19), Want("flow", 41.0, "distillate")),
        (
            Want("fraction", mass[2] * top[2] / (mass @ top), "distillate", (butane,), "mass"),
            Want("stage flow", first.vapour[4], stage=5, phase="vapour"),
        ),
    ]
    for pair in pairs:
        again = column.solve(pair)
        assert again.x == pytest.approx(first.x, abs=1e-7), [w.text for w in pair]
        assert np.abs(again.T - first.T).max() < 1e-5


@pytest.mark.parametrize("shares", [0.65, np.tile([0.5, 0.7, 0.8], (15, 1))])
def test_vapours_leave_stages_by_the_efficiency_of_murphree(shares):
    """(y - y below) / (y in equilibrium - y below) (Murphree 1925), the same for every component or its own."""
    model = PropertyModel("ideal", ["benzene", "toluene", "p-xylene"])
    feeds = [fed(model, 8, [30, 40, 30], VF=0.5)]
    column = StagedColumn(model, feeds, stages=15, pressure=P, efficiencies=shares)
    state = column.solve([Want("reflux ratio", 2.0), Want("flow", 30.0, "distillate")])
    for j in range(1, 13):
        ideal = state.K[j] * state.x[j]
        moved = (state.y[j] - state.y[j + 1]) / (ideal - state.y[j + 1])
        assert moved == pytest.approx(np.broadcast_to(shares, (15, 3))[j], abs=1e-6)
    assert state.y[14] == pytest.approx(state.K[14] * state.x[14], abs=1e-9)
    assert_closes(state, feeds)


@pytest.mark.parametrize("phase", ["liquid", "vapour"])
def test_side_draws_have_the_composition_of_their_stage(phase):
    model = PropertyModel("ideal", ["benzene", "toluene", "p-xylene"])
    feeds = [fed(model, 20, [30, 40, 30], VF=0.0)]
    column = StagedColumn(model, feeds, stages=35, pressure=P, draws=[SideDraw("side", 12 if phase == "liquid" else 27, phase)])
    state = column.solve([Want("reflux ratio", 5.0), Want("flow", 28.0, "distillate"), Want("flow", 40.0, "side")])
    side = state.products["side"]
    assert side.flows.sum() == pytest.approx(40.0)
    assert side.flows / 40.0 == pytest.approx((state.x if phase == "liquid" else state.y)[side.stage - 1], abs=1e-12)
    assert side.flows[1] / 40.0 > 0.8  # the middle one
    assert_closes(state, feeds)


def test_a_subcooled_reflux_condenses_vapour_on_the_first_tray():
    """Liquid inside is the reflux and what it takes to warm it: L = R D (1 + cp dT / heat of vaporisation) about (Kister 1992)."""
    model = PropertyModel("ideal", ["benzene", "toluene"])
    feeds = [fed(model, 10, [50.0, 50.0], VF=0.0)]
    wants = [Want("reflux ratio", 2.0), Want("flow", 50.0, "distillate")]
    warm = StagedColumn(model, feeds, stages=20, pressure=P).solve(wants)
    column = StagedColumn(model, feeds, stages=20, pressure=P, subcooling=30.0)
    cold = column.solve(wants)
    cp = model.phase("liquid", cold.T[0] - 15.0, P, cold.x[0]).heat_capacity
    latent = model.phase("vapour", cold.T[1], P, cold.y[1]).enthalpy - model.phase("liquid", cold.T[1], P, cold.x[1]).enthalpy
    assert cold.liquid[1] - warm.liquid[1] == pytest.approx(100.0 * cp * 30.0 / latent, rel=0.05)
    assert_closes(cold, feeds)


def test_an_absorber_and_a_stripper_with_a_heavy_oil():
    parts = ["methane", "ethane", "propane", "n-butane", "n-decane"]
    model = PropertyModel("peng-robinson", parts)
    feeds = [fed(model, 1, [0, 0, 0, 0, 60], P=20e5, T=300.0), fed(model, 8, [70, 15, 10, 5, 0], P=20e5, T=300.0)]
    absorber = StagedColumn(model, feeds, stages=8, pressure=20e5, condenser="none", reboiler=False)
    state = absorber.solve([])
    assert_closes(state, feeds)
    assert_stages_are_flashes(model, state)
    rich = state.products["bottoms"].flows
    hot = [fed(model, 1, rich, P=3e5, T=430.0)]
    stripper = StagedColumn(model, hot, stages=10, pressure=3e5, condenser="none")
    lean = stripper.solve([Want("recovery", 0.98, "overhead vapour", ("n-butane",))])
    assert_closes(lean, hot)
    assert_stages_are_flashes(model, lean)
    assert lean.products["bottoms"].flows[0] < 1e-6 * rich[0]


def test_two_feeds_and_heat_on_a_stage():
    model = PropertyModel("ideal", ["benzene", "toluene"])
    feeds = [fed(model, 6, [40.0, 10.0], VF=0.0), fed(model, 12, [10.0, 40.0], VF=0.5)]
    column = StagedColumn(model, feeds, stages=18, pressure=P, duties={9: -2e5})
    state = column.solve([Want("fraction", 0.98, "distillate", ("benzene",)), Want("fraction", 0.97, "bottoms", ("toluene",))])
    assert state.duties[8] == pytest.approx(-2e5)
    assert_closes(state, feeds)
    assert_stages_are_flashes(model, state, first=1)


@pytest.mark.parametrize("seed", range(6))
def test_the_state_does_not_depend_on_where_the_search_starts(seed):
    rng = np.random.default_rng(seed)
    model = PropertyModel("nrtl", ["acetone", "methanol", "ethanol"])
    column = StagedColumn(model, [fed(model, 12, rng.dirichlet([2.0, 2.0, 2.0]) * 100.0, VF=0.3)], stages=24, pressure=P)
    wants = [Want("reflux ratio", 3.0), Want("flow", 40.0, "distillate")]
    other = column.solve([Want("reflux ratio", 1.5), Want("flow", 55.0, "distillate")])
    assert column.solve(wants, other).x == pytest.approx(column.solve(wants).x, abs=1e-9)


def test_short_cut_of_five_components_with_one_between_the_keys():
    """Both roots of Underwood, and what of the middle one leaves at the top, fulfil his equations of feed and top (Underwood 1948)."""
    alpha, feed, recoveries = np.array([3.0, 2.0, 1.5, 1.0, 0.5]), np.array([10.0, 30.0, 20.0, 30.0, 10.0]), (0.98, 0.97)
    found = short_cut(alpha, feed, 0.7, 1, 3, recoveries)
    assert found.distributed == (1, 2, 3)
    assert all(low < theta < high for theta, low, high in zip(found.roots, (1.5, 1.0), (2.0, 1.5), strict=True))
    z = feed / feed.sum()
    top = np.array([10.0, 29.4, np.nan, 0.9, 0.0])
    for theta in found.roots:
        assert (alpha * z / (alpha - theta)).sum() == pytest.approx(0.3, abs=1e-10)
    # Of the two equations of the top one says what of the middle component leaves there, the other the vapour.
    a, b = ((alpha[[0, 1, 3]] * top[[0, 1, 3]] / (alpha[[0, 1, 3]] - theta)).sum() for theta in found.roots)
    u, v = (1.5 / (1.5 - theta) for theta in found.roots)
    middle = (b - a) / (u - v)
    assert 0.0 < middle < 20.0
    assert found.minimum_reflux == pytest.approx((a + u * middle) / (10.0 + 29.4 + 0.9 + middle) - 1.0, rel=1e-9)
    assert found.stages(found.reflux(30.0)) == pytest.approx(30.0, rel=1e-9)
    assert found.stages(found.minimum_reflux) == np.inf
    assert found.stages(1e9) == pytest.approx(found.minimum_stages, rel=1e-3)


def test_least_stages_of_the_short_cut_are_those_of_total_reflux():
    """Fenske's distribution of all components is that of a column with very much reflux, whose volatilities are constant."""
    alpha = [3.0, 1.8, 1.0, 0.6]
    model = PropertyModel("ideal", [alike(f"part {k}", a) for k, a in enumerate(alpha)])
    feed = [20.0, 30.0, 30.0, 20.0]
    column = StagedColumn(model, [fed(model, 6, feed, VF=0.0)], stages=12, pressure=P)
    state = column.solve([Want("reflux ratio", 1e4), Want("flow", 50.0, "distillate")])
    top, bottom = state.products["distillate"].flows, state.products["bottoms"].flows
    share = top / (top + bottom)
    found = short_cut(alpha, feed, 1.0, 1, 2, (share[1], 1.0 - share[2]))
    assert found.minimum_stages == pytest.approx(11.0, abs=2e-2)
    assert found.distillate == pytest.approx(top, abs=2e-2)


def test_stages_of_the_short_cut_are_near_those_of_the_rigorous_column():
    """Gilliland's chart is good to some ten percent of the stages."""
    model = PropertyModel("peng-robinson", ["propane", "isobutane", "n-butane", "isopentane"])
    flows = np.array([2.0, 42.0, 53.0, 3.0])
    found = short_cut_of(model, flows, 1.0, 1, 2, (0.98, 0.98), (6.2e5, 6.6e5))
    stages = found.stages(1.3 * found.minimum_reflux)
    at = round(found.feed_stage(stages)) + 1
    column = StagedColumn(model, [fed(model, at, flows, P=6.4e5, VF=0.0)], stages=round(stages) + 1, pressure=(6.2e5, 6.6e5))
    state = column.solve([Want("recovery", 0.98, "distillate", ("isobutane",)), Want("recovery", 0.02, "distillate", ("n-butane",))])
    assert state.reflux_ratio == pytest.approx(1.3 * found.minimum_reflux, rel=0.1)


@pytest.mark.parametrize("share", [0.1, 0.3, 0.6])
def test_what_circulates_through_a_reboiler_is_a_flash_of_the_sump(share):
    """Of the sump's liquid the share becomes vapour; what returns with it mixes with the liquid from above, and the product leaves from there."""
    parts = ["propane", "n-butane", "n-pentane", "n-decane"]
    model = PropertyModel("peng-robinson", parts)
    feeds = [fed(model, 6, [20, 30, 30, 20], P=9e5, VF=0.3)]
    wants = [Want("reflux ratio", 2.0), Want("flow", 50.0, "distillate")]
    state = StagedColumn(model, feeds, stages=12, pressure=8e5, vaporised=share).solve(wants)
    assert_closes(state, feeds)
    passed = model.flash(state.x[-1], P=8e5, VF=share)
    assert passed.temperature == pytest.approx(state.T[-1], abs=1e-6)
    assert passed.vapour_fractions == pytest.approx(state.y[-1], abs=1e-8)
    above = model.phase("liquid", state.T[-2], 8e5, state.x[-2]).enthalpy
    back = model.phase("liquid", state.T[-1], 8e5, passed.liquid_fractions).enthalpy
    returned = state.vapour[-1] * (1.0 - share) / share
    product = state.products["bottoms"]
    mixed = (state.liquid[-2] * above + returned * back) / (state.liquid[-2] + returned)
    assert product.enthalpy_flow == pytest.approx(product.flows.sum() * mixed, rel=1e-9)
    kettle = StagedColumn(model, feeds, stages=12, pressure=8e5).solve(wants)
    assert state.T[-1] > kettle.T[-1]  # heavier liquid boils there
    much = StagedColumn(model, feeds, stages=12, pressure=8e5, vaporised=1e-6).solve(wants)
    assert np.abs(much.T - kettle.T).max() < 1e-3


@pytest.mark.parametrize(("given", "says"), [({"vaporised": 0.2, "reboiler": False}, "the column has none"), ({"vaporised": 1.0}, "100 % of what")])
def test_what_cannot_circulate_is_refused(given, says):
    model = PropertyModel("ideal", ["benzene", "toluene"])
    with pytest.raises(ColumnError, match=says):
        StagedColumn(model, [fed(model, 6, [50, 50], VF=0.5)], stages=12, pressure=P, **given)
