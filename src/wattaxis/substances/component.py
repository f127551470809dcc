"""What is known of one substance. SI units throughout; every value of the bank names its source."""

from __future__ import annotations

from dataclasses import dataclass, field


@dataclass(frozen=True)
class HeatCapacity:
    """Ideal-gas heat capacity, J/(mol K): ``sum(coefficients[k] * T**k)`` between ``low`` and ``high`` (K).

    Outside the range the value at its end is kept; states there carry a finding.

    >>> HeatCapacity((30.0, 0.15, 0.0, 0.0, 0.0), low=200.0, high=1000.0).high
    1000.0
    """

    coefficients: tuple[float, float, float, float, float]
    low: float = 50.0
    high: float = 1500.0
    source: str = "given"


@dataclass(frozen=True)
class VapourPressure:
    """ln(Psat/Pa) by one of five forms, used by the ideal model only.

    1: ``c0 + c1/T + c2 ln T + c3 T**c4``; 2: Wagner 2.5-5 with ``critical`` (K, Pa); 3: Lee, Kesler (1975) from the critical constants
    and the acentric factor; 4: ``c0 - c1/(T + c2)``; 5: Wagner 3-6 with ``critical``.

    >>> VapourPressure(4, (23.2, 3835.2, -45.3, 0.0, 0.0), 280.0, 400.0, "typed in").form
    4
    """

    form: int
    coefficients: tuple[float, float, float, float, float]
    low: float
    high: float
    source: str = "given"
    critical: tuple[float, float] = (0.0, 0.0)


@dataclass(frozen=True)
class OwnCurve:
    """Points of a property over temperature of one's own, in the place of the bank's curve: its name, K rising, SI values, where they come from.

    >>> OwnCurve("surface tension", (300.0, 350.0), (0.024, 0.018), "laboratory").temperatures
    (300.0, 350.0)
    """

    name: str
    temperatures: tuple[float, ...]
    values: tuple[float, ...]
    source: str


@dataclass(frozen=True)
class Component:
    """One substance with the constants that the property models need.

    molar_mass kg/mol; critical_temperature K; critical_pressure Pa; acentric_factor -; formation_enthalpy J/mol of the ideal gas at
    298.15 K from the elements; entropy J/(mol K) of the ideal gas at 298.15 K and 1 bar. ``vapour_pressure`` left out is estimated from
    the critical constants (Lee, Kesler 1975).

    >>> Component("X", 0.044, 370.0, 42.5e5, 0.152, HeatCapacity((30.0, 0.15, 0.0, 0.0, 0.0))).name
    'X'
    """

    id: str
    molar_mass: float
    critical_temperature: float
    critical_pressure: float
    acentric_factor: float
    heat_capacity: HeatCapacity
    formation_enthalpy: float = 0.0
    entropy: float = 0.0
    vapour_pressure: VapourPressure | None = None
    name: str = ""
    cas: str = ""
    formula: str = ""
    boiling_point: float | None = None
    melting_point: float | None = None
    #: Size r and surface q of UNIQUAC; the groups of the UNIFAC models by number, one mapping a form
    #: ("unifac", "dortmund", "liquid-liquid", "predictive").
    uniquac_r: float | None = None
    uniquac_q: float | None = None
    groups: dict[str, dict[int, int]] = field(default_factory=dict, hash=False, compare=False)
    synonyms: tuple[str, ...] = ()
    own_curves: tuple[OwnCurve, ...] = ()
    sources: dict[str, str] = field(default_factory=dict, hash=False, compare=False)

    def __post_init__(self) -> None:
        for label, value in (
            ("molar mass", self.molar_mass),
            ("critical temperature", self.critical_temperature),
            ("critical pressure", self.critical_pressure),
        ):
            if not 0.0 < value < 1e12:
                raise ValueError(f"{self.id}: the {label} must be positive, not {value!r}.")
        if not -1.0 < self.acentric_factor < 3.0:
            raise ValueError(f"{self.id}: an acentric factor lies between -1 and 3, not {self.acentric_factor!r}.")
        if not self.name:
            object.__setattr__(self, "name", self.id)
        if self.vapour_pressure is None:
            object.__setattr__(self, "vapour_pressure", lee_kesler(self.critical_temperature))


def lee_kesler(critical_temperature: float) -> VapourPressure:
    """The corresponding-states estimate of Lee and Kesler (1975), believed from 0.5 to 1 times the critical temperature."""
    return VapourPressure(3, (0.0,) * 5, 0.5 * critical_temperature, critical_temperature, "estimated, Lee, Kesler 1975")
