"""Components that no bank has, estimated: from the groups of the molecule, from boiling point and density, from a distillation curve."""

from __future__ import annotations

import math
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache
from importlib.resources import files

import numpy as np

from wattaxis.substances.component import Component, HeatCapacity
from wattaxis.substances.formation import ELEMENT_ENTROPY, T_REF

ATM = 1.01325  # bar
WATER_15 = 999.1  # kg/m3 at 15 degC
#: kg/mol, IUPAC 2021, of the atoms that groups are made of.
ATOM = {
    "C": 0.012011, "H": 0.001008, "O": 0.015999, "N": 0.014007, "S": 0.03206, "F": 0.018998403, "Cl": 0.03545, "Br": 0.079904, "I": 0.12690447,
}  # fmt: skip
JOBACK = "estimated, Joback, Reid 1987"
LEE_KESLER = "estimated, Lee, Kesler 1975"
KESLER_LEE = "estimated, Kesler, Lee 1976"
RIAZI_DAUBERT = "estimated, Riazi, Daubert 1987"


@dataclass(frozen=True)
class Estimated:
    """A component whose constants are estimates, and what is to be said of them.

    >>> estimated = component_from_boiling("cut", 450.0, 790.0)
    >>> estimated.component.sources["Tc"]
    'estimated, Kesler, Lee 1976'
    """

    component: Component
    notes: tuple[str, ...] = ()


@dataclass(frozen=True)
class Cut:
    """A cut of a distillation curve: its share of the liquid volume and of the moles, and its pseudo-component.

    >>> cuts = cuts_from_distillation("N", [(0.0, 310.0), (0.5, 370.0), (1.0, 430.0)], 730.0, cuts=3)
    >>> [round(cut.volume_share, 3) for cut in cuts]
    [0.333, 0.333, 0.333]
    """

    volume_share: float
    mole_share: float
    density: float
    estimated: Estimated


@dataclass(frozen=True)
class JobackGroup:
    """A group of the method of Joback and Reid: its atoms and contributions; None where the method has none."""

    number: int
    name: str
    atoms: Mapping[str, int]
    values: tuple[float | None, ...]


@lru_cache(maxsize=1)
def joback_groups() -> dict[int, JobackGroup]:
    """The groups by number."""
    found = {}
    for row in files("wattaxis.substances").joinpath("joback.txt").read_text(encoding="utf-8").splitlines():
        if row.startswith("#"):
            continue
        number, name, atoms, *values = row.split("\t")
        counted = {symbol: int(count) for symbol, count in re.findall(r"([A-Z][a-z]?)(\d+)", atoms)}
        found[int(number)] = JobackGroup(int(number), name, counted, tuple(float(v) if v else None for v in values))
    return found


def component_from_groups(id: str, groups: Mapping[int, int], boiling_point: float | None = None) -> Estimated:
    """A component from the numbers of its Joback groups, with its normal boiling point (K) where that is known.

    Tc, Pc, Tb, enthalpy and Gibbs energy of formation and heat capacity by Joback, Reid (1987); the entropy from both and the elements; the
    acentric factor by Lee, Kesler (1975). Raises ValueError for unknown groups, none at all, or ones without a contribution.

    >>> made = component_from_groups("acetone", {1: 2, 24: 1}).component
    >>> round(made.critical_temperature), round(made.critical_pressure / 1e5, 1), round(made.formation_enthalpy / 1e3, 1)
    (501, 48.0, -217.8)
    """
    table = joback_groups()
    counts = {number: count for number, count in groups.items() if count}
    if not counts or min(counts.values()) < 0:
        raise ValueError("A molecule needs at least one group, and no negative count.")
    unknown = [number for number in counts if number not in table]
    if unknown:
        raise ValueError(f"There is no group {unknown[0]}; there are 1 to {len(table)}.")
    lacking = [table[number].name for number in counts if None in table[number].values]
    if lacking:
        raise ValueError(f"The method has no full set of contributions for the group {lacking[0]}.")
    sums = [sum(count * float(table[number].values[k] or 0.0) for number, count in counts.items()) for k in range(9)]
    atoms: dict[str, int] = {}
    for number, count in counts.items():
        for symbol, each in table[number].atoms.items():
            atoms[symbol] = atoms.get(symbol, 0) + each * count
    notes = []
    tb = 198.2 + sums[2] if boiling_point is None else boiling_point
    bottom = 0.584 + 0.965 * sums[0] - sums[0] ** 2
    tc = tb / bottom
    pc = (0.113 + 0.0032 * sum(atoms.values()) - sums[1]) ** -2  # bar
    if not 0.4 < bottom < 0.95:
        notes.append("The molecule is larger than those that the method was made from: take its critical constants as rough.")
    hf, gf = 68.29 + sums[3], 53.88 + sums[4]
    s0 = (hf - gf) * 1e3 / T_REF + sum(count * ELEMENT_ENTROPY[symbol] for symbol, count in atoms.items())
    cp = HeatCapacity((sums[5] - 37.93, sums[6] + 0.210, sums[7] - 3.91e-4, sums[8] + 2.06e-7, 0.0), 280.0, 1000.0, JOBACK)
    formula = "".join(f"{symbol}{atoms[symbol] if atoms[symbol] > 1 else ''}" for symbol in sorted(atoms, key=lambda a: (a != "C", a != "H", a)))
    sources = dict.fromkeys(("Tc", "Pc", "Hf", "S0", "Cp"), JOBACK) | {"omega": LEE_KESLER, "MW": "IUPAC atomic weights"}
    sources["Tb"] = "given" if boiling_point is not None else JOBACK
    mass = sum(ATOM[symbol] * count for symbol, count in atoms.items())
    omega = acentric_factor(tb / tc, pc)
    made = Component(id, mass, tc, pc * 1e5, omega, cp, hf * 1e3, s0, formula=formula, boiling_point=tb, sources=sources)
    return Estimated(made, tuple(notes))


def component_from_boiling(id: str, boiling_point: float, density: float, molar_mass: float | None = None) -> Estimated:
    """A pseudo-component of a petroleum fraction from its normal boiling point (K) and its density at 15 degC (kg/m3), with its molar mass (kg/mol)
    where it is known.

    Tc, Pc and heat capacity of the ideal gas by Kesler, Lee (1976), molar mass by Riazi, Daubert (1987), acentric factor by Lee, Kesler (1975) or,
    above a reduced boiling point of 0.8, by Kesler, Lee (1976). Enthalpies count from the ideal gas at 298.15 K, since its formation is not known: it
    must not react. Raises ValueError for values that no liquid fraction has.

    >>> made = component_from_boiling("heptane-like", 371.6, 688.0).component
    >>> round(made.critical_temperature), round(made.critical_pressure / 1e5, 1), round(made.molar_mass * 1e3)
    (540, 26.6, 100)
    """
    if not 250.0 <= boiling_point <= 1000.0:
        raise ValueError(f"A fraction boils between 250 and 1000 K, not at {boiling_point:g} K.")
    if not 500.0 <= density <= 1200.0:
        raise ValueError(f"The density at 15 degC lies between 500 and 1200 kg/m3, not at {density:g}.")
    t, s = boiling_point, density / WATER_15
    tc = 189.8 + 450.6 * s + (0.4244 + 0.1174 * s) * t + (0.1441 - 1.0069 * s) * 1e5 / t
    log_pc = (
        5.689
        - 0.0566 / s
        - (0.43639 + 4.1216 / s + 0.21343 / s**2) * 1e-3 * t
        + (0.47579 + 1.182 / s + 0.15302 / s**2) * 1e-6 * t**2
        - (2.4505 + 9.9099 / s**2) * 1e-10 * t**3
    )
    pc = math.exp(log_pc)
    mass = molar_mass if molar_mass is not None else _riazi_daubert_mass(t, s)
    watson = (1.8 * t) ** (1.0 / 3.0) / s
    reduced = t / tc
    omega = acentric_factor(reduced, pc)
    if reduced > 0.8:
        omega = -7.904 + 0.1352 * watson - 0.007465 * watson**2 + 8.359 * reduced + (1.408 - 0.01063 * watson) / reduced
    cp = _kesler_lee_heat_capacity(mass, watson, omega)
    notes = []
    if not 0.07 <= mass <= 0.7 or not 0.65 <= s <= 1.0:
        notes.append("Outside the fractions that the correlations were made from (70 to 700 g/mol, 650 to 1000 kg/m3): take the constants as rough.")
    notes.append("Its formation is not known: it may be heated, mixed and separated, but must not react.")
    sources = dict.fromkeys(("Tc", "Pc", "Cp"), KESLER_LEE) | {"Tb": "given", "omega": LEE_KESLER if reduced <= 0.8 else KESLER_LEE}
    sources["MW"] = "given" if molar_mass is not None else RIAZI_DAUBERT
    return Estimated(Component(id, mass, tc, pc * 1e5, omega, cp, boiling_point=t, sources=sources), tuple(notes))


def acentric_factor(reduced_boiling_point: float, critical_pressure: float) -> float:
    """From Tb/Tc and Pc (bar) by the vapour-pressure equation of Lee, Kesler (1975).

    >>> round(acentric_factor(0.6879, 27.36), 2)
    0.35
    """
    x = reduced_boiling_point
    top = -math.log(critical_pressure / ATM) - 5.92714 + 6.09648 / x + 1.28862 * math.log(x) - 0.169347 * x**6
    bottom = 15.2518 - 15.6875 / x - 13.4721 * math.log(x) + 0.43577 * x**6
    return top / bottom


def _riazi_daubert_mass(t: float, s: float) -> float:
    """kg/mol, Riazi, Daubert (1987)."""
    return float(42.965e-3 * math.exp(2.097e-4 * t - 7.78712 * s + 2.08476e-3 * t * s) * t**1.26007 * s**4.98308)


def _kesler_lee_heat_capacity(mass: float, watson: float, omega: float) -> HeatCapacity:
    """Ideal gas, in J/(g K) times g/mol."""
    a = (-1.41779 + 0.11828 * watson, -(6.99724 - 8.69326 * watson + 0.27715 * watson**2) * 1e-4, -2.2582e-6)
    b = (1.09223 - 2.48245 * omega, -(3.434 - 7.14 * omega) * 1e-3, -(7.2661 - 9.2561 * omega) * 1e-7)
    c = ((12.8 - watson) * (10.0 - watson) / (10.0 * omega)) ** 2
    first, second, third = ((x - c * y) * mass * 1e3 for x, y in zip(a, b, strict=True))
    return HeatCapacity((first, second, third, 0.0, 0.0), 255.0, 920.0, KESLER_LEE)


#: API-TDB (1992), procedure 3A1.1: TBP = a D86^b at each share distilled, temperatures in degR.
_D86 = {
    0.0: (0.9177, 1.0019), 0.1: (0.5564, 1.0900), 0.3: (0.7617, 1.0425), 0.5: (0.9013, 1.0176), 0.7: (0.8821, 1.0226), 0.9: (0.9552, 1.0110),
    0.95: (0.8177, 1.0355),
}  # fmt: skip


def true_boiling_points(points: Sequence[tuple[float, float]]) -> list[tuple[float, float]]:
    """A true boiling point curve from an ASTM D86 curve, (share of the volume distilled, K), at the shares of the correlation (API-TDB 1992).

    >>> [round(t, 1) for _, t in true_boiling_points([(0.0, 350.0), (0.5, 380.0), (0.95, 420.0)])][:3]
    [325.2, 354.4, 369.4]
    """
    shares, temperatures = _curve(points)
    found = []
    for share, (a, b) in _D86.items():
        if shares[0] - 1e-9 <= share <= shares[-1] + 1e-9:
            degrees = 1.8 * float(np.interp(share, shares, temperatures))
            found.append((share, a * degrees**b / 1.8))
    return found


def cuts_from_distillation(id: str, points: Sequence[tuple[float, float]], density: float, *, cuts: int = 6, astm: bool = False) -> list[Cut]:
    """Pseudo-components of equal volume from a true boiling point curve, or with ``astm`` from an ASTM D86 curve: (share of the volume distilled, K).

    ``density`` is the whole's at 15 degC (kg/m3); every cut has the same Watson factor, so that the volumes add up to it. Raises ValueError for a
    curve that does not rise or has too few points.

    >>> cuts = cuts_from_distillation("N", [(0.0, 310.0), (1.0, 430.0)], 730.0, cuts=2)
    >>> [cut.estimated.component.id for cut in cuts]
    ['N 67', 'N 127']
    """
    if not 1 <= cuts <= 40:
        raise ValueError("A curve is cut into 1 to 40 pieces.")
    shares, temperatures = _curve(true_boiling_points(points) if astm else points)
    edges = np.linspace(0.0, 1.0, cuts + 1)
    fine = [np.interp(np.linspace(edges[k], edges[k + 1], 21), shares, temperatures).mean() for k in range(cuts)]
    roots = np.cbrt(1.8 * np.array(fine))
    densities = density * roots / roots.mean()
    made = [component_from_boiling(f"{id} {t - 273.15:.0f}", float(t), float(d)) for t, d in zip(fine, densities, strict=True)]
    moles = np.array([d / (cuts * e.component.molar_mass) for d, e in zip(densities, made, strict=True)])
    moles = moles / moles.sum()
    return [Cut(1.0 / cuts, float(x), float(d), e) for x, d, e in zip(moles, densities, made, strict=True)]


def _curve(points: Sequence[tuple[float, float]]) -> tuple[np.ndarray, np.ndarray]:
    if len(points) < 2:
        raise ValueError("A distillation curve has two points at least.")
    ordered = sorted(points)
    shares, temperatures = (np.array(column, dtype=float) for column in zip(*ordered, strict=True))
    if shares[0] < 0.0 or shares[-1] > 1.0 or (np.diff(shares) <= 0.0).any() or (np.diff(temperatures) <= 0.0).any() or temperatures[0] <= 0.0:
        raise ValueError("The shares distilled lie between 0 and 1, and the temperature rises from each point to the next.")
    return shares, temperatures
