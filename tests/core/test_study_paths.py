"""Cases along a path, each begun where those before lead and without what nobody looks at, beside plants calculated one by one from nothing."""

import numpy as np
import pytest
from plants import example, feed, plant, q

from wattaxis import solve
from wattaxis.flowsheet import Pin, Study
from wattaxis.solving.pins import evaluate_pin
from wattaxis.studies import Case, Sensitivity, ask, plant_of_case
from wattaxis.studies.path import Path
from wattaxis.studies.stand import Stand

#: A plant, what is varied, what is looked at, whether aims stay.
PLANTS = [
    ("butanone_plant", ("E-304", "outlet_temperature", "50 degC", "56 degC"), ("T-302.reboiler_duty", "S-326.component_flow[butanone]"), False),
    ("butanone_plant", ("E-304", "outlet_temperature", "53 degC", "55 degC"), ("F-301.flow", "R-301.duty"), True),
    ("ammonia_loop", ("E-103", "outlet_temperature", "-18 degC", "-12 degC"), ("K-201.power",), True),
    ("butane_splitter", ("T-601", "stages", "70", "90"), ("T-601.reboiler_duty",), True),
    ("sandlark_bay_recycle", ("E-201", "outlet_temperature", "380 degC", "420 degC"), ("R-201.duty", "F-201.flow"), True),
]


@pytest.mark.parametrize(("name", "given", "formulas", "aims"), PLANTS, ids=[f"{p[0]}, {'with' if p[3] else 'without'} aims" for p in PLANTS])
def test_cases_of_a_path_are_those_of_plants_from_nothing(name, given, formulas, aims):
    document = example(name)
    document = document if aims else document.model_copy(update={"aims": ()})
    unit, field, low, high = given
    outputs = [{"name": f, "formula": f} for f in formulas]
    varied = {"unit": unit, "field": field, "low": q(low), "high": q(high)}
    study = Study.model_validate({"name": "P", "design": "samples", "samples": 8, "inputs": [varied], "outputs": outputs})
    cases = ask(document, study).cases
    for case in cases[5:6]:
        result = solve(plant_of_case(document, study, case.inputs))
        for k, formula in enumerate(formulas):
            value = evaluate_pin(Pin(name="y", formula=formula), document, result).value
            value = next((aim.freed for aim in result.aims if f"{aim.unit}.{aim.field}" == formula), value)
            assert case.outputs[k] == pytest.approx(value, rel=1e-7), formula


def crossing(duty="2000 kW"):
    exchanger = ("heat-exchanger", {"duty": q(duty), "hot_pressure_change": q("0 bar"), "cold_pressure_change": q("0 bar")})
    units = {"F-1": feed(temperature="400 K"), "F-2": feed(temperature="300 K"), "E-1": exchanger, "P-1": ("product", {}), "P-2": ("product", {})}
    lines = ["S-1: F-1.outlet -> E-1.hot_in", "S-2: F-2.outlet -> E-1.cold_in", "S-3: E-1.hot_out -> P-1.inlet", "S-4: E-1.cold_out -> P-2.inlet"]
    parts = [("propane", "74-98-6"), ("n-butane", "106-97-8"), ("n-pentane", "109-66-0")]
    return plant(parts, units, lines)


def test_a_fault_of_a_unit_that_nobody_looks_at_is_told_all_the_same():
    document = crossing("100 kW")
    varied = {"unit": "E-1", "field": "duty", "values": [q("100 kW"), q("2000 kW"), q("120 kW")]}
    looked_at = [{"name": "Sum", "formula": "S-1.mass_flow + S-2.mass_flow"}]
    cases = ask(document, Study.model_validate({"name": "P", "inputs": [varied], "outputs": looked_at})).cases
    assert [bool(case.faults) for case in cases] == [False, True, False]
    assert cases[1].faults[0].startswith("E-1: ")


def test_a_block_whose_path_keeps_to_another_state_is_calculated_from_nothing(monkeypatch):
    document = example("sandlark_bay")
    cold = {"unit": "E-103", "field": "outlet_temperature", "low": q("20 degC"), "high": q("40 degC"), "points": 4}
    study = Study.model_validate({"name": "P", "inputs": [cold], "outputs": [{"name": "Duty", "formula": "E-103.duty"}]})
    true, whole = ask(document, study).cases, Stand.case

    def astray(self, number, values, memory, purpose="answer"):
        found = whole(self, number, values, memory, purpose)
        return Case(found.number, found.inputs, (found.outputs[0] * 1.01,), found.problems, found.faults) if purpose == "search" else found

    monkeypatch.setattr(Stand, "case", astray)
    assert [case.outputs[0] for case in Sensitivity(document, study).block(0)] == pytest.approx([case.outputs[0] for case in true], rel=1e-10)


def test_a_path_leads_where_a_polynomial_does_and_never_turns_a_flow_round():
    from wattaxis.solving.memory import Closure, Memory

    def unknowns(a, b):
        return np.array([3.0 + a + 0.5 * a * b, 1e5 + 10.0 * b**3, 0.0])

    memory, path, rng = Memory(), Path(np.array([1.0, 2.0])), np.random.default_rng(2)
    for a, b in rng.uniform(0.0, 2.0, (20, 2)):
        memory.loops["S-1"] = Closure(unknowns(a, b), ())
        path.learn([a, b], memory)
    path.begin([1.5, 0.3], memory)
    assert memory.loops["S-1"].unknowns == pytest.approx(unknowns(1.5, 0.3), rel=1e-8, abs=1e-9)
    path.begin([-9.0, 2.0], memory)  # the first flow would be negative there
    assert memory.loops["S-1"].unknowns == pytest.approx([unknowns(a, b)[0], *unknowns(-9.0, 2.0)[1:]], rel=1e-5)


def test_a_path_of_many_values_stays_cheap():
    from wattaxis.solving.memory import Closure, Memory

    memory, path, rng = Memory(), Path(np.ones(10)), np.random.default_rng(2)
    for values in rng.uniform(0.0, 1.0, (100, 10)):
        path.begin(values, memory)
        memory.loops["S-1"] = Closure(np.array([1.0 + values.sum()]), ())
        path.learn(values, memory)
    path.begin(np.full(10, 0.5), memory)
    assert memory.loops["S-1"].unknowns == pytest.approx([6.0], rel=1e-3)
