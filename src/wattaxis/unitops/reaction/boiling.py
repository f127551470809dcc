"""Water that boils outside of tubes at the pressure of the steam that it makes."""

from __future__ import annotations

from functools import lru_cache

from wattaxis.properties import FlashError, State
from wattaxis.quantities import Quantity
from wattaxis.unitops.base import Choice, Field, Finding, Givens, ResultValue, UnitFault

BOILING = "boiling water"
#: Behind a deaerator at 1.2 bar.
FEED_WATER = Quantity(value=105.0, unit="degC")

FIELDS = (
    Field("steam_pressure", "Steam pressure", "pressure", "at which the water outside boils", beside="heat", among=(BOILING,)),
    Field("feed_water_temperature", "Feed water", "temperature", "that makes up for the steam", beside="heat", among=(BOILING,)),
)
CHOICES = (
    Choice("Steam pressure", ("steam_pressure",)),
    Choice("Feed water", ("feed_water_temperature",), 1, ("feed_water_temperature", FEED_WATER, "feed water comes from a deaerator")),
)


class Boiler:
    """Saturated steam of one pressure from feed water, by the steam tables (IAPWS-IF97). Raises UnitFault where water does not boil so.

    ``temperature``: K at which it boils.
    """

    def __init__(self, givens: Givens) -> None:
        pressure, cold = givens.si("steam_pressure"), givens.si("feed_water_temperature")
        assert pressure is not None  # the choices ask for both
        assert cold is not None
        try:
            self.temperature, steam, feed, self._mass = _water(pressure, cold)
        except FlashError as error:
            raise UnitFault(
                f"Water does not boil at {pressure / 1e5:.4g} bar: {error}", "Give a pressure below 220 bar.", "steam_pressure"
            ) from error
        if cold > self.temperature:
            text = f"The feed water, {cold:.5g} K, is hotter than the water that boils, {self.temperature:.5g} K."
            raise UnitFault(text, "Give colder feed water, or a higher steam pressure.", "feed_water_temperature")
        self._heat = (steam - feed) / self._mass

    def values(self, given: float) -> list[ResultValue]:
        """What is raised with a heat (W) that the tubes give off."""
        return [
            ResultValue("steam", "Steam raised", "mass_flow", max(given, 0.0) / self._heat),
            ResultValue("boiling_temperature", "Boiling temperature", "temperature", self.temperature),
        ]

    @staticmethod
    def findings(given: float) -> list[Finding]:
        """What is to be said where the heat goes the other way."""
        if given >= 0.0:
            return []
        text = "The tubes take up heat from the boiling water, so no steam is raised: it would have to condense."
        return [Finding("caution", "", text, "Give a lower steam pressure, or a hotter feed.", "steam_pressure")]


@lru_cache(maxsize=64)
def _water(pressure: float, cold: float) -> tuple[float, float, float, float]:
    """K at which water boils, J/mol of the steam and of feed water, kg/mol. Raises FlashError."""
    from wattaxis.properties import PropertyModel  # late: the kernels load with the first calculation

    model = PropertyModel("steam", ["water"])
    steam: State = model.flash([1.0], P=pressure, VF=1.0)
    feed = model.phase("liquid", cold, pressure, [1.0])
    return steam.temperature, steam.enthalpy, feed.enthalpy, float(model.molar_masses[0])
