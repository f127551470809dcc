"""How the pressures of a unit are given: which of its fields set one, and which change it from inlet to outlet."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class PressureSide:
    """One side of a unit, by the keys of its fields; blank where it has none of a kind.

    ``outlet`` sets the pressure of what leaves, and ``saturation`` too, as the temperature at which it has the vapour fraction ``saturated_at``;
    ``change`` and ``ratio`` count from the inlet. With ``throughout`` what ``outlet`` says is the pressure at the inlet too.
    """

    outlet: str = ""
    change: str = ""
    ratio: str = ""
    saturation: str = ""
    saturated_at: float = 0.0
    throughout: bool = False
    #: What tells the side from the others, and its ports; all of them where none is named.
    key: str = ""
    ports: tuple[str, ...] = ()

    @property
    def setting(self) -> tuple[str, ...]:
        """Fields that set the pressure."""
        return tuple(filter(None, (self.outlet, self.saturation)))

    @property
    def keys(self) -> tuple[str, ...]:
        """All its fields."""
        return tuple(filter(None, (self.outlet, self.saturation, self.change, self.ratio)))

    @property
    def both(self) -> tuple[tuple[str, str], ...]:
        """Pairs that may be given together: what sets the outlet's pressure and what changes it; the inlet's follows, settled upstream."""
        return tuple((a, b) for a in self.setting for b in (self.change, self.ratio) if b)


#: An outlet pressure or a change of it.
OUTLET_OR_CHANGE = PressureSide("outlet_pressure", "pressure_change")
#: Of a unit that only loses some.
CHANGE = PressureSide(change="pressure_change")
