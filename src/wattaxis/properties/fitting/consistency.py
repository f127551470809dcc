"""Whether measured vapours and liquids can belong together, by the Gibbs-Duhem equation."""

from __future__ import annotations

import numpy as np

from wattaxis.properties.fitting.data import DataSet
from wattaxis.properties.fitting.predict import predictions
from wattaxis.properties.model import PropertyModel


def consistency(data: DataSet, model: PropertyModel, points: np.ndarray) -> list[str]:
    """Sentences on two tests of a binary T-P-x-y set; none for other data.

    The area test (Redlich, Kister 1948; for constant pressure with Herington's 1951 allowance) and the point test (Van Ness, Byer, Gibbs 1973): the
    vapour that a model fitted to the pressures predicts may differ from the measured one by 0.01 on average.
    """
    if data.kind != "vapour-liquid" or len(data.components) != 2 or "y1" not in data.columns:
        return []
    x, y = data.columns["x1"], data.columns["y1"]
    inner = np.array([k for k in points if 0.0 < x[k] < 1.0 and 0.0 < y[k] < 1.0])
    told = []
    if len(inner) >= 5:
        area = _area_test(data, model, inner)
        told += [area] if area else []
    if len(inner):
        gap = float(np.mean(np.abs(predictions(model, data, inner)["y1"] - y[inner])))
        verdict = "passed" if gap <= 0.01 else "not passed"
        told.append(f"Point test {verdict}: measured and calculated vapour differ by {gap:.4f} on average (0.01 is allowed).")
    return told


def _area_test(data: DataSet, model: PropertyModel, inner: np.ndarray) -> str | None:
    order = inner[np.argsort(data.columns["x1"][inner])]
    t, p, x, y = (data.columns[key][order] for key in ("T", "P", "x1", "y1"))
    if np.ptp(t) > 1.0 and np.ptp(p) > 0.02 * p.mean():
        return "Area test not made: neither temperature nor pressure is constant."
    if x[0] > 0.2 or x[-1] < 0.8:
        return "Area test not made: the points do not reach close enough to both ends."
    pure = np.eye(2)
    ends = np.array(
        [[model.phase("liquid", float(a), float(b), pure[i]).fugacity_coefficients[i] for i in range(2)] for a, b in zip(t, p, strict=True)]
    )
    ratio = np.log((y / (x * ends[:, 0])) / ((1.0 - y) / ((1.0 - x) * ends[:, 1])))
    # To the very ends by a straight line through the last two points.
    left = ratio[0] - (ratio[1] - ratio[0]) / (x[1] - x[0]) * x[0]
    right = ratio[-1] + (ratio[-1] - ratio[-2]) / (x[-1] - x[-2]) * (1.0 - x[-1])
    grid, values = np.concatenate([[0.0], x, [1.0]]), np.concatenate([[left], ratio, [right]])
    net = float(np.trapezoid(values, grid))
    total = float(np.trapezoid(np.abs(values), grid))
    apart = 100.0 * abs(net) / total if total > 0.0 else 0.0
    allowed = 10.0
    if np.ptp(t) > 1.0:
        allowed += 150.0 * float(np.ptp(t)) / float(t.min())
    verdict = "passed" if apart <= allowed else "not passed"
    return f"Area test {verdict}: the areas differ by {apart:.1f} % of their sum ({allowed:.0f} % are allowed)."
