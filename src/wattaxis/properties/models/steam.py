"""Steam tables: water alone, by its reference equation."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from wattaxis.properties import layout
from wattaxis.properties.catalogue import ModelInfo
from wattaxis.properties.registry import ModelKind, property_model
from wattaxis.substances import Component

WATER = "7732-18-5"
_MOLAR_MASS = 0.018015268  # kg/mol, that of the formulation
_CRITICAL = 647.096, 22.064e6, _MOLAR_MASS / 322.0  # K, Pa, m3/mol


@property_model
class Steam(ModelKind):
    """The IAPWS formulation 1995 for the thermodynamic properties of ordinary water."""

    code = layout.STEAM
    info = ModelInfo(
        "steam",
        "Steam tables (IAPWS)",
        "Wagner, Pruss 2002; IAPWS R6-95",
        "Water alone: boilers, steam networks, cooling water, power cycles.",
        "No other component. 273.16 to 1273 K and up to 1000 MPa; no ice.",
        order=80,
    )

    def pack(self, par: np.ndarray, components: Sequence[Component]) -> None:
        """The critical point of the formulation. Raises ValueError for anything but water alone."""
        if [c.cas for c in components] != [WATER]:
            raise ValueError(
                f"{self.info.title} are for water alone; choose another model for {', '.join(c.name for c in components if c.cas != WATER)}."
            )
        par[layout.MW, 0] = _MOLAR_MASS
        par[layout.TC, 0], par[layout.PC, 0], volume = _CRITICAL
        par[layout.COVOLUME, 0] = volume / 3.92  # so that liquid and vapour part at the critical volume, as for the cubic equations

    def warnings(self, components: Sequence[Component], T: float, fractions: np.ndarray) -> list[str]:
        """Ice and the end of the range."""
        if T < 273.16:
            return ["water below 273.16 K is taken as a liquid that does not freeze"]
        return ["the steam tables end at 1273 K"] if T > 1273.15 else []
