"""Cubic equations of state: Peng-Robinson and Soave-Redlich-Kwong."""

from __future__ import annotations

from collections.abc import Sequence
from typing import ClassVar

import numpy as np

from wattaxis.properties import layout
from wattaxis.properties.catalogue import ModelInfo, PairParameter
from wattaxis.properties.registry import ModelKind, PairValues, property_model
from wattaxis.substances import FITTED_OMEGA, Component

KIJ = (
    PairParameter("kij", "", -2.0, 0.999, 0.0, "correction of the geometric mean of the attractions: kij + kb/T + ke T"),
    PairParameter("kb", "K", -1e3, 1e3),
    PairParameter("ke", "1/K", -0.01, 0.01),
)
_MIXING = ("a = Σi Σj xi xj √(ai aj) (1 − k_ij), b = Σi xi bi", "k_ij = kij + kb/T + ke T, T in K")
_THIRD = 2.0 ** (1.0 / 3.0)
ATMOSPHERE = 101325.0  # Pa
#: Change of sqrt(alpha) at the boiling point that moves it by less than a kelvin.
_NEAR = 0.002


class Cubic(ModelKind):
    """``P = RT/(v - b) - a(T)/((v + d1 b)(v + d2 b))`` with ``a = a_c (1 + m (1 - sqrt(T/Tc)))**2``.

    Subclasses give ``roots`` (d1, d2), the exact critical-point numbers ``omega_a`` and ``omega_b``, and the coefficients of m in powers of the
    acentric factor.
    """

    code = layout.CUBIC
    roots: ClassVar[tuple[float, float]]
    omega_a: ClassVar[float]
    omega_b: ClassVar[float]
    slope: ClassVar[tuple[float, ...]]

    def pack(self, par: np.ndarray, components: Sequence[Component]) -> None:
        """sqrt(a_c), m and b from the critical constants."""
        tc, pc, omega = par[layout.TC], par[layout.PC], par[layout.OMEGA]
        par[layout.ROOT_A] = np.sqrt(self.omega_a / pc) * layout.R * tc
        par[layout.SLOPE] = sum(c * omega**k for k, c in enumerate(self.slope))
        par[layout.COVOLUME] = self.omega_b * layout.R * tc / pc
        par[layout.D1], par[layout.D2] = self.roots
        for i, c in enumerate(components):
            slope = self.boiling_slope(c, float(par[layout.ROOT_A, i]), float(par[layout.COVOLUME, i]))
            if slope is not None:
                par[layout.SLOPE, i] = slope

    def boiling_slope(self, c: Component, root: float, covolume: float) -> float | None:
        """The m with which a component boils at its boiling point, where that of its acentric factor is not to be used; None elsewhere."""
        return None

    def pair_block(self, components: Sequence[Component], pairs: PairValues) -> np.ndarray:
        """Layers a, b, e of k_ij = a + b/T + e T."""
        block = np.zeros((3, len(components), len(components)))
        for (i, j), values in pairs.items():
            for layer, name in enumerate(("kij", "kb", "ke")):
                block[layer, i, j] = block[layer, j, i] = values.get(name, 0.0)
        return block


@property_model
class PengRobinson(Cubic):
    """Peng, Robinson 1976."""

    roots = (1.0 + 2.0**0.5, 1.0 - 2.0**0.5)
    omega_a, omega_b = 0.457235528921382, 0.0777960739038885
    slope = (0.37464, 1.54226, -0.26992)
    info = ModelInfo(
        "peng-robinson",
        "Peng-Robinson",
        "Peng, Robinson 1976",
        "Hydrocarbons, gases, light non-polar mixtures at any pressure; hydrogen and other gases above their critical temperature.",
        "Liquid densities are some per cent off; alcohols, water and ketones need fitted pairs.",
        KIJ,
        ("P = RT/(v − b) − a(T)/(v² + 2 b v − b²)", *_MIXING),
        order=10,
    )


@property_model
class SoaveRedlichKwong(Cubic):
    """Soave 1972."""

    roots = (1.0, 0.0)
    omega_a, omega_b = 1.0 / (9.0 * (_THIRD - 1.0)), (_THIRD - 1.0) / 3.0
    slope = (0.480, 1.574, -0.176)
    info = ModelInfo(
        "soave-redlich-kwong",
        "Soave-Redlich-Kwong",
        "Soave 1972",
        "As Peng-Robinson; somewhat better for gases, worse for liquid densities.",
        "No pair parameters of its own in the bank: those of Peng-Robinson are taken and marked as estimates, others assumed zero.",
        KIJ,
        ("P = RT/(v − b) − a(T)/(v (v + b))", *_MIXING),
        order=11,
    )

    def boiling_slope(self, c: Component, root: float, covolume: float) -> float | None:
        """An acentric factor that the bank fitted to the boiling point is one for Peng and Robinson's equation; this one may need another slope."""
        tb, tc = c.boiling_point, c.critical_temperature
        if tb is None or c.sources.get("omega") != FITTED_OMEGA or not 0.3 * tc < tb < 0.98 * tc:
            return None
        reduced = 1.0 - (tb / tc) ** 0.5
        wanted = (boiling_attraction(tb, ATMOSPHERE, root, covolume) ** 0.5 / root - 1.0) / reduced
        usual = sum(k * c.acentric_factor**power for power, k in enumerate(self.slope))
        # A tenth of the slope moves the boiling point by about a tenth of its distance from the critical point.
        return wanted if abs(wanted - usual) * reduced > _NEAR else None


def boiling_attraction(t: float, p: float, root: float, b: float) -> float:
    """a (Pa m6/mol2) of a pure fluid of Soave's equation that boils at ``t`` and ``p``: Newton on the difference of ln phi of both roots.

    ``root`` is sqrt(a) at the critical point (a start), ``b`` the covolume (m3/mol).
    """
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
