"""An equation of state that needs no pairs: Soave-Redlich-Kwong with the mixing rule of the groups of UNIFAC."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from wattaxis.properties import layout
from wattaxis.properties.catalogue import ModelInfo
from wattaxis.properties.models.cubic import SoaveRedlichKwong
from wattaxis.properties.models.unifac import GroupModel
from wattaxis.properties.registry import property_model
from wattaxis.substances import Component

#: Reduced temperatures at which the alpha function meets the vapour pressure.
_REDUCED = np.linspace(0.45, 0.97, 27)


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


def mathias_copeman(c: Component, root: float, covolume: float) -> tuple[float, float, float] | None:
    """c1, c2, c3 of sqrt(alpha) so that the equation boils at the component's vapour pressure; None where too little of it is known.

    ``root`` is sqrt(a) at the critical point, ``covolume`` b (m3/mol).
    """
    ps = c.vapour_pressure
    assert ps is not None  # Component fills it in
    t = _REDUCED * c.critical_temperature
    t = t[(t >= ps.low) & (t <= ps.high)]
    if ps.form == 3 or len(t) < 6:
        return None
    pressures = _pressures(c, t)
    s = 1.0 - np.sqrt(t / c.critical_temperature)
    wanted = np.array([_attraction(float(x), float(p), root, covolume) for x, p in zip(t, pressures, strict=True)])
    values, *_ = np.linalg.lstsq(np.column_stack([s, s**2, s**3]), np.sqrt(wanted) / root - 1.0, rcond=None)
    return float(values[0]), float(values[1]), float(values[2])


def _pressures(c: Component, t: np.ndarray) -> np.ndarray:
    from wattaxis.properties.model import PropertyModel

    ideal = PropertyModel("ideal", [c])
    return np.array([ideal.flash([1.0], T=float(x), VF=0.0).pressure for x in t])


def _attraction(t: float, p: float, root: float, b: float) -> float:
    """a (Pa m6/mol2) of a pure fluid that boils at ``t`` and ``p``: Newton on the difference of ln phi of both roots."""
    rt = layout.R * t
    rb = b * p / rt
    a = root * root * 1.3
    for _ in range(60):
        ra = a * p / (rt * rt)
        z = np.roots([1.0, -1.0, ra - rb - rb * rb, -ra * rb])
        real = np.sort(z[np.abs(z.imag) < 1e-9].real)
        if len(real) < 3:
            # With one root only the attraction is too weak for a liquid, or too strong for a vapour.
            a *= 1.03 if real[-1] > 3.0 * rb else 0.97
            continue
        ln_phi = [v - 1.0 - np.log(v - rb) - ra / rb * np.log(1.0 + rb / v) for v in (real[0], real[-1])]
        slope = (-np.log(1.0 + rb / real[0]) + np.log(1.0 + rb / real[-1])) / (rb * rt * rt / p)
        step = (ln_phi[0] - ln_phi[1]) / slope
        a -= float(np.clip(step, -0.05 * a, 0.05 * a))
        if abs(step) < 1e-12 * a:
            break
    return float(a)
