"""A phase over many rows in one call is what single phases are, and its derivatives are those of differences, for every kind of model."""

import numpy as np
import pytest

from wattaxis import PropertyModel, phase_rows

MIXED = ["ethanol", "acetone", "water"]
GASES = ["propane", "n-butane", "n-pentane"]
MODELS = [
    *((key, MIXED, {}) for key in ("ideal", "nrtl", "wilson", "uniquac", "margules", "unifac", "predictive-soave-redlich-kwong")),
    ("nrtl", MIXED, {"vapour": "virial"}),
    ("nrtl", ["acetic acid", "water"], {"vapour": "associating"}),
    ("peng-robinson", GASES, {"translated": True}),
    ("soave-redlich-kwong", GASES, {}),
    ("steam", ["water"], {}),
]


@pytest.fixture(params=MODELS, ids=lambda m: "-".join([m[0], *map(str, m[2].values())]))
def model(request):
    key, names, more = request.param
    return PropertyModel(key, names, **more)


def points(model, kind, seed=5):
    rng = np.random.default_rng(seed)
    x = rng.dirichlet(np.ones(len(model.components)), size=4)
    return rng.uniform(320.0, 345.0, 4) + (40.0 if kind == "vapour" else 0.0), np.full(4, 0.9e5), x


@pytest.mark.parametrize("kind", ["liquid", "vapour"])
def test_rows_are_single_phases(model, kind):
    T, P, x = points(model, kind)
    rows = phase_rows(model, kind, T, P, x)
    for k in range(4):
        one = model.phase(kind, T[k], P[k], x[k])
        np.testing.assert_allclose(np.exp(rows.log_phi[k]), one.fugacity_coefficients, rtol=1e-12)
        wanted = (one.enthalpy, one.entropy, one.heat_capacity, one.molar_volume)
        np.testing.assert_allclose((rows.enthalpy[k], rows.entropy[k], rows.heat_capacity[k], rows.molar_volume[k]), wanted, rtol=1e-12)
        assert x[k] @ rows.partial_enthalpies[k] == pytest.approx(one.enthalpy, rel=1e-10)


@pytest.mark.parametrize("kind", ["liquid", "vapour"])
def test_derivatives_are_those_of_differences(model, kind):
    T, P, x = points(model, kind)
    rows = phase_rows(model, kind, T, P, x)

    def slope(vary, step):
        """Of (ln phi, n h) over a change of T, P or amounts, by four points."""
        total = 0.0
        for factor, weight in ((1, 8), (-1, -8), (2, -1), (-2, 1)):
            t, p, amounts = vary(factor * step)
            sums = amounts.sum(axis=1)
            moved = phase_rows(model, kind, t, p, amounts / sums[:, None])
            total = total + weight * np.column_stack([moved.log_phi, sums * moved.enthalpy])
        return total / (12 * step)

    by_T = slope(lambda h: (T + h, P, x), 0.05)
    np.testing.assert_allclose(rows.log_phi_by_temperature, by_T[:, :-1], rtol=1e-6, atol=1e-9)
    np.testing.assert_allclose(rows.heat_capacity, by_T[:, -1], rtol=2e-6)
    by_P = slope(lambda h: (T, P + h, x), 20.0)
    np.testing.assert_allclose(rows.log_phi_by_pressure, by_P[:, :-1], rtol=1e-6, atol=1e-14)
    np.testing.assert_allclose(rows.enthalpy_by_pressure, by_P[:, -1], rtol=1e-4, atol=1e-8)
    for j in range(x.shape[1]):
        by_n = slope(lambda h, j=j: (T, P, x + h * np.eye(x.shape[1])[j]), 1e-4)
        np.testing.assert_allclose(rows.log_phi_by_amounts[:, :, j], by_n[:, :-1], rtol=1e-5, atol=1e-7)
        np.testing.assert_allclose(rows.partial_enthalpies[:, j], by_n[:, -1], rtol=1e-6, atol=0.2)


def test_rows_that_do_not_fit_are_refused():
    model = PropertyModel("ideal", MIXED)
    with pytest.raises(ValueError, match="Rows of 3 fractions"):
        phase_rows(model, "liquid", np.array([300.0]), np.array([1e5]), np.array([[0.5, 0.5]]))
    with pytest.raises(ValueError, match='not of "solid"'):
        phase_rows(model, "solid", np.array([300.0]), np.array([1e5]), np.array([[0.5, 0.3, 0.2]]))
