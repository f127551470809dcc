"""Vapour pressures of one component fitted to measurements, kept in the document and used by the models that need them."""

import numpy as np
import pytest
from plants import plant

from wattaxis import DataSet, PropertyModel, edit, fit_vapour_pressure, load, search
from wattaxis.exchange import TableError, data_from_table, data_from_thermoml
from wattaxis.flowsheet import Chemistry, DocumentComponent, EditError, apply, dump, edit_from_json
from wattaxis.flowsheet.diagram_questions import QuestionError
from wattaxis.flowsheet.fitting import fit_question_from_json, run_fit
from wattaxis.flowsheet.model import property_model

#: Water along its boiling curve, K and Pa (Wagner, Pruss 2002, table 13.1).
WATER = [(300.0, 3536.8), (320.0, 10546.0), (340.0, 27188.0), (360.0, 62194.0), (373.124, 101325.0), (380.0, 128850.0), (400.0, 245770.0)]


def water(**more):
    t, p = np.array(WATER).T
    return DataSet("vapour pressure", ("water",), {"T": t, "P": p}, **more)


def test_water_is_followed_within_its_range():
    fit = fit_vapour_pressure([water(deviations={"T": 0.01, "P": 20.0})])
    (deviation,) = fit.deviations
    assert np.abs(deviation.calculated - deviation.measured).max() < 20.0  # Pa, of up to 2.5 bar
    a, b, c = fit.values
    assert b / (a - np.log(101325.0)) - c == pytest.approx(373.124, abs=0.1)
    assert fit.quality == "measured fit"
    assert (fit.vapour_pressure.low, fit.vapour_pressure.high) == (300.0, 400.0)
    assert np.allclose(np.diag(fit.correlation), 1.0)


def test_the_half_widths_hold_the_truth_as_often_as_they_say():
    truth, t = np.array([21.3, 3240.0, -48.0]), np.linspace(300.0, 380.0, 25)
    pressures = np.exp(truth[0] - truth[1] / (t + truth[2]))
    rng, held = np.random.default_rng(5), 0
    for _ in range(60):
        noisy = pressures + rng.normal(0.0, 150.0, len(t))
        data = DataSet("vapour pressure", ("x",), {"T": t, "P": noisy}, deviations={"T": 1e-6, "P": 150.0})
        fit = fit_vapour_pressure([data], {"C": -48.0})
        held += bool(np.all(np.abs(fit.values[:2] - truth[:2]) <= fit.half_widths[:2]))
        assert fit.values[2] == -48.0
    assert held >= 50  # 95 % each, hardly independent of each other


def test_what_the_data_cannot_tell_is_said():
    short = DataSet("vapour pressure", ("x",), {"T": [300.0, 303.0, 306.0, 309.0], "P": [3.5e3, 4.2e3, 5.0e3, 5.9e3]})
    assert any("within 15 K" in note for note in fit_vapour_pressure([short]).notes)
    with pytest.raises(ValueError, match="do not determine"):
        fit_vapour_pressure([DataSet("vapour pressure", ("x",), {"T": [300.0, 310.0], "P": [1e3, 2e3]})])
    with pytest.raises(ValueError, match="one component"):
        fit_vapour_pressure([water(), DataSet("vapour pressure", ("x",), {"T": [300.0], "P": [1e3]})])
    with pytest.raises(ValueError, match="no constant D"):
        fit_vapour_pressure([water()], {"D": 1.0})
    with pytest.raises(ValueError, match="Free at least one"):
        fit_vapour_pressure([water()], {"A": 1.0, "B": 2.0, "C": 3.0})
    with pytest.raises(ValueError, match="of one component"):
        DataSet("vapour pressure", ("a", "b"), {"T": [300.0], "P": [1e3]})
    with pytest.raises(ValueError, match="two different components"):
        DataSet("vapour-liquid", ("a",), {"T": [300.0], "P": [1e3], "x1": [0.5]})
    outlier = water(deviations={"T": 0.01, "P": 20.0})
    outlier.columns["P"][3] *= 1.5
    assert any("outliers" in note for note in fit_vapour_pressure([outlier]).notes)
    aside = DataSet("vapour pressure", ("water",), outlier.columns, outlier.deviations, {3: "misread"})
    assert not any("outliers" in note for note in fit_vapour_pressure([aside]).notes)
    made = fit_vapour_pressure([water(measured=False)])
    assert made.quality == "estimated"


def document():
    columns = [{"key": "T", "unit": "degC"}, {"key": "P", "unit": "mbar"}]
    data = {"name": "Boiling", "kind": "vapour pressure", "components": ["water"], "columns": columns,
            "rows": [[t - 273.15, p / 100.0] for t, p in WATER]}  # fmt: skip
    made = plant([("water", "7732-18-5"), ("butanone", "78-93-3")], {}, [], "nrtl", (("sand", "14808-60-7"),))
    return edit(made, "set_data", name="Boiling", data=data)


def test_a_fit_in_the_document_is_applied_used_and_undone():
    made = document()
    free = [{"first": "water", "second": "water", "name": name} for name in "ABC"]
    told = run_fit(made.chemistry, fit_question_from_json({"model": "vapour-pressure", "data": ["Boiling"], "free": free}))
    assert len(told["values"]) == len(told["half_widths"]) == 3
    assert [d["title"].split(" ")[0] for d in told["diagrams"]] == ["Vapour", "Residuals,"]
    found = {key: value for key, value in told["vapour_pressure"].items() if key != "component"}
    # A pressure one per cent above that of the fit shows that it is used, in activity models and not in cubic ones.
    own = {**found, "a": found["a"] + np.log(1.01), "source": "Fit 1 to Boiling"}
    changed, inverse, label = apply(made, edit_from_json({"kind": "set_vapour_pressure", "id": "water", "vapour_pressure": own}))
    assert "Fit 1 to Boiling" in label
    assert load(dump(changed)) == changed
    assert apply(changed, inverse)[0] == made
    before, after = (property_model(d.chemistry).flash([1.0, 0.0, 0.0], T=350.0, VF=0.0).pressure for d in (made, changed))
    assert after / before == pytest.approx(1.01, abs=2e-3)
    cubic = [property_model(edit(d, "set_model", model="peng-robinson").chemistry).flash([1.0, 0.0, 0.0], T=350.0, VF=0.0) for d in (made, changed)]
    assert cubic[0].pressure == cubic[1].pressure
    kept = {"name": "Fit 1", "model": "vapour-pressure", "data": ["Boiling"], "free": free, "values": told["values"],
            "half_widths": told["half_widths"], "sum_of_squares": told["sum_of_squares"], "quality": "measured fit"}  # fmt: skip
    assert edit(changed, "set_fit", name="Fit 1", fit=kept).chemistry.fits[0].model == "vapour-pressure"


def test_what_makes_no_sense_is_refused_in_words():
    made = document()
    own = {"a": 23.2, "b": 3800.0, "c": -46.0, "low": 300.0, "high": 400.0}
    with pytest.raises(EditError, match="solid and has no vapour pressure"):
        edit(made, "set_vapour_pressure", id="sand", vapour_pressure=own)
    with pytest.raises(EditError, match="lower to a higher"):
        edit(made, "set_vapour_pressure", id="water", vapour_pressure={**own, "low": 500.0})
    with pytest.raises(EditError, match="lower to a higher"):
        edit(made, "set_vapour_pressure", id="water", vapour_pressure={**own, "c": -300.0})
    with pytest.raises(EditError, match="gold"):
        edit(made, "set_vapour_pressure", id="gold", vapour_pressure=own)
    columns = [{"key": "T", "unit": "K"}, {"key": "P", "unit": "Pa"}, {"key": "x1"}]
    both = {"name": "Two", "kind": "vapour-liquid", "components": ["water", "butanone"], "columns": columns, "rows": [[350.0, 1e5, 0.5]]}
    wrong = edit(made, "set_data", name="Two", data=both)
    question = {"model": "vapour-pressure", "data": ["Two"], "free": [{"first": "water", "second": "water", "name": "A"}]}
    with pytest.raises(QuestionError, match="one component"):
        run_fit(wrong.chemistry, fit_question_from_json(question))


THERMOML = """<?xml version="1.0"?><DataReport xmlns="http://www.iupac.org/namespaces/ThermoML">
<Compound><RegNum><nOrgNum>1</nOrgNum></RegNum><sCASRegistryNum>64-17-5</sCASRegistryNum></Compound>
<PureOrMixtureData><Component><RegNum><nOrgNum>1</nOrgNum></RegNum></Component>
<Property><nPropNumber>1</nPropNumber><Property-MethodID><PropertyGroup><VaporPressure><ePropName>Vapor or sublimation pressure, kPa</ePropName>
</VaporPressure></PropertyGroup></Property-MethodID><PropPhaseID><ePropPhase>Liquid</ePropPhase></PropPhaseID></Property>
<Variable><nVarNumber>1</nVarNumber><VariableID><VariableType><eTemperature>Temperature, K</eTemperature></VariableType></VariableID></Variable>
<NumValues><VariableValue><nVarNumber>1</nVarNumber><nVarValue>320.0</nVarValue></VariableValue>
<PropertyValue><nPropNumber>1</nPropNumber><nPropValue>25.1</nPropValue></PropertyValue></NumValues>
</PureOrMixtureData></DataReport>"""


def test_pure_vapour_pressures_come_from_files_too():
    (data,), left_out = data_from_thermoml(THERMOML.encode(), [DocumentComponent(id="ethanol", cas="64-17-5")])
    assert (data.kind, data.components, data.rows, left_out) == ("vapour pressure", ("ethanol",), ((320.0, 25.1),), [])
    assert Chemistry(data=(data,)).data == (data,)
    with pytest.raises(TableError, match="not among the components"):
        data_from_thermoml(THERMOML.encode(), [DocumentComponent(id="water", cas="7732-18-5")])
    table = data_from_table([["T, degC", "P, mmHg"], ["78.3", "760"], ["60", "350"]], "vapour pressure", ["ethanol"], "Run")
    assert table.data.rows == ((78.3, 760.0), (60.0, 350.0))


def test_the_bank_agrees_with_what_it_is_fitted_to():
    """A vapour pressure generated from the bank and fitted gives it back, for substances of every sort."""
    for name in ("acetone", "benzene", "n-hexane", "acetic acid", "ammonia"):
        c = search(name, 1)[0]
        t = np.linspace(0.6, 0.75, 12) * c.critical_temperature
        model = PropertyModel("ideal", [c])
        data = DataSet("vapour pressure", (c.id,), {"T": t, "P": [model.flash([1.0], T=v, VF=0.0).pressure for v in t]}, measured=False)
        (deviation,) = fit_vapour_pressure([data]).deviations
        assert np.abs(deviation.calculated / deviation.measured - 1.0).max() < 5e-3, name
