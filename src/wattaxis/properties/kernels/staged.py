"""Linear algebra of staged columns: blocks along the diagonal, each bound to the stage above and to the one below.

The unknowns of a stage are the flows of its liquid (components), those of its vapour, and its temperature; its equations the component balances,
the equilibria, and one for the temperature. What comes down from above enters the balances and the last equation alone; what comes up from below may
enter all of them. So the elimination from the top down keeps of each stage what it says of the vapour and the temperature of the one below it.
"""

from __future__ import annotations

import numpy as np

from wattaxis.properties.kernels import inner, kernel


@inner
def _solve_rows(a, others, rhs):
    """Gauss elimination with partial pivoting of ``a``; ``others`` and ``rhs`` become the solutions. False where it is singular."""
    n = a.shape[0]
    for j in range(n):
        best = j
        for i in range(j + 1, n):
            if abs(a[i, j]) > abs(a[best, j]):
                best = i
        if not abs(a[best, j]) > 1e-250:
            return False
        if best != j:
            for k in range(j, n):
                a[j, k], a[best, k] = a[best, k], a[j, k]
            for k in range(others.shape[1]):
                others[j, k], others[best, k] = others[best, k], others[j, k]
            for k in range(rhs.shape[1]):
                rhs[j, k], rhs[best, k] = rhs[best, k], rhs[j, k]
        for i in range(j + 1, n):
            if a[i, j] != 0.0:
                factor = a[i, j] / a[j, j]
                for k in range(j + 1, n):
                    a[i, k] -= factor * a[j, k]
                for k in range(others.shape[1]):
                    others[i, k] -= factor * others[j, k]
                for k in range(rhs.shape[1]):
                    rhs[i, k] -= factor * rhs[j, k]
    for i in range(n - 1, -1, -1):
        for m in range(i + 1, n):
            factor = a[i, m]
            if factor != 0.0:
                for k in range(others.shape[1]):
                    others[i, k] -= factor * others[m, k]
                for k in range(rhs.shape[1]):
                    rhs[i, k] -= factor * rhs[m, k]
        inverse = 1.0 / a[i, i]
        for k in range(others.shape[1]):
            others[i, k] *= inverse
        for k in range(rhs.shape[1]):
            rhs[i, k] *= inverse
    return True


@kernel("int64(float64[:, :, ::1], float64[:, :, ::1], float64[::1], float64[:, ::1], float64[:, :, ::1])")
def eliminate(diagonal, upper, passed, brought, rhs):
    """Solve all stages in place: ``rhs`` (stages, n, columns) becomes the solution. Returns the stage that is singular, -1 where none is.

    ``diagonal`` (stages, n, n) with n = 2 C + 1; ``upper`` (stages, n, C + 1) what the vapour and the temperature of the stage below do; ``passed``
    (stages,) what the liquid of the stage above does in each balance, and ``brought`` (stages, C + 1) what it and its temperature do in the last
    equation.
    """
    stages, n, c = diagonal.shape[0], diagonal.shape[1], (diagonal.shape[1] - 1) // 2
    for j in range(stages):
        if j > 0:
            above, known = upper[j - 1], rhs[j - 1]
            for i in range(c):
                for k in range(c + 1):
                    diagonal[j, i, c + k] -= passed[j] * above[i, k]
                for k in range(rhs.shape[2]):
                    rhs[j, i, k] -= passed[j] * known[i, k]
            for m in range(c + 1):
                weight = brought[j, m]
                row = m if m < c else n - 1
                for k in range(c + 1):
                    diagonal[j, n - 1, c + k] -= weight * above[row, k]
                for k in range(rhs.shape[2]):
                    rhs[j, n - 1, k] -= weight * known[row, k]
        if not _solve_rows(diagonal[j], upper[j], rhs[j]):
            return j
    for j in range(stages - 2, -1, -1):
        for i in range(n):
            for m in range(c + 1):
                weight = upper[j, i, m]
                if weight != 0.0:
                    for k in range(rhs.shape[2]):
                        rhs[j, i, k] -= weight * rhs[j + 1, c + m, k]
    return -1


@kernel("void(float64[:, ::1], float64[::1], float64[::1], float64[::1], float64[::1], float64[:, ::1], float64[:, ::1])")
def component_balances(K, L, V, kept, risen, feed, liquid):
    """Liquid flows (stages, components) of given equilibria ``K``: component by component, for known totals ``L`` and ``V`` (stages,).

    ``kept`` and ``risen`` (stages,): the shares of the liquid and of the vapour of a stage that go on to the next one.
    """
    stages, n = feed.shape
    gain = np.empty(stages)
    for i in range(n):
        # From the bottom up, each liquid by that of the stage above it: l_j = gain_j l_{j-1} + liquid_j.
        for j in range(stages - 1, -1, -1):
            held = 1.0 + K[j, i] * V[j] / L[j]
            brought = feed[j, i]
            if j + 1 < stages:
                back = risen[j + 1] * K[j + 1, i] * V[j + 1] / L[j + 1]
                held -= back * gain[j + 1]
                brought += back * liquid[j + 1, i]
            gain[j] = kept[j - 1] / held if j > 0 else 0.0
            liquid[j, i] = brought / held
        for j in range(1, stages):
            liquid[j, i] += gain[j] * liquid[j - 1, i]
