"""Small dense linear algebra for kernels."""

from __future__ import annotations

import math

from wattaxis.properties.kernels import inner


@inner
def cholesky(a, n):
    """Factor the symmetric ``a`` in place (lower triangle); False when it is not positive definite."""
    for j in range(n):
        pivot = a[j, j]
        for k in range(j):
            pivot -= a[j, k] * a[j, k]
        if not pivot > 1e-14:
            return False
        pivot = math.sqrt(pivot)
        a[j, j] = pivot
        for i in range(j + 1, n):
            total = a[i, j]
            for k in range(j):
                total -= a[i, k] * a[j, k]
            a[i, j] = total / pivot
    return True


@inner
def cholesky_solve(a, rhs, n):
    """Solve with the factor from :func:`cholesky`; ``rhs`` becomes the solution."""
    for i in range(n):
        total = rhs[i]
        for k in range(i):
            total -= a[i, k] * rhs[k]
        rhs[i] = total / a[i, i]
    for i in range(n - 1, -1, -1):
        total = rhs[i]
        for k in range(i + 1, n):
            total -= a[k, i] * rhs[k]
        rhs[i] = total / a[i, i]


@inner
def solve_in_place(a, rhs, n):
    """Gauss elimination with partial pivoting; ``rhs`` becomes the solution; False when singular."""
    for j in range(n):
        best = j
        for i in range(j + 1, n):
            if abs(a[i, j]) > abs(a[best, j]):
                best = i
        if not abs(a[best, j]) > 1e-300:
            return False
        if best != j:
            for k in range(n):
                a[j, k], a[best, k] = a[best, k], a[j, k]
            rhs[j], rhs[best] = rhs[best], rhs[j]
        for i in range(j + 1, n):
            factor = a[i, j] / a[j, j]
            if factor != 0.0:
                for k in range(j + 1, n):
                    a[i, k] -= factor * a[j, k]
                rhs[i] -= factor * rhs[j]
    for i in range(n - 1, -1, -1):
        total = rhs[i]
        for k in range(i + 1, n):
            total -= a[i, k] * rhs[k]
        rhs[i] = total / a[i, i]
    return True
