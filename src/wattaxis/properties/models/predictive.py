"""An equation of state that needs no pairs: Soave-Redlich-Kwong with the mixing rule of the groups of UNIFAC."""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache

import numpy as np

from wattaxis.properties import layout
from wattaxis.properties.catalogue import ModelInfo
from wattaxis.properties.models.cubic import SoaveRedlichKwong, boiling_attraction
from wattaxis.properties.models.unifac import GroupModel
from wattaxis.properties.registry import property_model
from wattaxis.substances import Component

#: Reduced temperatures at which the alpha function meets the vapour pressure.
_REDUCED = np.linspace(0.45, 0.97, 27)
#: Pa, below which a vapour pressure tells nothing of the equation's alpha.
_LEAST = 1.0


@property_model
class PredictiveSoave(GroupModel):
    """``a = b (sum x_i a_i/b_i + (g_E + R T sum x_i ln(b/b_i))/A_1)`` with g_E of UNIFAC and its parameters for gases."""

    code = layout.PREDICTIVE
    form, power = "predictive", 1.0
    info = ModelInfo(
        "predictive-soave-redlich-kwong",
        "Predictive Soave-Redlich-Kwong",
        "Holderbaum, Gmehling 1991; group parameters as published up to 2005; alpha of Mathias, Copeman 1983",
        "Gases in polar liquids and polar mixtures under pressure, where no pair has been measured.",
        "An estimate, not a measurement, and marked so. Liquid densities are some per cent off; poor for very unlike sizes.",
        order=12,
    )

    def pack(self, par: np.ndarray, components: Sequence[Component]) -> None:
        """Groups, covolumes, and the alpha function fitted to the vapour pressures of the components. Raises ValueError for one without groups."""
        super().pack(par, components)
        SoaveRedlichKwong().pack(par, components)
        for i, c in enumerate(components):
            fitted = mathias_copeman(c, float(par[layout.ROOT_A, i]), float(par[layout.COVOLUME, i]))
            if fitted is not None:
                par[layout.SLOPE, i], par[layout.ALPHA_2, i], par[layout.ALPHA_3, i] = fitted

    def warnings(self, components: Sequence[Component], T: float, fractions: np.ndarray) -> list[str]:
        """Group pairs that nobody has measured; gases are at home here."""
        return self.unmeasured(components, fractions)


@lru_cache(maxsize=1024)
def mathias_copeman(c: Component, root: float, covolume: float) -> tuple[float, float, float] | None:
    """c1, c2, c3 of sqrt(alpha) so that the equation boils at the component's vapour pressure; None where too little of it is known.

    ``root`` is sqrt(a) at the critical point, ``covolume`` b (m3/mol). alpha falls with temperature, is convex, and its third derivative is negative
    (Le Guennec, Lasala, Privat, Jaubert 2016), or heat capacities of the liquid would go astray: where the plain fit breaks that, the best one that
    keeps it is taken.
    """
    ps = c.vapour_pressure
    assert ps is not None  # Component fills it in
    t = _REDUCED * c.critical_temperature
    t = t[(t >= ps.low) & (t <= ps.high)]
    pressures = np.exp([ps.log_pressure(float(x), c.critical_temperature, c.critical_pressure, c.acentric_factor) for x in t])
    t, pressures = t[pressures > _LEAST], pressures[pressures > _LEAST]
    if ps.form == 3 or len(t) < 6:
        return None
    s = 1.0 - np.sqrt(t / c.critical_temperature)
    wanted = np.array([boiling_attraction(float(x), float(p), root, covolume) for x, p in zip(t, pressures, strict=True)])
    basis, target = np.column_stack([s, s**2, s**3]), np.sqrt(wanted) / root - 1.0
    values, *_ = np.linalg.lstsq(basis, target, rcond=None)
    if _shape(values).min() < 0.0:
        boils = c.boiling_point or 0.6 * c.critical_temperature
        values = _within_shape(basis, target, int(np.argmin(np.abs(t - boils))))
    return float(values[0]), float(values[1]), float(values[2])


def _within_shape(basis: np.ndarray, target: np.ndarray, met: int) -> np.ndarray:
    """The fit of least squares among those whose alpha has a sound shape and that meet one point, next to the boiling point."""
    from scipy.optimize import minimize

    start = np.array([float(target[met] / basis[met, 0]), 0.0, 0.0])
    found = minimize(
        lambda v: 1e4 * float(((basis @ v - target) ** 2).sum()),
        start,
        jac=lambda v: 2e4 * basis.T @ (basis @ v - target),
        constraints=[
            {"type": "ineq", "fun": lambda v: _shape(v) - 1e-6},
            {"type": "eq", "fun": lambda v: 10.0 * float(basis[met] @ v - target[met])},
        ],
        method="SLSQP",
        options={"maxiter": 200, "ftol": 1e-14},
    )
    return np.asarray(found.x) if found.success and _shape(found.x).min() >= 0.0 else start


def _shape(values: np.ndarray) -> np.ndarray:
    """Minus the first, the second and minus the third derivative of alpha over reduced temperatures; a sound alpha has none below zero."""
    c1, c2, c3 = values
    x = np.linspace(0.3, 0.999, 30)
    s, s1, s2, s3 = 1.0 - np.sqrt(x), -0.5 * x**-0.5, 0.25 * x**-1.5, -0.375 * x**-2.5
    inner, bend = c1 + s * (2.0 * c2 + 3.0 * c3 * s), 2.0 * c2 + 6.0 * c3 * s
    f = 1.0 + s * (c1 + s * (c2 + s * c3))
    f1, f2 = inner * s1, bend * s1**2 + inner * s2
    f3 = 6.0 * c3 * s1**3 + 3.0 * bend * s1 * s2 + inner * s3
    return np.concatenate([-f * f1, (f1**2 + f * f2) * x, -(3.0 * f1 * f2 + f * f3) * x**2])
