"""Variants side by side."""

import pytest
from plants import demo, q

from wattaxis import compare, edit
from wattaxis.solving.results import SolveResult


def test_what_was_given_differently_stands_beside_what_came_of_it():
    base = demo()
    colder = edit(base, "set_values", unit="E-103", values={"outlet_temperature": q("20 degC")})
    colder = edit(edit(colder, "move", places={"E-103": (5.0, 5.0)}), "set_constant", id="water", name="acentric_factor", value={"value": 0.35})
    found = compare([base, colder])
    assert [(d.place, d.title) for d in found.givens] == [("Chemistry", "water"), ("E-103", "Outlet temperature")]
    assert found.givens[1].texts == ("35 degC", "20 degC")
    assert found.complete == (True, True)
    composition = {"basis": "mole_flow", "values": {"butanone": q("50 kmol/h")}}
    fed = compare([base, edit(base, "set_values", unit="F-101", values={"composition": composition})]).givens[0]
    assert (fed.title, fed.texts[1]) == ("Composition", "butanone 50 kmol/h as mole flow")
    temperature = next(d for d in found.streams if (d.place, d.title) == ("S-07", "Temperature"))
    assert temperature.values == pytest.approx((308.15, 293.15))
    assert not any(d.place == "S-06" for d in found.streams)  # upstream nothing differs
    assert {d.title: d.equal for d in found.pins}["Off-gas"] is False


def test_every_difference_that_stands_alone_can_be_taken_over():
    base = demo()
    other = edit(base, "set_values", unit="E-103", values={"outlet_temperature": None, "outlet_vapour_fraction": q("0.5")})
    other = edit(edit(other, "remove_unit", tag="V-102"), "set_model", model="soave-redlich-kwong")
    other = edit(edit(other, "set_title", title="Other"), "set_constant", id="water", name="acentric_factor", value={"value": 0.35})
    other = edit(other, "add_component", component={"id": "ethanol", "cas": "64-17-5"})
    other = edit(other, "set_pair", first="water", second="ethanol", model="soave-redlich-kwong", values={"kij": 0.02})
    other = edit(other, "add_unit", unit={"tag": "P-900", "type": "pump", "spec": {"outlet_pressure": q("5 bar")}})
    mended = base
    for _ in range(30):  # one at a time: some rest on others, such as a pair on its component
        offered = [d.take[1] for d in compare([mended, other], calculate=lambda d: SolveResult()).givens if d.take[1]]
        if offered:
            mended = edit(mended, "batch", edits=list(offered[0]))
    assert compare([mended, other], calculate=lambda d: SolveResult()).givens == ()
    assert mended.unit("P-900") == other.unit("P-900")


def test_units_that_only_one_has_and_results_that_are_missing_are_shown_as_such():
    base = demo()
    short = edit(base, "remove_unit", tag="V-102")
    found = compare([base, short, base])
    texts = {(d.place, d.title): d.texts for d in found.givens}
    assert texts["V-102", "unit"] == ("Flash drum", None, "Flash drum")
    assert ("V-102", "Heat added") not in texts
    assert texts["S-10", "stream"] == ("VL-101 to V-102", None, "VL-101 to V-102")
    assert not any(d.place == "S-12" and d.values[1] is not None for d in found.streams)
    same = compare([base, base])
    assert (same.givens, same.streams) == ((), ())
    assert all(d.equal for d in same.pins)
