"""What is known of one substance. SI units throughout; every value of the bank names its source."""

from __future__ import annotations

import math
from dataclasses import dataclass, field

#: The source of an acentric factor that meets the boiling point with the equation of Peng and Robinson, since those of the tables do not.
FITTED_OMEGA = "from the boiling point with Peng-Robinson"


def _five(coefficients: tuple[float, ...], what: str) -> None:
    if len(coefficients) != 5 or not all(math.isfinite(c) for c in coefficients):
        raise ValueError(f"{what} has five finite coefficients, those that its form lacks zero; not {coefficients!r}.")


@dataclass(frozen=True)
class HeatCapacity:
    """Ideal-gas heat capacity, J/(mol K): ``sum(coefficients[k] * T**k)`` between ``low`` and ``high`` (K), from ``middle`` on with ``above``.

    Outside the range the value at its end is kept; states there carry a finding.

    >>> HeatCapacity((30.0, 0.15, 0.0, 0.0, 0.0), low=200.0, high=1000.0).at(1200.0)
    180.0
    """

    coefficients: tuple[float, float, float, float, float]
    low: float = 50.0
    high: float = 1500.0
    source: str = "given"
    above: tuple[float, float, float, float, float] | None = None
    middle: float = math.inf

    def __post_init__(self) -> None:
        _five(self.coefficients, "A heat capacity")
        if self.above is not None:
            _five(self.above, "A heat capacity")
            if not self.low < self.middle < self.high:
                raise ValueError("The two parts of a heat capacity meet within its range.")

    def at(self, T: float) -> float:
        """J/(mol K) at T (K)."""
        inside = min(max(T, self.low), self.high)
        taken = self.coefficients if self.above is None or inside <= self.middle else self.above
        return sum(c * inside**power for power, c in enumerate(taken))


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

    def __post_init__(self) -> None:
        _five(self.coefficients, "A vapour pressure")
        if self.form not in (1, 2, 3, 4, 5):
            raise ValueError(f"A vapour pressure has a form of 1 to 5, not {self.form!r}.")

    @property
    def estimated(self) -> bool:
        """Whether it rests on critical constants instead of a measurement."""
        return self.form == 3 or self.source.startswith("estimated")

    def log_pressure(self, T: float, critical_temperature: float = 0.0, critical_pressure: float = 0.0, acentric_factor: float = 0.0) -> float:
        """ln(Psat/Pa) at T (K), by the formula alone, without a look at the range; the constants of the substance are for form 3.

        >>> round(VapourPressure(4, (23.2, 3835.2, -45.3, 0.0, 0.0), 280.0, 400.0).log_pressure(373.15), 2)
        11.5
        """
        a, b, c, d, e = self.coefficients
        if self.form == 1:
            return a + b / T + c * math.log(T) + d * float(T**e)
        if self.form == 4:
            return a - b / (T + c)
        if self.form == 3:
            x = T / critical_temperature
            simple = 5.92714 - 6.09648 / x - 1.28862 * math.log(x) + 0.169347 * x**6
            rest = 15.2518 - 15.6875 / x - 13.4721 * math.log(x) + 0.43577 * x**6
            return math.log(critical_pressure) + simple + acentric_factor * rest
        tc, pc = self.critical
        tau = max(1.0 - T / tc, 0.0)
        n, m = (2.5, 5.0) if self.form == 2 else (3.0, 6.0)
        return float(math.log(pc) + tc / T * (a * tau + b * tau**1.5 + c * tau**n + d * tau**m))


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
    #: a and b of Tsonopoulos' terms a/Tr**6 - b/Tr**8 of the second virial coefficient for polar substances.
    polar_virial: tuple[float, float] | None = None
    synonyms: tuple[str, ...] = ()
    own_curves: tuple[OwnCurve, ...] = ()
    sources: dict[str, str] = field(default_factory=dict, hash=False, compare=False)
    #: What the comparison of the bank's sources found: values that were passed over, contradictions that are left.
    doubts: tuple[str, ...] = field(default=(), hash=False, compare=False)
    #: Whether its constants are those of the bank, some of them replaced at most.
    from_bank: bool = False
    #: Whether it is only ever dissolved, such as a salt as a whole: its formation data are those of the solute and not of a gas.
    only_dissolved: bool = False

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
