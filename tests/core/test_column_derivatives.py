"""Slopes of columns of every kind, beside differences of columns that were solved anew."""

import numpy as np
import pytest
from columns import fed

from wattaxis import PropertyModel
from wattaxis.columns import ColumnFeed, PumpAround, Reactions, SideDraw, SideStripper, StagedColumn, Want
from wattaxis.reactions import Arrhenius, Kinetics, PowerLaw, RateLaw, Reaction, ReactionSet

CUTS = PropertyModel("peng-robinson", ["n-pentane", "n-hexane", "n-heptane", "n-octane"])
ALCOHOL = PropertyModel("unifac", ["water", "1-butanol"])
WET = PropertyModel("peng-robinson", ["n-butane", "n-pentane", "n-hexane", "water"])
KETONE = PropertyModel("unifac", ["butanone", "water", "butyl acetate"])
REFLUX, TOP, FOOT = Want("reflux ratio", 2.0), Want("flow", 45.0, "distillate"), Want("flow", 40.0, "bottoms")
PURE = Want("fraction", 0.95, "distillate", ("n-pentane",))
LEFT = Want("recovery", 0.05, "bottoms", ("n-pentane",))
PARTLY = {"stages": 14, "pressure": (2e5, 2.2e5)}


def cuts(stage=7, **given):
    return [fed(CUTS, stage, [30.0, 30.0, 25.0, 15.0], P=2.1e5, **(given or {"VF": 0.3}))]


def ester():
    """Ethanol and acetic acid to ethyl acetate, there and back."""
    ids = ["ethanol", "acetic acid", "ethyl acetate", "water"]
    model = PropertyModel("unifac", ids)
    law, back = (
        RateLaw(PowerLaw(dict.fromkeys(on, 1.0), basis="mole fraction"), Arrhenius(factor)) for factor, on in ((10.0, ids[:2]), (3.0, ids[2:]))
    )
    reaction = Reaction("R1", dict(zip(ids, (-1.0, -1.0, 1.0, 1.0), strict=True)), "liquid", law, back)
    return model, Kinetics(ReactionSet("Ester", (reaction,)), model)


ESTER, MADE = ester()
CASES = {
    "total": (CUTS, cuts(), PARTLY, [REFLUX, TOP]),
    "purity and recovery": (CUTS, cuts(), {**PARTLY, "stages": 24}, [PURE, LEFT]),
    "subcooled": (CUTS, cuts(), {**PARTLY, "subcooling": 25.0}, [Want("boil-up ratio", 1.5), LEFT]),
    "partial": (CUTS, cuts(), {**PARTLY, "condenser": "partial"}, [REFLUX, FOOT]),
    "mixed": (CUTS, cuts(), {**PARTLY, "condenser": "mixed"}, [REFLUX, TOP.at(20.0), FOOT]),
    "two feeds, side draws": (
        CUTS,
        [*cuts(5), *cuts(10, T=330.0)],
        {**PARTLY, "draws": (SideDraw("side", 4), SideDraw("steam", 11, "vapour"))},
        [REFLUX, TOP, Want("flow", 20.0, "side"), Want("flow", 15.0, "steam")],
    ),
    "absorber": (
        CUTS,
        [fed(CUTS, 1, [0.0, 0.0, 1.0, 60.0], P=2e5, T=300.0), fed(CUTS, 8, [40.0, 10.0, 1.0, 0.0], P=2e5, T=350.0)],
        {"stages": 8, "pressure": 2e5, "condenser": "none", "reboiler": False},
        [],
    ),
    "reboiled absorber": (CUTS, cuts(1, T=310.0), {"stages": 8, "pressure": 2e5, "condenser": "none"}, [FOOT.at(60.0)]),
    "efficiencies, heat losses, a side heater": (
        CUTS,
        cuts(),
        {**PARTLY, "efficiencies": 0.7, "leaks": 20.0, "duties": {10: 1e5}},
        [REFLUX, TOP],
    ),
    "pump-around": (
        CUTS,
        cuts(10),
        {**PARTLY, "pump_arounds": (PumpAround("round", 5, 3),)},
        [REFLUX, TOP, Want("flow", 40.0, "round"), Want("duty", -2e5, place="round")],
    ),
    "side stripper": (
        CUTS,
        cuts(10),
        {**PARTLY, "strippers": (SideStripper("cut", 3, 6, 5),)},
        [REFLUX, TOP, Want("flow", 15.0, "cut"), Want("boil-up ratio", 0.6, place="cut")],
    ),
    "circulating reboiler": (CUTS, [*cuts(), fed(CUTS, 14, [1.0, 1.0, 5.0, 5.0], P=2.2e5, T=380.0)], {**PARTLY, "vaporised": 0.2}, [REFLUX, TOP]),
    "decanter": (
        ALCOHOL,
        [fed(ALCOHOL, 2, [70.0, 30.0], T=330.0)],
        {"stages": 8, "pressure": 101325.0, "condenser": "decanting", "back": "light", "subcooling": 20.0},
        [Want("fraction", 0.01, "bottoms", ("water",))],
    ),
    "water among hydrocarbons": (
        WET,
        [fed(WET, 7, [30.0, 30.0, 38.0, 2.0], P=6e5, T=330.0)],
        {"stages": 14, "pressure": 6e5},
        [Want("reflux ratio", 1.5), Want("flow", 35.0, "distillate")],
    ),
    "reactions": (
        ESTER,
        [fed(ESTER, 5, [50.0, 50.0, 0.0, 0.0], T=330.0)],
        {"stages": 10, "pressure": 101325.0, "reactions": Reactions(MADE, [0.0, *[0.5] * 8, 0.0])},
        [REFLUX, TOP],
    ),
    "two liquids on stages": (
        KETONE,
        [fed(KETONE, 8, [27.0, 28.0, 95.0], P=1.15e5, T=330.0)],
        {"stages": 16, "pressure": (1.1e5, 1.2e5)},
        [Want("reflux ratio", 4.0), Want("flow", 33.0, "distillate")],
    ),
}


def answers(model, feeds, built, wants, near=None):
    column = StagedColumn(model, feeds, **built)
    state = column.solve(wants, near)
    return column, state


def gathered(state):
    """All that derivatives speak of, kind by kind: flows of products, their heats, temperatures and duties of stages."""
    names = sorted(state.products)
    return [
        np.concatenate([state.products[name].flows for name in names]),
        np.array([state.products[name].enthalpy_flow for name in names]),
        state.T,
        state.duties,
    ]


def moved(feeds, k, i, by):
    """With more of a component of a feed, or of its heat."""
    flows, heat = feeds[k].flows.copy(), feeds[k].enthalpy_flow
    if i < len(flows):
        flows[i] += by
    else:
        heat += by
    return [*feeds[:k], ColumnFeed(feeds[k].stage, flows, heat), *feeds[k + 1 :]]


@pytest.mark.parametrize("name", CASES)
def test_slopes_are_those_of_columns_solved_anew(name):
    model, feeds, built, wants = CASES[name]
    column, state = answers(model, feeds, built, wants)
    slopes = column.derivatives(wants, state)
    names = sorted(state.products)
    told = [np.concatenate([slopes.flows[key] for key in names]), np.array([slopes.heats[key] for key in names]), slopes.T, slopes.duties]
    C, heat = len(model.components), max(abs(feeds[0].enthalpy_flow), 1e5)
    steps = [*([1e-3] * C), 1e-4 * heat]
    for k in range(len(feeds)):
        for i, step in enumerate(steps):
            if i < C and feeds[k].flows[i] < step:
                continue
            above, below = (gathered(answers(model, moved(feeds, k, i, sign * step), built, wants, state)[1]) for sign in (1.0, -1.0))
            close(told, k * (C + 1) + i, above, below, 2.0 * step)
    for k, want in enumerate(wants):
        step = 1e-4 * abs(want.value)
        changed = [[*wants[:k], want.at(want.value + sign * step), *wants[k + 1 :]] for sign in (1.0, -1.0)]
        above, below = (gathered(answers(model, feeds, built, other, state)[1]) for other in changed)
        close(told, len(feeds) * (C + 1) + k, above, below, 2.0 * step)


def close(told, change, above, below, step):
    """To four digits, and five of the largest slope of what is alike."""
    for slopes, up, down in zip(told, above, below, strict=True):
        differenced = (up - down) / step
        rounding = 1e-9 * np.abs(up).max() / step
        assert slopes[:, change] == pytest.approx(differenced, rel=2e-4, abs=1e-5 * np.abs(differenced).max() + rounding)
