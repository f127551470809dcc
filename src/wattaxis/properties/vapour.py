"""The vapour over the liquid of an activity model: which there are, and their packed parameters."""

from __future__ import annotations

from collections.abc import Collection, Sequence

import numpy as np

from wattaxis.properties import layout
from wattaxis.properties.registry import model_kinds
from wattaxis.properties.volume import rackett_volume
from wattaxis.substances import Component

IDEAL_GAS, _VIRIAL = "ideal", "virial"
#: What may lie over an activity model, by its key, with what is said of it.
VAPOURS = {
    IDEAL_GAS: "ideal gas, up to a few bar",
    _VIRIAL: "virial equation with second coefficients of Tsonopoulos, up to about half the critical density",
    "peng-robinson": "Peng-Robinson, any pressure below the critical points",
    "soave-redlich-kwong": "Soave-Redlich-Kwong, any pressure below the critical points",
}


def place_vapour(vapour: str, par: np.ndarray, components: Sequence[Component], gases: Collection[int]) -> None:
    """Enter a real vapour: its constants, and the constant liquid volumes (m3/mol, at 0.7 Tc) of the Poynting terms; dissolved gases have none."""
    par[layout.VAPOUR_FORM] = layout.VIRIAL if vapour == _VIRIAL else layout.REAL_GAS
    if vapour != _VIRIAL:
        model_kinds()[vapour].pack(par, components)
    for i, c in enumerate(components):
        if i not in gases:
            par[layout.REFERENCE, i] = 1.0
            par[layout.LIQUID_VOLUME, i] = rackett_volume(0.7 * c.critical_temperature, np.ones(1), [c])


def vapour_notes(vapour: str, T: float, P: float, fractions: np.ndarray, components: Sequence[Component]) -> list[str]:
    """What is to be said of the vapour at T (K) and P (Pa) for a composition of vapour.

    The virial equation ends near half the pseudo-critical density: P < T/2 sum(y Pc)/sum(y Tc)
    (Prausnitz, Lichtenthaler, de Azevedo 1999, section 5.5).
    """
    if vapour != _VIRIAL:
        return []
    pc = sum(y * c.critical_pressure for y, c in zip(fractions, components, strict=True))
    tc = sum(y * c.critical_temperature for y, c in zip(fractions, components, strict=True))
    limit = 0.5 * T * pc / tc
    if limit >= P:
        return []
    return [f"the virial equation of the vapour is believed up to {limit / 1e5:.3g} bar here; a cubic equation for the vapour goes further"]
