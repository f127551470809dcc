"""How uncertain results are: distributions drawn and told, rank correlations, and indices of Sobol beside an analytic case."""

import math

import numpy as np
import pytest
from plants import example, q

from wattaxis.flowsheet import Study
from wattaxis.studies import Case, StudyError, ask, cases_of
from wattaxis.studies.draws import pairs_of
from wattaxis.studies.spread import spreads

COLD = {"unit": "E-103", "field": "outlet_temperature", "low": q("20 degC"), "high": q("40 degC")}
PRESSED = {"unit": "VL-101", "field": "outlet_pressure", "low": q("2 bar"), "high": q("8 bar"), "spacing": "logarithmic"}
DUTY = {"name": "Duty", "formula": "E-103.duty"}


def study(*inputs, **also):
    return Study.model_validate({"name": "U", "asks": "uncertainty", "inputs": inputs, "outputs": [DUTY], "samples": 400, **also})


def test_values_are_drawn_as_they_are_distributed():
    plant = example("sandlark_bay")  # the gas is cooled to 35 degC
    for spread, mean, deviation in (
        ("even", 303.15, 20 / math.sqrt(12)),
        ("normal", 303.15, 20 / 2 / 1.959964),
        ("triangular", (293.15 + 313.15 + 308.15) / 3, math.sqrt((20**2 + 15**2 + 5**2 + 20 * 15 * 0) / 36)),
    ):
        drawn = cases_of(plant, study({**COLD, "spread": spread})).values[:, 0]
        assert drawn.mean() == pytest.approx(mean, abs=0.05)
        assert drawn.std() == pytest.approx(deviation, rel=0.02)
    logarithmic = np.log(cases_of(plant, study({**PRESSED, "spread": "normal"})).values[:, 0])
    assert logarithmic.mean() == pytest.approx(math.log(4e5), abs=1e-3)
    assert np.quantile(logarithmic, (0.025, 0.975)) == pytest.approx([math.log(2e5), math.log(8e5)], abs=0.03)


def test_what_a_value_cannot_be_is_not_drawn():
    steep = {"unit": "VL-101", "field": "outlet_pressure", "low": q("0.1 bar"), "high": q("6 bar"), "spread": "normal"}
    assert (cases_of(example("sandlark_bay"), study(steep)).values > 0.0).all()


def test_a_linear_result_is_distributed_as_its_input():
    """The duty is nearly linear in the temperature: its mean, deviation and middle follow, and its ranks are those of the temperature, turned."""
    result = ask(example("sandlark_bay"), study({**COLD, "spread": "normal"}, PRESSED, samples=200))
    (spread,) = result.spread
    assert spread.count == 200
    assert sum(spread.counts) == 200
    assert spread.quantiles[2] == pytest.approx(spread.mean, rel=0.01)
    assert spread.quantiles[4] - spread.quantiles[0] == pytest.approx(2 * 1.96 * spread.deviation, rel=0.05)
    assert spread.ranks[0] < -0.99
    assert abs(spread.ranks[1]) < spread.noise


def ishigami(values):
    a, b, c = values.T
    return np.sin(a) + 7 * np.sin(b) ** 2 + 0.1 * c**4 * np.sin(a)


def test_indices_of_sobol_are_those_of_an_analytic_case():
    """Ishigami, Homma (1990): first 0.3139, 0.4424, 0; total 0.5576, 0.4424, 0.2437."""
    three = [{**COLD, "field": name} for name in ("a", "b", "c")]
    asked = study(*three, design="Sobol", samples=10_000)
    pairs = pairs_of(asked, 3)
    rng = np.random.default_rng(1)
    first, second = rng.uniform(-math.pi, math.pi, (2, pairs, 3))
    mixed = [np.where(np.arange(3) == k, second, first) for k in range(3)]
    inputs = np.concatenate([first, second, *mixed])
    cases = [Case(n, tuple(x), (float(y),), ("",), ()) for n, (x, y) in enumerate(zip(inputs, ishigami(inputs), strict=True))]
    ((spread,), _) = spreads(asked, cases)
    for share, one, total in zip(spread.shares, (0.3139, 0.4424, 0.0), (0.5576, 0.4424, 0.2437), strict=True):
        assert share.first == pytest.approx(one, abs=2 * share.first_doubt)
        assert share.total == pytest.approx(total, abs=2 * share.total_doubt)
        assert share.first_doubt < 0.15


def test_cases_without_an_answer_are_told_and_left_out():
    asked = study(COLD, samples=50)
    cases = [Case(n, (float(n),), (None if n < 10 else float(n),), ("",), ()) for n in range(50)]
    ((spread,), remarks) = spreads(asked, cases)
    assert spread.count == 40
    assert remarks == ("10 of 50 cases have no answer and are left out: the rest is what can be calculated.",)
    ((none,), _) = spreads(asked, [Case(n, (1.0,), (None,), ("",), ()) for n in range(50)])
    assert none is None


@pytest.mark.parametrize(
    ("inputs", "also", "text"),
    [
        ([COLD, PRESSED], {"design": "Sobol", "samples": 50}, "need 64 samples at least"),
        ([{**COLD, "low": q("36 degC"), "spread": "triangular"}], {}, "needs its peak between them"),
    ],
)
def test_what_cannot_be_drawn_is_one_sentence(inputs, also, text):
    with pytest.raises(StudyError, match=text):
        cases_of(example("sandlark_bay"), study(*inputs, **also))


def test_sobol_samples_of_a_plant_say_which_input_matters():
    result = ask(example("sandlark_bay"), study(COLD, PRESSED, design="Sobol", samples=128))
    assert len(result.cases) == 128
    shares = result.spread[0].shares
    assert shares[0].total == pytest.approx(1.0, abs=0.1)
    assert shares[1].total == pytest.approx(0.0, abs=0.01)
