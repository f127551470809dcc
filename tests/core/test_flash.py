"""Consistency of the property kernels, and that flashes find an answer nearly everywhere."""

import numpy as np
import pytest
from hypothesis import assume, event, given, settings
from hypothesis import strategies as st

from wattaxis import Component, FlashError, HeatCapacity, PropertyModel, model_infos
from wattaxis.properties import layout, model_kinds
from wattaxis.properties.kernels import phase
from wattaxis.substances.bank import bank_data

MIX = ["methane", "propane", "n-pentane", "benzene", "water", "2-butanol"]
POLAR = ["ethanol", "n-hexane", "benzene", "butanone", "water", "2-butanol"]
CLUSTERS = ["hydrogen fluoride", "acetic acid", "benzene", "butanone", "water", "formic acid"]
#: Steam is water alone and has tests of its own.
MODELS = [kind for kind in model_infos() if kind != "steam"]
ACTIVITY = [kind for kind in MODELS if model_kinds()[kind].code >= layout.ACTIVITY]


def made(kind, vapour="ideal"):
    """A model of six components; pair models get made-up parameters, the same at every run, that depend on temperature in every way there is."""
    rng = np.random.default_rng(7)
    scale = {"a": 0.4, "b": 120.0, "e": 0.02, "f": 2e-4}
    pairs = {}
    polar = CLUSTERS if vapour == "associating" else POLAR
    for i, first in enumerate(polar):
        for second in polar[:i]:
            names = [p.name for p in model_infos()[kind].parameters]
            values = {name: float(rng.uniform(-1, 1)) * scale[name[0]] for name in names if name[0] in scale and name != "alpha"}
            if kind in ("margules", "van-laar"):
                values = {"a12": float(rng.uniform(0.2, 1.0)), "a21": float(rng.uniform(0.2, 1.0)), "b12": float(rng.uniform(0, 60))}
            pairs[first, second] = {**values, "alpha": 0.3} if "alpha" in names else values
    if kind in ACTIVITY:
        return PropertyModel(kind, polar, pairs if names else None, vapour=vapour)
    warm = {("propane", "benzene"): {"kij": 0.05, "kb": -6.0, "ke": 1e-4}, ("methane", "water"): {"kij": 0.4, "kb": 20.0}}
    return PropertyModel(kind, MIX, warm if "kb" in names else None)


MADE = {kind: made(kind) for kind in MODELS}
OVER = (("nrtl", "virial"), ("nrtl", "associating"), ("unifac", "soave-redlich-kwong"), ("uniquac", "peng-robinson"))
MADE |= {f"{kind}, {vapour}": made(kind, vapour) for kind, vapour in OVER}
KINDS = list(MADE)
fractions = st.lists(st.floats(1e-3, 1.0), min_size=len(MIX), max_size=len(MIX)).map(lambda v: np.array(v) / sum(v))
temperatures = st.floats(220.0, 700.0)
pressures = st.floats(3.5, 7.2).map(lambda e: 10.0**e)


def properties(model, t, p, x, root):
    n = len(x)
    ctx, vectors, dn, props = model.workspace(), np.empty((3, n)), np.empty((n, n)), np.empty(5)
    phase.prepare(model.family.code, t, model.par, model.pairs, ctx, True)
    phase.phase_properties(model.family.code, root, t, p, x, model.par, ctx, True, vectors[0], vectors[1], vectors[2], dn, props)
    return vectors, dn, props


@pytest.mark.parametrize("kind", KINDS)
@pytest.mark.parametrize("root", [layout.LIQUID, layout.VAPOUR])
@settings(max_examples=60, deadline=None)
@given(x=fractions, t=temperatures, p=pressures)
def test_derivatives_gibbs_duhem_and_departures(kind, root, x, t, p):
    model = MADE[kind]
    (lnphi, dt, dp), dn, props = properties(model, t, p, x, root)
    step_t, step_p = 1e-5 * t, 1e-5 * p  # short: near the end of a root the curvature is large
    ends = [end for c in model.components for end in (c.vapour_pressure.low, c.vapour_pressure.high)]
    if model.equation_of_state:  # the alpha of a component may change its form where it is critical
        ends = [c.critical_temperature for c in model.components]
    assume(min(abs(t - end) for end in ends) > 2 * step_t)  # the heat capacity jumps at the end of a range
    hot, cold = properties(model, t + step_t, p, x, root), properties(model, t - step_t, p, x, root)
    high, low = properties(model, t, p + step_p, x, root), properties(model, t, p - step_p, x, root)
    # Differences mean nothing where the root changes between the points.
    volumes = [r[2][0] for r in (hot, cold, high, low)]
    assume(max(volumes) - min(volumes) <= 0.05 * max(abs(props[0]), 1e-6))
    # Nor where they still bend much over so short a way, as right before the end of a root.
    assume(np.allclose((hot[0][0] - lnphi) / step_t, (lnphi - cold[0][0]) / step_t, rtol=1e-2, atol=1e-6))
    assert np.allclose(dt, (hot[0][0] - cold[0][0]) / (2 * step_t), rtol=2e-4, atol=1e-6)
    assert np.allclose(dp, (high[0][0] - low[0][0]) / (2 * step_p), rtol=2e-4, atol=2e-5 / p)
    assert np.allclose(x @ dn, 0.0, atol=1e-8 * max(1.0, np.abs(dn).max()))  # Gibbs, Duhem at constant T and P
    assert np.allclose(dn, dn.T, atol=1e-9 * max(1.0, np.abs(dn).max()))  # Maxwell
    assert np.allclose(dn @ x, 0.0, atol=1e-8 * max(1.0, np.abs(dn).max()))  # homogeneous of degree zero
    gibbs = layout.R * t * float(x @ lnphi)
    enthalpy = -layout.R * t * t * float(x @ dt)
    if model.equation_of_state or root == layout.VAPOUR:
        assert props[phase.H_RES] == pytest.approx(enthalpy, rel=1e-8, abs=1e-6)
    elif t < 0.75 * min(c.critical_temperature for c in model.components):
        # The liquid's enthalpy is that of measured heats, from which the slopes of vapour pressures differ a little.
        assert props[phase.H_RES] == pytest.approx(enthalpy, rel=0.25)
    assert props[phase.H_RES] - t * props[phase.S_RES] == pytest.approx(gibbs, rel=1e-8, abs=1e-6)
    slope = (hot[2][phase.H_RES] - cold[2][phase.H_RES]) / (2 * step_t)
    assert props[phase.CP_RES] == pytest.approx(slope, rel=1e-3, abs=2e-3)


@pytest.mark.parametrize("kind", KINDS)
@settings(max_examples=30, deadline=None)
@given(x=fractions, t=temperatures, p=pressures, j=st.integers(0, len(MIX) - 1))
def test_composition_derivatives_against_differences(kind, x, t, p, j):
    model = MADE[kind]
    root = layout.LIQUID if kind in ACTIVITY else layout.VAPOUR  # over an activity model that is not ideal: its vapour
    (_, _, _), dn, _ = properties(model, t, p, x, root)
    step = 1e-6
    up, down = x.copy(), x.copy()
    up[j] += step
    down[j] -= step
    higher = properties(model, t, p, up / up.sum(), root)
    lower = properties(model, t, p, down / down.sum(), root)
    assume(abs(higher[2][0] - lower[2][0]) < 1e-3)
    assert np.allclose(dn[:, j], (higher[0][0] - lower[0][0]) / (2 * step), rtol=1e-3, atol=2e-4)


@pytest.mark.parametrize("kind", KINDS)
@settings(max_examples=120, deadline=None)
@given(z=fractions, t=temperatures, p=pressures)
def test_balances_equilibrium_and_the_way_back(kind, z, t, p):
    model = MADE[kind]
    try:
        state = model.flash(z, T=t, P=p)
    except FlashError as error:
        assert error.reason == "not converged"
        event("not converged")  # how often is tested below
        return
    assert np.allclose(sum(a * part.fractions for a, part in zip(state.amounts, state.phases, strict=True)), z, atol=1e-10)
    fugacities = [np.log(part.fractions * part.fugacity_coefficients) for part in state.phases]
    for other in fugacities[1:]:
        assert np.abs(other - fugacities[0]).max() < 1e-6
    if state.left_out:
        event("a phase is left out")
        return
    for name, value in (("H", state.enthalpy), ("S", state.entropy)):
        try:
            back = model.flash(z, P=p, **{name: value})
        except FlashError as error:
            assert error.reason == "not converged"
            event("not converged")
            continue
        found = back.enthalpy if name == "H" else back.entropy
        assert found == pytest.approx(value, rel=1e-9, abs=1e-6)
        if model.family.code == layout.CUBIC:  # beyond their ranges vapour pressures bend, and with them the ideal enthalpies
            assert back.temperature == pytest.approx(t, rel=1e-6)


@pytest.mark.parametrize("kind", ["peng-robinson", "soave-redlich-kwong"])
def test_three_phases_are_found_and_found_again_from_their_energies(kind):
    """Water, pentane and methane: a vapour over a hydrocarbon and an aqueous liquid."""
    model = PropertyModel(kind, ["methane", "n-pentane", "water"])
    state = model.flash([0.3, 0.4, 0.3], T=320.0, P=20e5)
    assert state.phase == "liquid and vapour and second liquid"
    assert sum(state.amounts) == pytest.approx(1.0, abs=1e-12)
    assert max(part.fractions[2] for part in state.phases) > 0.99
    for known in ({"H": state.enthalpy}, {"S": state.entropy}, {"VF": state.vapour_fraction}):
        back = model.flash([0.3, 0.4, 0.3], P=20e5, **known)
        assert back.temperature == pytest.approx(320.0, rel=1e-8)
        assert back.amounts == pytest.approx(state.amounts, abs=1e-6)
    assert model.flash([0.3, 0.7, 0.0], T=320.0, P=20e5).phase == "liquid and vapour"
    wet = state.part("liquid")
    assert (wet.two_liquids, wet.phase) == (True, "liquid and second liquid")
    assert wet.enthalpy == pytest.approx(model.flash(wet.fractions, T=320.0, P=20e5).enthalpy, rel=1e-9)


@pytest.mark.parametrize("vf", [0.0, 0.3, 0.6])
@pytest.mark.parametrize("water", [0.35, 0.5, 0.9])
def test_two_liquids_boil_at_one_temperature(vf, water):
    """Two components in three phases have one temperature at a pressure: the amounts, not the temperature, follow the energy."""
    model = PropertyModel("nrtl", ["butanone", "water"])
    boiling = model.flash([0.5, 0.5], P=101325.0, VF=0.0)
    state = model.flash([1 - water, water], P=101325.0, VF=vf)
    if state.second_liquid is None:
        assert state.temperature > boiling.temperature  # one liquid has boiled away before
        return
    assert state.temperature == pytest.approx(boiling.temperature, rel=1e-10)
    assert state.vapour_fraction == vf
    again = model.flash([1 - water, water], P=101325.0, H=state.enthalpy)
    assert again.temperature == pytest.approx(state.temperature, rel=1e-9)
    assert again.enthalpy == pytest.approx(state.enthalpy, rel=1e-10)
    assert again.vapour_fraction == pytest.approx(vf, abs=1e-8)


@settings(max_examples=60, deadline=None)
@given(z=fractions, p=st.floats(4.0, 6.3).map(lambda e: 10.0**e), vf=st.sampled_from([0.0, 0.2, 0.7, 1.0]))
def test_states_at_a_vapour_fraction(z, p, vf):
    model = PropertyModel("peng-robinson", MIX[1:4])
    z = z[1:4] / z[1:4].sum()
    state = model.flash(z, P=p, VF=vf)
    assert state.vapour_fraction == vf
    again = model.flash(z, T=state.temperature, VF=vf)
    assert again.pressure == pytest.approx(p, rel=1e-6)
    if 0 < vf < 1:
        assert model.flash(z, T=state.temperature, P=p).vapour_fraction == pytest.approx(vf, abs=1e-6)


@pytest.mark.parametrize(
    ("kind", "parts"),
    [
        ("nrtl", ["butanone", "water"]),
        ("nrtl", ["1-butanol", "water", "ethyl acetate", "benzene"]),
        ("uniquac", ["butanone", "water", "2-butanol"]),
        ("wilson", ["ethanol", "water", "acetone"]),
        ("unifac", ["1-butanol", "water", "ethyl acetate"]),
        ("unifac-dortmund", ["ethanol", "water", "benzene", "cyclohexane"]),
        ("peng-robinson", ["carbon dioxide", "water", "methane", "n-decane"]),
    ],
)
def test_random_states_of_mixtures_that_part(kind, parts):
    """2000 states each, many of two liquids or three phases: nearly all solved, phases in equilibrium, nothing lost."""
    model = PropertyModel(kind, parts)
    rng = np.random.default_rng(3)
    failed = 0
    for _ in range(2000):
        z = rng.dirichlet(np.ones(len(parts)) * rng.choice([0.3, 1.0, 3.0]))
        try:
            state = model.flash(z, T=rng.uniform(230, 480), P=10 ** rng.uniform(3.5, 6))
        except FlashError:
            failed += 1
            continue
        whole = sum(a * part.fractions for a, part in zip(state.amounts, state.phases, strict=True))
        assert np.abs(whole - state.fractions).max() < 1e-10
        fugacities = [np.log(np.maximum(part.fractions, 1e-300) * part.fugacity_coefficients) for part in state.phases]
        if min(state.amounts) > 1e-9:
            present = state.fractions > 1e-12
            assert all(np.abs(f - fugacities[0])[present].max() < 1e-6 for f in fugacities[1:])
    assert failed <= 2


def test_ten_thousand_random_states(capsys):
    """2 to 12 components of the bank, 100-900 K, 1 Pa-300 bar, traces of 1e-12, near-critical states."""
    rng = np.random.default_rng(11)
    pool = [e["cas"] for e in bank_data()["substances"] if e["Psat"]["form"] in (1, 2, 4)]
    failed = []
    for k in range(10_000):
        n = int(rng.integers(2, 13))
        kind = ("peng-robinson", "soave-redlich-kwong", "ideal")[k % 3]
        model = PropertyModel(kind, list(rng.choice(pool, n, replace=False)))
        z = rng.dirichlet(np.ones(n))
        if k % 3 == 0:
            z[rng.integers(n)] = 1e-12
        t, p = rng.uniform(100, 900), 10 ** rng.uniform(0, np.log10(300e5))
        if k % 5 == 0:
            t = float(z @ model.par[layout.TC] / z.sum()) * rng.uniform(0.9, 1.1)
            p = float(z @ model.par[layout.PC] / z.sum()) * rng.uniform(0.8, 1.5)
        try:
            state = model.flash(z, T=t, P=p)
        except FlashError as error:
            failed.append((kind, [c.name for c in model.components], z.tolist(), t, p, str(error)))
            continue
        whole = sum(a * part.fractions for a, part in zip(state.amounts, state.phases, strict=True))
        gap = np.abs(whole - state.fractions).max()
        assert gap < 1e-10, (kind, model.components, z, t, p)
    for case in failed:
        print(case)
    assert len(failed) <= 10, f"{len(failed)} of 10000 failed"


def test_pure_water_boils_and_mixes_phases_by_enthalpy():
    model = PropertyModel("peng-robinson", ["water"])
    boiling = model.flash([1.0], P=101325.0, VF=0.0)
    assert boiling.temperature == pytest.approx(373.15, abs=3.0)  # the equation itself is about 1.4 K off
    half = model.flash([1.0], P=101325.0, VF=0.4)
    back = model.flash([1.0], P=101325.0, H=half.enthalpy)
    assert back.vapour_fraction == pytest.approx(0.4, abs=1e-8)
    with pytest.raises(FlashError, match="no state"):
        model.flash([1.0], P=300e5, VF=0.5)


def test_own_components_and_zero_amounts():
    gas = HeatCapacity((30.0, 0.1, 0.0, 0.0, 0.0))
    parts = [Component("A", 0.03, 300.0, 50e5, 0.1, gas), Component("B", 0.1, 560.0, 30e5, 0.35, gas), Component("C", 0.2, 700.0, 20e5, 0.6, gas)]
    three = PropertyModel("peng-robinson", parts, {("A", "B"): 0.05})
    two = PropertyModel("peng-robinson", parts[:2], {("A", "B"): 0.05})
    with_zero, without = three.flash([0.5, 0.5, 0.0], T=320.0, P=10e5), two.flash([0.5, 0.5], T=320.0, P=10e5)
    assert with_zero.vapour_fraction == pytest.approx(without.vapour_fraction, rel=1e-12)
    assert with_zero.liquid_fractions[2] == 0.0
    assert with_zero.enthalpy == pytest.approx(without.enthalpy, rel=1e-12)


@pytest.mark.parametrize(
    "call",
    [
        {"T": 300.0},
        {"T": -1.0, "P": 1e5},
        {"T": 300.0, "P": 0.0},
        {"P": 1e5, "VF": 1.2},
        {"T": 300.0, "P": float("nan")},
        {"P": 1e5, "H": float("inf")},
        {},
    ],
)
def test_bad_calls_are_refused_in_words(call):
    model = PropertyModel("peng-robinson", ["propane", "n-butane"])
    with pytest.raises(ValueError, match=r"\w+ \w+"):
        model.flash([0.5, 0.5], **call)


@pytest.mark.parametrize("amounts", [[0.0, 0.0], [1.0, -0.1], [1.0], [float("nan"), 1.0], [1e308, 1e308]])
def test_bad_amounts_are_refused_in_words(amounts):
    model = PropertyModel("peng-robinson", ["propane", "n-butane"])
    for given_values in ({"T": 300.0, "P": 1e5}, {"P": 1e5, "H": 0.0}):
        with pytest.raises(ValueError, match="mount|composition"):
            model.flash(amounts, **given_values)


def test_same_input_gives_the_same_bits():
    model = PropertyModel("soave-redlich-kwong", MIX)
    z = np.full(len(MIX), 1 / len(MIX))
    first, second = model.flash(z, T=350.0, P=5e5), model.flash(z, T=350.0, P=5e5)
    assert first.vapour_fraction == second.vapour_fraction
    assert (first.vapour_fractions == second.vapour_fractions).all()


def margules_energy(n, a):
    """G_E/RT of Wohl's three-suffix equation for amounts n, written out over pairs and triples."""
    total, count = float(np.sum(n)), len(n)
    x = np.asarray(n) / total
    pairs = sum(x[i] * x[j] * (a[j][i] * x[i] + a[i][j] * x[j]) for i in range(count) for j in range(i + 1, count))
    triples = sum(
        x[i] * x[j] * x[k] * 0.5 * (a[i][j] + a[j][i] + a[i][k] + a[k][i] + a[j][k] + a[k][j])
        for i in range(count) for j in range(i + 1, count) for k in range(j + 1, count)
    )  # fmt: skip
    return total * (pairs + triples)


@settings(max_examples=40, deadline=None)
@given(
    x=st.lists(st.floats(0.05, 1.0), min_size=4, max_size=4),
    constants=st.lists(st.floats(-1.5, 1.5), min_size=12, max_size=12),
)
def test_margules_of_four_components_is_wohls_equation(x, constants):
    names = ["benzene", "toluene", "acetone", "methanol"]
    a = [[0.0] * 4 for _ in range(4)]
    values = iter(constants)
    pairs = {}
    for i in range(4):
        for j in range(i + 1, 4):
            a[i][j], a[j][i] = next(values), next(values)
            pairs[names[i], names[j]] = {"a12": a[i][j], "a21": a[j][i]}
    z = np.array(x) / sum(x)
    found = np.log(PropertyModel("margules", names, pairs, bank_pairs=False).activity_coefficients(320.0, 1e5, z))
    for i in range(4):
        up, down = z.copy(), z.copy()
        up[i] += 1e-6
        down[i] -= 1e-6
        assert found[i] == pytest.approx((margules_energy(up, a) - margules_energy(down, a)) / 2e-6, abs=1e-7)


@pytest.mark.parametrize("kind", MODELS)
def test_traces_that_come_to_nothing_beside_the_rest(kind):
    """Shares below the smallest number are no components any more: they are zero in the answer, which is that without them."""
    model = PropertyModel(kind, ["ethanol", "butanone", "water"])
    huge = model.flash([1e84, 3e84, 5e-322], T=300.0, P=1e5)
    assert huge.fractions[2] == 0.0
    assert huge.enthalpy == pytest.approx(model.flash([0.25, 0.75, 0.0], T=300.0, P=1e5).enthalpy, rel=1e-12)
