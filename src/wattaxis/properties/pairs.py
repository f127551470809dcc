"""What is known of every pair of a list of components, and gases that are dissolved by Henry's law.

A gas above its critical temperature has no vapour pressure to refer an activity coefficient to. Where its Henry constant is known it takes the place:
the gas gets the constant in one solvent as its reference, and its pair with every other solvent the difference, so that each binary has its own
constant at infinite dilution and the mixture stays one excess Gibbs energy, consistent by itself.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from wattaxis.properties import layout
from wattaxis.properties.registry import LocalModel, ModelKind, PairValues
from wattaxis.substances import Component, bank_pair, component, henry_constant, henry_in_water

#: Components with a lower critical temperature (K) are dissolved gases in a liquid of an activity model.
GAS_BELOW = 200.0
HENRY_NAMES = ("ha", "hb", "he", "hf")
_WATER = "7732-18-5"


@dataclass(frozen=True)
class KnownPair:
    """Parameters of a pair by name, their source and their quality: "typed in", "measured fit" or "estimated"."""

    values: Mapping[str, float]
    source: str
    quality: str


def known_pairs(family: ModelKind, components: Sequence[Component], own: PairValues, *, bank: bool = True) -> dict[tuple[int, int], KnownPair]:
    """What is known of the pairs by the positions of their components, the lower first: own values, else the bank's, else Henry constants."""
    found = {}
    if bank:
        for j, second in enumerate(components):
            for i in range(j):
                known = _of_the_bank(family.info.key, components[i].cas, second.cas)
                if known is not None:
                    found[i, j] = known
    found |= {pair: KnownPair(values, "typed in", "typed in") for pair, values in own.items()}
    if bank and any(p.name == "ha" for p in family.info.parameters):
        found |= _dissolved(components, own)
    return found


#: Models whose parameters are near enough to take one's for the other where it has none: k_ij of the two cubic equations.
_ALIKE = {"soave-redlich-kwong": "peng-robinson", "peng-robinson": "soave-redlich-kwong"}


def _of_the_bank(model: str, first: str, second: str) -> KnownPair | None:
    """The bank's values of a pair, or those of a model like it, which are an estimate here."""
    known = bank_pair(model, first, second)
    if known is not None and known.doubt:
        return KnownPair(known.values, f"{known.source}; doubtful: {known.doubt}", "estimated")
    if known is not None:
        return KnownPair(known.values, known.source, known.quality)
    other = bank_pair(_ALIKE[model], first, second) if model in _ALIKE else None
    # What was fitted for one equation was fitted for the other too, where that met its data.
    return None if other is None or not other.tabled else KnownPair(other.values, f"taken from {_ALIKE[model].title()}: {other.source}", "estimated")


def _dissolved(components: Sequence[Component], own: PairValues) -> dict[tuple[int, int], KnownPair]:
    """Henry constants of every gas in every solvent, own ones left as they are."""
    gases = _gases(components, own)
    found = {}
    for i in gases:
        for s in range(len(components)):
            pair = min(i, s), max(i, s)
            if s in gases or "ha" in own.get(pair, {}):
                continue
            known = henry_constant(components[i], components[s])
            found[pair] = KnownPair(known.values, known.source, "estimated" if known.estimated else "measured fit")
    return found


def _gases(components: Sequence[Component], own: PairValues) -> set[int]:
    """Positions of the dissolved gases. One with own activity parameters and no own Henry constant stays what its author made it."""
    watery = any(c.cas == _WATER for c in components)
    found = {gas_of(components, *pair) for pair, values in own.items() if "ha" in values}
    spoken_for = {i for pair, values in own.items() if "ha" not in values and any(values.values()) for i in pair} - found
    for i, c in enumerate(components):
        if (
            i not in spoken_for
            and not own_vapour_pressure(c)
            and (c.critical_temperature < GAS_BELOW or (watery and henry_in_water(c.cas) is not None))
        ):
            found.add(i)
    return found if len(found) < len(components) else set()


def own_vapour_pressure(c: Component) -> bool:
    """Whether somebody gave a component a vapour pressure, which then is its reference and no Henry constant."""
    assert c.vapour_pressure is not None  # Component fills it in
    given = c.vapour_pressure.source
    return not c.vapour_pressure.estimated and (not c.from_bank or component(c.cas).vapour_pressure.source != given)  # type: ignore[union-attr]


def gas_of(components: Sequence[Component], i: int, j: int) -> int:
    """Which of a pair is the gas: the one of lower critical temperature."""
    return i if components[i].critical_temperature < components[j].critical_temperature else j


def place_gases(family: ModelKind, components: Sequence[Component], pairs: PairValues, par: np.ndarray, block: np.ndarray) -> set[int]:
    """Enter Henry constants into the packed parameters; the positions of the gases."""
    if not isinstance(family, LocalModel):
        return set()
    solvents: dict[int, list[tuple[int, np.ndarray]]] = {}
    for (i, j), values in sorted(pairs.items()):
        if "ha" in values:
            gas = gas_of(components, i, j)
            solvents.setdefault(gas, []).append((i + j - gas, np.array([values.get(name, 0.0) for name in HENRY_NAMES])))
    for gas, entries in solvents.items():
        first, reference = entries[0]
        base = family.gas_alone(par, gas, first)
        a, b, e, f = reference
        par[layout.PS_FORM, gas] = 1
        par[layout.PS0 : layout.PS0 + 5, gas] = a - base, b, e, f, 1.0
        par[layout.PS_LOW, gas], par[layout.PS_HIGH, gas] = 200.0, 700.0
        for solvent, henry in entries:
            difference = henry - reference
            difference[0] -= family.gas_alone(par, gas, solvent) - base
            family.place_gas(block, par, gas, solvent, difference)
    return set(solvents)
