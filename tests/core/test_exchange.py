"""Tables that leave the program: every unit set, hostile names, missing values."""

import csv
import io

import pytest
from openpyxl import load_workbook
from plants import demo, example, feed, plant, q

from wattaxis import edit, from_si, solve
from wattaxis.exchange import stream_csv, stream_rows, unit_rows, workbook
from wattaxis.quantities import KINDS, UNIT_SETS
from wattaxis.quantities.quantity import linear

CHECKED = [
    ("Temperature", "temperature", "temperature"),
    ("Pressure", "pressure", "pressure"),
    ("Mole flow", "mole_flow", "mole_flow"),
    ("Mass flow", "mass_flow", "mass_flow"),
    ("Enthalpy flow", "enthalpy_flow", "power"),
    ("Molar entropy", "molar_entropy", "molar_entropy"),
    ("Density", "density", "density"),
]


@pytest.mark.parametrize("unit_set", sorted(UNIT_SETS))
def test_every_unit_set_shows_the_same_plant(unit_set):
    document = edit(demo(), "set_unit_set", name=unit_set)
    result = solve(document)
    rows = {row[0]: row for row in stream_rows(document, result)}
    for title, attribute, kind in CHECKED:
        unit = UNIT_SETS[unit_set].get(kind, KINDS[kind].units[0])
        assert rows[title][1] == unit
        for tag, shown in zip(rows["Stream"][2:], rows[title][2:], strict=True):
            assert shown == pytest.approx(from_si(getattr(result.streams[tag], attribute), unit), rel=1e-12)
    fractions = [rows[f"{c.id}, mole fraction"][2:] for c in document.chemistry.components]
    assert [sum(column) for column in zip(*fractions, strict=True)] == pytest.approx([1.0] * 7, rel=1e-12)


def test_every_display_unit_is_a_line_through_si():
    for kind in KINDS.values():
        for unit in kind.units:
            factor, offset = linear(unit, difference=kind.difference)
            assert factor > 0
            assert from_si(3.0 * factor + offset, unit, difference=kind.difference) == pytest.approx(3.0, rel=1e-12)
            assert offset == 0.0 or kind.key in ("temperature", "pressure")


def test_a_name_that_looks_like_a_formula_stays_text():
    components = [("=HYPERLINK(1)", "74-98-6"), ("+butane", "106-97-8")]
    spec = {**feed()[1], "composition": {"basis": "mole_fraction", "values": {name: q("0.5") for name, _ in components}}}
    document = plant(components, {"F": ("feed", spec), "Z": ("product", {})}, ["S: F.outlet -> Z.inlet"])
    result = solve(document)
    assert result.complete
    titles = [row[0] for row in csv.reader(io.StringIO(stream_csv(document, result)))]
    assert not any(t[:1] in "=+-@" for t in titles)
    sheet = load_workbook(io.BytesIO(workbook(document, result))).active
    assert all(cell.data_type != "f" for row in sheet.iter_rows() for cell in row)


def test_a_model_without_liquid_volumes_takes_them_from_rackett():
    document = edit(demo(), "set_model", model="ideal")
    result = solve(document)
    assert result.complete
    rows = {row[0]: row for row in stream_rows(document, result)}
    liquid = rows["Stream"].index("S-09")
    assert rows["Density"][liquid] == pytest.approx(785, rel=0.05)  # butanone 790, 2-butanol 795 kg/m3 at 35 degC
    table = list(csv.reader(io.StringIO(stream_csv(document, result))))
    assert float(next(row for row in table if row[0] == "Density")[liquid]) == rows["Density"][liquid]


def test_the_workbook_says_of_every_unit_what_was_given_assumed_and_calculated():
    document = edit(example("butanone_plant"), "set_values", unit="P-301", values={"efficiency": None})
    result = solve(document)
    rows = [row for row in unit_rows(document, result)[1:] if row[0] == "P-301"]
    told = {row[2]: (row[3], row[4], row[5]) for row in rows}
    assert told["Outlet pressure"] == (3.2, "bar", "given")
    assert told["Efficiency"] == (75.0, "%", "assumed: no efficiency was given")
    power = next(v.value for v in result.units["P-301"].values if v.key == "power")
    assert told["Power"] == (pytest.approx(power / 1e3), "kW", "calculated")
    assert "NRTL" in told["basis"][0]
    reactor = {row[2]: row[3] for row in unit_rows(document, result) if row[0] == "R-301"}
    assert (reactor["Reactions"], reactor["Length"]) == ("Butanone from 2-butanol", 4.0)
    assert reactor["Conversion of 2-butanol"] == pytest.approx(0.86, rel=1e-6)
    book = load_workbook(io.BytesIO(workbook(document, result)))
    assert book.sheetnames == ["Streams", "Units", "Assumptions", "Findings", "Reactions", "Profiles"]
    assert [row[1].value for row in book["Reactions"].iter_rows()][1].startswith("Dehydrogenation: 2-butanol = butanone + hydrogen")
    assert book["Units"].max_row == len(unit_rows(document, result))
    assert any("estimated, not measured" in str(row[2].value) for row in book["Findings"].iter_rows())
    assert [row[0].value for row in book["Assumptions"].iter_rows()][1:] == [a.place for a in result.assumptions]


def test_units_that_are_not_calculated_say_so_in_the_workbook():
    document = edit(demo(), "set_values", unit="E-103", values={"outlet_temperature": None})
    rows = unit_rows(document, solve(document))
    assert [row[3] for row in rows if row[0] == "V-101" and row[2] == "state"] == ["not calculated"]
