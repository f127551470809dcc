"""Tables of results: read by formulas, aimed at, written into the workbook, and refused where they make no sense."""

import io

import openpyxl
import pytest
from plants import C4, feed, plant, q

from wattaxis import edit, solve
from wattaxis.exchange import workbook
from wattaxis.flowsheet import Pin
from wattaxis.solving.pins import evaluate_pin
from wattaxis.unitops import Profile, column
from wattaxis.unitops.profile import profile_problem

LINES = ["S-1: F-1.outlet -> L-1.inlet", "S-2: L-1.outlet -> Z-1.inlet"]


@pytest.fixture(scope="module")
def piped():
    pipe = {"length": q("120 m"), "diameter": q("60 mm"), "heat_transfer": q("20 W/m2/K"), "surroundings": q("5 degC")}
    return plant(C4, {"F-1": feed(pressure="12 bar", temperature="330 K"), "L-1": ("pipe", pipe), "Z-1": ("product", {})}, LINES)


def value(document, result, formula):
    return evaluate_pin(Pin(name="x", formula=formula), document, result)


def test_a_formula_reads_a_place_in_any_unit_and_between_two_rows(piped):
    result = solve(piped)
    along = result.units["L-1"].profile()
    assert value(piped, result, "L-1.pressure[length 0 m]").value == pytest.approx(12e5)
    assert value(piped, result, "L-1.pressure[length 120 m]").value == pytest.approx(result.streams["S-2"].pressure, rel=1e-12)
    here = value(piped, result, "L-1.temperature[length 5250 cm]")
    assert here.kind == "temperature"
    assert here.value == pytest.approx(along.at("temperature", 52.5), rel=1e-12)
    drop = value(piped, result, "L-1.pressure[length 0 m] - L-1.pressure[length 60 m]")
    assert (drop.kind, drop.value > 0.0) == ("pressure_difference", True)


@pytest.mark.parametrize(
    ("formula", "told"),
    [
        ("L-1.pressure", "needs a place in brackets, such as L-1.pressure[length 120 m]"),
        ("L-1.pressure[stage 3]", "needs a place in brackets"),
        ("L-1.pressure[length 130 m]", "130 lies beyond"),
        ("L-1.pressure[length 3 K]", "not a position along it"),
        ("L-1.pressure[water, length 3 m]", "has no pressure[water]"),
        ("L-1.colour[length 3 m]", "has no colour now; it has outlet_pressure"),
    ],
)
def test_a_place_that_is_none_is_told(piped, formula, told):
    problem = value(piped, solve(piped), formula).problem
    assert told in problem


def test_an_aim_meets_a_value_in_the_middle_of_a_pipe(piped):
    aim = {"name": "half", "formula": "L-1.temperature[length 60 m]", "target": "320 K", "free": {"unit": "F-1", "field": "temperature"}}
    aimed = edit(piped, "set_aim", name="half", aim=aim)
    result = solve(aimed)
    assert result.aims[0].state == "met"
    assert result.units["L-1"].profile().at("temperature", 60.0) == pytest.approx(320.0, abs=1e-6)


def test_profiles_stand_in_the_workbook_in_the_units_of_the_plant(piped):
    rows = list(openpyxl.load_workbook(io.BytesIO(workbook(piped, solve(piped))))["Profiles"].values)
    assert rows[0][:2] == ("L-1", "Along the pipe")
    assert rows[1][1:3] == ("Length from the inlet", "Pressure")
    assert rows[3][2] == pytest.approx(12.0)


def test_stages_are_whole_numbers_and_nothing_lies_between_them():
    stages = Profile(
        "stages", "Stages", column("stage", "Stage", "number", [1, 2, 3]), (column("x", "Share", "fraction", [0.1, float("nan"), 0.3]),), steps=True
    )
    assert stages.at("x", 3.0) == 0.3
    for nowhere in (2.0, 2.5, 4.0):
        with pytest.raises(KeyError, match="no value at stage"):
            stages.at("x", nowhere)
    assert stages.to_csv().splitlines()[:2] == ["Stage,Share", "1.0,0.1"]


@pytest.mark.parametrize(
    ("along", "columns", "told"),
    [
        ([0.0, 1.0], [column("x", "X", "fraction", [0.1])], "1 values at 2 places"),
        ([0.0, 1.0], [column("x", "X", "colour", [0.1, 0.2])], "no kind of quantity"),
        ([1.0, 0.0], [column("x", "X", "fraction", [0.1, 0.2])], "ascending"),
        ([0.0, 1.0], [column("x", "X", "fraction", [0.1, float("inf")])], "not a number"),
        ([0.0, 1.0], [column("x", "X", "fraction", [0.1, 0.2])] * 2, "twice"),
    ],
)
def test_a_table_that_makes_no_sense_is_refused(along, columns, told):
    assert told in profile_problem(Profile("p", "P", column("length", "Length", "length", along), tuple(columns)))
