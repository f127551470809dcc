"""What the data of a fit say of each parameter: standard errors, intervals and correlation from the linearised problem."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from scipy.stats import t as student

from wattaxis.properties.fitting.data import Array

#: Smallest singular value of the Jacobian against the largest, below which something is not determined.
_UNDETERMINED = 1e-8


@dataclass(frozen=True)
class Confidence:
    """Standard errors, 95 % half-widths (parameters,) and correlation (parameters, parameters); whether the data determine all of them.

    >>> found = confidence(np.array([[1.0, 0.0], [0.0, 2.0], [1.0, 1.0]]), 0.5)
    >>> found.determined, found.standard_errors.round(3).tolist(), float(found.correlation[0, 1].round(3))
    (True, [0.745, 0.471], -0.316)
    """

    standard_errors: Array
    half_widths: Array
    correlation: Array
    determined: bool


def confidence(jacobian: Any, cost: float) -> Confidence:
    """From the Jacobian (residuals, parameters) and half the sum of squares where a fit ended, with the variance of the fit (Draper, Smith 1998)."""
    slopes = np.asarray(jacobian, dtype=float)
    freedom = max(slopes.shape[0] - slopes.shape[1], 1)
    singular = np.linalg.svd(slopes, compute_uv=False)
    covariance = np.linalg.pinv(slopes.T @ slopes) * 2.0 * cost / freedom
    spread = np.sqrt(np.maximum(np.diag(covariance), 0.0))
    correlation = covariance / np.maximum(np.outer(spread, spread), 1e-300)
    return Confidence(spread, spread * float(student.ppf(0.975, freedom)), correlation, bool(singular[-1] >= _UNDETERMINED * singular[0]))
