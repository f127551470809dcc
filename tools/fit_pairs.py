"""Fits the pairs that the bank lacks and writes ``more_pairs.txt``: k_ij of the cubic equations to the mixtures of GERG-2008, parameters of all
models among common liquids to UNIFAC (Dortmund). Run after the bank is written; takes most of an hour.

A k_ij of liquids ships only where one number can do it: both models mix at all compositions, and the bubble pressures agree. Of partly miscible
pairs (water with hydrocarbons) a bubble pressure says nothing of the k_ij, and alcohols with alkanes would part in two where they do not.

Kunz, Wagner 2012, J. Chem. Eng. Data 57, 3032, by CoolProp: only pairs whose reducing functions were fitted there count. Of two liquids the bubble
pressure is met; of water with a gas, where the aqueous side of GERG-2008 is poor, the fugacity of water in the gas.
"""

from __future__ import annotations

from collections.abc import Iterator
from itertools import combinations
from pathlib import Path

import CoolProp
import numpy as np
from CoolProp.CoolProp import get_mixture_binary_pair_data
from scipy.optimize import minimize_scalar

from wattaxis import FlashError, PropertyModel, State, component
from wattaxis.flowsheet.estimates import fitted_pair
from wattaxis.substances import Component
from wattaxis.substances.bank import bank_data

FILE = Path(__file__).resolve().parents[1] / "src" / "wattaxis" / "substances" / "more_pairs.txt"
HEAD = "# Pairs that the bank's tables lack, by tools/fit_pairs.py: model; CAS; CAS; quality; names=values; source, blank for those of groups.\n"
WATER = "7732-18-5"
CUBIC = ("peng-robinson", "soave-redlich-kwong")
#: Gases among which the mixtures of GERG-2008 rest on measurements; those of two hydrocarbons need no k_ij, or the tables have it.
GERG = (
    "methane", "nitrogen", "carbon dioxide", "ethane", "propane", "n-butane", "hydrogen", "oxygen", "carbon monoxide", "water", "hydrogen sulfide",
    "argon",
)  # fmt: skip
HYDROCARBONS = {"methane", "ethane", "propane", "butane"}
LIQUIDS = (
    "water", "methanol", "ethanol", "1-propanol", "2-propanol", "1-butanol", "2-butanol", "isobutanol", "tert-butanol", "ethylene glycol",
    "propylene glycol", "glycerol", "acetone", "butanone", "methyl isobutyl ketone", "cyclohexanone", "acetic acid", "formic acid", "propionic acid",
    "methyl acetate", "ethyl acetate", "n-butyl acetate", "vinyl acetate", "diethyl ether", "diisopropyl ether", "tetrahydrofuran", "1,4-dioxane",
    "acetonitrile", "dimethylformamide", "dimethyl sulfoxide", "n-pentane", "n-hexane", "n-heptane", "n-octane", "cyclohexane", "benzene", "toluene",
    "ethylbenzene", "p-xylene", "o-xylene", "m-xylene", "styrene", "cumene", "phenol", "chloroform", "dichloromethane", "chlorobenzene", "aniline",
    "acetaldehyde", "furfural", "methyl tert-butyl ether", "1-hexene", "acrylonitrile", "methyl methacrylate", "ammonia", "monoethanolamine",
)  # fmt: skip
#: Mole fractions of the lighter one in the liquid; reduced temperatures of the heavier one; highest pressure (Pa).
FRACTIONS, REDUCED, HIGHEST = (0.05, 0.2, 0.5, 0.8), (0.55, 0.65, 0.75, 0.85), 120e5
#: Gap of ln P that counts for a point that is not met at all.
UNMET = 0.3
#: Typical gap of ln P or of the fugacity of water up to which a fit is taken; mean gap of ln P between a cubic equation and the groups.
MET, MET_GROUPS = 0.03, 0.10
#: Where the two are compared, K and mole fractions; and by how much a k_ij gives way, so often, where the equation parts what mixes.
WARM, MIXED = (298.15, 333.15, 368.15), (0.02, 0.05, 0.1, 0.2, 0.35, 0.5, 0.65, 0.8, 0.9, 0.95, 0.98)
GIVEN_WAY = (0.0, 0.005, 0.01, 0.015, 0.02, 0.025, 0.03)


def in_table(kind: str, first: Component, second: Component) -> bool:
    """Whether the bank's own tables have the pair for a model."""
    return frozenset((first.cas, second.cas)) in bank_data()["pair_index"].get(kind, {})


def in_gerg(first: Component, second: Component) -> bool:
    """Whether the pair was fitted there: its reducing functions differ from those of no data."""
    if {first.name, second.name} <= HYDROCARBONS:
        return False
    names = ("betaT", "gammaT", "betaV", "gammaV", "F")
    for pair in ((first.cas, second.cas), (second.cas, first.cas)):
        try:
            values = [float(get_mixture_binary_pair_data(*pair, name)) for name in names]
            break
        except ValueError:
            continue
    else:
        return False
    return max(abs(v - 1.0) for v in values[:4]) > 1e-6 or values[4] != 0.0


def mixture(first: Component, second: Component) -> CoolProp.AbstractState:
    return CoolProp.AbstractState("HEOS", f"{first.cas}&{second.cas}")


def bubbles(first: Component, second: Component) -> list[tuple[float, float, float]]:
    """(T, fraction of the lighter, P) of bubble points by GERG-2008."""
    light, heavy = sorted((first, second), key=lambda c: c.critical_temperature)
    state, found = mixture(light, heavy), []
    for reduced in REDUCED:
        t = reduced * heavy.critical_temperature
        for x in FRACTIONS:
            state.set_mole_fractions([x, 1.0 - x])
            try:
                state.update(CoolProp.QT_INPUTS, 0.0, t)
            except ValueError:
                continue
            if 1e3 < state.p() < HIGHEST:
                found.append((t, x, state.p()))
    return found


def to_bubbles(kind: str, first: Component, second: Component) -> tuple[float, str] | None:
    """k_ij that meets the bubble pressures best, and the range."""
    light, heavy = sorted((first, second), key=lambda c: c.critical_temperature)
    points = bubbles(first, second)

    def gaps(k: float) -> list[float]:
        model = PropertyModel(kind, [light, heavy], {(light.id, heavy.id): {"kij": k}}, bank_pairs=False)
        found = []
        for t, x, p in points:
            try:
                found.append(min(abs(np.log(model.flash([x, 1.0 - x], T=t, VF=0.0).pressure / p)), UNMET))
            except FlashError:  # above the critical point of the cubic equation
                found.append(UNMET)
        return found

    def missed(k: float) -> float:
        return float(np.mean(gaps(k)))

    if len(points) < 4:
        return None
    grid = np.linspace(-0.3, 0.6, 46)
    near = grid[int(np.argmin([missed(k) for k in grid]))]
    best = minimize_scalar(missed, bounds=(near - 0.03, near + 0.03), method="bounded", options={"xatol": 1e-4})
    temperatures = [t for t, _, _ in points]
    typical = float(np.median(gaps(best.x)))
    text = f"bubble pressures of GERG-2008, {min(temperatures):.0f} to {max(temperatures):.0f} K, met within {100 * typical:.1f} % at the median"
    return (float(best.x), text) if typical < MET else None


def to_water(kind: str, gas: Component, water: Component) -> tuple[float, str] | None:
    """k_ij that meets the fugacity of water in the gas, 280 to 400 K, 20 to 100 bar, nearly dry."""
    state, wanted = mixture(gas, water), []
    z = [0.999, 0.001]
    for t in (280.0, 310.0, 350.0, 400.0):
        for p in (20e5, 60e5, 100e5):
            state.set_mole_fractions(z)
            state.specify_phase(CoolProp.iphase_gas)
            try:
                state.update(CoolProp.PT_INPUTS, p, t)
            except ValueError:
                continue
            if state.fugacity_coefficient(1) > 0.0:
                wanted.append((t, p, float(np.log(state.fugacity_coefficient(1)))))

    def missed(k: float) -> float:
        model = PropertyModel(kind, [gas, water], {(gas.id, water.id): {"kij": k}}, bank_pairs=False)
        return float(np.mean([abs(np.log(model.phase("vapour", t, p, z).fugacity_coefficients[1]) - ln) for t, p, ln in wanted]))

    if len(wanted) < 6:
        return None
    best = minimize_scalar(missed, bounds=(-0.4, 0.8), method="bounded", options={"xatol": 1e-4})
    text = f"water in the gas by GERG-2008, 280 to 400 K, 20 to 100 bar, met within {100 * best.fun:.1f} %; gas in water comes out too little"
    return (float(best.x), text) if best.fun < MET else None


def bubble_points(model: PropertyModel) -> Iterator[State]:
    """Bubble points over temperatures and compositions, up to 0.9 of the lower critical temperature. Raises FlashError."""
    for t in WARM:
        if t < 0.9 * min(c.critical_temperature for c in model.components):
            yield from (model.flash([x, 1.0 - x], T=t, VF=0.0) for x in MIXED)


def to_groups(kind: str, first: Component, second: Component) -> dict[str, float] | None:
    """Parameters that follow the groups; of a cubic equation None where no k_ij does."""
    fitted = dict(fitted_pair(kind, first, second))
    if kind not in CUBIC:
        return fitted
    try:
        groups = list(bubble_points(PropertyModel("unifac-dortmund", [first, second])))
        if not groups or any(state.second_liquid is not None for state in groups):
            return None
        for less in GIVEN_WAY:
            k = fitted["kij"] - less
            ours = list(bubble_points(PropertyModel(kind, [first, second], {(first.id, second.id): k})))
            if all(state.second_liquid is None for state in ours):
                gap = np.mean([abs(np.log(a.pressure / b.pressure)) for a, b in zip(ours, groups, strict=True)])
                return {"kij": k} if gap < MET_GROUPS else None
    except FlashError:
        pass
    return None


def main() -> None:
    """Both tables, rows sorted."""
    rows = []
    gases = [component(name) for name in GERG]
    for kind in CUBIC:
        for first, second in combinations(gases, 2):
            if in_table(kind, first, second) or not in_gerg(first, second):
                continue
            if WATER in (first.cas, second.cas):
                gas, water = (second, first) if first.cas == WATER else (first, second)
                found = to_water(kind, gas, water)
            else:
                found = to_bubbles(kind, first, second)
            print(kind, first.name, second.name, found, flush=True)
            if found is not None:
                rows.append(f"{kind};{first.cas};{second.cas};measured fit;kij={found[0]:.4f};fitted to {found[1]} (Kunz, Wagner 2012, by CoolProp)")
    liquids = [c for c in map(component, LIQUIDS) if c.groups.get("dortmund")]
    for kind in (*CUBIC, "nrtl", "uniquac", "wilson"):
        for first, second in combinations(liquids, 2):
            found = None if in_table(kind, first, second) else to_groups(kind, first, second)
            if found is not None:
                values = ",".join(f"{name}={value:.5g}" for name, value in found.items())
                rows.append(f"{kind};{first.cas};{second.cas};estimated;{values};")
        print(kind, len(rows), flush=True)
        FILE.write_text(HEAD + "\n".join(sorted(rows)) + "\n")


if __name__ == "__main__":
    main()
