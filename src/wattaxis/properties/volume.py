"""Molar volume of liquids for models that have none of their own."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from wattaxis.properties.layout import R
from wattaxis.substances import Component


def rackett_volume(T: float, fractions: np.ndarray, components: Sequence[Component]) -> float:
    """Saturated-liquid molar volume (m3/mol) at T (K), Spencer, Danner 1972 with the compressibility of Yamada, Gunn 1973, 0.29056 - 0.08775 omega.

    Mixed by Li's (1971) critical temperature. Zero above the reduced temperature 1, where there is no saturated liquid.

    >>> from wattaxis.substances import component
    >>> round(1e6 * rackett_volume(298.15, np.array([1.0]), [component("toluene")]), 0)
    108.0
    """
    z = np.array([0.29056 - 0.08775 * c.acentric_factor for c in components])
    tc = np.array([c.critical_temperature for c in components])
    over = np.array([c.critical_temperature / c.critical_pressure for c in components])
    critical = z * R * over  # critical volumes that the equation implies
    share = fractions * critical / max(float(fractions @ critical), 1e-300)
    reduced = T / float(share @ tc)
    if reduced >= 1.0:
        return 0.0
    mixed_z = float(fractions @ z)
    return float(R * (fractions @ over) * mixed_z ** (1.0 + (1.0 - reduced) ** (2.0 / 7.0)))
