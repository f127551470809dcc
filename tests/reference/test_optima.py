"""Searches for the best beside published optima, analytic ones, and plants whose best can be calculated by hand.

Problems and their solutions: Hock, Schittkowski (1981), Test Examples for Nonlinear Programming Codes; Rosenbrock (1960), Comput. J. 3, 175.
"""

import numpy as np
import pytest
from plants import example, plant, q

from wattaxis.flowsheet import Study
from wattaxis.studies import Optimisation
from wattaxis.studies.programme import Programme

INF = np.inf
#: Objective and what is limited; bounds; least and most of what is limited; start; solution; least value; prices of the limits that bind.
PUBLISHED = {
    "Rosenbrock": (lambda a, b: [100 * (b - a * a) ** 2 + (1 - a) ** 2], [(-2, 2)] * 2, [], (-1.2, 1), (1, 1), 0.0, {}),
    "35": (
        lambda a, b, c: [9 - 8 * a - 6 * b - 4 * c + 2 * a * a + 2 * b * b + c * c + 2 * a * b + 2 * a * c, a + b + 2 * c],
        [(0, 3)] * 3,
        [(-INF, 3)],
        (0.5, 0.5, 0.5),
        (4 / 3, 7 / 9, 4 / 9),
        1 / 9,
        {0: -2 / 9},
    ),
    "43": (
        lambda a, b, c, d: [
            a * a + b * b + 2 * c * c + d * d - 5 * a - 5 * b - 21 * c + 7 * d,
            a * a + b * b + c * c + d * d + a - b + c - d,
            a * a + 2 * b * b + c * c + 2 * d * d - a - d,
            2 * a * a + b * b + c * c + 2 * a - b - d,
        ],
        [(-3, 3)] * 4,
        [(-INF, 8), (-INF, 10), (-INF, 5)],
        (0, 0, 0, 0),
        (0, 1, 2, -1),
        -44.0,
        {0: -1.0, 2: -2.0},
    ),
    "71": (
        lambda a, b, c, d: [a * d * (a + b + c) + c, a * b * c * d, a * a + b * b + c * c + d * d],
        [(1, 5)] * 4,
        [(25, INF), (40, 40)],
        (1, 5, 5, 1),
        (1, 4.7429994, 3.8211503, 1.3794082),
        17.0140173,
        {0: 0.5522937, 1: -0.1614686},
    ),
}


def programme(function, bounds, limits):
    low, span = np.array([b[0] for b in bounds], float), np.array([b[1] - b[0] for b in bounds], float)
    ends = [np.array([limit[k] for limit in limits], float) for k in (0, 1)]
    return Programme(lambda x: np.array(function(*(low + span * x)), float), len(bounds), *ends), low, span


@pytest.mark.parametrize("name", PUBLISHED)
def test_published_optima_and_their_prices(name):
    function, bounds, limits, start, best, value, prices = PUBLISHED[name]
    search, low, span = programme(function, bounds, limits)
    found = search.best_from((np.array(start, float) - low) / span)
    assert found.values[0] == pytest.approx(value, rel=1e-7, abs=1e-7)
    assert low + span * found.x == pytest.approx(best, abs=1e-4)
    assert found.left <= 1e-7
    assert found.slope < 1e-4
    told = {bound.index: bound.price for bound in found.binding if bound.of == "limit" and abs(bound.price) > 1e-6}
    assert told == {index: pytest.approx(price, rel=1e-3) for index, price in prices.items()}


def test_a_convex_problem_ends_at_the_same_point_from_everywhere():
    function, bounds, limits, _, best, _, _ = PUBLISHED["35"]
    for start in np.random.default_rng(3).random((12, 3)):
        search, low, span = programme(function, bounds, limits)
        assert low + span * search.best_from(start).x == pytest.approx(best, abs=1e-5)


def test_limits_that_exclude_each_other_end_where_they_are_missed_least():
    search, low, span = programme(lambda a, b: [a + b, a - b, b - a], [(0, 1)] * 2, [(0.5, INF), (0.25, INF)])
    found = search.best_from(np.array([0.5, 0.5]))
    a, b = low + span * found.x
    assert a - b == pytest.approx(0.125, abs=1e-4)  # halfway between 0.5 and -0.25
    assert found.left == pytest.approx(0.375, abs=1e-4)


def test_where_nothing_can_be_calculated_the_search_turns_back():
    def walled(x):
        return None if x[0] + x[1] < 0.6 else np.array([float(x @ x)])

    found = Programme(walled, 2, np.array([]), np.array([])).best_from(np.array([0.9, 0.7]))
    assert found.values[0] == pytest.approx(0.18, rel=0.05)  # the nearest place on the wall


def asked(inputs, objective, limits=(), **also):
    return Study.model_validate({"name": "Best", "asks": "optimum", "inputs": inputs, "objectives": [objective], "limits": limits, **also})


def test_the_pressure_between_two_stages_of_compression_is_the_geometric_mean():
    """Of an ideal gas of constant heat capacity, cooled to the suction temperature between equal stages (Perry 2008, 10-45): least power."""
    between = {"unit": "K-1", "field": "outlet_pressure", "low": q("1.5 bar"), "high": q("14 bar")}
    result = Optimisation(two_stages(), asked([between], {"name": "Power", "formula": "K-1.power + K-2.power"})).run()
    best = result.cases[result.optimum.best]
    assert best.inputs[0] == pytest.approx(4e5, rel=2e-3)  # of 1 and 16 bar; argon's heat capacity is that of an ideal gas, 5/2 R
    assert result.remarks == ()


def two_stages():
    return plant(
        [("argon", "7440-37-1")],
        {
            "F-1": (
                "feed",
                {
                    "composition": {"basis": "mole_fraction", "values": {"argon": q("1")}},
                    "temperature": q("300 K"),
                    "pressure": q("1 bar"),
                    "flow": q("100 kmol/h"),
                },
            ),
            "K-1": ("compressor", {"outlet_pressure": q("3 bar"), "efficiency": q("100 %")}),
            "E-1": ("cooler", {"outlet_temperature": q("300 K")}),
            "K-2": ("compressor", {"outlet_pressure": q("16 bar"), "efficiency": q("100 %")}),
            "Z-1": ("product", {}),
        },
        ["S-1: F-1.outlet -> K-1.inlet", "S-2: K-1.outlet -> E-1.inlet", "S-3: E-1.outlet -> K-2.inlet", "S-4: K-2.outlet -> Z-1.inlet"],
        model="ideal",
    )


def test_the_price_of_a_limit_is_what_the_objective_changes_by_when_it_moves():
    plant = example("sandlark_bay")
    cold = {"unit": "E-103", "field": "outlet_temperature", "low": q("5 degC"), "high": q("40 degC")}

    def best(most):
        lost = {"name": "Lost", "formula": "S-08.component_flow[butanone]", "high": q(f"{most} kmol/h")}
        return Optimisation(plant, asked([cold], {"name": "Duty", "formula": "E-103.duty"}, [lost])).run()

    low, middle, high = (best(most) for most in (4.9, 5.0, 5.1))
    duties = [result.cases[result.optimum.best].outputs[0] for result in (low, high)]
    (binding,) = middle.optimum.binding
    assert (binding.name, binding.side, binding.end) == ("Lost", "high", pytest.approx(5 / 3.6))
    assert binding.price == pytest.approx((duties[1] - duties[0]) / (0.2 / 3.6), rel=1e-3)
