"""Pump-arounds, side strippers, two liquids, reactions and heat losses of staged columns, against the same made another way."""

import numpy as np
import pytest
from columns import P, assert_closes, assert_stages_are_flashes, fed
from scipy.optimize import root

from wattaxis import PropertyModel
from wattaxis.columns import ColumnError, ColumnFeed, ExtractionColumn, PumpAround, Reactions, SideDraw, SideStripper, StagedColumn, Want
from wattaxis.reactions import Arrhenius, Kinetics, PowerLaw, RateLaw, Reaction, ReactionSet

CUTS = ["n-pentane", "n-hexane", "n-heptane", "n-octane", "n-nonane", "n-decane"]
FED = [10.0, 15.0, 20.0, 25.0, 20.0, 10.0]
ENDS = [Want("reflux ratio", 2.0), Want("flow", 30.0, "distillate")]


def cuts(**given):
    model = PropertyModel("peng-robinson", CUTS)
    feeds = [fed(model, 14, FED, P=2e5, VF=0.4)]
    return model, feeds, StagedColumn(model, feeds, stages=20, pressure=2e5, **given)


@pytest.mark.parametrize(("flow", "duty"), [(20.0, -2e5), (60.0, -5e5), (100.0, -1e6), (20.0, 3e5)])
def test_a_pump_around_is_a_draw_that_is_fed_again(flow, duty):
    model, feeds, column = cuts(pump_arounds=[PumpAround("round", 6, 4)])
    state = column.solve([*ENDS, Want("flow", flow, "round"), Want("duty", duty, place="round")])
    assert_closes(state, feeds)
    round_ = state.links["round"]
    back = ColumnFeed(4, round_.flows, round_.enthalpy_flow + duty)
    drawn = StagedColumn(model, [*feeds, back], stages=20, pressure=2e5, draws=[SideDraw("drawn", 6)])
    again = drawn.solve([*ENDS, Want("flow", flow, "drawn")])
    assert again.products["drawn"].flows == pytest.approx(round_.flows, abs=1e-7)
    assert abs(again.T - state.T).max() < 1e-7
    assert again.x == pytest.approx(state.x, abs=1e-9)


def test_a_side_stripper_is_a_stripper_of_its_own():
    model, feeds, column = cuts(strippers=[SideStripper("kerosene", 4, 8, 7)])
    state = column.solve([*ENDS, Want("flow", 15.0, "kerosene"), Want("boil-up ratio", 0.5, place="kerosene")])
    assert_closes(state, feeds)
    assert_stages_are_flashes(model, state, first=1)
    assert len(state.T) == 24
    drawn, risen = state.links["draw to kerosene"], state.links["vapour of kerosene"]
    alone = StagedColumn(model, [ColumnFeed(1, drawn.flows, drawn.enthalpy_flow)], stages=4, pressure=2e5, condenser="none")
    own = alone.solve([Want("boil-up ratio", 0.5)])
    assert abs(own.T - state.T[20:]).max() < 1e-7
    assert own.products["overhead vapour"].flows == pytest.approx(risen.flows, abs=1e-7)
    assert own.duties[-1] == pytest.approx(state.duties[-1], rel=1e-9)
    # The stripper takes what is light from its product.
    assert state.products["kerosene"].flows[0] < 0.3 * drawn.flows[0]


def test_two_side_strippers_with_steam_and_a_pump_around():
    model = PropertyModel("peng-robinson", [*CUTS, "water"])
    steam = fed(model, 24, [0, 0, 0, 0, 0, 0, 2.0], P=2e5, T=430.0)
    feeds = [fed(model, 14, [*FED, 0.0], P=2e5, VF=0.4), steam]
    strippers = [SideStripper("light", 4, 8, 7, reboiler=False), SideStripper("heavy", 3, 11, 10)]
    column = StagedColumn(
        model, feeds, stages=20, pressure=2e5, condenser="partial", strippers=strippers, pump_arounds=[PumpAround("round", 6, 4)],
        efficiencies=0.8,
    )  # fmt: skip
    assert column.wanted == 2 + 1 + 2 + 2
    wants = [Want("reflux ratio", 2.0), Want("flow", 32.0, "overhead vapour"), Want("flow", 15.0, "light"), Want("draw ratio", 0.6, "draw to heavy")]
    wants += [Want("duty", 1.5e5, place="heavy"), Want("flow", 40.0, "round"), Want("duty", -4e5, place="round")]
    state = column.solve(wants)
    assert_closes(state, feeds)
    drawn = state.links["draw to heavy"].flows.sum()
    assert drawn / (state.liquid[10] - drawn) == pytest.approx(0.6, rel=1e-9)
    assert state.products["light"].flows.sum() == pytest.approx(15.0)
    assert state.duties[[3, 26]] == pytest.approx([-4e5, 1.5e5])


def test_a_ratio_of_components_is_met():
    _, feeds, column = cuts()
    state = column.solve([Want("reflux ratio", 3.0), Want("component ratio", 0.02, "distillate", ("n-octane", "n-heptane"))])
    distillate = state.products["distillate"].flows
    assert distillate[3] / distillate[2] == pytest.approx(0.02, rel=1e-9)
    assert_closes(state, feeds)
    assert column.solve([Want("reflux ratio", 3.0), Want("recovery", 0.3, "distillate")]).products["distillate"].flows.sum() == pytest.approx(30.0)


EXTRACTED = [
    (["water", "acetone", "butyl acetate"], [95, 5, 0], [0, 0, 20], 5),
    (["water", "acetone", "butyl acetate"], [95, 5, 0], [0, 0, 20], 20),
    (["water", "ethanol", "benzene"], [80, 20, 0], [0, 0, 60], 8),
    (["water", "acetic acid", "ethyl acetate"], [80, 20, 0], [0, 0, 60], 8),
    (["water", "acetone", "toluene"], [60, 40, 0], [0, 0, 50], 8),
]


@pytest.mark.parametrize(("parts", "heavy", "light", "stages"), EXTRACTED)
def test_stages_of_an_extraction_column_are_flashes_into_two_liquids(parts, heavy, light, stages):
    model = PropertyModel("unifac", parts)
    feeds = [fed(model, 1, heavy, P=3e5, T=298.15), fed(model, stages, light, P=3e5, T=298.15)]
    state = ExtractionColumn(model, feeds, stages=stages, pressure=3e5).solve()
    assert_closes(state, feeds)
    for j in range(stages):
        both = state.liquid[j] * state.x[j] + state.vapour[j] * state.y[j]
        found = sorted((p.fractions for p in model.flash(both, T=float(state.T[j]), P=3e5).phases), key=lambda x: abs(x - state.x[j]).sum())
        assert found[0] == pytest.approx(state.x[j], abs=1e-6)
        assert found[1] == pytest.approx(state.y[j], abs=1e-6)


def test_a_thin_extraction_is_that_of_kremser():
    """Of a trace of solute the share (E - 1)/(E^(n+1) - 1) stays (Kremser 1930), E = K S/F, between solvents that do not mix further."""
    model = PropertyModel("unifac", ["water", "acetone", "toluene"])
    # Each solvent brings the other one with it, as much as it dissolves, so that only the solute goes over.
    both = model.flash([100.0, 1e-4, 100.0], T=298.15, P=3e5).phases
    water, toluene = sorted((p.fractions for p in both), key=lambda x: -x[0])
    heavy, light = 100.0 * water, 60.0 * toluene
    heavy[1], light[1] = 1e-4, 0.0
    feeds = [fed(model, 1, heavy, P=3e5, T=298.15), fed(model, 4, light, P=3e5, T=298.15)]
    state = ExtractionColumn(model, feeds, stages=4, pressure=3e5).solve()
    factor = float(state.K[1, 1]) * state.vapour[1] / state.liquid[1]
    left = (factor - 1.0) / (factor**5 - 1.0)
    assert state.products["heavy liquid"].flows[1] / 1e-4 == pytest.approx(left, rel=2e-4)


def test_what_mixes_is_no_extraction():
    model = PropertyModel("unifac", ["water", "ethanol"])
    feeds = [fed(model, 1, [80, 0], P=3e5, T=298.15), fed(model, 5, [0, 60], P=3e5, T=298.15)]
    with pytest.raises(ColumnError, match="No two liquids were found"):
        ExtractionColumn(model, feeds, stages=5, pressure=3e5).solve()


ESTER = ["methanol", "acetic acid", "methyl acetate", "water"]
MADE = np.array([-1.0, -1.0, 1.0, 1.0])


def esterification(constant, back=20.0):
    """A reversible law in mole fractions, mol/(m3 s)."""
    model = PropertyModel("unifac", ESTER)
    law = RateLaw(PowerLaw({"methanol": 1.0, "acetic acid": 1.0}, basis="mole fraction"), Arrhenius(constant))
    other = RateLaw(PowerLaw({"methyl acetate": 1.0, "water": 1.0}, basis="mole fraction"), Arrhenius(constant / back))
    reaction = Reaction("R1", dict(zip(ESTER, MADE, strict=True)), "liquid", law, other)
    return model, Kinetics(ReactionSet("Ester", (reaction,)), model)


@pytest.mark.parametrize(("constant", "reflux", "made"), [(1e-6, 2.0, 0.0), (10.0, 2.0, 0.2), (100.0, 2.0, 0.6), (1e3, 2.0, 0.95), (1e5, 2.0, 0.99),
                                                          (1e3, 0.5, 0.6), (1e3, 5.0, 0.9), (1e3, 10.0, 0.75)])  # fmt: skip
def test_what_reacts_on_stages_is_by_the_rates_there(constant, reflux, made):
    model, kinetics = esterification(constant)
    feeds = [fed(model, 6, [0, 50, 0, 0], P=1.2e5, T=320.0), fed(model, 18, [50, 0, 0, 0], P=1.2e5, T=320.0)]
    sizes = np.zeros(24)
    sizes[5:18] = 0.5
    column = StagedColumn(model, feeds, stages=24, pressure=P, reactions=Reactions(kinetics, sizes))
    state = column.solve([Want("reflux ratio", reflux), Want("flow", 50.0, "distillate")])
    out = sum(p.flows for p in state.products.values())
    rates = [float(kinetics.rates(model.phase("liquid", T, P, x), T, P)[0]) for T, x in zip(state.T, state.x, strict=True)]
    extent = float(np.dot(rates, sizes))
    assert out == pytest.approx([50.0, 50.0, 0.0, 0.0] + MADE * extent, abs=1e-8)
    assert extent / 50.0 >= made
    heat = sum(p.enthalpy_flow for p in state.products.values()) - sum(f.enthalpy_flow for f in feeds) - state.duties.sum()
    assert heat == pytest.approx(0.0, abs=1e-9 * abs(state.duties).max())  # enthalpies count from the elements
    for j in range(1, 24):
        assert (state.K[j] * state.x[j]).sum() == pytest.approx(1.0, abs=1e-9)


def test_how_long_the_liquid_stays_is_the_volume_it_leaves_over_its_flow():
    """A column by residence times is that of the volumes they come to; where the liquid stays long, its reaction is at equilibrium (K = 20)."""
    model, kinetics = esterification(10.0)
    feeds = [fed(model, 4, [0, 50, 0, 0], P=1.2e5, T=320.0), fed(model, 9, [50, 0, 0, 0], P=1.2e5, T=320.0)]
    wants = [Want("reflux ratio", 2.0), Want("flow", 50.0, "distillate")]

    def of(**held):
        return StagedColumn(model, feeds, stages=12, pressure=P, reactions=Reactions(kinetics, **held)).solve(wants)

    on = np.isin(np.arange(12), np.arange(3, 9))
    state = of(times=np.where(on, 60.0, 0.0))
    held = [60.0 * L * model.phase("liquid", T, P, x).molar_volume for T, L, x in zip(state.T, state.liquid, state.x, strict=True)]
    same = of(sizes=np.where(on, held, 0.0))
    assert state.extents.sum() > 5.0
    assert same.x == pytest.approx(state.x, abs=1e-9)
    assert same.extents == pytest.approx(state.extents, rel=1e-8)
    long = of(times=np.where(on, 1e9, 0.0)).x[on]
    assert long[:, 2] * long[:, 3] / (long[:, 0] * long[:, 1]) == pytest.approx(20.0, rel=1e-3)


def test_an_ester_is_made_below_a_decanter():
    """Butyl acetate: what reacts is by the rates on the stages, water leaves by the decanter, and the condensate parts as a flash parts it."""
    parts = ["1-butanol", "acetic acid", "n-butyl acetate", "water"]
    model = PropertyModel("unifac", parts)
    ids = [component.id for component in model.components]
    law = RateLaw(PowerLaw({ids[0]: 1.0, ids[1]: 1.0}, basis="mole fraction"), Arrhenius(300.0))
    back = RateLaw(PowerLaw({ids[2]: 1.0, ids[3]: 1.0}, basis="mole fraction"), Arrhenius(25.0))
    reaction = Reaction("R1", dict(zip(ids, MADE, strict=True)), "liquid", law, back)
    kinetics = Kinetics(ReactionSet("Ester", (reaction,)), model)
    feeds = [fed(model, 8, [50, 50, 0, 0], P=1.2e5, T=350.0)]
    sizes = np.where((np.arange(20) > 4) & (np.arange(20) < 14), 0.5, 0.0)
    column = StagedColumn(model, feeds, stages=20, pressure=P, condenser="decanting", reactions=Reactions(kinetics, sizes))
    state = column.solve([Want("fraction", 0.95, "bottoms", (ids[2],))])
    rates = [float(kinetics.rates(model.phase("liquid", T, P, x), T, P)[0]) for T, x in zip(state.T, state.x, strict=True)]
    assert state.extents.sum() == pytest.approx(float(np.dot(rates, sizes)), rel=1e-8)
    out = sum(p.flows for p in state.products.values())
    assert out == pytest.approx([50.0, 50.0, 0.0, 0.0] + MADE * state.extents.sum(), abs=1e-7)
    assert state.products["distillate"].flows[3] > 0.97 * state.extents.sum()
    distillate, reflux = state.products["distillate"].flows, state.links["reflux"].flows
    both = model.flash(distillate + reflux, T=float(state.T[0]), P=1e7)
    watery = max(both.phases, key=lambda phase: phase.fractions[3])
    assert watery.fractions == pytest.approx(distillate / distillate.sum(), abs=1e-6)


def test_a_single_component_may_be_fed_where_it_reacts():
    parts = ["methanol", "dimethyl ether", "water"]
    model = PropertyModel("predictive-soave-redlich-kwong", parts)
    law = RateLaw(PowerLaw({"methanol": 2.0}, basis="mole fraction"), Arrhenius(50.0))
    kinetics = Kinetics(ReactionSet("E", (Reaction("R1", dict(zip(parts, (-2.0, 1.0, 1.0), strict=True)), "liquid", law),)), model)
    feeds = [fed(model, 10, [100, 0, 0], P=12e5, T=380.0)]
    sizes = np.where((np.arange(20) > 4) & (np.arange(20) < 12), 0.5, 0.0)
    column = StagedColumn(model, feeds, stages=20, pressure=10e5, reactions=Reactions(kinetics, sizes))
    state = column.solve([Want("reflux ratio", 5.0), Want("flow", 50.0, "distillate")])
    made = float(state.extents.sum())
    assert made > 49.0
    assert sum(p.flows for p in state.products.values()) == pytest.approx([100.0 - 2.0 * made, made, made], abs=1e-7)


def test_a_small_reactive_column_is_that_of_an_independent_solution():
    """Three stages that react on the middle one: the balances solved by a library from another start."""
    model, kinetics = esterification(40.0)
    feeds = [fed(model, 2, [30, 30, 0, 0], P=1.2e5, T=320.0)]
    column = StagedColumn(model, feeds, stages=3, pressure=P, reactions=Reactions(kinetics, [0.0, 1.0, 0.0]))
    state = column.solve([Want("reflux ratio", 1.0), Want("flow", 30.0, "distillate")])

    def gaps(u):
        """Stages 2 and 3: liquid and vapour fractions, flows and temperatures; stage 1 condenses all."""
        x, y, L, V, T = u[:8].reshape(2, 4), u[8:16].reshape(2, 4), u[16:18] * 50.0, u[18:20] * 50.0, u[20:] * 350.0
        rate = kinetics.rates(model.phase("liquid", T[0], P, x[0]), T[0], P)[0]
        phases = [(model.phase("liquid", T[j], P, x[j]), model.phase("vapour", T[j], P, y[j])) for j in range(2)]
        reflux = model.flash(y[0], P=P, VF=0.0).enthalpy
        parts = [
            feeds[0].flows + 0.5 * V[0] * y[0] + V[1] * y[1] + MADE * rate - L[0] * x[0] - V[0] * y[0],
            L[0] * x[0] - L[1] * x[1] - V[1] * y[1],
            *(50.0 * (y[j] - phases[j][0].fugacity_coefficients / phases[j][1].fugacity_coefficients * x[j]) for j in range(2)),
            [50.0 * (x[j].sum() - 1.0) for j in range(2)],
            [0.5 * V[0] - 30.0],
            [(feeds[0].enthalpy_flow + 0.5 * V[0] * reflux + V[1] * phases[1][1].enthalpy - L[0] * phases[0][0].enthalpy
              - V[0] * phases[0][1].enthalpy) / 4e4],
            [50.0 * (y[j].sum() - 1.0) for j in range(2)],
        ]  # fmt: skip
        return np.concatenate(parts)

    start = np.concatenate([np.full(16, 0.25), [1.0, 0.5, 1.0, 0.8], [1.0, 1.02]])
    found = root(gaps, start, method="lm", options={"maxiter": 4000, "xtol": 1e-13, "ftol": 1e-13})
    assert abs(found.fun).max() < 1e-7
    assert state.x[1:] == pytest.approx(found.x[:8].reshape(2, 4), abs=1e-7)
    assert state.T[1:] == pytest.approx(found.x[20:] * 350.0, abs=1e-5)


def test_reactions_have_to_be_in_the_liquid():
    model = PropertyModel("ideal", ["propane", "propene", "hydrogen"])
    law = RateLaw(PowerLaw({"propane": 1.0}), Arrhenius(0.5))
    kinetics = Kinetics(ReactionSet("C", (Reaction("R1", {"propane": -1.0, "propene": 1.0, "hydrogen": 1.0}, "vapour", law),)), model)
    with pytest.raises(ColumnError, match="in its liquids"):
        StagedColumn(model, [fed(model, 3, [1, 1, 1], T=300.0)], stages=5, pressure=P, reactions=Reactions(kinetics, np.ones(5)))


def test_stages_lose_heat_to_their_surroundings():
    model = PropertyModel("ideal", ["benzene", "toluene"])
    feeds = [fed(model, 8, [50.0, 50.0], VF=0.0)]
    column = StagedColumn(model, feeds, stages=16, pressure=P, leaks=40.0, surroundings=290.0)
    state = column.solve([Want("reflux ratio", 2.0), Want("flow", 50.0, "distillate")])
    lost = 40.0 * (state.T[1:] - 290.0).sum()
    assert lost > 4e4
    assert_closes(state, feeds, lost=lost)
    # What is lost condenses vapour on its way up.
    kept = StagedColumn(model, feeds, stages=16, pressure=P).solve([Want("reflux ratio", 2.0), Want("flow", 50.0, "distillate")])
    assert state.vapour[-1] > kept.vapour[-1] + 0.9 * lost / 33e3


@pytest.mark.parametrize(("given", "says"), [
    ({"pump_arounds": [PumpAround("round", 20, 4)]}, "whose liquid is a product"),
    ({"pump_arounds": [PumpAround("round", 6, 1)]}, "on stage 1, the condenser"),
    ({"pump_arounds": [PumpAround("round", 6, 40)]}, "has stages 1 to 20"),
    ({"pump_arounds": [PumpAround("a", 6, 4), PumpAround("a", 8, 7)]}, "the same name"),
    ({"strippers": [SideStripper("s", 0, 8, 7)]}, "has 0 stages"),
    ({"strippers": [SideStripper("s", 4, 8, 7, reboiler=False)]}, "neither a reboiler nor a feed"),
    ({"efficiencies": [0.5, 0.6, 0.7]}, "3 efficiencies are given for 20 stages"),
    ({"efficiencies": np.ones((20, 7))}, "Efficiencies of 7 components on 20 stages"),
    ({"efficiencies": 0.0}, "parts nothing"),
])  # fmt: skip
def test_what_cannot_be_built_is_refused(given, says):
    with pytest.raises(ColumnError, match=says):
        cuts(**given)


@pytest.mark.parametrize(("wants", "says"), [
    ([Want("boil-up ratio", 0.5, place="none such")], "no side stripper"),
    ([Want("draw ratio", 0.5, "bottoms")], "A draw ratio of the bottoms of 0.5"),
    ([Want("component ratio", 0.5, "distillate", ("n-octane",))], "two different components"),
])  # fmt: skip
def test_what_says_nothing_of_the_column_is_refused(wants, says):
    with pytest.raises(ColumnError, match=says):
        cuts()[2].solve([Want("reflux ratio", 2.0), *wants])


PARTING = [("unifac", [40.0, 60.0], "light"), ("unifac", [55.0, 45.0], "heavy"), ("nrtl", [20.0, 80.0], "light"), ("nrtl", [40.0, 60.0], "heavy")]


@pytest.mark.parametrize(("family", "flows", "back"), PARTING)
def test_a_decanting_condenser_is_a_decanter_whose_liquid_is_fed_on_top(family, flows, back):
    model = PropertyModel(family, ["water", "1-butanol"])
    feeds = [fed(model, 4, flows, VF=0.0)]
    state = StagedColumn(model, feeds, stages=12, pressure=P, condenser="decanting", back=back).solve([Want("boil-up ratio", 1.0)])
    assert_closes(state, feeds)
    reflux, distillate = state.links["reflux"], state.products["distillate"]
    # Without the condenser, and with what goes back as a feed: the vapour is what was condensed.
    again = ColumnFeed(1, reflux.flows, reflux.enthalpy_flow)
    below = StagedColumn(model, [again, ColumnFeed(3, feeds[0].flows, feeds[0].enthalpy_flow)], stages=11, pressure=P, condenser="none")
    own = below.solve([Want("boil-up ratio", 1.0)])
    assert own.products["overhead vapour"].flows == pytest.approx(reflux.flows + distillate.flows, abs=1e-6)
    assert own.products["bottoms"].flows == pytest.approx(state.products["bottoms"].flows, abs=1e-6)
    # The condensate parts into just these two, at the temperature at which it boils.
    condensate = reflux.flows + distillate.flows
    parts = model.flash(condensate, T=reflux.T, P=1e7)
    found = sorted((n * p.fractions for n, p in zip(parts.amounts, parts.phases, strict=True)), key=lambda x: x[0] / x.sum())
    light = (found if back == "light" else found[::-1])[0] * condensate.sum()
    assert reflux.flows == pytest.approx(light, abs=1e-5)
    assert model.flash(condensate, P=P, VF=0.0).temperature == pytest.approx(reflux.T, abs=1e-5)


def test_a_subcooled_condensate_parts_colder():
    model = PropertyModel("nrtl", ["water", "1-butanol"])
    feeds = [fed(model, 4, [30.0, 70.0], VF=0.0)]
    state = StagedColumn(model, feeds, stages=12, pressure=P, condenser="decanting", subcooling=40.0).solve([Want("boil-up ratio", 1.0)])
    assert_closes(state, feeds)
    parts = model.flash(state.x[0], T=float(state.T[0]) - 40.0, P=1e7)
    heavy = max((p.fractions for p in parts.phases), key=lambda x: x[0])
    distillate = state.products["distillate"]
    assert distillate.flows / distillate.flows.sum() == pytest.approx(heavy, abs=1e-7)
    assert pytest.approx(state.T[0] - 40.0) == distillate.T


@pytest.mark.parametrize(("parts", "flows", "wants", "given"), [
    (["water", "1-butanol"], [70, 30], [Want("boil-up ratio", 1.0)], {"condenser": "none", "stage": 1}),
    (["water", "1-butanol"], [80, 20], [Want("reflux ratio", 1.0), Want("flow", 60.0, "distillate")], {"stage": 4}),
    (["water", "ethanol", "benzene"], [30, 50, 20], [Want("reflux ratio", 3.0), Want("flow", 40.0, "distillate")], {"stage": 6}),
])  # fmt: skip
def test_two_liquids_on_stages_are_found(parts, flows, wants, given):
    """Both liquids and the vapour of a stage have the same fugacities, by the flash and its stability test."""
    model, given = PropertyModel("unifac", parts), dict(given)
    feeds = [fed(model, given.pop("stage"), flows, VF=0.0)]
    state = StagedColumn(model, feeds, stages=10, pressure=P, **given).solve(wants)
    assert_closes(state, feeds)
    assert (state.light_shares < 1.0).any()
    for j, x in enumerate(state.x):
        boiling = model.flash(x, P=P, VF=0.0)
        assert boiling.temperature == pytest.approx(state.T[j], abs=2e-5)
        assert boiling.vapour_fractions == pytest.approx(state.y[j], abs=2e-6)
        pressed = model.flash(x, T=float(state.T[j]), P=1e7)
        assert len(pressed.phases) == (2 if state.light_shares[j] < 1.0 else 1)
        if len(pressed.phases) == 2:
            assert min(abs(np.array(pressed.amounts) - state.light_shares[j])) < 1e-6


def test_a_condensate_of_one_liquid_cannot_be_decanted():
    model = PropertyModel("nrtl", ["water", "ethanol"])
    column = StagedColumn(model, [fed(model, 4, [50, 50], VF=0.0)], stages=10, pressure=P, condenser="decanting")
    with pytest.raises(ColumnError, match="it is one liquid"):
        column.solve([Want("boil-up ratio", 1.0)])
    with pytest.raises(ColumnError, match="where the condensate is decanted"):
        StagedColumn(model, [fed(model, 4, [50, 50], VF=0.0)], stages=10, pressure=P, condenser="decanting", draws=[SideDraw("side", 1)])
    with pytest.raises(ColumnError, match="knows no second liquid"):
        StagedColumn(PropertyModel("ideal", ["water", "ethanol"]), [fed(model, 4, [50, 50], VF=0.0)], stages=10, pressure=P, condenser="decanting")
