"""The small linear algebra and root finding inside the kernels against numpy."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from wattaxis.properties.kernels.cubic import compressibility_roots
from wattaxis.properties.kernels.linear import cholesky, cholesky_solve, solve_in_place
from wattaxis.properties.kernels.split import rachford_rice


@settings(max_examples=40, deadline=None)
@given(n=st.integers(1, 9), seed=st.integers(0, 10**6))
def test_solvers_against_numpy(n, seed):
    rng = np.random.default_rng(seed)
    square, rhs = rng.normal(size=(n, n)), rng.normal(size=n)
    wanted = np.linalg.solve(square, rhs)
    found = rhs.copy()
    assert solve_in_place(square.copy(), found, n)
    assert found == pytest.approx(wanted, rel=1e-6, abs=1e-8 * np.linalg.cond(square))
    positive = square @ square.T + np.eye(n)
    factor, found = positive.copy(), rhs.copy()
    assert cholesky(factor, n)
    cholesky_solve(factor, found, n)
    assert found == pytest.approx(np.linalg.solve(positive, rhs), rel=1e-8, abs=1e-10)


def test_singular_and_indefinite_matrices_are_told():
    assert not solve_in_place(np.zeros((3, 3)), np.ones(3), 3)
    assert not cholesky(np.diag([1.0, -1.0]), 2)


@settings(max_examples=200, deadline=None)
@given(a=st.floats(1e-6, 30.0), b=st.floats(1e-7, 2.0), kind=st.sampled_from([(2.0, -1.0), (1.0, 0.0)]))
def test_roots_of_the_cubic_against_numpy(a, b, kind):
    u, w = kind
    cubic = [1.0, -(1 + b - u * b), a + w * b * b - u * b - u * b * b, -(a * b + w * b * b + w * b**3)]
    small, large = compressibility_roots(a, b, u, w)
    real = [r.real for r in np.roots(cubic) if abs(r.imag) < 1e-7 and r.real > b]
    assert large == pytest.approx(max(real), rel=1e-5)
    assert b < small <= large
    for root in (small, large):
        terms = [cubic[0] * root**3, cubic[1] * root**2, cubic[2] * root, cubic[3]]
        assert abs(sum(terms)) <= 1e-12 * max(1e-12, max(abs(t) for t in terms)) + 1e-25


@settings(max_examples=200, deadline=None)
@given(st.lists(st.tuples(st.floats(1e-3, 1.0), st.floats(-8, 8)), min_size=2, max_size=10), st.floats(0.0, 1.0))
def test_rachford_rice_closes_for_any_k_values(parts, start):
    z = np.array([p[0] for p in parts])
    z /= z.sum()
    k = np.exp(np.array([p[1] for p in parts]))
    if k.max() <= 1.0 or k.min() >= 1.0 or k.max() / k.min() < 1 + 1e-6:
        return
    beta = rachford_rice(z, k, start)
    assert 1 / (1 - k.max()) < beta < 1 / (1 - k.min())
    terms = z * (k - 1) / (1 + beta * (k - 1))
    assert abs(terms.sum()) < 1e-7 * np.abs(terms).sum() + 1e-12
