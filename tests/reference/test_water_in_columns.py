"""Water among hydrocarbons by equations of state: a second liquid on stages where there is one, found and not asked for, and what is decanted."""

import pytest
from columns import assert_closes, fed

from wattaxis import PropertyModel
from wattaxis.columns import StagedColumn, Want

WET = (["n-butane", "n-pentane", "n-hexane", "water"], [30.0, 30.0, 38.0, 2.0], 6e5)
ALCOHOL = (["methanol", "n-hexane", "n-heptane"], [40.0, 30.0, 30.0], 1e5)
DRY = (["n-butane", "n-pentane", "n-hexane", "water"], [30.0, 30.0, 39.98, 0.02], 6e5)


def assert_stages_are_flashes_of_three_phases(model, state, first=0):
    """Liquids and vapour of every stage together flash into themselves, two liquids where the column says so."""
    for j in range(first, len(state.T)):
        both = state.liquid[j] * state.x[j] + state.vapour[j] * state.y[j]
        found = model.flash(both, T=float(state.T[j]), P=float(state.P[j]))
        amounts = {phase.kind: n for phase, n in zip(found.phases, found.amounts, strict=True)}
        assert amounts.get("vapour", 0.0) == pytest.approx(state.vapour[j] / both.sum(), abs=1e-7)
        assert ("second liquid" in amounts) == (state.light_shares[j] < 1.0)
        assert found.vapour_fractions == pytest.approx(state.y[j], abs=1e-7)


@pytest.mark.parametrize("kind", ["peng-robinson", "soave-redlich-kwong", "predictive-soave-redlich-kwong"])
@pytest.mark.parametrize(("mixture", "two"), [(WET, True), (ALCOHOL, True), (DRY, False)])
@pytest.mark.parametrize(
    ("condenser", "wants"),
    [
        ("total", [Want("reflux ratio", 1.5), Want("flow", 35.0, "distillate")]),
        ("partial", [Want("boil-up ratio", 2.0), Want("flow", 35.0, "overhead vapour")]),
    ],
)
def test_stages_have_a_second_liquid_where_the_flash_finds_one(kind, mixture, two, condenser, wants):
    ids, flows, P = mixture
    if kind.startswith("predictive") and ids[0] == "methanol":
        two = None  # its groups let the two mix at these temperatures, or not: the flash says it
    model = PropertyModel(kind, ids)
    feeds = [fed(model, 8, flows, P=P, T=330.0)]
    state = StagedColumn(model, feeds, stages=16, pressure=P, condenser=condenser).solve(wants)
    assert_closes(state, feeds)
    assert_stages_are_flashes_of_three_phases(model, state, first=1)
    if two is not None:
        assert bool((state.light_shares[1:] < 1.0).any()) == two


def test_an_oil_is_stripped_with_steam():
    model = PropertyModel("peng-robinson", ["n-hexane", "n-decane", "n-hexadecane", "water"])
    feeds = [fed(model, 1, [5.0, 20.0, 75.0, 0.0], P=2e5, T=480.0), fed(model, 8, [0.0, 0.0, 0.0, 20.0], P=2e5, T=450.0)]
    state = StagedColumn(model, feeds, stages=8, pressure=2e5, condenser="none", reboiler=False).solve([])
    assert_closes(state, feeds)
    assert_stages_are_flashes_of_three_phases(model, state)
    assert state.products["bottoms"].flows[0] < 0.05
    assert state.products["overhead vapour"].flows[3] > 15.0  # the rest dissolves
    assert (state.light_shares == 1.0).all()


@pytest.mark.parametrize("kind", ["peng-robinson", "soave-redlich-kwong", "unifac"])
def test_water_is_decanted_from_a_hydrocarbon(kind):
    """The water sinks, also by equations of state that make it lighter than benzene."""
    model = PropertyModel(kind, ["benzene", "toluene", "water"])
    feeds = [fed(model, 3, [50.0, 45.0, 5.0], T=340.0)]
    column = StagedColumn(model, feeds, stages=12, pressure=101325.0, condenser="decanting", back="light", subcooling=30.0)
    state = column.solve([Want("recovery", 0.02, "bottoms", ("water",))])
    assert_closes(state, feeds)
    assert state.products["distillate"].flows == pytest.approx([0.0, 0.0, 4.9], abs=3e-3)
