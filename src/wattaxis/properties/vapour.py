"""The vapour over the liquid of an activity model: which there are, and their packed parameters."""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence
from dataclasses import replace

import numpy as np

from wattaxis.properties import layout
from wattaxis.properties.liquid import saturated_volume
from wattaxis.properties.registry import model_kinds
from wattaxis.substances import Component
from wattaxis.substances.association import dimerisation, hexamerisation

IDEAL_GAS, _VIRIAL, ASSOCIATING = "ideal", "virial", "associating"
#: Pa up to which an ideal mixture of monomers and clusters is believed.
_CLUSTERS_UP_TO = 5e5
#: What may lie over an activity model, by its key, with what is said of it.
VAPOURS = {
    IDEAL_GAS: "ideal gas, up to a few bar",
    _VIRIAL: "virial equation with second coefficients of Tsonopoulos or your own, up to about half the critical density",
    ASSOCIATING: "carboxylic acids as dimers, hydrogen fluoride as hexamers, in an ideal mixture up to a few bar",
    "peng-robinson": "Peng-Robinson, any pressure below the critical points",
    "soave-redlich-kwong": "Soave-Redlich-Kwong, any pressure below the critical points",
}


def place_vapour(vapour: str, par: np.ndarray, components: Sequence[Component], gases: Collection[int]) -> None:
    """Enter a real vapour: its constants, and the constant liquid volumes (m3/mol, at 0.7 Tc) of the Poynting terms; dissolved gases have none."""
    par[layout.VAPOUR_FORM] = {_VIRIAL: layout.VIRIAL, ASSOCIATING: layout.CLUSTERS}.get(vapour, layout.REAL_GAS)
    if vapour in model_kinds():
        model_kinds()[vapour].pack(par, components)
    for i, c in enumerate(components):
        if i not in gases:
            par[layout.LIQUID_VOLUME, i] = saturated_volume(par, i, 0.7 * c.critical_temperature)
        if c.polar_virial is not None:
            par[layout.POLAR_6, i], par[layout.POLAR_8, i] = c.polar_virial
        if vapour == ASSOCIATING and (dimer := dimerisation(c)) is not None:
            par[layout.DIMER_A, i], par[layout.DIMER_B, i] = dimer.a, dimer.b
        if vapour == ASSOCIATING and (hexamer := hexamerisation(c)) is not None:
            par[layout.HEXAMER_A, i], par[layout.HEXAMER_B, i] = hexamer.a, hexamer.b


def vapour_notes(vapour: str, T: float, P: float, fractions: np.ndarray, components: Sequence[Component]) -> list[str]:
    """What is to be said of the vapour at T (K) and P (Pa) for a composition of vapour.

    The virial equation ends near half the pseudo-critical density: P < T/2 sum(y Pc)/sum(y Tc)
    (Prausnitz, Lichtenthaler, de Azevedo 1999, section 5.5).
    """
    if vapour == ASSOCIATING and P > _CLUSTERS_UP_TO:
        return [f"the vapour that associates is valid up to {_CLUSTERS_UP_TO / 1e5:.3g} bar"]
    if vapour != _VIRIAL:
        return []
    pc = sum(y * c.critical_pressure for y, c in zip(fractions, components, strict=True))
    tc = sum(y * c.critical_temperature for y, c in zip(fractions, components, strict=True))
    limit = 0.5 * T * pc / tc
    if limit >= P:
        return []
    return [f"the virial equation of the vapour is valid up to {limit / 1e5:.3g} bar here; a cubic equation for the vapour goes further"]


def with_virial(c: Component, temperatures: Sequence[float], coefficients: Sequence[float]) -> Component:
    """A component whose second virial coefficients (m3/mol) at temperatures (K) are met by terms for polar substances.

    Tsonopoulos (1974), a/Tr**6 - b/Tr**8 added to B Pc/(R Tc), by least squares; of one value a alone. Between two such components the terms count as
    their mean, beside others not at all. Raises ValueError for values that do not pair, or none.

    >>> from wattaxis import component
    >>> methanol = with_virial(component("methanol"), [350.0, 400.0, 450.0], [-1.0e-3, -5.4e-4, -3.4e-4])
    >>> [round(v, 4) for v in methanol.polar_virial]
    [-0.0254, 0.0267]
    """
    from wattaxis.properties.kernels.vapour import second_virial  # what only names a vapour does without the kernels

    t, wanted = np.asarray(temperatures, float), np.asarray(coefficients, float)
    if t.shape != wanted.shape or t.ndim != 1 or not t.size or not (t > 0.0).all() or not np.isfinite(wanted).all():
        raise ValueError("Give as many second virial coefficients as temperatures above 0 K, one at least.")
    constants = (c.critical_temperature, c.critical_pressure, c.acentric_factor)
    own: Callable[..., tuple[float, float, float]] = second_virial
    left = [b - own(x, *constants, 0.0, 0.0)[0] for x, b in zip(t, wanted, strict=True)]
    reduced = t / c.critical_temperature
    columns = np.column_stack([reduced**-6, -(reduced**-8)])[:, : 1 if t.size == 1 else 2]
    found = np.linalg.lstsq(columns, np.array(left) * c.critical_pressure / (layout.R * c.critical_temperature), rcond=None)[0]
    a, b = float(found[0]), float(found[1]) if t.size > 1 else 0.0
    return replace(c, polar_virial=(a, b), sources={**c.sources, "virial": "own second virial coefficients"})
