"""Measured data with slips in them: tables pasted with a heading, and values that no mixture has."""

import numpy as np
import pytest

from wattaxis import PropertyModel, component
from wattaxis.exchange import TableError, paste_data
from wattaxis.flowsheet import Chemistry
from wattaxis.flowsheet.data import Measured, MeasuredColumn
from wattaxis.flowsheet.data_checks import data_doubts

PAIRS = {
    ("ethanol", "water"): "nrtl",
    ("acetone", "chloroform"): "nrtl",
    ("methanol", "benzene"): "nrtl",
    ("n-hexane", "ethanol"): "nrtl",
    ("1-butanol", "water"): "nrtl",
    ("benzene", "toluene"): "ideal",
}
WRONG = {"bar": ("kPa", "Pa", "psi"), "kPa": ("bar", "MPa"), "mmHg": ("bar",), "psi": ("bar", "kPa")}


def chemistry(names):
    return Chemistry(components=[{"id": n, "cas": component(n).cas} for n in names])


def measured(names, model, unit, factor):
    """Boiling points of a model at 1 atm, the pressure typed in a unit."""
    states = [PropertyModel(model, names).flash([x, 1 - x], P=101325.0, VF=0.0) for x in np.linspace(0.05, 0.95, 10)]
    rows = tuple((s.temperature - 273.15, s.pressure / factor, float(s.fractions[0])) for s in states)
    columns = (MeasuredColumn(key="T", unit="degC"), MeasuredColumn(key="P", unit=unit), MeasuredColumn(key="x1"))
    return Measured(name="Run", kind="vapour-liquid", components=names, columns=columns, rows=rows)


def with_unit(data, key, unit):
    columns = tuple(c.model_copy(update={"unit": unit}) if c.key == key else c for c in data.columns)
    return Measured.model_validate({**dict(data), "columns": columns})


@pytest.mark.parametrize("names", PAIRS)
def test_right_units_raise_no_doubt_and_wrong_ones_do(names):
    factors = {"bar": 1e5, "kPa": 1e3, "mmHg": 133.322, "psi": 6894.757}
    for unit, others in WRONG.items():
        data = measured(names, PAIRS[names], unit, factors[unit])
        assert data_doubts(chemistry(names), data) == (), (names, unit)
        for other in others:
            assert data_doubts(chemistry(names), with_unit(data, "P", other)), (names, unit, other)
    for other in ("K", "degF"):
        assert data_doubts(chemistry(names), with_unit(data, "T", other)), (names, other)


def test_a_point_that_lacks_a_value_is_not_doubted_for_it():
    names = ("ethanol", "water")
    data = measured(names, "nrtl", "kPa", 1e3)
    for blank in range(3):
        rows = tuple(tuple(None if k == blank else v for k, v in enumerate(row)) for row in data.rows)
        assert data_doubts(chemistry(names), Measured.model_validate({**dict(data), "rows": rows})) == ()


def test_only_new_points_are_doubted_and_none_that_is_set_aside():
    names = ("ethanol", "water")
    data = measured(names, "nrtl", "kPa", 1e3)
    slip = Measured.model_validate({**dict(data), "rows": (*data.rows, (80.0, 10132.5, 0.4))})
    (told,) = data_doubts(chemistry(names), slip, data)
    assert told.startswith("Point 11: the pressure is far above")
    assert data_doubts(chemistry(names), slip, slip) == ()
    assert data_doubts(chemistry(names), slip.model_copy(update={"set_aside": {10: "a slip"}})) == ()


@pytest.mark.parametrize(
    ("kind", "keys", "row"),
    [
        ("liquid-liquid", ("T", "x1", "w1"), (700.0, 0.01, 0.9)),
        ("infinite dilution", ("T", "g1", "g2"), (300.0, 1e12, 2.0)),
        ("excess enthalpy", ("T", "x1", "h"), (300.0, 0.5, 5e5)),
        ("vapour pressure", ("T", "P"), (300.0, 5e6)),
    ],
)
def test_each_kind_of_data_has_values_that_are_not_believed(kind, keys, row):
    units = {"T": "K", "P": "Pa", "h": "J/mol"}
    names = ("1-butanol", "water")[: 1 if kind == "vapour pressure" else 2]
    columns = tuple(MeasuredColumn(key=key, unit=units.get(key, "")) for key in keys)
    data = Measured(name="Run", kind=kind, components=names, columns=columns, rows=(row,))
    assert len(data_doubts(chemistry(names), data)) == 1


def empty():
    columns = (MeasuredColumn(key="T", unit="degC"), MeasuredColumn(key="P", unit="bar"), MeasuredColumn(key="x1"), MeasuredColumn(key="y1"))
    return Measured(name="Run", kind="vapour-liquid", components=("ethanol", "water"), columns=columns)


def test_a_heading_says_columns_and_units():
    table = paste_data(empty(), [["x1", "T/K", "P [kPa]", "remark"], ["0,2", "350.1", "101.3", "good"], ["0.4", "349", "", ""]])
    assert [(c.key, c.unit) for c in table.data.columns] == [("T", "K"), ("P", "kPa"), ("x1", ""), ("y1", "")]
    assert table.data.rows == ((350.1, 101.3, 0.2, None), (349.0, None, 0.4, None))
    (told,) = table.left_out
    assert told.startswith('Column 4: "remark" is none of T, P, x1, y1')


def test_a_heading_does_not_change_the_meaning_of_other_points():
    once = paste_data(empty(), [["T/degC", "P/bar", "x1"], ["77", "1", "0.2"], ["78", "1", "0.3"]]).data
    with pytest.raises(TableError, match="T is pasted in K, and other points have it in degC"):
        paste_data(once, [["T/K", "P/bar", "x1"], ["351", "1", "0.4"]], first=2)
    over = paste_data(once, [["T/K"], ["350"], ["351"]])
    assert over.data.rows == ((350.0, 1.0, 0.2, None), (351.0, 1.0, 0.3, None))
    more = paste_data(once, [["T/degC", "y1"], ["79", "0.5"]], first=2).data
    assert more.rows[2] == (79.0, None, None, 0.5)
    with pytest.raises(TableError, match="none of T, P"):
        paste_data(once, [["speed", "colour"], ["1", "2"]])
