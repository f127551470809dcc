"""What is shown as a model's equation is what is calculated: evaluated here as it is written, for two components."""

from math import exp, log, sqrt

import pytest

from wattaxis import PropertyModel
from wattaxis.properties import model_kinds
from wattaxis.properties.layout import R

T, X = 340.0, 0.3
VALUES = {"a12": 0.4, "a21": 0.7, "b12": 90.0, "b21": 60.0, "e12": 0.01, "e21": -0.02, "f12": 1e-4, "f21": 2e-4}


def over_temperature(values, way):
    return values["a" + way] + values["b" + way] / T + values["e" + way] * log(T) + values["f" + way] * T


def nrtl(one, other, values, x, y):
    def g(tau):
        return exp(-values["alpha"] * tau)

    return x * y * (other * g(other) / (x + y * g(other)) + one * g(one) / (y + x * g(one)))


def margules(one, other, values, x, y):
    return x * y * (other * x + one * y)


def van_laar(one, other, values, x, y):
    return one * other * x * y / (one * x + other * y)


def wilson(one, other, values, x, y):
    return -x * log(x + exp(one) * y) - y * log(y + exp(other) * x)


def uniquac(one, other, values, x, y):
    (r1, q1), (r2, q2) = values["sizes"]
    phi, theta = x * r1 / (x * r1 + y * r2), x * q1 / (x * q1 + y * q2)
    combinatorial = x * log(phi / x) + y * log((1 - phi) / y) + 5 * (q1 * x * log(theta / phi) + q2 * y * log((1 - theta) / (1 - phi)))
    return combinatorial - q1 * x * log(theta + (1 - theta) * exp(other)) - q2 * y * log(1 - theta + theta * exp(one))


EQUATIONS = {"nrtl": nrtl, "margules": margules, "van-laar": van_laar, "wilson": wilson, "uniquac": uniquac}


def test_every_model_with_pair_parameters_shows_its_equation():
    with_pairs = {key for key, kind in model_kinds().items() if kind.info.parameters}
    assert with_pairs == {key for key, kind in model_kinds().items() if kind.info.equation}
    assert with_pairs == {*EQUATIONS, "peng-robinson", "soave-redlich-kwong"}
    for key in with_pairs:
        text = " ".join(model_kinds()[key].info.equation)
        assert all(p.name.rstrip("12") in text for p in model_kinds()[key].info.parameters), key


@pytest.mark.parametrize("key", EQUATIONS)
def test_excess_energies_follow_the_equation_that_is_shown(key):
    own = VALUES | ({"alpha": 0.35} if key == "nrtl" else {})
    model = PropertyModel(key, ["ethanol", "benzene"], pairs={("ethanol", "benzene"): own})
    sizes = [(c.uniquac_r, c.uniquac_q) for c in model.components]
    one, other = over_temperature(own, "12"), over_temperature(own, "21")
    expected = EQUATIONS[key](one, other, {**own, "sizes": sizes}, X, 1 - X)
    assert model.excess(T, 1e5, [X, 1 - X]).gibbs / (R * T) == pytest.approx(expected, rel=1e-12)


@pytest.mark.parametrize(("key", "u", "w"), [("peng-robinson", 2.0, -1.0), ("soave-redlich-kwong", 1.0, 0.0)])
def test_pressures_follow_the_equation_that_is_shown(key, u, w):
    own = {"kij": 0.05, "kb": 12.0, "ke": 1e-4}
    parts = [PropertyModel(key, [name]) for name in ("propane", "n-hexane")]
    model = PropertyModel(key, ["propane", "n-hexane"], pairs={("propane", "n-hexane"): own})

    def attraction_and_covolume(part):
        """Of a pure component, from two of its volumes."""
        from scipy.optimize import fsolve

        states = [(p, part.phase("vapour", 420.0, p, [1.0]).molar_volume) for p in (1e5, 4e5)]

        def gaps(unknown):
            a, b = unknown
            return [(R * 420.0 / (v - b) - a / (v * v + u * b * v + w * b * b)) / p - 1 for p, v in states]

        return fsolve(gaps, [2.0, 1e-4], xtol=1e-13)

    (a1, b1), (a2, b2) = map(attraction_and_covolume, parts)
    k = own["kij"] + own["kb"] / 420.0 + own["ke"] * 420.0
    a = X * X * a1 + (1 - X) ** 2 * a2 + 2 * X * (1 - X) * sqrt(a1 * a2) * (1 - k)
    b = X * b1 + (1 - X) * b2
    v = model.phase("vapour", 420.0, 3e5, [X, 1 - X]).molar_volume
    assert R * 420.0 / (v - b) - a / (v * v + u * b * v + w * b * b) == pytest.approx(3e5, rel=1e-8)
