"""What streams are worth, tables and turned symbols as edits, and what a stream table holds of heat, shafts, solids and money."""

import csv
import io
import json

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from plants import demo, example, q

from wattaxis import EditError, edit, load, solve
from wattaxis.exchange import stream_csv
from wattaxis.flowsheet import apply, dump, edit_from_json
from wattaxis.flowsheet.document import DocumentError, to_data


def priced(document, **prices):
    for name, text in prices.items():
        document = edit(document, "set_price", id=name, price=q(text))
    return document


def test_a_stream_is_worth_the_sum_of_its_parts_and_nothing_without_every_price():
    plant = example("salt_drying")
    result = solve(plant)
    slurry = result.streams["S-01"]
    flows = {c: slurry.mass_fractions[c] * slurry.mass_flow for c in slurry.mass_fractions}
    expected = flows["water"] * 2e-3 + flows["sodium sulfate"] * 0.140 - flows["sand"] * 0.015
    assert slurry.money_flow == pytest.approx(expected, rel=1e-12)
    without = edit(plant, "set_price", id="sand", price=None)
    again = solve(without)
    assert again.streams["S-01"].money_flow is None
    assert again.streams["S-04"].money_flow == 0.0  # no sand flows there
    assert again.streams["S-01"].enthalpy_flow == slurry.enthalpy_flow
    pin = edit(without, "set_pin", name="Worth", formula="S-01.money_flow")
    assert "every component in it has a price" in next(p.problem for p in solve(pin).pins if p.name == "Worth")
    assert next(p for p in result.pins if p.name == "Worth of the salt").kind == "money_flow"


def test_prices_are_refused_in_other_units_and_taken_back():
    with pytest.raises(EditError, match="price"):
        priced(demo(), water="3 bar")
    with pytest.raises(EditError, match="gold"):
        priced(demo(), gold="3 EUR/t")
    changed, inverse, label = apply(demo(), edit_from_json({"kind": "set_price", "id": "water", "price": q("3 EUR/t")}))
    assert "3 EUR/t" in label
    assert apply(changed, inverse)[0] == demo()
    by_tonne = {"water": "2 EUR/t", "butanone": "1100 EUR/t", "2-butanol": "900 EUR/t", "hydrogen": "2000 EUR/t"}
    by_kilo = {"water": "0.002 EUR/kg", "butanone": "1.1 EUR/kg", "2-butanol": "0.9 EUR/kg", "hydrogen": "2 EUR/kg"}
    one, other = (solve(priced(demo(), **prices)).streams["S-07"].money_flow for prices in (by_tonne, by_kilo))
    assert one == pytest.approx(other, rel=1e-12)


@settings(max_examples=40, deadline=None)
@given(quarters=st.lists(st.integers(1, 3), min_size=1, max_size=6))
def test_turning_adds_up_and_is_taken_back(quarters):
    document = demo()
    steps = []
    for n in quarters:
        document, inverse, _ = apply(document, edit_from_json({"kind": "turn", "tags": ["V-101", "E-103"], "quarters": n}))
        steps.append(inverse)
    assert document.unit("V-101").turned == document.unit("E-103").turned == 90 * sum(quarters) % 360
    assert load(dump(document)) == document
    for inverse in reversed(steps):
        document = apply(document, inverse)[0]
    assert document == demo()


def test_tables_follow_renamed_streams_and_are_kept_once_a_name():
    table = {"name": "Ends", "streams": ["S-01", "S-07"], "rows": ["temperature", "mass_fraction[water]"], "x": 10.0, "y": 500.0}
    made = edit(demo(), "set_table", name="Ends", table=table)
    renamed = edit(made, "rename", tag="S-07", new="gas")
    assert renamed.tables[0].streams == ("S-01", "gas")
    assert edit(renamed, "set_table", name="Ends").tables == ()
    moved, inverse, label = apply(made, edit_from_json({"kind": "set_table", "name": "Ends", "table": {**table, "name": "All", "x": 40.0}}))
    assert (moved.tables[0].name, moved.tables[0].x, label) == ("All", 40.0, "table All")
    assert apply(moved, inverse)[0] == made
    with pytest.raises(EditError, match="no table"):
        edit(demo(), "set_table", name="None")
    with pytest.raises(EditError, match="streams"):
        edit(demo(), "set_table", name="Ends", table={**table, "streams": []})
    twice = to_data(made)
    with pytest.raises(DocumentError, match="same name"):
        load(json.dumps({**twice, "tables": twice["tables"] * 2}))


def rows_of(name):
    plant = example(name)
    return {row[0]: row[1:] for row in csv.reader(io.StringIO(stream_csv(plant, solve(plant))))}


def test_the_stream_table_holds_heat_shafts_solids_and_money_where_there_are_some():
    steam = rows_of("steam_power")
    power = steam["Heat or shaft power"]
    energies = solve(example("steam_power")).energies
    assert power[0] == "kW"
    assert len(power) == len(steam["Stream"]) == len(steam["Temperature"])
    found = dict(zip(steam["Stream"], power, strict=True))
    for tag, energy in energies.items():
        assert float(found[tag]) == pytest.approx(energy.power / 1e3)
        assert dict(zip(steam["Stream"], steam["Temperature"], strict=True))[tag] == ""
    assert "Solids, mass" not in steam
    assert "Money flow" not in steam
    drying = rows_of("salt_drying")
    assert drying["Solids, mass"][0] == "kg/kg"
    assert drying["Money flow"][0] == "EUR/h"
    assert "Heat or shaft power" not in drying
