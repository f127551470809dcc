"""The first size of a column: flooding by the charts, the diameter that follows, what is told of loads, weirs and pressure drop."""

import math

import pytest
from fluids.packed_tower import Robbins
from plants import plant, q

from wattaxis import edit, solve
from wattaxis.equipment.column_inside import PACKINGS, flow_parameter, packed_loss, packing_flooding, tray_flooding, tray_loss

PAIR = [("benzene", "71-43-2"), ("toluene", "108-88-3")]
BUILT = {
    "stages": q("24"),
    "condenser": "total",
    "reboiler": "kettle",
    "top_pressure": q("1.1 bar"),
    "reflux_ratio": q("2"),
    "distillate_flow": q("50 mol/s"),
}


def column(feed="100 mol/s", feed_pressure="1.5 bar", **spec):
    share = {"benzene": q("0.5"), "toluene": q("0.5")}
    given = {"temperature": q("365 K"), "pressure": q(feed_pressure), "flow": q(feed), "composition": {"basis": "mole_fraction", "values": share}}
    feeds = {"rows": [{"id": "1", "cells": {"stream": "1", "stage": q("12")}}]}
    units = {"F": ("feed", given), "T": ("staged-column", {**BUILT, "feeds": feeds, **spec}), "Z1": ("product", {}), "Z2": ("product", {})}
    return plant(PAIR, units, ["1: F.outlet -> T.inlet", "2: T.distillate -> Z1.inlet", "3: T.bottoms -> Z2.inlet"], "ideal")


def sized(**spec):
    result = solve(column(**spec))
    assert result.complete, [f.text for f in result.findings]
    return result.units["T"].profiles[0], {v.name: v.value for v in result.units["T"].values}, " ".join(f.text for f in result.findings)


@pytest.mark.parametrize(("parameter", "spacing", "capacity"), [
    (0.02, 0.457, 0.087), (0.1, 0.457, 0.077), (0.1, 0.610, 0.095), (0.5, 0.610, 0.058), (1.0, 0.610, 0.035), (0.1, 0.305, 0.059),
])  # fmt: skip
def test_flooding_of_trays_is_that_of_the_chart(parameter, spacing, capacity):
    """Capacities (m/s) read off Fair's chart (1961), to a twelfth."""
    assert tray_flooding(parameter, spacing, 0.02, 1001.0, 1.0) / math.sqrt(1000.0) == pytest.approx(capacity, rel=1.0 / 12.0)


@pytest.mark.parametrize(("parameter", "ordinate"), [(0.01, 0.2), (0.1, 0.135), (1.0, 0.0215)])
def test_flooding_of_packings_is_that_of_the_chart(parameter, ordinate):
    """Ordinates of Eckert's chart: u2 F rho_V psi mu^0.2 / (g rho_L), dimensionless with F in 1/m and mu in mPa s."""
    u = packing_flooding(parameter, 100.0, 1e-3, 1000.0, 1.0)
    assert u**2 * 100.0 * 1.0 / (9.80665 * 1000.0) == pytest.approx(ordinate, rel=0.1)


def test_the_diameter_carries_the_load():
    profile, values, _ = sized(inside="sieve trays")
    worst = max(v for v in profile.column("flooding").values if v is not None)
    assert values["flooding"] == pytest.approx(0.8) == pytest.approx(worst)
    assert values["diameter"] == pytest.approx(max(v for v in profile.column("diameter_needed").values if v is not None))
    # Stage 5 by hand, ideal gas and the liquid's own density.
    flow, T, P, y = (profile.at(key, 5) for key in ("vapour_flow", "temperature", "pressure", "vapour_volume"))
    assert y == pytest.approx(flow * 8.314462618 * T / P, rel=1e-6)
    assert profile.column("flooding").values[0] is profile.column("flooding").values[-1] is None
    area = math.pi / 4.0 * values["diameter"] ** 2
    assert 0.7 < y / area < 1.6  # m/s


def test_a_given_diameter_tells_how_full_it_is():
    _, needed, _ = sized(inside="sieve trays")
    _, half, text = sized(inside="sieve trays", diameter=q(f"{needed['diameter'] * math.sqrt(0.5)!r} m"))
    assert half["flooding"] == pytest.approx(1.6, rel=1e-9)
    assert "floods: its vapour comes to 160 %" in text
    _, _, calm = sized(inside="sieve trays", diameter=q(f"{needed['diameter']!r} m"))
    assert "flood" not in calm


def test_packings_have_their_factors():
    sizes = [sized(inside=name)[1]["diameter"] for name in ("Pall rings, metal, 50 mm", "Pall rings, metal, 25 mm", "Raschig rings, ceramic, 25 mm")]
    assert sizes == sorted(sizes)
    # The velocity goes with the root of the factor.
    assert sizes[2] / sizes[0] == pytest.approx((525.0 / 66.0) ** 0.25, rel=1e-9)


def test_what_trays_cost_is_told_where_the_column_counts_with_something_else():
    _, values, text = sized(inside="sieve trays")
    assert "The trays cost" in text
    drop = values["tray_loss"]
    assert 500.0 < drop / 22.0 < 1500.0  # Pa each
    assert "The trays cost" not in sized(inside="sieve trays", pressure_drop=q(f"{drop} Pa"))[2]


@pytest.mark.parametrize("factor", PACKINGS.values())
@pytest.mark.parametrize(("vapour", "liquid"), [(1.0, 0.0), (1.5, 0.002), (2.5, 0.01)])
def test_what_packings_cost_is_that_of_an_independent_library(factor, vapour, liquid):
    area, rhol, rhog, mu = math.pi / 4.0 * 1.2**2, 800.0, 2.0, 5e-4
    other = Robbins(L=liquid * rhol / area, G=vapour * rhog / area, rhol=rhol, rhog=rhog, mul=mu, Fpd=factor * 0.3048)
    assert packed_loss(vapour, liquid, 1.2, factor, mu, rhog) == pytest.approx(other, rel=1e-4)


def test_a_packing_has_a_height_and_its_drop_is_given_with_one_click():
    profile, values, text = sized(inside="Pall rings, metal, 50 mm", stage_height=q("0.8 m"))
    assert values["packing_height"] == pytest.approx(22 * 0.8)
    assert values["packing_loss"] == pytest.approx(sum(v for v in profile.column("packing_loss").values if v is not None))
    assert 50.0 < values["packing_loss"] / values["packing_height"] < 1500.0  # Pa/m
    assert "The packing costs" in text
    document = column(inside="Pall rings, metal, 50 mm")
    repair = next(f for f in solve(document).findings if "The packing costs" in f.text).repair
    for change in repair:
        document = edit(document, change["kind"], **{k: v for k, v in change.items() if k != "kind"})
    assert "The packing costs" not in " ".join(f.text for f in solve(document).findings)
    # Of the usual height, which is told.
    assert next(a for a in solve(document).assumptions if a.field == "stage_height").reason.startswith("18 times")
    assert "near atmospheric pressure" in sized(inside="Pall rings, metal, 50 mm", top_pressure=q("12 bar"), feed_pressure="15 bar")[2]


def test_weir_loads_are_told_by_stage():
    profile, values, _ = sized(inside="sieve trays")
    assert profile.at("weir_load", 5) == pytest.approx(profile.at("liquid_volume", 5) / (0.764 * values["diameter"]))


def test_trays_that_are_too_wide_weep():
    profile, values, calm = sized(inside="sieve trays")
    assert "weep" not in calm
    over = [v for v in profile.column("weeping").values if v is not None]
    assert min(over) > 1.0
    wide, _, text = sized(inside="sieve trays", diameter=q(f"{1.6 * values['diameter']!r} m"))
    assert "22 stages weep, stage" in text
    assert [v * 1.6**2 for v in wide.column("weeping").values if v is not None] == pytest.approx(over, rel=1e-9)
    # At stage 5 by hand: 12.24 / sqrt(density) in holes of 5 mm.
    density = 0.5 * (78.11 + 92.14) / 1e3 * profile.at("vapour_flow", 5) / profile.at("vapour_volume", 5)
    hole = profile.at("vapour_volume", 5) / (0.1 * 0.76 * math.pi / 4.0 * values["diameter"] ** 2)
    assert profile.at("weeping", 5) == pytest.approx(hole * math.sqrt(density) / 12.24, rel=0.05)


def test_loads_of_a_large_column_are_told():
    assert "Over the weir of stage" in sized(inside="sieve trays", feed="2000 mol/s", distillate_flow=q("1000 mol/s"))[2]


def test_usual_values_are_assumed_where_something_is_sized():
    found = {a.field for a in solve(column(inside="sieve trays")).assumptions if a.place == "T"}
    assert {"tray_spacing", "flooding"} <= found
    assert "tray_spacing" not in {a.field for a in solve(column(inside="Pall rings, metal, 50 mm")).assumptions}
    plain, _, _ = sized()
    assert not [c for c in plain.columns if c.key == "flooding"]


@pytest.mark.parametrize(("spec", "says"), [
    ({"flooding": q("0 %")}, "laid out for a load above 0"),
    ({"tray_spacing": q("0 m")}, "Trays lie some way apart"),
    ({"diameter": q("0 m")}, "a diameter above 0"),
    ({"inside": "saddles, ceramic, 25 mm", "stage_height": q("0 m")}, "a height for each stage"),
])  # fmt: skip
def test_what_cannot_be_sized_is_told(spec, says):
    assert says in " ".join(f.text for f in solve(column(**{"inside": "sieve trays", **spec})).findings)


def test_a_tray_of_a_textbook():
    """11 mm of dry loss, 50 mm of weir, 22 mm of crest and 13 mm for bubbles are 96 mm of liquid."""
    area = math.pi / 4.0 * 1.0**2
    vapour = 0.1 * 0.76 * area * 0.84 * math.sqrt(0.011 / 0.051 * 954.0 / 0.72)
    liquid = 0.764 * (0.022 / 0.75) ** 1.5
    assert tray_loss(vapour, liquid, 1.0, 954.0, 0.72) == pytest.approx(9.80665 * 954.0 * (0.011 + 0.05 + 0.022 + 0.0131), rel=1e-3)
    assert flow_parameter(2.0, 1.0, 900.0, 9.0) == pytest.approx(0.2)
